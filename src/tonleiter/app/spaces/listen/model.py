"""What the Listen space shows: recordings, their comparison, a blind trial, what plays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.spaces.listen.advised import Advised
from tonleiter.app.spaces.listen.blind import Blind
from tonleiter.app.spaces.listen.expected import Expected, Made
from tonleiter.app.spaces.listen.kept import Kept
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
    with_slate,
)
from tonleiter.app.spaces.no_chain import refuses
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.guide.onair import NoSetError, on_air
from tonleiter.core.guide.schools import tone_school
from tonleiter.core.judge.certainty import Doubts
from tonleiter.core.judge.findings.model import Finding, Remedy
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.listen.compare import Comparison
from tonleiter.core.listen.fairness import unfair
from tonleiter.core.report.circumstances import Circumstances
from tonleiter.core.report.heard_causes import findings_of
from tonleiter.core.report.promised import Promise, broken, promises
from tonleiter.core.setup.advice import Advice
from tonleiter.core.setup.modes import SCENES
from tonleiter.core.sound.beside import audible
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station import edits
from tonleiter.core.station.basis import Basis, basis_of, chain_basis
from tonleiter.core.station.kept_sound import FOLDER
from tonleiter.core.station.settings import PanelState, ToneSchool

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
        self.player = Player(self.slots, self._late_s)
        self.player.setParent(self)
        self.player.changed.connect(self.changed)
        self.player.refused.connect(self.refused)
        self.blind = Blind(self, self.slots, self.player)
        self.blind.changed.connect(self.changed)
        self.kept = Kept(self, self.slots)
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

    def take_unkept(self, side: Place, file_name: str) -> None:
        """One that lies beside the station and that nobody kept."""
        self.take(side, self.document.folder / FOLDER / file_name)

    def take_kept(self, side: Place, recording_id: str) -> None:
        """One that is kept."""
        self.player.silence()
        self.kept.take(side, recording_id)

    def throw_away(self, side: Place) -> None:
        """An unkept one, to the system's rubbish."""
        if self.kept.throw_away(side):
            self.clear(side)

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
            self.refused.emit(refuses("listen to"))
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
            self.refused.emit(refuses("advise"))
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

    def slate_ends(self, side: Place) -> None:
        """Where it plays now what was said before it ends; that is not measured any more."""
        taken, at_s = self.slots.at(side), self.player.at_s()
        if taken is None or self.player.plays != side or at_s is None:
            self.refused.emit(f"play {side} and press where the slate ends")
            return
        if self.kept.is_kept(side):
            self.refused.emit(f"{side} is kept as it is: forget it first, and keep it anew")
            return
        self.player.silence()
        until = taken.slate_s + at_s
        self.slots.put(side, lambda _: with_slate(taken, until))

    def swap(self, one: Place = "A", other: Place = "B") -> None:
        """Two change places."""
        self.player.silence()
        self.slots.swap(one, other)

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
        self.blind.forget()
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

    def unfair(self) -> Sequence[str]:
        """Why both should not be held against each other, or nobody can say so."""
        a, b = self.slots.at("A"), self.slots.at("B")
        if a is None or b is None:
            return ()
        if a.simulated and b.simulated and a.by_air == b.by_air:
            return ()
        kept = [t.kept if self.kept.is_kept(s) else None for s, t in (("A", a), ("B", b))]  # type: ignore[arg-type]
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


def _compared(first: Taken, others: dict[Place, Taken]) -> dict[Place, Comparison]:
    all_made = {p: Comparison(first.measures, t.measures) for p, t in others.items()}
    for made in all_made.values():
        # what the page shows is computed here, and not while it is painted
        _ = made.aligned, made.changes, made.words, made.spectrum_db
    return all_made
