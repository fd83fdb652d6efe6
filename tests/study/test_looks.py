"""Several looks at one cell: what outranks what, what is put together, and that nothing that was read is lost."""

import json

import numpy as np
import pytest

from culmo.core.capture.sheet_reading import CellReading
from culmo.core.paint.readings import Trust
from culmo.study import acts, paint_acts, records
from culmo.study.file import Change, Command
from culmo.study.looks import looks_of, told_as, uncertainty_of
from culmo.study.photo_acts import Picture, read_picture
from culmo.study.told import told, with_told
from support.builders import FIVE, make_sheet


@pytest.fixture
def cell(study):
    """A planned mix: (its row, its id on the sheet, its recipe)."""
    study.apply(acts.add_sheet(study, make_sheet(names=FIVE[:3])))
    own = next(e for e in records.sheet_record(study, 1).cells if len(e.cell.recipe.names) == 2)
    return own.id, own.cell.id, own.cell.recipe


def look(study, cell, lab, uncertainty=1.0, trust=Trust.GOOD, taken="", source="photo"):
    entry = CellReading(cell[1], cell[2], "paper", np.array(lab), trust, (), uncertainty, 1.0, 2.0)
    picture = Picture(f"{taken}.png", f"picture {taken}".encode(), taken) if source == "photo" else None
    study.apply(read_picture(study, 1, [entry], picture, source))


def row_of(study, cell):
    (row,) = study.rows("readings", "cell_id = ? AND trust <> 'wet'", (cell[0],))
    return row


def lab_of(row):
    return row["L"], row["a"], row["b"]


DAYS = [f"2026-10-{day:02d}T10:00:00+02:00" for day in range(1, 9)]


@pytest.mark.parametrize("source", ["instrument", "colorimeter", "typed"])
@pytest.mark.parametrize("trust", [Trust.GOOD, Trust.DOUBTFUL])
def test_what_an_instrument_gave_outranks_a_later_picture(study, cell, source, trust):
    study.apply(acts.read_cell(study, 1, cell[0], (50.0, 5.0, 5.0), source))
    look(study, cell, (40.0, 9.0, 9.0), 0.5, trust, DAYS[0])
    row = row_of(study, cell)
    assert lab_of(row) == (50.0, 5.0, 5.0) and (row["source"], row["trust"]) == (source, Trust.GOOD)
    assert row["photo_id"] is None and uncertainty_of(row) is None
    assert [(one["L"], one["source"]) for one in looks_of(row)] == [
        (50.0, source),
        (40.0, "photo"),
    ]  # it is kept
    assert len(study.rows("photos")) == 1


def test_an_instrument_after_a_picture_takes_its_place_and_the_picture_stays_there(study, cell):
    look(study, cell, (40.0, 9.0, 9.0), 0.5, Trust.GOOD, DAYS[0])
    study.apply(acts.read_cell(study, 1, cell[0], (50.0, 5.0, 5.0), "instrument"))
    row = row_of(study, cell)
    assert lab_of(row) == (50.0, 5.0, 5.0) and row["photo_id"] is None and row["granulation"] is None
    assert [one["L"] for one in looks_of(row)] == [40.0, 50.0]
    study.apply(acts.read_cell(study, 1, cell[0], (52.0, 5.0, 5.0), "instrument"))
    assert row_of(study, cell)["L"] == 52.0  # of two of a kind that need no mean the last


def test_pictures_are_averaged_by_how_sure_they_are(study, cell):
    look(study, cell, (40.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[0])
    assert uncertainty_of(row_of(study, cell)) == 1.0
    look(study, cell, (41.5, 0.5, 0.0), 2.0, Trust.GOOD, DAYS[1])
    row = row_of(study, cell)
    assert lab_of(row) == pytest.approx((40.3, 0.1, 0.0))
    assert uncertainty_of(row) == pytest.approx(0.89, abs=0.01)
    assert "2 pictures" in row["note"]
    # one in doubt is kept, and is not in the mean
    look(study, cell, (90.0, 3.0, 0.0), 1.0, Trust.DOUBTFUL, DAYS[2])
    row = row_of(study, cell)
    assert lab_of(row) == pytest.approx((40.3, 0.1, 0.0)) and row["trust"] == Trust.GOOD
    assert len(looks_of(row)) == 3 and len(study.rows("photos")) == 3


def test_a_gleam_in_one_of_three_pictures_drops_out(study, cell):
    for day, lab in zip(DAYS, ((40.0, 5.0, 0.0), (70.0, 1.0, 0.0), (41.0, 5.0, 0.0)), strict=False):
        look(study, cell, lab, 1.0, Trust.GOOD, day)
    row = row_of(study, cell)
    assert lab_of(row) == pytest.approx((40.5, 5.0, 0.0)) and row["trust"] == Trust.GOOD
    assert len(looks_of(row)) == 3
    assert uncertainty_of(row) < 1.0


def test_two_pictures_that_can_not_both_be_right_are_in_doubt_till_a_third_says_which(study, cell):
    look(study, cell, (40.0, 5.0, 0.0), 1.0, Trust.GOOD, DAYS[0])
    look(study, cell, (60.0, 5.0, 0.0), 1.0, Trust.GOOD, DAYS[1])
    row = row_of(study, cell)
    assert row["trust"] == Trust.DOUBTFUL and "differ" in row["note"]
    assert uncertainty_of(row) > 5.0
    look(study, cell, (59.0, 5.0, 0.0), 1.0, Trust.GOOD, DAYS[2])
    row = row_of(study, cell)
    assert row["trust"] == Trust.GOOD and row["L"] == pytest.approx(59.5) and "differ" not in row["note"]


def test_how_far_pictures_differ_says_how_good_they_are(study, cell):
    """Each said it was within 0.5; apart by 3 they are not."""
    look(study, cell, (50.0, 0.0, 0.0), 0.5, Trust.GOOD, DAYS[0])
    look(study, cell, (53.0, 0.0, 0.0), 0.5, Trust.GOOD, DAYS[1])
    row = row_of(study, cell)
    assert row["trust"] == Trust.GOOD and 1.2 < uncertainty_of(row) < 2.0


def test_a_good_picture_outranks_a_doubtful_one_before_it(study, cell):
    look(study, cell, (90.0, 0.0, 0.0), 1.0, Trust.DOUBTFUL, DAYS[0])
    look(study, cell, (46.0, 3.0, 0.0), 2.0, Trust.GOOD, DAYS[1])
    row = row_of(study, cell)
    assert (row["L"], row["trust"]) == (46.0, Trust.GOOD) and len(looks_of(row)) == 2


def test_the_same_picture_read_anew_counts_once(study, cell):
    look(study, cell, (40.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[0])
    look(study, cell, (44.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[0])
    row = row_of(study, cell)
    assert row["L"] == 44.0 and len(looks_of(row)) == 1 and "pictures" not in row["note"]


def test_what_the_painter_put_aside_or_trusted_stays_so(study, cell):
    look(study, cell, (40.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[0])
    study.apply(acts.set_trust(study, row_of(study, cell)["id"], Trust.EXCLUDED))
    look(study, cell, (46.0, 3.0, 0.0), 1.0, Trust.GOOD, DAYS[1])
    assert row_of(study, cell)["L"] == 46.0
    look(study, cell, (48.0, 3.0, 0.0), 1.0, Trust.GOOD, DAYS[2])
    assert row_of(study, cell)["L"] == pytest.approx(47.0)
    study.apply(acts.set_trust(study, row_of(study, cell)["id"], Trust.EXCLUDED))
    look(study, cell, (60.0, 3.0, 0.0), 1.0, Trust.DOUBTFUL, DAYS[3])
    row = row_of(study, cell)
    assert (row["L"], row["trust"]) == (60.0, Trust.DOUBTFUL)
    study.apply(acts.set_trust(study, row["id"], Trust.GOOD))  # the painter trusts it
    look(study, cell, (62.0, 3.0, 0.0), 1.0, Trust.GOOD, DAYS[4])
    assert row_of(study, cell)["L"] == pytest.approx(61.0)


def test_what_was_painted_anew_is_another_wash(study, cell):
    look(study, cell, (40.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[0])
    study.apply(paint_acts.paint_cell(study, 1, cell[0], "done", "tray", DAYS[1]))
    look(study, cell, (46.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[2])
    row = row_of(study, cell)
    assert row["L"] == 46.0 and [one["trust"] for one in looks_of(row)] == [Trust.EXCLUDED, Trust.GOOD]


def test_a_look_is_taken_back_with_the_others_as_they_were(study, cell):
    look(study, cell, (40.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[0])
    before = row_of(study, cell)
    entry = CellReading(
        cell[1], cell[2], "paper", np.array([46.0, 0.0, 0.0]), Trust.GOOD, (), 1.0, None, None
    )
    command = read_picture(study, 1, [entry], Picture("b.png", b"b", DAYS[1]))
    study.apply(command)
    assert row_of(study, cell) != before
    study.revert(command)
    assert row_of(study, cell) == before


def test_rows_of_earlier_versions_have_their_one_look():
    row = {
        "L": 1.0, "a": 2.0, "b": 3.0, "source": "photo", "taken": DAYS[0], "trust": Trust.GOOD, "photo_id": 4,
        "granulation": None, "separation": None, "note": "", "extra": "{}",
    }  # fmt: skip
    (one,) = looks_of(row)
    assert one["uncertainty"] is None and told_as([one])["of"] == 1
    for text in ("{", "[]", "5", "null", ""):
        assert len(looks_of({**row, "extra": text})) == 1 and uncertainty_of({**row, "extra": text}) is None
    whole = {**one, "uncertainty": 1.0}
    for look in (
        {"L": 1},
        5,
        {**whole, "L": "x"},
        {**whole, "a": float("nan")},
        {**whole, "trust": None},
        {**whole, "uncertainty": -1},
    ):
        assert len(looks_of({**row, "extra": json.dumps({"looks": [whole, look]})})) == 1
    assert len(looks_of({**row, "extra": json.dumps({"looks": [whole, whole]})})) == 2
    for strange in ({"looks": []}, {"looks": 5}, {"uncertainty": "much"}):
        assert len(looks_of({**row, "extra": json.dumps(strange)})) == 1
        assert uncertainty_of({**row, "extra": json.dumps(strange)}) is None


def test_learning_knows_how_sure_a_picture_is(study, cell):
    look(study, cell, (40.0, 0.0, 0.0), 3.0, Trust.GOOD, DAYS[0])
    rows = with_told(records.reading_rows(study), told(study))
    (reading,) = (records.reading_of(row) for row in rows if row["cell_id"] == cell[0])
    assert reading.uncertainty == 3.0
    study.apply(acts.read_cell(study, 1, cell[0], (50.0, 5.0, 5.0), "instrument"))
    rows = with_told(records.reading_rows(study), told(study))
    (reading,) = (records.reading_of(row) for row in rows if row["cell_id"] == cell[0])
    assert reading.uncertainty == 0.0


def test_a_damaged_word_about_a_reading_stops_nothing(study, cell):
    """What can not be read of `extra` is as if it were not said; the reading itself teaches on."""
    look(study, cell, (40.0, 0.0, 0.0), 3.0, Trust.GOOD, DAYS[0])
    for text in ('{"uncertainty": "x", "scrap": "7"}', '{"uncertainty": 1e9}', '{"looks": [5]}'):
        row = row_of(study, cell)
        study.apply(Command("damage", (Change("readings", row["id"], row, {**row, "extra": text}),)))
        rows = with_told(records.reading_rows(study), told(study))
        (reading,) = (records.reading_of(one) for one in rows if one["cell_id"] == cell[0])
        assert reading.uncertainty == 0.0
    look(study, cell, (44.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[1])
    assert len(looks_of(row_of(study, cell))) == 2


def test_an_instruments_reading_that_was_put_aside_outranks_nothing(study, cell):
    study.apply(acts.read_cell(study, 1, cell[0], (50.0, 5.0, 5.0), "instrument"))
    study.apply(acts.set_trust(study, row_of(study, cell)["id"], Trust.EXCLUDED))
    look(study, cell, (40.0, 9.0, 9.0), 1.0, Trust.DOUBTFUL, DAYS[0])
    row = row_of(study, cell)
    assert (row["L"], row["trust"]) == (40.0, Trust.DOUBTFUL)


def test_a_colour_that_was_corrected_elsewhere_is_not_forgotten(study, cell):
    """On the card page a row is corrected as a row; the next picture must not bring the looks before it back."""
    look(study, cell, (40.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[0])
    look(study, cell, (41.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[1])
    row = row_of(study, cell)
    study.apply(
        Command("correct", (Change("readings", row["id"], row, {**row, "L": 55.0, "source": "card"}),))
    )
    look(study, cell, (42.0, 0.0, 0.0), 1.0, Trust.GOOD, DAYS[2])
    row = row_of(study, cell)
    assert row["L"] == 55.0 and [one["L"] for one in looks_of(row)] == [40.0, 41.0, 55.0, 42.0]
