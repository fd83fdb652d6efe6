"""A paint box as it is: rows of half and full pans, and the well map that lies in its lid."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

from culmo.core.chart.aids import Measure, rough_width_mm
from culmo.core.chart.papers import PAPERS, Paper
from culmo.core.chart.sheet import Cell, Ruling, Sheet, SheetText
from culmo.core.paint.recipe import mix
from culmo.errors import CulmoError
from culmo.words import tr

WELL_MAP = "well map"


class PanSize(StrEnum):
    """How large the pans of a box are."""

    HALF = "half"
    FULL = "full"


PANS = tuple(PanSize)
# the usual pans: a full pan takes the room of two half pans
PAN_MM: dict[str, tuple[float, float]] = {PanSize.HALF: (15.5, 19.0), PanSize.FULL: (31.0, 19.0)}
MOST_ROWS, MOST_COLUMNS = 20, 24
_LABEL_MM, _LEAST_LABEL_MM = 2.3, 1.7
_PAPER_MARGIN_MM = 5.0


@dataclass(frozen=True)
class BoxShape:
    """The wells of a box.

    Attributes
    ----------
    rows, columns : int, 1..20 and 1..24
    pans : mapping from place (row by row, from 0) to "half" or "full"; half where absent
    gap_mm : float, 0..20, between wells
    rim_mm : float, 0..50, from the wells to the edge of the lid
    """

    rows: int
    columns: int
    pans: Mapping[int, str]
    gap_mm: float = 1.5
    rim_mm: float = 4.0

    def __post_init__(self) -> None:
        for what, value, most in (("rows", self.rows, MOST_ROWS), ("columns", self.columns, MOST_COLUMNS)):
            if not 1 <= value <= most:
                raise CulmoError(
                    tr(
                        "a box of {value} {what} can not be; it must have 1 to {most}",
                        value=value,
                        what=what,
                        most=most,
                    )
                )
        if not 0.0 <= self.gap_mm <= 20.0 or not 0.0 <= self.rim_mm <= 50.0:
            raise CulmoError(tr("the gap must lie between 0 and 20 mm, the rim between 0 and 50 mm"))

    @property
    def count(self) -> int:
        """How many wells there are."""
        return self.rows * self.columns

    def pan(self, place: int) -> str:
        """The pan of a well."""
        return self.pans.get(place, PanSize.HALF)

    def well_mm(self, place: int) -> tuple[float, float, float, float]:
        """A well's x, y, width, height from the corner of the lid; full pans push the rest of their row on."""
        row, column = divmod(place, self.columns)
        first = row * self.columns
        x = self.rim_mm + sum(PAN_MM[self.pan(first + i)][0] + self.gap_mm for i in range(column))
        width, height = PAN_MM[self.pan(place)]
        return x, self.rim_mm + row * (height + self.gap_mm), width, height

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height of the lid."""
        ends = [self.well_mm((row + 1) * self.columns - 1) for row in range(self.rows)]
        width = max(x + w for x, _, w, _ in ends)
        return width + self.rim_mm, ends[-1][1] + ends[-1][3] + self.rim_mm


_LONG = 300  # letters, more than any width takes


def shortened(text: str, size_mm: float, most_mm: float, measure: Measure) -> str:
    """A text cut to a width, with an ellipsis."""
    short = text if len(text) < _LONG else text[:_LONG] + "…"  # each cut is measured
    while len(short) > 1 and measure(short, size_mm) > most_mm:
        short = short[:-2].rstrip(" ,;:…") + "…"
    return short


def _printable(width: float, height: float) -> Paper:
    """The smallest common paper that holds a lid, turned as it must be."""
    need = (width + 2 * _PAPER_MARGIN_MM, height + 2 * _PAPER_MARGIN_MM)
    sizes = [paper for paper in PAPERS if paper.name.startswith("A")]
    for paper in sorted(sizes, key=lambda paper: paper.width_mm):
        for turned in (paper, paper.turned()):
            if turned.width_mm >= need[0] and turned.height_mm >= need[1]:
                return turned
    raise CulmoError(
        tr("a lid of {width:.0f} x {height:.0f} mm is larger than any paper here", width=width, height=height)
    )


def plan_well_map(
    name: str,
    shape: BoxShape,
    paints: Mapping[int, tuple[str, str]],
    measure: Measure = rough_width_mm,
) -> Sheet:
    """The little sheet that lies in the lid, at the box's true size: each well is a space to paint, with its label.

    Parameters
    ----------
    name : str, the box
    shape : BoxShape
    paints : from place to (name, codes)
    measure : function of (text, size in mm) that gives a width in mm
    """
    width, height = shape.size_mm
    paper = _printable(width, height)
    x0, y0 = (paper.width_mm - width) / 2, (paper.height_mm - height) / 2
    cells, labels, lines = [], [], list(_box_lines(x0, y0, width, height))
    for place in range(shape.count):
        x, y, w, h = shape.well_mm(place)
        x, y = x0 + x, y0 + y
        lines += _box_lines(x, y, w, h)
        if place not in paints:
            continue
        text, codes = paints[place]
        bottom = y + h - (5.6 if codes else 3.2)
        outline = ((x + 0.8, y + 0.8), (x + w - 0.8, y + 0.8), (x + w - 0.8, bottom), (x + 0.8, bottom))
        cells.append(Cell(f"w{place + 1:02d}", outline, mix([text])))
        for line, base in ((text, bottom + 2.3), (codes, bottom + 4.7)):
            size = _LABEL_MM if measure(line, _LABEL_MM) <= w - 1.4 else _LEAST_LABEL_MM
            short = shortened(line, size, w - 1.4, measure)
            if short:
                labels.append(SheetText(short, (x + (w - measure(short, size)) / 2, base), 0.0, size))
    if not cells:
        raise CulmoError(tr('box "{name}" is empty: lay paints in its wells first', name=name))
    return Sheet(
        title=tr("Well map, {name}", name=name),
        kind=WELL_MAP,
        paper=paper,
        frame_mm=(x0, y0, width, height),
        cells=tuple(cells),
        labels=tuple(labels),
        ruling=Ruling(lines_mm=tuple(lines)),
        settings={"box": name, "rows": shape.rows, "columns": shape.columns, "tape_mm": 0.0},
    )


def _box_lines(x: float, y: float, w: float, h: float) -> list[tuple[float, float, float, float]]:
    corners = [(x, y), (x + w, y), (x + w, y + h), (x, y + h), (x, y)]
    return [(*a, *b) for a, b in pairwise(corners)]


def fitting_shape(count: int) -> tuple[int, int]:
    """Rows and columns of a box for so many half pans: about three times as wide as high, with few empty wells.

    Parameters
    ----------
    count : int, >= 1

    Examples
    --------
    >>> fitting_shape(18)
    (3, 6)
    """
    best = (10**9, 0.0, 1, max(count, 1))
    for rows in range(1, MOST_ROWS + 1):
        columns = -(-max(count, 1) // rows)
        if columns > MOST_COLUMNS:
            continue
        shape = columns * PAN_MM[PanSize.HALF][0] / (rows * PAN_MM[PanSize.HALF][1])
        empty = rows * columns - count
        best = min(best, (empty // 2, abs(shape - 1.7), rows, columns))
    return best[2], best[3]
