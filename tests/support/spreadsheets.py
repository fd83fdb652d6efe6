"""Spreadsheet files as other programs write them: Office Open XML by a library of its own, OpenDocument by hand."""

import zipfile
from pathlib import Path
from xml.sax.saxutils import escape, quoteattr

_NAMES = (
    'xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" '
    'xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" '
    'xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"'
)
MIME = "application/vnd.oasis.opendocument.spreadsheet"


def write_xlsx(path: Path, **pages) -> Path:
    """A workbook with a page for each name; of a cell (value, width) the width is nothing here."""
    import xlsxwriter

    with xlsxwriter.Workbook(path) as book:
        dated = book.add_format({"num_format": "yyyy-mm-dd"})
        for name, rows in pages.items():
            page = book.add_worksheet(name)
            for y, row in enumerate(rows):
                for x, value in enumerate(row):
                    if hasattr(value, "year"):
                        page.write_datetime(y, x, value, dated)
                    elif value is not None:
                        page.write(y, x, value)
    return path


def ods_cell(value, repeated: int = 1, remark: str = "") -> str:
    """A cell as an office program writes it, with what it is shown as and what it is."""
    again = f' table:number-columns-repeated="{repeated}"' if repeated > 1 else ""
    if value is None:
        return f"<table:table-cell{again}/>"
    if isinstance(value, bool):
        kind, shown = f'office:value-type="boolean" office:boolean-value="{str(value).lower()}"', "WAHR"
    elif isinstance(value, int | float):
        kind, shown = f'office:value-type="float" office:value="{value}"', f"{value:.1f}".replace(".", ",")
    elif hasattr(value, "isoformat"):
        kind, shown = f'office:value-type="date" office:date-value="{value.isoformat()}"', "1. Mai"
    else:
        kind, shown = 'office:value-type="string"', value
    note = f"<office:annotation><text:p>{remark}</text:p></office:annotation>" if remark else ""
    lines = "".join(f"<text:p>{escape(line)}</text:p>" for line in shown.split("\n"))
    return f"<table:table-cell {kind}{again}>{note}{lines}</table:table-cell>"


def ods_row(*cells: str, repeated: int = 1) -> str:
    """A row of cells."""
    again = f' table:number-rows-repeated="{repeated}"' if repeated > 1 else ""
    return f"<table:table-row{again}>{''.join(cells)}</table:table-row>"


def write_ods(path: Path, content: str = "", **pages) -> Path:
    """A document with a page for each name, of rows as `ods_row` gives them, or with a content of one's own."""
    tables = "".join(
        f"<table:table table:name={quoteattr(name)}>{''.join(rows)}</table:table>"
        for name, rows in pages.items()
    )
    body = f"<office:body><office:spreadsheet>{tables}</office:spreadsheet></office:body>"
    text = (
        content or f'<?xml version="1.0"?><office:document-content {_NAMES}>{body}</office:document-content>'
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", MIME, zipfile.ZIP_STORED)
        archive.writestr("content.xml", text)
    return path
