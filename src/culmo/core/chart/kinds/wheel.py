"""Colour wheels: any number of places between any anchors, rings, a centre, a turning cover; and the wheel of true hues."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from culmo.core.chart.aids import Aids, Measure
from culmo.core.chart.box import shortened
from culmo.core.chart.kind import (
    Kind,
    about_round,
    extra_option,
    label_texts,
    labels_option,
    need,
    paints_option,
)
from culmo.core.chart.lengths import length_text
from culmo.core.chart.mixes import added, in_parts
from culmo.core.chart.options import Counts, Flag, OneOf, Options, SomeOf, Whole, option
from culmo.core.chart.page import Page, corner_marks
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
_MOST_PLACES = 96

FULL, PALE, WHITE, DARK, OPPOSITE, GLAZE = "full", "tint", "white", "dark", "opposite", "glaze"
RINGS = (FULL, PALE, WHITE, DARK, OPPOSITE, GLAZE)
SEGMENTS, STRIPS, PETALS = "segments", "strips", "petals"
NO_CENTRE, ALL = "empty", "all"


@dataclass(frozen=True)
class WheelOptions(Options):
    """The paints are the anchors in their order round the wheel; the rings go from the outside inwards."""

    paints: tuple[str, ...] = paints_option()
    places: int = option(
        Whole(3, _MOST_PLACES), 12, tr("Places"), "of a wheel", hint="12", concerns=lambda own: not own.between
    )  # fmt: skip
    between: tuple[int, ...] = option(
        Counts(_MOST_PLACES // 2), (), tr("Steps between neighbours"),
        "of a wheel: steps between each two neighbouring anchors, 2 for all or 2,1,2 gap by gap",
        hint=tr("as many as the places leave"),
    )  # fmt: skip
    shape: str = option(
        OneOf({SEGMENTS: tr("segments"), STRIPS: tr("strips"), PETALS: tr("petals")}),
        SEGMENTS, tr("Shape"), "of a wheel: segments, strips, petals",
    )  # fmt: skip
    rings: tuple[str, ...] = option(
        SomeOf(
            RINGS,
            {
                (FULL, PALE): tr("full and tint"),
                (FULL,): tr("full only"),
                (FULL, PALE, WHITE): tr("full, tint, with white"),
                (FULL, PALE, DARK): tr("full, tint, with a dark"),
                (FULL, OPPOSITE): tr("full, with the opposite"),
                (FULL, GLAZE): tr("full, glazed with the opposite"),
                (FULL, PALE, OPPOSITE, DARK): tr("full, tint, opposite, dark"),
            },
        ),
        (FULL, PALE), tr("Rings"), f"of a wheel: {', '.join(RINGS)}",
    )  # fmt: skip
    extra: str = extra_option(lambda own: bool({WHITE, DARK} & set(own.rings)), dark=True)
    centre: str = option(
        OneOf({NO_CENTRE: tr("empty"), ALL: tr("all anchors together")}),
        NO_CENTRE, tr("Centre"), "of a wheel: empty, all",
    )  # fmt: skip
    halves: bool = option(
        Flag(), False, tr("Each place half full, half pale"), "each place of a wheel half full, half pale"
    )
    cover: bool = option(Flag(), False, tr("A turning cover with windows"), "a turning cover with windows")
    true_hues: bool = option(
        Flag(), False, tr("Each paint at its measured hue"), "each paint at its measured hue; needs readings"
    )
    labels: str = labels_option()


def wheel_recipes(options: WheelOptions) -> list[Recipe]:
    """The mix at each place: every anchor pure, and between two neighbours the steps from one to the other.

    Parameters
    ----------
    options : WheelOptions
    """
    need(options.paints, 2, tr("wheel"))
    anchors = options.paints
    result = []
    for place, steps in enumerate(steps_between(options)):
        first, second = anchors[place], anchors[(place + 1) % len(anchors)]
        result.append(mix([first]))
        result += [in_parts(first, second, steps + 1.0 - step, step) for step in range(1, steps + 1)]
    return result


def steps_between(options: WheelOptions) -> tuple[int, ...]:
    """How many steps lie in each gap, from an anchor to the next, round the wheel.

    As they are given; else as evenly as the places allow, the wider gaps spread round the wheel.

    Raises
    ------
    CulmoError
        when the steps are not as many as the gaps, or too many
    """
    anchors, given = len(options.paints), options.between
    if len(given) == 1:
        given *= anchors
    if given:
        if len(given) != anchors:
            raise CulmoError(
                tr(
                    "{anchors} anchors have {anchors} gaps between them, and steps are given for {n}",
                    anchors=anchors,
                    n=len(given),
                )
            )
        if not 3 <= anchors + sum(given) <= _MOST_PLACES:
            raise CulmoError(
                tr(
                    "a wheel of {n} places can not be; it must have {least} to {most}",
                    n=anchors + sum(given),
                    least=3,
                    most=_MOST_PLACES,
                )
            )
        return given
    free = max(0, options.places - anchors)  # there is a place for each anchor, however few were wished
    return tuple((gap + 1) * free // anchors - gap * free // anchors for gap in range(anchors))


def ring_recipe(options: WheelOptions, recipes: Sequence[Recipe], place: int, ring: str) -> Recipe:
    """What goes into a place of a ring.

    Parameters
    ----------
    options : WheelOptions
    recipes : sequence of Recipe, the outer ring
    place : int
    ring : str, one of RINGS
    """
    own = recipes[place]
    across = recipes[(place + len(recipes) // 2) % len(recipes)]
    if ring == FULL:
        return own
    if ring == PALE:
        return own.with_wash(TINT)
    if ring in (WHITE, DARK):
        if not options.extra:
            raise CulmoError(tr('the ring "{ring}" needs a paint to add', ring=ring))
        return added(own, options.extra)
    if ring == GLAZE:  # the opposite as a thin wash over the dry colour
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
        margin = page.margin_mm
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


_OUTLINES = {SEGMENTS: segment, STRIPS: _strip, PETALS: _petal}


def _lay_out(options: WheelOptions, page: Page, aids: Aids) -> list[Sheet]:
    """A wheel, and where wished its turning cover as a second sheet; a wished cell gives the outer radius."""
    texts = dict(zip(options.paints, label_texts(options.paints, options.labels, aids.codes), strict=True))
    if options.true_hues:
        return [_true_hues(options, page, aids, texts)]
    recipes = wheel_recipes(options)
    places = len(recipes)
    said = [texts[recipe.names[0]] if recipe.is_pure else "" for recipe in recipes]
    circle = _fit(page, said, aids.measure)
    hub = circle.radius * (0.2 if options.centre == ALL or len(options.rings) > 2 else 0.3)
    edges = np.linspace(circle.radius, hub, len(options.rings) + 1)
    step = 360.0 / places
    cells = []
    for ring_at, ring in enumerate(options.rings):
        for place in range(places):
            recipe = ring_recipe(options, recipes, place, ring)
            start = place * step - step / 2
            bounds = float(edges[ring_at + 1]), float(edges[ring_at])
            name = f"w{ring_at + 1}p{place + 1:02d}"
            cells += _place(options, circle, bounds, (start, start + step), name, recipe, page.gap_mm)
    if options.centre == ALL:
        outline = tuple(
            _at(circle, hub * 0.92, float(angle)) for angle in np.linspace(0, 360, 36, endpoint=False)
        )
        cells.append(Cell("centre", outline, mix(options.paints)))
    spokes = tuple(
        (*_at(circle, hub, place * step - step / 2), *_at(circle, circle.radius, place * step - step / 2))
        for place in range(places)
    )
    rings = tuple((circle.x, circle.y, float(radius)) for radius in edges)
    sheet = _sheet(page, circle, cells, said, step, Ruling((), (), spokes, rings), aids.measure)
    return [sheet, _cover(places, page, circle, hub, step)] if options.cover else [sheet]


def _place(
    options: WheelOptions,
    circle: _Circle,
    bounds: tuple[float, float],
    angles: tuple[float, float],
    name: str,
    recipe: Recipe,
    gap_mm: float,
) -> list[Cell]:
    """The cell of a place, or its full and its pale half."""
    draw = _OUTLINES[options.shape]
    (inner, outer), (start, end) = bounds, angles
    # bare paper between cells: half of it from each side
    inner, outer = inner + gap_mm / 2, outer - gap_mm / 2
    turn = math.degrees(gap_mm / 2 / max((inner + outer) / 2, 1.0))
    start, end = start + turn, end - turn
    if not options.halves:
        return [Cell(name, draw(circle, inner, outer, start, end), recipe)]
    middle = (start + end) / 2
    pale = recipe.with_wash(TINT) if recipe.layers[0].wash > TINT else recipe
    return [
        Cell(name, draw(circle, inner, outer, start, middle), recipe),
        Cell(f"{name}b", draw(circle, inner, outer, middle, end), pale),
    ]


def _sheet(
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
        title=page.title or tr("Wheel"),
        kind="wheel",
        paper=circle.paper,
        frame_mm=box,
        cells=tuple(cells),
        labels=tuple(labels),
        ruling=ruling,
        marks_mm=corner_marks(page, circle.paper),
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


def _cover(places: int, page: Page, circle: _Circle, hub: float, step: float) -> Sheet:
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
    windows = {0: tr("this"), places // 2: tr("opposite")}
    if places % 3 == 0:
        windows |= {places // 3: tr("third"), 2 * places // 3: tr("third")}
    for place, word in windows.items():
        start = place * step - 0.42 * step
        outline = segment(circle, hub + 1.0, circle.radius - 3.0, start, start + 0.84 * step)
        points = [*outline, outline[0]]
        lines += [(*a, *b) for a, b in pairwise(points)]
        x, y = _at(circle, hub * 0.6, place * step)
        labels.append(Label(word, (x - 3.0, y), 0.0, 2.4))
    return Sheet(
        title=tr("{value}, cover", value=page.title or tr("Wheel")),
        kind="wheel cover",
        paper=circle.paper,
        frame_mm=(circle.x - circle.radius, circle.y - circle.radius, 2 * circle.radius, 2 * circle.radius),
        cells=(),
        labels=tuple(labels),
        ruling=Ruling((), (), tuple(lines), ((circle.x, circle.y, circle.radius), (circle.x, circle.y, 1.0))),
    )


def _true_hues(options: WheelOptions, page: Page, aids: Aids, texts: Mapping[str, str]) -> Sheet:
    """Each paint at its measured hue angle; paints of nearly one hue stand on rings further in."""
    need(options.paints, 1, tr("wheel of true hues"))
    if aids.known.hue is None:
        raise CulmoError(tr("the wheel of true hues needs readings of the paints: read their cards first"))
    # yellow stands at the top, as on a painter's wheel; hue angles count the other way round
    angles = {name: (90.0 - aids.known.hue(name)) % 360.0 for name in options.paints}
    rings: list[list[str]] = []
    for name in sorted(options.paints, key=lambda name: angles[name]):
        for ring in rings:
            if all(_apart(angles[name], angles[other]) >= _TRUE_WIDTH_DEG for other in ring):
                ring.append(name)
                break
        else:
            rings.append([name])
    circle = _fit(page, list(texts.values()), aids.measure)
    edges = np.linspace(circle.radius, circle.radius * 0.22, max(len(rings), 3) + 1)
    cells, labels = [], []
    for at, ring in enumerate(rings):
        for name in ring:
            start = angles[name] - _TRUE_WIDTH_DEG / 2
            inner, outer = float(edges[at + 1]) + 0.6, float(edges[at])
            outline = segment(circle, inner, outer, start, start + _TRUE_WIDTH_DEG)
            place = options.paints.index(name)
            cells.append(Cell(f"h{place + 1:02d}", outline, mix([name])))
            if at == 0:
                labels.append(_label(circle, page, texts[name], angles[name], aids.measure))
            else:
                x, y = _at(circle, (inner + outer) / 2, angles[name])
                short = shortened(texts[name], 2.2, 16.0, aids.measure)
                labels.append(Label(short, (x - aids.measure(short, 2.2) / 2, y), 0.0, 2.2))
    spokes = tuple(
        (*_at(circle, float(edges[-1]), angle), *_at(circle, circle.radius, angle))
        for angle in angles.values()
    )
    circles = tuple((circle.x, circle.y, float(radius)) for radius in edges)
    sheet = _sheet(page, circle, cells, [], 0.0, Ruling((), (), spokes, circles), aids.measure)
    return replace(sheet, labels=(*sheet.labels, *(label for label in labels if label.text)))


def _apart(one: float, other: float) -> float:
    return abs((one - other + 180.0) % 360.0 - 180.0)


def ruling_of_wheel(sheet: Sheet, unit: str) -> list[str]:
    """Circles and angles: the middle, the radii, the compass points and the chord from spoke to spoke."""
    x, y, _ = sheet.ruling.circles_mm[0]
    lines = [
        tr(
            "The middle: {length_text} from the left, {length_text2} from the top",
            length_text=length_text(x, unit),
            length_text2=length_text(y, unit),
        )
    ]
    radii = sorted({round(circle[2], 2) for circle in sheet.ruling.circles_mm}, reverse=True)
    lines += [
        tr("Circles, with the compass:"),
        *(tr("    radius {length_text}", length_text=length_text(radius, unit)) for radius in radii),
    ]
    turns = []
    for x1, y1, x2, y2 in sheet.ruling.lines_mm:
        far = (x2, y2) if np.hypot(x2 - x, y2 - y) > np.hypot(x1 - x, y1 - y) else (x1, y1)
        turns.append(float(np.degrees(np.arctan2(far[0] - x, y - far[1])) % 360.0))
    turns.sort()
    lines.append(tr("Spokes, clockwise from the top:"))
    outer = radii[0] if radii else 0.0
    for at, turn in enumerate(turns):
        step = (turns[(at + 1) % len(turns)] - turn) % 360.0
        chord = 2.0 * outer * float(np.sin(np.radians(min(step, 360.0 - step) / 2.0)))
        lines.append(
            tr(
                "    {turn:.1f}°, chord to the next {length_text}",
                turn=turn,
                length_text=length_text(chord, unit),
            )
        )
    return lines


KIND = Kind(
    4, "wheel", tr("Wheel"), tr("anchors round a circle, neighbours mixed between"), WheelOptions, lay_out=_lay_out,
    gap_mm=2.0, without=("square", "several"), about=about_round, ruling=ruling_of_wheel, edges_are_ruling=True,
    cell_words=tr("Outer radius"),
)  # fmt: skip
