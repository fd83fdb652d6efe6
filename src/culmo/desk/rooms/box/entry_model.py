"""Many paints at once: a pasted list or a table, understood line by line, with the questions that it raises."""

import csv
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from culmo.core.chart.box import BoxShape, fitting_shape
from culmo.core.paint.claims import spoken_claims
from culmo.core.paint.entry import MOST_LINES, PaintLine, free_name, parse_line, parse_list, twins
from culmo.core.paint.paint_table import PaintTable, table_of
from culmo.core.paint.pigments import Pigment
from culmo.errors import CulmoError
from culmo.study.acts import NAME_LIMIT, PaintEntry
from culmo.study.box_acts import NewBox
from culmo.study.paint_lists import entry_of
from culmo.study.spreadsheet import rows_in
from culmo.words import tr, trn

LEAVE_OUT, KEEP_BOTH, AS_TYPED = tr("leave out"), tr("keep both"), tr("as typed")


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
        self.cut = False
        self._twin_answers: dict[str, str] = {}
        self._code_answers: dict[str, str] = {}

    def set_text(self, text: str) -> None:
        """Read the list anew."""
        lines = parse_list(text, self.table)
        self.cut = len(text.splitlines()) > MOST_LINES
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
            words += "; " + trn("{n} code not in the table", "{n} codes not in the table", unknown)
        if out:
            words += "; " + tr("{out} left out", out=out)
        if self.cut:
            words += "; " + tr("only the first {n} lines are read", n=MOST_LINES)
        return words


def completions(text: str, table: Mapping[str, Pigment]) -> tuple[PaintLine, str]:
    """A line as understood, and how it reads."""
    line = parse_line(text, table)
    words = [f'"{line.name}"'] if line.name else []
    words += [
        table[code].name if code in table else tr("{code}: not in the table", code=code)
        for code in line.codes
    ]
    return line, ", ".join([*words, *([spoken] if (spoken := spoken_line(line)) else [])])


def spoken_line(line: PaintLine) -> str:
    """What a line says besides name and codes, to read: its claims and its note."""
    claims = spoken_claims(line.claims)
    note = tr('note: "{note}"', note=line.note) if line.note else ""
    return "; ".join(part for part in (claims, note) if part)


def pasted_table(text: str) -> PaintTable | None:
    """The table in a text that a spreadsheet gave, where its first row names columns; else None."""
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) < 2 or "\t" not in lines[0]:
        return None
    try:
        table = table_of(rows_in(text))
    except (CulmoError, csv.Error):
        return None
    return table if table.headed else None
