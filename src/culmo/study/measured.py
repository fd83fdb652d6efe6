"""The samples of a file of measurements, in whichever format."""

import csv
from pathlib import Path

import numpy as np

from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import check_lab
from culmo.errors import CulmoError
from culmo.study.cgats import Sample, numbers_of, read_cgats
from culmo.study.cxf import read_cxf
from culmo.study.formats import CGATS, CXF, Format, Holds, find_format
from culmo.words import tr

MEASURED = (CGATS, CXF)


def read_samples(path: Path, kind: Format) -> tuple[list[Sample], list[str]]:
    """The samples of a file of one of `MEASURED`, and what is wrong with the others.

    Raises
    ------
    CulmoError
        when the file can not be read or holds no colours
    """
    return read_cxf(path) if kind is CXF else read_cgats(path)


def read_card(path: Path) -> list[tuple[str, Array]]:
    """The patches of a reference card, row by row, from a CGATS or CxF file or a table (name,L,a,b; D65).

    A table of readings is taken, too: its patches are named by their cells.

    Raises
    ------
    CulmoError
        when the file can not be read, or a row of it
    """
    kind = find_format(path, [Holds.CARD])
    if kind in MEASURED:
        samples, bad = read_samples(path, kind)
        if bad:
            raise CulmoError(f'"{path.name}", {bad[0]}')
        return [(sample.name, sample.lab) for sample in samples]
    from culmo.study.tables import open_table

    found = []
    try:
        for line, row in open_table(path):
            lab = np.array(numbers_of([row.get(key, "") or "x" for key in ("L", "a", "b")]))
            found.append((row.get("name", "") or row.get("cell", "") or str(line - 1), check_lab(lab)))
    except (CulmoError, csv.Error) as error:
        raise CulmoError(
            tr('the card "{name}" can not be used: {error}', name=path.name, error=error)
        ) from None
    return found
