"""What the Box room works out for sixty paints: no pause that can be felt."""

import numpy as np

from culmo.core.palette.alike import alike_pairs
from culmo.core.palette.arrange import arrange
from culmo.core.palette.mixer import Mixer, pair_table
from culmo.core.palette.opposites import opposites
from culmo.core.palette.roles import find_roles
from culmo.data import typical_curves
from tools.benches import show
from tools.benches.speed import best_of, yardstick


def sixty() -> Mixer:
    """Sixty paints: fifty pigments as typically seen, and ten of them from another maker."""
    curves = list(typical_curves().items())[:50]
    rng = np.random.default_rng(5)
    names = [code for code, _ in curves] + [f"{code} again" for code, _ in curves[:10]]
    K = np.array(
        [pair[0] for _, pair in curves] + [pair[0] * rng.uniform(0.97, 1.03) for _, pair in curves[:10]]
    )
    S = np.array([pair[1] for _, pair in curves] + [pair[1] for _, pair in curves[:10]])
    grounds = np.stack([np.full(36, 0.9), np.full(36, 0.03)])
    return Mixer(tuple(names), K, S, np.zeros(len(names)), np.zeros(len(names)), grounds, 0.03, 0.45)


def run() -> bool:
    """All figures."""
    mixer, unit = sixty(), yardstick()
    eye = np.eye(60)

    def arranging() -> None:
        arrange("hue", mixer.lab(eye, (1.0, 0.45, 0.2, 0.08)))

    taken = {
        "arranging 60 paints": best_of(5, arranging),
        "alike pairs of 60 paints": best_of(5, lambda: alike_pairs(mixer)),
    }
    fine = True
    for what, seconds in taken.items():
        fine &= show(what, seconds, 0.1, " s")
        fine &= show(f"{what}, in yardsticks", seconds / unit, 1.0)
    print(f"     {len(alike_pairs(mixer))} pairs alike among them")
    table = pair_table(mixer)
    fine &= show(
        "the table of all pairs of 60 paints, in yardsticks",
        best_of(3, lambda: pair_table(mixer)) / unit,
        8.0,
    )
    fine &= show("roles from the table, in yardsticks", best_of(3, lambda: find_roles(table)) / unit, 1.0)
    return (
        show(
            "opposites from the table, in yardsticks", best_of(3, lambda: opposites(mixer, table)) / unit, 4.0
        )
        and fine
    )
