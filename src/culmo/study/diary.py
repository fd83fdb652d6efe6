"""The Daybook: what was done, seen and decided, day by day, each with what can be drawn of it."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from enum import StrEnum
from itertools import groupby

from culmo.study.file import Row, Study
from culmo.study.records import spoken_cell
from culmo.study.soundness import moment_of
from culmo.words import tr, trn

Lab = tuple[float, float, float]


class DiaryKind(StrEnum):
    """What an entry tells of."""

    PLAN = "plan"
    PAINT = "paint"
    READ = "read"
    DECIDE = "decide"
    NOTE = "note"
    BOX = "box"


KINDS = tuple(DiaryKind)
# kind of event in the file -> kind of entry
_KIND_OF = {
    "paint": DiaryKind.BOX,
    "box": DiaryKind.BOX,
    "sheet": DiaryKind.PLAN,
    "run": DiaryKind.PAINT,
    "reading": DiaryKind.READ,
    "verdict": DiaryKind.DECIDE,
    "wanted": DiaryKind.DECIDE,
    "note": DiaryKind.NOTE,
}
_ALIKE = 3  # more entries of one kind in a row than this are drawn together
MOST_PATCHES = 24


@dataclass(frozen=True)
class DiaryPatch:
    """A small patch of an entry.

    Attributes
    ----------
    recipe : str
    lab : (L, a, b) as read, or None where it can only be predicted
    ground : str
    """

    recipe: str
    lab: Lab | None = None
    ground: str = "paper"


@dataclass(frozen=True)
class DiaryEntry:
    """One thing that happened.

    Attributes
    ----------
    at : str, ISO 8601
    kind : str, one of KINDS
    text : str
    sheet_id, cell_id, paint_id, note_id, palette_id : int or None, where it is at home
    strokes : tuple of str, paints of which the stroke is shown
    patches : tuple of DiaryPatch
    photos : tuple of int, pictures that belong to it
    count : int, how many acts it draws together
    """

    at: str
    kind: str
    text: str
    sheet_id: int | None = None
    cell_id: int | None = None
    paint_id: int | None = None
    note_id: int | None = None
    palette_id: int | None = None
    strokes: tuple[str, ...] = ()
    patches: tuple[DiaryPatch, ...] = ()
    photos: tuple[int, ...] = ()
    count: int = 1

    @property
    def moment(self) -> datetime:
        """When it was."""
        return moment_of(self.at)


@dataclass(frozen=True)
class Day:
    """A day with its entries, in the order of doing.

    Attributes
    ----------
    date : str, ISO 8601
    entries : tuple of DiaryEntry
    """

    date: str
    entries: tuple[DiaryEntry, ...]

    @property
    def moment(self) -> datetime:
        """Its midnight."""
        return datetime.fromisoformat(self.date)


@dataclass
class _Known:
    """What entries point to, read once."""

    paints: dict[int, str] = field(default_factory=dict)
    cells: dict[int, Row] = field(default_factory=dict)
    titles: dict[int, str] = field(default_factory=dict)
    labs: dict[int, Lab] = field(default_factory=dict)
    palettes: dict[str, Row] = field(default_factory=dict)
    mixes: dict[str, Row] = field(default_factory=dict)
    photos: dict[int, list[int]] = field(default_factory=dict)


def days(
    study: Study, kinds: Sequence[str] = KINDS, sheet_id: int | None = None, most: int | None = None
) -> list[Day]:
    """The days on which something happened, the latest first.

    Parameters
    ----------
    study : Study
    kinds : which kinds of entries
    sheet_id : int of the only sheet to tell of, or None for all
    most : int, how many days at most, or None for all
    """
    since = _since(study, sheet_id, most) if most is not None else ""
    rows = study.rows(
        "events", "at >= ? AND (? IS NULL OR sheet_id = ?)", (since, sheet_id, sheet_id), "at, id"
    )
    rows = [row for row in rows if _KIND_OF.get(row["kind"], DiaryKind.NOTE) in kinds]
    runs = [run for _, day in groupby(rows, key=lambda row: row["at"][:10]) for run in _runs(day)]
    # of ten thousand readings few are shown each by itself; only of those is looked up what they point to
    known = _known(study, [row for run in runs for row in _shown(run)])
    entries = [entry for run in runs for entry in _entries(run, known)]
    if DiaryKind.PAINT in kinds:
        entries = sorted([*entries, *_painted(study, sheet_id, since)], key=lambda entry: entry.at)
    result = [Day(date, tuple(day)) for date, day in groupby(entries, key=lambda entry: entry.at[:10])]
    return result[::-1]


def _known(study: Study, rows: Sequence[Row]) -> _Known:
    known = _Known({row["id"]: row["name"] for row in study.select("SELECT id, name FROM paints")})
    own = ",".join(str(cell_id) for cell_id in {row["cell_id"] for row in rows} if cell_id is not None)
    if own:
        cells = study.select(f"SELECT id, recipe, ground FROM cells WHERE id IN ({own})")
        known.cells = {row["id"]: row for row in cells}
        read = study.select(
            f"SELECT cell_id, L, a, b FROM readings WHERE trust <> 'wet' AND cell_id IN ({own}) ORDER BY id"
        )
        known.labs = {row["cell_id"]: (row["L"], row["a"], row["b"]) for row in read}
    known.titles = {row["id"]: row["title"] for row in study.select("SELECT id, title FROM sheets")}
    known.palettes = {row["created"]: row for row in study.rows("palettes")}
    known.mixes = {row["created"]: row for row in study.rows("mixes")}
    for row in study.select("SELECT id, note_id FROM photos WHERE note_id NOT NULL ORDER BY id"):
        known.photos.setdefault(row["note_id"], []).append(row["id"])
    return known


def _entry(row: Row, known: _Known) -> DiaryEntry:
    cell = known.cells.get(row["cell_id"])
    palette = known.palettes.get(row["at"]) if row["kind"] == "verdict" else None
    strokes: tuple[str, ...] = ()
    if palette is not None:
        strokes = tuple(palette["paints"].splitlines())
    elif row["paint_id"] in known.paints:
        strokes = (known.paints[row["paint_id"]],)
    patches: tuple[DiaryPatch, ...] = ()
    if cell is not None:
        patches = (DiaryPatch(cell["recipe"], known.labs.get(cell["id"]), cell["ground"]),)
    elif row["kind"] == "verdict" and row["at"] in known.mixes:
        patches = (DiaryPatch(known.mixes[row["at"]]["recipe"], None, "paper"),)
    return DiaryEntry(
        row["at"], _KIND_OF.get(row["kind"], DiaryKind.NOTE), row["text"], row["sheet_id"], row["cell_id"], row["paint_id"],
        row["note_id"], palette["id"] if palette else None, strokes, patches,
        tuple(known.photos.get(row["note_id"], ())),
    )  # fmt: skip


def _since(study: Study, sheet_id: int | None, most: int) -> str:
    """The first of the latest days on which anything happened; empty where there are no more than so many."""
    found = study.select(
        """SELECT day FROM (SELECT DISTINCT SUBSTR(at, 1, 10) AS day FROM events
            WHERE :sheet IS NULL OR sheet_id = :sheet) ORDER BY day DESC LIMIT 1 OFFSET :place""",
        {"sheet": sheet_id, "place": most - 1},
    )
    return str(found[0]["day"]) if found else ""


def _painted(study: Study, sheet_id: int | None, since: str) -> list[DiaryEntry]:
    """What was painted of each sheet on each day: how many washes, from when to when, with which marks."""
    rows = study.select(
        """SELECT c.sheet_id, s.title, SUBSTR(k.at, 1, 10) AS day, COUNT(*) AS washes, MIN(k.at) AS first,
            MAX(k.at) AS last, GROUP_CONCAT(k.marks, ' ') AS marks FROM strokes k JOIN cells c ON c.id = k.cell_id
            JOIN sheets s ON s.id = c.sheet_id
            WHERE k.act <> 'skip' AND k.at >= :since AND (:sheet IS NULL OR c.sheet_id = :sheet)
            GROUP BY c.sheet_id, day""",
        {"sheet": sheet_id, "since": since},
    )
    entries = []
    for row in rows:
        text = trn("{n} wash of {title}", "{n} washes of {title}", row["washes"], title=row["title"])
        if row["first"] != row["last"]:
            text = tr(
                "{what}, {begin} to {end}", what=text, begin=row["first"][11:16], end=row["last"][11:16]
            )
        marks = (row["marks"] or "").split()
        counts = [f"{marks.count(mark)} × {tr(mark)}" for mark in dict.fromkeys(marks)]
        entries.append(
            DiaryEntry(
                row["last"], DiaryKind.PAINT, "; ".join([text, *counts]), row["sheet_id"], count=row["washes"]
            )
        )
    return entries


def _runs(rows: Iterable[Row]) -> Iterator[list[Row]]:
    """A day's rows, those of one kind and one sheet that follow each other in one piece."""
    for (kind, _), group in groupby(
        rows, key=lambda row: (_KIND_OF.get(row["kind"], DiaryKind.NOTE), row["sheet_id"])
    ):
        run = list(group)
        if kind in (DiaryKind.READ, DiaryKind.BOX) and len(run) > _ALIKE:
            yield run
        else:
            yield from ([row] for row in run)


def _shown(run: list[Row]) -> list[Row]:
    """Those rows of a run of which something is shown: the first, and the last, which is named."""
    celled = [row for row in run if row["cell_id"] is not None]
    celled = celled[:MOST_PATCHES] + celled[MOST_PATCHES:][-1:]
    return [*celled, *(row for row in run if row["cell_id"] is None)]


def _entries(run: list[Row], known: _Known) -> list[DiaryEntry]:
    """Many readings, or many changes to the box, in a row become one entry that says how many."""
    if len(run) == 1:
        return [_entry(run[0], known)]
    first, shown = _entry(run[0], known), [_entry(row, known) for row in _shown(run)]
    read = first.kind == DiaryKind.READ
    what = trn("{n} reading", "{n} readings", len(run)) if read else tr("{n} changes to the box", n=len(run))
    words = f"{what}: {run[0]['text']}; … {run[-1]['text']}"
    title, cells = (
        known.titles.get(run[0]["sheet_id"]),
        [known.cells.get(row["cell_id"]) for row in (run[0], run[-1])],
    )
    if read and title is not None and cells[0] is not None and cells[1] is not None:
        what = trn("{n} reading of {title}", "{n} readings of {title}", len(run), title=title)
        words = f"{what}: {spoken_cell(cells[0])} … {spoken_cell(cells[1])}"
    return [
        replace(
            first, text=words, cell_id=None, paint_id=None, count=len(run),
            strokes=tuple(dict.fromkeys(name for entry in shown for name in entry.strokes))[:MOST_PATCHES],
            patches=tuple(patch for entry in shown for patch in entry.patches)[:MOST_PATCHES],
        )
    ]  # fmt: skip
