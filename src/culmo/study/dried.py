"""What was read wet and again when it was dry: the cells, and what drying does to each paint and mix."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.paint.drying import DryingShift, drying_of_paints, drying_shift
from culmo.core.paint.readings import PAPER, Trust
from culmo.core.paint.recipe import Recipe, mix, parse_recipe
from culmo.study.file import Row, Study
from culmo.study.records import line_of
from culmo.study.soundness import moment_of


@dataclass(frozen=True)
class Dried:
    """A cell, or a loose swatch, that was read wet and dry.

    Attributes
    ----------
    recipe : Recipe
    wet, dry : (3,) float, CIELAB
    sheet_id : int or None
    title : str, of the sheet; empty for a loose swatch
    """

    recipe: Recipe
    wet: Array
    dry: Array
    sheet_id: int | None = None
    title: str = ""


@dataclass(frozen=True)
class DriedMix:
    """What drying does to a paint or a mix.

    Attributes
    ----------
    recipe : Recipe
    wet, dry : (3,) float, CIELAB, means
    shift : DryingShift
    sheets : tuple of (int, str), on which it was read: id and title, the latest first
    by_mixes : int, of a paint that was read wet in mixes only: how many cells say what it does; else 0
    """

    recipe: Recipe
    wet: Array
    dry: Array
    shift: DryingShift
    sheets: tuple[tuple[int, str], ...] = ()
    by_mixes: int = 0


def dried_cells(study: Study) -> list[Dried]:
    """All that was read wet and dry on paper.

    A cell is the same in all versions of its sheet. A loose swatch, of no sheet, is known by its recipe and its paper: so
    readings that come from files have both their looks, too. A dry look from before the cell was painted again is not
    held against a wet one from after it.
    """
    # of tens of thousands of readings few are wet: those that can be neither of a pair are not looked at
    rows = study.select(
        """WITH wetted AS (SELECT DISTINCT recipe FROM readings WHERE trust = :wet)
            SELECT r.id, r.recipe, r.L, r.a, r.b, r.trust, r.taken, r.cell_id, r.paper, r.sheet_id, s.title,
            CASE WHEN r.trust = :wet THEN
                (SELECT MAX(at) FROM strokes k WHERE k.cell_id = r.cell_id AND k.act <> 'skip') END AS painted
            FROM readings r LEFT JOIN sheets s ON s.id = r.sheet_id
            WHERE r.ground = :ground AND r.trust IN (:good, :wet) AND r.treatment = '' AND r.mixing = ''
            AND r.recipe <> '-' AND EXISTS (SELECT 1 FROM wetted) AND (r.cell_id IS NULL OR r.recipe IN wetted)
            ORDER BY r.id""",
        {"ground": PAPER, "good": Trust.GOOD, "wet": Trust.WET},
    )
    if not any(row["trust"] == Trust.WET for row in rows):
        return []
    lines = study.select(line_of("1") + "SELECT own, MIN(cell) AS first FROM line GROUP BY own")
    first = {row["own"]: row["first"] for row in lines}
    places: dict[object, list[Row]] = {}  # both ends of a band are of one cell, and not of one recipe
    for row in rows:
        cell = row["cell_id"]
        place = (first.get(cell, cell), "") if cell is not None else (None, row["paper"].casefold())
        places.setdefault((place, parse_recipe(row["recipe"]).key), []).append(row)
    found = []
    for own in places.values():
        wet = next((row for row in reversed(own) if row["trust"] == Trust.WET), None)
        dry = next((row for row in reversed(own) if row["trust"] == Trust.GOOD), None)
        if wet is None or dry is None or _painted_between(dry, wet):
            continue
        one, two = (np.array([row["L"], row["a"], row["b"]]) for row in (wet, dry))
        found.append(Dried(parse_recipe(dry["recipe"]), one, two, dry["sheet_id"], dry["title"] or ""))
    return found


def _painted_between(dry: Row, wet: Row) -> bool:
    """Whether the dry look is of what lay there before the wet one was painted."""
    painted = wet["painted"]
    if not painted or dry["cell_id"] != wet["cell_id"] or moment_of(wet["taken"]) < moment_of(painted):
        return False
    return bool(moment_of(dry["taken"]) < moment_of(painted))


def dried_mixes(cells: Sequence[Dried]) -> list[DriedMix]:
    """What drying does to each paint and mix: each once, its cells together.

    Parameters
    ----------
    cells : sequence of Dried, as `dried_cells` gives them
    """
    places: dict[Recipe, list[Dried]] = {}
    for cell in cells:
        places.setdefault(cell.recipe.key, []).append(cell)
    found = []
    for own in places.values():
        shift = drying_shift([(cell.wet, cell.dry) for cell in own])
        assert shift is not None
        sheets = dict.fromkeys(
            (cell.sheet_id, cell.title) for cell in reversed(own) if cell.sheet_id is not None
        )
        wet, dry = (np.mean([getattr(cell, look) for cell in own], axis=0) for look in ("wet", "dry"))
        found.append(DriedMix(own[-1].recipe, wet, dry, shift, tuple(sheets)))
    return found


def paints_by_mixes(cells: Sequence[Dried], dry_of: dict[str, Array]) -> list[DriedMix]:
    """What drying does to the paints that were read wet in mixes only, by all of these together.

    Their looks are those of a cell that would change so.

    Parameters
    ----------
    cells : sequence of Dried
    dry_of : dict from folded name to (3,) float, what each paint looks like dry; of others nothing is said
    """
    alone = {cell.recipe.names[0].casefold() for cell in cells if cell.recipe.is_pure}
    spoken = {name.casefold(): name for cell in cells for name in cell.recipe.names}
    single = [cell for cell in cells if len(cell.recipe.layers) == 1]
    shifts = drying_of_paints([(cell.recipe, cell.wet, cell.dry) for cell in single])
    found = []
    for name, (change, count) in shifts.items():
        if name in alone or name not in dry_of:
            continue
        dry = dry_of[name]
        wet = np.clip(dry - change, [0.0, -128.0, -128.0], [100.0, 128.0, 128.0])
        shift = drying_shift([(wet, dry)])
        assert shift is not None
        found.append(DriedMix(mix([spoken[name]]), wet, dry, shift, (), count))
    return found
