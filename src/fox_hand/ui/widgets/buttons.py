"""Buttons, word switches, segments and key groups, painted on the 4 px grid."""

from __future__ import annotations

from collections.abc import Sequence
from enum import Enum, auto
from functools import partial

from PySide6.QtCore import QEvent, QPoint, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QAccessible,
    QColor,
    QEnterEvent,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QAbstractButton, QCheckBox, QSizePolicy, QWidget

from fox_hand.base.key_words import key_words
from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessiblePart, PartsOwner, tell_current
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.whole_text import with_cut_words


class Kind(Enum):
    """How a button stands out."""

    PLAIN = auto()  # raised, with a line
    MAIN = auto()  # the one orange button of a screen
    FLAT = auto()  # no ground until pointed at
    SWITCH = auto()  # a word that is on or off
    CHIP = auto()  # a set of controls
    PILL = auto()  # a filter


RADIUS = {Kind.PILL: 12.0, Kind.CHIP: 4.0, Kind.SWITCH: 4.0}


def draw_focus(painter: QPainter, theme: Theme, rect: QRectF, radius: float) -> None:
    """The focus ring: a gap of 2 px, then 2 px of text colour, inside the widget."""
    painter.setPen(QPen(theme.colour("text"), 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(rect.adjusted(1, 1, -1, -1), radius, radius)


class Button(QAbstractButton):
    """A button with an icon, a word, and the key that does the same.

    Args:
        theme: colours and type.
        text: the word; may be empty for an icon button.
        icon: name of an icon.
        key: shown after the word, such as ``Enter``.
        tip: tooltip and, for icon buttons, accessible name.
        menu: draw a small arrow at the right.
        padding: pixels left and right of the words, where it is not the usual.
    """

    def __init__(
        self,
        theme: Theme,
        text: str = "",
        *,
        icon: str = "",
        kind: Kind = Kind.PLAIN,
        key: str = "",
        tip: str = "",
        menu: bool = False,
        height: int = 28,
        icon_size: int = 16,
        padding: int | None = None,
    ) -> None:
        super().__init__()
        self._room = padding
        self._theme, self._icon, self._kind, self._key = theme, icon, kind, key_words(key)
        self._menu, self._height, self._icon_size = menu, height, icon_size
        self._hover = False
        self._tip = self._tip_key = ""
        self.tint: tuple[str, str] | None = None  # word and ground of one that tells something
        self.setText(text)
        self.setToolTip(plain_tip(tip))
        self.setAccessibleName(text or tip)
        self.setCheckable(kind in (Kind.SWITCH, Kind.PILL))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def setToolTip(self, tip: str) -> None:
        """With the key that does the same, if there is one."""
        self._tip = tip
        said = f"{tip} ({self._tip_key})" if tip and self._tip_key else tip
        said = with_cut_words(self, said)
        if said != self.toolTip():  # telling the toolkit takes longer than asking it
            super().setToolTip(said)

    def tell_key(self, key: str) -> None:
        """The key that does the same, for the tooltip."""
        self._tip_key = key_words(key)
        self.setToolTip(self._tip)

    def set_icon(self, icon: str) -> None:
        """Show another icon."""
        self._icon = icon
        self.update()

    @property
    def _padding(self) -> int:
        if self._room is not None:
            return self._room
        if not self.text():
            return (self._height - self._icon_size) // 2
        return {Kind.SWITCH: 8, Kind.CHIP: 8, Kind.PILL: 9}.get(self._kind, 12)

    def _word_font(self) -> int:
        return 600 if self._kind is Kind.MAIN else 500

    def sizeHint(self) -> QSize:
        width = 2 * self._padding
        if self._icon:
            width += self._icon_size
        if self.text():
            width += self._theme.width_of(self.text(), 12, self._word_font())
            width += 6 if self._icon else 0
        if self._key:
            width += 8 + self._theme.width_of(self._key, 11)
        if self._menu:
            width += 18 if self.text() else 14
        return QSize(width, self._height)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def setText(self, text: str) -> None:
        """Words that are cut are in the tooltip too."""
        super().setText(text)
        self.setToolTip(self._tip)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.setToolTip(self._tip)

    def enterEvent(self, event: QEnterEvent) -> None:
        self._hover = True
        self.update()
        super().enterEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        self._hover = False
        self.update()
        super().leaveEvent(event)

    def _colours(self) -> tuple[QColor, QColor, str]:
        """Ground, line, token of the words."""
        theme, none = self._theme, QColor(0, 0, 0, 0)
        active = self.isEnabled()
        lifted = active and (self._hover or self.isDown())
        if self._kind is Kind.MAIN:
            if not active:
                return theme.colour("raised"), theme.colour("line2"), "quiet"
            ground = theme.colour("accent")
            if self.isDown():
                ground = ground.darker(112)
            elif self._hover:
                ground = ground.lighter(108)
            return ground, none, "on_accent"
        word = "text" if active else "quiet"
        if self._kind in (Kind.SWITCH, Kind.PILL, Kind.CHIP):
            return self._switch_colours(lifted, word)
        if self.tint is not None:
            return theme.colour("high" if lifted else self.tint[1]), none, self.tint[0]
        if self._kind is Kind.FLAT:
            return theme.colour("high") if lifted else none, none, word
        token = "high" if lifted else "raised"
        return theme.colour(token if active else "panel"), theme.colour("line"), word

    def _switch_colours(self, lifted: bool, word: str) -> tuple[QColor, QColor, str]:
        theme, none, on = self._theme, QColor(0, 0, 0, 0), self.isChecked()
        ground = none
        if on or lifted:
            ground = theme.colour("high")
        elif self._kind is Kind.CHIP:
            ground = theme.colour("raised")
        line = theme.colour("text") if on and self._kind is Kind.CHIP else none
        return ground, line, "quiet" if self._kind is Kind.PILL and not on else word

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ground, line, word = self._colours()
        radius = RADIUS.get(self._kind, 6.0)
        rect = QRectF(self.rect())
        painter.setBrush(ground)
        painter.setPen(QPen(line, 1) if line.alpha() else Qt.PenStyle.NoPen)
        painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), radius, radius)
        spare = 0 if self._menu else self.width() - self.sizeHint().width()
        x = self._padding + max(spare, 0) / 2  # in a wider place the words stay in the middle
        if self._icon:
            pixmap = theme.pixmap(self._icon, self._icon_size, word, self.devicePixelRatioF())
            painter.drawPixmap(round(x), (self.height() - self._icon_size) // 2, pixmap)
            x += self._icon_size + 6
        painter.setPen(theme.colour(word))
        key, missing = self._key, self.sizeHint().width() - self.width()
        if key and self.text() and missing > 0:  # words come before the key that does the same
            missing -= 8 + theme.width_of(key, 11)
            key = ""
        if self.text():
            painter.setFont(theme.font(12, self._word_font()))
            text = self.text()
            width = theme.width_of(text, 12, self._word_font())
            if missing > 0:
                width -= missing
                cut = Qt.TextElideMode.ElideRight
                text = painter.fontMetrics().elidedText(text, cut, width)
            painter.drawText(
                QRectF(x, 0, width + 2, self.height()), Qt.AlignmentFlag.AlignVCenter, text
            )
            x += width + 8
        if key:
            painter.setFont(theme.font(11))
            painter.setPen(theme.colour(word if self._kind is Kind.MAIN else "quiet"))
            painter.drawText(QRectF(x, 0, 120, self.height()), Qt.AlignmentFlag.AlignVCenter, key)
        if self._menu:
            arrow = theme.pixmap("chevron-down", 12, word, self.devicePixelRatioF())
            right = self.width() - (self._padding if self.text() else 4) - 12
            painter.drawPixmap(right, (self.height() - 12) // 2, arrow)
        if self.hasFocus():
            draw_focus(painter, theme, rect, radius)


class Segments(QWidget, PartsOwner):
    """One of a few words; arrows and clicks choose."""

    chosen = Signal(str)

    def __init__(
        self, theme: Theme, words: Sequence[tuple[str, str]], name: str, *, room: int = 16
    ) -> None:
        super().__init__()
        self._theme, self._room = theme, room  # room: pixels beside each word
        self._words = list(words)
        self._value = words[0][0]
        self._off: set[str] = set()
        self.keys = KeyMap(
            [
                LocalKey(("Left",), partial(self._go, -1), loose=True),
                LocalKey(("Right",), partial(self._go, 1), loose=True),
            ]
        )
        self._pointed = ""
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    @property
    def value(self) -> str:
        return self._value

    def set_value(self, value: str) -> None:
        """Show a choice without announcing it."""
        if value != self._value:
            self._value = value
            self.update()

    def set_off(self, values: set[str]) -> None:
        """Which choices cannot be made now."""
        if values != self._off:
            self._off = values
            self.update()

    def rect_of(self, value: str) -> QRect:
        """Where a word is, in widget pixels."""
        x = 2
        for key, word in self._words:
            width = self._width(word)
            if key == value:
                return QRect(x, 2, width, 20)
            x += width
        raise KeyError(value)

    def _width(self, word: str) -> int:
        return QFontMetrics(self._theme.font(12, 500)).horizontalAdvance(word) + self._room

    def sizeHint(self) -> QSize:
        return QSize(4 + sum(self._width(w) for _, w in self._words), 24)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def _at(self, x: float) -> str:
        for key, _ in self._words:
            rect = self.rect_of(key)
            if rect.left() <= x <= rect.right():
                return key
        return ""

    def accessible_parts(self) -> list[AccessiblePart]:
        return [
            AccessiblePart(
                key,
                word,
                self.rect_of(key),
                QAccessible.Role.RadioButton,
                checked=key == self._value,
                current=key == self._value and self.hasFocus(),
                enabled=key not in self._off,
                press=partial(self._choose, key),
            )
            for key, word in self._words
        ]

    def _choose(self, key: str) -> None:
        if key and key not in self._off and key != self._value:
            self._value = key
            self.update()
            tell_current(self, key)
            self.chosen.emit(key)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is not Qt.MouseButton.LeftButton:
            event.ignore()
            return
        self._choose(self._at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pointed = self._at(event.position().x())
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._pointed = ""
        self.update()
        super().leaveEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _go(self, way: int) -> None:
        """To the next word on a side that can be chosen."""
        values = [value for value, _ in self._words]
        at = values.index(self._value)
        following = values[at + 1 :] if way > 0 else values[:at][::-1]
        self._choose(next((value for value in following if value not in self._off), ""))

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("trough"))
        painter.drawRoundedRect(QRectF(self.rect()), 6, 6)
        painter.setFont(theme.font(12, 500))
        for key, word in self._words:
            rect = self.rect_of(key)
            on = key == self._value
            if on or (key == self._pointed and key not in self._off):
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.colour("high" if on else "raised"))
                painter.drawRoundedRect(QRectF(rect), 4, 4)
            token = "text" if on else "quiet"
            painter.setPen(theme.colour(token, 0.55 if key in self._off else 1.0))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, word)
        if self.hasFocus():
            draw_focus(painter, theme, QRectF(self.rect()), 6)


class Tick(QCheckBox):
    """A check box of 16 px with a third, partly ticked state, and its label."""

    def __init__(self, theme: Theme, text: str, *, quiet_text: str = "", indent: int = 0) -> None:
        super().__init__()
        self._theme, self._detail, self._indent = theme, quiet_text, indent
        self._terse, self._tip = False, ""
        self.setText(text)
        self.setAccessibleName(text)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFixedHeight(24)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def nextCheckState(self) -> None:
        """A click means all or nothing; partly is only shown."""
        self.setCheckState(Qt.CheckState.Unchecked if self.isChecked() else Qt.CheckState.Checked)

    def hitButton(self, at: QPoint) -> bool:
        """All of it can be clicked, label and detail too."""
        return self.rect().contains(at)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._tell()

    def _tell(self) -> None:
        """Words that are cut are in the tooltip too."""
        said = with_cut_words(self, self._tip)
        if said != self.toolTip():
            super().setToolTip(said)

    def setToolTip(self, tip: str) -> None:
        self._tip = tip
        self._tell()

    def set_terse(self, terse: bool) -> None:
        """Whether only the label is shown, and the detail in the tooltip."""
        self._terse = terse
        self.update()

    def set_state(self, checked: bool, partly: bool, detail: str) -> None:
        """Show a state without announcing it."""
        self._detail = detail
        if self._terse:
            self.setToolTip(plain_tip(detail))
        self.blockSignals(True)
        state = Qt.CheckState.PartiallyChecked if partly else Qt.CheckState.Checked
        self.setCheckState(state if checked else Qt.CheckState.Unchecked)
        self.blockSignals(False)
        self.update()

    @property
    def _partly(self) -> bool:
        return self.checkState() is Qt.CheckState.PartiallyChecked

    def sizeHint(self) -> QSize:
        detail = self._theme.width_of(self._detail, 11)
        # two pixels more: what is painted may be a fraction wider than whole pixels say
        width = self._indent + 26 + self._theme.width_of(self.text(), 12, 500)
        return QSize(width + (16 + detail if self._detail else 0), 24)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self._indent + 0.5, 4.5, 15, 15)
        filled = self.isChecked() and not self._partly
        painter.setPen(QPen(theme.colour("text" if self.isChecked() else "quiet"), 1))
        painter.setBrush(theme.colour("text") if filled else theme.colour("field"))
        painter.drawRoundedRect(box, 4, 4)
        if self.isChecked():
            mark, token = ("minus", "text") if self._partly else ("check", "window")
            pixmap = theme.pixmap(mark, 12, token, self.devicePixelRatioF())
            painter.drawPixmap(self._indent + 2, 6, pixmap)
        painter.setFont(theme.font(12, 500 if self.isChecked() else 400))
        painter.setPen(theme.colour("text" if self.isChecked() else "quiet"))
        rect = QRectF(self._indent + 24, 0, self.width() - self._indent - 24, 24)
        detail_width = 0.0
        detail = "" if self._terse else self._detail
        if detail:
            detail_width = QFontMetrics(theme.font(11)).horizontalAdvance(detail) + 8.0
        text = painter.fontMetrics().elidedText(
            self.text(), Qt.TextElideMode.ElideRight, round(rect.width() - detail_width)
        )
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, text)
        if detail:
            painter.setFont(theme.font(11))
            painter.setPen(theme.colour("quiet"))
            painter.drawText(
                rect, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, detail
            )
        if self.hasFocus():
            draw_focus(painter, theme, box.adjusted(-3, -3, 3, 3), 6)
