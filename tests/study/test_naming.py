"""A paint's new name reaches everything that names it, and nothing that does not."""

import json
import re
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culmo.core.chart.aids import Aids
from culmo.core.chart.kinds import KIND_KEYS, KINDS
from culmo.core.chart.options import OnePaint, SomePaints, SomeRecipes
from culmo.core.chart.order import plan_order
from culmo.core.chart.page import Page
from culmo.core.chart.renaming import renamed_sheet
from culmo.core.chart.sheet import sheet_to_dict
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix, parse_recipe
from culmo.errors import CulmoError
from culmo.study import acts, box_acts, guess_acts, paint_acts, palette_acts
from culmo.study.incoming import bring_in
from culmo.study.records import sheet_record
from culmo.study.schema import TABLES
from support.builders import FIVE, laid_out, make_sheet

# the painter's own words, and what was done under the name of that day
OWN_WORDS = {
    ("events", "text"), ("sheets", "title"), ("notes", "text"), ("cells", "note"), ("readings", "note"),
    ("palettes", "purpose"), ("palettes", "reason"), ("strokes", "note"),
}  # fmt: skip


@pytest.fixture
def rich(study):
    """A study with a sheet of each kind, a patch, wet and dry readings, palettes, a guess."""
    recipes = (parse_recipe("Rose @ tint over Lemon"), mix(["Ochre", "Rose"], [2, 1]))
    given = {
        "paints": FIVE[:3], "across": FIVE[1:], "second": "third", "extra": "Rose", "rings": ("full", "white"),
        "recipes": recipes, "rows": (("Rose", "Lemon", 5), ("Ochre", "Rose", 0)), "paper": "A3",
    }  # fmt: skip
    for kind in KIND_KEYS:
        for split in ("", "diagonal"):
            # a strip of three tells too little
            chosen = given | ({"paints": FIVE} if kind == "strip" else {})
            for sheet in laid_out(kind, aids=Aids(keepers=recipes), **chosen, split=split, title=f"A {kind}"):
                study.apply(acts.add_sheet(study, plan_order(sheet)))
    for sheet_id in (1, 2):
        for entry in sheet_record(study, sheet_id).cells[:4]:
            study.apply(paint_acts.paint_cell(study, sheet_id, entry.id))
            study.apply(acts.read_cell(study, sheet_id, entry.id, (50.0, 1.0, 2.0)))
    reach = {"share": 0.5, "list": "", "of": list(FIVE), "measure": "all"}
    study.apply(palette_acts.keep_palette(study, "Three", FIVE[:3], "a beetle", "it holds", reach))
    study.apply(guess_acts.add_guess(study, "parts", mix(["Lemon", "Rose"], [1, 2]), (1, 2), 2.0))
    for pair in (("Ultramarine", "Ochre"), ("Viridian", "Rose")):
        study.apply(guess_acts.add_guess(study, "paints", mix(pair), pair, 2.0))
    study.apply(
        guess_acts.add_draw(study, mix(["Ultramarine", "Lemon"]), np.array([40.0, 1, 2]), np.zeros(3))
    )
    study.apply(box_acts.add_box(study, "Tin", box_acts.BoxShape(2, 3, {}), [1, 2]))
    return study


def left_behind(study, name):
    """Where a name stands as a word of its own, or cut short at its end."""
    word = re.compile(rf"(?<!\w){re.escape(name)}(?!\w)", re.IGNORECASE)
    return [
        (table, column, row["id"], value)
        for table in TABLES
        for row in study.rows(table)
        for column, value in row.items()
        if (table, column) not in OWN_WORDS and isinstance(value, str) and word.search(value)
    ]


@pytest.mark.long
@pytest.mark.parametrize("name", FIVE)
def test_no_column_of_a_rich_study_holds_the_old_name(rich, name):
    assert {(table, column) for table, column, *_ in left_behind(rich, name)} >= {
        ("cells", "recipe"), ("sheets", "layout"), ("palettes", "reach"), ("readings", "recipe"),
    }  # fmt: skip
    before = rich.dump()
    row = next(row for row in rich.rows("paints") if row["name"] == name)
    command = acts.edit_paint(rich, row["id"], acts.PaintEntry("Zinnober 5", row["codes"]))
    rich.apply(command)
    assert left_behind(rich, name) == []
    for sheet in rich.rows("sheets"):
        sheet_record(rich, sheet["id"])
    rich.revert(command)
    assert rich.dump() == before


def test_what_is_written_on_a_sheet_bears_the_new_name_and_stands_where_it_did(study):
    sheet = make_sheet(title="")
    texts = dict(zip(FIVE, ("Lemon", "Rose, Ochre", "rose", "Ros…", "5"), strict=True))
    labels = tuple(replace(label, text=texts[label.text]) for label in sheet.labels)
    settings = {**sheet.settings, "labels": list(texts.values())}  # as earlier versions kept them
    study.apply(acts.add_sheet(study, replace(sheet, labels=labels, settings=settings)))
    study.apply(acts.add_paint(study, acts.PaintEntry("Rose madder")))
    before = sheet_record(study, 1).sheet
    study.apply(acts.edit_paint(study, 2, acts.PaintEntry("Permanent carmine")))
    after = sheet_record(study, 1).sheet
    assert [(label.at_mm, label.angle_deg) for label in after.labels] == [
        (label.at_mm, label.angle_deg) for label in before.labels
    ]
    said = {label.text for label in after.labels} - {label.text for label in before.labels}
    assert said == {"Permanent carmine, Ochre", "Permanent carmine"}  # "Ros…" may be of either
    assert after.settings["labels"] == ["Lemon", "Rose, Ochre", "Permanent carmine", "Ros…", "5"]
    assert [cell.outline_mm for cell in after.cells] == [cell.outline_mm for cell in before.cells]
    steps = [step["recipe"] for step in after.work if "recipe" in step]
    assert "Permanent carmine" in steps and "Rose" not in steps


def test_a_name_inside_another_and_settings_that_are_no_names_stay():
    data = sheet_to_dict(make_sheet(("best", "Rose", "Rose madder")))
    other = renamed_sheet(data, "best", "grid", ["best", "Rose", "Rose madder"])
    assert (other["kind"], other["settings"]["orientation"]) == ("grid", "best")
    assert other["settings"]["paints"] == ["grid", "Rose", "Rose madder"]
    other = renamed_sheet(data, "Rose", "Pink", ["best", "Rose", "Rose madder"])
    assert {"Rose madder", "Pink", "best"} <= {label["text"] for label in other["labels"]}
    cut = {**data, "labels": [{**data["labels"][0], "text": "Rose mad…"}]}
    assert renamed_sheet(cut, "Rose madder", "A longer name", [])["labels"][0]["text"] == "A longer…"


@given(st.sampled_from(FIVE), st.text("ab (+:@\"'\\.é", min_size=1, max_size=20))
def test_a_sheet_that_is_renamed_there_and_back_is_the_same(old, new):
    data = json.loads(json.dumps(sheet_to_dict(make_sheet(FIVE[:3]))))
    try:
        acts.PaintEntry(new)
    except CulmoError:
        return
    new = new.strip()
    there = renamed_sheet(data, old, new, [new, *FIVE])
    assert renamed_sheet(there, new, old, [new, *FIVE])["cells"] == data["cells"]


def test_a_sheet_of_unknown_paints_is_not_kept_and_an_imported_one_brings_them(study, tmp_path):
    sheet = make_sheet(("Lemon", "Nobody", "Rose"))
    for act in (acts.add_sheet, lambda study, sheet: acts.add_sheets(study, [sheet, sheet])):
        with pytest.raises(CulmoError, match='"Nobody", which is not in the box'):
            act(study, sheet)
    study.apply(acts.add_sheet(study, make_sheet(FIVE[:3])))
    with pytest.raises(CulmoError, match="Nobody"):
        acts.change_sheet(study, 1, sheet)
    path = tmp_path / "sheet.json"
    path.write_text(json.dumps(sheet_to_dict(sheet)))
    said = []
    bring_in(study, path, said.append)
    assert said == ["sheet.json: 1 new paint came with its recipes: Nobody"]
    assert len(study.rows("sheets")) == 2
    study.apply(acts.add_readings(study, [acts.Incoming(Reading(mix(["nobody"]), (50.0, 1.0, 2.0)))], "x"))


@pytest.mark.parametrize("kind", KINDS, ids=KIND_KEYS)
def test_every_option_that_may_name_a_paint_is_renamed_by_its_form(kind):
    """An option that a later kind brings is not forgotten: its form says what it holds."""
    for name, own in {**kind.options.described(), **Page.described()}.items():
        value = {OnePaint: "Rose", SomePaints: ["Lemon", "Rose"], SomeRecipes: ["Lemon + Rose @ tint"]}.get(
            type(own.form), own.form.plain(own.default)
        )
        other = renamed_sheet({"settings": {name: value}}, "Rose", "Pink")["settings"][name]
        assert json.dumps(other) == json.dumps(value).replace("Rose", "Pink")


def test_what_comes_in_with_its_paints_is_one_act_or_nothing(study, tmp_path):
    """A file that can not be taken leaves no paints behind; one that can is taken back as a whole."""
    before = study.dump()
    sheet, readings, long = tmp_path / "sheet.json", tmp_path / "readings.csv", tmp_path / "long.csv"
    sheet.write_text(json.dumps(sheet_to_dict(make_sheet(("Lemon", "Nobody", "Rose")))))
    readings.write_text("recipe,L,a,b\nNobody + Someone,50,1,2\n")
    long.write_text(f"recipe,L,a,b\nNobody,50,1,2\n{'N' * 200},50,1,2\n")
    for path in (sheet, readings):
        commands = []

        def do(command, commands=commands):
            commands.append(command)
            study.apply(command)

        bring_in(study, path, lambda _: None, do)
        assert len(commands) == 1
        assert any(row["name"] == "Nobody" for row in study.rows("paints"))
        study.revert(commands[0])
        assert study.dump() == before
    said = []
    with pytest.raises(CulmoError):
        bring_in(study, long, said.append)
    assert study.dump() == before
    assert not any("came with" in text for text in said)
