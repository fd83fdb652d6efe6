"""Cameras that do not see as the eye does, under lights that are not daylight: measured ones, and such as lie near them.

Sensitivities and lights are those of the colour-science package; each camera is a measured one whose peaks and widths were
moved. A maker's matrix is fitted as makers do it, on surfaces of no picture here; then a white balance that errs, a curve
and some saturation. Nothing is shared with the reader: what comes out are the values in a picture's file.
"""

from dataclasses import dataclass, replace
from functools import cache

import numpy as np

from support.turbid import BANDS, _colour, lab_of

# broad lights, and lamps with gaps
BROAD = ("D50", "D55", "D65", "D75", "B", "C", "A", "LED-V1", "LED-B3", "FL7", "FL8", "ISO 7589 Photoflood")
GAPS = ("FL2", "FL11", "FL12", "LED-RGB1", "HP1", "LED-B1")
CURVES = ("none", "mild", "phone", "strong")
_TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)

_RED, _BLUE = np.exp(-(((BANDS - 610.0) / 40.0) ** 2)), np.exp(-(((BANDS - 450.0) / 40.0) ** 2))


@cache
def _light(name):
    shape = _colour().SpectralShape(380, 730, 10)
    return np.maximum(_colour().SDS_ILLUMINANTS[name].copy().align(shape).values, 0.0)


@cache
def _measured(number):
    data = list(_colour().MSDS_CAMERA_SENSITIVITIES.values())[number]
    grid, values = data.wavelengths, data.values / data.values.max(axis=0)
    return grid, values


def _sensitivity(number, moved_nm, wider):
    """A measured camera with each channel's peak moved and its width changed, (36, 3) float."""
    grid, values = _measured(number)
    found = np.zeros((len(BANDS), 3))
    for channel in range(3):
        peak = grid[np.argmax(values[:, channel])]
        at = peak + (BANDS - moved_nm[channel] - peak) / wider[channel]
        found[:, channel] = np.interp(at, grid, values[:, channel], left=0.0, right=0.0)
    return found


def _surfaces(rng, count=60):
    """Smooth surfaces of all colours, (count, 36) float, on which a maker fits a matrix."""
    knots = np.linspace(380, 730, 7)
    raw = 1 / (1 + np.exp(-rng.normal(-0.3, 1.6, (count, 7))))
    return np.array([np.interp(BANDS, knots, one) for one in raw]) * 0.9 + 0.03


@dataclass
class Camera:
    """A camera, and how it was set.

    Attributes
    ----------
    sees : (36, 3) float
    curve : str, one of CURVES
    bend : float, how strong its curve is, 1 as usual
    saturation : float
    """

    sees: np.ndarray
    curve: str
    bend: float
    saturation: float

    def matrix(self, light):
        """From its white-balanced channels to linear sRGB, as a maker fits it for a light; rows sum to one."""
        surfaces = _surfaces(np.random.default_rng(5))
        raw = surfaces @ (self.sees * light[:, None])
        raw /= (self.sees * light[:, None]).sum(axis=0)
        colour = _colour()
        xyz = np.array(
            [
                colour.Lab_to_XYZ(
                    lab_of(one),
                    illuminant=colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"],
                )
                for one in surfaces
            ]
        )
        wanted = xyz @ np.linalg.inv(_TO_XYZ).T
        # white stays white; and no more is taken from one channel for another than noise allows
        whole = np.vstack([raw, 30 * np.ones((1, 3)), 0.25 * np.eye(3)])
        aim = np.vstack([wanted, 30 * np.ones((1, 3)), 0.25 * np.eye(3)])
        return np.linalg.lstsq(whole, aim, rcond=None)[0].T


@dataclass
class Shooting:
    """A camera under a light, ready for pictures.

    Attributes
    ----------
    camera : Camera
    light : (36,) float
    own : bool, whether the maker's matrix is for this light; otherwise it lies between those for lamplight and daylight
    gains : (3,) float, what the white balance errs by
    exposure : float, what white paper comes to
    """

    camera: Camera
    light: np.ndarray
    own: bool
    gains: np.ndarray
    exposure: float

    def __post_init__(self):
        self.matrix = self.camera.matrix(self.light if self.own else self._between())

    def _between(self):
        """Between lamplight and daylight, by how much redder than daylight the light is."""
        warmth = [
            float(np.log(one @ _RED / (one @ _BLUE))) for one in (_light("D65"), _light("A"), self.light)
        ]
        share = np.clip((warmth[2] - warmth[0]) / (warmth[1] - warmth[0]), 0, 1)
        return share * _light("A") + (1 - share) * _light("D65")

    def linear(self, reflectance):
        """The light in the picture before its curve, (n, 3) float."""
        seen = self.camera.sees * self.light[:, None]
        raw = np.asarray(reflectance) @ seen / seen.sum(axis=0)
        rgb = raw @ self.matrix.T * self.gains * self.exposure
        grey = rgb @ np.array([0.2126, 0.7152, 0.0722])
        return grey[..., None] + (rgb - grey[..., None]) * self.camera.saturation

    def encoded(self, reflectance):
        """The values of the file, 0..1, (n, 3) float."""
        return developed(np.clip(self.linear(reflectance), 0.0, 1.0), self.camera.curve, self.camera.bend)


def developed(linear, curve, bend=1.0):
    """A camera's curve: from linear light to the values of the file."""
    plain = np.where(
        linear <= 0.0031308, 12.92 * linear, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055
    )
    if curve == "none":
        return plain
    # deeper shadows, a lifted middle and a shoulder, about a middle grey
    amount = {"mild": 0.35, "phone": 0.8, "strong": 1.6}[curve] * bend
    away = plain - 0.5
    steep = 1.0 + amount
    bent = 0.5 + 0.5 * np.tanh(steep * away) / np.tanh(steep * 0.5)
    mix = {"mild": 0.7, "phone": 0.9, "strong": 1.0}[curve]
    lift = {"mild": 0.02, "phone": 0.05, "strong": 0.08}[curve] * bend * 4 * plain * (1 - plain)
    return np.clip(plain + mix * (bent - plain) + lift, 0.0, 1.0)


def make_camera(rng, kind="usual"):
    """A camera near a measured one: "usual" near the first, "odd" near the other."""
    moved, wider = rng.uniform(-10, 10, 3) * (0.6 if kind == "usual" else 1.0), rng.uniform(0.85, 1.15, 3)
    number = 0 if kind == "usual" else 1
    return Camera(
        _sensitivity(number, moved, wider),
        "phone",
        float(rng.uniform(0.7, 1.3)),
        float(rng.uniform(1.0, 1.2)),
    )


def make_shooting(rng, camera, lights=BROAD):
    """A picture's setting, drawn by chance."""
    light = _light(str(rng.choice(lights)))
    return Shooting(
        camera, light, rng.random() < 0.6, np.exp(rng.normal(0, 0.06, 3)), float(rng.uniform(0.6, 0.85))
    )


def as_raw(shooting):
    """The same picture as a raw file, developed by the maker's one matrix for daylight, without a curve and a look."""
    plain = replace(shooting.camera, curve="none", saturation=1.0)
    found = replace(shooting, camera=plain)
    found.matrix = plain.matrix(_light("D65"))
    return found


def read_plainly(shooting, reflectances, paper, rng, noise=0.008):
    """What an even reader makes of the file: light relative to the bare paper, in linear sRGB, (n, 3) float."""

    def back(values):
        eight = np.round(np.clip(values, 0, 1) * 255) / 255
        return np.where(eight <= 0.04045, eight / 12.92, ((eight + 0.055) / 1.055) ** 2.4)

    white = back(shooting.encoded(paper[None]))[0]
    seen = back(shooting.encoded(np.asarray(reflectances)))
    return np.maximum(
        seen / white * np.exp(rng.normal(0, noise, (len(seen), 1))) + rng.normal(0, 0.0015, seen.shape), 2e-4
    )
