"""A wire touches the contact that it is soldered to, and no other."""

import math
from itertools import pairwise

from PySide6.QtCore import QPointF

from tonleiter.app.widgets.wiring.faces import spot_size, spot_tall
from tonleiter.app.widgets.wiring.routing import into
from tonleiter.core.station.shells import SHELLS

RADIUS = 58.0
# where wires come from: the sound from the left, the switch from below
STARTS = (QPointF(-80, -40), QPointF(-80, 45), QPointF(-58, 150), QPointF(-38, 170))


def to_line(spot, a, b):
    """How near the stretch from a to b comes to a point."""
    dx, dy = b.x() - a.x(), b.y() - a.y()
    share = ((spot.x() - a.x()) * dx + (spot.y() - a.y()) * dy) / max(dx * dx + dy * dy, 1e-9)
    share = min(max(share, 0.0), 1.0)
    return math.hypot(spot.x() - a.x() - share * dx, spot.y() - a.y() - share * dy)


def faces():
    for shell in SHELLS.values():
        if len(shell.labels) > shell.most_drawn:
            continue
        for counted in (None, "clockwise") if shell.ring else (None,):
            stretch = 67 / RADIUS if shell.along or shell.boxed else 1.0
            spots = shell.face("solder-side", counted=counted)
            at = {s.label: QPointF(s.x * RADIUS * stretch, -s.y * RADIUS) for s in spots}
            yield shell.token, at


def test_wires_go_round_other_contacts():
    """Over all shells, contacts and sides; between seven contacts and an eighth one may graze."""
    tried, touched = 0, []
    for token, spots in faces():
        size = spot_size(spots, 1.0)
        tall = spot_tall(size, 1.0)
        for start in STARTS:
            for goal in spots:
                tried += 1
                way = [QPointF(p.x(), p.y() / tall) for p in into(start, goal, spots, size, tall)]
                for label, spot in spots.items():
                    flat = QPointF(spot.x(), spot.y() / tall)
                    if label != goal and any(
                        to_line(flat, a, b) < 0.8 * size for a, b in pairwise(way)
                    ):
                        touched.append((token, goal, label))
    assert tried > 400
    assert {token for token, _, _ in touched} <= {"round-8"}
    assert len(touched) <= 0.01 * tried


def test_a_way_that_is_clear_is_straight():
    spots = {"1": QPointF(0, 0), "2": QPointF(100, 0)}
    assert into(QPointF(-50, 0), "1", spots, 10) == [QPointF(-50, 0), QPointF(0, 0)]
    around = into(QPointF(-50, 0), "2", spots, 10)
    assert len(around) == 3
    assert around[-1] == QPointF(100, 0)
