"""Write a circuit as netlist cards that this reader, and other solvers, read back."""

from __future__ import annotations

import cmath
import math
import re
from collections.abc import Iterable

from tonleiter.core.circuit.cards.numbers import format_number
from tonleiter.core.circuit.devices import BOLTZMANN
from tonleiter.core.circuit.elements import (
    GROUND,
    Bipolar,
    BipolarModel,
    Capacitor,
    Cccs,
    Ccvs,
    Circuit,
    Coupling,
    CurrentSource,
    Diode,
    DiodeModel,
    Element,
    Inductor,
    Jfet,
    JfetModel,
    ModulatedResistor,
    OpAmp,
    Regulator,
    Resistor,
    Spectrum,
    Vccs,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.circuit.instance import nodes_of

_LETTER: dict[type, str] = {
    Resistor: "r",
    Capacitor: "c",
    Inductor: "l",
    Coupling: "k",
    VoltageSource: "v",
    CurrentSource: "i",
    Vcvs: "e",
    Vccs: "g",
    Cccs: "f",
    Ccvs: "h",
    Diode: "d",
    Bipolar: "q",
    Jfet: "j",
    ModulatedResistor: "r",
    OpAmp: "g",
    Regulator: "g",
}


def write_deck(circuit: Circuit, analyses: Iterable[str] = ()) -> str:
    """Cards of ``circuit``, with ``analyses`` (such as ``.op``) before ``.end``.

    The cards have no word for a noise density, so each is written as what makes it: a resistor of
    known thermal noise read by a controlled source. A noiseless resistor becomes a conductance
    card (G), which makes no noise. Flicker terms cannot be written so and are named in comments.
    """
    names = _Names(circuit)
    lines = [circuit.title or "circuit"]
    if circuit.temperature_k != 300.15:
        lines.append(f".temp {format_number(circuit.temperature_k - 273.15)}")
    if circuit.gmin_s != 1e-12:
        lines.append(f".options gmin={format_number(circuit.gmin_s)}")
    models: dict[object, str] = {}
    for element in circuit.elements:
        lines += _cards(element, names, models, circuit.temperature_k)
    lines += [_model_card(name, model) for model, name in models.items()]
    return "\n".join([*lines, *analyses, ".end", ""])


class _Names:
    """Card names begin with their element's letter and hold no blanks."""

    def __init__(self, circuit: Circuit) -> None:
        self._of: dict[str, str] = {}
        taken: set[str] = set()
        for element in circuit.elements:
            letter = _LETTER[type(element)]
            if isinstance(element, Resistor) and not element.noisy:
                letter = "g"
            name = _clean(element.name)
            name = name if name.startswith(letter) else f"{letter}_{name}"
            while name in taken:
                name += "_"
            taken.add(name)
            self._of[element.name] = name

    def __getitem__(self, name: str) -> str:
        return self._of[name]


def _clean(name: str) -> str:
    return re.sub(r"[^\w.]+", "_", name.lower())


def _cards(
    element: Element, names: _Names, models: dict[object, str], temperature_k: float
) -> list[str]:
    name = names[element.name]
    nodes = " ".join(_clean(n) for n in nodes_of(element))
    number = format_number
    match element:
        case Resistor(ohm=ohm, noisy=noisy):
            # without a resistor's noise it is a conductance controlled by its own voltage
            return [
                f"{name} {nodes} {number(ohm)}"
                if noisy
                else f"{name} {nodes} {nodes} {number(1 / ohm)}"
            ]
        case Capacitor(farad=value) | Inductor(henry=value):
            return [f"{name} {nodes} {number(value)}"]
        case Coupling(first=first, second=second, k=k):
            return [f"{name} {names[first]} {names[second]} {number(k)}"]
        case VoltageSource():
            return _voltage_source(element, name, temperature_k)
        case CurrentSource(noise=noise):
            card = f"{name} {nodes}{_source_values(element)}"
            return [card, *_noise_cards(name, noise, f"g_{name}_noise {nodes}", temperature_k)]
        case Vcvs(gain=value) | Vccs(siemens=value):
            return [f"{name} {nodes} {number(value)}"]
        case Cccs(control=control, gain=value) | Ccvs(control=control, ohm=value):
            return [f"{name} {nodes} {names[control]} {number(value)}"]
        case Diode(model=model, area=area) | Bipolar(model=model, area=area):
            return [f"{name} {nodes} {_model_name(model, models)} {number(area)}"]
        case ModulatedResistor(p=p, n=n, ohm=ohm, per_volt=per_volt):
            # no card has a product; the resistance at rest is written and the rest is said
            return [
                f"* {name}: modulated by {_clean(element.cp)}, {per_volt!r} per volt, not written",
                f"{name} {_clean(p)} {_clean(n)} {number(ohm)}",
            ]
        case OpAmp():
            return _op_amp(element, name)
        case Regulator(inlet=inlet, out=out, common=common, model=holds):
            # no card holds volts up to a limit: a source behind its resistance stands for it
            inner, zero = f"{name}_held", _clean(common)
            return [
                f"* {name}: regulator with {holds.headroom_v!r} V of headroom and a limit of"
                f" {holds.limit_a!r} A, from {_clean(inlet)}; neither is written",
                f"v_{name} {inner} {zero} dc {holds.holds_v!r}",
                f"r_{name} {inner} {_clean(out)} {number(holds.output_ohm)}",
            ]
        case Jfet(model=model, area=area):
            return [f"{name} {nodes} {_model_name(model, models)} {number(area)}"]
    raise AssertionError(element)


def _op_amp(chip: OpAmp, name: str) -> list[str]:
    """Its linear part; no card has rails."""
    m = chip.model
    plus, minus, pole, out, upper, lower = (_clean(n) for n in nodes_of(chip))
    leak, drive, number = m.input_siemens / m.open_loop, 1 / m.output_ohm, format_number
    return [
        f"* {name}: stays {m.keeps_v!r} V off {upper} and {lower}, gives {m.limit_a!r} A at most;"
        " neither is written",
        f"{name} {lower} {pole} {plus} {minus} {number(m.input_siemens)}",
        f"g_{name}_upper {pole} {upper} {pole} {upper} {number(leak / 2)}",
        f"g_{name}_lower {pole} {lower} {pole} {lower} {number(leak / 2)}",
        f"g_{name}_out {lower} {out} {pole} {lower} {number(drive)}",
        f"g_{name}_z {out} {lower} {out} {lower} {number(drive)}",
        f"i_{name} {upper} {lower} dc {m.draws_a!r}",
    ]


def _voltage_source(source: VoltageSource, name: str, temperature_k: float) -> list[str]:
    p, n = _clean(source.p), _clean(source.n)
    if not source.noise:
        return [f"{name} {p} {n}{_source_values(source)}"]
    inner = f"{name}_inner"
    return [
        f"{name} {inner} {n}{_source_values(source)}",
        *_noise_cards(name, source.noise, f"e_{name}_noise {p} {inner}", temperature_k),
    ]


def _noise_cards(name: str, noise: Spectrum, reader: str, temperature_k: float) -> list[str]:
    """A resistor whose open-circuit thermal noise has the density, and a source that reads it."""
    if not noise:
        return []
    white = sum(law.at_1khz for law in noise if law.exponent == 0)
    cards = [
        f"* {name}: density {law.at_1khz!r} /Hz at 1 kHz, exponent {law.exponent!r}, is not written"
        for law in noise
        if law.exponent != 0
    ]
    # 1 ohm makes 4kT V²/Hz; the reading gain scales it to the wanted density
    gain = math.sqrt(white / (4 * BOLTZMANN * temperature_k))
    node = f"{name}_thermal"
    return [*cards, f"r_{node} {node} {GROUND} 1", f"{reader} {node} {GROUND} {gain!r}"]


def _source_values(source: VoltageSource | CurrentSource) -> str:
    text = f" dc {source.dc!r}"
    if source.ac:
        magnitude, phase = cmath.polar(complex(source.ac))
        text += f" ac {magnitude!r} {math.degrees(phase)!r}"
    return text


def _model_name(model: object, models: dict[object, str]) -> str:
    return models.setdefault(model, f"m{len(models) + 1}")


def _model_card(name: str, model: object) -> str:
    number = format_number
    match model:
        case DiodeModel(is_a, n, rs, bv, ibv):
            knee = f" bv={number(bv)} ibv={number(ibv)}" if math.isfinite(bv) else ""
            return f".model {name} d (is={number(is_a)} n={number(n)} rs={number(rs)}{knee})"
        case BipolarModel(polarity, is_a, bf, br, nf, nr, vaf):
            kind = "npn" if polarity > 0 else "pnp"
            early = f" vaf={number(vaf)}" if math.isfinite(vaf) else ""
            return (
                f".model {name} {kind} (is={number(is_a)} bf={number(bf)} br={number(br)}"
                f" nf={number(nf)} nr={number(nr)}{early})"
            )
        case JfetModel(polarity, vto, beta, lam, is_a):
            kind = "njf" if polarity > 0 else "pjf"
            return (
                f".model {name} {kind} (vto={number(vto)} beta={number(beta)}"
                f" lambda={number(lam)} is={number(is_a)})"
            )
    raise AssertionError(model)
