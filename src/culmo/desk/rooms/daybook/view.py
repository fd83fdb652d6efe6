"""Daybook: what was done, seen and decided, by date; free notes; search over everything; what is due."""

from datetime import datetime
from pathlib import Path

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QKeySequence, QShortcut
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from culmo.desk.guard import guarded
from culmo.desk.rooms.daybook.lines import LinesView
from culmo.desk.rooms.daybook.model import DAYS, EARLIER, FILTERS, View, days_view, found_view, lab_of
from culmo.desk.rooms.daybook.note_line import NoteLine
from culmo.desk.rooms.daybook.slip import DaybookSlip
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.desk.theme import px
from culmo.desk.widgets import Entry, Room, TabStrip, text_label, title_label
from culmo.study.diary import DiaryEntry
from culmo.study.formats import Holds, may_hold
from culmo.study.records import sheet_titles
from culmo.words import tr

REST_MS = 2500  # what a search asks for is read again when the hand has rested so long
DUE_MS = 60  # what is due is looked up after the act itself is on view
WARM_MS = 40
TYPING_MS = 120  # a search waits until typing rests


@guarded
class DaybookRoom(Room):
    """The studio's days."""

    go = Signal(object)
    due_chosen = Signal(object)
    picture_wanted = Signal(int)
    day_wanted = Signal(str)
    note_change_wanted = Signal(int)

    def __init__(self, session: Session, settings: Settings, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self._sheets: list[int | None] = [None]
        self._most = DAYS
        self.setAcceptDrops(True)
        main = self.lay_ground()
        self._head(main)
        self.view = LinesView(session, tr("Lines of the Daybook"))
        self.empty = text_label("", soft=True)
        self.summary = text_label("", soft=True, points=10)
        main.addWidget(self.summary)
        main.addWidget(self.empty)
        main.addWidget(self.view, 1)
        self.foot = NoteLine(session, settings)
        main.addWidget(self.foot)
        self.slip = DaybookSlip(session, self.view.itemDelegate())  # type: ignore[arg-type]  # it is the room's own
        self.lay_slip(self.slip)
        self._connect()

    def _head(self, main: QVBoxLayout) -> None:
        row = QHBoxLayout()
        row.addWidget(title_label(tr("Daybook"), 18))
        self.search = Entry(
            tr('Search: a paint, PB29, a word, a mark, a date, "#5a6b4c"'), tr("Search the whole record")
        )
        self.search.setClearButtonEnabled(True)
        row.addWidget(self.search, 1)
        main.addLayout(row)
        self.filters = TabStrip([word for word, _ in FILTERS], 10.5, tr("What is shown"))
        self.only = QComboBox()
        self.only.setAccessibleName(tr("Sheet"))
        self.only.setMaximumWidth(px(200))
        self.only.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.only.setMinimumContentsLength(12)
        row.addWidget(self.only)
        main.addWidget(self.filters)

    def _connect(self) -> None:
        self._typing = QTimer(self)
        self._typing.setSingleShot(True)
        self._typing.timeout.connect(self._show_lines)
        self._warming = QTimer(self)
        self._warming.setInterval(WARM_MS)
        self._warming.timeout.connect(self._warm)
        self._resting = QTimer(self)
        self._resting.setSingleShot(True)
        self._resting.setInterval(REST_MS)
        self._resting.timeout.connect(self._warming.start)
        self._dues = QTimer(self)
        self._dues.setSingleShot(True)
        self._dues.timeout.connect(self._show_due)
        self.search.textChanged.connect(lambda _: self._typing.start(TYPING_MS))
        self.search.returnPressed.connect(self._to_first)
        escape = QShortcut(
            QKeySequence(Qt.Key.Key_Escape), self.search, context=Qt.ShortcutContext.WidgetShortcut
        )
        escape.activated.connect(self.search.clear)
        self.filters.chosen.connect(lambda _: self._show_lines())
        self.only.activated.connect(lambda _: self._show_lines())
        self.view.chosen.connect(self.slip.show_entry)
        self.view.entered.connect(self._enter)
        self.slip.go.connect(self._enter)
        self.slip.due_chosen.connect(self.due_chosen)
        self.slip.near.connect(self.search_near)
        self.slip.open_picture.connect(self.picture_wanted)
        self.slip.export_day.connect(self.day_wanted)
        self.slip.change_note.connect(self.note_change_wanted)
        self.slip.remove_note.connect(self.foot.remove)
        self.session.opened.connect(self._other_study)
        self.session.changed.connect(self.refresh_when_seen)
        self.session.learning.learned.connect(self.view.viewport().update)

    def _other_study(self) -> None:
        self._most = DAYS
        self.foot.forget()
        self.search.clear()
        self.refresh_when_seen()

    def take_keys(self) -> None:
        """The keys go to what the room shows."""
        self.view.setFocus()

    # ---- showing

    def refresh(self) -> None:
        """Everything anew."""
        study = self.session.study
        for widget in (self.foot, self.search):
            widget.setEnabled(study is not None)
        if study is None:
            return
        titles = sheet_titles(study)
        chosen = self._sheets[max(self.only.currentIndex(), 0)] if self.only.count() else None
        self._sheets = [None, *(sheet_id for sheet_id, _ in titles)]
        self.only.clear()
        self.only.addItems([tr("All sheets"), *(title for _, title in titles)])
        self.only.setCurrentIndex(self._sheets.index(chosen) if chosen in self._sheets else 0)
        self._dues.start(DUE_MS)
        self._warming.stop()
        self._resting.start()
        self._show_lines()

    def _warm(self) -> None:
        """Read what a search asks for, a piece at a time while nothing else is done."""
        if self.session.study is None or not self.isVisible() or not self.session.index.warm():
            self._warming.stop()

    def _show_due(self) -> None:
        if self.session.study is not None:
            with self.session.guarded():
                self.slip.show_due(self.session.dues.due())

    def _show_lines(self) -> None:
        self._typing.stop()
        study = self.session.study
        if study is None:
            return
        text = self.search.text().strip()
        with self.session.guarded():
            view: View
            if text:
                today = datetime.fromisoformat(study.clock()).date()
                view = found_view(self.session.index, text, today, self.filters.current)
            else:
                sheet_id = self._sheets[max(self.only.currentIndex(), 0)]
                view = days_view(study, self.filters.current, sheet_id, self._most)
            self.only.setEnabled(not text)
            self.summary.setText(view.summary)
            self.summary.setVisible(bool(view.summary))
            self.empty.setText(view.empty)
            self.empty.setVisible(not view.lines)
            self.view.setVisible(bool(view.lines))
            self.view.show_lines(view.lines)

    def _enter(self, entry: DiaryEntry | None) -> None:
        """Go to what a line is about; the last one brings more days."""
        if entry is not None and entry.kind == EARLIER:
            self._most *= 2
            self._show_lines()
        else:
            self.go.emit(entry)

    def _to_first(self) -> None:
        """From the search to what it found."""
        self._show_lines()
        self.view.choose_first()
        self.view.setFocus()

    def take_search(self) -> None:
        """Ready to type what is sought."""
        self.search.setFocus()
        self.search.selectAll()

    def search_near(self, entry: DiaryEntry) -> None:
        """Colours near that of a line."""
        lab = lab_of(entry)
        if lab is not None:
            self.search_colour(lab)

    def search_colour(self, lab: tuple[float, float, float]) -> None:
        """Colours of the record near one."""
        self.search.setText(", ".join(f"{value:.1f}" for value in lab))
        self._show_lines()

    def paste(self) -> None:
        """A picture from the clipboard for the note."""
        self.foot.take(QGuiApplication.clipboard().mimeData())

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls()]
        if paths and all(may_hold(path, Holds.PICTURE) for path in paths):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.foot.take(event.mimeData())
