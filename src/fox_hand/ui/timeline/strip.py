"""The strip: the shot's frames, with the keys of the figure that acts."""

from __future__ import annotations

import time
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QWheelEvent,
)
from PySide6.QtWidgets import QToolTip

from fox_hand.base.language import tr, tr_n
from fox_hand.core.animation.curves import Keys
from fox_hand.session.animating.key_groups import KeyGroup, option_at, title_of
from fox_hand.session.app.needs import Animating
from fox_hand.session.applying.card_origin import is_stale
from fox_hand.ui.cards.card_drag import keys_in
from fox_hand.ui.services.paint_turn import painted_for
from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.timeline.strip_base import HEAD, StripBase
from fox_hand.ui.timeline.strip_input import Press, pressed
from fox_hand.ui.timeline.strip_keys import strip_keys
from fox_hand.ui.timeline.strip_labels import paint_labels, paint_overview
from fox_hand.ui.timeline.strip_paint import PICTURE, RULER, ChipLook, StripPainter
from fox_hand.ui.timeline.strip_parts import heard_strip
from fox_hand.ui.timeline.strip_rows import StripRow
from fox_hand.ui.timeline.strip_scale import Scale
from fox_hand.ui.timeline.strip_stamps import KeyStamps
from fox_hand.ui.widgets.accessible_parts import AccessiblePart
from fox_hand.ui.widgets.buttons import draw_focus
from fox_hand.ui.widgets.deferred_update import BETWEEN, once_after
from fox_hand.ui.widgets.event_filter import EventFilter
from fox_hand.ui.widgets.pinch import follow_pinch

BUDGET = 0.006  # seconds for rows of another figure in one painting
# seconds for which the window was painted before the strip's turn came; for how many it waits
ENOUGH, TURNS = 0.006, 3


@dataclass(frozen=True)
class Drop:
    """Where a card would land.

    Args:
        row: the row below the pointer.
        frame: the nearest frame.
    """

    row: StripRow
    frame: int


class Strip(StripBase):
    """Ruler, overview and rows; what a pull does is in :mod:`fox_hand.ui.timeline.strip_input`."""

    def __init__(self, theme: Theme, workspace: Animating) -> None:
        super().__init__(theme, workspace)
        self._tip_ear = EventFilter(self, self._heard)
        follow_pinch(self, self.zoom_at)
        self._press: Press | None = None
        self._drop: Drop | None = None
        self._stamps = KeyStamps(theme)
        self._more = once_after(self, BETWEEN, self.update)
        self._seen: QPixmap | None = None  # as it was painted last
        self._owed = 0  # for how many turns it has been seen as it was
        self.keys = strip_keys(self)

    def _painter(self, scale: Scale, keys: Keys) -> StripPainter:
        return StripPainter(
            self.theme, scale, keys, self._key_group_look, self.is_picked, self._stamps
        )

    def accessible_parts(self) -> list[AccessiblePart]:
        return list(heard_strip(self))

    # -- pointer and keys -----------------------------------------------------------------

    def zoom_at(self, nearer: float, at: QPointF) -> None:
        """Fewer frames (above 1) or more; the one there stays where it is."""
        self.set_scale(self.scale.zoomed(at.x(), nearer))

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps, sideways = event.angleDelta().y() / 120, event.angleDelta().x() / 120
        keys = event.modifiers()
        if keys & Qt.KeyboardModifier.ControlModifier:
            self.set_scale(self.scale.zoomed(event.position().x(), 1.2**steps))
        elif keys & Qt.KeyboardModifier.ShiftModifier or sideways:
            self.set_scale(self.scale.panned(-60 * (steps or sideways)))
        else:
            rows = self.rows()
            tall = bool(rows) and rows[-1].top + rows[-1].height > self.height() - HEAD
            if tall:
                self.set_scroll(self.offset - round(steps * 36))
            else:
                self.set_scale(self.scale.zoomed(event.position().x(), 1.2**steps))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if self._press is None:
            self._press = pressed(self, event)
            self.pulling = self._press is not None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._press is not None:
            self._press.move(event.position())
            return
        hit = self.hit(event.position())
        shapes = {
            "grip": Qt.CursorShape.SizeHorCursor,
            "stretch": Qt.CursorShape.SizeHorCursor,
            "block": Qt.CursorShape.PointingHandCursor,
            "block grip": Qt.CursorShape.SizeHorCursor,
            "chip": Qt.CursorShape.PointingHandCursor,
            "ruler": Qt.CursorShape.PointingHandCursor,
            "overview": Qt.CursorShape.OpenHandCursor,
        }
        foldable = hit.zone == "label" and hit.row is not None and not hit.row.channel
        shape = shapes.get(hit.zone, Qt.CursorShape.ArrowCursor)
        self.setCursor(Qt.CursorShape.PointingHandCursor if foldable else shape)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._press is not None:
            press, self._press = self._press, None
            self.pulling = False
            press.finish(event.position())
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        hit = self.hit(event.position())
        if hit.zone in ("chip", "grip") and hit.row is not None:
            self.workspace.go(hit.row.key_groups[hit.number].frame)
        elif hit.zone == "ruler":
            timing, frame = self.workspace.timing, self.whole_frame(event.position().x())
            self.workspace.shot_settings.set_marks(timing.marks ^ {frame})
        elif hit.zone == "overview":
            self.show_range()
        elif hit.zone == "block" and hit.row is not None:
            self.workspace.go(round(hit.row.instances[hit.number].start))

    def cancel(self) -> bool:
        """Esc: end a pull as if it had not been, else pick nothing; False if nothing was done."""
        if self._press is not None:
            press, self._press = self._press, None
            self.pulling = False
            press.cancel()
            self.update()
            return True
        return super().cancel()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        hit = self.hit(QPointF(event.pos()))
        if hit.zone in ("block", "block grip"):
            self.workspace.placements.take_up(hit.number)
        if hit.zone in ("chip", "grip") and hit.row is not None:
            key_group = hit.row.key_groups[hit.number]
            if not self.is_picked(key_group):
                self.pick(key_group.picked())
        self.menu_asked.emit(event.globalPos())

    def _heard(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), plain_tip(self.tip_at(QPointF(event.pos()))), self)
            return True
        return False

    def tip_at(self, at: QPointF) -> str:
        """What is told of what lies below the pointer."""
        hit, actor = self.hit(at), self.workspace.actor
        if hit.zone in ("chip", "grip") and hit.row is not None and actor is not None:
            key_group = hit.row.key_groups[hit.number]
            name = title_of(actor.keys, key_group) or tr("Key by hand")
            until = tr(" to {end:g}", end=key_group.end) if key_group.held else ""
            count = tr_n("1 channel", "{number} channels", len(key_group.channel_ids))
            return tr(
                "{name}, frame {frame:g}{until}, {count}",
                name=name,
                frame=key_group.frame,
                until=until,
                count=count,
            )
        if hit.zone in ("block", "block grip") and hit.row is not None:
            instance = hit.row.instances[hit.number]
            return tr(
                "{name}, frames {start:g} to {end:g}",
                name=instance.origin.name,
                start=instance.start,
                end=instance.end,
            )
        words = {
            "ruler": tr("Pull to look at frames; double click marks one"),
            "overview": tr("The whole shot: pull the window along, double click shows all"),
        }
        return words.get(hit.zone, "")

    # -- cards on the pointer -------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if keys_in(event.mimeData()) and self.workspace.actor is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        at = event.position()
        row = self.row_at(at.y()) if at.x() >= self.label_width else None
        self._drop = Drop(row, self.whole_frame(at.x())) if row is not None else None
        event.setAccepted(self._drop is not None)
        self.update()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        del event
        self._drop = None
        self.update()

    def dropEvent(self, event: QDropEvent) -> None:
        keys, at = keys_in(event.mimeData()), event.position()
        row = self.row_at(at.y()) if at.x() >= self.label_width else None
        self._drop = None
        if keys and row is not None:
            event.acceptProposedAction()
            self.card_dropped.emit(keys[0], self.whole_frame(at.x()), row.regions)
        self.update()

    # -- painting -------------------------------------------------------------------------

    def _key_group_look(self, key_group: KeyGroup) -> ChipLook:
        actor = self.workspace.actor
        assert actor is not None
        origin, entry = actor.keys.origins.get(key_group.origin), self.entry_of(key_group)
        image = None
        if entry is not None:
            image = self._pictures.get(entry, round(PICTURE * self.devicePixelRatioF()))
        newer = entry is not None and origin is not None and is_stale(origin, entry)
        region = entry.region if entry is not None else None
        title = title_of(actor.keys, key_group)
        option = option_at(actor.rig, actor.keys, key_group) if actor.rig.flat else ""
        return ChipLook(title, image, region, newer, option)

    def paintEvent(self, event: QPaintEvent) -> None:
        """It takes as long as half the window. Where all of that is painted it is seen as it was
        for a turn more, or a few if the window is painted again, so that somebody is heard."""
        del event
        painter, ratio = QPainter(self), self.devicePixelRatioF()
        if self._seen is not None and self._owed < TURNS and painted_for(self) > ENOUGH:
            self._owed += 1
            painter.fillRect(self.rect(), self.theme.colour("panel"))
            painter.drawPixmap(0, 0, self._seen)
            self._more.start()
            return
        self._owed = 0
        self._seen = QPixmap(self.size() * ratio)
        self._seen.setDevicePixelRatio(ratio)
        self._seen.fill(self.theme.colour("panel"))  # also a pixel of which only a part is ours
        on = QPainter(self._seen)
        self._paint(on)
        on.end()
        painter.drawPixmap(0, 0, self._seen)

    def _paint(self, painter: QPainter) -> None:
        theme, width = self.theme, self.width()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.colour("panel"))
        rows, actor = self.rows(), self.workspace.actor
        scale = self.scale
        painter.save()
        painter.setClipRect(QRectF(self.label_width, HEAD, width, self.height() - HEAD))
        painter.translate(0, HEAD - self.offset)
        if actor is not None:
            strip = self._painter(scale, actor.keys)
            self._paint_rows(painter, strip, rows)
            self._paint_coming(painter, strip, rows)
        painter.restore()
        if actor is not None and not actor.keys and not actor.take.instances:
            self._say_empty(painter)
        self._paint_head(painter)
        paint_labels(painter, self, rows)
        self._paint_marquee(painter)
        self._paint_thumb(painter, rows)

    def _paint_rows(self, painter: QPainter, strip: StripPainter, rows: list[StripRow]) -> None:
        """Rows of another figure are worked out as far as there is time; the others come with the
        next painting, and the window answers between the two."""
        low, until = self.offset + self.height() - HEAD, time.perf_counter() + BUDGET
        late = False  # once they have been seen, a row that changed is never left out
        for row in rows:
            if row.top + row.height < self.offset or row.top > low:
                continue
            if not self._fresh or row.content.ready or time.perf_counter() < until:
                strip.row(painter, row, self.width())
                strip.instances(painter, row, self.chosen_instance)
            else:
                late = True
        self._fresh = late
        if late:
            self._more.start()

    def _paint_coming(self, painter: QPainter, strip: StripPainter, rows: list[StripRow]) -> None:
        """The key that keeping would set in the host, in the row that it touches most."""
        key = self.workspace.linking.coming
        if key is None:
            return
        touched = {r.top: sum(key.regions.get(one, 0) for one in r.regions) for r in rows}
        row = max(rows, key=lambda r: (not r.channel, touched[r.top]))
        if not touched[row.top]:
            return
        image = self._pictures.get(key.entry, round(PICTURE * self.devicePixelRatioF()))
        x = self.scale.x_of(self.workspace.timing.frame)
        strip.coming(painter, row, x, ChipLook(key.title, image, None, outdated=False))

    def _paint_thumb(self, painter: QPainter, rows: list[StripRow]) -> None:
        """Where the rows are scrolled to, if not all have room."""
        whole, seen = rows[-1].top + rows[-1].height, self.height() - HEAD
        if whole > seen:
            tall = max(seen * seen / whole, 16.0)
            y = HEAD + self.offset * (seen - tall) / (whole - seen)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self.theme.colour("high"))
            painter.drawRoundedRect(QRectF(self.width() - 6, y + 2, 4, tall - 4), 2, 2)

    def _paint_head(self, painter: QPainter) -> None:
        theme, width, left = self.theme, self.width(), self.label_width
        actor = self.workspace.actor
        painter.save()
        painter.setClipRect(QRectF(left, 0, width - left, self.height()))
        painter.fillRect(QRectF(left, 0, width - left, HEAD), theme.colour("panel"))
        keys = actor.keys if actor is not None else None
        shown = self.workspace.timing
        if keys is not None:
            strip = self._painter(self.scale, keys)
            strip.ruler(painter, shown, width)
            paint_overview(painter, self, keys)
            span = self.picked_span
            if span is not None:
                start, end = (self.scale.x_of(f) for f in span)
                painter.fillRect(QRectF(start, RULER - 4, end - start, 2), theme.colour("text"))
                for x in (start, end):
                    painter.fillRect(QRectF(x - 2, RULER - 10, 4, 10), theme.colour("text"))
            strip.now(painter, shown.frame, self.height())
        painter.restore()
        painter.fillRect(0, 0, width, 1, theme.colour("line"))
        painter.fillRect(QRectF(left, RULER, width - left, 1), theme.colour("line2"))
        painter.fillRect(QRectF(0, HEAD - 1, width, 1), theme.colour("line2"))
        painter.fillRect(left, 0, 1, self.height(), theme.colour("line"))

    def _say_empty(self, painter: QPainter) -> None:
        theme = self.theme
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour("quiet"))
        text = tr(
            "No keys yet. K keys the pose at this frame; a card dropped on a row keys itself."
        )
        rect = QRectF(self.label_width + 40, HEAD, self.width() - self.label_width - 52, 36)
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, text)

    def _paint_marquee(self, painter: QPainter) -> None:
        theme = self.theme
        if self.marquee is not None:
            painter.setPen(QPen(theme.colour("text"), 1, Qt.PenStyle.DashLine))
            painter.setBrush(theme.colour("text", 0.08))
            painter.drawRect(self.marquee)
        if self._drop is not None:
            x = self.scale.x_of(self._drop.frame)
            rect = QRectF(x, self.y_of(self._drop.row) + 4, 64, PICTURE)
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.setBrush(theme.colour("accent", 0.15))
            painter.drawRoundedRect(rect, 4, 4)
            painter.setFont(theme.font(11, 600))
            painter.setPen(theme.colour("text"))
            painter.drawText(
                rect, Qt.AlignmentFlag.AlignCenter, tr("at {frame}", frame=self._drop.frame)
            )
        if self.hasFocus():
            around = QRectF(self.label_width + 2, 2, self.width() - self.label_width - 4, RULER - 4)
            draw_focus(painter, theme, around, 4)
