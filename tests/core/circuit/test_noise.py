import math

import numpy as np
import pytest

from tests.core.circuit.reference import K_BOLTZMANN, Q_ELECTRON, VT, T, noise, total_noise_v
from tonleiter.core.circuit.elements import (
    Bipolar,
    BipolarModel,
    Capacitor,
    CurrentSource,
    Diode,
    DiodeModel,
    Jfet,
    JfetModel,
    PowerLaw,
    Resistor,
    Vcvs,
    VoltageSource,
)
from tonleiter.core.circuit.noise import band_power, spectra

F = np.logspace(1, 5, 81)


def test_thermal_noise_of_200_ohm_in_20_khz():
    """The textbook figure: 0.257 µV RMS at 300 K."""
    f = np.linspace(1e-3, 20e3, 50)
    assert total_noise_v(f, "a", Resistor("r", "a", "0", 200)) == pytest.approx(0.257e-6, rel=0.01)


def test_parallel_resistors_make_the_noise_of_their_parallel_value():
    shares = noise(F, "a", Resistor("r1", "a", "0", 1e3), Resistor("r2", "a", "0", 3e3))
    wanted = math.sqrt(4 * K_BOLTZMANN * T * 750)
    np.testing.assert_allclose(shares.density_v_per_rthz[:, 0], wanted, rtol=1e-9)
    # each contributor's share: i² R∥² with i² = 4kT/R, so 3 : 1
    ratio = shares.psd_v2_per_hz[0, 0, 0] / shares.psd_v2_per_hz[1, 0, 0]
    assert ratio == pytest.approx(3.0, rel=1e-9)


@pytest.mark.parametrize("r", [1e2, 1e4, 1e6])
def test_kt_over_c_whatever_the_resistor(r):
    c = 1e-9
    corner = 1 / (2 * math.pi * r * c)
    f = np.logspace(math.log10(corner) - 5, math.log10(corner) + 5, 4001)
    got = total_noise_v(f, "a", Resistor("r", "a", "0", r), Capacitor("c", "a", "0", c))
    assert got == pytest.approx(math.sqrt(K_BOLTZMANN * T / c), rel=1e-4)


def test_a_noiseless_resistor_is_silent():
    shares = noise(F, "a", Resistor("r", "a", "0", 1e6, noisy=False))
    assert shares.density_v_per_rthz.max() == 0


def test_equivalent_noise_sources():
    """Total of en and in·Rs of an amplifier with gain 10 behind a 1 kohm source."""
    en2, in2, rs = (4e-9) ** 2, (0.5e-12) ** 2, 1e3
    elements = (
        Resistor("rs", "a", "0", rs),
        CurrentSource("in", "a", "0", noise=(PowerLaw(in2),)),
        VoltageSource("en", "b", "a", noise=(PowerLaw(en2),)),
        Resistor("ri", "b", "0", 1e12, noisy=False),
        Vcvs("e", "out", "0", "b", "0", 10),
    )
    wanted = 10 * math.sqrt(en2 + in2 * rs**2 + 4 * K_BOLTZMANN * T * rs)
    got = noise(F, "out", *elements).density_v_per_rthz[:, 0]
    np.testing.assert_allclose(got, wanted, rtol=1e-6)


def test_diode_shot_noise():
    """Shot noise 2qI into the diode's own dynamic resistance VT/I gives 2 q VT²/I."""
    i = 1e-4
    shares = noise(
        F, "a", CurrentSource("i", "0", "a", dc=i), Diode("d", "a", "0", DiodeModel(is_a=1e-15))
    )
    wanted = math.sqrt(2 * Q_ELECTRON * i) * VT / i
    np.testing.assert_allclose(shares.density_v_per_rthz[:, 0], wanted, rtol=1e-6)


def test_bipolar_collector_shot_noise_dominates_a_voltage_driven_stage():
    m = BipolarModel(is_a=1e-15, bf=1e6)
    shares = noise(
        [1e3],
        "c",
        VoltageSource("vb", "b", "0", dc=0.6),
        VoltageSource("vcc", "vcc", "0", dc=10),
        Resistor("rc", "vcc", "c", 1e4),
        Bipolar("q", "c", "b", "0", m),
    )
    ic = 1e-15 * math.expm1(0.6 / VT)
    share = dict(zip(shares.names, shares.psd_v2_per_hz[:, 0, 0], strict=True))
    assert share["q.collector"] == pytest.approx(2 * Q_ELECTRON * ic * 1e8, rel=1e-4)
    assert share["q.base"] == pytest.approx(0, abs=1e-25)


def test_jfet_channel_noise():
    m = JfetModel(vto_v=-2, beta_a_per_v2=1e-3)
    shares = noise(
        [1e3],
        "d",
        VoltageSource("vdd", "vdd", "0", dc=15),
        Resistor("rd", "vdd", "d", 1e3),
        Resistor("rg", "g", "0", 1.0, noisy=False),
        Jfet("j", "d", "g", "0", m),
    )
    gm = 2 * 1e-3 * 2
    share = dict(zip(shares.names, shares.psd_v2_per_hz[:, 0, 0], strict=True))
    assert share["j.channel"] == pytest.approx(4 * K_BOLTZMANN * T * 2 / 3 * gm * 1e6, rel=1e-5)


@pytest.mark.parametrize("exponent", [0.0, 0.5, 1.0, 1.66, 2.0])
def test_band_power_of_power_laws_is_exact_on_a_coarse_grid(exponent):
    f = np.array([20.0, 300.0, 5000.0])
    psd = spectra([(PowerLaw(3e-15, exponent),)], f)[0]
    if exponent == 1.0:
        wanted = 3e-15 * 1e3 * math.log(5000 / 20)
    else:
        m = 1 - exponent
        wanted = 3e-15 * 1e3**exponent * (5000**m - 20**m) / m
    assert float(band_power(psd, f)) == pytest.approx(wanted, rel=1e-9)


def test_band_power_of_nothing():
    assert float(band_power(np.zeros(5), np.arange(1.0, 6.0))) == 0
    assert float(band_power(np.array([1.0]), np.array([100.0]))) == 0


def test_a_density_with_nothing_in_a_cell_is_added_by_trapezoids():
    """From 0 to 1 at 0 to 1 Hz a triangle; from 1 to 2 at 1 to 2 Hz a power law, which is exact."""
    f = np.array([0.0, 1.0, 2.0, 4.0, 8.0])
    psd = np.array([0.0, 1.0, 2.0, 0.0, 0.0])
    # a triangle up, f¹ from 1 to 2, a triangle down over 2 Hz, nothing
    assert band_power(psd, f) == pytest.approx(0.5 + 1.5 + 2.0)
