"""Random sheets of every kind, planned and ordered, held against a checker that was written apart from the planner."""

import json
import random
from itertools import pairwise
from typing import Any

import pytest

from culmo.core.chart.aids import Aids
from culmo.core.chart.kinds import KINDS
from culmo.core.chart.order import plan_order
from culmo.core.chart.plans import lay_out, plan_of
from culmo.core.chart.sheet import sheet_to_dict
from culmo.core.chart.washes import Traits
from culmo.core.paint.recipe import parse_recipe
from culmo.data import text_width_mm
from culmo.errors import CulmoError
from support.plan_checker import faults_of

NAMES = (
    "Primrose", "Rust earth", "Deep sea", "Coral", "Moss", "Night violet", "Chalk white", "Warm ochre", "Leaf", "Ash",
    "Brick with a very long name indeed",
)  # fmt: skip
STAGES = (
    "pure,mix,white,glaze",
    "pure,mix,pale,white,glaze",
    "white,pure,mix,glaze",
    "mix,glaze",
    "glaze",
    "",
)


def random_plan(seed: int) -> tuple[str, dict[str, Any]]:
    """A kind and options as they would be typed."""
    chance = random.Random(seed)
    kind = chance.choice([kind for kind in KINDS if kind.key not in ("keepers", "palette")])
    names = chance.sample(NAMES, chance.randint(3, 7))
    given: dict[str, Any] = {
        "paints": ", ".join(names[:-1]), "across": ", ".join(chance.sample(NAMES, 3)), "extra": names[-1],
        "paper": chance.choice(("A4", "A3", "A2", "9x12in", "300x300")), "title": chance.choice(("", "A sheet to try")),
        "gap_mm": chance.choice(("0", "0", "2", "4")), "split": chance.choice(("", "diagonal", "halves")),
        "second": chance.choice(("paler", "white", "dominance", "third", "same", "empty")),
        "way": chance.choice(("steps", "one", "touch")), "fade": chance.choice(("yes", "")),
        "steps": str(chance.randint(3, 7)), "wet": chance.choice(("yes", "")), "border": chance.choice(("", "free")),
        "places": str(chance.choice((6, 12, 24, 48))), "halves": chance.choice(("yes", "")),
        "rings": chance.choice(("full", "full,tint", "full,tint,white", "full,glaze", "full,opposite,dark", "tint",
            "full, with Moss 1:3, with Ash 1:6, glazed Leaf 0.3")),
        "round": chance.choice(("", "", "yes")), "hub": chance.choice(("", "", "none", "small", "middle", "large")),
        "centre": chance.choice(("empty", "all")), "shape": chance.choice(("segments", "strips", "petals")),
        "labels": chance.choice(("name", "number", "none")), "stages": chance.choice(STAGES),
        "mixing": chance.choice(("puddle", "wet", "loaded")),
        "light_first": chance.choice(("yes", "")), "clean_first": chance.choice(("yes", "")),
        "cell_mm": chance.choice(("", "", "", "20 mm", "2 x 2 in", "10 x 25")), "unit": chance.choice(("mm", "in")),
        "orientation": chance.choice(("best", "portrait", "landscape")), "marks": chance.choice(("", "", "yes")),
        "note_mm": chance.choice(("0", "0", "15")), "gutter_mm": chance.choice(("0", "0", "12")),
        "rows": "; ".join(f'"{a}", "{b}": {chance.randint(2, 9)}' for a, b in pairwise(names)),
        "even": "", "pitch_mm": chance.choice(("0", "25.4", "1 1/2 in")),
        "recipes": tuple(
            parse_recipe(text)
            for text in (f'"{names[0]}"', f'"{names[0]}" + "{names[1]}"', f'"{names[1]}" @ tint over "{names[2]}"',
                f'"{names[2]}" over "{names[0]}" over "{names[0]}" + "{names[1]}"')
        ),
    }  # fmt: skip
    return kind.key, given


@pytest.mark.long
@pytest.mark.parametrize("seed", range(60))
def test_a_random_sheet_can_be_followed(seed: int) -> None:
    kind, given = random_plan(seed)
    chance = random.Random(seed)
    traits = Traits(
        {name.casefold(): chance.uniform(20.0, 90.0) for name in NAMES},
        {name.casefold(): chance.choice((0.1, 0.5, 1.0)) for name in NAMES},
        frozenset({"chalk white"}),
    )
    try:
        sheets = lay_out(plan_of(kind, given), Aids(text_width_mm))
    except CulmoError:
        return  # said in words; other tests see to what fits
    for sheet in sheets:
        if sheet.cells:
            ordered = json.loads(json.dumps(sheet_to_dict(plan_order(sheet, None, traits))))
            assert faults_of(ordered) == [], (kind, given)
