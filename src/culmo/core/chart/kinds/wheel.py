"""Colour wheels: any number of places between any anchors, rings, a centre, a turning cover; and the wheel of true hues."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import combinations, pairwise

import numpy as np

from culmo.core.chart.aids import Aids, Measure
from culmo.core.chart.arcs import on_circle, ring_piece
from culmo.core.chart.box import shortened
from culmo.core.chart.cover import Cover
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
from culmo.core.chart.mixes import in_parts
from culmo.core.chart.options import Counts, Flag, OneOf, Options, Whole, option
from culmo.core.chart.page import Page, corner_marks
from culmo.core.chart.papers import Paper
from culmo.core.chart.rings import PLAIN, Ring, RingKind, Rings
from culmo.core.chart.sheet import Cell, Point, Ruling, Sheet, SheetText
from culmo.core.paint.recipe import TINT, Recipe, mix
from culmo.errors import CulmoError
from culmo.words import tr

_PETAL_STEPS = 24
_PAD_MM = 2.5
# of a name outside the wheel at most, and where there is room at its side
_LABEL_MM, _LONG_LABEL_MM = 30.0, 60.0
_LEAST_RADIUS_MM = 12.0
_TRUE_WIDTH_DEG = 15.0
_MOST_PLACES = 96


class WheelForm(StrEnum):
    """What the fields of a wheel look like."""

    SEGMENTS = "segments"
    STRIPS = "strips"
    PETALS = "petals"


class WheelCentre(StrEnum):
    """What a wheel has in its middle, where that is no paint."""

    EMPTY = "empty"
    ALL = "all"


class HubSize(StrEnum):
    """How large the middle of a wheel is."""

    USUAL = ""
    NONE = "none"
    SMALL = "small"
    MIDDLE = "middle"
    LARGE = "large"


_HUBS: dict[str, float] = {
    HubSize.NONE: 0.0,
    HubSize.SMALL: 0.2,
    HubSize.MIDDLE: 0.32,
    HubSize.LARGE: 0.45,
}  # of the outer radius
_SITS = 0.3  # of the step between two hues: so near to one a paint sits there
_FAR_DEG = 125.0  # of two hues that are mixed only where no nearer ones reach
_LEAST_CHROMA = 8.0  # of a mix that has a hue at all
_EVEN_PARTS = tuple((a, b) for a in range(1, 9) for b in range(1, 9) if math.gcd(a, b) == 1 and a + b <= 9)


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
        OneOf({WheelForm.SEGMENTS: tr("segments"), WheelForm.STRIPS: tr("strips"), WheelForm.PETALS: tr("petals")}),
        WheelForm.SEGMENTS, tr("Shape"), "of a wheel: segments, strips, petals",
    )  # fmt: skip
    rings: tuple[str, ...] = option(
        Rings(), (RingKind.FULL, RingKind.PALE), tr("Rings, from the outside"),
        f"of a wheel: {', '.join(PLAIN)}, with PAINT 1:3, glazed PAINT 0.3",
    )  # fmt: skip
    extra: str = extra_option(lambda own: bool({RingKind.WHITE, RingKind.DARK} & set(own.rings)), dark=True)
    centre: str = option(
        OneOf({WheelCentre.EMPTY: tr("empty"), WheelCentre.ALL: tr("all anchors together")}),
        WheelCentre.EMPTY, tr("Centre"), "of a wheel: empty, all",
    )  # fmt: skip
    hub: str = option(
        OneOf(
            {
                HubSize.USUAL: tr("as the rings leave"),
                HubSize.NONE: tr("none"),
                HubSize.SMALL: tr("small"),
                HubSize.MIDDLE: tr("middle"),
                HubSize.LARGE: tr("large"),
            }
        ),
        HubSize.USUAL,
        tr("Size of the centre"),
        "of a wheel: the centre none, small, middle or large",
    )
    halves: bool = option(
        Flag(), False, tr("Each place half full, half pale"), "each place of a wheel half full, half pale"
    )
    cover: bool = option(Flag(), False, tr("A turning cover with windows"), "a turning cover with windows")
    even_hues: bool = option(
        Flag(), False, tr("Even hues, mixed where needed"),
        "places of even hues, a paint or a mix of two at each; needs readings",
        concerns=lambda own: not own.true_hues and not own.between,
    )  # fmt: skip
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


def even_hue_recipes(options: WheelOptions, aids: Aids) -> list[Recipe | None]:
    """A paint, or a mix of two, at each of evenly spaced hues, yellow at the top; None where none reaches a hue.

    A paint stands where it sits within a third of a step; else of the mixes of two within half a step the purest, a degree
    of hue counting as one and a half of chroma. Paints that lie across the circle from each other are mixed only where no
    others reach: their mixes change hue with every breath of the brush.

    Parameters
    ----------
    options : WheelOptions, the paints are those to choose from
    aids : Aids

    Raises
    ------
    CulmoError
        when nothing is known of the paints
    """
    need(options.paints, 2, tr("wheel of even hues"))
    if aids.known.lab is None:
        raise CulmoError(tr("the wheel of even hues needs readings of the paints: read their cards first"))
    alone = [mix([name]) for name in options.paints]
    pairs = list(combinations(range(len(alone)), 2))
    mixed = [mix([options.paints[i], options.paints[j]], list(ab)) for i, j in pairs for ab in _EVEN_PARTS]
    lab = aids.known.lab([*alone, *mixed])
    hue, chroma = np.degrees(np.arctan2(lab[:, 2], lab[:, 1])), np.hypot(lab[:, 1], lab[:, 2])
    step = 360.0 / options.places
    pure = np.arange(len(lab)) < len(alone)
    far = np.repeat([_apart(hue[i], hue[j]) > _FAR_DEG for i, j in pairs], len(_EVEN_PARTS))
    worthless = np.concatenate([np.zeros(len(alone)), np.where(far, 1000.0, 0.0)])
    found: list[Recipe | None] = []
    for place in range(options.places):
        away = np.abs((hue - (90.0 - place * step) + 180.0) % 360.0 - 180.0)
        reached = (away <= step / 2) & (chroma >= _LEAST_CHROMA)
        worth = np.where(reached, chroma - 1.5 * away - worthless, -np.inf)
        sits = pure & (away <= _SITS * step)
        worth = (
            np.where(sits, worth, -np.inf)
            if np.isfinite(worth[sits]).any()
            else np.where(pure, -np.inf, worth)
        )
        best = int(np.argmax(worth))
        found.append([*alone, *mixed][best] if np.isfinite(worth[best]) else None)
    if not any(found):
        raise CulmoError(tr("none of these paints has a hue that could stand on a wheel"))
    return found


@dataclass(frozen=True)
class _Circle:
    """Where the wheel stands: its middle and its outer radius, with the room for labels outside."""

    paper: Paper
    x: float
    y: float
    radius: float


def _fit(page: Page, texts: Sequence[str], measure: Measure) -> _Circle:
    best: _Circle | None = None
    widest = max((min(measure(text, page.label_mm), _LABEL_MM) for text in texts), default=0.0)
    for paper in page.papers():
        margin = page.margin_mm
        wide = paper.width_mm - 2 * margin - page.gutter_mm - 2 * (widest + _PAD_MM)
        top = page.title_mm + _PAD_MM if page.title else 0.0
        high = paper.height_mm - 2 * margin - 2 * (max(top, page.foot_mm) + page.label_mm + _PAD_MM)
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
    return on_circle((circle.x, circle.y), radius, angle_deg)


def _segment(circle: _Circle, inner: float, outer: float, start: float, end: float) -> tuple[Point, ...]:
    """A piece of a ring between two angles."""
    return ring_piece((circle.x, circle.y), inner, outer, start, end)


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


_OUTLINES = {
    WheelForm.SEGMENTS: _segment,
    WheelForm.STRIPS: _strip,
    WheelForm.PETALS: _petal,
}


def _lay_out(options: WheelOptions, page: Page, aids: Aids) -> list[Sheet]:
    """A wheel, and where wished its turning cover as a second sheet; a wished cell gives the outer radius."""
    texts = dict(zip(options.paints, label_texts(options.paints, options.labels, aids), strict=True))
    if options.true_hues:
        return [_true_hues(options, page, aids, texts)]
    recipes: Sequence[Recipe | None] = (
        even_hue_recipes(options, aids)
        if options.even_hues and not options.between
        else wheel_recipes(options)
    )
    places = len(recipes)
    said = [_said(recipe, texts, options.even_hues) for recipe in recipes]
    circle = _fit(page, said, aids.measure)
    hub = _hub(options, circle.radius)
    edges = np.linspace(circle.radius, hub, len(options.rings) + 1)
    step = 360.0 / places
    cells = []
    for ring_at, ring in enumerate(map(Ring.parsed, options.rings)):
        for place, own in enumerate(recipes):
            recipe = ring.recipe(own, recipes[(place + places // 2) % places], options.extra) if own else None
            if recipe is None:
                continue
            start = place * step - step / 2
            bounds = float(edges[ring_at + 1]), float(edges[ring_at])
            name = f"w{ring_at + 1}p{place + 1:02d}"
            cells += _place(options, circle, bounds, (start, start + step), name, recipe, page.gap_mm)
    if options.centre == WheelCentre.ALL:
        outline = tuple(
            _at(circle, hub * 0.92, float(angle)) for angle in np.linspace(0, 360, 36, endpoint=False)
        )
        cells.append(Cell("centre", outline, mix(options.paints)))
    spokes = tuple(
        (*_at(circle, hub, place * step - step / 2), *_at(circle, circle.radius, place * step - step / 2))
        for place in range(places)
    )
    rings = tuple((circle.x, circle.y, float(radius)) for radius in edges if radius > 0.0)
    sheet = _sheet(page, circle, cells, said, step, Ruling((), (), spokes, rings), aids.measure)
    return [sheet, _cover(places, page, circle, hub)] if options.cover else [sheet]


def _said(recipe: Recipe | None, texts: Mapping[str, str], mixes_too: bool) -> str:
    """What is written outside a place: the paint that stands there; on a wheel of even hues also of what it is mixed."""
    if recipe is None:
        return tr("no paint here")
    if recipe.is_pure:
        return texts[recipe.names[0]]
    return str(recipe.renamed(lambda name: texts.get(name, name) or name)) if mixes_too else ""


def _hub(options: WheelOptions, radius: float) -> float:
    """The radius of the centre in mm."""
    usual = 0.2 if options.centre == WheelCentre.ALL or len(options.rings) > 2 else 0.3
    share = _HUBS.get(options.hub, usual)
    if share == 0.0 and (options.centre == WheelCentre.ALL or options.shape == WheelForm.STRIPS):
        raise CulmoError(
            tr("a wheel of strips, or with all anchors in its centre, can not be without a centre")
        )
    return radius * share


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
    draw = _OUTLINES[WheelForm(options.shape)]
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
        labels.append(SheetText(short, at, 0.0, page.title_mm))
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


def _label(circle: _Circle, page: Page, text: str, angle: float, measure: Measure) -> SheetText:
    """A text outside the wheel, upright, on the side where it does not run into it."""
    size = page.label_mm
    x, y = _at(circle, circle.radius + _PAD_MM, angle)
    side = math.sin(math.radians(angle))
    beside = circle.paper.width_mm - page.margin_mm - x if side > 0 else x - page.margin_mm - page.gutter_mm
    most = _LABEL_MM if abs(side) < 0.45 else max(_LABEL_MM, min(beside, _LONG_LABEL_MM))
    short = shortened(text, size, most, measure)
    width = measure(short, size)
    left = x - width / 2 if abs(side) < 0.15 else x if side > 0 else x - width
    down = 0.35 * size - 0.35 * size * math.cos(math.radians(angle))
    return SheetText(short, (left, y + down), 0.0, size)


def _cover(places: int, page: Page, circle: _Circle, hub: float) -> Sheet:
    """A disc to cut out and pin over the wheel; its windows show a colour, its opposite and its thirds."""
    lines: list[tuple[float, float, float, float]] = []
    labels = [
        SheetText(
            tr("cut out the disc and its windows; pin it through the middle"),
            (page.tape_mm + 2, page.tape_mm + 5),
            0.0,
            3.0,
        )
    ]
    cover = Cover(circle.x, circle.y, circle.radius, hub, places)
    for window, word in cover.windows().items():
        outline = cover.outline(window)
        lines += [(*a, *b) for a, b in pairwise([*outline, outline[0]])]
        x, y = cover.at(hub * 0.6, window * cover.step)
        labels.append(SheetText(word, (x - 3.0, y), 0.0, 2.4))
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
            outline = _segment(circle, inner, outer, start, start + _TRUE_WIDTH_DEG)
            place = options.paints.index(name)
            cells.append(Cell(f"h{place + 1:02d}", outline, mix([name])))
            if at == 0:
                labels.append(_label(circle, page, texts[name], angles[name], aids.measure))
            else:
                x, y = _at(circle, (inner + outer) / 2, angles[name])
                short = shortened(texts[name], 2.2, 16.0, aids.measure)
                labels.append(SheetText(short, (x - aids.measure(short, 2.2) / 2, y), 0.0, 2.2))
    spokes = tuple(
        (*_at(circle, float(edges[-1]), angle), *_at(circle, circle.radius, angle))
        for angle in angles.values()
    )
    circles = tuple((circle.x, circle.y, float(radius)) for radius in edges)
    sheet = _sheet(page, circle, cells, [], 0.0, Ruling((), (), spokes, circles), aids.measure)
    return replace(sheet, labels=(*sheet.labels, *(label for label in labels if label.text)))


def _apart(one: float, other: float) -> float:
    return abs((one - other + 180.0) % 360.0 - 180.0)


def _outline_lines(sheet: Sheet, unit: str) -> list[str]:
    """How to draw strips or petals: along the middle line of each place, by radius and width."""
    shape = sheet.settings.get("shape")
    if shape not in (WheelForm.STRIPS, WheelForm.PETALS):
        return []
    x, y, _ = sheet.ruling.circles_mm[0]
    lines = [
        tr("Strips, each about the middle line between two spokes:")
        if shape == WheelForm.STRIPS
        else tr("Petals, each about the middle line between two spokes:")
    ]
    rings: dict[str, Cell] = {}
    for cell in sheet.cells:
        if cell.id[:1] == "w" and "p" in cell.id:
            rings.setdefault(cell.id.split("p")[0][1:], cell)
    for ring, cell in sorted(rings.items(), key=lambda item: int(item[0])):
        points = np.array(cell.outline_mm) - (x, y)
        middle = points.mean(axis=0)
        along = middle / np.hypot(*middle)
        out, aside = points @ along, points @ (-along[1], along[0])
        widest = float(out[int(np.argmax(np.abs(aside)))])
        said = {
            "n": ring, "inner": length_text(float(out.min()), unit), "outer": length_text(float(out.max()), unit),
            "wide": length_text(float(aside.max() - aside.min()), unit),
        }  # fmt: skip
        if shape == WheelForm.STRIPS:
            lines.append(tr("    ring {n}: from {inner} to {outer} from the middle, {wide} wide", **said))
        else:
            said["at"] = length_text(widest, unit)
            lines.append(
                tr(
                    "    ring {n}: tip at {inner}, {wide} wide at {at}, round end at {outer} from the middle",
                    **said,
                )
            )
    return lines


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
    return lines + _outline_lines(sheet, unit)


KIND = Kind(
    4, "wheel", tr("Wheel"), tr("anchors round a circle, neighbours mixed between"), WheelOptions, lay_out=_lay_out,
    gap_mm=2.0, without=("square", "round", "several"), about=about_round, ruling=ruling_of_wheel, edges_are_ruling=True,
    cell_words=tr("Outer radius"),
    few=6, far_apart=True,
)  # fmt: skip
