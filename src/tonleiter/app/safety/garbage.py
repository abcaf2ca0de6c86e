"""Collecting garbage in the window's thread only.

Python's collector of reference cycles runs in whichever thread happens to make the next object. If
that is a worker, an object of Qt that became unreachable (a window that was closed) is destroyed
there, and Qt falls over. So collecting by itself is switched off, and done here now and then.

What is kept aside as lasting is not looked through again. A station that was open at that moment is
among it; once that one was left, all is looked through.
"""

from __future__ import annotations

import gc
import sys
import time

from PySide6.QtCore import QObject, QTimer

from tonleiter.app import turns
from tonleiter.app.safety.trouble import trouble

EVERY_MS = 200
# what was made since is looked through once there is so much of it
YOUNG = 700
# all there is takes some 70 ms, and more the more has gone: done while nobody is at it, but soon
# again where nobody rests. What gathers in a minute and a half of restless hands took 240 ms
QUIET_S, AT_LAST_S, AFTER_YOUNG = 1.5, 6.0, 5
# nothing is looked through on the heels of other work, unless there was no gap for so long
NO_GAP_S = 20.0
# so many modules that came since: what they are made of stays and need not be looked through
NEW_MODULES = 40


class _Collector(QObject):
    """Does by a timer what the interpreter would do by counting."""

    def __init__(self) -> None:
        super().__init__()
        gc.disable()
        self._modules, self._young = 0, 0
        self.was_left = False
        self._all_s = time.monotonic()
        # by a slot: what Qt calls of ours counts as something that the window is at
        timer = QTimer(self)
        timer.timeout.connect(self._look)
        timer.start(EVERY_MS)

    def _look(self) -> None:
        """Collect what is young, or all of it where it is time."""
        if not self._modules:
            # what the start has made stays
            self._keep()
            return
        waited_s = time.monotonic() - self._all_s
        if turns.rested_s() <= 0.0 and waited_s < NO_GAP_S:
            return
        rests = turns.rested_s() >= QUIET_S
        if self.was_left and rests:
            # some ten times what is young, so only in a rest
            gc.unfreeze()
            self._look_through(keep=True)
            self.was_left = False
        elif self._young >= AFTER_YOUNG and (rests or waited_s >= AT_LAST_S):
            self._look_through(keep=len(sys.modules) >= self._modules + NEW_MODULES)
        elif gc.get_count()[0] > YOUNG:
            gc.collect(1)
            self._young += 1

    def _look_through(self, keep: bool) -> None:
        """All that was not kept aside; what is left then is, where it shall be."""
        gc.collect()
        self._all_s, self._young = time.monotonic(), 0
        if keep:
            self._keep()

    def _keep(self) -> None:
        """What there is now is looked through no more."""
        self._modules = len(sys.modules)
        gc.freeze()


_COLLECTOR: list[_Collector] = []


def collect_here() -> None:
    """From now on garbage is collected in this thread, as long as its events are processed."""
    if not _COLLECTOR:
        _COLLECTOR.append(_Collector())


def let_go() -> None:
    """Something large that may have been kept aside is gone: a station that was left."""
    # what an exception came through last is kept for somebody at a prompt, and nobody is
    for name in ("last_exc", "last_type", "last_value", "last_traceback"):
        if hasattr(sys, name):
            setattr(sys, name, None)
    trouble().let_go()
    for collector in _COLLECTOR:
        collector.was_left = True
