"""What the tests of real sound do, in a process of its own: ``python real_sound.py WHAT``.

Qt asks the sound server once for each process; the address is in the environment.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time

os.environ["QT_QPA_PLATFORM"] = "offscreen"

import numpy as np
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from tonleiter.app.audio.system import find_system

# levels told, of a twentieth of a second at least each, until a recording is ended
TOLD = 20


def pactl(*words: str) -> str:
    return subprocess.run(["pactl", *words], capture_output=True, text=True).stdout.strip()


def listed(app, system):
    now = system.listed()
    return {
        "trouble": system.trouble,
        "outputs": [d.name for d in now.outputs],
        "inputs": [d.name for d in now.inputs],
        "default": now.default("out").name if now.default("out") else None,
    }


def watched(app, system):
    """What is told of a device plugged in, and of a default that moves after that."""
    seen: list[str] = []

    def look():
        now = system.listed()
        held = now.default("out")
        plugged = "New" in [d.name for d in now.outputs]
        seen.append(f"{plugged} {held.name if held else None}")
        if len(seen) == 1 or (plugged and not seen[-2].startswith("True")):
            QTimer.singleShot(500, lambda: pactl("set-default-sink", "radio"))
        if seen[-1] == "True Radio_Codec":
            app.quit()

    system.watch(look)
    new = ("load-module", "module-null-sink", "sink_name=new",
           "sink_properties=device.description=New")  # fmt: skip
    QTimer.singleShot(300, lambda: pactl(*new))
    QTimer.singleShot(40_000, app.quit)
    app.exec()
    return {"seen": seen}


def measured(app, system):
    """The loop at three levels; a machine too busy to play says so, and is asked again."""
    found, refused, levels = [], [], [-6.0, -20.0, -40.0]
    until = time.monotonic() + 70

    def done(made):
        if isinstance(made, str):
            refused.append(made)
        else:
            found.append([made.gain_db, made.noise_dbfs, made.delay_s])
        QTimer.singleShot(50, step)

    def step():
        if len(found) == len(levels) or time.monotonic() > until:
            app.quit()
        elif why := system.loop("radio", "radio_in", levels[len(found)], done):
            refused.append(why)
            app.quit()

    QTimer.singleShot(0, step)
    QTimer.singleShot(100_000, app.quit)
    app.exec()
    return {"loops": found, "refused": refused}


def level(app, system):
    """A tone looked at; then its device is pulled while it plays."""
    seen = []
    why = [system.tone("radio", -20.0, 1000.0)]
    why.append(system.listen("radio_in", lambda rms, peak: seen.append((rms, peak))))
    QTimer.singleShot(5000, app.quit)
    app.exec()
    system.stop()
    after = len(seen)
    why.append(system.tone("gone", -20.0, 1000.0))
    why.append(system.listen("gone", print))
    why.append(system.tone("radio", 20.0, 1000.0))
    pactl("load-module", "module-null-sink", "sink_name=brief")
    QTimer.singleShot(300, app.quit)
    app.exec()
    why.append(system.tone("brief", -20.0, 1000.0))
    modules = [m.split("\t")[0] for m in pactl("list", "short", "modules").splitlines()
               if "sink_name=brief" in m]  # fmt: skip
    pactl("unload-module", *modules)
    QTimer.singleShot(500, app.quit)
    app.exec()
    system.stop()
    return {"seen": seen[-10:], "why": why, "more": len(seen) - after}


def recorded(app, system):
    """A tone, two seconds of it recorded; and from a device that is not there."""
    got, begun = [], time.monotonic()
    told = [0]

    def tell(rms, peak):
        # the server needs its time to begin: what counts is what came
        told[0] += peak > -30
        if told[0] == TOLD:
            system.finish()

    def done(samples, rate_hz, why):
        f = np.fft.rfftfreq(samples.size, 1 / rate_hz)
        loudest = f[np.argmax(np.abs(np.fft.rfft(samples)))] if samples.size else 0.0
        parts = samples[: samples.size // 480 * 480].reshape(-1, 480)
        rms = float(np.median(np.sqrt(2 * np.mean(parts**2, axis=1))))
        took = time.monotonic() - begun
        got.append([samples.size / rate_hz, took, float(loudest), rms, why])
        system.stop()
        app.quit()

    why = [system.tone("radio", -20.0, 1000.0)]
    why.append(system.record("radio_in", tell, done))
    QTimer.singleShot(60_000, app.quit)
    app.exec()
    why.append(system.record("gone", print, done))
    return {"got": got, "why": why, "told": told[0]}


if __name__ == "__main__":
    application = QApplication([])
    WHAT = {
        "listed": listed, "watched": watched, "measured": measured, "level": level,
        "recorded": recorded,
    }  # fmt: skip
    print("RESULT " + json.dumps(WHAT[sys.argv[1]](application, find_system())))
