"""What eyes and a pull are to tell before there is power, made from the build's own parts."""

import pytest

from tests.conftest import gear
from tests.core.prove.rates import kind
from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.path import DO, PATH, looks_of

BIASED = {"bias_v": 8, "bias_ohm": 2200, "z_in_ohm": 1500}
BLOCK = gear("capacitor", "block", capacitance_f=2.2e-6, plus_side="output")


def looked_at(*pieces, at=0):
    looks = looks_of(verdict_of(station(*pieces)), at)
    assert len({look.id for look in looks}) == len(looks), "nothing is looked at twice"
    return {look.id: look.says for look in looks}


def of(looks, what):
    return [says for id, says in looks.items() if id.split(":")[0] == what]


def test_power_comes_after_eyes_and_ohms_and_the_air_comes_last():
    order = [step.id for step in PATH]
    assert order == ["look", "ring", "dc", "tone", "listen", "dummy-load", "air"]
    assert set(DO) == {"listen", "dummy-load", "air"}


def test_each_step_that_can_hurt_warns():
    """Charged capacitors, a tone at the ear, RF, the rules of the air; ohms harm nobody."""
    silent = [step.id for step in PATH if not step.caution]
    assert silent == ["ring"]


def test_each_lead_is_looked_at_for_strands_relief_and_faces():
    looks = looked_at(mic(), lead(), radio())
    assert {"strands", "strain-relief"} <= set(looks)
    assert of(looks, "face")
    assert of(looks, "legs") == of(looks, "plus") == []


def test_an_electrolytic_by_its_plus_end_towards_the_higher_volts():
    """The radio's eight volts are behind it: plus belongs on the radio's side."""
    looks = looked_at(mic(), lead(), BLOCK, radio(**BIASED))
    (says,) = of(looks, "plus")
    assert says.startswith("C1: its plus end goes to ")
    turned = looked_at(mic(), lead(), BLOCK | {"plus_side": "input"}, radio(**BIASED))
    (other,) = of(turned, "plus")
    assert other != says


@pytest.mark.parametrize(
    ("made", "what", "wanted"),
    [
        ("opamp-preamp", "legs", "its notch or dot as the drawing has it"),
        ("transformer", "windings", "secondary towards the radio"),
    ],
)
def test_parts_that_have_a_right_way_round_say_which(made, what, wanted):
    looks = looked_at(mic(), lead(), kind(made), lead("out"), radio())
    assert any(wanted in says for says in of(looks, what))


def test_each_leg_of_a_transistor_goes_to_something_named():
    (says,) = of(looked_at(mic(), lead(), kind("bipolar-preamp"), lead("out"), radio()), "legs")
    ref, _, legs = says.partition(": ")
    said = dict(leg.split(" goes to ") for leg in legs.split("; "))
    assert set(said) == {"B", "C", "E"}
    assert all(goes and ref not in goes.replace(",", "").split() for goes in said.values())


def test_what_only_a_microphone_that_is_opened_has():
    assert "gasket" in looked_at(mic(), lead(), radio())
    assert "gasket" not in looked_at(gear("line-source", "player"), lead(), radio())
