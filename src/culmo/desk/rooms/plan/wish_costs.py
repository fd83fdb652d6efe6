"""What the wishes of a sheet cost, worked out when somebody looks at its work."""

from culmo.core.chart.order import WishCost, wish_costs
from culmo.core.chart.sheet import Cell, Sheet
from culmo.desk.rooms.plan.at_hand import traits_in
from culmo.desk.rooms.plan.slip import PlanSlip, PlanSlipPage
from culmo.desk.session import Session


class WishCosts:
    """The page of the work, with the costs of the sheet that was looked at last."""

    def __init__(self, session: Session, slip: PlanSlip) -> None:
        self._session, self._slip = session, slip
        self._costs: dict[tuple[Cell, ...], list[WishCost]] = {}
        self._costed: Sheet | None = None
        self._sheet: Sheet | None = None  # on view

    def show(self, sheet: Sheet | None) -> None:
        """The work of a sheet, and what its wishes cost, when somebody looks at it."""
        self._sheet = sheet
        if self._slip.tabs.current != PlanSlipPage.WORK:
            return
        if sheet is None or not sheet.work or not sheet.cells:
            self._slip.work.show_sheet(sheet)
            return
        costs = self._costs.get(sheet.cells)
        self._slip.work.show_sheet(sheet, costs)
        if costs is None and self._costed is not sheet:
            self._costed = sheet
            traits = traits_in(self._session)
            self._session.runner.start(
                "wishes",
                lambda: wish_costs(sheet, None, traits),
                lambda found: self._take(sheet, found),
                self._session.failed.emit,
            )

    def _take(self, sheet: Sheet, found: list[WishCost]) -> None:
        self._costs = {sheet.cells: found}
        if self._costed is sheet:
            self.show(self._sheet)
