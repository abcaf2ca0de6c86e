import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.conftest import gear, station_of
from tonleiter.core.gear.passives import SeriesCapacitor
from tonleiter.core.station import edits
from tonleiter.core.station.history import History


def test_a_shared_choice_is_set_for_one_variant_only(demo):
    after = edits.set_value(demo, "hf-chat", "with-transformer", 3, "series_ohm", 4700)
    shown = after.chain("hf-chat").variant("with-transformer")
    ghost = after.chain("hf-chat").variant("as-wired")
    assert after.placed(shown.stages[3]).series_ohm.value == 4700
    assert after.placed(ghost.stages[3]).series_ohm.value == 10e3
    assert after.gear_by_id["pad"].series_ohm.value == 10e3


def test_a_fact_is_set_for_the_piece_everywhere(demo):
    after = edits.set_value(demo, "hf-chat", "with-transformer", 6, "z_in_ohm", 500)
    for variant in after.chain("hf-chat").variants:
        assert after.placed(variant.stages[-1]).z_in_ohm.value == 500


def test_a_choice_used_once_is_set_on_the_piece():
    station = station_of(
        gear("dynamic-microphone", "mic"), gear("l-pad", "pad"), gear("microphone-socket", "radio")
    )
    after = edits.set_value(station, "c", "v", 1, "series_ohm", 330)
    assert after.gear_by_id["pad"].series_ohm.value == 330


def test_the_old_station_is_untouched(demo):
    before = demo.model_dump()
    edits.set_value(demo, "hf-chat", "with-transformer", 3, "series_ohm", 4700)
    edits.remove_stages(demo, "hf-chat", "with-transformer", {2, 3})
    assert demo.model_dump() == before


def test_insert_remove_swap(demo):
    cap = SeriesCapacitor(id="cap", name="cap")
    after = edits.insert_stage(demo, "hf-chat", "with-transformer", 5, cap)
    ids = [s.gear for s in after.chain("hf-chat").variant().stages]
    assert ids[4:] == ["isolator", "cap", "radio-lead", "hf-set"]
    removed = edits.remove_stages(after, "hf-chat", "with-transformer", {5})
    assert removed.chain("hf-chat") == demo.chain("hf-chat")
    assert "cap" in removed.gear_by_id  # the piece is still owned
    swapped = edits.swap_gear(demo, "hf-chat", "with-transformer", 0, "electret-headset")
    assert swapped.chain("hf-chat").variant().stages[0].gear == "electret-headset"


@pytest.mark.parametrize(
    "spoil",
    [
        lambda s: edits.swap_gear(s, "hf-chat", "with-transformer", 0, "pad"),
        lambda s: edits.swap_gear(s, "hf-chat", "with-transformer", 0, "nothing"),
        lambda s: edits.remove_stages(s, "hf-chat", "with-transformer", {0}),
        lambda s: edits.set_value(s, "hf-chat", "with-transformer", 3, "series_ohm", -1),
        lambda s: edits.set_value(s, "hf-chat", "with-transformer", 2, "gain_db", 99),
        lambda s: edits.change_chain(s, "hf-chat", distance_mm=0),
        lambda s: edits.remove_variant(
            edits.remove_variant(s, "hf-chat", "as-wired"), "hf-chat", "with-transformer"
        ),
    ],
)
def test_edits_that_break_the_station_are_refused(demo, spoil):
    with pytest.raises(ValidationError):
        spoil(demo)


def test_variants(demo):
    after = edits.add_variant(demo, "hf-chat", "With transformer")
    chain = after.chain("hf-chat")
    assert chain.shown == "with-transformer-2"
    assert chain.ghost == "with-transformer"
    back = edits.remove_variant(after, "hf-chat", "with-transformer-2")
    assert len(back.chain("hf-chat").variants) == 2


@pytest.mark.parametrize(
    "shown, ghost, removed, then",
    [
        ("a", "b", "a", ("b", None)),  # what it was compared with takes its place
        ("a", "b", "b", ("a", None)),
        ("a", "b", "c", ("a", "b")),
        ("b", None, "b", ("a", None)),
        ("a", None, "a", ("b", None)),
    ],
)
def test_a_removed_variant_leaves_what_was_beside_it(demo, shown, ghost, removed, then):
    one = demo.chain("hf-chat").variants[0]
    three = tuple(one.model_copy(update={"id": i, "name": i}) for i in "abc")
    station = edits.change_chain(demo, "hf-chat", variants=three, shown=shown, ghost=ghost)
    chain = edits.remove_variant(station, "hf-chat", removed).chain("hf-chat")
    assert (chain.shown, chain.ghost) == then
    assert removed not in [v.id for v in chain.variants]


def test_fresh_ids():
    assert edits.fresh_id({"pad"}, "Pad") == "pad-2"
    assert edits.fresh_id(set(), "10 µF / 5 V!") == "10-f-5-v"
    assert edits.fresh_id(set(), "Ω") == "item"


def titled(station, title):
    return station.model_copy(update={"title": title})


def test_undo_and_redo(demo):
    history = History.start(demo)
    a, b = titled(demo, "a"), titled(demo, "b")
    history = history.push(a, "first").push(b, "second")
    assert history.undo().present.station == a
    assert history.undo().undo().present.station == demo
    assert history.undo().undo().undo().present.station == demo
    assert history.undo().redo().present.station == b
    assert history.redo() == history


def test_a_drag_is_one_step(demo):
    history = History.start(demo)
    for k in range(20):
        history = history.push(titled(demo, f"t{k}"), "drag", gesture="drag 1")
    assert history.undo().present.station == demo
    history = history.settled().push(titled(demo, "next"), "drag", gesture="drag 1")
    assert history.undo().present.station.title == "t19"


def test_an_edit_after_undo_forgets_the_future(demo):
    history = History.start(demo).push(titled(demo, "a"), "a").undo().push(titled(demo, "b"), "b")
    assert not history.future


def test_an_edit_that_changes_nothing_is_no_step(demo):
    assert not History.start(demo).push(demo, "nothing").past


@given(st.lists(st.sampled_from(["edit", "undo", "redo"]), max_size=40))
def test_history_is_a_list_with_a_cursor(moves):
    """Against the plainest model: a list of titles and an index."""
    station = station_of(gear("dynamic-microphone", "m"), gear("microphone-socket", "r"))
    history, titles, at = History.start(station), ["Bench"], 0
    for k, move in enumerate(moves):
        if move == "edit":
            titles, at = [*titles[: at + 1], f"t{k}"], at + 1
            history = history.push(titled(station, f"t{k}"), move)
        elif move == "undo":
            at, history = max(at - 1, 0), history.undo()
        else:
            at, history = min(at + 1, len(titles) - 1), history.redo()
        assert history.present.station.title == titles[at]
