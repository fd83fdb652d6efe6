"""What goes out as a package: one version everywhere, and a source distribution that holds what it takes to test it."""

import re
import subprocess
import sys
import tarfile
import tomllib
from importlib.metadata import requires
from pathlib import Path
from xml.etree import ElementTree

import pytest

import culmo
from culmo.desk.help import ABOUT

ROOT = Path(__file__).parents[1]


def test_every_package_bears_the_programs_version():
    metainfo = ElementTree.parse(ROOT / "src/culmo/data/desktop/org.culmo.Culmo.metainfo.xml")
    release = metainfo.find("releases/release")
    assert release is not None
    assert release.get("version") == culmo.__version__
    debian = (ROOT / "packaging/debian/changelog").read_text(encoding="utf-8")
    assert debian.startswith(f"culmo ({culmo.__version__}-")
    assert f"\nversion: {culmo.__version__}\n" in (ROOT / "CITATION.cff").read_text(encoding="utf-8")
    assert (
        "version"
        in tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]["dynamic"]
    )


def test_about_names_every_library():
    needed = [re.split(r"[<>=;\s\[]", line)[0] for line in requires("culmo") or () if "extra" not in line]
    called = {"PySide6-Essentials": "Qt for Python", "opencv-python-headless": "OpenCV"}
    assert len(needed) >= 8
    for name in needed:
        assert called.get(name, name).casefold() in ABOUT.casefold(), name


def test_no_file_of_the_project_names_a_registry_or_a_place_of_a_machine():
    for path in (ROOT / "packaging").rglob("*"):
        if path.is_file():
            text = path.read_text(encoding="utf-8")
            assert not re.search(r"https?://(?!www\.debian\.org/doc/)", text), path
            for place in (ROOT, Path.home()):
                assert str(place) not in text, path
            assert not re.search(r"(?:^|[\s\"'=:])/(?:home|mnt|tmp|opt)/", text), path


@pytest.mark.long
@pytest.mark.skipif(not (ROOT / ".git").exists(), reason="this is no checkout")
def test_the_source_distribution_holds_all_that_is_kept(tmp_path):
    """What git knows is there, so that its tests can be run from it (`make sdist`)."""
    subprocess.run(
        [sys.executable, "-c", f"from setuptools import build_meta; build_meta.build_sdist({str(tmp_path)!r})"],
        cwd=ROOT, check=True, capture_output=True,
    )  # fmt: skip
    (path,) = tmp_path.glob("*.tar.gz")
    with tarfile.open(path) as archive:
        held = {name.partition("/")[2] for name in archive.getnames()}
    listed = subprocess.run(["git", "ls-files"], cwd=ROOT, check=True, capture_output=True, text=True).stdout
    missing = set(listed.splitlines()) - held - {".gitignore", ".gitattributes"}
    assert missing == set()
