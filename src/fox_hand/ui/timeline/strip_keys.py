"""What keys do while the strip has the keyboard."""

from __future__ import annotations

from functools import partial

from fox_hand.base.language import tr
from fox_hand.ui.timeline.strip_base import StripBase
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey

FAR = 10


def strip_keys(strip: StripBase) -> KeyMap:
    """All of them."""
    timing, keying = strip.workspace.timing, strip.workspace.keying
    keys = [
        LocalKey(("Space",), strip.play_asked.emit, tr("play, stop"), tr("Space on the strip")),
        LocalKey(
            ("Ctrl+C", "Ctrl+Ins"),
            lambda: keying.copy(strip.picked),
            tr("copy, paste here, delete"),
            tr("Ctrl+C, Ctrl+V, Del"),
        ),
        LocalKey(("Ctrl+X", "Shift+Del"), partial(_cut, strip)),
        LocalKey(("Ctrl+V", "Shift+Ins"), partial(_paste, strip)),
        LocalKey(("Ctrl+A",), strip.pick_all),
        LocalKey(("Del", "Backspace"), partial(_delete, strip)),
        LocalKey(("Esc",), strip.cancel),
        LocalKey(("Home",), lambda: _go(strip, float(timing.first))),
        LocalKey(("End",), lambda: _go(strip, float(timing.last))),
    ]
    for name, way in (("Left", -1), ("Right", 1)):
        keys += [
            LocalKey((name,), partial(_step, strip, way)),
            LocalKey((f"Shift+{name}",), partial(_step, strip, way * FAR)),
            LocalKey((f"Ctrl+{name}",), partial(go_to_key, strip, way)),
            LocalKey((f"Alt+{name}",), partial(nudge, strip, way)),
        ]
    return KeyMap(keys)


def _cut(strip: StripBase) -> None:
    strip.workspace.keying.copy(strip.picked)
    strip.workspace.keying.delete(strip.picked)


def _paste(strip: StripBase) -> None:
    strip.pick({channel_id: f.tolist() for channel_id, f in strip.workspace.keying.paste().items()})


def _delete(strip: StripBase) -> None:
    if strip.chosen_instance is not None:
        strip.workspace.placements.remove(strip.chosen_instance)
    else:
        strip.workspace.keying.delete(strip.picked)


def _go(strip: StripBase, frame: float) -> None:
    strip.workspace.go(frame)
    strip.set_scale(strip.scale.revealing(strip.workspace.timing.frame))


def _step(strip: StripBase, by: int) -> None:
    _go(strip, float(max(round(strip.workspace.timing.frame) + by, 0)))


def nudge(strip: StripBase, by: int) -> None:
    """Slide the selected keys by a frame."""
    picked = strip.picked
    strip.workspace.keying.shift(picked, by)
    strip.pick({channel_id: (frames + by).tolist() for channel_id, frames in picked.items()})


def go_to_key(strip: StripBase, way: int) -> None:
    """The key before or after."""
    frame = strip.workspace.keying.next_key(way)
    if frame is not None:
        strip.workspace.go(frame)
        strip.set_scale(strip.scale.revealing(frame))
