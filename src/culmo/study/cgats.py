"""CGATS text files (ISO 28178), as instruments and colour tools write them."""

import re
import shlex
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from culmo.core.colour.adapt import D50_WHITE, adapt_xyz, lab_from_d50, lab_from_spectrum, lab_to_d50
from culmo.core.colour.cielab import lab_from_xyz
from culmo.core.colour.spectral import DAYLIGHT, Array
from culmo.core.colour.srgb import check_lab
from culmo.core.paint.readings import INK, PAPER
from culmo.errors import CulmoError
from culmo.study.doors import read_file
from culmo.words import tr, with_point

SIZE_LIMIT = 64 * 2**20
MOST_SAMPLES = 200_000
_NAMES = ("SAMPLE_NAME", "SAMPLE_ID", "SAMPLE_LOC", "SAMPLEID", "SAMPLENAME")
_GROUND = "GROUND"
_BAND = re.compile(r"^(?:SPECTRAL_NM_?|SPECTRAL_|SPEC_|NM_?|R_?)(\d{3})(?:\.0+)?$", re.IGNORECASE)


@dataclass(frozen=True)
class Sample:
    """One measured patch.

    Attributes
    ----------
    id : str, as the file numbers it
    name : str, as the file names it, or the id
    lab : (3,) float, CIELAB, D65
    line : int, in the file
    ground : str, "paper" or "ink", as Culmo's own files name it
    """

    id: str
    name: str
    lab: Array
    line: int
    ground: str = PAPER


def read_cgats(path: Path) -> tuple[list[Sample], list[str]]:
    """The samples of a file, and what is wrong with the others.

    Raises
    ------
    CulmoError
        when the file can not be read or holds no colours
    """
    text = read_file(path, SIZE_LIMIT).decode("utf-8-sig", errors="replace")
    return parse_cgats(text, path.name)


def parse_cgats(text: str, name: str) -> tuple[list[Sample], list[str]]:
    """As `read_cgats`, from the text.

    Examples
    --------
    >>> text = "CGATS.17\\nBEGIN_DATA_FORMAT\\nSAMPLE_ID LAB_L LAB_A LAB_B\\nEND_DATA_FORMAT\\n"
    >>> samples, bad = parse_cgats(text + "BEGIN_DATA\\nA1 50 0 0\\nEND_DATA\\n", "a.txt")
    >>> samples[0].id, [round(float(v), 3) + 0.0 for v in samples[0].lab]
    ('A1', [50.0, 0.0, 0.0])
    """
    fields: list[str] = []
    rows: list[tuple[int, list[str]]] = []
    d65, part = False, ""
    for number, line in enumerate(text.splitlines(), 1):
        words = line.strip()
        if not words or words.startswith("#"):
            continue
        upper = words.upper()
        if upper in ("BEGIN_DATA_FORMAT", "BEGIN_DATA", "END_DATA_FORMAT", "END_DATA"):
            part = upper[6:] if upper.startswith("BEGIN") else ""
        elif part == "DATA_FORMAT":
            fields += words.split()
        elif part == "DATA":
            rows.append((number, _split(words)))
            if len(rows) > MOST_SAMPLES:
                raise CulmoError(
                    tr(
                        '"{name}" holds more than {MOST_SAMPLES} samples',
                        name=name,
                        MOST_SAMPLES=MOST_SAMPLES,
                    )
                )
        elif "D65" in upper and ("ILLUM" in upper or "WEIGHTING" in upper):
            d65 = True
    if not fields or not rows:
        raise CulmoError(tr('"{name}" is not a CGATS file: it has no data format, or no data', name=name))
    return _samples([field.upper() for field in fields], rows, d65, name)


def _split(line: str) -> list[str]:
    try:
        return shlex.split(line) if '"' in line else line.split()
    except ValueError:
        return line.split()


def _samples(
    fields: list[str], rows: list[tuple[int, list[str]]], d65: bool, name: str
) -> tuple[list[Sample], list[str]]:
    place = {field: i for i, field in enumerate(fields)}
    bands = {field: int(found.group(1)) for field in fields if (found := _BAND.match(field))}
    waves = sorted(set(bands.values()))
    by_wave = {wave: place[field] for field, wave in bands.items()}
    kinds = {
        "spectral": [by_wave[wave] for wave in waves] if len(waves) >= 10 else [],
        "lab": [place[f] for f in ("LAB_L", "LAB_A", "LAB_B") if f in place],
        "xyz": [place[f] for f in ("XYZ_X", "XYZ_Y", "XYZ_Z") if f in place],
    }
    kind = next((key for key, columns in kinds.items() if len(columns) >= 3), "")
    if not kind:
        raise CulmoError(
            tr(
                '"{name}" holds no colours: it needs LAB_L, LAB_A and LAB_B, or XYZ, or spectral bands',
                name=name,
            )
        )
    good: list[tuple[int, list[str]]] = []
    values, bad = [], []
    for line, row in rows:
        try:
            if len(row) != len(fields):
                raise CulmoError(tr("{n} values where the format names {n2}", n=len(row), n2=len(fields)))
            values.append(numbers_of([row[i] for i in kinds[kind]]))
            good.append((line, row))
        except CulmoError as error:
            bad.append(tr("line {line}: {error}", line=line, error=error))
    if not good:
        return [], bad
    lab = _lab(kind, np.array(values), np.array(waves, dtype=float), d65)
    named = [place[field] for field in _NAMES if field in place]
    number = place.get("SAMPLE_ID", named[0] if named else -1)
    samples: list[Sample] = []
    for (line, row), colour in zip(good, lab, strict=True):
        try:
            check_lab(colour)
        except CulmoError as error:
            bad.append(tr("line {line}: {error}", line=line, error=error))
            continue
        own = row[number] if number >= 0 else str(len(samples) + 1)
        ground = INK if _GROUND in place and row[place[_GROUND]] == INK else PAPER
        samples.append(Sample(own, row[named[0]] if named else own, colour, line, ground))
    return samples, bad


def numbers_of(texts: Sequence[str]) -> list[float]:
    """Finite numbers as they are written in a file of measurements; else CulmoError says what is wrong."""
    try:
        values = [float(with_point(text)) for text in texts]
    except ValueError:
        raise CulmoError(tr("a value is not a number")) from None
    if not np.isfinite(values).all():
        raise CulmoError(tr("a value is not finite"))
    return values


def _lab(kind: str, values: Array, waves: Array, d65: bool) -> Array:
    if kind == "spectral":
        # some files give per cent
        return lab_from_spectrum(waves, values / (100.0 if np.median(values.max(axis=1)) > 2.0 else 1.0))
    if kind == "xyz":
        xyz = values / 100.0
        return lab_from_xyz(xyz if d65 else adapt_xyz(xyz, D50_WHITE), DAYLIGHT.white)
    return values if d65 else lab_from_d50(values)


def write_cgats(
    names: Sequence[str], lab: Iterable[Array], title: str, grounds: Sequence[str] | None = None
) -> str:
    """A CGATS text with CIELAB for D50, as other colour tools expect it.

    Parameters
    ----------
    names : sequence of str
    lab : iterable of (3,) float, CIELAB, D65
    title : str
    grounds : sequence of str, "paper" or "ink", or None where all are on paper; a field of our own
    """
    rows = [lab_to_d50(np.asarray(colour)) for colour in lab]
    over = grounds is not None and any(ground != PAPER for ground in grounds)
    lines = ["CGATS.17", f'DESCRIPTOR "{_plain(title)}"', 'ORIGINATOR "Culmo"']
    lines += ['WEIGHTING_FUNCTION "ILLUMINANT, D50"', 'WEIGHTING_FUNCTION "OBSERVER, 2 degree"']
    lines += [f'KEYWORD "{_GROUND}"'] if over else []
    lines += [f"NUMBER_OF_FIELDS {6 if over else 5}", "BEGIN_DATA_FORMAT"]
    lines += [
        "SAMPLE_ID SAMPLE_NAME LAB_L LAB_A LAB_B" + (f" {_GROUND}" if over else ""),
        "END_DATA_FORMAT",
    ]
    lines += [f"NUMBER_OF_SETS {len(rows)}", "BEGIN_DATA"]
    for number, (name, (L, a, b)) in enumerate(zip(names, rows, strict=True), 1):
        end = f' "{grounds[number - 1]}"' if over and grounds is not None else ""
        lines.append(f'{number} "{_plain(name)}" {L:.5f} {a:.5f} {b:.5f}{end}')
    return "\n".join([*lines, "END_DATA", ""])


def _plain(text: str) -> str:
    return "".join(letter if letter >= " " else " " for letter in text).replace('"', "'")
