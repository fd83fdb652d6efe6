"""The real paint in the record: it goes in, moves, goes and comes back with its reading, in every copy of the study."""

import csv
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from culmo.core.capture.patch_picture import pixels_of
from culmo.core.capture.sheet_reading import CellReading
from culmo.core.paint.grain import as_label
from culmo.core.steps import run_through
from culmo.study import acts, paint_acts, records
from culmo.study.aside import putting_aside
from culmo.study.backups import (
    PICTURES,
    back_up,
    backups_folder,
    not_aside,
    pictures_folder,
    to_put_aside,
)
from culmo.study.draft import Draft
from culmo.study.elsewhere import save_copy
from culmo.study.exchange import exporting, same_record, study_from_folder
from culmo.study.file import Change, Command, Study
from culmo.study.inspection import problems_of_study
from culmo.study.learned import learning_from
from culmo.study.patches import digest_of, patches_of, seen_textures, texture_in, texture_text
from culmo.study.photo_acts import Picture, read_picture
from culmo.study.recovery import recover
from culmo.study.restoring import put_back
from support.builders import make_sheet, make_study
from support.patched import EARLY, LATE, SHOT, TEXTURE, patch_of, read_all
from support.patience import LONG_S


def shown(study, sheet_id=1):
    """The bytes of the patches of a sheet, by the ids of its cells."""
    cells = {one.id: one.cell.id for one in records.sheet_record(study, sheet_id).cells}
    rows = records.read_cells(study, sheet_id)
    found = patches_of(study, [row["id"] for row in rows.values()])
    return {cells[i]: found[row["id"]].data for i, row in rows.items() if row["id"] in found}


@pytest.fixture
def read(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    return study, {name: patch.data for name, patch in read_all(study).items()}


def test_each_reading_of_a_picture_has_its_patch(read):
    study, patches = read
    assert shown(study) == patches
    assert problems_of_study(study) == []
    (row, *_) = study.rows("patches")
    assert texture_in(row["texture"]) == TEXTURE
    assert row["digest"] == digest_of(row["data"])
    assert (row["left_mm"], row["per_mm"], row["taken"], row["source"]) == (-1.2, 6.0, EARLY, "photo")
    assert row["width_mm"] == pytest.approx(records.sheet_record(study, 1).cells[0].cell.box_mm[2])


def test_undone_and_done_again_it_is_the_same(study):
    study.apply(acts.add_sheet(study, make_sheet()))
    before = study.dump()
    study.clock = lambda: EARLY
    cells = records.sheet_record(study, 1).cells
    lab = np.array([50.0, 0.0, 0.0])
    entry = CellReading(
        cells[0].cell.id, cells[0].cell.recipe, "paper", lab, "good", (), 0.5, 2.0, 1.0, seen=(0.4, 0.3, 0.2)
    )
    command = read_picture(
        study, 1, [entry], Picture("a.jpg", b"a", EARLY), shot=SHOT, patches={entry.cell: patch_of(1)}, wet=()
    )
    study.apply(command)
    after = study.dump()
    study.revert(command)
    assert study.dump() == before
    study.apply(command)
    assert study.dump() == after and len(after["patches"]) == 1


def test_the_same_picture_read_again_takes_its_place_and_another_stands_beside_it(read):
    study, _ = read
    count = len(records.sheet_record(study, 1).cells)
    again = read_all(study, EARLY, seed=1)
    assert study.count("patches") == count
    assert shown(study) == {name: patch.data for name, patch in again.items()}
    later = read_all(study, LATE, seed=2)
    assert study.count("patches") == 2 * count
    assert shown(study) == {name: patch.data for name, patch in later.items()}, "the last is shown"


def test_a_reading_that_goes_takes_its_patches_along_and_brings_them_back(read):
    study, patches = read
    row = study.rows("readings", "cell_id NOT NULL")[0]
    draft = Draft(study, "remove")
    draft.remove("readings", row)
    command = draft.command()
    study.apply(command)
    assert len(shown(study)) == len(patches) - 1 and study.problems() == []
    study.revert(command)
    assert shown(study) == patches


def test_a_pale_end_has_none_of_its_own_and_a_typed_colour_none_at_all(read):
    study, _ = read
    cell = records.sheet_record(study, 1).cells[0]
    before = study.count("patches")
    lab = np.array([60.0, 0.0, 0.0])
    entry = CellReading(
        cell.cell.id,
        cell.cell.recipe,
        "paper",
        lab,
        "doubtful",
        ("pale end",),
        0.5,
        None,
        None,
        seen=(0.5,) * 3,
    )
    study.apply(
        read_picture(study, 1, [entry], Picture("b.jpg", b"b", LATE), shot=SHOT, patches={entry.cell: patch_of(5)})
    )  # fmt: skip
    assert study.count("patches") == before


def test_copies_hold_each_patch_once_and_it_comes_back_with_them(read):
    study, patches = read
    first = back_up(study)
    aside = backups_folder(study.path) / PICTURES
    files = {path.name for path in aside.iterdir()}
    assert files == {f"{digest_of(data)}.jpg" for data in patches.values()}
    with Study(first) as copy:
        assert {row["data"] for row in copy.rows("patches")} == {None}
        assert shown(copy) == patches, "a copy that is opened shows them from beside it"
    study.apply(acts.mark_keeper(study, 1, True))
    second = back_up(study)
    assert {path.name for path in aside.iterdir()} == files
    assert second.stat().st_size < study.path.stat().st_size - 0.8 * sum(map(len, patches.values()))
    path, whole = study.path, study.dump()
    study.close()
    path.write_bytes(b"lost")
    put_back(path, second)
    with Study(path) as back:
        assert shown(back) == patches
        assert same_record(back.dump(), whole)


def test_what_no_copy_names_any_more_goes_and_what_one_names_stays(read):
    study, patches = read
    back_up(study)
    aside = backups_folder(study.path) / PICTURES
    (aside / "0123456789abcdef01234567.jpg").write_bytes(b"of a copy that was dropped")
    study.apply(acts.mark_keeper(study, 1, True))
    back_up(study)
    assert {path.stem for path in aside.iterdir()} == {digest_of(data) for data in patches.values()}


def test_what_is_put_aside_ahead_is_what_a_copy_puts_aside(read, tmp_path):
    study, patches = read
    assert len(not_aside(study)) == len(patches)
    aside = pictures_folder(study)
    ids = not_aside(study)
    run_through(putting_aside(aside, study.disk.mode, to_put_aside(study, ids[:4])))
    assert not_aside(study) == ids[4:]
    (aside / f"{study.row('patches', ids[1])['digest']}.jpg").write_bytes(b"cut off")
    assert not_aside(study) == [ids[1], *ids[4:]], "one that is cut off is put there anew"
    missing = to_put_aside(study, not_aside(study))
    assert [key[1] for key, _, _ in missing] == [ids[1], *ids[4:]], "what lies there between them is not read"
    run_through(putting_aside(aside, study.disk.mode, missing))
    assert not_aside(study) == []
    before = {path.name: path.read_bytes() for path in aside.iterdir()}
    copy = back_up(study)
    assert {path.name: path.read_bytes() for path in aside.iterdir()} == before
    assert sorted(before.values()) == sorted(patches.values())
    with Study(copy) as opened:
        assert shown(opened) == patches
    shutil.rmtree(aside)
    assert not_aside(study) == [], "no copy is made of what did not change"


def test_what_is_stopped_while_it_puts_aside_leaves_no_part(read):
    study, patches = read
    steps = putting_aside(pictures_folder(study), study.disk.mode, to_put_aside(study, not_aside(study)) * 9)
    next(steps), next(steps)
    steps.close()
    assert list(pictures_folder(study).iterdir()) == []
    with Study(back_up(study)) as copy:
        assert shown(copy) == patches


def test_a_digest_that_leads_elsewhere_is_not_followed(read):
    study, _ = read
    row = study.rows("patches")[0]
    study.apply(Command("bad", (Change("patches", row["id"], row, {**row, "digest": "../../out"}),)))
    run_through(putting_aside(pictures_folder(study), study.disk.mode, to_put_aside(study, [row["id"]])))
    back_up(study)
    assert (
        not (study.path.parent.parent / "out.jpg").exists() and not (study.path.parent / "out.jpg").exists()
    )
    assert len(list((backups_folder(study.path) / PICTURES).iterdir())) == study.count("patches")


def test_a_study_saved_elsewhere_has_them_and_so_has_one_made_of_a_copy(read, tmp_path):
    study, patches = read
    save_copy(study, tmp_path / "other.culmo")
    with Study(tmp_path / "other.culmo") as other:
        assert shown(other) == patches
    copy = back_up(study)
    with Study(copy) as slim:
        save_copy(slim, tmp_path / "of a copy.culmo")
    with Study(tmp_path / "of a copy.culmo") as other:
        assert shown(other) == patches
        assert all(row["data"] for row in other.rows("patches"))


def test_a_damaged_patch_is_left_out_and_the_colour_stands(read):
    study, patches = read
    rows = study.rows("patches")
    bad = [
        {"data": b"no picture"},
        {"data": None},
        {"seen": "{"},
        {"data": None, "path": "../../elsewhere.jpg"},
    ]
    changes = [
        Change("patches", row["id"], row, {**row, **worse}) for row, worse in zip(rows, bad, strict=False)
    ]
    study.apply(Command("damage", tuple(changes)))
    found = shown(study)
    assert len(found) == len(patches) - 3
    assert [pixels_of(data) is None for data in found.values()].count(True) == 1
    assert len(records.read_cells(study, 1)) == len(patches)
    row = rows[5]
    study.apply(Command("damage", (Change("patches", row["id"], row, {**row, "per_mm": 0.0}),)))
    assert any("patches" in problem for problem in problems_of_study(study))


def test_exported_they_come_back_to_the_byte(read, tmp_path):
    study, patches = read
    run_through(exporting(study, tmp_path / "out"))
    study_from_folder(tmp_path / "out", tmp_path / "back.culmo")
    with Study(tmp_path / "back.culmo") as back:
        assert shown(back) == patches
        assert same_record(back.dump(), study.dump())


def test_other_programs_find_pictures_to_scale_in_their_colours_and_a_table_of_them(read, tmp_path):
    study, patches = read
    run_through(exporting(study, tmp_path / "out"))
    with (tmp_path / "out" / "patches.csv").open(encoding="utf-8") as file:
        table = list(csv.DictReader(file))
    assert {row["cell"] for row in table} == set(patches)
    for row in table:
        with Image.open(tmp_path / "out" / row["picture"]) as picture:
            assert picture.info["dpi"][0] / 25.4 == pytest.approx(float(row["pixels_per_mm"]), rel=1e-3)
            assert picture.size[0] / float(row["pixels_per_mm"]) == pytest.approx(120 / 6.0, abs=0.1)
        assert (tmp_path / "out" / row["kept"]).read_bytes() == patches[row["cell"]]
        assert (float(row["L"]), float(row["a"])) == (50.0, 5.0)
    assert len({row["picture"] for row in table}) == len(table)
    assert "base64" not in (tmp_path / "out" / "study.json").read_text("utf-8")


def test_one_that_lacks_its_file_comes_back_as_a_colour(read, tmp_path):
    study, patches = read
    run_through(exporting(study, tmp_path / "out"))
    gone = sorted((tmp_path / "out" / "patches" / "kept").iterdir())[0]
    gone.unlink()
    study_from_folder(tmp_path / "out", tmp_path / "back.culmo")
    with Study(tmp_path / "back.culmo") as back:
        assert len(shown(back)) == len(patches) - 1
        assert back.count("readings") == study.count("readings")


def test_what_can_be_read_of_a_damaged_study_has_its_patches(read, tmp_path):
    study, patches = read
    path = study.path
    study.close()
    recover(path, tmp_path / "new.culmo")
    with Study(tmp_path / "new.culmo") as new:
        assert shown(new) == patches


def test_an_older_study_gets_the_table(tmp_path):
    old = Path(__file__).parent / "old" / "v11.culmo"
    shutil.copy(old, tmp_path / "old.culmo")
    with Study(tmp_path / "old.culmo") as study:
        assert study.count("patches") == 0 and study.count("readings") == 9
        assert problems_of_study(study) == []


@pytest.mark.parametrize(
    "text",
    ["", "{", "[]", "null", '{"axis": [1, 2]}', '{"axis": [1, 2, 3]}', "x" * 100, '{"contrast": "NaN"}'],
)
def test_a_texture_that_makes_no_sense_is_none(text):
    assert texture_in(text) is None
    whole = json.loads(texture_text(TEXTURE))
    for worse in ({"contrast": -1.0}, {"size_mm": 1e9}, {"axis": [0, 0, float("nan")]}, {"more": 1}):
        assert texture_in(json.dumps({**whole, **worse})) is None


READER = """
import sys
from culmo.study.file import Study
from support.patched import read_all
from pathlib import Path
study = Study(Path(sys.argv[1]))
for round in range(1000):
    read_all(study, f"2026-06-01T12:{round % 60:02d}:00+02:00", seed=round % 40, most=5)
    print("read", study.count("patches"), flush=True)
"""


@pytest.mark.long
@pytest.mark.skipif(not hasattr(signal, "SIGKILL"), reason="needs SIGKILL")
def test_killed_at_any_moment_each_reading_that_was_told_has_its_patch(tmp_path):
    path, rng = tmp_path / "run.culmo", random.Random(4)
    with make_study(path) as study:
        study.apply(acts.add_sheet(study, make_sheet()))
    told = 0
    for _ in range(60 if os.environ.get("CULMO_SOAK") else 4):
        child = subprocess.Popen(
            [sys.executable, "-c", READER, str(path)], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
            env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
        )  # fmt: skip
        first = child.stdout.readline()
        time.sleep(rng.uniform(0.0, 0.2))
        child.send_signal(signal.SIGKILL)
        rest, complaint = child.communicate(timeout=LONG_S)
        assert first, complaint
        lines = [line for line in (first, *rest.splitlines(keepends=True)) if line.endswith("\n")]
        told = max(told, int(lines[-1].split()[1]))
        with Study(path) as study:
            assert study.problems() == [] and problems_of_study(study) == []
            assert study.count("patches") >= told
            for row in study.rows("patches"):
                assert row["digest"] == digest_of(row["data"])
            rows = study.rows("readings", "cell_id NOT NULL")
            assert set(patches_of(study, [row["id"] for row in rows])) == {row["id"] for row in rows}


def test_what_patches_teach_is_of_good_readings_of_known_mixes_on_paper(read):
    study, patches = read
    found = seen_textures(study)
    assert len(found) == len(patches)
    assert {one.texture for one in found} == {TEXTURE}
    row = study.rows("readings", "cell_id NOT NULL")[3]
    changes = {"trust": "doubtful"}, {"mixing": "wet"}, {"treatment": "lifted"}, {"ground": "ink"}
    for change in changes:
        command = Command("less", (Change("readings", row["id"], row, {**row, **change}),))
        study.apply(command)
        assert len(seen_textures(study)) == len(patches) - 1
        study.revert(command)
    patch = study.rows("patches")[0]
    study.apply(Command("none", (Change("patches", patch["id"], patch, {**patch, "texture": "{}"}),)))
    assert len(seen_textures(study)) == len(patches) - 1


def test_how_paints_settle_is_learned_with_all_else(read):
    study, _ = read
    codes = [(row["name"], row["codes"]) for row in study.rows("paints")]
    rows = records.reading_rows(study)
    plain = run_through(learning_from(codes, rows, None, None))
    assert plain.grains is None
    found = run_through(learning_from(codes, rows, None, None, seen_textures(study), lambda _: 0.1))
    assert found.grains.names == found.estimate.names and found.grains.taught.min() >= 2
    assert min(as_label(found.grains).values()) > 0.0
    few = run_through(learning_from(codes[:2], rows, None, None, seen_textures(study), lambda _: 0.1))
    assert few.grains.names == tuple(name for name, _ in codes[:2])


def test_what_was_painted_over_since_is_not_shown_as_what_is_there(read):
    """Painted anew and measured by an instrument, a cell has a colour and no picture of its paint."""
    study, patches = read
    cell = records.sheet_record(study, 1).cells[2]
    study.clock = lambda: "2026-06-03T10:00:00+02:00"
    study.apply(paint_acts.paint_cell(study, 1, cell.id))
    assert shown(study) == patches, "nothing was read since: the record is that of the picture"
    study.clock = lambda: "2026-06-04T10:00:00+02:00"
    study.apply(acts.read_cell(study, 1, cell.id, (40.0, 1.0, 2.0)))
    left = {name: data for name, data in patches.items() if name != cell.cell.id}
    assert shown(study) == left
    assert len(seen_textures(study)) == len(left)
    other = records.sheet_record(study, 1).cells[4]
    study.apply(acts.read_cell(study, 1, other.id, (41.0, 1.0, 2.0)))
    assert shown(study) == left, "measured again without being painted, it is the same paint"
    assert study.count("patches") == len(patches), "and nothing is thrown away"


def test_a_link_in_an_exported_folder_leads_nowhere(read, tmp_path):
    study, patches = read
    run_through(exporting(study, tmp_path / "out"))
    (tmp_path / "secret.jpg").write_bytes(b"of another")
    gone = sorted((tmp_path / "out" / "patches" / "kept").iterdir())[0]
    gone.unlink()
    gone.symlink_to(tmp_path / "secret.jpg")
    study_from_folder(tmp_path / "out", tmp_path / "back.culmo")
    with Study(tmp_path / "back.culmo") as back:
        assert len(shown(back)) == len(patches) - 1
        assert all(row["data"] != b"of another" for row in back.rows("patches"))
