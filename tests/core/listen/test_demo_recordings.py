"""The demo's own recordings: what was done to each is said of it, of the clear one nothing."""

import pytest

from tonleiter.app.demo import shipped_demo
from tonleiter.core.listen.measures import Measures
from tonleiter.core.listen.survey import survey_file
from tonleiter.core.listen.words import heard

SAID = {
    "clear": "clear",
    "muffled": "muffled",
    "hum": "hum",
    "quiet": "quiet",
    "clipped": "distorted",
    # what is held down lets hum and room come up between words
    "compressed": "pumping",
    "off-frequency": "off-frequency",
}


@pytest.mark.parametrize("name", SAID)
def test_what_was_done_is_said(name):
    file = shipped_demo() / "recordings" / f"{name}.flac"
    said = [h.word for h in heard(Measures(survey_file(file)))]
    assert SAID[name] in said[:2]
    assert name != "clear" or said == ["clear"]
