"""What the Weigh room works out: tables, proofs, what-ifs, mixes; and how the map is drawn."""

import os
import time
from collections.abc import Callable

import numpy as np

from culmo.core.palette.choose import SIZES, what_if
from culmo.core.palette.lattice import Lattice, build_lattice
from culmo.core.palette.match import nearest_recipes
from culmo.core.palette.reach import Measure, Value, tabulate, value_of
from culmo.core.palette.search import PROVEN_AT, search, searching
from culmo.core.palette.targets import tabulate_targets
from support.boxes import make_mixer
from tools.benches import show
from tools.benches.speed import best_of, yardstick

# seconds: building the tables, proving one size with tables at hand or not
_LIMITS = {24: (1.0, 1.0), 48: (4.0, 5.0)}


def _timed(work: Callable[[], object]) -> tuple[float, object]:
    start = time.perf_counter()
    result = work()
    return time.perf_counter() - start, result


def _proofs(count: int, unit: float) -> bool:
    building, proving = _LIMITS[count]
    mixer = make_mixer(count, 1)
    tabulate(build_lattice(make_mixer(4, 0)))  # SciPy's trees are loaded once
    made = []

    def build() -> None:
        made.append(tabulate(build_lattice(mixer)))

    seconds = best_of(2, build)
    value = value_of(made[-1], Measure())
    fine = show(f"tables of {count} paints", seconds, building, " s")
    fine &= show(f"tables of {count} paints, in yardsticks", seconds / unit, 12.0 if count == 24 else 40.0)
    for size in SIZES:
        taken = _proven_after(value, size)
        fine &= show(
            f"{count} paints, the best {size} proven, tables included", seconds + taken, proving, " s"
        )
        taken, found = _timed(lambda size=size: search(value, size))
        assert found.proven, "a default search must end with proof"
        near = f"{len(found.palettes)} within {100 * found.margin:.2g} points"
        print(f"     proof and all near ties {taken:.2f} s: {near}")
    return _what_ifs(value, count) and fine


def _proven_after(value: Value, size: int) -> float:
    """Seconds until the best is proven; the listing of near ties comes after that."""
    start = time.perf_counter()
    for share in searching(value, size):
        if share >= PROVEN_AT:
            break
    return time.perf_counter() - start


def _what_ifs(value: Value, count: int) -> bool:
    paints = list(range(8))
    return show(f"all what-ifs of eight of {count}", best_of(5, lambda: what_if(value, paints)), 0.02, " s")


def _hard(value_table: Lattice) -> bool:
    measure = Measure(2.5, 1.0, True)
    value = value_of(tabulate(value_table, measure), measure)
    taken, found = _timed(lambda: search(value, 6, seconds=3.0))
    gap = 100 * (found.bound - found.worth[0])
    print(
        f"     a harder measure (balanced, tolerance 2.5): proven {found.proven}, bound {gap:.2f} points above"
    )
    return show("a harder measure ends in the time given (3 s)", taken, 5.0, " s")


def _mixes() -> bool:
    mixer = make_mixer(24, 1)
    rng = np.random.default_rng(0)
    lattice = build_lattice(mixer)
    targets = lattice.lab.reshape(-1, 3)[rng.integers(0, lattice.lab.size // 3, 8)].astype(float)
    cold = best_of(1, lambda: nearest_recipes(build_lattice(mixer), targets[0]))
    fine = show("mix over 24 paints, three at a time, cold (without learning)", cold, 2.0, " s")
    worst = max(best_of(2, lambda t=t: nearest_recipes(lattice, t)) for t in targets)
    fine &= show("mix over 24 paints, three at a time, warm", worst, 0.3, " s")
    wanted = np.column_stack([rng.uniform(20, 90, 200), rng.uniform(-40, 40, (200, 2))])
    taken = best_of(1, lambda: tabulate_targets(lattice, wanted))
    return show("two hundred wanted colours of 24 paints", taken, 3.0, " s") and fine


def _map() -> bool:
    """Frames of the map while it is panned, 20,000 points at 1280 x 800."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import QPointF
    from PySide6.QtGui import QImage

    from culmo.desk.app import make_app
    from culmo.desk.rooms.weigh.map_model import Points
    from culmo.desk.rooms.weigh.map_view import MapView

    make_app()
    lattice = build_lattice(make_mixer(24, 1))
    lab = lattice.lab.reshape(-1, 3)[:: lattice.lab.size // 3 // 20_000][:20_000].astype(float)
    nothing = np.zeros(len(lab), dtype=bool)
    rgb = np.random.default_rng(0).integers(0, 256, (len(lab), 3)).astype(np.uint8)
    recipe = lattice.recipe(0, 0)
    view = MapView()
    view.resize(760, 560)
    view.show_points(
        Points(lab, rgb, nothing, nothing, np.empty((0, 2), dtype=int), lambda _: recipe, lambda _: "")
    )
    image = QImage(view.size(), QImage.Format.Format_ARGB32_Premultiplied)

    def frame() -> None:
        view.middle += QPointF(0.4, 0.2)
        view.render(image)

    frame()
    seconds = best_of(12, frame)
    print(f"     {1.0 / seconds:.0f} frames a second")
    return show("a frame of the map with 20,000 points", seconds, 1 / 30, " s")


def run() -> bool:
    """All figures."""
    unit = yardstick()
    fine = _proofs(24, unit)
    fine &= _proofs(48, unit)
    fine &= _hard(build_lattice(make_mixer(24, 1)))
    fine &= _mixes()
    return _map() and fine
