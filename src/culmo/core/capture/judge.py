"""Whether colours read from a picture can be those of the sheet: the right sheet, the right cells, sound paint."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from culmo.core.chart.sheet import Cell
from culmo.core.colour.difference import delta_e_00
from culmo.core.colour.spectral import Array, Flags
from culmo.core.paint.predict import Prediction

UNPAINTED = 1.8  # CIEDE2000 from the bare paper
_SHUFFLES = 12
# of what shuffled recipes leave unexplained; of 120 right sheets the worst came to 0.33, of as many shuffled ones the
# best to 0.68
_FITS_NOT = 0.5


@dataclass(frozen=True)
class Expected:
    """What a cell is predicted to look like.

    Attributes
    ----------
    lab : (3,) float
    dE90 : float, the CIEDE2000 radius that holds nine in ten
    """

    lab: Array
    dE90: float


def expected_colours(cells: Sequence[Cell], prediction: Prediction) -> dict[str, Expected]:
    """What cells are predicted to look like, by their ids; those that are not foretold are left out.

    Parameters
    ----------
    cells : sequence of n Cell
    prediction : Prediction of the n cells
    """
    return {
        cell.id: Expected(lab, float(radius))
        for cell, lab, radius in zip(cells, prediction.lab, prediction.dE90, strict=True)
        if cell.is_wash and np.isfinite(radius)
    }


def recipe_loads(cells: Sequence[Cell]) -> Array:
    """How much of each paint lies in each cell, by the recipes, (cells, paints) float."""
    names = sorted({name.casefold() for cell in cells for name in cell.recipe.names})
    place = {name: i for i, name in enumerate(names)}
    loads = np.zeros((len(cells), len(names)))
    for row, cell in enumerate(cells):
        for layer in cell.recipe.layers:
            total = sum(part.parts for part in layer.parts)
            for part in layer.parts:
                loads[row, place[part.name.casefold()]] += layer.wash * part.parts / total
    return loads


def unexplained(cells: Sequence[Cell], density: Array, rng: np.random.Generator) -> float | None:
    """How badly the recipes explain the colours, against recipes shuffled over the cells; 0 well, 1 not at all.

    Each paint is given the absorption in red, green and blue that explains most (Beer's law). On the right sheet
    cells with a paint in common then share its absorption; on a wrong one they do not.

    Parameters
    ----------
    cells : sequence of n Cell
    density : (n, 3) float, minus the log of light relative to the bare paper
    rng : numpy Generator

    Returns
    -------
    float, or None where there are too few cells to tell
    """
    from scipy.optimize import nnls  # slow to import, and needed only here

    loads = recipe_loads(cells)
    distinct = len(np.unique(np.round(loads, 3), axis=0))
    if distinct < loads.shape[1] + 3 or len(cells) < loads.shape[1] + 3:
        return None
    # strong colours must not outweigh all others
    want = np.sqrt(np.maximum(density, 0.0) + 0.01)

    def left(rows: Array) -> float:
        total = 0.0
        for channel in range(3):
            amounts, _ = nnls(rows, np.maximum(density[:, channel], 0.0))
            total += float(((np.sqrt(rows @ amounts + 0.01) - want[:, channel]) ** 2).sum())
        return total

    own = left(loads)
    shuffled = np.median([left(loads[rng.permutation(len(cells))]) for _ in range(_SHUFFLES)])
    return own / max(float(shuffled), 1e-9)


@dataclass(frozen=True)
class CellVerdict:
    """Whether the colours fit the sheet.

    Attributes
    ----------
    fits : bool or None, None where nothing can be said
    measure : float, smaller is better; by the predictions a CIEDE2000, by the recipes alone a share
    """

    fits: bool | None
    measure: float


def judge_sheet(
    cells: Sequence[Cell], lab: Array, density: Array, painted: Flags, expected: Mapping[str, Expected]
) -> CellVerdict:
    """Whether these can be the colours of these cells.

    Parameters
    ----------
    cells : sequence of n Cell
    lab : (n, 3) float, as read
    density : (n, 3) float, minus the log of light relative to the bare paper
    painted : (n,) bool
    expected : mapping from cell id to Expected; may be empty
    """
    rows = [i for i in range(len(cells)) if painted[i] and cells[i].id in expected]
    if len(rows) >= 4:
        mean = np.array([expected[cells[i].id].lab for i in rows])
        radius = np.array([expected[cells[i].id].dE90 for i in rows])
        away = delta_e_00(lab[rows], mean)
        typical = float(np.median(away))
        rng = np.random.default_rng(7)
        chance = np.median(
            [np.median(delta_e_00(lab[rows], mean[rng.permutation(len(rows))])) for _ in range(30)]
        )
        poor = typical > max(6.0, 1.5 * float(np.median(radius)))
        return CellVerdict(not (poor and typical > 0.5 * chance), typical)
    some = [i for i in range(len(cells)) if painted[i] and cells[i].recipe.layers and not cells[i].mixing]
    share = (
        unexplained([cells[i] for i in some], density[some], np.random.default_rng(7))
        if len(some) > 4
        else None
    )
    if share is None:
        return CellVerdict(None, 1.0)
    return CellVerdict(share < _FITS_NOT, share)


def mixed_up(
    cells: Sequence[Cell], lab: Array, painted: Flags, expected: Mapping[str, Expected]
) -> dict[str, str]:
    """Cells whose neighbour's recipe fits far better than their own, with that neighbour.

    Parameters
    ----------
    cells : sequence of n Cell
    lab : (n, 3) float, as read
    painted : (n,) bool
    expected : mapping from cell id to Expected
    """
    rows = [i for i in range(len(cells)) if painted[i] and cells[i].id in expected]
    if len(rows) < 2:
        return {}
    mean = np.array([expected[cells[i].id].lab for i in rows])
    radius = np.array([expected[cells[i].id].dE90 for i in rows])
    middle = np.array([np.mean(cells[i].outline_mm, axis=0) for i in rows])
    size = np.median([max(cells[i].box_mm[2:]) for i in rows])
    away = delta_e_00(lab[rows][:, None], mean[None])
    found: dict[str, str] = {}
    for place, row in enumerate(rows):
        own = away[place, place]
        if own < max(6.0, 1.6 * radius[place]):
            continue
        near = np.hypot(*(middle - middle[place]).T) < 1.8 * size
        near[place] = False
        if near.any():
            best = int(np.where(near, away[place], np.inf).argmin())
            if away[place, best] < 0.4 * own and away[place, best] < 1.2 * radius[best]:
                found[cells[row].id] = cells[rows[best]].id
    return found
