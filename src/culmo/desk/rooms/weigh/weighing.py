"""What is known of the box in use for the Weigh room, brought up to date in the background."""

from collections.abc import Generator, Sequence
from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from culmo.core.paint.recipe import renaming
from culmo.core.palette.choose import SIZES, Choice
from culmo.core.palette.conditions import Conditions
from culmo.core.palette.ideas import Ideas
from culmo.core.palette.reach import Measure
from culmo.desk.rooms.weigh.mixes_model import Mixes, Reach, best_of, thinking, weighing_reach, working_out
from culmo.desk.session import Session
from culmo.errors import CulmoError
from culmo.study.palette_acts import Wanted, wanted_lists
from culmo.words import tr

STOPPED = tr("stopped; click to look again")
_KEYS = ("mixes", "ideas", "reach", "choose")
Steps = Generator[float, None, None]


def considered_names(session: Session) -> frozenset[str]:
    """The folded names of the paints that are only considered and of which something is known."""
    index = session.learning.estimate.index if session.learning.estimate is not None else {}
    wished = (paint.name.casefold() for paint in session.paints if paint.status == "wished")
    return frozenset(name for name in wished if name in index)


def doubt_words(session: Session, names: Sequence[str]) -> str:
    """What is said where paints are known by their pigment codes only; empty where all were read."""
    typical = sum(name.casefold() in session.learning.unread for name in names)
    if not typical:
        return ""
    if typical == len(names):
        return "; " + tr("nothing is read yet: typical appearances of the pigments on the labels")
    return "; " + tr("{typical} of the paints not read yet: typical appearances", typical=typical)


class Weighing(QObject):
    """What is known of the box in use, brought up to date in the background when somebody looks."""

    mixes_ready = Signal()
    ideas_ready = Signal()
    reach_ready = Signal()
    choice_ready = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.mixes: Mixes | None = None
        self.ideas = Ideas({})
        self.reach: Reach | None = None
        self.conditions = Conditions()
        self.measure = Measure()
        self.list = ""
        self.considered = False
        self.choices: dict[int, Choice] = {}
        self.problems: dict[int, str] = {}
        self._about: object = None
        session.learning.learned.connect(self.forget)
        session.selection.box_changed.connect(self.forget)
        session.opened.connect(self._begin)
        session.renamed.connect(self._rename)
        session.stoppers.append(self.stop)

    def _begin(self) -> None:
        self.conditions, self.measure, self.list, self.considered = Conditions(), Measure(), "", False
        self.forget()

    def _rename(self, pairs: list[tuple[str, str]]) -> None:
        for old, new in pairs:
            self.conditions = self.conditions.renamed(renaming(old, new))
        self.forget()

    def forget(self) -> None:
        """The box or what is known of it has changed."""
        for key in _KEYS:
            self.session.runner.cancel(key)
        self.mixes, self.ideas, self.reach, self.choices, self.problems = None, Ideas({}), None, {}, {}

    @property
    def names(self) -> list[str]:
        """The paints of the box in use that may be mixed from; considered ones too where they may come in."""
        index = self.session.learning.estimate.index if self.session.learning.estimate is not None else {}
        owned = [paint.name for paint in self.session.selection.paints_in_use() if paint.status != "wished"]
        more = (
            [paint.name for paint in self.session.paints if paint.status == "wished"]
            if self.considered
            else []
        )
        return [name for name in (*owned, *more) if name.casefold() in index]

    # ---- the mixes

    def want_mixes(self) -> bool:
        """See to it that the mixes are there; says whether they are already."""
        session = self.session
        if self.mixes is not None:
            return True
        if session.learning.estimate is None or session.runner.busy("mixes") or not self.names:
            return False
        names = self.names
        labels = [session.learning.labels[name.casefold()] for name in names]
        estimate, light = session.learning.estimate, session.learning.light
        session.runner.start(
            "mixes",
            lambda: working_out(estimate, names, labels, light),
            self._have_mixes,
            self.session.failed.emit,
        )
        return False

    def stop(self) -> bool:
        """Break off what is being worked out; says whether there was anything."""
        runner = self.session.runner
        busy = [key for key in _KEYS if runner.busy(key)]
        for key in busy:
            runner.cancel(key)
        if busy:
            self.problems |= {size: STOPPED for size in self.sizes if size not in self.choices}
            self.choice_ready.emit(0)
        return bool(busy)

    def look_again(self) -> None:
        """After a stop, go on where it was broken off."""
        self.problems = {size: why for size, why in self.problems.items() if why != STOPPED}

    def _have_mixes(self, mixes: Mixes) -> None:
        self.mixes = mixes
        self.mixes_ready.emit()

    # ---- what is worth knowing

    def want_ideas(self, kinds: Sequence[str]) -> bool:
        """See to it that it is known which mixes of some kinds are worth knowing; says whether it is already."""
        session = self.session
        missing = [kind for kind in kinds if kind not in self.ideas.found]
        if not missing:
            return True
        if self.mixes is None:
            self.want_mixes()
            return False
        if session.learning.estimate is not None:  # what was looked for before is not looked at any more
            estimate, mixes, grains = (
                session.learning.estimate,
                self.mixes,
                session.learning.settled,
            )
            said = session.learning.known_paints.said
            session.runner.start(
                "ideas",
                lambda: thinking(estimate, mixes, grains, said, missing),
                self._have_ideas,
                session.failed.emit,
            )
        return False

    def _have_ideas(self, ideas: Ideas) -> None:
        self.ideas = self.ideas.with_more(ideas)
        self.ideas_ready.emit()

    # ---- what is reached

    def wanted(self) -> list[Wanted]:
        """The wanted colours of the list in use; empty where all colours count."""
        if not self.list or self.session.study is None:
            return []
        return wanted_lists(self.session.study).get(self.list, [])

    def want_reach(self) -> bool:
        """See to it that it is known what is reached; says whether it is already."""
        if self.reach is not None:
            return True
        if self.mixes is None:
            self.want_mixes()
            return False
        if not self.session.runner.busy("reach"):
            lattice, measure, wanted, name = self.mixes.lattice, self.measure, self.wanted(), self.list
            self.session.runner.start(
                "reach",
                lambda: weighing_reach(lattice, measure, wanted, name),
                self._have_reach,
                lambda why: self._fail(self.sizes, why),
            )
        return False

    def _have_reach(self, reach: Reach) -> None:
        self.reach = reach
        self.reach_ready.emit()

    # ---- the best few

    @property
    def sizes(self) -> list[int]:
        """The sizes that make sense for the box: 1 to 8 for wanted colours, else 3 to 8."""
        first = 1 if self.list else SIZES.start
        return [size for size in range(first, SIZES.stop) if size <= max(len(self.names), 1)]

    def want_choices(self) -> bool:
        """See to it that the best of each size is known; says whether all are already."""
        missing = [s for s in self.sizes if s not in self.choices and s not in self.problems]
        if not missing:
            return True
        if self.want_reach() and not self.session.runner.busy("choose"):
            self._choose(missing[0])
        return False

    def _choose(self, size: int) -> None:
        assert self.reach is not None and self.mixes is not None
        reach, kinds, conditions = self.reach, self.mixes.kinds, self.conditions
        self.session.runner.start(
            "choose",
            lambda: best_of(reach, kinds, conditions, size),
            lambda choice: self._have_choice(size, choice),
            lambda why: self._fail([size], why),
        )

    def _have_choice(self, size: int, choice: Choice) -> None:
        if choice.palettes:
            self.choices[size] = choice
        else:
            self.problems[size] = tr("time ran out before a palette was found")
        self.choice_ready.emit(size)

    def _fail(self, sizes: Sequence[int], why: str) -> None:
        self.problems |= dict.fromkeys(sizes, why)
        self.choice_ready.emit(sizes[0] if len(sizes) == 1 else 0)

    # ---- what is asked

    def set_conditions(self, conditions: Conditions) -> None:
        """Ask under other conditions."""
        if conditions != self.conditions:
            self.conditions = conditions
            self._ask_again()

    def set_considered(self, considered: bool) -> None:
        """Let paints that are only considered come in, or no longer."""
        if considered != self.considered:
            self.considered = considered
            if not considered:
                wished = considered_names(self.session)
                keep = tuple(name for name in self.conditions.keep if name.casefold() not in wished)
                self.conditions = replace(self.conditions, keep=keep)
            self.forget()
            self.choice_ready.emit(0)

    def set_measure(self, measure: Measure) -> None:
        """Count otherwise."""
        if measure != self.measure:
            self.measure = measure
            self.reach = None
            self.session.runner.cancel("reach")
            self._ask_again()

    def set_list(self, name: str) -> None:
        """Reach another list of wanted colours, or all colours where the name is empty."""
        self.list = name
        self.reach = None
        self.session.runner.cancel("reach")
        self._ask_again()

    def _ask_again(self) -> None:
        self.session.runner.cancel("choose")
        self.choices, self.problems = {}, {}
        self.choice_ready.emit(0)

    def places(self, names: Sequence[str]) -> list[int]:
        """Where paints stand in the tables; those that are not in the box are left out.

        Raises
        ------
        CulmoError
            while the mixes are not known yet
        """
        if self.mixes is None:
            raise CulmoError(tr("the mixes of the box are still being worked out"))
        index = {name.casefold(): i for i, name in enumerate(self.mixes.names)}
        return [index[name.casefold()] for name in names if name.casefold() in index]
