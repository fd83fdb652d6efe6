"""What has been learned of the paints, for the window: learned anew in the background, predicted from, drawn with."""

import logging
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from culmo.desk.known_paints import KnownPaints
from culmo.errors import CulmoError
from culmo.words import tr, trn

# what computes is loaded with the first study, so that the window is there before
if TYPE_CHECKING:
    from pathlib import Path

    from culmo.core.capture.settle import KnownBefore
    from culmo.core.paint.estimate import Estimate
    from culmo.core.paint.grain import Foretold, Grains
    from culmo.core.paint.label import Label
    from culmo.core.paint.predict import Prediction
    from culmo.core.paint.recipe import Recipe
    from culmo.core.paint.why import ColourDoubt
    from culmo.desk.drawing.looks import Looks
    from culmo.desk.session import Session
    from culmo.study.file import Change, Command, Row
    from culmo.study.learned import Learned
    from culmo.study.told import Told

JOB = "learn"
_TELLING = frozenset(
    {"strokes", "cells", "runs", "sheets", "papers"}
)  # the tables that tell of readings besides


def _waiting_words(waiting: int, all_of_them: int) -> str:
    return trn(
        "{n} paint of {all} waits: it is neither read nor in a box nor on a sheet. Take it in hand, and it is learned",
        "{n} paints of {all} wait: they are neither read nor in a box nor on a sheet. Take one in hand, and it is learned",
        waiting,
        all=all_of_them,
    )


class Learning(QObject):
    """What the readings teach.

    Attributes
    ----------
    estimate : Estimate, or None while nothing is known
    looks : Looks, how its paints and mixes are drawn; or None
    unread : set of folded names of paints of which nothing pure was read
    unknown : set of folded names of paints of which nothing at all is known
    waiting : set of folded names of paints that are not learned, since there are more than can be
    read_places : from folded name to the washes and grounds in which a paint was read alone
    read_mixes : set of frozenset of folded names, the mixes that were read
    light : int, 0 daylight, 1 a warm lamp, 2 a cool LED
    flat : bool, whether washes are drawn as plain colour
    folder : Path, where what was learned is kept between two days; or None
    grains : Grains, how paints settle as patches showed it; or None
    """

    learned = Signal()

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._session = session
        self.known_paints = KnownPaints(session)
        self.folder: Path | None = None
        self.flat, self.light = False, 0
        self.unread: set[str] = set()
        self.read_places: dict[str, set[tuple[float, str]]] = {}
        self.read_mixes: set[frozenset[str]] = set()
        self._taught_by: tuple[list[tuple[str, str]], list[Row]] = [], []
        self.forget()

    def forget(self) -> None:
        """The study is let go of."""
        self.estimate: Estimate | None = None
        self.looks: Looks | None = None
        self.unknown: set[str] = set()
        self.waiting: set[str] = set()
        self._reading_rows: dict[int, Row] | None = None
        self._shots: dict[int, str] | None = None
        self._told: Told | None = None
        self._learned: Learned | None = None
        self.grains: Grains | None = None
        self.known_paints.forget()

    # ---- learning

    def learn(self) -> None:
        """Learn anew in the background; the old figures stand until then."""
        from culmo.study import records
        from culmo.study.learned import learning_from
        from culmo.study.patches import seen_textures
        from culmo.study.told import told, with_told
        from culmo.study.waiting import learned_and_waiting

        session = self._session
        if session.study is None:
            return
        everything = [(paint.name, paint.codes) for paint in records.paints(session.study, retired=True)]
        codes, waiting = learned_and_waiting(session.study, everything, session.selection.in_hand)
        if waiting and not self.waiting:
            session.told.emit(_waiting_words(len(waiting), len(everything)))
        self.waiting = {name.casefold() for name in waiting}
        if not codes:
            self.estimate, self.looks, self.unknown = None, None, set()
            self.known_paints.forget()
            self.learned.emit()
            return
        with session.guarded():
            if self._reading_rows is None:
                self._reading_rows = {row["id"]: row for row in records.reading_rows(session.study)}
            if self._told is None:
                self._told = told(session.study)
            if self._shots is None:
                self._shots = records.shots_of(session.study)
            in_order = [self._reading_rows[row_id] for row_id in sorted(self._reading_rows)]
            in_order = records.with_shots(in_order, self._shots)
            rows = with_told(in_order, self._told)
            earlier, folder = self.estimate, self.folder
            self._taught_by = codes, rows
            textures = seen_textures(session.study)
            said = self.known_paints.said if textures else None
            session.runner.start(
                JOB,
                lambda: learning_from(codes, rows, earlier, folder, textures, said),
                self._on_learned,
                session.failed.emit,
            )

    def knowledge(self) -> "KnownBefore | None":
        """What is known beside a picture that is read now; None where nothing was learned."""
        from culmo.core.capture.settle import KnownBefore
        from culmo.study.learned import knowledge_of
        from culmo.study.strips import strips_of

        strips = strips_of(self._session.file)
        if self.estimate is None:
            return KnownBefore(strips=strips) if strips else None
        codes, rows = self._taught_by
        return replace(knowledge_of(codes, rows, self.estimate), strips=strips)

    def stop(self) -> None:
        """Cancel the learning; the old figures stand."""
        self._session.runner.cancel(JOB)
        self._session.told.emit(tr("Learning was stopped; the figures are as before"))

    def keep(self) -> None:
        """What was learned is there at once on another day; while paints are being read it is not kept each time."""
        from culmo.study.learned import fingerprint, keep

        found, folder = self._learned, self.folder
        if found is not None and not found.kept and folder is not None and not self._session.runner.busy(JOB):
            try:
                keep(folder, replace(found, fingerprint=found.fingerprint or fingerprint(*self._taught_by)))
            except CulmoError as error:  # a full disk costs some seconds on another day, and nothing else
                logging.getLogger("culmo").warning("what was learned is not kept: %s", error)

    def says_how_deep(self, change: "Change") -> bool:
        """Whether a change says of a cell that was read that it came out paler or stronger, or no longer does."""
        from culmo.study.told import depth_in

        if change.table != "strokes" or self._reading_rows is None:
            return False
        before, after = (depth_in(row["marks"]) if row else "" for row in (change.before, change.after))
        cell = (change.after or change.before or {}).get("cell_id")
        return before != after and any(row.get("cell_id") == cell for row in self._reading_rows.values())

    def note_readings(self, command: "Command", forward: bool) -> None:
        """The readings as an act leaves them; ten thousand are not read from the file again for one."""
        from culmo.study.looks import looks_text, uncertainty_of
        from culmo.study.scraps import scrap_of

        if any(change.table in _TELLING for change in command.changes):
            self._told = None
        if any(change.table == "photos" for change in command.changes):
            self._shots = None
        for change in command.changes if forward else reversed(command.changes):
            if change.table == "readings" and self._reading_rows is not None:
                row = change.after if forward else change.before
                self._reading_rows.pop(change.id, None)
                if row is not None:
                    self._reading_rows[change.id] = {
                        **row,
                        "scrap": scrap_of(row),
                        "uncertainty": uncertainty_of(row),
                        "looks": looks_text(row),
                    }

    def rename(self, renamed: dict[str, str]) -> None:
        """Paints bear other names: what is known of them is known under these until it is learned anew.

        Parameters
        ----------
        renamed : dict from the old name to the new one
        """
        folded = {old.casefold(): new.casefold() for old, new in renamed.items()}

        def other(name: str) -> str:
            return folded.get(name, name)

        self.unread = {other(name) for name in self.unread}
        self.unknown = {other(name) for name in self.unknown}
        self.waiting = {other(name) for name in self.waiting}
        self.read_places = {other(name): places for name, places in self.read_places.items()}
        self.read_mixes = {frozenset(other(name) for name in mix) for mix in self.read_mixes}
        if self.estimate is not None:
            called = tuple(renamed.get(name, name) for name in self.estimate.names)
            self._take(replace(self.estimate, names=called))

    def _on_learned(self, found: "Learned") -> None:
        self._learned = found
        self.unread, self.unknown = found.unread, found.unknown
        self.read_places, self.read_mixes = found.read_places, found.read_mixes
        self.grains = found.grains
        if self._session.study is not None:
            self._session.study.told_anew = found.told_anew
        self._take(found.estimate)

    def _take(self, estimate: "Estimate") -> None:
        self.estimate = estimate
        self.known_paints.forget()
        from culmo.core.colour.spectral import LIGHTS
        from culmo.desk.drawing.looks import Looks
        from culmo.study.patches import runs_of

        study = self._session.study
        runs = runs_of(study) if study is not None else {}
        self.looks = Looks(
            estimate, self.known_paints.grains, self.flat, LIGHTS[self.light], self.settled, runs
        )
        if not estimate.settled:
            self._session.told.emit(
                tr("The readings contradict each other: the figures did not settle, spreads are wide")
            )
        self.learned.emit()

    # ---- how it is looked at

    def set_flat(self, flat: bool) -> None:
        """Draw washes as plain colour, or as washes."""
        self.flat = flat
        if self.estimate is not None:
            self._take(self.estimate)

    def set_light(self, light: int) -> None:
        """Look at everything under another light: 0 daylight, 1 a warm lamp, 2 a cool LED."""
        self.light = light
        if self.estimate is not None:
            self._take(self.estimate)

    def redraw(self) -> None:
        """Draw everything anew in other greys."""
        if self._session.study is not None:
            self.learned.emit()

    # ---- what is known

    @property
    def labels(self) -> "dict[str, Label]":
        """What is known of each paint by own tests, label and table, by its folded name."""
        return self.known_paints.labels

    @property
    def weights(self) -> dict[int, float]:
        """The robust weight of each reading that teaches, by its id; empty while nothing is known."""
        return self._learned.weights if self._learned is not None else {}

    @property
    def settled(self) -> "Grains | None":
        """What patches taught of how the paints settle; None where none did, or a paint was renamed since."""
        fits = (
            self.grains is not None and self.estimate is not None and self.grains.names == self.estimate.names
        )
        return self.grains if fits else None

    def texture_of(self, recipe: "Recipe") -> "Foretold | None":
        """The grain that is foretold of one mix; None where no patch taught any, or a paint of it is not known."""
        from culmo.core.paint.grain import foretell

        if self.estimate is None or self.settled is None or not recipe.layers or not self.knows(recipe):
            return None
        return foretell(self.estimate, self.settled, [recipe])

    def knows(self, recipe: "Recipe") -> bool:
        """Whether every paint of a recipe is known to the present estimate."""
        if self.estimate is None or not recipe.layers:
            return False
        index = self.estimate.index
        return all(name.casefold() in index for name in recipe.names)

    def need_of(self, name: str) -> str:
        """What a paint needs before anything can be foretold of it, in words; empty where enough is known."""
        from culmo.core.paint.label import NEEDS

        if name.casefold() not in self.unknown:
            return ""
        return tr("Nothing is known of {name} yet: {needs}.", name=name, needs=NEEDS)

    def predict(
        self, recipes: "Sequence[Recipe]", grounds: "Sequence[str] | None" = None
    ) -> "Prediction | None":
        """Predictions, or None while nothing is known of a paint."""
        from culmo.core.paint.predict import predict

        if self.estimate is None or not all(self.knows(recipe) for recipe in recipes):
            return None
        return predict(self.estimate, recipes, grounds)

    def typical(self, recipe: "Recipe") -> bool:
        """Whether a recipe rests on a paint that the painter has not read."""
        return any(name.casefold() in self.unread for name in recipe.names)

    def doubt(self, recipe: "Recipe") -> "ColourDoubt | None":
        """Where the uncertainty of a recipe comes from; None while nothing is known."""
        from culmo.core.paint.why import explain

        if self.estimate is None or not self.knows(recipe):
            return None
        return explain(self.estimate, recipe, self.read_places, self.read_mixes)
