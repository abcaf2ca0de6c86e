"""As the chain predicted: another voice accuses no right chain, and what is wrong is seen."""

import functools

import pytest

from tonleiter.app.demo import shipped_demo
from tonleiter.core.guide import onair
from tonleiter.core.guide.onair import on_air
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.listen.measures import Told
from tonleiter.core.report.promised import Promise, broken, expected, promises, said
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


@pytest.mark.parametrize(("shown", "words"), [(-13.0, "10 less"), (7.0, "10 more")])
def test_what_differs_says_both_figures_and_which_way(shown, words):
    made = (Promise("Bass", "dB", -3.0, Told(shown, 0.5), 6.0, "a coupling capacitor"),)
    (found,) = broken("A", made)
    assert f"promises −3 dB, the recording shows {shown:.0f}".replace("-", "−") in found.proof
    assert f"{words}." in found.proof
    assert said(made).endswith("Look at a coupling capacitor.")


@pytest.mark.parametrize(
    ("by", "sure", "more_is_fine", "agrees"),
    [(6.0, 0.0, False, True), (6.1, 0.0, False, False), (-7.0, 0.5, False, True),
     (-7.1, 0.5, False, False), (30.0, 0.0, True, True), (-6.1, 0.0, True, False)],
)  # fmt: skip
def test_within_what_voices_differ_by_and_what_is_sure_it_agrees(by, sure, more_is_fine, agrees):
    one = Promise("Hum", "dB", 40.0, Told(40.0 + by, sure), 6.0, "", more_is_fine)
    assert one.agrees is agrees


def test_what_the_recording_cannot_tell_is_neither():
    one = Promise("Bass", "dB", -3.0, Told(None, 0.0, "nobody speaks"), 6.0)
    assert one.agrees is None
    assert broken("A", (one,)) == ()
    assert said((one,)) == "The recording tells nothing that the chain promises."
