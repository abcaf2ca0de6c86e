"""Contrast, glyphs, smallest text."""

import re
from pathlib import Path

import pytest
from PySide6.QtGui import QRawFont

import tonleiter
from tests.app.hands import settled
from tonleiter.app.derived import wait_until
from tonleiter.app.theme.fonts import SMALLEST_PX, font
from tonleiter.app.theme.look import style_sheet
from tonleiter.app.theme.palette import DARK, LIGHT, Palette


def luminance(color: str) -> float:
    """Relative luminance, WCAG 2.1."""
    channels = [int(color[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a: str, b: str) -> float:
    light, dark = sorted((luminance(a), luminance(b)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=lambda p: p.name)
@pytest.mark.parametrize("ground", ["paper", "panel", "field"])
@pytest.mark.parametrize("text", ["ink", "soft", "signal", "aim_text", "stop", "mind_text", "fine"])
def test_text_meets_wcag_aa(palette: Palette, ground: str, text: str):
    assert contrast(getattr(palette, text), getattr(palette, ground)) >= 4.5


@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=lambda p: p.name)
def test_marks_meet_wcag_aa_for_graphics_and_chosen_text_is_readable(palette: Palette):
    for mark in ("aim", "stop", "signal", "fine"):
        assert contrast(getattr(palette, mark), palette.paper) >= 3.0
    assert contrast(palette.ink, palette.chosen) >= 4.5
    assert contrast(palette.rail_ink, palette.rail) >= 4.5


def printed_characters() -> set[str]:
    """Every character beyond ASCII in the package's own texts."""
    root = Path(tonleiter.__file__).parent
    text = "".join(p.read_text("utf-8") for p in root.rglob("*.py"))
    return {c for c in text if ord(c) > 126} | set("Ωµ−×≥≤°→∥½")


@pytest.mark.long
def test_every_glyph_that_is_printed_is_in_the_bundled_fonts(look):
    for mono in (False, True):
        families = [QRawFont.fromFont(f) for f in _family_chain(mono)]
        missing = {
            c
            for c in printed_characters()
            if not any(f.supportsCharacter(ord(c)) for f in families)
        }
        # μ (Greek mu) and the ohm sign are only accepted as input
        assert missing <= {"μ", "\u2126"}


def _family_chain(mono: bool):
    from PySide6.QtGui import QFont

    from tonleiter.app.theme.fonts import MONO, SANS, SYMBOLS

    chain = []
    for family in (MONO if mono else SANS, SYMBOLS):
        f = QFont(family)
        f.setStyleStrategy(QFont.StyleStrategy.NoFontMerging)
        assert QRawFont.fromFont(f).familyName() == family
        chain.append(f)
    return chain


@pytest.mark.parametrize("scale", [0.9, 1.0, 1.5])
def test_nothing_is_smaller_than_12_px(look, scale):
    assert font(8, scale=scale).pixelSize() >= SMALLEST_PX == 12
    sizes = re.findall(r"font-size: (\d+)px", style_sheet(LIGHT, scale))
    assert sizes
    assert min(int(s) for s in sizes) >= 12


def test_licences_of_the_fonts_are_shipped():
    folder = Path(tonleiter.__file__).parent / "app" / "theme" / "fonts"
    licences = "".join(p.read_text("utf-8") for p in folder.glob("LICENSE*"))
    assert "Hyperlegible Next" in licences
    assert "Hyperlegible Mono" in licences
    assert "Bitstream Vera" in licences


def test_eight_spaces_fit_a_low_window_at_the_largest_text(qtbot, look):
    """Names go beside their digits where there is no room below; nothing is cut."""
    from tonleiter.app.rail import Rail, SpaceButton

    before = look.scale
    rail = Rail(look)
    qtbot.addWidget(rail)
    for k in range(8):
        rail.add_space(f"s{k}", str(k + 1), "Ladder", lambda: None)
    rail.add_stretch()
    for k in range(7):
        rail.add_action(f"a{k}", "Undo", lambda: None)
    try:
        look.set_scale(1.5)
        rail.resize(rail.width(), 690)
        rail.show()
        qtbot.waitExposed(rail)
        assert rail.minimumSizeHint().height() <= 690
        spaces = [b for b in rail.buttons.values() if isinstance(b, SpaceButton)]
        assert {b.text() for b in spaces} == {f"{k + 1} Ladder" for k in range(8)}
        assert all(b.height() >= b.fontMetrics().height() for b in rail.buttons.values())
        assert max(b.geometry().bottom() for b in rail.buttons.values()) < 690
        rail.resize(rail.width(), 1200)
        assert "\n" in spaces[0].text()
    finally:
        look.set_scale(before)


@pytest.mark.long
def test_what_is_seen_follows_and_the_rest_when_it_is_seen_or_nothing_else_is_done(window, look):
    """A thousand widgets of spaces out of sight are not dressed while somebody waits."""
    window.go_to("gear")
    window.go_to("ladder")
    settled()
    gear, ladder = window.space("gear"), window.space("ladder")
    day = gear.styleSheet()
    assert ladder.styleSheet() == day
    try:
        window.toggle_theme()
        wait_until(lambda: ladder.styleSheet() != day and ladder.updatesEnabled())
        night = ladder.styleSheet()
        window.go_to("gear")
        assert gear.styleSheet() == night
        # out of sight it follows when the window rests
        window.toggle_theme()
        window.go_to("match")
        wait_until(lambda: ladder.styleSheet() == gear.styleSheet() == day)
        # seen again before the turn that it waited for
        window.toggle_theme()
        window.go_to("ladder")
        assert ladder.styleSheet() == night
        wait_until(ladder.updatesEnabled)
    finally:
        look.set_theme("light")
