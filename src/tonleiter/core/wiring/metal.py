"""What of a chain is one piece of metal: contacts and pins by the node they are soldered to."""

from __future__ import annotations

from collections.abc import Iterable

from tonleiter.core.circuit.elements import Resistor
from tonleiter.core.circuit.joined import Joined
from tonleiter.core.drawing.stage import draw_stage
from tonleiter.core.gear.net import TIE_OHM
from tonleiter.core.gear.shopping import items_of, numbered
from tonleiter.core.solve.compiled import Half, PlacedStage
from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.solve.splice import SWITCH_WIRE_OHM, Splice
from tonleiter.core.station.contacts import At
from tonleiter.core.station.pinout import has_plugs, plug_place
from tonleiter.core.wiring.keying import Keying
from tonleiter.core.wiring.model import LEG_WORDS, Net, is_new, is_soldered
from tonleiter.core.words import the

# elements of a lead that are its conductors, and joints in plugs
_CONDUCTORS = ("core", "cold_core", "screen")
_JOINTS = ("in joint", "out joint", "in bridge", "out bridge", "in return")


class Metal:
    """One chain's contacts and pins. ``unknown`` names the legs that no contact is known to take.

    ``boxes`` are the places of what has plugs, ``things`` of what a conductor ends at.
    """

    def __init__(self, solution: ChainSolution) -> None:
        self.solution = solution
        compiled = solution.compiled
        self.stages, self.splices = compiled.stages, compiled.splices
        self.wiring = compiled.variant.wiring
        self.plug_at = plug_place([s.gear for s in self.stages])
        last = len(self.stages) - 1
        self.boxes = [
            k
            for k, s in enumerate(self.stages)
            if has_plugs(s.gear) and (k < self.plug_at or k == last)
        ]
        # a piece that was built into the radio stands behind its socket
        self.things = [k for k, s in enumerate(self.stages[: self.plug_at]) if not s.gear.lead]
        self.things.append(last)
        made = [s for s in self.stages if is_soldered(s.gear) and is_new(s.gear)]
        nets = {s.id: s.net() for s in made}
        self.items = tuple(i for s in made for i in items_of(s.gear, nets[s.id], solution.node_v))
        self.refs = numbered(self.items)
        self._joined = Joined[str]()
        self._join_conductors()
        self.contacts: dict[str, list[At]] = {}
        # the same by stage, as a builder meets them
        self.pins: dict[tuple[str, str], list[At]] = {}
        self.unknown: list[str] = []
        # by the piece that it feeds, the radio's contact
        self.fed: dict[str, At] = {}
        for stage in made:
            sheet = draw_stage(stage.gear, nets[stage.id], stage.inlet).named(self.refs)
            for symbol in sheet.symbols:
                for pin in symbol.pins:
                    sign = "+" if pin.name == symbol.plus else "−"
                    name = sign if symbol.plus else pin.name
                    self._put(stage.id, pin.node, At(symbol.ref, name))
        for splice in self.splices.values():
            self._land(splice)
        for stage in made:
            self._feed(stage)

    def splice(self, k: int, half: Half) -> Splice | None:
        """The connector by which a stage is entered or left, if it has one."""
        return self.splices.get((self.stages[k].id, half))

    def find(self, node: str) -> str:
        """The node that stands for a whole piece of metal."""
        return self._joined.of(node)

    def _join_conductors(self) -> None:
        elements = self.solution.compiled.circuit.elements
        for stage in self.stages:
            for k in sorted(stage.elements):
                element = elements[k]
                if not isinstance(element, Resistor):
                    continue
                part = element.name.rpartition(":")[2]
                is_wire = stage.gear.lead and part in _CONDUCTORS
                is_joint = part.startswith(_JOINTS) and element.ohm <= SWITCH_WIRE_OHM
                if is_wire or is_joint or (part == "tie" and element.ohm <= TIE_OHM):
                    self._joined.join(element.p, element.n)

    def meet(self, contact: At | None, others: Iterable[At]) -> bool:
        """Solder more to a contact of the chain; whether it is one."""
        home = next((at for at in self.contacts.values() if contact in at), None)
        if home is None:
            return False
        home += [c for c in others if c not in home]
        return True

    def take_in(self, node: str, contacts: Iterable[At]) -> None:
        """Contacts that are soldered to a node from outside the chain."""
        at = self.contacts.setdefault(self.find(node), [])
        at += [c for c in contacts if c not in at]

    def _put(self, stage: str, node: str, contact: At) -> None:
        at = self.contacts.setdefault(self.find(node), [])
        if contact not in at:
            at.append(contact)
        self.pins.setdefault((stage, self.find(node)), []).append(contact)

    def _feed(self, stage: PlacedStage) -> None:
        """A wire from the radio's bias contact, where that feeds a piece."""
        radio = self.splice(len(self.stages) - 1, "in")
        if stage.gear.fed_at is None or radio is None:
            return
        contact = next((c for c in radio.end.connector.contacts if c.role == "bias"), None)
        if contact is None:
            self.unknown.append("supply of the microphone")
            return
        self.fed[stage.id] = radio.end.ref(contact.label)
        self.take_in(stage.gear.fed_at, [self.fed[stage.id]])

    def _land(self, splice: Splice) -> None:
        """The contacts that wires were soldered to."""
        for leg, label in splice.landed.items():
            if label is not None:
                at = self.contacts.setdefault(self.find(splice.wires[leg]), [])
                if splice.end.ref(label) not in at:
                    at.append(splice.end.ref(label))
            elif self.wiring.landing(splice.end.id, leg) is None and leg in ("hot", "cold"):
                self.unknown.append(f"{leg} of {the(splice.end.name)}")

    def named(self, speech_dbu: Iterable[float], keying: Keying | None) -> tuple[Net, ...]:
        """Nets by what they carry: hot, cold or screen of a joint, or a node inside a stage."""
        speech = list(speech_dbu)
        names: dict[str, tuple[str, float | None]] = {}
        keys: set[str] = set()
        for k, stage in enumerate(self.stages[:-1]):
            after = "" if k == 0 else f" behind {the(stage.gear.name)}"
            splice = self.splices.get((stage.id, "out"))
            port = stage.outlet if splice is None else splice.port
            legs = [("hot", port.hot), ("cold", port.cold), ("screen", port.chassis)]
            for leg, node in legs:
                level = speech[k] if leg == "hot" else None
                names.setdefault(self.find(node), (f"{leg}{after}", level))
        radio = self.splices.get((self.stages[-1].id, "in"))
        if keying is not None and radio is not None:
            for leg in ("transmit", "transmit-ground"):
                if leg in radio.wires:
                    node = self.find(radio.wires[leg])
                    keys |= set() if node in names else {node}
                    names.setdefault(node, (LEG_WORDS.get(leg, leg), None))
        nets = []
        taken: dict[str, int] = {}
        for node, contacts in self.contacts.items():
            name, level = names.get(node, (f"inside, at {contacts[0]}", None))
            taken[name] = taken.get(name, 0) + 1
            if taken[name] > 1:
                name = f"{name}, {taken[name]}"
            nets.append(
                Net(name, tuple(contacts), self._volts(node), level, node, keys=node in keys)
            )
        return tuple(sorted(nets, key=lambda n: n.name))

    def net_at(self, nets: tuple[Net, ...]) -> dict[str, str]:
        """The net of each node of the circuit that is one."""
        name_of = {self.find(n.node): n.name for n in nets}
        nodes = {
            node
            for s in self.stages
            for k in s.elements
            for f in ("p", "n")
            if (node := getattr(self.solution.compiled.circuit.elements[k], f, None)) is not None
        }
        return {n: name_of[self.find(n)] for n in nodes if self.find(n) in name_of}

    def _volts(self, node: str) -> float:
        """Against the radio's ground, where a meter's black lead is clipped."""
        ground = self.stages[-1].inlet.chassis
        return self.solution.op.volts(node, ground)
