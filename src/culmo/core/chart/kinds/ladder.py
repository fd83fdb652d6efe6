"""The ladder: a ratio test of two paints, each band fading to clear water, and how to walk it with one puddle."""

from collections.abc import Sequence
from dataclasses import dataclass

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import Board, Slot
from culmo.core.chart.kind import (
    Kind,
    border_option,
    even_option,
    label_texts,
    labels_option,
    need,
    paints_option,
    parts_option,
    steps_option,
)
from culmo.core.chart.mixes import even_mixes, in_parts, parts_text
from culmo.core.chart.options import Flag, Options, option
from culmo.core.chart.sheet import Sheet
from culmo.core.paint.readings import MixedHow
from culmo.core.paint.recipe import Recipe
from culmo.words import tr, trn

_BAND_COLUMNS = 3


@dataclass(frozen=True)
class LadderOptions(Options):
    """Two paints and the rungs between them."""

    paints: tuple[str, ...] = paints_option()
    steps: int = steps_option(least=2)
    parts: tuple[tuple[float, float], ...] = parts_option()
    even: bool = even_option()
    wet: bool = option(
        Flag(),
        False,
        tr("Boxes to paint wet in wet"),
        "boxes to paint wet in wet beside a ladder",
        first=True,
    )
    border: str = border_option(lambda own: own.wet)
    labels: str = labels_option()


def ladder_recipes(options: LadderOptions, aids: Aids) -> list[Recipe]:
    """The rungs of a ratio test, from the first paint to the second."""
    need(options.paints, 2, tr("ladder"))
    first, second = options.paints[:2]
    if options.parts:
        return [in_parts(first, second, a, b) for a, b in options.parts]
    if options.even:
        return even_mixes(aids.known, first, second, options.steps)
    last = options.steps - 1
    return [in_parts(first, second, last - i, i) for i in range(options.steps)]


def ladder_board(options: LadderOptions, aids: Aids) -> Board:
    """A band for each rung; boxes to paint wet in wet stand beside."""
    rows: list[tuple[Slot | None, ...]] = []
    recipes = ladder_recipes(options, aids)
    texts = dict(zip(options.paints, label_texts(options.paints, options.labels, aids), strict=True))
    for recipe in recipes:
        band: tuple[Slot | None, ...] = (Slot(recipe, fade=True, wide=_BAND_COLUMNS), None, None)
        rows.append(
            (*band, Slot(recipe, mixing=MixedHow.WET_IN_WET, shape=options.border)) if options.wet else band
        )
    labels = (tr("full to clear water"), "", "", tr("wet in wet")) if options.wet else ()
    said = tuple(texts[r.names[0]] if r.is_pure else parts_text(r) for r in recipes)
    return Board("ladder", tuple(rows), said, labels, aspect=0.9, title=tr("Ladder"))


def walk_ladder(recipes: Sequence[Recipe]) -> list[str]:
    """How to walk one puddle from end to end, and where it is thriftier to begin anew from the other end.

    A puddle of four measures of the first paint is begun with; each band takes a tenth of what is there. Where the
    paint to add would nearly double what is left, a fresh puddle of the other end is thriftier.

    Parameters
    ----------
    recipes : sequence of Recipe, the rungs in order, of two paints
    """
    names = list(dict.fromkeys(name for recipe in recipes for name in recipe.names))
    if len(names) < 2:
        return []
    first, second = names[0], names[-1]
    lines = [tr("Begin with a puddle of 4 measures of {first}.", first=first)]
    left = {first: 4.0, second: 0.0}
    turned = False
    for recipe in recipes:
        share = {part.name: part.parts for part in recipe.layers[0].parts}
        a, b = share.get(first, 0.0), share.get(second, 0.0)
        if turned or a == 0.0:
            continue
        add = left[first] * b / a - left[second]
        whole = left[first] + left[second]
        if add > 0.9 * whole:
            turned = True
            lines.append(
                tr(
                    "Here it is thriftier to begin anew from the other end: a puddle of {second}, and add "
                    "{first} to it, from the last band backwards.",
                    second=second,
                    first=first,
                )
            )
            continue
        if add > 0.02:
            lines.append(
                tr(
                    "Add {measures} of {second} to what is left: {parts_text}.",
                    measures=_measures(add),
                    second=second,
                    parts_text=parts_text(recipe),
                )
            )
            left[second] += add
        for name in left:
            left[name] *= 0.9
    lines.append(
        tr("Keep a drop of each rung in a well of the tray, should a band have to be painted again.")
    )
    return lines


def way_of_ladder(sheet: Sheet) -> list[str]:
    """How to go through the rungs of a ladder."""
    rungs = [cell.recipe for cell in sheet.cells if cell.fade_mm is not None]
    return [tr("Walking the ladder"), *walk_ladder(rungs)]


def _measures(amount: float) -> str:
    if amount < 0.15:
        return tr("a touch")
    quarters = round(amount * 4)
    whole, rest = divmod(quarters, 4)
    text = f"{whole} " if whole else ""
    text += {0: "", 1: "1/4", 2: "1/2", 3: "3/4"}[rest]
    return trn("{what} measure", "{what} measures", 1 if quarters <= 4 else 2, what=text.strip())


KIND = Kind(
    3, "ladder", tr("Ladder"), tr("two paints in given parts, each fading to clear water"), LadderOptions, ladder_board,
    gap_mm=3.0, way=way_of_ladder,
    few=2, far_apart=True,
)  # fmt: skip
