"""What the Find page works out: recipes, what to add to a puddle, likenesses, what goes with it, what was painted."""

from collections.abc import Callable, Collection, Generator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.grain import Grains, grains_by
from culmo.core.paint.label import Label
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import FULL, TINT, Recipe, mix
from culmo.core.paint.texture import apart_with_texture
from culmo.core.paint.texture_words import USUAL, Limits
from culmo.core.palette.finding import (
    Advised,
    Rebuilt,
    Served,
    Wish,
    advise,
    most_useful,
    rebuild_by_label,
    served_by,
)
from culmo.core.palette.idea import Settling
from culmo.core.palette.ideas import settlings_of
from culmo.core.palette.lattice import Lattice
from culmo.core.palette.likeness import Resemblance, Substitute, resembles, substitutes
from culmo.core.palette.match import Touch, find_places, fitting_groups, touches
from culmo.core.palette.schemes import Companion, scheme
from culmo.data import pigment_table
from culmo.desk.rooms.weigh.settling import GrainWish, settles_so
from culmo.errors import CulmoError
from culmo.words import capital, tr

Lab = tuple[float, float, float]
OUT_OF_REACH = 4.0
SERVES = 5.0  # CIEDE2000, within which a painted mix serves for a wanted colour
_LISTED, _LOOKED_AT = 7, 60
_WASHES = (FULL, 0.5, TINT)


@dataclass(frozen=True)
class PaintedCell:
    """A mix as it was read.

    Attributes
    ----------
    recipe : Recipe
    lab : (L, a, b)
    texture : tuple of contrast and parting, CIELAB, as a picture shows it; None where none does
    """

    recipe: Recipe
    lab: Lab
    texture: tuple[float, float] | None = None


@dataclass(frozen=True)
class Sought:
    """What is looked for.

    Attributes
    ----------
    lab : (L, a, b)
    name : str, empty for a bare colour
    paint : str, a paint of the box that is to be replaced; empty for none
    code : str, a pigment of the table that one does not own; empty for none
    cell : PaintedCell, the cell that is looked for; None where it is none
    """

    lab: Lab
    name: str = ""
    paint: str = ""
    code: str = ""
    cell: PaintedCell | None = None

    @property
    def texture(self) -> tuple[float, float] | None:
        """Contrast and parting that are looked for, CIELAB; None where no picture shows any."""
        return self.cell.texture if self.cell is not None else None


@dataclass(frozen=True)
class Alike:
    """A mix that was painted and looks like what is looked for.

    Attributes
    ----------
    painted : PaintedCell
    away : float, CIEDE2000
    apart : float, with what its texture differs by, where both are known
    """

    painted: PaintedCell
    away: float
    apart: float


@dataclass(frozen=True)
class Answer:
    """What was found.

    Attributes
    ----------
    sought : Sought
    advised : list of Advised, in the order in which a painter would take them
    settlings : list of Settling, how each of them is foretold to lie on the paper
    painted : list of Alike, what was painted and is near, the most alike first
    instead : list of Substitute, for a paint over its whole range
    rebuilt : Rebuilt or None, a ready-made mixture by its label
    adds : list of Touch, from the puddle
    puddle : Recipe or None
    like : list of Resemblance, of the first mix, or of the puddle
    like_of : Recipe or None
    companions : list of Companion
    problem : str, why there are no recipes; empty where there are
    """

    sought: Sought
    advised: list[Advised]
    settlings: list[Settling]
    painted: list[Alike]
    instead: list[Substitute]
    rebuilt: Rebuilt | None
    adds: list[Touch]
    puddle: Recipe | None
    like: list[Resemblance]
    like_of: Recipe | None
    companions: list[Companion]
    problem: str = ""

    @property
    def words(self) -> str:
        """How near it comes, in a sentence."""
        if not self.advised:
            return (
                f"{capital(self.problem)}."
                if self.problem
                else tr("Nothing can be mixed under these conditions.")
            )
        away = min(entry.match.away for entry in self.advised)
        if away > OUT_OF_REACH:
            return tr("Out of reach of these paints: the nearest mix still differs by {away:.1f}.", away=away)
        near = tr("to the eye the same") if away < 1.0 else tr("very near") if away < 2.0 else tr("near")
        return tr("The nearest differs by {away:.1f}, {near}.", away=away, near=near)


@dataclass(frozen=True)
class Known:
    """What is known of the paints that are mixed from.

    Attributes
    ----------
    codes : mapping from a paint's name to its codes
    labels : mapping from folded name to Label
    unread : collection of folded names
    grain : function from a recipe to how much it granulates
    settled : Grains that pictures taught; None where labels and table are all
    said : function from a paint's name to how much it is said to granulate, 0..1
    painted : sequence of PaintedCell
    limits : Limits, from where on the painter calls a wash granulating
    """

    codes: Mapping[str, Sequence[str]] = field(default_factory=dict)
    labels: Mapping[str, Label] = field(default_factory=dict)
    unread: Collection[str] = ()
    grain: Callable[[Recipe], float] = lambda _: 0.05
    settled: Grains | None = None
    said: Callable[[str], float] = lambda _: 0.05
    painted: Sequence[PaintedCell] = ()
    limits: Limits = USUAL


def answering(
    estimate: Estimate,
    lattice: Lattice,
    sought: Sought,
    wish: Wish,
    puddle: Recipe | None,
    known: Known,
    grain: GrainWish = GrainWish.ANY,
) -> Generator[float, None, Answer]:
    """All that is told of a wanted colour; yields its progress.

    Parameters
    ----------
    estimate : Estimate
    lattice : Lattice of the paints that may be mixed
    sought : Sought
    wish : Wish, which binds everything that is told
    puddle : Recipe in hand, or None
    known : Known
    grain : GrainWish, how the recipes must lie on the paper
    """
    yield 0.05
    target = np.array(sought.lab)
    if sought.paint and sought.paint not in wish.avoid:
        wish = _without(wish, sought.paint)
    advised: list[Advised] = []
    settlings: list[Settling] = []
    problem = ""
    try:
        advised, settlings = _so_grained(estimate, lattice, target, wish, known, grain)
    except CulmoError as error:
        problem = str(error)
    yield 0.4
    left_out = wish.left_out(lattice.names, known.labels)
    rebuilt = _rebuilt(estimate, lattice, sought, left_out, known)
    instead = _instead(estimate, lattice, sought, wish, left_out, known)
    yield 0.6
    adds: list[Touch] = []
    if puddle is not None and len(puddle.layers) == 1 and all(n in lattice.names for n in puddle.names):
        adds = touches(lattice.mixer, puddle, target, 4, left_out, wish.keep, wish.most_paints)
    yield 0.8
    like_of = puddle if puddle is not None else advised[0].match.recipe if advised else None
    like = []
    if like_of is not None:
        both = predict_lab(estimate, [like_of.with_wash(FULL), like_of.with_wash(TINT)])
        like = resembles(both[0], both[1], known.grain(like_of), pigment_table())
    places = [find_places(lattice.names, names, "") for names in (wish.keep, left_out)]
    fits = fitting_groups(lattice, wish.most_paints, *places)
    companions = scheme(lattice, target, fits) if fits.any() else []
    return Answer(
        sought, advised, settlings, _alike(sought, known.painted), instead, rebuilt, adds, puddle, like, like_of, companions,
        problem,
    )  # fmt: skip


def _so_grained(
    estimate: Estimate, lattice: Lattice, target: Array, wish: Wish, known: Known, grain: int
) -> tuple[list[Advised], list[Settling]]:
    """Recipes that lie on the paper as they are wanted to, and how they are foretold to."""
    count = _LISTED if grain == GrainWish.ANY else _LOOKED_AT
    advised = advise(estimate, lattice, target, wish, known.labels, known.unread, count)
    grains = grains_by(estimate, known.settled, known.said)
    settlings = settlings_of(estimate, grains, [entry.match.recipe for entry in advised])
    fits = [
        place
        for place, own in enumerate(settlings)
        if grain == GrainWish.ANY or settles_so(own, grain, known.limits)
    ]
    if advised and not fits:
        raise CulmoError(
            tr("no mix near it is smooth on the paper")
            if grain == GrainWish.SMOOTH
            else tr("no mix near it granulates on the paper")
        )
    return [advised[place] for place in fits[:_LISTED]], [settlings[place] for place in fits[:_LISTED]]


def _alike(sought: Sought, painted: Sequence[PaintedCell]) -> list[Alike]:
    """What was painted and is near: by colour, and by texture where that is known of both."""
    if not painted:
        return []
    target = np.array(sought.lab)
    found = []
    for entry, away in zip(painted, delta_e_00(np.array([p.lab for p in painted]), target), strict=True):
        itself = sought.cell is not None and entry.recipe.key == sought.cell.recipe.key
        if away > SERVES or itself:
            continue
        apart = float(away)
        if sought.texture is not None and entry.texture is not None:
            apart = apart_with_texture(apart, sought.texture, entry.texture)
        found.append(Alike(entry, float(away), apart))
    # where a texture is looked for, what no picture shows comes after what is shown
    found.sort(key=lambda one: (sought.texture is not None and one.painted.texture is None, one.apart))
    return found[:_LISTED]


def _without(wish: Wish, name: str) -> Wish:
    return replace(wish, avoid=(*wish.avoid, name), keep=tuple(own for own in wish.keep if own != name))


def _colours(estimate: Estimate, sought: Sought) -> tuple[Array, tuple[float, ...]] | None:
    """What the paint or the pigment looks like over its range; None for a bare colour."""
    if sought.paint:
        return predict_lab(estimate, [mix([sought.paint], wash=wash) for wash in _WASHES]), _WASHES
    if sought.code:
        pigment = pigment_table()[sought.code]
        return np.array([pigment.masstone, pigment.tint]), (FULL, TINT)
    return None


def _rebuilt(
    estimate: Estimate, lattice: Lattice, sought: Sought, left_out: Sequence[str], known: Known
) -> Rebuilt | None:
    """A ready-made mixture by its label."""
    colours = _colours(estimate, sought)
    if not sought.paint or colours is None:
        return None
    out = {name.casefold() for name in left_out}
    own = {name: known.codes.get(name, ()) for name in lattice.names if name.casefold() not in out}
    return rebuild_by_label(lattice, *colours, known.codes.get(sought.paint, ()), own, sought.paint)


def _instead(
    estimate: Estimate, lattice: Lattice, sought: Sought, wish: Wish, left_out: Sequence[str], known: Known
) -> list[Substitute]:
    """Mixes in the place of a paint; ready-made mixtures do not stand for one."""
    colours = _colours(estimate, sought)
    if colours is None:
        return []
    ready = [name for name in lattice.names if len(known.codes.get(name, ())) > 1 and name not in wish.keep]
    out = list(dict.fromkeys([*left_out, *(ready if sought.paint else [])]))
    if len(out) >= len(lattice.names):
        return []
    return substitutes(lattice, *colours, out, keep=wish.keep, most_paints=wish.most_paints)


# ---- a whole list against what was painted


@dataclass(frozen=True)
class ListAnswer:
    """How far what was painted serves a list of wanted colours.

    Attributes
    ----------
    name : str, of the list
    wanted : list of (name, (L, a, b))
    painted : list of PaintedCell
    served : list of Served, for each wanted colour
    useful : list of (place in painted, how many it serves besides those before it)
    """

    name: str
    wanted: list[tuple[str, Lab]]
    painted: list[PaintedCell]
    served: list[Served]
    useful: list[tuple[int, int]]

    @property
    def words(self) -> str:
        """How many are served, in a sentence."""
        if not self.painted:
            return tr("Nothing is painted and read yet; what is read of your sheets serves here.")
        near = sum(entry.away <= SERVES for entry in self.served)
        return tr(
            "Of {count} colours of {name} {near} are served by something that you painted; {mixes} mixes are enough for "
            "them.",
            count=len(self.wanted), name=self.name, near=near, mixes=len(self.useful),
        )  # fmt: skip


def serving(name: str, wanted: Sequence[tuple[str, Lab]], painted: Sequence[PaintedCell]) -> ListAnswer:
    """Which painted mixes serve a whole list of wanted colours.

    Parameters
    ----------
    name : str, of the list
    wanted : sequence of (name, (L, a, b))
    painted : sequence of PaintedCell
    """
    asked = np.array([lab for _, lab in wanted], dtype=float).reshape(-1, 3)
    there = np.array([entry.lab for entry in painted], dtype=float).reshape(-1, 3)
    useful = most_useful(asked, there, SERVES, len(asked))
    return ListAnswer(name, list(wanted), list(painted), served_by(asked, there), useful)
