"""The Pairs page as plain values: its topics, what is asked for, in which order, and how a mix is worded."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum
from math import isnan

from culmo.core.colour.spectral import Array
from culmo.core.paint.label import KEEPS, Label
from culmo.core.paint.pigments import CLEAR
from culmo.core.paint.recipe import in_proportion, mix
from culmo.core.paint.texture_words import USUAL, Limits
from culmo.core.palette.alike import AlikePair
from culmo.core.palette.character import Character
from culmo.core.palette.idea import Idea, IdeaKind
from culmo.core.palette.ideas import Ideas, varied
from culmo.core.palette.threes import warmth
from culmo.desk.rooms.weigh.settling import GrainWish, settles_so
from culmo.words import decimal, tr, trn

ALIKE, NEEDED = "alike", "needed"


@dataclass(frozen=True)
class Topic:
    """What is looked for.

    Attributes
    ----------
    key, title : str
    kinds : tuple of str, of `culmo.core.palette.ideas`
    says : str, what is listed and by what it is ranked
    """

    key: str
    title: str
    kinds: tuple[str, ...]
    says: str


TOPICS = (
    Topic(
        "greys", tr("Greys"), (IdeaKind.GREY,),
        tr("Coloured paints that grey each other in a middle wash: what is known to be grey first."),
    ),
    Topic(
        "browns", tr("Browns"), (IdeaKind.BROWN,),
        tr("Browns of paints that are no browns: what comes nearest to a golden, a red or a dark brown first."),
    ),
    Topic("darks", tr("Darks"), (IdeaKind.DARK,), tr("Near blacks without a grey or a black: the deepest first.")),
    Topic(
        "clean", tr("Clean"), (IdeaKind.GREEN, IdeaKind.ORANGE, IdeaKind.VIOLET),
        tr("The most vivid greens, oranges and violets of two paints, in a middle wash."),
    ),
    Topic(
        "parting", tr("Parting"), (IdeaKind.PARTING,),
        tr("One settles in the hollows, the other stays between: what will be seen most first."),
    ),
    Topic("grainy", tr("Grainy"), (IdeaKind.GRAINY,), tr("Both settle: the widest between light and dark first.")),
    Topic("range", tr("Range"), (IdeaKind.RANGE,), tr("All pairs, the longest way from one paint to the other first.")),
    Topic("careful", tr("Careful"), (IdeaKind.CAREFUL,), tr("One paint takes over: begin with the other.")),
    Topic(ALIKE, tr("Alike"), (), tr("Paints that hardly differ.")),
    Topic(NEEDED, tr("Needed"), (), tr("What would be lost without each paint.")),
)  # fmt: skip
HEADS: dict[str, str] = {
    IdeaKind.GREEN: tr("Greens"),
    IdeaKind.ORANGE: tr("Oranges"),
    IdeaKind.VIOLET: tr("Violets"),
}
PAINT_FIRST, ALL_OTHERS = tr("Paint this one first: it would tell most about these"), tr("All others")
_WORTH_A_HEAD = 5


class PairsOrder(IntEnum):
    """What comes first."""

    VARIOUS = 0
    BEST = 1
    WARM = 2


ORDERS = (tr("Various first"), tr("Best first"), tr("From warm to cool"))


class PaintCount(IntEnum):
    """Of how many paints."""

    ANY = 0
    TWO = 1
    THREE = 2


COUNTS = (tr("Two or three paints"), tr("Two paints"), tr("Three paints"))


@dataclass(frozen=True)
class PairsAsked:
    """What the mixes must be like.

    Attributes
    ----------
    in_hand : frozenset of folded names, one of which must be in it; None where any will do
    clear, lightfast, single : bool, whether all of its paints must be
    count : PaintCount
    order : PairsOrder
    grain : GrainWish
    limits : Limits, from where on the painter calls a wash so
    """

    in_hand: frozenset[str] | None = None
    clear: bool = False
    lightfast: bool = False
    single: bool = False
    count: PaintCount = PaintCount.ANY
    order: PairsOrder = PairsOrder.VARIOUS
    grain: GrainWish = GrainWish.ANY
    limits: Limits = USUAL


@dataclass(frozen=True)
class Listed:
    """What is on view.

    Attributes
    ----------
    rows : tuple of Idea, and of str for the heads between them
    count : int, ideas in all, before anything is asked
    note : str, what else is to be said; empty where there is nothing
    """

    rows: tuple[Idea | str, ...] = ()
    count: int = 0
    note: str = ""

    @property
    def ideas(self) -> list[Idea]:
        """The ideas on view."""
        return [row for row in self.rows if isinstance(row, Idea)]


def listed_ideas(topic: Topic, ideas: Ideas, labels: Mapping[str, Label], asked: PairsAsked) -> Listed:
    """What stands under a topic.

    Parameters
    ----------
    topic : Topic with kinds
    ideas : Ideas of the box
    labels : from folded name to Label
    asked : PairsAsked
    """
    rows: list[Idea | str] = []
    count, note = 0, ""
    for kind in topic.kinds:
        found = ideas.found.get(kind, [])
        count += len(found)
        kept = [idea for idea in found if _fits(idea, labels, asked)]
        if asked.order == PairsOrder.VARIOUS:
            kept = varied(kept)
        elif asked.order == PairsOrder.WARM:
            kept.sort(key=lambda idea: -float(warmth(idea.lab)))
        telling = ideas.telling.get(kind)
        if len(topic.kinds) > 1 and kept:
            rows.append(HEADS[kind])
        elif telling is not None and any(idea is telling for idea in kept) and len(kept) > _WORTH_A_HEAD:
            rows += [PAINT_FIRST, telling, ALL_OTHERS]
            kept = [idea for idea in kept if idea is not telling]
        rows += kept
    more = sum(ideas.more.get(kind, 0) for kind in topic.kinds)
    if more:
        note = "; " + tr("{n} sets of paints come less near", n=more)
    return Listed(tuple(rows), count, note)


def _fits(idea: Idea, labels: Mapping[str, Label], asked: PairsAsked) -> bool:
    names = [name.casefold() for name in idea.names]
    if asked.in_hand is not None and not asked.in_hand & set(names):
        return False
    if asked.count != PaintCount.ANY and len(names) != (2 if asked.count == PaintCount.TWO else 3):
        return False
    if asked.grain != GrainWish.ANY and (
        idea.settling is None or not settles_so(idea.settling, asked.grain, asked.limits)
    ):
        return False
    known = [labels[name] for name in names if name in labels]
    if asked.clear and not all(label.transparency in CLEAR for label in known):
        return False
    if asked.lightfast and not all(label.lightfastness in KEEPS for label in known):
        return False
    return not asked.single or all(label.single for label in known)


def listed_alike(
    pairs: Sequence[AlikePair], labels: Mapping[str, Label], asked: PairsAsked, lab_of: Mapping[str, Array]
) -> Listed:
    """Paints that are alike, as rows.

    Parameters
    ----------
    pairs : sequence of AlikePair, the nearest first
    labels : from folded name to Label
    asked : PairsAsked
    lab_of : from folded name to the (3,) float of the paint's masstone
    """
    rows = []
    for pair in pairs:
        words = tr(
            "masstone {masstone:.1f}, tint {tint:.1f}, in mixes {mixes:.1f}",
            masstone=pair.masstone,
            tint=pair.tint,
            mixes=pair.mixes,
        )
        rows.append(
            Idea(ALIKE, mix([pair.first, pair.second]), lab_of[pair.first.casefold()], pair.overall, words)
        )
    kept = tuple(idea for idea in rows if _fits(idea, labels, asked))
    return Listed(kept, len(rows))


def idea_title(idea: Idea) -> str:
    """A mix as it stands in the list: its parts and its paints."""
    if idea.kind in (ALIKE, IdeaKind.RANGE):
        return tr("{first} and {second}", first=idea.names[0], second=idea.names[1])
    parts = in_proportion(part.parts for part in idea.recipe.layers[0].parts)
    return f"{parts}  {' + '.join(idea.names)}"


def row_words(idea: Idea) -> str:
    """What is said of a mix in the list; where it goes by how it settles, also by what that is known."""
    if idea.kind == IdeaKind.GREY:
        return tr("{words}; chroma {chroma}", words=idea.words, chroma=decimal(f"{idea.number:.1f}"))
    if idea.kind not in (IdeaKind.PARTING, IdeaKind.GRAINY) or idea.settling is None:
        return idea.words
    if idea.settling.taught:
        return tr("{words}; as pictures showed it", words=idea.words)
    return tr("{words}; by what is said of the paints", words=idea.words)


def spread_words(idea: Idea) -> str:
    """How sure a mix is; empty where that is not told."""
    return "" if isnan(idea.spread) or idea.kind == ALIKE else tr("within {value:.0f}", value=idea.spread)


def count_words(listed: Listed) -> str:
    """How many mixes are on view."""
    shown = len(listed.ideas)
    if shown == listed.count:
        return trn("{n} mix", "{n} mixes", shown) + listed.note
    return tr("{shown} of {count} mixes", shown=shown, count=listed.count) + listed.note


def character_words(character: Character) -> str:
    """What two or three paints can do together, in a sentence."""
    dark, light = character.darkest, character.lightest
    if character.hues >= 10.0:
        hues = character.hues
        words = tr(
            "Together they go from L {dark:.0f} to {light:.0f}, over {hues:.0f}° of hues.",
            dark=dark,
            light=light,
            hues=hues,
        )
    else:
        words = tr(
            "Together they go from L {dark:.0f} to {light:.0f}, all of one hue.", dark=dark, light=light
        )
    return f"{words} {tr('A full wash turns milky.') if character.turns_milky else tr('A full wash stays clear.')}"


def unknown_words(names: Collection[str]) -> str:
    """What is said while a box has fewer than two paints that are known."""
    return (
        tr("Two paints or more are wanted before pairs can be told of.")
        if len(names) < 2
        else tr("Nothing of this box passes here.")
    )
