"""Setting the computer in front of a radio: from a lead that lies there to a loop, both ways.

The desk's devices and defaults, the way out with what keys the radio, the way back. What the radio
itself makes of the level is the business of the mode's own scene, which is asked.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from tonleiter.core.guide.controls import Control, Zone, at, control
from tonleiter.core.guide.meters import Meter, Scale
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.guide.scene import Scene
from tonleiter.core.guide.step import Step
from tonleiter.core.judge.findings.model import SEVERITIES, Finding
from tonleiter.core.once import cached_property
from tonleiter.core.setup.loop.back_steps import back_steps, no_way_back
from tonleiter.core.setup.loop.base import (
    CLIPS_UNDER_DB,
    LOST_S,
    NEAR_DB,
    NOISE,
    PEAKS_UNDER_DB,
    SPARE,
    SPARE_AT_DB,
    STRONGEST,
    STRONGEST_AT_DB,
    AtTheDesk,
    LoopBase,
    under_end,
)
from tonleiter.core.setup.loop.desk_steps import altering, defaults, names, programs
from tonleiter.core.setup.loop.findings import Told, told
from tonleiter.core.setup.loop.out_steps import hang, level, slider
from tonleiter.core.station.settings import KNOBS, MeterId, PanelState
from tonleiter.core.units.levels import signed

# without a switch that listens: well over the converter's noise, well under its end
UNHEARD: Zone = (-24.0, -6.0)


class LoopScene(LoopBase):
    """The computer's page: devices, levels to the socket, keying, the way back."""

    @cached_property
    def meters(self) -> tuple[Meter, ...]:
        """What the switch has to spare, strong signals and noise coming back, the radio's own."""
        made = []
        spare = self.keyed.spare_db
        if spare is not None:
            says = f"keys with {spare:.0f} dB to spare" if spare >= 0 else f"{-spare:.0f} dB short"
            made.append(Meter(Scale("spare", 40.0), max(spare, 0.0), says, SPARE))
        if self.back is not None:
            strong, noise = self.strongest_db, self.noise_db
            made.append(
                Meter(Scale("strongest", 80.0), max(strong, 0.0), under_end(strong), STRONGEST)
            )
            made.append(
                Meter(Scale("noise", 100.0), max(noise, 0.0), under_end(noise), self._noise())
            )
        return (*made, *self.radio.meters)

    def _noise(self) -> Zone | None:
        """Noise under full scale; nobody minds where an FM set's is as loud as its signals."""
        back = self.back
        return NOISE if back is not None and back.under_strong_db > 10 else None

    # --- knobs -----------------------------------------------------------------------------------

    @cached_property
    def controls(self) -> tuple[Control, ...]:
        """Program, slider, the interface's knobs, its switch; the radio's volume, the way in."""
        level = self.radio.control("level")
        made = [self._program(), *self._slider()]
        if level is not None:
            titled = replace(KNOBS["level"], title=self.sent.knob_title)
            made.append(replace(level, knob=titled, note=f"at the {self.sent.knob_place}"))
        made += self._switch()
        if self.back is not None:
            made += self._receive()
        return tuple(made)

    def _program(self) -> Control:
        made = control(self.panel, "program", note=f"{signed(self.sent.program_dbfs, 0)} dBFS")
        over = self.sent.peak_dbfs + PEAKS_UNDER_DB
        if over > 0:
            # from where its peaks clear the end on
            return made.with_aim((made.value - over - 2.0, made.value - over))
        return made

    def _slider(self) -> tuple[Control, ...]:
        """The system's slider; where the chain comes from the computer itself it is the level."""
        if self.desk.is_own:
            return ()
        made = control(self.panel, "slider", note=f"marked {self.sent.slider_mark:.0f}")
        spare = self.reads("spare", self.keyed.spare_db or 0.0)
        if self.sent.listens and spare is not None:
            wanted = made.value + SPARE_AT_DB - spare
            if spare < SPARE[0]:
                return (made.with_aim((wanted - NEAR_DB, wanted + NEAR_DB)),)
            # more than enough is the switch's business: the slider carries the level as well
            return (made.with_aim((made.value + SPARE[0] - spare, max(made.value, 0.0))),)
        now = self.sent.out_dbfs
        return (made.with_aim((made.value + UNHEARD[0] - now, made.value + UNHEARD[1] - now)),)

    def _switch(self) -> list[Control]:
        """Threshold and hang time of what listens."""
        if not self.sent.listens:
            return []
        switch, made = self.sent.switch, []
        if self.sent.threshold_turns:
            knob = replace(KNOBS["threshold"], usual=switch.threshold_db)
            made.append(control(self.panel, "threshold", note="dB under full scale", knob=knob))
        least, most = self.sent.hang_ends_ms
        knob = replace(KNOBS["hang"], low=least, high=most)
        made.append(control(self.panel, "hang", (least, self._longest_ms()), "after sound", knob))
        return made

    def _longest_ms(self) -> float:
        """The longest hang time that loses nothing of a reply; never under the knob's least."""
        least, _ = self.sent.hang_ends_ms
        return max(least, 1000 * (self.sent.answers_after_s + LOST_S))

    def _receive(self) -> list[Control]:
        """Volume at a mark, squelch open, then the knob, then the slider."""
        back, made = self.back, []
        assert back is not None
        knobs: list[Control] = []
        if back.turns_volume:
            clipped = at(self.panel, "volume") - back.clips_db + CLIPS_UNDER_DB
            volume = control(self.panel, "volume", note="at a marked place")
            if clipped > 0:
                volume = volume.with_aim((volume.value - clipped - 2.0, volume.value - clipped))
            made.append(volume)
        made.append(control(self.panel, "squelch", (0.0, 0.0), "open"))
        if not self.desk.is_own:
            knobs.append(control(self.panel, "receive", note="at the interface"))
        knobs.append(control(self.panel, "record", note="in the system"))
        reading = self.reads("strongest", self.strongest_db)
        if reading is not None:
            knobs = _shared(knobs, reading)
        return made + knobs

    # --- what a mode says ------------------------------------------------------------------------

    def own_steps(self) -> Iterator[Step]:
        """Names, defaults, the program, what alters, the way out, the tail, the way back."""
        yield names(self)
        if self.back is None:
            yield no_way_back(self)
        yield defaults(self)
        yield programs(self)
        yield altering(self)
        yield slider(self)
        yield level(self)
        if self.sent.listens:
            yield hang(self)
        yield from back_steps(self)

    # --- what is said ----------------------------------------------------------------------------

    def listeners_get(self) -> str:
        """The gravest that happens now, in few words; or that it works both ways."""
        short = [t.short for t in self._gravest_first()]
        if short:
            text = ", and ".join(dict.fromkeys(short[:2]))
            return f"{text[:1].upper()}{text[1:]}."
        if self.back is None:
            return "It sends; nothing comes back."
        spare = self.keyed.spare_db
        keyed = f"is keyed {self.sent.keyed_by}"
        how = f"keys with {spare:.0f} dB to spare" if spare is not None else keyed
        strong = under_end(self.strongest_db)
        return f"The loop works both ways: it {how}, strong signals stay {strong}."

    def left(self) -> str:
        """What the second thing is, where one leads; else by the guide."""
        more = [t.finding for t in self._gravest_first()]
        return f"{more[0].proof}" if more else super().left()

    @cached_property
    def _told(self) -> tuple[Told, ...]:
        return tuple(told(self))

    def _gravest_first(self) -> list[Told]:
        """What is found, stops first, in the order of the guide."""
        return sorted(self._told, key=lambda t: SEVERITIES.index(t.finding.severity))

    def own_findings(self) -> Iterator[Finding]:
        """Everything of the desk, the keying and the way back, and what the radio minds."""
        yield from (t.finding for t in self._told)
        if self.desk.sends.plugged and not self.desk.sends.asleep:
            # its knob has another name here, and slider and program come before it
            mine = self.fixes_of("level")
            for finding in self.radio.own_findings():
                yield replace(finding, fixes=mine) if finding.fixes and mine else finding


def loop_scene(
    case: OnAir,
    panel: PanelState,
    own: Mapping[MeterId, float] | None,
    there: AtTheDesk,
    radio: Scene,
) -> LoopScene:
    """The computer's page for a chain that comes from one; ``radio`` is its mode's own scene."""
    scene = LoopScene(case, panel, own, there, radio)
    scene.complete()
    return scene


def _shared(knobs: list[Control], reading: float) -> list[Control]:
    """Aims of the knobs of the way in for strong signals so far under full scale.

    The first takes what it can, the next one what is left.
    """
    by = reading - STRONGEST_AT_DB
    fits = STRONGEST[0] - NEAR_DB <= reading <= STRONGEST[1] + NEAR_DB
    made = []
    for knob in knobs:
        if fits:
            made.append(knob.with_aim((knob.value - 5.0, knob.value + 5.0)))
            continue
        to = knob.value + by
        made.append(
            knob.with_aim((to - NEAR_DB, to + NEAR_DB))
            if abs(by) >= NEAR_DB
            else knob.with_aim((knob.value - NEAR_DB, knob.value + NEAR_DB))
        )
        by -= knob.held(to) - knob.value
    return made
