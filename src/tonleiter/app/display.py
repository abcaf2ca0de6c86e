"""Whether there is a screen for a window: the toolkit ends the program where there is none."""

from __future__ import annotations

import ctypes
import os

from tonleiter.core.refused import RefusedError

# what the toolkit loads to draw on X, by the Debian package that has it
_WANTED = {
    "libxcb-cursor.so.0": "libxcb-cursor0",
    "libxcb-icccm.so.4": "libxcb-icccm4",
    "libxcb-image.so.0": "libxcb-image0",
    "libxcb-keysyms.so.1": "libxcb-keysyms1",
    "libxcb-render-util.so.0": "libxcb-render-util0",
    "libxcb-shape.so.0": "libxcb-shape0",
    "libxcb-xkb.so.1": "libxcb-xkb1",
    "libxkbcommon-x11.so.0": "libxkbcommon-x11-0",
}
NO_SCREEN = (
    "there is no screen to open a window on (neither DISPLAY nor WAYLAND_DISPLAY leads to one);"
    " the commands without a window work: see tonleiter --help"
)


class NoDisplayError(RefusedError):
    """A window cannot be opened here; one line says why, and what would help."""


def need_a_display() -> None:
    """Raises NoDisplayError where a window could not be opened."""
    platform = os.environ.get("QT_QPA_PLATFORM", "").partition(":")[0]
    if platform not in ("", "xcb"):
        return  # somebody chose another way to draw, and knows about it
    if os.environ.get("WAYLAND_DISPLAY") and platform != "xcb":
        return
    if not os.environ.get("DISPLAY"):
        raise NoDisplayError(NO_SCREEN)
    missing = [package for name, package in _WANTED.items() if not _loads(name)]
    if missing:
        raise NoDisplayError(
            f"system libraries are missing: sudo apt-get install {' '.join(missing)}"
        )
    if not _answers():
        raise NoDisplayError(NO_SCREEN)


def _loads(name: str) -> bool:
    try:
        ctypes.CDLL(name)
    except OSError:
        return False
    return True


def _answers() -> bool:
    """Whether an X server takes us; where that cannot be found out the toolkit may try."""
    try:
        xcb = ctypes.CDLL("libxcb.so.1")
        xcb.xcb_connect.restype = ctypes.c_void_p
        xcb.xcb_connect.argtypes = (ctypes.c_char_p, ctypes.c_void_p)
        xcb.xcb_connection_has_error.argtypes = (ctypes.c_void_p,)
        xcb.xcb_disconnect.argtypes = (ctypes.c_void_p,)
        connection = xcb.xcb_connect(None, None)
        failed = bool(xcb.xcb_connection_has_error(connection))
        xcb.xcb_disconnect(connection)
    except (OSError, AttributeError):
        return True
    return not failed
