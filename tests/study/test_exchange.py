"""A study out and back, and open files in: nothing lost, nothing hostile let in."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix
from culmo.core.steps import run_through
from culmo.errors import CulmoError
from culmo.study import (
    acts,
    box_acts,
    guess_acts,
    note_acts,
    paint_acts,
    palette_acts,
    photo_acts,
    photo_files,
)
from culmo.study.cgats import read_cgats, write_cgats
from culmo.study.exchange import (
    exporting,
    file_name,
    readings_csv,
    same_record,
    study_from_folder,
    study_to_dict,
)
from culmo.study.file import Change, Command, Study
from culmo.study.incoming import bring_in
from culmo.study.palette_files import read_gpl, write_gpl
from culmo.study.records import paints, readings, sheet_record
from culmo.study.recovery import recover
from culmo.study.tables import read_readings
from culmo.study.unfinished import Unfinished, keep_unfinished, unfinished
from support.builders import FIVE, make_sheet, make_study

_TEXT = (
    st.text(st.characters(blacklist_categories=("Cs", "Cc")), min_size=1, max_size=30)
    .map(str.strip)
    .filter(bool)
)


def _acts(study, draw):
    """Some of what a painter does, at random, with words of every script."""
    for _ in range(draw(st.integers(1, 6))):
        kind = draw(
            st.sampled_from(
                ("note", "paint", "sheet", "reading", "palette", "wanted", "guess", "box", "picture")
            )
        )
        text = draw(_TEXT)
        number = draw(st.floats(-60, 60, allow_nan=False))
        try:
            if kind == "note":
                study.apply(note_acts.add_note(study, text))
            elif kind == "paint":
                study.apply(acts.add_paint(study, acts.PaintEntry(text, "PB29", note=text)))
            elif kind == "sheet":
                study.apply(acts.add_sheet(study, make_sheet(FIVE[:2])))
                cell = sheet_record(study, study.next_id("sheets") - 1).cells[0]
                study.apply(paint_acts.paint_cell(study, study.next_id("sheets") - 1, cell.id))
                study.apply(acts.note_cell(study, cell.id, text))
            elif kind == "reading":
                name = draw(st.sampled_from([paint.name for paint in paints(study)]))
                reading = Reading(mix([name], wash=0.37), (50.0, number, -number))
                study.apply(
                    acts.add_readings(
                        study, [acts.Incoming(reading, None, (("extra", json.dumps({text: text})),))], text
                    )
                )
            elif kind == "palette":
                study.apply(
                    palette_acts.keep_palette(study, text, ["Lemon", "Rose"], text, text, {"share": number})
                )
            elif kind == "wanted":
                study.apply(
                    palette_acts.add_wanted(study, text, [palette_acts.Wanted(text, (40.0, number, 0.0))])
                )
            elif kind == "guess":
                study.apply(guess_acts.add_guess(study, "parts", mix(["Lemon", "Rose"]), (1, 2), abs(number)))
            elif kind == "box":
                study.apply(box_acts.add_box(study, text, box_acts.BoxShape(2, 3, {}), [1, 2]))
            else:
                where = draw(st.sampled_from((photo_acts.PictureKept.BESIDE, photo_acts.PictureKept.INSIDE)))
                _keep_picture(study, text, draw(st.binary(min_size=1, max_size=200)), where)
        except CulmoError:
            pass  # a name that can not be, or is taken


def _keep_picture(study, name, data, where):
    path = photo_files.keep_file(study, name, data) if where == photo_acts.PictureKept.BESIDE else ""
    from culmo.study.draft import Draft

    draft = Draft(study, "Picture")
    draft.add(
        "photos", sheet_id=None, path=path, data=None if path else data, taken=None, note="", created=draft.at,
        name=name, placement="{}",
    )  # fmt: skip
    study.apply(draft.command())


@pytest.mark.long
@given(st.data())
def test_a_random_study_comes_back_the_same(tmp_path_factory, data):
    folder = tmp_path_factory.mktemp("out")
    with make_study(folder / "one.culmo", FIVE[:3]) as study:
        _acts(study, data.draw)
        before = study.dump()
        pictures = {
            row["id"]: (study.path.parent / row["path"]).read_bytes()
            for row in study.rows("photos")
            if row["path"]
        }
        written = run_through(exporting(study, folder / "open"))
        assert all(path.is_file() for path in written)
    study_from_folder(folder / "open", folder / "two.culmo")
    with Study(folder / "two.culmo") as again:
        assert again.problems() == []
        assert same_record(again.dump(), before)
        for row in again.rows("photos"):
            if row["path"]:
                assert (again.path.parent / row["path"]).read_bytes() == pictures[row["id"]]
        assert len(readings(again)) == len(before["readings"])


def test_a_folder_that_holds_something_is_not_written_over(study, tmp_path):
    (tmp_path / "full").mkdir()
    (tmp_path / "full" / "mine.txt").write_text("mine", encoding="utf-8")
    with pytest.raises(CulmoError, match="not empty"):
        run_through(exporting(study, tmp_path / "full"))
    (tmp_path / "file").write_text("x", encoding="utf-8")
    with pytest.raises(CulmoError, match="can not be written"):
        run_through(exporting(study, tmp_path / "file"))


_WELL = {"id": 1, "box_id": 77, "place": 0, "paint_id": None, "pan": "half"}


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda d: d.update(format="other"), "is not a study"),
        (lambda d: d.update(schema=99), "another version"),
        (lambda d: d["tables"].pop("paints"), "does not hold the tables"),
        (lambda d: d["tables"].update(paints=[1]), "list of entries"),
        (lambda d: d["tables"]["paints"][0].update(note={"base64": "###"}), "bytes that can not"),
        (lambda d: d["tables"]["paints"][0].update(note={"x": 1}), "neither text"),
        (lambda d: d["tables"]["paints"][0].update(note=[1]), "a list where"),
        (lambda d: d["tables"]["paints"][0].update(status="stolen"), "could not be saved"),
        (lambda d: d["tables"]["paints"][0].update(id=2**70), "damaged|too large|saved"),
        (lambda d: d["tables"]["meta"].clear(), "no title"),
        (lambda d: d["tables"]["wells"].append(dict(_WELL)), "saved|damaged"),
    ],
)  # fmt: skip
def test_a_damaged_folder_leaves_nothing_behind(study, tmp_path, change, words):
    data = study_to_dict(study)
    change(data)
    (tmp_path / "study.json").write_text(json.dumps(data), encoding="utf-8")
    with pytest.raises(CulmoError, match=words):
        study_from_folder(tmp_path, tmp_path / "new.culmo")
    assert not (tmp_path / "new.culmo").exists()


def test_hostile_json_is_refused(tmp_path):
    for text in ("[" * 100_000, '{"format": "culmo-study"', "null", "\x00", "[]"):
        (tmp_path / "study.json").write_text(text, encoding="utf-8")
        with pytest.raises(CulmoError):
            study_from_folder(tmp_path, tmp_path / "new.culmo")
    with pytest.raises(CulmoError, match="can not be read"):
        study_from_folder(tmp_path / "nothing", tmp_path / "new.culmo")


def test_pictures_never_lead_out_of_the_folder(study, tmp_path):
    _keep_picture(study, "a.png", b"one", photo_acts.PictureKept.BESIDE)
    run_through(exporting(study, tmp_path / "open"))
    path = tmp_path / "open" / "study.json"
    data = json.loads(path.read_text(encoding="utf-8"))
    data["tables"]["photos"][0]["path"] = "../../../secret.png"
    path.write_text(json.dumps(data), encoding="utf-8")
    (tmp_path / "secret.png").write_bytes(b"secret")
    study_from_folder(tmp_path / "open", tmp_path / "in" / "new.culmo") if (
        tmp_path / "in"
    ).mkdir() is None else None
    with Study(tmp_path / "in" / "new.culmo") as again:
        assert again.rows("photos")[0]["path"] == "new pictures/secret.png"
    assert not (tmp_path / "in" / "new pictures" / "secret.png").exists()


def test_tables_are_read_back_and_hold_no_formulas(study, tmp_path):
    study.apply(acts.add_paint(study, acts.PaintEntry("=SUM(A1)", "PB29")))
    study.apply(
        acts.add_readings(study, [acts.Incoming(Reading(mix(["=SUM(A1)"]), (50.0, 1.0, 2.0)))], "a file")
    )
    text = readings_csv(study)
    assert "\n=" not in text
    (tmp_path / "r.csv").write_text(text, encoding="utf-8")
    rows, bad = read_readings(tmp_path / "r.csv")
    assert bad == []
    assert len(rows) == len(study.rows("readings"))


def test_palettes_go_out_and_come_back(tmp_path):
    colours = [("one", np.array([50.0, 20.0, -10.0])), ("two\nlines", np.array([80.0, 0.0, 0.0]))]
    path = tmp_path / "p.gpl"
    path.write_text(write_gpl("Mine\nand more", colours), encoding="utf-8")
    lines = path.read_text(encoding="utf-8").splitlines()
    assert lines[0] == "GIMP Palette"
    assert lines[1] == "Name: Mine and more"
    found = read_gpl(path)
    assert [name for name, _ in found] == ["one", "two lines"]
    assert delta_e_00(np.array([lab for _, lab in found]), np.array([lab for _, lab in colours])).max() < 0.6
    for text in ("", "GIMP Palette\n", "JASC-PAL\n1 2 3\n", "GIMP Palette\n999 1 1 x\n"):
        path.write_text(text, encoding="utf-8")
        with pytest.raises(CulmoError):
            read_gpl(path)


def test_open_files_come_into_a_study_by_what_they_hold(study, tmp_path):
    said = []
    (tmp_path / "r.csv").write_text("recipe,L,a,b\nLemon + New:2,50,1,2\nbad::,1,2,3\n", encoding="utf-8")
    assert bring_in(study, tmp_path / "r.csv", said.append) == "1 reading"
    assert "New" in [paint.name for paint in paints(study)]
    assert any("line 3" in text for text in said)
    (tmp_path / "p.csv").write_text("Name,Codes\nSky,PB35\nLemon,PY3\n", encoding="utf-8")
    assert bring_in(study, tmp_path / "p.csv", said.append) == "1 paint"
    (tmp_path / "w.csv").write_text("name,hex\nmoth,#777777\n", encoding="utf-8")
    assert bring_in(study, tmp_path / "w.csv", said.append) == "1 wanted colour"
    (tmp_path / "g.gpl").write_text(write_gpl("g", [("x", np.array([50.0, 0, 0]))]), encoding="utf-8")
    assert bring_in(study, tmp_path / "g.gpl", said.append) == "1 wanted colour"
    assert set(palette_acts.wanted_lists(study)) == {"w", "g"}
    lab = [np.array([40.0, 5.0, 5.0]), np.array([60.0, 0.0, 0.0])]
    (tmp_path / "m.txt").write_text(write_cgats(["lemon + Rose:2", "a tile"], lab, "m"), encoding="utf-8")
    assert bring_in(study, tmp_path / "m.txt", said.append) == "1 reading"
    assert len(read_cgats(tmp_path / "m.txt")[0]) == 2
    before = study.dump()
    for name, text in (
        ("x.xyz", "?"),
        ("y.json", "{}"),
        ("z.csv", "a,b\n1,2\n"),
        ("e.csv", "recipe,L,a,b\nx::,1,1,1\n"),
    ):
        (tmp_path / name).write_text(text, encoding="utf-8")
        with pytest.raises(CulmoError):
            bring_in(study, tmp_path / name, said.append)
    (tmp_path / "study.json").write_text(json.dumps(study_to_dict(study)), encoding="utf-8")
    with pytest.raises(CulmoError, match="whole study"):
        bring_in(study, tmp_path / "study.json", said.append)
    assert study.dump() == before


def test_names_for_files():
    assert file_name("../../etc: passwd", "x") == "_.._etc_ passwd"
    assert file_name("...", "sheet") == "sheet"


def test_pictures_of_one_name_go_out_and_come_back_as_two(study, tmp_path):
    """Two cameras name their pictures alike; the study was renamed by hand in between, so they lie in two folders."""
    _keep_picture(study, "IMG_0001.jpg", b"first", photo_acts.PictureKept.BESIDE)
    other = study.path.with_name("other pictures")
    other.mkdir()
    (other / "IMG_0001.jpg").write_bytes(b"second")
    row = study.rows("photos")[0]
    study.apply(
        Command("x", (Change("photos", 2, None, {**row, "id": 2, "path": "other pictures/IMG_0001.jpg"}),))
    )
    run_through(exporting(study, tmp_path / "out"))
    names = sorted(path.name for path in (tmp_path / "out" / "pictures").iterdir())
    assert names == ["IMG_0001 2.jpg", "IMG_0001.jpg"]
    for name in ("again", "once more"):
        study_from_folder(tmp_path / "out", tmp_path / f"{name}.culmo")
        with Study(tmp_path / f"{name}.culmo") as again:
            assert [photo_files.picture_bytes(again, row) for row in again.rows("photos")] == [
                b"first",
                b"second",
            ]
            assert all(row["path"].startswith(f"{name} pictures/") for row in again.rows("photos"))


def test_pictures_of_another_study_are_not_written_over(study, tmp_path):
    _keep_picture(study, "p.jpg", b"mine", photo_acts.PictureKept.BESIDE)
    run_through(exporting(study, tmp_path / "out"))
    (tmp_path / "new pictures").mkdir()
    (tmp_path / "new pictures" / "p.jpg").write_bytes(b"of another")
    study_from_folder(tmp_path / "out", tmp_path / "new.culmo")
    assert (tmp_path / "new pictures" / "p.jpg").read_bytes() == b"of another"
    with Study(tmp_path / "new.culmo") as new:
        assert photo_files.picture_bytes(new, new.rows("photos")[0]) == b"mine"


def test_nothing_outside_the_studys_folder_goes_out(tmp_path):
    (tmp_path / "secret").write_bytes(b"a key")
    home = tmp_path / "home"
    home.mkdir()
    with make_study(home / "mine.culmo") as study:
        _keep_picture(study, "p.jpg", b"mine", photo_acts.PictureKept.BESIDE)
        (home / "mine pictures" / "link.jpg").symlink_to(tmp_path / "secret")
        row = study.rows("photos")[0]
        paths = (
            "../secret", str(tmp_path / "secret"), "mine pictures/link.jpg", "mine pictures/../../secret", "a\\..\\secret",
        )  # fmt: skip
        added = [Change("photos", i, None, {**row, "id": i, "path": path}) for i, path in enumerate(paths, 2)]
        study.apply(Command("x", tuple(added)))
        run_through(exporting(study, tmp_path / "out"))
        assert len(photo_files.missing_pictures(study)) == len(paths)
    found = [path.read_bytes() for path in (tmp_path / "out").rglob("*") if path.is_file()]
    assert b"a key" not in b"".join(found)


def test_what_was_typed_goes_out_and_comes_back_and_is_recovered(study, tmp_path):
    typed = [Unfinished("note", 5, "a note", "begun"), Unfinished("reading 3", 3, "a colour", "40, 1")]
    keep_unfinished(study, typed)
    run_through(exporting(study, tmp_path / "out"))
    study_from_folder(tmp_path / "out", tmp_path / "again.culmo")
    path = study.path
    study.close()
    recover(path, tmp_path / "recovered.culmo")
    for name in ("again", "recovered"):
        with Study(tmp_path / f"{name}.culmo") as found:
            assert unfinished(found) == typed


def test_a_full_disk_keeps_what_was_typed_elsewhere(study, monkeypatch):
    pages = study.disk.db.execute("PRAGMA page_count").fetchone()[0]
    study.disk.db.execute(f"PRAGMA max_page_count={pages}")
    typed = [Unfinished("note", 5, "a note", "x" * 50_000)]
    keep_unfinished(study, typed)
    assert unfinished(study) == typed
    study.disk.db.execute("PRAGMA max_page_count=100000")
    keep_unfinished(study, [])
    assert unfinished(study) == []
