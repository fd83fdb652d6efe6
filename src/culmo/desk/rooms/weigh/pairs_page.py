"""The pairs page: mixes of two and three paints that are worth knowing, and what may be done with them."""

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetrics, QImage, QPainter, QPalette, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QListView,
    QPushButton,
    QStackedWidget,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.names import apart_words
from culmo.core.paint.recipe import spoken_recipe
from culmo.core.paint.texture_words import USUAL
from culmo.core.palette.alike import ALIKE as ALIKE_LIMIT
from culmo.core.palette.alike import alike_pairs, nearest_pairs
from culmo.core.palette.character import character
from culmo.core.palette.choose import missed_without
from culmo.core.palette.idea import Idea, IdeaKind
from culmo.core.palette.mixer import FULL_AT
from culmo.desk.drawing.looks import Looks
from culmo.desk.drawing.pencil import draw_paint
from culmo.desk.drawn import fine_ratio, usual_part
from culmo.desk.guard import guarded
from culmo.desk.listing import Listing, lines_of_text
from culmo.desk.mix_acts import MixActs
from culmo.desk.quiet_wheel import keep_quiet
from culmo.desk.rooms.weigh.mixes_model import Mixes
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.pairs_model import (
    ALIKE,
    COUNTS,
    NEEDED,
    ORDERS,
    TOPICS,
    Listed,
    PaintCount,
    PairsAsked,
    PairsOrder,
    character_words,
    count_words,
    idea_title,
    listed_alike,
    listed_ideas,
    row_words,
    spread_words,
    unknown_words,
)
from culmo.desk.rooms.weigh.settling import GRAINS, GrainWish, grain_tip, settling_words
from culmo.desk.rooms.weigh.weighing import Weighing, doubt_words
from culmo.desk.session import Session
from culmo.desk.theme import PAPER, STEP, px, sans
from culmo.desk.things import Thing, mix_thing
from culmo.desk.widgets import Slip, Swatch, TabStrip, as_tip, draw_edge, rule, text_label, title_label
from culmo.desk.wrap_row import WrapRow
from culmo.words import decimal, tr

Index = QModelIndex | QPersistentModelIndex
_MISSED = 0.001
_ROW, _HEAD = 48, 30
_STROKE, _WASH, _GAP = 66, 74, 6
_COMPARED = 4


@guarded
class IdeaList(QAbstractListModel):
    """The mixes as rows, with heads between them."""

    def __init__(self) -> None:
        super().__init__()
        self.listed = Listed()

    def show_listed(self, listed: Listed) -> None:
        """Show other rows."""
        self.beginResetModel()
        self.listed = listed
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.listed.rows)

    def flags(self, index: Index) -> Qt.ItemFlag:
        row = self.listed.rows[index.row()]
        return Qt.ItemFlag.NoItemFlags if isinstance(row, str) else super().flags(index)

    def data(self, index: Index, role: int = 0) -> object:
        row = self.listed.rows[index.row()]
        if role == Qt.ItemDataRole.UserRole:
            return row
        words = row if isinstance(row, str) else f"{idea_title(row)}: {row_words(row)}"
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return words
        return as_tip(words) if role == Qt.ItemDataRole.ToolTipRole else None


@guarded
class IdeaDelegate(QStyledItemDelegate):
    """Draws a mix: the strokes of its paints, its wash, its words."""

    def __init__(self, session: Session, model: IdeaList) -> None:
        super().__init__()
        self.session, self.model = session, model

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(px(320), px(_HEAD if isinstance(index.data(Qt.ItemDataRole.UserRole), str) else _ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row = index.data(Qt.ItemDataRole.UserRole)
        painter.save()
        box = usual_part(painter, option.rect)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        # heads can not be chosen, and are no less to be read
        painter.setPen(option.palette.color(QPalette.ColorGroup.Active, QPalette.ColorRole.WindowText))
        if isinstance(row, str):
            painter.setFont(sans(11, sans().Weight.DemiBold))
            painter.drawText(box.adjusted(4, 0, 0, -3), Qt.AlignmentFlag.AlignBottom, row)
        else:
            self._draw(painter, row, box, option)
        painter.restore()

    def _draw(self, painter: QPainter, idea: Idea, box: QRectF, option: QStyleOptionViewItem) -> None:
        ratio = fine_ratio(option.widget)
        x, looks = box.left() + 4, self.session.learning.looks
        narrow = box.width() < 560
        stroke = 0.72 * _STROKE if narrow or len(idea.names) > 2 else _STROKE
        for name in idea.names:
            place = QRectF(x, box.top() + 8, stroke, _ROW - 18)
            painter.fillRect(place, PAPER)
            draw_paint(painter, looks, name, place.adjusted(2, 1, -2, -1), ratio, ratio)
            draw_edge(painter, place, name.casefold() not in self.session.learning.unread)
            x = place.right() + _GAP
        if idea.kind != ALIKE and looks is not None and looks.knows(idea.recipe):
            place = QRectF(x + 2, box.top() + 5, 0.8 * _WASH if narrow else _WASH, _ROW - 12)
            painter.fillRect(place, PAPER)
            wide, high = round(place.width() * ratio), round(place.height() * ratio)
            painter.drawImage(place, looks.wash(idea.recipe, wide, high, str(idea.recipe), ratio))
            draw_edge(painter, place, False)
            x = place.right() + _GAP
        self._words(painter, idea, QRectF(x + 4, box.top() + 4, box.right() - x - 12, _ROW - 8), option)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(option.palette.color(QPalette.ColorRole.WindowText), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(1, 1, -1, -2))

    def _words(self, painter: QPainter, idea: Idea, place: QRectF, option: QStyleOptionViewItem) -> None:
        soft = option.palette.color(QPalette.ColorRole.PlaceholderText)
        bold, plain = sans(10.5, sans().Weight.DemiBold), sans(10)
        sure = spread_words(idea)
        room = place.width() - (QFontMetrics(plain).horizontalAdvance(sure) + 10 if sure else 0)
        elide = Qt.TextElideMode.ElideRight
        painter.setFont(bold)
        painter.setPen(option.palette.color(QPalette.ColorRole.WindowText))
        top, below = place.adjusted(0, 0, 0, -place.height() / 2), place.adjusted(0, place.height() / 2, 0, 0)
        painter.drawText(
            top,
            Qt.AlignmentFlag.AlignVCenter,
            QFontMetrics(bold).elidedText(idea_title(idea), elide, int(room)),
        )
        painter.setFont(plain)
        painter.setPen(soft)
        painter.drawText(
            below,
            Qt.AlignmentFlag.AlignVCenter,
            QFontMetrics(plain).elidedText(row_words(idea), elide, int(place.width())),
        )
        if sure:
            painter.drawText(top, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, sure)


def _wash(looks: Looks, idea: Idea, width: int, height: int, ratio: float) -> QImage:
    return looks.wash(idea.recipe, width, height, str(idea.recipe), ratio)


class PairsPage(WeighPage):
    """Mixes by what they are good for."""

    def __init__(self, session: Session, weighing: Weighing, acts: MixActs) -> None:
        super().__init__(session, weighing)
        self.acts = acts
        self.model = IdeaList()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(STEP // 2)
        self.topics = TabStrip([topic.title for topic in TOPICS], name=tr("What mixes are good for"))
        self.topics.chosen.connect(lambda _: self._topic_chosen())
        layout.addWidget(self.topics)
        layout.addLayout(self._make_tools())
        self.view = QListView()
        self.view.setModel(self.model)
        self.view.setItemDelegate(IdeaDelegate(session, self.model))
        self.view.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.view.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.view.setAccessibleName(tr("Mixes worth knowing"))
        self.view.selectionModel().selectionChanged.connect(lambda *_: self._show_chosen())
        self.view.activated.connect(lambda _: self._take())
        self.needs = Listing(session, tr("What would be lost without each paint"))
        self.message = text_label("", points=12)
        self.message.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.stack = QStackedWidget()
        for widget in (self.view, self.needs, self.message):
            self.stack.addWidget(widget)
        layout.addWidget(self.stack, 1)
        self.slip = self._own_slip = self._make_slip()
        self.first = self.view
        for signal in (weighing.mixes_ready, weighing.ideas_ready, weighing.reach_ready):
            signal.connect(self._ready)
        session.selection.in_hand_changed.connect(self._in_hand_changed)
        self.say(tr("Pairs and threes"))

    # ---- building

    def _make_tools(self) -> WrapRow:
        row = WrapRow()
        self.chips: dict[str, QToolButton] = {}
        for key, words, tip in (
            ("in_hand", tr("in hand"), tr("Only mixes with a paint that is in hand")),
            ("clear", tr("clear"), tr("Only of transparent and semi-transparent paints")),
            ("lightfast", tr("lightfast"), tr("Only of paints that keep")),
            ("single", tr("one pigment"), tr("Only of paints of a single pigment")),
        ):
            chip = self.chips[key] = QToolButton()
            chip.setObjectName("chip")
            chip.setText(words)
            chip.setToolTip(as_tip(tip))
            chip.setCheckable(True)
            chip.setMinimumWidth(QFontMetrics(chip.font()).horizontalAdvance(words) + 20)
            chip.toggled.connect(lambda _: self.refresh())
            row.addWidget(chip)
        self.count_box, self.order_box = QComboBox(), QComboBox()
        self.count_box.addItems(COUNTS)
        self.count_box.setAccessibleName(tr("Of how many paints"))
        self.order_box.addItems(ORDERS)
        self.order_box.setAccessibleName(tr("Order of the list"))
        self.grain_box = QComboBox()
        self.grain_box.addItems(GRAINS)
        self.grain_box.setAccessibleName(tr("How it settles on the paper"))
        boxes = (self.count_box, self.grain_box, self.order_box)
        keep_quiet(*boxes)
        for box in boxes:
            box.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            box.currentIndexChanged.connect(lambda _: self.refresh())
            row.addWidget(box)
        self.count = text_label("", soft=True)
        self.count.setWordWrap(False)
        row.addWidget(self.count)
        return row

    def _make_slip(self) -> Slip:
        slip = Slip()
        self.mix_title, self.mix_words = title_label("", 16), text_label("", soft=True)
        slip.lines.addWidget(self.mix_title)
        slip.lines.addWidget(self.mix_words)
        self.swatches, self.differences = [], []
        for _ in range(_COMPARED):
            chip, words = Swatch(58), text_label("", soft=True, points=10)
            self.swatches.append(chip)
            self.differences.append(words)
            slip.lines.addWidget(chip)
            slip.lines.addWidget(words)
        self.about, self.doubt = text_label(""), text_label("", soft=True, points=10)
        self.settling = text_label("", soft=True, points=10)
        slip.lines.addWidget(self.about)
        slip.lines.addWidget(self.settling)
        slip.lines.addWidget(self.doubt)
        slip.lines.addWidget(rule())
        self.take_button = QPushButton(tr("Take in hand"))
        self.ladder_button = QPushButton(tr("Plan a ratio test"))
        self.rows_button = QPushButton(tr("Plan pairs in steps"))
        self.page_button = QPushButton(tr("Plan a free page"))
        self.keep_button = QPushButton(tr("Keep…"))
        self.copy_button = QPushButton(tr("Copy"))
        for button, act, tip in (
            (self.take_button, self._take, tr("Its paints, with these parts and this wash, on the dab")),
            (self.ladder_button, self._plan_ladder, tr("A ladder from one paint to the other")),
            (self.rows_button, self._plan_rows, tr("A row of steps for each chosen pair, on one page")),
            (
                self.page_button,
                self._plan_page,
                tr("The chosen mixes as they are, each a stroke on one page"),
            ),
            (self.keep_button, self._keep, tr("Keep it with a note, for the Daybook and the card to carry")),
            (self.copy_button, self._copy, tr("As text, a line each")),
        ):
            button.setToolTip(as_tip(tip))
            button.clicked.connect(lambda _=False, act=act: act())
        self.take_button.setObjectName("strong")
        slip.lines.addWidget(self.take_button)
        for button in (self.ladder_button, self.rows_button, self.page_button):
            slip.lines.addWidget(button)
        line = QHBoxLayout()
        line.addWidget(self.keep_button, 1)
        line.addWidget(self.copy_button, 1)
        slip.lines.addLayout(line)
        self.hint = text_label(
            tr("Choose several with Ctrl or Shift to see them beside each other, or to plan them together."),
            soft=True,
            points=10,
        )
        slip.lines.addWidget(self.hint)
        slip.lines.addStretch(1)
        self.buttons: list[QWidget] = [
            self.take_button, self.ladder_button, self.rows_button, self.page_button, self.keep_button, self.copy_button,
        ]  # fmt: skip
        return slip

    # ---- showing

    def _ready(self) -> None:
        if self.isVisible():
            self.refresh()

    def _in_hand_changed(self) -> None:
        if self.isVisible() and self.chips["in_hand"].isChecked():
            self.refresh()

    def _topic_chosen(self) -> None:
        self.view.scrollToTop()
        self.refresh()

    @property
    def topic_key(self) -> str:
        """What is looked for."""
        return TOPICS[self.topics.current].key

    def asked(self) -> PairsAsked:
        """What the mixes must be like."""
        on = {key: chip.isChecked() for key, chip in self.chips.items()}
        hand = (
            frozenset(name.casefold() for name in self.session.selection.in_hand) if on["in_hand"] else None
        )
        order = PairsOrder(self.order_box.currentIndex())
        if order == PairsOrder.WARM and self.topic_key not in ("greys", "browns", "darks"):
            order = PairsOrder.VARIOUS
        count, grain = PaintCount(self.count_box.currentIndex()), GrainWish(self.grain_box.currentIndex())
        limits = self.session.real_paint.limits if self.session.study is not None else USUAL
        return PairsAsked(hand, on["clear"], on["lightfast"], on["single"], count, order, grain, limits)

    def refresh(self) -> None:
        """Show the mixes of the topic."""
        topic = TOPICS[self.topics.current]
        self.order_box.setVisible(bool(topic.kinds) and topic.kinds != (IdeaKind.CAREFUL,))
        self.grain_box.setVisible(bool(topic.kinds))
        self.grain_box.setToolTip(as_tip(grain_tip(self.asked().limits)))
        self.count_box.setVisible(topic.key in ("greys", "browns", "darks"))
        if topic.key not in ("greys", "browns", "darks") and self.count_box.currentIndex() != PaintCount.ANY:
            self.count_box.setCurrentIndex(PaintCount.ANY)
        mixes = self.weighing.mixes if self.weighing.want_mixes() else None
        if mixes is None or len(mixes.names) < 2:
            busy = self.session.runner.busy("mixes")
            self._say_only(tr("Working out the mixes of the box") if busy else unknown_words(()))
            return
        words = tr("From the predicted mixes of the box in use") + (
            doubt_words(self.session, self.weighing.names) or ", " + tr("as your readings teach them")
        )
        self.say(tr("Pairs and threes"), topic.says, f"{words}.")
        if topic.key == NEEDED:
            self._show_needs(mixes)
            return
        if topic.key == ALIKE:
            self._show_alike(mixes)
            return
        if not self.weighing.want_ideas(topic.kinds):
            self._say_only(tr("Looking through the mixes of two and three paints"))
            return
        self._show(
            listed_ideas(topic, self.weighing.ideas, self.session.learning.labels, self.asked()), mixes
        )

    def _say_only(self, words: str) -> None:
        self.model.show_listed(Listed())
        self.message.setText(words)
        self.stack.setCurrentWidget(self.message)
        self.count.setText("")
        self._show_chosen()

    def _show(self, listed: Listed, mixes: Mixes) -> None:
        chosen = {str(idea.recipe) for idea in self.chosen()}
        at = self.view.verticalScrollBar().value()
        self.view.selectionModel().blockSignals(True)
        self.model.show_listed(listed)
        for place, row in enumerate(listed.rows):
            if isinstance(row, Idea) and str(row.recipe) in chosen:
                index = self.model.index(place)
                self.view.selectionModel().select(index, self.view.selectionModel().SelectionFlag.Select)
        self.view.selectionModel().blockSignals(False)
        if not listed.ideas:
            self.message.setText(unknown_words(mixes.names))
            self.stack.setCurrentWidget(self.message)
        else:
            self.stack.setCurrentWidget(self.view)
            self.view.verticalScrollBar().setValue(at)
        self.count.setText(count_words(listed))
        self._show_chosen()

    def _show_alike(self, mixes: Mixes) -> None:
        mixer = mixes.lattice.mixer
        alike = alike_pairs(mixer)
        words = (
            tr(
                "{n} pairs differ by less than {limit:g} in masstone, tint and mixes.",
                n=len(alike),
                limit=ALIKE_LIMIT,
            )
            if alike
            else tr("No two paints of this box are too alike; the nearest are these.")
        )
        self.say(tr("Pairs and threes"), words)
        labs = {name.casefold(): mixes.pairs.alone[place, FULL_AT] for place, name in enumerate(mixes.names)}
        self._show(
            listed_alike(alike or nearest_pairs(mixer, 4), self.session.learning.labels, self.asked(), labs),
            mixes,
        )

    def _show_needs(self, mixes: Mixes) -> None:
        needs = self.needs
        self.model.show_listed(Listed())
        self.stack.setCurrentWidget(needs)
        self.count.setText("")
        needs.begin()
        reach = self.weighing.reach if self.weighing.want_reach() else None
        if reach is None or reach.wanted is not None:
            needs.say(tr("Reckoned once the mixes are known."), soft=True)
        else:
            needs.say(tr("The share of all that the box can mix that would be lost without it."), soft=True)
            lost = missed_without(reach.value)
            missed = [i for i in sorted(range(len(lost)), key=lambda i: -lost[i]) if lost[i] >= _MISSED]
            for i in missed:
                needs.row(
                    needs.stroke(mixes.names[i], 120, 32),
                    lines_of_text((f"{mixes.names[i]}  {decimal(f'{100 * lost[i]:.1f}')} %", False, False)),
                    stretch=1,
                )
            rest = tr("None of the others") if missed else tr("No paint of this box")
            needs.say(
                tr("{rest} would be missed by itself: what it makes, others make too.", rest=rest), soft=True
            )
        needs.end()
        self._show_chosen()

    # ---- what is chosen

    def chosen(self) -> list[Idea]:
        """The chosen mixes, in the order of the list."""
        rows = sorted(index.row() for index in self.view.selectionModel().selectedIndexes())
        found = [self.model.listed.rows[row] for row in rows if row < len(self.model.listed.rows)]
        return [row for row in found if isinstance(row, Idea)]

    def selected_things(self) -> list[Thing]:
        """The chosen mixes, as they are copied."""
        looks = self.session.learning.looks
        return [mix_thing(looks, idea.recipe) for idea in self.chosen()]

    def _show_chosen(self) -> None:
        chosen = self.chosen()
        for part in (
            *self.buttons,
            *self.swatches,
            *self.differences,
            self.about,
            self.settling,
            self.doubt,
            self.hint,
        ):
            part.setVisible(bool(chosen))
        if not chosen:
            self.mix_title.setText(tr("A mix"))
            self.mix_words.setText(
                tr(
                    "Choose a mix of the list: it can be taken in hand, planned, kept, and laid beside others."
                )
            )
            return
        self._show_swatches(chosen)
        one, two = len(chosen) == 1, [idea for idea in chosen if len(idea.names) == 2]
        self.mix_title.setText(idea_title(chosen[0]) if one else tr("{n} mixes", n=len(chosen)))
        self.mix_words.setText(row_words(chosen[0]) if one else "")
        self.mix_words.setVisible(one)
        self.about.setVisible(one)
        settling = chosen[0].settling
        self.settling.setVisible(one and settling is not None)
        if settling is not None:
            self.settling.setText(settling_words(settling))
        self.doubt.setVisible(one)
        if one and self.weighing.mixes is not None:
            self.about.setText(character_words(character(self.weighing.mixes.lattice.mixer, chosen[0].names)))
            doubt = self.session.learning.doubt(chosen[0].recipe)
            self.doubt.setText(doubt.sentence if doubt is not None else "")
        self.take_button.setVisible(one)
        self.keep_button.setEnabled(one)
        self.ladder_button.setEnabled(one and bool(two))
        self.rows_button.setEnabled(bool(two))
        self._own_slip.lay_out()

    def _show_swatches(self, chosen: Sequence[Idea]) -> None:
        """One mix from full to pale; several beside each other, each with how far it lies from the first."""
        looks = self.session.learning.looks
        for place, (chip, words) in enumerate(zip(self.swatches, self.differences, strict=True)):
            there = place < len(chosen)
            chip.setVisible(there)
            words.setVisible(there and len(chosen) > 1)
            if not there:
                continue
            idea = chosen[place]
            if looks is None or not looks.knows(idea.recipe):
                chip.show_colour(None)
            elif len(chosen) == 1:
                chip.show_image(partial(looks.stroke, idea.recipe))
            else:
                chip.show_image(partial(_wash, looks, idea))
            away = float(delta_e_00(chosen[0].lab, idea.lab))
            said = spoken_recipe(idea.recipe)
            words.setText(said if not place else tr("{what}: {apart}", what=said, apart=apart_words(away)))
            words.setToolTip(as_tip(f"CIEDE2000 {decimal(f'{away:.1f}')}") if place else "")
        if len(chosen) > _COMPARED:
            self.differences[-1].setText(tr("and {n} more", n=len(chosen) - _COMPARED + 1))

    # ---- acts

    def _take(self) -> None:
        if self.chosen():
            self.acts.take(self.chosen()[0].recipe)

    def _keep(self) -> None:
        self.acts.keep(self.chosen()[0].recipe)

    def _copy(self) -> None:
        self.acts.copy([idea.recipe for idea in self.chosen()])

    def _plan_ladder(self) -> None:
        self.acts.plan_ladder(self.chosen()[0].recipe)

    def _plan_rows(self) -> None:
        self.acts.plan_rows([idea.recipe for idea in self.chosen()])

    def _plan_page(self) -> None:
        self.acts.plan_page([idea.recipe for idea in self.chosen()])
