"""How rows of the outline look."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QImage, QPainter, QPainterPath, QPen, QPixmap

from fox_hand.base.language import tr, tr_n
from fox_hand.ui.outline.outline_rows import OutlineContent, OutlineRow, RowKind
from fox_hand.ui.theme.theme import Theme

LEFT, STEP, ARROW = 10, 14, 16  # pixels
MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | MIDDLE


@dataclass(frozen=True, eq=False)
class OutlineLook:
    """What is true of a row just now.

    Args:
        chosen: the cards are narrowed to it.
        pointed, focus: pointer and keyboard are there.
        target: what is dragged would go there.
        before: what is dragged would go before it.
        locked: what is dragged cannot go there.
        away: its library cannot be reached.
        count: of a kept search; None while nobody knows.
        face: picture of a character; None for none (yet).
        colour: of a sheet that was given one; empty for its region's.
    """

    chosen: bool = False
    pointed: bool = False
    focus: bool = False
    target: bool = False
    before: bool = False
    locked: bool = False
    away: bool = False
    count: int | None = None
    face: QImage | None = None
    colour: str = ""


def looks_like(row: OutlineRow, content: OutlineContent, look: OutlineLook) -> Hashable:
    """All that a row's painting follows."""
    node = row.node
    of_sheet = (node.count, node.new, node.regions) if node is not None else None
    of_all = (len(content.searches), content.sheets, content.cards) if row.heading else None
    where = row.kind, row.words, row.indent, row.folded, row.waiting
    face = look.face.cacheKey() if look.face is not None else 0
    pointer = look.pointed, look.focus, look.target, look.before, look.locked
    return where, of_sheet, of_all, pointer, look.chosen, look.away, look.count, face, look.colour


def arrow_rect(row: OutlineRow) -> QRect:
    """Where a row is folded, its own corner at 0, 0."""
    return QRect(LEFT + row.indent * STEP - 6, 0, ARROW + 6, row.height)


def paint_outline_row(
    painter: QPainter,
    theme: Theme,
    width: int,
    row: OutlineRow,
    content: OutlineContent,
    look: OutlineLook,
) -> None:
    """Paint a row with its corner at 0, 0."""
    if row.kind is RowKind.NOTE:
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(QRectF(12, 0, width - 24, row.height), MIDDLE, row.words)
        return
    if row.heading:
        _paint_heading(painter, theme, width, row, content)
        return
    _paint_ground(painter, theme, width, row.height, look)
    if look.away:
        painter.setOpacity(0.55)
    x = LEFT + row.indent * STEP
    if row.folded is not None:
        icon = "chevron-right" if row.folded else "chevron-down"
        tone = "text" if look.chosen or row.kind is not RowKind.SHEET else "quiet"
        painter.drawPixmap(x - 2, row.height // 2 - 6, _icon(painter, theme, icon, 12, tone))
    x += ARROW
    x = _paint_sign(painter, theme, x, row, look)
    right = _paint_numbers(painter, theme, width - 12, row, look)
    bold = look.chosen or row.kind in (RowKind.CHARACTER, RowKind.LIBRARY)
    painter.setFont(theme.font(12, 600 if bold else 400))
    painter.setPen(theme.colour("text"))
    words = painter.fontMetrics().elidedText(row.words, Qt.TextElideMode.ElideRight, right - x - 8)
    painter.drawText(QRectF(x, 0, right - x, row.height), MIDDLE, words)
    painter.setOpacity(1.0)


def _paint_ground(
    painter: QPainter, theme: Theme, width: int, height: int, look: OutlineLook
) -> None:
    frame = QRectF(4, 0.5, width - 8, height - 1)
    painter.setPen(Qt.PenStyle.NoPen)
    tone = "high" if look.chosen else "raised"
    if look.chosen or look.pointed:
        painter.fillRect(QRectF(0, 0, width, height), theme.colour(tone))
    if look.chosen:
        painter.fillRect(QRectF(0, 0, 3, height), theme.colour("text"))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if look.target:
        painter.setPen(QPen(theme.colour("text"), 1.5, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(frame, 6, 6)
    if look.before:
        painter.fillRect(QRectF(4, 0, width - 8, 2), theme.colour("text"))
    if look.focus:
        painter.setPen(QPen(theme.colour("text"), 2))
        painter.drawRoundedRect(frame.adjusted(0, 1, 0, -1), 5, 5)


def _paint_heading(
    painter: QPainter, theme: Theme, width: int, row: OutlineRow, content: OutlineContent
) -> None:
    painter.setFont(theme.font(12, 600))
    painter.setPen(theme.colour("text"))
    painter.drawText(QRectF(12, 0, width - 24, row.height), MIDDLE, row.words)
    x = 12 + painter.fontMetrics().horizontalAdvance(row.words) + 8
    if row.kind is RowKind.SEARCHES:
        number, icon = f"{len(content.searches)}", "plus"
    else:
        cards = tr_n("1 card", "{number:,} cards", content.cards)
        number, icon = f"{content.sheets:,}, {cards}", "folder-plus"
    painter.setFont(theme.font(11))
    painter.setPen(theme.colour("quiet"))
    painter.drawText(QRectF(x, 0, width - x - 32, row.height), MIDDLE, number)
    mark = _icon(painter, theme, icon, 16, "text")
    painter.drawPixmap(heading_button(row, width).topLeft() + QPoint(4, 4), mark)


def heading_button(row: OutlineRow, width: int) -> QRect:
    """Where something is added below a heading, its own corner at 0, 0."""
    return QRect(width - 32, (row.height - 24) // 2, 24, 24)


def _icon(painter: QPainter, theme: Theme, name: str, size: int, tone: str) -> QPixmap:
    return theme.pixmap(name, size, tone, painter.device().devicePixelRatioF())


def _paint_sign(painter: QPainter, theme: Theme, x: int, row: OutlineRow, look: OutlineLook) -> int:
    """What stands before the words; returns where they begin."""
    middle = row.height // 2
    if row.kind is RowKind.SEARCH:
        painter.drawPixmap(LEFT + 2, middle - 7, _icon(painter, theme, "search", 14, "quiet"))
        return LEFT + 24
    if row.kind is RowKind.LIBRARY:
        painter.drawPixmap(x, middle - 7, _icon(painter, theme, "library", 14, "quiet"))
        return x + 20
    if row.kind is RowKind.CHARACTER:
        _paint_face(painter, theme, QPointF(x + 10, middle), row, look)
        return x + 28
    _paint_tab(painter, theme, QRectF(x, middle - 3, 14, 6), row, look)
    return x + 20


def _paint_face(
    painter: QPainter, theme: Theme, centre: QPointF, row: OutlineRow, look: OutlineLook
) -> None:
    painter.save()
    ring = QRectF(centre.x() - 10, centre.y() - 10, 20, 20)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("stage_middle" if look.face is not None else "high"))
    painter.drawEllipse(ring)
    if look.face is not None:
        round_ = QPainterPath()
        round_.addEllipse(ring)
        painter.setClipPath(round_)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(ring, look.face)
    else:
        painter.setFont(theme.font(11, 600))
        painter.setPen(theme.colour("text"))
        painter.drawText(ring, Qt.AlignmentFlag.AlignCenter, row.words[:1].upper())
    painter.restore()


def _paint_tab(
    painter: QPainter, theme: Theme, rect: QRectF, row: OutlineRow, look: OutlineLook
) -> None:
    """The tab of the cards in a sheet: the colour of its region, two where a second is strong."""
    regions = row.node.regions if row.node is not None else ()
    colours = [QColor(look.colour)] if look.colour else []
    colours = colours or [QColor(theme.tokens.region(region)) for region in regions]
    shape = QPainterPath()
    shape.moveTo(rect.left(), rect.bottom())
    shape.lineTo(rect.left(), rect.top() + 3)
    shape.quadTo(rect.left(), rect.top(), rect.left() + 3, rect.top())
    shape.lineTo(rect.right() - 3, rect.top())
    shape.quadTo(rect.right(), rect.top(), rect.right(), rect.top() + 3)
    shape.lineTo(rect.right(), rect.bottom())
    shape.closeSubpath()
    painter.setPen(Qt.PenStyle.NoPen)
    if not colours:  # nothing lies in it
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("quiet"), 1))
        painter.drawPath(shape)
        return
    painter.fillPath(shape, colours[0])
    if len(colours) > 1:
        half = QPainterPath()
        half.addRect(rect.adjusted(rect.width() / 2, 0, 0, 0))
        painter.fillPath(shape.intersected(half), colours[1])


def _paint_numbers(
    painter: QPainter, theme: Theme, right: int, row: OutlineRow, look: OutlineLook
) -> int:
    """Count at the right, what is new and waits before it; returns where these begin."""
    if look.locked:
        painter.drawPixmap(
            right - 14, row.height // 2 - 7, _icon(painter, theme, "lock", 14, "text")
        )
        return right - 22
    node = row.node
    count = look.count if row.kind is RowKind.SEARCH else node.count if node is not None else None
    text = "…" if count is None else f"{count:,}"
    font = theme.font(11, 500)
    wide = QFontMetrics(font).horizontalAdvance(text)
    painter.setFont(font)
    painter.setPen(theme.colour("text" if look.chosen else "quiet"))
    painter.drawText(QRectF(right - wide - 40, 0, wide + 40, row.height), RIGHT, text)
    x = right - max(wide, 18) - 6
    if node is not None and node.new:
        x = _plate(painter, theme, x, row.height, tr("{new} new", new=node.new), ("text", "window"))
    if row.waiting:
        said = (
            tr("{waiting} waiting", waiting=row.waiting)
            if not (node and node.new)
            else f"{row.waiting}"
        )
        x = _plate(painter, theme, x, row.height, said, ("warning", "warning_ground"))
    return x


def _plate(
    painter: QPainter, theme: Theme, right: int, height: int, text: str, tones: tuple[str, str]
) -> int:
    font = theme.font(11, 600)
    wide = QFontMetrics(font).horizontalAdvance(text) + 10
    rect = QRectF(right - wide, height / 2 - 8, wide, 16)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour(tones[1]))
    painter.drawRoundedRect(rect, 4, 4)
    painter.setFont(font)
    painter.setPen(theme.colour(tones[0]))
    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
    return round(rect.left()) - 4
