"""What is known of a cell that is to be drawn; plain values, so that view-models can make them."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from culmo.core.chart.sheet import Cell
    from culmo.core.paint.predict import Prediction
    from culmo.study.patches import Patch


@dataclass(frozen=True)
class CellLook:
    """What is known of a cell.

    Attributes
    ----------
    predicted : bool, whether a prediction can be drawn
    doubt : float, dE90 of the prediction
    recorded : (L, a, b) as read, or None
    painted : bool, whether the brush has been there
    keeper : bool
    doubtful : bool, whether what was read is to be doubted
    patch : Patch, the real paint, where a picture showed it; None where it is known by its colour alone
    """

    predicted: bool = False
    doubt: float = 0.0
    recorded: tuple[float, float, float] | None = None
    painted: bool = False
    keeper: bool = False
    doubtful: bool = False
    patch: "Patch | None" = None


def cell_looks(
    cells: "Sequence[Cell]",
    prediction: "Prediction | None",
    read: Mapping[str, tuple[float, float, float]],
    painted: Collection[str] = (),
    keepers: Collection[str] = (),
    doubtful: Collection[str] = (),
    patches: "Mapping[str, Patch] | None" = None,
) -> dict[str, CellLook]:
    """What to draw in each cell."""
    looks = {}
    for place, cell in enumerate(cells):
        foretold = prediction.at(place) if prediction is not None else None
        looks[cell.id] = CellLook(
            predicted=foretold is not None,
            doubt=foretold[1] if foretold is not None else 0.0,
            recorded=read.get(cell.id),
            painted=cell.id in painted,
            keeper=cell.id in keepers,
            doubtful=cell.id in doubtful,
            patch=(patches or {}).get(cell.id),
        )
    return looks
