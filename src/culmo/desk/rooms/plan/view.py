"""Plan room: the sheet to be painted, predicted and to scale."""

from enum import IntEnum

from PySide6.QtCore import Signal
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QPushButton, QStackedWidget, QVBoxLayout, QWidget

from culmo.core.chart.plans import plan_from
from culmo.core.chart.sheet import Sheet
from culmo.desk.button_keys import tell_key
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.drawing.sheet import SheetStyle
from culmo.desk.guard import guarded
from culmo.desk.rooms.plan.at_hand import (
    like_texts,
    pace_of,
    usual_texts,
)
from culmo.desk.rooms.plan.before import looks_of_trial
from culmo.desk.rooms.plan.cover_tool import CoverTool
from culmo.desk.rooms.plan.foot import PlanFoot
from culmo.desk.rooms.plan.hands import PlanHands
from culmo.desk.rooms.plan.kinds_page import KindsPage
from culmo.desk.rooms.plan.layout_trial import LayoutTrial
from culmo.desk.rooms.plan.model import subtitle, texts_of
from culmo.desk.rooms.plan.slip import PlanSlip, PlanSlipPage
from culmo.desk.rooms.plan.teaching import Teaching
from culmo.desk.rooms.plan.wish_costs import WishCosts
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.desk.sheet_picker import SheetPicker, room_head
from culmo.desk.sheet_state import SheetState
from culmo.desk.sheet_view import SheetView
from culmo.desk.theme import px
from culmo.desk.widgets import SLIP_WIDTH, Room, TabStrip, text_label, title_label
from culmo.study import records
from culmo.words import tr

NARROW = 620
_OF_OTHERS = tr("This sheet is made from others; plan it anew where it came from.")


class PlanShows(IntEnum):
    """What the sheet shows, and its place in the strip."""

    PREDICTED = 0
    RECORDED = 1
    ORDER = 2
    TEACHES = 3


@guarded
class PlanRoom(Room):
    """The sheet to be painted."""

    start_painting = Signal()

    def __init__(
        self, session: Session, state: SheetState, settings: Settings, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.session, self.state, self.settings = session, state, settings
        main = self.lay_ground()
        self.slip = PlanSlip(session, self)
        self.costs = WishCosts(session, self.slip)
        self.trying = LayoutTrial(session, state, settings, self.slip.layout_page)
        self.trying.shown.connect(self.refresh)
        self.trying.drawn.connect(self._draw_quickly)
        self.trying.page_wanted.connect(self.slip.tabs.choose)
        self.view = SheetView(session.drawing)
        self.cover = CoverTool(self.view)
        main.addLayout(self._head())
        self.kinds = KindsPage(session)
        self.kinds.chosen.connect(self._begin_kind)
        self.kinds.left.connect(self.leave_kinds)
        self._choosing = False
        self.teaching = Teaching(session)
        self.teaching.changed.connect(self.refresh)
        main.addWidget(self.teaching)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.view)
        self.stack.addWidget(self.kinds)
        main.addWidget(self.stack, 1)
        self.foot = PlanFoot()
        self.foot.start.clicked.connect(self.start_painting.emit)
        main.addLayout(self.foot)
        self.lay_slip(self.slip)
        self.view.selected.connect(state.select)
        self.hands = PlanHands(session, self.view, self.slip, lambda: self.trial, self.trying.lay_out_now)
        self.cover.changed.connect(self._say_about)
        self.trying.titled.connect(self.title.setText)
        self.slip.tabs.chosen.connect(self._page_chosen)
        state.updated.connect(self.refresh_when_seen)
        state.cell_selected.connect(self._show_cell)
        self.refresh()

    def resizeEvent(self, _: object) -> None:
        # beside four words there is no room for a line in a narrow window
        self.subtitle.setVisible(self.width() - px(SLIP_WIDTH) > px(NARROW))

    @property
    def trial(self) -> Sheet | None:
        """The page of the layout being tried that is on view."""
        return self.trying.sheet

    def _head(self) -> QVBoxLayout:
        self.title = title_label("", 18)
        self.subtitle = text_label("", soft=True)
        self.picker = SheetPicker(self.session)
        self.shows = TabStrip(
            [tr("Predicted"), tr("Recorded"), tr("Order of work"), tr("What teaches")],
            name=tr("What the sheet shows"),
        )
        self.shows.chosen.connect(self.refresh)
        self.new_button = QPushButton(tr("New sheet"))
        self.new_button.clicked.connect(self.choose_kind)
        tell_key(self.new_button, "new sheet")
        self.next_page = QPushButton(tr("Next page"))
        self.next_page.clicked.connect(self.trying.turn_page)
        tools = [self.next_page, self.cover.button, self.new_button]
        return room_head(self.title, self.picker, tools, self.subtitle, self.shows)

    def take_keys(self) -> None:
        """The keys go to what the room shows."""
        if self.stack.currentWidget() is self.kinds:
            self.kinds.take_keys()
        else:
            self.view.setFocus()

    # ---- the sheet shown

    def sheet(self) -> Sheet | None:
        """The sheet on view: the trial while a layout is being tried, else the kept one."""
        if self.trial is not None:
            return self.trial
        return self.state.record.sheet if self.state.record else None

    def _looks(self) -> dict[str, CellLook]:
        if self.trial is None:
            return self.state.looks
        return looks_of_trial(self.state, self.trial, self.trying.of, self.trying.prediction)

    def refresh(self) -> None:
        """Show the sheet as it stands."""
        self.trying.note()
        self.next_page.setVisible(len(self.trying.sheets) > 1)
        self.trying.predict()
        sheet = self.sheet()
        has_paints = len(self.session.paints) >= 2
        self.new_button.setEnabled(has_paints)
        choosing = has_paints and (sheet is None or (self._choosing and self.trial is None))
        on_view, teaches = sheet is not None and not choosing, self.shows.current == PlanShows.TEACHES
        for widget in (self.shows, self.foot.start, self.foot.time, self.foot.cost):
            widget.setVisible(on_view)
        self.teaching.setVisible(on_view and teaches)
        self.stack.setCurrentWidget(self.kinds if choosing else self.view)
        self.new_button.setText(tr("Leave it") if choosing and sheet is not None else tr("New sheet"))
        if choosing:
            if sheet is None:
                self.view.show_sheet(None, None, SheetStyle())
            self._show_kinds(sheet is None)
        elif sheet is None:
            self.title.setText(tr("No sheet yet"))
            self.title.show()
            self.picker.hide()
            self.subtitle.setText("")
            self.view.empty_text = tr("A sheet needs at least two paints. Add them in the Box room first.")
            self.view.show_sheet(None, None, SheetStyle())
            self.cover.lay(None)
        else:
            self._show_sheet(sheet)
        self.hands.refresh(self.isVisible())
        self.slip.ruling.show_sheet(sheet)
        self.costs.show(sheet)
        self._show_cell(self.state.current)
        self._fill_layout_if_idle()

    def _show_sheet(self, sheet: Sheet) -> None:
        self.title.setText(sheet.title)
        self.title.setVisible(self.trial is not None)
        self.picker.setVisible(self.trial is None)
        show = self.shows.current
        seen, looks = self.state.read if self.trial is None else {}, self._looks()
        style = SheetStyle(
            show="predicted" if show == PlanShows.PREDICTED else "both",
            numbers=show == PlanShows.ORDER,
            path=show == PlanShows.ORDER,
            marked=self.teaching.marked(sheet, seen, looks) if show == PlanShows.TEACHES else {},
            tape=True,
            looks=looks,
            ground=self.session.ground_of(sheet),
        )
        self.view.show_sheet(sheet, self.session.learning.looks, style)
        self.cover.lay(sheet)
        self._say_about()
        self.foot.say(
            sheet,
            self.trying.cost_of(sheet),
            pace_of(self.session),
            len(self.state.painted),
            self.trial is not None,
            costs=show != PlanShows.TEACHES,
        )

    def _say_about(self) -> None:
        """What the sheet is, or what the windows of its cover show."""
        sheet = self.sheet()
        if sheet is not None:
            pages, place = len(self.trying.sheets), self.trying.place + 1
            which = tr("page {value} of {n}", value=place, n=pages) + "; " if pages > 1 else ""
            painted = len(self.state.painted) if self.trial is None else 0
            self.subtitle.setText(self.cover.words(sheet) or which + subtitle(sheet, painted))

    def _show_cell(self, cell_id: str) -> None:
        sheet = self.sheet()
        ids = {cell.id for cell in sheet.cells} if sheet else set()
        shown = cell_id if cell_id in ids else ""
        self.view.select(shown)
        predicted = self.trying.prediction if self.trial is not None else self.state.prediction
        self.slip.cell.show_cell(sheet, shown, predicted)

    # ---- which kind

    def choose_kind(self) -> None:
        """Choose the kind of a new sheet by its picture; asked for again, all stays as it was."""
        if self._choosing:
            self.leave_kinds()
            return
        if self.is_unkept():
            return
        self._choosing = True
        self.refresh()
        self.take_keys()

    def leave_kinds(self) -> None:
        """No new sheet."""
        self._choosing = False
        self.refresh()
        self.take_keys()

    def _show_kinds(self, first: bool) -> None:
        self.title.setText(tr("Which sheet first?") if first else tr("Which kind of sheet?"))
        self.title.show()
        self.picker.hide()
        self.subtitle.setText(tr("Each as it would be with your paints; all of it can be changed then."))
        self.cover.lay(None)
        self.kinds.make_ready(usual_texts(self.session, self.settings))

    def _begin_kind(self, kind: str, texts: dict[str, str]) -> None:
        self._choosing = False
        if self.begin(kind, **texts):
            self.view.setFocus()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)
        self.hands.refresh(True)

    def hideEvent(self, event: QHideEvent) -> None:
        self.hands.refresh(False)
        super().hideEvent(event)

    # ---- laying out

    def is_unkept(self) -> bool:
        """Whether a new plan is on the table that is not kept yet, which is said: it is not thrown away."""
        if self.trial is None or self.trying.of is not None:
            return False
        self.slip.tabs.choose(PlanSlipPage.LAYOUT)
        self.session.told.emit(tr("This plan is not kept yet: keep it or leave it first"))
        return True

    def begin_like(self) -> bool:
        """A new sheet laid out as the one on the table, for the paints in hand or the box; says whether it was begun."""
        record = self.state.record
        plan = plan_from(record.sheet) if record is not None else None
        if plan is None:
            self.session.told.emit(_OF_OTHERS)
        return plan is not None and self.begin(plan.kind.key, **like_texts(self.session, plan))

    def begin(self, kind: str, **texts: str) -> bool:
        """Begin a new sheet; says whether it was: a plan that is not kept yet is not thrown away.

        Parameters
        ----------
        kind : str, its key
        texts : from the names of options to what would be typed
        """
        if self.is_unkept():
            return False
        self._choosing = False
        names, owned = [paint.name for paint in self.session.paints], self.session.papers
        texts = {**usual_texts(self.session, self.settings), **texts}
        self.slip.layout_page.allow(True)
        self.slip.tabs.choose(
            PlanSlipPage.LAYOUT
        )  # first: the page shows the sheet on the table until another is begun
        self.trying.of = None
        self.slip.layout_page.fill(kind, texts, names, owned, tr("A new sheet"), texts.get("title", ""))
        self.trying.lay_out_now()
        return True

    def _page_chosen(self, page: int) -> None:
        if page == PlanSlipPage.CELL and self.trial is not None:
            return
        if page == PlanSlipPage.WORK:
            self.costs.show(self.sheet())
        if page == PlanSlipPage.LAYOUT and self.trial is None and self.state.record is not None:
            self._fill_layout_if_idle()

    def _fill_layout_if_idle(self) -> None:
        if (
            self.trial is None
            and not self.trying.laying
            and self.state.record is not None
            and self.session.study is not None
        ):
            self.trying.of = self.state.record.id
            names = [paint.name for paint in self.session.paints]
            plan = plan_from(self.state.record.sheet)
            self.slip.layout_page.allow(plan is not None)
            if plan is None:
                self.slip.layout_page.say(_OF_OTHERS)
                return
            self.slip.layout_page.fill(
                plan.kind.key,
                texts_of(plan),
                names,
                self.session.papers,
                tr("Change the layout"),
            )
            newest = records.versions_of(self.session.study, self.trying.of)[0] == self.trying.of
            self.slip.layout_page.allow(newest)
            self.slip.layout_page.say(
                ""
                if newest
                else tr("An earlier version, kept as it was painted. The newest one can be changed.")
            )

    def _draw_quickly(self, sheet: Sheet) -> None:
        """In plain colour, while a slider is dragged."""
        self.hands.mark()
        self.subtitle.setText(subtitle(sheet))
        style = SheetStyle(tape=True, quick=True, looks=self._looks(), ground=self.session.ground_of(sheet))
        self.view.show_sheet(sheet, self.session.learning.looks, style)
