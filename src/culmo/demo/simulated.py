"""Simulated paints and a simulated hand: spectra of their own, an imperfect painter, a noisy instrument.

Nothing here is shared with the estimate but the film formula. The physics is richer than the model's: granulation
(an average over thickness), separation (an average over local ratio), other surface constants, and a hand that
over-loads some paints, misses ratios and water, and an instrument with noise.
"""

from dataclasses import dataclass, field, replace

import numpy as np

from culmo.core.colour.cielab import lab_from_reflectance
from culmo.core.colour.spectral import WAVELENGTH_NM, Array
from culmo.core.paint.film import below_surface, film_reflectance, through_surface
from culmo.core.paint.readings import INK, PAPER, Reading, Treatment
from culmo.core.paint.recipe import Layer, Recipe, mix

# nodes and weights of a normal distribution, for the area averages
_NODES, _WEIGHTS = np.polynomial.hermite_e.hermegauss(5)
_WEIGHTS = _WEIGHTS / _WEIGHTS.sum()


@dataclass(frozen=True)
class SimulatedPaint:
    """A paint with spectra of its own.

    Attributes
    ----------
    name : str
    absorption : (36,) float, >= 0, per full wash
    scattering : (36,) float, >= 0, per full wash
    grain : float, 0..0.6, spread of the log thickness in the hollows of the paper
    codes : str, Colour Index Generic Names
    staining : float, 0..1, the share that stays when it is rubbed and lifted
    fading : float, >= 0, the share of the film that a week in the window takes
    """

    name: str
    absorption: Array
    scattering: Array
    grain: float = 0.0
    codes: str = ""
    staining: float = 0.5
    fading: float = 0.0


def band(peak: float, centre_nm: float, width_nm: float) -> Array:
    """A bell-shaped absorption band, (36,) float."""
    return np.asarray(peak * np.exp(-0.5 * ((WAVELENGTH_NM - centre_nm) / width_nm) ** 2))


def edge(peak: float, at_nm: float, width_nm: float) -> Array:
    """Absorption below an edge, (36,) float; a negative width absorbs above it."""
    return np.asarray(peak / (1.0 + np.exp((WAVELENGTH_NM - at_nm) / width_nm)))


@dataclass
class Painter:
    """A hand, its paper and its instrument.

    Attributes
    ----------
    paints : list of SimulatedPaint
    rng : numpy Generator; all errors are drawn from it
    ratio_error, water_error, tint_error, bias : float, in logs
    noise : float, of a reading, in CIELAB units
    k1, k2 : float, reflection at the surface
    """

    paints: list[SimulatedPaint]
    rng: np.random.Generator
    ratio_error: float = 0.18
    water_error: float = 0.08
    tint_error: float = 0.2
    bias: float = 0.25
    noise: float = 0.5
    k1: float = 0.025
    k2: float = 0.47
    paper: Array = field(default_factory=lambda: 0.9 - 0.0006 * (730.0 - WAVELENGTH_NM) / 3.5)
    ink: Array = field(default_factory=lambda: np.full(36, 0.045))

    def __post_init__(self) -> None:
        self._index = {paint.name.casefold(): i for i, paint in enumerate(self.paints)}
        self._over_load = np.exp(self.rng.normal(0.0, self.bias, len(self.paints)))

    def mixed(self, count: int = 0) -> Array:
        """What a puddle misses by in the log of each paint's amount, of all paints or so many; its cells all have it."""
        return np.asarray(self.rng.normal(0.0, self.ratio_error / np.sqrt(2), count or len(self.paints)))

    def _shares(self, layer: Layer) -> tuple[list[int], Array]:
        """The paints of a layer and how much of each this hand takes."""
        rows = [self._index[part.name.casefold()] for part in layer.parts]
        return rows, np.array([part.parts for part in layer.parts]) * self._over_load[rows]

    def _layer(self, layer: Layer, ground: Array, wander: bool, puddle: Array | None = None) -> Array:
        rows, amounts = self._shares(layer)
        thickness = layer.wash
        if wander:
            if len(rows) > 1:
                missed = self.mixed(len(rows)) if puddle is None else puddle[rows]
                amounts = amounts * np.exp(missed)
            thin = np.clip(np.log(1.0 / layer.wash) / np.log(5.0), 0.0, 1.5)
            spread = self.water_error + (self.tint_error - self.water_error) * thin
            thickness *= np.exp(self.rng.normal(0, spread))
        share = amounts / amounts.sum()
        result = np.zeros(36)
        for node, weight in zip(_NODES, _WEIGHTS, strict=True):
            result += weight * self._local(rows, share, thickness, float(node), ground)
        return result

    def _local(self, rows: list[int], share: Array, thickness: float, node: float, ground: Array) -> Array:
        """A layer at one place of the paper's tooth, so many standard deviations below its middle, (36,) float."""
        # separation: the coarse paint gathers where the film is thick; granulation: the film is thick in hollows
        grains = np.array([self.paints[row].grain for row in rows])
        grain = float(share @ grains)
        local = share * np.exp(0.7 * (grains - grain) * node)
        local = local / local.sum()
        K = sum(local[i] * self.paints[row].absorption for i, row in enumerate(rows))
        S = sum(local[i] * self.paints[row].scattering for i, row in enumerate(rows))
        X = np.array([thickness * np.exp(grain * node - 0.5 * grain**2)])
        return film_reflectance(np.asarray(K), np.asarray(S), X, ground)

    def settled(self, recipe: Recipe, ground: str, nodes: Array) -> Array:
        """What the dry cell reflects from the hills of the paper down to its hollows, by the hand's own mean.

        Parameters
        ----------
        recipe : Recipe
        ground : str, "paper" or "ink"
        nodes : (n,) float, places below the middle of the tooth, in standard deviations

        Returns
        -------
        (n, 36) float
        """
        below = below_surface(self.paper if ground == PAPER else self.ink, self.k1, self.k2)
        found = []
        for node in nodes:
            inner = below
            for layer in reversed(recipe.layers):
                rows, share = self._shares(layer)
                inner = self._local(rows, share / share.sum(), layer.wash, float(node), inner)
            found.append(through_surface(inner, self.k1, self.k2))
        return np.array(found)

    def drying(self, recipe: Recipe) -> Array:
        """What drying does to a cell's colour, (3,) float CIELAB, dry less wet.

        Wet, the paint stands deeper than its film will be, the soaked paper scatters less, and the smooth water throws
        back less white than the dry surface: most paints dry lighter and duller.
        """
        soaked = replace(
            self, k1=0.4 * self.k1, paper=0.93 * self.paper, rng=np.random.default_rng(0),
            paints=[replace(paint, absorption=1.12 * paint.absorption) for paint in self.paints],
        )  # fmt: skip
        soaked._over_load = self._over_load
        dry, wet = (lab_from_reflectance(hand.reflectance(recipe, wander=False)) for hand in (self, soaked))
        return np.asarray(dry - wet)

    def reflectance(
        self, recipe: Recipe, ground: str = PAPER, wander: bool = True, puddle: Array | None = None
    ) -> Array:
        """What the dry cell reflects, (36,) float.

        Parameters
        ----------
        recipe : Recipe
        ground : str, "paper" or "ink"
        wander : bool, False for the hand's own mean: its bias, but no error of the moment
        puddle : (P,) float, as `mixed` gives it, where the cell is painted from a puddle that is mixed already
        """
        inner = below_surface(self.paper if ground == PAPER else self.ink, self.k1, self.k2)
        for layer in reversed(recipe.layers):
            inner = self._layer(layer, inner, wander, puddle)
        return through_surface(inner, self.k1, self.k2)

    def treated(self, name: str, treatment: str, weeks: float = 0.0) -> Array:
        """What a paint's dry patch looks like after a test, (3,) float CIELAB, read with noise.

        Parameters
        ----------
        name : str
        treatment : str, "lifted", "rubbed", "covered" or "exposed"
        weeks : float, in the window
        """
        paint = self.paints[self._index[name.casefold()]]
        share: dict[str, float] = {
            Treatment.LIFTED: paint.staining + 0.4 * (1.0 - paint.staining),
            Treatment.RUBBED: paint.staining,
            Treatment.EXPOSED: float(np.exp(-paint.fading * weeks)),
        }
        wash = max(1e-3, min(1.0, share.get(treatment, 1.0)))
        lab = self.mean_lab(mix([name], wash=wash))
        return np.asarray(lab + self.rng.normal(0.0, self.noise, 3))

    def mean_lab(self, recipe: Recipe, ground: str = PAPER) -> Array:
        """The colour that this hand makes on average, (3,) float CIELAB."""
        return lab_from_reflectance(self.reflectance(recipe, ground, wander=False))

    def paint(self, recipe: Recipe, ground: str = PAPER, puddle: Array | None = None) -> Array:
        """Paint the cell once, let it dry and read it, (3,) float CIELAB."""
        lab = lab_from_reflectance(self.reflectance(recipe, ground, puddle=puddle))
        return np.asarray(lab + self.rng.normal(0.0, self.noise, 3))

    def read(self, recipe: Recipe, ground: str = PAPER) -> Reading:
        """As `paint`, as a reading."""
        L, a, b = (float(value) for value in self.paint(recipe, ground))
        return Reading(recipe, (L, a, b), ground)

    def cards(self) -> list[Reading]:
        """The three readings of each paint's card, and the bare paper and ink."""
        readings = [self.read(Recipe()), self.read(Recipe(), INK)]
        for paint in self.paints:
            full, tint = mix([paint.name]), mix([paint.name], wash=0.2)
            readings += [self.read(full), self.read(tint), self.read(full, INK)]
        return readings
