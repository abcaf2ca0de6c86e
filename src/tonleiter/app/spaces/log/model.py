"""What the Log space shows: entries of the open station, what they say, what could be written."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Literal

from PySide6.QtCore import Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.spaces.log.history import History
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.guide.turning import Turn, turned_back, turns
from tonleiter.core.judge.certainty import Doubts
from tonleiter.core.judge.findings.logged import LOG_CODE
from tonleiter.core.judge.findings.model import Finding, Remedy
from tonleiter.core.log.cause import Search, search
from tonleiter.core.log.entry import EntryKind, LogEntry, now_local, tags_in
from tonleiter.core.log.good_card import good_card
from tonleiter.core.log.kept import kept_entries
from tonleiter.core.log.looking import Looked, until
from tonleiter.core.log.next_task import NextTask, evening, next_tasks
from tonleiter.core.log.offered import changes, offer, packed
from tonleiter.core.log.photos import FOLDER as PHOTOS
from tonleiter.core.log.photos import keep_photo
from tonleiter.core.log.report_words import worst
from tonleiter.core.log.store import LogError
from tonleiter.core.log.telling import Lane, Saying, blamed, headline, lanes_of, sayings
from tonleiter.core.log.written import accepted, note, purchase, refusal, report, undone
from tonleiter.core.refused import RefusedError
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.card import SettingsCard
from tonleiter.core.words import sentence

LOOK_AFTER_MS = 300
Form = Literal["report", "change", "note"]


class LogModel(Watched):
    """``changed``: an entry, what is chosen, what is offered."""

    changed = Signal()
    remedies_changed = Signal()
    doubts_changed = Signal()
    grounds_wanted = Signal()
    no_remedy = "written down: read it, then look at the chain in the Ladder (3)"
    doubts: Doubts | None = None

    wanted = Signal(str, str)

    def __init__(self, document: Document, jobs: Jobs, verdicts: Verdicts) -> None:
        super().__init__(document)
        self._verdicts = verdicts
        self._next: Derived[tuple[NextTask, ...]] = self.derive(jobs, Wait.LATER, self.changed.emit)
        self.cause: Search | None = None
        self._causes: Derived[Search] = self.derive(jobs, Wait.HAND, self._cause_came)
        self.minutes: int | None = None
        self.solders = True
        self.history = History(document)
        self.looked = Looked()
        # a day that others are held against
        self.held = 0
        self.at = 0
        self.writing: Form | None = None
        self.offered: LogEntry | None = None
        self.turned: tuple[Turn, ...] = ()
        self._kept: tuple[LogEntry, ...] = ()
        # of all entries, whatever is looked at
        self._every: tuple[Lane, ...] = ()
        self._says: tuple[Saying, ...] = ()
        self.against: str | None = None
        self.entries: tuple[LogEntry, ...] = ()
        self.lanes: tuple[Lane, ...] = ()
        self.sayings: tuple[Saying, ...] = ()
        self._looks = self.when_resting(LOOK_AFTER_MS, self._look)

    # --- the store -------------------------------------------------------------------------------

    @property
    def trouble(self) -> str:
        """Why nothing can be written."""
        return self.history.trouble

    def rest(self) -> None:
        """The station is left: its log is closed."""
        super().rest()
        self.history.close()

    def leave(self) -> None:
        """Nobody looks any more: it looks when it is seen again."""
        super().leave()
        self._looks.stop()

    def rests_on(self, basis: Basis) -> bool:
        """It is of days, whatever the chain is now."""
        return True

    def _follow(self) -> None:
        if self.seen:
            self._looks.start()

    def _look(self) -> None:
        """Entries anew, and what changed since the last one."""
        try:
            self.history.read()
        except LogError as error:
            self.refused.emit(str(error))
        self.offered = offer(self.station, self.history.last, now_local())
        self._kept = kept_entries(self.station, self.records)
        self._every = lanes_of(self.history.entries)
        self._says = sayings(self._every, _today())
        self._ask_next()
        self._sort()

    def _sort(self) -> None:
        """What is looked at of them, and what it says."""
        looked, since = self.looked, self.since
        found = self.history.with_words(looked.find)
        self.entries = looked.of(self.history.entries, since, found)
        every = (*self.entries, *looked.of_kept(self._kept, since))
        every = tuple(sorted(every, key=lambda e: e.utc))
        self.lanes = lanes_of(every, looked.by)
        # what is said is said of microphones, whatever the lines are of
        told = self.lanes if looked.by == "microphone" else lanes_of(every)
        self.sayings = sayings(told, _today())
        self.changed.emit()

    # --- what is looked at -----------------------------------------------------------------------

    @property
    def since(self) -> datetime:
        """From which day on is looked at."""
        return self.looked.since(self._all, _today())

    @property
    def until(self) -> datetime:
        """Up to which."""
        return until(self._all, _today())

    @property
    def _all(self) -> tuple[LogEntry, ...]:
        """Entries, and what is kept elsewhere."""
        return (*self.history.entries, *self._kept)

    def names(self, of: str) -> tuple[str, ...]:
        """Radios or microphones that were written of."""
        return tuple(dict.fromkeys(n for e in self._all if (n := getattr(e, of))))

    def headline(self) -> str:
        """The sentence on top."""
        if self.trouble and not self.history.entries:
            return f"{sentence(self.trouble)}."
        return headline(self.entries, self.sayings)

    @property
    def chosen(self) -> LogEntry | None:
        """The entry that is chosen."""
        return self._entry(self.at)

    def _entry(self, number: int) -> LogEntry | None:
        return next((e for e in self._all if e.number == number), None)

    def blamed(self, entry: LogEntry) -> LogEntry | None:
        """What changed last before a report's worst word began, however little is looked at."""
        lane = next((x for x in self._every if entry in x.entries), None)
        return None if lane is None else blamed(entry, lane)

    def choose(self, number: int) -> None:
        """Look at one."""
        if number != self.at:
            self.cause = None
        self.at, self.writing = number, None
        self.changed.emit()

    def show(self, looked: Looked) -> None:
        """Other filters."""
        self.looked = looked
        self._sort()

    # --- what next -------------------------------------------------------------------------------

    def _ask_next(self) -> None:
        """What is open over the whole station, behind the window."""
        station, records, said = self.station, self.records, self._says
        entries, judge = self.history.entries, self._verdicts.held_or_made
        doubts = self._verdicts.doubts_of
        self._next.want(
            (station, records, said, entries),
            lambda _: next_tasks(station, records, said, judge, entries, doubts),
        )

    @property
    def tasks(self) -> tuple[NextTask, ...] | None:
        """What fits into the evening that was chosen; None while it is looked for."""
        made = self._next.value
        return None if made is None else evening(made, self.minutes, self.solders)

    def show_evening(self, minutes: int | None, solders: bool) -> None:
        """Another evening."""
        self.minutes, self.solders = minutes, solders
        self.changed.emit()

    def go(self, task: NextTask) -> None:
        """Where it is done, with its chain open."""
        if task.chain is not None and task.chain != self.station.open_chain:
            self.open_chain(task.chain)
        if task.where != "log":
            self.wanted.emit(task.where, "")
        elif (report := self._entry(task.entry)) is not None:
            self.find_cause(report)

    # --- the cause -------------------------------------------------------------------------------

    def find_cause(self, entry: LogEntry) -> None:
        """What may stand behind a report's worst word; of its chain, where that is still there."""
        word = worst(entry.words)
        if word is None:
            return
        changed = self.blamed(entry)
        station, verdicts = self.station, self._verdicts
        chain = next((c for c in station.chains if c.id == entry.chain_id), None)

        def make(_: Task) -> Search:
            if chain is None:
                return search(word, None, None, changed)
            found = verdicts.of(station, basis_of(station, chain.id))
            return search(word, found, chain.panel, changed)

        self.choose(entry.number)
        self._causes.want((entry.number, station), make)

    def _cause_came(self) -> None:
        if (made := self._causes.current) is not None and self.cause is None:
            self.cause = made
        if self._causes.trouble:
            self.refused.emit(self._causes.trouble)
        self.changed.emit()

    def answer(self, says: str, yes: bool) -> None:
        """The test of one cause came out so."""
        if self.cause is not None:
            self.cause = self.cause.answer(says, yes)
            self.changed.emit()

    def leave_cause(self) -> None:
        """Back to the report."""
        self.cause = None
        self._causes.nothing()
        self.changed.emit()

    # --- writing ---------------------------------------------------------------------------------

    def write(self, on: bool = True) -> None:
        """Begin to write a report, or leave it."""
        self._begin("report" if on else None)

    def write_change(self) -> None:
        """Begin to write what changed."""
        self._begin("change")

    def write_note(self) -> None:
        """Begin to write anything else: a note, a purchase, a build, a measurement."""
        self._begin("note")

    def _begin(self, form: Form | None) -> None:
        if form is not None and self.trouble:
            self.refused.emit(self.trouble)
            return
        self.writing = form
        self.changed.emit()

    def add_report(self, text: str, who: str, band: str, signal: str) -> bool:
        """A report in a line; whether it is written. Raises nothing: a refusal is said."""
        return self._add(lambda: report(self.station, text, who, band, signal))

    def add_note(self, kind: EntryKind, title: str, text: str, tags: str, way_back: str) -> bool:
        """What somebody writes by hand; whether it is written."""
        return self._add(lambda: note(self.station, kind, title, text, tags, way_back))

    def set_tags(self, entry: LogEntry, text: str) -> bool:
        """Other tags of one that is not sealed; whether they are taken."""
        return self._change(lambda: entry.but(tags=tags_in(text)))

    def add_photo(self, entry: LogEntry, file: Path) -> bool:
        """A photo of it, copied beside the log; whether it is taken."""
        if self.trouble:
            self.refused.emit(self.trouble)
            return False

        def make() -> LogEntry:
            name = keep_photo(self.document.folder, file)
            return entry.but(photos=tuple(dict.fromkeys((*entry.photos, name))))

        return self._change(make)

    def photo(self, name: str) -> Path:
        """Where one lies."""
        return self.document.folder / PHOTOS / name

    def _change(self, make: Callable[[], LogEntry]) -> bool:
        """Write one anew."""

        def write() -> None:
            try:
                made = make()
            except ValueError as error:
                raise RefusedError(refusal(error)) from None
            self.history.store.change(made)

        done = self.attempt(write)
        if done:
            self._look()
        return done

    def undone(self, entry: LogEntry) -> bool:
        """The way back of a modification was gone: that is written."""
        return self._add(lambda: undone(entry))

    def got(self, task: NextTask) -> bool:
        """What is to be built with was bought: a purchase, whose parts wait for their build."""
        done = self._add(lambda: purchase(task.needs))
        self.at = 0 if done else self.at
        self.changed.emit()
        return done

    def take_offer(self, title: str, way_back: str) -> bool:
        """Write what changed, with the station as it stands now."""
        offered = self.offered
        if offered is None:
            return False
        return self._add(lambda: accepted(offered, title, way_back))

    def _add(self, make: Callable[[], LogEntry]) -> bool:
        if self.trouble:
            self.refused.emit(self.trouble)
            return False
        try:
            entry = make()
        except ValueError as error:
            self.refused.emit(refusal(error))
            return False
        made: list[LogEntry] = []
        if self.attempt(lambda: made.append(self.history.store.add(entry, packed(self.station)))):
            self.at, self.writing = made[0].number, None
            self._look()
            return True
        return False

    def take_out(self, number: int) -> None:
        """Take one out; a sealed one stays."""
        if self.attempt(lambda: self.history.store.remove(number)):
            self.at = 0
            self._look()

    def seal(self, number: int) -> None:
        """It stays as it is from now on."""
        if self.attempt(lambda: self.history.store.seal(number)):
            self._look()

    # --- back to a card --------------------------------------------------------------------------

    @property
    def card(self) -> SettingsCard | None:
        """The card that today is held against: of the day when it was good, or the newest."""
        return good_card(self.station, self.records, self._says, self.against)

    @property
    def turns(self) -> tuple[Turn, ...]:
        """Knobs of the open chain that stand otherwise than on that card."""
        card = self.card
        return () if card is None else turns(self.station, card) or ()

    def turn_back(self) -> None:
        """Knobs as on the card, as one step to be undone; what the hand does is listed."""
        card, turned = self.card, self.turns
        if card is None:
            return

        title = f"knobs as on the card of {card.day}"
        if self.attempt(lambda: self.edit(title, turned_back(card))):
            self.turned, self.at = turned, 0
            self.changed.emit()

    def hold_against(self, card_id: str) -> None:
        """Today's knobs against another card."""
        self.against = card_id
        self.changed.emit()

    def since_then(self, entry: LogEntry) -> tuple[str, ...] | None:
        """What differs today from an entry's day; None where the station of it is not known."""
        then = self.history.station_of(entry)
        return None if then is None else changes(then, self.station)

    # --- two days --------------------------------------------------------------------------------

    def hold_day(self, number: int) -> None:
        """Hold other days against that of an entry; 0 none any more."""
        self.held = number
        self.changed.emit()

    def has_day(self, entry: LogEntry) -> bool:
        """Whether the station of its day is known."""
        return self.history.has_station_of(entry)

    def between(self, entry: LogEntry) -> tuple[LogEntry, LogEntry, tuple[str, ...]] | None:
        """The day that is held and that of another entry, the earlier first, and what differs."""
        held = self._entry(self.held)
        if held is None or held.number == entry.number:
            return None
        first, then = sorted((held, entry), key=lambda e: e.utc)
        old, new = (self.history.station_of(e) for e in (first, then))
        return None if old is None or new is None else (first, then, changes(old, new))

    # --- all of it -------------------------------------------------------------------------------

    def repair(self) -> None:
        """What can be read is written anew; the damaged file is kept beside it."""
        if self._say(self.history.repair):
            self._look()

    def keep_all(self, file: Path) -> None:
        """The whole station in one file; how it comes back is said."""
        self._say(lambda: self.history.keep_all(file))

    def take_over(self, file: Path) -> None:
        """Entries of a file of contacts, or of a table: what is valid and new."""
        if self._say(lambda: self.history.take_over(file)):
            self._look()

    def _say(self, do: Callable[[], str]) -> bool:
        """Do something and say what was done, or why not."""
        return self.attempt(lambda: self.refused.emit(do()))

    def moves_done(self) -> None:
        """The list of moves is not needed any more."""
        self.turned = ()
        self.changed.emit()

    # --- what the tray asks ----------------------------------------------------------------------

    def found(self) -> tuple[Finding, ...]:
        """What the history says."""
        return tuple(
            Finding(LOG_CODE, s.grave, "log", s.says, s.proof, {}, place=s.lane)
            for s in self.sayings[:8]
        )

    def place_of(self, finding: Finding) -> str:
        """Its microphone."""
        return finding.place

    def remedies_for(self, finding: Finding) -> tuple[Remedy, ...] | None:
        """Back to the card, where knobs stand otherwise."""
        card, turned = self.card, self.turns
        if finding.severity != "mind" or card is None or not turned:
            return ()
        why = "; ".join(t.move for t in turned[:3])
        title = f"Knobs as on the card of {card.day}"
        return (Remedy(title, why, (), 1, "knob", True, turned_back(card)),)

    def apply(self, remedy: Remedy, finding: Finding) -> None:
        """Apply one to the station."""
        self.edit(remedy.title, remedy.change)


def _today() -> datetime:
    return datetime.now().astimezone()
