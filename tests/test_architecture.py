"""The shape of the house: what may know what, and documentation that tells the truth."""

import ast
import inspect
import pkgutil
import re
import sqlite3
import subprocess
import sys
from contextlib import closing
from functools import cache
from importlib import import_module
from pathlib import Path

import pytest

import culmo.core
from culmo.study.formats import OPEN_FILES, endings
from culmo.study.schema import MIGRATIONS, VERSION

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "culmo"


@cache
def parsed(path):
    return ast.parse(path.read_text(encoding="utf-8"))


def test_core_study_and_view_models_live_without_qt():
    """Qt is blocked; everything that should not need it is imported."""
    models = [
        ".".join(("culmo", *path.relative_to(SOURCE).with_suffix("").parts))
        for path in (SOURCE / "desk" / "rooms").rglob("*model.py")
    ]
    assert len(models) >= 12
    code = (
        "import sys\n"
        "class Block:\n"
        "  def find_spec(self, name, *a):\n"
        "    if name.split('.')[0] in ('PySide6',): raise ImportError(name)\n"
        "sys.meta_path.insert(0, Block())\n"
        "import pkgutil, importlib, culmo.core, culmo.study, culmo.demo, culmo.cli.commands\n"
        "for p in (culmo.core, culmo.study, culmo.demo):\n"
        "  for m in pkgutil.walk_packages(p.__path__, p.__name__ + '.'): importlib.import_module(m.name)\n"
        f"for m in {models!r}: importlib.import_module(m)\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr


def _imports(path, modules):
    """The modules of Culmo that a module needs to run, those that it asks for later too."""
    found, left = set(), [parsed(path)]
    while left:
        node = left.pop()
        if isinstance(node, ast.If) and "TYPE_CHECKING" in ast.unparse(node.test):
            left += node.orelse
            continue
        if isinstance(node, ast.ImportFrom) and node.module:
            named = {f"{node.module}.{alias.name}" for alias in node.names}
            found |= {name if name in modules else node.module for name in named}
        elif isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        left += ast.iter_child_nodes(node)
    return found & set(modules)


def circles(needs):
    """The modules that need themselves by way of others."""
    reached = {name: set(own) for name, own in needs.items()}
    grown = True
    while grown:
        grown = False
        for own in reached.values():
            more = set().union(*(needs[name] for name in own)) - own if own else set()
            grown |= bool(more)
            own |= more
    return sorted(name for name, own in reached.items() if name in own)


@pytest.mark.long
def test_no_module_needs_itself():
    modules = {}
    for path in SOURCE.rglob("*.py"):
        parts = path.relative_to(SOURCE.parent).with_suffix("").parts
        modules[".".join(parts[:-1] if parts[-1] == "__init__" else parts)] = path
    assert circles({name: _imports(path, modules) for name, path in modules.items()}) == []


def test_a_circle_is_seen():
    assert circles({"a": {"b"}, "b": {"c"}, "c": {"b"}, "d": {"a"}}) == ["b", "c"]


def core_modules():
    return [m.name for m in pkgutil.walk_packages(culmo.core.__path__, "culmo.core.")]


def documented(function):
    """The names under the heading Parameters of a docstring."""
    text = inspect.getdoc(function) or ""
    found = re.search(r"Parameters\n-+\n(.*?)(?:\n\n[A-Z]\w+\n-+|\Z)", text, re.S)
    if not found:
        return []
    heads = re.findall(r"^([\w, ]+?) : ", found.group(1), re.M)
    plain = re.findall(r"^(\w+)$", found.group(1), re.M)
    return [name.strip() for head in heads for name in head.split(",")] + plain


@pytest.mark.parametrize("name", core_modules())
def test_documented_names_are_the_real_ones(name):
    module = import_module(name)
    for _, function in inspect.getmembers(module, inspect.isfunction):
        if function.__module__ != name or function.__name__.startswith("_"):
            continue
        assert inspect.getdoc(function), f"{function.__name__} says nothing"
        unknown = set(documented(function)) - set(inspect.signature(function).parameters)
        assert not unknown, f"{name}.{function.__name__} documents {unknown}"


def test_modules_stay_small():
    too_long = {
        path.name: count
        for path in SOURCE.rglob("*.py")
        if (count := len(path.read_text(encoding="utf-8").splitlines())) > 600
    }
    assert not too_long


@pytest.mark.long
def test_a_name_is_of_one_class():
    """What others import is called by a name that means one thing, wherever it is read."""
    places: dict[str, list[str]] = {}
    for path in SOURCE.rglob("*.py"):
        for node in parsed(path).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                places.setdefault(node.name, []).append(str(path.relative_to(SOURCE)))
    assert len(places) > 400
    assert {name: where for name, where in places.items() if len(where) > 1} == {}


def test_no_class_does_everything():
    """Twenty-five methods at most; a property that is read and set is one."""
    sizes = {}
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(parsed(path)):
            if isinstance(node, ast.ClassDef):
                sizes[node.name] = len({part.name for part in node.body if isinstance(part, ast.FunctionDef)})
    assert max(sizes.values()) > 20
    assert {name: size for name, size in sizes.items() if size > 25} == {}


def test_a_closed_set_is_an_enum():
    """No names are numbered by hand where they are one choice among few; places in an array are no choice."""
    places_in_arrays = {"FULL_AT", "STRENGTH_ON"}
    for path in SOURCE.rglob("*.py"):
        for node in parsed(path).body:
            if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Tuple):
                first = node.targets[0].elts[0]
                value = node.value
                counted = [getattr(part, "value", None) for part in getattr(value, "elts", ())]
                numbered = (
                    getattr(value.func, "id", "") == "range"
                    if isinstance(value, ast.Call)
                    else len(counted) > 1 and counted == list(range(len(counted)))
                )
                assert not numbered or first.id in places_in_arrays, (path, first.id)


def test_widgets_hold_no_sql_and_no_bare_excepts():
    for path in SOURCE.rglob("*.py"):
        tree = parsed(path)
        for node in ast.walk(tree):
            if isinstance(node, ast.ExceptHandler):
                assert node.type is not None, path
        if "desk" in path.parts:
            assert "sqlite3" not in path.read_text(encoding="utf-8"), path


def test_the_page_of_the_study_file_is_of_this_version_and_names_every_table():
    text = (ROOT / "docs" / "study-file.md").read_text(encoding="utf-8")
    assert f"(now {VERSION})" in text
    with closing(sqlite3.connect(":memory:")) as db:
        for script in MIGRATIONS:
            db.executescript(script)
        tables = [row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
    assert [name for name in tables if f"`{name}`" not in text] == []


def test_the_page_of_formats_names_every_ending_that_is_taken_in():
    text = (ROOT / "docs" / "formats.md").read_text(encoding="utf-8")
    assert [ending for ending in endings(*OPEN_FILES) if ending not in text] == []


def test_all_links_of_the_readme_lead_somewhere():
    text = (ROOT / "README.md").read_text(encoding="utf-8")
    for target in re.findall(r"\]\(([^)#]+)\)", text):
        assert (ROOT / target).exists(), target


def test_each_piece_of_work_has_a_key_of_its_own():
    """Newer work of a key stops the older: two rooms with one key would stop each other."""
    homes: dict[str, set[str]] = {}
    for path in SOURCE.rglob("*.py"):
        module = parsed(path)
        constants = {
            target.id: node.value.value
            for node in module.body
            if isinstance(node, ast.Assign) and isinstance(node.value, ast.Constant)
            for target in node.targets
            if isinstance(target, ast.Name)
        }
        for node in ast.walk(module):
            if not (
                isinstance(node, ast.Call)
                and isinstance(node.func, ast.Attribute)
                and node.func.attr == "start"
            ):
                continue
            if not ast.unparse(node.func).endswith(("runner.start", "drawing.start")):
                continue
            key = node.args[0]
            if ast.unparse(key) == "self._key":  # a view's own, of which there are several
                assert "self._key = f'draw {id(self)}'" in ast.unparse(module)
                continue
            name = key.value if isinstance(key, ast.Constant) else constants[key.id]
            homes.setdefault(name, set()).add(path.name)
    assert len(homes) >= 8
    assert {name: places for name, places in homes.items() if len(places) > 1} == {}


def test_what_the_tools_import_is_there():
    """Benches load what they measure when they run, and no other test runs them."""
    gone = []
    for path in sorted((ROOT / "tools").rglob("*.py")):
        for node in ast.walk(parsed(path)):
            if isinstance(node, ast.ImportFrom) and (node.module or "").split(".")[0] in ("culmo", "support"):
                module = import_module(str(node.module))
                parts = {part.name for part in pkgutil.iter_modules(getattr(module, "__path__", ()))}
                gone += [
                    f"{path.name}:{node.lineno} {alias.name}"
                    for alias in node.names
                    if not hasattr(module, alias.name) and alias.name not in parts
                ]
    assert gone == []
