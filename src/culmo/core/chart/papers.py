"""Papers by name, and lengths in millimetres and inches."""

import re
from dataclasses import dataclass
from fractions import Fraction

from culmo.errors import CulmoError
from culmo.words import tr

MM_PER_INCH = 25.4
SMALLEST_MM, LARGEST_MM = 40.0, 2000.0


@dataclass(frozen=True)
class Paper:
    """A sheet of paper.

    Attributes
    ----------
    name : str
    width_mm : float, 40..2000
    height_mm : float, 40..2000
    """

    name: str
    width_mm: float
    height_mm: float

    def __post_init__(self) -> None:
        for side, value in (("width", self.width_mm), ("height", self.height_mm)):
            if not SMALLEST_MM <= value <= LARGEST_MM:
                raise CulmoError(
                    tr(
                        'paper "{name}": the {side} is {value:g} mm; it must lie between {SMALLEST_MM:g} and '
                        "{LARGEST_MM:g} mm",
                        name=self.name,
                        side=side,
                        value=value,
                        SMALLEST_MM=SMALLEST_MM,
                        LARGEST_MM=LARGEST_MM,
                    )
                )

    def turned(self) -> "Paper":
        """The same sheet, turned by a quarter."""
        return Paper(self.name, self.height_mm, self.width_mm)


# portrait, in millimetres; sizes of the common sheets and pads
PAPERS = tuple(
    Paper(name, width, height)
    for name, width, height in (
        ("A6", 105.0, 148.0),
        ("A5", 148.0, 210.0),
        ("A4", 210.0, 297.0),
        ("A3", 297.0, 420.0),
        ("A2", 420.0, 594.0),
        ("A1", 594.0, 841.0),
        ("Quarter imperial", 279.4, 381.0),
        ("Half imperial", 381.0, 558.8),
        ("Full imperial", 558.8, 762.0),
        ("Letter", 215.9, 279.4),
        ("Pad 18 x 26 cm", 180.0, 260.0),
        ("Pad 24 x 32 cm", 240.0, 320.0),
        ("Pad 30 x 40 cm", 300.0, 400.0),
        ("Pad 9 x 12 in", 228.6, 304.8),
    )
)

_FRACTION = r"\d+\s*/\s*\d+"
_LENGTH = re.compile(
    rf"\s*(?:(?P<whole>\d+(?:[.,]\d+)?)(?:[\s-]+(?P<fraction>{_FRACTION}))?|(?P<only>{_FRACTION}))"
    r"\s*(?P<unit>mm|cm|in|inch|inches|\")?\s*"
)
_UNITS = {
    "mm": 1.0,
    "cm": 10.0,
    "in": MM_PER_INCH,
    "inch": MM_PER_INCH,
    "inches": MM_PER_INCH,
    '"': MM_PER_INCH,
}


def length_mm(text: str, unit: str = "mm") -> float:
    """A length as a painter writes it.

    Parameters
    ----------
    text : str, such as `12`, `12.5 mm`, `3 cm`, `1 1/2 in`
    unit : str, "mm" or "in", meant where none is written

    Raises
    ------
    CulmoError
        when the text is not a length

    Examples
    --------
    >>> length_mm("1 1/2 in")
    38.1
    """
    found = _LENGTH.fullmatch(text)
    if not found:
        raise CulmoError(tr('"{what}" is not a length: write it as 12.5 mm or 1 1/2 in', what=text))
    value = float(found["whole"].replace(",", ".")) if found["whole"] else 0.0
    fraction = found["fraction"] or found["only"]
    if fraction:
        top, low = (int(number) for number in fraction.split("/"))
        if low == 0:
            raise CulmoError(tr('"{what}" divides by nought', what=text))
        value += top / low
    return round(value * _UNITS[found["unit"] or unit], 6)


def length_text(mm: float, unit: str = "mm") -> str:
    """A length for a ruler: tenths of a millimetre, or inches to a sixteenth.

    Parameters
    ----------
    mm : float
    unit : str, "mm" or "in"

    Examples
    --------
    >>> length_text(38.1, "in")
    '1 1/2 in'
    """
    if unit == "mm":
        return f"{mm:.1f}".removesuffix(".0") + " mm"
    sixteenths = round(mm / MM_PER_INCH * 16)
    whole, rest = divmod(abs(sixteenths), 16)
    words = [str(whole)] if whole or not rest else []
    if rest:
        fraction = Fraction(rest, 16)
        words.append(f"{fraction.numerator}/{fraction.denominator}")
    return ("−" if sixteenths < 0 else "") + " ".join(words) + " in"


def find_paper(text: str) -> Paper:
    """A paper by its name, or by its size such as `240x320` or `9 x 12 in`.

    Parameters
    ----------
    text : str

    Raises
    ------
    CulmoError
        when the text is neither
    """
    for paper in PAPERS:
        if paper.name.casefold() == text.strip().casefold():
            return paper
    sides = re.split(r"\s*[x×]\s*", text.strip())
    if len(sides) == 2:
        tail = re.search(r"(mm|cm|in|inch|inches|\")\s*$", sides[1])
        unit = tail.group(1) if tail else "mm"
        first = sides[0] if re.search(r"[a-z\"]\s*$", sides[0]) else f"{sides[0]} {unit}"
        return Paper(text.strip(), length_mm(first), length_mm(sides[1]))
    names = ", ".join(paper.name for paper in PAPERS)
    raise CulmoError(
        tr('unknown paper "{what}": use a size such as 240x320, or one of {names}', what=text, names=names)
    )
