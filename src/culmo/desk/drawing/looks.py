"""What is known of the colours to draw, ready for the painters: tables by recipe, kept while the estimate stands."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QTransform

from culmo.core.colour.spectral import DAYLIGHT, Array, Light
from culmo.core.colour.srgb import srgb_from_lab
from culmo.core.paint.character import Triple
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.grain import Grains, scatter
from culmo.core.paint.predict import predict_lab
from culmo.core.paint.readings import INK, PAPER
from culmo.core.paint.recipe import Layer, Recipe, mix
from culmo.core.paint.wash import THICKNESSES, stroke_tables
from culmo.desk.drawing.wash import (
    Grainy,
    in_stroke,
    running_image,
    seed_of,
    stroke_image,
    table_srgb,
    wash_image,
)

if TYPE_CHECKING:
    from culmo.study.patches import Patch, WashRun

_KEEP = 4000
INNER = 0.9  # of a cell, within its edges


def qcolor(lab: Sequence[float] | Array) -> QColor:
    """The nearest screen colour."""
    r, g, b = (float(v) for v in srgb_from_lab(np.asarray(lab, dtype=float)))
    return QColor.fromRgbF(r, g, b)


def fill_read(
    painter: QPainter, box: QRectF, lab: Triple, looks: "Looks | None", patch: "Patch | None"
) -> None:
    """Fill a box with what was read: the real paint where a picture showed it, else its colour."""
    image = None
    if looks is not None and patch is not None:
        ratio = painter.device().devicePixelRatioF() * painter.transform().m11()
        # no finer than the picture showed it: paper has many more dots than that
        ratio = min(
            ratio, patch.per_mm * min(patch.size_mm[0] / box.width(), patch.size_mm[1] / box.height())
        )
        image = looks.real_crop(
            patch, lab, max(1, round(box.width() * ratio)), max(1, round(box.height() * ratio))
        )
    if image is None:
        painter.fillRect(box, qcolor(lab))
    else:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(box, image)


def _stretched(image: QImage, width: int, height: int) -> QImage:
    return image.scaled(
        width, height, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
    )


@dataclass
class Looks:
    """Pictures of paints and mixes from one estimate.

    Attributes
    ----------
    estimate : Estimate
    grain : function from a paint's folded name to how much it granulates, 0..1
    flat : bool, whether washes are drawn as plain colour
    light : Light, under which everything is seen
    grains : Grains, how its paints settle as patches showed it; None where none did
    runs : mapping from a paint's folded name to WashRun, where a picture showed it from full to pale
    """

    estimate: Estimate
    grain: Callable[[str], float]
    flat: bool = False
    light: Light = DAYLIGHT
    grains: Grains | None = None
    runs: "Mapping[str, WashRun]" = field(default_factory=dict)
    _tables: dict[Recipe, tuple[Array, Array]] = field(default_factory=dict)
    _images: dict[tuple[object, ...], QImage] = field(default_factory=dict)
    _grainies: dict[Recipe, Grainy] = field(default_factory=dict)
    _colours: dict[tuple[Recipe, str], QColor] = field(default_factory=dict)

    def prepare(self, recipes: Iterable[Recipe]) -> None:
        """Work out the tables of many recipes at once."""
        wanted = [r for r in {recipe.full for recipe in recipes} if r not in self._tables]
        strange = [recipe for recipe in wanted if not self.knows(recipe)]
        for recipe in strange:  # a paint that left while a mix of it was on view: nothing is painted
            self._tables[recipe] = self._bare
        wanted = [recipe for recipe in wanted if recipe not in strange]
        if wanted:
            paper, ink = stroke_tables(self.estimate, wanted, self.light)
            for recipe, on_paper, on_ink in zip(wanted, table_srgb(paper), table_srgb(ink), strict=True):
                self._tables[recipe] = (on_paper, on_ink)

    def settle(self, recipes: Iterable[Recipe]) -> None:
        """Work out how the colours of many washes scatter at once, where patches taught how their paints settle."""
        if self.grains is None:
            return
        wanted = [
            one
            for one in dict.fromkeys(recipes)
            if one.layers and one not in self._grainies and self.knows(one)
        ]
        if wanted:
            found = scatter(self.estimate, self.grains, wanted)
            common, own = (
                255.0 * (srgb_from_lab(found.lab + way) - srgb_from_lab(found.lab - way)) / 2.0
                for way in (found.common, found.own)
            )
            for place, recipe in enumerate(wanted):
                self._grainies[recipe] = Grainy(common[place], own[place], float(found.size_mm[place]))

    def _grainy(self, recipe: Recipe) -> Grainy | None:
        """How the colours of a wash scatter; None where no patch taught it."""
        self.settle([recipe])
        return self._grainies.get(recipe)

    def knows(self, recipe: Recipe) -> bool:
        """Whether every paint of a recipe is known to the estimate."""
        return all(name.casefold() in self.estimate.index for name in recipe.names)

    @cached_property
    def _bare(self) -> tuple[Array, Array]:
        """The tables of bare paper and bare ink, which no wash changes."""
        bare = predict_lab(self.estimate, [Recipe(), Recipe()], [PAPER, INK], self.light)
        paper, ink = (np.broadcast_to(lab, (1, len(THICKNESSES), 3)) for lab in bare)
        return table_srgb(paper)[0], table_srgb(ink)[0]

    def _grain_of(self, recipe: Recipe) -> float:
        parts = [(part.parts, self.grain(part.name.casefold())) for part in recipe.layers[0].parts]
        total = sum(amount for amount, _ in parts)
        return sum(amount * grain for amount, grain in parts) / total

    def colour(self, recipe: Recipe, ground: str = PAPER) -> QColor:
        """The flat colour of a recipe at its own wash."""
        known = self._colours.get((recipe, ground))
        if known is None:
            self.prepare([recipe])
            table = self._tables[recipe.full][0 if ground == PAPER else 1]
            place = int(np.argmin(np.abs(np.log(THICKNESSES / recipe.layers[0].wash))))
            known = self._colours[recipe, ground] = QColor(*(int(v) for v in table[place]))
        return known

    def wash(
        self,
        recipe: Recipe,
        width: int,
        height: int,
        seed_text: str,
        scale: float = 1.0,
        ground: str = PAPER,
        fade: bool = False,
        to_edge: bool = False,
    ) -> QImage:
        """A painted patch of a recipe on paper or over ink; see `culmo.desk.drawing.wash.wash_image`."""
        key = ("wash", recipe, width, height, seed_text, self.flat, scale, ground, fade, to_edge)
        image = self._images.get(key)
        if image is None:
            if self.flat and not fade:
                image = QImage(max(width, 1), max(height, 1), QImage.Format.Format_RGBA8888)
                image.fill(self.colour(recipe, ground))
            else:
                self.prepare([recipe])
                table = self._tables[recipe.full][0 if ground == PAPER else 1]
                wash = recipe.layers[0].wash
                grain, seed = self._grain_of(recipe), seed_of(seed_text)
                grainy = self._grainy(recipe) if ground == PAPER else None
                image = wash_image(table, wash, grain, width, height, seed, scale, fade, to_edge, grainy)
            self._keep(key, image)
        return image

    def running(
        self, recipe: Recipe, way: str, width: int, height: int, seed_text: str, scale: float = 1.0
    ) -> QImage:
        """A patch where the paints of a recipe run into each other; see `culmo.desk.drawing.wash.running_image`."""
        layer = recipe.layers[0]
        if self.flat or len(layer.parts) < 2:
            return self.wash(recipe, width, height, seed_text, scale)
        key = ("running", recipe, way, width, height, seed_text, scale)
        image = self._images.get(key)
        if image is None:
            alone = [Recipe((Layer((part,), layer.wash),)) for part in layer.parts]
            self.prepare([recipe, *alone])
            both = self._tables[recipe.full][0]
            tables = [self._tables[alone[0].full][0]]
            for other in alone[1:]:
                tables += [both, self._tables[other.full][0]]
            grain, seed = self._grain_of(recipe), seed_of(seed_text)
            image = running_image(tables, layer.wash, grain, width, height, seed, scale, way)
            self._keep(key, image)
        return image

    def stroke(self, recipe: Recipe, width: int, height: int, scale: float = 1.0) -> QImage:
        """The stroke of a recipe."""
        key = ("stroke", recipe, width, height, scale)
        image = self._images.get(key)
        if image is None:
            self.prepare([recipe])
            paper, ink = self._tables[recipe.full]
            image = stroke_image(
                paper, ink, self._grain_of(recipe), width, height, seed_of(str(recipe)), scale
            )
            self._keep(key, image)
        return image

    def paint_stroke(self, name: str, width: int, height: int, scale: float = 1.0) -> QImage:
        """The stroke of a paint: the real one from full to pale where a picture showed it, else as it is predicted."""
        run = None if self.flat else self.runs.get(name.casefold())
        if run is None:
            return self.stroke(mix([name]), width, height, scale)
        key = ("run", run.patch.id, hash(run.patch.data), run.lab, width, height)
        image = self._images.get(key)
        if image is None:
            whole = self._run_image(run, width, height)
            if whole is None:
                return self.stroke(mix([name]), width, height, scale)
            image = in_stroke(whole, seed_of(name))
            self._keep(key, image)
        return image

    def _run_image(self, run: "WashRun", width: int, height: int) -> QImage | None:
        """A run lying from left to right in a size in pixels; None where its picture is damaged."""
        across, down = run.way
        upright = abs(down) > abs(across)
        wide, high = (height, width) if upright else (width, height)
        inner = run.patch.size_mm[0] * INNER, run.patch.size_mm[1] * INNER
        part = self._middle_of(run.patch, run.lab, max(wide / inner[0], high / inner[1]), *inner)
        if part is None:
            return None
        if upright:  # what was below comes to the right
            part = part.transformed(QTransform().rotate(-90.0))
        if (down if upright else across) < 0.0:
            part = part.flipped(Qt.Orientation.Horizontal)
        return _stretched(part, width, height)

    def real(
        self, patch: "Patch", lab: Triple, per_mm: float, size_mm: tuple[float, float]
    ) -> tuple[QImage, QRectF] | None:
        """The real paint of a cell in the colour that it is known to have, and where it lies; None where it is damaged.

        Parameters
        ----------
        patch : Patch
        lab : tuple of three float, CIELAB, the cell's colour
        per_mm : float, pixels a millimetre of what is drawn on
        size_mm : tuple of two float, the cell's box as it is drawn

        Returns
        -------
        QImage, and its place in millimetres from the upper left corner of the cell's box
        """
        # it decodes pictures, which not each study has
        from culmo.desk.drawing.real import real_image, where_it_lies

        key = ("real", patch.id, hash(patch.data), lab, round(per_mm, 3))
        image = self._images.get(key)
        if image is None:
            places = [place for place, shot in enumerate(self.estimate.shots) if shot.key == patch.key]
            character = self.estimate.theta[self.estimate.layout.shot_slice(places[0])] if places else None
            image = real_image(patch, lab, per_mm, character)
            if image is None:
                return None
            self._keep(key, image)
        return image, where_it_lies(patch, size_mm)

    def real_crop(self, patch: "Patch | None", lab: Triple, width: int, height: int) -> QImage | None:
        """The inside of a cell's real paint in a shape of so many pixels; None where it is to be drawn as plain colour.

        Parameters
        ----------
        patch : Patch, or None where there is none
        lab : tuple of three float, CIELAB, the cell's colour
        width, height : int, pixels
        """
        if patch is None or self.flat or width < 1 or height < 1:
            return None
        inner = patch.size_mm[0] * INNER, patch.size_mm[1] * INNER
        per_mm = max(width / inner[0], height / inner[1])
        part = self._middle_of(patch, lab, per_mm, width / per_mm, height / per_mm)
        return None if part is None else _stretched(part, width, height)

    def _middle_of(
        self, patch: "Patch", lab: Triple, per_mm: float, wide_mm: float, high_mm: float
    ) -> QImage | None:
        """So much of a cell's real paint about its middle; None where it is damaged."""
        found = self.real(patch, lab, per_mm, patch.size_mm)
        if found is None:
            return None
        image, place = found
        across, down = image.width() / place.width(), image.height() / place.height()
        left, top = (patch.size_mm[0] - wide_mm) / 2 - place.x(), (patch.size_mm[1] - high_mm) / 2 - place.y()
        return image.copy(
            round(left * across),
            round(top * down),
            max(1, round(wide_mm * across)),
            max(1, round(high_mm * down)),
        )

    def cropping(
        self, patch: "Patch | None", lab: Triple
    ) -> Callable[[int, int, float], QImage | None] | None:
        """As `real_crop` for a patch that may be shown at any size, for `Swatch.show_read`; None where there is none."""
        if patch is None:
            return None
        return lambda width, height, _: self.real_crop(patch, lab, width, height)

    def _keep(self, key: tuple[object, ...], image: QImage) -> None:
        if len(self._images) > _KEEP:
            self._images.clear()
        self._images[key] = image
