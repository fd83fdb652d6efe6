"""What the window gives to those who act for it: they are passed this, and know nothing else of the window."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtWidgets import QWidget

from culmo.desk.room_names import RoomName
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.desk.sheet_state import SheetState


@dataclass(frozen=True)
class Shell:
    """The frame of the window.

    Attributes
    ----------
    parent : QWidget that dialogs stand over
    session : Session
    state : SheetState, the sheet on the table
    settings : Settings
    say : function of a text, a passing word in the message line
    show_room : function of a RoomName
    show_first_page : function, where no study is open
    make_ready : function, makes what will show a study while its file is still looked through
    """

    parent: QWidget
    session: Session
    state: SheetState
    settings: Settings
    say: Callable[[str], None]
    show_room: Callable[[RoomName], None]
    show_first_page: Callable[[], None]
    make_ready: Callable[[], None]
