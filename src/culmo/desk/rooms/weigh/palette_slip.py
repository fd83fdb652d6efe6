"""The slip of a palette: what it reaches and loses, what a change would do, and the verdict."""

from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPalette, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from culmo.core.colour.spectral import Array, Flags
from culmo.core.paint.recipe import spoken_recipe
from culmo.desk.drawing.looks import qcolor
from culmo.desk.guard import guarded
from culmo.desk.listing import sized_swatch
from culmo.desk.rooms.weigh.fewer_model import SetChange
from culmo.desk.rooms.weigh.palette_rows import ReachMap
from culmo.desk.session import Session
from culmo.desk.theme import px
from culmo.desk.widgets import Entry, Slip, as_tip, clear_layout, rule, text_label, title_label
from culmo.desk.wrap_row import WrapRow
from culmo.study.mix_acts import MixWorth
from culmo.study.palette_acts import KeptPalette, Wanted
from culmo.words import tr

_CHIP = 23
_TITLES = {"swap": tr("Swap one, and see"), "add": tr("One more, and see"), "drop": tr("One less, and see")}


@guarded
class Chips(QWidget):
    """Wanted colours as chips; those that are missed have a pencil edge and a bar through them."""

    def __init__(self) -> None:
        super().__init__()
        self.colours: list[Wanted] = []
        self.hit: Sequence[bool] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_colours(self, colours: Sequence[Wanted], hit: Sequence[bool]) -> None:
        """Show other colours."""
        self.colours, self.hit = list(colours), hit
        self.setFixedHeight(self._rows() * _CHIP)
        missed = sum(not one for one in hit)
        self.setAccessibleName(
            tr("{n} wanted colours, {missed} of them missed", n=len(self.colours), missed=missed)
        )
        told = (tr("{name}: reached"), tr("{name}: missed"))
        lines = [
            told[not one].format(name=colour.name or tr("unnamed"))
            for colour, one in zip(self.colours[:40], hit, strict=False)
        ]
        self.setToolTip(as_tip("\n".join(lines)))
        self.update()

    def _rows(self) -> int:
        return -(-len(self.colours) // 10)

    def sizeHint(self) -> QSize:
        return QSize(240, self._rows() * _CHIP)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong = self.palette().color(QPalette.ColorRole.WindowText)
        for i, (colour, hit) in enumerate(zip(self.colours, self.hit, strict=False)):
            box = QRectF(i % 10 * _CHIP + 1.0, i // 10 * _CHIP + 1.0, _CHIP - 4.0, _CHIP - 4.0)
            painter.fillRect(box, qcolor(colour.lab))
            if not hit:
                painter.setPen(QPen(QColor(250, 250, 250), 4.0))
                painter.drawLine(box.bottomLeft(), box.topRight())
                painter.setPen(QPen(strong, 1.6))
                painter.drawLine(box.bottomLeft(), box.topRight())
                painter.drawRect(box)


class PaletteSlip(Slip):
    """One palette, looked at closely."""

    tie_wanted = Signal(int)
    change_wanted = Signal(str, str)
    swap_wanted = Signal()
    try_wanted = Signal()
    keep_wanted = Signal()
    fill_wanted = Signal()
    practise_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.title = title_label("", 17)
        self.words = text_label("", soft=True)
        self.typed = Entry(tr("Type paints to add"), tr("Paints to add, with commas between"))
        self.typed.setToolTip(tr("Names with commas between; Enter adds them to your palette"))
        self.typed.setMinimumWidth(px(80))
        self.wells = QPushButton(tr("Wells"))
        self.wells.setAccessibleName(tr("Click wells"))
        self.wells.setCheckable(True)
        self.wells.setToolTip(
            tr("While this is on, a click on a paint at the left adds it to your palette or takes it out")
        )
        self.wells.setStyleSheet("padding: 6px 8px;")
        building = QHBoxLayout()
        building.addWidget(self.typed, 1)
        building.addWidget(self.wells)
        self.ties = QWidget()
        line = QHBoxLayout(self.ties)
        line.setContentsMargins(0, 0, 0, 0)
        self.before, self.after = QToolButton(), QToolButton()
        for button, text, step, name in (
            (self.before, "<", -1, tr("The palette before")), (self.after, ">", 1, tr("The next palette")),
        ):  # fmt: skip
            button.setText(text)
            button.setAccessibleName(name)
            button.setToolTip(as_tip(name))
            button.setFixedSize(px(30), px(26))
            button.clicked.connect(lambda _=False, step=step: self.tie_wanted.emit(step))
        self.tie_words = text_label("")
        self.tie_words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        line.addWidget(self.before)
        line.addWidget(self.tie_words, 1)
        line.addWidget(self.after)
        self.map = ReachMap()
        self.map_key = text_label(tr("squares: reached    rings: lost"), soft=True, points=10)
        self.worst = text_label("", points=10)
        self.changes = QVBoxLayout()
        self.changes.setSpacing(3)
        self.chips_title = text_label("", bold=True)
        self.chips = Chips()
        self.lines.addWidget(self.title)
        self.lines.addWidget(self.words)
        self.lines.addLayout(building)
        for widget in (self.ties, self.map, self.map_key, self.worst):
            self.lines.addWidget(widget)
        self.lines.addWidget(rule())
        self.lines.addLayout(self.changes)
        self.swap = QPushButton(tr("Before and after…"))
        self.swap.setToolTip(tr("The colours of this palette with another paint in the place of one"))
        self.swap.setStyleSheet("padding: 6px 8px;")
        self.lines.addWidget(self.swap)
        self.lines.addWidget(self.chips_title)
        self.lines.addWidget(self.chips)
        self.lines.addWidget(rule())
        self.keep = QPushButton(tr("Keep this palette, with a reason"))
        self.keep.setObjectName("strong")
        self.keep.setStyleSheet("padding: 8px 8px;")
        self.copy = QPushButton(tr("Try changes on it"))
        self.copy.setToolTip(tr("Takes it over as yours: paints in and out, and the reach follows"))
        self.fill = QPushButton(tr("Lay out a box with it…"))
        self.practise = QPushButton(tr("Plan a sheet to practise"))
        for act, signal in (
            (self.keep, self.keep_wanted), (self.copy, self.try_wanted), (self.fill, self.fill_wanted),
            (self.practise, self.practise_wanted), (self.swap, self.swap_wanted),
        ):  # fmt: skip
            act.clicked.connect(lambda _=False, signal=signal: signal.emit())
            if act is not self.swap:
                self.lines.addWidget(act)
        self.lines.addStretch(1)

    def show_palette(self, title: str, words: str, lab: Array, reached: Flags, worst: str) -> None:
        """What it is and what it reaches."""
        self.title.setText(title)
        self.words.setText(words)
        self.map.show_reach(lab, reached)
        self.worst.setText(worst)
        self.worst.setVisible(bool(worst))
        for widget in (self.map, self.map_key):
            widget.setVisible(len(lab) > 0)

    def show_ties(self, place: int, count: int, words: str) -> None:
        """Which of the near ties it is."""
        self.ties.setVisible(count > 1)
        self.before.setEnabled(place > 0)
        self.after.setEnabled(place < count - 1)
        self.tie_words.setText(tr("{value} of {count}, {words}", value=place + 1, count=count, words=words))

    def show_changes(self, changes: dict[str, list[SetChange]]) -> None:
        """What single changes would do."""
        clear_layout(self.changes)
        for kind, entries in changes.items():
            if not entries:
                continue
            self.changes.addWidget(text_label(_TITLES[kind], bold=True))
            for change in entries:
                self.changes.addWidget(self._change(change))
        self.lay_out()

    def _change(self, change: SetChange) -> QWidget:
        row = ChangeRow(self.session, change)
        row.clicked.connect(lambda: self.change_wanted.emit(change.out, change.into))
        return row

    def show_wanted(self, name: str, colours: Sequence[Wanted], hit: Sequence[bool]) -> None:
        """The wanted colours, and which of them it reaches."""
        shown = bool(colours)
        self.chips_title.setVisible(shown)
        self.chips.setVisible(shown)
        self.practise.setVisible(shown)
        if shown:
            self.chips_title.setText(
                tr("{name}: {n} of {n2}", name=name, n=sum(bool(one) for one in hit), n2=len(colours))
            )
            self.chips.show_colours(colours, hit)


class ChangeRow(QToolButton):
    """A change: a stroke in the place of another, and what that changes."""

    def __init__(self, session: Session, change: SetChange) -> None:
        super().__init__()
        self.setObjectName("tab")
        self.setStyleSheet("QToolButton#tab { margin: 0; padding: 0; }")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(px(34))
        line = QHBoxLayout(self)
        line.setContentsMargins(2, 2, 2, 2)
        line.setSpacing(6)
        names = [change.into, change.out] if change.out and change.into else [change.into or change.out]
        for i, name in enumerate(names):
            if i:
                word = text_label(tr("for"), soft=True)
                word.setWordWrap(False)
                line.addWidget(word)
            chip = sized_swatch(64, 28)
            chip.show_paint(session.learning.looks, name, name.casefold() not in session.learning.unread)
            chip.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            line.addWidget(chip)
        words = text_label(names[0] if len(names) == 1 else "", points=10)
        words.setWordWrap(False)
        line.addWidget(words, 1)
        number = text_label(change.number, bold=True)
        number.setWordWrap(False)
        line.addWidget(number)
        if len(names) == 2:
            spoken = tr("{use} for {instead_of}", use=names[0], instead_of=names[1])
        else:
            spoken = tr("with {name}", name=names[0]) if change.into else tr("without {name}", name=names[0])
        self.setAccessibleName(f"{spoken}: {change.number}")
        self.setToolTip(as_tip(tr("{spoken}: {number} points", spoken=spoken, number=change.number)))


class KeptSlip(Slip):
    """The palettes that were kept, with their reasons and dates; and the mixes worth keeping."""

    chosen = Signal(int)
    let_go = Signal(int)
    mix_let_go = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rows = QVBoxLayout()
        self.rows.setSpacing(8)
        self.lines.addLayout(self.rows)
        self.lines.addStretch(1)

    def show_kept(self, kept: Sequence[tuple[KeptPalette, str]], mixes: Sequence[MixWorth]) -> None:
        """Show the palettes, the latest first, with how they do now; then the mixes."""
        clear_layout(self.rows)
        if not kept:
            self.rows.addWidget(
                text_label(
                    tr("No palette is kept yet. Keep one with a reason, and it stands here by date."),
                    soft=True,
                )
            )
        for palette, now in kept:
            self.rows.addWidget(self._one(palette, now))
        self.rows.addWidget(title_label(tr("Mixes worth keeping"), 14))
        if not mixes:
            self.rows.addWidget(
                text_label(
                    tr(
                        "None yet: mark a cell as a keeper, or keep a mix that was found under Find or Pairs."
                    ),
                    soft=True,
                )
            )
        for worth in mixes:
            self.rows.addWidget(self._mix(worth))
        self.lay_out()

    def _mix(self, worth: MixWorth) -> QWidget:
        """A mix: its colour as it was read, else as it is predicted, and what may be done with it."""
        widget = QWidget()
        across = QHBoxLayout(widget)
        across.setContentsMargins(0, 0, 0, 0)
        chip = sized_swatch(46, 40)
        looks = self.session.learning.looks
        if worth.lab is not None:
            chip.show_colour(qcolor(worth.lab))
        elif looks is not None and looks.knows(worth.recipe):
            chip.show_colour(looks.colour(worth.recipe), recorded=False)
        else:
            chip.show_colour(None)
        across.addWidget(chip, 0, Qt.AlignmentFlag.AlignTop)
        column = QVBoxLayout()
        column.setSpacing(2)
        spoken = spoken_recipe(worth.recipe)
        column.addWidget(text_label(spoken, bold=True, points=10))
        about = ", ".join(part for part in (worth.note, worth.where) if part)
        if about:
            column.addWidget(text_label(about, soft=True, points=10))
        line = WrapRow()
        take, out = QPushButton(tr("Take in hand")), QPushButton(tr("Let go"))
        take.setAccessibleName(tr("Take {name} in hand", name=spoken))
        out.setAccessibleName(tr("Let go of {name}", name=spoken))
        take.clicked.connect(lambda: self.session.selection.take(worth.recipe))
        out.clicked.connect(lambda: self.mix_let_go.emit(worth))
        for button in (take, out):
            button.setStyleSheet("padding: 3px 8px;")
            line.addWidget(button)
        column.addLayout(line)
        across.addLayout(column, 1)
        return widget

    def _one(self, palette: KeptPalette, now: str) -> QWidget:
        widget = QWidget()
        column = QVBoxLayout(widget)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(title_label(palette.name, 14))
        purpose = ", " + tr("for {purpose}", purpose=palette.purpose) if palette.purpose else ""
        column.addWidget(text_label(f"{palette.date}{purpose}", soft=True, points=10))
        column.addWidget(text_label(", ".join(palette.paints), points=10))
        if palette.reason:
            column.addWidget(text_label(palette.reason))
        column.addWidget(text_label(now, soft=True, points=10))
        line = QHBoxLayout()
        look, out = QPushButton(tr("Look at it")), QPushButton(tr("Let go"))
        look.setAccessibleName(tr("Look at {name}", name=palette.name))
        out.setAccessibleName(tr("Let go of {name}", name=palette.name))
        look.clicked.connect(lambda: self.chosen.emit(palette.id))
        out.clicked.connect(lambda: self.let_go.emit(palette.id))
        for button in (look, out):
            button.setStyleSheet("padding: 4px 10px;")
            line.addWidget(button)
        line.addStretch(1)
        column.addLayout(line)
        column.addWidget(rule())
        return widget
