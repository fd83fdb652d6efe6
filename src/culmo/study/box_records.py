"""Boxes, fade tests and given roles as values."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from culmo.core.chart.box import BoxShape
from culmo.core.paint.properties import FadeLook, Lab
from culmo.core.paint.readings import Treatment
from culmo.core.paint.recipe import parse_recipe
from culmo.errors import CulmoError
from culmo.study.file import Row, Study
from culmo.study.records import earlier_cells, json_of, parsed
from culmo.study.soundness import moment_of
from culmo.words import tr

DAYS_A_WEEK = 7.0
SECONDS_A_WEEK = 604800.0


@dataclass(frozen=True)
class Box:
    """A box as it lies on the table.

    Attributes
    ----------
    id : int
    name : str
    shape : BoxShape
    paints : dict from place to the id of a paint; empty wells are absent
    """

    id: int
    name: str
    shape: BoxShape
    paints: dict[int, int]


def boxes(study: Study) -> list[Box]:
    """All boxes, the oldest first."""
    result = []
    for row in study.rows("boxes"):
        wells = study.rows("wells", "box_id = ?", (row["id"],), "place")
        settings = json_of(row, "settings")
        shape = BoxShape(
            row["rows"],
            row["columns"],
            {well["place"]: well["pan"] for well in wells if well["pan"] != "half"},
            float(settings.get("gap_mm", 1.5)),
            float(settings.get("rim_mm", 4.0)),
        )
        paints = {well["place"]: well["paint_id"] for well in wells if well["paint_id"] is not None}
        result.append(Box(row["id"], row["name"], shape, paints))
    return result


def given_roles(study: Study) -> dict[str, str]:
    """The roles that the painter gave, from role to paint."""
    names = {row["id"]: row["name"] for row in study.rows("paints", "retired = 0")}
    return {row["role"]: names[row["paint_id"]] for row in study.rows("roles") if row["paint_id"] in names}


@dataclass(frozen=True)
class FadeTest:
    """A page of cards in a window.

    Attributes
    ----------
    id, sheet_id : int
    title, place : str
    started : datetime
    weeks : tuple of float, when to look
    ended : bool
    looked : tuple of float, weeks at which it was looked at
    """

    id: int
    sheet_id: int
    title: str
    place: str
    started: datetime
    weeks: tuple[float, ...]
    ended: bool
    looked: tuple[float, ...]

    def next_look(self) -> datetime | None:
        """When the next look is due; None when all were made or the test has ended."""
        if self.ended:
            return None
        # a look up to three days early counts for its week
        ahead = [
            week for week in self.weeks if not any(look >= week - 3.0 / DAYS_A_WEEK for look in self.looked)
        ]
        return self.started + timedelta(weeks=ahead[0]) if ahead else None


def fade_tests(study: Study) -> list[FadeTest]:
    """All fade tests, the oldest first."""
    result = []
    for row in study.rows("fades"):
        started = moment_of(row["started"])
        looks = study.rows(
            "readings", "sheet_id = ? AND treatment = ?", (row["sheet_id"], Treatment.EXPOSED), "taken"
        )
        weeks = sorted({_weeks(started, look["taken"]) for look in looks})
        title = study.row("sheets", row["sheet_id"])["title"]
        times = tuple(float(week) for week in _weeks_of(row))
        result.append(
            FadeTest(
                row["id"],
                row["sheet_id"],
                title,
                row["place"],
                started,
                times,
                bool(row["ended"]),
                tuple(weeks),
            )
        )
    return result


def _weeks_of(row: Row) -> list[float]:
    weeks = parsed(row, "weeks")
    if not isinstance(weeks, list) or not all(isinstance(week, int | float) for week in weeks):
        raise CulmoError(
            tr("the entry {id} is damaged: {column} ({error})", id=row["id"], column="weeks", error=weeks)
        )
    return weeks


def _weeks(started: datetime, taken: str) -> float:
    # a record from elsewhere may lack its offset
    gone = moment_of(taken) - started
    return gone.total_seconds() / SECONDS_A_WEEK


def fade_looks(study: Study, name: str) -> list[FadeLook]:
    """The looks at a paint's fade patches, both halves read on one day."""
    started = {row["sheet_id"]: moment_of(row["started"]) for row in study.rows("fades")}
    halves: dict[tuple[int, str, str], Lab] = {}
    times: dict[tuple[int, str], str] = {}
    for row in study.rows(
        "readings", "treatment IN (?, ?)", (Treatment.COVERED, Treatment.EXPOSED), "taken, id"
    ):
        recipe = parse_recipe(row["recipe"])
        if recipe.names[0].casefold() != name.casefold() or row["sheet_id"] not in started:
            continue
        day = row["taken"][:10]
        halves[row["sheet_id"], day, row["treatment"]] = row["L"], row["a"], row["b"]
        times[row["sheet_id"], day] = row["taken"]
    looks = []
    for (sheet_id, day), taken in times.items():
        covered, exposed = (
            halves.get((sheet_id, day, half)) for half in (Treatment.COVERED, Treatment.EXPOSED)
        )
        if covered is not None and exposed is not None:
            looks.append(FadeLook(max(0.0, _weeks(started[sheet_id], taken)), covered, exposed))
    return sorted(looks, key=lambda look: look.weeks)


@dataclass(frozen=True)
class Touched:
    """A sheet that a paint's change touches.

    Attributes
    ----------
    sheet_id : int
    title : str
    cells : tuple of str, the ids of the cells that hold the paint
    painted : int, how many of them have been painted or read
    """

    sheet_id: int
    title: str
    cells: tuple[str, ...]
    painted: int


def touched_by(study: Study, name: str) -> list[Touched]:
    """The sheets with cells that hold a paint, the newest first."""
    done = {row["cell_id"] for row in study.rows("strokes", "act = 'done'")}
    done |= {row["cell_id"] for row in study.rows("readings", "cell_id NOT NULL")}
    result = []
    for sheet in study.rows("sheets", "archived = 0", order="created DESC, id DESC"):
        cells = [
            row
            for row in study.rows("cells", "sheet_id = ?", (sheet["id"],), "place")
            if name.casefold() in (other.casefold() for other in parse_recipe(row["recipe"]).names)
        ]
        if cells:
            ids = tuple(row["cell"] for row in cells)
            here = {own for cell, own in earlier_cells(study, sheet["id"]).items() if cell in done}
            result.append(Touched(sheet["id"], sheet["title"], ids, sum(row["id"] in here for row in cells)))
    return result
