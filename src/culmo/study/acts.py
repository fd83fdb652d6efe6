"""The acts of the painter as commands: what each changes, and what the Daybook says of it."""

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.chart.versions import carried, stays
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import check_lab
from culmo.core.paint.readings import INK, PAPER, Reading, Treatment, Trust
from culmo.core.paint.recipe import Recipe, format_recipe, parse_recipe
from culmo.errors import CulmoError
from culmo.study.draft import Draft
from culmo.study.file import Change, Command, Row, Study
from culmo.study.looks import painted_between, seen_again
from culmo.study.naming import check_known, rename_everywhere
from culmo.study.records import (
    cell_row,
    earlier_cells,
    holder_of,
    layout_text,
    mixings_of,
    sheet_record,
    spoken_cell,
    stroke_rows,
    touched_cells,
    versions_of,
)
from culmo.words import tr, trn

NAME_LIMIT = 120
STATUSES = ("owned", "sample", "wished")


# ---- paints


@dataclass(frozen=True)
class PaintEntry:
    """What the painter typed of a paint.

    Attributes
    ----------
    name : str, not empty
    codes : str, Colour Index Generic Names
    status : str, "owned", "sample" or "wished"
    grain : float or None, 0..1, how much it granulates
    note : str
    label : mapping, what the label claims: transparency, staining, granulation, lightfastness
    """

    name: str
    codes: str = ""
    status: str = "owned"
    grain: float | None = None
    note: str = ""
    label: Mapping[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise CulmoError(tr("the paint needs a name"))
        if len(self.name) > NAME_LIMIT:
            raise CulmoError(
                tr(
                    "the name has {n} letters; {NAME_LIMIT} is the most",
                    n=len(self.name),
                    NAME_LIMIT=NAME_LIMIT,
                )
            )
        if any(ord(letter) < 32 for letter in self.name):
            raise CulmoError(tr("a name can not hold line breaks or control characters"))
        if self.name.strip() == "-":
            raise CulmoError(tr('"-" stands for the bare paper; the paint needs another name'))
        if self.status not in STATUSES:
            raise CulmoError(
                tr(
                    'the paint is "{status}"; it must be one of {what}',
                    status=self.status,
                    what=", ".join(STATUSES),
                )
            )


def _check_name(study: Study, name: str, own_id: int | None = None) -> None:
    for row in study.rows("paints"):
        if row["id"] != own_id and row["name"].casefold() == name.strip().casefold():
            raise CulmoError(
                tr(
                    'there is a retired paint named "{name}"; recipes could not tell them apart. Bring it back, or '
                    "take another name",
                    name=row["name"],
                )
                if row["retired"]
                else tr(
                    'there is a paint named "{name}" already; recipes could not tell them apart',
                    name=row["name"],
                )
            )


def add_paint(study: Study, entry: PaintEntry, card: Sequence[Reading] = ()) -> Command:
    """A new paint, with the readings of its card (recipes name it)."""
    _check_name(study, entry.name)
    draft = Draft(study, tr("Add {what}", what=entry.name.strip()))
    draft_paint(draft, entry, card)
    return draft.command()


def draft_paint(draft: Draft, entry: PaintEntry, card: Sequence[Reading] = ()) -> int:
    """A new paint as a part of an act; gives its id."""
    places = [row["position"] for row in draft.study.rows("paints")]
    places += [row["position"] for (table, _), row in draft.pending() if table == "paints"]
    paint_id = draft.add(
        "paints",
        name=entry.name.strip(),
        codes=entry.codes.strip(),
        status=entry.status,
        position=max(places, default=0) + 1,
        retired=0,
        grain=entry.grain,
        note=entry.note,
        label=json.dumps(dict(entry.label)),
        created=draft.at,
    )
    draft_colours(draft, card, "card")
    read = ", " + tr("{n} readings of its card", n=len(card)) if card else ""
    came = {"wished": tr("is considered"), "sample": tr("came as a sample")}.get(
        entry.status, tr("came into the box")
    )
    draft.tell("paint", f"{entry.name.strip()} {came}{read}", paint_id=paint_id)
    return paint_id


def edit_paint(
    study: Study, paint_id: int, entry: PaintEntry, card: Sequence[Reading] | None = None
) -> Command:
    """New particulars, and readings of the card (recipes name the paint as it is called till now).

    A new name is carried into every recipe of the record.
    """
    _check_name(study, entry.name, paint_id)
    before = study.row("paints", paint_id)
    draft = Draft(study, tr("Edit {name}", name=before["name"]))
    name = entry.name.strip()
    if card is not None and _set_card(draft, before["name"], card):
        draft.tell("reading", tr("The card of {name} was read", name=before["name"]), paint_id=paint_id)
    changed = draft.edit(
        "paints",
        paint_id,
        name=name,
        codes=entry.codes.strip(),
        status=entry.status,
        grain=entry.grain,
        note=entry.note,
        label=json.dumps(dict(entry.label)),
    )
    if name != before["name"]:
        rename_everywhere(draft, before["name"], name)
        draft.tell(
            "paint", tr("{name} is now called {name2}", name=before["name"], name2=name), paint_id=paint_id
        )
    elif changed:
        draft.tell("paint", tr("The particulars of {name} were changed", name=name), paint_id=paint_id)
    return draft.command()


def retire_paint(study: Study, paint_id: int) -> Command:
    """Take a paint out of the box; its record stands."""
    name = study.row("paints", paint_id)["name"]
    draft = Draft(study, tr("Retire {name}", name=name))
    draft.edit("paints", paint_id, retired=1)
    for well in study.rows("wells", "paint_id = ?", (paint_id,)):
        draft.edit("wells", well["id"], paint_id=None)
    for role in study.rows("roles", "paint_id = ?", (paint_id,)):
        draft.remove("roles", role)
    draft.tell("paint", tr("{name} left the box; its record stays", name=name), paint_id=paint_id)
    return draft.command()


def bring_back(study: Study, paint_id: int) -> Command:
    """A retired paint is in use again."""
    name = study.row("paints", paint_id)["name"]
    draft = Draft(study, tr("Bring back {name}", name=name))
    draft.edit("paints", paint_id, retired=0)
    draft.tell("paint", tr("{name} is in use again", name=name), paint_id=paint_id)
    return draft.command()


def _set_card(draft: Draft, name: str, card: Sequence[Reading]) -> bool:
    """The card's readings become these; one that is no longer given goes. Says whether anything differs."""
    count = len(draft.changes)
    kept = {(r.recipe.key, r.ground): r for r in card}
    for row in draft.study.rows("readings", "source = 'card'"):
        recipe = parse_recipe(row["recipe"])
        if [other.casefold() for other in recipe.names] != [name.casefold()]:
            continue
        wanted = kept.pop((recipe.key, row["ground"]), None)
        if wanted is None:
            draft.remove("readings", row)
        else:
            L, a, b = wanted.lab
            draft.edit("readings", row["id"], L=L, a=a, b=b)
    draft_colours(draft, list(kept.values()), "card")
    return len(draft.changes) > count


def _draft_new(draft: Draft, names: Sequence[str]) -> None:
    for name in names:
        draft_paint(draft, PaintEntry(name))


# ---- sheets


def add_sheet(study: Study, sheet: Sheet) -> Command:
    """A planned sheet."""
    draft = Draft(study, tr("Plan {title}", title=sheet.title))
    _draft_sheet(draft, sheet, study.next_id("cells"))
    return draft.command()


def add_sheets(study: Study, sheets: Sequence[Sheet], new: Sequence[str] = ()) -> Command:
    """Several planned sheets in one act, with the paints that come with them."""
    if not sheets:
        raise CulmoError(tr("there is no sheet to keep"))
    title = (
        tr("Plan {title}", title=sheets[0].title)
        if len(sheets) == 1
        else tr("Plan {n} sheets", n=len(sheets))
    )
    draft = Draft(study, title)
    _draft_new(draft, new)
    cells = study.next_id("cells")
    for sheet in sheets:
        cells = _draft_sheet(draft, sheet, cells)
    return draft.command()


def _draft_sheet(draft: Draft, sheet: Sheet, first: int, before: int | None = None) -> int:
    """A sheet with its cells as a part of an act; gives the next free id of a cell. `before` is what it replaces."""
    check_known(draft, (cell.recipe for cell in sheet.cells))
    sheet_id = draft.add(
        "sheets",
        title=sheet.title,
        kind=sheet.kind,
        layout=layout_text(sheet),
        archived=0,
        replaces=before,
        created=draft.at,
    )
    following = _add_cells(
        draft, sheet_id, enumerate(sheet.cells), first, _of_cells(draft.study, before, sheet)
    )
    draft.tell(
        "sheet",
        tr("{title} was planned, {n} cells", title=sheet.title, n=len(sheet.cells)),
        sheet_id=sheet_id,
    )
    return following


def draft_sheet(draft: Draft, sheet: Sheet) -> tuple[int, dict[str, int]]:
    """A sheet as a part of an act; gives its id, and its cells' ids by their names on it."""
    first = draft.study.next_id("cells")
    sheet_id = draft.study.next_id("sheets")
    _draft_sheet(draft, sheet, first)
    return sheet_id, {cell.id: first + place for place, cell in enumerate(sheet.cells)}


def draft_readings(draft: Draft, incoming: Sequence["Incoming"], sheet_id: int | None = None) -> None:
    """Readings as a part of an act.

    Raises
    ------
    CulmoError
        when one names a paint that is not there
    """
    check_known(draft, (item.reading.recipe for item in incoming))
    mixings = mixings_of(draft.study, {item.cell_id for item in incoming if item.cell_id})
    for item in incoming:
        reading = item.reading
        if not reading.mixing and item.cell_id in mixings:  # a file may not say how the cell was painted
            reading = replace(reading, mixing=mixings[item.cell_id])
        more = dict(item.values)
        more.update(sheet_id=(item.sheet_id or sheet_id) if item.cell_id else None, cell_id=item.cell_id)
        source = str(more.pop("source", "") or "file")
        row = {key: value for key, value in more.items() if value not in (None, "")}
        _add_one(draft, reading, source, row)


def change_sheet(study: Study, sheet_id: int, sheet: Sheet) -> Command:
    """Plan a sheet anew, as `change_sheets`."""
    return change_sheets(study, [sheet_id], [sheet])


def change_sheets(study: Study, sheet_ids: Sequence[int], sheets: Sequence[Sheet]) -> Command:
    """Plan the pages of a sheet anew.

    Where all that was painted or read on a page stays in its place on the paper, it is the same page with other cells
    beside them. Else it is a new version: the earlier one is kept as it was painted, and the cells that both have share its
    record. A page that is no longer there goes, unless something was recorded of it; then it stays as it is.

    Parameters
    ----------
    study : Study
    sheet_ids : sequence of int, the pages as they are
    sheets : sequence of Sheet, the pages as they will be; at least one
    """
    draft = Draft(study, tr("Change {title}", title=sheets[0].title))
    cells = study.next_id("cells")
    for place, sheet in enumerate(sheets):
        if place < len(sheet_ids):
            cells = _draft_change(draft, sheet_ids[place], sheet, cells)
        else:
            cells = _draft_sheet(draft, sheet, cells)
    for sheet_id in sheet_ids[len(sheets) :]:
        if not touched_cells(study, sheet_id):
            for row in study.rows("cells", "sheet_id = ?", (sheet_id,)):
                draft.remove("cells", row)
            draft.edit("sheets", sheet_id, archived=1)
    if len(sheets) > 1:  # by the moment they were planned the pages of a plan are known
        for (table, row_id), _ in draft.pending():
            if table == "sheets":
                draft.edit("sheets", row_id, created=draft.at)
    return draft.command()


def _draft_change(draft: Draft, sheet_id: int, sheet: Sheet, first: int) -> int:
    """A sheet planned anew as a part of an act; gives the next free id of a cell."""
    study = draft.study
    before = sheet_record(study, sheet_id)
    touched = touched_cells(study, sheet_id)
    if touched and not stays(before.sheet, sheet, touched):
        draft.edit("sheets", sheet_id, archived=1)
        return _draft_sheet(draft, sheet, first, sheet_id)
    check_known(draft, (cell.recipe for cell in sheet.cells))
    draft.edit("sheets", sheet_id, title=sheet.title, kind=sheet.kind, layout=layout_text(sheet))
    of_cells = _of_cells(study, study.row("sheets", sheet_id)["replaces"], sheet)
    kept = before.by_cell() if touched else {}
    same = {new for new, old in carried(before.sheet, sheet).items() if new == old} & kept.keys()
    for row in study.rows("cells", "sheet_id = ?", (sheet_id,)):
        if row["cell"] not in same:
            draft.remove("cells", row)
    new = []
    for place, cell in enumerate(sheet.cells):
        if cell.id in same:
            entry = kept[cell.id]
            values = cell_row(entry.id, sheet_id, place, cell, of_cells.get(cell.id, entry.of_cell))
            draft.edit("cells", entry.id, **{k: v for k, v in values.items() if k not in ("keeper", "note")})
        else:
            new.append((place, cell))
    if touched and len(new) > 0:
        words = trn("{title} has {n} cell more", "{title} has {n} cells more", len(new), title=sheet.title)
        draft.tell("sheet", words, sheet_id=sheet_id)
    return _add_cells(draft, sheet_id, new, first, of_cells)


def _of_cells(study: Study, before: int | None, sheet: Sheet) -> dict[str, int]:
    """From the cells of a sheet to the rows of those of earlier versions, from one on, whose record they have.

    What was left out of one version and comes back in a later one is found in the version before.
    """
    found: dict[str, int] = {}
    taken: set[int | None] = set()
    for version in versions_of(study, before, newer=False) if before is not None else ():
        record = sheet_record(study, version)
        rows = record.by_cell()
        for new, old in carried(record.sheet, sheet).items():
            if new not in found and rows[old].id not in taken:
                found[new] = rows[old].id
                taken.add(rows[old].id)
        taken |= {entry.of_cell for entry in record.cells if entry.id in taken}
    return found


def _add_cells(
    draft: Draft, sheet_id: int, cells: Iterable[tuple[int, Cell]], first: int, of_cells: Mapping[str, int]
) -> int:
    """Cells of a sheet at their places among its cells; gives the next free id."""
    for row_id, (place, cell) in enumerate(cells, first):
        row = cell_row(row_id, sheet_id, place, cell, of_cells.get(cell.id))
        draft.changes.append(Change("cells", row_id, None, row))
        first = row_id + 1
    return first


# ---- readings


def draft_colours(draft: Draft, readings: Iterable[Reading], source: str, **more: Any) -> None:
    """Readings as a part of an act, from one source, with other columns of their rows."""
    for reading in readings:
        _add_one(draft, reading, source, more)


def read_cell(
    study: Study,
    sheet_id: int,
    cell_id: int,
    lab: Sequence[float] | Array,
    source: str = "typed",
    wet: bool = False,
) -> Command:
    """What a cell looks like; an earlier reading of the cell is replaced, a wet one by a wet one only.

    Parameters
    ----------
    study : Study
    sheet_id, cell_id : int
    lab : (L, a, b)
    source : str, where the colour comes from
    wet : bool, whether it is the look of the wet cell: it stands beside that of the dry one and does not teach
    """
    cell = study.row("cells", cell_id)
    if cell["fade_mm"]:
        raise CulmoError(
            tr(
                "{cell} runs from full to clear water and has no one colour; read the patches beside it",
                cell=spoken_cell(cell),
            )
        )
    draft = Draft(study, tr("Read {cell}", cell=spoken_cell(cell)))
    L, a, b = (float(value) for value in check_lab(np.array(lab, dtype=float)))
    mixing = mixings_of(study, [cell_id])[cell_id]
    earlier = _readings_before(study, sheet_id, cell_id, wet)
    if cell["treatment"] in (Treatment.COVERED, Treatment.EXPOSED):  # each look at a fade test stands
        earlier = [row for row in earlier if row["taken"][:10] == draft.at[:10]]
    if earlier:
        row = earlier[-1]
        values = {"L": L, "a": a, "b": b, "source": source, "taken": draft.at}
        if not wet:
            values = seen_again(
                row, {**_said_of(row), **values}, painted_between(study, cell_id, row["taken"], draft.at)
            )
        draft.edit("readings", row["id"], **values, mixing=mixing)
    else:
        recipe = parse_recipe(cell["recipe"])
        reading = Reading(
            recipe,
            (L, a, b),
            cell["ground"],
            trust=Trust.WET if wet else Trust.GOOD,
            treatment=cell["treatment"],
            mixing=mixing,
        )
        draft_colours(draft, [reading], source, sheet_id=sheet_id, cell_id=cell_id)
    title = study.row("sheets", sheet_id)["title"]
    draft.tell(
        "reading",
        tr("{title}: the wet look of {cell} was noted", title=title, cell=spoken_cell(cell))
        if wet
        else tr("{title}: {cell} was read", title=title, cell=spoken_cell(cell)),
        sheet_id=sheet_id,
        cell_id=cell_id,
    )
    return draft.command()


def _said_of(row: Row) -> dict[str, Any]:
    """What stays said of a cell that is looked at by hand; what was doubted of a picture does not: this is another look."""
    if row["photo_id"] is None:
        return {key: row[key] for key in ("trust", "photo_id", "granulation", "separation", "note")}
    return {"trust": Trust.GOOD if row["trust"] == Trust.DOUBTFUL else row["trust"], "note": ""}


def _readings_before(study: Study, sheet_id: int, cell_id: int, wet: bool = False) -> list[Row]:
    """What a reading of a cell takes the place of: those of the same paint, be it on an earlier version of the sheet."""
    there = {cell_id}
    if not any(row["cell_id"] == cell_id for row in stroke_rows(study, sheet_id)):
        there = {cell for cell, own in earlier_cells(study, sheet_id).items() if own == cell_id}
    asked = json.dumps(list(there))
    return study.rows(
        "readings", "(trust = 'wet') = ? AND cell_id IN (SELECT value FROM json_each(?))", (int(wet), asked)
    )


@dataclass(frozen=True)
class Incoming:
    """A reading on its way in, with what its file said of it.

    Attributes
    ----------
    reading : Reading
    cell_id : int or None, the cell that it is of
    values : tuple of (column, value), what else is known
    sheet_id : int or None, the cell's sheet where the act as a whole names none
    line : int, in its file
    """

    reading: Reading
    cell_id: int | None = None
    values: tuple[tuple[str, Any], ...] = ()
    sheet_id: int | None = None
    line: int = 0


def add_readings(
    study: Study,
    incoming: Sequence[Incoming],
    what: str,
    sheet_id: int | None = None,
    new: Sequence[str] = (),
) -> Command:
    """Readings from a file, with the paints that come with them."""
    draft = Draft(study, tr("Read {what}", what=what))
    _draft_new(draft, new)
    draft_readings(draft, incoming, sheet_id)
    draft.tell("reading", tr("{n} readings from {what}", n=len(incoming), what=what), sheet_id=sheet_id)
    return draft.command()


def _add_one(draft: Draft, reading: Reading, source: str, more: dict[str, Any]) -> None:
    L, a, b = reading.lab
    values = {
        "recipe": format_recipe(reading.recipe),
        "ground": reading.ground,
        "L": L,
        "a": a,
        "b": b,
        "paper": reading.paper,
        "source": source,
        "taken": draft.at,
        "trust": reading.trust,
        "treatment": reading.treatment,
        "mixing": reading.mixing,
        "note": "",
        "extra": "{}",
    }
    values.update(more)
    draft.add("readings", **values)


def set_trust(study: Study, reading_id: int, trust: str) -> Command:
    """Put a reading aside, or take it in again."""
    row = study.row("readings", reading_id)
    draft = Draft(study, tr("Put a reading aside") if trust != "good" else tr("Take a reading in again"))
    draft.edit("readings", reading_id, trust=trust)
    recipe, over_ink = spoken_cell(row), row["ground"] == INK
    if trust != Trust.GOOD:
        said = (
            tr("A reading of {recipe} over ink was put aside", recipe=recipe)
            if over_ink
            else tr("A reading of {recipe} was put aside", recipe=recipe)
        )
    else:
        said = (
            tr("A reading of {recipe} over ink was taken in again", recipe=recipe)
            if over_ink
            else tr("A reading of {recipe} was taken in again", recipe=recipe)
        )
    draft.tell("reading", said)
    return draft.command()


def read_bare(study: Study, ground: str, lab: Sequence[float]) -> Command:
    """The bare paper or the bare ink line."""
    draft = Draft(study, tr("Read the bare paper") if ground == PAPER else tr("Read the bare ink line"))
    L, a, b = (float(value) for value in check_lab(np.array(lab, dtype=float)))
    reading = Reading(Recipe(), (L, a, b), ground)
    earlier = study.rows("readings", "recipe = '-' AND ground = ? AND paper = ''", (ground,))
    if earlier:
        draft.edit("readings", earlier[-1]["id"], L=L, a=a, b=b)
    else:
        draft_colours(draft, [reading], "typed")
    draft.tell(
        "reading", tr("The bare paper was read") if ground == PAPER else tr("The bare ink line was read")
    )
    return draft.command()


# ---- judgement


def mark_keeper(study: Study, cell_id: int, keeper: bool) -> Command:
    """A mix worth keeping, or no longer."""
    cell = study.row("cells", cell_id)
    spoken = spoken_cell(cell)
    draft = Draft(study, tr("Keep {name}", name=spoken) if keeper else tr("Let go of {name}", name=spoken))
    if draft.edit("cells", holder_of(study, cell_id, "keeper")["id"], keeper=int(keeper)) and keeper:
        draft.tell(
            "verdict",
            tr("{spoken} is a keeper", spoken=spoken),
            cell_id=cell_id,
            sheet_id=cell["sheet_id"],
        )
    return draft.command()


def note_cell(study: Study, cell_id: int, note: str) -> Command:
    """The painter's words about a cell."""
    cell = study.row("cells", cell_id)
    draft = Draft(study, tr("Note on {cell}", cell=spoken_cell(cell)))
    if draft.edit("cells", holder_of(study, cell_id, "note")["id"], note=note) and note:
        draft.tell("note", f"{spoken_cell(cell)}: {note}", cell_id=cell_id, sheet_id=cell["sheet_id"])
    return draft.command()
