"""What is around the gear: people, the room and the mains, the parts drawer."""

from __future__ import annotations

import re
from functools import partial
from typing import get_args

from PySide6.QtWidgets import (
    QHBoxLayout,
    QVBoxLayout,
)

from tonleiter.app.spaces.gear.model import GearModel
from tonleiter.app.spaces.gear.place import Place
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.lines_field import LinesField
from tonleiter.app.widgets.text_field import TextField
from tonleiter.core.gear.figure import DISTANCE, FARADS, NOISE, OHMS, Figure, Quantity
from tonleiter.core.gear.voice import Effort
from tonleiter.core.station.edits import change_station, fresh_id
from tonleiter.core.station.model import Drawer, Operator, Station
from tonleiter.core.units.preferred import Series
from tonleiter.core.units.quantity import QuantityError, format_short
from tonleiter.core.words import within

PITCHES = ("deep", "middle", "high")


class PeoplePage(Place):
    """Who speaks: how loud, how deep, from where."""

    def shown(self) -> object:
        """People, and who of them speaks in a chain."""
        return self._model.station.operators, self._speaking()

    def _speaking(self) -> set[str]:
        return {c.operator for c in self._model.station.chains}

    def build(self, column: QVBoxLayout) -> None:
        """A line for each operator."""
        column.addWidget(label("Who speaks here?", "headline"))
        column.addWidget(
            label(
                "Effort moves the level of speech, pitch the tone that suits; distance is where"
                " somebody usually speaks.",
                "sub",
                wraps=True,
            )
        )
        station = self._model.station
        used = self._speaking()
        for person in station.operators:
            row = QHBoxLayout()
            row.setSpacing(8)
            name = TextField(
                person.name,
                f"Name of {person.name}",
                self._model.document.drafts,
                ("person", person.id, "name"),
            )
            name.setFixedWidth(self._look.px(170))
            name.accepted.connect(partial(self._rename, person.id, name))
            effort = self.choice("Effort", get_args(Effort), person.effort)
            effort.textActivated.connect(partial(self._change, person.id, "effort"))
            pitch = self.choice("Pitch", PITCHES, person.pitch)
            pitch.textActivated.connect(partial(self._change, person.id, "pitch"))
            distance = self.field(
                DISTANCE,
                person.distance_mm,
                f"Usual distance of {person.name}",
                ("person", person.id, "distance"),
            )
            distance.accepted.connect(partial(self._change, person.id, "distance_mm"))
            for caption, widget in (
                ("", name),
                ("effort", effort),
                ("voice", pitch),
                ("at", distance),
            ):
                if caption:
                    row.addWidget(label(caption, "sub"))
                row.addWidget(widget)
            remove = button("Remove", "link", partial(self._remove, person.id))
            remove.setEnabled(person.id not in used and len(station.operators) > 1)
            if not remove.isEnabled():
                remove.setToolTip("Speaks in a chain" if person.id in used else "The only one")
            row.addWidget(remove)
            row.addStretch(1)
            column.addLayout(row)
        column.addWidget(button("Add somebody", "plain", self._add))

    def _set(self, people: tuple[Operator, ...], words: str) -> str:
        return self.attempt(words, lambda s: change_station(s, operators=people))

    def _change(self, person_id: str, field: str, value: object) -> str:
        """Change a person; returns the refusal, empty if it was taken."""

        def change(station: Station) -> Station:
            people = [
                Operator.model_validate(o.model_dump() | {field: value}) if o.id == person_id else o
                for o in station.operators
            ]
            return change_station(station, operators=tuple(people))

        return self.attempt(field, change)

    def _rename(self, person_id: str, entry: TextField, text: str) -> None:
        entry.answer(self._change(person_id, "name", text.strip()))

    def _add(self) -> None:
        people = self._model.station.operators
        new = fresh_id({o.id for o in people}, "somebody")
        self._set((*people, Operator(id=new, name=new.replace("-", " "))), "add somebody")

    def _remove(self, person_id: str) -> None:
        people = self._model.station.operators
        self._set(tuple(o for o in people if o.id != person_id), "remove somebody")


class RoomPage(Place):
    """Noise of the room, frequency of the mains."""

    def shown(self) -> object:
        """Both."""
        return self._model.station.room_noise_dba, self._model.station.mains_hz

    def build(self, column: QVBoxLayout) -> None:
        """Two figures."""
        station = self._model.station
        column.addWidget(label("How loud is the room, and which mains?", "headline"))
        noise = self.field(NOISE, station.room_noise_dba, "Noise of the room", ("room", "noise"))
        noise.accepted.connect(self._take_noise)
        mains = self.choice("Mains frequency", ("50", "60"), str(station.mains_hz))
        mains.textActivated.connect(self._take_mains)
        for words, widget, tail in (
            ("Noise of the room", noise, "a quiet room 35, a fan beside the desk 50, a car 65"),
            ("Mains frequency", mains, "Hz"),
        ):
            row = QHBoxLayout()
            row.setSpacing(10)
            name = label(words, "sub")
            name.setFixedWidth(self._look.px(150))
            row.addWidget(name)
            row.addWidget(widget)
            row.addWidget(label(tail, "caption"))
            row.addStretch(1)
            column.addLayout(row)

    def _take_noise(self, figure: Figure) -> None:
        self.attempt("room", lambda s: change_station(s, room_noise_dba=figure))

    def _take_mains(self, text: str) -> None:
        self.attempt("mains", lambda s: change_station(s, mains_hz=int(text)))


class DrawerPage(Place):
    """Parts at hand; plans and pads are made of them."""

    def __init__(self, model: GearModel, look: Look) -> None:
        self.lists: dict[str, LinesField] = {}
        super().__init__(model, look)

    def shown(self) -> object:
        """The drawer."""
        return self._model.station.drawer

    def build(self, column: QVBoxLayout) -> None:
        """A series, and lists of values."""
        drawer = self._model.station.drawer
        column.addWidget(label("Which parts lie in the drawer?", "headline"))
        column.addWidget(
            label(
                "What is listed here is what plans and pads are made of. With an empty list, any"
                " value of the series will do. Transformers are pieces on the shelf.",
                "sub",
                wraps=True,
            )
        )
        series = self.choice("Series", get_args(Series), drawer.series)
        series.textActivated.connect(self._take_series)
        row = QHBoxLayout()
        row.addWidget(label("Otherwise, preferred values of", "sub"))
        row.addWidget(series)
        row.addStretch(1)
        column.addLayout(row)
        self.lists = {}
        for field, words, quantity, values, examples in (
            ("resistors", "Resistors", OHMS, drawer.ohms(), "100 220 470 1k 4k7 10k"),
            ("capacitors", "Capacitors", FARADS, drawer.farads(), "100n 1u 4u7 10u"),
        ):
            column.addWidget(label(words, "section"))
            entry = LinesField(
                "  ".join(format_short(v, 6) for v in values),
                words,
                self._model.document.drafts,
                ("drawer", field),
            )
            entry.setLineWrapMode(LinesField.LineWrapMode.WidgetWidth)
            entry.setPlaceholderText(f"as you would write them: {examples}")
            entry.setFixedHeight(self._look.px(84))
            entry.accepted.connect(partial(self._take_text, field, quantity, entry))
            self.lists[field] = entry
            column.addWidget(entry)
            take = button(
                f"Take over the {within(words)}", "plain", partial(self.take_list, field, quantity)
            )
            column.addWidget(take)

    def take_list(self, field: str, quantity: Quantity) -> None:
        """Take over a list of values as typed by now."""
        self._take_text(field, quantity, self.lists[field], self.lists[field].toPlainText())

    def _take_text(self, field: str, quantity: Quantity, entry: LinesField, text: str) -> None:
        """Read a list of values; a wrong one is named and everything typed stays."""
        try:
            values = [
                Figure(value=quantity.parse(word).value)
                for word in re.split(r"[\s;]+", text.strip())
                if word
            ]
        except QuantityError as error:
            self.say(str(error))
            entry.answer(str(error))
            return
        values.sort(key=lambda figure: figure.value)

        def change(station: Station) -> Station:
            data = dict(station.drawer) | {field: tuple(values)}
            return change_station(station, drawer=Drawer.model_validate(data))

        entry.answer(self.attempt(field, change))

    def _take_series(self, text: str) -> None:
        drawer = self._model.station.drawer.model_copy(update={"series": text})
        self.attempt("series", lambda s: change_station(s, drawer=drawer))
