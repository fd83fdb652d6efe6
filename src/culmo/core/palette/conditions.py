"""Conditions on a palette: which paints may be in it, which must, of which kinds one must be there."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np

from culmo.core.paint.label import KEEPS, Label
from culmo.core.paint.pigments import CLEAR
from culmo.core.paint.recipe import Rename
from culmo.core.palette.lattice import places_of
from culmo.core.palette.mixer import FULL_AT, MIDDLE_AT, PairTable, chroma_of
from culmo.core.palette.roles import find_roles
from culmo.errors import CulmoError
from culmo.words import listed, tr


class Having(StrEnum):
    """Whether a set has something, has not, or may."""

    ANY = ""
    WITH = "with"
    WITHOUT = "without"


_DARK_L, _DARK_CHROMA = 40.0, 16.0
_FAMILIES = ("yellow", "red", "blue")


@dataclass(frozen=True)
class Conditions:
    """What a palette must be like.

    Attributes
    ----------
    keep, avoid : tuples of str, names of paints
    lightfast, transparent, single : bool, only lightfast, only transparent, only single-pigment paints
    white, dark : "", "with" or "without"
    pairs : bool, a warm and a cool one of each primary
    """

    keep: tuple[str, ...] = ()
    avoid: tuple[str, ...] = ()
    lightfast: bool = False
    transparent: bool = False
    single: bool = False
    white: str = Having.ANY
    dark: str = Having.ANY
    pairs: bool = False

    def renamed(self, rename: Rename) -> "Conditions":
        """The same with every paint's name put through `rename`."""
        return replace(self, keep=tuple(map(rename, self.keep)), avoid=tuple(map(rename, self.avoid)))


@dataclass(frozen=True)
class Kinds:
    """What is known of the paints of a box for conditions.

    Attributes
    ----------
    names : tuple of n str
    labels : tuple of n Label
    whites, darks : frozensets of int
    biased : mapping from "warm yellow" and the like to places
    """

    names: tuple[str, ...]
    labels: tuple[Label, ...]
    whites: frozenset[int] = frozenset()
    darks: frozenset[int] = frozenset()
    biased: Mapping[str, frozenset[int]] = field(default_factory=dict)


def kinds_of(table: PairTable, labels: Sequence[Label]) -> Kinds:
    """The whites, the darks and the warm and cool primaries of a box, by their usual tests.

    A primary counts as warm or cool by the test that it passes better, measured against the best of its family.

    Parameters
    ----------
    table : PairTable of n paints
    labels : n Labels
    """
    ranking = find_roles(table)
    whites = frozenset(places_of(table.names, [entry.paint for entry in ranking["white"]]))
    alone = table.alone
    grey = chroma_of(alone[:, MIDDLE_AT]) < _DARK_CHROMA
    darks = frozenset(int(i) for i in np.flatnonzero((alone[:, FULL_AT, 0] < _DARK_L) & grey))
    biased: dict[str, frozenset[int]] = {}
    for family in _FAMILIES:
        scores = {}
        for side in ("warm", "cool"):
            found = ranking[f"{side} {family}"]
            top = max((entry.score for entry in found), default=1.0)
            scores[side] = {entry.paint: entry.score / top for entry in found}
        for side, other in (("warm", "cool"), ("cool", "warm")):
            own = [name for name, score in scores[side].items() if score >= scores[other].get(name, 0.0)]
            first = [entry.paint for entry in ranking[f"{side} {family}"][:1]]
            biased[f"{side} {family}"] = frozenset(places_of(table.names, [*own, *first]))
    return Kinds(table.names, tuple(labels), whites, darks, biased)


@dataclass(frozen=True)
class Resolved:
    """Conditions as places of paints.

    Attributes
    ----------
    keep, avoid : tuples of int
    one_of : tuple of tuples of int
    """

    keep: tuple[int, ...]
    avoid: tuple[int, ...]
    one_of: tuple[tuple[int, ...], ...]

    def lets(self, paints: Sequence[int], out: int | None = None, into: int | None = None) -> bool:
        """Whether a palette may be changed so: what is kept stays, what is left out stays out, no kind is lost.

        Parameters
        ----------
        paints : the palette before
        out, into : int, what goes and what comes; None for nothing
        """
        if into in self.avoid or out in self.keep:
            return False
        before = set(paints)
        after = (before - {out}) | ({into} if into is not None else set())
        return all(after & set(kind) or not before & set(kind) for kind in self.one_of)


def _places(kinds: Kinds, names: Sequence[str], what: str) -> list[int]:
    index = {name.casefold(): i for i, name in enumerate(kinds.names)}
    for name in names:
        if name.strip().casefold() not in index:
            raise CulmoError(tr('{what} "{name}": there is no such paint', what=what, name=name))
    return places_of(kinds.names, names)


def _banned(kinds: Kinds, conditions: Conditions) -> dict[str, set[int]]:
    """Each condition that leaves paints out, in words, with those that it leaves out."""
    result: dict[str, set[int]] = {}
    labels = list(enumerate(kinds.labels))
    if conditions.avoid:
        result[tr("the paints left out")] = set(_places(kinds, conditions.avoid, tr("leave out")))
    if conditions.lightfast:
        result[tr("only lightfast")] = {i for i, label in labels if label.lightfastness not in KEEPS}
    if conditions.transparent:
        result[tr("only transparent")] = {i for i, label in labels if label.transparency not in CLEAR}
    if conditions.single:
        result[tr("single pigments")] = {i for i, label in labels if len(label.codes) != 1}
    if conditions.white == Having.WITHOUT:
        result[tr("no white")] = set(kinds.whites)
    if conditions.dark == Having.WITHOUT:
        result[tr("no dark")] = set(kinds.darks)
    return result


def _wanted(kinds: Kinds, conditions: Conditions) -> dict[str, set[int]]:
    """Each condition that asks for one of some paints, in words."""
    result: dict[str, set[int]] = {}
    if conditions.white == Having.WITH:
        result[tr("a white")] = set(kinds.whites)
    if conditions.dark == Having.WITH:
        result[tr("a dark")] = set(kinds.darks)
    if conditions.pairs:
        result |= {tr("a {side}", side=tr(side)): set(places) for side, places in kinds.biased.items()}
    return result


def rules_of(kinds: Kinds, conditions: Conditions) -> Resolved:
    """Conditions as places, whether or not a palette can meet them all; names that are not in the box are passed over.

    Parameters
    ----------
    kinds : Kinds
    conditions : Conditions
    """
    there = {name.casefold() for name in kinds.names}

    def known(names: Sequence[str]) -> tuple[str, ...]:
        return tuple(name for name in names if name.strip().casefold() in there)

    conditions = replace(conditions, keep=known(conditions.keep), avoid=known(conditions.avoid))
    out = set().union(*_banned(kinds, conditions).values())
    wanted = _wanted(kinds, conditions).values()
    return Resolved(
        tuple(sorted(set(places_of(kinds.names, conditions.keep)))),
        tuple(sorted(out)),
        tuple(tuple(sorted(places - out)) for places in wanted),
    )


def resolve(kinds: Kinds, conditions: Conditions, size: int) -> Resolved:
    """Conditions as places; says which one to drop where they leave no palette.

    Parameters
    ----------
    kinds : Kinds
    conditions : Conditions
    size : int, how many paints

    Raises
    ------
    CulmoError
        when a name is unknown, or no palette of that size can meet the conditions
    """
    n = len(kinds.names)
    if size < 1:
        raise CulmoError(tr("a palette of {size} paints is none; the least is 1", size=size))
    if size > n:
        raise CulmoError(tr("{size} paints are wanted and the box has {n}", size=size, n=n))
    keep = _places(kinds, conditions.keep, "keep")
    banned, wanted = _banned(kinds, conditions), _wanted(kinds, conditions)
    out = set().union(*banned.values()) if banned else set()
    for place in keep:
        why = [words for words, places in banned.items() if place in places]
        if why:
            raise CulmoError(
                tr(
                    '"{value}" is to be kept, but {why} leaves it out; drop one of the two',
                    value=kinds.names[place],
                    why=why[0],
                )
            )
    if len(set(keep)) > size:
        raise CulmoError(
            tr("{n} paints are to be kept, which is more than {size}", n=len(set(keep)), size=size)
        )
    if n - len(out) < size:
        raise CulmoError(_which_to_drop(n, size, banned))
    for words, places in wanted.items():
        if not places:
            raise CulmoError(tr("{words} is wanted, and the box has none; drop that condition", words=words))
        if not places - out:
            why = [text for text, some in banned.items() if places & some]
            raise CulmoError(
                tr(
                    "{words} is wanted, but {what} leave none; drop one of them",
                    words=words,
                    what=listed(why),
                )
            )
    return Resolved(
        tuple(sorted(set(keep))), tuple(sorted(out)), tuple(tuple(sorted(p - out)) for p in wanted.values())
    )


def _which_to_drop(n: int, size: int, banned: Mapping[str, set[int]]) -> str:
    left = n - len(set().union(*banned.values()))
    gains = []
    for words in banned:
        rest = [places for other, places in banned.items() if other != words]
        gains.append((n - len(set().union(*rest)) if rest else n, words))
    most, words = max(gains)
    text = tr("the conditions leave {left} of {n} paints, and {size} are wanted", left=left, n=n, size=size)
    if most >= size:
        return tr('{what}; without "{words}" there would be {most}', what=text, words=words, most=most)
    return tr(
        '{what}; even without "{words}" there would be only {most}: ask for fewer paints',
        what=text,
        words=words,
        most=most,
    )
