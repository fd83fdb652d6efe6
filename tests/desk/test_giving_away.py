"""What leaves the window: books, cards, sheets and shares, asked for and answered in the real dialogs, and printed."""

import json
import shutil
from contextlib import contextmanager
from dataclasses import replace

import numpy as np
import pypdfium2
import pytest
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QApplication, QComboBox, QDialog, QFileDialog, QMessageBox, QPushButton

from culmo.desk.app import settle
from culmo.desk.drawing.carry import SIZES
from culmo.desk.drawing.export import PrintOptions
from culmo.desk.room_names import RoomName
from culmo.study import acts, note_acts
from culmo.study.exchange import study_from_folder
from culmo.study.file import Study
from culmo.study.photo_acts import Picture
from culmo.study.pictures import jpeg_bytes
from culmo.study.records import sheet_titles
from support.builders import make_sheet, make_study


@pytest.fixture
def sampled(window, demo_file, tmp_path):
    """The window with the sample study."""
    shutil.copy(demo_file, tmp_path / "sample.culmo")
    assert window.open_path(tmp_path / "sample.culmo")
    settle(window, 30)
    return window


@contextmanager
def answering(monkeypatch, kind, answer):
    """While this lasts, a dialog of a kind is shown and answered instead of waiting for a hand."""
    asked = []

    def answered(dialog):
        asked.append(dialog)
        dialog.show()
        QApplication.processEvents()
        answer(dialog)
        return dialog.result()

    with monkeypatch.context() as patch:
        patch.setattr(kind, "exec", answered)
        yield asked


def press(dialog, words):
    """Press the button that says something."""
    (button,) = [b for b in dialog.findChildren(QPushButton) if b.text().replace("&", "") == words]
    button.click()


def name_it(monkeypatch, path, way="getSaveFileName"):
    monkeypatch.setattr(QFileDialog, way, lambda *a, **k: (str(path), ""))


@pytest.fixture
def printed(monkeypatch, tmp_path):
    """What is sent to the printer arrives as a PDF; the system's dialog is answered with yes."""
    path = tmp_path / "printed.pdf"

    class Dialog(QPrintDialog):
        def __init__(self, printer, parent=None):
            printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
            printer.setOutputFileName(str(path))
            super().__init__(printer, parent)

        def exec(self):
            return QPrintDialog.DialogCode.Accepted

    monkeypatch.setattr("culmo.desk.printing.QPrintDialog", Dialog)
    monkeypatch.setattr("culmo.desk.daybook_desk.QPrintDialog", Dialog)
    return path


def pages_of(path):
    """For each page of a PDF its size in millimetres and its text."""
    document = pypdfium2.PdfDocument(path)
    found = []
    for page in document:
        text = page.get_textpage()
        found.append((tuple(side * 25.4 / 72 for side in page.get_size()), text.get_text_range()))
        text.close()
        page.close()
    document.close()
    return found


# ---- the book


@pytest.mark.long
def test_the_book_is_asked_for_and_written(sampled, tmp_path, monkeypatch):
    name_it(monkeypatch, tmp_path / "mine")
    title = sampled.state.record.sheet.title
    with answering(monkeypatch, QDialog, lambda dialog: press(dialog, "Write the PDF…")) as asked:
        sampled.actions_by_id["book"].trigger()
    (dialog,) = asked
    offered = [dialog.what.itemText(i) for i in range(dialog.what.count())]
    assert offered[:2] == ["The whole study", f"The sheet {title}"]
    assert (tmp_path / "mine.pdf").is_file()  # the ending is put there where it was not typed
    assert "Written" in sampled.status.told_text.text()


def test_the_book_of_a_sheet_on_other_paper(sampled, tmp_path, monkeypatch):
    name_it(monkeypatch, tmp_path / "sheet.pdf")

    def choose(dialog):
        dialog.what.setCurrentIndex(1)
        dialog.paper.setCurrentText("A5")
        press(dialog, "Write the PDF…")

    with answering(monkeypatch, QDialog, choose):
        sampled.daybook_desk.book()
    pages = pages_of(tmp_path / "sheet.pdf")
    assert {tuple(round(side) for side in size) for size, _ in pages} == {(148, 210)}
    assert sampled.state.record.sheet.title in " ".join(text for _, text in pages)


def test_the_chosen_day_is_offered_first(sampled, tmp_path, monkeypatch):
    sampled.show_room(RoomName.DAYBOOK)
    settle(sampled, 200)
    view = sampled.daybook.view
    place = next(i for i, line in enumerate(view.model().lines) if line.entry is not None)
    view.setCurrentIndex(view.model().index(place, 0))
    day = view.current.at[:10]
    seen = []
    with answering(monkeypatch, QDialog, lambda dialog: (seen.append(dialog.content.date), dialog.reject())):
        sampled.daybook_desk.book()
    assert seen == [day]
    assert not list(tmp_path.glob("*.pdf"))


def test_a_book_that_is_not_wanted_after_all_asks_no_further(sampled, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: pytest.fail("asked for a path"))
    with answering(monkeypatch, QDialog, lambda dialog: press(dialog, "Cancel")):
        sampled.daybook_desk.book()


def test_the_book_is_printed(sampled, monkeypatch, printed):
    with answering(
        monkeypatch, QDialog, lambda dialog: (dialog.what.setCurrentIndex(1), press(dialog, "Print…"))
    ):
        sampled.daybook_desk.book()
    pages = pages_of(printed)
    assert pages and sampled.state.record.sheet.title in " ".join(text for _, text in pages)


# ---- the cards


@pytest.mark.parametrize("size", list(SIZES))
def test_cards_are_asked_for_and_written(sampled, tmp_path, monkeypatch, size):
    name_it(monkeypatch, tmp_path / "cards.pdf")

    def choose(dialog):
        assert "3 keepers" in " ".join(
            label.text() for label in dialog.findChildren(type(sampled.status.told_text))
        )
        dialog.title.setText("For the museum")
        (sizes,) = dialog.findChildren(QComboBox)
        sizes.setCurrentIndex(sizes.findData(size))
        press(dialog, "Write the PDF…")

    with answering(monkeypatch, QDialog, choose):
        sampled.daybook_desk.card()
    (page, *_) = pages_of(tmp_path / "cards.pdf")
    assert "For the museum" in page[1] and "moth grey" in page[1]


def test_cards_are_printed(sampled, monkeypatch, printed):
    with answering(monkeypatch, QDialog, lambda dialog: press(dialog, "Print…")):
        sampled.daybook_desk.card()
    assert "Favourite mixes" in pages_of(printed)[0][1]


def test_without_a_keeper_there_is_no_card(with_study, monkeypatch):
    with answering(monkeypatch, QDialog, lambda dialog: pytest.fail("asked")):
        with_study.daybook_desk.card()
    assert "keeper" in with_study.notice.words.text().casefold()


# ---- notes and pictures


def test_a_note_is_changed_in_its_dialog_and_the_old_words_come_back(sampled, monkeypatch):
    session = sampled.session
    session.do(note_acts.add_note(session.file, "first words"))
    note_id = session.file.rows("notes")[-1]["id"]

    def change(dialog):
        assert dialog.text.toPlainText() == "first words"
        dialog.text.setPlainText("second words\nin two lines")
        press(dialog, "Save")

    with answering(monkeypatch, QDialog, change):
        sampled.daybook_desk.change_note(note_id)
    assert session.file.row("notes", note_id)["text"] == "second words\nin two lines"
    session.undo.undo()
    assert session.file.row("notes", note_id)["text"] == "first words"
    with answering(monkeypatch, QDialog, lambda dialog: press(dialog, "Cancel")):
        sampled.daybook_desk.change_note(note_id)
    assert session.file.row("notes", note_id)["text"] == "first words"
    session.undo.undo()
    sampled.daybook_desk.change_note(note_id)  # it is gone: said, and nothing is asked
    assert "no longer there" in sampled.notice.words.text()


@pytest.mark.parametrize("shape", [(90, 140), (1400, 900)])
def test_a_picture_of_a_note_is_shown_whole(sampled, monkeypatch, shape):
    session = sampled.session
    data = jpeg_bytes(np.full((*shape, 3), 120, np.uint8))
    session.do(note_acts.add_note(session.file, "with a picture", [Picture("bench.jpg", data)]))
    (photo,) = session.file.rows("photos", "name = 'bench.jpg'")
    seen = []

    def look(dialog):
        (label,) = [
            part
            for part in dialog.findChildren(type(sampled.status.told_text))
            if part.accessibleName() == "bench.jpg"
        ]
        seen.append((dialog.windowTitle(), label.pixmap().width(), label.pixmap().height()))
        dialog.reject()

    with answering(monkeypatch, QDialog, look):
        sampled.daybook_desk.open_picture(photo["id"])
    ((title, width, height),) = seen
    assert title == "bench.jpg"
    assert width / height == pytest.approx(shape[1] / shape[0], rel=0.03)
    assert max(width, height) <= 800


def test_a_lost_picture_is_told_and_nothing_is_shown(sampled, monkeypatch):
    session = sampled.session
    session.do(
        note_acts.add_note(
            session.file, "x", [Picture("a.jpg", jpeg_bytes(np.full((90, 140, 3), 9, np.uint8)))]
        )
    )
    (photo,) = session.file.rows("photos", "name = 'a.jpg'")
    (session.file.path.parent / photo["path"]).unlink()
    with answering(monkeypatch, QDialog, lambda dialog: pytest.fail("shown")):
        sampled.daybook_desk.open_picture(photo["id"])
    assert "a.jpg" in sampled.notice.words.text()


@pytest.mark.long
def test_a_line_leads_to_the_thing_itself(sampled):
    desk, study = sampled.daybook_desk, sampled.session.file
    sampled.session.do(acts.add_paint(study, acts.PaintEntry("Night blue", "PB60")))
    sampled.show_room(RoomName.DAYBOOK)
    settle(sampled, 200)
    lines = [line.entry for line in sampled.daybook.view.model().lines if line.entry is not None]
    read = next(entry for entry in lines if entry.kind == "read" and entry.sheet_id is not None)
    desk.go(read)
    assert (
        sampled.rooms.currentIndex() == RoomName.READ and sampled.session.selection.sheet_id == read.sheet_id
    )
    planned = next(entry for entry in lines if entry.kind == "plan")
    desk.go(planned)
    assert (
        sampled.rooms.currentIndex() == RoomName.PLAN
        and sampled.session.selection.sheet_id == planned.sheet_id
    )
    paint = next(entry for entry in lines if entry.paint_id is not None)
    desk.go(paint)
    assert sampled.box.current == study.row("paints", paint.paint_id)["name"]
    sampled.session.do(acts.retire_paint(study, paint.paint_id))
    desk.go(paint)
    assert "is retired" in sampled.status.told_text.text()
    palette = next(entry for entry in lines if entry.palette_id is not None)
    desk.go(palette)
    assert sampled.rooms.currentIndex() == 4
    desk.go(None)
    note = next(
        entry
        for entry in lines
        if entry.note_id is not None and entry.sheet_id is None and entry.paint_id is None
    )
    desk.go(note)
    assert "nothing behind it" in sampled.status.told_text.text()


# ---- sheets and shares


@pytest.mark.long
@pytest.mark.parametrize("ending", [".pdf", ".svg", ".png", ".csv", ".json"])
def test_a_sheet_is_exported_by_the_ending_of_its_name(sampled, tmp_path, monkeypatch, ending):
    name_it(monkeypatch, tmp_path / f"sheet{ending}")
    with answering(monkeypatch, QDialog, lambda dialog: dialog.accept()) as asked:
        sampled.actions_by_id["export"].trigger()
    assert len(asked) == (ending in (".pdf", ".svg", ".png"))
    data = (tmp_path / f"sheet{ending}").read_bytes()
    assert data.startswith(
        {".pdf": b"%PDF", ".svg": b"<?xml", ".png": b"\x89PNG", ".csv": b"id,recipe", ".json": b"{"}[ending]
    )
    if ending == ".json":
        assert json.loads(data)["title"] == sampled.state.record.sheet.title


def test_an_export_that_fails_says_so_and_leaves_the_file_as_it_was(sampled, tmp_path, monkeypatch):
    path = tmp_path / "sheet.csv"
    path.write_text("the old one")
    monkeypatch.setattr(
        "culmo.study.tables.cells_csv", lambda sheet: "new\ud800"
    )  # can not be written as UTF-8
    with pytest.raises(UnicodeEncodeError):
        sampled.out.write_sheet(path, None)
    assert path.read_text() == "the old one"
    assert not sampled.out.write_sheet(tmp_path / "no folder" / "sheet.json", None)
    assert "can not be written" in sampled.notice.words.text()


def test_a_sheet_is_printed_at_true_scale_on_its_own_paper(sampled, monkeypatch, printed):
    sheet = sampled.state.record.sheet
    with answering(monkeypatch, QDialog, lambda dialog: dialog.accept()):
        sampled.actions_by_id["print"].trigger()
    ((size, text),) = pages_of(printed)
    assert np.abs(np.array(sorted(size)) - sorted((sheet.paper.width_mm, sheet.paper.height_mm))).max() < 0.5
    assert sheet.title in text


@pytest.fixture
def paged(with_study):
    """The window with a plan of three pages, the second on the table, and a sheet that is not of the plan."""
    study = with_study.session.file
    pages = []
    for title, paper in (("Pages, 1 of 3", "A5"), ("Pages, 2 of 3", "A5"), ("Pages, 3 of 3", "A6")):
        sheet = make_sheet(paper=paper)
        labels = [
            replace(label, text=title) if label.text == sheet.title else label for label in sheet.labels
        ]
        pages.append(replace(sheet, title=title, labels=tuple(labels)))
    with_study.session.do(acts.add_sheet(study, replace(pages[0], title="Another")))
    study.clock = lambda: "2031-05-01T10:00:00+00:00"
    with_study.session.do(acts.add_sheets(study, pages))
    ids = {title: sheet_id for sheet_id, title in sheet_titles(study)}
    with_study.session.selection.select_sheet(ids["Pages, 2 of 3"])
    settle(with_study, 30)
    return with_study


def all_pages(dialog):
    """Choose all pages, and go on."""
    assert [dialog.pages.itemText(i) for i in range(2)] == [
        "This one, page 2 of 3",
        "All 3 pages of the plan",
    ]
    dialog.pages.setCurrentIndex(1)
    press(dialog, "OK")


@pytest.mark.long
def test_all_pages_of_a_plan_are_printed_at_once_each_on_its_own_paper(paged, monkeypatch, printed):
    with answering(monkeypatch, QDialog, all_pages):
        paged.actions_by_id["print"].trigger()
    pages = pages_of(printed)
    assert [f"Pages, {n} of 3" in text for n, (_, text) in enumerate(pages, 1)] == [True, True, True]
    assert [tuple(round(side) for side in size) for size, _ in pages] == [(210, 148), (210, 148), (148, 105)]
    assert "3 pages" in paged.status.told_text.text()


def test_one_page_of_a_plan_is_printed_alone(paged, monkeypatch, printed):
    with answering(monkeypatch, QDialog, lambda dialog: press(dialog, "OK")):
        paged.out.print_sheet()
    ((_, text),) = pages_of(printed)
    assert "Pages, 2 of 3" in text


def test_all_pages_of_a_plan_are_one_pdf(paged, tmp_path, monkeypatch):
    name_it(monkeypatch, tmp_path / "ALL.PDF")
    with answering(monkeypatch, QDialog, all_pages):
        paged.actions_by_id["export"].trigger()
    assert len(pages_of(tmp_path / "ALL.PDF")) == 3


@pytest.mark.parametrize("answer", [QMessageBox.StandardButton.Yes, QMessageBox.StandardButton.No])
def test_pages_as_pictures_are_numbered_and_do_not_go_over_others_unasked(
    paged, tmp_path, monkeypatch, answer
):
    (tmp_path / "p-2.png").write_bytes(b"a picture of mine")
    asked = []
    monkeypatch.setattr(QMessageBox, "question", lambda *words: (asked.append(words[-1]), answer)[1])
    name_it(monkeypatch, tmp_path / "p.png")
    with answering(monkeypatch, QDialog, all_pages):
        paged.out.export_sheet()
    assert len(asked) == 1 and "p-2.png" in asked[0] and "p-1" not in asked[0]
    written = answer == QMessageBox.StandardButton.Yes
    assert ((tmp_path / "p-2.png").read_bytes() != b"a picture of mine") == written
    assert [(tmp_path / f"p-{n}.png").exists() for n in (1, 3)] == [written, written]
    assert not (tmp_path / "p.png").exists()


def test_a_sheet_that_was_planned_alone_is_asked_for_no_pages(paged, monkeypatch, tmp_path):
    ids = {title: sheet_id for sheet_id, title in sheet_titles(paged.session.file)}
    paged.session.selection.select_sheet(ids["Another"])
    name_it(monkeypatch, tmp_path / "a.pdf")

    def look(dialog):
        assert not dialog.pages.isVisible()
        assert not dialog.all_pages
        press(dialog, "OK")

    with answering(monkeypatch, QDialog, look) as asked:
        paged.out.export_sheet()
    assert asked and len(pages_of(tmp_path / "a.pdf")) == 1


def test_a_sheet_goes_by_the_ending_however_it_is_written(paged, tmp_path):
    assert paged.out.write_sheet(tmp_path / "CELLS.CSV", None)
    assert "," in (tmp_path / "CELLS.CSV").read_text()
    assert paged.out.write_sheet(tmp_path / "S.JSON", None)
    assert json.loads((tmp_path / "S.JSON").read_text())["title"] == "Pages, 2 of 3"
    assert not paged.out.write_sheet(tmp_path / "sheet.txt", PrintOptions())
    assert "must be one of .pdf" in paged.notice.words.text()
    assert not (tmp_path / "sheet.txt").exists()


@pytest.mark.qt_log_ignore("QPainter::begin", extend=True)
def test_a_printer_that_takes_nothing_is_told(paged, monkeypatch, printed):
    printed.mkdir()  # where the printer's file would go
    with answering(monkeypatch, QDialog, lambda dialog: press(dialog, "OK")):
        paged.out.print_sheet()
    assert "takes nothing" in paged.notice.words.text()


def test_a_print_that_is_not_wanted_asks_for_no_printer(sampled, monkeypatch, printed):
    with answering(monkeypatch, QDialog, lambda dialog: dialog.reject()):
        sampled.actions_by_id["print"].trigger()
    assert not printed.exists()


@pytest.mark.long
def test_a_sheet_and_a_paint_go_to_another_study(sampled, tmp_path, monkeypatch):
    read = next(r["sheet_id"] for r in sampled.session.file.rows("readings") if r["sheet_id"] is not None)
    sampled.go_to_sheet(read)
    name_it(monkeypatch, tmp_path / "sheet.share.json")
    sampled.actions_by_id["share sheet"].trigger()
    sampled.show_room(RoomName.BOX)
    sampled.box.select("Moth gold")
    assert sampled.box.current_paint() is not None
    name_it(monkeypatch, tmp_path / "paint.share.json")
    sampled.actions_by_id["share paint"].trigger()
    title = sampled.state.record.sheet.title
    make_study(tmp_path / "other.culmo").close()
    assert sampled.open_path(tmp_path / "other.culmo")
    settle(sampled, 30)
    sampled.files.take_any([tmp_path / "sheet.share.json", tmp_path / "paint.share.json"])
    settle(sampled, 30)
    study = sampled.session.file
    assert [row["title"] for row in study.rows("sheets")] == [title]
    assert "Moth gold" in [row["name"] for row in study.rows("paints")]
    assert study.rows("readings", "sheet_id NOT NULL")
    assert study.problems() == []


def test_a_study_is_recovered_by_the_file_menu(window, tmp_path, monkeypatch):
    make_study(tmp_path / "a.culmo").close()
    name_it(monkeypatch, tmp_path / "a.culmo", "getOpenFileName")
    name_it(monkeypatch, tmp_path / "b.culmo")
    window.actions_by_id["recover"].trigger()
    settle(window, 30)
    assert window.session.file.path == tmp_path / "b.culmo"
    assert "5 paints" in window.notice.words.text() and "left as it is" in window.notice.words.text()
    with Study(tmp_path / "a.culmo") as study:
        assert len(study.rows("paints")) == 5
    name_it(monkeypatch, "", "getOpenFileName")
    window.actions_by_id["recover"].trigger()
    assert window.session.file.path == tmp_path / "b.culmo"


@pytest.mark.long
def test_the_whole_study_goes_out_and_an_existing_folder_is_left_alone(sampled, tmp_path, monkeypatch):
    name_it(monkeypatch, tmp_path / "out")
    sampled.actions_by_id["export study"].trigger()
    assert (tmp_path / "out" / "study.json").is_file()
    sheets = sampled.session.file.rows("sheets")
    for ending in (".json", ".csv", ".pdf", ".svg", ".png"):
        assert len(list((tmp_path / "out" / "sheets").glob(f"*{ending}"))) == len(sheets)
    assert sampled.session.file.title in " ".join(text for _, text in pages_of(tmp_path / "out" / "book.pdf"))
    study_from_folder(tmp_path / "out", tmp_path / "back.culmo")
    with Study(tmp_path / "back.culmo") as back:
        assert back.dump() == sampled.session.file.dump()
    before = sorted(path.name for path in (tmp_path / "out").iterdir())
    sampled.actions_by_id["export study"].trigger()
    assert sampled.notice.isVisible()
    assert sorted(path.name for path in (tmp_path / "out").iterdir()) == before


@pytest.mark.parametrize("paints", [0, 5])
def test_a_study_with_nothing_in_it_goes_out_too(window, tmp_path, paints):
    if paints:
        make_study(tmp_path / "a.culmo").close()
    else:
        Study.create(tmp_path / "a.culmo", "Empty").close()
    assert window.open_path(tmp_path / "a.culmo")
    settle(window, 30)
    window.out.write_study(tmp_path / "out")
    assert "Written" in window.status.told_text.text()
    assert not window.notice.isVisible()
    assert (tmp_path / "out" / "study.json").is_file()
    assert (tmp_path / "out" / "book.pdf").is_file() or not paints


def test_writing_the_whole_study_can_be_stopped(sampled, tmp_path, monkeypatch):
    monkeypatch.setattr("culmo.desk.progress.QProgressDialog.wasCanceled", lambda self: True)
    sampled.out.write_study(tmp_path / "out")
    assert "Stopped" in sampled.status.told_text.text()
    assert not (tmp_path / "out").exists()  # all of it or nothing: half a folder might be taken for the whole
    assert not list(tmp_path.rglob("*.part"))


@pytest.mark.long
def test_drawings_of_the_whole_study_are_by_daylight(sampled, tmp_path):
    sampled.out.write_study(tmp_path / "day")
    sampled.session.learning.set_light(1)
    settle(sampled, 30)
    sampled.out.write_study(tmp_path / "lamp")
    first = sorted((tmp_path / "day" / "sheets").glob("*.png"))
    assert first and all(
        path.read_bytes() == (tmp_path / "lamp" / "sheets" / path.name).read_bytes() for path in first
    )
