"""What the Help menu does."""

from typing import TYPE_CHECKING

from culmo.desk.actions import Action, Menu
from culmo.desk.help import show_about, show_cautions, show_keys, show_room_help
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


def room_help(window: "MainWindow") -> None:
    """The page of the room on view."""
    show_room_help(window, window.rooms.currentIndex())


def shortcuts(window: "MainWindow") -> None:
    """This list."""
    show_keys(window, window.menus.table)


def cautions(window: "MainWindow") -> None:
    """What can hurt, and what to do."""
    show_cautions(window)


def about(window: "MainWindow") -> None:
    """Version and licences."""
    show_about(window)


ACTIONS: tuple[Action, ...] = (
    Action(
        "help",
        tr("Help on this room"),
        Menu.HELP,
        room_help,
        "F1",
        help=tr("The page of the room on view"),
    ),
    Action(
        "shortcuts",
        tr("Keys"),
        Menu.HELP,
        shortcuts,
        "Ctrl+F1",
        help=tr("This list"),
    ),
    Action(
        "cautions",
        tr("Cautions"),
        Menu.HELP,
        cautions,
        help=tr("What can hurt, and what to do"),
    ),
    Action(
        "about",
        tr("About Culmo"),
        Menu.HELP,
        about,
        gap=True,
        help=tr("Version and licences"),
    ),
)
