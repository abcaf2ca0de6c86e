"""Where a radio's gain control works, by what its socket wants, its range and its ceiling."""

import pytest

from tonleiter.core.gear.signals import SPEECH
from tonleiter.core.gear.sockets import MicrophoneSocket


def socket(**fields):
    return MicrophoneSocket.model_validate({"id": "set", "name": "set"} | fields)


def test_a_control_works_from_a_fifth_to_four_fifths_of_its_range():
    """40 dB of range, 60 % of it worked: 12 dB to either side of what is wanted."""
    window = socket(wants_dbu=-53, gain_range_db=40, clip_dbu=0).window()
    low, high = window.low_dbu + 53, window.high_dbu + 53
    assert high == pytest.approx(-low)
    assert 12.0 <= high <= 14.5
    assert window.middle_dbu == -53


def test_a_window_ends_where_peaks_meet_the_ceiling():
    """A sine of −30 dBu has its peaks at −27; those of speech stand 14 dB over its level: −41."""
    window = socket(wants_dbu=-45, gain_range_db=40, clip_dbu=-30).window()
    assert window.high_dbu == pytest.approx(-30 + 3.01 - SPEECH.crest_db, abs=0.01)
    assert window.middle_dbu == -45
    # and is aimed at no higher than that
    close = socket(wants_dbu=-38, gain_range_db=40, clip_dbu=-30).window()
    assert close.middle_dbu == close.high_dbu < -38
    assert close.low_dbu < close.high_dbu


@pytest.mark.parametrize(("range_db", "per_db"), [(40, 2.5), (20, 5.0), (50, 2.0)])
def test_a_decibel_is_so_many_hundredths(range_db, per_db):
    of = socket(wants_dbu=-53, gain_range_db=range_db, clip_dbu=0)
    usual, louder = (of.knob(level, SPEECH).turn for level in (-53.0, -52.0))
    assert usual == pytest.approx(0.5)
    assert (usual - louder) * 100 == pytest.approx(per_db)
