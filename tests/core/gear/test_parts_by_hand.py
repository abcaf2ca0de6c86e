"""Single parts of pieces by hand: couplings, capacitances of leads, ceilings, ratings."""

import math

import pytest

from tonleiter.core.circuit.elements import Capacitor, Inductor, Resistor
from tonleiter.core.gear.active import MicrophoneAmplifier
from tonleiter.core.gear.base import Surroundings
from tonleiter.core.gear.capsules import CarbonMicrophone, PiezoMicrophone
from tonleiter.core.gear.microphones import DynamicMicrophone
from tonleiter.core.gear.net import AIR, Port, StageNet
from tonleiter.core.gear.passives import Cable
from tonleiter.core.gear.shopping import power_words, rating_v
from tonleiter.core.gear.sockets import MicrophoneSocket
from tonleiter.core.units.levels import volts_from_dbu


def made(gear, inlet=None, outlet=None):
    """A piece's elements by the names that it gave them."""
    inlet = inlet or Port("in", "0")
    net = StageNet("g", inlet, outlet or gear.outlet(inlet))
    gear.build(net)
    return {e.name.partition(":")[2]: e for e in net.elements}


def of(kind, **figures):
    return kind.model_validate({"id": "g", "name": "g", **figures})


# --- couplings -----------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("z_in", "bias", "rest"),
    # beside a bias resistor the rest of what is measured at the pin: 1/(1/600 − 1/2200)
    [(600.0, {}, 600.0), (600.0, {"bias_v": 8, "bias_ohm": 2200}, 825.0), (50e3, {}, 50e3)],
)
def test_a_radio_s_own_coupling_begins_at_five_hertz(z_in, bias, rest):
    parts = made(of(MicrophoneSocket, z_in_ohm=z_in, **bias), Port("pin", "0"), Port("grid", "0"))
    assert parts["z_in"].ohm == pytest.approx(rest)
    corner = 1 / (2 * math.pi * parts["c_in"].farad * parts["z_in"].ohm)
    assert corner == pytest.approx(5.0)


@pytest.mark.parametrize("corner_hz", [10.0, 40.0])
def test_a_balanced_input_is_coupled_by_two_capacitors_in_series(corner_hz):
    amp = of(MicrophoneAmplifier, input="balanced", z_in_ohm=2000, low_corner_hz=corner_hz)
    legs = Port("hot", "cold", screen="screen")
    parts = made(amp, legs)
    c_a, c_b = parts["c_in"].farad, parts["c_in_cold"].farad
    assert c_a == c_b
    series = c_a * c_b / (c_a + c_b)
    assert 1 / (2 * math.pi * series * 2000) == pytest.approx(corner_hz)
    # both resistors to the case together, in series, beside the one across make its impedance
    common = parts["z_common"].ohm + parts["z_common_cold"].ohm
    across = parts["z_in"].ohm
    assert across * common / (across + common) == pytest.approx(2000)


# --- leads ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("joined", "near", "far"),
    [("both-ends", "near", "far"), ("source-end", "near", "near"), ("load-end", "far", "far")],
)
def test_a_screen_is_all_along_at_the_end_where_it_is_joined(joined, near, far):
    lead = of(Cable, form="two-core", screen=joined, length_m=10, capacitance_pf_per_m=100)
    inlet, outlet = (Port(f"{w}-hot", f"{w}-cold", screen=w) for w in ("near", "far"))
    parts = made(lead, inlet, outlet)
    caps = {n: e for n, e in parts.items() if isinstance(e, Capacitor)}
    for part, at in (("near", near), ("far", far)):
        assert {caps[f"c_{part}"].p, caps[f"c_{part}"].n} == {f"{part}-hot", at}
        assert {caps[f"c_cold_{part}"].p, caps[f"c_cold_{part}"].n} == {f"{part}-cold", at}
    # half of its nanofarad at each end, and half as much from core to core
    assert caps["c_near"].farad == caps["c_far"].farad == pytest.approx(0.5e-9)
    assert caps["c_across_near"].farad == pytest.approx(0.25e-9)


def test_in_a_lead_of_one_core_the_screen_is_the_other_wire():
    lead = of(Cable, form="one-core", screen="source-end", length_m=3, capacitance_pf_per_m=100)
    parts = made(lead, Port("a", "0"), Port("b", "c"))
    caps = {n: e for n, e in parts.items() if isinstance(e, Capacitor)}
    assert {caps["c_far"].p, caps["c_far"].n} == {"b", "c"}
    assert caps["c_near"].farad == pytest.approx(0.15e-9)
    assert not [n for n in caps if "across" in n or "cold" in n]


# --- what sounds ---------------------------------------------------------------------------------


def test_granules_clip_at_four_fifths_of_their_current_s_volts():
    """30 mA through 40 Ω of joint: 0.96 V of peak."""
    carbon = of(CarbonMicrophone)
    around = Surroundings(80.0, 80.0, 40.0, capsule_a=0.03)
    assert volts_from_dbu(carbon.ceiling_dbu(around)) == pytest.approx(
        0.96 / math.sqrt(2), rel=1e-3
    )
    assert carbon.ceiling_dbu(Surroundings(80.0, 80.0, 40.0, capsule_a=0.0)) is None
    assert carbon.ceiling_dbu(Surroundings(80.0, 80.0, 40.0)) is None


@pytest.mark.parametrize("leak_mm", [0.4, 1.0, 4.0])
def test_a_leak_in_a_case_is_a_hole_of_half_its_width_for_a_radius(leak_mm):
    """ρ (l + 1.7 r) / (π r²) of air in a wall of two millimetres (Beranek, Acoustics, ch. 5)."""
    case = {"housing": "in-case", "opening_mm": 3, "leak_mm": leak_mm, "seal": "none"}
    parts = made(of(DynamicMicrophone, **case), Port(AIR, "0"), Port("out", "0"))
    r = leak_mm * 1e-3 / 2
    mass = parts["leak_mass"]
    assert isinstance(mass, Inductor)
    assert mass.henry == pytest.approx(1.2 * (2e-3 + 1.7 * r) / (math.pi * r**2), rel=0.05)
    loss = parts["leak_loss"]
    assert isinstance(loss, Resistor)
    # slow flow loses 8 μ l / (π r⁴) (Poiseuille), quick flow more
    slow = 8 * 1.8e-5 * 2e-3 / (math.pi * r**4)
    assert slow * 0.98 < loss.ohm < 40 * slow
    closed = made(
        of(DynamicMicrophone, **(case | {"leak_mm": 0})), Port(AIR, "0"), Port("out", "0")
    )
    assert "leak_mass" not in closed


def test_a_crystal_is_a_capacitor_and_its_ceiling_is_its_loudest_sound_loaded():
    crystal = of(PiezoMicrophone, sensitivity_mv_per_pa=25, max_spl_db=134, capacitance_f=2e-9)
    parts = made(crystal, Port(AIR, "0"), Port("out", "0"))
    assert parts["element"].farad == 2e-9
    # 134 dB are 100 Pa: 2.5 V open, half of that where the joint is half of the source
    open_v = volts_from_dbu(crystal.ceiling_dbu(Surroundings(1e5, math.inf, 1e5)))
    half_v = volts_from_dbu(crystal.ceiling_dbu(Surroundings(1e5, 1e5, 5e4)))
    assert open_v == pytest.approx(2.5, rel=0.01)
    assert half_v == pytest.approx(1.25, rel=0.01)


# --- what is bought ------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("volts", "asked"), [(9.0, 16), (12.0, 25), (33.0, 50), (48.0, 100), (250.0, 400)]
)
def test_a_capacitor_stands_at_two_thirds_of_its_rating_at_most(volts, asked):
    assert rating_v(volts) >= volts * 1.5
    assert rating_v(volts) == asked


@pytest.mark.parametrize(
    ("watts", "words"),
    [(0.0, ""), (0.125, ""), (0.13, "½ W"), (0.25, "½ W"), (0.4, "1 W"), (2.5, "5 W")],
)
def test_a_resistor_that_gets_warm_is_asked_for_by_its_power(watts, words):
    """A usual one bears a quarter of a watt, and is used at half."""
    assert power_words(watts) == words


def test_what_no_resistor_bears_is_said():
    assert "heat sink" in power_words(20.0)
