"""What keys do while the strip has the keyboard."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QKeySequence

from fox_hand.ui.timeline.strip_base import StripBase

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
ALT = Qt.KeyboardModifier.AltModifier
FAR = 10


def strip_key(strip: StripBase, event: QKeyEvent) -> bool:
    """Do what a key means here; False if it means nothing."""
    if event.matches(QKeySequence.StandardKey.Copy):
        strip.workspace.keying.copy(strip.picked)
    elif event.matches(QKeySequence.StandardKey.Cut):
        strip.workspace.keying.copy(strip.picked)
        strip.workspace.keying.delete(strip.picked)
    elif event.matches(QKeySequence.StandardKey.Paste):
        strip.pick({lane: f.tolist() for lane, f in strip.workspace.keying.paste().items()})
    elif event.matches(QKeySequence.StandardKey.SelectAll):
        strip.pick_all()
    elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
        if strip.chosen_block is not None:
            strip.workspace.placements.remove(strip.chosen_block)
        else:
            strip.workspace.keying.delete(strip.picked)
    elif event.key() == Qt.Key.Key_Escape:
        return strip.cancel()
    elif event.key() == Qt.Key.Key_Space:
        strip.play_asked.emit()
    else:
        return _go(strip, event)
    return True


def _go(strip: StripBase, event: QKeyEvent) -> bool:
    workspace, timing, keys = strip.workspace, strip.workspace.timing, event.modifiers()
    ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
    way = ways.get(Qt.Key(event.key()))
    if event.key() == Qt.Key.Key_Home:
        workspace.go(float(timing.first))
    elif event.key() == Qt.Key.Key_End:
        workspace.go(float(timing.last))
    elif way is None:
        return False
    elif keys & ALT:
        nudge(strip, way)
    elif keys & CTRL:
        go_to_key(strip, way)
    else:
        workspace.go(max(round(timing.frame) + way * (FAR if keys & SHIFT else 1), 0))
    strip.set_scale(strip.scale.revealing(timing.frame))
    return True


def nudge(strip: StripBase, by: int) -> None:
    """Slide the selected keys by a frame."""
    picked = strip.picked
    strip.workspace.keying.shift(picked, by)
    strip.pick({lane: (frames + by).tolist() for lane, frames in picked.items()})


def go_to_key(strip: StripBase, way: int) -> None:
    """The key before or after."""
    frame = strip.workspace.keying.next_key(way)
    if frame is not None:
        strip.workspace.go(frame)
        strip.set_scale(strip.scale.revealing(frame))
