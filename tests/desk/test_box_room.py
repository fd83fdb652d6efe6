"""The Box room as a painter uses it: real keys and clicks through the real window."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QColor, QDropEvent, QGuiApplication, QHelpEvent, QImage, QTextCursor
from PySide6.QtWidgets import QApplication, QCheckBox, QComboBox, QFileDialog, QInputDialog, QLabel, QToolTip

from culmo.core.paint.pigments import codes_in
from culmo.core.paint.recipe import mix
from culmo.demo.paints import PAINTS
from culmo.desk.app import settle
from culmo.desk.room_names import RoomName
from culmo.desk.rooms.box.box_picture import Spot
from culmo.desk.rooms.box.dialogs import BoxDialog, CardsDialog, RefillDialog, SlipDialog, SwatchDialog
from culmo.desk.rooms.box.entry_dialog import EntryDialog
from culmo.desk.rooms.box.pages import BoxPageName
from culmo.desk.rooms.box.reach_figure import ReachFigure
from culmo.desk.rooms.box.shop import shop_slip
from culmo.desk.theme import PAPER
from culmo.errors import CulmoError
from culmo.study import acts, box_acts, records
from culmo.study.box_records import boxes
from culmo.study.paint_lists import paint_tables
from support.spreadsheets import write_xlsx

# the keystroke-level model (Card, Moran and Newell 1980): seconds for an average hand
KEY, POINT_AND_CLICK, THINK = 0.28, 1.3, 1.35
LIST = "\n".join(f"{i + 1}. {paint.name} {paint.codes}" for i, paint in enumerate(PAINTS))


class Hand:
    """Keys and clicks, with the time that they take an average hand."""

    def __init__(self, qtbot):
        self.qtbot, self.seconds = qtbot, 0.0

    def key(self, widget, key, modifier=Qt.KeyboardModifier.NoModifier):
        self.seconds += KEY * (2 if modifier != Qt.KeyboardModifier.NoModifier else 1)
        self.qtbot.keyClick(widget, key, modifier)

    def type(self, widget, text):
        self.seconds += KEY * len(text)
        self.qtbot.keyClicks(widget, text)

    def click(self, widget, at=None):
        self.seconds += POINT_AND_CLICK
        self.qtbot.mouseClick(widget, Qt.MouseButton.LeftButton, pos=at or widget.rect().center())

    def think(self, times=1):
        self.seconds += THINK * times

    def in_dialog(self, act, kind):
        """Do something in the modal dialog that the next act opens."""

        def now():
            dialog = QApplication.activeModalWidget()
            assert isinstance(dialog, kind), dialog
            act(dialog)

        QTimer.singleShot(60, now)


@pytest.fixture
def hand(qtbot):
    return Hand(qtbot)


def laid(window):
    names = {paint.id: paint.name for paint in window.session.paints}
    return {place: names[paint_id] for place, paint_id in sorted(window.session.selection.box.paints.items())}


def test_eighteen_paints_from_a_pasted_list_to_a_box_and_a_page_of_cards(hand, window, tmp_path, monkeypatch):
    path = tmp_path / "mine.culmo"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    hand.think()
    hand.click(window.welcome_buttons[0])
    hand.seconds += KEY * len("mine") + POINT_AND_CLICK  # the name and the button of the system's dialog
    QGuiApplication.clipboard().setText(LIST)
    hand.think()
    hand.in_dialog(lambda d: (hand.think(3), hand.key(d.take, Qt.Key.Key_Return)), EntryDialog)
    hand.key(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    settle(window, 40)
    assert [paint.name for paint in window.session.paints] == [paint.name for paint in PAINTS]
    assert [paint.codes for paint in window.session.paints] == [paint.codes for paint in PAINTS]
    assert list(laid(window).values()) == [paint.name for paint in PAINTS]
    assert (window.session.selection.box.shape.rows, window.session.selection.box.shape.columns) == (3, 6)
    # in another order, by the menu of the button
    hand.think()
    menu = window.box.arrange.menu()
    hand.seconds += 2 * POINT_AND_CLICK
    menu.actions()[0].trigger()
    assert next(iter(laid(window).values())) in ("Lemon", "Yellow")
    # the cards
    window.activateWindow()
    hand.qtbot.waitUntil(window.isActiveWindow)
    hand.think()
    hand.in_dialog(lambda d: (hand.think(2), hand.key(d.accept_button, Qt.Key.Key_Return)), CardsDialog)
    both = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    hand.key(window, Qt.Key.Key_K, both)
    settle(window, 40)
    assert window.rooms.currentIndex() == RoomName.PLAN
    sheets = [
        records.sheet_record(window.session.file, i).sheet
        for i, _ in records.sheet_titles(window.session.file)
    ]
    assert {sheet.kind for sheet in sheets} == {"cards"}
    planned = {cell.recipe.names[0] for sheet in sheets for cell in sheet.cells}
    assert planned == {paint.name for paint in PAINTS}
    print(f"{hand.seconds:.0f} s by the keystroke-level model")
    assert hand.seconds < 180
    # three acts, each of which is taken back by one Ctrl+Z
    for _ in range(3):
        window.session.undo.undo()
    assert window.session.paints == []
    assert window.session.boxes == []


def test_the_list_asks_about_doubles_and_unknown_codes(qtbot, demo):
    text = "Rose PV19\nBlue PB92?\nRose PV19\n" + "x" * 130 + " PB29\nOpera PR122 wished"
    dialog = EntryDialog(demo, demo.session, text)
    assert [row.twin for row in dialog.list.rows] == ["Rose", "", "Rose", "", ""]
    assert dialog.list.summary() == "2 paints understood; 1 code not in the table; 3 left out"
    (twin,) = dialog.table.cellWidget(0, 3).findChildren(QComboBox)
    twin.setCurrentIndex(1)
    twin.activated.emit(1)
    (code,) = dialog.table.cellWidget(1, 3).findChildren(QComboBox)
    assert "PB29" in code.itemText(1)
    code.activated.emit(1)
    assert dialog.table.item(1, 1).text() == "PB29"
    # answers stay while the text is edited
    dialog.text.appendPlainText("Moss PG10")
    assert dialog.list.rows[1].codes_text == "PB29"
    assert [entry.name for entry in dialog.list.entries()][:3] == ["Rose 2", "Blue", "Rose 3"]
    dialog.where.setCurrentIndex(dialog.where.findData(0))
    dialog.take_in()
    names = [paint.name for paint in demo.session.paints]
    assert {"Rose 2", "Rose 3", "Blue", "Opera", "Moss"} <= set(names)
    assert next(p for p in demo.session.paints if p.name == "Blue").codes == "PB29"
    dialog.deleteLater()


def test_a_full_box_is_said_and_nothing_typed_is_lost(demo):
    dialog = EntryDialog(demo, demo.session, "Moss PG10")
    assert dialog.where.currentData() == -1  # the studio box is full, so a new one is proposed
    dialog.where.setCurrentIndex(dialog.where.findData(demo.session.boxes[0].id))
    dialog.take_in()
    assert "empty wells" in dialog.message.text()
    assert dialog.text.toPlainText() == "Moss PG10"
    dialog.box_name.setText("studio box")
    dialog.where.setCurrentIndex(0)
    dialog.take_in()
    assert "already" in dialog.message.text()
    dialog.deleteLater()


def test_tables_are_read_by_their_columns(demo, tmp_path):
    path = tmp_path / "list.csv"
    path.write_text(
        "No;Colour;Pigments;Opacity;Staining;Lightfastness\n1;Sky;PB35;semi-opaque;no;I\n2;Pink;PR122;transparent;yes;fugitive\n",
        encoding="utf-8-sig",
    )
    dialog = EntryDialog(demo, demo.session)
    dialog.read_file(path)
    entries = dialog.list.entries()
    assert [(e.name, e.codes) for e in entries] == [("Sky", "PB35"), ("Pink", "PR122")]
    assert entries[0].label == {
        "transparency": "semi-opaque",
        "staining": "low",
        "lightfastness": "excellent",
    }
    assert entries[1].label == {"transparency": "transparent", "staining": "high", "lightfastness": "poor"}
    for bad, words in ((b"\xff\xfe\x00", "not text"), (b"", "empty")):
        path.write_bytes(bad)
        dialog.read_file(path)
        assert words in dialog.message.text()
    assert len(dialog.list.entries()) == 2
    dialog.deleteLater()


def test_a_paint_is_dragged_to_another_well_and_one_undo_brings_it_back(qtbot, demo):
    picture = demo.box.picture
    before = laid(demo)
    spots = {spot.place: spot for spot in picture.spots() if spot.place >= 0}
    start, end = (picture.rect_of(spots[place]).center().toPoint() for place in (0, 10))
    qtbot.mousePress(picture, Qt.MouseButton.LeftButton, pos=start)
    for share in (0.2, 0.6, 1.0):
        qtbot.mouseMove(
            picture,
            QPoint(*(int(a + share * (b - a)) for a, b in zip(start.toTuple(), end.toTuple(), strict=True))),
        )
    qtbot.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=end)
    after = laid(demo)
    assert after[10] == before[0]
    assert after[0] == before[10]
    assert demo.box.current == before[0]
    assert demo.rail.wells.itemAtPosition(0, 0).widget().text() == before[10]
    demo.session.undo.undo()
    assert laid(demo) == before


def test_keys_move_the_selection_and_carry_a_paint(qtbot, demo):
    picture = demo.box.picture
    picture.setFocus()
    demo.box.select("Lemon")
    qtbot.keyClick(picture, Qt.Key.Key_Right)
    assert demo.box.current == "Yellow"
    qtbot.keyClick(picture, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
    assert laid(demo)[7] == "Yellow"
    assert demo.box.current == "Yellow"
    qtbot.keyClick(picture, Qt.Key.Key_Space)
    assert demo.session.selection.in_hand == ["Yellow"]
    qtbot.keyClick(picture, Qt.Key.Key_Delete)
    assert 7 not in laid(demo)
    beside = [spot for spot in picture.spots() if spot.place < 0]
    assert "Yellow" in [picture.paints[spot.paint_id].name for spot in beside]
    # from beside back into the empty well
    yellow = next(spot for spot in beside if picture.paints[spot.paint_id].name == "Yellow")
    picture.moved.emit(yellow, Spot(7, None))
    assert laid(demo)[7] == "Yellow"
    qtbot.keyClick(picture, Qt.Key.Key_Return)
    assert demo.box.slip.name.hasFocus()


def test_a_paint_typed_for_an_empty_well_lies_there(qtbot, demo):
    picture, box = demo.box.picture, demo.session.selection.box
    demo.session.do(box_acts.lay_wells(demo.session.file, box.id, {0: box.paints[0]}, "Empty it"))
    well = next(spot for spot in picture.spots() if spot.place == 4)
    qtbot.mouseClick(picture, Qt.MouseButton.LeftButton, pos=picture.rect_of(well).center().toPoint())
    assert demo.box.slip.draft.paint_id is None
    qtbot.keyClicks(demo.box.slip.line, "Moss PG10, granulating, semi-opaque")
    slip = demo.box.slip
    assert (slip.name.text(), slip.codes.text(), slip.claims.text()) == (
        "Moss",
        "PG10",
        "semi-opaque, granulating",
    )
    qtbot.keyClick(slip.line, Qt.Key.Key_Return)
    assert laid(demo)[4] == "Moss"
    assert next(p for p in demo.session.paints if p.name == "Moss").label["transparency"] == "semi-opaque"


def test_the_line_offers_pigments_and_says_what_it_understood(qtbot, demo):
    demo.box.new_paint()
    line = demo.box.slip.line
    qtbot.keyClicks(line, "Green PG7 + PY15")
    assert any(text.endswith("PY150") for text in line.offers())
    assert "phthalocyanine green" in demo.box.slip.understood.text()
    line.completer().popup().hide()
    line.setText("Blue PB92")
    assert "PB92? PB29" in demo.box.slip.understood.text()


def test_a_name_that_is_there_is_asked_about_and_not_refused(qtbot, demo):
    demo.box.new_paint()
    slip = demo.box.slip
    slip.line.setText("rose PV19")
    slip.keep()
    assert "already" in slip.message.text()
    assert slip.number.isVisible()
    assert slip.name.text() == "rose"
    qtbot.mouseClick(slip.number, Qt.MouseButton.LeftButton)
    assert "rose 2" in [paint.name for paint in demo.session.paints]


def texts(page):
    return "\n".join(label.text() for label in page.widget().findChildren(QLabel))


def show(window, page):
    window.box.shows.choose(page)
    settle(window, 40)


@pytest.mark.long
def test_the_findings_say_what_the_box_can_do(qtbot, demo):
    show(demo, BoxPageName.ROLES)
    said = texts(demo.box.stack.roles)
    for words in (
        "Warm yellow: Yellow",
        "Cool red: Rose",
        "Cool blue: Phthalo blue",
        "Dark paint: Neutral",
        "White: nobody",
    ):
        assert words in said
    # the painter overrules, and leaves it to the mixes again
    choice = demo.box.stack.roles.choices["cool red"]
    choice.activated.emit(choice.findData("Crimson"))
    settle(demo, 40)
    assert "Cool red: Crimson" in texts(demo.box.stack.roles)
    assert "your choice" in texts(demo.box.stack.roles)
    demo.session.undo.undo()
    settle(demo, 40)
    assert "Cool red: Rose" in texts(demo.box.stack.roles)
    show(demo, BoxPageName.OPPOSITES)
    assert "Viridian" in texts(demo.box.stack.opposites)
    assert "true grey" in texts(demo.box.stack.opposites)
    show(demo, BoxPageName.MISSING)
    assert "of what a well-filled box reaches" in texts(demo.box.stack.missing)
    assert "The paints you consider" in texts(demo.box.stack.missing)
    (figure,) = demo.box.stack.missing.findChildren(ReachFigure)
    assert figure.isVisibleTo(demo)
    assert np.all(figure.own <= figure.usual + 1e-6)  # the painter's own can be had too


@pytest.mark.long
def test_conditions_hold_in_roles_and_opposites_and_nowhere_else(qtbot, demo):
    show(demo, BoxPageName.ROLES)
    assert demo.box.asks.isVisible()
    qtbot.mouseClick(demo.box.asks.chips[0], Qt.MouseButton.LeftButton)  # clear
    settle(demo, 40)
    labels = demo.session.learning.labels
    counted = demo.box.finder.found.names
    assert counted and len(counted) < len(demo.session.selection.paints_in_use())
    assert all(
        labels[name.casefold()].transparency in ("transparent", "semi-transparent") for name in counted
    )
    show(demo, BoxPageName.OPPOSITES)
    assert set(demo.box.finder.found.opposites) <= set(counted)
    show(demo, BoxPageName.MISSING)
    assert not demo.box.asks.isVisible()
    assert len(demo.box.finder.found.names) == len(demo.session.selection.paints_in_use())
    show(demo, BoxPageName.ROLES)
    assert demo.box.finder.found.names == counted


def test_what_the_weigh_room_works_out_does_not_stop_the_findings_of_the_box(demo):
    demo.show_room(RoomName.WEIGH)
    demo.weigh.find_colour((60.0, 0.0, 20.0), "a stone")
    for _ in range(4):
        settle(demo, 40)
    demo.show_room(RoomName.BOX)
    demo.box.shows.choose(BoxPageName.ROLES)
    assert demo.session.runner.busy()
    demo.show_room(RoomName.WEIGH)
    demo.weigh.find_colour((50.0, 20.0, 20.0), "a red")
    demo.show_room(RoomName.BOX)
    for _ in range(4):
        settle(demo, 40)
    assert "Cool red: Rose" in texts(demo.box.stack.roles)


@pytest.mark.long
def test_findings_that_are_stopped_or_fail_say_so_and_are_worked_out_when_asked_for_again(demo, monkeypatch):
    demo.show_room(RoomName.BOX)
    demo.box.shows.choose(BoxPageName.ROLES)
    demo.session.stop_work()
    assert not demo.session.runner.busy("findings")
    assert "Stopped" in texts(demo.box.stack.roles)
    demo.box.shows.buttons[BoxPageName.ROLES].click()  # the word that is chosen already
    assert demo.session.runner.busy("findings")
    settle(demo, 40)
    assert "Cool red: Rose" in texts(demo.box.stack.roles)
    demo.box.shows.choose(BoxPageName.STROKES)
    demo.session.learning.learn()  # what was found is of other figures then
    settle(demo, 40)

    def failing(*_):
        raise CulmoError("no room left to reckon in")
        yield 0.0

    with monkeypatch.context() as patch:
        patch.setattr("culmo.desk.rooms.box.findings.work_out", failing)
        demo.box.shows.choose(BoxPageName.ROLES)
        settle(demo, 40)
    assert "No room left" in demo.notice.words.text()
    assert "could not be worked out" in texts(demo.box.stack.roles)
    demo.box.shows.choose(BoxPageName.STROKES)
    demo.box.shows.choose(BoxPageName.ROLES)
    settle(demo, 40)
    assert "Cool red: Rose" in texts(demo.box.stack.roles)


@pytest.fixture
def reach(qtbot):
    """The figure of a box that has half of all reds, all blues and no greens."""
    usual, best = np.zeros((12, 3, 3)), np.zeros((12, 3, 3))
    angle = np.radians(20.0 + 30.0 * np.arange(12))
    for band, (L, chroma) in enumerate(((80.0, 30.0), (60.0, 60.0), (30.0, 45.0))):
        usual[:, band] = np.stack([np.full(12, L), chroma * np.cos(angle), chroma * np.sin(angle)], axis=1)
    best[:] = usual
    best[0, :, 1:] *= 0.5
    best[5] = np.nan
    figure = ReachFigure(best, usual)
    qtbot.addWidget(figure)
    figure.resize(800, figure.heightForWidth(800))
    figure.show()
    return figure


def test_a_bar_is_as_long_as_the_mixes_are_vivid_and_filled_as_far_as_the_box_goes(reach):
    picture = reach.grab().toImage()
    for hue, filled in ((0, 0.5), (5, 0.0), (8, 1.0)):
        for band in range(3):
            bar = reach.bar(hue, band)
            row = [
                picture.pixelColor(x, round(bar.center().y()))
                for x in range(round(bar.left()) + 2, round(bar.right()) - 1)
            ]
            painted = np.mean([colour.name() != PAPER.name() for colour in row])
            assert abs(painted - filled) < 0.06, (hue, band)
    assert reach.bar(8, 0).width() * 2 == pytest.approx(reach.bar(8, 1).width())
    # no bar lies on another, nor outside
    bars = [reach.bar(hue, band) for hue in range(12) for band in range(3)]
    assert not any(one.intersects(other) for i, one in enumerate(bars) for other in bars[:i])
    assert all(reach.rect().contains(bar.toAlignedRect()) for bar in bars)


def test_a_bar_says_its_numbers_and_so_does_the_figure_to_who_can_not_see_it(reach):
    place = reach.bar(0, 1).center().toPoint()
    assert reach.tip_at(place) == "reds: middle 30 of 60"
    assert reach.tip_at(QPoint(2, 2)) == ""
    tip = QHelpEvent(QEvent.Type.ToolTip, place, reach.mapToGlobal(place))
    QApplication.sendEvent(reach, tip)
    assert QToolTip.text() == "reds: middle 30 of 60"
    said = reach.accessibleDescription()
    assert "greens: light 0 of 30, middle 0 of 60, dark 0 of 45" in said and said.count(";") == 11


def test_where_there_is_little_room_the_hues_stand_in_one_column(reach):
    low = reach.height()
    reach.resize(400, reach.heightForWidth(400))
    assert reach.height() > 1.8 * low
    assert len({reach.bar(hue, 0).left() for hue in range(12)}) == 1
    assert reach.rect().contains(reach.bar(11, 2).toAlignedRect())


def test_a_box_that_reaches_nothing_has_empty_bars(qtbot):
    nothing = np.full((12, 3, 3), np.nan)
    figure = ReachFigure(nothing, nothing)
    qtbot.addWidget(figure)
    figure.resize(700, 200)
    assert not figure.grab().isNull()


def test_a_double_is_found_and_what_may_stand_in_follows_the_dab(qtbot, demo):
    show(demo, BoxPageName.REPEATS)
    assert "No two paints of this box are too alike" in texts(demo.box.stack.repeats)
    assert "Take paints in hand" in texts(demo.box.stack.repeats)
    demo.session.selection.toggle_in_hand("Rose")
    demo.session.selection.toggle_in_hand("Ultramarine")
    assert "differs by" in texts(demo.box.stack.repeats)
    before = texts(demo.box.stack.repeats)
    demo.rail.dab.sliders[0].setValue(5)
    assert texts(demo.box.stack.repeats) != before
    rows = {r["recipe"] + r["ground"]: r for r in demo.session.file.rows("readings", "source = 'card'")}
    card = []
    for recipe, ground in (
        (mix(["Rose"]), "paper"),
        (mix(["Rose"], wash=0.2), "paper"),
        (mix(["Rose"]), "ink"),
    ):
        row = next(
            r for r in rows.values() if records.recipe_of(r).key == recipe.key and r["ground"] == ground
        )
        twin = recipe.renamed(lambda _: "Rose, old tube")
        from culmo.core.paint.readings import Reading

        card.append(Reading(twin, (row["L"], row["a"], row["b"]), ground))
    demo.session.do(
        acts.add_paint(demo.session.file, acts.PaintEntry("Rose, old tube", "PV19 + PR122"), card)
    )
    demo.session.selection.select_box(None)
    settle(demo, 40)
    said = texts(demo.box.stack.repeats)
    assert "Rose and Rose, old tube" in said
    assert "keep Rose: it keeps better in the light, it is a single pigment" in said


@pytest.mark.long
def test_the_set_is_judged_and_the_slip_tells_the_truth_where_nothing_is_missing(qtbot, demo):
    study = demo.session.file
    for entry in (acts.PaintEntry("Old rose", "PR83"), acts.PaintEntry("Cobalt sky", "PB15:3, PW6, PV23")):
        demo.session.do(acts.add_paint(study, entry))
    demo.session.selection.select_box(None)
    show(demo, BoxPageName.JUDGED)
    said = texts(demo.box.stack.judged)
    assert "It does well" in said and "Warm blue: Ultramarine" in said
    assert "Old rose" in said and "PR83" in said and "PR264" in said
    assert 'its name says "Cobalt"' in said.replace("Its", "its")
    for name in ("Coral", "Indigo", "Moth gold"):
        assert name in said
    found = demo.box.finder.found
    assert found.gaps == []
    codes = {paint.name: paint.codes for paint in demo.session.paints if paint.status != "wished"}
    slip = shop_slip(found, None, codes)
    assert set(slip.have) == set(codes)
    assert any(f"{share} %" in slip.gap for share in (97, 98)), slip.gap
    assert any("Old rose" in wanted.words for wanted in slip.look_for)
    owned = next(line for line in slip.avoid if "already" in line)
    assert all(code in owned for text in codes.values() for code in codes_in(text))


def test_a_small_box_has_gaps_and_a_shop_slip(qtbot, demo, tmp_path):
    names = ("Lemon", "Scarlet", "Cobalt", "Ochre", "Umber", "Viridian")
    by_name = {paint.name: paint.id for paint in demo.session.paints}
    from culmo.core.chart.box import BoxShape

    command = box_acts.add_box(
        demo.session.file, "Six", BoxShape(1, 6, {}), [by_name[name] for name in names]
    )
    demo.session.do(command)
    demo.session.selection.select_box(demo.session.boxes[-1].id)
    show(demo, BoxPageName.MISSING)
    said = texts(demo.box.stack.missing)
    assert "stay dull" in said or "No " in said
    assert "No good cool red" in said
    found = demo.box.finder.found
    written = []

    def act(dialog):
        assert "violet" in dialog.windowTitle() or "rose" in dialog.windowTitle()
        for name in ("slip.png", "slip.pdf", "slip.xyz", "none/slip.png"):
            dialog.write(tmp_path / name)
            written.append(dialog.message.text())
        dialog.reject()

    sector = next(gap.sector for gap in found.gaps if gap.sector in (9, 10, 11))
    Hand(qtbot).in_dialog(act, SlipDialog)
    demo.box.slip_wanted.emit(sector)
    assert [text[:7] for text in written[:2]] == ["Written", "Written"]
    assert "ending" in written[2]
    assert "no such folder" in written[3]
    image = QImage(str(tmp_path / "slip.png"))
    assert image.width() / image.dotsPerMeterX() * 1000 == pytest.approx(105, abs=0.2)
    assert (tmp_path / "slip.pdf").read_bytes().startswith(b"%PDF")


def test_an_empty_study_says_what_to_do_next(window, tmp_path):
    window.studies.create_study(tmp_path / "empty.culmo")
    settle(window, 20)
    assert "Paste a list" in window.box.lies.words.text()
    assert window.box.shows.current == BoxPageName.BOX
    for page in (BoxPageName.ROLES, BoxPageName.REPEATS, BoxPageName.MISSING, BoxPageName.OPPOSITES):
        show(window, page)
        assert "Enter paints first" in texts(window.box.stack.findings(page))
    show(window, BoxPageName.STROKES)
    assert window.box.strokes.cards == []


def test_boxes_are_laid_out_changed_chosen_and_remembered(qtbot, hand, demo):
    def fill(dialog):
        dialog.name.setText("Pocket")
        dialog.rows.setValue(1)
        dialog.columns.setValue(4)
        assert "mm" in dialog.size_words.text()
        dialog.gap.setText("rubbish")
        assert "not a length" in dialog.message.text()
        dialog.try_accept()
        assert dialog.isVisible()
        dialog.gap.setText("1/16 in")
        hand.key(dialog.accept_button, Qt.Key.Key_Return)

    hand.in_dialog(fill, BoxDialog)
    demo.box_desk.new_box()
    assert demo.session.selection.box.name == "Pocket"
    assert demo.session.selection.box.shape.gap_mm == pytest.approx(1.5875)
    assert demo.settings.box == "Pocket"
    assert demo.rail.count.text() == ""
    hand.in_dialog(lambda d: (d.columns.setValue(6), hand.key(d.accept_button, Qt.Key.Key_Return)), BoxDialog)
    demo.box_desk.change_box()
    assert demo.session.selection.box.shape.columns == 6
    demo.box_desk.remove_box()
    assert "Pocket" not in [box.name for box in demo.session.boxes]
    demo.session.undo.undo()
    assert "Pocket" in [box.name for box in demo.session.boxes]


def test_pans_turn_full_and_the_well_map_is_written_at_true_size(qtbot, demo, tmp_path):
    demo.box.select("Lemon")
    demo.box_desk.turn_pan()
    assert demo.session.selection.box.shape.pan(0) == "full"
    path = tmp_path / "map.png"
    assert demo.box_desk.prints.write_well_map(path, colour=True)
    image = QImage(str(path))
    scale = image.dotsPerMeterX() / 1000
    sheet = demo.box_desk.prints.well_map()
    assert image.width() / scale == pytest.approx(sheet.paper.width_mm, abs=0.3)
    cell = next(c for c in sheet.cells if c.recipe.names == ("Scarlet",))
    x, y, w, h = cell.box_mm
    seen = QColor(image.pixel(int((x + w / 2) * scale), int((y + h / 2) * scale)))
    assert seen.red() > 150
    assert seen.green() < 60
    assert demo.box_desk.prints.write_well_map(tmp_path / "map.pdf")
    demo.box.picture.current = None
    demo.box_desk.turn_pan()
    assert "Select a well" in demo.status.told_text.text()


def test_a_refilled_well_plans_its_patches(qtbot, hand, demo):
    demo.box.select("Rose")

    def fill(dialog):
        assert [entry.title for entry in dialog.wanted()] == [
            "Cards, six to test",
            "Travelling box",
            "First eight, wing cases",
        ]
        dialog.line.setText("Rose PV19, transparent")
        hand.key(dialog.accept_button, Qt.Key.Key_Return)

    hand.in_dialog(fill, RefillDialog)
    demo.box_desk.tests.refill()
    settle(demo, 40)
    titles = [title for _, title in records.sheet_titles(demo.session.file)]
    assert sum(title.startswith("Patch for") for title in titles) >= 3
    old = [p.name for p in records.paints(demo.session.file, retired=True) if p.retired]
    assert len(old) == 1
    assert old[0].startswith("Rose, until")
    assert laid(demo)[4] == "Rose"
    new = next(p for p in demo.session.paints if p.name == "Rose")
    assert new.label == {"transparency": "transparent"}
    assert demo.session.learning.typical(mix(["Rose"]))
    patch = next(
        i for i, title in records.sheet_titles(demo.session.file) if title.startswith("Patch for First")
    )
    assert all("Rose" in e.cell.recipe.names for e in records.sheet_record(demo.session.file, patch).cells)


def test_a_swatch_in_a_picture_fills_the_card(qtbot, hand, demo, tmp_path):
    path = tmp_path / "swatch.png"
    image = QImage(400, 300, QImage.Format.Format_RGB32)
    image.fill(QColor(200, 190, 170))
    for x in range(150, 250):
        for y in range(100, 200):
            image.setPixelColor(x, y, QColor(100, 30, 60))
    image.save(str(path))
    demo.box.select("Rose")

    def pick(dialog):
        view = dialog.view
        target = view._target()
        for fx, fy in ((0.1, 0.1), (0.5, 0.5)):
            at = QPointF(target.left() + fx * target.width(), target.top() + fy * target.height()).toPoint()
            hand.click(view, at)
        assert dialog.take.isEnabled()
        dialog.accept()

    hand.in_dialog(pick, SwatchDialog)
    demo.box.picture_wanted.emit(path)
    L, a, _ = (float(v) for v in demo.box.slip.card["masstone"].text().split(","))
    assert 20 < L < 50
    assert a > 30
    bad = SwatchDialog(demo, "Rose")
    (tmp_path / "no.png").write_bytes(b"no picture")
    bad.load(tmp_path / "no.png")
    assert "can not be opened" in bad.message.text()
    bad.deleteLater()


def test_files_and_text_are_dropped_on_the_room(hand, demo, tmp_path):
    path = tmp_path / "list.csv"
    path.write_text("name,codes\nMoss,PG10\n", encoding="utf-8")

    def drop(**what):
        data = QMimeData()
        if "path" in what:
            data.setUrls([QUrl.fromLocalFile(str(what["path"]))])
        else:
            data.setText(what["text"])
        event = QDropEvent(
            QPointF(5, 5),
            Qt.DropAction.CopyAction,
            data,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
        demo.box.dropEvent(event)

    seen = []
    hand.in_dialog(lambda d: (seen.append(d.text.toPlainText()), d.reject()), EntryDialog)
    drop(path=path)
    hand.in_dialog(lambda d: (seen.append(d.text.toPlainText()), d.reject()), EntryDialog)
    drop(text="Sky PB35\nMoss PG10")
    assert seen[0].split() == ["Moss", "PG10"]
    assert seen[1] == "Sky PB35\nMoss PG10"


def test_the_label_page_lays_claims_beside_the_card(demo):
    demo.box.select("Crimson")
    demo.box.pages.tabs.choose(1)
    settle(demo, 20)
    said = texts(demo.box.label)
    assert "PR177: pigment, red, number 177" in said
    assert "covers" in said
    assert "stays after rubbing" in said
    assert "after 2 weeks in the window" in said
    assert "label and safety data sheet" in said
    demo.box.select("Neutral")
    assert "a mixture of 2 pigments" in texts(demo.box.label)
    assert "also in Phthalo blue" in texts(demo.box.label)
    demo.box.select("Cobalt")
    assert "PB28 holds cobalt" in texts(demo.box.label)
    demo.box.new_paint()
    demo.box.pages.tabs.choose(1)
    assert "stands here once" in texts(demo.box.label)


def test_a_page_goes_into_the_window_and_its_looks_fall_due(demo, monkeypatch, tmp_path):
    cards = next(i for i, title in records.sheet_titles(demo.session.file) if title.startswith("Cards"))
    demo.session.selection.select_sheet(cards)
    assert demo.box_desk.tests.can_fade()
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("east", True))
    demo.box_desk.tests.start_fade()
    assert demo.session.due_looks() == []
    demo.session.file.clock = lambda: "2099-01-01T00:00:00+00:00"
    assert "a look at the window is due" in demo.session.due_looks()[0]
    monkeypatch.setattr("culmo.study.file.now", demo.session.file.clock)
    monkeypatch.setattr("culmo.study.file.Study.__init__.__defaults__", (demo.session.file.clock, None))
    assert demo.open_path(demo.session.file.path)
    assert "due since" in demo.notice.words.text()
    demo.session.selection.select_sheet(cards)
    demo.box_desk.tests.end_fade()
    assert demo.session.due_looks() == []
    demo.box_desk.tests.end_fade()
    assert "in no window" in demo.notice.words.text()


def test_a_retired_paint_comes_back_by_the_menu(demo, monkeypatch):
    demo.box.select("Rose")
    demo.box.slip._retire()
    assert demo.box_desk.has_retired()
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("Rose", True))
    demo.box_desk.bring_back()
    assert "Rose" in [paint.name for paint in demo.session.paints]


@pytest.mark.long
def test_two_hundred_paints_and_names_in_any_script(window, tmp_path):
    window.studies.create_study(tmp_path / "many.culmo")
    text = (
        "\n".join(f"Paint {i} PB{15 + i % 10}" for i in range(197))
        + "\nالأزرق PB29\n群青色 PB29\nУльтрамарин PB29"
    )
    dialog = EntryDialog(window, window.session, text)
    assert dialog.list.summary().startswith("200 paints understood")
    window.session.runner.start = lambda *a, **k: None  # what they look like together is not asked here
    dialog.take_in()
    assert len(window.session.paints) == 200
    box = boxes(window.session.file)[0]
    assert len(box.paints) == 200
    assert window.box.picture.grab().toImage().width() > 0
    assert np.isfinite(window.box.picture._scale())
    dialog.deleteLater()


def match_column(dialog, place, kind):
    """Choose what a column holds, as by the keys."""
    row, column = divmod(place, 5)
    box = dialog.columns.itemAtPosition(2 * row + 1, 1 + column).widget()
    box.setCurrentIndex(box.findData(kind))
    box.activated.emit(box.currentIndex())


def test_columns_of_a_table_are_matched_by_hand(qtbot, with_study, tmp_path):
    """A spreadsheet whose heads nobody knows: what each column holds is chosen, and the list follows."""
    path = tmp_path / "farben.csv"
    path.write_text("Farbe;Lager;Stoff;Wort\nIndigo;12;PB60;staining\nSiena;3;PBr7;\n", encoding="utf-8")
    path.write_text(path.read_text().replace("Farbe", "Ding"))
    (table,) = paint_tables(path)
    assert not table.headed and table.kinds[0] == "name"
    dialog = EntryDialog(with_study, with_study.session)
    qtbot.addWidget(dialog)
    dialog.read_file(path)
    assert len(dialog.list.rows) == 3
    boxes = dialog.findChildren(QComboBox)
    assert any("Stoff" in box.accessibleName() for box in boxes)
    headed = next(check for check in dialog.findChildren(QCheckBox) if "first row" in check.text())
    headed.setChecked(True)
    assert len(dialog.list.rows) == 2
    match_column(dialog, 1, "")
    match_column(dialog, 3, "claims")
    assert [(row.line.name, row.codes_text) for row in dialog.list.rows] == [
        ("Indigo", "PB60"),
        ("Siena", "PBr7"),
    ]
    assert dialog.list.rows[0].line.claims == {"staining": "high"}
    assert "12" not in dialog.text.toPlainText()


def test_a_workbook_is_read_page_by_page_and_what_was_typed_stays(qtbot, with_study, tmp_path):
    pages = {"Read me": [["Paints of the studio"]], "Studio": [["Name", "Pigment", "Bought"], ["Indigo", "PB60", "May"]],
             "Travelling": [["Name", "Code"], ["Siena", "PBr7"]]}  # fmt: skip
    dialog = EntryDialog(with_study, with_study.session, "Moss PG10")
    qtbot.addWidget(dialog)
    dialog.read_file(write_xlsx(tmp_path / "box.xlsx", **pages))
    assert [row.line.name for row in dialog.list.rows] == [
        "Moss",
        "Indigo",
    ]  # the first page that names its columns
    match_column(dialog, 2, "note")
    assert dialog.list.rows[1].line.note == "May"
    assert "May" in dialog.table.item(1, 2).text()
    page = dialog.columns.itemAtPosition(0, 0).widget()
    assert [page.itemText(i) for i in range(page.count())] == list(pages)
    page.setCurrentIndex(2)
    page.activated.emit(2)
    assert [(row.line.name, row.codes_text) for row in dialog.list.rows] == [
        ("Moss", "PG10"),
        ("Siena", "PBr7"),
    ]
    # lines that were mended by hand and then matched anew come back
    dialog.text.replace_all("Moss PG10, mended")
    match_column(dialog, 1, "note")
    dialog.text.undo()
    assert dialog.text.toPlainText() == "Moss PG10, mended"


def test_cells_copied_from_a_spreadsheet_are_a_table_and_no_picture(qtbot, hand, with_study):
    copied = QMimeData()
    copied.setText("Paint\tPigments\tNotes\nBlue, deep\tPB60\tfrom the corner shop\nSiena\tPBr7\t\n")
    picture = QImage(8, 8, QImage.Format.Format_RGB32)
    picture.fill(0)
    copied.setImageData(picture)
    QGuiApplication.clipboard().setMimeData(copied)
    seen = []

    def look(dialog):
        seen.extend((row.line.name, row.codes_text, row.line.note) for row in dialog.list.rows)
        dialog.reject()

    with_study.show_room(RoomName.BOX)
    hand.in_dialog(look, EntryDialog)
    with_study.box.paste()
    assert ("Blue, deep", "PB60", "from the corner shop") in seen
    assert ("Siena", "PBr7", "") in seen
    # and so where it is pasted into the list itself
    dialog = EntryDialog(with_study, with_study.session, "Moss PG10")
    qtbot.addWidget(dialog)
    dialog.text.moveCursor(QTextCursor.MoveOperation.End)
    dialog.text.paste()
    assert [row.line.name for row in dialog.list.rows] == ["Moss", "Blue, deep", "Siena"]
    # a table that names no columns is read line by line, as typed
    copied = QMimeData()
    copied.setText("Moss\tPG10\nSky\tPB35")
    QGuiApplication.clipboard().setMimeData(copied)
    dialog.text.clear()
    dialog.text.paste()
    assert [(row.line.name, row.codes_text) for row in dialog.list.rows] == [
        ("Moss", "PG10"),
        ("Sky", "PB35"),
    ]


def test_a_list_longer_than_is_read_is_told(qtbot, with_study):
    dialog = EntryDialog(with_study, with_study.session, "\n".join(f"Paint {i}" for i in range(1005)))
    qtbot.addWidget(dialog)
    assert dialog.list.summary() == "1000 paints understood; only the first 1000 lines are read"


def test_a_note_on_a_paint_is_kept_and_words_among_the_claims_too(demo):
    slip = demo.box.slip
    slip.show_paint(next(paint for paint in demo.session.paints if paint.name == "Rose"))
    slip.note.setText("bought in May")
    slip.claims.setText("transparent, lovely in skies, staining")
    slip.keep()
    rose = next(paint for paint in demo.session.paints if paint.name == "Rose")
    assert rose.note == "bought in May; lovely in skies"
    assert (rose.label["transparency"], rose.label["staining"]) == ("transparent", "high")
    slip.show_paint(rose)
    slip.keep()
    assert next(paint for paint in demo.session.paints if paint.name == "Rose") == rose
    demo.session.undo.undo()
    assert next(paint for paint in demo.session.paints if paint.name == "Rose").note == ""
