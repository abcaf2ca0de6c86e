"""Collecting garbage in the window's thread only.

Python's collector of reference cycles runs in whichever thread happens to make the next object. If
that is a worker, an object of Qt that became unreachable (a window that was closed) is destroyed
there, and Qt falls over. So collecting by itself is switched off, and done here now and then.
"""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimerEvent

from tonleiter.app.safety.events import guarded

EVERY_MS = 200
OLDEST_WAITS = 5


class _Collector(QObject):
    """Does by a timer what the interpreter would do by counting."""

    def __init__(self) -> None:
        super().__init__()
        gc.disable()
        self._settled = False
        self.startTimer(EVERY_MS)

    @guarded
    def timerEvent(self, event: QTimerEvent) -> None:
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
            if counts[generation] > patience * thresholds[generation]:
                gc.collect(generation)
                return


_COLLECTOR: list[_Collector] = []


def collect_here() -> None:
    """From now on garbage is collected in this thread, as long as its events are processed."""
    if not _COLLECTOR:
        _COLLECTOR.append(_Collector())
