"""As the chain predicted: another voice accuses no right chain, and what is wrong is seen."""

import functools

import pytest

from tonleiter.app.demo import shipped_demo
from tonleiter.core.guide import onair
from tonleiter.core.guide.onair import on_air
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.promised import broken, expected, promises, said
from tonleiter.core.setup.modes import settled
from tonleiter.core.sound.voices import voice
from tonleiter.core.station import edits
from tonleiter.core.station.files import read_station

CHAT, FM = "hf-chat", "fm-headset"


@pytest.fixture(scope="module", autouse=True)
def whole_voices():
    """A tone is told of ten seconds, not of six."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(onair, "voice", lambda pitch, effort="normal": voice(pitch, effort))
        yield


@functools.cache
def right():
    """The demo's chat with its mixer at the radio's outlet, and its headset; both are set."""
    base = edits.change_chain(read_station(shipped_demo()).station, CHAT, shown="as-wired")
    base = edits.change_gear(base, "desk-mixer", earth_emf_v=1e-4)
    for chain in (CHAT, FM):
        panel = settled(on_air(base, chain), base.chain(chain).panel).panel
        base = edits.change_chain(base, chain, panel=panel)
    return base


def recorded(station, chain, far=False):
    return expected(station, verdict_of(station, chain), station.chain(chain).panel, far)


@functools.cache
def promised(chain, far=False):
    return recorded(right(), chain, far)


@pytest.mark.long
@pytest.mark.parametrize("pitch", ["deep", "high"])
@pytest.mark.parametrize("effort", ["soft", "normal"])
@pytest.mark.parametrize("chain, far", [(CHAT, False), (FM, False)])
def test_another_voice_on_a_right_chain_breaks_no_promise(chain, far, pitch, effort):
    base = right()
    who = base.chain(chain).operator
    operators = tuple(
        o.but(pitch=pitch, effort=effort) if o.id == who else o for o in base.operators
    )
    other = recorded(edits.change_station(base, operators=operators), chain, far)
    made = promises(promised(chain, far), other, far)
    assert made
    assert broken("A", made) == ()
    assert said(made).startswith("It shows what the chain promises")


@pytest.mark.long
@pytest.mark.parametrize("chain, piece, change, titles", [
    (CHAT, "stage-dynamic", {"housing": "in-case", "over_it": "foam", "opening_mm": 1.0,
                             "opening_long_mm": 6.0}, {"Treble"}),
    (CHAT, "desk-mixer", {"gain_db": 59.0}, {"Speech over noise"}),
    (FM, "electret-headset", {"housing": "in-case", "over_it": "foam", "opening_mm": 0.6,
                              "opening_long_mm": 6.0}, {"Treble", "Bass"}),
])  # fmt: skip
def test_what_was_changed_is_seen_and_where_to_look(chain, piece, change, titles):
    ill = recorded(edits.change_gear(right(), piece, **change), chain)
    found = broken("B", promises(promised(chain), ill))
    named = {f.says.partition(": ")[2].split(" is not")[0] for f in found}
    assert {t.lower() for t in titles} <= named
    assert all("Look at " in f.proof and f.severity == "mind" for f in found)


@pytest.mark.long
def test_a_quieter_room_than_was_entered_is_no_fault():
    loud = edits.change_station(right(), room_noise_dba=52.0)
    made = promises(recorded(loud, CHAT), promised(CHAT))
    assert broken("A", made) == ()
    assert broken("A", promises(promised(CHAT), recorded(loud, CHAT)))


@pytest.mark.long
def test_by_air_hum_and_noise_are_the_band_s():
    made = promises(promised(CHAT, True), promised(CHAT, True), by_air=True)
    assert {p.title for p in made} == {"Bass", "Treble"}
