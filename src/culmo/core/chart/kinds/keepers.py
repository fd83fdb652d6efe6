"""The keepers' page: the favourite mixes so far."""

from dataclasses import dataclass

from culmo.core.chart.aids import Aids
from culmo.core.chart.board import Board, wrapped_page
from culmo.core.chart.kind import Kind
from culmo.core.chart.options import Options
from culmo.errors import CulmoError
from culmo.words import tr


@dataclass(frozen=True)
class KeepersOptions(Options):
    """Nothing to choose: the mixes are those that the painter marked."""


def keepers_board(options: KeepersOptions, aids: Aids) -> Board:
    """The keepers in rows."""
    if not aids.keepers:
        raise CulmoError(tr("the page has no keepers: mark mixes that are worth keeping first"))
    return wrapped_page("keepers", tr("Keepers"), aids.keepers)


KIND = Kind(
    10,
    "keepers",
    tr("Keepers' page"),
    tr("the favourite mixes so far"),
    KeepersOptions,
    keepers_board,
    gap_mm=2.0,
    captioned=True,
    begin=lambda _: {},
)
