"""`culmo mix`, `culmo choose` and `culmo compare`."""

import argparse
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from culmo.cli.loading import LearnedSource, known_study
from culmo.cli.output import output, run_told, say, write_json
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import hex_from_lab, lab_from_text
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.label import Label
from culmo.core.paint.predict import predict
from culmo.core.paint.recipe import format_recipe
from culmo.core.palette.alike import nearest_pairs
from culmo.core.palette.choose import Choice, choosing, loss_words, what_if
from culmo.core.palette.conditions import Conditions, Kinds, kinds_of, rules_of
from culmo.core.palette.lattice import Lattice, build_lattice, places_of
from culmo.core.palette.match import check_wish, nearest_and_safest
from culmo.core.palette.mixer import mixer_of, pair_table
from culmo.core.palette.opposites import opposites
from culmo.core.palette.reach import CLASSES, Measure, Table, Value, tabulating, value_of
from culmo.core.palette.search import MOST_LISTED
from culmo.core.palette.targets import MOST_EQUALS, TargetTable, by_nearness, tabulate_targets
from culmo.errors import CulmoError
from culmo.study.colour_files import read_colours
from culmo.study.file import Study
from culmo.study.own_tests import UNLABELLED, labels_in
from culmo.study.palette_acts import Wanted
from culmo.study.records import paints
from culmo.study.spreadsheet import harmless
from culmo.study.tables import write_rows


def _words(lab: Array) -> tuple[str, ...]:
    return tuple(f"{value:.2f}" for value in lab)


def _numbers(lab: Array) -> list[float]:
    return [round(float(value), 4) for value in lab]


def run_mix(options: argparse.Namespace) -> int:
    """`culmo mix`."""
    target = lab_from_text(options.target)
    check_wish(options.paints, options.count)
    known = known_study(options)
    estimate = known.estimate
    _check_mixable(known, [*options.keep, *options.avoid])
    lattice = build_lattice(mixer_of(estimate).only(known.mixable))
    found, miss, safe = nearest_and_safest(
        estimate, lattice, target, options.paints, options.count, options.keep, options.avoid
    )
    recipes = [match.recipe for match in found]
    spread = predict(estimate, recipes).dE90
    rows = [
        (
            harmless(format_recipe(match.recipe)), f"{match.away:.2f}", *_words(match.lab), hex_from_lab(match.lab),
            f"{radius:.2f}", f"{expected:.2f}", "safest" if place == safe else "",
        )
        for place, (match, radius, expected) in enumerate(zip(found, spread, miss, strict=True))
    ]  # fmt: skip
    if found[0].away > 4.0:
        say(
            f"culmo: this colour is out of reach of these paints; the nearest mix differs by {found[0].away:.1f}"
        )
    if options.json:
        mixes = [
            {
                "recipe": format_recipe(match.recipe), "lab": _numbers(match.lab), "hex": hex_from_lab(match.lab),
                "difference": round(float(match.away), 3), "dE90": round(float(radius), 3),
                "expected": round(float(expected), 3), "safest": place == safe,
            }
            for place, (match, radius, expected) in enumerate(zip(found, spread, miss, strict=True))
        ]  # fmt: skip
        facts = {"format": "culmo-mixes", "version": 1, "target": _numbers(target), "mixes": mixes}
        with output(options.out) as file:
            write_json(file, facts)
        return 0
    columns = ["recipe", "difference", "L", "a", "b", "hex", "dE90", "expected", "note"]
    with output(options.out) as file:
        file.write(write_rows(columns, rows))
    return 0


def _check_mixable(known: LearnedSource, names: Sequence[str]) -> None:
    """A paint that is only considered, or has left the box, is not mixed from."""
    mixable = {name.casefold() for name in known.mixable}
    for name in names:
        folded = name.strip().casefold()
        if folded not in mixable and folded in known.estimate.index:
            raise CulmoError(f'"{name}" is only considered, or has left the box: it is not mixed from')


def _conditions(options: argparse.Namespace) -> Conditions:
    return Conditions(
        tuple(options.keep), tuple(options.avoid), options.lightfast, options.transparent, options.single,
        options.white, options.dark, options.pairs,
    )  # fmt: skip


def _measure(options: argparse.Namespace) -> Measure:
    return Measure(options.tolerance, options.dull_darks, options.balanced)


def _labels(options: argparse.Namespace, names: Sequence[str], estimate: Estimate) -> list[Label]:
    """What is known of paints: by the study's own tests and labels; of readings alone nothing is."""
    if options.study is None:
        return [UNLABELLED] * len(names)
    with Study(options.study) as study:  # what is noticed on opening was said when its readings were read
        known = labels_in(study, paints(study, retired=True), estimate)
    return [known[name.casefold()] for name in names]


class _Box:
    """The box of a call, with its mixes."""

    def __init__(self, options: argparse.Namespace) -> None:
        known = known_study(options)
        _check_mixable(known, [*getattr(options, "keep", ()), *getattr(options, "avoid", ())])
        self.estimate: Estimate = known.estimate
        mixer = mixer_of(self.estimate).only(known.mixable)
        self.lattice: Lattice = build_lattice(mixer)
        labels = _labels(options, mixer.names, self.estimate)
        self.kinds: Kinds = kinds_of(pair_table(mixer), labels)

    @property
    def names(self) -> tuple[str, ...]:
        return self.lattice.names

    def named(self, places: Sequence[int]) -> list[str]:
        return [self.names[place] for place in places]


def run_choose(options: argparse.Namespace) -> int:
    """`culmo choose`."""
    if options.count < 1:
        raise CulmoError("at least one palette must be asked for")
    if options.size < 1:
        raise CulmoError(f"--size is {options.size}; the least is 1")
    measure, conditions = _measure(options), _conditions(options)
    box = _Box(options)
    if options.targets is not None:
        result = _choose_for_targets(box, options, conditions)
    else:
        table = run_told(tabulating(box.lattice, measure), "counting what is reached")
        value = value_of(table, measure)
        choice = _choose(value, box, options, conditions)
        result = {"measure": measure.words, **_choice_facts(box, choice, options.count)}
        for entry, places in zip(result["palettes"], choice.palettes, strict=False):
            entry |= _reach_facts(box, table, value, places, conditions)
    with output(options.out) as file:
        write_json(file, result)
    return 0


def _choose(
    value: Value, box: _Box, options: argparse.Namespace, conditions: Conditions, most: int = MOST_LISTED
) -> Choice:
    margin = options.within / 100.0
    steps = choosing(value, box.kinds, conditions, options.size, margin, options.seconds, most)
    choice = run_told(steps, "looking for the best")
    if not choice.palettes:
        raise CulmoError("time ran out before any palette was found; give more --seconds")
    return choice


def _choice_facts(box: _Box, choice: Choice, count: int) -> dict[str, Any]:
    return {
        "format": "culmo-choice",
        "version": 1,
        "size": choice.size,
        "proven": choice.proven,
        "bound": round(choice.bound, 5),
        "within": round(choice.margin, 5),
        "all_within_listed": choice.whole and len(choice.palettes) <= count,
        "found_within": len(choice.palettes),
        "sure": choice.sure_words,
        "palettes": [
            {"paints": box.named(places), "reach": round(float(worth), 5)}
            for places, worth in list(zip(choice.palettes, choice.worth, strict=True))[:count]
        ],
    }


def _reach_facts(
    box: _Box, table: Table, value: Value, places: Sequence[int], conditions: Conditions
) -> dict[str, Any]:
    change, rules = what_if(value, places), rules_of(box.kinds, conditions)
    order = [i for i in np.argsort(-change.add, kind="stable") if i not in places and change.add[i] > 0]
    gains = [i for i in order if rules.lets(places, into=int(i))][:3]
    shares = table.shares(places)
    return {
        "loses": loss_words(table, table.reached(table.reach(places))).removeprefix("loses "),
        "shares": {
            CLASSES[i]: round(float(share), 4) for i, share in enumerate(shares) if np.isfinite(share)
        },
        "without": {box.names[p]: round(float(c), 5) for p, c in zip(places, change.drop, strict=True)},
        "with": {box.names[int(i)]: round(float(change.add[i]), 5) for i in gains},
        "swaps": [
            {"out": box.names[swap.out], "in": box.names[swap.into], "change": round(swap.change, 5)}
            for swap in change.best_swaps(rules=rules)
        ],
    }


def _choose_for_targets(box: _Box, options: argparse.Namespace, conditions: Conditions) -> dict[str, Any]:
    wanted, bad = read_colours(options.targets)
    for line in bad:
        say(f"culmo: {options.targets.name}, {line}; left out")
    if not wanted:
        raise CulmoError(f'"{options.targets.name}" holds no colour that can be read')
    colours = np.array([colour.lab for colour in wanted])
    table = tabulate_targets(box.lattice, colours, options.tolerance)
    choice = _choose(table.value, box, options, conditions, MOST_EQUALS)
    order = by_nearness(table, choice.palettes, choice.worth)
    facts = _choice_facts(box, _reordered(choice, order), options.count)
    for entry, at in zip(facts["palettes"], order, strict=False):
        entry |= _target_facts(table, wanted, choice.palettes[at])
    measure = (
        f"{len(wanted)} wanted colours, each reached when a mix lies within {options.tolerance:g} CIEDE2000"
    )
    return {"measure": measure, **facts}


def _reordered(choice: Choice, order: Sequence[int]) -> Choice:
    from dataclasses import replace

    return replace(
        choice, palettes=tuple(choice.palettes[i] for i in order), worth=tuple(choice.worth[i] for i in order)
    )


def _target_facts(table: TargetTable, wanted: Sequence[Wanted], places: Sequence[int]) -> dict[str, Any]:
    away = table.nearest(places)
    missed = [
        {"name": colour.name or hex_from_lab(np.array(colour.lab)), "difference": round(float(distance), 2)}
        for colour, distance in zip(wanted, away, strict=True)
        if distance > table.tolerance
    ]
    return {
        "hit": len(wanted) - len(missed),
        "of": len(wanted),
        "mean_difference": round(float(away.mean()), 3),
        "missed": missed,
    }


def _most_alike(box: _Box, places: Sequence[int]) -> str:
    """The two paints of a palette that repeat each other most."""
    found = nearest_pairs(box.lattice.mixer.only(box.named(places)), 1)
    return f"{found[0].first} and {found[0].second} ({found[0].overall:.1f})" if found else ""


def _greyest_pair(box: _Box, places: Sequence[int]) -> str:
    """The two paints of a palette that make the truest grey, with the parts and the chroma that is left."""
    mixer = box.lattice.mixer.only(box.named(places))
    found = (
        [entry for own in opposites(mixer, pair_table(mixer)).values() for entry in own]
        if len(places) > 1
        else []
    )
    if not found:
        return ""
    best = min(found, key=lambda entry: entry.chroma)
    return f"{best.parts[0]} {best.paint} : {best.parts[1]} {best.partner} ({best.chroma:.1f})"


@dataclass(frozen=True)
class _Compared:
    """A palette beside others.

    Attributes
    ----------
    paints : list of str
    reach : float
    shares : dict of hue to float, where there is something of it
    only : int, how many mixes no other reaches
    alike, grey, loses : str, in words
    """

    paints: list[str]
    reach: float
    shares: dict[str, float]
    only: int
    alike: str
    grey: str
    loses: str


def palette_names(text: str) -> list[str]:
    """The paints of a palette as they were typed, with commas between.

    Parameters
    ----------
    text : str

    Raises
    ------
    CulmoError
        where there are none
    """
    names = [name for name in (part.strip() for part in text.split(",")) if name]
    if not names:
        raise CulmoError("a palette without paints tells nothing")
    return names


def _compared(box: _Box, measure: Measure, palettes: Sequence[Sequence[int]]) -> list[_Compared]:
    table = run_told(tabulating(box.lattice, measure), "counting what is reached")
    value = value_of(table, measure)
    reached = [table.reached(table.reach(places)) for places in palettes]
    found = []
    for number, (places, mine) in enumerate(zip(palettes, reached, strict=True)):
        others = np.any(
            [other for place, other in enumerate(reached) if place != number] or [~mine & False], axis=0
        )
        shares = table.shares(places)
        found.append(
            _Compared(
                box.named(places), value.of(places),
                {word: float(shares[i]) for i, word in enumerate(CLASSES) if table.counts[i]},
                int((mine & ~others).sum()), _most_alike(box, places), _greyest_pair(box, places),
                loss_words(table, mine).removeprefix("loses "),
            )
        )  # fmt: skip
    return found


def run_compare(options: argparse.Namespace) -> int:
    """`culmo compare`."""
    measure = _measure(options)
    asked = [palette_names(text) for text in options.palette]
    box = _Box(options)
    palettes = []
    for text, names in zip(options.palette, asked, strict=True):
        places = places_of(box.names, names)
        if len(places) < len(names):
            missing = next(name for name in names if not places_of(box.names, [name]))
            raise CulmoError(f'palette "{text}": there is no paint "{missing}"')
        palettes.append(sorted(set(places)))
    found = _compared(box, measure, palettes)
    say(f"culmo: {measure.words}")
    with output(options.out) as file:
        if options.json:
            write_json(file, {"format": "culmo-compare", "version": 1, "measure": measure.words,
                              "palettes": [_compared_facts(one) for one in found]})  # fmt: skip
        else:
            titles = [harmless(", ".join(one.paints)) for one in found]
            file.write(write_rows(["what", *titles], _compared_rows(found)))
    return 0


def _compared_facts(one: _Compared) -> dict[str, Any]:
    return {
        "paints": one.paints,
        "reach": round(one.reach, 5),
        "shares": {word: round(share, 4) for word, share in one.shares.items()},
        "only": one.only,
        "most_alike": one.alike,
        "greyest_pair": one.grey,
        "loses": one.loses,
    }


def _compared_rows(found: Sequence[_Compared]) -> list[list[object]]:
    rows: list[list[object]] = [["paints", *(len(one.paints) for one in found)]]
    rows.append(["reach", *(f"{one.reach:.4f}" for one in found)])
    rows += [[word, *(f"{one.shares[word]:.4f}" for one in found)] for word in found[0].shares]
    for number, one in enumerate(found):
        own = [one.only if place == number else "" for place in range(len(found))]
        rows.append([f"only palette {number + 1}", *own])
    rows.append(["most alike", *(one.alike for one in found)])
    rows.append(["greyest pair", *(one.grey for one in found)])
    rows.append(["loses", *(one.loses for one in found)])
    return rows
