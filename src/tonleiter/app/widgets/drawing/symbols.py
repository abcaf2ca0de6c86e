"""The symbols of parts, in our own manner: ink lines, round joints, plain boxes.

Each is drawn about the middle of its body, in grid units turned into pixels by ``u``; its leads run
to its pins.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QBrush, QPainter, QPainterPath

from tonleiter.core.drawing.sheet import Pin, Symbol

Draw = Callable[["Pencil", Symbol], None]


class Pencil:
    """A painter that knows the size of a grid unit."""

    def __init__(self, painter: QPainter, unit_px: float) -> None:
        self.painter, self.u = painter, unit_px

    def at(self, x: float, y: float) -> QPointF:
        """A point of the grid."""
        return QPointF(x * self.u, y * self.u)

    def line(self, *points: tuple[float, float]) -> None:
        """Through points of the grid."""
        spots = [self.at(*p) for p in points]
        for a, b in pairwise(spots):
            self.painter.drawLine(a, b)

    def box(self, x0: float, y0: float, x1: float, y1: float) -> None:
        """A rectangle."""
        self.painter.drawRect(QRectF(self.at(x0, y0), self.at(x1, y1)))

    def circle(self, x: float, y: float, radius: float) -> None:
        """A circle."""
        self.painter.drawEllipse(self.at(x, y), radius * self.u, radius * self.u)

    def filled(self, *points: tuple[float, float]) -> None:
        """A closed shape in ink."""
        path = QPainterPath(self.at(*points[0]))
        for point in points[1:]:
            path.lineTo(self.at(*point))
        path.closeSubpath()
        self.painter.fillPath(path, self.painter.pen().color())

    def bumps(self, x: float, y0: float, y1: float, count: int, side: int) -> None:
        """Half-round turns down a line, to the right (1) or the left (−1)."""
        path = QPainterPath(self.at(x, y0))
        step = (y1 - y0) / count
        for k in range(count):
            top = y0 + k * step
            area = QRectF(self.at(x - step / 2, top), self.at(x + step / 2, top + step))
            path.arcTo(area, 90, -180 * side)
        self.painter.drawPath(path)

    def thick(self, times: float) -> None:
        """A stronger or a normal line (1)."""
        pen = self.painter.pen()
        pen.setWidthF(1.5 * times)
        self.painter.setPen(pen)


def _turned(s: Symbol, along: float, across: float) -> tuple[float, float]:
    """A point of a two-ended symbol: along its leads, across them."""
    return (s.x + across, s.y + along) if s.upright else (s.x + along, s.y + across)


def _leads(p: Pencil, s: Symbol, half: float) -> None:
    """From both pins to the body."""
    first, second = s.pins[0], s.pins[1]
    p.line((first.x, first.y), _turned(s, -half, 0))
    p.line(_turned(s, half, 0), (second.x, second.y))


def resistor(p: Pencil, s: Symbol) -> None:
    """A box."""
    _leads(p, s, 1.5)
    (x0, y0), (x1, y1) = _turned(s, -1.5, -0.55), _turned(s, 1.5, 0.55)
    p.box(x0, y0, x1, y1)


def capacitor(p: Pencil, s: Symbol) -> None:
    """Two plates; the plus side of a polarised one is marked apart."""
    _leads(p, s, 0.4)
    p.thick(1.5)
    for along in (-0.4, 0.4):
        p.line(_turned(s, along, -1.1), _turned(s, along, 1.1))
    p.thick(1)


def battery(p: Pencil, s: Symbol) -> None:
    """A long plate at plus, a short thick one at minus."""
    _leads(p, s, 0.4)
    p.line(_turned(s, -0.4, -1.2), _turned(s, -0.4, 1.2))
    p.thick(2)
    p.line(_turned(s, 0.4, -0.6), _turned(s, 0.4, 0.6))
    p.thick(1)


def coil(p: Pencil, s: Symbol) -> None:
    """Half-round turns."""
    _leads(p, s, 1.6)
    if s.upright:
        p.bumps(s.x, s.y - 1.6, s.y + 1.6, 4, 1)
        return
    path = QPainterPath(p.at(s.x - 1.6, s.y))
    for k in range(4):
        left = s.x - 1.6 + 0.8 * k
        path.arcTo(QRectF(p.at(left, s.y - 0.4), p.at(left + 0.8, s.y + 0.4)), 180, -180)
    p.painter.drawPath(path)


def diode(p: Pencil, s: Symbol) -> None:
    """A triangle on a bar, in the way of the current from its first pin."""
    _leads(p, s, 0.8)
    p.filled(_turned(s, -0.8, -0.8), _turned(s, -0.8, 0.8), _turned(s, 0.7, 0))
    p.thick(1.5)
    p.line(_turned(s, 0.8, -0.9), _turned(s, 0.8, 0.9))
    p.thick(1)


def diode_up(p: Pencil, s: Symbol) -> None:
    """A diode the other way round: the first pin is its cathode, the side of the ring."""
    _leads(p, s, 0.8)
    p.filled(_turned(s, 0.8, -0.8), _turned(s, 0.8, 0.8), _turned(s, -0.7, 0))
    p.thick(1.5)
    p.line(_turned(s, -0.8, -0.9), _turned(s, -0.8, 0.9))
    p.thick(1)


def opto_coupler(p: Pencil, s: Symbol) -> None:
    """An LED and a transistor in one body, light between them."""
    half_x, half_y = s.half
    p.box(s.x - half_x, s.y - half_y, s.x + half_x, s.y + half_y)
    for name in ("A", "K", "C", "E"):
        pin = s.pin(name)
        edge = s.y + (half_y if pin.y > s.y else -half_y)
        p.line((pin.x, pin.y), (pin.x, edge))
    x = s.x - half_x + 1.2
    p.line((s.pin("A").x, s.y - half_y), (x, s.y - half_y + 1.0), (x, s.y - 0.7))
    p.filled((x - 0.7, s.y - 0.7), (x + 0.7, s.y - 0.7), (x, s.y + 0.6))
    p.line((x - 0.7, s.y + 0.7), (x + 0.7, s.y + 0.7))
    p.line((x, s.y + 0.7), (x, s.y + half_y - 1.0), (s.pin("K").x, s.y + half_y))
    for dy in (-0.5, 0.5):
        p.line((s.x - 0.5, s.y + dy), (s.x + 0.6, s.y + dy))
        p.filled((s.x + 0.9, s.y + dy), (s.x + 0.3, s.y + dy - 0.3), (s.x + 0.3, s.y + dy + 0.3))
    bar = s.x + 1.3
    p.thick(1.9)
    p.line((bar, s.y - 1.2), (bar, s.y + 1.2))
    p.thick(1)
    p.line((bar, s.y - 0.6), (s.pin("C").x, s.y - half_y + 1.4), (s.pin("C").x, s.y - half_y))
    p.line((bar, s.y + 0.6), (s.pin("E").x, s.y + half_y - 1.4), (s.pin("E").x, s.y + half_y))


def relay(p: Pencil, s: Symbol) -> None:
    """A coil in a box, and a contact that it closes."""
    top, foot, fixed, moving = (s.pin(n) for n in ("A1", "A2", "13", "14"))
    p.box(top.x - 1.4, s.y - 1.2, top.x + 1.4, s.y + 1.2)
    p.line((top.x - 1.4, s.y + 1.2), (top.x + 1.4, s.y - 1.2))
    p.line((top.x, top.y), (top.x, s.y - 1.2))
    p.line((top.x, s.y + 1.2), (foot.x, foot.y))
    pen, dashed = p.painter.pen(), p.painter.pen()
    dashed.setDashPattern([3, 3])
    p.painter.setPen(dashed)
    gap = fixed.y + 3.0
    p.line((top.x + 1.4, s.y), (fixed.x - 1.0, s.y), (fixed.x - 1.0, gap + 1.2))
    p.painter.setPen(pen)
    # open while the coil rests: the blade hangs on the lower side, beside the upper
    p.line((fixed.x, fixed.y), (fixed.x, gap))
    p.line((fixed.x - 1.4, gap + 0.2), (moving.x, gap + 3.0), (moving.x, moving.y))
    p.circle(fixed.x, gap, 0.3)


def zener(p: Pencil, s: Symbol) -> None:
    """A diode the other way round, its bar bent: the first pin is its cathode."""
    _leads(p, s, 0.8)
    p.filled(_turned(s, 0.8, -0.8), _turned(s, 0.8, 0.8), _turned(s, -0.7, 0))
    p.thick(1.5)
    p.line(
        _turned(s, -0.3, -0.9), _turned(s, -0.8, -0.9), _turned(s, -0.8, 0.9), _turned(s, -1.3, 0.9)
    )
    p.thick(1)


def current_source(p: Pencil, s: Symbol) -> None:
    """A circle with an arrow."""
    _leads(p, s, 1.1)
    p.circle(s.x, s.y, 1.1)
    p.line(_turned(s, -0.7, 0), _turned(s, 0.5, 0))
    p.filled(_turned(s, 0.8, 0), _turned(s, 0.3, -0.35), _turned(s, 0.3, 0.35))


def _bipolar(p: Pencil, s: Symbol, npn: bool) -> None:
    base, collector, emitter = s.pin("B"), s.pin("C"), s.pin("E")
    bar = base.x + 1.2
    p.line((base.x, base.y), (bar, base.y))
    p.thick(1.9)
    p.line((bar, base.y - 1.4), (bar, base.y + 1.4))
    p.thick(1)
    p.line((bar, base.y - 0.6), (collector.x, collector.y))
    p.line((bar, base.y + 0.6), (emitter.x, emitter.y))
    dx, dy = emitter.x - bar, emitter.y - base.y - 0.6
    length = (dx * dx + dy * dy) ** 0.5
    ux, uy = dx / length, dy / length
    out = (emitter.x - 0.15 * ux, emitter.y - 0.15 * uy)
    into = (bar + 0.25 * ux, base.y + 0.6 + 0.25 * uy)
    tip, back = (out, -1.0) if npn else (into, 1.0)
    x, y = tip[0] + back * ux, tip[1] + back * uy
    p.filled(tip, (x - 0.45 * uy, y + 0.45 * ux), (x + 0.45 * uy, y - 0.45 * ux))


def npn(p: Pencil, s: Symbol) -> None:
    """An arrow out of the emitter."""
    _bipolar(p, s, True)


def pnp(p: Pencil, s: Symbol) -> None:
    """An arrow into the emitter."""
    _bipolar(p, s, False)


def _fet(p: Pencil, s: Symbol, n_channel: bool) -> None:
    gate, drain, source = s.pin("G"), s.pin("D"), s.pin("S")
    bar = gate.x + 1.4
    p.line((gate.x, gate.y), (bar, gate.y))
    p.thick(1.9)
    p.line((bar, gate.y - 1.5), (bar, gate.y + 1.5))
    p.thick(1)
    for end, dy in ((drain, -1.0), (source, 1.0)):
        p.line((bar, gate.y + dy), (end.x, gate.y + dy), (end.x, end.y))
    tip, foot = (bar - 0.1, bar - 0.9) if n_channel else (bar - 0.9, bar - 0.1)
    p.filled((tip, gate.y), (foot, gate.y - 0.45), (foot, gate.y + 0.45))


def n_fet(p: Pencil, s: Symbol) -> None:
    """An arrow at the gate, inwards."""
    _fet(p, s, True)


def p_fet(p: Pencil, s: Symbol) -> None:
    """An arrow at the gate, outwards."""
    _fet(p, s, False)


def opamp(p: Pencil, s: Symbol) -> None:
    """A triangle: plus and minus at its back, its output at the point."""
    plus, minus = s.pin("3"), s.pin("2")
    # of a package with one, or with two of which the other rests
    names = {pin.name for pin in s.pins}
    out, rails = (s.pin("1"), ("8", "4")) if "1" in names else (s.pin("6"), ("7", "4"))
    left, right = s.x - 2.0, s.x + 2.0
    p.line((left, s.y - 2.7), (left, s.y + 2.7), (right, s.y), (left, s.y - 2.7))
    for pin, sign in ((plus, True), (minus, False)):
        p.line((pin.x, pin.y), (left, pin.y))
        p.thick(1.4)
        p.line((left + 0.4, pin.y), (left + 1.2, pin.y))
        if sign:
            p.line((left + 0.8, pin.y - 0.4), (left + 0.8, pin.y + 0.4))
        p.thick(1)
    p.line((right, s.y), (out.x, out.y))
    for pin in (s.pin(rail) for rail in rails):
        edge = 2.7 * (right - pin.x) / 4.0
        p.line((pin.x, pin.y), (pin.x, s.y + (edge if pin.y > s.y else -edge)))
    if "7" in names and "1" in names:
        # the half at rest: its output joined to its minus pin, its plus pin beside
        five, six, seven = (s.pin(n) for n in "567")
        p.line((six.x, six.y), (seven.x, seven.y))
        for x, y in ((five.x, five.y), (six.x, six.y), (seven.x, seven.y)):
            p.circle(x, y, 0.35)


def transformer(p: Pencil, s: Symbol) -> None:
    """Two windings on a core, a dot at the start of each."""
    for hot, cold, side in (("1", "2", -1), ("3", "4", 1)):
        top, foot = s.pin(hot), s.pin(cold)
        x = s.x + 1.2 * side
        p.line((top.x, top.y), (x, top.y), (x, s.y - 2.0))
        p.bumps(x, s.y - 2.0, s.y + 2.0, 4, -side)
        p.line((x, s.y + 2.0), (x, foot.y), (foot.x, foot.y))
        p.painter.setBrush(p.painter.pen().color())
        p.circle(x + 0.7 * side, s.y - 2.2, 0.25)
        p.painter.setBrush(QBrush())
    for dx in (-0.25, 0.25):
        p.line((s.x + dx, s.y - 2.0), (s.x + dx, s.y + 2.0))


def choke(p: Pencil, s: Symbol) -> None:
    """A winding in each conductor, and the core between them."""
    for left, right in (("1", "2"), ("3", "4")):
        a, b = s.pin(left), s.pin(right)
        path = QPainterPath(p.at(s.x - 2.4, a.y))
        up = a.y > s.y
        for k in range(4):
            x = s.x - 2.4 + 1.2 * k
            area = QRectF(p.at(x, a.y - 0.6), p.at(x + 1.2, a.y + 0.6))
            path.arcTo(area, 180, -180 if up else 180)
        p.painter.drawPath(path)
        p.line((a.x, a.y), (s.x - 2.4, a.y))
        p.line((s.x + 2.4, b.y), (b.x, b.y))
    for dy in (-0.25, 0.25):
        p.line((s.x - 2.4, s.y + dy), (s.x + 2.4, s.y + dy))


def pot(p: Pencil, s: Symbol) -> None:
    """A track with its wiper from the right."""
    top, foot, wiper = s.pin("1"), s.pin("3"), s.pin("2")
    p.line((top.x, top.y), (s.x, s.y - 1.5))
    p.line((s.x, s.y + 1.5), (foot.x, foot.y))
    p.box(s.x - 0.55, s.y - 1.5, s.x + 0.55, s.y + 1.5)
    p.line((wiper.x, wiper.y), (s.x + 0.6, s.y))
    p.filled((s.x + 0.6, s.y), (s.x + 1.4, s.y - 0.4), (s.x + 1.4, s.y + 0.4))


def regulator(p: Pencil, s: Symbol) -> None:
    """A box of three legs."""
    p.box(s.x - 2.2, s.y - 1.1, s.x + 2.2, s.y + 1.5)
    for name, edge in (("in", s.x - 2.2), ("out", s.x + 2.2)):
        p.line((s.pin(name).x, s.pin(name).y), (edge, s.y))
    p.line((s.x, s.y + 1.5), (s.pin("gnd").x, s.pin("gnd").y))


def block(p: Pencil, s: Symbol) -> None:
    """A case."""
    half_x, half_y = s.half
    p.painter.drawRoundedRect(
        QRectF(p.at(s.x - half_x, s.y - half_y), p.at(s.x + half_x, s.y + half_y)), 5, 5
    )


def device(p: Pencil, s: Symbol) -> None:
    """A box under its legs."""
    p.box(s.x - s.half[0], s.y - s.half[1], s.x + s.half[0], s.y + s.half[1])


def lead(p: Pencil, s: Symbol) -> None:
    """Its cores, and the screen around them at both ends; an open end is a ring."""
    names = {pin.name: pin for pin in s.pins}
    for core in ("", "-cold"):
        if f"in{core}" in names:
            a, b = names[f"in{core}"], names[f"out{core}"]
            p.line((a.x, a.y), (b.x, b.y))
    low, hot = max(pin.y for pin in s.pins), names["in"].y
    high, deep = hot - 1.2, hot + (1.2 if "in-cold" not in names else 7.2)
    pen = p.painter.pen()
    dashed = p.painter.pen()
    dashed.setDashPattern([4, 3])
    p.painter.setPen(dashed)
    p.painter.drawLine(p.at(s.x - 3.2, high), p.at(s.x + 3.2, high))
    p.painter.drawLine(p.at(s.x - 3.2, deep), p.at(s.x + 3.2, deep))
    p.painter.setPen(pen)
    for side, name in ((-1, "in-screen"), (1, "out-screen")):
        x = s.x + 3.2 * side
        area = QRectF(p.at(x - 0.7, high), p.at(x + 0.7, deep))
        p.painter.drawEllipse(area)
        if name in names:
            p.line((x, deep), (x, low), (names[name].x, names[name].y))
        else:
            p.circle(x, deep + 0.8, 0.3)


def _mouth(p: Pencil, s: Symbol) -> None:
    """A round element, its diaphragm towards the voice, leads up and down; a shell round it."""
    hot, cold = s.pin("1"), s.pin("2")
    p.circle(s.x, s.y, 1.6)
    p.thick(1.5)
    p.line((s.x - 1.9, s.y - 1.9), (s.x - 1.9, s.y + 1.9))
    p.thick(1)
    p.line((hot.x, hot.y), (s.x, s.y - 1.6))
    p.line((s.x, s.y + 1.6), (cold.x, cold.y))
    shell = next((q for q in s.pins if q.name == "shell"), None)
    if shell is not None:
        _shell(p, s, shell)


def _shell(p: Pencil, s: Symbol, shell: Pin) -> None:
    pen, dashed = p.painter.pen(), p.painter.pen()
    dashed.setDashPattern([4, 3])
    p.painter.setPen(dashed)
    x, top = s.x - 2.7, s.y - 2.4
    p.line((s.x, top), (x, top), (x, shell.y))
    p.painter.setPen(pen)
    p.line((x, shell.y), (shell.x, shell.y))


def capsule_dynamic(p: Pencil, s: Symbol) -> None:
    """A coil in the element."""
    _mouth(p, s)
    p.bumps(s.x - 0.2, s.y - 1.1, s.y + 1.1, 3, 1)


def capsule_electret(p: Pencil, s: Symbol) -> None:
    """A charged foil on the gate of a FET."""
    _mouth(p, s)
    p.thick(1.7)
    p.line((s.x + 0.2, s.y - 0.9), (s.x + 0.2, s.y + 0.9))
    p.thick(1)
    p.line((s.x - 0.9, s.y), (s.x + 0.2, s.y))
    p.filled((s.x + 0.1, s.y), (s.x - 0.5, s.y - 0.35), (s.x - 0.5, s.y + 0.35))
    p.line((s.x - 0.9, s.y - 0.6), (s.x - 0.9, s.y + 0.6))
    p.line((s.x + 0.2, s.y - 0.6), (s.x + 0.9, s.y - 0.6), (s.x, s.y - 1.6))
    p.line((s.x + 0.2, s.y + 0.6), (s.x + 0.9, s.y + 0.6), (s.x, s.y + 1.6))


def capsule_piezo(p: Pencil, s: Symbol) -> None:
    """A crystal between two plates."""
    _mouth(p, s)
    p.line((s.x, s.y - 1.6), (s.x, s.y - 0.7))
    p.line((s.x, s.y + 0.7), (s.x, s.y + 1.6))
    for dy in (-0.7, 0.7):
        p.line((s.x - 0.8, s.y + dy), (s.x + 0.8, s.y + dy))
    p.box(s.x - 0.6, s.y - 0.35, s.x + 0.6, s.y + 0.35)


def capsule_carbon(p: Pencil, s: Symbol) -> None:
    """Granules: a resistance that sound changes."""
    _mouth(p, s)
    p.box(s.x - 0.4, s.y - 0.9, s.x + 0.4, s.y + 0.9)
    p.line((s.x, s.y - 1.6), (s.x, s.y - 0.9))
    p.line((s.x, s.y + 0.9), (s.x, s.y + 1.6))
    p.line((s.x - 1.0, s.y + 1.0), (s.x + 1.0, s.y - 1.0))


def capsule_3_wire(p: Pencil, s: Symbol) -> None:
    """A round element of three legs."""
    p.circle(s.x, s.y, 1.8)
    p.thick(1.5)
    p.line((s.x - 2.1, s.y - 1.9), (s.x - 2.1, s.y + 1.9))
    p.thick(1)
    supply, out, ground = s.pin("+"), s.pin("out"), s.pin("−")
    p.line((supply.x, supply.y), (s.x, s.y - 1.8))
    p.line((out.x, out.y), (s.x + 1.8, s.y))
    p.line((ground.x, ground.y), (s.x, s.y + 1.8))


SYMBOLS: dict[str, Draw] = {
    "resistor": resistor,
    "capacitor": capacitor,
    "battery": battery,
    "coil": coil,
    "diode": diode,
    "diode-up": diode_up,
    "opto-coupler": opto_coupler,
    "relay": relay,
    "zener": zener,
    "current-source": current_source,
    "npn": npn,
    "pnp": pnp,
    "n-fet": n_fet,
    "p-fet": p_fet,
    "opamp": opamp,
    "transformer": transformer,
    "choke": choke,
    "pot": pot,
    "regulator": regulator,
    "block": block,
    "device": device,
    "lead": lead,
    "capsule-dynamic": capsule_dynamic,
    "capsule-electret": capsule_electret,
    "capsule-piezo": capsule_piezo,
    "capsule-carbon": capsule_carbon,
    "capsule-3-wire": capsule_3_wire,
}
