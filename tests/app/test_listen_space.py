"""The Listen space in the real window: files put there, compared, played, tried blind."""

import csv
import json
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QFile, QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog

from tests.app.hands import arrived, buttons, choose, press, rest, settled, type_over, words
from tests.app.hands import button_of as named
from tests.app.stand_ins import NotingOutput
from tests.conftest import mended_demo
from tests.core.listen.signals import RATE, lines, noise, spoken
from tonleiter.app.audio import output, system
from tonleiter.app.audio.system import NoSystem
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.desk.real import Named, System
from tonleiter.core.setup import advice
from tonleiter.core.station import edits
from tonleiter.core.station.files import save_station
from tonleiter.core.station.kept_sound import fingerprint_of, orphans
from tonleiter.core.station.spool import Spool

AT = "listen"


@pytest.fixture
def ear(monkeypatch):
    made = NotingOutput()
    monkeypatch.setattr(output, "FIND", [lambda: made])
    return made


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    """A voice with hum, and the same later in its file, muffled and softer."""
    folder = tmp_path_factory.mktemp("recordings")
    x = spoken()[: 8 * RATE] + noise(8 * RATE, 50)
    f = np.fft.rfftfreq(x.size, 1 / RATE)
    dull = np.fft.irfft(np.fft.rfft(x) / (1 + (f / 900) ** 3), x.size)
    hum = x + lines(x.size, 50, ((1, 1.0), (2, 1.0)), 32)
    late = np.concatenate([noise(RATE // 2, 50, 9), 0.4 * dull])
    made = (folder / "before.wav", folder / "after.flac", folder / "none.wav")
    soundfile.write(made[0], hum, RATE)
    soundfile.write(made[1], late, RATE)
    made[2].write_text("this is no sound")
    return made


def settle(space):
    space.model.finish()
    settled()
    space.model.finish()
    settled()
    return space


@pytest.fixture
def space(window, ear):
    settled()
    QTest.keyClick(window, Qt.Key.Key_7)
    arrived(window)
    made = window.space("listen")
    assert window._stack.currentWidget() is made
    return settle(made)


class Inputs(NoSystem):
    """A computer with two inputs, that gives what a test says."""

    def __init__(self):
        super().__init__("")
        self.now = System((), (Named("m", "Desk microphone"), Named("r", "Receiver")), None, "r")
        self.heard, self.told, self.done, self.finished = [], None, None, 0
        self.stopped = 0

    def listed(self):
        return self.now

    def listen(self, device, told):
        self.heard.append(device)
        self.told = told
        return ""

    def record(self, device, told, done, spool=None):
        self.heard.append(f"record {device}")
        self.told, self.done = told, done
        Spool(spool, RATE).close()
        return ""

    def stop(self):
        self.stopped += 1

    def finish(self):
        self.finished += 1
        self.done(spoken()[: 6 * RATE], RATE, "")


@pytest.fixture
def inputs(monkeypatch):
    made = Inputs()
    monkeypatch.setattr(system, "FIND", [lambda: made])
    return made


def test_recorded_from_this_computer_with_its_level_and_full_scale_said(space, inputs, window):
    choose(space.choices["A"], "record")
    assert inputs.heard == ["r"], "the usual input"
    inputs.told(-31.0, -18.0)
    assert any("peaks −18.0" in w for w in words(space.panel))
    (which,) = (c for c in space.panel.findChildren(Choice) if c.toolTip() == "Record from")
    choose(which, "m")
    assert inputs.heard[-1] == "m"
    press(named(space.panel, "Record"))
    assert inputs.heard[-1] == "record m"
    settled()
    inputs.told(-3.0, 0.0)
    assert any("FULL SCALE" in w for w in words(space.panel))
    # somebody looks something up meanwhile: it goes on
    QTest.keyClick(window, Qt.Key.Key_1)
    arrived(window)
    QTest.keyClick(window, Qt.Key.Key_7)
    arrived(window)
    settled()
    assert space.model.recorder.does == "records"
    press(named(space.panel, "Stop, put it into A"))
    settle(space)
    taken = space.model.slots.at("A")
    assert taken.name.endswith("from Desk microphone")
    assert taken.sound.seconds == pytest.approx(6.0)
    # nobody said of which chain: nothing is promised of it
    assert space.model.promised("A") == ()
    assert space.model.recorder.does == "nothing"


def test_what_breaks_off_is_kept_as_far_as_it_went_and_what_is_left_is_gone(space, inputs, window):
    choose(space.choices["B"], "record")
    press(named(space.panel, "Record"))
    settled()
    inputs.done(spoken()[: 4 * RATE], RATE, "the device is gone")
    settle(space)
    assert "the device is gone" in " ".join(words(window))
    assert space.model.slots.at("B").sound.seconds == pytest.approx(4.0)
    choose(space.choices["B"], "record")
    press(named(space.panel, "Record"))
    settled()
    late = inputs.done
    press(named(space.panel, "Leave it"))
    late(spoken()[: 5 * RATE], RATE, "")
    settle(space)
    assert space.model.slots.at("B").sound.seconds == pytest.approx(4.0)


def test_a_computer_without_an_input_says_so(space, monkeypatch, window):
    monkeypatch.setattr(system, "FIND", [lambda: system.NoSystem(system.NO_EXTRA)])
    choose(space.choices["A"], "record")
    settled()
    assert "install tonleiter[audio]" in " ".join(words(window))
    assert space.model.recorder.does == "nothing"


def drop(space, *paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
    event = QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, data,
                       Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)  # fmt: skip
    # the toolkit hands a drop on only within a drag of its own
    space.window().dropEvent(event)
    settled()
    return settle(space)


@pytest.fixture
def both(space, files):
    return drop(space, files[0], files[1])


def test_two_files_dropped_are_compared_in_decibels_and_words(both):
    said = both._says.text()
    assert "quieter" in said
    assert "no longer hum" in said
    assert "now muffled" in said
    assert both._alike.text() == "same words"
    places = [f.place for f in both.model.found()]
    assert any(p.startswith("B") for p in places)
    for shown in (*both.waves.values(), both.spectrum):
        shown.repaint()
        assert shown.accessibleDescription()


def test_one_alone_is_measured_by_the_list(space, files, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(files[0]), ""))
    choose(space.choices["A"], "file")
    settle(space)
    assert space._says.text() == "It sounds hum."
    assert "What it measures" in words(space.panel)


@pytest.mark.long
def test_a_long_one_says_how_far_it_is_and_is_left(space, tmp_path):
    long = tmp_path / "long.wav"
    with soundfile.SoundFile(long, "w", RATE, 1, "PCM_16") as out:
        for _ in range(60):
            out.write(spoken()[: 10 * RATE])
    choose(space.pictured, "level")
    space.model.take("A", long)
    space.refresh()
    rest(400)
    assert "it is being read" in space._names["A"].text()
    press(named(space.panel, "Stop reading A"))
    settled()
    assert not space.model.slots.busy("A")
    assert space.model.slots.at("A") is None
    assert "nothing yet" in space._names["A"].text()


def test_what_is_no_sound_is_refused_in_one_line_and_the_other_stays(both, files, window):
    before = both.model.slots.at("A")
    both.model.take("B", files[2])
    settle(both)
    assert both.model.slots.at("A") is before
    assert both.model.slots.at("B") is None
    assert "WAV, FLAC or OGG is wanted" in " ".join(words(window))


def test_they_are_played_levels_aligned_at_the_same_word(both, ear):
    press(named(both.panel, "▶ A"))
    ear.at = 3.0
    press(named(both.panel, "The other one, here"))
    # B's words come half a second later in its file
    assert ear.began[-1] == pytest.approx(3.5, abs=0.03)
    loud = [float(np.sqrt(np.mean(s.samples**2))) for s in ear.played[-2:]]
    assert 20 * np.log10(loud[1] / loud[0]) == pytest.approx(0, abs=3)
    assert all(np.abs(s.samples).max() <= 1 for s in ear.played)
    # the first moments fade in
    assert abs(ear.played[-1].samples[0]) < 1e-6
    press(named(both.panel, "Stop"))
    assert ear.stopped


def test_a_press_on_the_wave_plays_from_there(both, ear):
    wave = both.waves["B"]
    at = QPoint(wave.width() // 2, wave.height() // 2)
    QTest.mouseClick(wave, Qt.MouseButton.LeftButton, pos=at)
    assert ear.began[-1] == pytest.approx(4.25, abs=0.05)
    assert both.model.player.plays == "B"


def wheel(widget, notches, at=None, keys=Qt.KeyboardModifier.NoModifier):
    at = QPointF(at or widget.rect().center())
    none = Qt.MouseButton.NoButton
    event = QWheelEvent(
        at,
        widget.mapToGlobal(at),
        QPoint(),
        QPoint(0, 120 * notches),
        none,
        keys,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(widget, event)


def test_a_picture_is_zoomed_at_the_hand_moved_and_played_from(both, ear):
    wave = both.waves["A"]
    whole = both.model.slots.at("A").sound.seconds
    quarter = QPoint(wave.width() // 4, wave.height() // 2)
    wheel(wave, 6, quarter)
    low, high = wave.seen
    assert high - low == pytest.approx(whole / 1.25**6, rel=1e-3)
    # what lies under the hand stays there
    assert low + (high - low) / 4 == pytest.approx(whole / 4, abs=0.02)
    wheel(wave, -1, keys=Qt.KeyboardModifier.ShiftModifier)
    assert wave.seen[0] > low
    QTest.mouseClick(wave, Qt.MouseButton.LeftButton, pos=quarter)
    low, high = wave.seen
    assert ear.began[-1] == pytest.approx(low + (high - low) / 4, abs=0.02)
    wheel(wave, 60)
    assert wave.seen[1] - wave.seen[0] == pytest.approx(0.5)
    wheel(wave, -90)
    assert wave.seen == pytest.approx((0.0, whole))


@pytest.mark.parametrize("pictured", ["wave", "level", "spectrum"])
def test_each_picture_differs_where_the_recording_does(both, pictured):
    choose(both.pictured, pictured)
    seen = [both.waves[side].grab().toImage() for side in "AB"]
    assert seen[0] != seen[1]
    assert len({seen[0].pixel(x, seen[0].height() // 2) for x in range(0, 300, 3)}) > 1


@pytest.mark.long
def test_where_it_plays_is_shown_and_of_a_blind_trial_is_not(both, ear):
    press(named(both.panel, "▶ A"))
    ear.at = 2.0
    before = both.waves["A"].grab().toImage()
    rest(250)
    assert both.waves["A"].grab().toImage() != before
    press(named(both.panel, "Begin a trial"))
    press(named(both.panel, "▶ X"))
    rest(250)
    shown = [both.waves[s].grab().toImage() for s in "AB"]
    ear.at = 3.0
    rest(250)
    assert [both.waves[s].grab().toImage() for s in "AB"] == shown


@pytest.mark.long
def test_a_blind_trial_tells_nothing_until_it_is_told(both, ear):
    press(named(both.panel, "Begin a trial"))
    for _ in range(5):
        press(named(both.panel, "▶ X"))
        assert both.model.player.plays == "X"
        roles = [named(both.panel, f"▶ {s}").property("role") for s in "AB"]
        assert roles == ["plain", "plain"], "which one plays is not shown"
        press(named(both.panel, f"X is {both.model.blind.trials.x}"))
    assert any("a difference is heard" in w for w in words(both.panel))
    press(named(both.panel, "Begin anew"))
    assert both.model.blind.trials.given == ()


@pytest.mark.long
def test_several_listeners_like_one_better_and_the_votes_are_kept(both, ear, window):
    press(named(both.panel, "Ask which is liked"))
    for who in ("Ada", "Bert", "Cleo", "Ada", "Bert", "Cleo"):
        press(named(both.panel, "▶ 1st"))
        assert both.model.player.plays == "first"
        roles = [named(both.panel, f"▶ {s}").property("role") for s in "AB"]
        assert roles == ["plain", "plain"], "which one plays is not shown"
        field = next(f for f in both.panel.findChildren(TextField) if f.accessibleName() ==
                     "Who listens")  # fmt: skip
        type_over(field, who)
        likes_second = both.model.blind.likes.heard(second=True) == "B"
        press(named(both.panel, "The 2nd is better" if likes_second else "The 1st is better"))
        settled()
    assert any("6 of 6 votes of 3 listeners for B: 100 %" in w for w in words(both.panel))
    press(named(both.panel, "Keep the votes"))
    (kept,) = window.document.records.trials
    assert (kept.kind, kept.hits, kept.count) == ("liked", 6, 6)
    assert kept.listeners == ("Ada", "Bert", "Cleo")
    window.document.undo()
    assert window.document.records.trials == ()


@pytest.mark.long
def test_a_blind_result_is_kept_and_nothing_is_not(both, window):
    both.model.blind.begin_trial()
    both.model.blind.keep_result("told")
    assert window.document.records.trials == ()
    for _ in range(4):
        both.model.blind.answer(both.model.blind.trials.x)
    press(named(both.panel, "Keep the result"))
    (kept,) = window.document.records.trials
    assert (kept.kind, kept.hits, kept.count) == ("told", 4, 4)
    assert both.model.blind.trials is None


def test_what_is_missing_to_be_fair_is_asked_for(both):
    assert "Is it fair? Of A nobody said anything." in both._proves.text()


@pytest.mark.long
def test_another_recording_ends_a_trial(both, files):
    both.model.blind.begin_trial()
    both.model.take("A", files[1])
    settle(both)
    assert both.model.blind.trials is None


def test_a_and_b_change_places(both):
    a, b = both.model.slots.at("A"), both.model.slots.at("B")
    press(named(both.panel, "Change places"))
    settle(both)
    assert (both.model.slots.at("A"), both.model.slots.at("B")) == (b, a)
    assert "louder" in both._says.text()


def test_the_open_chain_is_listened_to_simulated(open_window, demo_folder, ear):
    save_station(mended_demo(), demo_folder)
    window = open_window(demo_folder)
    window.go_to("listen")
    space = settle(window.space("listen"))
    choose(space.choices["A"], "far")
    settle(space)
    assert space.model.slots.at("A") is not None
    assert "far away" in space.model.slots.at("A").name


@pytest.mark.long
def test_who_stands_too_far_off_is_asked_nearer_and_it_is_set_with_the_tone(
    open_window, demo_folder, ear, monkeypatch
):
    monkeypatch.setattr(advice, "SENT_S", 1.5)
    monkeypatch.setattr(advice, "ROUNDS", 1)
    far = edits.change_station(mended_demo(), room_noise_dba=50.0)
    save_station(edits.change_chain(far, "hf-chat", distance_mm=100), demo_folder)
    window = open_window(demo_folder)
    window.go_to("listen")
    space = settle(window.space("listen"))
    press(named(space.panel, "For a communicator sound"))
    settle(space)
    assert any(w.startswith("Nearer: ") and "instead of 10" in w for w in words(space.panel))
    press(named(space.panel, "Set it so"))
    settle(space)
    assert window.document.station.chain().distance_mm.value < 40
    window.document.undo()
    assert window.document.station.chain().distance_mm.value == 100


@pytest.mark.long
def test_tone_is_advised_heard_set_and_undone(open_window, demo_folder, ear, monkeypatch):
    monkeypatch.setattr(advice, "SENT_S", 2.5)
    monkeypatch.setattr(advice, "ROUNDS", 1)
    save_station(mended_demo(), demo_folder)
    window = open_window(demo_folder)
    window.go_to("listen")
    space = settle(window.space("listen"))
    before = window.document.station.chain().panel
    press(named(space.panel, "For a communicator sound"))
    settle(space)
    assert any(w.startswith("For a communicator sound: ") for w in words(space.panel))
    assert any(w.startswith("The distance is right: ") for w in words(space.panel))
    press(named(space.panel, "Hear both"))
    settle(space)
    assert "as advised" in space.model.slots.at("B").name
    made = [f for f in space.model.found() if f.severity != "fine"]
    # what was advised is not found fault with, and a far receiver's noise is not the station's
    assert [f.says for f in made] == []
    assert "Speech over noise" not in {p.title for p in space.model.promised("A")}
    # the tone that was set is in the promise as well
    assert all(p.agrees for p in space.model.promised("B"))
    press(named(space.panel, "Set it so"))
    settle(space)
    now = window.document.station.chain().panel
    assert now.tone == "communicator"
    assert now.knobs["treble"] > 0
    # it was advised for what stood before: it is put away
    assert "Set it so" not in buttons(space.panel)
    window.document.undo()
    assert window.document.station.chain().panel == before


def test_tone_is_not_advised_where_there_is_no_voice_on_a_sideband(space, window):
    data = next(c.id for c in window.document.station.chains if "data" in c.id)
    window.document.edit("chain", lambda s: edits.open_chain(s, data))
    press(named(space.panel, "For a natural sound"))
    settle(space)
    assert any("a voice on single sideband" in w or "mend first" in w.lower()
               for w in words(space.panel))  # fmt: skip


def test_a_chain_that_is_stopped_is_not_listened_to(space, window):
    space.model.take_simulated("A", far=True)
    settle(space)
    assert space.model.slots.at("A") is None
    assert "mend first" in " ".join(words(window)).lower()


def test_out_of_sight_nothing_plays_and_other_stations_change_nothing(both, ear, window):
    press(named(both.panel, "▶ A"))
    stopped = ear.stopped
    window.go_to("gear")
    assert ear.stopped > stopped
    window.document.undo()
    window.go_to("listen")
    assert both.model.slots.at("A") is not None


# --- kept with the station -----------------------------------------------------------------------


def keep_a(both, slate="before drilling"):
    choose(both.panel.findChildren(Choice)[0], "monitor")
    field = next(f for f in both.panel.findChildren(TextField) if "Slate" in f.accessibleName())
    type_over(field, slate)
    press(named(both.panel, "Keep A"))
    return settle(both)


@pytest.mark.long
def test_a_recording_is_kept_with_what_it_is_of_and_found_again(both, window, open_window):
    keep_a(both)
    *before, kept = window.document.records.recordings
    assert (kept.name, kept.taken, kept.chain_id) == ("before drilling", "monitor", "hf-chat")
    assert kept.microphone == "stage dynamic"
    assert kept.power_w == 20
    file = window.document.folder / "recordings" / kept.file
    assert file.exists()
    choose(both.choices["B"], f"kept:{kept.id}")
    settle(both)
    assert both.model.slots.at("B").kept == kept
    assert both.model.comparison.aligned.same_words
    window.filing.save()
    again = open_window(window.document.folder)
    assert again.document.records.recordings == (*before, kept)


@pytest.mark.long
def test_forgotten_by_undo_its_file_stays_and_is_an_orphan(both, window):
    keep_a(both)
    *before, kept = window.document.records.recordings
    window.document.undo()
    assert window.document.records.recordings == (*before,)
    folder = window.document.folder
    assert orphans((*before,), folder) == ((kept.file,), ())
    window.document.redo()
    assert orphans(window.document.records.recordings, folder) == ((), ())


@pytest.mark.long
def test_a_keeping_that_was_undone_may_be_done_again(both, window):
    keep_a(both)
    assert "Keep A" not in buttons(both.panel)
    window.document.undo()
    settle(both)
    assert not both.model.kept.is_kept("A")
    assert "lies" not in both._facts["A"].text()
    keep_a(both, "again")
    assert both.model.kept.is_kept("A")
    assert window.document.records.recordings[-1].name == "again"


@pytest.mark.long
def test_what_is_kept_is_forgotten_by_a_button_and_its_file_stays(both, window):
    """A page that says “forget it first” has where to do so."""
    keep_a(both)
    *before, kept = window.document.records.recordings
    press(named(both.panel, "Forget A"))
    settle(both)
    assert window.document.records.recordings == (*before,)
    assert orphans((*before,), window.document.folder) == ((kept.file,), ())
    assert "Keep A" in buttons(both.panel)
    assert "Forget A" not in buttons(both.panel)
    window.document.undo()
    settle(both)
    assert "Forget A" in buttons(both.panel)
    assert both.model.kept.is_kept("A")


@pytest.mark.long
def test_what_was_simulated_of_another_chain_is_not_kept_as_of_this_one(
    open_window, demo_folder, ear
):
    save_station(mended_demo(), demo_folder)
    window = open_window(demo_folder)
    window.go_to("listen")
    space = settle(window.space("listen"))
    choose(space.choices["A"], "far")
    settle(space)
    assert space.model.promised("A"), "it is of the chain as it stands"
    chain = window.document.station.chain().id
    window.document.edit("further", lambda s: edits.change_chain(s, chain, distance_mm=150))
    settle(space)
    assert space.model.promised("A") == ()
    before = window.document.records.recordings
    press(named(space.panel, "Keep A"))
    settle(space)
    assert window.document.records.recordings == before
    assert "listen to it anew to keep it" in " ".join(words(window))
    window.document.undo()
    settle(space)
    assert space.model.promised("A")
    press(named(space.panel, "Keep A"))
    settle(space)
    assert window.document.records.recordings[-1].taken == "simulated-far"


def test_another_station_ends_a_recording_and_what_plays(space, inputs, ear, window):
    choose(space.choices["A"], "record")
    press(named(space.panel, "Record"))
    settled()
    assert space.model.recorder.does == "records"
    stopped = ear.stopped
    window.session.end()
    assert inputs.stopped
    assert space.model.recorder.does == "nothing"
    assert ear.stopped >= stopped


@pytest.mark.long
def test_what_was_recorded_and_not_kept_lies_there_and_is_kept_later(
    space, inputs, window, open_window
):
    folder = window.document.folder
    choose(space.choices["A"], "record")
    press(named(space.panel, "Record"))
    settled()
    # the window closes in the middle of it
    window.session.end()
    (left,) = orphans(window.document.records.recordings, folder)[0]
    soundfile.write(folder / "recordings" / left, spoken()[: 6 * RATE], RATE)
    again = open_window(folder)
    again.go_to("listen")
    found = settle(again.space("listen"))
    choose(found.choices["B"], f"unkept:{left}")
    settle(found)
    assert found.model.slots.at("B").sound.seconds == pytest.approx(6.0)
    press(named(found.panel, "Keep B"))
    settle(found)
    assert orphans(again.document.records.recordings, folder) == ((), ())
    assert "Throw B away" not in buttons(found.panel)


def test_what_was_left_is_gone_and_what_is_thrown_away_is_no_longer_listed(
    space, inputs, window, monkeypatch
):
    folder = window.document.folder / "recordings"
    before = set(folder.iterdir())
    choose(space.choices["A"], "record")
    press(named(space.panel, "Record"))
    settled()
    assert set(folder.iterdir()) != before
    press(named(space.panel, "Leave it"))
    assert set(folder.iterdir()) == before
    soundfile.write(folder / "recorded-by-hand.wav", spoken()[: 5 * RATE], RATE)
    space.refresh()
    choose(space.choices["A"], "unkept:recorded-by-hand.wav")
    settle(space)
    rubbish = []
    monkeypatch.setattr(QFile, "moveToTrash", lambda f: rubbish.append(f) or not Path(f).unlink())
    press(named(space.panel, "Throw A away"))
    settle(space)
    assert rubbish == [str(folder / "recorded-by-hand.wav")]
    assert space.model.slots.at("A") is None
    assert "not kept: recorded-by-hand" not in [
        space.choices["A"].itemText(k) for k in range(space.choices["A"].count())
    ]


@pytest.mark.long
def test_a_file_that_is_another_one_now_is_refused_by_name(both, window):
    keep_a(both)
    *_, kept = window.document.records.recordings
    file = window.document.folder / "recordings" / kept.file
    file.write_bytes(b"something else")
    both.model.take_kept("B", kept.id)
    settle(both)
    assert "not the recording any more" in " ".join(words(window))
    file.unlink()
    both.model.take_kept("B", kept.id)
    settle(both)
    assert "is gone from there" in " ".join(words(window))


@pytest.mark.long
def test_saved_elsewhere_recordings_are_carried_along(both, window, tmp_path):
    keep_a(both)
    *_, kept = window.document.records.recordings
    other = tmp_path / "other.station"
    window.document.save(other)
    assert fingerprint_of(other / "recordings" / kept.file) == kept.sha256
    assert window.document.left_behind == ()


@pytest.mark.long
def test_what_a_simulated_chain_promised_is_what_its_recording_shows(open_window, demo_folder, ear):
    save_station(mended_demo(), demo_folder)
    window = open_window(demo_folder)
    window.go_to("listen")
    space = settle(window.space("listen"))
    choose(space.choices["A"], "near")
    settle(space)
    made = {p.title: p for p in space.model.promised("A")}
    assert made, "the chain is known"
    assert made["Bass"].agrees is not False
    assert any("as the chain predicted" in w for w in words(space.panel))


@pytest.mark.long
@pytest.mark.parametrize("size, scale", [((1024, 700), 1.0), ((1024, 700), 1.5)])
def test_nothing_is_wider_than_its_panel(both, window, look, size, scale):
    try:
        look.set_scale(scale)
        window.resize(*size)
        settled(6)
        inside = both.panel.area.viewport().width()
        assert both.panel.area.widget().width() <= inside
        assert both.width() <= window.width()
    finally:
        look.set_scale(1.0)


def test_a_report_is_saved_as_paper_table_and_data(both, window, tmp_path, monkeypatch):
    for ending in ("pdf", "csv", "json", "doc"):
        file = tmp_path / f"report.{ending}"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, f=file: (str(f), ""))
        press(named(both.panel, "Save a report…"))
    paper = (tmp_path / "report.pdf").read_bytes()
    assert paper.startswith(b"%PDF")
    assert b"/Image" in paper
    rows = list(csv.DictReader((tmp_path / "report.csv").read_text("utf-8").splitlines()))
    assert [r["file"] for r in rows] == ["before.wav", "after.flac"]
    assert "muffled" in rows[1]["words"]
    data = json.loads((tmp_path / "report.json").read_text("utf-8"))
    assert data["same_words"] is True
    assert not (tmp_path / "report.doc").exists()
    assert ".pdf, .csv, .json is wanted" in " ".join(words(window))
