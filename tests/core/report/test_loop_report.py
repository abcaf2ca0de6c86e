"""The desk of a computer as data: who holds what, volts by hand, what is to be mended."""

import json
import math

import pytest

from tests.core.desks import BOX, OUT, RIGHT, STOLEN, looped
from tonleiter.core.report.loop_report import loop_report
from tonleiter.core.setup.loop.laid import loop_of


def told(station):
    report = loop_report(loop_of(station, "out"))
    json.dumps(report, allow_nan=False)
    return report


def test_a_desk_as_it_should_be():
    report = told(looped(computer=RIGHT))
    assert report["chain"] == "out"
    assert (report["computer"], report["radio"]) == ("laptop", "rig")
    assert report["program"] == {"out": BOX, "in": BOX}
    of_radio = [d for d in report["devices"] if d["radio"]]
    assert [d["id"] for d in of_radio] == [BOX]
    assert of_radio[0]["loudspeaker"] and of_radio[0]["microphone"] and of_radio[0]["plugged_in"]
    assert of_radio[0]["holds"] == [], "sounds of the system do not go to the radio"
    assert report["altering"] == []
    assert not any(f["code"] == "defaults-stolen" for f in report["findings"])


def test_a_box_that_took_the_defaults_is_said_with_a_way_back():
    report = told(looped(computer=STOLEN))
    held = next(d["holds"] for d in report["devices"] if d["id"] == BOX)
    assert set(held) == {"system-out", "calls-out", "system-in", "calls-in"}
    assert all(f["says"] and f["place"] for f in report["findings"])
    stops = [f for f in report["findings"] if f["severity"] == "stop"]
    assert stops
    assert all(f["remedies"] for f in stops)


def test_volts_at_the_socket_are_those_of_a_divider():
    """A full-scale sine is 4 dBu; 150 ohm before the radio's 10 kilohm take a seventh of a dB."""
    report = told(looped(computer=RIGHT, socket={"z_in_ohm": 10_000}))
    out = report["out"]
    full_v = math.sqrt(0.6) * 10 ** (OUT["full_scale_dbu"] / 20)
    assert out["converter_v"] == pytest.approx(full_v * 10 ** (out["out_dbfs"] / 20), rel=0.01)
    lost_db = 20 * math.log10(10_000 / 10_150)
    at_socket = 20 * math.log10(out["converter_v"] / math.sqrt(0.6)) + lost_db
    assert out["socket_dbu"] == pytest.approx(at_socket, abs=0.05)
    assert out["peak_dbfs"] >= out["out_dbfs"]


def test_a_switch_that_does_not_listen_has_no_threshold():
    vox = told(looped(computer=RIGHT))["keying"]
    assert vox["threshold_dbfs"] is not None and vox["hang_s"] > 0
    line = told(looped(computer=RIGHT, way="serial-opto"))["keying"]
    assert (line["threshold_dbfs"], line["hang_s"]) == (None, None)
    assert line["opens_after_s"] == 0, "a contact waits for no sound"


def test_without_a_way_back_there_is_nothing_to_say_of_it():
    assert told(looped(computer=RIGHT, laid=False))["in"] is None
    back = told(looped(computer=RIGHT))["in"]
    assert back["chain"] == "back"
    assert back["headroom_db"] == pytest.approx(-back["strongest_dbfs"])
