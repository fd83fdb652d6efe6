"""The box rail: the wells of the box in use, and the dab that shows what the paints in hand make together."""

from functools import partial
from math import gcd, log

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QColor,
    QFocusEvent,
    QFont,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QScrollArea,
    QSizePolicy,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from culmo.core.paint.recipe import Recipe, in_proportion, mix
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawn import fine_ratio, usual_painter, usual_width
from culmo.desk.going_out import drag_out, is_far
from culmo.desk.guard import guarded
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, STEP, give_font, px, sans, scaled
from culmo.desk.things import OneThing, Thing, mix_thing
from culmo.desk.widgets import ARROWS, NamePicker, Swatch, as_tip, clear_layout, rule, text_label
from culmo.words import tr

RAIL_WIDTH, NARROW_RAIL = 190, 116
NARROW = 880  # usual lengths: of a narrower window, or one with larger text, the rail takes less
PARTS = 6  # the slider of two paints runs over 1:5 to 5:1
_WASHES = (1.0, 0.8, 0.6, 0.45, 0.33, 0.25, 0.2, 0.15, 0.1)


@guarded
class Well(OneThing, QAbstractButton):
    """One well: the paint's stroke and its name; a number when it is in hand. The arrow keys go to the next."""

    walked = Signal(int, int)
    came = Signal()

    def __init__(self, session: Session, name: str) -> None:
        super().__init__()
        self.session, self.name = session, name
        self.setCheckable(True)
        self.setText(name)
        self.setToolTip(as_tip(name))
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(px(50))
        self.clicked.connect(lambda: session.selection.toggle_in_hand(name))
        self._pressed: QPointF | None = None

    def shown_thing(self) -> Thing:
        return mix_thing(self.session.learning.looks, mix([self.name]), self.name)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.came.emit()

    def tell(self) -> None:
        """Let a screen reader know how it looks now."""
        if QAccessible.isActive():
            self.setAccessibleDescription(self.shown_thing().told())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if Qt.Key(event.key()) in ARROWS:
            self.walked.emit(*ARROWS[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = event.position()
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drawn away from its well a paint can be dropped where paints are asked for."""
        if self._pressed is None or not is_far(event.position() - self._pressed):
            super().mouseMoveEvent(event)
            return
        self._pressed = None
        self.setDown(False)
        drag_out(self, self.grab())

    def sizeHint(self) -> QSize:
        return QSize(px(70), px(50))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = usual_painter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(2, 3, usual_width(self) - 4, 27)
        painter.setPen(QPen(QColor(190, 190, 190), 1))
        painter.setBrush(PAPER)
        painter.drawRoundedRect(box, 3, 3)
        draw_paint(
            painter,
            self.session.learning.looks,
            self.name,
            box.adjusted(2, 2, -2, -2),
            fine_ratio(self),
        )
        painter.setFont(sans(10))
        painter.setPen(self.palette().windowText().color())
        text = QFontMetrics(painter.font()).elidedText(
            self.name, Qt.TextElideMode.ElideRight, usual_width(self) - 4
        )
        painter.drawText(QRectF(3, 31, usual_width(self) - 4, 18), Qt.AlignmentFlag.AlignLeft, text)
        if self.name in self.session.selection.in_hand:
            self._mark(painter, box, str(self.session.selection.in_hand.index(self.name) + 1))
        elif self.hasFocus():
            painter.setPen(QPen(self.palette().windowText().color(), 1.4, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(-1, -1, 1, 1), 4, 4)

    def _mark(self, painter: QPainter, box: QRectF, number: str) -> None:
        strong = self.palette().windowText().color()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(strong, 2.6))
        painter.drawRoundedRect(box.adjusted(-0.5, -0.5, 0.5, 0.5), 4, 4)
        centre = QPointF(box.right() - 6, box.top() + 6)
        painter.setBrush(strong)
        painter.drawEllipse(centre, 8, 8)
        painter.setPen(self.palette().base().color())
        painter.setFont(sans(9))
        painter.drawText(QRectF(centre.x() - 8, centre.y() - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, number)


class Dab(OneThing, QWidget):
    """What the paints in hand make together, with handles for the parts and for the water."""

    recipe_changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        layout = QVBoxLayout(self)
        layout.setContentsMargins(STEP + 4, STEP, STEP + 4, STEP)
        layout.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(text_label(tr("Dab"), bold=True))
        self.state = text_label("", soft=True, points=10)
        self.state.setAlignment(Qt.AlignmentFlag.AlignRight)
        head.addWidget(self.state, 1)
        layout.addLayout(head)
        self.swatch = Swatch(66)
        layout.addWidget(self.swatch)
        self.parts_area = QVBoxLayout()
        self.parts_area.setSpacing(0)
        layout.addLayout(self.parts_area)
        self.words = text_label("", points=10)
        self.words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        layout.addWidget(self.words)
        ends = QHBoxLayout()
        ends.addWidget(text_label(tr("Full"), points=10))
        pale = text_label(tr("Palest"), points=10)
        pale.setAlignment(Qt.AlignmentFlag.AlignRight)
        ends.addWidget(pale)
        layout.addLayout(ends)
        self.water = QSlider(Qt.Orientation.Horizontal)
        self.water.setRange(0, len(_WASHES) - 1)
        self.water.setAccessibleName(tr("Water"))
        self.water.valueChanged.connect(self._water_moved)
        layout.addWidget(self.water)
        self.sliders: list[QSlider] = []
        self._exact: Recipe | None = None  # a mix that was taken in hand as it is, until its parts are moved
        session.selection.in_hand_changed.connect(self.rebuild)
        session.learning.learned.connect(self.refresh)
        session.selection.mix_taken.connect(self._take)
        session.selection.picking_changed.connect(self.rebuild)
        self.rebuild()

    def rebuild(self) -> None:
        """New sliders for the paints in hand."""
        clear_layout(self.parts_area)
        self.sliders, self._exact = [], None
        names = self.session.selection.in_hand
        if len(names) == 2:
            ends = QWidget()
            row = QHBoxLayout(ends)
            row.setContentsMargins(0, 0, 0, 0)
            metrics = QFontMetrics(scaled(sans(10)))
            for name, side in zip(
                names, (Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight), strict=True
            ):
                label = text_label(metrics.elidedText(name, Qt.TextElideMode.ElideRight, px(72)), points=10)
                label.setWordWrap(False)
                label.setAlignment(side)
                row.addWidget(label)
            self.parts_area.addWidget(ends)
            self._slider(1, PARTS - 1, PARTS // 2, tr("Parts of {names}", names=names[1]))
        elif len(names) > 2:
            for name in names:
                label = text_label(
                    QFontMetrics(scaled(sans(10))).elidedText(name, Qt.TextElideMode.ElideRight, px(150)),
                    points=10,
                )
                label.setWordWrap(False)
                self.parts_area.addWidget(label)
                self._slider(1, PARTS - 1, 1, tr("Parts of {name}", name=name))
        self.refresh()

    def _slider(self, low: int, high: int, value: int, name: str) -> None:
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(low, high)
        slider.setValue(value)
        slider.setPageStep(1)
        slider.setAccessibleName(name)
        slider.valueChanged.connect(self._parts_moved)
        self.sliders.append(slider)
        self.parts_area.addWidget(slider)

    def _parts_moved(self) -> None:
        self._exact = None
        self.refresh()

    def _water_moved(self) -> None:
        if self._exact is not None:
            self._exact = self._exact.with_wash(_WASHES[self.water.value()])
        self.refresh()

    def _take(self, recipe: Recipe) -> None:
        """A mix was taken in hand: the handles go where its parts and its water are, as near as they can."""
        if len(recipe.layers) != 1 or len(recipe.names) != len(self.session.selection.in_hand):
            return
        parts = [part.parts for part in recipe.layers[0].parts]
        wash = recipe.layers[0].wash
        wanted = [self.water, *self.sliders]
        places = [min(range(len(_WASHES)), key=lambda place: abs(log(_WASHES[place] / wash)))]
        if len(parts) == 2:
            places.append(round(PARTS * parts[1] / sum(parts)))
        elif len(parts) > 2:
            most = max(parts)
            places += [round(part if most < PARTS else part * (PARTS - 1) / most) for part in parts]
        for slider, place in zip(wanted, places, strict=False):
            slider.blockSignals(True)
            slider.setValue(place)
            slider.blockSignals(False)
        self._exact = recipe
        self.refresh()

    def shown_thing(self) -> Thing | None:
        recipe = self.recipe()
        return mix_thing(self.session.learning.looks, recipe) if recipe is not None else None

    def recipe(self) -> Recipe | None:
        """The mix in hand, or None."""
        if self._exact is not None:
            return self._exact
        names = self.session.selection.in_hand
        if not names:
            return None
        wash = _WASHES[self.water.value()]
        if len(names) == 2:
            second = self.sliders[0].value()
            return mix(names, [PARTS - second, second], wash)
        return mix(names, [slider.value() for slider in self.sliders] or [1], wash)

    def refresh(self) -> None:
        """Show the mix."""
        recipe = self.recipe()
        self.water.setEnabled(recipe is not None)
        if recipe is None:
            hint = tr("Click a well to take a paint in hand")
            if self.session.selection.picking is not None:
                hint = tr("A click on a well puts its paint on the page, or takes it off")
            self.swatch.show_colour(None, hint=hint)
            self.words.setText("")
            self.state.setText("")
        elif self.session.learning.looks is None or not self.session.learning.knows(recipe):
            self.swatch.show_colour(None, hint=tr("Nothing is known of this paint yet"))
            self.words.setText("")
            self.state.setText(" ".join(filter(None, map(self.session.learning.need_of, recipe.names))))
        else:
            looks = self.session.learning.looks
            self.swatch.show_image(lambda w, h, r: looks.wash(recipe, w, h, "dab", r))
            found = self.session.learning.predict([recipe])
            predicted = (
                tr("predicted, within {value:.1f}", value=found.dE90[0])
                if found is not None
                else tr("predicted")
            )
            typical = self.session.learning.typical(recipe)
            self.state.setText(tr("typical, not yours") if typical else predicted)
            parts = [part.parts for part in recipe.layers[0].parts]
            whole = gcd(*(int(part) for part in parts)) if all(part == int(part) for part in parts) else 1
            amounts = in_proportion(part / whole for part in parts)
            self.words.setText(tr("{amounts} parts", amounts=amounts) if len(parts) > 1 else "")
        self.words.setVisible(bool(self.words.text()))
        self.recipe_changed.emit()


class BoxPicker(NamePicker):
    """Which box lies on the table; the last entry is all paints."""

    def __init__(self, session: Session, points: float = 10.5) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("title")
        give_font(self, sans(points, QFont.Weight.DemiBold))
        self.setAccessibleName(tr("Box in use"))
        self.setMinimumWidth(px(60))
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(8)
        self._ids: list[int | None] = []
        self.activated.connect(lambda place: session.selection.select_box(self._ids[place]))

    def refresh(self) -> None:
        """List the boxes."""
        self._ids = [*(box.id for box in self.session.boxes), None]
        words = [*(box.name for box in self.session.boxes), tr("All paints")]
        if [self.itemText(i) for i in range(self.count())] != words:
            self.clear()
            self.addItems(words)
        self.setCurrentIndex(self._ids.index(self.session.selection.box_id))


class Rail(QFrame):
    """The wells, with the dab below."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("rail")
        self.setFixedWidth(px(RAIL_WIDTH))
        self.session = session
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        head = QHBoxLayout()
        head.setContentsMargins(STEP + 4, STEP + 2, STEP + 4, 4)
        self.title = BoxPicker(session)
        self.count = text_label("", soft=True, points=10)
        self.count.setAlignment(Qt.AlignmentFlag.AlignRight)
        head.addWidget(self.title, 1)
        head.addWidget(self.count)
        layout.addLayout(head)
        area = self.area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inner = QWidget()
        inner.setObjectName("rail")
        self.wells = QGridLayout(inner)
        self.wells.setContentsMargins(STEP, 0, STEP, 0)
        self.wells.setVerticalSpacing(1)
        self.wells.setHorizontalSpacing(3)
        area.setWidget(inner)
        layout.addWidget(area, 1)
        layout.addWidget(rule())
        self.dab = Dab(session)
        layout.addWidget(self.dab)
        self._shown: list[str] | None = None
        self._columns = 2
        session.opened.connect(self.refresh)
        session.changed.connect(self.refresh)
        session.selection.box_changed.connect(self.refresh)
        session.learning.learned.connect(self.repaint_wells)
        session.selection.in_hand_changed.connect(self.repaint_wells)
        self.refresh()

    def fit(self, width: int) -> None:
        """Leave the rooms their place: in a window of so many usual lengths the wells lie in two columns, or in one."""
        columns = 1 if width < NARROW else 2
        if columns != self._columns:
            self._columns, self._shown = columns, None
            self.count.setVisible(columns == 2)
            self.setFixedWidth(px(RAIL_WIDTH if columns == 2 else NARROW_RAIL))
            self.refresh()

    def refresh(self) -> None:
        """Lay the wells anew where the paints changed."""
        names = [paint.name for paint in self.session.selection.paints_in_use()]
        self.title.refresh()
        self.count.setText(str(len(names)) if names else "")
        if names != self._shown:
            self._shown = names
            while self.wells.count():
                item = self.wells.takeAt(0)
                well = item.widget() if item is not None else None
                if well is not None:
                    well.hide()
                    well.deleteLater()
            for place, name in enumerate(names):
                well = Well(self.session, name)
                well.walked.connect(partial(self._walk, place))
                well.came.connect(partial(self._stand, place))
                self.wells.addWidget(well, *divmod(place, self._columns))
            self._stand(0)
            self.wells.setRowStretch(len(names) + 1, 1)
            if not names:
                text = tr("This box is empty. Lay paints in it in the Box room.")
                if not self.session.paints:
                    text = tr("No paints yet. Enter them in the Box room.")
                self.wells.addWidget(text_label(text, soft=True), 0, 0, 1, 2)
        self.dab.rebuild()
        self.repaint_wells()

    def _well(self, place: int) -> Well | None:
        """The well at a place of the paints in use."""
        item = self.wells.itemAtPosition(*divmod(place, self._columns)) if place >= 0 else None
        well = item.widget() if item is not None else None
        return well if isinstance(well, Well) else None

    def _walk(self, place: int, right: int, down: int) -> None:
        """From a well to the next in a direction, where there is one."""
        beyond = self._columns == 1 or not 0 <= place % self._columns + right < self._columns
        step = down * self._columns + (0 if right and beyond and self._columns > 1 else right)
        well = self._well(place + step)
        if well is not None:
            well.setFocus(Qt.FocusReason.OtherFocusReason)
            self.area.ensureWidgetVisible(well)

    def _stand(self, place: int) -> None:
        """The tab key comes to one well alone: to that on which the keys were last."""
        for other in range(len(self._shown or [])):
            well = self._well(other)
            if well is not None:
                well.setFocusPolicy(
                    Qt.FocusPolicy.StrongFocus if other == place else Qt.FocusPolicy.ClickFocus
                )

    def repaint_wells(self) -> None:
        """Draw the wells anew."""
        for well in self.findChildren(Well):
            well.setChecked(well.name in self.session.selection.in_hand)
            well.tell()
            well.update()
