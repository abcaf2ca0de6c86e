"""Texts typed into fields: a quantity comes of them, or a refusal in one line, at once."""

from __future__ import annotations

from pathlib import Path

from fuzz.campaign import Bound, Tally, attempt, generator
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.guide.controls import control, read_knob
from tonleiter.core.guide.meters import Scale, read_meter
from tonleiter.core.station.settings import KNOBS, METERS, PanelState
from tonleiter.core.units.levels import parse_level
from tonleiter.core.units.sensitivity import parse_sensitivity

LETTERS = "0123456789.,eE+-−..…%±kKMmunpfµrRGTΩVABHzdBuFSPa/ \t\n\x00\ud800²٣"
WHOLE = (
    "4k7",
    "1e155..1e200",
    "10000",
    "-42 dBV",
    "8.2 mV",
    "30 mVpp",
    "5e-324",
    "1e999",
    "9" * 400,
    " " * 1000,
    "600..2000",
    "4k7 5%",
    "1n",
    "-0",
    "1..1",
    "0..0",
    "1 mV close talk",
    "two bars of ten",
    "null 1247",
    "null 2 543",
    "60 %",
    "a third",
    "4,5 kHz",
)
SCALES = tuple(Scale(meter, 10.0) for meter in METERS)
DIALS = tuple(control(PanelState(), knob) for knob in KNOBS)


def texts(seed: int, bound: Bound, _: Path) -> Tally:
    """Every kind of quantity meets every kind of text; what is accepted prints and reads again."""
    tally, rng = Tally("texts"), generator(seed, "texts")
    quantities = list({q for kind in KINDS.values() for q, _ in kind.figures().values()})
    quantities.sort(key=repr)
    while not bound.reached(tally):
        text = rng.choice(WHOLE) if rng.random() < 0.3 else ""
        for _ in range(rng.choice((0, 1, 3, 8))):
            at = rng.randrange(len(text) + 1)
            text = text[:at] + rng.choice(LETTERS) * rng.choice((1, 1, 1, 40)) + text[at:]
        quantity = rng.choice(quantities)
        match rng.randrange(10):
            case 8:
                scale = rng.choice(SCALES)
                attempt(tally, lambda: read_meter(text, scale), text[:80], slow_s=0.2)
            case 9:
                knob = rng.choice(DIALS)
                attempt(tally, lambda: read_knob(text, knob), text[:80], slow_s=0.2)
            case 0:
                attempt(tally, lambda: parse_level(text), text[:80], slow_s=0.2)
            case 1:
                attempt(tally, lambda: parse_sensitivity(text), text[:80], slow_s=0.2)
            case _:

                def both_ways() -> None:
                    figure = quantity.parse(text)
                    quantity.parse(quantity.show(figure, 9).replace(" ± ", " "))

                attempt(tally, both_ways, f"{quantity.unit.symbol} {text[:80]!r}", slow_s=0.2)
    return tally
