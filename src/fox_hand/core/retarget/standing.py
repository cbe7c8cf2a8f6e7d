"""Motion of skeletons that do not rest standing.

Some files write every bone along one axis and let the first frame stand the figure up. Such a rest
says nothing about how limbs hang; then the frame in which the figure stands most upright counts as
its rest.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from fox_hand.core.animation.performance import Performance
from fox_hand.core.maths.rotations import Array, inverse, multiply, normalise, rotate
from fox_hand.core.model.body_frame import BodyFrame
from fox_hand.core.naming.body_finding import find_body
from fox_hand.core.retarget.figure_motion import role_nodes
from fox_hand.core.rig.rig import Rig

BENT = 0.3  # cosine: a body whose parts are further apart than this does not stand


def rests_standing(rig: Rig) -> bool:
    """Whether the legs go down where the back goes up, as far as they are known."""
    known = role_nodes(rig)
    ways = _ways(rig.skeleton.rest_world[None, :, :3, 3], known)
    if len(ways) < 2:
        return True
    units = [way[0] / max(float(np.linalg.norm(way[0])), 1e-12) for way in ways]
    return min(float(a @ b) for a in units for b in units) > BENT


def standing(performance: Performance) -> Performance:
    """The same motion on a rig that rests standing.

    Returns:
        the performance itself where its rig does already, or never stands.
    """
    rig, known = performance.rig, role_nodes(performance.rig)
    if rests_standing(rig) or rig.filed is not None:
        return performance
    places = rig.evaluate(performance.states).nodes[:, :, :3, 3]
    ways = _ways(places, known)
    units = [w / np.maximum(np.linalg.norm(w, axis=1, keepdims=True), 1e-12) for w in ways]
    # all parts along one line, and of such frames the one where the arms are most alike
    agree = np.min([(a * b).sum(1) for a in units for b in units], axis=0)
    frame = int(np.argmax(agree))
    if agree[frame] < BENT:
        return performance
    return rested(performance, frame)


def rested(performance: Performance, frame: int) -> Performance:
    """The same motion on a rig whose rest is one of its frames."""
    rig, states = performance.rig, performance.states
    move, turn = states.move.copy(), states.turn.copy()
    skeleton = rig.skeleton
    places, turns = skeleton.translation.copy(), skeleton.rotation.copy()
    for row in rig.moving_rows.tolist():
        node = rig.controls[row].node
        unit = float(rig.units_of(np.array([node]))[0])
        base, first = skeleton.rotation[node], states.turn[frame, row]
        places[node] += rotate(base, states.move[frame, row]) / unit
        turns[node] = normalise(multiply(base, first))
        turn[:, row] = normalise(multiply(inverse(first), states.turn[:, row]))
        move[:, row] = rotate(inverse(first), states.move[:, row] - states.move[frame, row])
    moved = replace(skeleton, translation=places, rotation=turns)
    made = replace(rig, skeleton=moved, body=_body(rig, moved.rest_world[:, :3, 3]))
    return replace(performance, rig=made, states=states.with_(move=move, turn=turn), keys={})


def _body(rig: Rig, places: Array) -> BodyFrame:
    known = role_nodes(rig)
    pairs = [
        (node, known["right" + role[4:]])
        for role, node in known.items()
        if role.startswith("left") and "right" + role[4:] in known
    ]
    # a frame of a motion is never quite symmetrical; hips and shoulders tell where left is
    near = [p for p in pairs if p[0] in {known.get("leftUpperLeg"), known.get("leftUpperArm")}]
    return find_body(places, known, near or pairs)


def _ways(places: Array, known: dict[str, int]) -> list[Array]:
    """Upward directions ``(F, 3)`` of back and legs, of those that are known."""
    found = []
    top = next((known[r] for r in ("head", "neck", "upperChest", "chest") if r in known), None)
    hips = known.get("hips")
    if top is not None and hips is not None:
        found.append(places[:, top] - places[:, hips])
    for side in ("left", "right"):
        for lower, upper in (("LowerLeg", "UpperLeg"), ("Foot", "LowerLeg")):
            a, b = known.get(side + lower), known.get(side + upper)
            if a is not None and b is not None:
                found.append(places[:, b] - places[:, a])
    return found
