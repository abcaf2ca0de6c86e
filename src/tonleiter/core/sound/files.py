"""Sound from files and into them: WAV, FLAC, OGG, any rate; one line for what cannot be taken."""

from __future__ import annotations

import io
import math
from pathlib import Path

import numpy as np

from tonleiter.core.refused import RefusedError
from tonleiter.core.sound.sound import Sound

SHORTEST_S, LONGEST_S = 1.0, 1800.0
SILENT_DB, CLIPPED_RUN, FULL = -60.0, 3, 0.999
FORMATS = "WAV, FLAC or OGG"


class SoundError(RefusedError):
    """A recording that cannot be taken; one line says which, why, and what would be accepted."""


def read_sound(path: Path) -> Sound:
    """A recording as one channel; full scale is 1. Raises SoundError.

    Of two channels the louder one is taken, and that is said, as is clipping.
    """
    import soundfile  # imported when wanted

    try:
        frames, rate = soundfile.read(path, always_2d=True)
    except (OSError, RuntimeError, ValueError) as error:
        why = str(error).partition(":")[2].strip(" .") or "it cannot be read"
        raise SoundError(f"{path}: {why}; {FORMATS} is wanted") from None
    remarks = []
    samples = np.asarray(frames[:, 0], dtype=float)
    if not np.all(np.isfinite(frames)):
        raise SoundError(f"{path}: it has samples that are no numbers; {FORMATS} is wanted")
    seconds = samples.size / rate
    if not SHORTEST_S <= seconds <= LONGEST_S:
        raise SoundError(
            f"{path}: it lasts {seconds:.2f} s; {SHORTEST_S:g} s to"
            f" {LONGEST_S / 60:g} minutes are wanted"
        )
    if frames.shape[1] > 1:
        powers = (np.asarray(frames, dtype=float) ** 2).mean(axis=0)
        best = int(np.argmax(powers))
        samples = np.asarray(frames[:, best], dtype=float)
        remarks.append(
            f"of its {frames.shape[1]} channels the louder one was taken, the {_ordinal(best + 1)}"
        )
    peak = float(np.abs(samples).max())
    if peak < 10 ** (SILENT_DB / 20):
        said = (
            "nothing but silence" if peak == 0 else f"its peaks are {20 * math.log10(peak):.0f} dB"
        )
        raise SoundError(
            f"{path}: {said}; peaks above {SILENT_DB:g} dB under full scale are wanted"
        )
    if clipped_runs(samples):
        remarks.append("it is clipped: what is judged of it is judged with that")
    return Sound(samples, int(rate), tuple(remarks))


def clipped_runs(samples: np.ndarray) -> int:
    """Runs of neighbouring samples at the very top or bottom of what there is."""
    peak = float(np.abs(samples).max(initial=0.0))
    if peak < FULL:
        return 0
    at_top = np.abs(samples) >= FULL * peak
    edges = np.diff(np.concatenate([[0], at_top.astype(int), [0]]))
    runs = np.flatnonzero(edges == -1) - np.flatnonzero(edges == 1)
    return int(np.count_nonzero(runs >= CLIPPED_RUN))


def wav_bytes(sound: Sound) -> bytes:
    """A WAV file of 16 bits; full scale is 1, what is larger is cut."""
    import soundfile  # imported when wanted

    file = io.BytesIO()
    soundfile.write(file, np.clip(sound.samples, -1, 1), sound.rate_hz, "PCM_16", format="WAV")
    return file.getvalue()


def _ordinal(number: int) -> str:
    return {1: "first", 2: "second"}.get(number, f"{number}th")
