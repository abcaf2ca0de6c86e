"""The case round a capsule: no wider a hole than is needed, and what can be undone comes first."""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess, remedies

RADIO = gear("microphone-socket", "radio", bias_v=8)


def offered(**case):
    before = assess(station_of(gear("electret-2-wire", "mic", housing="in-case", **case), RADIO))
    found = [f for f in before.findings if f.code in ("housing-muffles", "housing-rings")]
    return before, (remedies(before, found[0]) if found else ())


def test_two_millimetres_that_are_clear_are_not_opened_to_six():
    _, none = offered(opening_mm=2)
    assert none == ()
    _, found = offered(opening_mm=1, over_it="foam")
    both = next(r.title for r in found if "foam" in r.title and "drill" in r.title.lower())
    assert both.endswith("drill it to 2 mm")


@pytest.mark.parametrize(
    "case",
    [
        {"opening_mm": 2, "recess_mm": 8, "seal": "none"},
        {"opening_mm": 1.5, "offset_mm": 5, "over_it": "foam"},
    ],
)
def test_what_can_be_undone_comes_before_a_drill(case):
    before, found = offered(**case)
    assert "rill" not in found[0].title
    after = assess(found[0].change(before.station))
    assert "housing-muffles" not in {f.code for f in after.findings}
    # it was muffled: whatever is done wins treble, and that is what its effect says
    assert all("treble −" not in r.effect for r in found)
    assert "treble +" in found[0].effect
