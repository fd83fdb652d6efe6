"""The model's errors and calibration on simulated painters, beside the figures that it has to reach."""

import itertools
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.srgb import encode_srgb, lab_from_srgb, linear_srgb_from_lab, srgb_from_lab
from culmo.core.paint.estimate import learn
from culmo.core.paint.next_cells import choose_next
from culmo.core.paint.predict import predict, predict_lab
from culmo.core.paint.recipe import mix
from support.paints import make_painter
from tools.benches import show

SEEDS = 9
COUNTS = (0, 20, 40, 60, 90, 120)
LIMITS = {0: 3.0, 60: 1.5, 120: 1.1}


@dataclass(frozen=True)
class Errors:
    """Medians over the seeds.

    Attributes
    ----------
    by_count : median error against the hand's own mean, by number of recorded mixes
    inside : share of freshly painted cells inside dE90, by number of recorded mixes
    chosen, at_random : error after 20 cells chosen by `next`, and after 20 at random, over all cells
    srgb_mean, geometric : errors of the two simple ways of mixing
    repeat : the hand's own repeatability
    """

    by_count: dict[int, float]
    inside: dict[int, float]
    chosen: float
    at_random: float
    srgb_mean: float
    geometric: float
    repeat: float


def _simple(painter, recipes) -> tuple[np.ndarray, np.ndarray]:  # type: ignore[no-untyped-def]  # tests' support
    cards = {
        (paint.name, wash): painter.mean_lab(mix([paint.name], wash=wash))
        for paint in painter.paints
        for wash in (1.0, 0.2)
    }
    parts = np.array([[cards[name, recipe.layers[0].wash] for name in recipe.names] for recipe in recipes])
    mean = lab_from_srgb(srgb_from_lab(parts).mean(axis=1))
    linear = np.clip(linear_srgb_from_lab(parts), 1e-4, 1.0)
    return mean, lab_from_srgb(encode_srgb(np.exp(np.log(linear).mean(axis=1))))


def one_hand(seed: int) -> dict[str, float]:
    """One simulated painter: 16 paints, all 120 pairs half and half, full and tint; half of the 240 cells held back."""
    painter = make_painter(16, seed)
    names = [paint.name for paint in painter.paints]
    cards = painter.cards()
    recipes = [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.2)]
    order = np.random.default_rng(seed + 1000).permutation(len(recipes))
    taught = [painter.read(recipes[i]) for i in order[:120]]
    held = [recipes[i] for i in order[120:]]
    truth = np.array([painter.mean_lab(recipe) for recipe in held])
    fresh = np.array([painter.paint(recipe) for recipe in held])
    found = {"repeat": float(np.median(delta_e_00(truth, fresh)))}
    for count in COUNTS:
        prediction = predict(learn(names, cards + taught[:count]), held)
        found[f"error {count}"] = float(np.median(delta_e_00(prediction.lab, truth)))
        found[f"inside {count}"] = float(np.mean(delta_e_00(prediction.lab, fresh) < prediction.dE90))
    for name, lab in zip(("srgb", "geometric"), _simple(painter, held), strict=True):
        found[name] = float(np.median(delta_e_00(lab, truth)))
    everything = np.array([painter.mean_lab(recipe) for recipe in recipes])
    chosen = choose_next(learn(names, cards), recipes, 20)
    for name, places in (("chosen", chosen), ("random", list(order[:20]))):
        estimate = learn(names, cards + [painter.read(recipes[i]) for i in places])
        found[name] = float(np.median(delta_e_00(predict_lab(estimate, recipes), everything)))
    return found


def measure(seeds: int = SEEDS) -> Errors:
    """Medians over several hands."""
    hands = [one_hand(seed) for seed in range(seeds)]
    middle = {key: float(np.median([hand[key] for hand in hands])) for key in hands[0]}
    return Errors(
        {count: middle[f"error {count}"] for count in COUNTS},
        {count: float(np.mean([hand[f"inside {count}"] for hand in hands])) for count in COUNTS},
        middle["chosen"],
        middle["random"],
        middle["srgb"],
        middle["geometric"],
        middle["repeat"],
    )


def run() -> bool:
    """The table, with its limits."""
    errors = measure()
    print(
        f"     medians over {SEEDS} hands: mean of sRGB {errors.srgb_mean:.2f}, geometric {errors.geometric:.2f},"
    )
    print(f"     the hand's own repeatability {errors.repeat:.2f}, 20 at random {errors.at_random:.2f}")
    fine = True
    for count, limit in LIMITS.items():
        fine &= show(f"error with {count} mixes", errors.by_count[count], limit)
        fine &= show(
            f"  off 90 % inside dE90 ({errors.inside[count]:.1%})", abs(errors.inside[count] - 0.9), 0.05
        )
    fine &= show("error with 20 chosen by next", errors.chosen, 2.3)
    fine &= show("  beside 20 at random", errors.chosen / errors.at_random, 1.0)
    return show("cards only, beside the mean of sRGB", errors.by_count[0] / errors.srgb_mean, 0.5) and fine
