"""The shape of the house: what may know what, and documentation that tells the truth."""

import ast
import inspect
import pkgutil
import re
import subprocess
import sys
from importlib import import_module
from pathlib import Path

import pytest

import culmo.core

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "culmo"


def test_core_study_and_view_models_live_without_qt():
    """Qt is blocked; everything that should not need it is imported."""
    models = [".".join(("culmo", *path.relative_to(SOURCE).with_suffix("").parts)) for path in
              (SOURCE / "desk" / "rooms").glob("*/model.py") if "PySide6" not in path.read_text()]  # fmt: skip
    code = (
        "import sys\n"
        "class Block:\n"
        "  def find_spec(self, name, *a):\n"
        "    if name.split('.')[0] in ('PySide6','pyqtgraph'): raise ImportError(name)\n"
        "sys.meta_path.insert(0, Block())\n"
        "import pkgutil, importlib, culmo.core, culmo.study, culmo.demo, culmo.cli.commands\n"
        "for p in (culmo.core, culmo.study, culmo.demo):\n"
        "  for m in pkgutil.walk_packages(p.__path__, p.__name__ + '.'): importlib.import_module(m.name)\n"
        f"for m in {models!r}: importlib.import_module(m)\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr


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


def test_widgets_hold_no_sql_and_no_bare_excepts():
    for path in SOURCE.rglob("*.py"):
        tree = ast.parse(path.read_text(encoding="utf-8"))
        for node in ast.walk(tree):
            if isinstance(node, ast.ExceptHandler):
                assert node.type is not None, path
        if "desk" in path.parts:
            assert "sqlite3" not in path.read_text(encoding="utf-8"), path


def test_all_links_of_the_readme_lead_somewhere():
    text = (ROOT / "README.md").read_text(encoding="utf-8")
    for target in re.findall(r"\]\(([^)#]+)\)", text):
        assert (ROOT / target).exists(), target


def test_each_piece_of_work_has_a_key_of_its_own():
    """Newer work of a key stops the older: two rooms with one key would stop each other."""
    homes: dict[str, set[str]] = {}
    for path in SOURCE.rglob("*.py"):
        module = ast.parse(path.read_text(encoding="utf-8"))
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
            if not ast.unparse(node.func).endswith("runner.start"):
                continue
            key = node.args[0]
            name = key.value if isinstance(key, ast.Constant) else constants[key.id]
            homes.setdefault(name, set()).add(path.name)
    assert len(homes) >= 8
    assert {name: places for name, places in homes.items() if len(places) > 1} == {}
