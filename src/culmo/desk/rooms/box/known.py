"""What Culmo has learned of a paint: its curves, its strength, the hand's way with it, and what that rests on."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.parameters import BIAS_AT, BIAS_SPREAD, PER_PAINT
from culmo.core.paint.predict import dilution_of
from culmo.core.paint.readings import INK, Reading, Trust
from culmo.core.paint.recipe import spoken_recipe
from culmo.core.paint.steps import middle
from culmo.study import records
from culmo.study.file import Study
from culmo.study.soundness import moment_of
from culmo.words import day_words, tr

MOST_SHOWN = 60
_ODD = 0.35  # of the weight of a clean reading, which is about one


@dataclass(frozen=True)
class Curves:
    """Absorption and scattering of a paint with their nine-in-ten bands, each (36,) float."""

    absorption: Array
    absorption_low: Array
    absorption_high: Array
    scattering: Array


def curves(estimate: Estimate, name: str) -> Curves:
    """The curves of a paint.

    Parameters
    ----------
    estimate : Estimate
    name : str
    """
    from culmo.core.paint.basis import ABSORPTION_KNOTS, spline_basis
    from culmo.core.paint.parameters import K_SLICE

    place = estimate.index[name.casefold()]
    optics = estimate.layout.optics(estimate.theta)
    start = place * PER_PAINT
    block = estimate.covariance[start : start + PER_PAINT, start : start + PER_PAINT][K_SLICE, K_SLICE]
    basis = spline_basis(ABSORPTION_KNOTS)
    spread = np.exp(1.645 * np.sqrt(np.einsum("bi,ij,bj->b", basis, block, basis)))
    K = optics.K[place]
    return Curves(K, K / spread, K * spread, optics.S[place])


def hand_sentence(estimate: Estimate, name: str) -> str:
    """The hand's way with a paint, in a sentence."""
    at = estimate.index[name.casefold()] * PER_PAINT + BIAS_AT
    bias, spread = float(estimate.theta[at]), float(np.sqrt(estimate.covariance[at, at]))
    if spread > 0.9 * BIAS_SPREAD:
        return tr("How your hand loads it in mixes is not known yet; a few read mixes will tell.")
    times = np.exp(bias)
    low, high = np.exp(bias - 1.645 * spread), np.exp(bias + 1.645 * spread)
    if low < 1.0 < high:
        return tr(
            "In mixes your hand takes about as much of it as you mean ({times:.2f} times, {low:.1f} "
            "to {high:.1f}).",
            times=times,
            low=low,
            high=high,
        )
    word = tr("more") if times > 1.0 else tr("less")
    return tr(
        "In mixes your hand takes {word} of it than you mean: {times:.2f} times ({low:.1f} to {high:.1f}).",
        word=word,
        times=times,
        low=low,
        high=high,
    )


def dilution_sentence(estimate: Estimate, name: str) -> str:
    """Where water makes more or less difference with a paint than with the painter's others, a sentence; else nothing."""
    shows = dilution_of(estimate, name).shows
    if not shows:
        return ""
    if shows < 0:
        return tr("More water makes less difference with it than with your other paints.")
    return tr("More water makes more difference with it than with your other paints.")


def strength_lines(estimate: Estimate, name: str, others: Sequence[str]) -> list[str]:
    """The parts that land in the middle between a paint and others."""
    lines = []
    for other in others:
        if other.casefold() != name.casefold() and other.casefold() in estimate.index:
            a, b = middle(estimate, name, other).parts
            lines.append(tr("{a} : {b} with {other} lands in the middle", a=a, b=b, other=other))
    return lines


@dataclass(frozen=True)
class ReadingLine:
    """A reading that a paint's figures rest on.

    Attributes
    ----------
    id : int, the row's
    text : str
    origin : str, where it comes from and of which day
    lab : (L, a, b)
    taken_in : bool, whether it teaches
    odd : bool, whether the estimate gives it little weight, as a dirty cell
    """

    id: int
    text: str
    origin: str
    lab: tuple[float, float, float]
    taken_in: bool
    odd: bool


def reading_lines(study: Study, name: str, weights: Mapping[int, float]) -> list[ReadingLine]:
    """The readings with a paint in them that teach or may: its own card first, of one recipe the latest first.

    Parameters
    ----------
    study : Study
    name : str
    weights : from the id of a reading to its robust weight
    """
    # a wet one, one of no known parts, and one that was lifted or lay in the window never teach
    found = [
        reading for reading in records.readings_of_paint(study, name)
        if reading.recipe.layers and reading.is_wash and reading.trust != Trust.WET
    ]  # fmt: skip
    found.sort(key=_order)
    found = found[:MOST_SHOWN]
    origins = _origins(study, [int(reading.extra) for reading in found])
    lines = []
    for reading in found:
        over = tr(" over the bar") if reading.ground == "ink" else ""
        text = f"{spoken_recipe(reading.recipe)}{over}"
        odd = weights.get(reading.extra, 1.0) < _ODD
        origin = origins[reading.extra]
        lines.append(ReadingLine(reading.extra, text, origin, reading.lab, reading.teaches, odd))
    return lines


def _order(reading: Reading) -> tuple[object, ...]:
    washes = [-layer.wash for layer in reading.recipe.layers]
    names = sorted(name.casefold() for name in reading.recipe.names)
    return len(names), reading.ground == INK, names, washes, -int(reading.extra)


def _origins(study: Study, ids: Sequence[int]) -> dict[int, str]:
    rows = study.select(
        f"""SELECT r.id, r.source, r.taken, s.title FROM readings r LEFT JOIN sheets s ON s.id = r.sheet_id
            WHERE r.id IN ({",".join(map(str, ids))})"""
    )
    found = {}
    for row in rows:
        where = row["title"] or records.SOURCE_WORDS.get(row["source"], row["source"])
        day = day_words(moment_of(row["taken"]), weekday=False) if row["taken"] else ""
        found[row["id"]] = ", ".join(filter(None, (day, where)))
    return found
