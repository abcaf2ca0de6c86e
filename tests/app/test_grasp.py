import pytest

from tonleiter.app.spaces.ladder.grasp import VOICE_INDEX, nudge, pull
from tonleiter.core.judge.assess import assess
from tonleiter.core.report.headline import headline
from tonleiter.core.report.results import pad_choices, stage_results, voice_results
from tonleiter.core.station import edits
from tonleiter.core.units.preferred import between


def moved(station, move):
    if move.stage == VOICE_INDEX:
        return edits.change_chain(station, "hf-chat", distance_mm=move.value)
    return edits.set_value(
        station, "hf-chat", "with-transformer", move.stage, move.field, move.value
    )


@pytest.mark.parametrize(("stage", "up_db"), [(2, 6.0), (3, 8.0), (3, -8.0), (VOICE_INDEX, 3.0)])
def test_pulling_a_stage_moves_the_level_behind_it(demo, stage, up_db):
    before = assess(demo)
    after = assess(moved(demo, pull(before, stage, up_db)))
    change = after.rows[max(stage, 0)].speech_dbu - before.rows[max(stage, 0)].speech_dbu
    # preferred values and whole millimetres are half a decibel off at most
    assert change == pytest.approx(up_db, abs=0.6)


def test_pads_stay_on_preferred_values(demo):
    move = pull(assess(demo), 3, 3.3)
    assert move.value in between(10, 1e6, "E24")


def test_limits_hold(demo):
    before = assess(demo)
    assert pull(before, 2, 500).value == 60
    assert pull(before, VOICE_INDEX, 500).value == 10
    assert pull(before, VOICE_INDEX, -500).value == 600
    assert pull(before, 3, 500).value == 10


def test_facts_cannot_be_pulled(demo):
    assert pull(assess(demo), 0, 3) is None
    assert nudge(assess(demo), 6, 1) is None


@pytest.mark.parametrize("stage", [1, 2, 3, VOICE_INDEX])
def test_nudging_up_and_down_comes_back(demo, stage):
    up = moved(demo, nudge(assess(demo), stage, 1))
    assert up != demo
    back = moved(up, nudge(assess(up), stage, -1))
    assert assess(back).rows[-1].speech_dbu == pytest.approx(assess(demo).rows[-1].speech_dbu)


def test_nudging_a_capacitor_walks_its_series(demo):
    from tonleiter.core.gear.passives import SeriesCapacitor

    with_cap = edits.insert_stage(
        demo, "hf-chat", "with-transformer", 5, SeriesCapacitor(id="c", name="c")
    )
    assert nudge(assess(with_cap), 5, 1).value == pytest.approx(1.5e-6)
    assert nudge(assess(with_cap), 5, -1).value == pytest.approx(0.68e-6)


def test_headline_speaks_of_level_then_of_what_must_be_mended(demo):
    line = headline(assess(demo))
    assert "of speech: right in its window" in line.says
    assert line.proves.startswith("One thing must be mended first. 8 V")


def test_headline_of_a_dead_microphone(demo):
    dead = edits.swap_gear(demo, "hf-chat", "with-transformer", 0, "electret-headset")
    assert "nothing: the microphone is dead" in headline(assess(dead)).says


@pytest.mark.parametrize(("gain", "words"), [(20, "below its window"), (32, "near its top")])
def test_headline_outside_the_window(demo, gain, words):
    station = edits.set_value(demo, "hf-chat", "as-wired", 2, "gain_db", gain)
    assert words in headline(assess(station, "hf-chat", "as-wired")).says


def test_headline_names_the_tightest_place(demo):
    line = headline(assess(demo, "hf-chat", "as-wired"))
    assert "the tightest place is the 20 W HF set" in line.proves


def test_pad_choices_bring_the_radio_to_its_middle(demo):
    before = assess(demo)
    designs = pad_choices(before, 3)
    assert len(designs) == 3
    for design in designs:
        station = demo
        for field, value in design.values:
            station = edits.set_value(station, "hf-chat", "with-transformer", 3, field, value)
        # a transformer between pad and radio sees another source: 2 dB for that
        assert assess(station).rows[-1].speech_dbu == pytest.approx(-53, abs=2)
    assert pad_choices(before, 2) == []


def test_results_name_neighbours_and_units(demo):
    lines = {line.name: line.value for line in stage_results(assess(demo), 3)}
    assert lines["Loss, loaded"].startswith("−41")
    assert lines["Seen by desk mixer"].endswith("kΩ")
    assert lines["Seen by transformer"].endswith("Ω")
    voice = {line.name: line.value for line in voice_results(assess(demo))}
    assert voice["Distance"] == "3 cm"
    assert voice["Room"] == "38.0 dBA"
