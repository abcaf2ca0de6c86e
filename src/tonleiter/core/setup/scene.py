"""Everything that is seen of a radio being set: panel, meters, guide, headline, findings, costs."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tonleiter.core.judge.findings.codes import declare
from tonleiter.core.judge.findings.model import TURN, Finding, Fix
from tonleiter.core.radio.fm import FM_HZ
from tonleiter.core.radio.measures import understood
from tonleiter.core.radio.receivers import (
    Path,
    Spectrum,
    demodulated,
    discriminated,
    heard,
    spectrum,
    travelled,
)
from tonleiter.core.radio.ssb import AUDIO_HZ, OUT_HZ
from tonleiter.core.setup import am, data, fm, ssb
from tonleiter.core.setup.onair import OnAir
from tonleiter.core.setup.panel import Control, Meter
from tonleiter.core.setup.schools import ALC, COMPRESSION_WORDS
from tonleiter.core.setup.step import Step
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station import edits
from tonleiter.core.station.model import Station
from tonleiter.core.station.settings import AlcSchool, CompressionSchool, KnobId, PanelState

Result = ssb.SsbResult | fm.FmResult | am.AmResult
KNOB_OFF = declare("knob-off-its-aim")
KNOB_END = declare("knob-at-its-end")
SPLATTERS = declare("neighbours-hear-it")
ROOM_UP = declare("room-between-words")
TWICE = declare("compressed-twice")
ONCE = declare("one-compressor")
FIRST_STAGE = declare("first-stage-overloads")
CUT_OFF = declare("carrier-cut-off")
TOO_WIDE = declare("deviates-too-far")
SET_RIGHT = declare("set-right")
# splatter that a neighbour hears, gaps that listeners hear, against the signal itself
SPLATTER_DB, GAPS_DB = -30.0, 24.0
# the way to a far receiver; on FM the noise against the carrier
FAR, FAR_FM_DB = Path(noise_db=-27.0, fades_db=8.0, neighbour_db=-30.0), -14.0
LEAST_COST_DB = 0.2
# schools are compared on so much of the voice
COST_S = 5.0


@dataclass(frozen=True, eq=False)
class Scene:
    """A radio with its panel as it stands, its meters for a voice, and the guide."""

    case: OnAir
    panel: PanelState
    result: Result
    controls: tuple[Control, ...]
    meters: tuple[Meter, ...]
    steps: tuple[Step, ...]

    @property
    def now(self) -> Step | None:
        """The step that is on."""
        return next((s for s in self.steps if s.state == "now"), None)

    def control(self, name: KnobId) -> Control | None:
        """A control by its id."""
        return next((c for c in self.controls if c.id == name), None)

    def meter(self, name: str) -> Meter | None:
        """A meter by its id."""
        return next((m for m in self.meters if m.id == name), None)


def scene_of(case: OnAir, panel: PanelState, own: Mapping[str, float] | None = None) -> Scene:
    """Send the voice, read the meters, and say what is next.

    ``own`` has readings of the user's own radio by meter, in that meter's unit.
    """
    kind = _KINDS[case.mode]
    result = kind.send(case, panel)
    found = list(kind.steps(case, panel, result, own))
    undone = [k for k, s in enumerate(found) if s.move is not None]
    # what is set elsewhere does not keep the panel waiting
    turned = [k for k in undone if found[k].control is not None]
    at = next(iter(turned or undone), len(found))
    made = tuple(
        replace(s, state="now" if k == at else "open" if not s.done and k < at
                else "done" if s.done and k < at else "later")
        for k, s in enumerate(found)
    )  # fmt: skip
    return Scene(case, panel, result, kind.controls(case, panel, result),
                 kind.meters(case, panel, result), made)  # fmt: skip


_KINDS: dict[str, Any] = {"ssb": ssb, "fm": fm, "packet": fm, "am": am, "data": data}


# --- what it is like -----------------------------------------------------------------------------


def signal(scene: Scene) -> Spectrum:
    """What leaves the aerial socket."""
    if isinstance(scene.result, fm.FmResult):
        return spectrum(scene.result.sent.z, FM_HZ, 2048)
    return spectrum(scene.result.sent.z, OUT_HZ, 1024)


def received(scene: Scene, far: bool = False) -> Sound:
    """What a receiver beside the dummy load hears, or a far one; peaks near one."""
    result = scene.result
    if isinstance(result, fm.FmResult):
        noise_db = FAR_FM_DB if far else -40.0
        made = discriminated(result.sent.z, result.system_hz, noise_db=noise_db)
    elif isinstance(result, am.AmResult):
        z = travelled(result.sent.z, FAR, (-4500.0, 4500.0)) if far else result.sent.z
        made = demodulated(z)
    else:
        made = heard(result.sent.z, FAR if far else None)
    peak = float(np.quantile(np.abs(made.samples), 0.9995))
    highest = float(np.abs(made.samples).max(initial=0.0))
    return made.times(min(0.7 / max(peak, 1e-6), 1 / max(highest, 1e-6)))


def headline(scene: Scene) -> tuple[str, str]:
    """One sentence for what listeners get, and one of figures."""
    wrong = [c for c in scene.controls if not c.fits()]
    left = ("every knob is where it should be" if not wrong else
            f"{len(wrong)} knob is not where it should be yet" if len(wrong) == 1 else
            f"{len(wrong)} knobs are not where they should be yet")  # fmt: skip
    result = scene.result
    if isinstance(result, ssb.SsbResult):
        return _ssb_headline(scene, result, left)
    if isinstance(result, fm.FmResult):
        peak, system = result.peak_hz / 1000, result.system_hz / 1000
        if result.peak_hz > result.system_hz:
            return (f"Too wide: peaks deviate by {peak:.1f} kHz in a {system:g} kHz system.", left)
        low, _ = fm.zone_hz(scene.case, scene.panel)
        quiet = result.peak_hz < low
        if quiet:
            return (f"Too quiet: peaks deviate by {peak:.1f} of {system:g} kHz.", left)
        return (f"The listeners get a full signal, {peak:.1f} kHz of deviation.", left)
    if result.down > 1.0:
        return (f"The carrier is cut off: negative peaks want −{100 * result.down:.0f} %.", left)
    if result.down < am.AIM[0]:
        return (f"Too quiet: negative peaks reach −{100 * result.down:.0f} %.", left)
    return (f"The listeners get a full signal, −{100 * result.down:.0f} % at peaks.", left)


def _ssb_headline(scene: Scene, result: ssb.SsbResult, left: str) -> tuple[str, str]:
    told, wide = result.judged, result.judged.width_hz / 1000
    alc = scene.meter("alc")
    assert alc is not None
    if told.overloaded:
        return ("The first stage of the set overloads: no knob of the radio helps.", left)
    if alc.danger_from is not None and alc.value >= alc.danger_from:
        word = "bends the tones" if scene.case.mode == "data" else "is pinned: it distorts"
        return (f"The level control {word}.", left)
    splatter = max(told.below_db, told.above_db)
    if splatter > SPLATTER_DB:
        return (f"The neighbours hear it: {-splatter:.0f} dB under the signal beside it.", left)
    if alc.aim is not None and alc.value < alc.aim[0] - 1e-6 and scene.case.mode == "ssb":
        return (f"The listeners get a quiet signal: {alc.says}.", left)
    return (f"The listeners get a clean signal, {wide:.1f} kHz wide.", left)


# --- findings ------------------------------------------------------------------------------------


def findings_of(scene: Scene) -> tuple[Finding, ...]:
    """What is to be minded, each with the move that mends it."""
    found = [*_stops(scene), *_minds(scene), *_fine(scene)]
    order = {"stop": 0, "mind": 1, "fine": 2}
    return tuple(sorted(found, key=lambda f: order[f.severity]))


def _stops(scene: Scene) -> list[Finding]:
    result, case = scene.result, scene.case
    found = []
    if isinstance(result, ssb.SsbResult) and result.judged.overloaded:
        found.append(_finding(FIRST_STAGE, "stop", "first stage",
                              "The first stage overloads before any knob",
                              "it lies before the gain control: less must come in",
                              {}))  # fmt: skip
    if isinstance(result, am.AmResult) and result.down > 1.0:
        found.append(_finding(CUT_OFF, "stop", "modulation", "Negative peaks cut the carrier off",
                              f"−{100 * result.down:.0f} % wanted: that splatters",
                              {"down_percent": 100 * result.down}, _fix_now(scene)))  # fmt: skip
    if isinstance(result, fm.FmResult) and result.peak_hz > 1.02 * result.system_hz:
        proof = f"{result.peak_hz / 1000:.1f} kHz of {result.system_hz / 1000:g}"
        found.append(_finding(TOO_WIDE, "stop", "deviation", "It deviates into the neighbours",
                              proof, {"peak_hz": result.peak_hz}, _fix_now(scene)))  # fmt: skip
    if case.mode == "data" and isinstance(result, ssb.SsbResult) and result.alc_db > 0.3:
        found.append(_finding(KNOB_OFF, "stop", "level",
                              "The level control bends what a modem made",
                              f"it takes {result.alc_db:.1f} dB; none is right",
                              {"alc_db": result.alc_db}, _fix_now(scene)))  # fmt: skip
    return found


def _minds(scene: Scene) -> list[Finding]:
    result, case, panel = scene.result, scene.case, scene.panel
    found = []
    now = scene.now
    if now is not None and now.move is not None and now.move.at_end:
        found.append(_finding(KNOB_END, "mind", now.title.lower(), now.move.says, now.move.why, {}))
    elif now is not None and now.move is not None and now.move.knobs:
        found.append(_finding(KNOB_OFF, "mind", now.title.lower(), _off_says(scene, now),
                              now.move.why, {}, _fix_now(scene)))  # fmt: skip
    if not isinstance(result, ssb.SsbResult) or case.mode != "ssb":
        return found
    told = result.judged
    splatter = max(told.below_db, told.above_db)
    if splatter > SPLATTER_DB:
        found.append(_finding(SPLATTERS, "mind", "neighbours",
                              f"A neighbour hears you {-splatter:.0f} dB under the signal itself",
                              "the level control lets syllables through to the power stage",
                              {"below_db": told.below_db, "above_db": told.above_db}))  # fmt: skip
    if told.gaps_db < GAPS_DB:
        up = told.compression_db
        why = f"compression lifts it {up:.0f} dB; " if up > 1 else ""
        found.append(_finding(ROOM_UP, "mind", "room",
                              "Between words the room comes up to"
                              f" {told.gaps_db:.0f} dB under speech",
                              f"{why}halving the distance gains up to 6 dB",
                              {"gaps_db": told.gaps_db},
                              _fixes_for_room(scene)))  # fmt: skip
    if _compresses_before(case) and told.compression_db > 1:
        off = _turned(case, panel, {"compression": 0.0})
        found.append(_finding(TWICE, "mind", "compressors", "Two compressors work in a row",
                              "one before the radio, one in it: the usual cause of ugly signals",
                              {"compression_db": told.compression_db},
                              (Fix("Turn the radio's own off", off, "the one outside stays",
                                   TURN),)))  # fmt: skip
    return found


def _off_says(scene: Scene, now: Step) -> str:
    """What is wrong with the knob that the guide is at, as listeners or meters have it."""
    result, meter = scene.result, scene.meter(now.meter or "")
    if isinstance(result, ssb.SsbResult) and now.meter == "alc" and meter and meter.aim:
        reads = ssb.alc_reading(result)
        if reads < meter.aim[0]:
            return f"The ALC hardly moves: {meter.aim[0] - reads:.0f} dB are left lying"
        if meter.danger_from is not None and reads >= meter.danger_from:
            return "The level control is pinned: that distorts"
        return f"The ALC works {reads - meter.aim[1]:.0f} dB harder than the aim"
    return {
        "compression": "Compression is not where the school has it",
        "tone": "The tone does not suit this voice yet",
        "edges": "The band's edges are those of the other sound",
    }.get(now.id, f"{now.title} is not where it should be")


def _fine(scene: Scene) -> list[Finding]:
    result, case = scene.result, scene.case
    found = []
    if scene.now is None:
        found.append(_finding(SET_RIGHT, "fine", "panel", "Everything is where it should be",
                              "keep it as a card", {}))  # fmt: skip
    if isinstance(result, ssb.SsbResult) and case.mode == "ssb" and not _compresses_before(case):
        proof = ("nothing before it does" if result.judged.compression_db > 1
                 else "and it is off or at rest")  # fmt: skip
        found.append(_finding(ONCE, "fine", "one compressor", "Only the radio compresses", proof,
                              {"compression_db": result.judged.compression_db}))  # fmt: skip
    return found


def _finding(
    code: str, severity: str, place: str, says: str, proof: str, evidence: dict[str, float],
    fixes: tuple[Fix, ...] = (),
) -> Finding:  # fmt: skip
    return Finding(code=code, severity=severity, stage="panel", says=says, proof=proof,  # type: ignore[arg-type]
                   evidence=evidence, fixes=fixes, place=place)  # fmt: skip


def _compresses_before(case: OnAir) -> bool:
    return any(r.gear.compression() is not None for r in case.assessment.rows[:-1])


def _turned(
    case: OnAir, panel: PanelState, knobs: Mapping[KnobId, float]
) -> Callable[[Station], Station]:
    """An edit of a station that turns knobs of the case's chain."""
    chain_id = case.assessment.solution.compiled.chain.id
    made = ssb.with_knobs(panel, knobs)
    return lambda station: edits.change_chain(station, chain_id, panel=made)


def _fix_now(scene: Scene) -> tuple[Fix, ...]:
    now = scene.now
    if now is None or now.move is None or not now.move.knobs:
        return ()
    parts = []
    for name, value in now.move.knobs.items():
        control = scene.control(name)
        parts.append(f"{control.title} to {control.said(value)}" if control else name)
    return (Fix(f"Turn {', '.join(parts)}", _turned(scene.case, scene.panel, now.move.knobs),
                now.move.why, TURN),)  # fmt: skip


def _fixes_for_room(scene: Scene) -> tuple[Fix, ...]:
    chain = scene.case.assessment.solution.compiled.chain
    mm = chain.distance_mm.value
    if mm <= 25:
        return ()
    nearer = max(15, round(mm / 2))

    def closer(station: Station) -> Station:
        return edits.change_chain(station, chain.id, distance_mm=nearer)

    return (Fix(f"See it from {nearer} mm", closer, "speech rises, the room does not", TURN),)


# --- costs of schools ----------------------------------------------------------------------------


@dataclass(frozen=True)
class Cost:
    """A school's result, measured: mean power, splatter, gaps, how well one is understood."""

    mean_w: float
    splatter_db: float
    gaps_db: float
    understood: float

    def against(self, other: Cost) -> str:
        """What it costs and gains against another."""
        power = 10 * float(np.log10(self.mean_w / other.mean_w))
        parts = []
        for value, gained, lost in (
            (power, "gains {} dB of average power", "costs {} dB of average power"),
            (other.splatter_db - self.splatter_db, "spares the neighbours {} dB",
             "costs {} dB of splatter"),
            (self.gaps_db - other.gaps_db, "quiets pauses by {} dB", "lifts pauses by {} dB"),
        ):  # fmt: skip
            if abs(value) >= LEAST_COST_DB:
                parts.append((gained if value > 0 else lost).format(f"{abs(value):.1f}"))
        better = 100 * (self.understood - other.understood)
        if abs(better) >= 1:
            parts.append(f"is understood {abs(better):.0f} % {'better' if better > 0 else 'worse'}")
        return ", ".join(parts) or "makes no difference here"


def settled(case: OnAir, panel: PanelState, most: int = 12) -> Scene:
    """The guide followed to its end, or as far as it goes in so many moves."""
    scene = scene_of(case, panel)
    for _ in range(most):
        now = scene.now
        if now is None or now.move is None or not now.move.knobs:
            break
        scene = scene_of(case, ssb.with_knobs(scene.panel, now.move.knobs))
    return scene


def cost_of(scene: Scene) -> Cost:
    """Of a scene in single sideband. Raises TypeError for another mode."""
    if not isinstance(scene.result, ssb.SsbResult):
        raise TypeError("costs are told of single sideband only")
    told = scene.result.judged
    return Cost(told.mean_w, max(told.below_db, told.above_db), told.gaps_db,
                understood(scene.case.spoken, scene.result.sent.z))  # fmt: skip


def costs_of_schools(case: OnAir, panel: PanelState) -> dict[str, str]:
    """Each school of ALC and compression, set right, against the one that is chosen."""
    n = round(COST_S * AUDIO_HZ)
    spoken = Sound(case.spoken.samples[: round(COST_S * case.spoken.rate_hz)], case.spoken.rate_hz)
    case = replace(case, volts=case.volts[:n], spoken=spoken)
    here = cost_of(settled(case, panel))
    told = {}
    alc: AlcSchool
    for alc in ALC:
        if alc != panel.alc:
            there = cost_of(settled(case, ssb.in_school(panel, alc=alc)))
            told[f"alc:{panel.alc}"] = here.against(there)
            told[f"alc:{alc}"] = there.against(here)
    squeeze: CompressionSchool
    for squeeze in COMPRESSION_WORDS:
        if squeeze != panel.compression:
            there = cost_of(settled(case, ssb.in_school(panel, compression=squeeze)))
            told[f"compression:{squeeze}"] = there.against(here)
            if squeeze == "none":
                told[f"compression:{panel.compression}"] = here.against(there)
    return told
