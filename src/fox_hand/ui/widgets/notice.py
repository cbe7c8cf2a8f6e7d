"""One place that tells what happened: a quiet line over the stage."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.system.log import note_fault
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.sign import Sign

FAULT = tr("Something went wrong that should not have. What you made is kept; go on working.")
BELOW_HEAD = 96  # pixels: the window's header and the first row of a screen
ASKED = "asked"  # the code of what :meth:`Notice.ask` offers
SHOWN_FOR = 9000  # milliseconds for news; problems stay until they are closed


class Notice(QWidget):
    """A floating message with an icon and a way to close it."""

    def __init__(self, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self._over = parent
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._icon = Sign(theme, "info", 16)
        self._text = Words()
        self._text.setWordWrap(True)
        self._text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._offers: dict[str, tuple[str, Callable[[], None]]] = {}
        self.action = Button(theme, tr("Copy details"), kind=Kind.PLAIN, height=24)
        self.action.clicked.connect(self._act)
        self._code = ""
        close = Button(theme, icon="x", kind=Kind.FLAT, tip=tr("Close"), height=24, icon_size=14)
        close.clicked.connect(self.hide)
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 8, 8, 8)
        line.setSpacing(8)
        line.addWidget(self._icon, 0, Qt.AlignmentFlag.AlignTop)
        line.addWidget(self._text, 1)
        line.addWidget(self.action, 0, Qt.AlignmentFlag.AlignTop)
        line.addWidget(close, 0, Qt.AlignmentFlag.AlignTop)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    @property
    def text(self) -> str:
        return self._text.text()

    def tell_error(self, error: Exception) -> None:
        """A problem, in full; stays until closed."""
        if isinstance(error, FoxHandError):
            text, code = error.sentence(), error.code
        else:
            note_fault(error, "window")
            text, code = FAULT, ""
        self._tell(text, "triangle-alert", "warning", code)
        self._timer.stop()

    def offer(self, code: str, word: str, run: Callable[[], None]) -> None:
        """A way on beside messages with this code; the empty one is for faults without any."""
        self._offers[code] = (word, run)

    def _act(self) -> None:
        if self._code in self._offers:
            self._offers[self._code][1]()

    def tell(self, text: str) -> None:
        """Good news; goes away by itself."""
        self._tell(text, "info", "text")
        self._timer.start(SHOWN_FOR)

    def ask(self, text: str, word: str, run: Callable[[], None]) -> None:
        """News with something that can be done about it; stays until it is closed."""
        self._offers[ASKED] = word, run
        self._tell(text, "info", "text", ASKED)
        self._timer.stop()

    def _tell(self, text: str, icon: str, token: str, code: str | None = None) -> None:
        self._code = code if code is not None else "none"
        offered = self._offers.get(self._code)
        self.action.setVisible(offered is not None)
        if offered is not None:
            self.action.setText(offered[0])
            self.action.setAccessibleName(offered[0])
        self._icon.show_icon(icon, token)
        self._text.setText(text)
        self.setAccessibleName(text)
        self.show()
        self.settle()

    def settle(self) -> None:
        """Where it is seen: over the stage, or over the screen that lies there instead."""
        if self.isHidden():
            return
        over = self._over if self._over.isVisible() else self._over.window()
        if self.parentWidget() is not over:
            self.setParent(over)
        self.place()
        self.show()
        self.raise_()

    pushed = 0  # pixels further down, where more lies at the upper edge

    def place(self) -> None:
        """Below the upper bars of the stage or of a screen."""
        parent = self.parentWidget() or self._over
        width = min(parent.width() - 48, 560)
        self.setFixedWidth(max(width, 200))
        layout = self.layout()
        assert layout is not None
        self.setFixedHeight(layout.heightForWidth(self.width()))
        top = 56 + self.pushed if parent is self._over else BELOW_HEAD
        self.move((parent.width() - self.width()) // 2, top)
