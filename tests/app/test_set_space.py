"""The Set space in the real window: knobs turned, the guide followed, own radio, cards, sound."""

import json
import threading

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox, QFileDialog

from tests.app.hands import arrived, choose, press, words
from tests.app.hands import button_of as named
from tests.app.stand_ins import NotingOutput
from tests.conftest import gear, mended_demo, station_of
from tonleiter.app.audio import output
from tonleiter.app.jobs import Wait
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.refused import RefusedError
from tonleiter.core.sound.level import active_level
from tonleiter.core.sound.opened import Opened
from tonleiter.core.station import edits
from tonleiter.core.station.begin import begun
from tonleiter.core.station.files import read_station, save_station

AT = "set"


@pytest.fixture
def ear(monkeypatch):
    made = NotingOutput()
    monkeypatch.setattr(output, "FIND", [lambda: made])
    return made


@pytest.fixture
def deaf(monkeypatch):
    monkeypatch.setattr(output, "FIND", [lambda: None])


@pytest.fixture
def window(open_window, demo_folder, deaf):
    """The demo once its winding is blocked from the set's volts: until then nothing is set."""
    save_station(mended_demo(), demo_folder)
    return open_window(demo_folder)


def settle(space):
    space.model.finish()
    space.model.hold_still()
    for _ in range(3):
        QApplication.processEvents()
    return space


@pytest.fixture
def panel(window, qtbot):
    QApplication.processEvents()
    qtbot.keyClick(window, Qt.Key.Key_6)
    arrived(window)
    space = window.space("set")
    assert window._stack.currentWidget() is space
    return settle(space)


def kept(window):
    return window.document.station.chain().panel


# --- knobs ---------------------------------------------------------------------------------------


def test_six_shows_the_set_with_every_knob_and_its_aim(panel):
    assert set(panel.dials) == {"gain", "compression", "bass", "treble", "low", "high", "power"}
    assert "quiet signal" in panel._says.text()
    gain = panel.dials["gain"]
    assert gain.accessibleName() == "microphone gain"
    assert "should be" in gain.accessibleDescription()
    assert {"alc", "compression", "power"} == set(panel.bars)
    for widget in (*panel.dials.values(), *panel.bars.values(), panel.view):
        widget.repaint()


def test_a_knob_is_dragged_and_that_is_one_step_back(panel, window):
    dial = panel.dials["gain"]
    QTest.mousePress(dial, Qt.MouseButton.LeftButton, pos=QPoint(40, 40))
    for y in (36, 28, 20, 10):
        QTest.mouseMove(dial, QPoint(40, y))
    QTest.mouseRelease(dial, Qt.MouseButton.LeftButton, pos=QPoint(40, 10))
    # thirty pixels of a hundred and eighty
    assert kept(window).knobs["gain"] == pytest.approx(50 + 30 / 180 * 100, abs=1)
    window.document.undo()
    assert "gain" not in kept(window).knobs
    settle(panel)
    assert panel.dials["gain"].control.value == 50


def test_arrows_pages_and_the_wheel_turn_the_knob_that_has_the_keyboard(panel, window):
    dial = panel.dials["compression"]
    dial.setFocus()
    QTest.keyClick(dial, Qt.Key.Key_Up)
    assert kept(window).knobs["compression"] == 0.5
    QTest.keyClick(dial, Qt.Key.Key_PageUp)
    assert kept(window).knobs["compression"] == 5.5
    QTest.keyClick(dial, Qt.Key.Key_End)
    assert kept(window).knobs["compression"] == 12.0
    QTest.keyClick(dial, Qt.Key.Key_Up)
    assert kept(window).knobs["compression"] == 12.0
    at = QPointF(40, 40)
    turn = QWheelEvent(
        at,
        dial.mapToGlobal(at),
        QPoint(),
        QPoint(0, -240),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(dial, turn)
    assert kept(window).knobs["compression"] == 11.0


def typed(dial, text):
    dial.setFocus()
    QTest.keyClick(dial, Qt.Key.Key_Return)
    field = dial.findChild(TextField)
    field.selectAll()
    if text.isascii():
        QTest.keyClick(field, Qt.Key.Key_Delete)
        QTest.keyClicks(field, text)
    else:  # no key has it: it comes from somewhere else
        QApplication.clipboard().setText(text)
        QTest.keyClick(field, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(field, Qt.Key.Key_Return)
    return field


def test_a_figure_is_typed_with_a_comma_a_unit_and_a_real_minus(panel, window):
    typed(panel.dials["bass"], "−3,5")
    assert kept(window).knobs["bass"] == -3.5
    typed(panel.dials["low"], "200 Hz")
    assert kept(window).knobs["low"] == 200


def test_a_figure_that_is_not_on_the_scale_stays_typed_and_turns_nothing(panel, window):
    for text in ("loud", "900", "nan", ""):
        field = typed(panel.dials["gain"], text)
        assert field.isVisible()
        assert field.text() == text
        assert "0 to 100" in field.toolTip()
        assert "gain" not in kept(window).knobs
    field.selectAll()
    QTest.keyClicks(field, "61")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert kept(window).knobs["gain"] == 61


# --- the guide -----------------------------------------------------------------------------------


def test_the_guide_is_followed_by_its_button_to_the_end(panel, window):
    seen = []
    for _ in range(10):
        if panel.model.scene.now is None:
            break
        seen.append(panel.model.scene.now.id)
        press(named(panel.guide, "Turn it there"))
        panel.model.finish()
    assert panel.model.scene.now is None
    assert seen[0] == "gain"
    assert {"gain", "compression", "tone"} <= set(seen)
    assert any("keep it as a card" in w for w in words(panel.guide))
    assert "every knob is where it should be" in panel._proves.text().lower()
    assert kept(window).knobs["gain"] == pytest.approx(64, abs=4)


def test_g_makes_the_next_move_and_the_card_of_a_finding_too(panel, window, qtbot):
    qtbot.keyClick(window, Qt.Key.Key_G)
    panel.model.finish()
    assert kept(window).knobs["gain"] > 55
    card = next(c for c in panel.tray.cards if c.buttons)
    press(card.buttons[0])
    assert kept(window).knobs["compression"] > 0


@pytest.mark.long
def test_another_school_moves_the_aims(panel, window):
    before = panel.dials["gain"].control.aim
    choice = next(
        c
        for c in panel.findChildren(type(panel.chains))
        if c.accessibleName() == "ALC aim" and c.isVisible()
    )
    choose(choice, "barely")
    panel.model.finish()
    assert kept(window).alc == "barely"
    assert panel.dials["gain"].control.aim[1] < before[1]
    panel.model.finish(Wait.LATER)
    assert any("This ALC aim, against the other aim" in w for w in words(panel))


@pytest.mark.long
def test_an_own_radio_s_meter_is_typed_and_the_move_follows(panel, window):
    press(named(panel.guide, "My own radio"))
    panel.model.finish()
    assert any("Type what your ALC meter shows" in w for w in words(panel.guide))

    def reading():
        for _ in range(3):
            QApplication.processEvents()
        return next(f for f in panel.guide.findChildren(TextField) if f.isVisible())

    field = reading()
    QTest.keyClicks(field, "140 %")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert field.text() == "140 %"
    assert kept(window).readings == {}
    field.selectAll()
    QTest.keyClicks(field, "20 %")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert kept(window).readings == {"alc": "20 %"}
    panel.model.finish()
    assert panel.model.scene.now.move.says.startswith("Up 6 dB")
    press(named(panel.guide, "Turned: read again"))
    assert kept(window).readings == {}
    assert kept(window).knobs["gain"] > 60
    press(named(panel.guide, "The simulated set"))
    assert not panel.model.own


DEVIATIONS = {
    "3.2": 3.2,
    "3,2 kHz": 3.2,
    "50 %": 3.25,
    "null 1247": 2.4048 * 1.247,
    "null 2 543.5": 5.5201 * 0.5435,
}
NO_DEVIATIONS = [
    "null",
    "null loud",
    "null 9 500",
    "null nan",
    "40",
    "-1",
    "wide",
    "1e308",
    "inf",
    "nan",
]


@pytest.mark.long
def test_a_deviation_is_typed_by_meter_or_by_the_null(panel, window):
    choose(panel.chains, "fm-headset")
    settle(panel)
    for text in NO_DEVIATIONS:
        with pytest.raises(RefusedError) as caught:
            panel.model.take_reading("deviation", text)
        assert "\n" not in str(caught.value)
        assert kept(window).readings == {}, text
    panel.model.use_own(True)
    for text, khz in DEVIATIONS.items():
        panel.model.take_reading("deviation", text)
        assert panel.model.readings()["deviation"] == pytest.approx(khz, rel=1e-3), text


# --- live ----------------------------------------------------------------------------------------


def test_needles_and_spectrum_move_while_it_is_looked_at_and_rest_when_not(panel, window, qtbot):
    for _ in range(50):
        panel.model.tick()
    moved = panel.bars["power"].live
    assert moved > 0
    assert panel.model.frame.spectrum.power.sum() > 0
    panel.view.repaint()
    panel.model.hold_still(False)
    qtbot.keyClick(window, Qt.Key.Key_3)
    arrived(window)
    assert not panel.model.runs
    qtbot.keyClick(window, Qt.Key.Key_6)
    arrived(window)
    assert panel.model.runs
    panel.model.hold_still()


@pytest.mark.parametrize(
    ("chain", "meters"),
    [
        ("fm-headset", {"deviation", "limiter"}),
        ("am-museum-day", {"down", "up", "sidebands"}),
        ("hf-weak-data", {"alc", "power"}),
    ],
)
@pytest.mark.table(keep=3)
def test_every_mode_has_its_own_panel(panel, chain, meters):
    choose(panel.chains, chain)
    settle(panel)
    assert set(panel.bars) == meters
    for _ in range(20):
        panel.model.tick()
    assert panel.model.scene.case.mode in ("fm", "am", "data")
    for widget in (*panel.dials.values(), *panel.bars.values(), panel.view, panel.guide):
        widget.repaint()


def test_the_header_changes_purpose_and_voice(panel, window):
    choose(panel.purposes, "ssb-weak")
    choose(panel.voices, "high-voice")
    settle(panel)
    chain = window.document.station.chain()
    assert (chain.purpose, chain.operator) == ("ssb-weak", "high-voice")
    assert panel.dials["bass"].control.aim[1] > 0


# --- sound ---------------------------------------------------------------------------------------


def test_without_an_output_what_is_heard_can_be_saved(panel, tmp_path, monkeypatch):
    file = tmp_path / "heard.wav"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(file), ""))
    press(named(panel.guide, "Save what they hear"))
    samples, rate = soundfile.read(file)
    assert rate == 12_000
    assert 0.3 < np.abs(samples).max() <= 1.0


@pytest.fixture
def heard(open_window, demo_folder, ear):
    save_station(mended_demo(), demo_folder)
    window = open_window(demo_folder)
    window.go_to("set")
    return settle(window.space("set")), window, ear


def level(sound):
    return active_level(sound).level_db


@pytest.mark.long
def test_before_and_now_are_heard_in_turn_at_the_same_place(heard, qtbot):
    space, window, ear = heard
    press(named(space.guide, "Hear it"))
    assert len(ear.played) == 1
    assert any("Headphones down" in w for w in words(space.guide))
    press(named(space.guide, "Turn it there"))
    space.model.finish()
    assert any("differ in" in w for w in words(space.guide))
    press(named(space.guide, "Hear it"))
    ear.at = 2.5  # it has come so far
    qtbot.keyClick(window, Qt.Key.Key_B)
    ear.at = 3.5
    qtbot.keyClick(window, Qt.Key.Key_B)
    assert ear.began[-2:] == [2.5, 3.5]
    before, now = ear.played[-2:]
    assert not np.array_equal(before.samples, now.samples)
    assert level(before) == pytest.approx(level(now), abs=0.05)
    # unaligned they keep what lies between them, and the guide says it
    (box,) = [b for b in space.guide.findChildren(QCheckBox) if b.isVisible()]
    qtbot.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
    ear.at = None
    qtbot.keyClick(window, Qt.Key.Key_B)
    qtbot.keyClick(window, Qt.Key.Key_B)
    before, now = ear.played[-2:]
    away = level(before) - level(now)
    said = " ".join(words(space.guide))
    assert f"{abs(away):.1f} dB" in said or ("as loud as" in said and abs(away) < 0.6)
    window.go_to("ladder")
    assert ear.stopped


@pytest.mark.long
def test_what_was_heard_is_kept_across_a_change_of_the_chain(heard, qtbot):
    space, window, ear = heard
    was = space.model.scene
    qtbot.keyClick(window, Qt.Key.Key_J)
    assert named(space.guide, "Let it go")
    space.model.change_chain(distance_mm=60.0)
    settle(space)
    press(named(space.guide, "Turn it there"))
    space.model.finish()
    assert space.model.heard.before is was  # held: a turned knob does not move it
    said = " ".join(words(space.guide))
    assert "Held and now differ in" in said
    assert "to 60 mm" in said
    qtbot.keyClick(window, Qt.Key.Key_B)
    assert len(ear.played) == 1
    press(named(space.guide, "Let it go"))
    space.model.change_chain(distance_mm=45.0)
    settle(space)
    assert space.model.heard.before.case.basis.distance_mm == 60.0


def test_another_variant_is_compared_with_the_one_before(heard):
    space, window, _ = heard
    was = space.model.station.chain().variant()
    window.document.edit("variant", lambda s: edits.add_variant(s, s.chain().id, "with the pad"))
    settle(space)
    said = " ".join(words(space.guide))
    assert f"the variant ({was.name}, then with the pad)" in said


def test_before_and_now_go_into_one_file(panel, tmp_path, monkeypatch):
    file = tmp_path / "both.wav"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(file), ""))
    one = panel.model.scene.received().seconds
    press(named(panel.guide, "Turn it there"))
    panel.model.finish()
    press(named(panel.guide, "Save before and now"))
    samples, rate = soundfile.read(file)
    assert samples.size / rate == pytest.approx(2 * one + 0.5, abs=0.1)


def test_a_page_shown_anew_in_between_does_not_take_a_choice_back(panel):
    """A job comes home between Enter in a list and the turn of the loop that tells of it."""
    box = panel.efforts
    box.showPopup()
    box.view().setCurrentIndex(box.view().model().index(box.findData("whistle"), 0))
    QTest.keyClick(box.view(), Qt.Key.Key_Return)
    panel.refresh()
    settle(panel)
    assert panel.model.speaking == "whistle"
    assert box.currentData() == "whistle"


@pytest.mark.long
def test_a_recording_of_one_s_own_is_sent_and_a_bad_one_is_refused(panel, window, tmp_path):
    good, bad = tmp_path / "me.wav", tmp_path / "silent.wav"
    rng = np.random.default_rng(1)
    soundfile.write(good, np.stack([0.1 * rng.standard_normal(60_000)] * 2, axis=1), 22_050)
    soundfile.write(bad, np.zeros(40_000), 16_000)
    said = []
    panel.refused.connect(said.append)
    panel.take_recording(bad)
    panel.model.finish()
    assert "silence" in said[-1]
    assert panel.model.recording is None
    panel.take_recording(good)
    panel.model.finish()
    assert "channels" in said[-1]
    settle(panel)
    assert panel.model.case.spoken.rate_hz == 16_000
    choose(panel.efforts, "soft")
    assert panel.model.recording is None
    choose(panel.efforts, "whistle")
    settle(panel)
    assert panel.model.case.spoken.seconds == pytest.approx(3.0)


@pytest.mark.long
def test_reading_a_long_recording_can_be_left(panel, window, tmp_path, monkeypatch):
    """Read behind the window, block by block: a gate holds it after the first one."""
    path = tmp_path / "long.wav"
    soundfile.write(path, 0.1 * np.random.default_rng(1).standard_normal(400_000), 16_000)
    gate, blocks = threading.Event(), Opened.blocks

    def slowly(self, *a):
        for block in blocks(self, *a):
            yield block
            gate.wait(20)

    monkeypatch.setattr(Opened, "blocks", slowly)
    panel.take_recording(path)
    QApplication.processEvents()
    assert any("Reading" in w for w in words(panel))
    press(named(panel, "Leave it"))
    gate.set()
    settle(panel)
    assert panel.model.recording is None
    assert not any("Reading" in w for w in words(panel))
    panel.take_recording(path)
    settle(panel)
    assert panel.model.recording is not None


# --- cards ---------------------------------------------------------------------------------------


@pytest.mark.long
def test_a_card_is_kept_looked_at_put_back_and_exported(panel, window, tmp_path, monkeypatch):
    press(named(panel.guide, "Keep as a card"))
    (card,) = window.document.records.cards
    typed(panel.dials["gain"], "80")
    press(named(panel.guide, "Keep as a card"))
    assert len(window.document.records.cards) == 2
    press(named(panel.guide, "2 cards are kept"))
    shown = panel._cards
    choose(shown.cards, card.id)
    choose(shown.others, window.document.records.cards[1].id)
    assert "microphone gain" in words(shown)
    press(shown.back)
    assert kept(window).knobs["gain"] == card.knobs["gain"]
    for suffix, ask in (("pdf", shown.ask_pdf), ("json", shown.ask_json), ("csv", shown.ask_csv)):
        file = tmp_path / f"cards.{suffix}"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, f=file, **k: (str(f), ""))
        ask()
        assert file.stat().st_size > 100
    assert (tmp_path / "cards.pdf").read_bytes().startswith(b"%PDF")
    assert len(json.loads((tmp_path / "cards.json").read_text("utf-8"))) == 2
    press(named(shown, "Throw it away"))
    assert len(window.document.records.cards) == 1
    shown.close()


def test_a_card_as_printed_is_of_its_size_and_nothing_is_cut(panel, tmp_path):
    import pypdfium2

    from tonleiter.app.widgets.settings_card import card_pdf

    card = panel.model.keep_card()
    path = tmp_path / "card.pdf"
    path.write_bytes(card_pdf(card, panel._look))
    document = pypdfium2.PdfDocument(path)
    assert len(document) == 1
    page = document[0]
    assert page.get_width() == pytest.approx(105 / 25.4 * 72, abs=1)
    assert page.get_height() == pytest.approx(74 / 25.4 * 72, abs=1)
    text = page.get_textpage().get_text_range()
    for word in (card.name, "microphone gain", "power, %", "Say who you are"):
        assert word in text
    pixels = page.render(scale=2).to_numpy()
    ink = np.argwhere(pixels[..., :3].min(axis=2) < 140)
    margin = 2 * 4.5 / 25.4 * 72
    assert ink.min(axis=0).min() > margin - 2
    assert ink[:, 0].max() < pixels.shape[0] - margin + 2


# --- stations typed in ---------------------------------------------------------------------------


def test_a_station_that_was_typed_in_is_set_and_kept(open_window, tmp_path, deaf):
    folder = tmp_path / "mine.station"
    save_station(
        station_of(
            gear("dynamic-microphone", "mic"),
            gear("cable", "lead"),
            gear("microphone-socket", "radio"),
        ),
        folder,
    )
    window = open_window(folder)
    window.go_to("set")
    space = settle(window.space("set"))
    assert "its power, 100 W" in space._proves.text()
    assert "what its socket wants" in space._proves.text()
    typed(space.dials["power"], "25")
    save_station(window.document.station, folder)
    assert read_station(folder).station.chain().panel.knobs == {"power": 25}


def test_an_empty_station_says_where_to_begin(open_window, tmp_path, deaf):
    folder = tmp_path / "bare.station"
    save_station(begun(), folder)
    window = open_window(folder)
    window.go_to("set")
    assert "There is no chain to set yet" in window.space("set")._says.text()


@pytest.mark.long
def test_a_microphone_without_its_bias_is_mended_from_here_and_then_set(
    open_window, tmp_path, deaf
):
    folder = tmp_path / "dead.station"
    save_station(
        station_of(gear("electret-2-wire", "mic"), gear("microphone-socket", "radio")), folder
    )
    window = open_window(folder)
    window.go_to("set")
    space = settle(window.space("set"))
    assert "Mend first" in words(space.guide)
    card = next(c for c in space.tray.cards if c.finding.code == "electret-no-bias")
    press(card.buttons[0])
    settle(space)
    assert space.model.scene.stops == ()
    assert space.model.scene.now is not None


def test_a_chain_that_sends_nothing_says_so(open_window, tmp_path, deaf):
    folder = tmp_path / "listens.station"
    save_station(station_of(gear("dynamic-microphone", "mic"), gear("line-input", "box")), folder)
    window = open_window(folder)
    window.go_to("set")
    space = settle(window.space("set"))
    assert "sends nothing on the air" in space._says.text()
    assert not space.guide.findChildren(TextField)


def test_a_caution_stands_at_its_step_though_there_is_nothing_to_turn(panel, window):
    """The museum's valve set: distance is right, and its first line warns all the same."""
    panel.model.open_chain("am-museum-day")
    settle(panel)
    first = panel.model.scene.steps[0]
    assert first.state == "done"
    assert any("ualified" in w for w in words(panel.guide))
