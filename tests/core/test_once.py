"""Properties that are computed once for an object, and no object waits for another."""

import threading

from tonleiter.core.once import cached_property


class Slow:
    def __init__(self, gate=None):
        self.gate, self.computed = gate, 0

    @cached_property
    def value(self):
        self.computed += 1
        if self.gate is not None:
            assert self.gate.wait(10)
        return object()


def test_it_is_computed_once():
    slow = Slow()
    assert slow.value is slow.value
    assert slow.computed == 1
    assert isinstance(Slow.value, cached_property)


def test_another_object_does_not_wait():
    """One object's property rests in a thread; the same of another object comes at once."""
    gate, held = threading.Event(), Slow()
    held.gate = gate
    resting = threading.Thread(target=lambda: held.value)
    resting.start()
    while held.computed == 0:
        pass
    done = []
    other = threading.Thread(target=lambda: done.append(Slow().value))
    other.start()
    other.join(5)
    assert len(done) == 1
    gate.set()
    resting.join(5)
    assert held.computed == 1


def test_no_module_takes_the_one_with_the_lock():
    from pathlib import Path

    import tonleiter

    home = Path(tonleiter.__file__).parent
    for file in home.rglob("*.py"):
        if file.name != "once.py":
            text = file.read_text("utf-8")
            assert "from functools import cached_property" not in text, file
