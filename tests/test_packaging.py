"""What packages carry is kept in the tree, and is as it would be made now."""

import struct
import subprocess
from pathlib import Path
from shutil import which
from xml.etree import ElementTree

import pytest

from tonleiter import __version__
from tonleiter.app.filing import COPY
from tonleiter.cli.main import manual_page

KEPT = Path(__file__).resolve().parents[1] / "packaging"


def test_the_manual_page_is_that_of_the_parser():
    assert (KEPT / "tonleiter.1").read_text("utf-8") == manual_page(), "run scripts/lib/kept.py"


def test_icons_have_the_size_that_they_are_called():
    """Width and height stand at bytes 16 to 24 of a PNG."""
    icons = list((KEPT / "icons").glob("*.png"))
    assert {int(i.stem) for i in icons} >= {16, 32, 48, 64, 128, 256}
    for icon in icons:
        wide, high = struct.unpack(">II", icon.read_bytes()[16:24])
        assert wide == high == int(icon.stem)


def test_the_desktop_entry_opens_what_the_window_gives_away():
    entry = dict(
        line.split("=", 1)
        for line in (KEPT / "tonleiter.desktop").read_text("utf-8").splitlines()
        if "=" in line
    )
    mime = ElementTree.parse(KEPT / "tonleiter-mime.xml").getroot()
    kind = mime[0].attrib["type"]
    assert entry["MimeType"] == f"{kind};"
    pattern = next(e for e in mime[0] if e.tag.endswith("glob")).attrib["pattern"]
    assert pattern == f"*{COPY}"
    assert entry["Exec"] == "tonleiter %f"


def test_the_metainfo_is_of_this_version():
    info = ElementTree.parse(KEPT / "tonleiter.metainfo.xml").getroot()
    assert info.find("releases/release").attrib["version"] == __version__
    assert info.findtext("launchable") == "tonleiter.desktop"


@pytest.mark.parametrize(
    "check",
    [
        ("desktop-file-validate", "tonleiter.desktop"),
        ("appstreamcli", "validate", "--no-net", "tonleiter.metainfo.xml"),
    ],
)
def test_the_desktops_own_checkers_find_nothing(check):
    if which(check[0]) is None:
        pytest.skip(f"{check[0]} is not installed: scripts/package installs it")
    done = subprocess.run([*check[:-1], KEPT / check[-1]], capture_output=True, text=True)
    assert done.returncode == 0, done.stdout + done.stderr
