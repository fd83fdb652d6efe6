"""Walks through every page of the window: which words have not the room they need, and which are in English still."""

import gettext
import math
import re
import sys
from functools import cache
from pathlib import Path

from babel.messages.pofile import read_po
from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QFontMetricsF, QPainter
from PySide6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QPlainTextEdit,
    QPushButton,
    QStyle,
    QStyleOptionButton,
    QStyleOptionComboBox,
    QToolButton,
    QWidget,
)

BOX, PLAN, PAINT, READ, WEIGH, DAYBOOK = range(6)


def pages(window):
    """Go to each page of each room in turn; gives what it is called."""
    for room in (BOX, PLAN, PAINT, READ, WEIGH, DAYBOOK):
        window.show_room(room)
        yield f"room {room}"
        view = (window.box, window.plan, window.paint, window.read, window.weigh, window.daybook)[room]
        shows = getattr(view, "shows", None)
        for place in range(len(shows.buttons) if shows is not None else 0):
            shows.choose(place)
            yield f"room {room}, page {place}"
            yield from _parts(view, place, f"room {room}, page {place}")
        if shows is not None:
            shows.choose(0)
        slip = view.pages if room == BOX else getattr(view, "slip", None)
        tabs = getattr(slip, "tabs", None)
        for place in range(len(tabs.buttons) if tabs is not None else 0):
            tabs.choose(place)
            yield f"room {room}, slip {place}"


def _parts(view, place, called):
    """The parts of a page that are chosen by words of its own."""
    kinds = getattr(view.page(place), "kinds", None) if hasattr(view, "page") else None
    for part in range(len(kinds.buttons) if kinds is not None else 0):
        kinds.choose(part)
        yield f"{called}, part {part}"


def cut_off(window):
    """The words on view that are cut: (text, what it needs, what it has)."""
    found = []
    for widget in [w for kind in (QLabel, QPushButton, QToolButton) for w in window.findChildren(kind)]:
        text = widget.text().replace("&", "")
        if (
            not widget.isVisible()
            or not text
            or widget.visibleRegion().isEmpty()
            or widget.objectName() == "elided"
        ):
            continue
        metrics = widget.fontMetrics()
        if isinstance(widget, QLabel) and widget.wordWrap():
            longest = max(metrics.horizontalAdvance(word) for word in text.split() or [""])
            flags = Qt.TextFlag.TextWordWrap
            needed = metrics.boundingRect(0, 0, widget.width(), 10000, flags, text).height()
            if longest > widget.width() + 2:
                found.append((text, longest, widget.width()))
            elif needed > widget.height() + 3:
                found.append((text, needed, widget.height()))
        else:
            wide = max(metrics.horizontalAdvance(line) for line in text.split("\n"))
            has = _room(widget) if isinstance(widget, QPushButton) else widget.width()
            if wide > has + 2:
                found.append((text, wide, has))
    return found + [chosen for combo in window.findChildren(QComboBox) if (chosen := _cut_choice(combo))]


def _room(button):
    """How wide the words of a button may be, within its padding."""
    option = QStyleOptionButton()
    button.initStyleOption(option)
    return button.style().subElementRect(QStyle.SubElement.SE_PushButtonContents, option, button).width()


def _cut_choice(combo):
    """What is chosen, where its field has not room for it and does not say so: (text, what it needs, what it has)."""
    option = QStyleOptionComboBox()
    combo.initStyleOption(option)
    field = combo.style().subControlRect(
        QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, combo
    )
    needs = combo.fontMetrics().horizontalAdvance(option.currentText)
    if combo.isVisible() and not combo.visibleRegion().isEmpty() and needs > field.width() + 2:
        return option.currentText, needs, field.width()
    return None


# neither a date such as 29.11. nor what stands as it is typed: L, a and b, the wash of a recipe
_POINT = re.compile(r"(?<![\d.])\d+\.\d+(?![\d.])")
_TYPED = re.compile(r"-?\d+\.\d+,? -?\d+\.\d+,? -?\d+\.\d+|v?\d+\.\d+\.\d+|@ \d\.\d+")


def with_point(texts):
    """The texts with a number that is written with a point."""
    return sorted(text for text in texts if _POINT.search(_TYPED.sub("", text)))


def shown_texts(window):
    """What the widgets on view say."""
    kinds = (QLabel, QAbstractButton, QLineEdit)
    shown = [w for kind in kinds for w in window.findChildren(kind) if w.isVisible()]
    return {w.text() for w in shown if not w.visibleRegion().isEmpty()}


def hear_drawn(heard):
    """What is drawn by the rooms themselves is put into a set from now on, where it is drawn."""
    for kind, name in ((QPainter, "drawText"), (QFontMetricsF, "elidedText")):
        own = getattr(kind, name)

        def hear(itself, *values, own=own, **more):
            heard.update(value for value in values if isinstance(value, str))
            return own(itself, *values, **more)

        setattr(kind, name, hear)


@cache
def words_of(text):
    """The words in a text, folded; the short ones may belong to any language."""
    return set(re.findall(r"[a-zäöüß]{3,}", re.sub(r"\{.*?\}", "", text).casefold()))


class English:
    """The words that stand in the program's English and not in its translation, nor in the painter's own study."""

    # the name of a language is said in that language; papers have their names
    OWN = frozenset({"english", "quarter", "half", "full", "imperial"})

    def __init__(self, language, study):
        from culmo import data

        path = Path(data.__file__).parent / "locale" / language / "LC_MESSAGES" / "culmo.po"
        english, translated = set(), set()
        with path.open("rb") as file:
            for message in read_po(file):
                for texts, known in ((message.id, english), (message.string, translated)):
                    for text in [texts] if isinstance(texts, str) else texts or ():
                        known |= words_of(text)
        rows = [row for table in study.dump().values() for row in table]
        painters = set().union(*(words_of(v) for row in rows for v in row.values() if isinstance(v, str)))
        self.words = english - translated - painters - self.OWN
        self.painted = set()
        hear_drawn(self.painted)

    def on_view(self, window):
        """The texts of the window that hold such a word."""
        texts = set(self.painted)
        self.painted.clear()
        for widget in window.findChildren(QWidget):
            texts |= {widget.toolTip(), widget.accessibleName()}
            if isinstance(widget, QComboBox):
                texts |= {widget.itemText(place) for place in range(widget.count())}
            elif isinstance(widget, QLineEdit):
                texts.add(widget.placeholderText())
            elif isinstance(widget, QLabel | QPushButton | QToolButton):
                texts.add(widget.text())
        return sorted(text for text in texts if words_of(text) & self.words)


def _lengthened(message, more):
    """What makes a text longer by so many letters, in words of its own length."""
    word = max((len(word) for word in re.sub(r"\{.*?\}", "", message).split()), default=4)
    text = ""
    while more > 0:
        text += "o" * min(more, word) if not text and " " not in message else " " + "o" * min(more, word)
        more -= word + 1
    return text


class Pseudo(gettext.NullTranslations):
    """A language in which every text is itself, longer by four letters in ten, in brackets: what has no room for another
    language is cut, and what never went through a catalogue stands bare."""

    OPEN, CLOSE = "⁅", "⁆"
    LONGER = 0.4

    def gettext(self, message):
        shown = len(re.sub(r"\{.*?\}|&", "", message))
        more = math.ceil(self.LONGER * shown) - 2  # the brackets are two
        return f"{self.OPEN}{message}{_lengthened(message, more)}{self.CLOSE}"

    def ngettext(self, msgid1, msgid2, n):
        return self.gettext(msgid1 if n == 1 else msgid2)

    def pgettext(self, context, message):
        return self.gettext(message)


class Bare(English):
    """The words that stand outside the brackets, and are neither the painter's own nor symbols of the field."""

    OWN = frozenset(
        {
            "mm", "cm", "in", "ml", "min",  # units
            "culmo", "english", "deutsch", "ctrl", "shift", "alt", "del", "esc",  # names of things, of keys
            "de", "de00", "lab", "hex",
        }
    )  # fmt: skip
    _INSIDE = re.compile("⁅[^⁅⁆]*⁆")

    def __init__(self, study):
        rows = [row for table in study.dump().values() for row in table]
        own = {str(value).casefold() for row in rows for value in row.values() if isinstance(value, str)}
        from culmo.core.chart.papers import PAPERS  # what speaks is loaded after the language was chosen

        own |= {paper.name.casefold() for paper in PAPERS}
        own.add(str(study.path).casefold())
        self.own = sorted({text for value in own for text in (value, *value.splitlines())} - {""}, key=len)[
            ::-1
        ]
        self.painted = set()
        self.seen = {}  # most texts stand on every page
        hear_drawn(self.painted)

    def is_bare(self, text):
        """Whether something of a text went through no catalogue."""
        if text not in self.seen:
            self.seen[text] = self._is_bare(text)
        return self.seen[text]

    def _is_bare(self, text):
        left, before = text, ""
        while left != before:
            left, before = self._INSIDE.sub(" ", left), left
        left = re.sub("⁅.*…|⁅[^⁆]*$|^[^⁅]*⁆", " ", left).casefold()  # cut short, or a line of several
        for cut in re.findall(r"[^\s…:+][^…:+]*(?=…)", left):  # the painter's own, cut short
            if any(cut.strip() in own for own in self.own):
                left = left.replace(f"{cut}…", " ")
        for own in self.own:
            # what the study itself says of its acts stands in the language of that day, and is cut into lines
            if own in left:
                left = left.replace(own, " ")
            elif left.strip() and left.strip() in own:
                return False
        left = re.sub(r"\bp(?:bk|br|[a-z])\d+", " ", left)  # Colour Index names
        return bool(set(re.findall(r"[a-zäöü]{2,}", left)) - self.OWN)

    def on_view(self, window):
        texts = set(self.painted)
        self.painted.clear()
        for widget in (*window.findChildren(QWidget), window):
            texts |= {widget.toolTip(), widget.accessibleName(), widget.windowTitle(), widget.statusTip()}
            if isinstance(widget, QComboBox):
                texts |= {widget.itemText(place) for place in range(widget.count())}
            elif isinstance(widget, QLineEdit | QPlainTextEdit):
                texts.add(widget.placeholderText())
            elif isinstance(widget, QLabel | QAbstractButton):
                texts.add(widget.text())
            elif isinstance(widget, QListWidget):
                texts |= {widget.item(place).text() for place in range(widget.count())}
        for action in window.findChildren(QAction):
            texts |= {action.text().replace("&", ""), action.toolTip().replace("&", "")}
        return sorted(text for text in texts if self.is_bare(text))


def main(language: str, study: str, folder: str, size: str = "100") -> int:
    """Open a study in a language at 1024 x 700, and print what is cut, or not translated, on which page.

    Parameters
    ----------
    language : str, a code, or "pseudo"
    study, folder : str, a study, and where the settings are
    size : str, of the text, in per cent
    """
    from culmo import words

    pseudo = language == "pseudo"
    if pseudo:
        words._speech.catalogue = Pseudo()
    else:
        words.use(language, ",")
    from culmo.desk.app import make_app, settle
    from culmo.desk.settings import Settings
    from culmo.desk.window import MainWindow

    app = make_app()
    settings = Settings.at(Path(folder) / "s.ini")
    settings.text_size = int(size)
    window = MainWindow(settings)
    window.resize(1024, 700)
    window.show()
    window.open_path(Path(study))
    window.session.selection.select_sheet(1)
    window.state.select("r02c01")
    settle(window, 30)
    from culmo.study.records import sheet_titles

    english = Bare(window.session.file) if pseudo else English(language, window.session.file)
    sheets = [sheet_id for sheet_id, _ in reversed(sheet_titles(window.session.file))]
    for name in pages(window):
        # at the table a sheet that is half painted, in the other rooms one that is read
        window.session.selection.select_sheet(sheets[1] if name.startswith(f"room {PAINT}") else sheets[0])
        for _ in range(3):  # one piece of work begins the next
            settle(window, 40)
        assert window.size().toTuple() == (1024, 700), (name, window.size())
        for text, needs, has in cut_off(window):
            print(f"{name}: {text!r} needs {needs}, has {has}")
        window.grab()
        for text in english.on_view(window):
            print(f"{name}: {text!r} is in English", flush=True)
    window.session.unsaved.leave_out()
    window.close()
    del app
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
