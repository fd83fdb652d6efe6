"""The real paint as files: pictures and a table for other programs, and the bytes that are kept, to come back the same."""

import io
from collections.abc import Callable, Generator
from functools import cache
from pathlib import Path

from PIL import Image, ImageCms

from culmo.core.capture.patch_picture import in_colour, pixels_of
from culmo.study import records
from culmo.study.file import Row, Study
from culmo.study.patches import ENDING, patch_bytes, patch_in
from culmo.study.photo_files import confined
from culmo.study.spreadsheet import harmless
from culmo.study.tables import write_rows

FOLDER, KEPT, TABLE = "patches", "kept", "patches.csv"
_COLUMNS = [
    "picture", "sheet", "cell", "recipe", "ground", "L", "a", "b", "taken", "source", "pixels_per_mm", "left_mm",
    "top_mm", "width_mm", "height_mm", "kept",
]  # fmt: skip
_MM = 25.4


def kept_path(patch_id: int) -> str:
    """Where the bytes of a patch lie in an exported folder."""
    return f"{FOLDER}/{KEPT}/{patch_id:06d}{ENDING}"


def found_in(folder: Path, path: str) -> Path | None:
    """The bytes of a patch in an exported folder by the path that the record has; None where that is no such path."""
    name = Path(path).name
    return confined(folder / FOLDER / KEPT, name) if path == f"{FOLDER}/{KEPT}/{name}" else None


def putting_out(
    study: Study, folder: Path, name_of: Callable[[str, str], str]
) -> Generator[float, None, None]:
    """Write all patches of a study into a folder; yields the progress, 0..1.

    Parameters
    ----------
    study : Study
    folder : Path, which is there
    name_of : function from a title, and what stands for one that is empty, to a name that any file system takes

    Raises
    ------
    CulmoError
        when one can not be read
    OSError
        when one can not be written
    """
    ids = [int(row["id"]) for row in study.select("SELECT id FROM patches ORDER BY id")]
    if not ids:
        return
    (folder / FOLDER / KEPT).mkdir(parents=True)
    cells = {row["id"]: row for row in study.select("SELECT id, sheet_id, cell FROM cells")}
    sheets = {row["id"]: str(row["title"]) for row in study.select("SELECT id, title FROM sheets")}
    used: set[str] = set()
    table = []
    for count, patch_id in enumerate(ids):
        row = study.row("patches", patch_id)
        data = patch_bytes(study, row)
        if not data:
            continue
        (folder / kept_path(patch_id)).write_bytes(data)
        reading = records.anew(study, study.row("readings", row["reading_id"]))
        cell = cells.get(reading["cell_id"], {})
        title = sheets.get(reading["sheet_id"], "")
        stem = f"{FOLDER}/{name_of(title, 'no sheet')}/{name_of(str(cell.get('cell', '')), 'cell')}"
        name, number = f"{stem}.png", 1
        while name.casefold() in used:
            number += 1
            name = f"{stem} {number}.png"
        used.add(name.casefold())
        picture = _png(study, row, reading)
        if picture:
            (folder / name).parent.mkdir(exist_ok=True)
            (folder / name).write_bytes(picture)
        table.append(
            [
                name if picture else "",
                harmless(title),
                harmless(cell.get("cell", "")),
                harmless(reading["recipe"]),
                reading["ground"],
                *(round(reading[axis], 3) for axis in "Lab"),
                row["taken"],
                row["source"],
                round(row["per_mm"], 4),
                *(round(row[key], 3) for key in ("left_mm", "top_mm", "width_mm", "height_mm")),
                kept_path(patch_id),
            ]
        )
        if count % 8 == 7:
            yield count / len(ids)
    (folder / TABLE).write_text(write_rows(_COLUMNS, table), encoding="utf-8")


def _png(study: Study, row: Row, reading: Row) -> bytes:
    """A patch in its colours, to scale; empty where it is damaged."""
    patch = patch_in(study, row)
    pixels = pixels_of(patch.data) if patch is not None else None
    if patch is None or pixels is None:
        return b""
    lab = float(reading["L"]), float(reading["a"]), float(reading["b"])
    out = io.BytesIO()
    dots = patch.per_mm * _MM
    Image.fromarray(in_colour(pixels, patch.seen, patch.paper, lab)).save(
        out, "PNG", dpi=(dots, dots), icc_profile=_srgb()
    )
    return out.getvalue()


@cache
def _srgb() -> bytes:
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
