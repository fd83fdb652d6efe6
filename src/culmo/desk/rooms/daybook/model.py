"""Daybook: which lines are on view, and what each says. Knows no Qt."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from culmo.core.paint.recipe import parse_recipe, spoken_recipe
from culmo.errors import CulmoError
from culmo.study import diary
from culmo.study.diary import DiaryEntry, DiaryPatch
from culmo.study.file import Study
from culmo.study.search import KINDS, MOST_HITS, FoundText, Hit, Index, Query, parse_query, search
from culmo.study.soundness import moment_of
from culmo.words import clock_words, day_words, tr, trn

KIND_WORDS: dict[str, str] = {
    diary.DiaryKind.PLAN: tr("planned"),
    diary.DiaryKind.PAINT: tr("painted"),
    diary.DiaryKind.READ: tr("read"),
    diary.DiaryKind.DECIDE: tr("decided"),
    diary.DiaryKind.NOTE: tr("note"),
    diary.DiaryKind.BOX: tr("box"),
}
HIT_WORDS = {
    "paint": tr("paint"),
    "sheet": tr("sheet"),
    "cell": tr("cell"),
    "reading": tr("reading"),
    "note": tr("note"),
    "palette": tr("palette"),
    "mix": tr("kept mix"),
    "wanted": tr("wanted"),
    "picture": tr("picture"),
}
FILTERS: tuple[tuple[str, tuple[str, ...]], ...] = (
    (tr("Everything"), diary.KINDS),
    (tr("Planned"), (diary.DiaryKind.PLAN,)),
    (tr("Painted"), (diary.DiaryKind.PAINT,)),
    (tr("Read"), (diary.DiaryKind.READ,)),
    (tr("Decided"), (diary.DiaryKind.DECIDE,)),
    (tr("Notes"), (diary.DiaryKind.NOTE,)),
    (tr("Box changes"), (diary.DiaryKind.BOX,)),
)
EARLIER = "earlier"
DAYS = 30  # on view at first; entering the last line doubles them
# kinds of things found -> the filter under which they stand
_FOUND_UNDER = {
    "paint": diary.DiaryKind.BOX,
    "sheet": diary.DiaryKind.PLAN,
    "cell": diary.DiaryKind.PAINT,
    "reading": diary.DiaryKind.READ,
    "note": diary.DiaryKind.NOTE,
    "palette": diary.DiaryKind.DECIDE,
    "mix": diary.DiaryKind.DECIDE,
    "wanted": diary.DiaryKind.DECIDE,
    "picture": diary.DiaryKind.NOTE,
}


@dataclass(frozen=True)
class DayLine:
    """One line on view.

    Attributes
    ----------
    kind : str, "day" for a title, else a kind of entry or of a thing found
    side, word : str, the time or date, and what it is
    text : str
    entry : DiaryEntry, what it is about; None for a title
    date : str, the day, ISO 8601, or empty
    """

    kind: str
    side: str
    word: str
    text: str
    entry: DiaryEntry | None = None
    date: str = ""


@dataclass(frozen=True)
class View:
    """The lines on view, with a word on how many there are.

    Attributes
    ----------
    lines : tuple of DayLine
    summary : str
    empty : str, what to say where there is no line
    """

    lines: tuple[DayLine, ...]
    summary: str = ""
    empty: str = ""


def days_view(study: Study, place: int = 0, sheet_id: int | None = None, most: int = DAYS) -> View:
    """The days under a filter, with a line at the end that leads to the earlier ones.

    Parameters
    ----------
    study : Study
    place : int, in FILTERS
    sheet_id : int of the only sheet, or None
    most : int, how many days at most
    """
    lines: list[DayLine] = []
    found = diary.days(study, FILTERS[place][1], sheet_id, most + 1)
    for day in found[:most]:
        lines.append(DayLine("day", "", "", day_words(day.moment), date=day.date))
        lines += [entry_line(entry) for entry in day.entries]
    if len(found) > most:
        lines.append(
            DayLine(
                EARLIER,
                "",
                "",
                tr("Earlier days…"),
                DiaryEntry(found[most].date, EARLIER, tr("Earlier days…")),
            )
        )
    empty = tr("Nothing has happened yet. What you do is written down here, by date.")
    if place or sheet_id is not None:
        empty = tr("There is nothing of this kind yet.")
    return View(tuple(lines), "", empty)


def entry_line(entry: DiaryEntry) -> DayLine:
    """The line of an entry."""
    return DayLine(
        entry.kind, clock_words(entry.moment), KIND_WORDS[entry.kind], entry.text, entry, entry.at[:10]
    )


def found_view(index: Index, text: str, today: date, place: int = 0) -> View:
    """What a search finds.

    Parameters
    ----------
    index : Index, of the study
    text : str, as typed
    today : date
    place : int, in FILTERS
    """
    query = parse_query(text, today)
    kinds = [kind for kind in KINDS if _FOUND_UNDER[kind] in FILTERS[place][1]]
    found = search(index, query, kinds)
    empty = tr(
        "Nothing in the record fits. Fewer words find more; dates are written as 2026-11-03 or November."
    )
    if query.lab is not None:
        empty = tr("No reading and no wanted colour lies near this one.")
    return View(tuple(hit_line(hit) for hit in found.hits), _summary(found, query), empty)


def _summary(found: FoundText, query: Query) -> str:
    count = len(found.hits) + sum(found.more.values())
    words = trn("{n} thing found", "{n} things found", count)
    if query.lab is not None:
        L, a, b = query.lab
        words = trn(
            "{n} colour within 8 of L* {L:.1f}, a* {a:.1f}, b* {b:.1f}, the nearest first",
            "{n} colours within 8 of L* {L:.1f}, a* {a:.1f}, b* {b:.1f}, the nearest first",
            count, L=L, a=a, b=b,
        )  # fmt: skip
    if found.more:
        words += "; " + tr("the latest {n} of each kind are shown", n=MOST_HITS)
    return words


def hit_line(hit: Hit) -> DayLine:
    """The line of a thing that was found."""
    patches = (DiaryPatch(hit.recipe, hit.lab),) if hit.recipe or hit.lab is not None else ()
    entry = DiaryEntry(
        hit.at or "1970-01-01T00:00:00", hit.kind, _hit_text(hit), hit.sheet_id, hit.cell_id, hit.paint_id, hit.note_id,
        hit.id if hit.kind == "palette" else None, (hit.title,) if hit.kind == "paint" else (), patches,
        (hit.id,) if hit.kind == "picture" else (),
    )  # fmt: skip
    side = short_date(hit.at) if hit.at else ""
    if hit.away is not None:
        side = tr("{away:.1f} away", away=hit.away)
    return DayLine(hit.kind, side, HIT_WORDS[hit.kind], entry.text, entry, hit.at[:10])


def _hit_text(hit: Hit) -> str:
    head = said(hit.recipe) if hit.recipe else hit.title
    rest = [hit.title] if hit.recipe and hit.title else []
    return " · ".join(word for word in (head, *rest, hit.detail.strip()) if word)


def said(recipe: str) -> str:
    """A recipe as a painter says it; as it stands where it can not be read."""
    try:
        return spoken_recipe(parse_recipe(recipe))
    except CulmoError:
        return recipe


def short_date(at: str) -> str:
    """A day without its weekday."""
    return day_words(moment_of(at), weekday=False)


def lab_of(entry: DiaryEntry) -> tuple[float, float, float] | None:
    """The colour of an entry, as read."""
    return next((patch.lab for patch in entry.patches if patch.lab is not None), None)


def facts(study: Study, entry: DiaryEntry) -> Sequence[tuple[str, str]]:
    """What else is to be said of an entry: (word, value)."""
    rows: list[tuple[str, str]] = []
    if entry.sheet_id is not None:
        rows += [(tr("Sheet"), row["title"]) for row in study.rows("sheets", "id = ?", (entry.sheet_id,))]
    if entry.cell_id is not None:
        rows += [(tr("Cell"), row["cell"]) for row in study.rows("cells", "id = ?", (entry.cell_id,))]
    if len(entry.patches) == 1:
        lab = entry.patches[0].lab
        if entry.patches[0].recipe:
            rows.append((tr("Recipe"), said(entry.patches[0].recipe)))
        if lab is not None:
            L, a, b = lab
            word = tr("Wanted") if entry.kind == "wanted" else tr("Read as")
            rows.append((word, tr("{L:.1f}, {a:.1f}, {b:.1f}", L=L, a=a, b=b)))
    return rows
