"""The study file: every act saved and undone whole, and nothing lost when something is wrong."""

import os
import shutil
import sqlite3
import stat
import subprocess
import sys
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix
from culmo.errors import CulmoError
from culmo.study import acts, note_acts, paint_acts, records
from culmo.study.file import Change, Command, Study
from culmo.study.schema import TABLES
from support.builders import FIVE, make_sheet, make_study


def random_act(study, draw):
    """One act of a painter, drawn at random from those that are possible now."""
    paints = records.paints(study)
    sheets = [sheet_id for sheet_id, _ in records.sheet_titles(study)]
    kind = draw(
        st.sampled_from(
            ["paint", "rename", "retire", "sheet", "stroke", "back", "read", "keep", "note", "trust"]
        )
    )
    if kind == "paint":
        return acts.add_paint(study, acts.PaintEntry(f"New {study.next_id('paints')}", "PY3"))
    if kind == "rename" and paints:
        paint = draw(st.sampled_from(paints))
        return acts.edit_paint(study, paint.id, acts.PaintEntry(f"{paint.name} bis", paint.codes))
    if kind == "retire" and len(paints) > 3:
        return acts.retire_paint(study, draw(st.sampled_from(paints)).id)
    if kind == "sheet" and len(paints) > 1:
        return acts.add_sheet(study, make_sheet([paint.name for paint in paints[:3]]))
    if kind == "note":
        return note_acts.add_note(study, "seen in the evening light")
    if kind == "trust":
        rows = study.rows("readings")
        return (
            acts.set_trust(study, rows[-1]["id"], draw(st.sampled_from(["good", "excluded"])))
            if rows
            else None
        )
    if not sheets:
        return None
    sheet_id = draw(st.sampled_from(sheets))
    cells = records.sheet_record(study, sheet_id).cells
    cell = draw(st.sampled_from(cells))
    return {
        "stroke": lambda: paint_acts.paint_cell(
            study, sheet_id, cell.id, draw(st.sampled_from(["done", "skip"]))
        ),
        "back": lambda: paint_acts.take_back(study, sheet_id),
        "read": lambda: acts.read_cell(study, sheet_id, cell.id, (40.0, 1.0, 2.0)),
        "keep": lambda: acts.mark_keeper(study, cell.id, True),
    }.get(kind, lambda: None)()


@pytest.mark.long
@given(data=st.data())
def test_apply_then_revert_leaves_the_study_identical(data, tmp_path_factory):
    with make_study(tmp_path_factory.mktemp("law") / "law.culmo", FIVE[:3]) as study:
        done, pictures = [], []
        for _ in range(data.draw(st.integers(1, 12))):
            command = random_act(study, data.draw)
            if command is not None and command.changes:
                pictures.append(study.dump())
                study.apply(command)
                done.append(command)
        after = study.dump()
        for command, picture in zip(reversed(done), reversed(pictures), strict=True):
            study.revert(command)
            assert study.dump() == picture
        for command in done:
            study.apply(command)
        assert study.dump() == after
        assert study.problems() == []


def test_a_study_can_be_open_only_once(tmp_path):
    with make_study(tmp_path / "a.culmo") as study:
        code = (
            "import sys;from pathlib import Path;from culmo.study.file import Study;Study(Path(sys.argv[1]))"
        )
        other = subprocess.run([sys.executable, "-c", code, study.path], capture_output=True, text=True)
        assert "open in another window" in other.stderr
        with pytest.raises(CulmoError, match="open in another window"):
            Study(study.path)
    Study(tmp_path / "a.culmo").close()


@pytest.mark.parametrize(
    "content", [b"", b"not a database at all, but long enough " * 40, b"SQLite format 3\0" + b"x" * 2000]
)
def test_foreign_files_are_refused_and_left_alone(tmp_path, content):
    path = tmp_path / "foreign.culmo"
    path.write_bytes(content)
    with pytest.raises(CulmoError, match=r"foreign\.culmo"):
        Study(path)
    assert path.read_bytes() == content


def test_another_programs_database_is_refused(tmp_path):
    path = tmp_path / "other.culmo"
    db = sqlite3.connect(path)
    db.execute("CREATE TABLE things (id)")
    db.close()
    with pytest.raises(CulmoError, match="not a study"):
        Study(path)


def test_a_newer_file_is_refused_politely(tmp_path):
    make_study(tmp_path / "a.culmo").close()
    db = sqlite3.connect(tmp_path / "a.culmo")
    db.execute("PRAGMA user_version=999")
    db.close()
    before = (tmp_path / "a.culmo").read_bytes()
    with pytest.raises(CulmoError, match="newer Culmo"):
        Study(tmp_path / "a.culmo")
    assert (tmp_path / "a.culmo").read_bytes() == before


def test_missing_and_existing_paths(tmp_path):
    with pytest.raises(CulmoError, match="no study at"):
        Study(tmp_path / "none.culmo")
    make_study(tmp_path / "a.culmo").close()
    with pytest.raises(CulmoError, match="exists already"):
        Study.create(tmp_path / "a.culmo", "again")
    with pytest.raises(CulmoError, match="folder"):
        Study.create(tmp_path / "no folder" / "a.culmo", "x")


def test_a_full_disk_loses_nothing(study):
    """SQLite's own page limit stands for the full disk: the same error comes from the same place."""
    before = study.dump()
    pages = study.disk.db.execute("PRAGMA page_count").fetchone()[0]
    study.disk.db.execute(f"PRAGMA max_page_count={pages}")
    with pytest.raises(CulmoError, match="could not be saved"):
        for _ in range(50):
            study.apply(note_acts.add_note(study, "x" * 3000))
    assert len(study.dump()["notes"]) < 50
    study.disk.db.execute("PRAGMA max_page_count=1000000")
    assert study.dump()["paints"] == before["paints"]
    assert study.problems() == []


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write anywhere")
def test_a_read_only_folder(tmp_path):
    make_study(tmp_path / "a.culmo").close()
    tmp_path.chmod(stat.S_IRUSR | stat.S_IXUSR)
    try:
        with pytest.raises(CulmoError):
            Study.create(tmp_path / "b.culmo", "x")
    finally:
        tmp_path.chmod(stat.S_IRWXU)


def test_a_change_to_a_row_that_is_gone_changes_nothing(study):
    before = study.dump()
    row = study.rows("paints")[0]
    good = Change("notes", 1, None, {"id": 1, "text": "x", "created": study.clock()})
    lost = Change("paints", 999, {**row, "id": 999}, {**row, "id": 999, "name": "ghost"})
    with pytest.raises(CulmoError, match="no longer there"):
        study.apply(Command("broken", (good, lost)))
    assert study.dump() == before


@pytest.mark.parametrize(
    "column, value",
    [("taken", "yesterday"), ("L", 1e300), ("L", float("inf")), ("a", "red"), ("extra", "{"), ("b", -500.0)],
)
def test_what_a_study_would_not_be_opened_with_is_not_saved(study, column, value):
    good = acts.add_readings(
        study, [acts.Incoming(Reading(mix({"Rose": 1.0}), (50.0, 1.0, 2.0)), None, ())], "x"
    )
    index = next(k for k, change in enumerate(good.changes) if change.table == "readings")
    change = good.changes[index]
    bad = replace(change, after={**change.after, column: value})
    before = study.dump()
    with pytest.raises(CulmoError, match="nothing was changed"):
        study.apply(replace(good, changes=(*good.changes[:index], bad, *good.changes[index + 1 :])))
    assert study.dump() == before and study.problems() == []
    study.apply(good)
    assert len(study.rows("readings")) == len(before["readings"]) + 1


def test_every_table_is_documented():
    from pathlib import Path

    text = (Path(__file__).parents[2] / "docs" / "study-file.md").read_text(encoding="utf-8")
    for table in TABLES:
        assert f"`{table}`" in text, table


def test_a_file_of_each_released_version_opens(tmp_path):
    from pathlib import Path

    for old in (Path(__file__).parent / "old").glob("v*.culmo"):
        copy = tmp_path / old.name
        shutil.copy(old, copy)
        with Study(copy) as study:
            assert study.problems() == []
            assert records.paints(study)
            assert records.readings(study)


def test_killed_in_the_middle_of_acts(tmp_path):
    """A process is killed while it writes; all that it had acknowledged is there."""
    make_study(tmp_path / "a.culmo", cards=False).close()
    code = (
        "import sys\nfrom pathlib import Path\nfrom culmo.study.file import Study\nfrom culmo.study import note_acts\n"
        "s=Study(Path(sys.argv[1]))\ni=0\nwhile True:\n i+=1\n"
        " s.apply(note_acts.add_note(s,f'note {i}'))\n print(i,flush=True)"
    )
    for _ in range(4):
        child = subprocess.Popen(
            [sys.executable, "-c", code, tmp_path / "a.culmo"], stdout=subprocess.PIPE, text=True
        )
        said = [child.stdout.readline() for _ in range(7)]
        child.kill()
        said += child.stdout.readlines()
        child.wait()
        child.stdout.close()
        with Study(tmp_path / "a.culmo") as study:
            assert study.problems() == []
            texts = {row["text"] for row in study.rows("notes")}
            assert {f"note {line.strip()}" for line in said if line.strip()} <= texts


# ---- the acts


def test_a_name_is_carried_into_the_record(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    paint = records.paints(study)[1]
    study.apply(acts.edit_paint(study, paint.id, acts.PaintEntry("Rose, deep: + more", "PV19")))
    names = {name for entry in records.sheet_record(study, 1).cells for name in entry.cell.recipe.names}
    assert "Rose, deep: + more" in names
    assert "Rose" not in names
    assert all(name != "Rose" for reading in records.readings(study) for name in reading.recipe.names)


def test_a_card_and_a_new_name_in_one_act(study):
    before = study.dump()
    entry = acts.PaintEntry("Deep rose", "PV19")
    command = acts.edit_paint(study, 2, entry, [Reading(mix(["Rose"]), (30.0, 50.0, 10.0))])
    study.apply(command)
    cards = [r for r in records.readings(study) if "Deep rose" in r.recipe.names]
    assert [(str(r.recipe), r.ground, r.lab) for r in cards] == [("Deep rose", "paper", (30.0, 50.0, 10.0))]
    study.revert(command)
    assert study.dump() == before


def test_a_card_that_is_as_it_was_is_not_told_as_read(study):
    rose = next(row for row in study.rows("paints") if row["name"] == "Rose")
    card = [r for r in records.readings(study) if r.recipe.names == ("Rose",)]
    told = study.count("events")
    study.apply(acts.edit_paint(study, rose["id"], acts.PaintEntry("Rose", "PV19", note="mine"), card))
    said = [row["text"] for row in study.rows("events")[told:]]
    assert said and not any("card" in text for text in said)


@pytest.mark.parametrize("name", ["", "  ", "-", "x" * 200, "a\nb"])
def test_names_that_can_not_be(name):
    with pytest.raises(CulmoError):
        acts.PaintEntry(name)


def test_a_second_paint_of_the_same_name_is_refused(study):
    with pytest.raises(CulmoError, match="already"):
        acts.add_paint(study, acts.PaintEntry("ROSE"))


def test_a_retired_paint_leaves_its_record(study):
    study.apply(acts.retire_paint(study, 1))
    assert "Lemon" not in [paint.name for paint in records.paints(study)]
    assert any("Lemon" in reading.recipe.names for reading in records.readings(study))


@pytest.mark.long
def test_a_painted_sheet_that_is_changed_becomes_a_new_version(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    study.apply(acts.change_sheet(study, 1, make_sheet(paper="A3")))
    assert [row["archived"] for row in study.rows("sheets")] == [0]
    cell = records.sheet_record(study, 1).cells[0]
    study.apply(paint_acts.paint_cell(study, 1, cell.id))
    study.apply(acts.change_sheet(study, 1, make_sheet(paper="A5")))
    rows = study.rows("sheets")
    assert [(row["archived"], row["replaces"]) for row in rows] == [(1, None), (0, 1)]
    assert records.painted_cells(study, 1)


def test_a_run_ends_with_its_last_cell_and_goes_on_after_taking_back(study):
    study.apply(acts.add_sheet(study, make_sheet(FIVE[:2])))
    for entry in records.sheet_record(study, 1).cells:
        study.apply(paint_acts.paint_cell(study, 1, entry.id))
    assert study.rows("runs")[0]["ended"] is not None
    study.apply(paint_acts.take_back(study, 1))
    assert study.rows("runs")[0]["ended"] is None
    assert len(records.painted_cells(study, 1)) == 3


def test_a_second_reading_of_a_cell_replaces_the_first(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    for L in (30.0, 40.0):
        study.apply(acts.read_cell(study, 1, 3, (L, 0.0, 0.0)))
    assert [row["L"] for row in study.rows("readings", "cell_id = 3")] == [40.0]
    with pytest.raises(CulmoError):
        acts.read_cell(study, 1, 3, (400.0, 0.0, 0.0))


def test_readings_of_unknown_paints_are_refused_whole(study):
    before = study.dump()
    incoming = [acts.Incoming(Reading(mix([name]), (50.0, 0.0, 0.0))) for name in ("Rose", "Nobody")]
    with pytest.raises(CulmoError, match="Nobody"):
        acts.add_readings(study, incoming, "a file")
    assert study.dump() == before


def test_a_whole_number_that_no_column_holds_is_told_and_nothing_is_changed(study):
    sheet = make_sheet()
    vast = replace(sheet, cells=(replace(sheet.cells[0], order=10**21), *sheet.cells[1:]))
    before = study.dump()
    with pytest.raises(CulmoError, match="could not be saved"):
        study.apply(acts.add_sheet(study, vast))
    assert study.dump() == before
    study.apply(acts.add_sheet(study, sheet))
    assert study.problems() == []


def test_each_act_is_called_by_what_it_undoes(study):
    """The Edit menu offers to take back what was done, and not its opposite."""
    study.apply(acts.add_sheet(study, make_sheet()))
    cell = records.sheet_record(study, 1).cells[1]
    spoken = "Lemon + Rose, tint"
    titles = [
        (acts.mark_keeper(study, cell.id, True), f"Keep {spoken}"),
        (acts.mark_keeper(study, cell.id, False), f"Let go of {spoken}"),
        (acts.note_cell(study, cell.id, "x"), f"Note on {spoken}"),
        (acts.read_cell(study, 1, cell.id, (50.0, 0.0, 0.0)), f"Read {spoken}"),
        (acts.read_bare(study, "paper", (95.0, 0.0, 0.0)), "Read the bare paper"),
        (acts.read_bare(study, "ink", (25.0, 0.0, 0.0)), "Read the bare ink line"),
        (acts.add_paint(study, acts.PaintEntry("Sepia")), "Add Sepia"),
        (acts.edit_paint(study, 1, acts.PaintEntry("Lemon", note="x")), "Edit Lemon"),
        (acts.retire_paint(study, 1), "Retire Lemon"),
        (acts.bring_back(study, 1), "Bring back Lemon"),
        (acts.add_sheet(study, make_sheet()), "Plan A grid"),
        (acts.add_sheets(study, [make_sheet(), make_sheet()]), "Plan 2 sheets"),
        (acts.change_sheet(study, 1, make_sheet()), "Change A grid"),
        (acts.set_trust(study, 1, "excluded"), "Put a reading aside"),
        (acts.set_trust(study, 1, "good"), "Take a reading in again"),
        (paint_acts.paint_cell(study, 1, cell.id), f"Paint {spoken}"),
        (paint_acts.paint_cell(study, 1, cell.id, "skip"), f"Skip {spoken}"),
        (paint_acts.paint_cell(study, 1, cell.id, "repaint"), f"Paint {spoken} again"),
    ]
    assert [command.title for command, _ in titles] == [title for _, title in titles]


def test_a_keeper_at_the_table_is_one_on_the_sheet_until_the_mark_goes(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    cell = records.sheet_record(study, 1).cells[1]
    study.apply(paint_acts.paint_cell(study, 1, cell.id))
    for kept in (True, False, True):
        command = paint_acts.mark_stroke(study, 1, "keeper")
        study.apply(command)
        assert study.row("cells", cell.id)["keeper"] == kept
        assert study.row("strokes", 1)["marks"] == ("keeper" if kept else "")
        assert command.title == f"Lemon + Rose, tint: {'' if kept else 'no longer '}keeper"
    study.apply(paint_acts.mark_stroke(study, 1, "blooms"))
    assert study.row("cells", cell.id)["keeper"] == 1  # another mark leaves it
    assert study.row("strokes", 1)["marks"] == "keeper blooms"


def test_a_new_run_begins_with_the_paper_of_the_last_and_with_fresh_water(study):
    for _ in range(2):
        study.apply(acts.add_sheet(study, make_sheet(FIVE[:2])))
    first, second = (records.sheet_record(study, sheet_id).cells[0].id for sheet_id in (1, 2))
    study.apply(paint_acts.paint_cell(study, 1, first))
    study.apply(paint_acts.set_run(study, 1, paper="hot pressed"))
    study.apply(paint_acts.change_water(study, 1))
    before = records.json_of(study.rows("runs")[0], "settings")
    assert {"water", "paper"} <= set(before)
    study.apply(paint_acts.paint_cell(study, 2, second))
    after = records.json_of(study.rows("runs")[1], "settings")
    assert after == {key: value for key, value in before.items() if key != "water"}
    assert paint_acts.water_changed(study, 2) is None


def test_what_an_earlier_version_planned_is_known_for_what_it_is(tmp_path):
    """Boxes beside a ladder are wet in wet and teach no parts; a fan's halves meet; other halves follow each other."""
    from pathlib import Path

    shutil.copy(Path(__file__).parent / "old" / "v6.culmo", tmp_path / "six.culmo")
    with Study(tmp_path / "six.culmo") as study:
        by_kind = {row["kind"]: row["id"] for row in study.rows("sheets")}
        sheets = {kind: records.sheet_record(study, i).sheet for kind, i in by_kind.items()}
        assert {cell.mixing for cell in sheets["ladder"].cells if cell.id.endswith("c04")} == {"wet"}
        assert {cell.mixing for cell in sheets["ladder"].cells if cell.id.endswith("c01")} == {""}
        assert sheets["fan"].cell("r01c01").meets == ("r01c01b",)
        assert sheets["grid"].cell("r02c01b").half_of == "r02c01"
        assert sheets["grid"].cell("r02c01b").meets == ()
        mixes = [reading for reading in records.readings(study) if len(reading.recipe.names) == 2]
        assert len(mixes) == 1
        assert not mixes[0].teaches
