"""A recording that is written while it is made."""

import os
import resource
import signal
from datetime import datetime

import numpy as np
import pytest
import soundfile

from tonleiter.core.station.disk import FileError
from tonleiter.core.station.spool import Spool, spool_file

RATE = 8_000


def second(k):
    return np.full(RATE, k, dtype=np.int16)


def in_a_child(do):
    """What a child makes of it, before it dies; its status."""
    child = os.fork()
    if child == 0:
        try:
            do()
        finally:
            os._exit(3)
    return os.waitpid(child, 0)[1]


def test_what_came_before_the_program_was_killed_lies_there(tmp_path):
    file = tmp_path / "recordings" / "a.wav"

    def dies():
        spool = Spool(file, RATE)
        for k in range(7):
            spool.write(second(k))
        os.kill(os.getpid(), signal.SIGKILL)

    assert os.WIFSIGNALED(in_a_child(dies))
    samples, rate = soundfile.read(file, dtype="int16")
    assert rate == RATE
    assert np.array_equal(samples, np.concatenate([second(k) for k in range(7)]))


def test_where_nothing_more_fits_it_is_said_and_what_fitted_stays(tmp_path):
    file = tmp_path / "b.wav"

    def fills():
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (5 * RATE, 5 * RATE))
        spool = Spool(file, RATE)
        try:
            for k in range(9):
                spool.write(second(k))
        except FileError as error:
            os._exit(0 if "cannot be written any further" in str(error) else 1)

    assert os.waitstatus_to_exitcode(in_a_child(fills)) == 0
    samples, _ = soundfile.read(file, dtype="int16")
    assert samples.size >= 2 * RATE
    assert np.array_equal(samples[: 2 * RATE], np.concatenate([second(0), second(1)]))


def test_a_place_that_is_none_is_one_line(tmp_path):
    (tmp_path / "recordings").write_text("a file")
    with pytest.raises(FileError, match="cannot be written"):
        Spool(tmp_path / "recordings" / "c.wav", RATE)


def test_two_of_one_second_have_two_names(tmp_path):
    now = datetime(2031, 5, 6, 7, 8, 9)
    first = spool_file(tmp_path, now)
    Spool(first, RATE).close()
    assert spool_file(tmp_path, now) != first
