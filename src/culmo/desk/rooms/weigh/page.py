"""One page of the Weigh room: its picture, its slip, and the words above and below."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session


class WeighPage(QWidget):
    """What every page of the room has.

    Attributes
    ----------
    slip : QWidget, the strip at the right while the page is on view
    tools : list of QWidget, what is chosen above the picture
    title, subtitle, key : str, the words above and below
    first : QWidget, what has the keys when the page comes on view
    """

    worded = Signal()
    has_sheet = False

    def __init__(self, session: Session, weighing: Weighing) -> None:
        super().__init__()
        self.session, self.weighing = session, weighing
        self.slip: QWidget = QWidget()
        self.tools: list[QWidget] = []
        self.title, self.subtitle, self.key = "", "", ""
        self.first: QWidget = self

    def say(self, title: str, subtitle: str = "", key: str | None = None) -> None:
        """Other words above the picture."""
        self.title, self.subtitle = title, subtitle
        if key is not None:
            self.key = key
        self.worded.emit()

    def refresh(self) -> None:
        """Show things as they stand."""
        raise AssertionError("each page says how it is brought up to date")

    def entered(self) -> None:
        """The page came on view."""
        self.refresh()

    def left(self) -> None:
        """The page went out of view."""
