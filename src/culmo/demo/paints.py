"""The eighteen paints of the made-up studio: invented spectra under generic names."""

import numpy as np

from culmo.core.colour.spectral import WAVELENGTH_NM, Array
from culmo.demo.simulated import SimulatedPaint, band, edge


def _scatter(level: float, slope: float = -0.6) -> Array:
    return np.asarray(level * (WAVELENGTH_NM / 550.0) ** slope)


_FLAT = np.ones(36)

PAINTS = (
    SimulatedPaint("Lemon", edge(3.2, 484, 9) + 0.02, _scatter(0.12), 0.02, "PY175", 0.4),
    SimulatedPaint("Yellow", edge(4.0, 506, 9) + 0.02, _scatter(0.1), 0.02, "PY154", 0.4),
    SimulatedPaint("Orange", edge(3.8, 553, 10) + 0.02, _scatter(0.16), 0.04, "PO73", 0.5),
    SimulatedPaint("Scarlet", edge(3.9, 583, 9) + band(0.5, 545, 25) + 0.03, _scatter(0.12), 0.04, "PR255", 0.6),
    SimulatedPaint("Rose", band(3.0, 540, 32) + band(0.5, 405, 45) + 0.02, _scatter(0.03), 0.03, "PV19", 0.7, 0.004),
    SimulatedPaint("Crimson", band(4.4, 535, 44) + band(1.6, 425, 50) + 0.03, _scatter(0.05), 0.06, "PR177", 0.8, 0.05),
    SimulatedPaint("Violet", band(5.2, 568, 44) + band(0.4, 405, 24) + 0.03, _scatter(0.03), 0.04, "PV23", 0.9),
    SimulatedPaint("Ultramarine", band(4.2, 597, 42) + band(0.35, 520, 50) + 0.02, _scatter(0.04), 0.32, "PB29", 0.35),
    SimulatedPaint(
        "Cobalt", band(1.6, 588, 42) + band(0.8, 640, 25) + 0.02, _scatter(0.14), 0.26, "PB28", 0.2
    ),
    SimulatedPaint(
        "Phthalo blue", band(6.4, 622, 44) + band(3.4, 695, 40) + band(0.45, 395, 30) + 0.03, _scatter(0.02), 0.02,
        "PB15:3", 0.95,
    ),
    SimulatedPaint(
        "Phthalo green", band(6.0, 648, 54) + band(2.6, 400, 38) + 0.03, _scatter(0.02), 0.02, "PG7", 0.95
    ),
    SimulatedPaint("Viridian", band(1.9, 616, 50) + band(1.2, 415, 34) + 0.02, _scatter(0.08), 0.4, "PG18", 0.15),
    SimulatedPaint(
        "Green earth", band(0.8, 660, 60) + band(0.9, 415, 50) + 0.22, _scatter(0.12), 0.24, "PG23", 0.1
    ),
    SimulatedPaint("Ochre", edge(1.8, 508, 22) + 0.12, _scatter(0.28), 0.14, "PY43", 0.3),
    SimulatedPaint("Burnt sienna", edge(2.6, 556, 22) + 0.25, _scatter(0.14), 0.2, "PBr7", 0.35),
    SimulatedPaint("Indian red", edge(3.4, 580, 14) + 0.55, _scatter(0.85), 0.22, "PR101", 0.6),
    SimulatedPaint("Umber", edge(1.7, 560, 48) + 0.75, _scatter(0.16), 0.28, "PBr7", 0.3),
    SimulatedPaint(
        "Neutral", 2.5 * _FLAT * (1.0 - 0.12 * (WAVELENGTH_NM - 550.0) / 180.0), _scatter(0.06), 0.08,
        "PBk6 + PB15:3", 0.7,
    ),
)  # fmt: skip
TRAVEL_BOX = ("Lemon", "Yellow", "Scarlet", "Rose", "Ultramarine", "Phthalo blue", "Burnt sienna", "Neutral")
# how a painter would note the grain on the label
GRAIN = {paint.name.casefold(): paint.grain for paint in PAINTS}
# a small set on sale that the studio considers, and the paints whose cards were tested
CONSIDERED = (("Coral", "PR209"), ("Indigo", "PBk6 + PB60"), ("Moth gold", "PY150"))
CARDS = ("Lemon", "Rose", "Crimson", "Ultramarine", "Viridian", "Indian red")
# what the beetle plate asks for: the true mixes behind the colours that the studio matched by eye
WANTED = (
    ("wing case, shade", "Ultramarine:4 + Umber:3"), ("wing case, blue-black", "Phthalo blue:2 + Burnt sienna:3"),
    ("wing case, shine", "Cobalt:3 + Neutral @ 0.5"), ("coppery green", "Viridian:5 + Burnt sienna:2"),
    ("green edge", "Phthalo green:2 + Yellow:3 @ 0.7"), ("beetle's green", "Phthalo green:3 + Umber:2 @ 0.8"),
    ("green gold", "Lemon:5 + Phthalo green + Burnt sienna:2 @ 0.6"),
    ("violet ground beetle", "Violet:2 + Ultramarine @ 0.8"),
    ("copper", "Burnt sienna:3 + Scarlet @ 0.8"), ("copper light", "Orange:2 + Burnt sienna:3 @ 0.4"),
    ("scarlet lily beetle", "Scarlet:5 + Orange"), ("its shade", "Crimson:3 + Umber"),
    ("moth grey", "Ultramarine + Burnt sienna @ 0.25"), ("moth dust", "Umber:2 + Ochre:3 @ 0.25"),
    ("moth brown", "Umber:3 + Indian red @ 0.7"), ("moth rose", "Rose:2 + Ochre:3 @ 0.3"),
    ("leg joints", "Ochre:3 + Burnt sienna:2 @ 0.6"), ("bronze", "Ochre:4 + Green earth:3 @ 0.9"),
    ("cold shadow", "Cobalt:2 + Violet @ 0.2"), ("feelers", "Neutral:5 + Burnt sienna"),
)  # fmt: skip
# two small palettes between which the studio can not yet decide
PALETTES = (
    ("Six for the plates", ("Lemon", "Orange", "Rose", "Ultramarine", "Phthalo green", "Umber"), "the drawer labels",
     "clean greens for the wing cases; umber keeps the moths quiet"),
    ("Six with earths", ("Yellow", "Scarlet", "Ultramarine", "Viridian", "Burnt sienna", "Umber"), "the drawer labels",
     "everything grainy, as the beetles are; the violet ground beetle is lost"),
)  # fmt: skip
