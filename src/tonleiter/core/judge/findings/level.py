"""Rules about level: ceilings, windows, the radio's gain control, line into microphone and back."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from tonleiter.core.gear.passives import Transformer
from tonleiter.core.judge.findings import crystal
from tonleiter.core.judge.findings.adjusting import NEARLY_OFF_DB, adjusted, has_pad
from tonleiter.core.judge.findings.amplifying import insert_preamp, up_and_down
from tonleiter.core.judge.findings.case import LARGEST_CORE_DBU, Case, aim_dbu
from tonleiter.core.judge.findings.codes import Meaning, declare
from tonleiter.core.judge.findings.model import CHANGE, MOVE, Finding, Fix, Severity
from tonleiter.core.judge.findings.steps import TIGHT_DB, louder, not_needed, quieter
from tonleiter.core.judge.findings.suggestions import leave_out
from tonleiter.core.solve.compiled import VOICE
from tonleiter.core.solve.levels import UNHEARD_DB, StageLevels, noise_added_db
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.units.levels import format_dbu, format_volts, signed
from tonleiter.core.words import sentence, the

LINE_INTO_MIC = declare(
    "line-into-mic", Meaning(level=True, sounds=("distorted", "pumping", "squashed"))
)
MIC_INTO_LINE = declare("mic-into-line", Meaning(level=True, sounds=("quiet",)))
OVER_CEILING = declare(
    "over-ceiling", Meaning(level=True, sounds=("distorted", "pumping", "squashed"))
)
UNDER_WINDOW = declare("under-window", Meaning(level=True, sounds=("quiet",)))
OVER_WINDOW = declare(
    "over-window", Meaning(level=True, sounds=("distorted", "pumping", "squashed"))
)
LITTLE_AND_WELL = declare("little-and-well")
LEVEL_RIGHT = declare("level-right")

MIC_BELOW_DBU = -32.0  # speech weaker than this is microphone level, whatever the socket says
LINE_ABOVE_DBU = -28.0  # and stronger than this is line level
SOFT_EDGE_DB, FIXED_EDGE_DB = 2.0, 0.5


# --- line and microphone inputs -------------------------------------------------------------------


def _is_line_into_mic(case: Case, index: int) -> bool:
    row = case.rows[index]
    if index == 0 or row.gear.input_for() != "microphone":
        return False
    window = row.window if row.gear.role == "input" else None
    limit = max(LINE_ABOVE_DBU, window.high_dbu + 6.0) if window else LINE_ABOVE_DBU
    return case.rows[index - 1].speech_dbu > limit


def line_into_microphone_input(case: Case) -> Iterator[Finding]:
    """Tens of dB too hot for a microphone socket."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows):
        if not _is_line_into_mic(case, k):
            continue
        speech = case.rows[k - 1].speech_dbu
        excess = speech - aim_dbu(row)
        yield Finding(
            code=LINE_INTO_MIC,
            severity="stop",
            stage=row.id,
            says=f"Line level goes into the microphone input of {the(row.name)}",
            proof=(
                f"{format_dbu(speech)} of {case.what}, {format_volts(speech)}, where about"
                f" {format_dbu(aim_dbu(row), 0)} is wanted: {excess:.0f} dB too hot"
            ),
            evidence={"speech_dbu": speech, "off_db": excess},
            fixes=tuple(quieter(case, k, excess, excess)),
        )


def _is_mic_into_line(case: Case, index: int) -> bool:
    row = case.rows[index]
    if index == 0 or row.gear.input_for() != "line" or row.window is None:
        return False
    return case.rows[index - 1].speech_dbu < MIC_BELOW_DBU


def microphone_into_line_input(case: Case) -> Iterator[Finding]:
    """A line input adds its hum and hiss to so little, where its share of the noise says so."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows[1:], start=1):
        if not _is_mic_into_line(case, k) or row.window is None:
            continue
        speech = case.rows[k - 1].speech_dbu
        need = row.window.low_dbu + 6 - row.speech_dbu
        shares = case.solution.noise_shares_at(case.last)
        own = shares.get(row.id, 0.0)
        most = max(shares, key=lambda name: shares[name], default=row.id)
        hiss = ": hum and hiss" if most == row.id else ""
        other = "" if most == row.id else f", {_whose(case, most)} {shares[most]:.0%}"
        yield Finding(
            code=MIC_INTO_LINE,
            severity="mind",
            stage=row.id,
            says=f"Microphone level goes into the line input of {the(row.name)}{hiss}",
            proof=(
                f"{format_dbu(speech)} of {case.what} at its input; its own noise makes"
                f" {own:.0%} of all noise at the radio{other}"
            ),
            evidence={"speech_dbu": speech, "off_db": MIC_BELOW_DBU - speech, "noise_share": own},
            fixes=(
                *adjusted(case, k - 1, need),
                insert_preamp(case, k, need),
                *up_and_down(case, k, need),
                leave_out(case, k),
            ),
        )


def _whose(case: Case, name: str) -> str:
    if name == VOICE:
        return "the room"
    return next((f"{the(r.name)}" for r in case.rows if r.id == name), name)


# --- ceilings -------------------------------------------------------------------------------------


def over_ceiling(case: Case) -> Iterator[Finding]:
    """Peaks that a stage cannot pass."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows):
        headroom = row.headroom_db
        if headroom is None or headroom >= TIGHT_DB or _is_line_into_mic(case, k):
            continue
        severity: Severity = "stop" if headroom < 0 else "mind"
        step, far = _down_db(case, k, TIGHT_DB + 1 - headroom)
        step = max(step, _behind_db(case, k))
        what = "are clipped in" if headroom < 0 else "come close to the ceiling of"
        yield Finding(
            code=OVER_CEILING,
            severity=severity,
            stage=row.id,
            says=f"Peaks {what} {the(row.name)}",
            proof=(
                f"peaks of {format_dbu(row.peak_dbu)} against a ceiling of"
                f" {format_dbu(row.clips_at_dbu or 0)}: {signed(headroom, 1, plus=True)} dB"
            ),
            evidence={
                "peak_dbu": row.peak_dbu,
                "ceiling_dbu": row.ceiling_dbu or 0.0,
                "headroom_db": headroom,
                "off_db": TIGHT_DB - headroom,
            },
            fixes=(
                *_iron(case, k, step),
                *quieter(case, k, step, far, own=True),
                *not_needed(case, k),
            ),
        )


def _down_db(case: Case, index: int, least_db: float) -> tuple[float, float]:
    """How far what is there is turned down, and what is added brings it down, to end the clipping.

    Not only just under the ceiling, to be told next that it is still too much: see
    ``outside_window``.
    """
    row = case.rows[index]
    if row.window is None:
        return least_db, least_db
    above_db = row.speech_dbu - row.window.high_dbu
    above = above_db > _lenient_db(row)
    step_db = max(least_db, above_db + row.window.inside_db) if above else least_db
    # megohms in series for the sake of the middle are what strays and hum get at
    if index < case.last or crystal.is_bare(case, index):
        return step_db, step_db
    middle_db = row.speech_dbu - (row.window.middle_dbu + case.purpose.aim_db)
    return step_db, max(least_db, middle_db)


def _behind_db(case: Case, index: int) -> float:
    """By how much the radio clips as well: a control is turned once, unless that is nearly off."""
    headroom_db = case.rows[-1].headroom_db
    if index == case.last or headroom_db is None or headroom_db >= 0 or has_pad(case, case.last):
        return 0.0
    step_db, _ = _down_db(case, case.last, TIGHT_DB + 1 - headroom_db)
    return step_db if step_db < NEARLY_OFF_DB else 0.0


def _iron(case: Case, index: int, too_much_db: float) -> Iterator[Fix]:
    """A core that saturates: the pad behind it belongs before it, or a larger core in its place."""
    gear = case.rows[index].gear
    if not isinstance(gear, Transformer):
        return
    if index + 1 < case.last and case.rows[index + 1].gear.is_pad:

        def swapped(station: Station) -> Station:
            return edits.move_stage(station, case.chain_id, case.variant_id, index + 1, -1)

        pad = case.rows[index + 1].name
        yield Fix(f"Put {the(pad)} before {the(gear.name)}", swapped, "the core sees less", MOVE)
    bears = 5.0 * math.ceil((gear.saturation_dbu.value + too_much_db) / 5.0)
    if bears <= LARGEST_CORE_DBU:
        yield Fix(
            f"Swap {the(gear.name)} for one that bears {signed(bears, 0, plus=True)} dBu",
            case.setting(index, {"saturation_dbu": bears}),
            "a line transformer in place of a small one: a larger core",
            CHANGE,
        )


# --- windows --------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Off:
    """A level outside a window: by how much, and the sentence for it."""

    under: bool
    by_db: float
    says: str
    proof: str


def outside_window(case: Case) -> Iterator[Finding]:
    """Too little adds noise, too much distorts; a radio's own gain control makes up for a lot."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows):
        window = row.window
        if window is None or _is_line_into_mic(case, k):
            continue
        if row.headroom_db is not None and row.headroom_db < 0:
            continue  # already clipped: the worse finding speaks
        if k < case.last and row.speech_dbu < window.low_dbu and _is_mic_into_line(case, k):
            continue  # one cause is said once: a microphone where a line is wanted
        if window.outside_db(row.speech_dbu) <= _lenient_db(row):
            continue
        off = _at_the_knob(case, row) if row.knob else _at_the_window(case, row)
        # a step into the window is enough for what is there; what is added brings it to the middle
        step = off.by_db + window.inside_db
        middle = abs(window.middle_dbu + case.purpose.aim_db - row.speech_dbu)
        far = middle if k == case.last else step
        if off.under and (added_db := _costs_nothing(case, k, step)) is not None:
            yield _little_and_well(case, k, off, added_db)
            continue
        fixes = louder(case, k, step, far) if off.under else quieter(case, k, step, far, own=True)
        yield Finding(
            code=UNDER_WINDOW if off.under else OVER_WINDOW,
            severity="mind",
            stage=row.id,
            says=off.says,
            proof=off.proof,
            evidence={
                "speech_dbu": row.speech_dbu,
                "window_low_dbu": window.low_dbu,
                "window_high_dbu": window.high_dbu,
                "off_db": off.by_db,
                **({"gain_control_share": row.knob.turn} if row.knob else {}),
            },
            fixes=tuple(fixes),
        )


def _costs_nothing(case: Case, index: int, step_db: float) -> float | None:
    """The noise that a box adds, where it gets too little and nobody need care; None elsewhere.

    The radio is content, would get too much with more, and hears next to nothing of the box.
    """
    row, last = case.rows[index], case.rows[-1]
    if index == case.last or last.window is None or row.gear.compression() is not None:
        return None
    if not last.window.holds(last.speech_dbu) or last.window.holds(last.speech_dbu + step_db):
        return None
    added_db = noise_added_db(case.rows, index)
    return added_db if added_db < UNHEARD_DB else None


def _little_and_well(case: Case, index: int, off: _Off, added_db: float) -> Finding:
    row, last = case.rows[index], case.rows[-1]
    return Finding(
        code=LITTLE_AND_WELL,
        severity="fine",
        stage=row.id,
        says=(
            f"{sentence(the(row.name))} gets {off.by_db:.0f} dB less than it is made for, and"
            " that costs nothing here"
        ),
        proof=(
            f"{_level(case, row)}; its own noise takes {max(added_db, 0.0):.1f} dB of what speech"
            f" stands over, and more would be too much for {the(last.name)}"
        ),
        evidence={"speech_dbu": row.speech_dbu, "off_db": off.by_db, "noise_added_db": added_db},
    )


def _lenient_db(row: StageLevels) -> float:
    """How far outside nobody need care: a box's window is soft, a fixed input's less so."""
    if row.gear.role != "input":
        return SOFT_EDGE_DB
    return 0.0 if row.knob else FIXED_EDGE_DB


def _by_db(row: StageLevels) -> tuple[bool, float]:
    assert row.window is not None
    under = row.speech_dbu < row.window.low_dbu
    edge = row.window.low_dbu if under else row.window.high_dbu
    return under, abs(edge - row.speech_dbu)


def _at_the_window(case: Case, row: StageLevels) -> _Off:
    """A box, or an input without a control of its own."""
    under, by_db = _by_db(row)
    assert row.window is not None
    word, side = ("too little", "below") if under else ("too much", "above")
    return _Off(
        under,
        by_db,
        f"{sentence(the(row.name))} gets {word}: {by_db:.0f} dB {side} its window",
        f"{_level(case, row)}; it works best from {format_dbu(row.window.low_dbu, 0)} to"
        f" {format_dbu(row.window.high_dbu, 0)}",
    )


def _at_the_knob(case: Case, row: StageLevels) -> _Off:
    """A microphone socket: its gain control near an end, or beyond it."""
    under, by_db = _by_db(row)
    knob = row.knob
    assert knob is not None
    assert row.window is not None
    end = "top" if under else "bottom"
    reach = (
        f"its gain control works well from {format_dbu(row.window.low_dbu, 0)} to"
        f" {format_dbu(row.window.high_dbu, 0)}"
    )
    if knob.reaches:
        says = f"The microphone gain of {the(row.name)} will stand near its {end}, at {knob.mark}"
    else:
        beyond = by_db - row.gear.beyond_window_db()
        what = "too little" if under else "too much"
        far = f"{beyond:.0f} dB off" if beyond >= 0.5 else "just off"
        does = "its microphone gain at full" if under else "its microphone gain shut"
        says = f"{sentence(the(row.name))} gets {what}: {far}, even with {does}"
    return _Off(under, by_db, says, f"{_level(case, row)}; {reach}")


def _level(case: Case, row: StageLevels) -> str:
    return f"{format_dbu(row.speech_dbu)} of {case.what}, {format_volts(row.speech_dbu)}"


def level_right(case: Case) -> Iterator[Finding]:
    """Say so when the radio gets what it wants, and where its gain control will stand."""
    row = case.rows[-1]
    window = row.window
    if case.is_dead() or window is None:
        return
    if window.outside_db(row.speech_dbu) <= _lenient_db(row):
        knob = f"; microphone gain at about {row.knob.mark}" if row.knob else ""
        yield Finding(
            code=LEVEL_RIGHT,
            severity="fine",
            stage=row.id,
            says=f"{sentence(the(row.name))} gets the level it wants",
            proof=(
                f"{format_dbu(row.speech_dbu)}{knob}; window {format_dbu(window.low_dbu, 0)} to"
                f" {format_dbu(window.high_dbu, 0)}; {row.snr_db:.0f} dB over the noise"
            ),
            evidence={"speech_dbu": row.speech_dbu, "snr_db": row.snr_db}
            | ({"gain_control_share": row.knob.turn} if row.knob else {}),
        )


rules = (
    line_into_microphone_input,
    microphone_into_line_input,
    over_ceiling,
    outside_window,
    level_right,
)
