"""The fan: one paint against many, in one mix each, a row of steps each, or as two wet strokes left to touch."""

from dataclasses import dataclass
from enum import StrEnum

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import MEET, Board, Slot
from culmo.core.chart.kind import (
    Kind,
    even_option,
    label_texts,
    labels_option,
    need,
    paints_option,
    parts_option,
    steps_option,
)
from culmo.core.chart.mixes import USUAL_PARTS, even_mixes, in_parts, parts_text
from culmo.core.chart.options import Flag, OneOf, Options, option
from culmo.core.paint.recipe import TINT, Recipe, mix
from culmo.words import tr


class FanForm(StrEnum):
    """What a fan shows of each pair."""

    STEPS = "steps"
    ONE = "one"
    TOUCH = "touch"


_TOUCH_COLUMNS = 4  # as long as a stroke of two is wide


@dataclass(frozen=True)
class FanOptions(Options):
    """The first paint against each of the others."""

    paints: tuple[str, ...] = paints_option()
    way: str = option(
        OneOf(
            {
                FanForm.STEPS: tr("a row of steps each"),
                FanForm.ONE: tr("one mix each"),
                FanForm.TOUCH: tr("two wet strokes left to touch"),
            }
        ),
        FanForm.STEPS,
        tr("Way"),
        "of a fan",
    )
    fade: bool = option(
        Flag(), True, tr("Strokes from full to pale"), "of a fan: strokes that meet, each from full to pale",
        concerns=lambda own: own.way == FanForm.TOUCH,
    )  # fmt: skip
    steps: int = steps_option()
    parts: tuple[tuple[float, float], ...] = parts_option()
    even: bool = even_option()
    labels: str = labels_option()


def fan_board(options: FanOptions, aids: Aids) -> Board:
    """A row for each paint that the first is mixed with."""
    need(options.paints, 2, tr("fan"))
    first, others = options.paints[0], options.paints[1:]
    own_text, *texts = label_texts(options.paints, options.labels, aids)
    rows: list[tuple[Slot | None, ...]] = []
    labels: tuple[str, ...] = ()
    for other in others:
        if options.way == FanForm.ONE:
            rows.append((Slot(mix([other])), Slot(mix([first, other])), Slot(mix([first, other], wash=TINT))))
            labels = (tr("pure"), tr("with {what}", what=own_text or first), tr("paler"))
        elif options.way == FanForm.TOUCH:
            strokes = Slot(
                mix([first]), fade=options.fade, second=mix([other]), split=MEET, wide=_TOUCH_COLUMNS
            )
            rows.append((strokes, *[None] * (_TOUCH_COLUMNS - 1)))
            labels = (own_text or first, *[""] * (_TOUCH_COLUMNS - 1))
        else:
            recipes = [mix([first]), *_steps(options, aids, first, other), mix([other])]
            rows.append(tuple(Slot(recipe, caption=parts_text(recipe)) for recipe in recipes))
    return Board("fan", tuple(rows), tuple(texts), labels, aspect=1.0, title=tr("Fan"))


def _steps(options: FanOptions, aids: Aids, first: str, second: str) -> list[Recipe]:
    """Recipes from the first paint towards the second, ends left out."""
    count = options.steps
    if options.parts:
        return [in_parts(first, second, a, b) for a, b in options.parts]
    if options.even:
        return even_mixes(aids.known, first, second, count + 2)[1:-1]
    if count <= len(USUAL_PARTS):
        # the middle ones stay: a fan of three is 2 : 1, 1 : 1, 1 : 2
        start = (len(USUAL_PARTS) - count) // 2
        return [in_parts(first, second, a, b) for a, b in USUAL_PARTS[start : start + count]]
    return [in_parts(first, second, count + 1 - i, i) for i in range(1, count + 1)]


KIND = Kind(
    2, "fan", tr("Fan"), tr("one paint against many, in steps"), FanOptions, fan_board, few=6, far_apart=True
)
