"""What the record tells of readings besides their colours: which cells were of one puddle, which came out paler or stronger
than meant, and which were painted on another paper than the usual one."""

from collections import Counter
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
class Stroked:
    """What the strokes tell of a cell.

    Attributes
    ----------
    puddle : int, the same for cells of one puddle; None where it was in none that is known
    depth : str, "paler" or "stronger" where the painter marked it so, else ""
    """

    puddle: int | None = None
    depth: str = ""


_NOTHING = Stroked()


def depth_in(marks: str) -> str:
    """How deep a cell came out by the marks of its stroke: "paler", "stronger", or "" where they do not say."""
    return next((mark for mark in marks.split() if mark in DEPTHS), "")


@dataclass(frozen=True)
class Told:
    """What the record tells of readings.

    Attributes
    ----------
    cells : mapping from a cell's row id to what the strokes tell of it
    papers : mapping from a sheet's row id to the name of its paper, where that is one of the painter's own and not the usual
    """

    cells: Mapping[int, Stroked]
    papers: Mapping[int, str]


def told(study: Study) -> Told:
    """What the record tells of readings."""
    return Told(told_by_strokes(study), other_papers(study))


def with_told(rows: Sequence[Row], what: Told) -> list[Row]:
    """Rows of readings with what `reading_of` knows besides: the puddle of a mixed cell or of its scrap, depth, paper.

    Parameters
    ----------
    rows : sequence of Row; those of cells say their `cell_id` and `sheet_id`, those of scraps the cell then painted
    what : Told
    """
    found = []
    for row in rows:
        own = what.cells.get(row.get("cell_id") or row.get("scrap") or 0, _NOTHING)
        more: Row = {}
        if own is not _NOTHING:
            more = {"puddle": own.puddle, "depth": own.depth if row.get("cell_id") else ""}
        paper = what.papers.get(row.get("sheet_id") or 0)
        if paper and not row["paper"]:
            more["paper"] = paper
        found.append({**row, **more} if more else row)
    return found


def other_papers(study: Study) -> dict[int, str]:
    """By the row id of a sheet the painter's own paper that it is on, but for the usual one: that of most readings.

    A paper does something to every film that lies on it. The usual one is where the paints are told; others are told
    beside it, so that what is known of a paint on one paper is known on all.
    """
    if not study.rows("papers"):
        return {}
    names = {
        row["id"]: row["name"]
        for row in study.select(
            """SELECT s.id, p.name FROM sheets s
                JOIN papers p ON p.name = json_extract(s.layout, '$.paper.name') COLLATE NOCASE"""
        )
    }
    count: Counter[str] = Counter()
    for row in study.select(
        "SELECT sheet_id, COUNT(*) AS n FROM readings WHERE sheet_id IS NOT NULL GROUP BY sheet_id"
    ):
        count[names.get(row["sheet_id"], "")] += row["n"]
    usual = max(count, key=lambda name: (count[name], name), default="")
    return {sheet_id: name for sheet_id, name in names.items() if name != usual}


def told_by_strokes(study: Study) -> dict[int, Stroked]:
    """What the strokes tell of each painted cell, by its row id; cells of which they tell nothing are left out.

    One puddle serves the cells of one mix, full, middle and pale, of one run, as long as it is not left for longer than
    STAYS. What came together on the paper or on the brush was in no puddle; what is painted again is of its last one.
    """
    found: dict[int, Stroked] = {}
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
        found[row["cell_id"]] = Stroked(puddle, depth)
    return {cell_id: told for cell_id, told in found.items() if told != _NOTHING}


@lru_cache(maxsize=16_384)
def _mixed(text: str) -> Recipe | None:
    """What is in the puddle of a cell, whatever the wash; None for one paint alone and for glazes."""
    recipe = parse_recipe(text)
    if len(recipe.layers) != 1 or len(recipe.names) < 2:
        return None
    return recipe.with_wash(FULL).key
