"""The map page: mixes by hue and chroma with lightness beside, by paint, sheet, wash and keeper."""

from functools import partial

from PySide6.QtGui import QImage
from PySide6.QtWidgets import QCheckBox, QComboBox, QPushButton, QVBoxLayout

from culmo.core.colour.spectral import LIGHTS
from culmo.core.paint.character import triple
from culmo.core.paint.recipe import spoken_recipe
from culmo.desk.drawing.looks import qcolor
from culmo.desk.real_paint import real_of
from culmo.desk.rooms.box.model import describe, lab_text
from culmo.desk.rooms.plan.slip import parts_words
from culmo.desk.rooms.weigh.map_model import (
    SOURCES,
    WASH_FILTERS,
    MapRange,
    Points,
    all_sheets,
    keep_marks,
    marks_of,
    near,
    points_of_marks,
    points_of_mixes,
)
from culmo.desk.rooms.weigh.map_view import MapView
from culmo.desk.rooms.weigh.mix_row import MixRow
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.desk.sheet_state import SheetState
from culmo.desk.widgets import FactRow, Slip, Swatch, clear_layout, rule, text_label, title_label
from culmo.words import decimal, listed, mark, tr

_MOST_LISTED = 60
_KEY = tr("ring: predicted    square: painted and read    distance from the middle: chroma")
_KEY_MANY = tr("each square a mix that the box can make    distance from the middle: chroma")

_TIP = (150, 90)  # pixels, of the real paint in the tip over a point


class MapPage(WeighPage):
    """Where the mixes lie."""

    has_sheet = True

    def __init__(self, session: Session, weighing: Weighing, state: SheetState) -> None:
        super().__init__(session, weighing)
        self.state = state
        self.points: Points | None = None
        self._shown: object = None
        self.source, self.wash = QComboBox(), QComboBox()
        self.source.addItems(SOURCES)
        self.source.setAccessibleName(tr("Which mixes are on the map"))
        self.wash.addItems([word for word, _, _ in WASH_FILTERS])
        self.wash.setAccessibleName(tr("Which washes"))
        self.in_hand = QCheckBox(tr("With the paints in hand"))
        self.keepers = QCheckBox(tr("Keepers"))
        self.draw = QPushButton(tr("Draw round"))
        self.draw.setCheckable(True)
        self.draw.setToolTip(tr("Draw round a region to list what lies in it (or drag with Shift)"))
        self.tools = [self.source, self.wash]
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.map = MapView()
        self.map.real = self._real
        layout.addWidget(self.map)
        self.slip = self._make_slip()
        self.first = self.map
        self.map.selected.connect(self._point_chosen)
        self.map.region.connect(self._region_drawn)
        self.draw.toggled.connect(lambda on: setattr(self.map, "drawing", on))
        for box in (self.source, self.wash):
            box.currentIndexChanged.connect(lambda _: self.refresh())
        for check in (self.in_hand, self.keepers):
            check.toggled.connect(lambda _: self.refresh())
        session.selection.in_hand_changed.connect(
            lambda: self.refresh() if self.in_hand.isChecked() else None
        )
        weighing.mixes_ready.connect(self._mixes_ready)
        state.cell_selected.connect(self._select_cell)

    def _make_slip(self) -> Slip:
        slip = Slip()
        self.mix_title = title_label(tr("Mix"), 17)
        self.mix_words = text_label(tr("Choose a mix on the map."), soft=True)
        self.chip = Swatch(72)
        self.facts = {word: FactRow(tr(word)) for word in (mark("Colour"), mark("From"), mark("Nature"))}
        self.about = [self.chip, self.facts["Colour"], self.facts["Nature"], self.facts["From"]]
        self.near_title = text_label(tr("Near it"), bold=True)
        self.near = QVBoxLayout()
        self.near.setSpacing(6)
        for widget in (
            self.in_hand,
            self.keepers,
            self.draw,
            rule(),
            self.mix_title,
            self.mix_words,
            *self.about,
        ):
            slip.lines.addWidget(widget)
        slip.lines.addWidget(rule())
        slip.lines.addWidget(self.near_title)
        slip.lines.addLayout(self.near)
        slip.lines.addStretch(1)
        return slip

    # ---- showing

    def _filters(self) -> tuple[list[str], tuple[float, float]]:
        _, low, high = WASH_FILTERS[self.wash.currentIndex()]
        return (list(self.session.selection.in_hand) if self.in_hand.isChecked() else []), (low, high)

    def _mixes_ready(self) -> None:
        if self.isVisible() and self.source.currentIndex() == MapRange.ALL_MIXES:
            self.refresh()

    def refresh(self) -> None:
        """Gather the mixes and show them."""
        session, source = self.session, self.source.currentIndex()
        paints, wash = self._filters()
        self.keepers.setEnabled(source != MapRange.ALL_MIXES)
        points: Points | None = None
        if source == MapRange.ALL_MIXES:
            if self.weighing.want_mixes() and self.weighing.mixes is not None:
                points = points_of_mixes(self.weighing.mixes, paints, wash)
            busy = session.runner.busy("mixes") or session.learning.estimate is None
            self.map.empty_words = (
                tr("Working out all mixes of the box") if busy else tr("Nothing of the box is known yet.")
            )
        elif session.study is not None:
            ids = all_sheets(session.study)
            if source == MapRange.THIS_SHEET:
                ids = [session.selection.sheet_id] if session.selection.sheet_id is not None else []
            marks = keep_marks(
                marks_of(session.study, ids, session.selection.sheet_id),
                paints,
                wash,
                self.keepers.isChecked(),
            )
            points = points_of_marks(marks, session.learning.estimate, LIGHTS[session.learning.light])
            self.map.empty_words = (
                tr("No mix answers to these filters.")
                if ids
                else tr("Plan and paint a sheet, or look at all the box can mix.")
            )
        self.points = points
        self.map.show_points(points)
        self._say(source, paints)
        self._select_cell(self.state.current)
        if self.map.current < 0:
            self._show(-1)

    def _say(self, source: int, paints: list[str]) -> None:
        title = SOURCES[source]
        if source == MapRange.THIS_SHEET and self.state.record is not None:
            title = ""  # the room's head has the sheets to choose from
        count = len(self.points) if self.points is not None else 0
        recorded = int(self.points.recorded.sum()) if self.points is not None else 0
        if source == MapRange.ALL_MIXES:
            words = tr("{count} mixes of up to three paints", count=f"{count:,}".replace(",", " "))
        else:
            words = tr(
                "{value} mixes, {recorded} of them painted and read",
                value=count - recorded,
                recorded=recorded,
            )
        if paints:
            words += ", " + tr("with {what}", what=listed(paints))
        light = (
            "; " + tr("under {what}", what=tr(LIGHTS[self.session.learning.light].name))
            if self.session.learning.light
            else ""
        )
        self.say(title, words + light, _KEY_MANY if source == MapRange.ALL_MIXES else _KEY)

    def _select_cell(self, cell_id: str) -> None:
        if self.points is None or not cell_id or self.source.currentIndex() == MapRange.ALL_MIXES:
            return
        found = [i for i in range(len(self.points)) if self.points.cell_of(i) == cell_id]
        if found:
            self.map.select(found[-1])  # the reading, where there is one
            self._show(found[-1])

    def _near_chosen(self, i: int, _: bool = False) -> None:
        self.map.select(i)
        self._point_chosen(i)

    def _point_chosen(self, place: int) -> None:
        assert self.points is not None
        cell = self.points.cell_of(place)
        self._show(place)
        if cell and cell != self.state.current:
            self.state.select(cell)
            self.map.select(place)
            self._show(place)

    def _real(self, place: int) -> QImage | None:
        """The real paint of a point that was read, for the tip over it."""
        if self.points is None or not self.points.recorded[place]:
            return None
        make = real_of(self.session, self.points.recipe_of(place), triple(self.points.lab[place]))
        return make(*_TIP, 1.0) if make is not None else None

    def _show(self, place: int) -> None:
        clear_layout(self.near)
        for widget in (*self.about, self.near_title):
            widget.setVisible(place >= 0)
        if place < 0 or self.points is None:
            self.mix_title.setText(tr("Mix"))
            self.mix_words.setText(tr("Choose a mix on the map, or draw round some."))
            return
        recipe, lab = self.points.recipe_of(place), self.points.lab[place]
        self.mix_title.setText(" + ".join(recipe.names))
        self.mix_words.setText(parts_words(recipe))
        looks = self.session.learning.looks
        if self.points.recorded[place]:
            self.chip.show_read(qcolor(lab), real_of(self.session, recipe, triple(lab)))
        elif looks is None:
            self.chip.show_colour(qcolor(lab), recorded=False)
        else:
            self.chip.show_image(lambda w, h, r: looks.wash(recipe, w, h, str(recipe), r))
        self.facts["Colour"].set(lab_text(tuple(lab)))
        self.facts["Nature"].set(describe(lab))
        self.facts["From"].set(self.points.words_of(place))
        self.near_title.setText(tr("Looks most like it"))
        for i, away in near(self.points, place, 6):
            self._add(i, decimal(f"{away:.1f}"))

    def _add(self, i: int, number: str) -> None:
        assert self.points is not None
        row = MixRow(
            qcolor(self.points.lab[i]),
            spoken_recipe(self.points.recipe_of(i)),
            number,
            bool(self.points.recorded[i]),
            thing=self.map.thing(i),
            real=real_of(self.session, self.points.recipe_of(i), triple(self.points.lab[i]))
            if self.points.recorded[i]
            else None,
        )
        row.clicked.connect(partial(self._near_chosen, i))
        self.near.addWidget(row)

    def _region_drawn(self, places: list[int]) -> None:
        if self.points is None:
            return
        clear_layout(self.near)
        for widget in self.about:
            widget.hide()
        self.near_title.show()
        self.mix_title.setText(tr("A region"))
        self.mix_words.setText(tr("What lies inside the line, from light to dark."))
        self.near_title.setText(tr("{n} mixes", n=len(places)) if places else tr("Nothing lies there"))
        order = sorted(
            places, key=lambda i: -float(self.points.lab[i, 0]) if self.points is not None else 0.0
        )
        step = max(1, -(-len(order) // _MOST_LISTED))
        for i in order[::step]:
            self._add(i, f"L {self.points.lab[i, 0]:.0f}")
        if step > 1:
            self.near.addWidget(
                text_label(tr("every {step}th of them is listed", step=step), soft=True, points=10)
            )
