"""What is seen and heard of a voice on the air: meters, what listeners say, volts at contacts."""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass

import numpy as np

from tonleiter.core.guide.onair import OnAir, on_air
from tonleiter.core.guide.scene import Scene
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.once import cached_property
from tonleiter.core.setup.modes import scene_of
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import Pitch, voice
from tonleiter.core.station.model import Station

# a few words are enough to look at a meter
WORDS_S = 3.5
# what a listener calls quiet, muffled, thin; hum and hiss, against the voice
QUIET_DB, DULL_DB, THIN_DB, BASSY_DB = 5.0, 5.0, 5.0, 5.0
HUM_DB, HISS_DB = 32.0, 22.0
PINNED, SQUASHED_DB = 0.9, 8.0
BANDS = ((120.0, 400.0), (500.0, 1500.0), (1700.0, 2800.0))
NOBODY_W = 1e-4


@functools.lru_cache(maxsize=4)
def few_words(pitch: Pitch) -> Sound:
    """The beginning of a voice, with an active level of one."""
    whole = voice(pitch)
    cut = Sound(whole.samples[: round(WORDS_S * whole.rate_hz)], whole.rate_hz)
    return cut.times(1 / active_level(cut).rms)


@dataclass(frozen=True, eq=False)
class Truth:
    """A station as it is, one chain of it spoken into."""

    station: Station
    chain: str

    @cached_property
    def verdict(self) -> Verdict:
        """The chain, solved."""
        return verdict_of(self.station, self.chain)

    @cached_property
    def case(self) -> OnAir:
        """The voice at the radio."""
        chain = self.station.chain(self.chain)
        own = None
        if chain.purpose_facts.spoken:
            own = few_words(self.station.operator(chain.operator).pitch)
        return on_air(self.station, self.chain, own=own, verdict=self.verdict)

    @cached_property
    def scene(self) -> Scene:
        """The radio as its knobs stand; computed as far as it is asked."""
        from tonleiter.core.setup.modes import SCENES

        return SCENES[self.case.mode](self.case, self.station.chain(self.chain).panel)

    @cached_property
    def balance(self) -> Floats:
        """Levels of what a receiver hears, in three bands, in dB; shape (3,)."""
        heard = self.scene.audio(far=False)
        f = np.fft.rfftfreq(heard.samples.size, 1 / heard.rate_hz)
        power = np.abs(np.fft.rfft(heard.samples)) ** 2
        made = [power[(f >= low) & (f < high)].sum() for low, high in BANDS]
        levels: Floats = 10 * np.log10(np.maximum(np.array(made), 1e-30))
        return levels

    @property
    def power_w(self) -> float:
        """What leaves the set on average, or what deviates of it."""
        return self.reading("power")

    def reading(self, meter: str) -> float:
        """A meter's reading; zero where the set has none of that name."""
        found = next((m for m in self.scene.meters if m.id == meter), None)
        return 0.0 if found is None else float(found.value)

    def report(self, right: Truth) -> str:
        """What listeners say, who knew it when it was right."""
        return ", ".join(self._words(right)) or "as always"

    def _words(self, right: Truth) -> list[str]:
        row = self.verdict.assessment.rows[-1]
        if row.speech_dbu < right.verdict.assessment.rows[-1].speech_dbu - 30:
            return ["nothing to be heard of your voice"]
        said = []
        loud = self._loud(right)
        if loud < -QUIET_DB:
            said.append("quiet")
        if self._distorts():
            said.append("distorted")
        low, middle, high = self.balance - right.balance
        if high - middle < -DULL_DB:
            said.append("muffled")
        if low - middle < -THIN_DB:
            said.append("thin")
        if low - middle > BASSY_DB:
            said.append("bassy")
        if high - middle > DULL_DB:
            said.append("harsh")
        hum = -math.inf if row.hum_dbu is None else row.hum_dbu - row.speech_dbu
        if hum > -HUM_DB:
            said.append("hum")
        if self._noise_db() > -HISS_DB and self._noise_db() > right._noise_db() + 4:
            said.append("much noise from the room")
        return said

    def _loud(self, right: Truth) -> float:
        meter = (
            "deviation"
            if self.case.mode == "fm"
            else "sidebands"
            if self.case.mode == "am"
            else "power"
        )
        mine, theirs = max(self.reading(meter), 1e-9), max(right.reading(meter), 1e-9)
        return (10 if meter == "power" else 20) * math.log10(mine / theirs)

    def _distorts(self) -> bool:
        if any(f.severity == "stop" for f in self.scene.own_findings()):
            return True
        alc = next((m for m in self.scene.meters if m.id == "alc"), None)
        squeezed = self.reading("compression") > SQUASHED_DB
        return squeezed or (alc is not None and alc.value > PINNED * alc.full)

    def _noise_db(self) -> float:
        row = self.verdict.assessment.rows[-1]
        lifted = row.noise_lifted_db + self.reading("compression")
        return row.noise_dbu + lifted - row.speech_in_band_dbu


def scene_on_air(station: Station, chain: str) -> Scene:
    """What stands before whoever sets a chain up."""
    return scene_of(Truth(station, chain).case, station.chain(chain).panel)
