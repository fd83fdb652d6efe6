"""What the desktop is told of an installation by pip or pipx, and that all of it goes again."""

import os
import shutil
import subprocess
from configparser import RawConfigParser
from pathlib import Path
from xml.etree import ElementTree

import pytest

from culmo.cli.desktop import PLACES, entry_for, program
from culmo.cli.main import main
from culmo.errors import CulmoError


def everything(folder):
    return sorted(str(path.relative_to(folder)) for path in folder.rglob("*") if path.is_file())


@pytest.fixture
def called(tmp_path, monkeypatch):
    """Culmo, called by a path with everything in it that may stand in one."""
    path = tmp_path / "my tools 100% $HOME `x`" / "culmo"
    path.parent.mkdir()
    path.write_text("#!/bin/sh\necho found\n")
    path.chmod(0o755)
    monkeypatch.setattr("sys.argv", [str(path), "--install-desktop"])
    return path


def own_files(share):
    """Those of Culmo; the desktop's own programs leave caches."""
    return {name for name in everything(share) if name in PLACES.values()}


def test_it_is_told_and_taken_back(tmp_path, called, capsys):
    share = tmp_path / "share"
    (share / "applications").mkdir(parents=True)
    (share / "applications" / "other.desktop").write_text(
        "[Desktop Entry]\nType=Application\nName=x\nExec=x\n"
    )
    assert main(["--install-desktop", str(share)]) == 0
    assert own_files(share) == set(PLACES.values())
    assert capsys.readouterr().out.count("wrote ") == len(PLACES)
    assert main(["--install-desktop", str(share)]) == 0  # once more changes nothing
    assert main(["--remove-desktop", str(share)]) == 0
    assert own_files(share) == set()
    assert (share / "applications" / "other.desktop").is_file()
    assert main(["--remove-desktop", str(share)]) == 0  # nothing is there, and that is as it should be


def test_the_entry_starts_what_was_called(tmp_path, called):
    main(["--install-desktop", str(tmp_path / "share")])
    entry = RawConfigParser()
    entry.optionxform = str
    entry.read(tmp_path / "share" / "applications" / "org.culmo.Culmo.desktop")
    assert entry["Desktop Entry"]["TryExec"] == str(called)
    line = entry["Desktop Entry"]["Exec"]
    # as the Desktop Entry Specification has it: first the value's own backslashes, then the quoting, then the fields
    text = line.replace("\\\\", "\\")
    quoted, _, rest = text[1:].rpartition('"')
    for sign in '"`$\\':
        quoted = quoted.replace("\\" + sign, sign)
    assert quoted.replace("%%", "%") == str(called)
    assert rest == " %f"


@pytest.mark.skipif(shutil.which("desktop-file-validate") is None, reason="no validator here")
def test_the_entry_is_valid(tmp_path, called):
    main(["--install-desktop", str(tmp_path / "share")])
    path = tmp_path / "share" / "applications" / "org.culmo.Culmo.desktop"
    done = subprocess.run(["desktop-file-validate", path], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout


def test_the_rest_is_what_is_shipped(tmp_path, called):
    main(["--install-desktop", str(tmp_path / "share")])
    root = ElementTree.parse(tmp_path / "share" / "mime" / "packages" / "org.culmo.Culmo.xml").getroot()
    assert "application/x-culmo" in ElementTree.tostring(root, encoding="unicode")
    assert (
        (tmp_path / "share" / "man" / "man1" / "culmo.1")
        .read_text(encoding="utf-8")
        .startswith((".TH", ".\\", "'"))
    )


def test_where_no_folder_is_given_it_is_the_users_own(tmp_path, called, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "own"))
    assert main(["--install-desktop"]) == 0
    assert own_files(tmp_path / "own") == set(PLACES.values())
    monkeypatch.setenv("XDG_DATA_HOME", "relative")
    monkeypatch.setenv("HOME", str(tmp_path / "home"))
    assert main(["--install-desktop"]) == 0
    assert own_files(tmp_path / "home" / ".local" / "share") == set(PLACES.values())


def test_a_folder_that_can_not_be_written_is_said_in_a_line(tmp_path, called, capsys):
    (tmp_path / "share").write_text("a file")
    assert main(["--install-desktop", str(tmp_path / "share")]) == 2
    assert capsys.readouterr().err.count("\n") == 1


def test_a_program_that_can_not_be_found_is_said(monkeypatch, tmp_path):
    monkeypatch.setattr("sys.argv", ["-c"])
    monkeypatch.setenv("PATH", str(tmp_path))
    with pytest.raises(CulmoError, match="path"):
        program()
    other = tmp_path / "culmo"
    other.write_text("")
    other.chmod(0o755)
    assert program() == other
    assert os.fspath(program()) in entry_for("Exec=culmo %f\n", program())
    assert Path(program()).is_absolute()
