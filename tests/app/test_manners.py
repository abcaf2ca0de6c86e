"""Everyday manners: copying, what was typed last, the desktop's wishes, how a window was left."""

import pytest
from PySide6.QtCore import QPoint, QSettings, Qt
from PySide6.QtGui import QAccessible, QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu, QTreeWidget, QTreeWidgetItem, QWidget

from tests.app.hands import finish, press, retype, settled, type_over
from tests.app.lessons import few_draws
from tonleiter.app import remembered
from tonleiter.app.copying import SVG, copyable, data_of, is_picture, rows_of_grid
from tonleiter.app.spaces.registry import SPACES
from tonleiter.app.theme.desktop import step_for
from tonleiter.app.theme.palette import THEMES
from tonleiter.app.widgets import recent_values
from tonleiter.core.station.edits import open_chain
from tonleiter.core.station.files import read_station


@pytest.fixture
def clipboard(qapp):
    qapp.clipboard().clear()
    return qapp.clipboard()


# --- copying -------------------------------------------------------------------------------------


def test_a_picture_is_copied_as_png_and_svg_with_its_words(window, space, clipboard):
    space.view.setFocus()
    QTest.keyClick(
        space.view,
        Qt.Key.Key_C,
        Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
    )
    data = clipboard.mimeData()
    assert data.hasImage()
    assert clipboard.image().width() >= space.view.width()
    drawn = bytes(data.data(SVG)).decode("utf-8")
    assert drawn.startswith("<?xml")
    # words are words in it, and not painted over
    assert "20 W HF set" in drawn or "<text" in drawn or "<path" in drawn
    assert "speech" in data.text()
    assert "picture is on the clipboard" in window.notice.text


def test_a_panel_of_figures_is_copied_as_a_table(window, space, clipboard):
    settled()
    panel = space.inspector
    inside = next(w for w in panel.findChildren(QWidget) if rows_of_grid(w))
    window.copy_from(inside)
    lines = clipboard.mimeData().text().splitlines()
    row = next(line for line in lines if line.startswith("Speech"))
    assert row.split("\t")[1].endswith("dBu")
    assert "<td>Speech</td>" in clipboard.mimeData().html()


def test_a_tree_is_copied_with_its_lower_lines(qtbot):
    tree = QTreeWidget()
    qtbot.addWidget(tree)
    tree.setColumnCount(2)
    top = QTreeWidgetItem(["a <b>", "1"])
    top.addChild(QTreeWidgetItem(["below", "2"]))
    tree.addTopLevelItem(top)
    data = data_of(tree)
    assert data.text() == "a <b>\t1\nbelow\t2"
    assert "a &lt;b&gt;" in data.html()


def test_a_right_press_offers_it(window, space, clipboard, qtbot):
    at = space.view.mapTo(window, QPoint(200, 150))
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, window.mapToGlobal(at))
    QApplication.sendEvent(window, event)
    menu = next(m for m in window.findChildren(QMenu) if m.isVisible())
    assert menu.actions()[0].text() == "Copy as a picture"
    menu.actions()[0].trigger()
    menu.close()
    assert clipboard.mimeData().hasImage()


def test_where_there_is_nothing_it_says_so(window, clipboard):
    window.copy_from(window._rail)
    assert "no table and no picture" in window.notice.text
    held = clipboard.mimeData()
    assert held is None or not held.hasImage()


# --- what was typed last -------------------------------------------------------------------------


def test_what_was_typed_last_is_offered_again_by_its_unit(window, space):
    space.model.select(2)
    settled()
    gain = space.inspector.entry("gain_db")
    retype(gain, "37")
    retype(gain, "41")
    settled()
    gain = space.inspector.entry("gain_db")
    gain.setFocus()
    QTest.keyClick(gain, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    menu = next(m for m in gain.findChildren(QMenu) if m.isVisible())
    offered = [a.text() for a in menu.actions()]
    assert "37" in offered
    next(a for a in menu.actions() if a.text() == "37").trigger()
    menu.close()
    settled()
    assert space.model.assessment.rows[2].gear.gain_db.value == 37
    assert recent_values.recent("Ω") == ()


def test_what_was_refused_is_not_offered(window, space):
    space.model.select(2)
    settled()
    type_over(space.inspector.entry("gain_db"), "soup")
    QTest.keyClick(space.inspector.entry("gain_db"), Qt.Key.Key_Return)
    assert recent_values.recent("dB") == ()


@pytest.mark.parametrize("kept", ["", "x", "[]", '{"dB": 3}', '{"dB": [1, null]}', "[" * 5000])
def test_kept_values_that_make_no_sense_are_none(qapp, kept):
    QSettings().setValue(recent_values.KEY, kept)
    assert all(isinstance(t, str) for t in recent_values.recent("dB"))
    recent_values.keep("dB", "12")
    assert recent_values.recent("dB")[0] == "12"


# --- the desktop's wishes ------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("points", "dots", "step"),
    [
        (10, 96, 1.0),
        (9, 96, 1.0),
        (11, 96, 1.0),
        (10, 120, 1.3),
        (13, 96, 1.3),
        (12, 96, 1.15),
        (10, 144, 1.5),
        (20, 192, 1.5),
        (6, 96, 1.0),
    ],
)
def test_the_desktops_own_size_of_text_is_taken_at_a_first_start(points, dots, step):
    assert step_for(points, dots) == step


def relative(color):
    """Relative luminance by WCAG 2.2."""
    parts = [int(color[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def test_high_contrast_is_high():
    """Seven to one for every word, three to one for lines: WCAG 2.2, AAA."""
    p = THEMES["contrast"]
    ground = relative(p.paper)
    for name in ("ink", "soft", "signal", "stop", "mind_text", "fine", "aim_text"):
        high, low = sorted((relative(getattr(p, name)), ground), reverse=True)
        assert (high + 0.05) / (low + 0.05) >= 7, name
    high, low = sorted((relative(p.line), ground), reverse=True)
    assert (high + 0.05) / (low + 0.05) >= 3


def test_who_asks_for_contrast_has_it_by_day(window, look):
    look.contrast = True
    try:
        look.set_theme("contrast")
        window.toggle_theme()
        assert look.palette.name == "dark"
        window.toggle_theme()
        assert look.palette.name == "contrast"
    finally:
        look.contrast = False
        look.set_theme("light")


# --- how it was left -----------------------------------------------------------------------------


def test_the_chain_that_was_open_is_open_again_and_nothing_is_to_be_saved(open_window, demo_folder):
    window = open_window(demo_folder)
    window.document.edit("chain", lambda s: open_chain(s, "fm-headset"))
    remembered.keep(window)
    assert read_station(demo_folder).station.open_chain != "fm-headset", "nothing was saved"
    again = open_window(demo_folder)
    settled()
    assert again.document.station.open_chain == "fm-headset"
    assert again.document.is_saved
    assert not again.document.history.past


def test_a_place_off_every_screen_is_not_taken(open_window, demo_folder):
    window = open_window(demo_folder)
    before = window.pos()
    key = remembered._key(demo_folder)
    QSettings().setValue(key, "1280 800 window wire 99999 -4000 gone")
    remembered.restore(window)
    assert window.pos() == before
    assert window.shown == "wire"


def test_what_an_older_window_left_is_understood(open_window, demo_folder):
    window = open_window(demo_folder)
    QSettings().setValue(remembered._key(demo_folder), "1100 720 window match")
    remembered.restore(window)
    assert window.shown == "match"


# --- without eyes --------------------------------------------------------------------------------


def canvases(space):
    """Every picture of a space, seen or on a page behind."""
    return [w for w in space.findChildren(QWidget) if w.isVisible() and is_picture(w)]


@pytest.mark.parametrize("name", [entry.name for entry in SPACES])
@pytest.mark.table(keep=4)
def test_every_picture_says_what_it_shows(window, name, monkeypatch):
    """By the toolkit's own interface for screen readers: a name, and words of what is seen."""
    few_draws(monkeypatch)
    window.go_to(name)
    space = window.space(name)
    finish(space)
    settled()
    for canvas in canvases(space):
        reader = QAccessible.queryAccessibleInterface(canvas)
        said = reader.text(QAccessible.Text.Name)
        words = reader.text(QAccessible.Text.Description)
        assert said, type(canvas).__name__
        # a small plot says its points in its name
        assert len(words) >= 3 or len(said) > 20, f"{type(canvas).__name__} “{said}”: no words"


@pytest.mark.long
def test_the_ladder_is_walked_by_keys_and_each_stage_is_said(window, space):
    """Arrow by arrow; what is said is of the stage that is chosen."""
    space.view.setFocus()
    space.model.select(0)
    heard = []
    for _ in range(len(space.model.assessment.rows)):
        settled()
        reader = QAccessible.queryAccessibleInterface(space.view)
        heard.append(reader.text(QAccessible.Text.Description))
        QTest.keyClick(space.view, Qt.Key.Key_Right)
    for row, words in zip(space.model.assessment.rows, heard, strict=True):
        assert words.startswith(f"Selected: {row.name}")


def test_a_copy_key_is_in_the_list_of_keys(window):
    window.over.toggle_manual()
    window.over.manual.show_page("keys")
    assert "Ctrl+Shift+C" in window.over.manual.text.toPlainText()
    press(window.over.manual.back_button)


def test_a_button_is_no_picture(window, space):
    assert copyable(space.why_button) is None or not is_picture(space.why_button)
