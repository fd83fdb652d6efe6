"""A row of readings as the core knows it."""

from functools import lru_cache

from culmo.core.paint.readings import NINE_IN_TEN, Reading
from culmo.core.paint.recipe import parse_recipe
from culmo.study.file import Row
from culmo.study.seen import seen_of


def reading_of(row: Row) -> Reading:
    """A row of readings as the core knows it; `extra` holds the row's id. It may say what the record tells (`with_told`)."""
    return _reading(
        *(row[column] for column in _READ),
        row.get("puddle"),
        row.get("depth", ""),
        row.get("uncertainty"),
        row.get("seen") or "",
    )


_READ = ("recipe", "L", "a", "b", "ground", "paper", "trust", "id", "treatment", "mixing")


_LEAST_OWN = 0.3  # CIEDE2000, root mean square


@lru_cache(maxsize=65_536)  # learning asks for all of them after each act
def _reading(
    recipe: str,
    L: float,
    a: float,
    b: float,
    ground: str,
    paper: str,
    trust: str,
    row_id: int,
    treatment: str,
    mixing: str,
    puddle: int | None,
    depth: str,
    uncertainty: object,
    seen: str,
) -> Reading:
    unsure = float(uncertainty) if isinstance(uncertainty, int | float) and 0.0 < uncertainty < 1e3 else 0.0
    shown = seen_of({"L": L, "a": a, "b": b, "seen": seen})
    if shown is not None:
        unsure = NINE_IN_TEN * max(shown[2], _LEAST_OWN)
    return Reading(
        parse_recipe(recipe),
        (L, a, b),
        ground,
        paper,
        trust,
        row_id,
        treatment,
        mixing,
        puddle,
        depth,
        unsure,
        None if shown is None else shown[0],
        None if shown is None else shown[3],
    )
