"""Wrong wires are solved: volts and amperes against arithmetic by hand."""

import pytest

from tests.core.wiring.benches import IDS, finding, landed, lead, mic, plain, radio, station
from tonleiter.core.circuit.dc import solve_dc
from tonleiter.core.circuit.system import System
from tonleiter.core.judge.assess import assess
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.spread import solve_spread
from tonleiter.core.station import wirings


def at_contact(of, label, keyed=False):
    """DC of a contact of the radio against the radio's ground."""
    compiled = compile_chain(of, *IDS, contacts=True, keyed=keyed)
    splice = compiled.splices["radio", "in"]
    return solve_dc(System(compiled.circuit)).volts(splice.nodes[label], splice.port.chassis)


def test_contacts_add_nothing_but_their_joints(demo):
    """A chain solved at its contacts has the levels of the same chain without them.

    A joint has 2 mΩ, so levels agree within hundredths of a decibel; hum is a drop over milliohms
    of leads, of which the joints are some.
    """
    for chain in demo.chains:
        for variant in chain.variants:
            plain_one = assess(demo, chain.id, variant.id)
            by_contact = assess(demo, chain.id, variant.id, contacts=True)
            for a, b in zip(plain_one.rows, by_contact.rows, strict=True):
                assert b.speech_dbu == pytest.approx(a.speech_dbu, abs=0.02)
                if a.hum_dbu is not None and a.hum_dbu > -120:
                    assert b.hum_dbu == pytest.approx(a.hum_dbu, abs=1.5)


def test_bias_over_a_coil_by_hand():
    """The hot wire on contact 6: 8 V behind 470 Ω onto 300 Ω of coil, 10.4 mA, 3.12 V left."""
    of = plain({"landings": landed(hot="6")})
    assert at_contact(of, "6") == pytest.approx(8 * 300 / 770, rel=2e-3)
    found = finding(of, "supply-on-wire")
    assert found.evidence["amps"] == pytest.approx(8 / 770, rel=2e-3)
    assert "10 mA flow" in found.proof
    assert "on the mic" in found.says


def test_a_shorted_supply_gives_all_it_has():
    """Contact 6 joined to ground: 8 V through 470 Ω, 17 mA."""
    of = plain({"bridges": [{"end": "radio.mic", "contacts": ["6", "2"]}]})
    found = finding(of, "supply-on-wire")
    assert found.evidence["amps"] == pytest.approx(8 / 470, rel=2e-3)
    assert abs(at_contact(of, "6")) < 0.002


def test_figures_that_were_measured_count():
    of = station(
        mic(),
        lead(),
        radio(),
        hands={"landings": landed(hot="6")},
        said={"_6": {"open_v": 5, "through_ohm": 1000}},
    )
    assert at_contact(of, "6") == pytest.approx(5 * 300 / 1300, rel=2e-3)


def test_a_microphone_on_the_transmit_line_keys_the_set():
    """5 V behind 4.7 kΩ onto 300 Ω: 0.3 V left, which any set takes for a pressed switch."""
    of = plain({"landings": landed(hot="3", transmit="4")})
    assert at_contact(of, "3") == pytest.approx(5 * 300 / 5000, rel=2e-3)
    assert "it transmits at once" in finding(of, "audio-transmit-swapped").proof


def test_a_condenser_on_the_transmit_line_does_not():
    """Nothing flows through a piezo element: the line stays up, and nothing is heard either."""
    element = {"id": "mic", "name": "mic", "kind": "piezo-microphone", "capacitance_f": 1e-9}
    of = station(element, lead(), radio(), hands={"landings": landed(hot="3", transmit="4")})
    assert at_contact(of, "3") == pytest.approx(5, rel=0.02)
    assert "the line stays up" in finding(of, "audio-transmit-swapped").proof


def test_the_switch_pulls_its_line_down_and_nothing_else():
    of = plain()
    assert at_contact(of, "3") == pytest.approx(5, rel=1e-3)
    # 0.05 Ω of switch and two wires of 0.1 Ω carry 1.06 mA
    assert at_contact(of, "3", keyed=True) == pytest.approx(5 / 4700 * 0.27, rel=0.1)
    assert verdict_of(of).build.keying.line_a == pytest.approx(5 / 4700)


def test_a_shared_return_clicks_by_the_drop_over_it():
    """The switch at the far end of 2 m of lead goes back on its braid: 30 mΩ/m × 2 m × 1.06 mA.

    The braid's 60 mΩ and one joint of 2 mΩ carry the switch's current: 66 µV in series with the
    microphone, and all of that at the pin, behind whose capacitor the input does not load it.
    """
    of = plain({"transmit": "microphone", "switch_returns": "audio-ground", "cores": 2})
    found = finding(of, "audio-return-shared")
    by_hand = 5 / 4700 * (2 * 0.030 + 0.002)
    assert found.evidence["click_v"] == pytest.approx(by_hand, rel=0.02)


def test_a_wire_of_its_own_makes_no_click():
    assert not [f for f in verdict_of(plain()).findings if f.code == "audio-return-shared"]


def test_hot_in_the_air_leaves_nothing_to_hear():
    before, after = (
        verdict_of(plain(h)).assessment.rows[-1].speech_dbu
        for h in (None, {"landings": landed(hot=None)})
    )
    # 2 pF into 600 Ω at 1 kHz: 137 dB down; speech's treble is lost less
    assert after < before - 90


def test_the_ladder_solves_the_wrong_wire_too():
    """A chain is solved as it is wired, whoever asks."""
    right, wrong = plain(), plain({"landings": landed(hot="8")})
    assert assess(wrong).rows[-1].speech_dbu < assess(right).rows[-1].speech_dbu - 40


@pytest.mark.parametrize("source", ["dynamic", "electret"])
def test_ranges_of_figures_are_drawn_in_a_chain_with_a_wrong_wire(source):
    """Draws replace values of the pieces, not of the joints; bands are as wide as ever."""
    first = mic() | {"coil_ohm": "200..400"}
    if source == "electret":
        first = {
            "id": "mic",
            "name": "mic",
            "kind": "electret-2-wire",
            "sensitivity_dbv_per_pa": "-46..-40",
        }
    of = station(
        first,
        lead(),
        radio(bias_v=8, bias_ohm=2200, z_in_ohm=1500),
        hands={"landings": landed(cold="7")},
    )
    found = [assess(x) for x in (of, wirings.as_derived(of, *IDS))]
    bands = [solve_spread(a.solution, a.rows, 40).band_dbu(2) for a in found]
    assert bands[0][1] - bands[0][0] > 0.5
    assert bands[0] == pytest.approx(bands[1], abs=0.02)


def test_a_ring_in_a_mono_socket_by_hand():
    """The bias contact is the ring: a plug without one shorts it to the sleeve."""
    pins = (("tip", "microphone"), ("ring", "bias"), ("sleeve", "microphone-ground"))
    of = station(
        mic(),
        lead(),
        radio(),
        pins=pins,
        shell="jack-3.5",
        hands={"plugs": [{"end": "radio.mic", "shell": "jack-3.5-mono"}]},
    )
    assert abs(at_contact(of, "ring")) < 0.002
    assert "the bias is shorted" in finding(of, "ring-shorted").proof
    assert finding(of, "supply-on-wire").evidence["amps"] == pytest.approx(8 / 470, rel=2e-3)
