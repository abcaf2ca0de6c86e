"""What parts must bear with something pulled out: each case has a solution, floating or not."""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess
from tonleiter.core.wiring.ratings import Worst


def test_a_microphone_with_a_battery_keeps_its_volts_when_the_set_is_pulled_out():
    """It hangs on gigohms of insulation then: its collector stands where it stood, on its own."""
    of = station_of(
        gear("amplified-desk-microphone", "desk", element="piezo", stage="darlington"),
        gear("microphone-socket", "radio", bias_v=8),
    )
    solution = assess(of, contacts=True).solution
    worst = Worst(of, solution)
    assert len(worst._ops) == 3, "as it stands, the source out, the radio out"
    with_radio, alone = worst._ops[0], worst._ops[2]
    for node in ("desk:collector", "desk:base"):
        assert alone.volts(node, "desk:ground") == pytest.approx(
            with_radio.volts(node, "desk:ground"), abs=0.05
        )
