"""Keyboard, wheel, labels, themes, units; and that everything paints."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication

from tests.app.hands import choose
from tests.app.test_story import column_centre, speech
from tonleiter.app.widgets.quantity_field import DragLabel


def test_arrows_choose_and_nudge(qtbot, space, model):
    view = space.view
    view.setFocus()
    model.select(1)
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert model.selected == 2
    before = speech(model)
    qtbot.keyClick(view, Qt.Key.Key_Up)
    assert speech(model) == pytest.approx(before + 1, abs=0.05)
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert speech(model) == pytest.approx(before)
    for _ in range(9):
        qtbot.keyClick(view, Qt.Key.Key_Left)
    assert model.selected == -1


def test_enter_goes_to_the_value(qtbot, window, space, model):
    model.select(3)
    window.activateWindow()
    space.view.setFocus()
    qtbot.keyClick(space.view, Qt.Key.Key_Return)
    assert QApplication.focusWidget() is space.inspector.entry("series_ohm")


def test_delete_leaves_a_stage_out_but_never_an_end(qtbot, window, space, model):
    model.select(4)
    qtbot.keyClick(space.view, Qt.Key.Key_Delete)
    assert "transformer" not in [r.kind for r in model.assessment.rows]
    window.undo()
    for end in (0, 6):
        model.select(end)
        qtbot.keyClick(space.view, Qt.Key.Key_Delete)
        assert len(model.assessment.rows) == 7


def wheel(view, pos, up):
    event = QWheelEvent(
        QPointF(pos),
        QPointF(view.mapToGlobal(pos)),
        QPoint(),
        QPoint(0, 120 if up else -120),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(view, event)


def test_the_wheel_nudges_the_column_under_it(space, model):
    before = speech(model)
    wheel(space.view, column_centre(space.view, 2), up=True)
    assert model.selected == 2
    assert speech(model) == pytest.approx(before + 1, abs=0.05)


def test_dragging_a_values_name_scrubs_it(qtbot, window, space, model):
    model.select(3)
    label = next(
        child for child in space.inspector.findChildren(DragLabel) if child.text() == "Series"
    )
    start = label.rect().center()
    qtbot.mousePress(label, Qt.MouseButton.LeftButton, pos=start)
    for dx in (10, 20, 30, 40):
        qtbot.mouseMove(label, start + QPoint(dx, 0))
    qtbot.mouseRelease(label, Qt.MouseButton.LeftButton, pos=start + QPoint(40, 0))
    assert model.assessment.rows[3].gear.series_ohm.value > 10e3
    window.undo()
    assert model.assessment.rows[3].gear.series_ohm.value == 10e3


def test_preferred_values_are_taken_with_one_press_and_one_undo(qtbot, window, space, model):
    model.select(3)
    option = space.inspector._options[0]
    qtbot.mouseClick(option, Qt.MouseButton.LeftButton)
    assert speech(model) == pytest.approx(-53, abs=2)
    assert option.isChecked() or space.inspector._options[0].isChecked()
    window.undo()
    assert model.assessment.rows[3].gear.series_ohm.value == 10e3
    assert model.assessment.rows[3].gear.shunt_ohm.value == 100


def test_origin_of_a_figure_goes_round_and_typing_makes_it_from_the_manual(qtbot, space, model):
    model.select(2)
    row = next(r for r in space.inspector._form.rows if r.field == "clip_dbu")
    assert row.tag.text() == "from the manual"
    qtbot.mouseClick(row.tag, Qt.MouseButton.LeftButton)
    figure = model.assessment.rows[2].gear.clip_dbu
    assert figure.basis == "measured"
    assert figure.measured_on is not None
    entry = space.inspector.entry("works_to_dbu")
    entry.setFocus()
    entry.selectAll()
    qtbot.keyClicks(entry, "2")
    qtbot.keyClick(entry, Qt.Key.Key_Return)
    assert model.assessment.rows[2].gear.works_to_dbu.basis == "manual"


def test_contradicting_figures_are_refused_inline(qtbot, space, model):
    model.select(6)
    entry = space.inspector.entry("z_in_ohm")
    entry.setFocus()
    entry.selectAll()
    qtbot.keyClicks(entry, "5k")
    qtbot.keyClick(entry, Qt.Key.Key_Return)
    assert "must be below bias_ohm" in space.inspector._refusal.text()
    assert entry.text() == "5k"
    assert model.assessment.rows[6].gear.z_in_ohm.value == 600


def test_words_are_chosen(space, model):
    model.select(6)
    box = dict(space.inspector._form.choices)["supply"]
    choose(box, "battery")
    assert model.assessment.rows[6].gear.supply == "battery"


def test_units_go_round(space):
    seen = []
    for _ in range(4):
        space.cycle_unit()
        seen.append(space.view.unit)
    assert seen == ["dBV", "V RMS", "V p-p", "dBu"]


def ink_of(widget):
    """How many different colours a picture of the widget has: blank ones have one or two."""
    image = widget.grab().toImage()
    return len(
        {image.pixel(x, y) for x in range(0, image.width(), 7) for y in range(0, image.height(), 7)}
    )


@pytest.mark.parametrize(("theme", "scale"), [("light", 1.0), ("dark", 1.5)])
@pytest.mark.long
def test_every_stage_paints_in_both_themes_and_large(space, model, look, theme, scale):
    look.set_theme(theme)
    look.set_scale(scale)
    for stage in range(-1, 7):
        model.select(stage)
        assert ink_of(space.view) > 20
        assert ink_of(space.inspector) > 5
    look.set_scale(1.0)
    look.set_theme("light")


def test_the_ladder_says_itself_to_a_screen_reader(space, model):
    model.select(2)
    words = space.view.accessibleDescription()
    assert words.startswith("Selected: desk mixer, mic strip.")
    assert "20 W HF set: speech" in words


def test_everything_that_takes_focus_has_a_name(window, model):
    from PySide6.QtWidgets import QAbstractButton, QComboBox, QLineEdit

    model.finish()
    for stage in range(-1, 7):
        model.select(stage)
        for kind in (QAbstractButton, QComboBox, QLineEdit):
            for widget in window.findChildren(kind):
                named = widget.accessibleName() or getattr(widget, "text", lambda: "")()
                inner = widget.parent() is not None and isinstance(widget.parent(), QComboBox)
                assert named or inner or not widget.isVisible(), widget


@pytest.mark.long
def test_a_piece_from_the_shelf_is_put_in_and_moved_along(window, qtbot):
    model, view = window.space("ladder").model, window.space("ladder").view
    model.select(2)
    box = window.space("ladder").inspector.insert_box
    choose(box, "equaliser")
    assert [r.id for r in model.assessment.rows][2:5] == ["desk-mixer", "equaliser", "pad"]
    assert model.selected == 3
    qtbot.keyClick(view, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    assert [r.id for r in model.assessment.rows][2:5] == ["desk-mixer", "pad", "equaliser"]
    assert model.selected == 4
    qtbot.keyClick(view, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    qtbot.keyClick(view, Qt.Key.Key_Delete)
    assert "equaliser" not in [r.id for r in model.assessment.rows]
    # what is in the chain is not offered again
    model.select(1)
    assert window.space("ladder").inspector.insert_box.findData("pad") == -1


def test_the_ends_of_a_chain_stay_where_they_are(window):
    model = window.space("ladder").model
    before = window.document.station
    model.shift(0, 1)
    model.shift(len(model.assessment.rows) - 1, -1)
    assert window.document.station is before
    model.select(1)
    model.shift(1, -1)
    assert window.document.station is before


SIZES = [(1280, 800, 1.5), (1024, 700, 1.5), (1024, 700, 1.0)]


@pytest.mark.parametrize("wide, high, scale", SIZES)
def test_the_ladder_keeps_its_height_at_the_largest_text(qtbot, window, space, wide, high, scale):
    """Tray, inspector, legend and the second sentence give way before the plot does."""
    window._look.set_scale(scale)
    window.resize(wide, high)
    qtbot.wait(50)
    frame = space.view.frame()
    assert frame.plot.height() >= 60
    assert frame.plot.width() >= 0.25 * wide
    assert space.tray.height() <= 0.3 * high
    assert space.inspector.width() <= 0.4 * wide
    # what is not shown for want of room is still there to be read
    assert space._proves.isVisible() or space._says.toolTip() == space._proves.text()
