"""Qt calls our methods from C++, and no exception may pass through there, nor a painter stay open.

``guarded`` goes on every method that Qt calls (events, size hints); ``painting`` gives the painter
of a widget or picture and ends it whatever happens. Both were crashes before.
"""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, TypeVar, cast

from PySide6.QtCore import QSize
from PySide6.QtGui import QPaintDevice, QPainter

from tonleiter.app import turns
from tonleiter.app.safety.trouble import trouble

Method = TypeVar("Method", bound=Callable[..., Any])
# what Qt gets where a method of ours failed
_INSTEAD: dict[str, Callable[[], object]] = {
    "sizeHint": QSize,
    "minimumSizeHint": QSize,
    "minimumSize": QSize,
    "heightForWidth": lambda: 0,
    "count": lambda: 0,
    "event": lambda: False,
    "eventFilter": lambda: False,
}


def guarded(method: Method) -> Method:
    """Report an exception instead of letting it out, and go on."""

    @functools.wraps(method)
    def safe(self: object, *arguments: object) -> object:
        turns.begin()
        try:
            return method(self, *arguments)
        except Exception as error:
            trouble().report(error, f"{type(self).__name__}.{method.__name__}")
            return _INSTEAD.get(method.__name__, lambda: None)()
        finally:
            turns.end()

    safe.__dict__["guarded"] = True  # a test looks for it
    return cast(Method, safe)


@contextmanager
def painting(on: QPaintDevice) -> Iterator[QPainter]:
    """A painter with smooth edges, ended in any case."""
    painter = QPainter(on)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    try:
        yield painter
    finally:
        painter.end()
