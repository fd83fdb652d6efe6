"""A checker of plans that shares nothing with the planner: it reads the open form (docs/formats.md) as any program would.

Edges are compared by walking them point by point, times and texts by what the file says alone.
"""

import math
from collections.abc import Iterator, Mapping
from itertools import combinations, pairwise
from pathlib import Path
from typing import Any

import numpy as np
from PIL import ImageFont

_STEP_MM = 0.05
_NEAR_MM = 0.06
_CLEAR_MM = 1.1  # what shares less may or may not count as an edge
_MEET_MINUTES = 2.0


def faults_of(data: Mapping[str, Any], dry_minutes: float = 15.0) -> list[str]:
    """What is wrong with an ordered sheet, in words; empty where all is well."""
    return [
        *_off_the_paper(data),
        *_texts_that_overlap(data),
        *_steps(data),
        *_contacts(data, dry_minutes),
        *_layers(data, dry_minutes),
        *_stages(data),
    ]


# ---- where things are


def _off_the_paper(data: Mapping[str, Any]) -> Iterator[str]:
    wide, high = data["paper"]["width_mm"], data["paper"]["height_mm"]
    for cell in data["cells"]:
        if not all(-1e-6 <= x <= wide + 1e-6 and -1e-6 <= y <= high + 1e-6 for x, y in cell["outline_mm"]):
            yield f"cell {cell['id']} leaves the paper"
    for label in data["labels"]:
        for x, y in _corners(label):
            if not (-0.5 <= x <= wide + 0.5 and -0.5 <= y <= high + 0.5):
                yield f"the text {label['text']!r} leaves the paper"
                break


def _corners(label: Mapping[str, Any]) -> list[tuple[float, float]]:
    """The corners of a text, by the metrics of the typeface that it is set in."""
    size = label.get("size_mm", 3.2)
    width = _font().getlength(label["text"]) / 200.0 * size
    turn = math.radians(label["angle_deg"])
    x, y = label["at_mm"]
    # from the baseline up to the height of capitals; what hangs below is left out
    return [
        (x + a * math.cos(turn) + b * math.sin(turn), y + a * math.sin(turn) - b * math.cos(turn))
        for a, b in ((0.0, 0.0), (width, 0.0), (width, 0.62 * size), (0.0, 0.62 * size))
    ]


def _font() -> ImageFont.FreeTypeFont:
    folder = Path(__file__).parents[2] / "src" / "culmo" / "data" / "fonts"
    return ImageFont.truetype(
        str(next(iter(sorted(folder.glob("*Cabin*Regular*")) or sorted(folder.glob("*.?tf"))))), 200
    )


def _texts_that_overlap(data: Mapping[str, Any]) -> Iterator[str]:
    labels = [label for label in data["labels"] if label["text"]]
    boxes = [np.array(_corners(label)) for label in labels]
    for (one, a), (other, b) in combinations(zip(labels, boxes, strict=True), 2):
        if _overlap(a, b):
            yield f"the texts {one['text']!r} and {other['text']!r} overlap"


def _overlap(a: np.ndarray, b: np.ndarray) -> bool:
    """Whether two convex shapes overlap by more than a hair: no line parts them (the separating axis theorem)."""
    for shape in (a, b):
        for start, end in zip(shape, np.roll(shape, -1, axis=0), strict=True):
            normal = np.array([end[1] - start[1], start[0] - end[0]])
            length = np.hypot(*normal)
            if length < 1e-9:
                return False
            one, other = a @ normal / length, b @ normal / length
            if one.max() - 0.15 <= other.min() or other.max() - 0.15 <= one.min():
                return False
    return True


# ---- when things are done


def _steps(data: Mapping[str, Any]) -> Iterator[str]:
    painted = [step["cell"] for step in data["work"] if step["do"] == "cell"]
    if sorted(painted) != sorted(cell["id"] for cell in data["cells"]):
        yield "the steps do not paint each cell once"
    times = [step["at_minute"] for step in data["work"] if "at_minute" in step]
    if times != sorted(times):
        yield "the steps go back in time"
    at = {cell["id"]: cell["at_minute"] for cell in data["cells"]}
    for step in data["work"]:
        if step["do"] == "cell" and abs(step["at_minute"] - at[step["cell"]]) > 1e-6:
            yield f"cell {step['cell']} has two starts"
    order = [cell["id"] for cell in sorted(data["cells"], key=lambda cell: cell["order"])]
    if order != painted:
        yield "the numbers of the cells are not the order of the steps"


def _contacts(data: Mapping[str, Any], dry_minutes: float) -> Iterator[str]:
    wet = _wettings(data)
    meets = {cell["id"]: set(cell.get("meets", ())) for cell in data["cells"]}
    at = {cell["id"]: cell["at_minute"] for cell in data["cells"]}
    for name, others in meets.items():
        for other in others:
            if name not in meets[other]:
                yield f"{name} meets {other}, and {other} does not say so"
            if abs(at[name] - at[other]) > _MEET_MINUTES + 1e-6:
                yield f"{name} and {other} meet, and lie {abs(at[name] - at[other]):.1f} minutes apart"
    for one, other in combinations(data["cells"], 2):
        a, b = one["id"], other["id"]
        if b in meets[a] or _shared_mm(one["outline_mm"], other["outline_mm"]) < _CLEAR_MM:
            continue
        gaps = [abs(x - y) for x in wet[a] for y in wet[b]]
        if min(gaps) < dry_minutes - 0.02:
            yield f"{a} and {b} share an edge, and lie {min(gaps):.2f} minutes apart"


def _layers(data: Mapping[str, Any], dry_minutes: float) -> Iterator[str]:
    at = {cell["id"]: cell["at_minute"] for cell in data["cells"]}
    for name, times in _wettings(data).items():
        if any(later - earlier < dry_minutes - 0.02 for earlier, later in pairwise(times)):
            yield f"{name} is painted over while it is wet"
    for cell in data["cells"]:
        first = cell.get("half_of")
        alike = first and cell.get("stage") == _stage_of(data, first)
        if alike and at[cell["id"]] < at[first] + dry_minutes - 0.02:
            yield f"{cell['id']} is painted before {first} is dry"


def _wettings(data: Mapping[str, Any]) -> dict[str, list[float]]:
    """When each cell is wetted."""
    wet: dict[str, list[float]] = {cell["id"]: [] for cell in data["cells"]}
    for step in data["work"]:
        if step["do"] in ("cell", "under"):
            wet[step["cell"]].append(step["at_minute"])
    return wet


def _stage_of(data: Mapping[str, Any], name: str) -> str:
    return str(next(cell.get("stage", "") for cell in data["cells"] if cell["id"] == name))


def _shared_mm(one: list[list[float]], other: list[list[float]]) -> float:
    """How much of an outline runs along another: it is walked in small steps, and each step asks how far the other is."""
    a, b = np.array(one), np.array(other)
    near = _NEAR_MM
    if (a.max(axis=0) + near < b.min(axis=0)).any() or (b.max(axis=0) + near < a.min(axis=0)).any():
        return 0.0
    total = 0.0
    for start, end in zip(a, np.roll(a, -1, axis=0), strict=True):
        length = float(np.hypot(*(end - start)))
        count = max(1, round(length / _STEP_MM))
        points = start + (end - start) * ((np.arange(count) + 0.5) / count)[:, None]
        total += length * float((_away(points, b, (end - start) / max(length, 1e-9)) < near).mean())
    return total


def _away(points: np.ndarray, outline: np.ndarray, way: np.ndarray) -> np.ndarray:
    """How far points are from those lines of an outline that run the same way, (n,) float mm."""
    best = np.full(len(points), np.inf)
    for start, end in zip(outline, np.roll(outline, -1, axis=0), strict=True):
        line = end - start
        length = float(np.hypot(*line))
        if length < 1e-9 or abs(way[0] * line[1] - way[1] * line[0]) > 0.15 * length:
            continue
        along = np.clip(((points - start) @ line) / length**2, 0.0, 1.0)
        best = np.minimum(best, np.hypot(*(points - start - along[:, None] * line).T))
    return best


def _stages(data: Mapping[str, Any]) -> Iterator[str]:
    wished = data["settings"].get("stages", ["pure", "mix", "pale", "white", "glaze"])
    begins: dict[str, float] = {}
    ends: dict[str, float] = {}
    for cell in data["cells"]:
        stage = cell.get("stage")
        if stage:
            begins[stage] = min(begins.get(stage, math.inf), cell["at_minute"])
            ends[stage] = max(ends.get(stage, -math.inf), cell["at_minute"])
    there = [stage for stage in wished if stage in begins]
    if set(begins) - set(there):
        yield f"stages that nobody wished: {set(begins) - set(there)}"
    for earlier, later in combinations(there, 2):
        if begins[later] < ends[earlier]:
            yield f"stage {later} begins at {begins[later]} while {earlier} lasts to {ends[earlier]}"
