"""The table of all paints: sorted, sifted, printed and taken along, by mouse and by keys."""

import csv
import io

import pypdfium2
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from culmo.cli.main import main
from culmo.core.paint.doubts import Doubt
from culmo.core.paint.readings import Treatment
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.pages import BoxPageName
from culmo.desk.rooms.box.table_model import ASKED, COLUMNS
from culmo.study import acts
from culmo.study.file import Study
from culmo.study.paint_rows import COLUMNS as FILE_COLUMNS
from support.builders import sample_study


@pytest.fixture(scope="module")
def demo_file(tmp_path_factory):
    """The sample study, with a paint whose label claims too much and one of which nothing is known."""
    path = sample_study(tmp_path_factory.mktemp("two more"))
    with Study(path) as study:
        for entry in (
            acts.PaintEntry("Cobalt sky", "PB15:3, PW6, PV23", label={"lightfastness": "excellent"}),
            acts.PaintEntry("Mist"),
        ):
            study.apply(acts.add_paint(study, entry))
    return path


@pytest.fixture
def page(demo):
    """The table of the study's box."""
    demo.session.selection.select_box(None)
    demo.show_room(RoomName.BOX)
    demo.box.shows.choose(BoxPageName.TABLE)
    settle(demo, 40)
    return demo.box.stack.table


def names(page) -> list[str]:
    return [row.paint.name for row in page.model.rows]


def column(key: str):
    return next(one for one in COLUMNS if one.key == key)


def head_at(page, key: str) -> QPoint:
    header = page.table.horizontalHeader()
    place = page.model.columns.index(column(key))
    page.table.scrollTo(page.model.index(0, place))
    return QPoint(header.sectionViewportPosition(place) + 12, header.height() // 2)


def click_head(page, key: str) -> None:
    at = head_at(page, key)
    QTest.mouseClick(page.table.horizontalHeader().viewport(), Qt.MouseButton.LeftButton, pos=at)


def test_every_paint_has_a_row_and_every_property_a_column(demo, page):
    assert names(page) == [paint.name for paint in demo.session.paints]
    assert {one.key for one in COLUMNS} >= {
        "transparency", "staining", "granulation", "lightfastness", "strength", "hue", "chroma", "darkest", "lightest",
        "drying", "codes", "sheets", "readings", "doubts",
    }  # fmt: skip
    row = next(row for row in page.model.rows if row.paint.name == "Ultramarine")
    assert column("codes").text(row) == "PB29"
    assert column("readings").text(row) not in ("", "0")
    assert 20 < row.darkest < row.lightest < 100


def test_a_click_on_a_head_sorts_once_more_turns_and_a_third_time_gives_the_box(page):
    as_it_lies = names(page)
    click_head(page, "darkest")
    known = [row.darkest for row in page.model.rows if row.labs is not None]
    assert known == sorted(known)
    assert names(page)[-1] == "Mist"  # what is not known comes last
    click_head(page, "darkest")
    known = [row.darkest for row in page.model.rows if row.labs is not None]
    assert known == sorted(known, reverse=True)
    assert names(page)[-1] == "Mist"
    click_head(page, "darkest")
    assert names(page) == as_it_lies
    click_head(page, "strength")  # the strongest first
    known = [row.label.facts["strength"].number for row in page.model.rows]
    known = [number for number in known if number == number]
    assert known == sorted(known, reverse=True)
    corner = page.table.findChildren(
        type(page.export).__bases__[0], options=Qt.FindChildOption.FindDirectChildrenOnly
    )
    corner[0].click()
    assert names(page) == sorted(as_it_lies, key=str.casefold)


@pytest.mark.long
@pytest.mark.parametrize("place", range(len(ASKED)))
def test_what_is_asked_for_is_shown_and_nothing_else(page, place):
    everything = list(page.model.rows)
    page.chips[place].click()
    assert names(page) == [row.paint.name for row in everything if ASKED[place].holds(row)]
    assert str(len(page.model.rows)) in page.count.text()
    page.chips[place].click()
    assert len(page.model.rows) == len(everything)


def test_words_sift_the_rows_too(page):
    QTest.keyClicks(page.search, "pb29 ultra")
    assert names(page) == ["Ultramarine"]
    page.search.clear()
    page.search.setText("no such words")
    assert names(page) == []
    assert not page.export.isEnabled()


def test_doubts_are_told_whole_for_the_chosen_paint(page):
    page.select("Cobalt sky")
    row = next(row for row in page.model.rows if row.paint.name == "Cobalt sky")
    kinds = {caution.kind for caution in row.cautions}
    assert {
        Doubt.MISNAMED,
        Doubt.MANY,
    } <= kinds  # its label says that it keeps, and nothing says otherwise yet
    assert "Cobalt" in page.doubts.text() and "3 pigments" in page.doubts.text()
    page.select("Mist")
    assert "code" in page.doubts.text()


def test_ones_own_test_stands_beside_the_label_where_they_differ(demo, page):
    study = demo.session.file
    with study.disk.transaction() as db:
        db.execute(
            "INSERT INTO sheets (id, title, kind, layout, created) "
            "VALUES (900, 'Window', 'cards', '{}', '2026-01-01T09:00:00+00:00')"
        )
        db.execute(
            "INSERT INTO fades (sheet_id, started, weeks) VALUES (900, '2026-01-01T09:00:00+00:00', '[8]')"
        )
        for treatment, L in ((Treatment.COVERED, 45.0), (Treatment.EXPOSED, 62.0)):
            db.execute(
                "INSERT INTO readings (recipe, ground, L, a, b, sheet_id, taken, treatment) "
                "VALUES ('Cobalt sky', 'paper', ?, 4, -30, 900, '2026-02-26T09:00:00+00:00', ?)",
                (L, treatment),
            )
    demo.session.learning.known_paints.forget()
    page.refresh("Cobalt sky")
    row = next(row for row in page.model.rows if row.paint.name == "Cobalt sky")
    text = column("lightfastness").text(row)
    assert "poor" in text and "excellent" in text
    assert [caution.kind for caution in row.cautions][:2] == [Doubt.FUGITIVE, Doubt.CONTRADICTED]
    assert "8 weeks" in row.cautions[0].words


def test_keys_reach_everything(demo, page):
    demo.box.take_keys()
    assert page.table.hasFocus()
    page.select(names(page)[0])
    QTest.keyClick(page.table, Qt.Key.Key_Down)
    assert demo.box.current == names(page)[1]
    QTest.keyClick(page.table, Qt.Key.Key_Return)
    assert names(page)[1] in demo.session.selection.in_hand
    QTest.keyClick(page.table, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    demo.menus.run(next(entry for entry in demo.menus.table if entry.shortcut == "Ctrl+C"))
    lines = QGuiApplication.clipboard().text().splitlines()
    assert len(lines) == 3
    assert lines[1].split("\t")[0] == names(page)[1]
    assert len({line.count("\t") for line in lines}) == 1


def test_the_slip_makes_room_and_a_double_click_brings_it_back(demo, page):
    assert not demo.box.pages.isVisible()
    page.select("Ochre")
    page._row_chosen(page.table.currentIndex(), page.table.currentIndex())
    page.card_wanted.emit()
    assert demo.box.shows.current == BoxPageName.STROKES
    assert demo.box.pages.isVisible()
    assert demo.box.slip.name.text() == "Ochre"


def test_the_table_goes_out_as_csv_as_it_is_sorted_and_sifted(demo, page, tmp_path, monkeypatch):
    page.chips[2].click()
    click_head(page, "chroma")
    path = tmp_path / "paints.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), "Table as CSV (*.csv)"))
    page.export.click()
    rows = list(csv.DictReader(io.StringIO(path.read_text(encoding="utf-8"))))
    assert [row["name"] for row in rows] == names(page)
    assert tuple(rows[0]) == FILE_COLUMNS
    assert {row["granulation"] for row in rows} <= {"medium", "high"}
    assert all(0 <= float(row["hue"]) < 360 for row in rows)


def test_the_table_goes_out_as_pages_that_hold_every_paint(demo, page, tmp_path, monkeypatch):
    path = tmp_path / "paints.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), "PDF (*.pdf)"))
    page.export.click()
    document = pypdfium2.PdfDocument(path)
    width, height = document[0].get_size()
    assert width > height  # wide pages
    text = " ".join(sheet.get_textpage().get_text_bounded() for sheet in document)
    flat = " ".join(text.split())
    for name in names(page):
        assert name in flat
    assert "Cobalt sky" in flat and "3 pigments" in flat


def test_the_command_tells_the_same(demo, page, tmp_path, capsys):
    path, box, shown = demo.session.file.path, demo.session.boxes[0], list(page.model.rows)
    demo.session.close()
    assert main(["paints", "--study", str(path)]) == 0
    rows = {row["name"]: row for row in csv.DictReader(io.StringIO(capsys.readouterr().out))}
    for row in shown:
        assert rows[row.paint.name]["transparency"] == row.label.transparency
        assert (
            rows[row.paint.name]["cautions"].split("; ") == [c.kind.value for c in row.cautions]
            or not row.cautions
        )
    assert rows["Mist"]["hex"] == ""
    assert main(["paints", "--study", str(path), "--box", box.name, "--out", str(tmp_path / "box.csv")]) == 0
    assert len((tmp_path / "box.csv").read_text().splitlines()) == len(box.paints) + 1
    assert main(["paints", "--study", str(path), "--box", "No such"]) == 2
    assert box.name in capsys.readouterr().err


def test_an_empty_study_has_an_empty_table(window, tmp_path, capsys):
    with Study.create(tmp_path / "empty.culmo", "Empty"):
        pass
    assert window.open_path(tmp_path / "empty.culmo")
    window.show_room(RoomName.BOX)
    window.box.shows.choose(BoxPageName.TABLE)
    settle(window, 10)
    assert names(window.box.stack.table) == []
    assert not window.box.stack.table.print.isEnabled()
    window.session.close()
    assert main(["paints", "--study", str(tmp_path / "empty.culmo")]) == 0
    assert len(capsys.readouterr().out.splitlines()) == 1
