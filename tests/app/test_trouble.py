"""The log in the user's state folder, and exceptions that end nothing."""

import logging
import subprocess
import sys
import textwrap
from weakref import WeakSet

import pytest

from tonleiter.app.safety.garbage import let_go
from tonleiter.app.safety.trouble import LOG, Trouble
from tonleiter.core.refused import RefusedError


def test_a_slip_is_said_in_one_line_and_a_refusal_as_it_is(qapp):
    trouble, said = Trouble(), []
    trouble.said.connect(said.append)
    trouble.report(ValueError("first\nsecond"), "here")
    trouble.report(ValueError("first\nsecond"), "here")
    trouble.report(RefusedError("that cannot be"))
    assert len(said) == 2  # the same slip is not said twice in a row
    assert "\n" not in said[0]
    assert "Your work is kept" in said[0]
    assert said[1] == "that cannot be"


def test_work_is_kept_even_when_keeping_it_fails_for_one(qapp, caplog):
    trouble, kept = Trouble(), []

    def fails():
        raise OSError("full")

    trouble.keep_with(fails)
    trouble.keep_with(lambda: kept.append(True))
    with caplog.at_level(logging.ERROR, logger="tonleiter"):
        trouble.report(RuntimeError("x"), "there")
    assert kept == [True]
    assert "in there" in caplog.text
    trouble.forget(fails)
    trouble.forget(fails)


START = """
    import sys
    from PySide6.QtCore import QTimer
    from tonleiter.app import start
    from tonleiter.app.safety.trouble import trouble

    def in_a_slot():
        raise LookupError("a slip in a slot")

    def leave(looks=40):
        # a slow machine keeps its log later, and one that cannot never does
        if trouble().log_file is None and looks and sys.argv[1] == "True":
            QTimer.singleShot(200, lambda: leave(looks - 1))
            return
        print(trouble().log_file)
        from PySide6.QtWidgets import QApplication
        window = QApplication.topLevelWidgets()
        print([w.notice.text for w in window if hasattr(w, "notice")][0])
        QApplication.exit(7)

    app = start.application()
    QTimer.singleShot(0, in_a_slot)
    QTimer.singleShot(900, leave)
    sys.exit(start.run(demo=True))
"""


@pytest.mark.long
@pytest.mark.parametrize("writable", [True, False])
def test_an_exception_in_a_slot_is_logged_and_said_and_the_application_goes_on(tmp_path, writable):
    state = tmp_path / "state"
    if not writable:
        state.write_text("a file where the folder should be")
    environment = {
        "PATH": "/usr/bin:/bin",
        "HOME": str(tmp_path),
        "XDG_STATE_HOME": str(state),
        "XDG_DATA_HOME": str(tmp_path / "data"),
        "XDG_CONFIG_HOME": str(tmp_path / "config"),
        "QT_QPA_PLATFORM": "offscreen",
    }
    done = subprocess.run(
        [sys.executable, "-c", textwrap.dedent(START), str(writable)],
        capture_output=True,
        text=True,
        env=environment,
        timeout=60,
        check=False,
    )
    assert done.returncode == 7, done.stderr
    assert "a slip in a slot" in done.stdout
    if writable:
        log = (state / "tonleiter" / "tonleiter.log").read_text("utf-8")
        assert "in_a_slot" in log
        assert "Traceback" in log
    else:
        assert "no log is kept" in done.stderr
        assert "in_a_slot" in done.stderr


def test_a_slip_holds_nothing_that_it_came_through(qapp, monkeypatch):
    """A window that was left since would live on in the frames that it was raised in."""
    monkeypatch.setattr(LOG, "propagate", False)  # the test's own record holds them too

    class Space:
        pass

    trouble, left = Trouble(), WeakSet()

    def slips():
        space = Space()
        left.add(space)
        raise ValueError("of a space that is shown")

    try:
        slips()
    except ValueError as error:
        trouble.report(error, "a test")
    trouble.let_go()
    assert [str(e) for e in trouble.seen] == ["of a space that is shown"]
    assert len(left) == 0


def test_nor_does_the_interpreter_once_a_station_was_left(monkeypatch):
    for name in ("last_type", "last_value", "last_traceback"):
        monkeypatch.setattr(sys, name, object(), raising=False)
    let_go()
    assert (sys.last_type, sys.last_value, sys.last_traceback) == (None, None, None)
