"""What a scene says: own radios, one truth, stops, cautions, what is heard."""

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tests.core.radios import DEMO, at, knobs
from tonleiter.core.guide.controls import with_knobs
from tonleiter.core.guide.live import Live
from tonleiter.core.guide.onair import on_air
from tonleiter.core.setup.modes import live_set, scene_of, settled
from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.sound import Sound
from tonleiter.core.sound.voices import tone, whistle
from tonleiter.core.station import boxes
from tonleiter.core.station.settings import PanelState

# --- an own radio --------------------------------------------------------------------------------


def test_an_own_radio_s_meter_is_read_and_the_move_reckoned_from_it(hf):
    panel = knobs(gain=50)
    asked = at(scene_of(hf, panel, own={}), "gain")
    assert "Type what your ALC meter shows" in asked.move.says
    full = hf.figures.alc_full_db
    read = at(scene_of(hf, panel, own={"alc": 0.2 * full}), "gain")
    # from a fifth of the scale to the middle of 45 to 67 %: that many decibels, 2.5 each
    wanted = 50 + (0.56 - 0.2) * full * 2.5
    assert read.move.knobs["gain"] == pytest.approx(wanted, abs=1.0)
    assert at(scene_of(hf, panel, own={"alc": 0.5 * full}), "gain").done
    still = at(scene_of(hf, panel, own={"alc": 0.0}), "gain")
    assert still.move.knobs["gain"] >= 50 + 6 * 2.5 - 1


def test_a_meter_that_does_not_follow_its_knob_is_asked_twice_and_no_more(hf):
    """20 % whatever the gain: after two turns that went nowhere it is another meter, or a fault."""
    full, panel, turns = hf.figures.alc_full_db, knobs(gain=50), 0
    scene = scene_of(hf, panel, own={"alc": 0.2 * full})
    while (step := at(scene, "gain")).move.knobs and turns < 5:
        panel, turns = scene.after(step.move), turns + 1
        scene = scene_of(hf, panel, own={"alc": 0.2 * full})
    assert turns == 2
    assert "does not follow" in step.move.says
    assert "another meter" in step.move.why
    assert not scene.is_right
    # the guide goes on with what can be done
    assert scene.now is None or scene.now.id != "gain"
    # one that follows is never called lost
    panel = knobs(gain=30)
    for share in (0.1, 0.2, 0.3):
        scene = scene_of(hf, panel, own={"alc": share * full})
        step = at(scene, "gain")
        assert "does not follow" not in step.move.says
        panel = scene.after(step.move)


# --- live ----------------------------------------------------------------------------------------


@pytest.mark.parametrize("chain", ["hf-chat", "fm-headset", "am-museum-day", "hf-weak-data"])
@pytest.mark.table(keep=4)
def test_a_live_set_shows_what_the_whole_recording_comes_to(chain):
    """Its needles, held through one round of the voice, reach what the file run reads."""
    case = on_air(DEMO, chain)
    scene = settled(case, PanelState())
    live = Live(live_set(case, scene.panel), scene.panel)
    held_ = {}
    for _ in range(case.volts.size // 480 + 1):
        for name, value in live.step().values.items():
            held_[name] = max(held_.get(name, 0.0), value)
    name = {
        "hf-chat": "alc",
        "fm-headset": "deviation",
        "am-museum-day": "down",
        "hf-weak-data": "power",
    }[chain]
    meter = scene.meter(name)
    assert held_[name] == pytest.approx(meter.value, rel=0.25, abs=0.12 * meter.full)


def test_a_live_knob_moves_the_needle_within_a_block(hf):
    live = Live(live_set(hf, knobs(gain=30)), knobs(gain=30))
    for _ in range(60):
        before = live.step().values["power"]
    live.turn(knobs(gain=60))
    after = [live.step().values["power"] for _ in range(40)]
    assert max(after) > 5 * before


@pytest.mark.long
def test_what_is_heard_is_loud_enough_to_hear_and_no_louder(hf, handset):
    for case in (hf, handset, on_air(DEMO, "fm-headset")):
        for far in (False, True):
            sound = scene_of(case, PanelState()).received(far)
            assert 0.02 < active_level(sound).rms < 0.4
            assert np.abs(sound.samples).max() <= 1.0
    assert scene_of(hf, PanelState()).spectrum.power.sum() > 0


@pytest.mark.parametrize("hertz", [900.0, 1500.0, 2400.0])
def test_the_transmit_tone_moves_what_is_sent(hertz):
    case = on_air(DEMO, "hf-weak-data")
    scene = scene_of(case, knobs(tone=hertz))
    spectrum = scene.spectrum
    loudest = spectrum.f_hz[int(np.argmax(spectrum.power))]
    assert loudest == pytest.approx(hertz, abs=60)


@pytest.mark.parametrize(("sound", "what"), [(whistle(), "a steady tone"), (tone(3.0, 1000.0), "")])
def test_gain_is_not_set_on_a_tone(sound, what):
    """Its peaks stand 3 dB over its level, those of speech 14: the knob would end 11 dB off."""
    case = on_air(DEMO, "hf-chat", "with-transformer", own=sound)
    scene = settled(case, PanelState())
    assert "gain is set on speech" in scene.headline[0]
    assert what in scene.headline[0]
    voice = at(scene, "voice")
    assert not voice.done
    assert "speak" in voice.move.says
    # nothing was turned for it
    assert scene.control("gain").value == 50
    assert at(scene, "gain").move is None
    assert not scene.is_right
    assert not any("where it should be" in f.says for f in scene.findings)


def test_silence_is_said_to_be_silence():
    case = on_air(DEMO, "hf-chat", "with-transformer", own=Sound(np.zeros(48_000), 16_000))
    assert "silence" in scene_of(case, PanelState()).headline[0]


def test_a_dead_microphone_is_noise_at_its_own_level(hf):
    """Full power is a peak of one: what lies 50 dB under it is not brought up to a voice."""
    silent = on_air(DEMO, "hf-chat", "with-transformer", own=Sound(np.zeros(48_000), 16_000))
    noise = scene_of(silent, PanelState()).received()
    voice = scene_of(hf, PanelState()).received()
    assert np.std(noise.samples) < 0.1 * np.std(voice.samples)


# --- one truth -----------------------------------------------------------------------------------

# panels on which aims, ends or meters once contradicted each other
CONTRADICTIONS = {
    "data with a high tone": ("hf-weak-data", {"tone": 2600}),
    "data at low power": ("hf-weak-data", {"power": 10}),
    "AM cut at 2 kHz": ("am-museum-day", {"high": 2000}),
    "packet": ("packet", {"level": -60}),
    "packet at its loudest": ("packet", {"level": 0, "gain": 100}),
    "SSB all wrong": (
        "hf-chat",
        {"gain": 0, "low": 500, "high": 4000, "compression": 12, "bass": 10, "treble": -10},
    ),
}


@pytest.mark.parametrize("what", list(CONTRADICTIONS))
@pytest.mark.table(keep=4)
def test_headline_guide_dials_and_findings_say_the_same(what, request):
    chain, turned = CONTRADICTIONS[what]
    case = request.getfixturevalue("packet") if chain == "packet" else on_air(DEMO, chain)
    panel = with_knobs(PanelState(), turned)
    for _ in range(14):
        scene = scene_of(case, panel)
        off = {c.id for c in scene.controls if not c.fits()}
        asked = {k for s in scene.steps if s.move is not None for k in s.controls}
        assert off <= asked, "a dial out of its bracket is a step of the guide"
        assert scene.is_right == (not any(s.move is not None for s in scene.steps))
        right = "every knob is where it should be" in scene.headline[1]
        assert right == scene.is_right
        assert right == any(f.code == "set-right" for f in scene.findings)
        for control in scene.controls:
            assert control.low <= control.value <= control.high
            if control.bracket is not None:
                assert control.low <= control.bracket[0] <= control.bracket[1] <= control.high
        if scene.now is None or scene.now.move is None or not scene.now.move.knobs:
            break
        for name, to in scene.now.move.knobs.items():
            assert scene.control(name).low <= to <= scene.control(name).high
            assert to != scene.control(name).value, "a move without effect"
        panel = scene.after(scene.now.move)
    assert scene.now is None or not scene.now.move.knobs, "the guide ends"


def test_a_needle_and_its_mark_are_on_one_scale(packet, handset, hf):
    for case in (packet, handset, hf, on_air(DEMO, "fm-headset"), on_air(DEMO, "hf-weak-data")):
        scene = scene_of(case, PanelState())
        live = Live(live_set(case, PanelState()), PanelState())
        for _ in range(30):
            frame = live.step()
        assert set(frame.values) == {m.id for m in scene.meters}
        for meter in scene.meters:
            assert frame.values[meter.id] <= 3 * max(meter.full, meter.value)


def test_what_stops_the_chain_is_the_first_step_and_nothing_is_turned():
    """Eight volts on a coil: the set is not set until that is mended."""
    of = station_of(
        gear("dynamic-microphone", "mic", coil_ohm=300),
        gear("microphone-socket", "radio", bias_v=8, bias_ohm=1100),
    )
    case = on_air(of)
    stops = case.verdict.stops("settings")
    assert stops
    scene = scene_of(case, PanelState())
    assert scene.headline[0].startswith(f"Mend first: {stops[0].says}")
    assert scene.now.title == "Mend first"
    assert not any(s.move.knobs for s in scene.steps if s.move is not None)
    assert {f.key for f in scene.findings if f.severity == "stop"} >= {f.key for f in stops}
    assert not any(f.code in ("set-right", "knob-off-its-aim") for f in scene.findings)
    assert settled(case, PanelState()).panel == PanelState()


def test_a_path_without_a_gain_control_turns_what_is_there():
    """A data socket with fixed gain: the computer's own level is what there is for a voice too."""
    desk = gear("amplified-desk-microphone", "desk")
    socket = gear("data-socket", "radio", window_low_dbu=-30, window_high_dbu=-10)
    of = station_of(desk, socket)
    scene = settled(on_air(of), PanelState())
    assert all(c.id != "gain" for c in scene.controls)
    (gain, *_) = [s for s in scene.steps if s.meter == "alc"]
    assert gain.controls == ()
    assert gain.move is None or gain.move.fix is not None or "nothing before it" in gain.move.says


def test_too_wide_is_narrowed_though_the_gain_has_no_way_left():
    """A desk microphone far away on a set left at wide, in a narrow channel: neighbours first."""
    of = station_of(
        gear("amplified-desk-microphone", "desk"),
        gear("microphone-socket", "radio"),
        purpose="fm-voice",
        distance_mm=250,
    )
    scene = settled(on_air(of), PanelState(system="narrow"))
    assert scene.result.peak_hz <= 2500
    assert not any(f.code == "deviates-too-far" for f in scene.findings)


def test_lethal_voltage_is_said_before_anything_whether_or_not_there_is_something_to_do(handset):
    """On the first line of the guide: done, to be turned, or to be mended."""
    for panel in (PanelState(), settled(handset, PanelState()).panel):
        first = scene_of(handset, panel).steps[0]
        assert "ualified" in first.caution, first
    dead = station_of(
        gear("dynamic-microphone", "mic", coil_ohm=300),
        gear("microphone-socket", "radio", bias_v=8, bias_ohm=1100),
        purpose="am-voice",
    )
    box = dead.device_by_port["radio"].id
    of = boxes.change_device(dead, box, inside="lethal-voltage")
    first, second, *_ = scene_of(on_air(of), PanelState()).steps
    assert first.title == "Mend first"
    assert "ualified" in first.caution
    assert "ualified" not in second.caution


# --- what is done ---------------------------------------------------------------------------------


def test_the_next_move_as_a_remedy_turns_those_knobs_and_no_others(hf):
    scene = scene_of(hf, knobs(gain=5))
    move = scene.now.move
    assert set(move.knobs) == {"gain"}
    (fix,) = scene.fix_now()
    assert fix.title.startswith("Turn ")
    turned = fix.apply(DEMO).chain("hf-chat").panel
    assert turned == with_knobs(DEMO.chain("hf-chat").panel, move.knobs)


def test_where_nothing_is_to_be_turned_there_is_no_such_remedy(packet):
    right = settled(packet, PanelState())
    assert right.is_right
    assert right.fix_now() == ()


def test_a_data_socket_reaches_full_power_3_db_over_the_middle_of_its_window():
    """−17 dBu in the middle of −20 and −14: full power at −14 dBu of RMS, its peaks √2 of that."""
    socket = gear("data-socket", "data", window_low_dbu=-20, window_high_dbu=-14, clip_dbu=0)
    sent = on_air(station_of(gear("line-source", "player"), socket, purpose="packet"))
    assert sent.figures.unit_v == pytest.approx(0.7746 * 10 ** (-14 / 20) * 2**0.5, rel=1e-3)
    assert sent.figures.overload_v == pytest.approx(0.7746 * 2**0.5, rel=1e-3)
    assert sent.figures.fixed_gain
