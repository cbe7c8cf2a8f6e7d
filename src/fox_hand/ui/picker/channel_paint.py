"""How a row of the channels panel is laid out and painted."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from fox_hand.base.language import decimal_mark, tr
from fox_hand.core.model.controls import SettingKind
from fox_hand.session.figures.channel_rows import ChannelRow
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.theme.theme import Theme

ROW = 24
NAME_X, BAR_WIDTH, VALUE_WIDTH, ICON_WIDTH = 12, 44, 46, 18
RIGHT = 4
WIDE = 320  # pixels; narrower, words of several controls have the bar's room
MIDDLE = Qt.AlignmentFlag.AlignVCenter


@dataclass(frozen=True)
class RowLook:
    """The state of one row."""

    index: int
    width: int
    touched: bool
    current: bool
    pointed: bool
    locked: bool


def reset_rect(width: int, row: int) -> QRectF:
    """Where the arrow back to rest is."""
    return QRectF(width - RIGHT - ICON_WIDTH, row * ROW, ICON_WIDTH, ROW)


def lock_rect(width: int, row: int) -> QRectF:
    """Where the lock is."""
    return QRectF(width - RIGHT - 2 * ICON_WIDTH, row * ROW, ICON_WIDTH, ROW)


def value_rect(width: int, row: int) -> QRectF:
    """Where the number is."""
    right = width - RIGHT - 2 * ICON_WIDTH
    return QRectF(right - VALUE_WIDTH, row * ROW, VALUE_WIDTH, ROW)


def bar_rect(width: int, row: int, *, named: bool = False) -> QRectF:
    """Where the bar is, and where it is pulled: beside the words, or where several controls are
    listed in a narrow panel, below them, so that they can be read."""
    right = width - RIGHT - 2 * ICON_WIDTH - VALUE_WIDTH
    if named and width < WIDE:
        return QRectF(NAME_X, row * ROW, right - NAME_X - 4, ROW)
    return QRectF(right - BAR_WIDTH - 2, row * ROW, BAR_WIDTH, ROW)


def number(row: ChannelRow, value: float) -> str:
    """A value as shown, without its unit."""
    text = f"{value:.{row.decimals}f}"
    plain = text.removeprefix("-") if float(text) == 0 else text
    return plain.replace(".", decimal_mark())


def paint_row(painter: QPainter, theme: Theme, actor: Figure, row: ChannelRow, at: RowLook) -> None:
    """Name, bar or switch, value, lock, and the arrow back to rest."""
    value = row.value(actor.rig, actor.state)
    away = row.away(actor.rig, actor.state)
    top = at.index * ROW
    if at.current:
        painter.fillRect(QRectF(0, top, at.width, ROW), theme.colour("raised"))
        painter.fillRect(QRectF(0, top, 2, ROW), theme.colour("text"))
    kind = row.kind(actor.rig)
    _paint_name(painter, theme, row, at, wide=kind is SettingKind.CHOICE)
    if kind is SettingKind.BOOL:
        _paint_switch(painter, theme, at, value)
    elif kind is SettingKind.CHOICE:
        _paint_choice(painter, theme, actor, row, at, value)
    else:
        _paint_bar(painter, theme, actor, row, at, value)
        painter.setFont(theme.font(12, 500))
        painter.setPen(theme.colour("text" if away else "quiet"))
        unit = row.first.unit.strip()
        text = "mixed" if value is None else number(row, value) + unit
        right = MIDDLE | Qt.AlignmentFlag.AlignRight
        painter.drawText(value_rect(at.width, at.index), right, text)
    ratio = painter.device().devicePixelRatioF()
    if at.locked or at.pointed:
        box = lock_rect(at.width, at.index)
        icon = theme.pixmap("lock" if at.locked else "lock-open", 12, "quiet", ratio)
        painter.setOpacity(1.0 if at.locked else 0.75)
        painter.drawPixmap(round(box.left() + 5), round(box.top() + 6), icon)
        painter.setOpacity(1.0)
    if away and at.pointed:
        box = reset_rect(at.width, at.index)
        icon = theme.pixmap("rotate-ccw", 12, "quiet", ratio)
        painter.drawPixmap(round(box.left() + 3), round(box.top() + 6), icon)


def _paint_name(
    painter: QPainter, theme: Theme, row: ChannelRow, at: RowLook, *, wide: bool
) -> None:
    top, right = at.index * ROW, bar_rect(at.width, at.index).left()
    if row.name and at.width < WIDE and not wide:
        right = value_rect(at.width, at.index).left()
    room = round(right - NAME_X - 4 - (24 if wide else 0))
    painter.setFont(theme.font(12))
    metrics = painter.fontMetrics()
    # the word says which channel it is, so the name gives way first
    word_width = min(metrics.horizontalAdvance(row.word), room - 24 if row.name else room)
    used = 0
    if row.name:
        painter.setFont(theme.font(12, 500))
        painter.setPen(theme.colour("quiet" if at.locked else "text"))
        left = room - (word_width + 4 if row.word else 0)
        shown = painter.fontMetrics().elidedText(row.name, Qt.TextElideMode.ElideRight, left)
        painter.drawText(QRectF(NAME_X, top, left, ROW), MIDDLE, shown)
        used = painter.fontMetrics().horizontalAdvance(shown) + 4
    painter.setFont(theme.font(12))
    painter.setPen(theme.colour("quiet" if at.locked or row.name else "text"))
    shown = metrics.elidedText(row.word, Qt.TextElideMode.ElideRight, room - used)
    painter.drawText(QRectF(NAME_X + used, top, room - used, ROW), MIDDLE, shown)


def _paint_bar(
    painter: QPainter,
    theme: Theme,
    actor: Figure,
    row: ChannelRow,
    at: RowLook,
    value: float | None,
) -> None:
    bar = bar_rect(at.width, at.index, named=bool(row.name))
    below = bool(row.name) and at.width < WIDE
    low, high = row.first.span(actor.rig)

    def x(v: float) -> float:
        share = (v - low) / (high - low) if high > low else 0.5
        return bar.left() + min(max(share, 0.0), 1.0) * bar.width()

    y, rest = bar.center().y(), x(row.first.rest_value(actor.rig))
    tall = 5.0
    if below:
        y, tall = bar.bottom() - 2.5, 2.0
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("line"))
    painter.drawRect(QRectF(bar.left(), y - 0.5, bar.width(), 1))
    limit = row.first.limit(actor.rig)
    if limit is not None:
        for end in limit:
            reached = value is not None and abs(value - end) < row.grain
            painter.setBrush(theme.colour("warning" if reached else "line"))
            painter.drawRect(QRectF(x(end) - 1, y - tall + 1, 2, 2 * tall - 2))
    if value is not None:
        here = x(value)
        painter.setBrush(theme.colour("accent" if at.touched else "quiet"))
        painter.drawRect(QRectF(min(rest, here), y - 1.5, abs(here - rest), 3))
    painter.setBrush(theme.colour("quiet"))
    painter.drawRect(QRectF(rest - 0.5, y - tall, 1, 2 * tall))


def _paint_switch(painter: QPainter, theme: Theme, at: RowLook, value: float | None) -> None:
    box = value_rect(at.width, at.index)
    track = QRectF(box.right() - 26, box.center().y() - 7, 26, 14)
    on = value is not None and value >= 0.5
    token = "line" if at.locked else ("accent" if on else "line")
    painter.setPen(QPen(theme.colour("quiet" if not on else token), 1))
    painter.setBrush(theme.colour(token if on else "field"))
    painter.drawRoundedRect(track, 7, 7)
    middle = 0.5 if value is None else float(on)
    centre = track.left() + 7 + middle * 12
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("on_accent" if on else "quiet"))
    painter.drawEllipse(QRectF(centre - 4, track.center().y() - 4, 8, 8))


def _paint_choice(
    painter: QPainter,
    theme: Theme,
    actor: Figure,
    row: ChannelRow,
    at: RowLook,
    value: float | None,
) -> None:
    bar, box = bar_rect(at.width, at.index), value_rect(at.width, at.index)
    field = QRectF(bar.left() - 20, box.top() + 2, box.right() - bar.left() + 20, ROW - 4)
    painter.setPen(QPen(theme.colour("line"), 1))
    painter.setBrush(theme.colour("field"))
    painter.drawRoundedRect(field, 4, 4)
    options = actor.rig.settings[row.first.axis].options
    text = tr("mixed") if value is None else options[round(value)]
    painter.setFont(theme.font(12))
    painter.setPen(theme.colour("quiet" if at.locked else "text"))
    inner = field.adjusted(6, 0, -18, 0)
    metrics = painter.fontMetrics()
    shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, round(inner.width()))
    painter.drawText(inner, MIDDLE, shown)
    arrow = theme.pixmap("chevron-down", 12, "quiet", painter.device().devicePixelRatioF())
    painter.drawPixmap(round(field.right() - 16), round(field.center().y() - 6), arrow)
