"""The acts of the painter as commands: what each changes, and what the Daybook says of it."""

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from culmo.core.chart.papers import Paper
from culmo.core.chart.sheet import Sheet
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import check_lab
from culmo.core.paint.readings import COVERED, DOUBTFUL, EXPOSED, GOOD, INK, PAPER, Reading
from culmo.core.paint.recipe import Recipe, format_recipe, parse_recipe
from culmo.errors import CulmoError
from culmo.study.draft import Draft
from culmo.study.file import Change, Command, Study
from culmo.study.naming import check_known, rename_everywhere
from culmo.study.records import cell_row, layout_text, mixings_of, spoken_cell
from culmo.words import tr

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
    _add_readings(draft, card, "card")
    read = tr(", {n} readings of its card", n=len(card)) if card else ""
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
    _add_readings(draft, list(kept.values()), "card")
    return len(draft.changes) > count


def _draft_new(draft: Draft, names: Sequence[str]) -> None:
    for name in names:
        draft_paint(draft, PaintEntry(name))


# ---- sheets


def add_sheet(study: Study, sheet: Sheet, replaces: int | None = None) -> Command:
    """A planned sheet."""
    draft = Draft(study, tr("Plan {title}", title=sheet.title))
    _draft_sheet(draft, sheet, study.next_id("cells"), replaces)
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


def _draft_sheet(draft: Draft, sheet: Sheet, first: int, replaces: int | None = None) -> int:
    """A sheet with its cells as a part of an act; gives the next free id of a cell."""
    check_known(draft, (cell.recipe for cell in sheet.cells))
    sheet_id = draft.add(
        "sheets",
        title=sheet.title,
        kind=sheet.kind,
        layout=layout_text(sheet),
        archived=0,
        replaces=replaces,
        created=draft.at,
    )
    following = _add_cells(draft, sheet_id, sheet, first)
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
    """Plan a sheet anew. One that has been painted or read keeps its record, and a new version is made."""
    touched = study.rows("readings", "sheet_id = ?", (sheet_id,)) or study.rows(
        "runs", "sheet_id = ?", (sheet_id,)
    )
    draft = Draft(study, tr("Change {title}", title=sheet.title))
    if touched:
        command = add_sheet(study, sheet, replaces=sheet_id)
        draft.changes += command.changes
        draft.edit("sheets", sheet_id, archived=1)
        return draft.command()
    check_known(draft, (cell.recipe for cell in sheet.cells))
    draft.edit("sheets", sheet_id, title=sheet.title, kind=sheet.kind, layout=layout_text(sheet))
    for row in study.rows("cells", "sheet_id = ?", (sheet_id,)):
        draft.remove("cells", row)
    _add_cells(draft, sheet_id, sheet)
    return draft.command()


def _add_cells(draft: Draft, sheet_id: int, sheet: Sheet, first: int | None = None) -> int:
    """The cells of a sheet; gives the next free id."""
    first = first or draft.study.next_id("cells")
    for place, cell in enumerate(sheet.cells):
        row = cell_row(first + place, sheet_id, place, cell)
        draft.changes.append(Change("cells", first + place, None, row))
    return first + len(sheet.cells)


def add_paper(study: Study, paper: Paper) -> Command:
    """A paper that the painter owns."""
    draft = Draft(study, tr("Add paper {name}", name=paper.name))
    draft.add("papers", name=paper.name, width_mm=paper.width_mm, height_mm=paper.height_mm, note="")
    return draft.command()


# ---- readings


def _add_readings(draft: Draft, readings: Iterable[Reading], source: str, **more: Any) -> None:
    for reading in readings:
        _add_one(draft, reading, source, more)


def read_cell(
    study: Study, sheet_id: int, cell_id: int, lab: Sequence[float] | Array, source: str = "typed"
) -> Command:
    """What a dry cell looks like; an earlier reading of the cell is replaced."""
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
    earlier = study.rows("readings", "cell_id = ? AND trust <> 'wet'", (cell_id,))
    if cell["treatment"] in (COVERED, EXPOSED):  # each look at a fade test stands
        earlier = [row for row in earlier if row["taken"][:10] == draft.at[:10]]
    if earlier:
        row = earlier[-1]
        values = {"L": L, "a": a, "b": b, "source": source, "taken": draft.at, "mixing": mixing}
        if row["photo_id"] is not None:  # what was doubted was the picture, and this is another look
            values |= {"photo_id": None, "note": "", "granulation": None, "separation": None}
            values["trust"] = GOOD if row["trust"] == DOUBTFUL else row["trust"]
        draft.edit("readings", row["id"], **values)
    else:
        recipe = parse_recipe(cell["recipe"])
        reading = Reading(recipe, (L, a, b), cell["ground"], treatment=cell["treatment"], mixing=mixing)
        _add_readings(draft, [reading], source, sheet_id=sheet_id, cell_id=cell_id)
    title = study.row("sheets", sheet_id)["title"]
    draft.tell(
        "reading",
        tr("{title}: {cell} was read", title=title, cell=spoken_cell(cell)),
        sheet_id=sheet_id,
        cell_id=cell_id,
    )
    return draft.command()


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
    if trust != GOOD:
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
        _add_readings(draft, [reading], "typed")
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
    if draft.edit("cells", cell_id, keeper=int(keeper)) and keeper:
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
    if draft.edit("cells", cell_id, note=note) and note:
        draft.tell("note", f"{spoken_cell(cell)}: {note}", cell_id=cell_id, sheet_id=cell["sheet_id"])
    return draft.command()
