"""Paints as a painter types them: one line understood as it is typed, or a pasted list."""

import re
import unicodedata
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from culmo.core.paint.claims import GAP, Claims, take_claims
from culmo.core.paint.pigments import COLOURS, Pigment, codes_in

MOST_LINES = 1000
_SURENESS = {"good": 0, "fair": 1, "rough": 2}  # the commoner a pigment, the surer its entry
LONGEST_LINE = 2000
# anything that is shaped like a Colour Index name, known or not
_CODE_SHAPE = re.compile(
    r"(?<![\w-])(P[A-Z]{1,2}|N[A-Z]{1,2})[\s.]?(\d{1,4})((?::\d)?)(?!\w|:\d)", re.IGNORECASE
)
_BULLET = re.compile(r"^\s*(?:[-*•·–—]\s+|\d{1,3}[.)]\s+)")
_JOINTS = re.compile(r"^[\s,;:|+/&)\]–—-]+|[\s,;:|+/&(\[–—-]+$")
_QUOTED = re.compile(r'\s*"((?:[^"]|"")+)"')
_NOTE = re.compile(r"(?:^|[\s,;])(?:note|notiz):\s*(.*)$", re.IGNORECASE | re.DOTALL)


@dataclass(frozen=True)
class UnknownCode:
    """A code that the table does not have, with the near ones that it has."""

    code: str
    near: tuple[str, ...]


@dataclass(frozen=True)
class PaintLine:
    """A line as understood.

    Attributes
    ----------
    text : str, as typed
    name : str, what is left when codes and claims are taken out; the pigment's name where nothing is
    codes : tuple of str, Colour Index names in their usual spelling, known or not
    unknown : tuple of UnknownCode
    claims : mapping, what the line says: transparency, staining, granulation, lightfastness, status, pan
    note : str, what else it says, and what follows "note:"
    """

    text: str
    name: str
    codes: tuple[str, ...] = ()
    unknown: tuple[UnknownCode, ...] = ()
    claims: Mapping[str, str] = field(default_factory=dict)
    note: str = ""

    @property
    def codes_text(self) -> str:
        """The codes as on a label."""
        return " + ".join(self.codes)


def _usual(head: str, number: str, tail: str) -> str:
    usual = {known.casefold(): known for known in COLOURS}
    return f"{usual.get(head.casefold(), head.upper())}{int(number)}{tail}"


def near_codes(code: str, table: Mapping[str, Pigment], most: int = 4) -> tuple[str, ...]:
    """Known codes that a mistyped one may have meant: a digit wrong, missing, doubled or swapped, or another colour.

    Parameters
    ----------
    code : str
    table : from Colour Index name to Pigment
    most : int

    Returns
    -------
    tuple of str, the likeliest first

    Examples
    --------
    >>> near_codes("PB92", dict.fromkeys(["PB29", "PB28", "PY42", "PG7"]))
    ('PB29', 'PB28')
    """

    def split(text: str) -> tuple[str, str]:
        found = re.match(r"([A-Za-z]+)(.*)", text)
        return (found[1].casefold(), found[2]) if found else ("", text)

    head, number = split(code)
    ranked = []
    for place, known in enumerate(table):
        other_head, other_number = split(known)
        away = _edits(number.split(":")[0], other_number.split(":")[0])
        if other_head == head:
            cost = away
        elif away == 0 or (away == 1 and other_head[:2] == head[:2] and len(number) > 1):
            cost = away + 1
        else:
            continue
        if cost <= (1 if len(number) < 2 and other_head == head else 2) and (cost < 2 or len(number) > 1):
            ranked.append((cost, other_head != head, place, known))
    return tuple(known for *_, known in sorted(ranked)[:most] if known != code)


def _edits(a: str, b: str) -> int:
    """Letters to change, add, drop or swap with the next (the restricted Damerau-Levenshtein distance)."""
    rows = [list(range(len(b) + 1))]
    for i, letter in enumerate(a, 1):
        row = [i]
        for j, other in enumerate(b, 1):
            cost = min(rows[-1][j] + 1, row[-1] + 1, rows[-1][j - 1] + (letter != other))
            if i > 1 and j > 1 and letter == b[j - 2] and a[i - 2] == other:
                cost = min(cost, rows[-2][j - 2] + 1)
            row.append(cost)
        rows.append(row)
    return rows[-1][-1]


def parse_line(text: str, table: Mapping[str, Pigment]) -> PaintLine:
    """A paint from one line: a name, its codes and what the label claims, in any order; what is left is its note.

    A name in double quotes is taken as it stands. A claim that begins a name belongs to it too ("Opaque white").

    Parameters
    ----------
    text : str, such as `Green PG7 + PY150, granulating`; longer than 2000 letters is cut
    table : from Colour Index name to Pigment

    Examples
    --------
    >>> line = parse_line("Green PG7 + py 150, granulating, old tube", {"PG7": None, "PY150": None})
    >>> line.name, line.codes, line.claims, line.note
    ('Green', ('PG7', 'PY150'), {'granulation': 'medium'}, 'old tube')
    """
    line = unicodedata.normalize("NFC", text.strip())[:LONGEST_LINE]
    line = "".join(letter if ord(letter) >= 32 else GAP if letter == "\t" else " " for letter in line)
    said = _NOTE.search(line)
    line, note = (line[: said.start()], said[1].strip()) if said else (line, "")
    quoted = _QUOTED.match(line)
    if quoted and quoted[1].strip(' "'):
        line = GAP + line[quoted.end() :]
    rest, codes = _take_codes(line, table)
    claims = take_claims(rest)
    name, left = (_tidy(quoted[1].replace('""', '"')), pieces_of(claims.rest)) if quoted else _named(claims)
    values = claims.values
    if not name and not codes:
        name, *left = pieces_of(rest) or [""]  # a paint may be called by what would else be a claim
        values = {}
    unknown = tuple(UnknownCode(code, near_codes(code, table)) for code in codes if code not in table)
    if not name and codes:
        pigment = table.get(codes[0])
        name = _pigment_title(pigment) if pigment is not None else " ".join(codes)
    return PaintLine(text, name, codes, unknown, values, ", ".join([*left, *([note] if note else [])]))


def _take_codes(line: str, table: Mapping[str, Pigment]) -> tuple[str, tuple[str, ...]]:
    """A line without its codes, and the codes."""
    rest, codes = line, []
    for match in _CODE_SHAPE.finditer(line):
        code = _usual(*match.groups())
        # letters that name no colour may be a part of the name ("Pen 12"), unless they are written as a code
        if not codes_in(code) and code not in table and not re.fullmatch(r"[A-Z]{2}[a-z]?\d{1,4}", match[0]):
            continue
        codes.append(code)
        rest = rest.replace(match[0] + "?", GAP).replace(match[0], GAP)
    return rest, tuple(dict.fromkeys(codes))


def _named(claims: Claims) -> tuple[str, list[str]]:
    """The piece of a line that is the name, the first that holds a letter, and the pieces after it."""
    pieces = pieces_of(f"{claims.head}{claims.rest}")
    lettered = [i for i, piece in enumerate(pieces) if any(letter.isalpha() for letter in piece)]
    first = lettered[0] if lettered else 0  # a number before the name is the line's own
    return (pieces[first], pieces[first + 1 :]) if pieces else ("", [])


def pieces_of(text: str) -> list[str]:
    """A text in pieces, as commas, tabs and dashes part it; signs alone are none."""
    text = re.sub(r"\([\s+/&,]*\)|\[[\s+/&,]*\]", " ", text)  # brackets that held codes alone
    pieces = [_tidy(_JOINTS.sub("", piece)) for piece in re.split(r"\t|[,;|]\s|\s[–—-]\s", text)]
    return [piece for piece in pieces if any(letter.isalnum() for letter in piece)]


def _tidy(text: str) -> str:
    return re.sub(r"\s+", " ", text).strip()


def _pigment_title(pigment: Pigment) -> str:
    name = pigment.name.split(",")[0].strip()
    return name[:1].upper() + name[1:]


def parse_list(text: str, table: Mapping[str, Pigment]) -> list[PaintLine]:
    """Paints from a pasted list, one a line; bullets, numbers, headings ("Blues:") and empty lines are passed over.

    Parameters
    ----------
    text : str, of which the first 1000 lines are read
    table : from Colour Index name to Pigment
    """
    lines = [_BULLET.sub("", line) for line in text.splitlines()[:MOST_LINES]]
    return parse_lines([line for line in lines if not line.rstrip().endswith(":")], table)


def parse_lines(lines: Iterable[str], table: Mapping[str, Pigment]) -> list[PaintLine]:
    """The lines that name a paint.

    Parameters
    ----------
    lines : iterable of str
    table : from Colour Index name to Pigment
    """
    found = (parse_line(line, table) for line in lines if line.strip())
    return [line for line in found if line.name]


@dataclass(frozen=True)
class Completion:
    """What the word under the cursor may become.

    Attributes
    ----------
    text : str, the whole line with the word completed
    code, words : str, the pigment's code and its name, to show
    """

    text: str
    code: str
    words: str


def complete(text: str, table: Mapping[str, Pigment], most: int = 8) -> list[Completion]:
    """What may follow: codes by their beginning, pigments by a word of their name.

    A word of a name becomes a name and its code; the beginning of a code becomes the code.

    Parameters
    ----------
    text : str, the line up to the cursor
    table : from Colour Index name to Pigment
    most : int
    """
    found = re.search(r"([A-Za-z]{1,3}\s?\d*(?::\d?)?)$", text)
    tail = found[1] if found else ""
    typed = re.sub(r"\s", "", tail).casefold()
    results = []
    ranked = sorted(table.items(), key=lambda entry: _SURENESS.get(entry[1].sure, 3))
    if len(typed) >= 2 and any(
        typed.startswith(head.casefold()) or head.casefold().startswith(typed) for head in COLOURS
    ):
        before = text[: len(text) - len(tail)]
        for code, pigment in ranked:
            if code.casefold().startswith(typed) and code.casefold() != typed:
                results.append(Completion(before + code, code, pigment.name))
    words = text.strip().casefold()
    if len(words) >= 3 and not codes_in(text):
        for code, pigment in ranked:
            name = pigment.name.casefold()
            if re.search(rf"(?<!\w){re.escape(words)}", name):
                results.append(Completion(f"{_name_for(text, pigment)} {code}", code, pigment.name))
    unique = {entry.text: entry for entry in results}
    return list(unique.values())[:most]


def _name_for(typed: str, pigment: Pigment) -> str:
    title = _pigment_title(pigment)
    return title if title.casefold().startswith(typed.strip().casefold()) else typed.strip()


def twins(names: Sequence[str], known: Sequence[str]) -> list[str | None]:
    """For each name the one that it repeats: in the box, or earlier in the list; None where it is new.

    Parameters
    ----------
    names : sequence of str
    known : sequence of str, of the box
    """
    seen = {name.strip().casefold(): name for name in known}
    result: list[str | None] = []
    for name in names:
        folded = name.strip().casefold()
        result.append(seen.get(folded))
        seen.setdefault(folded, name)
    return result


def free_name(name: str, known: Sequence[str]) -> str:
    """The name, with the first number that makes it one of its own.

    Parameters
    ----------
    name : str
    known : sequence of str

    Examples
    --------
    >>> free_name("Rose", ["rose", "Rose 2"])
    'Rose 3'
    """
    taken = {other.strip().casefold() for other in known}
    if name.strip().casefold() not in taken:
        return name.strip()
    number = 2
    while f"{name.strip()} {number}".casefold() in taken:
        number += 1
    return f"{name.strip()} {number}"
