"""A loop of grounds in words: by its boxes, leads and earths, in the order of the current."""

from __future__ import annotations

from tonleiter.core.circuit.elements import GROUND
from tonleiter.core.solve.compiled import CompiledChain
from tonleiter.core.solve.loops import Edge, HumLoop
from tonleiter.core.station.devices import Device
from tonleiter.core.station.model import Station


def loop_names(station: Station, compiled: CompiledChain, loop: HumLoop) -> tuple[str, ...]:
    """What the loop goes through, beginning at the box that the chain ends in if it is there."""
    names = _Names(station, compiled)
    steps: list[tuple[str, str]] = []  # the name, and the box that it belongs to
    for edge, node in zip(loop.edges, (*loop.nodes, ""), strict=False):
        steps.append(names.of_edge(edge))
        if node:
            steps.append(names.of_node(node))
    # what has no name of its own parts nothing: a lead and the joint in it are one lead
    steps = [s for s in steps if s[0]]
    steps = [s for k, s in enumerate(steps) if s != steps[k - 1] or len(steps) == 1]
    radio = station.device_by_port.get(compiled.stages[-1].id)
    at = [k for k, (_, box) in enumerate(steps) if radio is not None and box == radio.id]
    # begin at the box itself, not at its way to earth
    start = next((k for k in at if steps[k][0] == radio.name), 0) if radio is not None else 0
    steps = [*steps[start:], *steps[:start]]
    return tuple(_its(steps))


def _its(steps: list[tuple[str, str]]) -> list[str]:
    """“its supply” right behind the box that it belongs to."""
    said = []
    for k, (name, box) in enumerate(steps):
        before = steps[k - 1] if k else ("", "")
        owner = f"{before[0]}'s "
        if k and box and box == before[1] and name.startswith(owner):
            said.append(f"its {name.removeprefix(owner)}")
        else:
            said.append(name)
    return said


class _Names:
    def __init__(self, station: Station, compiled: CompiledChain) -> None:
        self._station = station
        self._box_at = {node: box for box, node in compiled.grounds.chassis.items()}
        self._stages = {s.id: s.gear for s in (*compiled.stages, *compiled.beside)}
        self._links = {link.id: link for link in station.links}

    def of_node(self, node: str) -> tuple[str, str]:
        if node == GROUND:
            return "the safety earth", ""
        box = self._box_at.get(node)
        return ("", "") if box is None else (self._device(box).name, box)

    def _device(self, box: str) -> Device:
        return self._station.device_by_id[box]

    def of_edge(self, edge: Edge) -> tuple[str, str]:
        if edge.kind == "link":
            return self._links[edge.owner].name, ""
        if edge.kind == "earth":
            device = self._station.device_by_id.get(edge.owner)
            if device is None:
                return "", ""
            way = "way to earth" if device.kind == "other" else "supply"
            if not edge.galvanic:
                way = "leakage"
            if device.supply == "usb-computer":
                way = "USB"
            return f"{device.name}'s {way}", device.id
        gear = self._stages.get(edge.owner)
        # the screw that joins two sockets of one box has no name
        return ("", "") if gear is None or gear.device is not None else (gear.name, "")
