"""The Weigh room driven through the window: the questions of the sample study, by mouse and by keys."""

import json

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QColor, QDropEvent, QImage, QPainter, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QLabel, QLineEdit, QPushButton

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.srgb import hex_from_lab
from culmo.core.paint.recipe import mix, parse_recipe
from culmo.core.palette.conditions import Conditions, Having
from culmo.desk.app import settle
from culmo.desk.going_out import PAINT_MIME
from culmo.desk.rail import Well
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.weigh.fewer_dialogs import KeepDialog, WantedDialog
from culmo.desk.rooms.weigh.map_model import inside
from culmo.desk.rooms.weigh.mix_row import MixRow
from culmo.desk.rooms.weigh.palette_slip import ChangeRow
from culmo.desk.rooms.weigh.view import WeighPageName
from culmo.desk.rooms.weigh.weighing import STOPPED
from culmo.study import acts
from culmo.study.mix_acts import keep_mix, kept_mixes_of, mixes_worth_keeping
from culmo.study.palette_acts import kept_palettes, wanted_lists
from culmo.study.records import sheet_record, sheet_titles


@pytest.fixture
def last_room():
    return RoomName.WEIGH


@pytest.fixture
def demo(demo):
    """The window with a copy of the sample study, in the Weigh room."""
    window = demo
    titles = {title: sheet_id for sheet_id, title in sheet_titles(window.session.file)}
    window.session.selection.select_sheet(titles["First eight, wing cases"])
    window.show_room(RoomName.WEIGH)
    settle(window, 20)
    return window


def page(window, place):
    window.weigh.shows.choose(place)
    wait(window)
    return window.weigh.page(place)


def wait(window):
    """Until no work of the room is left: one piece may begin the next."""
    for _ in range(12):
        settle(window, 25)
        if not window.session.runner.busy():
            QTest.qWait(20)
            if not window.session.runner.busy():
                return


def turn_wheel(widget):
    """One notch of the wheel over a widget."""
    at = QPointF(widget.rect().center())
    event = QWheelEvent(
        at, QPointF(widget.mapToGlobal(at.toPoint())), QPoint(), QPoint(0, -120), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(widget, event)


def click(qtbot, widget, at=None):
    qtbot.mouseClick(widget, Qt.MouseButton.LeftButton, pos=at if at is not None else widget.rect().center())


def shown(root, kind):
    """The widgets of a kind that are on view, once new ones are shown and old ones gone."""
    QTest.qWait(20)
    return [widget for widget in root.findChildren(kind) if widget.isVisibleTo(root)]


def texts(widget):
    return " | ".join(label.text() for label in shown(widget, QLabel))


# ---- the five questions


@pytest.mark.long
def test_which_six_of_eighteen_and_what_does_the_seventh_add(qtbot, demo):
    fewer = page(demo, WeighPageName.FEWER)
    assert list(fewer.buttons) == [3, 4, 5, 6, 7, 8]
    click(qtbot, fewer.buttons[6])
    six, seven = demo.weigh.weighing.choices[6], demo.weigh.weighing.choices[7]
    assert six.proven
    assert len(fewer.shown_paints()) == 6
    assert "no six reach more" in fewer.palette_slip.words.text()
    assert fewer.palette_slip.title.text() == "Six of eighteen"
    shares = [button.row.share for button in fewer.buttons.values()]
    assert shares == sorted(shares)
    assert f"{len(six.palettes) - 1} others within one point" == fewer.buttons[6].row.sure
    # what the seventh adds: the best addition is listed with its points, and choosing it shows it
    adds = [row for row in shown(fewer.palette_slip, ChangeRow) if row.accessibleName().startswith("with ")]
    points = 100 * (seven.worth[0] - six.worth[0])
    told = float(adds[0].accessibleName().split("+ ")[1])
    assert 0.0 < told <= points + 0.05
    click(qtbot, adds[0])
    assert fewer.own_chosen
    assert len(fewer.own.names) == 7
    value = demo.weigh.weighing.reach.value.of(demo.weigh.weighing.places(fewer.own.names))
    assert value == pytest.approx(six.worth[0] + told / 100, abs=6e-4)
    assert "adds" in fewer.paying.text()


def test_how_do_i_mix_this_beetles_green(qtbot, demo):
    demo.session.selection.toggle_in_hand("Lemon")
    demo.session.selection.toggle_in_hand("Phthalo green")
    green = next(c for c in wanted_lists(demo.session.file)["Beetle plate"] if c.name == "beetle's green")
    find = page(demo, WeighPageName.FIND)
    place = next(i for i in range(find.from_what.count()) if "beetle's green" in find.from_what.itemText(i))
    find.from_what.setCurrentIndex(place)
    find.from_what.activated.emit(place)
    wait(demo)
    assert min(entry.match.away for entry in find.answer.advised) < 1.0
    assert find.answer.sought.lab == green.lab
    words = texts(find.results)
    assert "From the puddle in hand" in words
    assert "Goes with it, from these paints" in words
    assert "looks like" in words
    rows = shown(find.results, MixRow)
    click(qtbot, rows[1])
    assert find.slip.recipe == find.answer.advised[1].match.recipe
    click(qtbot, find.slip.take_in_hand)
    assert set(demo.session.selection.in_hand) == set(find.slip.recipe.names)
    assert demo.rail.dab.recipe() == find.slip.recipe  # with its parts and its wash


# ---- finding


def test_a_typed_colour_is_looked_for_and_a_wrong_one_keeps_its_text(qtbot, demo):
    qtbot.keyClick(demo, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
    wait(demo)
    find = demo.weigh.page(WeighPageName.FIND)
    assert find.text.hasFocus()
    qtbot.keyClicks(find.text, "50, 10")
    qtbot.keyClick(find.text, Qt.Key.Key_Return)
    assert demo.notice.isVisible()
    assert find.text.text() == "50, 10"
    find.text.setText("#00ff00")
    qtbot.keyClick(find.text, Qt.Key.Key_Return)
    wait(demo)
    assert "Out of reach" in find.answer.words
    find.slip.paints.setCurrentIndex(0)
    wait(demo)
    assert all(len(entry.match.recipe.names) == 1 for entry in find.answer.advised)
    find.slip.must_not.setCurrentIndex(
        find.slip.must_not.findData(find.answer.advised[0].match.recipe.names[0])
    )
    find.slip.must_not.activated.emit(0)
    wait(demo)
    assert find.slip.must_not.currentData() not in find.answer.advised[0].match.recipe.names


def test_a_paint_and_a_pigment_are_replaced_by_mixes(qtbot, demo):
    find = page(demo, WeighPageName.FIND)
    find.look_for_paint("Neutral")
    wait(demo)
    assert find.answer.instead
    assert all("Neutral" not in entry.recipe.names for entry in find.answer.instead)
    assert "In the place of Neutral" in texts(find.results)
    find.look_for_pigment("PB60")
    wait(demo)
    assert find.answer.instead
    assert find.answer.sought.code == "PB60"
    # the pigments that a mix looks like can be looked for in their turn
    likes = [row for row in shown(find.results, MixRow) if row.remark == find.answer.like[0].code]
    click(qtbot, likes[0])
    wait(demo)
    assert find.answer.sought.code == find.answer.like[0].code or find.answer.sought.code == likes[0].remark


def test_a_ready_made_mixture_is_rebuilt_by_its_label_first(qtbot, demo):
    study = demo.session.file
    assert demo.session.do(acts.add_paint(study, acts.PaintEntry("Hedge", "PG7 + PY175")))
    demo.session.selection.select_box(None)
    wait(demo)
    find = page(demo, WeighPageName.FIND)
    find.look_for_paint("Hedge")
    wait(demo)
    rebuilt = find.answer.rebuilt
    assert set(rebuilt.paints) == {"Phthalo green", "Lemon"} and rebuilt.found
    words = texts(find.results)
    assert words.index("By its label") < words.index("In the place of Hedge")
    assert words.index("By its label") < words.index(find.answer.words)


def test_conditions_bind_all_that_is_told(qtbot, demo):
    find = page(demo, WeighPageName.FIND)
    demo.session.selection.toggle_in_hand("Lemon")
    find.look_for_paint("Crimson")
    find.slip.paints.setCurrentIndex(1)
    for check in find.slip.conditions.values():
        click(qtbot, check)
    wait(demo)
    labels = demo.session.learning.labels

    def fits(recipe, free=()):
        names = [name for name in recipe.names if name not in free]
        known = [labels[name.casefold()] for name in names]
        return all(
            label.single and label.lightfastness in ("excellent", "good")
            and label.transparency in ("transparent", "semi-transparent") for label in known
        )  # fmt: skip

    answer = find.answer
    assert answer.advised and answer.companions
    for recipe in (
        *(entry.match.recipe for entry in answer.advised),
        *(entry.recipe for entry in answer.instead),
        *(entry.match.recipe for entry in answer.companions),
    ):
        assert len(recipe.names) <= 2 and fits(recipe)
    assert all(fits(touch.recipe, ("Lemon",)) for touch in answer.adds)


def test_a_found_mix_is_copied_kept_and_planned(qtbot, demo, monkeypatch):
    find = page(demo, WeighPageName.FIND)
    find.look_for((45.0, 20.0, -30.0))
    wait(demo)
    recipe = find.slip.recipe
    click(qtbot, find.slip.copy_button)
    assert parse_recipe(QApplication.clipboard().text().split("\t")[1]) == recipe
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("violet shade", True))
    click(qtbot, find.slip.keep_button)
    assert [kept.recipe for kept in kept_mixes_of(demo.session.file)] == [recipe]
    click(qtbot, find.slip.plan_button)
    wait(demo)
    assert [cell.recipe for cell in demo.plan.trial.cells] == [recipe]


def test_what_was_painted_for_a_whole_list(qtbot, demo):
    find = page(demo, WeighPageName.FIND)
    place = next(
        i for i in range(find.from_what.count()) if find.from_what.itemData(i) == ("list", "Beetle plate")
    )
    find.from_what.setCurrentIndex(place)
    find.from_what.activated.emit(place)
    wait(demo)
    wanted = wanted_lists(demo.session.file)["Beetle plate"]
    rows = shown(find.results, MixRow)
    named = [row for row in rows if row.beside is not None]
    assert len(named) == len(wanted)
    assert all(row.recorded for row in rows)  # of what was painted, not of what is foretold
    click(qtbot, named[0])
    assert find.slip.recipe is not None
    assert "Beetle plate" in find.title


def test_the_wheel_does_not_change_what_counts_as_the_same(qtbot, demo):
    find = page(demo, WeighPageName.FIND)
    find.text.setFocus()
    before = find.slip.notice.value(), find.slip.paints.currentIndex()
    for _ in range(3):
        turn_wheel(find.slip.notice)
        turn_wheel(find.slip.paints)
    assert (find.slip.notice.value(), find.slip.paints.currentIndex()) == before
    find.slip.notice.setFocus()
    turn_wheel(find.slip.notice)
    assert find.slip.notice.value() != before[0]  # while it has the keys it takes the wheel


def test_mixes_like_the_selected_cell(qtbot, demo):
    demo.state.select("r04c02")
    read = demo.state.read["r04c02"]
    qtbot.keyClick(
        demo, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    )
    wait(demo)
    find = demo.weigh.page(WeighPageName.FIND)
    assert find.sought.lab == read
    assert find.sought.name == "Scarlet + Ultramarine"
    assert min(entry.match.away for entry in find.answer.advised) < 2.0


def test_a_colour_is_taken_from_a_picture_and_put_on_a_list(qtbot, demo, tmp_path, monkeypatch):
    image = QImage(200, 100, QImage.Format.Format_RGB888)
    image.fill(QColor(90, 107, 76))
    image.save(str(tmp_path / "moth.png"))
    find = page(demo, WeighPageName.FIND)

    def pick():
        dialog = QApplication.activeModalWidget()
        qtbot.mouseClick(dialog.view, Qt.MouseButton.LeftButton, pos=dialog.view.rect().center())
        dialog.accept()

    QTimer.singleShot(50, pick)
    find.pick_from(tmp_path / "moth.png")
    wait(demo)
    assert hex_from_lab(np.array(find.sought.lab)) == "#5a6b4c"
    monkeypatch.setattr(QInputDialog, "getItem", lambda *_: ("Moths", True))
    click(qtbot, find.slip.want)
    assert wanted_lists(demo.session.file)["Moths"][0].name == "moth"
    assert "Moths: 1 colour" in find.slip.listed.text()
    demo.session.undo.undo()
    assert "Moths" not in wanted_lists(demo.session.file)
    (tmp_path / "broken.png").write_bytes(b"nothing")
    find.pick_from(tmp_path / "broken.png")
    assert demo.notice.isVisible()


def test_a_colour_is_pasted(qtbot, demo):
    QApplication.clipboard().setText("#5a6b4c")
    qtbot.keyClick(demo, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    wait(demo)
    assert demo.weigh.shows.current == WeighPageName.FIND
    assert hex_from_lab(np.array(demo.weigh.page(WeighPageName.FIND).sought.lab)) == "#5a6b4c"
    QApplication.clipboard().clear()


# ---- fewer paints


@pytest.mark.long
def test_near_ties_are_stepped_through_and_swaps_tell_the_truth(qtbot, demo):
    fewer = page(demo, WeighPageName.FEWER)
    click(qtbot, fewer.buttons[6])
    choice = demo.weigh.weighing.choices[6]
    assert not fewer.palette_slip.before.isEnabled()
    click(qtbot, fewer.palette_slip.after)
    names = demo.weigh.weighing.mixes.names
    assert fewer.shown_paints() == [names[i] for i in choice.palettes[1]]
    assert fewer.palette_slip.tie_words.text().startswith(f"2 of {len(choice.palettes)}")
    before = choice.worth[1]
    swap = next(row for row in shown(fewer.palette_slip, ChangeRow) if " for " in row.accessibleName())
    told = swap.accessibleName().split(": ")[1].replace("−", "-").replace(" ", "")
    click(qtbot, swap)
    places = demo.weigh.weighing.places(fewer.own.names)
    assert demo.weigh.weighing.reach.value.of(places) == pytest.approx(before + float(told) / 100, abs=6e-4)


@pytest.mark.long
def test_paints_are_dragged_in_and_taken_out_by_mouse_and_key(qtbot, demo):
    fewer = page(demo, WeighPageName.FEWER)
    assert "drop paints here" in fewer.mine.row.loses

    def drop(name):
        data = QMimeData()
        data.setData(PAINT_MIME, name.encode())
        action, button, keys = (
            Qt.DropAction.CopyAction,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
        fewer.mine.dropEvent(QDropEvent(QPointF(9, 9), action, data, button, keys))

    shares = []
    for name in ("Lemon", "Rose", "Phthalo blue", "Lemon"):
        drop(name)
        shares.append(fewer.mine.row.share)
    assert fewer.own.names == ["Lemon", "Rose", "Phthalo blue"]
    assert shares == sorted(shares)
    assert fewer.palette_slip.title.text() == "Yours, three paints"
    slot = fewer.mine._slots()[1].center().toPoint()
    click(qtbot, fewer.mine, slot)
    assert fewer.own.names == ["Lemon", "Phthalo blue"]
    fewer.mine.setFocus()
    qtbot.keyClick(fewer.mine, Qt.Key.Key_Right)
    qtbot.keyClick(fewer.mine, Qt.Key.Key_Delete)
    assert fewer.own.names == ["Lemon"]
    drop("Coral")
    assert fewer.own.names == ["Lemon"]
    assert "only considered" in demo.status.told_text.text()


def test_a_well_that_is_pulled_away_starts_a_drag(qtbot, demo, monkeypatch):
    begun = []

    def take(drag, *_):
        begun.append(bytes(drag.mimeData().data(PAINT_MIME).data()))

    monkeypatch.setattr("culmo.desk.going_out.QDrag.exec", take)
    well = demo.rail.findChildren(Well)[0]
    qtbot.mousePress(well, Qt.MouseButton.LeftButton, pos=QPoint(10, 10))
    qtbot.mouseMove(well, QPoint(12, 11))
    assert begun == []
    qtbot.mouseMove(well, QPoint(60, 40))
    assert begun == [well.name.encode()]
    qtbot.mouseRelease(well, Qt.MouseButton.LeftButton, pos=QPoint(60, 40))


@pytest.mark.long
def test_conditions_change_the_answer_and_impossible_ones_say_which_to_drop(qtbot, demo):
    fewer = page(demo, WeighPageName.FEWER)
    free = demo.weigh.weighing.choices[6].worth[0]
    fewer.tabs.tabs.choose(1)
    item = fewer.asks.paints.item(0)
    name = item.text()
    fewer.asks.paints.itemActivated.emit(item)
    fewer.asks.paints.itemActivated.emit(fewer.asks.paints.item(0))
    wait(demo)
    assert demo.weigh.weighing.conditions == Conditions(avoid=(name,))
    assert all(name not in button.row.paints for button in fewer.buttons.values())
    assert demo.weigh.weighing.choices[6].worth[0] <= free
    fewer.asks.white.setCurrentIndex(fewer.asks.white.findData(Having.WITH))
    fewer.asks.white.activated.emit(1)
    wait(demo)
    assert "the box has none; drop that condition" in fewer.buttons[6].row.problem
    fewer.asks.white.setCurrentIndex(0)
    fewer.asks.white.activated.emit(0)
    wait(demo)
    assert not fewer.buttons[6].row.problem


@pytest.mark.long
def test_the_measure_can_be_changed(qtbot, demo):
    fewer = page(demo, WeighPageName.FEWER)
    before = demo.weigh.weighing.choices[4].worth[0]
    fewer.asks.tolerance.setValue(8.0)
    wait(demo)
    assert demo.weigh.weighing.choices[4].worth[0] > before
    assert "at a difference of 8" in demo.weigh.subtitle.text()
    fewer.asks.balanced.setChecked(True)
    wait(demo)
    assert "worst hue" in fewer.asks.measure_words.text()


@pytest.mark.long
def test_the_fewest_for_the_beetle_plate_and_the_sheet_to_practise(qtbot, demo):
    fewer = page(demo, WeighPageName.FEWER)
    place = fewer.asks.lists.findText("Beetle plate")
    fewer.asks.lists.setCurrentIndex(place)
    fewer.asks.lists.activated.emit(place)
    wait(demo)
    assert list(fewer.buttons) == list(range(1, 9))
    hits = [int(button.row.number.split(" of ")[0]) for button in fewer.buttons.values()]
    assert hits == sorted(hits)
    assert fewer.buttons[8].row.loses == "misses none" or "misses" in fewer.buttons[8].row.loses
    fewest = next(size for size, button in fewer.buttons.items() if button.row.number == f"{max(hits)} of 20")
    click(qtbot, fewer.buttons[fewest])
    assert fewer.palette_slip.chips_title.text() == f"Beetle plate: {max(hits)} of 20"
    paints = fewer.shown_paints()
    click(qtbot, fewer.palette_slip.practise)
    wait(demo)
    record = sheet_record(demo.session.file, demo.session.selection.sheet_id)
    assert record.sheet.title == "Beetle plate, to practise"
    assert {name for entry in record.cells for name in entry.cell.recipe.names} <= set(paints)
    wanted = np.array([c.lab for c in wanted_lists(demo.session.file)["Beetle plate"]])
    lab = demo.session.learning.predict([entry.cell.recipe for entry in record.cells]).lab
    near = delta_e_00(lab[:, None], wanted[None]).min(axis=0)
    assert (near < 4.5).sum() >= max(hits)
    assert record.sheet.work


@pytest.mark.long
def test_the_verdict_is_kept_with_a_reason_and_compared_later(qtbot, demo, monkeypatch):
    fewer = page(demo, WeighPageName.FEWER)
    click(qtbot, fewer.buttons[5])
    paints = fewer.shown_paints()

    def answer():
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, KeepDialog)
        dialog.name.clear()
        dialog.try_accept()
        assert dialog.message.isVisible()
        qtbot.keyClicks(dialog.name, "Five for the train")
        dialog.reason.setPlainText("light to carry")
        dialog.accept_button.click()

    QTimer.singleShot(80, answer)
    click(qtbot, fewer.palette_slip.keep)
    palette = kept_palettes(demo.session.file)[0]
    assert (palette.name, palette.paints, palette.reason) == (
        "Five for the train",
        tuple(paints),
        "light to carry",
    )
    assert palette.reach["share"] == pytest.approx(demo.weigh.weighing.choices[5].worth[0], abs=1e-4)
    words = texts(fewer.kept_slip)
    assert "light to carry" in words
    assert "as when it was kept" in words
    assert "Six for the plates" in words
    fewer.look_at(palette.id)
    assert fewer.shown_paints() == paints

    def lay_out():
        QApplication.activeModalWidget().accept_button.click()

    QTimer.singleShot(80, lay_out)
    click(qtbot, fewer.palette_slip.fill)
    box = demo.session.boxes[-1]
    ids = {paint.id: paint.name for paint in demo.session.paints}
    assert [ids[i] for i in box.paints.values()] == paints
    fewer.kept.let_go(palette.id)
    assert "Five for the train" not in texts(fewer.kept_slip)
    demo.session.undo.undo()
    assert kept_palettes(demo.session.file)[0].name == "Five for the train"


@pytest.mark.long
def test_mixes_worth_keeping_stand_by_the_palettes_and_can_be_let_go_of(qtbot, demo):
    """Those marked on a sheet and those kept without one; letting go is one act that can be taken back."""
    study = demo.session.file
    demo.session.do(keep_mix(study, mix(["Lemon", "Umber"], [3, 1]), "dry grass"))
    fewer = page(demo, WeighPageName.FEWER)
    fewer.tabs.tabs.choose(2)
    words = texts(fewer.kept_slip)
    assert "dry grass" in words
    assert "moth grey, First eight, wing cases" in words
    takes = [
        b
        for b in fewer.kept_slip.findChildren(QPushButton)
        if b.accessibleName() == "Take 3 Lemon + 1 Umber in hand"
    ]
    click(qtbot, takes[0])
    assert demo.rail.dab.recipe().key == mix(["Lemon", "Umber"], [3, 1]).key
    count = len(mixes_worth_keeping(study))
    for name in ("3 Lemon + 1 Umber", "Ultramarine + Burnt sienna, tint"):
        outs = [
            b for b in fewer.kept_slip.findChildren(QPushButton) if b.accessibleName() == f"Let go of {name}"
        ]
        click(qtbot, outs[-1])
        settle(demo, 10)
        assert name not in texts(fewer.kept_slip)
    assert len(mixes_worth_keeping(study)) == count - 2
    demo.session.undo.undo()
    demo.session.undo.undo()
    assert len(mixes_worth_keeping(study)) == count


@pytest.mark.long
def test_wanted_colours_come_from_a_picture_by_clustering_and_are_edited_by_hand(
    qtbot, demo, tmp_path, monkeypatch
):
    image = QImage(240, 160, QImage.Format.Format_RGB888)
    image.fill(QColor(246, 240, 220))
    painter = QPainter(image)
    painter.fillRect(20, 20, 100, 100, QColor(40, 60, 90))
    painter.fillRect(140, 30, 60, 80, QColor(150, 80, 50))
    painter.end()
    image.save(str(tmp_path / "beetle.png"))
    fewer = page(demo, WeighPageName.FEWER)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "beetle.png"), ""))

    def answer():
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, WantedDialog)
        assert dialog.list.count() == 3
        dialog.list.item(1).setText("wing case")
        dialog.list.setCurrentRow(0)
        dialog.list.setFocus()
        qtbot.keyClick(dialog.list, Qt.Key.Key_Delete)
        qtbot.keyClicks(dialog.more, "nonsense")
        qtbot.keyClick(dialog.more, Qt.Key.Key_Return)
        assert dialog.message.isVisible()
        dialog.more.setText("#808080")
        qtbot.keyClick(dialog.more, Qt.Key.Key_Return)
        dialog.count.setValue(20)  # looked for anew: what was named and what was added stay
        assert [dialog.list.item(row).text() for row in range(2)] == ["wing case", "#808080"]
        while dialog.list.count() > 2:
            dialog.list.setCurrentRow(2)
            dialog.take_out()
        # a click in the picture adds, and with the tick moves the chosen colour
        dialog.picture.picked.emit(np.array([52.0, 5.0, 5.0]))
        assert dialog.list.count() == 3 and dialog.list.state() == dialog.list.State.EditingState
        editor = next(line for line in dialog.list.findChildren(QLineEdit)[::-1] if line.isVisible())
        editor.selectAll()
        qtbot.keyClicks(editor, "spot")
        qtbot.keyClick(editor, Qt.Key.Key_Return)
        QApplication.processEvents()
        dialog.moves.setChecked(True)
        dialog.list.setCurrentRow(2)
        dialog.picture.picked.emit(np.array([60.0, 1.0, 2.0]))
        assert dialog.list.count() == 3
        assert dialog.colours()[2].lab == (60.0, 1.0, 2.0)
        dialog.accept_button.click()

    QTimer.singleShot(120, answer)
    fewer.asks.picture.click()
    wait(demo)
    found = wanted_lists(demo.session.file)["beetle"]
    assert [colour.name for colour in found] == ["wing case", "", "spot"]
    assert hex_from_lab(np.array(found[0].lab)) == "#283c5a"
    assert demo.weigh.weighing.list == "beetle"
    assert fewer.buttons[8].row.number.endswith("of 3")

    def edit():
        dialog = QApplication.activeModalWidget()
        dialog.list.setCurrentRow(2)
        dialog.take_out()
        dialog.accept_button.click()

    QTimer.singleShot(80, edit)
    fewer.asks.edit.click()
    wait(demo)
    assert len(wanted_lists(demo.session.file)["beetle"]) == 2
    assert fewer.buttons[8].row.number.endswith("of 2")


@pytest.mark.long
def test_a_table_of_wanted_colours_with_bad_rows(qtbot, demo, tmp_path):
    path = tmp_path / "plate.csv"
    path.write_text("name,hex\nwing,#203040\nbad,#12\n", encoding="utf-8")
    fewer = page(demo, WeighPageName.FEWER)
    QTimer.singleShot(80, lambda: QApplication.activeModalWidget().accept_button.click())
    fewer.lists.take_file(path)
    assert [colour.name for colour in wanted_lists(demo.session.file)["plate"]] == ["wing"]
    assert "line 3" in demo.notice.words.text()


def test_a_box_without_paints_and_one_of_two(qtbot, window, tmp_path):
    from support.builders import make_study

    make_study(tmp_path / "two.culmo", ("Lemon", "Rose")).close()
    window.open_path(tmp_path / "two.culmo")
    settle(window, 20)
    window.show_room(RoomName.WEIGH)
    for place in (name for name in WeighPageName if name != WeighPageName.WATER):
        page(window, place)
    fewer = window.weigh.page(WeighPageName.FEWER)
    assert list(fewer.buttons) == []
    window.studies.create_study(tmp_path / "none.culmo")
    settle(window, 20)
    window.show_room(RoomName.WEIGH)
    for place in (name for name in WeighPageName if name != WeighPageName.WATER):
        page(window, place)
    assert "no paints" in texts(fewer.palette_slip).casefold()


def test_without_readings_it_is_said_that_appearances_are_typical(qtbot, window, tmp_path):
    from support.builders import make_study

    make_study(tmp_path / "bare.culmo", cards=False).close()
    window.open_path(tmp_path / "bare.culmo")
    settle(window, 20)
    window.show_room(RoomName.WEIGH)
    for place in (WeighPageName.PAIRS, WeighPageName.FEWER):
        page(window, place)
        assert "typical appearances" in window.weigh.subtitle.text() + window.weigh.key.text()


# ---- the map


def test_the_map_lists_what_lies_near_and_what_is_drawn_round(qtbot, demo):
    chart = page(demo, WeighPageName.MAP)
    points = chart.points
    recorded = np.flatnonzero(points.recorded)
    assert len(recorded) == 64
    assert len(points.pairs) == 64
    vivid = max(recorded, key=lambda i: np.hypot(*points.lab[i, 1:]))
    click(qtbot, chart.map, chart.map.place_of(int(vivid)).toPoint())
    assert demo.state.current == points.cell_of(int(vivid))
    assert chart.mix_title.text() == " + ".join(points.recipe_of(int(vivid)).names)
    assert len(shown(chart.slip, MixRow)) == 6
    # the lightness beside it takes clicks too
    x, y = chart.map.to_strip(points.lab[recorded[:1]])[0]
    click(qtbot, chart.map, QPoint(round(x), round(y)))
    assert chart.map.current >= 0
    # drawn round with Shift
    centre = chart.map.place_of(int(vivid)).toPoint()
    corners = [centre + QPoint(dx, dy) for dx, dy in ((-30, -30), (30, -30), (30, 30), (-30, 30))]
    qtbot.mousePress(chart.map, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, corners[0])
    for corner in corners[1:]:
        qtbot.mouseMove(chart.map, corner)
    qtbot.mouseRelease(chart.map, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, corners[-1])
    places = chart.map.to_pixels(points.lab)
    around = inside(places, np.array([[c.x(), c.y()] for c in corners], dtype=float))
    assert chart.near_title.text() == f"{around.sum()} mixes"


def test_the_map_is_filtered_and_walked_by_keys(qtbot, demo):
    chart = page(demo, WeighPageName.MAP)
    everything = len(chart.points)
    chart.keepers.setChecked(True)
    assert chart.points.recorded.sum() == 3
    chart.keepers.setChecked(False)
    demo.session.selection.toggle_in_hand("Rose")
    chart.in_hand.setChecked(True)
    assert 0 < len(chart.points) < everything
    assert all("Rose" in chart.points.recipe_of(i).names for i in range(len(chart.points)))
    chart.in_hand.setChecked(False)
    chart.wash.setCurrentIndex(3)
    assert all(chart.points.recipe_of(i).layers[0].wash <= 0.3 for i in range(len(chart.points)))
    chart.wash.setCurrentIndex(0)
    chart.source.setCurrentIndex(1)
    assert len(chart.points) > everything
    demo.state.current = ""
    chart.map.setFocus()
    chart.map.select(-1)
    qtbot.keyClick(chart.map, Qt.Key.Key_Right)
    start = chart.map.current
    assert start >= 0
    qtbot.keyClick(chart.map, Qt.Key.Key_Right)
    assert chart.points.lab[chart.map.current, 1] >= chart.points.lab[start, 1]
    qtbot.keyClick(chart.map, Qt.Key.Key_Plus)
    assert chart.map.zoom > 1.0
    qtbot.keyClick(chart.map, Qt.Key.Key_0)
    assert chart.map.zoom == 1.0


def test_all_mixes_of_the_box_under_a_lamp(qtbot, demo):
    chart = page(demo, WeighPageName.MAP)
    chart.source.setCurrentIndex(2)
    wait(demo)
    assert len(chart.points) == 20_000
    day = chart.points.lab.copy()
    # each of the most vivid mixes, which lie apart from the others, shows its own colour where it stands
    vivid = np.argsort(-np.hypot(day[:, 1], day[:, 2]))[:25]
    for where, limit in ((chart.map.to_pixels(day), 15), (chart.map.to_strip(day), 8)):
        image = chart.map.grab().toImage()
        right = 0
        for i in vivid:
            seen = image.pixelColor(round(where[i, 0]), round(where[i, 1]))
            right += np.abs(np.array(seen.getRgb()[:3]) - chart.points.rgb[i].astype(int)).max() < 12
        assert right >= limit
    demo.session.learning.set_light(1)
    wait(demo)
    assert len(chart.points) == 20_000
    assert np.median(delta_e_00(day, chart.points.lab)) > 1.0
    assert "Warm lamp" in demo.weigh.subtitle.text()


def test_a_drag_moves_the_map_and_selects_nothing(qtbot, demo):
    chart = page(demo, WeighPageName.MAP)
    before, current = QPointF(chart.map.middle), chart.map.current
    qtbot.mousePress(chart.map, Qt.MouseButton.LeftButton, pos=QPoint(150, 150))
    for x in (160, 190, 220):
        qtbot.mouseMove(chart.map, QPoint(x, 150))
    qtbot.mouseRelease(chart.map, Qt.MouseButton.LeftButton, pos=QPoint(220, 150))
    assert chart.map.middle.x() < before.x()
    assert chart.map.current == current


# ---- side by side


def test_greens_stand_beside_greens_and_mixes_beside_themselves(qtbot, demo):
    side = page(demo, WeighPageName.SIDE)
    side.choose(["Six for the plates", "Six with earths"])
    greens = next(row for row in side.board.hues if row.title == "greens")
    assert all(greens.spots)
    assert "Six for the plates: cleaner in" in side.lead_words.text()
    side.choose(["First eight, wing cases", "Travelling box"])
    side.mode.setCurrentIndex(1)
    assert all(len({spot.recipe.key for spot in row.spots}) == 1 for row in side.board.places)
    assert "mixes in common" in demo.weigh.subtitle.text()
    away = [row.away for row in side.board.places]
    assert away == sorted(away, reverse=True)
    side.mode.setCurrentIndex(2)
    assert "64 places in common" in demo.weigh.subtitle.text()
    side.mode.setCurrentIndex(3)
    side.board.grab()
    spot = side.board.drawn[5].spot
    click(qtbot, side.board, side.board.thing_rect(5).center().toPoint())
    assert side.board.current is spot
    assert spot.recipe.names[0] in side.spot_title.text()
    qtbot.keyClick(side.board, Qt.Key.Key_Right)
    assert side.board.current is not spot
    for _ in range(4):
        click(qtbot, side.more)
    assert len(side.pickers) == 4
    click(qtbot, side.less)
    assert len(side.pickers) == 3


# ---- the sheet


def test_a_sheet_is_read_by_groups_surprises_dull_ones_and_keepers(qtbot, demo):
    sheet = page(demo, WeighPageName.SHEET)
    assert len(sheet.rows) == 64
    counts = {}
    for place in range(1, 5):
        sheet.show_which.setCurrentIndex(place)
        counts[sheet.show_which.currentText()] = len(sheet.rows)
    assert counts["Keepers"] == 3
    assert 0 < counts["Surprises"] < 10
    assert 0 < counts["Dull ones"] < 40
    groups = [row.like for row in sheet.rows]
    assert groups == sorted(groups, key=lambda text: int(text.split()[1].strip(",")))
    sheet.show_which.setCurrentIndex(0)
    sheet.sort.setCurrentIndex(5)
    chroma = [np.hypot(*row.shown[1:]) for row in sheet.rows]
    assert chroma == sorted(chroma)


# ---- how the room behaves


@pytest.mark.long
def test_a_changed_box_is_weighed_anew(qtbot, demo):
    fewer = page(demo, WeighPageName.FEWER)
    assert "eighteen" in demo.weigh.subtitle.text()
    demo.session.selection.select_box(
        next(box.id for box in demo.session.boxes if box.name == "Travelling box")
    )
    wait(demo)
    assert "eight" in demo.weigh.subtitle.text().split()
    assert fewer.buttons[8].row.number == "100 %"
    assert fewer.buttons[8].row.loses == "loses nothing"


@pytest.mark.long
def test_work_of_the_room_can_be_stopped_and_the_window_closed_while_it_goes_on(qtbot, demo):
    demo.weigh.shows.choose(WeighPageName.FEWER)
    assert demo.session.runner.busy("mixes")
    click(qtbot, demo.status.stop_button)
    assert not demo.session.runner.busy()
    fewer = demo.weigh.page(WeighPageName.FEWER)
    assert all(button.row.problem == STOPPED for button in fewer.buttons.values())
    wait(demo)
    assert demo.weigh.weighing.mixes is None
    click(qtbot, fewer.buttons[6])
    wait(demo)
    assert len(fewer.shown_paints()) == 6
    demo.weigh.weighing.forget()
    fewer.refresh()  # closes with this under way: the fixture looks that nothing is left


@pytest.mark.long
@pytest.mark.parametrize("size", [(1280, 800), (1024, 700), (1920, 1080)])
def test_nothing_is_cut_in_any_page(qtbot, demo, size):
    from PySide6.QtGui import QFontMetrics

    demo.resize(*size)
    for place in (name for name in WeighPageName if name != WeighPageName.WATER):
        view = page(demo, place)
        if place == WeighPageName.FIND:
            view.look_for((40.0, 5.0, 20.0))
            wait(demo)
        for root in (view, view.slip):
            for label in shown(root, QLabel):
                if not label.isVisible() or not label.text():
                    continue
                need = label.heightForWidth(label.width()) if label.wordWrap() else label.sizeHint().height()
                assert label.height() >= need - 2, (place, label.text())
                if not label.wordWrap():
                    assert label.width() >= QFontMetrics(label.font()).horizontalAdvance(label.text()) - 2, (
                        label.text()
                    )
            for button in shown(root, QPushButton):
                if button.isVisible():
                    assert button.width() >= QFontMetrics(button.font()).horizontalAdvance(button.text()), (
                        button.text()
                    )


@pytest.mark.long
def test_choosing_by_window_and_by_command_agree(demo, capsys):
    from culmo.cli.main import main

    # both from nothing: what was learned reading by reading differs in the last figures, and so may ties between palettes
    demo.session.learning.folder, demo.session.learning.estimate = None, None
    demo.session.learning.learn()
    wait(demo)
    page(demo, WeighPageName.FEWER)
    path = str(demo.session.file.path)
    window = [demo.weigh.weighing.mixes.names[i] for i in demo.weigh.weighing.choices[6].best]
    demo.session.close()
    assert main(["choose", "--study", path, "--size", "6"]) == 0
    assert set(json.loads(capsys.readouterr().out)["palettes"][0]["paints"]) == set(window)
