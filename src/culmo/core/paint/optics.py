"""Many recipes at once: their colours, and how the colours hang on every parameter."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from culmo.core.colour.cielab import lab_and_gradient
from culmo.core.colour.spectral import Array, Indices
from culmo.core.paint.basis import ABSORPTION_KNOTS, GROUND_KNOTS, SCATTERING_KNOTS, spline_basis
from culmo.core.paint.film import FilmGradient, film_gradient, film_reflectance, through_surface
from culmo.core.paint.jacobian import Jacobian, Pattern, patterns_of
from culmo.core.paint.parameters import (
    ALL_DILUTION_AT,
    BIAS_AT,
    DILUTION_AT,
    DILUTION_ON,
    K_SLICE,
    ON_PAPER,
    PER_PAINT,
    S_SLICE,
    SCATTERING_ON,
    SHARED,
    STRENGTH_ON,
    SURFACE,
    TINT_AT,
    Layout,
    Optics,
)
from culmo.core.paint.recipe import Recipe
from culmo.core.threads import one_thread
from culmo.errors import CulmoError
from culmo.words import tr

# a full wash, a middle one and a tint, between which the hand's spread of water is told
WATER_NODES = (1.0, 5.0**-0.5, 0.2)
_BLOCK = 1024  # rows at a time, so that a block stays in the processor's cache


@dataclass(frozen=True)
class LayerBatch:
    """One layer of those recipes that have it.

    Attributes
    ----------
    rows : (m,) int, which recipes
    parts : (m, P) float, >= 0, parts of each paint
    wash : (m,) float, strength
    card_tint : (m,) int, the paint whose card this tint is, or -1
    paper : (m,) int, the paper's place in the layout
    """

    rows: Indices
    parts: Array
    wash: Array
    card_tint: Indices
    paper: Indices


@dataclass(frozen=True)
class Batch:
    """Recipes in array form: the layers from the bottom up, and the ground below each recipe.

    Attributes
    ----------
    count : int, recipes
    paints : int, all there are
    layers : tuple of LayerBatch
    ground, paper : (count,) int, their places in the layout
    """

    count: int
    paints: int
    layers: tuple[LayerBatch, ...]
    ground: Indices
    paper: Indices

    @cached_property
    def present(self) -> Indices:
        """(n, P) bool, which paints are in each recipe, in whatever layer."""
        present = np.zeros((self.count, self.paints), dtype=bool)
        for layer in self.layers:
            present[layer.rows] |= layer.parts > 0
        return present

    @cached_property
    def _patterns(self) -> dict[Layout, tuple[Pattern, ...]]:
        return {}

    def patterns(self, layout: Layout) -> tuple[Pattern, ...]:
        """The recipes by what they hang on.

        Parameters
        ----------
        layout : Layout
        """
        if layout not in self._patterns:
            self._patterns[layout] = patterns_of(layout, self.present, self.ground, self.paper)
        return self._patterns[layout]

    def take(self, start: int, stop: int) -> "Batch":
        """The recipes from start up to stop."""
        layers = []
        for layer in self.layers:
            keep = (layer.rows >= start) & (layer.rows < stop)
            if keep.any():
                layers.append(
                    LayerBatch(
                        layer.rows[keep] - start,
                        layer.parts[keep],
                        layer.wash[keep],
                        layer.card_tint[keep],
                        layer.paper[keep],
                    )
                )
        own = slice(start, stop)
        return Batch(
            min(stop, self.count) - start, self.paints, tuple(layers), self.ground[own], self.paper[own]
        )


def compile_batch(
    recipes: Sequence[Recipe],
    grounds: Sequence[int],
    index: dict[str, int],
    card_tints: Sequence[bool] | None = None,
    off: Sequence[float] | None = None,
    papers: Sequence[int] | None = None,
) -> Batch:
    """Recipes to arrays.

    Parameters
    ----------
    recipes : sequence of Recipe
    grounds : sequence of int, the ground's place in the layout
    index : dict from folded paint name to its place
    card_tints : sequence of bool, whether the recipe is the tint of a paint's card
    papers : sequence of int, the paper's place in the layout; the usual one by default
    off : sequence of float, by which log a cell of one layer came out stronger than its recipe says

    Raises
    ------
    CulmoError
        naming a paint that is not in `index`
    """
    paper = np.zeros(len(recipes), dtype=int) if papers is None else np.asarray(papers, dtype=int)
    depth = max((len(recipe.layers) for recipe in recipes), default=0)
    layers = []
    for level in range(depth):
        rows = [i for i, recipe in enumerate(recipes) if len(recipe.layers) > level]
        parts, wash = np.zeros((len(rows), len(index))), np.empty(len(rows))
        card = np.full(len(rows), -1)
        for m, i in enumerate(rows):
            layer = recipes[i].layers[-1 - level]
            wash[m] = layer.wash if off is None else layer.wash * np.exp(off[i])
            for part in layer.parts:
                place = index.get(part.name.strip().casefold())
                if place is None:
                    raise CulmoError(
                        tr(
                            'recipe "{recipes}" names "{name}", which is not a known paint',
                            recipes=recipes[i],
                            name=part.name,
                        )
                    )
                parts[m, place] += part.parts
            if card_tints is not None and card_tints[i]:
                card[m] = int(np.argmax(parts[m]))
        at = np.array(rows, dtype=int)
        layers.append(LayerBatch(at, parts, wash, card, paper[at]))
    return Batch(len(recipes), len(index), tuple(layers), np.asarray(grounds, dtype=int), paper)


def _shares(optics: Optics, layer: LayerBatch, rows: slice = slice(None)) -> tuple[Array, Array]:
    share = layer.parts[rows] * np.exp(optics.bias)
    share /= share.sum(axis=1, keepdims=True)
    card = layer.card_tint[rows]
    on = optics.on_paper[layer.paper[rows]]
    thick = layer.wash[rows] ** (1.0 + share @ optics.dilution + on[:, DILUTION_ON]) * np.exp(
        np.where(card >= 0, optics.tint[card], 0.0) + on[:, STRENGTH_ON]
    )
    return share, thick[:, None]


def _scattering_on(optics: Optics, paper: Indices) -> Array:
    """By which factor a film scatters on its paper, (m, 1) float."""
    return np.asarray(np.exp(optics.on_paper[paper, SCATTERING_ON]))[:, None]


@one_thread
def predict_reflectance(optics: Optics, batch: Batch) -> Array:
    """What each recipe reflects, seen from outside.

    Parameters
    ----------
    optics : Optics
    batch : Batch of n recipes

    Returns
    -------
    (n, 36) float, 0..1
    """
    inner = optics.grounds[batch.ground]
    for layer in batch.layers:
        whole = len(layer.rows) == batch.count
        for start in range(0, len(layer.rows), _BLOCK):
            block = slice(start, start + _BLOCK)
            rows = block if whole else layer.rows[block]
            share, X = _shares(optics, layer, block)
            S = share @ optics.S * _scattering_on(optics, layer.paper[block])
            inner[rows] = film_reflectance(share @ optics.K, S, X, inner[rows])
    return through_surface(inner, optics.k1, optics.k2)


@dataclass(frozen=True)
class Linear:
    """Colours of n recipes and how they hang on the parameters and on the hand.

    Attributes
    ----------
    lab : (n, 3) float
    jacobian : Jacobian, (n, 3, p), by the parameter vector
    parts : (n, 3, 3) float, covariance of the colour per unit variance of the log of each part's amount
    parts_count : (n,) int, independent errors of ratios in each
    water : (n, 3, 3, 3) float, covariance per unit variance of the log of the film's strength at full, middle and tint
    water_count : (n, 3) float, washes of each
    amounts : (n, 3, k) float, by the log of each paint's amount, the paints of a recipe in their order; those of all its
        layers together
    film : (n, 3) float, by the log of the strength of the top layer's film
    """

    lab: Array
    jacobian: Jacobian
    parts: Array
    parts_count: Indices
    water: Array
    water_count: Array
    amounts: Array
    film: Array


def water_shares(wash: Array) -> Array:
    """How much of the variance of the water at full, middle and tint a wash has: between two of them of both.

    Parameters
    ----------
    wash : (...) float, 0 < wash <= 1

    Returns
    -------
    (..., 3) float, adding up to 1
    """
    at = np.log(np.asarray(wash, dtype=float))
    full, middle, tint = np.log(WATER_NODES)
    of_full = np.clip((at - middle) / (full - middle), 0.0, 1.0)
    of_tint = np.clip((middle - at) / (middle - tint), 0.0, 1.0)
    return np.stack([of_full, 1.0 - of_full - of_tint, of_tint], axis=-1)


@one_thread
def linearise(layout: Layout, theta: Array, batch: Batch) -> Linear:
    """Colours and their derivatives by the chain rule, from the surface down through the layers.

    Parameters
    ----------
    layout : Layout
    theta : (p,) float
    batch : Batch of n recipes
    """
    optics = layout.optics(theta)
    inner = optics.grounds[batch.ground]
    steps: list[tuple[LayerBatch, Array, Array, FilmGradient]] = []
    for layer in batch.layers:
        share, X = _shares(optics, layer)
        S = share @ optics.S * _scattering_on(optics, layer.paper)
        film = film_gradient(share @ optics.K, S, X, inner[layer.rows])
        inner = inner.copy()
        inner[layer.rows] = film.reflectance
        steps.append((layer, share, X, film))
    lab, by_outer = lab_and_gradient(through_surface(inner, optics.k1, optics.k2))
    inside = 1.0 - optics.k2 * inner
    by_k1 = 1.0 - (1.0 - optics.k2) * inner / inside
    by_k2 = (1.0 - optics.k1) * inner * (inner - 1.0) / inside**2
    adjoint = by_outer * ((1.0 - optics.k1) * (1.0 - optics.k2) / inside**2)[:, None, :]

    slots = np.cumsum(batch.present, axis=1) - 1  # the paints of a recipe, numbered
    most = int(slots.max(initial=-1)) + 1
    hand = _Hand(batch.count, most)
    own = np.zeros((batch.count, 3, most, PER_PAINT))
    for layer, share, X, film in reversed(steps):
        _add_layer(own, slots, adjoint, hand, optics, layer, share, X, film)

    slope = optics.grounds * (1.0 - optics.grounds)
    values = np.empty((batch.count, 3, SHARED + most * PER_PAINT))
    values[:, :, 0] = np.einsum("nib,nb->ni", by_outer, by_k1) * optics.k1
    values[:, :, 1] = np.einsum("nib,nb->ni", by_outer, by_k2) * optics.k2 * (1.0 - optics.k2)
    values[:, :, ALL_DILUTION_AT] = hand.dilution
    values[:, :, SHARED - ON_PAPER : SHARED] = hand.on_paper * (batch.paper > 0)[:, None, None]
    values[:, :, SURFACE : SHARED - ON_PAPER] = (adjoint * slope[batch.ground][:, None, :]) @ spline_basis(
        GROUND_KNOTS
    )
    values[:, :, SHARED:] = own.reshape(batch.count, 3, most * PER_PAINT)
    jacobian = Jacobian(layout.size, batch.patterns(layout), values)
    return Linear(
        lab, jacobian, hand.parts, hand.parts_count, hand.water, hand.water_count, hand.amounts, hand.film
    )


class _Hand:
    """Gathers over the layers what the hand does: its covariances, and how it dilutes."""

    def __init__(self, count: int, most: int) -> None:
        self.amounts = np.zeros((count, 3, most))
        self.parts = np.zeros((count, 3, 3))
        self.water = np.zeros((count, 3, 3, 3))
        self.parts_count = np.zeros(count, dtype=int)
        self.water_count = np.zeros((count, 3))
        self.film = np.zeros((count, 3))
        self.on_paper = np.zeros((count, 3, ON_PAPER))  # and on what its paper does to it
        self.dilution = np.zeros((count, 3))  # how the colour hangs on the dilution of all paints


def _add_layer(
    own: Array,
    slots: Indices,
    adjoint: Array,
    hand: _Hand,
    optics: Optics,
    layer: LayerBatch,
    share: Array,
    X: Array,
    film: FilmGradient,
) -> None:
    above = adjoint[layer.rows]
    by_K = above * film.by_K[:, None, :]
    by_S = above * (film.by_S * _scattering_on(optics, layer.paper))[:, None, :]
    i, j = np.nonzero(share)
    rows, weight = layer.rows[i], share[i, j][:, None]
    slot = slots[rows, j]
    own[rows, :, slot, K_SLICE] += (by_K[i] * (weight * optics.K[j])[:, None, :]) @ spline_basis(
        ABSORPTION_KNOTS
    )
    own[rows, :, slot, S_SLICE] += (by_S[i] * (weight * optics.S[j])[:, None, :]) @ spline_basis(
        SCATTERING_KNOTS
    )
    K, S = share @ optics.K, share @ optics.S
    by_amount = np.einsum("nib,nb->ni", by_K[i], optics.K[j] - K[i])
    by_amount += np.einsum("nib,nb->ni", by_S[i], optics.S[j] - S[i])
    by_water = np.einsum("nib,nb->ni", above, film.by_X) * X
    by_dilution = by_water * np.log(layer.wash)[:, None]
    # another share of a paint dilutes otherwise, too
    aside = optics.dilution[j] - (share @ optics.dilution)[i]
    by_amount = (by_amount + by_dilution[i] * aside[:, None]) * weight
    own[rows, :, slot, BIAS_AT] += by_amount
    hand.amounts[rows, :, slot] += by_amount
    own[rows, :, slot, DILUTION_AT] += by_dilution[i] * weight
    hand.dilution[layer.rows] += by_dilution
    hand.on_paper[layer.rows, :, STRENGTH_ON] += by_water
    hand.on_paper[layer.rows, :, DILUTION_ON] += by_dilution
    hand.on_paper[layer.rows, :, SCATTERING_ON] += np.einsum("nib,nb->ni", by_S, S)
    unseen = layer.rows[(hand.film[layer.rows] == 0.0).all(axis=1)]  # the layers come from the top down
    hand.film[unseen] = by_water[np.isin(layer.rows, unseen)]
    card = np.flatnonzero(layer.card_tint >= 0)
    carded = layer.rows[card]
    own[carded, :, slots[carded, layer.card_tint[card]], TINT_AT] += by_water[card]
    np.add.at(hand.parts, rows, by_amount[:, :, None] * by_amount[:, None, :])
    hand.parts_count[layer.rows] += (share > 0).sum(axis=1) - 1
    # a card's tint has its paleness among the parameters
    reach = np.where(layer.card_tint >= 0, 0.0, 1.0)[:, None] * water_shares(layer.wash)
    hand.water[layer.rows] += reach[:, :, None, None] * (by_water[:, :, None] * by_water[:, None, :])[:, None]
    hand.water_count[layer.rows] += reach
    adjoint[layer.rows] = above * film.by_ground[:, None, :]
