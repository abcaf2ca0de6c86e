"""Readings of the simulated bench against arithmetic by hand; typed readings; ranks of faults."""

import json
import math

import pytest

from tests.conftest import gear
from tests.core.prove.rates import builds, hidden, is_it, kind, stepwise, tried
from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.cli import main
from tonleiter.core.bench.scope import division_of, traces
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.fault import PRIORS, both
from tonleiter.core.prove.of_values import one_band_off
from tonleiter.core.prove.prove import Proof, ReadingError, read_value
from tonleiter.core.prove.rank import HEALTHY


@pytest.fixture(scope="module")
def proofs():
    return builds()


def proof(*path):
    return Proof(verdict_of(station(*path)), 0)


def point(of, part):
    """The reading of the point where a part's pin is."""
    return next(f"dc {p.letter}" for p in of.unit.points if part in p.says.split(", "))


def test_the_divider_of_a_base_by_hand(proofs):
    """9 V over 100 kΩ and 22 kΩ: 1.62 V, less what the base draws; the emitter 0.65 V lower."""
    of = proofs["one transistor"]
    shown = of.shown(None)
    elements = {r: p.value for p in of.found.build.parts for r in p.refs}
    assert (elements["R1"], elements["R2"], elements["R4"]) == ("100 kΩ", "22 kΩ", "1 kΩ")
    base, emitter = shown[point(of, "Q1.B")], shown[point(of, "Q1.E")]
    assert base == pytest.approx(9 * 22 / 122, rel=0.06)
    assert base - emitter == pytest.approx(0.65, abs=0.05)
    # what the emitter's kilohm carries comes over the collector's 4.7 kΩ
    assert shown[point(of, "Q1.C")] == pytest.approx(9 - 4.7 * emitter, rel=0.02)
    assert shown["supply"] == pytest.approx(emitter / 1000 + (9 - base) / 100e3, rel=0.02)


def test_an_open_lower_resistor_by_hand(proofs):
    """R2 open: the base rides up on R1 until the transistor is full on: collector on emitter."""
    of = proofs["one transistor"]
    shown = of.shown(of.fault("R2-open"))
    collector, emitter = shown[point(of, "Q1.C")], shown[point(of, "Q1.E")]
    assert collector - emitter < 0.3
    assert emitter == pytest.approx(9 * 1 / 5.7, rel=0.06)


def test_ohms_through_windings_and_resistors_by_hand():
    coil = gear("transformer", "coil", primary_ohm=58, secondary_ohm=66)
    shown = proof(mic(), coil, lead(), radio()).shown(None)
    assert shown["ohm mic.plug.1 mic.plug.2"] == pytest.approx(58, rel=5e-3)
    assert shown["ohm radio.mic.4 radio.mic.2"] == pytest.approx(66, rel=5e-3)
    assert math.isinf(shown["ohm mic.plug.1 radio.mic.4"])
    pad = proof(mic(), gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100), lead(), radio())
    assert pad.shown(None)["ohm mic.plug.1 mic.plug.2"] == pytest.approx(10100, rel=2e-3)


def test_a_pad_s_tone_by_hand():
    """A generator behind its own resistance, 10 kΩ, 100 Ω beside the input's impedance."""
    of = proof(mic(), gear("l-pad", "pad", series_ohm=10e3, shunt_ohm=100), lead(), radio())
    elements = {e.name: e for e in of.unit.bench}
    source, load = elements["bench:generator_r"].ohm, elements["bench:load"].ohm
    lower = 1 / (1 / 100 + 1 / load)
    by_hand = of.unit.tone_v * lower / (source + 10e3 + lower)
    assert of.shown(None)["tone 1000"] == pytest.approx(by_hand, rel=2e-3)


@pytest.mark.long
def test_brackets_hold_healthy_units_and_not_sick_ones(proofs):
    """Nine in ten readings of healthy units lie in their brackets; the open divider's do not."""
    of = proofs["one transistor"]
    import numpy as np

    rng = np.random.default_rng(3)
    inside = []
    for _ in range(8):
        read = hidden(of, of.bench.faults[0], rng)
        inside += [of.as_predicted(i, v) for i, v in read.items()]
    assert sum(inside) / len(inside) > 0.95
    sick = of.shown(of.fault("R2-open"))
    assert not of.as_predicted(point(of, "Q1.C"), sick[point(of, "Q1.C")])


@pytest.mark.long
def test_nothing_wrong_is_believed_where_all_is_as_predicted(proofs):
    of = proofs["one transistor"]
    assert of.rank(of.shown(None)).explained[0].fault.id == HEALTHY
    assert not of.rank(of.shown(None)).suspicious


@pytest.mark.long
def test_a_plug_wired_from_its_wrong_face_is_told_from_wires_that_are_not_soldered(proofs):
    """The wires land on contacts that are free: a beep from one of those says so."""
    of = proofs["one transistor"]
    wrong = of.fault("mirrored-radio.mic")
    first = of.rank(of.shown(wrong)).explained[0]
    assert wrong.id in {first.fault.id, *first.equals}
    assert "open-radio.mic.2" not in {first.fault.id, *first.equals}
    missing = of.rank(of.shown(of.fault("open-radio.mic.2"))).explained[0]
    assert "mirrored-radio.mic" not in {missing.fault.id, *missing.equals}


@pytest.mark.parametrize(
    ("ohm", "others"),
    [
        (22e3, {12e3}),
        (12e3, {11e3, 13e3, 22e3}),
        (4700, set()),
        (100, {110, 200}),
        (68, {}),
        (5600, {6600} & {6200}),
        (1.5e6, {1.6e6}),
    ],
)
def test_one_colour_taken_for_its_neighbour(ohm, others):
    """Only values that are made: red-red and brown-red are 22 and 12; nobody makes a 57."""
    assert {round(x) for x in one_band_off(ohm)} == {round(x) for x in others}


@pytest.mark.long
def test_a_reading_that_no_fault_explains_is_suspicious_itself(proofs):
    of = proofs["one transistor"]
    read = of.shown(None) | {point(of, "Q1.E"): 40.0}
    assert of.rank(read).suspicious


@pytest.mark.long
@pytest.mark.parametrize(
    "name", ["one transistor", "FET", "transformer box", "pad box", "bias box", "plain lead"]
)
def test_hidden_faults_are_found(proofs, name):
    """A sample of every fault, in units of spread parts, through a meter with noise."""
    score = tried(proofs[name], every=40)
    assert score.tried >= 2
    assert score.first >= score.tried - 1
    assert score.third >= score.tried - 1


@pytest.mark.long
def test_the_next_reading_leads_there_by_less_than_half(proofs):
    import numpy as np

    of, rng = proofs["op-amp"], np.random.default_rng(11)
    shares, untold = [], of.bench.untold()
    for fault in of.bench.faults[1::200]:
        if fault.id in untold:
            continue
        read = hidden(of, fault, rng)
        have = stepwise(of, read)
        shares.append(len(have) / len(of.readings))
        found = of.rank(have).explained[:3]
        assert any(is_it(of, e, fault, have) for e in found), fault.id
    assert sorted(shares)[len(shares) // 2] <= 0.5


@pytest.mark.long
def test_faults_that_no_reading_tells_apart_are_equals():
    """The two halves of a lead's only wire: open at one end is open at the other."""
    of = proof(mic(), lead(), radio())
    ranked = of.rank(of.shown(of.fault("open-radio.mic.4")))
    first = ranked.explained[0]
    assert "open-radio.mic.4" in (first.fault.id, *first.equals)
    assert "open-mic.plug.1" in (first.fault.id, *first.equals)


def test_every_kind_of_fault_has_a_prior_and_every_fault_an_id(proofs):
    for of in proofs.values():
        ids = [f.id for f in of.faults]
        assert len(ids) == len(set(ids))
        assert {f.kind for f in of.faults} <= set(PRIORS)


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("0.84", "V", 0.84),
        ("840m", "V", 0.84),
        ("open", "Ω", math.inf),
        ("OL", "Ω", math.inf),
        ("beep", "Ω", 0.0),
        ("58", "Ω", 58.0),
        ("4k7", "Ω", 4700.0),
        ("1.7 mA", "A", 1.7e-3),
        ("−0.2", "V", -0.2),
    ],
)
def test_readings_as_people_write_them(text, unit, value):
    assert read_value(text, unit) == pytest.approx(value)


def test_a_tone_may_be_read_as_a_scope_shows_it():
    assert read_value("2.83 Vpp", "V", "tone") == pytest.approx(1.0, rel=2e-3)
    assert read_value("28.3 mVpp", "V", "tone") == pytest.approx(10e-3, rel=2e-3)
    assert math.isinf(read_value("OL", "V", "ring"))
    with pytest.raises(ReadingError):
        read_value("2.8 Vpp", "V", "dc")


@pytest.mark.parametrize(
    ("text", "unit"), [("loud", "V"), ("5 ohm", "V"), ("open", "V"), ("", "Ω")]
)
def test_a_reading_that_is_none_is_one_line(text, unit):
    with pytest.raises(ReadingError) as caught:
        read_value(text, unit)
    assert "\n" not in str(caught.value)


@pytest.mark.long
def test_two_faults_at_once_are_named_where_one_explains_too_little(proofs):
    """R2 open and the output's joint gone: no single fault shows both."""
    of = proofs["one transistor"]
    one, other = of.fault("R2-open"), of.fault("open-radio.mic.4")
    shown = of.shown(both(one, other, 1.0))
    assert of.bench.rank(shown).suspicious or of.bench.rank(shown).explained[0].worst
    first = of.rank(shown).explained[0]
    named = "+".join((first.fault.id, *first.equals))
    assert "R2" in named
    assert "radio.mic.4" in named or "C2-open" in named
    assert "; and " in first.fault.says


# --- the scope -----------------------------------------------------------------------------------


def test_a_small_tone_on_the_scope_is_the_meter_s_reading(proofs):
    """Two and a half volts peak to peak for each volt RMS: 2√2, and round at both ends."""
    of = proofs["one transistor"]
    seen, shown = traces(of.unit, of.unit.elements), of.shown(None)
    assert seen.out.peak_to_peak_v == pytest.approx(2 * math.sqrt(2) * shown["tone 1000"], rel=0.01)
    assert seen.into.peak_to_peak_v == pytest.approx(2 * math.sqrt(2) * shown["tone in"], rel=0.01)
    assert seen.out.flat == ""


@pytest.mark.long
def test_too_much_of_a_tone_is_flat_where_the_supply_ends(proofs):
    """With the transistor off, R3 alone drives the load up: (9 − 4.75 V) · 600 / (600 + 4700)."""
    of = proofs["one transistor"]
    seen = traces(of.unit, of.unit.elements, 60 * of.unit.tone_v)
    assert seen.out.flat == "on top"
    load = next(e.ohm for e in of.unit.bench if e.name == "bench:load")
    rests = of.shown(None)[point(of, "Q1.C")]
    by_hand = (9 - rests) * load / (load + 4700)
    assert seen.out.volts.max() + seen.out.mean_v == pytest.approx(by_hand, rel=0.03)
    # sixty times the tone is less than sixty times the swing
    small = traces(of.unit, of.unit.elements)
    assert seen.out.peak_to_peak_v < 0.9 * 60 * small.out.peak_to_peak_v


@pytest.mark.parametrize(
    ("swing", "division"),
    [(3.0, 1.0), (3.1, 2.0), (6.1e-3, 5e-3), (29, 10), (2e-6, 1e-3), (0.0, 1e-3)],
)
def test_divisions_go_by_one_two_five(swing, division):
    assert division_of(swing) == pytest.approx(division)


# --- the command ---------------------------------------------------------------------------------


def run(capsys, *words):
    code = main(["prove", *map(str, words)])
    out = capsys.readouterr()
    return code, out


@pytest.mark.long
def test_the_command_hides_a_fault_and_finds_it(capsys, demo_folder, tmp_path):
    code, out = run(capsys, demo_folder, "--json", "--list-faults")
    assert code == 0
    faults = {f["id"] for f in json.loads(out.out)["faults"]}
    assert {"R1-open", "T1-open-2"} <= faults
    code, out = run(capsys, demo_folder, "--json", "--hide", "T1-open-2")
    shown = {r["id"]: r["value"] for r in json.loads(out.out)["readings"] if r["value"] is not None}
    file = tmp_path / "read.json"
    file.write_text(json.dumps(shown))
    code, out = run(capsys, demo_folder, "--json", "--readings", file)
    report = json.loads(out.out)
    first = report["faults"][0]
    assert "T1-open-2" in (first["id"], *first["equals"])
    assert 0 < first["likelihood"] <= 1
    assert report["next"] is None or report["next"] not in shown


@pytest.mark.parametrize(
    ("content", "says"),
    [
        ('{"dc z": 1}', "no reading called “dc z”"),
        ('{"dc a": "5 ohm"}', "dc a"),
        ('{"dc a": true}', "true is no reading"),
        ("[1]", "read.json"),
    ],
)
def test_bad_readings_are_one_line(capsys, demo_folder, tmp_path, content, says):
    file = tmp_path / "read.json"
    file.write_text(content)
    code, out = run(capsys, demo_folder, "--readings", file)
    assert code == 2
    assert says in out.err
    assert out.err.count("\n") == 1


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("--hide", "R99-open"), "no fault called “R99-open”"),
        (("--part", "7"), "there is no part 7"),
        (("--chain", "gone"), "no chain called"),
    ],
)
@pytest.mark.long
def test_what_is_not_there_is_one_line(capsys, demo_folder, words, says):
    code, out = run(capsys, demo_folder, *words)
    assert code == 2
    assert says in out.err


def test_a_kind_without_a_battery_has_no_supply_current():
    assert "supply" not in proof(mic(), kind("l-pad"), lead(), radio()).shown(None)
