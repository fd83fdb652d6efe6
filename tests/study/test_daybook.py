"""The Daybook's record: days, what is due, notes with pictures, search over everything."""

from datetime import date

import numpy as np
import pytest

from culmo.core.paint.readings import INK
from culmo.errors import CulmoError
from culmo.study import acts, diary, note_acts, paint_acts, palette_acts, records
from culmo.study.due import DueBook, DueKind, due
from culmo.study.file import Change, Command
from culmo.study.mix_acts import mixes_worth_keeping
from culmo.study.photo_acts import Picture, PictureKept
from culmo.study.photo_files import picture_bytes
from culmo.study.pictures import jpeg_bytes, thumbnail
from culmo.study.search import KINDS, MOST_HITS, Index, Query, parse_query, search
from support.builders import make_sheet

TODAY = date(2026, 11, 3)


def at(study, text):
    study.clock = lambda: text


def picture(name="drawer.jpg", where="beside"):
    pixels = np.full((90, 140, 3), 120, np.uint8)
    return Picture(name, jpeg_bytes(pixels), where=where)


def find(study, text, kinds=KINDS):
    return search(Index(study), parse_query(text, TODAY), kinds)


# ---- days


def test_days_stand_latest_first_and_many_like_lines_are_one(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    moments = iter(f"2026-03-{day:02d}T10:0{i}:00+01:00" for day in (3, 5) for i in range(6))
    study.clock = lambda: next(moments)
    for i in range(6):
        study.apply(acts.read_cell(study, 1, i + 1, (40.0, 0.0, i)))
    for i in range(3):
        study.apply(note_acts.add_note(study, f"note {i}"))
    found = diary.days(study)
    dates = [day.date for day in found]
    assert dates == sorted(dates, reverse=True)
    (read,) = next(day for day in found if day.date == "2026-03-03").entries
    assert read.text == "6 readings of A grid: Lemon … Lemon + Rose"
    assert read.count == 6
    assert [patch.lab for patch in read.patches] == [(40.0, 0.0, i) for i in range(6)]
    notes = next(day for day in found if day.date == "2026-03-05")
    assert [entry.text for entry in notes.entries] == ["note 0", "note 1", "note 2"]
    assert {entry.kind for day in diary.days(study, (diary.DiaryKind.NOTE,)) for entry in day.entries} == {
        diary.DiaryKind.NOTE
    }


def test_many_readings_that_belong_to_no_sheet_are_told_by_their_own_words(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    for cell in range(1, 7):
        study.apply(acts.read_cell(study, 1, cell, (40.0, 0.0, 0.0)))
    older = study.rows("events", "kind = 'reading' AND sheet_id = 1")
    changes = [
        Change("events", row["id"], row, {**row, "cell_id": None, "text": f"r0{row['id']}"}) for row in older
    ]
    study.apply(Command("as an older version wrote it", tuple(changes)))
    (read,) = [
        entry for day in diary.days(study, (diary.DiaryKind.READ,), sheet_id=1) for entry in day.entries
    ]
    assert read.text.startswith("6 readings: r0") and "; … r0" in read.text


def test_a_cell_is_called_by_its_mix_wherever_it_is_named(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    cell = next(row for row in study.rows("cells") if row["recipe"] == "Lemon + Rose")
    titles = []

    def do(command):
        titles.append(command.title)
        study.apply(command)

    do(acts.read_cell(study, 1, cell["id"], (40.0, 0.0, 0.0)))
    do(acts.note_cell(study, cell["id"], "blooms at the edge"))
    do(paint_acts.paint_cell(study, 1, cell["id"]))
    stroke = records.stroke_rows(study, 1)[-1]["id"]
    do(paint_acts.mark_stroke(study, stroke, "granulates"))
    do(paint_acts.mark_stroke(study, stroke, "granulates"))
    do(paint_acts.note_stroke(study, stroke, "so"))
    do(paint_acts.take_back(study, 1))
    assert titles == [
        "Read Lemon + Rose", "Note on Lemon + Rose", "Paint Lemon + Rose", "Lemon + Rose: granulates",
        "Lemon + Rose: no longer granulates", "Note on Lemon + Rose", "Take back Lemon + Rose",
    ]  # fmt: skip
    told = [
        entry.text for day in diary.days(study, (diary.DiaryKind.READ,), sheet_id=1) for entry in day.entries
    ]
    assert told == ["A grid: Lemon + Rose was read"]


def test_a_day_tells_what_was_painted_and_how_it_went(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    for minute in range(4):
        at(study, f"2026-03-03T10:{minute:02d}:00+01:00")
        study.apply(paint_acts.paint_cell(study, 1, minute + 1))
        study.apply(paint_acts.mark_stroke(study, minute + 1, "granulates"))
    entries = diary.days(study, (diary.DiaryKind.PAINT,), sheet_id=1)[0].entries
    assert "4 washes of A grid, 10:00 to 10:03; 4 × granulates" in [entry.text for entry in entries]
    assert not diary.days(study, (diary.DiaryKind.PAINT,), sheet_id=99)


def test_kept_palettes_and_paints_bring_their_strokes(study):
    at(study, "2027-03-03T10:00:00+01:00")
    study.apply(palette_acts.keep_palette(study, "Three", ["Rose", "Lemon", "Viridian"], reason="clean"))
    (entry,) = diary.days(study)[0].entries
    assert entry.palette_id == 1
    assert entry.strokes == ("Rose", "Lemon", "Viridian")
    at(study, "2027-03-04T10:00:00+01:00")
    study.apply(acts.retire_paint(study, 1))
    assert diary.days(study)[0].entries[0].strokes == ("Lemon",)


# ---- notes


@pytest.mark.parametrize("where", ["beside", PictureKept.INSIDE])
def test_a_note_keeps_its_pictures_and_comes_back_by_undo(study, where):
    before = study.dump()
    command = note_acts.add_note(
        study, " seen in the drawer ", [picture(where=where), picture("two.jpg", where)]
    )
    study.apply(command)
    (note,) = study.rows("notes")
    assert note["text"] == "seen in the drawer"
    photos = study.rows("photos", "note_id = ?", (note["id"],))
    assert [photo["name"] for photo in photos] == ["drawer.jpg", "two.jpg"]
    assert all(thumbnail(picture_bytes(study, photo), "x", 64).shape == (41, 64, 3) for photo in photos)
    entry = diary.days(study)[0].entries[-1]
    assert entry.photos == tuple(photo["id"] for photo in photos)
    change = note_acts.edit_note(study, note["id"], "better words", [picture("three.jpg", where)])
    written = study.dump()
    study.apply(change)
    assert [row["text"] for row in study.rows("events", "note_id NOT NULL")] == ["better words"]
    assert len(study.rows("photos")) == 3
    study.revert(change)
    assert study.dump() == written
    removal = note_acts.remove_note(study, note["id"])
    study.apply(removal)
    assert not study.rows("notes") and not study.rows("photos")
    study.revert(removal)
    assert study.dump() == written
    study.revert(command)
    assert study.dump() == before


def test_notes_that_can_not_be_kept_say_why(study):
    with pytest.raises(CulmoError, match="empty"):
        note_acts.add_note(study, "  ")
    with pytest.raises(CulmoError, match="20000 are the most"):
        note_acts.add_note(study, "x" * 20_001)
    with pytest.raises(CulmoError, match="too many"):
        note_acts.add_note(study, "x", [picture()] * 21)
    study.apply(note_acts.add_note(study, "", [picture()]))
    assert diary.days(study)[0].entries[-1].text == "drawer.jpg"


def test_a_lost_or_damaged_picture_is_named(study):
    study.apply(note_acts.add_note(study, "x", [picture()]))
    (photo,) = study.rows("photos")
    (study.path.parent / photo["path"]).unlink()
    with pytest.raises(CulmoError, match="no longer beside"):
        picture_bytes(study, photo)
    for data in (b"", b"\xff\xd8\xff\xe0 no picture", jpeg_bytes(np.zeros((90, 90, 3), np.uint8))[:-200]):
        with pytest.raises(CulmoError):
            thumbnail(data, "x.jpg", 64)


# ---- due


def test_what_dries_what_is_half_done_and_what_waits_to_be_read(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    study.apply(acts.add_sheet(study, make_sheet(FIVE[:2])))
    study.apply(acts.add_sheet(study, make_sheet(FIVE[:3])))
    at(study, "2026-03-03T10:00:00+01:00")
    study.apply(paint_acts.paint_cell(study, 1, 1))
    small = [row["id"] for row in study.rows("cells", "sheet_id = 2")]
    for cell in small:
        study.apply(paint_acts.paint_cell(study, 2, cell))
    at(study, "2026-03-03T10:05:00+01:00")
    kinds = {(entry.kind, entry.sheet_id) for entry in due(study)}
    assert kinds == {(DueKind.HALF, 1), (DueKind.DRYING, 1), (DueKind.DRYING, 2), (DueKind.PLANNED, 3)}
    assert not next(entry for entry in due(study) if entry.kind == DueKind.DRYING).now
    at(study, "2026-03-04T10:05:00+01:00")
    kinds = {(entry.kind, entry.sheet_id) for entry in due(study)}
    assert kinds == {(DueKind.HALF, 1), (DueKind.UNREAD, 2), (DueKind.PLANNED, 3)}
    for cell in small:
        study.apply(acts.read_cell(study, 2, cell, (50.0, 0.0, 0.0)))
    assert {entry.kind for entry in due(study)} == {DueKind.HALF, DueKind.PLANNED}


FIVE = ("Lemon", "Rose", "Ultramarine", "Viridian", "Ochre")


def test_a_clock_that_was_set_back_breaks_nothing(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    at(study, "2026-03-03T10:00:00+01:00")
    study.apply(paint_acts.paint_cell(study, 1, 1))
    at(study, "2020-01-01T00:00:00+01:00")
    assert {entry.kind for entry in due(study)} >= {DueKind.HALF}
    study.apply(note_acts.add_note(study, "a note of the past"))
    study.apply(paint_acts.paint_cell(study, 1, 2))
    assert diary.days(study)[-1].date == "2020-01-01"
    assert find(study, "2020-01-01").hits[0].title == "a note of the past"


# ---- search


def test_a_text_is_taken_apart():
    assert parse_query('moss "blue black" 2026-10', TODAY) == Query(("blue black", "moss"), ("2026-10",))
    assert parse_query("3.11.2026 today yesterday", TODAY).days == ("2026-11-03", "2026-11-03", "2026-11-02")
    assert parse_query("november", TODAY).days == ("____-11",)
    assert parse_query("50, -3.5, 20 rose", TODAY) == Query(("rose",), (), (50.0, -3.5, 20.0))
    assert parse_query("#102030", TODAY).lab[0] == pytest.approx(11.3, abs=0.5)
    assert parse_query("may 1 26 r01c02 900, 1, 1", TODAY).lab is None
    assert not parse_query("   ", TODAY)
    for odd in ('"', "%", "_", "!", "' OR 1=1 --", "#", "\0", "," * 50, "a" * 9000, '"unfinished'):
        parse_query(odd, TODAY)


def test_everything_is_found_by_words_marks_dates_and_pigments(study):
    at(study, "2026-03-03T10:00:00+01:00")
    study.apply(acts.add_paint(study, acts.PaintEntry("Grüne Erde", "PG23")))
    study.apply(acts.add_paint(study, acts.PaintEntry("Rose of old", "PV1")))
    study.apply(acts.add_sheet(study, make_sheet()))
    study.apply(paint_acts.paint_cell(study, 1, 2, how="touching"))
    study.apply(paint_acts.mark_stroke(study, 1, "blooms"))
    study.apply(acts.read_cell(study, 1, 2, (61.0, 2.0, 3.0)))
    study.apply(acts.note_cell(study, 3, "as on the moth"))
    study.apply(acts.mark_keeper(study, 3, True))
    study.apply(palette_acts.keep_palette(study, "Dusty", ["Ochre", "Rose"], reason="for the moths"))
    study.apply(palette_acts.add_wanted(study, "Plate", [palette_acts.Wanted("wing", (30.0, 5.0, 5.0))]))
    study.apply(note_acts.add_note(study, "100 % sure, or_not", [picture("moth.jpg")]))

    def kinds(text):
        return sorted(hit.kind for hit in find(study, text).hits)

    assert kinds("blooms") == ["cell"]
    assert kinds("touching") == ["cell"]
    assert kinds("MOTH") == ["cell", "note", "palette", "picture"]
    assert kinds("moth keeper") == ["cell"]
    assert kinds("GRÜNE") == ["paint"]
    assert kinds("% sure") == kinds("or_not") == ["note"]
    assert kinds("or%not") == []
    assert kinds("wing") == ["wanted"]
    assert {hit.at[:10] for hit in find(study, "2026-03-03").hits} == {"2026-03-03"}
    assert kinds("2026-03-03 sure") == ["note"]
    assert kinds("2019 sure") == []
    # a pigment finds the recipes of the paints that hold it, and no others with a like name
    assert {hit.recipe for hit in find(study, "PG23", ["reading"]).hits} == set()
    study.apply(acts.edit_paint(study, 2, acts.PaintEntry("Rose", "PV19")))
    found = {hit.recipe for hit in find(study, "PV19", ["reading"]).hits}
    assert found and all("Rose" in recipe for recipe in found)
    assert {hit.recipe for hit in find(study, "PV1", ["reading"]).hits} == set()


def test_colours_near_one_are_found_the_nearest_first(study):
    for place, lab in enumerate([(50.0, 0.0, 0.0), (52.0, 1.0, 0.0), (70.0, 0.0, 0.0)]):
        reading = acts.Incoming(acts.Reading(acts.parse_recipe(f"Rose:{place + 1} + Lemon"), lab))
        study.apply(acts.add_readings(study, [reading], "a test"))
    study.apply(palette_acts.add_wanted(study, "Plate", [palette_acts.Wanted("grey", (51.0, 0.0, 0.0))]))
    found = find(study, "50, 0, 0", ["reading", "wanted"]).hits
    mine = [
        hit
        for hit in found
        if hit.kind == "wanted" or (hit.recipe.startswith("Rose") and "Lemon" in hit.recipe)
    ]
    assert [hit.lab[0] for hit in mine] == [50.0, 51.0, 52.0]
    assert [hit.away for hit in found] == sorted(hit.away for hit in found)
    assert all(hit.away <= 8.0 for hit in found)
    assert {hit.recipe for hit in find(study, "50,0,0 rose:2").hits} == {"Rose:2 + Lemon"}


def test_more_than_is_shown_is_counted(study):
    readings = [
        acts.Incoming(acts.Reading(acts.parse_recipe("Rose"), (50.0, 0.0, i / 100), INK))
        for i in range(MOST_HITS + 7)
    ]
    study.apply(acts.add_readings(study, readings, "many"))
    found = find(study, "rose", ["reading"])
    assert len(found.hits) == MOST_HITS
    assert found.more["reading"] >= 7


def test_keepers_stand_once_with_their_reading(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    study.apply(acts.add_sheet(study, make_sheet()))
    per = len(study.rows("cells", "sheet_id = 1"))
    for cell in (2, 3, per + 2):
        study.apply(acts.mark_keeper(study, cell, True))
    study.apply(acts.read_cell(study, 1, 2, (61.0, 2.0, 3.0)))
    found = mixes_worth_keeping(study)
    assert len(found) == 2
    assert found[0].lab == (61.0, 2.0, 3.0)
    assert found[1].lab is None
    assert all(one.where == make_sheet().title for one in found)


def test_marks_and_sources_are_found_by_their_keys_and_by_the_words_they_are_said_in(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    study.apply(paint_acts.paint_cell(study, 1, 1, how="one brush"))
    study.apply(paint_acts.mark_stroke(study, 1, "granulates"))
    study.apply(paint_acts.mark_stroke(study, 1, "blooms"))
    study.apply(paint_acts.note_stroke(study, 1, "like tea"))
    study.apply(acts.read_cell(study, 1, 1, (40.0, 0.0, 0.0)))
    study.apply(acts.mark_keeper(study, 1, True))
    for text in ("keeper", "granulates", "blooms", "one brush", "two paints on one brush", "like tea"):
        assert [hit.cell_id for hit in find(study, f'"{text}"', ("cell",)).hits] == [1], text
    (hit,) = find(study, "keeper", ("cell",)).hits
    assert hit.detail == "keeper, granulates, blooms, two paints on one brush, like tea"
    assert hit.lab == (40.0, 0.0, 0.0)  # it was read, and is shown as it was read
    assert [hit.kind for hit in find(study, "40, 0, 0").hits] == ["reading"]  # found once
    (hit,) = find(study, "typed", ("reading",)).hits
    assert hit.detail == "typed, r01c01"
    (hit,) = find(study, "grid", ("sheet",)).hits
    assert hit.detail == "Grid"
    assert find(study, "tray").hits == ()


def test_warming_reads_each_kind_once_and_comes_to_an_end(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    study.apply(acts.mark_keeper(study, 1, True))
    index = Index(study)
    assert [index.warm() for _ in KINDS] == [True] * (len(KINDS) - 1) + [False]
    assert not index.warm()
    index.forget({"cells"})
    assert index.warm() and not index.warm()
    assert [hit.kind for hit in search(index, parse_query("keeper", TODAY)).hits] == ["cell"]


def test_what_is_due_is_kept_up_as_it_would_be_found_anew(study):
    """After every kind of act, and its undoing, the kept counts are those of a fresh look."""
    study.apply(acts.add_sheet(study, make_sheet()))
    study.apply(acts.add_sheet(study, make_sheet(paper="A3")))
    book = DueBook(study)
    book.due()
    done = []

    def act(command):
        study.apply(command)
        done.append(command)
        book.touch(command.changes)
        assert book.due() == due(study)

    for cell in (1, 2, 3):
        act(paint_acts.paint_cell(study, 1, cell))
    act(acts.read_cell(study, 1, 1, (50.0, 1.0, 1.0)))
    act(acts.read_bare(study, "paper", (95.0, 0.0, 3.0)))  # of no sheet
    act(acts.read_bare(study, "paper", (94.0, 0.0, 3.0)))
    act(acts.add_paint(study, acts.PaintEntry("New one", "PY3")))
    act(acts.change_sheet(study, 2, make_sheet(paper="A4")))
    act(note_acts.add_note(study, "of nothing"))
    for command in reversed(done):
        study.revert(command)
        book.touch(command.changes)
        assert book.due() == due(study)
