"""Curves read off by arrows and pointer: the figures said are those of the curve there."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAccessible
from PySide6.QtTest import QTest

from tests.app.hands import button_of, press, settled
from tests.conftest import few_words, gear, mended_demo, station_of
from tonleiter.app.spaces.set.spectrum_view import SpectrumView
from tonleiter.app.widgets.canvas.axis import Axis
from tonleiter.app.widgets.canvas.read_off import begins, stepped
from tonleiter.core.radio.ssb import OUT_HZ
from tonleiter.core.signal.spectrum import spectrum
from tonleiter.core.sound.files import wav_bytes
from tonleiter.core.station.files import save_station


def said(view):
    """As a screen reader has it."""
    return QAccessible.queryAccessibleInterface(view).text(QAccessible.Text.Description)


def tab_to(view):
    view.setFocus(Qt.FocusReason.TabFocusReason)
    settled()


@pytest.fixture
def response(window, space):
    press(button_of(space, "Response  R"))
    settled()
    tab_to(space.response)
    return space.response


def test_the_response_is_read_at_1_khz_first_and_moved_by_arrows(response):
    assert said(response).startswith("1 kHz: 0.0 dB")
    for _ in range(6):
        QTest.keyClick(response, Qt.Key.Key_Right)
    # six sixths of an octave
    assert response.read_at == pytest.approx(2000.0)
    for _ in range(4):
        QTest.keyClick(response, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert response.read_at == pytest.approx(2000.0 / 2 ** (1 / 6))
    QTest.keyClick(response, Qt.Key.Key_Home)
    assert response.read_at == 20.0
    f_hz, db = response.curve_db()
    figure = f"{db[np.argmin(np.abs(f_hz - 20.0))]:.1f}".replace("-", "−")
    assert said(response).startswith(f"20 Hz: {figure} dB")
    QTest.keyClick(response, Qt.Key.Key_End)
    QTest.keyClick(response, Qt.Key.Key_Right)
    assert response.read_at == 20_000.0


def test_where_the_corner_is_three_decibels_are_read(response, space):
    low, _ = space.model.assessment.corners_hz
    response.read_from(low)
    assert "−3.0 dB" in said(response)
    assert "−3 dB corners" in said(response)


def test_escape_lifts_the_line(response):
    QTest.keyClick(response, Qt.Key.Key_Escape)
    assert response.read_at is None
    assert said(response).startswith("−3 dB corners")


def test_who_goes_on_takes_the_line_along(response, space):
    space.view.setFocus(Qt.FocusReason.TabFocusReason)
    settled()
    assert response.read_at is None


def test_the_pointer_reads_too_and_nothing_stands_when_it_left(response, space):
    space.view.setFocus()
    settled()
    box = response.plot().box
    middle = QPoint(round(box.center().x()), round(box.center().y()))
    QTest.mouseMove(response, middle - QPoint(5, 0))
    QTest.mouseMove(response, middle)
    # the middle of an axis in octaves is the geometric mean of its ends
    assert response.read_at == pytest.approx(np.sqrt(20.0 * 20_000.0), rel=0.03)
    QTest.mouseMove(response, QPoint(round(box.center().x()), 2))
    assert response.read_at is None


def test_the_line_is_seen(response):
    response.read_from(300.0)
    settled()
    x = round(response.plot().x(300.0))
    with_line = response.grab().toImage()
    response.read_from(None)
    without = response.grab().toImage()
    column = range(round(response.plot().box.top()) + 30, round(response.plot().box.bottom()) - 4)
    changed = [y for y in column if with_line.pixel(x, y) != without.pixel(x, y)]
    assert len(changed) > 0.8 * len(column)


def test_of_a_silent_chain_no_corners_are_said_and_nothing_is_read(open_window, tmp_path):
    dead = station_of(gear("electret-2-wire", "capsule"), gear("microphone-socket", "set"))
    save_station(dead, tmp_path / "dead.station")
    ladder = open_window(tmp_path / "dead.station").space("ladder")
    ladder.model.finish()
    press(button_of(ladder, "Response  R"))
    settled()
    tab_to(ladder.response)
    assert said(ladder.response) == "nothing comes through"
    assert not ladder.response.grab().isNull()


@pytest.mark.long
def test_a_spectrum_of_recordings_is_read_against_average_speech(window, tmp_path):
    for name, pitch in (("one.wav", "deep"), ("two.wav", "high")):
        (tmp_path / name).write_bytes(wav_bytes(few_words(pitch).times(0.1)))
    window.go_to("listen")
    listen = window.space("listen")
    for place, name in (("A", "one.wav"), ("B", "two.wav")):
        listen.model.take(place, tmp_path / name)
        listen.model.finish()
    settled()
    view = listen.spectrum
    tab_to(view)
    m = listen.model.slots.at("A").measures
    wanted = round(float(np.interp(1000.0, m.centres, m.against_speech_db)))
    figures = said(view).partition(": ")[2].partition(" dB")[0].split(", ")
    assert [f.split()[0] for f in figures] == ["A", "B"]
    assert int(figures[0].split()[1].replace("−", "-")) == wanted


def test_what_leaves_the_aerial_is_read_beside_the_carrier(look, qtbot):
    """A carrier's side tone of 1 kHz, and one 30 dB weaker 2 kHz below."""
    t = np.arange(OUT_HZ) / OUT_HZ
    sent = np.exp(2j * np.pi * 1000 * t) + 10**-1.5 * np.exp(-2j * np.pi * 2000 * t)
    view = SpectrumView(look)
    qtbot.addWidget(view)
    view.resize(600, 200)
    view.show_spectrum(spectrum(sent, OUT_HZ), "ssb")
    view.show()
    settled()
    # from the middle of −3.2 to 6.2 kHz a sixtieth of the way
    QTest.keyClick(view, Qt.Key.Key_Right)
    assert view.read_at == pytest.approx(1.5 + 9.4 / 60)
    assert said(view).startswith("1.7 kHz: ")
    assert _db(view.read(1.0)) - _db(view.read(-2.0)) == pytest.approx(30, abs=1.5)
    assert _db(view.read(4.0)) < _db(view.read(-2.0)) - 10
    QTest.keyClick(view, Qt.Key.Key_Home)
    assert said(view).startswith(view.read(-3.2))


def test_the_simulated_set_s_spectrum_takes_the_line(window):
    save_station(mended_demo(), window.document.folder)
    window.document.look_outside()
    window.go_to("set")
    panel = window.space("set")
    panel.model.finish()
    panel.model.hold_still()
    settled()
    tab_to(panel.view)
    assert " kHz: " in said(panel.view)
    QTest.keyClick(panel.view, Qt.Key.Key_Home)
    assert said(panel.view).startswith(panel.view.read(-3.2))


def _db(words):
    figure = words.partition(": ")[2].removeprefix("under ").removesuffix(" dB")
    return float(figure.replace("−", "-"))


@pytest.mark.parametrize("axis", [Axis(20, 20_000, True), Axis(-3.2, 6.2), Axis(-9.0, 9.0)])
def test_as_many_steps_back_as_forth_lead_to_where_one_was(axis):
    at = begins(axis)
    for way in (1, 1, -1, -1):
        at = stepped(axis, at, way, fine=False)
    assert at == pytest.approx(begins(axis))
    assert axis.value(axis.share(at)) == pytest.approx(at)


def test_a_picture_without_curves_says_nothing_and_paints(window):
    window.go_to("listen")
    view = window.space("listen").spectrum
    tab_to(view)
    press_all = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End)
    for key in press_all:
        QTest.keyClick(view, key)
    assert view.read(1000.0) == ""
    assert not view.grab().isNull()
