"""What a picture does to colours: its camera's mixing of the channels, its curve, its white, some stray light.

A camera does not see as the eye does, and what it saw is bent and saturated before it is kept. A dozen numbers, which belong
to the picture, undo most of it: gains, the share of each channel in each other one, two bends of the tone curve, and stray
light. They are unknowns of the joint estimate as the paints are, with what is believed of usual cameras before anything was
read; the bare paper stays where it is.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import lab_from_linear_srgb, linear_srgb_from_lab
from culmo.core.paint.lights import ShotLight
from culmo.core.paint.typical_cameras import OF_CAMERA, OF_RAW_CAMERA, RAW_SCATTER, SCATTER

CHARACTER = 12
MIX, TONE, FLARE, GAIN = slice(0, 6), slice(6, 8), 8, slice(9, 12)
_OTHERS = [(i, j) for i in range(3) for j in range(3) if i != j]
# a share of the measured cameras' deviations: there are plain pictures, too, and a picture's colours alone tell little;
# where much is known beside it they tell more
_CLOSELY, _HALF_FREELY, _FREELY, _LEAST_SCATTER = 0.45, 1.0, 2.0, 0.002
_ENOUGH_ANCHORS = 4
_GAINS_FREELY = 0.3  # in logs: by anchors the paper's own colour is told, too
_LEFT, _LEFT_BY_CHROMA = (0.6, 0.9), (0.014, 0.036)  # of L, and of a and b; what is left where all is undone
_STEP, _LAB_STEP = 1e-4, 1e-2
_LEAST = 2e-4
USUALLY_OFF = 0.8  # of an anchor, in CIELAB units
_ANCHOR_STEPS = 8

# how much more is left than by usual light, so that what is told holds nine in ten by measured lamps of a kind that have
# gaps: tubes of three bands, LEDs of three colours or with a narrow blue, lamps of sodium
_LEFT_BY_LIGHT: dict[str, float] = {ShotLight.LED: 1.3, ShotLight.TUBE: 1.3, ShotLight.GAPPED: 3.0}

Triple = tuple[float, float, float]


@dataclass(frozen=True)
class Shot:
    """A picture by which readings are told to belong together.

    Attributes
    ----------
    key : str, the same for all readings of one picture
    paper : tuple of three float, CIELAB of its bare paper
    camera : str, what took it, and how; pictures of one camera are believed to be alike. Empty where it is not known
    anchors : tuple of Anchor, colours in it that are known for themselves: of a reference card, of cells that an
        instrument read
    light : str, by which light it was taken as the painter says, one of `lights.SHOT_LIGHTS`; empty where nothing is said
    raw : bool, whether it is a camera's raw file: linear, by the maker's matrix, with no look of the camera's own
    """

    key: str
    paper: tuple[float, float, float]
    camera: str = ""
    anchors: "tuple[Anchor, ...]" = ()
    light: str = ""
    raw: bool = False

    @property
    def scatter(self) -> Array:
        """How pictures of its kind differ, (CHARACTER, CHARACTER) float, a covariance."""
        return RAW_SCATTER if self.raw else SCATTER


@dataclass(frozen=True)
class Anchor:
    """A colour in a picture that is known for itself.

    Attributes
    ----------
    seen : tuple of three float, linear sRGB relative to the bare paper, as the picture shows it
    lab : tuple of three float, CIELAB, as it is
    off : float, in CIELAB units, how far off either may be (root mean square)
    of : str, by which a painted patch is known again, whose colour may become known better; empty where it is none
    """

    seen: Triple
    lab: Triple
    off: float = USUALLY_OFF
    of: str = ""


def triple(values: Array) -> Triple:
    """Three numbers of an array."""
    x, y, z = (float(value) for value in values)
    return x, y, z


def believed(shots: Sequence[Shot], by_others: bool = False) -> tuple[Array, Array]:
    """Mean (k,) and precision (k, k) of the numbers of some pictures before anything is read, k = n CHARACTER.

    Pictures of one camera share its curve, its saturation and a part of its mixing; its raw files share the last with each
    other.

    Parameters
    ----------
    shots : sequence of n Shot
    by_others : bool, whether much of the paints is known by other means than pictures
    """
    wide = np.array([_wide(shot, by_others) for shot in shots])
    covariance = np.zeros((len(shots) * CHARACTER,) * 2)
    for raw, scatter, shared in ((False, SCATTER, OF_CAMERA), (True, RAW_SCATTER, OF_RAW_CAMERA)):
        cameras = [shot.camera if shot.raw is raw else None for shot in shots]
        such = np.diag([camera is not None for camera in cameras])
        alike = np.array([[bool(one) and one == other for other in cameras] for one in cameras])
        alike = alike.reshape(such.shape) & ~np.eye(len(shots), dtype=bool)
        covariance += np.kron(such, scatter) + np.kron(alike, shared)
    covariance *= np.repeat(wide, CHARACTER)[:, None] * np.repeat(wide, CHARACTER)
    covariance[np.diag_indices_from(covariance)] += _LEAST_SCATTER**2
    for place, shot in enumerate(shots):
        if _is_free(shot):
            gains = slice(place * CHARACTER + GAIN.start, place * CHARACTER + GAIN.stop)
            covariance[gains, gains] += _GAINS_FREELY**2 * np.eye(3)
    mean: Array = np.zeros(len(covariance))
    precision = np.linalg.inv(covariance)
    anchored = [place for place, shot in enumerate(shots) if shot.anchors]
    if anchored:
        pulls = np.zeros(len(mean))
        for place in anchored:
            own = slice(place * CHARACTER, (place + 1) * CHARACTER)
            at, sharp = _by_anchors(shots[place])
            precision[own, own] += sharp
            pulls[own] += sharp @ at
        mean = np.linalg.solve(precision, pulls)
    return mean, np.asarray(precision)


def rest_of(shot: Shot, character: Array) -> float:
    """How much more is left of the anchors' colours than of those that usual cameras show in usual light, 1 or more.

    Parameters
    ----------
    shot : Shot
    character : (CHARACTER,) float, what it is found to do
    """
    if len(shot.anchors) < _ENOUGH_ANCHORS:
        return _LEFT_BY_LIGHT.get(shot.light, 1.0)
    known, seen, weight = _anchors(shot)
    guess, by_colour, _ = seen_and_slopes(known, np.array(shot.paper), character)
    left = back_through(by_colour, (seen - guess)[:, :, None])[:, :, 0]
    off = np.einsum("ni,nij,nj->n", left, weight, left) / 3.0
    # a character has a dozen numbers that were fitted to them; a single patch may have dried otherwise
    freedom = max(len(known) - CHARACTER / 3.0, 1.0)
    return float(np.sqrt(max(1.0, np.minimum(off, 9.0).sum() / freedom)))


def back_through(by_colour: Array, values: Array) -> Array:
    """What lies behind small differences in what a picture shows; where a channel is at its end nothing of it comes back.

    Parameters
    ----------
    by_colour : (n, 3, 3) float, as `seen_and_slopes` gives it
    values : (n, 3, k) float, differences in what is shown
    """
    return np.asarray(np.linalg.solve(by_colour + 0.05 * np.eye(3), values))


def _anchors(shot: Shot) -> tuple[Array, Array, Array]:
    """The colours of a picture's anchors as they are and as it shows them, (n, 3), and how each weighs, (n, 3, 3) float."""
    known = np.array([anchor.lab for anchor in shot.anchors])
    seen = seen_lab(np.array([anchor.seen for anchor in shot.anchors]), np.array(shot.paper))
    off = np.array([max(anchor.off, 0.1) for anchor in shot.anchors])
    return known, seen, np.linalg.inv(left_over(known) + off[:, None, None] ** 2 * np.eye(3))


def _is_free(shot: Shot) -> bool:
    return len(shot.anchors) >= _ENOUGH_ANCHORS


def _wide(shot: Shot, by_others: bool = False) -> float:
    """How widely a picture may differ from what is usual, as a share of the measured cameras' deviations."""
    if _is_free(shot):
        return _FREELY
    return _HALF_FREELY if by_others else _CLOSELY


def _by_anchors(shot: Shot) -> tuple[Array, Array]:
    """The character that a picture's anchors ask for, and how sharply they do, (k,) and (k, k) float."""
    known, seen, weight = _anchors(shot)
    loose = np.zeros(CHARACTER)
    loose[GAIN] = _GAINS_FREELY * _is_free(shot)
    held = np.linalg.inv(
        _wide(shot) ** 2 * shot.scatter + np.diag(loose**2) + _LEAST_SCATTER**2 * np.eye(CHARACTER)
    )
    at: Array = np.zeros(CHARACTER)
    sharp = np.zeros((CHARACTER, CHARACTER))
    for _ in range(_ANCHOR_STEPS):
        guess, _, slopes = seen_and_slopes(known, np.array(shot.paper), at)
        left = seen - guess
        robust = 7.0 / (4.0 + np.einsum("ni,nij,nj->n", left, weight, left))
        pulled = slopes.transpose(0, 2, 1) @ weight * np.minimum(robust, 1.0)[:, None, None]
        sharp = (pulled @ slopes).sum(axis=0)
        at = at + np.linalg.solve(sharp + held, np.einsum("nki,ni->k", pulled, left) - held @ at)
    # what the belief added is taken out again: it comes in once, with those of the other pictures
    pull = (sharp + held) @ at
    return np.linalg.solve(sharp + 1e-9 * np.eye(CHARACTER), pull), sharp


def as_seen(lab: Array, paper: Array, character: Array) -> Array:
    """What a picture shows of colours.

    Parameters
    ----------
    lab : (n, 3) float, CIELAB, the colours as they are
    paper : (n, 3) or (3,) float, CIELAB of the bare paper
    character : (n, CHARACTER) or (CHARACTER,) float

    Returns
    -------
    (n, 3) float, CIELAB, as the file has it when its bare paper is taken for the paper
    """
    own = np.broadcast_to(character, (len(lab), CHARACTER))
    white = linear_srgb_from_lab(np.broadcast_to(paper, (len(lab), 3)))
    light = linear_srgb_from_lab(lab) / white
    bent = _bent(np.maximum(_mixing(own) @ light[:, :, None], _LEAST)[:, :, 0], own[:, TONE])
    flare = own[:, FLARE, None]
    light = np.maximum((bent + flare) / (1.0 + flare), _LEAST) * np.exp(own[:, GAIN])
    return lab_from_linear_srgb(light * white)


def seen_lab(light: Array, paper: Array) -> Array:
    """CIELAB of light relative to the bare paper, as the file has it, when its bare paper is taken for the paper.

    Parameters
    ----------
    light : (n, 3) float, linear sRGB relative to the bare paper
    paper : (n, 3) or (3,) float, CIELAB

    Returns
    -------
    (n, 3) float; float32 where that is given
    """
    white = linear_srgb_from_lab(paper)
    if light.dtype == np.float32:
        white = white.astype(np.float32)
    return lab_from_linear_srgb(np.maximum(light, _LEAST) * white)


def as_it_is(seen: Array, paper: Array, character: Array) -> Array:
    """The inverse of `as_seen`: the colours of what a picture shows.

    Parameters
    ----------
    seen : (n, 3) float, CIELAB, as the file has it
    paper, character : as there
    """
    own = np.broadcast_to(character, (len(seen), CHARACTER))
    white = linear_srgb_from_lab(np.broadcast_to(paper, (len(seen), 3)))
    flare = own[:, FLARE, None]
    light = linear_srgb_from_lab(seen) / white / np.exp(own[:, GAIN])
    light = np.maximum(light * (1.0 + flare) - flare, _LEAST)
    level = np.cbrt(light)
    for _ in range(30):  # a bend moves a level by less than half of what the level moves
        level = np.clip(level - 0.7 * (np.cbrt(_bent(level**3, own[:, TONE])) - np.cbrt(light)), 0.01, 1.5)
    light = np.linalg.solve(_mixing(own), level[:, :, None] ** 3)[:, :, 0]
    return lab_from_linear_srgb(light * white)


def _mixing(own: Array) -> Array:
    """The share of each channel in each other one, (n, 3, 3) float; grey stays grey."""
    mixing = np.tile(np.eye(3), (len(own), 1, 1))
    for place, (channel, other) in enumerate(_OTHERS):
        mixing[:, channel, other] += own[:, place]
        mixing[:, channel, channel] -= own[:, place]
    return mixing


def _bent(light: Array, tone: Array) -> Array:
    """Light behind a tone curve, both bends of which leave black and the paper where they are."""
    level = np.cbrt(light)
    level = level + level * (1.0 - level) * (tone[:, :1] + tone[:, 1:] * (1.0 - 2.0 * level))
    return np.asarray(np.maximum(level, 0.02) ** 3)


def left_over(lab: Array) -> Array:
    """The covariance of what no character undoes: a camera is blind to what the eye sees, and the other way round.

    Parameters
    ----------
    lab : (n, 3) float

    Returns
    -------
    (n, 3, 3) float, more for strong colours
    """
    spread = np.empty_like(lab)
    strong = np.hypot(lab[:, 1], lab[:, 2])
    spread[:, 0] = _LEFT[0] + _LEFT_BY_CHROMA[0] * strong
    spread[:, 1:] = (_LEFT[1] + _LEFT_BY_CHROMA[1] * strong)[:, None]
    return np.asarray(spread[:, :, None] ** 2 * np.eye(3))


def seen_and_slopes(lab: Array, paper: Array, character: Array) -> tuple[Array, Array, Array]:
    """As `as_seen`, with the derivatives by the colours and by the character.

    Returns
    -------
    (n, 3), (n, 3, 3) and (n, 3, CHARACTER) float
    """
    seen = as_seen(lab, paper, character)
    own = np.broadcast_to(character, (len(lab), CHARACTER))
    by_colour, by_character = np.empty((len(lab), 3, 3)), np.empty((len(lab), 3, CHARACTER))
    for place in range(3):
        moved = lab.copy()
        moved[:, place] += _LAB_STEP
        by_colour[:, :, place] = (as_seen(moved, paper, character) - seen) / _LAB_STEP
    for place in range(CHARACTER):
        moved = own.copy()
        moved[:, place] += _STEP
        by_character[:, :, place] = (as_seen(lab, paper, moved) - seen) / _STEP
    return seen, by_colour, by_character
