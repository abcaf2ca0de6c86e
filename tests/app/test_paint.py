"""Painting over and over: a drag repaints thousands of times in an evening."""

import sys

import pytest
from PySide6.QtCore import QRectF

from tonleiter.app.spaces.ladder.painter import _ruler_y
from tonleiter.app.spaces.ladder.scene import scale_step_db


def test_repainting_keeps_the_count_of_references_to_none(space, model):
    """A binding that drops a reference at each call lets the interpreter abort after a while."""
    model.select(3)
    space.repaint()
    before = sys.getrefcount(None)
    for _ in range(20):
        space.view.repaint()
        space.inspector.repaint()
    # a repaint of the ladder makes some hundred painter calls; a leak would show twenty times that
    assert abs(sys.getrefcount(None) - before) < 200


@pytest.mark.parametrize("high", [60.0, 90.0, 200.0, 400.0])
def test_the_distance_to_the_lips_is_never_written_over_the_names(high):
    """They stand above the plot: with large words in a low window there is little of it."""
    plot = QRectF(40, 100, 300, high)
    for share in (0.1, 0.5, 0.9):
        y = _ruler_y(plot, plot.top() + share * high, 100.0, 33.0)
        assert y >= plot.top()
        if high >= 200:
            assert y + 33.0 <= plot.bottom()


@pytest.mark.parametrize("plot_px", [40.0, 55.0, 90.0, 160.0, 400.0])
def test_figures_of_the_scale_have_room_over_one_another(plot_px):
    """Of some 160 dB: with large words in a low window there is room for two or three."""
    for text_px in (15.0, 22.5):
        step = scale_step_db(160.0 / plot_px, text_px)
        assert step * plot_px / 160.0 >= text_px
        # and not fewer than there is room for
        assert step == 20 or step * plot_px / 160.0 < 4 * text_px
