"""What a sheet will take, and the way to the table: the line below it."""

from PySide6.QtWidgets import QHBoxLayout, QPushButton

from culmo.core.chart.order import WorkCost
from culmo.core.chart.sheet import Sheet
from culmo.desk.button_keys import tell_key
from culmo.desk.rooms.plan.model import cost_text, time_text
from culmo.desk.theme import STEP
from culmo.desk.widgets import text_label
from culmo.words import tr


class PlanFoot(QHBoxLayout):
    """The time, what it is made of, and the button that begins."""

    def __init__(self) -> None:
        super().__init__()
        self.time = text_label("", bold=True)
        self.cost = text_label("", soft=True)
        self.addWidget(self.time)
        self.addSpacing(STEP)
        self.addWidget(self.cost, 1)
        self.start = QPushButton(tr("Start painting"))
        self.start.setObjectName("strong")
        tell_key(self.start, "paint")
        self.addWidget(self.start)

    def say(
        self, sheet: Sheet, cost: WorkCost, pace: float, painted: int, tried: bool, costs: bool = True
    ) -> None:
        """Say what a sheet takes.

        Parameters
        ----------
        sheet : Sheet
        cost : WorkCost of it
        pace : float, the painter's own beside the usual one
        painted : int, how many of its cells are painted
        tried : bool, whether it is only tried
        costs : bool, whether it says what the time is made of; its lines may be needed above
        """
        self.time.setText(time_text(cost, pace))
        self.cost.setText(cost_text(sheet, cost) if costs else "")
        finished = not tried and 0 < painted == len(sheet.cells)
        self.start.setEnabled(not tried and not finished)
        begun = bool(painted) and not tried
        self.start.setText(
            tr("All painted") if finished else tr("Go on painting") if begun else tr("Start painting")
        )
