"""Points and pieces of rings, as wheels and their covers are drawn."""

from math import cos, radians, sin

from culmo.core.chart.sheet import Point

_STEPS = 8  # straight pieces for an arc


def on_circle(middle: Point, radius: float, angle_deg: float) -> Point:
    """A point at a distance from the middle; angles count clockwise from the top."""
    turn = radians(angle_deg)
    return middle[0] + radius * sin(turn), middle[1] - radius * cos(turn)


def ring_piece(middle: Point, inner: float, outer: float, start: float, end: float) -> tuple[Point, ...]:
    """A piece of a ring between two angles, its arcs as short straight lines; a slice where it has no inner edge.

    Parameters
    ----------
    middle : (x, y)
    inner, outer : float, radii
    start, end : float, degrees, clockwise from the top
    """
    angles = [start + (end - start) * step / _STEPS for step in range(_STEPS + 1)]
    back = [on_circle(middle, inner, angle) for angle in angles[::-1]] if inner > 0 else [middle]
    return (*(on_circle(middle, outer, angle) for angle in angles), *back)
