"""Recording from a device of this computer into a place: levels first, then the sound.

It is written beside the station while it is made; what was not kept lies there until it is.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Literal

import numpy as np
from PySide6.QtCore import QObject, Signal

from tonleiter.app.audio.system import SoundSystem, find_system
from tonleiter.app.spaces.listen.slots import Place
from tonleiter.core.desk.real import Named
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.spool import spool_file
from tonleiter.core.words import sentence

# from here on samples are as good as cut
FULL_DBFS = -0.2
# shorter than this is a slip of the hand
LEAST_S = 0.3
Does = Literal["nothing", "listens", "records"]


class Recorder(QObject):
    """``changed``: it begins or ends; ``level``: RMS and peak in dBFS; ``made``: a recording."""

    changed = Signal()
    level = Signal(float, float)
    made = Signal(str, str, object, object, float)
    refused = Signal(str)

    def __init__(self, folder: Callable[[], Path]) -> None:
        super().__init__()
        self._folder = folder
        self._file: Path | None = None
        self._system: SoundSystem | None = None
        self.side: Place | None = None
        self.device = Named("", "")
        self.does: Does = "nothing"
        self.seconds = 0.0
        self.full = 0
        self.slate_s = 0.0
        self._count = 0
        self._begun_s = 0.0

    @property
    def system(self) -> SoundSystem:
        """The computer; asked for when first wanted."""
        if self._system is None:
            self._system = find_system()
        return self._system

    def inputs(self) -> tuple[Named, ...]:
        """What can be recorded from, now."""
        return self.system.listed().inputs

    def ready(self, side: Place) -> None:
        """Show the level of the usual input, for one of the places; nothing is kept yet."""
        listed = self.system.listed()
        if not listed.inputs:
            why = self.system.trouble or "this computer has no input"
            self.refused.emit(f"{sentence(why)}.")
            return
        self.leave()
        self.side = side
        self.listen_to((listed.default("in") or listed.inputs[0]).id)

    def listen_to(self, device_id: str) -> None:
        """Another input, whose level is shown."""
        device = next((d for d in self.inputs() if d.id == device_id), None)
        why = "that device is gone" if device is None else ""
        if device is not None:
            why = self.system.listen(device.id, self._told)
        if device is None or why:
            self.refused.emit(why)
            self.leave()
            return
        self.device, self.does = device, "listens"
        self.changed.emit()

    def begin(self) -> None:
        """From now on it is kept."""
        if self.does != "listens":
            return
        self._count += 1
        self._file = spool_file(self._folder(), datetime.now().astimezone())
        ended = self._ended(self._count, self._file)
        why = self.system.record(self.device.id, self._told, ended, self._file)
        if why:
            self.refused.emit(f"{self.device.name}: {why}")
            self.leave()
            return
        self.does, self.seconds, self.full, self.slate_s = "records", 0.0, 0, 0.0
        self._begun_s = time.monotonic()
        self.changed.emit()

    def slate_said(self) -> None:
        """What was said up to now is what is set; from here on it is the recording."""
        if self.does == "records":
            self.slate_s = time.monotonic() - self._begun_s
            self.changed.emit()

    def finish(self) -> None:
        """It is whole."""
        if self.does == "records":
            self.system.finish()

    def leave(self) -> None:
        """Nobody listens; what was being recorded is not wanted."""
        unwanted = self._file if self.does == "records" else None
        self.rest()
        if unwanted is not None:
            unwanted.unlink(missing_ok=True)

    def rest(self) -> None:
        """Nobody listens; what was being recorded lies there as far as it came."""
        self._count += 1
        if self.does != "nothing":
            self.system.stop()
        self.does, self.side, self._file = "nothing", None, None
        self.changed.emit()

    def _told(self, rms_dbfs: float, peak_dbfs: float) -> None:
        if self.does == "records":
            self.seconds = time.monotonic() - self._begun_s
            self.full += peak_dbfs > FULL_DBFS
        self.level.emit(rms_dbfs, peak_dbfs)

    def _ended(self, count: int, file: Path) -> Callable[[Floats, int, str], None]:
        def ended(samples: Floats, rate_hz: int, why: str) -> None:
            if count != self._count or self.side is None:
                return  # left meanwhile
            side, name = self.side, self.device.name
            self.rest()
            if why:
                self.refused.emit(f"{name}: {why}")
            if samples.size >= LEAST_S * max(rate_hz, 1):
                sound = Sound(np.asarray(samples), rate_hz)
                written = file if file.exists() else None
                self.made.emit(side, f"from {name}", sound, written, self.slate_s)
                return
            file.unlink(missing_ok=True)
            if not why:
                self.refused.emit(f"{name}: nothing was recorded: it ended at once")

        return ended
