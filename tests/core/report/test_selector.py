"""One microphone for two radios: which contacts a switch takes where."""

import pytest

from tests.core.wiring.benches import PINS, lead, mic, radio, station
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.selector import selectors
from tonleiter.core.station.model import Station

# the other radio's plug: its microphone on 1, its switch on 5
OTHER = {
    "1": "microphone",
    "2": "free",
    "3": "up-down",
    "4": "audio-out",
    "5": "transmit",
    "6": "microphone-ground",
    "7": "transmit-ground",
    "8": "free",
}


def two_radios(source="mic", pins=OTHER, **other):
    """A chain from the microphone to each of two radios."""
    data = station(mic(), lead(), radio()).model_dump(mode="json")
    second = station(mic(), lead(), radio(**other)).model_dump(mode="json")
    rig = next(g for g in second["gear"] if g["id"] == "radio") | {"id": "rig", "name": "rig"}
    device = next(d for d in second["devices"] if d["ports"] == ["radio"])
    device |= {"id": "rig-box", "name": "rig", "ports": ["rig"]}
    for connector in device["connectors"]:
        connector["ports"] = ["rig"]
        if pins is None:
            connector["contacts"] = []
        else:
            connector["contacts"] = [{"label": k, "role": r} for k, r in pins.items()]
    spare = mic() | {"id": "spare", "name": "spare"}
    again = lead("second-lead")
    chain = data["chains"][0] | {"id": "other", "name": "other"}
    stages = [{"gear": source}, {"gear": "second-lead"}, {"gear": "rig"}]
    chain["variants"] = [chain["variants"][0] | {"stages": stages}]
    data["gear"] += [rig, spare, again]
    data["devices"].append(device)
    data["chains"].append(chain)
    return Station.model_validate(data)


def made(of, chain="c"):
    return selectors(of, verdict_of(of, chain))


def test_each_conductor_has_a_pole_with_both_contacts():
    (one,) = made(two_radios())
    assert one.to == "rig"
    assert dict(PINS)["4"] == "microphone"
    hot = next(p for p in one.poles if ", hot:" in p)
    assert (
        hot == "Pole 1, hot: middle from the mic, one way to the radio 4, the other to the rig 1."
    )
    transmit = next(p for p in one.poles if ", transmit:" in p)
    assert transmit.endswith(
        "middle from the switch, one way to the radio 3, the other to the rig 5."
    )
    assert [p.partition(",")[0] for p in one.poles] == [
        f"Pole {k + 1}" for k in range(len(one.poles))
    ]
    assert one.part.startswith(f"switch, {len(one.poles)} poles, 2 ways")


def test_grounds_are_switched_too():
    """Joined in the box the two radios would make a loop."""
    (one,) = made(two_radios())
    assert any(", transmit ground:" in p for p in one.poles)
    assert any(", cold:" in p or ", screen:" in p for p in one.poles)


def test_another_microphone_s_radio_needs_no_switch():
    assert made(two_radios(source="spare")) == ()


def test_one_radio_alone_needs_none():
    assert made(station(mic(), lead(), radio())) == ()


@pytest.mark.parametrize("chain", ["c", "other"])
def test_it_goes_both_ways(chain):
    (one,) = made(two_radios(), chain)
    assert one.to == {"c": "rig", "other": "radio"}[chain]
