"""Recipes as a painter would take them: of those that the eye can not tell apart the simpler, safer, better known first."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.label import KEEPS, Label
from culmo.core.paint.pigments import CLEAR
from culmo.core.paint.predict import predict
from culmo.core.paint.recipe import Recipe
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.likeness import Substitute, compared, substitutes
from culmo.core.palette.match import Match, expected_miss, nearest_recipes
from culmo.errors import CulmoError
from culmo.words import listed, tr

NOTICE = 2.0  # CIEDE2000 that the eye hardly sees
_POOL = 24
_SIMPLE_PARTS = 0.1  # CIEDE2000 that one part less is worth, while recipes are sought
# what counts against a recipe, in units of CIEDE2000
_FARTHER, _A_LITTLE_FARTHER = 2.0, 0.15
_A_PAINT, _A_PART, _A_MISS, _UNREAD, _FADES = 1.0, 0.08, 0.3, 1.0, 2.0
_MOST_REASONS = 3


@dataclass(frozen=True)
class Wish:
    """What a recipe must be like.

    Attributes
    ----------
    most_paints : int, 1..3
    keep, avoid : tuples of str, paints that must be, or must not be, in it
    lightfast, transparent, single : bool, whether all of its paints must be
    notice : float, CIEDE2000, what is taken for the same
    """

    most_paints: int = 3
    keep: tuple[str, ...] = ()
    avoid: tuple[str, ...] = ()
    lightfast: bool = False
    transparent: bool = False
    single: bool = False
    notice: float = NOTICE

    def left_out(self, names: Sequence[str], labels: Mapping[str, Label]) -> list[str]:
        """The paints that may not be in it, each once; what is not known of a paint does not pass.

        Parameters
        ----------
        names : sequence of str, the paints that there are
        labels : from folded name to Label
        """
        out = dict.fromkeys(self.avoid)
        kept = {name.casefold() for name in self.keep}
        for name in names:
            label = labels.get(name.casefold())
            if label is not None and name.casefold() not in kept and not self._passes(label):
                out[name] = None
        return list(out)

    def _passes(self, label: Label) -> bool:
        return not (
            (self.lightfast and label.lightfastness not in KEEPS)
            or (self.transparent and label.transparency not in CLEAR)
            or (self.single and not label.single)
        )


@dataclass(frozen=True)
class Advised:
    """A recipe with why it stands where it does.

    Attributes
    ----------
    match : Match
    within : float, CIEDE2000, what nine in ten painted cells stay inside of
    expected : float, CIEDE2000, the square mean of what a hand misses the wanted colour by
    reasons : tuple of str
    """

    match: Match
    within: float
    expected: float
    reasons: tuple[str, ...]


def advise(
    estimate: Estimate,
    lattice: Lattice,
    target: Array,
    wish: Wish,
    labels: Mapping[str, Label],
    unread: Collection[str] = (),
    count: int = 7,
) -> list[Advised]:
    """Recipes for a wanted colour, in the order in which a painter would take them.

    The nearest of each set of paints are sought with one, two and three paints. Within what the eye notices nothing is
    gained by coming nearer: there fewer paints count, smaller parts, what a hand misses by, what was read, what keeps.

    Parameters
    ----------
    estimate : Estimate
    lattice : Lattice of the paints that may be mixed
    target : (3,) float, CIELAB
    wish : Wish
    labels : from folded name to Label
    unread : folded names of paints of which nothing pure was read
    count : int

    Raises
    ------
    CulmoError
        when no recipe can meet the wish
    """
    left_out = wish.left_out(lattice.names, labels)
    pool: dict[frozenset[str], Match] = {}
    for most in range(max(1, len(wish.keep)), wish.most_paints + 1):
        for match in nearest_recipes(
            lattice, target, most, _POOL, wish.keep, left_out, smaller=_SIMPLE_PARTS
        ):
            key = frozenset(match.recipe.names)
            if key not in pool or pool[key].away > match.away:
                pool[key] = match
    matches = list(pool.values())
    if not matches:
        raise CulmoError(tr("no recipe meets the conditions"))
    recipes = [match.recipe for match in matches]
    within, missed = predict(estimate, recipes).dE90, expected_miss(estimate, recipes, target)
    nearest = min(matches, key=lambda match: match.away)
    cost = [
        _cost(match, nearest.away, float(miss), wish.notice, labels, unread)
        for match, miss in zip(matches, missed, strict=True)
    ]
    order = np.argsort(cost, kind="stable")[:count]
    safest = int(order[int(np.argmin(missed[order]))])
    return [
        Advised(
            matches[i],
            float(within[i]),
            float(missed[i]),
            _reasons(matches[i], nearest, i == safest, wish.notice, labels, unread),
        )
        for i in map(int, order)
    ]


def _parts(recipe: Recipe) -> float:
    return sum(part.parts for part in recipe.layers[0].parts)


def _fading(recipe: Recipe, labels: Mapping[str, Label]) -> list[str]:
    """The paints of a recipe of which it is known that they do not keep."""
    known = [(name, labels.get(name.casefold())) for name in recipe.names]
    return [name for name, label in known if label is not None and label.lightfastness in ("fair", "poor")]


def _cost(
    match: Match,
    nearest: float,
    miss: float,
    notice: float,
    labels: Mapping[str, Label],
    unread: Collection[str],
) -> float:
    recipe, farther = match.recipe, match.away - nearest
    not_read = sum(name.casefold() in unread for name in recipe.names)
    return (
        _FARTHER * max(0.0, farther - notice)
        + _A_LITTLE_FARTHER * farther
        + _A_PAINT * len(recipe.names)
        + _A_PART * (_parts(recipe) - len(recipe.names))
        + _A_MISS * miss
        + _UNREAD * not_read
        + _FADES * len(_fading(recipe, labels))
    )


def _reasons(
    match: Match,
    nearest: Match,
    safest: bool,
    notice: float,
    labels: Mapping[str, Label],
    unread: Collection[str],
) -> tuple[str, ...]:
    recipe, farther = match.recipe, match.away - nearest.away
    said = []
    if match is nearest:
        said.append(tr("the nearest"))
    elif farther <= notice:
        said.append(tr("as near to the eye as the nearest"))
    else:
        said.append(tr("seen to be farther than the nearest"))
    fewer = len(nearest.recipe.names) - len(recipe.names)
    if fewer > 0:
        said.append(tr("a paint less") if fewer == 1 else tr("two paints less"))
    elif _parts(recipe) + 3 <= _parts(nearest.recipe):
        said.append(tr("simpler parts"))
    if safest:
        said.append(tr("safest for a hand that errs"))
    fading = _fading(recipe, labels)
    if fading:
        said.append(tr("{what} does not keep", what=listed(fading)))
    not_read = [name for name in recipe.names if name.casefold() in unread]
    if not_read:
        said.append(tr("{what} was not read yet", what=listed(not_read)))
    return tuple(said[:1] + said[1:][-(_MOST_REASONS - 1) :])


# ---- by the label


@dataclass(frozen=True)
class Rebuilt:
    """A ready-made mixture, from the single pigments that stand on its label.

    Attributes
    ----------
    found : tuple of Substitute, the nearest first; empty where a pigment is missing
    paints : tuple of str, the painter's own that are used
    missing : tuple of str, codes of which there is no single-pigment paint
    why : str, how it stays unlike where it comes no nearer, such as "softer, deeper"; empty where it comes near
    """

    found: tuple[Substitute, ...]
    paints: tuple[str, ...]
    missing: tuple[str, ...]
    why: str = ""


_NEAR_ENOUGH = 3.0


def rebuild_by_label(
    lattice: Lattice,
    colours: Array,
    washes: Sequence[float],
    codes: Sequence[str],
    own: Mapping[str, Sequence[str]],
    paint: str = "",
) -> Rebuilt | None:
    """A ready-made mixture mixed from one's own paints of the pigments on its label; None where it names but one.

    Parameters
    ----------
    lattice : Lattice
    colours : (w, 3) float, what the mixture looks like at the washes
    washes : sequence of w float, falling from 1
    codes : sequence of str, on its label
    own : from the names of paints that may be used to their codes
    paint : str, the mixture itself, which is not used
    """
    if len(codes) < 2:
        return None
    chosen: dict[str, str] = {}
    for code in codes:
        alone = [
            name for name, theirs in own.items() if len(theirs) == 1 and name.casefold() != paint.casefold()
        ]
        same = [name for name in alone if own[name][0] == code]
        kin = [name for name in alone if own[name][0].partition(":")[0] == code.partition(":")[0]]
        if same or kin:
            chosen[code] = (same or kin)[0]
    missing = tuple(code for code in codes if code not in chosen)
    paints = tuple(dict.fromkeys(chosen.values()))
    if len(paints) < 2:
        return Rebuilt((), paints, missing)
    others = [name for name in lattice.names if name not in paints]
    found = tuple(substitutes(lattice, colours, washes, others, 3))
    why = ""
    if found and found[0].mean > _NEAR_ENOUGH:
        best = found[0]
        full = np.array(colours[0], dtype=float)
        why = compared(best.full, full, 0.0)
    return Rebuilt(found, paints, missing, why)


# ---- painted mixes for a whole list


@dataclass(frozen=True)
class Served:
    """A wanted colour and the painted mix that comes nearest to it.

    Attributes
    ----------
    place : int, of the wanted colour
    painted : int, of the mix
    away : float, CIEDE2000
    """

    place: int
    painted: int
    away: float


def served_by(wanted: Array, painted: Array) -> list[Served]:
    """The painted mix that serves each wanted colour best.

    Parameters
    ----------
    wanted : (m, 3) float
    painted : (n, 3) float, as read

    Returns
    -------
    list of Served, in the order of the wanted colours; empty where nothing was painted
    """
    if not len(wanted) or not len(painted):
        return []
    away = delta_e_00(np.asarray(wanted)[:, None], np.asarray(painted)[None])
    return [Served(i, int(row.argmin()), float(row.min())) for i, row in enumerate(away)]


def most_useful(wanted: Array, painted: Array, limit: float, count: int = 8) -> list[tuple[int, int]]:
    """Which painted mixes serve most of a list: each next serves most of what those before it do not.

    Parameters
    ----------
    wanted, painted : as `served_by`
    limit : float, CIEDE2000, within which a colour is served
    count : int, how many at most

    Returns
    -------
    list of (mix, how many it serves besides)
    """
    if not len(wanted) or not len(painted):
        return []
    away = delta_e_00(np.asarray(wanted)[:, None], np.asarray(painted)[None])
    serves, left = away <= limit, np.ones(len(wanted), dtype=bool)
    found: list[tuple[int, int]] = []
    while len(found) < count and left.any():
        gains = (serves & left[:, None]).sum(axis=0)
        # of equally useful ones that which lies nearer
        nearness = np.where(serves & left[:, None], away, 0.0).sum(axis=0)
        best = int(np.lexsort((nearness, -gains))[0])
        if not gains[best]:
            break
        found.append((best, int(gains[best])))
        left &= ~serves[:, best]
    return found
