"""Rules about compression: two in a row is the commonest cause of ugly signals."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.codes import declare
from tonleiter.core.judge.findings.model import Finding, Fix

TWO_COMPRESSORS = declare("two-compressors")

WORKS_FROM_DB = 1.0


def two_compressors(case: Case) -> Iterator[Finding]:
    """Say how many dB each takes off the peaks, and how far the noise between words rises."""
    if case.is_dead():
        return
    working = [k for k, row in enumerate(case.rows) if row.peaks_squeezed_db >= WORKS_FROM_DB]
    if len(working) < 2:
        return
    rows = [case.rows[k] for k in working]
    names = " and the ".join(r.name for r in rows)
    total = sum(r.peaks_squeezed_db for r in rows)
    lifted = sum(r.speech_squeezed_db for r in rows)
    each = " and ".join(f"{r.peaks_squeezed_db:.0f} dB" for r in rows)
    yield Finding(
        code=TWO_COMPRESSORS,
        severity="mind",
        stage=rows[-1].id,
        says=f"The {names} both compress",
        proof=(
            f"{each} squeezed on peaks, {total:.0f} dB in all; noise between words lifted"
            f" {lifted:.0f} dB against speech"
        ),
        evidence={"squeezed_db": total, "noise_lift_db": lifted},
        fixes=tuple(_bypass(case, k) for k in working),
    )


def _bypass(case: Case, index: int) -> Fix:
    row = case.rows[index]
    if index == case.last:
        return Fix(
            f"Switch off the one in the {row.name}",
            lambda station: case.set_value(station, index, "compressor", "off"),
        )
    return Fix(
        f"Switch off the one in the {row.name}",
        lambda station: case.set_value(station, index, "ratio", 1.0),
    )


rules = (two_compressors,)
