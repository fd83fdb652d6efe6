"""Which paint of a box does which job: warm and cool primaries, cyan, magenta and yellow, the darks, the white.

A role is judged by the mixes that it is for, as painters test it, and not by the paint's own hue.
"""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.paint.recipe import Recipe, mix
from culmo.core.palette.mixer import (
    FULL_AT,
    MIDDLE_AT,
    PairTable,
    chroma_of,
    hue_apart,
    hue_of,
)
from culmo.words import listed, mark, tr

# families by the hue angle of a middle wash, in degrees, and the least chroma
_FAMILIES = {"yellow": (70.0, 112.0, 30.0), "red": (335.0, 46.0, 24.0), "blue": (200.0, 306.0, 20.0)}
# what a mix must be to count as an orange, a green or a violet
MIXES = {"orange": (45.0, 75.0), "green": (125.0, 190.0), "violet": (288.0, 340.0)}
# a violet by which a cool red is judged lies well away from the red: near it any rose would do
_OF_ROLES = {**MIXES, "violet": (296.0, 322.0)}
# the hues of a middle wash that may be called warm and cool in each family, in degrees: a paint that leans to the other side
# does not fill a place, however well it does in the mix
_LEANING = {
    "warm yellow": (70.0, 93.0), "cool yellow": (84.0, 112.0), "warm red": (18.0, 46.0), "cool red": (335.0, 26.0),
    "warm blue": (258.0, 306.0), "cool blue": (200.0, 272.0),
}  # fmt: skip
# a mix this near in hue to one of its paints is that paint, not a test
_OWN_HUE_DEG = 14.0
_SECOND_BEST = (
    0.6  # a second paint of a family is given the other bias if it does at least this much of the work
)
_GREY_DARK = 12.0
_WHITE_L, _WHITE_CHROMA, _WHITE_COVER = 86.0, 9.0, 0.2


@dataclass(frozen=True)
class Role:
    """A job in a box.

    Attributes
    ----------
    key, title : str
    test : str, how painters try it
    """

    key: str
    title: str
    test: str


ROLES = (
    Role(mark("warm yellow"), tr("Warm yellow"), tr("makes a clean orange with a warm red")),
    Role(mark("cool yellow"), tr("Cool yellow"), tr("makes a clean green with a cool blue")),
    Role(mark("warm red"), tr("Warm red"), tr("makes a clean orange with a warm yellow")),
    Role(mark("cool red"), tr("Cool red"), tr("makes a clean violet with a warm blue")),
    Role(mark("warm blue"), tr("Warm blue"), tr("makes a clean violet with a cool red")),
    Role(mark("cool blue"), tr("Cool blue"), tr("makes a clean green with a cool yellow")),
    Role("yellow", tr("Yellow of three"), tr("makes both a clean green and a clean orange")),
    Role("magenta", tr("Magenta of three"), tr("makes both a clean orange and a clean violet")),
    Role("cyan", tr("Cyan of three"), tr("makes both a clean green and a clean violet")),
    Role("dark", tr("Dark paint"), tr("is the deepest alone, at a full wash")),
    Role("dark mix", tr("Dark mix"), tr("is the deepest dark of two, with hardly any colour left")),
    Role("white", tr("White"), tr("is pale and covers the black bar")),
)
_BY_KEY = {role.key: role for role in ROLES}


@dataclass(frozen=True)
class Candidate:
    """A paint for a role.

    Attributes
    ----------
    paint : str
    score : float, chroma of the test's mix (the lesser of two where there are two tests); lightness for the darks
    tests : tuple of Recipe, the mixes that show it; empty where there is nothing to try it with
    labs : tuple of (3,) float, their colours
    """

    paint: str
    score: float
    tests: tuple[Recipe, ...]
    labs: tuple[Array, ...]


@dataclass(frozen=True)
class Filled:
    """Who fills a role.

    Attributes
    ----------
    role : Role
    chosen : Candidate or None
    others : tuple of Candidate, the runners-up
    share : float, 0..1, how much of what a well-filled box reaches; 1 without a reference
    by_hand : bool, whether the painter overruled
    """

    role: Role
    chosen: Candidate | None
    others: tuple[Candidate, ...] = ()
    share: float = 1.0
    by_hand: bool = False


def within(hue: Array, low: float, high: float) -> Flags:
    """Whether hue angles lie between two, the circle taken into account."""
    return np.asarray((hue - low) % 360.0 <= (high - low) % 360.0)


class _Board:
    """The mixes of a box by what they are for."""

    def __init__(self, table: PairTable, unread: Collection[str]) -> None:
        self.table = table
        self.unread = {name.casefold() for name in unread}
        middle = table.alone[:, MIDDLE_AT]
        hue, chroma = hue_of(middle), chroma_of(middle)
        self.own_hue, self.own_chroma = hue, chroma
        self.family = {
            name: np.flatnonzero(within(hue, low, high) & (chroma >= least))
            for name, (low, high, least) in _FAMILIES.items()
        }
        self.best: dict[str, tuple[Array, Indices]] = {}
        hues, chromas = table.hue[:, :, MIDDLE_AT], table.chroma[:, :, MIDDLE_AT]
        parents = np.minimum(
            hue_apart(hues, hue[table.first][:, None]), hue_apart(hues, hue[table.second][:, None])
        )
        for name, (low, high) in _OF_ROLES.items():
            inside = np.where(within(hues, low, high) & (parents >= _OWN_HUE_DEG), chromas, 0.0)
            self.best[name] = (inside.max(axis=1, initial=0.0), inside.argmax(axis=1))

    def with_partner(self, paint: int, family: str, kind: str) -> tuple[float, Recipe | None, Array | None]:
        """The cleanest mix of a kind that a paint makes with any of a family."""
        partners = [int(j) for j in self.family[family] if j != paint]
        if not partners:
            return 0.0, None, None
        values, ratios = self.best[kind]
        pairs = [int(self.table.place[paint, j]) for j in partners]
        pair = pairs[int(np.argmax(values[pairs]))]
        if values[pair] <= 0.0:
            return 0.0, None, None
        ratio = int(ratios[pair])
        return (
            float(values[pair]),
            self.table.recipe(pair, ratio, MIDDLE_AT),
            self.table.lab[pair, ratio, MIDDLE_AT],
        )

    def candidate(self, paint: int, tests: Sequence[tuple[str, str]]) -> Candidate:
        """A paint with its tests, (family of the partner, kind of mix); where the box has no partner, by its own chroma."""
        there = [(family, kind) for family, kind in tests if any(j != paint for j in self.family[family])]
        if not there:
            return Candidate(self.table.names[paint], float(self.own_chroma[paint]), (), ())
        found = [self.with_partner(paint, family, kind) for family, kind in there]
        return Candidate(
            self.table.names[paint],
            min(score for score, _, _ in found),
            tuple(recipe for _, recipe, _ in found if recipe is not None),
            tuple(lab for _, _, lab in found if lab is not None),
        )

    def ranked(self, role: str, family: str, tests: Sequence[tuple[str, str]]) -> list[Candidate]:
        """The paints of a family by how they do; at the same figure one that was read comes before one that was not."""
        places = self.family[family]
        if role in _LEANING:
            places = places[within(self.own_hue[places], *_LEANING[role])]
        found = [self.candidate(int(i), tests) for i in places]
        return sorted(
            (entry for entry in found if entry.score > 0.0),
            key=lambda entry: (-round(entry.score), entry.paint.casefold() in self.unread, -entry.score),
        )


_BIASED = {
    "yellow": (("warm yellow", (("red", "orange"),)), ("cool yellow", (("blue", "green"),))),
    "red": (("warm red", (("yellow", "orange"),)), ("cool red", (("blue", "violet"),))),
    "blue": (("warm blue", (("red", "violet"),)), ("cool blue", (("yellow", "green"),))),
}  # fmt: skip
_THREE = {
    "yellow": ("yellow", (("blue", "green"), ("red", "orange"))),
    "magenta": ("red", (("yellow", "orange"), ("blue", "violet"))),
    "cyan": ("blue", (("yellow", "green"), ("red", "violet"))),
}  # fmt: skip


def find_roles(table: PairTable, unread: Collection[str] = ()) -> dict[str, list[Candidate]]:
    """The candidates of each role, the best first.

    Where a family has two paints or more, warm and cool go to different ones if the second does well enough.

    Parameters
    ----------
    table : PairTable
    unread : folded names of paints of which nothing pure was read
    """
    if len(table.names) == 0:
        return {role.key: [] for role in ROLES}
    board = _Board(table, unread)
    result: dict[str, list[Candidate]] = {}
    for family, sides in _BIASED.items():
        (first_key, first_tests), (second_key, second_tests) = sides
        first = board.ranked(first_key, family, first_tests)
        second = board.ranked(second_key, family, second_tests)
        result[first_key], result[second_key] = _apart(first, second)
    for key, (family, tests) in _THREE.items():
        result[key] = board.ranked(key, family, tests)
    result["dark"], result["dark mix"] = _darks(table)
    result["white"] = _whites(table)
    return result


def _apart(warm: list[Candidate], cool: list[Candidate]) -> tuple[list[Candidate], list[Candidate]]:
    """The same paint is not put first on both sides while another does the work nearly as well."""
    if not warm or not cool or warm[0].paint != cool[0].paint:
        return warm, cool
    options = []
    for side, ranking in ((0, warm), (1, cool)):
        if len(ranking) > 1:
            options.append((ranking[1].score / ranking[0].score, side))
    if not options or max(options)[0] < _SECOND_BEST:
        return warm, cool
    if max(options)[1] == 0:
        return [warm[1], warm[0], *warm[2:]], cool
    return warm, [cool[1], cool[0], *cool[2:]]


def _darks(table: PairTable) -> tuple[list[Candidate], list[Candidate]]:
    alone = [
        Candidate(name, float(table.alone[i, FULL_AT, 0]), (mix([name]),), (table.alone[i, FULL_AT],))
        for i, name in enumerate(table.names)
    ]
    alone.sort(key=lambda entry: entry.score)
    mixes = []
    lightness = np.where(table.chroma[:, :, FULL_AT] < _GREY_DARK, table.lab[:, :, FULL_AT, 0], np.inf)
    if len(lightness):
        ratio = lightness.argmin(axis=1)
        depth = lightness.min(axis=1)
        for pair in np.argsort(depth, kind="stable")[:6]:
            if np.isfinite(depth[pair]):
                at = int(ratio[pair])
                recipe = table.recipe(int(pair), at, FULL_AT)
                lab = table.lab[int(pair), at, FULL_AT]
                mixes.append(Candidate(str(recipe), float(depth[pair]), (recipe,), (lab,)))
    return alone, mixes


def _whites(table: PairTable) -> list[Candidate]:
    found = []
    for i, name in enumerate(table.names):
        masstone = table.alone[i, FULL_AT]
        cover = (table.over_ink[i, 0] - table.ink[0]) / max(masstone[0] - table.ink[0], 1.0)
        if masstone[0] >= _WHITE_L and chroma_of(masstone) <= _WHITE_CHROMA and cover >= _WHITE_COVER:
            found.append(Candidate(name, float(100.0 * cover), (mix([name]),), (table.over_ink[i],)))
    return sorted(found, key=lambda entry: -entry.score)


def fill_roles(
    found: Mapping[str, list[Candidate]],
    reference: Mapping[str, float] | None = None,
    chosen: Mapping[str, str] | None = None,
) -> list[Filled]:
    """Each role with who fills it, the painter's own choice before what was found.

    Parameters
    ----------
    found : as `find_roles` gives it
    reference : from role to the score of a well-filled box
    chosen : from role to the paint that the painter put there
    """
    result = []
    for role in ROLES:
        ranking = found.get(role.key, [])
        filled = Filled(role, ranking[0] if ranking else None, tuple(ranking[1:4]))
        wanted = (chosen or {}).get(role.key, "").casefold()
        if wanted:
            by_hand = next((entry for entry in ranking if entry.paint.casefold() == wanted), None)
            entry = by_hand or Candidate((chosen or {})[role.key], 0.0, (), ())
            others = tuple(other for other in ranking if other.paint.casefold() != wanted)[:3]
            filled = Filled(role, entry, others, by_hand=True)
        result.append(replace(filled, share=_share(filled, reference or {})))
    return result


def _share(filled: Filled, reference: Mapping[str, float]) -> float:
    usual = reference.get(filled.role.key)
    if filled.chosen is None:
        return 0.0
    if usual is None or filled.role.key == "white":
        return 1.0
    if filled.role.key in ("dark", "dark mix"):
        return float(np.clip((60.0 - filled.chosen.score) / max(60.0 - usual, 1.0), 0.0, 1.0))
    return float(np.clip(filled.chosen.score / max(usual, 1.0), 0.0, 1.0))


def reference_scores(table: PairTable) -> dict[str, float]:
    """The best score of each role in a box that has everything.

    Parameters
    ----------
    table : PairTable of the well-filled box
    """
    return {key: ranking[0].score for key, ranking in find_roles(table).items() if ranking}


def worst_filled(filled: Sequence[Filled]) -> Filled | None:
    """The role that is filled worst; white is left out, since for many the paper is the white.

    Parameters
    ----------
    filled : sequence of Filled
    """
    counted = [entry for entry in filled if entry.role.key != "white" and not entry.by_hand]
    return min(counted, key=lambda entry: entry.share) if counted else None


def role_sentence(filled: Filled, title: Callable[[Recipe], str] = str) -> str:
    """Why a paint fills a role, in a sentence.

    Parameters
    ----------
    filled : Filled
    title : function that words a recipe
    """
    entry = filled.chosen
    if entry is None:
        return tr(
            "left empty: no paint of the box {test} as clearly as it should",
            test=_BY_KEY[filled.role.key].test,
        )
    if filled.by_hand and not entry.tests:
        return tr("your choice; it does not pass the usual test")
    if not entry.tests:
        return tr(
            "there is no partner in this box to try it with; chroma {score:.0f} by itself", score=entry.score
        )
    if filled.role.key in ("dark", "dark mix"):
        reason = tr("L {score:.0f} at a full wash", score=entry.score)
    elif filled.role.key == "white":
        reason = tr("covers {score:.0f} % of the bar", score=entry.score)
    else:
        tests = listed([title(recipe.with_wash(1.0)) for recipe in entry.tests])
        reason = tr("{tests}: chroma {score:.0f}", tests=tests, score=entry.score)
    return tr("your choice; {reason}", reason=reason) if filled.by_hand else reason
