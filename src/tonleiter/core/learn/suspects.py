"""What would explain a reading that the others do not allow: slips of hands and meters.

Faults of a build are Prove's to name; these are of how it was read.
"""

from __future__ import annotations

from tonleiter.core.learn.reading import Reading, shown
from tonleiter.core.learn.result import Range

# ratios that a slip leaves, how near a reading comes to them, and what the slip is
_RATIOS = (
    (10.0, "a range of the meter misread by ten"),
    (0.1, "a range of the meter misread by ten"),
    (1000.0, "milli left out, or one too many"),
    (1e-3, "milli left out, or one too many"),
)
NEAR = 0.12
# peak to peak for RMS of a sine, and half of it, in decibels; how near
SWING_DB, PEAK_DB, NEAR_DB = 9.0, 3.0, 1.2
# by how much people speak louder or softer at the bench than on the air
LOUDER_DB = 14.0
# a cheap meter's AC range falls off above some hundred hertz, by up to this
AC_FALLS_DB = 12.0
# of the open volts: what is as good as none, what is as good as all
LEAST_SHARE, MOST_SHARE = 0.03, 0.97


def suspects(reading: Reading, expected: Range, open_v: float | None = None) -> tuple[str, ...]:
    """The likeliest first; ``open_v`` are the volts of the contact with nothing plugged in."""
    if reading.kind in ("open", "volts"):
        return (*_ratio(reading, expected), *_volts(reading, expected, open_v))
    if reading.kind == "speech":
        return _speech(reading, expected)
    if reading.kind == "gain":
        return _gain(reading, expected)
    if reading.kind == "knob":
        return _knob(reading, expected)
    if reading.kind == "noise":
        return ("a louder room than the station says", "the recorder's own gain control at work")
    return ()


def _ratio(reading: Reading, expected: Range) -> tuple[str, ...]:
    middle = (expected.low + expected.high) / 2
    if middle <= 0 or reading.value <= 0:
        return ()
    for ratio, words in _RATIOS:
        would = reading.value / ratio
        slack = NEAR * would
        if expected.low - slack <= would <= expected.high + slack:
            return (f"{words}: {shown(reading.kind, would)} would fit",)
    return ()


def _volts(reading: Reading, expected: Range, open_v: float | None) -> tuple[str, ...]:
    low = reading.value < expected.low
    if reading.kind == "open":
        if low and reading.value < LEAST_SHARE * expected.low:
            return ("the volts switched off, in a menu or by a jumper", "another contact")
        return ("something still plugged in", "another contact") if low else ("another contact",)
    if low and reading.value < LEAST_SHARE * max(expected.low, 1e-3):
        return ("a short, or a winding, across the contact", "the wrong contact")
    if open_v is not None and reading.value > MOST_SHARE * open_v:
        return ("nothing draws current: a lead that is open, a capsule the wrong way round",)
    if low:
        return ("a second thing that draws current", "a meter of low resistance")
    return ("a capsule that draws less than its kind",)


def _speech(reading: Reading, expected: Range) -> tuple[str, ...]:
    away = reading.value - (expected.low + expected.high) / 2
    made = []
    if abs(abs(away) - 20) < 2 * NEAR_DB:
        made.append("a range of the meter misread by ten")
    if away > 0 and abs(away - SWING_DB) < NEAR_DB:
        made.append("volts peak to peak, where RMS is asked for")
    if abs(away) <= LOUDER_DB:
        made.append(
            "spoken louder than on the air" if away > 0 else "spoken softer than on the air"
        )
    if -AC_FALLS_DB <= away < 0:
        made.append("the meter's AC range, which ends below speech")
    if away > 0:
        made.append("hum, or the radio's own signal, in the reading")
    return tuple(made)


def _gain(reading: Reading, expected: Range) -> tuple[str, ...]:
    away = reading.value - (expected.low + expected.high) / 2
    made = []
    if abs(abs(away) - SWING_DB) < NEAR_DB:
        made.append("one end read peak to peak, the other RMS")
    if abs(abs(away) - 6) < NEAR_DB:
        made.append("one end read without its load, or one leg of a balanced pair alone")
    if abs(abs(away) - 20) < 2 * NEAR_DB:
        made.append("a range of the meter misread by ten")
    made.append("a control that stands elsewhere" if abs(away) < 30 else "a stage without power")
    return tuple(made)


def _knob(reading: Reading, expected: Range) -> tuple[str, ...]:
    up = reading.value > (expected.low + expected.high) / 2
    return (
        "another gain than this one: of a menu, of the data socket",
        "spoken softer, or from further off" if up else "spoken louder, or from nearer",
        "the compressor was on" if not up else "an attenuator, or the compressor's own gain",
    )
