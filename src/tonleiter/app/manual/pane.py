"""The manual beside what one does: a list of pages with a search, and the page."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import cache

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QTextBrowser,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from tonleiter.app.demo import shipped_demo
from tonleiter.app.derived import Derived
from tonleiter.app.jobs import Jobs, Wait
from tonleiter.app.theme.look import Look
from tonleiter.app.widgets.labels import button, label
from tonleiter.app.widgets.overlay import Overlay
from tonleiter.core.manual.book import Book, computed, is_computed, standing
from tonleiter.core.manual.html import body
from tonleiter.core.manual.page import Page, found
from tonleiter.core.station.files import read_station
from tonleiter.core.station.model import Station

WIDE_PX, LIST_PX = 800, 260
SHARE = 0.66
ID = Qt.ItemDataRole.UserRole
# what the window adds to the pages: keys of its spaces
Dressed = Callable[[Page], Page]


class ManualPane(Overlay):
    """Over the right of the window; Escape closes it, a press beside it does not."""

    ends_beside = False

    def __init__(
        self, look: Look, extra: Iterable[Page], dressed: Dressed, window: QWidget
    ) -> None:
        super().__init__(window)
        self.setAccessibleName("Manual")
        self._look, self._dressed, self._extra = look, dressed, tuple(extra)
        self._book = Book((*standing().pages, *self._extra)).with_pages(*_WORKED.values())
        self._at = ""
        self._back: list[str] = []
        self._jobs = Jobs()
        self._asked: Derived[tuple[Page, ...]] = Derived(self._jobs, Wait.PAGE)
        self._asked.setParent(self)
        self._asked.changed.connect(self._came)
        self.search = QLineEdit()
        self.search.setPlaceholderText("find in the manual")
        self.search.setAccessibleName("Find in the manual")
        self.search.textChanged.connect(self._list)
        self.pages = QTreeWidget()
        self.pages.setHeaderHidden(True)
        self.pages.setIndentation(12)
        self.pages.setAccessibleName("Pages")
        self.pages.currentItemChanged.connect(self._chosen)
        self.text = QTextBrowser()
        self.text.setAccessibleName("Page")
        self.text.setOpenLinks(False)
        self.text.anchorClicked.connect(self._follow_link)
        self._arrange()
        self._list()
        look.changed.connect(self._restyle)

    def _arrange(self) -> None:
        head = QHBoxLayout()
        head.addWidget(label("Manual", "title"))
        self.back_button = button("Back", "link", self.back)
        head.addWidget(self.back_button)
        head.addStretch(1)
        head.addWidget(button("Close  Esc", "plain", self.left.emit))
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(self.search)
        left.addWidget(self.pages, 1)
        both = QHBoxLayout()
        both.setSpacing(12)
        both.addLayout(left)
        both.addWidget(self.text, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 12, 14, 12)
        column.addLayout(head)
        column.addLayout(both, 1)
        self.fit()

    def fit(self) -> None:
        """Over the right of the window, as wide as it leaves room."""
        over = self._over
        wide = min(self._look.px(WIDE_PX), max(round(over.width() * SHARE), 560))
        self.setGeometry(over.width() - wide, 0, wide, over.height())
        self.pages.setFixedWidth(min(self._look.px(LIST_PX), wide // 3))
        self.search.setFixedWidth(self.pages.width())

    # --- pages -----------------------------------------------------------------------------------

    @property
    def shown(self) -> str:
        """The id of the page that is seen."""
        return self._at

    def follow(self, space: str) -> None:
        """Somebody went to another space: the page follows, if a space's was shown."""
        if self._at.startswith("space/") or not self._at:
            self.show_page(f"space/{space}", keep=False)

    def show_page(self, page_id: str, keep: bool = True) -> None:
        """Show a page; one that is being computed says so. ``keep``: Back leads here again."""
        if keep and self._at and self._at != page_id:
            self._back.append(self._at)
        self._at = page_id
        self.back_button.setEnabled(bool(self._back))
        self._render()
        self._mark()

    def back(self) -> None:
        """The page before."""
        if self._back:
            self.show_page(self._back.pop(), keep=False)

    def _page(self) -> Page | None:
        page = self._book.page(self._at)
        return None if page is None else self._dressed(page)

    def _render(self) -> None:
        page = self._page()
        if page is None:
            self.text.setPlainText("There is no such page.")
            return
        if not page.blocks and is_computed(page.id):
            self._asked.want(page.id, lambda _: computed(page.id, _demo()))
            said = self._asked.trouble or "Being worked out on the demo station…"
            self.text.setPlainText(said)
            return
        self.text.setHtml(self._html(page))

    def _html(self, page: Page) -> str:
        p, look = self._look.palette, self._look
        size = look.px(14)
        style = (
            f"body, p, li, td, th {{ color: {p.ink}; font-size: {size}px; }}"
            f"h2 {{ color: {p.ink}; font-size: {look.px(20)}px; }}"
            f"h3 {{ color: {p.ink}; font-size: {look.px(16)}px; }}"
            f"a {{ color: {p.signal}; font-weight: 600; }}"
            f"th {{ color: {p.soft}; text-align: left; }} td {{ padding-right: 14px; }}"
            f".caution {{ color: {p.mind_text}; }}"
            f"kbd, .button {{ background: {p.chosen}; font-weight: 600; }}"
        )
        inside = body(page, lambda to: f"page:{to}", None)
        return f"<html><head><style>{style}</style></head><body>{inside}</body></html>"

    def _restyle(self) -> None:
        self.fit()
        self._render()

    def _follow_link(self, to: QUrl) -> None:
        if to.scheme() == "page":
            self.show_page(to.path())

    def _came(self) -> None:
        if self._asked.whole and self._asked.value is not None:
            _WORKED.update({page.id: page for page in self._asked.value})
            self._book = self._book.with_pages(*_WORKED.values())
        self._render()

    def finish(self) -> None:
        """Wait for what is computed."""
        self._asked.finish()

    def end(self) -> None:
        """Nobody reads any more."""
        self._jobs.end()

    # --- the list --------------------------------------------------------------------------------

    def _list(self) -> None:
        """Pages under their headings; with something typed, those that hold it."""
        typed = self.search.text().strip()
        self.pages.blockSignals(True)
        self.pages.clear()
        metrics = QFontMetrics(self._look.font(14))
        if typed:
            for page in found(self._book.pages, typed):
                self._item(page, None, metrics)
        else:
            for group, pages in self._book.groups().items():
                heading = QTreeWidgetItem([group])
                heading.setFlags(Qt.ItemFlag.ItemIsEnabled)
                self.pages.addTopLevelItem(heading)
                for page in pages:
                    self._item(page, heading, metrics)
                heading.setExpanded(group == "Spaces" or len(pages) < 8)
        self.pages.blockSignals(False)
        self._mark()

    def _item(self, page: Page, under: QTreeWidgetItem | None, metrics: QFontMetrics) -> None:
        item = QTreeWidgetItem([page.title])
        item.setData(0, ID, page.id)
        item.setToolTip(0, page.title)
        if under is None:
            self.pages.addTopLevelItem(item)
        else:
            under.addChild(item)

    def _items(self) -> Iterable[QTreeWidgetItem]:
        tops = (self.pages.topLevelItem(k) for k in range(self.pages.topLevelItemCount()))
        for top in tops:
            if top is not None:
                yield top
                inner = (top.child(k) for k in range(top.childCount()))
                yield from (item for item in inner if item is not None)

    def _mark(self) -> None:
        """The page that is seen is marked in the list."""
        self.pages.blockSignals(True)
        for item in self._items():
            if item.data(0, ID) == self._at:
                self.pages.setCurrentItem(item)
                break
        self.pages.blockSignals(False)

    def _chosen(self, item: QTreeWidgetItem | None) -> None:
        if item is not None and (page := item.data(0, ID)):
            self.show_page(str(page))


# what was worked out once on the demo that ships stays so
_WORKED: dict[str, Page] = {}


@cache
def _demo() -> Station:
    return read_station(shipped_demo(), keeps=False).station
