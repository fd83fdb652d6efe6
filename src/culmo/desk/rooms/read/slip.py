"""The slip of the Read room: the selected cell, what was read and predicted, and what to do with a picture."""

import numpy as np
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from culmo.core.chart.sheet import Cell
from culmo.core.colour.spectral import Array
from culmo.core.paint.drying import drying_shift
from culmo.core.paint.readings import PAPER
from culmo.core.paint.texture import Texture
from culmo.desk.drawing.cell_look import CellLook
from culmo.desk.drawing.looks import Looks, qcolor
from culmo.desk.quiet_wheel import keep_quiet
from culmo.desk.rooms.read.trial import LIGHT_WORDS, PracticeDrying, PracticeTrial
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import Entry, FactRow, Slip, Swatch, as_tip, rule, text_label, title_label
from culmo.words import decimal, tr, trn

_AS_READ = 0.06  # in CIELAB units, by which what stands in the field is rounded


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
        self.entry_title = text_label(tr("What the cell shows"), bold=True)
        self.entry = Entry(tr("L, a, b or #5a6b4c"), tr("Colour of the cell"))
        self.wet = QCheckBox(tr("It is still wet"))
        self.wet.setToolTip(
            as_tip(
                tr(
                    "Its wet look is noted beside the dry one, which you read later; wet paint teaches nothing."
                )
            )
        )
        self.message = text_label("", bold=True)
        self.read_words = text_label(tr("Read"), soft=True, points=10)
        self.read_chip = Swatch(46)
        self.wet_words = text_label("", soft=True, points=10)
        self.wet_chip = Swatch(30)
        self.predicted_words = text_label(tr("Predicted"), soft=True, points=10)
        self.predicted_chip = Swatch(46)
        self.away, self.within = FactRow(tr("Difference")), FactRow(tr("Nine in ten cells"))
        self.grain, self.apart = FactRow(tr("Granulation")), FactRow(tr("Separation"))
        for widget in (
            self.entry_title, self.entry, self.wet, self.message, self.wet_words, self.wet_chip, self.read_words,
            self.read_chip, self.predicted_words,
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
        self.right_button = QPushButton(tr("It lies as it is drawn"))
        self.right_button.setToolTip(tr("The outlines lie on the cells: read it so, without a question"))
        self.turn_button = QPushButton(tr("Turn it round"))
        self.turn_button.setToolTip(tr("The sheet lies the other way round in the picture: read it so"))
        self.sound_button = QPushButton(tr("Accept those without doubt"))
        self.next_button = QPushButton(tr("Next in doubt   N"))
        self.out_button = QPushButton(tr("Leave it out   X"))
        self.take_button = QPushButton(tr("It is good   T"))
        self.old_button = QPushButton(tr("It is an old chart…"))
        self.old_button.setToolTip(
            tr("Lay a grid, rows or a wheel over it, and name what is painted: it becomes a sheet")
        )
        self.discard_button = QPushButton(tr("Put the picture away"))
        pair = QHBoxLayout()
        pair.addWidget(self.out_button)
        pair.addWidget(self.take_button)
        self.drying = QComboBox()
        self.drying.setAccessibleName(tr("Wet or dry"))
        self.drying.setToolTip(
            as_tip(
                tr(
                    "The look of wet paint stands beside that of the dry one and does not teach: read a picture of the wet "
                    "sheet first, and another one when it is dry."
                )
            )
        )
        keep_quiet(self.drying)
        column.addWidget(self.drying)
        self.light = QComboBox()
        self.light.setAccessibleName(tr("Light"))
        self.light.setToolTip(
            as_tip(
                tr(
                    "By a lamp with gaps in its light paints look otherwise than by daylight, and no picture tells it: what "
                    "is told of the colours then allows for more. By a window it reads best."
                )
            )
        )
        keep_quiet(self.light)
        # the longest of its words must not make the slip wider
        self.light.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.light.setMinimumContentsLength(12)
        for light, words in LIGHT_WORDS.items():
            self.light.addItem(words, light)
        column.addWidget(self.light)
        column.addWidget(self.right_button)
        column.addWidget(self.turn_button)
        column.addWidget(self.accept_button)
        column.addWidget(self.sound_button)
        column.addWidget(self.next_button)
        column.addLayout(pair)
        column.addWidget(self.old_button)
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
        column.addWidget(
            text_label(
                tr(
                    "Click the bare paper in the picture first, so that the light is taken out; then the swatch."
                ),
                soft=True,
            )
        )
        self.paper_chip = Swatch(22)
        self.paper_button = QPushButton(tr("Paper anew"))
        self.paper_button.setCheckable(True)
        self.paper_button.setToolTip(tr("The next click in the picture is bare paper again"))
        self.paper_row = QWidget()
        across = QHBoxLayout(self.paper_row)
        across.setContentsMargins(0, 0, 0, 0)
        self.paper_chip.setFixedWidth(px(36))
        across.addWidget(self.paper_chip)
        across.addWidget(self.paper_button, 1)
        self.paper_row.hide()
        column.addWidget(self.paper_row)
        self.swatch_chip = Swatch(36)
        self.swatch_recipe = Entry("Rose:3 + Ultramarine @ tint", tr("Recipe of the loose swatch"))
        self.swatch_button = QPushButton(tr("Keep the swatch"))
        painted = text_label(tr("What was painted"), soft=True)
        for widget in (self.swatch_chip, painted, self.swatch_recipe, self.swatch_button):
            column.addWidget(widget)
        self.swatch_recipe.returnPressed.connect(self.swatch_button.click)
        self.swatch_box.hide()
        return self.swatch_box

    def show_paper(self, colour: QColor | None) -> None:
        """Show the bare paper as the picture shows it; None where it was not clicked."""
        self.paper_chip.show_colour(colour)
        self.paper_row.setVisible(colour is not None)
        self.paper_button.setChecked(False)

    def show_trial(self, trial: PracticeTrial | None) -> None:
        """Show what was found in the picture, or hide it."""
        self.trial_box.setVisible(trial is not None)
        self.practice_button.setVisible(trial is None)
        if trial is None:
            return
        self.trial_title.setText(trial.name)
        self.trial_words.setText(trial.summary())
        self._show_drying(trial)
        self.light.setVisible(trial.reading is not None)
        self.light.setCurrentIndex(self.light.findData(trial.light))
        found, doubtful = trial.reading is not None, len(trial.doubtful())
        kept = len(trial.lab()) - len(trial.left_out)
        wrong = bool(trial.reading and trial.reading.wrong)
        word = tr("Keep all the same, in doubt") if wrong else tr("Accept all")
        self.accept_button.setText(f"{word} ({kept})")
        self.sound_button.setText(tr("Accept those without doubt ({value})", value=kept - doubtful))
        for button in (self.accept_button, self.next_button, self.out_button, self.take_button):
            button.setVisible(found)
        self.sound_button.setVisible(found and 0 < doubtful < kept)
        asked = trial.reading is not None and trial.reading.asked
        self.old_button.setVisible(not found or (wrong and not asked))
        self.right_button.setVisible(asked)
        self.turn_button.setVisible(asked)
        for button in (self.next_button, self.out_button, self.take_button):
            button.setEnabled(found and not wrong and (doubtful > 0 or button is self.out_button))

    def _show_drying(self, trial: PracticeTrial) -> None:
        """Whether it was wet when it was taken: as the times of the strokes say, or as the painter does."""
        self.drying.setVisible(trial.reading is not None)
        wet = len(trial.wet_by_clock)
        by_clock = (
            trn("By the clock: {n} cell still wet", "By the clock: {n} cells still wet", wet)
            if wet
            else tr("By the clock: all of it dry")
        )
        self.drying.blockSignals(True)
        self.drying.clear()
        for state, words in (
            (PracticeDrying.BY_CLOCK, by_clock),
            (PracticeDrying.ALL_WET, tr("It was still wet, all of it")),
            (PracticeDrying.ALL_DRY, tr("It was dry, all of it")),
        ):
            self.drying.addItem(words, state)
        self.drying.setCurrentIndex(self.drying.findData(trial.drying))
        self.drying.blockSignals(False)

    def show_cell(self, known: bool, from_picture: bool) -> None:
        """Show or hide what concerns one cell."""
        for widget in (
            self.read_chip, self.read_words, self.predicted_chip, self.predicted_words, self.away, self.within,
        ):  # fmt: skip
            widget.setVisible(known)
        for part in (self.entry, self.entry_title, self.wet, self.keep_button, self.measure_button):
            part.setVisible(known and not from_picture)
        self.doubt.setVisible(from_picture and known)
        self.message.setVisible(False)
        self.measured = False
        self.show_texture(None)
        if not known:
            self.show_wet(None, None)

    def show_read(self, lab: Array, look: CellLook | None, looks: Looks | None) -> None:
        """A colour that was read or typed; as the real paint, where it is that of the record."""
        read = look.recorded if look is not None else None
        if look is None or looks is None or read is None or np.abs(np.array(read) - lab).max() > _AS_READ:
            self.read_chip.show_colour(qcolor(lab))
            self.show_texture(None)
        else:
            self.read_chip.show_read(qcolor(lab), looks.cropping(look.patch, read))
            self.show_texture(look.patch.texture if look.patch is not None else None)

    def show_foretold(self, cell: Cell, foretold: tuple[Array, float] | None, looks: Looks | None) -> None:
        """What is predicted of a cell: its wash, as it will lie there, and within how much."""
        self.within.set("" if foretold is None else tr("within {value:.1f}", value=foretold[1]))
        if foretold is None:
            self.predicted_chip.show_colour(None, hint=tr("not known yet"))
        elif looks is None or cell.ground != PAPER or not cell.plain:
            self.predicted_chip.show_colour(qcolor(foretold[0]), recorded=False)
        else:
            self.predicted_chip.show_image(lambda w, h, r: looks.wash(cell.recipe, w, h, cell.id, r))

    def show_wet(
        self, wet: tuple[float, float, float] | None, dry: tuple[float, float, float] | None
    ) -> None:
        """The wet look that was noted, above the dry one; and what drying did to it."""
        self.wet_words.setVisible(wet is not None)
        self.wet_chip.setVisible(wet is not None)
        self.wet.setChecked(False)
        if wet is None:
            return
        self.wet_chip.show_colour(qcolor(np.array(wet)))
        shift = drying_shift([(np.array(wet), np.array(dry))]) if dry is not None else None
        self.wet_words.setText(tr("Wet; {change}", change=shift.words) if shift is not None else tr("Wet"))

    def show_texture(self, texture: Texture | None) -> None:
        """How grainy the wash is, how large its grains are, and how far their colours lie apart."""
        for fact in (self.grain, self.apart):
            fact.setVisible(texture is not None)
        if texture is not None:
            self.grain.set(
                tr("{contrast:.1f}, of {size:.1f} mm", contrast=texture.contrast, size=texture.size_mm)
                if texture.size_mm
                else decimal(f"{texture.contrast:.1f}")
            )
            self.apart.set(decimal(f"{texture.parting:.1f}"))
