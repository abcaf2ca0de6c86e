"""The real device path on a sound server without hardware; skipped, saying so, where none is."""

import json
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from tests.app.sound_server import sound_server

ROOT = Path(__file__).parents[2]


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    pytest.importorskip("PySide6.QtMultimedia", reason="the extra for sound is not installed")
    with sound_server(tmp_path_factory.mktemp("sound")) as address:
        if address is None:
            pytest.skip("no sound server can be started here: pulseaudio is missing")
        yield address


def result(what, server):
    env = {**os.environ, "PYTHONPATH": f"{ROOT}{os.pathsep}{os.environ.get('PYTHONPATH', '')}"}
    env["PULSE_SERVER"] = server
    made = subprocess.run(
        [sys.executable, str(Path(__file__).with_name("real_sound.py")), what],
        env=env,
        capture_output=True,
        text=True,
        timeout=150,
    )
    lines = [x for x in made.stdout.splitlines() if x.startswith("RESULT ")]
    assert lines, made.stderr[-2000:]
    return json.loads(lines[0].removeprefix("RESULT "))


def held(what, server, check, times=4):
    """What is so once is so: a server on a machine with other things to do loses samples."""
    for left in reversed(range(times)):
        made = result(what, server)
        try:
            return check(made)
        except AssertionError:
            if not left:
                raise


@pytest.mark.long
def test_devices_are_listed_with_their_default(server):
    made = result("listed", server)
    assert made["trouble"] == ""
    assert {"Radio_Codec", "Desk_Loudspeakers"} <= set(made["outputs"])
    assert made["inputs"] == ["Radio_Input"]
    assert made["default"] == "Desk_Loudspeakers"


@pytest.mark.long
def test_without_a_server_one_line_says_so():
    made = result("listed", "unix:/nowhere/at/all")
    assert "no sound devices" in made["trouble"]
    assert made["outputs"] == []


@pytest.mark.long
def test_a_plug_and_a_moved_default_are_told_without_being_asked_for(server):
    seen = result("watched", server)["seen"]
    plugged = next(k for k, what in enumerate(seen) if what.startswith("True"))
    assert plugged < seen.index("True Radio_Codec")


@pytest.mark.long
def test_a_loop_is_measured_to_a_tenth_of_a_decibel(server):
    def check(made):
        # a busy machine may refuse to say; what it refuses for is then that
        for why in made["refused"]:
            assert "measure again" in why or why == "nothing of what was sent came back"
        assert made["loops"], made["refused"]
        for gain_db, noise_dbfs, delay_s in made["loops"]:
            assert gain_db == pytest.approx(0.0, abs=0.1)
            assert noise_dbfs < -90
            assert 0.0 < delay_s < 3.0

    held("measured", server, check, times=2)


@pytest.mark.long
def test_a_tone_is_seen_at_its_level_and_a_device_that_vanishes_is_no_crash(server):
    def check(made):
        assert made["why"][:2] == ["", ""]
        assert made["seen"], "something came in"
        # a machine with other things to do leaves a hole here and there
        rms, peak = np.median(made["seen"], axis=0)
        assert rms == pytest.approx(-20.0, abs=0.1)
        assert peak == pytest.approx(-20.0, abs=0.2)
        assert made["why"][2:4] == ["that device is gone", "that device is gone"]
        assert "dBFS is wanted" in made["why"][4]
        assert made["more"] == 0, "what was stopped listens no more"

    held("level", server, check)


@pytest.mark.long
def test_what_comes_in_is_recorded_as_it_came(server):
    def check(made):
        assert made["why"] == ["", "", "that device is gone"]
        ((seconds, took_s, loudest_hz, rms, why),) = made["got"]
        assert why == ""
        # nothing is lost of what was told, nothing is given twice
        assert 0.05 * made["told"] <= seconds < took_s
        assert loudest_hz == pytest.approx(1000.0, abs=1.0)
        assert 20 * np.log10(rms) == pytest.approx(-20.0, abs=0.1)

    held("recorded", server, check)
