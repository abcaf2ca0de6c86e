"""The way back: the radio's receiver into the computer, through a chain of the station.

To the computer it is a microphone. Its levels stand against the converter's full scale; how strong
signals and the noise of the band lie to each other is the radio's doing: its gain control holds
strong ones, and an FM set with its squelch open gives noise as loud as any signal.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from tonleiter.core.desk.devices import Desk, lines_back, way_back
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.passives import Cable
from tonleiter.core.gear.radio_outputs import LoudspeakerOutput
from tonleiter.core.gear.sockets import LineInput
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.station import edits
from tonleiter.core.station.model import Chain, Stage, Station, Variant
from tonleiter.core.units.levels import power_sum_db

# how far the noise of an empty channel lies under what strong signals come to; typical
UNDER_STRONG_DB: dict[str, float] = {
    "ssb": 30.0,
    "data": 30.0,
    "am": 25.0,
    "fm": -3.0,
    "packet": -3.0,
}


@dataclass(frozen=True)
class Back:
    """What comes back, at the converter, in dB against full scale, as knobs come.

    ``clips_db``: by how much the radio's volume may be turned up until its own stage clips.
    """

    chain: str
    strongest_dbfs: float
    own_noise_dbfs: float
    under_strong_db: float
    clips_db: float
    turns_volume: bool
    verdict: Verdict

    def noise_dbfs(self, volume_db: float, after_db: float) -> float:
        """Noise between signals: the band's, and what the chain adds behind the volume."""
        band = self.strongest_dbfs + volume_db + after_db - self.under_strong_db
        return power_sum_db(band, self.own_noise_dbfs + after_db)


def back_of(
    station: Station,
    chain_id: str,
    desk: Desk,
    mode: str,
    verdicts: Callable[[Station, str], Verdict] = verdict_of,
) -> Back | None:
    """The way back of a chain, solved; None where the station has none. Raises CircuitError."""
    socket = station.chain(chain_id).variant().stages[-1].gear
    sends = station.device_by_id[desk.out]
    found = way_back(station, sends, desk.computer, station.device_by_port.get(socket))
    if not found:
        return None
    verdict = verdicts(station, found[0])
    rows, first = verdict.assessment.rows, verdict.assessment.rows[0].gear
    last = rows[-1].gear
    assert isinstance(last, LineInput)
    full = last.clip_dbu.value
    turns = isinstance(first, LoudspeakerOutput)
    return Back(
        chain=found[0],
        strongest_dbfs=rows[-1].speech_dbu - full,
        own_noise_dbfs=rows[-1].noise_dbu - full,
        under_strong_db=UNDER_STRONG_DB.get(mode, 30.0),
        clips_db=-first.below_full_db.value if isinstance(first, LoudspeakerOutput) else math.inf,
        turns_volume=turns,
        verdict=verdict,
    )


def outputs_of(station: Station, radio_port: str) -> Iterator[Gear]:
    """What a radio gives of what it hears: sockets of its box that are no inputs."""
    box = station.device_by_port.get(radio_port)
    for port in box.ports if box is not None else ():
        piece = station.gear_by_id[port]
        if piece.role == "microphone" and not piece.acoustic and port != radio_port:
            yield piece


def lay_back(station: Station, chain_id: str, desk: Desk) -> Station | None:
    """The station with a chain from the radio's output into the box; None where sockets lack."""
    chain = station.chain(chain_id)
    socket = chain.variant().stages[-1].gear
    outputs = list(outputs_of(station, socket))
    sends = station.device_by_id[desk.out]
    inputs = sorted(lines_back(station, sends, desk.computer), key=lambda p: p not in sends.ports)
    if not outputs or not inputs:
        return None
    lead = Cable(id=edits.fresh_id({g.id for g in station.gear}, "lead back"), name="lead back")
    station = edits.add_gear(station, lead)
    taken = {c.id for c in station.chains}
    name = f"{desk.radio} into the computer"[:80]
    stages = tuple(Stage(gear=g) for g in (outputs[0].id, lead.id, inputs[0]))
    made = Chain(
        id=edits.fresh_id(taken, name),
        name=name,
        purpose=chain.purpose,
        operator=chain.operator,
        variants=(Variant(id="straight", name="straight", stages=stages),),
        shown="straight",
    )
    return edits.change_station(station, chains=(*station.chains, made))
