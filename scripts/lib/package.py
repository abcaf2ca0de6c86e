"""A wheel, and .deb files with vendored wheels: pruned of what nobody imports, never stripped."""

from __future__ import annotations

import gzip
import shutil
import subprocess
import sys
import sysconfig
import tempfile
from pathlib import Path

from tonleiter import __version__

ROOT = Path(__file__).resolve().parents[2]
DIST, KEPT = ROOT / "dist", ROOT / "packaging"
HOME = Path("usr/lib/tonleiter")
MAINTAINER = "The Tonleiter founders <founders@tonleiter.invalid>"
# of the toolkit: what the program imports, and what draws its windows
BINDINGS = ("QtCore", "QtGui", "QtWidgets", "QtNetwork", "QtSvg", "QtPrintSupport", "QtDBus")
LIBRARIES = (
    "Core", "Gui", "Widgets", "Network", "Svg", "PrintSupport", "DBus", "XcbQpa", "OpenGL",
    "WaylandClient", "WlShellIntegration", "WaylandEglClientHwIntegration",
)  # fmt: skip
PLUGINS = (
    "platforms", "imageformats", "iconengines", "platforminputcontexts", "platformthemes",
    "printsupport", "xcbglintegrations", "wayland-decoration-client",
    "wayland-graphics-integration-client", "wayland-shell-integration",
)  # fmt: skip
# of those: what would want libraries that are not there
LESS = ("eglfs", "linuxfb", "vkkhrdisplay", "vnc", "virtualkeyboard", "qpdf", "minimalegl")
SOUND_BINDINGS, SOUND_LIBRARIES = ("QtMultimedia",), ("Multimedia", "Concurrent", "FFmpegStub")
DEPENDS = (
    "python3 (>= 3.11), python3 (<< 3.12), libc6 (>= 2.28), libstdc++6, zlib1g, libegl1, libgl1,"
    " libglib2.0-0, libdbus-1-3, libfontconfig1, libfreetype6, libxkbcommon0, libxkbcommon-x11-0,"
    " libxcb-cursor0, libxcb-icccm4, libxcb-image0, libxcb-keysyms1, libxcb-render-util0,"
    " libxcb-shape0, libxcb-xkb1, libx11-xcb1"
)


def main() -> None:
    """Build all, check all."""
    shutil.rmtree(DIST, ignore_errors=True)
    DIST.mkdir()
    wheel = _wheel()
    with tempfile.TemporaryDirectory() as held:
        base, sound = Path(held) / "base", Path(held) / "sound"
        _vendor(wheel, base, sound)
        _share(base)
        made = [
            _deb(base, "tonleiter", DEPENDS, "tonleiter-sound", _LONG),
            _deb(
                sound,
                "tonleiter-sound",
                f"tonleiter (= {__version__}), libc6 (>= 2.28), libpulse0",
                "",
                _SOUND,
            ),
        ]
    _check(made)
    for file in sorted(DIST.iterdir()):
        print(f"dist/{file.name}: {file.stat().st_size / 1e6:.1f} MB")


def _run(*words: str | Path) -> None:
    subprocess.run([str(w) for w in words], check=True)


def _wheel() -> Path:
    _run(sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--wheel-dir", DIST, ROOT)
    return next(DIST.glob("tonleiter-*.whl"))


def _vendor(wheel: Path, base: Path, sound: Path) -> None:
    """The program and what it imports, as wheels bring it, without what it never asks for."""
    target = base / HOME
    target.mkdir(parents=True)
    _run(
        sys.executable, "-m", "pip", "install", "--quiet", "--no-compile",
        "--disable-pip-version-check", "--constraint", ROOT / "constraints.txt",
        "--target", target, f"{wheel}[audio]",
    )  # fmt: skip
    shutil.rmtree(target / "bin", ignore_errors=True)
    _prune_toolkit(target, sound / HOME)
    for name in ("numpy", "scipy"):
        for tests in [*(target / name).rglob("tests"), *(target / name).rglob("*.pyi")]:
            if tests.exists():  # it may have gone with the folder around it
                _drop(tests)
    for path in [*target.rglob("*")]:
        if path.name in ("__pycache__", "RECORD", "INSTALLER", "REQUESTED", "direct_url.json"):
            shutil.rmtree(path) if path.is_dir() else path.unlink()
        elif path.is_file():
            path.chmod(0o644)
    # what imports the program from there, and from nowhere else
    start = base / "usr/bin/tonleiter"
    start.parent.mkdir(parents=True)
    start.write_text((KEPT / "tonleiter.py").read_text("utf-8"), "utf-8")
    start.chmod(0o755)


def _prune_toolkit(target: Path, sound: Path) -> None:
    toolkit = target / "PySide6"
    plugins = toolkit / "Qt" / "plugins"
    for path in list(toolkit.iterdir()):
        name = path.name.partition(".")[0]
        if path.name.endswith(".abi3.so") and name in SOUND_BINDINGS:
            _move(path, target, sound)
        elif path.name.startswith("Qt") and path.name != "Qt":
            if not (path.name.endswith(".abi3.so") and name in BINDINGS):
                _drop(path)
        elif path.suffix in ("", ".pyi", ".json") and path.name not in ("Qt", "py.typed"):
            _drop(path)
    for path in list((toolkit / "Qt").iterdir()):
        if path.name not in ("lib", "plugins"):
            _drop(path)
    for path in list((toolkit / "Qt" / "lib").iterdir()):
        name = path.name.removeprefix("libQt6").partition(".")[0].partition("-")[0]
        if path.name.startswith(("libav", "libsw")) or name in SOUND_LIBRARIES:
            _move(path, target, sound)
        elif not path.name.startswith("libicu") and name not in LIBRARIES:
            _drop(path)
    for path in list(plugins.iterdir()):
        if path.name == "multimedia":
            _move(path, target, sound)
        elif path.name not in PLUGINS:
            _drop(path)
    for path in plugins.rglob("*.so"):
        if any(word in path.name for word in LESS):
            path.unlink()


def _drop(path: Path) -> None:
    shutil.rmtree(path) if path.is_dir() and not path.is_symlink() else path.unlink()


def _move(path: Path, target: Path, to: Path) -> None:
    there = to / path.relative_to(target)
    there.parent.mkdir(parents=True, exist_ok=True)
    shutil.move(path, there)
    for file in [there] if there.is_file() else there.rglob("*"):
        if file.is_file():
            file.chmod(0o644)


def _share(base: Path) -> None:
    """What the desktop knows the program by."""
    share = base / "usr/share"
    for source, place in (
        ("tonleiter.desktop", "applications/tonleiter.desktop"),
        ("tonleiter.metainfo.xml", "metainfo/ham.tonleiter.tonleiter.metainfo.xml"),
        ("tonleiter-mime.xml", "mime/packages/tonleiter.xml"),
    ):
        to = share / place
        to.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(KEPT / source, to)
    drawn = ROOT / "src/tonleiter/app/theme/icon/tonleiter.svg"
    scalable = share / "icons/hicolor/scalable/apps/tonleiter.svg"
    scalable.parent.mkdir(parents=True)
    shutil.copyfile(drawn, scalable)
    for icon in sorted((KEPT / "icons").glob("*.png")):
        to = share / f"icons/hicolor/{icon.stem}x{icon.stem}/apps/tonleiter.png"
        to.parent.mkdir(parents=True)
        shutil.copyfile(icon, to)
    man = share / "man/man1/tonleiter.1.gz"
    man.parent.mkdir(parents=True)
    man.write_bytes(_zipped((KEPT / "tonleiter.1").read_text("utf-8")))


def _zipped(text: str) -> bytes:
    return gzip.compress(text.encode(), 9, mtime=0)


_LONG = """levels, bias, wiring and judgement for the audio chain of a radio
 It holds one station of a radio amateur and computes what one would otherwise
 measure, guess or find out on the air: which microphone goes with which input,
 levels from voice to radio, wiring, a bring-up, settings, a log."""
_SOUND = """playing and recording in Tonleiter
 Plays what a far receiver hears, records voices, and measures a real computer's
 sound devices. Everything else of Tonleiter works without it."""


def _deb(tree: Path, name: str, depends: str, suggests: str, says: str) -> Path:
    doc = tree / f"usr/share/doc/{name}"
    doc.mkdir(parents=True)
    (doc / "copyright").write_text(_copyright(), "utf-8")
    log = f"{name} ({__version__}) unstable; urgency=medium\n\n  * See CHANGELOG.md.\n\n"
    log += f" -- {MAINTAINER}  Mon, 30 Nov 2026 12:00:00 +0000\n"
    (doc / "changelog.gz").write_bytes(_zipped(log))
    overrides = tree / f"usr/share/lintian/overrides/{name}"
    overrides.parent.mkdir(parents=True)
    text = (KEPT / "lintian-overrides").read_text("utf-8")
    overrides.write_text(text.replace("tonleiter:", f"{name}:"), "utf-8")
    size = sum(f.stat().st_size for f in tree.rglob("*") if f.is_file() and not f.is_symlink())
    control = tree / "DEBIAN"
    control.mkdir()
    architecture = subprocess.run(
        ["dpkg", "--print-architecture"], check=True, capture_output=True, text=True
    ).stdout.strip()
    lines = [
        f"Package: {name}", f"Version: {__version__}", f"Architecture: {architecture}",
        f"Maintainer: {MAINTAINER}", f"Installed-Size: {size // 1024}", f"Depends: {depends}",
        *([f"Suggests: {suggests}"] if suggests else []),
        "Section: hamradio", "Priority: optional", f"Description: {says}",
    ]  # fmt: skip
    (control / "control").write_text("\n".join(lines) + "\n", "utf-8")
    if not suggests:
        pass
    else:
        for script in ("postinst", "prerm"):
            to = control / script
            to.write_text((KEPT / script).read_text("utf-8"), "utf-8")
            to.chmod(0o755)
    for path in tree.rglob("*"):
        if path.is_dir():
            path.chmod(0o755)
    made = DIST / f"{name}_{__version__}_{architecture}.deb"
    _run("dpkg-deb", "--root-owner-group", "-Zxz", "-z1", "--threads-max=2", "--build", tree, made)
    return made


def _copyright() -> str:
    own = (ROOT / "LICENSE").read_text("utf-8").strip().splitlines()
    text = "\n".join(f" {line}" if line else " ." for line in own)
    return (
        "Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/\n"
        "Upstream-Name: Tonleiter\n\n"
        f"Files: *\nCopyright: 2026 The Tonleiter founders\nLicense: Expat\n{text}\n\n"
        "Files: usr/lib/tonleiter/*\nCopyright: the authors of the libraries\nLicense: various\n"
        " Licences of numpy, scipy, Qt for Python and the other libraries lie in their"
        " dist-info\n folders there; Qt for Python comes under the LGPL, version 3"
        " (/usr/share/common-licenses/LGPL-3).\n"
    )


def _check(made: list[Path]) -> None:
    _run("desktop-file-validate", KEPT / "tonleiter.desktop")
    _run("appstreamcli", "validate", "--no-net", KEPT / "tonleiter.metainfo.xml")
    for deb in made:
        _run("lintian", "--fail-on", "error", "--allow-root", deb)
    where = sysconfig.get_platform()
    print(f"built on {where}")


if __name__ == "__main__":
    main()
