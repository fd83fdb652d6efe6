"""The Daybook in the real window: notes, search, what is due, going to things; the book and the cards."""

import shutil
from datetime import date

import numpy as np
import pypdfium2
import pytest
from PySide6.QtCore import QMimeData, Qt, QUrl
from PySide6.QtGui import QGuiApplication, QImage

from culmo.core.steps import run_through
from culmo.desk.acts.edit import paste
from culmo.desk.app import settle
from culmo.desk.drawing.book import BookCharts, BookOptions, Content, write_book
from culmo.desk.drawing.carry import SIZES, Favourite, per_card, write_cards
from culmo.desk.rooms.daybook.lines import wrapped
from culmo.desk.rooms.daybook.model import days_view, found_view
from culmo.desk.theme import sans
from culmo.errors import CulmoError
from culmo.study import acts, note_acts, paint_acts
from culmo.study.due import Due, DueKind
from culmo.study.photo_acts import Picture
from culmo.study.pictures import jpeg_bytes
from culmo.study.search import Index
from support.builders import FIVE, make_sheet

BOX, PLAN, PAINT, READ, WEIGH, DAYBOOK = range(6)


@pytest.fixture
def sampled(window, demo_file, tmp_path):
    """The window with a copy of the sample study, in the Daybook."""
    copy = tmp_path / "sample.culmo"
    shutil.copy(demo_file, copy)
    assert window.open_path(copy)
    settle(window, 30)
    window.show_room(DAYBOOK)
    return window


def a_picture(tmp_path, name="wing.jpg"):
    path = tmp_path / name
    path.write_bytes(jpeg_bytes(np.full((120, 160, 3), (90, 140, 60), np.uint8)))
    return path


def type_search(qtbot, room, text):
    room.take_search()
    qtbot.keyClicks(room.search, text)
    qtbot.keyClick(room.search, Qt.Key.Key_Return)


def test_notes_are_typed_and_lines_lead_to_sheets(qtbot, with_study):
    window, session = with_study, with_study.session
    session.do(acts.add_sheet(session.file, make_sheet()))
    session.do(acts.add_sheet(session.file, make_sheet(FIVE[:2])))
    session.selection.select_sheet(2)
    window.show_room(DAYBOOK)
    room = window.daybook
    qtbot.keyClicks(room.foot.note, "the card yellows under the lamp")
    qtbot.keyClick(room.foot.note, Qt.Key.Key_Return)
    assert room.foot.note.text() == ""
    assert session.file.rows("notes")[0]["text"] == "the card yellows under the lamp"
    qtbot.keyClick(room.foot.note, Qt.Key.Key_Return)
    assert len(session.file.rows("notes")) == 1
    planned = next(
        i for i, line in enumerate(room.view.lines.lines) if line.entry and line.entry.sheet_id == 1
    )
    room.view.setCurrentIndex(room.view.lines.index(planned))
    assert not room.slip.go_button.isHidden()
    qtbot.keyClick(room.view, Qt.Key.Key_Return)
    assert session.selection.sheet_id == 1
    assert window.rooms.currentIndex() == PLAN


def test_a_picture_is_attached_shown_and_missed(qtbot, with_study, tmp_path):
    window, room = with_study, with_study.daybook
    window.show_room(DAYBOOK)
    held = QMimeData()
    held.setUrls([QUrl.fromLocalFile(str(a_picture(tmp_path)))])
    room.foot.take(held)
    assert "wing.jpg" in room.foot.attached.text()
    room.foot.attach_files([tmp_path / "nothing.jpg"])
    assert window.notice.isVisible()
    qtbot.keyClicks(room.foot.note, "copper on green")
    qtbot.mouseClick(room.foot.add, Qt.MouseButton.LeftButton)
    assert room.foot.attached.isHidden()
    (photo,) = window.session.file.rows("photos")
    image = room.view.thumbs.photo(photo["id"], 100)
    assert image.pixelColor(50, 30).green() > image.pixelColor(50, 30).blue() + 40
    row = next(i for i, line in enumerate(room.view.lines.lines) if line.entry and line.entry.photos)
    room.view.setCurrentIndex(room.view.lines.index(row))
    assert room.slip.pictures.count() == 1
    (window.session.file.path.parent / photo["path"]).unlink()
    window.session.do(note_acts.add_note(window.session.file, "later"))
    assert room.view.thumbs.photo(photo["id"], 100) is None
    window.daybook_desk.open_picture(photo["id"])
    assert "no longer beside" in window.notice.words.text()
    window.grab()


def test_text_and_pictures_are_pasted(with_study):
    window = with_study
    window.show_room(DAYBOOK)
    board = QGuiApplication.clipboard()
    board.setText("two\nlines")
    paste(window)
    assert window.daybook.foot.note.text() == "two lines"
    board.setImage(QImage(80, 80, QImage.Format.Format_RGB32))
    paste(window)
    assert "pasted picture" in window.daybook.foot.attached.text()
    board.clear()
    paste(window)
    assert "clipboard" in window.status.told_text.text()


def test_a_note_is_changed_and_removed_and_comes_back(with_study):
    session, room = with_study.session, with_study.daybook
    with_study.show_room(DAYBOOK)
    session.do(note_acts.add_note(session.file, "first words"))
    room.foot.change(1, "second words")
    assert "second words" in [line.text for line in room.view.lines.lines]
    room.foot.change(1, " ")
    assert "empty" in with_study.notice.words.text()
    room.foot.remove(1)
    assert not session.file.rows("notes")
    session.undo.undo()
    assert session.file.rows("notes")[0]["text"] == "second words"


def test_search_by_keys_finds_and_goes(qtbot, sampled):
    room = sampled.daybook
    type_search(qtbot, room, "PB29")
    assert "things found" in room.summary.text()
    assert room.view.hasFocus() and room.view.current is not None
    all_lines = room.view.lines.rowCount()
    room.filters.choose(3)
    assert 0 < room.view.lines.rowCount() < all_lines
    assert {line.kind for line in room.view.lines.lines} == {"reading"}
    qtbot.keyClick(room.view, Qt.Key.Key_Return)
    assert sampled.rooms.currentIndex() == READ
    assert sampled.state.current
    sampled.show_room(DAYBOOK)
    room.take_search()
    qtbot.keyClick(room.search, Qt.Key.Key_Escape)
    assert room.search.text() == ""
    room.filters.choose(0)
    assert room.view.lines.lines[0].kind == "day"


@pytest.mark.long
@pytest.mark.parametrize(("text", "kind", "place"), [
    ("Viridian", "paint", BOX), ("Travelling", "sheet", PLAN), ("earths", "palette", WEIGH),
    ("coppery", "wanted", WEIGH), ("keeper", "cell", PLAN),
])  # fmt: skip
def test_each_kind_of_thing_is_gone_to(qtbot, sampled, text, kind, place):
    room = sampled.daybook
    type_search(qtbot, room, text)
    row = next(i for i, line in enumerate(room.view.lines.lines) if line.kind == kind)
    room.view.setCurrentIndex(room.view.lines.index(row))
    qtbot.mouseClick(room.slip.go_button, Qt.MouseButton.LeftButton)
    assert sampled.rooms.currentIndex() == place
    settle(sampled, 30)


def test_colours_near_the_selected_cell(sampled):
    sampled.session.selection.select_sheet(1)
    sampled.state.select("r04c02")
    sampled.daybook_desk.search_selected()
    hits = sampled.daybook.view.lines.lines
    assert hits and hits[0].text and "away" in hits[0].side
    sampled.daybook.view.choose_first()
    sampled.daybook.slip.near.emit(sampled.daybook.view.current)
    assert sampled.daybook.view.lines.lines[0].side.startswith("0.0")


def test_nothing_found_and_nothing_done_are_said(with_study):
    room = with_study.daybook
    with_study.show_room(DAYBOOK)
    room.search.setText("no such thing anywhere")
    room._show_lines()
    assert not room.empty.isHidden() and room.view.isHidden()
    room.search.clear()
    room.filters.choose(5)
    assert "nothing of this kind" in room.empty.text()


def test_what_is_due_leads_to_its_room(qtbot, with_study):
    window, session = with_study, with_study.session
    session.do(acts.add_sheet(session.file, make_sheet()))
    session.do(paint_acts.paint_cell(session.file, 1, 1))
    window.show_room(DAYBOOK)
    settle(window, 120)
    buttons = [window.daybook.slip.dues.itemAt(i).widget() for i in range(window.daybook.slip.dues.count())]
    assert {button.due.kind for button in buttons} == {DueKind.HALF, DueKind.DRYING}
    qtbot.mouseClick(buttons[0], Qt.MouseButton.LeftButton)
    assert window.rooms.currentIndex() == PAINT
    many = [Due(DueKind.HALF, f"Sheet {i}", "waits", 1) for i in range(9)]
    window.daybook.slip.show_due(many)
    assert window.daybook.slip.dues.count() == 7
    window.daybook.slip.show_due([])
    assert window.daybook.slip.dues.count() == 1


def test_the_models_speak_without_a_window(study):
    assert days_view(study).lines[0].kind == "day"
    assert found_view(Index(study), "lemon", date(2026, 1, 1)).lines
    rows = wrapped("one two three four five six", sans(10), 60.0, 2)
    assert len(rows) == 2 and rows[-1].endswith("…")


# ---- the book and the cards


def pages_of(path):
    document = pypdfium2.PdfDocument(path)
    found = []
    for page in document:
        text = page.get_textpage()
        found.append((tuple(round(side * 25.4 / 72) for side in page.get_size()), text.get_text_range()))
        text.close()
        page.close()
    document.close()
    return found


@pytest.mark.long
def test_the_book_of_the_study_tells_everything(sampled, tmp_path):
    path = tmp_path / "book.pdf"
    assert sampled.daybook_desk.write_book(path, Content(), BookOptions())
    pages = pages_of(path)
    assert {size for size, _ in pages} == {(210, 297)}
    text = " ".join(" ".join(page.split()) for _, page in pages)
    study = sampled.session.file
    for row in study.rows("sheets"):
        assert row["title"] in text
    for row in study.rows("palettes"):
        assert row["name"] in text and row["reason"].split(":")[0] in text
    for row in [*study.rows("notes"), *study.rows("targets")]:
        assert (row.get("text") or row.get("name")) in text
    # the contents give the pages on which things stand
    for line in pages[0][1].splitlines():
        words = line.rsplit(None, 1)
        if (
            len(words) == 2
            and words[1].isdigit()
            and words[0] in {row["title"] for row in study.rows("sheets")}
        ):
            assert words[0] in pages[int(words[1]) - 1][1]
    readings = study.rows("readings", "sheet_id = 1 AND trust <> 'wet'")  # the wet looks are no part of it
    assert (
        sum(f"{row['L']:.1f} {row['a']:.1f} {row['b']:.1f}" in text for row in readings) > len(readings) * 0.9
    )


@pytest.mark.long
@pytest.mark.parametrize("charts", [BookCharts.TO_SCALE, BookCharts.BOTH])
def test_a_chart_to_scale_has_a_page_of_its_own(sampled, tmp_path, charts):
    session = sampled.session
    options = BookOptions(charts=charts)
    path = tmp_path / "sheet.pdf"
    run_through(
        write_book(
            session.file,
            session.learning.estimate,
            session.learning.looks,
            path,
            Content(sheet_id=1),
            options,
        )
    )
    sizes = [size for size, _ in pages_of(path)]
    assert sizes.count((420, 297)) == 1


def test_a_day_with_a_lost_picture_is_still_written(sampled, tmp_path):
    session = sampled.session
    study = session.file
    study.clock = lambda: "2026-11-03T10:00:00+01:00"
    data = jpeg_bytes(np.full((90, 140, 3), 120, np.uint8))
    session.do(
        note_acts.add_note(
            study, "a word " * 400 + "x" * 300, [Picture("a.jpg", data), Picture("b.jpg", data + b" ")]
        )
    )
    (study.path.parent / study.rows("photos", "name = 'b.jpg'")[0]["path"]).unlink()
    path = tmp_path / "day.pdf"
    assert sampled.daybook_desk.write_book(path, Content(date="2026-11-03"), BookOptions())
    text = " ".join(" ".join(page.split()) for _, page in pages_of(path))
    assert text.count("a word") == 400
    assert "no longer beside the study" in text
    assert not sampled.daybook_desk.write_book(
        tmp_path / "none.pdf", Content(date="1999-01-01"), BookOptions()
    )
    assert not (tmp_path / "none.pdf").exists()


def test_a_book_that_can_not_be_written_leaves_the_old_one(sampled, tmp_path):
    session = sampled.session
    path = tmp_path / "book.pdf"
    path.write_text("the old one")
    steps = write_book(
        session.file, session.learning.estimate, session.learning.looks, path, Content(), BookOptions()
    )
    next(steps)
    steps.close()  # stopped half way
    assert path.read_text() == "the old one"
    assert list(tmp_path.glob(".*part")) == []
    for bad in (tmp_path / "no folder" / "b.pdf", tmp_path / "b.txt"):
        with pytest.raises(CulmoError):
            run_through(
                write_book(
                    session.file,
                    session.learning.estimate,
                    session.learning.looks,
                    bad,
                    Content(),
                    BookOptions(),
                )
            )


@pytest.mark.long
@pytest.mark.parametrize("size", list(SIZES))
def test_cards_hold_each_keeper_with_its_parts(sampled, tmp_path, size):
    mixes = sampled.daybook_desk.favourites()
    assert mixes
    long = acts.parse_recipe(" + ".join(f'"Very long name of a paint {i}":{i + 1}' for i in range(4)))
    mixes = [*mixes, Favourite(long, None, "a note that goes on and on and on and on")] * 5
    path = tmp_path / "card.pdf"
    count = write_cards(path, "Mine", mixes, sampled.session.learning.looks, size)
    assert count == -(-len(mixes) // per_card(size))
    text = " ".join(" ".join(page.split()) for _, page in pages_of(path))
    # a recipe is never cut
    assert text.count("4 Very long name of a paint 3") == 5
    with pytest.raises(CulmoError, match="keeper"):
        write_cards(tmp_path / "none.pdf", "Mine", [], None, size)
