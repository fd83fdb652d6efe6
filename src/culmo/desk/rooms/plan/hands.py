"""What is done by wells, at the names and at the rulers while a sheet is laid out; the Layout page is changed by it."""

from collections.abc import Callable

from PySide6.QtCore import QObject

from culmo.core.chart.sheet import Sheet
from culmo.desk.rooms.plan.at_hand import aids_of
from culmo.desk.rooms.plan.grips import Grip, grips_of
from culmo.desk.rooms.plan.label_hand import LabelHand
from culmo.desk.rooms.plan.ruler_hand import RulerHand
from culmo.desk.rooms.plan.slip import PlanSlip, PlanSlipPage
from culmo.desk.session import Session
from culmo.desk.sheet_view import SheetView


class PlanHands(QObject):
    """The hands of the Plan room.

    Parameters
    ----------
    session : Session
    view : SheetView
    slip : PlanSlip
    trial : function that gives the sheet that is laid out, or None while none is
    let_go : function that is called when the hand lets go of a mark of the rulers
    """

    def __init__(
        self,
        session: Session,
        view: SheetView,
        slip: PlanSlip,
        trial: Callable[[], Sheet | None],
        let_go: Callable[[], None],
    ) -> None:
        super().__init__(view)
        self._session, self._view, self._slip, self._trial = session, view, slip, trial
        self.written: dict[str, str] = {}  # from what is written on the sheet to the paint that is meant
        self.grips: list[Grip] = []
        page, paints = slip.layout_page, slip.layout_page.paints
        self.ruler = RulerHand(view, lambda: self.grips)
        self.ruler.drawn.connect(page.draw_option)
        self.ruler.left.connect(lambda _: let_go())
        self.label = LabelHand(view, lambda: self.written)
        self.label.moved.connect(paints.move)
        self.label.replaced.connect(paints.replace)
        self.label.added.connect(paints.add)
        self.label.removed.connect(paints.remove)
        session.learning.learned.connect(paints.dress)
        slip.tabs.chosen.connect(lambda _: self.refresh(view.isVisible()))

    @property
    def busy(self) -> bool:
        """Whether a sheet is laid out now."""
        return (
            self._session.study is not None
            and self._trial() is not None
            and self._slip.tabs.current == PlanSlipPage.LAYOUT
        )

    def refresh(self, seen: bool) -> None:
        """While a sheet is laid out wells put paints on it, its names are known, and rulers stand at its edges.

        Parameters
        ----------
        seen : bool, whether the room is on view
        """
        selection, page = self._session.selection, self._slip.layout_page
        if self.busy and seen:
            selection.pick_for(page.paints.toggle)
        elif selection.picking == page.paints.toggle:
            selection.pick_for(None)
        self.written = page.paints.written(aids_of(self._session)) if self.busy else {}
        self._view.rule_in(page.unit if self.busy else "")
        self.mark()

    def mark(self) -> None:
        """The marks at the rulers stand where the sheet has them now."""
        sheet = self._trial()
        shown = self._slip.layout_page.concerned() if self.busy else set()
        self.grips = grips_of(sheet, shown) if sheet is not None and shown else []
