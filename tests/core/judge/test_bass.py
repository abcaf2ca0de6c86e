"""Corners blamed on the part that makes them: what a sheet of paper says of each circuit first."""

import math

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.solve.makers import bass_makers


def rc(farad, *ohms):
    return 1 / (2 * math.pi * farad * sum(ohms))


ELECTRET = gear("electret-2-wire", "mic")
DYNAMIC = gear("dynamic-microphone", "mic", coil_ohm=300, coil_h=1e-6)


def feed(farad):
    return gear("bias-feed", "feed", supply_v=9, resistor_ohm=2200, coupling_f=farad)


def radio(ohm=600, **of):
    return gear("microphone-socket", "radio", z_in_ohm=ohm, **of)


AMP = gear(
    "amplifier",
    "amp",
    expects="microphone",
    z_in_ohm=2000,
    gain_db=30,
    gain_low_db=0,
    gain_high_db=60,
    output_f=100e-9,
    z_out_ohm=120,
)
PAD = gear("l-pad", "pad", series_ohm=600, shunt_ohm=47)

# chain, the stage to blame, its own corner by hand, a word of the first remedy
CASES = {
    # the capsule is a current source: what stands before the capacitor is the feed's resistor
    "0.1 µF of a feed into 600 Ω": (
        (ELECTRET, feed(100e-9), radio()),
        "feed",
        rc(1e-7, 2200, 600),
        "1 µF",
    ),
    "10 nF of a feed into 10 kΩ": (
        (ELECTRET, feed(10e-9), radio(10e3)),
        "feed",
        rc(1e-8, 2200, 10e3),
        "220 nF",
    ),
    # the output capacitor of a bought box is nobody's choice, and makes the corner all the same
    "an amplifier's own output capacitor": (
        (DYNAMIC, AMP, PAD, radio()),
        "amp",
        rc(1e-7, 120, 600, 47 * 600 / 647),
        "buffer",
    ),
    "a capacitor of the lead": (
        (DYNAMIC, gear("capacitor", "c", capacitance_f="100n"), radio(2000)),
        "c",
        rc(1e-7, 300, 2000),
        "Make the c",
    ),
    # a coil across 300 and 600 ohms, windings apart
    "a small primary": (
        (DYNAMIC, gear("transformer", "t", primary_h=0.05, leakage_h=1e-4), radio()),
        "t",
        None,
        "primary",
    ),
    # a FET stage alone would drive the radio too hard: a follower, and a pad behind it
    "a crystal on 600 Ω": (
        (gear("piezo-microphone", "crystal"), radio()),
        "crystal",
        None,
        "2.2 MΩ right behind it",
    ),
}


@pytest.mark.parametrize("name", list(CASES))
def test_the_part_that_makes_a_corner_is_blamed_and_mended(name):
    pieces, stage, own_hz, remedy = CASES[name]
    before = assess(station_of(*pieces))
    (finding,) = [f for f in before.findings if f.code == "bass-corner-high"]
    assert finding.stage == stage
    if own_hz is not None:
        # what else bends there, such as a radio-frequency filter, shifts it a little
        worst = bass_makers(before.solution, before.corners_hz[0])[0]
        assert worst.own_hz == pytest.approx(own_hz, rel=0.1)
    (first, *_) = remedies(before, finding)
    assert remedy in first.title
    after = assess(first.change(before.station))
    assert after.corners_hz[0] is None or after.corners_hz[0] < 150
    # what comes back is bass, and no treble is lost for it
    assert "treble" not in first.effect
    assert "bass from" in first.effect


def test_of_two_parts_each_has_its_share_and_the_larger_one_leads():
    """100 nF and 1 µF in a row: 690 Hz and 69 Hz; the first takes ten parts of eleven."""
    two = (
        gear("capacitor", "small", capacitance_f="100n"),
        gear("capacitor", "large", capacitance_f="1u"),
    )
    solution = assess(station_of(DYNAMIC, *two, radio(2000))).solution
    f = rc(1e-7, 2300)
    first, second, *_ = bass_makers(solution, f)
    assert [first.element.name, second.element.name] == ["small:c", "large:c"]
    # together they are 91 nF; of 1/(1 + (f/fc)²) each has what it has of the impedance
    total = 1 / (1 + (f / rc(1 / 11e6, 2300)) ** 2)
    assert first.share == pytest.approx(total * 10 / 11, rel=0.03)
    assert second.share == pytest.approx(total / 11, rel=0.05)


@pytest.mark.parametrize(("farad", "said"), [("1.18u", False), ("0.9u", True)])
def test_what_is_just_over_the_limit_is_not_worth_a_word(farad, said):
    """153 Hz where 150 is wanted is a tenth of a decibel; 200 Hz is heard."""
    found = assess(station_of(DYNAMIC, gear("capacitor", "c", capacitance_f=farad), radio()))
    assert any(f.code == "bass-corner-high" for f in found.findings) is said
