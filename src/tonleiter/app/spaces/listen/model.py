"""What the Listen space shows: recordings, their comparison, a blind trial, what plays."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date, datetime
from pathlib import Path
from typing import Any, Literal

from PySide6.QtCore import QFile, Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.spaces.listen.advised import Advised
from tonleiter.app.spaces.listen.expected import Expected, Made
from tonleiter.app.spaces.listen.player import Player
from tonleiter.app.spaces.listen.recorder import Recorder
from tonleiter.app.spaces.listen.slots import (
    MORE,
    MOST_HEARD_S,
    PLACES,
    Place,
    Slots,
    Taken,
    take_file,
    take_sound,
    to_keep,
    with_slate,
)
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.guide.controls import at
from tonleiter.core.guide.onair import NoSetError, on_air
from tonleiter.core.guide.schools import tone_school
from tonleiter.core.judge.certainty import Doubts
from tonleiter.core.judge.findings.model import Finding, Remedy
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.listen.blind import Preferences, Side, TrialError, Trials
from tonleiter.core.listen.compare import Comparison
from tonleiter.core.listen.fairness import unfair
from tonleiter.core.refused import RefusedError
from tonleiter.core.report.circumstances import BY_AIR, Circumstances
from tonleiter.core.report.heard_causes import findings_of
from tonleiter.core.report.promised import Promise, broken, promises
from tonleiter.core.setup.advice import Advice
from tonleiter.core.setup.modes import SCENES
from tonleiter.core.sound.beside import audible
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station import edits
from tonleiter.core.station.basis import Basis, basis_of, chain_basis
from tonleiter.core.station.kept_sound import FOLDER, fingerprint_of, keep, orphans, place_of
from tonleiter.core.station.open_chain import of_open_chain
from tonleiter.core.station.recording import FILE_NAME, Recording
from tonleiter.core.station.recording import Taken as TakenBy
from tonleiter.core.station.records import drop_recording, keep_recording, keep_trial
from tonleiter.core.station.settings import PanelState, ToneSchool
from tonleiter.core.station.trial import Trial

# what is put beside two is heard for so long: six of ten minutes would fill a laptop
MORE_HEARD_S = 120.0


class ListenModel(Watched):
    """``changed``: a recording, a trial, what plays."""

    changed = Signal()
    remedies_changed = Signal()
    doubts_changed = Signal()
    grounds_wanted = Signal()
    no_remedy = "the Ladder (3) has what there is"
    doubts: Doubts | None = None

    def __init__(self, document: Document, jobs: Jobs, verdicts: Verdicts) -> None:
        super().__init__(document)
        self._verdicts = verdicts

        def derive(changed: object) -> Derived[Taken]:
            return self.derive(jobs, Wait.PAGE, changed)  # type: ignore[arg-type]

        self.slots = Slots(derive)
        self.slots.changed.connect(self._moved)
        self.slots.refused.connect(self.refused)
        self._verdict: Derived[Verdict] = self.derive(jobs, Wait.PAGE, self._judged)
        self._compared: Derived[dict[Place, Comparison]] = self.derive(
            jobs, Wait.HAND, self._judged
        )
        made: Derived[Made] = self.derive(jobs, Wait.PAGE, self._judged)
        self.expected = Expected(made, verdicts)
        advice: Derived[Advice] = self.derive(jobs, Wait.PAGE, self.changed.emit, keeps=False)
        self.advised = Advised(advice, verdicts)
        self.trials: Trials | None = None
        self.likes: Preferences | None = None
        self.player = Player(self.slots, self._late_s)
        self.player.setParent(self)
        self.player.changed.connect(self.changed)
        self.player.refused.connect(self.refused)
        self.recorder = Recorder(lambda: document.folder)
        self.recorder.setParent(self)
        self.recorder.changed.connect(self.changed)
        self.recorder.refused.connect(self.refused)
        self.recorder.made.connect(self._recorded)

    # --- recordings ------------------------------------------------------------------------------

    def take(self, side: Place, path: Path) -> None:
        """A file, in one of the places."""
        self.player.silence()
        heard_s = MORE_HEARD_S if side in MORE else MOST_HEARD_S
        self.slots.put_file(side, lambda tell: take_file(path, tell, heard_s=heard_s))

    def clear(self, side: Place) -> None:
        """What lies in a place, or is being read for it, is not wanted."""
        self.player.silence()
        self.slots.clear(side)
        self.changed.emit()

    def drop(self, paths: Sequence[Path]) -> None:
        """Files dropped on the space: the first free places; one or two else both anew."""
        free = self.slots.free()
        both = [p for p in free if p not in MORE]
        if len(paths) <= 2 and len(both) < len(paths):
            free = PLACES[:2]
        elif len(paths) > len(free):
            self.refused.emit(
                f"{len(paths)} files: there is room for {len(free)} beside those that are there"
            )
            return
        for side, path in zip(free, paths, strict=False):
            self.take(side, path)

    def next_free(self) -> Place | None:
        """Where one more goes; None where six are there."""
        return next(iter(self.slots.free()), None)

    def take_simulated(
        self, side: Place, far: bool, panel: PanelState | None = None, what: str = ""
    ) -> None:
        """What a receiver hears of the open chain as its panel stands, or with another one."""
        self.player.silence()
        station = self.station
        if not station.chains:
            self.refused.emit("there is no chain to listen to: make one on the Ladder (3)")
            return
        basis, verdicts = basis_of(station), self._verdicts
        name = f"{basis.chain_name}, {what or ('far away' if far else 'on the dummy load')}"
        knobs = panel or station.chain().panel

        def make(_: Task) -> Taken:
            case = on_air(station, verdict=verdicts.of(station, basis))
            scene = SCENES[case.mode](case, knobs)
            if scene.stops:
                raise NoSetError(f"mend first: {scene.stops[0].says}")
            made = take_sound(name, audible(scene.audio(far)), basis.sound)
            return replace(made, by_air=far, panel=knobs)

        self.slots.put(side, make)

    # --- tone advised ----------------------------------------------------------------------------

    def advise(self, school: ToneSchool) -> None:
        """Try settings of the open chain's radio for one school."""
        if not self.station.chains:
            self.refused.emit("there is no chain to advise: make one on the Ladder (3)")
            return
        self.advised.ask(self.station, school)

    def set_advised(self) -> None:
        """The panel's knobs and the distance as advised, as one step that can be undone."""
        if (panels := self.advised.panels()) is not None:
            chain, distance_mm = self.station.chain().id, self.advised.distance_mm()
            to: dict[str, object] = {"panel": panels[1]}
            if distance_mm is not None:
                to["distance_mm"] = distance_mm
            label = "tone as advised"
            self.attempt(lambda: self.edit(label, lambda s: edits.change_chain(s, chain, **to)))

    def hear_advised(self) -> None:
        """What stands in A, what is advised in B: both over a far receiver's noise."""
        if (panels := self.advised.panels()) is not None:
            self.take_simulated("A", True, panels[0], "as it stands")
            self.take_simulated("B", True, panels[1], "as advised")

    def record(self, side: Place) -> None:
        """Look at the level of this computer's input, to record into one of the places."""
        if self.document.looks_only:
            # it is written beside the station while it is made
            self.refused.emit(self.document.unwritable)
            return
        self.player.silence()
        self.recorder.ready(side)

    def _recorded(
        self, side: Place, name: str, sound: Sound, file: Path | None, slate_s: float
    ) -> None:
        clock = datetime.now().astimezone().strftime("%H:%M")
        title = f"{clock}, {name}"
        self.slots.put(side, lambda _: take_sound(title, sound, path=file, slate_s=slate_s))

    def slate_line(self) -> str:
        """What to say before a recording, of the open chain as it stands."""
        station = self.station
        if not station.chains:
            return ""
        given = self._of_chain()
        said = [str(given.get("microphone") or given.get("chain"))]
        said.append(f"{given['distance_mm'] / 10:.0f} centimetres")
        if given["power_w"]:
            said.append(f"{given['power_w']:.0f} watts")
        return ", ".join(said)[:80]

    def slate_ends(self, side: Place) -> None:
        """Where it plays now what was said before it ends; that is not measured any more."""
        taken, at_s = self.slots.at(side), self.player.at_s()
        if taken is None or self.player.plays != side or at_s is None:
            self.refused.emit(f"play {side} and press where the slate ends")
            return
        if self.is_kept(side):
            self.refused.emit(f"{side} is kept as it is: forget it first, and keep it anew")
            return
        self.player.silence()
        until = taken.slate_s + at_s
        self.slots.put(side, lambda _: with_slate(taken, until))

    def take_unkept(self, side: Place, file_name: str) -> None:
        """One that lies beside the station and that nobody kept."""
        self.take(side, self.document.folder / FOLDER / file_name)

    def unkept(self) -> tuple[tuple[str, ...], frozenset[str]]:
        """Files that lie beside the station and are not kept, and kept ones whose file is gone."""
        files, gone = orphans(self.records.recordings, self.document.folder)
        return files, frozenset(gone)

    def lies_unkept(self, side: Place) -> Path | None:
        """The file of one that lies beside the station unkept."""
        taken = self.slots.at(side)
        if taken is None or taken.path is None or self.is_kept(side):
            return None
        here = taken.path.parent == self.document.folder / FOLDER
        return taken.path if here and taken.path.name in self.unkept()[0] else None

    def throw_away(self, side: Place) -> None:
        """An unkept one, to the system's rubbish, from where it can be fetched back."""
        file = self.lies_unkept(side)
        if self.document.looks_only:
            self.refused.emit(self.document.unwritable)
        elif file is None:
            self.refused.emit(f"what is in {side} does not lie here unkept")
        elif not QFile.moveToTrash(str(file)):
            self.refused.emit(f"{file}: the system does not take it to its rubbish")
        else:
            self.clear(side)

    def swap(self, one: Place = "A", other: Place = "B") -> None:
        """Two change places."""
        self.player.silence()
        self.slots.swap(one, other)

    # --- kept with the station -------------------------------------------------------------------

    def take_kept(self, side: Place, recording_id: str) -> None:
        """One that is kept; a file that is gone or another one is said."""
        found = next((r for r in self.records.recordings if r.id == recording_id), None)
        if found is None:
            self.refused.emit("that recording is not kept any more")
            return
        self.player.silence()
        folder = self.document.folder
        self.slots.put_file(side, lambda tell: _of_kept(folder, found, tell))

    def keep(self, side: Place, taken_by: TakenBy | None, slate: str) -> None:
        """Keep one with the station, with what it is of: the open chain as it stands, and when."""
        if self.document.looks_only:
            self.refused.emit(self.document.unwritable)
            return
        taken = self.slots.at(side)
        if taken is None:
            self.refused.emit(f"there is nothing in {side} to keep")
            return
        self.attempt(lambda: self._keep(side, taken, taken_by, slate))

    def is_kept(self, side: Place) -> bool:
        """Whether what lies there is kept, now: an undone keeping keeps nothing."""
        taken = self.slots.at(side)
        return taken is not None and taken.kept in self.records.recordings

    def _keep(self, side: Place, taken: Taken, taken_by: TakenBy | None, slate: str) -> None:
        if taken.simulated and taken.basis != basis_of(self.station).sound:
            raise RefusedError(
                "the open chain is not any more what was listened to: listen to it anew to keep it"
            )
        title = (slate.strip() or taken.name)[:80]
        ids = {r.id for r in self.records.recordings}
        made = edits.fresh_id(ids, title)
        sound = to_keep(taken)
        folder, lies = self.document.folder, self.lies_unkept(side)
        if lies is not None and FILE_NAME.match(lies.name):
            file, sha = lies.name, fingerprint_of(lies)
        else:
            file, sha = keep(folder, made[:60], sound.samples, sound.rate_hz)
        recording = Recording(
            id=made,
            name=title,
            file=file,
            sha256=sha,
            seconds=min(sound.seconds, 7_300.0),
            rate_hz=sound.rate_hz,
            day=date.today().isoformat(),
            taken=_simulated(taken) if taken.simulated else taken_by,
            slate=slate.strip()[:80] or None,
            slate_s=round(taken.slate_s, 3),
            **self._of_chain(),
        )
        self.note("recording kept", lambda r: keep_recording(r, recording))
        if lies is not None and lies.name != file:
            lies.unlink(missing_ok=True)
        now = replace(taken, name=title, kept=recording, basis=recording.basis)
        self.slots.put(side, lambda _: now)

    def _of_chain(self) -> dict[str, Any]:
        """What a recording is of: the open chain as it stands now."""
        station = self.station
        if not station.chains:
            return {}
        basis = basis_of(station)
        socket = station.placed(station.chain().variant().stages[-1])
        box = station.device_by_port.get(socket.id)
        power = box.power_w.value if box is not None and box.kind == "radio" else None
        share = at(station.chain().panel, "power") / 100
        return {
            **of_open_chain(station),
            "variant_id": basis.variant,
            "basis": basis.sound,
            "voice": basis.operator.name,
            "purpose": basis.purpose,
            "distance_mm": basis.distance_mm,
            "power_w": None if power is None else round(power * share, 3),
        }

    def forget(self, recording_id: str) -> None:
        """Forget one; its file stays where it is."""
        self.note("recording forgotten", lambda r: drop_recording(r, recording_id))

    def promised(self, side: Place) -> tuple[Promise, ...]:
        """What the open chain promises of one, if it is of that chain as it stands."""
        taken = self.slots.at(side)
        if taken is None or not self._is_of_this(taken) or not taken.measures.level.known:
            return ()
        panel = self._given(taken).panel
        assert panel is not None
        made = self.expected.of(basis_of(self.station), panel, taken.by_air)
        return () if made is None else promises(made, taken.measures, taken.by_air)

    def _is_of_this(self, taken: Taken) -> bool:
        """Whether it is of the open chain as it stands; of some nobody said of which they are."""
        if not taken.basis or not self.station.chains:
            return False
        return taken.basis == basis_of(self.station).sound

    def _expect(self) -> None:
        """What the open chain promises of those that are of it, simulated where it is not yet."""
        if not self.seen:
            return
        taken = [t for p in PLACES if (t := self.slots.at(p)) is not None and self._is_of_this(t)]
        ways = [(panel, t.by_air) for t in taken if (panel := self._given(t).panel) is not None]
        if ways:
            self.expected.want(self.station, basis_of(self.station), ways)

    def _given(self, taken: Taken) -> Circumstances:
        """How one came about; of what is known to be of the open chain, with its knobs."""
        station, panel = self.station, taken.panel
        if not station.chains:
            return Circumstances(taken.by_air, panel)
        chain = station.chain()
        if panel is None and taken.basis == basis_of(station).sound:
            panel = chain.panel
        school = None if panel is None else tone_school(panel, chain.purpose)
        return Circumstances(taken.by_air, panel, school)

    def _moved(self) -> None:
        self.trials = self.likes = None
        first = self.slots.at("A")
        others = {p: t for p in PLACES[1:] if (t := self.slots.at(p)) is not None}
        if first is not None and others:
            asked = (id(first), *((p, id(t)) for p, t in others.items()))
            self._compared.want(asked, lambda _: _compared(first, others))
        else:
            self._compared.nothing()
        self._expect()
        self.changed.emit()

    def _judged(self) -> None:
        self.changed.emit()
        self.remedies_changed.emit()

    def _follow(self) -> None:
        if not self.seen:
            return
        if not self.station.chains:
            self._verdict.nothing()
            self.advised.follow(self.station)
            return
        station, basis = self.station, basis_of(self.station)
        self._verdict.want(basis, lambda _: self._verdicts.of(station, basis))
        self.advised.follow(station)
        self._expect()
        # what is kept and what is promised may have changed with it
        self.changed.emit()

    def rests_on(self, basis: Basis) -> bool:
        """Its findings are of recordings; what of the chain may cause them is of this basis."""
        return self._verdict.current is not None and basis == chain_basis(self.station)

    @property
    def comparison(self) -> Comparison | None:
        """A and B, held against each other."""
        return self.against_a("B")

    def against_a(self, side: Place) -> Comparison | None:
        """One of them, held against A; None where nobody has done so yet."""
        a, b = self.slots.at("A"), self.slots.at(side)
        made = (self._compared.current or {}).get(side)
        if made is None or a is None or b is None:
            return None
        return made if (made.one, made.other) == (a.measures, b.measures) else None

    # --- playing ---------------------------------------------------------------------------------

    def _late_s(self, side: Place) -> float:
        """How much later one's words lie in its file than A's."""
        made = self.against_a(side)
        return made.aligned.late_s if made is not None and made.aligned.same_words else 0.0

    def leave(self) -> None:
        """Out of sight nothing plays."""
        super().leave()
        self.player.silence()
        # what is being recorded goes on: somebody looks something up meanwhile
        if self.recorder.does == "listens":
            self.recorder.leave()

    def rest(self) -> None:
        """The station is left: nothing plays, nobody listens, no recording goes on."""
        super().rest()
        self.player.silence()
        self.recorder.rest()

    # --- blind -----------------------------------------------------------------------------------

    def begin_trial(self) -> None:
        """A new one: which is which stands nowhere."""
        if self.slots.at("A") is None or self.slots.at("B") is None:
            self.refused.emit("two recordings are wanted for a trial")
            return
        self.player.silence()
        self.trials = Trials.begun()
        self.changed.emit()

    def play_x(self) -> None:
        """X, whichever it is."""
        if self.trials is None:
            self.refused.emit("begin a trial first")
            return
        self.attempt(self._play_x)

    def _play_x(self) -> None:
        assert self.trials is not None
        self.player.play(self.trials.x, called="X")

    def answer(self, side: Side) -> None:
        """X was that."""
        if self.trials is None:
            self.refused.emit("begin a trial first")
            return
        try:
            self.trials = self.trials.answer(side)
        except TrialError as error:
            self.refused.emit(str(error))
        self.player.silence()
        self.changed.emit()

    def begin_likes(self) -> None:
        """Which is liked better, asked of several: which is which stands nowhere."""
        if self.slots.at("A") is None or self.slots.at("B") is None:
            self.refused.emit("two recordings are wanted to choose between")
            return
        self.player.silence()
        self.likes = Preferences.begun()
        self.changed.emit()

    def play_like(self, second: bool) -> None:
        """The first or the second, whichever it is."""
        if self.likes is not None:
            called = "second" if second else "first"
            self.player.play(self.likes.heard(second), called=called)

    def like(self, listener: str, second: bool) -> None:
        """Somebody likes the first or the second better."""
        if self.likes is None:
            return
        try:
            self.likes = self.likes.vote(listener[:40], second)
        except TrialError as error:
            self.refused.emit(str(error))
        self.player.silence()
        self.changed.emit()

    def keep_result(self, kind: Literal["told", "liked"]) -> None:
        """What a trial came to, with the station; a new one may begin."""
        a, b = self.slots.at("A"), self.slots.at("B")
        if a is None or b is None:
            return
        hits, count, who = 0, 0, ()  # type: tuple[int, int, tuple[str, ...]]
        if kind == "told" and self.trials is not None:
            hits, count = self.trials.right, len(self.trials.given)
        elif kind == "liked" and self.likes is not None:
            hits, count = self.likes.counts[1], sum(self.likes.counts)
            who = tuple(dict.fromkeys(name for name, _ in self.likes.votes))
        if not count:
            self.refused.emit("nobody was asked yet: there is nothing to keep")
            return
        taken = {t.id for t in self.records.trials}
        day = date.today().isoformat()
        made = Trial(
            id=edits.fresh_id(taken, f"{kind} {day}"), kind=kind, day=day, one=a.name[:80],
            other=b.name[:80], hits=hits, count=count, listeners=who,
        )  # fmt: skip
        self.note("trial kept", lambda r: keep_trial(r, made))
        if kind == "told":
            self.trials = None
        else:
            self.likes = None
        self.changed.emit()

    def unfair(self) -> Sequence[str]:
        """Why both should not be held against each other, or nobody can say so."""
        a, b = self.slots.at("A"), self.slots.at("B")
        if a is None or b is None:
            return ()
        if a.simulated and b.simulated and a.by_air == b.by_air:
            return ()
        kept = [t.kept if self.is_kept(s) else None for s, t in (("A", a), ("B", b))]  # type: ignore[arg-type]
        return unfair(*kept)

    # --- what the tray asks ----------------------------------------------------------------------

    def found(self) -> tuple[Finding, ...]:
        """What they sound like, with causes; of the last first: it is the newest."""
        made: list[Finding] = []
        for side in reversed(PLACES):
            taken = self.slots.at(side)
            if taken is not None:
                made += findings_of(side, taken.measures, self._verdict.current, self._given(taken))
                made += broken(side, self.promised(side))
        order = ("stop", "mind", "fine")
        return tuple(sorted(made, key=lambda f: order.index(f.severity)))

    def place_of(self, finding: Finding) -> str:
        """Where it is."""
        return finding.place

    def remedies_for(self, finding: Finding) -> tuple[Remedy, ...] | None:
        """What the chain's own finding offers."""
        return tuple(
            Remedy(fix.title, fix.why, (), fix.effort, fix.family, True, fix.apply)
            for fix in finding.fixes[:2]
        )

    def apply(self, remedy: Remedy, finding: Finding) -> None:
        """Apply one to the station."""
        self.edit(remedy.title, remedy.change)


def _simulated(taken: Taken) -> TakenBy:
    return "simulated-far" if taken.by_air else "simulated"


def _of_kept(folder: Path, recording: Recording, tell: Callable[[float], object]) -> Taken:
    """A kept recording. Raises SoundError, and RefusedError where its file is another one now."""
    file = place_of(folder, recording)
    if not file.exists():
        raise RefusedError(f"{file}: the recording “{recording.name}” is gone from there")
    if fingerprint_of(file) != recording.sha256:
        raise RefusedError(f"{file}: it is not the recording any more that was kept there")
    made = take_file(file, tell, recording.slate_s)
    return replace(
        made,
        name=recording.name,
        kept=recording,
        simulated=recording.taken in ("simulated", "simulated-far"),
        basis=recording.basis,
        by_air=recording.taken in BY_AIR,
    )


def _compared(first: Taken, others: dict[Place, Taken]) -> dict[Place, Comparison]:
    all_made = {p: Comparison(first.measures, t.measures) for p, t in others.items()}
    for made in all_made.values():
        # what the page shows is computed here, and not while it is painted
        _ = made.aligned, made.changes, made.words, made.spectrum_db
    return all_made
