"""What a recording measures: levels, noise between words, hum, edges, balance, what was cut.

Each figure comes with how sure it is, and none where the recording cannot tell: then it says why.
Sources: active speech level ITU-T P.56; average speech ITU-T P.50; the rest by rules stated here.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from tonleiter.core.gear.voice import speech_density_db
from tonleiter.core.listen.events import Event, events_of
from tonleiter.core.listen.hum import Hum, hum_of
from tonleiter.core.listen.loudness import integrated_lufs
from tonleiter.core.listen.offset import SURE_HZ, offset_hz
from tonleiter.core.listen.repeats import echo_of, rise_db
from tonleiter.core.listen.survey import NOTHING, Survey
from tonleiter.core.listen.tone import Tone, tone_of
from tonleiter.core.once import cached_property
from tonleiter.core.signal.active import MARGIN_DB
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.sound.level import ActiveLevel, active_of_steps

LEAST_SPEECH_S, LEAST_PAUSE_S = 2.0, 0.6
# two seconds of speech without a breath fall by 4.6 dB or more somewhere; noise as wide as a set's
# filter by 0.8, through one for Morse by 1.6
LEAST_FALL_DB = 1.8
# what is quieter than this is no recording of anything
LEAST_DBFS = -75.0
# cut samples that nobody hears, and that a clean voice has by chance
LEAST_CUT, LEAST_CUTS = 2e-4, 5
SAMPLES = 200
# of a band that is quite away no more than this is counted as missing tone
DEEPEST_DB = 15.0
# a voice or a case falls by less from one sixth of an octave to the next; a set's filter by more,
# and what lies over it is no missing treble where the filter lets through what speech needs
CLIFF_DB, NEEDED_HZ = 10.0, 2400.0
# what noise between words takes of a band's power, at most; speech held down brings its noise up in
# the pauses, where it was not under the words
MOST_NOISE, HELD_DOWN_DB = 0.9, 4.0
LOW, MIDDLE, HIGH = (120.0, 400.0), (500.0, 1500.0), (1800.0, 3200.0)
# a pause is this far under the active level, or no more than so much over the quietest twentieth;
# never nearer to speech than the third; and it begins so long after somebody spoke
PAUSE_DB, OVER_QUIETEST_DB, NEAREST_DB, GUARD_S = 20.0, 4.0, 7.0, 0.12


@dataclass(frozen=True)
class Told:
    """A figure with how sure it is (one standard deviation), or why it cannot be told."""

    value: float | None
    sure: float = 0.0
    why: str = ""

    @property
    def known(self) -> bool:
        """Whether there is a figure."""
        return self.value is not None

    def minus(self, other: Told) -> Told:
        """The difference to another."""
        if self.value is None or other.value is None:
            return Told(None, 0.0, self.why or other.why)
        return Told(self.value - other.value, math.hypot(self.sure, other.sure))


def untold(why: str) -> Told:
    """What cannot be told."""
    return Told(None, 0.0, why)


@dataclass(frozen=True, eq=False)
class Measures:
    """Everything of one recording, each computed when first asked for."""

    survey: Survey

    @cached_property
    def active(self) -> ActiveLevel:
        """Active speech level."""
        s = self.survey
        return active_of_steps(s.sizes, s.step_s, s.peak, s.energy)

    @cached_property
    def silent(self) -> str:
        """Why nothing can be told; empty where something is there."""
        if self.survey.peak <= 0:
            return "it is silent"
        if self.active.level_db < LEAST_DBFS:
            return f"it is nearly silent: {self.active.level_db:.0f} dBFS"
        return ""

    # --- levels ----------------------------------------------------------------------------------

    @cached_property
    def level(self) -> Told:
        """Active speech level in dBFS: against the RMS of a full-scale sine."""
        if self.silent:
            return untold(self.silent)
        spoken = self.spoken.sum() * self.survey.segment_s
        if spoken < LEAST_SPEECH_S:
            return untold(f"there are {spoken:.1f} s of speech; {LEAST_SPEECH_S:.0f} are wanted")
        if self.active.level_db - float(np.quantile(self._segment_db, 0.05)) < LEAST_FALL_DB:
            return untold("it does not rise and fall as speech does: a tone, or noise")
        spread = self._bootstrap(lambda rows: 10 * math.log10(max(rows.sum(axis=1).mean(), 1e-20)))
        return Told(self.active.level_db + SINE_RMS_DB, spread)

    @cached_property
    def peak(self) -> Told:
        """The largest sample, in dBFS."""
        if self.silent:
            return untold(self.silent)
        return Told(20 * math.log10(self.survey.peak), 0.0)

    @cached_property
    def true_peak(self) -> Told:
        """The largest value between samples as well, in dBTP."""
        if self.silent:
            return untold(self.silent)
        return Told(20 * math.log10(max(self.survey.true_peak, self.survey.peak)), 0.1)

    @cached_property
    def loudness(self) -> Told:
        """Integrated loudness, in LUFS."""
        made = None if self.silent else integrated_lufs(self.survey.loudness)
        if made is None:
            return untold(self.silent or "it is too short or too soft: nothing passes the gates")
        return Told(made, 0.1)

    @cached_property
    def crest(self) -> Told:
        """How far the largest sample stands over the active level, as an RMS."""
        if not self.level.known:
            return untold(self.level.why)
        return Told(20 * math.log10(self.survey.peak) - self.active.level_db, self.level.sure)

    @cached_property
    def loud_to_soft(self) -> Told:
        """Between what is loud and what is soft of speech: the tenth and the last third of it."""
        if not self.level.known:
            return untold(self.level.why)
        spoken = self._segment_db[self.spoken]
        loud, soft = np.quantile(spoken, (0.9, 0.3))
        return Told(float(loud - soft), 0.7)

    @cached_property
    def dc(self) -> Told:
        """Constant part, as a share of full scale."""
        if self.silent:
            return untold(self.silent)
        return Told(float(self.survey.means.mean()), 0.0)

    @cached_property
    def tone(self) -> Tone | None:
        """The tone or whistle that it is, with its harmonics; None where it is none."""
        if self.silent or self.level.known:
            return None
        return tone_of(self.survey.loud, self.survey.rate_hz)

    # --- segments --------------------------------------------------------------------------------

    @cached_property
    def _segment_db(self) -> Floats:
        total = self.survey.bands.sum(axis=1).astype(float)
        made: Floats = 10 * np.log10(np.maximum(total, 1e-20))
        return made

    @cached_property
    def spoken(self) -> np.ndarray:
        """Which segments are speech; shape (segments,)."""
        return np.asarray(self._segment_db > self.active.level_db - MARGIN_DB)

    @cached_property
    def pauses(self) -> np.ndarray:
        """Which segments lie between words, well after somebody spoke; shape (segments,)."""
        there = self._segment_db[self._segment_db > 10 * math.log10(NOTHING)]
        quietest = float(np.quantile(there, 0.05)) if there.size else -300.0
        active = self.active.level_db
        line = max(active - PAUSE_DB, quietest + OVER_QUIETEST_DB)
        quiet = self._segment_db < min(line, active - NEAREST_DB)
        guard = max(round(GUARD_S / self.survey.segment_s), 1)
        near = np.zeros(quiet.size, bool)
        for shift in range(-guard, guard + 1):
            near |= np.roll(~quiet, shift)
        return np.asarray(quiet & ~near)

    def _bootstrap(self, of: Callable[[Floats], float]) -> float:
        """Standard deviation of a figure of the spoken segments, over draws of them."""
        rows = self.survey.bands[self.spoken].astype(float)
        if len(rows) < 8:
            return 1.0
        rng = np.random.default_rng(11)
        # neighbours hang together: pieces of eight segments are drawn
        pieces = [rows[k : k + 8] for k in range(0, len(rows) - 7, 8)] or [rows]
        made = [
            of(np.concatenate([pieces[k] for k in rng.integers(0, len(pieces), len(pieces))]))
            for _ in range(SAMPLES // 4)
        ]
        return float(np.std(made))

    # --- noise -----------------------------------------------------------------------------------

    @cached_property
    def noise(self) -> Told:
        """Noise between words, in dBFS."""
        if not self.level.known:
            return untold(self.level.why)
        rows = self.survey.bands[self.pauses].sum(axis=1).astype(float)
        rows = rows[rows > NOTHING]
        seconds = rows.size * self.survey.segment_s
        if seconds < LEAST_PAUSE_S:
            return untold(
                f"there are {seconds:.1f} s between words; {LEAST_PAUSE_S:.1f} are wanted"
            )
        power = float(np.median(rows))
        sure = 4.3 / math.sqrt(rows.size)
        return Told(10 * math.log10(power) + SINE_RMS_DB, max(sure, 0.2))

    @cached_property
    def falls_db(self) -> float | None:
        """How far the quietest twentieth lies under speech; None where there is none."""
        if not self.level.known:
            return None
        return self.active.level_db - float(np.quantile(self._segment_db, 0.05))

    @cached_property
    def over_noise(self) -> Told:
        """Speech over the noise between words."""
        return self.level.minus(self.noise)

    @cached_property
    def hum(self) -> Hum:
        """Lines of the mains and of USB, in the quietest pieces."""
        return hum_of(self.survey, self.active.level_db)

    # --- spectrum --------------------------------------------------------------------------------

    @cached_property
    def centres(self) -> Floats:
        """Middles of the bands in Hz; shape (bands,)."""
        edges = self.survey.edges
        made: Floats = np.sqrt(edges[:-1] * edges[1:])
        return made

    @cached_property
    def speech_db(self) -> Floats:
        """Long-term spectrum while somebody speaks, in dB a hertz, against its own mean power."""
        rows = self.survey.bands[self.spoken].astype(float)
        power = rows.mean(axis=0) if len(rows) else self.survey.bands.mean(axis=0).astype(float)
        power = power - np.minimum(self._noise_under_words, MOST_NOISE * power)
        wide = np.diff(self.survey.edges)
        total = max(float(power.sum()), 1e-20)
        made: Floats = 10 * np.log10(np.maximum(power / wide, 1e-20)) - 10 * math.log10(total)
        return made

    @cached_property
    def _noise_under_words(self) -> Floats:
        """Power of what is there between words as well; shape (bands,). None where it is not so."""
        loud_to_soft = self.loud_to_soft.value
        if not self.noise.known or loud_to_soft is None or loud_to_soft < HELD_DOWN_DB:
            return np.zeros(self.survey.bands.shape[1])
        made: Floats = np.median(self.survey.bands[self.pauses].astype(float), axis=0)
        return made

    @cached_property
    def against_speech_db(self) -> Floats:
        """The same against average speech (P.50), zero in the middle band; smoothed over thirds."""
        return self._smoothed(self._off_db)

    @cached_property
    def _off_db(self) -> Floats:
        off: Floats = self.speech_db - speech_density_db(np.maximum(self.centres, 60.0))
        return off - self._in_middle(off)

    def _in_middle(self, values: Floats) -> float:
        middle = self._within(MIDDLE)
        return float(values[middle].mean()) if middle.any() else 0.0

    def _smoothed(self, off: Floats) -> Floats:
        padded = np.concatenate([off[:1], off, off[-1:]])
        smooth: Floats = np.convolve(padded, np.ones(3) / 3, "valid")
        return smooth - self._in_middle(smooth)

    def _within(self, band: tuple[float, float]) -> np.ndarray:
        return np.asarray((self.centres >= band[0]) & (self.centres < band[1]))

    def _balance(self, band: tuple[float, float]) -> Told:
        if not self.level.known:
            return untold(self.level.why)
        inside = self._within(band)
        if inside.sum() < 3:
            return untold(f"its rate of {self.survey.rate_hz} Hz does not hold that band")
        # how deep a filter's stop band is says nothing of the tone of what it lets through
        held = np.maximum(self._off_db, -DEEPEST_DB)
        end = self._cliff
        if self.centres[end - 1] >= NEEDED_HZ:
            held[end:] = held[end - 1]
        return Told(float(self._smoothed(held)[inside].mean()), 0.8)

    @cached_property
    def _cliff(self) -> int:
        """The first band over 1 kHz that a filter cuts away; as many as there are if none does."""
        fall = -np.diff(self._off_db)
        steep = np.flatnonzero((fall > CLIFF_DB) & (self.centres[1:] > 1000.0))
        return int(steep[0]) + 1 if steep.size else self.centres.size

    @cached_property
    def low(self) -> Told:
        """Bass against the middle and average speech, in dB."""
        return self._balance(LOW)

    @cached_property
    def high(self) -> Told:
        """Treble against the middle and average speech, in dB."""
        return self._balance(HIGH)

    def edge(self, down_db: float, upper: bool) -> Told:
        """Where the response against average speech falls so far, in Hz; from the middle out."""
        if not self.level.known:
            return untold(self.level.why)
        off, f = self.against_speech_db, self.centres
        start = int(np.argmin(np.abs(f - 1000.0)))
        step = 1 if upper else -1
        k = start
        while 0 <= k + step < f.size:
            if off[k + step] < -down_db:
                a, b = off[k], off[k + step]
                share = (a + down_db) / max(a - b, 1e-9)
                hertz = float(f[k] * (f[k + step] / f[k]) ** min(max(share, 0.0), 1.0))
                return Told(hertz, 0.03 * hertz)
            k += step
        end = "goes on to the end of what its rate holds" if upper else "goes down below 60 Hz"
        return untold(f"it {end}")

    # --- what was done to it ---------------------------------------------------------------------

    @cached_property
    def cut_share(self) -> Told:
        """Share of samples in flat tops; zero where there are no more than a clean voice has."""
        if self.silent:
            return untold(self.silent)
        flat = self.survey.flat
        share = flat.samples / max(self.survey.frames, 1)
        if share < LEAST_CUT or flat.count < LEAST_CUTS:
            share = 0.0
        return Told(share, 0.1 * share)

    @cached_property
    def off_hz(self) -> Told:
        """How far the voice's harmonics are off multiples of its pitch; by a pitch is not seen."""
        if not self.level.known:
            return untold(self.level.why)
        found = offset_hz(self.survey.loud, self.survey.rate_hz)
        if found is None:
            return untold("no pitch is to be seen in what is loud")
        return Told(found, SURE_HZ)

    @cached_property
    def _echo(self) -> tuple[float, float]:
        return echo_of(self.survey)

    @cached_property
    def echo(self) -> Told:
        """Size of what comes again against the first sound; ``echo_s`` says when."""
        if not self.level.known:
            return untold(self.level.why)
        return Told(self._echo[1], 0.01)

    @property
    def echo_s(self) -> float:
        """How late it comes, where there is one."""
        return self._echo[0]

    @cached_property
    def rise(self) -> Told:
        """How far the noise between words comes up until the next word, in dB."""
        if not self.level.known:
            return untold(self.level.why)
        made = rise_db(self.survey, self.active.level_db)
        if made is None:
            return untold("there are too few long pauses")
        return Told(made, 0.8)

    @cached_property
    def events(self) -> tuple[Event, ...]:
        """Clicks, pops and drop-outs, with their times."""
        if self.silent:
            return ()
        return events_of(self.survey, self.active.level_db)

    def of(self, kind: str) -> tuple[Event, ...]:
        """Those of a kind."""
        return tuple(e for e in self.events if e.kind == kind)


# dBFS are against the RMS of a full-scale sine: 3 dB over that of samples whose peak is one
SINE_RMS_DB = 10 * math.log10(2.0)
