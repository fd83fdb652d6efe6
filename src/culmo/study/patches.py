"""The real paint of cells in the record: kept with each reading of a picture, and found for drawing."""

import hashlib
import json
import math
from collections.abc import Collection, Mapping
from dataclasses import asdict, dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from culmo.core.capture.sheet_reading import CellPatch
from culmo.core.chart.sheet import Cell
from culmo.core.paint.character import Triple, triple
from culmo.core.paint.grain import SeenTexture
from culmo.core.paint.recipe import parse_recipe
from culmo.core.paint.texture import Texture
from culmo.core.paint.texture_words import Limits, Marked, limits_of
from culmo.errors import CulmoError
from culmo.study import doors
from culmo.study.draft import Draft
from culmo.study.file import Row, Study
from culmo.study.photo_files import confined
from culmo.study.records import anew
from culmo.study.seen import seen_in
from culmo.words import tr

ENDING = ".jpg"
MOST_BYTES = 4 * 2**20  # of one patch; those that are made here have a twentieth of it
_DIGITS = 24  # of the digest of a patch
_MOST_SEEN = 2000  # patches by which it is learned how paints settle
_AT_HAND = 500  # patches of some twenty thousand bytes
# the last patch of each reading, but of none that was painted anew between its picture and what is read of it now
_LAST = """SELECT MAX(x.id) FROM patches x JOIN readings y ON y.id = x.reading_id WHERE {} AND (x.taken = y.taken
    OR NOT EXISTS (SELECT 1 FROM strokes s WHERE s.cell_id = y.cell_id AND s.act = 'done'
        AND julianday(s.at) > julianday(x.taken) AND julianday(s.at) <= julianday(y.taken)))
    GROUP BY x.reading_id"""
_OF_THESE = "x.reading_id IN (SELECT value FROM json_each(?))"
_COLUMNS = (
    "id, reading_id, seen, source, taken, left_mm, top_mm, width_mm, height_mm, per_mm, path, digest, texture, "
    "created"
)


@dataclass(frozen=True)
class Patch:
    """The real paint of a cell, ready to be drawn.

    Attributes
    ----------
    id : int
    data : bytes, the picture, as `core.capture.patches` makes it
    left_mm, top_mm : float, where it begins, from the upper left corner of the cell's box
    size_mm : tuple of two float, the cell's box when the picture was read
    per_mm : float, its pixels a millimetre
    seen : tuple of three float, light relative to the bare paper, of which the cell's colour was made
    paper : tuple of three float, CIELAB of the bare paper
    key : str, of the picture
    texture : Texture, what was measured of it, or None
    """

    id: int
    data: bytes
    left_mm: float
    top_mm: float
    size_mm: tuple[float, float]
    per_mm: float
    seen: Triple
    paper: Triple
    key: str
    texture: Texture | None = None


@dataclass(frozen=True)
class WashRun:
    """A paint as it runs from full to pale, in a band that a picture showed.

    Attributes
    ----------
    patch : Patch
    lab : tuple of three float, CIELAB, its full end
    way : tuple of two float, from the full end to the pale one, in millimetres across and down
    """

    patch: Patch
    lab: Triple
    way: tuple[float, float]


def digest_of(data: bytes) -> str:
    """By which the bytes of a patch are known again."""
    return hashlib.sha256(data).hexdigest()[:_DIGITS]


def texture_text(texture: Texture | None) -> str:
    """What was measured of a patch as JSON; empty where nothing was."""
    if texture is None:
        return ""
    return json.dumps(
        {
            key: [round(part, 4) for part in value] if isinstance(value, tuple) else round(value, 4)
            for key, value in asdict(texture).items()
        }
    )


@lru_cache(maxsize=65_536)
def texture_in(text: str) -> Texture | None:
    """The inverse of `texture_text`; None where it is damaged."""
    try:
        whole = json.loads(text) if text else {}
        axis = triple(np.array([float(part) for part in whole.pop("axis")]).reshape(3))
        found = Texture(axis=axis, **{key: float(value) for key, value in whole.items()})
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError):
        return None
    values = (*found.axis, *(value for value in asdict(found).values() if isinstance(value, float)))
    sound = all(math.isfinite(value) and abs(value) < 1e4 for value in values)
    return found if sound and min(found.contrast, found.parting, found.size_mm, found.soft) >= 0.0 else None


def draft_patch(
    draft: Draft, reading_id: int, cell: Cell, patch: CellPatch, seen: str, source: str, taken: str
) -> None:
    """A patch as a part of an act; it takes the place of that of the same picture.

    Parameters
    ----------
    draft : Draft
    reading_id : int
    cell : Cell
    patch : CellPatch
    seen : str, what the picture showed of the cell, as `seen.kept_text` gives it
    source, taken : str, of the picture
    """
    same = "reading_id = ? AND source = ? AND taken = ?"
    for row in draft.study.rows("patches", same, (reading_id, source, taken)):
        draft.remove("patches", row)
    draft.add(
        "patches", reading_id=reading_id, seen=seen, source=source, taken=taken,
        left_mm=patch.left_mm, top_mm=patch.top_mm, width_mm=cell.box_mm[2], height_mm=cell.box_mm[3],
        per_mm=patch.per_mm, path="", digest=digest_of(patch.data), data=patch.data,
        texture=texture_text(patch.texture), created=draft.at,
    )  # fmt: skip


def check_patch(row: Mapping[str, Any]) -> None:
    """Whether the measures of a patch make sense.

    Raises
    ------
    CulmoError
    """
    fine = 0.0 < row["per_mm"] < 1e3 and 0.0 < row["width_mm"] < 1e4 and 0.0 < row["height_mm"] < 1e4
    if not fine or max(abs(row["left_mm"]), abs(row["top_mm"])) > 1e4:
        raise CulmoError(tr("a patch has measures that make no sense"))


def patches_of(study: Study, reading_ids: Collection[int]) -> dict[int, Patch]:
    """The last patch of each of these readings, by the reading's id; one that is damaged or gone is left out."""
    rows = study.select(
        f"SELECT {_COLUMNS}, data FROM patches WHERE id IN ({_LAST.format(_OF_THESE)})",
        (json.dumps(list(reading_ids)),),
    )
    found = {row["reading_id"]: patch_in(study, row) for row in rows}
    return {reading_id: patch for reading_id, patch in found.items() if patch is not None}


def bare_rows(study: Study) -> list[Row]:
    """All patches without their pictures."""
    return study.select(f"SELECT {_COLUMNS} FROM patches ORDER BY id")


def patch_in(study: Study, row: Row) -> Patch | None:
    """A row of the patches, ready to be drawn; None where it is damaged or gone."""
    seen = seen_in(row["seen"])
    try:
        check_patch(row)
        data = patch_bytes(study, row)
    except CulmoError:
        return None
    if seen is None or not data:
        return None
    rgb, _, _, shot = seen
    size = row["width_mm"], row["height_mm"]
    return Patch(
        row["id"], data, row["left_mm"], row["top_mm"], size, row["per_mm"], rgb, shot.paper, shot.key,
        texture_in(row["texture"]),
    )  # fmt: skip


def patch_bytes(study: Study, row: Row) -> bytes:
    """The picture of a patch, from the study or, in a copy of one, from beside it; empty where it is gone.

    Raises
    ------
    CulmoError
        when it can not be read
    """
    if row["data"] is not None:
        return bytes(row["data"])
    place = confined(study.path.parent, str(row["path"]))
    return doors.read_file(place, MOST_BYTES) if place is not None and place.is_file() else b""


def seen_textures(study: Study) -> list[SeenTexture]:
    """What the last patch of each good reading on paper shows of how its paints settle, the latest first."""
    rows = study.select(
        "SELECT r.recipe, p.texture FROM patches p JOIN readings r ON r.id = p.reading_id WHERE p.texture <> '' "
        f"AND p.id IN ({_LAST.format(1)}) AND r.trust = 'good' AND r.ground = 'paper' "
        "AND r.treatment = '' AND r.mixing = '' ORDER BY p.id DESC LIMIT ?",
        (_MOST_SEEN,),
    )
    found = []
    for row in rows:
        texture, recipe = texture_in(row["texture"]), parse_recipe(row["recipe"])
        if texture is not None and recipe.layers:
            found.append(SeenTexture(recipe, texture))
    return found


def marked_textures(study: Study) -> list[Marked]:
    """What was measured of painted cells, and what the painter marked of them at the table."""
    rows = study.select(
        "SELECT r.cell_id, c.sheet_id, p.texture, s.marks FROM patches p JOIN readings r ON r.id = p.reading_id "
        "JOIN cells c ON c.id = r.cell_id JOIN strokes s ON s.cell_id = c.id AND s.act = 'done' "
        f"WHERE p.texture <> '' AND p.id IN ({_LAST.format(1)}) AND c.treatment = '' AND c.mixing = '' ORDER BY s.at, s.id"
    )
    last = {row["cell_id"]: row for row in rows}  # a cell that was painted again has the later stroke's marks
    in_use: dict[int, set[str]] = {}
    for row in last.values():
        in_use.setdefault(row["sheet_id"], set()).update(row["marks"].split())
    found = []
    for row in last.values():
        texture = texture_in(row["texture"])
        if texture is not None and in_use[row["sheet_id"]]:
            found.append(Marked(texture, frozenset(row["marks"].split()), frozenset(in_use[row["sheet_id"]])))
    return found


def runs_of(study: Study) -> dict[str, WashRun]:
    """The last run of each paint on paper, from full to pale, by its folded name."""
    rows = study.select(
        "SELECT r.id, r.recipe, r.L, r.a, r.b, c.fade_mm FROM readings r JOIN cells c ON c.id = r.cell_id "
        "WHERE c.fade_mm NOT NULL AND r.ground = 'paper' AND r.trust = 'good' AND r.treatment = '' AND r.mixing = '' "
        "AND EXISTS (SELECT 1 FROM patches p WHERE p.reading_id = r.id) ORDER BY r.id"
    )
    last: dict[str, tuple[Row, tuple[float, float]]] = {}
    for row in rows:
        recipe, way = parse_recipe(row["recipe"]), _way_in(row["fade_mm"])
        if len(recipe.names) == 1 and len(recipe.layers) == 1 and way is not None:
            last[recipe.names[0].casefold()] = anew(study, row), way
    patches = patches_of(study, [row["id"] for row, _ in last.values()])
    return {
        name: WashRun(patches[row["id"]], (row["L"], row["a"], row["b"]), way)
        for name, (row, way) in last.items()
        if row["id"] in patches
    }


def _way_in(text: str) -> tuple[float, float] | None:
    """Which way a band fades; None where that is damaged."""
    try:
        (x, y), (far_x, far_y) = json.loads(text)
        way = float(far_x) - float(x), float(far_y) - float(y)
    except (ValueError, TypeError, RecursionError):
        return None
    return way if all(map(math.isfinite, way)) and any(way) else None


class RealPaint:
    """The real paint of mixes by their recipes, wherever they were painted; kept at hand while the record stands.

    Parameters
    ----------
    study : Study
    """

    def __init__(self, study: Study) -> None:
        self._study = study
        self._readings: dict[str, list[tuple[int, Triple]]] | None = None
        self._patches: dict[int, Patch | None] = {}
        self._limits: Limits | None = None

    @property
    def limits(self) -> Limits:
        """From which measure on this painter calls a wash granulating, separating or blooming."""
        if self._limits is None:
            self._limits = limits_of(marked_textures(self._study))
        return self._limits

    def of(self, recipe: str, lab: Triple) -> Patch | None:
        """The real paint of a mix that was read with a colour; None where no picture showed it.

        Parameters
        ----------
        recipe : str, as the record has it
        lab : tuple of three float, CIELAB, by which it is told from other paintings of the same mix
        """
        if self._readings is None:
            self._readings = {}
            for row in self._study.select(
                "SELECT id, recipe, L, a, b FROM readings r WHERE trust <> 'wet' "
                "AND EXISTS (SELECT 1 FROM patches p WHERE p.reading_id = r.id) ORDER BY id"
            ):
                row = anew(self._study, row)
                self._readings.setdefault(row["recipe"], []).append(
                    (row["id"], (row["L"], row["a"], row["b"]))
                )
        own = self._readings.get(recipe)
        if not own:
            return None
        nearest = min(own, key=lambda one: (math.dist(one[1], lab), -one[0]))[0]
        if nearest not in self._patches:
            if len(self._patches) > _AT_HAND:
                self._patches.clear()
            self._patches[nearest] = patches_of(self._study, [nearest]).get(nearest)
        return self._patches[nearest]
