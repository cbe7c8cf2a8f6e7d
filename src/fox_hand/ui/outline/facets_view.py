"""Facets over the cards: rows of values with how many cards each would leave."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QEvent, QPoint, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QFocusEvent,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.library.index.facets import Facet, FacetValue
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessiblePart, PartsOwner, tell_current
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey

PAD, LABEL, ROW, GAP = 12, 80, 24, 4
MOST = 60  # values of one facet that are shown at all; the others are typed


@dataclass(frozen=True)
class FacetSpot:
    """Something that can be pressed.

    Args:
        facet: its row.
        value: what is pressed; None for the word that shows more of the row.
        rect: where.
        words: as shown.
    """

    facet: Facet
    value: FacetValue | None
    rect: QRect
    words: str

    @property
    def key(self) -> tuple[str, str]:
        """What tells it from others."""
        return self.facet.key, self.value.token if self.value is not None else ""


class FacetsView(QWidget, PartsOwner):
    """Of one row either value, of two rows both. Folded, only what is chosen is in sight.

    Args:
        theme: colours and type.
    """

    switched = Signal(str, object)  # filter, tuple of values as they are written

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._facets: tuple[Facet, ...] = ()
        self._spots: list[FacetSpot] = []
        self._lines: list[tuple[Facet, int]] = []
        self._opened: set[str] = set()
        self._over: tuple[str, str] | None = None
        self._current: tuple[str, str] | None = None
        self.folded = False
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(tr("Facets"))
        ways = {"Left": (-1, 0), "Right": (1, 0), "Up": (0, -1), "Down": (0, 1)}
        self.keys = KeyMap(
            [LocalKey((name,), partial(self._walk, *way)) for name, way in ways.items()]
            + [
                LocalKey(
                    (*ENTER, "Space"), self._press_current, tr("choose a value, or take it off")
                )
            ]
        )

    # -- content --------------------------------------------------------------------------

    def show_facets(self, facets: Sequence[Facet]) -> None:
        """Show these rows."""
        self._facets = tuple(facets)
        self._arrange()

    def set_folded(self, folded: bool) -> None:
        """Only what is chosen, or all rows."""
        self.folded = folded
        self._arrange()

    @property
    def spots(self) -> Sequence[FacetSpot]:
        """What can be pressed, in reading order."""
        return self._spots

    def _arrange(self) -> None:
        self._spots, self._lines, y = [], [], 0
        for facet in self._facets:
            values = facet.values
            if self.folded:
                values = tuple(v for v in values if v.chosen)
            if values:
                self._lines.append((facet, y))
                y = self._lay_row(facet, values, y)
        self.setFixedHeight(y + 5 if y else 0)
        self.setVisible(bool(y))
        self.updateGeometry()
        self.update()

    def _lay_row(self, facet: Facet, values: Sequence[FacetValue], y: int) -> int:
        """Values in one line, or in as many as they need where that is asked for; returns where
        the next row begins."""
        left, right = PAD + LABEL, max(self.width(), 200) - PAD
        opened = facet.key in self._opened or self.folded
        wides = [self._wide(value) for value in values[:MOST]]
        x, fits = left, 0
        for wide in wides:
            if not opened and x + wide > right and fits:
                break
            x += wide + GAP
            fits += 1
        rest = 0 if opened else len(values) - fits
        while rest and fits > 1 and x + self._more(rest) > right:  # room to say how many more
            fits -= 1
            rest += 1
            x -= wides[fits] + GAP
        x = left
        for value, wide in zip(values[:fits], wides, strict=False):
            if x + wide > right and x > left:
                x, y = left, y + ROW
            words = value.word
            self._spots.append(FacetSpot(facet, value, QRect(x, y + 2, wide, ROW - 4), words))
            x += wide + GAP
        if rest or (
            opened and not self.folded and len(wides) > 1 and x != left and self._long(wides)
        ):
            words = tr("{rest} more", rest=rest) if rest else tr("fewer")
            wide = self._more(rest)
            rect = QRect(right - wide, y + 2, wide, ROW - 4)
            self._spots.append(FacetSpot(facet, None, rect, words))
        return y + ROW

    def _long(self, wides: Sequence[int]) -> bool:
        return sum(wides) + GAP * len(wides) > max(self.width(), 200) - 2 * PAD - LABEL

    def _wide(self, value: FacetValue) -> int:
        words = QFontMetrics(self._theme.font(12, 600 if value.chosen else 400))
        number = QFontMetrics(self._theme.font(11))
        wide = (
            words.horizontalAdvance(value.word) + 4 + number.horizontalAdvance(f"{value.count:,}")
        )
        room = max(self.width(), 200) - 2 * PAD - LABEL
        return min(wide + (30 if value.chosen else 12), room)

    def _more(self, rest: int) -> int:
        words = tr("{rest} more", rest=rest) if rest else tr("fewer")
        return QFontMetrics(self._theme.font(11)).horizontalAdvance(words) + 12

    def sizeHint(self) -> QSize:
        return QSize(348, self.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.oldSize().width() != event.size().width():
            self._arrange()

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter, theme = QPainter(self), self._theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        painter.fillRect(QRect(0, self.height() - 1, self.width(), 1), theme.colour("line2"))
        for facet, y in self._lines:
            painter.drawText(QRectF(PAD, y, LABEL - 8, ROW), middle, facet.word)
        for spot in self._spots:
            self._paint_spot(painter, spot)

    def _paint_spot(self, painter: QPainter, spot: FacetSpot) -> None:
        theme, rect, value = self._theme, QRectF(spot.rect), spot.value
        middle = Qt.AlignmentFlag.AlignVCenter
        chosen = value is not None and value.chosen
        painter.setPen(Qt.PenStyle.NoPen)
        if chosen or spot.key == self._over:
            painter.setBrush(theme.colour("text" if chosen else "high"))
            painter.drawRoundedRect(rect, 10, 10)
        x = rect.left() + 6
        word, number = ("window", "window") if chosen else ("text", "quiet")
        if value is None or not (value.count or chosen):
            word = "quiet"
        right = rect.right() - (20 if chosen else 6)
        count = "" if value is None else f"{value.count:,}"
        painter.setFont(theme.font(11))
        wide = painter.fontMetrics().horizontalAdvance(count)
        painter.setPen(theme.colour(number))
        painter.drawText(QRectF(right - wide, rect.top(), wide + 2, rect.height()), middle, count)
        painter.setFont(theme.font(11 if value is None else 12, 600 if chosen else 400))
        painter.setPen(theme.colour(word))
        room = right - wide - x - (4 if count else 0)
        words = painter.fontMetrics().elidedText(
            spot.words, Qt.TextElideMode.ElideRight, round(room) + 1
        )
        painter.drawText(QRectF(x, rect.top(), room + 2, rect.height()), middle, words)
        if chosen:
            mark = theme.pixmap("x", 12, "window", self.devicePixelRatioF())
            painter.drawPixmap(round(rect.right()) - 16, round(rect.center().y()) - 6, mark)
        if self.hasFocus() and spot.key == self._current:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.colour("accent" if chosen else "text"), 2))
            painter.drawRoundedRect(rect.adjusted(1, 1, -1, -1), 9, 9)

    # -- pointer and keys -----------------------------------------------------------------

    def spot_at(self, at: QPoint) -> FacetSpot | None:
        """What is under a point."""
        return next((spot for spot in self._spots if spot.rect.contains(at)), None)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        spot = self.spot_at(event.position().toPoint())
        over = spot.key if spot is not None else None
        shape = Qt.CursorShape.ArrowCursor if spot is None else Qt.CursorShape.PointingHandCursor
        self.setCursor(shape)
        if over != self._over:
            self._over = over
            self.setToolTip(self._tip(spot))
            self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._over = None
        self.update()
        super().leaveEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        spot = self.spot_at(event.position().toPoint())
        event.accept()
        if spot is not None and event.button() is Qt.MouseButton.LeftButton:
            self._current = spot.key
            self.press(spot)

    @staticmethod
    def _tip(spot: FacetSpot | None) -> str:
        if spot is None or spot.value is None:
            return ""
        how = tr("Takes off") if spot.value.chosen else tr("Writes")
        return tr(
            "{how} {key}:{token} in the search", how=how, key=spot.facet.key, token=spot.value.token
        )

    def press(self, spot: FacetSpot) -> None:
        """Choose a value or take it off; show more of a row or fewer."""
        if spot.value is not None:
            self.switched.emit(spot.facet.key, spot.facet.switched(spot.value.token))
            return
        self._opened ^= {spot.facet.key}
        self._arrange()

    def _place(self) -> int:
        keys = [spot.key for spot in self._spots]
        return keys.index(self._current) if self._current in keys else -1

    def _press_current(self) -> bool:
        at = self._place()
        if at >= 0:
            self.press(self._spots[at])
        return at >= 0

    def _walk(self, along: int, down: int) -> bool:
        at = self._place()
        if not self._spots:
            return False
        if at < 0:
            self._go(0)
        elif along:
            self._go(min(max(at + along, 0), len(self._spots) - 1))
        else:
            here = self._spots[at].rect.center()
            lines = sorted({spot.rect.top() for spot in self._spots})
            row = lines.index(self._spots[at].rect.top()) + down
            if not 0 <= row < len(lines):
                return False
            level = [n for n, s in enumerate(self._spots) if s.rect.top() == lines[row]]
            self._go(min(level, key=lambda n: abs(self._spots[n].rect.center().x() - here.x())))
        return True

    def _go(self, at: int) -> None:
        self._current = self._spots[at].key
        tell_current(self, self._current)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if self._place() < 0 and self._spots:
            self._go(0)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def accessible_parts(self) -> list[AccessiblePart]:
        return [
            AccessiblePart(
                spot.key,
                f"{spot.facet.word}: {spot.words}",
                spot.rect,
                QAccessible.Role.CheckBox if spot.value is not None else QAccessible.Role.Button,
                ""
                if spot.value is None
                else tr_n("{number:,} card", "{number:,} cards", spot.value.count),
                checked=spot.value.chosen if spot.value is not None else None,
                current=self.hasFocus() and spot.key == self._current,
                press=partial(self.press, spot),
            )
            for spot in self._spots
        ]
