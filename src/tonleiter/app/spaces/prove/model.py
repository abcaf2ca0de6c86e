"""What the Prove space's views share: the build on the bench, its readings, what explains them."""

from __future__ import annotations

import math
import random
from dataclasses import dataclass
from datetime import date

from PySide6.QtCore import Signal

from tonleiter.app.derived import Derived
from tonleiter.app.document import Document, EditRefusedError
from tonleiter.app.drafts import Drafts
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Task, Wait
from tonleiter.app.spaces.no_chain import no_chain
from tonleiter.app.spaces.prove.benches import proof_on_bench
from tonleiter.app.spaces.prove.instruments import Instruments
from tonleiter.app.spaces.prove.read_off import as_read, flattens
from tonleiter.app.verdicts import Verdicts
from tonleiter.core.bench.meter import Shown, Supply, fed
from tonleiter.core.bench.reading import Reading
from tonleiter.core.bench.scope import Flattens, Traces, flattens_at, traces
from tonleiter.core.circuit.elements import Element
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.judge.verdict import Verdict
from tonleiter.core.prove.fault import Fault
from tonleiter.core.prove.path import DO, PATH, Look, PathStep, looks_of
from tonleiter.core.prove.prove import Proof, ReadingError, read_value
from tonleiter.core.prove.rank import Ranking
from tonleiter.core.safety.cautions import caution
from tonleiter.core.station.basis import Basis, basis_of
from tonleiter.core.station.proved import Proved, StepId
from tonleiter.core.station.records import Records, note_proved

MOST_SUPPLY_V, MOST_LIMIT_A = 60.0, 5.0


@dataclass(frozen=True, eq=False)
class _Bench:
    """What lies on the bench: a part of a build, and what it rests on."""

    basis: Basis
    part: int
    proof: Proof

    @property
    def key(self) -> tuple[object, ...]:
        """What anything measured there rests on."""
        return self.basis, self.part


@dataclass(frozen=True)
class Turned:
    """The generator was turned up: where it flattens; None where it does not."""

    found: Flattens | None


class ProveModel(Watched):
    """The bench is set up behind the window; readings are kept in the records."""

    changed = Signal()
    ranked = Signal()
    scoped = Signal()

    def __init__(self, document: Document, jobs: Jobs, verdicts: Verdicts) -> None:
        super().__init__(document)
        self._verdicts = verdicts
        self.at = -1
        self.step: StepId = "ring"
        self.hidden: Fault | None = None
        self.told = False
        self._unfolded = False
        self.level_db = 0
        self.tools = Instruments()
        self._bench: _Bench | None = None
        self._verdict: Derived[Verdict] = self.derive(jobs, Wait.PAGE, _nothing, False)
        self._simulated: Derived[Proof] = self.derive(jobs, Wait.PAGE, self._set_up, False)
        self._ranking: Derived[Ranking] = self.derive(jobs, Wait.PAGE, self._weighed, False)
        self._scope: Derived[Traces] = self.derive(jobs, Wait.PAGE, self.scoped.emit, False)
        self._flat: Derived[Turned] = self.derive(jobs, Wait.PAGE, self.scoped.emit, False)

    # --- the bench -------------------------------------------------------------------------------

    @property
    def found(self) -> Verdict | None:
        """The verdict on the open chain."""
        return self._verdict.current

    @property
    def proof(self) -> Proof | None:
        """The part that is on the bench."""
        return self._bench.proof if self._bench is not None else None

    @property
    def ready(self) -> bool:
        """Whether every fault was simulated."""
        return self.proof is not None and self._simulated.current is self.proof

    @property
    def ranking(self) -> Ranking | None:
        """What would explain the readings: a fault, or two of them."""
        return self._ranking.current

    @property
    def scope(self) -> Traces | None:
        """The tone at both ends, over time."""
        return self._scope.current

    @property
    def scope_trouble(self) -> str:
        """Why the scope shows nothing."""
        return self._scope.trouble

    @property
    def flattens_said(self) -> str:
        """Where the output flattens, once it was asked for."""
        if self._flat.busy:
            return "the generator is being turned up…"
        return self._flat.trouble or (flattens(self._flat.value.found) if self._flat.value else "")

    @property
    def trouble(self) -> str:
        """Why nothing is on the bench."""
        if not self.station.chains:
            return no_chain("prove")
        if self._verdict.trouble:
            return f"This chain cannot be computed: {self._verdict.trouble}."
        if self.found is not None and not self.found.build.spans:
            return "Nothing of this chain is wired."
        return ""

    def stops(self) -> tuple[Finding, ...]:
        """What must be mended before anything is powered."""
        return self.found.stops("bench") if self.found is not None else ()

    def rests_on(self, basis: Basis) -> bool:
        """Whether what lies on the bench is of this basis."""
        return self._bench is not None and self._bench.basis == basis

    def _follow(self) -> None:
        if not self.seen:
            return
        if not self.station.chains:
            self._clear()
        else:
            basis, station, verdicts = basis_of(self.station), self.station, self._verdicts
            self._verdict.want_now(basis, lambda: verdicts.of(station, basis))
            self._put_on_bench(basis)
        self.changed.emit()

    def _clear(self) -> None:
        self._bench, self.hidden, self.told = None, None, False
        for derived in self._derived:
            derived.nothing()

    def _put_on_bench(self, basis: Basis) -> None:
        """The part that is shown, unless it lies there already."""
        found = self.found
        if found is None or not found.build.spans:
            self._bench = None
            return
        if not -1 <= self.at < len(found.build.spans):
            self.at = -1
        bench = self._bench
        if bench is not None and (bench.basis, bench.part) == (basis, self.place):
            self._rank()
            return
        self._bench = bench = _Bench(
            basis, self.place, proof_on_bench(basis, self.station, found, self.place)
        )
        self.hidden, self.told = None, False
        self.tools.forget(bench.proof.unit)
        self._flat.nothing()
        self._scope.nothing()

        def simulate(_: Task) -> Proof:
            # everything that takes its time is made there
            assert bench.proof.predicted is not None
            return bench.proof

        self._simulated.want((basis, self.place), simulate)

    def _set_up(self) -> None:
        if self.ready:
            self._rank()
            self._look_at_scope()
            self.changed.emit()

    # --- the scope -------------------------------------------------------------------------------

    def _look_at_scope(self) -> None:
        """Solve the tone in time, behind the window."""
        if self._bench is None or not self.ready or self.step != "tone":
            return
        proof, elements, tone = self._bench.proof, self._on_bench(), self.tone_v
        self._scope.want(
            (*self._bench.key, self._hidden_id, tone), lambda _: traces(proof.unit, elements, tone)
        )

    @property
    def _hidden_id(self) -> str:
        return self.hidden.id if self.hidden is not None else ""

    @property
    def tone_v(self) -> float:
        """What the generator gives, RMS."""
        assert self.proof is not None
        return self.proof.unit.tone_v * 10 ** (self.level_db / 20)

    def _on_bench(self) -> tuple[Element, ...]:
        """The build's elements, with the fault that is hidden."""
        assert self.proof is not None
        elements = self.proof.unit.elements
        return self.hidden.change(elements) if self.hidden is not None else elements

    def turn(self, by_db: int) -> None:
        """The generator's level, up or down."""
        self.level_db = min(max(self.level_db + by_db, -40), 60)
        self._look_at_scope()
        self.scoped.emit()

    def find_flat(self) -> None:
        """Turn the generator up until the output flattens, behind the window."""
        if self._bench is None or not self.ready:
            return
        unit, elements = self._bench.proof.unit, self._on_bench()
        self._flat.want(
            (*self._bench.key, self._hidden_id), lambda _: Turned(flattens_at(unit, elements))
        )

    # --- meter and supply ------------------------------------------------------------------------

    def metered(self) -> Shown:
        """What the meter shows, the supply giving what it can."""
        assert self.proof is not None
        elements, supply, tools = self._on_bench(), self.supplied(), self.tools
        if tools.mode == "ac" and self.level_db > 0 and self.scope is not None:
            # so much of a tone may be bent: it is taken from what was solved over time
            return Shown(self.scope.rms_v(*tools.tips(self.proof.unit)), "V")
        if supply is not None:
            elements = fed(self.proof.unit, elements, supply.volts)
        return self.tools.read(self.proof.unit, elements, self.tone_v)

    def supplied(self) -> Supply | None:
        """What the bench supply shows."""
        assert self.proof is not None
        return self.tools.supply(self.proof, self._on_bench())

    def set_tools(self, **said: str) -> None:
        """Another range, or a tip put elsewhere."""
        for name, value in said.items():
            setattr(self.tools, name, value)
        self.scoped.emit()

    def set_supply(self, knob: str, value: float) -> None:
        """The supply's volts or its limit. Raises ReadingError for what none of them gives."""
        most, unit = (MOST_SUPPLY_V, "V") if knob == "supply_v" else (MOST_LIMIT_A, "A")
        if not 0 < value <= most:
            raise ReadingError(f"a bench supply gives more than 0, up to {most:g} {unit}")
        setattr(self.tools, knob, value)
        self.scoped.emit()

    def turn_scope(self, **knobs: object) -> None:
        """The scope's knobs."""
        self.tools.turn_scope(**knobs)
        self.scoped.emit()

    @property
    def place(self) -> int:
        """The number of the part on the bench."""
        count = len(self.found.build.spans) if self.found else 1
        return self.at % max(count, 1)

    def refs(self) -> frozenset[str]:
        """Parts of the build by what they are called on the sheet."""
        return frozenset(self.found.build.refs.values()) if self.found else frozenset()

    @property
    def drafts(self) -> Drafts:
        """What was typed and refused."""
        return self.document.drafts

    def show_part(self, at: int) -> None:
        """Another part of the chain."""
        self.at = at
        self._follow()

    def show_step(self, step: StepId) -> None:
        """Another step of the path."""
        self.step = step
        self.tools.for_step(step)
        self._look_at_scope()
        self.changed.emit()

    def path_step(self) -> PathStep:
        """The step that is shown."""
        return next(s for s in PATH if s.id == self.step)

    # --- readings --------------------------------------------------------------------------------

    def proved(self) -> Proved | None:
        """What was kept of this part."""
        if self._bench is None:
            return None
        basis = self._bench.basis
        return self.records.proved_of(basis.chain, basis.variant, self.place)

    def older(self) -> bool:
        """Whether the build was changed since its readings, or nobody knows of which it was."""
        proved = self.proved()
        if proved is None or self._bench is None or not proved.readings:
            return False
        return proved.basis != self._bench.basis.build

    def still_hold(self) -> None:
        """Say that readings of before hold for the build as it is."""
        self._note("readings still hold")

    def typed(self) -> dict[str, str]:
        """Readings as they were typed."""
        proved = self.proved()
        return dict(proved.readings) if proved is not None else {}

    def readings(self) -> dict[str, float]:
        """Readings as figures; those of another build are not counted."""
        if self.proof is None or self.older():
            return {}
        known = {r.id: r for r in self.proof.readings}
        found = {}
        for name, text in self.typed().items():
            if name in known:
                try:
                    found[name] = read_value(text, known[name].unit, known[name].step)
                except ReadingError:
                    continue
        return found

    def of_step(self, step: StepId) -> tuple[Reading, ...]:
        """Readings of a step."""
        return tuple(r for r in (self.proof.readings if self.proof else ()) if r.step == step)

    def hazards(self, step: StepId) -> tuple[str, ...]:
        """What to beware of where power is on: what stands in the part and at its two ends."""
        found = self.found
        if found is None or not found.build.spans or step in ("look", "ring"):
            return ()
        span = found.build.spans[self.place]
        stages = found.assessment.solution.compiled.stages[span.first : span.last + 1]
        lethal = {h for s in stages for h in self.station.hazards(s.gear)} & {"lethal-volts"}
        return (caution(*lethal),) if lethal else ()

    def shown_of(self, readings: tuple[Reading, ...]) -> tuple[Reading, ...]:
        """Readings without those that one of them stands for, while it does."""
        folded = {i for r in readings if r.of and not self.unfolds(r) for i in r.of}
        return tuple(r for r in readings if r.id not in folded)

    def unfolds(self, reading: Reading) -> bool:
        """Whether what a reading stands for is shown one by one: asked for, or because it beeps."""
        typed = self.readings()
        beeps = math.isfinite(typed.get(reading.id, math.inf))
        return self._unfolded or beeps or any(i in typed for i in reading.of)

    def unfold(self, on: bool) -> None:
        """Show them one by one, or folded together."""
        self._unfolded = on
        self.changed.emit()

    def checks(self, step: StepId) -> tuple[Look, ...]:
        """What is ticked in a step."""
        if step == "look" and self.found is not None and self.proof is not None:
            return looks_of(self.found, self.place)
        return DO.get(step, ())

    def is_seen(self, step: StepId, check: Look) -> bool:
        """Whether something is ticked."""
        proved = self.proved()
        return proved is not None and f"{step}:{check.id}" in proved.seen

    def done(self, step: StepId) -> tuple[int, int]:
        """How many of a step's readings or checks are done, of how many."""
        checks = self.checks(step)
        if checks:
            return sum(self.is_seen(step, c) for c in checks), len(checks)
        wanted = self.shown_of(self.of_step(step))
        typed = self.typed()
        return sum(r.id in typed for r in wanted), len(wanted)

    def disagrees(self, reading: Reading) -> bool:
        """Whether a reading lies outside its brackets."""
        return reading.id in self.disagreeing()

    def disagreeing(self) -> frozenset[str]:
        """Ids of the readings that lie outside their brackets."""
        proof = self.proof
        if proof is None or not self.ready:
            return frozenset()
        read = self.readings().items()
        return proof.off(dict(read))

    # --- edits -----------------------------------------------------------------------------------

    def _note(self, label: str, **changes: object) -> None:
        if self._bench is None:
            raise EditRefusedError("there is no build on the bench")
        basis, was = self._bench.basis, self.proved()
        fields = {n: getattr(was, n) for n in Proved.model_fields} if was else {}
        now = {
            "chain": basis.chain,
            "variant": basis.variant,
            "part": self.place,
            "day": date.today().isoformat(),
            "basis": basis.build,
        }

        def keep(records: Records) -> Records:
            return note_proved(records, Proved.model_validate(fields | now | changes))

        self.note(label, keep)

    def _kept(self) -> dict[str, str]:
        """Readings that go on counting: none of those of another build."""
        return {} if self.older() else self.typed()

    def take(self, reading: Reading, text: str) -> None:
        """A reading as it was typed; nothing takes it away. Raises ReadingError."""
        kept = self._kept()
        if not text.strip():
            kept.pop(reading.id, None)
        else:
            read_value(text, reading.unit, reading.step)
            kept[reading.id] = text.strip()
        self._note(f"reading {reading.id}", readings=kept)

    def tick(self, step: StepId, check: Look, on: bool) -> None:
        """Something was looked at."""
        token, proved = f"{step}:{check.id}", self.proved()
        seen = [s for s in (proved.seen if proved else ()) if s != token]
        self._note(check.says, seen=tuple([*seen, token] if on else seen))

    def leave_out(self, step: StepId, on: bool) -> None:
        """A step is skipped, and that is said on the record."""
        proved = self.proved()
        left = [s for s in (proved.left_out if proved else ()) if s != step]
        self._note(f"{step} left out", left_out=tuple([*left, step] if on else left))

    def read_again(self) -> None:
        """It was mended: every reading is taken anew."""
        self.hidden, self.told = None, False
        self._flat.nothing()
        self._look_at_scope()
        self._note("read again", readings={})

    # --- the simulated bench ---------------------------------------------------------------------

    def hide(self, fault: Fault | None = None, seed: int | None = None) -> None:
        """Put a fault on the simulated bench; which one is not said."""
        if self.proof is None:
            return
        untold = self.proof.bench.untold()
        faults = self.proof.bench.faults[1:]
        usual = [f for f in faults if f.id not in untold and f.kind != "mirrored"]
        self.hidden = fault or random.Random(seed).choice(usual)
        self.told = False
        self._flat.nothing()
        self._look_at_scope()
        self._note("a hidden fault to practise on", readings={})

    def tell(self) -> None:
        """Say which fault was hidden."""
        self.told = True
        self.changed.emit()

    def shown(self, reading: Reading) -> str:
        """What the simulated bench shows, as one reads it off."""
        if self.proof is None:
            return ""
        value = self.proof.shown(self.hidden).get(reading.id)
        return "" if value is None else as_read(value, reading.unit)

    def read_off(self, readings: tuple[Reading, ...]) -> None:
        """Take readings from the simulated bench."""
        if self.proof is None:
            return
        values = self.proof.shown(self.hidden)
        kept = self._kept()
        for reading in readings:
            if reading.id in values:
                kept[reading.id] = as_read(values[reading.id], reading.unit)
        self._note("readings of the bench", readings=kept)

    def _rank(self) -> None:
        if self._bench is None or not self.ready:
            return
        proof, readings = self._bench.proof, self.readings()
        basis = (*self._bench.key, tuple(sorted(readings.items())))
        # units are drawn of what is likely, and pairs tried where no single fault explains it
        self._ranking.want(basis, lambda _: proof.rank(readings))

    def _weighed(self) -> None:
        self.ranked.emit()
        if self._ranking.whole:
            self.changed.emit()


def _nothing() -> None:
    """What else follows a verdict is asked for where it was wanted."""
