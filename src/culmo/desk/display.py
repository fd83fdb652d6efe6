"""Whether there is a display to open a window on, asked before Qt is: without one it ends the program with an abort."""

import ctypes
import os
from collections.abc import Mapping

from culmo.errors import CulmoError
from culmo.words import tr

_WITHOUT_DISPLAY = ("offscreen", "minimal", "vnc", "linuxfb", "eglfs", "vkkhrdisplay")
_OF_X11 = (
    "libxcb.so.1",
    "libxcb-cursor.so.0",
    "libxcb-icccm.so.4",
    "libxcb-keysyms.so.1",
)  # what Qt's part for X11 wants beside it


def check_display(environment: Mapping[str, str] = os.environ) -> None:
    """See whether a window can be opened here.

    Parameters
    ----------
    environment : mapping, as of the program

    Raises
    ------
    CulmoError
        when there is no display, or one that can not be reached, or what Qt needs for it is not installed
    """
    wished = environment.get("QT_QPA_PLATFORM", "").split(";")[0].split(":")[0]
    if wished in _WITHOUT_DISPLAY:
        return
    if not wished.startswith("xcb") and _wayland_answers(environment):
        return
    if not environment.get("DISPLAY"):
        raise CulmoError(
            tr("there is no display to open a window on; the commands need none (see: culmo --help)")
        )
    if not _x11_answers():
        raise CulmoError(
            tr('the display "{name}" can not be reached; the commands need none (see: culmo --help)',
               name=environment["DISPLAY"])
        )  # fmt: skip
    missing = [name for name in _OF_X11 if not _loads(name)]
    if missing:
        raise CulmoError(
            tr(
                "the window needs libraries of the system that are not installed: {names}",
                names=", ".join(missing),
            )
        )


def _loads(name: str) -> bool:
    try:
        ctypes.CDLL(name)
    except OSError:
        return False
    return True


def _wayland_answers(environment: Mapping[str, str]) -> bool:
    """Whether a Wayland compositor lets us in."""
    if not environment.get("WAYLAND_DISPLAY") and not environment.get("WAYLAND_SOCKET"):
        return False
    if environment.get("WAYLAND_SOCKET"):
        return True  # a connection that is open already serves once: it is left to Qt
    try:
        library = ctypes.CDLL("libwayland-client.so.0")
    except OSError:
        return True  # Qt may bring its own
    library.wl_display_connect.restype = ctypes.c_void_p
    library.wl_display_connect.argtypes = [ctypes.c_char_p]
    library.wl_display_disconnect.argtypes = [ctypes.c_void_p]
    found = library.wl_display_connect(None)
    if not found:
        return False
    library.wl_display_disconnect(found)
    return True


def _x11_answers() -> bool:
    """Whether the X server lets us in."""
    try:
        library = ctypes.CDLL("libxcb.so.1")
    except OSError:
        return True  # what is missing is told by its name
    library.xcb_connect.restype = ctypes.c_void_p
    library.xcb_connect.argtypes = [ctypes.c_char_p, ctypes.c_void_p]
    library.xcb_connection_has_error.argtypes = [ctypes.c_void_p]
    library.xcb_disconnect.argtypes = [ctypes.c_void_p]
    connection = library.xcb_connect(None, None)
    fails = bool(library.xcb_connection_has_error(connection))
    library.xcb_disconnect(connection)
    return not fails
