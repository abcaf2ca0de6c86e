"""A computer that Qt Multimedia knows: its devices, a tone out, a level in, a loop measured."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer

from tonleiter.app.audio.capture import Capture
from tonleiter.app.audio.played import Samples, once, tone
from tonleiter.core.desk.probe import (
    LOUDEST_DBFS,
    SOFTEST_DBFS,
    Measured,
    NothingCameBackError,
    SamplesLostError,
    measured,
    probe,
)
from tonleiter.core.desk.real import Named, System
from tonleiter.core.signal.arrays import Floats

MOST_TONE_S = 60.0
# short buffers: a delay is told no finer than these
BUFFER_S = 0.04
# where nothing waits for it a longer one rides over a busy moment
LONG_BUFFER_S = 0.25
# a recording ends by itself then
MOST_RECORDED_S = 600.0
# a probe goes out so long after recording began, and may be so late
START_S, LATE_S, MORE_S = 0.3, 1.0, 2.0
TRIES = 3
GONE = "that device is gone"


class QtSystem(QObject):
    """A system that Qt Multimedia knows."""

    def __init__(self, multimedia: Any) -> None:  # noqa: ANN401 - an extra that may not be there
        super().__init__()
        self._m = multimedia
        self.trouble = ""
        self._watch = multimedia.QMediaDevices()
        self._sink: Any = None
        self._samples: Samples | None = None
        self._capture: Capture | None = None
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
        why = self._play(device, lambda rate: tone(rate, size, hertz), LONG_BUFFER_S)
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
        self._samples = Samples(make(rate), max(form.channelCount(), 1))
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
    ) -> Capture | None:
        """An input to be listened to in the place of the one before; None where it is gone."""
        self._deaf()
        found = self._into(device)
        if found is not None:
            self._capture = Capture(self._m, found, keep_s, buffer_s, spool)
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
            if why := self._play(out, lambda rate: once(probe(rate, level_dbfs)), buffer_s):
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
