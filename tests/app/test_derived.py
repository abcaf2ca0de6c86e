"""Results that know what they rest on: kept, computed anew; late ones are not heard."""

import threading

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from tonleiter.app.derived import Derived, Rest, wait_until
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.safety.trouble import trouble
from tonleiter.core.refused import RefusedError
from tonleiter.core.stop import checkpoint


@pytest.fixture
def jobs(qapp):
    made = Jobs()
    yield made
    made.end()
    assert made.wait(5)


@pytest.fixture
def derived(jobs):
    return Derived(jobs, Wait.PAGE)


def refuse(_=None):
    raise RefusedError("no such chain")


def slip(_=None):
    raise ZeroDivisionError("a slip")


def test_the_same_question_is_not_asked_twice(derived):
    asked = []
    assert derived.want("a", lambda _: asked.append(1) or len(asked))
    assert not derived.want("a", lambda _: asked.append(1) or len(asked))
    assert derived.finish() == 1
    assert not derived.want("a", lambda _: asked.append(1) or len(asked))
    assert (asked, derived.whole, derived.stale) == ([1], True, False)


def test_an_old_value_is_kept_and_called_stale_until_the_new_one_comes(derived):
    derived.want("a", lambda _: 1)
    derived.finish()
    go = threading.Event()
    derived.want("b", lambda _: go.wait(5) and 2)
    assert (derived.value, derived.current, derived.stale) == (1, None, True)
    go.set()
    assert derived.finish() == 2
    assert (derived.current, derived.stale) == (2, False)


def test_a_result_whose_question_is_gone_is_not_heard(derived):
    """The slow answer to the first question ends after the second was asked."""
    go = threading.Event()

    def slow(_):
        go.wait(5)
        return "late"

    derived.want("a", slow)
    derived.want("b", lambda _: "now")
    go.set()
    assert derived.finish() == "now"
    QApplication.processEvents()
    assert derived.value == "now"


def test_what_is_on_its_way_is_shown_and_not_yet_whole(derived):
    go, seen = threading.Event(), []
    derived.changed.connect(lambda: seen.append((derived.value, derived.whole)))

    def steps(task):
        task.tell("half")
        go.wait(5)
        return "whole"

    derived.want("a", steps)
    wait_until(lambda: derived.value == "half", 5)
    assert derived.busy
    go.set()
    derived.finish()
    assert ("half", False) in seen
    assert seen[-1] == ("whole", True)


@pytest.mark.parametrize("at_once", [True, False])
def test_a_refusal_is_one_line_and_no_value(derived, at_once):
    if at_once:
        derived.want_now("a", refuse)
    else:
        derived.want("a", refuse)
        derived.finish()
    assert (derived.value, derived.trouble) == (None, "no such chain")
    assert not derived.want("a", refuse), "what was refused is not asked again and again"
    assert derived.want_now("b", lambda: 3)
    assert (derived.value, derived.trouble) == (3, "")


def test_a_slip_leaves_a_window_that_lives(derived):
    derived.want_now("a", slip)
    assert "something went wrong" in derived.trouble
    assert trouble().seen.pop().args == ("a slip",)


def test_what_was_cancelled_is_asked_again_when_it_is_wanted(derived):
    go = threading.Event()

    def endless(_):
        while not go.is_set():
            checkpoint()

    derived.want("a", endless)
    derived.cancel()
    assert not derived.busy
    assert derived.want("a", lambda _: 5)
    assert derived.finish() == 5
    go.set()


def test_nothing_to_derive_forgets_what_was_known(derived):
    derived.want("a", lambda _: 1)
    derived.finish()
    derived.nothing("there is no chain")
    assert (derived.value, derived.trouble, derived.whole) == (None, "there is no chain", False)
    assert derived.want("a", lambda _: 2)
    assert derived.finish() == 2


def test_enough_is_enough(derived):
    go = threading.Event()

    def steps(task):
        task.tell("so far")
        go.wait(5)
        return "all"

    derived.want("a", steps)
    wait_until(lambda: derived.value == "so far", 5)
    derived.stop_here()
    go.set()
    QApplication.processEvents()
    assert (derived.value, derived.busy, derived.whole) == ("so far", False, True)


def test_waiting_for_what_never_ends_says_so(derived):
    go = threading.Event()
    derived.want("a", lambda _: go.wait(5))
    with pytest.raises(TimeoutError):
        derived.finish(0.05)
    go.set()


def test_a_rest_is_settled_once(qapp, jobs):
    done = []
    rest = Rest(jobs.desk(Wait.PAGE), 10_000, lambda: done.append(1))
    assert not rest.settle()
    rest.start()
    assert rest.settle()
    assert not rest.settle()
    assert done == [1]


def test_what_begins_in_the_turn_that_ends_a_wait_is_waited_for_as_well(qapp):
    """Done when somebody looks, and busy again before the loop has ended: no reason to give up."""
    busy = [False]
    turns = []

    def done():
        if not busy[0] and len(turns) < 2:
            # whoever asks is told that it is done; what was due in that turn begins then
            turns.append(1)
            busy[0] = True
            QTimer.singleShot(30, lambda: busy.__setitem__(0, False))
            return len(turns) == 2
        return not busy[0]

    wait_until(done, 5)
    assert len(turns) == 2
    assert not busy[0]
