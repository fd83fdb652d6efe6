"""The window and its file: what becomes of it is said at once and truly, and nothing is closed before it is safe."""

import shutil

import pytest
from PySide6.QtWidgets import QFileDialog

from culmo.desk.app import settle
from culmo.errors import CulmoError
from culmo.study import acts, aside, note_acts, records
from culmo.study.backups import backups_of, to_put_aside
from culmo.study.file import Study
from culmo.study.patches import patches_of
from culmo.study.photo_acts import Picture, PictureKept
from culmo.study.photo_files import picture_bytes
from support.builders import make_sheet, make_study
from support.patched import read_all


def note(window, text, *pictures):
    return window.session.do(note_acts.add_note(window.session.file, text, pictures))


def notes_in(path):
    with Study(path) as study:
        assert study.problems() == []
        return [row["text"] for row in study.rows("notes")]


def test_another_file_at_its_place_is_noticed_without_an_act(qtbot, with_study, tmp_path):
    window, path = with_study, with_study.session.file.path
    note(window, "mine")
    make_study(tmp_path / "other.culmo").close()
    (tmp_path / "other.culmo").replace(path)
    qtbot.waitUntil(lambda: "Another file was put in the place" in window.notice.words.text())
    assert window.status.saved_text.text() == "Everything saved"
    new = window.session.file.path
    assert new != path and window.settings.recent[0] == str(new)
    assert window.studies.bell.is_of(new)
    note(window, "and on")
    window.session.undo.undo()
    window.session.undo.redo()
    window.session.close()
    assert notes_in(new) == ["mine", "and on"] and notes_in(path) == []


def test_closing_waits_till_it_was_read_where_the_study_is_now(with_study):
    window, path = with_study, with_study.session.file.path
    note(window, "mine")
    moved = path.with_name("somewhere.culmo")
    path.rename(moved)
    assert not window.close()
    assert "was moved to" in window.notice.words.text() and str(moved) in window.notice.words.text()
    assert window.close()
    assert notes_in(moved) == ["mine"]


def test_what_has_no_file_is_not_closed_unasked(with_study, monkeypatch, tmp_path):
    """Its file is gone, and nothing can be written anywhere: that is said, and closing offers to save it elsewhere."""
    window = with_study
    note(window, "mine")
    monkeypatch.setattr("culmo.study.homing._targets", lambda *_: iter(()))
    window.session.file.path.unlink()
    assert not window.session.safe.settle_file()
    assert "Do not close Culmo" in window.notice.words.text()
    assert window.status.saved_text.text() == "Not safe: the study has no file"
    asked = []

    def answer(box):
        asked.append(box.text())
        box.buttons()[0].click()

    monkeypatch.setattr("culmo.desk.studies.QMessageBox.exec", answer)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(tmp_path / "safe"), ""))
    window.close()
    assert "in no file" in asked[0]
    assert notes_in(tmp_path / "safe.culmo") == ["mine"]


def test_a_copy_is_put_back_in_the_window(with_study):
    window, session = with_study, with_study.session
    path = session.file.path
    note(window, "first")
    session.safe.back_up()
    note(window, "second")
    window.studies.put_back_from(path, backups_of(path)[-1].path)
    settle(window, 30)
    assert [row["text"] for row in session.file.rows("notes")] == ["first"]
    assert "What was there before is kept in" in window.notice.words.text()
    kept = next(
        copy.path for copy in reversed(backups_of(path)) if str(copy.path) in window.notice.words.text()
    )
    window.studies.put_back_from(path, kept)
    assert [row["text"] for row in session.file.rows("notes")] == ["first", "second"]


def test_a_copy_that_is_not_sound_changes_nothing(with_study, tmp_path):
    window, path = with_study, with_study.session.file.path
    note(window, "first")
    (tmp_path / "bad.culmo").write_bytes(b"bad")
    window.studies.put_back_from(path, tmp_path / "bad.culmo")
    assert [row["text"] for row in window.session.file.rows("notes")] == ["first"]


@pytest.mark.parametrize("way", ["save_copy", "move_study"])
def test_a_study_goes_elsewhere_with_its_pictures_and_copies(with_study, tmp_path, monkeypatch, way):
    window, session = with_study, with_study.session
    old = session.file.path
    note(
        window,
        "both",
        Picture("p.jpg", b"beside", where=PictureKept.BESIDE),
        Picture("q.jpg", b"inside", where=PictureKept.INSIDE),
    )
    session.safe.back_up()
    (tmp_path / "far").mkdir()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(tmp_path / "far" / "new"), ""))
    getattr(window.studies, way)()
    settle(window, 30)
    new = tmp_path / "far" / "new.culmo"
    assert session.file.path == (new if way == "move_study" else old)
    session.close()
    with Study(new) as study:
        assert [picture_bytes(study, row) for row in study.rows("photos")] == [b"beside", b"inside"]
    left = sorted(entry.name for entry in old.parent.iterdir() if entry.name.startswith("five"))
    if way == "move_study":
        assert left == [] and backups_of(new)
    else:
        assert left == ["five backups", "five pictures", "five.culmo"]


def _with_many_patches(window, path, monkeypatch):
    """The window just opened on a study of which a few patches at a time are put aside."""
    monkeypatch.setattr("culmo.desk.safekeeping._QUICKLY_PUT", 3)
    monkeypatch.setattr("culmo.desk.safekeeping._AT_ONCE", 4)
    with make_study(path) as study:
        study.apply(acts.add_sheet(study, make_sheet()))
        patches = {patch.data for patch in read_all(study).values()}
    assert window.open_path(path)
    return patches


def _in_last_copy(path):
    with Study(backups_of(path)[-1].path) as copy:
        found = patches_of(copy, [row["id"] for row in copy.rows("readings")])
        assert {row["data"] for row in copy.rows("patches")} == {None}
        return {patch.data for patch in found.values()}


def test_much_real_paint_is_put_aside_beside_all_else(window, qtbot, tmp_path, monkeypatch):
    path, longest = tmp_path / "many.culmo", []
    patches = _with_many_patches(window, path, monkeypatch)

    def read(study, ids):
        longest.append(to_put_aside(study, ids))
        return longest[-1]

    monkeypatch.setattr("culmo.study.backups.to_put_aside", read)
    qtbot.waitUntil(lambda: bool(backups_of(path)))
    assert _in_last_copy(path) == patches
    assert len(longest) > 3 and max(map(len, longest)) <= 4


@pytest.mark.parametrize("act", ["copy", "close", "move"])
def test_what_comes_between_has_a_whole_copy(window, qtbot, tmp_path, monkeypatch, act):
    path = tmp_path / "many.culmo"
    patches = _with_many_patches(window, path, monkeypatch)
    safe = window.session.safe
    qtbot.waitUntil(lambda: window.session.settled)
    assert not backups_of(path), "it is still at it"
    if act == "copy":
        safe.back_up()
    elif act == "close":
        window.session.close()
    else:
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(tmp_path / "new"), ""))
        window.studies.move_study()
        settle(window)
        path = tmp_path / "new.culmo"
        qtbot.waitUntil(lambda: bool(backups_of(path)))
    assert _in_last_copy(path) == patches


def test_a_disk_that_is_full_for_a_while_costs_no_copy(window, qtbot, tmp_path, monkeypatch):
    """What could not be put aside is tried again by the copy itself, which says so if that fails too."""
    real, calls = aside.make_folder, []

    def full_at_first(*own):
        calls.append(own)
        if len(calls) == 1:
            raise OSError(28, "No space left on device")
        real(*own)

    monkeypatch.setattr(aside, "make_folder", full_at_first)
    path = tmp_path / "many.culmo"
    patches = _with_many_patches(window, path, monkeypatch)
    qtbot.waitUntil(lambda: bool(backups_of(path)))
    assert _in_last_copy(path) == patches
    assert window.session.safe.copy_trouble == ""


def test_a_failing_copy_stays_told_until_one_succeeds(with_study):
    window, session = with_study, with_study.session
    folder = session.file.path.with_name("five backups")
    shutil.rmtree(folder)
    folder.write_text("in the way")
    note(window, "first")
    session.safe.back_up()
    assert window.status.saved_text.text() == "Everything saved; no copy could be made"
    assert window.status.saved_text.toolTip()
    note(window, "second")
    assert "no copy" in window.status.saved_text.text()
    folder.unlink()
    note(window, "third")
    assert window.status.saved_text.text() == "Everything saved"
    assert notes_in(backups_of(session.file.path)[-1].path) == ["first", "second", "third"]


def test_a_study_that_fails_to_open_leaves_nothing_half_open(with_study, tmp_path, monkeypatch):
    window, session = with_study, with_study.session
    good = session.file.path
    bad = tmp_path / "bad.culmo"
    make_study(bad).close()
    boxes = records.paints

    def fails(study, retired=False):
        if study.path == bad:
            raise CulmoError("a row that can not be")
        return boxes(study, retired)

    monkeypatch.setattr(records, "paints", fails)
    assert not window.open_path(bad)
    assert session.study is None and "can not be" in window.notice.words.text()
    with pytest.raises(CulmoError):
        note_acts.add_note(session.file, "into which?")
    assert notes_in(bad) == []
    assert window.open_path(good)


def test_pictures_that_are_gone_are_told_when_the_study_is_opened(with_study):
    window, path = with_study, with_study.session.file.path
    note(window, "one", Picture("p.jpg", b"beside", where=PictureKept.BESIDE))
    window.session.close()
    shutil.rmtree(path.with_name("five pictures"))
    assert window.open_path(path)
    settle(window, 60)
    assert "1 picture is no longer beside the study: five pictures/p.jpg" in window.notice.words.text()


def test_a_list_of_paints_that_is_left_is_there_again(with_study, monkeypatch):
    from PySide6.QtWidgets import QDialog

    window = with_study
    shown = []

    def leave(dialog):
        shown.append(dialog.text.toPlainText())
        return QDialog.DialogCode.Rejected

    monkeypatch.setattr(QDialog, "exec", leave)
    window.box_desk.enter_paints("\n".join(f"Paint {i} PB{i}" for i in range(15, 55)))
    assert "a list of 40 paints" in window.status.saved_text.text()
    path = window.session.file.path
    window.session.close(keep_typed=True)
    assert window.open_path(path)
    settle(window, 60)
    window.box_desk.enter_paints()
    assert shown[1] == shown[0] and shown[0].count("\n") == 39
    window.session.unsaved.leave_out()
