"""What twenty cells that `next` chose are worth, painted by two laboratories, beside what is told of them.

Each question is answered by twenty chosen cells of one sheet, all pairs half and half, and by others at random; what counts
is the mean CIEDE2000 between the predictions and the hand's own means of what is asked.
"""

from dataclasses import dataclass
from functools import partial
from multiprocessing import get_context

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.estimate import Estimate, learn
from culmo.core.paint.next_cells import choose_next, worth_of
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.questions import Question, about_colour, about_darks, about_paints
from culmo.core.paint.recipe import Recipe, mix
from support.turbid import all_pairs
from tools.benches import show
from tools.benches.model import FILM, SEEDS, TURBID, WASHES, painter_of

CHOSEN = 20
AT_RANDOM = (20, 25, 30, 40, 50, 60)
_ORDERS = 2
WHOLE, PALETTE, DARKS, COLOUR = "the whole sheet", "six of the paints", "the darks", "one colour"
QUESTIONS = (WHOLE, PALETTE, DARKS, COLOUR)
# what is told may be more than what was painted shows by so much, by the chance of ten hands
_CHANCE = 1.15


@dataclass(frozen=True)
class Answer:
    """What twenty cells taught of one question.

    Attributes
    ----------
    told : float, to how many at random they were said to be equal
    error : float, CIEDE2000, after them
    at_random : tuple of float, after each of as many cells at random
    """

    told: float
    error: float
    at_random: tuple[float, ...]

    @property
    def worth(self) -> float:
        """How many at random are as good, between 20 and 60."""
        falling = np.minimum.accumulate(self.at_random)
        return float(np.interp(-self.error, -falling, AT_RANDOM))


def _asked(estimate: Estimate, seed: int) -> dict[str, Question | None]:
    names, rng = list(estimate.names), np.random.default_rng(seed)
    six = [names[place] for place in rng.permutation(len(names))[:6]]
    pair = [names[place] for place in rng.permutation(len(names))[:2]]
    colour = predict_lab(estimate, [mix(pair, wash=0.6)])[0]
    return {
        WHOLE: None, PALETTE: about_paints(six), DARKS: about_darks(estimate, names),
        COLOUR: about_colour(estimate, colour, names),
    }  # fmt: skip


def one_hand(laboratory: str, seed: int) -> dict[str, Answer]:
    """Of one painter what is worth what.

    Parameters
    ----------
    laboratory : str
    seed : int
    """
    painter = painter_of(laboratory, seed)
    names = [paint.name for paint in painter.paints]
    sheet, cards = all_pairs(names, WASHES[laboratory]), painter.cards()
    first, readings = learn(names, cards), {}

    def after(places: list[int]) -> Estimate:
        for place in places:
            if place not in readings:
                readings[place] = painter.read(sheet[place])
        return learn(names, cards + [readings[place] for place in places])

    orders = [np.random.default_rng(seed + start).permutation(len(sheet)) for start in (1000, 2000)][:_ORDERS]
    chance = {count: [after([int(i) for i in order[:count]]) for order in orders] for count in AT_RANDOM}
    found = {}
    for name, question in _asked(first, seed).items():
        recipes: list[Recipe] = sheet if question is None else list(question.recipes)
        weights = np.ones(len(recipes)) if question is None else question.weights
        truth = np.array([painter.mean_lab(recipe) for recipe in recipes])

        def error(estimate: Estimate) -> float:
            return float(np.average(delta_e_00(predict_lab(estimate, recipes), truth), weights=weights))  # noqa: B023

        chosen = choose_next(first, sheet, CHOSEN, question=question)
        found[name] = Answer(
            worth_of(first, sheet, chosen, question=question).at_random,
            error(after(chosen)),
            tuple(float(np.mean([error(one) for one in chance[count]])) for count in AT_RANDOM),
        )
    return found


def measure(laboratory: str, seeds: int = SEEDS) -> dict[str, Answer]:
    """The means over several hands.

    Parameters
    ----------
    laboratory : str
    seeds : int
    """
    # forked, it would believe in the threads of the benches before
    with get_context("spawn").Pool(2) as pool:
        hands = pool.map(partial(one_hand, laboratory), range(seeds))
    return {
        name: Answer(
            float(np.mean([hand[name].told for hand in hands])),
            float(np.mean([hand[name].error for hand in hands])),
            tuple(np.mean([hand[name].at_random for hand in hands], axis=0).tolist()),
        )
        for name in QUESTIONS
    }


def run() -> bool:
    """Each question in each laboratory: over both of them no more may be told than was painted."""
    fine = True
    found = {laboratory: measure(laboratory) for laboratory in (FILM, TURBID)}
    for name in QUESTIONS:
        answers = [found[laboratory][name] for laboratory in found]
        for laboratory, answer in zip(found, answers, strict=True):
            print(
                f"     {laboratory}, {name}: {CHOSEN} chosen {answer.error:.2f}, {CHOSEN} at random "
                f"{answer.at_random[0]:.2f}; as good as {answer.worth:.0f}, told {answer.told:.0f}"
            )
        beside = np.mean([answer.error / answer.at_random[0] for answer in answers])
        fine &= show(f"{name}: chosen beside as many at random", float(beside), 1.0)
        told = np.sum([answer.told for answer in answers]) / np.sum([answer.worth for answer in answers])
        fine &= show("  told beside painted", float(told), _CHANCE)
    return fine
