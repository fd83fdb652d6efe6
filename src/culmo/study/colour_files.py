"""Wanted colours from files: tables, palettes, measurements."""

from pathlib import Path

from culmo.core.colour.srgb import lab_from_text
from culmo.errors import CulmoError
from culmo.study.cgats import Sample
from culmo.study.formats import Holds, find_format
from culmo.study.measured import MEASURED, read_samples
from culmo.study.palette_acts import Wanted
from culmo.study.palette_files import PALETTES, read_palette
from culmo.study.tables import open_table
from culmo.words import tr, with_point

Colours = tuple[list[Wanted], list[str]]


def read_colours(path: Path) -> Colours:
    """The colours of a file, and what is wrong with its other rows.

    Raises
    ------
    CulmoError
        when the file as a whole can not be read, or names no colours
    """
    kind = find_format(path, [Holds.COLOURS])
    if kind in PALETTES:
        return [
            Wanted(name, (float(L), float(a), float(b))) for name, (L, a, b) in read_palette(path, kind)
        ], []
    if kind in MEASURED:
        samples, bad = read_samples(path, kind)
        return [wanted_of(sample) for sample in samples], bad
    return _of_table(path)


def wanted_of(sample: Sample) -> Wanted:
    """A measured patch as a colour that is wanted."""
    L, a, b = (float(value) for value in sample.lab)
    return Wanted(sample.name, (L, a, b))


def _of_table(path: Path) -> Colours:
    """A table with L, a, b or hex, and name where there is one."""
    good: list[Wanted] = []
    bad: list[str] = []
    for line, row in open_table(path):
        named = {key.casefold(): value.strip() for key, value in row.items() if key}
        if not good and not bad and "hex" not in named and not {"l", "a", "b"} <= set(named):
            raise CulmoError(
                tr('"{name}" names no colours; it needs the columns L, a and b, or hex', name=path.name)
            )
        text = named.get("hex") or ", ".join(with_point(named.get(column, "")) for column in ("l", "a", "b"))
        try:
            L, a, b = (float(value) for value in lab_from_text(text))
        except CulmoError as error:
            bad.append(tr("line {line}: {error}", line=line, error=error))
            continue
        good.append(Wanted(named.get("name", ""), (L, a, b)))
    return good, bad
