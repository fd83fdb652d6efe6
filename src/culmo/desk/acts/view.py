"""What the View menu does."""

from typing import TYPE_CHECKING

from culmo.desk.actions import LIGHT_WORDS, ROOM_IDS, ROOMS, Action, Menu, has_light, looks, to_light, to_room
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


def set_flat(window: "MainWindow") -> None:
    """Plain colour instead of washes, for judging by number."""
    window.session.learning.set_flat(not window.session.learning.flat)


def toggle_full_screen(window: "MainWindow") -> None:
    """All of the screen, or not."""
    window.showNormal() if window.isFullScreen() else window.showFullScreen()


ACTIONS: tuple[Action, ...] = (
    *(
        Action(
            f"room {ROOM_IDS[i]}",
            room,
            Menu.VIEW,
            to_room(i),
            f"Ctrl+{i + 1}",
            help=tr("Go to the {room} room", room=room),
        )
        for i, room in enumerate(ROOMS)
    ),
    Action(
        "flat",
        tr("Flat colour"),
        Menu.VIEW,
        set_flat,
        "F9",
        checked=lambda window: window.session.learning.flat,
        gap=True,
        help=tr("Plain colour instead of washes, for judging by number"),
    ),
    *(
        Action(
            f"light {i}",
            word,
            Menu.VIEW,
            to_light(i),
            checked=has_light(i),
            gap=i == 0,
            help=tr("See everything under {what}", what=word.casefold()),
        )
        for i, word in enumerate(LIGHT_WORDS)
    ),
    *looks(),
    Action(
        "full screen",
        tr("Full screen"),
        Menu.VIEW,
        toggle_full_screen,
        "F11",
        checked=lambda window: window.isFullScreen(),
        gap=True,
        help=tr("All of the screen for the window"),
    ),
)
