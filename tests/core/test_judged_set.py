"""A set judged as a practised painter would: by boxes whose faults are known."""

import numpy as np
import pytest

from culmo.core.paint.doubts import doubts
from culmo.core.paint.estimate import learn
from culmo.core.paint.label import label_of
from culmo.core.paint.pigments import typical_readings
from culmo.core.palette.judged import judge
from culmo.core.palette.missing import fullness, reach_of, table_reach
from culmo.core.palette.mixer import mixer_of, pair_table
from culmo.core.palette.roles import fill_roles, find_roles, reference_scores
from culmo.data import pigment_table

TABLE = pigment_table()
FULL = (
    "PY175",
    "PY154",
    "PR255",
    "PV19",
    "PB29",
    "PB15:3",
    "PG7",
    "PY43",
    "PR101",
    "PBr7",
    "PV55",
    "PO73",
    "PR122",
)


def verdict_of(box: dict[str, str], wished: dict[str, str] | None = None, claims=None, twins=()):
    both = box | (wished or {})
    estimate = learn(list(both), [], typical_readings(list(both.items()), [], TABLE))
    mixer = mixer_of(estimate)
    usual = {code: code for code in FULL}
    reference_table = pair_table(
        mixer_of(learn(list(usual), [], typical_readings(list(usual.items()), [], TABLE)))
    )
    reference = reach_of(
        np.concatenate([reference_table.lab.reshape(-1, 3), reference_table.alone.reshape(-1, 3)])
    )
    labels = {
        name.casefold(): label_of(codes, TABLE, (claims or {}).get(name)) for name, codes in both.items()
    }
    cautions = {
        name: doubts(name, codes, labels[name.casefold()], {o: c for o, c in box.items() if o != name})
        for name, codes in box.items()
    }
    inside = mixer.only(list(box))
    filled = fill_roles(find_roles(pair_table(inside)), reference_scores(reference_table))
    table = pair_table(mixer)
    return (
        judge(table, list(box), list(wished or {}), labels, cautions, filled, reference, TABLE, twins),
        table,
        reference,
    )


def test_what_fades_is_weak_and_is_replaced_by_what_keeps_and_looks_like_it():
    verdict, *_ = verdict_of(
        {"Lemon": "PY175", "Crimson": "PR83", "Blue": "PB29"}, {"Rubine": "PR264", "Sky": "PB35"}
    )
    (weak,) = verdict.weak
    assert weak.name == "Crimson" and "PR83" in weak.reasons[0]
    assert "PR264" in weak.codes  # what painters take for it
    for code in weak.codes:
        assert TABLE[code].lightfastness in ("excellent", "good")
        assert TABLE[code].family in ("red", "rose", "violet")
    assert weak.considered == "Rubine"


def test_a_misnamed_an_opaque_and_a_double_one_are_weak_and_say_why():
    box = {
        "Cobalt blue": "PB15:3 PW6",
        "Yellow": "PY35",
        "Scarlet": "PR255",
        "Scarlet too": "PR255",
        "Sea": "PB15:3",
    }
    verdict, *_ = verdict_of(box, twins=[("Scarlet", "Scarlet too")])
    weak = {entry.name: " ".join(entry.reasons) for entry in verdict.weak}
    assert "Cobalt" in weak["Cobalt blue"]
    assert "covers" in weak["Yellow"]
    assert "one of the two is enough" in weak["Scarlet too"] and "Scarlet" not in weak


def test_a_sound_box_has_nothing_weak_and_is_clean():
    verdict, *_ = verdict_of({code: code for code in FULL})
    assert verdict.weak == ()
    assert verdict.character == "Clean in every hue."
    assert any("Warm blue: PB29" in words for words in verdict.well)


def test_a_muted_box_is_told_for_what_it_is():
    verdict, *_ = verdict_of({"Ochre": "PY43", "Red earth": "PR101", "Umber": "PBr7", "Green earth": "PG23"})
    assert verdict.quiet and verdict.lacks
    assert verdict.character.startswith("Quiet ") and "no clean" in verdict.character
    assert "violets" in verdict.lacks or "violet-blues" in verdict.lacks


def test_each_considered_paint_has_its_own_worth_by_trying_it():
    box = {"Lemon": "PY175", "Scarlet": "PR255", "Ochre": "PY43"}
    wished = {"Blue": "PB29", "Other lemon": "PY3", "Rose": "PV19"}
    verdict, table, reference = verdict_of(box, wished)
    assert [worth.name for worth in verdict.worth][-1] == "Other lemon"
    assert verdict.worth[0].name == "Blue"
    index = {name: place for place, name in enumerate(table.names)}
    own = [index[name] for name in box]
    before = fullness(table_reach(table, own), reference)
    for worth in verdict.worth:
        gain = fullness(table_reach(table, [*own, index[worth.name]]), reference) - before
        assert worth.gain == pytest.approx(gain)
        tried = {
            name: fullness(
                table_reach(table, [*(index[o] for o in box if o != name), index[worth.name]]), reference
            )
            - before
            for name in box
        }
        assert worth.then == pytest.approx(max(tried.values()))
        assert tried[worth.instead_of] == pytest.approx(worth.then)
