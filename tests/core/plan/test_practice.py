"""What somebody with thirty years at the bench would build for a pair, written down beforehand.

Each case says what stands between source and input, with the reason. Preamps of any kind are
"preamp", pads of any shape "pad"; nothing between is "plug in", with the source's own control where
it has one. Where two answers are as good, both stand.
"""

import pytest

from tests.conftest import gear, station_of
from tests.core.wiring.benches import lead
from tests.core.wiring.benches import station as bench
from tonleiter.core.gear.shopping import parts_of
from tonleiter.core.match.terms import Terms
from tonleiter.core.plan import search as searching
from tonleiter.core.plan.search import plan

DYNAMIC = gear("dynamic-microphone", "dynamic", coil_ohm=300)
FAINT = gear("dynamic-microphone", "faint", coil_ohm=300, sensitivity_mv_per_pa=0.5)
ELECTRET = gear("electret-2-wire", "electret")
THREE = gear("electret-3-wire", "three-wire")
PIEZO = gear("piezo-microphone", "piezo")
CARBON = gear("carbon-microphone", "carbon")
RIBBON = gear("ribbon-microphone", "ribbon")
CONDENSER = gear("phantom-condenser", "condenser")
DESK = gear("amplified-desk-microphone", "desk")
LAPTOP = gear("line-source", "laptop", z_out_ohm=30, full_scale_dbu=2.2, below_full_db=-6)
PLAYER = gear("line-source", "player", z_out_ohm=470, full_scale_dbu=20, below_full_db=-16)
SPEAKER = gear("loudspeaker-output", "speaker")
BRIDGED = gear("loudspeaker-output", "bridged", output="bridged")

PLAIN = gear("microphone-socket", "plain", z_in_ohm=2000)
LOW = gear("microphone-socket", "low", z_in_ohm=600)
BIASED = gear("microphone-socket", "biased", z_in_ohm=600, bias_v=8, bias_ohm=1100)
DEAF = gear("microphone-socket", "deaf", z_in_ohm=2000, wants_dbu=-42, clip_dbu=-18)
VALVE = gear("microphone-socket", "valve", z_in_ohm=1e6, wants_dbu=-38, clip_dbu=-14)
GRID = gear("microphone-socket", "grid", z_in_ohm=100e3, wants_dbu=-32, clip_dbu=-8)
DATA = gear("data-socket", "data")
COMPUTER = gear("line-input", "computer")

PREAMPS = {"bipolar-preamp": "preamp", "jfet-preamp": "preamp", "opamp-preamp": "preamp"}

CASES = [
    # a microphone into a socket that its gain control was made for
    (DYNAMIC, PLAIN, "ssb-chat", "simple", "plug in"),  # gain about 70: nobody builds for that
    (DYNAMIC, LOW, "ssb-chat", "simple", "plug in"),  # 3.5 dB of loading is 3.5 dB of gain
    (RIBBON, PLAIN, "ssb-chat", "simple", "plug in"),
    (ELECTRET, BIASED, "ssb-chat", "simple", "plug in"),  # the pin feeds it
    (THREE, BIASED, "ssb-chat", "simple", "plug in"),  # its capacitor blocks the pin
    (PIEZO, VALVE, "am-voice", "simple", "plug in"),  # what the valve set was made for
    (DESK, PLAIN, "ssb-chat", "simple", "plug in"),  # it has a volume control
    # direct current first
    (DYNAMIC, BIASED, "ssb-chat", "simple", "capacitor"),
    (RIBBON, BIASED, "ssb-chat", "simple", "capacitor"),
    (ELECTRET, PLAIN, "ssb-chat", "simple", "bias-feed"),
    # 12 mV/Pa at 3 cm leave 1.6 dB to the first stage of the set: a pad, or one lives with it
    (CONDENSER, PLAIN, "ssb-chat", "simple", "phantom-feed+pad|phantom-feed"),
    (CONDENSER, BIASED, "ssb-chat", "simple", "phantom-feed+pad|phantom-feed"),
    (CARBON, PLAIN, "ssb-chat", "simple", "bias-feed+pad|bias-feed"),
    (CARBON, BIASED, "ssb-chat", "simple", "bias-feed+pad|bias-feed"),  # 7 mA are too few
    (ELECTRET, GRID, "am-voice", "simple", "bias-feed"),  # a larger resistor is its gain
    # too little, and what gives it most simply
    # a crystal wants a megohm; what a FET makes of its 20 mV is too much again
    (PIEZO, LOW, "ssb-chat", "simple", "preamp+pad|preamp"),
    (FAINT, DEAF, "ssb-chat", "simple", "preamp"),
    (DYNAMIC, VALVE, "am-voice", "simple", "transformer"),  # a step-up, as it was done
    (DYNAMIC, VALVE, "am-voice", "reversible", "transformer"),
    # too much: the control that is there, else a pad
    (LAPTOP, DATA, "data-weak", "simple", "plug in"),
    (LAPTOP, DATA, "packet", "simple", "plug in"),
    (SPEAKER, COMPUTER, "data-weak", "simple", "plug in"),  # its volume, at a marked place
    (PLAYER, COMPUTER, "ssb-chat", "simple", "plug in"),
    (LAPTOP, BIASED, "ssb-chat", "simple", "pad"),  # 50 dB are no matter for a slider
    (PLAYER, PLAIN, "ssb-chat", "simple", "pad"),
    (PLAYER, PLAIN, "ssb-chat", "battery", "pad"),
    # grounds
    (BRIDGED, COMPUTER, "data-weak", "simple", "transformer|pad+transformer|transformer+pad"),
    (LAPTOP, DATA, "data-weak", "isolated", "transformer"),
    (DYNAMIC, BIASED, "ssb-chat", "isolated", "transformer+capacitor"),
]


@pytest.fixture(autouse=True)
def short_search(monkeypatch):
    """Values are not moved about to the last tenth: what is built does not depend on that."""
    monkeypatch.setattr(searching, "ROUNDS", 1)
    monkeypatch.setattr(searching, "REFINED", 4)
    monkeypatch.setattr(searching, "MOST_SOLVES", 120)


def built(candidate):
    """What stands between, without leads; a radio's changed divider is no piece of its own."""
    kinds = [k for k in candidate.topology[1:-1] if k != "input-divider"]
    return "+".join(PREAMPS.get(k, k) for k in kinds) or "plug in"


@pytest.mark.table(keep=30)
@pytest.mark.parametrize(
    "source, socket, purpose, style, wanted",
    CASES,
    ids=[f"{c[0]['id']}-{c[1]['id']}-{c[3]}-{c[2]}" for c in CASES],
)
def test_the_first_plan_is_what_a_practitioner_would_build(source, socket, purpose, style, wanted):
    station = station_of(source, socket, purpose=purpose)
    terms = Terms(purpose, "op", 30.0)
    best = plan(station, source["id"], socket["id"], terms, style).best
    assert best, "no plan at all"
    assert built(best[0]) in wanted.split("|"), [(built(c), round(c.cost, 1)) for c in best]


@pytest.mark.long
def test_the_radio_s_own_bias_contact_comes_before_any_battery():
    """8 V on a contact of the plug: a resistor and a capacitor, nothing that runs empty."""
    of = bench(ELECTRET, lead(), PLAIN | {"id": "radio"})
    best = plan(of, "electret", "radio", Terms("ssb-chat", "op", 30.0), "simple").best
    feed = next(g for g in best[0].pieces if g.kind_id == "bias-feed")
    assert feed.fed_by == "radio-contact"
    assert "battery" not in {p.name.partition(",")[0] for p in parts_of(feed)}


@pytest.mark.long
def test_two_resistors_of_an_old_sets_divider_beat_a_preamp():
    """Made for a crystal's tenths of a volt: 34 dB down, then a first stage that wants little."""
    divider = gear("input-divider", "divider")
    old = PLAIN | {"id": "old", "z_in_ohm": 1e6, "wants_dbu": -63}
    mic = DYNAMIC | {"coil_ohm": 600, "sensitivity_mv_per_pa": 2}
    station, terms = station_of(mic, divider, old), Terms("ssb-chat", "op", 30.0)
    free = plan(station, "dynamic", "old", terms, "simple").best
    changed = next(g for g in free[0].pieces if g.kind_id == "input-divider")
    assert (changed.upper_ohm.value, changed.lower_ohm.value) != (470e3, 10e3)
    assert built(free[0]) == "plug in"
    kept = plan(station, "dynamic", "old", terms, "reversible").best
    assert all(c.figures.reversible for c in kept)


def kinds_without_pads(candidate):
    return [g.kind_id for g in candidate.between if not g.is_pad or g.by_hand]


@pytest.mark.parametrize(
    "source, socket, purpose, pads",
    [
        # its gain control makes up for what a resistor would take off: nobody solders that
        (CONDENSER, PLAIN | {"clip_dbu": -20}, "ssb-chat", 0),
        (FAINT, PLAIN | {"z_in_ohm": 50e3, "wants_dbu": -30, "clip_dbu": -8}, "ssb-chat", 0),
        # tens of decibels too hot: without one there is no plan
        (LAPTOP, LOW, "data-weak", 1),
    ],
    ids=["condenser", "faint dynamic", "laptop"],
)
@pytest.mark.table(keep=3)
def test_of_plans_beside_each_other_none_is_another_one_with_a_needless_pad(
    source, socket, purpose, pads
):
    terms = Terms(purpose, "op", 30.0)
    station = station_of(source, socket, purpose=purpose)
    best = plan(station, source["id"], socket["id"], terms, "simple").best
    assert len(best) >= 2
    assert best[0].topology.count("pad") == pads
    for k, plain in enumerate(best):
        for other in best[k + 1 :]:
            same = kinds_without_pads(plain) == kinds_without_pads(other)
            more = other.topology.count("pad") > plain.topology.count("pad")
            assert not (same and more and plain.figures.outside_db == 0.0)
