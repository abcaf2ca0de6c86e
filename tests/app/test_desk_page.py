"""The computer's page of Set in the real window: devices chosen, columns dragged, the guide."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QPushButton

from tests.app.hands import arrived, choose, press, retype, settled, type_over, words
from tests.app.hands import button_of as named
from tests.core.desks import looped
from tonleiter.app.audio import output, system
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.desk.probe import Measured
from tonleiter.core.desk.real import Named, System
from tonleiter.core.setup.loop.scene import LoopScene
from tonleiter.core.station.edits import open_chain
from tonleiter.core.station.files import read_station, save_station

AT = "set"


@pytest.fixture
def deaf(monkeypatch):
    monkeypatch.setattr(output, "FIND", [lambda: None])


def settle(space):
    space.model.finish()
    space.model.hold_still()
    settled()
    return space


def at_computer(window):
    """Go to the computer of the demo's data chain, by hand."""
    settled()
    QTest.keyClick(window, Qt.Key.Key_6)
    arrived(window)
    space = settle(window.space("set"))
    station = window.document.station
    if station.chains[-1].id == "hf-receive" and station.open_chain != "hf-weak-data":
        choose(space.chains, "hf-weak-data")
        settle(space)
    choose(space.places, "computer")
    return settle(space)


@pytest.fixture
def demo_folder(demo_folder):
    """The demo, left with its data chain open."""
    save_station(open_chain(read_station(demo_folder).station, "hf-weak-data"), demo_folder)
    return demo_folder


@pytest.fixture
def page(window, deaf):
    return at_computer(window)


def computer(window, name="laptop"):
    return window.document.station.device_by_id[name].computer


@pytest.mark.long
def test_the_page_stands_beside_the_radio_s_and_says_what_happens(page):
    assert isinstance(page.model.scene, LoopScene)
    assert page._says.text().startswith("Your system's beeps go on the air")
    assert page.desk.isVisible()
    assert not page._radio.isVisible()
    assert not page.voices.isVisible()
    assert "taken 20:14" in words(page.desk)
    choose(page.places, "radio")
    settle(page)
    assert page._radio.isVisible()
    assert not page.desk.isVisible()


@pytest.mark.long
def test_a_default_is_given_back_by_its_button_and_undone(page, window):
    radio = page.desk.radios["system", "out", "own-loudspeakers"]
    assert not radio.isChecked()
    press(radio)
    settle(page)
    assert computer(window).roles["system-out"] == "own-loudspeakers"
    assert not page._says.text().startswith("Your system's beeps")
    assert page.desk.radios["system", "out", "own-loudspeakers"].isChecked()
    window.document.undo()
    settle(page)
    assert page._says.text().startswith("Your system's beeps")


@pytest.mark.long
def test_the_guide_leads_to_a_loop_that_works_and_a_card(page, window):
    for _ in range(12):
        if page.model.scene.is_right:
            break
        press(named(page.guide, "Do it here") if page.model.scene.now.move.fix else
              named(page.guide, "Turn it there"))  # fmt: skip
        settle(page)
    assert page._says.text().startswith("The loop works both ways")
    press(named(page.guide, "Keep as a card"))
    (card,) = window.document.records.cards
    assert {"slider", "hang", "level", "receive"} <= set(card.knobs)
    assert {"spare", "strongest", "noise"} <= set(card.meters)


@pytest.mark.long
def test_a_column_is_dragged_by_its_level_and_typed_over(page, window):
    fader = page.desk.out.columns["slider"]
    middle = QPoint(fader.width() // 2, fader.height() // 2)
    QTest.mousePress(fader, Qt.MouseButton.LeftButton, pos=middle)
    QTest.mouseMove(fader, middle + QPoint(0, 10))
    QTest.mouseMove(fader, middle + QPoint(0, 40))
    QTest.mouseRelease(fader, Qt.MouseButton.LeftButton, pos=middle + QPoint(0, 40))
    knobs = window.document.station.chain().panel.knobs
    assert -40 < knobs["slider"] < -5
    settle(page)
    fader = page.desk.out.columns["slider"]
    fader.setFocus()
    QTest.keyClick(fader, Qt.Key.Key_Return)
    retype(fader.findChild(TextField), "-12,5")
    settle(page)
    assert window.document.station.chain().panel.knobs["slider"] == -12.5
    assert page.model.scene.sent.out_dbfs == pytest.approx(-24 - 12.5)


@pytest.mark.long
def test_what_is_typed_and_is_no_level_is_refused_and_stays(page, window):
    fader = page.desk.out.columns["slider"]
    fader.setFocus()
    QTest.keyClick(fader, Qt.Key.Key_Return)
    field = fader.findChild(TextField)
    retype(field, "loud")
    assert field.text() == "loud"
    assert "is no figure" in field.toolTip()
    assert "slider" not in window.document.station.chain().panel.knobs


def test_pulled_and_plugged_in_again_it_takes_the_defaults(page, window):
    press(named(page.desk, "Pull"))
    settle(page)
    assert "not plugged in" in page._says.text() or "not plugged" in page._proves.text()
    assert "usb-box" in computer(window).unplugged
    press(named(page.desk, "Plug in"))
    settle(page)
    held = computer(window).roles
    assert {held["system-out"], held["system-in"], held["calls-in"]} == {"usb-box"}
    assert page.model.scene.now.id == "defaults"


def test_a_tick_switches_what_alters_sound(page, window):
    tick = page.desk.ticks["enhancements"]
    assert not tick.isChecked()
    QTest.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(8, tick.height() // 2))
    settle(page)
    assert "enhancements" in computer(window).altering
    assert any(f.code == "desk-sound-altered" for f in page.model.scene.findings)


@pytest.mark.long
def test_a_chain_with_a_voice_has_no_computer_beside_it(page):
    choose(page.chains, "hf-chat")
    settle(page)
    assert not page.places.isVisible()
    assert page.voices.isVisible()
    assert not isinstance(page.model.scene, LoopScene)


@pytest.mark.long
def test_a_typed_in_station_from_a_lead_that_lies_there(open_window, tmp_path, deaf):
    folder = tmp_path / "typed.station"
    save_station(looped("packet", socket={"kind": "microphone-socket", "wants_dbu": -30,
                                          "clip_dbu": 0}), folder)  # fmt: skip
    page = at_computer(open_window(folder))
    assert "not plugged into the computer yet" in page._says.text()
    for _ in range(16):
        if page.model.scene.is_right:
            break
        press(named(page.guide, "Do it here") if page.model.scene.now.move.fix else
              named(page.guide, "Turn it there"))  # fmt: skip
        settle(page)
    assert page.model.scene.is_right
    assert page._says.text().startswith("The loop works both ways")


def test_where_no_computer_hangs_on_the_box_it_is_said_and_nothing_breaks(
    open_window, tmp_path, deaf
):
    station = looped()
    folder = tmp_path / "cut.station"
    save_station(station.model_copy(update={"links": ()}), folder)
    page = at_computer(open_window(folder))
    assert "No computer hangs on the audio box" in page._says.text()
    choose(page.places, "radio")
    settle(page)
    assert page._radio.isVisible()


@pytest.mark.parametrize("size, scale", [((1024, 700), 1.0), ((1024, 700), 1.5), ((1280, 800), 1)])
def test_no_column_is_cut_and_no_card_is_wider_than_the_page(page, window, look, size, scale):
    try:
        look.set_scale(scale)
        window.resize(*size)
        settled(6)
        inside = page._area.viewport().width()
        assert page.desk.width() <= inside
        for shown in (*page.desk.out.columns.values(), *page.desk.into.columns.values()):
            assert shown.geometry().right() <= shown.parentWidget().width()
            assert shown.height() >= look.px(100)
        wide = [w.text() for w in page.guide.findChildren(QLabel) if w.isVisible()
                and w.width() > page.guide.width()]  # fmt: skip
        assert not wide
    finally:
        look.set_scale(1.0)


# --- the computer that this runs on --------------------------------------------------------------


class Played:
    """A sound system that notes what is asked of it, and plugs when a test says so."""

    trouble = ""

    def __init__(self):
        desk, mic = Named("a", "Desk"), Named("c", "Microphone")
        self.now = System((desk,), (mic,), "a", "c")
        self.asked, self.stopped, self.done, self.told = [], 0, None, None
        self.seen = lambda: None

    def listed(self):
        return self.now

    def watch(self, seen):
        self.seen = seen

    def plug(self):
        outs = (*self.now.outputs, Named("b", "Codec"))
        ins = (*self.now.inputs, Named("d", "Codec in"))
        self.now = System(outs, ins, "b", "d")
        self.seen()

    def give_back(self):
        self.now = System(self.now.outputs, self.now.inputs, "a", "c")
        self.seen()

    def tone(self, device, level_dbfs, hertz):
        self.asked.append(("tone", device, level_dbfs, hertz))
        return ""

    def listen(self, device, told):
        self.asked.append(("listen", device))
        self.told = told
        return ""

    def loop(self, out, into, level_dbfs, done):
        self.asked.append(("loop", out, into, level_dbfs))
        self.done = done
        return ""

    def stop(self):
        self.stopped += 1


@pytest.fixture
def played(monkeypatch):
    made = Played()
    monkeypatch.setattr(system, "FIND", [lambda: made])
    return made


@pytest.fixture
def own(page, played):
    press(named(page.guide, "My own computer"))
    return settle(page)


@pytest.mark.long
def test_a_radio_that_is_plugged_in_is_seen_and_named_and_leads_on(own, played):
    assert own.model.scene.now.id == "names"
    played.plug()
    settle(own)
    assert any("has just become the default loudspeaker" in w for w in words(own.real))
    press(named(own.real, "It is the radio"))  # the desk's own loudspeakers come first
    settle(own)
    out = [b for b in own.real.findChildren(QPushButton) if "Codec is the radio" in
           b.accessibleName()]  # fmt: skip
    press(out[0])
    settle(own)
    into = [b for b in own.real.findChildren(QPushButton) if "Codec in is the radio" in
            b.accessibleName()]  # fmt: skip
    press(into[0])
    settle(own)
    assert own.model.scene.now.id == "defaults"
    assert "In the sound settings of your system" in " ".join(words(own.guide))
    played.give_back()
    settle(own)
    assert own.model.scene.now.id == "program"
    press(named(own.guide, "Done so"))
    settle(own)
    press(named(own.guide, "Done so"))
    settle(own)
    assert own.model.scene.now.id == "slider"


@pytest.mark.long
def test_a_tone_plays_at_what_was_typed_and_stops_with_the_page(own, played, window):
    retype(own.real.level, "-12,5")
    retype(own.real.hertz, "1k2")
    press(own.real.play)
    assert played.asked[-1] == ("tone", "a", -12.5, 1200.0)
    assert own.real.play.text() == "Stop"
    before = played.stopped
    window.go_to("gear")
    settled()
    assert played.stopped > before


@pytest.mark.table(keep=3)
@pytest.mark.parametrize("text", ["loud", "3", "-90", "nan", "1e308"])
def test_a_level_that_no_tone_has_is_refused_beside_it(own, played, text):
    retype(own.real.level, text)
    assert "−60 to −3 dBFS is wanted" in " ".join(words(own.real))
    before = len(played.asked)
    press(own.real.play)
    press(own.real.measure)
    assert played.asked[before:] == [], "what stands in the field is not what would play"
    assert "−60 to −3 dBFS is wanted" in " ".join(words(own.real))
    retype(own.real.level, "-12")
    press(own.real.play)
    assert played.asked[-1][2] == -12.0


@pytest.mark.table(keep=3)
@pytest.mark.parametrize("text", ["half", "20", "9k", "-1000", "inf"])
def test_a_tone_that_is_none_plays_nothing(own, played, text):
    type_over(own.real.hertz, text)
    before = len(played.asked)
    press(own.real.play)
    assert played.asked[before:] == []
    assert "from 50 to 8000 Hz is wanted" in " ".join(words(own.real))


@pytest.mark.long
def test_a_level_at_full_scale_is_said_and_a_loop_is_told(own, played):
    press(own.real.hear)
    played.told(-20.0, -17.0)
    assert "−20.0 dBFS" in " ".join(words(own.real))
    played.told(-1.0, 0.0)
    assert "FULL SCALE" in " ".join(words(own.real))
    press(own.real.measure)
    assert not own.real.measure.isEnabled()
    played.done(Measured(-3.2, -23.2, -71.0, 0.061, -20.0))
    assert "Gain −3.2 dB" in " ".join(words(own.real))
    press(own.real.measure)
    played.done("nothing of what was sent came back")
    assert "Nothing of what was sent came back." in words(own.real)


@pytest.mark.long
def test_without_a_sound_system_the_page_says_so_and_the_rest_works(page, monkeypatch):
    monkeypatch.setattr(system, "FIND", [lambda: system.NoSystem(system.NO_EXTRA)])
    press(named(page.guide, "My own computer"))
    settle(page)
    assert any("install tonleiter[audio]" in w for w in words(page.real))
    assert not page.real.play.isEnabled()
    press(named(page.guide, "The simulated desk"))
    settle(page)
    assert page.desk.isVisible()
