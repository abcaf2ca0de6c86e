"""What is said of a remedy is what the chain comes to with it: levels, noise, bass, treble."""

import re

import pytest

from tests.conftest import gear, station_of
from tests.core.judge.test_practice import DATA, DYNAMIC, LAPTOP, MIXER, PAD, SET
from tonleiter.core.judge.assess import assess, remedies
from tonleiter.core.judge.effect import treble_db
from tonleiter.core.station import edits

CRYSTAL = gear("piezo-microphone", "crystal")
RIBBON = gear("ribbon-microphone", "ribbon")
CASED = gear("electret-2-wire", "cased", housing="in-case", opening_mm=1.0, seal="none")
BIASED = SET | {"bias_v": 8, "bias_ohm": 2200, "z_in_ohm": 1200}
# source to radio, purpose, distance in mm
CHAINS = {
    "a crystal on a low socket": ((CRYSTAL, SET), "ssb-chat", 25),
    "a laptop into a data socket": ((LAPTOP, DATA), "packet", 25),
    "a laptop into a microphone socket": ((LAPTOP, SET), "data-weak", 25),
    "a coil on a biased pin": ((DYNAMIC, BIASED), "ssb-chat", 25),
    "a mixer that is turned up too far": ((DYNAMIC, MIXER | {"gain_db": 55}, SET), "ssb-chat", 25),
    "a pad behind a weak microphone": ((RIBBON, PAD, SET), "fm-voice", 25),
    "a capsule in a case": ((CASED, BIASED), "ssb-chat", 25),
    "from across the table": ((DYNAMIC, SET), "ssb-chat", 250),
}


def number(text):
    return float(text.replace("−", "-"))


def said_hertz(text):
    value, kilo = re.fullmatch(r"([\d.]+) (k?)Hz", text).groups()
    return float(value) * (1e3 if kilo else 1.0)


def tried(name):
    pieces, purpose, mm = CHAINS[name]
    of = edits.change_chain(station_of(*pieces, purpose=purpose), "c", distance_mm=mm)
    before = assess(of)
    for finding in before.findings:
        for remedy in remedies(before, finding) if finding.severity != "fine" else ():
            yield before, remedy, assess(remedy.change(of))


@pytest.mark.parametrize("name", CHAINS)
def test_each_part_of_an_effect_is_so(name):
    several = list(tried(name))
    assert several
    for before, remedy, after in several:
        old, new, says = before.rows[-1], after.rows[-1], remedy.effect
        moved = new.speech_dbu - old.speech_dbu
        if arrow := re.search(r"at the radio (\S+) dBu → (\S+) dBu", says):
            assert number(arrow[1]) == pytest.approx(old.speech_dbu, abs=0.06)
            assert number(arrow[2]) == pytest.approx(new.speech_dbu, abs=0.06)
        else:
            stays = re.search(r"(?:stays at|at the radio) (\S+) dBu", says)
            assert number(stays[1]) == pytest.approx(new.speech_dbu, abs=0.06)
            assert abs(moved) < 0.5 or old.speech_dbu < -150
        gain = re.search(r"microphone gain at about (\S+?)(?:;|$)", says)
        reaches = new.knob is not None and new.knob.reaches and abs(moved) >= 0.5
        assert (gain is not None) == reaches
        if gain:
            assert gain[1] == str(new.knob.mark)
        clearer = new.snr_db - old.snr_db
        if noise := re.search(r"(\d+) dB (further|less) over the noise", says):
            assert number(noise[1]) == pytest.approx(abs(clearer), abs=0.51)
            assert (noise[2] == "further") == (clearer > 0)
        elif old.speech_dbu > -150 and min(old.snr_db, new.snr_db) < 40:
            assert abs(clearer) < 2.0
        if bass := re.search(r"bass from ([\d.]+ k?Hz)", says):
            assert said_hertz(bass[1]) == pytest.approx(after.corners_hz[0], rel=0.05)
            assert after.corners_hz[0] != pytest.approx(before.corners_hz[0] or 1.0, rel=0.05)
        if treble := re.search(r"treble ([+−]\d+) dB at 2.7 kHz", says):
            louder = treble_db(after) - treble_db(before)
            # of a case it is what is won there, by whatever the level moves
            assert number(treble[1]) == pytest.approx(louder, abs=0.51) or "case" in name
        known = {f.code for f in before.findings}
        arisen = {f.code for f in after.findings if f.severity != "fine"} - known
        then = re.search(r"then see: (.+)$", says)
        assert {c.replace("-", " ") for c in arisen} == set(then[1].split(", ") if then else ())
        assert ("goes part of the way" in says) == (not remedy.whole)
        assert set(remedy.leaves) == {f.code for f in after.findings if f.severity != "fine"}


def test_what_is_still_silent_is_said_to_be():
    """A battery for a capsule that hangs on the wrong contact of nothing: no level is claimed."""
    dead = station_of(gear("electret-2-wire", "capsule"), SET)
    before = assess(dead)
    (feed, *_) = (r for f in before.findings for r in remedies(before, f))
    assert re.search(r"at the radio −\d+\.\d dBu", feed.effect)
    assert "→" not in feed.effect
