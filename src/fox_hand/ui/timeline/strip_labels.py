"""The strip's label column, and the overview of the whole shot."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from fox_hand.base.language import tr, tr_n
from fox_hand.core.animation.curves import Keys, row_of
from fox_hand.ui.timeline.strip_base import StripBase
from fox_hand.ui.timeline.strip_paint import RULER, TOOLS
from fox_hand.ui.timeline.strip_rows import CLIPS, LAYERS, TALL, StripRow, value_now

MIDDLE = Qt.AlignmentFlag.AlignVCenter
RIGHT = MIDDLE | Qt.AlignmentFlag.AlignRight


def paint_labels(painter: QPainter, strip: StripBase, rows: Sequence[StripRow]) -> None:
    """What the rows are."""
    painter.save()
    head = RULER + TOOLS
    painter.setClipRect(QRectF(0, head, strip.label_width, strip.height() - head))
    for row in rows:
        y = strip.y_of(row)
        if y + row.height > head and y < strip.height():
            (_channel if row.channel else _part)(painter, strip, row, y)
    painter.restore()


def _part(painter: QPainter, strip: StripBase, row: StripRow, y: float) -> None:
    theme, width = strip.theme, strip.label_width
    ground = theme.colour("raised" if row.open else "panel")
    painter.fillRect(QRectF(0, y, width, row.height), ground)
    painter.fillRect(QRectF(0, y + row.height - 1, width, 1), theme.colour("line2"))
    ratio = strip.devicePixelRatioF()
    if row.channel_ids:
        arrow = "chevron-down" if row.open else "chevron-right"
        painter.drawPixmap(8, round(y + 11), theme.pixmap(arrow, 14, "quiet", ratio))
    painter.drawPixmap(28, round(y + 10), theme.pixmap(row.icon, 16, "text", ratio))
    painter.setFont(theme.font(12, 500))
    painter.setPen(theme.colour("text"))
    room = width - (120 if row.drawings else 150)
    title = painter.fontMetrics().elidedText(row.title, Qt.TextElideMode.ElideRight, room)
    painter.drawText(QRectF(52, y, room, TALL), MIDDLE, title)
    painter.setFont(theme.font(12))
    painter.setPen(theme.colour("quiet"))
    if not row.controls:
        text = tr("none") if row.key == CLIPS else tr("no keys")
    elif row.key == LAYERS:
        text = tr_n("{number:,} layer", "{number:,} layers", row.controls)
    elif row.key == CLIPS:
        text = tr_n("{number:,} block", "{number:,} blocks", row.controls)
    else:
        text = tr_n("{number:,} control", "{number:,} controls", row.controls)
    if row.drawings:
        text = tr_n(
            "{number:,} key", "{number:,} keys", len([c for c in row.key_groups if not c.tail])
        )
    painter.drawText(QRectF(width - 120, y, 108, TALL), RIGHT, text)


def _channel(painter: QPainter, strip: StripBase, row: StripRow, y: float) -> None:
    theme, width, actor = strip.theme, strip.label_width, strip.workspace.actor
    control = row_of(actor.rig, row.channel_ids[0]) if actor is not None else None
    selected = control is not None and control in strip.workspace.selection.rows
    painter.fillRect(
        QRectF(0, y, width, row.height), theme.colour("raised" if selected else "panel")
    )
    if selected:
        painter.fillRect(QRectF(0, y, 2, row.height), theme.colour("text"))
    painter.setFont(theme.font(12, 600))
    if row.side:
        painter.setPen(theme.colour("left" if row.side == "L" else "right"))
        painter.drawText(QRectF(36, y, 12, row.height), MIDDLE, row.side)
    painter.setFont(theme.font(12, 500 if selected else 400))
    painter.setPen(theme.colour("text"))
    room = width - 52 - 72
    text = painter.fontMetrics().elidedText(row.title, Qt.TextElideMode.ElideRight, room)
    painter.drawText(QRectF(52, y, room, row.height), MIDDLE, text)
    painter.setFont(theme.font(12))
    painter.setPen(theme.colour("quiet"))
    value = value_now(actor, row.channel_ids[0]) if actor is not None else ""
    painter.drawText(QRectF(width - 76, y, 64, row.height), RIGHT, value)


def paint_overview(painter: QPainter, strip: StripBase, keys: Keys) -> None:
    """All keyed frames, the range, and a window around what the strip shows."""
    theme, scale, timing = strip.theme, strip.scale, strip.workspace.timing
    first, last = strip.whole_span
    left, room = scale.left, max(scale.width - 12, 1.0)
    each = room / max(last - first, 1e-9)
    top = RULER + 6.0
    tall = TOOLS - 12.0
    track = QRectF(left, top, room, tall)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("field"))
    painter.drawRoundedRect(track, 3, 3)
    start, end = left + (timing.first - first) * each, left + (timing.last - first) * each
    painter.fillRect(QRectF(start, top, end - start, tall), theme.colour("raised"))
    places = np.unique(np.round((keys.frames() - first) * each).astype(int))
    for x in places.tolist():
        painter.fillRect(QRectF(left + x - 0.5, top + 4, 1, tall - 8), theme.colour("quiet"))
    low, high = max(scale.first, first), min(scale.last, last)
    x0, x1 = left + (low - first) * each, left + (high - first) * each
    if x1 - x0 < room - 2:
        painter.setBrush(theme.colour("text", 0.08))
        painter.setPen(QPen(theme.colour("text"), 1))
        painter.drawRoundedRect(QRectF(x0, top - 1, max(x1 - x0, 6), tall + 2), 3, 3)
    now = left + (timing.frame - first) * each
    if left <= now <= left + room:
        painter.fillRect(QRectF(now - 0.75, top - 2, 1.5, tall + 4), theme.colour("text"))
