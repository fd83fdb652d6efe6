"""How much the tests notice: small mistakes are put into the core and the study, one at a time, and the tests are run.

Run as `.venv/bin/python -m tools.mutants [COUNT] [SEED] [near]`. First the tests that do not take long are run once to see
which of them come by which line; then COUNT lines that some test comes by are drawn, each is changed in a copy of the
sources, and the tests that come by it are run there, the quickest first. On what these do not notice the rest is tried, but
with `near`: what is made once for many tests is seen in the first of them alone, so that a mistake in it may be noticed by
tests that do not seem to come by. What notices is run without the mistake as well: what fails then too has noticed nothing.
"""

import ast
import json
import os
import random
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "culmo"
FOLDERS = ("core", "study")
FIRST_TESTS = ("src/culmo", "tests/core", "tests/study", "tests/cli", "tests/demo")
QUICK, LONG = ("-m", "not long"), ("-m", "long")
# on what the tests that come by do not notice
THEN_TESTS = (
    ("tests/test_words.py",),
    (*QUICK, *FIRST_TESTS),
    (*QUICK, "tests/desk"),
    (*LONG, "tests/core", "tests/study", "tests/cli"),
)
MOST_SECONDS = 1800.0
_COMPARED = {
    "<": "<=",
    "<=": "<",
    ">": ">=",
    ">=": ">",
    "==": "!=",
    "!=": "==",
    " in ": " not in ",
    " is ": " is not ",
}
_RECKONED = {ast.Add: ("+", "-"), ast.Sub: ("-", "+"), ast.Mult: ("*", "/"), ast.Div: ("/", "*")}


@dataclass(frozen=True)
class Mutant:
    """A small mistake: the text from `start` to `end` of a file, as offsets, becomes another."""

    path: Path
    line: int
    start: int
    end: int
    new: str

    def __str__(self) -> str:
        text = self.path.read_text(encoding="utf-8")
        place = f"{self.path.relative_to(ROOT)}:{self.line}"
        before = text[: self.start].rpartition("\n")[2].lstrip()
        after = text[self.end :].partition("\n")[0]
        return f"{place}: {before}[{text[self.start : self.end]} -> {self.new}]{after}"


def mutants_of(path: Path, lines: set[int]) -> Iterator[Mutant]:
    """The small mistakes that could be made on some lines of a file."""
    text = path.read_text(encoding="utf-8")
    offsets = [0]
    for row in text.encode().splitlines(keepends=True):
        offsets.append(offsets[-1] + len(row))
    raw = text.encode()

    def at(line: int, column: int) -> int:
        return len(raw[: offsets[line - 1] + column].decode())

    def span(node: ast.expr) -> tuple[int, int]:
        assert node.end_lineno is not None and node.end_col_offset is not None
        return at(node.lineno, node.col_offset), at(node.end_lineno, node.end_col_offset)

    tree = ast.parse(text)
    docs = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, ast.FunctionDef | ast.ClassDef | ast.Module)
        and node.body
        and isinstance(node.body[0], ast.Expr)
    }
    for node in ast.walk(tree):
        line = getattr(node, "lineno", 0)
        if line in lines and id(node) not in docs and isinstance(node, ast.expr):
            for low, high, new in _mistakes(node, text, span):
                yield Mutant(path, line, low, high, new)


Span = Callable[[ast.expr], tuple[int, int]]


def _between(one: ast.expr, other: ast.expr, span: Span) -> tuple[int, int]:
    return span(one)[1], span(other)[0]


def _mistakes(node: ast.expr, text: str, span: Span) -> Iterator[tuple[int, int, str]]:
    """What an expression could be by mistake: where, and the other text."""
    match node:
        case ast.Compare(ops=[_], left=left, comparators=[right]):
            low, high = _between(left, right, span)
            for old, new in _COMPARED.items():
                if text[low:high].strip() == old.strip():
                    yield low, high, text[low:high].replace(old.strip(), new.strip())
        case ast.BinOp(op=op) if type(op) in _RECKONED:
            old, new = _RECKONED[type(op)]
            low, high = _between(node.left, node.right, span)
            if text[low:high].count(old) == 1:
                yield low, high, text[low:high].replace(old, new)
        case ast.BoolOp(op=op, values=[one, other, *_]):
            old, new = ("and", "or") if isinstance(op, ast.And) else ("or", "and")
            low, high = _between(one, other, span)
            if text[low:high].split() == [old]:
                yield low, high, text[low:high].replace(old, new)
        case ast.UnaryOp(op=ast.Not() | ast.USub(), operand=operand):
            yield span(node)[0], span(operand)[0], ""
        case ast.Constant(value=bool(value)):
            yield *span(node), str(not value)
        case ast.Constant(value=int(value) | float(value)):
            yield *span(node), repr(value + 1)
        case ast.Constant(value=str(value)) if len(value) > 1 and text[span(node)[0]] in "\"'":
            yield *span(node), repr(value + "x")


def executed(folder: Path) -> tuple[dict[tuple[str, int], list[str]], dict[str, float]]:
    """By file and line the tests that come by it; and how long each test takes, in seconds."""
    rc = folder / "coveragerc"
    rc.write_text(f"[run]\nsource = {SOURCE}\ndynamic_context = test_function\ndata_file = {folder}/data\n")
    times = folder / "times.json"
    (folder / "conftest_times.py").write_text(
        "import json\nTIMES = {}\n"
        "def pytest_runtest_logreport(report):\n"
        "    name = report.nodeid.split('[')[0]\n"
        "    TIMES[name] = TIMES.get(name, 0.0) + report.duration\n"
        f"def pytest_sessionfinish(session):\n    with open({str(times)!r}, 'w') as file:\n        json.dump(TIMES, file)\n"
    )
    paths = os.pathsep.join((str(folder), str(SOURCE.parent)))
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": paths}
    measured = (sys.executable, "-m", "coverage", "run", f"--rcfile={rc}")
    subprocess.run(
        [*measured, "-m", "pytest", "-p", "conftest_times", *QUICK, *FIRST_TESTS],
        cwd=ROOT,
        env=env,
        check=False,
    )
    found: dict[tuple[str, int], list[str]] = {}
    with closing(sqlite3.connect(folder / "data")) as db:
        rows = db.execute(
            "SELECT file.path, context.context, line_bits.numbits FROM line_bits JOIN file ON file.id = file_id "
            "JOIN context ON context.id = context_id WHERE context.context <> ''"
        ).fetchall()
    for path, context, bits in rows:
        for place, byte in enumerate(bits):
            for bit in range(8):
                if byte & (1 << bit):
                    found.setdefault((path, 8 * place + bit), []).append(context)
    return found, json.loads(times.read_text())


def node_of(context: str, times: dict[str, float]) -> str | None:
    """The test that a context names, as pytest calls it."""
    module, _, name = context.rpartition(".")
    path = module.removeprefix("tests.").replace(".", "/")
    return next((node for node in times if node.endswith(f"{path}.py::{name}")), None)


def run(tests: Sequence[str], copy: Path, seconds: float) -> bool:
    """Whether all of some tests pass with the sources of a copy."""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": str(copy / "src")}
    try:
        done = subprocess.run(
            [sys.executable, "-m", "pytest", "-x", "-n", "2", *tests],
            cwd=copy, env=env, capture_output=True, check=False, timeout=seconds,
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def main(count: str = "60", seed: str = "1", how: str = "") -> int:
    """Draw, try, tell."""
    rng = random.Random(f"mutants {seed}")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        by_line, times = executed(folder)
        candidates = [
            mutant
            for part in FOLDERS
            for path in sorted((SOURCE / part).rglob("*.py"))
            for mutant in mutants_of(path, {line for file, line in by_line if file == str(path)})
        ]
        copy = folder / "copy"
        for part in ("src", "tests", "tools", "docs"):
            shutil.copytree(ROOT / part, copy / part, ignore=shutil.ignore_patterns("__pycache__"))
        for part in ("pyproject.toml", "README.md"):
            shutil.copy(ROOT / part, copy / part)
        left: list[Mutant] = []
        for number, mutant in enumerate(rng.sample(candidates, int(count)), 1):
            target = copy / mutant.path.relative_to(ROOT)
            text = mutant.path.read_text(encoding="utf-8")
            target.write_text(text[: mutant.start] + mutant.new + text[mutant.end :], encoding="utf-8")
            nodes = {node_of(context, times) for context in by_line[str(mutant.path), mutant.line]}
            tests = sorted((node for node in nodes if node), key=lambda node: times[node])
            start = time.perf_counter()
            near = (*QUICK, *tests)
            rest = () if how == "near" else THEN_TESTS
            noticing = next((some for some in (near, *rest) if not run(some, copy, MOST_SECONDS)), None)
            target.write_text(text, encoding="utf-8")
            sound = noticing is None or run(noticing, copy, MOST_SECONDS)  # or they fail by themselves
            seconds = time.perf_counter() - start
            told = "LIVES" if noticing is None else "noticed" if sound else "?"
            print(f"{number:3} {told} {seconds:5.0f} s  {mutant}", flush=True)
            left += [mutant] if told != "noticed" else []
    print(f"{len(left)} of {count} were not noticed by any test")
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
