"""The installed program as a stranger has it: an empty home, a screen, a keyboard.

Nothing of the checkout is used: the packages are unpacked, started with Debian's own Python, and
driven through the X server. It opens the demo, types a value, saves, closes; then starts again in
ways that may go wrong.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
DISPLAY = ":97"
PATIENCE_S, STARTS = 60.0, 5
BARE = """
import sys
sys.path.insert(0, sys.argv[1])
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication(["bare"])
w = QMainWindow()
w.setWindowTitle("bare window")
w.resize(1280, 800)
w.show()
app.exec()
"""


def main() -> int:
    """Everything in order; the first thing that does not hold ends it."""
    debs = sorted((ROOT / "dist").glob("tonleiter_*.deb"))
    if not debs:
        print("dist/ has no package: run scripts/package first", file=sys.stderr)
        return 2
    with tempfile.TemporaryDirectory(prefix="täst heim ") as held, _screen():
        place = Path(held)
        root = place / "root with blanks"
        subprocess.run(["dpkg-deb", "-x", str(debs[0]), str(root)], check=True)
        program = root / "usr/bin/tonleiter"
        home = place / "home"
        home.mkdir()
        _works(program, home)
        _without_sound(program, home)
        _in_odd_places(program, place)
        _starts(program, root, home)
        size = sum(f.stat().st_size for f in root.rglob("*") if f.is_file())
        print(f"size: {debs[0].stat().st_size / 1e6:.0f} MB packed, {size / 1e6:.0f} MB unpacked")
    print("1 passed, 0 failed")
    return 0


def _env(home: Path, **more: str) -> dict[str, str]:
    return {
        "HOME": str(home), "PATH": "/usr/bin:/bin", "DISPLAY": DISPLAY, "LANG": "C.UTF-8",
        "XDG_RUNTIME_DIR": str(home), "QT_QPA_PLATFORM": "xcb", **more,
    }  # fmt: skip


@contextmanager
def _screen() -> Iterator[None]:
    server = subprocess.Popen(
        ["Xvfb", DISPLAY, "-ac", "-noreset", "-screen", "0", "1400x900x24"],
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    try:
        time.sleep(1.0)
        yield
    finally:
        server.terminate()
        server.wait()


def _x(*words: str) -> str:
    env = {**os.environ, "DISPLAY": DISPLAY}
    try:
        done = subprocess.run(
            ["xdotool", *words], env=env, capture_output=True, text=True, timeout=15
        )
    except subprocess.TimeoutExpired:  # the window went while it was waited for
        return ""
    return done.stdout.strip()


def _window(title: str, running: subprocess.Popen[bytes]) -> str:
    until = time.monotonic() + PATIENCE_S
    while time.monotonic() < until:
        found = _x("search", "--onlyvisible", "--name", title).split()
        if found:
            return found[-1]
        if running.poll() is not None:
            raise SystemExit(f"it ended with {running.returncode} before a window was there")
        time.sleep(0.02)
    raise SystemExit(f"no window called {title} within {PATIENCE_S:.0f} s")


def _keys(window: str, *keys: str) -> None:
    _x("windowfocus", "--sync", window)
    for key in keys:
        _x("key", "--window", window, key)
        time.sleep(0.25)


def _typed(text: str) -> None:
    _x("type", "--delay", "40", text)


def _closed(running: subprocess.Popen[bytes], window: str) -> int:
    """By the keyboard; pressed again where nobody listened yet."""
    until = time.monotonic() + PATIENCE_S
    while time.monotonic() < until:
        _keys(window, "ctrl+q")
        try:
            return running.wait(2.0)
        except subprocess.TimeoutExpired:
            continue
    running.kill()
    raise SystemExit("it did not close")


def _works(program: Path, home: Path) -> None:
    """Opens the demo, types a value into the mixer's gain, saves, closes."""
    running = subprocess.Popen([program, "--demo"], env=_env(home))
    window = _window("Hochtal", running)
    time.sleep(4.0)
    # the ladder has the keyboard: two stages on is the mixer; Enter goes into its first value
    _keys(window, "Right", "Right", "Right", "Return", "ctrl+a")
    _typed("37.5")
    _keys(window, "Return", "ctrl+s")
    time.sleep(1.5)
    if _closed(running, window) != 0:
        raise SystemExit("it closed with an error")
    saved = home / ".local/share/tonleiter/demo/hochtal.station/station.json"
    station = json.loads(saved.read_text("utf-8"))
    changed = [
        g["id"] for g in station["gear"]
        if any(isinstance(v, dict) and v.get("value") == 37.5 for v in g.values())
    ] + [
        s["gear"] for c in station["chains"] for v in c["variants"] for s in v["stages"]
        if 37.5 in [x.get("value") if isinstance(x, dict) else x for x in s["set"].values()]
    ]  # fmt: skip
    if not changed:
        raise SystemExit("the value that was typed is not in the file")
    print(f"typed and saved: 37.5, {', '.join(changed)}")


def _without_sound(program: Path, home: Path) -> None:
    """The extra for sound is not there: a command says what it would need, and no more."""
    done = subprocess.run(
        [program, "levels", home / ".local/share/tonleiter/demo/hochtal.station"],
        env=_env(home), capture_output=True, text=True,
    )  # fmt: skip
    if done.returncode != 0 or "speech" not in done.stdout.lower():
        raise SystemExit(f"levels: {done.returncode} {done.stderr}")
    print("levels without a window: ran")


def _in_odd_places(program: Path, place: Path) -> None:
    """Without a display, with a home nobody may write, with commas: works, or one line."""
    empty = place / "other"
    empty.mkdir()
    env = _env(empty)
    del env["DISPLAY"]
    done = subprocess.run([program, "--demo"], env=env, capture_output=True, text=True, timeout=60)
    lines = done.stderr.strip().splitlines()
    if done.returncode != 2 or len(lines) != 1:
        raise SystemExit(f"without a display: {done.returncode}, {done.stderr}")
    print(f"without a display: {lines[0]}")
    if os.geteuid() == 0:
        user = ["setpriv", "--reuid=65534", "--regid=65534", "--clear-groups"]
        place.chmod(0o755)
    else:
        user = []
    shut = place / "shut"
    shut.mkdir(mode=0o555)
    running = subprocess.Popen([*user, program], env=_env(shut, LC_ALL="de_DE.UTF-8"))
    window = _window("Tonleiter", running)
    time.sleep(2.0)
    if _closed(running, window) != 0:
        raise SystemExit("with a home that nobody may write it failed")
    print("with a home that nobody may write: the start page opened and closed")
    done = subprocess.run(
        [*user, program, "--demo"], env=_env(shut), capture_output=True, text=True, timeout=60
    )
    lines = done.stderr.strip().splitlines()
    # that no log can be kept there is said besides
    if done.returncode != 2 or not lines or len(lines) > 2:
        raise SystemExit(f"a demo that cannot be copied: {done.returncode}, {done.stderr}")
    print(f"a demo that cannot be copied: {lines[-1]}")


def _starts(program: Path, root: Path, home: Path) -> None:
    """From the start to the first window, against a bare window of the same toolkit."""
    subprocess.run(
        ["/usr/bin/python3", "-m", "compileall", "-q", "-j", "0", str(root / "usr/lib/tonleiter")],
        check=True,
    )
    bare = ["/usr/bin/python3", "-I", "-c", BARE, str(root / "usr/lib/tonleiter")]
    ours, theirs = [], []
    for _ in range(STARTS):
        theirs.append(_until_seen(bare, "bare window", home))
        ours.append(_until_seen([str(program)], "Tonleiter", home))
    mine, other = sorted(ours)[STARTS // 2], sorted(theirs)[STARTS // 2]
    print(f"start to first window: {mine:.2f} s; a bare window {other:.2f} s; {mine / other:.2f}×")


def _until_seen(command: list[str], title: str, home: Path) -> float:
    began = time.monotonic()
    running = subprocess.Popen(command, env=_env(home))
    _window(title, running)
    took = time.monotonic() - began
    time.sleep(1.0)
    running.kill()
    running.wait()
    for left in (home / ".local/share/tonleiter/demo/hochtal.station").glob(".station.lock"):
        left.unlink()
    return took


if __name__ == "__main__":
    shutil.which("Xvfb") or sys.exit("Xvfb is missing: sudo apt-get install xvfb")
    sys.exit(main())
