"""The computer's side of Set: whether one looks at it, and what hands do there."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import QObject, Signal

from tonleiter.app.audio.system import SoundSystem, find_system
from tonleiter.app.document import Document
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.desk import plugging
from tonleiter.core.desk.devices import Desk, NoDeskError, way_back
from tonleiter.core.desk.real import Named, System, happened, new_devices, real_desk
from tonleiter.core.gear.line_sources import LineSource
from tonleiter.core.guide.onair import OnAir
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.setup.loop.laid import desk_for, loop_at
from tonleiter.core.setup.loop.scene import LoopScene
from tonleiter.core.station.basis import basis_of
from tonleiter.core.station.computer import Altering, SystemRole, Way
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import MeterId, PanelState

MOST_EVENTS = 6
Edit = Callable[[str, Callable[[Station], Station]], object]


class AtDesk(QObject):
    """``edit`` makes an edit that can be undone, or says a refusal; ``changed``: another page."""

    changed = Signal()

    def __init__(self, document: Document, verdicts: Verdicts, edit: Edit) -> None:
        super().__init__()
        self._document, self._verdicts, self._edit = document, verdicts, edit
        self.seen = False
        self._system: SoundSystem | None = None
        self.listed, self._begun = System(), System()
        self.real = False
        self.told: frozenset[str] = frozenset()
        self.names: dict[Way, str] = {}
        self.events: tuple[str, ...] = ()

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
    def real_one(self) -> Desk | None:
        """The desk of the computer that this runs on, where one looks at that."""
        desk = self.desk
        if desk is None or not self.real:
            return None
        return real_desk(self.listed, desk, self.names, self.told)

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
        of_back = basis_of(station, back[0]) if back else None
        return desk, station.device_by_id[desk.out], of_back, self.real_one

    def maker(
        self, case: OnAir, panel: PanelState, own: dict[MeterId, float] | None
    ) -> Callable[[], LoopScene]:
        """What makes the page, of the station as it is now, in whatever thread."""
        station, verdicts = self._station, self._verdicts
        clock, real = datetime.now().astimezone().strftime("%H:%M"), self.real_one

        def verdict(s: Station, chain: str) -> Verdict:
            return verdicts.of(s, basis_of(s, chain))

        return lambda: loop_at(case, station, panel, own, clock, verdict, real)

    # --- the computer that this runs on ----------------------------------------------------------

    @property
    def system(self) -> SoundSystem:
        """Whom one asks; looked for when first wanted."""
        if self._system is None:
            self._system = find_system()
            self._system.watch(self._look_again)
            self.listed = self._begun = self._system.listed()
        return self._system

    def use_real(self, real: bool) -> None:
        """Turn to the computer that this runs on, or back to the simulated one."""
        self.real = real
        if real:
            self.listed = self.system.listed()
        else:
            self.silence()

    def silence(self) -> None:
        """Nothing plays and nobody listens any more."""
        if self._system is not None:
            self._system.stop()

    def _look_again(self) -> None:
        before, self.listed = self.listed, self.system.listed()
        if self.listed == before:
            return
        clock = datetime.now().astimezone().strftime("%H:%M:%S")
        new = happened(before, self.listed, self.names.values())
        self.events = (*(f"{clock}  {said}" for said in new), *self.events)[:MOST_EVENTS]
        self.changed.emit()

    @property
    def new(self) -> tuple[tuple[Way, Named], ...]:
        """What was plugged in since this page was opened."""
        return new_devices(self._begun, self.listed)

    def is_radio(self, way: Way, name: str) -> None:
        """Somebody says which device the radio is, one way."""
        self.names = {**self.names, way: name}
        self.changed.emit()

    def tell(self, step: str) -> None:
        """Somebody says that a step is done that no program can see."""
        self.told = self.told | {step}
        self.changed.emit()

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
