"""Gathers the strings that the window says, and turns the translations into what it reads: `make words`.

Each language has one `culmo.po` in src/culmo/data/locale; this brings it up to date with the code, keeps what is
translated already, and writes the `culmo.mo` beside it. Strings that are not translated are counted.
"""

import ast
import csv
import sys
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "culmo"
LOCALE = SOURCE / "data" / "locale"
LANGUAGES = ("de",)
# one date for all, so that the files change only where their words do
WRITTEN = datetime(2026, 11, 25, tzinfo=UTC)
Message = str | tuple[str, str]


def said_in(path: Path) -> Iterator[tuple[Message, str | None]]:
    """The messages of a module with their contexts: a text, or one with its plural."""
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Name):
            continue
        count = {"tr": 1, "mark": 1, "trn": 2, "trc": 2}.get(node.func.id, 0)
        texts = [arg.value for arg in node.args[:count] if isinstance(arg, ast.Constant)]
        if not count or len(texts) != count:
            continue
        if node.func.id == "trc":
            yield texts[1], texts[0]
        else:
            yield (texts[0] if count == 1 else (texts[0], texts[1])), None


def has_words(message: Message) -> bool:
    """Whether a message has letters of its own, not only places to fill in."""
    return any(letter.isalpha() for letter in plain(message if isinstance(message, str) else message[0]))


def plain(text: str) -> str:
    """A text without what is filled in."""
    depth, kept = 0, []
    for letter in text:
        depth += {"{": 1, "}": -1}.get(letter, 0)
        if depth == 0:
            kept.append(letter)
    return "".join(kept)


def pigment_names() -> set[str]:
    """What the table of pigments calls them; the program shows it in the user's language."""
    with (SOURCE / "data" / "pigments.csv").open(encoding="utf-8") as file:
        return {row["name"] for row in csv.DictReader(file)}


def template() -> Catalog:
    """All messages of the code, with the files that say them."""
    catalog = Catalog(project="Culmo", charset="utf-8", header_comment="# Words of Culmo.")
    for path in sorted(SOURCE.rglob("*.py")):
        for message, context in said_in(path):
            # the file alone, not the line: else each change of the code would change the catalogue
            catalog.add(message, context=context, locations=[(path.relative_to(SOURCE).as_posix(), None)])
    for name in sorted(pigment_names()):
        catalog.add(name, locations=[("data/pigments.csv", None)])
    return catalog


def brought_up_to_date(language: str) -> Catalog:
    """A language's catalogue with the messages as the code has them now."""
    path = LOCALE / language / "LC_MESSAGES" / "culmo.po"
    if path.is_file():
        with path.open("rb") as file:
            catalog = read_po(file, locale=language)
    else:
        catalog = Catalog(locale=language, project="Culmo", charset="utf-8")
    fresh = template()
    for message in fresh:
        if message.id:
            old = catalog.get(message.id, context=message.context)
            message.string = old.string if old is not None and old.string else message.string
    fresh.locale = catalog.locale
    fresh.creation_date = fresh.revision_date = WRITTEN
    return fresh


def missing(catalog: Catalog) -> list[str]:
    """The messages without a translation."""
    return [
        str(message.id)
        for message in catalog
        if message.id
        and has_words(message.id)
        and not (all(message.string) if isinstance(message.string, (tuple, list)) else message.string)
    ]


def main() -> int:
    """Bring all languages up to date."""
    for language in LANGUAGES:
        catalog = brought_up_to_date(language)
        folder = LOCALE / language / "LC_MESSAGES"
        folder.mkdir(parents=True, exist_ok=True)
        with (folder / "culmo.po").open("wb") as file:
            write_po(file, catalog, width=110, sort_output=True, omit_header=False)
        with (folder / "culmo.mo").open("wb") as file:
            write_mo(file, catalog)
        left = missing(catalog)
        print(f"{language}: {len(list(catalog)) - 1} messages, {len(left)} not translated")
        for text in left[:20]:
            print(f"   {text}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
