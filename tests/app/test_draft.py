"""While a value moves the ladder is solved on fewer frequencies; at rest on all of them."""

import pytest

from tonleiter.app.demo import shipped_demo
from tonleiter.app.spaces.ladder.grasp import pull
from tonleiter.core.judge.assess import assess
from tonleiter.core.solve.solution import DRAFT_POINTS, POINTS
from tonleiter.core.station.files import read_station


def test_the_hand_moves_on_a_draft_and_rests_on_the_full_grid(qtbot, model):
    model.move(pull(model.assessment, 3, 6.0), gesture="drag")
    assert model.assessment.solution.f_hz.size == DRAFT_POINTS
    qtbot.waitUntil(lambda: model.assessment.solution.f_hz.size == POINTS)


@pytest.mark.parametrize("chain", ["hf-chat", "fm-headset", "am-museum-day"])
def test_the_draft_shows_the_same_levels(chain):
    station = read_station(shipped_demo()).station
    draft, full = assess(station, chain, points=DRAFT_POINTS), assess(station, chain)
    for rough, fine in zip(draft.rows, full.rows, strict=True):
        assert rough.speech_dbu == pytest.approx(fine.speech_dbu, abs=0.1)
        assert rough.noise_dbu == pytest.approx(fine.noise_dbu, abs=0.1)
    assert [f.key for f in draft.findings] == [f.key for f in full.findings]
