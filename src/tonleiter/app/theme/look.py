"""The look in force: palette, text scale, and the style sheet made of them."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from weakref import WeakSet

from PySide6.QtCore import QEvent, QObject, QTimer, Signal
from PySide6.QtGui import QColor, QFont, QPalette
from PySide6.QtWidgets import QApplication, QWidget
from shiboken6 import isValid

from tonleiter.app import turns
from tonleiter.app.in_turns import InTurns
from tonleiter.app.safety.events import guarded
from tonleiter.app.theme.fonts import MONO, SANS, SYMBOLS, font, load_fonts
from tonleiter.app.theme.palette import DARK, LIGHT, THEMES, Palette

SCALES = (0.9, 1.0, 1.15, 1.3, 1.5)
# how long the window rests before what is not seen is dressed
EASE_MS = 80


class Look(QObject):
    """Palette and text scale; views repaint on ``changed``.

    The style sheet is worn by what is seen, not by the whole application: a thousand widgets of
    spaces that nobody looks at would all be dressed anew at once.
    """

    changed = Signal()
    # a hand at the screen changes it just now
    is_by_hand = False

    def __init__(self, app: QApplication) -> None:
        super().__init__()
        self._app = app
        self.palette: Palette = LIGHT
        self.scale = 1.0
        self.contrast = False
        """Whether the desktop asks for high contrast."""
        self._wear: WeakSet[QWidget] = WeakSet()
        load_fonts()
        app.setStyle("Fusion")
        self._apply()

    def dress(self, widget: QWidget) -> None:
        """A widget, and all within it, follows the look from now on, at once."""
        self._wear.add(widget)
        widget.setStyleSheet(style_sheet(self.palette, self.scale))

    def set_theme(self, name: str) -> None:
        """Switch to ``light`` or ``dark``."""
        self.palette = THEMES[name]
        self._apply()

    def toggle_theme(self) -> None:
        """Switch between day and night; who sees best by high contrast has it by day."""
        by_day = "contrast" if self.contrast else "light"
        self.set_theme(by_day if self.palette is DARK else "dark")

    def set_scale(self, scale: float) -> None:
        """Set the text size as a multiple of the normal one."""
        self.scale = scale
        self._apply()

    @contextmanager
    def by_hand(self) -> Iterator[None]:
        """Within the block spaces follow a turn of the loop later: keys are heard in between."""
        self.is_by_hand = True
        try:
            yield
        finally:
            self.is_by_hand = False

    def step_scale(self, direction: int) -> None:
        """Go to the next larger (+1) or smaller (−1) text size."""
        nearest = min(range(len(SCALES)), key=lambda i: abs(SCALES[i] - self.scale))
        self.set_scale(SCALES[min(max(nearest + direction, 0), len(SCALES) - 1)])

    def font(self, size_px: float, weight: int = 400, mono: bool = False) -> QFont:
        """A font at the present text scale."""
        return font(size_px, weight, mono, self.scale)

    def px(self, size: float) -> int:
        """A length that grows with the text."""
        return round(size * self.scale)

    def catch_up(self) -> None:
        """It is of now, as the look of the whole application is."""

    def _apply(self) -> None:
        p = self.palette
        self._app.setFont(self.font(14))
        qt = QPalette()
        for role, name in (
            (QPalette.ColorRole.Window, p.paper),
            (QPalette.ColorRole.WindowText, p.ink),
            (QPalette.ColorRole.Base, p.field),
            (QPalette.ColorRole.AlternateBase, p.panel),
            (QPalette.ColorRole.Text, p.ink),
            (QPalette.ColorRole.Button, p.panel),
            (QPalette.ColorRole.ButtonText, p.ink),
            (QPalette.ColorRole.Highlight, p.chosen),
            (QPalette.ColorRole.HighlightedText, p.ink),
            (QPalette.ColorRole.ToolTipBase, p.panel),
            (QPalette.ColorRole.ToolTipText, p.ink),
            (QPalette.ColorRole.PlaceholderText, p.soft),
            (QPalette.ColorRole.Link, p.signal),
        ):
            qt.setColor(role, QColor(name))
        self._app.setPalette(qt)
        self._worn()

    def _worn(self) -> None:
        """What wears it is dressed anew, and told."""
        self._dressed()
        self._told()

    @turns.at_work()
    def _dressed(self) -> None:
        sheet = style_sheet(self.palette, self.scale)
        for widget in tuple(self._wear):
            if isValid(widget):
                widget.setStyleSheet(sheet)

    @turns.at_work()
    def _told(self) -> None:
        self.changed.emit()


class SpaceLook(Look):
    """The look as a space wears it.

    While the space is seen it follows: at once, or, where a hand at the screen waits, dressed in
    one turn of the loop, told in the next and painted in the one after. Unseen it follows when
    nothing else is done, or when it is seen again.
    """

    def __init__(self, look: Look) -> None:
        QObject.__init__(self)
        self._look = look
        self.palette, self.scale = look.palette, look.scale
        self._wear = WeakSet()
        self._space: QWidget | None = None
        self._turns = InTurns(self)
        self._at_ease = QTimer(self)
        self._at_ease.setSingleShot(True)
        self._at_ease.setInterval(EASE_MS)
        self._at_ease.timeout.connect(self._when_at_ease)
        look.changed.connect(self._follow)

    def worn_by(self, space: QWidget) -> None:
        """The widget that wears it, with all within it."""
        self._space = space
        space.installEventFilter(self)
        self.dress(space)

    @property
    def _is_of_now(self) -> bool:
        return (self.palette, self.scale) == (self._look.palette, self._look.scale)

    def _follow(self) -> None:
        if self._space is None:
            return
        if not self._space.isVisible():
            self._at_ease.start()
        elif self._look.is_by_hand and not self._is_of_now:
            # what is seen meanwhile is all of the old look
            self._space.setUpdatesEnabled(False)
            self._turns.take(self._take_over, self._told, self._show)
        else:
            self.catch_up()

    def _take_over(self) -> None:
        self.palette, self.scale = self._look.palette, self._look.scale
        self._dressed()

    def _show(self) -> None:
        if self._space is not None and isValid(self._space):
            self._space.setUpdatesEnabled(True)

    def catch_up(self) -> None:
        """All of it now, what was still to come of the one before as well."""
        was_due = self._turns.busy
        self._turns.drop()
        if not self._is_of_now or was_due:
            self._take_over()
            self._told()
        if was_due:
            self._show()

    def _when_at_ease(self) -> None:
        """Unseen, and the window rests: whoever goes there does not wait for it."""
        if turns.rested_s() < EASE_MS / 1000:
            self._at_ease.start()
        elif not self._turns.busy:
            self.catch_up()

    @guarded
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """It is seen again."""
        if event.type() == QEvent.Type.Show and watched is self._space:
            self.catch_up()
        return False

    def set_theme(self, name: str) -> None:
        """Of the whole application."""
        self._look.set_theme(name)

    def set_scale(self, scale: float) -> None:
        """Of the whole application."""
        self._look.set_scale(scale)


class PaperLook(Look):
    """What goes on paper is light and of the usual size, whatever the window wears."""

    def __init__(self) -> None:
        QObject.__init__(self)
        self.palette, self.scale = LIGHT, 1.0
        self._wear = WeakSet()

    def _apply(self) -> None:
        """The application stays as it is."""


def style_sheet(p: Palette, scale: float) -> str:
    """Style sheet of the whole application."""

    def px(size: float) -> int:
        return max(12, round(size * scale))

    sans = f"'{SANS}', '{SYMBOLS}'"
    mono = f"'{MONO}', '{SYMBOLS}'"
    return f"""
QMainWindow, #space, #header, #center {{ background: {p.paper}; }}
#header {{ border-bottom: 2px solid {p.line}; }}
#header QLabel {{ font-size: {px(17)}px; color: {p.soft}; }}
#header QLabel[role="caption"] {{ font-size: {px(13)}px; }}
#header QLabel[role="headline"] {{ color: {p.ink}; font-size: {px(19)}px; }}
#header QLabel[role="sub"] {{ font-size: {px(14)}px; }}
#header QLabel[role="unit"] {{ font-size: {px(13)}px; }}
QComboBox {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 4px;
  padding: 3px 8px; min-height: {px(20)}px; font-weight: 600; }}
#header QComboBox, #header QLineEdit {{ font-size: {px(16)}px; }}
QComboBox:focus, QLineEdit:focus {{ border: 2px solid {p.aim}; padding: 2px 7px; }}
QComboBox::drop-down {{ border: none; width: {px(20)}px; }}
QComboBox QAbstractItemView {{ background: {p.field}; selection-background-color: {p.chosen};
  selection-color: {p.ink}; border: 1px solid {p.line}; outline: none; }}
QLineEdit {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 4px;
  padding: 3px 8px; font-family: {mono}; selection-background-color: {p.chosen};
  selection-color: {p.ink}; }}
QLineEdit[bad="true"] {{ border: 2px solid {p.stop}; padding: 2px 7px; }}
#rail {{ background: {p.rail}; }}
#rail QLabel {{ color: {p.rail_ink}; background: transparent; }}
#rail QLabel[role="brand"] {{ font-weight: 700; font-size: {px(17)}px; }}
#rail QLabel[role="brand2"] {{ color: {DARK_BRASS}; font-size: {px(14)}px; }}
#rail QToolButton {{ color: {p.rail_ink}; background: transparent; border: none;
  border-left: 4px solid transparent; padding: 6px 2px; font-size: {px(13)}px; }}
#rail QToolButton:hover {{ background: #2C3B48; }}
#rail QToolButton:focus {{ border: 2px solid {DARK_BRASS}; }}
#rail QToolButton:disabled {{ color: #71808C; }}
#rail QToolButton:checked {{ background: {p.paper}; color: {p.ink};
  border-left: 4px solid {p.aim}; font-weight: 600; }}
#inspector, #inspector QScrollArea, #inspectorBody {{ background: {p.panel}; }}
#inspector {{ border-left: 2px solid {p.line}; }}
QScrollArea {{ border: none; }}
QLabel[role="title"] {{ font-size: {px(19)}px; font-weight: 700; }}
QLabel[role="headline"] {{ font-size: {px(19)}px; font-weight: 700; }}
QLabel[role="low-headline"] {{ font-size: {px(15)}px; font-weight: 700; }}
QLabel[role="sub"] {{ color: {p.soft}; }}
QLabel[role="caption"] {{ color: {p.soft}; font-size: {px(13)}px; }}
QLabel[role="caution"] {{ color: {p.mind_text}; font-size: {px(13)}px; }}
QLabel[role="mine"] {{ color: {p.signal}; font-weight: 700; }}
QLabel[role="wrong"] {{ color: {p.stop}; font-size: {px(13)}px; font-weight: 700; }}
QLabel[role="figure"] {{ font-family: {mono}; }}
QLabel[role="reading"] {{ font-family: {mono}; font-size: {px(22)}px; font-weight: 600; }}
QLabel[role="step"] {{ font-weight: 700; }}
#move {{ background: {p.field}; border: 2px solid {p.aim}; border-radius: 9px; }}
#instrument {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 9px; }}
QLabel[role="section"] {{ color: {p.soft}; font-weight: 600; font-size: {px(13)}px; }}
QLabel[role="refusal"] {{ color: {p.stop}; font-size: {px(13)}px; }}
#cards {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 4px;
  font-family: {mono}; font-size: {px(12)}px; }}
#cards:focus {{ border: 2px solid {p.aim}; }}
#cards[bad="true"] {{ border: 2px solid {p.stop}; }}
#tray {{ background: {p.panel}; border-top: 2px solid {p.line}; }}
#tray QScrollArea, #trayBody {{ background: {p.panel}; }}
#keyList {{ background: {p.field}; }}
#hint {{ background: {p.panel}; border: 2px solid {p.aim}; border-radius: 9px; }}
#card {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 6px; }}
QPushButton[role="link"] {{ color: {p.signal}; background: transparent; border: none;
  text-align: left; font-weight: 600; text-decoration: underline; padding: 1px 2px; }}
QPushButton[role="link"]:hover {{ color: {p.aim_text}; }}
QPushButton[role="link"]:focus {{ border: 2px solid {p.aim}; border-radius: 3px; }}
QPushButton[role="tag"] {{ color: {p.soft}; background: transparent; font-size: {px(12)}px;
  border: 1px solid {p.line}; border-radius: 3px; padding: 0 4px; }}
QPushButton[role="learned"] {{ color: {p.signal}; background: transparent; border: none;
    font-size: {px(12)}px; font-family: {mono}; padding: 0 2px; text-align: left; }}
QPushButton[role="learned"]:hover {{ color: {p.aim_text}; }}
QPushButton[role="tag"]:focus, QPushButton[role="learned"]:focus {{ border: 2px solid {p.aim}; }}
QPushButton[role="option"] {{ background: transparent; border: none; border-radius: 3px;
  text-align: left; padding: 3px 6px; font-family: {mono}; }}
QPushButton[role="option"]:hover, QPushButton[role="option"]:checked {{ background: {p.chosen}; }}
QPushButton[role="option"]:focus {{ border: 2px solid {p.aim}; padding: 1px 4px; }}
QPushButton[role="answer"] {{ background: {p.field}; border: 1px solid {p.line};
  border-radius: 5px; text-align: left; padding: 8px 12px; }}
QPushButton[role="answer"]:hover {{ border-color: {p.aim}; }}
QPushButton[role="answer"]:checked {{ background: {p.chosen}; border-color: {p.aim}; }}
QPushButton[role="answer"]:focus {{ border: 2px solid {p.aim}; padding: 7px 11px; }}
QPushButton[role="plain"] {{ background: {p.field}; border: 1px solid {p.line};
  border-radius: 4px; padding: 4px 10px; }}
QPushButton[role="primary"] {{ background: {p.chosen}; border: 1px solid {p.signal};
  border-radius: 4px; padding: 4px 10px; color: {p.ink}; font-weight: 600; }}
QPushButton[role="primary"]:hover {{ border-color: {p.aim}; }}
QPushButton[role="primary"]:focus {{ border: 2px solid {p.aim}; padding: 3px 9px; }}
QPushButton[role="plain"]:hover {{ border-color: {p.aim}; }}
QPushButton[role="plain"]:focus {{ border: 2px solid {p.aim}; padding: 3px 9px; }}
QPushButton[role="plain"]:checked {{ background: {p.chosen}; border-color: {p.aim}; }}
QLabel[role="great"] {{ font-size: {px(28)}px; font-weight: 700; }}
#first {{ font-size: {px(16)}px; min-height: {px(32)}px; }}
QPushButton[role="station"] {{ background: {p.field}; border: 1px solid {p.line};
  border-left: 5px solid {p.line}; border-radius: 4px; text-align: left; }}
QPushButton[role="station"][grave="stop"] {{ border-left-color: {p.stop}; }}
QPushButton[role="station"][grave="mind"] {{ border-left-color: {p.mind}; }}
QPushButton[role="station"][grave="fine"] {{ border-left-color: {p.fine}; }}
QPushButton[role="station"]:hover {{ border-top-color: {p.aim}; border-right-color: {p.aim};
  border-bottom-color: {p.aim}; }}
QPushButton[role="station"]:focus {{ border-top: 2px solid {p.aim};
  border-right: 2px solid {p.aim}; border-bottom: 2px solid {p.aim}; }}
QLabel[role="grave-stop"] {{ color: {p.stop}; font-weight: 700; font-size: {px(13)}px; }}
QLabel[role="grave-mind"] {{ color: {p.mind_text}; font-weight: 700; font-size: {px(13)}px; }}
QLabel[role="grave-fine"] {{ color: {p.fine}; font-weight: 700; font-size: {px(13)}px; }}
QPushButton:disabled {{ color: {p.soft}; }}
#shelf {{ background: {p.panel}; border-right: 2px solid {p.line}; }}
QTextBrowser {{ background: {p.field}; border: none; selection-background-color: {p.chosen};
  selection-color: {p.ink}; }}
QTextBrowser:focus {{ border: 2px solid {p.aim}; border-radius: 4px; }}
QTreeWidget, QListWidget {{ background: transparent; border: none; outline: none; }}
QListWidget {{ background: {p.field}; border: 1px solid {p.line}; border-radius: 4px; }}
QTreeWidget::item, QListWidget::item {{ padding: 4px 6px; color: {p.ink}; }}
QTreeWidget::item:selected, QListWidget::item:selected {{ background: {p.chosen};
  color: {p.ink}; }}
QTreeWidget:focus, QListWidget:focus {{ border: 2px solid {p.aim}; border-radius: 4px; }}
#name {{ font-family: {sans}; font-size: {px(19)}px; font-weight: 700; }}
QCheckBox {{ color: {p.soft}; spacing: 6px; }}
QCheckBox::indicator {{ width: {px(14)}px; height: {px(14)}px; border: 1px solid {p.soft};
  border-radius: 3px; background: {p.field}; }}
QCheckBox::indicator:checked {{ background: {p.aim}; border-color: {p.aim}; }}
QCheckBox[wrong="true"]::indicator:checked {{ background: {p.stop}; border-color: {p.stop}; }}
QRadioButton {{ color: {p.soft}; spacing: 0px; padding: 1px; }}
QRadioButton::indicator {{ width: {px(12)}px; height: {px(12)}px;
    border: 1px solid {p.soft}; border-radius: {px(12) // 2 + 1}px; background: {p.field}; }}
QRadioButton::indicator:checked {{ background: {p.signal}; border-color: {p.signal}; }}
QRadioButton[wrong="true"]::indicator:checked {{ background: {p.stop}; border-color: {p.stop}; }}
QRadioButton:focus {{ border: 2px solid {p.aim}; border-radius: 4px; padding: 0px; }}
QCheckBox:focus {{ color: {p.ink}; text-decoration: underline; }}
#notice {{ background: {p.panel}; border-bottom: 2px solid {p.aim}; }}
#notice[kind="bad"] {{ border-bottom: 2px solid {p.stop}; }}
QScrollBar:vertical {{ background: transparent; width: 10px; }}
QScrollBar:horizontal {{ background: transparent; height: 10px; }}
QScrollBar::handle {{ background: {p.line}; border-radius: 4px; min-height: 24px;
  min-width: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QToolTip {{ background: {p.panel}; color: {p.ink}; border: 1px solid {p.line}; padding: 4px; }}
"""


# the rail is dark in both themes, so its brass is the one made for dark ground
DARK_BRASS = THEMES["dark"].aim
