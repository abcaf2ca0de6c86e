"""Rules about impedance and bass: loads too low for their source, corners too high."""

from __future__ import annotations

import math
from collections.abc import Iterator

from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.passives import Transformer
from tonleiter.core.gear.preamps import JfetPreamp
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import Meaning, declare
from tonleiter.core.judge.findings.model import Finding, Fix
from tonleiter.core.judge.findings.suggestions import insert_preamp
from tonleiter.core.solve.corners import corners_hz
from tonleiter.core.station.model import Station
from tonleiter.core.units.preferred import at_least, nearest
from tonleiter.core.units.quantity import FARAD, HERTZ, OHM, format_quantity, format_short

LOAD_TOO_LOW = declare("load-too-low", Meaning(loaded=True))
BASS_CORNER_HIGH = declare("bass-corner-high", Meaning(bass=True))

MICROPHONE_BRIDGES = 3.0
AMPLIFIER_BRIDGES = 2.0


def load_too_low(case: Case) -> Iterator[Finding]:
    """A source loaded by less than a few times its impedance loses level; boxes distort earlier."""
    if case.is_dead():
        return
    for k, row in enumerate(case.rows[:-1]):
        if k == 0 and row.gear.load_takes != "level":
            # a current source's load sets its gain, and that is meant; a crystal loses bass, not
            # level, and the rule for bass speaks of that
            continue
        if k == 0:
            wanted = MICROPHONE_BRIDGES
        elif row.gear.is_box:
            wanted = AMPLIFIER_BRIDGES
        else:
            continue
        if row.z_load_ohm >= wanted * row.z_source_ohm or not math.isfinite(row.z_source_ohm):
            continue
        loss = 20 * math.log10(row.z_load_ohm / (row.z_load_ohm + row.z_source_ohm))
        yield Finding(
            code=LOAD_TOO_LOW,
            severity="mind",
            stage=row.id,
            says=f"The {case.rows[k + 1].name} loads the {row.name} too much",
            proof=(
                f"{format_quantity(row.z_load_ohm, OHM)} on"
                f" {format_quantity(row.z_source_ohm, OHM)}: {-loss:.1f} dB lost;"
                f" at least {wanted:g} times its impedance is wanted"
            ),
            evidence={
                "z_source_ohm": row.z_source_ohm,
                "z_load_ohm": row.z_load_ohm,
                "loss_db": -loss,
            },
            fixes=tuple(_lighter_load(case, k, wanted)),
        )


def _lighter_load(case: Case, index: int, wanted: float) -> Iterator[Fix]:
    row = case.rows[index]
    for k in range(index + 1, case.last):
        gear = case.rows[k].gear
        if gear.is_pad and gear.handle == "series_ohm":
            behind = row.z_load_ohm - gear.figure("series_ohm").value
            series = nearest(1.2 * wanted * row.z_source_ohm - behind, "E12")

            def bigger(station: Station, k: int = k, series: float = series) -> Station:
                return case.set_value(station, k, "series_ohm", series)

            yield Fix(f"Make the pad's series resistor {format_short(series)}", bigger)
    turns = math.sqrt(row.z_load_ohm / (4 * row.z_source_ohm))
    # more than about 20:1 cannot be wound with useful bass and treble
    if index == 0 and turns >= 0.05:
        yield _step_down(case, turns)
    if index == 0:
        yield insert_preamp(case, index + 1, 10.0)


def _step_down(case: Case, turns: float) -> Fix:
    """A transformer whose primary is light on the source, wound for its impedance."""
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
    """Bass that the purpose wants and the chain loses."""
    if case.is_dead():
        return
    corner, _ = corners_hz(case.solution.f_hz, case.solution.gain_db())
    limit = case.purpose.bass_corner_at_most_hz
    if corner is None or corner <= limit:
        return
    if case.rows[0].gear.load_takes == "bass":
        culprit, fixes = case.rows[0].id, _lighter_on_a_crystal(case)
    else:
        culprit, fixes = _bigger_capacitors(case, corner, limit)
    yield Finding(
        code=BASS_CORNER_HIGH,
        severity="mind",
        stage=culprit,
        says=f"Bass is lost below {format_quantity(corner, HERTZ, 2)}",
        proof=(
            f"the −3 dB corner is {format_quantity(corner, HERTZ)}; {case.purpose.title} wants"
            f" {format_quantity(limit, HERTZ)} or lower"
        ),
        evidence={"corner_hz": corner, "limit_hz": limit},
        fixes=tuple(fixes),
    )


def _lighter_on_a_crystal(case: Case) -> list[Fix]:
    """A crystal wants a megohm or more: a FET stage right behind it, its gain kept modest."""

    def follow(station: Station, bypassed: bool) -> Station:
        gear = JfetPreamp(
            id=case.fresh_id("fet-preamp"),
            name="FET preamp" if bypassed else "FET preamp, low gain",
            source="bypassed" if bypassed else "not-bypassed",
        )
        return case.insert(station, 1, gear)

    return [
        Fix("Add a FET preamp with 2.2 MΩ right behind it", lambda s: follow(s, True)),
        Fix("Add a FET preamp, its source not bypassed: less gain", lambda s: follow(s, False)),
    ]


def _bigger_capacitors(case: Case, corner: float, limit: float) -> tuple[str, list[Fix]]:
    """The capacitor with the highest corner of its own, and larger values for it."""
    found: list[tuple[float, int, str, float]] = []
    for k, row in enumerate(case.rows[1:], start=1):
        z = case.solution.impedances[min(k, case.last - 1)]
        source = case.solution.impedances[k - 1].source_ohm
        field = row.gear.series_farad_field
        if field and k < case.last:
            farad = row.gear.figure(field).value
            own = 1 / (2 * math.pi * farad * (source + z.load_ohm))
            found.append((own, k, field, farad))
    if not found:
        return case.rows[-1].id, []
    _, k, field, farad = max(found)
    factor = max(2.0, 2 * corner / limit)
    value = at_least(farad * factor, "E6")
    title = f"Make the {case.rows[k].name} {format_quantity(value, FARAD)}"
    fix = Fix(title, lambda station: case.set_value(station, k, field, value))
    return case.rows[k].id, [fix]


rules = (load_too_low, bass_corner_high)
