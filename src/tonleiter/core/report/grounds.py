"""The station's grounds around one chain, as a picture and a report show them.

Boxes with their ways to earth, what joins them, and the loops that hum with what each leaves.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from tonleiter.core.circuit.elements import GROUND
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.judge.loop_words import loop_names
from tonleiter.core.solve.compiled import CompiledChain
from tonleiter.core.solve.loops import HumLoop, ground_edges, hum_loops
from tonleiter.core.station.devices import Device, Joins
from tonleiter.core.station.model import Station
from tonleiter.core.units.levels import dbu_from_volts
from tonleiter.core.words import count_of, one_or, the

Earthed = Literal["earth", "leakage", "none"]
# a loop of less than this share of the hum is not worth a word
TELLING_SHARE = 5e-3
# −150 dBu: what leakage leaves over two soldered joints is no loop to speak of
TELLING_V = 2.5e-8
MOST_LOOPS = 6


@dataclass(frozen=True)
class GroundBox:
    """A box: whether it is of the chain, how it is earthed, the EMF in that in volts."""

    id: str
    name: str
    in_chain: bool
    earthed: Earthed
    supply: str
    emf_v: float


@dataclass(frozen=True)
class GroundJoin:
    """What joins two boxes: leads of the chain, or one lead beside it; ``key`` tells it apart."""

    key: str
    a: str
    b: str
    name: str
    of_chain: bool
    joins: Joins


@dataclass(frozen=True)
class GroundLoop:
    """A loop: keys of its joins and ids of its earthed boxes, its names, what it leaves."""

    keys: frozenset[str]
    earths: frozenset[str]
    names: tuple[str, ...]
    galvanic: bool
    share: float
    current_a: float
    left_dbu: float
    under_speech_db: float


@dataclass(frozen=True)
class Grounds:
    """All of it; loops come with the worst first."""

    boxes: tuple[GroundBox, ...]
    joins: tuple[GroundJoin, ...]
    loops: tuple[GroundLoop, ...]
    says: str
    proves: str


def grounds_of(assessment: Assessment) -> Grounds:
    """The grounds of a solved chain."""
    station, compiled = assessment.station, assessment.solution.compiled
    loops = [
        x
        for x in hum_loops(compiled, assessment.solution.linear)
        if (x.share >= TELLING_SHARE and x.hum_v > TELLING_V) or x.galvanic
    ][:MOST_LOOPS]
    between = _between_boxes(station, compiled)
    boxes = _boxes(station, compiled)
    joins = [
        GroundJoin(
            key=f"chain:{k}",
            a=a,
            b=b,
            name=" + ".join(names) or "plug in plug",
            of_chain=True,
            joins="both-ends" if through else "isolated",
        )
        for k, (a, b, names, _, through) in enumerate(between)
    ]
    joins += [
        GroundJoin(f"link:{x.link.id}", x.link.a, x.link.b, x.link.name, False, x.link.joins)
        for x in compiled.grounds.leads
    ]
    made = tuple(_loop(assessment, loop, between) for loop in loops)
    says, proves = _sentence(assessment, made)
    return Grounds(tuple(boxes), tuple(joins), made, says, proves)


def _boxes(station: Station, compiled: CompiledChain) -> list[GroundBox]:
    of_chain = [d for s in compiled.stages if (d := station.device_by_port.get(s.id)) is not None]
    order = list(dict.fromkeys(d.id for d in of_chain))
    order += [b for b in compiled.grounds.chassis if b not in order]
    inside = {d.id for d in of_chain}
    return [_box(station.device_by_id[b], b in inside) for b in order]


def _box(device: Device, in_chain: bool) -> GroundBox:
    earthed: Earthed = "none"
    if device.supply in ("safety-earth", "usb-computer"):
        earthed = "earth"
    elif device.supply == "double-insulated":
        earthed = "leakage"
    return GroundBox(
        device.id, device.name, in_chain, earthed, device.supply, device.earth_emf_v.value
    )


# two boxes, the names of what lies between them, ids of those stages, whether metal goes through
_Between = tuple[str, str, tuple[str, ...], frozenset[str], bool]


def _between_boxes(station: Station, compiled: CompiledChain) -> list[_Between]:
    """Neighbouring boxes of the chain and what stands between them."""
    metal = {e.owner for e in ground_edges(compiled) if e.kind == "stage" and e.galvanic}
    found: list[_Between] = []
    last: str | None = None
    names: list[str] = []
    ids: list[str] = []
    through = True
    for stage in compiled.stages:
        device = station.device_by_port.get(stage.id)
        if device is None:
            # a pad passes its cold conductor on; a lead is a conductor itself
            passes = stage.gear.passes_ground or stage.id in metal
            if stage.gear.lead or not passes:
                names.append(stage.gear.name)
            ids.append(stage.id)
            through = through and passes
            continue
        if last is not None and last != device.id:
            found.append((last, device.id, tuple(names), frozenset(ids), through))
        last, names, ids, through = device.id, [], [], True
    return found


def _loop(assessment: Assessment, loop: HumLoop, between: list[_Between]) -> GroundLoop:
    speech = assessment.rows[-1].speech_dbu
    stages = set(loop.owners("stage"))
    keys = {f"link:{owner}" for owner in loop.owners("link")}
    keys |= {f"chain:{k}" for k, (_, _, _, ids, _) in enumerate(between) if ids & stages}
    left = dbu_from_volts(loop.hum_v) if loop.hum_v > 0 else float("-inf")
    return GroundLoop(
        keys=frozenset(keys),
        earths=frozenset(loop.owners("earth")) if GROUND in _ends(loop) else frozenset(),
        names=loop_names(assessment.station, assessment.solution.compiled, loop),
        galvanic=loop.galvanic,
        share=loop.share,
        current_a=loop.current_a,
        left_dbu=left,
        under_speech_db=speech - left,
    )


def _ends(loop: HumLoop) -> set[str]:
    return {node for e in loop.edges for node in (e.p, e.n)}


def _sentence(assessment: Assessment, loops: tuple[GroundLoop, ...]) -> tuple[str, str]:
    row = assessment.rows[-1]
    if row.hum_dbu is None:
        says = "Nothing drives a current round the grounds."
        return says, "Batteries all round, or no mains near."
    under = row.speech_dbu - row.hum_dbu
    proves = f"In all {row.hum_dbu:.0f} dBu of hum at {the(row.name)}, {under:.0f} dB under speech."
    proves = proves.replace("-", "−")
    closed = [x for x in loops if x.galvanic]
    if not closed:
        return "No loop of metal goes through this chain.", proves
    worst = closed[0]
    count, goes = count_of(len(closed), "loop"), one_or(len(closed), "goes", "go")
    says = f"{count} of metal {goes} through this chain; the worst leaves"
    return f"{says} {worst.under_speech_db:.0f} dB under speech.", proves


def grounds_report(grounds: Grounds) -> dict[str, Any]:
    """The same as plain data; keys carry units."""
    return {
        "boxes": [
            {
                "id": b.id,
                "name": b.name,
                "in_chain": b.in_chain,
                "supply": b.supply,
                "earth_emf_v": b.emf_v,
            }
            for b in grounds.boxes
        ],
        "joins": [
            {"a": j.a, "b": j.b, "name": j.name, "of_chain": j.of_chain, "joins": j.joins}
            for j in grounds.joins
        ],
        "loops": [
            {
                "through": list(x.names),
                "galvanic": x.galvanic,
                "share": x.share,
                "current_a": x.current_a,
                "left_dbu": x.left_dbu,
                "under_speech_db": x.under_speech_db,
            }
            for x in grounds.loops
        ],
    }
