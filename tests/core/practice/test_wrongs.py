"""What is put wrong is what its title says: the station before and after, with nothing solved."""

import random

import pytest

from tonleiter.core.guide.controls import with_knobs
from tonleiter.core.practice import computer, voice
from tonleiter.core.practice.wrong import both, off_card, other_system, turned
from tonleiter.core.station import edits
from tonleiter.core.station.settings import KNOBS


def stations(module, seeds=60):
    for seed in range(seeds):
        rng = random.Random(f"{module.__name__} {seed}")
        _, station = module.base(rng)
        # a card in the middle: there is way to both sides
        chain = station.chains[0]
        panel = with_knobs(chain.panel, {"gain": 50.0, "level": -12.0, "slider": -6.0})
        yield edits.change_chain(station, chain.id, panel=panel), rng


def knob(station, name):
    chain = station.chains[0]
    return chain.panel.knobs.get(name, KNOBS[name].usual)


def moved(name, least, most):
    """A knob went by so much, or to its end."""

    def holds(before, after):
        by = knob(after, name) - knob(before, name)
        at_end = knob(after, name) in (KNOBS[name].low, KNOBS[name].high)
        return least <= by <= most or (at_end and by * least > 0)

    return holds


def stands(name, low, high):
    return lambda _, after: low <= knob(after, name) <= high


def figure(piece, name, low, high):
    def holds(_, after):
        return low <= getattr(after.gear_by_id[piece], name).value <= high

    return holds


def stages(station):
    return [s.gear for s in station.chains[0].variant().stages]


def put_in(kind, **figures):
    """One more stage, right before the radio."""

    def holds(before, after):
        new = [g for g in stages(after) if g not in stages(before)]
        piece = after.gear_by_id[new[0]]
        return (
            len(new) == 1
            and stages(after)[-2] == new[0]
            and piece.kind_id == kind
            and all(low <= getattr(piece, n).value <= high for n, (low, high) in figures.items())
        )

    return holds


def all_of(*checks):
    return lambda before, after: all(c(before, after) for c in checks)


def distance(low, high):
    return lambda _, after: low <= after.chains[0].distance_mm.value <= high


OF_VOICE = {
    "gain-low": moved("gain", -30, -20),
    "gain-high": moved("gain", 22, 35),
    "other-system": lambda b, a: b.chains[0].panel.system != a.chains[0].panel.system,
    "limiter-moved": stands("deviation", 900, 1700),
    "two-compressors": stands("compression", 12, 12),
    "tone-reversed": all_of(stands("bass", 7, 10), stands("treble", -10, -7)),
    "edges-narrow": all_of(stands("low", 500, 500), stands("high", 1800, 1800)),
    "power-low": stands("power", 4, 9),
    "too-far": distance(220, 400),
    "far-and-loud": all_of(stands("gain", 100, 100), distance(300, 450)),
    "bias-missing": lambda b, a: (
        b.gear_by_id["radio"].bias_on_pin_v() > 0 == a.gear_by_id["radio"].bias_on_pin_v()
    ),
    "second-bias": put_in("bias-feed", supply_v=(1.5, 1.5), resistor_ohm=(330, 330)),
    "battery-flat": figure("mic", "battery_v", 0.85, 1.05),
    "volume-down": figure("mic", "turned_up", 0.004, 0.008),
    "hole-missed": all_of(
        figure("mic", "offset_mm", 4, 7), lambda _, a: a.gear_by_id["mic"].seal == "none"
    ),
    "foam-over-it": lambda _, a: a.gear_by_id["mic"].over_it == "foam",
    # a hundred times under the microfarads that a socket of 600 ohm wants
    "small-capacitor": put_in("capacitor", capacitance_f=(30e-9, 50e-9)),
    "pad-missing": lambda b, a: set(stages(b)) - set(stages(a)) == {"pad"},
    "earth-loop": all_of(
        figure("mixer", "earth_emf_v", 0.02, 0.04),
        lambda _, a: a.gear_by_id["mixer"].supply == "safety-earth",
    ),
    "mixer-low": figure("mixer", "gain_db", 18, 24),
}
BOX = computer.BOX


def settings(station):
    return station.device_by_id[computer.PC].computer


OF_COMPUTER = {
    "default-taken": lambda _, a: (
        settings(a).roles["system-out"] == BOX and "system-sounds" in settings(a).altering
    ),
    "program-elsewhere": lambda _, a: settings(a).program == {"out": "own-loudspeakers", "in": BOX},
    "program-deaf": lambda _, a: settings(a).program == {"out": BOX, "in": "own-webcam"},
    "altered": lambda _, a: {"automatic-gain", "enhancements"} <= set(settings(a).altering),
    "listens": lambda _, a: (
        settings(a).roles["system-out"] == BOX and "listen" in settings(a).altering
    ),
    "asleep": lambda _, a: settings(a).asleep == (BOX,),
    "slider-shut": moved("slider", -34, -26),
    "level-up": moved("level", 9, 14),
    "level-down": moved("level", -18, -12),
    # a pair of tones reads some 5 dB more than one does
    "both-tones": moved("level", -5.0, -5.0),
    "other-system": OF_VOICE["other-system"],
    "squelch-shut": stands("squelch", 50, 80),
    "compressor-on": stands("compression", 8, 12),
    "long-tail": stands("hang", 1100, 1900),
    "switch-deaf": stands("threshold", -8, -4),
    "receive-down": stands("receive", -40, -40),
    "volume-up": stands("volume", 20, 20),
}


@pytest.mark.parametrize(("module", "table"), [(voice, OF_VOICE), (computer, OF_COMPUTER)])
@pytest.mark.long
def test_what_is_put_wrong_is_what_its_title_says(module, table):
    seen = set()
    for station, rng in stations(module, 60 if module is voice else 8):
        for one in module.wrongs(station, rng):
            kind = one.cause.kind
            seen.add(kind)
            after = one.spoil(station)
            assert after != station, kind
            assert table[kind](station, after), (kind, one.cause.title)
    assert seen == set(table)


def test_each_cause_says_where_it_is_mended_and_how():
    for module in (voice, computer):
        for station, rng in stations(module, 6):
            found = list(module.wrongs(station, rng))
            assert len({w.cause.id for w in found}) == len(found)
            for one in found:
                cause = one.cause
                assert cause.where in ("set", "ladder", "wire", "prove")
                assert cause.title[0].isupper() and cause.mends[0].islower()
                assert not cause.title.endswith(".") and len(cause.mends) > 10


def test_stations_are_those_that_people_have():
    """Sources give what they give, and what stands before a radio is a microphone's level."""
    words = set()
    for seed in range(150):
        about, station = voice.base(random.Random(seed))
        words.add(about)
        radio, mic = station.gear_by_id["radio"], station.gear_by_id["mic"]
        assert -58 <= radio.wants_dbu.value <= -48
        assert radio.clip_dbu.value == pytest.approx(radio.wants_dbu.value + 24)
        assert 25 <= station.chains[0].distance_mm.value <= 35
        assert ("mixer" in station.gear_by_id) == ("mixer" in about)
        assert (radio.bias_on_pin_v() > 0) == ("with bias" in about)
        if mic.kind_id == "dynamic-microphone":
            assert 1.2 <= mic.sensitivity_mv_per_pa.value <= 2.2
    # four kinds of station on sideband and FM
    assert len(words) == 8


def test_a_knob_that_is_off_its_card_is_named_with_its_way():
    station = next(s for s, _ in stations(voice))
    one, chain = KNOBS["gain"], station.chains[0].id
    by = 3 * one.step
    near = turned(chain, {"gain": 50.0 + by})(station)
    assert off_card(("gain", "power"), chain, near, station) == []
    up = turned(chain, {"gain": 50.0 + by + one.step})(station)
    assert off_card(("gain", "power"), chain, up, station) == [f"{one.title} up"]
    down = both(turned(chain, {"gain": 10.0}), turned(chain, {"power": 5.0}))(station)
    power = KNOBS["power"].title
    assert off_card(("gain", "power"), chain, down, station) == [
        f"{one.title} down",
        f"{power} down",
    ]
    # a set's system is seen beside its deviation
    other = other_system(chain)(station)
    assert off_card(("deviation",), chain, other, station) == ["another system"]
    assert off_card(("gain",), chain, other, station) == []
    assert other_system(chain)(other).chains[0].panel.system == station.chains[0].panel.system
