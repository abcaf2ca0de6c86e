"""What the Prove space's views share: the build on the bench, its readings, what explains them."""

from __future__ import annotations

import math
import random
from datetime import date

from PySide6.QtCore import Signal

from tonleiter.app.document import Document, EditRefusedError
from tonleiter.app.drafts import Drafts
from tonleiter.app.editing import Watched
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.spaces.prove.instruments import Instruments
from tonleiter.core.bench.measure import Reading
from tonleiter.core.bench.meter import Shown, Supply, fed
from tonleiter.core.bench.scope import Flattens, Traces, flattens_at, traces
from tonleiter.core.circuit.elements import CircuitError, Element
from tonleiter.core.judge.wired import Wired, wired
from tonleiter.core.prove.faults import Fault
from tonleiter.core.prove.path import DO, PATH, PathStep, looks_of
from tonleiter.core.prove.prove import PP_OF_RMS, Proof, ReadingError, read_value
from tonleiter.core.prove.rank import Ranking
from tonleiter.core.station import wirings
from tonleiter.core.station.model import Station
from tonleiter.core.station.proved import Proved, StepId
from tonleiter.core.units.quantity import AMPERE, OHM, VOLT, format_quantity

MOST_SUPPLY_V, MOST_LIMIT_A = 60.0, 5.0
_UNITS = {"Ω": OHM, "V": VOLT, "A": AMPERE}


class ProveModel(Watched):
    """The bench is set up behind the window; readings are kept in the station."""

    changed = Signal()
    ranked = Signal()
    scoped = Signal()

    def __init__(self, document: Document, jobs: Jobs) -> None:
        super().__init__(document)
        self.found: Wired | None = None
        self.proof: Proof | None = None
        self.ready = False
        self.trouble = ""
        self.at = -1
        self.step: StepId = "ring"
        self.hidden: Fault | None = None
        self.told = False
        self.ranking: Ranking | None = None
        self._solved_of: object = self  # nothing yet
        self.level_db = 0
        self.tools = Instruments()
        self.scope: Traces | None = None
        self.scope_trouble = ""
        self._scopes = jobs.desk(Wait.PAGE)
        self._scopes.done.connect(self._take_scope)
        self._scopes.failed.connect(self._no_scope)
        self._flats = jobs.desk(Wait.PAGE)
        self._flats.done.connect(self._take_flat)
        self._flats.failed.connect(self.refused)
        self._pairs = jobs.desk(Wait.PAGE)
        self._pairs.done.connect(self._take_pairs)
        self._sets = jobs.desk(Wait.PAGE)
        self._sets.done.connect(self._take)
        self._sets.failed.connect(self.refused)

    # --- the bench -------------------------------------------------------------------------------

    def rest(self) -> None:
        """Stop what runs behind the window."""
        for desk in (self._sets, self._scopes, self._pairs, self._flats):
            desk.stop()

    # --- the scope -------------------------------------------------------------------------------

    def _look_at_scope(self) -> None:
        """Solve the tone in time, behind the window."""
        proof = self.proof
        if proof is None or not self.ready or self.step != "tone":
            return
        elements, tone = self._on_bench(), self.tone_v
        self._scopes.start(lambda _: (proof, traces(proof.unit, elements, tone)))

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

    def _take_scope(self, made: object) -> None:
        assert isinstance(made, tuple)
        if made[0] is self.proof:
            self.scope, self.scope_trouble = made[1], ""
            self.scoped.emit()

    def _no_scope(self, why: str) -> None:
        self.scope, self.scope_trouble = None, why
        self.scoped.emit()

    def scope_now(self) -> None:
        """At once, for tests and pictures."""
        if self.proof is not None and self.ready:
            self._scopes.stop()
            made = traces(self.proof.unit, self._on_bench(), self.tone_v)
            self._take_scope((self.proof, made))

    def turn(self, by_db: int) -> None:
        """The generator's level, up or down."""
        self.level_db = min(max(self.level_db + by_db, -40), 60)
        self._look_at_scope()
        self.scoped.emit()

    def find_flat(self) -> None:
        """Turn the generator up until the output flattens, behind the window."""
        proof = self.proof
        if proof is None or not self.ready:
            return
        elements = self._on_bench()
        self.tools.flattens_said = "the generator is being turned up…"
        self._flats.start(lambda _: (proof, flattens_at(proof.unit, elements)))
        self.scoped.emit()

    def flat_now(self) -> None:
        """At once, for tests and pictures."""
        if self.proof is not None and self.ready:
            self._flats.stop()
            self._take_flat((self.proof, flattens_at(self.proof.unit, self._on_bench())))

    def _take_flat(self, made: object) -> None:
        assert isinstance(made, tuple)
        if made[0] is self.proof:
            self.tools.flattens_said = _flattens(made[1])
            self.scoped.emit()

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

    def _follow(self) -> None:
        if not self.seen:
            return
        key = self._key(self.station)
        if key != self._solved_of:
            self._solved_of = key
            self._set_up()
        elif self.ready:
            self._rank()
        self.changed.emit()

    def _key(self, station: Station) -> object:
        """What the bench depends on: everything but what was read."""
        if not station.chains:
            return None
        bare = tuple(
            c.model_copy(update={"variants": tuple(v.model_copy(update={"proved": ()})
                                                   for v in c.variants)})
            for c in station.chains
        )  # fmt: skip
        return (station.gear, station.devices, station.links, bare, station.open_chain,
                station.operators, self.at)  # fmt: skip

    def _set_up(self) -> None:
        self.found, self.proof, self.ready, self.trouble = None, None, False, ""
        self.ranking, self.hidden, self.told, self.scope = None, None, False, None
        self._sets.stop()
        self._flats.stop()
        if not self.station.chains:
            self.trouble = "There is nothing to prove yet: make a chain on the Ladder (3) first."
            return
        try:
            self.found = wired(self.station)
        except CircuitError as error:
            self.trouble = f"This chain cannot be computed: {error}."
            return
        spans = self.found.build.spans
        if not spans:
            self.trouble = "Nothing of this chain is wired."
            return
        if not -1 <= self.at < len(spans):
            self.at = -1
        proof = self.proof = Proof(self.found, self.place)
        self.tools.forget(proof.unit)

        def job(_: object) -> object:
            # everything that takes its time is made there
            return proof, proof.predicted

        self._sets.start(job)

    def _take(self, made: object) -> None:
        assert isinstance(made, tuple)
        if made[0] is self.proof:
            self.ready = True
            self._rank()
            self._look_at_scope()
            self.changed.emit()

    def set_up_now(self) -> None:
        """At once, for tests and pictures."""
        if self.proof is not None and not self.ready:
            self._sets.stop()
            self._take((self.proof, self.proof.predicted))

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
        self.scope = None
        self.tools.for_step(step)
        self._look_at_scope()
        self.changed.emit()

    def path_step(self) -> PathStep:
        """The step that is shown."""
        return next(s for s in PATH if s.id == self.step)

    # --- readings --------------------------------------------------------------------------------

    def proved(self) -> Proved | None:
        """What was kept of this part."""
        if self.found is None:
            return None
        compiled = self.found.assessment.solution.compiled
        variant = self.station.chain(compiled.chain.id).variant(compiled.variant.id)
        return next((p for p in variant.proved if p.part == self.place), None)

    def older(self) -> bool:
        """Whether the build was changed since its readings."""
        proved, proof = self.proved(), self.proof
        if proved is None or proof is None or not proved.readings:
            return False
        return bool(proved.build) and proved.build != proof.fingerprint

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

    def checks(self, step: StepId) -> tuple[str, ...]:
        """What is ticked in a step."""
        if step == "look" and self.found is not None and self.proof is not None:
            return looks_of(self.found, self.place)
        return DO.get(step, ())

    def done(self, step: StepId) -> tuple[int, int]:
        """How many of a step's readings or checks are done, of how many."""
        checks = self.checks(step)
        if checks:
            seen = set(self.proved().seen if self.proved() else ())  # type: ignore[union-attr]
            return sum(f"{step}: {c}" in seen for c in checks), len(checks)
        wanted = self.of_step(step)
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
        return frozenset(i for i, value in read if not proof.as_predicted(i, value))

    # --- edits -----------------------------------------------------------------------------------

    def _note(self, label: str, **changes: object) -> None:
        if self.found is None or self.proof is None:
            raise EditRefusedError("there is no build on the bench")
        compiled = self.found.assessment.solution.compiled
        was = self.proved()
        fields = {n: getattr(was, n) for n in Proved.model_fields} if was else {"part": self.place}
        now = {"day": date.today().isoformat(), "build": self.proof.fingerprint}
        fields |= now | changes
        made = Proved.model_validate(fields)
        ids = compiled.chain.id, compiled.variant.id
        self.edit(label, lambda s: wirings.note_proved(s, *ids, made))

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

    def tick(self, step: StepId, check: str, on: bool) -> None:
        """Something was looked at."""
        proved = self.proved()
        seen = [s for s in (proved.seen if proved else ()) if s != f"{step}: {check}"]
        if on:
            seen.append(f"{step}: {check}")
        self._note(check, seen=tuple(seen))

    def leave_out(self, step: StepId, on: bool) -> None:
        """A step is skipped, and that is said on the record."""
        proved = self.proved()
        left = [s for s in (proved.left_out if proved else ()) if s != step]
        self._note(f"{step} left out", left_out=tuple([*left, step] if on else left))

    def read_again(self) -> None:
        """It was mended: every reading is taken anew."""
        self.hidden, self.told = None, False
        self.tools.flattens_said = ""
        self._look_at_scope()
        self._note("read again", readings={})

    # --- the simulated bench ---------------------------------------------------------------------

    def hide(self, fault: Fault | None = None, seed: int | None = None) -> None:
        """Put a fault on the simulated bench; which one is not said."""
        if self.proof is None:
            return
        usual = [f for f in self.proof.faults if f.kind not in ("mirrored",)]
        self.hidden = fault or random.Random(seed).choice(usual)
        self.told = False
        self.tools.flattens_said = ""
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
        if self.proof is None or not self.ready:
            return
        proof, readings = self.proof, self.readings()
        self.ranking = proof.bench.rank(readings)
        self._pairs.stop()
        if self.ranking.suspicious:
            # what no single fault explains, two may: that takes a moment
            self._pairs.start(lambda _: (proof, readings, proof.rank(readings)))
        self.ranked.emit()

    def _take_pairs(self, made: object) -> None:
        assert isinstance(made, tuple)
        if made[0] is self.proof and made[1] == self.readings():
            self.ranking = made[2]
            self.ranked.emit()
            self.changed.emit()

    def pairs_now(self) -> None:
        """At once, for tests and pictures."""
        if self.proof is not None and self.ready:
            self._pairs.stop()
            readings = self.readings()
            self._take_pairs((self.proof, readings, self.proof.rank(readings)))


def _flattens(found: Flattens | None) -> str:
    if found is None:
        return ("Does not flatten here: parts that are solved over their curves are not driven so"
                " far, and where the others end is on the Ladder (3).")  # fmt: skip
    if found.out_v == 0:
        return "Nothing comes out, so nothing flattens."
    return (f"Flattens from {as_read(found.in_v, 'V')} in, {as_read(found.out_v, 'V')} out (RMS),"
            f" {as_read(PP_OF_RMS * found.out_v, 'V')} peak to peak.")  # fmt: skip


def as_read(value: float, unit: str) -> str:
    """A value as a meter of four digits shows it."""
    if math.isinf(value):
        return "open"
    if abs(value) < 1e-6 and unit != "Ω":
        value = 0.0
    if unit == "Ω" and value < 0.05:
        value = 0.0
    return format_quantity(value, _UNITS[unit], 4).replace("\u202f", " ")
