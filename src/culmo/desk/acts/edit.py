"""What the Edit menu does."""

from typing import TYPE_CHECKING

from PySide6.QtGui import QGuiApplication

from culmo.desk.actions import Action, Menu, can_paste, can_redo, can_undo, with_cell, with_study
from culmo.desk.widgets import WEIGH
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


def undo(window: "MainWindow") -> None:
    """Take back the last act."""
    window.session.undo.undo()


def redo(window: "MainWindow") -> None:
    """Do it again."""
    window.session.undo.redo()


def paste(window: "MainWindow") -> None:
    """What the clipboard holds, for the room on view."""
    if QGuiApplication.clipboard().mimeData() is None:
        window.say(tr("The clipboard is empty"))
    elif window.current_room is not None:
        window.current_room.paste()


def find_mix(window: "MainWindow") -> None:
    """A colour wanted."""
    window.show_room(WEIGH)
    window.weigh.find_colour()


def find_like_selected(window: "MainWindow") -> None:
    """Mixes that look like the selected cell."""
    window.show_room(WEIGH)
    window.weigh.find_like_selected()


def search(window: "MainWindow") -> None:
    """A paint, a pigment, a word, a mark, a date or a colour, in everything that was done."""
    window.daybook_desk.search()


def search_selected(window: "MainWindow") -> None:
    """Readings and wanted colours near the selected cell of the sheet."""
    window.daybook_desk.search_selected()


def go_to_anything(window: "MainWindow") -> None:
    """All acts by name, with the paints, sheets and mixes to go to."""
    from culmo.desk.go_to import go_to

    go_to(window)


ACTIONS: tuple[Action, ...] = (
    Action(
        "undo",
        tr("Undo"),
        Menu.EDIT,
        undo,
        "Ctrl+Z",
        can_undo,
        help=tr("Take back the last act"),
    ),
    Action(
        "redo",
        tr("Redo"),
        Menu.EDIT,
        redo,
        "Ctrl+Shift+Z",
        can_redo,
        help=tr("Do it again"),
    ),
    Action(
        "paste",
        tr("Paste"),
        Menu.EDIT,
        paste,
        "Ctrl+V",
        can_paste,
        gap=True,
        help=tr(
            "In the Box room a list of paints or a picture of a swatch, in the Read room a picture "
            "of the sheet, in the Weigh room a colour to look for, in the Daybook a picture for the "
            "note"
        ),
    ),
    Action(
        "find",
        tr("Find a mix…"),
        Menu.EDIT,
        find_mix,
        "Ctrl+L",
        with_study,
        gap=True,
        help=tr("A colour wanted: the recipes that come nearest"),
    ),
    Action(
        "find like",
        tr("Find mixes like the selected one"),
        Menu.EDIT,
        find_like_selected,
        "Ctrl+Shift+L",
        with_cell,
        help=tr("Other mixes that look like the selected cell of the sheet"),
    ),
    Action(
        "go to",
        tr("Go to…"),
        Menu.EDIT,
        go_to_anything,
        "Ctrl+K",
        gap=True,
        help=tr("Any act by its name; paints, sheets and kept mixes to go to"),
    ),
    Action(
        "search",
        tr("Search the record…"),
        Menu.EDIT,
        search,
        "Ctrl+F",
        with_study,
        help=tr("A paint, a pigment, a word, a mark, a date or a colour, in everything that was done"),
    ),
    Action(
        "search like",
        tr("Search colours like the selected one"),
        Menu.EDIT,
        search_selected,
        "Ctrl+J",
        with_cell,
        help=tr("Readings and wanted colours near the selected cell of the sheet"),
    ),
)
