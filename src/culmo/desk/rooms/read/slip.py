"""The slip of the Read room: the selected cell, what was read and predicted, and what to do with a picture."""

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from culmo.core.capture.read import CellReading
from culmo.desk.rooms.read.trial import Trial
from culmo.desk.theme import STEP
from culmo.desk.widgets import Entry, FactRow, Slip, Swatch, rule, text_label, title_label
from culmo.words import decimal, tr


class ReadSlip(Slip):
    """What concerns the selected cell and the picture on the table."""

    def __init__(self) -> None:
        super().__init__()
        self.picked: tuple[float, float, float] | None = None
        self.measured = False
        self.lines.addWidget(self._make_trial())
        self.cell_title = title_label("", 17)
        self.cell_words = text_label("", soft=True)
        self.lines.addWidget(self.cell_title)
        self.lines.addWidget(self.cell_words)
        self.doubt = text_label("", bold=True)
        self.lines.addWidget(self.doubt)
        self.entry_title = text_label(tr("What the dry cell shows"), bold=True)
        self.entry = Entry(tr("L, a, b or #5a6b4c"), tr("Colour of the cell"))
        self.message = text_label("", bold=True)
        self.read_words = text_label(tr("Read"), soft=True, points=10)
        self.read_chip = Swatch(46)
        self.predicted_words = text_label(tr("Predicted"), soft=True, points=10)
        self.predicted_chip = Swatch(46)
        self.away, self.within = FactRow(tr("Difference")), FactRow(tr("Nine in ten cells"))
        self.grain, self.apart = FactRow(tr("Granulation")), FactRow(tr("Separation"))
        for widget in (
            self.entry_title, self.entry, self.message, self.read_words, self.read_chip, self.predicted_words,
            self.predicted_chip, self.away, self.within, self.grain, self.apart,
        ):  # fmt: skip
            self.lines.addWidget(widget)
        self.keep_button = QPushButton(tr("Keep and go on"))
        self.keep_button.setObjectName("strong")
        self.lines.addWidget(self.keep_button)
        self.measure_button = QPushButton(tr("Simulated colorimeter"))
        self.measure_button.setToolTip(tr("Measures the selected cell as a simulated hand painted it"))
        self.lines.addWidget(self.measure_button)
        self.practice_button = QPushButton(tr("Practice photo"))
        self.practice_button.setToolTip(
            tr("A simulated camera takes a picture of this sheet as a hand would paint it")
        )
        self.lines.addWidget(self.practice_button)
        self.lines.addWidget(self._make_swatch())
        self.outcome = text_label("", soft=True)
        self.lines.addWidget(self.outcome)
        self.lines.addStretch(1)

    def _make_trial(self) -> QWidget:
        self.trial_box = QWidget()
        column = QVBoxLayout(self.trial_box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(STEP)
        self.trial_title = title_label("", 15)
        self.trial_words = text_label("")
        column.addWidget(self.trial_title)
        column.addWidget(self.trial_words)
        self.accept_button = QPushButton(tr("Accept all"))
        self.accept_button.setObjectName("strong")
        self.sound_button = QPushButton(tr("Accept those without doubt"))
        self.next_button = QPushButton(tr("Next in doubt   N"))
        self.out_button = QPushButton(tr("Leave it out   X"))
        self.take_button = QPushButton(tr("It is good   T"))
        self.discard_button = QPushButton(tr("Put the picture away"))
        pair = QHBoxLayout()
        pair.addWidget(self.out_button)
        pair.addWidget(self.take_button)
        column.addWidget(self.accept_button)
        column.addWidget(self.sound_button)
        column.addWidget(self.next_button)
        column.addLayout(pair)
        column.addWidget(self.discard_button)
        column.addWidget(rule())
        self.trial_box.hide()
        return self.trial_box

    def _make_swatch(self) -> QWidget:
        self.swatch_box = QWidget()
        column = QVBoxLayout(self.swatch_box)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(rule())
        column.addWidget(text_label(tr("A loose swatch"), bold=True))
        column.addWidget(text_label(tr("Click it in the picture, and say what was painted."), soft=True))
        self.swatch_chip = Swatch(36)
        self.swatch_recipe = Entry("Rose:3 + Ultramarine @ tint", tr("Recipe of the loose swatch"))
        self.swatch_button = QPushButton(tr("Keep the swatch"))
        for widget in (self.swatch_chip, self.swatch_recipe, self.swatch_button):
            column.addWidget(widget)
        self.swatch_recipe.returnPressed.connect(self.swatch_button.click)
        self.swatch_box.hide()
        return self.swatch_box

    def show_trial(self, trial: Trial | None) -> None:
        """Show what was found in the picture, or hide it."""
        self.trial_box.setVisible(trial is not None)
        self.practice_button.setVisible(trial is None)
        if trial is None:
            return
        self.trial_title.setText(trial.name)
        self.trial_words.setText(trial.summary())
        found, doubtful = trial.reading is not None, len(trial.doubtful())
        kept = len(trial.lab()) - len(trial.left_out)
        wrong = bool(trial.reading and trial.reading.wrong)
        word = tr("Keep all the same, in doubt") if wrong else tr("Accept all")
        self.accept_button.setText(f"{word} ({kept})")
        self.sound_button.setText(tr("Accept those without doubt ({value})", value=kept - doubtful))
        for button in (self.accept_button, self.next_button, self.out_button, self.take_button):
            button.setVisible(found)
        self.sound_button.setVisible(found and 0 < doubtful < kept)
        for button in (self.next_button, self.out_button, self.take_button):
            button.setEnabled(found and not wrong and (doubtful > 0 or button is self.out_button))

    def show_cell(self, known: bool, from_picture: bool) -> None:
        """Show or hide what concerns one cell."""
        for widget in (
            self.read_chip, self.read_words, self.predicted_chip, self.predicted_words, self.away, self.within,
        ):  # fmt: skip
            widget.setVisible(known)
        for part in (self.entry, self.entry_title, self.keep_button, self.measure_button):
            part.setVisible(known and not from_picture)
        self.doubt.setVisible(from_picture and known)
        self.message.setVisible(False)
        self.measured = False
        if not known:
            self.show_texture(None)

    def show_texture(self, entry: CellReading | None) -> None:
        """How uneven the wash is."""
        known = entry is not None and entry.granulation is not None
        self.grain.setVisible(known)
        self.apart.setVisible(known)
        if entry is not None and entry.granulation is not None and entry.separation is not None:
            self.grain.set(decimal(f"{entry.granulation:.1f}"))
            self.apart.set(decimal(f"{entry.separation:.1f}"))
