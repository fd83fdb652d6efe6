"""The table of all paints as text: its columns, what they are sorted by, what may be asked for."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import inf, isnan

from culmo.core.colour.names import hue_word
from culmo.core.paint.doubts import most_serious
from culmo.core.paint.label import (
    DRYING_WORDS,
    GRAIN_WORDS,
    KEEPS,
    LIGHTFASTNESS,
    STAINING_WORDS,
    LabelSource,
)
from culmo.core.paint.pigments import CLEAR, STRENGTHS, TRANSPARENCIES
from culmo.study.paint_rows import PaintRow
from culmo.words import decimal, tr, trn

_SCALES = {
    "transparency": TRANSPARENCIES,
    "staining": tuple(STAINING_WORDS),
    "granulation": tuple(GRAIN_WORDS),
    "lightfastness": LIGHTFASTNESS,
}
_GRAIN_SHORT = {"no": tr("smooth"), "slight": tr("a little"), "medium": tr("medium"), "high": tr("strong")}
_STAIN_SHORT = {"low": tr("hardly"), "medium": tr("a little"), "high": tr("strongly")}
_SHORT = {"staining": _STAIN_SHORT, "granulation": _GRAIN_SHORT, "drying": DRYING_WORDS}
_USUAL_STRENGTH = dict(zip(STRENGTHS, (0.5, 1.0, 2.0, 3.5), strict=True))


@dataclass(frozen=True)
class Column:
    """A column.

    Attributes
    ----------
    key : str, a property of `culmo.core.paint.label.PROPERTIES`, or its own
    title : str
    tip : str, what it tells
    text : function of a row
    rank : function of a row, what it is sorted by; infinite where nothing is known, which comes last either way
    width : int, pixels
    """

    key: str
    title: str
    tip: str
    text: Callable[[PaintRow], str]
    rank: Callable[[PaintRow], float | str]
    width: int = 80
    right: bool = False


def fact_words(row: PaintRow, key: str) -> str:
    """A property in a word; where one's own test and the label part, both."""
    fact = row.label.facts[key]
    own, claimed = (_SHORT.get(key, {}).get(word) or tr(word) for word in (fact.word, fact.claimed))
    if fact.contradicted:
        return tr("{own}; label: {claimed}", own=own, claimed=claimed)
    if key == "strength" and not isnan(fact.number):
        return f"{decimal(f'{fact.number:.1f}')}  {own}"
    return own if fact.word else ""


def _fact(key: str, title: str, tip: str, width: int) -> Column:
    def rank(row: PaintRow) -> float | str:
        fact = row.label.facts[key]
        if key in _SCALES:
            return float(_SCALES[key].index(fact.word)) if fact.word in _SCALES[key] else inf
        if key == "strength" and isnan(fact.number):
            return _USUAL_STRENGTH.get(fact.word, inf)
        return inf if isnan(fact.number) else fact.number

    return Column(key, title, tip, lambda row: fact_words(row, key), rank, width)


def _number(value: float, unit: str = "") -> str:
    return "" if isnan(value) else f"{value:.0f}{unit}"


def _known(value: float) -> float:
    return inf if isnan(value) else value


COLUMNS: tuple[Column, ...] = (
    Column("name", tr("Paint"), tr("its name"), lambda row: row.paint.name, lambda row: row.paint.name.casefold(), 150),
    Column(
        "codes", tr("Pigments"), tr("by the codes on its label"), lambda row: ", ".join(row.label.codes),
        lambda row: (f"{len(row.label.codes)} {row.label.codes[0]}" if row.label.codes else "\uffff"), 96,
    ),
    _fact("transparency", tr("Covers"), tr("how much a full wash covers a black bar"), 118),
    _fact("staining", tr("Stains"), tr("how fast it sits when it is dry"), 84),
    _fact("granulation", tr("Grain"), tr("how much it settles in the hollows of the paper"), 84),
    _fact("lightfastness", tr("Lightfast"), tr("how it keeps: excellent and good are called lightfast"), 92),
    Column(
        "doubts", tr("Doubts"), tr("what its name, its codes and its tests do not agree on"),
        lambda row: most_serious(row.cautions), lambda row: -float(len(row.cautions)), 190,
    ),
    _fact("strength", tr("Strength"), tr("how many parts of a middling paint one part stands against"), 108),
    Column(
        "hue", tr("Hue"), tr("of its most vivid wash, in degrees"),
        lambda row: "" if row.vivid is None else f"{_number(row.hue, '°')}  {hue_word(row.vivid)}",
        lambda row: _known(row.hue), 118,
    ),
    Column(
        "chroma", tr("Chroma"), tr("of its most vivid wash"), lambda row: _number(row.chroma),
        lambda row: _known(row.chroma), 62, True,
    ),
    Column(
        "darkest", tr("Darkest"), tr("L of a full wash"), lambda row: _number(row.darkest),
        lambda row: _known(row.darkest), 64, True,
    ),
    Column(
        "lightest", tr("Lightest"), tr("L of its palest tint"), lambda row: _number(row.lightest),
        lambda row: _known(row.lightest), 66, True,
    ),
    _fact("drying", tr("Drying"), tr("what is seen most when it dries"), 110),
    Column(
        "sheets", tr("Sheets"), tr("on how many it stands"), lambda row: str(row.sheets or ""),
        lambda row: float(row.sheets), 56, True,
    ),
    Column(
        "readings", tr("Readings"), tr("of it alone and in mixes"), lambda row: str(row.readings or ""),
        lambda row: float(row.readings), 70, True,
    ),
)  # fmt: skip


@dataclass(frozen=True)
class Sift:
    """Something that a paint may be asked to be.

    Attributes
    ----------
    words, tip : str
    holds : function of a row
    """

    words: str
    tip: str
    holds: Callable[[PaintRow], bool]


ASKED = (
    Sift(tr("clear"), tr("transparent or semi-transparent"), lambda row: row.label.transparency in CLEAR),
    Sift(tr("lifts"), tr("stains hardly"), lambda row: row.label.staining == "low"),
    Sift(tr("grains"), tr("granulates"), lambda row: row.label.granulation in ("medium", "high")),
    Sift(tr("lightfast"), tr("excellent or good"), lambda row: row.label.lightfastness in KEEPS),
    Sift(tr("one pigment"), tr("a single pigment on its label"), lambda row: row.label.single),
    Sift(tr("not read"), tr("nothing of it alone was read yet"), lambda row: not row.read),
    Sift(tr("doubtful"), tr("something is to be doubted"), lambda row: bool(row.cautions)),
)


def shown(
    rows: Sequence[PaintRow], asked: Sequence[Sift], text: str, by: Column | None, falling: bool
) -> list[PaintRow]:
    """The rows that are asked for, in the order that is asked for; what is not known comes last.

    Parameters
    ----------
    rows : sequence of PaintRow, in the order of the box
    asked : sequence of Sift, all of which must hold
    text : str, words that must stand somewhere in the row
    by : Column, or None for the order of the box
    falling : bool, the largest first
    """
    words = text.casefold().split()
    found = [row for row in rows if all(one.holds(row) for one in asked) and _says(row, words)]
    if by is None:
        return found
    known = [row for row in found if by.rank(row) not in (inf, "\uffff")]
    unknown = [row for row in found if by.rank(row) in (inf, "\uffff")]
    return [*sorted(known, key=by.rank, reverse=falling), *unknown]


def _says(row: PaintRow, words: Sequence[str]) -> bool:
    if not words:
        return True
    cells = [column.text(row) for column in COLUMNS if column.key != "doubts"]
    told = " ".join([*cells, *(caution.words for caution in row.cautions)]).casefold()
    return all(word in told for word in words)


def basis_words(row: PaintRow, key: str) -> str:
    """Where a property is known from; empty for columns that are no property."""
    fact = row.label.facts.get(key)
    return "" if fact is None or fact.source is LabelSource.UNKNOWN else fact.basis


def count_words(shown_count: int, count: int) -> str:
    """How many are shown."""
    if shown_count == count:
        return trn("{n} paint", "{n} paints", count)
    return tr("{shown} of {count} paints", shown=shown_count, count=count)
