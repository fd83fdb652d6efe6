"""What the Sheet menu does."""

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QInputDialog

from culmo.desk.actions import Action, Menu, with_paints, with_picture, with_sheet, with_study, with_trial
from culmo.desk.room_names import RoomName
from culmo.study.formats import Holds, open_filter
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


def new_sheet(window: "MainWindow") -> None:
    """Choose the kind of a new sheet in the Plan room."""
    window.show_room(RoomName.PLAN)
    window.plan.choose_kind()


def plan_cards(window: "MainWindow") -> None:
    """Plan the cards of paints: masstone, bar, tint, patches to lift and to fade."""
    window.box_desk.tests.plan_cards()


def keep_plan(window: "MainWindow") -> None:
    """Save the layout that is being tried."""
    window.plan.trying.keep()


def discard_trial(window: "MainWindow") -> None:
    """Forget the layout that is being tried."""
    window.plan.trying.discard()


def swap(window: "MainWindow") -> None:
    """One paint of the sheet for another, before and after."""
    from culmo.desk.room_specs import begin_plan
    from culmo.desk.swap_dialog import SwapDialog
    from culmo.desk.swapping import SheetSwap

    record = window.state.record
    if record is None:
        return
    begin = partial(begin_plan, window)
    dialog = SwapDialog(window, SheetSwap(window.session, record.sheet, begin))
    dialog.exec()
    dialog.deleteLater()


def paint(window: "MainWindow") -> None:
    """Go to the table with this sheet."""
    window.show_room(RoomName.PAINT)


def open_picture(window: "MainWindow") -> None:
    """A picture for the Read room."""
    window.show_room(RoomName.READ)
    window.read.choose_picture()


def bring_old(window: "MainWindow") -> None:
    """A chart that was painted before."""
    window.show_room(RoomName.READ)
    window.read.old.begin(window.read.trial)


def practise(window: "MainWindow") -> None:
    """A practice photo of the sheet."""
    window.show_room(RoomName.READ)
    window.read.desk.practise()


def use_card(window: "MainWindow") -> None:
    """A reference card that lies in the picture."""
    name, _ = QFileDialog.getOpenFileName(
        window,
        tr("Values of the reference card"),
        "",
        open_filter(tr("Cards"), Holds.CARD),
    )
    if name:
        rows, done = QInputDialog.getInt(
            window, tr("Reference card"), tr("In how many rows do its patches lie?"), 1, 1, 40
        )
        if done:
            window.read.desk.use_card(Path(name), rows)


def watch_folder(window: "MainWindow") -> None:
    """Look for new pictures in a folder, or no longer."""
    window.show_room(RoomName.READ)
    if window.settings.watched:
        window.read.watch("")
        window.say(tr("No folder is watched any more"))
        return
    folder = QFileDialog.getExistingDirectory(window, tr("Where new pictures arrive"))
    if folder:
        window.read.watch(folder)
        window.say(tr("New pictures in {folder} are opened here", folder=folder))


def keep_inside(window: "MainWindow") -> None:
    """Keep pictures inside the study, or beside it."""
    window.settings.pictures_inside = not window.settings.pictures_inside
    place = tr("inside the study") if window.settings.pictures_inside else tr("in a folder beside the study")
    window.say(tr("From now on pictures are kept {place}", place=place))


def import_readings(window: "MainWindow") -> None:
    """Readings for the Read room."""
    window.show_room(RoomName.READ)
    window.read.choose_readings()


def start_fade(window: "MainWindow") -> None:
    """Begin its fade test; the looks are due from then on."""
    window.box_desk.tests.start_fade()


def end_fade(window: "MainWindow") -> None:
    """End its fade test; the looks stand."""
    window.box_desk.tests.end_fade()


def sheet_like_this(window: "MainWindow") -> None:
    """The layout of the sheet on the table, for other paints."""
    window.show_room(RoomName.PLAN)
    window.plan.begin_like()


ACTIONS: tuple[Action, ...] = (
    Action(
        "new sheet",
        tr("New sheet…"),
        Menu.SHEET,
        new_sheet,
        "Ctrl+G",
        lambda window: len(window.session.paints) > 1,
        help=tr("Plan a sheet of any kind with the paints in hand, or with the box"),
    ),
    Action(
        "sheet like this",
        tr("New sheet laid out like this one"),
        Menu.SHEET,
        sheet_like_this,
        "",
        with_sheet,
        help=tr(
            "The kind, the paper and all wishes of the sheet on the table, for the paints in hand or the box"
        ),
    ),
    Action(
        "cards",
        tr("Card pages…"),
        Menu.SHEET,
        plan_cards,
        "Ctrl+Shift+K",
        with_paints,
        help=tr("Plan the cards of paints: masstone, bar, tint, patches to lift and to fade"),
    ),
    Action(
        "keep plan",
        tr("Keep this plan"),
        Menu.SHEET,
        keep_plan,
        "Ctrl+S",
        with_trial,
        help=tr("Save the layout that is being tried"),
    ),
    Action(
        "leave plan",
        tr("Leave the layout as it was"),
        Menu.SHEET,
        discard_trial,
        "",
        with_trial,
        help=tr("Forget the layout that is being tried"),
    ),
    Action(
        "paint",
        tr("Paint this sheet"),
        Menu.SHEET,
        paint,
        "Ctrl+B",
        with_sheet,
        gap=True,
        help=tr("Go to the table with this sheet"),
    ),
    Action(
        "swap",
        tr("Swap a paint…"),
        Menu.SHEET,
        swap,
        "",
        with_sheet,
        help=tr("See every mix of this sheet with another paint in the place of one, and plan it so"),
    ),
    Action(
        "picture",
        tr("Open a picture of it…"),
        Menu.SHEET,
        open_picture,
        "Ctrl+I",
        with_sheet,
        help=tr("A photo or scan of the dry sheet; its cells are found and read"),
    ),
    Action(
        "old chart",
        tr("Bring in an old chart…"),
        Menu.SHEET,
        bring_old,
        "",
        with_study,
        help=tr(
            "Lay a grid, rows or a wheel over the picture of a chart that was painted before; it becomes a sheet"
        ),
    ),
    Action(
        "practice",
        tr("Practice photo"),
        Menu.SHEET,
        practise,
        "Ctrl+Shift+I",
        with_sheet,
        help=tr("A simulated camera takes a picture of this sheet as a hand would paint it"),
    ),
    Action(
        "card",
        tr("Reference card in the picture…"),
        Menu.SHEET,
        use_card,
        "",
        with_picture,
        help=tr("Correct the picture by a grey or colour card whose values are in a file"),
    ),
    Action(
        "watch",
        tr("Watch a folder for pictures…"),
        Menu.SHEET,
        watch_folder,
        "",
        with_study,
        checked=lambda window: bool(window.settings.watched),
        help=tr("A new picture in the folder is opened in the Read room; choose again to end it"),
    ),
    Action(
        "inside",
        tr("Keep pictures inside the study"),
        Menu.SHEET,
        keep_inside,
        "",
        checked=lambda window: window.settings.pictures_inside,
        help=tr("Otherwise they lie in a folder beside it"),
    ),
    Action(
        "readings",
        tr("Import readings…"),
        Menu.SHEET,
        import_readings,
        "Ctrl+R",
        with_study,
        help=tr("Readings from a CSV or CGATS file"),
    ),
    Action(
        "window",
        tr("Put it into the window…"),
        Menu.SHEET,
        start_fade,
        "",
        lambda window: window.box_desk.tests.can_fade(),
        gap=True,
        help=tr("Begin its fade test; the looks are due from then on"),
    ),
    Action(
        "from window",
        tr("Take it out of the window"),
        Menu.SHEET,
        end_fade,
        "",
        lambda window: window.box_desk.tests.can_fade(),
        help=tr("End its fade test; the looks stand"),
    ),
)
