"""Plans: each usual pair comes out as a circuit that works, and what is offered is honest."""

import json

import pytest

from tests.conftest import gear, station_of
from tonleiter.core.gear.active import Amplifier
from tonleiter.core.judge.assess import assess
from tonleiter.core.match.terms import Terms, pair_station
from tonleiter.core.plan import search as searching
from tonleiter.core.plan.candidate import Candidate
from tonleiter.core.plan.explain import explain
from tonleiter.core.plan.report import plan_report
from tonleiter.core.plan.search import OFFERED, plan, search
from tonleiter.core.plan.styles import STYLES
from tonleiter.core.station.model import Station
from tonleiter.core.stop import StoppedError, stopping

DYNAMIC = gear("dynamic-microphone", "dynamic", coil_ohm=300)
PLAYER = gear("line-source", "player", z_out_ohm=470, full_scale_dbu=8.2)
BIASED = gear("microphone-socket", "biased", z_in_ohm=600, bias_v=8, bias_ohm=1100)
PLAIN = gear("microphone-socket", "plain", z_in_ohm=2000)

LAPTOP = gear("line-source", "laptop", z_out_ohm=30, full_scale_dbu=2.2)

USUAL = {
    "dynamic into a biased socket": (DYNAMIC, BIASED, "ssb-chat"),
    "electret into an unbiased socket": (gear("electret-2-wire", "electret"), PLAIN, "ssb-chat"),
    "piezo into 600 ohm": (
        gear("piezo-microphone", "piezo"),
        PLAIN | {"z_in_ohm": 600},
        "ssb-chat",
    ),
    "carbon handset": (gear("carbon-microphone", "carbon"), BIASED, "ssb-chat"),
    "line mixer into a microphone socket": (PLAYER, BIASED, "ssb-chat"),
    "computer into a data socket": (LAPTOP, gear("data-socket", "data"), "data-weak"),
    "loudspeaker into a computer": (
        gear("loudspeaker-output", "speaker"),
        gear("line-input", "computer"),
        "data-weak",
    ),
}


@pytest.fixture(autouse=True, scope="module")
def short_search():
    """Values are moved about once, for the best few: what is promised of a plan holds before."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(searching, "ROUNDS", 1)
        patch.setattr(searching, "REFINED", 3)
        yield


class Stopped(Candidate):
    """One whose full solution has a stop."""

    stops = True


_PLANNED = {}


def planned(*asked, **station_fields):
    """A plan is searched once for all tests that ask for it: it is the same each time."""
    key = json.dumps([asked, station_fields], default=str, sort_keys=True)
    if key not in _PLANNED:
        _PLANNED[key] = searched(*asked, **station_fields)
    return _PLANNED[key]


def searched(source, socket, purpose="ssb-chat", style="simple", *others, **station_fields):
    station = station_of(source, socket, purpose=purpose)
    fields = {name: getattr(station, name) for name in Station.model_fields} | station_fields
    fields["gear"] = (*station.gear, *others)
    station = Station.model_validate(fields)
    terms = Terms(purpose, "op", 30.0)
    return plan(station, source["id"], socket["id"], terms, style), terms, station


@pytest.fixture(scope="module", params=list(USUAL))
def usual(request):
    return request.param, *planned(*USUAL[request.param])


@pytest.mark.long
def test_the_first_plan_of_a_usual_pair_has_nothing_above_fine_and_hits_the_window(usual):
    name, progress, _, _ = usual
    best = progress.best[0]
    # a loudspeaker straight into a computer hums a little under its tones, and is offered with that
    minded = {"earth-loop"} if name.startswith("loudspeaker") else set()
    assert {f.code for f in best.assessment.findings if f.severity != "fine"} == minded
    row = best.assessment.rows[-1]
    assert row.window.holds(row.speech_dbu)
    if row.knob is None:
        assert abs(best.figures.off_middle_db) <= 3.0


@pytest.mark.long
def test_plans_are_what_a_solve_of_their_pieces_gives(usual):
    _, progress, terms, station = usual
    for candidate in progress.best:
        again = assess(pair_station(station, candidate.pieces, terms))
        assert again.rows[-1].speech_dbu == candidate.assessment.rows[-1].speech_dbu
        assert not again.stops()


@pytest.mark.long
def test_plans_on_offer_differ_and_stand_in_order(usual):
    _, progress, _, _ = usual
    topologies = [c.topology for c in progress.best]
    assert len(set(topologies)) == len(topologies) <= OFFERED
    costs = [c.cost for c in progress.best]
    assert costs == sorted(costs)
    assert all(w.why and w.costs for w in explain(progress.best))


@pytest.mark.long
def test_what_each_kind_of_source_needs_is_in_its_plan(usual):
    name, progress, _, _ = usual
    needed = {"electret": "bias-feed", "carbon": "bias-feed", "piezo": "preamp"}
    for word, kind in needed.items():
        if name.startswith(word):
            assert any(kind in k for k in progress.best[0].topology)
    if name.startswith("line mixer"):
        assert any(k == "pad" for k in progress.best[0].topology)


@pytest.mark.long
def test_a_usual_pair_is_searched_widely(usual):
    name, progress, _, _ = usual
    assert progress.finished
    assert progress.solved >= (80 if name.startswith(("dynamic", "electret", "piezo")) else 40)


@pytest.mark.long
def test_the_same_station_gives_the_same_plans():
    first, _, _ = planned(*USUAL["loudspeaker into a computer"])
    second, _, _ = searched(*USUAL["loudspeaker into a computer"])
    assert [c.pieces for c in first.best] == [c.pieces for c in second.best]


@pytest.mark.long
def test_isolated_plans_part_the_grounds():
    progress, _, _ = planned(PLAYER, BIASED, "ssb-chat", "isolated")
    assert progress.best
    assert all("transformer" in c.topology for c in progress.best)
    # the pin's 8 V must not stand on the winding
    assert all("capacitor" in c.topology for c in progress.best)


@pytest.mark.long
def test_outboard_plans_go_through_a_box_and_come_down_again():
    progress, _, _ = planned(DYNAMIC, BIASED, "ssb-chat", "outboard")
    for candidate in progress.best:
        assert any(isinstance(g, Amplifier) for g in candidate.between)
        # without a pad the box works far below its own level: offered last, and said
        assert ("pad" in candidate.topology) != bool(candidate.figures.troubles)
    assert "pad" in progress.best[0].topology


@pytest.mark.long
def test_battery_plans_hang_on_no_mains(monkeypatch):
    monkeypatch.setattr(searching, "MOST_SOLVES", 150)
    strip = gear("amplifier", "mains mixer", expects="microphone", gain_high_db=60)
    mixer = station_of(DYNAMIC, strip | {"id": "mixer"}, BIASED).gear_by_id["mixer"]
    progress, _, _ = planned(DYNAMIC, BIASED, "ssb-chat", "battery", mixer)
    assert progress.best
    assert not any(g.on_mains() for c in progress.best for g in c.between)


def test_only_what_lies_in_the_drawer():
    drawer = {"resistors": ["100", "470", "1k", "4k7", "10k", "47k"], "capacitors": ["1u", "10u"]}
    progress, _, station = planned(PLAYER, BIASED, drawer=drawer)
    allowed = set(station.drawer.ohms())
    for candidate in progress.best:
        for piece in candidate.between:
            for field in piece.choices:
                if field.endswith("_ohm") and piece.kind_id != "trim-pot":
                    assert piece.figure(field).value in allowed


@pytest.mark.long
def test_preamps_too_are_made_of_what_lies_in_the_drawer(monkeypatch):
    monkeypatch.setattr(searching, "MOST_SOLVES", 150)
    drawer = {"resistors": ["470", "1k", "4k7", "22k", "100k"], "capacitors": ["1u", "10u"]}
    progress, _, station = planned(DYNAMIC, BIASED, drawer=drawer)
    assert progress.best
    for candidate in progress.best:
        for piece in candidate.between:
            for field, (quantity, _) in piece.figures().items():
                if field in piece.choices and quantity.unit.symbol == "Ω":
                    assert piece.figure(field).value in station.drawer.ohms()


def divider_station():
    divider = gear("input-divider", "divider")
    # made for a crystal's tenths of a volt: 40 dB down, then a sensitive first stage
    old = PLAIN | {"id": "old", "z_in_ohm": 1e6, "wants_dbu": -63}
    mic = gear("dynamic-microphone", "dynamic", coil_ohm=600, sensitivity_mv_per_pa=2)
    return station_of(mic, divider, old)


@pytest.mark.long
def test_an_old_radios_divider_is_changed_unless_nothing_may_be_cut(monkeypatch):
    monkeypatch.setattr(searching, "MOST_SOLVES", 120)
    station, terms = divider_station(), Terms("ssb-chat", "op", 30.0)
    free = plan(station, "dynamic", "old", terms, "simple")
    changed = [c for c in free.best if not c.figures.reversible]
    assert changed
    divider = next(g for g in changed[0].pieces if g.kind_id == "input-divider")
    assert divider.was_upper_ohm.value == 470e3
    kept = plan(station, "dynamic", "old", terms, "reversible")
    assert kept.best
    assert all(c.figures.reversible for c in kept.best)


@pytest.mark.long
def test_results_come_as_they_are_found_and_a_stop_keeps_them():
    station = station_of(PLAYER, BIASED)
    seen = []
    with stopping(lambda: len(seen) > 5), pytest.raises(StoppedError):
        for progress in search(
            station, "player", "biased", Terms("ssb-chat", "op", 30.0), "simple"
        ):
            seen.append(progress)
    assert [p.solved for p in seen] == sorted(p.solved for p in seen)
    assert len(seen) < 12
    assert seen[-1].best


@pytest.mark.long
def test_what_is_stopped_on_the_full_grid_is_not_offered(monkeypatch):
    """A draft of few frequencies may look well; what was solved whole has the last word."""
    drafts, fine = searching._Search._solve, []

    def solve(self, path, points=searching.DRAFT_POINTS):
        made = drafts(self, path, points)
        if made is None or points == searching.DRAFT_POINTS:
            return made
        fine.append(made)
        if len(fine) == 1:
            return None
        return Stopped(**vars(made)) if len(fine) == 2 else made

    monkeypatch.setattr(searching._Search, "_solve", solve)
    found = searched(PLAYER, PLAIN, "ssb-chat", "simple")[0]
    assert len(fine) > 2, "some were solved whole"
    assert found.best
    assert not any(isinstance(c, Stopped) for c in found.best)


@pytest.mark.long
def test_report_is_plain_json_with_parts_and_a_transmit_switch():
    progress, terms, _ = planned(PLAYER, BIASED)
    report = json.loads(json.dumps(plan_report(progress, terms, "simple"), allow_nan=False))
    best = report["plans"][0]
    assert any(p["name"] == "resistor" for p in best["parts"])
    assert "opto-coupler" in best["transmit_switch"]
    assert best["stages"][0]["owned"] is True
    assert {"why", "costs", "off_middle_db", "snr_db"} <= set(best)


def test_every_style_says_what_it_is():
    assert all(s.says and s.title for s in STYLES.values())
