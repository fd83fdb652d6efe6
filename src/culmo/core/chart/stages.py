"""The stages of a sheet: what is painted together, before all of the next is begun."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from culmo.core.chart.sheet import Cell, Sheet, Stage
from culmo.core.paint.recipe import FULL, Recipe
from culmo.errors import CulmoError
from culmo.words import tr

# paler ones are painted with their full one, from one puddle, unless they are made a stage: that costs a rinse for each
USUAL_STAGES = (Stage.PURE, Stage.MIX, Stage.WHITE, Stage.GLAZE)
STAGE_WORDS = {
    Stage.PURE: tr("pure paints"),
    Stage.MIX: tr("mixes"),
    Stage.PALE: tr("paler ones"),
    Stage.WHITE: tr("with white"),
    Stage.GLAZE: tr("glazes"),
}


@dataclass(frozen=True)
class Wishes:
    """How a painter wants to go through a sheet.

    Attributes
    ----------
    stages : tuple of str, values of Stage in the order of painting; a cell of a stage that is left out belongs to none, and
        is painted when its puddle is out. A glaze lies on what is dry, and comes last.
    light_first : bool, whether in a stage the lighter puddle comes before the darker one
    clean_first : bool, whether in a stage what stains the brush comes after what does not
    """

    stages: tuple[str, ...] = USUAL_STAGES
    light_first: bool = True
    clean_first: bool = True

    def __post_init__(self) -> None:
        for stage in self.stages:
            if stage not in {*Stage}:
                raise CulmoError(
                    tr(
                        'the stage is "{stage}"; it must be one of {what}',
                        stage=stage,
                        what=", ".join(Stage),
                    )
                )
        if len(set(self.stages)) != len(self.stages):
            raise CulmoError(tr("a stage can come only once"))
        if Stage.GLAZE in self.stages[:-1]:
            raise CulmoError(tr("glazes lie over what is dry: they come last"))

    def place(self, stage: str) -> int | None:
        """Where a stage stands; None for one that is none of these."""
        return self.stages.index(stage) if stage in self.stages else None


def wishes_of(sheet: Sheet) -> Wishes:
    """What the plan of a sheet wishes; the usual where it does not say, or what it says makes no sense."""
    settings = sheet.settings
    try:
        return Wishes(
            tuple(str(stage) for stage in settings.get("stages", USUAL_STAGES)),
            bool(settings.get("light_first", True)),
            bool(settings.get("clean_first", True)),
        )
    except (CulmoError, TypeError):
        return Wishes()


def is_white(codes: str) -> bool:
    """Whether a paint is a white, by its Colour Index codes alone.

    Examples
    --------
    >>> is_white("PW4"), is_white("PW6, PB29"), is_white("")
    (True, False, False)
    """
    found = codes.replace(",", " ").upper().split()
    return bool(found) and all(code.startswith("PW") for code in found)


def stage_of(recipe: Recipe, whites: frozenset[str] = frozenset()) -> Stage:
    """The stage that a recipe belongs to.

    Parameters
    ----------
    recipe : Recipe
    whites : folded names of the paints that are white
    """
    layers = recipe.layers
    if len(layers) > 1:
        return Stage.GLAZE
    if not recipe.is_pure and whites & {name.casefold() for name in recipe.names}:
        return Stage.WHITE
    if layers and layers[0].wash < FULL:
        return Stage.PALE
    return Stage.PURE if recipe.is_pure else Stage.MIX


def staged(sheet: Sheet, wishes: Wishes, whites: frozenset[str] = frozenset()) -> Sheet:
    """The sheet with each cell's stage, as far as it is one of the wished; what meets is of one stage.

    Parameters
    ----------
    sheet : Sheet
    wishes : Wishes
    whites : folded names of the paints that are white
    """
    own = {cell.id: stage_of(cell.recipe, whites) for cell in sheet.cells if not cell.arises}
    last = {stage: place for place, stage in enumerate(wishes.stages)}
    cells = []
    groups = meeting_groups(sheet.cells)
    for cell in sheet.cells:
        stages = [own[other] for other in groups[cell.id] if other in own]
        stage = max(stages, key=lambda s: last.get(s, -1)) if stages else ""
        cells.append(replace(cell, stage=str(stage) if stage in last else ""))
    return replace(sheet, cells=tuple(cells))


def meeting_groups(cells: Sequence[Cell]) -> Mapping[str, tuple[str, ...]]:
    """For each cell the ones that it is painted together with, itself among them, in the order of the sheet."""
    group = {cell.id: {cell.id} for cell in cells}
    for cell in cells:
        for other in cell.meets:
            if group[cell.id] is not group[other]:
                whole = group[cell.id] | group[other]
                for member in whole:
                    group[member] = whole
    place = {cell.id: i for i, cell in enumerate(cells)}
    return {cell.id: tuple(sorted(group[cell.id], key=place.__getitem__)) for cell in cells}
