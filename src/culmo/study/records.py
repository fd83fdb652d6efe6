"""The study's rows as values."""

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from culmo.core.chart.sheet import Cell, Sheet, sheet_from_dict, sheet_to_dict
from culmo.core.paint.readings import MixedHow, Reading
from culmo.core.paint.recipe import Recipe, format_recipe, parse_recipe, spoken_recipe
from culmo.errors import CulmoError
from culmo.study.file import Row, Study
from culmo.study.row_reading import reading_of
from culmo.study.seen import PRACTICE
from culmo.study.soundness import moment_of
from culmo.words import day_words, tr


@dataclass(frozen=True)
class Paint:
    """A paint that is owned, sampled or wished for."""

    id: int
    name: str
    codes: str
    status: str
    retired: bool
    grain: float | None
    note: str
    label: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class CellRecord:
    """A cell of a sheet with its marks.

    Attributes
    ----------
    id : int, the row's
    cell : Cell
    keeper : bool
    note : str
    of_cell : int or None, the row of the cell of an earlier version whose record it has
    """

    id: int
    cell: Cell
    keeper: bool
    note: str
    of_cell: int | None = None


@dataclass(frozen=True)
class SheetRecord:
    """A sheet as kept in the study."""

    id: int
    sheet: Sheet
    cells: tuple[CellRecord, ...]
    created: str

    def by_cell(self) -> dict[str, CellRecord]:
        """The records by their cell's id on the sheet."""
        return {record.cell.id: record for record in self.cells}


def paint_of(row: Row) -> Paint:
    """A paint from its row."""
    return Paint(
        row["id"],
        row["name"],
        row["codes"],
        row["status"],
        bool(row["retired"]),
        row["grain"],
        row["note"],
        {key: str(value) for key, value in json_of(row, "label").items()},
    )


def paints(study: Study, retired: bool = False) -> list[Paint]:
    """The paints in the order of the rail."""
    return [
        paint_of(row) for row in study.rows("paints", "" if retired else "retired = 0", order="position, id")
    ]


def paint_numbers(study: Study) -> dict[str, int]:
    """The painter's own number of each paint by its folded name: as they came in, and the same for good."""
    rows = study.select("SELECT name FROM paints ORDER BY id")
    return {row["name"].casefold(): place for place, row in enumerate(rows, 1)}


def cell_row(row_id: int, sheet_id: int, place: int, cell: Cell, of_cell: int | None = None) -> Row:
    """A cell as a row."""
    return {
        "id": row_id,
        "sheet_id": sheet_id,
        "cell": cell.id,
        "place": place,
        "recipe": format_recipe(cell.recipe),
        "ground": cell.ground,
        "outline_mm": json.dumps(cell.outline_mm),
        "fade_mm": json.dumps(cell.fade_mm) if cell.fade_mm else None,
        "work_order": cell.order,
        "at_minute": cell.at_minute,
        "keeper": 0,
        "note": "",
        "treatment": cell.treatment,
        "meets": json.dumps(cell.meets),
        "half_of": cell.half_of,
        "stage": cell.stage,
        "mixing": cell.mixing,
        "shape": cell.shape,
        "of_cell": of_cell,
    }


def layout_text(sheet: Sheet) -> str:
    """All of a sheet but its cells, as JSON."""
    data = sheet_to_dict(sheet)
    data["cells"] = []
    return json.dumps(data)


def sheet_record(study: Study, sheet_id: int) -> SheetRecord:
    """A sheet with its cells."""
    row = study.row("sheets", sheet_id)
    data = parsed(row, "layout")
    if not isinstance(data, dict):
        raise CulmoError(tr("the sheet is damaged: its layout can not be read"))
    records = []
    for entry in study.rows("cells", "sheet_id = ?", (sheet_id,), "place"):
        data["cells"].append(
            {
                "id": entry["cell"],
                "outline_mm": parsed(entry, "outline_mm"),
                "recipe": entry["recipe"],
                "ground": entry["ground"],
                "fade_mm": parsed(entry, "fade_mm") if entry["fade_mm"] else None,
                "order": entry["work_order"],
                "at_minute": entry["at_minute"],
                "treatment": entry["treatment"],
                "meets": parsed(entry, "meets"),
                "half_of": entry["half_of"],
                "stage": entry["stage"],
                "mixing": entry["mixing"],
                "shape": entry["shape"],
            }
        )
        records.append((entry["id"], bool(entry["keeper"]), entry["note"], entry["of_cell"]))
    sheet = sheet_from_dict(data)
    earlier = _earlier_words(study, sheet_id) if any(of_cell for *_, of_cell in records) else {}
    cells = tuple(
        CellRecord(
            row_id,
            cell,
            keeper or any(row["keeper"] for row in earlier.get(row_id, ())),
            note or next((row["note"] for row in earlier.get(row_id, ()) if row["note"]), ""),
            of_cell,
        )
        for (row_id, keeper, note, of_cell), cell in zip(records, sheet.cells, strict=True)
    )
    return SheetRecord(sheet_id, sheet, cells, row["created"])


# from a cell to those of earlier versions of its sheet whose record it has, itself among them; a damaged file may go round
_LINE = """line(own, cell, back) AS (SELECT id, id, 0 FROM cells WHERE {which}
    UNION SELECT line.own, c.of_cell, back + 1 FROM line JOIN cells c ON c.id = line.cell
    WHERE c.of_cell NOT NULL AND back < 100)"""


def line_of(which: str) -> str:
    """What begins a query that asks for `line`: `own`, a cell, with `cell`, itself or one of earlier versions of its sheet.

    Parameters
    ----------
    which : str, the condition for the cells that are asked for
    """
    return "WITH RECURSIVE " + _LINE.format(which=which) + " "


def earlier_cells(study: Study, sheet_id: int) -> dict[int, int]:
    """From the rows of a sheet's cells, and of those in earlier versions of it, to the row on this sheet."""
    rows = study.select(line_of("sheet_id = ?") + "SELECT own, cell FROM line", (sheet_id,))
    return {row["cell"]: row["own"] for row in rows}


def holder_of(study: Study, cell_id: int, column: str) -> Row:
    """The row in which a cell's mark or note stands: its own, or that of an earlier version that has one.

    Parameters
    ----------
    study : Study
    cell_id : int
    column : str, "keeper" or "note"
    """
    rows = study.select(
        line_of("id = ?") + "SELECT cells.* FROM line JOIN cells ON cells.id = line.cell ORDER BY back",
        (cell_id,),
    )
    return next((row for row in rows if row[column]), study.row("cells", cell_id))


def _earlier_words(study: Study, sheet_id: int) -> dict[int, list[Row]]:
    """What was noted of the cells in earlier versions of a sheet, the latest first, by the row on this sheet."""
    found: dict[int, list[Row]] = {}
    for row in study.select(
        line_of("sheet_id = ?")
        + """SELECT own, keeper, note FROM line JOIN cells ON cells.id = line.cell
            WHERE back > 0 AND (keeper OR note <> '') ORDER BY back""",
        (sheet_id,),
    ):
        found.setdefault(row["own"], []).append(row)
    return found


def versions_of(study: Study, sheet_id: int, newer: bool = True) -> list[int]:
    """A sheet with its earlier versions, and the newer ones where they are asked for; the newest first."""
    rows = {row["id"]: row["replaces"] for row in study.select("SELECT id, replaces FROM sheets")}
    later = {before: own for own, before in rows.items() if before is not None} if newer else {}
    newest, seen = sheet_id, {sheet_id}
    while newest in later and later[newest] not in seen:
        newest = later[newest]
        seen.add(newest)
    found = [newest]
    while rows.get(found[-1]) in rows and rows[found[-1]] not in found:
        found.append(rows[found[-1]])
    return found


def sheet_titles(study: Study) -> list[tuple[int, str]]:
    """The sheets that are in use, the newest first."""
    return [
        (row["id"], row["title"])
        for row in study.rows("sheets", "archived = 0", order="created DESC, id DESC")
    ]


def with_versions(study: Study) -> list[tuple[int, str]]:
    """The sheets that are in use, the newest first, each followed by its earlier versions."""
    rows = {row["id"]: row for row in study.select("SELECT id, title, replaces, created FROM sheets")}
    found: list[tuple[int, str]] = []
    for sheet_id, title in sheet_titles(study):
        found.append((sheet_id, title))
        line, before = [sheet_id], rows[sheet_id]["replaces"]
        while before in rows and before not in line:
            line.append(before)
            before = rows[before]["replaces"]
        for place, own in enumerate(line[1:]):
            words = tr(
                "{title}, version {n} of {date}",
                title=rows[own]["title"],
                n=len(line) - 1 - place,
                date=day_words(moment_of(rows[own]["created"]), weekday=False),
            )
            found.append((own, words))
    return found


def latest_settings(study: Study) -> dict[str, Any]:
    """What the sheet that was planned last was made from; nothing where there is none, or it can not be read."""
    rows = study.select("SELECT id, layout FROM sheets ORDER BY id DESC LIMIT 1")
    try:
        settings = json_of(rows[0], "layout").get("settings") if rows else None
    except CulmoError:
        settings = None
    return settings if isinstance(settings, dict) else {}


def planned_together(study: Study, sheet_id: int) -> list[int]:
    """The pages of the plan that a sheet is one of, in their order: the sheets in use that were made in the same act.

    Parameters
    ----------
    study : Study
    sheet_id : int, a sheet that is there
    """
    own = study.row("sheets", sheet_id)
    rows = study.rows(
        "sheets", "archived = 0 AND created = ? AND kind = ?", (own["created"], own["kind"]), order="id"
    )
    return [row["id"] for row in rows] if not own["archived"] else [sheet_id]


def pages_of_plan(study: Study, sheet_id: int) -> list[int]:
    """The sheets that the plan of a sheet gave, in their order: made in one act from the same choices.

    A version stands where the one that it replaces stood.

    Parameters
    ----------
    study : Study
    sheet_id : int, a sheet that is there
    """
    own = study.row("sheets", sheet_id)
    rows = study.rows("sheets", "archived = 0 AND created = ?", (own["created"],))
    called = (
        own["title"],
        own["kind"],
    )  # the pages of one plan differ in these: one that does not is another sheet
    alike = [
        row["id"]
        for row in rows
        if row["id"] == sheet_id or (_choices(row) == _choices(own) and (row["title"], row["kind"]) != called)
    ]
    return sorted(alike, key=lambda page: versions_of(study, page, newer=False)[-1])


def _choices(row: Row) -> dict[str, Any]:
    """What a sheet was planned from; what gave way on its page is not chosen."""
    settings = json_of(row, "layout").get("settings")
    return {key: value for key, value in dict(settings or {}).items() if key != "eased"}


def kept_mixes(study: Study) -> list[Recipe]:
    """The mixes that were marked as worth keeping on a sheet, and those that were kept without one; each once."""
    rows = [*study.rows("cells", "keeper = 1"), *study.rows("mixes", order="id")]
    return list({(recipe := parse_recipe(row["recipe"])).key: recipe for row in rows}.values())


def spoken_cell(cell: Row) -> str:
    """A cell as a painter would call it: by its mix, since its place on the sheet tells nothing in a list."""
    return spoken_recipe(parse_recipe(cell["recipe"]))


def extra_of(row: Mapping[str, Any]) -> dict[str, Any]:
    """What else is said of a reading, in its `extra`; nothing where that is damaged."""
    try:
        found = json.loads(row["extra"])
    except (ValueError, TypeError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


def reading_rows(study: Study) -> list[Row]:
    """The rows of all readings, with what `reading_of` asks for, and their cells."""
    rows = study.select(
        """SELECT id, cell_id, sheet_id, photo_id, recipe, L, a, b, ground, paper, trust, treatment, mixing,
            CASE WHEN cell_id IS NULL AND json_valid(extra) THEN json_extract(extra, '$.scrap') END AS scrap,
            CASE WHEN json_valid(extra) THEN json_extract(extra, '$.uncertainty') END AS uncertainty,
            CASE WHEN json_valid(extra) THEN json_extract(extra, '$.looks') END AS looks, seen, source
            FROM readings ORDER BY id"""
    )
    return with_shots(rows, shots_of(study))


def shots_of(study: Study) -> dict[int, str]:
    """What is kept of the pictures in which colours are known for themselves, as `seen.shot_text` gives it, by their ids."""
    shots = study.select(
        """SELECT id, json_extract(placement, '$.shot') AS shot FROM photos
            WHERE json_valid(placement) AND INSTR(placement, '"shot"')"""
    )
    return {row["id"]: row["shot"] for row in shots if isinstance(row["shot"], str)}


def with_shots(rows: Sequence[Row], shots: Mapping[int, str]) -> list[Row]:
    """Rows of readings, the first of each picture with its `shot`.

    Parameters
    ----------
    rows : sequence of Row, of the readings
    shots : mapping, as `shots_of` gives it
    """
    left = dict(shots)
    return [{**row, "shot": left.pop(row["photo_id"], "")} for row in rows] if left else list(rows)


def readings(study: Study) -> list[Reading]:
    """All readings, those that teach and those that do not."""
    return [reading_of(row) for row in reading_rows(study)]


def lone_readings(study: Study) -> list[Reading]:
    """The readings of paints alone and of the bare grounds; mixes, of which there are thousands, are not parsed."""
    rows = study.select(
        """SELECT id, recipe, L, a, b, ground, paper, trust, treatment, mixing FROM readings
            WHERE INSTR(recipe, ' + ') = 0 OR INSTR(recipe, '"') ORDER BY id"""
    )
    found = [reading_of(row) for row in rows]
    return [reading for reading in found if not reading.recipe.layers or len(reading.recipe.names) == 1]


def mixed_names(study: Study) -> dict[str, int]:
    """How many different mixes of each paint were read and teach, by its folded name."""
    rows = study.select(
        """SELECT DISTINCT recipe FROM readings WHERE trust = 'good' AND treatment = '' AND mixing = ''
            AND INSTR(recipe, ' + ')"""
    )
    found: dict[str, int] = {}
    for row in rows:
        names = {name.casefold() for name in parse_recipe(row["recipe"]).names}
        for name in names if len(names) > 1 else ():
            found[name] = found.get(name, 0) + 1
    return found


def marked_alone(study: Study, mark: str) -> dict[str, int]:
    """How many cells of each paint alone bear a mark that was made at the table, by the paint's folded name."""
    rows = study.select(
        """SELECT c.recipe, COUNT(DISTINCT c.id) AS n FROM strokes s JOIN cells c ON c.id = s.cell_id
            WHERE INSTR(' ' || s.marks || ' ', ?) GROUP BY c.recipe""",
        (f" {mark} ",),
    )
    found: dict[str, int] = {}
    for row in rows:
        recipe = parse_recipe(row["recipe"])
        if len(recipe.names) == 1:
            name = recipe.names[0].casefold()
            found[name] = found.get(name, 0) + row["n"]
    return found


# where a reading comes from, as it is said
SOURCE_WORDS = {
    "card": tr("card"),
    "typed": tr("typed"),
    "photo": tr("from a picture"),
    "instrument": tr("from an instrument"),
    "colorimeter": tr("from the colorimeter"),
    "file": tr("from a file"),
    PRACTICE: tr("from a practice photo"),
}


def readings_of_paint(study: Study, name: str) -> list[Reading]:
    """The readings of a paint, alone and in mixes, and of the bare grounds; of ten thousand few are parsed.

    Parameters
    ----------
    study : Study
    name : str, in whatever case
    """
    rows = study.select(
        """SELECT id, recipe, L, a, b, ground, paper, trust, treatment, mixing FROM readings
            WHERE recipe = '-' OR INSTR(folded(recipe), ?) ORDER BY id""",
        (sign_of(name),),
    )
    found = [reading_of(row) for row in rows]
    key = name.casefold()
    return [r for r in found if not r.recipe.layers or key in (own.casefold() for own in r.recipe.names)]


def sign_of(name: str) -> str:
    """What stands in the folded text of every recipe with a paint in it: quotes in a name are doubled there."""
    return name.casefold().replace('"', '""')


def bare_readings(study: Study) -> list[Reading]:
    """The readings of bare paper and of the bare ink line."""
    return [reading_of(row) for row in study.rows("readings", "recipe = '-'")]


def painted_cells(study: Study, sheet_id: int) -> dict[int, Row]:
    """The last stroke of each cell's top layer, by the cell's row id, be it on an earlier version of the sheet."""
    return {row["cell_id"]: row for row in strokes_on(study, sheet_id) if row["layer"] == 0}


def stroke_rows(study: Study, sheet_id: int) -> list[Row]:
    """All strokes laid on a sheet in the order of doing; what stands on earlier versions of it is not among them."""
    return study.rows("strokes", "cell_id IN (SELECT id FROM cells WHERE sheet_id = ?)", (sheet_id,))


def touched_cells(study: Study, sheet_id: int) -> set[str]:
    """The cells of a sheet that something was recorded of: a stroke, a reading, a mark, a note."""
    rows = study.select(
        """SELECT cell FROM cells c WHERE sheet_id = ? AND (keeper OR note <> ''
            OR EXISTS (SELECT 1 FROM strokes WHERE cell_id = c.id)
            OR EXISTS (SELECT 1 FROM readings WHERE cell_id = c.id))""",
        (sheet_id,),
    )
    return {row["cell"] for row in rows}


def strokes_on(study: Study, sheet_id: int) -> list[Row]:
    """All strokes of a sheet's cells in the order of doing, also those on earlier versions of it, under its own cells."""
    own = earlier_cells(study, sheet_id)
    rows = study.rows("strokes", "cell_id IN (SELECT value FROM json_each(?))", (json.dumps(list(own)),))
    return [{**row, "cell_id": own[row["cell_id"]]} for row in rows]


# a painter may mix on the paper where the plan said nothing of it: the record's words, as in `paint_acts.HOWS`
_MIXED = {"paper": MixedHow.WET_IN_WET, "touching": MixedHow.MEETING, "one brush": MixedHow.LOADED}


def mixings_of(study: Study, cell_ids: Iterable[int]) -> dict[int, str]:
    """How the paints of cells came together: as they were painted last, else as they were planned.

    A cell of one paint has no parts that could be unknown, and stays as planned. Cells that are not in the study yet are
    left out.

    Parameters
    ----------
    study : Study
    cell_ids : iterable of int
    """
    asked = (json.dumps(list(cell_ids)),)
    hows = {
        row["own"]: row["how"]
        for row in study.select(
            line_of("id IN (SELECT value FROM json_each(?))")
            + "SELECT own, how FROM line JOIN strokes ON strokes.cell_id = line.cell WHERE act = 'done' ORDER BY strokes.id",
            asked,
        )
    }
    found = {}
    for cell in study.rows("cells", "id IN (SELECT value FROM json_each(?))", asked):
        several = len({name.casefold() for name in parse_recipe(cell["recipe"]).names}) > 1
        how = hows.get(cell["id"], "") if several else ""
        found[cell["id"]] = str(cell["mixing"]) or _MIXED.get(how, MixedHow.IN_PUDDLE)
    return found


def read_cells(study: Study, sheet_id: int) -> dict[int, Row]:
    """The last dry reading of each cell of a sheet, by the cell's row id.

    Of a band that fades it is that of the full end.
    """
    rows = [row for row in readings_on(study, sheet_id) if row["trust"] != "wet"]
    bands = study.rows("cells", "sheet_id = ? AND fade_mm NOT NULL", (sheet_id,))
    full = {entry["id"]: parse_recipe(entry["recipe"]).key for entry in bands}
    rows = [
        r for r in rows if r["cell_id"] not in full or parse_recipe(r["recipe"]).key == full[r["cell_id"]]
    ]
    rows.sort(key=lambda row: row["id"])
    return {row["cell_id"]: row for row in rows}


def wet_cells_read(study: Study, sheet_id: int) -> dict[int, Row]:
    """The last wet look of each cell of a sheet, by the cell's row id."""
    rows = [row for row in readings_on(study, sheet_id) if row["trust"] == "wet"]
    return {row["cell_id"]: row for row in sorted(rows, key=lambda row: row["id"])}


def readings_on(study: Study, sheet_id: int) -> list[Row]:
    """The readings of a sheet's cells, also those of earlier versions of it, under its own cells."""
    own = earlier_cells(study, sheet_id)
    rows = study.rows("readings", "cell_id IN (SELECT value FROM json_each(?))", (json.dumps(list(own)),))
    return [{**anew(study, row), "cell_id": own[row["cell_id"]]} for row in rows]


def anew(study: Study, row: Row) -> Row:
    """A row of readings with the colour that all that is known now makes of what its picture showed."""
    before, now = study.told_anew.get(row["id"], (None, None))
    if now is None or before != (row["L"], row["a"], row["b"]):
        return row
    return {**row, **dict(zip("Lab", now, strict=True))}


def painted_mixes(study: Study) -> list[tuple[Recipe, tuple[float, float, float]]]:
    """What was painted on paper and read dry, each mix and paint once with its latest colour."""
    rows = study.select(
        """SELECT id, recipe, L, a, b FROM readings WHERE id IN (SELECT MAX(id) FROM readings WHERE ground = 'paper'
            AND trust = 'good' AND treatment = '' AND mixing = '' AND recipe <> '-' GROUP BY recipe) ORDER BY id DESC"""
    )
    return [
        (parse_recipe(row["recipe"]), (row["L"], row["a"], row["b"]))
        for row in (anew(study, one) for one in rows)
    ]


def recipe_of(row: Row) -> Recipe:
    """The recipe in a row."""
    return parse_recipe(row["recipe"])


def parsed(row: Row, column: str) -> Any:
    """What a column holds as JSON; an empty one is an empty object.

    Raises
    ------
    CulmoError
        when it can not be read, as in a damaged file
    """
    try:
        return json.loads(row[column] or "{}")
    except (ValueError, TypeError, RecursionError) as error:
        raise CulmoError(
            tr("the entry {id} is damaged: {column} ({error})", id=row["id"], column=column, error=error)
        ) from None


def json_of(row: Row, column: str) -> dict[str, Any]:
    """The JSON object in a column."""
    value = parsed(row, column)
    return value if isinstance(value, dict) else {}
