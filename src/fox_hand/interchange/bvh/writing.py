"""Motion as BVH: the joints' places at rest, then turns about world axes.

BVH joints have no axes of their own at rest, so every turn is written as the change from rest in
the frame of the joint above. Lengths are in centimetres, turns in degrees, ZXY for every joint
unless the rig came from a BVH file, whose own orders are kept. Roots have position channels, and
so has every joint that moves; there they take the place of its OFFSET. Scale and shapes are left
out, and said.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.animation.motion import Motion
from fox_hand.core.maths.euler import EulerOrder, axes_of, to_euler_near
from fox_hand.core.maths.rotations import Array, inverse, multiply, rotate
from fox_hand.core.maths.transforms import compose, decompose
from fox_hand.core.model.controls import ControlKind
from fox_hand.core.rig.rig import Rig

CENTIMETRES = 100.0
USUAL: EulerOrder = "ZXY"
MOVED = 1e-6  # metres off its offset from which on a joint has position channels


@dataclass(frozen=True, eq=False)
class Written:
    """A file's text, and sentences about what it could not hold."""

    text: str
    notes: tuple[str, ...]


def bvh_text(rig: Rig, motion: Motion) -> Written:
    """The whole file.

    Args:
        rig: the figure.
        motion: what it does.
    """
    joints = _joints(rig)
    writer = _BvhWriter(rig, motion, joints)
    return Written("\n".join(writer.hierarchy() + writer.frames()) + "\n", writer.notes())


def _joints(rig: Rig) -> list[int]:
    """Nodes that are bones, and what lies between them."""
    wanted = {c.node for c in rig.controls if c.kind is ControlKind.JOINT}
    found = set(wanted)
    for node in wanted:
        above = rig.skeleton.parents[node]
        chain = []
        while above >= 0:
            chain.append(above)
            if above in wanted:
                found.update(chain)
                break
            above = rig.skeleton.parents[above]
    return sorted(found)


class _BvhWriter:
    def __init__(self, rig: Rig, motion: Motion, joints: list[int]) -> None:
        self._rig, self._motion, self._joints = rig, motion, joints
        known = set(joints)
        self._parent = {}
        for joint in joints:
            above = rig.skeleton.parents[joint]
            while above >= 0 and above not in known:
                above = rig.skeleton.parents[above]
            self._parent[joint] = above
        self._children: dict[int, list[int]] = {j: [] for j in joints}
        for joint, above in self._parent.items():
            if above >= 0:
                self._children[above].append(joint)
        self._roots = [j for j in joints if self._parent[j] < 0]
        self._rest = rig.skeleton.rest_world
        self._order: list[int] = []
        self._orders = {}
        for joint in joints:
            row = rig.row_of_node.get(joint)
            own = rig.source.lower().endswith(".bvh") and row is not None
            self._orders[joint] = rig.controls[row].order if own and row is not None else USUAL

    def hierarchy(self) -> list[str]:
        """The first part."""
        lines = ["HIERARCHY"]
        for root in self._roots:
            lines += self._joint(root, 0)
        return lines

    def _joint(self, joint: int, depth: int) -> list[str]:
        pad, above = "  " * depth, self._parent[joint]
        word = "ROOT" if above < 0 else "JOINT"
        place = self._rest[joint, :3, 3] - (self._rest[above, :3, 3] if above >= 0 else 0.0)
        turns = " ".join(f"{axis}rotation" for axis in self._orders[joint])
        moves = "6 Xposition Yposition Zposition " if joint in self._moving else "3 "
        self._order.append(joint)
        lines = [
            f"{pad}{word} {_word(self._rig.skeleton.names[joint], joint)}",
            f"{pad}{{",
            f"{pad}  OFFSET {_numbers(place * CENTIMETRES)}",
            f"{pad}  CHANNELS {moves}{turns}",
        ]
        for child in self._children[joint]:
            lines += self._joint(child, depth + 1)
        if not self._children[joint]:
            tip = _numbers(self._tip(joint))
            lines += [f"{pad}  End Site", f"{pad}  {{", f"{pad}    OFFSET {tip}", f"{pad}  }}"]
        return [*lines, f"{pad}}}"]

    def _tip(self, joint: int) -> Array:
        """Where the last bone of a chain ends: at a node below it, else as far as it came."""
        below = [n for n, p in enumerate(self._rig.skeleton.parents) if p == joint]
        if below:
            way = self._rest[below[0], :3, 3] - self._rest[joint, :3, 3]
        else:
            above = self._parent[joint]
            start = self._rest[above, :3, 3] if above >= 0 else np.zeros(3)
            way = 0.5 * (self._rest[joint, :3, 3] - start)
        return np.asarray(way * CENTIMETRES)

    def frames(self) -> list[str]:
        """The second part."""
        motion, angles = self._motion, np.degrees(self._angles())
        columns: list[Array] = []
        for number, joint in enumerate(self._order):
            if joint in self._moving:
                columns.append(self._places[joint] * CENTIMETRES)
            columns.append(angles[:, number][:, axes_of(self._orders[joint])])
        table = np.concatenate(columns, axis=1)
        head = ["MOTION", f"Frames: {len(motion)}", f"Frame Time: {1.0 / motion.rate:.8f}"]
        return head + [_numbers(row) for row in table]

    def _angles(self) -> Array:
        """The turns of the joints in their order, ``(F, J, 3)`` radians; each frame's are near to
        those before, so nothing spins."""
        world, turns = self._world_changes, []
        for joint in self._order:
            above, turn = self._parent[joint], world[joint]
            turns.append(multiply(inverse(world[above]), turn) if above >= 0 else turn)
        all_turns = np.stack(turns, axis=1)
        axes = axes_of([self._orders[joint] for joint in self._order])
        found, hint = np.empty((*all_turns.shape[:2], 3)), np.zeros((len(turns), 3))
        for frame, now in enumerate(all_turns):
            found[frame] = hint = to_euler_near(now, axes, hint)
        return found

    @cached_property
    def _world(self) -> Array:
        """World matrices, ``(F, N, 4, 4)``."""
        motion = self._motion
        local = compose(motion.move, motion.turn, motion.scale)
        world = local.copy()
        for node, parent in enumerate(motion.parents):
            if parent >= 0:
                world[:, node] = world[:, parent] @ local[:, node]
        return world

    @cached_property
    def _world_changes(self) -> dict[int, Array]:
        """How each joint is turned in the world since rest, ``(F, 4)``."""
        world = self._world
        rest, now = decompose(self._rest)[1], decompose(world[:, self._joints])[1]
        turns = multiply(now, inverse(rest[self._joints]))
        return {joint: turns[:, number] for number, joint in enumerate(self._joints)}

    @cached_property
    def _places(self) -> dict[int, Array]:
        """Where each joint is, seen from the one above as that is turned, ``(F, 3)`` metres."""
        world, changes, found = self._world, self._world_changes, {}
        for joint, above in self._parent.items():
            place = world[:, joint, :3, 3]
            if above >= 0:
                place = rotate(inverse(changes[above]), place - world[:, above, :3, 3])
            found[joint] = place
        return found

    @cached_property
    def _moving(self) -> frozenset[int]:
        """Joints with position channels: the roots, and what does not stay at its offset."""
        found = set(self._roots)
        for joint, above in self._parent.items():
            if above >= 0:
                rest = self._rest[joint, :3, 3] - self._rest[above, :3, 3]
                if np.abs(self._places[joint] - rest).max() > MOVED:
                    found.add(joint)
        return frozenset(found)

    def notes(self) -> tuple[str, ...]:
        """What is not in the file."""
        found = []
        scaled = bool(np.abs(self._motion.scale - self._motion.scale[:1]).max() > 1e-4)
        if scaled:
            found.append(tr("BVH holds no scale, which is left out."))
        if self._motion.shapes_move:
            found.append(tr("BVH holds no shapes of the face, which are left out."))
        names = self._rig.skeleton.names
        if any(_word(names[joint], joint) != names[joint] for joint in self._joints):
            found.append(tr("BVH names are single words; spaces are written as _."))
        return tuple(found)


def _word(name: str, joint: int) -> str:
    """A name as one word, as programs that read BVH word by word expect it."""
    return "_".join(name.split()) or f"joint_{joint}"


def _numbers(values: Array) -> str:
    return " ".join(f"{float(v):.6f}" for v in np.asarray(values).ravel())
