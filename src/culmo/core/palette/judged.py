"""A box or a bought set judged: what it does well, what is weak, what might take its place, what others are worth."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.doubts import Caution, Doubt
from culmo.core.paint.label import KEEPS, Label
from culmo.core.paint.pigments import CLEAR, Pigment, codes_in
from culmo.core.palette.missing import SECTORS, fullness, table_reach
from culmo.core.palette.mixer import FULL_AT, TINT_AT, PairTable
from culmo.core.palette.roles import Filled
from culmo.words import listed, tr

_GRAVE = (Doubt.FUGITIVE, Doubt.CONTRADICTED, Doubt.MISNAMED, Doubt.MANY)
_CLEAR_ROLES = ("warm yellow", "cool yellow", "warm red", "cool red", "warm blue", "cool blue")
_WELL, _QUIET, _NONE = 0.9, 0.62, 0.25
_LIKE = 18.0  # CIEDE2000, mean of masstone and tint, within which a pigment may take a paint's place
_NEAR = 12.0
_MOST_CODES = 3
_COVERS_MUCH = 0.3  # share of the black bar
_LEAST_CHROMA = 12.0


@dataclass(frozen=True)
class Weak:
    """A paint that is weak, and what might take its place.

    Attributes
    ----------
    name : str
    reasons : tuple of str
    codes : tuple of str, single lightfast pigments that look most like it, the nearest first
    considered : str, of the painter's own considered paints the one that comes nearest; empty where none does
    away : float, CIEDE2000 of that one, mean of masstone and tint
    double : bool, whether it is weak only in that another paint of the box hardly differs
    """

    name: str
    reasons: tuple[str, ...]
    codes: tuple[str, ...]
    considered: str = ""
    away: float = float("nan")
    double: bool = False


@dataclass(frozen=True)
class WorthOfSet:
    """What one considered paint is worth.

    Attributes
    ----------
    name : str
    gain : float, the fullness that it adds to the box
    instead_of : str, the paint whose place it might take best
    then : float, the fullness that the box gains or loses by that
    """

    name: str
    gain: float
    instead_of: str
    then: float


@dataclass(frozen=True)
class Verdict:
    """A set judged.

    Attributes
    ----------
    well : tuple of str, what it does well
    quiet : tuple of str, hues that are there and muted
    lacks : tuple of str, hues that are not there clean
    weak : tuple of Weak
    worth : tuple of WorthOfSet, the considered paints, the best first
    """

    well: tuple[str, ...]
    quiet: tuple[str, ...]
    lacks: tuple[str, ...]
    weak: tuple[Weak, ...]
    worth: tuple[WorthOfSet, ...]

    @property
    def character(self) -> str:
        """What the set is like, in a sentence that is no reproach."""
        if self.quiet and self.lacks:
            return tr(
                "Quiet {quiet}, no clean {lacks}.", quiet=listed(self.quiet[:4]), lacks=listed(self.lacks[:4])
            )
        if self.quiet:
            return tr("Quiet {quiet}.", quiet=listed(self.quiet[:4]))
        if self.lacks:
            return tr("No clean {lacks}.", lacks=listed(self.lacks[:4]))
        return tr("Clean in every hue.")


def judge(
    table: PairTable,
    inside: Sequence[str],
    wished: Sequence[str],
    labels: Mapping[str, Label],
    cautions: Mapping[str, Sequence[Caution]],
    filled: Sequence[Filled],
    reference: Array,
    pigments: Mapping[str, Pigment],
    twins: Sequence[tuple[str, str]] = (),
) -> Verdict:
    """Judge a set.

    Parameters
    ----------
    table : PairTable of the paints inside and of those that are considered
    inside, wished : sequences of str, their names
    labels : from folded name to Label
    cautions : from name to what is to be doubted
    filled : sequence of Filled, the roles
    reference : (12, 3) float, what a well-filled box reaches
    pigments : from code to Pigment
    twins : pairs of paints that are alike: the one to keep, and the other
    """
    index = {name: place for place, name in enumerate(table.names)}
    places = [index[name] for name in inside if name in index]
    reach = table_reach(table, places)
    well, quiet, lacks = _hues(reach, reference)
    good = [
        tr("{role}: {paint}", role=entry.role.title, paint=entry.chosen.paint)
        for entry in filled
        if entry.role.key in _CLEAR_ROLES and entry.chosen is not None and entry.share >= _WELL
    ]
    weak = []
    owned = {code for name in inside for code in labels[name.casefold()].codes}
    for name in inside:
        reasons = [caution.words for caution in cautions.get(name, ()) if caution.kind in _GRAVE]
        reasons += _veils(name, filled, labels)
        double = next((kept for kept, other in twins if other == name and kept in inside), "")
        twin = [tr("hardly differs from {other}: one of the two is enough", other=double)] if double else []
        if reasons and name in index:
            reasons += twin
            weak.append(_replaced(table, index, name, wished, owned, labels, pigments, tuple(reasons)))
        elif twin:  # it is weak in nothing else: what looks like it would be double again
            weak.append(Weak(name, tuple(twin), (), double=True))
    return Verdict(
        (*good, *well), quiet, lacks, tuple(weak), _worths(table, index, places, wished, reach, reference)
    )


def _hues(reach: Array, reference: Array) -> tuple[tuple[str, ...], tuple[str, ...], tuple[str, ...]]:
    """The hues that are clean, those that are muted, and those that are not there, by their best band of lightness."""
    ratio = np.where(reference > _LEAST_CHROMA, reach / np.maximum(reference, 1.0), 0.0).max(axis=1)
    names = [tr(sector) for sector in SECTORS]
    clean = [name for name, value in zip(names, ratio, strict=True) if value >= _WELL]
    well = [tr("clean {hues}", hues=listed(clean))] if 0 < len(clean) < len(names) else []
    if len(clean) == len(names):
        well = [tr("clean in every hue")]
    quiet = [name for name, value in zip(names, ratio, strict=True) if _NONE <= value < _QUIET]
    lacks = [name for name, value in zip(names, ratio, strict=True) if value < _NONE]
    return tuple(well), tuple(quiet), tuple(lacks)


def _veils(name: str, filled: Sequence[Filled], labels: Mapping[str, Label]) -> list[str]:
    """A paint that covers where a clear one is wanted."""
    label = labels[name.casefold()]
    number = label.facts["transparency"].number
    if label.transparency != "opaque" and not (
        label.transparency == "semi-opaque" and number >= _COVERS_MUCH
    ):
        return []
    jobs = [
        entry.role.title
        for entry in filled
        if entry.role.key in _CLEAR_ROLES and entry.chosen is not None and entry.chosen.paint == name
    ]
    return [tr("covers, where a clear paint is wanted: {what}", what=listed(jobs))] if jobs else []


def _replaced(
    table: PairTable,
    index: Mapping[str, int],
    name: str,
    wished: Sequence[str],
    owned: set[str],
    labels: Mapping[str, Label],
    pigments: Mapping[str, Pigment],
    reasons: tuple[str, ...],
) -> Weak:
    own = table.alone[index[name]][[FULL_AT, TINT_AT]]
    mine = set(codes_in(" ".join(labels[name.casefold()].codes)))
    fitting = [
        code
        for code, pigment in pigments.items()
        if pigment.lightfastness in KEEPS and pigment.sure != "rough" and code not in owned | mine
    ]
    looks = np.array([[pigments[code].masstone, pigments[code].tint] for code in fitting])
    away = delta_e_00(looks, own[None]).mean(axis=1)
    # a clear pigment before one that covers as much
    cost = away + np.array([0.0 if pigments[code].transparency in CLEAR else 4.0 for code in fitting])
    near = [int(i) for i in np.argsort(cost, kind="stable")[:_MOST_CODES] if away[i] < _LIKE]
    there = [other for other in wished if other in index]
    best, least = "", float("nan")
    if there:
        apart = [
            float(delta_e_00(table.alone[index[other]][[FULL_AT, TINT_AT]], own).mean()) for other in there
        ]
        place = int(np.argmin(apart))
        if apart[place] < _NEAR:
            best, least = there[place], apart[place]
    return Weak(name, reasons, tuple(fitting[i] for i in near), best, least)


def _worths(
    table: PairTable,
    index: Mapping[str, int],
    places: Sequence[int],
    wished: Sequence[str],
    reach: Array,
    reference: Array,
) -> tuple[WorthOfSet, ...]:
    before = fullness(reach, reference)
    found = []
    for name in wished:
        if name not in index:
            continue
        own = index[name]
        gain = fullness(table_reach(table, [*places, own]), reference) - before
        best, then = "", float("-inf")
        for place in places:
            rest = [*(other for other in places if other != place), own]
            value = fullness(table_reach(table, rest), reference) - before
            if value > then:
                best, then = table.names[place], value
        found.append(WorthOfSet(name, gain, best, then))
    return tuple(sorted(found, key=lambda entry: -entry.gain))
