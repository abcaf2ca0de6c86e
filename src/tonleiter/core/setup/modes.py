"""The scene of each mode; a new mode is a module here and a line in the table."""

from __future__ import annotations

from collections.abc import Mapping

from tonleiter.core.guide.onair import ModeId, OnAir
from tonleiter.core.guide.scene import LiveSet, Scene
from tonleiter.core.setup.am import AmScene
from tonleiter.core.setup.data import DataScene
from tonleiter.core.setup.fm import FmScene
from tonleiter.core.setup.packet import PacketScene
from tonleiter.core.setup.ssb.scene import SsbScene
from tonleiter.core.station.settings import MeterId, PanelState

SCENES: dict[ModeId, type[Scene]] = {
    scene.mode: scene for scene in (SsbScene, FmScene, PacketScene, AmScene, DataScene)
}


def scene_of(case: OnAir, panel: PanelState, own: Mapping[MeterId, float] | None = None) -> Scene:
    """Send the voice, read the meters, and say what is next.

    ``own`` has readings of the user's own radio by meter, in that meter's unit.
    """
    return SCENES[case.mode](case, panel, own).complete()


def live_set(case: OnAir, panel: PanelState) -> LiveSet:
    """The same set, fed block by block."""
    return SCENES[case.mode].live(case, panel)


def settled(case: OnAir, panel: PanelState, most: int = 12) -> Scene:
    """The guide followed as far as the panel's knobs take it in so many moves."""
    scene = scene_of(case, panel)
    for _ in range(most):
        turns = (s.move for s in scene.steps if s.move is not None and s.move.knobs)
        move = None if scene.stops else next(turns, None)
        if move is None:
            break
        scene = scene_of(case, scene.after(move))
    return scene
