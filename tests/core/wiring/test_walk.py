"""A sample of the walk over all pairs: suggestions are complete, and no rule fires on one."""

import pytest

from tests.core.wiring.walk import faults, inputs, sources, suggestions

EVERY = 7
PAIRS = [
    (s, t) for k, s in enumerate(sources()) for n, t in enumerate(inputs()) if (k + n) % EVERY == 0
]


@pytest.mark.table(keep=3)
@pytest.mark.parametrize(("source", "target"), PAIRS, ids=lambda g: g.id)
def test_a_suggestion_is_complete_and_no_rule_fires_on_it(source, target):
    for school, found in suggestions(source, target):
        if found is not None:
            assert list(faults(found)) == [], school


def test_the_sample_has_every_input_and_most_sources():
    assert {t.id for _, t in PAIRS} == {t.id for t in inputs()}
    assert len({s.id for s, _ in PAIRS}) > len(sources()) / 2
