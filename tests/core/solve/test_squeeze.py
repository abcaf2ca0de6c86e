"""Compression as static curves, and what two in a row do."""

import pytest

from tests.conftest import gear, station_of
from tests.core.judge.test_findings import codes, find, mended
from tonleiter.core.gear.transfer import Compression
from tonleiter.core.judge.assess import assess, remedies

MIC = gear("dynamic-microphone", "mic")
PAD = gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100)
RADIO = gear("microphone-socket", "radio", window_low_dbu=-70)


SQUEEZER = {
    "expects": "microphone", "gain_db": 50, "gain_high_db": 60, "z_in_ohm": 2400,
    "ein_dbu": -126, "clip_dbu": 20, "works_to_dbu": 6, "supply": "battery",
    "threshold_dbu": -20, "ratio": 4,
}  # fmt: skip


def squeezer(**figures):
    return gear("compressor", "box", **(SQUEEZER | figures))


def test_static_curve():
    curve = Compression(threshold_dbu=-20, ratio=4)
    assert curve.reduction_db(-30) == 0
    # 12 dB over the threshold come out 3 dB over it
    assert curve.reduction_db(-8) == pytest.approx(9)
    assert Compression(-20, 1).reduction_db(10) == 0


def test_gate():
    curve = Compression(-20, 1, gate_dbu=-50, gate_depth_db=20)
    assert curve.gated_db(-60) == 20
    assert curve.gated_db(-40) == 0


def test_speech_peaks_and_pauses_each_move_by_their_own_reduction():
    loose = assess(station_of(MIC, squeezer(ratio=1), PAD, RADIO)).rows
    quick = squeezer(attack_s=1e-6, release_s=1e-3)
    tight = assess(station_of(MIC, quick, PAD, RADIO)).rows
    over = loose[1].speech_dbu + 20
    assert over > 3  # the test means something
    assert tight[1].speech_squeezed_db == pytest.approx(over * 0.75)
    assert tight[1].peaks_squeezed_db == pytest.approx((over + 14) * 0.75)
    # what stands behind is moved by as much, pauses are not
    for k in (1, 2, 3):
        assert loose[k].speech_dbu - tight[k].speech_dbu == pytest.approx(over * 0.75)
        assert loose[k].peak_dbu - tight[k].peak_dbu == pytest.approx((over + 14) * 0.75)
        assert loose[k].noise_dbu == pytest.approx(tight[k].noise_dbu)
    assert loose[3].snr_db - tight[3].snr_db == pytest.approx(over * 0.75)


def test_the_gate_quietens_pauses_only():
    open_gate = assess(station_of(MIC, squeezer(), PAD, RADIO)).rows
    closed = assess(station_of(MIC, squeezer(gate="on", gate_dbu=-40), PAD, RADIO)).rows
    assert open_gate[3].noise_dbu - closed[3].noise_dbu == pytest.approx(20)
    assert open_gate[3].speech_dbu == pytest.approx(closed[3].speech_dbu)


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
    lift = sum(r.speech_squeezed_db for r in before.rows)
    assert finding.evidence["noise_lift_db"] == pytest.approx(lift)
    assert len(remedies(before, finding)) == 2
    for which in range(2):
        mended(before, finding, which)


def test_one_alone_is_nobodys_business():
    assert "two-compressors" not in codes(assess(station_of(MIC, squeezer(), PAD, RADIO)))


@pytest.mark.parametrize("bad", [{"ratio": 0.5}])
def test_an_expander_is_refused(bad):
    with pytest.raises(ValueError, match="ratio must be 1"):
        station_of(MIC, squeezer(**bad), PAD, RADIO)
