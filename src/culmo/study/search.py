"""Search over the whole record: paints, pigments, words, marks, dates, and colours near one."""

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta

import numpy as np

from culmo.core.chart.kinds import KINDS as SHEET_KINDS
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import lab_from_text
from culmo.core.paint.claims import Asked, asked_for
from culmo.core.paint.label import Label
from culmo.core.paint.pigments import codes_in
from culmo.errors import CulmoError
from culmo.study.file import Row, Study
from culmo.study.paint_acts import HOW_WORDS, MARKS
from culmo.study.records import SOURCE_WORDS
from culmo.words import months, tr

Lab = tuple[float, float, float]
MOST_HITS = 300  # of each kind; what lies beyond is counted
NEAR = 8.0  # CIEDE2000, how far a colour may lie from the one that is sought
_MOST_WORDS = 12

# each gives: id, text (what words are looked for in), at, title, recipe, L, a, b, sheet_id, cell_id, paint_id, note_id,
# detail; and some give keys, with commas between: words of the program's own that stand for what the painter noted
_SOURCES = {
    "paint": """SELECT id, name || ' ' || codes || ' ' || note || ' ' || status AS text, created AS at,
        name AS title, '' AS recipe, NULL AS L, NULL AS a, NULL AS b, NULL AS sheet_id, NULL AS cell_id,
        id AS paint_id, NULL AS note_id,
        codes || CASE WHEN codes <> '' AND note <> '' THEN '; ' ELSE '' END || note AS detail FROM paints""",
    "sheet": """SELECT id, title || ' ' || kind || ' ' || CASE WHEN json_valid(layout)
        THEN COALESCE(json_extract(layout, '$.settings.paints'), '') ELSE '' END AS text, created AS at, title,
        '' AS recipe, NULL AS L, NULL AS a, NULL AS b, id AS sheet_id, NULL AS cell_id, NULL AS paint_id,
        NULL AS note_id, '' AS detail, kind AS keys FROM sheets""",
    "cell": """SELECT c.id, c.recipe || ' ' || c.treatment || ' ' || c.mixing || ' ' || c.cell || ' ' || s.title AS text,
        COALESCE(k.at, s.created) AS at,
        s.title AS title, c.recipe AS recipe, r.L, r.a, r.b, c.sheet_id, c.id AS cell_id,
        NULL AS paint_id, NULL AS note_id, TRIM(COALESCE(k.notes, '') ||
        CASE WHEN INSTR(COALESCE(k.notes, ''), c.note) THEN '' ELSE ' ' || c.note END) AS detail,
        CASE WHEN c.keeper THEN 'keeper,' ELSE '' END || COALESCE(k.marks, '') AS keys
        FROM cells c JOIN sheets s ON s.id = c.sheet_id
        LEFT JOIN (SELECT cell_id, MAX(at) AS at, GROUP_CONCAT(note, ' ') AS notes,
            GROUP_CONCAT(REPLACE(marks, ' ', ',') || ',' || CASE how WHEN 'tray' THEN '' ELSE how END) AS marks
            FROM strokes WHERE marks <> '' OR note <> '' OR how <> 'tray' GROUP BY cell_id) k ON k.cell_id = c.id
        LEFT JOIN readings r ON r.id = (SELECT MAX(id) FROM readings WHERE cell_id = c.id AND trust <> 'wet')
        WHERE c.keeper = 1 OR c.note <> '' OR k.cell_id NOT NULL""",
    "reading": """SELECT r.id, r.recipe || ' ' || r.ground || ' ' || r.note || ' ' || r.paper || ' ' ||
        r.treatment || ' ' || COALESCE(s.title, '') || ' ' || COALESCE(c.cell, '') AS text,
        r.taken AS at, COALESCE(s.title, '') AS title, r.recipe AS recipe, r.L, r.a, r.b, r.sheet_id, r.cell_id,
        NULL AS paint_id, NULL AS note_id,
        COALESCE(c.cell, '') AS detail, r.source || CASE r.trust WHEN 'good' THEN '' ELSE ',' || r.trust END ||
        CASE r.ground WHEN 'ink' THEN ',over ink' ELSE '' END AS keys FROM readings r
        LEFT JOIN sheets s ON s.id = r.sheet_id LEFT JOIN cells c ON c.id = r.cell_id""",
    "note": """SELECT n.id, n.text || ' ' || COALESCE((SELECT GROUP_CONCAT(p.name || ' ' || p.note, ' ') FROM photos p
        WHERE p.note_id = n.id), '') AS text, n.created AS at, n.text AS title, '' AS recipe, NULL AS L, NULL AS a,
        NULL AS b, n.sheet_id, NULL AS cell_id, n.paint_id, n.id AS note_id, '' AS detail FROM notes n""",
    "palette": """SELECT id, name || ' ' || paints || ' ' || purpose || ' ' || reason AS text, created AS at,
        name AS title, '' AS recipe, NULL AS L, NULL AS a, NULL AS b, NULL AS sheet_id, NULL AS cell_id,
        NULL AS paint_id, NULL AS note_id, reason AS detail FROM palettes""",
    "mix": """SELECT id, recipe || ' ' || note AS text, created AS at, '' AS title, recipe, NULL AS L, NULL AS a, NULL AS b,
        NULL AS sheet_id, NULL AS cell_id, NULL AS paint_id, NULL AS note_id, note AS detail, 'keeper' AS keys FROM mixes""",
    "wanted": """SELECT id, list || ' ' || name AS text, '' AS at, name AS title, '' AS recipe, L, a, b,
        NULL AS sheet_id, NULL AS cell_id, NULL AS paint_id, NULL AS note_id, list AS detail FROM targets""",
    "picture": """SELECT p.id, p.name || ' ' || p.note || ' ' || COALESCE(s.title, '') AS text,
        COALESCE(p.taken, p.created) AS at, p.name AS title, '' AS recipe, NULL AS L, NULL AS a, NULL AS b, p.sheet_id,
        NULL AS cell_id, NULL AS paint_id, p.note_id, COALESCE(s.title, '') AS detail
        FROM photos p LEFT JOIN sheets s ON s.id = p.sheet_id""",
}
KINDS = tuple(_SOURCES)
# from a table to the kinds whose text or colours come from it
_KINDS_OF = {
    "paints": ("paint",), "sheets": ("sheet", "cell", "reading", "picture"), "cells": ("cell", "reading"),
    "strokes": ("cell",), "readings": ("reading", "cell"), "notes": ("note",), "photos": ("note", "picture"),
    "palettes": ("palette",), "targets": ("wanted",),
    "mixes": ("mix",),
}  # fmt: skip
# the keys as they are said; sought are both the key and the word
_KEY_WORDS = {
    **SOURCE_WORDS, "wet": tr("still wet"), "doubtful": tr("doubtful"), "excluded": tr("put aside"),
    "over ink": tr("over ink"), "well map": tr("well map"), "patch": tr("patch"), "wheel cover": tr("wheel cover"),
    **{key: tr(key) for key in MARKS}, **HOW_WORDS, **{kind.key: kind.title for kind in SHEET_KINDS},
}  # fmt: skip
_NUMBER = r"-?\d+(?:\.\d+)?"
_THREE = re.compile(rf"(?<![\w.-]){_NUMBER}(?:\s*[,;]\s*{_NUMBER}){{2}}(?![\w.-])")


@dataclass(frozen=True)
class Query:
    """What is sought.

    Attributes
    ----------
    words : tuple of str, folded; all of them must be found
    asked : tuple of Asked, properties of paints: what is known of a paint answers to them, and what is said elsewhere
    days : tuple of str, beginnings of ISO dates; one of them must fit
    lab : (L, a, b) of the colour that is sought, or None
    """

    words: tuple[str, ...] = ()
    days: tuple[str, ...] = ()
    lab: Lab | None = None
    asked: tuple[Asked, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.words or self.days or self.lab or self.asked)


@dataclass(frozen=True)
class Hit:
    """One thing that was found.

    Attributes
    ----------
    kind : str, one of KINDS
    id : int, of its row
    title, detail : str
    at : str, ISO 8601, or empty
    recipe : str, or empty
    lab : (L, a, b) or None
    away : float or None, CIEDE2000 from the colour that is sought
    sheet_id, cell_id, paint_id, note_id : int or None, where it is at home
    """

    kind: str
    id: int
    title: str
    detail: str
    at: str
    recipe: str = ""
    lab: Lab | None = None
    away: float | None = None
    sheet_id: int | None = None
    cell_id: int | None = None
    paint_id: int | None = None
    note_id: int | None = None


@dataclass(frozen=True)
class FoundText:
    """What a search gives.

    Attributes
    ----------
    hits : tuple of Hit, the latest first; the nearest first where a colour is sought
    more : dict from kind to how many lie beyond MOST_HITS
    """

    hits: tuple[Hit, ...] = ()
    more: dict[str, int] = field(default_factory=dict)


def parse_query(text: str, today: date) -> Query:
    """What a typed text seeks.

    Parameters
    ----------
    text : str; "#5a6b4c" or "L, a, b" is a colour, "2026-11", "3.11.2026", "November" or "today" a date, the rest words;
        words in double quotes stand together
    today : date

    Examples
    --------
    >>> query = parse_query('granulates moss "blue black" 2026-10', date(2026, 11, 3))
    >>> query.words, [one.key for one in query.asked]
    (('blue black', 'moss'), ['granulation'])
    """
    quoted = [part.casefold() for part in re.findall(r'"([^"]+)"', text)]
    rest = re.sub(r'"[^"]*"?', " ", text)
    lab: Lab | None = None
    numbers = _THREE.search(rest)
    if numbers:
        lab = _colour(numbers[0])
        rest = rest.replace(numbers[0], " ") if lab else rest
    asked, rest = asked_for(rest)
    words, days = [], []
    for word in rest.split():
        if word.startswith("#") and _colour(word) is not None:
            lab = _colour(word)
        elif found := _days(word.strip(",.;"), today):
            days += found
        else:
            words.append(word.casefold())
    return Query(tuple([*quoted, *words][:_MOST_WORDS]), tuple(days), lab, tuple(asked))


def _colour(text: str) -> Lab | None:
    try:
        L, a, b = (float(value) for value in lab_from_text(text))
    except CulmoError:
        return None
    return L, a, b


def _days(word: str, today: date) -> list[str]:
    """The beginnings of the dates that a word means; empty where it is no date."""
    if re.fullmatch(r"(?:19|20)\d\d(?:-\d\d){0,2}", word):
        return [word]
    if match := re.fullmatch(r"(\d{1,2})\.(\d{1,2})\.((?:19|20)\d\d)", word):
        return [f"{match[3]}-{int(match[2]):02d}-{int(match[1]):02d}"]
    folded = word.casefold()
    for name, back in ((tr("today"), 0), (tr("yesterday"), 1)):
        if folded == name.casefold():
            return [(today - timedelta(days=back)).isoformat()]
    if len(folded) < 3:
        return []
    # a month without a year is that of any year; one is spelled whole, or so far that it is no usual word
    return [
        f"____-{number:02d}"
        for number, name in enumerate(months(), 1)
        if name.casefold() == folded and folded != "may"
    ]


class Index:
    """What a study holds to be searched, read once and kept while it stands.

    Parameters
    ----------
    study : Study
    labels : function that gives what is known of each paint, by its folded name; without it only what is written is searched
    """

    def __init__(self, study: Study, labels: Callable[[], Mapping[str, Label]] | None = None) -> None:
        self.study = study
        self.labels: Callable[[], Mapping[str, Label]] = labels or dict
        self._rows: dict[str, list[Row]] = {}
        self._labs: dict[str, tuple[list[int], Array]] = {}

    def rows(self, kind: str) -> list[Row]:
        """All things of a kind, the latest first; their `text` and `recipe` are folded for comparing."""
        if kind not in self._rows:
            rows = self.study.select(f"{_SOURCES[kind]} ORDER BY at DESC, 1 DESC")
            for row in rows:
                _say_keys(row)
                row["text"] = row["text"].casefold()
                row["folded"] = row["recipe"].casefold()
            self._rows[kind] = rows
        return self._rows[kind]

    def labs(self, kind: str) -> tuple[list[int], Array]:
        """The places in `rows` of those that have a colour, with (n, 3) CIELAB."""
        if kind not in self._labs:
            rows = self.rows(kind)
            # a cell's colour is found as its reading
            places = [place for place, row in enumerate(rows) if row["L"] is not None and kind != "cell"]
            lab = np.array([(rows[i]["L"], rows[i]["a"], rows[i]["b"]) for i in places], dtype=float)
            self._labs[kind] = places, lab.reshape(-1, 3)
        return self._labs[kind]

    def forget(self, tables: Iterable[str]) -> None:
        """Rows of these tables were changed."""
        for table in tables:
            for kind in _KINDS_OF.get(table, ()):
                self._rows.pop(kind, None)
                self._labs.pop(kind, None)

    def warm(self) -> bool:
        """Read one kind that is not read yet; says whether more are left."""
        cold = [kind for kind in KINDS if kind not in self._labs]
        if cold:
            self.labs(cold[0])
        return len(cold) > 1


def search(index: Index, query: Query, kinds: Sequence[str] = KINDS) -> FoundText:
    """Look for something in all of the record.

    Parameters
    ----------
    index : Index
    query : Query; an empty one finds nothing
    kinds : which kinds of things
    """
    if not query:
        return FoundText()
    hits: list[Hit] = []
    more: dict[str, int] = {}
    fits = _test(query, _bearers(index.study, query.words), index.labels() if query.asked else {})
    for kind in kinds:
        found: list[tuple[Row, float | None]]
        if query.lab is None:
            found = [(row, None) for row in index.rows(kind) if fits(row)]
        else:
            found = [(row, away) for row, away in _near(index, kind, query.lab) if fits(row)]
        if len(found) > MOST_HITS:
            more[kind] = len(found) - MOST_HITS
        hits += [_hit(kind, row, away) for row, away in found[:MOST_HITS]]
    if query.lab is not None:
        hits.sort(key=lambda hit: (hit.away, hit.id))
    else:
        hits.sort(key=lambda hit: hit.at, reverse=True)
    return FoundText(tuple(hits), more)


def _near(index: Index, kind: str, lab: Lab) -> list[tuple[Row, float]]:
    """Those within NEAR of a colour with how far, the nearest first."""
    places, labs = index.labs(kind)
    if not places:
        return []
    away = delta_e_00(labs, np.array(lab))
    rows = index.rows(kind)
    order = np.argsort(away, kind="stable")
    return [(rows[places[i]], float(away[i])) for i in order if away[i] <= NEAR]


def _test(query: Query, bearing: dict[str, str], labels: Mapping[str, Label]) -> Callable[[Row], bool]:
    """Whether a thing answers to all words and properties and to one of the dates."""
    patterns = {word: re.compile(pattern).search for word, pattern in bearing.items()}
    days = [re.compile(day.replace("____", r"\d{4}")).match for day in query.days]

    def fits(row: Row) -> bool:
        text = row["text"]
        for word in query.words:
            if word not in text and (word not in patterns or not patterns[word](row["folded"])):
                return False
        if not all(_answers(row, one, labels) for one in query.asked):
            return False
        return not days or any(day(row["at"]) for day in days)

    return fits


def _answers(row: Row, asked: Asked, labels: Mapping[str, Label]) -> bool:
    """Whether a thing has a property that is asked for: a paint by what is known of it, or its name; all else by words."""
    name = row["title"].casefold()
    if row["paint_id"] is None or name not in labels:
        return asked.said_in(row["text"])
    word = labels[name].facts[asked.key].word
    return word in asked.values or asked.phrase in name or (not word and asked.said_in(row["text"]))


def _bearers(study: Study, words: Sequence[str]) -> dict[str, str]:
    """From a word that is a pigment's code to a pattern for recipes that hold a paint with it."""
    codes = {word: codes_in(word) for word in words}
    if not any(codes.values()):
        return {}
    paints = [(row["name"].casefold(), set(codes_in(row["codes"]))) for row in study.rows("paints")]
    patterns = {}
    for word, wanted in codes.items():
        names = [re.escape(name) for name, own in paints if own & set(wanted)]
        if names:  # a name stands in a recipe between signs or the ends, not as a part of another name
            patterns[word] = rf'(?:^|\+ | over |")(?:{"|".join(names)})(?:$|"|:| [@+]| over )'
    return patterns


def _say_keys(row: Row) -> None:
    """The keys of a thing among the words it is found by, and as they are said where it is shown."""
    keys = list(dict.fromkeys(filter(None, str(row.pop("keys", "")).split(","))))
    if keys:
        said = [_KEY_WORDS.get(key, key) for key in keys]
        row["text"] = " ".join([row["text"], row["detail"], *keys, *said])
        row["detail"] = ", ".join(filter(None, [*said, row["detail"]]))
    elif row["detail"] not in row["text"]:
        row["text"] = f"{row['text']} {row['detail']}"


def _hit(kind: str, row: Row, away: float | None) -> Hit:
    lab = None if row["L"] is None else (row["L"], row["a"], row["b"])
    return Hit(
        kind, row["id"], row["title"], row["detail"], row["at"], row["recipe"], lab, away,
        row["sheet_id"], row["cell_id"], row["paint_id"], row["note_id"],
    )  # fmt: skip
