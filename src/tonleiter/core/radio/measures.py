"""What a signal is like: power, width, splatter, noise between words, how well it is understood."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tonleiter.core.radio.knobs import SetFigures
from tonleiter.core.radio.receivers import Path, heard
from tonleiter.core.radio.ssb import AUDIO_HZ, OUT_HZ, Sent
from tonleiter.core.signal.arrays import Complexes, Floats
from tonleiter.core.signal.spectrum import delay_of, spectrum, width_hz
from tonleiter.core.sound.level import active_by_milliseconds
from tonleiter.core.sound.sound import Sound

# neighbours: a channel of 3 kHz below the carrier, and one above the sideband
NEIGHBOUR_HZ = 3000.0
# the mean power of uncompressed speech whose peaks are the set's power
SPEECH_UNDER_PEP_DB = -12.0
# a syllable that is quieter than this against the loud ones is a gap
GAP_SHARE, FRAME_S = 0.12, 0.02
# what a meter is seen to reach again and again: all but so much of the time it shows less
AGAIN = 0.98
# transmitter and receiver are no later than this together
MOST_LATE_S = 0.2
# a far receiver for comparing how well one is understood: speech as loud as its noise
TEST_PATH = Path(noise_db=-17.0)


@dataclass(frozen=True)
class Judged:
    """What listeners get. Power in watts, the rest in decibels and hertz.

    Neighbours are against the signal's own power, and against that of speech at full drive where
    the signal is weaker: what a carrier leaves of itself is heard no better for that. ``gaps_db``
    is how far what comes between words lies under speech.
    """

    pep_w: float
    mean_w: float
    width_hz: float
    below_db: float
    above_db: float
    gaps_db: float
    alc_db: float
    compression_db: float
    overloaded: bool


def judged(sent: Sent, figures: SetFigures, high_hz: float) -> Judged:
    """Of a whole recording that was sent as single sideband."""
    power = np.abs(sent.z) ** 2
    bins = spectrum(sent.z, OUT_HZ, 2048)
    own = max(bins.within(0.0, high_hz + 100.0), 10 ** (SPEECH_UNDER_PEP_DB / 10))
    edge = high_hz + 100.0
    return Judged(
        pep_w=figures.power_w * float(power.max(initial=0.0)),
        mean_w=figures.power_w * float(power.mean()),
        width_hz=width_hz(bins),
        below_db=_share_db(bins.within(-NEIGHBOUR_HZ, 0.0), own),
        above_db=_share_db(bins.within(edge, edge + NEIGHBOUR_HZ), own),
        gaps_db=gaps_db(heard(sent.z)),
        alc_db=_at_peaks(sent.alc_db),
        compression_db=_at_peaks(sent.compressed_db),
        overloaded=any(m.overloaded for m in sent.meters),
    )


def _at_peaks(reduced_db: Floats) -> float:
    """What a meter is seen to reach again and again."""
    return float(np.quantile(reduced_db, AGAIN)) if reduced_db.size else 0.0


def _share_db(power: float, own: float) -> float:
    return 10 * math.log10(max(power / own, 1e-12))


def gaps_db(sound: Sound) -> float:
    """How far the quietest eighth of the time lies under the active level of speech."""
    step = round(FRAME_S * sound.rate_hz)
    frames = sound.samples[: sound.samples.size // step * step].reshape(-1, step)
    power = np.sort((frames**2).mean(axis=1))
    quiet = float(power[: max(int(GAP_SHARE * power.size), 1)].mean())
    level = active_by_milliseconds(sound).rms
    if level <= 0:
        return 0.0
    return 20 * math.log10(level) - 10 * math.log10(max(quiet, 1e-20))


def understood(reference: Sound, z: Complexes, path: Path = TEST_PATH) -> float:
    """How well speech is understood at a far receiver, 0 to 1: STOI (Taal et al., TASLP 19, 2011).

    ``reference`` is the voice as it was spoken; the delay of transmitter and receiver is taken out.
    """
    from pystoi import stoi  # imported when wanted

    clean = reference.at_rate(AUDIO_HZ).samples
    far = heard(z, path).samples
    late = delay_of(clean, far, round(MOST_LATE_S * AUDIO_HZ))
    n = min(clean.size, far.size - late)
    return float(stoi(clean[:n], far[late : late + n], AUDIO_HZ, extended=False))
