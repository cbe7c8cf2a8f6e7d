"""Where the outline stands: beside the cards, or in a narrow window over the stage as a drawer."""

from __future__ import annotations

from PySide6.QtCore import QObject, QPoint, Signal
from PySide6.QtWidgets import QFrame, QSplitter, QVBoxLayout, QWidget

from fox_hand.session.runtime.settings import Settings
from fox_hand.ui.outline.outline_panel import LEAST, MOST, USUAL, OutlinePanel

NARROW = 1200  # pixels of the window, below which it lies over the stage
FEW = 10  # with more sheets than this it opens by itself


class OutlineSide(QObject):
    """Opens and closes it, and remembers.

    Args:
        panel: the outline.
        beside: the cards with room for it at the left.
        settings: where it is remembered.
    """

    changed = Signal()  # whether it is beside the cards, or how wide it is there

    def __init__(self, panel: OutlinePanel, beside: QSplitter, settings: Settings) -> None:
        super().__init__(beside)
        self.panel, self._beside, self._settings = panel, beside, settings
        self._many = False
        self._pulled = False  # whether the drawer is open
        self._shown: tuple[bool, bool] | None = None
        self._drawer = QFrame()
        self._drawer.setProperty("floating", True)
        self._drawer.setObjectName("outline drawer")
        inside = QVBoxLayout(self._drawer)
        inside.setContentsMargins(1, 1, 1, 1)
        self._drawer.hide()
        panel.hide()
        beside.splitterMoved.connect(self._moved)

    @property
    def _narrow(self) -> bool:
        return self._beside.window().width() < NARROW

    @property
    def shown(self) -> bool:
        """Whether it is in sight."""
        if self._narrow:
            return self._pulled
        return self._many if self._settings.outline is None else self._settings.outline

    @property
    def beside(self) -> bool:
        """Whether it takes room beside the cards."""
        return self.shown and not self._narrow

    @property
    def indexed(self) -> bool:
        """Whether the thumb index is of use: for a few sheets, or where it was asked for."""
        return not self.beside and (not self._many or self._settings.outline is False)

    @property
    def width(self) -> int:
        """Pixels it takes beside the cards."""
        return self._settings.outline_width + 1 if self.beside else 0

    def show_count(self, sheets: int) -> None:
        """There are so many sheets now."""
        self._many = sheets > FEW
        self.arrange()

    def set_shown(self, on: bool) -> None:
        """Open or close it; beside the cards that is remembered."""
        if self._narrow:
            self._pulled = on
        else:
            self._settings.outline = on
        self.arrange()

    def arrange(self) -> None:
        """Put it where it belongs in a window of this width."""
        wanted = self.shown, self._narrow
        if wanted == self._shown:
            if self._drawer.isVisible():
                self._place_drawer()
            return
        self._shown = wanted
        if self.beside:
            self._drawer.hide()
            self._beside.insertWidget(0, self.panel)
            self.panel.show()
            self.panel.refresh()
            whole = self._beside.width()
            wide = self._settings.outline_width
            self._beside.setSizes([wide, max(whole - wide, 1)])
        elif self.shown:
            self._open_drawer()
        else:
            self._drawer.hide()
            self.panel.hide()
        self.changed.emit()

    def _open_drawer(self) -> None:
        window = self._beside.window()
        if self._drawer.parentWidget() is not window:
            self._drawer.setParent(window)
        layout = self._drawer.layout()
        assert layout is not None
        layout.addWidget(self.panel)
        self.panel.show()
        self.panel.refresh()
        self._place_drawer()
        self._drawer.show()
        self._drawer.raise_()

    def _place_drawer(self) -> None:
        """Beside the cards, over whatever lies there."""
        cards: QWidget = self._beside
        window = cards.window()
        corner = cards.mapTo(window, QPoint(0, 0))
        wide = min(max(self._settings.outline_width, LEAST), MOST) + 2
        left = corner.x() - wide
        if left < 0:
            left = corner.x() + cards.width()
        self._drawer.setGeometry(left, corner.y(), wide, cards.height())

    def _moved(self) -> None:
        if self.beside:
            self._settings.outline_width = min(max(self.panel.width(), LEAST), MOST) or USUAL
            self.changed.emit()
