"""Sound from files and into them: WAV, FLAC, OGG, any rate; one line for what cannot be taken."""

from __future__ import annotations

import io
import math
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from tonleiter.core.signal.active import MARGIN_DB
from tonleiter.core.signal.runs import runs_of
from tonleiter.core.sound.opened import CUT_SHORT, FORMATS, SHORTEST_S, Opened, SoundError, opened
from tonleiter.core.sound.sound import Floats, Sound

__all__ = ["FORMATS", "SoundError", "clipped_runs", "read_sound", "wav_bytes"]

SILENT_DB, CLIPPED_RUN, FULL = -60.0, 3, 0.999
# of full scale: beyond that it is no sound, whatever the file says
MOST_PEAK = 1e4
# gain is set on so much speech: more of it says the same and only costs time
SPOKEN_S = 30.0
FRAME_S = 0.05
# a frame counts as spoken when it is as near to the loudest two seconds as active speech is
LOUD_S = 2.0
# a constant that is smaller than this beside full scale is not worth a word
OFFSET_SAID = 0.003


@dataclass(frozen=True, eq=False)
class _Surveyed:
    """One pass over a file: mean and power of each channel; power of its frames, (n, channels)."""

    mean: Floats
    power: Floats
    peak: Floats
    frames_power: Floats
    frames: int
    clipped: bool


def read_sound(path: Path, tell: Callable[[float], object] | None = None) -> Sound:
    """A recording as one channel without its constant; full scale is 1. Raises SoundError.

    It is read twice in blocks: once to see what it holds, once to take it. Of several channels the
    loudest is taken, of a long recording the stretch with the most speech. That is said, as are
    clipping and a file that breaks off. ``tell`` is told the share that was read.
    """
    with opened(path) as file:
        seen = _survey(file, tell)
        if seen.frames < SHORTEST_S * file.rate_hz:
            raise SoundError(f"{path}: it breaks off at once; {FORMATS} is wanted")
        best = int(np.argmax(seen.power))
        peak = float(seen.peak[best])
        if peak < 10 ** (SILENT_DB / 20):
            said = (
                "nothing but silence"
                if peak == 0
                else f"its peaks are {20 * math.log10(peak):.0f} dB"
            )
            raise SoundError(
                f"{path}: {said}; peaks above {SILENT_DB:g} dB under full scale are wanted"
            )
        if peak > MOST_PEAK:
            raise SoundError(
                f"{path}: its samples reach {peak:.0e} times full scale: that is no sound"
            )
        start, frames = _most_spoken(seen.frames_power[:, best], file.rate_hz, seen.frames)
        parts = [block[:, best].astype(float) for block in file.blocks(start, frames)]
        if sum(p.size for p in parts) < min(frames, SHORTEST_S * file.rate_hz):
            raise SoundError(f"{path}: it cannot be read from {_clock(start / file.rate_hz)} on")
        samples = np.concatenate(parts) - seen.mean[best]
        remarks = list(_remarks(file, seen, best, start, frames))
    return Sound(samples, file.rate_hz, tuple(remarks))


def _survey(file: Opened, tell: Callable[[float], object] | None) -> _Surveyed:
    step = max(round(FRAME_S * file.rate_hz), 1)
    total = np.zeros(file.channels)
    squares = np.zeros(file.channels)
    low, high = np.full(file.channels, np.inf), np.full(file.channels, -np.inf)
    powers: list[Floats] = []
    read, clipped = 0, False
    for block in file.blocks():
        wide = block.astype(float)
        total += wide.sum(axis=0)
        squares += (wide**2).sum(axis=0)
        low, high = np.minimum(low, wide.min(axis=0)), np.maximum(high, wide.max(axis=0))
        whole = len(wide) // step * step
        if whole:
            shaped = wide[:whole].reshape(-1, step, file.channels)
            # what is constant is no sound: each frame's own mean goes
            powers.append(shaped.var(axis=1))
        if not clipped and float(np.abs(wide).max()) >= FULL:
            loudest = int(np.argmax(np.abs(wide).max(axis=0)))
            clipped = bool(clipped_runs(wide[:, loudest]))
        read += len(wide)
        if tell is not None:
            tell(read / file.frames)
    count = max(read, 1)
    mean = total / count
    return _Surveyed(
        mean=mean,
        power=np.maximum(squares / count - mean**2, 0.0),
        peak=np.maximum(high - mean, mean - low) if read else np.zeros(file.channels),
        frames_power=np.concatenate(powers) if powers else np.zeros((0, file.channels)),
        frames=read,
        clipped=clipped,
    )


def _most_spoken(powers: Floats, rate_hz: int, frames: int) -> tuple[int, int]:
    """Where the stretch with the most speech begins, and how many frames it has."""
    wanted = round(SPOKEN_S * rate_hz)
    if frames <= wanted or not powers.size:
        return 0, frames
    step = max(round(FRAME_S * rate_hz), 1)
    # as loud as two seconds of it are: clicks are shorter, and who speaks speaks longer
    least = min(round(LOUD_S / FRAME_S), powers.size)
    loud = float(np.partition(powers, -least)[-least]) * 10 ** (-MARGIN_DB / 10)
    spoken = np.concatenate([[0], np.cumsum(powers >= loud)])
    span = wanted // step
    if spoken.size <= span:
        return 0, wanted
    start = int(np.argmax(spoken[span:] - spoken[:-span])) * step
    return min(start, frames - wanted), wanted


def _remarks(file: Opened, seen: _Surveyed, best: int, start: int, frames: int) -> list[str]:
    said = []
    if file.channels > 1:
        said.append(
            f"of its {file.channels} channels the loudest one was taken, the {_ordinal(best + 1)}"
        )
    if frames < seen.frames:
        whole, at = _clock(seen.frames / file.rate_hz), _clock(start / file.rate_hz)
        said.append(
            f"of its {whole} the {frames / file.rate_hz:.0f} s with the most speech are used,"
            f" from {at} on"
        )
    if abs(seen.mean[best]) > OFFSET_SAID:
        said.append(
            f"a constant of {100 * seen.mean[best]:.1f} % of full scale was taken off".replace(
                "-", "\N{MINUS SIGN}"
            )
        )
    if file.cut_short:
        said.append(CUT_SHORT)
    if seen.clipped:
        said.append("it is clipped: what is judged of it is judged with that")
    return said


def _clock(seconds: float) -> str:
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d} min"


def clipped_runs(samples: np.ndarray) -> int:
    """Runs of neighbouring samples at the very top or bottom of what there is."""
    peak = float(np.abs(samples).max(initial=0.0))
    if peak < FULL:
        return 0
    begins, ends = runs_of(np.abs(samples) >= FULL * peak)
    return int(np.count_nonzero(ends - begins >= CLIPPED_RUN))


def wav_bytes(sound: Sound) -> bytes:
    """A WAV file of 16 bits; full scale is 1, what is larger is cut."""
    import soundfile  # imported when wanted

    file = io.BytesIO()
    soundfile.write(file, np.clip(sound.samples, -1, 1), sound.rate_hz, "PCM_16", format="WAV")
    return file.getvalue()


def _ordinal(number: int) -> str:
    return {1: "first", 2: "second", 3: "third"}.get(number, f"{number}th")
