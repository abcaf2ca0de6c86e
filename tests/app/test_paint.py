"""Painting over and over: a drag repaints thousands of times in an evening."""

import sys


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
