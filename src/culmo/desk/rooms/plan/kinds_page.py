"""Which kind of sheet: each as a picture made of the painter's own paints, with what it tells and how long it takes."""

from collections.abc import Generator

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QImage, QKeyEvent, QPainter, QPaintEvent, QPalette, QPen
from PySide6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from culmo.core.chart.darks import DarkLean
from culmo.core.chart.kind import Kind
from culmo.core.chart.kinds import KINDS
from culmo.core.paint.predict import predict_known
from culmo.core.steps import scaled
from culmo.desk.drawing.cell_look import cell_looks
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.sheet import SheetStyle, drawing_sheet, sheet_transform
from culmo.desk.drawn import usual_height, usual_painter, usual_width, wrapped
from culmo.desk.guard import guarded
from culmo.desk.rooms.plan.at_hand import aids_of, dark_at_hand, names_at_hand, pace_of
from culmo.desk.rooms.plan.kinds_model import Begun, beginning
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, STEP, px, sans, text_scale
from culmo.desk.widgets import ARROWS, as_tip, scrolled
from culmo.desk.wrap_row import WrapRow
from culmo.words import tr

_CARD = (180, 196)  # usual lengths
PICTURE = (168, 113)
_JOB = "kinds"


@guarded
class KindCard(QAbstractButton):
    """One kind."""

    stepped = Signal(object)  # by an arrow key: right and down, each -1, 0 or 1
    left = Signal()

    def __init__(self, kind: Kind) -> None:
        super().__init__()
        self.kind = kind
        self.picture: QImage | None = None
        self.about = ""
        self.setText(kind.title)
        self.setAccessibleName(f"{kind.title}: {kind.words}")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setFixedSize(px(_CARD[0]), px(_CARD[1]))

    def show_begun(self, picture: QImage | None, about: str, possible: bool) -> None:
        """Its picture, and what is said of it."""
        self.picture, self.about = picture, about
        self.setEnabled(possible)
        self.setAccessibleDescription(about)
        self.setToolTip(as_tip(f"{self.kind.title}: {self.kind.words}\n{about}"))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(px(_CARD[0]), px(_CARD[1]))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = ARROWS.get(Qt.Key(event.key()))
        if step is not None:
            self.stepped.emit(step)
        elif event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        palette = self.palette()
        strong, soft = (
            palette.color(QPalette.ColorRole.WindowText),
            palette.color(QPalette.ColorRole.PlaceholderText),
        )
        place = QRectF(6, 6, *PICTURE)
        if self.picture is not None:
            size = self.picture.deviceIndependentSize().scaled(
                place.size(), Qt.AspectRatioMode.KeepAspectRatio
            )
            picture = QRectF(0.0, 0.0, size.width(), size.height())
            picture.moveCenter(place.center())
            painter.fillRect(picture.translated(2, 2), QPalette().color(QPalette.ColorRole.Mid))
            painter.drawImage(picture, self.picture)
        else:
            painter.fillRect(place, PAPER)
        if self.hasFocus() or self.underMouse():
            painter.setPen(QPen(strong, 2.4 if self.hasFocus() else 1.2))
            painter.drawRect(QRectF(1.5, 1.5, usual_width(self) - 3, usual_height(self) - 3))
        self._lines(painter, self.kind.title, 122, 1, sans(11.5, sans().Weight.DemiBold), strong)
        self._lines(painter, self.kind.words, 142, 2, sans(10), strong)
        self._lines(painter, self.about, 177, 1, sans(10), soft)

    def _lines(
        self, painter: QPainter, text: str, top: float, most: int, font: QFont, colour: QColor
    ) -> None:
        painter.setFont(font)
        painter.setPen(colour)
        for number, line in enumerate(wrapped(text, font, usual_width(self) - 14, most)):
            room = QRectF(7, top + 16 * number, usual_width(self) - 14, 18)
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, line)


def picturing(
    found: list[Begun], looks: Looks | None, size: QSize, ratio: float
) -> Generator[float, None, dict[str, QImage]]:
    """A picture of each kind that can be begun, by its key; yields how far it is."""
    pictures = {}
    for number, begun in enumerate(found):
        yield number / len(found)
        if begun.sheet is not None:
            pictures[begun.kind.key] = yield from _picture(begun, looks, size, ratio)
    return pictures


def _picture(begun: Begun, looks: Looks | None, size: QSize, ratio: float) -> Generator[float, None, QImage]:
    sheet = begun.sheet
    assert sheet is not None
    scale = min(size.width() / sheet.paper.width_mm, size.height() / sheet.paper.height_mm)
    wide, high = round(sheet.paper.width_mm * scale), round(sheet.paper.height_mm * scale)
    image = QImage(round(wide * ratio), round(high * ratio), QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(PAPER)
    known = None
    if looks is not None:
        known = predict_known(
            looks.estimate, [cell.recipe for cell in sheet.cells], [cell.ground for cell in sheet.cells]
        )
    painter = QPainter(image)
    try:
        transform, pixels = sheet_transform(sheet, QRectF(0, 0, wide, high))
        painter.setTransform(transform, True)
        style = SheetStyle(
            show="predicted", pixels_per_mm=pixels * ratio, looks=cell_looks(sheet.cells, known, {})
        )
        for _ in drawing_sheet(painter, sheet, looks, style):
            yield 0.0
    finally:
        painter.end()
    return image


@guarded
class KindsPage(QWidget):
    """All kinds, to be begun by a click or by Enter."""

    chosen = Signal(str, object)
    left = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        inner = QWidget()
        row = WrapRow(STEP)
        inner.setLayout(row)
        self.cards = [KindCard(kind) for kind in KINDS]
        for card in self.cards:
            card.clicked.connect(lambda _=False, card=card: self._choose(card))
            card.stepped.connect(lambda step, card=card: self._go(card, step))
            card.left.connect(self.left)
            row.addWidget(card)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, STEP, 0, 0)
        layout.addWidget(scrolled(inner))
        self.setAccessibleName(tr("Kinds of sheet"))
        self._begun: dict[str, Begun] = {}
        self._made_of: tuple[object, ...] = ()  # what the pictures were made from, and by
        self._looks: Looks | None = None

    def make_ready(self, common: dict[str, str]) -> None:
        """Have the pictures made, beside the window's own work, where they are not those of the paints at hand.

        Parameters
        ----------
        common : dict from the names of options to what is typed for each kind
        """
        session = self.session
        names, looks, aids = names_at_hand(session), session.learning.looks, aids_of(session)
        made_of = (tuple(names), tuple(common.items()), len(aids.keepers), text_scale())
        if made_of == self._made_of and looks is self._looks:
            return
        self._made_of, self._looks = made_of, looks
        size, ratio = QSize(*(px(length) for length in PICTURE)), self.devicePixelRatioF()
        pace, dark = pace_of(session), dark_at_hand(session, DarkLean.DEEPEST)

        def work() -> Generator[float, None, tuple[list[Begun], dict[str, QImage]]]:
            found = yield from scaled(beginning(names, common, aids, pace, dark), 0.0, 0.3)
            pictures = yield from scaled(picturing(found, looks, size, ratio), 0.3, 1.0)
            return found, pictures

        session.drawing.start(_JOB, work, lambda made: self.show_begun(*made), session.failed.emit)

    def show_begun(self, found: list[Begun], pictures: dict[str, QImage]) -> None:
        """Each kind as it would be begun."""
        self._begun = {begun.kind.key: begun for begun in found}
        for card in self.cards:
            begun = self._begun.get(card.kind.key)
            if begun is not None:
                card.show_begun(pictures.get(card.kind.key), begun.about, begun.sheet is not None)

    def take_keys(self) -> None:
        """The keys go to the first kind; Enter begins it."""
        self.cards[0].setFocus()

    def _choose(self, card: KindCard) -> None:
        begun = self._begun.get(card.kind.key)
        texts = begun.texts if begun is not None else card.kind.begun_with(names_at_hand(self.session))
        self.chosen.emit(card.kind.key, dict(texts))

    def _go(self, card: KindCard, step: tuple[int, int]) -> None:
        """To the next card in a direction that can be chosen."""
        by = step[0] + step[1] * self._columns()
        place = self.cards.index(card) + by
        while 0 <= place < len(self.cards):
            if self.cards[place].isEnabled():
                self.cards[place].setFocus()
                return
            place += by

    def _columns(self) -> int:
        first = self.cards[0].y()
        return max(1, sum(card.y() == first for card in self.cards))
