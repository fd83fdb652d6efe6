"""Palettes of colours as other programs keep them: GPL, ASE, KPL, CSS, and plain lists of hex colours, in and out."""

import io
import re
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path
from xml.sax.saxutils import quoteattr

import numpy as np

from culmo.core.colour.adapt import lab_from_d50
from culmo.core.colour.spectral import Array
from culmo.core.colour.srgb import hex_from_lab, lab_from_srgb, srgb_from_lab
from culmo.errors import CulmoError
from culmo.study.doors import read_file
from culmo.study.formats import ASE, CSS, GPL, HEX, KPL, Format
from culmo.words import tr

Colour = tuple[str, Array]
_NAME = 80  # some readers take no line of more than a hundred letters
_GPL_HEAD = "GIMP Palette"
MOST_COLOURS = 10_000
_LARGEST = 8 * 2**20
_COLUMNS = 8


def _one_line(text: str) -> str:
    return " ".join("".join(letter if letter >= " " else " " for letter in text).split())


def _rgb(lab: Array) -> Array:
    return np.asarray(srgb_from_lab(np.asarray(lab, dtype=float)))


# ---- GPL


def write_gpl(title: str, colours: Iterable[Colour]) -> str:
    """A palette of screen colours as drawing programs read it.

    Parameters
    ----------
    title : str
    colours : iterable of (name, CIELAB)
    """
    lines = [
        _GPL_HEAD,
        f"Name: {_one_line(title)[:_NAME]}",
        f"Columns: {_COLUMNS}",
        "# Made by Culmo; the nearest screen colours",
    ]
    for name, lab in colours:
        r, g, b = np.round(_rgb(lab) * 255.0).astype(int)
        lines.append(f"{r:3d} {g:3d} {b:3d}\t{_one_line(name)[:_NAME]}")
    return "\n".join([*lines, ""])


def read_gpl(path: Path) -> list[Colour]:
    """The colours of such a palette, (name, CIELAB).

    Raises
    ------
    CulmoError
        when it can not be read, is no palette, or holds no colour
    """
    return read_palette(path, GPL)


def _from_gpl(data: bytes, name: str) -> Iterator[Colour]:
    lines = data.decode("utf-8", errors="replace").splitlines()
    if not lines or lines[0].strip() != _GPL_HEAD:
        raise CulmoError(
            tr(
                '"{name}" is not a GPL palette: its first line must be "{GPL_HEAD}"',
                name=name,
                GPL_HEAD=_GPL_HEAD,
            )
        )
    for line in lines[1:]:
        match = re.match(r"^\s*(\d{1,3})\s+(\d{1,3})\s+(\d{1,3})(?:\s+(.*))?$", line)
        if match and all(int(match[i]) <= 255 for i in (1, 2, 3)):
            rgb = np.array([int(match[i]) for i in (1, 2, 3)]) / 255.0
            yield (match[4] or "").strip(), lab_from_srgb(rgb)


# ---- ASE: big-endian blocks; a colour is a name in UTF-16, a model of four letters, and 32 bit floats

_ASE_HEAD, _ASE_COLOUR, _ASE_GROUP, _ASE_GROUP_END = b"ASEF", 0x0001, 0xC001, 0xC002
_ASE_MODELS = {b"RGB ": 3, b"LAB ": 3, b"CMYK": 4, b"Gray": 1}


def write_ase(title: str, colours: Iterable[Colour]) -> bytes:
    """Swatches in one group, as screen colours: all readers know these.

    Parameters
    ----------
    title : str
    colours : iterable of (name, CIELAB)
    """
    blocks = [_ase_block(_ASE_GROUP, _ase_text(title))]
    for name, lab in colours:
        body = (
            _ase_text(name) + b"RGB " + struct.pack(">3f", *_rgb(lab)) + struct.pack(">H", 2)
        )  # an own colour
        blocks.append(_ase_block(_ASE_COLOUR, body))
    blocks.append(_ase_block(_ASE_GROUP_END, b""))
    return _ASE_HEAD + struct.pack(">HHI", 1, 0, len(blocks)) + b"".join(blocks)


def _ase_text(text: str) -> bytes:
    letters = (_one_line(text)[:_NAME] + "\0").encode("utf-16-be")
    return struct.pack(">H", len(letters) // 2) + letters


def _ase_block(kind: int, body: bytes) -> bytes:
    return struct.pack(">HI", kind, len(body)) + body


def _from_ase(data: bytes, name: str) -> Iterator[Colour]:
    if not data.startswith(_ASE_HEAD):
        raise CulmoError(tr('"{name}" is no file of swatches', name=name))
    at = 12
    while at + 6 <= len(data):
        kind, size = struct.unpack_from(">HI", data, at)
        body = data[at + 6 : at + 6 + size]
        at += 6 + size
        if kind == _ASE_COLOUR:
            colour = _ase_colour(body)
            if colour is not None:
                yield colour


def _ase_colour(body: bytes) -> Colour | None:
    """A colour of a block; None where it is cut short or of a model of its own."""
    try:
        (length,) = struct.unpack_from(">H", body)
        text = body[2 : 2 + 2 * length].decode("utf-16-be", errors="replace").rstrip("\0")
        model = body[2 + 2 * length : 6 + 2 * length]
        values = np.array(struct.unpack_from(f">{_ASE_MODELS[model]}f", body, 6 + 2 * length), dtype=float)
    except (struct.error, KeyError):
        return None
    if not np.isfinite(values).all():
        return None
    if model == b"LAB ":
        return text, lab_from_d50(values * [100.0, 1.0, 1.0])
    return text, lab_from_srgb(np.clip(_screen(values), 0.0, 1.0))


def _screen(values: Array) -> Array:
    """Screen colour of one, three or four parts: grey, screen colours, or four inks as they are usually reckoned."""
    if len(values) == 1:
        return np.repeat(values, 3)
    return values if len(values) == 3 else (1.0 - values[:3]) * (1.0 - values[3])


# ---- KPL: a zip with the colours as XML

_KPL_TYPE = "application/x-krita-palette"
_KPL_COLOURS = "colorset.xml"


def write_kpl(title: str, colours: Iterable[Colour]) -> bytes:
    """A palette with rows and columns, as screen colours.

    Parameters
    ----------
    title : str
    colours : iterable of (name, CIELAB)
    """
    entries = []
    listed = list(colours)
    for number, (name, lab) in enumerate(listed):
        r, g, b = _rgb(lab)
        row, column = divmod(number, _COLUMNS)
        entries.append(
            f' <ColorSetEntry bitdepth="F32" name={quoteattr(_one_line(name))} id="{number}" spot="false">\n'
            f'  <sRGB r="{r:.6f}" g="{g:.6f}" b="{b:.6f}"/>\n'
            f'  <Position row="{row}" column="{column}"/>\n </ColorSetEntry>'
        )
    rows = -(-len(listed) // _COLUMNS)
    size = f'columns="{_COLUMNS}" rows="{rows}" readonly="false"'
    head = f'<ColorSet version="2.0" name={quoteattr(_one_line(title))} comment="Made by Culmo" {size}>'
    text = "\n".join([head, *entries, "</ColorSet>", ""])
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        for part, content in (
            ("mimetype", _KPL_TYPE),
            (_KPL_COLOURS, text),
            ("profiles.xml", "<Profiles/>\n"),
        ):
            stored = zipfile.ZIP_STORED if part == "mimetype" else zipfile.ZIP_DEFLATED
            archive.writestr(zipfile.ZipInfo(part, (1980, 1, 1, 0, 0, 0)), content, compress_type=stored)
    return held.getvalue()


def _from_kpl(data: bytes, name: str) -> Iterator[Colour]:
    from defusedxml.common import DefusedXmlException
    from defusedxml.ElementTree import ParseError, fromstring

    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive, archive.open(_KPL_COLOURS) as part:
            text = part.read(_LARGEST + 1)
        if len(text) > _LARGEST:
            raise CulmoError(tr('"{name}" unpacks to more than a palette holds', name=name))
        entries = list(fromstring(text).iter("ColorSetEntry"))
    except (
        zipfile.BadZipFile, zlib.error, LookupError, ParseError, DefusedXmlException, ValueError, OSError,
        NotImplementedError, RuntimeError, EOFError,  # of zipfile: packed in a way it does not know, locked, cut short
    ):  # fmt: skip
        raise CulmoError(tr('"{name}" is no palette, or is damaged', name=name)) from None
    for entry in entries:
        for part_ in entry:
            values = _kpl_values(part_.tag, part_.attrib)
            if values is not None:
                yield entry.get("name", "").strip(), values
                break


def _kpl_values(tag: str, values: dict[str, str]) -> Array | None:
    """The colour of an entry, or None where it is no colour."""
    keys = {"sRGB": "rgb", "RGB": "rgb", "Gray": "g", "CMYK": "cmyk", "Lab": "Lab"}.get(tag)
    if keys is None:
        return None
    try:
        parts = np.array([float(values[key]) for key in keys])
    except (KeyError, ValueError):
        return None
    if not np.isfinite(parts).all():
        return None
    return lab_from_d50(parts) if tag == "Lab" else lab_from_srgb(np.clip(_screen(parts), 0.0, 1.0))


# ---- CSS and hex

_CSS_COLOUR = re.compile(
    r"(?:/\*(?P<before>[^*]*)\*/\s*)?(?:(?P<name>[-\w]+)\s*:\s*)(?P<hex>#[0-9a-fA-F]{6}\b|#[0-9a-fA-F]{3}\b)\s*;?"
    r"(?:[ \t]*/\*(?P<after>[^*]*)\*/)?"
)
_HEX_LINE = re.compile(r"^\s*#?(?P<hex>[0-9a-fA-F]{6}|[0-9a-fA-F]{3})(?:[\s,;]+(?P<name>.*))?$")


def _of_hex(text: str) -> Array:
    """The colour of three or six hex digits."""
    digits = text.lstrip("#")
    whole = "".join(2 * digit for digit in digits) if len(digits) == 3 else digits
    return lab_from_srgb(np.array([int(whole[at : at + 2], 16) for at in (0, 2, 4)]) / 255.0)


def write_css(title: str, colours: Iterable[Colour]) -> str:
    """Colours as custom properties of a style sheet, with the name of each beside it.

    Parameters
    ----------
    title : str
    colours : iterable of (name, CIELAB)
    """
    lines, taken = [f"/* {_comment(title)} */", ":root {"], set[str]()
    for number, (name, lab) in enumerate(colours, 1):
        own = re.sub(r"[^\w]+", "-", name.casefold()).strip("-") or f"colour-{number}"
        while own in taken:
            own = f"{own}-{number}"
        taken.add(own)
        lines.append(f"  --{own}: {hex_from_lab(lab)}; /* {_comment(name)} */")
    return "\n".join([*lines, "}", ""])


def _comment(text: str) -> str:
    return _one_line(text).replace("*/", "* /").replace("*", "\N{ASTERISK OPERATOR}")


def _from_css(data: bytes, name: str) -> Iterator[Colour]:
    for match in _CSS_COLOUR.finditer(data.decode("utf-8-sig", errors="replace")):
        told = (match["after"] or "").strip() or match["name"].lstrip("-").replace("-", " ").replace("_", " ")
        yield told, _of_hex(match["hex"])


def write_hex(title: str, colours: Iterable[Colour]) -> str:
    """A line for each colour: its hex code, and its name.

    Parameters
    ----------
    title : str, which such a list has no place for
    colours : iterable of (name, CIELAB)
    """
    return "".join(f"{hex_from_lab(lab)} {_one_line(name)}".rstrip() + "\n" for name, lab in colours)


def _from_hex(data: bytes, name: str) -> Iterator[Colour]:
    return hex_lines(data.decode("utf-8-sig", errors="replace").splitlines())


def hex_lines(lines: Iterable[str]) -> Iterator[Colour]:
    """The colours of lines that begin with a hex code; other lines are none."""
    for line in lines:
        match = _HEX_LINE.match(line)
        if match:
            yield (match["name"] or "").strip(), _of_hex(match["hex"])


# ---- all of them

_READERS: dict[Format, Callable[[bytes, str], Iterator[Colour]]] = {
    GPL: _from_gpl, ASE: _from_ase, KPL: _from_kpl, CSS: _from_css, HEX: _from_hex,
}  # fmt: skip
_WRITERS: dict[Format, Callable[[str, Iterable[Colour]], str | bytes]] = {
    GPL: write_gpl, ASE: write_ase, KPL: write_kpl, CSS: write_css, HEX: write_hex,
}  # fmt: skip
PALETTES: tuple[Format, ...] = tuple(_WRITERS)


def read_palette(path: Path, kind: Format) -> list[Colour]:
    """The colours of a palette, (name, CIELAB), D65.

    Parameters
    ----------
    path : Path
    kind : Format, one of PALETTES

    Raises
    ------
    CulmoError
        when it can not be read, is no palette, or holds no colour or more than MOST_COLOURS
    """
    found: list[Colour] = []
    for name, lab in _READERS[kind](read_file(path, _LARGEST), path.name):
        found.append((name, lab))
        if len(found) > MOST_COLOURS:
            raise CulmoError(
                tr(
                    '"{name}" holds more than {MOST_COLOURS} colours',
                    name=path.name,
                    MOST_COLOURS=MOST_COLOURS,
                )
            )
    if not found:
        raise CulmoError(tr('"{name}" holds no colours', name=path.name))
    return found


def palette_bytes(kind: Format, title: str, colours: Sequence[Colour]) -> bytes:
    """A palette as a file of some format.

    Parameters
    ----------
    kind : Format, one of PALETTES
    title : str
    colours : sequence of (name, CIELAB)
    """
    made = _WRITERS[kind](title, colours)
    return made if isinstance(made, bytes) else made.encode("utf-8")
