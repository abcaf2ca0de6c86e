"""Collecting garbage in the window's thread only.

Python's collector of reference cycles runs in whichever thread happens to make the next object. If
that is a worker, an object of Qt that became unreachable (a window that was closed) is destroyed
there, and Qt falls over. So collecting by itself is switched off, and done here now and then.
"""

from __future__ import annotations

import gc
import time

from PySide6.QtCore import QObject, QTimer

from tonleiter.app import turns

EVERY_MS = 200
OLDEST_WAITS = 2
# the oldest takes some 50 ms: done while nobody is at it, but not put off for long. What gathers in
# five minutes of restless hands took a second
QUIET_S, AT_LAST_S = 1.5, 15.0


class _Collector(QObject):
    """Does by a timer what the interpreter would do by counting."""

    def __init__(self) -> None:
        super().__init__()
        gc.disable()
        self._settled = False
        self._oldest_s = time.monotonic()
        # by a slot: what Qt calls of ours counts as something that the window is at
        timer = QTimer(self)
        timer.timeout.connect(self._look)
        timer.start(EVERY_MS)

    def _look(self) -> None:
        """Collect a generation when its count has passed its threshold."""
        if not self._settled:
            # what the start has made stays: it need not be looked through again and again
            self._settled = True
            gc.freeze()
            return
        counts, thresholds = gc.get_count(), gc.get_threshold()
        for generation in (2, 1, 0):
            # the oldest takes longest and stands in the window's way: more seldom than usual
            patience = OLDEST_WAITS if generation == 2 else 1
            if counts[generation] <= patience * thresholds[generation]:
                continue
            if generation == 2:
                waited_s = time.monotonic() - self._oldest_s
                if turns.rested_s() < QUIET_S and waited_s < AT_LAST_S:
                    continue
                self._oldest_s = time.monotonic()
            gc.collect(generation)
            return


_COLLECTOR: list[_Collector] = []


def collect_here() -> None:
    """From now on garbage is collected in this thread, as long as its events are processed."""
    if not _COLLECTOR:
        _COLLECTOR.append(_Collector())
