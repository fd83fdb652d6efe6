"""Many paints, each with each, in the window: for the tests of what goes on meanwhile, and for the bench of pauses."""

from pathlib import Path

from culmo.core.chart.options import SomePaints
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from support.begun import new_grid
from support.builders import make_coded_study


def try_all_of(window, path: Path, count: int) -> None:
    """Make a study of paints that are known by their codes, and try a grid of all of them on a large paper."""
    make_coded_study(path, count)
    assert window.open_path(path)
    settle(window, 40)
    window.show_room(RoomName.PLAN)
    new_grid(window.plan)
    page = window.plan.slip.layout_page
    page.fields["paper"].set_text("A1")
    page.fields["paints"].set_text(SomePaints().write([paint.name for paint in window.session.paints]))
    page._edited()
    settle(window, 40)
