"""A painted sheet is extended through the window: nothing of its record is lost, and what is new can be printed alone."""

import pypdfium2
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QLabel

from culmo.desk import export_dialog
from culmo.desk.app import settle
from culmo.desk.drawing.export import PrintOptions
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.plan.slip import PlanSlipPage
from support.begun import new_grid


def plan(window, kind: str, **fields: str) -> None:
    window.show_room(RoomName.PLAN)
    new_grid(window.plan)
    page = window.plan.slip.layout_page
    page.kind.setCurrentIndex(page.kind.findData(kind))
    fill(window, **fields)
    assert window.plan.trying.keep()


def fill(window, **fields: str) -> str:
    """Type into the Layout page; gives what it says."""
    page = window.plan.slip.layout_page
    for name, text in fields.items():
        page.fields[name].set_text(text)
    page._edited()
    settle(window, 40)
    return "\n".join(label.text() for label in page.hints.findChildren(QLabel))


def numbers_in(path) -> list[str]:
    """The order numbers on a printed page, as an independent reader of the file sees them."""
    text = pypdfium2.PdfDocument(path)[0].get_textpage().get_text_bounded()
    return [word for word in text.split() if word.isdigit()]


def paint_all(qtbot, window) -> int:
    """Paint everything that can be painted, out of any clock; gives how many cells that were."""
    window.show_room(RoomName.PAINT)
    for _ in range(60):
        if window.paint.state.current is None:
            break
        if window.paint.state.wait_minutes > 0:
            qtbot.keyClick(window.paint, Qt.Key.Key_D)
        qtbot.keyClick(window.paint, Qt.Key.Key_Space)
    return len(window.state.painted)


@pytest.fixture
def last_room():
    return RoomName.PLAN


@pytest.fixture
def ladder(qtbot, with_study):
    """The window with a ladder of ten rungs that is painted."""
    window = with_study
    first, second = [paint.name for paint in window.session.paints][:2]
    plan(window, "ladder", paints=f"{first}, {second}", steps="9", paper="A4")
    assert paint_all(qtbot, window) == 18  # a band and a full patch each
    window.show_room(RoomName.PLAN)
    window.plan.slip.tabs.choose(PlanSlipPage.LAYOUT)
    return window


@pytest.mark.long
def test_rungs_are_added_to_a_painted_ladder_and_the_rest_is_painted(qtbot, ladder):
    window = ladder
    before = window.session.selection.sheet_id
    words = fill(window, steps="17")
    assert "18 painted cells keep their record" in words
    assert window.plan.trying.keep()
    after = window.session.selection.sheet_id
    assert after != before
    assert len(window.state.painted) == 18
    assert window.plan.foot.start.text() == "Go on painting"
    titles = [window.plan.picker.itemText(i) for i in range(window.plan.picker.count())]
    assert titles[0] == "Ladder"
    assert titles[1].startswith("Ladder, version 1 of ")
    window.show_room(RoomName.PAINT)
    assert "18 of 34" in window.paint.progress_words.text()
    assert paint_all(qtbot, window) == 34
    # the earlier one is there as it was painted, and is not changed any more
    window.show_room(RoomName.PLAN)
    window.plan.picker.activated.emit(1)
    assert window.session.selection.sheet_id == before
    assert len(window.state.painted) == 18
    page = window.plan.slip.layout_page
    assert "earlier version" in page.message.text()
    assert not page.widget().isEnabled()
    window.session.undo.undo()  # the last stroke
    window.plan.picker.activated.emit(0)
    assert len(window.state.painted) == 33


@pytest.mark.long
def test_undo_of_an_extension_gives_the_painted_ladder_back(ladder):
    before = ladder.session.selection.sheet_id
    fill(ladder, steps="17")
    assert ladder.plan.trying.keep()
    ladder.session.undo.undo()
    assert ladder.session.selection.sheet_id == before
    assert len(ladder.state.painted) == 18
    assert ladder.plan.picker.count() == 1


@pytest.mark.long
def test_what_is_new_is_printed_alone(ladder, tmp_path, monkeypatch):
    window = ladder
    fill(window, steps="17")
    assert window.plan.trying.keep()
    settle(window, 40)
    asked = {}

    def answer(dialog: export_dialog.ExportDialog) -> QDialog.DialogCode:
        asked["offered"] = dialog.cells.isVisibleTo(dialog)
        dialog.cells.setCurrentIndex(1)
        dialog.text.setCurrentIndex(3)
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(export_dialog.ExportDialog, "exec", answer)
    options, ids = window.out._ask_pages(window.session.selection.sheet_id, colour=True)
    assert asked["offered"]
    numbers = {}
    for name, chosen in (("new", options), ("all", PrintOptions(recipes=""))):
        assert window.out.write_sheet(tmp_path / f"{name}.pdf", chosen, ids)
        numbers[name] = numbers_in(tmp_path / f"{name}.pdf")
    assert len(numbers["all"]) - len(numbers["new"]) == 18


@pytest.mark.long
def test_another_paint_comes_into_a_painted_grid_on_the_same_paper(qtbot, with_study):
    window = with_study
    names = [paint.name for paint in window.session.paints]
    plan(window, "grid", paints=", ".join(names[:3]), paper="A3", cell_mm="20")
    sheet_id = window.session.selection.sheet_id
    paint_all(qtbot, window)
    lay = {cell.id: cell.outline_mm for cell in window.state.record.sheet.cells}
    window.show_room(RoomName.PLAN)
    window.plan.slip.tabs.choose(PlanSlipPage.LAYOUT)
    words = fill(window, paints=", ".join(names[:4]))
    assert "stays in its place" in words
    assert window.plan.trying.keep()
    record = window.state.record
    assert record.id == sheet_id
    now = {cell.id: cell.outline_mm for cell in record.sheet.cells}
    assert {name: now[name] for name in lay} == lay
    assert len(window.state.painted) == len(lay) < len(now)
    assert window.plan.picker.count() == 1
