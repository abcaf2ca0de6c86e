"""Workers step aside while the window's thread has something to do.

Python runs one thread at a time, and nearly every call into the toolkit hands the interpreter over:
with a worker computing, each of them waits until that hands it back. A page of five hundred such
calls, 20 ms by itself, takes half a second. So a worker waits at its checkpoints while events are
handled, for as long as a press may take, and works on for a while before it waits again: whoever
keeps the window busy for long gets most of the interpreter, never all of it.
"""

from __future__ import annotations

import threading
import time

from PySide6.QtCore import QAbstractEventDispatcher

# a worker waits so long at most, then works so long at least
WAITS_S, WORKS_S = 0.25, 0.06

_idle = threading.Event()
_idle.set()
_worked_since = threading.local()
_followed: QAbstractEventDispatcher | None = None


def watch() -> None:
    """Follow the event loop of the thread that calls this. Asked again it does nothing."""
    global _followed
    dispatcher = QAbstractEventDispatcher.instance()
    if dispatcher is None or dispatcher is _followed:
        return
    _followed = dispatcher
    dispatcher.awake.connect(_idle.clear)
    dispatcher.aboutToBlock.connect(_idle.set)


def go_on() -> None:
    """Whoever calls this is about to wait for a worker."""
    _idle.set()


def step_aside() -> None:
    """From a worker, at a checkpoint: wait while the window is busy."""
    if _idle.is_set():
        return
    now = time.monotonic()
    if now - getattr(_worked_since, "at", 0.0) < WORKS_S:
        return
    _idle.wait(WAITS_S)
    _worked_since.at = time.monotonic()
