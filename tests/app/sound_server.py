"""A sound server without hardware, of one's own: null sinks, and what goes out comes back in.

It runs as an ordinary user below a folder of its own. None where it cannot be had.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

CONF = """\
load-module module-native-protocol-unix socket={folder}/native auth-anonymous=1
load-module module-null-sink sink_name=radio rate=48000 \
sink_properties=device.description=Radio_Codec
load-module module-null-sink sink_name=desk rate=48000 \
sink_properties=device.description=Desk_Loudspeakers
load-module module-remap-source source_name=radio_in master=radio.monitor \
source_properties=device.description=Radio_Input
set-default-sink desk
set-default-source radio_in
"""
NOBODY = 65534
OPTIONS = (
    "--daemonize=no",
    "--exit-idle-time=-1",
    "--use-pid-file=no",
    "--disable-shm=yes",
    "--realtime=no",
    "--high-priority=no",
)


@contextmanager
def sound_server(folder: Path) -> Iterator[str | None]:
    """The address for PULSE_SERVER; None where there is no server to be had."""
    program = shutil.which("pulseaudio")
    root = os.geteuid() == 0
    if program is None or (root and shutil.which("setpriv") is None):
        yield None
        return
    for name in ("home", "run"):
        (folder / name).mkdir(parents=True, exist_ok=True)
    (folder / "conf").write_text(CONF.format(folder=folder))
    before: list[str] = []
    if root:
        for path in (folder, *folder.iterdir()):
            os.chown(path, NOBODY, NOBODY)
        # whoever it runs as must be able to come in
        for parent in folder.parents:
            if parent.stat().st_uid == 0 and parent != Path("/"):
                parent.chmod(parent.stat().st_mode | 0o011)
        before = [f"--reuid={NOBODY}", f"--regid={NOBODY}", "--clear-groups"]
        before = ["setpriv", *before]
    run = str(folder / "run")
    env = {
        "PATH": os.environ.get("PATH", ""),
        "HOME": str(folder / "home"),
        "XDG_RUNTIME_DIR": run,
        "PULSE_RUNTIME_PATH": run,
    }
    command = [*before, program, "-n", "-F", str(folder / "conf"), *OPTIONS]
    server = subprocess.Popen(
        command, env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    try:
        until = time.monotonic() + 10
        while not (folder / "native").exists() and time.monotonic() < until:
            if server.poll() is not None:
                break
            time.sleep(0.05)
        yield f"unix:{folder}/native" if (folder / "native").exists() else None
    finally:
        server.terminate()
        try:
            server.wait(5)
        except subprocess.TimeoutExpired:
            server.kill()
