"""What comes into the real computer, in a thread of its own: a busy window loses no sample."""

from __future__ import annotations

import math
import time
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QThread, Signal

from tonleiter.app.safety.events import guarded
from tonleiter.core.desk.probe import Clocked
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.spool import Spool

# levels are told so often; a device that gives nothing for so long is gone
TOLD_S, PATIENCE_S = 0.05, 4.0
# looks at what came are shorter than a buffer
POLL_S = 0.005


class Capture(QThread):
    """Captures until it is told to end, or has what was asked for.

    The first channel of whatever the device has is taken, at the device's own rate.
    """

    told = Signal(float, float)
    failed = Signal(str)
    whole = Signal(object)
    ended = Signal(object, str)

    def __init__(
        self,
        multimedia: Any,  # noqa: ANN401
        device: Any,  # noqa: ANN401
        keep_s: float,
        buffer_s: float,
        spool: Path | None = None,
    ) -> None:
        super().__init__()
        self._spool_file, self._unwritten = spool, ""
        self._spool: Spool | None = None
        self._multimedia, self._device, self._keep_s = multimedia, device, keep_s
        self._buffer_s = buffer_s
        self.rate_hz = 0
        self._frames: list[int] = [0]
        self._at_s: list[float] = []
        self.ends = False

    @property
    def clock(self) -> Clocked:
        """When each frame came: with the block that it ends."""
        return Clocked(tuple(self._frames[1:]), tuple(self._at_s))

    @guarded
    def run(self) -> None:
        """Until it is told to end, or has what was asked for."""
        kept: list[np.ndarray] = []
        trouble = self._run(kept) or self._unwritten
        if self._spool is not None:
            self._spool.close()
        samples = np.concatenate(kept) / 32768.0 if kept else np.zeros(0)
        if trouble:
            self.failed.emit(trouble)
        elif samples.size >= self._keep_s * self.rate_hz > 0:
            self.whole.emit(samples)
        # what broke off is given too, as far as it went
        self.ended.emit(samples, trouble)

    def _write(self, block: np.ndarray) -> None:
        """To the file as it comes; where that cannot be, memory has it, and it is said."""
        if self._spool_file is None or self._unwritten:
            return
        try:
            if self._spool is None:
                self._spool = Spool(self._spool_file, self.rate_hz)
            self._spool.write(block)
        except FileError as error:
            self._unwritten = str(error)

    def _run(self, kept: list[np.ndarray]) -> str:
        """What went wrong, or nothing; ``kept`` is filled with blocks of 16 bits."""
        m = self._multimedia
        form = self._device.preferredFormat()
        form.setSampleFormat(m.QAudioFormat.SampleFormat.Int16)
        channels = max(form.channelCount(), 1)
        self.rate_hz = form.sampleRate()
        source = m.QAudioSource(self._device, form)
        source.setBufferSize(form.bytesForDuration(round(1e6 * self._buffer_s)))
        stream = source.start()
        if stream is None or source.error() != m.QtAudio.Error.NoError:
            return f"the device refuses {form.sampleRate()} Hz: nothing comes in"
        silent_s, block, trouble = 0.0, np.zeros(0), ""
        while not self.ends:
            self.msleep(round(1000 * POLL_S))
            data = bytes(stream.readAll().data())
            if source.state() == m.QtAudio.State.StoppedState or source.error() not in (
                m.QtAudio.Error.NoError,
                m.QtAudio.Error.UnderrunError,
            ):
                trouble = "the device is gone"
                break
            if not data:
                silent_s += POLL_S
                if silent_s > PATIENCE_S:
                    trouble = "nothing comes from the device"
                    break
                continue
            silent_s = 0.0
            frames = np.frombuffer(data[: len(data) // (2 * channels) * 2 * channels], "<i2")
            first = frames.reshape(-1, channels)[:, 0]
            self._frames.append(self._frames[-1] + first.size)
            self._at_s.append(time.monotonic())
            if self._keep_s:
                kept.append(first.copy())
                self._write(kept[-1])
                if self._frames[-1] >= self._keep_s * self.rate_hz:
                    break
            block = np.concatenate([block, first / 32768.0])
            if block.size >= TOLD_S * self.rate_hz:
                rms = float(np.sqrt(2 * np.mean(block**2)))
                self.told.emit(_db(rms), _db(float(np.abs(block).max())))
                block = np.zeros(0)
        source.stop()
        return trouble


def _db(size: float) -> float:
    return 20 * math.log10(max(size, 1e-5))
