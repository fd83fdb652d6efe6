"""Readings as the joint estimate needs them: in arrays, with what belongs together."""

from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from culmo.core.colour.difference import local_metric
from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.paint.character import CHARACTER, Shot, believed, left_over, seen_and_slopes, seen_lab
from culmo.core.paint.hand import Beside, Puddles
from culmo.core.paint.jacobian import Jacobian, Pattern, patterns_of
from culmo.core.paint.optics import Batch, Linear, compile_batch
from culmo.core.paint.parameters import PER_PAINT, SHARED, USUAL, Ground, Layout
from culmo.core.paint.readings import INK, NINE_IN_TEN, PAPER, Reading, taught
from culmo.core.paint.recipe import FULL, TINT
from culmo.core.paint.typical import Belief
from culmo.core.threads import one_thread

_MANY_BY_OTHERS = 12  # washes that no picture shows, from which on they tell what a picture does
MOST_OF_ONE = 12  # cells of a puddle that are reckoned together


@dataclass(frozen=True)
class Row:
    """A reading as it is learned from.

    Attributes
    ----------
    reading : Reading
    spread : float, its standard deviation where it is general knowledge; 0 where it was read
    card : bool, whether it is the tint of its paint's card
    """

    reading: Reading
    spread: float
    card: bool


@dataclass(frozen=True)
class Shown:
    """Those readings that pictures show.

    Attributes
    ----------
    rows : (k,) int, their places
    paper : (k, 3) float, CIELAB of it
    shot : (k,) int, the place of the picture of each
    """

    rows: Indices
    paper: Array
    shot: Indices


@dataclass(frozen=True)
class Problem:
    """The readings in array form.

    Attributes
    ----------
    names : tuple of str, the paints
    layout : Layout
    batch : Batch of n recipes, those of general knowledge last
    lab : (n, 3) float
    beside : Beside, of general knowledge its standard deviations in CIELAB units; which depths the painter saw
    mixes : int, how many readings of several paints there are
    puddles : tuple of Puddles
    rows : tuple of n Row, by which they are known again
    beliefs : tuple of Belief or None, what is believed of each paint by its pigments
    shots : tuple of Shot, the pictures
    shown : Shown
    """

    names: tuple[str, ...]
    layout: Layout
    batch: Batch
    lab: Array
    beside: Beside
    mixes: int
    puddles: tuple[Puddles, ...]
    rows: tuple[Row, ...]
    beliefs: tuple[Belief | None, ...]
    shots: tuple[Shot, ...]
    shown: Shown

    def prior(self) -> tuple[Array, Array]:
        """Mean (p,) and precision (p, p) of what is believed before any reading."""
        mean, precision = self.layout.prior()
        for place, belief in enumerate(self.beliefs):
            if belief is not None:
                own = slice(place * PER_PAINT, (place + 1) * PER_PAINT)
                mean[own], precision[own, own] = belief.mean, belief.precision
        if self.shots:
            self._believe_pictures(mean, precision)
        return mean, precision

    def _believe_pictures(self, mean: Array, precision: Array) -> None:
        pictures = slice(self.layout.shots_at, None)
        by_others = int((self.batch.present.any(axis=1) & np.isnan(self.beside.noise)).sum()) - len(
            self.shown.rows
        )
        mean[pictures], precision[pictures, pictures] = believed(self.shots, by_others >= _MANY_BY_OTHERS)

    @cached_property
    def _patterns(self) -> tuple[Pattern, ...]:
        shot = np.full(self.batch.count, -1)
        shot[self.shown.rows] = self.shown.shot
        return patterns_of(self.layout, self.batch.present, self.batch.ground, self.batch.paper, shot)

    def as_shown(self, theta: Array, linear: Linear) -> Linear:
        """What is predicted of the readings as their pictures show it.

        A picture is compared with what it should show, not the colours behind it with the paints: noise in what is
        corrected would pull the correction towards grey.

        Parameters
        ----------
        theta : (p,) float
        linear : Linear of the n readings there, as they are
        """
        shown, count = self.shown, self.batch.count
        if not len(shown.rows):
            return linear
        characters = theta[self.layout.shots_at :].reshape(-1, CHARACTER)[shown.shot]
        lab, turn = linear.lab.copy(), np.tile(np.eye(3), (count, 1, 1))
        lab[shown.rows], turn[shown.rows], slopes = seen_and_slopes(
            linear.lab[shown.rows], shown.paper, characters
        )
        back = turn.transpose(0, 2, 1)
        values = np.concatenate([turn @ linear.jacobian.values, np.zeros((count, 3, CHARACTER))], axis=2)
        behind = SHARED + self.batch.present[shown.rows].sum(axis=1) * PER_PAINT
        columns = behind[:, None] + np.arange(CHARACTER)
        values[shown.rows[:, None, None], np.arange(3)[None, :, None], columns[:, None, :]] = slopes
        return replace(
            linear,
            lab=lab,
            jacobian=Jacobian(self.layout.size, self._patterns, values),
            parts=turn @ linear.parts @ back,
            water=turn[:, None] @ linear.water @ back[:, None],
            amounts=turn @ linear.amounts,
            film=(turn @ linear.film[:, :, None])[:, :, 0],
        )


@one_thread
def prepare(
    names: Sequence[str],
    readings: Sequence[Reading],
    typical: Iterable[tuple[Reading, float]] = (),
    beliefs: Mapping[str, Belief] | None = None,
) -> Problem:
    """Readings to arrays; those that do not teach stay out, and of very many the oldest (see `taught`).

    Parameters
    ----------
    names : sequence of str, the paints
    readings : sequence of Reading
    typical : iterable of (Reading, float), general knowledge and its standard deviation in CIELAB units
    beliefs : mapping from folded name to what is believed of a paint by its pigments

    Raises
    ------
    CulmoError
        when a recipe names a paint that is not in `names`
    """
    good = taught(readings)
    known = list(typical)
    everything = good + [reading for reading, _ in known]
    bare = {(r.ground, r.paper.strip().casefold()) for r in everything if not r.recipe.layers}
    usual: list[Ground] = [(PAPER, ""), (INK, "")]
    grounds = tuple(usual + sorted(bare - set(usual)))
    named = {r.paper.strip().casefold() for r in everything if r.recipe.layers} - {USUAL}
    lab = np.array([reading.lab for reading in everything], dtype=float).reshape(-1, 3)
    shots, shown = _shown(everything)
    for place, paper in zip(shown.rows, shown.paper, strict=True):
        lab[place] = seen_lab(np.array([everything[place].seen]), paper)[0]
    layout = Layout(len(names), grounds, (USUAL, *sorted(named)), len(shots))
    places, cards = [], []
    seen: dict[str, Hashable] = {}
    for reading in everything:
        own = (reading.ground, reading.paper.strip().casefold())
        places.append(grounds.index(own if own in grounds else (reading.ground, "")))
        name = reading.recipe.names[0].casefold() if reading.recipe.is_pure else ""
        card = bool(name) and reading.recipe.layers[0].wash == TINT
        # the first is the card; another look at it sees the same one
        card = card and (name not in seen or (reading.cell is not None and reading.cell == seen[name]))
        cards.append(card)
        if card:
            seen[name] = reading.cell
    index = {name.casefold(): i for i, name in enumerate(names)}
    off = [0.0 if card else reading.off for reading, card in zip(everything, cards, strict=True)]
    papers = [layout.paper_index(reading.paper) for reading in everything]
    batch = compile_batch([reading.recipe for reading in everything], places, index, cards, off, papers)
    noise = np.array([np.nan] * len(good) + [sd for _, sd in known])
    mixes = sum(len(r.recipe.names) > 1 for r in good)
    believed = tuple((beliefs or {}).get(name.casefold()) for name in names)
    spreads = [0.0] * len(good) + [sd for _, sd in known]
    rows = tuple(Row(*row) for row in zip(everything, spreads, cards, strict=True))
    return Problem(
        tuple(names),
        layout,
        batch,
        lab,
        Beside(noise, np.array(off) != 0.0, _told(everything, lab)),
        mixes,
        _puddles(good),
        rows,
        believed,
        shots,
        shown,
    )


def _shown(readings: Sequence[Reading]) -> tuple[tuple[Shot, ...], Shown]:
    """The pictures, and what is read from each."""
    places: dict[Shot, int] = {}
    rows, shot = [], []
    for place, reading in enumerate(readings):
        if reading.shot is not None and reading.seen is not None:
            rows.append(place)
            shot.append(places.setdefault(reading.shot, len(places)))
    shots = tuple(places)
    at = np.array(shot, dtype=int)
    paper = np.array([one.paper for one in shots]).reshape(-1, 3)
    return shots, Shown(np.array(rows, dtype=int), paper[at], at)


def _told(readings: Sequence[Reading], lab: Array) -> Array:
    """The covariance of each colour as what read it told it, (n, 3, 3): a sphere in the local metric of CIEDE2000."""
    told = np.zeros((len(readings), 3, 3))
    rows = [place for place, reading in enumerate(readings) if reading.uncertainty > 0.0]
    if rows:
        spread = np.array([readings[place].uncertainty for place in rows]) / NINE_IN_TEN
        told[rows] = (spread**2 / 3.0)[:, None, None] * np.linalg.inv(local_metric(lab[rows], 1.0))
    shown = [place for place, reading in enumerate(readings) if reading.seen is not None]
    told[shown] += left_over(lab[shown])
    return told


def _puddles(readings: Sequence[Reading]) -> tuple[Puddles, ...]:
    """Readings of one layer that err together, no more than MOST_OF_ONE.

    They are mixes that share a puddle, of the same parts and on one ground; and several looks at one cell.
    """
    found: dict[object, list[int]] = {}
    for place, reading in enumerate(readings):
        if len(reading.recipe.layers) != 1:
            continue
        if reading.puddle is not None and len(reading.recipe.names) > 1:
            shares = reading.recipe.with_wash(FULL).key
            key = (reading.puddle, shares, reading.ground, reading.paper.strip().casefold())
            found.setdefault(key, []).append(place)
        elif reading.cell is not None:
            found.setdefault(("cell", reading.cell), []).append(place)
    of_size: dict[tuple[int, int], list[list[int]]] = {}
    for places in found.values():
        for start in range(0, len(places), MOST_OF_ONE):
            own = places[start : start + MOST_OF_ONE]
            if len(own) > 1:
                of_size.setdefault((len(own), len(readings[own[0]].recipe.names)), []).append(own)
    washes = np.array(
        [reading.recipe.layers[0].wash if reading.recipe.layers else 0.0 for reading in readings]
    )
    cells: dict[Hashable, int] = {}
    looks = [
        cells.setdefault(reading.cell, len(cells)) if reading.cell is not None else -1 for reading in readings
    ]
    at = np.where(
        np.array(looks) < 0, len(cells) + np.arange(len(readings)), looks
    )  # each of one look by itself
    return tuple(
        Puddles(rows, _alike(washes[rows]), _alike(at[rows])) for rows in map(np.array, of_size.values())
    )


def _alike(values: Array | Indices) -> Flags:
    """Which of m values of each of g rows are the same, (g, m, m) bool."""
    return np.asarray(values[:, :, None] == values[:, None, :])
