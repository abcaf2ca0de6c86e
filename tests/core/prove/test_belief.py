"""One belief over whole units: a right build is not accused, order comes before information."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.conftest import gear
from tests.core.prove.rates import METERS, accused, builds, doubles, hidden, kind, tried
from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.core.bench.measure import measure
from tonleiter.core.bench.reading import RAIL, REST, SUPPLY
from tonleiter.core.bench.transmit import closes, driven
from tonleiter.core.circuit.elements import Capacitor, Resistor, VoltageSource
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.fit import SLIP, SLIP_RANGE, fits
from tonleiter.core.prove.of_values import capacitor_values
from tonleiter.core.prove.prove import Proof, ReadingError, read_value
from tonleiter.core.prove.rank import HEALTHY
from tonleiter.core.prove.say import remedy
from tonleiter.core.units.preferred import nearest
from tonleiter.core.units.quantity import FARAD, parse_quantity


@pytest.fixture(scope="module")
def proofs():
    return builds()


def shown(of, fault_id):
    return of.shown(of.fault(fault_id))


def at(of, part):
    """The volts where a part's pin is."""
    return next(f"dc {p.letter}" for p in of.unit.points if part in p.says.split(", "))


# --- the likelihood ------------------------------------------------------------------------------


@pytest.mark.long
def test_readings_that_hang_together_are_weighed_together():
    """Against the density of another library; a reading far off is left out, at its price."""
    from scipy.stats import multivariate_normal  # a second to read, in each run that collects this

    rng = np.random.default_rng(1)
    root = rng.normal(size=(3, 6, 6))
    covariance = root @ np.swapaxes(root, 1, 2) + 0.3 * np.eye(6)
    mean, read = rng.normal(size=(3, 6)), rng.normal(size=6)
    found = fits(mean, covariance, read)
    by = [multivariate_normal(m, c).logpdf(read) for m, c in zip(mean, covariance, strict=True)]
    assert found.log == pytest.approx(by)
    slipped, kept = mean[0].copy(), [0, 1, 3, 4, 5]
    slipped[2] += 50
    found = fits(mean, covariance, slipped)
    rest = multivariate_normal(mean[0][kept], covariance[0][np.ix_(kept, kept)])
    price = math.log(SLIP / SLIP_RANGE)
    assert list(found.slip[0]) == [False, False, True, False, False, False]
    assert found.log[0] == pytest.approx(rest.logpdf(slipped[kept]) + price)


@pytest.mark.long
def test_a_battery_that_is_low_moves_ten_readings_and_is_one_thing(proofs):
    """7.6 V of 9: every volt is a sixth low at once, and nothing is wrong with the build."""
    of = proofs["op-amp"]
    low = tuple(
        VoltageSource(e.name, e.p, e.n, dc=7.6) if e.name == of.unit.supply else e
        for e in of.unit.elements
    )
    values = measure(of.unit, low, of.readings)
    read = {r.id: float(v) for r, v in zip(of.readings, values, strict=True)}
    ranking = of.rank(read)
    assert ranking.says == "right"
    assert "disagree" not in of.headline(ranking, read)


@pytest.mark.table(keep=12)
@pytest.mark.parametrize("name", sorted(builds(), key=lambda name: name != "foot switch"))
def test_a_right_build_is_not_accused(proofs, name):
    """Units as bought, three meters; the whole rate is in docs/testing.md."""
    score = accused(proofs[name], 3, seed=11)
    assert (score.tried, score.accused) == (3, 0), score.of


@pytest.mark.long
@pytest.mark.parametrize("name", ["opto-coupler", "foot switch", "carbon", "T-pad box"])
def test_a_sample_of_faults_is_found(proofs, name):
    score = tried(proofs[name], every=min(29, len(proofs[name].bench.faults) // 5))
    assert score.tried >= 3
    assert score.first >= score.tried - 1


@pytest.mark.long
def test_two_faults_are_named_where_one_leaves_a_misfit(proofs):
    score = doubles(proofs["plain lead"], 6)
    assert score.first >= 3


@pytest.mark.long
def test_headline_percentages_and_badge_follow_one_belief(proofs):
    """Whatever is read, the sentence names what the list has first, or nothing at all."""
    of = proofs["one transistor"]
    rng = np.random.default_rng(2)
    for k, fault in enumerate(of.bench.faults[::41]):
        read = hidden(of, fault, rng, METERS[k % 3])
        ranking = of.rank(read)
        says, first = of.headline(ranking, read), ranking.groups(0.0)[0][1]
        if ranking.says in ("fault", "unsure"):
            assert first.fault.says in says
        else:
            assert not any(f.says in says for f in of.bench.faults[1:])
        assert (ranking.says == "right") == (
            HEALTHY in (first.fault.id, *first.equals) or ranking.right >= 0.5
        ) or ranking.suspicious


# --- order ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["one transistor", "bias box", "transformer box", "foot switch"])
@pytest.mark.table(keep=3)
def test_nothing_is_powered_before_it_was_rung_out(proofs, name):
    """By its own advice: what must be read before power is, and steps come in the due order."""
    of = proofs[name]
    right, have, orders = of.shown(None), {}, []
    while (wanted := of.rank(have).next) is not None and len(have) < 14:
        if wanted.order > 0:
            missing = [r.id for r in of.readings if r.first and r.id not in have]
            assert not missing, (wanted.id, missing)
        orders.append(wanted.order)
        have[wanted.id] = right[wanted.id]
    assert orders
    assert orders == sorted(orders)


@pytest.mark.long
def test_a_short_where_the_battery_goes_stops_the_way_to_power(proofs):
    of = proofs["one transistor"]
    read = {RAIL: 3.0, REST: math.inf}
    ranking = of.rank(read)
    assert ranking.short == "ohms"
    assert of.headline(ranking, read).startswith("Do not power it")
    assert "solder" in remedy(ranking)
    # by the reading alone: what is named is a short there, not the likeliest of what is none; the
    # capacitor across the supply, shorted, is the same ohms as its ends joined
    assert of.rank({RAIL: 3.0}).explained[0].fault.id in ("B1-joined", "C3-short")
    for _ in range(5):
        if ranking.next is None:
            break
        assert ranking.next.order == 0, ranking.next.id
        read[ranking.next.id] = of.shown(None)[ranking.next.id]
        ranking = of.rank(read)


@pytest.mark.long
def test_a_current_far_over_what_is_expected_switches_off(proofs):
    """A chip the wrong way round conducts from rail to rail: hundreds of milliamperes."""
    of = proofs["op-amp"]
    read = {SUPPLY: shown(of, "U1-turned")[SUPPLY]}
    assert read[SUPPLY] > 0.3
    ranking = of.rank(read)
    assert ranking.short == "current"
    assert of.headline(ranking, read).startswith("Switch the supply off")
    assert ranking.next is None or ranking.next.order == 0


@pytest.mark.long
def test_what_must_not_beep_is_one_reading_until_it_does(proofs):
    of = proofs["plain lead"]
    rest = next(r for r in of.readings if r.id == REST)
    assert len(rest.of) > 10
    assert math.isinf(of.shown(None)[REST])
    bridged = next(f for f in of.faults if f.kind == "bridge" and "free" in f.says)
    assert of.shown(bridged)[REST] < 1
    asked = {REST: math.inf}
    for _ in range(6):
        wanted = of.rank(asked).next
        if wanted is None:
            break
        assert wanted.id not in rest.of
        asked[wanted.id] = of.shown(None)[wanted.id]
    # once one of them does, they are asked for one by one
    beeps, one_by_one = {REST: 0.1}, []
    for _ in range(4):
        wanted = of.rank(beeps).next
        one_by_one.append(wanted.id in rest.of)
        beeps[wanted.id] = of.shown(bridged)[wanted.id]
    assert any(one_by_one)


# --- the switch is a reading ---------------------------------------------------------------------

WIRED = (
    ("microphone", "Ω"),
    ("foot-switch", "Ω"),
    ("push-button", "Ω"),
    ("toggle", "Ω"),
    ("serial-transistor", "V"),
    ("serial-opto", "V"),
    ("serial-relay", "Ω"),
)


@pytest.mark.long
@pytest.mark.parametrize("returns", ["own-wire", "audio-ground"])
@pytest.mark.parametrize(("way", "unit"), WIRED)
def test_every_way_to_transmit_is_read_pressed_and_let_go(way, unit, returns):
    """At the plug: open and closed, or the line's 5 V and what a transistor leaves of it."""
    hands = {"transmit": way, "switch_returns": returns}
    of = Proof(verdict_of(station(mic(), lead(), radio(), hands=hands)), 0)
    readings = {r.id: r for r in of.readings}
    released, pressed = readings["transmit released"], readings["transmit pressed"]
    assert released.unit == pressed.unit == unit
    assert "3 to" in pressed.says
    found = of.shown(None)
    if unit == "Ω":
        assert math.isinf(found[released.id])
        assert found[pressed.id] < 1
    else:
        assert found[released.id] == pytest.approx(5.0, rel=0.02)
        assert found[pressed.id] < 0.4
    if returns == "audio-ground":
        return
    # whatever keeps it from closing, or holds it closed, is told from a right build
    untold = of.bench.untold()
    broken = [f for f in of.bench.faults if f.kind == "switch" or f.id.startswith("U1-")]
    broken += [f for f in of.bench.faults if f.id == "open-radio.mic.3"]
    assert broken
    assert not {f.id for f in broken} & untold


@pytest.mark.parametrize("value", ["1u", "2.2u", "6.8u", "33n"])
def test_another_capacitor_is_one_that_is_sold(value):
    """Nobody finds 484 nF in a drawer: six values a decade, or ten times the right one."""
    right = parse_quantity(value, FARAD)
    part = Capacitor("c", "a", "b", right)
    others = [fault.change((part,))[0].farad for fault in capacitor_values("C1", part)]
    assert len(others) == len({round(math.log10(o), 6) for o in others}) == 6
    for other in others:
        ratio = other / right
        is_decade = min(abs(ratio - 0.1), abs(ratio - 10)) < 1e-9
        assert is_decade or other == pytest.approx(nearest(other, "E6"))
        assert 0.09 < ratio < 11
        assert abs(math.log10(ratio)) > 0.2, "it is another value"


def test_a_relay_closes_only_with_enough_of_its_volts():
    hands = {"transmit": "serial-relay"}
    of = Proof(verdict_of(station(mic(), lead(), radio(), hands=hands)), 0)
    line, elements = of.unit.transmit, of.unit.elements
    assert closes(line, elements, True, driven(line, elements, True)) is not None
    assert closes(line, elements, False, driven(line, elements, False)) is None
    # a coil of a few ohms has pulled its transistor out of saturation, and gets little
    heavy = tuple(replace(e, ohm=5.0) if e.name == "keyer:coil" else e for e in elements)
    assert closes(line, heavy, True, driven(line, heavy, True)) is None


# --- faults that hands make ----------------------------------------------------------------------


@pytest.mark.parametrize(
    ("build", "fault", "reading", "says"),
    [
        # 9 V behind some ohms of a used-up block
        ("one transistor", "B1-flat-0.67", "B1.+", lambda v, r: v < 6.2),
        # nothing draws through R3: the collector at the rail
        ("one transistor", "Q1-absent", "Q1.C", lambda v, r: v > 0.95 * r["rail"]),
        # 3 kΩ beside the output's capacitor: DC reaches the load of 600 Ω
        ("one transistor", "C2-leaks-3000", "R5.1", lambda v, r: 0.1 < v < 1.5),
        # the wrong way round it leaks microamperes at first, and has some of the DC on the output
        ("one transistor", "C2-reversed", "R5.1", lambda v, r: v > 2e-3),
        ("op-amp", "U1-low", "U1.6", lambda v, r: v < 0.2 * r["rail"]),
        ("op-amp", "U1-high", "U1.6", lambda v, r: v > 0.8 * r["rail"]),
        ("op-amp", "U1-inputs", "U1.6", lambda v, r: v > 0.8 * r["rail"]),
        ("op-amp", "U1-open-minus", "U1.6", lambda v, r: v < 0.3 * r["rail"]),
    ],
)
def test_what_a_fault_does_by_hand(proofs, build, fault, reading, says):
    of = proofs[build]
    found = shown(of, fault)
    rail = of.shown(None)[at(of, "B1.+")]
    assert says(found[at(of, reading)], {"rail": rail}), found[at(of, reading)]


def test_a_pnp_for_an_npn_by_hand(proofs):
    """Its collector's junction is open to the rail through R3: 0.65 V over the base."""
    of = proofs["one transistor"]
    found = shown(of, "Q1-sort")
    assert found[at(of, "Q1.C")] - found[at(of, "Q1.B")] == pytest.approx(0.65, abs=0.08)


@pytest.mark.parametrize(
    ("build", "wanted"),
    [
        ("one transistor", {"coil-open", "broken-lead-core", "wet", "R1-drawer-39000", "C2-dried"}),
        ("opto-coupler", {"U1-dead", "U1-turned", "U1-absent", "U1-led-reversed", "U1-short"}),
        ("transformer box", {"T1-changed", "broken-out-screen"}),
        ("foot switch", {"the transmit switch-never", "the transmit switch-always"}),
    ],
)
def test_faults_that_hands_make_are_among_them(proofs, build, wanted):
    assert wanted <= {f.id for f in proofs[build].faults}


def test_primary_for_secondary_by_its_ohms():
    """58 Ω on the sound's side and 640 on the radio's: changed over they stand the other way."""
    coil = gear("transformer", "coil", primary_ohm=58, secondary_ohm=640, ratio=3)
    of = Proof(verdict_of(station(mic(), coil, lead(), radio())), 0)
    found = shown(of, "T1-changed")
    assert found["ohm mic.plug.1 mic.plug.2"] == pytest.approx(640, rel=0.01)
    assert found["ohm radio.mic.4 radio.mic.2"] == pytest.approx(58, rel=0.01)


@pytest.mark.table(keep=6)
@pytest.mark.parametrize("name", list(builds()))
def test_nothing_on_the_bench_exceeds_what_its_parts_can_give(proofs, name):
    """Volts no more than all supplies together, a tone no more than that, current by ohm's law."""
    of = proofs[name]
    volts = sum(abs(e.dc) for e in of.unit.elements if isinstance(e, VoltageSource))
    line = of.unit.transmit
    volts += 0.0 if line is None or not line.powered else abs(line.line_v) + abs(line.port_v)
    # the generator gives what it gives; a transformer of ours steps up no more than ten times
    tone = max(volts, 10 * of.unit.tone_v * math.sqrt(2))
    inside = [
        e.ohm
        for e in of.unit.elements
        if isinstance(e, Resistor) and e.name == f"{of.unit.supply}_inside"
    ]
    for fault, row in zip(of.bench.faults, of.bench.simulated.values, strict=True):
        plain = of.bench.simulated.scale.plain(np.nan_to_num(row))
        for reading, value in zip(of.readings, plain, strict=True):
            if reading.unit == "V" and reading.step == "dc":
                assert abs(value) <= volts * 1.001 + 1e-3, (fault.id, reading.id)
            elif reading.step == "tone":
                assert value <= tone, (fault.id, reading.id)
            elif reading.id == SUPPLY and inside:
                assert value <= volts / inside[0], (fault.id, value)


# --- how it is read ------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "unit", "step", "says"),
    [
        ("1.", "Ω", "ring", "over range"),
        ("1,", "Ω", "ring", "over range"),
        ("1e308", "V", "dc", "100 kV is accepted"),
        ("-5", "Ω", "ring", "ohms have no sign"),
        ("674", "V", "ring", "the diode range shows at most 5 V"),
        ("-1", "V", "tone", "no sign"),
        ("9 kV", "V", "dc", "at most 2 kV"),
        ("nan", "V", "dc", "nan"),
        ("inf", "V", "dc", "inf"),
        ("99 A", "A", "dc", "at most 20 A"),
    ],
)
def test_what_no_meter_shows_is_asked_back(text, unit, step, says):
    with pytest.raises(ReadingError) as caught:
        read_value(text, unit, step)
    assert says in str(caught.value).replace("\u202f", " ")
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(
    ("text", "ohm"), [("1.0", 1.0), ("1", 1.0), ("1.5", 1.5), ("OL", math.inf)]
)
def test_one_ohm_can_be_typed(text, ohm):
    assert read_value(text, "Ω", "ring") == ohm


def test_how_a_tone_is_read_says_what_an_ordinary_meter_cannot(proofs):
    """6 kHz, or a few millivolts: no AC range of a cheap meter shows them."""
    of = proofs["one transistor"]
    by_id = {r.id: r for r in of.readings}
    assert "does not show 6 kHz" in of.how(by_id["tone 6000"]).replace("\u202f", " ")
    assert "does not show 10 mV" in of.how(by_id["tone 300"]).replace("\u202f", " ")
    assert "capacitors charge" in of.how(by_id[RAIL])
    assert "mA range" in of.how(by_id[SUPPLY])


def test_brackets_are_no_narrower_than_parts_and_meter(proofs):
    """±5 % and 1.5 %: 100 kΩ from about 93.5 to 106.5; a rail from a used block to a fresh one."""
    of = proofs["one transistor"]
    k, c = of.places["ohm radio.mic.4 radio.mic.2"], of.places[at(of, "B1.+")]
    low, high = of.predicted.low, of.predicted.high
    assert low[k] < 93.6e3
    assert high[k] > 106.4e3
    assert low[k] > 85e3
    assert low[c] < 7.5
    assert high[c] > 9.6


@pytest.mark.long
def test_every_battery_is_rung_out_before_there_is_power():
    """A capsule's feed and a preamp each have their own: both places are read in ohms first."""
    path = (gear("electret-2-wire", "mic"), kind("bias-feed"), lead(), kind("jfet-preamp"))
    of = Proof(verdict_of(station(*path, lead("out"), radio())), 0)
    first = [r for r in of.readings if r.id.startswith(RAIL)]
    assert len(first) == 2
    assert all(r.first for r in first)
    assert {"B1", "B2"} <= {w for r in first for w in r.says.split()}
    assert len([r for r in of.readings if r.id.startswith(SUPPLY)]) == 2
    read = {first[1].id: 2.0}
    assert of.rank(read).short == "ohms"


def test_a_ground_that_is_borrowed_inside_a_box_is_measured_at_the_plug():
    hands = {"transmit": "serial-relay", "switch_returns": "audio-ground"}
    path = (mic(), lead(), kind("jfet-preamp"), lead("out"), radio())
    of = Proof(verdict_of(station(*path, hands=hands)), 0)
    pressed = next(r for r in of.readings if r.id == "transmit pressed")
    assert "radio: 3 to 2" in pressed.says
    assert of.shown(None)[pressed.id] < 1
    assert math.isinf(of.shown(None)["transmit released"])
