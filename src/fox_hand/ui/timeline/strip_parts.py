"""The strip as it is heard: the frame, rows, keys and clips in sight."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import QRect, QRectF
from PySide6.QtGui import QAccessible

from fox_hand.base.language import tr, tr_n
from fox_hand.session.animating.key_groups import KeyGroup, title_of
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.timeline.strip_base import HEAD, StripBase
from fox_hand.ui.timeline.strip_paint import RULER, instance_rect
from fox_hand.ui.timeline.strip_rows import StripRow
from fox_hand.ui.widgets.accessible_parts import AccessibleAmount, AccessiblePart


def heard_strip(strip: StripBase) -> Iterator[AccessiblePart]:
    """Everything in sight, row by row."""
    timing, actor = strip.workspace.timing, strip.workspace.actor
    if actor is None:
        return
    x = round(strip.scale.x_of(timing.frame))
    yield AccessiblePart(
        "frame",
        tr("Current frame"),
        QRect(x - 6, 0, 12, RULER),
        QAccessible.Role.Slider,
        tr("{first} to {last}", first=timing.first, last=timing.last),
        AccessibleAmount(
            timing.frame, timing.first, timing.last, 1.0, lambda f: strip.workspace.go(round(f))
        ),
        current=strip.hasFocus(),
    )
    for row in strip.rows():
        top = strip.y_of(row)
        if HEAD - row.height < top < strip.height():
            yield from _row(strip, actor, row, top)


def _row(strip: StripBase, actor: Figure, row: StripRow, top: float) -> Iterator[AccessiblePart]:
    opens = not row.channel and not row.instances
    yield AccessiblePart(
        ("row", row.key),
        row.title,
        QRect(0, round(top), strip.label_width, row.height),
        QAccessible.Role.RowHeader,
        tr_n("{number} key", "{number} keys", len(row.key_groups))
        if not row.instances
        else tr_n("{number} clip", "{number} clips", len(row.instances)),
        expanded=row.open if opens else None,
        press=partial(_fold, strip, row) if opens else None,
    )
    for number, instance in enumerate(row.instances):
        rect = instance_rect(strip.scale, row, number).translated(0, HEAD - strip.offset)
        if _in_sight(strip, rect):
            yield AccessiblePart(
                ("clip", number),
                instance.origin.name,
                rect.toRect(),
                QAccessible.Role.ListItem,
                tr("from frame {start:g}", start=instance.start),
                selected=number == strip.chosen_instance,
                press=partial(strip.workspace.go, float(round(instance.start))),
            )
    for number, key_group in enumerate(row.key_groups):
        rect = strip.rect_of(row, number)
        if not key_group.tail and _in_sight(strip, rect):
            yield _key(strip, actor, row, key_group, rect)


def _in_sight(strip: StripBase, rect: QRectF) -> bool:
    return rect.right() > strip.label_width and rect.left() < strip.width()


def _key(
    strip: StripBase, actor: Figure, row: StripRow, key_group: KeyGroup, rect: QRectF
) -> AccessiblePart:
    held = tr(" to {end:g}", end=key_group.end) if key_group.held else ""
    name = title_of(actor.keys, key_group) or tr("Key")
    return AccessiblePart(
        ("key", row.key, key_group.frame, key_group.origin),
        tr("{name} at {frame:g}{held}", name=name, frame=key_group.frame, held=held),
        rect.toRect(),
        QAccessible.Role.ListItem,
        f"{row.title}, {key_group.ease.name.lower()}",
        selected=strip.is_picked(key_group),
        press=partial(_pick, strip, key_group),
    )


def _pick(strip: StripBase, key_group: KeyGroup) -> None:
    strip.pick({channel_id: frames.tolist() for channel_id, frames in key_group.picked().items()})
    strip.workspace.go(key_group.frame)


def _fold(strip: StripBase, row: StripRow) -> None:
    strip.book.toggle(row.key)
    strip.update()
