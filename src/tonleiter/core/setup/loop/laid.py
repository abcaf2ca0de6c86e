"""A loop from a station: the radio's case, the desk, the way back, solved and put together."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from tonleiter.core.desk.back import back_of
from tonleiter.core.desk.devices import Desk, NoDeskError, desk_of
from tonleiter.core.guide.onair import OnAir, on_air
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.setup.loop.base import AtTheDesk
from tonleiter.core.setup.loop.real import real_loop
from tonleiter.core.setup.loop.scene import LoopScene, loop_scene
from tonleiter.core.setup.modes import scene_of
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import MeterId, PanelState

MOST_MOVES = 24


def desk_for(station: Station, chain_id: str | None = None) -> Desk:
    """The desk of a chain that is set at the computer.

    Raises KeyError, and NoDeskError where it carries a voice, or comes from no computer.
    """
    chain = station.chain(chain_id)
    if chain.purpose_facts.spoken:
        raise NoDeskError(
            f"“{chain.name}” is for {chain.purpose_facts.title}: a computer's loop is set for"
            " packet or weak-signal data"
        )
    if not station.placed(chain.variant().stages[-1]).transmits:
        raise NoDeskError(f"“{chain.name}” sends nothing on the air: its way back is set with it")
    return desk_of(station, chain.id)


def loop_at(
    case: OnAir,
    station: Station,
    panel: PanelState,
    own: Mapping[MeterId, float] | None = None,
    clock: str | None = None,
    verdicts: Callable[[Station, str], Verdict] = verdict_of,
    real: Desk | None = None,
) -> LoopScene:
    """The computer's page of a chain as the station's desk stands now.

    ``real`` is the desk of the computer that this runs on, in the place of the station's own.
    Raises NoDeskError, CircuitError of the way back.
    """
    desk = desk_for(station, case.basis.chain)
    back = back_of(station, case.basis.chain, desk, case.mode, verdicts)
    radio = scene_of(case, panel, own)
    if real is not None:
        return real_loop(case, panel, own, AtTheDesk(station, real, back, clock), radio)
    return loop_scene(case, panel, own, AtTheDesk(station, desk, back, clock), radio)


def loop_of(station: Station, chain_id: str | None = None) -> LoopScene:
    """The same from nothing but a station. Raises also what ``on_air`` raises."""
    desk_for(station, chain_id)
    chain = station.chain(chain_id)
    return loop_at(on_air(station, chain.id), station, chain.panel)
