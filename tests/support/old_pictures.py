"""Pictures of charts as they were painted before: hand-ruled, photographed by the foreign camera."""

import numpy as np

from culmo.core.chart.sheet import sheet_to_dict
from support.builders import laid_out
from support.foreign_pictures import Hand, Scene, paint, photograph

NAMES = (
    "Lemon",
    "Orange",
    "Rose",
    "Crimson",
    "Violet",
    "Ultramarine",
    "Cobalt",
    "Turquoise",
    "Viridian",
    "Sap",
    "Ochre",
    "Sepia",
)


def through_of(sheet, seed=5):
    """What each cell throws back of the paper's light, by paints that multiply."""
    rng = np.random.default_rng(seed)
    names = sorted({name for cell in sheet.cells for name in cell.recipe.names})
    own = {name: rng.uniform(0.12, 0.9, 3) ** rng.uniform(0.6, 1.4) for name in names}
    found = {}
    for cell in sheet.cells:
        layer = cell.recipe.layers[0]
        total = sum(part.parts for part in layer.parts)
        logs = sum(part.parts / total * np.log(own[part.name]) for part in layer.parts)
        found[cell.id] = np.exp(layer.wash**0.8 * logs)
    return found


def old_picture(kind, count, off_mm=0.8, seed=3, long_px=2000, **options):
    """A planned sheet that stands in for the old chart, and its picture."""
    sheet = laid_out(kind, paints=NAMES[:count], paper="A4", title="Old", **options)[0]
    rng = np.random.default_rng(seed)
    painted = paint(
        sheet_to_dict(sheet), through_of(sheet), Hand(off_mm=off_mm, wobble_mm=0.25, pools=0.1), rng
    )
    scene = Scene(long_px=long_px, tilt_deg=7, toward_deg=70, turn_deg=2, fill=0.9, curl_mm=0.4, side=0.15)
    return sheet, photograph(sheet_to_dict(sheet), painted, scene, rng)
