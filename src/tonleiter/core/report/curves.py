"""Small curves that explain a stage: gain over frequency, load line, transfer, core, housing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tonleiter.core.circuit.ac import Floats, impedance, linearise, node_response
from tonleiter.core.circuit.devices import JfetDevice
from tonleiter.core.circuit.elements import GROUND, Circuit, VoltageSource
from tonleiter.core.circuit.system import System
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.net import AIR, Capsule, Port, StageNet
from tonleiter.core.gear.signals import SPEECH
from tonleiter.core.gear.transfer import Compression
from tonleiter.core.judge.assess import Assessment
from tonleiter.core.solve.levels import SILENT_DBU, device_current

MOST_CURVES = 2
LOW_HZ, HIGH_HZ = 30.0, 16_000.0
# a gain that varies by less than this over speech needs no picture
FLAT_DB = 0.5


@dataclass(frozen=True)
class Line:
    """A curve: its name, points, and whether it is only there to compare with."""

    name: str
    x: Floats
    y: Floats
    ghost: bool = False


@dataclass(frozen=True)
class Mark:
    """A named point."""

    name: str
    x: float
    y: float


@dataclass(frozen=True)
class Curve:
    """A small plot. ``x`` is in hertz on a logarithmic scale, or in the unit named."""

    title: str
    x_unit: str
    y_unit: str
    lines: tuple[Line, ...]
    marks: tuple[Mark, ...] = ()

    @property
    def over_frequency(self) -> bool:
        """Whether x is a frequency."""
        return self.x_unit == "Hz"


def stage_curves(assessment: Assessment, index: int) -> tuple[Curve, ...]:
    """At most two curves for the stage at ``index``, the most telling first."""
    gear = assessment.rows[index].gear
    found: list[Curve | None] = []
    if index == 0:
        found.append(_load_line(assessment))
    found.append(_housing(gear))
    if (squeeze := gear.compression()) is not None:
        found.append(_transfer(assessment, index, squeeze))
    found.append(_gain(assessment, index))
    if gear.input_ceiling_dbu(LOW_HZ) is not None:
        found.append(_core(assessment, index, gear))
    return tuple(c for c in found if c is not None)[:MOST_CURVES]


def _gain(assessment: Assessment, index: int) -> Curve | None:
    """Gain over frequency from the joint before, or from the air for a microphone."""
    solution = assessment.solution
    if assessment.rows[index].speech_dbu < SILENT_DBU:
        return None
    inside = (solution.f_hz >= LOW_HZ) & (solution.f_hz <= HIGH_HZ)
    f_hz = solution.f_hz[inside]
    own = solution.own_gain(index)[inside]
    if not np.all(np.isfinite(own)) or np.any(own <= 0):
        return None
    gain = 20 * np.log10(own)
    at_1k = float(gain[np.argmin(np.abs(f_hz - 1000.0))])
    speech = (f_hz >= 100) & (f_hz <= 5000)
    if np.ptp(gain[speech]) < FLAT_DB:
        return None
    return Curve("Gain against 1 kHz", "Hz", "dB", (Line("gain", f_hz, gain - at_1k),))


def _load_line(assessment: Assessment) -> Curve | None:
    """Current through the capsule over its volts, and the line that its feed allows."""
    solution = assessment.solution
    stage = solution.compiled.stages[0]
    capsule = next((m for m in stage.marks if isinstance(m, Capsule)), None)
    if capsule is None or capsule.needs.dc != "bias":
        return None
    volts = solution.op.volts(capsule.p, capsule.n)
    amps = device_current(solution, capsule.device)
    system = solution.linear.system
    z_all = float(impedance(solution.linear, np.array([0.0]), capsule.p, capsule.n)[0].real)
    placed = next(
        (p, s)
        for p, s in zip(system.devices, solution.op.states, strict=True)
        if p.name == capsule.device
    )
    own_s = float(placed[1].conductances[0][0])
    rest_s = 1 / z_all - own_s
    if volts < 0.05 or rest_s <= 0:
        return None
    top = volts + amps / rest_s
    x = np.linspace(0.0, top, 60)
    assert isinstance(placed[0].device, JfetDevice)
    fet = placed[0].device
    swing = 0.25 * abs(fet.model.vto_v)
    lines = [Line("feed", x, (top - x) * rest_s * 1e3)]
    for name, gate_v, ghost in (("capsule", 0.0, False), ("", swing, True), ("", -swing, True)):
        current = np.array([fet.channel(gate_v, float(v))[0] for v in x])
        lines.append(Line(name, x, current * 1e3, ghost))
    here = Mark("works here", volts, amps * 1e3)
    return Curve("Load line", "V", "mA", tuple(lines), (here,))


def _transfer(assessment: Assessment, index: int, squeeze: Compression) -> Curve:
    """Output over what it would be without: speech, peaks and pauses on the static curve."""
    row = assessment.rows[index]
    speech_in = row.speech_dbu + row.speech_squeezed_db
    low = min(squeeze.gate_dbu or 0.0, squeeze.threshold_dbu, row.noise_dbu) - 10
    x = np.linspace(
        max(low, -110.0), max(speech_in + SPEECH.crest_db, squeeze.threshold_dbu) + 10, 80
    )
    y = np.array([v - squeeze.reduction_db(v) - squeeze.gated_db(v) for v in x])
    peak_in = row.peak_dbu + row.peaks_squeezed_db
    marks = (Mark("speech", speech_in, row.speech_dbu), Mark("peaks", peak_in, row.peak_dbu))
    lines = (Line("plain", x, x, ghost=True), Line("out", x, y))
    return Curve("Out against in", "dBu", "dBu", lines, marks)


def _core(assessment: Assessment, index: int, gear: Gear) -> Curve:
    """Level that fills the core, halving per octave downwards, against peaks at its input."""
    f_hz = np.geomspace(LOW_HZ, 3000.0, 40)
    full = np.array([gear.input_ceiling_dbu(float(f)) or 0.0 for f in f_hz])
    peaks = assessment.rows[index - 1].peak_dbu
    lines = (Line("core full", f_hz, full), Line("peaks", f_hz, np.full_like(f_hz, peaks), True))
    return Curve("Core against peaks", "Hz", "dBu", lines)


def case_response_db(gear: Gear, f_hz: Floats) -> Floats | None:
    """What the case does to sound on its way in, in dB, shape (frequencies,); None without one."""
    net = StageNet("g", Port(AIR, GROUND), Port("out", "cold"))
    node = gear.case_alone(net)
    if node is None:
        return None
    system = System(Circuit((VoltageSource("voice", AIR, GROUND, ac=1.0), *net.elements)))
    gain: Floats = 20 * np.log10(np.abs(node_response(linearise(system), f_hz)[node]))
    return gain


def _housing(gear: Gear) -> Curve | None:
    """The case as it is, and with a wide opening and a sealed capsule behind it."""
    f_hz = np.geomspace(100.0, 8000.0, 90)
    opened = gear.opened_up()
    now, then = (case_response_db(g, f_hz) if g else None for g in (gear, opened))
    if now is None or then is None:
        return None
    lines = (Line("as it is", f_hz, now), Line("opened and sealed", f_hz, then, ghost=True))
    return Curve("The case", "Hz", "dB", lines)
