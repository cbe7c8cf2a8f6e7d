"""The keys of a figure: for every channel that has any, values at frames, by name."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from fox_hand.core.animation.interpolation import Ease, Track
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.skeleton import Index
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import Pose
from fox_hand.core.rig.rig import Rig

SAME = 1e-6  # frames closer than this are one
BY_HAND = 0  # the origin of keys that came from no card


class ChannelKind(StrEnum):
    """What a channel keys: a kind of transform channel, or a setting."""

    MOVE = "move"
    TURN = "turn"
    SCALE = "scale"
    SETTING = "setting"

    @property
    def place(self) -> int:
        """Which of the arrays of a :class:`State` it is."""
        return list(ChannelKind).index(self)

    @property
    def width(self) -> int:
        """Numbers of one value."""
        return {ChannelKind.TURN: 4, ChannelKind.SETTING: 1}.get(self, 3)


KIND_OF = {
    Channel.MOVE: ChannelKind.MOVE,
    Channel.TURN: ChannelKind.TURN,
    Channel.SCALE: ChannelKind.SCALE,
}


@dataclass(frozen=True, order=True)
class ChannelId:
    """One keyed channel: its kind, and the name of the control or the setting."""

    kind: ChannelKind
    name: str

    @property
    def is_setting(self) -> bool:
        return self.kind is ChannelKind.SETTING


EMPTY = 800  # bytes of a line without keys, measured


@dataclass(frozen=True, eq=False)
class ChannelCurve:
    """The keys of one channel, in order of their frames.

    Args:
        frames: ``(K,)``, ascending.
        values: relative to rest as in :class:`State`, ``(K, w)``.
        eases: how it goes on from each key, :class:`Ease` numbers ``(K,)``.
        origins: number of the card each key came from, 0 for none, ``(K,)``.
        euler: of turns the angles as they were shown, radians ``(K, 3)``; None for others.
        slopes: of smooth keys that came with their own, how they are arrived at and left, in
            units a frame ``(K, 2, w)``; NaN, or None, for those that the neighbours give.
    """

    frames: Array
    values: Array
    eases: npt.NDArray[np.uint8]
    origins: Index
    euler: Array | None = None
    slopes: Array | None = None

    def __len__(self) -> int:
        return len(self.frames)

    @property
    def track(self) -> Track:
        """What it is between its keys."""
        arrive, leave = (None, None) if self.slopes is None else self.slopes.swapaxes(0, 1)
        rotation = self.values.shape[1] == ChannelKind.TURN.width
        return Track(self.frames, self.values, self.eases, rotation, arrive, leave)

    @property
    def nbytes(self) -> int:
        """About how much memory it takes: its arrays, and as objects they weigh more than that
        where the keys are few."""
        arrays = (self.frames, self.values, self.eases, self.origins, self.euler, self.slopes)
        return EMPTY + sum(array.nbytes for array in arrays if array is not None)

    def at(self, frame: float) -> int | None:
        """Number of the key at a frame."""
        place = int(np.searchsorted(self.frames, frame - SAME))
        if place < len(self.frames) and abs(self.frames[place] - frame) <= SAME:
            return place
        return None

    def has(self, frames: Array) -> npt.NDArray[np.bool_]:
        """At which of some frames there is a key, ``(N,)``."""
        if not len(self):
            return np.zeros(len(frames), bool)
        place = np.minimum(np.searchsorted(self.frames, frames - SAME), len(self) - 1)
        return np.asarray(np.abs(self.frames[place] - frames) <= SAME)

    def near(self, frames: npt.ArrayLike) -> npt.NDArray[np.bool_]:
        """Which keys stand at one of some frames, ``(K,)``."""
        wanted = np.sort(np.asarray(frames, dtype=np.float64).ravel())
        if not len(wanted):
            return np.zeros(len(self), bool)
        place = np.minimum(np.searchsorted(wanted, self.frames - SAME), len(wanted) - 1)
        return np.asarray(np.abs(wanted[place] - self.frames) <= SAME)

    def taken(self, rows: Index) -> ChannelCurve:
        """Only some keys, by number ``(N,)``, in the order given."""
        euler = self.euler[rows] if self.euler is not None else None
        slopes = self.slopes[rows] if self.slopes is not None else None
        frames, values = self.frames[rows], self.values[rows]
        return ChannelCurve(frames, values, self.eases[rows], self.origins[rows], euler, slopes)

    def merged(self, other: ChannelCurve) -> ChannelCurve:
        """Both; where both have a key the other's wins."""
        mine = self.taken(np.flatnonzero(~self.near(other.frames)))
        both = joined([mine, other])
        return both.taken(np.argsort(both.frames, kind="stable"))

    def with_ease(self, rows: Index, ease: Ease) -> ChannelCurve:
        """The keys with some of them, by number ``(N,)``, going on in another way; slopes of their
        own they have no more on that way."""
        eases = self.eases.copy()
        eases[rows] = ease
        return replace(self, eases=eases).without_slopes(rows + 1, rows)

    def without_slopes(self, arriving: Index, leaving: Index) -> ChannelCurve:
        """The keys with some of them, by number ``(N,)``, arrived at or left as neighbours say.
        Numbers past the last key are passed over."""
        if self.slopes is None:
            return self
        slopes = self.slopes.copy()
        slopes[arriving[arriving < len(self)], 0] = np.nan
        slopes[leaving, 1] = np.nan
        return replace(self, slopes=slopes)

    def at_frames(self, frames: Array) -> ChannelCurve:
        """The keys at other frames ``(K,)``, ascending; slopes become as steep as the way is
        shorter, and where it is run backwards what arrived leaves."""
        slopes = self.slopes
        if slopes is not None and len(self) > 1:
            faster = (self.frames[-1] - self.frames[0]) / (frames[-1] - frames[0])
            slopes = slopes * faster
            slopes = slopes[:, ::-1] if faster < 0 else slopes
        return replace(self, frames=frames, slopes=slopes)

    def same(self, one: int, other: int) -> bool:
        """Whether two keys have the same value from the same card."""
        return bool(
            self.origins[one] == self.origins[other]
            and np.abs(self.values[one] - self.values[other]).max() < 1e-9
        )


def joined(lines: Sequence[ChannelCurve]) -> ChannelCurve:
    """Lines of one channel as one, in the order given."""
    angles = [line.euler for line in lines if line.euler is not None]
    return ChannelCurve(
        np.concatenate([line.frames for line in lines]),
        np.concatenate([line.values for line in lines]),
        np.concatenate([line.eases for line in lines]),
        np.concatenate([line.origins for line in lines]),
        np.concatenate(angles) if len(angles) == len(lines) else None,
        _slopes_of(lines),
    )


def _slopes_of(lines: Sequence[ChannelCurve]) -> Array | None:
    if all(line.slopes is None for line in lines):
        return None
    none = [np.full((len(line), 2, line.values.shape[1]), np.nan) for line in lines]
    owns = [n if line.slopes is None else line.slopes for line, n in zip(lines, none, strict=True)]
    return np.concatenate(owns)


@dataclass(frozen=True)
class Origin:
    """The card that keys came from.

    Args:
        card: its identity; empty for a mix of several.
        name: how it was called then.
        revision: which of its revisions went on.
        amount: how much of it.
        side: ``captured``, ``other`` or ``both``.
        whole: whether enough is known here for a newer revision to follow.
        content: stands for all values of the card then; empty where nobody wrote it down.
        way: ``replace`` or ``on top``.
        regions, controls: only there, by name; empty for all that it holds.
        amounts: regions by name in which another amount of it is on.
        base: what the figure held before, where the card does not cover it; None where it does.
    """

    card: str
    name: str
    revision: int = 1
    amount: float = 1.0
    side: str = "captured"
    whole: bool = True
    content: str = ""
    way: str = "replace"
    regions: tuple[str, ...] = ()
    controls: tuple[str, ...] = ()
    amounts: tuple[tuple[str, float], ...] = ()
    base: Pose | None = None


def one_key(
    frame: float, value: Array, ease: Ease, origin: int = BY_HAND, euler: Array | None = None
) -> ChannelCurve:
    """A curve of one key.

    Args:
        frame, ease: of the key.
        value: relative to rest, ``(w,)``.
        origin: number of the card it came from.
        euler: of a turn the angles as shown, radians ``(3,)``.
    """
    return ChannelCurve(
        np.array([frame], dtype=np.float64),
        np.array([value], dtype=np.float64),
        np.array([ease], dtype=np.uint8),
        np.array([origin], dtype=np.intp),
        np.array([euler], dtype=np.float64) if euler is not None else None,
    )


@dataclass(frozen=True, eq=False)
class Keys:
    """All keys of one figure.

    Args:
        lines: by channel; a channel without keys is not there.
        origins: cards that keys came from, by number.
    """

    lines: Mapping[ChannelId, ChannelCurve] = field(default_factory=dict)
    origins: Mapping[int, Origin] = field(default_factory=dict)

    def __bool__(self) -> bool:
        return bool(self.lines)

    def __iter__(self) -> Iterator[ChannelId]:
        return iter(self.lines)

    @property
    def count(self) -> int:
        """How many keys there are."""
        return sum(map(len, self.lines.values()))

    @property
    def span(self) -> tuple[float, float] | None:
        """First and last keyed frame."""
        if not self.lines:
            return None
        return (
            min(float(line.frames[0]) for line in self.lines.values()),
            max(float(line.frames[-1]) for line in self.lines.values()),
        )

    def frames(self, channel_ids: Iterable[ChannelId] | None = None) -> Array:
        """Frames ``(K,)`` with a key on any of some channels, ascending."""
        chosen = (
            self.lines
            if channel_ids is None
            else [channel_id for channel_id in channel_ids if channel_id in self.lines]
        )
        found = [self.lines[channel_id].frames for channel_id in chosen]
        return np.unique(np.concatenate(found)) if found else np.zeros(0)

    def with_origin(self, origin: Origin | None) -> tuple[Keys, int]:
        """The keys knowing a card, and its number."""
        if origin is None:
            return self, BY_HAND
        for number, known in self.origins.items():
            if known == origin:
                return self, number
        number = max(self.origins, default=0) + 1
        return replace(self, origins={**self.origins, number: origin}), number

    def with_lines(self, lines: Mapping[ChannelId, ChannelCurve]) -> Keys:
        """More keys; they win where there is one already. Origins nobody uses are forgotten."""
        found = dict(self.lines)
        for channel_id, line in lines.items():
            found[channel_id] = found[channel_id].merged(line) if channel_id in found else line
        return Keys(found, self.origins)._tidy()

    def without(self, picked: Mapping[ChannelId, Array]) -> Keys:
        """Without the keys at some frames, ``(N,)`` for each channel."""
        found = dict(self.lines)
        for channel_id, frames in picked.items():
            if channel_id in found:
                line = found[channel_id]
                kept = np.flatnonzero(~line.near(frames))
                if len(kept):
                    found[channel_id] = line.taken(kept)
                else:
                    del found[channel_id]
        return Keys(found, self.origins)._tidy()

    def picked(self, picked: Mapping[ChannelId, Array]) -> dict[ChannelId, ChannelCurve]:
        """The keys at some frames, ``(N,)`` for each channel."""
        found = {}
        for channel_id, frames in picked.items():
            line = self.lines.get(channel_id)
            if line is not None:
                rows = np.flatnonzero(line.near(frames))
                if len(rows):
                    found[channel_id] = line.taken(rows)
        return found

    def carried(self, picked: Mapping[ChannelId, Array], to: Callable[[Array], Array]) -> Keys:
        """The keys with some of them at other frames; keys they land on give way, and of several
        that land on one frame the last stays.

        Args:
            picked: which frames of which channels, ``(N,)`` each.
            to: gives new frames ``(N,)`` for old ones ``(N,)``.
        """
        moving = self.picked(picked)
        landed = {}
        for channel_id, line in moving.items():
            frames = np.asarray(to(line.frames), dtype=np.float64)
            order = np.argsort(frames, kind="stable")
            last = np.append(np.diff(frames[order]) > SAME, True)
            rows = order[last]
            landed[channel_id] = line.taken(rows).at_frames(frames[rows])
        return self.without(picked).with_lines(landed)

    def eased(self, picked: Mapping[ChannelId, Array], ease: Ease) -> Keys:
        """The keys with those at some frames, ``(N,)`` of each channel, going on otherwise."""
        found = dict(self.lines)
        for channel_id, frames in picked.items():
            line = found.get(channel_id)
            if line is not None:
                found[channel_id] = line.with_ease(np.flatnonzero(line.near(frames)), ease)
        return Keys(found, self.origins)

    def _tidy(self) -> Keys:
        all_of_them = [line.origins for line in self.lines.values()]
        used = set(np.unique(np.concatenate(all_of_them)).tolist()) if all_of_them else set()
        if all(number in used for number in self.origins):
            return self
        return replace(self, origins={n: o for n, o in self.origins.items() if n in used})


NO_KEYS = Keys()


def channel_ids_of(rig: Rig, rows: Iterable[int]) -> list[ChannelId]:
    """Every channel and setting of some controls."""
    found = []
    for row in rows:
        control = rig.controls[row]
        found += [ChannelId(KIND_OF[c], control.name) for c in Channel if c in control.channels]
        found += [
            ChannelId(ChannelKind.SETTING, rig.settings[s].name) for s in rig.settings_of[row]
        ]
    return found


def row_of(rig: Rig, channel_id: ChannelId) -> int | None:
    """The control a channel belongs to; None where the rig has none of that name."""
    row = place_of(rig, channel_id)
    return rig.settings[row].control if row is not None and channel_id.is_setting else row


def place_of(rig: Rig, channel_id: ChannelId) -> int | None:
    """Row of a channel's values in :func:`values_in`; None where the rig has none of that name."""
    return (rig.setting_row if channel_id.is_setting else rig.control_row).get(channel_id.name)


def values_in(state: State, kind: ChannelKind) -> Array:
    """The values of one kind in a state ``(C, w)``, or a batch ``(F, C, w)``; settings have no
    last axis."""
    return state.arrays()[kind.place]


def keys_at(
    rig: Rig,
    state: State,
    channel_ids: Iterable[ChannelId],
    frame: float,
    ease: Ease,
    origin: int = BY_HAND,
) -> dict[ChannelId, ChannelCurve]:
    """One key for each channel, with the values of a state.

    Args:
        rig: the figure's.
        state: the values.
        channels: which channels and settings, all of this rig.
        frame, ease, origin: of all the keys; what jumps is stepped.
    """
    found, shown = {}, None
    for channel_id in channel_ids:
        row, euler = place_of(rig, channel_id), None
        assert row is not None
        value = np.atleast_1d(values_in(state, channel_id.kind)[row])
        discrete = channel_id.is_setting and rig.settings[row].discrete
        if channel_id.kind is ChannelKind.TURN:
            shown = state.shown(rig.orders) if shown is None else shown
            euler = shown[row]
        found[channel_id] = one_key(frame, value, Ease.STEP if discrete else ease, origin, euler)
    return found


def changed_lanes(rig: Rig, before: State, after: State) -> list[ChannelId]:
    """Channels whose values are not bit for bit the same.

    Args:
        rig: the figure's.
        before, after: two states of it.
    """
    found = []
    for kind in (ChannelKind.MOVE, ChannelKind.TURN, ChannelKind.SCALE):
        differs = (values_in(before, kind) != values_in(after, kind)).any(-1)
        if kind is ChannelKind.TURN:
            differs |= (before.euler != after.euler).any(-1)
        found += [ChannelId(kind, rig.controls[row].name) for row in np.flatnonzero(differs)]
    other = np.flatnonzero(before.settings != after.settings)
    return found + [ChannelId(ChannelKind.SETTING, rig.settings[row].name) for row in other]


def with_lanes(rig: Rig, state: State, source: State, channel_ids: Iterable[ChannelId]) -> State:
    """A state with the values that another one has on some channels.

    Args:
        rig: the figure's.
        state: what the others keep.
        source: where the values come from.
        channels: which channels and settings, all of this rig.
    """
    arrays = [values.copy() for values in state.arrays()]
    rows: dict[ChannelKind, list[int]] = {}
    for channel_id in channel_ids:
        row = place_of(rig, channel_id)
        assert row is not None
        rows.setdefault(channel_id.kind, []).append(row)
    for kind, chosen in rows.items():
        arrays[kind.place][chosen] = values_in(source, kind)[chosen]
        if kind is ChannelKind.TURN:
            arrays[4][chosen] = source.euler[chosen]
    move, turn, scale, settings, euler = arrays
    return state.with_(move=move, turn=turn, scale=scale, settings=settings, euler=euler)
