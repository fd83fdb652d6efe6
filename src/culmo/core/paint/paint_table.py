"""A list of paints from a spreadsheet: what each column holds, and each row as a line that could have been typed."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from culmo.core.paint.claims import claims_text, lightfastness_of, take_claims
from culmo.core.paint.pigments import codes_in
from culmo.errors import CulmoError
from culmo.words import tr

# what a column may be taken for, and the heads by which it is known, in every language that Culmo speaks
COLUMN_KINDS = (
    ("name", tr("Name")), ("codes", tr("Pigments")), ("claims", tr("The label says")),
    ("lightfastness", tr("Lightfastness")), ("note", tr("Note")), ("", tr("leave out")),
)  # fmt: skip
_HEADS = {
    "name": (
        "name", "paint", "paint name", "colour", "color", "colour name", "color name", "title",
        "farbe", "farbname", "farbton", "bezeichnung",
    ),
    "codes": (
        "codes", "code", "pigment", "pigments", "pigment code", "pigment codes", "colour index", "color index", "ci",
        "c.i.", "index", "pigmente", "pigmentcode", "pigmentcodes",
    ),
    "claims": (
        "transparency", "opacity", "staining", "granulation", "granulating", "label", "status",
        "transparenz", "deckkraft", "lasur", "färbung", "färbend", "granulierung", "granulierend", "etikett",
    ),
    "lightfastness": ("lightfastness", "permanence", "lightfast", "lichtechtheit"),
    "note": ("note", "notes", "remark", "remarks", "comment", "comments", "notiz", "notizen", "bemerkung", "anmerkung"),
}  # fmt: skip
_YES = ("yes", "y", "x", "1", "true", "high", "ja", "j", "wahr", "hoch", "stark")
_NO = ("no", "n", "0", "false", "none", "low", "nein", "falsch", "keine", "gering")
_YES_NO = {
    **dict.fromkeys(("staining", "färbung", "färbend"), "staining"),
    **dict.fromkeys(("granulation", "granulating", "granulierung", "granulierend"), "granulation"),
}
_MEANT = {"staining": ("low", "high"), "granulation": ("no", "medium")}  # by no and yes


@dataclass(frozen=True)
class PaintTable:
    """A table of paints, with what each of its columns is taken for.

    Attributes
    ----------
    rows : tuple of rows of text, all of one length, at least one
    kinds : tuple of str, for each column one of COLUMN_KINDS
    headed : bool, whether the first row names the columns
    name : str, of the page of the spreadsheet; empty where there is only one
    """

    rows: tuple[tuple[str, ...], ...]
    kinds: tuple[str, ...]
    headed: bool
    name: str = ""

    @property
    def titles(self) -> tuple[str, ...]:
        """What stands over each column: its name, or its first value."""
        return self.rows[0]

    def with_kind(self, column: int, kind: str) -> "PaintTable":
        """The same table with a column taken for something else."""
        return replace(self, kinds=tuple(kind if i == column else own for i, own in enumerate(self.kinds)))

    def lines(self) -> list[str]:
        """The paints, one a line, as they could have been typed; rows without a name or a code are left out."""
        lines = (self._line(row) for row in self.rows[int(self.headed) :])
        return [line for line in lines if line]

    def _line(self, row: Sequence[str]) -> str:
        by_kind: dict[str, list[str]] = {kind: [] for kind, _ in COLUMN_KINDS}
        for kind, title, cell in zip(self.kinds, self.titles, row, strict=True):
            text = re.sub(r"\s+", " ", cell).strip()
            if kind and text:
                by_kind[kind].append(_claim(title.strip() if self.headed else "", text, kind))
        alone = set(self.kinds) <= {"name", ""}  # such a column may hold whole lines
        named = [text if alone else _as_name(text, bool(by_kind["codes"])) for text in by_kind["name"]]
        if not named and not by_kind["codes"]:
            return ""
        claims = ", ".join([*by_kind["claims"], *by_kind["lightfastness"]])
        notes = "; ".join(by_kind["note"])
        parts = (*named, *by_kind["codes"], claims, notes and f"note: {notes}")
        return " \t".join(part for part in parts if part)


def table_of(rows: Sequence[Sequence[str]], name: str = "") -> PaintTable:
    """A table, its columns taken for what their heads say; where no head is known, as they stand.

    Parameters
    ----------
    rows : sequence of rows of text, of any lengths
    name : str, of the page

    Raises
    ------
    CulmoError
        when there is nothing in it
    """
    filled = [tuple(row) for row in rows if any(cell.strip() for cell in row)]
    if not filled:
        raise CulmoError(tr("there is nothing in the table"))
    width = max(len(row) for row in filled)
    even = tuple((*row, *[""] * (width - len(row))) for row in filled)
    kinds = tuple(
        next((kind for kind, heads in _HEADS.items() if plain(cell) in heads), "") for cell in even[0]
    )
    if "name" in kinds or "codes" in kinds:
        return PaintTable(even, kinds, True, name)
    return PaintTable(even, ("name", *["codes"] * (width - 1)), False, name)


def plain(title: str) -> str:
    """The head of a column without regard to case, spaces and lines below."""
    return re.sub(r"[\s_]+", " ", title).strip().casefold()


def _as_name(text: str, has_codes: bool) -> str:
    """A cell of the column of names; in quotes where a typed line would take a part of it for something else."""
    claims = take_claims(text)
    parted = re.search(r'[,;:|"]|\s[–—-]\s|^\d+$', text) or (claims.values and not claims.head)
    if not parted or not (has_codes or not codes_in(text)):
        return text
    return '"' + text.replace('"', '""') + '"'


def _claim(title: str, cell: str, kind: str) -> str:
    """A cell of a table in the words of the entry line."""
    folded, said = cell.casefold(), _YES_NO.get(plain(title), "")
    if kind == "claims" and said:
        meant = claims_text({said: folded})  # the table's own words, as Culmo writes them
        if meant:
            return meant
        if folded in (*_YES, *_NO):
            return claims_text({said: _MEANT[said][folded in _YES]})
    if kind == "lightfastness":
        word = lightfastness_of(cell)
        if word:
            return claims_text({"lightfastness": word})
        return cell if take_claims(cell).values.get("lightfastness") else f"{title} {cell}".strip()
    return cell
