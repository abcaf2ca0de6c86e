"""What helps a crystal: a load takes its bass, and two resistors load it more than one does."""

from __future__ import annotations

import math
from collections.abc import Iterator

from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.more_pads import SeriesPad
from tonleiter.core.gear.pads import design_l_pad
from tonleiter.core.gear.preamps import JfetPreamp, OpAmpPreamp
from tonleiter.core.gear.turning import Turn, turned
from tonleiter.core.judge.findings.case import Case, aim_dbu
from tonleiter.core.judge.findings.model import BUILD, CHANGE, Fix
from tonleiter.core.judge.findings.parts import LEAST_PAD_DB, l_pad, less_by, resistor_before
from tonleiter.core.solve.solution import Impedances
from tonleiter.core.station.model import Station
from tonleiter.core.units.preferred import at_least, nearest
from tonleiter.core.units.quantity import OHM, format_quantity
from tonleiter.core.words import listed, the

# a resistor is taken so much larger than reckoned: what is bought is rounded
SPARE = 1.3
# a follower drives with about so much
FOLLOWER_OUT_OHM = 100.0
LESS_BUT_BASS = "one resistor is a higher load for a crystal: less level, more bass"
# figures of stages that are soldered by hand which load what stands before them
INPUT_RESISTORS = ("bias_ohm", "gate_ohm", "grid_ohm")
LEAST_FOR_A_CRYSTAL_OHM, MOST_OHM = 1e6, 10e6
# where the output of a stage on one battery of 9 V stands
HALF_SUPPLY_V = 4.5


def is_bare(case: Case, index: int) -> bool:
    """Whether nothing but leads stands between a crystal and stage ``index``."""
    rows = case.rows
    return rows[0].gear.load_takes == "bass" and all(r.gear.lead for r in rows[1:index])


def less(case: Case, index: int, loss_db: float, z: Impedances) -> Fix | None:
    """One resistor before stage ``index``: so much less arrives, and the crystal is loaded less.

    Behind a reactance X, before a load R: |r + R - jX| = 10^(loss/20) |R - jX|, solved for r.
    """
    if not math.isfinite(z.load_ohm) or loss_db <= 0:
        return None
    wanted = 10 ** (loss_db / 20) * math.hypot(z.load_ohm, z.source_ohm)
    ohm = nearest(math.sqrt(wanted**2 - z.source_ohm**2) - z.load_ohm, "E12")
    return resistor_before(case, index, ohm, less_by(ohm, loss_db), LESS_BUT_BASS)


def lighter(case: Case, corner_hz: float, limit_hz: float) -> Iterator[Fix]:
    """A crystal wants a megohm or more: one resistor where level is to spare, or a FET stage."""
    joint = case.behind_source()
    load = case.solution.impedances[joint].load_ohm
    if math.isfinite(load):
        yield from _higher_input(case, joint + 1, load, corner_hz / limit_hz)
        yield _in_series(case, joint + 1, load * (corner_hz / limit_hz * SPARE - 1))

    def follow(station: Station, bypassed: bool) -> Station:
        gear = JfetPreamp(
            id=case.fresh_id("fet-preamp"),
            name="FET preamp" if bypassed else "FET preamp, low gain",
            source="bypassed" if bypassed else "not-bypassed",
            output_plus=case.plus_towards(joint + 1, HALF_SUPPLY_V),
        )
        return case.insert(_unpowered(case, station), 1, gear)

    tail = _phantom_words(case)
    title = f"Add a FET preamp with 2.2 MΩ right behind it{tail}"
    yield Fix(title, lambda s: follow(s, True), "", BUILD)
    title = f"Add a FET preamp, its source not bypassed: less gain{tail}"
    yield Fix(title, lambda s: follow(s, False), "", BUILD)
    yield from buffered(case)


def _higher_input(case: Case, index: int, load_ohm: float, times: float) -> Iterator[Fix]:
    """A stage of one's own right behind the crystal: its input resistor is what loads it."""
    row = case.rows[index]
    field = next((f for f in INPUT_RESISTORS if f in row.gear.figures()), None)
    if field is None or row.gear.bought_whole:
        return
    ohm = at_least(max(load_ohm * times * SPARE, LEAST_FOR_A_CRYSTAL_OHM), "E12")
    if ohm <= MOST_OHM and ohm > row.gear.figure(field).value:
        yield Fix(
            f"Make the input resistor of {the(row.name)} {format_quantity(ohm, OHM)}",
            case.setting(index, {field: ohm}),
            "it is what loads the crystal",
            CHANGE,
        )


def _in_series(case: Case, index: int, more_ohm: float) -> Fix:
    """One resistor before a stage, or a larger one where one is."""
    row = case.rows[index]
    if isinstance(row.gear, SeriesPad):
        ohm = at_least(row.gear.series_ohm.value + more_ohm, "E12")
        title = f"Change the {row.gear.noun} to {format_quantity(ohm, OHM)}"
        return Fix(title, case.setting(index, {"series_ohm": ohm}), LESS_BUT_BASS, CHANGE)
    ohm = at_least(more_ohm, "E12")
    title = f"Add {format_quantity(ohm, OHM)} in series before {the(row.name)}"
    return resistor_before(case, index, ohm, title, LESS_BUT_BASS)


def buffered(case: Case) -> Iterator[Fix]:
    """A follower right behind the crystal; before an input that this is too much for, a pad."""
    joint = case.behind_source()
    row, z = case.rows[joint + 1], case.solution.impedances[joint]
    if not math.isfinite(z.load_ohm):
        return
    # what the load takes now: the crystal is a reactance, twice that of 1 kHz where speech is
    taken = math.hypot(1.0, 2 * z.source_ohm / z.load_ohm)
    unloaded_dbu = case.rows[joint].speech_dbu + 20 * math.log10(taken)
    excess_db = unloaded_dbu - aim_dbu(row) if row.gear.input_for() == "microphone" else 0.0
    designs = design_l_pad(excess_db, FOLLOWER_OUT_OHM, z.load_ohm)
    pad = designs[0] if designs and excess_db > LEAST_PAD_DB else None
    more_db = unloaded_dbu - row.speech_dbu + (row.gain_db or 0.0) - (excess_db if pad else 0.0)
    down = _down(case, joint + 1, more_db)

    def apply(station: Station) -> Station:
        if down is not None:
            station = case.set_value(station, joint + 1, down.field, down.value)
        # the pad's lower leg keeps volts of the input away from the follower
        plus = "inside" if pad is not None else case.plus_towards(joint + 1, HALF_SUPPLY_V)
        follower = OpAmpPreamp(
            id=case.fresh_id("buffer"),
            name="op-amp buffer 2.2 MΩ",
            feedback_ohm=typical(100.0),
            bias_ohm=typical(2.2e6),
            input_f=typical(10e-9),
            output_plus=plus,
        )
        station = case.insert(_unpowered(case, station), 1, follower)
        return (
            station
            if pad is None
            else case.insert(station, joint + 2, l_pad(case, pad.series_ohm, pad.shunt_ohm))
        )

    title = "Add an op-amp buffer of 2.2 MΩ right behind it"
    if pad is not None:
        title += f", and a pad of {excess_db:.0f} dB before {the(row.name)}"
    if down is not None:
        title += f"; turn {the(row.name)} down to {down.gear.setting_words(down.value)}"
    yield Fix(f"{title}{_phantom_words(case)}", apply, "", BUILD)


def _down(case: Case, index: int, more_db: float) -> Turn | None:
    """The control of a stage turned down where so much more before it is too much at the end."""
    row, last = case.rows[index], case.rows[-1]
    if index == case.last or last.window is None:
        return None
    too_much_db = last.speech_dbu + more_db - aim_dbu(last)
    if last.window.holds(last.speech_dbu + more_db) or too_much_db < LEAST_PAD_DB:
        return None
    to = turned(row.gear, -too_much_db, *case.solution.around(index))
    return to if to is not None and to.moved_db < 0.0 else None


def phantom_off(case: Case) -> Iterator[Fix]:
    """Nothing is soldered: what a crystal does not want is switched off where it comes from."""
    powered = _powered(case)
    if powered:
        names = listed([f"{the(case.rows[k].name)}" for k in powered])
        title = f"Switch off the phantom power of {names}"
        yield Fix(title, lambda s: _unpowered(case, s), "a crystal wants none")


def _powered(case: Case) -> list[int]:
    """Inputs whose phantom power is on: no stage with a battery of its own wants it."""
    return [k for k, row in enumerate(case.rows) if row.gear.phantom_switch() == "on"]


def _unpowered(case: Case, station: Station) -> Station:
    for k in _powered(case):
        station = case.set_value(station, k, "phantom", "off")
    return station


def _phantom_words(case: Case) -> str:
    names = listed([f"{the(case.rows[k].name)}" for k in _powered(case)])
    return f"; phantom power of {names} off" if names else ""
