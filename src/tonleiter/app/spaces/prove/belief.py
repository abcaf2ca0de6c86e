"""Beside the step: the instruments, and what would explain the readings so far."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QVBoxLayout

from tonleiter.app.spaces.prove.bench_panel import BenchPanel
from tonleiter.app.spaces.prove.gauge import ShareBar
from tonleiter.app.spaces.prove.model import ProveModel
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label, wrapped_button
from tonleiter.app.widgets.panel import Panel
from tonleiter.core.prove.rank import Explained, Ranking
from tonleiter.core.words import count_of

MOST_FAULTS, EQUALS, LEAST_SHARE = 5, 3, 0.005


class BeliefPanel(Panel):
    """``wanted`` asks to go to the reading that tells most, ``part_wanted`` to a part in Wire."""

    wanted = Signal(object)
    part_wanted = Signal(str)

    def __init__(self, model: ProveModel, look: Look) -> None:
        super().__init__("inspector")
        self.model, self._look = model, look
        self._bench = BenchPanel(model, look)

    def show_belief(self) -> None:
        """The instruments of the step, then the ranking, the next reading, practice."""
        model = self.model
        column = self.begin(spacing=6)
        self._bench.add_to(column, self.width())
        column.addWidget(label("What would explain this?", "title", wraps=True))
        if model.proof is None or not model.ready:
            column.addWidget(label("…", "sub"))
            self.finish(column)
            return
        bench = model.proof.bench
        read, untold = len(model.readings()), len(bench.untold())
        said = f"{count_of(len(bench.faults) - 1, 'fault')} simulated"
        if untold:
            said += f" ({untold} of them no reading tells from a right build)"
        said += f"; {read} of {count_of(len(bench.readings), 'reading')} counted"
        column.addWidget(label(said, "caption", wraps=True))
        ranking = model.ranking
        if ranking is not None and read:
            self._faults(column, ranking)
        if not read:
            column.addWidget(
                label(
                    "A reading outside its brackets starts the search: every fault is weighed by"
                    " how well it explains all readings so far.",
                    "sub",
                    wraps=True,
                )
            )
        if ranking is not None and ranking.next is not None:
            wanted = ranking.next
            metrics = QFontMetrics(self._look.font(14, 600))
            column.addWidget(
                wrapped_button(
                    f"Read next: {wanted.says}",
                    "plain",
                    partial(self.wanted.emit, wanted),
                    metrics,
                    self.width() - 70,
                )
            )
        self._practice(column)
        self.finish(column)

    def _faults(self, column: QVBoxLayout, ranking: Ranking) -> None:
        """The likeliest, those together that no reading tells apart."""
        for k, (together, explained) in enumerate(ranking.groups(LEAST_SHARE)[:MOST_FAULTS]):
            self._fault(column, explained, together)
            part = explained.fault.part
            if k == 0 and part in self.model.refs():
                column.addWidget(
                    button(
                        f"Show {part} on the wiring sheet",
                        "link",
                        partial(self.part_wanted.emit, part),
                    )
                )

    def _fault(self, column: QVBoxLayout, explained: Explained, share: float) -> None:
        column.addWidget(label(explained.fault.says, "section", wraps=True))
        column.addWidget(ShareBar(self._look, share, explained.fault.says))
        model = self.model
        assert model.proof is not None
        names = {f.id: f.says for f in model.proof.faults}
        said = []
        if explained.equals:
            more = "" if len(explained.equals) <= EQUALS else " and more"
            same = "; or ".join(names.get(e, "nothing wrong") for e in explained.equals[:EQUALS])
            said.append(f"no reading tells it from: {same}{more}")
        if explained.worst:
            worst = next(r for r in model.proof.readings if r.id == explained.worst)
            said.append(f"does not explain {worst.says}")
        if said:
            column.addWidget(label("; ".join(said), "caption", wraps=True))

    def _practice(self, column: QVBoxLayout) -> None:
        model = self.model
        column.addWidget(label("Practice", "section"))
        if model.hidden is None:
            column.addWidget(
                label("A fault hidden on the simulated bench, to be found.", "caption", wraps=True)
            )
            column.addWidget(button("Hide a fault", "plain", self._hide))
        else:
            if model.told:
                column.addWidget(label(f"It was: {model.hidden.says}.", "sub", wraps=True))
            else:
                column.addWidget(label("A fault is hidden.", "sub"))
                column.addWidget(button("Tell me", "plain", model.tell))
            column.addWidget(button("Hide another one", "plain", self._hide))
        if model.typed():
            column.addWidget(button("I mended it: read again", "plain", self._again))

    def _hide(self) -> None:
        self.model.attempt(self.model.hide)

    def _again(self) -> None:
        self.model.attempt(self.model.read_again)
