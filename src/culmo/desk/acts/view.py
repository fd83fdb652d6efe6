"""What the View menu does."""

from typing import TYPE_CHECKING, cast

from PySide6.QtWidgets import QApplication

from culmo.desk.actions import LIGHT_WORDS, Action, Menu, has_light, looks, to_light, to_room
from culmo.desk.room_specs import SPECS
from culmo.desk.settings import USUAL
from culmo.desk.text_size import change_text, next_size
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


def set_flat(window: "MainWindow") -> None:
    """Plain colour instead of washes, for judging by number."""
    window.session.learning.set_flat(not window.session.learning.flat)


def toggle_full_screen(window: "MainWindow") -> None:
    """All of the screen, or not."""
    window.showNormal() if window.isFullScreen() else window.showFullScreen()


def set_text_size(window: "MainWindow", size: int) -> None:
    """Give all text another size, in per cent of the system's, and remember it."""
    window.settings.text_size = size
    change_text(cast("QApplication", QApplication.instance()), size)
    window.fit_rail()
    window.say(tr("Text at {size} %", size=size))


def larger_text(window: "MainWindow") -> None:
    """The text of the window a step larger."""
    set_text_size(window, next_size(window.settings.text_size, 1))


def smaller_text(window: "MainWindow") -> None:
    """The text of the window a step smaller."""
    set_text_size(window, next_size(window.settings.text_size, -1))


def usual_text(window: "MainWindow") -> None:
    """The text of the window as large as the system has it."""
    set_text_size(window, USUAL)


ACTIONS: tuple[Action, ...] = (
    *(
        Action(
            f"room {spec.id}",
            spec.title,
            Menu.VIEW,
            to_room(spec.name),
            f"Ctrl+{spec.name + 1}",
            help=tr("Go to the {room} room", room=spec.title),
        )
        for spec in SPECS
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
        "text larger",
        tr("Text larger"),
        Menu.VIEW,
        larger_text,
        "Ctrl++",
        gap=True,
        help=tr("All text of the window a step larger"),
    ),
    Action(
        "text smaller",
        tr("Text smaller"),
        Menu.VIEW,
        smaller_text,
        "Ctrl+-",
        help=tr("All text of the window a step smaller"),
    ),
    Action(
        "text usual",
        tr("Text as the system has it"),
        Menu.VIEW,
        usual_text,
        help=tr("The text of the window as large as that of other programs"),
    ),
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
