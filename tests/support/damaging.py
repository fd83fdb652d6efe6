"""Damages files at random and lets Culmo read them: whatever is in them, it says so in words, soon, and in little memory.

Run as `python -m support.damaging KIND COUNT SEED FOLDER`; prints the longest time in seconds, the greatest memory in
megabytes, and how many were taken and refused.
"""

import io
import random
import re
import shutil
import sys
import time
import zipfile
from pathlib import Path

import numpy as np

from culmo.core.steps import run_through
from culmo.errors import CulmoError
from culmo.study import acts, note_acts
from culmo.study.diary import days
from culmo.study.due import due
from culmo.study.exchange import exporting, study_from_folder
from culmo.study.file import Study
from culmo.study.incoming import bring_in
from culmo.study.measured import read_card
from culmo.study.photo_acts import Picture
from culmo.study.pictures import jpeg_bytes, open_photo, thumbnail
from culmo.study.records import readings, sheet_record
from culmo.study.recovery import recover
from support.builders import make_sheet, make_study
from support.dng import dng_bytes
from support.patched import read_all
from support.spreadsheets import ods_cell, ods_row, write_ods, write_xlsx

KINDS = ("study", "picture", "csv", "json", "cgats", "gpl", "folder", "spreadsheet")
_PAINTS = [
    ["Name", "Pigment", "Staining", "Note"],
    *([f"Paint {i}", f"PB{i}", "yes", i] for i in range(15, 40)),
]
_DIGITS = (
    b"1e999", b"-1", b"NaN", b"999999999999999999999", b"0.0000000001", b"\xff", b'"', b"[" * 400, b"{" * 400, b",,,,",
    b"\n\n",
)  # fmt: skip


def make_bases(folder: Path) -> dict[str, list[Path]]:
    """Sound files of each kind."""
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / "base.culmo"
    with make_study(path) as study:
        study.apply(acts.add_sheet(study, make_sheet()))
        study.apply(acts.read_cell(study, 1, 2, (50.0, 10.0, 10.0)))
        read_all(study, most=3)
        study.apply(note_acts.add_note(study, "a note", [Picture("n.jpg", _jpeg(), where="inside")]))
        run_through(exporting(study, folder / "open"))
    pictures = [folder / f"p.{ending}" for ending in ("jpg", "png", "tif", "webp", "avif", "heic")]
    pictures[0].write_bytes(_jpeg())
    from PIL import Image
    from pillow_heif import register_heif_opener

    register_heif_opener()

    pixels = np.random.default_rng(1).integers(0, 255, (96, 120, 3), dtype=np.uint8)
    for picture in pictures[1:]:
        Image.fromarray(pixels).save(picture)
    pictures.append(folder / "p.dng")
    pictures[-1].write_bytes(dng_bytes(pixels / 255.0))
    out = folder / "open"
    return {
        "study": [path],
        "picture": pictures,
        "csv": [out / "readings.csv", out / "paints.csv"],
        "json": [*(out / "sheets").glob("*.json")],
        "cgats": [out / "readings.cgats.txt"],
        "gpl": [out / "readings.gpl"],
        "folder": [out / "study.json"],
        "spreadsheet": [write_xlsx(folder / "a.xlsx", P=_PAINTS), _ods(folder / "a.ods")],
    }


def _ods(path: Path) -> Path:
    return write_ods(path, P=[ods_row(*map(ods_cell, row)) for row in _PAINTS])


def damaged_inside(path: Path, rng: random.Random) -> bytes:
    """A packed file, soundly packed, one of whose parts has wounds; now and then it is the packing that has them."""
    if rng.random() < 0.2:
        return damaged(path.read_bytes(), rng)
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    hurt = rng.choice([name for name in parts if name.endswith((".xml", ".rels"))])
    parts[hurt] = damaged(parts[hurt], rng)
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in parts.items():
            archive.writestr(name, data)
    return packed.getvalue()


def _jpeg() -> bytes:
    pixels = np.random.default_rng(0).integers(0, 255, (96, 120, 3), dtype=np.uint8)
    return jpeg_bytes(pixels)


def damaged(data: bytes, rng: random.Random) -> bytes:
    """A few random wounds: bytes turned, pieces cut, doubled, zeroed or put in, numbers made odd."""
    found = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 3, 8))):
        if not found:
            break
        at = rng.randrange(len(found))
        length = min(rng.choice((1, 4, 32, 512, 4096)), len(found) - at)
        kind = rng.randrange(7)
        if kind == 0:
            found[at] = rng.randrange(256)
        elif kind == 1:
            del found[at : at + length]
        elif kind == 2:
            found[at:at] = found[at : at + length] * rng.choice((1, 2, 9))
        elif kind == 3:
            found[at : at + length] = bytes(length)
        elif kind == 4:
            found[at : at + length] = rng.randbytes(length)
        elif kind == 5:
            found[at:at] = rng.choice(_DIGITS)
        else:
            del found[at:]
    return bytes(found)


def read(kind: str, path: Path, spare: Path) -> None:
    """Let Culmo read a file with all that follows from it."""
    if kind == "study":
        try:
            with Study(path) as study:
                if study.problems():  # it is refused, as the window does
                    raise CulmoError("; ".join(study.problems()[:3]))
                readings(study)
                days(study)
                due(study)
                for row in study.rows("sheets"):
                    sheet_record(study, row["id"])
        finally:
            recover(path, spare / "new.culmo")
    elif kind == "picture":
        try:
            open_photo(path)
        finally:
            thumbnail(path.read_bytes(), path.name, 64)
    elif kind == "folder":
        study_from_folder(path, spare / "new.culmo")
    else:
        with make_study(spare / "into.culmo", cards=False) as study:
            before = study.dump()
            try:
                bring_in(study, path, lambda _: None)
            except CulmoError:
                assert study.dump() == before
                raise
            finally:
                assert study.problems() == [], study.problems()
                if kind == "cgats":
                    read_card(path)


def _most_memory() -> int:
    """The greatest memory of this process in bytes; getrusage would give that of whoever started it, where it had more."""
    status = Path("/proc/self/status").read_text(encoding="ascii")
    return 1024 * int(re.search(r"VmHWM:\s*(\d+) kB", status)[1])


def main(kind: str, count: str, seed: str, folder: str) -> int:
    """Damage and read."""
    rng, place = random.Random(f"{kind} {seed}"), Path(folder)
    bases = make_bases(place / "bases")[kind]
    longest, taken, refused = 0.0, 0, 0
    for number in range(int(count)):
        spare = place / "spare"
        shutil.rmtree(spare, ignore_errors=True)
        spare.mkdir()
        base = bases[number % len(bases)]
        path = spare / f"hurt{base.suffix}" if kind != "folder" else spare / "study.json"
        packed = kind == "spreadsheet"
        path.write_bytes(damaged_inside(base, rng) if packed else damaged(base.read_bytes(), rng))
        start = time.perf_counter()
        try:
            read(kind, path, spare)
            taken += 1
        except CulmoError as error:
            assert str(error).strip()
            refused += 1
        except BaseException:
            shutil.copy(path, place / f"crash-{kind}-{seed}-{number}{path.suffix}")
            raise
        longest = max(longest, time.perf_counter() - start)
    most = _most_memory() / 2**20
    print(f"{longest:.3f} {most:.0f} {taken} {refused}")
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
