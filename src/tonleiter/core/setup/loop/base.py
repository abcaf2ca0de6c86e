"""What the computer's page rests on: the desk, the way out, the way back, in figures."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

from tonleiter.core.desk.back import Back
from tonleiter.core.desk.devices import Desk
from tonleiter.core.desk.keying import Keyed
from tonleiter.core.desk.sent import Sent, Turned, sent_of
from tonleiter.core.guide.controls import Zone, at
from tonleiter.core.guide.onair import ModeId, OnAir
from tonleiter.core.guide.scene import LiveSet, Scene
from tonleiter.core.judge.findings.model import Fix
from tonleiter.core.once import cached_property
from tonleiter.core.signal.spectrum import Spectrum
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import MeterId, PanelState
from tonleiter.core.station.transmit import way_of

# what is sent keys with so much to spare: at least that, and no more than keeps beeps and noise out
SPARE: Zone = (5.0, 24.0)
SPARE_AT_DB = 6.0
# strong signals, and the noise between them, under the converter's full scale
STRONGEST: Zone = (15.0, 25.0)
STRONGEST_AT_DB = 20.0
NOISE: Zone = (35.0, 62.0)
# peaks of what is sent stay so far under full scale
PEAKS_UNDER_DB = 1.0
# the radio's own stage keeps so much room
CLIPS_UNDER_DB = 3.0
# a tail that takes less of a reply than this is no loss: a modem's lead-in is longer
LOST_S = 0.02
# a level is right within half the least that one turns
NEAR_DB = 0.3


@dataclass(frozen=True, eq=False)
class AtTheDesk:
    """What a loop is set on besides the radio's case: the station now, its desk, its way back.

    ``clock`` is the time of day that a plugging is noted with; None where nobody looks at it.
    """

    station: Station
    desk: Desk
    back: Back | None
    clock: str | None = None


class LoopBase(Scene):
    """Figures of the loop; ``radio`` is the scene of the mode, which knows the radio."""

    mode: ClassVar[ModeId] = "loop"
    title: ClassVar[str] = "The loop"

    def __init__(
        self,
        case: OnAir,
        panel: PanelState,
        own: Mapping[MeterId, float] | None,
        there: AtTheDesk,
        radio: Scene,
    ) -> None:
        super().__init__(case, panel, own)
        self.there, self.radio = there, radio
        self.desk, self.back = there.desk, there.back

    @cached_property
    def sent(self) -> Sent:
        """Levels from full scale to the socket, and what keys for it."""
        case, panel, station = self.case, self.panel, self.there.station
        rows = case.assessment.rows
        compiled = case.assessment.solution.compiled
        # the chain's own box, whatever the system calls its devices
        box = station.device_by_port[rows[0].gear.id]
        way = way_of(compiled.variant.wiring, rows[0].gear, rows[-1].gear)
        usual = box.switch.keys_at_db.value
        return sent_of(
            rows,
            compiled.chain.purpose_facts.signal,
            case.spoken,
            case.mode,
            way,
            self.desk,
            box,
            Turned(
                program_db=at(panel, "program"),
                slider_db=at(panel, "slider"),
                level_db=at(panel, "level"),
                threshold_db=panel.knobs.get("threshold", usual),
                hang_ms=at(panel, "hang"),
            ),
        )

    @property
    def keyed(self) -> Keyed:
        """What keys the radio, when, how long."""
        return self.sent.keyed

    @property
    def lost_s(self) -> float:
        """How much of a reply is transmitted over."""
        return self.keyed.lost_s(self.sent.answers_after_s)

    @property
    def after_db(self) -> float:
        """What is turned behind the radio's volume."""
        return at(self.panel, "receive") + at(self.panel, "record")

    @property
    def strongest_db(self) -> float:
        """How far strong signals lie under the converter's full scale."""
        assert self.back is not None
        volume = at(self.panel, "volume")
        return -(self.back.strongest_dbfs + volume + self.after_db)

    @property
    def noise_db(self) -> float:
        """How far the noise between signals lies under it."""
        assert self.back is not None
        return -self.back.noise_dbfs(at(self.panel, "volume"), self.after_db)

    def fixes_of(self, step_id: str) -> tuple[Fix, ...]:
        """What the guide would do at a step, as a fix: one remedy, whoever offers it."""
        for step in self.own_steps():
            if step.id == step_id and step.move is not None:
                move = step.move
                if move.fix is not None:
                    return (move.fix,)
                if move.knobs:
                    return (self.turned(move.says.rstrip("."), move.knobs, move.why),)
        return ()

    # --- as the radio has it ---------------------------------------------------------------------

    @cached_property
    def spectrum(self) -> Spectrum:
        """What leaves the aerial socket."""
        return self.radio.spectrum

    def audio(self, far: bool) -> Sound:
        """What a receiver hears."""
        return self.radio.audio(far)

    @classmethod
    def live(cls, case: OnAir, panel: PanelState) -> LiveSet:
        """The radio's own; the computer has no needles that move by themselves."""
        raise NotImplementedError("the scene of the mode has the live set")

    def neighbours(self) -> tuple[str, str]:
        """As the radio has it."""
        return self.radio.neighbours()


def under_end(db: float) -> str:
    """How far under or over full scale, in words."""
    return f"{db:.0f} dB under full scale" if db >= 0 else f"{-db:.0f} dB over full scale"
