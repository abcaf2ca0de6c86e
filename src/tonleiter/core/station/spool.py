"""A recording written while it is made: whatever ends the program, what came until then lies there.

It is a WAV file, whose header is brought up to date every second.
"""

from __future__ import annotations

import contextlib
from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.station.disk import FileError, reason
from tonleiter.core.station.kept_sound import FOLDER

FLUSH_S = 1.0


def spool_file(folder: Path, now: datetime) -> Path:
    """Where one that begins now is written, beside a station; none of that name is there."""
    stem, number = now.strftime("recorded-%Y-%m-%d-%H%M%S"), 1
    file = folder / FOLDER / f"{stem}.wav"
    while file.exists():
        number += 1
        file = file.with_name(f"{stem}-{number}.wav")
    return file


class Spool:
    """Takes blocks of 16 bits, one channel. Raises FileError where it cannot be begun."""

    def __init__(self, file: Path, rate_hz: int) -> None:
        import soundfile  # imported when wanted

        self._error: type[Exception] = soundfile.SoundFileError
        self._file_name, self._rate_hz, self._since = file, rate_hz, 0
        self._file: Any = None
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
            self._file = soundfile.SoundFile(str(file), "w", rate_hz, 1, "PCM_16", format="WAV")
        except OSError as error:
            raise FileError(f"{file}: cannot be written: {reason(error)}") from None
        except self._error:
            raise FileError(f"{file}: cannot be written") from None

    def write(self, block: NDArray[np.int16]) -> None:
        """Append some. Raises FileError; what was written before stays."""
        try:
            self._file.write(block)
            self._since += block.size
            if self._since >= FLUSH_S * self._rate_hz:
                self._since = 0
                self._file.flush()
        except (OSError, self._error):
            self.close()
            raise FileError(
                f"{self._file_name}: it cannot be written any further: is the disk full?"
            ) from None

    def close(self) -> None:
        """Nothing more comes."""
        if self._file is not None:
            # what could be written was written
            with contextlib.suppress(OSError, self._error):
                self._file.close()
            self._file = None
