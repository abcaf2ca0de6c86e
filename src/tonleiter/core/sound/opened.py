"""A sound file opened: its rate, channels and length before any sample of it is read.

Length is asked of the header first, so that a small file of a long silence costs nothing; blocks
are read one after the other, so that a long one costs no more memory than a short one.
"""

from __future__ import annotations

import stat
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.refused import RefusedError
from tonleiter.core.stop import checkpoint

SHORTEST_S, LONGEST_S, MOST_CHANNELS = 1.0, 7200.0, 32
FORMATS = "WAV, FLAC or OGG"
BLOCK_FRAMES = 1 << 16
# a page of OGG is never longer
OGG_PAGE = 65_307
CUT_SHORT = "it ends before its own header says: what is there was taken"


class SoundError(RefusedError):
    """A recording that cannot be taken; one line says which, why, and what would be accepted."""


@dataclass(eq=False)
class Opened:
    """A file that can be read from any place on. ``cut_short`` is known once it was read."""

    path: Path
    rate_hz: int
    channels: int
    frames: int
    cut_short: bool
    _file: Any = field(repr=False)

    @property
    def seconds(self) -> float:
        """How long it is, as its header has it."""
        return self.frames / self.rate_hz

    def blocks(self, start: int = 0, frames: int | None = None) -> Iterator[NDArray[np.float32]]:
        """Blocks of shape (n, channels) from a frame on. Raises SoundError, StoppedError.

        Where the file breaks off they end, and ``cut_short`` is set.
        """
        left = self.frames if frames is None else frames
        try:
            self._file.seek(start)
        except RuntimeError:
            self.cut_short = True
            return
        while left > 0:
            checkpoint()
            try:
                block = self._file.read(min(BLOCK_FRAMES, left), "float32", always_2d=True)
            except RuntimeError:
                self.cut_short = True
                return
            if not len(block):
                self.cut_short = True
                return
            if not np.all(np.isfinite(block)):
                raise SoundError(
                    f"{self.path}: it has samples that are no numbers; {FORMATS} is wanted"
                )
            left -= len(block)
            yield block


@contextmanager
def opened(path: Path) -> Iterator[Opened]:
    """Open a file and look at its header. Raises SoundError for what cannot be taken."""
    import soundfile  # imported when wanted

    try:
        # a pipe that nobody writes to would be waited for
        if not stat.S_ISREG(path.stat().st_mode):
            raise SoundError(f"{path}: it is no file; {FORMATS} is wanted")
        file = soundfile.SoundFile(path)
    except (OSError, RuntimeError, ValueError, TypeError) as error:
        said = error.strerror if isinstance(error, OSError) else str(error).partition(":")[2]
        why = (said or "").strip(" .") or "it cannot be read"
        raise SoundError(f"{path}: {why}; {FORMATS} is wanted") from None
    with file:
        seconds = file.frames / file.samplerate
        if not SHORTEST_S <= seconds <= LONGEST_S:
            raise SoundError(
                f"{path}: it lasts {_length(seconds)}; {SHORTEST_S:g} s to"
                f" {LONGEST_S / 3600:g} hours are wanted"
            )
        if file.channels > MOST_CHANNELS:
            raise SoundError(
                f"{path}: it has {file.channels} channels; up to {MOST_CHANNELS} are wanted"
            )
        with path.open("rb") as raw:
            short = _breaks_off(raw, path.stat().st_size)
        yield Opened(path, file.samplerate, file.channels, file.frames, short, file)


def _length(seconds: float) -> str:
    return f"{seconds:.2f} s" if seconds < 60 else f"{seconds / 3600:.1f} hours"


def _breaks_off(file: BinaryIO, size: int) -> bool:
    """Whether a WAV or OGG is shorter than it says: the library reads those without a word."""
    head = file.read(12)
    if head[:4] in (b"RIFF", b"RF64") and head[8:] == b"WAVE":
        return _wav_breaks_off(file, size)
    if head[:4] == b"OggS":
        file.seek(max(size - OGG_PAGE, 0))
        tail = file.read()
        at = tail.rfind(b"OggS")
        # the sixth byte of a page has a bit for "the last one" (RFC 3533)
        return at < 0 or len(tail) < at + 6 or not tail[at + 5] & 4
    return False


def _wav_breaks_off(file: BinaryIO, size: int) -> bool:
    while len(head := file.read(8)) == 8:
        length = int.from_bytes(head[4:], "little")
        if head[:4] == b"data":
            # who writes a stream leaves the length open
            return length not in (0, 0xFFFFFFFF) and file.tell() + length > size
        file.seek(length + length % 2, 1)
    return True
