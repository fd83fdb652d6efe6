"""The rings of a wheel on the Layout page, from the outside inwards: each with its way, its paint and its strength."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction
from functools import partial

from PySide6.QtCore import QSignalBlocker, QSize
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from culmo.core.chart.darks import DarkLean
from culmo.core.chart.options import Option
from culmo.core.chart.rings import GLAZED, USUAL_SHARE, WITH, Ring, RingKind, Rings
from culmo.core.paint.recipe import TINT, Rename
from culmo.desk.rooms.plan.fields import Field, field_for
from culmo.desk.theme import px
from culmo.desk.widgets import clear_layout
from culmo.errors import CulmoError
from culmo.words import tr

ICON = QSize(22, 12)
_WAYS = {
    RingKind.FULL: tr("full"),
    RingKind.PALE: tr("paler"),
    RingKind.WHITE: tr("with the white below"),
    RingKind.DARK: tr("with the paint below"),
    RingKind.OPPOSITE: tr("the opposite mixed in"),
    RingKind.GLAZE: tr("glazed with the opposite"),
    WITH: tr("a paint mixed in"),
    GLAZED: tr("a paint glazed over"),
}
_SHARES = (
    (Fraction(1, 6), tr("a little, 1:6")),
    (USUAL_SHARE, tr("some, 1:3")),
    (Fraction(1), tr("as much, 1:1")),
)
_WASHES = ((0.1, tr("thin")), (TINT, tr("pale")), (0.45, tr("middle")))


class RingsField(Field):
    """Rings to choose, to add and to take away.

    Attributes
    ----------
    choose : function of a sort of paint ("cool", "neutral", "warm") that names the likeliest; empty where none is known
    icon_of : function of a paint's name that gives its colour as an icon, or None
    """

    def __init__(self) -> None:
        super().__init__()
        self.choose: Callable[[str], str] = lambda sort: ""
        self.icon_of: Callable[[str], QIcon | None] = lambda name: None
        self.rings: list[Ring] = []
        self._names: list[str] = []
        self.widget = QWidget()
        column = QVBoxLayout(self.widget)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._rows = QVBoxLayout()
        self._rows.setSpacing(4)
        column.addLayout(self._rows)
        self.add_button = QPushButton(tr("Add a ring"))
        self.menu = QMenu(self.add_button)
        for words, make in (
            (tr("Full"), lambda: Ring(RingKind.FULL)),
            (tr("Paler"), lambda: Ring(RingKind.PALE)),
            (tr("With white"), lambda: Ring(RingKind.WHITE)),
            (tr("With a cool dark"), lambda: self._with(DarkLean.COOL)),
            (tr("With a neutral"), lambda: self._with(DarkLean.NEUTRAL)),
            (tr("With a warm dark"), lambda: self._with(DarkLean.WARM)),
            (tr("With the opposite"), lambda: Ring(RingKind.OPPOSITE)),
            (tr("Glazed with the opposite"), lambda: Ring(RingKind.GLAZE)),
            (tr("Glazed with a paint"), lambda: Ring(GLAZED, self._likeliest(DarkLean.NEUTRAL))),
        ):
            self.menu.addAction(words, partial(self._add, make))
        self.add_button.setMenu(self.menu)
        column.addWidget(self.add_button)

    # ---- as a field

    def text(self) -> str:
        return Rings().write([str(ring) for ring in self.rings])

    def set_text(self, text: str) -> None:
        rings = []
        for ring in Rings().read(text, ""):
            try:
                rings.append(Ring.parsed(ring))
            except CulmoError:
                continue
        self.rings = rings
        self._show()

    def offer(self, names: Sequence[str]) -> None:
        self._names = list(names)
        self._show()

    def rename(self, rename: Rename) -> None:
        self._names = [rename(name) for name in self._names]
        self.rings = [replace(ring, paint=rename(ring.paint)) if ring.paint else ring for ring in self.rings]
        self._show()

    # ---- acts

    def _likeliest(self, sort: str) -> str:
        return self.choose(sort) or next(iter(self._names), "")

    def _with(self, sort: str) -> Ring:
        return Ring(WITH, self._likeliest(sort))

    def _add(self, make: Callable[[], Ring]) -> None:
        self.rings.append(make())
        self._show()
        self.edited.emit()

    def _remove(self, place: int) -> None:
        del self.rings[place]
        self._show()
        self.edited.emit()

    def _change(self, place: int, ring: Ring, anew: bool = False) -> None:
        self.rings[place] = ring
        if anew:
            self._show()
        self.edited.emit()

    # ---- drawing

    def _show(self) -> None:
        clear_layout(self._rows)
        for place, ring in enumerate(self.rings):
            self._rows.addWidget(self._row(place, ring))

    def _row(self, place: int, ring: Ring) -> QWidget:
        row = QWidget()
        column = QVBoxLayout(row)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        first = QHBoxLayout()
        column.addLayout(first)
        called = tr("Ring {n}", n=place + 1)
        ways = _combo(
            [
                (way, words)
                for way, words in _WAYS.items()
                if way != RingKind.DARK or ring.way == RingKind.DARK
            ],
            ring.way,
        )
        ways.setAccessibleName(called)
        ways.currentIndexChanged.connect(lambda _: self._change_way(place, str(ways.currentData())))
        remove = QPushButton("×")
        remove.setObjectName("small")
        remove.setFixedWidth(px(30))
        remove.setAccessibleName(tr("Take ring {n} away", n=place + 1))
        remove.setToolTip(tr("Take ring {n} away", n=place + 1))
        remove.setEnabled(len(self.rings) > 1)
        remove.clicked.connect(lambda _=False: self._remove(place))
        first.addWidget(ways, 1)
        first.addWidget(remove)
        if ring.way in (WITH, GLAZED):
            column.addLayout(self._paint_line(place, ring, called))
        return row

    def _paint_line(self, place: int, ring: Ring, called: str) -> QHBoxLayout:
        line = QHBoxLayout()
        names = [*self._names, *([ring.paint] if ring.paint not in self._names else [])]
        paints = _combo([(name, name) for name in names], ring.paint)
        paints.setIconSize(ICON)
        for at, name in enumerate(names):
            icon = self.icon_of(name)
            if icon is not None:
                paints.setItemIcon(at, icon)
        paints.setAccessibleName(tr("{ring}: paint", ring=called))
        paints.currentIndexChanged.connect(
            lambda _: self._change(place, replace(self.rings[place], paint=str(paints.currentData())))
        )
        if ring.way == WITH:
            strength = _combo(list(_SHARES), ring.share, f"{ring.share.numerator}:{ring.share.denominator}")
            strength.currentIndexChanged.connect(
                lambda _: self._change(place, replace(self.rings[place], share=strength.currentData()))
            )
        else:
            strength = _combo(list(_WASHES), ring.wash, f"{ring.wash:g}")
            strength.currentIndexChanged.connect(
                lambda _: self._change(place, replace(self.rings[place], wash=strength.currentData()))
            )
        strength.setAccessibleName(tr("{ring}: how much", ring=called))
        line.addWidget(paints, 3)
        line.addWidget(strength, 2)
        return line

    def _change_way(self, place: int, way: str) -> None:
        ring = self.rings[place]
        paint = (ring.paint or self._likeliest(DarkLean.NEUTRAL)) if way in (WITH, GLAZED) else ""
        self._change(place, Ring(way, paint), anew=True)


def _combo(entries: Sequence[tuple[object, str]], current: object, words: str = "") -> QComboBox:
    """A list of values with words; a value that is none of the usual ones stands in it as itself."""
    box = QComboBox()
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(6)
    with QSignalBlocker(box):
        for value, text in entries:
            box.addItem(text, value)
        values = [value for value, _ in entries]
        if current not in values:
            box.addItem(words or str(current), current)
            values.append(current)
        box.setCurrentIndex(values.index(current))
    return box


@field_for.register
def _(form: Rings, name: str, own: Option) -> Field:
    return RingsField()
