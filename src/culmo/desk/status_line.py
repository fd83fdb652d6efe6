"""What the window says: the line at its foot, with work in progress, and the notice above the rooms."""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QProgressBar, QPushButton, QStatusBar, QToolButton

from culmo.desk.accessible import announce
from culmo.desk.actions import LIGHT_WORDS
from culmo.desk.button_keys import tell_key
from culmo.desk.guard import guarded
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import as_tip, text_label
from culmo.words import tr

QUIET_MS = 7000
PATIENCE_MS = 500  # work that takes longer shows its progress


class Notice(QFrame):
    """Something went wrong that the painter can mend; it stays until it is read."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("header")
        row = QHBoxLayout(self)
        row.setContentsMargins(2 * STEP, STEP, 2 * STEP, STEP)
        row.addWidget(text_label("!", bold=True, points=15))
        self.words = text_label("", bold=True)
        row.addWidget(self.words, 1)
        close = QPushButton(tr("Understood"))
        close.clicked.connect(self.hide)
        row.addWidget(close)
        self.hide()

    def say(self, text: str) -> None:
        """Show it, with a capital."""
        self.words.setText(text[:1].upper() + text[1:])
        self.show()
        announce(self.words, self.words.text())


@guarded
class StatusLine(QStatusBar):
    """Whether all is saved, a passing word, work in progress and a way to stop it, the light."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setSizeGripEnabled(False)
        self.setContentsMargins(2 * STEP - 4, 0, 2 * STEP - 4, 0)
        self.saved_text = text_label("", soft=True, points=10)
        self.saved_text.setWordWrap(False)
        self.told_text = text_label("", points=10)
        self.told_text.setWordWrap(False)
        self.told_text.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setAccessibleName(tr("The line at the foot"))
        self.work = QProgressBar()
        self.work.setAccessibleName(tr("Work in progress"))
        self.work.setTextVisible(False)
        self.work.setFixedWidth(px(120))
        self.work.setRange(0, 100)
        self.work.hide()
        self.stop_button = QToolButton()
        self.stop_button.setText(tr("Stop"))
        tell_key(self.stop_button, "stop")
        self.stop_button.setAutoRaise(True)
        self.stop_button.setFixedHeight(px(20))
        self.stop_button.clicked.connect(session.stop_work)
        self.stop_button.hide()
        self.light_text = text_label(LIGHT_WORDS[0], soft=True, points=10)
        session.learning.learned.connect(lambda: self.light_text.setText(LIGHT_WORDS[session.learning.light]))
        self.light_text.setWordWrap(False)
        self.addWidget(self.saved_text)
        self.addWidget(self.told_text, 1)
        self.addPermanentWidget(self.work)
        self.addPermanentWidget(self.stop_button)
        self.addPermanentWidget(self.light_text)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.timeout.connect(lambda: self.told_text.setText(""))
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(PATIENCE_MS)
        self._patience.timeout.connect(self._show_work)
        session.runner.progress.connect(self._on_progress)
        session.runner.finished.connect(lambda _: self._show_work())

    def say(self, text: str) -> None:
        """A passing word."""
        self.told_text.setText(text)
        announce(self.told_text, text)
        self._quiet.start(QUIET_MS)

    def show_saved(self, words: str, trouble: str) -> None:
        """Whether all is saved, and what hinders copies of it."""
        self.saved_text.setText(words)
        self.saved_text.setToolTip(as_tip(trouble))

    def _show_work(self) -> None:
        """Progress and a way to stop it, for work that takes longer than half a second."""
        busy = self._session.runner.busy()
        self.work.setVisible(busy)
        self.stop_button.setVisible(busy)

    def _on_progress(self, _: str, share: float) -> None:
        self.work.setValue(round(share * 100))
        if not self.work.isVisible() and not self._patience.isActive():
            self._patience.start()
