"""What pictures showed, as learning takes it, and the colours that learning makes of it anew."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from culmo.core.capture.settle import corrected
from culmo.core.colour.spectral import Array
from culmo.core.paint.character import Triple, triple
from culmo.core.paint.estimate import Estimate
from culmo.core.paint.readings import Reading
from culmo.study.file import Row
from culmo.study.looks import InMean, in_mean
from culmo.study.row_reading import reading_of
from culmo.study.seen import seen_in, seen_of

_WORTH = 0.3  # in CIELAB units, by which a colour must differ to be told anew


def readings_of(rows: Iterable[Row]) -> list[Reading]:
    """Rows as learning takes them: the mean of several pictures as what each of them showed, by which each is known.

    Parameters
    ----------
    rows : iterable of Row, as `records.reading_rows` has them
    """
    found = []
    for row in rows:
        reading, looks = reading_of(row), in_mean(row)
        if looks and len(reading.recipe.layers) > 1:  # which layer missed they do not tell: the surest counts
            looks = (max(looks, key=lambda look: look.weight),)
        for look in looks:
            own = reading_of({**row, **dict(zip("Lab", look.lab, strict=True)), "seen": look.seen})
            found.append(replace(own, cell=row["id"]))
        if not looks:
            found.append(reading)
    return found


@dataclass
class _OfAPicture:
    """What is to be told anew of a picture: of which rows, with which share of each, and what was seen."""

    rows: list[int]
    shares: list[float]
    seen: list[Triple]


def told_anew(estimate: Estimate, rows: Sequence[Mapping[str, Any]]) -> dict[int, tuple[Triple, Triple]]:
    """The colours of readings as they stand, and as all that is known now tells them, by the rows' ids, where these differ.

    Parameters
    ----------
    estimate : Estimate
    rows : sequence of mapping, of the readings
    """
    places = {shot.key: place for place, shot in enumerate(estimate.shots)}
    pictures: dict[str, _OfAPicture] = {}
    stands: dict[int, Triple] = {}
    for row in rows:
        shown = [] if row["trust"] == "wet" else _shown(row)
        if not shown or any(key not in places for key, _, _ in shown):
            continue
        stands[row["id"]] = row["L"], row["a"], row["b"]
        for key, share, light in shown:
            own = pictures.setdefault(key, _OfAPicture([], [], []))
            own.rows.append(row["id"])
            own.shares.append(share)
            own.seen.append(light)
    anew: dict[int, Array] = {row_id: np.zeros(3) for row_id in stands}
    for key, own in pictures.items():
        place = places[key]
        at = estimate.layout.shot_slice(place)
        paper = np.array(estimate.shots[place].paper)
        found = corrected(np.array(own.seen), paper, estimate.theta[at], estimate.covariance[at, at])
        for row_id, share, lab in zip(own.rows, own.shares, found.lab, strict=True):
            anew[row_id] += share * lab
    return {
        row_id: (before, triple(anew[row_id]))
        for row_id, before in stands.items()
        if np.abs(anew[row_id] - before).max() > _WORTH
    }


def _shown(row: Mapping[str, Any]) -> list[tuple[str, float, Triple]]:
    """The keys of the pictures that a row rests on, the share of each, and what each showed."""
    own = seen_of(row)
    looks: Sequence[InMean] = () if own is not None else in_mean(row)
    found = [(seen, look.weight) for look in looks if (seen := seen_in(look.seen)) is not None]
    found += [] if own is None else [(own, 1.0)]
    return [(seen[3].key, share, seen[0]) for seen, share in found]
