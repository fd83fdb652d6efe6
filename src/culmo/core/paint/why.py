"""Why a prediction is unsure, in one sentence that a painter understands."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.next_cells import metric_roots
from culmo.core.paint.optics import Linear, linearise
from culmo.core.paint.predict import batch_for
from culmo.core.paint.readings import INK, PAPER
from culmo.core.paint.recipe import FULL, TINT, Recipe, mix
from culmo.words import listed, tr

_PLACES = (
    (FULL, PAPER, tr("no masstone")),
    (TINT, PAPER, tr("no tint")),
    (FULL, INK, tr("no reading over the bar")),
)


@dataclass(frozen=True)
class ColourDoubt:
    """Where a prediction's uncertainty comes from.

    Attributes
    ----------
    hand : float, 0..1, the share that is the hand's and the instrument's, which no reading can take away
    remedy : str, what is missing, such as "Rose has no reading over the bar"; empty where nothing helps much
    gain : float, 0..1, by how much the remedy would lower the spread
    sentence : str
    """

    hand: float
    remedy: str
    gain: float
    sentence: str


def _words(gain: float) -> str:
    for least, words in ((0.42, "halve"), (0.29, tr("take a third off")), (0.2, tr("take a quarter off"))):
        if gain >= least:
            return words
    return tr("lower")


def explain(
    estimate: Estimate,
    recipe: Recipe,
    read: Mapping[str, set[tuple[float, str]]],
    read_mixes: set[frozenset[str]] | None = None,
) -> ColourDoubt:
    """Where the uncertainty of one recipe comes from, and what would lower it.

    Parameters
    ----------
    estimate : Estimate
    recipe : Recipe
    read : from folded paint name to the places (wash, ground) of its card that have been read
    read_mixes : sets of folded names of the mixes that have been read

    Returns
    -------
    ColourDoubt
    """
    names = [estimate.names[estimate.index[name.casefold()]] for name in recipe.names]
    options: list[tuple[Recipe, str, str]] = []
    for name in names:
        for wash, ground, words in _PLACES:
            if (wash, ground) not in read.get(name.casefold(), set()):
                options.append(
                    (mix([name], wash=wash), ground, tr("{name} has {words}", name=name, words=words))
                )
    together = frozenset(name.casefold() for name in recipe.names)
    if len(names) > 1 and together not in (read_mixes or set()):
        options.append((recipe, PAPER, tr("no mix of {what} has been read", what=listed(names))))
    asked = [recipe, *(option[0] for option in options)]
    grounds = [PAPER, *(option[1] for option in options)]
    linear = linearise(estimate.layout, estimate.theta, batch_for(estimate, asked, grounds))
    roots = metric_roots(linear.lab)
    jacobian = roots @ linear.jacobian.dense()
    own = roots @ estimate.hand.covariance(linear) @ roots.transpose(0, 2, 1)
    carried = jacobian[0] @ estimate.covariance
    known = carried @ jacobian[0].T
    total = float(np.trace(known) + np.trace(own[0]))
    hand = float(np.trace(own[0])) / total
    best, gain = -1, 0.0
    for i in range(len(options)):
        lowered = _lowered(carried, jacobian[i + 1], estimate.covariance, own[i + 1])
        # a reading of another thing helps through what it tells of the paints; the spread falls by the root
        share = 1.0 - float(np.sqrt(max(total - lowered, 0.0) / total))
        if share > gain:
            best, gain = i, share
    if best >= 0 and gain >= 0.08:
        remedy = options[best][2]
        act = tr("painting and reading one") if options[best][0] is recipe else tr("reading it")
        sentence = tr(
            "{upper}{remedy}; {act} would {words} the doubt.",
            upper=remedy[0].upper(),
            remedy=remedy[1:],
            act=act,
            words=_words(gain),
        )
        return ColourDoubt(hand, remedy, gain, sentence)
    return ColourDoubt(hand, "", gain, _of_the_hand(estimate, linear, roots[0]))


def _lowered(carried: Array, jacobian: Array, covariance: Array, own: Array) -> float:
    """By how much a reading would lower the summed variance of the first recipe."""
    across = carried @ jacobian.T
    inverse = np.linalg.inv(jacobian @ covariance @ jacobian.T + own)
    return float(np.trace(across @ inverse @ across.T))


def _of_the_hand(estimate: Estimate, linear: Linear, root: Array) -> str:
    """What of the hand the first recipe hangs on most."""
    hand = estimate.hand
    water = np.einsum("c,cij->ij", np.square(hand.water), linear.water[0])
    by_parts = float(np.trace(root @ linear.parts[0] @ root.T)) * hand.parts**2
    by_water = float(np.trace(root @ water @ root.T))
    if by_parts > by_water:
        return tr("The paints are well known; a small slip in the parts changes this mix that much.")
    return tr("The paints are well known; a little more or less water changes this wash that much.")
