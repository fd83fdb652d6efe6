"""The washes of a sheet: what is laid from which puddle, together with what, in which stage."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

from culmo.core.chart.sheet import Cell, Sheet, Stage
from culmo.core.chart.stages import Wishes, meeting_groups, stage_of
from culmo.core.paint.readings import MixedHow
from culmo.core.paint.recipe import FULL, Layer, Recipe
from culmo.errors import CulmoError
from culmo.words import tr

# within so many minutes what meets is painted, while the edge of the first is wet
MEET_MINUTES = 2.0


@dataclass(frozen=True)
class Pace:
    """How long the painter takes.

    Attributes
    ----------
    dry_minutes : float, > 0, how long a cell stays wet
    cell_minutes, puddle_minutes, rinse_minutes, water_minutes : float, >= 0
    rinses_per_water : int, > 0, rinses until the water is changed
    """

    dry_minutes: float = 15.0
    cell_minutes: float = 0.3
    puddle_minutes: float = 0.4
    rinse_minutes: float = 0.15
    water_minutes: float = 1.0
    rinses_per_water: int = 15

    def __post_init__(self) -> None:
        if not 0.0 < self.dry_minutes <= 24 * 60:
            raise CulmoError(
                tr(
                    "the drying time is {dry_minutes:g} minutes; it must lie above 0 and within a day",
                    dry_minutes=self.dry_minutes,
                )
            )


@dataclass(frozen=True)
class Traits:
    """What is known of the paints, for going from light to dark and from clean to staining.

    Attributes
    ----------
    lightness : mapping from folded paint name to the L of its full wash
    staining : mapping from folded paint name to how much it stains the brush, 0..1
    whites : folded names of the paints that are white
    """

    lightness: Mapping[str, float] = field(default_factory=dict)
    staining: Mapping[str, float] = field(default_factory=dict)
    whites: frozenset[str] = frozenset()


def puddle_of(recipe: Recipe) -> Recipe:
    """The puddle that the top wash of a recipe is taken from: its paints and parts, at full strength."""
    return (
        recipe.key.with_wash(FULL)
        if len(recipe.layers) == 1
        else Recipe(recipe.key.layers[:1]).with_wash(FULL)
    )


def puddles_of(cell: Cell, layer: int = 0) -> tuple[Recipe, ...]:
    """What the brush takes up for a layer of a cell, one after the other, as it is spoken of; see `puddle_of`.

    One puddle for a wash; each paint by itself where they come together on the paper or on the brush; nothing where
    the cell is only where others run into each other.

    Parameters
    ----------
    cell : Cell
    layer : int, 0 for the top layer of its recipe
    """
    layers = cell.recipe.layers
    if cell.arises:
        return ()
    if layer == 0 and layers and cell.mixing in (MixedHow.WET_IN_WET, MixedHow.LOADED):
        return tuple(Recipe((Layer((replace(part, parts=1.0),), FULL),)) for part in layers[0].parts)
    spoken = Recipe(layers[layer : layer + 1])
    return (spoken.with_wash(FULL) if layers else spoken,)


@dataclass(frozen=True)
class Wash:
    """One wash to lay: a layer of a cell."""

    cell: Cell
    layer: int
    puddles: tuple[Recipe, ...]


@dataclass(frozen=True)
class Unit:
    """Washes that follow each other at once: one, or those of cells that meet.

    Attributes
    ----------
    washes : tuple of Wash; those that only arise come last
    stage : int, or None where it may be painted in any
    dark : float, how late it comes in its stage
    blockers : tuple of str, the cells that must not be wet
    after : frozenset of (cell id, layer) that must be laid before
    fresh : bool, whether its stage is begun with clean water: it holds white
    """

    washes: tuple[Wash, ...]
    stage: int | None
    dark: float
    blockers: tuple[str, ...]
    after: frozenset[tuple[str, int]]
    fresh: bool = False

    @cached_property
    def key(self) -> tuple[str, int]:
        return min((wash.cell.id, wash.layer) for wash in self.washes)

    @cached_property
    def puddle_key(self) -> object:
        """What is painted in one visit: all of a puddle, or a unit of several by itself."""
        return self.first if self.is_alone else self.key

    @cached_property
    def is_alone(self) -> bool:
        return len(self.washes) == 1 and len(self.washes[0].puddles) == 1

    @cached_property
    def first(self) -> Recipe:
        return self.washes[0].puddles[0] if self.washes[0].puddles else Recipe()

    @cached_property
    def pale(self) -> float:
        layers = self.washes[0].cell.recipe.layers
        return -layers[self.washes[0].layer].wash if layers else 0.0

    def turned(self) -> "Unit":
        """The two strokes that meet, the other way round."""
        painted = [wash for wash in self.washes if not wash.cell.arises]
        if len(painted) != 2 or any(len(wash.puddles) != 1 for wash in painted):
            return self
        return replace(self, washes=(*painted[::-1], *(wash for wash in self.washes if wash.cell.arises)))


_UNKNOWN_L = 60.0
_STAIN_WORTH = 15.0  # so much L a full stainer waits longer than a clean paint


def _dark(puddle: Recipe, traits: Traits, wishes: Wishes) -> float:
    """How late a puddle comes: by its L, the parts' mean of the logarithms of their light, and by what stains."""
    if not puddle.layers:
        return 0.0
    parts = puddle.layers[0].parts
    late = 0.0
    if wishes.light_first and traits.lightness:
        total = sum(part.parts for part in parts)
        lights = (
            (max(traits.lightness.get(p.name.casefold(), _UNKNOWN_L), 0.0) + 16.0) / 116.0 for p in parts
        )
        log = sum(
            part.parts / total * 3.0 * math.log(light) for part, light in zip(parts, lights, strict=True)
        )
        late -= 116.0 * math.exp(log / 3.0) - 16.0
    if wishes.clean_first:
        late += _STAIN_WORTH * max(traits.staining.get(part.name.casefold(), 0.0) for part in parts)
    return late


def units_of(sheet: Sheet, wishes: Wishes, traits: Traits, beside: Mapping[str, set[str]]) -> list[Unit]:
    """What is painted at once, of all the layers of all cells: single washes, and those of cells that meet.

    Parameters
    ----------
    sheet : Sheet, with its stages
    wishes : Wishes
    traits : Traits
    beside : mapping from a cell's id to those that share an edge with it
    """
    cells = {cell.id: cell for cell in sheet.cells}
    groups = meeting_groups(sheet.cells)
    one_of: dict[Recipe, Recipe] = {}  # equal puddles are one object: they are compared all the time
    white = wishes.place(Stage.WHITE)
    units = []
    for cell in sheet.cells:
        group = [cells[name] for name in groups[cell.id]]
        if group[0].id != cell.id:
            continue
        group.sort(key=lambda member: member.arises)
        members = {member.id for member in group}
        around = tuple({other for name in members for other in beside[name]} - members | members)
        for layer in range(max(max(1, len(member.recipe.layers)) for member in group) - 1, -1, -1):
            washes = tuple(
                Wash(
                    member,
                    layer,
                    tuple(one_of.setdefault(puddle_of(p), p) for p in puddles_of(member, layer)),
                )
                for member in group
                if layer < max(1, len(member.recipe.layers))
            )
            after = {(w.cell.id, layer + 1) for w in washes if layer + 1 < len(w.cell.recipe.layers)}
            places = [stage_place(wash.cell, layer, wishes, traits.whites) for wash in washes]
            stage = max((place for place in places if place is not None), default=None)
            for member in group:
                first = cells.get(member.half_of)
                if (
                    first is not None
                    and first.id not in members
                    and layer == 0
                    and not _comes_before(first, member, wishes)
                ):
                    after.add((first.id, 0))
            puddles = [puddle for wash in washes for puddle in wash.puddles]
            dark = min((_dark(puddle, traits, wishes) for puddle in puddles), default=0.0)
            units.append(
                Unit(washes, stage, dark, around, frozenset(after), stage is not None and stage == white)
            )
    return units


def stage_place(cell: Cell, layer: int, wishes: Wishes, whites: frozenset[str] = frozenset()) -> int | None:
    """Where the stage of a layer stands; None for one that belongs to none.

    A layer below belongs to the stage of a wash like it, to no earlier one than what lies below it, and to no later one than
    the cell.

    Parameters
    ----------
    cell : Cell
    layer : int, 0 for the top layer of its recipe
    wishes : Wishes
    whites : folded names of the paints that are white
    """
    top = wishes.place(cell.stage)
    if layer == 0:
        return top
    own = wishes.place(stage_of(Recipe(cell.recipe.layers[layer : layer + 1]), whites))
    if own is None:
        return None
    # what lies further below is laid before it, whatever stage that belongs to
    below = (stage_of(Recipe((wash,)), whites) for wash in cell.recipe.layers[layer + 1 :])
    latest = max([own, *(place for stage in below if (place := wishes.place(stage)) is not None)])
    return latest if top is None else min(latest, top)


def _comes_before(first: Cell, second: Cell, wishes: Wishes) -> bool:
    """Whether a later half belongs to an earlier stage than the half that it would follow."""
    own, other = wishes.place(second.stage), wishes.place(first.stage)
    return own is not None and other is not None and own < other
