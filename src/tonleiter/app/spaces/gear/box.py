"""A box of several sockets: what it is, how it is fed, its sockets, its connectors."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import get_args

from PySide6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from tonleiter.app.spaces.gear.model import GROUNDS, GearModel
from tonleiter.app.spaces.gear.place import Place
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.figure_form import plain_grid
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.quantity_field import QuantityField
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.gear.base import DeviceKind
from tonleiter.core.gear.figure import Quantity
from tonleiter.core.gear.labels import label_of
from tonleiter.core.gear.net import Supply
from tonleiter.core.station import boxes
from tonleiter.core.station.box_files import SUFFIX, save_box
from tonleiter.core.station.computer import VoiceSwitch
from tonleiter.core.station.devices import Connector, Device, Inside
from tonleiter.core.station.edits import fresh_id, uses_of
from tonleiter.core.station.model import Station
from tonleiter.core.station.shells import SHELLS, Shell
from tonleiter.core.station.transmitter import Transmitter
from tonleiter.core.words import the

NAME_PX = 260


class BoxPage(Place):
    """The chosen box."""

    def __init__(self, model: GearModel, look: Look) -> None:
        self._asks = False
        self.name = TextField("", "")
        super().__init__(model, look)
        model.selection_changed.connect(self._other)

    def _other(self) -> None:
        self._asks = False
        self.refresh()

    def shown(self) -> object:
        """The box, its sockets by name, what could be put into it, how many leads it has."""
        box = self._model.box
        if box is None:
            return None
        station = self._model.station
        sockets = [(station.gear_by_id[p].name, p) for p in box.ports]
        leads = [x.name for x in station.links if box.id in (x.a, x.b)]
        return box, sockets, self._addable(station, box), leads, self._asks

    @staticmethod
    def _addable(station: Station, box: Device) -> list[tuple[str, str]]:
        """Pieces that are a box by themselves, and might be a socket of this one."""
        return [
            (station.gear_by_id[d.ports[0]].name, d.ports[0])
            for d in station.devices
            if len(d.ports) == 1 and d.id != box.id
        ]

    def build(self, column: QVBoxLayout) -> None:
        """Everything about the box."""
        box = self._model.box
        if box is None:
            return
        column.addLayout(self._head(box))
        if self._asks:
            self._question(column, box)
        column.addWidget(
            label(
                "One chassis, one way to earth: what is set here holds for all its sockets.",
                "sub",
                wraps=True,
            )
        )
        column.addLayout(self._facts(box))
        self._sockets(column, box)
        self._connectors(column, box)
        self._transmitter(column, box)
        self._switch(column, box)
        leads = [x.name for x in self._model.station.links if box.id in (x.a, x.b)]
        row = QHBoxLayout()
        said = f"Leads to other boxes: {', '.join(leads)}" if leads else "No lead to another box."
        row.addWidget(label(said, "sub", wraps=True), 1)
        row.addWidget(button("Leads and grounds", "link", lambda: self._model.select(GROUNDS)))
        column.addLayout(row)

    def _head(self, box: Device) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        drafts = self._model.document.drafts
        self.name = TextField(box.name, "Name of the box", drafts, ("box", box.id, "name"))
        self.name.setObjectName("name")
        self.name.setMaxLength(80)
        self.name.accepted.connect(partial(self._rename, box.id))
        row.addWidget(self.name, 1)
        row.addWidget(button("Export…", "plain", self.ask_export))
        row.addWidget(button("Remove…", "plain", self.ask_removal))
        return row

    def _question(self, column: QVBoxLayout, box: Device) -> None:
        """What removing would take along, said before it is done."""
        uses = [u for p in box.ports for u in uses_of(self._model.station, p)]
        says = f"Removing {the(box.name)} removes its {len(box.ports)} sockets and its leads."
        if uses:
            says += f" These paths change or go: {'; '.join(dict.fromkeys(uses))}."
        column.addWidget(label(f"{says} It can be undone.", "title", wraps=True))
        row = QHBoxLayout()
        row.addWidget(button("Remove it", "plain", partial(self._remove, box)))
        row.addWidget(button("Keep it", "plain", self.keep))
        row.addStretch(1)
        column.addLayout(row)

    def _facts(self, box: Device) -> QGridLayout:
        grid = plain_grid()
        kind = Choice(self._look, "What it is")
        kind.show_items([(label_of(k), k) for k in get_args(DeviceKind)], box.kind)
        kind.chosen.connect(lambda _: self._change(box.id, kind=kind.currentData()))
        supply = Choice(self._look, "How it is fed")
        supply.show_items([(label_of(s), s) for s in get_args(Supply)], box.supply)
        supply.chosen.connect(lambda _: self._change(box.id, supply=supply.currentData()))
        emf = self.field(
            _quantity("earth_emf_v"), box.earth_emf_v, "Earth EMF", ("box", box.id, "emf")
        )
        emf.accepted.connect(lambda figure: self._change(box.id, earth_emf_v=figure))
        inside = Choice(self._look, "What is inside")
        inside.show_items([(label_of(x), x) for x in get_args(Inside)], box.inside)
        inside.chosen.connect(lambda _: self._change(box.id, inside=inside.currentData()))
        lines: list[tuple[str, QWidget, str]] = [
            ("It is a", kind, ""),
            ("Fed from", supply, ""),
            ("Inside", inside, ""),
        ]
        if box.supply in ("safety-earth", "usb-computer"):
            tail = "between its earth and the radio's: a millivolt meter on AC finds it"
            lines.append(("Volts in its earth", emf, tail))
        if box.kind == "radio":
            power = self.field(
                _quantity("power_w"), box.power_w, "Transmits", ("box", box.id, "power")
            )
            power.accepted.connect(lambda figure: self._change(box.id, power_w=figure))
            lines.append(("Transmits", power, "peak envelope power: Set (6) reckons with it"))
        for k, (words, widget, tail) in enumerate(lines):
            grid.addWidget(label(words, "sub"), k, 0)
            grid.addWidget(widget, k, 1)
            grid.addWidget(label(tail, "caption", wraps=True), k, 2)
        grid.setColumnStretch(2, 1)
        return grid

    def _transmitter(self, column: QVBoxLayout, box: Device) -> None:
        """How a radio sends: figures that few manuals have, and that Set reckons with."""
        if box.kind == "radio":
            said = "How it sends: Set (6) reckons with that"
            self._figures(column, box, said, "transmitter", Transmitter)

    def _switch(self, column: QVBoxLayout, box: Device) -> None:
        """What keys by itself in an interface."""
        if box.kind != "interface":
            return
        said = "Its voice switch, if it has one: Set (6) at the computer reckons with that"
        grid = self._figures(column, box, said, "switch", VoiceSwitch)
        by = Choice(self._look, "Its threshold")
        by.show_items([("a knob", "knob"), ("fixed", "fixed")], box.switch.threshold)
        by.chosen.connect(
            lambda _: self._take_figure(box, "switch", VoiceSwitch, "threshold", by.currentData())
        )
        row = grid.rowCount()
        grid.addWidget(label("Its threshold is", "sub", wraps=True), row, 0)
        grid.addWidget(by, row, 1)

    def _figures(
        self,
        column: QVBoxLayout,
        box: Device,
        said: str,
        name: str,
        kind: type[Transmitter] | type[VoiceSwitch],
    ) -> QGridLayout:
        """Every figure of a part of a box, two beside each other."""
        column.addWidget(label(said, "section"))
        grid = plain_grid()
        part = getattr(box, name)
        figures = [
            (field, str(info.title), quantity)
            for field, info in kind.model_fields.items()
            if (quantity := next((m for m in info.metadata if isinstance(m, Quantity)), None))
        ]
        for k, (field, title, quantity) in enumerate(figures):
            made = self.field(quantity, getattr(part, field), title, ("box", box.id, field))
            made.accepted.connect(partial(self._offer_figure, made, box, name, kind, field))
            grid.addWidget(label(title, "sub", wraps=True), k // 2, 2 * (k % 2))
            grid.addWidget(made, k // 2, 2 * (k % 2) + 1)
        grid.setColumnStretch(4, 1)
        column.addLayout(grid)
        return grid

    def _offer_figure(
        self,
        shown: QuantityField,
        box: Device,
        name: str,
        kind: type[Transmitter] | type[VoiceSwitch],
        field: str,
        figure: object,
    ) -> None:
        """A figure that was typed: refused where it stands, it stays as it was typed."""
        if why := self._take_figure(box, name, kind, field, figure):
            shown.refuse(why)

    def _take_figure(
        self,
        box: Device,
        name: str,
        kind: type[Transmitter] | type[VoiceSwitch],
        field: str,
        figure: object,
    ) -> str:
        def change(station: Station) -> Station:
            # of the box as it is now: another figure may have been typed before the page followed
            part = getattr(station.device_by_id[box.id], name)
            fields = {n: getattr(part, n) for n in kind.model_fields} | {field: figure}
            return boxes.change_device(station, box.id, **{name: kind.model_validate(fields)})

        return self.attempt(name, change)

    def _sockets(self, column: QVBoxLayout, box: Device) -> None:
        column.addWidget(label("What can be plugged into it", "section"))
        station = self._model.station
        for port in box.ports:
            piece = station.gear_by_id[port]
            row = QHBoxLayout()
            row.addWidget(button(piece.name, "link", partial(self._model.select, port)))
            row.addWidget(label(f"{piece.noun}: {piece.what}", "caption", wraps=True), 1)
            if len(box.ports) > 1:
                row.addWidget(button("A box by itself", "link", partial(self._take_out, port)))
            column.addLayout(row)
        if not box.ports:
            column.addWidget(label("Nothing of it carries sound: it only joins others.", "caption"))
        addable = self._addable(station, box)
        if addable:
            into = Choice(self._look, "Piece to make a socket of it")
            into.addItem("make a piece from the shelf its socket…", "")
            for name, port in addable:
                into.addItem(name, port)
            into.chosen.connect(lambda _: self._put(box.id, into.currentData()))
            column.addWidget(into)

    def _take_out(self, port: str) -> None:
        self.attempt("take out", lambda s: boxes.take_out(s, port))

    def _put(self, box_id: str, port: str) -> None:
        if port:
            self.attempt("put into", lambda s: boxes.put_into(s, box_id, port))

    def _connectors(self, column: QVBoxLayout, box: Device) -> None:
        column.addWidget(label("Its connectors", "section"))
        station = self._model.station
        for connector in box.connectors:
            row = QHBoxLayout()
            serves = ", ".join(station.gear_by_id[p].name for p in connector.ports)
            row.addWidget(label(f"{connector.name}: {SHELLS[connector.shell].title}", "sub"))
            row.addWidget(
                label(f"for the {serves}" if serves else "carries no sound", "caption"), 1
            )
            row.addWidget(
                button("Remove", "link", partial(self._drop_connector, box, connector.id))
            )
            column.addLayout(row)
        row = QHBoxLayout()
        shell = Choice(self._look, "Shell of a new connector")
        shell.addItem("add a connector…", "")
        for token in get_args(Shell):
            shell.addItem(label_of(token), token)
        serves_box = Choice(self._look, "Socket that it serves")
        serves_box.addItem("for no sound", "")
        for port in box.ports:
            serves_box.addItem(f"for {the(station.gear_by_id[port].name)}", port)
        shell.chosen.connect(
            lambda _: self._add_connector(box, shell.currentData(), serves_box.currentData())
        )
        row.addWidget(serves_box)
        row.addWidget(shell)
        row.addStretch(1)
        column.addLayout(row)

    def _add_connector(self, box: Device, shell: Shell, port: str) -> None:
        if not shell:
            return
        ports = (port,) if port else ()
        name = self._model.station.gear_by_id[port].name if port else SHELLS[shell].title
        made = Connector.model_validate(
            {
                "id": fresh_id({c.id for c in box.connectors}, shell),
                "name": name,
                "shell": shell,
                "ports": ports,
            }
        )
        self._change(box.id, connectors=(*box.connectors, made))

    def _drop_connector(self, box: Device, connector_id: str) -> None:
        kept = tuple(c for c in box.connectors if c.id != connector_id)
        self._change(box.id, connectors=kept)

    # --- hands -----------------------------------------------------------------------------------

    def _change(self, box_id: str, **values: object) -> str:
        words = next(iter(values))
        return self.attempt(words, lambda s: boxes.change_device(s, box_id, **values))

    def _rename(self, box_id: str, text: str) -> None:
        if text.strip():
            self.name.answer(self._change(box_id, name=text.strip()))
        else:
            self.name.answer("a box needs a name")
            self.say("a box needs a name")

    def ask_removal(self) -> None:
        """Say what would go, and ask."""
        self._asks = True
        self.refresh()

    def keep(self) -> None:
        """Rather not."""
        self._asks = False
        self.refresh()

    def _remove(self, box: Device) -> None:
        self._asks = False
        self.attempt(f"remove {box.name}", lambda s: boxes.remove_device(s, box.id))

    def ask_export(self) -> None:
        """Ask for a file and write the box there."""
        box = self._model.box
        if box is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Export a box", f"{box.id}{SUFFIX}", "Boxes (*.json)"
        )
        if name:
            self.export(Path(name))

    def export(self, file: Path) -> bool:
        """Write the box; a refusal is told."""
        box = self._model.box
        return box is not None and self._model.attempt(
            lambda: save_box(self._model.station, box.id, file)
        )


def _quantity(field: str) -> Quantity:
    """What a figure of a box is."""
    return next(m for m in Device.model_fields[field].metadata if isinstance(m, Quantity))
