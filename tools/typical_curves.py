"""Writes `src/culmo/data/typical_curves.csv`: absorption and scattering of each pigment of the table, as typically seen.

A curve has the pigment's bands (`pigment_bands.csv`), at the level, and with the wander, that its typical masstone, tint and
transparency in the table ask for. They are shipped, since learning a hundred pigments takes seconds.
"""

import csv
from pathlib import Path

import numpy as np

from culmo.core.colour.spectral import WAVELENGTH_NM
from culmo.core.paint.estimate import learn
from culmo.core.paint.pigments import typical_card
from culmo.core.paint.typical import bands_curve, belief_about
from culmo.data import pigment_bands, pigment_table

TARGET = Path(__file__).resolve().parents[1] / "src" / "culmo" / "data" / "typical_curves.csv"
_STRONGEST, _SCATTERS = 3.0, 0.15  # of a full wash of some pigment; the table tells by how much more or less
_FREE = 1.5  # times the wander of a paint about its pigment's curve: the table is to be met
_NEAR = 1.5  # CIELAB units, how near


def main() -> None:
    """Learn every pigment and write its curves."""
    table, bands = pigment_table(), pigment_bands()
    readings = [(one, _NEAR) for code in table for one, _ in typical_card(code, code, table)]
    flat = np.full(len(WAVELENGTH_NM), _SCATTERS)
    beliefs = {
        code.casefold(): belief_about(code, _STRONGEST * bands_curve(bands[code]), flat, _FREE)
        for code in table
    }
    estimate = learn(list(table), [], readings, beliefs=beliefs)
    optics = estimate.layout.optics(estimate.theta)
    with TARGET.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        names = [f"{int(nm)}" for nm in WAVELENGTH_NM]
        writer.writerow(["code", *(f"K{name}" for name in names), *(f"S{name}" for name in names)])
        for code, row in zip(table, np.hstack([optics.K, optics.S]), strict=True):
            writer.writerow([code, *(f"{value:.4g}" for value in row)])


if __name__ == "__main__":
    main()
