"""What a figure's skeleton does over time, as other programs take it: local transforms of its
nodes and weights of its shapes, sampled, and the keys where they say the same."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from fox_hand.core.animation.curves import ChannelCurve, ChannelId, ChannelKind, Keys, place_of
from fox_hand.core.animation.interpolation import Ease, Track, aligned
from fox_hand.core.maths.rotations import Array, multiply, rotate
from fox_hand.core.maths.transforms import decompose, undone
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

SAME = 1e-5  # metres, factors and quaternion numbers that keys may be off


@dataclass(frozen=True, eq=False)
class Curve:
    """The keys of one value.

    Args:
        times: seconds, ``(K,)``.
        values: ``(K, w)``.
        ease: how it goes on, the same from every key.
        slopes: of smooth ones the tangents a second, arriving and leaving, ``(K, 2, w)``.
    """

    times: Array
    values: Array
    ease: Ease
    slopes: Array | None = None


@dataclass(frozen=True, eq=False)
class Motion:
    """Frames of one figure.

    Args:
        name: as written into files.
        rate: frames a second.
        times: seconds from the first frame, ``(F,)``.
        nodes, parents: the skeleton's.
        move, turn, scale: local transforms, ``(F, N, 3)``, ``(F, N, 4)``, ``(F, N, 3)``.
        settings: names of the settings.
        weights: their effective values, ``(F, S)``.
        kept: keys that say exactly the same, by kind and name of node or setting.
    """

    name: str
    rate: float
    times: Array
    nodes: tuple[str, ...]
    parents: tuple[int, ...]
    move: Array
    turn: Array
    scale: Array
    settings: tuple[str, ...]
    weights: Array
    kept: Mapping[tuple[ChannelKind, str], Curve] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.times)

    @property
    def shapes_move(self) -> bool:
        """Whether a setting that shapes may follow changes on the way."""
        return bool(self.weights.size) and float(np.ptp(self.weights, axis=0).max()) > 1e-4


@dataclass(frozen=True)
class Source:
    """Keys that some frames were sampled from, with nothing over them.

    Args:
        keys: the keys.
        first: the frame of the first sample.
        rate: frames a second of the keys.
    """

    keys: Keys
    first: float
    rate: float


def motion_of(
    name: str, rig: Rig, states: State, rate: float, source: Source | None = None
) -> Motion:
    """The motion of a batch of states.

    Args:
        name: of the motion.
        rig: the figure.
        states: ``(F, C, ...)``.
        rate: frames a second.
        source: the keys they come from; those that say the same as what the skeleton does are
            kept.
    """
    at = rig.evaluate(states)
    parents = rig.skeleton.parents
    above = [p if p >= 0 else 0 for p in parents]
    roots = np.array([p < 0 for p in parents])
    local = undone(at.nodes[:, above]) @ at.nodes
    local[:, roots] = at.nodes[:, roots]
    move, turn, scale = decompose(local)
    for node in range(turn.shape[1]):
        turn[:, node] = aligned(turn[:, node])
    count = len(turn)
    made = Motion(
        name,
        rate,
        np.arange(count) / rate,
        tuple(rig.skeleton.names),
        tuple(parents),
        move,
        turn,
        scale,
        tuple(s.name for s in rig.settings),
        at.settings,
    )
    kept = {} if source is None else _kept(rig, source, made)
    return replace(made, kept=kept | _stepped(rig, made))


def _stepped(rig: Rig, motion: Motion) -> dict[tuple[ChannelKind, str], Curve]:
    """Sizes of drawings and views that take turns: they are seen or not, and nothing between."""
    nodes = {*rig.views.bodies, *(node for swap in rig.swaps.values() for node in swap.nodes)}
    found = {}
    for node in sorted(nodes):
        sizes = motion.scale[:, node]
        changes = np.flatnonzero(np.abs(np.diff(sizes, axis=0)).max(1) > SAME) + 1
        at = np.concatenate([[0], changes])
        curve = Curve(motion.times[at], sizes[at], Ease.STEP)
        found[ChannelKind.SCALE, motion.nodes[node]] = curve
    return found


def _kept(rig: Rig, source: Source, motion: Motion) -> dict[tuple[ChannelKind, str], Curve]:
    found = {}
    for channel_id, line in source.keys.lines.items():
        curve = _curve(rig, channel_id, line, motion, source)
        if curve is not None:
            setting = channel_id.kind is ChannelKind.SETTING
            name = (
                channel_id.name
                if setting
                else rig.skeleton.names[rig.controls[rig.control_row[channel_id.name]].node]
            )
            found[(channel_id.kind, name)] = curve
    return found


def _curve(
    rig: Rig, channel_id: ChannelId, line: ChannelCurve, motion: Motion, source: Source
) -> Curve | None:
    """A line as a curve of what the skeleton does; None where it does something else, such as
    with a solver over it, or where it goes on in more than one way."""
    row, setting = place_of(rig, channel_id), channel_id.is_setting
    if row is None or (not setting and not rig.controls[row].moves_node):
        return None
    eases = set(line.eases[:-1].tolist()) or {int(Ease.STEP)}
    if setting and rig.settings[row].discrete:
        eases = {int(Ease.STEP)}
    if len(eases) > 1 or line.frames[0] < source.first - 1e-9:
        return None
    ease = Ease(eases.pop())
    turns = channel_id.kind is ChannelKind.TURN
    values, slopes = _written(line, ease, turns=turns)
    if not setting:
        values, slopes = _as_local(rig, channel_id, row, values, slopes)
    arrive, leave = (None, None) if slopes is None else slopes.swapaxes(0, 1)
    track = Track(line.frames, values, np.full(len(line), ease, np.uint8), turns, arrive, leave)
    shown = track.sample(motion.times * source.rate + source.first)
    target = _of_motion(rig, channel_id, row, motion)
    off = np.abs(shown - target)
    if turns:
        off = np.minimum(off.max(-1), np.abs(shown + target).max(-1))
    if off.max() > SAME:
        return None
    speed = slopes * source.rate if slopes is not None else None
    return Curve((line.frames - source.first) / source.rate, values, ease, speed)


def _written(line: ChannelCurve, ease: Ease, *, turns: bool) -> tuple[Array, Array | None]:
    """Values, neighbouring turns on the same half, and of smooth ones their slopes, written as the
    value at their key is."""
    values = aligned(line.values) if turns else np.array(line.values)
    if ease is not Ease.SMOOTH:
        return values, None
    slopes = np.stack(line.track.tangents(), axis=1)
    if turns:
        other = (values * line.values).sum(-1) < 0
        slopes = np.where(other[:, None, None], -slopes, slopes)
    return values, slopes


def _as_local(
    rig: Rig, channel_id: ChannelId, row: int, values: Array, slopes: Array | None
) -> tuple[Array, Array | None]:
    """Values relative to rest ``(K, w)`` as the node's own; slopes ``(K, 2, w)`` go the same linear
    way."""
    node, skeleton = rig.controls[row].node, rig.skeleton
    rest = skeleton.rotation[node]
    if channel_id.kind is ChannelKind.TURN:
        turned = multiply(rest, values)
        return turned, multiply(rest, slopes) if slopes is not None else None
    if channel_id.kind is ChannelKind.SCALE:
        size = skeleton.scale[node]
        return values * size, slopes * size if slopes is not None else None
    unit = float(rig.units_of(np.array([node]))[0])
    moved = skeleton.translation[node] + rotate(rest, values) / unit
    return moved, rotate(rest, slopes) / unit if slopes is not None else None


def _of_motion(rig: Rig, channel_id: ChannelId, row: int, motion: Motion) -> Array:
    if channel_id.kind is ChannelKind.SETTING:
        return motion.weights[:, row : row + 1]
    node = rig.controls[row].node
    column = {ChannelKind.MOVE: motion.move, ChannelKind.TURN: motion.turn}.get(
        channel_id.kind, motion.scale
    )
    return np.asarray(column[:, node])
