"""The way out: from the program's level to the radio's socket, and what keys for it.

The station says how far under full scale the program runs (a source's *program against it*); what
is turned in the program, in the system and at the interface comes on top. A voice switch of an
interface listens before the interface's own knob, one of the radio at its socket.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from tonleiter.core.desk.devices import Desk
from tonleiter.core.desk.keying import BY_LINE, Keyed, Switch, keyed_by_voice
from tonleiter.core.desk.law import mark_of_db
from tonleiter.core.gear.line_sources import LineSource
from tonleiter.core.gear.signals import SIGNALS, SINE_CREST_DB, SignalId
from tonleiter.core.solve.levels import StageLevels
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station.devices import Device
from tonleiter.core.station.transmit import BY_COMPUTER
from tonleiter.core.station.wiring import TransmitWay
from tonleiter.core.units.levels import volts_from_dbu

# a radio's own voice control opens so far under the middle of what its socket wants, in so many
# seconds, and hangs on from here to there; typical
RADIO_OPENS_UNDER_DB, RADIO_ATTACK_S, RADIO_HANG_MS = 15.0, 0.01, (100.0, 2000.0)
# how long after the end of a transmission an answer begins: packet at once, others after a breath
ANSWERS_AFTER_S: dict[str, float] = {"packet": 0.15, "data": 0.5}
# a system's sounds, against full scale: no louder than speech in a player; typical
BEEP_DBFS = -15.0
# from one side of a small converter to the other; typical
CROSSTALK_DB = -70.0


@dataclass(frozen=True)
class Turned:
    """What stands at the computer and its interface, in dB; hang time in ms."""

    program_db: float
    slider_db: float
    level_db: float
    threshold_db: float
    hang_ms: float


@dataclass(frozen=True)
class Sent:
    """Levels of what is sent, RMS; dBFS against the RMS of a full-scale sine.

    ``out_dbfs`` leaves the converter, ``out_v`` are its open volts, ``socket_dbu`` arrives at the
    radio's pins. ``listens`` says whether a voice switch keys.
    """

    program_dbfs: float
    out_dbfs: float
    peak_dbfs: float
    out_v: float
    socket_dbu: float
    slider_mark: float
    way: TransmitWay | None
    listens: bool
    switch: Switch
    threshold_turns: bool
    hang_ends_ms: tuple[float, float]
    keyed: Keyed
    answers_after_s: float
    noise_dbfs: float
    knob_title: str
    knob_place: str

    @property
    def keyed_by(self) -> str:
        """What keys it, where no switch listens."""
        if self.way is None or self.way not in BY_COMPUTER:
            return "by hand"
        return "by a line of the computer"

    def over_threshold_db(self, dbfs: float) -> float:
        """How far a level that leaves the converter lies over what opens the switch."""
        return dbfs - self.switch.threshold_db

    def crosstalk_loop_db(self, record_db: float, slider_db: float) -> float:
        """Gain round from the converter's output into its input and back, listened to."""
        return CROSSTALK_DB + record_db + slider_db


def switch_of(
    way: TransmitWay | None,
    box: Device,
    turned: Turned,
    opens_dbfs: float,
) -> tuple[Switch, bool, tuple[float, float]]:
    """The switch that listens, whether its threshold turns, and the ends of its hang time in ms.

    ``opens_dbfs`` is what must leave the converter to open the radio's own.
    """
    if way == "vox":
        hang = min(max(turned.hang_ms, RADIO_HANG_MS[0]), RADIO_HANG_MS[1])
        return Switch(opens_dbfs, RADIO_ATTACK_S, hang / 1000), False, RADIO_HANG_MS
    facts = box.switch
    ends = (1000 * facts.hang_least_s.value, 1000 * facts.hang_most_s.value)
    turns = facts.threshold == "knob"
    threshold = turned.threshold_db if turns else facts.keys_at_db.value
    hang = min(max(turned.hang_ms, ends[0]), ends[1])
    return Switch(threshold, facts.attack_s.value, hang / 1000), turns, ends


def sent_of(
    rows: Sequence[StageLevels],
    signal: SignalId,
    spoken: Sound,
    mode: str,
    way: TransmitWay | None,
    desk: Desk,
    box: Device,
    turned: Turned,
) -> Sent:
    """The way out of a solved chain whose source is a computer's.

    ``spoken`` is what the mode sends, with an RMS of one.
    """
    source = rows[0].gear
    assert isinstance(source, LineSource)
    below = source.below_full_db.value
    program = below + turned.program_db
    out = program + turned.slider_db
    if desk.is_own:
        # one control is both: what the page calls level is the system's own slider
        out += turned.level_db
    after_db = out - below if desk.is_own else out - below + turned.level_db
    socket = rows[-2].speech_dbu + after_db
    window = rows[-1].window
    middle = socket if window is None else (window.low_dbu + window.high_dbu) / 2
    opens = out - (socket - (middle - RADIO_OPENS_UNDER_DB))
    switch, turns, ends = switch_of(way, box, turned, opens)
    listens = way in ("interface-vox", "vox")
    loud = 10 ** (out / 20)
    heard = keyed_by_voice(spoken.samples * loud, spoken.rate_hz, switch) if listens else BY_LINE
    own = desk.is_own
    return Sent(
        program_dbfs=program,
        out_dbfs=out,
        peak_dbfs=out + SIGNALS[signal].crest_db - SINE_CREST_DB,
        out_v=volts_from_dbu(source.full_scale_dbu.value + out),
        socket_dbu=socket,
        slider_mark=mark_of_db(turned.level_db if own else turned.slider_db),
        way=way,
        listens=listens,
        switch=switch,
        threshold_turns=turns and way == "interface-vox",
        hang_ends_ms=ends,
        keyed=heard,
        answers_after_s=ANSWERS_AFTER_S.get(mode, 0.5),
        noise_dbfs=source.noise_dbu.value - source.full_scale_dbu.value,
        knob_title="system slider" if own else "transmit knob",
        knob_place="computer" if own else "interface",
    )
