"""What somebody with thirty years at the bench would say first, written down beforehand."""

import math

import pytest

from tests.conftest import gear, station_of
from tests.core.judge.test_findings import codes, find
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.station import edits

DYNAMIC = gear("dynamic-microphone", "dynamic", coil_ohm=300)
MIXER = gear(
    "amplifier",
    "mixer",
    expects="microphone",
    gain_db=44,
    gain_low_db=10,
    gain_high_db=60,
    z_in_ohm=2400,
    z_out_ohm=120,
    ein_dbu=-126,
    works_from_dbu=-40,
    works_to_dbu=6,
    supply="battery",
)
PAD = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100)
TRIM = gear("trim-pot", "trim", track_ohm=10e3, turned_up=0.5)
SET = gear("microphone-socket", "set", z_in_ohm=2000, supply="battery")
LAPTOP = gear("line-source", "laptop", full_scale_dbu=2.2, below_full_db=-6, supply="battery")
DATA = gear("data-socket", "data", supply="battery")


def in_room(dba, *pieces, **chain):
    return assess(edits.change_station(station_of(*pieces, **chain), room_noise_dba=dba))


def titles(assessment, code):
    return [r.title for r in remedies(assessment, find(assessment, code))]


# --- what is there comes first --------------------------------------------------------------------


@pytest.mark.parametrize(
    "pieces, code, first",
    [
        # one turns the mixer down, and does not put a pad before a pad
        (
            (DYNAMIC, MIXER | {"gain_db": 60}, PAD, SET | {"wants_dbu": -65, "clip_dbu": -10}),
            "over-window",
            "Turn the mixer down to ",
        ),
        ((DYNAMIC, MIXER | {"gain_db": 20}, PAD, SET), "under-window", "Turn the mixer up to "),
        # a trim pot is there to be turned
        ((DYNAMIC, MIXER, TRIM, SET), "line-into-mic", "Turn the trim down to "),
        # a desk microphone has its volume
        (
            (
                gear("amplified-desk-microphone", "desk", turned_up=1.0, sensitivity_mv_per_pa=4),
                SET,
            ),
            "over-ceiling",
            "Turn the desk down to ",
        ),
        # a laptop its slider
        ((LAPTOP, DATA), "over-window", "Turn the laptop down to "),
        # from far away one comes closer before anything else
        ((DYNAMIC, SET | {"wants_dbu": -44, "clip_dbu": -16}), "under-window", "Speak closer, at "),
    ],
)
def test_the_first_thing_is_what_is_there(pieces, code, first):
    far = {"distance_mm": 150} if code == "under-window" and len(pieces) == 2 else {}
    purpose = "packet" if pieces[-1] is DATA else "ssb-chat"
    offered = titles(assess(station_of(*pieces, purpose=purpose, **far)), code)
    assert offered, "nothing offered"
    assert offered[0].startswith(first), offered
    pads = [t for t in offered if t.startswith("Add a pad")]
    assert not (pads and any(p["kind"] in ("l-pad", "trim-pot") for p in pieces))


def test_the_second_thing_is_the_part_that_is_there():
    player = gear("line-source", "player", full_scale_dbu=20, below_full_db=-16, supply="battery")
    before = assess(station_of(player, PAD | {"shunt_ohm": 1000}, SET))
    offered = titles(before, "over-window" if "over-window" in codes(before) else "line-into-mic")
    assert any(t.startswith("Change the L-pad to ") for t in offered)


def test_a_turned_control_says_how_far_and_whether_that_is_its_end():
    hot = DYNAMIC | {"sensitivity_mv_per_pa": 2}
    before = assess(station_of(hot, MIXER | {"gain_high_db": 45}, PAD, SET | {"wants_dbu": -40}))
    under = find(before, "under-window")
    gain = next(r for r in before.rows if r.id == "mixer").gear.gain_db.value
    turned = next(r for r in remedies(before, under) if r.title.startswith("Turn the mixer up to "))
    to = float(turned.title.removeprefix("Turn the mixer up to ").removesuffix(" dB"))
    assert gain < to <= 45
    after = assess(turned.change(before.station))
    lifted = after.rows[-1].speech_dbu - before.rows[-1].speech_dbu
    assert lifted == pytest.approx(to - gain, abs=0.1)
    # the last tenth of a control is no place to stay
    assert ("near the end of its control" in turned.effect) == (to > gain + (45 - gain) * 11 / 12)


# --- the radio's own gain control -----------------------------------------------------------------


@pytest.mark.parametrize(
    "wants, severity, words",
    [
        (-53.0, "fine", "gets the level it wants"),
        (-43.0, "mind", "will stand near its top, at 9"),
        (-38.0, "mind", "gets too little: "),
        (-75.0, "mind", "will stand near its bottom, at "),
        (-81.0, "mind", "gets too much: "),
    ],
)
def test_level_is_said_by_where_the_gain_will_stand(wants, severity, words):
    socket = SET | {"wants_dbu": wants, "clip_dbu": wants + 40}
    assessment = assess(station_of(DYNAMIC, socket, distance_mm=30))
    about = [f for f in assessment.findings if f.code.startswith(("level", "under", "over"))]
    assert [f.severity for f in about] == [severity]
    assert words in about[0].says
    # −59.4 dBu at 3 cm, 1.2 dB of loading: the knob moves a hundredth for 0.4 dB
    knob = assessment.rows[-1].knob
    assert knob.turn == pytest.approx(0.5 + (wants - assessment.rows[-1].speech_dbu) / 40)


# --- noise ----------------------------------------------------------------------------------------


def test_a_fan_is_switched_off_and_lips_come_closer():
    near = in_room(58, DYNAMIC, SET, distance_mm=60)
    finding = find(near, "noise-heard")
    assert finding.says == "The room is heard between words"
    assert finding.evidence["share"] > 0.9
    offered = titles(near, "noise-heard")
    assert any(t.startswith("Switch off what runs") for t in offered)
    far = in_room(42, DYNAMIC, SET, distance_mm=300)
    assert titles(far, "noise-heard")[0].startswith("Speak closer")


def test_a_quiet_room_and_a_close_voice_are_no_matter():
    assert "noise-heard" not in codes(assess(station_of(DYNAMIC, SET, distance_mm=30)))


def test_a_noisy_box_wants_more_before_it():
    noisy = MIXER | {"id": "box", "name": "box", "ein_dbu": -68, "gain_db": 32}
    before = assess(station_of(DYNAMIC, MIXER | {"gain_db": 12}, noisy, PAD, SET, distance_mm=30))
    finding = find(before, "noise-heard")
    assert finding.stage == "box"
    offered = remedies(before, finding)
    assert offered[0].title.startswith("Turn the mixer up to ")
    assert "and the box down to " in offered[0].title
    after = assess(offered[0].change(before.station))
    assert after.rows[-1].snr_db > before.rows[-1].snr_db + 6
    assert after.rows[-1].speech_dbu == pytest.approx(before.rows[-1].speech_dbu, abs=1.0)


def test_hard_compression_is_named_where_it_lifts_the_room():
    hard = MIXER | {
        "id": "box",
        "name": "box",
        "kind": "compressor",
        "threshold_dbu": -36,
        "ratio": 10,
        "release_s": 0.1,
        "attack_s": 2e-3,
    }
    before = in_room(48, DYNAMIC, hard, PAD, SET, distance_mm=50)
    assert any("Bypass the box" in t for t in titles(before, "noise-heard"))


def test_a_muffled_microphone_is_not_cleaner_than_a_good_one():
    """Both hear the same room; what the case takes off the voice it takes off the room."""
    plain = in_room(50, DYNAMIC, SET).rows[-1].snr_db
    case = {"housing": "in-case", "opening_mm": 1.0, "seal": "none", "over_it": "foam"}
    muffled = in_room(50, DYNAMIC | case, SET).rows[-1].snr_db
    thin = in_room(50, gear("piezo-microphone", "thin"), SET)
    assert muffled <= plain + 1.0
    assert thin.rows[-1].snr_db <= plain + 1.0


def test_a_close_directional_microphone_booms():
    cardioid = DYNAMIC | {"pattern": "directional"}
    assert "close-talk-boom" in codes(assess(station_of(cardioid, SET, distance_mm=15)))
    assert "close-talk-boom" not in codes(assess(station_of(cardioid, SET, distance_mm=80)))
    assert "close-talk-boom" not in codes(assess(station_of(DYNAMIC, SET, distance_mm=15)))


# --- signals --------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "signal, below, clips",
    [
        ("two-tone", -6, False),
        ("tone", -4, False),
        ("speech", -6, True),
        ("two-tone", -1, True),
        ("noise-like", -10, False),
        ("music", -6, True),
    ],
)
def test_peaks_by_the_kind_of_signal(signal, below, clips):
    """Against a full-scale sine of 3.01 dB crest: level and crest, and 3 dB in hand."""
    laptop = LAPTOP | {"below_full_db": below, "signal": signal}
    found = assess(station_of(laptop, DATA, purpose="data-weak"))
    at_source = [f for f in found.findings if f.code == "over-ceiling" and f.stage == "laptop"]
    assert bool(at_source) == clips
    crest = {"speech": 14, "tone": 3.01, "two-tone": 6.02, "noise-like": 9.5, "music": 15}[signal]
    assert found.rows[0].headroom_db == pytest.approx(-below + 3.01 - crest, abs=0.1)


# --- level, in one go -----------------------------------------------------------------------------

CONDENSER = gear("phantom-condenser", "condenser", sensitivity_mv_per_pa=12)
FEED = gear("phantom-feed", "feed")
PLAIN_SET = SET | {"z_in_ohm": 600}


@pytest.mark.parametrize(
    "pieces, purpose, code, first",
    [
        # a laptop that clips the data socket is turned down to where the socket works, not to just
        # under its ceiling, to be told to turn it down once more
        ((LAPTOP, DATA | {"clip_dbu": 0}), "data-weak", "over-ceiling", "Turn the laptop"),
        # nobody builds a pad of 3 dB for a condenser: one that lets the gain stand at its middle
        ((CONDENSER, FEED, PLAIN_SET), "ssb-chat", "over-ceiling", "Add a pad of 1"),
        # a line into a microphone socket: a slider nearly off leaves hum and hiss as they are
        ((LAPTOP | {"signal": "speech"}, PLAIN_SET), "ssb-chat", "line-into-mic", "Add a pad of "),
        (
            (gear("line-source", "deck", signal="music", below_full_db=-15), PLAIN_SET),
            "am-voice",
            "line-into-mic",
            "Add a pad of ",
        ),
    ],
)
def test_too_much_is_brought_where_it_belongs_in_one_go(pieces, purpose, code, first):
    before = assess(station_of(*pieces, purpose=purpose))
    offered = remedies(before, find(before, code))
    assert offered[0].title.startswith(first), [r.title for r in offered]
    after = assess(offered[0].change(before.station))
    row = after.rows[-1]
    assert row.window.holds(row.speech_dbu)
    assert row.headroom_db >= 3.0
    left = {f.code for f in after.findings if f.stage == row.id and f.severity != "fine"}
    assert not left & {"over-ceiling", "over-window", "under-window", "line-into-mic"}


def test_a_box_that_never_gets_its_level_is_left_out():
    """A compressor for lines, said to be for microphones, without the gain of one."""
    box = gear("compressor", "leveller", expects="microphone", supply="battery")
    offered = titles(assess(station_of(DYNAMIC, box, PLAIN_SET)), "under-window")
    assert "Leave the leveller out" in offered


@pytest.mark.parametrize("gain_db", [45, 60])
def test_a_compressor_is_turned_down_in_one_go(gain_db):
    """Above its threshold 4 dB of gain are one of level."""
    box = gear("compressor", "leveller", expects="microphone", gain_db=gain_db, gain_high_db=60,
               works_from_dbu=-30, ratio=4, threshold_dbu=-25, supply="battery")  # fmt: skip
    narrow = gear("data-socket", "data", window_low_dbu=-44, window_high_dbu=-32, supply="battery")
    before = assess(station_of(DYNAMIC, box, narrow))
    offered = remedies(before, find(before, "over-window"))
    turn = next(r for r in offered if r.title.startswith("Turn the leveller down"))
    row = assess(turn.change(before.station)).rows[-1]
    assert row.window.outside_db(row.speech_dbu) <= 0.5


def test_a_preamp_behind_a_carbon_is_left_out_before_it_gets_a_pad():
    """What gives a tenth of a volt by itself needs no 40 dB in front of a line input."""
    carbon = gear("carbon-microphone", "carbon")
    feed = gear("bias-feed", "feed", supply_v=6, resistor_ohm=220, coupling_f=22e-6)
    line = gear("line-input", "line", supply="battery")
    before = assess(station_of(carbon, feed, gear("opamp-preamp", "preamp"), line))
    first = remedies(before, find(before, "over-ceiling"))[0]
    assert first.title == "Leave the preamp out"
    row = assess(first.change(before.station)).rows[-1]
    assert row.window.holds(row.speech_dbu)


def test_up_for_an_equaliser_and_down_again_before_the_radio():
    """Left out it would hand the radio's volts to the coil, and so it stays: up to its level."""
    eq = gear("graphic-equaliser", "equaliser", supply="battery")
    biased = PLAIN_SET | {"bias_v": 8}
    before = assess(station_of(DYNAMIC, eq, biased))
    offered = remedies(before, find(before, "mic-into-line"))
    fix = next(r for r in offered if "preamp" in r.title and "a pad of" in r.title)
    after = assess(fix.change(before.station))
    assert [row.kind for row in after.rows[1:4]] == ["amplifier", "graphic-equaliser", "l-pad"]
    assert after.rows[-1].window.holds(after.rows[-1].speech_dbu)
    assert after.rows[2].window.holds(after.rows[2].speech_dbu)
    assert not {"mic-into-line", "line-into-mic", "over-ceiling"} & codes(after)


def test_lips_on_a_carbon_back_off():
    """Nothing that is added behind a microphone helps where it is too loud for itself."""
    carbon = gear("carbon-microphone", "carbon")
    feed = gear("bias-feed", "feed", supply_v=6, resistor_ohm=220, coupling_f=22e-6)
    before = assess(station_of(carbon, feed, gear("line-input", "line"), distance_mm=5))
    (finding,) = (f for f in before.findings if f.code == "over-ceiling" and f.stage == "carbon")
    assert [r.title.split(" cm")[0][:10] for r in remedies(before, finding)] == ["Speak from"]


def test_a_noise_cancelling_capsule_wants_lips_at_its_face():
    """From 30 cm it hears no bass, as it should: no part of it is to blame."""
    capsule = gear("electret-2-wire", "boom", pattern="noise-cancelling")
    biased = SET | {"bias_v": 5, "bias_ohm": 2200}
    before = assess(station_of(capsule, biased, distance_mm=300))
    finding = find(before, "bass-corner-high")
    assert "capacitor" not in finding.says and "30 cm" in finding.says
    after = assess(remedies(before, finding)[0].change(before.station))
    assert "bass-corner-high" not in codes(after)
    near = assess(station_of(capsule, biased, distance_mm=25))
    assert "bass-corner-high" not in codes(near)


def followed(station):
    """What somebody does who always presses the first remedy of what stands first."""
    done = []
    for _ in range(10):
        now = assess(station)
        troubles = [f for f in now.findings if f.severity != "fine"]
        first = next((r for f in troubles for r in remedies(now, f)[:1]), None)
        if first is None:
            return done
        done.append(first.title)
        station = first.change(station)
    return [*done, "no end to it"]


@pytest.mark.parametrize("distance_mm", [150, 300])
@pytest.mark.parametrize("room_dba", [35, 45])
def test_one_moves_once_as_near_as_level_and_room_want_it(distance_mm, room_dba):
    station = station_of(DYNAMIC, SET, distance_mm=distance_mm)
    done = followed(edits.change_station(station, room_noise_dba=room_dba))
    assert sum(title.startswith("Speak closer") for title in done) == 1, done


def test_what_a_crystal_sees_is_mended_before_a_gain_is_set():
    """A follower gives the mixer 20 dB more than the bare crystal did: it goes down with it."""
    crystal = gear("piezo-microphone", "crystal")
    before = assess(station_of(crystal, MIXER | {"gain_db": 30}, SET))
    assert titles(before, "bass-corner-high")[0].startswith("Add an op-amp buffer of 2.2 MΩ right")
    done = followed(before.station)
    assert "right behind it" in done[0] and "turn the mixer down" in done[0], done
    assert not [title for title in done if title.startswith("Turn the mixer")], done


# --- loads ----------------------------------------------------------------------------------------


def test_a_transistor_into_a_low_load_is_no_trouble_where_the_level_is_right():
    """A FET of some kilohms into 600 ohm gives less; a bought box into 57 ohm is strained."""
    fet = assess(station_of(DYNAMIC, gear("jfet-preamp", "fet"), PLAIN_SET))
    assert fet.rows[-1].window.holds(fet.rows[-1].speech_dbu)
    assert find(fet, "load-low").severity == "fine"
    assert "load-too-low" not in codes(fet)


def test_a_long_lead_on_a_high_coil_does_not_cost_level_only():
    """3 nF behind 50 kΩ: 1.1 kHz. A third of the treble is left, and most of the level."""
    high = DYNAMIC | {"coil_ohm": 50e3, "sensitivity_mv_per_pa": 20}
    reel = gear("cable", "reel", length_m=20, capacitance_pf_per_m=150)
    grid = gear("microphone-socket", "grid", z_in_ohm=1e6, wants_dbu=-40, clip_dbu=-10)
    found = verdict_of(station_of(high, reel, grid))
    assert "cable-too-long" in {f.code for f in found.findings}
    assert "load-low" not in {f.code for f in found.findings}


# --- causes ---------------------------------------------------------------------------------------


def test_a_crystal_into_a_low_load_is_told_so():
    before = assess(station_of(gear("piezo-microphone", "crystal"), SET))
    finding = find(before, "bass-corner-high")
    assert "by the low load of the crystal" in finding.says


def test_a_small_coupling_capacitor_is_blamed_and_its_value_comes_from_its_own_corner():
    small = gear("capacitor", "coupling", capacitance_f="100n")
    before = assess(station_of(DYNAMIC, small, SET))
    finding = find(before, "bass-corner-high")
    assert finding.stage == "coupling"
    # 100 nF with 300 and 2000 ohm round it: 692 Hz
    own = 1 / (2 * math.pi * 100e-9 * 2300)
    assert finding.evidence["corner_hz"] == pytest.approx(own, rel=0.05)
    (remedy, *_) = remedies(before, finding)
    after = assess(remedy.change(before.station))
    # an octave under the 150 Hz that a chat wants, by preferred values
    assert 30 <= after.corners_hz[0] <= 85


def test_bass_lost_in_a_transformer_is_not_blamed_on_the_crystal_before_it():
    follower = gear("jfet-preamp", "fet", gate_ohm=10e6)
    weak = gear("transformer", "weak", primary_h=0.05, leakage_h=1e-3)
    before = assess(station_of(gear("piezo-microphone", "crystal"), follower, weak, SET))
    finding = find(before, "bass-corner-high")
    assert finding.stage == "weak"
    assert "the primary of the weak" in finding.says


def test_a_transistor_stage_on_600_ohm_is_told_what_it_loses():
    stage = gear("bipolar-preamp", "stage")
    before = assess(
        station_of(DYNAMIC, stage, SET | {"z_in_ohm": 600, "wants_dbu": -35, "clip_dbu": 0})
    )
    finding = find(before, "load-too-low")
    assert finding.stage == "stage"
    # 10 kohm in the collector on 600 ohm
    assert finding.evidence["loss_db"] > 12
    assert any("buffer" in t for t in titles(before, "load-too-low"))


def test_300_ohm_on_600_is_said_and_not_minded():
    before = assess(station_of(DYNAMIC, SET | {"z_in_ohm": 600}, distance_mm=30))
    finding = find(before, "load-low")
    assert finding.severity == "fine"
    assert finding.evidence["loss_db"] == pytest.approx(20 * math.log10(900 / 600), abs=0.1)


# --- compression ----------------------------------------------------------------------------------


def test_first_syllables_and_soft_words():
    box = MIXER | {
        "id": "box",
        "name": "box",
        "kind": "compressor",
        "threshold_dbu": -40,
        "ratio": 10,
        "attack_s": 0.03,
        "works_to_dbu": 20,
    }
    before = assess(station_of(DYNAMIC, box, PAD, SET))
    assert titles(before, "attack-overshoot")[0] == "Set its attack to 3 ms"
    gate = box | {"ratio": 1, "attack_s": 3e-3, "gate": "on", "gate_dbu": -10}
    assert titles(assess(station_of(DYNAMIC, gate, PAD, SET)), "gate-bites")


# --- cases ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("opening, long, enough", [(0.6, 3.0, 2), (0.8, 3.0, 3), (1.0, 3.0, 3)])
def test_a_pinhole_is_drilled_by_the_step_that_is_enough(opening, long, enough):
    """Nobody begins with 6 mm: a step less muffles or rings, this one does neither."""
    case = {
        "housing": "in-case",
        "opening_mm": opening,
        "opening_long_mm": long,
        "cavity_cm3": 0.15 if opening < 0.7 else 0.3,
    }
    before = assess(station_of(DYNAMIC | case, SET))
    offered = remedies(before, find(before, "housing-muffles"))
    assert [r.title for r in offered] == [f"Drill the opening to {enough} mm"]
    assert "rain and breath" in offered[0].effect
    assert "treble +" in offered[0].effect
    less = assess(station_of(DYNAMIC | case | {"opening_mm": enough - 1}, SET))
    assert codes(less) & {"housing-muffles", "housing-rings"}


def test_a_remedy_never_puts_the_radio_out_of_its_window():
    """A step-down transformer for a source that is too weak already mends nothing."""
    faint = DYNAMIC | {"coil_ohm": 600, "sensitivity_mv_per_pa": 0.5}
    deaf = SET | {"z_in_ohm": 200, "wants_dbu": -50}
    before = assess(station_of(faint, deaf))
    offered = titles(before, "load-too-low") if "load-too-low" in codes(before) else []
    assert not any("step-down" in t for t in offered)


# --- direct current at outputs --------------------------------------------------------------------

BIASED = gear("microphone-socket", "biased", z_in_ohm=2000, bias_v=8, bias_ohm=2200)


@pytest.mark.parametrize(
    "pieces, stage",
    [
        # 3 V at the feed's inner side against what 8 V leave on the pin
        (
            (gear("electret-2-wire", "electret"), gear("bias-feed", "feed", supply_v=3), BIASED),
            "feed",
        ),
        ((DYNAMIC, gear("jfet-preamp", "fet", drain_ohm=10e3), BIASED), "fet"),
        (
            (gear("amplified-desk-microphone", "desk", turned_up=0.3, collector_ohm=22e3), BIASED),
            None,
        ),
    ],
)
def test_an_output_capacitor_on_a_biased_pin_has_its_plus_side_judged(pieces, stage):
    before = assess(station_of(*pieces))
    found = [f for f in before.findings if f.code == "capacitor-reversed"]
    if stage is None:
        # its volume control lies between capacitor and pin: what stands over it decides, solved
        reversed_v = [f.evidence["dc_v"] for f in found]
        assert all(v < -0.2 for v in reversed_v)
        return
    (finding,) = found
    assert finding.stage == stage
    assert finding.severity == "stop"
    (remedy,) = remedies(before, finding)
    assert remedy.title == "Turn it round"
    assert "capacitor-reversed" not in codes(assess(remedy.change(before.station)))


def test_a_balanced_microphone_on_a_biased_pin_is_stopped():
    three = DYNAMIC | {"output": "balanced"}
    found = assess(station_of(three, gear("cable", "lead", form="two-core"), BIASED))
    assert "dc-through-winding" in codes(found)


def test_a_condenser_on_a_biased_pin_is_told_that_this_is_no_phantom_power():
    condenser = gear("phantom-condenser", "condenser")
    found = assess(station_of(condenser, gear("cable", "lead", form="two-core"), BIASED))
    assert "are no phantom power" in find(found, "no-phantom").says


@pytest.mark.parametrize(
    "element, stage, low_hz, high_hz",
    [
        # 1.5 nF and the stage's input: some tens of kilohms, half a megohm, two megohms
        ("piezo", "one-transistor", 800, 1e6),
        ("piezo", "darlington", 150, 450),
        ("piezo", "fet", 20, 120),
        ("dynamic", "one-transistor", 20, 150),
        ("electret", "fet", 20, 150),
    ],
)
def test_desk_microphones_by_element_and_stage(element, stage, low_hz, high_hz):
    desk = gear("amplified-desk-microphone", "desk", element=element, stage=stage, turned_up=0.1)
    found = assess(station_of(desk, SET | {"z_in_ohm": 100e3, "wants_dbu": -45, "clip_dbu": 0}))
    corner = found.corners_hz[0] or 20.0
    assert low_hz <= corner <= high_hz
    assert -75 < found.rows[-1].speech_dbu < -30


def test_a_plate_fed_through_an_interstage_primary_magnetises_it():
    """5 mA where a core without a gap bears a hundredth of that; the parallel feed keeps it out."""
    piezo = gear("piezo-microphone", "crystal")
    driver = gear("valve-stage", "driver", feed="series", plate_a="5m")
    coil = gear(
        "transformer",
        "interstage",
        ratio=3,
        primary_h=30,
        leakage_h=0.3,
        primary_ohm=900,
        secondary_ohm=4000,
    )
    grid = gear(
        "microphone-socket", "grid", z_in_ohm=470e3, wants_dbu=-5, gain_range_db=26, clip_dbu=24
    )
    before = assess(station_of(piezo, driver, coil, grid, purpose="am-voice"))
    finding = find(before, "core-magnetised")
    assert finding.stage == "interstage"
    assert finding.evidence["dc_ma"] == pytest.approx(5.0, rel=0.01)
    assert "Lethal" in finding.caution
    (remedy,) = remedies(before, finding)
    after = assess(remedy.change(before.station))
    assert "core-magnetised" not in codes(after)
    assert after.rows[2].dc_a == pytest.approx(0.0, abs=1e-6)


@pytest.mark.parametrize(
    "pattern, gains", [("all-round", 0.0), ("directional", 1.38), ("noise-cancelling", 3.01)]
)
def test_speaking_into_it_gains_by_the_pattern_and_pops(pattern, gains):
    """(1 + cos 45°)/2 and cos 45° against the axis."""
    mic = DYNAMIC | {"pattern": pattern}
    across = assess(station_of(mic, SET, distance_mm=30))
    into = assess(station_of(mic, SET, distance_mm=30, speaks="into-it"))
    assert into.rows[-1].speech_dbu - across.rows[-1].speech_dbu == pytest.approx(gains, abs=0.02)
    assert "breath-pops" not in codes(across)
    offered = titles(into, "breath-pops")
    assert offered == ["Speak across the capsule, not into it", "Put a windscreen over it"]
    far = assess(station_of(mic, SET, distance_mm=120, speaks="into-it"))
    assert "breath-pops" not in codes(far)


def test_a_leak_in_the_body_changes_only_a_capsule_that_is_not_sealed():
    """Through a gap to the body a hole of 4 mm adds a way in: more bass than by a pinhole alone."""
    case = DYNAMIC | {"housing": "in-case", "opening_mm": 1.0, "opening_long_mm": 3.0}

    def at_300_hz(**fields):
        solution = assess(station_of(case | fields, SET)).solution
        near = abs(solution.f_hz - 300).argmin()
        return solution.gain_db()[near]

    assert at_300_hz(seal="sealed", leak_mm=4) == pytest.approx(at_300_hz(seal="sealed"))
    assert abs(at_300_hz(seal="none", leak_mm=4) - at_300_hz(seal="none")) > 0.5
