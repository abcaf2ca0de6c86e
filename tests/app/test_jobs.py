"""Work behind the window: order, stopping, whole exceptions, nothing of the window in a worker."""

import gc
import threading
import time
import weakref
from types import SimpleNamespace

import pytest
from PySide6.QtCore import QCoreApplication

from tonleiter.app import turns
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.safety import garbage
from tonleiter.app.safety.trouble import trouble
from tonleiter.core.refused import RefusedError
from tonleiter.core.stop import checkpoint


@pytest.fixture
def jobs(qapp):
    made = Jobs()
    yield made
    made.end()
    assert made.wait(3.0)


def collected(desk):
    got = {"done": [], "told": [], "failed": []}
    for name, into in got.items():
        getattr(desk, name).connect(into.append)
    return got


def test_a_result_arrives_in_the_windows_thread(jobs, qtbot):
    desk = jobs.desk(Wait.PAGE)
    where = []
    desk.done.connect(lambda _: where.append(threading.current_thread()))
    with qtbot.waitSignal(desk.done) as signal:
        desk.start(lambda _: 42)
    assert signal.args == [42]
    assert where == [threading.main_thread()]
    assert not desk.busy


def test_news_comes_before_the_result(jobs, qtbot):
    desk = jobs.desk(Wait.PAGE)
    got, heard = collected(desk), threading.Semaphore(0)
    desk.told.connect(lambda _: heard.release())

    def job(task):
        for k in range(3):
            task.tell(k)
            assert heard.acquire(timeout=20)
        return "end"

    with qtbot.waitSignal(desk.done):
        desk.start(job)
    assert (got["told"], got["done"]) == ([0, 1, 2], ["end"])


def test_news_that_was_overtaken_while_the_window_was_busy_is_left_out(jobs, qtbot):
    """Each part is whole as far as it goes: a page is not built three times for it."""
    desk = jobs.desk(Wait.PAGE)
    got, told, goes_on = collected(desk), threading.Event(), threading.Event()

    def job(task):
        for k in range(3):
            task.tell(k)
        told.set()
        goes_on.wait(20)
        return "end"

    desk.start(job)
    assert told.wait(20)
    qtbot.waitUntil(lambda: bool(got["told"]))
    goes_on.set()
    qtbot.waitUntil(lambda: bool(got["done"]))
    assert (got["told"], got["done"]) == ([2], ["end"])


def test_results_that_come_at_once_are_handed_over_in_turns(jobs, qtbot):
    """A page may be built anew for each of them; keys are heard in between."""
    desks, seen = [jobs.desk(Wait.PAGE) for _ in range(3)], []

    def slow(k):
        seen.append(k)
        time.sleep(0.03)

    for k, desk in enumerate(desks):
        desk.done.connect(lambda _, k=k: slow(k))
    until = time.monotonic() + 20
    for desk in desks:
        made = threading.Event()
        desk.start(lambda _, made=made: made.set())
        assert made.wait(20)
    # the last one has set its event and may still be on its way
    time.sleep(0.05)
    turns_taken = 0
    while len(seen) < 3 and time.monotonic() < until:
        before = len(seen)
        QCoreApplication.processEvents()
        assert len(seen) - before <= 1
        turns_taken += len(seen) > before
    assert seen == [0, 1, 2]
    assert turns_taken == 3


def test_a_job_that_was_followed_by_another_is_really_stopped(jobs, qtbot):
    desk = jobs.desk(Wait.PAGE)
    got = collected(desk)
    ended = threading.Event()

    def for_ever(_):
        try:
            while True:
                checkpoint()
                time.sleep(0.002)
        finally:
            ended.set()

    desk.start(for_ever)
    time.sleep(0.05)
    with qtbot.waitSignal(desk.done):
        desk.start(lambda _: "second")
    assert ended.wait(2.0)
    assert got == {"done": ["second"], "told": [], "failed": []}


def test_what_the_hand_waits_for_does_not_wait_for_a_page(jobs, qtbot):
    page, hand = jobs.desk(Wait.PAGE), jobs.desk(Wait.HAND)
    go_on = threading.Event()
    page.start(lambda _: go_on.wait(5.0))
    with qtbot.waitSignal(hand.done, timeout=2000):
        hand.start(lambda _: "now")
    assert page.busy
    with qtbot.waitSignal(page.done):
        go_on.set()


def test_of_what_waits_the_more_urgent_comes_first(jobs, qtbot):
    blocked = [jobs.desk(Wait.HAND), jobs.desk(Wait.HAND)]
    go_on = threading.Event()
    for desk in blocked:
        desk.start(lambda _: go_on.wait(5.0))
    time.sleep(0.05)
    order = []
    later, page = jobs.desk(Wait.LATER), jobs.desk(Wait.PAGE)
    later.start(lambda _: order.append("later"))
    page.start(lambda _: order.append("page"))
    with qtbot.waitSignals([later.done, page.done]):
        go_on.set()
    assert order == ["page", "later"]


def test_a_refusal_is_a_line_and_a_slip_is_reported_whole(jobs, qtbot):
    desk = jobs.desk(Wait.PAGE)

    def refuse(_):
        raise RefusedError("this cannot be")

    def slip(_):
        raise ZeroDivisionError("a slip")

    with qtbot.waitSignal(desk.failed) as signal:
        desk.start(refuse)
    assert signal.args == ["this cannot be"]
    with qtbot.waitSignal(trouble().said):
        desk.start(slip)
    (seen,) = trouble().seen
    assert isinstance(seen, ZeroDivisionError)
    assert seen.__traceback__ is not None
    trouble().seen.clear()


def test_nothing_is_heard_after_the_end(jobs, qtbot):
    desk = jobs.desk(Wait.PAGE)
    got = collected(desk)
    go_on = threading.Event()
    desk.start(lambda _: go_on.wait(5.0))
    jobs.end()
    go_on.set()
    qtbot.wait(50)
    assert got == {"done": [], "told": [], "failed": []}
    desk.start(lambda _: 1)  # nobody works here any more, and nothing falls
    qtbot.wait(20)
    assert got["done"] == []


def test_garbage_is_not_collected_in_a_worker(window):
    """Objects of Qt that became unreachable must be destroyed in the window's thread."""
    assert not gc.isenabled()


def test_a_page_does_not_wait_for_what_nobody_waits_for_yet(jobs, qtbot):
    """The work for later goes on counting, rests while the page is made, and goes on after it."""
    later, page = jobs.desk(Wait.LATER), jobs.desk(Wait.PAGE)
    counted, begun, gate, end = [0], threading.Event(), threading.Event(), threading.Event()

    def counts(_):
        while not end.is_set():
            checkpoint()
            counted[0] += 1
            begun.set()
            time.sleep(0.001)

    def waits(_):
        gate.wait(10)
        return "page"

    later.start(counts)
    assert begun.wait(5)
    got = collected(page)
    page.start(waits)
    # it was taken though the worker that takes everything is busy
    qtbot.waitUntil(lambda: any(j.order[0] == Wait.PAGE for j in [*jobs._jobs.values()]))
    time.sleep(0.05)  # one count may be under way
    resting = counted[0]
    time.sleep(0.2)
    assert counted[0] == resting
    gate.set()
    qtbot.waitUntil(lambda: got["done"] == ["page"])
    qtbot.waitUntil(lambda: counted[0] > resting)
    end.set()


class Clock:
    """A clock that goes on when somebody sleeps."""

    def __init__(self):
        self.now, self.naps = 1000.0, 0

    def monotonic(self):
        return self.now

    def sleep(self, seconds):
        self.now += seconds
        self.naps += 1


@pytest.fixture
def clock(monkeypatch):
    made = Clock()
    monkeypatch.setattr(turns, "time", made)
    for name, value in (("depth", 0), ("since_s", 0.0), ("until_s", 0.0), ("waits", False)):
        monkeypatch.setattr(turns._Turn, name, value)
    return made


def test_a_worker_rests_while_the_window_is_at_something_but_not_for_ever(clock):
    """It would take the interpreter from it at each call into the toolkit."""
    turns.give_way()
    assert clock.naps == 0  # nobody does anything
    with turns.at_work():
        begun = clock.now
        turns.give_way()
        assert clock.now - begun == pytest.approx(turns.MOST_S, abs=0.01)
        # whoever takes longer may be waiting for just this worker
        naps = clock.naps
        turns.give_way()
        assert clock.naps == naps
    clock.now += 1.0
    with turns.at_work(), turns.at_work():
        pass
    # what an edit leads to is drawn next: a lull is not the end of it
    ended = clock.now
    turns.give_way()
    assert clock.now - ended == pytest.approx(turns.LULL_S, abs=0.002)


def test_a_worker_that_the_window_waits_for_goes_on(clock):
    with turns.at_work(), turns.waiting():
        turns.give_way()
    assert clock.naps == 0
    assert turns.rested_s() == 0


def test_only_the_window_s_thread_counts(clock):
    """What captures sound is guarded too, and in a thread of its own for as long as it captures."""
    other = threading.Thread(target=turns.begin)
    other.start()
    other.join(5)
    clock.now += 1.0
    assert turns.rested_s() > 0
    turns.give_way()
    assert clock.naps == 0
    with turns.at_work():
        turns.give_way()
    assert clock.naps > 0


def test_each_job_gives_way_where_it_asks_whether_it_is_wanted(jobs, qtbot, monkeypatch):
    gave = []
    monkeypatch.setattr(turns, "give_way", lambda: gave.append(threading.current_thread()))
    for wait in Wait:
        desk = jobs.desk(wait)
        with qtbot.waitSignal(desk.done, timeout=5000):
            desk.start(lambda task: checkpoint())
    assert len(gave) == len(Wait)
    assert threading.main_thread() not in gave


def test_a_long_look_for_garbage_waits_until_nobody_does_anything(qapp, clock, monkeypatch):
    done = []
    monkeypatch.setattr(garbage, "time", clock)
    monkeypatch.setattr(garbage.gc, "get_count", lambda: (10_000, 0, 0))
    monkeypatch.setattr(garbage.gc, "collect", lambda generation=2: done.append(generation))
    monkeypatch.setattr(garbage.gc, "freeze", lambda: None)
    collector = garbage._Collector()
    collector._look()
    assert done == [], "what the start made is not looked through"
    with turns.at_work():
        for _ in range(2 * garbage.AFTER_YOUNG):
            collector._look()
    assert done == [], "not on the heels of other work"
    pause = 2 * turns.LULL_S
    clock.now += pause
    for _ in range(2 * garbage.AFTER_YOUNG):
        collector._look()
    assert set(done) == {1}, "in a pause what is young is"
    clock.now += garbage.QUIET_S
    done.clear()
    collector._look()
    assert done == [2]
    # hands that never rest: in a pause between two events
    done.clear()
    for _ in range(garbage.AFTER_YOUNG):
        collector._look()
    with turns.at_work():
        clock.now += garbage.AT_LAST_S
        collector._look()
    assert done == [1] * garbage.AFTER_YOUNG
    clock.now += pause
    collector._look()
    assert done[-1] == 2
    # nor is it put off for ever
    done.clear()
    for _ in range(garbage.AFTER_YOUNG):
        collector._look()
    with turns.at_work():
        clock.now += garbage.NO_GAP_S
        collector._look()
    assert done[-1] == 2
    # where nothing is made nothing is looked through
    monkeypatch.setattr(garbage.gc, "get_count", lambda: (0, 0, 0))
    done.clear()
    clock.now += 100.0
    for _ in range(20):
        collector._look()
    assert done == []


def test_what_modules_are_made_of_is_looked_through_once(qapp, clock, monkeypatch):
    frozen, there = [], SimpleNamespace(modules=dict.fromkeys(range(100)))
    monkeypatch.setattr(garbage, "time", clock)
    monkeypatch.setattr(garbage, "sys", there)
    monkeypatch.setattr(garbage.gc, "get_count", lambda: (10_000, 0, 0))
    monkeypatch.setattr(garbage.gc, "collect", lambda generation=2: None)
    monkeypatch.setattr(garbage.gc, "freeze", lambda: frozen.append(len(there.modules)))
    collector = garbage._Collector()
    collector._look()

    def some_time():
        clock.now += 2 * turns.LULL_S
        for _ in range(garbage.AFTER_YOUNG):
            collector._look()
        clock.now += garbage.AT_LAST_S
        collector._look()

    some_time()
    assert len(frozen) == 1
    there.modules |= dict.fromkeys(range(100, 100 + garbage.NEW_MODULES))
    some_time()
    some_time()
    assert len(frozen) == 2


def test_what_was_kept_aside_goes_once_its_station_was_left(qapp, clock, monkeypatch):
    class Large:
        def __init__(self):
            self.itself = self

    monkeypatch.setattr(garbage, "time", clock)
    collector = garbage._Collector()
    monkeypatch.setattr(garbage, "_COLLECTOR", [collector])
    one = Large()
    there = weakref.ref(one)
    collector._look()  # kept aside, with what the start made
    del one
    clock.now += garbage.QUIET_S + 1.0
    for _ in range(2 * garbage.AFTER_YOUNG):
        collector._look()
    assert there() is not None, "nobody said that anything went"
    garbage.let_go()
    with turns.at_work():
        collector._look()
    clock.now += 2 * turns.LULL_S
    collector._look()
    assert there() is not None, "not while somebody is at it: it takes long"
    clock.now += garbage.QUIET_S
    collector._look()
    assert there() is None
    assert gc.get_freeze_count() > 0, "what stays is kept aside again"
