"""`culmo --install-desktop`: what a desktop is told of a program that pip or pipx installed, and how it is taken back."""

import argparse
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from importlib.resources import files
from pathlib import Path

from culmo.cli.streams import says
from culmo.errors import CulmoError
from culmo.study.whole_file import whole_file

ID = "org.culmo.Culmo"
# what is shipped -> where it belongs under the share folder
PLACES = {
    f"{ID}.desktop": f"applications/{ID}.desktop",
    f"{ID}.mime.xml": f"mime/packages/{ID}.xml",
    f"{ID}.metainfo.xml": f"metainfo/{ID}.metainfo.xml",
    f"{ID}.svg": f"icons/hicolor/scalable/apps/{ID}.svg",
    "application-x-culmo.svg": "icons/hicolor/scalable/mimetypes/application-x-culmo.svg",
    "culmo.1": "man/man1/culmo.1",
}
# these caches are a courtesy; where a program is missing the desktop finds the files by itself
_CACHES = (
    ("update-desktop-database", "-q", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "-q", "-t", "-f", "icons/hicolor"),
)


def share_folder() -> Path:
    """Where a user's desktop looks, by the XDG Base Directory Specification."""
    given = os.environ.get("XDG_DATA_HOME", "")
    return Path(given) if Path(given).is_absolute() else Path.home() / ".local" / "share"


def program() -> Path:
    """The program that was called, or the one that is found by its name."""
    called = Path(sys.argv[0])
    found = called if called.name == "culmo" and called.is_file() else None
    by_name = shutil.which("culmo") if found is None else None
    if found is None and by_name is None:
        raise CulmoError("where the program culmo lies is not known: call it by its path")
    return (found or Path(by_name or "")).absolute()


def entry_for(text: str, exec_path: Path) -> str:
    """The menu's entry for a program at a path: the desktop may not look into its folder for programs."""
    quoted = str(exec_path).replace("\\", "\\\\").replace('"', '\\"').replace("`", "\\`").replace("$", "\\$")
    lines = text.splitlines(keepends=True)
    for place, line in enumerate(lines):
        if line.startswith("Exec="):
            # a per cent sign of a path must not be taken for a field; a backslash is doubled once more as a value
            lines[place] = 'Exec="{}" %f\n'.format(quoted.replace("%", "%%").replace("\\", "\\\\"))
        elif line.startswith("TryExec="):
            lines[place] = "TryExec={}\n".format(str(exec_path).replace("\\", "\\\\"))
    return "".join(lines)


def run_desktop(options: argparse.Namespace) -> int:
    """Tell the desktop of Culmo, or take it back; each file is said."""
    remove = options.remove_desktop is not None
    given = options.remove_desktop if remove else options.install_desktop
    share = Path(given) if given else None
    for path in remove_desktop(share) if remove else install_desktop(share):
        if says():
            print(f"{'removed' if remove else 'wrote'} {path}")
    return 0


def install_desktop(share: Path | None = None) -> Iterator[Path]:
    """Tell the desktop of Culmo; yields each file as it is written.

    Parameters
    ----------
    share : Path of the share folder; the user's own where absent
    """
    share, called = share or share_folder(), program()
    shipped = files("culmo.data").joinpath("desktop")
    for name, place in PLACES.items():
        content = shipped.joinpath(name).read_text(encoding="utf-8")
        if name.endswith(".desktop"):
            content = entry_for(content, called)
        path = share / place
        path.parent.mkdir(parents=True, exist_ok=True)
        with whole_file(path) as part:
            part.write_text(content, encoding="utf-8")
        yield path
    _refresh(share)


def remove_desktop(share: Path | None = None) -> Iterator[Path]:
    """Take back what `install_desktop` told; yields each file that went. Studies and settings stay."""
    share = share or share_folder()
    for place in PLACES.values():
        path = share / place
        if path.is_file():
            path.unlink()
            yield path
    _refresh(share)


def _refresh(share: Path) -> None:
    for name, *words in _CACHES:
        folder = share / words[-1]
        if shutil.which(name) and folder.is_dir():
            subprocess.run([name, *words[:-1], folder], capture_output=True, check=False)
