"""Tables as spreadsheets keep and give them."""

import zipfile
from datetime import date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import parse_recipe
from culmo.core.steps import run_through
from culmo.errors import CulmoError
from culmo.study import acts, spreadsheet
from culmo.study.exchange import exporting
from culmo.study.file import Study
from culmo.study.incoming import bring_in
from culmo.study.palette_files import read_gpl
from culmo.study.records import paints, readings
from culmo.study.spreadsheet import MOST_COLUMNS, parting_mark, read_pages, rows_in
from support.spreadsheets import ods_cell, ods_row, write_ods, write_xlsx

ROWS = [["Name", "Pigment"], ["Rose", "PV19"], [], ["Blue, deep", "PB29"]]


def texts(path):
    return [(page.name, [list(row) for row in page.rows]) for page in read_pages(path)]


# ---- text


@pytest.mark.parametrize("mark", [",", ";", "\t"])
@pytest.mark.parametrize("code", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_a_text_is_read_however_a_spreadsheet_saved_it(tmp_path, mark, code):
    path = tmp_path / "list.csv"
    lines = [
        mark.join(["Name", "Wo"]),
        mark.join(["Grün", f'"am Eck{mark} Mai\nzweite Zeile"']),
        "",
        mark.join(["Weiß", ""]),
    ]
    path.write_bytes("\r\n".join(lines).encode(code))
    (page,) = read_pages(path)
    assert page.rows == (("Name", "Wo"), ("Grün", f"am Eck{mark} Mai\nzweite Zeile"), ("Weiß",))


def test_what_parts_the_columns_is_looked_for_outside_of_quotes():
    assert parting_mark('"a;b;c;d",x') == ","
    assert parting_mark("a;b, c") in ";,"
    assert parting_mark("alone") == ","
    assert rows_in("\n\nName;Code\nRose;PV19") == [[], [], ["Name", "Code"], ["Rose", "PV19"]]


@pytest.mark.parametrize(
    ("data", "why"), [(b"", "empty"), (b" ,\n,", "empty"), (b"a\0b", "not text"), (b"\xff\xfe\0", "not text")]
)
def test_what_is_no_table_is_told(tmp_path, data, why):
    path = tmp_path / "list.txt"
    path.write_bytes(data)
    with pytest.raises(CulmoError, match=why):
        read_pages(path)


def test_tables_without_end_are_refused(tmp_path, monkeypatch):
    path = tmp_path / "list.csv"
    path.write_text(",".join("x" * (MOST_COLUMNS + 1)))
    with pytest.raises(CulmoError, match=f"row 1 has more than {MOST_COLUMNS} columns"):
        read_pages(path)
    path.write_text("a\n" * 30)
    monkeypatch.setattr(spreadsheet, "MOST_ROWS", 20)
    with pytest.raises(CulmoError, match="more than 20 rows"):
        read_pages(path)
    monkeypatch.setattr(spreadsheet, "TEXT_LIMIT", 20)
    with pytest.raises(CulmoError, match="too large"):
        read_pages(path)


# ---- workbooks


def test_a_workbook_of_another_writer_is_read_page_by_page(tmp_path):
    day = datetime(2026, 5, 1)
    rows = [
        ["Name", "Price", "Old", "Bought"],
        ["Rose", 4.5, True, day],
        ["Grün", 12, False, None],
        [None, None, None, None],
    ]
    path = write_xlsx(tmp_path / "box.xlsx", Studio=rows, Empty=[], Travelling=[["x"]])
    assert texts(path) == [
        (
            "Studio",
            [
                ["Name", "Price", "Old", "Bought"],
                ["Rose", "4.5", "true", "2026-05-01"],
                ["Grün", "12", "false"],
            ],
        ),
        ("Travelling", [["x"]]),
    ]


def test_a_row_keeps_its_number_where_rows_are_empty(tmp_path):
    assert read_pages(write_xlsx(tmp_path / "a.xlsx", P=ROWS))[0].numbers == (1, 2, 4)
    rows = [ods_row(ods_cell("Name")), ods_row(ods_cell(None, 16384), repeated=5), ods_row(ods_cell("Rose"))]
    assert read_pages(write_ods(tmp_path / "a.ods", P=rows))[0].numbers == (1, 7)


def test_an_open_document_is_read_with_its_repeats_remarks_and_kinds(tmp_path):
    rows = [
        ods_row(ods_cell("Name"), ods_cell("x", 3), ods_cell("Fast", remark="from the label")),
        ods_row(
            ods_cell("Grün & Co\nzwei"),
            ods_cell(4.5),
            ods_cell(True),
            ods_cell(date(2026, 5, 1)),
            ods_cell(None, 16000),
        ),
        ods_row(ods_cell("again"), repeated=2),
        ods_row(ods_cell(None, 16384), repeated=1048570),
    ]
    assert texts(write_ods(tmp_path / "a.ods", One=rows, Two=[ods_row(ods_cell("y"))])) == [
        (
            "One",
            [
                ["Name", "x", "x", "x", "Fast"],
                ["Grün & Co\nzwei", "4.5", "true", "2026-05-01"],
                ["again"],
                ["again"],
            ],
        ),
        ("Two", [["y"]]),
    ]


def test_spaces_that_an_open_document_writes_as_marks_are_there(tmp_path):
    written = "a<text:s/>b<text:span>c<text:tab/></text:span>d<text:line-break/>e"
    cell = f'<table:table-cell office:value-type="string"><text:p>{written}</text:p></table:table-cell>'
    assert texts(write_ods(tmp_path / "a.ods", P=[ods_row(cell)])) == [("P", [["a bc\td\ne"]])]


BOMB = '<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;">]><office:document-content/>'


@pytest.mark.parametrize(
    ("content", "why"),
    [
        (BOMB, "no spreadsheet"),
        ("<a>" * 100_000 + "</a>" * 100_000, "empty|no spreadsheet"),
        ("<a/>" * 600_000, "too large"),
        ("not xml", "no spreadsheet"),
        ("<a>" + "x" * 50 * 2**20 + "</a>", "unpacked"),
    ],
)
def test_a_hostile_document_is_refused(tmp_path, content, why):
    with pytest.raises(CulmoError, match=why):
        read_pages(write_ods(tmp_path / "a.ods", content=content))


@pytest.mark.parametrize("ending", [".xlsx", ".ods"])
def test_what_is_no_workbook_is_told_by_name(tmp_path, ending):
    path = tmp_path / f"box{ending}"
    for data in (b"", b"PK\x03\x04", b"name,codes\nRose,PV19"):
        path.write_bytes(data)
        with pytest.raises(CulmoError, match="box"):
            read_pages(path)
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("elsewhere.xml", "<a/>")
    with pytest.raises(CulmoError, match="box"):
        read_pages(path)


@pytest.mark.long
def test_rows_far_out_and_repeats_without_end_take_no_memory(tmp_path):
    far = [ods_row(ods_cell("x", 2_000_000), repeated=99_999_999)]
    with pytest.raises(CulmoError, match=r"rows|columns"):
        read_pages(write_ods(tmp_path / "a.ods", P=far))
    path = write_xlsx(tmp_path / "a.xlsx", P=[["Name"]])
    _with_sheet(path, '<row r="99999999999"><c r="A99999999999"><v>1</v></c></row>')
    with pytest.raises(CulmoError, match="empty"):
        read_pages(path)


def _with_sheet(path, rows):
    with zipfile.ZipFile(path) as archive:
        parts = {entry.filename: archive.read(entry) for entry in archive.infolist()}
    space = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
    parts["xl/worksheets/sheet1.xml"] = (
        f'<worksheet xmlns="{space}"><sheetData>{rows}</sheetData></worksheet>'.encode()
    )
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in parts.items():
            archive.writestr(name, data)


CELLS = st.text(
    st.characters(exclude_categories=("Cs", "Cc"), exclude_characters="\ufffe\uffff"), max_size=12
)


@given(st.lists(st.lists(CELLS, min_size=1, max_size=5), min_size=1, max_size=6))
def test_every_text_comes_back_from_either_kind_of_workbook(tmp_path_factory, rows):
    folder = tmp_path_factory.mktemp("books")
    kept = [list(row) for row in rows if any(cell.strip() for cell in row)]
    for row in kept:
        while not row[-1].strip():
            row.pop()
    document = write_ods(folder / "a.ods", P=[ods_row(*(ods_cell(cell) for cell in row)) for row in rows])
    if not kept:
        with pytest.raises(CulmoError, match="empty"):
            read_pages(document)
        return
    assert texts(document) == [("P", kept)]


# ---- what the commands make of them


def test_a_spreadsheet_of_paints_comes_into_a_study_with_all_that_it_says(study, tmp_path):
    rows = [
        ["Paint", "Colour index", "Staining", "Lightfastness", "Status", "Remarks"],
        ["Blue, deep", "PB60", "yes", "I", "wished", "see the card, PB29 is nearer"],
        ["rose", "PV19", None, None, None, None],
        ["Transparent brown", "PR101", "no", "***", "owned", None],
    ]
    told = []
    assert bring_in(study, write_xlsx(tmp_path / "box.xlsx", Studio=rows), told.append) == "2 paints"
    assert told == ['box.xlsx: there is a paint "rose" already; left out']
    deep, brown = paints(study)[-2:]
    assert (deep.name, deep.codes, deep.status, deep.note) == (
        "Blue, deep",
        "PB60",
        "wished",
        "see the card, PB29 is nearer",
    )
    assert dict(deep.label) == {"staining": "high", "lightfastness": "excellent"}
    assert (brown.name, brown.codes, brown.note) == ("Transparent brown", "PR101", "Lightfastness ***")
    assert dict(brown.label) == {"staining": "low", "transparency": "transparent"}


@pytest.mark.parametrize("form", ["csv", "xlsx", "ods"])
def test_readings_come_in_as_a_country_with_decimal_commas_writes_them(study, tmp_path, form):
    head = ["recipe", "L", "a", "b", "dry_hours"]
    path = tmp_path / f"r.{form}"
    if form == "csv":
        path.write_text("recipe;L;a;b;dry_hours\nRose;47,3;50;-12,5;1,5\n")
    elif form == "xlsx":
        write_xlsx(path, P=[head, ["Rose", 47.3, 50, -12.5, 1.5]])
    else:
        cells = ["Rose", 47.3, 50, -12.5, 1.5]
        write_ods(path, P=[ods_row(*map(ods_cell, head)), ods_row(*map(ods_cell, cells))])
    before = len(readings(study))
    assert bring_in(study, path, lambda _: None) == "1 reading"
    new = readings(study)[before:]
    assert [tuple(reading.lab) for reading in new] == [(47.3, 50.0, -12.5)]
    assert study.rows("readings")[-1]["dry_hours"] == 1.5


def test_wanted_colours_come_from_a_spreadsheet(study, tmp_path):
    path = tmp_path / "beetles.csv"
    path.write_text("name;L;a;b\nelytra;27,5;-4;8,25\n")
    assert bring_in(study, path, lambda _: None) == "1 wanted colour"
    row = study.rows("targets")[-1]
    assert (row["L"], row["a"], row["b"]) == (27.5, -4.0, 8.25)


def test_the_list_of_paints_that_a_study_gives_comes_in_again_with_all_that_it_says(study, tmp_path):
    label = {
        "transparency": "semi-opaque",
        "staining": "medium",
        "granulation": "slight",
        "lightfastness": "fair",
    }
    odd = acts.PaintEntry("=Blue, deep", "PB60", "wished", None, "-1 of 2, see PB29", label)
    study.apply(acts.add_paint(study, odd))
    run_through(exporting(study, tmp_path / "out"))
    assert "'=Blue" in (tmp_path / "out" / "paints.csv").read_text()
    with Study.create(tmp_path / "new.culmo", "New") as new:
        bring_in(new, tmp_path / "out" / "paints.csv", lambda _: None)
        known, came = (
            [(p.name, p.codes, p.status, p.note, dict(p.label)) for p in paints(s)] for s in (study, new)
        )
        assert came == known


def test_a_palette_for_a_drawing_program_holds_what_is_on_paper_and_says_which_is_the_bare_one(
    study, tmp_path
):
    study.apply(acts.add_readings(study, [acts.Incoming(Reading(parse_recipe("-"), (95.0, 0.0, 2.0)))], "x"))
    run_through(exporting(study, tmp_path / "out"))
    names = [name for name, _ in read_gpl(tmp_path / "out" / "readings.gpl")]
    assert names.count("Rose") == 1
    assert "bare paper" in names
    assert "-" not in names


def test_a_workbook_as_wide_as_may_be_keeps_its_last_column_and_a_wider_one_is_refused(tmp_path):
    row = [f"c{number}" for number in range(MOST_COLUMNS)]
    (page,) = read_pages(write_xlsx(tmp_path / "wide.xlsx", Paints=[row]))
    assert list(page.rows[0]) == row
    with pytest.raises(CulmoError, match=f"row 1 has more than {MOST_COLUMNS} columns"):
        read_pages(write_xlsx(tmp_path / "wider.xlsx", Paints=[[*row, "one more"]]))
