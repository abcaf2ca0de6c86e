"""What measuring a recording costs: against reading it with one spectrum a block; memory."""

from __future__ import annotations

import resource
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile

from tonleiter.core.listen.measures import Measures
from tonleiter.core.listen.survey import survey_file
from tonleiter.core.listen.words import heard
from tonleiter.core.sound.voices import voice

MINUTES, HOURS, RATE = 10, 2, 48_000
BLOCK = 8192


def recording(folder: Path, seconds: float) -> Path:
    """Speech over even noise, again and again."""
    said = 0.05 * voice("deep").at_rate(RATE).samples
    file = folder / "long.wav"
    rng = np.random.default_rng(1)
    with soundfile.SoundFile(file, "w", RATE, 1, "PCM_16") as out:
        left = round(seconds * RATE)
        while left > 0:
            part = said[:left] + 1e-4 * rng.standard_normal(min(said.size, left))
            out.write(part)
            left -= part.size
    return file


def spectra(file: Path) -> None:
    """Read it, and one spectrum of each block."""
    with soundfile.SoundFile(file) as sound:
        for block in sound.blocks(BLOCK, dtype="float64"):
            np.fft.rfft(block)


def measure(file: Path) -> None:
    """All that is measured, and the words for it."""
    heard(Measures(survey_file(file)))


def took_s(do: Callable[[Path], None], file: Path) -> float:
    """The best of three."""
    times = []
    for _ in range(3):
        start = time.perf_counter()
        do(file)
        times.append(time.perf_counter() - start)
    return min(times)


def main() -> None:
    """Print the multiple, how many times faster than it sounds, and what two hours hold."""
    with tempfile.TemporaryDirectory() as place:
        file = recording(Path(place), 60 * MINUTES)
        plain, whole = took_s(spectra, file), took_s(measure, file)
        print(
            f"listening: {whole / plain:.1f} times reading with one pass of spectra,"
            f" {60 * MINUTES / whole:.0f} times real time"
        )
        recording(Path(place), 3600 * HOURS)
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        measure(file)
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        print(
            f"listening: {HOURS} h at {RATE} Hz: at most {peak / 1024:.0f} MB,"
            f" {(peak - before) / 1024:.0f} more than before"
        )


if __name__ == "__main__":
    main()
