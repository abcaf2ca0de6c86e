"""Faces of connectors: the solder side is the mirror; figures against published faces."""

import math

import pytest

from tonleiter.core.station.shells import SHELLS, mirrored_label

FACED = [s for s in SHELLS.values() if not s.coaxial]


@pytest.mark.parametrize("shell", SHELLS.values(), ids=lambda s: s.token)
def test_contacts_have_places_of_their_own_on_the_face(shell):
    places = [(s.x, s.y) for s in shell.spots]
    assert len(set(places)) == len(shell.labels) == len(set(shell.labels))
    assert all(math.hypot(x, y) <= 1.0 for x, y in places)


@pytest.mark.parametrize("shell", FACED, ids=lambda s: s.token)
def test_the_solder_side_is_the_mirror_and_twice_is_nothing(shell):
    front = {s.label: (s.x, s.y) for s in shell.face("front")}
    back = {s.label: (s.x, s.y) for s in shell.face("solder-side")}
    assert all(back[n] == (-x, y) for n, (x, y) in front.items())
    # a socket's mating face is what one sees of its plug from behind
    assert shell.face("front", "socket") == shell.face("solder-side", "plug")
    assert shell.face("solder-side", "socket") == shell.face("front", "plug")


def test_xlr_as_the_standard_draws_it():
    """IEC 61076-2-103, male mating face with the key upwards: 1 left, 2 right, 3 below."""
    one, two, three = SHELLS["xlr-3"].face("front", "plug")
    assert one.x < 0 < two.x
    assert one.y == two.y > three.y
    # who looks at the solder cups finds 1 and 2 changed
    back = {s.label: s.x for s in SHELLS["xlr-3"].face("solder-side")}
    assert back["1"] > 0 > back["2"]
    assert mirrored_label("xlr-3", "1") == "2"
    assert mirrored_label("xlr-3", "3") == "3"


def test_din_5_as_the_standard_draws_it():
    """IEC 60130-9, five contacts over 180°: 1 4 2 5 3 along the arc; 2 opposite the key."""
    plug = {s.label: s for s in SHELLS["din-5"].face("front")}
    order = sorted("12345", key=lambda n: math.atan2(plug[n].x, plug[n].y))
    assert order == list("14253")
    assert plug["2"].x == pytest.approx(0, abs=1e-6)
    assert mirrored_label("din-5", "1") == "3"
    assert mirrored_label("din-5", "4") == "5"


def test_modular_and_d_run_in_a_row():
    eight = SHELLS["modular-8"].face("front")
    assert [s.label for s in sorted(eight, key=lambda s: s.x)] == list("12345678")
    assert mirrored_label("modular-8", "1") == "8"
    nine = SHELLS["de-9"].face("front")
    assert {s.label for s in nine if s.y > 0} == set("12345")
    assert mirrored_label("de-9", "6") == "9"


def test_a_jack_has_no_side_to_confuse():
    assert mirrored_label("jack-3.5", "tip") is None
    assert SHELLS["jack-3.5"].face("front") == SHELLS["jack-3.5"].face("solder-side")
