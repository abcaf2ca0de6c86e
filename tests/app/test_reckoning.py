"""As learned and as typed: one switch, three spaces, and what somebody typed stays as it is."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox

from tests.app.hands import arrived, press, rest, settled, words
from tests.app.lessons import few_draws
from tests.core.learn.lessons import kept, plain
from tonleiter.app.derived import wait_until
from tonleiter.core.station import edits
from tonleiter.core.station.files import save_station

LEARNS = True

KNOB = "55"


@pytest.fixture
def window(open_window, tmp_path, monkeypatch):
    """A stranger's station: of a set that is hardly known somebody read where the gain stands."""
    few_draws(monkeypatch)
    of = plain()
    save_station(of, tmp_path / "mine.station", records=kept(of, ("knob", None, KNOB)))
    made = open_window(tmp_path / "mine.station")
    made.session.reckoning.finish()
    settled()
    return made


def to(window, name):
    window.go_to(name)
    space = window.space(name)
    if hasattr(space, "model"):
        space.model.finish()
    settled()
    return space


def stands_at(ladder):
    return ladder.model.assessment.rows[-1].knob.turn * 100


def test_the_ladder_stands_where_it_was_read_and_as_typed_where_the_figures_say(window):
    ladder = to(window, "ladder")
    assert ladder.reckoned.isVisible()
    assert stands_at(ladder) == pytest.approx(float(KNOB), abs=4)
    learned_band = ladder.model.bands
    press(ladder.reckoned)
    window.session.reckoning.finish()
    ladder.model.finish()
    settled()
    assert ladder.reckoned.text() == "as typed"
    assert abs(stands_at(ladder) - float(KNOB)) > 4
    window.undo()
    window.session.reckoning.finish()
    ladder.model.finish()
    settled()
    assert ladder.reckoned.text() == "as learned"
    assert stands_at(ladder) == pytest.approx(float(KNOB), abs=4)
    assert learned_band is not None


@pytest.mark.long
def test_the_inspector_shows_what_was_typed_with_what_was_learned_in_brackets(window):
    ladder = to(window, "ladder")
    ladder.model.select(2)
    settled()
    entry = ladder.inspector.entry("wants_dbu")
    assert "…" in entry.text() or ".." in entry.text(), "the range that was typed"
    (row,) = (r for r in ladder.inspector._form.rows if r.field == "wants_dbu")
    assert row.learned.isVisible()
    assert row.learned.text().startswith("[−")
    press(row.learned)
    arrived(window)
    settled()
    gear = window.space("gear")
    assert gear.isVisible()
    assert gear.learning.isVisible()


def test_an_edit_on_the_ladder_leaves_every_other_figure_as_it_was_typed(window):
    ladder = to(window, "ladder")
    before = window.document.station
    ladder.model.set_value(1, "length_m", "3 m")
    after = window.document.station
    for gear in after.gear:
        for field in gear.figures():
            if (gear.id, field) != ("lead", "length_m"):
                assert gear.figure(field) == before.gear_by_id[gear.id].figure(field)
                assert not gear.figure(field).draws
    window.session.reckoning.finish()
    settled()
    assert not ladder.reckoned.isVisible(), "of a chain that was changed the reading does not count"
    window.undo()
    window.session.reckoning.finish()
    settled()
    assert ladder.reckoned.isVisible()


@pytest.mark.long
def test_gear_shows_the_bracket_beside_the_figure_and_it_leads_to_its_readings(window):
    gear = to(window, "gear")
    gear.model.select("radio")
    settled()
    (row,) = (r for r in gear.editor.form.rows if r.field == "wants_dbu")
    assert row.learned.isVisible()
    (other,) = (r for r in gear.editor.form.rows if r.field == "ein_dbu")
    assert not other.learned.isVisible()
    row.learned.setFocus()
    QTest.keyClick(row.learned, Qt.Key.Key_Space)
    settled()
    assert gear.learning.isVisible()


@pytest.mark.long
def test_match_and_set_reckon_with_it_and_a_card_is_of_the_chain_as_written(window):
    match = to(window, "match")
    rest(300)
    match.model.finish()
    settled()
    assert match.reckoned.isVisible()
    set_ = to(window, "set")
    wait_until(lambda: set_.model.case is not None)
    assert set_.reckoned.isVisible()
    row = set_.model.case.assessment.rows[-1]
    assert row.knob.turn * 100 == pytest.approx(float(KNOB), abs=4)
    card = set_.model.keep_card("first")
    assert card is not None
    assert set_.model.is_of_now
    assert "changed" not in set_.model.state_of(card)


@pytest.mark.long
def test_nothing_read_and_there_is_no_switch(open_window, tmp_path):
    save_station(plain(), tmp_path / "bare.station")
    window = open_window(tmp_path / "bare.station")
    for name in ("ladder", "match", "set"):
        assert not to(window, name).reckoned.isVisible()


@pytest.mark.long
def test_what_one_has_to_read_with_is_ticked_kept_and_proposed(window):
    gear = to(window, "gear")
    gear.model.select("\0learn")
    gear.learning.learning.finish()
    settled()
    (box,) = (
        b for b in gear.learning.findChildren(QCheckBox)
        if b.isVisible() and b.text() == "second receiver"
    )  # fmt: skip
    box.setFocus()
    QTest.keyClick(box, Qt.Key.Key_Space)
    settled()
    assert window.document.station.instruments == ("multimeter", "second-receiver")
    window.undo()
    assert window.document.station.instruments == ("multimeter",)


@pytest.mark.long
def test_an_own_radio_s_meter_is_read_on_the_page_and_struck_out_there(window):
    document = window.document
    basis = window.session.reckoning.document.station
    from tonleiter.core.station.basis import basis_of

    panel = basis.chain().panel.but(
        knobs={"gain": 60.0}, readings={"alc": "half"}, read_of=basis_of(basis).sound
    )
    document.edit("own", lambda s: edits.change_chain(s, s.chain().id, panel=panel))
    gear = to(window, "gear")
    gear.model.select("\0learn")
    page = gear.learning
    page.learning.finish()
    settled()
    assert any("your level meter with the gain at 60" in w for w in words(page))
    line = next(g for g in page.learning.lines() if g.source == "own-radio")
    assert not page.learning.may_forget(line)
    page.learning.strike(line, "somebody coughed")
    page.learning.finish()
    settled()
    assert any("struck out: somebody coughed" in w for w in words(page))
    assert document.records.struck == {line.key: "somebody coughed"}
    document.undo()
    assert document.records.struck == {}
