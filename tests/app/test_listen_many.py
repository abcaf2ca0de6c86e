"""Listen with more than two recordings, and with a slate spoken before one."""

import json

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from tests.app.hands import button_of as named
from tests.app.hands import choose, press, settled, words
from tests.app.test_listen_space import (  # noqa: F401 - fixtures
    both,
    drop,
    ear,
    files,
    inputs,
    keep_a,
    settle,
    space,
)
from tests.core.listen.signals import RATE, noise, spoken

AT = "listen"

# ruff: noqa: F811


@pytest.fixture(scope="module")
def five(tmp_path_factory):
    """The same words five times: right, dull, with hiss, soft, and later in its file."""
    folder = tmp_path_factory.mktemp("many")
    x = spoken()[: 6 * RATE] + noise(6 * RATE, 55)
    f = np.fft.rfftfreq(x.size, 1 / RATE)
    dull = np.fft.irfft(np.fft.rfft(x) / (1 + (f / 900) ** 3), x.size)
    made = {
        "right": x, "dull": dull, "hiss": x + noise(x.size, 18), "soft": 0.3 * x,
        "late": np.concatenate([noise(RATE, 55, 3), x]),
    }  # fmt: skip
    for name, samples in made.items():
        soundfile.write(folder / f"{name}.wav", samples, RATE)
    return [folder / f"{name}.wav" for name in made]


@pytest.fixture
def many(space, five):
    return drop(space, *five)


@pytest.mark.long
def test_five_dropped_are_each_held_against_the_first(many):
    assert many.model.slots.filled() == ("A", "B", "C", "D", "E")
    said = " ".join(words(many.beside))
    assert "C  hiss.wav" in said
    assert "D  soft.wav" in said
    assert "Against A: 10 dB quieter" in said, "0.3 of it"
    assert "It sounds hiss." in said
    # each of them is one of the findings below
    assert any(f.place.startswith("C") for f in many.model.found())
    many.spectrum.repaint()


@pytest.mark.long
def test_the_next_one_plays_at_the_same_word_all_round(many, ear):
    many.model.player.play("A", 2.0)
    seen = []
    for _ in range(5):
        ear.at = 2.0
        QTest.keyClick(many.window(), Qt.Key.Key_Space)
        settled()
        seen.append((many.model.player.plays, round(ear.began[-1], 1)))
    assert seen == [("B", 2.0), ("C", 2.0), ("D", 2.0), ("E", 3.0), ("A", 1.0)]
    QTest.keyClick(many.window(), Qt.Key.Key_D)
    settled()
    assert many.model.player.plays == "D"


@pytest.mark.long
def test_one_beside_becomes_one_of_the_two_and_one_is_taken_away(many):
    press(named(many.beside, "C as B"))
    settle(many)
    assert many.model.slots.at("B").name == "hiss.wav"
    assert many.model.slots.at("C").name == "dull.wav"
    assert "now hiss" in many._says.text()
    press(named(many.beside, "Take C away"))
    settle(many)
    assert many.model.slots.filled() == ("A", "B", "D", "E")
    # the next one put beside goes where there is room
    assert many.model.next_free() == "C"


@pytest.mark.long
def test_one_more_is_put_beside_two_and_a_seventh_is_refused_in_words(many, five, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(five[0]), ""))
    choose(many.beside.one_more, "file")
    settle(many)
    assert many.model.slots.at("F").name == "right.wav"
    assert not many.beside.one_more.isVisibleTo(many), "there is no room for one more"
    before = [many.model.slots.at(p) for p in "ABCDEF"]
    drop(many, *five[:3])
    assert [many.model.slots.at(p) for p in "ABCDEF"] == before
    assert "3 files: there is room for 0" in " ".join(words(many.window()))


@pytest.mark.long
def test_one_alone_or_none_has_nothing_beside_it(space, five):
    more = space.beside.one_more
    assert not more.isVisibleTo(space)
    drop(space, five[0])
    assert not more.isVisibleTo(space)
    drop(space, five[1])
    assert more.isVisibleTo(space)
    assert not space.beside.isVisibleTo(space)


@pytest.mark.long
def test_a_report_has_all_of_them(many, tmp_path, monkeypatch):
    for ending in ("csv", "json", "pdf"):
        file = tmp_path / f"r.{ending}"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, f=file: (str(f), ""))
        press(named(many.panel, "Save a report…"))
        settled()
    assert len((tmp_path / "r.csv").read_text().splitlines()) == 6
    data = json.loads((tmp_path / "r.json").read_text())
    assert [c["other"]["file"] for c in data["compared"]] == [
        "dull.wav", "hiss.wav", "soft.wav", "late.wav",
    ]  # fmt: skip
    assert (tmp_path / "r.pdf").read_bytes().startswith(b"%PDF")


# --- a slate -------------------------------------------------------------------------------------


@pytest.mark.long
def test_a_slate_is_said_first_heard_and_never_measured(space, inputs, ear, window, monkeypatch):
    choose(space.choices["A"], "record")
    assert "stage dynamic" in " ".join(words(space.panel)), "what to say, of the open chain"
    press(named(space.panel, "Record"))
    settled()
    press(named(space.panel, "The slate is said"))
    # as long as somebody needs to say it
    space.model.recorder.slate_s = 2.0
    press(named(space.panel, "Stop, put it into A"))
    settle(space)
    taken = space.model.slots.at("A")
    assert taken.slate.seconds == pytest.approx(2.0)
    assert taken.sound.seconds == pytest.approx(4.0)
    assert taken.measures.survey.seconds == pytest.approx(4.0, abs=0.01)
    press(named(space.panel, "▶ slate of A"))
    assert ear.played[-1].seconds == pytest.approx(2.0)
    keep_a(space, "after drilling")
    kept = window.document.records.recordings[-1]
    assert (kept.slate, kept.slate_s) == ("after drilling", 2.0)
    file = window.document.folder / "recordings" / kept.file
    assert soundfile.info(file).duration == pytest.approx(6.0), "it is kept with its slate"
    choose(space.choices["B"], f"kept:{kept.id}")
    settle(space)
    again = space.model.slots.at("B")
    assert again.sound.seconds == pytest.approx(4.0)
    level = again.measures.level.value
    assert level == pytest.approx(taken.measures.level.value, abs=0.05)


@pytest.mark.long
def test_where_a_slate_ends_is_pressed_while_it_plays(space, five, ear, window):
    drop(space, five[0])
    whole = space.model.slots.at("A").sound.seconds
    space.model.slate_ends("A")
    assert "play A and press where the slate ends" in " ".join(words(window))
    press(named(space.panel, "▶ A"))
    settled()
    ear.at = 1.5
    press(named(space.panel, "Slate of A ends here"))
    settle(space)
    taken = space.model.slots.at("A")
    assert taken.slate.seconds == pytest.approx(1.5)
    assert taken.sound.seconds == pytest.approx(whole - 1.5)
    assert taken.measures.survey.seconds == pytest.approx(whole - 1.5, abs=0.01)
    # pressed again further on: it is the whole slate that grows
    press(named(space.panel, "▶ A"))
    settled()
    ear.at = 0.5
    press(named(space.panel, "Slate of A ends here"))
    settle(space)
    assert space.model.slots.at("A").slate.seconds == pytest.approx(2.0)


@pytest.mark.long
def test_one_longer_than_is_kept_says_so_and_nothing_is_cut_in_silence(
    space, tmp_path, window, monkeypatch
):
    from tonleiter.app.spaces.listen import model, slots

    monkeypatch.setattr(slots, "MOST_HEARD_S", 8.0)
    monkeypatch.setattr(model, "MOST_HEARD_S", 4.0)
    long, longer = tmp_path / "long.wav", tmp_path / "longer.wav"
    soundfile.write(long, spoken()[: 7 * RATE], RATE)
    soundfile.write(longer, np.tile(spoken()[: 6 * RATE], 2), RATE)
    drop(space, long)
    assert space.model.slots.at("A").sound.seconds == pytest.approx(4.0), "so much is heard"
    keep_a(space, "all of it")
    kept = window.document.records.recordings[-1]
    file = window.document.folder / "recordings" / kept.file
    assert soundfile.info(file).duration == pytest.approx(7.0)
    before = window.document.records.recordings
    drop(space, longer)
    space.model.kept.keep("B", None, "")
    settle(space)
    assert "are kept with a station; cut out what matters" in " ".join(words(window))
    assert window.document.records.recordings == before
