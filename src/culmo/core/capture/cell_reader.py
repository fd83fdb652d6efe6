"""Reads the cells of a sheet that was found in a picture."""

from dataclasses import replace

import numpy as np

from culmo.core.capture.card import Card, CardFit, check_card
from culmo.core.capture.cells import FADE_AT, Sampler, SeenPatch
from culmo.core.capture.gleam import Gleam
from culmo.core.capture.judge import UNPAINTED
from culmo.core.capture.light import LightField
from culmo.core.capture.photo import SRGB_TO_XYZ, Photo
from culmo.core.capture.placement import Placement
from culmo.core.capture.settle import KnownBefore, corrected, settle
from culmo.core.capture.sheet_reading import MAY_BE_OFF, CellDoubt, CellReading
from culmo.core.capture.strip import StripFound
from culmo.core.capture.unsure import shares
from culmo.core.chart.sheet import Cell, Sheet
from culmo.core.chart.touching import neighbours
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Flags
from culmo.core.colour.srgb import within_lab
from culmo.core.paint.character import Anchor, Shot, seen_lab, triple
from culmo.core.paint.readings import INK, NINE_IN_TEN, Reading, Trust
from culmo.errors import CulmoError

BURNT_SHARE = 0.25  # of the bare paper
_WHITE_PAPER, _LIGHTER = 90.0, 1.5  # in L
_SHADE = 0.12  # in the log of the light
_FADING = 0.1  # in logs of light, by which what is read of a band that fades may be off
_LEAST_LIGHT = 5e-4  # relative to the bare paper
_PALE_SHARE = 0.2  # the film that is left about four fifths along a band that fades


class CellReader:
    """The cells of one sheet in one picture, the light on it evened out."""

    def __init__(
        self,
        photo: Photo,
        sheet: Sheet,
        sampler: Sampler,
        placement: Placement,
        paper: Array,
        light: LightField,
    ) -> None:
        self.photo, self.sheet, self.sampler, self.placement = photo, sheet, sampler, placement
        self.paper = paper
        self.screen = replace(photo, to_xyz=SRGB_TO_XYZ)
        self.to_srgb = np.linalg.solve(SRGB_TO_XYZ, photo.to_xyz)
        middle = np.array([[sheet.paper.width_mm / 2.0, sheet.paper.height_mm / 2.0]])
        self.tint = light.at(middle)[0]
        self.card: Card | None = None
        self.card_seen: Array = np.zeros((0, 3))
        self.card_sound: Flags = np.zeros(0, dtype=bool)
        self.card_fit: CardFit | None = None
        self.card_lacks = False
        self.light_said = ""
        self.strip: StripFound | None = None
        self.moved, self.rest = 0.0, 1.0
        self.missing: list[str] = []
        self.density: dict[str, Array] = {}
        self.light = light
        self.gloss = (0.0, 1.0)
        self.gleam = Gleam()
        self.cells = {cell.id: cell for cell in sheet.cells}

    def correct_by(self, card: Card, photo: Photo, placement: Placement) -> None:
        """Take a reference card into account, seen in the light of the sheet's edge next to it."""
        card = card.placed(self.sheet, placement)
        back = np.linalg.inv(placement.homography)
        places = np.column_stack([card.middles(), np.ones(len(card.known))]) @ back.T
        light = self.light.beyond(places[:, :2] / places[:, 2:])
        patches, sound = card.patches(photo)
        self.card, self.card_seen = card, self.seen(patches / light)
        self.card_sound = sound if sound.any() else np.ones(len(sound), dtype=bool)

    def seen(self, linear: Array) -> Array:
        """Light relative to the bare paper in linear sRGB, (..., 3) float."""
        return np.asarray(np.maximum(linear, 0.0) @ self.to_seen.T)

    @property
    def to_seen(self) -> Array:
        """The matrix of `seen`, (3, 3): the light's tint is taken out in the primaries of sRGB, which lie nearer to a
        sensor's than wider ones do."""
        return np.asarray(self.to_srgb * self.tint / (self.to_srgb @ self.tint)[:, None])

    def lab(self, linear: Array) -> Array:
        """CIELAB of light relative to the bare paper, as the picture shows it, (..., 3) float."""
        return within_lab(self.screen.lab(self.seen(linear) * self.screen.linear_from_lab(self.paper)))

    def look(self, cell: Cell) -> list[tuple[Cell, SeenPatch, bool]]:
        """What is seen of a cell: its patch, or those at both ends of a band; the last says whether it is the pale one."""
        ends = FADE_AT if cell.fade_mm is not None else (None,)
        seen = [self.sampler.patch(cell, share) for share in ends] if self._in_picture(cell) else [None]
        if seen[0] is None:
            self.missing.append(cell.id)
            return []
        return [(cell, patch, place == 1) for place, patch in enumerate(seen) if patch is not None]

    def _in_picture(self, cell: Cell) -> bool:
        at = self.placement.to_pixels(np.array(cell.outline_mm))
        width, height = self.photo.size
        return bool((at >= -0.5).all() and (at[:, 0] < width).all() and (at[:, 1] < height).all())

    def entries(self, seen: list[tuple[Cell, SeenPatch, bool]]) -> list[CellReading]:
        """The readings of what was seen."""
        if not seen:
            return []
        places = np.array([np.mean(cell.outline_mm, axis=0) for cell, _, _ in seen])
        gleam = self.gleam.at(places)
        linear = np.maximum(np.array([patch.linear for _, patch, _ in seen]) - gleam[:, None], _LEAST_LIGHT)
        film = np.array([_FADING if cell.fade_mm is not None else patch.spread for cell, patch, _ in seen])
        around = np.array([0.9 * max(cell.box_mm[2:]) for cell, _, _ in seen])
        lab = self.lab(linear)
        bare = delta_e_00(lab, self.paper)
        parts = shares(self.lab, linear, film, self.light, places, around, self.gloss, gleam)
        told, own, light = parts.told, parts.own, self.seen(linear)
        found = []
        for row, (cell, patch, pale) in enumerate(seen):
            fades = cell.fade_mm is not None
            doubts = self._doubts(cell, patch, pale, bool(bare[row] < UNPAINTED), lab[row])
            if told[row] > MAY_BE_OFF:
                doubts += (CellDoubt.UNSURE,)
            recipe = cell.recipe
            if pale and recipe.layers:
                recipe = recipe.with_wash(round(recipe.layers[0].wash * _PALE_SHARE, 4))
            if not pale:
                self.density[cell.id] = -np.log(np.maximum(linear[row], 2e-3))
            entry = CellReading(
                cell=cell.id,
                recipe=recipe,
                ground=cell.ground,
                lab=lab[row],
                trust=Trust.DOUBTFUL if doubts else Trust.GOOD,
                doubts=doubts,
                uncertainty=float(told[row]),
                granulation=None if fades else patch.granulation,
                separation=None if fades else patch.separation,
                seen=triple(light[row]),
                own=float(own[row]),
            )
            found.append(entry)
        return found

    @property
    def shot(self) -> Shot:
        """The picture, with what is known in it for itself."""
        patches = (
            () if self.card is None else zip(self.card_seen, self.card.known, self.card_sound, strict=True)
        )
        anchors = tuple(Anchor(triple(seen), triple(lab)) for seen, lab, sound in patches if sound)
        if self.strip is not None:
            anchors += self.strip.anchors
        photo = self.photo
        return Shot("this picture", triple(self.paper), photo.camera, anchors, self.light_said, photo.raw)

    def settled(self, entries: list[CellReading], known: KnownBefore | None) -> list[CellReading]:
        """With what the picture does to colours undone, as its cells and all that is known tell it.

        Parameters
        ----------
        entries : list of CellReading, as the picture shows them
        known : KnownBefore, what is known beside it

        Raises
        ------
        CulmoError
            where a reference card was given, and is another one
        """
        if not entries:
            return entries
        shot = self.shot
        teaching = [
            Reading(
                entry.recipe, triple(entry.lab), entry.ground, uncertainty=NINE_IN_TEN * entry.own, seen=entry.seen,
                shot=shot,
            )
            for entry in entries
            if not set(entry.doubts) - {CellDoubt.UNSURE} and self.cells[entry.cell].is_wash
            and self.cells[entry.cell].fade_mm is None
        ]  # fmt: skip
        character = settle(teaching, shot, known)
        if self.card is not None:
            light, patches = self.card_seen[self.card_sound], self.card.known[self.card_sound]
            before, after = seen_lab(light, self.paper), corrected(light, self.paper, *character).lab
            try:
                self.card_fit = check_card(before, after, patches)
            except CulmoError:
                if not self.card.may_lack:
                    raise
                self.card, self.card_lacks = None, True
                return self.settled(entries, known)
        found = corrected(np.array([entry.seen for entry in entries]), self.paper, *character)
        told = found.told(np.array([entry.own for entry in entries]))
        self.moved = float(np.median(delta_e_00(found.lab, np.array([entry.lab for entry in entries]))))
        self.rest = character[2]
        settled = []
        for entry, lab, radius in zip(entries, found.lab, told, strict=True):
            doubts = tuple(doubt for doubt in entry.doubts if doubt != CellDoubt.UNSURE)
            doubts += (CellDoubt.UNSURE,) if radius > MAY_BE_OFF else ()
            trust = Trust.DOUBTFUL if doubts else Trust.GOOD
            settled.append(replace(entry, lab=lab, uncertainty=float(radius), doubts=doubts, trust=trust))
        return settled

    def _doubts(self, cell: Cell, patch: SeenPatch, pale: bool, bare: bool, lab: Array) -> tuple[str, ...]:
        middle = np.mean(cell.outline_mm, axis=0)
        # on toned paper white paint is lighter, and rightly so
        lighter = self.paper[0] > _WHITE_PAPER and lab[0] > self.paper[0] + _LIGHTER
        # where paints run into each other a cell is not even, and no neighbour has bled into it
        uneven = cell.fade_mm is None and not cell.mixing and (patch.left_out > 0.3 or patch.spread > 0.22)
        tests = (
            (CellDoubt.CLIPPED, patch.clipped),
            (CellDoubt.SMALL, patch.pixels < 60),
            (CellDoubt.UNEVEN, uneven),
            (CellDoubt.PALE, pale),
            (CellDoubt.BARE, bare and not pale and bool(cell.recipe.layers) and cell.ground != INK),
            (CellDoubt.UNLIT, not self.light.blocks),
            (CellDoubt.LIGHTER, lighter),
            (CellDoubt.BURNT, self.light.burnt > BURNT_SHARE),
            (CellDoubt.SHADED, abs(self.light.beside(middle, 0.9 * max(cell.box_mm[2:]))) > _SHADE),
        )
        return tuple(key for key, holds in tests if holds)

    def neighbourly(self, entries: list[CellReading]) -> list[CellReading]:
        """Marks the cells that a neighbour ran into."""
        beside = neighbours(self.sheet.cells)
        lab = {entry.cell: entry.lab for entry in reversed(entries)}
        owners, pairs, toward = [], [], []
        for entry in entries:
            cell = self.cells[entry.cell]
            if cell.fade_mm is None and not cell.mixing and CellDoubt.BARE not in entry.doubts:
                apart = [name for name in beside[cell.id] if name in lab and name not in cell.meets]
                for other, ends in self._ends(cell, apart):
                    owners.append(cell.id)
                    pairs.append(ends)
                    toward.append(lab[other])
        if not pairs:
            return entries
        own, strip = self.lab(np.array(pairs)).transpose(1, 0, 2)
        shift, way = strip - own, np.array(toward) - own
        length = np.linalg.norm(shift, axis=1) * np.linalg.norm(way, axis=1)
        ran = (delta_e_00(own, strip) > 5.0) & ((shift * way).sum(axis=1) > 0.8 * length)
        bled = {owner for owner, is_so in zip(owners, ran, strict=True) if is_so}
        return [
            replace(entry, doubts=(*entry.doubts, CellDoubt.BLED), trust=Trust.DOUBTFUL)
            if entry.cell in bled
            else entry
            for entry in entries
        ]

    def _ends(self, cell: Cell, beside: list[str]) -> list[tuple[str, Array]]:
        """For each neighbour the light far from it and near it, (2, 3) float."""
        look = self.sampler.look(cell)
        if look is None or not beside:
            return []
        at, linear = look.at[::3], self.sampler.relative(look)[::3]
        middle = np.mean(cell.outline_mm, axis=0)
        found = []
        for name in beside:
            way = np.mean(self.cells[name].outline_mm, axis=0) - middle
            order = np.argsort((at - middle) @ way)
            far, near = order[: int(0.6 * len(order))], order[int(0.88 * len(order)) :]
            found.append((name, np.array([linear[part].mean(axis=0) for part in (far, near)])))
        return found
