"""Bench methods that find a figure nobody knows, with the arithmetic done.

Each method says what to do, takes what the meter read, and gives figures marked as measured.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date

from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import LEVEL, OHMS, SENSITIVITY, VOLTS, Figure, Quantity
from tonleiter.core.gear.signals import SIGNALS, SINE_CREST_DB
from tonleiter.core.gear.sockets import Socket
from tonleiter.core.refused import RefusedError
from tonleiter.core.safety.cautions import caution
from tonleiter.core.units.sensitivity import dbv_per_pa

# peaks of a sine stand this far over its RMS level


class BenchError(RefusedError):
    """Readings that cannot be; the message says what would be accepted."""


@dataclass(frozen=True)
class Reading:
    """Something to type in: its name and what it accepts."""

    field: str
    title: str
    quantity: Quantity


Values = Mapping[str, float]
Found = dict[str, float]


@dataclass(frozen=True)
class Method:
    """A way to find one or two figures of a piece on the bench."""

    id: str
    title: str
    finds: tuple[str, ...]
    steps: tuple[str, ...]
    readings: tuple[Reading, ...]
    compute: Callable[[Gear, Values], Found]
    caution: str = ""

    def figures(self, gear: Gear, values: Values, on: date) -> dict[str, Figure]:
        """Figures found, marked as measured on a day. Raises BenchError."""
        found = self.compute(gear, values)
        accepted = gear.figures()
        figures = {}
        for field, value in found.items():
            checked = accepted[field][0].check(value)
            figures[field] = Figure(value=checked, basis="measured", measured_on=on)
        return figures


def _input_impedance(gear: Gear, v: Values) -> Found:
    """Z = R V2 / (V1 − V2): the series resistor and the input are a divider."""
    direct, through = v["direct"], v["through"]
    if through >= direct:
        raise BenchError("through the resistor the level must be lower than without it")
    return {"z_in_ohm": v["resistor"] * through / (direct - through)}


def _output_impedance(gear: Gear, v: Values) -> Found:
    """Z = R (V1 / V2 − 1)."""
    if v["loaded"] >= v["open"]:
        raise BenchError("with the load the level must be lower than without it")
    field = "z_out_ohm" if "z_out_ohm" in gear.figures() else "coil_ohm"
    return {field: v["load"] * (v["open"] / v["loaded"] - 1)}


def _sensitivity(gear: Gear, v: Values) -> Found:
    """Same sound, same input: sensitivities are as the volts."""
    mv_per_pa = v["known"] * v["this"] / v["other"]
    if "sensitivity_mv_per_pa" in gear.figures():
        return {"sensitivity_mv_per_pa": mv_per_pa}
    return {"sensitivity_dbv_per_pa": dbv_per_pa(mv_per_pa * 1e-3)}


def _window(gear: Gear, v: Values) -> Found:
    """A tone works the meter by its peaks; other signals of the same peaks have another level.

    The meter's two ends are an input's window; where there is a gain control, its upper end is what
    the control in the middle wants.
    """
    if v["full"] <= v["first"]:
        raise BenchError("the level that fills the meter must be above the one that moves it")
    assert isinstance(gear, Socket)
    down = SIGNALS[gear.stated_for].crest_db - SINE_CREST_DB
    if "wants_dbu" in gear.figures():
        return {"wants_dbu": v["full"] - down}
    return {"window_low_dbu": v["first"] - down, "window_high_dbu": v["full"] - down}


def _ceiling(gear: Gear, v: Values) -> Found:
    """Where a tone stops growing it is clipped: the sine's RMS there is the ceiling."""
    return {"clip_dbu": v["stops"]}


def _bias(gear: Gear, v: Values) -> Found:
    """R = Rload (Vopen / Vloaded − 1)."""
    if v["loaded_v"] >= v["open_v"]:
        raise BenchError("with the resistor across it the voltage must be lower than without")
    ohm = v["load"] * (v["open_v"] / v["loaded_v"] - 1)
    return {"bias_v": v["open_v"], "bias_ohm": ohm}


def _volts(field: str, title: str) -> Reading:
    return Reading(field, title, VOLTS)


METHODS: tuple[Method, ...] = (
    Method(
        "input-impedance",
        "Input impedance, by a resistor",
        ("z_in_ohm",),
        (
            "Feed a tone of 1 kHz from a low impedance, well below overload, and read the volts at"
            " the pin.",
            "Put a known resistor in series, about as big as you expect the impedance to be.",
            "Read the volts at the pin again.",
        ),
        (
            _volts("direct", "Volts without the resistor"),
            _volts("through", "Volts through it"),
            Reading("resistor", "Resistor", OHMS),
        ),
        _input_impedance,
        caution("keys-itself"),
    ),
    Method(
        "output-impedance",
        "Output impedance, by a load",
        ("z_out_ohm", "coil_ohm"),
        (
            "Give it a steady sound or tone and read its output volts without a load.",
            "Put a known resistor across it, small enough to take a third of the level or more.",
            "Read the volts again.",
        ),
        (
            _volts("open", "Volts without the load"),
            _volts("loaded", "Volts with it"),
            Reading("load", "Load resistor", OHMS),
        ),
        _output_impedance,
        caution("loads", "hearing"),
    ),
    Method(
        "sensitivity",
        "Sensitivity, by comparison",
        ("sensitivity_mv_per_pa", "sensitivity_dbv_per_pa"),
        (
            "Set a small loudspeaker with a steady hiss or tone on the bench, the known microphone"
            " in front of it.",
            "Read its volts into an input of high impedance; an electret needs its quoted feed.",
            "Put this microphone in exactly the same place, on the same input, and read again.",
        ),
        (
            Reading("known", "Sensitivity of the known one", SENSITIVITY),
            _volts("other", "Volts of the known one"),
            _volts("this", "Volts of this one"),
        ),
        _sensitivity,
        "Turn the sound up from zero, and spare your ears.",
    ),
    Method(
        "wanted-level",
        "Level it wants, by its meter",
        ("wants_dbu", "window_low_dbu", "window_high_dbu"),
        (
            "Set its own gain control, if it has one, to the middle. Feed a tone of 1 kHz, from"
            " nothing upwards.",
            "Note the level at the pin when the level meter first moves.",
            "Note the level when the meter is as far as you would let speech drive it.",
        ),
        (
            Reading("first", "Meter first moves at", LEVEL),
            Reading("full", "Meter is full enough at", LEVEL),
        ),
        _window,
        caution("rf"),
    ),
    Method(
        "ceiling",
        "Ceiling, by a growing tone",
        ("clip_dbu",),
        (
            "Feed a tone and raise it in small steps, watching the output on a scope or a meter.",
            "Note the level where a step in no longer gives the whole step out.",
            "For a box, read that level at its output; for a radio, at its pin.",
        ),
        (Reading("stops", "It stops growing at", LEVEL),),
        _ceiling,
    ),
    Method(
        "bias",
        "Bias, open and loaded",
        ("bias_v", "bias_ohm"),
        (
            "With nothing plugged in, read the DC volts from the microphone pin to its ground.",
            "Put a known resistor from the pin to its ground; 2.2 kΩ is a good first choice.",
            "Read the DC volts across it.",
        ),
        (
            _volts("open_v", "Volts open"),
            _volts("loaded_v", "Volts loaded"),
            Reading("load", "Load resistor", OHMS),
        ),
        _bias,
        caution("keys-itself"),
    ),
)


def methods_for(gear: Gear) -> tuple[Method, ...]:
    """Methods that find a figure which this piece has."""
    fields = gear.figures()
    return tuple(m for m in METHODS if any(f in fields for f in m.finds))
