"""What a real system lists, what happened to it, and the guide on that."""

import pytest

from tests.core.desks import looped
from tonleiter.core.desk.devices import desk_of
from tonleiter.core.desk.real import Named, System, happened, new_devices, real_desk
from tonleiter.core.guide.onair import on_air
from tonleiter.core.setup.loop.laid import loop_at

DESK, CODEC, MIC, CODEC_IN = (
    Named("a", "Desk"),
    Named("b", "Codec"),
    Named("c", "Microphone"),
    Named("d", "Codec in"),
)
BEFORE = System((DESK,), (MIC,), "a", "c")
PLUGGED = System((DESK, CODEC), (MIC, CODEC_IN), "b", "d")
NO_DEFAULTS = System((DESK, CODEC), (MIC, CODEC_IN), "gone", "gone")
RIGHT = System((DESK, CODEC), (MIC, CODEC_IN), "a", "c")
NAMES = {"out": "Codec", "in": "Codec in"}


def test_what_is_new_and_what_it_took():
    assert new_devices(BEFORE, PLUGGED) == (("out", CODEC), ("in", CODEC_IN))
    said = happened(BEFORE, PLUGGED, NAMES.values())
    assert said[0] == "Your radio has just become the default loudspeaker."
    assert "“Codec” is new: a loudspeaker to the system." in said
    assert happened(PLUGGED, BEFORE, ())[-1] == "“Codec in” is gone from the microphones."
    assert happened(BEFORE, BEFORE, ()) == ()
    assert happened(BEFORE, System((DESK,), (), "a", None), ()) == (
        "There is no default microphone any more.",
        "“Microphone” is gone from the microphones.",
    )


def scene(system, told=(), names=NAMES, own=None):
    station = looped()
    real = real_desk(system, desk_of(station, "out"), dict(names), told)
    case = on_air(station, "out")
    return loop_at(case, station, station.chain("out").panel, own or {}, real=real)


@pytest.mark.parametrize(
    "system, told, names, at",
    [
        (BEFORE, (), {}, "names"),
        (BEFORE, (), NAMES, "names"),
        (PLUGGED, (), NAMES, "defaults"),
        (RIGHT, (), NAMES, "program"),
        (RIGHT, ("program",), NAMES, "off"),
        (RIGHT, ("program", "off"), NAMES, "slider"),
        (System(), (), {}, "names"),
        (NO_DEFAULTS, ("program", "off"), NAMES, "slider"),
    ],
)
def test_the_guide_stands_where_the_system_does(system, told, names, at):
    made = scene(system, told, names)
    assert made.now.id == at
    assert made.now.move.asks
    # nothing of a real system is changed from here
    assert made.now.move.fix is None
    assert not any(f.fixes for f in made.findings if f.code.startswith("desk-"))


def test_what_was_read_leads_on():
    made = scene(RIGHT, ("program", "off"), own={"spare": 2.0})
    assert made.now.id == "slider"
    assert made.now.move.knobs
    after = scene(RIGHT, ("program", "off"), own={"spare": 8.0})
    assert after.now.id != "slider"


def test_two_of_one_name_are_said_on_a_real_system_too():
    twin = System((DESK, CODEC, Named("x", "Codec")), (MIC, CODEC_IN), "a", "c")
    assert scene(twin).now.id == "names"
    assert "desk-two-of-one-name" in {f.code for f in scene(twin).findings}
