"""The side-by-side page: two to four sheets, palettes or boxes, aligned by hue, place by place, or as they lie."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPalette, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from culmo.core.paint.predict import predict_known
from culmo.core.paint.recipe import spoken_recipe
from culmo.desk.drawing.cell_look import cell_looks
from culmo.desk.drawing.looks import qcolor
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawing.sheet import SheetStyle, draw_sheet, sheet_transform
from culmo.desk.drawn import fine_ratio, usual_height, usual_painter, usual_place, usual_width
from culmo.desk.guard import guarded
from culmo.desk.rooms.box.model import lab_text
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.side_model import (
    BOX,
    CHIPS,
    MOST_THINGS,
    PALETTE,
    SHEET,
    Choice,
    HueRow,
    PlaceRow,
    Spot,
    Thing,
    by_hue,
    choices,
    compared,
    leads,
    palette_thing,
    sheet_thing,
    summary,
)
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, px, sans
from culmo.desk.widgets import FactRow, Slip, Swatch, as_tip, draw_edge, rule, text_label, title_label
from culmo.study.palette_acts import kept_palettes
from culmo.study.records import sheet_record
from culmo.words import decimal, tr

MODES = (tr("By hue"), tr("Mix by mix"), tr("Place by place"), tr("As they lie"))
HUE, MIX, PLACE, LIE = range(4)
_MOST_FINE = 220  # more cells than this are drawn as plain colour
_LABELS = 108.0
_ROW = 30.0
_MOST_ROWS = 400
_KEY = tr("dashed: predicted    firm edge: painted and read")


@guarded
class SideBoard(QWidget):
    """The aligned colours, or the things as they lie."""

    chosen = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.mode = HUE
        self.things: list[Thing] = []
        self.hues: list[HueRow] = []
        self.places: list[PlaceRow] = []
        self.current: Spot | None = None
        self._spots: list[tuple[QRectF, Spot]] = []
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Things side by side"))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.MinimumExpanding)

    def show_things(self, things: list[Thing], mode: int) -> None:
        """Show other things, or in another way."""
        self.things, self.mode = things, mode
        self.hues = by_hue(things) if mode == HUE else []
        self.places = compared(things, mode == MIX)[:_MOST_ROWS] if mode in (MIX, PLACE) else []
        rows = len(self.hues) if mode == HUE else len(self.places)
        self.setMinimumHeight(px(rows * _ROW + 8 if mode != LIE else 240))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(px(700), self.minimumHeight())

    def _columns(self) -> list[QRectF]:
        left = 0.0 if self.mode == LIE else _LABELS if self.mode == HUE else 0.34 * usual_width(self)
        width = (usual_width(self) - left - (54.0 if self.mode in (MIX, PLACE) else 0.0)) / max(
            1, len(self.things)
        )
        return [
            QRectF(left + i * width, 0.0, width - 8.0, usual_height(self)) for i in range(len(self.things))
        ]

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._spots = []
        if self.mode == HUE:
            self._draw_hues(painter)
        elif self.mode in (MIX, PLACE):
            self._draw_places(painter)
        else:
            self._draw_lying(painter)
        if self.current is not None:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(self.palette().color(QPalette.ColorRole.WindowText), 2.2))
            for box, spot in self._spots:
                same = self.mode == LIE and spot.place and spot.place == self.current.place
                if spot is self.current or same:
                    painter.drawRect(box.adjusted(-2, -2, 2, 2))

    def _text(
        self, painter: QPainter, box: QRectF, text: str, soft: bool = False, right: bool = False
    ) -> None:
        font = sans(10.5)
        painter.setFont(font)
        role = QPalette.ColorRole.PlaceholderText if soft else QPalette.ColorRole.WindowText
        painter.setPen(self.palette().color(role))
        text = QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
        side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | side, text)

    def _chip(self, painter: QPainter, box: QRectF, spot: Spot) -> None:
        painter.fillRect(box, qcolor(spot.lab))
        draw_edge(painter, box, spot.recorded)
        self._spots.append((box, spot))

    def _draw_hues(self, painter: QPainter) -> None:
        for number, row in enumerate(self.hues):
            y = number * _ROW
            self._text(painter, QRectF(0, y, _LABELS - 8, _ROW), row.title)
            for column, spots in zip(self._columns(), row.spots, strict=True):
                width = column.width() / CHIPS
                if not spots:
                    self._text(painter, QRectF(column.left(), y, column.width(), _ROW), tr("none"), soft=True)
                for i, spot in enumerate(spots):
                    box = QRectF(column.left() + i * width + 1, y + 3, width - 3, _ROW - 6)
                    self._chip(painter, box, spot)

    def _draw_places(self, painter: QPainter) -> None:
        columns = self._columns()
        for number, row in enumerate(self.places):
            y = number * _ROW
            self._text(painter, QRectF(0, y, columns[0].left() - 10, _ROW), row.words)
            for column, spot in zip(columns, row.spots, strict=True):
                if spot is not None:
                    self._chip(painter, QRectF(column.left(), y + 3, column.width(), _ROW - 6), spot)
            self._text(
                painter, QRectF(usual_width(self) - 50, y, 46, _ROW), decimal(f"{row.away:.1f}"), right=True
            )

    def _draw_lying(self, painter: QPainter) -> None:
        for column, thing in zip(self._columns(), self.things, strict=True):
            if thing.choice.kind == SHEET and self.session.study is not None:
                self._draw_sheet(painter, column, thing)
            else:
                self._draw_strokes(painter, column, thing)

    def _draw_sheet(self, painter: QPainter, column: QRectF, thing: Thing) -> None:
        sheet = sheet_record(self.session.file, thing.choice.key).sheet
        transform, _ = sheet_transform(sheet, column.adjusted(2, 4, -2, -4))
        cells = sheet.cells
        read = {spot.place: spot.lab for spot in thing.spots if spot.recorded}
        estimate = self.session.learning.estimate
        prediction = (
            predict_known(estimate, [c.recipe for c in cells], [c.ground for c in cells])
            if estimate is not None
            else None
        )
        looks = cell_looks(cells, prediction, read)
        painter.save()
        painter.setTransform(transform, True)
        painter.fillRect(QRectF(0, 0, sheet.paper.width_mm, sheet.paper.height_mm), PAPER)
        quick = sum(len(one.spots) for one in self.things) > _MOST_FINE
        style = SheetStyle(looks=looks, quick=quick, pixels_per_mm=transform.m11() * fine_ratio(self))
        draw_sheet(painter, sheet, self.session.learning.looks, style)
        painter.restore()
        by_id = {cell.id: cell for cell in cells}
        for spot in thing.spots:
            cell = by_id.get(spot.place)
            if cell is not None:
                x, y, width, height = cell.box_mm
                self._spots.append((transform.mapRect(QRectF(x, y, width, height)), spot))

    def _draw_strokes(self, painter: QPainter, column: QRectF, thing: Thing) -> None:
        looks, ratio = self.session.learning.looks, fine_ratio(self)
        height = min(44.0, (usual_height(self) - 8.0) / max(1, len(thing.paints)) - 18.0)
        for i, name in enumerate(thing.paints):
            box = QRectF(
                column.left(), 4 + i * (height + 18.0), min(column.width(), 150.0), max(height, 10.0)
            )
            painter.fillRect(box, PAPER)
            draw_paint(painter, looks, name, box, ratio, ratio)
            self._text(painter, QRectF(box.left(), box.bottom(), column.width(), 18), name)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        spot = self._at(usual_place(event))
        self.setToolTip(as_tip(spot.words) if spot is not None else "")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.current = self._at(usual_place(event))
        self.update()
        self.chosen.emit(self.current)

    def _at(self, where: QPointF) -> Spot | None:
        return next((spot for box, spot in self._spots if box.contains(where)), None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down) and self._spots:
            self._step(Qt.Key(key))
        else:
            super().keyPressEvent(event)

    def _step(self, key: Qt.Key) -> None:
        at = next((box.center() for box, spot in self._spots if spot is self.current), QPointF(-1.0, -1.0))
        dx = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key, 0)
        dy = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(key, 0)

        def cost(box: QRectF) -> float:
            step = box.center() - at
            along, aside = step.x() * dx + step.y() * dy, abs(step.x() * dy) + abs(step.y() * dx)
            return along + 4.0 * aside if along > 1.0 else float("inf")

        box, spot = min(self._spots, key=lambda entry: cost(entry[0]))
        if self.current is None:
            box, spot = self._spots[0]
        elif cost(box) == float("inf"):
            return
        self.current = spot
        self.update()
        self.chosen.emit(spot)


class SidePage(WeighPage):
    """Things side by side."""

    def __init__(self, session: Session, weighing: Weighing) -> None:
        super().__init__(session, weighing)
        self.options: list[Choice] = []
        self.things: list[Thing] = []
        self.mode = QComboBox()
        self.mode.addItems(MODES)
        self.mode.setAccessibleName(tr("How they are aligned"))
        self.mode.currentIndexChanged.connect(lambda _: self._show())
        self.tools = [self.mode]
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.heads = QHBoxLayout()
        self.heads.setSpacing(8)
        self.pickers: list[QComboBox] = []
        self.more, self.less = QPushButton("+"), QPushButton("−")
        for button, name, act in (
            (self.more, tr("One more beside them"), self.add), (self.less, tr("Take the last away"), self.take_away),
        ):  # fmt: skip
            button.setAccessibleName(name)
            button.setToolTip(as_tip(name))
            button.setFixedWidth(px(34))
            button.setStyleSheet("padding: 4px;")
            button.clicked.connect(act)
        row = QHBoxLayout()
        row.addLayout(self.heads, 1)
        row.addWidget(self.less)
        row.addWidget(self.more)
        layout.addLayout(row)
        area = QScrollArea()
        area.setWidgetResizable(True)
        self.board = SideBoard(session)
        self.board.setObjectName("ground")
        self.board.chosen.connect(self._chosen)
        area.setWidget(self.board)
        layout.addWidget(area, 1)
        self.slip = self._make_slip()
        self.first = self.board
        weighing.mixes_ready.connect(lambda: self.refresh() if self.isVisible() else None)
        for _ in range(2):
            self._add_picker()

    def _make_slip(self) -> Slip:
        slip = Slip()
        self.spot_title = title_label("", 15)
        self.spot_chip = Swatch(72)
        self.spot_facts = FactRow(tr("Colour"))
        self.lead_title = text_label(tr("Where each is the cleanest"), bold=True)
        self.lead_words = text_label("")
        self.about = text_label("", soft=True)
        for widget in (
            self.spot_title,
            self.spot_chip,
            self.spot_facts,
            rule(),
            self.lead_title,
            self.lead_words,
            rule(),
            self.about,
        ):
            slip.lines.addWidget(widget)
        slip.lines.addStretch(1)
        return slip

    def _add_picker(self) -> None:
        picker = QComboBox()
        picker.setMinimumContentsLength(6)
        picker.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        picker.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        picker.setAccessibleName(
            tr("Number {value} of what stands side by side", value=len(self.pickers) + 1)
        )
        picker.activated.connect(lambda _: self.refresh())
        self.pickers.append(picker)
        self.heads.addWidget(picker, 1)

    def add(self) -> None:
        """One more beside the others."""
        if len(self.pickers) < MOST_THINGS:
            self._add_picker()
            self.refresh()

    def take_away(self) -> None:
        """The last one goes."""
        if len(self.pickers) > 1:
            picker = self.pickers.pop()
            self.heads.removeWidget(picker)
            picker.deleteLater()
            self.refresh()

    def choose(self, titles: list[str]) -> None:
        """Put these side by side, by their titles."""
        self.refresh()
        for picker, title in zip(self.pickers, titles, strict=False):
            picker.setCurrentIndex(max(0, picker.findText(title)))
        self.refresh()

    # ---- showing

    def refresh(self) -> None:
        """Gather the things anew."""
        study = self.session.study
        self.weighing.want_mixes()
        box = self.session.selection.box.name if self.session.selection.box is not None else tr("All paints")
        self.options = choices(study, box) if study is not None else []
        # two sheets, or two palettes, are what one first wants to see
        likely = sorted(range(len(self.options)), key=lambda i: self.options[i].kind != PALETTE)
        for number, picker in enumerate(self.pickers):
            kept = picker.currentText()
            picker.clear()
            picker.addItems([option.title for option in self.options])
            place = picker.findText(kept) if kept else -1
            if place < 0 and self.options:
                place = likely[number % len(likely)]
            picker.setCurrentIndex(place)
        self.less.setEnabled(len(self.pickers) > 1)
        self.more.setEnabled(len(self.pickers) < MOST_THINGS)
        self.things = [
            thing for picker in self.pickers if (thing := self._thing(picker.currentIndex())) is not None
        ]
        self._show()

    def _thing(self, place: int) -> Thing | None:
        if not 0 <= place < len(self.options) or self.session.study is None:
            return None
        choice = self.options[place]
        if choice.kind == SHEET:
            return sheet_thing(self.session.study, choice, self.session.learning.estimate)
        if self.weighing.mixes is None:
            return None
        lattice = self.weighing.mixes.lattice
        paints = lattice.names
        if choice.kind != BOX:
            paints = next(p.paints for p in kept_palettes(self.session.study) if p.id == choice.key)
        return palette_thing(choice, paints, lattice)

    def _show(self) -> None:
        mode = self.mode.currentIndex()
        self.board.show_things(self.things, mode)
        if len(self.things) < len(self.pickers) and self.session.runner.busy("mixes"):
            words = tr("Working out the mixes of the box")
        elif not self.options:
            words = tr("Plan a sheet or keep a palette first; then they can stand side by side.")
        elif mode == HUE:
            words = tr("The most vivid of each hue, from light to dark")
        else:
            words = summary(self.things, compared(self.things, mode == MIX), mode == MIX)
        self.say(tr("Side by side"), words, _KEY)
        found = leads(self.things)
        self.lead_title.setVisible(bool(found))
        self.lead_words.setText("\n".join(found))
        self.about.setText("\n".join(f"{thing.choice.title}: {thing.words}" for thing in self.things))
        self._chosen(None)

    def _chosen(self, spot: Spot | None) -> None:
        for widget in (self.spot_chip, self.spot_facts):
            widget.setVisible(spot is not None)
        if spot is None:
            self.spot_title.setText(tr("Choose a colour to read its mix"))
            return
        self.spot_title.setText(spoken_recipe(spot.recipe))
        self.spot_chip.show_colour(qcolor(spot.lab), recorded=spot.recorded)
        self.spot_facts.set(lab_text(spot.lab))
