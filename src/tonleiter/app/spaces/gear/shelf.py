"""The shelf: all gear under its headings, with how much of each is known."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFrame,
    QHeaderView,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
)

from tonleiter.app.spaces.gear.model import (
    BOX,
    DRAWER,
    GROUNDS,
    LEARN,
    PEOPLE,
    ROOM,
    GearModel,
)
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.flow import Flow
from tonleiter.app.widgets.labels import button
from tonleiter.core.gear.base import Gear
from tonleiter.core.gear.labels import label_of
from tonleiter.core.station.shelf import groups, known_figures, several

ID = Qt.ItemDataRole.UserRole
PLACES = (
    (GROUNDS, "Leads and grounds"),
    (LEARN, "What readings teach"),
    (PEOPLE, "People"),
    (ROOM, "The room and the mains"),
    (DRAWER, "Parts drawer"),
)


class Shelf(QFrame):
    """A tree of headings and pieces; typing filters it."""

    def __init__(self, model: GearModel, look: Look) -> None:
        super().__init__()
        self._model, self._look = model, look
        self._shown: object = None
        self.setObjectName("shelf")
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("find on the shelf")
        self.filter.setAccessibleName("Find on the shelf")
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self._filter)
        self.tree = QTreeWidget()
        self.tree.setHeaderHidden(True)
        self.tree.setColumnCount(2)
        self.tree.setIndentation(0)
        self.tree.setRootIsDecorated(False)
        self.tree.setAccessibleName("Shelf")
        self.tree.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.tree.currentItemChanged.connect(self._choose)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 10, 12)
        column.setSpacing(8)
        add = button("Add a piece  A", "plain", lambda: model.start_adding(False))
        tip = "Something you do not own: enter it from its data sheet"
        guest = button("A guest", "plain", lambda: model.start_adding(True), tip)
        column.addLayout(Flow(add, guest))
        column.addWidget(self.filter)
        column.addWidget(self.tree, 1)
        model.changed.connect(self.refresh)
        model.selection_changed.connect(self._mark)
        look.changed.connect(self._resize)
        self._resize()
        self.refresh()

    def _resize(self) -> None:
        header = self.tree.header()
        header.setStretchLastSection(False)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self._shown = None
        self.refresh()

    def refresh(self) -> None:
        """Show the station's gear, unless nothing that is shown here changed."""
        station = self._model.station
        shown = (
            [(g.title, [_line(p) for p in g.gear]) for g in groups(station)],
            [
                (b.id, b.name, [_line(station.gear_by_id[p]) for p in b.ports])
                for b in several(station)
            ],
        )
        if shown == self._shown:
            return
        self._shown = shown
        self.tree.blockSignals(True)
        self.tree.clear()
        # those without a socket join others: supplies, a mast
        boxes = sorted(several(station), key=lambda b: not b.ports)
        for k, box in enumerate(boxes):
            if box.ports and k == 0:
                self._heading("Boxes with several sockets")
            if not box.ports and (k == 0 or boxes[k - 1].ports):
                self._heading("Supplies and what else joins boxes")
            item = QTreeWidgetItem([box.name, ""])
            item.setData(0, ID, f"{BOX}{box.id}")
            item.setToolTip(0, f"{box.name}: {label_of(box.kind)}")
            item.setFont(0, self._look.font(14, 600))
            self.tree.addTopLevelItem(item)
            for port in box.ports:
                self._piece(station.gear_by_id[port], indent="      ")
        for group in groups(station):
            if group.gear:
                self._heading(group.title)
            for piece in group.gear:
                self._piece(piece)
        self._heading("Around it")
        for place, title in PLACES:
            item = QTreeWidgetItem([title, ""])
            item.setData(0, ID, place)
            self.tree.addTopLevelItem(item)
        self.tree.blockSignals(False)
        self._filter(self.filter.text())
        self._mark()

    def _piece(self, piece: Gear, indent: str = "") -> None:
        name, known = _line(piece)[1:]
        item = QTreeWidgetItem([indent + name, known])
        item.setData(0, ID, piece.id)
        item.setToolTip(0, f"{piece.name}: {piece.noun}")
        item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight)
        item.setForeground(1, self._look.palette.color("soft"))
        self.tree.addTopLevelItem(item)

    def _heading(self, title: str) -> None:
        item = QTreeWidgetItem([title, ""])
        item.setFlags(Qt.ItemFlag.NoItemFlags)
        item.setForeground(0, self._look.palette.color("soft"))
        font = self._look.font(13, 600)
        item.setFont(0, font)
        self.tree.addTopLevelItem(item)

    def _items(self) -> list[QTreeWidgetItem]:
        found = [self.tree.topLevelItem(k) for k in range(self.tree.topLevelItemCount())]
        return [item for item in found if item is not None]

    def _filter(self, text: str) -> None:
        wanted = text.strip().lower()
        for item in self._items():
            words = f"{item.text(0)} {item.toolTip(0)}".lower()
            item.setHidden(bool(wanted) and (item.data(0, ID) is None or wanted not in words))

    def _mark(self) -> None:
        """Mark what is chosen."""
        self.tree.blockSignals(True)
        chosen = next((i for i in self._items() if i.data(0, ID) == self._model.selected), None)
        if chosen is None:
            self.tree.setCurrentItem(None)  # type: ignore[call-overload]
            self.tree.clearSelection()
        else:
            self.tree.setCurrentItem(chosen)
            self.tree.scrollToItem(chosen)
        self.tree.blockSignals(False)

    def _choose(self, item: QTreeWidgetItem | None) -> None:
        if item is not None and item.data(0, ID) is not None:
            self._model.select(item.data(0, ID))


def _line(piece: Gear) -> tuple[str, str, str]:
    known = known_figures(piece)
    name = f"{piece.name} (guest)" if piece.guest else piece.name
    return piece.id, name, f"{known.known}/{known.of}"
