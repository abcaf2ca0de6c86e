"""Faults of parts: missing, shorted, turned, of another value, aged."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from functools import partial
from itertools import permutations

from tonleiter.core.bench.unit import Unit
from tonleiter.core.circuit.elements import (
    Bipolar,
    Capacitor,
    Diode,
    DiodeModel,
    Element,
    Inductor,
    Jfet,
    OpAmp,
    Regulator,
    Resistor,
    VoltageSource,
)
from tonleiter.core.circuit.instance import nodes_of
from tonleiter.core.gear.net import ELECTROLYTIC_FROM_F, Polarised
from tonleiter.core.gear.shopping import Item
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.prove.edits import (
    OPEN_OHM,
    SHORT_OHM,
    beside,
    bridge,
    in_series,
    instead,
    moved_nodes,
    then,
    with_fields,
    without,
)
from tonleiter.core.prove.fault import Change, Fault, degrees
from tonleiter.core.prove.of_chips import chip, regulator
from tonleiter.core.prove.of_values import capacitor_values, resistor_values
from tonleiter.core.prove.of_wires import DRY_OHMS

# an electrolytic the wrong way round: a poor diode from about a volt on, and a leak
TURNED_FILM, TURNED_LEAK_OHM = DiodeModel(is_a=1e-7, n=3.0, rs_ohm=200.0), 200e3
# what one lets through that has aged; what is left of one that dried out, and what it has in series
LEAKS_OHM, DRIED_SHARE, DRIED_OHM = (3e3, 30e3, 300e3), 0.1, 100.0
# of its volts so much is left in a flat block of 9 V, behind so many times its resistance
FLAT, FLAT_INSIDE = (0.67, 0.5), 60.0
# a film of water or flux over a board
WET_OHM = 220e3


def of_items(found: Verdict, unit: Unit) -> Iterator[Fault]:
    """Every fault of every part of the build."""
    own = {e.name for e in unit.elements}
    plus = _plus_sides(found)
    for item in found.build.items:
        if names := item.elements & own:
            ref = found.build.refs.get(item.place, item.place)
            yield from _of_item(ref, item, sorted(names), unit, plus)


def _plus_sides(found: Verdict) -> Mapping[str, str]:
    """The plus net of each polarised capacitor, by its element."""
    stages = found.assessment.solution.compiled.stages
    return {m.element: m.p for s in stages for m in s.marks if isinstance(m, Polarised)}


def _of_item(
    ref: str, item: Item, names: list[str], unit: Unit, plus: Mapping[str, str]
) -> Iterator[Fault]:
    elements = {e.name: e for e in unit.elements}
    inside = [elements[n] for n in names]
    whole = next((e for e in inside if isinstance(e, OpAmp | Regulator)), None)
    if whole is not None:
        yield from chip(ref, whole) if isinstance(whole, OpAmp) else regulator(ref, whole)
        return
    source = next((e for e in inside if isinstance(e, VoltageSource) and e.dc), None)
    if source is not None:
        yield from _supply(ref, source)
        return
    if any(isinstance(e, Diode) for e in inside) and len(inside) > 1:
        yield from _opto(ref, inside)
        return
    if len(inside) > 1 and any(n.endswith(":contact") for n in names):
        yield from _relay(ref, {e.name.partition(":")[2]: e for e in inside})
        return
    if len(inside) > 1:
        yield from _windings(ref, inside, unit)
        return
    element = inside[0]
    match element:
        case Resistor():
            yield from _resistor(ref, element)
        case Capacitor():
            yield from _capacitor(ref, element, plus.get(element.name))
        case Bipolar():
            yield from _transistor(ref, element, ("collector", "base", "emitter"))
        case Jfet():
            yield from _transistor(ref, element, ("drain", "gate", "source"))
        case Diode():
            yield from _diode(ref, element)
        case Inductor():
            broken = in_series(element, "p", OPEN_OHM)
            yield Fault(f"{ref}-open", f"{ref} open", "open", ref, broken)


def _resistor(ref: str, r: Resistor) -> Iterator[Fault]:
    yield Fault(
        f"{ref}-open", f"{ref} open, or left out", "open", ref, with_fields(r.name, ohm=OPEN_OHM)
    )
    yield Fault(f"{ref}-short", f"{ref} shorted", "short", ref, with_fields(r.name, ohm=SHORT_OHM))
    yield from resistor_values(ref, r)
    far = [ohm for ohm in DRY_OHMS if ohm > 0.3 * r.ohm]
    dry = partial(in_series, r, "p")
    yield from degrees(f"{ref}-dry", f"{ref} dry joint, some", "dry", ref, far, dry)


def _capacitor(ref: str, c: Capacitor, plus: str | None) -> Iterator[Fault]:
    yield Fault(
        f"{ref}-open", f"{ref} open, or left out", "open", ref, with_fields(c.name, farad=1e-12)
    )
    yield Fault(f"{ref}-short", f"{ref} shorted", "short", ref, instead(_leak(c, SHORT_OHM)))
    yield from capacitor_values(ref, c)
    yield Fault(f"{ref}-dry", f"{ref} dry joint", "dry", ref, in_series(c, "n", 10e3))
    if c.farad < ELECTROLYTIC_FROM_F:
        return
    if plus is not None:
        other = c.n if plus == c.p else c.p
        # it conducts from where its plus should be to where its minus should be
        film = Diode(f"fault:{c.name}:film", plus, other, TURNED_FILM)
        change = beside(film, Resistor(f"fault:{c.name}", c.p, c.n, TURNED_LEAK_OHM, noisy=False))
        yield Fault(f"{ref}-reversed", f"{ref} the wrong way round", "reversed", ref, change)
    yield from degrees(
        f"{ref}-leaks",
        f"{ref} leaks, as if beside it lay",
        "aged",
        ref,
        LEAKS_OHM,
        lambda ohm: beside(Resistor(f"fault:{c.name}", c.p, c.n, ohm, noisy=False)),
    )
    dried = then(with_fields(c.name, farad=DRIED_SHARE * c.farad), in_series(c, "n", DRIED_OHM))
    yield Fault(f"{ref}-dried", f"{ref} dried out", "aged", ref, dried)


def _leak(c: Capacitor, ohm: float) -> Resistor:
    return Resistor(c.name, c.p, c.n, ohm, noisy=False)


def _transistor(ref: str, q: Bipolar | Jfet, legs: tuple[str, str, str]) -> Iterator[Fault]:
    at = [getattr(q, leg) for leg in legs]
    for order in permutations(range(3)):
        if order == (0, 1, 2):
            continue
        moved = {leg: at[order[k]] for k, leg in enumerate(legs)}
        name = "".join(legs[k][0].upper() for k in order)
        usual = "".join(leg[0].upper() for leg in legs)
        yield Fault(
            f"{ref}-turned-{name}",
            f"{ref} with its legs as {name} for {usual}",
            "turned",
            ref,
            with_fields(q.name, **moved),
        )
    kinds = ("PNP", "NPN") if isinstance(q, Bipolar) else ("P channel", "N channel")
    other, own = kinds if q.model.polarity > 0 else kinds[::-1]
    turned = _with_model(q.name, polarity=-q.model.polarity)
    yield Fault(f"{ref}-sort", f"{ref} is {other} for {own}", "sort", ref, turned)
    yield Fault(f"{ref}-absent", f"{ref} left out, or dead: open", "dead", ref, without(q))
    for leg in legs:
        yield Fault(
            f"{ref}-open-{leg}",
            f"{ref}: {leg} not joined",
            "open",
            ref,
            in_series(q, leg, OPEN_OHM),
        )
    for one, two in ((0, 2), (1, 2), (0, 1)):
        says = f"{ref}: {legs[one]} and {legs[two]} shorted"
        name = f"{ref}-short-{legs[one]}-{legs[two]}"
        yield Fault(name, says, "dead", ref, bridge(at[one], at[two]))


def _with_model(name: str, **fields: object) -> Change:
    """Figures of an element's model changed, the others as they are."""

    def change(elements: tuple[Element, ...]) -> tuple[Element, ...]:
        return tuple(
            replace(e, model=replace(e.model, **fields))  # type: ignore[arg-type]
            if e.name == name and isinstance(e, Bipolar | Jfet | Diode)
            else e
            for e in elements
        )

    return change


def _diode(ref: str, d: Diode) -> Iterator[Fault]:
    turned = with_fields(d.name, anode=d.cathode, cathode=d.anode)
    yield Fault(f"{ref}-reversed", f"{ref} the wrong way round", "reversed", ref, turned)
    yield Fault(f"{ref}-open", f"{ref} open", "open", ref, in_series(d, "anode", OPEN_OHM))
    yield Fault(f"{ref}-short", f"{ref} shorted", "short", ref, bridge(d.anode, d.cathode))
    if d.model.bv_v < float("inf"):
        for factor in (0.6, 1.6):
            volts = factor * d.model.bv_v
            yield Fault(
                f"{ref}-drawer-{volts:.3g}",
                f"{ref} of other volts: {volts:.2g} V",
                "drawer",
                ref,
                _with_model(d.name, bv_v=volts),
                f"{ref}-value",
            )


def _supply(ref: str, v: VoltageSource) -> Iterator[Fault]:
    for share in FLAT:
        flat = then(with_fields(v.name, dc=share * v.dc), _stiffer(f"{v.name}_inside", FLAT_INSIDE))
        yield Fault(
            f"{ref}-flat-{share:g}",
            f"{ref} flat: some {share * v.dc:.2g} V",
            "supply",
            ref,
            flat,
            f"{ref}-flat",
            1 / len(FLAT),
        )
    reversed_ = with_fields(v.name, dc=-v.dc)
    yield Fault(f"{ref}-reversed", f"{ref} the wrong way round", "supply", ref, reversed_)
    yield Fault(f"{ref}-open", f"{ref} gives nothing", "open", ref, in_series(v, "p", OPEN_OHM))


def _stiffer(name: str, factor: float) -> Change:
    return lambda elements: tuple(
        replace(e, ohm=factor * e.ohm) if isinstance(e, Resistor) and e.name == name else e
        for e in elements
    )


def _opto(ref: str, inside: list[Element]) -> Iterator[Fault]:
    led = next(e for e in inside if isinstance(e, Diode))
    photo = next(e for e in inside if isinstance(e, Bipolar))
    turned = with_fields(led.name, anode=led.cathode, cathode=led.anode)
    other = with_fields(photo.name, collector=photo.emitter, emitter=photo.collector)
    whole = {led.anode: photo.collector, photo.collector: led.anode}
    names = frozenset(e.name for e in inside)
    for token, says, kind, change in (
        ("led-reversed", ": its LED the wrong way round", "reversed", turned),
        ("dead", ": its LED is dead", "dead", in_series(led, "anode", OPEN_OHM)),
        ("transistor", ": collector and emitter exchanged", "turned", other),
        ("absent", " left out", "open", without(*inside)),
        ("turned", " turned round", "turned", moved_nodes(names, whole)),
        ("short", ": its transistor is shorted", "dead", bridge(photo.collector, photo.emitter)),
    ):
        yield Fault(f"{ref}-{token}", f"{ref}{says}", kind, ref, change)


def _relay(ref: str, inside: Mapping[str, Element]) -> Iterator[Fault]:
    coil, contact = inside["coil"], inside["contact"]
    assert isinstance(coil, Resistor)
    assert isinstance(contact, Resistor)
    broken = in_series(coil, "p", OPEN_OHM)
    yield Fault(f"{ref}-coil", f"{ref}: its coil is open", "winding", ref, broken)
    yield from switch(ref, contact)


def switch(ref: str, contact: Resistor) -> Iterator[Fault]:
    """A contact that does not do what it should."""
    never = in_series(contact, "p", OPEN_OHM)
    always = with_fields(contact.name, ohm=SHORT_OHM)
    yield Fault(f"{ref}-never", f"{ref} never closes", "switch", ref, never)
    yield Fault(f"{ref}-always", f"{ref} is always closed", "switch", ref, always)


def _windings(ref: str, elements: list[Element], unit: Unit) -> Iterator[Fault]:
    """A part of several elements, such as a transformer: each winding broken or shorted."""
    coils = [e for e in elements if isinstance(e, Inductor)]
    for k, coil in enumerate(coils, 1):
        which = f"winding {k}" if len(coils) > 1 else "winding"
        broken = in_series(coil, "p", OPEN_OHM)
        yield Fault(f"{ref}-open-{k}", f"{ref}: {which} open", "winding", ref, broken)
        short = bridge(coil.p, coil.n)
        yield Fault(f"{ref}-short-{k}", f"{ref}: {which} shorted", "short", ref, short)
        yield Fault(
            f"{ref}-turned-{k}",
            f"{ref}: {which} the wrong way round",
            "winding",
            ref,
            with_fields(coil.name, p=coil.n, n=coil.p),
        )
    if len(coils) == 2 and (ends := _ends(coils, elements, unit)):
        names = frozenset(e.name for e in elements)
        says = f"{ref}: primary and secondary changed over"
        yield Fault(f"{ref}-changed", says, "winding", ref, moved_nodes(names, ends))


def _ends(coils: list[Inductor], elements: list[Element], unit: Unit) -> dict[str, str]:
    """The outer ends of two windings, each to that of the other in the same place."""
    names = {e.name for e in elements}
    outside = {n for e in unit.elements if e.name not in names for n in nodes_of(e)}
    outer = []
    for coil in coils:
        # copper stands in series with the winding
        copper = {
            n: m for e in elements if isinstance(e, Resistor) for n, m in ((e.p, e.n), (e.n, e.p))
        }
        pair = [n if n in outside else copper.get(n, n) for n in (coil.p, coil.n)]
        outer.append(pair)
    (a, b), (c, d) = outer
    if len({a, b, c, d}) < 4 or {a, b, c, d} - outside:
        return {}
    return {a: c, c: a, b: d, d: b}


def wet(unit: Unit) -> Iterator[Fault]:
    """Flux or water over the board: every net leaks to the next and to ground."""
    nodes = [p.node for p in unit.points]
    if len(nodes) > 2:
        leaks = [
            Resistor(f"fault:wet:{a}:{b}", a, b, WET_OHM, noisy=False)
            for a, b in zip(nodes, [*nodes[1:], "0"], strict=True)
        ]
        yield Fault("wet", "the board is wet, or dirty with flux", "wet", "board", beside(*leaks))
