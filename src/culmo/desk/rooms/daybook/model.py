"""Daybook: what was done, seen and decided, by date."""

from dataclasses import dataclass
from datetime import datetime
from itertools import groupby

from culmo.study.file import Study

# kind of event -> the word at its side
KIND_WORDS = {
    "paint": "box",
    "sheet": "plan",
    "run": "paint",
    "reading": "read",
    "verdict": "verdict",
    "note": "note",
}


@dataclass(frozen=True)
class Line:
    """One line of a day.

    Attributes
    ----------
    time : str
    kind, text : str
    sheet_id : int or None
    cell_id : int or None
    """

    time: str
    kind: str
    text: str
    sheet_id: int | None
    cell_id: int | None


@dataclass(frozen=True)
class Day:
    """A day with its lines, in the order of doing."""

    title: str
    lines: tuple[Line, ...]


def days(study: Study) -> list[Day]:
    """All days, the latest first; runs of like lines are drawn together."""
    rows = study.rows("events", order="at DESC, id DESC")
    result = []
    for date, group in groupby(rows, key=lambda row: row["at"][:10]):
        lines = []
        for row in reversed(list(group)):
            moment = datetime.fromisoformat(row["at"])
            kind = KIND_WORDS.get(row["kind"], row["kind"])
            lines.append(Line(moment.strftime("%H:%M"), kind, row["text"], row["sheet_id"], row["cell_id"]))
        result.append(Day(day_title(date), tuple(_together(lines))))
    return result


def _together(lines: list[Line]) -> list[Line]:
    """Many readings, or many paints, in a row become one line that says how many."""
    result: list[Line] = []
    for (kind, sheet_id), group in groupby(lines, key=lambda line: (line.kind, line.sheet_id)):
        run = list(group)
        if kind in ("read", "box") and len(run) > 3:
            what = "readings" if kind == "read" else "changes to the box"
            text = f"{len(run)} {what}: {run[0].text}; … {run[-1].text}"
            result.append(Line(run[0].time, kind, text, sheet_id, None))
        else:
            result += run
    return result


def day_title(date: str) -> str:
    """A date in words."""
    moment = datetime.fromisoformat(date)
    return f"{moment:%A}, {moment.day} {moment:%B %Y}"
