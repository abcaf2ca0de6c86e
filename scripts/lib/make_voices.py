"""Makes the voices in src/tonleiter/voices with espeak-ng (Debian), for development only.

The synthesiser reads the sentence phrase by phrase, with pauses to breathe between them, so that
somebody speaks for about two thirds of the time; its output is brought to 16 kHz, shaped to the
long-term spectrum of speech and set to its level. Files repeat to the byte with the same version.
"""

from __future__ import annotations

import io
import re
import subprocess
from pathlib import Path

import numpy as np
import soundfile

from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import LEVEL_DB, RATE_HZ, SENTENCE, speech_shaped

FOLDER = Path(__file__).resolve().parents[2] / "src" / "tonleiter" / "voices"
# variant, pitch and words a minute of each: who speaks softly is slower and lower, loudly higher
SPEAKERS = {
    "deep-soft": ("en-us+m7", 20, 150),
    "deep-normal": ("en-us+m7", 25, 165),
    "deep-loud": ("en-us+m7", 40, 170),
    "high-soft": ("en-us+f4", 72, 150),
    "high-normal": ("en-us+f4", 80, 165),
    "high-loud": ("en-us+f4", 92, 170),
}


# pauses between phrases and after the last, in seconds; what counts as silence at a phrase's ends
PAUSES_S, LEAD_S, SILENT = (0.75, 1.05, 0.8, 0.95, 1.1, 0.7), 0.25, 0.01
# a synthesiser's pulses are sharper than a throat's: high parts come a little later here
DISPERSED_S = 6e-3
# and peaks stand where unprocessed speech has them, over the active level
CREST_DB = 14.5


def dispersed(samples: np.ndarray) -> np.ndarray:
    """Samples through an all-pass whose delay grows evenly to DISPERSED_S at half the rate."""
    n = samples.size
    f = np.fft.rfftfreq(n, 1 / RATE_HZ)
    phase = -np.pi * DISPERSED_S * f**2 / (RATE_HZ / 2)
    return np.fft.irfft(np.fft.rfft(samples) * np.exp(1j * phase), n)


def rounded(samples: np.ndarray) -> np.ndarray:
    """The few highest peaks brought down softly; the samples have an active level of 1."""
    top = 10 ** (CREST_DB / 20)
    return top * np.tanh((np.abs(samples) / top) ** 4) ** 0.25 * np.sign(samples)


def phrases() -> list[str]:
    """The sentence where one breathes."""
    return [p.strip() for p in re.split(r"[.,]", SENTENCE) if p.strip()]


def spoken(variant: str, pitch: int, speed: int) -> np.ndarray:
    """The sentence with its pauses, at 16 kHz."""
    # the first syllable is not at the very edge: what it makes of a set is to be seen whole
    parts = [np.zeros(round(LEAD_S * RATE_HZ))]
    for phrase, pause_s in zip(phrases(), PAUSES_S, strict=True):
        made = subprocess.run(
            ["espeak-ng", "-v", variant, "-p", str(pitch), "-s", str(speed), "--stdout", phrase],
            check=True,
            capture_output=True,
        ).stdout
        samples, rate = soundfile.read(io.BytesIO(made))
        x = Sound(np.asarray(samples, dtype=float), rate).at_rate(RATE_HZ).samples
        loud = np.flatnonzero(np.abs(x) > SILENT * np.abs(x).max())
        parts += [x[loud[0] : loud[-1] + 1], np.zeros(round(pause_s * RATE_HZ))]
    return np.concatenate(parts)


def main() -> None:
    """Every speaker."""
    FOLDER.mkdir(exist_ok=True)
    for name, (variant, pitch, speed) in SPEAKERS.items():
        samples = spoken(variant, pitch, speed)
        shaped = Sound(dispersed(speech_shaped(samples, RATE_HZ)), RATE_HZ)
        for _ in range(3):
            unit = rounded(shaped.samples / active_level(shaped).rms)
            shaped = Sound(speech_shaped(unit, RATE_HZ), RATE_HZ)
        made = shaped.times(10 ** ((LEVEL_DB - active_level(shaped).level_db) / 20))
        path = FOLDER / f"{name}.flac"
        soundfile.write(path, made.samples, RATE_HZ, "PCM_16")
        print(f"{path.name}: {made.seconds:.1f} s, peak {np.abs(made.samples).max():.3f}")


if __name__ == "__main__":
    main()
