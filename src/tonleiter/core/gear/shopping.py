"""A parts list made from what a piece builds, so that circuit, drawing and list are one thing."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace

from tonleiter.core.circuit.elements import (
    Bipolar,
    Capacitor,
    Coupling,
    CurrentSource,
    Diode,
    Element,
    Inductor,
    Jfet,
    Resistor,
    VoltageSource,
)
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import ELECTROLYTIC_FROM_F, Polarised, StageNet
from tonleiter.core.gear.parts import (
    BOX,
    CAPACITOR,
    COINS,
    DIODE,
    PENNIES,
    RESISTOR,
    TRANSISTOR,
    Part,
)
from tonleiter.core.units.quantity import AMPERE, FARAD, HENRY, OHM, VOLT, format_quantity

# a transistor is asked for by the least gain that its maker promises, about half of the usual one
PROMISED_SHARE = 0.5
# ratings that electrolytics are sold in, in volts; others bear 63 V
RATINGS_V = (6.3, 10.0, 16.0, 25.0, 35.0, 50.0, 63.0, 100.0, 160.0, 250.0, 400.0)
FILM_V = 63.0
# a capacitor is used at no more than this share of its rating
RATING_SHARE = 2 / 3
# what may stand on the pin of a radio that a piece is plugged into
PIN_V = 9.0
# resistors that get warmer than this are asked for by their power; usual ones bear ¼ W
USUAL_W, WARM_SHARE = 0.25, 0.5
POWERS = ((0.5, "½ W"), (1.0, "1 W"), (2.0, "2 W"), (5.0, "5 W"))
MORE_THAN_ANY = "heat sink: reckon it apart"

# the DC of a node, None where it is not known
Volts = Callable[[str], float | None]


@dataclass(frozen=True)
class Item:
    """One part to get: its place in the circuit, its letter, its line, the elements it stands for.

    ``place`` is the name of its element, or of what is got as one.
    """

    place: str
    letter: str
    part: Part
    elements: frozenset[str]


def parts_of(gear: Gear) -> tuple[Part, ...]:
    """What has to be got for a piece by itself: what its circuit is built of, or the piece."""
    return () if gear.lead else listed(items_of(gear, gear.built_alone()))


def items_of(gear: Gear, net: StageNet, volts: Volts | None = None) -> tuple[Item, ...]:
    """Every part of what a piece built, in the order in which it was built; strays are none.

    ``volts`` gives the DC of a node where that is known: what it heats is asked for accordingly.
    """
    if gear.bought_whole:
        inside = frozenset(e.name for e in net.elements if e.name not in net.unseen)
        return (Item(net.name("box"), gear.part_letter, gear.as_a_part(), inside),)
    inside_of = {name: whole for whole in net.wholes for name in whole.elements}
    polarised = {m.element for m in net.marks if isinstance(m, Polarised)}
    most_v = _most_v(net)
    found: dict[str, Item] = {}
    for element in net.elements:
        whole = inside_of.get(element.name)
        if whole is not None:
            item = Item(whole.place, whole.letter, whole.part, whole.elements)
            found.setdefault(whole.place, item)
        elif element.name not in net.unseen:
            made = _part(element, element.name in polarised, most_v, volts)
            if made is not None:
                letter, part = made
                found[element.name] = Item(element.name, letter, part, frozenset({element.name}))
    return tuple(found.values())


def _most_v(net: StageNet) -> float:
    """The highest DC that can stand anywhere in it."""
    sources = [abs(e.dc) for e in net.elements if isinstance(e, VoltageSource)]
    return max([*sources, PIN_V])


def numbered(items: Iterable[Item]) -> dict[str, str]:
    """A name for each part by its place: R1, R2, C1, counted by letter in the order given."""
    counts: dict[str, int] = {}
    names: dict[str, str] = {}
    for item in items:
        counts[item.letter] = counts.get(item.letter, 0) + 1
        names[item.place] = f"{item.letter}{counts[item.letter]}"
    return names


def listed(items: Iterable[Item], refs: Mapping[str, str] | None = None) -> tuple[Part, ...]:
    """Lines of a parts list: what is the same stands in one line, with how many and their names."""
    lines: dict[Part, list[str]] = {}
    for item in items:
        lines.setdefault(item.part, []).append(refs[item.place] if refs else "")
    return tuple(
        replace(part, count=len(names) * part.count, refs=tuple(n for n in names if n))
        for part, names in lines.items()
    )


def merged(lines: Iterable[Part]) -> tuple[Part, ...]:
    """The same part from several places is one line."""
    found: dict[Part, Part] = {}
    for line in lines:
        key = replace(line, count=0, refs=())
        was = found.get(key)
        found[key] = (
            line
            if was is None
            else replace(was, count=was.count + line.count, refs=was.refs + line.refs)
        )
    return tuple(found.values())


def _part(
    element: Element, polarised: bool, most_v: float, volts: Volts | None
) -> tuple[str, Part] | None:
    match element:
        case Resistor(ohm=ohm, p=p, n=n):
            note = power_words(_between(volts, p, n) ** 2 / ohm) if ohm > 0 else ""
            return RESISTOR, Part(1, "resistor", format_quantity(ohm, OHM), PENNIES, note)
        case Capacitor(farad=farad):
            value = format_quantity(farad, FARAD)
            if polarised or farad >= ELECTROLYTIC_FROM_F:
                # without a plus side that the circuit settles, it must have none
                note = f"{rating_v(most_v):g} V" + ("" if polarised else ", bipolar")
                return CAPACITOR, Part(1, "electrolytic capacitor", value, PENNIES, note)
            note = f"{FILM_V:g} V" if most_v <= FILM_V * RATING_SHARE else f"{rating_v(most_v):g} V"
            return CAPACITOR, Part(1, "capacitor", value, PENNIES, note)
        case Inductor(henry=henry):
            return "L", Part(1, "coil", format_quantity(henry, HENRY), COINS)
        case Bipolar(model=model):
            kind = "NPN" if model.polarity > 0 else "PNP"
            gain = f"current gain {model.bf * PROMISED_SHARE:.0f} or more"
            return TRANSISTOR, Part(
                1, f"transistor, small signal, {kind}", gain, COINS, f"bears {rating_v(most_v):g} V"
            )
        case Jfet(model=model):
            full_a = model.beta_a_per_v2 * model.vto_v**2
            values = (
                f"pinch-off about {format_quantity(abs(model.vto_v), VOLT)},"
                f" {format_quantity(full_a, AMPERE)}"
            )
            kind = "N-channel" if model.polarity > 0 else "P-channel"
            return TRANSISTOR, Part(
                1, f"FET, junction, {kind}", values, COINS, f"bears {rating_v(most_v):g} V"
            )
        case Diode():
            return DIODE, Part(1, "diode", "small signal", PENNIES)
        case VoltageSource(dc=dc) if dc:
            return "B", Part(1, "battery, holder", f"{dc:g} V", COINS)
        case CurrentSource(dc=dc):
            return "I", Part(1, "constant-current part", format_quantity(dc, AMPERE), COINS)
        case VoltageSource():
            # a source of nothing is how cards measure a current: a link of wire
            return "W", Part(1, "wire link", "", PENNIES)
        case Coupling():
            return None
    return "X", Part(1, "controlled source", "as in the cards", BOX)


def _between(volts: Volts | None, p: str, n: str) -> float:
    """DC over a part, 0 where it is not known."""
    high, low = (None, None) if volts is None else (volts(p), volts(n))
    return 0.0 if high is None or low is None else high - low


def rating_v(most_v: float) -> float:
    """The voltage rating that a capacitor or transistor is asked for where so much may stand."""
    wanted = most_v / RATING_SHARE
    return next((r for r in RATINGS_V if r >= wanted), math.ceil(wanted / 100) * 100)


def power_words(watts: float) -> str:
    """What a resistor must bear, where a usual one would get too hot."""
    if watts <= USUAL_W * WARM_SHARE:
        return ""
    return next((words for w, words in POWERS if watts <= w * WARM_SHARE), MORE_THAN_ANY)
