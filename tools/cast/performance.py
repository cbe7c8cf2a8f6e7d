"""``python -m cast.performance FILE``: somebody walks along the deck, stops, looks and sits down.

A recording as other houses make them: joints named by joint, Z up, arms out at rest, another build
and another rate than our cast, no fingers. Made with the invented bodies and motions of the tests.
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Literal

import numpy as np
from scipy.spatial.transform import Rotation
from tests.bodies import Build, Placed, body_rig
from tests.core.naming.test_roles import FAMILIES
from tests.motions import Plan, acted, smooth

from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array

RATE, SECONDS = 30.0, 6.6
BODY = Build(height=1.78, legs=0.49, arms=0.34, arms_down=0.0, spine=3)
FIRST, EVERY, SWING = 0.3, 0.55, 0.5  # seconds: the first step, from one to the next, in the air
STEPS = (("right", 0.45), ("left", 1.0), ("right", 1.55), ("left", 1.95), ("right", 1.95))
LANDS, LIFTS = 0.12, 0.14  # seconds in which a foot rolls down, and up
LOOK, BACK, DOWN = 3.3, 4.3, 4.9  # seconds at which it looks aside, ahead, and sits down
ORDER: Literal["ZYX"] = "ZYX"


def eased(t: float, start: float, seconds: float) -> float:
    return smooth((t - start) / seconds)


def foot(side: str, t: float) -> tuple[np.ndarray, float, bool]:
    """Where a foot is, how far its toes are up in degrees, and whether it rolls over the heel."""
    ahead, pitch, heel, high = 0.0, 0.0, True, 0.0
    for number, (other, to) in enumerate(STEPS):
        if other != side:
            continue
        start = FIRST + EVERY * number
        if start - LIFTS < t < start:
            pitch, heel = -28 * eased(t, start - LIFTS, LIFTS), False
        if t >= start:
            part = min((t - start) / SWING, 1.0)
            high = 0.14 * float(np.sin(np.pi * part))
            pitch, heel = -28 + 42 * smooth(part), part > 0.5
            ahead += smooth(part) * (to - ahead)
            if part >= 1.0:
                pitch, heel = 14 * (1 - eased(t, start + SWING, LANDS)), True
    return np.array([0.12 if side == "left" else -0.12, high, ahead]), pitch, heel


def planned(t: float) -> Plan:
    """The figure at a time in seconds."""
    feet = {side: foot(side, t) for side in ("left", "right")}
    walks = eased(t, 0.1, 0.5) * (1 - eased(t, 2.6, 0.6))
    swing = float(np.sin(2 * np.pi * (t - FIRST) / (2 * EVERY))) * walks
    look = eased(t, LOOK, 0.45) * (1 - eased(t, BACK, 0.5))
    down, breath = eased(t, DOWN, 1.0), float(np.sin(2 * np.pi * t / 3.1))
    middle = (feet["left"][0][2] + feet["right"][0][2]) / 2
    over = 0.045 * swing + 0.02 * look
    hips = np.array([over, 0.955 - 0.43 * down - 0.012 * abs(swing), middle - 0.36 * down])
    arm = 24 * swing
    return Plan(
        hips,
        0.0,
        feet,
        {
            "hips": (3 * walks + 10 * down, 5 * swing + 8 * look, 2 * swing),
            "spine": (2 + 9 * down, -4 * swing + 8 * look, 0.0),
            "chest": (1 + 0.8 * breath, -5 * swing + 10 * look, 0.0),
            "neck": (6.0, 14 * look, 0.0),
            "head": (-4 - 12 * down - 4 * look, 22 * look, 4 * look),
            "leftUpperArm": (-arm - 46 * down, -20 * down, -72 - 4 * down),
            "rightUpperArm": (arm - 46 * down, 20 * down, 72 + 4 * down),
            "leftLowerArm": (-12 - 0.4 * abs(arm) - 52 * down, -8.0, 0.0),
            "rightLowerArm": (-12 - 0.4 * abs(arm) - 52 * down, 8.0, 0.0),
        },
    )


def performance() -> Performance:
    """All frames, on a body of its own."""
    names = {k: n for k, n in FAMILIES["by joint"].items() if "Finger" not in n}
    rig = body_rig(BODY, names, Placed())
    plans = [planned(frame / RATE) for frame in range(round(SECONDS * RATE) + 1)]
    return acted(rig, {name: key for key, name in names.items()}, plans, "on deck", RATE)


# from Y up, ahead +Z to Z up, ahead -Y
UPRIGHT = np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]])


def written(made: Performance) -> str:
    """The file: axes along the world at rest, offsets in centimetres."""
    rig, nodes = made.rig, made.rig.evaluate(made.states).nodes
    rest, parents = rig.skeleton.rest_world, rig.skeleton.parents
    lines = ["HIERARCHY"]
    order = _hierarchy(rig.skeleton.names, parents, rest[:, :3, 3] @ UPRIGHT.T * 100, 0, 0, lines)
    lines += ["MOTION", f"Frames: {len(made)}", f"Frame Time: {1 / made.rate:.7f}"]
    for frame in nodes:
        change = [
            UPRIGHT @ _turned(w) @ _turned(r).T @ UPRIGHT.T
            for w, r in zip(frame, rest, strict=True)
        ]
        numbers = list(UPRIGHT @ frame[order[0], :3, 3] * 100)
        for node in order:
            above = change[parents[node]] if parents[node] >= 0 else np.eye(3)
            own = Rotation.from_matrix(above.T @ change[node])
            numbers += own.as_euler(ORDER, degrees=True).tolist()
        lines.append(" ".join(f"{v:.3f}" for v in numbers))
    return "\n".join(lines) + "\n"


def _turned(matrix: Array) -> Array:
    return np.asarray(matrix[:3, :3] / np.linalg.norm(matrix[:3, :3], axis=0))


def _hierarchy(
    names: tuple[str, ...],
    parents: tuple[int, ...],
    places: Array,
    node: int,
    deep: int,
    lines: list[str],
) -> list[int]:
    """A joint and those below it; returns them in the order of their channels."""
    pad, above = "  " * deep, parents[node]
    x, y, z = places[node] - (places[above] if above >= 0 else places[node] * 0)
    moves = "Xposition Yposition Zposition " if above < 0 else ""
    turns = " ".join(f"{axis}rotation" for axis in ORDER)
    lines += [
        f"{pad}{'JOINT' if deep else 'ROOT'} {names[node]}",
        f"{pad}{{",
        f"{pad}  OFFSET {x:.4f} {y:.4f} {z:.4f}",
        f"{pad}  CHANNELS {6 if moves else 3} {moves}{turns}",
    ]
    order = [node]
    below = [child for child, parent in enumerate(parents) if parent == node]
    for child in below:
        order += _hierarchy(names, parents, places, child, deep + 1, lines)
    if not below:
        lines += [f"{pad}  End Site", f"{pad}  {{", f"{pad}    OFFSET 0 0 5", f"{pad}  }}"]
    lines.append(f"{pad}}}")
    return order


def main() -> None:
    path = Path(sys.argv[1])
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(written(performance()))


if __name__ == "__main__":
    main()
