"""Weigh room: what the charts are for. Pages to look, to find and to choose; each is made when it is first looked at."""

from collections.abc import Callable
from enum import IntEnum
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QWidget

from culmo.core.paint.recipe import Recipe, spoken_recipe
from culmo.desk.mix_acts import MixActs
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.sheet_page import SheetPage
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.desk.sheet_picker import SheetPicker
from culmo.desk.sheet_state import SheetState
from culmo.desk.theme import STEP, px
from culmo.desk.widgets import SLIP_WIDTH, Room, TabStrip, text_label, title_label
from culmo.desk.wrap_row import TwoOnALine, WrapRow
from culmo.words import tr, trc

if TYPE_CHECKING:
    from culmo.desk.rooms.weigh.fewer_page import FewerPage
    from culmo.desk.rooms.weigh.find_model import PaintedCell
    from culmo.desk.rooms.weigh.find_page import FindPage


class WeighPageName(IntEnum):
    """A page of the Weigh room, and its place in the strip."""

    SHEET = 0
    MAP = 1
    SIDE = 2
    FIND = 3
    PAIRS = 4
    FEWER = 5
    WATER = 6
    GUESS = 7


PAGES = (
    tr("Sheet"), tr("Map"), tr("Side by side"), tr("Find"), tr("Pairs"), tr("Fewer paints"),
    trc("page", "Water"), tr("Guess"),
)  # fmt: skip


class WeighRoom(Room):
    """Look, find, choose."""

    box_wanted = Signal(object)

    def __init__(
        self,
        session: Session,
        state: SheetState,
        puddle: Callable[[], Recipe | None],
        acts: MixActs,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.session, self.state, self.puddle, self.acts = session, state, puddle, acts
        self.weighing = Weighing(session)
        self._pages: dict[int, WeighPage] = {}
        main = self.lay_ground()
        self.title = title_label("", 18)
        self.picker = SheetPicker(session)
        self.tools = WrapRow(STEP)
        self.subtitle = text_label("", soft=True)
        self.key = text_label("", soft=True)
        self.shows = TabStrip(PAGES, name=tr("What the room shows"))
        first = QHBoxLayout()
        first.addWidget(self.title)
        first.addWidget(self.picker)
        first.addStretch(1)
        main.setSpacing(4)
        main.addWidget(self.shows)
        main.addLayout(first)
        main.addLayout(TwoOnALine(self.subtitle, self.tools, 180))
        self.stack, self.slips = QStackedWidget(), QStackedWidget()
        self.slips.setFixedWidth(px(SLIP_WIDTH))
        main.addWidget(self.stack, 1)
        main.addWidget(self.key)
        self.lay_slip(self.slips)
        self.sheet = SheetPage(session, self.weighing, state)
        self._settle(WeighPageName.SHEET, self.sheet)
        self.shows.chosen.connect(lambda _: self.refresh())
        state.updated.connect(self.refresh_when_seen)
        # after the weighing has heard of them
        session.learning.learned.connect(self.refresh_when_seen)
        session.selection.box_changed.connect(self.refresh_when_seen)
        self._on_view: WeighPage | None = None
        self.refresh()

    def _settle(self, name: WeighPageName, page: WeighPage) -> WeighPage:
        self._pages[name] = page
        self.stack.addWidget(page)
        self.slips.addWidget(page.slip)
        for tool in page.tools:
            self.tools.addWidget(tool)
            tool.hide()
        page.worded.connect(lambda: self._say(page))
        return page

    def page(self, name: WeighPageName) -> WeighPage:
        """A page of the room, made when it is first asked for."""
        if name not in self._pages:
            self._settle(name, self._maker(name)())
        return self._pages[name]

    def _maker(self, name: WeighPageName) -> Callable[[], WeighPage]:
        # each loads what it needs when it is first looked at
        def side() -> WeighPage:
            from culmo.desk.rooms.weigh.side_page import SidePage

            return SidePage(self.session, self.weighing)

        def chart() -> WeighPage:
            from culmo.desk.rooms.weigh.map_page import MapPage

            return MapPage(self.session, self.weighing, self.state)

        def find() -> WeighPage:
            from culmo.desk.rooms.weigh.find_page import FindPage

            return FindPage(self.session, self.weighing, self.puddle, self.acts)

        def pairs() -> WeighPage:
            from culmo.desk.rooms.weigh.pairs_page import PairsPage

            return PairsPage(self.session, self.weighing, self.acts)

        def fewer() -> WeighPage:
            from culmo.desk.rooms.weigh.fewer_page import FewerPage

            page = FewerPage(self.session, self.weighing)
            page.box_wanted.connect(self.box_wanted)
            return page

        def guess() -> WeighPage:
            from culmo.desk.rooms.weigh.guess_page import GuessPage

            return GuessPage(self.session, self.weighing, self.acts)

        def water() -> WeighPage:
            from culmo.desk.rooms.weigh.water_page import WaterPage

            return WaterPage(self.session, self.weighing, self.acts)

        makers = {
            WeighPageName.MAP: chart,
            WeighPageName.SIDE: side,
            WeighPageName.FIND: find,
            WeighPageName.PAIRS: pairs,
            WeighPageName.FEWER: fewer,
            WeighPageName.WATER: water,
            WeighPageName.GUESS: guess,
        }
        return makers[name]

    def refresh(self) -> None:
        """Bring the page on view up to date."""
        page = self.page(WeighPageName(self.shows.current))
        if page is not self._on_view:
            if self._on_view is not None:
                for tool in self._on_view.tools:
                    tool.hide()
                self._on_view.left()
            self._on_view = page
            for tool in page.tools:
                tool.show()
            on_tabs = any(button.hasFocus() for button in self.shows.buttons)
            self.stack.setCurrentWidget(page)
            self.slips.setCurrentWidget(page.slip)
            self._say(page)
            page.entered()
            if self.isVisible() and not on_tabs:
                page.first.setFocus()
        else:
            page.refresh()

    def _say(self, page: WeighPage) -> None:
        if page is not self._on_view:
            return
        self.title.setText(page.title)
        self.title.setVisible(bool(page.title))
        self.picker.setVisible(page.has_sheet and not page.title)
        self.subtitle.setText(page.subtitle)
        self.key.setText(page.key)
        self.key.setVisible(bool(page.key))

    # ---- what other parts of the window ask for

    def mix_changed(self) -> None:
        """Another mix lies on the dab."""
        page = self._pages.get(WeighPageName.FIND)
        if page is not None and page.isVisible():
            cast("FindPage", page).ask_soon()

    def take_keys(self) -> None:
        """The keys go to the page on view."""
        self.page(WeighPageName(self.shows.current)).first.setFocus()

    @property
    def map(self) -> QWidget | None:
        """The map, once it has been looked at."""
        page = self._pages.get(WeighPageName.MAP)
        return getattr(page, "map", None)

    def find_colour(
        self,
        lab: tuple[float, float, float] | None = None,
        name: str = "",
        cell: "PaintedCell | None" = None,
    ) -> None:
        """Look for mixes near a colour, or like a cell; without one the field is ready to be typed into."""
        self.shows.choose(WeighPageName.FIND)
        page = cast("FindPage", self.page(WeighPageName.FIND))
        if lab is not None:
            page.look_for(lab, name, cell)
        page.text.setFocus()
        page.text.selectAll()

    def find_like_selected(self) -> None:
        """Look for mixes that look like the selected cell."""
        from culmo.desk.rooms.weigh.find_model import PaintedCell

        row = next((row for row in self.sheet.rows if row.cell_id == self.state.current), None)
        if row is not None and (row.read or row.predicted):
            look = self.state.looks.get(row.cell_id)
            seen = look.patch.texture if look is not None and look.patch is not None else None
            texture = (seen.contrast, seen.parting) if seen is not None else None
            self.find_colour(
                row.shown, spoken_recipe(row.recipe), PaintedCell(row.recipe, row.shown, texture)
            )

    def show_kept(self) -> None:
        """The kept palettes."""
        self.shows.choose(WeighPageName.FEWER)
        page = cast("FewerPage", self.page(WeighPageName.FEWER))
        page.tabs.turn_to(page.kept_slip)

    def choose_for(self, subject: str) -> None:
        """The fewest paints for a subject."""
        self.shows.choose(WeighPageName.FEWER)
        cast("FewerPage", self.page(WeighPageName.FEWER)).take_subject(subject)

    def replace_paint(self, name: str) -> None:
        """Look for what stands in the place of a paint."""
        self.shows.choose(WeighPageName.FIND)
        cast("FindPage", self.page(WeighPageName.FIND)).look_for_paint(name)

    def paste(self) -> None:
        """A colour from the clipboard."""
        self.shows.choose(WeighPageName.FIND)
        cast("FindPage", self.page(WeighPageName.FIND)).paste()
