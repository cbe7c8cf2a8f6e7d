"""The strip as it is heard: the frame, rows, keys and clips in sight."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import QRect, QRectF
from PySide6.QtGui import QAccessible

from fox_hand.session.animating.key_groups import KeyGroup, title_of
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.timeline.strip_base import HEAD, StripBase
from fox_hand.ui.timeline.strip_paint import RULER, block_rect
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
        "Frame",
        QRect(x - 6, 0, 12, RULER),
        QAccessible.Role.Slider,
        f"{timing.first} to {timing.last}",
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
    opens = not row.channel and not row.blocks
    yield AccessiblePart(
        ("row", row.key),
        row.title,
        QRect(0, round(top), strip.label_width, row.height),
        QAccessible.Role.RowHeader,
        f"{len(row.chips)} keys" if not row.blocks else f"{len(row.blocks)} clips",
        expanded=row.open if opens else None,
        press=partial(_fold, strip, row) if opens else None,
    )
    for number, block in enumerate(row.blocks):
        rect = block_rect(strip.scale, row, number).translated(0, HEAD - strip.offset)
        if _in_sight(strip, rect):
            yield AccessiblePart(
                ("clip", number),
                block.origin.name,
                rect.toRect(),
                QAccessible.Role.ListItem,
                f"from frame {block.start:g}",
                selected=number == strip.chosen_block,
                press=partial(strip.workspace.go, float(round(block.start))),
            )
    for number, chip in enumerate(row.chips):
        rect = strip.rect_of(row, number)
        if not chip.tail and _in_sight(strip, rect):
            yield _key(strip, actor, row, chip, rect)


def _in_sight(strip: StripBase, rect: QRectF) -> bool:
    return rect.right() > strip.label_width and rect.left() < strip.width()


def _key(
    strip: StripBase, actor: Figure, row: StripRow, chip: KeyGroup, rect: QRectF
) -> AccessiblePart:
    held = f" to {chip.end:g}" if chip.held else ""
    name = title_of(actor.keys, chip) or "Key"
    return AccessiblePart(
        ("key", row.key, chip.frame, chip.origin),
        f"{name} at {chip.frame:g}{held}",
        rect.toRect(),
        QAccessible.Role.ListItem,
        f"{row.title}, {chip.ease.name.lower()}",
        selected=strip.is_picked(chip),
        press=partial(_pick, strip, chip),
    )


def _pick(strip: StripBase, chip: KeyGroup) -> None:
    strip.pick({lane: frames.tolist() for lane, frames in chip.picked().items()})
    strip.workspace.go(chip.frame)


def _fold(strip: StripBase, row: StripRow) -> None:
    strip.book.toggle(row.key)
    strip.update()
