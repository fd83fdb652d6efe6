"""What can be drawn at the rulers of a sheet that is laid out: tape margin, gap, size of cells, bands of writing."""

from collections.abc import Callable, Collection
from dataclasses import dataclass
from itertools import pairwise

from culmo.core.chart.page import LEAST_LETTERS_MM, MOST_LETTERS_MM, Page
from culmo.core.chart.sheet import Sheet

LEAST_CELL_MM, MOST_MM = 4.0, 300.0


@dataclass(frozen=True)
class Grip:
    """A mark on a ruler that the hand takes.

    Attributes
    ----------
    name : str, the option that it is
    across : bool, on the upper ruler; else on the one at the left
    at_mm : float, where it stands
    value : function of where it is drawn to, millimetres, to the option's value
    said : function of that value to the length that is told beside the hand, millimetres
    """

    name: str
    across: bool
    at_mm: float
    value: Callable[[float], object]
    said: Callable[[object], float]


def grips_of(sheet: Sheet, shown: Collection[str]) -> list[Grip]:
    """The marks of a sheet.

    Parameters
    ----------
    sheet : Sheet
    shown : collection of str, the options that concern its kind
    """
    grips = []
    if "tape_mm" in shown:
        tape = float(sheet.settings.get("tape_mm", Page().tape_mm))
        grips += [Grip("tape_mm", across, tape, _within(0.0, 60.0), _as_it_is) for across in (True, False)]
    for across in (True, False):
        grips += _of_cells(sheet, shown, across)
    return grips + _of_bands(sheet, shown)


def _of_bands(sheet: Sheet, shown: Collection[str]) -> list[Grip]:
    """The head of the strip for notes, and the foot of the band in which the title and the names above the cells stand."""
    page = Page.of_sheet(sheet)
    found = []
    if "note_mm" in shown:
        foot = sheet.paper.height_mm - page.margin_mm
        found.append(Grip("note_mm", False, foot - page.note_mm, _upwards(foot, 200.0), _as_it_is))
    head = min((cell.box_mm[1] for cell in sheet.cells), default=0.0)
    above = [label for label in sheet.labels if label.angle_deg == 0.0 and label.at_mm[1] < head]
    if "letters_mm" in shown and above:
        top = min(label.at_mm[1] - label.size_mm for label in above)
        now = page.label_mm

        def letters_at(at: float) -> object:
            size = now * (at - top) / (head - top)
            return round(10.0 * min(max(size, LEAST_LETTERS_MM), MOST_LETTERS_MM)) / 10.0

        found.append(Grip("letters_mm", False, head, letters_at, _as_it_is))
    return found


def _of_cells(sheet: Sheet, shown: Collection[str], across: bool) -> list[Grip]:
    """The gap behind the first row or column, and the end of the block, where all cells are alike and in rows."""
    begin = 0 if across else 1
    boxes = [cell.box_mm for cell in sheet.cells]
    sizes = {(round(box[2], 2), round(box[3], 2)) for box in boxes}
    starts = sorted({round(box[begin], 2) for box in boxes})
    if len(sizes) != 1 or len(starts) < 2 or any(len(cell.outline_mm) != 4 for cell in sheet.cells):
        return []
    wide, high = next(iter(sizes))
    size = wide if across else high
    pitch = (starts[-1] - starts[0]) / (len(starts) - 1)
    gap, count = pitch - size, len(starts)
    if max(abs(b - a - pitch) for a, b in pairwise(starts)) > 0.05 or gap < -0.05:
        return []  # in two blocks, or one cell in another
    found = []
    if "gap_mm" in shown:
        middle = starts[0] + size + gap / 2

        def gap_at(at: float) -> object:
            return round(2 * min(max(gap + 2 * (at - middle), 0.0), 20.0)) / 2

        found.append(Grip("gap_mm", across, middle, gap_at, _as_it_is))
    if "cell_mm" in shown:
        end = starts[-1] + size
        centre = (starts[0] + end) / 2  # the block stays in the middle of its paper

        def size_at(at: float) -> object:
            side = (2 * (at - centre) - (count - 1) * gap) / count
            side = round(2 * min(max(side, LEAST_CELL_MM), MOST_MM)) / 2
            return (side, high) if across else (wide, side)

        found.append(Grip("cell_mm", across, end, size_at, _side(0 if across else 1)))
    return found


def _within(least: float, most: float) -> Callable[[float], object]:
    return lambda at: round(2 * min(max(at, least), most)) / 2


def _upwards(foot: float, most: float) -> Callable[[float], object]:
    return lambda at: round(2 * min(max(foot - at, 0.0), most)) / 2


def _as_it_is(value: object) -> float:
    assert isinstance(value, float)
    return value


def _side(place: int) -> Callable[[object], float]:
    def said(value: object) -> float:
        assert isinstance(value, tuple)
        return float(value[place])

    return said
