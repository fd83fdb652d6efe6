"""What the Paint menu does."""

from typing import TYPE_CHECKING

from culmo.desk.actions import Action, Menu, in_box, to_arrange, with_box, with_hand, with_paint, with_study
from culmo.desk.room_names import RoomName
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


def add_paint(window: "MainWindow") -> None:
    """Enter a paint in the Box room."""
    window.show_room(RoomName.BOX)
    window.box.new_paint()


def enter_paints(window: "MainWindow") -> None:
    """Enter many paints in the Box room."""
    window.show_room(RoomName.BOX)
    window.box_desk.enter_paints()


def refill(window: "MainWindow") -> None:
    """Another paint takes the selected one's place."""
    window.box_desk.tests.refill()


def mixes_in_place(window: "MainWindow") -> None:
    """What stands in the place of the paint that is selected in the Box room."""
    paint = window.box.current_paint()
    if paint is not None:
        window.show_room(RoomName.WEIGH)
        window.weigh.replace_paint(paint.name)


def show_fewer(window: "MainWindow") -> None:
    """The best few paints."""
    from culmo.desk.rooms.weigh.view import WeighPageName

    window.show_room(RoomName.WEIGH)
    window.weigh.shows.choose(WeighPageName.FEWER)


def take_swatch(window: "MainWindow") -> None:
    """Colours of a swatch from a photo or scan."""
    window.box_desk.take_swatch()


def share_current_paint(window: "MainWindow") -> None:
    """The paint that is selected in the Box room, for another study."""
    paint = window.box.current_paint()
    if paint is not None:
        window.out.share_paint(paint.id, paint.name)


def bring_back(window: "MainWindow") -> None:
    """A paint that had left the box is in use again."""
    window.box_desk.bring_back()


def new_box(window: "MainWindow") -> None:
    """Rows and columns of wells with a name."""
    window.box_desk.new_box()


def change_box(window: "MainWindow") -> None:
    """Another name or another shape."""
    window.box_desk.change_box()


def remove_box(window: "MainWindow") -> None:
    """The box goes, its paints stay."""
    window.box_desk.remove_box()


def turn_pan(window: "MainWindow") -> None:
    """Change the pan of the selected well."""
    window.box_desk.turn_pan()


def print_well_map(window: "MainWindow") -> None:
    """The sheet for the lid at the box's true size."""
    window.box_desk.prints.print_well_map()


def export_well_map(window: "MainWindow") -> None:
    """The sheet for the lid as PDF, SVG or PNG."""
    window.box_desk.prints.export_well_map()


def shop_slip(window: "MainWindow") -> None:
    """What you have, what is missing, what to look for."""
    window.box_desk.shop_slip()


def empty_hands(window: "MainWindow") -> None:
    """Put all paints back."""
    for name in list(window.session.selection.in_hand):
        window.session.selection.toggle_in_hand(name)


def stop_learning(window: "MainWindow") -> None:
    """Break off the learning; the old figures stand."""
    window.session.learning.stop()


ACTIONS: tuple[Action, ...] = (
    Action(
        "add paint",
        tr("Add a paint…"),
        Menu.PAINT,
        add_paint,
        "Ctrl+Shift+N",
        with_study,
        help=tr("Enter a paint and its card"),
    ),
    Action(
        "enter",
        tr("Enter many paints…"),
        Menu.PAINT,
        enter_paints,
        "Ctrl+Shift+V",
        with_study,
        help=tr("Paste or type a list of paints, or open a table"),
    ),
    Action(
        "refill",
        tr("Refill its well…"),
        Menu.PAINT,
        refill,
        "",
        with_paint,
        help=tr("Another paint takes the selected one's place"),
    ),
    Action(
        "instead",
        tr("Mixes in its place"),
        Menu.PAINT,
        mixes_in_place,
        "",
        with_paint,
        help=tr("What stands in the place of the selected paint, from full wash to tint"),
    ),
    Action(
        "fewer",
        tr("Fewer paints"),
        Menu.PAINT,
        show_fewer,
        "Ctrl+Shift+F",
        with_study,
        help=tr("The best few paints of the box, and what they lose"),
    ),
    Action(
        "swatch",
        tr("Its card from a picture…"),
        Menu.PAINT,
        take_swatch,
        "",
        in_box,
        help=tr("Colours of a swatch from a photo or scan"),
    ),
    Action(
        "share paint",
        tr("Give it to another study…"),
        Menu.PAINT,
        share_current_paint,
        "",
        with_paint,
        help=tr("The paint with its card in one file; import it there"),
    ),
    Action(
        "bring back",
        tr("Bring back a retired paint…"),
        Menu.PAINT,
        bring_back,
        "",
        lambda window: window.box_desk.has_retired(),
        help=tr("A paint that had left the box is in use again"),
    ),
    Action(
        "new box",
        tr("Lay out a box…"),
        Menu.PAINT,
        new_box,
        "Ctrl+Shift+B",
        with_study,
        gap=True,
        help=tr("Rows and columns of wells with a name"),
    ),
    Action(
        "change box",
        tr("Change the box…"),
        Menu.PAINT,
        change_box,
        "",
        with_box,
        help=tr("Another name or another shape"),
    ),
    Action(
        "remove box",
        tr("Take the box apart"),
        Menu.PAINT,
        remove_box,
        "",
        with_box,
        help=tr("The box goes, its paints stay"),
    ),
    Action(
        "pan",
        tr("Half pan or full pan"),
        Menu.PAINT,
        turn_pan,
        "Ctrl+Shift+P",
        in_box,
        help=tr("Change the pan of the selected well"),
    ),
    *(
        Action(
            f"arrange {order}",
            words,
            Menu.PAINT,
            to_arrange(order),
            enabled=with_box,
            gap=i == 0,
            help=tr("Lay the box's paints in this order"),
        )
        for i, (order, words) in enumerate(
            (
                ("hue", tr("Arrange by hue")),
                ("lightness", tr("Arrange by lightness")),
                ("warm to cool", tr("Arrange from warm to cool")),
            )
        )
    ),
    Action(
        "print map",
        tr("Print the well map…"),
        Menu.PAINT,
        print_well_map,
        "",
        with_box,
        gap=True,
        help=tr("The sheet for the lid at the box's true size"),
    ),
    Action(
        "export map",
        tr("Export the well map…"),
        Menu.PAINT,
        export_well_map,
        "",
        with_box,
        help=tr("The sheet for the lid as PDF, SVG or PNG"),
    ),
    Action(
        "slip",
        tr("Shop slip…"),
        Menu.PAINT,
        shop_slip,
        "",
        with_study,
        help=tr("What you have, what is missing, what to look for"),
    ),
    Action(
        "empty hands",
        tr("Put all paints back"),
        Menu.PAINT,
        empty_hands,
        "Ctrl+0",
        with_hand,
        gap=True,
        help=tr("No paint in hand"),
    ),
    Action(
        "stop",
        tr("Stop learning"),
        Menu.PAINT,
        stop_learning,
        "Ctrl+.",
        lambda window: window.session.runner.busy("learn"),
        help=tr("Break off the learning; the old figures stand"),
    ),
)
