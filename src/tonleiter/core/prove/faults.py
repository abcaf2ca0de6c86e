"""Every single fault that hands make in a build, as an edit of its circuit, with its prior.

Priors say how often each is made, against each other, in one table with its reasons; they decide
only between faults that the readings do not tell apart.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import combinations, permutations

from tonleiter.core.bench.unit import BIAS, JOINT, Unit
from tonleiter.core.circuit.elements import (
    GROUND,
    Bipolar,
    Capacitor,
    Diode,
    Element,
    Inductor,
    Jfet,
    ModulatedResistor,
    Resistor,
    VoltageSource,
)
from tonleiter.core.gear.net import ELECTROLYTIC_FROM_F
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.station.contacts import At, by_thing
from tonleiter.core.station.shells import SHELLS, Shell, mirrored_label
from tonleiter.core.units.preferred import mantissas
from tonleiter.core.units.quantity import FARAD, OHM, format_quantity

Elements = tuple[Element, ...]
OPEN_OHM, SHORT_OHM = 1e9, 0.05
DRY_OHMS = (1e3, 30e3)
# what an electrolytic lets through that stands the wrong way round, once it has given up
REVERSED_OHM = 2e3

# how often hands make each kind of fault, against each other
PRIORS = {
    "dry": 10.0,  # the commonest: a joint that looks soldered
    "open": 6.0,  # a lead not soldered, a part left out, a track cut
    "bridge": 6.0,  # solder between neighbours
    "decade": 5.0,  # a value read ten times too large or small
    "band": 2.0,  # a colour taken for its neighbour: red for orange, blue for violet
    "turned": 5.0,  # a transistor whose legs were taken in another order
    "reversed": 4.0,  # a capacitor or diode the wrong way round
    "swapped": 4.0,  # two wires on each other's contacts
    "moved": 1.0,  # a wire on the contact beside its own
    "mirrored": 3.0,  # a plug wired from the wrong face
    "ground": 5.0,  # a ground that was forgotten
    "supply": 3.0,  # a battery that is low, or turned round
    "short": 2.0,  # a part shorted by a strand or by its own death
    "winding": 2.0,  # windings on each other's places, or broken
    "dead": 1.0,  # a transistor that was too hot, a capsule that is no more
}


@dataclass(frozen=True)
class Fault:
    """One fault: what it is called, how it changes the circuit, how often it is made."""

    id: str
    says: str
    kind: str
    part: str
    change: Callable[[Elements], Elements]

    @property
    def prior(self) -> float:
        """Weight against other faults."""
        return PRIORS[self.kind]


@dataclass(frozen=True)
class Weighed(Fault):
    """What has a weight of its own in place of its kind's: two faults at once, or none."""

    likely: float = 0.0

    @property
    def prior(self) -> float:
        """Weight against single faults."""
        return self.likely


def both(one: Fault, other: Fault, total: float) -> Weighed:
    """Two faults at once; ``total`` is the weight of all single ones."""
    return Weighed(
        id=f"{one.id}+{other.id}",
        says=f"{one.says}; and {other.says}",
        kind=one.kind,
        part=one.part,
        change=lambda elements: other.change(one.change(elements)),
        likely=SECOND_SHARE * one.prior * other.prior / total,
    )


# of builds with one fault, so many have a second one
SECOND_SHARE = 0.1
# colours that are taken for each other by lamplight, as digits: black and brown, brown and red, red
# and orange, orange and yellow, green and blue, blue and violet, violet and grey, grey and white
_LOOKS_LIKE = {
    0: (1,),
    1: (0, 2),
    2: (1, 3),
    3: (2, 4),
    4: (3,),
    5: (6,),
    6: (5, 7),
    7: (6, 8),
    8: (7, 9),
    9: (8,),
}
E24 = frozenset(round(10 * m) for m in mantissas("E24"))


def faults_of(found: Verdict, unit: Unit) -> tuple[Fault, ...]:
    """Every single fault of a unit, each under an id of its own."""
    own = {e.name for e in unit.elements}
    made = [
        fault
        for item in found.build.items
        if item.elements & own
        for fault in _of_item(found.build.refs[item.place], sorted(item.elements & own), unit)
    ]
    made += _of_wires(found, unit)
    made += _of_what_is_plugged(unit)
    return tuple({f.id: f for f in made}.values())


# --- parts ---------------------------------------------------------------------------------------


def _of_item(ref: str, names: list[str], unit: Unit) -> Iterator[Fault]:
    elements = {e.name: e for e in unit.elements}
    if len(names) > 1:
        yield from _of_windings(ref, [elements[n] for n in names])
        return
    element = elements[names[0]]
    match element:
        case Resistor():
            yield from _resistor(ref, element)
        case Capacitor():
            yield from _capacitor(ref, element)
        case Bipolar():
            yield from _transistor(ref, element, ("collector", "base", "emitter"))
        case Jfet():
            yield from _transistor(ref, element, ("drain", "gate", "source"))
        case Diode():
            yield from _diode(ref, element)
        case VoltageSource():
            yield from _supply(ref, element)
        case Inductor():
            yield Fault(f"{ref}-open", f"{ref} open", "open", ref, _dry(element, "p", OPEN_OHM))


def _resistor(ref: str, r: Resistor) -> Iterator[Fault]:
    yield Fault(f"{ref}-open", f"{ref} open, or left out", "open", ref, _with(r, ohm=OPEN_OHM))
    yield Fault(f"{ref}-short", f"{ref} shorted", "short", ref, _with(r, ohm=SHORT_OHM))
    for factor, word in ((10.0, "large"), (0.1, "small")):
        value = format_quantity(r.ohm * factor, OHM)
        yield Fault(
            f"{ref}-{word}",
            f"{ref} ten times too {word}: {value}",
            "decade",
            ref,
            _with(r, ohm=r.ohm * factor),
        )
    for ohm in one_band_off(r.ohm):
        words = format_quantity(ohm, OHM)
        yield Fault(
            f"{ref}-band-{ohm:g}",
            f"{ref} of another colour: {words}",
            "band",
            ref,
            _with(r, ohm=ohm),
        )
    for ohm in DRY_OHMS:
        if ohm > 0.3 * r.ohm:
            words = format_quantity(ohm, OHM)
            yield Fault(
                f"{ref}-dry-{ohm:g}",
                f"{ref} dry joint, some {words}",
                "dry",
                ref,
                _with(r, ohm=r.ohm + ohm),
            )


def one_band_off(ohm: float) -> tuple[float, ...]:
    """Values of the E24 series that come of one colour taken for its neighbour: of 22, 12."""
    digits, ten = first_digits(ohm)
    found = []
    for place in (10, 1):
        digit = digits // place % 10
        for other in _LOOKS_LIKE.get(digit, ()):
            made = digits + (other - digit) * place
            if made in E24:
                found.append(made * ten)
    return tuple(found)


def first_digits(ohm: float) -> tuple[int, float]:
    """The two digits of a resistor's code and what they are multiplied by. Raises ValueError."""
    if not (math.isfinite(ohm) and ohm > 0):
        raise ValueError(f"{ohm} is no resistance")
    ten = 10.0 ** (math.floor(math.log10(ohm) + 1e-9) - 1)
    return round(ohm / ten), ten


def _capacitor(ref: str, c: Capacitor) -> Iterator[Fault]:
    yield Fault(f"{ref}-open", f"{ref} open, or left out", "open", ref, _with(c, farad=1e-12))
    yield Fault(f"{ref}-short", f"{ref} shorted", "short", ref, _instead(c, SHORT_OHM))
    for factor, word in ((10.0, "large"), (0.1, "small")):
        value = format_quantity(c.farad * factor, FARAD)
        yield Fault(
            f"{ref}-{word}",
            f"{ref} ten times too {word}: {value}",
            "decade",
            ref,
            _with(c, farad=c.farad * factor),
        )
    if c.farad >= ELECTROLYTIC_FROM_F:
        yield Fault(
            f"{ref}-reversed",
            f"{ref} the wrong way round",
            "reversed",
            ref,
            _beside(c, REVERSED_OHM),
        )
    yield Fault(f"{ref}-dry", f"{ref} dry joint", "dry", ref, _dry(c, "n", 10e3))


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
            _with(q, **moved),
        )
    for leg in legs:
        yield Fault(
            f"{ref}-open-{leg}", f"{ref}: {leg} not joined", "open", ref, _dry(q, leg, OPEN_OHM)
        )
    for one, other in ((0, 2), (1, 2), (0, 1)):
        says = f"{ref}: {legs[one]} and {legs[other]} shorted"
        yield Fault(
            f"{ref}-short-{legs[one]}-{legs[other]}", says, "dead", ref, _bridge(at[one], at[other])
        )


def _diode(ref: str, d: Diode) -> Iterator[Fault]:
    turned = _with(d, anode=d.cathode, cathode=d.anode)
    yield Fault(f"{ref}-reversed", f"{ref} the wrong way round", "reversed", ref, turned)
    yield Fault(f"{ref}-open", f"{ref} open", "open", ref, _dry(d, "anode", OPEN_OHM))
    yield Fault(f"{ref}-short", f"{ref} shorted", "short", ref, _bridge(d.anode, d.cathode))


def _supply(ref: str, v: VoltageSource) -> Iterator[Fault]:
    yield Fault(
        f"{ref}-low",
        f"{ref} low: three fifths of its volts",
        "supply",
        ref,
        _with(v, dc=0.6 * v.dc),
    )
    yield Fault(f"{ref}-reversed", f"{ref} the wrong way round", "supply", ref, _with(v, dc=-v.dc))
    yield Fault(f"{ref}-open", f"{ref} gives nothing", "open", ref, _dry(v, "p", OPEN_OHM))


def _of_windings(ref: str, elements: list[Element]) -> Iterator[Fault]:
    """A part of several elements, such as a transformer: each winding broken or shorted."""
    coils = [e for e in elements if isinstance(e, Inductor)]
    for k, coil in enumerate(coils, 1):
        which = f"winding {k}" if len(coils) > 1 else "winding"
        yield Fault(
            f"{ref}-open-{k}", f"{ref}: {which} open", "winding", ref, _dry(coil, "p", OPEN_OHM)
        )
        yield Fault(
            f"{ref}-short-{k}", f"{ref}: {which} shorted", "short", ref, _bridge(coil.p, coil.n)
        )
        yield Fault(
            f"{ref}-turned-{k}",
            f"{ref}: {which} the wrong way round",
            "winding",
            ref,
            _with(coil, p=coil.n, n=coil.p),
        )


# --- wires and contacts --------------------------------------------------------------------------


def _of_wires(found: Verdict, unit: Unit) -> Iterator[Fault]:
    ends = by_thing(unit.contacts)
    plugs = {e.id: f"the {e.name}'s plug" for e in found.build.ends}
    shells = {e.id: e.connector.shell for e in found.build.ends}
    for end, refs in ends.items():
        labels = {r.label: r for r in refs}
        for one, other in _in_order(shells[end], labels):
            a, b = unit.contacts[labels[one]], unit.contacts[labels[other]]
            if a != b:
                yield Fault(
                    f"bridge-{end}-{one}-{other}",
                    f"solder between {one} and {other} of {plugs[end]}",
                    "bridge",
                    end,
                    _bridge(a, b),
                )
    for ref, node in unit.contacts.items():
        end, label = ref.thing, ref.label
        kind = "ground" if node == GROUND else "open"
        says = f"{label} of {plugs[end]}"
        yield Fault(f"open-{ref}", f"{says} not soldered", kind, end, _joint(ref, OPEN_OHM))
        for ohm in DRY_OHMS:
            words = format_quantity(ohm, OHM)
            yield Fault(
                f"dry-{ref}-{ohm:g}",
                f"{says} a dry joint, some {words}",
                "dry",
                end,
                _joint(ref, ohm),
            )
    everywhere = {**unit.contacts, **unit.free}
    for ref in unit.free:
        end, label = ref.thing, ref.label
        near = _nearest(shells[end], label, [r.label for r in ends.get(end, ())])
        if near is None:
            continue
        wired = At(end, near)
        yield Fault(
            f"bridge-{end}-{near}-{label}",
            f"solder between {near} and the free {label} of {plugs[end]}",
            "bridge",
            end,
            _bridge(unit.contacts[wired], unit.free[ref]),
        )
        yield Fault(
            f"moved-{end}-{near}-{label}",
            f"{near} of {plugs[end]} soldered to {label} beside it",
            "moved",
            end,
            _swapped({wired: ref}, everywhere),
        )
    for end, refs in ends.items():
        for one, other in combinations(refs, 2):
            a, b = one.label, other.label
            change = _swapped({one: other, other: one}, everywhere)
            yield Fault(
                f"swapped-{end}-{a}-{b}",
                f"{a} and {b} of {plugs[end]} swapped",
                "swapped",
                end,
                change,
            )
        turned = {r: mirrored_label(shells[end], r.label) for r in refs}
        moved = {r: At(end, m) for r, m in turned.items() if m is not None and r.label != m}
        if moved:
            yield Fault(
                f"mirrored-{end}",
                f"{plugs[end]} wired from the wrong face",
                "mirrored",
                end,
                _swapped(moved, everywhere),
            )


def _in_order(shell: Shell, labels: Mapping[str, At]) -> Iterator[tuple[str, str]]:
    """Pairs of contacts, in the order of the face."""
    return combinations([s.label for s in SHELLS[shell].face("front") if s.label in labels], 2)


def _nearest(shell: Shell, label: str, among: list[str]) -> str | None:
    """Of some contacts the one that lies nearest to another on the face."""
    # of a round shell it is the same either way its figures run
    place = {s.label: (s.x, s.y) for s in SHELLS[shell].face("front", counted="clockwise")}
    return min(among, key=lambda a: math.dist(place[a], place[label]), default=None)


# --- what is plugged to it -----------------------------------------------------------------------


def _of_what_is_plugged(unit: Unit) -> Iterator[Fault]:
    """The input's bias and the microphone are no part of the build, but hands chose them."""
    for element in unit.elements:
        match element:
            case VoltageSource(name=name) if name == BIAS:
                yield Fault(
                    "bias-off", "the input gives no bias", "supply", "bias", _with(element, dc=0.0)
                )
                yield Fault(
                    "bias-half",
                    "another bias source: half the volts",
                    "supply",
                    "bias",
                    _with(element, dc=0.5 * element.dc),
                )
                yield Fault(
                    "bias-reversed",
                    "another bias source: minus where plus should be",
                    "supply",
                    "bias",
                    _with(element, dc=-element.dc),
                )
            case Jfet(name=name, drain=p, source=n) if name in unit.source:
                yield from _capsule(name, p, n)
            case ModulatedResistor(name=name, p=p, n=n) if name in unit.source:
                yield from _capsule(name, p, n)


def _capsule(name: str, p: str, n: str) -> Iterator[Fault]:
    for word, says, ohm in (
        ("dead", "the capsule is dead: it draws nothing", OPEN_OHM),
        ("short", "the capsule is shorted", SHORT_OHM),
    ):
        made = Resistor(name, p, n, ohm, noisy=False)
        yield Fault(f"capsule-{word}", says, "dead", "capsule", _replaced(made))


# --- edits of a circuit --------------------------------------------------------------------------


def _with(element: Element, **fields: object) -> Callable[[Elements], Elements]:
    changed = replace(element, **fields)  # type: ignore[arg-type]
    return _replaced(changed)


def _replaced(made: Element) -> Callable[[Elements], Elements]:
    return lambda elements: tuple(made if e.name == made.name else e for e in elements)


def _instead(element: Capacitor, ohm: float) -> Callable[[Elements], Elements]:
    made = Resistor(element.name, element.p, element.n, ohm, noisy=False)
    return _replaced(made)


def _beside(element: Capacitor, ohm: float) -> Callable[[Elements], Elements]:
    made = Resistor(f"fault:{element.name}", element.p, element.n, ohm, noisy=False)
    return lambda elements: (*elements, made)


def _bridge(a: str, b: str) -> Callable[[Elements], Elements]:
    made = Resistor(f"fault:{a}:{b}", a, b, SHORT_OHM, noisy=False)
    return lambda elements: (*elements, made)


def _dry(element: Element, leg: str, ohm: float) -> Callable[[Elements], Elements]:
    """A resistance in series with one leg of a part."""
    node = getattr(element, leg)
    inner = f"{element.name}:dry"
    moved = replace(element, **{leg: inner})  # type: ignore[arg-type]
    made = Resistor(f"fault:{element.name}", inner, node, ohm, noisy=False)
    return lambda elements: (*(moved if e.name == element.name else e for e in elements), made)


def _joint(ref: str, ohm: float) -> Callable[[Elements], Elements]:
    """The joints of a contact with a resistance of their own."""
    return lambda elements: tuple(
        replace(e, ohm=ohm)
        if isinstance(e, Resistor) and e.name.startswith(f"{JOINT}{ref}:")
        else e
        for e in elements
    )


def _joint_of(element: Element) -> str:
    """The contact whose joint an element is; "" for what is none."""
    name = element.name
    return name[len(JOINT) :].rpartition(":")[0] if name.startswith(JOINT) else ""


def _swapped(to: Mapping[At, At], contacts: Mapping[At, str]) -> Callable[[Elements], Elements]:
    """Wires soldered to other contacts; what has no contact of the unit there ends in air."""
    moved: Mapping[str, At] = {str(was): now for was, now in to.items()}

    def change(elements: Elements) -> Elements:
        changed = []
        for e in elements:
            ref = _joint_of(e)
            if ref in moved and isinstance(e, Resistor):
                node = contacts.get(moved[ref])
                e = replace(e, ohm=OPEN_OHM) if node is None else replace(e, p=node)
            changed.append(e)
        return tuple(changed)

    return change
