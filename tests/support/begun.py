"""A sheet that is begun in the Plan room."""

from culmo.core.chart.kinds import KIND_KEYS
from culmo.core.chart.options import SomePaints
from culmo.desk.rooms.plan.at_hand import grid_at_hand
from culmo.desk.rooms.plan.view import PlanRoom


def new_grid(room: PlanRoom) -> None:
    """Begin a new grid with the paints in hand, or with all of the box."""
    chosen = grid_at_hand(room.session)
    room.begin(KIND_KEYS[0], paints=SomePaints().write(chosen), title=f"Grid of {len(chosen)}")
