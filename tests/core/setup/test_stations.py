"""Thirty-two stations whose guides are followed literally, and what a practitioner accepts."""

import pytest

from tests.conftest import gear, station_of
from tests.core.setup.stations import ROWS
from tonleiter.core.gear.library import parts_library
from tonleiter.core.guide.onair import on_air
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.match.terms import lead_for
from tonleiter.core.setup.modes import scene_of, settled
from tonleiter.core.station import edits
from tonleiter.core.station.adopt import adopt_path
from tonleiter.core.station.begin import begun
from tonleiter.core.station.edits import add_gear

MOST_MOVES = 20
# boxes before a socket: what is asked of the box, and what the radio asks for
# is one thing, and neither undoes the other
BOXED = {
    "an equaliser far under its end, which adds no noise so low": (
        ("cased-capsule", "graphic-equaliser", "home-built-socket"), "am-voice", 10.0,
    ),
    "a passive mixer with one stage before a socket without a gain": (
        ("amplified-desk-piezo", "old-mixer", "fm-data-socket"), "fm-voice", 10.0,
    ),
    "speech on a data socket: its meter says how much, not its window": (
        ("usb-dongle-out", "mixer-strip-balanced", "graphic-equaliser", "data-socket-10k"),
        "ssb-chat", 30.0,
    ),
    "an amplifier set by a resistor, on a data socket": (
        ("electret-capsule-6mm", "resistor-set-amplifier", "data-socket-10k"), "ssb-weak", 100.0,
    ),
}  # fmt: skip


def of_the_library(ids, purpose, mm):
    """A chain of pieces as they stand in the library, each source with its lead."""
    path = [parts_library()[i] for i in ids]
    station = begun()
    for piece in path:
        station = add_gear(station, piece)
    whole = (path[0], lead_for(path[0]), *path[1:])
    return adopt_path(station, whole, "x", purpose, "operator", mm)


@pytest.mark.parametrize("name", BOXED)
@pytest.mark.table(keep=4)
def test_what_a_box_is_asked_for_is_not_taken_back_for_the_radio(name):
    station = of_the_library(*BOXED[name])
    found = verdict_of(station, station.chain().id)
    while found.stops():
        station = found.remedies(found.stops()[0])[0].change(station)
        found = verdict_of(station, station.chain().id)
    done, turned = [], []
    for _ in range(MOST_MOVES):
        case, panel = on_air(station), station.chain().panel
        scene = scene_of(case, panel)
        move = scene.now.move if scene.now is not None else None
        if move is None or not move.can_be_made:
            break
        if move.knobs:
            panel = scene.after(move)
            station = edits.change_chain(station, station.chain().id, panel=panel)
        else:
            station = move.fix.apply(station)
        done.append((scene.now.id, move.says))
        # how it stands after a move it never stood before
        assert station not in turned, done
        turned.append(station)
    else:
        raise AssertionError(f"no end: {done}")


def followed(row):
    """The last scene, and what was done on the way: codes of stops, ids of steps, sentences."""
    station = edits.change_chain(row.station, "c", panel=row.panel)
    done, said = [], []
    for _ in range(MOST_MOVES):
        case = on_air(station)
        scene = scene_of(case, station.chain().panel)
        said += [*scene.headline, *(f.says for f in scene.findings)]
        said += [s.move.says for s in scene.steps if s.move is not None]
        if scene.stops:
            assert not any(s.move.knobs for s in scene.steps if s.move), "nothing is turned yet"
            done.append(scene.stops[0].code)
            station = case.verdict.remedies(scene.stops[0])[0].change(station)
            continue
        move = scene.now.move if scene.now is not None else None
        if move is None or not move.can_be_made:
            return scene, done, said
        assert not move.asks, "a simulated set is never asked"
        done.append(scene.now.id)
        if move.knobs:
            known = {c.id: c for c in scene.controls}
            for name, to in move.knobs.items():
                assert known[name].low <= to <= known[name].high, "a knob within its ends"
                assert to != known[name].value, "a move that moves something"
            station = edits.change_chain(station, "c", panel=scene.after(move))
        else:
            station = move.fix.apply(station)
    raise AssertionError(f"no end: {done}")


@pytest.mark.table(keep=8)
@pytest.mark.parametrize("row", ROWS, ids=[r.name for r in ROWS])
def test_a_guide_followed_literally_ends_where_an_old_hand_would(row):
    scene, done, said = followed(row)
    assert scene.is_right is row.right, (row.why, done, scene.headline)
    if row.first:
        assert done, row.why
        assert row.first in done[0], row.why
    assert set(row.asked) <= set(done), (row.why, done)
    assert not set(row.never) & set(done), (row.why, done)
    assert len(done) <= row.most, done
    read = {m.id: m.value for m in scene.meters}
    stands = {c.id: c.value for c in scene.controls}
    for name, (low, high) in row.zones.items():
        # a meter before the knob of the same name: what it shows is what counts
        value = read.get(name, stands.get(name))
        assert value is not None, name
        assert low <= value <= high, (row.why, name, value)
    assert any(row.says in s for s in said), (row.why, said)
    if row.right:
        assert not any(f.severity == "stop" for f in scene.findings)
    else:
        assert not any("Everything is where it should be" in f.says for f in scene.findings)


def test_two_knobs_of_the_marking_of_the_set_itself():
    """Where the set is marked from 0 to 10, no sentence of the guide has a 70 in it."""
    (row,) = [r for r in ROWS if "marked" in r.name]
    scene, _, said = followed(row)
    assert scene.control("gain").said() == f"{scene.control('gain').value / 10:.1f}"
    (move,) = {s for s in said if "to about" in s}
    assert 3.5 < float(move.split("to about ")[1].rstrip(".")) < 8.5


@pytest.mark.parametrize(
    ("distance_mm", "nearer"),
    # half the distance, 6 dB; nobody is sent nearer than the Ladder would send them
    [(200, 100), (60, 30), (40, 25), (28, None), (25, None)],
)
def test_a_loud_room_is_answered_by_the_distance_as_far_as_that_goes(distance_mm, nearer):
    of = station_of(
        gear("dynamic-microphone", "mic"),
        gear("microphone-socket", "set"),
        distance_mm=distance_mm,
    )
    loud = type(of).model_validate(of.model_dump() | {"room_noise_dba": 70})
    scene = settled(on_air(loud), loud.chain().panel)
    (finding,) = (f for f in scene.findings if f.code == "room-between-words")
    if nearer is None:
        assert not finding.fixes
        assert "as near as one should" in finding.proof
        return
    (fix,) = finding.fixes
    assert fix.title == f"See it from {nearer} mm"
    assert fix.apply(loud).chain().distance_mm.value == nearer
    assert "halving the distance" in finding.proof
