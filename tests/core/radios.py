"""Radios that many guides are tried on: the demo's, mended, with a voice sent through each."""

from __future__ import annotations

import functools

from tests.conftest import mended_demo
from tonleiter.core.guide.controls import with_knobs
from tonleiter.core.guide.onair import OnAir, on_air
from tonleiter.core.guide.scene import Scene
from tonleiter.core.guide.step import Step
from tonleiter.core.station import edits
from tonleiter.core.station.settings import PanelState

# as its operators have it once the transformer's winding is blocked from the set's volts
DEMO = mended_demo()


@functools.cache
def hf_set() -> OnAir:
    return on_air(DEMO, "hf-chat", "with-transformer")


@functools.cache
def handset_set() -> OnAir:
    return on_air(DEMO, "am-museum-day", "handset")


@functools.cache
def packet_set() -> OnAir:
    return on_air(edits.change_chain(DEMO, "hf-weak-data", purpose="packet"), "hf-weak-data")


def at(scene: Scene, step: str) -> Step:
    """A step by its id."""
    return next(s for s in scene.steps if s.id == step)


def knobs(**at_: float) -> PanelState:
    """A panel with some knobs turned."""
    return with_knobs(PanelState(), at_)
