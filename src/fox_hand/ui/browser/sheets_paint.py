"""What stands between and beside the cards: headings, the thumb index, empty states."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPen

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region
from fox_hand.session.libraries.library_reads import STOPPED
from fox_hand.ui.browser.sheet_layout import GAP, HEADING, PAD, SectionBox, SheetLayout
from fox_hand.ui.cards.card_metrics import TAB
from fox_hand.ui.theme.theme import Theme

INDEX_WIDTH = 28
TALLEST, LOWEST = 92, 20  # pixels of a tab of the thumb index
SKELETONS = 12
FOLDED = "…"
MIDDLE = Qt.AlignmentFlag.AlignVCenter


def heading_top(section: SectionBox, scroll: int) -> int:
    """Where a heading is in the viewport; that of the section in view stays at the top."""
    y = section.top - scroll
    return min(0, section.top + section.height - HEADING - scroll) if y < 0 else y


def paint_headings(
    painter: QPainter, theme: Theme, layout: SheetLayout, scroll: int, height: int
) -> None:
    """The headings in view; where several libraries are open, with the library's name."""
    several = len({section.shown.place.number for section in layout.sections}) > 1
    for section in layout.sections:
        y = heading_top(section, scroll)
        if -HEADING < y <= height:
            _paint_heading(painter, theme, layout, section, y, several)


def _paint_heading(
    painter: QPainter, theme: Theme, layout: SheetLayout, section: SectionBox, y: int, several: bool
) -> None:
    right = layout.width - PAD
    painter.fillRect(QRect(0, y, layout.width, HEADING), theme.colour("panel"))
    x = PAD
    colour = section.shown.colour
    if colour:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colour))
        painter.drawRoundedRect(QRectF(x, y + 6, 4, 12), 2, 2)
        x += 10
    said = f"{section.count:,}{', ' * bool(section.shown.whose)}{section.shown.whose}"
    said += tr(", folded") if section.closed else ""
    beside = QFontMetrics(theme.font(11)).horizontalAdvance(said) + (104 if several else 24)
    metrics = QFontMetrics(theme.font(12, 600))
    title = short_path(section.title, metrics, max(right - x - beside, 48))
    x = _word(painter, theme, title, (x, y), 600, "text", right - 40) + 8
    x = _word(painter, theme, said, (x, y), 400, "quiet", right) + 8
    if several:
        place = section.shown.place
        problem = place.problem
        stopped = problem is not None and problem.code == STOPPED
        away = tr(", not all read") if stopped else tr(", away") if problem is not None else ""
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("quiet"))
        room = right - x - 24
        name = painter.fontMetrics().elidedText(
            place.name + away, Qt.TextElideMode.ElideRight, max(room, 0)
        )
        wide = painter.fontMetrics().horizontalAdvance(name)
        painter.drawText(QRectF(right - wide, y, wide + 2, HEADING), MIDDLE, name)
        right -= wide + 8
    painter.setPen(QPen(theme.colour("line"), 1))
    if right > x:
        painter.drawLine(x, y + HEADING // 2, right, y + HEADING // 2)


def short_path(title: str, metrics: QFontMetrics, room: int) -> str:
    """A path of which the middle goes first where there is no room: whose it is and the last part
    stay."""
    parts = title.split(" / ")
    while metrics.horizontalAdvance(" / ".join(parts)) > room and len(parts) > 2:
        middle = [part for part in parts[1:-1] if part != FOLDED][:-1]
        parts = [parts[0], *middle, FOLDED, parts[-1]]
        if not middle:
            break
    return metrics.elidedText(" / ".join(parts), Qt.TextElideMode.ElideRight, room)


def _word(
    painter: QPainter,
    theme: Theme,
    text: str,
    at: tuple[int, int],
    weight: int,
    token: str,
    right: int,
) -> int:
    """Draw a word of a heading; returns where it ends."""
    painter.setFont(theme.font(12 if weight == 600 else 11, weight))
    painter.setPen(theme.colour(token))
    metrics = painter.fontMetrics()
    short = metrics.elidedText(text, Qt.TextElideMode.ElideRight, max(right - at[0], 24))
    width = metrics.horizontalAdvance(short)
    painter.drawText(QRectF(at[0], at[1], width + 2, HEADING), MIDDLE, short)
    return at[0] + width


def index_tabs(layout: SheetLayout, size: QSize) -> list[tuple[int, QRect]]:
    """The tabs of the thumb index. With more sections than there is room, only every so many
    have one."""
    count = len(layout.sections)
    room = size.height() - 16
    if not count or room < LOWEST:
        return []
    every = -(-count * LOWEST // room)
    shown = range(0, count, every)
    height = min(TALLEST, room // len(shown))
    x = size.width() - INDEX_WIDTH
    return [
        (i, QRect(x + 1, 8 + place * height, INDEX_WIDTH - 1, height - 4))
        for place, i in enumerate(shown)
    ]


def tab_in_view(layout: SheetLayout, scroll: int, size: QSize) -> int:
    """Which tab stands for what is in sight, counted from the first."""
    tops = [layout.sections[i].top for i, _ in index_tabs(layout, size)]
    return max((place for place, top in enumerate(tops) if top <= scroll + 4), default=0)


def paint_index(
    painter: QPainter,
    theme: Theme,
    layout: SheetLayout,
    scroll: int,
    size: QSize,
    regions: Mapping[int, Region],
) -> None:
    """Tabs at the edge to jump to a section; ``regions`` by section give their colour."""
    tabs, here = index_tabs(layout, size), tab_in_view(layout, scroll, size)
    for place, (i, rect) in enumerate(tabs):
        section, active = layout.sections[i], place == here
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("high" if active else "raised"))
        painter.drawRoundedRect(QRectF(rect).adjusted(0, 0, 6, 0), 6, 6)
        colour = section.shown.colour
        if not colour and i in regions:
            colour = theme.tokens.region(regions[i])
        if colour:
            edge = QRect(rect.right() - 2, rect.top(), 3, rect.height())
            painter.fillRect(edge, QColor(colour))
        _paint_tab_word(painter, theme, rect, section.title.rpartition(" / ")[2], active)


def _paint_tab_word(painter: QPainter, theme: Theme, rect: QRect, title: str, active: bool) -> None:
    painter.save()
    painter.translate(rect.center().x() + 1, rect.center().y())
    painter.rotate(90)
    painter.setFont(theme.font(11, 600 if active else 400))
    painter.setPen(theme.colour("text" if active else "quiet"))
    text = painter.fontMetrics().elidedText(title, Qt.TextElideMode.ElideRight, rect.height() - 8)
    half = rect.height() / 2
    painter.drawText(QRectF(-half, -12, rect.height(), 24), Qt.AlignmentFlag.AlignCenter, text)
    painter.restore()


def paint_skeletons(painter: QPainter, theme: Theme, layout: SheetLayout) -> None:
    """Cards that stand still while the library is read."""
    size, (dx, dy) = layout.card, layout.pitch
    painter.setPen(Qt.PenStyle.NoPen)
    for i in range(SKELETONS):
        x, y = PAD + i % layout.columns * dx, HEADING + i // layout.columns * dy + 6
        painter.setBrush(theme.colour("raised"))
        painter.drawRoundedRect(QRectF(x, y, size, size + 20), 6, 6)
        painter.setBrush(theme.colour("line2"))
        painter.drawRoundedRect(QRectF(x + 6, y + size + 6, size * 0.6, 8), 2, 2)


def paint_empty(painter: QPainter, theme: Theme, width: int, text: str) -> None:
    """Why there is nothing, and what to do."""
    painter.setFont(theme.font(12))
    painter.setPen(theme.colour("quiet"))
    flags = Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap
    painter.drawText(QRectF(24, 32, width - 48, 160), flags, text)


def paint_empty_cell(
    painter: QPainter, theme: Theme, rect: QRectF, name: str, ratio: float, *, labels: bool
) -> None:
    """A place where a card is missing: dashes, a plus, what it would be called."""
    body = rect.adjusted(0.5, TAB + 0.5, -0.5, -0.5)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(theme.colour("quiet"), 1, Qt.PenStyle.DashLine))
    painter.drawRoundedRect(body, 6, 6)
    picture = QRectF(body.left(), body.top(), body.width(), body.width())
    mark = theme.pixmap("plus", 20, "text", ratio)
    painter.drawPixmap(picture.center() - QPointF(10, 10), mark)
    if labels:
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("quiet"))
        foot = QRectF(
            body.left() + 6, picture.bottom(), body.width() - 12, body.bottom() - picture.bottom()
        )
        words = painter.fontMetrics().elidedText(
            name, Qt.TextElideMode.ElideRight, round(foot.width())
        )
        painter.drawText(foot, MIDDLE, words)


def paint_drop(painter: QPainter, theme: Theme, layout: SheetLayout, at: tuple[int, int]) -> None:
    """Where dropped cards will lie: the section's frame, and with a place of its own a bar.
    Painted in content pixels."""
    section = layout.sections[at[0]]
    frame = QRectF(4, section.top + 2, layout.width - 8, max(section.height - 4, HEADING))
    painter.setPen(QPen(theme.colour("accent"), 2))
    painter.setBrush(theme.colour("accent", 0.08))
    painter.drawRoundedRect(frame, 6, 6)
    if at[1] >= 0:
        x, y, _, height = layout.card_rect(at[0], at[1])
        painter.fillRect(QRectF(x - GAP / 2 - 1, y, 3, height), theme.colour("accent"))
