"""The palette card: few paints, their secondaries, each with the dark, the three-paint browns."""

from dataclasses import dataclass
from itertools import combinations

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import Board, wrapped
from culmo.core.chart.kind import Kind, extra_option, need, paints_option
from culmo.core.chart.mixes import added
from culmo.core.chart.options import Options
from culmo.core.paint.recipe import Recipe, mix
from culmo.words import tr

_MOST_BROWNS = 8


@dataclass(frozen=True)
class PaletteOptions(Options):
    """The paints, and a dark to mix with each."""

    paints: tuple[str, ...] = paints_option()
    extra: str = extra_option(dark=True)


def palette_board(options: PaletteOptions, aids: Aids) -> Board:
    """Lines of mixes, one paint first, then two, then three."""
    need(options.paints, 2, tr("palette card"))
    names, dark = options.paints, options.extra
    lines: list[list[Recipe]] = [
        [mix([name]) for name in names],
        [mix(pair) for pair in combinations(names, 2)],
    ]
    if dark:
        lines.append([added(mix([name]), dark) for name in names if name.casefold() != dark.casefold()])
    lines.append([mix(three) for three in list(combinations(names, 3))[:_MOST_BROWNS]])
    filled = [line for line in lines if line]
    return wrapped("palette", tr("Palette card"), filled, max(4, len(names)), fade=True)


KIND = Kind(
    7, "palette", tr("Palette card"), tr("few paints, their secondaries, darks and browns"), PaletteOptions,
    palette_board, gap_mm=2.0, captioned=True,
    few=5, far_apart=True,
)  # fmt: skip
