"""Schools of coupling: what each is made of, what it leaves, and what a source cannot bear."""

import pytest

from tests.conftest import gear
from tests.core.wiring.benches import IDS, lead, mic, radio, station
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.judge.wiring.schools import as_ghost, follow, school_now, schools

DESK = gear(
    "amplifier",
    "desk",
    expects="microphone",
    gain_db=20,
    gain_high_db=60,
    supply="safety-earth",
    earth_emf_v=0.02,
    z_out_ohm=100,
)


def hummed(**figures):
    return station(mic(), lead(), DESK, lead("out"), radio(supply="safety-earth", **figures))


def stages(of):
    return [of.placed(s).kind_id for s in of.chain().variant().stages]


@pytest.mark.long
def test_each_school_is_what_it_says():
    found = verdict_of(hummed())
    assert school_now(found, 1) == "straight"
    made = {s.id: s for s in schools(found, 1)}
    assert set(made) == {"cold-to-ground", "transformer"}
    assert stages(made["transformer"].change(found.assessment.station)).count("transformer") == 1
    two_cores = made["cold-to-ground"].change(found.assessment.station)
    forms = [two_cores.placed(s) for s in two_cores.chain().variant().stages]
    assert [g.form for g in forms if g.id == "out"] == ["two-core"]
    # the first lead is another part of the chain: it is left alone
    assert [g.form for g in forms if g.id == "lead"] == ["one-core"]


@pytest.mark.long
def test_a_transformer_breaks_the_loop_between_two_earths():
    found = verdict_of(hummed())
    made = {s.id: s for s in schools(found, 1)}

    def under(of):
        radio_row = of.assessment.rows[-1]
        return radio_row.speech_dbu - radio_row.hum_dbu

    # what is left is what the capacitance between its windings lets through
    assert under(made["transformer"].found) > under(found) + 30
    # two cores tied to ground at the far end do not break a loop of two earths
    assert under(made["cold-to-ground"].found) < under(made["transformer"].found) - 20
    assert "dB lower" in made["transformer"].effect


@pytest.mark.parametrize("bias_v", [0, 8])
def test_a_transformer_brings_its_capacitor_where_bias_stands(bias_v):
    found = verdict_of(hummed(bias_v=bias_v, bias_ohm=2200))
    made = follow(found, 1, "transformer")(found.assessment.station)
    assert ("capacitor" in stages(made)) == (bias_v > 0)
    assert not [f for f in verdict_of(made).findings if f.code == "dc-through-winding"]


def test_there_and_back_is_the_same_wiring():
    found = verdict_of(hummed(bias_v=8, bias_ohm=2200))
    there = verdict_of(follow(found, 1, "transformer")(found.assessment.station))
    back = verdict_of(follow(there, 1, "straight")(there.assessment.station))
    assert stages(back.assessment.station) == stages(found.assessment.station)
    assert back.assessment.rows[-1].speech_dbu == pytest.approx(
        found.assessment.rows[-1].speech_dbu, abs=1e-6
    )


@pytest.mark.parametrize(
    ("form", "school", "wanted"),
    [
        ("star-quad", "cold-to-ground", "star-quad"),
        ("one-core", "cold-to-ground", "two-core"),
        ("two-core", "cold-to-ground", "two-core"),
        ("star-quad", "straight", "one-core"),
    ],
)
def test_a_star_quad_has_its_second_core_already(form, school, wanted):
    """Nobody swaps it for a lead of two cores; straight it is a screen with a hot core."""
    iron = gear("transformer", "iron", ratio=1)
    of = station(mic(), lead(), DESK, lead("out", form=form), iron, radio(supply="safety-earth"))
    made = follow(verdict_of(of), 1, school)(of)
    assert "transformer" not in stages(made)
    assert made.gear_by_id["lead"].form == "one-core", "another part of the chain"
    out = next(s for s in made.chain().variant().stages if s.gear == "out")
    assert made.placed(out).form == wanted


@pytest.mark.long
def test_an_electret_on_the_radio_s_bias_is_offered_no_transformer():
    """Nothing feeds it through a winding."""
    of = station(
        gear("electret-2-wire", "mic"), lead(), radio(z_in_ohm=2000, bias_v=8, bias_ohm=2200)
    )
    assert "transformer" not in {s.id for s in schools(verdict_of(of), 0)}


@pytest.mark.long
def test_a_ghost_leaves_the_wiring_as_it_is():
    found = verdict_of(hummed())
    school = next(s for s in schools(found, 1) if s.id == "transformer")
    station_ = as_ghost(found.assessment.station, found, school)
    chain = station_.chain()
    assert chain.shown == IDS[1]
    assert chain.ghost not in (None, IDS[1])
    assert chain.variant().stages == found.assessment.station.chain().variant().stages
    assert any(
        station_.gear_by_id[s.gear].kind_id == "transformer"
        for s in chain.variant(chain.ghost).stages
    )
