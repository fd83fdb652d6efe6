"""The hand's own figures: how far parts, water and readings err, and how they are learned from what was painted.

One meaning everywhere: standard deviations of the log of each part's amount, and of the log of the film's strength in full
washes, middle ones and tints, each its own; between two of these the variance goes over from one to the other.
"""

from collections.abc import Sequence
from dataclasses import astuple, dataclass, fields

import numpy as np

from culmo.core.colour.spectral import Array, Flags, Indices
from culmo.core.paint.optics import Linear
from culmo.core.paint.readings import SEEN_OFF, SEEN_SPREAD

# what is believed before, and with how many observations' weight: painters differ by a factor of two
_PRIOR = {
    "parts": (0.15, 10.0), "full": (0.12, 8.0), "middle": (0.15, 8.0), "tint": (0.19, 8.0), "noise": (0.8, 60.0),
}  # fmt: skip
_BOUNDS = {
    "parts": (0.015, 0.6),
    "full": (0.01, 0.6),
    "middle": (0.01, 0.6),
    "tint": (0.01, 0.6),
    "noise": (0.1, 6.0),
}
# what the robust weight leaves of the squares of clean, normal residuals: E[min(1, 9 / (6 + x)) x] / 3, x chi square 3
_CONSISTENT = 0.834
LOADING = 0.7  # of the variance of the water, what cells of one loading share: the rest is how wet the brush still was
_OF_THE_CELL = 0.8  # of the variance of what the film model leaves out, what several looks at one cell share
NEAR = 0.03  # of the logs of the figures: a search that moves them less has come to rest


@dataclass(frozen=True)
class Hand:
    """How this painter errs.

    Attributes
    ----------
    parts : float, standard deviation of the log of each part's amount; a log ratio of two errs by sqrt(2) of it
    full, middle, tint : float, standard deviations of the log of the film's strength
    noise : float, standard deviation of a reading in each of L, a, b, with what the film model leaves out
    """

    parts: float = _PRIOR["parts"][0]
    full: float = _PRIOR["full"][0]
    middle: float = _PRIOR["middle"][0]
    tint: float = _PRIOR["tint"][0]
    noise: float = _PRIOR["noise"][0]

    def is_learned(self, name: str) -> bool:
        """Whether a figure is this painter's, not what is believed of any: readings that tell of it have been read."""
        return bool(abs(getattr(self, name) - _PRIOR[name][0]) > 1e-9)

    @property
    def water(self) -> tuple[float, float, float]:
        """The spread of the water at full, middle and tint."""
        return self.full, self.middle, self.tint

    def near(self, other: "Hand", within: float = NEAR) -> bool:
        """Whether the log of each figure is within that of another hand."""
        return bool(np.abs(np.log(np.array(astuple(self)) / np.array(astuple(other)))).max() < within)

    def covariance(self, linear: Linear, beside: "Beside | None" = None) -> Array:
        """The expected covariance of each reading about its prediction, (n, 3, 3) float.

        Parameters
        ----------
        linear : Linear of n recipes
        beside : Beside, what is known of the readings besides
        """
        sd = np.full(len(linear.lab), self.noise)
        water = np.einsum("c,ncij->nij", np.square(self.water), linear.water)
        if beside is not None:
            sd = np.where(np.isnan(beside.noise), sd, beside.noise)
            seen = beside.seen
            water[seen] = SEEN_SPREAD**2 * linear.water[seen].sum(axis=1)
            water += beside.told
        return np.asarray(self.parts**2 * linear.parts + water + (sd**2)[:, None, None] * np.eye(3))


@dataclass(frozen=True)
class Beside:
    """What is known of readings besides the hand.

    Attributes
    ----------
    noise : (n,) float, standard deviations to use instead of the hand's own where not nan
    seen : (n,) bool, whether the painter saw how deep it came out, which the recipe then says
    told : (n, 3, 3) float, the covariance of each colour as what read it told it
    """

    noise: Array
    seen: Flags
    told: Array


HAND_FIGURES = tuple(one.name for one in fields(Hand))


@dataclass(frozen=True)
class Puddles:
    """Readings that err together: of cells that were painted from one puddle, and several looks at one cell.

    What missed in a puddle's parts missed in all its cells; what missed in a cell shows in every picture of it.

    Attributes
    ----------
    rows : (g, m) int, the places of the m readings of each of g puddles, all of as many paints
    loading : (g, m, m) bool, whether two of them were painted from one loading of the brush: they share its water
    same : (g, m, m) bool, whether two of them are looks at one cell
    """

    rows: Indices
    loading: Flags
    same: Flags

    def shared(self, linear: Linear) -> Array:
        """The joint covariance of the colours per unit variance of the log of each part's amount, (g, 3 m, 3 m) float."""
        count, cells = self.rows.shape
        flat = linear.amounts[self.rows].reshape(count, 3 * cells, -1)
        return np.asarray(flat @ flat.transpose(0, 2, 1))

    def covariance(self, hand: Hand, linear: Linear, own: Array, beside: Beside) -> Array:
        """The joint covariance of the readings about their predictions, (g, 3 m, 3 m) float.

        Parameters
        ----------
        hand : Hand
        linear : Linear of n recipes
        own : (n, 3, 3) float, the covariance of each reading by itself
        beside : Beside
        """
        joint = hand.parts**2 * self.shared(linear) + self._water(hand, linear, beside)
        joint += hand.noise**2 * np.kron(self.alike, np.eye(3))
        for place, block in enumerate(self.blocks):
            joint[:, block, block] = own[self.rows[:, place]]
        return joint

    def _water(self, hand: Hand, linear: Linear, beside: Beside) -> Array:
        """What cells of one loading err together by its water, (g, 3 m, 3 m) float; their own blocks mean nothing."""
        count, cells = self.rows.shape
        washes = linear.water_count[self.rows]
        # what the painter saw to be off errs by how well that is seen
        spread = np.where(beside.seen[self.rows, None], SEEN_SPREAD, np.array(hand.water))
        deviation = np.sqrt((washes * spread**2).sum(axis=2))
        shown = (linear.film[self.rows] * deviation[:, :, None]).reshape(count, 3 * cells)
        share = np.where(self.same, 1.0, LOADING * self.loading)
        together = np.repeat(np.repeat(share, 3, axis=1), 3, axis=2)
        return np.asarray(together * shown[:, :, None] * shown[:, None, :])

    @property
    def alike(self) -> Array:
        """How much of what the film model leaves out two of them share, (g, m, m) float."""
        return np.where(np.eye(self.rows.shape[1], dtype=bool), 1.0, _OF_THE_CELL * self.same)

    @property
    def blocks(self) -> list[slice]:
        """Where the three numbers of each reading of a puddle stand."""
        return [slice(3 * place, 3 * place + 3) for place in range(self.rows.shape[1])]


def relearn_hand(
    hand: Hand,
    linear: Linear,
    residual: Array,
    doubt: Array,
    weight: Array,
    beside: Beside,
    puddles: Sequence[tuple[Puddles, Array]] = (),
) -> Hand:
    """One step of expectation and maximisation for the variances.

    Parameters
    ----------
    hand : Hand, the present figures
    linear : Linear of n readings
    residual : (n, 3) float, read minus predicted
    doubt : (n, 3, 3) float, what the parameters' own uncertainty adds to the residual
    weight : (n,) float, 0..1, the robust weight of each reading
    beside : Beside
    puddles : sequence of (Puddles, (g, 3 m, 3 m) float), with what the parameters' own uncertainty adds to their residuals

    Returns
    -------
    Hand. Source: Dempster, Laird and Rubin 1977, for variance components with normal priors' counts.
    """
    covariance = hand.covariance(linear, beside)
    inverse = np.linalg.inv(covariance)
    kept = (np.minimum(weight, 1.0) / _CONSISTENT)[:, None, None]
    square = kept * residual[:, :, None] * residual[:, None, :] + doubt
    spread = inverse @ square @ inverse - inverse
    of_parts = np.einsum("nij,nji->n", linear.parts, spread)
    parts_count = np.array(linear.parts_count, dtype=float)
    water_count = np.array(linear.water_count, dtype=float)
    of_water = np.einsum("ncij,nji->nc", linear.water, spread)
    of_noise = np.einsum("nii->n", spread)
    for own_size, joint_doubt in puddles:
        rows = own_size.rows
        joint = np.linalg.inv(own_size.covariance(hand, linear, covariance, beside))
        off = (np.sqrt(kept[rows, 0]) * residual[rows]).reshape(len(rows), -1)
        joint = joint @ (off[:, :, None] * off[:, None, :] + joint_doubt) @ joint - joint
        film = linear.film[rows]
        blocks = joint.reshape(*joint.shape[:1], *(rows.shape[1], 3) * 2)
        # one error of the water, seen in all looks at a cell
        together = np.einsum("gpi,gpiqj,gqj,gpq->gp", film, blocks, film, own_size.same)
        looks = own_size.same.sum(axis=2)
        of_water[rows] = linear.water_count[rows] * together[:, :, None]
        water_count[rows] = linear.water_count[rows] / looks[:, :, None]
        of_noise[rows] = np.einsum("gpiqi,gpq->gp", blocks, own_size.alike)
        # one error of the parts, seen in all of them
        of_parts[rows], parts_count[rows[:, 1:]] = 0.0, 0.0
        of_parts[rows[:, 0]] = np.einsum("gij,gji->g", own_size.shared(linear), joint)
    # of each figure what is seen of its latent errors, and how many there are
    seen = {"parts": (of_parts, parts_count)}
    # what was seen to be off tells by that, and not by what is left
    usual = ~beside.seen
    for place, name in enumerate(("full", "middle", "tint")):
        seen[name] = usual * of_water[:, place], water_count[:, place]
    seen["noise"] = of_noise, np.full(len(residual), 3.0)
    own = np.isnan(beside.noise)
    found = {}
    for name, (error, count) in seen.items():
        variance = getattr(hand, name) ** 2
        gain = variance**2 * error + count * variance
        if name in ("full", "middle", "tint"):
            gain[beside.seen] = count[beside.seen] * (SEEN_OFF**2 + SEEN_SPREAD**2)
        prior, weight_of_prior = _PRIOR[name]
        total = float(gain[own].sum()) + weight_of_prior * prior**2
        value = float(np.sqrt(max(total / (float(count[own].sum()) + weight_of_prior), 1e-5)))
        found[name] = float(np.clip(value, *_BOUNDS[name]))
    return Hand(**found)
