"""Long chains: the same answer stage by stage, in memory and time that grow with the chain."""

import tracemalloc

import numpy as np
import pytest

from tests.conftest import gear, station_of
from tonleiter.core.judge.assess import assess
from tonleiter.core.solve import solution as module
from tonleiter.core.solve import spread as spread_module
from tonleiter.core.solve.compiled import compile_chain
from tonleiter.core.solve.solution import solve_chain
from tonleiter.core.solve.spread import solve_spread


def cables(count, **microphone):
    return station_of(
        gear("dynamic-microphone", "mic", **microphone),
        *[gear("cable", f"c{k}") for k in range(count)],
        gear("microphone-socket", "set"),
    )


def both_ways(compiled, monkeypatch):
    monkeypatch.setattr(module, "CASCADE_FROM", 10**9)
    dense = solve_chain(compiled)
    monkeypatch.setattr(module, "CASCADE_FROM", 0)
    return dense, solve_chain(compiled)


def test_every_chain_of_the_demo_comes_out_alike(demo, monkeypatch):
    for chain in demo.chains:
        for variant in chain.variants:
            dense, rows = both_ways(compile_chain(demo, chain.id, variant.id), monkeypatch)
            np.testing.assert_allclose(abs(rows.response), abs(dense.response), rtol=1e-8)
            np.testing.assert_allclose(rows.noise_v(), dense.noise_v(), rtol=1e-8)
            np.testing.assert_allclose(rows.hum.total_v, dense.hum.total_v, rtol=1e-5, atol=1e-15)
            for a, b in zip(rows.impedances, dense.impedances, strict=True):
                assert (a.source_ohm, a.load_ohm) == pytest.approx((b.source_ohm, b.load_ohm))
            assert rows.dc_a == pytest.approx(dense.dc_a)
            last = len(rows.dc_v) - 1
            assert rows.noise_shares_at(last) == pytest.approx(
                dense.noise_shares_at(last), abs=1e-9
            )
            assert rows.hum.at_end_v == pytest.approx(dense.hum.at_end_v, rel=1e-5, abs=1e-15)


def test_fifty_cables_are_one_cable_of_fifty_lengths():
    many = assess(cables(50))
    one = assess(
        station_of(
            gear("dynamic-microphone", "mic"),
            gear("cable", "c", length_m=50 * many.rows[1].gear.length_m.value),
            gear("microphone-socket", "set"),
        )
    )
    assert many.rows[-1].speech_dbu == pytest.approx(one.rows[-1].speech_dbu, abs=0.02)
    assert many.rows[-1].noise_dbu == pytest.approx(one.rows[-1].noise_dbu, abs=0.05)


@pytest.mark.long
def test_memory_grows_with_the_chain_and_not_with_its_square():
    def peak(count):
        compiled = compile_chain(cables(count))
        tracemalloc.start()
        solve_chain(compiled, points=30)
        _, most = tracemalloc.get_traced_memory()
        tracemalloc.stop()
        return most

    short, long = peak(40), peak(120)
    assert long < 4.5 * short
    assert long < 140e6


@pytest.mark.long
def test_a_long_chain_has_bands_too(monkeypatch):
    # what counts as long is brought down: the way is the same, and 85 draws of it are enough
    for place in (module, spread_module):
        monkeypatch.setattr(place, "CASCADE_FROM", 36)
    assessment = assess(cables(16, sensitivity_mv_per_pa="1..4"))
    spread = solve_spread(assessment.solution, assessment.rows)
    low, high = spread.band_dbu(len(assessment.rows) - 1)
    # nine draws in ten of a span of 12 dB, evenly in ratio: 10.8 dB; an end found from 85 draws has
    # a standard deviation of 12 · √(0.05 · 0.95 / 85) = 0.3 dB, and there are two
    assert high - low == pytest.approx(10.8, abs=1.7)


@pytest.mark.long
def test_draws_obey_the_rules_of_their_piece():
    socket = gear("microphone-socket", "set", bias_v=8, bias_ohm="1k..3k", z_in_ohm="600..2000")
    assessment = assess(station_of(gear("electret-2-wire", "mic"), socket))
    spread = solve_spread(assessment.solution, assessment.rows)
    by_field = {f.field: f.draws for f in spread.figures}
    assert np.all(by_field["bias_ohm"] > by_field["z_in_ohm"])
    assert np.ptp(by_field["z_in_ohm"]) > 500
