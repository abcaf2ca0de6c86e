"""Where sound can be heard: the system's own output, if there is one, or nothing.

Qt Multimedia is an extra (`tonleiter[audio]`): it is large, and everything else works without it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

import numpy as np

from tonleiter.core.sound.sound import Sound

LOUDEST = 0.8


class Output(Protocol):
    """Plays one sound at a time."""

    def play(self, sound: Sound, from_s: float = 0.0) -> None:
        """From a place on; what played before stops."""
        ...

    def at_s(self) -> float | None:
        """How far what plays has come; None when nothing plays."""
        ...

    def stop(self) -> None:
        """Silence."""
        ...


class SystemOutput:
    """The system's default output through Qt Multimedia."""

    def __init__(self, multimedia: Any) -> None:  # noqa: ANN401 - an extra that may not be there
        self._multimedia = multimedia
        self._sink: Any = None
        self._buffer: Any = None
        self._from_s = 0.0

    def play(self, sound: Sound, from_s: float = 0.0) -> None:
        """Sixteen bits, the device's own number of channels."""
        from PySide6.QtCore import QBuffer, QByteArray, QIODevice

        self.stop()
        device = self._multimedia.QMediaDevices.defaultAudioOutput()
        form = device.preferredFormat()
        form.setSampleFormat(self._multimedia.QAudioFormat.SampleFormat.Int16)
        made = np.clip(sound.at_rate(form.sampleRate()).samples, -1, 1) * LOUDEST * 32767
        made = made[round(from_s * form.sampleRate()) :]
        data = np.repeat(made.astype(np.int16), form.channelCount()).tobytes()
        self._buffer = QBuffer()
        self._buffer.setData(QByteArray(data))
        self._buffer.open(QIODevice.OpenModeFlag.ReadOnly)
        self._sink = self._multimedia.QAudioSink(device, form)
        self._sink.start(self._buffer)
        self._from_s = from_s

    def at_s(self) -> float | None:
        """What the device has taken, from where it began."""
        if self._sink is None or self._sink.state() != self._multimedia.QtAudio.State.ActiveState:
            return None
        return self._from_s + float(self._sink.processedUSecs()) / 1e6

    def stop(self) -> None:
        """Silence."""
        if self._sink is not None:
            self._sink.stop()
            self._sink = self._buffer = None


def system_output() -> Output | None:
    """The system's output; None where there is no such extra, no server, or no device."""
    try:
        from PySide6 import QtMultimedia  # type: ignore[attr-defined, unused-ignore]
    except ImportError:
        return None
    if not QtMultimedia.QMediaDevices.audioOutputs():
        return None
    return SystemOutput(QtMultimedia)


# another one can be put here, such as one that only notes what it was given
FIND: list[Callable[[], Output | None]] = [system_output]


def find_output() -> Output | None:
    """Where sound can be heard just now."""
    return FIND[-1]()
