"""Speeds of learning, predicting and drawing, against a yardstick of plain NumPy in the same run."""

import itertools
import os
import subprocess
import sys
import time
import warnings
from collections.abc import Callable
from pathlib import Path

import numpy as np
from threadpoolctl import threadpool_info, threadpool_limits

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.paint.estimate import learn
from culmo.core.paint.optics import predict_reflectance
from culmo.core.paint.predict import batch_for
from culmo.core.paint.recipe import mix
from support.paints import make_painter
from tools.benches import show


def best_of(count: int, work: Callable[[], object]) -> float:
    """The least of several timings, in seconds."""
    times = []
    for _ in range(count):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def yardstick() -> float:
    """A fixed piece of NumPy work: how fast this machine is just now, in seconds."""
    rng = np.random.default_rng(0)
    a = rng.normal(size=(700, 700))

    @threadpool_limits.wrap(limits=1)
    def work() -> None:
        for _ in range(3):
            np.linalg.solve(a @ a.T + 700 * np.eye(700), a)
        np.exp(rng.normal(size=1_000_000)).sum()

    return best_of(3, work)


_ALONE = """
from support.paints import make_painter
from culmo.core.paint.estimate import learn
import itertools, time
from culmo.core.paint.recipe import mix
painter = make_painter(24, seed=1)
names = [paint.name for paint in painter.paints]
pairs = [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.2)]
readings = painter.cards() + [painter.read(recipe) for recipe in pairs[:300]]
times = []
for _ in range(2):
    start = time.perf_counter()
    learn(names, readings)
    times.append(time.perf_counter() - start)
print(min(times))
"""


def _learning_with(threads: str) -> float:
    """Seconds that a program of its own takes to learn, with so many threads set from outside; none where empty."""
    env = {key: value for key, value in os.environ.items() if not key.endswith("_NUM_THREADS")}
    env["PYTHONPATH"] = str(Path(__file__).resolve().parents[2] / "tests")
    if threads:
        env["OPENBLAS_NUM_THREADS"] = threads
    done = subprocess.run([sys.executable, "-c", _ALONE], env=env, capture_output=True, text=True, check=True)
    return float(done.stdout)


def _threads() -> bool:
    """Whether learning takes as long as installed as with one thread set from outside."""
    started = ", ".join(str(pool["num_threads"]) for pool in threadpool_info())
    said = os.environ.get("OPENBLAS_NUM_THREADS", "")
    print(f"     the libraries begin with {started} threads ({f'{said} set' if said else 'nothing is set'})")
    pairs = [(_learning_with(""), _learning_with("1")) for _ in range(4)]  # in turns: the machine has moods
    installed, one = (min(times) for times in zip(*pairs, strict=True))
    return show("learning as installed, beside one thread set from outside", installed / one, 1.3)


def _library_loop(reflectance: np.ndarray) -> float:
    """Seconds a colour for a loop, sample by sample, over a public library's functions."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour

        shape = colour.SpectralShape(380, 730, 10)
        observer = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape)
        light = colour.SDS_ILLUMINANTS["D65"].copy().align(shape)
        wavelengths = np.arange(380, 731, 10)

        def work() -> None:
            for row in reflectance:
                sd = colour.SpectralDistribution(dict(zip(wavelengths, row, strict=True)))
                xyz = colour.sd_to_XYZ(sd, observer, light, method="Integration") / 100.0
                colour.XYZ_to_Lab(xyz)

        return best_of(2, work) / len(reflectance)


def run() -> bool:
    """All speeds."""
    fine = _threads()
    unit = yardstick()
    print(f"     yardstick {unit:.3f} s")
    painter = make_painter(24, seed=1)
    names = [paint.name for paint in painter.paints]
    pairs = [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.2)]
    readings = painter.cards() + [painter.read(recipe) for recipe in pairs[:300]]
    cold = best_of(2, lambda: learn(names, readings))
    earlier = learn(names, readings)
    more = [*readings, painter.read(pairs[301])]
    warm = best_of(2, lambda: learn(names, more, earlier=earlier))
    print(
        f"     learning 24 paints from 72 card readings and 300 mixes: {cold:.2f} s; one more reading: {warm:.2f} s"
    )
    fine &= show("learning from nothing", cold, 1.5, " s")
    fine &= show("learning from nothing, in yardsticks", cold / unit, 12)
    fine &= show("one more reading, as a share of learning from nothing", warm / cold, 0.7)

    many = [f"P{i}" for i in range(48)]
    estimate = learn(many, [])
    parts = ((1, 1), (1, 2), (2, 1), (1, 3), (3, 1), (1, 5), (5, 1))
    asked = [
        mix(pair, amounts, wash)
        for pair in itertools.combinations(many, 2)
        for amounts in parts
        for wash in (1.0, 0.5, 0.2)
    ]
    batch = batch_for(estimate, asked)
    optics = estimate.layout.optics(estimate.theta)
    taken = best_of(5, lambda: lab_from_reflectance(predict_reflectance(optics, batch)))
    print(f"     {len(asked)} colours of 48 paints in {taken:.3f} s")
    fine &= show("48 paints, all pairs at 7 ratios and 3 washes", taken, 0.15, " s")
    each = _library_loop(predict_reflectance(optics, batch)[:400])
    ratio = each / (taken / len(asked))
    print(f"     {ratio:.0f} times as fast as a loop over a public library's functions")
    return show("a loop over the library, at least 200 times slower: 200 / ratio", 200 / ratio, 1.0) and fine
