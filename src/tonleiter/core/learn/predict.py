"""What each draw of a chain's figures would read: the solved circuit, all draws together."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np

from tonleiter.core.gear.figure import Figure
from tonleiter.core.gear.signals import SPEECH
from tonleiter.core.gear.sockets import MicrophoneSocket, Socket
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.learn.prior import Parameter, could_be, parameters
from tonleiter.core.learn.reading import Reading, ReadingError
from tonleiter.core.signal.arrays import Floats
from tonleiter.core.solve.draws import Drawn
from tonleiter.core.solve.spread import levels_over
from tonleiter.core.units.levels import volts_from_dbu
from tonleiter.core.words import the

# a draw that no piece could be is drawn halfway to what is written, so often
MOST_HALVINGS = 12
# decibels over a volt of 0 dBu
DBU_0 = 20 * np.log10(volts_from_dbu(0.0))


Values = dict[tuple[int, str], Floats]


class Bench(Protocol):
    """A part of a build on the bench."""

    def reads(self, z: Floats, token: str) -> Floats:
        """What draws of shape (draws, parameters) read there, shape (draws,)."""
        ...

    def says(self, token: str, value: float) -> str:
        """A value of that scale as the meter shows it."""
        ...


@dataclass(frozen=True, eq=False)
class Model:
    """A chain and what of it is uncertain. Arrays of draws have shape (draws, ...).

    ``benches`` are the parts of its build that something was read of, by their number.
    """

    assessment: Assessment
    parameters: tuple[Parameter, ...]
    benches: Mapping[int, Bench] = field(default_factory=dict)

    @staticmethod
    def of(assessment: Assessment) -> Model:
        """Of a chain as it stands."""
        return Model(assessment, parameters(assessment.solution.compiled.stages))

    @property
    def socket(self) -> Socket | None:
        """The radio's socket at its end."""
        last = self.assessment.solution.compiled.stages[-1].gear
        return last if isinstance(last, Socket) else None

    def valid(self, z: Floats) -> Floats:
        """Draws that pieces of their kinds could be: others go towards what is written."""
        z = z.copy()
        by_stage: dict[int, list[int]] = {}
        for j, p in enumerate(self.parameters):
            by_stage.setdefault(p.stage, []).append(j)
        stages = self.assessment.solution.compiled.stages
        for k, columns in by_stage.items():
            gear = stages[k].gear
            if not type(gear).has_rules():
                continue
            for d in range(z.shape[0]):
                for _ in range(MOST_HALVINGS):
                    told = {
                        self.parameters[j].field: float(self.parameters[j].values(z[d, j]))
                        for j in columns
                    }
                    if could_be(gear, told):
                        break
                    z[d, columns] *= 0.5
                else:
                    z[d, columns] = 0.0
        return z

    def values(self, z: Floats) -> Values:
        """What draws stand for, by stage and field; each of shape (draws,)."""
        return {(p.stage, p.field): p.values(z[:, j]) for j, p in enumerate(self.parameters)}

    def reads(self, z: Floats, readings: Sequence[Reading]) -> Floats:
        """What each draw reads, shape (draws, readings); solved only where that is wanted."""
        if any(r.kind not in ("open", "proved") for r in readings):
            return self.drawn(z).reads(readings)
        told = np.empty((z.shape[0], len(readings)))
        for k, r in enumerate(readings):
            told[:, k] = (
                self.benches[r.part].reads(z, r.token)
                if r.kind == "proved"
                else of_socket(self, self.values(z), "bias_v", z.shape[0])
            )
        return told

    def drawn(self, z: Floats) -> Drawing:
        """Solve every draw, shape (draws, parameters). Raises ReadingError where nothing sounds."""
        if not all(math.isfinite(row.speech_dbu) for row in self.assessment.rows):
            raise ReadingError("nothing sounds in this chain: mend what stops it first (Ladder)")
        values = self.values(z)
        by_stage: dict[int, Drawn] = {}
        for p in self.parameters:
            by_stage.setdefault(p.stage, []).append(
                (p.field, p.quantity, values[(p.stage, p.field)])
            )
        speech, noise, dc_v = levels_over(
            self.assessment.solution, self.assessment.rows, by_stage, z.shape[0]
        )
        return Drawing(self, z, values, speech, noise, dc_v)


@dataclass(frozen=True, eq=False)
class Drawing:
    """Levels in dBu and volts DC at each joint, shape (draws, joints)."""

    model: Model
    z: Floats
    values: Values
    speech_dbu: Floats
    noise_dbu: Floats
    dc_v: Floats

    def reads(self, readings: Sequence[Reading]) -> Floats:
        """What each draw reads, shape (draws, readings). Raises ReadingError."""
        if not readings:
            return np.zeros((self.speech_dbu.shape[0], 0))
        return np.stack([self._reads(r) for r in readings], axis=1)

    def _reads(self, reading: Reading) -> Floats:
        if reading.kind == "open":
            return self._of_socket("bias_v")
        if reading.kind == "knob":
            return self.knob()
        if reading.kind == "proved":
            return self.model.benches[reading.part].reads(self.z, reading.token)
        if reading.kind == "noise":
            return self.over_noise_db()
        joint = self._joint(reading.stage)
        if reading.kind == "volts":
            return np.asarray(self.dc_v[:, joint])
        if reading.kind == "gain":
            return np.asarray(self.speech_dbu[:, joint] - self.speech_dbu[:, 0])
        return np.asarray(self.speech_dbu[:, joint] + DBU_0)

    def _joint(self, stage: str | None) -> int:
        """Of a stage's input: the joint before it."""
        stages = self.model.assessment.solution.compiled.stages
        k = next((k for k, s in enumerate(stages) if s.id == stage), None)
        if k is None or k == 0:
            raise ReadingError(f"{stage}: nothing is read at the input of that")
        return k - 1

    def headroom_db(self) -> Floats:
        """The least that any joint keeps under its ceiling in each draw, shape (draws,).

        As the chain is judged, moved by what each draw differs in. Raises ReadingError.
        """
        rows = self.model.assessment.rows
        left = [
            row.headroom_db - (self.speech_dbu[:, k] - row.speech_dbu)
            for k, row in enumerate(rows)
            if row.headroom_db is not None
        ]
        if not left:
            raise ReadingError("nothing of this chain is known to clip")
        clip = values_of(self.model, self.values, "clip_dbu")
        if clip is not None and rows[-1].headroom_db is not None:
            written = self.model.assessment.solution.compiled.stages[-1].gear.figure("clip_dbu")
            left[-1] = left[-1] + clip - written.value
        return np.asarray(np.min(np.stack(left), axis=0))

    def over_noise_db(self) -> Floats:
        """Speech over noise at the end, shape (draws,)."""
        return np.asarray(self.speech_dbu[:, -1] - self.noise_dbu[:, -1])

    def _of_socket(self, field: str) -> Floats:
        return of_socket(self.model, self.values, field, self.speech_dbu.shape[0])

    def knob(self) -> Floats:
        """Where the gain control will stand, in its marks. Raises ReadingError."""
        socket = self.model.socket
        if not isinstance(socket, MicrophoneSocket):
            raise ReadingError("this radio has no gain control of its own there")
        row = self.model.assessment.rows[-1]
        written = row.knob or socket.knob(row.speech_dbu, SPEECH)
        # what the written figures say, moved by what each draw differs in
        louder = self.speech_dbu[:, -1] - row.speech_dbu
        wants = self._of_socket("wants_dbu") - socket.wants_dbu.value
        over_db = self._of_socket("gain_range_db")
        middle = (written.turn - 0.5) * socket.gain_range_db.value
        turn = 0.5 + (middle + wants - louder) / over_db
        return np.asarray(turn * socket.marked_to.value)

    def level_dbu(self) -> Floats:
        """Speech at the end, shape (draws,)."""
        return np.asarray(self.speech_dbu[:, -1])


def values_of(model: Model, values: Values, field: str) -> Floats | None:
    """Draws of a figure of the last piece; None where it is known, or there is none."""
    return values.get((len(model.assessment.solution.compiled.stages) - 1, field))


def of_socket(model: Model, values: Values, field: str, draws: int) -> Floats:
    """A figure of the last piece in each draw, shape (draws,). Raises ReadingError."""
    stages = model.assessment.solution.compiled.stages
    made = values_of(model, values, field)
    if made is not None:
        return made
    figure = getattr(stages[-1].gear, field, None)
    if not isinstance(figure, Figure):
        raise ReadingError(f"{the(stages[-1].gear.name)} has nothing of the kind")
    return np.full(draws, figure.value)
