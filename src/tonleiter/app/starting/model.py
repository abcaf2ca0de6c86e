"""What the start page knows: the stations opened last, how each stands, what to do this evening."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from tonleiter.app.derived import Derived
from tonleiter.app.greeting import entries_of
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.recents import Recent, forget_recent, recents
from tonleiter.core.judge.verdict import Verdict, verdict_of
from tonleiter.core.log.next_task import NextTask, evening, next_tasks
from tonleiter.core.log.telling import lanes_of, sayings
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.standing import Standing, standing
from tonleiter.core.station.files import Opened, read_station
from tonleiter.core.station.model import Station
from tonleiter.core.station.unplaced import unplaced

HOUR_MIN = 60
MOST_LINES = 4


@dataclass(frozen=True)
class Listed:
    """A station of the list; ``standing`` is None until it is known, ``gone`` says it is not there.

    ``placed``: whether it lies where somebody put it.
    """

    recent: Recent
    standing: Standing | None = None
    gone: bool = False
    placed: bool = True

    @property
    def folder(self) -> Path:
        """Where it lies."""
        return Path(self.recent.folder)


@dataclass(frozen=True)
class Known:
    """What is worked out behind the window, as far as it is."""

    stations: tuple[Listed, ...] = ()
    tasks: tuple[NextTask, ...] = ()
    of: Path | None = None
    """The station that the tasks are of: the newest that is there."""
    title: str = ""


class StartModel(QObject):
    """Reads stations and keeps none of them; ``changed`` tells of news."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.jobs = Jobs()
        self._known: Derived[Known] = Derived(self.jobs, Wait.PAGE)
        self._known.setParent(self)
        self._known.changed.connect(self.changed)
        self.hour, self.iron = True, False
        self._asked = 0

    def look(self) -> None:
        """Read the list anew: it is shown."""
        self._asked += 1
        listed = _listed()
        self._known.want((self._asked, listed), lambda task: _work_out(listed, task))

    @property
    def stations(self) -> tuple[Listed, ...]:
        """The list, the newest first."""
        known = self._known.value
        return known.stations if known is not None else _listed()

    @property
    def busy(self) -> bool:
        """Whether more is being worked out."""
        return self._known.busy

    @property
    def of(self) -> tuple[Path | None, str]:
        """Folder and title of the station that the evening is of."""
        known = self._known.value
        return (known.of, known.title) if known is not None else (None, "")

    def finish(self) -> None:
        """Wait for what is worked out."""
        self._known.finish()

    def evening(self) -> tuple[NextTask, ...]:
        """What there is to do this evening."""
        known = self._known.value
        if known is None:
            return ()
        open_ends = [t for t in known.tasks if t.where != "practise"]
        return evening(open_ends, HOUR_MIN if self.hour else None, self.iron)[:MOST_LINES]

    def set_evening(self, hour: bool, iron: bool) -> None:
        """How long the evening is, and whether an iron is heated."""
        self.hour, self.iron = hour, iron
        self.changed.emit()

    def forget(self, folder: str) -> None:
        """Take a station from the list."""
        forget_recent(folder)
        self.look()

    def rest(self) -> None:
        """Nobody looks at it."""
        self._known.cancel()

    def end(self) -> None:
        """Nobody waits any more."""
        self.jobs.end()


def _listed() -> tuple[Listed, ...]:
    """Those that were opened, and those left without a place that the list does not have."""
    listed = [Listed(r) for r in recents()]
    known = {one.folder for one in listed}
    lost = [
        Listed(Recent(str(folder), "", _day(folder)), placed=False)
        for folder in unplaced()
        if folder not in known
    ]
    nowhere = {str(folder) for folder in unplaced()}
    made = [Listed(one.recent, placed=one.recent.folder not in nowhere) for one in listed]
    return (*made, *lost)


def _day(folder: Path) -> str:
    try:
        return datetime.strptime(folder.name[:8], "%Y%m%d").date().isoformat()
    except ValueError:
        return ""


class _Judge:
    """Judges each chain of the station that is being read once."""

    def __init__(self) -> None:
        self._of: Station | None = None
        self._made: dict[str, Verdict] = {}

    def __call__(self, station: Station, chain: str) -> Verdict:
        if station is not self._of:
            self._of, self._made = station, {}
        if chain not in self._made:
            self._made[chain] = verdict_of(station, chain)
        return self._made[chain]


def _work_out(listed: tuple[Listed, ...], task: Task) -> Known:
    """Each station read and judged, the newest first, with its evening; told as it comes."""
    judge, stations = _Judge(), list(listed)
    tasks: tuple[NextTask, ...] = ()
    of, title = None, ""
    for k, one in enumerate(listed):
        opened = _read(one.folder)
        if opened is None:
            stations[k] = Listed(one.recent, None, True, one.placed)
            task.tell(Known(tuple(stations), tasks, of, title))
            continue
        name = Recent(one.recent.folder, opened.station.title, one.recent.day)
        stands = standing(opened.station, judge)
        stations[k] = Listed(name, stands, False, one.placed)
        task.tell(Known(tuple(stations), tasks, of, title))
        if of is None:
            of, title = one.folder, opened.station.title
            entries = entries_of(one.folder, looks_only=True)
            said = sayings(lanes_of(entries), datetime.now().astimezone())
            station, records = opened.station, opened.records
            tasks = next_tasks(station, records, said, judge, entries)
            task.tell(Known(tuple(stations), tasks, of, title))
    return Known(tuple(stations), tasks, of, title)


def _read(folder: Path) -> Opened | None:
    """A station as it lies there; None where it cannot be read. Nothing is written."""
    try:
        return read_station(folder, keeps=False)
    except (RefusedError, OSError):
        return None
