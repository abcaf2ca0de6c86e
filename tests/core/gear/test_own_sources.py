"""Own circuits with every kind of source: drawn, listed, wired and proved, or refused by name."""

import pytest
from pydantic import ValidationError

from tests.conftest import gear, station_of
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.prove.prove import Proof
from tonleiter.core.report.wiring import wiring_report

MIC, RADIO = gear("dynamic-microphone", "mic"), gear("microphone-socket", "radio")


def chain(cards):
    own = gear("own-circuit", "own", cards=f"t\n{cards}", input_node="in", output_node="out")
    return station_of(MIC, own, RADIO)


STANDS = {
    "a current source at its output": "R1 in out 1k\nI1 out 0 1m",
    "a source between two nodes": "R1 in out 1k\nV1 out x 2\nR2 x 0 1k",
    "a probe of nothing": "V1 in out 0\nR1 out 0 1k",
    "an ideal amplifier": "E1 out 0 in 0 10\nR1 in 0 1k\nR2 out 0 1k",
    "a mirrored current": "V1 in a 0\nF1 out 0 V1 10\nR1 a 0 1k\nR2 out 0 1k",
    "a FET with its supply": (
        "J1 d in s jf\nR1 d vcc 10k\nR2 s 0 1k\nV1 vcc 0 9\nC1 d out 1u\nR3 out 0 10k\n"
        "R4 in 0 1meg\n.model jf njf (vto=-2 beta=1e-3)"
    ),
    "two coupled coils": "L1 in 0 1\nL2 out 0 1\nK1 L1 L2 0.99",
}


@pytest.mark.parametrize("name", list(STANDS))
def test_it_stands_in_a_chain_in_every_space(name):
    found = verdict_of(chain(STANDS[name]))
    assert wiring_report(found)
    assert Proof(found, 0).readings


def test_what_a_source_is_stands_in_the_parts():
    parts = wiring_report(verdict_of(chain(STANDS["a current source at its output"])))["parts"]
    assert any("constant-current" in str(p) and "1 mA" in str(p) for p in parts)


@pytest.mark.parametrize("wave", ["PULSE(0 1 0 1u 1u 1m 2m)", "SIN(0 1 1k)", "PWL(0 0 1e-320 1)"])
@pytest.mark.parametrize("kind", ["V", "I"])
def test_a_waveform_is_refused_by_name(wave, kind):
    with pytest.raises(ValidationError, match="1” has a waveform"):
        chain(f"R1 in out 1k\n{kind}1 out x {wave}\nR2 x 0 1k")
