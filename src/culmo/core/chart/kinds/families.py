"""Two families: one down, one across, the pure strokes at the edges."""

from collections.abc import Sequence
from dataclasses import dataclass

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import Board, Slot
from culmo.core.chart.kind import (
    Kind,
    SecondHalf,
    extra_option,
    label_texts,
    labels_option,
    paints_option,
    second_option,
    second_recipe,
    split_option,
)
from culmo.core.chart.options import Options, SomePaints, option
from culmo.core.paint.recipe import mix
from culmo.errors import CulmoError
from culmo.words import tr


@dataclass(frozen=True)
class FamiliesOptions(Options):
    """The paints down, and those across; a second mix only where the cells are split."""

    paints: tuple[str, ...] = paints_option()
    across: tuple[str, ...] = option(SomePaints(), (), tr("Paints across"), "the second family of two")
    split: str = split_option()
    second: str = second_option(lambda own: bool(own.split))
    extra: str = extra_option(
        lambda own: bool(own.split) and own.second in (SecondHalf.WHITE, SecondHalf.THIRD)
    )
    labels: str = labels_option()


def families_board(options: FamiliesOptions, aids: Aids) -> Board:
    """The grid with a row and a column of pure strokes."""
    if not options.paints or not options.across:
        raise CulmoError(tr("a grid of two families needs paints down and paints across"))
    head: tuple[Slot | None, ...] = (None, *(Slot(mix([name])) for name in options.across))
    rows = [head]
    for down in options.paints:
        row: list[Slot | None] = [Slot(mix([down]))]
        for across in options.across:
            same = down.casefold() == across.casefold()
            even = mix([down]) if same else mix([down, across])
            if options.split and not same:
                second = second_recipe(options.second, options.extra, down, across)
                row.append(Slot(even, second=second, split=options.split))
            else:
                row.append(Slot(even))
        rows.append(tuple(row))
    down_texts = label_texts(options.paints, options.labels, aids)
    across_texts = label_texts(options.across, options.labels, aids, before=len(options.paints))
    return Board(
        "families", tuple(rows), ("", *down_texts), ("", *across_texts), title=tr("Two families")
    )  # fmt: skip


def _begin(names: Sequence[str]) -> dict[str, str]:
    """The first half of the paints down, as many of the others across."""
    half, write = (min(len(names), 10) + 1) // 2, SomePaints().write
    return {"paints": write(names[:half]), "across": write(names[half : 2 * half])}


KIND = Kind(
    1,
    "families",
    tr("Two families"),
    tr("one family down, another across"),
    FamiliesOptions,
    families_board,
    begin=_begin,
)
