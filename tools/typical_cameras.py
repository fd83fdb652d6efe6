"""Writes `src/culmo/core/paint/typical_cameras.py`: what usual cameras do to colours, before anything is read.

Cameras whose sensitivities were measured (colour-science), moved and widened, look at films of the table's pigments under
measured lights, with a maker's matrix for lamplight and for daylight, a white balance that errs, a curve and some
saturation. To each picture the character is fitted that undoes it best; their scatter is kept, and how much of it belongs to
the camera rather than to the picture. Their raw files are looked at, too: developed by one matrix for daylight, without a
curve and a look.
"""

import warnings
from pathlib import Path

import numpy as np

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.spectral import WAVELENGTH_NM, Array
from culmo.core.colour.srgb import in_srgb, linear_srgb_from_lab
from culmo.core.paint.character import CHARACTER, seen_and_slopes, seen_lab
from culmo.core.paint.film import film_reflectance, through_surface
from culmo.data import typical_curves
from tools.make_tables import block

TARGET = Path(__file__).resolve().parents[1] / "src" / "culmo" / "core" / "paint" / "typical_cameras.py"
_CAMERAS, _PICTURES = 300, 3
_UNUSUAL = 0.1  # the share of cameras near the measured one that sees least as the eye does
_LIGHTS = (
    "A",
    "D50",
    "D55",
    "D65",
    "D75",
    "B",
    "ID50",
    "FL1",
    "FL4",
    "FL9",
    "FL3.4",
    "LED-B2",
    "LED-B4",
    "LED-B5",
    "LED-BH1",
)
_MOVED_NM, _WIDER, _WHITE_ERRS = 8.0, 0.12, 0.04
_COLOURS = 90
_LOOSE = 2.0  # a first belief, by which the fit is held where colours do not tell
_ROUND = 4


def _colour():
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour
    return colour


def _on_bands(table: Array, grid: Array) -> Array:
    return np.array([np.interp(WAVELENGTH_NM, grid, one, 0.0, 0.0) for one in table.T]).T


def _surfaces(rng: np.random.Generator) -> tuple[Array, Array]:
    """Films of one, two or three pigments on a paper, (n, 36), and the paper (36,)."""
    curves = list(typical_curves().values())
    ground = 0.9 - rng.uniform(0.02, 0.12) * np.exp(-(WAVELENGTH_NM - 380.0) / rng.uniform(30, 80))
    found = []
    for _ in range(_COLOURS):
        chosen = rng.choice(len(curves), rng.integers(1, 4), replace=False)
        share = rng.dirichlet(np.ones(len(chosen)))
        K, S = (sum(part * curves[at][i] for part, at in zip(share, chosen, strict=True)) for i in range(2))
        thick = np.array([[rng.choice([1.0, 1.0, 0.5, 0.2]) * np.exp(rng.normal(0, 0.2))]])
        found.append(film_reflectance(K[None], S[None], thick, ground[None])[0])
    k1, k2 = 0.03, 0.42
    return through_surface(np.array(found), k1, k2), through_surface(ground[None], k1, k2)[0]


def _camera(rng: np.random.Generator) -> Array:
    measured = list(_colour().MSDS_CAMERA_SENSITIVITIES.values())
    one = measured[1 if rng.random() < _UNUSUAL else 0]
    table = one.values / one.values.max(axis=0)
    sees = []
    for channel in table.T:
        middle = float(channel @ one.wavelengths / channel.sum())
        at = middle + (WAVELENGTH_NM - middle - rng.normal(0, _MOVED_NM / 2)) / (
            1 + rng.normal(0, _WIDER / 2)
        )
        sees.append(np.interp(at, one.wavelengths, channel, 0.0, 0.0))
    return np.array(sees).T


def _matrix(sees: Array, light: Array, surfaces: Array, truth: Array) -> Array:
    """From balanced channels to linear sRGB by least squares, white staying white."""
    raw = surfaces @ (sees * light[:, None]) / (sees * light[:, None]).sum(axis=0)
    # of each row the last follows from the others
    rows = [
        np.linalg.lstsq(raw[:, :2] - raw[:, 2:], truth[:, i] - raw[:, 2], rcond=None)[0] for i in range(3)
    ]
    return np.array([[a, b, 1.0 - a - b] for a, b in rows])


def _curve(linear: Array, bend: float, lift: float) -> Array:
    """A tone curve in the file's levels: a logistic one about the middle, and a power."""
    level = np.clip(linear, 0.0, 1.0) ** (1 / 2.2)
    steep = 1.0 + 4.0 * bend
    low, high = 1 / (1 + np.exp(steep * 0.5)), 1 / (1 + np.exp(-steep * 0.5))
    bent = (1 / (1 + np.exp(-steep * (level - 0.5))) - low) / (high - low)
    share = min(1.0, 2.5 * bend)
    return ((1 - share) * level + share * bent) ** (2.2 * lift)


def _character(seen: Array, truth: Array, paper: Array) -> Array:
    held = np.diag(1.0 / (_LOOSE * np.array([0.1] * 6 + [0.15, 0.3, 0.01] + [0.04] * 3)) ** 2)
    found = np.zeros(CHARACTER)
    for _ in range(12):
        guess, _, slopes = seen_and_slopes(truth, paper, found)
        flat, left = slopes.reshape(-1, CHARACTER), (seen - guess).ravel()
        found += np.linalg.solve(flat.T @ flat + held, flat.T @ left - held @ found)
    return found


def _pictures(rng: np.random.Generator, raw_files: bool) -> list[Array]:
    colour = _colour()
    shape = colour.SpectralShape(380, 730, 10)
    lights = {
        name: np.maximum(colour.SDS_ILLUMINANTS[name].copy().align(shape).values, 0)
        for name in ("A", "D65", *_LIGHTS)
    }
    chart, _ = _surfaces(rng)
    chart_rgb = linear_srgb_from_lab(lab_from_reflectance(chart))
    sees = _camera(rng)
    by_light = {name: _matrix(sees, lights[name], chart, chart_rgb) for name in ("A", "D65")}
    bend, lift = rng.choice([0.0, 1.0]) * rng.uniform(0.05, 0.4), np.exp(rng.normal(0.0, 0.06))
    saturation = rng.uniform(0.95, 1.2)
    if raw_files:
        bend, lift, saturation = 0.0, 1.0, 1.0
    found = []
    for _ in range(_PICTURES):
        name = str(rng.choice(_LIGHTS))
        light = lights[name]
        warm = float(np.log(light[23] / light[7]) / np.log(lights["A"][23] / lights["A"][7]))
        warm = 0.0 if raw_files else float(np.clip(warm, 0, 1))
        matrix = by_light["D65"] + warm * (by_light["A"] - by_light["D65"])
        surfaces, paper = _surfaces(rng)
        gains = np.exp(rng.normal(0, _WHITE_ERRS, 3)) * rng.uniform(0.55, 0.9)
        both = np.vstack([surfaces, paper])
        raw = both @ (sees * light[:, None]) / (sees * light[:, None]).sum(axis=0) @ matrix.T
        grey = raw @ np.array([0.2126, 0.7152, 0.0722])
        file = _curve((grey[:, None] + saturation * (raw - grey[:, None])) * gains, bend, lift)
        paper_lab = lab_from_reflectance(paper)
        truth = lab_from_reflectance(surfaces)
        seen = seen_lab(file[:-1] / file[-1], paper_lab)
        inside = in_srgb(truth) & (file[:-1] > 1e-3).all(axis=1)
        found.append(_character(seen[inside], truth[inside], paper_lab))
    return found


def _scatter(seed: int, raw_files: bool) -> tuple[Array, Array]:
    """The covariance of what pictures do, and of the camera's part of it, (12, 12) float."""
    rng = np.random.default_rng(seed)
    found = np.array([_pictures(rng, raw_files) for _ in range(_CAMERAS)])
    # about a camera that sees as the eye does, and keeps what it saw: there are such, too
    away = found.copy()
    # the few unusual cameras count, but do not rule
    far = np.sqrt((away**2).mean(axis=(1, 2)))
    away *= np.minimum(1.0, 2.5 * np.median(far) / far)[:, None, None]
    whole = np.einsum("cpi,cpj->ij", away, away) / (_CAMERAS * _PICTURES)
    pairs = [(i, j) for i in range(_PICTURES) for j in range(_PICTURES) if i != j]
    alike = sum(away[:, i].T @ away[:, j] for i, j in pairs) / (_CAMERAS * len(pairs))
    alike = (alike + alike.T) / 2
    # no more alike than there is
    values, vectors = np.linalg.eigh(alike)
    return whole, (vectors * np.maximum(values, 0.0)) @ vectors.T


def main() -> None:
    """Fit all pictures and write what is usual."""
    whole, alike = _scatter(11, False)
    raw_whole, raw_alike = _scatter(12, True)
    text = '"""What usual cameras do to colours; made by `make tables`, do not edit."""\n\nimport numpy as np\n\n'
    for name, table, note in (
        ("SCATTER", whole, "of a picture"),
        ("OF_CAMERA", alike, "of its camera's part"),
        ("RAW_SCATTER", raw_whole, "of a picture from a raw file"),
        ("OF_RAW_CAMERA", raw_alike, "of its camera's part"),
    ):
        text += block(name, np.round(table, 6), f"(12, 12): covariance {note}, as `character` orders it")
    TARGET.write_text(text.rstrip() + "\n", encoding="utf-8")
    print(*(np.round(np.sqrt(np.diag(one)), 3) for one in (whole, alike, raw_whole, raw_alike)), sep="\n")


if __name__ == "__main__":
    main()
