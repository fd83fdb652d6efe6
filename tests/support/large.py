"""A study of many years: twenty thousand readings, three hundred sheets, sixty paints."""

import json
from pathlib import Path

import numpy as np

from culmo.core.paint.recipe import format_recipe, mix, spoken_recipe
from culmo.study.file import Change, Command, Study
from culmo.study.records import cell_row, layout_text
from support.builders import laid_out

PAINTS, SHEETS, READINGS = 60, 300, 20_000
_CODES = ("PY175", "PO73", "PR255", "PV19", "PB29", "PB28", "PB15:3", "PG7", "PG18", "PY43", "PBr7", "PR101")


def make_large(path: Path, paints: int = PAINTS, sheets: int = SHEETS, readings: int = READINGS) -> Path:
    """Write such a study; its readings are of the cells of its sheets."""
    rng = np.random.default_rng(7)
    with Study.create(path, "Many years") as study:
        names = [f"Paint {i:02d} of the studio" for i in range(paints)]
        changes = [
            Change("paints", i + 1, None, {
                "id": i + 1, "name": name, "codes": _CODES[i % len(_CODES)], "status": "owned", "position": i, "retired": 0,
                "grain": None, "note": "", "label": "{}", "created": "2020-01-01T09:00:00+01:00",
            })
            for i, name in enumerate(names)
        ]  # fmt: skip
        cell_id = reading_id = event_id = 0
        colours = rng.uniform([20, -60, -60], [95, 60, 80], (paints, 3))
        for name, lab in zip(names, colours, strict=True):  # each has its card
            for recipe, ground, pale in (
                (mix([name]), "paper", 0.0),
                (mix([name], wash=0.2), "paper", 0.7),
                (mix([name]), "ink", 0.0),
            ):
                reading_id += 1
                L, a, b = (
                    lab * (1 - pale) + np.array([95.0, 0.0, 2.0]) * pale
                    if ground == "paper"
                    else lab * [0.5, 0.3, 0.3]
                )
                changes.append(
                    _reading(
                        reading_id, recipe, ground, (L, a, b), None, None, "2020-01-02T09:00:00+01:00", "card"
                    )
                )
        box = {
            "id": 1,
            "name": "Studio box",
            "rows": 6,
            "columns": 10,
            "settings": "{}",
            "created": "2020-01-01T09:00:00+01:00",
        }
        changes.append(Change("boxes", 1, None, box))
        changes += [
            Change(
                "wells", i + 1, None, {"id": i + 1, "box_id": 1, "place": i, "paint_id": i + 1, "pan": "half"}
            )
            for i in range(paints)
        ]
        per = -(-(readings - reading_id) // sheets)
        size = max(2, int(np.ceil(np.sqrt(per))))
        for number in range(1, sheets + 1):
            chosen = tuple(names[int(i)] for i in rng.choice(paints, size, replace=False))
            (sheet,) = laid_out("grid", paints=chosen, paper="A3", title=f"Sheet {number:03d}")
            day = f"20{20 + number // 40}-{1 + number % 12:02d}-{1 + number % 28:02d}"
            row = {
                "id": number, "title": sheet.title, "kind": sheet.kind, "layout": layout_text(sheet), "archived": 0,
                "replaces": None, "created": f"{day}T08:00:00+01:00",
            }  # fmt: skip
            changes.append(Change("sheets", number, None, row))
            changes.append(Change("runs", number, None, {
                "id": number, "sheet_id": number, "started": f"{day}T09:00:00+01:00", "ended": f"{day}T10:00:00+01:00",
                "settings": "{}",
            }))  # fmt: skip
            for place, cell in enumerate(sheet.cells):
                cell_id += 1
                changes.append(Change("cells", cell_id, None, cell_row(cell_id, number, place, cell)))
                changes.append(Change("strokes", cell_id, None, {
                    "id": cell_id, "run_id": number, "cell_id": cell_id, "act": "done",
                    "at": f"{day}T09:{place % 60:02d}:00+01:00", "how": "tray",
                    "marks": "granulates" if cell_id % 9 == 0 else "", "note": "", "layer": 0, "dried": None,
                }))  # fmt: skip
                if reading_id < readings and place < per:
                    reading_id += 1
                    parts = [colours[names.index(name)] for name in cell.recipe.names]
                    lab = np.mean(parts, axis=0) + rng.normal(0, 2, 3)
                    at = f"{day}T15:{place % 60:02d}:00+01:00"
                    changes.append(
                        _reading(
                            reading_id, cell.recipe, cell.ground, tuple(lab), number, cell_id, at, "typed"
                        )
                    )
                    event_id += 1
                    text = f"{sheet.title}: {spoken_recipe(cell.recipe)} was read"
                    changes.append(Change("events", event_id, None, {
                        "id": event_id, "at": at, "kind": "reading", "text": text, "sheet_id": number, "cell_id": cell_id,
                        "paint_id": None, "note_id": None,
                    }))  # fmt: skip
        study.apply(Command("Many years", tuple(changes)))
    return path


def _reading(row_id, recipe, ground, lab, sheet_id, cell_id, at, source):
    L, a, b = (float(value) for value in lab)
    return Change("readings", row_id, None, {
        "id": row_id, "recipe": format_recipe(recipe), "ground": ground, "L": min(max(L, 0.0), 100.0), "a": a, "b": b,
        "sheet_id": sheet_id, "cell_id": cell_id, "photo_id": None, "paper": "", "source": source, "taken": at,
        "dry_hours": None, "granulation": None, "separation": None, "trust": "good", "note": "", "extra": json.dumps({}),
        "treatment": "",
    })  # fmt: skip
