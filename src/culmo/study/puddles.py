"""What the strokes of the runs tell of the cells: which were of one puddle, which came out paler or stronger than meant."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache

from culmo.core.paint.readings import DEPTHS
from culmo.core.paint.recipe import FULL, Recipe, parse_recipe
from culmo.study.file import Row, Study
from culmo.study.soundness import moment_of

# a puddle that was left for longer has dried on the tray, and is mixed anew
STAYS = timedelta(minutes=30)


@dataclass(frozen=True)
class Told:
    """What the strokes tell of a cell.

    Attributes
    ----------
    puddle : int, the same for cells of one puddle; None where it was in none that is known
    depth : str, "paler" or "stronger" where the painter marked it so, else ""
    """

    puddle: int | None = None
    depth: str = ""


_NOTHING = Told()


def depth_in(marks: str) -> str:
    """How deep a cell came out by the marks of its stroke: "paler", "stronger", or "" where they do not say."""
    return next((mark for mark in marks.split() if mark in DEPTHS), "")


def with_strokes(rows: Sequence[Row], told: Mapping[int, Told]) -> list[Row]:
    """Rows of readings with what `reading_of` knows of the strokes: the puddle of a mixed cell, or of its scrap, the depth.

    Parameters
    ----------
    rows : sequence of Row; those of cells say their `cell_id`, those of scraps the cell that was then painted
    told : mapping from a cell's row id, as `told_by_strokes` gives it
    """
    found = []
    for row in rows:
        own = told.get(row.get("cell_id") or row.get("scrap") or 0, _NOTHING)
        depth = own.depth if row.get("cell_id") else ""
        found.append(row if own is _NOTHING else {**row, "puddle": own.puddle, "depth": depth})
    return found


def told_by_strokes(study: Study) -> dict[int, Told]:
    """What the strokes tell of each painted cell, by its row id; cells of which they tell nothing are left out.

    One puddle serves the cells of one mix, full, middle and pale, of one run, as long as it is not left for longer than
    STAYS. What came together on the paper or on the brush was in no puddle; what is painted again is of its last one.
    """
    found: dict[int, Told] = {}
    last: dict[Recipe, tuple[int, datetime]] = {}
    run = None
    for row in study.select(
        """SELECT s.id, s.run_id, s.cell_id, s.at, s.how, s.marks, c.recipe, c.mixing FROM strokes s
            JOIN cells c ON c.id = s.cell_id WHERE s.act = 'done' ORDER BY s.run_id, s.at, s.id"""
    ):
        if row["run_id"] != run:
            run, last = row["run_id"], {}
        depth = depth_in(row["marks"])
        puddle = None
        mixed = _mixed(row["recipe"])
        if mixed is not None and row["how"] == "tray" and not row["mixing"]:
            at = moment_of(row["at"])
            puddle, before = last.get(mixed, (row["id"], at))
            if at - before > STAYS:
                puddle = row["id"]
            last[mixed] = puddle, at
        found[row["cell_id"]] = Told(puddle, depth)
    return {cell_id: told for cell_id, told in found.items() if told != _NOTHING}


@lru_cache(maxsize=16_384)
def _mixed(text: str) -> Recipe | None:
    """What is in the puddle of a cell, whatever the wash; None for one paint alone and for glazes."""
    recipe = parse_recipe(text)
    if len(recipe.layers) != 1 or len(recipe.names) < 2:
        return None
    return recipe.with_wash(FULL).key
