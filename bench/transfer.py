"""How well motion of others lands: made-up walks, turns, runs, sits and jumps of made-up bodies, or
files of your own, on the demo's cast.

    scripts/python bench/transfer.py                    made-up motions
    scripts/python bench/transfer.py walk.bvh run.glb   your own recordings, at 24 a second

For each it prints, over all frames: the largest angle in degrees between where limbs point there
and here, for arms and for legs (which feet that hold the ground bend a little); by how many cm
a standing foot slides from frame to frame, there and here; how far the lowest point of the feet is
from the ground, and how far the hips came down; and milliseconds for a frame.
"""

from __future__ import annotations

import sys
import time
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array
from fox_hand.core.retarget.figure_motion import role_nodes, sole_level
from fox_hand.core.retarget.soles import Stands, soles_of
from fox_hand.core.retarget.standing import standing
from fox_hand.core.retarget.transfer import FollowOptions, Transferred
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.motions import read_performance
from fox_hand.interchange.readers import read_rig
from fox_hand.session.animating.motion_import import followed_on

ROOT = Path(__file__).resolve().parent.parent
ARMS = (("UpperArm", "LowerArm"), ("LowerArm", "Hand"))
LEGS = (("UpperLeg", "LowerLeg"), ("LowerLeg", "Foot"))
CAST = ("marrow", "pim", "quill", "brandle")


@dataclass(frozen=True)
class Figures:
    """One motion on one character."""

    arms: float
    legs: float
    slid: tuple[float, float]
    low: float
    hips: float
    milliseconds: float

    def __str__(self) -> str:
        return (
            f"arms {self.arms:5.2f}  legs {self.legs:5.1f}  slide {self.slid[0]:5.2f} there "
            f"{self.slid[1]:5.2f} here  lowest {self.low:6.2f}  hips {self.hips:5.2f}  "
            f"{self.milliseconds:5.2f} ms"
        )


def made_up() -> list[Performance]:
    """Motions of a body that looks aside, has more joints than roles, and axes of its own."""
    sys.path.insert(0, str(ROOT))
    from tests.bodies import Build, Placed, body_rig
    from tests.core.naming.test_roles import FAMILIES
    from tests.motions import MOTIONS, performed

    names = FAMILIES["up leg"] | {"extra spine 1": "Extra", "extra neck 1": "Neck1"}
    build, placed = Build(spine=4, necks=2, arms_down=0), Placed(140, (2, 0.4, 1), 0.01, axes=3)
    rig = body_rig(build, names, placed)
    keys = {name: key for key, name in names.items()}
    return [performed(rig, keys, name, lift=0.3) for name in MOTIONS]


def figures(performance: Performance, rig: Rig) -> Figures:
    """What comes out on a character."""
    began = time.perf_counter()
    found = followed_on(performance, rig, None, FollowOptions(starts=True))
    took = (time.perf_counter() - began) * 1000 / len(performance)
    source = standing(performance)
    there = source.rig.evaluate(source.states).nodes
    here = rig.evaluate(found.state).nodes
    slid = (_slid(source.rig, there, found.stands), _slid(rig, here, found.stands))
    return Figures(
        _apart(source.rig, there, rig, here, ARMS),
        _apart(source.rig, there, rig, here, LEGS),
        slid,
        _lowest(rig, here) * 100,
        _hips(found),
        took,
    )


def _hips(found: Transferred) -> float:
    return float(found.held.hips.max(initial=0.0)) * 100 if found.held is not None else 0.0


def _apart(
    one: Rig, there: Array, other: Rig, here: Array, limbs: tuple[tuple[str, str], ...]
) -> float:
    worst = 0.0
    for side in ("left", "right"):
        for a, b in limbs:
            ends = side + a, side + b
            if all(r in role_nodes(one) and r in role_nodes(other) for r in ends):
                ways = [_way(rig, nodes, ends) for rig, nodes in ((one, there), (other, here))]
                cosine = np.clip((ways[0] * ways[1]).sum(1), -1, 1)
                worst = max(worst, float(np.degrees(np.arccos(cosine)).max()))
    return worst


def _way(rig: Rig, nodes: Array, ends: tuple[str, str]) -> Array:
    known = role_nodes(rig)
    start, stop = (nodes[:, known[role], :3, 3] for role in ends)
    way = (stop - start) @ rig.body.axes
    return np.asarray(way / np.linalg.norm(way, axis=1, keepdims=True))


def _slid(rig: Rig, nodes: Array, stands: Stands | None) -> float:
    worst = 0.0
    for side, sole in soles_of(rig).items():
        if stands is None or side not in stands.heels:
            continue
        points = rig.body.seen(sole.points(nodes))[..., [0, 2]]  # that it rolls is no sliding
        for number, marks in enumerate((stands.heels[side], stands.balls[side])):
            steps = np.linalg.norm(np.diff(points[:, number], axis=0), axis=1)
            worst = max(worst, float(steps[marks[1:] & marks[:-1]].max(initial=0.0)))
    return worst * 100


def _lowest(rig: Rig, nodes: Array) -> float:
    soles = soles_of(rig)
    if not soles:
        return 0.0
    ground = min(sole_level(rig, side) for side in soles)
    lows = [rig.body.seen(sole.points(nodes))[:, :, 1].min() for sole in soles.values()]
    return float(min(lows)) - ground


def main() -> None:
    """Print a line for each motion and character."""
    files = [Path(word) for word in sys.argv[1:]]
    motions = [read_performance(file, 24.0) for file in files] if files else made_up()
    for name in CAST:
        rig = read_rig(shipped() / "cast" / f"{name}.glb")
        for motion in motions:
            print(f"{motion.name[:16]:16} on {name:8} {figures(motion, rig)}")


if __name__ == "__main__":
    main()
