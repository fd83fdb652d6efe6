"""A layout that is being tried: laid out beside the window's own work, ordered, kept or left."""

from collections.abc import Sequence

from PySide6.QtCore import QObject, QTimer, Signal

from culmo.core.chart.order import WorkCost, plan_order, work_cost
from culmo.core.chart.renaming import renamed_sheet
from culmo.core.chart.sheet import Sheet, sheet_from_dict, sheet_to_dict
from culmo.core.paint.predict import Prediction
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.plan.at_hand import (
    aids_of,
    papers_of,
    traits_in,
)
from culmo.desk.rooms.plan.before import painted_before
from culmo.desk.rooms.plan.layout import LayoutPage
from culmo.desk.rooms.plan.model import unit_of
from culmo.desk.rooms.plan.slip import PlanSlipPage
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
from culmo.desk.sheet_state import SheetState
from culmo.desk.unsaved import Typed
from culmo.errors import CulmoError
from culmo.study import acts, records
from culmo.words import tr

_LAYING = "lay out"
REST_MS = 200  # the hand rests: what was drawn quickly is drawn in full


class LayoutTrial(QObject):
    """The pages of a layout that is not kept yet.

    Attributes
    ----------
    sheets : list of Sheet, empty while nothing is tried
    place : int, the page on view
    of : int, the sheet that is laid out anew; None for a new one
    """

    shown = Signal()  # another sheet is on view
    drawn = Signal(object)  # a sheet in plain colour, while a slider is dragged
    titled = Signal(str)
    page_wanted = Signal(int)  # of the slip

    def __init__(self, session: Session, state: SheetState, settings: Settings, page: LayoutPage) -> None:
        super().__init__(page)
        self._session, self._state, self._settings, self._page = session, state, settings, page
        self.sheets: list[Sheet] = []
        self.place = 0
        self.of: int | None = None
        self._predicted = Predicted()  # of the page that is on view
        # sheets that were tried, what they cost to paint, and as they are kept for another day
        self._told_of: tuple[list[Sheet], Sequence[WorkCost], str] = [], (), ""
        page.edited.connect(self.lay_out_now)
        page.dragged.connect(self.lay_out_quickly)
        page.keep.connect(self.keep)
        page.leave.connect(self.discard)
        self.rest = QTimer(self)
        self.rest.setSingleShot(True)
        self.rest.setInterval(REST_MS)
        self.rest.timeout.connect(self.lay_out_now)
        session.opened.connect(self.drop)
        session.renamed.connect(self._rename)

    @property
    def sheet(self) -> Sheet | None:
        """The page on view."""
        return self.sheets[self.place] if self.sheets else None

    def predict(self) -> None:
        """Predict the page on view, where that is not done."""
        if self.sheet is not None:
            self._predicted = self._predicted.of(self.sheet, self._session.learning.estimate)

    @property
    def prediction(self) -> Prediction | None:
        """What is predicted of the page on view."""
        return self._predicted.prediction

    def cost_of(self, sheet: Sheet) -> WorkCost:
        """What a sheet costs to paint."""
        there, costs, _ = self._told_of
        if there is self.sheets and self.sheet is sheet and costs:
            return costs[self.place]
        return work_cost(sheet)

    @property
    def laying(self) -> bool:
        """Whether a layout is being tried that is not on view yet."""
        return self._session.drawing.busy(_LAYING)

    def lay_out_now(self) -> None:
        """Lay out what the Layout page holds; where it can not be, say why and keep the last that could."""
        self.rest.stop()
        self._lay_out(quick=False)

    def lay_out_quickly(self) -> None:
        """While a slider is dragged: the layout in plain colour, all else when the hand rests."""
        self.rest.start()
        if self._session.learning.estimate is not None:
            self._lay_out(quick=True)

    def _lay_out(self, quick: bool) -> None:
        """Try what the Layout page holds beside the window's own work; what is quickly done is there at once."""
        drawing = self._session.drawing
        if self._session.study is None:  # the hand rested after the study was let go of
            return
        try:
            plan = self._page.plan()
        except CulmoError as error:
            drawing.cancel(_LAYING)
            self.note()
            self._page.say(str(error))
            return
        if self.sheet is not None:
            self.titled.emit(plan.page.title or self.sheet.title)
        before = painted_before(self._session, self._state, self.of)
        wish = TrialWish(
            plan, aids_of(self._session), self.place, before, papers_of(self._session),
            self._session.learning.estimate, self._predicted,
        )  # fmt: skip
        drawing.start(
            _LAYING,
            lambda: wish.trying(advised=not quick),
            self._take_quickly if quick else self._take,
            lambda why: self._take(Trial(refused=why)),
        )
        self.note()
        drawing.wait_a_moment(_LAYING)

    def _take(self, tried: Trial) -> None:
        """A layout was tried: it is on view, and its order of work is sought; or it can not be."""
        self._page.say(tried.refused, tried.hints, tried.note)
        if tried.refused:
            self.note()
            return
        self.sheets, self._predicted = list(tried.sheets), tried.predicted
        self._told_of = self.sheets, tried.costs, tried.text
        self.place = min(self.place, len(self.sheets) - 1)
        self.shown.emit()
        self._order_anew()

    def _take_quickly(self, tried: Trial) -> None:
        """A layout was tried while a slider is dragged."""
        if tried.refused:
            self._page.say(tried.refused)
            return
        self.sheets, self._predicted = list(tried.sheets), tried.predicted
        self.place = min(self.place, len(self.sheets) - 1)
        self.drawn.emit(self.sheets[self.place])

    def _order_anew(self) -> None:
        sheets, traits, drawing = list(self.sheets), traits_in(self._session), self._session.drawing

        def drawn() -> bool:
            return not drawing.busy()

        self._session.runner.start(
            "order",
            lambda: ordering_all(sheets, traits, drawn),
            self._ordered,
            self._session.failed.emit,
        )

    def _ordered(self, found: Ordered) -> None:
        if len(found.sheets) == len(self.sheets):
            self.sheets = list(found.sheets)
            self._told_of = self.sheets, found.costs, found.text
            self.shown.emit()

    def turn_page(self) -> None:
        """The next of several pages."""
        self.place = (self.place + 1) % max(len(self.sheets), 1)
        self.shown.emit()

    def note(self) -> None:
        """Tell the session whether a plan is tried and not kept."""
        title = self.sheet.title if self.sheet is not None else self._page.fields["title"].text()
        entry = None
        if self.sheet is not None or self.laying:  # also what is asked for and not on view yet is not saved
            entry = Typed(tr("the plan {title}", title=title), self.keep, RoomName.PLAN, self.text)
        self._session.unsaved.note("plan", entry)
        self._page.show_tried(entry is not None)

    def text(self) -> str:
        """All of it, as it is kept for another day."""
        there, _, text = self._told_of
        if not self.sheets:
            return ""  # it is kept when it is on view
        if there is not self.sheets:
            text = sheets_text(self.sheets)
        return kept_text(self.of, self.place, text)

    def again(self, content: str) -> bool:
        """A plan that was tried and not kept on another day; says whether it is on the table again."""
        kept = from_kept(content, [sheet_id for sheet_id, _ in records.sheet_titles(self._session.file)])
        if kept is None:
            return False
        if kept.of is not None:
            self._session.selection.select_sheet(kept.of)
        self.sheets, self.place, self.of = kept.sheets, kept.page, kept.of
        self.note()
        self.shown.emit()
        return True

    def keep(self) -> bool:
        """Save the trial as a sheet, and give whether it is. What is refused is not kept, nor what was on view before."""
        if self.rest.isActive():
            self.lay_out_now()
        self._session.drawing.wait(_LAYING)  # what is kept is what the page says
        if self.sheet is None:
            return False
        refused = self._page.message.text()
        if refused:
            self.page_wanted.emit(PlanSlipPage.LAYOUT)
            self._session.told.emit(tr("Not kept: {why}", why=refused))
            return False
        study = self._session.file
        self.rest.stop()
        self._session.runner.cancel("order")
        traits = traits_in(self._session)
        sheets = [s if s.work or not s.cells else plan_order(s, None, traits) for s in self.sheets]
        trial = sheets[0]
        with self._session.guarded():
            if self.of is None:
                command = acts.add_sheets(study, sheets)
            else:
                command = acts.change_sheets(study, records.pages_of_plan(study, self.of), sheets)
            added = [
                change.id for change in command.changes if change.table == "sheets" and change.before is None
            ]
            tried = (self.sheets, self.place, self.of, self._predicted)
            self.drop()  # as it is saved the room shows the sheet itself
            if not self._session.do(command):
                self.sheets, self.place, self.of, self._predicted = tried
                self.shown.emit()
                return False
            self._settings.unit = unit_of(trial)
            if added:
                self._session.selection.select_sheet(added[0])
            self.page_wanted.emit(PlanSlipPage.CELL)
            self._session.told.emit(tr("{title} is kept", title=trial.title))
            return True
        return False

    def drop(self) -> None:
        """Nothing is tried any more."""
        self.rest.stop()
        self._session.drawing.cancel(_LAYING)
        self._session.runner.cancel("order")
        self.sheets, self.place, self.of, self._predicted = [], 0, None, Predicted()
        self.note()

    def _rename(self, pairs: list[tuple[str, str]]) -> None:
        """Paints bear other names, in what is tried as in the record."""
        names = [paint.name for paint in self._session.paints]
        for old, new in pairs:
            self._page.rename(old, new)
            self.sheets = [
                sheet_from_dict(renamed_sheet(sheet_to_dict(sheet), old, new, names)) for sheet in self.sheets
            ]
        if self.sheets:
            self.note()
            self._order_anew()  # what is under way would give the sheets back as they were named before
        if self.laying:
            self.lay_out_now()

    def discard(self) -> None:
        """Leave the layout as it was."""
        self.drop()
        self.shown.emit()
