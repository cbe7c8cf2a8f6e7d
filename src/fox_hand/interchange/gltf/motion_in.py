"""Animations of a glTF file as frames of its own rig."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import msgspec
import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.words import plain_name
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease, Track
from fox_hand.core.animation.performance import FileKeys, Performance
from fox_hand.core.maths.rotations import Array, inverse, multiply, normalise, rotate
from fox_hand.core.maths.transforms import compose, decompose, undone
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.frame_rates import USUAL, frame_count, rate_of
from fox_hand.interchange.gltf.accessors import Accessors
from fox_hand.interchange.gltf.document import KEPT, GltfDocument, Struct, damaged, open_document
from fox_hand.interchange.gltf.rigs import node_names, read_rig
from fox_hand.interchange.gltf.writing import GltfFile
from fox_hand.interchange.rig_words import NOTHING_SAID, RigWords

LONGEST = 200_000  # frames
WHOLE = 1e-3  # frames
TANGENTS = 3  # numbers for each key of a spline: arriving, the value, leaving
PATHS = ("translation", "rotation", "scale")
KINDS = {
    "translation": ChannelKind.MOVE,
    "rotation": ChannelKind.TURN,
    "scale": ChannelKind.SCALE,
}
EASES = {"STEP": Ease.STEP, "LINEAR": Ease.LINEAR, "CUBICSPLINE": Ease.SMOOTH}


class _Target(Struct):
    path: str
    node: int | None = None


class _Channel(Struct):
    sampler: int
    target: _Target


class _Sampler(Struct):
    input: int
    output: int
    interpolation: str = "LINEAR"


class _Animation(Struct):
    channels: list[_Channel]
    samplers: list[_Sampler]
    name: str | None = None


@dataclass(frozen=True, eq=False)
class _Sampled:
    """A channel as it lies in the file, times in seconds."""

    name: str
    kind: str
    times: Array
    values: Array
    ease: Ease | None
    shapes: tuple[str, ...] = ()


def animations_of(path: Path) -> list[str]:
    """Names of the animations in a file, in its order; those without one are numbered.

    Raises:
        FoxHandError: if it cannot be read.
    """
    raw = GltfFile.read(path).document.get("animations", [])
    names = [one.get("name") if isinstance(one, dict) else None for one in raw]
    return [
        plain_name(str(name or "")) or tr("animation {i}", i=i) for i, name in enumerate(names, 1)
    ]


def read_performance(
    path: Path, rate: float | None = None, number: int = 0, words: RigWords = NOTHING_SAID
) -> Performance:
    """One animation of a file, sampled; the one pose it stands in where it has none.

    Args:
        path: the file. Without a skin the nodes that the animation moves are the joints.
        rate: frames a second; None for the one its keys were made at.
        number: which animation.
        words: what was said about it, see :func:`fox_hand.interchange.gltf.rigs.read_rig`.

    Raises:
        FoxHandError: if it cannot be read, or ``gltf.no_animation``.
    """
    document, buffers = open_document(path)
    raw = GltfFile.read(path).document.get("animations", [])
    if not raw and document.skins:
        rig = read_rig(path, words=words)
        stood = rig.as_filed()
        if stood is not None:
            one = State(*(values[None] for values in stood.arrays()))
            return Performance(path.stem, rig, one, rate or USUAL)
    if not 0 <= number < len(raw):
        raise FoxHandError(
            "gltf.no_animation",
            tr("{name} has no animation.", name=path.name),
            KEPT,
            tr("Choose another file."),
        )
    try:
        animation = msgspec.convert(raw[number], _Animation)
    except msgspec.ValidationError as error:
        raise damaged(path, tr("its animation is not what glTF says")) from error
    aims = [c.target for c in animation.channels if c.target.path != "weights"]
    rig = read_rig(path, {t.node for t in aims if t.node is not None}, words)
    channels = _channels(path, animation, Accessors(path, document, buffers), document)
    rate = rate or rate_of(c.times for c in channels)
    tracks: dict[tuple[str, str], Track] = {}
    for channel in channels:
        times = _on_frames(channel.times * rate)
        if channel.kind == "weights":
            _weights(tracks, times, channel.values, list(channel.shapes), channel.ease, rate)
        else:
            turn = channel.kind == "rotation"
            track = _track(path, times, channel.values, channel.ease, rate, turn=turn)
            tracks[(channel.name, channel.kind)] = track
    return _sampled(path, rig, tracks, animation.name or path.stem, rate)


def _on_frames(frames: Array) -> Array:
    """Keys that miss a whole frame only because times are in single precision stand on it: a step
    that comes a millionth of a frame late would come a frame late."""
    whole = frames.round()
    return np.where(np.abs(frames - whole) < WHOLE, whole, frames)


def _channels(
    path: Path, animation: _Animation, read: Accessors, document: GltfDocument
) -> list[_Sampled]:
    names = {index: name for name, index in node_names(path, document).items()}
    found = []
    for channel in animation.channels:
        node, kind = channel.target.node, channel.target.path
        if node is None or node not in names:
            continue
        if not 0 <= channel.sampler < len(animation.samplers):
            raise damaged(path, tr("an animation names a sampler that is not there"))
        sampler = animation.samplers[channel.sampler]
        times = _times(path, read.floats(sampler.input)[:, 0].astype(np.float64))
        values = read.floats(sampler.output).astype(np.float64)
        shapes = tuple(document.target_names(node)) if kind == "weights" else ()
        ease = EASES.get(sampler.interpolation)
        found.append(_Sampled(names[node], kind, times, values, ease, shapes))
    return found


def _times(path: Path, times: Array) -> Array:
    """Key times in seconds, checked: numbers that rise (glTF 2.0, 3.11); equal ones are many
    programs' way to write a jump, and the later one counts for nothing."""
    if not np.isfinite(times).all() or (times < 0).any():
        raise damaged(path, tr("an animation has times that are no times"))
    if (np.diff(times) < 0).any():
        raise damaged(path, tr("the times of an animation's keys do not rise"))
    return times


def _track(
    path: Path, times: Array, values: Array, ease: Ease | None, rate: float, *, turn: bool
) -> Track:
    """A sampler as a track; times in frames. Tangents of the file are for a second (glTF 2.0,
    appendix C.5), those of a track for a frame."""
    if ease is None:
        raise damaged(path, tr("an animation goes on in a way glTF does not have"))
    arrive = leave = None
    if ease is Ease.SMOOTH:
        if len(values) % 3:
            raise damaged(path, tr("a smooth animation lacks tangents"))
        thirds = values.reshape(-1, 3, values.shape[1])
        arrive, values, leave = thirds[:, 0] / rate, thirds[:, 1], thirds[:, 2] / rate
    if values.shape[1] != (4 if turn else 3):
        raise damaged(path, tr("an animation has values of another kind than what they move"))
    if len(values) != len(times) or not len(times):
        raise damaged(path, tr("an animation has more keys than values"))
    fresh = np.concatenate([[True], np.diff(times) > 1e-9])
    values = normalise(values) if turn else values
    eases = np.full(int(fresh.sum()), ease, np.uint8)
    if arrive is not None and leave is not None:
        arrive, leave = arrive[fresh], leave[fresh]
    return Track(times[fresh], values[fresh], eases, turn, arrive, leave)


def _weights(
    tracks: dict[tuple[str, str], Track],
    times: Array,
    values: Array,
    targets: list[str],
    ease: Ease | None,
    rate: float,
) -> None:
    """A sampler of weights as a track for each shape; tangents as in :func:`_track`."""
    count = len(targets)
    if not count or ease is None or len(values) % (count * len(times)):
        return
    table = values.reshape(len(times), -1, count)
    fresh = np.concatenate([[True], np.diff(times) > 1e-9])
    times, table = times[fresh], table[fresh]
    smooth = ease is Ease.SMOOTH and table.shape[1] == TANGENTS
    eases = np.full(len(times), ease if smooth or ease is not Ease.SMOOTH else Ease.LINEAR)
    for column, name in enumerate(targets):
        one = table[:, :, column : column + 1]
        arrive, leave = (one[:, 0] / rate, one[:, 2] / rate) if smooth else (None, None)
        middle = one[:, 1] if smooth else one[:, 0]
        track = Track(times, middle, eases.astype(np.uint8), False, arrive, leave)
        tracks.setdefault(("", name), track)


def _sampled(
    path: Path, rig: Rig, tracks: dict[tuple[str, str], Track], name: str, rate: float
) -> Performance:
    last = max((float(t.frames[-1]) for t in tracks.values()), default=0.0)
    if last > LONGEST:
        raise damaged(path, tr("it is longer than {longest} frames", longest=LONGEST))
    frames = np.arange(frame_count(last), dtype=np.float64)
    count = len(frames)
    rest = rig.as_filed() or rig.rest  # what no track moves stands as the file has it
    move, turn, scale, settings, euler = (
        np.broadcast_to(v, (count, *v.shape)).copy() for v in rest.arrays()
    )
    for row in rig.moving_rows.tolist():
        node = rig.controls[row].node
        above = _above(rig, node, tracks, frames)
        if above is not None:
            _with_above(rig, row, above, tracks, frames, (move, turn, scale))
        else:
            _own(rig, row, tracks, frames, (move, turn, scale))
    for row, setting in enumerate(rig.settings):
        if ("", setting.name) in tracks:
            settings[:, row] = tracks[("", setting.name)].sample(frames)[:, 0]
    states = State(move, turn, scale, settings, euler)
    return Performance(name, rig, states, rate, _file_keys(rig, tracks))


def _file_keys(rig: Rig, tracks: Mapping[tuple[str, str], Track]) -> dict[ChannelId, FileKeys]:
    """Where the keys stand of what the file moves itself."""
    found = {}
    for (name, kind), track in tracks.items():
        channel_id = ChannelId(KINDS.get(kind, ChannelKind.SETTING), name or kind)
        known = rig.setting_row if channel_id.is_setting else rig.control_row
        if channel_id.name in known:
            found[channel_id] = _keys_of(rig, channel_id, track)
    return found


def _keys_of(rig: Rig, channel_id: ChannelId, track: Track) -> FileKeys:
    """Where a track has its keys, and of a spline its slopes relative to rest."""
    ease = Ease(int(track.eases[0]))
    if track.arrive is None or track.leave is None:
        return FileKeys(track.frames, ease)
    slopes, values = np.stack([track.arrive, track.leave], axis=1), track.values
    if channel_id.is_setting:
        return FileKeys(track.frames, ease, slopes, values)
    node, skeleton = rig.controls[rig.control_row[channel_id.name]].node, rig.skeleton
    back = inverse(skeleton.rotation[node])
    if channel_id.kind is ChannelKind.TURN:
        slopes, values = multiply(back, slopes), multiply(back, values)
    elif channel_id.kind is ChannelKind.MOVE:
        slopes = rotate(back, slopes) * float(rig.units_of(np.array([node]))[0])
    else:
        slopes = slopes / np.where(skeleton.scale[node] == 0, 1.0, skeleton.scale[node])
    return FileKeys(track.frames, ease, slopes, values)


Tracks = Mapping[tuple[str, str], Track]
Channels = tuple[Array, Array, Array]


def _own(rig: Rig, row: int, tracks: Tracks, frames: Array, into: Channels) -> None:
    """A joint's own channels."""
    move, turn, scale = into
    node, skeleton = rig.controls[row].node, rig.skeleton
    own, back = skeleton.names[node], inverse(skeleton.rotation[node])
    if (own, "rotation") in tracks:
        turn[:, row] = normalise(multiply(back, tracks[(own, "rotation")].sample(frames)))
    if (own, "translation") in tracks:
        away = tracks[(own, "translation")].sample(frames) - skeleton.translation[node]
        move[:, row] = rotate(back, away) * float(rig.units_of(np.array([node]))[0])
    if (own, "scale") in tracks:
        safe = np.where(skeleton.scale[node] == 0, 1.0, skeleton.scale[node])
        scale[:, row] = tracks[(own, "scale")].sample(frames) / safe


def _above(rig: Rig, node: int, tracks: Tracks, frames: Array) -> Array | None:
    """What nodes between a joint and the joint above it do, which are no controls themselves:
    the way from their rest to each frame, ``(F, 4, 4)``; None where they stand still."""
    chain, parent = list[int](), rig.skeleton.parents[node]
    while parent >= 0 and parent not in rig.row_of_node:
        chain.append(parent)
        parent = rig.skeleton.parents[parent]
    names = [rig.skeleton.names[n] for n in chain]
    if not any((name, kind) in tracks for name in names for kind in PATHS):
        return None
    moving, rest = np.tile(np.eye(4), (len(frames), 1, 1)), np.eye(4)
    for above in reversed(chain):
        moving = moving @ _local(rig, above, tracks, frames)
        rest = rest @ _local(rig, above, {}, frames[:1])[0]
    return np.asarray(undone(rest) @ moving)


def _local(rig: Rig, node: int, tracks: Tracks, frames: Array) -> Array:
    """A node's local matrices, ``(F, 4, 4)``."""
    base, own = rig.filed or rig.skeleton, rig.skeleton.names[node]
    values = []
    for kind, rest in zip(PATHS, (base.translation, base.rotation, base.scale), strict=True):
        track = tracks.get((own, kind))
        plain = np.broadcast_to(rest[node], (len(frames), rest.shape[1]))
        values.append(plain if track is None else track.sample(frames))
    return compose(values[0], normalise(values[1]), values[2])


def _with_above(
    rig: Rig, row: int, above: Array, tracks: Tracks, frames: Array, into: Channels
) -> None:
    """A joint's channels with what nodes above it do, which nothing else could show."""
    node, skeleton = rig.controls[row].node, rig.skeleton
    places, turns, sizes = decompose(above @ _local(rig, node, tracks, frames))
    back = inverse(skeleton.rotation[node])
    move, turn, scale = into
    turn[:, row] = normalise(multiply(back, turns))
    unit = float(rig.units_of(np.array([node]))[0])
    move[:, row] = rotate(back, places - skeleton.translation[node]) * unit
    scale[:, row] = sizes / np.where(skeleton.scale[node] == 0, 1.0, skeleton.scale[node])


def facts_of(path: Path) -> list[tuple[str, float, float]]:
    """Of each animation its name, its rate and how many seconds it takes; what cannot be known of
    a damaged one is 0.

    Raises:
        FoxHandError: if the file cannot be read.
    """
    document, buffers = open_document(path)
    read = Accessors(path, document, buffers)
    raw = document.animations if isinstance(document.animations, list) else []
    found = []
    for name, one in zip(animations_of(path), raw, strict=False):
        times: list[Array] = []
        with contextlib.suppress(FoxHandError, msgspec.ValidationError, IndexError):
            samplers = msgspec.convert(one, _Animation).samplers
            times = [_times(path, read.floats(s.input)[:, 0].astype(float)) for s in samplers]
        last = max((float(t[-1]) for t in times if len(t)), default=0.0)
        found.append((name, rate_of(times) if times else 0.0, last))
    return found
