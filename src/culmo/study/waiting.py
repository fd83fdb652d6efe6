"""Which paints are learned where there are too many: those in hand, read, in a box, on a sheet; the others wait."""

from collections.abc import Sequence

from culmo.core.paint.recipe import parse_recipe
from culmo.study.file import Study

# learning takes the square of their number in memory and the cube in time, and the table of all mixes of three the cube
# of both: 80 take some 500 MB for all of it, 400 would take more than four gigabytes
MOST_LEARNED = 80
Codes = Sequence[tuple[str, str]]


def learned_and_waiting(
    study: Study, paints: Codes, in_hand: Sequence[str] = (), most: int = MOST_LEARNED
) -> tuple[list[tuple[str, str]], list[str]]:
    """The paints that are learned, in their order, and the names of those that wait.

    Parameters
    ----------
    study : Study
    paints : sequence of (name, codes), all there are
    in_hand : sequence of str, the names of those that are wanted now
    most : int, how many are learned
    """
    if len(paints) <= most:
        return list(paints), []
    rank: dict[str, None] = dict.fromkeys(name.casefold() for name in in_hand)
    rank.update(dict.fromkeys(_in_recipes(study, "readings")))
    rank.update(dict.fromkeys(_in_boxes(study)))
    rank.update(dict.fromkeys(_in_recipes(study, "cells")))
    rank.update(dict.fromkeys(name.casefold() for name, _ in paints))
    there = {name.casefold() for name, _ in paints}
    kept = set([name for name in rank if name in there][:most])
    return (
        [(name, codes) for name, codes in paints if name.casefold() in kept],
        [name for name, _ in paints if name.casefold() not in kept],
    )


def _in_recipes(study: Study, table: str) -> list[str]:
    """The folded names of paints in recipes, the latest first."""
    rows = study.select(f"SELECT recipe, MAX(id) FROM {table} GROUP BY recipe ORDER BY MAX(id) DESC")
    return [name.casefold() for row in rows for name in parse_recipe(row["recipe"]).names]


def _in_boxes(study: Study) -> list[str]:
    rows = study.select(
        "SELECT name FROM paints WHERE id IN (SELECT paint_id FROM wells) ORDER BY position, id"
    )
    return [str(row["name"]).casefold() for row in rows]
