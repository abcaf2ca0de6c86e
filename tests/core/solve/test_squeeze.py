"""Compression in a chain: what it does to speech, to a tone, to pauses; two in a row."""

import pytest

from tests.conftest import gear, station_of
from tests.core.judge.test_findings import codes, find, mended
from tonleiter.core.gear.transfer import Compression
from tonleiter.core.judge.assess import assess, remedies

MIC = gear("dynamic-microphone", "mic")
PAD = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100)
RADIO = gear("microphone-socket", "radio", wants_dbu=-58)


SQUEEZER = {
    "expects": "microphone",
    "gain_db": 50,
    "gain_high_db": 60,
    "z_in_ohm": 2400,
    "ein_dbu": -126,
    "clip_dbu": 20,
    "works_to_dbu": 6,
    "supply": "battery",
    "threshold_dbu": -20,
    "ratio": 4,
}


def squeezer(**figures):
    return gear("compressor", "box", **(SQUEEZER | figures))


def test_static_curve():
    curve = Compression(threshold_dbu=-20, ratio=4)
    assert curve.reduction_db(-30) == 0
    # 12 dB over the threshold come out 3 dB over it
    assert curve.reduction_db(-8) == pytest.approx(9)
    assert Compression(-20, 1).reduction_db(10) == 0


def test_speech_peaks_and_pauses_move_alike_at_every_joint_behind():
    loose = assess(station_of(MIC, squeezer(ratio=1), PAD, RADIO)).rows
    tight = assess(station_of(MIC, squeezer(), PAD, RADIO)).rows
    over = loose[1].speech_dbu + 20
    assert over > 3  # the test means something
    # 4:1 takes off at most three quarters of what lies over the threshold, peaks included
    assert 0.5 * over < tight[1].speech_squeezed_db < 0.75 * (over + 11)
    assert tight[1].peaks_squeezed_db > tight[1].speech_squeezed_db
    for k in (1, 2, 3):
        speech = loose[k].speech_dbu - tight[k].speech_dbu
        peaks = loose[k].peak_dbu - tight[k].peak_dbu
        assert speech == pytest.approx(tight[1].speech_squeezed_db)
        assert peaks == pytest.approx(tight[1].peaks_squeezed_db)
        # between words it lets go: the room comes up against speech
        assert 0 <= loose[k].noise_dbu - tight[k].noise_dbu < 0.6 * speech
    assert loose[3].snr_db - tight[3].snr_db > 0.4 * over


def test_a_steady_tone_takes_the_static_curve_at_once():
    laptop = gear("line-source", "laptop", full_scale_dbu=0, below_full_db=-10, signal="tone")
    box = squeezer(expects="line", gain_db=0, gain_low_db=-20, z_in_ohm=1e6, threshold_dbu=-30)
    loose, tight = (
        assess(station_of(laptop, box | {"ratio": ratio}, PAD, RADIO)).rows for ratio in (1, 4)
    )
    off = (loose[1].speech_dbu + 30) * 0.75
    assert loose[1].speech_dbu - tight[1].speech_dbu == pytest.approx(off)
    assert tight[1].peak_dbu - tight[1].speech_dbu == pytest.approx(3.01, abs=0.01)
    assert loose[1].noise_dbu - tight[1].noise_dbu == pytest.approx(off)


def test_the_gate_quietens_pauses_only():
    open_gate = assess(station_of(MIC, squeezer(), PAD, RADIO)).rows
    closed = assess(station_of(MIC, squeezer(gate="on", gate_dbu=-40), PAD, RADIO)).rows
    assert 8 < open_gate[3].noise_dbu - closed[3].noise_dbu <= 20
    assert open_gate[3].speech_dbu == pytest.approx(closed[3].speech_dbu, abs=0.1)


def test_a_compressor_saves_a_ceiling():
    low = {"clip_dbu": -2, "works_from_dbu": -40, "works_to_dbu": -10}
    assert "over-ceiling" in codes(assess(station_of(MIC, squeezer(ratio=1, **low), PAD, RADIO)))
    rows = assess(station_of(MIC, squeezer(ratio=10, **low), PAD, RADIO)).rows
    assert rows[1].headroom_db > 3


def test_two_in_a_row_are_minded_with_their_figures():
    radio = RADIO | {"compressor": "on", "compressor_threshold_dbu": -60}
    before = assess(station_of(MIC, squeezer(), PAD, radio))
    finding = find(before, "two-compressors")
    squeezed = sum(r.peaks_squeezed_db for r in before.rows)
    assert finding.evidence["squeezed_db"] == pytest.approx(squeezed)
    # speech stood so far over the room before them, and stands so far over it behind them
    lift = before.rows[0].snr_db - before.rows[-1].snr_db
    assert finding.evidence["noise_lift_db"] == pytest.approx(lift, abs=1.0)
    assert len(remedies(before, finding)) == 2
    for which in range(2):
        mended(before, finding, which)


def test_one_alone_is_nobodys_business():
    assert "two-compressors" not in codes(assess(station_of(MIC, squeezer(), PAD, RADIO)))


@pytest.mark.parametrize("bad", [{"ratio": 0.5}])
def test_an_expander_is_refused(bad):
    with pytest.raises(ValueError, match="ratio must be 1"):
        station_of(MIC, squeezer(**bad), PAD, RADIO)
