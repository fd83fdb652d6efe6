"""Lengths and sizes as painters write them, and as a ruler shows them. The one reader of every field and command."""

import math
import re
from enum import StrEnum
from fractions import Fraction

from culmo.errors import CulmoError
from culmo.words import decimal, tr

MM_PER_INCH = 25.4


class LengthUnit(StrEnum):
    """In what lengths are said."""

    MM = "mm"
    INCH = "in"


_UNITS = {
    "mm": 1.0, "millimetre": 1.0, "millimetres": 1.0, "millimeter": 1.0, "cm": 10.0, "centimetres": 10.0,
    "zentimeter": 10.0, "in": MM_PER_INCH, "inch": MM_PER_INCH, "inches": MM_PER_INCH, "zoll": MM_PER_INCH,
    '"': MM_PER_INCH, "″": MM_PER_INCH, "”": MM_PER_INCH, "''": MM_PER_INCH,
}  # fmt: skip
_ONES = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
_FRACTION = r"\d+\s*/\s*\d+"
_NAMES = "|".join(sorted(map(re.escape, _UNITS), key=len, reverse=True))
_LENGTH = re.compile(
    rf"(?:(?P<whole>\d+(?:[.,]\d+)?|[.,]\d+)(?:[\s-]+(?P<fraction>{_FRACTION}))?|(?P<only>{_FRACTION}))"
    rf"\s*(?P<unit>{_NAMES})?\.?"
)
_BETWEEN = re.compile(r"\s*(?:[x×*]|\bby\b|\bmal\b)\s*")


def _plain(text: str) -> str:
    for sign, fraction in _ONES.items():
        text = text.replace(sign, f" {fraction}")
    return text.strip().casefold()


def _read(text: str, whole_text: str) -> tuple[float, str]:
    """A length as a number and its unit, which may be missing."""
    found = _LENGTH.fullmatch(_plain(text))
    if not found:
        raise CulmoError(tr('"{what}" is not a length: write it as 12.5 mm or 1 1/2 in', what=whole_text))
    value = float(found["whole"].replace(",", ".")) if found["whole"] else 0.0
    fraction = found["fraction"] or found["only"]
    if fraction:
        top, low = (int(number) for number in fraction.split("/"))
        if low == 0:
            raise CulmoError(tr('"{what}" divides by nought', what=whole_text))
        value += top / low
    return value, found["unit"] or ""


def length_mm(text: str, unit: str = LengthUnit.MM) -> float:
    """A length as a painter writes it.

    Parameters
    ----------
    text : str, such as `12`, `12.5 mm`, `5cm`, `1 1/2"`, `1½ in`
    unit : str, "mm" or "in", meant where none is written

    Raises
    ------
    CulmoError
        when the text is not a length

    Examples
    --------
    >>> length_mm("1 1/2 in"), length_mm('1 1/2"'), length_mm("5cm"), length_mm("2", "in")
    (38.1, 38.1, 50.0, 50.8)
    """
    value, own = _read(text, text)
    return round(value * _UNITS[own or unit], 6)


def size_mm(text: str, unit: str = LengthUnit.MM) -> tuple[float, float]:
    """A width and a height; one length is both, and a unit that is written once is that of both.

    Parameters
    ----------
    text : str, such as `20`, `20 x 15`, `2 x 2 in`, `2in x 3in`, `1 1/2 x 2"`
    unit : str, "mm" or "in", meant where none is written

    Raises
    ------
    CulmoError
        when the text is not a size

    Examples
    --------
    >>> size_mm("2 x 2 in"), size_mm("2in"), size_mm("20x15"), size_mm("2 in x 3")
    ((50.8, 50.8), (50.8, 50.8), (20.0, 15.0), (50.8, 76.2))
    """
    sides = _BETWEEN.split(_plain(text))
    if len(sides) > 2:
        raise CulmoError(tr('"{cell}" is not a size: write 20 or 20 x 15', cell=text.strip()))
    (width, own), (height, other) = _read(sides[0], text), _read(sides[-1], text)
    return (
        round(width * _UNITS[own or other or unit], 6),
        round(height * _UNITS[other or own or unit], 6),
    )


def says_unit(text: str) -> bool:
    """Whether a length or a size names its unit."""
    return any(_read(side, text)[1] for side in _BETWEEN.split(_plain(text)))


def is_size(text: str) -> bool:
    """Whether a text is two lengths, as that of a paper is."""
    sides = _BETWEEN.split(_plain(text))
    return len(sides) == 2 and all(_LENGTH.fullmatch(side) for side in sides)


def rounded_down(mm: float, step_mm: float) -> float:
    """A length as a ruler of some step can draw it, no longer than it is.

    Examples
    --------
    >>> rounded_down(12.9, 0.5), rounded_down(0.3, 0.1)
    (12.5, 0.30000000000000004)
    """
    return math.floor(mm / step_mm + 1e-9) * step_mm


def length_text(mm: float, unit: str = LengthUnit.MM) -> str:
    """A length for a ruler: tenths of a millimetre, or inches to a sixteenth.

    Parameters
    ----------
    mm : float
    unit : str, "mm" or "in"

    Examples
    --------
    >>> length_text(38.1, "in"), length_text(38.1)
    ('1 1/2 in', '38.1 mm')
    """
    return f"{number_text(mm, unit)} {unit}"


def number_text(mm: float, unit: str = LengthUnit.MM) -> str:
    """A length as `length_text` gives it, without its unit."""
    if unit == LengthUnit.MM:
        return decimal(f"{mm:.1f}".removesuffix(".0"))
    sixteenths = round(mm / MM_PER_INCH * 16)
    whole, rest = divmod(abs(sixteenths), 16)
    words = [str(whole)] if whole or not rest else []
    if rest:
        fraction = Fraction(rest, 16)
        words.append(f"{fraction.numerator}/{fraction.denominator}")
    return ("−" if sixteenths < 0 else "") + " ".join(words)


def size_text(width_mm: float, height_mm: float, unit: str = LengthUnit.MM) -> str:
    """A width and a height with their unit once.

    Examples
    --------
    >>> size_text(50.8, 38.1, "in"), size_text(20, 15)
    ('2 x 1 1/2 in', '20 x 15 mm')
    """
    return f"{number_text(width_mm, unit)} x {number_text(height_mm, unit)} {unit}"
