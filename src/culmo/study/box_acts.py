"""The acts at the box: boxes and their wells, many paints at once, roles, refills, fade tests."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from culmo.core.chart.box import PANS, BoxShape
from culmo.core.paint.entry import free_name
from culmo.errors import CulmoError
from culmo.study.acts import NAME_LIMIT, PaintEntry, draft_paint
from culmo.study.box_records import Box, boxes
from culmo.study.draft import Draft
from culmo.study.file import Command, Study
from culmo.study.naming import rename_everywhere
from culmo.words import tr

FADE_WEEKS = (1.0, 2.0, 4.0, 8.0, 12.0, 26.0, 52.0)


def _box(study: Study, box_id: int) -> Box:
    found = [box for box in boxes(study) if box.id == box_id]
    if not found:
        raise CulmoError(tr("this box is no longer there"))
    return found[0]


def _check_box_name(study: Study, name: str, own_id: int | None = None) -> str:
    name = name.strip()
    if not name or len(name) > NAME_LIMIT or any(ord(letter) < 32 for letter in name):
        raise CulmoError(
            tr("the box needs a name of 1 to {NAME_LIMIT} letters on one line", NAME_LIMIT=NAME_LIMIT)
        )
    for row in study.rows("boxes"):
        if row["id"] != own_id and row["name"].casefold() == name.casefold():
            raise CulmoError(tr('there is a box named "{name}" already', name=row["name"]))
    return name


def _draft_box(draft: Draft, name: str, shape: BoxShape, paints: Mapping[int, int]) -> int:
    settings = json.dumps({"gap_mm": shape.gap_mm, "rim_mm": shape.rim_mm})
    box_id = draft.add(
        "boxes", name=name, rows=shape.rows, columns=shape.columns, settings=settings, created=draft.at
    )
    for place in range(shape.count):
        draft.add("wells", box_id=box_id, place=place, paint_id=paints.get(place), pan=shape.pan(place))
    return box_id


def add_box(study: Study, name: str, shape: BoxShape, paints: Sequence[int] = ()) -> Command:
    """A new box, with paints in its first wells.

    Raises
    ------
    CulmoError
        when the name is taken, or the paints are more than the wells
    """
    name = _check_box_name(study, name)
    if len(paints) > shape.count:
        raise CulmoError(tr("{n} paints do not lie in {count} wells", n=len(paints), count=shape.count))
    draft = Draft(study, tr("Lay out {name}", name=name))
    _draft_box(draft, name, shape, dict(enumerate(paints)))
    draft.tell(
        "box",
        tr(
            "{name} was laid out, {rows} rows of {columns}, {n} paints",
            name=name,
            rows=shape.rows,
            columns=shape.columns,
            n=len(paints),
        ),
    )
    return draft.command()


def change_box(study: Study, box_id: int, name: str, shape: BoxShape) -> Command:
    """Another name or another shape; paints keep their row and column where they can, the rest move up.

    Raises
    ------
    CulmoError
        when the paints would not all have a well
    """
    box = _box(study, box_id)
    name = _check_box_name(study, name, box_id)
    if len(box.paints) > shape.count:
        raise CulmoError(
            tr(
                "{n} paints lie in this box and the new one would have {count} wells; take some out first",
                n=len(box.paints),
                count=shape.count,
            )
        )
    draft = Draft(study, tr("Change {name}", name=box.name))
    settings = json.dumps({"gap_mm": shape.gap_mm, "rim_mm": shape.rim_mm})
    draft.edit("boxes", box_id, name=name, rows=shape.rows, columns=shape.columns, settings=settings)
    if (shape.rows, shape.columns) != (box.shape.rows, box.shape.columns):
        _reshape(draft, box, shape)
    draft.tell(
        "box",
        tr(
            "{name} has {rows} rows of {columns} wells now", name=name, rows=shape.rows, columns=shape.columns
        ),
    )
    return draft.command()


def _reshape(draft: Draft, box: Box, shape: BoxShape) -> None:
    kept: dict[int, int] = {}
    homeless = []
    pans: dict[int, str] = {}
    for place in range(box.shape.count):
        row, column = divmod(place, box.shape.columns)
        fits = row < shape.rows and column < shape.columns
        if fits:
            pans[row * shape.columns + column] = box.shape.pan(place)
        if place in box.paints:
            if fits:
                kept[row * shape.columns + column] = box.paints[place]
            else:
                homeless.append(box.paints[place])
    free = [place for place in range(shape.count) if place not in kept]
    kept.update(zip(free, homeless, strict=False))
    for well in draft.study.rows("wells", "box_id = ?", (box.id,)):
        draft.remove("wells", well)
    for place in range(shape.count):
        draft.add("wells", box_id=box.id, place=place, paint_id=kept.get(place), pan=pans.get(place, "half"))


def remove_box(study: Study, box_id: int) -> Command:
    """A box goes; its paints stay."""
    box = _box(study, box_id)
    draft = Draft(study, tr("Remove {name}", name=box.name))
    for well in study.rows("wells", "box_id = ?", (box_id,)):
        draft.remove("wells", well)
    draft.remove("boxes", study.row("boxes", box_id))
    draft.tell("box", tr("{name} was taken apart; its paints stay", name=box.name))
    return draft.command()


def lay_wells(study: Study, box_id: int, paints: Mapping[int, int], title: str) -> Command:
    """The paints of a box lie as given, from place to paint; every other well is empty."""
    box = _box(study, box_id)
    draft = Draft(study, title)
    wells = {row["place"]: row for row in study.rows("wells", "box_id = ?", (box_id,))}
    for place in range(box.shape.count):
        wanted = paints.get(place)
        if place in wells:
            draft.edit("wells", wells[place]["id"], paint_id=wanted)
        elif wanted is not None:
            draft.add("wells", box_id=box_id, place=place, paint_id=wanted, pan="half")
    return draft.command()


def move_paint(study: Study, box_id: int, start: int, end: int) -> Command | None:
    """A paint goes to another well; what lay there changes place with it. None where nothing would move."""
    box = _box(study, box_id)
    if start == end or start not in box.paints:
        return None
    paints = dict(box.paints)
    moved, other = paints.pop(start), paints.pop(end, None)
    paints[end] = moved
    if other is not None:
        paints[start] = other
    name = study.row("paints", moved)["name"]
    return lay_wells(study, box_id, paints, tr("Move {name}", name=name))


def set_pan(study: Study, box_id: int, place: int, pan: str) -> Command:
    """A half pan or a full pan in a well."""
    if pan not in PANS:
        raise CulmoError(tr('a pan is "half" or "full", not "{pan}"', pan=pan))
    draft = Draft(study, tr("Put in a {pan} pan", pan=pan))
    wells = study.rows("wells", "box_id = ? AND place = ?", (box_id, place))
    if wells:
        draft.edit("wells", wells[0]["id"], pan=pan)
    else:
        draft.add("wells", box_id=box_id, place=place, paint_id=None, pan=pan)
    return draft.command()


@dataclass(frozen=True)
class NewBox:
    """A box that is laid out for new paints."""

    name: str
    shape: BoxShape


def add_paints(
    study: Study,
    entries: Sequence[PaintEntry],
    box: int | NewBox | None = None,
    pans: Mapping[int, str] | None = None,
) -> Command:
    """Many paints in one act, laid in a new box, or in the free wells of one, or in none.

    Wished paints lie in no box.

    Parameters
    ----------
    study : Study
    entries : sequence of PaintEntry, whose names are all new
    box : id of a box, a NewBox, or None
    pans : from place in `entries` to "full" or "half", for a new box

    Raises
    ------
    CulmoError
        when a name is taken or there are more paints than wells
    """
    if not entries:
        raise CulmoError(tr("there is no paint to take in"))
    taken = {row["name"].casefold(): row["name"] for row in study.rows("paints")}
    for entry in entries:
        folded = entry.name.strip().casefold()
        if folded in taken:
            raise CulmoError(
                tr(
                    'there is a paint named "{taken}" already; recipes could not tell them apart',
                    taken=taken[folded],
                )
            )
        taken[folded] = entry.name
    draft = Draft(
        study,
        tr("Add {n} paints", n=len(entries))
        if len(entries) > 1
        else tr("Add {what}", what=entries[0].name.strip()),
    )
    ids = [draft_paint(draft, entry) for entry in entries]
    laid = [(i, paint_id) for i, paint_id in enumerate(ids) if entries[i].status != "wished"]
    if isinstance(box, NewBox):
        if len(laid) > box.shape.count:
            raise CulmoError(tr("{n} paints do not lie in {count} wells", n=len(laid), count=box.shape.count))
        name = _check_box_name(study, box.name)
        shape = BoxShape(
            box.shape.rows,
            box.shape.columns,
            {place: (pans or {}).get(i, "half") for place, (i, _) in enumerate(laid)},
            box.shape.gap_mm,
            box.shape.rim_mm,
        )
        _draft_box(draft, name, shape, {place: paint_id for place, (_, paint_id) in enumerate(laid)})
        draft.tell(
            "box",
            tr(
                "{name} was laid out, {rows} rows of {columns}, {n} paints",
                name=name,
                rows=shape.rows,
                columns=shape.columns,
                n=len(laid),
            ),
        )
    elif box is not None:
        _into_free_wells(draft, _box(study, box), [paint_id for _, paint_id in laid])
    return draft.command()


def _into_free_wells(draft: Draft, box: Box, ids: Sequence[int]) -> None:
    wells = {row["place"]: row for row in draft.study.rows("wells", "box_id = ?", (box.id,))}
    free = [place for place in range(box.shape.count) if place not in box.paints]
    if len(ids) > len(free):
        raise CulmoError(
            tr(
                '{n} paints are more than the {n2} empty wells of "{name}"',
                n=len(ids),
                n2=len(free),
                name=box.name,
            )
        )
    for place, paint_id in zip(free, ids, strict=False):
        if place in wells:
            draft.edit("wells", wells[place]["id"], paint_id=paint_id)
        else:
            draft.add("wells", box_id=box.id, place=place, paint_id=paint_id, pan="half")


def set_role(study: Study, role: str, paint_id: int | None) -> Command:
    """The painter gives a role to a paint; None leaves it to the mixes again."""
    rows = study.rows("roles", "role = ?", (role,))
    draft = Draft(study, tr("Choose the {role}", role=role))
    if paint_id is None:
        if rows:
            draft.remove("roles", rows[0])
    elif rows:
        draft.edit("roles", rows[0]["id"], paint_id=paint_id)
    else:
        draft.add("roles", role=role, paint_id=paint_id)
    if draft.changes:
        words = tr("is the {role} by choice", role=role) if paint_id is not None else ""
        name = study.row("paints", paint_id)["name"] if paint_id is not None else ""
        text = f"{name} {words}" if name else tr("The {role} is left to the mixes again", role=role)
        draft.tell("verdict", text, paint_id=paint_id)
    return draft.command()


def refill(study: Study, old_id: int, entry: PaintEntry) -> Command:
    """A new paint takes an old one's place in every well; the old one is retired and its record stands.

    Where the new one bears the same name, the old one is renamed with a year behind, so that both can be told apart.
    """
    old = study.row("paints", old_id)
    names = [row["name"] for row in study.rows("paints")]
    draft = Draft(study, tr("Refill {name}", name=old["name"]))
    kept = old["name"]
    if entry.name.strip().casefold() == kept.casefold():
        kept = free_name(tr("{name}, until {value}", name=old["name"], value=draft.at[:4]), names)
        rename_everywhere(draft, old["name"], kept)
    elif entry.name.strip().casefold() in {name.casefold() for name in names}:
        raise CulmoError(tr('there is a paint named "{what}" already', what=entry.name.strip()))
    draft.edit("paints", old_id, name=kept, retired=1)
    new_id = draft_paint(draft, entry)
    draft.edit("paints", new_id, position=old["position"])
    for table in ("wells", "roles"):
        for row in study.rows(table, "paint_id = ?", (old_id,)):
            draft.edit(table, row["id"], paint_id=new_id)
    draft.tell(
        "paint", tr("{what} took the place of {kept}", what=entry.name.strip(), kept=kept), paint_id=new_id
    )
    return draft.command()


def start_fade(study: Study, sheet_id: int, place: str, weeks: Sequence[float] = FADE_WEEKS) -> Command:
    """A page of cards goes into the window; from today its looks are due.

    Raises
    ------
    CulmoError
        when the sheet has no patches for it, or hangs there already
    """
    title = study.row("sheets", sheet_id)["title"]
    if not study.rows("cells", "sheet_id = ? AND treatment = 'exposed'", (sheet_id,)):
        raise CulmoError(
            tr('"{title}" has no patches for the fade test; plan a card page with them', title=title)
        )
    if study.rows("fades", "sheet_id = ? AND ended IS NULL", (sheet_id,)):
        raise CulmoError(tr('"{title}" is in a window already', title=title))
    draft = Draft(study, tr("Put {title} into the window", title=title))
    draft.add(
        "fades",
        sheet_id=sheet_id,
        started=draft.at,
        place=place.strip(),
        weeks=json.dumps(list(weeks)),
        ended=None,
    )
    where = f" ({place.strip()})" if place.strip() else ""
    draft.tell(
        "run",
        tr("{title} went into the window{where}, one half covered", title=title, where=where),
        sheet_id=sheet_id,
    )
    return draft.command()


def end_fade(study: Study, fade_id: int) -> Command:
    """A page comes out of the window; its looks stand."""
    row = study.row("fades", fade_id)
    title = study.row("sheets", row["sheet_id"])["title"]
    draft = Draft(study, tr("Take {title} out of the window", title=title))
    draft.edit("fades", fade_id, ended=draft.at)
    draft.tell("run", tr("{title} came out of the window", title=title), sheet_id=row["sheet_id"])
    return draft.command()
