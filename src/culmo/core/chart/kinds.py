"""Kinds of sheet that are boards: two families, fan, ladder, palette card, free page, keepers, one against the box."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from itertools import combinations
from math import gcd

from culmo.core.chart.board import Board, Slot
from culmo.core.colour.spectral import Array
from culmo.core.paint.recipe import TINT, Recipe, format_recipe, mix
from culmo.errors import CulmoError
from culmo.words import tr, trn

SECONDS = ("paler", "white", "dominance", "third", "same", "empty")
SPLITS = ("", "diagonal", "halves")
FAN_WAYS = ("steps", "one", "touch")
WHEEL_SHAPES = ("segments", "strips", "petals")
RINGS = ("full", "tint", "white", "dark", "opposite", "glaze")
CENTRES = ("empty", "all")
MOST_STEPS = 40
_FAN_PARTS = ((8, 1), (4, 1), (2, 1), (1, 1), (1, 2), (1, 4), (1, 8))


@dataclass(frozen=True)
class Knowledge:
    """What an estimate can say while a sheet is planned; all of it may be missing.

    Attributes
    ----------
    even : function of (first, second, count) that gives recipes in even perceived steps, or None
    hue : function from a paint's name to its measured hue angle in degrees, or None
    lab : function from recipes to (n, 3) CIELAB, or None
    """

    even: Callable[[str, str, int], list[Recipe]] | None = None
    hue: Callable[[str], float] | None = None
    lab: Callable[[Sequence[Recipe]], Array] | None = None


@dataclass(frozen=True)
class Choices:
    """What the painter chose for a sheet besides its page; each kind uses what concerns it.

    Attributes
    ----------
    paints : tuple of str
    across : tuple of str, the second family of a grid of two families
    second : str, what goes into the second half of a grid, one of SECONDS
    extra : str, a white, a third paint or a dark, where the kind needs one
    split : str, one of SPLITS
    texts : tuple of str, what is written for each paint; the names where empty
    steps : int, 1..40
    parts : tuple of (a, b), given parts of a ladder or fan; even or usual ones where empty
    even : bool, steps of equal perceived difference, where an estimate is at hand
    wet : bool, boxes to paint wet in wet beside a ladder
    way : str, of a fan, one of FAN_WAYS
    places : int, of a wheel, 3..96
    shape : str, of a wheel's cells
    rings : tuple of str, of a wheel, from the outside inwards
    centre : str, of a wheel
    halves : bool, each place of a wheel half full, half pale
    cover : bool, a turning cover with windows
    true_hues : bool, a wheel where each paint stands at its measured hue
    recipes : tuple of Recipe, of a free page or a page of keepers
    """

    paints: tuple[str, ...] = ()
    across: tuple[str, ...] = ()
    second: str = "paler"
    extra: str = ""
    split: str = ""
    texts: tuple[str, ...] = ()
    steps: int = 5
    parts: tuple[tuple[float, float], ...] = ()
    even: bool = False
    wet: bool = False
    way: str = "steps"
    places: int = 12
    shape: str = "segments"
    rings: tuple[str, ...] = ("full", "tint")
    centre: str = "empty"
    halves: bool = False
    cover: bool = False
    true_hues: bool = False
    recipes: tuple[Recipe, ...] = field(default_factory=tuple)

    def __post_init__(self) -> None:
        for family in (self.paints, self.across):
            if len({name.casefold() for name in family}) != len(family):
                raise CulmoError(tr("a sheet can not hold the same paint twice in one row"))
        for word, value, known in (
            (tr("second half"), self.second, SECONDS), ("split", self.split, SPLITS), ("way", self.way, FAN_WAYS),
            ("shape", self.shape, WHEEL_SHAPES), ("centre", self.centre, CENTRES),
        ):  # fmt: skip
            if value not in known:
                raise CulmoError(
                    tr(
                        'the {word} "{value}" must be one of {what}',
                        word=word,
                        value=value,
                        what=", ".join(known),
                    )
                )
        for ring in self.rings:
            if ring not in RINGS:
                raise CulmoError(
                    tr('the ring "{ring}" must be one of {what}', ring=ring, what=", ".join(RINGS))
                )
        if not 1 <= self.steps <= MOST_STEPS:
            raise CulmoError(
                tr(
                    "{steps} steps can not be; it must be 1 to {MOST_STEPS}",
                    steps=self.steps,
                    MOST_STEPS=MOST_STEPS,
                )
            )
        if not 3 <= self.places <= 96:
            raise CulmoError(
                tr("a wheel of {places} places can not be; it must have 3 to 96", places=self.places)
            )
        for a, b in self.parts:
            if min(a, b) < 0 or a + b <= 0:
                raise CulmoError(
                    tr(
                        "parts of {a:g} : {b:g} can not be; they must not be negative, nor both nought",
                        a=a,
                        b=b,
                    )
                )

    def text(self, name: str) -> str:
        """What is written for a paint."""
        if len(self.texts) == len(self.paints) and name in self.paints:
            return self.texts[self.paints.index(name)]
        return name

    def need(self, least: int, kind: str) -> None:
        """Refuse a kind that has too few paints."""
        if len(self.paints) < least:
            counts = {1: tr("one paint"), 2: tr("two paints"), 3: tr("three paints")}
            raise CulmoError(
                tr("a {kind} needs at least {what}", kind=kind, what=counts.get(least, f"{least} paints"))
            )


def in_parts(first: str, second: str, a: float, b: float, wash: float = 1.0) -> Recipe:
    """A mix of two paints in small whole parts; one of them alone where the other has none."""
    if b <= 0:
        return mix([first], wash=wash)
    if a <= 0:
        return mix([second], wash=wash)
    share = Fraction(a / (a + b)).limit_denominator(100)
    x, y = share.numerator, share.denominator - share.numerator
    whole = gcd(x, y)
    return mix([first, second], [x // whole, y // whole], wash)


def parts_of(text: str) -> tuple[tuple[float, float], ...]:
    """Given parts: percentages of the first paint, or ratios; `5 more` puts five steps between its neighbours.

    Parameters
    ----------
    text : str, such as `100/75/50/25/0`, `3:1, 1:1, 1:3`, or `1:1, 5 more, 1:3`

    Raises
    ------
    CulmoError
        naming the piece that is no parts

    Examples
    --------
    >>> parts_of("100/50/0")
    ((100.0, 0.0), (50.0, 50.0), (0.0, 100.0))
    """
    result: list[tuple[float, float]] = []
    more = 0
    for piece in (piece.strip() for piece in text.replace(",", "/").split("/") if piece.strip()):
        if piece.endswith("more"):
            count = piece.removesuffix("more").strip()
            if not count.isdigit() or not result or more:
                raise CulmoError(
                    tr('"{piece}" must stand between two parts, as in 1:1, 5 more, 1:3', piece=piece)
                )
            more = int(count)
            continue
        pair = _pair(piece)
        if more:
            result += between(result[-1], pair, more)
            more = 0
        result.append(pair)
    if more:
        raise CulmoError(tr("more steps need parts on both sides, as in 1:1, 5 more, 1:3"))
    return tuple(result)


def _pair(piece: str) -> tuple[float, float]:
    try:
        if ":" in piece:
            a, b = (float(value) for value in piece.split(":"))
        else:
            a = float(piece)
            b = 100.0 - a
    except ValueError:
        raise CulmoError(
            tr('"{piece}" are no parts: write 100/75/50/25/0, or 3:1, 1:1, 1:3', piece=piece)
        ) from None
    if not (0 <= a < 1e6 and 0 <= b < 1e6) or a + b <= 0:
        raise CulmoError(
            tr('"{piece}" are no parts: they must lie between 0 and 100, or be like 3:1', piece=piece)
        )
    return a, b


def parts_text(recipe: Recipe) -> str:
    """The parts of a recipe, such as `3 : 1`; `pure` for one paint."""
    parts = recipe.layers[0].parts
    return "pure" if len(parts) == 1 else " : ".join(f"{part.parts:g}" for part in parts)


def added(recipe: Recipe, name: str, parts: float = 1.0) -> Recipe:
    """A mix with another paint; a paint that is there already gets more of it."""
    amounts = {part.name: part.parts for part in recipe.layers[0].parts}
    known = next((own for own in amounts if own.casefold() == name.casefold()), name)
    amounts[known] = amounts.get(known, 0.0) + parts
    return mix(list(amounts), list(amounts.values()), recipe.layers[0].wash)


def second_recipe(choices: Choices, first: str, second: str) -> Recipe | None:
    """What goes into the second half for two paints; None where it is left empty."""
    even = mix([first, second])
    if choices.second == "empty":
        return None
    if choices.second == "paler":
        return even.with_wash(TINT)
    if choices.second == "dominance":
        return mix([first, second], [1, 2])
    if choices.second == "same":
        return even
    if not choices.extra:
        raise CulmoError(tr('the second half "{second}" needs a paint to add', second=choices.second))
    return added(even, choices.extra)


def grid_board(choices: Choices) -> Board:
    """A grid as a board: for split cells, and for grids that go over several sheets."""
    choices.need(2, "grid")
    names = choices.paints
    rows: list[tuple[Slot | None, ...]] = []
    for r, down in enumerate(names):
        row: list[Slot | None] = []
        for c, across in enumerate(names):
            first, second = (across, down) if c < r else (down, across)
            lower = mix([first, second], [2, 1]) if choices.second == "dominance" else mix([first, second])
            other = second_recipe(choices, first, second) if r != c else None
            if r == c:
                row.append(Slot(mix([down])))
            elif choices.split:
                row.append(Slot(lower, second=other, split=choices.split) if c < r else None)
            elif c < r:
                row.append(Slot(lower))
            else:
                row.append(Slot(other) if other is not None else None)
        rows.append(tuple(row))
    texts = tuple(choices.text(name) for name in names)
    return Board("grid", tuple(rows), texts, texts)


def families_board(choices: Choices) -> Board:
    """Two families: one down, one across, the pure strokes at the edges."""
    if not choices.paints or not choices.across:
        raise CulmoError(tr("a grid of two families needs paints down and paints across"))
    head: tuple[Slot | None, ...] = (None, *(Slot(mix([name])) for name in choices.across))
    rows = [head]
    for down in choices.paints:
        row: list[Slot | None] = [Slot(mix([down]))]
        for across in choices.across:
            same = down.casefold() == across.casefold()
            even = mix([down]) if same else mix([down, across])
            other = None if same else second_recipe(choices, down, across)
            row.append(Slot(even, second=other, split=choices.split) if choices.split else Slot(even))
        rows.append(tuple(row))
    texts = tuple(choices.text(name) for name in choices.paints)
    return Board("families", tuple(rows), ("", *texts), ("", *choices.across))


def steps_between(choices: Choices, known: Knowledge, first: str, second: str, count: int) -> list[Recipe]:
    """Recipes from the first paint towards the second, ends left out."""
    if choices.parts:
        return [in_parts(first, second, a, b) for a, b in choices.parts]
    if choices.even:
        return _even(known)(first, second, count + 2)[1:-1]
    if count <= len(_FAN_PARTS):
        # the middle ones stay: a fan of three is 2 : 1, 1 : 1, 1 : 2
        start = (len(_FAN_PARTS) - count) // 2
        return [in_parts(first, second, a, b) for a, b in _FAN_PARTS[start : start + count]]
    return [in_parts(first, second, count + 1 - i, i) for i in range(1, count + 1)]


def _even(known: Knowledge) -> Callable[[str, str, int], list[Recipe]]:
    if known.even is None:
        raise CulmoError(tr("even steps need readings of the paints: read their cards first"))
    return known.even


def fan_board(choices: Choices, known: Knowledge) -> Board:
    """One paint against many: one mix each, a row of steps each, or two wet strokes left to touch."""
    choices.need(2, "fan")
    first, others = choices.paints[0], choices.paints[1:]
    rows: list[tuple[Slot | None, ...]] = []
    labels: tuple[str, ...] = ()
    for other in others:
        if choices.way == "one":
            rows.append((Slot(mix([other])), Slot(mix([first, other])), Slot(mix([first, other], wash=TINT))))
            labels = ("pure", tr("with {what}", what=choices.text(first)), "paler")
        elif choices.way == "touch":
            rows.append((Slot(mix([first]), second=mix([other]), split="halves"),))
            labels = (tr("left to touch"),)
        else:
            steps = steps_between(choices, known, first, other, choices.steps)
            recipes = [mix([first]), *steps, mix([other])]
            rows.append(tuple(Slot(recipe, caption=parts_text(recipe)) for recipe in recipes))
    texts = tuple(choices.text(name) for name in others)
    return Board("fan", tuple(rows), texts, labels, aspect=1.0)


def against_board(choices: Choices) -> Board:
    """A new paint, the first, with each of the others: pure, equal parts, and paler."""
    choices.need(2, tr("trial of one paint against the box"))
    new, others = choices.paints[0], choices.paints[1:]
    head: tuple[Slot | None, ...] = (Slot(mix([new])), None, Slot(mix([new], wash=TINT)))
    rows = [head]
    rows += [
        (Slot(mix([other])), Slot(mix([new, other])), Slot(mix([new, other], wash=TINT))) for other in others
    ]
    texts = (choices.text(new), *(choices.text(name) for name in others))
    return Board(
        "against",
        tuple(rows),
        texts,
        ("pure", tr("with {what}", what=choices.text(new)), "paler"),
        aspect=1.0,
    )


def ladder_recipes(choices: Choices, known: Knowledge) -> list[Recipe]:
    """The rungs of a ratio test, from the first paint to the second."""
    choices.need(2, "ladder")
    first, second = choices.paints[:2]
    if choices.parts:
        return [in_parts(first, second, a, b) for a, b in choices.parts]
    if choices.steps < 2:
        raise CulmoError(tr("a ladder needs at least two steps"))
    if choices.even:
        return _even(known)(first, second, choices.steps)
    last = choices.steps - 1
    return [in_parts(first, second, last - i, i) for i in range(choices.steps)]


def ladder_board(choices: Choices, known: Knowledge) -> Board:
    """A ratio test of two paints: each band fades to clear water; boxes to paint wet in wet stand beside."""
    rows: list[tuple[Slot | None, ...]] = []
    recipes = ladder_recipes(choices, known)
    for recipe in recipes:
        band = Slot(recipe, fade=True, wide=3)
        rows.append((band, None, None, Slot(recipe)) if choices.wet else (band, None, None))
    labels = (tr("full to clear water"), "", "", tr("wet in wet")) if choices.wet else ()
    texts = tuple(_rung_text(choices, recipe) for recipe in recipes)
    return Board("ladder", tuple(rows), texts, labels, aspect=0.9)


def _rung_text(choices: Choices, recipe: Recipe) -> str:
    parts = recipe.layers[0].parts
    return choices.text(parts[0].name) if len(parts) == 1 else parts_text(recipe)


def between(first: tuple[float, float], second: tuple[float, float], count: int) -> list[tuple[float, float]]:
    """More steps between two neighbours of a ladder, the neighbours left out: evenly by share.

    Parameters
    ----------
    first, second : (a, b), parts
    count : int, 1..20

    Examples
    --------
    >>> between((1, 0), (1, 1), 1)
    [(3.0, 1.0)]
    """
    if not 1 <= count <= 20:
        raise CulmoError(
            tr("{count} steps between two neighbours can not be; it must be 1 to 20", count=count)
        )
    one, other = (b / (a + b) for a, b in (first, second))
    result = []
    for i in range(1, count + 1):
        share = Fraction(one + (other - one) * i / (count + 1)).limit_denominator(60)
        result.append((float(share.denominator - share.numerator), float(share.numerator)))
    return result


def walk_ladder(recipes: Sequence[Recipe]) -> list[str]:
    """How to walk one puddle from end to end, and where it is thriftier to begin anew from the other end.

    A puddle of four measures of the first paint is begun with; each band takes a tenth of what is there. Where the
    paint to add would nearly double what is left, a fresh puddle of the other end is thriftier.

    Parameters
    ----------
    recipes : sequence of Recipe, the rungs in order, of two paints
    """
    names = list(dict.fromkeys(name for recipe in recipes for name in recipe.names))
    if len(names) < 2:
        return []
    first, second = names[0], names[-1]
    lines = [tr("Begin with a puddle of 4 measures of {first}.", first=first)]
    left = {first: 4.0, second: 0.0}
    turned = False
    for recipe in recipes:
        share = {part.name: part.parts for part in recipe.layers[0].parts}
        a, b = share.get(first, 0.0), share.get(second, 0.0)
        if turned or a == 0.0:
            continue
        add = left[first] * b / a - left[second]
        whole = left[first] + left[second]
        if add > 0.9 * whole:
            turned = True
            lines.append(
                tr(
                    "Here it is thriftier to begin anew from the other end: a puddle of {second}, and add "
                    "{first} to it, from the last band backwards.",
                    second=second,
                    first=first,
                )
            )
            continue
        if add > 0.02:
            lines.append(
                tr(
                    "Add {measures} of {second} to what is left: {parts_text}.",
                    measures=_measures(add),
                    second=second,
                    parts_text=parts_text(recipe),
                )
            )
            left[second] += add
        for name in left:
            left[name] *= 0.9
    lines.append(
        tr("Keep a drop of each rung in a well of the tray, should a band have to be painted again.")
    )
    return lines


def _measures(amount: float) -> str:
    if amount < 0.15:
        return tr("a touch")
    quarters = round(amount * 4)
    whole, rest = divmod(quarters, 4)
    text = f"{whole} " if whole else ""
    text += {0: "", 1: "1/4", 2: "1/2", 3: "3/4"}[rest]
    return trn("{what} measure", "{what} measures", 1 if amount == 1 else 2, what=text.strip())


def palette_board(choices: Choices) -> Board:
    """A palette card: the few paints, their secondaries, each with the dark, the three-paint browns."""
    choices.need(2, tr("palette card"))
    names = list(choices.paints)
    lines: list[list[Recipe]] = [[mix([name]) for name in names]]
    lines.append([mix(pair) for pair in combinations(names, 2)])
    if choices.extra:
        lines.append(
            [
                added(mix([name]), choices.extra)
                for name in names
                if name.casefold() != choices.extra.casefold()
            ]
        )
    lines.append([mix(three) for three in list(combinations(names, 3))[:8]])
    return _wrapped("palette", [line for line in lines if line], max(4, len(names)))


def _wrapped(kind: str, lines: Sequence[Sequence[Recipe]], columns: int) -> Board:
    """Lines of recipes with captions, each line wrapped at a number of columns."""
    rows: list[tuple[Slot | None, ...]] = []
    for line in lines:
        for start in range(0, len(line), columns):
            row: list[Slot | None] = [
                Slot(recipe, fade=recipe.is_pure and kind == "palette", caption=str(recipe))
                for recipe in line[start : start + columns]
            ]
            rows.append(tuple(row + [None] * (columns - len(row))))
    return Board(kind, tuple(rows), aspect=0.75)


def free_board(choices: Choices, kind: str = "free") -> Board:
    """Strokes and touches in the order in which they were made, or the favourite mixes so far."""
    if not choices.recipes:
        what = (
            tr("recipes: write one a line")
            if kind == "free"
            else tr("keepers: mark mixes that are worth keeping first")
        )
        raise CulmoError(tr("the page has no {what}", what=what))
    count = len(choices.recipes)
    columns = next(n for n in range(1, 50) if n * n * 0.6 >= count)
    return _wrapped(kind, [list(choices.recipes)], max(2, columns))


def board_settings(choices: Choices) -> dict[str, object]:
    """The choices as plain values, so that the sheet can be changed later."""
    return {
        "paints": list(choices.paints), "across": list(choices.across), "second": choices.second, "extra": choices.extra,
        "split": choices.split, "labels": list(choices.texts), "steps": choices.steps,
        "parts": [list(pair) for pair in choices.parts], "even": choices.even, "wet": choices.wet, "way": choices.way,
        "places": choices.places, "shape": choices.shape, "rings": list(choices.rings), "centre": choices.centre,
        "halves": choices.halves, "cover": choices.cover, "true_hues": choices.true_hues,
        "recipes": [format_recipe(recipe) for recipe in choices.recipes],
    }  # fmt: skip
