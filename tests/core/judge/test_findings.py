"""Every finding: when it comes, when it does not, and that its remedies do what they say."""

import math
import re

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import Assessment, assess, remedies
from tonleiter.core.judge.findings.amplifying import insert_preamp
from tonleiter.core.judge.findings.case import Case
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.headline import headline

DYNAMIC = gear("dynamic-microphone", "dynamic", coil_ohm=300)
ELECTRET = gear("electret-2-wire", "headset", current_a=0.3e-3, quoted_supply_v=3)
CABLE = gear("cable", "lead", length_m=3)
MIXER = gear(
    "amplifier",
    "mixer",
    expects="microphone",
    gain_db=40,
    gain_low_db=10,
    gain_high_db=60,
    z_in_ohm=2400,
    z_out_ohm=120,
    ein_dbu=-126,
    works_from_dbu=-30,
)
EQUALISER = gear("amplifier", "equaliser", expects="line", ein_dbu=-92)
PAD = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100)
COIL = gear("transformer", "isolator")
PLAIN = gear("microphone-socket", "plain-set")
BIASED = gear("microphone-socket", "biased-set", bias_v=8, bias_ohm=2200, z_in_ohm=600)
FEED = gear("bias-feed", "feed", supply_v=3, resistor_ohm=2200)


def find(assessment: Assessment, code: str) -> Finding:
    found = [f for f in assessment.findings if f.code == code]
    assert found, f"{code} not among {[f.code for f in assessment.findings]}"
    return found[0]


def codes(assessment: Assessment) -> set[str]:
    return {f.code for f in assessment.findings if f.severity != "fine"}


def mended(assessment: Assessment, finding: Finding, which: int = 0) -> Assessment:
    offered = remedies(assessment, finding)
    assert offered, f"no remedy for {finding.code}"
    after = assess(offered[which].change(assessment.station))
    assert finding.code not in codes(after)
    assert {f.key for f in after.stops()} <= {f.key for f in assessment.stops()}
    return after


# --- DC where it does harm ------------------------------------------------------------------------


@pytest.mark.parametrize("chain", [(DYNAMIC, BIASED), (DYNAMIC, CABLE, BIASED)])
def test_bias_on_a_dynamic_coil(chain):
    before = assess(station_of(*chain))
    finding = find(before, "dc-through-winding")
    assert finding.severity == "stop"
    # the cable's and the chassis' fractions of an ohm are in the loop too
    assert finding.evidence["dc_ma"] == pytest.approx(8 / 2500 * 1e3, rel=2e-3)
    after = mended(before, finding)
    capacitor = next(r for r in after.rows if r.kind == "capacitor")
    assert capacitor.gear.plus_side == "output"  # the radio is the higher side
    assert "capacitor-reversed" not in codes(after)


def test_bias_on_a_transformer_winding_of_the_demo(demo):
    before = assess(demo)
    finding = find(before, "dc-through-winding")
    assert finding.stage == "isolator"
    after = mended(before, finding)
    kinds = [r.kind for r in after.rows]
    assert kinds[-3:] == ["capacitor", "cable", "microphone-socket"]
    assert after.corners_hz[0] > before.corners_hz[0]
    assert after.rows[-1].dc_v == pytest.approx(8, abs=0.05)  # the rail is whole again


def test_a_deep_voice_is_offered_less_bass_and_others_are_not(demo):
    deep = remedies(assess(demo), find(assess(demo), "dc-through-winding"))
    assert len(deep) == 2
    station = station_of(DYNAMIC, BIASED)
    assert len(remedies(assess(station), find(assess(station), "dc-through-winding"))) == 1


def test_no_dc_no_finding():
    assert "dc-through-winding" not in codes(assess(station_of(DYNAMIC, PLAIN)))
    found = find(
        assess(station_of(DYNAMIC, MIXER, PAD, COIL, gear("capacitor", "c"), BIASED)),
        "windings-clear",
    )
    assert found.severity == "fine"


def test_capacitor_the_wrong_way_round():
    wrong = gear("capacitor", "c", capacitance_f="10u", plus_side="input")
    before = assess(station_of(DYNAMIC, wrong, BIASED))
    finding = find(before, "capacitor-reversed")
    assert finding.severity == "stop"
    assert finding.evidence["dc_v"] == pytest.approx(-8, rel=0.01)
    assert mended(before, finding).rows[1].gear.plus_side == "output"


@pytest.mark.parametrize("side", ["output", "not-polarised"])
def test_capacitor_the_right_way_round(side):
    right = gear("capacitor", "c", capacitance_f="10u", plus_side=side)
    assert "capacitor-reversed" not in codes(assess(station_of(DYNAMIC, right, BIASED)))


# --- electret bias --------------------------------------------------------------------------------


def test_electret_behind_a_mixer_is_dead():
    before = assess(station_of(ELECTRET, CABLE, MIXER, PAD, BIASED))
    finding = find(before, "electret-no-bias")
    assert finding.severity == "stop"
    offered = remedies(before, finding)
    assert any("straight into" in r.title for r in offered)
    fed = next(r for r in offered if r.title.startswith("Feed it"))
    after = assess(fed.change(before.station))
    # the feed goes to the far end of the cable
    assert [r.kind for r in after.rows][:3] == ["electret-2-wire", "cable", "bias-feed"]
    assert after.rows[0].capsule_v > 1.0


def test_levels_of_a_dead_microphone_are_not_judged():
    before = assess(station_of(ELECTRET, MIXER, PAD, PLAIN))
    assert codes(before) == {"electret-no-bias"}


def test_electret_on_a_radio_with_bias_is_fine():
    assessment = assess(station_of(ELECTRET, BIASED))
    assert find(assessment, "electret-fed").severity == "fine"
    assert "electret-starved" not in codes(assessment)


def test_starved_electret():
    weak = FEED | {"resistor_ohm": 10e3}
    before = assess(station_of(ELECTRET, weak, PLAIN))
    finding = find(before, "electret-starved")
    assert finding.evidence["capsule_v"] < finding.evidence["needs_v"]
    after = mended(before, finding)
    assert after.rows[0].capsule_v >= 1.0


def test_starved_by_the_radio():
    weak = BIASED | {"bias_v": 2, "bias_ohm": 10e3}
    before = assess(station_of(ELECTRET, weak))
    after = mended(before, find(before, "electret-starved"))
    assert "bias-feed" in [r.kind for r in after.rows]


def test_two_supplies_on_one_capsule():
    direct = gear("bias-feed", "feed", supply_v=3, resistor_ohm=2200, coupling_f="10u")
    # a battery box without its coupling capacitor: the microphone line goes straight through
    second = gear("bias-feed", "second", supply_v=9, resistor_ohm=10e3)
    before = assess(station_of(ELECTRET, direct, second, PLAIN))
    # the second stands behind the first one's capacitor: only one feeds the capsule
    assert "electret-fed-twice" not in codes(before)


def test_fed_twice_through_a_pad(monkeypatch):
    """A battery on the microphone side and bias on the pin meet at the capsule."""
    from tonleiter.core.gear.bias_feed import BiasFeed

    original = BiasFeed.build

    def without_capacitor(self, net):
        original(self, net)
        net.resistor("wire", net.inlet.hot, net.outlet.hot, 1.0)

    monkeypatch.setattr(BiasFeed, "build", without_capacitor)
    before = assess(station_of(ELECTRET, FEED, BIASED))
    finding = find(before, "electret-fed-twice")
    assert finding.evidence["feeds"] == 2
    assert any("Leave" in r.title for r in remedies(before, finding))
    for k in range(len(remedies(before, finding))):
        mended(before, finding, k)


def test_a_dynamic_wants_no_feed():
    before = assess(station_of(DYNAMIC, FEED, PLAIN))
    assert "needless-bias-feed" in codes(before)
    after = mended(before, find(before, "needless-bias-feed"))
    assert [r.kind for r in after.rows] == ["dynamic-microphone", "microphone-socket"]


CARBON = gear("carbon-microphone", "handset", rest_ohm=80)


def test_carbon_without_current_is_dead_until_fed():
    before = assess(station_of(CARBON, CABLE, MIXER | {"gain_db": 10}, PAD, PLAIN))
    finding = find(before, "carbon-no-current")
    assert finding.severity == "stop"
    offered = remedies(before, finding)
    # once it lives it turns out too hot for the mixer: said, and mended next
    assert "line into mic" in offered[0].effect
    after = assess(offered[0].change(before.station))
    assert [r.kind for r in after.rows][:3] == ["carbon-microphone", "cable", "bias-feed"]
    mended(after, find(after, "line-into-mic"))
    assert find(after, "carbon-fed").evidence["dc_ma"] >= 10


def test_carbon_with_too_much_current():
    hot = FEED | {"supply_v": 12, "resistor_ohm": 47}
    before = assess(station_of(CARBON, hot, PAD, PLAIN))
    finding = find(before, "carbon-hot")
    assert finding.evidence["dc_ma"] > finding.evidence["burns_ma"]
    mended(before, finding)


def test_ribbon_is_guarded_from_the_radios_bias():
    before = assess(station_of(gear("ribbon-microphone", "foil"), BIASED))
    mended(before, find(before, "dc-through-winding"))


def test_piezo_into_a_transistor_radio_sounds_thin():
    piezo = gear("piezo-microphone", "crystal")
    before = assess(station_of(piezo, PLAIN))
    finding = find(before, "bass-corner-high")
    # 1.5 nF into 600 ohm: 177 kHz, so the response climbs all through the band
    assert finding.evidence["corner_hz"] > 1000
    fet = assess(station_of(piezo, gear("jfet-preamp", "fet"), PAD, PLAIN))
    assert "bass-corner-high" not in codes(fet)
    valve = gear("microphone-socket", "valve-set", z_in_ohm=100e3, wants_dbu=-35, clip_dbu=0)
    thin = assess(station_of(piezo, valve, purpose="am-voice"))
    assert mended(thin, find(thin, "bass-corner-high")).corners_hz[0] < 150


def test_a_line_source_hears_neither_voice_nor_room():
    line = gear("line-source", "laptop", full_scale_dbu=6, below_full_db=-16)
    near = assess(station_of(line, PAD, PLAIN, distance_mm=20))
    far = assess(station_of(line, PAD, PLAIN, distance_mm=500))
    assert near.rows[0].speech_dbu == far.rows[0].speech_dbu == pytest.approx(-10, abs=0.3)
    assert "voice" not in near.solution.noise_shares_at(0) or (
        near.solution.noise_shares_at(0)["voice"] == 0
    )


def test_a_high_source_gets_a_pad_that_counts_what_loading_takes_already():
    source = gear(
        "line-source", "old-player", z_out_ohm=4.7e3, full_scale_dbu=10, below_full_db=-14
    )
    before = assess(station_of(source, PLAIN))
    after = mended(before, find(before, "line-into-mic"))
    assert after.rows[-1].speech_dbu == pytest.approx(-53, abs=2)


# --- level ----------------------------------------------------------------------------------------


def test_line_into_a_microphone_socket():
    before = assess(station_of(DYNAMIC, MIXER | {"gain_db": 50}, PLAIN))
    finding = find(before, "line-into-mic")
    assert finding.severity == "stop"
    after = mended(before, finding)
    assert codes(after) == set()
    window = after.rows[-1].window
    assert after.rows[-1].speech_dbu == pytest.approx(window.middle_dbu, abs=2)


def test_microphone_into_a_line_input():
    before = assess(station_of(DYNAMIC, EQUALISER, PLAIN))
    finding = find(before, "mic-into-line")
    assert finding.evidence["speech_dbu"] < -50
    mended(before, finding)


def test_peaks_over_a_ceiling():
    low = MIXER | {"clip_dbu": -10, "works_from_dbu": -40, "works_to_dbu": -20}
    before = assess(station_of(DYNAMIC, low, PAD, PLAIN))
    finding = find(before, "over-ceiling")
    assert finding.severity == "stop"
    assert finding.evidence["headroom_db"] < 0
    after = mended(before, finding)
    assert after.rows[1].headroom_db > 3


def test_close_to_a_ceiling_is_minded_not_stopped():
    level = assess(station_of(DYNAMIC, MIXER, PAD, PLAIN)).rows[1].peak_dbu
    # a sine at the ceiling has its peaks 3 dB higher
    tight = MIXER | {"clip_dbu": level - 3.01 + 1.5}
    finding = find(assess(station_of(DYNAMIC, tight, PAD, PLAIN)), "over-ceiling")
    assert finding.severity == "mind"


@pytest.mark.parametrize(
    ("low", "high", "code"), [(-50, -40, "under-window"), (-90, -75, "over-window")]
)
def test_outside_the_radios_window(low, high, code):
    radio = PLAIN | {
        "wants_dbu": (low + high) / 2,
        "gain_range_db": (high - low) / 0.7,
        "clip_dbu": -20,
    }
    before = assess(station_of(DYNAMIC, MIXER, PAD, radio))
    after = mended(before, find(before, code))
    assert low <= after.rows[-1].speech_dbu <= high


def test_quiet_without_any_box_gets_a_preamp_or_a_closer_mouth():
    deaf = PLAIN | {"wants_dbu": -40, "gain_range_db": 14, "clip_dbu": -10}
    before = assess(station_of(DYNAMIC, deaf, distance_mm=60))
    titles = [r.title for r in remedies(before, find(before, "under-window"))]
    assert any("preamp" in t for t in titles)


def test_level_right_says_so():
    assessment = assess(station_of(DYNAMIC, PLAIN | {"wants_dbu": -58}))
    assert find(assessment, "level-right").severity == "fine"


# --- loading and bass -----------------------------------------------------------------------------


def test_a_high_impedance_dynamic_on_a_low_input():
    high = DYNAMIC | {"coil_ohm": 50e3, "sensitivity_mv_per_pa": 20}
    before = assess(station_of(high, PLAIN))
    finding = find(before, "load-too-low")
    assert finding.evidence["loss_db"] == pytest.approx(38.5, abs=0.3)
    mended(before, finding)


def test_a_pad_too_low_for_its_amplifier():
    heavy = PAD | {"series_ohm": 47, "shunt_ohm": 10}
    before = assess(station_of(DYNAMIC, MIXER | {"gain_db": 20}, heavy, PLAIN))
    mended(before, find(before, "load-too-low"))


def test_bridged_sources_are_left_alone():
    assert "load-too-low" not in codes(assess(station_of(DYNAMIC, MIXER, PAD, PLAIN)))


def test_small_capacitor_thins_the_bass():
    small = gear("capacitor", "c", capacitance_f="0.22u")
    before = assess(station_of(DYNAMIC, small, PLAIN))
    finding = find(before, "bass-corner-high")
    assert finding.evidence["corner_hz"] > finding.evidence["limit_hz"] == 150
    after = mended(before, finding)
    assert after.corners_hz[0] < 150


def test_the_purpose_decides_how_much_bass_is_wanted():
    small = gear("capacitor", "c", capacitance_f="0.68u")
    chat = assess(station_of(DYNAMIC, small, PLAIN))
    weak = assess(station_of(DYNAMIC, small, PLAIN, purpose="ssb-weak"))
    assert "bass-corner-high" in codes(chat)
    assert "bass-corner-high" not in codes(weak)


# --- remedies in general --------------------------------------------------------------------------


def test_remedies_are_deterministic_and_leave_the_station_alone(demo):
    before = assess(demo)
    finding = before.findings[0]
    first, second = remedies(before, finding), remedies(before, finding)
    assert [r.title for r in first] == [r.title for r in second]
    assert before.station == demo


def test_findings_come_gravest_first(demo):
    order = {"stop": 0, "mind": 1, "fine": 2}
    grades = [order[f.severity] for f in assess(demo).findings]
    assert grades == sorted(grades)


def test_every_finding_is_one_plain_sentence_with_figures(demo):
    for finding in assess(demo).findings:
        assert "\n" not in finding.says
        assert finding.evidence
        units = {key.rsplit("_", 1)[-1] for key in finding.evidence}
        assert units <= {"ma", "v", "dbu", "db", "hz", "ohm", "share", "feeds"}


def test_a_remedy_for_one_stage_does_not_have_to_mend_the_same_at_another():
    """Box and radio both get too little; turning the box up is a remedy for the box."""
    quiet = MIXER | {"gain_db": 12, "works_from_dbu": -30, "works_to_dbu": 4}
    deaf = PLAIN | {"z_in_ohm": 10e3, "wants_dbu": -2, "gain_range_db": 17, "clip_dbu": 24}
    before = assess(station_of(DYNAMIC, quiet, PAD, deaf))
    both = [f for f in before.findings if f.code == "under-window"]
    assert {f.stage for f in both} == {"mixer", "plain-set"}
    box = next(f for f in both if f.stage == "mixer")
    remedy = next(r for r in remedies(before, box) if r.title.startswith("Turn the mixer up"))
    after = assess(remedy.change(before.station))
    assert [f.stage for f in after.findings if f.code == "under-window"] == ["plain-set"]


def test_what_is_silent_asks_for_the_most_that_a_preamp_gives():
    """No speech at all is infinitely many decibels too little: sixty are offered, not an error."""
    now = assess(station_of(DYNAMIC, gear("microphone-socket", "radio")))
    case = Case(now.station, now.solution, now.rows)
    assert "60 dB" in insert_preamp(case, 1, math.inf).title


# --- what mutation let pass ----------------------------------------------------------------------

LINE_IN = gear("line-input", "recorder")


def test_a_preamp_before_a_line_input_is_as_strong_as_it_takes():
    """Six decibels over the low end of its window, within a step of what there is to buy."""
    before = assess(station_of(DYNAMIC, EQUALISER, PLAIN))
    fix = next(f for f in find(before, "mic-into-line").fixes if "preamp" in f.title.lower())
    row = next(r for r in assess(fix.apply(before.station)).rows if r.id == "equaliser")
    assert row.speech_dbu == pytest.approx(row.window.low_dbu + 6, abs=2)


@pytest.mark.parametrize(
    ("distance_mm", "place"),
    # whoever speaks from across the desk first comes nearer; who is near has turned all there is
    [(300, "first"), (60, "after what is turned")],
)
def test_when_to_speak_closer(distance_mm, place):
    few = gear("microphone-socket", "set", wants_dbu=-40, gain_range_db=6)
    mixer = dict(MIXER, gain_db=15)
    before = assess(station_of(DYNAMIC, mixer, few, distance_mm=distance_mm))
    fixes = find(before, "under-window").fixes
    nearer = [k for k, fix in enumerate(fixes) if fix.title.startswith("Speak closer")]
    assert len(nearer) == 1
    turned = next(k for k, fix in enumerate(fixes) if "mixer" in fix.title)
    assert (nearer[0] < turned) == (place == "first")


@pytest.mark.parametrize(("input", "is_tied"), [("unbalanced", True), ("balanced", False)])
def test_a_cold_leg_is_tied_only_where_one_leg_is_all_there_is(input, is_tied):
    out = dict(MIXER, output="balanced")
    behind = dict(EQUALISER, input=input)
    codes = [f.code for f in assess(station_of(DYNAMIC, out, behind, LINE_IN)).findings]
    # what stands behind a balanced input has legs of its own and says its own
    said = [
        f.stage
        for f in assess(station_of(DYNAMIC, out, behind, LINE_IN)).findings
        if f.code == "cold-leg-tied"
    ]
    assert ("equaliser" in said) == is_tied, codes


def test_names_that_say_which_are_read_as_they_stand():
    """Whatever is found, offered and said on top: no article stands before an article."""
    made = station_of(
        gear("electret-2-wire", "sill") | {"name": "my gooseneck"},
        gear("cable", "lead") | {"name": "Anna’s curly lead"},
        gear("bias-feed", "tin", supply_v=9) | {"name": "the feed in a mint tin"},
        gear("compressor", "one") | {"name": "a second-hand squeezer"},
        gear("compressor", "two") | {"name": "our other squeezer"},
        gear("transformer", "iron") | {"name": "the old iron"},
        gear("microphone-socket", "rig", bias_v=5, bias_ohm=1000, z_in_ohm=600)
        | {"name": "The neighbour’s set"},
    )
    verdict = verdict_of(made)
    said = [headline(verdict.assessment, verdict.stops()).says]
    for finding in verdict.findings:
        said += [finding.says, finding.proof]
        said += [text for r in verdict.remedies(finding) for text in (r.title, r.effect)]
    assert len(said) > 15
    twice = re.compile(r"\bthe (?:the|a|my|our|Anna)\b", re.I)
    assert [s for s in said if twice.search(s)] == []
    assert any("my gooseneck" in s or "neighbour’s set" in s for s in said)
