"""Help that works offline: a page for each room, the list of keys, the cautions."""

from importlib.resources import files

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QTextBrowser, QVBoxLayout, QWidget

from culmo import __version__
from culmo.desk.actions import CAUTIONS, ROOMS, keys_text
from culmo.desk.theme import sans

ABOUT = (
    f"<p><b>Culmo {__version__}</b></p><p>Free software under the GNU General Public License, version 3 or "
    "later.</p><p>Typefaces: Cabin and Vollkorn, SIL Open Font License 1.1. CIE tables as published with "
    "the colour-science package, BSD-3-Clause. Built with Qt (LGPL), NumPy, SciPy and pyqtgraph.</p>"
)


def room_text(room: str) -> str:
    """The help of a room, as Markdown.

    Parameters
    ----------
    room : str, one of ROOMS
    """
    return files("culmo.data").joinpath("help", f"{room.casefold()}.md").read_text(encoding="utf-8")


def _dialog(parent: QWidget, title: str) -> QTextBrowser:
    dialog = QDialog(parent)
    dialog.setWindowTitle(title)
    dialog.resize(680, 620)
    layout = QVBoxLayout(dialog)
    text = QTextBrowser()
    text.setFont(sans(11))
    text.setAccessibleName(title)
    layout.addWidget(text)
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
    buttons.rejected.connect(dialog.reject)
    layout.addWidget(buttons)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.open()
    return text


def show_room_help(parent: QWidget, place: int) -> None:
    """The page of a room; the Box room's where none is on view."""
    room = ROOMS[place] if 0 <= place < len(ROOMS) else ROOMS[0]
    _dialog(parent, f"Help: {room}").setMarkdown(room_text(room))


def show_keys(parent: QWidget) -> None:
    """The list of keys."""
    _dialog(parent, "Keys").setHtml(keys_text())


def show_cautions(parent: QWidget) -> None:
    """What can hurt."""
    _dialog(parent, "Cautions").setHtml(CAUTIONS)


def show_about(parent: QWidget) -> None:
    """Version and licences."""
    _dialog(parent, "About Culmo").setHtml(ABOUT)
