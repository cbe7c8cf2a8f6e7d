"""Invented motions of invented bodies: walking, turning, sitting down, jumping.

They are made from where feet stand and how they roll, with a leg solver and turns of their own, so
that nothing of what is checked with them is used in making them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.spatial.transform import Rotation

from fox_hand.core.animation.performance import Performance
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

RATE = 48.0


@dataclass
class Plan:
    """One frame, in the figure's own directions (left, up, ahead), lengths in legs.

    Args:
        hips: place of the middle of the hip joints.
        heading: degrees by which it looks to its left.
        feet: by side place of the point under the ankle as if the foot were flat, degrees of
            pitch (toes up), and whether it rolls over the heel (else the ball).
        turns: by role a rotation of that joint alone, rotation vector in degrees in the
            directions of the body.
    """

    hips: np.ndarray
    heading: float
    feet: dict[str, tuple[np.ndarray, float, bool]]
    turns: dict[str, tuple[float, float, float]] = field(default_factory=dict)


def smooth(x: float) -> float:
    x = min(max(x, 0.0), 1.0)
    return x * x * (3 - 2 * x)


def walk(frame: int, *, period: float = 1.1, step: float = 0.75, turning: float = 0.0) -> Plan:
    """Steps ahead; with ``turning`` degrees a second along a circle."""
    t = frame / RATE
    speed = step / period * 2
    feet = {}
    for side, phase, sign in (("left", 0.0, 1), ("right", 0.5, -1)):
        cycle = t / period + phase
        number, part = np.floor(cycle), cycle % 1.0
        stance = 0.62
        mid = (number - phase + stance / 2) * period  # when the body passes over this foot
        after = mid + period
        if part < stance:
            place, pitch, heel = _on_path(mid, speed, turning, sign), 0.0, True
            if part < 0.1:
                pitch = 18 * (1 - smooth(part / 0.1))
            elif part > 0.42:
                pitch, heel = -32 * smooth((part - 0.42) / 0.2), False
        else:
            s = (part - stance) / (1 - stance)
            one, two = (_on_path(m, speed, turning, sign) for m in (mid, after))
            place = one + smooth(s) * (two - one)
            place[1] = 0.16 * np.sin(np.pi * s)
            pitch, heel = -32 + 50 * smooth(s), s > 0.5
        feet[side] = (place, pitch, heel)
    swing = np.sin(2 * np.pi * t / period)
    hips = _on_path(t, speed, turning, 0)
    hips[1] = 0.955 + 0.012 * np.cos(4 * np.pi * t / period)
    return Plan(
        hips,
        turning * t,
        feet,
        {
            "hips": (2.0, 6 * swing, 0.0),
            "spine": (3.0, -5 * swing, 2.0),
            "extra spine 1": (2.0, -4 * swing, 0.0),
            "chest": (0.0, -4 * swing, 0.0),
            "neck": (8.0, 3.0, 0.0),
            "extra neck 1": (9.0, 10.0, 4.0),
            "head": (-6.0, 8 * swing, 2.0),
            "leftUpperArm": (28 * swing, 0.0, -30.0),
            "rightUpperArm": (-28 * swing, 0.0, 30.0),
            "leftLowerArm": (-25 - 12 * swing, -10.0, 0.0),
            "rightLowerArm": (-25 + 12 * swing, 10.0, 0.0),
        },
    )


def _on_path(t: float, speed: float, turning: float, sign: int) -> np.ndarray:
    """Where the body is, or a foot beside it, while it goes ahead or along a circle."""
    beside = 0.11 * sign
    if not turning:
        return np.array([beside, 0.0, speed * t])
    radius, angle = speed / np.radians(turning), np.radians(turning) * t
    return np.array([radius * (1 - np.cos(angle)), 0.0, radius * np.sin(angle)]) + beside * (
        np.array([np.cos(angle), 0.0, -np.sin(angle)])
    )


def sit(frame: int) -> Plan:
    """Down onto a low seat, and a look aside."""
    down = smooth(frame / RATE / 1.2)
    feet = {s: (np.array([0.13 * k, 0.0, 0.0]), 0.0, True) for s, k in (("left", 1), ("right", -1))}
    hips = np.array([0.0, 0.97 - 0.42 * down, -0.36 * down])
    return Plan(
        hips,
        0.0,
        feet,
        {
            "hips": (12 * down, 0.0, 0.0),
            "spine": (10 * down, 0.0, 0.0),
            "head": (-10 * down, 50 * down, 0.0),
            "leftUpperArm": (-50 * down, 0.0, -40.0),
            "rightUpperArm": (-30 * down, 20.0, 40.0),
            "leftLowerArm": (-60 * down, 0.0, 0.0),
        },
    )


def jump(frame: int) -> Plan:
    """Crouch, fly, land, stand."""
    t = frame / RATE
    crouch = smooth(t / 0.5) * (1 - smooth((t - 0.5) / 0.15))
    air = max(0.0, 1 - ((t - 0.9) / 0.25) ** 2) if 0.65 < t < 1.15 else 0.0
    land = smooth((t - 1.15) / 0.12) * (1 - smooth((t - 1.3) / 0.5))
    ahead = 0.5 * smooth((t - 0.6) / 0.6)
    feet = {}
    for side, sign in (("left", 1), ("right", -1)):
        feet[side] = (np.array([0.13 * sign, 0.32 * air, ahead]), -25 * min(air * 3, 1), False)
    hips = np.array([0.0, 0.97 - 0.25 * crouch - 0.2 * land + 0.45 * air, ahead - 0.1 * crouch])
    lean = 30 * crouch + 20 * land
    return Plan(
        hips,
        0.0,
        feet,
        {
            "hips": (lean, 0.0, 0.0),
            "spine": (lean / 2, 0.0, 0.0),
            "leftUpperArm": (60 * crouch - 120 * air, 0.0, -35.0),
            "rightUpperArm": (60 * crouch - 120 * air, 0.0, 35.0),
        },
    )


MOTIONS: dict[str, tuple[Callable[[int], Plan], int]] = {
    "walk": (walk, 160),
    "turn": (lambda f: walk(f, turning=50.0), 160),
    "fast": (lambda f: walk(f, period=0.75, step=0.95), 140),
    "sit": (sit, 90),
    "jump": (jump, 100),
}


def performed(rig: Rig, keys: Mapping[str, str], name: str, *, lift: float = 0.0) -> Performance:
    """A motion on a rig of joints.

    Args:
        rig: made by :func:`tests.bodies.body_rig`.
        keys: by name of its joints the key of the body.
        name: which motion.
        lift: metres by which the file's ground lies higher than where the figure rests.
    """
    plan, count = MOTIONS[name]
    return acted(rig, keys, [plan(frame) for frame in range(count)], name, RATE, lift)


def acted(
    rig: Rig,
    keys: Mapping[str, str],
    plans: Sequence[Plan],
    name: str,
    rate: float,
    lift: float = 0.0,
) -> Performance:
    """Frames on a rig of joints, see :func:`performed`."""
    made, count = [_Frame(rig, keys, plan, lift) for plan in plans], len(plans)
    rest = rig.rest
    states = State(
        np.array([m.move for m in made]),
        np.array([m.turn for m in made]),
        *(np.tile(v, (count, *[1] * v.ndim)) for v in (rest.scale, rest.settings, rest.euler)),
    )
    return Performance(name, rig, states, rate)


class _Frame:
    """One frame put onto a rig: world changes of all joints, then turns."""

    def __init__(self, rig: Rig, keys: Mapping[str, str], plan: Plan, lift: float) -> None:
        self._rig, skeleton = rig, rig.skeleton
        self._axes, self._middle = rig.body.axes, np.array(rig.body.middle)
        self._node = {keys[n]: i for i, n in enumerate(skeleton.names) if n in keys}
        self._rest = (skeleton.rest_world[:, :3, 3] - self._middle) @ self._axes
        self._changes = self._upper(plan)
        self._hips = self._legs(plan, lift)
        self.turn, self.move = self._values()

    def _upper(self, plan: Plan) -> list[np.ndarray]:
        heading = _about("y", plan.heading)
        turned = [(self._node[k], turn) for k, turn in plan.turns.items() if k in self._node]
        own = Rotation.from_rotvec(np.radians([turn for _, turn in turned])).as_matrix()
        own_of = {node: matrix for (node, _), matrix in zip(turned, own, strict=True)}
        found: list[np.ndarray] = []
        for node, parent in enumerate(self._rig.skeleton.parents):
            above = found[parent] if parent >= 0 else heading
            found.append(above @ own_of[node] if node in own_of else above)
        return found

    def _legs(self, plan: Plan, lift: float) -> np.ndarray:
        """Legs turned so that feet are where the plan has them; returns where the hips are."""
        at, rest = self._node, self._rest
        uppers = [at["leftUpperLeg"], at["rightUpperLeg"]]
        level = min(rest[at["leftToes"], 1], rest[at["leftFoot"], 1])
        leg = self._leg_length(level)
        up = np.array([0.0, level + lift, 0.0])
        turned = self._changes[at["hips"]]
        middle = plan.hips * leg + up
        hips = middle - turned @ (rest[uppers].mean(0) - rest[at["hips"]])
        heading = _about("y", plan.heading)
        for side in ("left", "right"):
            place, pitch, heel = plan.feet[side]
            a, b, c, toe = (at[side + p] for p in ("UpperLeg", "LowerLeg", "Foot", "Toes"))
            pivot = np.array([rest[c, 0], level, rest[c, 2] if heel else rest[toe, 2]])
            foot = heading @ _about("x", -pitch)
            flat = np.array([rest[c, 0], level, rest[c, 2]])
            base = place * leg + up * [0, 1, 0]
            ankle = base + heading @ (pivot - flat) + foot @ (rest[c] - pivot)
            hip = hips + turned @ (rest[a] - rest[at["hips"]])
            self._solve((a, b, c), hip, ankle, turned)
            self._changes[c] = foot
            self._changes[toe] = heading if not heel and pitch < 0 else foot
            for node in range(len(rest)):
                above = self._rig.skeleton.parents[node]
                if above in (c, toe) and node not in (c, toe):
                    self._changes[node] = self._changes[above]
        return np.asarray(hips)

    def _leg_length(self, level: float) -> float:
        a, b, c = (self._rest[self._node[f"left{p}"]] for p in ("UpperLeg", "LowerLeg", "Foot"))
        return float(np.linalg.norm(b - a) + np.linalg.norm(c - b) + c[1] - level)

    def _solve(
        self, nodes: tuple[int, int, int], hip: np.ndarray, ankle: np.ndarray, turned: np.ndarray
    ) -> None:
        a, b, c = nodes
        rest = self._rest
        upper = float(np.linalg.norm(rest[b] - rest[a]))
        lower = float(np.linalg.norm(rest[c] - rest[b]))
        way = ankle - hip
        far: float = min(float(np.linalg.norm(way)), (upper + lower) * 0.9999)
        along = way / np.linalg.norm(way)
        cosine = (upper**2 + far**2 - lower**2) / (2 * upper * far)
        side = turned[:, 0]
        bend = np.cross(side - (side @ along) * along, along)
        bend *= -1 / np.linalg.norm(bend)
        sine = float(np.sqrt(max(1.0 - cosine**2, 0.0)))
        knee = hip + upper * (cosine * along + sine * bend)
        for node, one, other in (
            (a, rest[b] - rest[a], knee - hip),
            (b, rest[c] - rest[b], hip + along * far - knee),
        ):
            # the bone's own direction and the side it bends about
            self._changes[node] = _frame(other, side) @ _frame(one, np.array([1.0, 0, 0])).T

    def _values(self) -> tuple[np.ndarray, np.ndarray]:
        skeleton, axes = self._rig.skeleton, self._axes
        bases = skeleton.rest_world[:, :3, :3]
        bases = bases / np.linalg.norm(bases, axis=1, keepdims=True)
        world = axes @ np.array(self._changes) @ axes.T @ bases
        nodes = np.array([c.node for c in self._rig.controls])
        parents = np.array(skeleton.parents)[nodes]
        above = np.where((parents >= 0)[:, None, None], world[parents], np.eye(3))
        own = Rotation.from_quat(skeleton.rotation[nodes]).as_matrix()
        local = own.transpose(0, 2, 1) @ np.linalg.inv(above) @ world[nodes]
        turn = Rotation.from_matrix(local * np.sign(skeleton.scale[nodes])[:, None]).as_quat()
        move = self._rig.rest.move.copy()
        hips = self._node["hips"]
        place = self._axes @ self._hips + self._middle
        assert skeleton.parents[hips] < 0  # the hips of these bodies are their root
        axes_of_hips = Rotation.from_quat(skeleton.rotation[hips])
        gone = axes_of_hips.inv().apply(place - skeleton.translation[hips])
        move[self._rig.row_of_node[hips]] = gone * float(self._rig.units_of(np.array([hips]))[0])
        return turn, move


def _about(axis: str, degrees: float) -> np.ndarray:
    return np.asarray(Rotation.from_euler(axis, degrees, degrees=True).as_matrix())


def _frame(along: np.ndarray, side: np.ndarray) -> np.ndarray:
    y = along / np.linalg.norm(along)
    x = side - (side @ y) * y
    x /= np.linalg.norm(x)
    return np.stack([x, y, np.cross(x, y)], axis=1)
