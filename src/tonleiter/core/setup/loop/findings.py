"""What is wrong with a loop: defaults, programs, what alters, keying, levels both ways.

Each with the few words that lead the page's headline, what proves it, and the guide's own move.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tonleiter.core.desk.devices import ROLE_WORDS, roles_words
from tonleiter.core.desk.sent import BEEP_DBFS
from tonleiter.core.guide.controls import at
from tonleiter.core.guide.scene import ON_THE_PANEL
from tonleiter.core.judge.findings.codes import declare
from tonleiter.core.judge.findings.model import Finding, Severity
from tonleiter.core.setup.loop.base import (
    CLIPS_UNDER_DB,
    LOST_S,
    PEAKS_UNDER_DB,
    SPARE,
    STRONGEST,
    LoopBase,
)
from tonleiter.core.station.computer import ALTERING_WORDS, SystemRole
from tonleiter.core.units.levels import signed
from tonleiter.core.words import listed, sentence, the

UNPLUGGED = declare("desk-not-plugged-in", ON_THE_PANEL)
ASLEEP = declare("desk-radio-is-off", ON_THE_PANEL)
SAME_NAME = declare("desk-two-of-one-name", ON_THE_PANEL)
BEEPS = declare("desk-beeps-on-air", ON_THE_PANEL)
TAKEN = declare("desk-default-taken", ON_THE_PANEL)
NOWHERE = declare("desk-default-nowhere", ON_THE_PANEL)
ELSEWHERE = declare("desk-program-elsewhere", ON_THE_PANEL)
DEAF = declare("desk-program-hears-elsewhere", ON_THE_PANEL)
BY_DEFAULT = declare("desk-program-by-default", ON_THE_PANEL)
ALTERED = declare("desk-sound-altered", ON_THE_PANEL)
FED_BACK = declare("desk-feeds-back", ON_THE_PANEL)
DOES_NOT_KEY = declare("loop-does-not-key", ON_THE_PANEL)
KEYS_BARELY = declare("loop-keys-barely", ON_THE_PANEL)
KEYS_ALWAYS = declare("loop-keys-by-noise", ON_THE_PANEL)
LETS_GO = declare("loop-lets-go-within", ON_THE_PANEL)
REPLY_LOST = declare("loop-reply-lost", ON_THE_PANEL)
CLIPS_OUT = declare("loop-full-scale-out", ON_THE_PANEL)
NO_WAY_BACK = declare("loop-no-way-back", ON_THE_PANEL)
HEARS_LITTLE = declare("loop-hears-little", ON_THE_PANEL)
HEARS_TOO_MUCH = declare("loop-full-scale-in", ON_THE_PANEL)
OUTPUT_CLIPS = declare("loop-radio-output-clips", ON_THE_PANEL)
SQUELCHED = declare("loop-squelch-shut", ON_THE_PANEL)


@dataclass(frozen=True)
class Told:
    """A finding and the few words for it in a headline."""

    finding: Finding
    short: str


def told(scene: LoopBase) -> Iterator[Told]:
    """Everything that is to be said, in the order of the guide."""
    desk = scene.desk
    if not desk.sends.plugged:
        yield _of(
            scene,
            UNPLUGGED,
            "stop",
            desk.sends.called,
            f"“{desk.sends.called}” is not plugged in",
            "nothing is sent, and nothing comes back",
            "the radio is not plugged into the computer yet",
            "names",
        )
        return
    yield from _devices(scene)
    yield from _program(scene)
    yield from _altered(scene)
    if not desk.sends.asleep:
        yield from _keying(scene)
    yield from _levels_out(scene)
    yield from _way_in(scene)


def _of(
    scene: LoopBase,
    code: str,
    severity: Severity,
    place: str,
    says: str,
    proof: str,
    short: str,
    step: str,
    **evidence: float,
) -> Told:
    fixes = scene.fixes_of(step)
    return Told(scene.finding(code, severity, place, says, proof, evidence, fixes), short)


def _devices(scene: LoopBase) -> Iterator[Told]:
    desk, me = scene.desk, scene.desk.sends
    if me.asleep:
        yield _of(
            scene,
            ASLEEP,
            "stop",
            desk.radio,
            f"{sentence(the(desk.radio))} is switched off",
            f"“{me.called}” is listed all the same: USB feeds it",
            "the radio is switched off, though its sound device is listed",
            "names",
        )
    if desk.twice():
        yield _of(
            scene,
            SAME_NAME,
            "mind",
            me.called,
            f"Two devices are called “{me.called}”",
            "a program that names one may get the other after the next start",
            f"two devices are called “{me.called}”",
            "names",
        )
    yield from _taken(scene)
    if lost := desk.nowhere():
        names = roles_words(lost)
        yield _of(
            scene,
            NOWHERE,
            "mind",
            names,
            f"What was chosen as {names} is not there",
            "the system takes the first of its list without saying so",
            f"the {names} points to what is not there",
            "defaults",
        )


def _taken(scene: LoopBase) -> Iterator[Told]:
    """Defaults that the radio holds: the system's sounds go on the air, or into what is sent."""
    desk, sent = scene.desk, scene.sent
    taken = desk.taken
    if not taken:
        return
    at_time = desk.state.taken_at
    when = f" since {at_time}" if at_time else ""
    proof = f"“{desk.sends.called}” is the {ROLE_WORDS[taken[0]]}{when}"
    sounds = "system-out" in taken and "system-sounds" in desk.state.altering
    if sounds:
        loud = f"a beep of {signed(BEEP_DBFS, 0)} dBFS"
        beep = BEEP_DBFS + at(scene.panel, "slider")
        over = sent.over_threshold_db(beep)
        keys = sent.listens and over >= 0
        yield _of(
            scene,
            BEEPS,
            "stop",
            ROLE_WORDS["system-out"],
            "Your system's sounds go on the air"
            if keys
            else "Your system's sounds go into what is sent",
            f"{proof}; {loud} keys it, {over:.0f} dB over the threshold"
            if keys
            else f"{proof}; what beeps while you transmit is transmitted",
            "your system's beeps go on the air"
            if keys
            else "your system's beeps go into what you send",
            "defaults",
            over_threshold_db=over,
        )
    rest: tuple[SystemRole, ...] = tuple(r for r in taken if not (sounds and r == "system-out"))
    if rest:
        names = roles_words(rest)
        out = any(r.endswith("out") for r in taken)
        says = "the desk loudspeakers are silent" if out else "calls hear the band, not you"
        yield _of(
            scene,
            TAKEN,
            "mind",
            names,
            f"The radio is the {names}",
            f"{proof}; {says}",
            f"the radio became the {names}",
            "defaults",
        )


def _program(scene: LoopBase) -> Iterator[Told]:
    desk = scene.desk
    to, hears = desk.program("out"), desk.program("in")
    if to is None or to.id != desk.out:
        where = "nowhere" if to is None else f"into “{to.called}”"
        yield _of(
            scene,
            ELSEWHERE,
            "stop",
            "data program",
            f"The data program sends {where}, not into the radio",
            f"“{desk.sends.called}” leads there",
            "the data program does not send into the radio",
            "program",
        )
    into = desk.device(desk.into)
    if into is not None and (hears is None or hears.id != into.id):
        where = "nothing" if hears is None else f"“{hears.called}”"
        yield _of(
            scene,
            DEAF,
            "stop",
            "data program",
            f"The data program hears {where}, not the receiver",
            f"“{into.called}” brings it: to the computer the receiver is a microphone",
            "the data program hears something else than the receiver",
            "program",
        )
    follows = [
        w
        for w, device in (("out", desk.out), ("in", desk.into))
        if device is not None and w not in desk.state.program
    ]
    right = to is not None and to.id == desk.out
    if follows and right:
        yield _of(
            scene,
            BY_DEFAULT,
            "mind",
            "data program",
            "The data program follows the system's default",
            "it goes wherever the next device that is plugged in takes that",
            "the data program follows the default, wherever that goes",
            "program",
        )


def _altered(scene: LoopBase) -> Iterator[Told]:
    desk, sent = scene.desk, scene.sent
    on = desk.state.altering
    if "listen" in on and scene.back is not None:
        out = desk.holder("system-out")
        round_db = sent.crosstalk_loop_db(scene.after_db, at(scene.panel, "slider"))
        if out is not None and out.id == desk.out and not desk.is_own:
            back_dbfs = -scene.strongest_db + at(scene.panel, "slider")
            over = sent.over_threshold_db(back_dbfs)
            keys = sent.listens and over >= 0
            yield _of(
                scene,
                FED_BACK,
                "stop",
                "listen to this device",
                "What you receive keys the transmitter"
                if keys
                else "What you receive is sent back out",
                f"it goes back out at {signed(back_dbfs, 0)} dBFS"
                + (f", {over:.0f} dB over what keys" if keys else "")
                + f"; the converter's own crosstalk goes round with {signed(round_db, 0)} dB",
                "what you receive is transmitted again",
                "off",
                returned_dbfs=back_dbfs,
                over_threshold_db=over,
                round_db=round_db,
            )
    # sounds of the system count where they go into the radio, and listening where it feeds back
    bends = [a for a in on if a in ("enhancements", "automatic-gain")]
    if bends:
        names = listed([ALTERING_WORDS[a] for a in bends])
        yield _of(
            scene,
            ALTERED,
            "mind",
            names,
            f"The system alters the sound: {names}",
            "tones of its own in what is sent; noise raised to full between signals"
            if "automatic-gain" in bends
            else "filters and limiters bend what a modem made",
            f"{names} {'alter' if len(bends) > 1 else 'alters'} what goes through",
            "off",
        )


def _keying(scene: LoopBase) -> Iterator[Told]:
    sent, keyed = scene.sent, scene.keyed
    if not sent.listens:
        return
    spare = keyed.spare_db or 0.0
    threshold = sent.switch.threshold_db
    proof = f"it opens at {signed(threshold, 0)} dBFS, {signed(sent.out_dbfs, 0)} dBFS are sent"
    if sent.noise_dbfs >= threshold:
        yield _of(
            scene,
            KEYS_ALWAYS,
            "stop",
            "voice switch",
            "The converter's own noise keys the transmitter",
            f"noise of {signed(sent.noise_dbfs, 0)} dBFS opens a switch at {signed(threshold, 0)}",
            "it transmits by itself: the converter's noise keys it",
            "slider",
        )
    elif not keyed.keys:
        yield _of(
            scene,
            DOES_NOT_KEY,
            "stop",
            "voice switch",
            "What is sent does not key the transmitter",
            f"{proof}: {-spare:.0f} dB short",
            "nothing keys the transmitter",
            "slider",
            spare_db=spare,
        )
    elif keyed.gaps:
        yield _of(
            scene,
            LETS_GO,
            "stop",
            "voice switch",
            "The switch lets go while it is sent",
            f"{keyed.gaps} times; hang time {1000 * sent.switch.hang_s:.0f} ms",
            "the switch lets go in the middle of what is sent",
            "slider",
            gaps=float(keyed.gaps),
        )
    elif spare < SPARE[0]:
        yield _of(
            scene,
            KEYS_BARELY,
            "mind",
            "voice switch",
            f"It keys with {spare:.0f} dB to spare",
            f"{proof}; 6 dB are wanted",
            f"the interface keys with {spare:.0f} dB to spare",
            "slider",
            spare_db=spare,
        )
    lost = scene.lost_s
    if keyed.keys and lost > LOST_S:
        yield _of(
            scene,
            REPLY_LOST,
            "mind",
            "hang time",
            f"The reply's first {lost:.1f} s are lost",
            f"{1000 * sent.switch.hang_s:.0f} ms of hang; the other station answers after"
            f" {sent.answers_after_s:.2g} s",
            f"the reply loses its first {lost:.1f} s",
            "hang",
            lost_s=lost,
        )


def _levels_out(scene: LoopBase) -> Iterator[Told]:
    over = scene.sent.peak_dbfs
    if over > -PEAKS_UNDER_DB + 0.05:
        yield _of(
            scene,
            CLIPS_OUT,
            "stop" if over > 0 else "mind",
            "program",
            "What is sent reaches full scale" if over <= 0 else "What is sent is cut at full scale",
            f"its peaks stand at {signed(over, plus=True)} dBFS",
            "what is sent reaches full scale" if over <= 0 else "what is sent is cut at full scale",
            "program-level",
            peak_dbfs=over,
        )


def _way_in(scene: LoopBase) -> Iterator[Told]:
    if scene.back is None:
        yield _of(
            scene,
            NO_WAY_BACK,
            "mind",
            "way back",
            "Nothing leads back from the receiver",
            "no chain of the station goes from the radio's output into the computer",
            "nothing comes back from the receiver",
            "way-back",
        )
        return
    if at(scene.panel, "squelch") > 0:
        yield _of(
            scene,
            SQUELCHED,
            "mind",
            "squelch",
            "The squelch is not open",
            "it takes the beginning of each reply, and weak ones whole",
            "the squelch takes the beginning of each reply",
            "mark",
        )
    volume = at(scene.panel, "volume")
    if volume > scene.back.clips_db - CLIPS_UNDER_DB + 0.05:
        yield _of(
            scene,
            OUTPUT_CLIPS,
            "mind",
            "radio's volume",
            "The radio's output stage clips on strong signals",
            f"the volume stands {signed(volume, 0)} dB over what the station says",
            "the radio's own output stage clips",
            "mark",
        )
    under = scene.strongest_db
    if under < STRONGEST[0] - 0.5:
        yield _of(
            scene,
            HEARS_TOO_MUCH,
            "stop" if under < 3 else "mind",
            "receive level",
            "Strong signals reach full scale"
            if under < 3
            else "Strong signals come near full scale",
            f"{under:.0f} dB are left; 20 are wanted",
            "strong signals are cut at full scale" if under < 3 else "strong signals leave no room",
            "receive",
            under_full_scale_db=under,
        )
    elif under > STRONGEST[1] + 0.5:
        yield _of(
            scene,
            HEARS_LITTLE,
            "mind",
            "receive level",
            f"Little comes in: strong signals lie {under:.0f} dB under full scale",
            "20 are wanted; weak ones drown in the converter's own noise",
            "little comes in",
            "receive",
            under_full_scale_db=under,
        )
