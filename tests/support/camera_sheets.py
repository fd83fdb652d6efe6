"""Sheets of 64 cells, painted by the laboratory of turbid layers and seen by foreign cameras; and what is made of them."""

import itertools
from dataclasses import dataclass, replace

import numpy as np

from culmo.core.capture.settle import KnownBefore, corrected, settle
from culmo.core.paint.character import Anchor, Shot, seen_lab
from culmo.core.paint.estimate import learn
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.readings import INK, PAPER, Reading
from culmo.core.paint.recipe import Recipe, mix
from support.foreign_cameras import BROAD, GAPS, as_raw, make_camera, make_shooting, read_plainly
from support.foreign_pictures import difference, linear_of
from support.turbid import lab_of, make_laboratory, seen

OWN = 1.0  # CIEDE2000, that holds nine in ten of what is a cell's own error here
CURVES = ("none", "mild", "phone")
KIND_OF_LAMP = {
    "FL2": "tube", "FL11": "tube", "FL12": "tube", "LED-RGB1": "led", "LED-B1": "led", "HP1": "coloured",
}  # fmt: skip


@dataclass
class Painted:
    """A painted sheet in a picture.

    Attributes
    ----------
    readings : list of Reading, as the picture shows them
    light : (n, 3) float, what the picture shows, relative to the bare paper
    lab : (n, 3) float, the colours as they are
    shot : Shot
    """

    readings: list
    light: np.ndarray
    lab: np.ndarray
    shot: Shot

    @property
    def inside(self):
        """Which cells lie inside sRGB."""
        linear = linear_of(self.lab)
        return ((linear > 0.003) & (linear < 1)).all(axis=1)


@dataclass
class Judged:
    """How far off the colours of a picture are.

    Attributes
    ----------
    shown, off, told : (n,) float, CIEDE2000: as the file has it, as it is read, and what was told
    """

    shown: np.ndarray
    off: np.ndarray
    told: np.ndarray


def studio(seed, kind="usual", curve=None):
    """A laboratory, a camera and the dice, all by chance."""
    rng = np.random.default_rng([seed, 3])
    laboratory = make_laboratory(8, seed=seed + 50)
    camera = make_camera(rng, kind)
    camera.curve = curve or str(rng.choice(CURVES))
    return laboratory, camera, rng


def grid(names):
    """All pairs full and pale, and each paint alone: 64 cells of eight paints."""
    pairs = [mix(pair, wash=wash) for pair in itertools.combinations(names, 2) for wash in (1.0, 0.2)]
    return [*pairs, *(mix([name]) for name in names)]


def ratios(names, rng):
    """Pairs in other parts and washes."""
    pairs = itertools.combinations(names, 2)
    mixes = [
        mix(pair, [int(part) for part in rng.integers(1, 4, 2)], wash=float(rng.choice([1, 0.6, 0.3])))
        for pair in pairs
    ]
    return [*mixes, *(mix([name], wash=wash) for name in names for wash in (1.0, 0.2))]


def photographed(laboratory, recipes, shooting, rng, key, camera="one phone", raw=False, dry=None):
    """Paint recipes and take a picture of them, or of what is `dry` already: (n, 36) float, as it reflects."""
    reflectance = np.array([laboratory.reflectance(recipe) for recipe in recipes]) if dry is None else dry
    shooting = as_raw(shooting) if raw else shooting
    paper = seen(laboratory.grounds["paper"], laboratory.at, laboratory.gloss)
    light = read_plainly(shooting, reflectance, paper, rng)
    white = tuple(float(value) for value in lab_of(paper))
    shot = Shot(key, white, camera, raw=raw)
    shown = np.clip(seen_lab(light, np.array(white)), [0, -128, -128], [100, 128, 128])
    readings = [
        Reading(recipe, tuple(lab), uncertainty=OWN, seen=tuple(one), shot=shot)
        for recipe, lab, one in zip(recipes, shown.tolist(), light.tolist(), strict=True)
    ]
    return Painted(readings, light, np.array([lab_of(one) for one in reflectance]), shot)


def anchors_of(painted, places, rng, noise=0.5):
    """What an instrument says of some cells of a picture."""
    known = painted.lab[places] + rng.normal(0, noise, (len(places), 3))
    return tuple(
        Anchor(tuple(one), tuple(lab))
        for one, lab in zip(painted.light[places].tolist(), known.tolist(), strict=True)
    )


def judged(painted, anchors=(), known=None, said=""):
    """What is made of a picture, held against the truth; of the cells inside sRGB. The painter may say the light."""
    shot = replace(painted.shot, anchors=anchors, light=said)
    readings = [replace(reading, shot=shot) for reading in painted.readings]
    found = corrected(painted.light, np.array(shot.paper), *settle(readings, shot, known))
    told = found.told(np.full(len(readings), OWN / 1.5))
    shown = seen_lab(painted.light, np.array(shot.paper))
    inside = painted.inside
    return Judged(
        difference(shown, painted.lab)[inside], difference(found.lab, painted.lab)[inside], told[inside]
    )


def first_picture(seed, kind="usual", lights=BROAD, curve=None, said=""):
    """A picture of which nothing is known."""
    laboratory, camera, rng = studio(seed, kind, curve)
    names = [paint.name for paint in laboratory.paints]
    painted = photographed(laboratory, grid(names), make_shooting(rng, camera, lights), rng, "first")
    return judged(painted, said=said)


def lamp_with_gaps(seed):
    """A picture by a lamp with gaps in its light, of which the painter says what kind of lamp it is."""
    name = str(np.random.default_rng([seed, 9]).choice(GAPS))
    return first_picture(seed, lights=(name,), said=KIND_OF_LAMP[name])


def fourth_picture(seed, by_instrument=False):
    """A picture, when three of other sheets were read before, or these by an instrument."""
    laboratory, camera, rng = studio(seed)
    names = [paint.name for paint in laboratory.paints]
    before = [
        photographed(laboratory, ratios(names, rng), make_shooting(rng, camera), rng, f"before {number}")
        for number in range(3)
    ]
    readings = [reading for one in before for reading in one.readings]
    if by_instrument:
        true = np.concatenate([one.lab for one in before])
        readings = [
            replace(reading, lab=tuple(lab), seen=None, shot=None, uncertainty=0.0)
            for reading, lab in zip(readings, true.tolist(), strict=True)
        ]
    now = photographed(laboratory, grid(names), make_shooting(rng, camera), rng, "now")
    return judged(now, known=KnownBefore(tuple(names), tuple(readings)))


def with_strip(seed, kind="usual", lights=BROAD, curve=None):
    """A picture with a strip of the painter's own paints in it, which was measured once."""
    laboratory, camera, rng = studio(seed, kind, curve)
    names = [paint.name for paint in laboratory.paints]
    shooting = make_shooting(rng, camera, lights)
    strip = [mix([name], wash=wash) for name in names for wash in (1.0, 0.2)]
    beside = photographed(laboratory, strip, shooting, rng, "strip")
    painted = photographed(laboratory, grid(names), shooting, rng, "with a strip")
    return judged(painted, anchors_of(beside, np.arange(len(strip)), rng))


def with_six(seed):
    """A picture of which an instrument read six cells."""
    laboratory, camera, rng = studio(seed)
    names = [paint.name for paint in laboratory.paints]
    painted = photographed(laboratory, grid(names), make_shooting(rng, camera), rng, "six")
    return judged(painted, anchors_of(painted, rng.choice(len(painted.lab), 6, replace=False), rng))


def of_one_sheet(seed, raws, as_mean=False):
    """Pictures of one sheet, and what is learned of them.

    Parameters
    ----------
    seed : int
    raws : sequence of bool, of each picture whether it is a raw file
    as_mean : bool, whether only the mean of what is read of each by itself is learned from

    Returns
    -------
    how far off the cells inside sRGB are, (n,) float, the mean of the pictures; and predictions of mixes that were not
    painted, float, on average; CIEDE2000
    """
    laboratory, camera, rng = studio(seed)
    names = [paint.name for paint in laboratory.paints]
    recipes = grid(names)
    dry = np.array([laboratory.reflectance(recipe) for recipe in recipes])
    taken = [
        photographed(laboratory, recipes, make_shooting(rng, camera), rng, f"picture {n}", raw=raw, dry=dry)
        for n, raw in enumerate(raws)
    ]
    bare = Reading(Recipe(), taken[0].shot.paper)
    several = len(taken) > 1
    looks = [
        replace(reading, cell=place if several else None)
        for place, own in enumerate(zip(*(one.readings for one in taken), strict=True))
        for reading in own
    ]
    by = [learn(names, [bare, *own]) for own in ([one.readings for one in taken] if as_mean else [looks])]
    lab = np.mean([_by_estimate(one, by[place if as_mean else 0]) for place, one in enumerate(taken)], axis=0)
    if as_mean:
        means = [
            Reading(recipe, tuple(own), uncertainty=2.5)
            for recipe, own in zip(recipes, lab.tolist(), strict=True)
        ]
    estimate = learn(names, [bare, *means]) if as_mean else by[0]
    asked = ratios(names, rng)
    truth = np.array([laboratory.mean_lab(recipe) for recipe in asked])
    off = difference(predict_lab(estimate, asked), truth)
    return difference(lab, taken[0].lab)[taken[0].inside], float(off.mean())


def _by_estimate(painted, estimate):
    """The colours of a picture by what was learned of it."""
    at = estimate.layout.shot_slice(estimate.shots.index(painted.shot))
    shot = np.array(painted.shot.paper), estimate.theta[at], estimate.covariance[at, at]
    return corrected(painted.light, *shot).lab


def together(found):
    """Several pictures as one."""
    return Judged(
        *(np.concatenate([getattr(one, name) for one in found]) for name in ("shown", "off", "told"))
    )


@dataclass
class Foretold:
    """How far off predictions are, mean CIEDE2000, learned from a page of cards and a sheet of 64 cells.

    Attributes
    ----------
    by_instrument, by_pictures, as_shown : float, as a perfect instrument reads these cells, as two pictures by one phone
        give them, and as these pictures show them
    """

    by_instrument: float
    by_pictures: float
    as_shown: float


def foretold(seed, strip=False):
    """Mixes that were not painted, of paints that were learned from pictures alone; with a strip in these if wished."""
    laboratory, camera, rng = studio(seed)
    names = [paint.name for paint in laboratory.paints]
    page = [
        (mix([name], wash=wash), ground)
        for name in names
        for wash, ground in ((1.0, PAPER), (0.2, PAPER), (1.0, INK))
    ]
    paper = seen(laboratory.grounds["paper"], laboratory.at, laboratory.gloss)
    white = tuple(float(value) for value in lab_of(paper))
    patches = np.array(
        [laboratory.reflectance(mix([name], wash=wash)) for name in names for wash in (1.0, 0.25)]
    )
    known = np.array([lab_of(one) for one in patches]) + rng.normal(0, 0.5, (len(patches), 3))
    measured, pictured, shown = ([Reading(Recipe(), white)] for _ in range(3))
    for key, cells in (("page", page), ("sheet", [(recipe, PAPER) for recipe in grid(names)])):
        reflectance = np.array([laboratory.reflectance(*cell) for cell in cells])
        shooting = make_shooting(rng, camera)
        light = read_plainly(shooting, reflectance, paper, rng)
        anchors = ()
        if strip:
            beside = read_plainly(shooting, patches, paper, rng).tolist()
            anchors = tuple(
                Anchor(tuple(one), tuple(lab)) for one, lab in zip(beside, known.tolist(), strict=True)
            )
        shot = Shot(key, white, "one phone", anchors)
        file = np.clip(seen_lab(light, np.array(white)), [0, -128, -128], [100, 128, 128]).tolist()
        true = [tuple(lab_of(one)) for one in reflectance]
        for (recipe, ground), lab, own, rgb in zip(cells, true, file, light.tolist(), strict=True):
            measured.append(Reading(recipe, lab, ground))
            shown.append(Reading(recipe, tuple(own), ground))
            pictured.append(Reading(recipe, tuple(own), ground, uncertainty=OWN, seen=tuple(rgb), shot=shot))
    triples = list(itertools.combinations(names, 3))[::3]
    asked = [*ratios(names, rng), *(mix(three, wash=wash) for three in triples for wash in (1.0, 0.4))]
    truth = np.array([laboratory.mean_lab(recipe) for recipe in asked])
    return Foretold(
        *(
            float(difference(predict_lab(learn(names, readings), asked), truth).mean())
            for readings in (measured, pictured, shown)
        )
    )
