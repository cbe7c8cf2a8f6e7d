"""What the pointer does on the strip."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent

from fox_hand.base.language import tr
from fox_hand.core.animation.curves import ChannelId, row_of
from fox_hand.core.maths.rotations import Array
from fox_hand.session.animating.clip_placement import ClipPlacement
from fox_hand.session.animating.key_edits import held, stretched
from fox_hand.session.animating.keying import KeyDrag
from fox_hand.ui.timeline.strip_base import Hit, StripBase
from fox_hand.ui.timeline.strip_paint import RULER
from fox_hand.ui.timeline.strip_rows import CLIPS, StripRow

SLACK = 3.0  # pixels before a press becomes a pull


class Press(Protocol):
    """The pointer is down."""

    def move(self, at: QPointF) -> None: ...

    def finish(self, at: QPointF) -> None: ...

    def cancel(self) -> None: ...


def pressed(strip: StripBase, event: QMouseEvent) -> Press | None:
    """Begin what a press at this place means."""
    at, hit = event.position(), strip.hit(event.position())
    add = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
    if event.button() is Qt.MouseButton.MiddleButton:
        return StripPan(strip, at)
    if event.button() is not Qt.MouseButton.LeftButton or strip.workspace.actor is None:
        return None
    if hit.zone == "label" and hit.row is None:
        return None
    if hit.zone in ("ruler", "overview"):
        return Scrub(strip, at) if hit.zone == "ruler" else Overview(strip, at)
    if hit.zone == "stretch":
        return Stretch(strip, hit.number)
    if hit.row is not None and hit.zone != "empty":
        return _on_row(strip, at, hit, hit.row, add)
    return StripMarquee(strip, at, add)


def _on_row(strip: StripBase, at: QPointF, hit: Hit, row: StripRow, add: bool) -> Press | None:
    if hit.zone == "label":
        _press_label(strip, row, add)
        return None
    if hit.zone in ("block", "block grip"):
        placement = strip.workspace.placements.take_up(hit.number)
        return BlockPull(strip, at, placement, hit.zone) if placement is not None else None
    if hit.zone == "grip" and not add:
        return Hold(strip, row, hit.number)
    return Move(strip, at, row, hit.number, add)


def _press_label(strip: StripBase, row: StripRow, add: bool) -> None:
    """A part opens or closes its channels; a channel's control is selected."""
    workspace = strip.workspace
    assert workspace.actor is not None
    if row.key == CLIPS:
        return
    if not row.channel:
        strip.book.toggle(row.key)
        strip.set_scroll(strip.offset)
        strip.update()
        return
    control = row_of(workspace.actor.rig, row.channel_ids[0])
    if control is not None:
        (workspace.selection.add if add else workspace.selection.set)([control])


class Scrub:
    """Look at frames."""

    def __init__(self, strip: StripBase, at: QPointF) -> None:
        self._strip = strip
        self._before = strip.workspace.timing.frame
        self.move(at)

    def move(self, at: QPointF) -> None:
        self._strip.workspace.go(float(self._strip.whole_frame(at.x())))

    def finish(self, at: QPointF) -> None:
        self.move(at)

    def cancel(self) -> None:
        self._strip.workspace.go(self._before)


class StripPan:
    """Move along the frames."""

    def __init__(self, strip: StripBase, at: QPointF) -> None:
        self._strip, self._from, self._scale = strip, at, strip.scale

    def move(self, at: QPointF) -> None:
        self._strip.set_scale(self._scale.panned(self._from.x() - at.x()))

    def finish(self, at: QPointF) -> None:
        self.move(at)

    def cancel(self) -> None:
        self._strip.set_scale(self._scale)


class Overview:
    """Pull the window of what is shown along the whole shot."""

    def __init__(self, strip: StripBase, at: QPointF) -> None:
        self._strip, self._scale = strip, strip.scale
        self.move(at)

    def move(self, at: QPointF) -> None:
        strip, scale = self._strip, self._scale
        first, last = strip.whole_span
        share = (at.x() - scale.left) / max(scale.width - 12, 1)
        middle = first + share * (last - first)
        wanted = middle - (scale.last - scale.first) / 2
        strip.set_scale(scale.panned((wanted - scale.first) * scale.pitch))

    def finish(self, at: QPointF) -> None:
        self.move(at)

    def cancel(self) -> None:
        self._strip.set_scale(self._scale)


class _Pulled:
    """Something of the keys is pulled: previews, then one step."""

    label = tr("Move keys")

    def __init__(self, strip: StripBase) -> None:
        self.strip = strip
        drag = strip.workspace.keying.drag()
        assert drag is not None
        self.drag: KeyDrag = drag
        self.picks = dict(strip.picks)

    def cancel(self) -> None:
        self.drag.cancel()
        self.strip.pick(self.picks)

    def finish(self, at: QPointF) -> None:
        self.move(at)
        self.drag.commit(self.label)

    def move(self, at: QPointF) -> None:
        raise NotImplementedError


class Move(_Pulled):
    """Select a key group, and pull all that is selected along."""

    def __init__(
        self, strip: StripBase, at: QPointF, row: StripRow, number: int, add: bool
    ) -> None:
        key_group = row.key_groups[number]
        self._was = strip.is_picked(key_group)
        if add and self._was:
            strip.unpick(key_group)
        elif add or not self._was:
            strip.pick(key_group.picked(), add=add)
        super().__init__(strip)
        self._from, self._chip, self._add = at, key_group, add
        self._picked: dict[ChannelId, Array] = strip.picked
        self._moved = False
        self._by = 0

    def move(self, at: QPointF) -> None:
        if not self._moved and abs(at.x() - self._from.x()) < SLACK:
            return
        self._moved = True
        by = round((at.x() - self._from.x()) / self.strip.scale.pitch)
        lowest = min((f for found in self.picks.values() for f in found), default=0.0)
        by = max(by, -int(lowest))
        if by == self._by:
            return
        self._by = by
        self.drag.preview(self.drag.before.keys.carried(self._picked, lambda f: f + by))
        self.strip.pick(
            {channel_id: [f + by for f in found] for channel_id, found in self.picks.items()}
        )

    def finish(self, at: QPointF) -> None:
        super().finish(at)
        if not self._moved and self._was and not self._add:
            self.strip.pick(self._chip.picked())  # a click on one of several leaves this one


class Hold(_Pulled):
    """Pull the right edge of a key group: its second, equal keys."""

    label = tr("Hold")

    def __init__(self, strip: StripBase, row: StripRow, number: int) -> None:
        self._chip = row.key_groups[number]
        strip.pick(self._chip.picked())
        super().__init__(strip)

    def move(self, at: QPointF) -> None:
        until = float(max(self.strip.whole_frame(at.x() - 2), round(self._chip.frame)))
        self.drag.preview(held(self.drag.before.keys, self._chip, until))
        ends = [self._chip.frame, until] if until > self._chip.frame else [self._chip.frame]
        self.strip.pick(dict.fromkeys(self._chip.channel_ids, ends))


class Stretch(_Pulled):
    """Pull one end of the selected keys: the others follow in proportion."""

    label = tr("Retime keys")

    def __init__(self, strip: StripBase, end: int) -> None:
        super().__init__(strip)
        span = strip.picked_span
        assert span is not None
        self._pulled, self._pivot = span[end], span[1 - end]
        self._picked = strip.picked

    def move(self, at: QPointF) -> None:
        wanted = self.strip.whole_frame(at.x())
        factor = (wanted - self._pivot) / (self._pulled - self._pivot)
        if factor <= 0:
            return
        pivot = self._pivot
        self.drag.preview(stretched(self.drag.before.keys, self._picked, pivot, factor))
        self.strip.pick(
            {
                channel_id: [float(round(pivot + (f - pivot) * factor)) for f in found]
                for channel_id, found in self.picks.items()
            }
        )


class BlockPull:
    """Pull a block along, or its right edge to repeat it."""

    def __init__(self, strip: StripBase, at: QPointF, placement: ClipPlacement, zone: str) -> None:
        self._strip, self._from, self._placement = strip, at, placement
        self._block, self._grip = placement.instance, zone == "block grip"
        self._moved = False

    def move(self, at: QPointF) -> None:
        if not self._moved and abs(at.x() - self._from.x()) < SLACK:
            return
        self._moved = True
        instance, strip = self._block, self._strip
        if self._grip:
            frames = strip.scale.frame_at(at.x()) - instance.start + instance.gap
            times = max(frames / (instance.once + instance.gap), 0.25)
            whole = round(times)
            near = whole >= 1 and abs(times - whole) < 0.2
            self._placement.change(repeats=float(whole) if near else round(times * 4) / 4)
        else:
            by = round((at.x() - self._from.x()) / strip.scale.pitch)
            self._placement.change(start=max(round(instance.start) + by, 0.0))
        strip.update()

    def finish(self, at: QPointF) -> None:
        self.move(at)

    def cancel(self) -> None:
        instance = self._block
        self._placement.change(repeats=instance.repeats, start=instance.start)


class StripMarquee:
    """Select what lies inside; a click goes to the frame."""

    def __init__(self, strip: StripBase, at: QPointF, add: bool) -> None:
        self._strip, self._from, self._add = strip, at, add
        self._before = dict(strip.picks)

    def move(self, at: QPointF) -> None:
        strip = self._strip
        if (at - self._from).manhattanLength() < SLACK:
            return
        strip.marquee = QRectF(self._from, at).normalized()
        found: dict[ChannelId, set[float]] = {}
        for row in strip.rows():
            for number, key_group in enumerate(row.key_groups):
                rect = strip.rect_of(row, number)
                middle = QPointF(rect.left() + min(rect.width() / 2, 14), rect.center().y())
                if strip.marquee.contains(middle) and middle.y() > RULER:
                    for channel_id, frames in key_group.picked().items():
                        found.setdefault(channel_id, set()).update(frames.tolist())
        strip.pick(self._before if self._add else {})
        strip.pick(found, add=self._add)
        strip.update()

    def finish(self, at: QPointF) -> None:
        strip = self._strip
        if strip.marquee is None:
            if not self._add:
                strip.pick({})
            strip.workspace.go(float(strip.whole_frame(at.x())))
        else:
            self.move(at)
        strip.marquee = None

    def cancel(self) -> None:
        self._strip.marquee = None
        self._strip.pick(self._before)
