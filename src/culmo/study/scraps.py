"""Dry scraps of puddles: what a puddle looked like beside the cells that were painted from it."""

import json
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import check_lab
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import parse_recipe
from culmo.study.acts import draft_colours
from culmo.study.draft import Draft
from culmo.study.file import Command, Row, Study
from culmo.study.records import extra_of, spoken_cell
from culmo.words import tr


def scrap_of(row: Mapping[str, Any]) -> int | None:
    """The row of the cell that was painted from the puddle of which a reading is a scrap; None for other readings."""
    if row.get("cell_id") is not None:
        return None
    cell_id = extra_of(row).get("scrap")
    return cell_id if isinstance(cell_id, int) else None


def scrap_read(study: Study, cell_id: int) -> Row | None:
    """The reading of a scrap of the puddle of a cell; None where there is none."""
    found = study.rows(
        "readings", "cell_id IS NULL AND json_valid(extra) AND json_extract(extra, '$.scrap') = ?", (cell_id,)
    )
    return found[-1] if found else None


def read_scrap(
    study: Study, sheet_id: int, cell_id: int, lab: Sequence[float] | Array, source: str = "typed"
) -> Command:
    """What a dry scrap of the puddle of a cell looks like; an earlier scrap for the cell is replaced.

    It is a reading of the cell's mix by itself: it teaches as others do, and is known to be of one puddle with the cell.

    Parameters
    ----------
    study : Study
    sheet_id, cell_id : int, of the cell that is painted from the puddle
    lab : (L, a, b)
    source : str, where the colour comes from
    """
    cell = study.row("cells", cell_id)
    draft = Draft(study, tr("Scrap for {cell}", cell=spoken_cell(cell)))
    L, a, b = (float(value) for value in check_lab(np.array(lab, dtype=float)))
    earlier = scrap_read(study, cell_id)
    if earlier is not None:
        draft.edit("readings", earlier["id"], L=L, a=a, b=b, source=source, taken=draft.at)
    else:
        reading = Reading(parse_recipe(cell["recipe"]), (L, a, b), cell["ground"])
        draft_colours(draft, [reading], source, extra=json.dumps({"scrap": cell_id}))
    title = study.row("sheets", sheet_id)["title"]
    draft.tell(
        "reading",
        tr("{title}: a scrap for {cell} was read", title=title, cell=spoken_cell(cell)),
        sheet_id=sheet_id,
    )
    return draft.command()
