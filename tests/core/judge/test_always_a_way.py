"""Troubles that stood without any way out: what an old hand would do about each, and why.

Written down before they were tried. What is not said is as much of it: a microphone that has no
supply is told to get one, and nothing of levels that mean nothing.
"""

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.station import edits


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
    # its phantom box gives far more current, into a desk microphone that wants none of it; but that
    # ends at its capacitors, and it is the radio's 3 V that stand on the winding behind them
    "a winding between a phantom box and a biased pin": (
        (gear("amplified-desk-microphone", "desk"), lead(), gear("phantom-feed", "box"),
         gear("transformer", "isolator"), radio(3000, bias_v=3, bias_ohm=5000)),
        "dc-through-winding", ("plus side to the radio",),
    ),
    # a line needs no amplifier: plugged straight in it is 20 dB too hot, and turned down there
    "a line through a preamp": (
        (gear("line-source", "laptop"), lead(), gear("opamp-preamp", "preamp"), radio(600)),
        "line-into-mic", ("Leave the preamp out",),
    ),
    # 48 V through 6.8 k are 7 mA, and the box's capacitors keep the feed's current away
    "granules before a phantom box and a feed": (
        (gear("carbon-microphone", "carbon"), lead(), gear("phantom-feed", "box"),
         gear("bias-feed", "feed", supply_v=3, resistor_ohm=2200), radio(600)),
        "carbon-no-current", ("Leave the box out; feed it through",),
    ),
    # a feed behind a mixer feeds nothing: granules get one of their own, right behind their lead
    "granules before a mixer turned up, and a feed": (
        (gear("carbon-microphone", "carbon"), lead(), MIXER | {"phantom": "off"},
         gear("bias-feed", "feed", supply_v=12, resistor_ohm=2200), radio(600)),
        "carbon-no-current", ("Feed it 6 V through",),
    ),
    # an amplifier lets no volts through to what stands before it
    "a phantom box behind an amplifier": (
        (gear("phantom-condenser", "condenser"), lead(form="two-core"),
         gear("microphone-amplifier", "amplifier"), gear("phantom-feed", "box"),
         radio(3000, bias_v=3, bias_ohm=5000)),
        "no-phantom", ("Plug the box in right behind the lead",),
    ),
    # nothing that it feeds is there: it goes, and no capacitor comes
    "a coil on a feed that it does not want": (
        (gear("dynamic-microphone", "mic"), lead(),
         gear("bias-feed", "feed", supply_v=9, resistor_ohm=2200, coupling_f=1e-6), radio(600)),
        "dc-through-winding", ("Leave the feed out",),
    ),
    # 40 dB and then a stage more: a pad of 40 dB would undo just the preamp, which nobody needs
    "two amplifiers in a row": (
        (gear("dynamic-microphone", "mic"), lead(), gear("opamp-preamp", "preamp"),
         gear("bipolar-preamp", "stage"),
         radio(3000, bias_v=3, bias_ohm=5000, wants_dbu=-50, gain_range_db=50)),
        "line-into-mic", ("Leave the preamp out",),
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
    # both legs of a bridged output must float, and the radio's bias must not drive the winding
    "a bridged output on a handheld": (
        (gear("loudspeaker-output", "mobile", output="bridged"), lead(),
         radio(2200, bias_v=3.5, bias_ohm=4700)),
        "bridge-leg-grounded", ("then an isolating transformer and", "against its bias"),
    ),
    # with a pad behind it already it is the core alone that sees too much
    "a bridged output with a pad at the radio": (
        (gear("loudspeaker-output", "mobile", output="bridged"), lead(),
         gear("l-pad", "pad", series_ohm=330e3, shunt_ohm=1800), radio(10e3)),
        "bridge-leg-grounded", ("isolating transformer that bears",),
    ),
    # what stands between granules and their current goes, or the current comes before it
    "granules behind 47 kilohm": (
        (gear("carbon-microphone", "carbon"), lead(), gear("series-pad", "pad", series_ohm=47e3),
         radio(bias_v=8, bias_ohm=1100)),
        "carbon-no-current", ("Feed it 6 V through",),
    ),
    # a filtered feed for a capsule of a third of a milliampere
    "granules on an electret's feed": (
        (gear("carbon-microphone", "carbon"),
         feed(supply_v=12, resistor_ohm=4700, filter="zener"), lead(), radio(2000)),
        "carbon-no-current", ("the filter left out",),
    ),
    # a matched pad starves the capsule that is fed through it: its own battery before the pad
    "a capsule fed through a pad": (
        (ELECTRET, lead(), gear("t-pad", "pad", first_ohm=100, shunt_ohm=300, second_ohm=100),
         radio(bias_v=8, bias_ohm=2200)),
        "electret-starved", ("Feed it 3 V through",),
    ),
    # a pad would take the capsule its bias; lips have a way to go
    "lips on a capsule that the radio feeds": (
        (gear("electret-2-wire", "loud", sensitivity_dbv_per_pa=-46), lead(),
         radio(5000, bias_v=5, bias_ohm=5600)),
        "over-ceiling", ("Speak from",),
    ),
}  # fmt: skip
NEAR = {"lips on a capsule that the radio feeds": 10}


def assessed(case):
    station = station_of(*CASES[case][0])
    return assess(edits.change_chain(station, "c", distance_mm=NEAR.get(case, 25)))


@pytest.mark.parametrize("case", CASES)
def test_there_is_a_way_and_it_is_the_usual_one(case):
    _, code, wanted = CASES[case]
    before = assessed(case)
    (finding,) = (f for f in before.findings if f.code == code)
    titles = [r.title for r in remedies(before, finding)]
    assert wanted[0] in titles[0], titles
    assert all(any(word in title for title in titles) for word in wanted), titles


@pytest.mark.parametrize("case", [c for c in CASES if "mixer turned" not in c])
def test_done_it_is_gone(case):
    _, code, _ = CASES[case]
    before = assessed(case)
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


def pressed(station, steps):
    """The first remedy of the gravest trouble, again and again, as far as there are any."""
    done = []
    for _ in range(steps):
        now = assess(station)
        offered = [r for f in now.findings if f.severity != "fine" for r in remedies(now, f)[:1]]
        if not offered:
            break
        done.append(offered[0].title)
        station = offered[0].change(station)
    return done, assess(station)


ROUND = {
    # a mixer that is happy at a level that the radio cannot take: a pad between them, no ping-pong
    "a mixer before a sensitive input": (
        gear("dynamic-microphone", "mic"), lead(), MIXER | {"phantom": "off", "gain_db": 10},
        lead("second"), gear("data-socket", "radio"),
    ),
    # a cardioid comes no nearer than its bass was made for, and need not go back again
    "a cardioid that is too weak": (
        gear("dynamic-microphone", "mic", pattern="directional"), lead(),
        gear("amplifier", "amplifier", gain_db=0), lead("second"), radio(200),
    ),
    "a mixer between a loud desk microphone and a radio": (
        gear("amplified-desk-microphone", "desk", turned_up=1), lead(), MIXER | {"phantom": "off"},
        lead("second"), radio(10e3),
    ),
}  # fmt: skip


@pytest.mark.parametrize("case", ROUND)
def test_who_presses_what_stands_first_comes_to_an_end(case):
    done, after = pressed(station_of(*ROUND[case]), 8)
    assert len(done) < 8, done
    assert len(set(done)) == len(done), done
    assert after.stops() == ()


def test_lips_come_to_a_directional_capsule_no_nearer_than_it_booms():
    weak = {"sensitivity_mv_per_pa": 0.3}
    for pattern, near in (("directional", "6 cm"), ("all-round", "2.5 cm")):
        mic = gear("dynamic-microphone", "mic", pattern=pattern, **weak)
        station = edits.change_chain(station_of(mic, lead(), radio(2000)), "c", distance_mm=400)
        now = assess(station)
        titles = [r.title for f in now.findings for r in remedies(now, f) if "closer" in r.title]
        nearest = min(float(t.split(" at ")[1].split()[0]) for t in titles)
        assert nearest >= float(near.split()[0]), (pattern, titles)


def test_a_loop_that_goes_may_leave_the_hum_that_it_hid():
    """Three metres off the mixer's own hum is a stop too; a transformer is right all the same."""
    mixer = gear("amplifier", "mixer", expects="line", supply="safety-earth", ripple_dbu=-85,
                 earth_emf_v=0.02)  # fmt: skip
    station = station_of(gear("dynamic-microphone", "mic"), lead(), mixer, lead("second"),
                         radio(200, supply="safety-earth"))  # fmt: skip
    now = assess(edits.change_chain(station, "c", distance_mm=3000))
    loops = [f for f in now.findings if f.code == "earth-loop"]
    assert loops
    assert remedies(now, loops[0]), "something is done about it"


def test_a_computer_keys_nothing_and_asks_for_no_contact_that_does():
    """Its headset input has some volts on the pin and a slider; it is no radio."""
    headset = gear("headset-input", "laptop")
    found = verdict_of(station_of(ELECTRET, lead(), headset), "c")
    assert not [f.code for f in found.findings if "transmit" in f.code]
    assert found.stops() == ()
    assert "electret-fed" in {f.code for f in found.findings}
    assert tuple(
        f for f in found.assessment.rows[-1].gear.idle_fields() if f in ("compressor", "works_on")
    ) == ("compressor", "works_on")
    coil = verdict_of(station_of(gear("dynamic-microphone", "coil"), lead(), headset), "c")
    assert [f.code for f in coil.stops()] == ["dc-through-winding"], "some volts are volts"
