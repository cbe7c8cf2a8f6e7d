"""The list of the Fit screen: a line for every control from the card to the character."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFont,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)

from fox_hand.base.language import tr, tr_n
from fox_hand.core.model.controls import Side
from fox_hand.core.naming.part_words import limb_title, region_title
from fox_hand.core.retarget.retarget import Landing
from fox_hand.session.applying.fit_result import FitRow
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow

ROW, HEADING = 24, 28
BUTTON = 40
MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | MIDDLE

# icon, word, token of both
SIGNS: dict[Landing, tuple[str, str, str]] = {
    Landing.LANDS: ("check", tr("Lands"), "good"),
    Landing.CORRECTED: ("rotate-cw", tr("Lands, corrected"), "text"),
    Landing.LIMIT: ("circle-alert", tr("Stopped at a limit"), "warning"),
    Landing.LOCKED: ("lock", tr("Locked"), "text"),
    Landing.MISSING: ("x", tr("Not there"), "warning"),
    Landing.ASK: ("circle-dashed", tr("Is this the one?"), "warning"),
}


@dataclass(frozen=True)
class FitColumns:
    """Where the columns end or begin, in pixels.

    Args:
        source: where the names of the card end.
        start, end: of the lines between.
        target, what: where the character's names begin, and what happens.
        least: how wide it has to be.
        words: whether what happens is said in a word beside its details.
    """

    source: int = 188
    start: int = 196
    end: int = 316
    target: int = 326
    what: int = 486
    least: int = 620
    words: bool = True


WIDE = FitColumns()
NARROW = FitColumns(132, 140, 184, 194, 292, 380, words=False)


@dataclass(frozen=True)
class FitLine:
    """A heading (without ``row``) or a control."""

    text: str = ""
    count: str = ""
    row: FitRow | None = None


def group_of(row: FitRow) -> str:
    """Under which heading a control stands."""
    limb = limb_title(row.region, row.side) if row.side is not Side.CENTRE else None
    return limb or region_title(row.region)


class FitList(PaintedList):
    """The arrows walk, Y and N answer, Delete says "nothing here"; a name dragged onto a name of
    the character matches by hand."""

    answered = Signal(str, bool)
    matched = Signal(str, str)
    left_out = Signal(str)
    menu_asked = Signal(str, QPoint)
    seen = Signal(object)  # FitRow or None

    def __init__(
        self,
        theme: Theme,
        name: str = tr("What happens to each control"),
        columns: FitColumns = WIDE,
    ) -> None:
        super().__init__(name)
        self._theme, self._columns = theme, columns
        self.lines: list[FitLine] = []
        self._dragged: tuple[str, QPointF] | None = None
        self.setMinimumWidth(columns.least)
        self.pointed.connect(self._see)
        self.walked.connect(self._see)
        self.keys = KeyMap(
            [
                LocalKey(("Y",), partial(self._answer, True)),
                LocalKey(("N",), partial(self._answer, False)),
                LocalKey(("Del",), partial(self._with_row, self.left_out.emit)),
                LocalKey(("Menu", "Shift+F10"), partial(self._with_row, self._menu_here)),
            ]
        )

    def sizeHint(self) -> QSize:
        return QSize(780, 480)

    def show_rows(self, rows: Sequence[FitRow], only: Landing | None, *, folded: bool) -> None:
        """Show rows in groups.

        Args:
            only: those that land in one way; None for all.
            folded: leave out those that land as they are.
        """
        current, groups = self.current, dict[str, list[FitRow]]()
        for row in rows:
            groups.setdefault(group_of(row), []).append(row)
        self.lines = []
        for name, members in groups.items():
            shown = [r for r in members if only in (None, r.landing)]
            if only is None and folded:
                shown = [r for r in shown if r.landing is not Landing.LANDS]
            if not shown and only is not None:
                continue
            away = len(members) - len(shown) if only is None else 0
            count = tr_n("1 control", "{number} controls", len(members)) + (
                tr(", {away} folded", away=away) if away else ""
            )
            self.lines += [FitLine(name, count), *(FitLine(row=row) for row in shown)]
        there = [line.row.source if line.row is not None else None for line in self.lines]
        at = there.index(current) if current in there and current is not None else -1
        self.show_painted([_said(line) for line in self.lines], at)

    @property
    def current(self) -> str | None:
        """Name in the card of the control with the keyboard."""
        row = self._row_of(self.row)
        return row.source if row is not None else None

    def _row_of(self, at: int) -> FitRow | None:
        return self.lines[at].row if 0 <= at < len(self.lines) else None

    def _see(self, at: int) -> None:
        self.seen.emit(self._row_of(at))

    # -- pointer and keys -----------------------------------------------------------------

    def line_of(self, source: str) -> int:
        """The line of a control; -1 for none."""
        found = (i for i, x in enumerate(self.lines) if x.row and x.row.source == source)
        return next(found, -1)

    def yes_rect(self, line: int) -> QRectF:
        """Where a proposal is confirmed, in the viewport."""
        return _yes(self.viewport().width()).translated(0, self.rect_of(line).y())

    def no_rect(self, line: int) -> QRectF:
        return self.yes_rect(line).translated(BUTTON + 4, 0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        super().mousePressEvent(event)
        at = self.row_at(event.position().toPoint().y())
        row = self._row_of(at)
        if row is None:
            return
        if row.landing is Landing.ASK:
            for rect, yes in ((self.yes_rect(at), True), (self.no_rect(at), False)):
                if rect.contains(event.position()):
                    self.answered.emit(row.source, yes)
                    return
        if event.button() is Qt.MouseButton.LeftButton and event.position().x() < self._columns.end:
            self._dragged = row.source, event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged is not None:
            self._dragged = self._dragged[0], event.position()
            self.viewport().update()
        else:
            super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        dragged, self._dragged = self._dragged, None
        self.viewport().update()
        row = self._row_of(self.row_at(event.position().toPoint().y()))
        if dragged is None or row is None or row.target is None:
            return
        if row.source != dragged[0] and event.position().x() >= self._columns.start:
            self.matched.emit(dragged[0], row.target)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        at = self.row_at(self.viewport().mapFromGlobal(event.globalPos()).y())
        row = self._row_of(at)
        if row is not None:
            self.go_to(at)
            self.menu_asked.emit(row.source, event.globalPos())

    def _answer(self, yes: bool) -> bool:
        row = self._row_of(self.row)
        if row is None or row.landing is not Landing.ASK:
            return False
        self.answered.emit(row.source, yes)
        return True

    def _with_row(self, do: Callable[[str], object]) -> bool:
        row = self._row_of(self.row)
        if row is not None:
            do(row.source)
        return row is not None

    def _menu_here(self, source: str) -> None:
        at = QPoint(self._columns.target, self.rect_of(self.row).bottom())
        self.menu_asked.emit(source, self.viewport().mapToGlobal(at))

    # -- painting -------------------------------------------------------------------------

    def paint_row(self, painter: QPainter, row: int) -> None:
        line = self.lines[row]
        if line.row is None:
            self._paint_heading(painter, line)
        else:
            self._paint_row(painter, row, line.row)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self._dragged is not None:
            painter, start = QPainter(self.viewport()), self.line_of(self._dragged[0])
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(self._theme.colour("accent"), 1.5))
            middle = QRectF(self.rect_of(start)).center().y()
            painter.drawLine(QPointF(self._columns.start, middle), self._dragged[1])

    def _paint_heading(self, painter: QPainter, line: FitLine) -> None:
        theme = self._theme
        x = self._words(
            painter, theme.font(12, 600), "text", QRectF(12, 0, 200, HEADING), line.text
        )
        x = self._words(
            painter, theme.font(11), "quiet", QRectF(x + 8, 0, 220, HEADING), line.count
        )
        painter.setPen(QPen(theme.colour("line"), 1))
        y = 0 + HEADING // 2
        painter.drawLine(round(x) + 8, y, self.viewport().width() - 12, y)

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

    def _paint_row(self, painter: QPainter, at: int, row: FitRow) -> None:
        theme, y, columns = self._theme, 0, self._columns
        if at in (self.row, self.over):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("high" if at == self.row else "raised"))
            painter.drawRoundedRect(QRectF(4, y, self.viewport().width() - 8, ROW), 4, 4)
        asks, gone = row.landing is Landing.ASK, row.landing is Landing.MISSING
        font = theme.font(12)
        box = QRectF(12, y, columns.source - 12, ROW)
        self._words(painter, font, "text", box, row.source, right=True)
        target = tr("nothing") if row.target is None or gone else row.target
        token = "quiet" if row.target is None or gone else "warning" if asks else "text"
        box = QRectF(columns.target, y, columns.what - columns.target - 8, ROW)
        self._words(painter, font, token, box, target)
        self._paint_line(painter, row, y + ROW / 2)
        end = self.viewport().width() - 12 - (2 * BUTTON + 12 if asks else 0)
        if columns.words:
            self._paint_what(painter, row, end)
        else:
            tone = "warning" if gone or asks else "quiet"
            box = QRectF(columns.what, y, end - columns.what, ROW)
            self._words(painter, font, tone, box, row.detail)
        if asks:
            yes = _yes(self.viewport().width())
            for button, text in ((yes, tr("Yes")), (yes.translated(BUTTON + 4, 0), tr("No"))):
                painter.setPen(QPen(theme.colour("line"), 1))
                painter.setBrush(theme.colour("field"))
                painter.drawRoundedRect(button, 4, 4)
                painter.setFont(theme.font(12, 500))
                painter.setPen(theme.colour("text"))
                painter.drawText(button, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_what(self, painter: QPainter, row: FitRow, end: float) -> None:
        """What happens: a sign, a word, and as much of the details as there is room for."""
        theme, what = self._theme, self._columns.what
        icon, word, token = SIGNS[row.landing]
        painter.drawPixmap(what, 5, theme.pixmap(icon, 14, token, self.devicePixelRatioF()))
        box = QRectF(what + 22, 0, end - what - 22, ROW)
        x = self._words(painter, theme.font(12, 500), token, box, word)
        if end - x > 24:
            rect = QRectF(x + 8, 0, end - x - 8, ROW)
            self._words(painter, theme.font(11), "quiet", rect, row.detail)

    def _paint_line(self, painter: QPainter, row: FitRow, y: float) -> None:
        """Plain where it lands, with a ring where it is corrected, a bar at a limit, two where it
        is locked, a stub where nothing is there, dashed where it is only a guess."""
        theme, landing = self._theme, row.landing
        start, stop = self._columns.start, self._columns.end
        _, _, token = SIGNS[landing]
        pen = QPen(theme.colour(token if landing is not Landing.CORRECTED else "quiet"), 1.5)
        if landing is Landing.ASK:
            pen.setDashPattern([3, 3])
        painter.setPen(pen)
        end = start + min(40, (stop - start) * 2 // 3) if landing is Landing.MISSING else stop
        path = QPainterPath(QPointF(start, y))
        path.lineTo(end, y)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour(token))
        painter.drawEllipse(QPointF(start, y), 2.5, 2.5)
        solid = QPen(theme.colour(token), 1.5)
        middle = (start + stop) / 2
        if landing is Landing.MISSING:
            painter.setPen(solid)
            painter.drawLine(QPointF(end - 4, y - 4), QPointF(end + 4, y + 4))
            painter.drawLine(QPointF(end - 4, y + 4), QPointF(end + 4, y - 4))
        elif landing in (Landing.LIMIT, Landing.LOCKED):
            painter.setPen(solid)
            for x in (stop, stop - 4) if landing is Landing.LOCKED else (stop,):
                painter.drawLine(QPointF(x, y - 6), QPointF(x, y + 6))
        else:
            painter.drawEllipse(QPointF(stop, y), 2.5, 2.5)
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


def _yes(width: int) -> QRectF:
    """Where a proposal is confirmed, in its line."""
    return QRectF(width - 12 - 2 * BUTTON - 4, 2, BUTTON, ROW - 4)


def _said(line: FitLine) -> PaintedRow:
    row = line.row
    if row is None:
        return PaintedRow(f"{line.text}, {line.count}", HEADING, usable=False)
    target = row.target if row.target is not None and row.landing is not Landing.MISSING else ""
    words = (
        tr("{source} to {target}", source=row.source, target=target or tr("nothing")),
        SIGNS[row.landing][1],
        row.detail,
    )
    return PaintedRow(", ".join(word for word in words if word), ROW)
