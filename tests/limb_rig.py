"""A small rig with one limb, whose joints may have any axes."""

from __future__ import annotations

import numpy as np
from scipy.spatial.transform import Rotation

from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.controls import Control, ControlKind, Setting
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.model.solvers import Drive, Limb, Solver
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

NAMES = ("root", "upper", "lower", "end", "tip", "goal", "pole")
PARENTS = (-1, 0, 1, 2, 3, 0, 0)
KINDS = (*(ControlKind.JOINT,) * 5, ControlKind.GOAL, ControlKind.POLE)
BLEND, ROLL_UPPER, ROLL_LOWER = 0, 1, 2
REST_PLACES = np.array(
    [
        [0.0, 1.0, 0.0],
        [0.2, 1.4, 0.0],
        [0.45, 1.3, -0.06],
        [0.72, 1.25, 0.02],
        [0.8, 1.25, 0.03],
        [0.72, 1.25, 0.02],
        [0.45, 1.25, -0.7],
    ]
)


def limb_rig(
    seed: int = 0,
    *,
    places: Array = REST_PLACES,
    scale: float = 1.0,
    solvers: tuple[Solver, ...] | None = None,
    drives: tuple[Drive, ...] = (),
) -> Rig:
    """Nodes at ``places`` (metres in the world) with random axes, under a root scaled by
    ``scale``."""
    turns = Rotation.random(len(NAMES), rng=np.random.default_rng(seed)).as_matrix()
    world = np.tile(np.eye(4), (len(NAMES), 1, 1))
    world[:, :3, :3], world[:, :3, 3] = turns * scale, places
    local = [
        w if p < 0 else np.linalg.inv(world[p]) @ w for w, p in zip(world, PARENTS, strict=True)
    ]
    skeleton = Skeleton(NAMES, PARENTS, *decompose(local))
    controls = tuple(
        Control(name, name, kind, node, order="ZXY")
        for node, (name, kind) in enumerate(zip(NAMES, KINDS, strict=True))
    )
    settings = (
        Setting("follow", "follow", 5),
        Setting("roll_upper", "roll", 5, -180, 180),
        Setting("roll_lower", "roll", 5, -180, 180),
    )
    limb = Limb("Limb", 1, 2, 3, 5, 6, BLEND, ROLL_UPPER, ROLL_LOWER)
    return Rig(
        "Limb",
        skeleton,
        controls,
        settings,
        (),
        np.arange(5),
        np.linalg.inv(skeleton.rest_world[:5]),
        solvers=(limb,) if solvers is None else solvers,
        drives=drives,
    )


def with_values(
    rig: Rig,
    moves: dict[str, Array] | None = None,
    turns: dict[str, Rotation] | None = None,
    **settings: float,
) -> State:
    """The rest state with some values changed; moves are along the nodes' rest axes."""
    state = rig.rest
    move, turn, values = state.move.copy(), state.turn.copy(), state.settings.copy()
    for name, m in (moves or {}).items():
        move[rig.control_row[name]] = m
    for name, t in (turns or {}).items():
        turn[rig.control_row[name]] = t.as_quat()
    for name, v in settings.items():
        values[rig.setting_row[name]] = v
    return state.with_(move=move, turn=turn, settings=values)


def rest_axes(rig: Rig, name: str) -> Array:
    """World axes of a node at rest as columns, without scale."""
    basis = rig.skeleton.rest_world[rig.skeleton.names.index(name), :3, :3]
    return np.asarray(basis / np.linalg.norm(basis, axis=0))


def put_goal(rig: Rig, goal: Array, pole: Array, **settings: float) -> State:
    """The limb following a goal at a world place, its pole at another."""
    moves = {
        name: rest_axes(rig, name).T @ (place - REST_PLACES[NAMES.index(name)])
        for name, place in (("goal", goal), ("pole", pole))
    }
    return with_values(rig, moves, follow=1.0, **settings)
