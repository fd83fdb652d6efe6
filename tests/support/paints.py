"""Random simulated paints of every kind that a box holds, in two styles of spectrum."""

import numpy as np

from culmo.core.colour.spectral import WAVELENGTH_NM
from culmo.demo.simulated import Painter, SimulatedPaint, band, edge

FAMILIES = (
    "lemon", "yellow", "orange", "scarlet", "rose", "crimson", "violet", "ultramarine", "cobalt", "cyan",
    "phthalo green", "viridian", "ochre", "sienna", "indian red", "umber", "neutral", "turquoise",
)  # fmt: skip


def _absorption(family: str, u) -> np.ndarray:
    """`u(low, high)` draws a number."""
    base = u(0.01, 0.04)
    curves = {
        "lemon": lambda: edge(u(2, 4), u(478, 490), u(7, 11)),
        "yellow": lambda: edge(u(2.5, 5), u(498, 515), u(8, 12)),
        "orange": lambda: edge(u(3, 5), u(545, 565), u(8, 12)),
        "scarlet": lambda: edge(u(3, 5), u(575, 590), u(8, 12)),
        "rose": lambda: band(u(2, 4), u(535, 550), u(28, 38)) + band(u(0.3, 0.8), 400, 40),
        "crimson": lambda: band(u(3, 5), u(530, 545), u(38, 48)) + band(u(1, 2), 420, 50),
        "violet": lambda: band(u(3, 6), u(560, 580), u(38, 50)) + band(u(0.2, 0.5), 400, 20),
        "ultramarine": lambda: band(u(3, 5), u(590, 605), u(38, 48)) + band(u(0.2, 0.5), 520, 50),
        "cobalt": lambda: band(u(1.2, 2), u(580, 595), u(38, 46)) + band(u(0.5, 1), 640, 25),
        "cyan": lambda: band(u(3, 6), u(615, 630), u(32, 42)) + band(u(2, 3), 690, 35) + band(0.1, 400, 30),
        "phthalo green": lambda: band(u(4, 6), u(640, 655), u(42, 52)) + band(u(1, 2), 400, u(28, 38)),
        "viridian": lambda: band(u(1.5, 2.5), u(610, 625), u(42, 55)) + band(u(1, 1.6), 415, u(30, 38)),
        "ochre": lambda: edge(u(1.4, 2.2), u(500, 515), u(18, 26)) + u(0.08, 0.2),
        "sienna": lambda: edge(u(2, 3), u(540, 560), u(20, 30)) + u(0.15, 0.3),
        "indian red": lambda: edge(u(2.5, 4), u(570, 582), u(12, 18)) + u(0.3, 0.6),
        "umber": lambda: edge(u(1.6, 2.4), u(540, 570), u(40, 60)) + u(0.5, 0.9),
        "neutral": lambda: u(1.8, 3) * (1 + u(-0.2, 0.2) * (WAVELENGTH_NM - 550) / 200),
        "turquoise": lambda: band(u(3, 5), u(630, 645), u(45, 55)) + band(u(0.3, 0.6), 400, 40),
    }
    return curves[family]() + base


def make_paint(family: str, rng: np.random.Generator, name: str = "") -> SimulatedPaint:
    def u(low: float, high: float) -> float:
        return float(rng.uniform(low, high))

    absorption = _absorption(family, u)
    if rng.random() < 0.5:  # the second style: ripples, as real spectra have them
        phase = rng.uniform(0, 2 * np.pi, 3)
        for k in range(3):
            absorption = absorption * np.exp(
                0.1 * np.sin((k + 1) * np.pi * (WAVELENGTH_NM - 380) / 350 + phase[k])
            )
    earth = family in ("ochre", "sienna", "indian red", "umber", "cobalt")
    level = (
        np.exp(rng.uniform(np.log(0.05), np.log(0.6)))
        if earth
        else np.exp(rng.uniform(np.log(0.01), np.log(0.25)))
    )
    scattering = level * (WAVELENGTH_NM / 550.0) ** u(-1.5, 0.3)
    grain = (
        u(0.15, 0.45) if family in ("ultramarine", "cobalt", "viridian", "umber", "sienna") else u(0.0, 0.12)
    )
    return SimulatedPaint(name or family.title(), absorption, scattering, grain)


def make_painter(count: int = 16, seed: int = 0, **hand) -> Painter:
    """A painter with `count` different paints."""
    rng = np.random.default_rng(seed)
    families = [FAMILIES[i % len(FAMILIES)] for i in range(count)]
    if count < len(FAMILIES):
        families = list(rng.permutation(FAMILIES)[:count])
    paints = [make_paint(family, rng, f"{family.title()} {i + 1}") for i, family in enumerate(families)]
    hand.setdefault("k1", float(rng.uniform(0.02, 0.04)))
    hand.setdefault("k2", float(rng.uniform(0.32, 0.5)))
    return Painter(paints, rng, **hand)
