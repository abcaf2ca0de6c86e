"""Learning with fewer draws, wherever the window does it."""

from tonleiter.app.spaces.gear import learning_model
from tonleiter.core.learn import reckoned
from tonleiter.core.learn.learned import learn


def few_draws(monkeypatch, asked=None):
    """``asked`` takes down what was learned from."""

    def brief(of, readings, draws=None, question=None, owned=()):
        if asked is not None:
            asked.append(readings)
        return learn(of, readings, 100, question, owned)

    monkeypatch.setattr(learning_model, "learn", brief)
    monkeypatch.setattr(reckoned, "learn", brief)
