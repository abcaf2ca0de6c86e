"""Riddles of something just soldered: a fault of hands in a build, found with the meter.

Faults and readings are those of Prove; the build is put on its simulated bench.
"""

from __future__ import annotations

import math
import random
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from tonleiter.core.bench.reading import Reading
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.practice.look import Care, Look, Seen
from tonleiter.core.practice.riddle import REPORT, Cause, Level, Riddle, riddle_of
from tonleiter.core.prove.fault import Fault
from tonleiter.core.prove.prove import Proof
from tonleiter.core.station.model import Station

MOST_CAUSES, MOST_LOOKS = 12, 22
# what hands do, what mends it, how hard it is to find
_MENDS: dict[str, tuple[str, Level]] = {
    "dry": ("heat the joint again, with fresh solder", 2),
    "open": ("solder what was left out", 1),
    "bridge": ("take the solder between the two away", 1),
    "broken": ("cut the lead back and solder its core again", 2),
    "decade": ("put in the value that the list has: it was read ten times wrong", 3),
    "band": ("put in the value that the list has: a colour was taken for its neighbour", 3),
    "drawer": ("put in the value that the list has", 3),
    "turned": ("turn its legs to where the drawing has them", 2),
    "sort": ("put in one of the right sort", 3),
    "reversed": ("turn it round: the drawing shows its plus", 2),
    "swapped": ("change the two wires", 1),
    "moved": ("put the wire on its own contact", 1),
    "mirrored": ("turn the plug round: solder side and mating face are mirror images", 2),
    "ground": ("solder the ground that was forgotten", 2),
    "supply": ("put in a new battery, the right way round", 1),
    "short": ("take the strand away, or the part that shorted", 2),
    "winding": ("change the transformer's wires, or the transformer", 3),
    "coil": ("the microphone's coil is gone: another capsule", 2),
    "dead": ("put in another one, and solder it cooler", 3),
    "aged": ("put in a new electrolytic", 3),
    "wet": ("clean the board with alcohol, and dry it", 3),
    "switch": ("clean or change the switch", 1),
}
_OTHER: tuple[str, Level] = ("undo it as the sheet has it", 2)
_PLAIN_UNITS = {"Ω": (0.12, True), "V": (0.08, True), "A": (0.15, True)}


def base(rng: random.Random) -> tuple[str, Station]:
    """A build on the bench: a preamp, a transformer box, or a lead with its switch."""
    kind = rng.choice(("bipolar", "jfet", "opamp", "lead", "transformer"))
    dynamic = _piece("dynamic-microphone", "mic", "dynamic", coil_ohm=rng.choice((200, 300)))
    radio = _piece("microphone-socket", "radio", "radio")
    plug = _plug(rng)
    lead = _piece("cable", "lead", "lead", length_m=1.5)
    if kind == "lead":
        electret = _piece("electret-2-wire", "mic", "electret")
        radio |= {"bias_v": 8, "bias_ohm": 2200}
        return "a microphone lead with its transmit switch", _station(plug, electret, lead, radio)
    if kind == "transformer":
        iron = _piece("transformer", "iron", "isolating transformer")
        return "a transformer in its box, in a lead", _station(plug, dynamic, iron, lead, radio)
    names = {
        "bipolar": "a preamp of one transistor",
        "jfet": "a preamp of one FET",
        "opamp": "a preamp of an operational amplifier",
    }
    preamp = _piece(f"{kind}-preamp", "preamp", "preamp")
    return names[kind], _station(plug, dynamic, preamp, lead, radio)


def _piece(kind: str, id_: str, name: str, **of: Any) -> dict[str, Any]:  # noqa: ANN401
    return {"kind": kind, "id": id_, "name": name, **of}


def _plug(rng: random.Random) -> dict[str, Any]:
    """The radio's connector, its contacts as its maker liked: every maker has them otherwise."""
    roles = ["microphone", "microphone-ground", "transmit", "transmit-ground"]
    count = rng.choice((4, 8))
    roles += ["free"] * (count - len(roles))
    rng.shuffle(roles)
    contacts = [{"label": str(k), "role": role} for k, role in enumerate(roles, 1)]
    return {"id": "microphone", "name": "microphone", "shell": f"round-{count}"} | {
        "ports": ["radio"],
        "contacts": contacts,
    }


def _station(plug: dict[str, Any], *gear: dict[str, Any]) -> Station:
    stages = [{"gear": g["id"]} for g in gear]
    return Station.model_validate(
        {
            "title": "Practice",
            "operators": [{"id": "op", "name": "operator"}],
            "gear": list(gear),
            "devices": [
                {"id": "rig", "name": "radio", "kind": "radio", "supply": "safety-earth"}
                | {"ports": ["radio"], "connectors": [plug]}
            ],
            "chains": [
                {
                    "id": "c",
                    "name": "chain",
                    "operator": "op",
                    "variants": [{"id": "v", "name": "v", "stages": stages}],
                    "shown": "v",
                }
            ],
        }
    )


def _proof(station: Station) -> Proof:
    """The part of the build with the most to it."""
    found = verdict_of(station, "c")
    proofs = [Proof(found, k) for k in range(len(found.build.spans))]
    return max(proofs, key=lambda p: len(p.readings))


def _suspects(proof: Proof, rng: random.Random, kind: str | None) -> tuple[Fault, list[Fault]]:
    """The hidden one, by how often hands make it, and others with it, one of a family."""
    one_each: dict[str, Fault] = {}
    pool = list(proof.faults)
    rng.shuffle(pool)
    for fault in pool:
        one_each.setdefault(fault.family, fault)
    faults = list(one_each.values())
    wanted = [f for f in faults if kind in (None, f.kind)] or faults
    hidden = rng.choices(wanted, [f.prior for f in wanted])[0]
    others = [f for f in faults if f.id != hidden.id]
    weights = [f.prior for f in others]
    chosen = [hidden]
    while others and len(chosen) < MOST_CAUSES:
        k = rng.choices(range(len(others)), weights)[0]
        chosen.append(others.pop(k))
        weights.pop(k)
    rng.shuffle(chosen)
    return hidden, chosen


def _looks(proof: Proof, shown: Sequence[Mapping[str, float]]) -> Iterator[Look]:
    """Readings that tell some of the suspects apart, most telling first; in order of the path."""
    made = {r.id: _look(r) for r in proof.readings}
    worth: dict[str, int] = {}
    for name, look in made.items():
        values = [s.get(name, math.inf) for s in shown]
        worth[name] = sum(look.tells(a, b) for k, a in enumerate(values) for b in values[k + 1 :])
    best = sorted((n for n in made if worth[n] > 0), key=lambda n: -worth[n])[:MOST_LOOKS]
    return (look for name, look in made.items() if name in best)


def _look(reading: Reading) -> Look:
    sigma, relative = _PLAIN_UNITS.get(reading.unit, (0.1, True))
    care: tuple[Care, ...] = ("power-off",) if reading.step == "ring" else ()
    how = {
        "ring": "An ohmmeter, no battery in it.",
        "dc": "A voltmeter or ammeter, power on, nobody speaking.",
        "tone": "A generator at the input, a millivoltmeter at the output.",
    }.get(reading.step, "Look closely, with a lens.")
    return Look(
        reading.id,
        reading.says,
        how,
        reading.minutes,
        "prove",
        reading.unit,
        sigma,
        relative,
        care,
        power=reading.step in ("dc", "tone"),
    )


def _report(shown: Mapping[str, float], right: Mapping[str, float]) -> str:
    """What one hears with an ear at the output."""
    mine, theirs = (s.get("tone 1000", 0.0) for s in (shown, right))
    if theirs <= 0:
        return "something is not as it should be"
    db = 20 * math.log10(max(mine, 1e-9) / theirs)
    if db < -30:
        return "nothing comes out"
    low = [s.get("tone 100", 0.0) / max(s.get("tone 1000", 0.0), 1e-12) for s in (shown, right)]
    thin = low[1] > 0 and 20 * math.log10(max(low[0], 1e-9) / max(low[1], 1e-9)) < -6
    words = ["it comes out weak"] if db < -5 else ["it comes out too loud"] if db > 5 else []
    words += ["it sounds thin"] if thin else []
    return ", ".join(words) or "it plays, but something is not as it should be"


def make(seed: int, kind: str | None = None) -> Riddle | None:
    """A riddle from a seed; of a kind of fault where one is wanted. None where it gives none."""
    rng = random.Random(f"build {seed}")
    about, station = base(rng)
    proof = _proof(station)
    hidden, suspects = _suspects(proof, rng, kind)
    right = proof.shown(None)
    shown = {f.id: proof.shown(f) for f in suspects}
    looks = (
        Look(REPORT, "What comes out of it", "", 0.1, "prove", said_by_others=True),
        *_looks(proof, list(shown.values())),
    )
    if len(looks) < 4 or not any(
        x.tells(shown[hidden.id].get(x.id, math.inf), right.get(x.id, math.inf)) for x in looks[1:]
    ):
        return None

    def seen(cause: Cause | None) -> Mapping[str, Seen]:
        values = right if cause is None else shown[cause.id]
        made: dict[str, Seen] = {x.id: values.get(x.id, math.inf) for x in looks[1:]}
        return made | {REPORT: _report(values, right)}

    return riddle_of(
        "build",
        seed,
        about,
        looks,
        tuple(_cause(f) for f in suspects),
        seen,
        hidden.id,
        frozenset(x.id for x in looks[1:]),
    )


def _cause(fault: Fault) -> Cause:
    mends, level = _MENDS.get(fault.kind, _OTHER)
    title = fault.says[:1].upper() + fault.says[1:]
    return Cause(fault.id, fault.kind, title, mends, "wire", level, fault.prior)
