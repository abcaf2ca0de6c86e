import math

import pytest

from tonleiter.core.gear.microphones import DynamicMicrophone, ElectretMicrophone
from tonleiter.core.units.quantity import QuantityError
from tonleiter.core.units.sensitivity import dbu_at_spl, dbv_per_pa, parse_sensitivity


@pytest.mark.parametrize(
    ("text", "dbv"),
    [
        ("1 mV/Pa", -60.0),
        ("−54 dBV/Pa", -54.0),
        ("-54 dB re 1 V/Pa", -54.0),
        # 1 µbar is 0.1 Pa
        ("-74 dB re 1 V/µbar", -54.0),
        ("-74 dB rel. 1V/ubar", -54.0),
        # the reference voice at 25 mm makes −4.7 dBPa
        ("1 mV close talk", -55.3),
        ("0,5 mV at close talk", -61.32),
    ],
)
def test_all_usual_forms(text, dbv):
    assert dbv_per_pa(parse_sensitivity(text)) == pytest.approx(dbv, abs=0.005)


@pytest.mark.parametrize("text", ["-54 dB", "loud", "5", "-3 mV/Pa", "mV/Pa", "-5.5.5 dBV/Pa"])
def test_what_names_no_reference_is_refused(text):
    with pytest.raises(QuantityError, match="is not a sensitivity; write it like"):
        parse_sensitivity(text)


def test_fields_take_every_form_in_their_own_unit():
    dynamic = {"id": "d", "name": "d", "sensitivity_mv_per_pa": "-54 dBV/Pa"}
    figure = DynamicMicrophone.model_validate(dynamic).sensitivity_mv_per_pa
    assert figure.value == pytest.approx(1.995, abs=1e-3)
    electret = {"id": "e", "name": "e", "sensitivity_dbv_per_pa": "8 mV/Pa"}
    figure = ElectretMicrophone.model_validate(electret).sensitivity_dbv_per_pa
    assert figure.value == pytest.approx(-41.94, abs=0.01)
    bare = {"id": "e", "name": "e", "sensitivity_dbv_per_pa": "-38"}
    assert ElectretMicrophone.model_validate(bare).sensitivity_dbv_per_pa.value == -38


def test_level_in_a_sound_of_94_db_is_the_sensitivity_itself():
    """94 dB SPL is 20 µPa × 10^4.7 = 1.00237 Pa, so 1 mV/Pa gives 1.00237 mV; 0 dBu is 0.7746 V."""
    expected = 20 * math.log10(1.00237e-3 / 0.774597)
    assert dbu_at_spl(1.0, 94.0) == pytest.approx(expected, abs=1e-3)
