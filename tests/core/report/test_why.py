"""Why a figure is what it is: the steps add up, and what it hangs on does what it says."""

import re

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.gear.figure import Figure
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.prove import Proof
from tonleiter.core.report.why.at_end import why_bass, why_hum, why_knob, why_noise, why_room
from tonleiter.core.report.why.evidence import spoken
from tonleiter.core.report.why.finding import why_finding
from tonleiter.core.report.why.level import why_level
from tonleiter.core.report.why.model import MOST_STEPS
from tonleiter.core.report.why.reading import why_reading
from tonleiter.core.solve.levels import SILENT_DBU
from tonleiter.core.station.edits import change_gear

NUMBER = re.compile(r"[−-]?\d+(?:\.\d+)?")


def figure(text):
    return float(NUMBER.search(text).group().replace("−", "-"))


def judged(station, chain=None):
    return verdict_of(station, chain or station.chains[0].id).assessment


def pad_bench():
    return station_of(
        gear("dynamic-microphone", "stage", sensitivity_mv_per_pa=2, coil_ohm=300),
        gear("amplifier", "strip", gain_db=40, gain_low_db=0, gain_high_db=60),
        gear("l-pad", "pad", series_ohm=10000, shunt_ohm=100),
        gear("microphone-socket", "radio", z_in_ohm=1000),
    )


@pytest.mark.long
def test_the_steps_of_a_level_add_up_to_it():
    """Source, loading, stages: their decibels are the level, for every chain of the demo."""
    now = judged(pad_bench())
    for index in range(len(now.rows)):
        steps = [s.db for s in why_level(now, index).steps if s.db is not None]
        assert sum(steps) == pytest.approx(now.rows[index].speech_dbu, abs=0.1)


@pytest.mark.parametrize("k", range(6))
@pytest.mark.table(keep=4)
def test_the_steps_add_up_on_the_demo(demo, k):
    now = judged(demo, demo.chains[k].id)
    why = why_level(now)
    assert sum(s.db for s in why.steps if s.db is not None) == pytest.approx(
        now.rows[-1].speech_dbu, abs=0.1
    )
    assert 3 <= len(why.steps) + len(why.hangs) <= MOST_STEPS + 1


def test_a_divider_takes_what_two_resistors_take():
    """300 ohm into 1 kilohm: 20 lg(1.3) = 2.28 dB, by hand."""
    now = judged(
        station_of(
            gear("dynamic-microphone", "stage", coil_ohm=300, coil_h=1e-6),
            gear("microphone-socket", "radio", z_in_ohm=1000),
        )
    )
    loading = why_level(now).steps[2]
    assert loading.db == pytest.approx(-2.28, abs=0.02)
    assert loading.value == "−2.3 dB"


def test_a_capsule_is_no_source_of_open_volts():
    """180 kΩ on some kΩ is a current; nobody measures its 300 mV."""
    now = judged(
        station_of(
            gear("electret-2-wire", "capsule"),
            gear("microphone-socket", "radio", bias_v=8, bias_ohm=2200, z_in_ohm=600),
        )
    )
    says = [s.says for s in why_level(now).steps]
    assert any("into the" in s for s in says)
    assert not any("nothing on it" in s for s in says)


def test_what_it_hangs_on_does_what_it_says():
    """Each figure, moved in the station itself, brings the value that was told."""
    station = pad_bench()
    now = judged(station)
    hangs = why_level(now).hangs
    assert hangs
    moved = 0
    for step in hangs:
        if step.gear not in station.gear_by_id:
            continue
        value = station.gear_by_id[step.gear].figure(step.field).value
        more = value + 1 if "1 dB more" in step.says else value * 1.1
        other = change_gear(station, step.gear, **{step.field: Figure(value=more)})
        assert figure(step.value) == pytest.approx(judged(other).rows[-1].speech_dbu, abs=0.15)
        moved += 1
    assert moved


def test_a_decibel_more_of_a_source_is_a_decibel_more_of_level_and_under_it_of_hum(demo):
    """With a loop of grounds: at its contacts, as the verdict was."""
    now = judged(demo, "hf-weak-data")
    level = next(s for s in why_level(now).hangs if "largest level" in s.says)
    assert figure(level.value) == pytest.approx(now.rows[-1].speech_dbu + 1, abs=0.06)
    under = now.rows[-1].speech_dbu - now.rows[-1].hum_dbu
    hum = next(s for s in why_hum(now).hangs if "largest level" in s.says)
    assert figure(hum.value) == pytest.approx(under + 1, abs=0.2)
    assert any("USB lead" in s.says for s in why_hum(now).steps)


def test_the_gain_is_reckoned_from_what_the_radio_wants():
    """Half its way, and the difference as a share of its range."""
    station = station_of(
        gear("dynamic-microphone", "stage"),
        gear("microphone-socket", "radio", z_in_ohm=1000, wants_dbu=-60, gain_range_db=40),
    )
    now = judged(station)
    why = why_knob(now)
    speech = now.rows[-1].speech_dbu
    assert figure(why.steps[-1].value) == pytest.approx(50 + (-60 - speech) / 40 * 100, abs=0.6)
    asked = next(s for s in why.steps if "wants" in s.says)
    assert (asked.gear, asked.field) == ("radio", "wants_dbu")
    turned = next(s for s in why.steps if s.says.startswith("it gets "))
    assert figure(turned.value) == pytest.approx(abs(speech + 60), abs=0.06)
    assert turned.says.startswith("it gets more" if speech > -60 else "it gets less")
    assert not any("peaks stand otherwise" in s.says for s in why.steps), "it is speech"


@pytest.mark.parametrize(("marks", "digits"), [(10, 1), (100, 0)])
def test_a_scale_of_ten_is_told_in_tenths_and_one_of_a_hundred_whole(marks, digits):
    now = judged(
        station_of(
            gear("dynamic-microphone", "stage"),
            gear("microphone-socket", "radio", marked_to=marks),
        )
    )
    values = [s.value for s in why_knob(now).hangs if NUMBER.fullmatch(s.value)]
    assert values
    assert all(len(v.partition(".")[2]) == digits for v in values)


def test_what_a_finding_hangs_on_is_its_own_figure():
    """Volts of bias, a tenth more: a tenth more on the coil, and no other finding's figure."""
    now = judged(
        station_of(
            gear("dynamic-microphone", "stage"),
            gear("microphone-socket", "radio", bias_v=8, bias_ohm=2200, z_in_ohm=600),
        )
    )
    finding = next(f for f in now.findings if f.code == "dc-through-winding")
    key, volts = next(iter(finding.evidence.items()))
    hangs = why_finding(now, finding).hangs
    more = next(s for s in hangs if s.field == "bias_v")
    assert figure(more.value) / figure(spoken(key, volts)) == pytest.approx(1.1, abs=0.02)


def test_room_is_ceiling_and_three_less_peaks():
    now = judged(pad_bench())
    index = next(k for k, r in enumerate(now.rows) if r.headroom_db is not None)
    why = why_room(now, index)
    by_words = {s.says: figure(s.value) for s in why.steps if s.value}
    peaks = next(v for k, v in by_words.items() if k == "so peaks come to")
    ceiling = next(v for k, v in by_words.items() if k.startswith("the largest clean sine"))
    room = next(v for k, v in by_words.items() if k.startswith("so peaks are"))
    # a sine's peaks stand 3.01 dB over its RMS
    assert room == pytest.approx(ceiling + 3.01 - peaks, abs=0.15)


@pytest.mark.parametrize(("clip_dbu", "words"), [(0, "clear"), (-80, "over it")])
def test_a_ceiling_leads_to_its_figure_and_says_which_side_peaks_are_on(clip_dbu, words):
    now = judged(
        station_of(
            gear("dynamic-microphone", "stage", max_spl_db=140),
            gear("microphone-socket", "radio", z_in_ohm=1000, clip_dbu=clip_dbu),
        )
    )
    why = why_room(now, len(now.rows) - 1)
    sine = next(s for s in why.steps if s.says.startswith("the largest clean sine"))
    assert (sine.gear, sine.field) == ("radio", "clip_dbu")
    assert figure(sine.value) == clip_dbu
    assert why.steps[0].gear == "stage", "who speaks louder has less room"
    assert why.steps[-1].says == f"so peaks are {words} by"
    assert ("too much" in why.asks) is (words == "over it")
    of_mic = why_room(now, 0)
    sine = next(s for s in of_mic.steps if s.says.startswith("the largest clean sine"))
    assert (sine.gear, sine.field) == ("stage", "max_spl_db")


def test_shares_of_noise_are_of_the_solution():
    now = judged(pad_bench())
    shares = [s for s in why_noise(now).steps if "of its power" in s.says]
    assert shares
    of_room = next(s for s in shares if "the room" in s.says)
    told = now.solution.noise_shares_at(len(now.rows) - 1)["voice"]
    assert figure(of_room.value) == pytest.approx(100 * told, abs=0.6)


def test_bass_names_the_part_that_takes_it():
    """A crystal of 1.4 nF on 100 kilohm: 1/(2πRC) is 1.1 kHz."""
    now = judged(
        station_of(
            gear("piezo-microphone", "crystal", capacitance_f=1.4e-9),
            gear("microphone-socket", "radio", z_in_ohm=100e3),
            purpose="am-voice",
        )
    )
    why = why_bass(now)
    assert "1.4 nF in the crystal" in why.steps[1].says
    assert why.steps[1].value == "1.1 kHz"
    assert {(s.gear, s.field) for s in why.hangs} == {
        ("crystal", "capacitance_f"),
        ("radio", "z_in_ohm"),
    }


@pytest.mark.long
def test_every_finding_of_the_demo_has_an_answer_that_can_be_read(demo):
    """Four to nine lines where figures prove it; each line has words; links lead to pieces."""
    seen = 0
    for chain in demo.chains:
        found = verdict_of(demo, chain.id)
        for finding in found.findings:
            why = why_finding(found.assessment, finding)
            seen += 1
            assert why.steps, finding.code
            assert len(why.steps) + len(why.hangs) <= MOST_STEPS + 2, finding.code
            assert all(s.says.strip() for s in (*why.steps, *why.hangs))
            assert all("nan" not in s.value and "inf" not in s.value for s in why.steps)
    assert seen > 15


def test_a_dead_microphone_says_what_it_has_and_gives_no_level():
    now = judged(station_of(gear("electret-2-wire", "capsule"), gear("microphone-socket", "radio")))
    assert now.rows[-1].speech_dbu < SILENT_DBU
    why = why_level(now)
    assert why.asks == "Why nothing at the radio?"
    assert any("without its DC" in s.says for s in why.steps)
    assert why_knob(now) is None
    assert why_noise(now) is None


def test_a_reading_of_the_bench_hangs_on_the_parts_that_make_it(demo):
    """A divider between supply and pin: its own two resistors, each by its share."""
    proof = Proof(verdict_of(demo, "hf-chat"), 0)
    by_id = {r.id: r for r in proof.readings}
    volts = [r for r in by_id.values() if r.step == "dc" and r.unit == "V"]
    told = [why_reading(proof, r) for r in volts[:3]]
    assert told
    for why, reading in zip(told, volts, strict=False):
        k = proof.places[reading.id]
        assert figure(why.steps[0].value) >= 0
        low, high = proof.predicted.low[k], proof.predicted.high[k]
        assert low <= proof.predicted.nominal[k] <= high
        assert len(why.steps) + len(why.hangs) <= MOST_STEPS


@pytest.mark.long
def test_what_a_reading_hangs_on_does_what_it_says():
    """The bias of an electret box, read at its contact: half as much by twice the resistor."""
    station = station_of(
        gear("electret-2-wire", "capsule", current_a=3e-4),
        gear("bias-feed", "feed", supply_v=9, resistor_ohm=10e3),
        gear("microphone-socket", "radio"),
    )
    proof = Proof(verdict_of(station, "c"), 0)
    reading = next(
        r for r in proof.readings
        if r.step == "dc" and r.unit == "V" and 3 < proof.predicted.nominal[proof.places[r.id]] < 8
    )  # fmt: skip
    why = why_reading(proof, reading)
    says = [s.says for s in why.hangs]
    assert any("10 kΩ in the feed" in s for s in says)
    step = next(s for s in why.hangs if "10 kΩ in the feed" in s.says)
    # 0.3 mA through a tenth more of 10 kilohm: 0.3 V less
    now = proof.predicted.nominal[proof.places[reading.id]]
    assert figure(step.value) == pytest.approx(now - 0.3, abs=0.12)
    assert step.gear == "feed"
