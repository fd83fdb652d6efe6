"""`make model-page`: measures the model's errors and writes docs/model.md and its plot."""

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from tools.benches.model import COUNTS, SEEDS, Errors, measure  # noqa: E402 - the tests' support code is needed first

PAGE, PLOT = ROOT / "docs" / "model.md", ROOT / "docs" / "model-errors.png"


def draw(errors: Errors) -> None:
    """The error against the number of recorded mixes, beside the hand's repeatability."""
    import pyqtgraph as pg
    from pyqtgraph.exporters import ImageExporter
    from PySide6.QtWidgets import QApplication

    from culmo.desk.app import make_app

    app = make_app()
    plot = pg.PlotWidget(background="w")
    plot.resize(760, 420)
    ink = pg.mkPen((30, 30, 30), width=2)
    counts = list(COUNTS)
    plot.plot(counts, [errors.by_count[c] for c in counts], pen=ink, symbol="o", symbolBrush=(30, 30, 30))
    plot.plot([20], [errors.chosen], pen=None, symbol="s", symbolSize=11, symbolBrush="w", symbolPen=ink)
    level = pg.InfiniteLine(errors.repeat, angle=0, pen=pg.mkPen((120, 120, 120), style=pg.QtCore.Qt.PenStyle.DashLine),
                            label="the hand's own repeatability",
                            labelOpts={"color": (90, 90, 90), "position": 0.75})  # fmt: skip
    plot.addItem(level)
    plot.setLabel("bottom", "recorded mixes")
    plot.setLabel("left", "median error, CIEDE2000")
    plot.setYRange(0, max(errors.by_count.values()) * 1.1)
    for side in ("left", "bottom"):
        plot.getAxis(side).setTextPen((60, 60, 60))
        plot.getAxis(side).setPen((60, 60, 60))
    plot.show()
    QApplication.processEvents()
    exporter = ImageExporter(plot.plotItem)
    exporter.parameters()["width"] = 760
    exporter.export(str(PLOT))
    plot.close()
    del app


def table(errors: Errors) -> str:
    """The measured figures as a table."""
    wanted = {0: "<= 3.0", 60: "<= 1.5", 120: "<= 1.1"}
    lines = [
        f"| {count} at random{' (cards only)' if not count else ''} | {errors.by_count[count]:.2f} | "
        f"{wanted.get(count, '')} | {errors.inside[count]:.1%} |"
        for count in COUNTS
    ]
    lines.insert(
        2,
        f"| 20 chosen by `next` (over all 240 cells; at random {errors.at_random:.2f}) | {errors.chosen:.2f} | <= 2.3 | |",
    )
    return "\n".join(lines)


TEXT = """# The mixing model

Written by `make model-page`, which measures the figures below anew; change the words in `tools/model_page.py`.

## The physics

Bands: 380 to 730 nm, every 10 nm. Colorimetry: CIE 1931 2 degree observer, D65; two more lights for looking at a pair
under a lamp (CIE A and LED-B5).

- A paint has absorption K and scattering S at each band, per unit of a full wash. Mixing is linear in volume:
  K = sum w_i K_i, S = sum w_i S_i (Kubelka and Munk 1931; Duncan 1940).
- A dry wash is a film of thickness X over a ground of reflectance Rg (Kubelka 1948). With
  T = tanh(bSX) / (bS), b S = sqrt(K (K + 2 S)), the reflectance is
  R = (Rg + T (S - Rg (K + S))) / (1 + T (K + S - Rg S)), a form without a singular point at S = 0 or K = 0.
- The surface reflects too (Saunderson 1942): Rm = k1 + (1 - k1)(1 - k2) R / (1 - k2 R), on the ground and on the film.
- A glaze is a film over the film below.

## What is estimated

For each paint log K on 16 cubic B-splines, log S on 4, the log of how pale its card's tint really was, and the log of the
hand's bias for it in mixes; for all together k1, k2 and the reflectance of each bare paper and of the ink line (4
coefficients each). 24 paints are 538 numbers. All readings of the study, cards and mixes, paper and ink, are fitted
together by damped Gauss-Newton with analytic derivatives (a test holds them against finite differences).

Beliefs before any reading: log K and log S are Gaussian processes over wavelength (Matern 5/2: a smooth wander, a level
and a tilt), which says the same as a penalty on second differences with its scale in plain units; tint 0.2 and bias 0.25
in logs; k1 about 0.03, k2 about 0.42. For a paint with known pigments, the places of its card that have not been read are
filled from the table of pigments with a standard deviation of 6 to 13 in CIELAB, more for mixtures on the label.

**The weight of a reading is what the hand can do there.** Its covariance is the noise, plus the hand's ratio error
carried through the model (each paint's amount errs by 0.18 / sqrt 2 in logs), plus the water error (0.08 for a full wash
to 0.2 for a tint). These 3x3 covariances are worked out anew in each round. A heavy-tailed loss (Student, 6 degrees)
keeps one dirty cell from bending a paint. From eight read mixes on, the hand's three figures are learned too, by
expectation and maximisation of the variance components with the parameters' own uncertainty taken into account
(Dempster, Laird and Rubin 1977), beginning from priors that count as 24 to 60 observations.

A new reading starts from the estimate before. The search always ends (at most 35 steps) and says when it did not settle.

## Prediction

The mean colour, and dE90: the CIEDE2000 radius that holds nine in ten cells. It holds what is not known of the
parameters (their posterior covariance carried to CIELAB), the hand's errors for that recipe and the noise. The
difference is a quadratic form of the error in the local metric of CIEDE2000; its quantile is that of a scaled chi square
with the same mean and variance (Satterthwaite 1946).

## What to paint next

Each choice is the cell whose reading lowers the predictive variance of all cells most, counted by share (the sum of the
logarithms); the covariance is then brought up to date (rank 3) and the next is chosen. On ten simulated hands, after 20
chosen cells, the plain sum of variances gave a median error of 1.66 and the sum of logarithms 1.52 (20 at random: 1.71):
the sum chases the few worst cells.

## Even steps and the middle

The path of a mix from one paint to the other is measured in CIEDE2000 on a grid that is even in the log of the ratio,
cut into equal lengths, and each cut is given in whole parts (adding up to at most 12) with the difference that makes.

## Measured

{seeds} simulated hands (`tests/support/paints.py` and `culmo.demo.simulated`: spectra of their own, other k1 and k2,
granulation and separation as area averages, bias 0.25, ratio error 0.18, water error 0.08 to 0.2, noise 0.5), 16 paints
each, all 120 pairs half and half at full strength and as a tint: 240 cells, half of them held back. Error: median
CIEDE2000 between the prediction and the same hand's own mean; medians over the hands. Inside: the share of freshly
painted cells within dE90, mean over the hands.

| recorded mixes | error | wanted | inside dE90 (85 to 95 %) |
|---|---|---|---|
{table}

For comparison: the mean of the sRGB values {srgb:.1f}, the geometric mean of linear RGB {geometric:.1f}, the hand's own
repeatability {repeat:.1f}.

![Error against recorded mixes; the square is 20 cells chosen by next](model-errors.png)

## Limits

- Granulation, separation and blooms are not in the film; they count as noise.
- A film that soaks into soft paper scatters less than one that stays on top; one paper's estimate is used for all papers
  but for the bare paper's own colour.
- Fluorescent and pearly paints do not follow a film of this kind.
- Three readings of CIELAB do not fix 36 bands: under another light than daylight a prediction is a good guess, not a
  measurement, until mixes have been read.
- The estimate is dense: a hundred paints at once take some seconds.
"""


def main() -> None:
    """Measure, draw and write."""
    errors = measure()
    draw(errors)
    PAGE.write_text(
        TEXT.format(
            seeds=SEEDS,
            table=table(errors),
            srgb=errors.srgb_mean,
            geometric=errors.geometric,
            repeat=errors.repeat,
        ),
        encoding="utf-8",
    )


if __name__ == "__main__":
    main()
