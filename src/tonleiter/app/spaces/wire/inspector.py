"""The inspector: the net that is lit, the wire, the contact chosen; else the whole build."""

from __future__ import annotations

from tonleiter.app.in_turns import InTurns
from tonleiter.app.spaces.wire.build_panel import show_build
from tonleiter.app.spaces.wire.contact_panel import show_contact
from tonleiter.app.spaces.wire.model import WireModel
from tonleiter.app.spaces.wire.net_panel import show_net, show_wire
from tonleiter.app.spaces.wire.rows import Rows
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.panel import Panel


class Inspector(Panel):
    """Edits go to the model; nothing is kept here."""

    def __init__(self, model: WireModel, look: Look) -> None:
        super().__init__("inspector")
        self._model, self._look = model, look
        # after an edit the score is painted first; what comes from workers comes in pairs
        self._turns = InTurns(self)
        for later in (model.changed, model.schools_changed):
            later.connect(self._follow)
        for now in (model.lit_changed, look.changed):
            now.connect(self.refresh)
        self.refresh()

    def _follow(self) -> None:
        self._turns.take_after(self.refresh)

    def refresh(self) -> None:
        """Show what is chosen."""
        self._turns.drop()
        model = self._model
        column = self.begin(spacing=6)
        rows = Rows(model, self._look, column, self.refresh)
        net, wire, chosen = model.net(), model.conductor(), model.chosen()
        if net is not None:
            show_net(rows, net)
        if wire is not None:
            show_wire(rows, wire)
        if chosen is not None:
            show_contact(rows, *chosen)
        if net is None and wire is None and chosen is None and model.verdict is not None:
            show_build(rows, model.verdict)
        self.finish(column)
