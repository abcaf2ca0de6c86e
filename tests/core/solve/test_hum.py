"""Hum of loops and leakage against sums done by hand."""

import math

import pytest

from tests.conftest import gear, station_of
from tests.core.judge.test_findings import codes, find, mended
from tonleiter.core.gear.earthing import EARTH_OHM, LEAKAGE_EMF_V, LEAKAGE_F
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.solve.hum import EARTH_SHAPE, MAINS_SHAPE
from tonleiter.core.solve.loops import closes_a_loop, hum_loops
from tonleiter.core.units.levels import volts_from_dbu

MIC = gear("dynamic-microphone", "mic")
RADIO = gear("microphone-socket", "radio", z_in_ohm=600, wants_dbu=-58)
PAD = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100)
SCREEN_OHM = 2 * 25e-3


def box(**figures):
    return gear(
        "amplifier",
        "mixer",
        expects="microphone",
        gain_db=40,
        gain_high_db=60,
        z_in_ohm=2400,
        ein_dbu=-126,
        z_out_ohm=120,
        output_f=1.0,
        **figures,
    )


def lead(**figures):
    return gear("cable", "lead", length_m=2, screen_mohm_per_m=25, **{"field_ut": 0} | figures)


def hum_v(assessment):
    return volts_from_dbu(assessment.rows[-1].hum_dbu)


@pytest.mark.parametrize("emf", [1e-3, 10e-3])
def test_loop_of_two_earthed_chassis(emf):
    """I = E/(R1 + R2 + Rs); its drop Rs·I along the screen stands in series with the signal."""
    mixer = box(supply="safety-earth", earth_emf_v=emf)
    assessment = assess(station_of(MIC, mixer, PAD, lead(), RADIO))
    harmonics = math.sqrt(sum(a * a for a in EARTH_SHAPE))
    drop = emf * harmonics * SCREEN_OHM / (2 * EARTH_OHM + SCREEN_OHM)
    behind = 100 * 10120 / 10220  # the pad's output resistance
    wanted = drop * 600 / (600 + behind + 2 * 0.08)
    # the 5 Hz coupling inside the radio takes half a percent off at 50 Hz
    assert hum_v(assessment) == pytest.approx(wanted, rel=0.01)


def test_leakage_of_a_double_insulated_box():
    """Half the mains behind 1 nF drives its current along the screen to the radio's earth."""
    assessment = assess(station_of(MIC, box(supply="double-insulated"), PAD, lead(), RADIO))
    amps = [
        LEAKAGE_EMF_V * a * 2 * math.pi * 50 * n * LEAKAGE_F
        for n, a in zip((1, 2, 3, 5), MAINS_SHAPE, strict=True)
    ]
    wanted = math.sqrt(sum(i * i for i in amps)) * SCREEN_OHM * 600 / (600 + 99 + 0.16)
    assert hum_v(assessment) == pytest.approx(wanted, rel=0.01)


def test_mains_frequency_is_the_stations(demo):
    fifty = assess(station_of(MIC, box(supply="double-insulated"), PAD, lead(), RADIO))
    station = fifty.station.model_copy(update={"mains_hz": 60})
    # leakage current grows with frequency, and the radio's bass corner is far below
    assert hum_v(assess(station)) / hum_v(fifty) == pytest.approx(1.2, rel=0.01)


def test_batteries_do_not_hum():
    assert (
        assess(station_of(MIC, box(supply="battery"), PAD, lead(), RADIO)).rows[-1].hum_dbu is None
    )


def test_no_screen_between_no_hum():
    """Chassis bolted together share every volt: no drop in series with the signal."""
    together = assess(station_of(MIC, box(supply="safety-earth", earth_emf_v=10e-3), PAD, RADIO))
    apart = assess(
        station_of(MIC, box(supply="safety-earth", earth_emf_v=10e-3), PAD, lead(), RADIO)
    )
    left = hum_v(together) if together.rows[-1].hum_dbu is not None else 0.0
    assert left < 1e-4 * hum_v(apart)


def test_computer_on_usb_buzzes():
    laptop = gear("line-source", "laptop", supply="usb-computer", earth_emf_v=0)
    quiet = gear("line-source", "laptop", supply="safety-earth", earth_emf_v=0)
    attenuator = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100)
    usb = assess(station_of(laptop, attenuator, lead(), RADIO))
    assert usb.rows[-1].hum_dbu is not None
    assert assess(station_of(quiet, attenuator, lead(), RADIO)).rows[-1].hum_dbu is None


def test_the_loop_is_named_by_its_members():
    assessment = assess(
        station_of(
            MIC,
            gear("cable", "mic-lead"),
            box(supply="safety-earth", earth_emf_v=10e-3),
            PAD,
            lead(),
            RADIO,
        )
    )
    loop = hum_loops(assessment.solution.compiled, assessment.solution.linear)[0]
    assert set(loop.owners("earth")) == {"mixer", "radio"}
    assert loop.owners("stage") == ("lead",)
    assert loop.share == pytest.approx(1.0, abs=1e-6)
    finding = find(assessment, "earth-loop")
    assert finding.says.endswith("are both earthed, joined by the lead")
    assert "Never lift a safety earth" in finding.caution


def test_a_transformer_breaks_the_loop_but_for_its_capacitance():
    before = assess(
        station_of(MIC, box(supply="safety-earth", earth_emf_v=10e-3), PAD, lead(), RADIO)
    )
    coil = gear("transformer", "coil")
    after = assess(
        station_of(MIC, box(supply="safety-earth", earth_emf_v=10e-3), PAD, coil, lead(), RADIO)
    )
    assert closes_a_loop(before.solution.compiled)
    assert not closes_a_loop(after.solution.compiled)
    assert 20 * math.log10(hum_v(before) / hum_v(after)) > 40
    leaky = gear("transformer", "coil", interwinding_f="2n")
    worse = assess(
        station_of(MIC, box(supply="safety-earth", earth_emf_v=10e-3), PAD, leaky, lead(), RADIO)
    )
    assert hum_v(worse) > 3 * hum_v(after)


def test_remedies_are_ranked_and_work():
    before = assess(
        station_of(MIC, box(supply="safety-earth", earth_emf_v=10e-3), PAD, lead(), RADIO)
    )
    finding = find(before, "earth-loop")
    titles = [r.title for r in remedies(before, finding)]
    assert any("transformer" in t for t in titles)
    after = mended(before, finding)
    assert find(after, "hum-quiet").severity == "fine"


def test_a_biased_radio_gets_its_capacitor_with_the_transformer():
    biased = RADIO | {"bias_v": 8, "bias_ohm": 2200}
    before = assess(
        station_of(MIC, box(supply="safety-earth", earth_emf_v=10e-3), PAD, lead(), biased)
    )
    remedy = next(r for r in remedies(before, find(before, "earth-loop")) if "transf" in r.title)
    after = assess(remedy.change(before.station))
    assert "dc-through-winding" not in codes(after)
    assert [r.kind for r in after.rows][-3:] == ["transformer", "capacitor", "microphone-socket"]


def test_running_both_from_one_outlet_helps():
    before = assess(
        station_of(MIC, box(supply="safety-earth", earth_emf_v=10e-3), PAD, lead(), RADIO)
    )
    finding = find(before, "earth-loop")
    offered = [f.title for f in finding.fixes]
    assert any("own outlet" in t for t in offered)


def test_a_floating_box_behind_a_transformer_is_grounded_again_or_run_from_a_battery():
    """Leakage has no way home but through the winding capacitance: the circuit shows it."""
    coil = gear("transformer", "coil", interwinding_f="1n")
    before = assess(station_of(MIC, box(supply="double-insulated"), PAD, coil, lead(), RADIO))
    finding = find(before, "leakage-hum")
    offered = remedies(before, finding)
    assert any(r.title == "Run the mixer from a battery" for r in offered)
    assert any(r.title == "Leave the coil out" for r in offered)
    lefts = [r.leaves_hum_db for r in offered if len(r.leaves) == len(offered[0].leaves)]
    assert lefts == sorted(lefts)


def test_a_boxs_own_ripple_is_hum_at_its_output_and_no_loop():
    """−60 dBu of ripple behind the output impedance, taken down by the pad as speech is."""
    strip = box(supply="double-insulated", ripple_dbu=-60, earth_emf_v=0)
    quiet = assess(station_of(MIC, strip | {"ripple_dbu": -150}, PAD, RADIO))
    found = assess(station_of(MIC, strip, PAD, RADIO))
    loaded_db = found.rows[1].speech_dbu - found.rows[-1].speech_dbu
    # nearly all of it at 100 Hz, where nothing on the way is steep
    assert found.rows[-1].hum_dbu == pytest.approx(-60 - loaded_db, abs=1.0)
    # −150 dBu of ripple is none that anybody could measure
    assert quiet.rows[-1].hum_dbu is None
    finding = next(f for f in found.findings if f.code == "own-hum")
    assert "hums by itself" in finding.says
    (remedy,) = remedies(found, finding)
    assert "battery or a better supply" in remedy.title


def test_a_choke_keeps_a_loops_hum_out_by_its_inductance():
    """The current falls with the loop's impedance; what flows on is induced in both conductors.

    Without: EMF / (R earth twice and screen), of which the screen's share is hum. With 10 mH the
    windings' own resistance and the uncoupled share are left of what stands between the conductors.
    """
    strip = box(supply="safety-earth", earth_emf_v=10e-3, ripple_dbu=-160)
    joined = lead()
    plain = assess(station_of(MIC, strip, PAD, joined, RADIO))
    choke = gear("common-mode-choke", "choke", choke_h="10m", winding_ohm=0.05, leak_share=0.001)
    wound = assess(station_of(MIC, strip, PAD, joined, choke, RADIO))
    loop_ohm = 2 * EARTH_OHM + 0.05
    omega = 2 * math.pi * 50
    less = abs(complex(loop_ohm + 0.05, omega * 10e-3)) / loop_ohm
    # of the drop 0.05 Ω of screen and 0.05 Ω of winding are left, and a thousandth of ωL
    left = abs(complex(0.1, omega * 10e-3 * 1e-3)) / 0.05
    wanted = 20 * math.log10(left / less)
    got = wound.rows[-1].hum_dbu - plain.rows[-1].hum_dbu
    # nearly all of this EMF is at the mains frequency
    assert got == pytest.approx(wanted, abs=1.0)
    assert wound.rows[-1].speech_dbu == pytest.approx(plain.rows[-1].speech_dbu, abs=0.1)
    found = next(f for f in plain.findings if f.code == "earth-loop")
    assert any("ring core" in fix.title for fix in found.fixes)
