"""What ships with the application: typefaces, icons, tables; and the width of a text in the shipped typeface."""

import csv
from functools import cache
from importlib.resources import files
from io import BytesIO
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from PIL.ImageFont import FreeTypeFont

    from culmo.core.colour.spectral import Array
    from culmo.core.paint.pigments import Pigment

_EM = 200


@cache
def _typeface() -> "FreeTypeFont":
    from PIL import ImageFont  # not needed for the first window

    data = files("culmo.data").joinpath("fonts", "Cabin-Regular.otf").read_bytes()
    return ImageFont.truetype(BytesIO(data), _EM)


@cache
def text_width_mm(text: str, size_mm: float) -> float:
    """The width of a text in the typeface of the labels.

    Parameters
    ----------
    text : str
    size_mm : float, the size of the letters' em square in millimetres
    """
    return float(_typeface().getlength(text)) * size_mm / _EM


@cache
def pigment_table() -> "dict[str, Pigment]":
    """The table of pigments by Colour Index name."""
    from culmo.core.paint.pigments import pigment_from_row

    text = files("culmo.data").joinpath("pigments.csv").read_text(encoding="utf-8")
    rows = csv.DictReader(text.splitlines())
    return {row["code"]: pigment_from_row(row) for row in rows}


@cache
def pigment_bands() -> dict[str, str]:
    """Where each pigment of the table absorbs, as `core.paint.typical.bands_curve` reads it."""
    text = files("culmo.data").joinpath("pigment_bands.csv").read_text(encoding="utf-8")
    return {row["code"]: row["bands"] for row in csv.DictReader(text.splitlines())}


@cache
def typical_curves() -> "dict[str, tuple[Array, Array]]":
    """Absorption and scattering of each pigment of the table as it is typically seen, each (36,) float."""
    import numpy as np

    text = files("culmo.data").joinpath("typical_curves.csv").read_text(encoding="utf-8")
    rows = list(csv.reader(text.splitlines()))[1:]
    curves = {row[0]: np.array(row[1:], dtype=float) for row in rows}
    return {code: (values[:36], values[36:]) for code, values in curves.items()}


# the JSON forms that Culmo writes or reads, each with a schema
SCHEMAS = ("sheet", "share", "study", "mixes", "predictions", "next", "compare", "choice")


def schema(form: str) -> str:
    """What a JSON form holds, as a JSON Schema (draft 2020-12).

    Parameters
    ----------
    form : str, one of `SCHEMAS`
    """
    return files("culmo.data").joinpath("schemas", f"{form}.json").read_text(encoding="utf-8")
