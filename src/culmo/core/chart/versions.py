"""A sheet planned anew after it was painted: which cells are those that were there, and whether they stay in place."""

from collections.abc import Collection, Hashable
from dataclasses import replace
from math import cos, radians, sin

from culmo.core.chart.aids import Measure
from culmo.core.chart.sheet import Cell, Point, Ruling, Sheet, SheetText

NEAR_MM = 0.05  # what no pencil tells apart


def _what(cell: Cell) -> Hashable:
    """What is painted into a cell, wherever it lies."""
    return cell.recipe.key, cell.ground, cell.treatment, cell.mixing, cell.fade_mm is None, bool(cell.half_of)


def carried(before: Sheet, after: Sheet) -> dict[str, str]:
    """The cells of a sheet that an earlier version of it has too, each once: the same mix, painted in the same way.

    Where several are alike those with the same id belong together, the others in their order.

    Parameters
    ----------
    before, after : Sheet

    Returns
    -------
    dict from the id of a cell of `after` to that of one of `before`
    """
    there = {cell.id: cell for cell in before.cells}
    found = {
        cell.id: cell.id for cell in after.cells if cell.id in there and _what(there[cell.id]) == _what(cell)
    }
    left: dict[Hashable, list[str]] = {}
    for cell in before.cells:
        if cell.id not in found:
            left.setdefault(_what(cell), []).append(cell.id)
    for cell in after.cells:
        alike = left.get(_what(cell)) if cell.id not in found else None
        if alike:
            found[cell.id] = alike.pop(0)
    return found


def stays(before: Sheet, after: Sheet, painted: Collection[str]) -> bool:
    """Whether all that was painted lies where it lay, on a paper of the same size and under the same id.

    Parameters
    ----------
    before, after : Sheet
    painted : collection of str, the ids of the painted cells of `before`
    """
    if not _same_paper(before, after):
        return False
    there = {cell.id: cell for cell in after.cells}
    same = {new for new, old in carried(before, after).items() if new == old}
    return all(cell_id in same and _lies_on(there[cell_id], before.cell(cell_id)) for cell_id in painted)


def moved_onto(before: Sheet, after: Sheet, painted: Collection[str], measure: Measure) -> Sheet | None:
    """A new layout moved so that what was painted lies where it lay; None where that can not be.

    Parameters
    ----------
    before, after : Sheet
    painted : collection of str, the ids of the painted cells of `before`
    measure : function of (text, size in mm) that gives a text's width in mm
    """
    if not painted or not _same_paper(before, after):
        return None
    there = {cell.id: cell for cell in after.cells}
    by = None
    for cell_id in painted:
        by = _shift(there[cell_id], before.cell(cell_id)) if cell_id in there else None
        if by is not None:
            break
    if by is None:
        return None
    moved = _moved(after, by)
    return moved if stays(before, moved, painted) and _on_paper(moved, measure) else None


def _same_paper(before: Sheet, after: Sheet) -> bool:
    one, other = before.paper, after.paper
    return abs(one.width_mm - other.width_mm) < NEAR_MM and abs(one.height_mm - other.height_mm) < NEAR_MM


def _shift(one: Cell, other: Cell) -> Point | None:
    """How far it is from a cell to one of the same shape; None where the shapes differ."""
    if len(one.outline_mm) != len(other.outline_mm):
        return None
    (x, y), (to_x, to_y) = one.outline_mm[0], other.outline_mm[0]
    by = to_x - x, to_y - y
    near = all(
        abs(a[0] + by[0] - b[0]) < NEAR_MM and abs(a[1] + by[1] - b[1]) < NEAR_MM
        for a, b in zip(one.outline_mm, other.outline_mm, strict=True)
    )
    return by if near else None


def _lies_on(one: Cell, other: Cell) -> bool:
    by = _shift(one, other)
    return by is not None and max(abs(by[0]), abs(by[1])) < NEAR_MM


def _moved(sheet: Sheet, by: Point) -> Sheet:
    """All of a sheet but its corner marks, elsewhere on the paper."""
    dx, dy = by

    def at(point: Point) -> Point:
        return point[0] + dx, point[1] + dy

    def cell(own: Cell) -> Cell:
        fade = (at(own.fade_mm[0]), at(own.fade_mm[1])) if own.fade_mm else None
        return replace(own, outline_mm=tuple(at(point) for point in own.outline_mm), fade_mm=fade)

    x, y, width, height = sheet.frame_mm
    ruling = sheet.ruling
    return replace(
        sheet,
        frame_mm=(x + dx, y + dy, width, height),
        cells=tuple(cell(own) for own in sheet.cells),
        labels=tuple(replace(label, at_mm=at(label.at_mm)) for label in sheet.labels),
        ruling=Ruling(
            tuple(x + dx for x in ruling.vertical_mm),
            tuple(y + dy for y in ruling.horizontal_mm),
            tuple((a + dx, b + dy, c + dx, d + dy) for a, b, c, d in ruling.lines_mm),
            tuple((a + dx, b + dy, r) for a, b, r in ruling.circles_mm),
        ),
    )


def _on_paper(sheet: Sheet, measure: Measure) -> bool:
    """Whether cells, labels and circles lie inside the tape."""
    tape = float(sheet.settings.get("tape_mm", 0.0)) - NEAR_MM
    points = [point for cell in sheet.cells for point in cell.outline_mm]
    points += [point for label in sheet.labels for point in _corners(label, measure)]
    for x, y, radius in sheet.ruling.circles_mm:
        points += [(x - radius, y - radius), (x + radius, y + radius)]
    width, height = sheet.paper.width_mm, sheet.paper.height_mm
    if not all(tape <= x <= width - tape and tape <= y <= height - tape for x, y in points):
        return False
    return not any(
        bx < x < bx + w and by < y < by + h
        for bx, by, w, h in (*sheet.black_mm, *filter(None, [sheet.card_mm]))
        for x, y in points
    )


def _corners(label: SheetText, measure: Measure) -> list[Point]:
    """The ends of a text, at its baseline and at the height of its capitals."""
    angle, long, high = radians(label.angle_deg), measure(label.text, label.size_mm), 0.75 * label.size_mm
    x, y = label.at_mm
    along, up = (cos(angle) * long, sin(angle) * long), (sin(angle) * high, -cos(angle) * high)
    return [
        (x, y), (x + along[0], y + along[1]), (x + up[0], y + up[1]), (x + along[0] + up[0], y + along[1] + up[1]),
    ]  # fmt: skip
