"""The loop on the user's own computer: what its system shows is watched, the rest is told.

Nothing of the system is changed from here: a step says where to change it, and sees when it is
done, or is told.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from tonleiter.core.desk.real import TOLD
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.guide.scene import Scene
from tonleiter.core.guide.step import Move, Step
from tonleiter.core.setup.loop.base import AtTheDesk
from tonleiter.core.setup.loop.scene import LoopScene
from tonleiter.core.station.settings import MeterId, PanelState

_WHERE = {
    "defaults": "In the sound settings of your system; this page sees when it is done.",
    "program": "In the settings of the data program; no other program can see that.",
    "off": "In the sound settings of your system, for this device; no program can see that.",
}


class RealLoop(LoopScene):
    """Steps of the desk are asked for instead of done."""

    title = "Your own loop"

    @property
    def tellable(self) -> str | None:
        """The step that is on, if it is one that has to be told."""
        now = self.now
        return now.id if now is not None and now.id in TOLD else None

    def own_steps(self) -> Iterator[Step]:
        """The same, on a system that is only looked at."""
        for step in super().own_steps():
            if step.move is not None and step.move.fix is not None:
                says = step.move.says
                if step.id == "names":
                    says = "Plug the radio's lead in; then say below which of the new ones it is."
                move = Move(says, step.move.why, asks=True)
                nothing = _WHERE.get(step.id, step.if_nothing)
                step = replace(step, move=move, if_nothing=nothing)
            yield step


def real_loop(
    case: OnAir,
    panel: PanelState,
    own: Mapping[MeterId, float] | None,
    there: AtTheDesk,
    radio: Scene,
) -> RealLoop:
    """The page for the computer that this runs on; ``there`` has its desk."""
    scene = RealLoop(case, panel, own or {}, there, radio)
    scene.complete()
    return scene
