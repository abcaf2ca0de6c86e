"""One truth asked by all spaces: on the demo and on stations that somebody typed in."""

import pytest
from PySide6.QtWidgets import QApplication

from tests.conftest import gear, station_of
from tonleiter.app.jobs import Wait
from tonleiter.app.spaces.registry import SPACES
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.station import edits, wirings
from tonleiter.core.station.begin import begun
from tonleiter.core.station.files import save_station

MIC = gear("dynamic-microphone", "mic", coil_ohm=300)
ELECTRET = gear("electret-2-wire", "capsule")
CARBON = gear("carbon-microphone", "carbon")
RADIO = gear("microphone-socket", "radio", z_in_ohm=600)
BIASED = RADIO | {"bias_v": 8, "bias_ohm": 1100}

# a stop each: what an old hand would not plug in, by its code
STOPPED = {
    "8 V on a coil": (station_of(MIC, BIASED), "dc-through-winding"),
    "an electret without bias": (station_of(ELECTRET, RADIO), "electret-no-bias"),
    "carbon without current": (station_of(CARBON, RADIO), "carbon-no-current"),
    "phantom missing": (station_of(gear("phantom-condenser", "studio"), RADIO), "no-phantom"),
    "line into a microphone socket": (
        station_of(gear("line-source", "player", full_scale_dbu=20), RADIO), "line-into-mic"),
}  # fmt: skip


def shown(window, name):
    window.go_to(name)
    space = window.space(name)
    space.model.finish()
    QApplication.processEvents()
    return space


@pytest.mark.table(keep=6)
@pytest.mark.parametrize("what", list(STOPPED))
def test_a_stop_leads_in_every_space(open_window, tmp_path, what):
    of, code = STOPPED[what]
    assert code in {f.code for f in verdict_of(of).stops()}
    save_station(of, tmp_path / "typed.station")
    window = open_window(tmp_path / "typed.station")
    ladder = shown(window, "ladder")
    assert code in {f.code for f in ladder.model.stops()}
    wire = shown(window, "wire")
    assert "to mend first" in wire.headline()
    assert code in {f.code for f in wire.model.found()}
    prove = shown(window, "prove")
    assert prove._says.text().startswith("Mend first: ")
    panel = shown(window, "set")
    assert panel._says.text().startswith("Mend first: ")
    assert "every knob is where it should be" not in panel._proves.text().lower()
    assert panel.guide is not None
    for name in ("ladder", "wire", "prove", "set"):
        assert window.space(name).badge().severity == "stop"


def test_the_ghost_follows_who_speaks(window):
    """Loud is 12 dB over normal: the ghost is as loud as the chain beside it."""
    space = shown(window, "ladder")
    chain = space.model.chain
    other = next(v.id for v in chain.variants if v.id != chain.shown)
    space.model.set_chain("ghost", ghost=other)
    before = space.model.ghost.rows[-1].speech_dbu
    who = chain.operator
    window.document.edit(
        "louder",
        lambda s: edits.change_station(
            s,
            operators=tuple(
                o.model_copy(update={"effort": "loud"}) if o.id == who else o for o in s.operators
            ),
        ),
    )
    assert space.model.ghost.rows[-1].speech_dbu == pytest.approx(before + 12, abs=0.1)


@pytest.mark.long
def test_a_new_station_has_no_badge_of_the_one_before(window):
    for name in ("wire", "prove", "set"):
        shown(window, name)
    assert window.buttons["wire"].accessibleDescription() != "Wire"
    assert window.filing.begin_empty()
    for entry in SPACES:
        assert window.buttons[entry.name].accessibleDescription() in ("", entry.title)


@pytest.mark.long
def test_badges_of_spaces_out_of_sight_do_not_speak_of_what_was(window):
    """A stop mended on the Ladder is no stop in Wire, though nobody has looked there since."""
    shown(window, "wire")
    assert window.space("wire").badge().severity == "stop"
    ladder = shown(window, "ladder")
    finding = ladder.model.stops()[0]
    ladder.model.apply(ladder.model.remedies_for(finding)[0], finding)
    assert window.space("wire").badge() is None
    assert shown(window, "wire").badge() is None or window.space("wire").badge().severity != "stop"


def test_a_knob_in_set_solves_no_chain_again_and_a_remedy_keeps_it(window):
    ladder = shown(window, "ladder")
    verdict, finding = ladder.model.verdict, ladder.model.stops()[0]
    remedy = ladder.model.remedies_for(finding)[0]
    chain = ladder.model.chain.id
    turned = ladder.model.chain.panel.but(knobs={"gain": 33.0})
    window.document.edit("knob", lambda s: edits.change_chain(s, chain, panel=turned))
    ladder.model.finish()
    assert ladder.model.verdict is verdict
    ladder.model.apply(remedy, finding)
    assert window.document.station.chain().panel.knobs == {"gain": 33.0}


@pytest.mark.long
def test_spaces_share_a_verdict_and_what_is_gone_shows_its_empty_state(window, tmp_path):
    assert shown(window, "ladder").model.verdict is shown(window, "wire").model.verdict
    for name in ("prove", "set", "wire", "ladder"):
        shown(window, name)
    empty = begun()
    window.document.edit("all gone", lambda s: edits.change_station(
        s, chains=(), open_chain=None, gear=empty.gear, devices=(), links=()))  # fmt: skip
    for name in ("prove", "set", "wire", "ladder"):
        space = shown(window, name)
        assert space.badge() is None
        assert "chain" in space._says.text() or "Nothing" in space._says.text()
    window.undo()
    assert shown(window, "ladder").model.verdict is not None


@pytest.mark.long
def test_a_tick_survives_a_new_name_and_a_new_voice_but_not_a_new_wire(window):
    prove = shown(window, "prove")
    look = next(c for c in prove.model.checks("look") if c.id == "strain-relief")
    prove.model.tick("look", look, True)
    face = next(c for c in prove.model.checks("look") if c.id.startswith("face:"))
    prove.model.tick("look", face, True)
    prove.model.show_step("dc")
    prove.model.read_off(prove.model.of_step("dc")[:1])
    radio = window.document.station.chain().variant().stages[-1].gear
    box = window.document.station.device_by_port[radio].id
    named = window.document
    named.edit("name", lambda s: edits.change_gear(s, radio, name="renamed"))
    named.edit("voice", lambda s: edits.change_chain(s, s.chain().id, distance_mm=55))
    prove.model.finish()
    assert prove.model.is_seen("look", face)
    assert not prove.model.older()
    chain = named.station.chain()
    ids = chain.id, chain.variant().id
    end = next(e.id for e in prove.model.found.build.ends if e.device == box)
    named.edit("wire", lambda s: wirings.land(s, *ids, end, "hot", None))
    prove.model.finish()
    assert prove.model.older()
    prove.model.still_hold()
    assert not prove.model.older()


@pytest.mark.long
def test_doubts_and_bands_belong_to_what_is_shown(window):
    ladder = shown(window, "ladder")
    ladder.model.finish(Wait.LATER)
    assert ladder.model.doubts is not None
    ladder.model.open_chain("fm-headset")
    assert ladder.model.bands == {}
    assert ladder.model.doubts is None
