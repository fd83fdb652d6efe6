"""Help that works offline: a page for each room, the list of keys, the cautions."""

from collections.abc import Sequence
from importlib.resources import files

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QTextBrowser, QVBoxLayout, QWidget

from culmo import __version__
from culmo.desk.actions import CAUTIONS, ROOM_IDS, ROOMS, Action, Menu
from culmo.desk.room_names import RoomName
from culmo.desk.theme import give_font, sans
from culmo.words import language, tr

ABOUT = tr(
    "<p><b>Culmo {version}</b></p><p>Free software under the GNU General Public License, "
    "version 3 or later.</p><p>Typefaces: Cabin and Vollkorn, SIL Open Font License 1.1. CIE "
    "tables as published with the colour-science package, BSD-3-Clause.</p><p>Built with "
    "Python (PSF), Qt and Qt for Python (LGPL 3), NumPy, SciPy, Babel, threadpoolctl and defusedxml "
    "(BSD and PSF), OpenCV (Apache 2.0), Pillow (MIT-CMU), pillow-heif (BSD, with libheif, "
    "LGPL), rawpy (MIT, with LibRaw, LGPL), openpyxl and et_xmlfile (MIT).</p>",
    version=__version__,
)


def room_text(room: str) -> str:
    """The help of a room in the language that is spoken, as Markdown.

    Parameters
    ----------
    room : str, one of ROOM_IDS
    """
    pages = files("culmo.data").joinpath("help")
    own = pages.joinpath(language(), f"{room}.md")
    text = (own if own.is_file() else pages.joinpath(f"{room}.md")).read_text(encoding="utf-8")
    return f"{text}\n{options_text()}" if room == ROOM_IDS[RoomName.PLAN] else text


def options_text() -> str:
    """What can be chosen for each kind of sheet, as Markdown, from the kinds' own descriptions."""
    from culmo.core.chart.kinds import KINDS  # what computes is loaded with the first study
    from culmo.core.chart.page import Page

    page = {name: f"*{own.label}*" for name, own in Page.described().items()}
    lines = [
        "## " + tr("What can be chosen"),
        "",
        tr("For every kind: {what}.", what=", ".join(page.values())),
        "",
    ]
    for kind in KINDS:
        own = [f"*{option.label}*" for option in kind.options.described().values()]
        without = [page[name] for name in kind.without]
        said = ", ".join(own) or tr("nothing of its own")
        if without:
            said = tr("{what}; but not {without}", what=said, without=", ".join(without))
        lines.append(f"- **{kind.title}**: {said}.")
    return "\n".join(lines) + "\n"


def _dialog(parent: QWidget, title: str) -> QTextBrowser:
    dialog = QDialog(parent)
    dialog.setWindowTitle(title)
    dialog.resize(680, 620)
    layout = QVBoxLayout(dialog)
    text = QTextBrowser()
    give_font(text, sans(11))
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
    place = place if 0 <= place < len(ROOMS) else 0
    _dialog(parent, tr("Help: {room}", room=ROOMS[place])).setMarkdown(room_text(ROOM_IDS[place]))


def show_keys(parent: QWidget, actions: Sequence[Action]) -> None:
    """The list of keys."""
    _dialog(parent, tr("Keys")).setHtml(keys_text(actions))


def show_cautions(parent: QWidget) -> None:
    """What can hurt."""
    _dialog(parent, tr("Cautions")).setHtml(CAUTIONS)


def show_about(parent: QWidget) -> None:
    """Version and licences."""
    _dialog(parent, tr("About Culmo")).setHtml(ABOUT)


def keys_text(actions: Sequence[Action]) -> str:
    """All actions with their keys, as rich text."""
    rows = []
    for menu in Menu:
        rows.append(f"<tr><td colspan=3><br><b>{menu.title}</b></td></tr>")
        for action in actions:
            if action.menu is menu:
                native = QKeySequence(action.shortcut).toString(QKeySequence.SequenceFormat.NativeText)
                key = native.replace("+", " + ")
                rows.append(
                    f"<tr><td>{action.title}&nbsp;&nbsp;</td><td>{key}&nbsp;&nbsp;</td><td>{action.help}</td></tr>"
                )
    rows.append(f"<tr><td colspan=3><br><b>{tr('At the table (Paint room)')}</b></td></tr>")
    from culmo.desk.rooms.paint.words import KEYS

    for key, words in KEYS:
        rows.append(f"<tr><td></td><td>{key}</td><td>{words}</td></tr>")
    return f"<table>{''.join(rows)}</table>"
