"""The program's own sources, for tests that look into them."""

import ast
from collections.abc import Iterator
from pathlib import Path

import culmo

SOURCE = Path(culmo.__file__).parent


def nodes_beside(word: str) -> Iterator[tuple[str, ast.AST]]:
    """Each node of each module in which a word stands, with the module's path in the program; to parse all takes seconds."""
    for path in SOURCE.rglob("*.py"):
        text = path.read_text(encoding="utf-8")
        if word in text:
            for node in ast.walk(ast.parse(text)):
                yield path.relative_to(SOURCE).as_posix(), node
