"""What is known of a cell that is to be drawn; plain values, so that view-models can make them."""

from dataclasses import dataclass


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
    """

    predicted: bool = False
    doubt: float = 0.0
    recorded: tuple[float, float, float] | None = None
    painted: bool = False
    keeper: bool = False
