"""Each kind of gear, alone in a bench circuit, against its closed form."""

import math

import numpy as np
import pytest
from pydantic import ValidationError

from tests.conftest import station_of
from tests.core.circuit.reference import K_BOLTZMANN, T
from tonleiter.core.circuit.ac import impedance, linearise
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.elements import Capacitor, Circuit, Resistor, VoltageSource
from tonleiter.core.circuit.noise import noise_shares
from tonleiter.core.circuit.system import System
from tonleiter.core.gear.active import AmplifierStage, input_noise_density
from tonleiter.core.gear.base import Surroundings
from tonleiter.core.gear.bias_feed import BiasFeed
from tonleiter.core.gear.capsules import (
    CarbonMicrophone,
    FollowerElectret,
    PiezoMicrophone,
    RibbonMicrophone,
)
from tonleiter.core.gear.library import parts_library
from tonleiter.core.gear.line_sources import LineSource
from tonleiter.core.gear.microphones import DynamicMicrophone, ElectretMicrophone
from tonleiter.core.gear.more_pads import InputDivider, SeriesPad, TPad, TrimPot
from tonleiter.core.gear.net import AIR, Port, StageNet
from tonleiter.core.gear.own_circuit import OwnCircuit
from tonleiter.core.gear.pads import design_l_pad, l_pad_loss_db, series_for_loss
from tonleiter.core.gear.passives import Cable, LPad, SeriesCapacitor, Transformer
from tonleiter.core.gear.preamps import BipolarPreamp, JfetPreamp, OpAmpPreamp
from tonleiter.core.gear.sockets import MicrophoneSocket
from tonleiter.core.gear.valves import ValveStage
from tonleiter.core.judge.assess import assess
from tonleiter.core.units.levels import volts_from_dbu

W = 2 * math.pi


class Bench:
    """A piece between a source and a load, both with one side grounded."""

    def __init__(self, gear, source_ohm=None, load_ohm=None, extra=()):
        first = Port(AIR, "0") if gear.role == "microphone" else Port("in", "0")
        out = Port("out", "0" if gear.role != "microphone" else "cold")
        net = StageNet("g", first, out)
        gear.build(net)
        elements = [VoltageSource("vs", AIR if gear.role == "microphone" else "s", "0", ac=1)]
        if gear.role == "microphone":
            elements.append(Resistor("tie", "cold", "0", 1e-3, noisy=False))
        else:
            elements.append(Resistor("rs", "s", "in", source_ohm or 1e-3, noisy=False))
        if load_ohm:
            elements.append(Resistor("rl", "out", out.cold, load_ohm, noisy=False))
        self.system = System(Circuit((*elements, *net.elements, *extra)))
        self.op = solve_dc(self.system)
        self.linear = linearise(self.system, self.op)

    def gain(self, f_hz=1000.0, node="out"):
        x = self.linear.solve(np.array([f_hz]), self.system.b_ac[:, None])[0, :, 0]
        return complex(x[self.system.row(node)])

    def z(self, node, f_hz=1000.0):
        return complex(impedance(self.linear, np.array([f_hz]), node)[0])

    def noise_density(self, f_hz=1000.0):
        f = np.array([f_hz])
        adjoint = self.linear.adjoint(f, self.system.unit("out")[:, None])
        return float(noise_shares(self.linear, f, adjoint).density_v_per_rthz[0, 0])


def make(kind, **figures):
    return kind.model_validate({"id": "g", "name": "g", **figures})


# --- dynamic microphone ---------------------------------------------------------------------------


@pytest.mark.parametrize("load", [200.0, 600.0, 10e3])
def test_dynamic_is_an_emf_behind_its_coil(load):
    mic = make(DynamicMicrophone, sensitivity_mv_per_pa=2.0, coil_ohm=300, coil_h=1e-3)
    wanted = 2e-3 * load / (load + 300 + 1j * W * 1000 * 1e-3)
    assert abs(Bench(mic, load_ohm=load).gain()) == pytest.approx(abs(wanted), rel=1e-4)


def test_dynamic_makes_the_thermal_noise_of_its_coil():
    mic = make(DynamicMicrophone, coil_ohm=200, coil_h=1e-6)
    wanted = math.sqrt(4 * K_BOLTZMANN * T * 200)
    assert Bench(mic, load_ohm=1e9).noise_density() == pytest.approx(wanted, rel=1e-4)


# --- electret -------------------------------------------------------------------------------------

ELECTRET = {"sensitivity_dbv_per_pa": -42, "quoted_supply_v": 3, "quoted_load_ohm": 2200}


def biased(mic, supply, resistor, load=None):
    """Fed through a resistor; the load, if any, stands behind a capacitor."""
    feed = [
        VoltageSource("vb", "rail", "cold", dc=supply),
        Resistor("rb", "rail", "out", resistor, noisy=False),
    ]
    if load:
        feed += [
            Capacitor("cl", "out", "far", 1.0),
            Resistor("rl", "far", "cold", load, noisy=False),
        ]
    return Bench(mic, extra=feed)


def test_electret_gives_its_quoted_sensitivity_at_its_quoted_point():
    mic = make(ElectretMicrophone, **ELECTRET, current_a=0.3e-3)
    bench = biased(mic, 3.0, 2200)
    # 10 Mohm of leakage across the capsule takes 2e-4 off
    assert 20 * math.log10(abs(bench.gain())) == pytest.approx(-42, abs=0.01)
    drop = 3.0 - bench.op.volts("out", "cold")
    assert drop / 2200 == pytest.approx(0.3e-3, rel=2e-3)


@pytest.mark.parametrize(("resistor", "load"), [(1000, 1e6), (4700, 600.0), (2200, 2200.0)])
def test_electret_gain_follows_bias_resistor_parallel_load(resistor, load):
    """Gain = gm (R ∥ load ∥ ro); gm grows, and ro comes, with the channel's lambda."""
    mic = make(ElectretMicrophone, **ELECTRET, current_a=0.3e-3)
    lam = mic.CHANNEL_LAMBDA

    def expected(bench, r):
        stretch = 1 + lam * bench.op.volts("out", "cold")
        return stretch / (1 / r + 1e-7 + 0.3e-3 / (1 + lam * 2.34) * lam)

    quoted, other = biased(mic, 3.0, 2200), biased(mic, 6.0, resistor, load)
    wanted = expected(other, resistor * load / (resistor + load)) / expected(quoted, 2200)
    assert abs(other.gain()) / abs(quoted.gain()) == pytest.approx(wanted, rel=1e-3)


def test_electret_without_bias_is_dead():
    mic = make(ElectretMicrophone, **ELECTRET)
    assert abs(Bench(mic, load_ohm=2200).gain()) < 1e-9


def test_starved_electret_loses_level():
    mic = make(ElectretMicrophone, **(ELECTRET | {"quoted_supply_v": 4.5}), current_a=0.5e-3)
    assert abs(biased(mic, 3.0, 10e3).gain()) < 0.5 * abs(biased(mic, 30.0, 10e3).gain())


def test_electret_self_noise_referred_to_the_air():
    mic = make(ElectretMicrophone, **ELECTRET, self_noise_dba=40)
    loud = make(ElectretMicrophone, **ELECTRET, self_noise_dba=60)
    ratio = biased(loud, 3, 2200).noise_density() / biased(mic, 3, 2200).noise_density()
    assert 20 * math.log10(ratio) == pytest.approx(20, abs=0.5)


# --- between --------------------------------------------------------------------------------------


def test_cable_capacitance_rolls_off_a_high_source():
    cable = make(Cable, length_m=10, capacitance_pf_per_m=100, core_mohm_per_m=1e-3)
    corner = 1 / (W * 50e3 * 1e-9)
    bench = Bench(cable, source_ohm=50e3, extra=(Resistor("r", "out", "0", 1e12, noisy=False),))
    assert abs(bench.gain(corner)) == pytest.approx(1 / math.sqrt(2), rel=1e-3)


def test_series_capacitor_corner():
    c = make(SeriesCapacitor, capacitance_f="1u", leakage_ohm="1T")
    corner = 1 / (W * 1e-6 * (600 + 2000))
    bench = Bench(c, source_ohm=600, load_ohm=2000)
    assert abs(bench.gain(corner)) == pytest.approx(2000 / 2600 / math.sqrt(2), rel=1e-6)


@pytest.mark.parametrize(("series", "shunt"), [(10e3, 100), (4.7e3, 470), (82, 1e3)])
def test_l_pad_loaded(series, shunt):
    lower = shunt * 600 / (shunt + 600)
    wanted = lower / (120 + series + lower)
    bench = Bench(make(LPad, series_ohm=series, shunt_ohm=shunt), 120, 600)
    assert abs(bench.gain()) == pytest.approx(wanted, rel=1e-9)
    assert -20 * math.log10(wanted) == pytest.approx(l_pad_loss_db(series, shunt, 120, 600))


def test_series_for_loss_is_the_inverse():
    series = series_for_loss(40, 100, 120, 600)
    assert l_pad_loss_db(series, 100, 120, 600) == pytest.approx(40)
    assert series_for_loss(1, 100, 1000, 600) is None


@pytest.mark.parametrize("loss", [10, 20, 40, 60])
def test_designed_pads_hit_their_loss_with_preferred_values(loss):
    best = design_l_pad(loss, 150, 600)[0]
    assert best.loss_db == pytest.approx(loss, abs=1.0)
    assert best.shunt_ohm <= 300


def test_pads_from_a_drawer_use_only_the_drawer():
    drawer = (47.0, 100.0, 220.0, 4700.0, 10e3)
    for design in design_l_pad(40, 150, 600, drawer=drawer):
        assert {design.series_ohm, design.shunt_ohm} <= set(drawer)
    assert design_l_pad(-3, 150, 600) == []


def ideal_transformer(**figures):
    base = {
        "primary_h": 10,
        "leakage_h": 1e-7,
        "primary_ohm": 1e-3,
        "secondary_ohm": 1e-3,
        "winding_f": 1e-15,
        "interwinding_f": 1e-15,
    }
    return make(Transformer, **(base | figures))


@pytest.mark.parametrize("ratio", [0.1, 1.0, 7.0])
def test_transformer_transforms_volts_and_impedance(ratio):
    bench = Bench(ideal_transformer(ratio=ratio), 600, 600 * ratio**2)
    assert abs(bench.gain(5000)) == pytest.approx(ratio / 2, rel=2e-3)
    assert abs(bench.z("out", 5000)) == pytest.approx(600 * ratio**2 / 2, rel=2e-3)


def test_transformer_bass_corner_is_source_parallel_load_over_inductance():
    bench = Bench(ideal_transformer(primary_h=1.2), 600, 600)
    corner = 300 / (W * 1.2)
    assert abs(bench.gain(corner)) == pytest.approx(0.5 / math.sqrt(2), rel=1e-3)


def test_transformer_treble_corner_is_leakage_over_source_and_load():
    bench = Bench(ideal_transformer(primary_h=50, leakage_h=10e-3), 600, 600)
    corner = 1200 / (W * 10e-3)
    assert abs(bench.gain(corner)) == pytest.approx(0.5 / math.sqrt(2), rel=5e-3)


def test_two_transformers_in_a_row_have_a_solution():
    """Nothing but insulation gives the joint between them a potential."""
    coils = [{"id": f"coil-{k}", "name": "coil", "kind": "transformer"} for k in (1, 2)]
    mic = {"id": "mic", "name": "mic", "kind": "dynamic-microphone"}
    radio = {"id": "radio", "name": "radio", "kind": "microphone-socket", "z_in_ohm": 10e3}
    rows = assess(station_of(mic, *coils, radio)).rows
    # two of 121 ohm of copper each before 10 kohm cost next to nothing
    assert rows[-1].speech_dbu == pytest.approx(rows[0].speech_dbu, abs=0.5)


def test_transformer_winding_resistance_loses_level():
    bench = Bench(ideal_transformer(primary_ohm=60, secondary_ohm=60), 600, 600)
    assert abs(bench.gain(3000)) == pytest.approx(600 / 1320, rel=2e-3)


# --- active ---------------------------------------------------------------------------------------


def test_amplifier_gain_and_impedances_seen_from_outside():
    amp = make(
        AmplifierStage, gain_db=40, gain_high_db=60, z_in_ohm=2400, z_out_ohm=150, output_f=1.0
    )
    bench = Bench(amp, 300, 10e3, extra=())
    wanted = 100 * 2400 / 2700 * (10e3 * 47e3 / 57e3) / (150 + 10e3 * 47e3 / 57e3)
    assert abs(bench.gain()) == pytest.approx(wanted, rel=2e-3)
    assert abs(bench.z("in")) == pytest.approx(2400 * 300 / 2700, rel=2e-3)


def test_amplifier_band_edges_are_its_corners():
    amp = make(AmplifierStage, low_corner_hz=80, high_corner_hz=5000, output_f=1.0)
    bench = Bench(amp, load_ohm=1e6)
    middle = abs(bench.gain(630))
    assert abs(bench.gain(80)) / middle == pytest.approx(1 / math.sqrt(2), rel=0.02)
    assert abs(bench.gain(5000)) / middle == pytest.approx(1 / math.sqrt(2), rel=0.02)


def test_equivalent_input_noise_is_met_with_a_150_ohm_source():
    amp = make(
        AmplifierStage,
        ein_dbu=-120,
        gain_db=0,
        z_in_ohm=1e9,
        z_out_ohm=1.0,
        low_corner_hz=0.01,
        high_corner_hz=1e7,
        output_f=1.0,
    )
    total = Bench(amp).noise_density() * math.sqrt(20e3)
    source = math.sqrt(4 * K_BOLTZMANN * T * 150 * 20e3)
    assert math.hypot(total, source) == pytest.approx(volts_from_dbu(-120), rel=1e-2)


def test_input_noise_never_falls_below_zero_for_impossible_figures():
    assert input_noise_density(-160) > 0


def test_amplifier_ceiling_is_lower_into_a_heavy_load():
    amp = make(AmplifierStage, clip_dbu=20, z_out_ohm=600)
    light = amp.ceiling_dbu(Surroundings(600, 1e6, 600))
    heavy = amp.ceiling_dbu(Surroundings(600, 600, 300))
    assert light == pytest.approx(20, abs=0.01)
    assert heavy == pytest.approx(20 - 6.02, abs=0.01)


def test_bias_feed_divides_its_supply():
    feed = make(BiasFeed, supply_v=9, resistor_ohm=2200, coupling_f=1e-3)
    bench = Bench(feed, source_ohm=2200, load_ohm=1e6)
    # a fresh block of 9 V has 2 Ω inside
    assert bench.op.volts("in") == pytest.approx(9 * 2200 / 4402, rel=1e-6)
    assert bench.op.volts("out") == pytest.approx(0, abs=1e-9)
    assert abs(bench.gain()) == pytest.approx(0.5, rel=0.03)


@pytest.mark.parametrize(("bias", "z_in"), [(0.0, 600.0), (8.0, 600.0), (5.0, 2000.0)])
def test_socket_shows_its_measured_impedance_and_its_bias(bias, z_in):
    socket = make(MicrophoneSocket, z_in_ohm=z_in, bias_v=bias, bias_ohm=4700)
    bench = Bench(socket, source_ohm=1e9)
    assert abs(bench.z("in")) == pytest.approx(z_in, rel=2e-3)
    # a gigohm source takes next to nothing; chassis and earth are joined inside
    loaded = bias * (1e9 / (1e9 + 4700))
    assert bench.op.volts("in") == pytest.approx(loaded, rel=1e-4, abs=1e-9)


# --- other principles -----------------------------------------------------------------------------


@pytest.mark.parametrize("load", [47e3, 1e6, 10e6])
def test_piezo_bass_corner_is_its_capacitance_against_the_load(load):
    mic = make(PiezoMicrophone, sensitivity_mv_per_pa=30, capacitance_f=1e-9, leak_ohm=1e12)
    bench = Bench(mic, load_ohm=load)
    corner = 1 / (W * (load * 1e12 / (load + 1e12)) * 1e-9)
    assert abs(bench.gain(corner)) == pytest.approx(30e-3 / math.sqrt(2), rel=1e-6)
    assert abs(bench.gain(100 * corner)) == pytest.approx(30e-3, rel=1e-3)


def test_cable_capacitance_divides_a_piezos_level():
    mic = make(PiezoMicrophone, sensitivity_mv_per_pa=30, capacitance_f=1e-9, leak_ohm=1e12)
    cable = Capacitor("cable", "out", "cold", 600e-12)
    bench = Bench(mic, load_ohm=1e9, extra=(cable,))
    assert abs(bench.gain()) == pytest.approx(30e-3 / 1.6, rel=1e-3)


def carbon_bench(supply, resistor, **figures):
    mic = make(CarbonMicrophone, rest_ohm=80, depth_per_pa=0.1, **figures)
    feed = (
        VoltageSource("vb", "rail", "cold", dc=supply),
        Resistor("rb", "rail", "out", resistor, noisy=False),
    )
    return Bench(mic, extra=feed)


@pytest.mark.parametrize("supply", [1.5, 3.0, 6.0])
def test_carbon_output_is_current_times_modulated_resistance(supply):
    """EMF = I·R·m behind R, divided by the feed resistor: no current, no sound."""
    bench = carbon_bench(supply, 220)
    current = supply / 300
    assert bench.op.volts("out", "cold") == pytest.approx(current * 80, rel=1e-3)
    assert abs(bench.gain()) == pytest.approx(current * 80 * 0.1 * 220 / 300, rel=1e-3)


def test_carbon_without_current_is_silent():
    assert abs(Bench(make(CarbonMicrophone), load_ohm=200).gain()) < 1e-12


def test_carbon_rustles_with_its_current():
    quiet, loud = carbon_bench(1.5, 220), carbon_bench(6.0, 220)
    assert loud.noise_density() / quiet.noise_density() == pytest.approx(4, rel=0.02)


def test_ribbon_gives_its_sensitivity_from_its_transformed_impedance():
    mic = make(
        RibbonMicrophone,
        sensitivity_mv_per_pa=1.2,
        ribbon_ohm=0.15,
        turns_ratio=40,
        winding_ohm=35,
        bass_hz=40,
    )
    bench = Bench(mic, load_ohm=1e6)
    assert abs(bench.gain(2000)) == pytest.approx(1.2e-3, rel=2e-3)
    assert abs(bench.gain(40)) == pytest.approx(1.2e-3 / math.sqrt(2), rel=5e-3)
    assert abs(bench.z("out", 2000)) == pytest.approx(0.15 * 1600 + 35, rel=0.02)


def test_follower_electret_needs_its_supply_lead():
    lively = Bench(make(FollowerElectret, sensitivity_mv_per_pa=6), load_ohm=100e3)
    assert abs(lively.gain()) == pytest.approx(6e-3, rel=0.05)
    assert abs(lively.z("out")) < 2.2e3
    dead = Bench(make(FollowerElectret, supply_v=0), load_ohm=100e3)
    assert abs(dead.gain()) < 0.1 * abs(lively.gain())


@pytest.mark.parametrize("below", [-20.0, -6.0])
def test_line_source_level_and_impedance(below):
    source = make(LineSource, full_scale_dbu=6, below_full_db=below, z_out_ohm=220, output_f=1.0)
    bench = Bench(source, load_ohm=10e3)
    load = 10e3 * 47e3 / 57e3
    wanted = volts_from_dbu(6 + below) * load / (load + 220)
    assert abs(bench.gain()) == pytest.approx(wanted, rel=1e-4)


# --- pads of other shapes -------------------------------------------------------------------------


def test_t_pad_of_the_textbook():
    """600 ohm, 20 dB: R1 = R2 = Z (k−1)/(k+1) = 491, R3 = 2 Z k/(k²−1) = 121 ohm."""
    k = 10.0
    series, shunt = 600 * (k - 1) / (k + 1), 2 * 600 * k / (k * k - 1)
    pad = make(TPad, first_ohm=series, shunt_ohm=shunt, second_ohm=series)
    bench = Bench(pad, 600, 600)
    assert abs(bench.gain()) == pytest.approx(0.5 / 10, rel=1e-9)
    # matched both ways: each port shows 600 against 600
    assert abs(bench.z("out")) == pytest.approx(300, rel=1e-9)
    assert abs(bench.z("in")) == pytest.approx(300, rel=1e-9)


def test_series_pad_uses_the_load():
    bench = Bench(make(SeriesPad, series_ohm=47e3), 150, 600)
    assert abs(bench.gain()) == pytest.approx(600 / (600 + 47e3 + 150), rel=1e-9)


@pytest.mark.parametrize("up", [0.1, 0.5, 0.9])
def test_trim_pot(up):
    bench = Bench(make(TrimPot, track_ohm=10e3, turned_up=up), 1e-3, 1e9)
    assert abs(bench.gain()) == pytest.approx(up, rel=1e-4)
    assert abs(bench.z("out")) == pytest.approx(10e3 * up * (1 - up), rel=1e-3)


def test_input_divider_before_and_after():
    before = Bench(make(InputDivider, upper_ohm=470e3, lower_ohm=10e3), 1e-3, 1e9)
    after = Bench(make(InputDivider, upper_ohm=10e3, lower_ohm=10e3), 1e-3, 1e9)
    gained_db = 20 * math.log10(abs(after.gain()) / abs(before.gain()))
    assert gained_db == pytest.approx(20 * math.log10(0.5 / (10 / 480)), abs=1e-3)


# --- preamps from components ----------------------------------------------------------------------


def test_unbypassed_common_emitter_gain_is_collector_over_emitter():
    """Gain = −Rc' / (Re + re), with re = VT/Ic from the operating point."""
    amp = make(BipolarPreamp, emitter="not-bypassed", beta=400)
    bench = Bench(amp, load_ohm=100e3)
    ic = (9 - bench.op.volts("g:collector")) / 4.7e3
    load = 1 / (1 / 4.7e3 + 1 / 100e3 + 1 / 100e3)
    wanted = load / (1e3 + 0.025865 / ic) * 400 / 401
    assert abs(bench.gain()) == pytest.approx(wanted, rel=0.01)
    assert bench.gain().real < 0


def test_bypassing_the_emitter_lifts_the_gain_to_gm_times_load():
    bench = Bench(make(BipolarPreamp, emitter="bypassed"), load_ohm=100e3)
    ic = (9 - bench.op.volts("g:collector")) / 4.7e3
    load = 1 / (1 / 4.7e3 + 1 / 100e3 + 1 / 100e3)
    # Early effect at VAF 80 V takes ro in parallel; the bypass capacitor's corner is below 30 Hz
    ro = 80 / ic
    wanted = ic / 0.025865 * load * ro / (load + ro)
    assert abs(bench.gain(3000)) == pytest.approx(wanted, rel=0.02)


def test_common_emitter_input_impedance():
    """Divider ∥ (β+1)(re + Re)."""
    bench = Bench(make(BipolarPreamp, beta=200, input_f=1.0), source_ohm=1e12)
    ic = (9 - bench.op.volts("g:collector")) / 4.7e3
    into_base = 201 * (1e3 + 0.025865 / ic)
    wanted = 1 / (1 / 100e3 + 1 / 22e3 + 1 / into_base)
    assert abs(bench.z("in")) == pytest.approx(wanted, rel=0.02)


def test_jfet_preamp_gain_is_gm_times_drain_load():
    amp = make(JfetPreamp, idss_a=4e-3, pinch_off_v=2.0, drain_ohm=2.2e3, source_ohm=1e3)
    bench = Bench(amp, load_ohm=1e6)
    current = (9 - bench.op.volts("g:drain")) / 2.2e3
    gm = 2 * math.sqrt(current * 1e-3)  # 2 sqrt(Id β), β = IDSS/VTO² = 1 mA/V²
    load = 1 / (1 / 2.2e3 + 1 / 1e6 + 1 / 220e3 + 0.01 * current)
    assert abs(bench.gain()) == pytest.approx(gm * load, rel=0.03)


def test_jfet_preamp_does_not_load_a_crystal():
    bench = Bench(make(JfetPreamp), source_ohm=1e12)
    assert abs(bench.z("in")) == pytest.approx(2.2e6, rel=0.01)


def test_opamp_gain_is_set_by_two_resistors_and_falls_with_its_bandwidth():
    amp = make(OpAmpPreamp, feedback_ohm=100e3, ground_ohm=1e3, bandwidth_hz=1e6)
    bench = Bench(amp, load_ohm=10e3)
    # one pole: at 1 kHz a tenth of the closed-loop corner takes half a percent off
    assert abs(bench.gain(1000)) == pytest.approx(101 / math.hypot(1, 0.101), rel=2e-3)
    # closed-loop corner at GBW / gain
    assert abs(bench.gain(1e6 / 101)) == pytest.approx(101 / math.sqrt(2), rel=0.02)
    assert bench.op.volts("g:drive") == pytest.approx(4.5, abs=0.05)


def test_transistor_ceiling_is_the_smaller_swing():
    amp = make(BipolarPreamp)
    around = Surroundings(4.7e3, 10e3, 3e3, swing_v=1.0)
    assert amp.ceiling_dbu(around) == pytest.approx(
        20 * math.log10(1 / math.sqrt(2) / 0.7746), abs=0.01
    )
    assert make(OpAmpPreamp, supply_v=9, headroom_v=1.5).ceiling_dbu(around) == pytest.approx(
        20 * math.log10(3 / math.sqrt(2) / 0.7746), abs=0.01
    )


# --- own circuits and valves ----------------------------------------------------------------------

CARDS = """a divider with a source of its own
V1 rail 0 9 ac 5
R0 rail 0 1k
R1 in mid 1k
R2 mid 0 1k
C1 mid out 1
"""


def test_own_circuit_stands_between_its_named_nodes():
    stage = make(OwnCircuit, cards=CARDS, input_node="IN")
    bench = Bench(stage, load_ohm=1e6)
    # its own source's AC is left out: only the chain's signal comes through, halved
    assert abs(bench.gain()) == pytest.approx(0.5, rel=2e-3)
    assert bench.op.volts("g:rail") == pytest.approx(9)


def test_own_circuit_with_a_transistor_amplifies():
    stage = parts_library()["own-emitter-stage"]
    bench = Bench(stage, load_ohm=100e3)
    # (10k ∥ 100k ∥ 100k) / (2.2k + re)
    assert abs(bench.gain()) == pytest.approx(8.33e3 / 2.3e3, rel=0.05)


@pytest.mark.parametrize(
    ("figures", "words"),
    [
        ({"cards": "t\nR1 in out 4kk7\nR2 out 0 1"}, "cards, line 2: “4kk7” is not a number"),
        ({"cards": CARDS, "output_node": "exit"}, "output_node: the cards have no node “exit”"),
        ({"cards": ""}, "cards, line 1"),
        ({}, "cards"),
    ],
)
def test_own_circuit_says_what_is_wrong_with_its_cards(figures, words):
    with pytest.raises(ValidationError, match=words):
        make(OwnCircuit, **figures)


@pytest.mark.parametrize("load", [10e3, 100e3])
def test_triode_gain(load):
    """μ RL/(rp + RL), RL the plate resistor beside what follows."""
    stage = make(ValveStage, mu=20, plate_ohm=7.7e3, load_ohm=47e3, output_f=1e-3)
    bench = Bench(stage, load_ohm=load)
    parallel = 1 / (1 / 47e3 + 1 / load + 1e-6)
    assert abs(bench.gain()) == pytest.approx(20 * parallel / (7.7e3 + parallel), rel=1e-4)
    assert bench.gain().real < 0


def test_triode_into_two_interstage_transformers():
    """The corner is (rp ∥ RL ∥ load) over the primary inductance: a bigger core goes lower."""
    corners = []
    for henry in (5.0, 40.0):
        valve = make(ValveStage, output_f=1e-3, load_ohm=1e9)
        coil = ideal_transformer(primary_h=henry)
        port = Port("plate", "0")
        net = StageNet("coil", port, Port("far", "0"))
        coil.build(net)
        extra = (
            *net.elements,
            Resistor("w", "out", "plate", 1e-3, noisy=False),
            Resistor("rl", "far", "0", 100e3, noisy=False),
        )
        bench = Bench(valve, extra=extra)
        f = np.logspace(0.5, 4, 400)
        x = bench.linear.solve(f, bench.system.b_ac[:, None])[:, bench.system.row("far"), 0]
        level = np.abs(x) / np.abs(x).max()
        corners.append(
            float(np.interp(1 / math.sqrt(2), level[: level.argmax()], f[: level.argmax()]))
        )
    source = 1 / (1 / 7.7e3 + 1 / 100e3 + 1e-6 + 1e-9)
    assert corners == pytest.approx([source / (W * 5), source / (W * 40)], rel=0.03)
