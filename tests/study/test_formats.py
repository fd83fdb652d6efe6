"""One registry of formats: every door takes the same files, and says the same of the others."""

import re
from pathlib import Path

import pytest

from culmo.errors import CulmoError
from culmo.study import formats
from culmo.study.colour_files import read_colours
from culmo.study.formats import FORMATS, OPEN_FILES, Holds, endings, find_format, may_hold, open_filter
from culmo.study.incoming import _TAKERS, bring_in

SOURCE = Path(formats.__file__).parents[1]
CGATS_TEXT = (
    "CGATS.17\nNUMBER_OF_FIELDS 5\nBEGIN_DATA_FORMAT\nSAMPLE_ID SAMPLE_NAME LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\n"
    'NUMBER_OF_SETS 1\nBEGIN_DATA\n1 "Rose" 50 40 5\nEND_DATA\n'
)


def test_each_format_that_is_taken_in_has_one_who_takes_it():
    taken = {one.id for one in FORMATS if one.takes & set(OPEN_FILES)}
    assert taken == {one.id for one in _TAKERS}
    assert len({one.id for one in FORMATS}) == len(FORMATS)


def test_what_shares_an_ending_is_told_by_what_it_holds(study, tmp_path):
    (tmp_path / "a.txt").write_text(CGATS_TEXT)
    (tmp_path / "b.txt").write_text("recipe\tL\ta\tb\nRose\t50\t40\t5\n")
    assert find_format(tmp_path / "a.txt", [Holds.READINGS]).id == "cgats"
    assert find_format(tmp_path / "b.txt", [Holds.READINGS]).id == "table"
    for name, source in (("a.txt", "instrument"), ("b.txt", "file")):
        assert bring_in(study, tmp_path / name, print) == "1 reading"
        assert study.rows("readings")[-1]["source"] == source


def test_wanted_colours_come_from_palettes_and_measurements_as_from_tables(tmp_path):
    (tmp_path / "a.gpl").write_text("GIMP Palette\nName: x\n#\n200 30 60 wing\n")
    (tmp_path / "b.it8").write_text(CGATS_TEXT)
    (tmp_path / "c.csv").write_text("name,hex\nwing,#c81e3c\n")
    names = [
        [colour.name for colour in read_colours(tmp_path / name)[0]] for name in ("a.gpl", "b.it8", "c.csv")
    ]
    assert names == [["wing"], ["Rose"], ["wing"]]


@pytest.mark.parametrize("name", ["a.docx", "a", "a.culmo", "a.jpg", "a.csv.bak"])
def test_what_is_of_no_kind_is_refused_with_what_could_be(study, tmp_path, name):
    (tmp_path / name).write_bytes(b"x")
    with pytest.raises(CulmoError, match=r"of no kind.*\.csv.*\.json"):
        bring_in(study, tmp_path / name, print)


def test_filters_and_drops_know_the_same_endings():
    for holds in Holds:
        shown = set(re.findall(r"\*(\.\w+)", open_filter("x", holds)))
        assert shown == set(endings(holds))
        assert all(may_hold(Path(f"a{ending.upper()}"), holds) for ending in shown)
        assert not may_hold(Path("a.docx"), holds)


def test_no_door_keeps_a_list_of_its_own():
    """Endings that are read stand in the registry alone."""
    kept = re.compile(
        r"\*\.(?:csv|xlsx|jpe?g|tiff?|webp|cgats|gpl|culmo)|\"\.(?:jpe?g|tiff?|webp|bmp|it8|ti3|tsv|xlsx)\""
    )
    found = {
        str(path.relative_to(SOURCE)): kept.findall(text)
        for path in SOURCE.rglob("*.py")
        if path.name != "formats.py" and kept.search(text := path.read_text(encoding="utf-8"))
    }
    assert found == {
        "study/spreadsheet.py": ['".xlsx"'],  # which of the two workbooks it is
        "core/capture/patch_picture.py": ['".jpg"'],  # as what a patch is kept
        "study/patches.py": ['".jpg"'],
    }
