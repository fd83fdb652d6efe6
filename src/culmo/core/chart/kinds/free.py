"""The free page: strokes and touches in the order in which they were made."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import MEET, Board, Slot, wrapped_page
from culmo.core.chart.kind import Kind, border_option
from culmo.core.chart.options import Flag, OneOf, Options, SomeRecipes, option
from culmo.core.paint.readings import MixedHow
from culmo.core.paint.recipe import Layer, Part, Recipe, format_recipe, mix
from culmo.errors import CulmoError
from culmo.words import tr


@dataclass(frozen=True)
class FreeOptions(Options):
    """Recipes, one after the other."""

    recipes: tuple[Recipe, ...] = option(
        SomeRecipes(), (), tr("Recipes, one a line"), 'of a free page: "Rose; Rose + Lemon @ tint"',
        hint="Rose\nRose + Lemon\nLemon:3 + Rose @ tint",
    )  # fmt: skip
    mixing: str = option(
        OneOf(
            {
                MixedHow.IN_PUDDLE: tr("mixed in a puddle"),
                MixedHow.WET_IN_WET: tr("wet in wet"),
                MixedHow.MEETING: tr("two strokes that run into each other"),
                MixedHow.LOADED: tr("two paints on one brush"),
            },
            {MixedHow.IN_PUDDLE: "puddle"},
        ),
        MixedHow.IN_PUDDLE,
        tr("Paints come together"),
        "of a free page: puddle, wet (in wet), meeting (strokes), loaded (brush)",
    )
    border: str = border_option(lambda own: own.mixing == MixedHow.WET_IN_WET)
    fade: bool = option(
        Flag(), True, tr("Strokes from full to pale"), "of a free page: strokes that meet, each from full to pale",
        concerns=lambda own: own.mixing == MixedHow.MEETING,
    )  # fmt: skip


def free_board(options: FreeOptions, aids: Aids) -> Board:
    """The strokes in rows."""
    if not options.recipes:
        raise CulmoError(tr("the page has no recipes: write one a line"))
    board = wrapped_page("free", tr("Free page"), options.recipes)
    rows = tuple(tuple(slot and _as_wished(slot, options) for slot in row) for row in board.rows)
    return replace(
        board,
        rows=rows,
        aspect=0.5 if options.mixing in (MixedHow.MEETING, MixedHow.LOADED) else board.aspect,
    )


def _as_wished(slot: Slot, options: FreeOptions) -> Slot:
    """A slot whose paints come together otherwise than in a puddle, where it has paints to do so."""
    layers = slot.recipe.layers
    if options.mixing == MixedHow.WET_IN_WET and len(layers) == 1:
        return replace(slot, mixing=MixedHow.WET_IN_WET, shape=options.border)
    if options.mixing == MixedHow.IN_PUDDLE or len(layers) != 1 or slot.recipe.is_pure:
        return slot
    if options.mixing == MixedHow.LOADED:
        return replace(slot, mixing=MixedHow.LOADED)
    parts = layers[0].parts
    if len(parts) != 2:
        raise CulmoError(
            tr(
                'two strokes that meet are of two paints; "{recipe}" has {n}',
                recipe=slot.recipe,
                n=len(parts),
            )
        )
    one, other = (Recipe((Layer((Part(part.name),), layers[0].wash),)) for part in parts)
    return replace(slot, recipe=one, second=other, split=MEET, fade=options.fade)


def _begin(names: Sequence[str]) -> dict[str, str]:
    """Two paints with their mix between them, then two more."""
    wanted = [names[:1], names[:2], names[1:2], *([name] for name in names[2:4])]
    return {"recipes": "; ".join(format_recipe(mix(some)) for some in wanted)}


KIND = Kind(
    9, "free", tr("Free page"), tr("strokes and touches in the order they were made"), FreeOptions, free_board,
    gap_mm=3.0, captioned=True, begin=_begin,
)  # fmt: skip
