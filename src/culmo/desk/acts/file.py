"""What the File menu does."""

from typing import TYPE_CHECKING

from culmo.desk.actions import Action, Menu, with_sheet, with_study
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.window import MainWindow


def new_study(window: "MainWindow") -> None:
    """Begin an empty study."""
    window.studies.new_study()


def open_study(window: "MainWindow") -> None:
    """Open a study from a file."""
    window.studies.open_study()


def open_sample(window: "MainWindow") -> None:
    """Look round in invented data."""
    window.studies.open_sample()


def export_sheet(window: "MainWindow") -> None:
    """The sheet at true scale as PDF, SVG or PNG, its cells as CSV or JSON."""
    window.out.export_sheet()


def print_sheet(window: "MainWindow") -> None:
    """The sheet on paper at 1:1, with a check bar."""
    window.out.print_sheet()


def import_files(window: "MainWindow") -> None:
    """Readings, sheets, paints, wanted colours or measurements from open files."""
    window.files.import_files()


def share_sheet(window: "MainWindow") -> None:
    """The sheet with its paints and readings in one file; import it there."""
    window.out.share_sheet()


def export_study(window: "MainWindow") -> None:
    """Everything into a new folder: one file to make it again from, and tables, sheets, palettes beside it."""
    window.out.export_study()


def save_copy(window: "MainWindow") -> None:
    """The whole study with its pictures on another disk or in another folder; this one stays open."""
    window.studies.save_copy()


def move_study(window: "MainWindow") -> None:
    """Another place or name, with its pictures and its copies."""
    window.studies.move_study()


def put_back(window: "MainWindow") -> None:
    """The study as it was at an earlier hour; what is there now is kept as a copy."""
    window.studies.put_back()


def recover_study(window: "MainWindow") -> None:
    """A new study from what can be read of a damaged file."""
    window.files.recover_study()


def book(window: "MainWindow") -> None:
    """A day, a sheet or the whole study as a PDF with charts, recipes, readings, notes and reasons; or printed."""
    window.daybook_desk.book()


def card(window: "MainWindow") -> None:
    """The keepers with their parts on a card to cut out."""
    window.daybook_desk.card()


def quit(window: "MainWindow") -> None:
    """Close the window; all is saved."""
    window.close()


ACTIONS: tuple[Action, ...] = (
    Action(
        "new",
        tr("New study…"),
        Menu.FILE,
        new_study,
        "Ctrl+N",
        help=tr("Begin an empty study"),
    ),
    Action(
        "open",
        tr("Open study…"),
        Menu.FILE,
        open_study,
        "Ctrl+O",
        help=tr("Open a study from a file"),
    ),
    Action(
        "sample",
        tr("Open the sample study"),
        Menu.FILE,
        open_sample,
        help=tr("Look round in invented data"),
    ),
    Action(
        "export",
        tr("Export the sheet…"),
        Menu.FILE,
        export_sheet,
        "Ctrl+E",
        with_sheet,
        gap=True,
        help=tr("The sheet at true scale as PDF, SVG or PNG, its cells as CSV or JSON"),
    ),
    Action(
        "print",
        tr("Print the sheet…"),
        Menu.FILE,
        print_sheet,
        "Ctrl+P",
        with_sheet,
        help=tr("The sheet on paper at 1:1, with a check bar"),
    ),
    Action(
        "import",
        tr("Import…"),
        Menu.FILE,
        import_files,
        "",
        with_study,
        gap=True,
        help=tr("Readings, sheets, paints, wanted colours or measurements from open files"),
    ),
    Action(
        "share sheet",
        tr("Give the sheet to another study…"),
        Menu.FILE,
        share_sheet,
        "",
        with_sheet,
        help=tr("The sheet with its paints and readings in one file; import it there"),
    ),
    Action(
        "export study",
        tr("Export the whole study…"),
        Menu.FILE,
        export_study,
        "",
        with_study,
        help=tr(
            "Everything into a new folder: one file to make it again from, and tables, sheets, "
            "palettes beside it"
        ),
    ),
    Action(
        "save copy",
        tr("Save a copy elsewhere…"),
        Menu.FILE,
        save_copy,
        "",
        with_study,
        gap=True,
        help=tr(
            "The whole study with its pictures on another disk or in another folder; this one stays open"
        ),
    ),
    Action(
        "move study",
        tr("Move or rename the study…"),
        Menu.FILE,
        move_study,
        "",
        with_study,
        help=tr("Another place or name, with its pictures and its copies"),
    ),
    Action(
        "put back",
        tr("Put back a copy…"),
        Menu.FILE,
        put_back,
        help=tr("The study as it was at an earlier hour; what is there now is kept as a copy"),
    ),
    Action(
        "recover",
        tr("Recover a damaged study…"),
        Menu.FILE,
        recover_study,
        help=tr("A new study from what can be read of a damaged file"),
    ),
    Action(
        "book",
        tr("Write a book…"),
        Menu.FILE,
        book,
        "Ctrl+Shift+E",
        with_study,
        gap=True,
        help=tr(
            "A day, a sheet or the whole study as a PDF with charts, recipes, readings, notes and "
            "reasons; or printed"
        ),
    ),
    Action(
        "carry",
        tr("A card to carry…"),
        Menu.FILE,
        card,
        "",
        with_study,
        help=tr("The keepers with their parts on a card to cut out"),
    ),
    Action(
        "quit",
        tr("Quit"),
        Menu.FILE,
        quit,
        "Ctrl+Q",
        gap=True,
        help=tr("Close the window; all is saved"),
    ),
)
