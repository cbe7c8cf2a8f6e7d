"""All keys of a figure laid out in a few arrays, so that a frame of it is sampled at once.

Asking every channel's :class:`~fox_hand.core.animation.interpolation.Track` for its value takes a
hundred times as long; both give the same numbers, which a test compares.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind, Keys, place_of
from fox_hand.core.animation.interpolation import Ease, curved, straight
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.skeleton import Index
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig


@dataclass(frozen=True, eq=False)
class _Group:
    """The lines of one kind, one after the other.

    Args:
        rows: which control or setting each of ``T`` lines belongs to.
        first, last: places of its first and last key.
        frames, values, eases, arrive, leave, euler: of all keys, ``(K,)``, ``(K, w)``, ...
        low, span: from what frame and how far the lines reach at most.
        sought: frames shifted line by line so that they ascend, ``(K,)``.
        rotation: whether the values are quaternions.
    """

    rows: Index
    first: Index
    last: Index
    frames: Array
    values: Array
    eases: npt.NDArray[np.uint8]
    arrive: Array
    leave: Array
    euler: Array | None
    low: float
    span: float
    sought: Array
    rotation: bool

    def before(self, at: Array) -> Index:
        """Place of the key at or before some frames for each line, ``(F, T)``."""
        lines = np.arange(len(self.rows))
        inside = np.clip(at - self.low, -1.0, self.span - 1.0)[:, None]
        found = np.searchsorted(self.sought, lines[None, :] * self.span + inside, side="right") - 1
        return np.asarray(np.clip(found, self.first, self.last))

    def sample(self, at: Array) -> tuple[Array, Index]:
        """Values ``(F, T, w)`` at frames ``(F,)``, and the keys before them ``(F, T)``."""
        before = self.before(at)
        after = np.minimum(before + 1, self.last[None, :])
        start = self.frames[before]
        gap = np.where(after > before, self.frames[after] - start, 1.0)
        part = np.clip((at[:, None] - start) / gap, 0.0, 1.0)
        found = self.values[before]
        moving = (after > before) & (part > 0)
        ease = self.eases[before]
        rows = np.nonzero(moving & (ease == Ease.LINEAR))
        if len(rows[0]):
            start, end = self.values[before[rows]], self.values[after[rows]]
            found[rows] = straight(start, end, part[rows][:, None], rotation=self.rotation)
        rows = np.nonzero(moving & (ease == Ease.SMOOTH))
        if len(rows[0]):
            found[rows] = self._curved(
                before[rows], after[rows], part[rows][:, None], gap[rows][:, None]
            )
        return found, before

    def _curved(self, before: Index, after: Index, part: Array, gap: Array) -> Array:
        start, end = self.values[before], self.values[after]
        leave, arrive = self.leave[before] * gap, self.arrive[after] * gap
        return curved(start, end, leave, arrive, part, rotation=self.rotation)


class Sampler:
    """Samples the keys of one figure.

    Args:
        rig: the figure's rig; channels it does not have are left out.
        keys: its keys.
    """

    def __init__(self, rig: Rig, keys: Keys) -> None:
        by_kind: dict[ChannelKind, list[tuple[int, ChannelCurve]]] = {}
        for channel_id, line in keys.lines.items():
            row = place_of(rig, channel_id)
            if row is not None:
                jumps = channel_id.is_setting and rig.settings[row].discrete
                kept = replace(line, eases=np.zeros(len(line), np.uint8)) if jumps else line
                by_kind.setdefault(channel_id.kind, []).append((row, kept))
        self._groups = {kind: _grouped(kind, found) for kind, found in by_kind.items()}

    def __bool__(self) -> bool:
        return bool(self._groups)

    def at(self, base: State, frame: float) -> State:
        """The figure at a frame: keyed channels by their keys, all others as in ``base``."""
        if not self._groups:
            return base
        batch = self._filled([v.copy()[None] for v in base.arrays()], np.array([frame], float))
        return base.with_(**{k: v[0] for k, v in zip(_NAMES, batch, strict=True)})

    def many(self, base: State, frames: Iterable[float]) -> State:
        """The same for many frames at once, a batch ``(F, C, ...)``."""
        at = np.asarray(list(frames), dtype=np.float64)
        wide = [np.broadcast_to(v, (len(at), *v.shape)).copy() for v in base.arrays()]
        return State(*self._filled(wide, at))

    def _filled(self, arrays: list[Array], at: Array) -> list[Array]:
        for kind, group in self._groups.items():
            values, before = group.sample(at)
            if kind is ChannelKind.SETTING:
                values = values[..., 0]
            arrays[kind.place][:, group.rows] = values
            if group.euler is not None:
                arrays[4][:, group.rows] = group.euler[before]
        return arrays


_NAMES = ("move", "turn", "scale", "settings", "euler")


def _grouped(kind: ChannelKind, found: list[tuple[int, ChannelCurve]]) -> _Group:
    lengths = np.array([len(line) for _, line in found])
    first = np.concatenate([[0], np.cumsum(lengths)[:-1]]).astype(np.intp)
    frames = np.concatenate([line.frames for _, line in found])
    low = float(frames.min())
    span = float(frames.max()) - low + 2.0
    which = np.repeat(np.arange(len(found)), lengths)
    rotation = kind is ChannelKind.TURN
    tangents = [line.track.tangents() for _, line in found]
    return _Group(
        rows=np.array([row for row, _ in found], dtype=np.intp),
        first=first,
        last=(first + lengths - 1).astype(np.intp),
        frames=frames,
        values=np.concatenate([line.values for _, line in found]),
        eases=np.concatenate([line.eases for _, line in found]),
        arrive=np.concatenate([arrive for arrive, _ in tangents]),
        leave=np.concatenate([leave for _, leave in tangents]),
        euler=np.concatenate([_angles(line) for _, line in found]) if rotation else None,
        low=low,
        span=span,
        sought=which * span + (frames - low),
        rotation=rotation,
    )


def _angles(line: ChannelCurve) -> Array:
    return line.euler if line.euler is not None else np.zeros((len(line), 3))


def line_of(channel_id: ChannelId, frames: Array, values: Array, ease: Ease) -> ChannelCurve:
    """A curve with one key a frame, such as a performance has.

    Args:
        channel: which channel.
        frames: ``(K,)``, ascending.
        values: relative to rest, ``(K, w)`` or what can be read as that.
        ease: how all of them go on.
    """
    count = len(frames)
    euler = np.zeros((count, 3)) if channel_id.kind is ChannelKind.TURN else None
    return ChannelCurve(
        np.asarray(frames, dtype=np.float64),
        np.asarray(values, dtype=np.float64).reshape(count, channel_id.kind.width),
        np.full(count, ease, np.uint8),
        np.zeros(count, np.intp),
        euler,
    )
