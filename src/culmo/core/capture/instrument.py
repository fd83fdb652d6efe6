"""Instruments that read one patch at a time, and a simulated one; sheets painted by an imperfect hand."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.colour.spectral import DAYLIGHT, Array, Light
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.hand import Hand
from culmo.core.paint.optics import water_shares
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.recipe import Layer, Recipe
from culmo.errors import CulmoError
from culmo.words import tr


def painted_by_hand(
    estimate: Estimate, sheet: Sheet, rng: np.random.Generator, light: Light = DAYLIGHT
) -> dict[str, Array]:
    """The dry colours of a sheet as an imperfect hand would paint it: ratios and water miss.

    Parameters
    ----------
    estimate : Estimate, what is known of the paints, with the hand's own errors
    sheet : Sheet
    rng : numpy Generator
    light : Light, by which they are seen; what a camera sees may stand for it

    Returns
    -------
    dict from cell id to (3,) float, CIELAB; cells with a paint of which nothing is known are left out
    """
    known = [c for c in sheet.cells if all(name.casefold() in estimate.index for name in c.recipe.names)]
    recipes = [_wandering(cell.recipe, estimate.hand, rng) for cell in known]
    lab = predict_lab(estimate, recipes, [cell.ground for cell in known], light)
    return {cell.id: colour for cell, colour in zip(known, lab, strict=True)}


def _wandering(recipe: Recipe, hand: Hand, rng: np.random.Generator) -> Recipe:
    layers = []
    for layer in recipe.layers:
        parts = tuple(
            replace(part, parts=part.parts * float(np.exp(rng.normal(0.0, hand.parts))))
            for part in layer.parts
        )
        spread = float(np.sqrt(water_shares(np.array(layer.wash)) @ np.square(hand.water)))
        wash = layer.wash * float(np.exp(rng.normal(0.0, spread)))
        layers.append(Layer(parts, min(1.0, wash)))
    return Recipe(tuple(layers))


@dataclass
class SimulatedColorimeter:
    """A hand-held colorimeter that stands on a sheet painted by a simulated hand.

    Attributes
    ----------
    colours : mapping from cell id to (3,) float, CIELAB
    rng : numpy Generator
    noise : float, standard deviation in each of L, a and b
    """

    colours: Mapping[str, Array]
    rng: np.random.Generator = field(default_factory=np.random.default_rng)
    noise: float = 0.25
    name: str = "Simulated colorimeter"

    def measure(self, cell: Cell) -> Array:
        """CIELAB of the cell, with the noise of a measurement.

        Raises
        ------
        CulmoError
            when nothing is painted there
        """
        if cell.id not in self.colours:
            raise CulmoError(tr("the colorimeter finds nothing painted at {id}", id=cell.id))
        lab = np.asarray(self.colours[cell.id]) + self.rng.normal(0.0, self.noise, 3)
        lab[0] = np.clip(lab[0], 0.0, 100.0)
        return lab
