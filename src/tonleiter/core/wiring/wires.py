"""The wires of a build: between pins inside a piece, along a lead, short ones in a plug."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from itertools import pairwise

from tonleiter.core.gear.passives import Cable
from tonleiter.core.solve.compiled import PlacedStage
from tonleiter.core.station.contacts import At
from tonleiter.core.wiring.metal import Metal
from tonleiter.core.wiring.model import COLOURS, Conductor, Span


class Wires:
    """Makes them for one chain; ``net_of`` names each contact's net.

    ``cores`` is how many cores each lead must have, once ``between`` was asked of every part.
    """

    def __init__(self, metal: Metal, net_of: Mapping[At, str]) -> None:
        self._metal, self._net_of = metal, net_of
        self.cores: dict[str, int] = {}

    def net_of(self, contact: At) -> str:
        """The net of a contact; "" for one that is in none."""
        return self._net_of.get(contact, "")

    def inside(self, spans: tuple[Span, ...]) -> list[Conductor]:
        """Between pins inside each piece."""
        place = {s.id: k for k, s in enumerate(self._metal.stages)}
        part = {
            stage: next((n for n, s in enumerate(spans) if s.first < k < s.last), 0)
            for stage, k in place.items()
        }
        return [
            Conductor(start, end, self._net_of[start], "any", None, span=part[stage], inside=True)
            for (stage, _), contacts in self._metal.pins.items()
            for start, end in pairwise(dict.fromkeys(contacts))
        ]

    def fed(self, spans: tuple[Span, ...]) -> list[Conductor]:
        """From the radio's bias contact to what it feeds; leads between get a core more."""
        found = []
        place = {s.id: k for k, s in enumerate(self._metal.stages)}
        for stage, contact in self._metal.fed.items():
            k = place[stage]
            node = self._metal.stages[k].gear.fed_at
            pins = self._metal.pins.get((stage, self._metal.find(node or "")), [])
            span = next((n for n, s in enumerate(spans) if s.first < k < s.last), 0)
            leads = [s for s in self._metal.stages[k + 1 : self._metal.plug_at] if s.gear.lead]
            self.cores |= {s.id: self.cores.get(s.id, 1) + 1 for s in leads}
            length = sum(s.gear.figure("length_m").value for s in leads) or None
            if pins:
                colour = COLOURS["bias"]
                found.append(self.wire(stage, "bias", pins[0], contact, colour, length, span))
        return found

    def between(self, n: int, span: Span) -> list[Conductor]:
        """From thing to thing, leg by leg, over their lead."""
        found: list[Conductor] = []
        # a leg that goes past a piece without touching it: where it came from
        past: dict[str, Conductor] = {}
        things = [k for k in self._metal.things if span.first <= k <= span.last]
        for k, after in pairwise(things):
            until = self._metal.plug_at if after == len(self._metal.stages) - 1 else after
            leads = self._metal.stages[k + 1 : until]
            over = self._over(n, k, after, leads, past)
            # one of the legs is the braid, which is no core
            carried = len({c.leg for c in over if c.key}) - 1
            self.cores |= {s.id: carried for s in leads}
            ends = {"near": k == span.first, "far": after == span.last}
            found += [replace(c, near=c.near or ends["near"], far=ends["far"]) for c in over]
        return found

    def _over(
        self,
        n: int,
        k: int,
        after: int,
        leads: tuple[PlacedStage, ...],
        past: dict[str, Conductor],
    ) -> list[Conductor]:
        length = sum(s.gear.figure("length_m").value for s in leads) or None
        here, there = self._legs_out(k), self._legs_in(after)
        if leads:
            near, far = leads[0].inlet, leads[-1].outlet
            carried = {"hot": (near.hot, far.hot), "cold": (near.cold, far.cold)}
            if far.balanced:
                carried["screen"] = (near.chassis, far.chassis)
        else:
            carried = {leg: (node, node) for leg, node in here.items()}
        found: list[Conductor] = []
        braid = "screen" if "screen" in carried else "cold"
        # a screen that is joined at one end only ends in air at the other
        opened = {s.gear.screen for s in leads if isinstance(s.gear, Cable)}
        for leg, (a, b) in carried.items():
            start, end = self._at(k, here, leg, a, -1), self._at(after, there, leg, b, 0)
            ends_here = leg == "screen" and "source-end" in opened
            if ends_here:
                end = None
            if leg == "screen" and "load-end" in opened:
                start = None
            if (
                leg == "screen"
                and not leads
                and self._metal.find(a) == self._metal.find(carried["cold"][0])
            ):
                continue
            before = past.pop(leg, None)
            if leg == "screen" and "load-end" in opened and before is not None:
                # the next lead's screen begins in air: what came so far ends here
                found.append(before)
                before = None
            start = start or (before.start if before is not None else None)
            if start is None and end is None:
                continue
            colour = COLOURS["screen" if leg == braid and (leads or leg == "screen") else leg]
            piece = self._metal.stages[k].id if before is None else before.key.rpartition(":")[0]
            long = length or (before.length_m if before is not None else None)
            made = self.wire(piece, leg, start, end, colour, long, n)
            if end is None and not ends_here and self._goes_on(after, b):
                past[leg] = replace(made, near=(before or made).near or k in self._metal.boxes)
                continue
            if before is not None:
                made = replace(made, near=before.near)
            found.append(made)
        # a leg that came past a piece and has no conductor of its own from there ends where the
        # one does that it is one piece of metal with
        for leg in [x for x in past if x not in carried]:
            before = past.pop(leg)
            home = next((c for c in found if c.end is not None and c.net == before.net), None)
            found.append(replace(before, end=None if home is None else home.end))
        found += self._links(k, here, carried, n, near=True)
        found += self._links(after, there, carried, n, near=False)
        return [c for c in found if c.start != c.end]

    def _goes_on(self, after: int, node: str) -> bool:
        """Whether a conductor runs past a soldered piece and on behind it."""
        if (self._metal.stages[after].id, "in") in self._metal.splices:
            return False
        port = self._metal.stages[after].outlet
        return self._metal.find(node) in {
            self._metal.find(x) for x in (port.hot, port.cold, port.chassis)
        }

    def wire(
        self,
        piece: str,
        leg: str,
        start: At | None,
        end: At | None,
        colour: str,
        length: float | None,
        span: int,
    ) -> Conductor:
        """A wire of a leg, with the colour and length that were chosen."""
        key = f"{piece}:{leg}"
        dress = self._metal.wiring.dress(key)
        if dress is not None:
            colour = dress.colour or colour
            length = dress.length_m.value if dress.length_m is not None else length
        at = start or end
        net = "" if at is None else self._net_of.get(at, "")
        return Conductor(start, end, net, colour, length, key, leg, span)

    def _legs_out(self, k: int) -> dict[str, str]:
        splice = self._metal.splice(k, "out")
        if splice is not None:
            return {leg: n for leg, n in splice.wires.items() if leg in COLOURS}
        port = self._metal.stages[k].outlet
        return {"hot": port.hot, "cold": port.cold} | (
            {"screen": port.chassis} if port.balanced else {}
        )

    def _legs_in(self, after: int) -> dict[str, str]:
        splice = self._metal.splices.get((self._metal.stages[after].id, "in"))
        if splice is not None:
            return {x: n for x, n in splice.wires.items() if x in ("hot", "cold", "screen")}
        port = self._metal.stages[after].inlet
        return {"hot": port.hot, "cold": port.cold} | (
            {"screen": port.chassis} if port.balanced else {}
        )

    def _at(self, k: int, legs: Mapping[str, str], leg: str, node: str, which: int) -> At | None:
        """The contact or pin of a thing that one end of a conductor is soldered to; None: air."""
        stage = self._metal.stages[k]
        splice = self._metal.splices.get((stage.id, "out" if which < 0 else "in"))
        if splice is not None:
            # of an unbalanced plug the cold contact takes the screen too
            label = splice.landed.get("cold" if leg == "screen" and leg not in legs else leg)
            return None if label is None else splice.end.ref(label)
        pins = self._metal.pins.get((stage.id, self._metal.find(node)), [])
        return pins[which] if pins else None

    def _links(
        self,
        k: int,
        legs: Mapping[str, str],
        carried: Mapping[str, tuple[str, str]],
        n: int,
        near: bool,
    ) -> list[Conductor]:
        """Short wires in a plug: a contact that no conductor of the lead goes to by itself."""
        splice = self._metal.splices.get((self._metal.stages[k].id, "out" if near else "in"))
        if splice is None:
            return []
        found = []
        for leg in legs:
            label, cold = splice.landed.get(leg), splice.landed.get("cold")
            # without a lead one wire serves cold and screen, where both are one
            apart = leg not in carried or (
                leg == "screen"
                and carried[leg][0] == carried[leg][1]
                and self._metal.find(carried[leg][0]) == self._metal.find(carried["cold"][0])
            )
            if apart and label is not None and cold is not None and label != cold:
                start, end = splice.end.ref(label), splice.end.ref(cold)
                found.append(
                    Conductor(start, end, self._net_of.get(start, ""), "any", None, "", "link", n)
                )
        return found
