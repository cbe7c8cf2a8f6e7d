"""How well the feet stand, in three numbers that lead to their worst frames."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QEnterEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from fox_hand.base.language import number_text, tr, tr_n
from fox_hand.core.retarget.stand_edits import GroundFigures, Worst
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import draw_focus

MIDDLE = Qt.AlignmentFlag.AlignVCenter


class NumberCard(QAbstractButton):
    """A number, what it is of, and what it was; a click shows where that is."""

    def __init__(self, theme: Theme, what: str) -> None:
        super().__init__()
        self._theme, self._what = theme, what
        self._number, self._unit, self._was = "", "", ""
        self.setAccessibleName(what)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(120, 64)

    def show_number(self, number: str, unit: str, was: str) -> None:
        self._number, self._unit, self._was = number, unit, was
        self.setAccessibleName(f"{self._what} {number} {unit}, {was}".strip(", "))
        self.setToolTip(
            tr("{what}: look at the worst frame", what=self._what) if self.isEnabled() else ""
        )
        self.update()

    def enterEvent(self, event: QEnterEvent) -> None:
        super().enterEvent(event)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        lifted = self.underMouse() and self.isEnabled()
        painter.setBrush(theme.colour("high" if lifted else "raised"))
        painter.drawRoundedRect(QRectF(self.rect()), 6, 6)
        painter.setFont(theme.font(16, 600))
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(10, 4, 80, 24), MIDDLE, self._number)
        x = 14 + painter.fontMetrics().horizontalAdvance(self._number)
        for font, token, box, text in (
            (theme.font(11), "quiet", QRectF(x, 6, 80, 24), self._unit),
            (theme.font(12, 500), "text", QRectF(10, 26, self.width() - 14, 18), self._what),
            (theme.font(11), "quiet", QRectF(10, 43, self.width() - 14, 16), self._was),
        ):
            painter.setFont(font)
            painter.setPen(theme.colour(token))
            painter.drawText(box, MIDDLE, text)
        if self.hasFocus():
            draw_focus(painter, theme, QRectF(self.rect()), 6)


class GroundNumbers(QWidget):
    """Slide, what is under the ground, and how far the hips come down."""

    frame_asked = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.slide = NumberCard(theme, tr("slide, at most"))
        self.below = NumberCard(theme, tr("below ground"))
        self.hips = NumberCard(theme, tr("hips lower"))
        self.worst: dict[NumberCard, Worst] = {}
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(8)
        for card in (self.slide, self.below, self.hips):
            line.addWidget(card)
            card.clicked.connect(partial(self._ask, card))

    def _ask(self, card: NumberCard) -> None:
        if card in self.worst:
            self.frame_asked.emit(self.worst[card].frame)

    def show_figures(
        self, before: GroundFigures | None, now: GroundFigures | None, *, computing: bool
    ) -> None:
        """Show how it is and how it was without held feet; dots while that is computed."""
        self.worst = {}
        cards = (
            (self.slide, "slide"),
            (self.below, "below"),
            (self.hips, "lower"),
        )
        for card, name in cards:
            card.setEnabled(now is not None and not computing)
            if now is None or before is None or computing:
                card.show_number("…" if computing else "-", "", "")
                continue
            worst: Worst = getattr(now, name)
            self.worst[card] = worst
            was = tr("was {cm} cm", cm=_cm(getattr(before, name).far))
            if name == "lower":
                was = (
                    tr_n("on {number} frame", "on {number} frames", now.lowered)
                    if now.lowered
                    else tr("nowhere")
                )
            card.show_number(_cm(worst.far), tr("cm"), was)


def _cm(metres: float) -> str:
    return number_text(metres * 100, ".1f")
