"""Box room: the box as it lies, its strokes, and what it can and can not do."""

from collections.abc import Callable
from enum import IntEnum
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QMimeData, Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QImage
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from culmo.core.paint.recipe import Recipe
from culmo.desk.button_keys import tell_key
from culmo.desk.guard import guarded
from culmo.desk.rooms.box.ask_row import AskRow
from culmo.desk.rooms.box.box_drawing import Spot
from culmo.desk.rooms.box.box_picture import BoxPicture
from culmo.desk.rooms.box.finder import Finder
from culmo.desk.rooms.box.known_view import KnownPage
from culmo.desk.rooms.box.label_page import LabelPage
from culmo.desk.rooms.box.paint_slip import PaintSlip
from culmo.desk.rooms.box.strokes import StrokesPage
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import SLIP_WIDTH, Room, TabbedSlip, TabStrip, text_label, title_label
from culmo.desk.wrap_row import TwoOnALine, WrapRow
from culmo.study import box_acts
from culmo.study.formats import Holds, may_hold
from culmo.study.records import Paint
from culmo.words import tr

if TYPE_CHECKING:
    from culmo.desk.rooms.box.findings_view import (
        FindingPage,
        MissingPage,
        OppositesPage,
        RepeatsPage,
        RolesPage,
    )
    from culmo.desk.rooms.box.judged_view import JudgedPage
    from culmo.desk.rooms.box.table_page import TablePage


class BoxPageName(IntEnum):
    """A page of the Box room, and its place in the strip."""

    BOX = 0
    STROKES = 1
    TABLE = 2
    ROLES = 3
    REPEATS = 4
    MISSING = 5
    OPPOSITES = 6
    JUDGED = 7


PAGES = (
    tr("Box"),
    tr("Strokes"),
    tr("Table"),
    tr("Roles"),
    tr("Repeats"),
    tr("Missing"),
    tr("Opposites"),
    tr("Judged"),
)


@guarded
class BoxRoom(Room):
    """The paints one owns."""

    entry_wanted = Signal(str)
    file_wanted = Signal(object)
    picture_wanted = Signal(object)
    box_wanted = Signal()
    slip_wanted = Signal(int)
    refill_wanted = Signal()
    card_wanted = Signal()
    subject_wanted = Signal(str)
    table_wanted = Signal(bool)

    def __init__(self, session: Session, in_hand: Callable[[], Recipe | None] = lambda: None) -> None:
        super().__init__()
        self.session, self.in_hand = session, in_hand
        self.current, self._narrow = "", False
        self.setAcceptDrops(True)
        main = self.lay_ground()
        main.addLayout(self._head())
        self.picture = BoxPicture(session)
        self.picture_area = QScrollArea()
        self.picture_area.setWidgetResizable(True)
        self.picture_area.setFrameShape(QFrame.Shape.NoFrame)
        self.picture_area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.picture_area.setWidget(self.picture)
        self.picture.setObjectName("ground")
        self.strokes = StrokesPage(session)
        self.stack = QStackedWidget()
        for page in (self._box_page(), self.strokes, *(QWidget() for _ in PAGES[BoxPageName.TABLE :])):
            self.stack.addWidget(page)  # a page of findings takes its place when it is first seen
        self.asks = AskRow()
        self.asks.changed.connect(self._ask_otherwise)
        self.asks.hide()
        self.finder = Finder(session, self.asks, self._say_empty, self._fill)
        main.addWidget(self.asks)
        main.addWidget(self.stack, 1)
        self.slip, self.label, self.known = PaintSlip(session), LabelPage(session), KnownPage(session)
        self.pages = TabbedSlip(
            [tr("Card"), tr("Label"), tr("What is known")], [self.slip, self.label, self.known]
        )
        self.lay_slip(self.pages)
        self._connect()
        self._opened()

    # ---- building

    def _head(self) -> QVBoxLayout:
        head = QVBoxLayout()
        head.setSpacing(0)
        acts = WrapRow(STEP)
        self.title = title_label(tr("The box"), 18)
        self.subtitle = text_label("", soft=True)
        self.arrange = QPushButton(tr("Arrange"))
        menu = QMenu(self.arrange)
        for order, words in (
            ("hue", tr("By hue")),
            ("lightness", tr("By lightness")),
            ("warm to cool", tr("Warm to cool")),
        ):
            action = menu.addAction(words)
            action.triggered.connect(lambda _=False, order=order: self.arrange_by(order))
        self.arrange.setMenu(menu)
        self.enter = QPushButton(tr("Enter many…"))
        self.enter.clicked.connect(lambda: self.entry_wanted.emit(""))
        self.add = QPushButton(tr("Add a paint"))
        self.add.clicked.connect(self.new_paint)
        tell_key(self.enter, "enter")
        tell_key(self.add, "add paint")
        for button in (self.arrange, self.enter, self.add):
            acts.addWidget(button)
        self.shows = TabStrip(PAGES, name=tr("What the room shows"))
        self.shows.chosen.connect(self._show_page)
        for tab in self.shows.buttons:  # the page on view, chosen again
            tab.clicked.connect(self._find_again)
        head.addLayout(TwoOnALine(self.title, acts, 160))
        head.addLayout(TwoOnALine(self.subtitle, self.shows))
        return head

    def _box_page(self) -> QWidget:
        """The box; or, while there is none, how to come by one."""
        self.box_stack = QStackedWidget()
        empty = QWidget()
        column = QVBoxLayout(empty)
        column.addStretch(1)
        self.empty_words = text_label("", points=12)
        self.empty_words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(self.empty_words)
        row = QHBoxLayout()
        row.addStretch(1)
        self.empty_enter = QPushButton(tr("Enter many paints…"))
        self.empty_enter.setObjectName("strong")
        self.empty_enter.clicked.connect(lambda: self.entry_wanted.emit(""))
        self.empty_box = QPushButton(tr("Lay out a box…"))
        self.empty_box.clicked.connect(self.box_wanted.emit)
        row.addWidget(self.empty_enter)
        row.addWidget(self.empty_box)
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(2)
        self.box_stack.addWidget(self.picture_area)
        self.box_stack.addWidget(empty)
        return self.box_stack

    def _connect(self) -> None:
        session = self.session
        self.slip.saved.connect(self._saved)
        self.slip.wanted.connect(lambda name: self.select(name) if name else self.new_paint())
        self.slip.picture_wanted.connect(lambda: self.picture_wanted.emit(None))
        self.label.refill.connect(self.refill_wanted.emit)
        self.label.plan_card.connect(self.card_wanted.emit)
        self.strokes.chosen.connect(self.select)
        self.picture.selected.connect(self._spot_chosen)
        self.picture.moved.connect(self._moved)
        self.picture.activated.connect(self._activated)
        session.opened.connect(self._opened)
        session.changed.connect(self.refresh_when_seen)
        session.selection.box_changed.connect(self._box_chosen)
        session.learning.learned.connect(self._learned)
        session.selection.in_hand_changed.connect(self.picture.update)

    def _take_place(self, place: int, page: QWidget) -> None:
        empty = self.stack.widget(place)
        assert empty is not None
        self.stack.removeWidget(empty)
        empty.deleteLater()
        self.stack.insertWidget(place, page)

    @cached_property
    def table(self) -> "TablePage":
        """Every paint with all that is known of it."""
        from culmo.desk.rooms.box.table_page import TablePage

        page = TablePage(self.session)
        page.chosen.connect(self.select)
        page.card_wanted.connect(lambda: self.shows.choose(BoxPageName.STROKES))
        page.export_wanted.connect(lambda: self.table_wanted.emit(False))
        page.print_wanted.connect(lambda: self.table_wanted.emit(True))
        self._take_place(BoxPageName.TABLE, page)
        return page

    @cached_property
    def roles(self) -> "RolesPage":
        """Who does which job."""
        from culmo.desk.rooms.box.findings_view import RolesPage

        page = RolesPage(self.session)
        self._take_place(BoxPageName.ROLES, page)
        return page

    @cached_property
    def repeats(self) -> "RepeatsPage":
        """Paints that are alike."""
        from culmo.desk.rooms.box.findings_view import RepeatsPage

        page = RepeatsPage(self.session)
        self._take_place(BoxPageName.REPEATS, page)
        return page

    @cached_property
    def missing(self) -> "MissingPage":
        """What the box can not do."""
        from culmo.desk.rooms.box.findings_view import MissingPage

        page = MissingPage(self.session)
        page.slip_wanted.connect(self.slip_wanted.emit)
        self._take_place(BoxPageName.MISSING, page)
        return page

    @cached_property
    def opposites(self) -> "OppositesPage":
        """The partners that neutralise."""
        from culmo.desk.rooms.box.findings_view import OppositesPage

        page = OppositesPage(self.session)
        self._take_place(BoxPageName.OPPOSITES, page)
        return page

    @cached_property
    def judged(self) -> "JudgedPage":
        """What the set does well, what is weak, what others are worth."""
        from culmo.desk.rooms.box.judged_view import JudgedPage

        page = JudgedPage(self.session)
        page.subject_wanted.connect(self.subject_wanted)
        self._take_place(BoxPageName.JUDGED, page)
        return page

    # ---- showing

    def _opened(self) -> None:
        paints = self.session.selection.paints_in_use() or self.session.paints
        self.current = paints[0].name if paints else ""
        self.finder.forget()
        self.shows.choose(
            BoxPageName.BOX if self.session.boxes or not self.session.paints else BoxPageName.STROKES
        )
        self.refresh_when_seen()

    def _box_chosen(self) -> None:
        self.finder.forget()
        paints = self.session.selection.paints_in_use()
        if paints and self.current not in [paint.name for paint in paints]:
            self.current = paints[0].name
        self.refresh_when_seen()

    def refresh(self) -> None:
        """Show the box and its paints."""
        session = self.session
        box, paints = session.selection.box, session.paints
        self.title.setText(box.name if box is not None else tr("All paints"))
        self.strokes.show_paints(session.selection.paints_in_use(), self.current)
        self.picture.show_box(box, paints)
        self.box_stack.setCurrentIndex(0 if box is not None else 1)
        self.empty_words.setText(
            tr("No box is in use. Choose one at the left, or lay one out with your paints.")
            if paints
            else tr(
                "No paints yet. Paste a list, or type the first one at the right:\nits name, its pigments "
                "and what the label says, in one line."
            )
        )
        self.arrange.setEnabled(box is not None and bool(box.paints))
        self.subtitle.setText(self._subtitle())
        names = [paint.name for paint in paints]
        if self.current and self.current not in names:
            self.current = names[0] if names else ""
        self.select(self.current)
        self.finder.forget()
        self._find()

    def _subtitle(self) -> str:
        box, paints = self.session.selection.box, self.session.paints
        if not paints:
            return tr("Empty yet. Enter your first paint at the right: its name and what its card shows.")
        words = []
        if box is not None:
            words.append(tr("{n} paints in {count} wells", n=len(box.paints), count=box.shape.count))
        else:
            words.append(tr("{n} paints", n=len(paints)))
        for status, word in (("sample", tr("{n} sampled")), ("wished", tr("{n} considered"))):
            count = sum(paint.status == status for paint in paints)
            if count:
                words.append(word.format(n=count))
        return ", ".join(words)

    def resizeEvent(self, _: object) -> None:
        # the room knows its new width before what stands in it does
        wide = self.width() - px(SLIP_WIDTH) - 6 * STEP
        self.strokes.fit(wide)
        self.subtitle.setVisible(wide > px(640))
        narrow = wide < px(620)
        if narrow != self._narrow:
            self._narrow = narrow
            QTimer.singleShot(0, self, self._fill)

    def select(self, name: str) -> None:
        """Show a paint in the slip; no name means a new one."""
        self.current = name
        paint = self._paint(name)
        self.strokes.select(name)
        if self.shows.current == BoxPageName.TABLE:
            self.table.select(name)
        self.picture.select_paint(paint.id if paint is not None else None)
        self.slip.show_paint(paint)
        self.label.show_paint(name)
        self.known.show_paint(name)

    def _paint(self, name: str) -> Paint | None:
        return next((paint for paint in self.session.paints if paint.name == name), None)

    def current_paint(self) -> Paint | None:
        """The selected paint."""
        return self._paint(self.current)

    def take_keys(self) -> None:
        """Give the keys to the selected paint, or to the line for a new one."""
        if self.shows.current == BoxPageName.BOX and self.session.selection.box is not None:
            self.picture.setFocus()
            return
        if self.shows.current == BoxPageName.TABLE:
            self.table.table.setFocus()
            return
        card = next((card for card in self.strokes.cards if card.isChecked()), None)
        (card or self.slip.line).setFocus()

    def new_paint(self) -> None:
        """Empty fields, ready to type."""
        self.current = ""
        self.strokes.select("")
        self.picture.select_paint(None)
        self.pages.tabs.choose(0)
        self.slip.show_paint(None)
        self.label.show_paint("")
        self.known.show_paint("")
        self.slip.line.setFocus()

    def _saved(self, name: str) -> None:
        was_new = self.slip.draft.paint_id is None
        self.session.told.emit(
            tr("{name} is saved", name=name) if name else tr("The paint is retired; its record stays")
        )
        if was_new:
            self._lay_new(name)
            self.new_paint()
        else:
            self.select(name or (self.session.paints[0].name if self.session.paints else ""))

    def _lay_new(self, name: str) -> None:
        """A paint typed while an empty well is selected, or with a free well left, lies in the box at once."""
        box, paint = self.session.selection.box, self._paint(name)
        if box is None or paint is None or paint.status == "wished":
            return
        spot = self.picture.current
        free = [place for place in range(box.shape.count) if place not in box.paints]
        place = spot.place if spot is not None and spot.place in free else (free[0] if free else -1)
        if place >= 0:
            paints = {**box.paints, place: paint.id}
            self.session.do(
                box_acts.lay_wells(self.session.file, box.id, paints, tr("Lay {name} in a well", name=name))
            )

    def _learned(self) -> None:
        self.slip.refresh()
        self.strokes.redraw()
        self.picture.update()
        self.finder.forget()
        self._find()

    # ---- the box

    def _spot_chosen(self, spot: object) -> None:
        assert isinstance(spot, Spot)
        paint = next((paint for paint in self.session.paints if paint.id == spot.paint_id), None)
        if paint is not None:
            self.select(paint.name)
            return
        self.new_paint()
        self.picture.current = spot
        self.picture.update()
        self.picture.setFocus()

    def _activated(self, spot: object) -> None:
        self.pages.tabs.choose(0)
        assert isinstance(spot, Spot)
        (self.slip.name if spot.paint_id is not None else self.slip.line).setFocus()

    def _moved(self, start: object, end: object) -> None:
        """A paint was carried from one spot to another."""
        box = self.session.selection.box
        assert isinstance(start, Spot) and isinstance(end, Spot)
        if box is None or start.paint_id is None:
            return
        study, name = self.session.file, self.picture.paints[start.paint_id].name
        with self.session.guarded():
            if start.place >= 0 and end.place >= 0:
                self.session.do(box_acts.move_paint(study, box.id, start.place, end.place))
            elif start.place >= 0:
                paints = {place: paint for place, paint in box.paints.items() if place != start.place}
                self.session.do(
                    box_acts.lay_wells(study, box.id, paints, tr("Take {name} out of its well", name=name))
                )
            elif end.place >= 0:
                paints = {**box.paints, end.place: start.paint_id}
                self.session.do(
                    box_acts.lay_wells(study, box.id, paints, tr("Lay {name} in a well", name=name))
                )
        self.select(name)

    def arrange_by(self, order: str) -> None:
        """Lay the box's paints in an order; empty wells come last."""
        box, estimate = self.session.selection.box, self.session.learning.estimate
        if box is None or estimate is None:
            return
        from culmo.core.palette.arrange import arrange
        from culmo.core.palette.mixer import PAIR_WASHES, mixer_of

        in_use = self.session.selection.paints_in_use()
        paints = [paint for paint in in_use if paint.name.casefold() in estimate.index]
        mixer = mixer_of(estimate).only([paint.name for paint in paints])
        places = arrange(order, mixer.lab(np.eye(len(paints)), PAIR_WASHES))
        laid = {place: paints[i].id for place, i in enumerate(places)}
        rest = [paint_id for place, paint_id in sorted(box.paints.items()) if paint_id not in laid.values()]
        laid.update({len(laid) + i: paint_id for i, paint_id in enumerate(rest)})
        self.session.do(
            box_acts.lay_wells(
                self.session.file,
                box.id,
                laid,
                tr("Arrange {name} by {order}", name=box.name, order=tr(order)),
            )
        )
        self.session.told.emit(
            tr("Arranged by {order}; Ctrl+Z brings back the order of before", order=tr(order))
        )

    # ---- findings

    def _show_page(self, page: int) -> None:
        shown = self.table if page == BoxPageName.TABLE else self._page()  # made before it is turned to
        self.pages.setVisible(page != BoxPageName.TABLE)  # which takes all the room there is
        self.asks.setVisible(page in (BoxPageName.ROLES, BoxPageName.OPPOSITES))
        self.stack.setCurrentIndex(page if shown is None else self.stack.indexOf(shown))
        self._find()

    def _ask_otherwise(self) -> None:
        self.finder.forget()
        self._find()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)
        self._find()

    def mix_changed(self) -> None:
        """The paints in hand, their parts or their water have changed."""
        if self.shows.current == BoxPageName.REPEATS and self.isVisible():
            self._fill()

    def _find(self) -> None:
        """What is shown is worked out, where that is not done for these paints yet."""
        if self.shows.current == BoxPageName.TABLE and self.isVisible():
            self.table.refresh(self.current)
        if self.shows.current >= BoxPageName.ROLES and self.isVisible():
            self.finder.want(self.shows.current in (BoxPageName.ROLES, BoxPageName.OPPOSITES))

    def _find_again(self) -> None:
        """After a stop or a failure the page is worked out when its word is pressed once more."""
        if self.finder.broken_off:
            self._find()

    def _page(self) -> "FindingPage | None":
        """The page of findings on view; it is made when it is first asked for."""
        makers: dict[int, Callable[[], FindingPage]] = {
            BoxPageName.ROLES: lambda: self.roles,
            BoxPageName.REPEATS: lambda: self.repeats,
            BoxPageName.MISSING: lambda: self.missing,
            BoxPageName.OPPOSITES: lambda: self.opposites,
            BoxPageName.JUDGED: lambda: self.judged,
        }
        make = makers.get(self.shows.current)
        return make() if make is not None else None

    def _say_empty(self, text: str) -> None:
        page = self._page()
        if page is not None:
            page.begin()
            page.say(text)
            page.end()

    def _fill(self) -> None:
        page, found = self._page(), self.finder.found
        if page is None or found is None:
            return
        at = page.verticalScrollBar().value()
        page.show_findings(found, self.in_hand())
        page.verticalScrollBar().setValue(at)

    # ---- dropping and pasting

    def paste(self) -> None:
        """Files, a list of paints or a picture from the clipboard."""
        data = QGuiApplication.clipboard().mimeData()
        if data.hasUrls():
            self._take_in(data)
        elif data.hasText() and data.text().strip():  # a spreadsheet gives its cells as a picture too
            self.entry_wanted.emit(data.text())
        elif data.hasImage():
            self.picture_wanted.emit(QImage(data.imageData()))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls()]
        if event.mimeData().hasText() or any(may_hold(path, Holds.PICTURE, Holds.PAINTS) for path in paths):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self._take_in(event.mimeData())

    def _take_in(self, data: QMimeData) -> None:
        paths = [Path(url.toLocalFile()) for url in data.urls()]
        for path in paths:
            if may_hold(path, Holds.PICTURE):
                self.picture_wanted.emit(path)
            elif may_hold(path, Holds.PAINTS):
                self.file_wanted.emit(path)
            else:
                self.session.told.emit(tr("{name} is no picture and no table of paints", name=path.name))
        if not paths and data.hasText():
            self.entry_wanted.emit(data.text())
