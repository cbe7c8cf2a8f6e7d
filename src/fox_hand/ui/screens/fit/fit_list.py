"""The list of the Fit screen: a line for every control from the card to the character."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from fox_hand.core.model.controls import Region, Side
from fox_hand.core.retarget.retarget import Landing
from fox_hand.session.applying.fit_result import FitRow
from fox_hand.ui.theme.theme import Theme

ROW, HEADING = 24, 28
SOURCE, FROM, TO, TARGET, WHAT = 188, 196, 316, 326, 486  # where the columns end or begin
BUTTON = 40
MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | MIDDLE

# icon, word, token of both
SIGNS: dict[Landing, tuple[str, str, str]] = {
    Landing.LANDS: ("check", "Lands", "good"),
    Landing.CORRECTED: ("rotate-cw", "Lands, corrected", "text"),
    Landing.LIMIT: ("circle-alert", "Stopped at a limit", "warning"),
    Landing.LOCKED: ("lock", "Locked", "text"),
    Landing.MISSING: ("x", "Not there", "warning"),
    Landing.ASK: ("circle-dashed", "Is this the one?", "warning"),
}


@dataclass(frozen=True)
class FitLine:
    """A heading (without ``row``) or a control, and where it is."""

    y: int
    text: str = ""
    count: str = ""
    row: FitRow | None = None


def group_of(row: FitRow) -> str:
    """Under which heading a control stands."""
    if row.region in (Region.ARMS, Region.HANDS, Region.LEGS) and row.side is not Side.CENTRE:
        word = {Region.ARMS: "arm", Region.HANDS: "hand", Region.LEGS: "leg"}[row.region]
        return f"{row.side.value.capitalize()} {word}"
    names = {Region.TORSO: "Torso", Region.EYES: "Eyes", Region.MOUTH: "Mouth"}
    return names.get(row.region, row.region.value.capitalize())


class FitList(QWidget):
    """Up and Down walk, Y and N answer, Delete says "nothing here"; a name dragged onto a name
    of the character matches by hand."""

    answered = Signal(str, bool)
    matched = Signal(str, str)
    left_out = Signal(str)
    menu_asked = Signal(str, QPoint)
    walked = Signal(int, int)  # top and height of the current row
    pointed = Signal(object)  # FitRow or None

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self.lines: list[FitLine] = []
        self.current: str | None = None
        self._over: str | None = None
        self._dragged: tuple[str, QPointF] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumWidth(620)
        self.setAccessibleName("What happens to each control")

    def sizeHint(self) -> QSize:
        return QSize(780, self.height())

    def show_rows(self, rows: Sequence[FitRow], only: Landing | None, *, folded: bool) -> None:
        """Show rows in groups.

        Args:
            only: those that land in one way; None for all.
            folded: leave out those that land as they are.
        """
        groups: dict[str, list[FitRow]] = {}
        for row in rows:
            groups.setdefault(group_of(row), []).append(row)
        self.lines, y = [], 0
        for name, members in groups.items():
            shown = [r for r in members if only in (None, r.landing)]
            if only is None and folded:
                shown = [r for r in shown if r.landing is not Landing.LANDS]
            if not shown and only is not None:
                continue
            away = len(members) - len(shown) if only is None else 0
            count = f"{len(members)} controls" + (f", {away} folded" if away else "")
            self.lines.append(FitLine(y, name, count))
            y += HEADING
            for row in shown:
                self.lines.append(FitLine(y, row=row))
                y += ROW
            y += 4
        known = {line.row.source for line in self.lines if line.row is not None}
        if self.current not in known:
            self.current = None
        self.setFixedHeight(max(y, 1))
        self.update()

    # -- pointer and keys -----------------------------------------------------------------

    def line_of(self, source: str) -> FitLine | None:
        return next((x for x in self.lines if x.row is not None and x.row.source == source), None)

    def yes_rect(self, line: FitLine) -> QRectF:
        """Where a proposal is confirmed."""
        return QRectF(self.width() - 12 - 2 * BUTTON - 4, line.y + 2, BUTTON, ROW - 4)

    def no_rect(self, line: FitLine) -> QRectF:
        return self.yes_rect(line).translated(BUTTON + 4, 0)

    def _line_at(self, y: float) -> FitLine | None:
        for line in self.lines:
            if line.row is not None and line.y <= y < line.y + ROW:
                return line
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        line = self._line_at(event.position().y())
        if line is None or line.row is None:
            return
        self.current = line.row.source
        if line.row.landing is Landing.ASK:
            for rect, yes in ((self.yes_rect(line), True), (self.no_rect(line), False)):
                if rect.contains(event.position()):
                    self.answered.emit(line.row.source, yes)
                    return
        if event.button() is Qt.MouseButton.LeftButton and event.position().x() < TO:
            self._dragged = line.row.source, event.position()
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is not None:
            self._dragged = self._dragged[0], event.position()
            self.update()
            return
        line = self._line_at(event.position().y())
        over = line.row.source if line is not None and line.row is not None else None
        if over != self._over:
            self._over = over
            self.pointed.emit(line.row if line is not None else None)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        dragged, self._dragged = self._dragged, None
        self.update()
        line = self._line_at(event.position().y())
        if dragged is None or line is None or line.row is None or line.row.target is None:
            return
        if line.row.source != dragged[0] and event.position().x() >= FROM:
            self.matched.emit(dragged[0], line.row.target)

    def leaveEvent(self, event: QEvent) -> None:
        self._over = None
        self.pointed.emit(None)
        self.update()
        super().leaveEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        line = self._line_at(event.pos().y())
        if line is not None and line.row is not None:
            self.current = line.row.source
            self.update()
            self.menu_asked.emit(line.row.source, event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        rows = [line for line in self.lines if line.row is not None]
        sources = [line.row.source for line in rows if line.row is not None]
        at = sources.index(self.current) if self.current in sources else -1
        key = Qt.Key(event.key())
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        row = rows[at].row if at >= 0 else None
        if key in steps and rows:
            at = min(max(at + steps[key], 0), len(rows) - 1)
            self.current = sources[at]
            self.walked.emit(rows[at].y, ROW)
            self.pointed.emit(rows[at].row)
        elif key in (Qt.Key.Key_Y, Qt.Key.Key_N) and row is not None and row.landing is Landing.ASK:
            self.answered.emit(row.source, key == Qt.Key.Key_Y)
        elif key == Qt.Key.Key_Delete and row is not None:
            self.left_out.emit(row.source)
        elif key == Qt.Key.Key_Menu and row is not None:
            self.menu_asked.emit(row.source, self.mapToGlobal(QPoint(TARGET, rows[at].y + ROW)))
        else:
            super().keyPressEvent(event)
            return
        self.update()

    # -- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        top, bottom = event.rect().top() - HEADING, event.rect().bottom()
        for line in self.lines:
            if top <= line.y <= bottom:
                if line.row is None:
                    self._paint_heading(painter, line)
                else:
                    self._paint_row(painter, line, line.row)
        if self._dragged is not None:
            start = self.line_of(self._dragged[0])
            if start is not None:
                painter.setPen(QPen(self._theme.colour("accent"), 1.5))
                painter.drawLine(QPointF(FROM, start.y + ROW / 2), self._dragged[1])

    def _paint_heading(self, painter: QPainter, line: FitLine) -> None:
        theme = self._theme
        x = self._words(
            painter, theme.font(12, 600), "text", QRectF(12, line.y, 200, HEADING), line.text
        )
        x = self._words(
            painter, theme.font(11), "quiet", QRectF(x + 8, line.y, 220, HEADING), line.count
        )
        painter.setPen(QPen(theme.colour("line"), 1))
        y = line.y + HEADING // 2
        painter.drawLine(round(x) + 8, y, self.width() - 12, y)

    def _words(
        self,
        painter: QPainter,
        font: QFont,
        token: str,
        rect: QRectF,
        text: str,
        right: bool = False,
    ) -> float:
        """Draw words, cut where there is no room; returns where they end."""
        painter.setFont(font)
        painter.setPen(self._theme.colour(token))
        short = painter.fontMetrics().elidedText(
            text, Qt.TextElideMode.ElideRight, round(rect.width())
        )
        painter.drawText(rect, RIGHT if right else MIDDLE, short)
        return rect.left() + painter.fontMetrics().horizontalAdvance(short)

    def _paint_row(self, painter: QPainter, line: FitLine, row: FitRow) -> None:
        theme, y = self._theme, line.y
        if row.source in (self.current, self._over):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("high" if row.source == self.current else "raised"))
            painter.drawRoundedRect(QRectF(4, y, self.width() - 8, ROW), 4, 4)
        asks, gone = row.landing is Landing.ASK, row.landing is Landing.MISSING
        font = theme.font(12)
        self._words(painter, font, "text", QRectF(12, y, SOURCE - 12, ROW), row.source, right=True)
        target = "nothing" if row.target is None or gone else row.target
        token = "quiet" if gone else "warning" if asks else "text"
        self._words(painter, font, token, QRectF(TARGET, y, WHAT - TARGET - 8, ROW), target)
        self._paint_line(painter, row, y + ROW / 2)
        icon, word, token = SIGNS[row.landing]
        painter.drawPixmap(WHAT, y + 5, theme.pixmap(icon, 14, token, self.devicePixelRatioF()))
        end = self.width() - 12 - (2 * BUTTON + 12 if asks else 0)
        x = self._words(
            painter, theme.font(12, 500), token, QRectF(WHAT + 22, y, end - WHAT - 22, ROW), word
        )
        if end - x > 24:
            rect = QRectF(x + 8, y, end - x - 8, ROW)
            self._words(painter, theme.font(11), "quiet", rect, row.detail)
        if asks:
            for button, text in ((self.yes_rect(line), "Yes"), (self.no_rect(line), "No")):
                painter.setPen(QPen(theme.colour("line"), 1))
                painter.setBrush(theme.colour("field"))
                painter.drawRoundedRect(button, 4, 4)
                painter.setFont(theme.font(12, 500))
                painter.setPen(theme.colour("text"))
                painter.drawText(button, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_line(self, painter: QPainter, row: FitRow, y: float) -> None:
        """Plain where it lands, with a ring where it is corrected, a bar at a limit, two where it
        is locked, a stub where nothing is there, dashed where it is only a guess."""
        theme, landing = self._theme, row.landing
        _, _, token = SIGNS[landing]
        pen = QPen(theme.colour(token if landing is not Landing.CORRECTED else "quiet"), 1.5)
        if landing is Landing.ASK:
            pen.setDashPattern([3, 3])
        painter.setPen(pen)
        end = FROM + 40 if landing is Landing.MISSING else TO
        path = QPainterPath(QPointF(FROM, y))
        path.lineTo(end, y)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour(token))
        painter.drawEllipse(QPointF(FROM, y), 2.5, 2.5)
        solid = QPen(theme.colour(token), 1.5)
        middle = (FROM + TO) / 2
        if landing is Landing.MISSING:
            painter.setPen(solid)
            painter.drawLine(QPointF(end - 4, y - 4), QPointF(end + 4, y + 4))
            painter.drawLine(QPointF(end - 4, y + 4), QPointF(end + 4, y - 4))
        elif landing in (Landing.LIMIT, Landing.LOCKED):
            painter.setPen(solid)
            for x in (TO, TO - 4) if landing is Landing.LOCKED else (TO,):
                painter.drawLine(QPointF(x, y - 6), QPointF(x, y + 6))
        else:
            painter.drawEllipse(QPointF(TO, y), 2.5, 2.5)
        if landing is Landing.CORRECTED:
            painter.setPen(solid)
            painter.setBrush(theme.colour("panel"))
            painter.drawEllipse(QPointF(middle, y), 4, 4)
        elif landing is Landing.ASK:
            painter.setPen(solid)
            painter.setBrush(theme.colour("warning_ground"))
            painter.drawEllipse(QPointF(middle, y), 8, 8)
            painter.setFont(theme.font(11, 600))
            painter.drawText(QRectF(middle - 8, y - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, "?")
