"""A chain of the station with its voice at the input of its radio: what is to be set."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import Figure
from tonleiter.core.gear.sockets import FixedSocket, MicrophoneSocket
from tonleiter.core.gear.voice import EFFORT_DB, Effort
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.once import cached_property
from tonleiter.core.radio.knobs import SetFigures
from tonleiter.core.radio.ssb import AUDIO_HZ
from tonleiter.core.refused import RefusedError
from tonleiter.core.sound.level import Sounds, sounds_like
from tonleiter.core.sound.sound import Floats, Sound
from tonleiter.core.sound.through import through
from tonleiter.core.sound.voices import Pitch, tone, two_tones, voice
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.model import Station
from tonleiter.core.station.purpose import PurposeId
from tonleiter.core.station.transmitter import Transmitter
from tonleiter.core.units.levels import volts_from_dbu

ModeId = Literal["ssb", "fm", "am", "packet", "data", "loop"]
MODES: dict[PurposeId, ModeId] = {
    "ssb-chat": "ssb",
    "ssb-weak": "ssb",
    "fm-voice": "fm",
    "am-voice": "am",
    "packet": "packet",
    "data-weak": "data",
}
DATA_S = 3.0
# two tones as near as those of a data mode, around its transmit tone
DATA_APART_HZ, DATA_HZ = 50.0, 1500.0
PACKET_HZ = 1200.0
# a tone in the middle of a data socket's window is so far under full power
DATA_ROOM_DB = 3.0
# a compressor that is asked for none still has some
LEAST_RATIO = 1.5
# a transmitter whose products are nearer to its signal than this is no transmitter
LEAST_UNDER_DB = 10.0


class NoSetError(RefusedError):
    """A chain ends in something of which no guide knows how it is set; one line says what."""


@dataclass(frozen=True, eq=False)
class OnAir:
    """What a radio gets to work with.

    ``spoken`` is the voice with an active level of one unit, ``volts`` what stands at the radio's
    input for it at AUDIO_HZ, shape (n,), noise and hum included. ``typical`` names the radio's
    figures that nobody has found yet.
    """

    verdict: Verdict
    basis: Basis
    mode: ModeId
    figures: SetFigures
    spoken: Sound
    volts: Floats
    radio: str
    typical: tuple[str, ...]
    _toned: dict[float, Floats] = field(default_factory=dict, repr=False)

    @property
    def assessment(self) -> Assessment:
        """The chain, solved."""
        return self.verdict.assessment

    @property
    def purpose(self) -> PurposeId:
        """What the chain is for."""
        return self.basis.purpose

    @cached_property
    def sounds(self) -> Sounds:
        """What is spoken: gain for a voice is set on speech, and on nothing else."""
        facts = self.assessment.solution.compiled.chain.purpose_facts
        return sounds_like(self.spoken) if facts.spoken else "speech"

    @property
    def pitch(self) -> Pitch:
        """Whose voice it is."""
        return self.basis.operator.pitch

    def toned(self, hertz: float) -> Floats:
        """The volts of a data mode whose transmit tone stands there; shape (n,)."""
        if hertz not in self._toned:
            self._toned[hertz] = arrived(self.assessment, data_tones(hertz))
        return self._toned[hertz]

    def louder(self, by_db: float) -> Floats:
        """The volts of somebody who speaks, or a computer that is turned, up by so much."""
        made: Floats = self.volts * 10 ** (by_db / 20)
        return made


def on_air(
    station: Station,
    chain_id: str | None = None,
    variant_id: str | None = None,
    effort: Effort | None = None,
    own: Sound | None = None,
    verdict: Verdict | None = None,
) -> OnAir:
    """Solve a chain and send a voice through it: the operator's, with an effort, or a recording.

    ``own`` has an active level of one unit, ``verdict`` is the chain's where it is known. Raises
    KeyError for unknown ids, CircuitError without a solution, NoSetError for a socket that no
    guide knows.
    """
    verdict = verdict or verdict_of(station, chain_id, variant_id)
    assessment = verdict.assessment
    compiled = assessment.solution.compiled
    chain, socket = compiled.chain, assessment.rows[-1].gear
    operator = station.operator(chain.operator)
    mode = MODES[chain.purpose]
    if not chain.purpose_facts.spoken:
        spoken = data_tones(DATA_HZ) if mode == "data" else tone(DATA_S, PACKET_HZ)
    elif own is not None:
        spoken = own
    else:
        spoken = voice(operator.pitch, effort or operator.effort)
    # the chain was computed for the operator's own effort: another one moves the level as well
    other_db = 0.0
    if effort is not None and own is None and chain.purpose_facts.spoken:
        other_db = EFFORT_DB[effort] - EFFORT_DB[operator.effort]
    loud = spoken.times(10 ** (other_db / 20))
    device = station.device_by_port.get(socket.id)
    power = device.power_w if device is not None else None
    sends = device.transmitter if device is not None else Transmitter()
    figures = figures_of(socket, 100.0 if power is None else power.value, sends)
    return OnAir(
        verdict=verdict,
        basis=basis_of(station, chain_id, variant_id),
        mode=mode,
        figures=figures,
        spoken=spoken,
        volts=arrived(assessment, loud),
        radio=device.name if device is not None else socket.name,
        typical=tuple(_typical(socket, power)),
    )


def arrived(assessment: Assessment, spoken: Sound) -> Floats:
    """Volts at the radio's input for a sound of one unit at the source; shape (n,) at AUDIO_HZ."""
    made = through(assessment.solution, assessment.rows, spoken).all().at_rate(AUDIO_HZ)
    return made.samples


def data_tones(hertz: float) -> Sound:
    """Two equal tones around the transmit tone of a data mode."""
    return two_tones(DATA_S, (hertz - DATA_APART_HZ / 2, hertz + DATA_APART_HZ / 2))


_ASKED = (
    ("wants_dbu", "what its socket wants"),
    ("gain_range_db", "the range of its gain"),
    ("window_low_dbu", "what its socket wants"),
)


def _typical(socket: Gear, power: Figure | None) -> Iterator[str]:
    for asked, words in _ASKED:
        if asked in socket.figures() and socket.figure(asked).basis == "typical":
            yield words
    if power is None or power.basis == "typical":
        yield f"its power, {100.0 if power is None else power.value:g} W"


def figures_of(socket: Gear, power_w: float, sends: Transmitter) -> SetFigures:
    """A transmitter's figures from its socket and its box; what nobody said is typical."""
    return replace(
        _by_socket(socket, power_w),
        alc_full_db=sends.alc_full_db.value,
        alc_attack_s=sends.alc_attack_s.value,
        alc_hang_s=sends.alc_hang_s.value,
        alc_release_db_per_s=max(sends.alc_falls_db.value, 1.0),
        compressor_attack_s=sends.compressor_attack_s.value,
        compressor_release_s=sends.compressor_release_s.value,
        products_db=max(sends.products_db.value, LEAST_UNDER_DB),
        carrier_db=max(sends.carrier_db.value, LEAST_UNDER_DB),
        other_sideband_db=max(sends.other_sideband_db.value, LEAST_UNDER_DB),
        noise_db=max(sends.noise_db.value, LEAST_UNDER_DB),
        deviation_hz=sends.deviation_hz.value,
    )


def _by_socket(socket: Gear, power_w: float) -> SetFigures:
    if isinstance(socket, MicrophoneSocket):
        return SetFigures.of_levels(
            socket.wants_dbu.value,
            socket.clip_dbu.value,
            power_w=power_w,
            gain_range_db=socket.gain_range_db.value,
            marked_to=socket.marked_to.value,
            compressor_ratio=max(socket.compressor_ratio.value, LEAST_RATIO),
            clips_rf=socket.works_on == "rf",
        )
    if isinstance(socket, FixedSocket):
        middle = (socket.window_low_dbu.value + socket.window_high_dbu.value) / 2
        unit = float(np.sqrt(2)) * volts_from_dbu(middle + DATA_ROOM_DB)
        overload = float(np.sqrt(2)) * volts_from_dbu(socket.clip_dbu.value)
        return replace(SetFigures(unit, overload, power_w=power_w), fixed_gain=True)
    raise NoSetError(
        f"nobody knows what a {socket.noun} does to what comes in: it is no radio's socket"
    )
