"""The rule about noise: what makes it, and what acts on that."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.gear.acoustics import SpokenInto
from tonleiter.core.gear.active import Compressor
from tonleiter.core.gear.turning import turned
from tonleiter.core.judge.findings.adjusting import change_pad, may_leave_out
from tonleiter.core.judge.findings.amplifying import insert_preamp
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import Meaning, declare
from tonleiter.core.judge.findings.lips import FAR_MM, closer
from tonleiter.core.judge.findings.model import ADD, MOVE, TURN, Finding, Fix
from tonleiter.core.judge.findings.squeeze import GATE_UNDER_DB
from tonleiter.core.judge.findings.suggestions import leave_out
from tonleiter.core.solve.compiled import VOICE
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.words import the

NOISE_HEARD = declare("noise-heard", Meaning(noise=True))

# a room that is louder than this has something running in it that can be switched off
FAN_DBA, QUIET_DBA = 44.0, 36.0


def noise_heard(case: Case) -> Iterator[Finding]:
    """The purpose wants more than there is: say what makes the noise."""
    row = case.rows[-1]
    wanted = case.purpose.snr_at_least_db
    if case.is_dead() or row.snr_db >= wanted:
        return
    shares = case.solution.noise_shares_at(case.last)
    if not shares:
        return
    worst = max(shares, key=lambda name: shares[name])
    room = worst == VOICE
    source = "The room" if room else _named(case, worst)
    verb = "is heard between words" if case.solution.compiled.acoustic else "is heard"
    fixes = _over_the_room(case) if room else _over_a_stage(case, worst)
    yield Finding(
        code=NOISE_HEARD,
        severity="mind",
        stage=case.rows[0].id if room else worst,
        says=f"{source} {verb}",
        proof=(
            f"{case.what} only {row.snr_db:.0f} dB over the noise, {wanted:.0f} dB are wanted;"
            f" {shares[worst]:.0%} of it {'is the room' if room else 'comes from there'}"
        ),
        evidence={"snr_db": row.snr_db, "off_db": wanted - row.snr_db, "share": shares[worst]},
        fixes=tuple(fixes),
        at_the_lips=room and case.distance_mm >= FAR_MM,
    )


def _named(case: Case, stage: str) -> str:
    row = next(r for r in case.rows if r.id == stage)
    return f"The noise of {the(row.name)}"


def _over_the_room(case: Case) -> Iterator[Fix]:
    """Closer, quieter, a capsule that hears less of it, less lifted between words."""
    short = case.purpose.snr_at_least_db - case.rows[-1].snr_db
    far = case.distance_mm >= FAR_MM
    if far:
        yield from closer(case, short)
    yield from _quiet_room(case)
    if not far:
        yield from closer(case, short)
    yield from _less_squeezed(case)
    yield from _gate(case)
    yield from _hears_less(case)


def _quiet_room(case: Case) -> Iterator[Fix]:
    if case.station.room_noise_dba.value >= FAN_DBA:
        yield Fix(
            f"Switch off what runs in the room, down to {QUIET_DBA:.0f} dBA",
            lambda station: edits.change_station(station, room_noise_dba=QUIET_DBA),
            "a fan, a power supply, an open window",
            MOVE,
        )


def _less_squeezed(case: Case) -> Iterator[Fix]:
    """Compressors lift what lies between words by as much as they take off the words."""
    for k, row in enumerate(case.rows):
        if row.noise_lifted_db < 3.0:
            continue
        box = row.gear.kind_id == "compressor"
        off = f"Bypass {the(row.name)}" if box else f"Switch off the compressor of {the(row.name)}"
        for field, value in row.gear.uncompressed():
            yield Fix(
                off,
                case.setting(k, {field: value}),
                f"it lifts the room by {row.noise_lifted_db:.0f} dB against speech",
                TURN,
            )


def _gate(case: Case) -> Iterator[Fix]:
    for k, row in enumerate(case.rows):
        if not isinstance(row.gear, Compressor) or row.gear.gate != "off":
            continue
        field, value = row.gear.gated_below(round(row.speech_dbu - GATE_UNDER_DB))
        close = case.setting(k, {field: value, "gate": "on"})
        # it hides the room between words only: a patch
        yield Fix(
            f"Switch on the gate of {the(row.name)}", close, "soft words may be lost with it", ADD
        )


def _hears_less(case: Case) -> Iterator[Fix]:
    """Another capsule: directional, or noise-cancelling where lips come close enough."""
    microphone = case.rows[0].gear
    if not isinstance(microphone, SpokenInto):
        return
    ways = {"all-round": ("directional", "noise-cancelling"), "directional": ("noise-cancelling",)}
    for other in ways.get(microphone.pattern, ()):
        yield Fix(
            f"Use a {other} capsule",
            case.setting(0, {"pattern": other}),
            "only with both its faces open",
            ADD,
        )


def _over_a_stage(case: Case, worst: str) -> Iterator[Fix]:
    """More level into what makes the noise: from before it, or by a preamp right before it."""
    index = next(k for k, r in enumerate(case.rows) if r.id == worst)
    short = case.purpose.snr_at_least_db - case.rows[-1].snr_db + 3.0
    if index == 0:
        if case.solution.compiled.acoustic:
            yield from closer(case, short)
        yield from _gate(case)
        return
    yield from _up_before_down_behind(case, index, short)
    yield from _less_lost(case, index, short)
    yield from closer(case, short)
    yield from _gate(case)
    yield insert_preamp(case, index, max(short, 10.0))


def _less_lost(case: Case, index: int, delta_db: float) -> Iterator[Fix]:
    """A pad before what makes the noise: another one, or none."""
    for k in range(index - 1, 0, -1):
        if not may_leave_out(case, k):
            continue
        if fix := change_pad(case, k, delta_db):
            yield fix
        yield leave_out(case, k)


def _up_before_down_behind(case: Case, index: int, delta_db: float) -> Iterator[Fix]:
    """Two controls moved against each other leave the level at the radio and lower the noise."""
    for k in range(index - 1, -1, -1):
        ahead, behind = case.rows[k].gear, case.rows[index].gear
        up = turned(ahead, delta_db, *case.solution.around(k))
        if up is None or up.moved_db < 1.0:
            continue
        title = f"Turn {the(ahead.name)} up to {ahead.setting_words(up.value)}"
        edits_of = [(k, up.field, up.value)]
        if (down := turned(behind, -up.moved_db, *case.solution.around(index))) is not None:
            title += f" and {the(behind.name)} down to {behind.setting_words(down.value)}"
            edits_of.append((index, down.field, down.value))

        def both(station: Station, edits_of: list[tuple[int, str, float]] = edits_of) -> Station:
            for place, field, value in edits_of:
                station = case.set_value(station, place, field, value)
            return station

        yield Fix(title, both, "", TURN)


rules = (noise_heard,)
