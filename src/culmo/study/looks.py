"""Several looks at one dry cell: what the cell is taken to be, and all that was read of it.

A cell has one row among the readings. What was read of it before stands in that row's `extra`, under `looks`, each as it
was read; nothing is thrown away. What an instrument gave, or the painter typed, outranks what a picture gave; of several
pictures the mean is taken, each weighed by how sure it is; what is in doubt counts only where nothing else was read.
"""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.character import Triple
from culmo.core.paint.readings import Trust
from culmo.study.file import Study
from culmo.study.records import extra_of
from culmo.study.seen import OF_PICTURES, seen_of
from culmo.study.soundness import moment_of
from culmo.words import tr, trn

_SEEN = ("L", "a", "b", "source", "taken", "trust", "photo_id", "granulation", "separation", "note")
_LEAST = 0.4  # CIEDE2000: no picture is surer, whatever it says; one that says nothing counts as unsure as this many
UNSAID = 2.0
_APART = 3.0  # CIEDE2000, by which looks may always differ

Look = dict[str, Any]


def uncertainty_of(row: Mapping[str, Any]) -> float | None:
    """How far off a reading may easily be, in CIEDE2000; None where nothing said it."""
    found = extra_of(row).get("uncertainty")
    return float(found) if isinstance(found, int | float) and 0.0 < found < 1e3 else None


def looks_text(row: Mapping[str, Any]) -> str | None:
    """All looks at a cell as JSON, as a row of `records.reading_rows` has them; None where there was but one."""
    found = extra_of(row).get("looks")
    return None if found is None else json.dumps(found)


def looks_of(row: Mapping[str, Any]) -> list[Look]:
    """All that was read of a cell, the earliest first, each with its `uncertainty` (CIEDE2000; None where nothing said it).

    What the painter said of the row since holds for them: what was put aside is aside, what was trusted is good.

    Parameters
    ----------
    row : mapping, of the readings
    """
    looks = extra_of(row).get("looks")
    own = {
        **{key: row[key] for key in _SEEN},
        "uncertainty": uncertainty_of(row),
        "seen": row.get("seen", ""),
    }
    if not isinstance(looks, list) or not looks or not all(map(_is_look, looks)):
        return [own]
    last = told_as(looks)
    if any(
        abs(last[axis] - row[axis]) > 1e-6 for axis in "Lab"
    ):  # it was corrected where looks are not known
        return [*looks, own]
    if row["trust"] == Trust.EXCLUDED:
        return [{**look, "trust": Trust.EXCLUDED} for look in looks]
    if row["trust"] == Trust.GOOD and last["trust"] != Trust.GOOD:
        return [*looks[:-1], {**looks[-1], "trust": Trust.GOOD}]
    return [dict(look) for look in looks]


def _is_look(look: object) -> bool:
    """Whether it is a look as it is written here; a damaged one is none."""
    if not isinstance(look, dict) or not {*_SEEN, "uncertainty"} <= set(look):
        return False
    numbers = [look[axis] for axis in "Lab"]
    told = look["uncertainty"]
    return (
        all(isinstance(number, int | float) and np.isfinite(number) for number in numbers)
        and all(isinstance(look[key], str) for key in ("source", "taken", "trust", "note"))
        and (told is None or (isinstance(told, int | float) and 0.0 < told < 1e3))
    )


def _is_picture(look: Look) -> bool:
    return look["source"] in OF_PICTURES


def _rank(look: Look) -> tuple[bool, bool]:
    """What outranks what: first what is trusted, then what no camera came between."""
    return look["trust"] == Trust.GOOD, not _is_picture(look)


def told_as(looks: Sequence[Look]) -> Look:
    """What a cell is taken to be by all looks at it, as values of its row, `uncertainty` and `of` (how many are in it).

    Parameters
    ----------
    looks : sequence of Look, the earliest first; at least one
    """
    kept = [look for look in looks if look["trust"] != Trust.EXCLUDED] or list(looks)
    best = max(_rank(look) for look in kept)
    same = [look for look in kept if _rank(look) == best]
    last = same[-1]
    if not _is_picture(last) or len(same) == 1 or last["trust"] == Trust.DOUBTFUL:
        return {**last, "of": 1}
    return {**last, **_together(same)}


def _together(looks: Sequence[Look]) -> Look:
    """The mean of several good pictures of a cell, each weighed by how sure it is; a gleam or a shadow in one drops out.

    How far they differ says how good it is: the mean is no surer than that. Two that differ by more than they said can not
    both be right, and nobody knows which is: they are in doubt.
    """
    near = _near(looks)
    lab = np.array([_lab(look) for look in near])
    spread = np.array([_spread(look) for look in near])
    weight = spread**-2 / (spread**-2).sum()
    mean = weight @ lab
    count = len(lab)
    differ = float(np.sqrt(weight @ delta_e_00(lab, mean) ** 2 / max(count - 1, 1)))
    found: Look = dict(zip("Lab", (float(value) for value in mean), strict=True))
    found["seen"] = ""  # by several cameras
    found |= {"uncertainty": float(max((spread**-2).sum() ** -0.5, differ, _LEAST)), "of": count}
    apart = float(delta_e_00(lab[0], lab[-1]))
    if count == 2 and apart > _APART + float(spread.sum()):
        words = tr("two pictures differ by {apart:.0f}", apart=apart)
        found |= {
            "trust": Trust.DOUBTFUL,
            "note": "; ".join(part for part in (looks[-1]["note"], words) if part),
        }
    return found


def _lab(look: Look) -> Triple:
    return float(look["L"]), float(look["a"]), float(look["b"])


def _spread(look: Look) -> float:
    return max(UNSAID if look["uncertainty"] is None else float(look["uncertainty"]), _LEAST)


def _near(looks: Sequence[Look]) -> list[Look]:
    """Those of several looks that are near to most of them."""
    if len(looks) < 3:
        return list(looks)
    lab = np.array([_lab(look) for look in looks])
    away = delta_e_00(lab, np.median(lab, axis=0))
    most = max(_APART, 3.0 * float(np.median(away)))
    return [look for look, off in zip(looks, away, strict=True) if off <= most]


@dataclass(frozen=True)
class InMean:
    """One of several pictures whose mean a row of readings is.

    Attributes
    ----------
    lab : tuple of three float, CIELAB, what was made of it
    seen : str, what it showed, as `seen.seen_in` reads it
    weight : float, its share of the mean
    """

    lab: Triple
    seen: str
    weight: float


def in_mean(row: Mapping[str, Any]) -> tuple[InMean, ...]:
    """The pictures whose mean a row is; none where it is the mean of none, was corrected since, or one of them was not kept.

    Parameters
    ----------
    row : mapping, of the readings, with `looks` (JSON, or None)
    """
    text = row.get("looks")
    return (
        ()
        if not isinstance(text, str) or row["trust"] != Trust.GOOD
        else _in_mean(text, row["L"], row["a"], row["b"])
    )


@lru_cache(maxsize=65_536)  # learning asks for all of them after each act
def _in_mean(text: str, *lab: float) -> tuple[InMean, ...]:
    try:
        looks = json.loads(text)
    except (ValueError, RecursionError):
        return ()
    if not isinstance(looks, list) or not looks or not all(map(_is_look, looks)):
        return ()
    told = told_as(looks)
    if told["of"] < 2 or any(abs(told[axis] - value) > 1e-6 for axis, value in zip("Lab", lab, strict=True)):
        return ()
    near = _near([look for look in looks if look["trust"] == Trust.GOOD and _is_picture(look)])
    shown = [seen_of(look) for look in near]
    if None in shown:
        return ()
    weight = np.array([_spread(look) ** -2 for look in near])
    return tuple(
        InMean(_lab(look), look["seen"], float(share))
        for look, share in zip(near, weight / weight.sum(), strict=True)
    )


def seen_again(row: Mapping[str, Any], look: Look, painted: bool = False) -> Look:
    """The values of a cell's row when it was looked at once more.

    Parameters
    ----------
    row : mapping, of the readings, as it stands
    look : Look, what was read now; it takes the place of an earlier look in the same picture
    painted : bool, whether the cell was painted anew since, so that the earlier looks are of another wash
    """
    now = {**{key: look.get(key) for key in (*_SEEN, "uncertainty")}, "seen": look.get("seen", "")}
    earlier = [
        {**one, "trust": Trust.EXCLUDED} if painted else one
        for one in looks_of(row)
        if not (_is_picture(one) and (one["source"], one["taken"]) == (now["source"], now["taken"]))
    ]
    looks = [*earlier, now]
    found = told_as(looks)
    count, uncertainty = found.pop("of"), found.pop("uncertainty")
    extra = {key: value for key, value in extra_of(row).items() if key not in ("looks", "uncertainty")}
    if uncertainty is not None:
        extra["uncertainty"] = round(uncertainty, 2)
    if len(looks) > 1:
        extra["looks"] = looks
    if count > 1:
        words = trn("the mean of {n} picture", "the mean of {n} pictures", count)
        found["note"] = "; ".join(part for part in (found["note"], words) if part)
    return {**found, "seen": found.get("seen") or "", "extra": json.dumps(extra)}


def painted_between(study: Study, cell_id: int, first: str, last: str) -> bool:
    """Whether a cell was painted between two moments."""
    strokes = study.rows("strokes", "cell_id = ? AND act = 'done'", (cell_id,))
    return any(moment_of(first) < moment_of(row["at"]) <= moment_of(last) for row in strokes)
