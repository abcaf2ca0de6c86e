"""The real computer: its devices, a tone out, a level in, a loop measured; Qt Multimedia or nobody.

Qt Multimedia is an extra. Without it, or without a sound server, ``find_system`` gives one that has
no devices and says why. It changes no setting of the system.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from PySide6.QtCore import QIODevice, QObject, QThread, QTimer, Signal

from tonleiter.app.audio.missing import NO_EXTRA, NO_SERVER
from tonleiter.app.safety.events import guarded
from tonleiter.core.desk.probe import (
    LOUDEST_DBFS,
    SOFTEST_DBFS,
    Clocked,
    Measured,
    NothingCameBackError,
    SamplesLostError,
    measured,
    probe,
)
from tonleiter.core.desk.real import Named, System
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.station.disk import FileError
from tonleiter.core.station.spool import Spool

FADE_S, MOST_TONE_S = 0.2, 60.0
# levels are told so often; a device that gives nothing for so long is gone
TOLD_S, PATIENCE_S = 0.05, 4.0
# short buffers, and looks at them that are shorter: a delay is told no finer than these
BUFFER_S, POLL_S = 0.04, 0.005
# where nothing waits for it a longer one rides over a busy moment
LONG_BUFFER_S = 0.25
# a recording ends by itself then
MOST_RECORDED_S = 600.0
# a probe goes out so long after recording began, and may be so late
START_S, LATE_S, MORE_S = 0.3, 1.0, 2.0
TRIES = 3
GONE = "that device is gone"


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


class _Samples(QIODevice):
    """What a sink pulls: samples of one channel, on all of its channels; silence behind them."""

    def __init__(self, next_: Callable[[int], Floats], channels: int) -> None:
        super().__init__()
        self._next, self._channels = next_, channels
        self._frames, self._at_s = [0], [time.monotonic()]
        self.open(QIODevice.OpenModeFlag.ReadOnly)

    @guarded
    def readData(self, most: int) -> bytes:
        """As many whole frames as are wanted."""
        frames = most // (2 * self._channels)
        made = np.rint(np.clip(self._next(frames), -1.0, 1.0) * 32767)
        self._frames.append(self._frames[-1] + frames)
        self._at_s.append(time.monotonic())
        return np.repeat(made.astype("<i2"), self._channels).tobytes()

    @property
    def clock(self) -> Clocked:
        """When each frame was pulled: with the block that begins with it."""
        return Clocked(tuple(self._frames[:-1]), tuple(self._at_s[1:]))

    @guarded
    def writeData(self, data: Any, most: int) -> int:  # noqa: ANN401 - Qt's own
        """Nobody writes here."""
        return -1

    @guarded
    def isSequential(self) -> bool:
        """It has no end."""
        return True

    @guarded
    def bytesAvailable(self) -> int:
        """Always more."""
        return 1 << 20


class _Capture(QThread):
    """What comes in, in a thread of its own: a busy window loses no sample.

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


class QtSystem(QObject):
    """A system that Qt Multimedia knows."""

    def __init__(self, multimedia: Any) -> None:  # noqa: ANN401 - an extra that may not be there
        super().__init__()
        self._m = multimedia
        self.trouble = ""
        self._watch = multimedia.QMediaDevices()
        self._sink: Any = None
        self._samples: _Samples | None = None
        self._capture: _Capture | None = None
        self._ends = QTimer(self)
        self._ends.setSingleShot(True)
        self._ends.timeout.connect(self.stop)

    def listed(self) -> System:
        """Its devices now."""
        m = self._m.QMediaDevices
        outs, ins = m.audioOutputs(), m.audioInputs()
        return System(
            tuple(_named(d) for d in outs),
            tuple(_named(d) for d in ins),
            next((_named(d).id for d in outs if d.isDefault()), None),
            next((_named(d).id for d in ins if d.isDefault()), None),
        )

    def watch(self, seen: Callable[[], None]) -> None:
        """By the system's own notice."""
        self._watch.audioOutputsChanged.connect(seen)
        self._watch.audioInputsChanged.connect(seen)

    def _out(self, device: str) -> Any:  # noqa: ANN401
        return next(
            (d for d in self._m.QMediaDevices.audioOutputs() if _named(d).id == device), None
        )

    def _into(self, device: str) -> Any:  # noqa: ANN401
        return next(
            (d for d in self._m.QMediaDevices.audioInputs() if _named(d).id == device), None
        )

    def tone(self, device: str, level_dbfs: float, hertz: float) -> str:
        """From nothing up within a fifth of a second."""
        if not SOFTEST_DBFS <= level_dbfs <= LOUDEST_DBFS:
            return f"a level from {SOFTEST_DBFS:.0f} to {LOUDEST_DBFS:.0f} dBFS is wanted"
        size = 10 ** (level_dbfs / 20)
        why = self._play(device, lambda rate: _tone(rate, size, hertz), LONG_BUFFER_S)
        if not why:
            self._ends.start(round(1000 * MOST_TONE_S))
        return why

    def _play(
        self, device: str, make: Callable[[int], Callable[[int], Floats]], buffer_s: float
    ) -> str:
        self._silence()
        found = self._out(device)
        if found is None:
            return GONE
        form = found.preferredFormat()
        form.setSampleFormat(self._m.QAudioFormat.SampleFormat.Int16)
        rate = int(form.sampleRate())
        self._samples = _Samples(make(rate), max(form.channelCount(), 1))
        self._sink = self._m.QAudioSink(found, form)
        self._sink.setBufferSize(form.bytesForDuration(round(1e6 * buffer_s)))
        self._sink.start(self._samples)
        if self._sink.error() != self._m.QtAudio.Error.NoError:
            self._silence()
            return f"the device refuses {rate} Hz"
        return ""

    def listen(self, device: str, told: Callable[[float, float], None]) -> str:
        """In a thread of its own."""
        made = self._opened(device, 0.0, BUFFER_S)
        if made is None:
            return GONE
        made.told.connect(told)
        made.start()
        return ""

    def _opened(
        self, device: str, keep_s: float, buffer_s: float, spool: Path | None = None
    ) -> _Capture | None:
        """An input to be listened to in the place of the one before; None where it is gone."""
        self._deaf()
        found = self._into(device)
        if found is not None:
            self._capture = _Capture(self._m, found, keep_s, buffer_s, spool)
        return self._capture

    def record(
        self,
        device: str,
        told: Callable[[float, float], None],
        done: Callable[[Floats, int, str], None],
        spool: Path | None = None,
    ) -> str:
        """In a thread of its own; the first channel."""
        made = self._opened(device, MOST_RECORDED_S, LONG_BUFFER_S, spool)
        if made is None:
            return GONE
        made.told.connect(told)
        made.ended.connect(lambda samples, why: done(samples, made.rate_hz, why))
        made.start()
        return ""

    def finish(self) -> None:
        """The thread gives what it has when it ends."""
        if self._capture is not None:
            self._capture.ends = True

    def loop(
        self, out: str, into: str, level_dbfs: float, done: Callable[[Measured | str], None]
    ) -> str:
        """Recording begins first, so that nothing of the probe is missed; holes are tried again."""
        if not SOFTEST_DBFS <= level_dbfs <= LOUDEST_DBFS:
            return f"a level from {SOFTEST_DBFS:.0f} to {LOUDEST_DBFS:.0f} dBFS is wanted"
        return self._probe(out, into, level_dbfs, done, TRIES)

    def _probe(
        self,
        out: str,
        into: str,
        level_dbfs: float,
        done: Callable[[Measured | str], None],
        tries: int,
    ) -> str:
        found = self._out(out)
        if found is None:
            return "the device that should send is gone"
        rate = int(found.preferredFormat().sampleRate())
        # a machine that lost samples is given more time: the level comes before the delay
        again = tries < TRIES
        buffer_s = LONG_BUFFER_S if again else BUFFER_S
        late_s = LATE_S + (MORE_S if again else 0.0)
        long_s = probe(rate, level_dbfs).size / rate + START_S + late_s

        def came(recorded: Floats | str) -> None:
            capture, samples = self._capture, self._samples
            self.stop()
            if isinstance(recorded, str) or capture is None or samples is None:
                done(recorded if isinstance(recorded, str) else "nothing came in")
                return
            clocks = (samples.clock, capture.clock)
            try:
                made: Measured | str = measured(recorded, capture.rate_hz, level_dbfs, *clocks)
            except SamplesLostError as error:
                if tries > 1 and not self._probe(out, into, level_dbfs, done, tries - 1):
                    return
                made = str(error)
            except NothingCameBackError as error:
                made = str(error)
            done(made)

        recording = self._opened(into, long_s, buffer_s)
        if recording is None:
            return GONE
        recording.whole.connect(came)
        recording.failed.connect(came)
        recording.start()

        def send() -> None:
            if self._capture is None:
                return  # somebody stopped it
            if why := self._play(out, lambda rate: _once(probe(rate, level_dbfs)), buffer_s):
                self._capture.failed.emit(why)

        # recording runs before the first sample goes out
        QTimer.singleShot(round(1000 * START_S), self, send)
        return ""

    def stop(self) -> None:
        """Silence, and nobody listens."""
        self._silence()
        self._deaf()

    def _silence(self) -> None:
        self._ends.stop()
        if self._sink is not None:
            self._sink.stop()
            self._sink = self._samples = None

    def _deaf(self) -> None:
        if self._capture is not None:
            self._capture.ends = True
            self._capture.wait(2000)
            self._capture = None


def _named(device: Any) -> Named:  # noqa: ANN401 - Qt's own
    return Named(bytes(device.id().data()).decode("utf-8", "replace"), device.description())


def _tone(rate_hz: int, peak: float, hertz: float) -> Callable[[int], Floats]:
    """Blocks of a tone that rises from nothing."""
    at = 0

    def next_(frames: int) -> Floats:
        nonlocal at
        t = (at + np.arange(frames)) / rate_hz
        at += frames
        made: Floats = peak * np.minimum(t / FADE_S, 1.0) * np.sin(2 * np.pi * hertz * t)
        return made

    return next_


def _once(samples: Floats) -> Callable[[int], Floats]:
    """Blocks of something that is played once, and silence behind it."""
    at = 0

    def next_(frames: int) -> Floats:
        nonlocal at
        part = samples[at : at + frames]
        at += frames
        return np.concatenate([part, np.zeros(frames - part.size)])

    return next_


def system_of_qt() -> SoundSystem:
    """What Qt Multimedia knows; a system without devices says why."""
    try:
        from PySide6 import QtMultimedia  # type: ignore[attr-defined, unused-ignore]
    except ImportError:
        return NoSystem(NO_EXTRA)
    devices = QtMultimedia.QMediaDevices
    if not devices.audioOutputs() and not devices.audioInputs():
        return NoSystem(NO_SERVER)
    return QtSystem(QtMultimedia)


# another one can be put here, such as one that a test plays
FIND: list[Callable[[], SoundSystem]] = [system_of_qt]


def find_system() -> SoundSystem:
    """The computer that this runs on."""
    return FIND[-1]()
