"""What a picture showed of a cell, as it is kept with the reading: what the camera saw, from which the colour follows.

The colour in the row is what was made of it on the day; as more is learned of the paints and of the camera, better is made
of the same values. Readings that were corrected by hand since have none; such as are the mean of several pictures have it
with each of their looks (see `pictured`).
"""

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from functools import lru_cache
from typing import Any

import numpy as np

from culmo.core.capture.sheet_reading import CellReading
from culmo.core.paint.character import USUALLY_OFF, Anchor, Shot, Triple, triple
from culmo.core.paint.lights import SHOT_LIGHTS
from culmo.core.paint.readings import Reading

PRACTICE = "practice photo"  # the source of what the simulated camera saw
# a picture sees through a camera and a light, which an instrument brings along
OF_PICTURES = ("photo", PRACTICE)
_AS_KEPT = 1e-6  # a colour that differs by more was corrected since
_MOST = 4.0  # light relative to the bare paper
_ANOTHER = 25.0  # in CIELAB units, by which no patch comes to be known better


def kept_text(entry: CellReading, shot: Shot, key: str) -> str:
    """What is kept of a reading; empty where nothing was seen.

    Parameters
    ----------
    entry : CellReading
    shot : Shot, the picture
    key : str, by which it is known among all pictures
    """
    if entry.seen is None:
        return ""
    whole = {
        "rgb": [round(value, 6) for value in entry.seen],
        "own": round(entry.own, 3),
        "lab": [float(value) for value in entry.lab],
        "paper": [round(value, 4) for value in shot.paper],
        "shot": key,
        "camera": shot.camera,
        "light": shot.light,
    }
    if shot.raw:
        whole["raw"] = True
    return json.dumps(whole)


def shot_text(shot: Shot, key: str) -> str:
    """What is kept of a picture beside its readings: the colours in it that are known for themselves; empty without such.

    Parameters
    ----------
    shot : Shot, the picture
    key : str, by which it is known among all pictures
    """
    if not shot.anchors:
        return ""
    return json.dumps({"shot": key, "anchors": list(map(_anchor_text, shot.anchors))})


def _anchor_text(anchor: Anchor) -> list[Any]:
    return [list(map(_short, anchor.seen)), list(map(_short, anchor.lab)), _short(anchor.off), anchor.of]


def _short(value: float) -> float:
    return round(value, 5)


def _anchor_in(values: Any) -> Anchor:
    """An anchor from JSON; earlier ones do not say how far off they may be, and of what they are."""
    seen, lab, *rest = values
    off, of = rest or (USUALLY_OFF, "")
    if not 0.0 <= float(off) < 100.0:
        raise ValueError("how far off an anchor may be")
    return Anchor(_triple(list(seen)), _triple(list(lab)), float(off), str(of))


@lru_cache(maxsize=4096)
def _shot_in(text: str) -> tuple[str, tuple[Anchor, ...]]:
    """The key of a picture and its anchors, from `shot_text`; none where it is damaged."""
    try:
        whole = json.loads(text)
        return str(whole["shot"]), tuple(map(_anchor_in, whole["anchors"]))
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError):
        return "", ()


@lru_cache(maxsize=65_536)
def seen_in(text: str) -> tuple[Triple, Triple, float, Shot] | None:
    """What was seen, the colour made of it, its own uncertainty (root mean square), the picture; None where it is damaged.

    Parameters
    ----------
    text : str, as `kept_text` gives it
    """
    try:
        whole = json.loads(text)
        rgb, lab, paper = (_triple(whole[name]) for name in ("rgb", "lab", "paper"))
        anchors = tuple(map(_anchor_in, whole.get("anchors", ())))
        own = float(whole["own"])
        said = str(whole.get("light", ""))
        shot = Shot(
            str(whole["shot"]),
            paper,
            str(whole.get("camera", "")),
            anchors,
            said if said in SHOT_LIGHTS else "",
            whole.get("raw") is True,
        )
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError):
        return None
    # a wide picture shows colours that sRGB has not; what they are made of is its nearest
    if not 0.0 <= own < 100.0 or not all(-1.0 <= value <= _MOST for value in rgb):
        return None
    rgb = triple(np.maximum(rgb, 0.0))
    if not (0.0 < paper[0] <= 100.0 and max(map(abs, (*paper, *lab))) < 200.0):
        return None
    return rgb, lab, own, shot


def _triple(values: object) -> Triple:
    if not isinstance(values, list) or len(values) != 3:
        raise ValueError("three numbers")
    found = triple(np.array([float(value) for value in values]))
    if not np.isfinite(found).all():
        raise ValueError("finite numbers")
    return found


def seen_of(row: Mapping[str, Any]) -> tuple[Triple, Triple, float, Shot] | None:
    """What a picture showed of a row of readings; None where that is not known, or the colour was corrected since.

    Parameters
    ----------
    row : mapping, with L, a, b and `seen`
    """
    text = row.get("seen")
    found = seen_in(text) if isinstance(text, str) and text else None
    if found is None:
        return None
    same = all(abs(a - b) <= _AS_KEPT for a, b in zip(found[1], (row["L"], row["a"], row["b"]), strict=True))
    return found if same else None


def with_anchors(rows: Iterable[Mapping[str, Any]]) -> dict[str, tuple[Anchor, ...]]:
    """By the keys of pictures what is known in them for itself: the patches of a card or of a strip, by what is known of
    them now, and cells of which an instrument gave the colour.

    Parameters
    ----------
    rows : iterable of mapping, of the readings, with `looks` (JSON, or None), and one of each picture with its `shot`
    """
    rows = list(rows)
    found: dict[str, list[Anchor]] = {}
    by_cell = {str(row["cell_id"]): row for row in rows if row.get("cell_id") and row["trust"] == "good"}
    for row in rows:
        key, patches = _shot_in(row.get("shot") or "")
        for patch in patches:
            found.setdefault(key, []).append(_as_known(patch, by_cell.get(patch.of)))
    for row in rows:
        if not isinstance(row.get("looks"), str) or row["trust"] != "good" or seen_of(row) is not None:
            continue
        try:
            looks = json.loads(row["looks"])
        except (ValueError, RecursionError):
            continue
        if not isinstance(looks, list) or row["source"] in OF_PICTURES:
            continue
        for look in looks:
            text = look.get("seen") if isinstance(look, dict) and look.get("trust") == "good" else None
            seen = seen_in(text) if isinstance(text, str) and text else None
            if seen is not None:
                anchor = Anchor(seen[0], (row["L"], row["a"], row["b"]))
                found.setdefault(seen[3].key, []).append(anchor)
    return {key: tuple(anchors) for key, anchors in found.items()}


def _as_known(patch: Anchor, row: Mapping[str, Any] | None) -> Anchor:
    """A patch by what is known of it now, where that can be the same patch."""
    if row is None:
        return patch
    lab = triple(np.array([row["L"], row["a"], row["b"]]))
    return patch if np.abs(np.subtract(lab, patch.lab)).max() > _ANOTHER else replace(patch, lab=lab)


def anchored(readings: Sequence[Reading], anchors: Mapping[str, tuple[Anchor, ...]]) -> list[Reading]:
    """Readings whose pictures know what is known in them for itself.

    Parameters
    ----------
    readings : sequence of Reading
    anchors : from the keys of pictures, as `with_anchors` gives them
    """
    more = {}
    found = []
    for reading in readings:
        shot = reading.shot
        if shot is not None and shot.key in anchors:
            if shot not in more:
                more[shot] = replace(shot, anchors=(*shot.anchors, *anchors[shot.key]))
            reading = replace(reading, shot=more[shot])
        found.append(reading)
    return found


def shot_from(values: Sequence[Any]) -> Shot:
    """A picture from a list as `dataclasses.astuple` and JSON make of it."""
    key, paper, camera, anchors, light, raw = values
    known = tuple(map(_anchor_in, anchors))
    return Shot(str(key), _triple(list(paper)), str(camera), known, str(light), raw is True)
