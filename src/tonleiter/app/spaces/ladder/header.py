"""The header: a sentence whose words are choices. It selects and changes the open chain."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QInputDialog, QLabel, QVBoxLayout

from tonleiter.app.spaces.ladder.grasp import FARTHEST_MM, NEAREST_MM
from tonleiter.app.spaces.ladder.model import LadderModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.quantity_field import QuantityField
from tonleiter.core.gear.base import Role
from tonleiter.core.gear.figure import DISTANCE, Figure
from tonleiter.core.refused import RefusedError
from tonleiter.core.station import edits
from tonleiter.core.station.model import Chain
from tonleiter.core.station.purpose import PURPOSES

NEW_VARIANT = "\0new"
REMOVE = "\0remove"
NO_GHOST = "\0none"


class Header(QFrame):
    """“I speak into the [microphone] on the [radio] for [purpose] at [distance]”."""

    refused = Signal(str)

    def __init__(self, model: LadderModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self.setObjectName("header")
        self.chain_box = self._box("Chain")
        self.microphone_box = self._box("Microphone")
        self.radio_box = self._box("Radio")
        self.purpose_box = self._box("Purpose")
        self.operator_box = self._box("Operator")
        self.shown_box = self._box("Variant shown")
        self.ghost_box = self._box("Ghost variant")
        self.distance = QuantityField(
            DISTANCE, Figure(value=30.0), "Distance", model.document.drafts, ("chain", "distance")
        )
        self._arrange()
        self._connect()
        model.changed.connect(self.refresh)
        look.changed.connect(self._resize)
        self.refresh()
        self._resize()

    def _box(self, name: str) -> Choice:
        return Choice(self._look, name)

    def _arrange(self) -> None:
        sentence = QHBoxLayout()
        sentence.setSpacing(6)
        for item in (
            "I speak into the",
            self.microphone_box,
            "on the",
            self.radio_box,
            "for",
            self.purpose_box,
            "at",
            self.distance,
        ):
            sentence.addWidget(QLabel(item) if isinstance(item, str) else item)
        sentence.addStretch(1)
        second = QHBoxLayout()
        second.setSpacing(6)
        for caption, widget in (
            ("Chain", self.chain_box),
            ("Voice", self.operator_box),
            ("Showing", self.shown_box),
            ("Ghost", self.ghost_box),
        ):
            label = QLabel(caption)
            label.setProperty("role", "caption")
            second.addWidget(label)
            second.addWidget(widget)
            second.addSpacing(8)
        second.addStretch(1)
        both = QVBoxLayout(self)
        both.setContentsMargins(20, 8, 16, 8)
        both.setSpacing(6)
        both.addLayout(sentence)
        both.addLayout(second)

    def _resize(self) -> None:
        self.distance.setFixedWidth(self._look.px(86))

    def _connect(self) -> None:
        self.chain_box.chosen.connect(self._choose_chain)
        self.microphone_box.chosen.connect(lambda _: self._swap(self.microphone_box, 0))
        self.radio_box.chosen.connect(lambda _: self._swap(self.radio_box, -1))
        self.purpose_box.chosen.connect(
            lambda _: self._set("purpose", purpose=self.purpose_box.currentData())
        )
        self.operator_box.chosen.connect(
            lambda _: self._set("voice", operator=self.operator_box.currentData())
        )
        self.shown_box.chosen.connect(self._choose_shown)
        self.ghost_box.chosen.connect(self._choose_ghost)
        self.distance.accepted.connect(self._take_distance)
        self.distance.refused.connect(self.refused)
        self.distance.nudged.connect(self._nudge_distance)

    def refresh(self) -> None:
        """Show the open chain."""
        chain = self._model.chain
        self.setEnabled(chain is not None)
        if chain is None:
            return
        station = self._model.document.station
        stages = chain.variant().stages
        self.chain_box.show_items([(c.name, c.id) for c in station.chains], chain.id)
        self.microphone_box.show_items(self._gear("microphone"), stages[0].gear)
        self.radio_box.show_items(self._gear("input"), stages[-1].gear)
        self.purpose_box.show_items([(p.title, p.id) for p in PURPOSES.values()], chain.purpose)
        self.operator_box.show_items([(o.name, o.id) for o in station.operators], chain.operator)
        variants = [(v.name, v.id) for v in chain.variants]
        more = [("new variant…", NEW_VARIANT)]
        if len(variants) > 1:
            more.append(("remove this variant", REMOVE))
        self.shown_box.show_items([*variants, *more], chain.shown)
        others = [v for v in variants if v[1] != chain.shown]
        self.ghost_box.show_items([("no ghost", NO_GHOST), *others], chain.ghost or NO_GHOST)
        self.distance.show_figure(chain.distance_mm)

    def _gear(self, role: Role) -> list[tuple[str, str]]:
        return [(g.name, g.id) for g in self._model.document.station.gear if g.role == role]

    def _swap(self, box: QComboBox, index: int) -> None:
        chain = self._model.chain
        if chain is None:
            return
        stages = chain.variant().stages
        place = index % len(stages)
        wanted = box.currentData()
        if stages[place].gear != wanted and not self._model.attempt(
            lambda: self._model.swap(place, wanted)
        ):
            self.refresh()

    def _set(self, label: str, **changes: object) -> None:
        """Change the chain; what was refused is shown as it was."""
        if not self._model.attempt(lambda: self._model.set_chain(label, None, **changes)):
            self.refresh()

    def _choose_chain(self) -> None:
        self._model.open_chain(self.chain_box.currentData())

    def _choose_shown(self) -> None:
        wanted = self.shown_box.currentData()
        if wanted == NEW_VARIANT:
            self._new_variant()
            return
        chain = self._model.chain
        if chain is None or wanted == chain.shown:
            return
        if wanted == REMOVE:
            self._model.attempt(
                lambda: self._model.edit(
                    f"variant {chain.variant().name} removed",
                    lambda station: edits.remove_variant(station, chain.id, chain.shown),
                )
            )
            return
        ghost = chain.shown if chain.ghost == wanted else chain.ghost
        self._set("variant", shown=wanted, ghost=ghost)

    def _new_variant(self) -> None:
        chain = self._model.chain
        self.refresh()
        if chain is None:
            return
        name, ok = QInputDialog.getText(
            self, "New variant", "A copy of what is shown, under the name:", text="another try"
        )
        if ok and name.strip():
            self.add_variant(name.strip())

    def add_variant(self, name: str) -> None:
        """Copy the shown variant under ``name``; the old one becomes the ghost."""
        chain = self._model.chain
        if chain is not None:
            self._model.attempt(
                lambda: self._model.edit(
                    "new variant", lambda station: edits.add_variant(station, chain.id, name)
                )
            )

    def _choose_ghost(self) -> None:
        wanted = self.ghost_box.currentData()
        self._set("ghost", ghost=None if wanted == NO_GHOST else wanted)

    def _take_distance(self, figure: Figure) -> None:
        try:
            self._model.set_chain("distance", distance_mm=figure)
        except RefusedError as error:
            self.distance.refuse(str(error))

    def _nudge_distance(self, steps: int) -> None:
        chain: Chain | None = self._model.chain
        if chain is not None:
            wanted = min(max(NEAREST_MM, chain.distance_mm.value + 5 * steps), FARTHEST_MM)
            self._set("distance", distance_mm=wanted)
