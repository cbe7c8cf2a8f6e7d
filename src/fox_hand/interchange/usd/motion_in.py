"""A UsdSkel animation as frames of its own rig."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.performance import FileKeys, Performance
from fox_hand.core.maths.measurable import measurable
from fox_hand.core.maths.rotations import Array, inverse, multiply, rotate
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.frame_rates import frame_count
from fox_hand.interchange.rig_words import NOTHING_SAID, RigWords
from fox_hand.interchange.usd.rigs import read_rig
from fox_hand.interchange.usd.usd_stage import (
    KEPT,
    column_matrices,
    damaged,
    module,
    open_stage,
    sound,
)

LONGEST = 200_000


def read_performance(
    path: Path, rate: float | None = None, words: RigWords = NOTHING_SAID
) -> Performance:
    """The animation bound to a file's first skeleton, sampled.

    Args:
        path: the file.
        rate: frames a second; None for the time codes a second that the file has.
        words: what was said about it, see :func:`fox_hand.interchange.usd.rigs.read_rig`.

    Raises:
        FoxHandError: if it cannot be read, or ``usd.no_animation``.
    """
    rig, stage = read_rig(path, words), open_stage(path)
    with sound(path):
        return _read(path, rig, stage, rate)


def _read(path: Path, rig: Rig, stage: Any, wanted: float | None) -> Performance:
    skel = module("UsdSkel")
    query, prim = _query(skel, stage)
    samples = query.GetJointTransformTimeSamples() if query is not None else []
    if query is None or not samples:
        raise FoxHandError(
            "usd.no_animation",
            tr("{name} has no animation.", name=path.name),
            KEPT,
            tr("Choose another file."),
        )
    codes = float(stage.GetTimeCodesPerSecond()) or 24.0
    first, last = float(samples[0]), float(samples[-1])
    rate = wanted or codes
    count = frame_count((last - first) / codes * rate)
    if count > LONGEST:
        raise damaged(path, tr("it is longer than {longest} frames", longest=LONGEST))
    times = np.minimum(first + np.arange(count, dtype=np.float64) * (codes / rate), last)
    names = [str(j).rsplit("/", 1)[-1] for j in query.GetJointOrder()]
    local = np.array([column_matrices(query.ComputeJointLocalTransforms(t)) for t in times])
    if not measurable(local):
        raise damaged(path, tr("its animation holds what is no number, or beyond all measure"))
    states = _states(rig, names, local, _weights(query, times))
    where = FileKeys((np.array(samples, dtype=np.float64) - first) / codes * rate, Ease.LINEAR)
    kinds = (ChannelKind.MOVE, ChannelKind.TURN, ChannelKind.SCALE)
    keys = {ChannelId(k, name): where for name in names if name in rig.control_row for k in kinds}
    return Performance(prim.GetName(), rig, states, rate, keys)


def _query(skel: Any, stage: Any) -> tuple[Any, Any]:
    cache = skel.Cache()
    for prim in stage.Traverse():
        if prim.IsA(skel.Root):
            cache.Populate(skel.Root(prim), module("Usd").PrimDefaultPredicate)
    for prim in stage.Traverse():
        if prim.IsA(skel.Skeleton):
            query = cache.GetSkelQuery(skel.Skeleton(prim))
            anim = query.GetAnimQuery() if query else None
            if anim:
                return anim, anim.GetPrim()
    return None, None


def _weights(query: Any, times: Array) -> dict[str, Array]:
    names = [str(n) for n in query.GetBlendShapeOrder() or []]
    if not names:
        return {}
    table = np.array([list(query.ComputeBlendShapeWeights(t)) for t in times])
    return {name: table[:, i] for i, name in enumerate(names)}


def _states(rig: Rig, names: list[str], local: Array, weights: dict[str, Array]) -> State:
    count = len(local)
    move, turn, scale, settings, euler = (
        np.broadcast_to(v, (count, *v.shape)).copy() for v in (rig.as_filed() or rig.rest).arrays()
    )
    skeleton = rig.skeleton
    places, turns, sizes = decompose(local)
    for row in rig.moving_rows.tolist():
        node = rig.controls[row].node
        own = skeleton.names[node]
        if own not in names:
            continue
        joint, back = names.index(own), inverse(skeleton.rotation[node])
        turn[:, row] = multiply(back, turns[:, joint])
        unit = float(rig.units_of(np.array([node]))[0])
        move[:, row] = rotate(back, places[:, joint] - skeleton.translation[node]) * unit
        scale[:, row] = sizes[:, joint] / skeleton.scale[node]
    for name, values in weights.items():
        if name in rig.setting_row:
            settings[:, rig.setting_row[name]] = values
    return State(move, turn, scale, settings, euler)
