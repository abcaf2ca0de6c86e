"""Balanced links, screens and phantom power against sums done by hand."""

import math

import pytest

from tests.conftest import gear, station_of
from tests.core.judge.test_findings import codes, find
from tonleiter.core.gear.active import Amplifier
from tonleiter.core.gear.earthing import EARTH_OHM
from tonleiter.core.gear.net import TIE_OHM
from tonleiter.core.gear.passives import Cable
from tonleiter.core.gear.phantom import PHANTOM_OHM, PhantomCondenser
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.solve.hum import EARTH_SHAPE, MAINS_SHAPE
from tonleiter.core.units.levels import volts_from_dbu

MIC = gear("dynamic-microphone", "mic", output="balanced")
RADIO = gear("microphone-socket", "radio", z_in_ohm=10e3, wants_dbu=-58, supply="battery")
CONDENSER = gear("phantom-condenser", "condenser")
EMF = 10e-3
HARMONICS = math.sqrt(sum(a * a for a in EARTH_SHAPE))


def lead(id="lead", **figures):
    usual = {"length_m": 2, "screen_mohm_per_m": 25, "capacitance_pf_per_m": 0}
    return gear("cable", id, **usual | {"form": "two-core", "field_ut": 0} | figures)


def mixer(**figures):
    usual = {"z_in_ohm": 2400, "gain_db": 40, "gain_high_db": 60, "z_out_ohm": 600, "output_f": 1.0}
    wired = {"input": "balanced", "output": "balanced", "supply": "safety-earth"}
    still = {"earth_emf_v": EMF, "ripple_dbu": -160}
    return gear("amplifier", "mixer", **usual | wired | still | figures)


def box(**figures):
    usual = {"z_in_ohm": 10e3, "z_out_ohm": 100, "low_corner_hz": 0.01, "output_f": 1.0}
    wired = {
        "input": "balanced",
        "cmrr_db": 119,
        "supply": "safety-earth",
        "earth_emf_v": 0,
        "ripple_dbu": -160,
    }
    return gear("amplifier", "box", **usual | wired | figures)


def hum_v(assessment, stage):
    return volts_from_dbu(next(r.hum_dbu for r in assessment.rows if r.id == stage))


def test_leg_imbalance_limits_common_mode_rejection():
    """The screen's drop is common to both legs; legs that differ by ΔR turn ΔR/Zc of it over."""
    assessment = assess(station_of(MIC, mixer(), lead(), box(), RADIO))
    screen = 2 * 25e-3
    common = EMF * HARMONICS * screen / (2 * EARTH_OHM + screen)
    mismatch = Amplifier.LEG_MISMATCH * 300
    turned_over = common * mismatch / (Amplifier.COMMON_OVER_Z_IN * 10e3)
    # the signal's own path from the mixer's EMF to the box: 600 and the leads into 10 kohm
    loaded = 10e3 / (10e3 + 603 + 0.32)
    receiver = common * 10 ** (-119 / 20)
    wanted = math.hypot(turned_over * loaded, 0) + receiver
    assert hum_v(assessment, "box") == pytest.approx(wanted, rel=0.05)


def test_a_receivers_own_rejection_counts_too():
    assessment = assess(station_of(MIC, mixer(), lead(), box(cmrr_db=40), RADIO))
    screen = 2 * 25e-3
    common = EMF * HARMONICS * screen / (2 * EARTH_OHM + screen)
    assert hum_v(assessment, "box") == pytest.approx(common / 100, rel=0.05)


def test_a_screen_open_at_one_end_carries_no_current():
    """Both chassis then differ by the whole EMF, which the balanced input has to reject."""
    both = assess(station_of(MIC, mixer(), lead(), box(cmrr_db=40), RADIO))
    one = assess(station_of(MIC, mixer(), lead(screen="source-end"), box(cmrr_db=40), RADIO))
    assert not any(f.code == "earth-loop" for f in one.findings)
    assert hum_v(one, "box") == pytest.approx(EMF * HARMONICS / 100, rel=0.05)
    # without a joint the chassis differ by more, with a joint less: the joint is what a bond does
    assert hum_v(one, "box") / hum_v(both, "box") == pytest.approx(0.45 / 0.05, rel=0.05)


def test_tying_the_cold_leg_halves_the_level_of_a_driven_pair_only():
    inputs = [gear("amplifier", "box", z_in_ohm=1e6, gain_db=0, output_f=1.0), RADIO]
    speech = {
        form: assess(station_of(MIC, mixer(output=form), lead(), *inputs)).rows[2].speech_dbu
        for form in ("balanced", "impedance-balanced", "unbalanced")
    }
    assert speech["impedance-balanced"] - speech["balanced"] == pytest.approx(6.02, abs=0.1)
    assert speech["unbalanced"] - speech["impedance-balanced"] == pytest.approx(0.0, abs=0.1)


def test_both_schools_of_balanced_to_unbalanced_are_computed():
    before = assess(station_of(MIC, mixer(), lead(), RADIO))
    tied = find(before, "cold-leg-tied")
    assert tied.severity == "fine"
    remedy = remedies(before, tied)[0]
    assert "transformer" in remedy.title
    after = assess(remedy.change(before.station))
    assert after.rows[-1].speech_dbu - before.rows[-1].speech_dbu > 3


@pytest.mark.parametrize("form, wires", [("one-core", 1), ("two-core", 1), ("star-quad", 2)])
def test_pickup_of_a_lead_in_a_mains_field(form, wires):
    """e = 2πf·B·A; A from the length and what twisting leaves between the legs."""
    cable = lead(form=form, field_ut=50, length_m=10)
    assessment = assess(station_of(MIC | {"coil_h": 1e-6}, cable, RADIO))
    area = 10 * Cable.LOOP_MM[form] * 1e-3
    lines = [
        2 * math.pi * 50 * n * 50e-6 * a * area
        for n, a in zip((1, 2, 3, 5), MAINS_SHAPE, strict=True)
    ]
    wanted = math.sqrt(sum(e * e for e in lines)) * 10e3 / (10e3 + 300 + 2 * 0.8 / wires)
    assert hum_v(assessment, "lead") == pytest.approx(wanted, rel=0.01)


def test_hum_from_a_field_is_said_and_a_star_quad_mends_it():
    loud = gear("cable", "lead", length_m=20, form="two-core", field_ut=5)
    before = assess(station_of(MIC, loud, RADIO))
    finding = find(before, "field-hum")
    assert "mains field" in finding.says
    assert "star-quad" in remedies(before, finding)[0].title


def test_what_joins_two_conductors_in_a_plug_is_small():
    assert TIE_OHM < 0.01


# --- phantom --------------------------------------------------------------------------------------


def test_volts_inside_a_condenser():
    """Each leg carries half the current through its feed and its gathering resistor."""
    strip = mixer(phantom="on", earth_emf_v=0)
    assessment = assess(station_of(CONDENSER, lead(), strip, RADIO))
    finding = find(assessment, "phantom-fed")
    wanted = 48 - 1.5e-3 * (PHANTOM_OHM + PhantomCondenser.GATHER_OHM + 0.16)
    assert finding.evidence["capsule_v"] == pytest.approx(wanted, rel=2e-3)


def test_a_condenser_gives_its_quoted_sensitivity_into_an_open_input():
    strip = mixer(phantom="on", z_in_ohm=1e6, earth_emf_v=0)
    assessment = assess(station_of(CONDENSER, strip, RADIO))
    k = int(abs(assessment.solution.f_hz - 1000).argmin())
    gain = abs(assessment.solution.response[k, 0])
    # the pair of 6.81 kohm across 150 ohm takes 1 %
    assert gain == pytest.approx(12e-3, rel=0.02)


def test_few_volts_on_a_pin_are_no_phantom_power():
    biased = RADIO | {"bias_v": 8, "bias_ohm": 12e3}
    before = assess(station_of(CONDENSER, lead(form="one-core"), biased))
    finding = find(before, "no-phantom")
    assert finding.severity == "stop"
    assert "8 V of the radio are no phantom power" in finding.says
    offered = remedies(before, finding)
    assert "phantom feed box, and a lead with two cores" in offered[0].title
    after = assess(offered[0].change(before.station))
    assert find(after, "phantom-fed").severity == "fine"
    assert after.rows[-1].speech_dbu > -60


def test_one_core_does_not_carry_phantom_power():
    before = assess(station_of(CONDENSER, lead(form="one-core"), mixer(phantom="on"), RADIO))
    finding = find(before, "no-phantom")
    assert "both legs" in finding.says
    assert any("two cores" in r.title for r in remedies(before, finding))


def test_phantom_power_spares_a_coil_only_when_both_legs_carry_it():
    strip = mixer(phantom="on")
    right = assess(station_of(MIC, lead(), strip, RADIO))
    assert "dc-through-winding" not in codes(right)
    tied = assess(station_of(MIC | {"output": "unbalanced"}, lead(form="one-core"), strip, RADIO))
    finding = find(tied, "dc-through-winding")
    # 48 V through one 6.81 kohm, the lead and the coil
    assert finding.evidence["dc_ma"] == pytest.approx(48 / (PHANTOM_OHM + 300) * 1e3, rel=0.01)


def test_an_electret_on_phantom_power_is_overfed():
    capsule = gear("electret-2-wire", "capsule")
    before = assess(station_of(capsule, lead(form="one-core"), mixer(phantom="on"), RADIO))
    finding = find(before, "electret-overfed")
    assert finding.evidence["capsule_v"] > 40
    remedy = remedies(before, finding)[0]
    assert remedy.title.startswith("Switch off the phantom power of the mixer; feed it")
    assert find(assess(remedy.change(before.station)), "electret-fed").severity == "fine"
