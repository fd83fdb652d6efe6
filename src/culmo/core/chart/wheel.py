"""Colour wheels: any number of places between any anchors, rings, a centre, a turning cover; and the wheel of true hues."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from culmo.core.chart.board import MARK_MM, Page, corner_marks
from culmo.core.chart.box import shortened
from culmo.core.chart.grid import Measure, rough_width_mm
from culmo.core.chart.kinds import Choices, Knowledge, added, board_settings, in_parts
from culmo.core.chart.papers import Paper
from culmo.core.chart.sheet import Cell, Label, Point, Ruling, Sheet
from culmo.core.paint.recipe import TINT, Layer, Recipe, mix
from culmo.errors import CulmoError
from culmo.words import tr

_ARC_STEPS = 8  # straight pieces for an arc of a cell
_PETAL_STEPS = 24
_PAD_MM = 2.5
_LEAST_RADIUS_MM = 12.0
_TRUE_WIDTH_DEG = 15.0


def wheel_recipes(choices: Choices) -> list[Recipe]:
    """The mix at each place: the anchors evenly round the circle, their neighbours mixed between them.

    Parameters
    ----------
    choices : Choices, whose paints are the anchors in their order round the wheel
    """
    choices.need(2, "wheel")
    anchors, count = choices.paints, choices.places
    result = []
    for place in range(count):
        at = place * len(anchors) / count
        low = int(at + 1e-9)
        along = at - low
        first, second = anchors[low % len(anchors)], anchors[(low + 1) % len(anchors)]
        result.append(mix([first]) if along < 1e-6 else in_parts(first, second, 1.0 - along, along))
    return result


def ring_recipe(choices: Choices, recipes: Sequence[Recipe], place: int, ring: str) -> Recipe:
    """What goes into a place of a ring.

    Parameters
    ----------
    choices : Choices
    recipes : sequence of Recipe, the outer ring
    place : int
    ring : str, one of kinds.RINGS
    """
    own = recipes[place]
    across = recipes[(place + len(recipes) // 2) % len(recipes)]
    if ring == "full":
        return own
    if ring == "tint":
        return own.with_wash(TINT)
    if ring in ("white", "dark"):
        if not choices.extra:
            raise CulmoError(tr('the ring "{ring}" needs a paint to add', ring=ring))
        return added(own, choices.extra)
    if ring == "glaze":  # the opposite as a thin wash over the dry colour
        return Recipe((Layer(across.layers[0].parts, TINT), own.layers[0]))
    return _together(own, across)


def _together(first: Recipe, second: Recipe) -> Recipe:
    """Equal amounts of two mixes in small whole parts."""
    totals = [sum(part.parts for part in recipe.layers[0].parts) for recipe in (first, second)]
    amounts: dict[str, float] = {}
    for recipe, total in zip((first, second), totals, strict=True):
        for part in recipe.layers[0].parts:
            key = next((name for name in amounts if name.casefold() == part.name.casefold()), part.name)
            amounts[key] = amounts.get(key, 0.0) + part.parts * math.lcm(*(round(t) for t in totals)) / total
    whole = math.gcd(*(round(value) for value in amounts.values())) or 1
    return mix(list(amounts), [round(value) / whole for value in amounts.values()])


@dataclass(frozen=True)
class _Circle:
    """Where the wheel stands: its middle and its outer radius, with the room for labels outside."""

    paper: Paper
    x: float
    y: float
    radius: float


def _fit(page: Page, texts: Sequence[str], measure: Measure) -> _Circle:
    best: _Circle | None = None
    widest = max((min(measure(text, page.label_mm), 30.0) for text in texts), default=0.0)
    for paper in page.papers():
        margin = page.tape_mm + (MARK_MM + 1.0 if page.marks else 0.0)
        wide = paper.width_mm - 2 * margin - page.gutter_mm - 2 * (widest + _PAD_MM)
        top = page.title_mm + _PAD_MM if page.title else 0.0
        high = paper.height_mm - 2 * margin - 2 * (max(top, page.note_mm) + page.label_mm + _PAD_MM)
        radius = math.floor(min(wide, high) / 2 * 2) / 2
        if best is None or radius > best.radius:
            middle = page.gutter_mm + (paper.width_mm - page.gutter_mm) / 2
            best = _Circle(paper, middle, paper.height_mm / 2, radius)
    assert best is not None
    if page.cell_mm is not None and page.cell_mm[0] > best.radius:
        raise CulmoError(
            tr(
                'a wheel of {value:g} mm radius does not fit on paper "{name}"',
                value=page.cell_mm[0],
                name=page.paper.name,
            )
        )
    if page.cell_mm is not None:
        best = _Circle(best.paper, best.x, best.y, page.cell_mm[0])
    if best.radius < _LEAST_RADIUS_MM:
        raise CulmoError(
            tr(
                'no wheel fits on paper "{name}" with these margins: take a larger paper',
                name=page.paper.name,
            )
        )
    return best


def _at(circle: _Circle, radius: float, angle_deg: float) -> Point:
    """A point of the wheel; angles count clockwise from the top."""
    turn = math.radians(angle_deg)
    return circle.x + radius * math.sin(turn), circle.y - radius * math.cos(turn)


def segment(circle: _Circle, inner: float, outer: float, start: float, end: float) -> tuple[Point, ...]:
    """A piece of a ring between two angles, its arcs as short straight lines."""
    angles = np.linspace(start, end, _ARC_STEPS + 1)
    out = [_at(circle, outer, float(angle)) for angle in angles]
    back = (
        [_at(circle, inner, float(angle)) for angle in angles[::-1]] if inner > 0 else [(circle.x, circle.y)]
    )
    return tuple(out + back)


def _strip(circle: _Circle, inner: float, outer: float, start: float, end: float) -> tuple[Point, ...]:
    """An upright strip along the middle of a piece of a ring."""
    middle = (start + end) / 2
    half = min(inner * math.tan(math.radians((end - start) / 2)) * 0.96, 0.45 * (outer - inner))
    outer = math.sqrt(outer**2 - half**2)  # its corners stay within the ring
    turn = math.radians(middle)
    along, aside = (math.sin(turn), -math.cos(turn)), (math.cos(turn), math.sin(turn))
    return tuple(
        (circle.x + r * along[0] + s * half * aside[0], circle.y + r * along[1] + s * half * aside[1])
        for r, s in ((outer, -1), (outer, 1), (inner, 1), (inner, -1))
    )


def _petal(circle: _Circle, inner: float, outer: float, start: float, end: float) -> tuple[Point, ...]:
    """A petal inside a piece of a ring: pointed towards the middle, round outside."""
    middle, half = (start + end) / 2, (end - start) / 2
    points = []
    for turn in np.linspace(0.0, 2.0 * np.pi, _PETAL_STEPS, endpoint=False):
        radius = (inner + outer) / 2 + (outer - inner) / 2 * math.cos(turn)
        wide = half * 0.94 * math.sin(turn) * (0.75 + 0.25 * math.cos(turn))
        points.append(_at(circle, radius, middle + wide))
    return tuple(points)


_OUTLINES = {"segments": segment, "strips": _strip, "petals": _petal}


def plan_wheel(
    choices: Choices, page: Page, known: Knowledge | None = None, measure: Measure = rough_width_mm
) -> list[Sheet]:
    """A wheel, and where wished its turning cover as a second sheet.

    Parameters
    ----------
    choices : Choices
    page : Page; a wished cell gives the outer radius
    known : Knowledge, for the wheel of true hues
    measure : function of (text, size in mm) that gives a width in mm
    """
    if choices.true_hues:
        return [_true_hues(choices, page, known or Knowledge(), measure)]
    recipes = wheel_recipes(choices)
    texts = [choices.text(recipe.names[0]) if recipe.is_pure else "" for recipe in recipes]
    circle = _fit(page, texts, measure)
    hub = circle.radius * (0.2 if choices.centre == "all" or len(choices.rings) > 2 else 0.3)
    edges = np.linspace(circle.radius, hub, len(choices.rings) + 1)
    step = 360.0 / choices.places
    cells = []
    for ring_at, ring in enumerate(choices.rings):
        for place in range(choices.places):
            recipe = ring_recipe(choices, recipes, place, ring)
            start = place * step - step / 2
            bounds = float(edges[ring_at + 1]), float(edges[ring_at])
            name = f"w{ring_at + 1}p{place + 1:02d}"
            cells += _place(choices, circle, bounds, (start, start + step), name, recipe, page.gap_mm)
    if choices.centre == "all":
        outline = tuple(
            _at(circle, hub * 0.92, float(angle)) for angle in np.linspace(0, 360, 36, endpoint=False)
        )
        cells.append(Cell("centre", outline, mix(choices.paints)))
    spokes = tuple(
        (*_at(circle, hub, place * step - step / 2), *_at(circle, circle.radius, place * step - step / 2))
        for place in range(choices.places)
    )
    rings = tuple((circle.x, circle.y, float(radius)) for radius in edges)
    sheet = _sheet(choices, page, circle, cells, texts, step, Ruling((), (), spokes, rings), measure)
    return [sheet, _cover(choices, page, circle, hub, step)] if choices.cover else [sheet]


def _place(
    choices: Choices,
    circle: _Circle,
    bounds: tuple[float, float],
    angles: tuple[float, float],
    name: str,
    recipe: Recipe,
    gap_mm: float,
) -> list[Cell]:
    """The cell of a place, or its full and its pale half."""
    draw = _OUTLINES[choices.shape]
    (inner, outer), (start, end) = bounds, angles
    # bare paper between cells: half of it from each side
    inner, outer = inner + gap_mm / 2, outer - gap_mm / 2
    turn = math.degrees(gap_mm / 2 / max((inner + outer) / 2, 1.0))
    start, end = start + turn, end - turn
    if not choices.halves:
        return [Cell(name, draw(circle, inner, outer, start, end), recipe)]
    middle = (start + end) / 2
    pale = recipe.with_wash(TINT) if recipe.layers[0].wash > TINT else recipe
    return [
        Cell(name, draw(circle, inner, outer, start, middle), recipe),
        Cell(f"{name}b", draw(circle, inner, outer, middle, end), pale),
    ]


def _sheet(
    choices: Choices,
    page: Page,
    circle: _Circle,
    cells: Sequence[Cell],
    texts: Sequence[str],
    step: float,
    ruling: Ruling,
    measure: Measure,
) -> Sheet:
    labels = []
    for place, text in enumerate(texts):
        if text:
            labels.append(_label(circle, page, text, place * step, measure))
    if page.title:
        at = circle.x - circle.radius, circle.y - circle.radius - page.label_mm - 2 * _PAD_MM
        short = shortened(page.title, page.title_mm, 2 * circle.radius, measure)
        labels.append(Label(short, at, 0.0, page.title_mm))
    box = circle.x - circle.radius, circle.y - circle.radius, 2 * circle.radius, 2 * circle.radius
    return Sheet(
        title=page.title or "Wheel",
        kind="wheel",
        paper=circle.paper,
        frame_mm=box,
        cells=tuple(cells),
        labels=tuple(labels),
        ruling=ruling,
        settings={**page.settings(), **board_settings(choices)},
        marks_mm=corner_marks(circle.paper, page.tape_mm) if page.marks else (),
    )


def _label(circle: _Circle, page: Page, text: str, angle: float, measure: Measure) -> Label:
    """A text outside the wheel, upright, on the side where it does not run into it."""
    size = page.label_mm
    short = shortened(text, size, 30.0, measure)
    width = measure(short, size)
    x, y = _at(circle, circle.radius + _PAD_MM, angle)
    side = math.sin(math.radians(angle))
    left = x - width / 2 if abs(side) < 0.15 else x if side > 0 else x - width
    down = 0.35 * size - 0.35 * size * math.cos(math.radians(angle))
    return Label(short, (left, y + down), 0.0, size)


def _cover(choices: Choices, page: Page, circle: _Circle, hub: float, step: float) -> Sheet:
    """A disc to cut out and pin over the wheel; its windows show a colour, its opposite and its thirds."""
    lines: list[tuple[float, float, float, float]] = []
    labels = [
        Label(
            tr("cut out the disc and its windows; pin it through the middle"),
            (page.tape_mm + 2, page.tape_mm + 5),
            0.0,
            3.0,
        )
    ]
    windows = {0: "this", choices.places // 2: "opposite"}
    if choices.places % 3 == 0:
        windows |= {choices.places // 3: "third", 2 * choices.places // 3: "third"}
    for place, word in windows.items():
        start = place * step - 0.42 * step
        outline = segment(circle, hub + 1.0, circle.radius - 3.0, start, start + 0.84 * step)
        points = [*outline, outline[0]]
        lines += [(*a, *b) for a, b in pairwise(points)]
        x, y = _at(circle, hub * 0.6, place * step)
        labels.append(Label(word, (x - 3.0, y), 0.0, 2.4))
    return Sheet(
        title=tr("{value}, cover", value=page.title or "Wheel"),
        kind="wheel cover",
        paper=circle.paper,
        frame_mm=(circle.x - circle.radius, circle.y - circle.radius, 2 * circle.radius, 2 * circle.radius),
        cells=(),
        labels=tuple(labels),
        ruling=Ruling((), (), tuple(lines), ((circle.x, circle.y, circle.radius), (circle.x, circle.y, 1.0))),
        settings=page.settings(),
    )


def _true_hues(choices: Choices, page: Page, known: Knowledge, measure: Measure) -> Sheet:
    """Each paint at its measured hue angle; paints of nearly one hue stand on rings further in."""
    choices.need(1, tr("wheel of true hues"))
    if known.hue is None:
        raise CulmoError(tr("the wheel of true hues needs readings of the paints: read their cards first"))
    # yellow stands at the top, as on a painter's wheel; hue angles count the other way round
    angles = {name: (90.0 - known.hue(name)) % 360.0 for name in choices.paints}
    rings: list[list[str]] = []
    for name in sorted(choices.paints, key=lambda name: angles[name]):
        for ring in rings:
            if all(_apart(angles[name], angles[other]) >= _TRUE_WIDTH_DEG for other in ring):
                ring.append(name)
                break
        else:
            rings.append([name])
    circle = _fit(page, [choices.text(name) for name in choices.paints], measure)
    edges = np.linspace(circle.radius, circle.radius * 0.22, max(len(rings), 3) + 1)
    cells, labels = [], []
    for at, ring in enumerate(rings):
        for name in ring:
            start = angles[name] - _TRUE_WIDTH_DEG / 2
            inner, outer = float(edges[at + 1]) + 0.6, float(edges[at])
            outline = segment(circle, inner, outer, start, start + _TRUE_WIDTH_DEG)
            place = choices.paints.index(name)
            cells.append(Cell(f"h{place + 1:02d}", outline, mix([name])))
            if at == 0:
                labels.append(_label(circle, page, choices.text(name), angles[name], measure))
            else:
                x, y = _at(circle, (inner + outer) / 2, angles[name])
                short = shortened(choices.text(name), 2.2, 16.0, measure)
                labels.append(Label(short, (x - measure(short, 2.2) / 2, y), 0.0, 2.2))
    spokes = tuple(
        (*_at(circle, float(edges[-1]), angle), *_at(circle, circle.radius, angle))
        for angle in angles.values()
    )
    circles = tuple((circle.x, circle.y, float(radius)) for radius in edges)
    sheet = _sheet(choices, page, circle, cells, [], 0.0, Ruling((), (), spokes, circles), measure)
    return Sheet(
        sheet.title, "wheel", sheet.paper, sheet.frame_mm, sheet.cells, (*sheet.labels, *labels), sheet.ruling,
        settings=sheet.settings, marks_mm=sheet.marks_mm,
    )  # fmt: skip


def _apart(one: float, other: float) -> float:
    return abs((one - other + 180.0) % 360.0 - 180.0)
