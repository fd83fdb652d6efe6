"""Strips in the record: known by what was read of them, tied to the pictures in which they lie."""

import json
from dataclasses import replace

import numpy as np
import pytest

from culmo.core.capture.placement import Placement
from culmo.core.capture.sheet_reading import CellReading
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.paint.character import Anchor, Shot
from culmo.core.steps import run_through
from culmo.study import acts, records
from culmo.study.inspection import problems_of_study
from culmo.study.learned import learning_from
from culmo.study.photo_acts import Picture, read_picture
from culmo.study.seen import with_anchors
from culmo.study.strips import strips_of
from support.builders import FIVE, make_sheet

PAPER = (95.0, 0.0, 2.0)


def look(cell, lab, light=(0.5, 0.3, 0.2), told=3.0):
    return CellReading(
        cell.id, cell.recipe, cell.ground, np.array(lab), "good", (), told, 2.0, 1.0, seen=light, own=0.8
    )


def colour(number):
    return (70.0 - 3 * number, 20.0 - 5 * number, 4.0 * number)


@pytest.fixture
def made(study):
    """A strip of five paints (sheet 1), and a sheet (2)."""
    study.apply(acts.add_sheet(study, lay_out(plan_of("strip", {"paints": FIVE, "paper": "A4"}))[0]))
    study.apply(acts.add_sheet(study, make_sheet(names=FIVE[:4])))
    return study, [entry.cell for entry in records.sheet_record(study, 1).cells]


def by_instrument(cells, moved=0.0):
    return [replace(look(cell, np.add(colour(n), moved)), seen=None) for n, cell in enumerate(cells)]


def test_a_strip_is_known_by_what_was_read_of_it(made):
    study, cells = made
    assert strips_of(study) == ()
    looks = [look(cell, colour(n)) for n, cell in enumerate(cells)]
    study.apply(read_picture(study, 1, looks, Picture("a.jpg", b"a"), shot=Shot("x", PAPER)))
    (by_picture,) = strips_of(study)
    assert by_picture.sheet.bars_mm
    assert set(by_picture.known) == {cell.id for cell in cells}
    study.apply(read_picture(study, 1, by_instrument(cells), source="instrument"))
    (measured,) = strips_of(study)
    for number, cell in enumerate(cells):
        assert measured.known[cell.id].lab == pytest.approx(colour(number))
        assert measured.known[cell.id].off < 0.5 * by_picture.known[cell.id].off
    # what a picture tells of all patches alike is no surer for there being many of them
    alone = 3.0 / 1.5
    assert by_picture.known[cells[0].id].off > 0.5 * alone


def with_strip(study, cells, known):
    """Take in a picture of the sheet with the strip beside it."""
    rows = {entry.cell.id: str(entry.id) for entry in records.sheet_record(study, 1).cells}
    anchors = tuple(
        Anchor((round(0.9 - 0.05 * n, 3), round(0.8 - 0.06 * n, 3), 0.4), known[n], 0.8, rows[cell.id])
        for n, cell in enumerate(cells)
    )
    sheet = [entry.cell for entry in records.sheet_record(study, 2).cells]
    looks = [look(cell, (60.0, 12.0, 14.0), (0.6 - 0.01 * n, 0.3, 0.25)) for n, cell in enumerate(sheet)]
    placed = Placement(np.eye(3), np.zeros((0, 2)), (0.0, 0.0, 100.0, 100.0))
    picture = Picture("b.jpg", b"b", "2026-06-01T12:00:00+02:00", placed)
    command = read_picture(study, 2, looks, picture, shot=Shot("now", PAPER, anchors=anchors))
    study.apply(command)
    return anchors, command


def test_what_the_strip_showed_is_kept_once_with_the_picture_and_learned_from(made):
    study, cells = made
    anchors, command = with_strip(study, cells, [colour(n) for n in range(len(cells))])
    assert all("anchors" not in json.loads(row["seen"]) for row in study.rows("readings", "seen <> ''"))
    rows = records.reading_rows(study)
    assert with_anchors(rows) == {next(iter(with_anchors(rows))): anchors}
    assert sum(bool(row.get("shot")) for row in rows) == 1
    codes = [(paint.name, paint.codes) for paint in records.paints(study, retired=True)]
    (shot,) = run_through(learning_from(codes, rows, None, None)).estimate.shots
    assert shot.anchors == anchors
    assert not problems_of_study(study)
    study.revert(command)
    assert with_anchors(records.reading_rows(study)) == {}


def test_an_old_picture_profits_when_its_strip_is_measured(made):
    study, cells = made
    with_strip(study, cells, [colour(n) for n in range(len(cells))])
    study.apply(read_picture(study, 1, by_instrument(cells, 2.0), source="instrument"))
    (anchors,) = with_anchors(records.reading_rows(study)).values()
    for number, anchor in enumerate(anchors):
        assert anchor.lab == pytest.approx(np.add(colour(number), 2.0))


def test_a_colour_that_can_not_be_the_same_patch_changes_nothing(made):
    study, cells = made
    before, _ = with_strip(study, cells, [colour(n) for n in range(len(cells))])
    study.apply(read_picture(study, 1, by_instrument(cells, 40.0), source="instrument"))
    (anchors,) = with_anchors(records.reading_rows(study)).values()
    assert anchors == before


@pytest.mark.parametrize(
    "text", ["", "{}", "[1]", '{"shot": 1, "anchors": [[1]]}', '{"shot": "k", "anchors": 5}']
)
def test_a_damaged_shot_is_no_anchor(made, text):
    study, cells = made
    with_strip(study, cells, [colour(n) for n in range(len(cells))])
    rows = [{**row, "shot": text} for row in records.reading_rows(study)]
    assert not any(with_anchors(rows).values())
