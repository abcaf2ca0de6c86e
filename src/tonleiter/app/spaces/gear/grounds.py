"""Leads and grounds: the picture for the open chain, its loops, the leads beside it."""

from __future__ import annotations

from functools import partial
from typing import get_args

from PySide6.QtGui import QHideEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from tonleiter.app.safety.events import guarded
from tonleiter.app.spaces.gear.grounds_model import GroundsModel
from tonleiter.app.spaces.gear.grounds_picture import GroundsPicture
from tonleiter.app.spaces.gear.model import GearModel
from tonleiter.app.spaces.gear.place import Place
from tonleiter.app.spaces.space import Context
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.choice import Choice
from tonleiter.app.widgets.labels import button, label
from tonleiter.core.gear.figure import OHMS
from tonleiter.core.report.grounds import GroundLoop, Grounds
from tonleiter.core.station import boxes, edits
from tonleiter.core.station.devices import LINK_NAMES, Link, LinkKind, may_be
from tonleiter.core.units.quantity import AMPERE, format_quantity
from tonleiter.core.words import the

NAME_PX, NARROW_BELOW_PX = 190, 760


class GroundsPage(Place):
    """Solved behind the window while it is seen; a loop is lit up by its button."""

    def __init__(self, model: GearModel, look: Look, context: Context) -> None:
        self.solving = GroundsModel(model.document, context.jobs, context.verdicts)
        self._lit = 0
        self._from, self._to = "", ""
        self.loops: list[QPushButton] = []
        self.picture = GroundsPicture(look)
        super().__init__(model, look)
        self.solving.setParent(self)
        self.solving.changed.connect(self.refresh)

    @property
    def grounds(self) -> Grounds | None:
        """What is known of the open chain's."""
        return self.solving.grounds

    def shown(self) -> object:
        """The whole station: everything in it may hum. Nothing while it is out of sight."""
        if not self.isVisible():
            return None
        made = self.solving
        return self._model.station, id(made.grounds), made.trouble, self._narrow()

    @guarded
    def showEvent(self, event: QShowEvent) -> None:
        """It is seen from now on."""
        super().showEvent(event)
        self.solving.arrive()

    @guarded
    def hideEvent(self, event: QHideEvent) -> None:
        """Nobody looks any more."""
        super().hideEvent(event)
        self.solving.leave()

    def _narrow(self) -> bool:
        """Whether a lead needs two lines."""
        return self.width() < self._look.px(NARROW_BELOW_PX)

    @guarded
    def resizeEvent(self, event: QResizeEvent) -> None:
        """One line a lead, or two."""
        super().resizeEvent(event)
        self.refresh()

    def arrive(self) -> None:
        """It is shown."""
        self.refresh()

    def build(self, column: QVBoxLayout) -> None:
        """Sentence, picture, loops, leads."""
        if not self.isVisible():
            return
        station, why = self._model.station, self.solving.trouble
        grounds = self.grounds
        if grounds is None and not why:
            why = "It is being worked out…"
        self._lit = min(self._lit, max(len(grounds.loops) - 1, 0)) if grounds else 0
        row = QHBoxLayout()
        row.addWidget(label("Grounds around", "sub"))
        chains = Choice(self._look, "Chain", 260)
        current = station.chain().id if station.chains else ""
        chains.show_items([(c.name, c.id) for c in station.chains], current)
        chains.chosen.connect(lambda _: self._open(chains.currentData()))
        row.addWidget(chains)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(label(why or (grounds.says if grounds else ""), "headline", wraps=True))
        if grounds is not None:
            column.addWidget(label(grounds.proves, "sub", wraps=True))
            # the picture before is put away with the page that held it
            self.picture = GroundsPicture(self._look)
            self.picture.chosen.connect(self._model.select_box)
            column.addWidget(self.picture)
            self._loop_buttons(column, grounds)
            self._light(self._lit)
            column.addWidget(self._plugged())
        self._leads(column)

    def _open(self, chain_id: str) -> None:
        self.attempt("chain", lambda s: edits.open_chain(s, chain_id))

    def _pull(self, link_id: str) -> None:
        self.attempt("remove a lead", lambda s: boxes.remove_link(s, link_id))

    def _plugged(self) -> QWidget:
        """Whether the leads of the open chain stay where they are."""
        station = self._model.station
        box = QCheckBox("the leads of this chain stay plugged in while others are used")
        if station.chains:
            chain = station.chain()
            box.setChecked(chain.stays_plugged)
            box.clicked.connect(
                lambda on: self.attempt(
                    "stays plugged in",
                    lambda s: edits.change_chain(s, chain.id, stays_plugged=on),
                )
            )
        return box

    def _loop_buttons(self, column: QVBoxLayout, grounds: Grounds) -> None:
        self.loops = []
        for k, loop in enumerate(grounds.loops):
            made = button(_loop_words(loop), "option", partial(self._light, k))
            made.setCheckable(True)
            made.setToolTip(" → ".join(loop.names))
            self.loops.append(made)
            column.addWidget(made)
        self._way = label("", "caption", wraps=True)
        column.addWidget(self._way)

    def _light(self, k: int) -> None:
        """Light a loop up."""
        self._lit = k
        grounds = self.grounds
        loop = grounds.loops[k] if grounds and grounds.loops else None
        for n, made in enumerate(self.loops):
            made.setChecked(n == k)
        if loop is not None:
            self._way.setText(" → ".join(loop.names))
        self.picture.show_grounds(grounds, loop)

    # --- leads -----------------------------------------------------------------------------------

    def _leads(self, column: QVBoxLayout) -> None:
        station = self._model.station
        column.addWidget(label("Leads that carry no sound of a chain", "section"))
        for link in station.links:
            self._line(column, link)
        if len(station.devices) < 2:
            column.addWidget(label("Two boxes are wanted for a lead.", "caption"))
            return
        row = QHBoxLayout()
        row.setSpacing(8)
        items = [(d.name, d.id) for d in station.devices]
        known = {d.id for d in station.devices}
        first = self._from if self._from in known else items[0][1]
        second = self._to if self._to in known else items[1][1]
        from_box, to_box = Choice(self._look, "From", 170), Choice(self._look, "To", 170)
        from_box.show_items(items, first)
        to_box.show_items(items, second)
        kind = Choice(self._look, "Kind of lead", 150)
        kind.addItem("add a lead…", "")
        for token in get_args(LinkKind):
            kind.addItem(LINK_NAMES[token], token)
        kind.chosen.connect(
            lambda _: self._add(kind.currentData(), from_box.currentData(), to_box.currentData())
        )
        self.new_from, self.new_to, self.new_kind = from_box, to_box, kind
        # at once: what a worker found may build the page anew before the lead is complete
        for box in (from_box, to_box):
            box.activated.connect(self._hold_ends)
        for words, widget in (("From the", from_box), ("to the", to_box), ("", kind)):
            if words:
                row.addWidget(label(words, "sub"))
            elif self._narrow():
                column.addLayout(row)
                row = QHBoxLayout()
                row.addStretch(1)
            row.addWidget(widget)
        row.addStretch(1)
        column.addLayout(row)

    def _hold_ends(self) -> None:
        self._from, self._to = self.new_from.currentData(), self.new_to.currentData()

    def _line(self, column: QVBoxLayout, link: Link) -> None:
        """One lead: what, between which, its resistance, how it joins, pulled out."""
        names = self._model.station.device_by_id
        row = QHBoxLayout()
        row.setSpacing(8)
        column.addLayout(row)
        name = label(link.name, "sub", wraps=True)
        name.setFixedWidth(self._look.px(NAME_PX))
        ends = label(f"{names[link.a].name} – {names[link.b].name}", "caption", wraps=True)
        ohm = self.field(
            OHMS, link.ohm, f"Resistance of {the(link.name)}", ("link", link.id, "ohm")
        )
        ohm.setFixedWidth(self._look.px(84))
        ohm.accepted.connect(lambda figure: self._change(link.id, ohm=figure))
        ways = Choice(self._look, f"How {the(link.name)} joins", 150)
        ways.show_items([(_WAYS[w], w) for w in may_be(link.kind)], link.joins)
        ways.chosen.connect(lambda _: self._change(link.id, joins=ways.currentData()))
        core = QCheckBox("ring core")
        core.setChecked(link.core == "ring-core")
        core.clicked.connect(lambda on: self._change(link.id, core="ring-core" if on else "none"))
        pull = button("Remove", "link", partial(self._pull, link.id))
        row.addWidget(name)
        row.addWidget(ends, 1)
        if self._narrow():
            row = QHBoxLayout()
            row.setSpacing(8)
            column.addLayout(row)
            row.addStretch(1)
        ways.setFixedWidth(self._look.px(132))
        for widget in (ohm, label("Ω", "caption"), ways, core, pull):
            row.addWidget(widget)

    def _add(self, kind: str, a: str, b: str) -> None:
        if kind:
            self._from, self._to = a, b
            why = self.attempt("add a lead", lambda s: boxes.add_link(s, kind, a, b))  # type: ignore[arg-type]
            if why:
                self.new_kind.setCurrentIndex(0)

    def _change(self, link_id: str, **values: object) -> None:
        words = next(iter(values))
        self.attempt(words, lambda s: boxes.change_link(s, link_id, **values))


_WAYS = {"both-ends": "joined", "one-end": "open at one end", "isolated": "isolated"}


def _loop_words(loop: GroundLoop) -> str:
    amps = format_quantity(loop.current_a, AMPERE, 2)
    kind = "loop" if loop.galvanic else "leakage"
    under = loop.under_speech_db
    left = f"{abs(under):.0f} dB {'under' if under >= 0 else 'over'} speech"
    return f"{kind}: {amps}, {left}, {loop.share:.1%} of the hum"
