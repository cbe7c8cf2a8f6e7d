"""How a chart looks: heads, characters, slots in every state."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QImage, QPainter, QPainterPath, QPen, QPixmap

from fox_hand.base.language import tr
from fox_hand.library.charts.filling import Filling
from fox_hand.ui.screens.charts.chart_layout import LABEL, PAD, PITCH, SLOT, ChartHead, ChartLine
from fox_hand.ui.theme.theme import Theme

MIDDLE = Qt.AlignmentFlag.AlignVCenter
CENTRE = Qt.AlignmentFlag.AlignCenter
FAINT = 0.28  # of the wanted shape in an empty slot
DOTS, DOT = 24, 4  # most dots under a character, and their size


@dataclass(frozen=True, eq=False)
class SlotLook:
    """What is true of a slot just now.

    Args:
        image: of its best card, or of what it is to look like; None while it is not there.
        chosen, pointed, focus: what is done with it.
    """

    image: QImage | None = None
    chosen: bool = False
    pointed: bool = False
    focus: bool = False


def paint_head(painter: QPainter, theme: Theme, head: ChartHead, offset: int) -> None:
    """A chart's name, how much of it is filled, and the names of its slots."""
    board = head.board
    if head.title is not None:
        y = head.title - offset
        painter.setFont(theme.font(15, 600))
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(PAD, y, 600, 32), MIDDLE, board.chart.name)
        x = PAD + painter.fontMetrics().horizontalAdvance(board.chart.name) + 10
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        said = (
            tr("{count} of {whole} filled", count=board.count, whole=board.whole)
            if board.whole
            else _why_none(head)
        )
        painter.drawText(QRectF(x, y + 1, 600, 32), MIDDLE, said)
    painter.setFont(theme.font(12, 500))
    metrics = painter.fontMetrics()
    for number, slot in enumerate(head.slots):
        x = PAD + LABEL + number * PITCH
        words = metrics.elidedText(slot.name, Qt.TextElideMode.ElideRight, PITCH - 4)
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(x - 4, head.y - offset, SLOT + 8, 20), CENTRE, words)


def _why_none(head: ChartHead) -> str:
    if not head.board.chart.slots:
        return tr("no slots yet: its menu adds some")
    return tr("no character has cards yet")


def paint_character(
    painter: QPainter, theme: Theme, line: ChartLine, offset: int, face: QImage | None
) -> None:
    """Whose slots these are, how many are filled, and a dot for each."""
    y = line.y - offset
    slots = line.board.of(line.character)
    there = sum(not one.missing for one in slots)
    paint_round(painter, theme, QRectF(PAD, y + 16, 36, 36), line.character, face)
    room = LABEL - 36 - 16
    painter.setFont(theme.font(13, 600))
    painter.setPen(theme.colour("text"))
    name = painter.fontMetrics().elidedText(line.character, Qt.TextElideMode.ElideRight, room)
    painter.drawText(QRectF(PAD + 44, y + 12, room + 4, 18), MIDDLE, name)
    painter.setFont(theme.font(12))
    painter.setPen(theme.colour("good" if there == len(slots) else "warning"))
    painter.drawText(
        QRectF(PAD + 44, y + 29, room + 4, 16),
        MIDDLE,
        tr("{there} of {count}", there=there, count=len(slots)),
    )
    painter.setPen(Qt.PenStyle.NoPen)
    for number, one in enumerate(slots[:DOTS]):
        painter.setBrush(theme.colour("high" if one.missing else "text"))
        painter.drawRect(
            QRectF(PAD + 44 + number % 12 * (DOT + 1), y + 48 + number // 12 * 6, DOT, DOT)
        )


def paint_round(
    painter: QPainter, theme: Theme, ring: QRectF, name: str, face: QImage | None
) -> None:
    """A character in a circle.

    Args:
        painter, theme: what paints, in which colours.
        ring: the circle.
        name: of the character, whose first letter stands where there is no face.
        face: its picture; None where no card shows it.
    """
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("stage_middle" if face is not None else "high"))
    painter.drawEllipse(ring)
    if face is not None:
        clip = QPainterPath()
        clip.addEllipse(ring)
        painter.setClipPath(clip)
        painter.drawImage(ring, face)
    else:
        painter.setFont(theme.font(14 if ring.height() > 24 else 11, 600))
        painter.setPen(theme.colour("text"))
        painter.drawText(ring, CENTRE, name[:1].upper())
    painter.restore()


def paint_slot(
    painter: QPainter, theme: Theme, rect: QRectF, one: Filling, look: SlotLook, ratio: float
) -> None:
    """One slot: its card, or what is missing there."""
    painter.save()
    clip = QPainterPath()
    clip.addRoundedRect(rect, 8, 8)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    if one.missing:
        _paint_missing(painter, theme, rect, clip, one, look, ratio)
    else:
        painter.fillPath(clip, theme.colour("raised"))
        painter.setClipPath(clip)
        if look.image is not None and not look.image.isNull():
            painter.drawImage(rect, look.image)
        painter.setClipping(False)
        _paint_badges(painter, theme, rect, one, ratio)
    if look.pointed and not look.chosen:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("text"), 1.5))
        painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 8, 8)
    if look.chosen:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.drawRoundedRect(rect.adjusted(-1, -1, 1, 1), 9, 9)
    if look.focus:
        painter.setPen(QPen(theme.colour("text"), 2))
        painter.drawRoundedRect(rect.adjusted(-4, -4, 4, 4), 11, 11)
    painter.restore()


def _paint_missing(
    painter: QPainter,
    theme: Theme,
    rect: QRectF,
    clip: QPainterPath,
    one: Filling,
    look: SlotLook,
    ratio: float,
) -> None:
    painter.fillPath(clip, theme.colour("raised"))
    if look.image is not None and not look.image.isNull():
        painter.setClipPath(clip)
        painter.setOpacity(FAINT)
        grey = look.image.convertToFormat(QImage.Format.Format_Grayscale8)
        painter.drawImage(rect, grey)
        painter.setOpacity(1.0)
        painter.setClipping(False)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(theme.colour("quiet"), 1, Qt.PenStyle.DashLine))
    painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 8, 8)
    icon = "camera" if look.chosen else "plus"
    tone = "accent_text" if look.chosen else "text"
    _icon(painter, theme, icon, 20, tone, rect.center(), ratio)
    if one.proposed:
        _plate(painter, theme, QPointF(rect.right() - 4, rect.bottom() - 4), tr("likely"))


def _icon(
    painter: QPainter,
    theme: Theme,
    name: str,
    size: int,
    tone: str,
    middle: QPointF,
    ratio: float,
) -> None:
    pixmap: QPixmap = theme.pixmap(name, size, tone, ratio)
    painter.drawPixmap(QPointF(middle.x() - size / 2, middle.y() - size / 2), pixmap)


def _paint_badges(
    painter: QPainter, theme: Theme, rect: QRectF, one: Filling, ratio: float
) -> None:
    corner = QPointF(rect.right() - 4, rect.bottom() - 4)
    if one.short:
        _plate(
            painter,
            theme,
            corner,
            tr("{count} of {wanted}", count=len(one.cards), wanted=one.slot.wanted),
        )
    elif len(one.cards) > 1:
        _plate(painter, theme, corner, str(len(one.cards)))
    if one.cards[0].lent:
        ground = QRectF(rect.left() + 4, rect.bottom() - 20, 18, 16)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("window"))
        painter.drawRoundedRect(ground, 4, 4)
        _icon(painter, theme, "link", 12, "text", ground.center(), ratio)


def _plate(painter: QPainter, theme: Theme, corner: QPointF, text: str) -> None:
    """A small plate with its lower right corner at a point."""
    font = theme.font(11, 600)
    wide = QFontMetrics(font).horizontalAdvance(text) + 8
    rect = QRectF(corner.x() - wide, corner.y() - 16, wide, 16)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("window"))
    painter.drawRoundedRect(rect, 4, 4)
    painter.setFont(font)
    painter.setPen(theme.colour("text"))
    painter.drawText(rect, CENTRE, text)
