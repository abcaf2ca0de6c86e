"""Faces of connectors against published faces of the half that they mate with."""

import math

import pytest

from tonleiter.core.station.shells import SHELLS, in_words, mirrored_label

SIDED = [s for s in SHELLS.values() if s.has_sides]
DRAWN = [s for s in SIDED if s.source]

# The FEMALE half's mating face as others draw it, rows from the top, left to right. XLR and DE-9:
# pads of vertical panel sockets in the public footprint library of KiCad 6 (NC3FAV, DSUB-9 female);
# mini-DIN: its symbol; DIN: 1 4 2 5 3 from left to right in the female, holes in the upper half;
# modular: who looks into a wall socket, latch below, has contact 1 of ISO/IEC 11801 at the left.
FEMALE = {
    "xlr-3": ("key above", ["2 1", "3"]),
    "de-9": ("longer row above", ["5 4 3 2 1", "9 8 7 6"]),
    "mini-din-6": ("notch above", ["6 5", "4 3", "2 1"]),
    "din-5": ("key below", ["2", "4 5", "1 3"]),
    "modular-8": ("latch below", ["1 2 3 4 5 6 7 8"]),
}


def rows(spots):
    """A face as text: rows from the top, each from left to right."""
    heights = sorted({round(s.y, 2) for s in spots}, reverse=True)
    return [
        " ".join(s.label for s in sorted(spots, key=lambda s: s.x) if round(s.y, 2) == y)
        for y in heights
    ]


@pytest.mark.parametrize("token", FEMALE)
def test_the_female_face_is_the_published_one_and_the_plug_s_is_its_mirror(token):
    shell = SHELLS[token]
    key, published = FEMALE[token]
    assert shell.key == key
    assert rows(shell.face("front", "female")) == published
    mirrored = [" ".join(reversed(row.split())) for row in published]
    assert rows(shell.face("front", "male")) == mirrored
    # who solders a plug sees what mates with it, and the other way round
    assert rows(shell.face("solder-side", "male")) == published
    assert rows(shell.face("solder-side", "female")) == mirrored


def test_every_shell_that_is_drawn_with_figures_was_held_against_a_published_face():
    assert {s.token for s in DRAWN} == set(FEMALE)


@pytest.mark.parametrize("shell", SIDED, ids=lambda s: s.token)
def test_places_without_a_source_are_drawn_on_no_side(shell):
    if shell.source:
        return
    assert not shell.is_known()
    assert shell.face("front") == shell.face("solder-side") == shell.face("front", "female")
    assert [s.label for s in shell.face("front")] == list(shell.labels)


@pytest.mark.parametrize("shell", SHELLS.values(), ids=lambda s: s.token)
@pytest.mark.parametrize("counted", [None, "clockwise"])
def test_contacts_have_places_of_their_own_on_the_face(shell, counted):
    spots = shell.face("front", counted=counted)
    places = [(s.x, s.y) for s in spots]
    assert len(set(places)) == len(shell.labels) == len(set(shell.labels))
    assert all(math.hypot(x, y) <= 1.0 for x, y in places)


def test_a_round_shell_is_drawn_as_somebody_read_its_figures():
    eight = SHELLS["round-8"]
    assert not eight.is_known() and eight.is_known("clockwise")
    behind = {s.label: s for s in eight.face("solder-side", "female", "clockwise")}
    # seven around, from the key at the top to the right; the eighth in the middle
    angles = [math.degrees(math.atan2(behind[n].x, behind[n].y)) % 360 for n in "1234567"]
    assert angles == sorted(angles)
    assert 0 < angles[0] < 90
    assert (behind["8"].x, behind["8"].y) == (0, 0)
    other = {s.label: s for s in eight.face("solder-side", "female", "anticlockwise")}
    front = {s.label: s for s in eight.face("front", "female", "clockwise")}
    assert all(other[n].x == pytest.approx(-behind[n].x) == front[n].x for n in "1234567")


@pytest.mark.parametrize(
    ("token", "way", "computer", "half"),
    [
        # sound leaves a box by pins: the lead has holes; it enters by holes
        ("xlr-3", "out", False, "female"),
        ("xlr-3", "in", False, "male"),
        # a computer's serial port has pins (EIA-232 terminal side)
        ("de-9", "in", True, "female"),
        ("de-9", "in", False, "male"),
        # panel sockets of threaded microphone connectors have pins
        ("round-8", "in", False, "female"),
        ("modular-8", "in", False, "male"),
        ("mini-din-6", "in", False, "male"),
        ("din-5", "out", False, "male"),
    ],
)
def test_the_half_on_the_lead_mates_with_the_one_on_the_box(token, way, computer, half):
    assert SHELLS[token].on_lead(way, computer) == half
    assert SHELLS[token].on_lead(way, computer, on_box="male") == "female"
    assert SHELLS[token].on_lead(way, computer, on_box="female") == "male"


def test_faces_are_told_in_words():
    modular = SHELLS["modular-8"]
    assert (
        in_words(modular.face("front", "male"), modular.key)
        == "latch below, from left to right 8 7 6 5 4 3 2 1"
    )
    xlr = SHELLS["xlr-3"]
    assert (
        in_words(xlr.face("solder-side", "male"), xlr.key)
        == "key above, from the top, left to right: 2 1 / 3"
    )
    din = SHELLS["din-5"]
    assert (
        in_words(din.face("front", "female"), din.key) == "key below, from left to right 1 4 2 5 3"
    )


def test_a_round_shell_is_counted_from_its_key():
    eight = SHELLS["round-8"]
    behind = eight.count_words("solder-side", "female", "clockwise")
    assert behind == "key above, clockwise from it 1 to 7; 8 in the middle"
    assert "anticlockwise" in eight.count_words("front", "female", "clockwise")


@pytest.mark.parametrize(
    ("token", "label", "other"),
    [
        ("xlr-3", "1", "2"),
        ("xlr-3", "3", "3"),
        ("din-5", "1", "3"),
        ("din-5", "4", "5"),
        ("modular-8", "1", "8"),
        ("de-9", "6", "9"),
        ("mini-din-6", "1", "2"),
        ("round-8", "1", "7"),
        # nobody knows where they stand, or there is no face
        ("din-13", "1", None),
        ("jack-3.5", "tip", None),
    ],
)
def test_the_contact_that_is_taken_for_it_from_the_wrong_side(token, label, other):
    assert mirrored_label(token, label) == other
