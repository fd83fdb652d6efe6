"""The pairs page: what two paints are good for together, greys from warm to cool, and what to be careful with."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout

from culmo.core.paint.recipe import FULL
from culmo.core.palette.alike import ALIKE, alike_pairs, nearest_pairs
from culmo.core.palette.choose import missed_without
from culmo.core.palette.uses import PairUse
from culmo.desk.listing import Listing, lines_of_text
from culmo.desk.rooms.weigh.mixes_model import Mixes
from culmo.desk.rooms.weigh.page import WeighPage
from culmo.desk.rooms.weigh.weighing import Weighing
from culmo.desk.session import Session
from culmo.desk.theme import STEP
from culmo.desk.widgets import Slip, TabStrip, rule, text_label
from culmo.words import listed, tr

_MISSED = 0.001
TOPICS = (tr("Greys and darks"), tr("Clean mixes"), tr("Grain and reach"), tr("Careful"), tr("Alike"))
_SHOWS = {
    1: ("Cleanest greens", "Cleanest oranges", "Cleanest violets"),
    2: ("Granulating", "Separating", "Widest range"),
    3: ("Be careful with",),
}


class PairsPage(WeighPage):
    """Pairs by use."""

    def __init__(self, session: Session, weighing: Weighing) -> None:
        super().__init__(session, weighing)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.topics = TabStrip(TOPICS, name=tr("What pairs are good for"))
        self.topics.chosen.connect(lambda _: self.refresh())
        layout.addWidget(self.topics, 0, Qt.AlignmentFlag.AlignLeft)
        self.listing = Listing(session, tr("Pairs"))
        layout.addWidget(self.listing, 1)
        self.slip = self._make_slip()
        self.first = self.listing
        weighing.mixes_ready.connect(self._ready)
        weighing.reach_ready.connect(self._ready)
        self.say(
            tr("Pairs by use"),
            tr("From the predicted mixes of the box in use, in the light of what you have read."),
        )

    def _make_slip(self) -> Slip:
        slip = Slip()
        slip.lines.addWidget(text_label(tr("What each paint is needed for"), bold=True))
        self.needs = Listing(self.session, tr("What would be lost without each paint"), "slip")
        self.need_words = text_label("", soft=True, points=10)
        slip.lines.addWidget(self.need_words)
        slip.lines.addWidget(rule())
        slip.lines.addWidget(self.needs, 1)
        return slip

    def _ready(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show the pairs of the topic."""
        listing, mixes = self.listing, None
        if self.weighing.want_mixes():
            mixes = self.weighing.mixes
        listing.begin()
        if mixes is None or len(mixes.names) < 2:
            words = tr("Working out the mixes of the box") if self.session.runner.busy("mixes") else ""
            listing.say(words or tr("Two paints or more are wanted before pairs can be told of."), soft=True)
            listing.end()
            self._show_needs(None)
            return
        words = tr("From the predicted mixes of the box in use") + (
            self.weighing.doubt or tr(", as your readings teach them")
        )
        self.say(tr("Pairs by use"), words)
        topic = self.topics.current
        if topic == 0:
            self._greys(mixes)
        elif topic == 4:
            self._alike(mixes)
        else:
            by_title = dict(mixes.uses)
            for title in _SHOWS[topic]:
                self._part(title, by_title.get(title, []))
        listing.end()
        self._show_needs(mixes)

    def _greys(self, mixes: Mixes) -> None:
        listing = self.listing
        listing.say(tr("Neutral pairs, from warm to cool"), bold=True)
        listing.say(tr("In a middle wash; below a chroma of 3 it is a true grey."), soft=True)
        if not mixes.greys:
            listing.say(tr("No two paints of this box grey each other."))
        for entry in mixes.greys[:10]:
            a, b = entry.parts
            listing.row(
                listing.stroke(entry.paint, 96, 34),
                listing.stroke(entry.partner, 96, 34),
                listing.wash(entry.recipe.with_wash(0.45), 84, 34),
                lines_of_text(
                    (
                        tr(
                            "{a} : {b}  {paint} and {partner}",
                            a=a,
                            b=b,
                            paint=entry.paint,
                            partner=entry.partner,
                        ),
                        True,
                        False,
                    ),
                    (tr("{words}, chroma {chroma:.1f}", words=entry.words, chroma=entry.chroma), False, True),
                ),
                stretch=3,
            )
        self._part(tr("Deepest darks without black"), dict(mixes.uses)["Deepest darks without black"])

    def _part(self, title: str, pairs: list[PairUse]) -> None:
        listing = self.listing
        listing.rows.addSpacing(STEP)
        listing.say(tr(title), bold=True)
        if not pairs:
            listing.say(tr("No pair of this box does."), soft=True)
        for use in pairs:
            wash = use.recipe if title != "Be careful with" else use.recipe.with_wash(FULL)
            parts = " : ".join(f"{part.parts:g}" for part in use.recipe.layers[0].parts)
            names = listed(use.recipe.names)
            listing.row(
                listing.stroke(use.first, 96, 34),
                listing.stroke(use.second, 96, 34),
                listing.wash(wash, 84, 34),
                lines_of_text((f"{parts}  {names}", True, False), (use.words, False, True)),
                stretch=3,
            )

    def _alike(self, mixes: Mixes) -> None:
        listing = self.listing
        mixer = mixes.lattice.mixer
        alike = alike_pairs(mixer)
        listing.say(
            tr("{n} pairs differ by less than {ALIKE:g} in masstone, tint and mixes", n=len(alike), ALIKE=ALIKE)
            if alike else tr("No two paints of this box are too alike; the nearest are these"), bold=True,
        )  # fmt: skip
        for pair in alike or nearest_pairs(mixer, 4):
            words = tr(
                "masstone {masstone:.1f}, tint {tint:.1f}, in mixes {mixes:.1f}",
                masstone=pair.masstone,
                tint=pair.tint,
                mixes=pair.mixes,
            )
            listing.row(
                listing.stroke(pair.first, 130, 34),
                listing.stroke(pair.second, 130, 34),
                lines_of_text(
                    (tr("{first} and {second}", first=pair.first, second=pair.second), True, False),
                    (words, False, True),
                ),
                stretch=2,
            )

    def _show_needs(self, mixes: Mixes | None) -> None:
        needs = self.needs
        needs.begin()
        reach = self.weighing.reach if mixes is not None and self.weighing.want_reach() else None
        if reach is None or reach.wanted is not None or mixes is None:
            self.need_words.setText(tr("Reckoned once the mixes are known."))
        else:
            self.need_words.setText(
                tr("The share of all that the box can mix that would be lost without it.")
            )
            lost = missed_without(reach.value)
            missed = [i for i in sorted(range(len(lost)), key=lambda i: -lost[i]) if lost[i] >= _MISSED]
            for i in missed:
                needs.row(
                    needs.stroke(mixes.names[i], 76, 26),
                    lines_of_text((f"{mixes.names[i]}  {100 * lost[i]:.1f} %", False, False)),
                    stretch=1,
                )
            rest = tr("None of the others") if missed else tr("No paint of this box")
            needs.say(
                tr("{rest} would be missed by itself: what it makes, others make too.", rest=rest), soft=True
            )
        needs.end()
