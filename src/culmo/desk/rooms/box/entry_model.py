"""Many paints at once: a pasted list or a table, understood line by line, with the questions that it raises."""

import csv
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from culmo.core.chart.box import BoxShape, fitting_shape
from culmo.core.paint.entry import PaintLine, free_name, parse_line, parse_list, twins
from culmo.core.paint.label import GRAIN_WORDS, STAINING_WORDS
from culmo.core.paint.pigments import Pigment
from culmo.errors import CulmoError
from culmo.study.acts import NAME_LIMIT, PaintEntry
from culmo.study.box_acts import NewBox
from culmo.study.tables import SIZE_LIMIT
from culmo.words import tr, trn

LEAVE_OUT, KEEP_BOTH, AS_TYPED = tr("leave out"), tr("keep both"), tr("as typed")
GRAIN_OF = {"no": 0.02, "slight": 0.12, "medium": 0.25, "high": 0.4}
LABEL_KEYS = ("transparency", "staining", "granulation", "lightfastness")
_TYPED = {
    ("staining", "low"): tr("non-staining"), ("staining", "medium"): tr("semi-staining"),
    ("staining", "high"): tr("staining"),
    ("granulation", "no"): tr("non-granulating"), ("granulation", "slight"): tr("slightly granulating"),
    ("granulation", "medium"): tr("granulating"), ("granulation", "high"): tr("strongly granulating"),
}  # fmt: skip
_COLUMNS = {
    "name": ("name", "paint", "colour", "color", "colour name", "color name", "title"),
    "codes": ("codes", "code", "pigment", "pigments", "pigment code", "colour index", "color index", "ci", "index"),
    "claims": ("transparency", "opacity", "staining", "granulation", "granulating", "note", "notes", "label", "status"),
    "lightfastness": ("lightfastness", "permanence", "lightfast"),
}  # fmt: skip


def claims_text(claims: Mapping[str, str]) -> str:
    """What a label claims, as it may be typed again."""
    words = [
        tr(claims.get("transparency", "")),
        _TYPED.get(("staining", claims.get("staining", "")), ""),
        _TYPED.get(("granulation", claims.get("granulation", "")), ""),
        tr("fugitive") if claims.get("lightfastness") == "poor" else "",
    ]
    return ", ".join(word for word in words if word)


def spoken_claims(claims: Mapping[str, str]) -> str:
    """What a line said besides name and codes, to read."""
    words = [
        tr(claims.get("transparency", "")),
        STAINING_WORDS.get(claims.get("staining", ""), ""),
        GRAIN_WORDS.get(claims.get("granulation", ""), ""),
        {"poor": tr("fades"), "fair": tr("lightfast: fair")}.get(claims.get("lightfastness", ""), ""),
        {"sample": tr("a sample"), "wished": tr("only considered")}.get(claims.get("status", ""), ""),
        tr("full pan") if claims.get("pan") == "full" else "",
    ]
    return ", ".join(word for word in words if word)


@dataclass
class EntryRow:
    """A line with its questions.

    Attributes
    ----------
    line : PaintLine
    twin : str, the paint of that name that there is already; empty where there is none
    twin_answer : str, LEAVE_OUT or KEEP_BOTH
    codes : dict from unknown code to what it stands for, AS_TYPED or a near code
    """

    line: PaintLine
    twin: str = ""
    twin_answer: str = KEEP_BOTH
    codes: dict[str, str] = field(default_factory=dict)

    @property
    def too_long(self) -> bool:
        """Whether the name is longer than a paint's name may be."""
        return len(self.line.name) > NAME_LIMIT

    @property
    def codes_text(self) -> str:
        """The codes with the answers in them."""
        wanted = [self.codes.get(code, code) for code in self.line.codes]
        chosen = [code if new == AS_TYPED else new for code, new in zip(self.line.codes, wanted, strict=True)]
        return " + ".join(chosen)


class EntryList:
    """A pasted list while it is looked at; answers stay while the text is edited."""

    def __init__(self, known: Sequence[str], table: Mapping[str, Pigment]) -> None:
        self.known, self.table = list(known), table
        self.rows: list[EntryRow] = []
        self._twin_answers: dict[str, str] = {}
        self._code_answers: dict[str, str] = {}

    def set_text(self, text: str) -> None:
        """Read the list anew."""
        lines = parse_list(text, self.table)
        repeats = twins([line.name for line in lines], self.known)
        self.rows = []
        for line, twin in zip(lines, repeats, strict=True):
            row = EntryRow(line, twin or "")
            row.twin_answer = self._twin_answers.get(line.name.casefold(), LEAVE_OUT if twin else KEEP_BOTH)
            for unknown in line.unknown:
                row.codes[unknown.code] = self._code_answers.get(unknown.code, AS_TYPED)
            self.rows.append(row)

    def answer_twin(self, row: EntryRow, answer: str) -> None:
        """What to do with a name that there is already."""
        row.twin_answer = self._twin_answers[row.line.name.casefold()] = answer

    def answer_code(self, row: EntryRow, code: str, answer: str) -> None:
        """What an unknown code stands for, wherever it occurs."""
        self._code_answers[code] = answer
        for other in self.rows:
            if code in other.codes:
                other.codes[code] = answer

    def kept(self) -> list[EntryRow]:
        """The rows that will be taken in."""
        return [
            row for row in self.rows if not (row.twin and row.twin_answer == LEAVE_OUT) and not row.too_long
        ]

    def entries(self) -> list[PaintEntry]:
        """The paints, each with a name of its own."""
        taken = list(self.known)
        result = []
        for row in self.kept():
            entry = entry_of(row.line, free_name(row.line.name, taken), row.codes_text)
            taken.append(entry.name)
            result.append(entry)
        return result

    def pans(self) -> dict[int, str]:
        """Which of the entries lie in full pans."""
        return {i: row.line.claims["pan"] for i, row in enumerate(self.kept()) if "pan" in row.line.claims}

    def wells_needed(self) -> int:
        """How many wells they take; those only considered take none."""
        return sum(row.line.claims.get("status") != "wished" for row in self.kept())

    def new_box(self, name: str) -> NewBox:
        """A box that just holds them."""
        rows, columns = fitting_shape(max(self.wells_needed(), 1))
        return NewBox(name, BoxShape(rows, columns, {}))

    def summary(self) -> str:
        """What will happen, in a line."""
        kept, out = len(self.kept()), len(self.rows) - len(self.kept())
        words = trn("{n} paint understood", "{n} paints understood", kept)
        unknown = sum(answer == AS_TYPED for row in self.kept() for answer in row.codes.values())
        if unknown:
            words += trn("; {n} code not in the table", "; {n} codes not in the table", unknown)
        if out:
            words += tr("; {out} left out", out=out)
        return words


def entry_of(line: PaintLine, name: str, codes: str) -> PaintEntry:
    """What a line says, as the particulars of a paint."""
    label = {key: line.claims[key] for key in LABEL_KEYS if key in line.claims}
    grain = GRAIN_OF.get(line.claims.get("granulation", ""))
    return PaintEntry(name, codes, line.claims.get("status", "owned"), grain, "", label)


def completions(text: str, table: Mapping[str, Pigment]) -> tuple[PaintLine, str]:
    """A line as understood, and how it reads."""
    line = parse_line(text, table)
    words = [f'"{line.name}"'] if line.name else []
    words += [
        table[code].name if code in table else tr("{code}: not in the table", code=code)
        for code in line.codes
    ]
    spoken = spoken_claims(line.claims)
    return line, ", ".join([*words, spoken] if spoken else words)


COLUMN_KINDS = (
    ("name", tr("Name")), ("codes", tr("Pigments")), ("claims", tr("The label says")),
    ("lightfastness", tr("Lightfastness")), ("", tr("leave out")),
)  # fmt: skip


@dataclass(frozen=True)
class PaintTable:
    """A table of paints from a spreadsheet, with what each of its columns is taken for.

    Attributes
    ----------
    rows : tuple of rows of text
    kinds : tuple of str, for each column one of COLUMN_KINDS
    headed : bool, whether the first row names the columns
    """

    rows: tuple[tuple[str, ...], ...]
    kinds: tuple[str, ...]
    headed: bool

    @property
    def titles(self) -> tuple[str, ...]:
        """What stands over each column: its name, or its first value."""
        return self.rows[0]

    def with_kind(self, column: int, kind: str) -> "PaintTable":
        """The same table with a column taken for something else."""
        return replace(self, kinds=tuple(kind if i == column else own for i, own in enumerate(self.kinds)))

    def lines(self) -> str:
        """The paints, one a line, as they could have been typed."""
        lines = []
        for row in self.rows[int(self.headed) :]:
            by_kind: dict[str, list[str]] = {kind: [] for kind, _ in COLUMN_KINDS}
            for kind, title, cell in zip(self.kinds, self.titles, row, strict=False):
                if kind and cell.strip():
                    by_kind[kind].append(_claim(_plain(title), cell.strip(), kind))
            named = [*by_kind["name"], *by_kind["codes"]]
            faded = [word for word in by_kind["lightfastness"] if word]
            lines.append(" \t".join([*named, ", ".join([*by_kind["claims"], *faded])]).strip())
        return "\n".join(line for line in lines if line)


def paint_table(path: Path) -> PaintTable:
    """The table in a file; columns are taken for what their names say, where none is known as they stand.

    Raises
    ------
    CulmoError
        when the file can not be read
    """
    rows = _csv_rows(path)
    width = max(len(row) for row in rows)
    filled = tuple((*row, *[""] * (width - len(row))) for row in rows)
    head = [_plain(cell) for cell in filled[0]]
    kinds = tuple(next((kind for kind, words in _COLUMNS.items() if cell in words), "") for cell in head)
    if "name" in kinds or "codes" in kinds:
        return PaintTable(filled, kinds, True)
    return PaintTable(filled, ("name", *["codes"] * (width - 1)), False)


def _plain(title: str) -> str:
    return re.sub(r"[\s_]+", " ", title).strip().casefold()


def _claim(title: str, cell: str, kind: str) -> str:
    """A cell of a table in the words of the entry line."""
    folded = cell.casefold()
    if title in ("staining", "granulation", "granulating"):
        word = "staining" if title == "staining" else "granulating"
        if folded in ("yes", "y", "x", "1", "true", "high"):
            return word
        if folded in ("no", "n", "0", "false", "none", "low"):
            return f"non-{word}"
    if kind == "lightfastness":
        return "fugitive" if folded in ("poor", "fugitive", "iii", "iv", "v") else ""
    return cell


def _csv_rows(path: Path) -> list[list[str]]:
    try:
        if path.stat().st_size > SIZE_LIMIT // 64:
            raise CulmoError(tr('"{name}" is too large for a list of paints', name=path.name))
        text = path.read_text(encoding="utf-8-sig")
    except OSError as error:
        raise CulmoError(
            tr('"{path}" can not be read: {value}', path=path, value=error.strerror or error)
        ) from None
    except UnicodeDecodeError:
        raise CulmoError(tr('"{name}" is not text in UTF-8', name=path.name)) from None
    first = text.splitlines()[0] if text.strip() else ""
    mark = max((",", ";", "\t"), key=first.count)
    try:
        rows = [
            row for row in csv.reader(text.splitlines(), delimiter=mark) if any(cell.strip() for cell in row)
        ]
    except csv.Error as error:
        raise CulmoError(tr('"{name}" is not a table ({error})', name=path.name, error=error)) from None
    if not rows:
        raise CulmoError(tr('"{name}" is empty', name=path.name))
    return rows
