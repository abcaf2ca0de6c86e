"""The way of sound to a capsule, as a circuit: pressure for volts, volume velocity for amperes.

Lumped elements after Beranek, Acoustics (1954), chapters 3 and 5: mass of air in a hole
``rho l'/A``, compliance of a cavity ``V/(rho c²)``, resistance of a narrow slit ``12 mu l/(w h³)``.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import ClassVar, Literal

from pydantic import Field

from tonleiter.core.circuit.elements import GROUND, CurrentSource, PowerLaw
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.figure import (
    CubicCentimetres,
    Decibels,
    OpeningMillimetres,
    SmallMillimetres,
    typical,
)
from tonleiter.core.gear.net import AIR, ROOM, Diaphragm, StageNet

RHO_KG_PER_M3 = 1.20
SOUND_M_PER_S = 343.0
VISCOSITY_PA_S = 1.82e-5
# losses of a hole are taken at this frequency, where housings resonate; they grow with its root
LOSS_AT_HZ = 2000.0
TUBE_SECTIONS = 5
# flow resistance of foam a few millimetres thick, and of a windscreen's open foam or mesh
FOAM_RAYL = 400.0
WINDSCREEN_RAYL = 25.0
# the slit round a capsule that nothing seals to its panel, and what is left of it when glued badly
OPEN_SLIT_M, LEAKY_SLIT_M = 0.5e-3, 0.15e-3
SLIT_LONG_M = 3e-3
WALL_M = 2e-3  # of a plastic case
# directional types: share of pressure gradient, and how far they are dulled below this by design
GRADIENT_SHARE = 0.5
BASS_CUT_HZ = 50.0
# a noise-cancelling capsule is trimmed flat for lips this far from its face
CLOSE_TALK_M = 0.010
# across a capsule, not into it
ACROSS_RAD = math.radians(45.0)
ORIGIN_BEHIND_LIPS_M = 0.010
# drills that people have; at the last, speech no longer minds the opening
DRILLS_MM = (2.0, 3.0, 4.0, 6.0)
WIDE_MM = DRILLS_MM[-1]
CARDIOID_ROOM_DB = 4.8  # directivity index of a cardioid: 10 log10 3


def end_corrected_m(length_m: float, radius_m: float) -> float:
    """Acoustic length of a hole flanged at both ends: l + 2 · 8r/(3π) (Rayleigh)."""
    return length_m + 2 * 8 * radius_m / (3 * math.pi)


def hole_mass(length_m: float, radius_m: float) -> float:
    """Acoustic mass of a hole in kg/m⁴."""
    return RHO_KG_PER_M3 * end_corrected_m(length_m, radius_m) / (math.pi * radius_m**2)


def hole_resistance(length_m: float, radius_m: float) -> float:
    """Boundary-layer loss of a hole in Pa·s/m³ at LOSS_AT_HZ, the slow flow's loss if greater."""
    layer = math.sqrt(2 * 2 * math.pi * LOSS_AT_HZ * RHO_KG_PER_M3 * VISCOSITY_PA_S)
    fast = layer * (length_m / radius_m + 1) / (math.pi * radius_m**2)
    slow = 8 * VISCOSITY_PA_S * length_m / (math.pi * radius_m**4)
    return max(fast, slow)


def cavity_compliance(volume_m3: float) -> float:
    """Acoustic compliance of a closed volume in m³/Pa."""
    return volume_m3 / (RHO_KG_PER_M3 * SOUND_M_PER_S**2)


def slit_resistance(height_m: float, width_m: float) -> float:
    """Resistance of a slit in Pa·s/m³."""
    return 12 * VISCOSITY_PA_S * SLIT_LONG_M / (width_m * height_m**3)


def slit_mass(height_m: float, width_m: float) -> float:
    """Acoustic mass of a slit in kg/m⁴ (6/5 of the plug's)."""
    return 1.2 * RHO_KG_PER_M3 * SLIT_LONG_M / (width_m * height_m)


Pattern = Literal["all-round", "directional", "noise-cancelling"]
# where lips belong: nearer than this breath wins, or the bass of a directional capsule; one that
# cancels noise hears only what nearly touches it
LIPS_MM: dict[Pattern, float] = {"all-round": 30.0, "directional": 60.0, "noise-cancelling": 10.0}


class SpokenInto(Gear):
    """A microphone with what sound meets before its diaphragm: pattern and housing.

    Without a housing and with equal hearing all round nothing is added to the circuit.
    """

    housing_fields: ClassVar[tuple[str, ...]] = (
        "opening_mm",
        "opening_long_mm",
        "offset_mm",
        "seal",
        "leak_mm",
        "cavity_cm3",
        "body_cm3",
        "recess_mm",
        "over_it",
        "capsule_mm",
    )

    sections: ClassVar[tuple[str, ...]] = ("About this piece", "Sound's way in")

    pattern: Pattern = Field("all-round", title="Hears")
    rear: Literal["open", "blocked"] = Field("open", title="Rear openings")
    rejects_db: Decibels = Field(typical(9.0), title="Room against speech")
    housing: Literal["none", "in-case"] = Field("none", title="Housing")
    opening_mm: OpeningMillimetres = Field(typical(3.0), title="Opening, across")
    opening_long_mm: SmallMillimetres = Field(typical(2.0), title="Opening, long")
    offset_mm: SmallMillimetres = Field(typical(0.0), title="Opening beside the capsule")
    seal: Literal["sealed", "leaky", "none"] = Field("sealed", title="Capsule to opening")
    leak_mm: SmallMillimetres = Field(typical(0.0), title="Case leaks by a hole of")
    cavity_cm3: CubicCentimetres = Field(typical(0.15), title="Space before it")
    body_cm3: CubicCentimetres = Field(typical(40.0), title="Body of the case")
    recess_mm: SmallMillimetres = Field(typical(0.0), title="Sunk in a tube by")
    over_it: Literal["nothing", "windscreen", "foam"] = Field("nothing", title="Over the opening")
    capsule_mm: OpeningMillimetres = Field(typical(9.7), title="Capsule, across")

    def section(self, field: str) -> str:
        """Pattern and housing have a heading of their own."""
        return self.sections[1 if field in SpokenInto.model_fields else 0]

    def idle_fields(self) -> tuple[str, ...]:
        """Fields that play no part as the piece is now."""
        idle: list[str] = [] if self.housing == "in-case" else list(self.housing_fields)
        if self.pattern == "all-round":
            idle.append("rear")
        if self.pattern != "noise-cancelling":
            idle.append("rejects_db")
        return tuple(idle)

    @property
    def hears(self) -> Pattern:
        """What it hears as it is: with its rear blocked all round, whatever it was made for."""
        return "all-round" if self.rear == "blocked" else self.pattern

    @property
    def lips_mm(self) -> float:
        """How far from it lips belong."""
        return LIPS_MM[self.hears]

    def room_db(self) -> float:
        """How much of a room's noise it hears, in dB re equal hearing all round."""
        if self.hears == "all-round":
            return 0.0
        if self.hears == "directional":
            return -CARDIOID_ROOM_DB
        return -abs(self.rejects_db.value)

    def into_it_db(self) -> float:
        """A cardioid hears (1 + cos θ)/2, a gradient cos θ; across is taken as 45° off its axis."""
        if self.hears == "all-round":
            return 0.0
        cosine = math.cos(ACROSS_RAD)
        heard = (1 + cosine) / 2 if self.pattern == "directional" else cosine
        return -20 * math.log10(heard)

    def pops(self) -> bool:
        """Where nothing breaks the breath."""
        return self.over_it == "nothing"

    def hears_room_apart(self) -> bool:
        """Directional types do."""
        return self.pattern != "all-round"

    def heard(self, net: StageNet) -> str:
        """Build the sound's way and return the node whose volts move the diaphragm."""
        node, before = AIR, len(net.elements)
        if self.pattern != "all-round":
            node = self._pattern(net)
        if self.housing == "in-case":
            outside = node
            node = self._housing(net, node)
            net.mark(Diaphragm(node, outside))
        net.hide_since(before)
        net.heard = node
        return node

    def openings(self) -> Iterator[tuple[str, dict[str, object]]]:
        """What is done with tweezers, a gasket and a drill, as tokens with their changes."""
        if self.housing != "in-case":
            return
        if self.over_it == "foam":
            yield "foam-off", {"over_it": "windscreen"}
        if self.recess_mm.value > 0:
            yield "no-tube", {"recess_mm": 0.0}
        # the step that is enough, before the whole
        for wider in DRILLS_MM:
            if self.opening_mm.value * 1.2 < wider <= self.capsule_mm.value:
                yield "drilled", {"opening_mm": wider}
        if self.offset_mm.value > 0:
            yield "aligned", {"offset_mm": 0.0}
        if self.seal != "sealed":
            yield "gasket", {"seal": "sealed"}

    def case_alone(self, net: StageNet) -> str | None:
        """The case before a capsule that hears all round."""
        return self._housing(net, AIR) if self.housing == "in-case" else None

    def opened_up(self) -> SpokenInto | None:
        """All of these at once; None without a case."""
        if self.housing != "in-case":
            return None
        changes = {k: v for _, change in self.openings() for k, v in change.items()}
        changes["opening_mm"] = max(self.opening_mm.value, min(WIDE_MM, self.capsule_mm.value))
        figures = self.figures()
        return self.model_copy(
            update={k: typical(float(str(v))) if k in figures else v for k, v in changes.items()}
        )

    def _pattern(self, net: StageNet) -> str:
        """Proximity effect on the voice; the room comes in beside it, less than the voice.

        Near a point source the pressure gradient grows below ``c/r`` (Beranek, ch. 2); realised as
        the first-order shelf ``(s + a)/(s + b)``.
        """
        node = net.name("front")
        r = net.distance_m + ORIGIN_BEHIND_LIPS_M
        if self.rear == "blocked":
            lift = fall = 0.0
        elif self.pattern == "directional":
            lift = GRADIENT_SHARE * SOUND_M_PER_S / r
            fall = 2 * math.pi * BASS_CUT_HZ
        else:
            lift = SOUND_M_PER_S / r
            fall = SOUND_M_PER_S / (CLOSE_TALK_M + ORIGIN_BEHIND_LIPS_M)
        farad = 1e-3
        if lift or fall:
            net.capacitor("gradient_c", AIR, node, farad)
            net.transconductor("proximity", (node, GROUND), (AIR, GROUND), lift * farad)
            net.resistor("bass_cut", node, GROUND, 1 / (fall * farad), noisy=False)
        else:
            net.transconductor("face", (node, GROUND), (AIR, GROUND), 1.0)
            net.resistor("face_r", node, GROUND, 1.0, noisy=False)
        mixed, ohm = net.name("sound"), 1.0
        net.transconductor("hears", (mixed, GROUND), (node, GROUND), 1 / ohm)
        net.resistor("hears_r", mixed, GROUND, ohm, noisy=False)
        power = 10 ** (self.room_db() / 10)
        room = tuple(PowerLaw(p.at_1khz * power, p.exponent) for p in net.room)
        # it carries the room's name: its share of the noise is the room's, not the microphone's
        net.add(CurrentSource(ROOM, GROUND, mixed, noise=room))
        return mixed

    def _housing(self, net: StageNet, outside: str) -> str:
        """Opening, cavity, slit into the body; a tube before the capsule if it is sunk in one."""
        radius = self.opening_mm.value * 1e-3 / 2
        long = self.opening_long_mm.value * 1e-3
        across = self.capsule_mm.value * 1e-3
        mass, loss = hole_mass(long, radius), hole_resistance(long, radius)
        if self.offset_mm.value > 0:
            # beside the capsule, sound creeps through the gap between panel and capsule
            gap = max(self.cavity_cm3.value * 1e-6 / (math.pi * (across / 2) ** 2), 0.1e-3)
            beside = self.offset_mm.value * 1e-3
            mass += RHO_KG_PER_M3 * beside / (across * gap)
            loss += 12 * VISCOSITY_PA_S * beside / (across * gap**3)
        if self.over_it != "nothing":
            rayl = FOAM_RAYL if self.over_it == "foam" else WINDSCREEN_RAYL
            loss += rayl / (math.pi * radius**2)
        hole, cavity = net.name("hole"), net.name("cavity")
        net.resistor("hole_loss", outside, hole, loss)
        net.inductor("hole_mass", hole, cavity, mass)
        volume = cavity_compliance(self.cavity_cm3.value * 1e-6)
        net.capacitor("cavity_air", cavity, GROUND, volume)
        if self.seal != "sealed":
            self._slit(net, cavity, math.pi * across)
            self._leak(net, outside)
        node = cavity
        if self.recess_mm.value > 0:
            node = self._tube(net, cavity, across / 2)
        return node

    def _slit(self, net: StageNet, cavity: str, round_m: float) -> None:
        height = OPEN_SLIT_M if self.seal == "none" else LEAKY_SLIT_M
        inside, body = net.name("slit"), net.name("body")
        net.resistor("slit_loss", cavity, inside, slit_resistance(height, round_m))
        net.inductor("slit_mass", inside, body, slit_mass(height, round_m))
        net.capacitor("body_air", body, GROUND, cavity_compliance(self.body_cm3.value * 1e-6))

    def _leak(self, net: StageNet, outside: str) -> None:
        """A hole in the body, of a switch or a lead: sound comes in by it beside the opening."""
        if self.leak_mm.value <= 0:
            return
        radius, middle = self.leak_mm.value * 1e-3 / 2, net.name("leak")
        net.resistor("leak_loss", outside, middle, hole_resistance(WALL_M, radius))
        net.inductor("leak_mass", middle, net.name("body"), hole_mass(WALL_M, radius))

    def _tube(self, net: StageNet, start: str, radius_m: float) -> str:
        """A line of short sections, closed by the capsule: resonant where it is a quarter wave."""
        long = self.recess_mm.value * 1e-3 / TUBE_SECTIONS
        area = math.pi * radius_m**2
        node = start
        for k in range(TUBE_SECTIONS):
            middle, after = net.name(f"tube_m{k}"), net.name(f"tube{k}")
            net.resistor(f"tube_loss{k}", node, middle, hole_resistance(long, radius_m))
            net.inductor(f"tube_mass{k}", middle, after, RHO_KG_PER_M3 * long / area)
            share = 0.5 if k == TUBE_SECTIONS - 1 else 1.0
            net.capacitor(f"tube_air{k}", after, GROUND, share * cavity_compliance(area * long))
            node = after
        return node
