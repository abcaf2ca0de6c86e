"""What is next: what an old hand would do first on stations whose open ends are known."""

import json
from datetime import datetime, timedelta

import pytest

from tests.conftest import gear, mended_demo
from tests.core.wiring.benches import radio
from tests.core.wiring.benches import station as chain_station
from tonleiter.cli.main import main
from tonleiter.core.gear.figure import Figure
from tonleiter.core.guide.cards import card_of
from tonleiter.core.guide.onair import on_air
from tonleiter.core.judge.certainty import doubts_of
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.next_task import NextTask, evening, headline, next_tasks, shopping
from tonleiter.core.log.telling import Saying
from tonleiter.core.log.wear import HOURS_A_DAY, worn
from tonleiter.core.report.drawings import battery_hours
from tonleiter.core.setup.modes import scene_of
from tonleiter.core.station import edits
from tonleiter.core.station.files import save_station
from tonleiter.core.station.proved import Proved
from tonleiter.core.station.records import NO_RECORDS, keep_card, note_proved
from tonleiter.core.words import within


def only(station, chain):
    """A station with one chain."""
    return station.but(chains=tuple(c for c in station.chains if c.id == chain), open_chain=chain)


@pytest.fixture(scope="module")
def sound():
    return only(mended_demo(), "hf-chat")


def titles(tasks):
    return [t.title for t in tasks]


def test_a_stop_comes_before_everything_and_nothing_is_built_on_it(demo):
    tasks = next_tasks(demo, NO_RECORDS)
    assert tasks[0].title.startswith("Mend “HF, evening round”: 8 V")
    chat = [t for t in tasks if t.chain == "hf-chat"]
    assert all(t.title.startswith("Mend") for t in chat), "no card, no build of what is ill"
    assert headline(tasks).startswith("Next: mend “HF, evening round”")


def test_of_two_chains_with_a_stop_the_one_that_lies_open_comes_first(demo):
    """As Ladder, Wire and Set begin with it."""
    again = demo.chain("hf-chat").model_copy(update={"id": "again", "name": "HF, once more"})
    both = demo.but(chains=(*demo.chains, again))
    for opened in ("hf-chat", "again"):
        shown = edits.open_chain(both, opened)
        first, second = next_tasks(shown, NO_RECORDS)[:2]
        assert (first.chain, {first.chain, second.chain}) == (opened, {"hf-chat", "again"})
        assert within(verdict_of(shown).stops()[0].says) in first.title


def test_what_was_never_written_down_is_set_and_kept(sound):
    tasks = next_tasks(sound, NO_RECORDS)
    assert "Set “HF, evening round” and keep the card" in titles(tasks)
    case = on_air(sound)
    card = card_of(scene_of(case, sound.chain().panel), NO_RECORDS, "2031-05-14")
    kept = keep_card(NO_RECORDS, card)
    assert not any("Set " in t for t in titles(next_tasks(sound, kept)))
    further = edits.change_chain(sound, "hf-chat", distance_mm=120)
    (anew,) = [t for t in next_tasks(further, kept) if t.where == "set"]
    assert anew.why == "the chain was changed since the card of 2031-05-14"


def test_what_is_to_be_built_is_wanted_once_and_proved_when_it_changed(sound):
    tasks = next_tasks(sound, NO_RECORDS)
    (build,) = [t for t in tasks if t.title.startswith("Build and prove")]
    assert build.solders
    assert build.minutes > 20
    assert set(build.needs) <= set(shopping(tasks))
    chain, variant = sound.chain(), sound.chain().variant()
    records = NO_RECORDS
    for part in range(4):
        old = Proved(chain=chain.id, variant=variant.id, part=part, day="2031-05-01", basis="other")
        records = note_proved(records, old)
    again = next_tasks(sound, records)
    assert not any(t.title.startswith("Build and prove") for t in again)
    assert shopping(again) == ()
    (anew,) = [t for t in again if t.where == "prove"]
    assert anew.why == "it was changed since 2031-05-01"


def test_a_report_that_nothing_answers_is_gone_after(sound):
    entry = LogEntry(at="2031-05-14T20:15+02:00", kind="report", words=("hum",))
    saying = Saying(
        "mind", "“Hum”: a report", "nothing is written", "stage dynamic", (entry,), "hum"
    )
    tasks = next_tasks(sound, NO_RECORDS, (saying,))
    assert tasks[0].title == "Find the cause of “hum”, stage dynamic"


def test_an_evening_holds_what_fits_and_heats_the_iron_once():
    def task(name, minutes, solders=False, worth=50, needs=()):
        return NextTask(name, "", minutes, worth, "wire", solders=solders, needs=needs)

    every = (
        task("mend", 15, True), task("card", 10), task("build", 60, True, needs=("1 k",)),
        task("Get 3 parts", 15, needs=("1 k",)), task("practise", 10),
    )  # fmt: skip
    assert titles(evening(every)) == ["mend", "Get 3 parts", "build", "card", "practise"]
    assert titles(evening(every, 40)) == ["mend", "card", "Get 3 parts"]
    assert titles(evening(every, 60, solders=False)) == ["card", "Get 3 parts", "practise"]
    assert evening(every, 5) == ()


def test_where_nothing_is_open_there_is_still_practice():
    tasks = next_tasks(mended_demo().but(chains=(), open_chain=None), NO_RECORDS)
    assert titles(tasks) == ["Practise on a hidden fault"]
    assert headline(tasks) == ""


@pytest.mark.long
def test_the_command_prints_and_refuses_in_one_line(demo_folder, capsys):
    save_station(only(mended_demo(), "hf-chat"), demo_folder)
    assert main(["next", str(demo_folder), "--minutes", "60", "--no-soldering", "--json"]) == 0
    made = json.loads(capsys.readouterr().out)
    assert made["tasks"]
    assert sum(t["minutes"] for t in made["tasks"]) <= 60
    assert not any(t["solders"] for t in made["tasks"])
    assert main(["next", str(demo_folder), "--minutes", "0"]) == 2
    assert capsys.readouterr().err.count("\n") == 1


# --- doubts, batteries, purchases ----------------------------------------------------------------


def test_what_was_bought_waits_for_its_build_for_a_month(sound):
    wanted = shopping(next_tasks(sound, NO_RECORDS))
    assert wanted
    now = datetime.now().astimezone()

    def bought(days):
        when = (now - timedelta(days=days)).isoformat(timespec="minutes")
        return LogEntry(at=when, kind="purchase", title="parts", text="; ".join(wanted))

    fresh = next_tasks(sound, NO_RECORDS, entries=[bought(3)])
    assert not shopping(fresh)
    (build,) = [t for t in fresh if t.title.startswith("Build and prove")]
    assert not build.needs, "they lie there"
    assert shopping(next_tasks(sound, NO_RECORDS, entries=[bought(60)])) == wanted


@pytest.mark.long
def test_a_figure_whose_doubt_decides_is_to_be_found_out(sound):
    """A microphone of which only a wide range is known may be too weak, or not."""
    wide = edits.change_gear(
        sound, "stage-dynamic", sensitivity_mv_per_pa=Figure(value=0.4, low=0.05, high=3.0)
    )
    made = next_tasks(wide, NO_RECORDS, doubts=lambda v: doubts_of(v.assessment))
    found = [t for t in made if t.title.startswith("Find out the ")]
    assert any("sensitivity" in t.title.lower() for t in found)
    assert all(t.where == "gear" and t.why.startswith("it decides whether") for t in found)
    # nobody is sent to measure what decides nothing
    sure = edits.change_gear(sound, "stage-dynamic", sensitivity_mv_per_pa=Figure(value=1.8))
    for t in next_tasks(sure, NO_RECORDS, doubts=lambda v: doubts_of(v.assessment)):
        assert "sensitivity" not in t.title.lower()


def test_a_battery_whose_hours_are_over_by_the_log_is_measured():
    """Nine volts of half an ampere-hour: some milliamperes wear it in weeks of evenings."""
    station = chain_station(gear("electret-2-wire", "mic"), gear("jfet-preamp", "pre"), radio())
    found = verdict_of(station)
    ((stage, hours),) = battery_hours(found.assessment.solution).items()
    assert stage == "pre"
    chain = station.chain().id
    evenings = int(hours / HOURS_A_DAY) + 1
    now = datetime.now().astimezone()

    def heard(count, **of):
        return [
            LogEntry(
                at=(now - timedelta(days=2 * k)).isoformat(timespec="minutes"),
                kind="report", words=("clear",), chain_id=chain,
            )
            for k in range(count)
        ]  # fmt: skip

    assert not worn(found, heard(int(0.5 * evenings)))
    (one,) = worn(found, heard(evenings))
    assert one.used >= 0.8 * hours
    tasks = next_tasks(station, NO_RECORDS, entries=heard(evenings))
    assert any(t.title.startswith("Measure the battery of the") for t in tasks)
    changed = LogEntry(at=(now - timedelta(days=10)).isoformat(timespec="minutes"), kind="note",
                       title="new battery", chain_id=chain)  # fmt: skip
    assert not worn(found, [*heard(evenings), changed])
