"""Box room: the box as it lies, its strokes, and what it can and can not do."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMimeData, Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QImage
from PySide6.QtWidgets import (
    QFrame,
    QMenu,
    QPushButton,
    QScrollArea,
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
from culmo.desk.rooms.box.laying import arrange_by, carry, lay_new, paint_called
from culmo.desk.rooms.box.pages import PAGES, BoxOrNone, BoxPageName, BoxPages, counted_words
from culmo.desk.rooms.box.paint_slip import PaintSlip
from culmo.desk.rooms.box.strokes import StrokesPage
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import SLIP_WIDTH, Room, TabbedSlip, TabStrip, text_label, title_label
from culmo.desk.wrap_row import TwoOnALine, WrapRow
from culmo.study.formats import Holds, may_hold
from culmo.study.records import Paint
from culmo.words import tr


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

    def __init__(
        self,
        session: Session,
        in_hand: Callable[[], Recipe | None] = lambda: None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
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
        self.lies = BoxOrNone(self.picture_area)
        self.lies.enter.clicked.connect(lambda: self.entry_wanted.emit(""))
        self.lies.lay_out.clicked.connect(self.box_wanted.emit)
        self.stack = BoxPages(session, self.lies, self.strokes)
        self.asks = AskRow()
        self.asks.hide()
        self.finder = Finder(session, self.asks, self._say_empty, self._fill)
        self.asks.changed.connect(self.finder.forget)
        self.asks.changed.connect(self._find)
        main.addWidget(self.asks)
        main.addWidget(self.stack, 1)
        self.pages = TabbedSlip([tr("Card"), tr("Label"), tr("What is known")], self)
        self.lay_slip(self.pages)
        held = self.pages.pages
        self.slip, self.label, self.known = (
            PaintSlip(session, held),
            LabelPage(session, held),
            KnownPage(session, held),
        )
        self.pages.hold(self.slip, self.label, self.known)
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
            action.triggered.connect(lambda _=False, order=order: arrange_by(self.session, order))
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
        # after a stop or a failure the page on view is worked out when its word is pressed once more
        for tab in self.shows.buttons:
            tab.clicked.connect(lambda: self._find() if self.finder.broken_off else None)
        head.addLayout(TwoOnALine(self.title, acts, 160))
        head.addLayout(TwoOnALine(self.subtitle, self.shows))
        return head

    def _connect(self) -> None:
        session = self.session
        self.slip.saved.connect(self._saved)
        self.slip.wanted.connect(lambda name: self.select(name) if name else self.new_paint())
        self.slip.picture_wanted.connect(lambda: self.picture_wanted.emit(None))
        self.label.refill.connect(self.refill_wanted.emit)
        self.label.plan_card.connect(self.card_wanted.emit)
        self.strokes.chosen.connect(self.select)
        self.stack.chosen.connect(self.select)
        self.stack.card_wanted.connect(lambda: self.shows.choose(BoxPageName.STROKES))
        self.stack.table_wanted.connect(self.table_wanted)
        self.stack.slip_wanted.connect(self.slip_wanted)
        self.stack.subject_wanted.connect(self.subject_wanted)
        self.picture.selected.connect(self._spot_chosen)
        self.picture.moved.connect(
            lambda start, end: self.select(name) if (name := carry(session, start, end)) else None
        )
        self.picture.activated.connect(self._activated)
        session.opened.connect(self._opened)
        session.changed.connect(self.refresh_when_seen)
        session.selection.box_changed.connect(self._box_chosen)
        session.learning.learned.connect(self._learned)
        session.selection.in_hand_changed.connect(self.picture.update)

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
        self.lies.show_which(box is not None, bool(paints))
        self.arrange.setEnabled(box is not None and bool(box.paints))
        self.subtitle.setText(counted_words(box, paints))
        names = [paint.name for paint in paints]
        if self.current and self.current not in names:
            self.current = names[0] if names else ""
        self.select(self.current)
        self.finder.forget()
        self._find()

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
        paint = paint_called(self.session, name)
        self.strokes.select(name)
        if self.shows.current == BoxPageName.TABLE:
            self.stack.table.select(name)
        self.picture.select_paint(paint.id if paint is not None else None)
        self.slip.show_paint(paint)
        self.label.show_paint(name)
        self.known.show_paint(name)

    def current_paint(self) -> Paint | None:
        """The selected paint."""
        return paint_called(self.session, self.current)

    def take_keys(self) -> None:
        """Give the keys to the selected paint, or to the line for a new one."""
        if self.shows.current == BoxPageName.BOX and self.session.selection.box is not None:
            self.picture.setFocus()
            return
        if self.shows.current == BoxPageName.TABLE:
            self.stack.table.table.setFocus()
            return
        card = next((card for card in self.strokes.cards if card.isChecked()), None)
        (card or self.slip.line).setFocus()

    def new_paint(self) -> None:
        """Empty fields, ready to type."""
        self.current = ""
        self.strokes.select("")
        self.picture.select_paint(None)
        self.pages.turn_to(self.slip)
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
            lay_new(self.session, paint_called(self.session, name), self.picture.current)
            self.new_paint()
        else:
            self.select(name or (self.session.paints[0].name if self.session.paints else ""))

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
        self.pages.turn_to(self.slip)
        assert isinstance(spot, Spot)
        (self.slip.name if spot.paint_id is not None else self.slip.line).setFocus()

    # ---- findings

    def _show_page(self, page: int) -> None:
        shown = self.stack.made(BoxPageName(page))  # before it is turned to
        self.pages.setVisible(page != BoxPageName.TABLE)  # which takes all the room there is
        self.asks.setVisible(page in (BoxPageName.ROLES, BoxPageName.OPPOSITES))
        self.stack.setCurrentIndex(page if shown is None else self.stack.indexOf(shown))
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
            self.stack.table.refresh(self.current)
        if self.shows.current >= BoxPageName.ROLES and self.isVisible():
            self.finder.want(self.shows.current in (BoxPageName.ROLES, BoxPageName.OPPOSITES))

    def _say_empty(self, text: str) -> None:
        page = self.stack.findings(BoxPageName(self.shows.current))
        if page is not None:
            page.begin()
            page.say(text)
            page.end()

    def _fill(self) -> None:
        page, found = self.stack.findings(BoxPageName(self.shows.current)), self.finder.found
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
