"""A radio's data plug: what goes out and what comes back are soldered into one plug."""

from tests.core.desks import looped
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.together import together
from tonleiter.core.report.worksheet import worksheets
from tonleiter.core.station.model import Station

PLUG = {"1": "data-in", "2": "data-ground", "3": "transmit", "4": "data-out", "5": "free"}


def plugged(rig=PLUG, box=None, source="box-out"):
    """The way out and the way back on one plug of the radio; ``box``: and on one of the box."""
    data = looped(source={}).model_dump(mode="json")

    def plug(name, ports, contacts):
        return {
            "id": name,
            "name": name.upper(),
            "shell": "mini-din-6" if len(contacts) > 4 else "jack-3.5-four",
            "ports": ports,
            "basis": "manual",
            "contacts": [{"label": k, "role": r} for k, r in contacts.items()],
        }

    for device in data["devices"]:
        if device["id"] == "rig":
            device["connectors"] = [plug("data", ["rig-in", "rig-ear"], rig)]
        if device["id"] == "box" and box is not None:
            device["connectors"] = [plug("both", ["box-out", "box-in"], box)]
    return Station.model_validate(data)


def of(station, chain="out"):
    return together(station, verdict_of(station, chain))


def test_the_way_back_is_soldered_into_the_same_plug():
    (other,) = of(plugged())
    assert other.chain.id == "back"
    assert other.end == "rig.data"
    assert next(at.label for at in other.contacts if at.thing == other.end) == "4"
    assert "(hot) to 4" in other.words()
    assert not other.in_lead, "the box has a plug for each"


def test_seen_from_the_way_back_it_is_the_way_out():
    (other,) = of(plugged(), "back")
    assert other.chain.id == "out"
    assert "(hot) to 1" in other.words()


def test_a_contact_that_both_want_is_used_one_after_the_other():
    """Each has a plug of its own then: nothing is soldered together."""
    one = {"1": "data-in", "2": "data-ground", "3": "transmit", "4": "free", "5": "free"}
    station = plugged(one)
    assert not any(t.chain.id == "back" and "hot" in t.words() for t in of(station))


def test_between_the_same_two_plugs_it_runs_in_the_same_lead():
    jack = {
        "tip": "audio-out",
        "ring 1": "microphone",
        "ring 2": "audio-ground",
        "sleeve": "microphone-ground",
    }
    both = of(plugged(box=jack))
    assert {t.end for t in both} == {"rig.data", "box.both"}
    assert all(t.in_lead for t in both)


def test_the_sheet_says_what_else_goes_into_the_plug():
    sheet = worksheets(verdict_of(plugged(), "out"), "2031-05-14")[0]
    steps = [s.says for s in sheet.steps]
    (said,) = [line for line in steps if line.startswith("In the same plug, for back: ")]
    assert "to 4" in said
    plug = next(k for k, line in enumerate(steps) if " to the rig" in line and "(hot) to 1" in line)
    assert steps.index(said) > plug


def test_a_chain_that_meets_in_no_plug_is_not_named():
    assert of(looped()) == ()
