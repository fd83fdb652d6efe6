"""Opens Culmo's window on a screen of its own, with an accessibility bus of its own, and has it read aloud there.

Run within a session bus: `dbus-run-session -- python -m support.with_reader STUDY FOLDER`; prints what the reader heard.
"""

import os
import subprocess
import sys
from pathlib import Path

from support.patience import LONG_S

SYSTEM_PYTHON = "/usr/bin/python3"  # the bus' own library comes with the system's packages
LAUNCHERS = ("/usr/libexec/at-spi-bus-launcher", "/usr/lib/at-spi2-core/at-spi-bus-launcher")


def serve(study: str, folder: str) -> None:
    """Culmo's window with a study."""
    from culmo.desk.app import make_app
    from culmo.desk.settings import Settings
    from culmo.desk.window import MainWindow

    app = make_app()
    window = MainWindow(Settings.at(Path(folder) / "s.ini"))
    window.show()
    window.open_path(Path(study))
    app.exec()


def main(study: str, folder: str) -> int:
    reads, writes = os.pipe()
    screen = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writes), "-screen", "0", "1280x900x24", "-nolisten", "tcp"],
        pass_fds=[writes], stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(writes)
    with os.fdopen(reads) as said:
        display = said.readline().strip()
    home = Path(folder) / "run"
    home.mkdir(mode=0o700)
    env = {
        **os.environ, "DISPLAY": f":{display}", "QT_QPA_PLATFORM": "xcb", "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1",
        "XDG_RUNTIME_DIR": str(home),
    }  # fmt: skip
    launcher = next(path for path in LAUNCHERS if Path(path).exists())
    ours = [screen, subprocess.Popen([launcher, "--launch-immediately"], env=env, stderr=subprocess.DEVNULL)]
    try:
        culmo = subprocess.Popen(
            [sys.executable, "-m", "support.with_reader", "serve", study, folder], env=env
        )
        ours.append(culmo)
        reader = [SYSTEM_PYTHON, str(Path(__file__).with_name("aloud.py"))]
        return subprocess.run(reader, env=env, check=False, timeout=LONG_S).returncode
    finally:
        for process in reversed(ours):
            process.terminate()
            process.wait(10)


if __name__ == "__main__":
    if sys.argv[1] == "serve":
        serve(*sys.argv[2:])
    else:
        sys.exit(main(*sys.argv[1:]))
