"""Which cells were painted from one puddle, as the strokes of the runs tell."""

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from functools import lru_cache

from culmo.core.paint.recipe import FULL, Recipe, parse_recipe
from culmo.study.file import Row, Study
from culmo.study.soundness import moment_of

# a puddle that was left for longer has dried on the tray, and is mixed anew
STAYS = timedelta(minutes=30)


def with_puddles(rows: Sequence[Row], found: Mapping[int, int]) -> list[Row]:
    """Rows of readings, those of mixed cells with the puddle that these were painted from, which `reading_of` knows.

    Parameters
    ----------
    rows : sequence of Row; those of cells say their `cell_id`
    found : mapping from a cell's row id to its puddle, as `puddles` gives it
    """
    of_rows = [found.get(row.get("cell_id") or 0) for row in rows]
    return [
        row if puddle is None else {**row, "puddle": puddle}
        for row, puddle in zip(rows, of_rows, strict=True)
    ]


def puddles(study: Study) -> dict[int, int]:
    """The puddle of each painted cell of several paints, by the cell's row id: cells of one puddle have one number.

    One puddle serves the cells of one mix, full, middle and pale, of one run, as long as it is not left for longer than
    STAYS. What came together on the paper or on the brush was in no puddle; what is painted again is of its last one.
    """
    found: dict[int, int] = {}
    last: dict[Recipe, tuple[int, datetime]] = {}
    run = None
    for row in study.select(
        """SELECT s.id, s.run_id, s.cell_id, s.at, s.how, c.recipe, c.mixing FROM strokes s
            JOIN cells c ON c.id = s.cell_id WHERE s.act = 'done' ORDER BY s.run_id, s.at, s.id"""
    ):
        if row["run_id"] != run:
            run, last = row["run_id"], {}
        found.pop(row["cell_id"], None)
        mixed = _mixed(row["recipe"])
        if mixed is None or row["how"] != "tray" or row["mixing"]:
            continue
        at = moment_of(row["at"])
        number, before = last.get(mixed, (row["id"], at))
        if at - before > STAYS:
            number = row["id"]
        last[mixed] = number, at
        found[row["cell_id"]] = number
    return found


@lru_cache(maxsize=16_384)
def _mixed(text: str) -> Recipe | None:
    """What is in the puddle of a cell, whatever the wash; None for one paint alone and for glazes."""
    recipe = parse_recipe(text)
    if len(recipe.layers) != 1 or len(recipe.names) < 2:
        return None
    return recipe.with_wash(FULL).key
