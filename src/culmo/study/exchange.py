"""A whole study out to a folder of open files and back with nothing lost; sheets and palettes of colours in open forms."""

import base64
import json
from collections.abc import Generator, Mapping, Sequence
from contextlib import suppress
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from culmo.core.chart.sheet import Sheet, sheet_from_dict, sheet_to_dict
from culmo.core.colour.spectral import Array
from culmo.core.paint.claims import LABEL_KEYS
from culmo.core.paint.readings import PAPER
from culmo.core.steps import scaled
from culmo.errors import CulmoError
from culmo.study.cgats import write_cgats
from culmo.study.doors import check_name, read_file
from culmo.study.file import Change, Command, Study
from culmo.study.inspection import problems_of_study
from culmo.study.palette_files import PALETTES, palette_bytes
from culmo.study.patch_files import found_in, kept_path, putting_out
from culmo.study.patches import bare_rows
from culmo.study.photo_files import MOST_BYTES, bring_pictures, confined, remove
from culmo.study.records import json_of, sheet_record
from culmo.study.row_reading import reading_of
from culmo.study.schema import ADDED, TABLES, VERSION
from culmo.study.spreadsheet import harmless
from culmo.study.tables import SIZE_LIMIT, cells_csv, write_rows
from culmo.study.unfinished import Unfinished, keep_unfinished, unfinished
from culmo.study.whole_file import whole_folder
from culmo.words import tr

STUDY_FORMAT, STUDY_FILE = "culmo-study", "study.json"
FORM_VERSION = 1
# what was added since the first of these may be absent
SCHEMAS = range(4, VERSION + 1)
_PICTURES = "pictures"
_BARE = "-"  # the recipe of the bare ground


# ---- JSON from outside


def read_json(path: Path) -> Any:
    """JSON from a file that may be hostile: bounded in size and depth.

    Raises
    ------
    CulmoError
        when it can not be read, is too large, is not JSON, or is nested too deeply
    """
    try:
        return json.loads(read_file(path, SIZE_LIMIT).decode("utf-8"))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        raise CulmoError(tr('"{name}" is not JSON ({error})', name=path.name, error=error)) from None


def read_sheets(path: Path) -> list[Sheet]:
    """The sheets of a file: one, or those under "sheets".

    Raises
    ------
    CulmoError
        when the file can not be read or is no sheet
    """
    data = read_json(path)
    several = data.get("sheets") if isinstance(data, dict) else None
    if isinstance(several, list) and several:
        return [sheet_from_dict(entry) for entry in several]
    return [sheet_from_dict(data)]


# ---- palettes of colours (GPL)


def file_name(text: str, fallback: str) -> str:
    """A name that any file system takes.

    Examples
    --------
    >>> file_name("Greens: 1/2", "sheet")
    'Greens_ 1_2'
    """
    plain = "".join(c if c.isalnum() or c in " .-_," else "_" for c in text).strip(". ")[:80]
    return plain or fallback


# ---- readings and paints as tables


def readings_csv(study: Study) -> str:
    """All readings in the open form; columns that Culmo did not know when they came are among them again."""
    sheets = {row["id"]: row["title"] for row in study.rows("sheets")}
    cells = {row["id"]: row["cell"] for row in study.rows("cells")}
    rows = study.rows("readings")
    extras = list(dict.fromkeys(key for row in rows for key in json_of(row, "extra")))
    columns = [
        "recipe", "ground", "L", "a", "b", "sheet", "cell", "paper", "source", "taken", "dry_hours", "granulation",
        "separation", "note", "treatment", "trust", "mixing",
    ]  # fmt: skip
    table = []
    for row in rows:
        extra = json_of(row, "extra")
        own = {**row, "sheet": sheets.get(row["sheet_id"], ""), "cell": cells.get(row["cell_id"], "")}
        texts = ["" if own[c] is None else own[c] for c in columns]
        table.append([_cell(text) for text in (*texts, *(extra.get(key, "") for key in extras))])
    return write_rows([*columns, *(harmless(str(key)) for key in extras)], table)


def _cell(value: object) -> object:
    return harmless(value) if isinstance(value, str) else value


def paints_csv(study: Study) -> str:
    """The paints with their codes, and what their labels claim, in words that are understood when they come in again."""
    rows = []
    for row in study.rows("paints", order="position, id"):
        claims = json_of(row, "label")
        texts = [
            row["name"],
            row["codes"],
            row["status"],
            *(str(claims.get(key, "")) for key in LABEL_KEYS),
            row["note"],
        ]
        rows.append([*map(harmless, texts), row["retired"]])
    return write_rows(["name", "codes", "status", *LABEL_KEYS, "note", "retired"], rows)


# ---- out


def exporting(study: Study, folder: Path) -> Generator[float, None, list[Path]]:
    """Write a study into a folder: `study.json` with everything, and the open forms beside it; yields its progress.

    Raises
    ------
    CulmoError
        when the folder holds something already, or can not be written
    """
    with whole_folder(folder) as part:
        yield from filling(study, part)
    return sorted(path for path in folder.rglob("*") if path.is_file())


def filling(study: Study, folder: Path) -> Generator[float, None, None]:
    """As `exporting`, into a folder that is there already and empty."""

    def write(name: str, text: str | bytes) -> None:
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(text.encode("utf-8") if isinstance(text, str) else text)

    names = _copy_pictures(study, folder)
    yield from scaled(putting_out(study, folder, file_name), 0.0, 0.3)
    write(STUDY_FILE, json.dumps(study_to_dict(study, names), indent=1, ensure_ascii=False))
    yield 0.35
    write("readings.csv", readings_csv(study))
    write("paints.csv", paints_csv(study))
    yield 0.45
    for name, text in _colour_files(study):
        write(name, text)
    sheets = [row["id"] for row in study.rows("sheets", "archived = 0")]
    for number, sheet_id in enumerate(sheets, 1):
        sheet = sheet_record(study, sheet_id).sheet
        stem = f"sheets/{number:02d} {file_name(sheet.title, 'sheet')}"
        write(f"{stem}.json", json.dumps(sheet_to_dict(sheet), indent=1))
        write(f"{stem}.csv", cells_csv(sheet))
        yield 0.45 + 0.35 * number / len(sheets)


def _colour_files(study: Study) -> list[tuple[str, str | bytes]]:
    """Readings as CGATS; readings and wanted colours as palettes of each format."""
    rows = [row for row in study.rows("readings") if reading_of(row).teaches]
    named = [(row["recipe"], np.array([row["L"], row["a"], row["b"]])) for row in rows]
    files: list[tuple[str, str | bytes]] = []

    def palette(stem: str, title: str, colours: Sequence[tuple[str, Array]]) -> None:
        files.extend((f"{stem}{kind.endings[0]}", palette_bytes(kind, title, colours)) for kind in PALETTES)

    if named:
        files.append(
            (
                "readings.cgats.txt",
                write_cgats(
                    [n for n, _ in named],
                    [lab for _, lab in named],
                    study.title,
                    [row["ground"] for row in rows],
                ),
            )
        )
        painted = [
            (tr("bare paper") if recipe == _BARE else recipe, lab)
            for (recipe, lab), row in zip(named, rows, strict=True)
            if row["ground"] == PAPER
        ]
        palette("readings", study.title, painted)
    lists: dict[str, list[tuple[str, Array]]] = {}
    for row in study.rows("targets", order="list, place, id"):
        lists.setdefault(row["list"], []).append((row["name"], np.array([row["L"], row["a"], row["b"]])))
    for number, (title, colours) in enumerate(lists.items(), 1):
        palette(f"wanted/{number:02d} {file_name(title, 'wanted')}", title, colours)
    return files


def _copy_pictures(study: Study, folder: Path) -> dict[str, str]:
    """The pictures beside the study, each under a name of its own; gives from its path in the study to the new one."""
    names: dict[str, str] = {}
    used: set[str] = set()
    for row in study.rows("photos", "path <> ''"):
        path = str(row["path"])
        source = confined(study.path.parent, path)
        if path in names or source is None or not source.is_file():
            continue
        name, number = source.name, 1
        while name.casefold() in used:
            number += 1
            name = f"{source.stem} {number}{source.suffix}"
        used.add(name.casefold())
        target = folder / _PICTURES / name
        target.parent.mkdir(exist_ok=True)
        target.write_bytes(read_file(source, MOST_BYTES))
        names[path] = f"{path.rpartition('/')[0]}/{name}" if number > 1 else path
    return names


def study_to_dict(study: Study, pictures: Mapping[str, str] | None = None) -> dict[str, Any]:
    """Everything of a study as JSON knows it; bytes as base 64.

    Parameters
    ----------
    study : Study
    pictures : mapping from a picture's path to the one that it goes out with, where that is another
    """

    def plain(value: Any) -> Any:
        return {"base64": base64.b64encode(value).decode("ascii")} if isinstance(value, bytes) else value

    tables = {
        table: [{key: plain(value) for key, value in row.items()} for row in rows]
        for table, rows in study.dump(without={"patches"} if pictures is not None else ()).items()
    }
    for row in tables["photos"]:
        row["path"] = (pictures or {}).get(row["path"], row["path"])
    if (
        pictures is not None
    ):  # the bytes of patches lie beside it: a text of all of them would be too long to be read
        tables["patches"] = [{**row, "path": kept_path(row["id"]), "data": None} for row in bare_rows(study)]
    typed = [asdict(entry) for entry in unfinished(study)]
    return {
        "format": STUDY_FORMAT, "version": FORM_VERSION, "schema": VERSION, "tables": tables,
        **({"drafts": typed} if typed else {}),
    }  # fmt: skip


# ---- back


def study_from_folder(folder: Path, path: Path) -> None:
    """A new study from such a folder, the same as the one that was written.

    Parameters
    ----------
    folder : Path, or of its `study.json`
    path : Path of the new study, which must not be there yet

    Raises
    ------
    CulmoError
        when the folder can not be read or is damaged; nothing is left behind then
    """
    check_name(folder)
    source = folder / STUDY_FILE if folder.is_dir() else folder
    data = read_json(source)
    tables = _tables(data, source.name)
    brought: tuple[Path, ...] = ()
    try:
        with Study.building(path, "") as study:
            blank = [Change("meta", row["id"], row, None) for row in study.rows("meta")]
            filled = [Change(table, row["id"], None, row) for table in TABLES for row in tables[table]]
            study.apply(Command(tr("Import"), (*blank, *filled)))
            problems = problems_of_study(study)
            if problems or not study.rows("meta", "key = 'title'"):
                raise CulmoError(
                    tr(
                        '"{name}" is damaged: {value}',
                        name=source.name,
                        value="; ".join(problems[:3]) or tr("it has no title"),
                    )
                )
            _bring_drafts(study, data.get("drafts"))
            brought = bring_pictures(study, lambda own: _picture_in(source.parent, own)).files
    except BaseException as error:
        remove(brought)
        if isinstance(error, (OSError, TypeError, ValueError, OverflowError)):
            raise CulmoError(tr('"{name}" is damaged: {error}', name=source.name, error=error)) from None
        raise


def _bring_drafts(study: Study, entries: Any) -> None:
    """What was typed and not saved; what can not be read of it is left out, as it is no part of the record."""
    kept = []
    for entry in entries if isinstance(entries, list) else ():
        with suppress(KeyError, TypeError, ValueError):
            kept.append(
                Unfinished(str(entry["place"]), int(entry["room"]), str(entry["name"]), str(entry["content"]))
            )
    if kept:
        keep_unfinished(study, list({entry.place: entry for entry in kept}.values()))


def _picture_in(folder: Path, path: str) -> Path | None:
    """A picture of an exported folder; only names are taken from the record, no ways that lead elsewhere."""
    patch = found_in(folder, path)
    name = Path(path.replace("\\", "/")).name
    return patch or (confined(folder / _PICTURES, name) if name else None)


def _tables(data: Any, name: str) -> dict[str, list[dict[str, Any]]]:
    if not isinstance(data, dict) or data.get("format") != STUDY_FORMAT:
        raise CulmoError(
            tr(
                '"{name}" is not a study of Culmo: "format" must be "{STUDY_FORMAT}"',
                name=name,
                STUDY_FORMAT=STUDY_FORMAT,
            )
        )
    if data.get("version") != FORM_VERSION or data.get("schema") not in SCHEMAS:
        raise CulmoError(
            tr(
                '"{name}" is of another version (form {what}, schema {what2}); this Culmo reads form '
                "{FORM_VERSION}, schema {VERSION}",
                name=name,
                what=data.get("version"),
                what2=data.get("schema"),
                FORM_VERSION=FORM_VERSION,
                VERSION=VERSION,
            )
        )
    tables = data.get("tables")
    later = {table for table, since in ADDED.items() if data["schema"] < since}
    if not isinstance(tables, dict) or set(tables) != set(TABLES) - later:
        raise CulmoError(tr('"{name}" does not hold the tables of a study', name=name))
    tables |= {table: [] for table in later}
    result = {}
    for table, rows in tables.items():
        if not isinstance(rows, list) or not all(isinstance(row, dict) and "id" in row for row in rows):
            raise CulmoError(
                tr('"{name}", {table}: this is not a list of entries with their ids', name=name, table=table)
            )
        result[table] = [{key: _value(value, name) for key, value in row.items()} for row in rows]
    return result


def _value(value: Any, name: str) -> Any:
    if isinstance(value, Mapping):
        if set(value) != {"base64"}:
            raise CulmoError(tr('"{name}" holds a value that is neither text, number nor bytes', name=name))
        try:
            return base64.b64decode(str(value["base64"]), validate=True)
        except ValueError:
            raise CulmoError(tr('"{name}" holds bytes that can not be read', name=name)) from None
    if isinstance(value, list):
        raise CulmoError(tr('"{name}" holds a list where a value should be', name=name))
    return value


def same_record(
    one: Mapping[str, Sequence[Mapping[str, Any]]], other: Mapping[str, Sequence[Mapping[str, Any]]]
) -> bool:
    """Whether two dumps hold the same, but for the folder in which pictures lie beside them."""

    def bare(dump: Mapping[str, Sequence[Mapping[str, Any]]]) -> dict[str, list[dict[str, Any]]]:
        result = {table: [dict(row) for row in rows] for table, rows in dump.items()}
        for row in result.get("photos", []):
            row["path"] = Path(str(row["path"])).name
        return result

    return bare(one) == bare(other)
