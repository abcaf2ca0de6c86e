"""Rules about impedance and bass: loads too low for their source, corners too high."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

from tonleiter.core.circuit.elements import Capacitor, Inductor
from tonleiter.core.gear.acoustics import SpokenInto
from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.pads import LEAST_SHUNT_OHM, shunt_for_loss
from tonleiter.core.gear.passives import Transformer
from tonleiter.core.gear.preamps import OpAmpPreamp
from tonleiter.core.judge.findings import crystal
from tonleiter.core.judge.findings.adjusting import has_pad
from tonleiter.core.judge.findings.amplifying import insert_preamp
from tonleiter.core.judge.findings.case import Case, aim_dbu
from tonleiter.core.judge.findings.codes import Meaning, declare
from tonleiter.core.judge.findings.lips import closer
from tonleiter.core.judge.findings.model import BUILD, CHANGE, Finding, Fix
from tonleiter.core.judge.findings.parts import LEAST_PAD_DB, pad_before
from tonleiter.core.judge.findings.steps import AMPLIFIES_DB, TIGHT_DB
from tonleiter.core.judge.findings.suggestions import leave_out
from tonleiter.core.solve.corners import corners_hz
from tonleiter.core.solve.makers import Maker, bass_makers
from tonleiter.core.station.model import Station
from tonleiter.core.units.preferred import at_least, nearest
from tonleiter.core.units.quantity import FARAD, HENRY, HERTZ, OHM, format_quantity, format_short
from tonleiter.core.words import sentence, the

LOAD_TOO_LOW = declare("load-too-low", Meaning(loaded=True))
LOAD_LOW = declare("load-low")
BASS_CORNER_HIGH = declare("bass-corner-high", Meaning(bass=True))

# what is lost by the load, in dB, that nobody need speak of, and what is too much: a source on its
# own impedance ("matched") loses 6 dB and nothing else
MATCHED_LOSS_DB, TOO_MUCH_DB = 3.0, 7.0
STEP_WINS_DB = 3.0
# a load of so many times its source takes less than half of it
LIGHT = 1.2
# a corner that is higher than wanted by less than this is not heard
NEARLY = 1.1
# an octave less is how a microphone for speech may sound; nobody opens it for that
VOICED = 2.0


def load_too_low(case: Case) -> Iterator[Finding]:
    """What a low load takes: level of a source, level and swing of a stage that drives it."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows[:-1]):
        if k == 0 and row.gear.load_takes != "level":
            # a current source's load sets its gain, and that is meant; a crystal loses bass, not
            # level, and the rule for bass speaks of that
            continue
        if k > 0 and not row.gear.drives:
            continue
        z_load, z_source = row.z_load_ohm, row.z_source_ohm
        if not (math.isfinite(z_source) and z_load > 0):
            continue
        joint = case.solution.impedances[k]
        loss = joint.loading_loss_db
        if loss < MATCHED_LOSS_DB:
            continue
        # what is lost is level, and that matters where the radio misses it. A box that was bought
        # is strained by it; a transistor's swing goes too, and matters where its peaks need it
        window = case.rows[-1].window
        missed = window is not None and case.rows[-1].speech_dbu < window.low_dbu
        tight = row.headroom_db is not None and row.headroom_db < TIGHT_DB
        strained = k > 0 and (tight or row.gear.bought_whole)
        too_much = loss > TOO_MUCH_DB and (missed or strained)
        if not too_much and not joint.is_resistive:
            continue  # a lead's capacitance takes treble, not level only: the rule for leads speaks
        behind = case.rows[case.piece(k + 1, 1)].name
        yield Finding(
            code=LOAD_TOO_LOW if too_much else LOAD_LOW,
            severity="mind" if too_much else "fine",
            stage=row.id,
            says=(
                f"{sentence(the(behind))} loads {the(row.name)} down"
                if too_much
                else (
                    f"{sentence(the(behind))} is a low load for {the(row.name)}, and"
                    " costs level only"
                )
            ),
            proof=(
                f"{format_quantity(z_load, OHM)} on {format_quantity(z_source, OHM)}:"
                f" {loss:.1f} dB lost"
            ),
            evidence={
                "z_source_ohm": z_source,
                "z_load_ohm": z_load,
                "loss_db": loss,
                "off_db": loss - TOO_MUCH_DB,
            },
            fixes=tuple(_lighter_load(case, k)) if too_much else (),
            at_the_lips=k == 0,
        )


def _lighter_load(case: Case, index: int) -> Iterator[Fix]:
    row = case.rows[index]
    for k in range(index + 1, case.last):
        gear = case.rows[k].gear
        if gear.is_pad and gear.handle == "series_ohm":
            behind = row.z_load_ohm - gear.figure("series_ohm").value
            series = nearest(2.4 * row.z_source_ohm - behind, "E12")

            def bigger(station: Station, k: int = k, series: float = series) -> Station:
                return case.set_value(station, k, "series_ohm", series)

            title = f"Make the pad's series resistor {format_short(series)}"
            yield Fix(title, bigger, "", CHANGE)
    turns = math.sqrt(row.z_load_ohm / row.z_source_ohm)
    # matched, half of the stepped-down source is left; more than 20:1 cannot be wound well
    wins_db = 20 * math.log10(turns / 2 * (row.z_load_ohm + row.z_source_ohm) / row.z_load_ohm)
    if index == 0 and turns >= 0.05 and wins_db >= STEP_WINS_DB:
        yield _step_down(case, turns)
    if index == 0:
        yield insert_preamp(case, index + 1, 10.0)
        return
    yield from _lighter_pad(case, index)
    yield from _not_needed(case, index)
    yield _buffer(case, index)


def _not_needed(case: Case, index: int) -> Iterator[Fix]:
    """An amplifier that gives nothing into such a load, where the radio is content without it."""
    row, last = case.rows[index], case.rows[-1]
    gain_db = (row.gain_db or 0.0) + case.solution.impedances[index].loading_loss_db
    if gain_db < AMPLIFIES_DB or row.gear.compression() is not None or last.window is None:
        return
    behind_db = last.speech_dbu - row.speech_dbu
    if last.window.holds(case.rows[index - 1].speech_dbu + behind_db):
        yield leave_out(case, index, why="without it the level is right")


def _lighter_pad(case: Case, index: int) -> Iterator[Fix]:
    """Where the radio gets too much anyhow the pad that is due is a lighter load as well."""
    last = case.rows[-1]
    passive = not any(r.gear.is_box or r.gear.drives for r in case.rows[index + 1 : case.last])
    if last.window is None or has_pad(case, case.last) or not passive:
        return
    too_much_db = last.speech_dbu - aim_dbu(last)
    z = case.solution.impedances[case.last - 1]
    if too_much_db < LEAST_PAD_DB or not math.isfinite(z.load_ohm):
        return
    # its upper leg alone is no less than what drives it, and the lower leg makes the loss
    series = at_least(LIGHT * z.source_ohm, "E12")
    shunt = shunt_for_loss(too_much_db + z.loading_loss_db, series, z.source_ohm, z.load_ohm)
    if shunt is not None and (shunt := nearest(shunt, "E12")) >= LEAST_SHUNT_OHM:
        why = "a lighter load, and the level is too high anyhow"
        yield pad_before(case, case.last, too_much_db, series, shunt, the(last.name), why)


def _buffer(case: Case, index: int) -> Fix:
    """An operational amplifier of unity gain that the load does not bend."""

    def follow(station: Station) -> Station:
        gear = OpAmpPreamp(
            id=case.fresh_id("buffer"),
            name="op-amp buffer",
            feedback_ohm=typical(100.0),
            bias_ohm=typical(at_least(max(10 * case.rows[index].z_source_ohm, 47e3), "E12")),
            output_plus=case.plus_towards(index + 1, crystal.HALF_SUPPLY_V),
        )
        return case.insert(station, index + 1, gear)

    return Fix("Add an op-amp buffer behind it", follow, "drives the load without bending", BUILD)


def _step_down(case: Case, turns: float) -> Fix:
    """A transformer that matches the source to its load, as for high-impedance types."""
    z = case.rows[0].z_source_ohm
    ratio = float(f"{turns:.2g}")

    def apply(station: Station) -> Station:
        gear = Transformer(
            id=case.fresh_id("step-down"),
            name=f"step-down transformer {1 / ratio:.2g}:1",
            ratio=typical(ratio),
            primary_h=typical(at_least(4 * z / (2 * math.pi * 60), "E12")),
            leakage_h=typical(nearest(z / (2 * math.pi * 30e3), "E12")),
            primary_ohm=typical(nearest(z * 0.1, "E12")),
            secondary_ohm=typical(nearest(max(1.0, z * ratio**2 * 0.1), "E12")),
            winding_f=typical(150e-12),
            interwinding_f=typical(60e-12),
        )
        return case.insert(station, 1, gear)

    return Fix(f"Add a {1 / ratio:.2g}:1 step-down transformer behind it", apply)


def bass_corner_high(case: Case) -> Iterator[Finding]:
    """Bass that the purpose wants and the chain loses, blamed on the part that loses it."""
    if case.is_dead():
        return
    corner = _corner(case)
    limit = case.purpose.bass_corner_at_most_hz
    if corner is None or corner <= NEARLY * limit:
        return
    # where the corner is: what lies under it is lost to the same part
    worst = next(iter(bass_makers(case.solution, corner)), None)
    wants = f"{case.purpose.title} wants {format_quantity(limit, HERTZ)} or lower"
    fixes: Iterable[Fix] = ()
    if worst is not None and _is_for_lips(case, worst):
        at_the_lips, fixes = True, closer(case, math.inf)
        says = (
            f"From {case.distance_mm / 10:g} cm bass is lost below"
            f" {format_quantity(corner, HERTZ, 2)}: {the(case.rows[0].name)} is made for lips at"
            " its face"
        )
        proof = f"both its faces hear what comes from far; {wants}"
    else:
        at_the_lips = worst is not None and _is_source(case, worst)
        part = the(case.rows[worst.stage if worst else 0].name)
        proof = f"the −3 dB corner is {format_quantity(corner, HERTZ)}; {wants}"
        if worst is not None:
            fixes, part = _more_bass(case, worst, limit), f"{_what(case, worst)} {part}"
            if abs(worst.own_hz - corner) > 0.1 * corner:
                proof += f"; its own corner lies at {format_quantity(worst.own_hz, HERTZ, 2)}"
        says = f"Bass is lost below {format_quantity(corner, HERTZ, 2)} by {part}"
    as_made = worst is not None and _is_made_so(case, worst) and corner <= VOICED * limit
    if as_made:
        name = sentence(the(case.rows[0].name))
        says, fixes = (
            f"{name} is made with little bass: from {format_quantity(corner, HERTZ, 2)}",
            (),
        )
    yield Finding(
        code=BASS_CORNER_HIGH,
        severity="fine" if as_made else "mind",
        stage=case.rows[worst.stage if worst else 0].id,
        says=says,
        proof=proof,
        evidence={"corner_hz": corner, "limit_hz": limit, "off_db": 6 * math.log2(corner / limit)},
        fixes=tuple(fixes),
        at_the_lips=at_the_lips,
    )


def _is_made_so(case: Case, maker: Maker) -> bool:
    """Whether a capacitor inside a microphone makes the corner: that is how it sounds."""
    gear = case.rows[maker.stage].gear
    inside = gear.role == "microphone" and isinstance(maker.element, Capacitor)
    return inside and not (_is_source(case, maker) or _is_for_lips(case, maker))


def _is_for_lips(case: Case, maker: Maker) -> bool:
    """Whether it is no part, but what a noise-cancelling capsule makes of sound from far off."""
    gear = case.rows[maker.stage].gear
    noise_cancelling = isinstance(gear, SpokenInto) and gear.pattern == "noise-cancelling"
    return noise_cancelling and _field(case, maker) is None


def _is_source(case: Case, maker: Maker) -> bool:
    """Whether it is what the source is made of: a crystal is a capacitor."""
    gear = case.rows[maker.stage].gear
    return (
        gear.role == "microphone"
        and isinstance(maker.element, Capacitor)
        and (_field(case, maker) == "capacitance_f")
    )


def _what(case: Case, maker: Maker) -> str:
    if _is_source(case, maker):
        return "the low load of"
    if isinstance(maker.element, Inductor):
        return "the primary of" if _field(case, maker) == "primary_h" else "the coil of"
    gear = case.rows[maker.stage].gear
    within = gear.bought_whole or gear.role == "microphone"
    return "a capacitor inside" if within else "the capacitor of"


def _field(case: Case, maker: Maker) -> str | None:
    """The figure of its gear that the element is: of that unit, and of that value."""
    element = maker.element
    unit, value = (
        (HENRY, element.henry) if isinstance(element, Inductor) else (FARAD, element.farad)
    )
    gear = case.rows[maker.stage].gear
    figures = [f for f, (q, _) in gear.figures().items() if q.unit is unit]
    if unit is HENRY and "primary_h" in figures:
        return "primary_h"
    return next((f for f in figures if math.isclose(gear.figure(f).value, value)), None)


def _more_bass(case: Case, maker: Maker, limit: float) -> Iterator[Fix]:
    """A larger part where one can be soldered; a lighter load for what is sealed."""
    gear, field = case.rows[maker.stage].gear, _field(case, maker)
    if _is_source(case, maker):
        yield from crystal.lighter(case, _corner(case) or limit, limit)
    elif field is not None and not gear.bought_whole and gear.role != "microphone":
        yield _bigger(case, maker, field, limit)
    elif isinstance(maker.element, Capacitor):
        yield _buffer(case, maker.stage)


def _bigger(case: Case, maker: Maker, field: str, limit: float) -> Fix:
    """The part with a value that puts its own corner an octave under what is wanted."""
    gear = case.rows[maker.stage].gear
    unit = HENRY if isinstance(maker.element, Inductor) else FARAD
    value = at_least(gear.figure(field).value * max(2.0, 2 * maker.own_hz / limit), "E6")
    title = f"Make {_what(case, maker)} {the(gear.name)} {format_quantity(value, unit)}"
    if gear.series_farad_field == field == "capacitance_f":
        title = f"Make {the(gear.name)} {format_quantity(value, unit)}"

    def apply(station: Station) -> Station:
        return case.set_value(station, maker.stage, field, value)

    return Fix(title, apply, "", CHANGE)


def _corner(case: Case) -> float | None:
    """Where the chain's bass ends, in Hz."""
    return corners_hz(case.solution.f_hz, case.solution.gain_db())[0]


rules = (load_too_low, bass_corner_high)
