"""The sheet for the iron: wires, order of work, cautions at their step, what meters find."""

import pytest

from tests.conftest import gear
from tests.core.wiring.benches import finding, landed, lead, mic, plain, radio, station
from tests.core.wiring.test_sheets import BUILDS
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.worksheet import worksheet, worksheets
from tonleiter.core.safety.cautions import CAUTIONS


def sheet(of, at=0):
    return worksheet(verdict_of(of), at, "2026-03-14")


def boxed(**hands):
    return station(mic(), gear("l-pad", "pad"), lead(), radio(), hands=hands)


def test_every_conductor_of_the_part_is_a_row():
    found = verdict_of(boxed())
    rows = sheet(boxed()).rows
    assert len(rows) == len(found.build.wires_in(0))
    assert ("R2.1", "radio 4", "hot", "white", "2 m") in [
        (r.start, r.end, r.carries, r.colour, r.length) for r in rows
    ]


def test_cautions_stand_at_their_steps_and_the_radio_comes_last():
    steps = sheet(boxed()).steps
    assert next(s.caution for s in steps if "tin every end" in s.says) == CAUTIONS["fumes"]
    assert "Eye protection" in next(s.caution for s in steps if "Drill" in s.says)
    assert steps[-1].caution == CAUTIONS["rf"]
    ring = next(k for k, s in enumerate(steps) if "ring it out" in s.says)
    plug = next(k for k, s in enumerate(steps) if "Plug it in" in s.says)
    assert ring < plug


def test_nothing_is_drilled_where_nothing_is_boxed():
    assert not [s for s in sheet(plain()).steps if "Drill" in s.says]


def test_a_live_contact_has_a_step_of_its_own():
    assert any("Contact 6" in s.says and "insulate" in s.says for s in sheet(plain()).steps)


def test_valve_gear_is_for_qualified_people(demo):
    cautions = [s.caution for s in worksheet(verdict_of(demo, "am-driver"), 1, "today").steps]
    assert CAUTIONS["lethal-volts"] in cautions
    assert CAUTIONS["lethal-volts"] not in [s.caution for s in sheet(plain()).steps]


def test_meters_find_what_the_circuit_has():
    """8 V through 1100 Ω onto 300.2 Ω with its lead: 1.72 V; the pad's shunt rings as 100 Ω."""
    of = station(mic(), lead(), radio(bias_v=8, bias_ohm=1100))
    dc = {e.where: e.reads for e in sheet(of).dc}
    assert dc["radio 4"].startswith("1.72 V")
    ohms = {e.where: e.reads for e in sheet(boxed()).ohms}
    assert ohms["radio 4 – radio 2"] == "100 Ω"


def test_a_stop_stands_on_top():
    of = plain({"landings": landed(hot="6")})
    assert finding(of, "supply-on-wire").says in sheet(of).mends


def test_the_plus_of_a_capacitor_is_said():
    cap = gear("capacitor", "cap", capacitance_f="6.8u", plus_side="output")
    of = station(mic(), cap, lead(), radio())
    assert any("Plus of C1 to hot behind the cap" in s.says for s in sheet(of).steps)


def changed(upper="100k", lower="10k"):
    divider = gear("input-divider", "divider", upper_ohm=upper, lower_ohm=lower)
    return station(mic(), lead(), divider, radio(z_in_ohm=1e6))


def test_work_inside_a_set_has_what_was_there_and_the_way_back():
    """10 of 480 kΩ becomes 10 of 110: 33.6 − 20.8 = 12.8 dB more, into a quarter of the load."""
    (mod,) = sheet(changed()).modifications
    assert "470 kΩ above, 10 kΩ below" in mod.was
    assert "100 kΩ" in mod.put_in
    assert "+12.8 dB" in mod.effect
    assert "480 kΩ → 110 kΩ" in mod.effect
    assert "470 kΩ" in mod.back
    # its plug stays where it was: before the divider
    build = verdict_of(changed()).build
    assert set(build.net_of("radio.mic.4").contacts) == {"mic.plug.1", "radio.mic.4", "R1.1"}
    assert [(c.start, c.end) for c in build.conductors if c.key == "mic:hot"] == [
        ("mic.plug.1", "radio.mic.4")
    ]


def test_a_divider_as_the_maker_built_it_is_no_work():
    of = changed("470k")
    assert sheet(of).modifications == ()
    assert not [p for p in verdict_of(of).build.parts if p.refs]


def test_a_sheet_for_each_part(demo):
    made = worksheets(verdict_of(demo), "today")
    assert [s.title for s in made] == [
        "stage dynamic to desk mixer, mic strip",
        "desk mixer, mic strip to 20 W HF set",
    ]
    with pytest.raises(IndexError):
        worksheet(verdict_of(demo), 2, "today")


def test_a_box_of_several_plugs_is_called_with_the_plug_that_is_meant():
    """“mic 2” is enough where a box has one plug in the build; of two each says which."""
    found = verdict_of(BUILDS["a balanced pad"][0])
    ends = [
        end for s in worksheets(found, "2026-03-14") for r in s.rows for end in (r.start, r.end)
    ]
    assert {e.split()[0] for e in ends} >= {"mixer,", "radio"}
    assert any(e.startswith(("mixer, in ", "mixer, out ")) for e in ends)
    assert not any(e.startswith(("mic, ", "radio, ")) for e in ends)
