"""How washes granulate and part: what patches teach of each paint, and what is foretold of mixes. See docs/texture.md.

The film of a wash is uneven: each pigment lies thicker in some places than in others. What drives all pigments alike is the
tooth of the paper: heavy ones settle in its valleys, some stay on the hills; besides, each clumps by itself. With small
fluctuations of the films the colours scatter along the slopes of the mixing model, so that grain and parting of a mix follow
from its paints.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.spectral import DAYLIGHT, Array, Indices
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.film import film_reflectance, through_surface
from culmo.core.paint.next_cells import Prior
from culmo.core.paint.optics import compile_batch
from culmo.core.paint.readings import PAPER
from culmo.core.paint.recipe import Recipe
from culmo.core.paint.texture import Texture

_STEP = 0.25  # of a paint's film, for its slope: as films do fluctuate
_LEAST, _LEAST_APART = 0.2, 0.15  # of L*, and of a* and b*, that any wash has
_LABEL_LEAST, _LABEL_MOST = 0.03, 0.32  # fluctuation of the film of a paint that does not granulate, and most
_VALLEYS = 0.7  # the share of it that follows the tooth, before anything is seen
_FREELY, _FREELY_MORE = (
    0.06,
    0.6,
)  # how far a paint may be from its label: of the fluctuation, and as a share of it
_BY_WASH = 0.3  # the deviation of the power by which fluctuation goes with the strength of a wash
_MODEL_OFF = 0.15  # of a texture, by which the model may be off
_USUAL_MM, _SIZE_FREELY = 0.6, 0.5  # of grains; and the deviation of its log
_DRAWS = 64
_STEPS, _SETTLED, _STIFF = 60, 1e-6, 1e9
_ENOUGH = 2  # patches of a paint, by which it is known better than by its label


@dataclass(frozen=True)
class SeenTexture:
    """What was measured of a patch.

    Attributes
    ----------
    recipe : Recipe, of one layer or more; the top one's grain is seen
    texture : Texture
    """

    recipe: Recipe
    texture: Texture


@dataclass(frozen=True)
class Grains:
    """What is known of how paints settle.

    Attributes
    ----------
    names : tuple of P str, as the estimate has them
    together, alone : (P,) float, fluctuation of a paint's film, as a share of it, that follows the tooth (negative on its
        hills), and that is its own
    size_mm : (P,) float, of its grains
    by_wash : float, the power of a wash's strength by which it fluctuates more
    covariance : (2 P + 1, 2 P + 1) float, of `together`, the logs of `alone`, and `by_wash`
    taught : (P,) int, how many patches each rests on
    """

    names: tuple[str, ...]
    together: Array
    alone: Array
    size_mm: Array
    by_wash: float
    covariance: Array
    taught: Array


@dataclass(frozen=True)
class Foretold:
    """The texture of n mixes.

    Attributes
    ----------
    contrast, contrast_off, parting, parting_off : (n,) float, CIELAB, with one standard deviation of each
    size_mm : (n,) float
    """

    contrast: Array
    contrast_off: Array
    parting: Array
    parting_off: Array
    size_mm: Array


@dataclass(frozen=True)
class Scatter:
    """How the colours of n washes scatter, for drawing them.

    Attributes
    ----------
    lab : (n, 3) float, CIELAB, the mean
    common, own : (n, 3) float, one standard deviation of what goes with the tooth, and of what goes its own ways
    size_mm : (n,) float, of the grains
    """

    lab: Array
    common: Array
    own: Array
    size_mm: Array


def film_slopes(estimate: Estimate, recipes: Sequence[Recipe]) -> tuple[Array, Array, Array]:
    """How colours change as the film of each paint grows, at the mean film, and the strength of each wash.

    Parameters
    ----------
    estimate : Estimate
    recipes : sequence of n Recipe, of one layer at least

    Returns
    -------
    (n, P, 3) float, CIELAB by the log of the film of each paint in the top layer; (n,) float, 0..1; (n, 3) float, CIELAB,
    the colours themselves
    """
    optics = estimate.layout.optics(estimate.theta)
    batch = compile_batch(recipes, [estimate.ground_index(PAPER)] * len(recipes), estimate.index)
    inner = np.array(optics.grounds[batch.ground])
    depth = np.array([len(recipe.layers) for recipe in recipes])
    slopes: Array = np.zeros((batch.count, batch.paints, 3))
    wash: Array = np.ones(batch.count)
    one = np.ones((1, 1))
    for level, layer in enumerate(batch.layers):
        share = layer.parts * np.exp(optics.bias)
        share = share / share.sum(axis=1, keepdims=True)
        film = share * (layer.wash ** (1.0 + share @ optics.dilution))[:, None]
        K, S = film @ optics.K, film @ optics.S
        top = np.flatnonzero(depth[layer.rows] == level + 1)
        wash[layer.rows[top]] = layer.wash[top]
        rows, paints = np.nonzero(film[top] > 0.0)
        rows = top[rows]
        more = _STEP * film[rows, paints][:, None]
        ends = [
            lab_from_reflectance(
                through_surface(
                    film_reflectance(
                        K[rows] + sign * more * optics.K[paints], S[rows] + sign * more * optics.S[paints], one,
                        inner[layer.rows[rows]],
                    ),
                    optics.k1, optics.k2,
                ),
                DAYLIGHT,
            )
            for sign in (1.0, -1.0)
        ]  # fmt: skip
        slopes[layer.rows[rows], paints] = (ends[0] - ends[1]) / (2.0 * _STEP)
        inner[layer.rows] = film_reflectance(K, S, one, inner[layer.rows])
    return slopes, wash, lab_from_reflectance(through_surface(inner, optics.k1, optics.k2), DAYLIGHT)


@dataclass(frozen=True)
class _Washes:
    """Washes with the slopes of their own paints alone: of sixty there are two or three in each.

    Attributes
    ----------
    paints : (n, k) int, the places of their paints; where there are fewer, any with no slope
    slopes : (n, k, 3) float, CIELAB by the log of the film of each
    products : (n, k, 3, 3) float, of the slopes of each with themselves
    wash : (n,) float, their strength
    """

    paints: Indices
    slopes: Array
    products: Array
    wash: Array


def _washes(slopes: Array, wash: Array) -> _Washes:
    there = np.abs(slopes).max(axis=2) > 0.0
    most = max(1, int(there.sum(axis=1).max(initial=0)))
    paints = np.argsort(~there, axis=1, kind="stable")[:, :most]
    own = np.take_along_axis(slopes, paints[:, :, None], axis=1)
    return _Washes(paints, own, own[..., :, None] * own[..., None, :], wash)


def _told(washes: _Washes, values: Array) -> tuple[Array, Array, Array]:
    """Contrast (n,), parting (n,) and the share of a* and b* that goes with L* (n, 2), of figures of the paints."""
    count = len(values) // 2
    together, alone = values[:count][washes.paints], np.exp(2.0 * values[count : 2 * count])[washes.paints]
    scale = (washes.wash ** values[-1])[:, None]
    common = np.einsum("nkc,nk->nc", washes.slopes, together) * scale
    own = np.einsum("nkcd,nk->ncd", washes.products, alone) * scale[:, :, None] ** 2
    contrast = np.sqrt(common[:, 0] ** 2 + own[:, 0, 0] + _LEAST**2)
    apart = common[:, 1] ** 2 + common[:, 2] ** 2 + own[:, 1, 1] + own[:, 2, 2]
    along = (common[:, :1] * common[:, 1:] + own[:, 0, 1:]) / contrast[:, None]
    return contrast, np.sqrt(apart + _LEAST_APART**2), along


def _by_label(names: Sequence[str], grain: Callable[[str], float]) -> Array:
    """Fluctuation of each paint's film by what its label or the table says, (P,) float."""
    said = np.array([grain(name.casefold()) for name in names])
    return np.asarray(_LABEL_LEAST + (_LABEL_MOST - _LABEL_LEAST) * np.clip(said, 0.0, 1.0))


def learn_grains(estimate: Estimate, seen: Sequence[SeenTexture], grain: Callable[[str], float]) -> Grains:
    """What patches teach of how paints settle, beginning from label and table.

    Parameters
    ----------
    estimate : Estimate, by which their colours follow from their films
    seen : sequence of SeenTexture, of paints that the estimate knows
    grain : function from a paint's folded name to how much it is said to granulate, 0..1
    """
    count = len(estimate.names)
    said = _by_label(estimate.names, grain)
    prior = np.concatenate([_VALLEYS * said, np.log(0.6 * said), [0.0]])
    loose = np.concatenate([_FREELY + _FREELY_MORE * said, np.full(count, 0.7), [_BY_WASH]])
    taught = np.zeros(count, dtype=int)
    if not seen:
        return Grains(
            estimate.names, prior[:count], np.exp(prior[count:-1]), np.full(count, _USUAL_MM), 0.0, np.diag(loose**2), taught
        )  # fmt: skip
    slopes, wash, _ = film_slopes(estimate, [one.recipe for one in seen])
    taught = (np.abs(slopes).sum(axis=2) > 0.0).sum(axis=0)
    contrast, contrast_off, parting, parting_off, length, size = np.array(
        [
            (t.contrast, t.contrast_off, t.parting, t.parting_off, t.length, t.size_mm)
            for t in (one.texture for one in seen)
        ]
    ).T
    axis = np.array([one.texture.axis for one in seen])
    along = length[:, None] ** 2 * axis[:, :1] * axis[:, 1:] / np.maximum(contrast, _LEAST)[:, None]
    wide = np.sqrt(contrast_off**2 + (_MODEL_OFF * contrast) ** 2 + _LEAST**2)
    apart = np.sqrt(parting_off**2 + (_MODEL_OFF * parting) ** 2 + _LEAST_APART**2)
    washes = _washes(slopes, wash)
    off = np.concatenate([wide, apart, apart, apart])
    seen_values = np.concatenate([contrast, parting, along[:, 0], along[:, 1]])
    values, covariance = _fitted(washes, seen_values, off, prior, loose)
    sizes = _sizes(slopes, values, size)
    return Grains(
        estimate.names, values[:count], np.exp(values[count:-1]), sizes, float(values[-1]), covariance, taught
    )  # fmt: skip


def _fitted(washes: _Washes, seen: Array, off: Array, prior: Array, loose: Array) -> tuple[Array, Array]:
    """The figures that tell best what was seen, with their covariance: least squares that bear a stray (Levenberg and
    Marquardt's steps, each reading weighed by 1 / sqrt(1 + its square)).

    Parameters
    ----------
    washes : _Washes, n of them
    seen, off : (4 n,) float, contrasts, partings, shares of a* and of b* that go with L*; and how far off each may be
    prior, loose : (m,) float, what the figures are believed to be, and how loosely
    """

    def left(values: Array) -> tuple[Array, float]:
        contrast, parting, along = _told(washes, values)
        rest = (np.concatenate([contrast, parting, along[:, 0], along[:, 1]]) - seen) / off
        away = (values - prior) / loose
        return rest, float(2.0 * (np.sqrt(1.0 + rest**2) - 1.0).sum() + away @ away)

    values, damping = prior, 1e-3
    rest, cost = left(values)
    held = np.diag(loose**-2.0)
    for _ in range(_STEPS):
        slopes = _derivatives(washes, values) / off[:, None]
        weighed = slopes / np.sqrt(1.0 + rest**2)[:, None]
        bend, pull = weighed.T @ slopes + held, weighed.T @ rest + (values - prior) / loose**2
        step = np.linalg.solve(bend + damping * np.diag(np.diag(bend)), -pull)
        tried, lower = left(values + step)
        if lower >= cost:
            damping *= 10.0
            if damping > _STIFF:
                break
            continue
        settled = cost - lower < _SETTLED * cost
        values, rest, cost, damping = values + step, tried, lower, max(damping / 10.0, 1e-6)
        if settled:
            break
    slopes = _derivatives(washes, values) / off[:, None]
    return values, np.linalg.inv((slopes / np.sqrt(1.0 + rest**2)[:, None]).T @ slopes + held)


def _derivatives(washes: _Washes, values: Array) -> Array:
    """The derivatives of what `_told` gives, one after the other, by the figures, (4 n, m) float."""
    count, n = len(values) // 2, len(washes.paints)
    contrast, parting, along = _told(washes, values)
    scale = (washes.wash ** values[-1])[:, None]
    slopes = washes.slopes * scale[:, :, None]
    alone = np.exp(2.0 * values[count : 2 * count])[washes.paints]
    common = np.einsum("nkc,nk->nc", slopes, values[:count][washes.paints])
    own = washes.products * (alone * scale**2)[:, :, None, None]
    by_wash = np.log(washes.wash)
    found: Array = np.zeros((4, n, len(values)))
    rows = np.arange(n)[:, None]
    tops = (contrast[:, None], parting[:, None])
    by_together = [
        common[:, :1] * slopes[:, :, 0] / tops[0],
        (common[:, None, 1:] * slopes[:, :, 1:]).sum(axis=2) / tops[1],
    ]
    by_alone = [own[:, :, 0, 0] / tops[0], (own[:, :, 1, 1] + own[:, :, 2, 2]) / tops[1]]
    by_power = [
        by_wash * (contrast**2 - _LEAST**2) / contrast,
        by_wash * (parting**2 - _LEAST_APART**2) / parting,
    ]
    for axis in (1, 2):
        share = along[:, axis - 1 : axis] / tops[0]
        both = slopes[:, :, 0] * common[:, axis : axis + 1] + common[:, :1] * slopes[:, :, axis]
        by_together.append(both / tops[0] - share * by_together[0])
        by_alone.append(2.0 * own[:, :, 0, axis] / tops[0] - share * by_alone[0])
        by_power.append(2.0 * by_wash * along[:, axis - 1] - share[:, 0] * by_power[0])
    for place in range(4):
        # where there are fewer paints the places that stand for none have no slope: what is added there is nothing
        np.add.at(found[place], (rows, washes.paints), by_together[place])
        np.add.at(found[place], (rows, washes.paints + count), by_alone[place])
        found[place, :, -1] = by_power[place]
    return found.reshape(4 * n, len(values))


def said_of(grains: Grains) -> Array:
    """How much each paint granulates as a label says it, (P,) float, 0..1: what patches taught, or began from."""
    uneven = np.hypot(grains.together, grains.alone)
    return np.clip((uneven - _LABEL_LEAST) / (_LABEL_MOST - _LABEL_LEAST), 0.0, 1.0)


def as_label(grains: Grains) -> dict[str, float]:
    """How much paints granulate as a label says it, 0..1, by their folded names; of those that enough patches showed."""
    return {
        name.casefold(): float(value)
        for name, value, taught in zip(grains.names, said_of(grains), grains.taught, strict=True)
        if taught >= _ENOUGH
    }


def _shares(slopes: Array, values: Array) -> Array:
    """How much each paint has to do with the grain of each wash, (n, P) float, sums of 1."""
    count = slopes.shape[1]
    power = slopes[:, :, 0] ** 2 * (values[:count] ** 2 + np.exp(2.0 * values[count : 2 * count]))
    return np.asarray(power / np.maximum(power.sum(axis=1, keepdims=True), 1e-12))


def _sizes(slopes: Array, values: Array, seen: Array) -> Array:
    """The size of each paint's grains, (P,) float, mm: of a mix they are between those of its paints."""
    told = seen > 0.0
    share = _shares(slopes[told], values)
    off = np.log(seen[told] / _USUAL_MM)
    held = share.T @ share / 0.2**2 + np.eye(slopes.shape[1]) / _SIZE_FREELY**2
    return np.asarray(_USUAL_MM * np.exp(np.linalg.solve(held, share.T @ off / 0.2**2)))


def foretell(estimate: Estimate, grains: Grains, recipes: Sequence[Recipe]) -> Foretold:
    """The texture of mixes, with its spread.

    Parameters
    ----------
    estimate : Estimate
    grains : Grains, learned with the same paints
    recipes : sequence of n Recipe, of one layer at least
    """
    slopes, wash, _ = film_slopes(estimate, recipes)
    values = _figures(grains)
    washes = _washes(slopes, wash)
    contrast, parting, _ = _told(washes, values)
    root = np.linalg.cholesky(grains.covariance + 1e-12 * np.eye(len(values)))
    draws = values + np.random.default_rng(0).standard_normal((_DRAWS, len(values))) @ root.T
    others = [_told(washes, one)[:2] for one in draws]
    spread = np.std(np.array(others), axis=0)
    return Foretold(
        contrast=contrast,
        contrast_off=np.hypot(spread[0], _MODEL_OFF * contrast),
        parting=parting,
        parting_off=np.hypot(spread[1], _MODEL_OFF * parting),
        size_mm=np.exp(_shares(slopes, values) @ np.log(grains.size_mm)),
    )


def grains_by(estimate: Estimate, seen: Grains | None, said: Callable[[str], float]) -> Grains:
    """How the paints settle as pictures taught it, else by what is said of them.

    Parameters
    ----------
    estimate : Estimate
    seen : Grains that pictures taught; None where none did
    said : function from a paint's name to how much it is said to granulate, 0..1
    """
    return seen if seen is not None else learn_grains(estimate, [], said)


def likely_textures(estimate: Estimate, grains: Grains, recipes: Sequence[Recipe]) -> tuple[Array, Array]:
    """Contrast and parting of many mixes, (n,) float each, CIELAB, as `foretell` has them but without their spread."""
    slopes, wash, _ = film_slopes(estimate, recipes)
    contrast, parting, _ = _told(_washes(slopes, wash), _figures(grains))
    return contrast, parting


def known_textures(
    estimate: Estimate,
    grains: Grains,
    recipes: Sequence[Recipe],
    read: Sequence[bool] | None = None,
    asked: slice = slice(0, 2),
) -> Prior:
    """What is known of the contrast and the parting of washes before a patch shows them, CIELAB.

    Parameters
    ----------
    estimate, grains : as in `foretell`
    recipes : sequence of n Recipe
    read : sequence of n bool, washes that need no choosing any more
    asked : slice of (contrast, parting): both, or one of them
    """
    slopes, wash, _ = film_slopes(estimate, recipes)
    washes, values, count = _washes(slopes, wash), _figures(grains), len(recipes)
    told = np.stack(_told(washes, values)[:2], axis=1)[:, asked]
    slopes = _derivatives(washes, values).reshape(4, count, -1)[:2].transpose(1, 0, 2)[:, asked]
    figures = told.shape[1]
    by_figure = slopes.reshape(count * figures, -1)
    joint = by_figure @ grains.covariance @ by_figure.T
    off = np.hypot(_MODEL_OFF * told, np.array([_LEAST, _LEAST_APART])[asked])
    own = off[:, :, None] ** 2 * np.eye(figures)
    free = np.ones(count, dtype=bool) if read is None else ~np.asarray(read, dtype=bool)
    return Prior(joint.reshape(count, figures, count, figures), own, free, np.arange(count), np.ones(count))


def _figures(grains: Grains) -> Array:
    """The figures of the paints in one row, (2 P + 1,) float."""
    return np.concatenate([grains.together, np.log(grains.alone), [grains.by_wash]])


def scatter(estimate: Estimate, grains: Grains, recipes: Sequence[Recipe]) -> Scatter:
    """How the colours of washes scatter.

    Parameters
    ----------
    estimate, grains, recipes : as in `foretell`
    """
    slopes, wash, lab = film_slopes(estimate, recipes)
    scale = (wash**grains.by_wash)[:, None]
    own = np.einsum("npc,npd,p->ncd", slopes, slopes, grains.alone**2, optimize=True)
    power, ways = np.linalg.eigh(own)
    return Scatter(
        lab=lab,
        common=np.einsum("npc,p->nc", slopes, grains.together) * scale,
        own=ways[:, :, 2] * np.sqrt(np.maximum(power[:, 2:], 0.0)) * scale,
        size_mm=np.exp(_shares(slopes, _figures(grains)) @ np.log(grains.size_mm)),
    )
