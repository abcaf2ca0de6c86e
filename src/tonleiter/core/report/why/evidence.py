"""The figures of a finding in words: keys carry their units."""

from __future__ import annotations

import math

from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.report.why.model import Step
from tonleiter.core.units.levels import signed
from tonleiter.core.units.quantity import AMPERE, HERTZ, OHM, VOLT, format_quantity

# by key; what is not here is called by the key itself
WORDS = {
    "speech_dbu": "speech there",
    "off_db": "past what is wanted by",
    "snr_db": "speech over the noise",
    "under_speech_db": "under speech by",
    "hum_dbu": "hum there",
    "dc_ma": "current",
    "dc_v": "DC there",
    "bias_open_v": "the bias, with nothing on it",
    "bias_loaded_v": "the bias, with this on it",
    "capsule_v": "over the capsule",
    "needs_v": "it needs",
    "most_v": "it bears",
    "needs_ma": "it needs",
    "window_low_dbu": "its window begins at",
    "window_high_dbu": "its window ends at",
    "gain_control_share": "its gain control will stand at, of its way",
    "corner_hz": "the corner lies at",
    "limit_hz": "wanted is a corner of at most",
    "loop_share": "of the hum comes round the loop",
    "loop_a": "current round the loop",
    "loss_db": "lost by loading",
    "z_source_ohm": "the source has",
    "z_load_ohm": "the load has",
    "headroom_db": "room over peaks",
    "peak_dbu": "peaks there",
    "ceiling_dbu": "the ceiling there",
    "squeezed_db": "taken off by compression",
    "noise_lift_db": "noise comes nearer by",
    "overshoot_db": "first syllables stand out by",
    "closed_share": "of speech is taken for a pause",
    "noise_share": "of the noise is the chain's own",
    "gain_db": "its gain",
    "supply_v": "its supply",
    "share": "of it",
    "lift_db": "bass lifted by",
}

# what is left of rounding where no DC stands at all
NOTHING = 1e-9


def proofs(finding: Finding) -> tuple[Step, ...]:
    """Each figure of a finding, named."""
    return tuple(
        Step(_called(key), spoken(key, value), finding.stage)
        for key, value in finding.evidence.items()
        if math.isfinite(value)
    )


def _called(key: str) -> str:
    known = WORDS.get(key)
    return known if known is not None else " ".join(key.split("_")[:-1]) or key


def spoken(key: str, value: float) -> str:
    """A figure with the unit that its key carries."""
    unit = key.rpartition("_")[2]
    if unit in ("v", "a", "ma") and abs(value) < NOTHING:
        value = 0.0
    if unit in ("dbu", "dba"):
        return f"{signed(value)} {'dBu' if unit == 'dbu' else 'dBA'}"
    if unit == "db":
        return f"{signed(value)} dB"
    if unit == "share" or key == "share":
        return f"{value:.0%}"
    if unit == "ma":
        return format_quantity(value / 1e3, AMPERE, 2)
    plain = {"v": VOLT, "a": AMPERE, "hz": HERTZ, "ohm": OHM}
    if unit in plain:
        return format_quantity(value, plain[unit], 2)
    return f"{value:.3g} {unit}" if unit in ("mm", "m") else f"{value:.3g}"
