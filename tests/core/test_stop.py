import threading

import pytest

from tonleiter.core import helpers
from tonleiter.core.stop import StoppedError, checkpoint, stopping


def test_work_ends_when_nobody_waits():
    checkpoint()  # nobody asked to be asked
    with stopping(lambda: False):
        checkpoint()
    with stopping(lambda: True):
        with pytest.raises(StoppedError):
            checkpoint()
        with stopping(lambda: False):
            checkpoint()
        with pytest.raises(StoppedError):
            checkpoint()
    checkpoint()


def test_each_thread_has_a_question_of_its_own():
    passed = []

    def other():
        checkpoint()
        passed.append(True)

    with stopping(lambda: True):
        thread = threading.Thread(target=other)
        thread.start()
        thread.join()
    assert passed == [True]


class _Executor:
    def __init__(self):
        self.given = []

    def submit(self, work, part):
        self.given.append(part)

        class Future:
            def result(self):
                return work(part)

        return Future()


def test_a_lent_hand_does_one_half_and_the_order_stays():
    executor = _Executor()
    try:
        helpers.lend(executor)
        assert helpers.hands() == 2
        assert helpers.both(lambda n: n * 10, [1, 2, 3]) == [10, 20, 30]
        assert executor.given == [1]
        seen = []
        thread = threading.Thread(target=lambda: seen.append(helpers.hands()))
        thread.start()
        thread.join()
        assert seen == [1]  # it was lent to this thread only
    finally:
        helpers.lend(None)
    assert helpers.hands() == 1
    assert helpers.both(lambda n: -n, [1, 2]) == [-1, -2]
