"""One against the box: a new paint, the first, with each of the others, pure, in equal parts, and paler."""

from dataclasses import dataclass

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import Board, Slot
from culmo.core.chart.kind import Kind, label_texts, labels_option, need, paints_option
from culmo.core.chart.options import Options
from culmo.core.paint.recipe import TINT, mix
from culmo.words import tr


@dataclass(frozen=True)
class AgainstOptions(Options):
    """The new paint, and then the others."""

    paints: tuple[str, ...] = paints_option()
    labels: str = labels_option()


def against_board(options: AgainstOptions, aids: Aids) -> Board:
    """A row for each of the others."""
    need(options.paints, 2, tr("trial of one paint against the box"))
    new, others = options.paints[0], options.paints[1:]
    head: tuple[Slot | None, ...] = (Slot(mix([new])), None, Slot(mix([new], wash=TINT)))
    rows = [head]
    rows += [
        (Slot(mix([other])), Slot(mix([new, other])), Slot(mix([new, other], wash=TINT))) for other in others
    ]
    texts = label_texts(options.paints, options.labels, aids)
    heads = (tr("pure"), tr("with {what}", what=texts[0] or new), tr("paler"))
    return Board("against", tuple(rows), texts, heads, aspect=1.0, title=tr("One against the box"))


KIND = Kind(
    8, "against", tr("One against the box"), tr("a new paint with each of the others"), AgainstOptions, against_board,
    gap_mm=2.0,
)  # fmt: skip
