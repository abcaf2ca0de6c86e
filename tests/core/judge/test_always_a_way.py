"""Troubles that stood without any way out: what an old hand would do about each, and why.

Written down before they were tried. What is not said is as much of it: a microphone that has no
supply is told to get one, and nothing of levels that mean nothing.
"""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess, remedies


def lead(name="lead", **of):
    return gear("cable", name, length_m=2, **of)


def radio(ohm=600, **of):
    return gear("microphone-socket", "radio", z_in_ohm=ohm, **of)


def feed(**of):
    return gear("bias-feed", "feed", coupling_f=1e-6, **of)


ELECTRET = gear("electret-2-wire", "electret", most_v=10)
DELICATE = ELECTRET | {"most_v": 5}
CRYSTAL = gear("piezo-microphone", "crystal", sensitivity_mv_per_pa=50)
MIXER = gear("mixer-strip", "mixer", expects="microphone", gain_db=30, gain_low_db=0,
             gain_high_db=60, phantom="on", input="balanced")  # fmt: skip

# pieces, the trouble, words of ways that must be offered, the first of them first
CASES = {
    # 12 V over 470 ohm leave 12 V on a capsule of a tenth of a milliampere: a battery of 9 V
    "an electret on 12 V": (
        (ELECTRET, feed(supply_v=12, resistor_ohm=470), lead(), radio(2000)),
        "electret-overfed", ("Feed it from 9 V", "Feed it through"),
    ),
    # 9 V are too many for this one; 4.5 V of three cells, or a resistor that its current drops
    "a delicate capsule on 9 V": (
        (DELICATE, feed(supply_v=9, resistor_ohm=2200), lead(), radio(2000)),
        "electret-overfed", ("Feed it from 4.5 V", "Feed it through"),
    ),
    # nobody changes the volts of a radio: a battery of its own, the radio's kept away
    "a delicate capsule on a radio's 8 V": (
        (DELICATE, lead(), radio(bias_v=8, bias_ohm=2200)),
        "electret-overfed", ("Feed it 3 V through",),
    ),
    # phantom power is for other microphones
    "a capsule on a phantom box": (
        (DELICATE, lead(form="two-core"), gear("phantom-feed", "box"), lead("second"), radio(2000)),
        "electret-overfed", ("Leave the box out; feed it 3 V",),
    ),
    # a pad makes a weak microphone weaker than the input's own noise
    "a ribbon through a pad": (
        (gear("ribbon-microphone", "ribbon"), lead(),
         gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100), radio(2000)),
        "noise-heard", ("pad",),
    ),
    # 2 kilohm kill a crystal's bass at a mixer as well; what has a battery wants no phantom power
    "a crystal on a mixer": (
        (CRYSTAL, lead(), MIXER, gear("line-input", "computer")),
        "bass-corner-high", ("2.2 MΩ right behind it",),
    ),
    # the mixer whispers and the radio is shouted at: up here, and then down before the radio
    "a mixer turned down before a radio": (
        (gear("amplified-desk-microphone", "desk", turned_up=1), lead(),
         MIXER | {"gain_db": 10, "phantom": "off"}, lead("second"), radio(50e3)),
        "under-window", ("Turn the mixer up",),
    ),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES)
def test_there_is_a_way_and_it_is_the_usual_one(case):
    pieces, code, wanted = CASES[case]
    before = assess(station_of(*pieces))
    (finding,) = (f for f in before.findings if f.code == code)
    titles = [r.title for r in remedies(before, finding)]
    assert wanted[0] in titles[0], titles
    assert all(any(word in title for title in titles) for word in wanted), titles


@pytest.mark.parametrize("case", [c for c in CASES if "mixer turned" not in c])
def test_done_it_is_gone(case):
    pieces, code, _ = CASES[case]
    before = assess(station_of(*pieces))
    (finding,) = (f for f in before.findings if f.code == code)
    for remedy in remedies(before, finding):
        after = assess(remedy.change(before.station))
        assert finding.key not in {f.key for f in after.findings} or not remedy.whole
        assert len(after.stops()) <= len(before.stops())


def test_of_what_has_no_phantom_power_nothing_else_is_said():
    """Some volts of the radio's bias leak into it: what little comes out means nothing."""
    condenser = gear("phantom-condenser", "condenser")
    for bias_v in (0, 5, 12):
        found = assess(station_of(condenser, lead(), radio(bias_v=bias_v, bias_ohm=2200)))
        assert [f.code for f in found.findings if f.severity == "stop"] == ["no-phantom"]
        assert not {f.code for f in found.findings} & {"over-ceiling", "noise-heard",
                                                       "under-window", "field-hum"}  # fmt: skip
