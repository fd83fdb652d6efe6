"""Papers by name or by size."""

from dataclasses import dataclass

from culmo.core.chart.lengths import is_size, says_unit, size_mm
from culmo.errors import CulmoError
from culmo.words import tr

SMALLEST_MM, LARGEST_MM = 40.0, 2000.0
_MOST_BARE = 80.0  # numbers of a paper below this were hardly meant in millimetres


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


def find_paper(text: str) -> Paper:
    """A paper by its name, or by its size such as `240x320` (in millimetres) or `9 x 12 in`.

    Parameters
    ----------
    text : str

    Raises
    ------
    CulmoError
        when the text is neither, or a size that can not be in millimetres and names no unit
    """
    for paper in PAPERS:
        if paper.name.casefold() == text.strip().casefold():
            return paper
    if is_size(text):
        width, height = size_mm(text)
        small = 0.0 < min(width, height) < SMALLEST_MM and max(width, height) < _MOST_BARE
        if small and not says_unit(text):
            raise CulmoError(
                tr(
                    '"{what}" says no unit, and no paper is {what} mm: write {what} in, or {what} cm',
                    what=text.strip(),
                )
            )
        return Paper(text.strip(), width, height)
    names = ", ".join(paper.name for paper in PAPERS)
    raise CulmoError(
        tr('unknown paper "{what}": use a size such as 240x320, or one of {names}', what=text, names=names)
    )
