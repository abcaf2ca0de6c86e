"""The computer's side of Set: whether one looks at it, and what hands do there."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import QObject, Signal

from tonleiter.app.document import Document
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.desk import plugging
from tonleiter.core.desk.devices import Desk, NoDeskError, way_back
from tonleiter.core.gear.line_sources import LineSource
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.setup.loop import LoopScene
from tonleiter.core.setup.loops import desk_for, loop_at
from tonleiter.core.station.basis import basis_of
from tonleiter.core.station.computer import Altering, SystemRole, Way
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import MeterId, PanelState

Edit = Callable[[str, Callable[[Station], Station]], object]


class AtDesk(QObject):
    """``edit`` makes an edit that can be undone, or says a refusal; ``changed``: another page."""

    changed = Signal()

    def __init__(self, document: Document, verdicts: Verdicts, edit: Edit) -> None:
        super().__init__()
        self._document, self._verdicts, self._edit = document, verdicts, edit
        self.seen = False

    @property
    def _station(self) -> Station:
        return self._document.station

    @property
    def offered(self) -> bool:
        """Whether the open chain is one that is set at a computer, or could be."""
        station = self._station
        if not station.chains or station.chain().purpose_facts.spoken:
            return False
        stages = station.chain().variant().stages
        ends = (station.placed(stages[0]), station.placed(stages[-1]))
        return isinstance(ends[0], LineSource) and ends[1].transmits

    @property
    def on(self) -> bool:
        """Whether the computer is what one looks at."""
        return self.seen and self.offered

    @property
    def desk(self) -> Desk | None:
        """The desk of the open chain, as it stands now."""
        try:
            return desk_for(self._station) if self.on else None
        except NoDeskError:
            return None

    @property
    def trouble(self) -> str:
        """Why there is none."""
        try:
            desk_for(self._station)
        except NoDeskError as error:
            return str(error)
        return ""

    def look(self, at_computer: bool) -> None:
        """Turn to the computer, or back to the radio."""
        if at_computer != self.seen:
            self.seen = at_computer
            self.changed.emit()

    def rests_on(self) -> object:
        """What a page of it rests on besides the radio's case and the panel."""
        station, desk = self._station, self.desk
        if desk is None:
            return None
        socket = station.chain().variant().stages[-1].gear
        radio = station.device_by_port.get(socket)
        back = way_back(station, station.device_by_id[desk.out], desk.computer, radio)
        return desk, station.device_by_id[desk.out], basis_of(station, back[0]) if back else None

    def maker(
        self, case: OnAir, panel: PanelState, own: dict[MeterId, float] | None
    ) -> Callable[[], LoopScene]:
        """What makes the page, of the station as it is now, in whatever thread."""
        station, verdicts = self._station, self._verdicts
        clock = datetime.now().astimezone().strftime("%H:%M")
        return lambda: loop_at(
            case, station, panel, own, clock, lambda s, c: verdicts.of(s, basis_of(s, c))
        )

    # --- hands -----------------------------------------------------------------------------------

    def _do(self, label: str, change: Callable[[Station, str], Station]) -> None:
        desk = self.desk
        if desk is not None:
            computer = desk.computer.id
            self._edit(label, lambda s: change(s, computer))

    def plug(self, box: str, into: bool) -> None:
        """Plug a box's lead in, or pull it."""
        clock = datetime.now().astimezone().strftime("%H:%M")
        if into:
            self._do("lead plugged in", lambda s, c: plugging.plug_in(s, c, box, clock))
        else:
            self._do("lead pulled", lambda s, c: plugging.pull_out(s, c, box))

    def switch(self, box: str, on: bool) -> None:
        """Switch a box on or off."""
        self._do("radio switched", lambda s, c: plugging.switch_box(s, c, box, on))

    def give(self, role: SystemRole, device: str) -> None:
        """Give a role to a device."""
        self._do("default device", lambda s, c: plugging.give(s, c, (role,), device))

    def choose(self, way: Way, device: str) -> None:
        """The data program's device."""
        self._do("device of the data program", lambda s, c: plugging.choose(s, c, {way: device}))

    def alter(self, what: Altering, on: bool) -> None:
        """Switch something that alters sound on or off."""
        self._do("sound settings", lambda s, c: plugging.alter(s, c, {what: on}))
