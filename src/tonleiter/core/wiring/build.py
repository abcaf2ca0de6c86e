"""A build, derived from a chain solved at its contacts: what is joined to what."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

from tonleiter.core.solve.solution import ChainSolution
from tonleiter.core.station.model import Station
from tonleiter.core.wiring.keyed import keyed_line, keyed_nets, keyed_wires
from tonleiter.core.wiring.left_over import leftovers, stale
from tonleiter.core.wiring.metal import Metal
from tonleiter.core.wiring.model import Build, Span
from tonleiter.core.wiring.wants import wanted_parts
from tonleiter.core.wiring.wires import Wires


def build_of(station: Station, solution: ChainSolution, speech_dbu: Iterable[float]) -> Build:
    """The build of a chain that was solved at its contacts.

    ``speech_dbu`` has the level at each stage's outlet. Raises ValueError for a chain that was
    compiled without its contacts.
    """
    if not solution.compiled.splices:
        raise ValueError("a build needs a chain that was compiled with its contacts")
    metal = Metal(solution)
    spans = _spans(metal)
    ends = tuple(end for span in spans for end in (span.left, span.right))
    line = keyed_line(station, metal)
    nets = (*metal.named(speech_dbu, line.keying), *keyed_nets(line))
    wires = Wires(metal, {contact: net.name for net in nets for contact in net.contacts})
    made = wires.inside(spans)
    for n, span in enumerate(spans):
        made += wires.between(n, span)
    made += wires.fed(spans)
    keyed = keyed_wires(line, metal, wires, len(spans) - 1)
    made += keyed
    cores = wires.cores
    if line.keying is not None and line.keying.way == "microphone" and spans:
        # the switch's wires run in every lead from the microphone to the radio
        cores = {lead: count + len(keyed) for lead, count in cores.items()}
    items, refs = (*metal.items, *line.items), {**metal.refs, **line.refs}
    return Build(
        ends=ends,
        nets=nets,
        conductors=tuple(made),
        parts=wanted_parts(station, metal, spans, line, cores),
        leftovers=leftovers(
            ends,
            {c for at in metal.contacts.values() for c in at},
            metal.wiring,
            None if line.keying is None else line.keying.way,
        ),
        unknown=tuple(dict.fromkeys(metal.unknown)),
        spans=spans,
        wiring=metal.wiring,
        keying=line.keying,
        keyer=line.sheet,
        keyer_net=line.net,
        key_end=line.end,
        splices=metal.splices,
        refs=refs,
        items=items,
        stale=stale(ends, made, metal.wiring),
        cores=cores,
        net_at=metal.net_at(nets),
    )


def _spans(metal: Metal) -> tuple[Span, ...]:
    """From box to box; each has the connector that it is left by, and the one it ends in."""
    last = len(metal.stages) - 1
    return tuple(
        Span(
            metal.splices[metal.stages[first].id, "out"].end,
            metal.splices[metal.stages[after].id, "in"].end,
            first,
            after,
            metal.plug_at if after == last else after,
        )
        for first, after in pairwise(metal.boxes)
    )
