"""Kept palettes, wanted colours: kept, taken back, renamed, read from tables."""

import pytest

from culmo.errors import CulmoError
from culmo.study import acts
from culmo.study.colour_files import read_colours
from culmo.study.palette_acts import (
    MOST_WANTED,
    Wanted,
    add_wanted,
    drop_palette,
    keep_palette,
    kept_palettes,
    set_wanted,
    wanted_lists,
)


def test_a_kept_palette_stands_with_its_reason_and_can_be_taken_back(study):
    before = study.dump()
    command = keep_palette(study, " Three ", ["Lemon", "Rose"], "plates", "clean", {"share": 0.5})
    study.apply(command)
    (palette,) = kept_palettes(study)
    assert (palette.name, palette.paints, palette.purpose, palette.reason) == (
        "Three",
        ("Lemon", "Rose"),
        "plates",
        "clean",
    )
    assert palette.reach == {"share": 0.5}
    assert len(palette.date) == 10
    assert "was kept: clean" in study.rows("events")[-1]["text"]
    drop = drop_palette(study, palette.id)
    study.apply(drop)
    assert kept_palettes(study) == []
    study.revert(drop)
    assert kept_palettes(study) == [palette]
    study.revert(command)
    assert study.dump() == before


def test_palettes_that_can_not_be_kept_are_refused(study):
    study.apply(keep_palette(study, "Two", ["Lemon", "Rose"]))
    for name, paints, words in (
        ("", ["Lemon"], "needs a name"), ("New", [], "no paint"), ("two", ["Lemon"], "already"),
        ("x" * 200, ["Lemon"], "1 to"), ("a\nb", ["Lemon"], "one line"),
    ):  # fmt: skip
        with pytest.raises(CulmoError, match=words):
            keep_palette(study, name, paints)


def test_a_renamed_paint_is_renamed_in_kept_palettes(study):
    study.apply(keep_palette(study, "Two", ["Lemon", "Rose"]))
    row = next(row for row in study.rows("paints") if row["name"] == "Rose")
    study.apply(acts.edit_paint(study, row["id"], acts.PaintEntry("Rose madder", row["codes"])))
    assert kept_palettes(study)[0].paints == ("Lemon", "Rose madder")


def test_wanted_colours_come_change_and_go(study):
    colours = [Wanted("wing", (30.0, 5.0, -20.0)), Wanted("", (60.0, 0.0, 0.0))]
    study.apply(add_wanted(study, "Beetle", colours))
    study.apply(add_wanted(study, "Beetle", [Wanted("leg", (40.0, 10.0, 20.0))]))
    found = wanted_lists(study)["Beetle"]
    assert [(c.name, c.lab) for c in found] == [
        (c.name, c.lab) for c in [*colours, Wanted("leg", (40.0, 10.0, 20.0))]
    ]
    before = study.dump()
    edited = [found[2], Wanted("shade", found[0].lab, found[0].id), Wanted("new", (10.0, 0.0, 0.0))]
    command = set_wanted(study, "Beetle", edited, [c.id for c in found])
    study.apply(command)
    assert [c.name for c in wanted_lists(study)["Beetle"]] == ["leg", "shade", "new"]
    study.revert(command)
    assert study.dump() == before


def test_lists_that_can_not_be_are_refused(study):
    with pytest.raises(CulmoError, match="needs a name"):
        add_wanted(study, " ", [Wanted("", (50.0, 0, 0))])
    with pytest.raises(CulmoError, match="no colour"):
        add_wanted(study, "A", [])
    with pytest.raises(CulmoError, match="lightness"):
        add_wanted(study, "A", [Wanted("", (150.0, 0, 0))])
    many = [Wanted("", (50.0, 0.0, 0.0))] * MOST_WANTED
    study.apply(add_wanted(study, "A", many))
    with pytest.raises(CulmoError, match="is the most"):
        add_wanted(study, "A", many[:1])
    with pytest.raises(CulmoError, match="is the most"):
        set_wanted(study, "A", [*many, many[0]], [1])


def test_wanted_colours_are_read_from_tables(tmp_path):
    path = tmp_path / "t.csv"
    path.write_text(
        "name,hex,L,a,b\nwing,#203040,,,\nleg,,40,10,20\nbad,#zz,,,\nworse,,500,0,0\n", encoding="utf-8"
    )
    good, bad = read_colours(path)
    assert [colour.name for colour in good] == ["wing", "leg"]
    assert good[1].lab == (40.0, 10.0, 20.0)
    assert [line.split(":")[0] for line in bad] == ["line 4", "line 5"]
    path.write_text("name,colour\nx,red\n", encoding="utf-8")
    with pytest.raises(CulmoError, match="names no colours"):
        read_colours(path)
    with pytest.raises(CulmoError, match="can not be read"):
        read_colours(tmp_path / "nothing.csv")
