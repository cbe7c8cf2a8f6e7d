"""How the strip looks: ruler, rows, key groups, keys and what leads from one to the next."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import islice

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF

from fox_hand.base.language import number_text
from fox_hand.core.animation.clip_instances import FINE, ClipInstance
from fox_hand.core.animation.curves import BY_HAND, ChannelCurve, Keys
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Region
from fox_hand.session.animating.clip_placement import feet_of
from fox_hand.session.animating.key_groups import KeyGroup
from fox_hand.session.figures.playhead import Playhead
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.timeline.strip_rows import LAYER, LEVEL, TALL, StripRow
from fox_hand.ui.timeline.strip_scale import Scale
from fox_hand.ui.timeline.strip_stamps import KeyLook, KeyStamps
from fox_hand.ui.widgets.fields.typed_numbers import plain

RULER, TOOLS = 40, 28
PICTURE = 28
APART = 3.0  # pixels between two keys of a channel that can be told apart
STRONG = 0.02  # metres: feet moved so far are shown at full strength
GRIP = 6  # pixels at a key group's right edge that hold it


@dataclass(frozen=True)
class ChipLook:
    """What a key group shows beside its keys; ``option`` is the drawing that it is about."""

    title: str
    image: QImage | None
    region: Region | None
    outdated: bool
    option: str = ""


def key_group_rect(scale: Scale, row: StripRow, number: int) -> QRectF:
    """Where a key group of a part's row is; it never covers the next one."""
    key_group = row.key_groups[number]
    x = scale.x_of(key_group.frame)
    right = max(scale.x_of(key_group.end), x + PICTURE)
    following = _following(row, number)
    if following is not None:
        right = min(right, max(scale.x_of(following) - 2, x + 4))
    return QRectF(x, row.top + 4, right - x, PICTURE)


def _following(row: StripRow, number: int) -> float | None:
    """The frame of the next key group, behind what this one holds."""
    end = row.key_groups[number].end + 1e-6
    return next((c.frame for c in islice(row.key_groups, number + 1, None) if c.frame > end), None)


def instance_rect(scale: Scale, row: StripRow, number: int) -> QRectF:
    """Where a block of the row of clips is."""
    instance = row.instances[number]
    x = scale.x_of(instance.start)
    wide = max(instance.length * scale.pitch, 10.0)
    if not any(row.levels):
        return QRectF(x, row.top + 4, wide, PICTURE)
    return QRectF(x, row.top + row.levels[number] * LEVEL + 3, wide, LEVEL - 2)


def drawn_key_groups(row: StripRow, scale: Scale) -> list[int]:
    """Key groups in sight; in a part's row the second keys of a hold belong to the first."""
    low, high = scale.first - 40 / scale.pitch, scale.last
    return [
        i
        for i, c in enumerate(row.key_groups)
        if c.end >= low and c.frame <= high and (row.channel or not c.tail)
    ]


class StripPainter:
    """Paints into the timeline, whose rows begin at y = 0.

    Args:
        theme: colours and type.
        scale: which frames are where.
        keys: the figure's keys.
        looks: what a key group shows.
        picked: whether a key group is selected.
    """

    def __init__(
        self,
        theme: Theme,
        scale: Scale,
        keys: Keys,
        looks: Callable[[KeyGroup], ChipLook],
        picked: Callable[[KeyGroup], bool],
        stamps: KeyStamps,
    ) -> None:
        self._theme, self._scale, self._keys = theme, scale, keys
        self._looks, self._picked, self._stamps = looks, picked, stamps

    # -- rows -----------------------------------------------------------------------------

    def row(self, painter: QPainter, row: StripRow, width: float) -> None:
        """One row with everything in it."""
        left = self._scale.left
        ground = "panel" if row.channel else "raised" if row.open else "panel"
        painter.fillRect(
            QRectF(left, row.top, width - left, row.height), self._theme.colour(ground)
        )
        painter.fillRect(
            QRectF(left, row.top + row.height - 1, width - left, 1), self._theme.colour("line2")
        )
        if row.channel:
            self._curve(painter, row)
            return
        if row.layers:
            self._layers(painter, row)
            return
        numbers = drawn_key_groups(row, self._scale)
        if row.drawings:
            for number in numbers:
                self._drawing(painter, row, number)
            return
        for number in numbers:
            self._way_on(painter, row, number)
        for number in numbers:
            if row.key_groups[number].origin == BY_HAND:
                self._diamonds(painter, row, number)
            else:
                self._chip(painter, row, number)

    def _layers(self, painter: QPainter, row: StripRow) -> None:
        """A host's layers, the highest on top; the one that keys go on stands out."""
        theme, scale = self._theme, self._scale
        painter.setFont(theme.font(11, 500))
        for number, layer in enumerate(reversed(row.layers)):
            x = scale.x_of(layer.first)
            wide = max(scale.x_of(layer.last) - x, 40.0)
            rect = QRectF(x, row.top + 3 + number * LAYER, wide, LAYER - 3)
            edge = theme.colour("text" if layer.chosen else "line")
            painter.setPen(QPen(edge, 1))
            painter.setBrush(theme.colour("raised" if layer.chosen else "panel"))
            painter.drawRoundedRect(rect, 3, 3)
            painter.setPen(theme.colour("text" if layer.chosen else "quiet"))
            painter.drawText(rect.adjusted(8, -1, -4, 0), Qt.AlignmentFlag.AlignVCenter, layer.name)

    def coming(self, painter: QPainter, row: StripRow, x: float, shown: ChipLook) -> None:
        """A key that is set when what is put on is kept."""
        theme = self._theme
        painter.setFont(theme.font(11, 600))
        wide = PICTURE + 12 + painter.fontMetrics().horizontalAdvance(shown.title)
        rect = QRectF(x, row.top + 4, wide, PICTURE)
        path = QPainterPath()
        path.addRoundedRect(rect, 4, 4)
        painter.fillPath(path, theme.colour("high"))
        if shown.image is not None and not shown.image.isNull():
            painter.save()
            painter.setClipPath(path)
            painter.drawImage(QRectF(x, rect.top(), PICTURE, PICTURE), shown.image)
            painter.restore()
        painter.setPen(theme.colour("text"))
        place = rect.adjusted(PICTURE + 4, 0, 0, 0)
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, shown.title)
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(rect, 4, 4)

    def instances(self, painter: QPainter, row: StripRow, chosen: int | None) -> None:
        """The clips that are laid in: how often, how strongly."""
        theme, scale = self._theme, self._scale
        for number, instance in enumerate(row.instances):
            rect = instance_rect(scale, row, number)
            if rect.right() < scale.left or rect.left() > scale.right:
                continue
            painter.setPen(QPen(theme.colour("accent" if number == chosen else "text"), 1.5))
            painter.setBrush(theme.colour("raised"))
            painter.drawRoundedRect(rect, 4, 4)
            painter.save()
            painter.setClipRect(rect.adjusted(1, 1, -1, -1))
            painter.setPen(QPen(theme.colour("quiet"), 1, Qt.PenStyle.DotLine))
            for begin in instance.starts.tolist()[1:]:
                x = rect.left() + begin * scale.pitch
                painter.drawLine(QPointF(x, rect.top() + 2), QPointF(x, rect.bottom() - 2))
            self._envelope(painter, rect, instance)
            self._ground(painter, rect, instance)
            painter.setFont(theme.font(11, 500))
            painter.setPen(theme.colour("text"))
            times = (
                " ×" + number_text(instance.repeats, "g")
                if abs(instance.repeats - 1) > 1e-6
                else ""
            )
            place = rect.adjusted(6, 0, -4, -12)
            called = painter.fontMetrics().elidedText(
                f"{instance.origin.name}{times}", Qt.TextElideMode.ElideRight, round(place.width())
            )
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, called)
            painter.restore()
            if rect.width() > 20:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.colour("text"))
                grip = QRectF(rect.right() - 5, rect.center().y() - 6, 2, 12)
                painter.drawRoundedRect(grip, 1, 1)

    def _envelope(self, painter: QPainter, rect: QRectF, instance: ClipInstance) -> None:
        """What moves along the way, and how strongly it counts."""
        steps = min(max(round(rect.width() / 2), 2), FINE)
        drawn = instance.envelope[np.linspace(0, FINE, steps + 1).astype(np.intp)]
        across = np.linspace(rect.left(), rect.right(), steps + 1)
        path = QPolygonF(
            [
                QPointF(x, rect.bottom() - 6 - share * 9)
                for x, share in zip(across.tolist(), drawn.tolist(), strict=True)
            ]
        )
        painter.setPen(QPen(self._theme.colour("quiet"), 1.25))
        painter.drawPolyline(path)

    def _ground(self, painter: QPainter, rect: QRectF, instance: ClipInstance) -> None:
        """How far feet were moved that hold the ground, frame by frame."""
        feet = feet_of(instance.clip)
        if feet is None or feet.held is not instance.clip:
            return
        wide = instance.clip.length / instance.speed * self._scale.pitch
        for begin in instance.starts.tolist():
            left = rect.left() + begin * self._scale.pitch
            line = QRectF(left, rect.bottom() - 4, wide, 3)
            ground = feet.ground[::-1] if instance.backwards else feet.ground
            heat_line(painter, line, ground, self._theme.colour("good"))

    def _way_on(self, painter: QPainter, row: StripRow, number: int) -> None:
        """The line to the next key group: flat for a hold, straight, or smooth."""
        scale, key_group = self._scale, row.key_groups[number]
        following = _following(row, number)
        if following is None:
            return
        start, end = scale.x_of(key_group.end), scale.x_of(following)
        start = (
            max(start, key_group_rect(scale, row, number).right()) if key_group.origin else start
        )
        if end - start < 4:
            return
        painter.setPen(QPen(self._theme.colour("quiet"), 1.25))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(
            _way([(start, row.top + 23.0), (end, row.top + 13.0)], [key_group.ease], scale)
        )

    def _drawing(self, painter: QPainter, row: StripRow, number: int) -> None:
        """A drawing holds until another one is seen, and nothing lies between the two."""
        theme, scale, key_group = self._theme, self._scale, row.key_groups[number]
        following = _following(row, number)
        left = scale.x_of(key_group.frame)
        right = scale.right if following is None else scale.x_of(following) - 2
        band = QRectF(left, row.top + 4, max(right - left, 4), PICTURE)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("raised"))
        painter.drawRoundedRect(band, 4, 4)
        begin = left
        if key_group.origin == BY_HAND:
            self._stamps.draw(painter, left, band.center().y(), self._key_look(key_group))
        else:
            rect = key_group_rect(scale, row, number)
            self._chip(painter, row, number, QRectF(left, rect.top(), PICTURE + 4, PICTURE))
            begin += PICTURE
        place = band.adjusted(begin - left + 8, 0, -4, 0)
        if place.width() > 14:
            painter.setFont(theme.font(11, 500))
            painter.setPen(theme.colour("text"))
            text = painter.fontMetrics().elidedText(
                self._looks(key_group).option, Qt.TextElideMode.ElideRight, round(place.width())
            )
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, text)

    def _key_look(self, key_group: KeyGroup) -> KeyLook:
        return KeyLook(5, "text" if self._picked(key_group) else "")

    def _chip(
        self, painter: QPainter, row: StripRow, number: int, rect: QRectF | None = None
    ) -> None:
        theme, key_group = self._theme, row.key_groups[number]
        rect = rect or key_group_rect(self._scale, row, number)
        shown = self._looks(key_group)
        picked = self._picked(key_group)
        path = QPainterPath()
        path.addRoundedRect(rect, 4, 4)
        painter.save()
        painter.setClipPath(path)
        painter.fillRect(rect, theme.colour("high"))
        picture = QRectF(rect.left() + 2, rect.top(), PICTURE, PICTURE)
        if shown.image is not None and not shown.image.isNull():
            painter.drawImage(picture, shown.image)
        edge = QColor(theme.tokens.region(shown.region)) if shown.region else theme.colour("quiet")
        painter.fillRect(QRectF(rect.left(), rect.top(), 2, rect.height()), edge)
        if shown.outdated:
            self._newer(painter, picture)
        room = rect.width() - PICTURE - 16
        if room > 14:
            painter.setFont(theme.font(11, 500))
            painter.setPen(theme.colour("text"))
            text = painter.fontMetrics().elidedText(
                shown.title, Qt.TextElideMode.ElideRight, round(room)
            )
            place = QRectF(picture.right() + 6, rect.top(), room, rect.height())
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, text)
        painter.restore()
        if rect.width() > 14 and key_group.held:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("text"))
            painter.drawRoundedRect(QRectF(rect.right() - 5, rect.top() + 8, 2, 12), 1, 1)
        if picked:
            painter.setPen(QPen(theme.colour("text"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(rect.adjusted(-0.5, -0.5, 0.5, 0.5), 4, 4)

    def _newer(self, painter: QPainter, picture: QRectF) -> None:
        """The card has changed since."""
        theme = self._theme
        plate = QRectF(picture.right() - 12, picture.top(), 12, 12)
        painter.fillRect(plate, theme.colour("warning"))
        painter.drawPixmap(
            plate.toRect().adjusted(1, 1, -1, -1), theme.pixmap("refresh-cw", 10, "ink")
        )

    def _diamonds(self, painter: QPainter, row: StripRow, number: int) -> None:
        key_group = row.key_groups[number]
        middle = row.top + row.height / 2
        colour = self._theme.colour("text")
        if key_group.held:
            start, end = self._scale.x_of(key_group.frame), self._scale.x_of(key_group.end)
            painter.fillRect(QRectF(start, middle - 2, end - start, 4), self._theme.colour("high"))
            painter.fillRect(QRectF(start, middle - 0.5, end - start, 1), colour)
            self._stamps.draw(painter, end, middle, KeyLook(5))
        at = self._scale.x_of(key_group.frame)
        self._stamps.draw(painter, at, middle, self._key_look(key_group))

    def _curve(self, painter: QPainter, row: StripRow) -> None:
        """A channel: its values as a line, a square for a key from a card, else a diamond."""
        theme, scale = self._theme, self._scale
        line = self._keys.lines.get(row.channel_ids[0])
        if line is None:
            return
        low, room = row.top + row.height - 6.0, row.height - 12.0
        points = [
            (scale.x_of(f), low - v * room)
            for f, v in zip(line.frames.tolist(), row.content.curve, strict=True)
        ]
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("quiet"), 1.25))
        if row.content.steep:
            passed = [(scale.x_of(f), low - v * room) for f, v in row.content.way]
            painter.drawPath(_way(passed, [Ease.LINEAR] * len(passed), scale))
        else:
            painter.drawPath(_way(points, line.eases.tolist(), scale))
        self._curve_keys(painter, row, line, points)

    def _curve_keys(
        self,
        painter: QPainter,
        row: StripRow,
        line: ChannelCurve,
        points: Sequence[tuple[float, float]],
    ) -> None:
        scale, key_groups = self._scale, {c.frame: c for c in row.key_groups}
        origins, frames, edge = line.origins.tolist(), line.frames.tolist(), _edge(row)
        last = -APART
        for i, (x, y) in enumerate(points):
            if not scale.left - 6 <= x <= scale.right + 6 or x - last < APART:
                continue  # out of sight, or covered by the one before
            last = x
            key_group = key_groups.get(frames[i])
            ring = "accent_text" if key_group is not None and self._picked(key_group) else ""
            self._stamps.draw(painter, x, y, KeyLook(4, ring, edge if origins[i] else ""))

    # -- ruler ----------------------------------------------------------------------------

    def ruler(self, painter: QPainter, timing: Playhead, width: float) -> None:
        """Frame numbers, the range, the marks."""
        theme, scale = self._theme, self._scale
        start, end = scale.x_of(timing.first), scale.x_of(timing.last)
        shade = theme.colour("window")
        if start > scale.left:
            painter.fillRect(QRectF(scale.left, 0, min(start, width) - scale.left, RULER), shade)
        if end < width:
            painter.fillRect(QRectF(max(end, scale.left), 0, width - end, RULER), shade)
        numbers, small = scale.ticks()
        painter.setFont(theme.font(12))
        frame = int(scale.first // small) * small + timing.first % small
        while frame <= scale.last:
            x = scale.x_of(frame)
            long = (frame - timing.first) % numbers == 0
            tall = 8 if long else 4
            if x >= scale.left:
                painter.fillRect(QRectF(x - 0.5, RULER - tall, 1, tall), theme.colour("line"))
            if long and frame >= 0:
                painter.setPen(theme.colour("quiet"))
                rect = QRectF(x - 24, 10, 48, 18)
                painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, str(frame))
            frame += small
        for mark in sorted(timing.marks):
            flag(painter, scale.x_of(mark), RULER - 12, theme.colour("text"))

    def now(self, painter: QPainter, frame: float, height: float) -> None:
        """The line where we are, with the frame's number."""
        theme, x = self._theme, self._scale.x_of(frame)
        if not self._scale.left - 1 <= x <= self._scale.right + 1:
            return
        text = plain(frame)
        half = max(17.0, 5.0 + 4.0 * len(text))
        plate, rect = QPainterPath(), QRectF(x - half, 6, 2 * half, 22)
        plate.addRoundedRect(rect, 3, 3)
        plate.addPolygon(QPolygonF([QPointF(x - 4, 28), QPointF(x + 4, 28), QPointF(x, 32)]))
        painter.fillPath(plate, theme.colour("text"))
        painter.fillRect(QRectF(x - 0.75, 30, 1.5, height - 30), theme.colour("text"))
        painter.setFont(theme.font(12, 600))
        painter.setPen(theme.colour("window"))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)


def heat_line(painter: QPainter, rect: QRectF, moved: Array, colour: QColor) -> None:
    """A line as strong as something was moved, metres at even distances ``(F,)``."""
    steps = min(max(round(rect.width() / 2), 1), len(moved))
    for number, part in enumerate(np.array_split(moved, steps)):
        shade = QColor(colour)
        shade.setAlphaF(min(float(part.max()) / STRONG, 1.0))
        left, right = (round(rect.left() + rect.width() * n / steps) for n in (number, number + 1))
        painter.fillRect(QRect(left, round(rect.top()), right - left, round(rect.height())), shade)


def _edge(row: StripRow) -> str:
    """Colour of the region of a channel's row."""
    order = [r for r in Region if r in row.regions]
    return order[0].value


def _way(points: Sequence[tuple[float, float]], eases: Sequence[int], scale: Scale) -> QPainterPath:
    """How a channel goes from key to key, as far as it is in sight."""
    path, at = QPainterPath(), None
    for (x0, y0), (x1, y1), ease in zip(points, points[1:], eases, strict=False):
        if x1 < scale.left or x0 > scale.right:
            continue
        if at != (x0, y0):
            path.moveTo(x0, y0)
        if ease == Ease.STEP:
            path.lineTo(x1, y0)
            path.lineTo(x1, y1)
        elif ease == Ease.LINEAR:
            path.lineTo(x1, y1)
        else:
            third = (x1 - x0) * 0.45
            path.cubicTo(x0 + third, y0, x1 - third, y1, x1, y1)
        at = (x1, y1)
    return path


def flag(painter: QPainter, x: float, y: float, colour: QColor) -> None:
    """A mark: a frame worth capturing."""
    path = QPainterPath(QPointF(x, y))
    path.lineTo(x + 8, y)
    path.lineTo(x + 6, y + 3)
    path.lineTo(x + 8, y + 6)
    path.lineTo(x, y + 6)
    painter.fillPath(path, colour)
    painter.fillRect(QRectF(x - 0.5, y, 1.5, 11), colour)


HEIGHT = RULER + TOOLS + 4 * TALL
SMALLEST = RULER + TOOLS + TALL
