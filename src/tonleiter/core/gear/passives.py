"""What stands between: cable, capacitor, L-pad, transformer."""

from __future__ import annotations

import math
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from tonleiter.core.circuit.elements import Coupling
from tonleiter.core.gear import grip as grips
from tonleiter.core.gear.base import Gear, Role
from tonleiter.core.gear.figure import (
    Farads,
    Henries,
    LevelDbu,
    Metres,
    Microteslas,
    MilliohmsPerMetre,
    Ohms,
    PicofaradsPerMetre,
    Ratio,
    typical,
)
from tonleiter.core.gear.grip import MOST_DB, Grip
from tonleiter.core.gear.labels import label_of
from tonleiter.core.gear.net import Between, Pickup, Polarised, Port, StageNet, Winding
from tonleiter.core.gear.pads import l_pad_loss_db, series_for_loss
from tonleiter.core.gear.parts import COINS, NOTE, TRANSFORMER, Part
from tonleiter.core.units import preferred
from tonleiter.core.units.quantity import FARAD, HENRY, METRE, OHM, format_quantity


class Cable(Gear):
    """A screened cable: resistances, capacitances, and what a mains field induces in it.

    A field B at frequency f induces 2πf·B·A in the area A between the legs. Twisting leaves little
    of it; in a star-quad, two pairs joined crosswise cancel what a pair leaves.
    """

    bought_whole: ClassVar[bool] = True
    part_letter: ClassVar[str] = "W"
    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "cable"
    lead: ClassVar[bool] = True
    what: ClassVar[str] = "core and screen"
    choices: ClassVar[tuple[str, ...]] = ("length_m", "form", "screen", "quad")
    handle: ClassVar[str | None] = "length_m"
    grip: ClassVar[Grip | None] = grips.Metres()
    passes_ground: ClassVar[bool] = False

    kind: Literal["cable"] = "cable"
    length_m: Metres = Field(typical(3.0), title="Length")
    capacitance_pf_per_m: PicofaradsPerMetre = Field(typical(120.0), title="Capacitance")
    core_mohm_per_m: MilliohmsPerMetre = Field(typical(80.0), title="Core")
    screen_mohm_per_m: MilliohmsPerMetre = Field(typical(30.0), title="Screen")
    form: Literal["one-core", "two-core", "star-quad"] = Field("one-core", title="Inside")
    screen: Literal["both-ends", "source-end", "load-end"] = Field(
        "both-ends", title="Screen joined at"
    )
    quad: Literal["crosswise", "side-by-side"] = Field("crosswise", title="Star-quad joined")
    field_ut: Microteslas = Field(typical(0.1), title="Mains field along it")

    # width between the legs that twisting and crossing leave, on average, in mm; typical
    LOOP_MM: ClassVar[dict[str, float]] = {"one-core": 0.1, "two-core": 0.3, "star-quad": 0.05}
    # core to core against core to screen
    ACROSS: ClassVar[float] = 0.5
    # an open end of a screen: stray capacitance and damp
    OPEN_END_F: ClassVar[float] = 20e-12
    DAMP_OHM: ClassVar[float] = 1e10

    def takes_balanced(self) -> bool:
        """With a second core for the cold leg."""
        return self.form != "one-core"

    def idle_fields(self) -> tuple[str, ...]:
        """A lone screen is the return: it is joined at both ends or there is no circuit."""
        quad = () if self.form == "star-quad" else ("quad",)
        return ("screen", *quad) if self.form == "one-core" else quad

    def outlet(self, inlet: Port) -> Port:
        """Hot, cold, screen; of one core the screen is the cold."""
        ground = f"{self.id}:ground"
        if self.form == "one-core":
            return Port(f"{self.id}:out", ground)
        return Port(f"{self.id}:out", f"{self.id}:cold", screen=ground)

    def as_a_part(self) -> Part:
        """By its length, and what is inside."""
        inside = f"{label_of(self.form)} and a screen"
        return Part(1, "screened lead", format_quantity(self.length_m.value, METRE), COINS, inside)

    def build(self, net: StageNet) -> None:
        """A pi section: half the capacitance at each end."""
        length = self.length_m.value
        a, b = net.inlet, net.outlet
        # a star-quad has two wires to each leg: half the resistance, twice the capacitance
        wires = 2 if self.form == "star-quad" else 1
        core_ohm = length * self.core_mohm_per_m.value * 1e-3 / wires
        net.resistor("core", a.hot, b.hot, core_ohm)
        joined = self.form == "one-core" or self.screen == "both-ends"
        if self.form != "one-core":
            net.resistor("cold_core", a.cold, b.cold, core_ohm)
        if joined:
            screen_ohm = length * self.screen_mohm_per_m.value * 1e-3
            net.resistor("screen", a.chassis, b.chassis, screen_ohm)
        else:
            # what the screen's stray capacitance to the far chassis leaves of the joint
            net.capacitor("open_end", a.chassis, b.chassis, self.OPEN_END_F, stray=True)
            net.resistor("damp", a.chassis, b.chassis, self.DAMP_OHM, noisy=False, stray=True)
        self._capacitances(net, length * wires * self.capacitance_pf_per_m.value * 1e-12)
        # two neighbours on each leg are a pair like any other
        crossed = self.form != "star-quad" or self.quad == "crosswise"
        area = length * self.LOOP_MM[self.form if crossed else "two-core"] * 1e-3
        if self.field_ut.value > 0:
            volts_per_hz = 2 * math.pi * self.field_ut.value * 1e-6 * area
            net.mark(Pickup(a.hot, b.hot, core_ohm, volts_per_hz))

    def _capacitances(self, net: StageNet, farad: float) -> None:
        if farad <= 0:
            return
        ends = ((net.inlet, "near"), (net.outlet, "far"))
        # a screen joined at one end is at that end's potential all along
        one_end = {"source-end": net.inlet, "load-end": net.outlet}.get(self.screen)
        for port, part in ends:
            screen = (one_end if self.form != "one-core" and one_end else port).chassis
            net.capacitor(f"c_{part}", port.hot, screen, farad / 2)
            if self.form != "one-core":
                if port.cold != screen:
                    net.capacitor(f"c_cold_{part}", port.cold, screen, farad / 2)
                net.capacitor(f"c_across_{part}", port.hot, port.cold, self.ACROSS * farad / 2)


class SeriesCapacitor(Gear):
    """A coupling or blocking capacitor in the signal line."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "blocking capacitor"
    what: ClassVar[str] = "lets sound through, not DC"
    series_farad_field: ClassVar[str | None] = "capacitance_f"
    choices: ClassVar[tuple[str, ...]] = ("capacitance_f", "plus_side")
    handle: ClassVar[str | None] = "capacitance_f"
    grip: ClassVar[Grip | None] = grips.Places("E6", 0)

    kind: Literal["capacitor"] = "capacitor"
    capacitance_f: Farads = Field(typical(1e-6), title="Capacitance")
    plus_side: Literal["input", "output", "not-polarised"] = Field(
        "not-polarised", title="Plus side"
    )
    leakage_ohm: Ohms = Field(typical(100e6), title="Leakage")

    def name_by_values(self) -> str:
        """Its noun and capacitance."""
        return f"{self.noun} {format_quantity(self.capacitance_f.value, FARAD)}"

    def build(self, net: StageNet) -> None:
        """Capacitance with its leakage across it."""
        a, b = net.inlet.hot, net.outlet.hot
        element = net.capacitor("c", a, b, self.capacitance_f.value)
        net.resistor("leak", a, b, self.leakage_ohm.value, noisy=False, stray=True)
        if self.plus_side != "not-polarised":
            plus, minus = (a, b) if self.plus_side == "input" else (b, a)
            net.mark(Polarised(element, plus, minus))


class LPad(Gear):
    """A series resistor and a shunt resistor on the side of the load."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "L-pad"
    is_pad: ClassVar[bool] = True
    what: ClassVar[str] = "takes level off"
    choices: ClassVar[tuple[str, ...]] = ("series_ohm", "shunt_ohm")
    handle: ClassVar[str | None] = "series_ohm"
    grip: ClassVar[Grip | None] = grips.Places("E24", -1)

    kind: Literal["l-pad"] = "l-pad"
    series_ohm: Ohms = Field(typical(10e3), title="Series")
    shunt_ohm: Ohms = Field(typical(100.0), title="Shunt")

    # smaller ones than this are no pad
    LEAST_OHM: ClassVar[float] = 10.0

    def pulled(self, up_db: float, z_source_ohm: float, z_load_ohm: float) -> float:
        """Exactly, between the impedances it stands between, then the nearest preferred value."""
        shunt = self.shunt_ohm.value
        loss_db = l_pad_loss_db(self.series_ohm.value, shunt, z_source_ohm, z_load_ohm)
        up_db = min(max(up_db, -MOST_DB), MOST_DB)
        series = series_for_loss(loss_db - up_db, shunt, z_source_ohm, z_load_ohm)
        if series is None or not math.isfinite(series):
            series = self.LEAST_OHM
        _, most = OHM.reach
        return preferred.nearest(min(max(series, self.LEAST_OHM), most / 10), "E24")

    def build(self, net: StageNet) -> None:
        """Series, then shunt to the common conductor."""
        net.resistor("series", net.inlet.hot, net.outlet.hot, self.series_ohm.value)
        net.resistor("shunt", net.outlet.hot, net.outlet.cold, self.shunt_ohm.value)


class Transformer(Gear):
    """Two windings on a core. ``ratio`` is secondary turns over primary turns."""

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "transformer"
    isolates: ClassVar[bool] = True
    what: ClassVar[str] = "passes sound, parts the grounds"
    passes_ground: ClassVar[bool] = False

    kind: Literal["transformer"] = "transformer"
    ratio: Ratio = Field(typical(1.0), title="Turns, out to in")
    primary_h: Henries = Field(typical(1.2), title="Primary inductance")
    leakage_h: Henries = Field(typical(4e-3), title="Leakage inductance")
    primary_ohm: Ohms = Field(typical(55.0), title="Primary winding")
    secondary_ohm: Ohms = Field(typical(65.0), title="Secondary winding")
    winding_f: Farads = Field(typical(250e-12), title="Winding capacitance")
    interwinding_f: Farads = Field(typical(80e-12), title="Between the windings")
    saturation_dbu: LevelDbu = Field(typical(2.0), title="Core full at (100 Hz)")

    # a small core magnetised by more than this loses inductance before anything burns
    TOLERATES_A: ClassVar[float] = 50e-6
    INSULATION_OHM: ClassVar[float] = 1e10

    @model_validator(mode="after")
    def _leaks_less_than_it_couples(self) -> Self:
        if self.leakage_h.value >= self.primary_h.value:
            raise PydanticCustomError("figure", "leakage_h must be below primary_h")
        return self

    def takes_balanced(self) -> bool:
        """Both legs go to its winding; a screen ends at the box before it."""
        return True

    def build(self, net: StageNet) -> None:
        """Winding resistances, coupled inductances, self and interwinding capacitance."""
        a, b, p, s = net.inlet, net.outlet, net.name("p"), net.name("s")
        net.resistor("primary_r", a.hot, p, self.primary_ohm.value)
        primary = net.inductor("primary", p, a.cold, self.primary_h.value)
        secondary_h = self.primary_h.value * self.ratio.value**2
        secondary = net.inductor("secondary", s, b.cold, secondary_h)
        k = math.sqrt(1 - self.leakage_h.value / self.primary_h.value)
        net.add(Coupling(net.name("coupling"), primary, secondary, k))
        net.resistor("secondary_r", s, b.hot, self.secondary_ohm.value)
        net.capacitor("c_winding", b.hot, b.cold, self.winding_f.value)
        # spread along the windings: half of it acts between their hot ends, half at the cold ones
        half = self.interwinding_f.value / 2
        net.capacitor("c_between", a.hot, b.hot, half, stray=True)
        net.capacitor("c_between_cold", a.cold, b.cold, half, stray=True)
        # paper and varnish: what gives a winding between two transformers a potential at all
        net.resistor("insulation", a.cold, b.cold, self.INSULATION_OHM, noisy=False, stray=True)
        part = Part(1, "audio transformer", f"1:{self.ratio.value:g}", NOTE, self._must_be())
        net.whole(
            "transformer",
            TRANSFORMER,
            part,
            "primary_r",
            "primary",
            "secondary",
            "coupling",
            "secondary_r",
            "c_winding",
        )
        net.mark(
            Winding(primary, "the primary winding", self.TOLERATES_A),
            Winding(secondary, "the secondary winding", self.TOLERATES_A),
        )

    def _must_be(self) -> str:
        """What is asked for beside the ratio."""
        henry = format_quantity(self.primary_h.value, HENRY, 2)
        ohms = f"{self.primary_ohm.value:.0f} and {self.secondary_ohm.value:.0f} Ω windings"
        return f"primary {henry} or more, {ohms} or less"

    def input_ceiling_dbu(self, lowest_hz: float) -> float | None:
        """Core saturation: flux is volts over frequency, so it halves per octave downward."""
        return self.saturation_dbu.value + 20 * math.log10(lowest_hz / 100.0)


class CommonModeChoke(Gear):
    """Both conductors of a lead wound on one core: what flows in one alone meets its inductance.

    The signal goes out in one and back in the other and meets none. What a loop drives along the
    cold conductor induces as much in the hot one, and so does not stand between the two.
    """

    role: ClassVar[Role] = "between"
    noun: ClassVar[str] = "common-mode choke"
    what: ClassVar[str] = "a lead wound on a core, against loops"
    passes_ground: ClassVar[bool] = False

    kind: Literal["common-mode-choke"] = "common-mode-choke"
    choke_h: Henries = Field(typical(10e-3), title="Inductance of each winding")
    winding_ohm: Ohms = Field(typical(0.5), title="Each winding")
    leak_share: Ratio = Field(typical(0.001), title="Not coupled, share")

    @model_validator(mode="after")
    def _couples(self) -> Self:
        if not 0 < self.leak_share.value < 1:
            raise PydanticCustomError("figure", "leak_share must be above 0 and below 1")
        return self

    def build(self, net: StageNet) -> None:
        """Two windings on one core, one in each conductor."""
        a, b = net.inlet, net.outlet
        ohm, henry = self.winding_ohm.value, self.choke_h.value
        hot, cold = net.name("hot_wire"), net.name("cold_wire")
        net.resistor("hot_r", a.hot, hot, ohm)
        net.resistor("cold_r", a.chassis, cold, ohm)
        first = net.inductor("hot_coil", hot, b.hot, henry)
        second = net.inductor("cold_coil", cold, b.cold, henry)
        net.mark(Between(cold))
        k = 1 - self.leak_share.value
        net.add(Coupling(net.name("coupling"), first, second, k))
        value = f"{format_quantity(henry, HENRY)} each winding"
        part = Part(1, "ring core, for a lead's turns", value, COINS)
        net.whole("choke", "L", part, "hot_r", "cold_r", "hot_coil", "cold_coil", "coupling")
