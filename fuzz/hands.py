"""Random hands on the real window: keys, mouse, wheel, with a watch on the event loop.

After the hands have rested, undo goes back to the beginning exactly, and forward again.
"""

from __future__ import annotations

import gc
import os
import random
import shutil
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from weakref import WeakSet

from fuzz.campaign import Bound, Tally, generator

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

GAP_S = 0.25
BETWEEN_MS = 20
# what this takes, as a script, on the machine that the quarter of a second was set for
LOOP, QUICK_LOOP_S = compile("s = 0\nfor i in range(500_000): s += i * i", "loop", "exec"), 0.032
STEPS_A_ROUND = 250
# of the longest gaps so many are named
NAMED = 5
# how often something that is shown goes from under the hands
PULLED_AWAY = 0.06
KEYS = [
    "Left",
    "Right",
    "Up",
    "Down",
    "Return",
    "Tab",
    "Escape",
    "Delete",
    "Insert",
    "Home",
    "End",
    "Space",
    "Backspace",
    "Backtab",
]
TYPED = ("4k7", "0", "-52", "100n", "600..2000", "4kk7", "8.2 mV", "1e9", "x", "5%", "12", "open")


def hands(seed: int, bound: Bound, folder: Path) -> Tally:
    """Rounds of a few hundred events each, every round on a fresh copy of the demo."""
    from PySide6.QtCore import QSettings

    from tonleiter.app.demo import shipped_demo
    from tonleiter.app.safety.trouble import trouble
    from tonleiter.app.start import application
    from tonleiter.app.theme.look import Look

    application()
    settings = tempfile.mkdtemp(dir=folder)
    for kind in (QSettings.Format.NativeFormat, QSettings.Format.IniFormat):
        QSettings.setPath(kind, QSettings.Scope.UserScope, settings)
    look = Look(application())
    tally, rng = Tally("hands"), generator(seed, "hands")
    # others may have windows of their own
    number, kept = 0, _left_over()
    gaps: list[_Gap] = []
    while not bound.reached(tally):
        number += 1
        copy = folder / f"round-{number}.station"
        shutil.copytree(shipped_demo(), copy)
        _Round(copy, look, rng, tally, gaps).run(bound)
        for slip in trouble().seen:
            tally.fault(f"{type(slip).__name__} reported", slip)
        trouble().seen.clear()
        for space in _left_over() - kept:
            tally.fault("kept after it was left", type(space).__name__)
            kept.add(space)
        shutil.rmtree(copy, ignore_errors=True)
    if gaps:
        worst = sorted(gaps, key=lambda gap: -gap.quick_s)
        slow = sorted(gap.times for gap in gaps)
        named = ", ".join(f"{gap.quick_s:.2f} s {gap.what}" for gap in worst[:NAMED])
        tally.notes = (
            f"{sum(gap.quick_s > GAP_S for gap in gaps)} of {len(gaps)} gaps over {GAP_S} s on a"
            f" machine of the usual speed, the longest: {named}; this one {slow[0]:.1f} to"
            f" {slow[-1]:.1f} times as slow, {slow[len(slow) // 2]:.1f} at the median"
        )
    return tally


@dataclass(frozen=True)
class _Gap:
    """How long the window was deaf, and how many times slower the machine was just then."""

    took_s: float
    times: float
    what: str

    @classmethod
    def now(cls, took_s: float, what: str) -> _Gap:
        return cls(took_s, _loop_s() / QUICK_LOOP_S, what)

    @property
    def quick_s(self) -> float:
        """How long it would have been on a machine of the usual speed."""
        return self.took_s / self.times


def _loop_s() -> float:
    """How long this thread computes for a loop just now; what it waits for others is no matter."""
    begun = time.thread_time()
    exec(LOOP, {})
    return time.thread_time() - begun


def _left_over() -> WeakSet[object]:
    """Spaces that there still are when no window is."""
    from tonleiter.app.spaces.space import Space

    gc.unfreeze()
    # what a first look finds may hold others by what it does when it goes
    for _ in range(2):
        gc.collect()
    return WeakSet(o for o in gc.get_objects() if isinstance(o, Space))


def _pause() -> float:
    """No hand is quicker; what works behind the window gets on meanwhile.

    How long a hand would have waited for the window in that time: the turn that came in between.
    """
    from PySide6.QtCore import QEventLoop, QTimer

    loop, begun = QEventLoop(), time.monotonic()
    QTimer.singleShot(BETWEEN_MS, loop.quit)
    loop.exec()
    return time.monotonic() - begun - BETWEEN_MS / 1000


class _Clock:
    """The longest that one event took until the window had done what it led to."""

    def __init__(self) -> None:
        self.longest_s = 0.0
        # of that, what the window's thread computed itself: the rest it waited for others
        self.own_s = 0.0

    def each(self, do: Callable[[], object]) -> None:
        """Send an event and let the window follow."""
        from PySide6.QtWidgets import QApplication

        begun, computed = time.monotonic(), time.thread_time()
        do()
        QApplication.processEvents()
        took_s = time.monotonic() - begun
        if took_s > self.longest_s:
            self.longest_s, self.own_s = took_s, time.thread_time() - computed


def _typed(target: object, text: str, last: object, clock: _Clock) -> None:
    """Key by key: what is typed into may go with any of them, and nobody types into that."""
    import shiboken6
    from PySide6.QtTest import QTest

    for key in (*text, last):
        if not shiboken6.isValid(target):
            return
        clock.each(partial(QTest.keyClick, target, key))


class _Round:
    def __init__(
        self, copy: Path, look: object, rng: random.Random, tally: Tally, gaps: list[_Gap]
    ) -> None:
        from PySide6.QtCore import QTimer

        from tonleiter.app.document import Document
        from tonleiter.app.window import MainWindow

        self._rng, self._tally, self._copy, self._number = rng, tally, copy, 0
        self._gaps = gaps
        self._window = MainWindow(Document.open(copy), look)  # type: ignore[arg-type]
        # nobody is there to answer a question or to choose a file
        self._window.filing.may_leave = lambda: False  # type: ignore[method-assign]
        for name in ("ask_save_as", "ask_open", "ask_look", "ask_give"):
            setattr(self._window.filing, name, lambda: None)
        self._window.show()
        self._closer = QTimer()
        self._closer.timeout.connect(self._close_dialogs)
        self._closer.start(20)
        self._begun = self._window.document.station

    def run(self, bound: Bound) -> None:
        from PySide6.QtCore import QCoreApplication, QEvent
        from PySide6.QtWidgets import QApplication

        window = self._window
        for _ in range(STEPS_A_ROUND):
            if bound.reached(self._tally):
                break
            self._tally.tried += 1
            clock = _Clock()
            what = self._step(clock)
            if clock.longest_s > GAP_S:
                says = f"{clock.longest_s:.2f} s, {clock.own_s:.2f} s of it the window's own work"
                self._tally.fault(f"deaf for over {GAP_S} s: {what}", says)
                self._gaps.append(_Gap.now(clock.longest_s, what))
            while (popup := QApplication.activePopupWidget()) is not None:
                popup.close()
            late_s = _pause()
            if late_s > GAP_S:
                self._tally.fault(f"deaf for over {GAP_S} s after: {what}", f"{late_s:.2f} s")
                self._gaps.append(_Gap.now(late_s, f"after {what}"))
        self._closer.stop()
        self._undo_all()
        window.session.end()
        window.filing.may_leave = lambda: True  # type: ignore[method-assign]
        window.close()
        window.deleteLater()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    @staticmethod
    def _close_dialogs() -> None:
        """A dialog waits for an answer in an event loop of its own: Escape is the answer."""
        from PySide6.QtWidgets import QApplication

        if (modal := QApplication.activeModalWidget()) is not None:
            modal.close()

    def _undo_all(self) -> None:
        """Undo to the beginning is exact, redo to the end as well."""
        document = self._window.document
        last, steps = document.station, len(document.history.past)
        for _ in range(steps):
            document.undo()
        if len(document.history.past) == 0 and steps < 500 and document.station != self._begun:
            self._tally.fault("undo does not come back to the beginning", steps)
        for _ in range(steps):
            document.redo()
        if document.station != last:
            self._tally.fault("redo does not come back to the end", steps)

    def _pull_away(self, clock: _Clock) -> str:
        """What a space shows goes from under it: a piece, a chain, the whole station."""
        from tonleiter.app.document import Document
        from tonleiter.core.refused import RefusedError
        from tonleiter.core.station import edits

        rng, document = self._rng, self._window.document
        station = document.station
        what = rng.choice(("piece", "chain", "chain", "undo", "station"))
        try:
            if what == "piece" and station.gear:
                piece = rng.choice(station.gear).id
                remove = partial(edits.remove_gear, gear_id=piece)
                clock.each(lambda: document.edit("remove", remove))
            elif what == "chain" and station.chains:
                chain = rng.choice(station.chains).id
                show = partial(edits.open_chain, chain_id=chain)
                clock.each(lambda: document.edit("chain", show))
            elif what == "undo":
                clock.each(document.undo)
                for _ in range(rng.randrange(11)):
                    _pause()
                    clock.each(document.undo)
            elif what == "station":
                self._number += 1
                other = self._copy.with_name(f"{self._copy.stem}-{self._number}.station")
                shutil.copytree(self._copy, other)
                new = rng.random() < 0.3
                clock.each(lambda: self._window._swap(Document.open(other), new))
                self._begun = self._window.document.station
        except RefusedError:
            pass
        return f"pull away: {what}"

    def _step(self, clock: _Clock) -> str:
        import shiboken6
        from PySide6.QtCore import QPoint, QPointF, Qt
        from PySide6.QtGui import QWheelEvent
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QApplication, QWidget

        from tonleiter.app.spaces.registry import SPACES

        rng, window = self._rng, self._window
        if rng.random() < PULLED_AWAY:
            return self._pull_away(clock)
        widgets = [
            w
            for w in window.findChildren(QWidget)
            if w.isVisible() and w.isEnabled() and w.accessibleName() not in ("New", "Open")
        ]
        widget = rng.choice(widgets)
        called = f"{type(widget).__name__} {widget.accessibleName()}"  # it may go with the press
        at = QPoint(rng.randrange(max(1, widget.width())), rng.randrange(max(1, widget.height())))
        match rng.randrange(9):
            case 0 | 1:
                clock.each(partial(QTest.mouseClick, widget, Qt.MouseButton.LeftButton, pos=at))
                return f"click {called}"
            case 2:
                left = Qt.MouseButton.LeftButton
                moves = [
                    partial(
                        QTest.mouseMove,
                        widget,
                        at + QPoint(rng.randint(-90, 90), rng.randint(-90, 90)),
                    )
                    for _ in range(rng.randrange(1, 6))
                ]
                for one in (
                    partial(QTest.mousePress, widget, left, pos=at),
                    *moves,
                    partial(QTest.mouseRelease, widget, left, pos=at),
                ):
                    if shiboken6.isValid(widget):
                        clock.each(one)
                return f"drag {called}"
            case 3:
                steps = rng.choice((-120, 120, 1200, -2400))
                event = QWheelEvent(
                    QPointF(at),
                    QPointF(widget.mapToGlobal(at)),
                    QPoint(),
                    QPoint(0, steps),
                    Qt.MouseButton.NoButton,
                    Qt.KeyboardModifier.NoModifier,
                    Qt.ScrollPhase.NoScrollPhase,
                    False,
                )
                clock.each(partial(QApplication.sendEvent, widget, event))
                return f"wheel {called}"
            case 4 | 5:
                target = QApplication.focusWidget() or widget
                called = f"{type(target).__name__} {target.accessibleName()}"
                _typed(
                    target,
                    rng.choice(TYPED),
                    rng.choice((Qt.Key.Key_Return, Qt.Key.Key_Tab)),
                    clock,
                )
                return f"type {called}"
            case 6 | 7:
                target = QApplication.focusWidget() or widget
                key = getattr(Qt.Key, f"Key_{rng.choice(KEYS)}")
                alt = (
                    Qt.KeyboardModifier.AltModifier
                    if rng.random() < 0.1
                    else (Qt.KeyboardModifier.NoModifier)
                )
                clock.each(partial(QTest.keyClick, target, key, alt))
                return f"key {key.name}"
            case _:
                name = rng.choice(
                    ("undo", "redo", "save_behind", "toggle_theme", "toggle_manual", "space")
                )
                whose = {"save_behind": window.filing, "toggle_manual": window.over}.get(
                    name, window
                )
                do = getattr(whose, name, None)
                if name == "space":
                    name = rng.choice([entry.name for entry in SPACES])
                    do = partial(window.walk_to, name)
                elif name == "toggle_theme" and rng.random() < 0.8:
                    name, do = "text size", partial(window.step_scale, rng.choice((-1, 1)))
                clock.each(do)
                return name
