"""The pages of advice for 34 and for 60 paints, after the table of mixes is made: what a painter waits for."""

from collections.abc import Callable, Sequence

import numpy as np

from culmo.core.paint.depth import depths
from culmo.core.paint.estimate import Estimate, learn
from culmo.core.paint.grain import learn_grains
from culmo.core.paint.label import Label, label_of
from culmo.core.paint.pigments import typical_readings
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import mix
from culmo.core.palette.finding import Wish, advise
from culmo.core.palette.guess import Material, Truth, ask, draw, mixed
from culmo.core.palette.ideas import find_ideas
from culmo.core.palette.lattice import Lattice, build_lattice
from culmo.core.palette.mixer import mixer_of, pair_table
from culmo.core.palette.reach import USUAL, tabulate
from culmo.core.palette.subjects import serving
from culmo.core.palette.swap import turned
from culmo.core.steps import run_through
from culmo.data import pigment_table
from culmo.desk.rooms.weigh.pairs_model import TOPICS
from tools.benches import show
from tools.benches.speed import best_of

# seconds for a page; what takes longer for sixty paints shows its progress and can be stopped
_PAGE = {34: 0.3, 60: 1.0}
_WITH_PROGRESS = {34: 1.0, 60: 3.0}


def _box(count: int) -> tuple[Estimate, list[Label]]:
    table = pigment_table()
    sure = [code for code, entry in table.items() if entry.sure == "good"]
    codes = [sure[i] for i in np.linspace(0, len(sure) - 1, count).round().astype(int)]
    names = [f"{code} {place}" for place, code in enumerate(codes)]
    coded = list(zip(names, codes, strict=True))
    estimate = learn(names, [], typical_readings(coded, [], table))
    return estimate, [label_of(code, table) for code in codes]


def _readings(lattice: Lattice, rng: np.random.Generator, count: int) -> list[Reading]:
    names, found = lattice.names, []
    for _ in range(count):
        recipe = mix(
            [names[i] for i in rng.choice(len(names), 2, replace=False)],
            [2, 1],
            float(rng.choice([1, 0.5, 0.2])),
        )
        L, a, b = (float(v) for v in mixed(lattice.mixer, recipe) + rng.normal(0, 1, 3))
        found.append(Reading(recipe, (min(max(L, 0.0), 100.0), a, b)))
    return found


def _pages(count: int) -> bool:
    estimate, labels = _box(count)
    mixer = mixer_of(estimate)
    lattice, pairs, rng = build_lattice(mixer), pair_table(mixer), np.random.default_rng(1)
    by_name = {name.casefold(): label for name, label in zip(mixer.names, labels, strict=True)}
    grains = learn_grains(estimate, [], lambda name: by_name[name].grain)
    readings = _readings(lattice, rng, 300)
    painted = [Truth(reading.recipe, np.array(reading.lab)) for reading in readings]
    material = Material(lattice, frozenset(by_name), painted)
    table = tabulate(lattice, USUAL)
    few, other = [0, 5, 9, 14, 20], [0, 5, 9, 14, 21]

    def topic(kinds: Sequence[str]) -> Callable[[], object]:
        return lambda: find_ideas(estimate, mixer, pairs, lattice, grains, kinds)

    work: dict[str, Callable[[], object]] = {
        f"pairs, {one.key}": topic(one.kinds) for one in TOPICS if one.kinds
    }
    work |= {
        "find": lambda: advise(estimate, lattice, np.array([48.0, -16.0, 30.0]), Wish(), by_name),
        "swap, before and after": lambda: turned(
            table, table.reached(table.reach(few)), table.reached(table.reach(other))
        ),
        "a question": lambda: ask(material, rng),
        "a pair drawn": lambda: draw(lattice, [], rng),
        "the depth of 300 washes": lambda: depths(estimate, readings),
    }
    fine = True
    for what, page in work.items():
        page()
        fine &= show(f"{count} paints: {what}", best_of(3, page), _PAGE[count], " s")
    taken = best_of(2, lambda: run_through(serving(lattice)))
    return show(f"{count} paints: six subjects, with progress", taken, _WITH_PROGRESS[count], " s") and fine


def run() -> bool:
    """All figures."""
    return all([_pages(34), _pages(60)])
