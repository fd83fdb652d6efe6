"""A laboratory of paints that settle: one sheet of them seen, and mixes that were not; clumps and Beer's law alone."""

import itertools

import numpy as np

from culmo.core.paint.estimate import learn
from culmo.core.paint.grain import SeenTexture
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import Layer, Part, Recipe, mix
from culmo.core.paint.texture import Texture
from support.textures import any_pigments, settled


def seen_of(rng, pigments, recipe, side_mm=7.0):
    """A wash as a picture tells it: its colour, and its texture with some error."""
    lab, contrast, parting, axis, length = settled(rng, pigments, recipe, side_mm)
    off = np.exp(rng.normal(0, 0.06))
    texture = Texture(
        contrast * off, 0.05 * contrast + 0.1, 0.6, parting * off, 0.05 * parting + 0.1, tuple(axis), length * off,
        0.0, 0.0,
    )  # fmt: skip
    return Reading(recipe, tuple(lab), "paper"), SeenTexture(recipe, texture)


class Laboratory:
    """Eight paints, one sheet of them seen, and mixes that were not."""

    def __init__(self, seed):
        rng = np.random.default_rng([seed, 9])
        self.pigments = any_pigments(rng)
        names = [one.name for one in self.pigments]
        sheet = [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.2)]
        sheet += [mix([name]) for name in names]
        both = [seen_of(rng, self.pigments, recipe) for recipe in sheet]
        tints = [seen_of(rng, self.pigments, mix([name], wash=0.2), 4.0)[0] for name in names]
        self.seen = [seen for _, seen in both]
        self.estimate = learn(names, [*(reading for reading, _ in both), *tints])
        others = [
            Recipe((Layer((Part(a, 1.0), Part(b, 3.0)), wash),))
            for a, b in itertools.permutations(names, 2)
            for wash in (1.0, 0.5)
        ]
        self.unseen = [others[i] for i in rng.choice(len(others), 24, replace=False)]
        self.unseen += [mix(list(three)) for three in itertools.islice(itertools.combinations(names, 3), 6)]
        truth = [settled(rng, self.pigments, recipe, 7.0) for recipe in self.unseen]
        self.contrast, self.parting = (np.array([one[i] for one in truth]) for i in (1, 2))
