"""Guides of every mode, schools and what they cost: on the demo and typed in."""

from dataclasses import replace

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tests.core.radios import DEMO, at, knobs
from tests.core.setup.rates import rate
from tonleiter.core.gear.library import parts_library
from tonleiter.core.guide.cards import (
    card_of,
)
from tonleiter.core.guide.controls import with_knobs
from tonleiter.core.guide.onair import on_air
from tonleiter.core.guide.schools import ALC, COMPRESSION, tone_aim
from tonleiter.core.setup.costs import behind_a_box, cost_of, costs_of_schools
from tonleiter.core.setup.modes import scene_of, settled
from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.sound import Sound
from tonleiter.core.station import boxes, edits
from tonleiter.core.station.records import NO_RECORDS
from tonleiter.core.station.settings import PanelState

# --- single sideband -----------------------------------------------------------------------------


@pytest.mark.table(keep=6)
@pytest.mark.parametrize("alc", list(ALC))
@pytest.mark.parametrize("squeeze", list(COMPRESSION))
def test_the_guide_followed_ends_with_every_meter_in_its_zone(hf, alc, squeeze):
    scene = settled(hf, PanelState(alc=alc, compression=squeeze))
    assert scene.now is None
    assert all(s.state == "done" for s in scene.steps)
    meter = scene.meter("alc")
    low, high = (share * hf.figures.alc_full_db for share in ALC[alc])
    assert low - 1e-6 <= meter.value <= high + 1e-6
    low, high = COMPRESSION[squeeze]
    assert low - 0.3 <= scene.result.judged.compression_db <= high + 0.3
    assert all(c.fits() for c in scene.controls)
    assert "every knob is where it should be" in scene.headline[1]


def test_a_voice_of_tall_peaks_ends_with_the_compressor_at_its_least():
    """On it takes more than is aimed at, off nothing: the guide turned it on and off for ever."""
    pieces = parts_library()
    capsule, socket = (
        pieces[name].model_dump(mode="json") for name in ("cased-capsule", "fm-socket-biased")
    )
    station = station_of(capsule, gear("cable", "lead"), socket, purpose="ssb-weak", distance_mm=30)
    case, panel, stood = on_air(station), PanelState(), []
    for _ in range(20):
        scene = scene_of(case, panel)
        if scene.now is None or scene.now.move is None:
            break
        assert scene.now.move.knobs, scene.now.move.says
        panel = with_knobs(panel, scene.now.move.knobs)
        assert panel not in stood, "it was there already"
        stood.append(panel)
    assert scene.now is None
    assert at(scene, "gain").done


def test_a_gain_too_low_is_told_in_figures(hf):
    """The control is even over 40 dB: a decibel is two and a half of its hundred."""
    scene = scene_of(hf, knobs(gain=30))
    step = at(scene, "gain")
    to = step.move.knobs["gain"]
    assert to > 30
    assert step.move.says.startswith("Up ")
    up_db = (to - 30) * 0.4
    assert f"Up {up_db:.0f} dB" in step.move.says
    assert scene.now is step
    assert "hardly moves" in scene.findings[0].says
    assert scene.headline[0].startswith("The listeners get a quiet signal")
    after = scene_of(hf, knobs(gain=to))
    assert at(after, "gain").done


def test_a_gain_too_high_is_pinned_and_said_so(hf):
    scene = scene_of(hf, knobs(gain=95))
    assert "pinned" in scene.headline[0]
    assert at(scene, "gain").move.says.startswith("Down")
    assert any("pinned" in f.says for f in scene.findings)
    fix = scene.findings[0].fixes[0]
    mended = fix.apply(DEMO)
    assert mended.chain("hf-chat").panel.knobs["gain"] < 95


def test_every_step_says_why_and_what_it_means_if_nothing_moves(hf):
    scene = scene_of(hf, knobs(gain=20, low=400, compression=12, bass=8))
    for step in scene.steps:
        if step.move is not None:
            assert step.move.says
            assert step.move.why
    gain = at(scene, "gain")
    assert "Ladder expects" in gain.if_nothing
    assert "Dummy load" in gain.caution


@pytest.mark.parametrize(
    ("pitch", "less", "more"),
    [
        ("deep", "bass_db", "treble_db"),
        ("high", "treble_db", "bass_db"),
    ],
)
def test_a_deep_voice_wants_less_bass_and_a_high_one_less_treble(pitch, less, more):
    aim = tone_aim("natural", pitch)
    assert sum(getattr(aim, less)) < 0 < sum(getattr(aim, more))


def test_a_communicator_is_narrower_and_brighter_than_a_natural_sound():
    warm, thin = tone_aim("natural", "middle"), tone_aim("communicator", "middle")
    assert thin.low_hz[0] > warm.low_hz[1]
    assert thin.high_hz[1] <= warm.high_hz[1]
    assert sum(thin.treble_db) > sum(warm.treble_db)


def test_weak_signals_are_sent_as_a_communicator_does_unless_one_says_otherwise():
    case = on_air(edits.change_chain(DEMO, "hf-chat", purpose="ssb-weak"), "hf-chat")
    assert scene_of(case, PanelState()).tone == "communicator"
    assert scene_of(case, PanelState(tone="natural")).tone == "natural"
    scene = settled(case, PanelState())
    assert scene.panel.knobs["low"] >= 250


def test_who_speaks_softly_is_quieter_by_as_much_as_the_ladder_has_it(hf):
    """Soft is 6 dB under normal, loud 12 over it: the gain follows."""
    level = active_level(Sound(hf.volts, 12_000)).level_db
    for effort, db in (("soft", -6.0), ("loud", 12.0)):
        other = on_air(DEMO, "hf-chat", "with-transformer", effort=effort)
        made = active_level(Sound(other.volts, 12_000)).level_db
        assert made - level == pytest.approx(db, abs=0.6)


def test_figures_that_nobody_found_are_named():
    assert "what its socket wants" in on_air(DEMO, "hf-chat").typical[0]
    assert not any("power" in t for t in on_air(DEMO, "hf-chat").typical)
    assert any("power, 100 W" in t for t in on_air(DEMO, "fm-headset").typical)


@pytest.mark.long
def test_a_set_s_own_figures_are_what_is_simulated():
    """A meter that ends at 8 dB, a limiter at 2 kHz: aims and system follow."""
    of = boxes.change_device(DEMO, "hf-20w", transmitter={"alc_full_db": 8, "alc_hang_s": 0.5})
    case = on_air(of, "hf-chat", "with-transformer")
    assert (case.figures.alc_full_db, case.figures.alc_hang_s) == (8, 0.5)
    _, high = scene_of(case, PanelState()).alc_zone
    assert high == pytest.approx(0.67 * 8)
    assert settled(case, PanelState()).now is None
    box = DEMO.device_by_port["fm-mobile"].id
    of = boxes.change_device(DEMO, box, transmitter={"deviation_hz": 2000})
    scene = scene_of(on_air(of, "fm-headset"), PanelState())
    assert scene.control("deviation").value == 2000
    # where its trimmer comes says nothing of the channels: the person does
    assert scene.system_hz == 5000
    assert scene_of(on_air(of, "fm-headset"), PanelState(system="narrow")).system_hz == 2500


def test_a_card_of_an_own_radio_says_what_was_read_there(hf):
    panel = PanelState(readings={"alc": "40 %"})
    card = card_of(scene_of(hf, panel), NO_RECORDS, "2026-05-02", own=True)
    assert card.meters == {"alc": pytest.approx(0.4 * hf.figures.alc_full_db)}


@pytest.mark.long
def test_what_schools_cost_is_measured_and_goes_the_way_of_physics(hf):
    """Harder on the level control: more average power, more splatter, louder pauses."""
    hf = replace(hf, volts=hf.volts[: 4 * 12_000], spoken=Sound(hf.spoken.samples[:64_000], 16_000))
    mild, hard = (cost_of(hf, PanelState(alc=a, compression="none")) for a in ALC)
    assert hard.mean_w > mild.mean_w
    assert hard.splatter_db > mild.splatter_db
    assert hard.gaps_db < mild.gaps_db
    none, half = (cost_of(hf, PanelState(compression=c)) for c in ("none", "half"))
    assert half.mean_w > none.mean_w
    assert half.gaps_db < none.gaps_db
    assert "average power" in half.against(none)
    assert "makes no difference" in none.against(none)
    told = costs_of_schools(hf, PanelState())
    assert {"alc:middle", "alc:barely", "compression:none", "compression:half"} <= set(told)
    # emphasis where consonants are brings more of speech over the noise than warmth does
    assert "more of it over the noise" in told["tone:communicator"]
    assert "less of it over the noise" in told["tone:natural"]


@pytest.mark.long
def test_a_box_takes_as_much_off_peaks_as_is_asked_and_costs_are_told_both_ways(hf):
    """Behind a box of 4 to 1 peaks come down by what its meter shows; quiet words stay."""
    short = replace(
        hf, volts=hf.volts[: 4 * 12_000], spoken=Sound(hf.spoken.samples[:64_000], 16_000)
    )
    made = behind_a_box(short.volts, 6.0)
    gain = np.abs(made) / np.maximum(np.abs(short.volts), 1e-12)
    loud = np.abs(short.volts) > np.quantile(np.abs(short.volts), 0.999)
    assert 20 * np.log10(np.median(gain[loud])) == pytest.approx(-6.0, abs=1.5)
    assert gain.max() == pytest.approx(1.0)
    told = costs_of_schools(short, PanelState())
    own, box = told["processing:radio"], told["processing:outboard"]
    assert own != box or own == "makes no difference here"
    if "gains" in own and "average power" in own:
        assert "costs" in box
    # nothing is told of a choice that changes nothing
    assert "processing:radio" not in costs_of_schools(short, PanelState(compression="none"))


def test_two_compressors_in_a_row_are_said():
    box = gear("compressor", "box", threshold_dbu=-25)
    amp = gear(
        "amplifier",
        "amp",
        expects="microphone",
        z_in_ohm=2000,
        gain_db=45,
        gain_low_db=0,
        gain_high_db=80,
    )
    pad = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=430)
    of = station_of(
        gear("dynamic-microphone", "mic"),
        amp,
        box,
        pad,
        gear("microphone-socket", "radio", clip_dbu=-20),
    )
    case = on_air(of)
    gain = settled(case, PanelState(processing="outboard")).panel.knobs["gain"]
    scene = scene_of(case, knobs(gain=gain, compression=6))
    (both,) = [f for f in scene.findings if f.code == "compressed-twice"]
    off = both.fixes[0].apply(edits.change_chain(of, "c", panel=scene.panel))
    assert off.chain().panel.knobs["compression"] == 0
    assert off.chain().panel.knobs["gain"] == gain
    # the guide does not set the one while the other works: it asks for it to be off
    for panel in (scene.panel, PanelState(), PanelState(processing="outboard")):
        end = settled(case, panel)
        assert end.result.judged.compression_db == 0
        assert not any(f.code == "compressed-twice" for f in end.findings)


def test_a_gain_at_its_end_sends_one_to_the_chain():
    """A pad that takes 30 dB too much: out with it, and the knob goes back where people work it."""
    pad = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=33)
    of = station_of(gear("dynamic-microphone", "mic"), pad, gear("microphone-socket", "radio"))
    scene = settled(on_air(of), PanelState())
    assert scene.now.id == "gain"
    assert "at its end. Leave the pad out" in scene.now.move.says
    better = settled(on_air(scene.now.move.fix.apply(of)), scene.panel)
    assert better.is_right
    assert 50 < better.panel.knobs["gain"] < 85


def test_where_nothing_before_the_radio_can_be_turned_the_chain_must_change():
    """A microphone of a tenth of the usual sensitivity, plugged straight in."""
    of = station_of(
        gear("dynamic-microphone", "mic", sensitivity_mv_per_pa=0.12),
        gear("microphone-socket", "radio", wants_dbu=-40, gain_range_db=20),
    )
    scene = settled(on_air(of), PanelState())
    assert scene.now.id == "gain"
    assert "nothing before it can be turned" in scene.now.move.says
    assert "Ladder" in scene.now.move.why
    assert any(f.code == "knob-at-its-end" for f in scene.findings)


def test_a_box_before_the_radio_is_set_first(hf):
    scene = scene_of(hf, PanelState())
    ids = [s.id for s in scene.steps]
    assert ids.index("box-desk-mixer") < ids.index("pad") < ids.index("gain")


def test_distance_comes_before_any_knob_and_is_changed_from_here():
    of = station_of(
        gear("dynamic-microphone", "mic"), gear("microphone-socket", "radio"), distance_mm=200
    )
    scene = scene_of(on_air(of), PanelState())
    assert scene.now.id == "distance"
    nearer = scene.now.move.fix.apply(of)
    assert nearer.chain().distance_mm.value == 30
    assert at(scene_of(on_air(nearer), PanelState()), "distance").done


def test_what_nothing_here_can_do_does_not_keep_the_panel_waiting(handset):
    """A voice that goes further down than up: wires are turned over with an iron, not here."""
    scene = settled(handset, PanelState())
    uneven = [s for s in scene.steps if s.move is not None]
    assert all(s.state == "open" or not s.move.can_be_made for s in uneven)


# --- other modes ---------------------------------------------------------------------------------


@pytest.mark.long
def test_fm_voice_is_led_to_the_limiter_and_within_the_channel():
    case = on_air(DEMO, "fm-headset")
    quiet = scene_of(case, knobs(gain=20))
    assert "Too quiet" in quiet.headline[0]
    scene = settled(case, knobs(gain=20))
    assert scene.now is None
    low, high = scene.zone_hz
    assert low <= scene.result.peak_hz <= high <= 5000
    wide = scene_of(case, knobs(deviation=6000))
    assert any(f.code == "deviates-too-far" and f.severity == "stop" for f in wide.findings)
    narrow = settled(case, PanelState(system="narrow"))
    assert narrow.now is None
    assert 0.7 * 2500 < narrow.result.peak_hz < 2500


def test_packet_is_set_with_one_tone_and_its_null_is_seen(packet):
    scene = settled(packet, PanelState())
    assert scene.now is None
    low, high = scene.zone_hz
    assert low <= scene.pair[scene.further].peak_hz <= high
    # a tone of deviation / 2.4048 nulls the carrier
    nulling = with_knobs(scene.panel, {"tone": 5 * round(scene.result.peak_hz / 2.4048 / 5)})
    at_null = scene_of(packet, nulling)
    assert at_null.meter("carrier").value > 25
    assert at_null.meter("carrier").value > scene.meter("carrier").value + 10


def test_am_is_led_to_negative_peaks_below_full_modulation(handset):
    first = scene_of(handset, PanelState())
    assert any(f.code == "carrier-cut-off" for f in first.findings)
    scene = settled(handset, PanelState())
    assert 80 <= scene.result.down <= 97
    assert not any(f.severity == "stop" for f in scene.findings)


def test_weak_signal_data_leaves_the_level_control_at_rest():
    case = on_air(DEMO, "hf-weak-data")
    hot = scene_of(case, knobs(compression=6, tone=600))
    assert [s.id for s in hot.steps if s.move][:3] == ["off", "tone", "level"]
    scene = settled(case, knobs(compression=6, tone=600))
    assert scene.now is None
    assert scene.result.judged.alc_db == 0
    assert scene.panel.knobs["compression"] == 0
    assert scene.panel.knobs["tone"] >= 1500
    assert -3.1 <= scene.result.peaks_db <= -0.4


@pytest.mark.parametrize("purpose", ["ssb-chat", "fm-voice", "am-voice"])
@pytest.mark.table(keep=3)
def test_the_meter_is_in_its_zone_after_at_most_two_moves(purpose):
    """A sample of every microphone, voice and radio of the library that Match calls workable."""
    made = rate(purpose, every=61, first=7)
    assert made.tried >= 3
    assert made.right == made.tried, made.missed
