"""Pieces that a plan may put between source and input, with values to try."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from tonleiter.core.gear.active import MicrophoneAmplifier
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.bias_feed import BiasFeed
from tonleiter.core.gear.figure import typical
from tonleiter.core.gear.more_pads import SeriesPad, TPad, TrimPot, UPad
from tonleiter.core.gear.pad_shapes import ShapedPad
from tonleiter.core.gear.passives import LPad, SeriesCapacitor, Transformer
from tonleiter.core.gear.phantom import PhantomFeed
from tonleiter.core.gear.preamps import BipolarPreamp, JfetPreamp, OpAmpPreamp
from tonleiter.core.station.contact_facts import Standing
from tonleiter.core.station.fed import NOTHING
from tonleiter.core.station.model import Drawer
from tonleiter.core.units import preferred
from tonleiter.core.units.quantity import FARAD, OHM, format_quantity, format_short

_PADS: dict[str, type[Gear]] = {
    "l-pad": LPad,
    "series-pad": SeriesPad,
    "t-pad": TPad,
    "u-pad": UPad,
    "trim-pot": TrimPot,
}
# set otherwise than by trying: pot tracks come in few sizes
UNMOVED = ("threshold_dbu", "track_ohm")
# volts that must stand over a 2-wire capsule for a wide swing
COMFORT_V = 1.5


@dataclass(frozen=True)
class Values:
    """Where values come from: a preferred series, or what lies in the drawer."""

    drawer: Drawer

    def ohm(self, exact: float) -> float:
        """Nearest resistor."""
        at_hand = self.drawer.ohms()
        if at_hand:
            return min(at_hand, key=lambda v: abs(math.log(v / exact)))
        return preferred.nearest(exact, self.drawer.series)

    def farad(self, at_least: float) -> float:
        """Smallest capacitor that is big enough; the biggest there is if none is."""
        at_hand = sorted(self.drawer.farads())
        if at_hand:
            return next((c for c in at_hand if c >= at_least), at_hand[-1])
        return preferred.at_least(at_least, "E6")

    def at_hand(self, gear: Gear) -> Gear:
        """The piece with its parts replaced by the nearest that lie in the drawer."""
        changes = {}
        for field, (quantity, _) in gear.figures().items():
            if field not in gear.choices or field in UNMOVED:
                continue
            value = gear.figure(field).value
            if quantity.unit is OHM and self.drawer.ohms():
                changes[field] = typical(self.ohm(value))
            elif quantity.unit is FARAD and self.drawer.farads():
                changes[field] = typical(self.farad(value))
        return gear.model_copy(update=changes) if changes else gear


def power_for(
    source: Gear, socket: Gear, values: Values, given: Standing = NOTHING
) -> Iterator[Gear | None]:
    """Ways to power a source: whatever the input offers, or a feed of its own at several values.

    ``given`` is what stands on the radio's bias contact.
    """
    needs = source.dc_needs()
    if needs is None:
        yield None
    elif needs.dc == "phantom":
        yield PhantomFeed(id="plan-phantom-feed", name="phantom feed box")
    elif needs.dc == "bias":
        if socket.bias_on_pin_v() > 0:
            yield None
        if given.volts >= needs.needs_v:
            left = max(needs.needs_v + 0.3, COMFORT_V, given.volts * 0.45)
            most = (given.volts - min(left, given.volts - 0.2)) / needs.draws_a - given.ohm
            yield _feed(
                "feed from the radio's bias contact",
                given.volts,
                values.ohm(max(most, LEAST_FEED_OHM)),
                values.farad(4.7e-6),
                "radio-contact",
            )
        for supply in (3.0, 9.0):
            left = max(needs.needs_v + 0.3, COMFORT_V, supply * 0.45)
            for share in (1.0, 0.6):
                ohm = values.ohm(max((supply - left) / needs.draws_a * share, 470.0))
                yield _feed(f"bias feed {supply:g} V", supply, ohm, values.farad(4.7e-6))
    else:
        middle_a = math.sqrt(needs.needs_a * needs.bears_a)
        for supply in (4.5, 6.0, 9.0):
            for share in (1.0, 1.5):
                ohm = supply / middle_a * share - needs.rest_ohm
                if ohm > 22.0:
                    yield _feed(
                        f"carbon feed {supply:g} V", supply, values.ohm(ohm), values.farad(10e-6)
                    )


def _feed(
    name: str,
    supply_v: float,
    ohm: float,
    farad: float,
    fed_by: Literal["battery", "radio-contact"] = "battery",
) -> BiasFeed:
    return BiasFeed(
        id="plan-feed",
        name=f"{name}, {format_short(ohm)}",
        supply_v=typical(supply_v),
        resistor_ohm=typical(ohm),
        coupling_f=typical(farad),
        fed_by=fed_by,
    )


# less in a feed loads the signal too much
LEAST_FEED_OHM = 1000.0


def blocker(farad: float) -> SeriesCapacitor:
    """A blocking capacitor before the radio."""
    return SeriesCapacitor.model_validate(
        {
            "id": "plan-block-radio",
            "name": f"blocking capacitor {format_quantity(farad, FARAD)}",
            "capacitance_f": farad,
            "plus_side": "output",
        }
    )


def transformers(source_ohm: float, owned: tuple[Gear, ...]) -> Iterator[Gear]:
    """Isolators: those that are owned, a usual 1:1, and one with a bigger core."""
    yield from owned
    z = min(max(source_ohm, 150.0), 10e3)
    for size, name in ((1.0, "small"), (4.0, "larger core")):
        yield Transformer(
            id="plan-isolator",
            name=f"isolating transformer 1:1, {name}",
            primary_h=typical(preferred.at_least(size * 2 * z / (2 * math.pi * 60), "E6")),
            leakage_h=typical(preferred.nearest(z / (2 * math.pi * 25e3), "E6")),
            primary_ohm=typical(preferred.nearest(z * 0.09, "E12")),
            secondary_ohm=typical(preferred.nearest(z * 0.11, "E12")),
            saturation_dbu=typical(2.0 + 12.0 * (size > 1)),
        )


def step_up(ratio: float, source_ohm: float) -> Transformer:
    """A microphone transformer of a turns ratio, wound for its source."""
    return Transformer(
        id="plan-step-up",
        name=f"step-up transformer 1:{ratio:g}",
        ratio=typical(ratio),
        primary_h=typical(preferred.at_least(3 * source_ohm / (2 * math.pi * 60), "E6")),
        leakage_h=typical(preferred.nearest(source_ohm / (2 * math.pi * 40e3), "E6")),
        primary_ohm=typical(preferred.nearest(source_ohm * 0.08, "E12")),
        secondary_ohm=typical(preferred.nearest(source_ohm * ratio**2 * 0.08, "E12")),
        winding_f=typical(100e-12),
        interwinding_f=typical(60e-12),
        saturation_dbu=typical(-10.0),
    )


Maker = Callable[[float], Gear]


def preamps(source_ohm: float, values: Values) -> Iterator[Maker]:
    """Kinds of preamp; each makes one of about a gain in dB, where it has a choice."""
    yield lambda gain_db: OpAmpPreamp(
        id="plan-preamp",
        name="op-amp preamp",
        feedback_ohm=typical(values.ohm(max(1e3 * (10 ** (gain_db / 20) - 1), 100.0))),
        ground_ohm=typical(values.ohm(1e3)),
        bias_ohm=typical(values.ohm(min(max(10 * source_ohm, 47e3), 2.2e6))),
        input_f=typical(values.farad(1 / (2 * math.pi * 15 * max(10 * source_ohm, 47e3)))),
    )
    for emitter in ("not-bypassed", "bypassed"):
        yield lambda _, emitter=emitter: BipolarPreamp(  # type: ignore[misc]
            id="plan-preamp", name=f"transistor preamp, emitter {emitter}", emitter=emitter
        )
    for bypass in ("not-bypassed", "bypassed"):
        yield lambda _, bypass=bypass: JfetPreamp(  # type: ignore[misc]
            id="plan-preamp", name=f"FET preamp, source {bypass}", source=bypass
        )


def outboard(owned: tuple[Gear, ...], source_ohm: float) -> Iterator[Maker]:
    """Boxes at line level: those that are owned, else an integrated microphone amplifier."""
    for gear in owned:
        yield lambda gain_db, gear=gear: gear.with_values(  # type: ignore[misc]
            {"gain_db": min(max(round(gain_db), gear.gain_low_db.value), gear.gain_high_db.value)}
        )
    yield lambda gain_db: MicrophoneAmplifier.model_validate(
        {
            "id": "plan-processor",
            "name": "integrated microphone amplifier",
            "gain_db": min(max(round(gain_db), 0), 60),
            "gain_low_db": 0,
            "gain_high_db": 60,
            "z_in_ohm": preferred.at_least(min(max(10 * source_ohm, 10e3), 1e6), "E12"),
            "ein_dbu": -118,
            "clip_dbu": 4,
            "works_from_dbu": -32,
            "works_to_dbu": -4,
            "threshold_dbu": -18,
            "supply": "battery",
        }
    )


def neighbours(gear: Gear, values: Values) -> Iterator[Gear]:
    """The piece with one of its values a few places away: what a builder would try next."""
    for field, (quantity, _) in gear.figures().items():
        if field not in gear.choices or field in gear.idle_fields() or field in UNMOVED:
            continue
        value = gear.figure(field).value
        if quantity.unit is OHM:
            around = _around(value, values.drawer.ohms(), values.drawer.series)
        elif quantity.unit is FARAD:
            around = _around(value, values.drawer.farads(), "E6")
        elif field == "turned_up":
            around = [min(max(value * k, 0.01), 0.99) for k in (0.8, 0.9, 1.1, 1.25)]
        elif field == "gain_db":
            low, high = (gear.figure(f"gain_{end}_db").value for end in ("low", "high"))
            around = [v for v in (value - 1, value + 1) if low <= v <= high]
        else:
            continue
        for other in around:
            moved = gear.model_copy(update={field: typical(other)})
            yield moved.model_copy(update={"name": moved.name_by_values()})


def _around(value: float, at_hand: list[float], series: preferred.Series) -> list[float]:
    """Three places down and three up, in the drawer if there is one."""
    if at_hand:
        below = sorted(v for v in at_hand if v < value)[-3:]
        return below + sorted(v for v in at_hand if v > value)[:3]
    return [preferred.step(value, n, series) for n in (-3, -2, -1, 1, 2, 3)]


def pad_gear(design: ShapedPad) -> Gear:
    """The gear of a designed pad."""
    kind = _PADS[design.kind]
    pad = kind.model_validate({"id": "plan-pad", "name": kind.noun, **dict(design.values)})
    return pad.model_copy(update={"name": pad.name_by_values()})
