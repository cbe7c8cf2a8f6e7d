"""The strip's content: which frames and rows are where, which keys are picked."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from fox_hand.base.language import tr
from fox_hand.core.animation.curves import ChannelId
from fox_hand.core.maths.rotations import Array
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.animating.key_groups import KeyGroup
from fox_hand.session.app.needs import Animating
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.timeline.strip_paint import (
    GRIP,
    HEIGHT,
    PICTURE,
    RULER,
    SMALLEST,
    TOOLS,
    drawn_key_groups,
    instance_rect,
    key_group_rect,
)
from fox_hand.ui.timeline.strip_rows import LEVEL, LayerSpan, RowBook, StripRow
from fox_hand.ui.timeline.strip_scale import Scale
from fox_hand.ui.widgets.accessible_parts import PartsOwner, tell_value
from fox_hand.ui.widgets.deferred_update import DeferredUpdate

HEAD = RULER + TOOLS
Picks = dict[ChannelId, frozenset[float]]


@dataclass(frozen=True)
class Hit:
    """What lies at a place: ``label``, ``ruler``, ``stretch``, ``overview``, ``chip``, ``grip``
    (the right edge of a key group), ``block`` (a clip), ``block grip`` or ``empty``; the row, and
    which of its key groups or clips."""

    zone: str
    row: StripRow | None = None
    number: int = 0


class StripBase(QWidget, PartsOwner):
    """What the strip shows and what is picked; painting and the pointer are its children's."""

    picked_changed = Signal()
    card_dropped = Signal(object, int, object)  # card's key, frame, regions
    menu_asked = Signal(object)  # QPoint on the screen
    play_asked = Signal()

    def __init__(self, theme: Theme, workspace: Animating) -> None:
        super().__init__()
        self.theme, self.workspace = theme, workspace
        self.label_width = 232
        self.scale = Scale(248.0, 900.0, 0.0, 9.4)
        self.book = RowBook()
        self.picks: Picks = {}
        self.marquee: QRectF | None = None
        self.offset = 0  # pixels that the rows are scrolled by
        self.pulling = False  # whether the pointer is down on something
        self._entries: dict[str, Entry | None] = {}
        self._fitted = False
        self._actor: Figure | None = None
        self._fresh = True  # whether rows of this figure have not all been seen yet
        cache = PictureCache(workspace.places.cache / "pictures")
        self._pictures = CardPictures(workspace.open_libraries.jobs, cache, self._repaint)
        self._soon = DeferredUpdate(self)
        self.setMinimumHeight(SMALLEST)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setAccessibleName(tr("Strip"))
        workspace.actor_changed.connect(self._on_actor)
        workspace.timing.moved.connect(self._on_moved)
        workspace.timing.changed.connect(self._repaint)
        workspace.open_libraries.changed.connect(self._on_libraries)
        workspace.placements.changed.connect(self._on_laying)
        workspace.linking.coming_changed.connect(self._soon.paint)
        workspace.linking.changed.connect(self._soon.paint)

    def _repaint(self) -> None:
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, HEIGHT)

    def set_label_width(self, width: int) -> None:
        """Frames line up under the stage."""
        if width != self.label_width:
            self.label_width = width
            self._lay_out()

    def _lay_out(self) -> None:
        self.scale = self.scale.placed(self.label_width + 16.0, max(self.width(), 200))
        if not self._fitted and self.width() > 300:
            self._fitted = True
            self.show_range()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    # -- following ------------------------------------------------------------------------

    def _on_actor(self) -> None:
        actor = self.workspace.actor
        if actor is not self._actor:
            if self._actor is not None:
                self._actor.keyed.disconnect(self._on_keys)
                self._actor.posed.disconnect(self._soon.paint)
            self._actor, self._fresh = actor, True
            if actor is not None:
                actor.keyed.connect(self._on_keys)
                actor.posed.connect(self._soon.paint)
            self.pick({})
        self.update()

    def _on_keys(self) -> None:
        """Keys came, went or moved: those that are gone are picked no more."""
        actor = self.workspace.actor
        if actor is not None and not self.pulling:
            found = {}
            for channel_id, frames in self.picks.items():
                line = actor.keys.lines.get(channel_id)
                if line is not None:
                    at = np.array(sorted(frames))
                    kept = at[line.has(at)].tolist()
                    if kept:
                        found[channel_id] = frozenset(kept)
            self.pick(found)
        self.update()

    def _on_libraries(self) -> None:
        self._entries.clear()
        self.update()

    def _on_laying(self) -> None:
        """A block under the hand comes into sight."""
        number = self.chosen_instance
        if number is not None:
            row = self.rows()[-1]
            low = row.top + (row.levels[number] + 1) * LEVEL + 12 - (self.height() - HEAD)
            high = row.top + row.levels[number] * LEVEL
            self.set_scroll(min(max(self.offset, low), high))
        self.update()

    def entry_of(self, key_group: KeyGroup) -> Entry | None:
        """The card that a key group came from, where it is on the shelf."""
        actor = self.workspace.actor
        origin = actor.keys.origins.get(key_group.origin) if actor is not None else None
        if origin is None or not origin.card:
            return None
        if origin.card not in self._entries:
            self._entries[origin.card] = self.workspace.open_libraries.by_identity(origin.card)
        return self._entries[origin.card]

    def _on_moved(self) -> None:
        self.setAccessibleDescription(tr("Frame {frame:g}", frame=self.workspace.timing.frame))
        tell_value(self, "frame")
        self.update()

    # -- what is where --------------------------------------------------------------------

    def rows(self) -> list[StripRow]:
        """All rows, from the top."""
        return self.book.rows(self.workspace.actor, self._layers())

    def y_of(self, row: StripRow) -> float:
        """Where a row begins in the widget."""
        return HEAD + row.top - self.offset

    def _layers(self) -> tuple[LayerSpan, ...]:
        """Those of the host that the one who acts stands in."""
        linked, timing = self.workspace.linking.acting, self.workspace.timing
        if linked is None or len(linked.layers) < 2:
            return ()
        usual = next((layer.name for layer in linked.layers if layer.active), "")
        chosen, whole = linked.layer or usual, (timing.first, timing.first)
        return tuple(
            LayerSpan(layer.name, *linked.spans.get(layer.name, whole), layer.name == chosen)
            for layer in linked.layers
        )

    def row_at(self, y: float) -> StripRow | None:
        """The row at a height of the widget."""
        inside = y - HEAD + self.offset
        if y < HEAD:
            return None
        return next((r for r in self.rows() if r.top <= inside < r.top + r.height), None)

    def rect_of(self, row: StripRow, number: int) -> QRectF:
        """Where a key group or a key is in the widget."""
        key_group, scale = row.key_groups[number], self.scale
        if row.channel or not key_group.origin:
            y = self.y_of(row) + row.height / 2
            if row.channel:
                y = self.y_of(row) + row.height - 6 - self._height_at(row, key_group.frame)
            x, end = scale.x_of(key_group.frame), scale.x_of(key_group.end)
            wide = 0.0 if row.channel else end - x
            return QRectF(x - 6, y - 7, 12 + wide, 14)
        return key_group_rect(scale, row, number).translated(0, HEAD - self.offset)

    def _height_at(self, row: StripRow, frame: float) -> float:
        line = (
            self.workspace.actor.keys.lines.get(row.channel_ids[0])
            if self.workspace.actor
            else None
        )
        place = line.at(frame) if line is not None else None
        share = row.content.curve[place] if place is not None else 0.5
        return share * (row.height - 12.0)

    def hit(self, at: QPointF) -> Hit:
        """What lies below the pointer."""
        if at.x() < self.label_width:
            return Hit("label", self.row_at(at.y()))
        if at.y() < RULER:
            span = self.picked_span
            if span is not None and at.y() > RULER - 14:
                for end in (0, 1):
                    if abs(at.x() - self.scale.x_of(span[end])) < 6:
                        return Hit("stretch", None, end)
            return Hit("ruler")
        if at.y() < HEAD:
            return Hit("overview")
        row = self.row_at(at.y())
        if row is None:
            return Hit("empty")
        for number in reversed(range(len(row.instances))):
            rect = instance_rect(self.scale, row, number).translated(0, HEAD - self.offset)
            if rect.adjusted(-1, -2, 2, 2).contains(at):
                edge = at.x() > rect.right() - GRIP and rect.width() > 2 * GRIP
                return Hit("block grip" if edge else "block", row, number)
        for number in reversed(drawn_key_groups(row, self.scale)):
            if not self._reaches(row.key_groups[number], at.x()):
                continue
            rect = self.rect_of(row, number)
            if rect.adjusted(-1, -4, 2, 4).contains(at):
                edge = not row.channel and at.x() > rect.right() - GRIP
                grip = edge and rect.width() > 2 * GRIP
                return Hit("grip" if grip else "chip", row, number)
        return Hit("empty", row)

    def _reaches(self, key_group: KeyGroup, x: float) -> bool:
        """Whether a key group may lie at a place: asked before its rectangle is worked out."""
        return (
            self.scale.x_of(key_group.frame) - 8
            <= x
            <= self.scale.x_of(key_group.end) + PICTURE + 8
        )

    @property
    def chosen_instance(self) -> int | None:
        """The block under the hand."""
        placement = self.workspace.placements.now
        return (
            placement.number
            if placement is not None and placement.actor is self.workspace.actor
            else None
        )

    def whole_frame(self, x: float) -> int:
        """The nearest frame at a place."""
        return max(round(self.scale.frame_at(x)), 0)

    # -- picking --------------------------------------------------------------------------

    def pick(self, picks: Mapping[ChannelId, Iterable[float]], *, add: bool = False) -> None:
        """Select exactly these keys, or more of them."""
        found = dict(self.picks) if add else {}
        for channel_id, frames in picks.items():
            found[channel_id] = found.get(channel_id, frozenset()) | frozenset(
                float(f) for f in frames
            )
        if found != self.picks:
            self.picks = found
            self.picked_changed.emit()
            self.update()

    def unpick(self, key_group: KeyGroup) -> None:
        """Leave a key group's keys out."""
        found = dict(self.picks)
        for channel_id, frames in key_group.picked().items():
            rest = found.get(channel_id, frozenset()) - frozenset(frames.tolist())
            if rest:
                found[channel_id] = rest
            else:
                found.pop(channel_id, None)
        self.picks = found
        self.picked_changed.emit()
        self.update()

    def is_picked(self, key_group: KeyGroup) -> bool:
        return bool(self.picks) and all(
            key_group.frame in self.picks.get(channel_id, frozenset())
            for channel_id in key_group.channel_ids
        )

    @property
    def picked(self) -> dict[ChannelId, Array]:
        """The selected keys."""
        return {channel_id: np.array(sorted(frames)) for channel_id, frames in self.picks.items()}

    def cancel(self) -> bool:
        """Pick nothing; False if nothing was picked."""
        there = bool(self.picks)
        self.pick({})
        return there

    def pick_all(self) -> None:
        """Every key of the figure."""
        if self.workspace.actor is not None:
            lines = self.workspace.actor.keys.lines
            self.pick({channel_id: line.frames.tolist() for channel_id, line in lines.items()})

    # -- view -----------------------------------------------------------------------------

    def show_range(self) -> None:
        """The whole range of the shot."""
        timing = self.workspace.timing
        self.set_scale(self.scale.showing(timing.first, timing.last))

    def set_scale(self, scale: Scale) -> None:
        if scale != self.scale:
            self.scale = scale
            self.update()

    def set_scroll(self, to: int) -> None:
        """Rows further down, where not all have room."""
        rows = self.rows()
        most = rows[-1].top + rows[-1].height - (self.height() - HEAD) if rows else 0
        to = min(max(to, 0), max(most, 0))
        if to != self.offset:
            self.offset = to
            self.update()

    @property
    def picked_span(self) -> tuple[float, float] | None:
        """First and last frame of the selected keys, if there are several."""
        frames = [f for found in self.picks.values() for f in found]
        if not frames or max(frames) - min(frames) < 1e-6:
            return None
        return min(frames), max(frames)

    @property
    def whole_span(self) -> tuple[float, float]:
        """What the overview shows: the range, and keys beyond it."""
        timing, actor = self.workspace.timing, self.workspace.actor
        first, last = float(timing.first), float(timing.last)
        span = actor.keys.span if actor is not None else None
        if span is not None:
            first, last = min(first, span[0]), max(last, span[1])
        return first, last
