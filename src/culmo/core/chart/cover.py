"""The turning cover of a wheel: a disc with windows that show a colour, its opposite and its thirds."""

from dataclasses import dataclass
from math import atan2, degrees, hypot

from culmo.core.chart.arcs import on_circle, ring_piece
from culmo.core.chart.sheet import Point, Sheet
from culmo.words import tr

_WIDE = 0.42  # half of a window, of a place
_RIM_MM, _HUB_MM = 3.0, 1.0


@dataclass(frozen=True)
class Cover:
    """A cover as it lies on its wheel.

    Attributes
    ----------
    x, y : float, the middle in mm
    radius, hub : float, of the wheel and of its centre in mm
    places : int
    """

    x: float
    y: float
    radius: float
    hub: float
    places: int

    @property
    def step(self) -> float:
        """From place to place in degrees."""
        return 360.0 / self.places

    def windows(self) -> dict[int, str]:
        """How many places each window stands from the first, clockwise, with what it shows."""
        found = {0: tr("this"), self.places // 2: tr("opposite")}
        if self.places % 3 == 0:
            found |= {self.places // 3: tr("third"), 2 * self.places // 3: tr("third")}
        return found

    def outline(self, window: int, turn: float = 0.0) -> tuple[Point, ...]:
        """The corners of a window, where the cover is turned by some places."""
        start, end = (window + turn - _WIDE) * self.step, (window + turn + _WIDE) * self.step
        return ring_piece((self.x, self.y), self.hub + _HUB_MM, self.radius - _RIM_MM, start, end)

    def at(self, radius: float, angle_deg: float) -> Point:
        """A point; angles count clockwise from the top."""
        return on_circle((self.x, self.y), radius, angle_deg)

    def angle_at(self, point: Point) -> float | None:
        """The angle of a point in degrees, clockwise from the top; None where it lies beside the cover."""
        dx, dy = point[0] - self.x, point[1] - self.y
        return degrees(atan2(dx, -dy)) % 360.0 if 1e-6 < hypot(dx, dy) <= self.radius else None


def cover_of(sheet: Sheet) -> Cover | None:
    """The cover of a wheel of evenly spaced places; None for what is none."""
    circles, spokes = sheet.ruling.circles_mm, sheet.ruling.lines_mm
    if sheet.kind != "wheel" or sheet.settings.get("true_hues") or not circles or len(spokes) < 3:
        return None
    x, y, radius = max(circles, key=lambda circle: circle[2])
    inner = min(hypot(x1 - x, y1 - y) for x1, y1, _, _ in spokes)
    return Cover(x, y, radius, inner, len(spokes))


def seen_through(sheet: Sheet, cover: Cover, turn: int) -> list[tuple[str, str]]:
    """What each window shows of the outer ring: its word, and the id of the cell; places that are free are left out."""
    there = {cell.id for cell in sheet.cells}
    found = []
    for window, word in sorted(cover.windows().items()):
        name = f"w1p{(window + turn) % cover.places + 1:02d}"
        if name in there:
            found.append((word, name))
    return found
