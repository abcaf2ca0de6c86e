"""Why the radio's gain stands where it does, why so much room, noise, hum, bass."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.circuit.elements import Capacitor, CircuitError
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.report.why.hangs import hangs_on
from tonleiter.core.report.why.model import Step, Why
from tonleiter.core.solve.compiled import VOICE
from tonleiter.core.solve.levels import SILENT_DBU, StageLevels
from tonleiter.core.solve.makers import bass_makers
from tonleiter.core.units.levels import format_dbu, signed
from tonleiter.core.units.quantity import FARAD, HENRY, HERTZ, format_quantity
from tonleiter.core.words import the

MOST_SHARES = 3
LEAST_SHARE = 0.01


def why_knob(now: Assessment) -> Why | None:
    """Where the radio's own gain control will stand; None without one. Raises StoppedError."""
    row = now.rows[-1]
    knob = row.knob
    if knob is None or row.speech_dbu < SILENT_DBU:
        return None
    gear = row.gear
    figures = gear.figures()
    wants = gear.figure("wants_dbu").value if "wants_dbu" in figures else None
    reach = gear.figure("gain_range_db").value if "gain_range_db" in figures else None
    if wants is None or reach is None:
        return None
    # a tone whose peaks stand lower may be louder for the same peaks
    aim = row.speech_dbu + (knob.turn - 0.5) * reach
    steps = [
        *_led_to(now),
        Step(f"with its gain in the middle {the(row.name)} wants", format_dbu(wants), gear.id,
             "wants_dbu"),
        Step("it gets more, so the gain goes down by" if row.speech_dbu > aim else
             "it gets less, so the gain goes up by", f"{abs(aim - row.speech_dbu):.1f} dB"),
        Step("the whole way of the control moves", f"{reach:g} dB", gear.id, "gain_range_db"),
        Step(f"so from the middle of {knob.marked_to:g} it goes to", knob.mark),
    ]  # fmt: skip
    if aim != wants:
        by = signed(aim - wants, 1, plus=True)
        steps.insert(
            2, Step("whose peaks stand otherwise than those of speech, so here", f"{by} dB")
        )
    return Why(f"Why will the gain stand at {knob.mark}?", tuple(steps)).with_hangs(
        hangs_on(now, _mark, lambda v: _printed_mark(v, row))
    )


def _mark(now: Assessment) -> float | None:
    knob = now.rows[-1].knob
    return None if knob is None else knob.turn * knob.marked_to


def _printed_mark(value: float, row: StageLevels) -> str:
    knob = row.knob
    whole = knob is not None and knob.marked_to >= 20
    return f"{value:.0f}" if whole else f"{value:.1f}"


def _led_to(now: Assessment) -> Iterator[Step]:
    """The level that stands at the radio, in one line."""
    row = now.rows[-1]
    yield Step(
        f"speech arrives at {the(row.name)} with" if now.voice.signal.id == "speech"
        else f"{now.voice.signal.noun} arrives at {the(row.name)} with",
        format_dbu(row.speech_dbu),
        now.rows[0].gear.id,
    )  # fmt: skip


def why_room(now: Assessment, index: int) -> Why | None:
    """How far peaks stay clear of a stage's ceiling; None without one. Raises StoppedError."""
    row = now.rows[index]
    room, clips = row.headroom_db, row.clips_at_dbu
    if room is None or clips is None or row.ceiling_dbu is None or row.speech_dbu < SILENT_DBU:
        return None
    crest = row.peak_dbu - row.speech_dbu
    named = _ceiling_field(row)
    word = "clear" if room >= 0 else "over it"
    steps = (
        Step(f"speech at {the(row.name)}", format_dbu(row.speech_dbu), now.rows[0].gear.id),
        Step("its peaks stand over that by", f"{crest:.1f} dB"),
        Step("so peaks come to", format_dbu(row.peak_dbu)),
        Step(f"the largest clean sine of {the(row.name)}", format_dbu(row.ceiling_dbu), row.gear.id,
             named),
        Step("whose own peaks stand 3 dB higher, at", format_dbu(clips)),
        Step(f"so peaks are {word} by", f"{abs(room):.1f} dB"),
    )  # fmt: skip
    how = f"{room:.0f} dB of room" if room >= 0 else f"{-room:.0f} dB too much"
    told = Why(f"Why {how} at {the(row.name)}?", steps)
    return told.with_hangs(
        hangs_on(now, lambda a: a.rows[index].headroom_db, lambda v: f"{signed(v)} dB of room")
    )


def _ceiling_field(row: StageLevels) -> str:
    found = [f for f in row.gear.figures() if f in ("clip_dbu", "max_spl_db", "full_scale_dbu")]
    return found[0] if found else ""


def why_noise(now: Assessment) -> Why | None:
    """What the noise at the radio is made of; None where nothing is heard. Raises StoppedError."""
    row = now.rows[-1]
    if row.speech_dbu < SILENT_DBU:
        return None
    shares = sorted(
        now.solution.noise_shares_at(len(now.rows) - 1).items(), key=lambda one: -one[1]
    )
    low, high = now.solution.compiled.chain.band
    steps = [
        Step(f"of speech, between {low:g} and {high:g} Hz, there stand at {the(row.name)}",
             format_dbu(row.speech_in_band_dbu), now.rows[0].gear.id),
        Step("of noise, in the same band", format_dbu(row.noise_dbu)),
    ]  # fmt: skip
    for name, share in shares[:MOST_SHARES]:
        if share < LEAST_SHARE:
            break
        gear, called = _source_of(now, name)
        steps.append(Step(f"of its power comes from {called}", f"{share:.0%}", gear))
    if row.noise_lifted_db > 0.05:
        steps.append(
            Step("compression lifts it, between words, by", f"{row.noise_lifted_db:.1f} dB")
        )
    steps.append(Step("so speech lies over it by", f"{row.snr_db:.1f} dB"))
    return Why(f"Why {row.snr_db:.0f} dB over the noise?", tuple(steps)).with_hangs(
        hangs_on(now, lambda a: a.rows[-1].snr_db, lambda v: f"{signed(v)} dB")
    )


def _source_of(now: Assessment, name: str) -> tuple[str, str]:
    if name == VOICE:
        room = now.solution.compiled.room_dba
        return VOICE, f"the room, {room:.0f} dBA at the microphone"
    row = next((r for r in now.rows if r.id == name), None)
    return (row.gear.id, f"{the(row.name)}") if row is not None else ("", "what stands beside it")


def why_bass(now: Assessment) -> Why | None:
    """Which parts make the corner in the bass; None where there is none. Raises StoppedError."""
    corner = now.corners_hz[0]
    if corner is None:
        return None
    steps = [Step("level has fallen by 3 dB from the middle of the band at",
                  format_quantity(corner, HERTZ, 2))]  # fmt: skip
    try:
        makers = bass_makers(now.solution, corner)
    except CircuitError:
        makers = []
    for maker in makers[:MOST_SHARES]:
        if maker.share < LEAST_SHARE:
            break
        row = now.rows[maker.stage]
        element = maker.element
        what = (
            format_quantity(element.farad, FARAD, 2)
            if isinstance(element, Capacitor)
            else format_quantity(element.henry, HENRY, 2)
        )
        own = format_quantity(maker.own_hz, HERTZ, 2)
        says = f"{what} in {the(row.name)}, with what stands around it, falls from"
        # two windings on one core are one thing
        if says not in {s.says for s in steps}:
            steps.append(Step(says, own, row.gear.id))
    return Why(f"Why bass from {format_quantity(corner, HERTZ, 2)}?", tuple(steps)).with_hangs(
        hangs_on(now, lambda a: a.corners_hz[0], lambda v: format_quantity(v, HERTZ, 2))
    )


def why_hum(now: Assessment) -> Why | None:
    """Where the hum at the radio comes from; None where nothing drives any. Raises StoppedError."""
    row = now.rows[-1]
    if row.hum_dbu is None or row.speech_dbu < SILENT_DBU:
        return None
    under = row.speech_dbu - row.hum_dbu
    parts = sorted(now.solution.hum.at_end_v.items(), key=lambda one: -one[1])
    power = sum(v * v for _, v in parts) or 1.0
    steps = [
        Step(f"hum at {the(row.name)}", format_dbu(row.hum_dbu)),
        Step("speech there", format_dbu(row.speech_dbu), now.rows[0].gear.id),
        Step("so hum lies under speech by", f"{under:.1f} dB"),
    ]
    for name, volts in parts[:MOST_SHARES]:
        share = volts * volts / power
        if share < LEAST_SHARE:
            break
        gear, called = _hum_source(now, name)
        steps.append(Step(f"of its power is driven by {called}", f"{share:.0%}", gear))
    return Why(f"Why hum {under:.0f} dB under speech?", tuple(steps)).with_hangs(
        hangs_on(now, _hum_under, lambda v: f"{v:.1f} dB under")
    )


def _hum_under(now: Assessment) -> float | None:
    row = now.rows[-1]
    return None if row.hum_dbu is None else row.speech_dbu - row.hum_dbu


def _hum_source(now: Assessment, name: str) -> tuple[str, str]:
    """A stage by its id, another box as ``@id``, data in a lead as ``&id``."""
    if name.startswith("@"):
        box = now.station.device_by_id.get(name[1:])
        return "", f"{the(box.name)}" if box is not None else "another box"
    if name.startswith("&"):
        link = next((x for x in now.station.links if x.id == name[1:]), None)
        return "", f"{the(link.name)}" if link is not None else "a lead"
    return _source_of(now, name)
