"""Bench methods: the arithmetic against a solved circuit, and readings that cannot be."""

from datetime import date

import pytest

from tests.core.gear.test_circuits import Bench, make
from tonleiter.core.gear.active import AmplifierStage
from tonleiter.core.gear.bench import METHODS, BenchError, methods_for
from tonleiter.core.gear.microphones import DynamicMicrophone, ElectretMicrophone
from tonleiter.core.gear.passives import Cable
from tonleiter.core.gear.sockets import DataSocket, LineInput, MicrophoneSocket
from tonleiter.core.units.quantity import QuantityError

BY_ID = {m.id: m for m in METHODS}
TODAY = date(2026, 5, 2)


def found(method, gear, **readings):
    return BY_ID[method].figures(gear, readings, TODAY)


def test_input_impedance_of_a_solved_socket():
    """A meter at the pin of the solved circuit reads what the method then turns back."""
    socket = make(MicrophoneSocket, z_in_ohm=1800)
    direct = abs(Bench(socket, source_ohm=1e-3).gain(1000.0, "in"))
    through = abs(Bench(socket, source_ohm=2200).gain(1000.0, "in"))
    figures = found("input-impedance", socket, direct=direct, through=through, resistor=2200.0)
    assert figures["z_in_ohm"].value == pytest.approx(1800, rel=0.01)
    assert figures["z_in_ohm"].basis == "measured"
    assert figures["z_in_ohm"].measured_on == TODAY


def test_output_impedance_of_a_solved_microphone():
    microphone = make(DynamicMicrophone, coil_ohm=310, coil_h=1e-6)
    opened, loaded = (abs(Bench(microphone, load_ohm=z).gain()) for z in (1e9, 330.0))
    figures = found("output-impedance", microphone, open=opened, loaded=loaded, load=330.0)
    assert figures["coil_ohm"].value == pytest.approx(310, rel=0.01)


def test_bias_of_a_solved_pin():
    socket = make(MicrophoneSocket, bias_v=7.8, bias_ohm=1200, z_in_ohm=600)
    open_v = Bench(socket, source_ohm=1e12).op.volts("in")
    loaded_v = Bench(socket, source_ohm=2200).op.volts("in")
    figures = found("bias", socket, open_v=open_v, loaded_v=loaded_v, load=2200.0)
    assert figures["bias_v"].value == pytest.approx(7.8, rel=1e-3)
    assert figures["bias_ohm"].value == pytest.approx(1200, rel=2e-3)


def test_sensitivity_by_comparison_in_either_unit():
    dynamic = found("sensitivity", make(DynamicMicrophone), known=2.0, other=1e-3, this=0.75e-3)
    assert dynamic["sensitivity_mv_per_pa"].value == pytest.approx(1.5)
    electret = found("sensitivity", make(ElectretMicrophone), known=2.0, other=1e-3, this=5e-3)
    assert electret["sensitivity_dbv_per_pa"].value == pytest.approx(-40.0)


def test_a_tone_that_fills_the_meter_is_speech_eleven_decibels_lower():
    figures = found("wanted-level", make(MicrophoneSocket), first=-50.0, full=-36.0)
    assert figures["wants_dbu"].value == pytest.approx(-47.0, abs=0.02)
    line = found("wanted-level", make(LineInput), first=-20.0, full=-6.0)
    assert line["window_low_dbu"].value == pytest.approx(-31.0, abs=0.02)
    assert line["window_high_dbu"].value == pytest.approx(-17.0, abs=0.02)


def test_a_data_socket_gets_tones_and_its_window_is_said_for_them():
    figures = found("wanted-level", make(DataSocket), first=-20.0, full=-6.0)
    assert figures["window_low_dbu"].value == pytest.approx(-20.0)
    assert figures["window_high_dbu"].value == pytest.approx(-6.0)


def test_ceiling_is_where_a_tone_stops_growing():
    assert found("ceiling", make(AmplifierStage), stops=18.0)["clip_dbu"].value == 18.0


@pytest.mark.parametrize(
    "method, readings, said",
    [
        ("input-impedance", {"direct": 1.0, "through": 1.1, "resistor": 1e3}, "must be lower"),
        ("output-impedance", {"open": 1.0, "loaded": 1.0, "load": 1e3}, "must be lower"),
        ("bias", {"open_v": 5.0, "loaded_v": 6.0, "load": 1e3}, "must be lower"),
        ("wanted-level", {"first": -30.0, "full": -40.0}, "must be above"),
    ],
)
def test_readings_that_cannot_be_are_refused(method, readings, said):
    gear = make(DynamicMicrophone) if method == "output-impedance" else make(MicrophoneSocket)
    with pytest.raises(BenchError, match=said):
        found(method, gear, **readings)


def test_a_result_that_the_field_would_refuse_is_refused():
    with pytest.raises(QuantityError, match="at most"):
        found("ceiling", make(AmplifierStage), stops=90.0)


def test_methods_are_offered_where_their_figure_is():
    assert {m.id for m in methods_for(make(MicrophoneSocket))} == {
        "input-impedance",
        "wanted-level",
        "ceiling",
        "bias",
    }
    assert methods_for(make(Cable)) == ()


def test_every_method_says_how_and_takes_readings():
    for method in METHODS:
        assert len(method.steps) >= 3
        assert method.readings
