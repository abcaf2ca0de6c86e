"""Without a screen: one line and exit code 2, never the toolkit's abort."""

import os
import subprocess
import sys

import pytest


def started(tmp_path, **env):
    clean = {k: v for k, v in os.environ.items() if "DISPLAY" not in k and not k.startswith("QT_")}
    return subprocess.run(
        [sys.executable, "-m", "tonleiter.cli", "--demo"],
        env={**clean, "HOME": str(tmp_path), **env},
        capture_output=True,
        text=True,
        timeout=60,
    )


@pytest.mark.parametrize("env", [{}, {"DISPLAY": ":4711"}, {"QT_QPA_PLATFORM": "xcb"}])
@pytest.mark.table(keep=3)
def test_no_screen_is_said_in_one_line(tmp_path, env):
    done = started(tmp_path, **env)
    assert done.returncode == 2
    (line,) = done.stderr.strip().splitlines()
    assert "no screen" in line or "apt-get install" in line
    assert not (tmp_path / ".local").exists()
