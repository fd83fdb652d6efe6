"""The Water page: what drying does to paints and mixes, and how deep washes come out against what was planned."""

from collections.abc import Sequence
from enum import IntEnum
from functools import partial

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QListView,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.paint.depth import Reached
from culmo.core.paint.drying import signed
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import FULL, TINT, Recipe, mix
from culmo.desk.drawing.looks import Looks
from culmo.desk.guard import guarded
from culmo.desk.listing import lines_of_text
from culmo.desk.mix_acts import MixActs
from culmo.desk.quiet_wheel import keep_quiet
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.water_model import (
    ORDERS,
    SHOWN,
    DriedRow,
    WashesShown,
    WashOrder,
    apart_line,
    dried_rows,
    hand_lines,
    reached_advice,
    reached_title,
    shown_washes,
)
from culmo.desk.rooms.weigh.water_views import DepthCurve, DriedDelegate, DriedList, wash_of_colour
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import FactRow, Slip, Swatch, TabStrip, clear_layout, rule, text_label, title_label
from culmo.study.dried import Dried, DriedMix, dried_cells, dried_mixes, paints_by_mixes
from culmo.study.washes import Washes, telling_washes, wash_rows
from culmo.words import capital, tr, trn


class WaterPanel(IntEnum):
    """What the page of water answers: how washes dry, how deep they reach; or that nothing is known yet."""

    DRIED = 0
    DEPTH = 1
    NOTHING = 2


JOB = "water"
_KEY = tr("up and down choose    double-click takes in hand")


def _wash_of(lab: Array, seed: str, width: int, height: int, ratio: float) -> QImage:
    return wash_of_colour(lab, width, height, seed, ratio)


def _wash_by(looks: Looks, recipe: Recipe, width: int, height: int, ratio: float) -> QImage:
    return looks.wash(recipe, width, height, "depth", ratio)


@guarded
class WaterPage(WeighPage):
    """Wet against dry, planned against reached."""

    def __init__(self, session: Session, weighing: Weighing, acts: MixActs) -> None:
        super().__init__(session, weighing)
        self.acts = acts
        self.washes: Washes | None = None
        self.problem = ""
        self.dried: list[DriedMix] = []
        self._stale = True  # there may be other readings than what is on view rests on
        for signal in (session.opened, session.changed, session.learning.learned):
            signal.connect(self._note_stale)
        session.stoppers.append(self.stop)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(STEP)
        self.kinds = TabStrip(
            (tr("Wet and dry"), tr("Depth of washes")), 10.5, tr("What is shown of the water")
        )
        self.kinds.chosen.connect(lambda _: self._turn())
        layout.addWidget(self.kinds, 0, Qt.AlignmentFlag.AlignLeft)
        self.panels = QStackedWidget()
        self.panels.addWidget(self._make_list())
        self.panels.addWidget(self._make_depth())
        self.panels.addWidget(QWidget())
        layout.addWidget(self.panels, 1)
        self.shown, self.order, self.sheet = QComboBox(), QComboBox(), QComboBox()
        for box, words, name in (
            (self.shown, SHOWN, tr("Which of them")), (self.order, ORDERS, tr("In which order")),
        ):  # fmt: skip
            box.addItems(words)
            box.setAccessibleName(name)
            box.currentIndexChanged.connect(lambda _: self._show_list())
        self.sheet.setAccessibleName(tr("Of which sheet"))
        self.sheet.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.sheet.setMinimumContentsLength(24)
        self.sheet.currentIndexChanged.connect(lambda _: self._show_depth())
        keep_quiet(self.shown, self.order, self.sheet)
        self.tools = [self.shown, self.order, self.sheet]
        self.slip = self._make_slip()
        self.first = self.list

    # ---- how it is laid out

    def _make_list(self) -> QWidget:
        self.model = DriedList()
        self.list = QListView()
        self.list.setObjectName("lines")
        self.list.setModel(self.model)
        self.list.setItemDelegate(DriedDelegate(self.list))
        self.list.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setAccessibleName(tr("What was read wet and dry"))
        self.list.selectionModel().currentChanged.connect(lambda *_: self._show_one())
        self.list.doubleClicked.connect(lambda _: self.take())
        return self.list

    def _make_depth(self) -> QWidget:
        panel = QWidget()
        column = QVBoxLayout(panel)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(STEP)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        inner = QWidget()
        inner.setObjectName("ground")
        self.classes = QVBoxLayout(inner)
        self.classes.setContentsMargins(0, 0, 0, 0)
        self.classes.setSpacing(STEP)
        area.setWidget(inner)
        column.addWidget(area, 3)
        self.over_time = title_label(tr("Sheet after sheet"), 15)
        column.addWidget(self.over_time)
        self.curve = DepthCurve()
        self.curve.chosen.connect(self.choose_sheet)
        column.addWidget(self.curve, 2)
        return panel

    def _make_slip(self) -> Slip:
        slip = Slip()
        self.one = QWidget()
        column = QVBoxLayout(self.one)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(STEP)
        self.one_title = title_label("", 17)
        self.one_words = text_label("")
        pair = QHBoxLayout()
        self.wet, self.dry = Swatch(92), Swatch(92)
        for chip, word in ((self.wet, tr("wet")), (self.dry, tr("dry"))):
            under = QVBoxLayout()
            under.addWidget(chip)
            under.addWidget(text_label(word, soft=True, points=10))
            pair.addLayout(under)
        self.light, self.chroma, self.hue = (
            FactRow(tr("Lightness")),
            FactRow(tr("Chroma")),
            FactRow(tr("Hue")),
        )
        self.apart, self.where = text_label("", soft=True), text_label("", soft=True)
        self.take_button = QPushButton(tr("Take in hand"))
        self.take_button.clicked.connect(self.take)
        column.addWidget(self.one_title)
        column.addWidget(self.one_words)
        column.addLayout(pair)
        for fact in (self.light, self.chroma, self.hue):
            column.addWidget(fact)
        for widget in (self.apart, self.where, self.take_button):
            column.addWidget(widget)
        column.addWidget(rule())
        slip.lines.addWidget(self.one)
        self.how = text_label("", soft=True)
        slip.lines.addWidget(self.how)
        slip.lines.addStretch(1)
        return slip

    # ---- bringing up to date

    def _note_stale(self) -> None:
        self._stale = True

    def _look_again(self) -> None:
        """Other readings, or another estimate."""
        self._stale, self.washes, self.problem = False, None, ""
        self.session.runner.cancel(JOB)
        study = self.session.study
        cells = dried_cells(study) if study is not None else []
        self.dried = [*dried_mixes(cells), *paints_by_mixes(cells, self._dry_of(cells))]

    def _dry_of(self, cells: Sequence[Dried]) -> dict[str, Array]:
        """What the paints in some cells look like when they are dry, as far as they were read."""
        estimate = self.session.learning.estimate
        if estimate is None:
            return {}
        names = dict.fromkeys(name for cell in cells for name in cell.recipe.names)
        known = [
            n
            for n in names
            if n.casefold() in estimate.index and n.casefold() not in self.session.learning.unread
        ]
        labs = predict_lab(estimate, [mix([name]) for name in known], ["paper"] * len(known))
        return {name.casefold(): lab for name, lab in zip(known, labs, strict=True)}

    def _turn(self) -> None:
        self.refresh()
        if self.kinds.current == WaterPanel.DRIED and not any(
            button.hasFocus() for button in self.kinds.buttons
        ):
            self.list.setFocus()

    def refresh(self) -> None:
        """The page as things stand."""
        if self._stale:
            self._look_again()
        drying = self.kinds.current == WaterPanel.DRIED
        self.shown.setVisible(drying)
        self.order.setVisible(drying)
        self.one.setVisible(drying and bool(self.dried))
        self.sheet.setVisible(not drying)
        if drying:
            self.how.setText(
                tr(
                    "The wet look is noted at the table (L), in the Read room (It is still wet), from a picture of the wet "
                    "sheet, or comes with a file; the cell is read again when it is dry. A day is best. The wet look never "
                    "teaches."
                )
            )
            self._show_list()
        else:
            self.how.setText(
                tr(
                    "Each cell is held against its own paints: at which strength do they look like what was read? Your "
                    "full wash is the measure of the others; how water thins your paints is learned with them. What "
                    "differs by less than an eighth is not told."
                )
            )
            self._want_washes()
            self._show_sheets()

    # ---- wet and dry

    def _show_list(self) -> None:
        if self.kinds.current != WaterPanel.DRIED:
            return
        rows = dried_rows(
            self.dried, WashesShown(self.shown.currentIndex()), WashOrder(self.order.currentIndex())
        )
        before = self._chosen()
        self.model.show_rows(rows)
        self.panels.setCurrentIndex(WaterPanel.DRIED if self.dried else WaterPanel.NOTHING)
        if not self.dried:
            self.say(
                tr("Wet and dry"),
                tr("Nothing is read both wet and dry yet. Note the wet look of a cell at the table, or read a picture taken "
                "while the sheet is wet; read it again when it is dry."),
                "",
            )  # fmt: skip
            return
        seen = sum(row.dried.shift.word != "hardly" for row in rows)
        self.say(
            tr("Wet and dry"),
            trn(
                "{seen} of {n} changes visibly; dry less wet",
                "{seen} of {n} change visibly; dry less wet",
                len(rows), seen=seen,
            ),
            _KEY,
        )  # fmt: skip
        titles = [row.title for row in rows]
        place = titles.index(before.title) if before is not None and before.title in titles else 0
        self.list.setCurrentIndex(self.model.index(place, 0))
        self._show_one()

    def _chosen(self) -> DriedRow | None:
        index = self.list.currentIndex()
        return self.model.rows[index.row()] if 0 <= index.row() < len(self.model.rows) else None

    def _show_one(self) -> None:
        row = self._chosen()
        self.one.setVisible(row is not None and self.kinds.current == WaterPanel.DRIED)
        if row is None:
            return
        one, shift = row.dried, row.dried.shift
        self.one_title.setText(row.title)
        self.one_words.setText(capital(shift.words) + ".")
        for chip, lab, known in ((self.wet, one.wet, not one.by_mixes), (self.dry, one.dry, True)):
            chip.show_image(partial(_wash_of, lab, row.title), known)
        self.light.set(signed(shift.lightness, 1))
        self.chroma.set(signed(shift.chroma, 1))
        self.hue.set(tr("{change}°", change=signed(shift.hue)))
        self.apart.setText(apart_line(one) + ".")
        if one.by_mixes:
            where = trn(
                "Worked out from {n} mix that was read wet and dry; the paint alone was not.",
                "Worked out from {n} mixes that were read wet and dry; the paint alone was not.",
                one.by_mixes,
            )
        elif one.sheets:
            where = trn(
                "{n} cell, on {sheets}", "{n} cells, on {sheets}", shift.count,
                sheets=", ".join(title for _, title in one.sheets),
            )  # fmt: skip
        else:
            where = tr("Readings of no sheet")
        self.where.setText(where)

    def take(self) -> None:
        """Take the chosen mix in hand."""
        row = self._chosen()
        if row is not None:
            self.acts.take(row.dried.recipe)

    # ---- the depth of washes

    def _want_washes(self) -> None:
        estimate, study = self.session.learning.estimate, self.session.study
        if self.washes is not None or estimate is None or study is None or self.session.runner.busy(JOB):
            return
        rows = wash_rows(study)
        self.session.runner.start(JOB, lambda: telling_washes(rows, estimate), self._have_washes, self._fail)

    def stop(self) -> bool:
        """Break off what is being worked out; says whether there was anything."""
        if not self.session.runner.busy(JOB):
            return False
        self.session.runner.cancel(JOB)
        self.problem = tr("Stopped. Choose the page again to have it worked out.")
        self._stale = True
        self._show_depth()
        return True

    def _have_washes(self, washes: Washes) -> None:
        self.washes = washes
        if self.isVisible():
            self.refresh()

    def _fail(self, why: str) -> None:
        self.problem = why
        self.session.failed.emit(why)

    def choose_sheet(self, sheet_id: int) -> None:
        """Show one sheet's washes."""
        self.sheet.setCurrentIndex(max(0, self.sheet.findData(sheet_id)))

    def _show_sheets(self) -> None:
        washes, chosen = self.washes or Washes(), self.sheet.currentData()
        self.sheet.blockSignals(True)
        self.sheet.clear()
        self.sheet.addItem(tr("All that was read"), None)
        for one in reversed(washes.sheets):
            self.sheet.addItem(one.title, one.sheet_id)
        self.sheet.setCurrentIndex(max(0, self.sheet.findData(chosen) if chosen is not None else 0))
        self.sheet.blockSignals(False)
        self._show_depth()

    def _show_depth(self) -> None:
        if self.kinds.current != WaterPanel.DEPTH:
            return
        washes = self.washes
        own = washes.of(self.sheet.currentData()) if washes is not None else None
        reached = own.reached if own is not None else washes.reached if washes is not None else ()
        self.panels.setCurrentIndex(WaterPanel.DEPTH if reached else WaterPanel.NOTHING)
        if not reached:
            busy = washes is None and self.session.learning.estimate is not None and not self.problem
            self.say(
                tr("Depth of washes"),
                tr("Looking at what was read")
                if busy
                else self.problem
                or tr(
                    "Three cells of a kind of wash, read dry, tell how deep your washes come out. None are there yet."
                ),
                "",
            )
            return
        off = sum(one.sure for one in reached)
        self.say(
            tr("Depth of washes"),
            trn(
                "{n} kind of wash comes out otherwise than planned", "{n} kinds of wash come out otherwise than planned", off
            )
            if off
            else tr("Your washes come out as planned"),
            "",
        )  # fmt: skip
        clear_layout(self.classes)
        name = self._telling_paint()
        for one in reached:
            self.classes.addWidget(self._class_row(name, one))
        estimate = self.session.learning.estimate
        papers = [own.paper.name for own in self.session.papers]
        for words in hand_lines(estimate, papers) if estimate is not None else ():
            self.classes.addWidget(text_label(words))
        self.classes.addStretch(1)
        assert washes is not None
        several = len(washes.sheets) > 1
        self.over_time.setVisible(several)
        self.curve.setVisible(several)
        self.curve.show_sheets(washes.sheets, self.sheet.currentData())

    def _class_row(self, name: str, one: Reached) -> QWidget:
        """A wash as it was planned beside what came out, with what to do."""
        line = QWidget()
        across = QHBoxLayout(line)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(STEP)
        looks = self.session.learning.looks
        for recipe, recorded in zip(shown_washes(name, one), (False, True), strict=True):
            chip = Swatch(62)
            chip.setFixedWidth(px(112))
            if name and looks is not None:
                chip.show_image(partial(_wash_by, looks, recipe), recorded)
            across.addWidget(chip, 0, Qt.AlignmentFlag.AlignTop)
        words = lines_of_text((reached_title(one) + ".", True, False), (reached_advice(one), False, False))
        across.addWidget(words, 1)
        return line

    def _telling_paint(self) -> str:
        """The paint that shows best how strong a wash is: that whose tint is farthest from its full wash."""
        estimate = self.session.learning.estimate
        known = [name for name in self.weighing.names if name.casefold() not in self.session.learning.unread]
        if estimate is None or not known:
            return self.weighing.names[0] if self.weighing.names else ""
        full, tint = (
            predict_lab(estimate, [mix([name], wash=wash) for name in known], ["paper"] * len(known))
            for wash in (FULL, TINT)
        )
        return known[int(np.argmax(delta_e_00(full, tint)))]
