"""Mixes of two paints in whole parts: given parts, even steps, steps between two neighbours."""

from fractions import Fraction
from math import gcd

from culmo.core.chart.aids import Knowledge
from culmo.core.paint.recipe import Recipe, mix
from culmo.errors import CulmoError
from culmo.words import tr

# a fan or a ladder from the first paint to the second, the middle ones kept where fewer are wanted
USUAL_PARTS = ((8, 1), (4, 1), (2, 1), (1, 1), (1, 2), (1, 4), (1, 8))


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
    return tr("pure") if len(parts) == 1 else " : ".join(f"{part.parts:g}" for part in parts)


def added(recipe: Recipe, name: str, parts: float = 1.0) -> Recipe:
    """A mix with another paint; a paint that is there already gets more of it."""
    amounts = {part.name: part.parts for part in recipe.layers[0].parts}
    known = next((own for own in amounts if own.casefold() == name.casefold()), name)
    amounts[known] = amounts.get(known, 0.0) + parts
    return mix(list(amounts), list(amounts.values()), recipe.layers[0].wash)


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


def even_mixes(known: Knowledge, first: str, second: str, count: int) -> list[Recipe]:
    """Recipes in even perceived steps from one paint to another, both ends too.

    Raises
    ------
    CulmoError
        when nothing is known of the paints
    """
    if known.even is None:
        raise CulmoError(tr("even steps need readings of the paints: read their cards first"))
    return known.even(first, second, count)
