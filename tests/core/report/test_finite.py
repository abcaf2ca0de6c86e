"""JSON holds no infinity: what is no figure is null, and what is one stays as it is."""

import json
import math

import pytest

from tonleiter.core.report.finite import all_finite, finite
from tonleiter.core.report.why.hangs import hangs_on


@pytest.mark.parametrize("value", [0.0, -150.0, 1e300, 1e-300])
def test_a_figure_stays(value):
    assert finite(value) == value


@pytest.mark.parametrize("value", [math.inf, -math.inf, math.nan, None])
def test_what_is_none_is_null(value):
    assert finite(value) is None
    assert json.loads(json.dumps(all_finite({"a": value, "b": 2.0}))) == {"a": None, "b": 2.0}


@pytest.mark.parametrize("value", [math.inf, -math.inf, math.nan, None])
def test_what_is_no_result_hangs_on_nothing(demo, value):
    from tonleiter.core.judge.assess import assess

    assert hangs_on(assess(demo), lambda _: value, str) == ()
