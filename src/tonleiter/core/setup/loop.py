"""Setting the computer in front of a radio: from a lead that lies there to a loop, both ways.

The desk's devices and defaults, the way out with what keys the radio, the way back. What the radio
itself makes of the level is the business of the mode's own scene, which is asked.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace

from tonleiter.core.desk.back import Back, lay_back
from tonleiter.core.desk.devices import roles_words
from tonleiter.core.desk.plugging import alter, call, choose, give, plug_in, switch_box
from tonleiter.core.guide.controls import Control, Zone, at, control
from tonleiter.core.guide.meters import Meter, Scale
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.guide.scene import Scene
from tonleiter.core.guide.step import AIR, Move, Step, turn
from tonleiter.core.judge.findings.model import MOVE, SEVERITIES, Finding, Fix
from tonleiter.core.once import cached_property
from tonleiter.core.setup.loop_base import (
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
)
from tonleiter.core.setup.loop_findings import Told, told
from tonleiter.core.station.computer import ALTERING_WORDS, Altering, Way
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import KNOBS, KnobId, MeterId, PanelState
from tonleiter.core.units.levels import signed
from tonleiter.core.words import count_of, listed, one_or

# a switch that is made less sensitive still has so much to spare
MIDDLE_SPARE_DB = 12.0
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
                Meter(Scale("strongest", 80.0), max(strong, 0.0), _under(strong), STRONGEST)
            )
            made.append(Meter(Scale("noise", 100.0), max(noise, 0.0), _under(noise), self._noise()))
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
        yield self._names()
        if self.back is None:
            yield self._no_way_back()
        yield self._defaults()
        yield self._programs()
        yield self._altering()
        yield self._slider_step()
        yield self._level()
        if self.sent.listens:
            yield self._hang()
        yield from self._back_steps()

    @staticmethod
    def _edit(title: str, change: Callable[[Station], Station]) -> Fix:
        return Fix(title, change, "", MOVE)

    def _names(self) -> Step:
        desk, me = self.desk, self.desk.sends
        computer, made, clock = desk.computer.id, None, self.there.clock
        says = (
            "Look at the system's list of sound devices, plug the lead in, look again: what is new"
            " is the radio."
        )
        if not me.plugged:
            made = Move(
                f"Plug in “{me.called}”.",
                "the radio is a loudspeaker and a microphone to the computer",
                fix=self._edit(
                    f"Plug in {me.called}", lambda s: plug_in(s, computer, me.id, clock)
                ),
            )
        elif me.asleep:
            made = Move(
                f"Switch the {desk.radio} on.",
                f"“{me.called}” is in the list because USB feeds it: behind it nothing listens",
                fix=self._edit(
                    f"Switch the {desk.radio} on", lambda s: switch_box(s, computer, me.id, True)
                ),
            )
        elif desk.twice():
            other = f"{me.called}, {desk.radio}"[:80]
            made = Move(
                f"Two devices are called “{me.called}”. Name the radio's “{other}”.",
                "pull one lead and see which line goes: that is how one knows",
                fix=self._edit(f"Call it “{other}”", lambda s: call(s, computer, me.id, other)),
            )
        shown = f"“{me.called}”" if me.plugged else "not plugged in"
        return Step("names", "Which one is the radio?", says, shown, made)

    def _defaults(self) -> Step:
        desk, made = self.desk, None
        computer = desk.computer.id
        taken = desk.taken
        says = (
            "The system makes what was plugged in last its default. Give every default back to the"
            " desk: only the data program may know the radio."
        )
        if taken:
            made = Move(
                f"Give the {roles_words(taken)} back to the desk.",
                "your system's sounds stop going on the air; the data program keeps the radio",
                fix=self._edit("Give it back to the desk", lambda s: give(s, computer, taken)),
            )
        elif lost := desk.nowhere():
            made = Move(
                f"Choose a device for: the {roles_words(lost)}.",
                "what was chosen is not there; the system takes the first of its list",
                fix=self._edit("Give it to the desk", lambda s: give(s, computer, lost)),
            )
        shown = "taken by the radio" if taken else "at the desk"
        return Step("defaults", "Defaults back to the desk", says, shown, made)

    def _programs(self) -> Step:
        desk, made = self.desk, None
        computer = desk.computer.id
        wrong = self._wrong_ways()
        says = (
            "In the data program, and only there, name the radio: as its output, to send, and as"
            " its input, to receive."
        )
        if wrong:
            to: dict[Way, str | None] = {
                way: (desk.out if way == "out" else desk.into) for way in wrong
            }
            words = listed([f"{'output' if w == 'out' else 'input'}" for w in wrong])
            name = desk.sends.called
            made = Move(
                f"In the data program choose “{name}” as its {words}.",
                "to the computer the transmitter is a loudspeaker and the receiver a microphone",
                fix=self._edit(
                    f"Choose “{name}” in the data program", lambda s: choose(s, computer, to)
                ),
            )
        shown = "named in the program" if not wrong else "not named there"
        return Step("program", "The data program uses it", says, shown, made)

    def _wrong_ways(self) -> tuple[Way, ...]:
        """Ways for which the data program does not name the radio's device itself."""
        desk = self.desk
        wanted: dict[Way, str | None] = {"out": desk.out, "in": desk.into}
        return tuple(
            way
            for way, device in wanted.items()
            if device is not None and desk.state.program.get(way) != device
        )

    def _altering(self) -> Step:
        on, computer, made = self.desk.state.altering, self.desk.computer.id, None
        if on:
            names = listed([ALTERING_WORDS[a] for a in on])
            made = Move(
                f"Switch off: {names}.",
                "a modem wants what it sent, and hears what the band sent: nothing in between",
                fix=self._edit(
                    "Switch all of it off",
                    lambda s: alter(s, computer, dict.fromkeys(on, False)),
                ),
            )
        says = "Nothing of the system may alter, add to, or pass on what goes through the radio."
        return Step("off", "Everything that alters audio off", says, _on_words(on), made)

    def _slider_step(self) -> Step:
        program = self.control("program")
        assert program is not None
        sent, knobs = self.sent, [c for c in self.controls if c.id == "slider"]
        if not program.fits():
            return turn(
                "program-level",
                "Level in the program",
                "Peaks of what is sent must stay under full scale.",
                (program,),
                "over full scale a converter cuts: every signal gets wider",
                f"peaks at {signed(sent.peak_dbfs, 0)} dBFS",
            )
        if not sent.listens:
            return turn(
                "slider",
                "Slider, well under full scale",
                "No switch listens to it: the slider stands well over the converter's noise and"
                " well under its end.",
                tuple(knobs),
                "the level is set behind it",
                f"{signed(sent.out_dbfs, 0)} dBFS",
            )
        spare = self.reads("spare", self.keyed.spare_db or 0.0)
        says = (
            "From zero up until the interface keys, and 6 dB more; then leave it, and set the level"
            " behind it."
        )
        made = Step(
            "slider",
            "Slider up until it keys, and 6 dB",
            says,
            "read it" if spare is None else _spare_words(spare),
            None,
            tuple(k.id for k in knobs) or ("level",),
            "spare",
            "If nothing keys at all: another device is sent to, or the switch of the interface is"
            " set to be keyed by a line.",
            AIR,
        )
        if spare is None:
            ask = Move(
                "Type by how many decibels the slider may come down until it keys no more.",
                "0 where it does not key",
                asks=True,
            )
            return replace(made, move=ask)
        if (move := self._less_sensitive(spare)) is not None:
            return replace(made, move=move)
        if spare >= SPARE[0] - NEAR_DB:
            return made
        return replace(made, move=self._louder(SPARE_AT_DB - spare, _why_spare(spare)))

    def _less_sensitive(self, spare: float) -> Move | None:
        """A switch that noise opens, or every click: its threshold goes up, if it has a knob."""
        sent, threshold = self.sent, self.control("threshold")
        by_noise = sent.noise_dbfs >= sent.switch.threshold_db
        if not by_noise and (spare <= SPARE[1] + NEAR_DB or threshold is None):
            return None
        if threshold is None:
            return Move(
                "Its switch cannot be made less sensitive: switch it off, and key by a line.",
                f"the converter's own noise, {signed(sent.noise_dbfs, 0)} dBFS, opens it",
                at_end=True,
            )
        to = round(threshold.value + spare - MIDDLE_SPARE_DB)
        if by_noise:
            to = max(to, round(sent.noise_dbfs + SPARE_AT_DB))
        why = "hiss keys it" if by_noise else "so far over, every click and beep keys it as well"
        to = int(threshold.held(to))
        return Move(
            f"{threshold.title.capitalize()} {threshold.said(to)}.", why, {"threshold": float(to)}
        )

    def _louder(self, by_db: float, why: str) -> Move:
        """Slider first, then the program, then the switch's threshold."""
        left = by_db
        knobs: dict[KnobId, float] = {}
        names: tuple[KnobId, ...] = ("slider", "program")
        for name in names:
            found = self.control(name)
            if found is None or abs(left) < NEAR_DB:
                continue
            to = found.held(round((found.value + left) / found.step) * found.step)
            if to != found.value:
                knobs[found.id] = to
                left -= to - found.value
        threshold = self.control("threshold")
        if abs(left) >= 1.0 and threshold is not None:
            to = threshold.held(round(threshold.value - left))
            if to != threshold.value:
                knobs["threshold"] = to
                left += to - threshold.value
        if not knobs:
            word = "more" if by_db > 0 else "less"
            return Move(
                f"Nothing is left to turn: {abs(by_db):.0f} dB {word} are wanted.",
                f"{why}; turn the program's own level, which Gear (1) has as “program against it”",
                at_end=True,
            )
        said = [f"{c.title} to {c.said(v)}" for n, v in knobs.items() if (c := self.control(n))]
        text = listed(said)
        return Move(f"{text[:1].upper()}{text[1:]}.", why, knobs)

    def _level(self) -> Step:
        """The radio's own step; where its knob is at its end, what lies before it first."""
        found = next((s for s in self.radio.own_steps() if s.id == "level"), None)
        title = f"Level at the {self.sent.knob_place}"
        if found is None:
            return Step("level", title, "", "", None)
        found = replace(found, title=title)
        knob = self.radio.control("level")
        if found.move is not None and knob is not None and "level" in found.move.knobs:
            by = found.move.knobs["level"] - knob.value
            said = f"{'Up' if by > 0 else 'Down'} {abs(by):.1f} dB at the {self.sent.knob_place}."
            found = replace(found, move=replace(found.move, says=said))
        if found.move is None or knob is None or not knob.stuck() or knob.aim is None:
            return found
        short = (knob.aim[0] + knob.aim[1]) / 2 - knob.value
        names: tuple[KnobId, ...] = ("slider", "program")
        room = [c for n in names if (c := self.control(n)) is not None and c.value < c.high]
        peaks = -PEAKS_UNDER_DB - self.sent.peak_dbfs
        if short <= 0 or not room or min(short, peaks) < NEAR_DB:
            return found
        made = self._louder(min(short, peaks), f"the {self.sent.knob_title} stands at its end")
        return replace(found, move=made)

    def _hang(self) -> Step:
        (knob,) = (c for c in self.controls if c.id == "hang")
        if knob.aim is not None and not knob.fits():
            # its least, and not the middle of what would do
            knob = knob.with_aim((knob.low, knob.low))
        lost = self.keyed.lost_s(self.sent.answers_after_s)
        return turn(
            "hang",
            "Hang time to its least",
            f"The other station answers after some {self.sent.answers_after_s:.2g} s: what the"
            " switch hangs on for is transmitted over the reply.",
            (knob,),
            f"the reply's first {lost:.1f} s are lost" if lost > LOST_S else "nothing is lost",
            if_nothing="It must be longer than gaps within what is sent: else it lets go there.",
        )

    def _back_steps(self) -> Iterator[Step]:
        back = self.back
        if back is None:
            return
        marks = [c for c in self.controls if c.id in ("volume", "squelch")]
        yield turn(
            "mark",
            "Receiver: volume at a mark, squelch open",
            "Put the radio's volume to a marked place and leave it there; squelch open, so that"
            " nothing is cut off.",
            tuple(c for c in marks if not c.fits()) or tuple(marks),
            "its own stage clips before the converter does"
            if any(c.id == "volume" and not c.fits() for c in marks)
            else "a shut squelch takes the beginning of each reply",
            _marked(marks, back),
        )
        yield self._hears(back)

    def _hears(self, back: Back) -> Step:
        knobs = [c for c in self.controls if c.id in ("receive", "record")]
        reading = self.reads("strongest", self.strongest_db)
        says = (
            "Raise it until the display is busy: strong signals some 20 dB under full scale, so the"
            f" noise lies some {STRONGEST_AT_DB + max(back.under_strong_db, 0):.0f} under it."
        )
        made = Step(
            "receive",
            "Receive level",
            says,
            "read it" if reading is None else f"strong ones {_under(reading)}",
            None,
            tuple(c.id for c in knobs),
            "strongest",
            "If nothing comes: the data program listens elsewhere; else see the chain"
            f" “{back.chain}” on the Ladder (3).",
        )
        if reading is None:
            return replace(
                made,
                move=Move(
                    "Type how far a strong signal stays under full scale, in decibels.",
                    "as the data program's meter shows it",
                    asks=True,
                ),
            )
        off = [c for c in knobs if not c.fits()]
        if not off:
            return made
        to = {c.id: c.target() for c in off if abs(c.target() - c.value) >= c.step / 2}
        short = reading > STRONGEST[1]
        why = "weak signals drown in the converter" if short else "a strong one leaves no room"
        if not to:
            volume = self.control("volume")
            up = reading - STRONGEST_AT_DB
            if (
                volume is not None
                and short
                and (v := volume.held(volume.value + up)) > volume.value
            ):
                return replace(
                    made,
                    move=Move(
                        f"{volume.title.capitalize()} up {v - volume.value:.0f} dB; mark it there.",
                        f"receive knob and slider stand at their ends; {why}",
                        {"volume": v},
                    ),
                )
            word = "more" if short else "less"
            return replace(
                made,
                move=Move(
                    f"Knob and slider stand at their ends: {abs(up):.0f} dB {word} are wanted.",
                    "the lead back must change: its chain is on the Ladder (3)",
                    at_end=True,
                ),
            )
        said = listed([f"{c.title} to {c.said(to[c.id])}" for c in off if c.id in to])
        return replace(made, move=Move(f"{said[:1].upper()}{said[1:]}.", why, to))

    def _no_way_back(self) -> Step:
        desk, station = self.desk, self.there.station
        laid = lay_back(station, self.case.basis.chain, desk)
        says = "What the receiver hears must come back into the computer: to it, a microphone."
        chain = self.case.basis.chain
        if laid is None:
            move = Move(
                f"Enter what the {desk.radio} gives (loudspeaker socket or fixed output) and what"
                f" “{desk.sends.called}” listens with, in Gear (1).",
                "without both sockets nobody can say what arrives",
                at_end=True,
            )
        else:
            move = Move(
                f"Lay a lead from the {desk.radio}'s output to the input of {desk.sends.called}.",
                "the chain is then in the list, to look at on the Ladder (3)",
                fix=Fix(
                    "Lay the way back",
                    lambda s: lay_back(s, chain, desk) or s,
                    "",
                    MOVE,
                ),
            )
        return Step("way-back", "The way back", says, "nothing leads back", move)

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
        return (
            f"The loop works both ways: it {how}, strong signals stay {_under(self.strongest_db)}."
        )

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


def _under(db: float) -> str:
    return f"{db:.0f} dB under full scale" if db >= 0 else f"{-db:.0f} dB over full scale"


def _spare_words(spare: float) -> str:
    return f"{spare:.0f} dB to spare" if spare >= 0 else f"{-spare:.0f} dB short of keying"


def _why_spare(spare: float) -> str:
    if spare < 0:
        return "it does not key"
    return f"it keys with {spare:.0f} dB to spare: a little less, and it drops out"


def _on_words(on: tuple[Altering, ...]) -> str:
    return (
        "all off" if not on else f"{count_of(len(on), 'thing')} {one_or(len(on), 'is', 'are')} on"
    )


def _marked(knobs: list[Control], back: Back) -> str:
    volume = next((c.said() for c in knobs if c.id == "volume"), "")
    squelch = next(c for c in knobs if c.id == "squelch")
    where = f"volume {volume}" if back.turns_volume else "fixed output"
    return f"{where}, {'open' if squelch.fits() else 'squelch shut'}"


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
