"""A hand that presses, types, clicks and orders at random whatever is on view."""

import random

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QWidget,
)  # fmt: skip

from culmo.desk.app import settle

KEYS = [getattr(Qt.Key, f"Key_{name}") for name in (
    "Left", "Right", "Up", "Down", "Space", "Return", "Escape", "Delete", "Tab", "Home", "End", "PageUp", "PageDown",
    "1", "5", "N", "S", "R", "X", "T", "D", "W", "Plus", "Minus", "0",
)]  # fmt: skip
WORDS = (
    "",
    "Rose",
    "3 Lemon",
    "#5a6b4c",
    "50, 10, -20",
    "nonsense",
    "-1",
    "1e9",
    "A" * 300,
    "ÄÖ ü",
    "12",
    '"',
    "20 x 15",
)


def answer_dialog(dialog, rng):
    """Fill a dialog with words, press some of its buttons, and see that it ends; gives its result."""
    dialog.show()
    QApplication.processEvents()
    for field in dialog.findChildren(QLineEdit):
        if field.isVisible() and field.isEnabled() and rng.random() < 0.5:
            field.setText(rng.choice(WORDS))
    for _ in range(rng.randrange(4)):
        found = [b for b in dialog.findChildren(QAbstractButton) if b.isVisible() and b.isEnabled()]
        if found and dialog.isVisible():
            rng.choice(found).click()
            QApplication.processEvents()
    if dialog.isVisible():
        dialog.reject()
    return dialog.result()


def pages(window, milliseconds=1):
    """Show every page of every room, one after the other; gives the place of its room while it is on view."""
    for place in range(6):
        window.show_room(place)
        settle(window, milliseconds)
        shows = getattr(window.rooms.currentWidget(), "shows", None)
        for page in range(len(shows.buttons) if shows is not None else 1):
            if shows is not None:
                shows.choose(page)
                settle(window, milliseconds)
            yield place


class Hand:
    """Presses, types and clicks at random in what is on view."""

    def __init__(self, window, seed, left_alone=()):
        self.window, self.rng, self.done, self.left_alone = window, random.Random(seed), [], left_alone

    def on_view(self, kind):
        """The widgets of a kind that a hand could reach now."""
        return [w for w in self.window.findChildren(kind) if w.isVisible() and w.isEnabled()]

    def step(self):
        """One thing or another."""
        act = self.rng.choice(
            (
                self.press,
                self.press,
                self.key,
                self.key,
                self.click,
                self.type,
                self.turn,
                self.order,
                self.undo,
            )
        )
        act()

    def press(self):
        buttons = self.on_view(QAbstractButton)
        if buttons:
            button = self.rng.choice(buttons)
            self.done.append(f"press {button.text() or button.accessibleName()}")
            button.click()

    def key(self):
        target = QApplication.focusWidget() or self.window
        if not self.window.isAncestorOf(target):
            target = self.window
        key = self.rng.choice(KEYS)
        self.done.append(f"key {key} to {type(target).__name__}")
        QTest.keyClick(
            target, key, self.rng.choice((Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier))
        )

    def click(self):
        widgets = [
            w
            for w in self.on_view(QWidget)
            if w.width() > 4 and w.height() > 4 and not isinstance(w, QAbstractButton)
        ]
        widget = self.rng.choice(widgets)
        at = QPoint(self.rng.randrange(widget.width()), self.rng.randrange(widget.height()))
        self.done.append(f"click {type(widget).__name__} {at.x()} {at.y()}")
        way = self.rng.choice((QTest.mouseClick, QTest.mouseClick, QTest.mouseDClick))
        way(
            widget,
            Qt.MouseButton.LeftButton,
            self.rng.choice((Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier)),
            at,
        )

    def type(self):
        fields = [w for w in self.on_view(QLineEdit) if not w.isReadOnly()]
        if fields:
            field, word = self.rng.choice(fields), self.rng.choice(WORDS)
            self.done.append(f"type {word[:20]!r} into {field.accessibleName() or field.placeholderText()}")
            field.setFocus()
            field.selectAll()
            if word.isascii():
                QTest.keyClicks(field, word)
            else:
                field.setText(word)
                field.textEdited.emit(word)
            if self.rng.random() < 0.6:
                QTest.keyClick(field, Qt.Key.Key_Return)

    def turn(self):
        """Choices, sliders, numbers and lists."""
        found = [
            *self.on_view(QComboBox),
            *self.on_view(QAbstractSlider),
            *self.on_view(QAbstractSpinBox),
            *self.on_view(QAbstractItemView),
        ]
        if not found:
            return
        widget = self.rng.choice(found)
        self.done.append(f"turn {type(widget).__name__} {widget.accessibleName()}")
        if isinstance(widget, QComboBox) and widget.count():
            place = self.rng.randrange(widget.count())
            widget.setCurrentIndex(place)
            widget.activated.emit(place)
        elif isinstance(widget, QAbstractSlider):
            widget.setValue(self.rng.randint(widget.minimum(), widget.maximum()))
        elif isinstance(widget, QAbstractSpinBox):
            widget.stepBy(self.rng.choice((-10, -1, 1, 10)))
        elif (
            isinstance(widget, QAbstractItemView) and widget.model() is not None and widget.model().rowCount()
        ):
            index = widget.model().index(self.rng.randrange(widget.model().rowCount()), 0)
            widget.setCurrentIndex(index)
            widget.activated.emit(index)

    def order(self):
        """Something from the menus."""
        names = [
            name for name, action in self.window.actions_by_id.items()
            if action.isEnabled() and name not in self.left_alone and name.split()[0] not in self.left_alone
        ]  # fmt: skip
        name = self.rng.choice(names)
        self.done.append(f"order {name}")
        self.window.actions_by_id[name].trigger()

    def undo(self):
        stack = self.window.session.undo
        way = self.rng.choice((stack.undo, stack.redo, stack.redo))
        self.done.append(way.__name__)
        way()
