"""The free page: strokes and touches in the order in which they were made."""

from dataclasses import dataclass

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import Board, wrapped_page
from culmo.core.chart.kind import Kind
from culmo.core.chart.options import Options, SomeRecipes, option
from culmo.core.paint.recipe import Recipe
from culmo.errors import CulmoError
from culmo.words import tr


@dataclass(frozen=True)
class FreeOptions(Options):
    """Recipes, one after the other."""

    recipes: tuple[Recipe, ...] = option(
        SomeRecipes(), (), tr("Recipes, one a line"), 'of a free page: "Rose; Rose + Lemon @ tint"',
        hint="Rose\nRose + Lemon\nLemon:3 + Rose @ tint",
    )  # fmt: skip


def free_board(options: FreeOptions, aids: Aids) -> Board:
    """The strokes in rows."""
    if not options.recipes:
        raise CulmoError(tr("the page has no recipes: write one a line"))
    return wrapped_page("free", tr("Free page"), options.recipes)


KIND = Kind(
    9, "free", tr("Free page"), tr("strokes and touches in the order they were made"), FreeOptions, free_board,
    gap_mm=3.0, captioned=True,
)  # fmt: skip
