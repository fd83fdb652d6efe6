"""The find page: a colour wanted, and how to mix it from these paints; what to add to a puddle; what goes with it."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QMimeData, QTimer
from PySide6.QtGui import QColor, QDragEnterEvent, QDropEvent, QImage
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
)

from culmo.core.colour.srgb import hex_from_lab, lab_from_text
from culmo.core.paint.pigments import codes_in
from culmo.core.paint.recipe import Recipe, mix
from culmo.data import pigment_table
from culmo.desk.drawing.looks import qcolor
from culmo.desk.guard import guarded
from culmo.desk.mix_acts import MixActs
from culmo.desk.picture_view import PICTURES
from culmo.desk.rooms.box.model import describe, lab_text
from culmo.desk.rooms.weigh.find_model import Answer, Known, PaintedCell, Sought, answering, serving
from culmo.desk.rooms.weigh.find_results import PickDialog, Results
from culmo.desk.rooms.weigh.find_slip import FindSlip
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.settling import GrainWish, grain_tip
from culmo.desk.rooms.weigh.weighing import Weighing, doubt_words
from culmo.desk.session import Session
from culmo.desk.theme import STEP, px
from culmo.desk.things import colour_in
from culmo.desk.widgets import Entry, Swatch, as_tip
from culmo.desk.wrap_row import WrapRow
from culmo.errors import CulmoError
from culmo.study import palette_acts, records
from culmo.study.palette_acts import Wanted, wanted_lists
from culmo.study.patches import seen_textures
from culmo.words import tr

_REST_MS = 250


@guarded
class FindPage(WeighPage):
    """A colour wanted."""

    slip: FindSlip

    def __init__(
        self, session: Session, weighing: Weighing, puddle: Callable[[], Recipe | None], acts: MixActs
    ) -> None:
        super().__init__(session, weighing)
        self.puddle, self.acts = puddle, acts
        self.sought: Sought | None = None
        self.asked_list = ""
        self.answer: Answer | None = None
        self.setAcceptDrops(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        line = WrapRow(STEP)
        self.target = Swatch(44)
        self.target.setFixedWidth(px(72))
        self.text = Entry(tr("#5a6b4c, or L, a, b"), tr("Colour wanted"))
        self.text.setFixedWidth(px(150))
        self.text.returnPressed.connect(self._typed)
        self.from_what = QComboBox()
        self.from_what.setAccessibleName(tr("A paint or a pigment to look for"))
        self.from_what.setMinimumContentsLength(16)
        self.from_what.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.from_what.setMaximumWidth(px(260))
        self.from_what.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.from_what.activated.connect(self._named)
        picture = QPushButton(tr("From a picture…"))
        picture.clicked.connect(self.choose_picture)
        for widget in (self.target, self.text, self.from_what, picture):
            line.addWidget(widget)
        layout.addLayout(line)
        self.results = Results(session)
        self.results.chosen.connect(self._chosen)
        layout.addWidget(self.results, 1)
        self.slip = FindSlip(session, acts)
        self.slip.changed.connect(self._ask)
        self.slip.typing.connect(self.ask_soon)
        self.slip.want.clicked.connect(self.put_on_list)
        self.first = self.text
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._ask)
        weighing.mixes_ready.connect(lambda: self._ask() if self.isVisible() else None)
        self.say(
            tr("A colour wanted"),
            tr("Type it, take it from a picture, or name a paint; it is mixed from the box in use."),
        )

    # ---- what is looked for

    def refresh(self) -> None:
        """Fill the choices anew and ask again."""
        lists = wanted_lists(self.session.study) if self.session.study is not None else {}
        self.slip.fill(self.weighing.names, lists)
        self._fill_named()
        self._ask()

    def _fill_named(self) -> None:
        self.from_what.clear()
        self.from_what.addItem(tr("By name…"), None)
        lists = wanted_lists(self.session.study) if self.session.study is not None else {}
        for name in lists:
            self.from_what.addItem(tr("{name}: what I painted for all of it", name=name), ("list", name))
        for name, colours in lists.items():
            for colour in colours:
                self.from_what.addItem(
                    f"{name}: {colour.name or hex_from_lab(np.array(colour.lab))}", ("wanted", colour)
                )
        for name in self.weighing.names:
            self.from_what.addItem(tr("My {name}", name=name), ("paint", name))
        for code, pigment in pigment_table().items():
            self.from_what.addItem(f"{code} {pigment.name}", ("pigment", code))

    def _named(self, place: int) -> None:
        data = self.from_what.itemData(place)
        if data is None:
            return
        kind, what = data
        if kind == "paint":
            self.look_for_paint(str(what))
        elif kind == "pigment":
            self.look_for_pigment(str(what))
        elif kind == "list":
            self.look_through(str(what))
        else:
            self.look_for(what.lab, what.name)

    def look_for(
        self, lab: tuple[float, float, float], name: str = "", cell: PaintedCell | None = None
    ) -> None:
        """Look for a colour; for that of a cell, and its texture where a picture shows it."""
        self._begin(Sought(lab, name, cell=cell))

    def look_for_paint(self, name: str) -> None:
        """Look for what stands in the place of a paint that one has."""
        found = self.session.learning.predict([mix([name])])
        if found is not None:
            L, a, b = (float(value) for value in found.lab[0])
            self._begin(Sought((L, a, b), name, paint=name))

    def look_for_pigment(self, code: str) -> None:
        """Look for a pigment that one reads about."""
        pigment = pigment_table()[code]
        self._begin(Sought(pigment.masstone, f"{code} {pigment.name}", code=code))

    def look_through(self, name: str) -> None:
        """Which painted mixes serve a whole list of wanted colours."""
        self.asked_list, self.sought, self.slip.recipe = name, None, None
        self.text.setText("")
        self.target.show_colour(None)
        self._ask()

    def _show_list(self) -> None:
        study = self.session.study
        if study is None:
            return
        colours = wanted_lists(study).get(self.asked_list, [])
        self.results.show_list(
            serving(self.asked_list, [(colour.name, colour.lab) for colour in colours], self._painted())
        )
        self.say(
            self.asked_list,
            tr("Every colour of the list against all that you painted and read"),
            tr("left: wanted    right: as you painted it    rest on a row for its numbers"),
        )
        self.slip.show_recipe(self.slip.recipe, self.sought is not None)

    def _painted(self) -> list[PaintedCell]:
        """What was painted and read, with what pictures showed of its texture."""
        study = self.session.study
        if study is None:
            return []
        seen: dict[str, tuple[float, float]] = {}
        for one in seen_textures(study):  # the latest first
            seen.setdefault(str(one.recipe), (one.texture.contrast, one.texture.parting))
        return [
            PaintedCell(recipe, lab, seen.get(str(recipe))) for recipe, lab in records.painted_mixes(study)
        ]

    def _begin(self, sought: Sought) -> None:
        self.sought, self.asked_list = sought, ""
        self.text.mark_wrong("")
        self.text.setText(lab_text(sought.lab))
        self.target.show_colour(qcolor(sought.lab))
        self.slip.recipe = None
        self._ask()

    def _typed(self) -> None:
        try:
            L, a, b = (float(value) for value in lab_from_text(self.text.text()))
        except CulmoError as error:
            self.text.mark_wrong(str(error))
            self.session.failed.emit(str(error))
            return
        self.look_for((L, a, b))

    def choose_picture(self) -> None:
        """Take a colour from a picture."""
        name, _ = QFileDialog.getOpenFileName(self, tr("A picture to take a colour from"), "", PICTURES)
        if name:
            self.pick_from(Path(name))

    def pick_from(self, source: Path | QImage) -> None:
        """Take a colour from a picture, of a file or from the clipboard."""
        dialog = PickDialog(self)
        with self.session.guarded():
            if isinstance(source, QImage):
                dialog.view.show_image(source)
            else:
                dialog.view.load(source)
            if dialog.exec() == QDialog.DialogCode.Accepted and dialog.lab is not None:
                self.look_for(dialog.lab, source.stem if isinstance(source, Path) else "")
        dialog.deleteLater()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        held = event.mimeData()
        if held.hasUrls() or held.hasText() or held.hasImage():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self._take_colour(event.mimeData())

    def paste(self) -> None:
        """A colour from the clipboard: as text, or from a picture."""
        self._take_colour(QApplication.clipboard().mimeData())

    def _take_colour(self, held: QMimeData) -> None:
        urls = [url for url in held.urls() if url.isLocalFile()]
        if urls:
            self.pick_from(Path(urls[0].toLocalFile()))
        elif held.hasImage() and not held.text().strip():
            self.pick_from(QImage(held.imageData()))
        else:
            text = held.text().strip()
            copied = colour_in(text.split("\n")[0])
            if not copied and held.hasColor() and "#" not in text:
                copied = QColor(held.colorData()).name()  # another program's, which calls it as it likes
            self.text.setText(copied or text[:60])
            self._typed()

    # ---- the answer

    def _ask(self) -> None:
        if self.asked_list:
            self._show_list()
            return
        if self.sought is None:
            self._show_empty()
            return
        session = self.session
        if not self.weighing.want_mixes() or self.weighing.mixes is None or session.learning.estimate is None:
            waiting, bare = (
                tr("Working out the mixes of the box"),
                tr("There are no paints to mix it from yet."),
            )
            self.results.say_alone(soft=waiting if self.weighing.names else bare)
            return
        lattice, estimate, sought = self.weighing.mixes.lattice, session.learning.estimate, self.sought
        puddle, sought, wish = self.puddle(), self.sought, self.slip.wish()
        grains = session.learning.known_paints.grains

        def grain(recipe: Recipe) -> float:
            parts = recipe.layers[0].parts
            return sum(part.parts * grains(part.name) for part in parts) / sum(part.parts for part in parts)

        codes = {paint.name: codes_in(paint.codes) for paint in session.paints}
        limits = session.real_paint.limits
        self.slip.grain_box.setToolTip(as_tip(grain_tip(limits)))
        known = Known(
            codes, dict(session.learning.labels), frozenset(session.learning.unread), grain,
            session.learning.settled, session.learning.known_paints.said, self._painted(), limits,
        )  # fmt: skip
        so = GrainWish(self.slip.grain_box.currentIndex())
        session.runner.start(
            "find",
            lambda: answering(estimate, lattice, sought, wish, puddle, known, so),
            self._answered,
            self._failed,
        )

    def ask_soon(self) -> None:
        """Ask again when the hand rests."""
        self._rest.start()

    def _show_empty(self) -> None:
        self.results.say_alone(
            tr("Which colour do you want to mix?"),
            tr("Type it above, choose a paint or a pigment, or drop a picture here and click on the colour."),
        )
        self.slip.show_recipe(None, self.sought is not None)

    def _answered(self, answer: Answer) -> None:
        self.answer = answer
        self.results.show_answer(answer)
        name = answer.sought.name or hex_from_lab(np.array(answer.sought.lab))
        self.say(
            name,
            describe(np.array(answer.sought.lab)) + doubt_words(self.session, self.weighing.names),
            tr("left: wanted    right: what the mix gives    rest on a row for its numbers"),
        )
        first = answer.advised[0].match.recipe if answer.advised else None
        self.slip.show_recipe(self.slip.recipe or first, self.sought is not None)

    def _failed(self, why: str) -> None:
        self.results.say_alone(f"{why[:1].upper()}{why[1:]}.")
        self.slip.show_recipe(None, self.sought is not None)

    def _chosen(self, recipe: Recipe | None, code: str | None) -> None:
        if code is not None:
            self.look_for_pigment(code)
        else:
            self.slip.show_recipe(recipe, self.sought is not None)

    def put_on_list(self) -> None:
        """The colour goes on a list of wanted colours."""
        if self.sought is None or self.session.study is None:
            return
        lists = list(wanted_lists(self.session.study)) or [tr("Wanted colours")]
        name, done = QInputDialog.getItem(self, tr("Wanted colours"), tr("On which list?"), lists, 0, True)
        if done:
            with self.session.guarded():
                colour = Wanted(self.sought.name, self.sought.lab)
                self.session.do(palette_acts.add_wanted(self.session.file, name, [colour]))
