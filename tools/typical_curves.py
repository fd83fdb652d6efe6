"""Writes `src/culmo/data/typical_curves.csv`: absorption and scattering of each pigment of the table, as typically seen.

The curves are what the mixing model learns from the table's masstones, tints and transparencies alone. They are
shipped, since learning a hundred pigments takes seconds.
"""

import csv
from pathlib import Path

import numpy as np

from culmo.core.colour.spectral import WAVELENGTH_NM
from culmo.core.paint.estimate import learn
from culmo.core.paint.pigments import typical_card
from culmo.data import pigment_table

TARGET = Path(__file__).resolve().parents[1] / "src" / "culmo" / "data" / "typical_curves.csv"


def main() -> None:
    """Learn every pigment and write its curves."""
    table = pigment_table()
    readings = [entry for code in table for entry in typical_card(code, code, table)]
    estimate = learn(list(table), [], readings)
    optics = estimate.layout.optics(estimate.theta)
    with TARGET.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        bands = [f"{int(nm)}" for nm in WAVELENGTH_NM]
        writer.writerow(["code", *(f"K{band}" for band in bands), *(f"S{band}" for band in bands)])
        for code, row in zip(table, np.hstack([optics.K, optics.S]), strict=True):
            writer.writerow([code, *(f"{value:.4g}" for value in row)])


if __name__ == "__main__":
    main()
