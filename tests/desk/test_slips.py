"""The slips at the right of every page: nothing in them is cut off. `make test` runs this in German as well."""

import pytest

from culmo.desk.app import settle
from culmo.desk.widgets import Slip, TabStrip
from culmo.study.records import sheet_titles

ROOMS = 6


def strips(window, *but):
    return [
        one
        for one in window.rooms.currentWidget().findChildren(TabStrip)
        if one.isVisible() and one not in but
    ]


@pytest.mark.long
def test_no_slip_of_any_room_is_wider_than_its_place(demo):
    wide: dict[str, int] = {}

    def look(where: str) -> None:
        for _ in range(6):
            settle(demo, 20)
            if not demo.session.runner.busy():
                break
        for slip in demo.findChildren(Slip):
            if slip.isVisible() and slip.widget() is not None:
                over = slip.widget().minimumSizeHint().width() - slip.viewport().width()
                if over > 0:
                    wide[where] = over

    titles = {title: sheet_id for sheet_id, title in sheet_titles(demo.session.file)}
    demo.session.selection.select_sheet(titles["First eight, wing cases"])
    seen = 0
    for place in range(ROOMS):
        demo.show_room(place)
        look(str(place))
        first = strips(demo)[:1]
        for strip in first:
            for at, button in enumerate(strip.buttons):
                strip.choose(at)
                look(f"{place}, {button.text()}")
                seen += 1
                for inner in strips(demo, strip):
                    for page, other in enumerate(inner.buttons):
                        inner.choose(page)
                        look(f"{place}, {button.text()}, {other.text()}")
                        seen += 1
    assert seen > 20
    assert not wide, "\n".join(f"{where}: {over}" for where, over in wide.items())
