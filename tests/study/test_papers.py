"""The painter's own papers: named, changed, removed, and what they are like."""

import shutil
from pathlib import Path

import pytest

from culmo.core.chart.papers import Paper, find_paper
from culmo.errors import CulmoError
from culmo.study import acts, paint_acts, records
from culmo.study.file import Study
from culmo.study.papers import TONES, OwnPaper, keep_paper, own_paper, own_papers, remove_paper
from support.builders import make_sheet, make_study


@pytest.fixture
def study(tmp_path):
    with make_study(tmp_path / "five.culmo") as study:
        yield study


def test_a_paper_is_kept_changed_and_removed_and_each_can_be_undone(study):
    book = OwnPaper(Paper("Moth book", 148.0, 210.0), "rough", "cream", 12.0)
    study.apply(keep_paper(study, book))
    kept = own_paper(study, "MOTH book ")
    assert kept == OwnPaper(book.paper, "rough", "cream", 12.0, kept.id)
    assert kept.colour == TONES["cream"]
    command = keep_paper(
        study, OwnPaper(Paper("Beetle book", 150.0, 210.0), "smooth", "#ddccbb", 0.0, kept.id)
    )
    study.apply(command)
    assert [own.paper.name for own in own_papers(study)] == ["Beetle book"]
    study.revert(command)
    assert own_papers(study) == [kept]
    removal = remove_paper(study, kept.id)
    study.apply(removal)
    assert own_papers(study) == []
    study.revert(removal)
    assert own_papers(study) == [kept]


@pytest.mark.parametrize(
    ("paper", "more", "words"),
    [
        (Paper("  ", 148.0, 210.0), {}, "needs a name"),
        (Paper("x" * 61, 148.0, 210.0), {}, "needs a name"),
        (Paper("a\nb", 148.0, 210.0), {}, "needs a name"),
        (Paper("Book", 148.0, 210.0), {"tooth": "woolly"}, "tooth"),
        (Paper("Book", 148.0, 210.0), {"tone": "#12345"}, "tone"),
        (Paper("Book", 148.0, 210.0), {"gutter_mm": 90.0}, "half of the page"),
        (Paper("Book", 148.0, 210.0), {"gutter_mm": -1.0}, "half of the page"),
    ],
)
def test_what_a_paper_can_not_be(paper, more, words):
    with pytest.raises(CulmoError, match=words):
        OwnPaper(paper, **more)


def test_no_two_have_one_name_and_none_that_of_a_common_one_of_another_size(study):
    study.apply(keep_paper(study, OwnPaper(Paper("Book", 148.0, 210.0))))
    with pytest.raises(CulmoError, match="already"):
        keep_paper(study, OwnPaper(Paper("BOOK", 100.0, 150.0)))
    with pytest.raises(CulmoError, match="another size"):
        keep_paper(study, OwnPaper(Paper("A4", 100.0, 150.0)))
    study.apply(
        keep_paper(study, OwnPaper(find_paper("A4").turned(), "rough"))
    )  # one's own A4, by what it is like
    assert own_paper(study, "a4").tooth == "rough"


def test_a_run_begins_with_the_tooth_of_its_paper(study):
    paper = make_sheet().paper
    study.apply(keep_paper(study, OwnPaper(paper, "smooth")))
    study.apply(acts.add_sheet(study, make_sheet()))
    study.apply(paint_acts.paint_cell(study, 1, records.sheet_record(study, 1).cells[0].id))
    assert paint_acts.drying_of(study, 1).paper == "smooth"


def test_a_paper_of_a_damaged_or_an_older_study_is_as_most_are(tmp_path, study):
    study.apply(keep_paper(study, OwnPaper(Paper("Book", 148.0, 210.0))))
    with study.disk.transaction() as db:
        db.execute("UPDATE papers SET tooth = 'gone', tone = 'x', gutter_mm = 5000")
    own = own_paper(study, "Book")
    assert (own.tooth, own.tone, own.gutter_mm) == ("cold pressed", "", 74.0)
    old = Path(__file__).parent / "old" / "v5.culmo"
    shutil.copy(old, tmp_path / "old.culmo")
    with Study(tmp_path / "old.culmo") as earlier:
        assert all(own.tooth == "cold pressed" for own in own_papers(earlier))
