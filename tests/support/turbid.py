"""A laboratory of another kind than the film formula: light that is carried through a turbid layer, and a hand that errs.

Radiative transfer by adding and doubling (van de Hulst 1980; quadrature and start as Prahl, van Gemert and Welch 1993 and
Wiscombe 1976), for particles that scatter forwards (Henyey and Greenstein 1941), in a film of another index than air, on a
paper that scatters itself and into which part of the paint sinks. It shares no code and no formula with the estimate: not
the film, not the surface, not the colorimetry (that of the colour-science package), not the paints.

Every effect beside plain mixing can be switched off (`Effects`), and the hand is one of several kinds (`HANDS`).
"""

import itertools
import warnings
from copy import copy
from dataclasses import dataclass, field, replace
from functools import cache

import numpy as np

from culmo.core.paint.readings import INK, PAPER, Reading, SeenDepth
from culmo.core.paint.recipe import Recipe, mix

BANDS = np.arange(380.0, 731.0, 10.0)
_EV = 1239.84 / BANDS  # photon energy: absorption bands are even in it
_ANGLES = 8


# ---- light in a turbid layer


@dataclass(frozen=True)
class Angles:
    """The cosines and weights of a half sphere inside a medium of some index, those that are shut in first.

    Attributes
    ----------
    mu, weight : (N,) float; the last cosine is 1
    inward : (N,) float, the share that the surface throws back into the medium
    straight : float, the share that it throws back from outside, straight on
    """

    mu: np.ndarray
    weight: np.ndarray
    inward: np.ndarray
    straight: float


def _gauss(count, low, high):
    nodes, weights = np.polynomial.legendre.leggauss(count)
    return low + (nodes + 1) * (high - low) / 2, weights * (high - low) / 2


def _radau(count, low, high):
    """Radau's quadrature with the upper end among its nodes."""
    legendre = np.polynomial.legendre.Legendre
    if count == 1:
        return np.array([high]), np.array([high - low])
    p, q = legendre.basis(count - 1), legendre.basis(count)
    # the nodes are the zeros of (P(n-1) + P(n)) / (1 + x), mirrored
    inner = (p + q) // legendre([1, 1])
    roots = np.sort(np.real(inner.roots()))
    weights = (1 - roots) / (count * p(roots)) ** 2
    nodes = np.concatenate([[-1.0], roots])
    weights = np.concatenate([[2.0 / count**2], weights])
    nodes, weights = -nodes[::-1], weights[::-1]
    return low + (nodes + 1) * (high - low) / 2, weights * (high - low) / 2


def _fresnel(inside_cos, index):
    """What the surface throws back of unpolarised light from inside."""
    sine = np.sqrt(np.maximum(1 - inside_cos**2, 0)) * index
    out = np.sqrt(np.maximum(1 - sine**2, 0))
    s = ((index * inside_cos - out) / (index * inside_cos + out)) ** 2
    p = ((index * out - inside_cos) / (index * out + inside_cos)) ** 2
    return np.where(sine >= 1, 1.0, (s + p) / 2)


@cache
def angles(index, count=_ANGLES):
    """The angles for a medium of some index."""
    if index == 1.0:
        mu, weight = _radau(count, 0.0, 1.0)
    else:
        critical = np.sqrt(1 - 1 / index**2)
        shut, free = _gauss(count // 2, 0.0, critical), _radau(count - count // 2, critical, 1.0)
        mu, weight = np.concatenate([shut[0], free[0]]), np.concatenate([shut[1], free[1]])
    return Angles(mu, weight, _fresnel(mu, index), float(((index - 1) / (index + 1)) ** 2))


def _phase(g, at):
    """How scattered light goes on and comes back, (..., N, N) each; and the share that the forward peak holds, (...)."""
    n = len(at.mu)
    orders = np.arange(n)
    peak = g**n
    moments = (g[..., None] ** orders - peak[..., None]) / (1 - peak[..., None])
    polynomials = np.array([np.polynomial.legendre.Legendre.basis(k)(at.mu) for k in orders])
    weights = (2 * orders + 1) * moments
    onwards = np.einsum("...k,ki,kj->...ij", weights, polynomials, polynomials)
    backwards = np.einsum("...k,ki,kj->...ij", weights * (-1.0) ** orders, polynomials, polynomials)
    return onwards, backwards, peak


def slab(absorbed, scattered, g, at):
    """A layer's reflection and transmission, as matrices that turn radiance into radiance.

    Parameters
    ----------
    absorbed, scattered : (...) float, optical depths
    g : (...) float, mean cosine of scattering
    at : Angles

    Returns
    -------
    two (..., N, N) float
    """
    absorbed, scattered, g = np.broadcast_arrays(
        *(np.asarray(v, dtype=float) for v in (absorbed, scattered, g))
    )
    onwards, backwards, peak = _phase(g, at)
    scattered = scattered * (1 - peak)
    depth = absorbed + scattered
    albedo = scattered / np.maximum(depth, 1e-30)
    times = max(0, int(np.ceil(np.log2(max(depth.max(), 1e-12) / 5e-3))))
    step = depth / 2.0**times
    unit = np.eye(len(at.mu))
    turned = (albedo / 2)[..., None, None] * at.weight
    out = (unit - onwards * turned) / at.mu[:, None]
    over = backwards * turned / at.mu[:, None]
    half = (step / 2)[..., None, None]
    inverse = np.linalg.inv(unit + out * half)
    G, D = inverse @ (over * half), inverse @ (unit - out * half)
    T = np.linalg.solve(unit - G @ G, D + G @ G)
    R = G @ (unit + T)
    for _ in range(times):
        between = np.linalg.solve(unit - R @ R, T)
        R, T = R + T @ R @ between, T @ between
    return R, T


def on_top(R, T, below):
    """What a layer and all that lies below it throw back, (..., N, N)."""
    unit = np.eye(R.shape[-1])
    return R + T @ below @ np.linalg.solve(unit - R @ below, T)


def seen(below, at, gloss=0.0):
    """What is seen of light that falls straight on, all directions gathered but the mirror's, (...) float.

    Parameters
    ----------
    below : (..., N, N) float, what lies under the surface
    at : Angles
    gloss : float, what a matt surface scatters besides
    """
    unit = np.eye(len(at.mu))
    falls = (1 - at.straight) / (2 * at.mu[-1] * at.weight[-1])
    up = np.linalg.solve(unit - below * at.inward, below[..., -1:])[..., 0] * falls
    out = 2 * (at.weight * at.mu * (1 - at.inward) * up).sum(axis=-1)
    return gloss + (1 - gloss) * out


# ---- colours


@cache
def _colour():
    """The colour-science package, which warns of what it could plot with."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour
    return colour


@cache
def _observer():
    """The weights of the bands for X, Y and Z under D65, and the white, of the colour-science package."""
    colour = _colour()
    shape = colour.SpectralShape(380, 730, 10)
    eye = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape).values
    lamp = colour.SDS_ILLUMINANTS["D65"].copy().align(shape).values
    weights = eye * lamp[:, None]
    return weights / weights[:, 1].sum()


def lab_of(reflectance):
    """CIELAB of spectra, D65 and the 2 degree observer."""
    colour, weights = _colour(), _observer()
    white = weights.sum(axis=0)
    return colour.XYZ_to_Lab(reflectance @ weights, illuminant=colour.XYZ_to_xy(white))


# ---- paints


@dataclass(frozen=True)
class Paint:
    """A paint as it takes and scatters light, per full wash.

    Attributes
    ----------
    absorbed, scattered, g : (36,) float, optical depths and the mean cosine
    sinks : float, 0..1, the share of it that goes into the paper
    heavy : float, how it settles against others, in the film and over the grain of the paper
    dilutes : float, added to the power by which its film grows with the strength of its wash
    """

    name: str
    absorbed: np.ndarray
    scattered: np.ndarray
    g: np.ndarray
    sinks: float
    heavy: float
    dilutes: float


def _bell(peak, ev, width):
    return peak * np.exp(-(((_EV - ev) / width) ** 2))


def _step(peak, ev, width):
    return peak / (1 + np.exp(-(_EV - ev) / width))


# peak of the optical depth, place and width in eV, each with a range; "step" absorbs all above, "bell" about its place
_KINDS = {
    "primrose": [("step", (1.2, 2.4), (2.53, 2.60), (0.03, 0.05))],
    "chrome": [("step", (1.5, 2.8), (2.38, 2.46), (0.03, 0.06))],
    "tangerine": [("step", (1.6, 2.8), (2.17, 2.25), (0.03, 0.05)), ("bell", (0.1, 0.5), (2.9, 3.1), (0.2, 0.3))],
    "vermilion": [("step", (1.8, 3.0), (2.06, 2.12), (0.025, 0.04))],
    "madder": [("bell", (1.4, 2.6), (2.24, 2.32), (0.14, 0.2)), ("bell", (0.3, 0.9), (2.5, 2.7), (0.2, 0.3))],
    "magenta": [("bell", (1.5, 2.6), (2.22, 2.30), (0.13, 0.18)), ("bell", (0.1, 0.3), (3.0, 3.1), (0.15, 0.2))],
    "dioxazine": [("bell", (1.8, 3.2), (2.1, 2.2), (0.18, 0.26)), ("bell", (0.2, 0.4), (2.9, 3.0), (0.2, 0.3))],
    "lazurite": [("bell", (1.2, 2.4), (2.05, 2.11), (0.17, 0.23)), ("bell", (0.1, 0.3), (2.4, 2.5), (0.2, 0.25))],
    "smalt": [("bell", (0.5, 0.9), (2.09, 2.15), (0.14, 0.2)), ("bell", (0.25, 0.5), (1.9, 1.95), (0.07, 0.1))],
    "indanthrone": [("bell", (1.6, 2.8), (1.78, 1.9), (0.22, 0.3)), ("bell", (0.3, 0.7), (2.9, 3.1), (0.25, 0.35))],
    "copper blue": [("bell", (1.4, 2.6), (1.99, 2.05), (0.12, 0.17)), ("bell", (1.0, 1.8), (1.76, 1.82), (0.09, 0.14))],
    "copper green": [("bell", (1.7, 2.9), (1.88, 1.95), (0.16, 0.22)), ("bell", (0.5, 1.1), (3.0, 3.2), (0.25, 0.35))],
    "chromium": [("bell", (0.6, 1.2), (2.0, 2.06), (0.16, 0.2)), ("bell", (0.6, 1.2), (2.85, 2.95), (0.2, 0.3))],
    "yellow earth": [("step", (0.7, 1.3), (2.42, 2.52), (0.08, 0.13)), ("step", (0.03, 0.1), (1.6, 1.8), (0.1, 0.2))],
    "burnt earth": [("step", (0.8, 1.5), (2.18, 2.3), (0.08, 0.13)), ("step", (0.08, 0.2), (1.6, 1.8), (0.1, 0.2))],
    "red earth": [("step", (1.2, 2.0), (2.1, 2.17), (0.05, 0.08)), ("step", (0.15, 0.3), (1.6, 1.8), (0.1, 0.2))],
    "brown earth": [("step", (0.7, 1.2), (2.2, 2.4), (0.2, 0.32)), ("step", (0.25, 0.5), (1.5, 1.7), (0.1, 0.2))],
    "lamp black": [("step", (0.9, 1.6), (0.5, 1.0), (0.2, 0.4))],
}  # fmt: skip
# what would stand on the label of a paint of each kind
_CODES = {
    "primrose": "PY175", "chrome": "PY35", "tangerine": "PO20", "vermilion": "PR108", "madder": "PR177", "magenta": "PV19",
    "dioxazine": "PV23", "lazurite": "PB29", "smalt": "PB28", "indanthrone": "PB60", "copper blue": "PB15:3",
    "copper green": "PG7", "chromium": "PG18", "yellow earth": "PY43", "burnt earth": "PBr7", "red earth": "PR101",
    "brown earth": "PBr6", "lamp black": "PBk6",
}  # fmt: skip
_COARSE = ("lazurite", "smalt", "chromium", "yellow earth", "burnt earth", "brown earth", "red earth")


def make_paint(kind, rng, name=""):
    """A paint of a kind, drawn by chance."""
    absorbed = np.full(36, rng.uniform(0.004, 0.02))
    for shape, *ranges in _KINDS[kind]:
        absorbed = absorbed + (_step if shape == "step" else _bell)(*(rng.uniform(*one) for one in ranges))
    coarse = kind in _COARSE
    level = np.exp(rng.uniform(*np.log((0.15, 1.6) if coarse else (0.05, 0.8))))
    scattered = level * (BANDS / 550.0) ** rng.uniform(-1.6, 0.2)
    g = np.clip(rng.uniform(0.45, 0.85) + rng.uniform(-0.1, 0.05) * (BANDS - 550.0) / 175.0, 0.2, 0.9)
    return Paint(
        name or kind.title(), absorbed, scattered, g, rng.uniform(0.0, 0.3 if coarse else 0.5),
        rng.uniform(0.3, 1.0) if coarse else rng.uniform(-0.3, 0.3), rng.normal(0.0, 0.06),
    )  # fmt: skip


# ---- the painter


@dataclass(frozen=True)
class Effects:
    """What there is beside plain mixing; each can be left out."""

    dilution: bool = True
    uneven: bool = True
    settling: bool = True
    sinking: bool = True
    errors: bool = True


@dataclass(frozen=True)
class Hand:
    """How a painter errs, all in logs but the noise.

    Attributes
    ----------
    parts : float, of each part's amount
    full, middle, tint : float, of the film's strength in washes of that kind
    over_load : float, how far the usual amount of a paint differs from what is meant
    noise : float, of a reading, in CIELAB units
    """

    parts: float = 0.15
    full: float = 0.2
    middle: float = 0.2
    tint: float = 0.2
    over_load: float = 0.2
    noise: float = 0.4


HANDS = {
    "usual": Hand(),
    "steady": Hand(parts=0.10, full=0.15, middle=0.15, tint=0.15),
    "loose": Hand(parts=0.20, full=0.25, middle=0.25, tint=0.25),
    "wet": Hand(parts=0.15, full=0.22, middle=0.16, tint=0.12),
    "dry": Hand(parts=0.15, full=0.10, middle=0.18, tint=0.25),
}

_NODES, _SHARES = np.polynomial.hermite_e.hermegauss(3)
_SHARES = _SHARES / _SHARES.sum()


@dataclass
class Laboratory:
    """A painter with paints, a paper and an instrument, in another physics.

    Attributes
    ----------
    paints : list of Paint
    rng : numpy Generator, of the errors
    hand : Hand
    effects : Effects
    """

    paints: list
    rng: np.random.Generator
    hand: Hand = field(default_factory=Hand)
    effects: Effects = field(default_factory=Effects)

    def __post_init__(self):
        draw = self.rng
        self.holds = 1.0  # how much of a wash stays on the paper
        self.came_out = 0.0  # the log by which the last film came out stronger than meant
        self.index = {paint.name.casefold(): i for i, paint in enumerate(self.paints)}
        self.over_load = np.exp(draw.normal(0.0, self.hand.over_load, len(self.paints)))
        self.at = angles(round(draw.uniform(1.38, 1.5), 3))
        self.gloss = draw.uniform(0.008, 0.025)
        self.power = draw.uniform(0.8, 0.98)  # by which a film grows with the strength of its wash
        self.tooth = draw.uniform(0.05, 0.2)
        bright = draw.uniform(0.0015, 0.004)
        self._paper = (
            bright * (1 + draw.uniform(1.0, 5.0) * np.exp(-(BANDS - 380.0) / draw.uniform(30, 70))),
            np.full(36, 1.0), np.full(36, draw.uniform(0.5, 0.8)),
        )  # fmt: skip
        self.grounds = {
            PAPER: self._deep(*self._paper),
            INK: self._deep(np.full(36, 1.0), np.full(36, draw.uniform(0.03, 0.08)), np.full(36, 0.3)),
        }

    def _deep(self, absorbed, scattered, g):
        """Something so thick that nothing comes through."""
        return slab(absorbed * 400.0, scattered * 400.0, g, self.at)[0]

    # ---- one cell

    def _film(self, shares, strength, below):
        """A film over what lies below it, uneven and settled as its paints are."""
        effects, chosen = self.effects, np.flatnonzero(shares)
        paints = [self.paints[i] for i in chosen]
        shares = shares[chosen]
        heavy = np.array([paint.heavy for paint in paints])
        mean = float(shares @ heavy)
        nodes, weights = (_NODES, _SHARES) if effects.uneven else (np.zeros(1), np.ones(1))
        spread = self.tooth * (0.4 + max(mean, 0.0)) * 2.0
        film, sunk = [], []
        for node in nodes:
            local = shares * np.exp(0.6 * (heavy - mean) * node) if effects.settling else shares
            local = local / local.sum() * strength * np.exp(spread * node - spread**2 / 2)
            sinks = np.array([paint.sinks for paint in paints]) if effects.sinking else np.zeros(len(paints))
            sunk.append(_blend(paints, local * sinks))
            # what is heavy lies in the lower half of the film
            lower = 0.5 + 0.3 * np.tanh(heavy - mean) if effects.settling else np.full(len(paints), 0.5)
            film.append([_blend(paints, local * (1 - sinks) * part) for part in (1 - lower, lower)])
        absorbed, scattered, g = (np.array([one[i] for one in sunk]) for i in range(3))
        paper = [0.6 * value for value in self._paper[:2]]
        both = scattered + paper[1]
        if effects.sinking:
            below = on_top(
                *slab(absorbed + paper[0], both, (g * scattered + self._paper[2] * paper[1]) / both, self.at),
                below,
            )
        for half in (1, 0):
            layer = [np.array([one[half][i] for one in film]) for i in range(3)]
            below = on_top(*slab(*layer, self.at), below)
        return np.einsum("k,k...->...", weights, np.broadcast_to(below, (len(nodes), *below.shape[-3:])))

    def reflectance(self, recipe, ground=PAPER, errs=True, missed=None):
        """What a cell throws back, (36,) float; without errors what this hand makes on average.

        `missed` are the logs of what a puddle missed by in each paint's amount, where it is mixed already.
        """
        below = self.grounds[ground]
        for layer in reversed(recipe.layers):
            shares = np.zeros(len(self.paints))
            for part in layer.parts:
                shares[self.index[part.name.casefold()]] += part.parts
            shares *= self.over_load
            inside = shares > 0
            if missed is not None:
                shares *= np.exp(missed)
            elif errs and self.effects.errors and inside.sum() > 1:
                shares[inside] *= np.exp(self.rng.normal(0, self.hand.parts, inside.sum()))
            shares /= shares.sum()
            power = 1.0
            if self.effects.dilution:
                power = self.power + float(shares @ [paint.dilutes for paint in self.paints])
            strength = self.holds * layer.wash**power
            if errs and self.effects.errors:
                self.came_out = float(self.rng.normal(0, self._water(layer.wash)))
                strength *= np.exp(self.came_out)
            below = self._film(shares, strength, below)
        return seen(below, self.at, self.gloss)

    def _water(self, wash):
        hand = self.hand
        return hand.full if wash >= 0.75 else hand.middle if wash >= 0.32 else hand.tint

    def mean_lab(self, recipe, ground=PAPER):
        """The colour that this hand makes on average, (3,) float."""
        return lab_of(self.reflectance(recipe, ground, errs=False))

    def paint(self, recipe, ground=PAPER, missed=None):
        """Paint once, let dry, read: (3,) float."""
        return lab_of(self.reflectance(recipe, ground, missed=missed)) + self.rng.normal(
            0, self.hand.noise, 3
        )

    def from_one_puddle(self, recipes, called, misses=None):
        """Readings of cells that are painted from one puddle, told as such by a name.

        `misses` stands in for the hand's error of the parts.
        """
        spread = self.hand.parts if misses is None else misses
        missed = self.rng.normal(0, spread, len(self.paints)) * self.effects.errors
        return [
            Reading(recipe, tuple(map(float, self.paint(recipe, missed=missed))), puddle=called)
            for recipe in recipes
        ]

    def on_another_paper(self, holds, tooth, power, sinks):
        """The same painter with the same paints on a paper that holds more or less, and into which more or less sinks."""
        other = copy(self)
        other.rng = np.random.default_rng(self.rng.integers(1 << 30))
        other.holds, other.tooth, other.power = holds, tooth, self.power + power
        other.paints = [
            replace(one, sinks=float(np.clip(one.sinks + sinks, 0.0, 0.9))) for one in self.paints
        ]
        return other

    def read(self, recipe, ground=PAPER):
        """As `paint`, as a reading."""
        L, a, b = (float(value) for value in self.paint(recipe, ground))
        return Reading(recipe, (L, a, b), ground)

    def read_and_mark(self, recipe, seen_from=0.18, eye=0.1):
        """As `read`, marked where an eye that errs by `eye` sees the log of the film off by more than `seen_from`."""
        reading = self.read(recipe)
        looks = self.came_out + self.rng.normal(0, eye)
        return replace(
            reading,
            depth="" if abs(looks) < seen_from else SeenDepth.PALER if looks < 0 else SeenDepth.STRONGER,
        )

    def cards(self):
        """The three readings of each paint's card, and the bare paper and ink."""
        readings = [self.read(Recipe()), self.read(Recipe(), INK)]
        for paint in self.paints:
            full, tint = mix([paint.name]), mix([paint.name], wash=0.2)
            readings += [self.read(full), self.read(tint), self.read(full, INK)]
        return readings


def _blend(paints, amounts):
    """The optical depths of amounts of paints, and their mean cosine, (36,) each."""
    absorbed = sum(a * paint.absorbed for a, paint in zip(amounts, paints, strict=True))
    scattered = sum(a * paint.scattered for a, paint in zip(amounts, paints, strict=True))
    forward = sum(a * paint.scattered * paint.g for a, paint in zip(amounts, paints, strict=True))
    return absorbed, scattered, forward / np.maximum(scattered, 1e-12)


def make_laboratory(count=16, seed=0, hand="usual", **effects):
    """A painter with so many paints of different kinds, drawn by chance."""
    rng = np.random.default_rng([seed, 77])
    kinds = list(rng.permutation(list(_KINDS)))[:count]
    paints = [make_paint(kind, rng, f"{kind.title()} {i + 1}") for i, kind in enumerate(kinds)]
    wished = Hand(**vars(hand)) if isinstance(hand, Hand) else HANDS[hand]
    return Laboratory(paints, rng, wished, replace(Effects(), **effects))


def codes_of(names):
    """The paints by their names with the Colour Index codes of their kinds, as (name, codes)."""
    return [(name, _CODES[name.rsplit(" ", 1)[0].casefold()]) for name in names]


def all_pairs(names, washes=(1.0, 0.2)):
    """Each two paints half and half in each wash."""
    return [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in washes]
