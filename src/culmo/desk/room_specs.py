"""The rooms of the window: each is told here what it is called, how it is made, and what it asks of others.

A room, and the libraries that it computes with, is loaded when it is first entered.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from culmo.desk.room_names import RoomName
from culmo.words import trc

if TYPE_CHECKING:
    from culmo.desk.widgets import Room
    from culmo.desk.window import MainWindow


@dataclass(frozen=True)
class RoomSpec:
    """A room.

    Attributes
    ----------
    name : RoomName
    title : str
    make : function of the window, for which it is made
    """

    name: RoomName
    title: str
    make: "Callable[[MainWindow], Room]"

    @property
    def id(self) -> str:
        """As its help and its pictures call it."""
        return self.name.name.lower()


def begin_plan(window: "MainWindow", kind: str, **texts: str) -> bool:
    """Begin a sheet in the Plan room; says whether it was."""
    window.show_room(RoomName.PLAN)
    return window.plan.begin(kind, **texts)


def _choose_for(window: "MainWindow", subject: str) -> None:
    """Look for the fewest paints for a subject, as a list of wanted colours of the study's own."""
    window.show_room(RoomName.WEIGH)
    window.weigh.choose_for(subject)


def _make_box(window: "MainWindow") -> "Room":
    from culmo.desk.rooms.box.view import BoxRoom

    room = BoxRoom(window.session, lambda: window.rail.dab.recipe(), window.rooms)
    window.rail.dab.recipe_changed.connect(room.mix_changed)
    # what asks something first is loaded when it is first asked
    room.entry_wanted.connect(lambda text: window.box_desk.enter_paints(text))
    room.file_wanted.connect(lambda path: window.box_desk.enter_file(path))
    room.picture_wanted.connect(lambda source: window.box_desk.take_swatch(source))
    room.box_wanted.connect(lambda: window.box_desk.new_box())
    room.slip_wanted.connect(lambda sector: window.box_desk.shop_slip(sector))
    room.refill_wanted.connect(lambda: window.box_desk.tests.refill())
    room.subject_wanted.connect(lambda key: _choose_for(window, key))
    room.card_wanted.connect(lambda: window.box_desk.tests.plan_one_card())
    room.table_wanted.connect(
        lambda on_paper: (
            window.box_desk.prints.print_table() if on_paper else window.box_desk.prints.export_table()
        )
    )
    return room


def _make_plan(window: "MainWindow") -> "Room":
    from culmo.desk.rooms.plan.view import PlanRoom

    room = PlanRoom(window.session, window.state, window.settings, window.rooms)
    room.start_painting.connect(lambda: window.show_room(RoomName.PAINT))
    return room


def _make_paint(window: "MainWindow") -> "Room":
    from culmo.desk.rooms.paint.view import PaintRoom

    return PaintRoom(window.session, window.state, parent=window.rooms)


def _make_read(window: "MainWindow") -> "Room":
    from culmo.desk.rooms.read.view import ReadRoom

    room = ReadRoom(window.session, window.state, window.settings, window.rooms)
    room.waiting.connect(lambda waits: window.tabs.mark(RoomName.READ, waits))
    return room


def _make_weigh(window: "MainWindow") -> "Room":
    from culmo.desk.rooms.weigh.view import WeighRoom

    room = WeighRoom(
        window.session, window.state, lambda: window.rail.dab.recipe(), window.mixes, window.rooms
    )
    window.rail.dab.recipe_changed.connect(room.mix_changed)
    room.box_wanted.connect(lambda names: window.box_desk.box_from(names))
    return room


def _make_daybook(window: "MainWindow") -> "Room":
    from culmo.desk.rooms.daybook.view import DaybookRoom

    room = DaybookRoom(window.session, window.settings, window.rooms)
    room.go.connect(lambda entry: window.daybook_desk.go(entry))
    room.due_chosen.connect(lambda due: window.daybook_desk.go_to_due(due))
    room.picture_wanted.connect(lambda photo_id: window.daybook_desk.open_picture(photo_id))
    room.day_wanted.connect(lambda date: window.daybook_desk.book(date))
    room.note_change_wanted.connect(lambda note_id: window.daybook_desk.change_note(note_id))
    return room


SPECS = (
    RoomSpec(RoomName.BOX, trc("room", "Box"), _make_box),
    RoomSpec(RoomName.PLAN, trc("room", "Plan"), _make_plan),
    RoomSpec(RoomName.PAINT, trc("room", "Paint"), _make_paint),
    RoomSpec(RoomName.READ, trc("room", "Read"), _make_read),
    RoomSpec(RoomName.WEIGH, trc("room", "Weigh"), _make_weigh),
    RoomSpec(RoomName.DAYBOOK, trc("room", "Daybook"), _make_daybook),
)
