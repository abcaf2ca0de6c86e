import math

import numpy as np
import pytest

from tonleiter.core.circuit.cards.lines import CardError
from tonleiter.core.circuit.cards.reader import read_deck
from tonleiter.core.circuit.cards.run import run_deck
from tonleiter.core.circuit.waves import Sine


def deck(*cards: str):
    return read_deck("\n".join(["title", *cards]))


def run(*cards: str):
    return run_deck(deck(*cards))


def test_op_prints_lower_case_nodes():
    op = run("V1 In 0 10", "R1 IN Out 1k", "R2 OUT 0 3k", ".OP")["op"]
    assert op == {"in": pytest.approx(10), "out": pytest.approx(7.5)}


def test_parts_only_when_asked_for():
    assert run("V1 a 0 1", "R1 a 0 1k") == {}
    assert set(run("V1 a 0 1 AC 1", "R1 a 0 1k", ".op", ".ac dec 1 10 100")) == {"op", "ac"}


def test_first_line_is_the_title_even_if_it_looks_like_a_card():
    read = read_deck("R1 a 0 5\nV1 b 0 1\nR2 b 0 2\n")
    assert read.circuit.title == "R1 a 0 5"
    assert [e.name for e in read.circuit.elements] == ["v1", "r2"]


def test_comments_and_continuations():
    op = run(
        "* note", "V1 a 0 ; the source", "+ DC", "+ 4", "R1 a 0 1k ; load", ".op", ".end", "junk"
    )
    assert op["op"]["a"] == pytest.approx(4)


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("1f", 1e-15),
        ("1p", 1e-12),
        ("1n", 1e-9),
        ("1u", 1e-6),
        ("1m", 1e-3),
        ("1k", 1e3),
        ("1meg", 1e6),
        ("1MEG", 1e6),
        ("1g", 1e9),
        ("1t", 1e12),
        ("4k7", 4700),
        ("4.7kohm", 4700),
        ("1e-3", 1e-3),
        ("2.2E3", 2200),
        ("10Ohm", 10),
        ("1M", 1e-3),
        ("2r2", 2.2),
    ],
)
def test_suffixes(text, value):
    assert deck("V1 a 0 1", f"R1 a 0 {text}").circuit.elements[1].ohm == pytest.approx(value)


def test_ac_sweeps():
    ac = run("V1 a 0 AC 2 90", "R1 a b 1k", "C1 b 0 1u", ".ac dec 10 10 1k")["ac"]
    assert len(ac["f_hz"]) == 21
    assert ac["f_hz"][-1] == pytest.approx(1000)
    b = np.array(ac["nodes"]["b"]["re"]) + 1j * np.array(ac["nodes"]["b"]["im"])
    w = 2 * math.pi * np.array(ac["f_hz"])
    np.testing.assert_allclose(b, 2j / (1 + 1j * w * 1e-3), rtol=1e-9)
    assert len(run("V1 a 0 AC 1", "R1 a 0 1", ".ac lin 5 100 500")["ac"]["f_hz"]) == 5
    octaves = run("V1 a 0 AC 1", "R1 a 0 1", ".ac oct 1 100 800")["ac"]["f_hz"]
    assert octaves == pytest.approx([100, 200, 400, 800])


def test_noise_over_a_reference_node_with_contributors():
    cards = ("V1 in 0 AC 1", "R1 in a 1k", "R2 a b 3k", "R3 b 0 1k")
    noise = run(*cards, ".noise v(a,b) V1 dec 10 10 10k")["noise"]
    # node a–b sees R2 across R1+R3
    wanted = math.sqrt(4 * 1.380649e-23 * 300.15 * (3e3 * 2e3 / 5e3))
    assert noise["density_v_per_rthz"][0] == pytest.approx(wanted, rel=1e-9)
    assert noise["total_v"] == pytest.approx(wanted * math.sqrt(9990), rel=1e-6)
    assert set(noise["contributors"]) == {"r1", "r2", "r3"}
    squares = sum(v**2 for v in noise["contributors"].values())
    assert math.sqrt(squares) == pytest.approx(noise["total_v"], rel=1e-9)
    assert noise["input_density_per_rthz"][0] == pytest.approx(wanted / (3 / 5), rel=1e-9)


def test_noise_referred_to_a_current_source():
    noise = run("I1 0 a AC 1", "R1 a 0 2k", ".noise v(a) I1 dec 1 10 100")["noise"]
    wanted = math.sqrt(4 * 1.380649e-23 * 300.15 / 2e3)
    assert noise["input_density_per_rthz"][0] == pytest.approx(wanted, rel=1e-9)


def test_parameters_and_expressions():
    op = run(".param rl=2k g={1/rl}", "V1 a 0 {3*2}", "R1 a b {rl}", "R2 b 0 'rl*2'", ".op")["op"]
    assert op["b"] == pytest.approx(4)


def test_subcircuits_nest_and_take_parameters():
    op = run(
        "V1 in 0 8",
        "X1 in mid half r=1k",
        "X2 mid out half r={10*1k}",
        "Rl out 0 1t",
        ".subckt half a b r=5",
        "X9 a b leg r={r}",
        "R2 b 0 {r}",
        ".subckt leg p q r=1",
        "R1 p q {r}",
        ".ends",
        ".ends half",
        ".op",
    )["op"]
    # second divider (10k + 10k) loads the first (1k / 1k): mid = 8·(20k∥1k)/(1k + 20k∥1k)
    mid = 8 * (20 / 21) / (1 + 20 / 21)
    assert op["mid"] == pytest.approx(mid, rel=1e-6)
    assert op["out"] == pytest.approx(mid / 2, rel=1e-6)


def test_models_may_follow_their_use_and_notes_name_what_is_left_out():
    read = deck(
        "V1 c 0 5",
        "Q1 c b 0 small",
        "Rb c b 1meg",
        ".model small npn (bf=120 cje=5p tf=1n)",
        ".four 1k v(c)",
    )
    assert read.circuit.elements[1].model.bf == 120
    assert any("cje" in n for n in read.notes)
    assert any(".four" in n for n in read.notes)


def test_waveforms_are_read_and_rest_at_what_they_begin_with():
    read = deck(
        "V1 a 0 SIN(0.5 1 1k) AC 1",
        "R1 a 0 1k",
        "I1 0 a PULSE(1m 2m 1u)",
        "V2 b 0 DC 3 PWL(0 0 1m 5)",
        "R2 b 0 1k",
    )
    sine, _, pulse, lines, _ = read.circuit.elements
    assert (sine.dc, sine.ac, sine.wave) == (0.5, 1, Sine(0.5, 1, 1000))
    assert (pulse.dc, pulse.wave.high, pulse.wave.delay_s) == (1e-3, 2e-3, 1e-6)
    assert (lines.dc, lines.wave.at(0.5e-3)) == (3, 2.5)
    assert read.notes == ()


def test_a_waveform_that_is_not_computed_is_said():
    read = deck("V1 a 0 SFFM(0 1 1k 5 100) AC 1", "R1 a 0 1k")
    assert "SFFM" in read.notes[0]


@pytest.mark.parametrize(
    ("cards", "says"),
    [
        (("V1 a 0 SIN(1)", "R1 a 0 1"), "SIN takes 3 to 5 values, 1 are given"),
        (("V1 a 0 PWL(0 1 0)", "R1 a 0 1"), "pairs of time and value"),
        (("V1 a 0 PWL(1 1 0 2)", "R1 a 0 1"), "in the order of time"),
        (("V1 a 0 1", "R1 a 0 1", ".tran 1u"), ".tran STEP STOP"),
        (("V1 a 0 1", "R1 a 0 1", ".tran 1m 1u"), "0 < STEP ≤ STOP"),
        (("V1 a 0 1", "R1 a 0 1", ".tran 1n 1"), "more than 100000 points"),
    ],
)
def test_bad_transients_are_one_line(cards, says):
    with pytest.raises(CardError) as caught:
        deck(*cards)
    assert says in str(caught.value)
    assert "\n" not in str(caught.value)


def test_controlled_sources_and_coupling():
    op = run(
        "V1 a 0 1",
        "R1 a 0 1k",
        "E1 b 0 a 0 -7",
        "Rb b 0 1k",
        "G1 c 0 a 0 2m",
        "Rc c 0 500",
        "F1 d 0 V1 4",
        "Rd d 0 500",
        "H1 e 0 V1 3k",
        "Re e 0 1k",
        ".op",
    )["op"]
    assert [op[n] for n in "bcde"] == pytest.approx([-7, -1, 2, -3])


def test_temperature_and_gmin():
    read = deck("V1 a 0 1", "R1 a 0 1k", ".temp 85", ".options gmin=1e-15")
    assert read.circuit.temperature_k == pytest.approx(358.15)
    assert read.circuit.gmin_s == 1e-15


@pytest.mark.parametrize(
    ("bad", "words"),
    [
        ("R9 a 0 4kk7", "“4kk7” is not a number"),
        ("R9 a 0", "Rname NODE NODE VALUE"),
        ("R9 a 0 0", "resistance other than 0"),
        ("C9 a 0 -1n", "capacitance of 0 or more"),
        ("L9 a 0 0", "inductance above 0"),
        ("Z9 a 0 1k", "no known element"),
        ("R1 a 0 5", "already defined on line 3"),
        (".foo", "“.foo” is not known"),
        ("Q9 a b 0 nomodel", "no .model called “nomodel”"),
        ("D9 a 0 qm", "of another kind"),
        ("X9 a 0 nosub", "no .subckt called “nosub”"),
        ("F9 a 0 Vnone 2", "which is no V source"),
        ("K9 L1 L2 0.5", "which is no inductor"),
        ("K9 L1 L2 1.5", "from −1 to 1"),
        ("R9 a 0 {1/0}", "cannot be computed"),
        ("R9 a 0 {missing}", "no parameter called “missing”"),
        ("R9 a 0 {__import__('os')}", "cannot be computed|understood"),
        (".ac dec 0 10 100", "whole number from 1"),
        (".ac dec 10 100 10", "0 < START ≤ STOP"),
        (".ac dec 10 0 10", "0 < START ≤ STOP"),
        (".ac lin 1e9 1 10", "more than"),
        (".noise v(nowhere) V1 dec 1 10 100", "no node nowhere"),
        (".noise v(a) Vx dec 1 10 100", "no source vx"),
        (".noise a V1 dec 1 10 100", "noise is written"),
        (".ends", "without a .subckt"),
        (".subckt open a b", "has no .ends"),
        (".model bad foo (is=1)", "not a kind of model"),
        (".temp -300", "absolute zero"),
        ("V9 a 0 1 2 3", "Vname"),
    ],
)
def test_a_bad_card_on_line_7_is_named(bad, words):
    good = ["V1 a 0 1", "R1 a 0 1k", "* three", "* four", ".model qm npn (bf=50)"]
    with pytest.raises(CardError, match=words) as error:
        deck(*good, bad)
    assert error.value.line == 7
    assert "\n" not in str(error.value)


def test_bad_cards_inside_a_subcircuit_keep_their_line():
    with pytest.raises(CardError) as error:
        deck("V1 a 0 1", "X1 a s", ".subckt s p", "R1 p 0 oops", ".ends")
    assert error.value.line == 5


def test_a_subcircuit_that_contains_itself():
    with pytest.raises(CardError, match="deeply"):
        deck("V1 a 0 1", "X1 a s", ".subckt s p", "X2 p s", "R1 p 0 1", ".ends")


@pytest.mark.parametrize("text", ["", "only a title", "title\n.op\n", "title\n+ 5\n"])
def test_empty_files(text):
    with pytest.raises(CardError):
        read_deck(text)
