"""The sentence on opening a station that has open ends."""

import pytest

from tests.app.hands import arrived, press, rest
from tonleiter.app import greeting
from tonleiter.core.station.begin import begun
from tonleiter.core.station.files import save_station


@pytest.fixture
def greeted(monkeypatch):
    monkeypatch.setattr(greeting, "AFTER_MS", 1)


def waits_for(window, words):
    for _ in range(300):
        if words in window.notice.text:
            return True
        rest(50)
    return False


@pytest.mark.long
def test_a_station_with_a_stop_says_what_to_mend_first_and_leads_there(
    greeted, open_window, demo_folder
):
    window = open_window(demo_folder)
    assert waits_for(window, "Next: mend “HF, evening round”")
    press(window.notice.answers[0])
    arrived(window)
    assert window._stack.currentWidget() is window.space("log")
    assert not window.notice.text


def test_a_new_station_has_no_open_ends_and_is_not_greeted(greeted, open_window, tmp_path):
    folder = tmp_path / "new.station"
    save_station(begun(), folder)
    window = open_window(folder)
    rest(600)
    assert not window.notice.text


@pytest.mark.long
def test_what_is_said_already_is_not_covered(greeted, open_window, demo_folder):
    window = open_window(demo_folder)
    window.notice.say("a refusal that somebody reads", bad=True)
    rest(3000)
    assert window.notice.text == "a refusal that somebody reads"
