"""What two scenes that are heard one after the other differ in, in one line."""

from __future__ import annotations

from collections.abc import Iterator

from tonleiter.core.guide.scene import Scene
from tonleiter.core.station.basis import Basis
from tonleiter.core.words import listed

MOST_NAMED = 3


def differs(before: Scene, now: Scene) -> str:
    """As "gain from 40 to 55 and the distance"; empty where nothing does."""
    said = [*_chain(before.case.basis, now.case.basis), *_knobs(before, now)]
    if before.case.spoken is not now.case.spoken and "the operator" not in said:
        said.append("what is spoken")
    if len(said) > MOST_NAMED:
        said = [*said[: MOST_NAMED - 1], f"{len(said) - MOST_NAMED + 1} things more"]
    return listed(said)


def _chain(was: Basis, now: Basis) -> Iterator[str]:
    if was.chain != now.chain:
        yield f"the chain ({was.chain_name}, then {now.chain_name})"
        return
    if was.variant != now.variant:
        yield f"the variant ({was.variant_name}, then {now.variant_name})"
    elif was.stages != now.stages:
        pairs = zip(was.stages, now.stages, strict=False)
        changed = [new.name for old, new in pairs if old != new]
        if len(was.stages) != len(now.stages):
            yield f"the pieces of the chain ({len(was.stages)}, then {len(now.stages)})"
        else:
            yield f"{listed(changed[:MOST_NAMED])} as set"
    if was.distance_mm != now.distance_mm:
        yield f"distance from {was.distance_mm:g} to {now.distance_mm:g} mm"
    if was.operator != now.operator:
        yield "the operator"
    if was.variant == now.variant and was.wiring != now.wiring:
        yield "the wiring"
    if (was.links, was.boxes, was.mains_hz) != (now.links, now.boxes, now.mains_hz):
        yield "leads and boxes"
    if was.room_noise_dba != now.room_noise_dba:
        yield "the room"


def _knobs(before: Scene, now: Scene) -> Iterator[str]:
    for control in now.controls:
        was = before.control(control.id)
        if was is not None and was.value != control.value:
            yield f"{control.title} from {was.said(was.value)} to {control.said(control.value)}"
