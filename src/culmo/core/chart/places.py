"""Where a cell is on its sheet, in words: what its id says, as one would tell it at the table."""

import re
from collections.abc import Callable

from culmo.core.chart.sheet import Cell
from culmo.words import tr

_SECOND, _MEETING = "b", "m"  # behind the id of a cell: its other half, and where its two strokes meet


def _of_board(found: re.Match[str]) -> str:
    row, column, part = int(found[1]), int(found[2]), found[3]
    if part == _SECOND:
        return tr("row {n}, column {n2}, second half", n=row, n2=column)
    if part == _MEETING:
        return tr("row {n}, column {n2}, where they meet", n=row, n2=column)
    return tr("row {n}, column {n2}", n=row, n2=column)


def _of_wheel(found: re.Match[str]) -> str:
    ring, place = int(found[1]), int(found[2])
    if found[3] == _SECOND:
        return tr("ring {n}, place {n2}, pale half", n=ring, n2=place)
    return tr("ring {n}, place {n2}", n=ring, n2=place)


def _of_card(found: re.Match[str]) -> str:
    parts = {
        "m": tr("masstone"), "k": tr("over the bar"), "f": tr("to clear water"), "t": tr("tint"), "l": tr("lifted"),
        "r": tr("rubbed"), "c": tr("covered"), "e": tr("exposed"),
    }  # fmt: skip
    return tr("card {n}, {part}", n=int(found[1]), part=parts[found[2]])


_STROKE = re.compile(r"r(\d+)c(\d+)(b?)")
_PATTERNS: tuple[tuple[re.Pattern[str], Callable[[re.Match[str]], str]], ...] = (
    (re.compile(r"r(\d+)c(\d+)([bm]?)"), _of_board),
    (re.compile(r"w(\d+)p(\d+)(b?)"), _of_wheel),
    (re.compile(r"p(\d+)([mkftlrce])"), _of_card),
    (re.compile(r"t(\d+(?:-\d+)+)"), lambda found: found[1].replace("-", " : ")),
    (re.compile(r"h(\d+)"), lambda found: tr("place {n}", n=int(found[1]))),
    (re.compile(r"centre"), lambda found: tr("the middle")),
)


def place_words(cell: Cell) -> str:
    """Where a cell is; its id as it stands where no kind of sheet made it."""
    if cell.meets and not cell.arises:
        found = _STROKE.fullmatch(cell.id)
        if found is not None:
            at = {"n": int(found[1]), "n2": int(found[2])}
            if found[3] == _SECOND:
                return tr("row {n}, column {n2}, second stroke", **at)
            return tr("row {n}, column {n2}, first stroke", **at)
    for pattern, words_of in _PATTERNS:
        found = pattern.fullmatch(cell.id)
        if found is not None:
            return words_of(found)
    return cell.id
