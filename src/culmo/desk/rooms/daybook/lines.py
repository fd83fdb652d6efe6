"""The Daybook's lines: one long list, of which only what is on view is drawn."""

from collections.abc import Sequence

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPersistentModelIndex,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QFrame, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from culmo.core.paint.recipe import parse_recipe
from culmo.desk.drawing.looks import fill_read
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawing.thumbs import Thumbs, ThumbShows
from culmo.desk.drawn import usual_part, wrapped
from culmo.desk.guard import guarded
from culmo.desk.rooms.daybook.model import DayLine
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, STEP, px, sans, serif, text_scale
from culmo.desk.things import Thing
from culmo.desk.widgets import draw_edge
from culmo.errors import CulmoError
from culmo.study import diary
from culmo.study.diary import DiaryEntry, DiaryPatch

_Index = QModelIndex | QPersistentModelIndex
TITLE_HEIGHT, LINE_HEIGHT, PICTURE_HEIGHT = 44, 30, 54
PICTURE_WIDTH = 112
_SHOW = {
    diary.DiaryKind.PLAN: ThumbShows.PLANNED,
    diary.DiaryKind.PAINT: ThumbShows.PROGRESS,
    "sheet": ThumbShows.ALL,
}


def has_picture(entry: DiaryEntry | None) -> bool:
    """Whether something of an entry can be drawn."""
    if entry is None:
        return False
    own_sheet = entry.sheet_id is not None and entry.cell_id is None
    return bool(entry.strokes or entry.patches or entry.photos or own_sheet)


@guarded
class LinesModel(QAbstractListModel):
    """The lines for Qt."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: Sequence[DayLine] = ()
        self.side_width = self.word_width = 64.0

    def show(self, lines: Sequence[DayLine]) -> None:
        """Other lines."""
        self.beginResetModel()
        self.lines = lines
        metrics = QFontMetricsF(sans(10))
        longest = sorted({line.side for line in lines}, key=len)[-6:]
        self.side_width = max([52.0, *(metrics.horizontalAdvance(side) for side in longest)]) + 12
        self.word_width = max([52.0, *(metrics.horizontalAdvance(line.word) for line in lines[:400])]) + 12
        self.endResetModel()

    def rowCount(self, _: _Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own default
        return len(self.lines)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        line = self.lines[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return " ".join(word for word in (line.side, line.word, line.text) if word)
        return None

    def flags(self, index: _Index) -> Qt.ItemFlag:
        if self.lines[index.row()].entry is None:
            return Qt.ItemFlag.ItemIsEnabled
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable


@guarded
class LineDelegate(QStyledItemDelegate):
    """Draws a line: time, kind, a small picture, words."""

    def __init__(self, session: Session, thumbs: Thumbs, model: LinesModel) -> None:
        super().__init__()
        self.session, self.thumbs, self.model = session, thumbs, model

    def sizeHint(self, option: QStyleOptionViewItem, index: _Index) -> QSize:
        line = self.model.lines[index.row()]
        if line.entry is None:
            return QSize(100, px(TITLE_HEIGHT))
        return QSize(100, px(PICTURE_HEIGHT if has_picture(line.entry) else LINE_HEIGHT))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        line = self.model.lines[index.row()]
        palette = option.palette
        state = option.state
        painter.save()
        rect = usual_part(painter, option.rect)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        text, soft = palette.windowText().color(), palette.placeholderText().color()
        if line.entry is None:
            painter.setFont(serif(13))
            painter.setPen(text)
            place = rect.adjusted(0, 8, 0, 0)
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, line.text)
            painter.restore()
            return
        if state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(text, 1.6))
            painter.setBrush(palette.base())
            painter.drawRoundedRect(rect.adjusted(1, 1, -1, -1), 4, 4)
        wide = self.model.side_width
        self._word(painter, line.side, QRectF(rect.left() + STEP, rect.top(), wide, rect.height()), soft)
        at = rect.left() + STEP + wide
        self._word(painter, line.word, QRectF(at, rect.top(), self.model.word_width, rect.height()), soft)
        at += self.model.word_width
        if has_picture(line.entry):
            place = QRectF(at, rect.top() + 4, PICTURE_WIDTH, rect.height() - 8)
            self.picture(painter, line.entry, place, soft)
        at += PICTURE_WIDTH + STEP
        self._text(
            painter, line.text, QRectF(at, rect.top() + 2, rect.right() - at - STEP, rect.height() - 4), text
        )
        painter.restore()

    def _word(self, painter: QPainter, text: str, place: QRectF, colour: QColor) -> None:
        painter.setFont(sans(10))
        painter.setPen(colour)
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)

    def _text(self, painter: QPainter, text: str, place: QRectF, colour: QColor) -> None:
        """Words, in as many lines as there is room for; what does not fit ends in dots."""
        font = sans(10.5)
        painter.setFont(font)
        painter.setPen(colour)
        for row, part in enumerate(
            rows := wrapped(text, font, place.width(), max(1, int(place.height() // 18)))
        ):
            top = place.center().y() - 9 * len(rows) + 18 * row
            painter.drawText(
                QRectF(place.left(), top, place.width(), 18), Qt.AlignmentFlag.AlignVCenter, part
            )

    def picture(self, painter: QPainter, entry: DiaryEntry, place: QRectF, soft: QColor) -> None:
        """The small picture of an entry."""
        ratio = painter.device().devicePixelRatioF() * text_scale()
        if entry.photos:
            self._photo(painter, entry.photos[0], place, ratio, soft)
        elif entry.strokes:
            self._strokes(painter, entry.strokes, place, ratio)
        elif entry.patches:
            self._patches(painter, entry.patches, place, ratio)
        elif entry.sheet_id is not None:
            width, height = round(place.width() * ratio), round(place.height() * ratio)
            image = self.thumbs.sheet(entry.sheet_id, _SHOW.get(entry.kind, ThumbShows.ALL), width, height)
            if image is not None:
                _draw_fitted(painter, image, place)

    def _photo(self, painter: QPainter, photo_id: int, place: QRectF, ratio: float, soft: QColor) -> None:
        image = self.thumbs.photo(photo_id, 256)
        if image is not None:
            _draw_fitted(painter, image, place)
            return
        painter.setPen(QPen(soft, 1, Qt.PenStyle.DotLine))
        painter.drawRect(place.adjusted(0.5, 0.5, -0.5, -0.5))
        self._word(painter, "?", place.adjusted(6, 0, 0, 0), soft)

    def _strokes(self, painter: QPainter, names: Sequence[str], place: QRectF, ratio: float) -> None:
        rows = 1 if len(names) <= 2 else 2
        columns = max(1, -(-min(len(names), 8) // rows))
        wide, high = place.width() / columns, place.height() / rows
        for number, name in enumerate(names[: rows * columns]):
            box = QRectF(
                place.left() + (number % columns) * wide,
                place.top() + (number // columns) * high,
                wide - 3,
                high - 3,
            )
            painter.fillRect(box, PAPER)
            draw_paint(painter, self.session.learning.looks, name, box, ratio)
            draw_edge(painter, box, name.casefold() not in self.session.learning.unread)

    def _patches(self, painter: QPainter, patches: Sequence[DiaryPatch], place: QRectF, ratio: float) -> None:
        rows = 1 if len(patches) == 1 else 2 if len(patches) <= 12 else 3
        columns = max(2, -(-len(patches) // rows))
        wide, high = place.width() / columns, place.height() / rows
        for number, patch in enumerate(patches):
            box = QRectF(
                place.left() + (number % columns) * wide,
                place.top() + (number // columns) * high,
                wide - 3,
                high - 3,
            )
            draw_patch(painter, self.session, patch, box, ratio)


def draw_patch(painter: QPainter, session: Session, patch: DiaryPatch, box: QRectF, ratio: float) -> None:
    """A patch as it was read, or else as it is predicted."""
    painter.fillRect(box, PAPER)
    if patch.lab is not None:
        real = session.real_paint.of(patch.recipe, patch.lab) if session.study is not None else None
        fill_read(painter, box.adjusted(1, 1, -1, -1), patch.lab, session.learning.looks, real)
        draw_edge(painter, box, True)
        return
    try:
        recipe = parse_recipe(patch.recipe)
    except CulmoError:
        return
    if session.learning.looks is not None and session.learning.knows(recipe):
        width, height = max(2, round(box.width() * ratio)), max(2, round(box.height() * ratio))
        painter.drawImage(box, session.learning.looks.wash(recipe, width, height, patch.recipe, ratio))
    draw_edge(painter, box, False)


def _draw_fitted(painter: QPainter, image: QImage, place: QRectF) -> None:
    scale = min(place.width() / image.width(), place.height() / image.height())
    width, height = image.width() * scale, image.height() * scale
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawImage(QRectF(place.left(), place.center().y() - height / 2, width, height), image)


@guarded
class LinesView(QListView):
    """The list; Enter goes to the thing itself."""

    chosen = Signal(object)
    entered = Signal(object)

    def __init__(self, session: Session, name: str) -> None:
        super().__init__()
        self.lines = LinesModel()
        self.thumbs = Thumbs(session)
        self.setModel(self.lines)
        self._delegate = LineDelegate(session, self.thumbs, self.lines)
        self.setItemDelegate(self._delegate)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setObjectName("lines")
        self.setAccessibleName(name)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.selectionModel().currentChanged.connect(lambda index, _: self.chosen.emit(self._entry(index)))
        self.doubleClicked.connect(lambda index: self.entered.emit(self._entry(index)))

    def _entry(self, index: _Index) -> DiaryEntry | None:
        return self.lines.lines[index.row()].entry if index.isValid() else None

    @property
    def current(self) -> DiaryEntry | None:
        """The chosen entry."""
        return self._entry(self.currentIndex())

    def selected_things(self) -> list[Thing]:
        """The chosen line, as text."""
        index = self.currentIndex()
        line = self.lines.lines[index.row()] if index.isValid() else None
        return [Thing("\t".join((line.side, line.word, line.text)))] if line is not None else []

    def show_lines(self, lines: Sequence[DayLine]) -> None:
        """Other lines; the chosen one stays chosen where it is still there."""
        before, scrolled = self.current, self.verticalScrollBar().value()
        self.lines.show(lines)
        again = next(
            (i for i, line in enumerate(lines) if line.entry is not None and line.entry == before), None
        )
        if again is not None:
            self.setCurrentIndex(self.lines.index(again))
            self.verticalScrollBar().setValue(scrolled)
        else:
            self.chosen.emit(None)

    def choose_first(self) -> None:
        """Choose the first line that can be chosen."""
        for row, line in enumerate(self.lines.lines):
            if line.entry is not None:
                self.setCurrentIndex(self.lines.index(row))
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current is not None:
            self.entered.emit(self.current)
            return
        super().keyPressEvent(event)
