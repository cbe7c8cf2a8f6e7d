"""Where the cards are narrowed to: the parts of a sheet's path, each a way back."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.ui.outline.outline_rows import Spot
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind

MOST = 140  # pixels of one part
WIDE = 300  # pixels from where there is room for a word
ALL = tr("All sheets")
FOLDED = "…"


class PathRow(QWidget):
    """The parts, how many cards, and the way out; where there is no room the middle parts are one
    button.

    Args:
        theme: colours and type.
    """

    narrow_asked = Signal(object, bool)  # Spot, never added
    widen_asked = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._parts: list[tuple[str, Spot | None]] = []
        self.buttons: list[Button] = []
        self._built: list[tuple[str, Spot | None]] = []
        self.here = Words("")
        self.here.setProperty("role", "heading")
        self.here.setContentsMargins(10, 0, 8, 0)
        self.count = Words("")
        self.count.setProperty("quiet", True)
        self.all_button = Button(
            theme, ALL, icon="x", height=24, icon_size=12, tip=tr("Show all sheets again")
        )
        self.all_button.setAccessibleName(ALL)
        self.all_button.clicked.connect(self.widen_asked)
        self._line = QHBoxLayout(self)
        self._line.setContentsMargins(4, 0, 8, 0)
        self._line.setSpacing(0)
        self._line.addWidget(self.here)
        self._line.addWidget(self.count)
        self._line.addStretch(1)
        self.facets_button = facets_button(theme)
        self._line.addWidget(self.facets_button)
        self._line.addSpacing(4)
        self._line.addWidget(self.all_button)
        self.setFixedHeight(32)

    def show_path(self, places: Sequence[tuple[OpenLibrary, str]], *, several: bool) -> None:
        """What the cards are narrowed to.

        Args:
            places: libraries and sheets in them.
            several: whether more than one library is open, so that its name belongs here.
        """
        self._parts = []
        if len(places) == 1:
            place, sheet = places[0]
            if several or not sheet:
                self._parts.append((place.name, (place.number, "")))
            names = sheet.split("/") if sheet else []
            for depth, name in enumerate(names, 1):
                self._parts.append((name, (place.number, "/".join(names[:depth]))))
        elif places:
            self._parts = [(tr_n("{number} sheet", "{number} sheets", len(places)), None)]
        self._build()

    def show_count(self, found: int, whole: int) -> None:
        """How many of the cards there are shown."""
        self.count.setText(
            f"{found:,}"
            if found == whole
            else tr("{found:,} of {whole:,}", found=found, whole=whole)
        )
        self._build()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.all_button.setText(ALL if self.width() >= WIDE else "")
        self.all_button.updateGeometry()
        self._build()

    def _room(self) -> int:
        taken = self.count.sizeHint().width() + self.all_button.sizeHint().width()
        return self.width() - taken - 76

    def _shown_parts(self) -> list[tuple[str, Spot | None]]:
        parts = self._parts
        if len(parts) < 3 or sum(self._wide(word) for word, _ in parts) <= self._room():
            return parts
        return [parts[0], (FOLDED, parts[-2][1]), parts[-1]]

    def _build(self) -> None:
        """Buttons for the parts above, then what is shown."""
        shown = self._shown_parts()
        room = self._room() - sum(self._wide(word) for word, _ in shown[:-1])
        self.here.setText(self._short(shown[-1][0], max(room - 20, 40)) if shown else "")
        if shown[:-1] == self._built:
            return
        for button in self.buttons:
            self._line.removeWidget(button)
            button.hide()
            button.deleteLater()
        self.buttons, self._built = [], shown[:-1]
        for number, (word, spot) in enumerate(shown[:-1]):
            self._line.insertWidget(number, self._button(word, spot))

    def _button(self, word: str, spot: Spot | None) -> Button:
        whole = spot[1].replace("/", " / ") if spot is not None and spot[1] else word
        button = Button(self._theme, self._short(word, MOST), kind=Kind.FLAT, height=24, padding=8)
        button.setToolTip(plain_tip(tr("Show {whole}", whole=whole)))
        button.setAccessibleName(tr("Show {whole}", whole=whole))
        button.clicked.connect(partial(self._asked, spot))
        self.buttons.append(button)
        return button

    def _asked(self, spot: Spot | None) -> None:
        if spot is not None:
            self.narrow_asked.emit(spot, False)

    def _wide(self, word: str) -> int:
        return (
            QFontMetrics(self._theme.font(12, 500)).horizontalAdvance(self._short(word, MOST)) + 12
        )

    def _short(self, word: str, room: int) -> str:
        metrics = QFontMetrics(self._theme.font(12, 600))
        return metrics.elidedText(word, Qt.TextElideMode.ElideRight, room)

    def paintEvent(self, event: QPaintEvent) -> None:
        """A mark between the parts."""
        super().paintEvent(event)
        painter = QPainter(self)
        mark = self._theme.pixmap("chevron-right", 10, "quiet", self.devicePixelRatioF())
        for button in self.buttons:
            painter.drawPixmap(button.geometry().right() - 2, self.height() // 2 - 5, mark)


def facets_button(theme: Theme) -> Button:
    """What opens the facets, and folds them."""
    button = Button(
        theme, icon="list-filter", kind=Kind.SWITCH, height=24, tip=tr("Facets: narrow by …")
    )
    button.setAccessibleName(tr("Facets"))
    return button
