"""CSV in and out."""

import csv
import io
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.errors import CulmoError
from culmo.study.spreadsheet import as_meant, harmless
from culmo.study.tables import cells_csv, read_readings
from support.builders import make_sheet


def write(tmp_path, text, name="r.csv"):
    path = tmp_path / name
    path.write_bytes(text if isinstance(text, bytes) else text.encode())
    return path


def test_good_rows_are_offered_and_bad_ones_named_by_line(tmp_path):
    text = (
        "L,recipe,a,b,ground,mine\n50,Rose,1,2,,x\nxx,Rose,1,2,paper,\n50,Rose +,1,2,paper,\n"
        "500,Rose,1,2,paper,\n50,Rose,1,2,wood,\n\n60,Rose:2 + Lemon,0,0,INK,y\n70,-,0,nan,paper,\n40,Rose\n"
    )
    good, bad = read_readings(write(tmp_path, text))
    assert [row.line for row in good] == [2, 8]
    assert good[1].reading.ground == "ink"
    assert good[0].unknown == {"mine": "x"}
    assert [line.split(":")[0] for line in bad] == [
        "line 3",
        "line 4",
        "line 5",
        "line 6",
        "line 9",
        "line 10",
    ]


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "empty"), ("recipe,L,a\nRose,1,2\n", 'no column "b"'), (b"\xff\xfe\x00a,b\x00", "UTF-8"),
        ('recipe,L,a,b\n"' + "x" * 30000 + '",1,2,3\n', "line"),
    ],
)  # fmt: skip
def test_files_that_can_not_be_read(tmp_path, text, why):
    with pytest.raises(CulmoError, match=why):
        read_readings(write(tmp_path, text))


def test_a_missing_file_is_named(tmp_path):
    with pytest.raises(CulmoError, match=r"none\.csv"):
        read_readings(tmp_path / "none.csv")


@given(st.binary(max_size=400))
def test_any_bytes_give_rows_or_a_clear_error(tmp_path_factory, data):
    path = write(tmp_path_factory.mktemp("fuzz"), b"recipe,L,a,b\n" + data)
    try:
        good, bad = read_readings(path)
    except CulmoError as error:
        assert str(error)
    else:
        assert all(0 <= row.reading.lab[0] <= 100 for row in good)
        assert all(line.startswith("line ") for line in bad)


def test_a_mark_of_order_and_extra_columns_are_kept(tmp_path):
    good, bad = read_readings(write(tmp_path, "\ufeffrecipe,L,a,b,dry_hours,cell\nRose,1,2,3,24,r01c01\n"))
    assert not bad
    assert good[0].values == {"dry_hours": 24.0, "cell": "r01c01"}


@pytest.mark.parametrize(
    "taken, kept",
    [
        ("2026-10-03T09:20:00+02:00", "2026-10-03T09:20:00+02:00"),
        ("2026-10-03", "2026-10-03T00:00:00+00:00"),
        ("2026-10-03 09:20", "2026-10-03T09:20:00+00:00"),
        ("2026-10-03T1333:20:00+00:00", None),
        ("2026-10-03T09:20:00+15:00", None),
        ("last Tuesday", None),
        ("0001-01-01", None),
    ],
)
def test_when_a_reading_was_taken_is_a_date_that_opens_again(tmp_path, monkeypatch, taken, kept):
    monkeypatch.setenv("TZ", "UTC")
    time.tzset()
    good, bad = read_readings(write(tmp_path, f"recipe,L,a,b,taken\nRose,50,1,2,{taken}\n"))
    if taken.startswith("0001"):  # at the edge of what can be reckoned with either is right
        assert len(good) + len(bad) == 1
    elif kept is None:
        assert not good and "not a date" in bad[0]
    else:
        assert good[0].values["taken"] == kept


def test_cells_as_a_table():
    rows = list(csv.DictReader(io.StringIO(cells_csv(make_sheet(["=A()", "B"])))))
    assert len(rows) == 4
    assert rows[0]["recipe"].startswith("'=")
    assert float(rows[0]["width_mm"]) > 10
    assert harmless("Rose") == "Rose"


@given(st.text(max_size=12))
def test_no_text_is_a_formula_and_each_comes_back(text):
    safe = harmless(text)
    assert as_meant(safe) == text
    assert safe[:1] not in ("=", "+", "@", "\t", "\r")
    # a minus sign begins numbers, and is the recipe of the bare paper; all else that it begins could be reckoned
    assert safe[:1] != "-" or safe == "-" or float(safe.rstrip()) <= 0


def test_a_formula_in_quotes_of_another_program_is_left():
    assert as_meant("'s Gravel") == "'s Gravel"
    assert as_meant("'-") == "'-"


def test_rows_that_name_a_cell_need_no_recipe(tmp_path):
    from culmo.study import acts
    from culmo.study.incoming import bring_in
    from culmo.study.readings_file import readings_of_file
    from culmo.study.records import sheet_record
    from support.builders import make_sheet, make_study

    with make_study(tmp_path / "five.culmo") as study:
        study.apply(acts.add_sheet(study, make_sheet()))
        record = sheet_record(study, 1)
        first, second = record.cells[0].cell, record.cells[1].cell
        path = tmp_path / "r.csv"
        path.write_text(f"cell,L,a,b\n{first.id},50,1,2\n{second.id.upper()},40,3,4\nnowhere,30,5,6\n")
        found = readings_of_file(study, path, record)
        assert [str(item.reading.recipe) for item in found.rows] == [str(first.recipe), str(second.recipe)]
        assert [item.cell_id for item in found.rows] == [record.cells[0].id, record.cells[1].id]
        assert found.bad == ['line 4: it names no recipe, and "nowhere" is no cell of the sheet']
        path.write_text(f"sheet,cell,L,a,b\n{record.sheet.title},{first.id},50,1,2\n")
        before = len(study.rows("readings"))
        assert bring_in(study, path, lambda words: None) == "1 reading"
        row = study.rows("readings")[before:][0]
        assert (row["cell_id"], row["L"]) == (record.cells[0].id, 50.0)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("Rose,paper,50,1,2\nLemon,paper,60,1,2\n", "names no columns"),
        ("recipe,L,a,b\n", "no row below the first"),
        ("recipe,L,a\nRose,50,1\n", 'no column "b"'),
        ("L,a,b\n50,1,2\n", 'no column "recipe"'),
        ("cell,L,a\nr01c01,50,1\n", 'no column "b"'),
    ],
)
def test_a_table_without_its_columns_is_refused_with_the_reason(tmp_path, text, words):
    (tmp_path / "r.csv").write_text(text)
    with pytest.raises(CulmoError, match=words):
        read_readings(tmp_path / "r.csv")
