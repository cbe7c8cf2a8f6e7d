"""``python -m cast.performance RIG FILE``: Marrow at work on deck, as a BVH file to pick from."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np

from cast.poses import BODY_POSES, Poser
from fox_hand.core.maths.euler import to_euler
from fox_hand.core.maths.rotations import Array, from_matrix, multiply, to_matrix
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import ChannelFilter, bind, take
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.readers import read_rig

RATE, MOVE, HOLD = 24, 16, 10  # frames a second, frames to the next pose, frames there
ORDER = ("Stand easy", "Wave", "Point across", "Crouch", "Arms up", "Sit on bollard", "Stand easy")
PLACED = 2  # joints from the root on that have a place of their own: the root and the hips
SWAY = 0.02  # radians that nobody stands still


def frames_of(rig: Rig) -> list[State]:
    """Body poses one after the other, with ease between them and life in the holds."""
    keys = [BODY_POSES[name](Poser(rig)).state for name in ORDER]
    body = [
        r for r, c in enumerate(rig.controls) if c.node >= 0 and not c.name.startswith("finger")
    ]
    found, now = list[State](), keys[0]
    rng = np.random.default_rng(4)
    for pose in keys:
        held = bind(take(rig, pose, ChannelFilter.of(rig, body)), rig)
        for i in range(MOVE):
            t = (i + 1) / MOVE
            found.append(blend(now, held, t * t * (3 - 2 * t), rig.setting_rules))
        now = found[-1]
        found += [_alive(rig, now, rng.normal(0, SWAY, 3), i) for i in range(HOLD)]
    return found


def _alive(rig: Rig, state: State, axis: Array, frame: int) -> State:
    turn = state.turn.copy()
    row = rig.control_row["chest"]
    vector = axis * np.sin(np.pi * frame / HOLD)
    q = np.append(vector / 2, 1.0)
    turn[row] = multiply(turn[row], q / np.linalg.norm(q))
    return state.with_(turn=turn)


def write_bvh(rig: Rig, states: list[State], path: Path) -> None:
    """Joints of the body with axes along the world at rest; offsets in centimetres."""
    rows = [
        r
        for r, c in enumerate(rig.controls)
        if c.moves_node and c.kind == "joint" and not c.helper and not c.name.startswith("finger")
    ]
    nodes = [rig.controls[r].node for r in rows]
    rest = rig.skeleton.rest_world
    parent = {n: _parent(rig, n, nodes) for n in nodes}
    root = [n for n in nodes if parent[n] < 0]
    assert len(root) == 1, root
    lines, order = ["HIERARCHY"], list[int]()
    _joint(rig, root[0], parent, rest, 0, lines, order)
    lines += ["MOTION", f"Frames: {len(states)}", f"Frame Time: {1 / RATE:.6f}"]
    rotations = to_rotations(rest)
    for state in states:
        world = rig.evaluate(state).nodes
        change = {n: to_rotations(world)[n] @ rotations[n].T for n in order}
        numbers = list[float]()
        for deep, n in enumerate(order):
            above = change[parent[n]] if parent[n] >= 0 else np.eye(3)
            if deep < PLACED:
                start = world[parent[n], :3, 3] if parent[n] >= 0 else np.zeros(3)
                numbers += list(above.T @ (world[n, :3, 3] - start) * 100)
            z, x, y = np.degrees(to_euler(from_matrix(above.T @ change[n]), "ZXY"))[[2, 0, 1]]
            numbers += [z, x, y]
        lines.append(" ".join(f"{v:.3f}" for v in numbers))
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text("\n".join(lines) + "\n")


def to_rotations(matrices: Array) -> Array:
    """World matrices ``(N, 4, 4)`` without scale, ``(N, 3, 3)``."""
    return to_matrix(
        from_matrix(matrices[:, :3, :3] / np.linalg.norm(matrices[:, :3, :3], axis=1)[:, None])
    )


def _parent(rig: Rig, node: int, nodes: list[int]) -> int:
    above = rig.skeleton.parents[node]
    while above >= 0 and above not in nodes:
        above = rig.skeleton.parents[above]
    return above


def _joint(
    rig: Rig,
    node: int,
    parent: dict[int, int],
    rest: Array,
    deep: int,
    lines: list[str],
    order: list[int],
) -> None:
    order.append(node)
    pad = "  " * deep
    start = rest[parent[node], :3, 3] if parent[node] >= 0 else np.zeros(3)
    offset = (rest[node, :3, 3] - start) * 100
    moves = deep < PLACED
    place = "Xposition Yposition Zposition " if moves else ""
    lines += [
        f"{pad}{'ROOT' if deep == 0 else 'JOINT'} {rig.skeleton.names[node]}",
        f"{pad}{{",
        f"{pad}  OFFSET {offset[0]:.4f} {offset[1]:.4f} {offset[2]:.4f}",
        f"{pad}  CHANNELS {6 if moves else 3} {place}Zrotation Xrotation Yrotation",
    ]
    children = [n for n in parent if parent[n] == node]
    for child in children:
        _joint(rig, child, parent, rest, deep + 1, lines, order)
    if not children:
        lines += [f"{pad}  End Site", f"{pad}  {{", f"{pad}    OFFSET 0 5 0", f"{pad}  }}"]
    lines.append(f"{pad}}}")


def main() -> None:
    rig = read_rig(Path(sys.argv[1]))
    write_bvh(rig, frames_of(rig), Path(sys.argv[2]))


if __name__ == "__main__":
    main()
