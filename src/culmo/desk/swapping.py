"""One paint swapped for another, before and after: in a palette, and in the mixes of a planned sheet."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from culmo.core.chart.renaming import swapped_plan
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.names import apart_words
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import hex_from_lab
from culmo.core.paint.recipe import Recipe, spoken_recipe
from culmo.core.palette.choose import with_each
from culmo.core.palette.conditions import Conditions, rules_of
from culmo.core.palette.finding import NOTICE
from culmo.core.palette.match import nearest_recipes
from culmo.core.palette.swap import exchanged, turned
from culmo.desk.rooms.plan.model import texts_of
from culmo.desk.rooms.weigh.fewer_model import reached, share_text
from culmo.desk.rooms.weigh.mixes_model import Mixes, Reach
from culmo.desk.session import Session
from culmo.errors import CulmoError
from culmo.study.palette_acts import Wanted
from culmo.words import listed, tr, trn

Chips = tuple[tuple[float, float, float], ...]
_MOST_CHIPS = 40
_TELLS = 0.5  # CIEDE2000: nearer or farther by less is not told
_SAME = 1.0  # and so near that the eye sees the wanted colour either way


@dataclass(frozen=True)
class SwapRow:
    """What is shown in a row.

    Attributes
    ----------
    words : str, what the row is of, and what becomes of it
    before, after : tuples of CIELAB
    said_before, said_after : str, what stands beside the chips
    """

    words: str
    before: Chips
    after: Chips
    said_before: str = ""
    said_after: str = ""


@dataclass(frozen=True)
class SwapView:
    """A swap, as it is shown.

    Attributes
    ----------
    summary : str
    before, after : str, the heads of the two columns
    rows : tuple of SwapRow, the largest change first
    key : str, what the chips are, where that must be said
    """

    summary: str
    before: str
    after: str
    rows: tuple[SwapRow, ...] = ()
    key: str = ""


class Swapping(Protocol):
    """Where a paint may be swapped.

    Attributes
    ----------
    verb : str, what the button says that brings the swap about
    why_not : str, why it can not be brought about; empty where it can
    """

    verb: str
    why_not: str

    def outs(self) -> list[str]:
        """The paints that may go."""

    def ins(self, out: str) -> list[tuple[str, str]]:
        """The paints that may come for one, each with a remark."""

    def view(self, out: str, into: str) -> SwapView:
        """Before and after."""

    def bring(self, out: str, into: str) -> None:
        """Bring the swap about."""


def _chips(labs: Array) -> Chips:
    return tuple((float(lab[0]), float(lab[1]), float(lab[2])) for lab in labs[:_MOST_CHIPS])


class SheetSwap:
    """A paint of a sheet, swapped in all of its mixes.

    Parameters
    ----------
    session : Session
    sheet : Sheet
    begin : function that begins a sheet in the Plan room: of its kind's key, and options as they would be typed
    """

    def __init__(self, session: Session, sheet: Sheet, begin: Callable[..., bool]) -> None:
        self.session, self.sheet, self.begin = session, sheet, begin
        self.recipes = [cell.recipe for cell in sheet.cells if session.learning.knows(cell.recipe)]
        self.verb = tr("Plan it so")
        names = self.outs()
        plans = bool(names) and swapped_plan(sheet, names[0], names[0]) is not None
        self.why_not = (
            "" if plans else tr("This sheet is made from others; it can be looked at, not planned.")
        )

    def outs(self) -> list[str]:
        return list(dict.fromkeys(name for recipe in self.recipes for name in recipe.names))

    def ins(self, out: str) -> list[tuple[str, str]]:
        here = {name.casefold() for cell in self.sheet.cells for name in cell.recipe.names}
        index = self.session.learning.estimate.index if self.session.learning.estimate is not None else {}
        return [
            (paint.name, tr("considered") if paint.status == "wished" else "")
            for paint in self.session.paints
            if paint.name.casefold() in index and paint.name.casefold() not in here
        ]

    def _look(self, recipes: Sequence[Recipe]) -> Array:
        prediction = self.session.learning.predict(recipes)
        if prediction is None:
            raise CulmoError(tr("Nothing is known of one of the paints yet."))
        return prediction.lab

    def view(self, out: str, into: str) -> SwapView:
        found = exchanged(self.recipes, out, into, self._look)
        rows = tuple(
            SwapRow(
                apart_words(one.away),
                _chips(one.was[None]),
                _chips(one.now[None]),
                spoken_recipe(one.before),
                spoken_recipe(one.after),
            )
            for one in found
        )
        seen = sum(one.away >= NOTICE for one in found)
        summary = trn(
            "{seen} of {n} mix becomes visibly another colour, as predicted.",
            "{seen} of {n} mixes become visibly other colours, as predicted.",
            len(found),
            seen=seen,
        )
        return SwapView(summary, tr("With {name}", name=out), tr("With {name}", name=into), rows)

    def bring(self, out: str, into: str) -> None:
        plan = swapped_plan(self.sheet, out, into)
        if plan is not None:
            title = tr("{title}, {into} for {out}", title=self.sheet.title, into=into, out=out)
            self.begin(plan.kind.key, **{**texts_of(plan), "title": title})


class PaletteSwap:
    """A paint of a palette, swapped for another of the box.

    Parameters
    ----------
    paints : sequence of str, the palette
    mixes : Mixes
    reach : Reach
    wanted : sequence of Wanted, the colours that are to be reached; empty for all
    conditions : Conditions, which a swap does not break
    considered : collection of str, folded names of paints that are only considered
    take : function that makes the swap: of what goes and what comes
    """

    def __init__(
        self,
        paints: Sequence[str],
        mixes: Mixes,
        reach: Reach,
        wanted: Sequence[Wanted],
        conditions: Conditions,
        considered: frozenset[str],
        take: Callable[[str, str], None],
    ) -> None:
        self.paints, self.mixes, self.reach, self.wanted = list(paints), mixes, reach, list(wanted)
        self.rules, self.considered, self.take = rules_of(mixes.kinds, conditions), considered, take
        self.verb, self.why_not = tr("Take the change"), ""

    def _places(self, names: Sequence[str]) -> list[int]:
        return [self.mixes.names.index(name) for name in names]

    def _swapped(self, out: str, into: str) -> list[str]:
        return [into if name == out else name for name in self.paints]

    def outs(self) -> list[str]:
        return [name for name in self.paints if self.ins(name)]

    def ins(self, out: str) -> list[tuple[str, str]]:
        places, gone = self._places(self.paints), self.mixes.names.index(out)
        worth = with_each(self.reach.value, [place for place in places if place != gone])
        free = [
            place
            for place in range(len(self.mixes.names))
            if place not in places and self.rules.lets(places, gone, place)
        ]
        free.sort(key=lambda place: -worth[place])
        names = [self.mixes.names[place] for place in free]
        return [(name, tr("considered") if name.casefold() in self.considered else "") for name in names]

    def view(self, out: str, into: str) -> SwapView:
        before, after = self._places(self.paints), self._places(self._swapped(out, into))
        rows, summary = (
            self._wanted_rows(before, after) if self.reach.wanted else self._kind_rows(before, after)
        )
        key = tr("left: wanted    right: the nearest mix") if self.reach.wanted and rows else ""
        return SwapView(summary, self._head(out, before), self._head(into, after), rows, key)

    def _head(self, name: str, places: Sequence[int]) -> str:
        share = share_text(self.reach, places, self.reach.value.of(places))
        return tr("With {name}: {share}", name=name, share=share)

    def _kind_rows(self, before: list[int], after: list[int]) -> tuple[tuple[SwapRow, ...], str]:
        turns = turned(self.reach.table, reached(self.reach, before), reached(self.reach, after))
        rows = []
        for turn in turns:
            parts = [tr("{n} lost", n=turn.lost)] if turn.lost else []
            parts += [tr("{n} gained", n=turn.gained)] if turn.gained else []
            rows.append(
                SwapRow(
                    f"{turn.words}\n{listed(parts)}",
                    _chips(turn.before), _chips(turn.after), str(len(turn.before)), str(len(turn.after)),
                )
            )  # fmt: skip
        lost = [
            turn.words
            for turn in sorted(turns, key=lambda turn: turn.gained - turn.lost)
            if turn.lost > turn.gained
        ]
        won = [
            turn.words
            for turn in sorted(turns, key=lambda turn: turn.lost - turn.gained)
            if turn.gained > turn.lost
        ]
        said = [tr("Loses most of {what}.", what=listed(lost[:2]))] if lost else []
        said += [tr("Gains most of {what}.", what=listed(won[:2]))] if won else []
        return tuple(rows), " ".join(said) or tr("Nothing that counts is lost or gained.")

    def _wanted_rows(self, before: list[int], after: list[int]) -> tuple[tuple[SwapRow, ...], str]:
        assert self.reach.wanted is not None
        was, now = self.reach.wanted.nearest(before), self.reach.wanted.nearest(after)
        rows = []
        for place in np.argsort(-np.abs(now - was), kind="stable"):
            if abs(now[place] - was[place]) < _TELLS:
                break
            colour = self.wanted[place]
            (said, lab, off), (said_now, lab_now, off_now) = (
                self._nearest(colour, places) for places in (before, after)
            )
            if max(off, off_now) < _SAME:
                continue
            name = colour.name or hex_from_lab(np.array(colour.lab))
            rows.append(
                SwapRow(
                    f"{name}\n{tr('farther') if now[place] > was[place] else tr('nearer')}",
                    (colour.lab, *_chips(lab[None])),
                    (colour.lab, *_chips(lab_now[None])),
                    f"{said}\n{apart_words(off)}",
                    f"{said_now}\n{apart_words(off_now)}",
                )
            )
        tolerance = self.reach.wanted.tolerance
        lost, won = (
            int(((was <= tolerance) & (now > tolerance)).sum()),
            int(((was > tolerance) & (now <= tolerance)).sum()),
        )
        if not rows:
            return (), tr("No wanted colour comes visibly nearer or farther.")
        if not lost and not won:
            return tuple(rows), tr(
                "None of the wanted colours is lost or gained; some come nearer or farther."
            )
        return tuple(rows), tr("{lost} of the wanted colours lost, {won} gained.", lost=lost, won=won)

    def _nearest(self, colour: Wanted, places: Sequence[int]) -> tuple[str, Array, float]:
        use = {self.mixes.names[place] for place in places}
        avoid = [name for name in self.mixes.names if name not in use]
        match = nearest_recipes(self.mixes.lattice, np.array(colour.lab), min(3, len(use)), 1, (), avoid)[0]
        return spoken_recipe(match.recipe), match.lab, match.away

    def bring(self, out: str, into: str) -> None:
        self.take(out, into)
