"""The real computer: its devices, a tone out, a level in, a loop measured; Qt Multimedia or nobody.

Qt Multimedia is an extra. Without it, or without a sound server, ``find_system`` gives one that has
no devices and says why. It changes no setting of the system.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Protocol

from tonleiter.app.audio.missing import NO_EXTRA, NO_SERVER
from tonleiter.core.desk.probe import Measured
from tonleiter.core.desk.real import System
from tonleiter.core.signal.arrays import Floats


class SoundSystem(Protocol):
    """What the page asks of a computer."""

    trouble: str
    """Why there is nothing to ask; empty where there is."""

    def listed(self) -> System:
        """Its devices now."""
        ...

    def watch(self, seen: Callable[[], None]) -> None:
        """Call back when anything of that changes."""
        ...

    def tone(self, device: str, level_dbfs: float, hertz: float) -> str:
        """Play a tone until it is stopped, a minute at most; why not, in one line, or nothing."""
        ...

    def listen(self, device: str, told: Callable[[float, float], None]) -> str:
        """Tell RMS and peak of what comes in, in dBFS, until it is stopped; why not, or nothing."""
        ...

    def record(
        self,
        device: str,
        told: Callable[[float, float], None],
        done: Callable[[Floats, int, str], None],
        spool: Path | None = None,
    ) -> str:
        """Keep what comes in until ``finish``, ten minutes at most; why not, or nothing.

        ``done`` gets the samples, full scale one, their rate, and why it broke off, if it did.
        They are written to ``spool`` as they come.
        """
        ...

    def finish(self) -> None:
        """End a recording and give it."""
        ...

    def loop(
        self, out: str, into: str, level_dbfs: float, done: Callable[[Measured | str], None]
    ) -> str:
        """Send a probe and measure what comes back; why not, or nothing."""
        ...

    def stop(self) -> None:
        """Silence, and nobody listens."""
        ...


class NoSystem:
    """A computer that cannot be asked."""

    def __init__(self, trouble: str) -> None:
        self.trouble = trouble

    def listed(self) -> System:
        """Nothing."""
        return System()

    def watch(self, seen: Callable[[], None]) -> None:
        """Nothing changes."""

    def tone(self, device: str, level_dbfs: float, hertz: float) -> str:
        """It cannot."""
        return self.trouble

    def listen(self, device: str, told: Callable[[float, float], None]) -> str:
        """It cannot."""
        return self.trouble

    def record(
        self,
        device: str,
        told: Callable[[float, float], None],
        done: Callable[[Floats, int, str], None],
        spool: Path | None = None,
    ) -> str:
        """It cannot."""
        return self.trouble

    def finish(self) -> None:
        """Nothing is recorded."""

    def loop(
        self, out: str, into: str, level_dbfs: float, done: Callable[[Measured | str], None]
    ) -> str:
        """It cannot."""
        return self.trouble

    def stop(self) -> None:
        """Nothing plays."""


def system_of_qt() -> SoundSystem:
    """What Qt Multimedia knows; a system without devices says why."""
    try:
        from PySide6 import QtMultimedia  # type: ignore[attr-defined, unused-ignore]
    except ImportError:
        return NoSystem(NO_EXTRA)
    from tonleiter.app.audio.qt_system import QtSystem

    devices = QtMultimedia.QMediaDevices
    if not devices.audioOutputs() and not devices.audioInputs():
        return NoSystem(NO_SERVER)
    return QtSystem(QtMultimedia)


# another one can be put here, such as one that a test plays
FIND: list[Callable[[], SoundSystem]] = [system_of_qt]


def find_system() -> SoundSystem:
    """The computer that this runs on."""
    return FIND[-1]()
