"""The instruments of the simulated bench: meter, supply, scope with its knobs."""

from __future__ import annotations

import math
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QBoxLayout, QFrame, QGridLayout, QHBoxLayout, QVBoxLayout

from tonleiter.app.spaces.prove.instruments import limit_of, places_of
from tonleiter.app.spaces.prove.model import ProveModel
from tonleiter.app.spaces.prove.read_off import as_read
from tonleiter.app.spaces.prove.scope import ScopeView
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.bench.meter import MODES, TONE_HZ
from tonleiter.core.bench.scope import DIVISIONS_S, DIVISIONS_V
from tonleiter.core.prove.prove import read_value
from tonleiter.core.units.quantity import SECOND, VOLT, format_quantity

FIT, NARROW_PX = "fit", 340
TRIGGERS = (("out ↑", "out up"), ("out ↓", "out down"), ("in ↑", "in up"), ("in ↓", "in down"))


class BenchPanel:
    """Adds the instruments of a step to a column."""

    def __init__(self, model: ProveModel, look: Look) -> None:
        self.model, self._look, self._narrow = model, look, False

    def add_to(self, column: QVBoxLayout, width_px: int) -> None:
        """The scope where a tone is on, the meter, the supply; in a column of such a width."""
        self._narrow = width_px < self._look.px(NARROW_PX)
        model = self.model
        if model.proof is None or not model.ready or model.step not in ("ring", "dc", "tone"):
            return
        column.addWidget(label("The bench", "title", wraps=True))
        if model.step == "tone":
            self._scope(column)
        self._meter(column)
        if model.step == "dc" and model.proof.unit.battery() is not None:
            self._supply(column)

    # --- meter -----------------------------------------------------------------------------------

    def _meter(self, column: QVBoxLayout) -> None:
        model, tools = self.model, self.model.tools
        assert model.proof is not None
        inside = _box(column)
        mode = Choice(self._look, "Meter's range", 170)
        mode.show_items([(text, key) for key, text in MODES.items()], tools.mode)
        mode.chosen.connect(lambda _: model.set_tools(mode=mode.currentData()))
        shown = model.metered()
        row = self._line()
        row.addWidget(mode)
        figure = label(_figure(shown.value, shown.unit), "reading")
        figure.setAccessibleName("Meter shows")
        row.addWidget(figure, 1, Qt.AlignmentFlag.AlignRight)
        inside.addLayout(row)
        if tools.mode != "current":
            tips = QGridLayout()
            places = [(place, place) for place in places_of(model.proof.unit)]
            for k, (name, at) in enumerate((("red", tools.red), ("black", tools.black))):
                choice = Choice(self._look, f"{name.capitalize()} tip", 150)
                choice.show_items(places, at)
                choice.chosen.connect(
                    lambda _, n=name, c=choice: model.set_tools(**{n: c.currentData()})
                )
                row_at, column_at = (k, 0) if self._narrow else (0, 2 * k)
                tips.addWidget(label(name, "caption"), row_at, column_at)
                tips.addWidget(choice, row_at, column_at + 1)
                tips.setColumnStretch(column_at + 1, 1)
            inside.addLayout(tips)
        said = shown.remark or _loads(tools.mode)
        if tools.mode != "current":
            said += "; a press on a letter puts red there, with Shift black"
        inside.addWidget(label(f"{said}.", "caption", wraps=True))

    # --- supply ----------------------------------------------------------------------------------

    def _supply(self, column: QVBoxLayout) -> None:
        model, tools = self.model, self.model.tools
        proof = model.proof
        assert proof is not None
        battery = proof.unit.battery()
        assert battery is not None
        shown = model.supplied()
        inside = _box(column)
        grid = QGridLayout()
        volts = abs(battery.dc) if tools.supply_v is None else tools.supply_v
        limit = limit_of(proof) if tools.limit_a is None else tools.limit_a
        for row, (name, unit, value, key) in enumerate(
            (("supply", "V", volts, "supply_v"), ("its limit", "A", limit, "limit_a"))
        ):
            grid.addWidget(label(name, "caption"), row, 0)
            field = TextField(
                as_read(value, unit), f"Bench {name}", model.drafts, (f"prove:{model.place}", key)
            )
            field.accepted.connect(partial(self._set, field, key, unit))
            grid.addWidget(field, row, 1)
            if shown is not None:
                read = shown.volts if unit == "V" else shown.amps
                at = (2 + row, 0, 1, 2) if self._narrow else (row, 2, 1, 1)
                grid.addWidget(
                    label(as_read(read, unit), "reading"), *at, Qt.AlignmentFlag.AlignRight
                )
        grid.setColumnStretch(1 if self._narrow else 2, 1)
        inside.addLayout(grid)
        k = proof.places["supply"]
        expected = f"expected {as_read(float(proof.predicted.nominal[k]), 'A')}"
        if shown is not None and shown.limited:
            inside.addWidget(
                label(
                    f"⚠ at its limit: something draws too much; {expected}", "caution", wraps=True
                )
            )
        else:
            inside.addWidget(label(expected, "caption", wraps=True))

    def _set(self, field: TextField, key: str, unit: str, text: str) -> None:
        def take() -> None:
            value = read_value(text, unit)
            self.model.set_supply(key, value)

        self.model.refused.emit(field.offer(take))

    # --- scope -----------------------------------------------------------------------------------

    def _scope(self, column: QVBoxLayout) -> None:
        model, knobs = self.model, self.model.tools.scope
        if model.scope is not None:
            column.addWidget(ScopeView(self._look, model.scope, knobs))
        else:
            column.addWidget(
                label(model.scope_trouble or "the tone is being solved…", "caption", wraps=True)
            )
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(3)
        divisions = [("to fit", FIT)]
        divisions += [(f"{format_quantity(v, VOLT, 2)}/div", f"{v:g}") for v in DIVISIONS_V]
        for k, (name, at) in enumerate(
            (("out", knobs.out_division_v), ("in", knobs.in_division_v))
        ):
            chosen = FIT if at is None else f"{at:g}"
            items = [(f"{name} {said}", value) for said, value in divisions]
            choice = self._knob(f"Volts a division, {name}", items, chosen)
            choice.chosen.connect(
                lambda _, n=name, c=choice: model.turn_scope(
                    **{
                        f"{n}_division_v": None
                        if c.currentData() == FIT
                        else float(c.currentData())
                    }
                )
            )
            grid.addWidget(choice, *((k, 0) if self._narrow else (0, k)))
        times = [(f"{format_quantity(s, SECOND, 2)}/div", f"{s:g}") for s in DIVISIONS_S]
        base = self._knob("Time a division", times, f"{knobs.division_s:g}")
        base.chosen.connect(lambda _: model.turn_scope(division_s=float(base.currentData())))
        grid.addWidget(base, *((2, 0) if self._narrow else (1, 0)))
        trigger = self._knob(
            "Trigger",
            [(f"trigger {said}", at) for said, at in TRIGGERS],
            f"{knobs.trigger} {'down' if knobs.falling else 'up'}",
        )
        trigger.chosen.connect(lambda _: self._trigger(trigger.currentData()))
        grid.addWidget(trigger, *((3, 0) if self._narrow else (1, 1)))
        coupling = self._knob("Coupling", [("AC", "ac"), ("DC", "dc")], "dc" if knobs.dc else "ac")
        coupling.chosen.connect(lambda _: model.turn_scope(dc=coupling.currentData() == "dc"))
        grid.addWidget(coupling, *((4, 0) if self._narrow else (0, 2)))
        column.addLayout(grid)
        level = self._line()
        said = f"generator {as_read(model.tone_v, 'V')}, {TONE_HZ / 1e3:g} kHz"
        level.addWidget(label(said, "sub", wraps=True), 1)
        buttons = QHBoxLayout()
        for words, by in (("−6 dB", -6), ("+6 dB", 6)):
            buttons.addWidget(button(words, "plain", partial(model.turn, by)))
        level.addLayout(buttons)
        column.addLayout(level)
        if model.flattens_said:
            column.addWidget(label(model.flattens_said, "sub", wraps=True))
        else:
            column.addWidget(button("Where does it flatten?", "link", model.find_flat))

    def _line(self) -> QBoxLayout:
        """Beside each other, or one below the other where there is no room."""
        return QVBoxLayout() if self._narrow else QHBoxLayout()

    def _knob(self, name: str, items: list[tuple[str, str]], at: str) -> Choice:
        made = Choice(self._look, name, 130)
        made.show_items(items, at)
        return made

    def _trigger(self, said: str) -> None:
        channel, _, edge = said.partition(" ")
        self.model.turn_scope(trigger=channel, falling=edge == "down")


def _box(column: QVBoxLayout) -> QVBoxLayout:
    """A frame for one instrument."""
    box = QFrame()
    box.setObjectName("instrument")
    inside = QVBoxLayout(box)
    inside.setContentsMargins(10, 8, 10, 8)
    inside.setSpacing(4)
    column.addWidget(box)
    return inside


def _figure(value: float, unit: str) -> str:
    return "–" if math.isnan(value) else as_read(value, unit)


def _loads(mode: str) -> str:
    """What the meter does to what it is held to."""
    return {
        "dc": "10 MΩ beside it",
        "ac": "10 MΩ and 100 pF beside it, 1 kHz",
        "ohms": "low volts: no junction conducts",
        "diode": "3 V behind 2.2 kΩ",
        "beeper": "beeps under 50 Ω",
        "current": "in the supply's lead, 10 Ω of its own",
    }[mode]
