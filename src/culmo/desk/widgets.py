"""The small parts of which every room is made."""

from collections.abc import Callable, Hashable, Mapping, Sequence
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import QCoreApplication, QEvent, QObject, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontMetrics,
    QImage,
    QKeyEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtGui import Qt as TextQt
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QStyle,
    QStyleOptionComboBox,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from culmo.core.paint.recipe import mix
from culmo.desk.drawing.pencil import draw_empty_stroke
from culmo.desk.guard import guarded
from culmo.desk.theme import PAPER, PENCIL, STEP, give_font, px, sans, scaled, serif
from culmo.desk.wrap_row import WrapRow
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.drawing.looks import Looks

SLIP_WIDTH = 280
_TAB_MARGIN = 9
_HINT_POINTS = (10.0, 9.0, 8.0, 7.0)
ARROWS = {  # right and down
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
}  # fmt: skip
NOTHING = -1  # no word of a strip is chosen
Placed = TypeVar("Placed", bound=Hashable)


def nearest(places: Mapping[Placed, QPointF], current: Placed | None, step: tuple[int, int]) -> Placed:
    """The nearest thing in a direction; the first where none is current, the current one where there is none.

    Parameters
    ----------
    places : mapping from a thing, or its id, to its middle, not empty
    current : one of them; None or something else where none is
    step : tuple of right and down, each -1, 0 or 1
    """
    if current is None or current not in places:
        return next(iter(places))
    best, best_cost = current, float("inf")
    for thing, place in places.items():
        way = place - places[current]
        ahead = way.x() * step[0] + way.y() * step[1]
        aside = abs(way.x() * step[1]) + abs(way.y() * step[0])
        if ahead > 1.0 and ahead + 3.0 * aside < best_cost:
            best, best_cost = thing, ahead + 3.0 * aside
    return best


@guarded
class NamePicker(QComboBox):
    """A choice among the painter's own names, which may be long: where the field has not room it says so by dots, and the
    whole name is its tip."""

    def initStyleOption(self, option: QStyleOptionComboBox) -> None:
        super().initStyleOption(option)
        field = self.style().subControlRect(
            QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, self
        )
        # a pixel is left: the style sets its text that much in
        option.currentText = self.fontMetrics().elidedText(
            option.currentText, Qt.TextElideMode.ElideRight, field.width() - 1
        )

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip:
            self.setToolTip(as_tip(self.currentText()))
        return super().event(event)


def title_label(text: str = "", points: float = 16.0) -> QLabel:
    """A title in the serif."""
    label = QLabel(text)
    label.setTextFormat(Qt.TextFormat.PlainText)  # what a painter named is never taken for markup
    give_font(label, serif(points))
    label.setWordWrap(True)
    return label


def text_label(text: str = "", *, soft: bool = False, bold: bool = False, points: float = 10.5) -> QLabel:
    """Plain text, wrapped."""
    label = QLabel(text)
    label.setTextFormat(Qt.TextFormat.PlainText)  # what a painter named is never taken for markup
    give_font(label, sans(points, QFont.Weight.DemiBold if bold else QFont.Weight.Normal))
    label.setWordWrap(True)
    if soft:
        label.setObjectName("soft")
    return label


def caption(text: str, field: QWidget) -> QLabel:
    """The word above a field, bound to it: a screen reader says the two together."""
    label = text_label(text, soft=True, points=10)
    label.setBuddy(field)
    return label


def as_tip(text: str) -> str:
    """A text as a tip shows it: Qt takes for markup what looks like it, and would load what that names."""
    import html  # seldom needed, and the window is to be there soon

    return html.escape(text).replace("\n", "<br>") if TextQt.mightBeRichText(text) else text


def as_tip_with(image: QImage, text: str) -> str:
    """A picture with a text below it as a tip shows them."""
    import base64  # seldom needed, as above
    import html

    from culmo.desk.drawing.png import png_bytes

    data = base64.b64encode(png_bytes(image)).decode("ascii")
    words = html.escape(text).replace("\n", "<br>")
    return f'<p><img src="data:image/png;base64,{data}"></p><p>{words}</p>'


def as_label(text: str) -> str:
    """A text as a menu or a button shows it: an ampersand is none of a key."""
    return text.replace("&", "&&")


@guarded
class ElidedLabel(QLabel):
    """A line of text that ends in dots where there is no room for all of it; the tip says it whole."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self.setTextFormat(Qt.TextFormat.PlainText)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().windowText().color())
        box = self.contentsRect()
        text = QFontMetrics(self.font()).elidedText(self.text(), Qt.TextElideMode.ElideRight, box.width())
        self.setToolTip(as_tip(self.text()) if text != self.text() else "")
        painter.drawText(box, self.alignment(), text)

    def minimumSizeHint(self) -> QSize:
        return QSize(60, super().minimumSizeHint().height())


def rule() -> QFrame:
    """A thin line between sections."""
    line = QFrame()
    line.setObjectName("rule")
    line.setFixedHeight(1)
    return line


@guarded
class TabStrip(QWidget):
    """A row of words of which one is chosen; arrow keys move, as in a tab bar."""

    chosen = Signal(int)

    def __init__(
        self, words: Sequence[str], points: float = 10.5, name: str = "", wraps: bool = True
    ) -> None:
        super().__init__()
        self._wraps = wraps
        layout = self._row = WrapRow(0)
        self.setLayout(layout)
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)  # what has no room on the line begins another
        self.setSizePolicy(policy)
        self.words = list(words)
        self.buttons: list[QToolButton] = []
        for place, word in enumerate(words):
            button = QToolButton()
            button.setObjectName("tab")
            button.setText(word)
            give_font(button, sans(points, QFont.Weight.Medium))
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setCursor(Qt.CursorShape.PointingHandCursor)
            button.clicked.connect(lambda _=False, place=place: self.choose(place))
            button.setMinimumWidth(QFontMetrics(button.font()).horizontalAdvance(word) + 6)
            layout.addWidget(button)
            self.buttons.append(button)
        self.setAccessibleName(name)
        self.current = 0
        self._margin = _TAB_MARGIN
        self.buttons[0].setChecked(True)

    def resizeEvent(self, _: object) -> None:
        """Words stand closer together before any of them is cut."""
        margin = min(_TAB_MARGIN, (self.width() - self._with_margin(0)) // (2 * len(self.buttons)))
        if margin < 1:  # two lines, with room on each
            margin = _TAB_MARGIN if self._wraps else 1
        if margin != self._margin:
            self._margin = margin
            for button in self.buttons:
                button.setStyleSheet(f"QToolButton#tab {{ margin: 0 {margin}px; }}")

    def sizeHint(self) -> QSize:
        """All words on one line."""
        return QSize(self._with_margin(_TAB_MARGIN), super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        least = super().minimumSizeHint()
        return least if self._wraps else QSize(self.least_line(), least.height())

    def least_line(self) -> int:
        """How wide all words are on one line, with little between them."""
        return self._with_margin(1)

    def _with_margin(self, margin: int) -> int:
        return self._row.one_line() + 2 * (margin - self._margin) * len(self.buttons)

    def mark(self, place: int, marked: bool) -> None:
        """Put a dot behind a word: something waits there."""
        word = self.words[place]
        self.buttons[place].setText(f"{word} •" if marked else word)
        self.buttons[place].setAccessibleName(
            tr("{word}, something waits there", word=word) if marked else word
        )

    def choose_none(self) -> None:
        """None of the words is chosen: what they stand for is not there."""
        for button in self.buttons:
            button.setAutoExclusive(False)
            button.setChecked(False)
            button.setAutoExclusive(True)
        self.current = NOTHING

    def choose(self, place: int) -> None:
        """Choose a word."""
        self.buttons[place].setChecked(True)
        if place != self.current:
            self.current = place
            self.chosen.emit(place)


@guarded
class Slip(QScrollArea):
    """The narrow strip at the right; sections are laid one below the other."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._foot: QWidget | None = None
        self.setFixedWidth(px(SLIP_WIDTH))
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        inner = QWidget()
        inner.setObjectName("slip")
        self.lines = QVBoxLayout(inner)
        self.lines.setContentsMargins(2 * STEP, STEP + 4, 2 * STEP, 2 * STEP)
        self.lines.setSpacing(STEP)
        self.setWidget(inner)

    def set_foot(self, foot: QWidget) -> None:
        """What stays in sight below the sections, however far they are scrolled."""
        foot.setObjectName("slip")
        foot.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        foot.setParent(self)
        self._foot = foot
        foot.installEventFilter(self)
        self._place_foot()

    def _place_foot(self) -> None:
        if self._foot is not None:
            height = self._foot.sizeHint().height()
            self.setViewportMargins(0, 0, 0, height)
            self._foot.setGeometry(0, self.height() - height, self.width(), height)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._foot and event.type() == QEvent.Type.LayoutRequest:
            self._place_foot()
        return super().eventFilter(watched, event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place_foot()

    def lay_out(self) -> None:
        """Lay out what was put in just now; new parts would lie on each other until the event loop came to them."""
        held = self.widget()
        assert held is not None
        for part in held.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly):
            if part.testAttribute(Qt.WidgetAttribute.WA_WState_Hidden) and not part.testAttribute(
                Qt.WidgetAttribute.WA_WState_ExplicitShowHide
            ):
                part.show()  # as the event loop would
        self.lines.activate()
        QCoreApplication.sendEvent(self, QEvent(QEvent.Type.LayoutRequest))


class TabbedSlip(QWidget):
    """A slip with several pages; they are made as children of `pages`, and then held."""

    def __init__(self, words: Sequence[str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("slip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(px(SLIP_WIDTH))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.tabs = TabStrip(words, name=tr("Pages of the slip"))
        layout.addWidget(self.tabs)
        layout.addWidget(rule())
        self.pages = QStackedWidget()
        layout.addWidget(self.pages, 1)
        self.tabs.chosen.connect(self.pages.setCurrentIndex)

    def hold(self, *pages: QWidget) -> None:
        """The pages, in the order of their words."""
        for page in pages:
            self.pages.addWidget(page)

    def turn_to(self, page: QWidget) -> None:
        """Show one of the pages, as if its word in the strip were pressed."""
        self.tabs.choose(self.pages.indexOf(page))


def scrolled(part: QWidget) -> QScrollArea:
    """A part that is scrolled where the window is too low for it, or text is large; else it fills its place."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    part.setObjectName("ground")
    area.setWidget(part)
    return area


class FactRow(QWidget):
    """A word at the left and its value at the right."""

    def __init__(self, word: str, value: str = "") -> None:
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.word = text_label(word, soft=True)
        self.value = text_label(value, bold=True)
        self.value.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.word.setWordWrap(False)
        layout.addWidget(self.word)
        layout.addWidget(self.value, 1)

    def set(self, value: str) -> None:
        """Show another value."""
        self.value.setText(value)


def draw_edge(painter: QPainter, box: QRectF, recorded: bool) -> None:
    """The edge of a patch: firm where it was painted and read, a broken pencil line where it is planned."""
    if recorded:
        painter.setPen(QPen(QColor(20, 20, 20), 1.5))
    else:
        pen = QPen(PENCIL, 1.0, Qt.PenStyle.CustomDashLine)
        pen.setDashPattern([4.0, 3.0])
        painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box)


@guarded
class Swatch(QWidget):
    """A patch: pencil-edged where it is predicted, firm where it is recorded, empty where nothing is known."""

    def __init__(self, height: int = 56) -> None:
        super().__init__()
        self.setFixedHeight(px(height))
        self._wished = height
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._make: Callable[[int, int, float], QImage | None] | None = None
        self._colour: QColor | None = None
        self._recorded = self._empty_stroke = False
        self._hint = ""

    def sizeHint(self) -> QSize:
        return QSize(px(120), px(self._wished))

    def show_image(self, make: Callable[[int, int, float], QImage] | None, recorded: bool = False) -> None:
        """Show what `make` gives for a size in pixels and the pixels a point."""
        self._make, self._colour, self._recorded, self._empty_stroke = make, None, recorded, False
        self.update()

    def show_colour(self, colour: QColor | None, recorded: bool = True, hint: str = "") -> None:
        """Show a plain colour, or nothing with a word of explanation."""
        self._make, self._colour, self._recorded, self._hint = None, colour, recorded, hint
        self._empty_stroke = False
        self.update()

    def show_read(self, colour: QColor, make: "Callable[[int, int, float], QImage | None] | None") -> None:
        """Show what was read: the real paint, as `make` gives it for a size, else its colour."""
        self.show_colour(colour)
        self._make = make

    def show_paint(self, looks: "Looks | None", name: str, read: bool) -> None:
        """Show a paint's stroke, or an empty one where nothing is known of it."""
        recipe = mix([name])
        if looks is not None and looks.knows(recipe):
            self.show_image(lambda w, h, r: looks.paint_stroke(name, w, h, r), read)
        else:
            self.show_colour(None)
            self._empty_stroke = True

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.fillRect(box, PAPER)
        if self._empty_stroke:
            draw_empty_stroke(painter, box.adjusted(4, 3, -4, -3))
        elif self._make is not None:
            ratio = self.devicePixelRatioF()
            image = self._make(round((box.width() - 4) * ratio), round((box.height() - 4) * ratio), ratio)
            if image is not None:
                painter.drawImage(box.adjusted(2, 2, -2, -2), image)
            elif self._colour is not None:
                painter.fillRect(box.adjusted(2, 2, -2, -2), self._colour)
        elif self._colour is not None:
            painter.fillRect(box.adjusted(2, 2, -2, -2), self._colour)
        elif self._hint:
            painter.setPen(QColor(96, 96, 96))
            room, flags = box.adjusted(4, 2, -4, -2), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            for points in _HINT_POINTS:  # smaller where it has not the room
                painter.setFont(scaled(sans(points)))
                if room.contains(painter.boundingRect(room, flags, self._hint)):
                    break
            painter.drawText(room, flags, self._hint)
        draw_edge(painter, box, self._recorded and bool(self._make or self._colour))


@guarded
class Room(QWidget):
    """A room: what it shows is brought up to date when it is seen, not while it is hidden.

    It stands in the window before its parts are put into it, and so do slips and their pages: Qt gives all that is in a
    part its style once more whenever the part is moved, which took a quarter of the time in which the window came up.
    """

    _stale = True

    def lay_ground(self) -> QVBoxLayout:
        """The wide ground for the room's picture."""
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        ground = QWidget()
        ground.setObjectName("ground")
        main = QVBoxLayout(ground)
        main.setContentsMargins(3 * STEP, STEP, 3 * STEP, STEP + 4)
        layout.addWidget(ground, 1)
        return main

    def lay_slip(self, slip: QWidget) -> None:
        """The slip at the right of the ground."""
        layout = self.layout()
        assert layout is not None
        layout.addWidget(slip)

    def refresh(self) -> None:
        """Show things as they stand; each room does it in its way (Qt's objects can not be abstract classes)."""
        raise NotImplementedError

    def take_keys(self) -> None:
        """The keys go to what is worked with here."""
        self.setFocus()

    def paste(self) -> None:
        """What the clipboard holds, where the room has a use for it."""

    def refresh_when_seen(self) -> None:
        """Bring up to date now where the room is on view, else when it next is."""
        self._stale = True
        if self.isVisible():
            self._stale = False
            self.refresh()

    def showEvent(self, _: object) -> None:
        if self._stale:
            self._stale = False
            self.refresh()


@guarded
class Entry(QLineEdit):
    """A line to type in, which can be marked as wrong without losing what was typed."""

    def __init__(self, placeholder: str = "", name: str = "") -> None:
        super().__init__()
        self.setPlaceholderText(placeholder)
        self.setAccessibleName(name or placeholder)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()  # it was meant for the field; the room behind has acts of its own on this key

    def mark_wrong(self, why: str = "") -> None:
        """Show that the text can not be taken, and why."""
        self.setProperty("wrong", bool(why))
        self.setToolTip(as_tip(why))
        self.style().unpolish(self)
        self.style().polish(self)


def clear_layout(layout: QLayout) -> None:
    """Remove everything from a layout."""
    while layout.count():
        item = layout.takeAt(0)
        if item is None:
            break
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
