"""What the Edit menu does."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtGui import QGuiApplication

from culmo.desk.actions import (
    Action,
    Menu,
    can_paste,
    can_redo,
    can_undo,
    with_cell,
    with_colour,
    with_mix,
    with_pair,
    with_recipe,
    with_study,
    with_thing,
)
from culmo.desk.room_names import RoomName
from culmo.desk.things import Thing
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.core.paint.recipe import Recipe
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


def copy(window: "MainWindow") -> None:
    """What is selected, in each form that another program may want."""
    window.going_out.copy()


def copy_recipe(window: "MainWindow") -> None:
    """The recipes of what is selected, as they are typed."""
    window.going_out.copy_each(Thing.typed)


def copy_numbers(window: "MainWindow") -> None:
    """L, a and b of what is selected."""
    window.going_out.copy_each(Thing.numbers)


def copy_hex(window: "MainWindow") -> None:
    """The screen colours of what is selected."""
    window.going_out.copy_each(Thing.hex)


def copy_picture(window: "MainWindow") -> None:
    """How it looks."""
    window.going_out.copy_picture()


def _with_mix(window: "MainWindow", act: Callable[["Recipe"], object]) -> None:
    """Do something with the selected mix, where one is."""
    thing = window.going_out.the_mix()
    if thing is not None and thing.recipe is not None:
        act(thing.recipe)


def take_in_hand(window: "MainWindow") -> None:
    """The selected mix, with its parts and its water."""
    _with_mix(window, window.mixes.take)


def keep_mix(window: "MainWindow") -> None:
    """Keep the selected mix with a note."""
    _with_mix(window, window.mixes.keep)


def plan_ratio_test(window: "MainWindow") -> None:
    """A ratio test of the two paints of the selected mix."""
    _with_mix(window, window.mixes.plan_ladder)


def find_like_thing(window: "MainWindow") -> None:
    """Mixes that look like the selected thing."""
    thing = next((thing for thing in window.going_out.chosen() if thing.lab is not None), None)
    if thing is not None:
        window.show_room(RoomName.WEIGH)
        window.weigh.find_colour(thing.lab, thing.name)


def find_mix(window: "MainWindow") -> None:
    """A colour wanted."""
    window.show_room(RoomName.WEIGH)
    window.weigh.find_colour()


def find_like_selected(window: "MainWindow") -> None:
    """Mixes that look like the selected cell."""
    window.show_room(RoomName.WEIGH)
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
        "copy",
        tr("Copy"),
        Menu.EDIT,
        copy,
        "Ctrl+C",
        with_thing,
        gap=True,
        help=tr(
            "The selected paint, mix or cell as a row of text, a colour and a picture: each program takes what it can"
        ),
        of_thing=True,
    ),
    Action(
        "paste",
        tr("Paste"),
        Menu.EDIT,
        paste,
        "Ctrl+V",
        can_paste,
        help=tr(
            "In the Box room a list of paints or a picture of a swatch, in the Read room a picture "
            "of the sheet, in the Weigh room a colour to look for, in the Daybook a picture for the "
            "note"
        ),
    ),
    Action(
        "copy recipe",
        tr("Copy the recipe"),
        Menu.EDIT,
        copy_recipe,
        "",
        with_recipe,
        help=tr("As it is typed, so that Culmo reads it again"),
        of_thing=True,
    ),
    Action(
        "copy lab",
        tr("Copy L a b"),
        Menu.EDIT,
        copy_numbers,
        "",
        with_colour,
        help=tr("CIELAB by daylight D65"),
        of_thing=True,
    ),
    Action(
        "copy hex",
        tr("Copy the screen colour"),
        Menu.EDIT,
        copy_hex,
        "",
        with_colour,
        help=tr("The nearest colour of sRGB, with a number sign and six digits"),
        of_thing=True,
    ),
    Action(
        "copy picture",
        tr("Copy as a picture"),
        Menu.EDIT,
        copy_picture,
        "",
        with_colour,
        help=tr("A predicted wash, or the plain colour that was read"),
        of_thing=True,
    ),
    Action(
        "take",
        tr("Take in hand"),
        Menu.EDIT,
        take_in_hand,
        "",
        with_mix,
        gap=True,
        help=tr("The selected mix, with its parts and its water, for the dab at the left"),
        of_thing=True,
    ),
    Action(
        "keep mix",
        tr("Keep the mix…"),
        Menu.EDIT,
        keep_mix,
        "",
        with_mix,
        help=tr("The selected mix, with a note on what it is good for"),
        of_thing=True,
    ),
    Action(
        "test ratios",
        tr("Plan a ratio test of the two"),
        Menu.EDIT,
        plan_ratio_test,
        "",
        with_pair,
        help=tr("The two paints of the selected mix in steps from one to the other"),
        of_thing=True,
    ),
    Action(
        "find like thing",
        tr("Find mixes that look like it"),
        Menu.EDIT,
        find_like_thing,
        "",
        with_colour,
        help=tr("Other mixes of your paints that look like the selected thing"),
        of_thing=True,
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
