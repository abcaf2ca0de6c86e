"""Rules about level: ceilings, windows, microphone into line, line into microphone."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import Meaning, declare
from tonleiter.core.judge.findings.model import Finding, Fix, Severity
from tonleiter.core.judge.findings.suggestions import (
    change_gain,
    change_pad,
    insert_pad,
    insert_preamp,
    leave_out,
)
from tonleiter.core.solve.levels import StageLevels
from tonleiter.core.station import edits
from tonleiter.core.units.levels import format_dbu, format_volts, signed

LINE_INTO_MIC = declare("line-into-mic", Meaning(level=True))
MIC_INTO_LINE = declare("mic-into-line")
OVER_CEILING = declare("over-ceiling", Meaning(level=True))
UNDER_WINDOW = declare("under-window")
OVER_WINDOW = declare("over-window")
LEVEL_RIGHT = declare("level-right")

MIC_BELOW_DBU = -32.0  # speech weaker than this is microphone level, whatever the socket says
LINE_ABOVE_DBU = -28.0  # and stronger than this is line level
TIGHT_DB = 3.0


def _before(case: Case, index: int) -> StageLevels:
    return case.rows[index - 1]


def _takes_microphone_level(row: StageLevels) -> bool:
    return row.gear.input_for() == "microphone"


def _socket_aim_dbu(row: StageLevels) -> float:
    """Speech level to aim for at a microphone input."""
    window = row.window
    if row.gear.role == "input" and window:
        return window.middle_dbu
    return -50.0


def _is_line_into_mic(case: Case, index: int) -> bool:
    row = case.rows[index]
    if index == 0 or not _takes_microphone_level(row):
        return False
    window = row.window if row.gear.role == "input" else None
    limit = max(LINE_ABOVE_DBU, window.high_dbu + 6.0) if window else LINE_ABOVE_DBU
    return _before(case, index).speech_dbu > limit


def line_into_microphone_input(case: Case) -> Iterator[Finding]:
    """Tens of dB too hot for a microphone socket."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows):
        if not _is_line_into_mic(case, k):
            continue
        speech = _before(case, k).speech_dbu
        excess = speech - _socket_aim_dbu(row)
        fixes = [insert_pad(case, k, excess), *_quieter(case, k, excess)]
        yield Finding(
            code=LINE_INTO_MIC,
            severity="stop",
            stage=row.id,
            says=f"Line level goes into the microphone input of the {row.name}",
            proof=(
                f"{format_dbu(speech)} of speech, {format_volts(speech)}, where about"
                f" {format_dbu(_socket_aim_dbu(row), 0)} is wanted: {excess:.0f} dB too hot"
            ),
            evidence={"speech_dbu": speech, "excess_db": excess},
            fixes=tuple(f for f in fixes if f),
        )


def microphone_into_line_input(case: Case) -> Iterator[Finding]:
    """A line input adds its hum and hiss to so little."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows[1:], start=1):
        if row.gear.input_for() != "line" or row.window is None:
            continue
        speech = _before(case, k).speech_dbu
        if speech >= MIC_BELOW_DBU:
            continue
        need = row.window.low_dbu + 6 - row.speech_dbu
        own = case.solution.noise_shares_at(case.last).get(row.id, 0.0)
        fixes = [
            *_louder(case, k - 1, need),
            insert_preamp(case, k, need),
            leave_out(case, k),
        ]
        yield Finding(
            code=MIC_INTO_LINE,
            severity="mind",
            stage=row.id,
            says=f"Microphone level goes into the line input of the {row.name}: hum and hiss",
            proof=(
                f"{format_dbu(speech)} of speech at its input; its own noise makes"
                f" {own:.0%} of all noise at the radio"
            ),
            evidence={"speech_dbu": speech, "noise_share": own},
            fixes=tuple(fixes),
        )


def over_ceiling(case: Case) -> Iterator[Finding]:
    """Peaks that a stage cannot pass."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows):
        headroom = row.headroom_db
        if headroom is None or headroom >= TIGHT_DB or _is_line_into_mic(case, k):
            continue
        severity: Severity = "stop" if headroom < 0 else "mind"
        too_much = TIGHT_DB + 3 - headroom
        what = "are clipped in" if headroom < 0 else "come close to the ceiling of"
        fixes: list[Fix | None] = [change_gain(case, k, -too_much)]
        fixes += _quieter(case, k, too_much)
        if k > 0:
            fixes.append(insert_pad(case, k, too_much))
        yield Finding(
            code=OVER_CEILING,
            severity=severity,
            stage=row.id,
            says=f"Peaks {what} the {row.name}",
            proof=(
                f"peaks of {format_dbu(row.peak_dbu)} against a ceiling of"
                f" {format_dbu(row.ceiling_dbu or 0)}: {signed(headroom, 1, plus=True)} dB"
            ),
            evidence={
                "peak_dbu": row.peak_dbu,
                "ceiling_dbu": row.ceiling_dbu or 0.0,
                "headroom_db": headroom,
            },
            fixes=tuple(f for f in fixes if f),
        )


def outside_window(case: Case) -> Iterator[Finding]:
    """Too little adds noise, too much distorts; each box has a window where it works best."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows):
        window = row.window
        if window is None or _is_line_into_mic(case, k):
            continue
        if row.headroom_db is not None and row.headroom_db < 0:
            continue  # already clipped: the worse finding speaks
        if window.low_dbu <= row.speech_dbu <= window.high_dbu:
            continue
        under = row.speech_dbu < window.low_dbu
        distance = window.low_dbu - row.speech_dbu if under else row.speech_dbu - window.high_dbu
        to_middle = window.middle_dbu - row.speech_dbu
        # a step into the window is enough for a box; a radio is brought to the middle
        delta = to_middle if k == case.last else (distance + 2) * (1 if under else -1)
        word, side = ("too little", "below") if under else ("too much", "above")
        yield Finding(
            code=UNDER_WINDOW if under else OVER_WINDOW,
            severity="mind",
            stage=row.id,
            says=f"The {row.name} gets {word}: {distance:.0f} dB {side} its window",
            proof=(
                f"{format_dbu(row.speech_dbu)} of speech, {format_volts(row.speech_dbu)};"
                f" it works best from {format_dbu(window.low_dbu, 0)} to"
                f" {format_dbu(window.high_dbu, 0)}"
            ),
            evidence={
                "speech_dbu": row.speech_dbu,
                "window_low_dbu": window.low_dbu,
                "window_high_dbu": window.high_dbu,
            },
            fixes=tuple(_into_window(case, k, delta)),
        )


def _into_window(case: Case, index: int, delta_db: float) -> Iterator[Fix]:
    if fix := change_gain(case, index, delta_db):
        yield fix
    yield from (
        _louder(case, index - 1, delta_db) if delta_db > 0 else _quieter(case, index, -delta_db)
    )
    if index == 0:
        return
    if delta_db > 0:
        yield from _closer(case, delta_db)
        yield insert_preamp(case, index, delta_db)
    elif fix := insert_pad(case, index, -delta_db):
        yield fix


def _louder(case: Case, upto: int, delta_db: float) -> Iterator[Fix]:
    """More gain before: pads first, since they cost nothing."""
    for k in range(upto, 0, -1):
        if fix := change_pad(case, k, delta_db):
            yield fix
        elif case.rows[k].gear.is_pad:
            yield leave_out(case, k)
        if fix := change_gain(case, k, delta_db):
            yield fix


def _quieter(case: Case, index: int, delta_db: float) -> Iterator[Fix]:
    """Less before stage ``index``: a pad that is there already, else gain."""
    for k in range(index - 1, 0, -1):
        if fix := change_pad(case, k, -delta_db):
            yield fix
        if fix := change_gain(case, k, -delta_db):
            yield fix


def _closer(case: Case, delta_db: float) -> Iterator[Fix]:
    distance = case.solution.compiled.chain.distance_mm.value
    if distance >= 40 and delta_db <= 12:
        near = max(20.0, round((distance + 10) / 10 ** (delta_db / 20) - 10))
        yield Fix(
            f"Speak closer, at {near / 10:g} cm",
            lambda station: edits.change_chain(station, case.chain_id, distance_mm=near),
            "also lifts speech over the room",
        )


def level_right(case: Case) -> Iterator[Finding]:
    """Say so when the radio gets what it wants."""
    row = case.rows[-1]
    window = row.window
    if case.is_dead() or window is None:
        return
    if window.low_dbu <= row.speech_dbu <= window.high_dbu:
        yield Finding(
            code=LEVEL_RIGHT,
            severity="fine",
            stage=row.id,
            says=f"The {row.name} gets the level it wants",
            proof=(
                f"{format_dbu(row.speech_dbu)}, window {format_dbu(window.low_dbu, 0)} to"
                f" {format_dbu(window.high_dbu, 0)}; {row.snr_db:.0f} dB over the noise"
            ),
            evidence={"speech_dbu": row.speech_dbu, "snr_db": row.snr_db},
        )


rules = (
    line_into_microphone_input,
    microphone_into_line_input,
    over_ceiling,
    outside_window,
    level_right,
)
