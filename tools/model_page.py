"""`make model-page`: measures the model's errors and writes docs/model.md and its plot."""

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from culmo.core.paint.next_cells import AS_PAINTED, AS_PAINTED_FOR_A_QUESTION  # noqa: E402
from tools.benches import following  # noqa: E402
from tools.benches.model import (  # noqa: E402 - the tests' support code is needed first
    COUNTS,
    FILM,
    KINDS,
    LIMITS,
    OTHER_HANDS,
    OTHER_SEEDS,
    SEEDS,
    STILL_LIMITS,
    TURBID,
    WASHES,
    Errors,
    marks,
    measure,
    newcomers,
    puddles,
)

PAGE, PLOT = ROOT / "docs" / "model.md", ROOT / "docs" / "model-errors.png"


def draw(film: Errors, turbid: Errors) -> None:
    """The errors against the number of recorded mixes, beside the hand's repeatability."""
    import pyqtgraph as pg
    from pyqtgraph.exporters import ImageExporter
    from PySide6.QtWidgets import QApplication

    from culmo.desk.app import make_app

    app = make_app()
    plot = pg.PlotWidget(background="w")
    plot.resize(760, 420)
    ink = pg.mkPen((30, 30, 30), width=2)
    counts = list(COUNTS)
    for errors, symbol, filled in ((film, "o", "w"), (turbid, "o", (30, 30, 30))):
        plot.plot(
            counts,
            [errors.by_count[c] for c in counts],
            pen=ink,
            symbol=symbol,
            symbolPen=ink,
            symbolBrush=filled,
        )
    level = pg.InfiniteLine(turbid.others["repeat"], angle=0,
                            pen=pg.mkPen((120, 120, 120), style=pg.QtCore.Qt.PenStyle.DashLine),
                            label="the hand's own repeatability",
                            labelOpts={"color": (90, 90, 90), "position": 0.75})  # fmt: skip
    plot.addItem(level)
    plot.setLabel("bottom", "recorded mixes")
    plot.setLabel("left", "median error, CIEDE2000")
    plot.setYRange(0, max(turbid.by_count.values()) * 1.1)
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


def table(errors: Errors, laboratory: str) -> str:
    """The measured figures of a laboratory as a table."""
    washes, limits = WASHES[laboratory], LIMITS[laboratory]
    lines = [
        f"| recorded mixes | error | wanted | {' | '.join(f'{KINDS[wash]} inside' for wash in washes)} |",
        f"|{'---|' * (3 + len(washes))}",
    ]
    for count in COUNTS:
        inside = " | ".join(f"{errors.inside[count][wash]:.0%}" for wash in washes)
        wanted = f"<= {limits[count]}" if count in limits else ""
        lines.append(
            f"| {count}{' (cards only)' if not count else ''} | {errors.by_count[count]:.2f} | {wanted} | {inside} |"
        )
    return "\n".join(lines)


def hands_table(found: dict[str, Errors]) -> str:
    """What other hands give in the turbid laboratory."""
    washes = WASHES[TURBID]
    lines = [
        f"| hand | error with 60 | {' | '.join(f'{KINDS[wash]} inside' for wash in washes)} |",
        f"|{'---|' * (2 + len(washes))}",
    ]
    for hand, errors in found.items():
        inside = " | ".join(f"{errors.inside[60][wash]:.0%}" for wash in washes)
        lines.append(f"| {hand} | {errors.by_count[60]:.2f} | {inside} |")
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

For each paint log K on 16 cubic B-splines, log S on 4, the log of how pale its card's tint really was, the log of the
hand's bias for it in mixes, and how it dilutes; for all together k1, k2, how all dilute, and the reflectance of each bare
paper and of the ink line (4 coefficients each). 24 paints are 566 numbers. All readings of the study, cards and mixes,
paper and ink, are fitted together by damped Gauss-Newton with analytic derivatives (a test holds them against finite
differences).

**Dilution is not proportional.** Twice the water does not leave half the film: part of the paint sinks, a pale wash lies
more evenly, and a film in a scattering paper does not follow its formula to the letter. A wash of strength w is taken for
a film w^(1 + q), with q shared by all paints (0.15 before any reading) and a part of each paint's own (0.05), weighed by
shares.

**Pigments.** Of a paint whose masstone and tint were not both read its pigment's spectrum is believed (`pigment_bands.csv`:
where a pigment absorbs, as it is generally known; `typical_curves.csv`: at the level that its typical masstone and tint
tell), with a smooth wander of 0.55 in log K, a level of 0.45 and a tilt of 0.25, wider for entries that are rough, for
mixtures on a label, and twice as wide where a part of its card was read. With both read it is believed to be any paint:
held against the other laboratory the pigment then harmed as often as it helped.

**Pictures.** Each picture brings twelve numbers: gains of the three channels, the share of each in each other one (grey
stays grey), two bends of the tone curve (black and the paper stay), stray light. A reading from a picture is compared, as
the picture shows it, with what the picture should show of the predicted colour; its hand's covariance is carried through
the same map. Believed of the twelve is a fifth of the variance that measured cameras under measured lights have
(`typical_cameras.py`), all of it where twelve washes were read without a camera, four times it where four colours or more
in the picture are known for themselves; pictures of one camera share a part of it. What no character undoes (a camera is
blind to what the eye sees, and the other way round) is 0.6 in L and 0.9 in a and b, and 1.4 and 3.6 per cent of chroma.

**Papers.** Each of the painter's own papers but the usual one (that of most readings) brings three numbers for all films on
it: by how much the same wash comes out stronger (0.2 before any reading, in the log), what it adds to the power of dilution
(0.1) and by how much a film scatters more (0.3), and a bare colour where that was read. Cards on one paper and a strip of
four paints on another tell of all paints there: a test in the other laboratory.

**The search.** Each round goes downhill, with long steps as long as the hand is unknown, then learns the hand until it comes
to rest under weights that follow it. From 45 paints on up to twelve readings that come or go change the covariance by their
rank (Woodbury 1950) instead of the whole being learned anew. Factors and inverses are made of small blocks, so that LAPACK
never holds the window up.

Beliefs before any reading: log K and log S are Gaussian processes over wavelength (Matern 5/2: a smooth wander, a level
and a tilt), which says the same as a penalty on second differences with its scale in plain units; tint 0.2 and bias 0.25
in logs; k1 about 0.03, k2 about 0.42. For a paint with known pigments, the places of its card that have not been read are
filled from the table of pigments with a standard deviation of 6 to 13 in CIELAB, more for mixtures on the label.

**The weight of a reading is what the hand can do there.** One figure has one meaning everywhere: *parts* is the standard
deviation of the log of each part's amount (a log ratio of two errs by sqrt 2 of it); *full*, *middle* and *tint* are
those of the log of the film's strength in such washes, and between two of them the variance goes over from one to the
other. A reading's covariance is the noise, plus both carried through the model. These 3x3 covariances are worked out anew
in each round. A heavy-tailed loss (Student, 6 degrees) keeps one dirty cell from bending a paint. From eight read mixes
on, these figures are learned, by expectation and maximisation of the variance components with the parameters' own
uncertainty taken into account (Dempster, Laird and Rubin 1977), from beliefs (parts 0.15, water 0.12, 0.15 and 0.19) that
weigh no more than 8 to 10 observations: painters differ by a factor of two.

A new reading starts from the estimate before. The search always ends (at most 35 steps) and says when it did not settle.

## Prediction

The mean colour, and dE90: the CIEDE2000 radius that holds nine in ten cells. It holds what is not known of the
parameters (their posterior covariance carried to CIELAB), the hand's errors for that recipe and the noise. The
difference is a quadratic form of the error in the local metric of CIEDE2000; its quantile is that of a scaled chi square
with the same mean and variance (Satterthwaite 1946).

## What to paint next

Each choice is the cell whose reading lowers the predictive variance of all cells most, counted by share (the sum of the
logarithms); the covariance is then brought up to date (rank 3) and the next is chosen. What counts may also be a question of
the painter's: what two of some paints make, the mixes that are foretold near one colour (by a normal weight of their
CIEDE2000 beyond the nearest), the darkest ones (by that of their lightness). About as many cells at random tell as much as
the chosen ones: by the posterior's mean deviation of what is asked, over 24 random orders. Of what it promises beyond the
number chosen {share:.0%} are told for a whole sheet and {question_share:.0%} for a question, since painted it is less: see
below. Tried and no better: the sum of standard deviations, other floors, keeping the paints' use even by force.

## Even steps and the middle

The path of a mix from one paint to the other is measured in CIEDE2000 on a grid that is even in the log of the ratio,
cut into equal lengths, and each cut is given in whole parts (adding up to at most 12) with the difference that makes.

## Measured

16 paints each, all 120 pairs half and half, at each wash; half of the cells held back. Error: median CIEDE2000 between the
prediction and the same hand's own mean; medians over {seeds} hands. Inside: the share of freshly painted cells within dE90,
by kind of wash, which is to be 80 to 95 % from 60 mixes on.

**Another physics** (`tests/support/turbid.py`): radiative transfer by adding and doubling, held against published tables;
forward scattering particles, a film of another index than air in and on a scattering paper, uneven thickness averaged in
linear light, pigments that settle apart, dilution that is not proportional; errors of 15 % in parts and 20 % in water,
over-loading 0.2, noise 0.4. It shares no code and no formula with the estimate, and its seeds were not looked at while the
beliefs were chosen.

{turbid}

For comparison: the mean of the sRGB values {turbid_srgb:.1f}, the geometric mean of linear RGB {turbid_geometric:.1f},
the hand's own repeatability {turbid_repeat:.1f}. A hand that does not err: {still}.

**Puddles.** Cells that the strokes of a run show to be of one puddle (one mix, full and pale, not left for half an hour)
share what missed in its parts, those of one wash seven tenths of what missed in the water (they were laid from one loading
of the brush), and are reckoned together; so is a dry scrap of the puddle that was read. Sixty cells as twenty puddles of
three washes: {known:.2f} where that is known, {unknown:.2f} where it is not; masstones inside {known_inside:.0%} and
{unknown_inside:.0%}. (Sixty cells of sixty puddles tell more: see the table.)

**Marks.** What the painter saw come out paler or stronger than it was meant (an eye that errs by 0.1 in the log marks
{share_marked:.0%} of sixty cells) is taken to be 0.22 off in the log, with a spread of 0.14: {marked:.2f} with the marks,
{unmarked:.2f} without.

**Newcomers.** Paints of the other laboratory's kinds, known by the code that would stand on their label (the kinds were
drawn wider than makers' paints of one pigment lie apart); error and share inside dE90:

{newcomers}

Other hands ({other_seeds} each): *wet* errs by 22, 16 and 12 % in full, middle and pale washes, *dry* by 10, 18 and 25 %,
*steady* by 10 % in parts and 15 % in water, *loose* by 20 and 25 %.

{hands}

**A film** (`tests/support/paints.py` and `culmo.demo.simulated`): the model's own formula with spectra of its own, other k1
and k2, granulation and separation as area averages, bias 0.25, parts 0.13, water 0.08 to 0.2, noise 0.5.

{film}

For comparison: the mean of the sRGB values {film_srgb:.1f}, the geometric mean of linear RGB {film_geometric:.1f}, the
hand's own repeatability {film_repeat:.1f}.

**Twenty cells that `next` chose**, of the sheet of all pairs, after the cards; mean CIEDE2000 of what is asked:

{following}

![Error against recorded mixes: full marks the other physics, open marks the film](model-errors.png)

## Limits

- Granulation, separation and blooms are not in the film; they count as noise.
- A paper is told by three numbers for all paints; a paint that does something of its own on one paper is not told apart.
- Fluorescent and pearly paints do not follow a film of this kind.
- Three readings of CIELAB do not fix 36 bands: under another light than daylight a prediction is a good guess, not a
  measurement, until mixes have been read.
- The covariance is dense, and its factors grow with the cube of the number of paints: a hundred at once take some seconds.
  The derivatives are not: a recipe is kept with those by its own paints, its ground and the surface alone (`jacobian.py`).
"""


def newcomers_table() -> str:
    """What little is known of paints is worth, by what is known of them."""
    found = newcomers()
    lines = ["| read | by the pigment's spectrum | by typical cards |", "|---|---|---|"]
    for known, words in (
        ("codes", "nothing"),
        ("codes and 20 mixes", "20 mixes"),
        ("masstones", "the masstones"),
    ):
        cells = [
            f"{error:.1f}, {inside:.0%}"
            for error, inside in (found[f"{known}, {k}"] for k in ("believed", "typical"))
        ]
        lines.append(f"| {words} | {cells[0]} | {cells[1]} |")
    return "\n".join(lines)


def following_table() -> str:
    """What chosen cells are worth, by laboratory and question."""
    lines = [
        "| painted in | about | 20 chosen | 20 at random | as good as, at random | told |",
        "|---|---|---|---|---|---|",
    ]
    for laboratory, name in ((TURBID, "another physics"), (FILM, "a film")):
        for question, answer in following.measure(laboratory).items():
            most = following.AT_RANDOM[-1]
            worth = f"{answer.worth:.0f}" if answer.worth < most else f"{most} or more"
            lines.append(
                f"| {name} | {question} | {answer.error:.2f} | {answer.at_random[0]:.2f} | {worth} | {answer.told:.0f} |"
            )
    return "\n".join(lines)


def main() -> None:
    """Measure, draw and write."""
    found = {laboratory: measure(laboratory) for laboratory in (FILM, TURBID)}
    still = measure(TURBID, OTHER_SEEDS, "still", whole=False)
    hands = {hand: measure(TURBID, OTHER_SEEDS, hand, whole=False) for hand in OTHER_HANDS}
    shared, marked = puddles(), marks()
    draw(found[FILM], found[TURBID])
    figures: dict[str, object] = {key.replace(" ", "_"): value for key, value in shared.items()}
    for laboratory, errors in found.items():
        figures |= {
            laboratory: table(errors, laboratory),
            **{f"{laboratory}_{key}": errors.others[key] for key in ("srgb", "geometric", "repeat")},
        }  # fmt: skip
    figures |= {"share_marked": marked["share"], "marked": marked["marked"], "unmarked": marked["unmarked"]}
    figures |= {
        "share": AS_PAINTED,
        "question_share": AS_PAINTED_FOR_A_QUESTION,
        "following": following_table(),
        "newcomers": newcomers_table(),
    }
    figures["still"] = ", ".join(
        f"{still.by_count[count]:.2f} with {count} (wanted {limit})" for count, limit in STILL_LIMITS.items()
    )
    PAGE.write_text(
        TEXT.format(seeds=SEEDS, other_seeds=OTHER_SEEDS, hands=hands_table(hands), **figures),
        encoding="utf-8",
    )


if __name__ == "__main__":
    main()
