"""The ensemble against closed forms: linear ones exactly, a bent one by brute force."""

import numpy as np
import pytest

from tonleiter.core.learn.smoother import smoothed


def posterior(g, read, sd):
    """Of z standard normal and read = G z + noise: Bayes' closed form."""
    precision = np.eye(g.shape[1]) + g.T @ np.diag(sd**-2) @ g
    cov = np.linalg.inv(precision)
    return cov @ g.T @ (read / sd**2), cov


@pytest.mark.parametrize("seed", range(4))
def test_a_linear_case_is_that_of_the_closed_form(seed):
    rng = np.random.default_rng(seed)
    g = rng.normal(size=(3, 4))
    truth, sd = rng.normal(size=4), np.array([0.3, 0.5, 0.2])
    read = g @ truth + sd * rng.normal(size=3)
    mean, cov = posterior(g, read, sd)
    z = smoothed(rng.normal(size=(20_000, 4)), lambda z: z @ g.T, read, sd)
    # of twenty thousand draws the mean is known to a hundredth, the spread to as much
    assert z.mean(axis=0) == pytest.approx(mean, abs=0.03)
    assert z.std(axis=0) == pytest.approx(np.sqrt(np.diag(cov)), rel=0.03)


def test_what_no_reading_tells_of_stays_as_it_was():
    rng = np.random.default_rng(1)
    z = rng.normal(size=(300, 6))
    after = smoothed(z, lambda z: z[:, :1], np.array([1.0]), np.array([0.05]))
    assert after[:, 0].mean() == pytest.approx(1.0, abs=0.05)
    assert after[:, 0].std() < 0.1
    # few draws correlate by chance: that moves nothing
    assert after[:, 1:] == pytest.approx(z[:, 1:])


def test_an_electret_on_its_resistor_against_integration_over_both():
    """I of the capsule and R of the bias, volts left over them: V = 8 − I R, both in ratio."""

    def volts(z):
        current, ohm = 0.3e-3 * np.exp(0.35 * z[:, 0]), 2200 * np.exp(0.4 * z[:, 1])
        # a capsule that starves takes what there is
        return np.maximum(8 - current * ohm, 0.5)[:, None]

    # by brute force over both
    at = np.linspace(-4, 4, 801)
    a, b = np.meshgrid(at, at, indexing="ij")
    told = volts(np.stack([a.ravel(), b.ravel()], axis=1))[:, 0].reshape(a.shape)
    read, sd = 7.1, 0.05
    weight = np.exp(-0.5 * (a**2 + b**2) - 0.5 * ((told - read) / sd) ** 2)
    weight /= weight.sum()
    drop = np.log(0.3e-3 * 2200) + 0.35 * a + 0.4 * b
    mean, mean_a = (weight * drop).sum(), (weight * a).sum()
    spread_a = np.sqrt((weight * (a - mean_a) ** 2).sum())
    z = smoothed(np.random.default_rng(3).normal(size=(8_000, 2)), volts, np.array([read]),
                 np.array([sd]))  # fmt: skip
    # what is read is known: the volts over the resistor
    made = np.log(0.3e-3 * 2200) + 0.35 * z[:, 0] + 0.4 * z[:, 1]
    assert made.mean() == pytest.approx(mean, abs=0.05)
    assert z[:, 0].mean() == pytest.approx(mean_a, abs=0.06)
    assert z[:, 0].std() == pytest.approx(spread_a, rel=0.05)


def test_the_same_readings_give_the_same_to_the_last_digit():
    z = np.random.default_rng(2).normal(size=(200, 3))
    once, again = (
        smoothed(z, lambda z: z[:, :2], np.array([0.3, -0.2]), np.array([0.1, 0.1]))
        for _ in range(2)
    )
    assert (once == again).all()
