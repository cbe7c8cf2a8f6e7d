"""A rig and its motion out of a BVH file.

Decided, because files differ: a position channel replaces the joint's OFFSET, for the root as for
every other joint. Rest is the hierarchy's own stance, with all channels at their offsets.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import cast, get_args

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.maths.euler import EulerOrder, from_euler
from fox_hand.core.maths.rotations import Array, from_vector, rotate
from fox_hand.core.maths.transforms import undone
from fox_hand.core.model.body_frame import BodyFrame
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.bvh.document import BvhDocument, Joint, open_document
from fox_hand.interchange.fingerprint import fingerprint
from fox_hand.interchange.joint_controls import joint_controls, unique_names
from fox_hand.interchange.rig_words import NOTHING_SAID, RigWords, in_unit
from fox_hand.interchange.units import UnitUnknownError


@dataclass(frozen=True)
class BvhMotion:
    """Frames of a rig.

    Args:
        rig: the skeleton.
        states: a batch of states, ``(F, C, ...)``.
        frame_time: seconds from frame to frame.
        unit: metres of one unit of the file.
    """

    rig: Rig
    states: State
    frame_time: float
    unit: float


def read_rig(path: Path, words: RigWords = NOTHING_SAID) -> Rig:
    """Read a skeleton. BVH files do not say their unit.

    Raises:
        UnitUnknownError: where nobody has said the unit.
        FoxHandError: for files that cannot be read.
    """
    return _rig(path, open_document(path), words)


def read_motion(
    path: Path, words: RigWords = NOTHING_SAID, likely: Callable[[float], float] | None = None
) -> BvhMotion:
    """Read a skeleton with its frames.

    Args:
        path: the file.
        words: what was said about it.
        likely: gives metres per unit for a figure of so many units, where nobody has said it.

    Raises:
        UnitUnknownError: where nobody has said the unit, and none is likely.
        FoxHandError: for files that cannot be read.
    """
    document = open_document(path)
    try:
        rig = _rig(path, document, words)
    except UnitUnknownError as error:
        if likely is None:
            raise
        words = in_unit(words, likely(error.height))
        rig = _rig(path, document, words)
    unit = words.metres_per_unit
    assert unit is not None
    return BvhMotion(rig, _states(rig, document, unit), document.frame_time, unit)


def _rig(path: Path, document: BvhDocument, words: RigWords) -> Rig:
    metres_per_unit = words.metres_per_unit
    offsets = np.array([j.offset for j in document.joints])
    parents = tuple(j.parent for j in document.joints)
    if metres_per_unit is None:
        places = offsets.copy()
        for i, parent in enumerate(parents):
            if parent >= 0:
                places[i] += places[parent]
        raise UnitUnknownError(path, float(np.ptp(places, axis=0).max()))  # it may lie
    count = len(document.joints)
    turn = np.tile([0.0, 0.0, 0.0, 1.0], (count, 1))
    names = unique_names([j.name for j in document.joints])
    skeleton = Skeleton(names, parents, offsets * metres_per_unit, turn, np.ones((count, 3)))
    joints = [i for i, j in enumerate(document.joints) if not j.end]
    orders = {i: order_of(document.joints[i]) for i in joints}
    channels = {i: _channels_of(document.joints[i]) for i in joints}
    found = joint_controls(skeleton, joints, orders=orders, channels=channels)
    skeleton, notes = _upright(skeleton, found.body)
    if notes or words.body is not None:
        found = joint_controls(skeleton, joints, orders=orders, channels=channels, body=words.body)
    return Rig(
        name=path.stem.replace("_", " ").title(),
        skeleton=skeleton,
        controls=tuple(found.controls),
        settings=(),
        parts=(),
        palette_nodes=np.arange(count, dtype=np.intp),
        inverse_binds=undone(skeleton.rest_world),
        fingerprint=fingerprint(found.controls, [], skeleton),
        body=found.body,
        source=str(path),
        notes=(*notes, *found.notes, *document.notes),
    )


def _upright(skeleton: Skeleton, body: BodyFrame) -> tuple[Skeleton, list[str]]:
    """A figure that lies along another axis than Y, as files of programs with Z up have it, set
    upright by how its roots rest; turns and moves of their channels mean what they meant."""
    number = int(np.argmax(np.abs(body.up)))
    if (body.up[number] > 0 and number == 1) or body.sure < 1.0:
        return skeleton, []  # one whose back and legs disagree rests in no stance at all
    way = {0: ("z", 90.0), 1: ("x", 180.0), 2: ("x", -90.0)}[number]
    angle = way[1] if body.up[number] > 0 or number == 1 else -way[1]
    axis = {"x": (1.0, 0.0, 0.0), "z": (0.0, 0.0, 1.0)}[way[0]]
    turn = from_vector(np.radians(angle) * np.array(axis))
    roots = [i for i, p in enumerate(skeleton.parents) if p < 0]
    places, turns = skeleton.translation.copy(), skeleton.rotation.copy()
    places[roots], turns[roots] = rotate(turn, places[roots]), turn
    note = tr("The figure's up is {upwards} in the file; it was set upright.", upwards=body.upwards)
    return replace(skeleton, translation=places, rotation=turns), [note]


def _channels_of(joint: Joint) -> frozenset[Channel]:
    kinds = {kind for kind, _ in joint.channels}
    found = {Channel.TURN} if "rotation" in kinds or not kinds else set()
    return frozenset(found | ({Channel.MOVE} if "position" in kinds else set()))


def order_of(joint: Joint) -> EulerOrder:
    """The order of a joint's rotation channels; axes it lacks come last."""
    letters = ["XYZ"[axis] for kind, axis in joint.channels if kind == "rotation"]
    unique = list(dict.fromkeys(letters))
    order = "".join(unique + [a for a in "XYZ" if a not in unique])
    assert order in get_args(EulerOrder)
    return cast(EulerOrder, order)


def _states(rig: Rig, document: BvhDocument, metres_per_unit: float) -> State:
    frames, rest = document.frames, rig.rest
    count = len(frames)

    def many(values: Array) -> Array:
        return np.broadcast_to(values, (count, *values.shape)).copy()

    move, turn, euler = many(rest.move), many(rest.turn), many(rest.euler)
    column = 0
    for node, joint in enumerate(document.joints):
        row = rig.row_of_node.get(node)
        turned = False
        for kind, axis in joint.channels:
            values = frames[:, column]
            column += 1
            if row is None:
                continue
            if kind == "rotation":
                euler[:, row, axis] += np.radians(values)
                turned = True
            else:
                move[:, row, axis] = (values - joint.offset[axis]) * metres_per_unit
        if turned and row is not None:
            turn[:, row] = from_euler(euler[:, row], order_of(joint))
    return State(move, turn, many(rest.scale), many(rest.settings), euler)
