"""Plan room: the sheet to be painted, predicted and to scale."""

from collections.abc import Sequence

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QPushButton, QStackedWidget, QVBoxLayout

from culmo.core.chart.kinds import KIND_KEYS
from culmo.core.chart.options import SomePaints
from culmo.core.chart.order import WishCost, WorkCost, plan_order, wish_costs, work_cost
from culmo.core.chart.plans import plan_from
from culmo.core.chart.renaming import renamed_sheet
from culmo.core.chart.sheet import Cell, Sheet, sheet_from_dict, sheet_to_dict
from culmo.core.paint.predict import Prediction
from culmo.desk.button_keys import tell_key
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.drawing.sheet import SheetStyle
from culmo.desk.guard import guarded
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.plan.at_hand import (
    aids_of,
    grid_at_hand,
    like_texts,
    pace_of,
    papers_of,
    traits_in,
    usual_texts,
)
from culmo.desk.rooms.plan.before import looks_of_trial, painted_before
from culmo.desk.rooms.plan.cover_tool import CoverTool
from culmo.desk.rooms.plan.foot import PlanFoot
from culmo.desk.rooms.plan.hands import PlanHands
from culmo.desk.rooms.plan.kinds_page import KindsPage
from culmo.desk.rooms.plan.model import subtitle, texts_of, unit_of
from culmo.desk.rooms.plan.slip import PlanSlip, PlanSlipPage
from culmo.desk.rooms.plan.teaching import Teaching
from culmo.desk.rooms.plan.trying import (
    Ordered,
    Predicted,
    Trial,
    TrialWish,
    from_kept,
    kept_text,
    ordering_all,
    sheets_text,
)
from culmo.desk.session import Session
from culmo.desk.settings import Settings
from culmo.desk.sheet_picker import SheetPicker, room_head
from culmo.desk.sheet_state import SheetState
from culmo.desk.sheet_view import SheetView
from culmo.desk.theme import px
from culmo.desk.unsaved import Typed
from culmo.desk.widgets import SLIP_WIDTH, Room, TabStrip, text_label, title_label
from culmo.errors import CulmoError
from culmo.study import acts, records
from culmo.words import tr

_SHOWS = ("predicted", "both", "order", "teach")
NARROW = 620
_LAYING = "lay out"
_OF_OTHERS = tr("This sheet is made from others; plan it anew where it came from.")
REST_MS = 200  # the hand rests: what was drawn quickly is drawn in full


@guarded
class PlanRoom(Room):
    """The sheet to be painted."""

    start_painting = Signal()

    def __init__(self, session: Session, state: SheetState, settings: Settings) -> None:
        super().__init__()
        self.session, self.state, self.settings = session, state, settings
        self.trials: list[Sheet] = []
        self.trial_page = 0
        self.trial_of: int | None = None
        self._costs: dict[tuple[Cell, ...], list[WishCost]] = {}  # of the sheet that was looked at last
        self._costed: Sheet | None = None
        self._predicted = Predicted()  # of the page being tried that is on view
        # sheets that were tried, what they cost to paint, and as they are kept for another day
        self._told_of: tuple[list[Sheet], Sequence[WorkCost], str] = [], (), ""
        main = self.lay_ground()
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
        self.slip = PlanSlip(session)
        self.lay_slip(self.slip)
        self.view.selected.connect(state.select)
        self.hands = PlanHands(session, self.view, self.slip, lambda: self.trial, self._try)
        self.cover.changed.connect(self._say_about)
        self.slip.layout_page.edited.connect(self._try)
        self.slip.layout_page.dragged.connect(self._try_quickly)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self._try)
        self.slip.layout_page.keep.connect(self.keep_plan)
        self.slip.layout_page.leave.connect(self.discard_trial)
        self.slip.tabs.chosen.connect(self._page_chosen)
        state.updated.connect(self.refresh_when_seen)
        state.cell_selected.connect(self._show_cell)
        session.opened.connect(self._drop_trial)
        session.renamed.connect(self._rename)
        self.refresh()

    def resizeEvent(self, _: object) -> None:
        # beside four words there is no room for a line in a narrow window
        self.subtitle.setVisible(self.width() - px(SLIP_WIDTH) > px(NARROW))

    @property
    def trial(self) -> Sheet | None:
        """The page of the layout being tried that is on view."""
        return self.trials[self.trial_page] if self.trials else None

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
        self.next_page.clicked.connect(self._turn_page)
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

    def _prediction(self) -> Prediction | None:
        return self._predicted.prediction if self.trial is not None else self.state.prediction

    def _looks(self) -> dict[str, CellLook]:
        if self.trial is None:
            return self.state.looks
        return looks_of_trial(self.state, self.trial, self.trial_of, self._predicted.prediction)

    def refresh(self) -> None:
        """Show the sheet as it stands."""
        self._note_trial()
        self.next_page.setVisible(len(self.trials) > 1)
        if self.trial is not None:
            self._predicted = self._predicted.of(self.trial, self.session.learning.estimate)
        sheet = self.sheet()
        has_paints = len(self.session.paints) >= 2
        self.new_button.setEnabled(has_paints)
        choosing = has_paints and (sheet is None or (self._choosing and self.trial is None))
        on_view, teaches = sheet is not None and not choosing, _SHOWS[self.shows.current] == "teach"
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
        self._show_work(sheet)
        self._show_cell(self.state.current)
        self._fill_layout_if_idle()

    def _show_sheet(self, sheet: Sheet) -> None:
        self.title.setText(sheet.title)
        self.title.setVisible(self.trial is not None)
        self.picker.setVisible(self.trial is None)
        show = _SHOWS[self.shows.current]
        seen, looks = self.state.read if self.trial is None else {}, self._looks()
        style = SheetStyle(
            show="predicted" if show == "predicted" else "both",
            numbers=show == "order",
            path=show == "order",
            marked=self.teaching.marked(sheet, seen, looks) if show == "teach" else {},
            tape=True,
            looks=looks,
            ground=self.session.ground_of(sheet),
        )
        self.view.show_sheet(sheet, self.session.learning.looks, style)
        self.cover.lay(sheet)
        self._say_about()
        self.foot.say(
            sheet,
            self._cost_of(sheet),
            pace_of(self.session),
            len(self.state.painted),
            self.trial is not None,
            costs=show != "teach",
        )

    def _say_about(self) -> None:
        """What the sheet is, or what the windows of its cover show."""
        sheet = self.sheet()
        if sheet is not None:
            self.subtitle.setText(self.cover.words(sheet) or self._about(sheet))

    def _about(self, sheet: Sheet) -> str:
        pages = (
            tr("page {value} of {n}", value=self.trial_page + 1, n=len(self.trials)) + "; "
            if len(self.trials) > 1
            else ""
        )
        painted = len(self.state.painted) if self.trial is None else 0
        return pages + subtitle(sheet, painted)

    def _cost_of(self, sheet: Sheet) -> WorkCost:
        there, costs, _ = self._told_of
        if there is self.trials and self.trial is sheet and costs:
            return costs[self.trial_page]
        return work_cost(sheet)

    def _show_cell(self, cell_id: str) -> None:
        sheet = self.sheet()
        ids = {cell.id for cell in sheet.cells} if sheet else set()
        shown = cell_id if cell_id in ids else ""
        self.view.select(shown)
        self.slip.cell.show_cell(sheet, shown, self._prediction())

    def _show_work(self, sheet: Sheet | None) -> None:
        """The work page, and what the wishes cost, when somebody looks at it."""
        if self.slip.tabs.current != PlanSlipPage.WORK:
            return
        if sheet is None or not sheet.work or not sheet.cells:
            self.slip.work.show_sheet(sheet)
            return
        costs = self._costs.get(sheet.cells)
        self.slip.work.show_sheet(sheet, costs)
        if costs is None and self._costed is not sheet:
            self._costed = sheet
            traits = traits_in(self.session)
            self.session.runner.start(
                "wishes",
                lambda: wish_costs(sheet, None, traits),
                lambda found: self._take_costs(sheet, found),
                self.session.failed.emit,
            )

    def _take_costs(self, sheet: Sheet, found: list[WishCost]) -> None:
        self._costs = {sheet.cells: found}
        if self.sheet() is not None and self._costed is sheet:
            self._show_work(self.sheet())

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
        if self.trial is None or self.trial_of is not None:
            return False
        self.slip.tabs.choose(PlanSlipPage.LAYOUT)
        self.session.told.emit(tr("This plan is not kept yet: keep it or leave it first"))
        return True

    def new_grid(self) -> None:
        """Begin a new grid with the paints in hand, or with all of the box."""
        chosen = grid_at_hand(self.session)
        self.begin(KIND_KEYS[0], paints=SomePaints().write(chosen), title=tr("Grid of {n}", n=len(chosen)))

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
        self.trial_of = None
        self.slip.layout_page.fill(kind, texts, names, owned, tr("A new sheet"), texts.get("title", ""))
        self._try()
        return True

    def _page_chosen(self, page: int) -> None:
        if page == PlanSlipPage.CELL and self.trial is not None:
            return
        if page == PlanSlipPage.WORK:
            self._show_work(self.sheet())
        if page == PlanSlipPage.LAYOUT and self.trial is None and self.state.record is not None:
            self._fill_layout_if_idle()

    @property
    def _laying(self) -> bool:
        """Whether a layout is being tried that is not on view yet."""
        return self.session.drawing.busy(_LAYING)

    def _fill_layout_if_idle(self) -> None:
        if (
            self.trial is None
            and not self._laying
            and self.state.record is not None
            and self.session.study is not None
        ):
            self.trial_of = self.state.record.id
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
            newest = records.versions_of(self.session.study, self.trial_of)[0] == self.trial_of
            self.slip.layout_page.allow(newest)
            self.slip.layout_page.say(
                ""
                if newest
                else tr("An earlier version, kept as it was painted. The newest one can be changed.")
            )

    def _try(self) -> None:
        """Lay out what the Layout page holds; where it can not be, say why and keep the last that could."""
        self._rest.stop()
        self._lay_out(quick=False)

    def _try_quickly(self) -> None:
        """While a slider is dragged: the layout in plain colour, all else when the hand rests."""
        self._rest.start()
        if self.session.learning.estimate is not None:
            self._lay_out(quick=True)

    def _lay_out(self, quick: bool) -> None:
        """Try what the Layout page holds beside the window's own work; what is quickly done is there at once."""
        drawing = self.session.drawing
        if self.session.study is None:  # the hand rested after the study was let go of
            return
        try:
            plan = self.slip.layout_page.plan()
        except CulmoError as error:
            drawing.cancel(_LAYING)
            self._note_trial()
            self.slip.layout_page.say(str(error))
            return
        if self.trial is not None:
            self.title.setText(plan.page.title or self.trial.title)
        before = painted_before(self.session, self.state, self.trial_of)
        wish = TrialWish(
            plan, aids_of(self.session), self.trial_page, before, papers_of(self.session),
            self.session.learning.estimate, self._predicted,
        )  # fmt: skip
        drawing.start(
            _LAYING,
            lambda: wish.trying(advised=not quick),
            self._take_quickly if quick else self._take,
            lambda why: self._take(Trial(refused=why)),
        )
        self._note_trial()
        drawing.wait_a_moment(_LAYING)

    def _take(self, tried: Trial) -> None:
        """A layout was tried: it is on view, and its order of work is sought; or it can not be."""
        self.slip.layout_page.say(tried.refused, tried.hints, tried.note)
        if tried.refused:
            self._note_trial()
            return
        self.trials, self._predicted = list(tried.sheets), tried.predicted
        self._told_of = self.trials, tried.costs, tried.text
        self.trial_page = min(self.trial_page, len(self.trials) - 1)
        self.refresh()
        self._order_anew()

    def _take_quickly(self, tried: Trial) -> None:
        """A layout was tried while a slider is dragged."""
        if tried.refused:
            self.slip.layout_page.say(tried.refused)
            return
        self.trials, self._predicted = list(tried.sheets), tried.predicted
        self.trial_page = min(self.trial_page, len(self.trials) - 1)
        sheet = self.trials[self.trial_page]
        self.hands.mark()
        self.subtitle.setText(subtitle(sheet))
        style = SheetStyle(tape=True, quick=True, looks=self._looks(), ground=self.session.ground_of(sheet))
        self.view.show_sheet(sheet, self.session.learning.looks, style)

    def _order_anew(self) -> None:
        sheets, traits, drawing = list(self.trials), traits_in(self.session), self.session.drawing

        def drawn() -> bool:
            return not drawing.busy()

        self.session.runner.start(
            "order",
            lambda: ordering_all(sheets, traits, drawn),
            self._ordered,
            self.session.failed.emit,
        )

    def _ordered(self, found: Ordered) -> None:
        if len(found.sheets) == len(self.trials):
            self.trials = list(found.sheets)
            self._told_of = self.trials, found.costs, found.text
            self.refresh()

    def _turn_page(self) -> None:
        self.trial_page = (self.trial_page + 1) % max(len(self.trials), 1)
        self.refresh()

    def _note_trial(self) -> None:
        """Tell the session whether a plan is tried and not kept."""
        title = self.trial.title if self.trial is not None else self.slip.layout_page.fields["title"].text()
        entry = None
        if self.trial is not None or self._laying:  # also what is asked for and not on view yet is not saved
            entry = Typed(
                tr("the plan {title}", title=title), self.keep_plan, RoomName.PLAN, self._trial_text
            )
        self.session.unsaved.note("plan", entry)
        self.slip.layout_page.show_tried(entry is not None)

    def _trial_text(self) -> str:
        there, _, text = self._told_of
        if not self.trials:
            return ""  # it is kept when it is on view
        if there is not self.trials:
            text = sheets_text(self.trials)
        return kept_text(self.trial_of, self.trial_page, text)

    def try_again(self, content: str) -> bool:
        """A plan that was tried and not kept on another day; says whether it is on the table again."""
        kept = from_kept(content, [sheet_id for sheet_id, _ in records.sheet_titles(self.session.file)])
        if kept is None:
            return False
        if kept.of is not None:
            self.session.selection.select_sheet(kept.of)
        self.trials, self.trial_page, self.trial_of = kept.sheets, kept.page, kept.of
        self._note_trial()
        self.refresh()
        return True

    def keep_plan(self) -> bool:
        """Save the trial as a sheet, and give whether it is. What is refused is not kept, nor what was on view before."""
        if self._rest.isActive():
            self._try()
        self.session.drawing.wait(_LAYING)  # what is kept is what the page says
        if self.trial is None:
            return False
        refused = self.slip.layout_page.message.text()
        if refused:
            self.slip.tabs.choose(PlanSlipPage.LAYOUT)
            self.session.told.emit(tr("Not kept: {why}", why=refused))
            return False
        study = self.session.file
        self._rest.stop()
        self.session.runner.cancel("order")
        traits = traits_in(self.session)
        sheets = [s if s.work or not s.cells else plan_order(s, None, traits) for s in self.trials]
        trial = sheets[0]
        with self.session.guarded():
            if self.trial_of is None:
                command = acts.add_sheets(study, sheets)
            else:
                command = acts.change_sheets(study, records.pages_of_plan(study, self.trial_of), sheets)
            added = [
                change.id for change in command.changes if change.table == "sheets" and change.before is None
            ]
            tried = (self.trials, self.trial_page, self.trial_of, self._predicted)
            self._drop_trial()  # as it is saved the room shows the sheet itself
            if not self.session.do(command):
                self.trials, self.trial_page, self.trial_of, self._predicted = tried
                self.refresh()
                return False
            self.settings.unit = unit_of(trial)
            if added:
                self.session.selection.select_sheet(added[0])
            self.slip.tabs.choose(PlanSlipPage.CELL)
            self.session.told.emit(tr("{title} is kept", title=trial.title))
            return True
        return False

    def _drop_trial(self) -> None:
        self._rest.stop()
        self.session.drawing.cancel(_LAYING)
        self.session.runner.cancel("order")
        self.trials, self.trial_page, self.trial_of, self._predicted = [], 0, None, Predicted()
        self._note_trial()

    def _rename(self, pairs: list[tuple[str, str]]) -> None:
        """Paints bear other names, in what is tried as in the record."""
        names = [paint.name for paint in self.session.paints]
        for old, new in pairs:
            self.slip.layout_page.rename(old, new)
            self.trials = [
                sheet_from_dict(renamed_sheet(sheet_to_dict(sheet), old, new, names)) for sheet in self.trials
            ]
        if self.trials:
            self._note_trial()
            self._order_anew()  # what is under way would give the sheets back as they were named before
        if self._laying:
            self._try()

    def discard_trial(self) -> None:
        """Leave the layout as it was."""
        self._drop_trial()
        self.refresh()
