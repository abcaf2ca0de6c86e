"""Where more than one thing is wrong: each is mended by itself, and no remedy spoils another."""

import math

import pytest

from tests.conftest import gear, station_of
from tests.core.judge.test_findings import codes, find
from tests.core.judge.test_practice import DYNAMIC, MIXER, SET
from tonleiter.core.gear.library import parts_library
from tonleiter.core.gear.pads import design_l_pad
from tonleiter.core.judge.assess import assess, remedies

LAPTOP = gear("line-source", "laptop", full_scale_dbu=14, below_full_db=-14, supply="battery")
FET = gear("jfet-preamp", "fet")
TRIODE = gear("valve-stage", "triode")
CARBON = gear("carbon-microphone", "carbon", rest_ohm=80, needs_a=10e-3)


def test_a_stage_that_clips_is_brought_down_though_the_set_behind_it_is_too_hot_as_well():
    """Each has a remedy of its own: one turns the laptop down, and then looks at the set."""
    before = assess(station_of(LAPTOP, FET, SET, purpose="data-weak"))
    clipped = next(f for f in before.findings if f.key == ("over-ceiling", "fet"))
    assert find(before, "line-into-mic").stage == "set"
    offered = remedies(before, clipped)
    assert offered[0].title.startswith("Turn the laptop down to ")
    after = assess(offered[0].change(before.station))
    assert clipped.key not in {f.key for f in after.findings}


def test_a_pad_is_not_put_where_it_takes_a_microphone_its_current():
    """What little current the socket gives would be less: one backs off, or feeds it otherwise."""
    socket = SET | {
        "z_in_ohm": 600,
        "bias_v": 5,
        "bias_ohm": 730,
        "wants_dbu": -38,
        "clip_dbu": -20,
    }
    before = assess(station_of(CARBON, socket))
    assert find(before, "carbon-no-current").severity == "stop"
    hot = [f for f in before.findings if f.code in ("over-ceiling", "line-into-mic")]
    assert hot
    for finding in hot:
        offered = [r.title for r in remedies(before, finding)]
        assert offered
        assert not any("pad" in title for title in offered), offered


def test_a_box_that_gets_little_and_adds_no_noise_is_left_as_it_is():
    """The radio is content: nobody turns up, to turn down again behind it."""
    strong = MIXER | {"works_from_dbu": -30, "z_in_ohm": 25e3, "gain_db": 25}
    before = assess(
        station_of(DYNAMIC, strong, SET | {"wants_dbu": -38, "gain_range_db": 26, "clip_dbu": -8})
    )
    row = before.rows[1]
    assert row.speech_dbu < -30 - 2
    assert before.rows[0].snr_db - row.snr_db < 0.5
    assert find(before, "level-right").severity == "fine"
    assert find(before, "little-and-well").severity == "fine"
    assert "under-window" not in codes(before)
    # noisy, it is turned up or served first, and the set padded
    noisy = assess(
        station_of(
            DYNAMIC,
            strong | {"ein_dbu": -95},
            SET | {"wants_dbu": -38, "gain_range_db": 26, "clip_dbu": -8},
        )
    )
    assert find(noisy, "under-window").stage == "mixer"
    offered = [r.title for r in remedies(noisy, find(noisy, "under-window"))]
    assert any("and a pad of" in title for title in offered), offered


def test_a_compressor_that_gets_too_little_is_told_so_whatever_its_noise():
    """It would not compress."""
    chip = gear(
        "microphone-amplifier",
        "chip",
        works_from_dbu=-40,
        works_to_dbu=-8,
    )
    before = assess(station_of(DYNAMIC, chip, SET | {"wants_dbu": -50, "gain_range_db": 26}))
    assert before.rows[1].speech_dbu < -42
    assert "under-window" in {f.code for f in before.findings if f.stage == "chip"}


def test_the_pad_that_is_due_is_a_lighter_load_too():
    """A valve stage into a set that it is much too strong for: one pad, no buffer."""
    strip = MIXER | {"gain_db": 45, "z_out_ohm": 150}
    before = assess(station_of(DYNAMIC, strip, TRIODE, SET))
    loaded = find(before, "load-too-low")
    assert loaded.stage == "triode"
    offered = remedies(before, loaded)
    assert offered[0].title.startswith("Add a pad of ")
    after = assess(offered[0].change(before.station))
    assert not {"load-too-low", "line-into-mic"} & set(codes(after))


@pytest.mark.parametrize("load_ohm", [2e3, 10e3, 100e3, 2.2e6, math.inf])
@pytest.mark.parametrize("loss_db", [10.0, 20.0, 40.0, 55.0])
def test_a_pad_is_no_higher_than_its_source_asks_for(loss_db, load_ohm):
    """From a source of 150 ohm: megohms in series, or a lead behind half of one, pick up hum."""
    best = design_l_pad(loss_db, 150.0, load_ohm)[0]
    assert best.loss_db == pytest.approx(loss_db, abs=1.0)
    assert 3 * 150.0 <= best.series_ohm <= 470e3
    seen_ohm = 1 / (1 / best.shunt_ohm + 1 / (best.series_ohm + 150.0))
    assert seen_ohm <= 15e3
    assert best.shunt_ohm <= load_ohm / 2


def test_a_pad_behind_a_plate_is_as_high_as_the_plate_wants_it():
    best = design_l_pad(20.0, 47e3, 1e6)[0]
    assert best.series_ohm > 100e3
    assert best.loss_db == pytest.approx(20.0, abs=1.0)


# --- what the load takes, and what close talk adds ---------------------------------------------

HIGH = gear("dynamic-microphone", "high", sensitivity_mv_per_pa=18, coil_ohm=50e3, coil_h=2)
NEAR = gear("dynamic-microphone", "near", coil_ohm=300, pattern="directional")


def test_a_high_source_on_a_low_socket_is_matched_before_anything_is_turned():
    before = assess(station_of(HIGH, SET | {"z_in_ohm": 200, "wants_dbu": -58}))
    first = next(f for f in before.findings if f.severity == "mind")
    assert first.code == "load-too-low"
    assert first.says == "The set loads the high down"
    assert " step-down transformer " in remedies(before, first)[0].title


def test_a_buffer_that_relieves_a_source_too_much_comes_with_its_pad():
    """Unloaded, it gives 38 dB more; 20 were wanted."""
    before = assess(station_of(HIGH, SET | {"z_in_ohm": 600, "wants_dbu": -60, "clip_dbu": -30}))
    under = find(before, "load-too-low")
    built = [f for f in under.fixes if f.title.startswith("Add a buffer ")]
    assert built
    assert " and a pad of " in built[0].title
    after = assess(built[0].apply(before.station))
    assert after.rows[-1].speech_dbu - before.rows[-1].speech_dbu == pytest.approx(10.0, abs=3.0)


def test_a_stage_that_cannot_drive_a_set_that_needs_none_is_left_out():
    before = assess(station_of(DYNAMIC, TRIODE, SET | {"z_in_ohm": 200, "wants_dbu": -58}))
    loaded = find(before, "load-too-low")
    assert remedies(before, loaded)[0].title == "Leave the triode out"
    after = assess(remedies(before, loaded)[0].change(before.station))
    assert find(after, "level-right").severity == "fine"


def test_where_a_pad_would_only_let_a_stage_swing_further_the_pad_stands_before_that_stage():
    """A follower of a set's 200 ohm: relieved of them it clips itself; less goes into it."""
    feed = gear("bias-feed", "feed", supply_v=6, resistor_ohm=220, coupling_f=22e-6)
    low = SET | {"z_in_ohm": 200, "clip_dbu": -34}
    before = assess(station_of(CARBON, feed, FET, low))
    hot = find(before, "line-into-mic")
    assert (hot.stage, hot.severity) == ("set", "stop")
    first = remedies(before, hot)[0]
    assert first.title.startswith("Add a pad of ")
    assert "before the fet" in first.title
    after = assess(first.change(before.station))
    assert [row.name for row in after.rows][2].startswith("L-pad")
    assert not after.stops()


def test_boom_into_a_socket_without_a_knob_is_thinned_out_by_a_capacitor():
    """From 6 cm it would get too little; the capacitor takes off what is too much."""
    fixed = gear("data-socket", "fixed", window_low_dbu=-35, window_high_dbu=-20)
    before = assess(station_of(NEAR, fixed, purpose="fm-voice", distance_mm=10))
    boom = find(before, "close-talk-boom")
    (thin,) = remedies(before, boom)
    assert thin.title.startswith("Add ")
    after = assess(thin.change(before.station))
    farad = after.rows[1].gear.figure("capacitance_f").value
    corner_hz = 1 / (2 * math.pi * farad * (300 + 10e3))
    less_db = 10 * math.log10((1 + (corner_hz / 150) ** 2) / (1 + (corner_hz / 1000) ** 2))
    f_hz, gain = after.solution.f_hz, after.solution.gain_db()
    lift_db = gain[abs(f_hz - 150).argmin()] - gain[abs(f_hz - 1000).argmin()]
    assert lift_db == pytest.approx(boom.evidence["lift_db"] - less_db, abs=0.5)
    assert "close-talk-boom" not in codes(after)
    assert "bass-corner-high" not in codes(after)


def test_boom_is_left_by_backing_off_where_the_level_has_room_for_it():
    """Else whoever is that near is so on purpose, and the bass is thinned out where lips are."""
    near = assess(station_of(NEAR, SET, distance_mm=10))
    assert remedies(near, find(near, "close-talk-boom"))[0].title.startswith("Speak from 6 cm")
    gets = round(near.rows[-1].speech_dbu)
    little = gear("data-socket", "little", window_low_dbu=gets + 16, window_high_dbu=gets + 28)
    short = assess(station_of(NEAR, little, purpose="fm-voice", distance_mm=10))
    assert "under-window" in codes(short)
    assert remedies(short, find(short, "close-talk-boom"))[0].title.startswith("Add ")


def test_a_crystal_does_not_stay_on_a_box_of_phantom_power():
    crystal, box = gear("piezo-microphone", "crystal"), gear("phantom-feed", "box")
    before = assess(station_of(crystal, box, MIXER | {"z_in_ohm": 1e6}, SET))
    harm = find(before, "volts-on-crystal")
    assert remedies(before, harm)[0].title == "Leave the box out"


# --- one thing done once --------------------------------------------------------------------------


def test_lips_that_are_too_near_back_off_before_any_pad():
    """The bass goes with it, and the level is right."""
    before = assess(station_of(NEAR, SET | {"clip_dbu": -30}, distance_mm=10))
    hot = find(before, "over-ceiling")
    offered = remedies(before, hot)
    assert offered[0].title == "Speak from 6 cm"
    after = assess(offered[0].change(before.station))
    assert not {"over-ceiling", "close-talk-boom"} & codes(after)
    # from where one should speak a pad it is
    right = assess(station_of(NEAR, SET | {"clip_dbu": -48}, distance_mm=60))
    assert remedies(right, find(right, "over-ceiling"))[0].title.startswith("Add a pad of ")


def test_two_feeds_that_nobody_wants_go_together():
    feeds = [gear("bias-feed", name, supply_v=9, resistor_ohm=2200) for name in ("one", "other")]
    before = assess(station_of(LAPTOP, *feeds, gear("line-input", "computer"), purpose="packet"))
    needless = [f for f in before.findings if f.code == "needless-bias-feed"]
    assert [f.stage for f in needless] == ["one", "other"]
    for finding in needless:
        offered = [r.title for r in remedies(before, finding)]
        assert offered == ["Leave the one and the other out"]


def test_one_control_is_turned_once_for_all_that_clips_behind_it():
    strip = MIXER | {"gain_db": 60, "clip_dbu": 12}
    computer = gear("line-input", "computer", clip_dbu=3, window_low_dbu=-24, window_high_dbu=-6)
    before = assess(station_of(DYNAMIC, strip, computer, distance_mm=25))
    clips = [f for f in before.findings if f.code == "over-ceiling"]
    assert [f.stage for f in clips] == ["mixer", "computer"]
    offered = remedies(before, clips[0])
    assert offered[0].title.startswith("Turn the mixer down to ")
    after = assess(offered[0].change(before.station))
    assert not {"over-ceiling", "over-window", "under-window"} & codes(after)


def test_up_for_a_box_and_down_again_by_the_pad_that_is_there():
    chip = gear("microphone-amplifier", "chip", works_from_dbu=-40, works_to_dbu=-8)
    pad = gear("l-pad", "pad", series_ohm=1500, shunt_ohm=680)
    before = assess(station_of(DYNAMIC, chip, pad, SET | {"wants_dbu": -57, "gain_range_db": 24}))
    under = next(f for f in before.findings if f.key == ("under-window", "chip"))
    both = [r for r in remedies(before, under) if "small preamp" in r.title]
    assert both
    assert all("a pad of" not in r.title for r in both)
    assert any("change the L-pad to" in r.title for r in both)
    for remedy in both:
        after = assess(remedy.change(before.station))
        assert sum(r.gear.is_pad for r in after.rows) == 1


def test_a_stage_that_a_pad_relieves_gets_less_so_that_it_does_not_clip_then():
    """Nine kilohm into two lose 15 dB, and so does its swing; behind the pad they are back."""
    of = parts_library()["own-emitter-stage"]
    stage = of.model_dump(mode="json", exclude_defaults=True) | {"id": "stage", "name": "stage"}
    desktop = gear("line-source", "desktop", full_scale_dbu=6, below_full_db=-20, z_out_ohm=100)
    radio = SET | {"bias_v": 5, "bias_ohm": 4700}
    before = assess(station_of(desktop, stage | {"kind": of.kind_id}, radio, purpose="fm-voice"))
    hot = find(before, "line-into-mic")
    offered = remedies(before, hot)
    assert offered
    for remedy in offered:
        assert not assess(remedy.change(before.station)).stops(), remedy.title
    first = offered[0].title
    assert first.startswith("Turn the desktop down to ")
    assert " and add a pad of " in first
    assert " before the set: " in first


def test_a_transformer_that_leaves_a_microphone_floating_goes_where_leakage_comes_in_by_it():
    """Two boxes with supplies on two prongs; the microphone's screen hangs on nothing else."""
    iron = gear("transformer", "iron", primary_h=8, saturation_dbu=10)
    strip = MIXER | {"gain_db": 22, "supply": "double-insulated"}
    laptop = gear("headset-input", "laptop", supply="double-insulated", bias_v=2.5, bias_ohm=2200)
    lead = gear("cable", "lead", length_m=2)
    before = assess(station_of(HIGH, lead, iron, strip, laptop, distance_mm=30))
    hum = [f for f in before.findings if f.code in ("leakage-hum", "earth-loop")]
    assert hum
    assert remedies(before, hum[0])[0].title == "Leave the iron out"
    after = assess(remedies(before, hum[0])[0].change(before.station))
    assert "leakage-hum" not in codes(after)


@pytest.mark.parametrize(("farad", "severity"), [(39e-9, "fine"), (20e-9, "mind")])
def test_a_microphone_that_is_made_with_little_bass_is_told_so_and_nobody_opens_it(farad, severity):
    """Its transistor's capacitor: an octave above what a chat wants is a sound, two are a loss."""
    desk = gear("amplified-desk-microphone", "desk", turned_up=0.3, output_f=farad)
    before = assess(station_of(desk, SET | {"z_in_ohm": 5000}))
    bass = find(before, "bass-corner-high")
    assert bass.severity == severity, bass.proof
    if severity == "fine":
        assert bass.says.startswith("The desk is made with little bass: from ")
        assert remedies(before, bass) == ()


def test_a_load_is_not_lightened_by_a_pad_of_milliohms():
    """Far too hot behind two amplifiers: 98 dB would take 15 milliohm; an amplifier goes first."""
    deck = gear("line-source", "deck", full_scale_dbu=16, below_full_db=-6)
    kit = gear("opamp-preamp", "kit")
    before = assess(station_of(deck, kit, TRIODE, gear("microphone-socket", "mill")))
    loaded = find(before, "load-too-low")
    assert not [f.title for f in loaded.fixes if f.title.startswith("Add a pad of ")]
    assert loaded.evidence["loss_db"] > 7
