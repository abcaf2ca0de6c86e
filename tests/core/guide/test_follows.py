"""When a meter does not follow its knob, and what a panel's schools and differences come to."""

import pytest

from tests.core.radios import DEMO, knobs
from tonleiter.core.guide.differs import differs
from tonleiter.core.guide.follows import lost
from tonleiter.core.guide.onair import on_air
from tonleiter.core.guide.schools import tone_aim
from tonleiter.core.setup.modes import scene_of
from tonleiter.core.station import edits
from tonleiter.core.station.settings import PanelState, Seen


def readings(*pairs):
    return [Seen(meter="alc", read=read, knob="gain", at=at) for at, read in pairs]


# knob, reading; of a meter to 15 dB, 2.5 marks to the decibel
CASES = {
    "it follows": (((40, 3.0), (50, 7.0), (60, 11.0)), False),
    "up twice and less each time": (((40, 6.0), (50, 5.0), (60, 4.0)), True),
    "down twice and more each time": (((60, 4.0), (50, 5.0), (40, 6.0)), True),
    "up once without effect may be a slip": (((40, 6.0), (50, 6.0)), False),
    "up twice without effect": (((40, 6.0), (50, 6.0), (60, 6.0)), True),
    "at rest it need not move yet": (((10, 0.0), (20, 0.0), (30, 0.0)), False),
    "from rest it has come up": (((10, 0.0), (20, 0.0), (40, 5.0)), False),
    "pinned it cannot go further": (((70, 15.0), (80, 15.0), (90, 15.0)), False),
    "turns of a decibel say nothing": (((40, 6.0), (42, 6.0), (44, 6.0), (46, 6.0)), False),
}


@pytest.mark.parametrize("name", list(CASES))
def test_two_contradictions_and_no_fewer(name):
    pairs, is_lost = CASES[name]
    *seen, now = readings(*pairs)
    assert lost(seen, now, "alc", "gain", 2.5, 15.0) is is_lost


def test_readings_of_another_meter_or_knob_do_not_count():
    *seen, now = readings((40, 6.0), (50, 5.0), (60, 4.0))
    others = [s.model_copy(update={"knob": "compression"}) for s in seen]
    assert not lost(others, now, "alc", "gain", 2.5, 15.0)


@pytest.mark.parametrize(
    ("pitch", "bass", "treble"), [("deep", -3, 2), ("middle", -1, 1), ("high", 2, -1)]
)
def test_shelves_by_voice_as_people_set_them(pitch, bass, treble):
    """A deep voice loses about 3 dB of bass and wins 2 of treble; a high one the reverse."""
    aim = tone_aim("natural", pitch)
    assert sum(aim.bass_db) / 2 == pytest.approx(bass)
    assert sum(aim.treble_db) / 2 == pytest.approx(treble)
    assert aim.bass_db[1] - aim.bass_db[0] == pytest.approx(3.0)


# --- what before and now differ in ----------------------------------------------------------------


def scene(station=DEMO, panel=None, **of):
    return scene_of(on_air(station, "hf-chat", "with-transformer", **of), panel or PanelState())


@pytest.fixture(scope="module")
def before():
    return scene()


def test_nothing_differs_from_itself(before):
    assert differs(before, before) == ""


def test_knobs_by_both_their_marks(before):
    assert differs(before, scene(panel=knobs(gain=62))) == "microphone gain from 50 to 62"


def test_who_speaks_is_said_once(before):
    """Another operator speaks another voice: that is one thing, not two."""
    other = next(o.id for o in DEMO.operators if o.id != DEMO.chain("hf-chat").operator)
    of = edits.change_chain(DEMO, "hf-chat", operator=other)
    said = differs(before, scene(of))
    assert "the operator" in said
    assert "what is spoken" not in said
    # the same operator louder is something else that is spoken
    assert differs(before, scene(effort="loud")) == "what is spoken"


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda s: edits.change_chain(s, "hf-chat", distance_mm=60), "distance from 30 to 60 mm"),
        (lambda s: edits.change_station(s, room_noise_dba=55), "the room"),
        (lambda s: edits.change_gear(s, "desk-mixer", gain_db=41), "desk mixer, mic strip as set"),
    ],
)
def test_a_chain_by_what_was_changed_in_it(before, change, said):
    assert differs(before, scene(change(DEMO))) == said


def test_more_than_three_things_are_counted(before):
    of = edits.change_station(
        edits.change_chain(DEMO, "hf-chat", distance_mm=60), room_noise_dba=55
    )
    said = differs(before, scene(of, knobs(gain=62, bass=-3, treble=2)))
    assert said.startswith("distance from 30 to 60 mm, the room")
    assert said.endswith("3 things more")
