"""Rigs by chance: other hierarchies, joint axes, Euler orders and sizes in every one."""

from __future__ import annotations

import numpy as np
from scipy.spatial.transform import Rotation

from fox_hand.core.maths.rotations import Array, from_vector
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.controls import Control, ControlKind, Setting, SettingKind, Side
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

ORDERS = ("XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX")


def random_rig(seed: int, *, scaled: bool = False) -> Rig:
    """A symmetric figure: a chain in the middle with pairs of joints hanging on it and on each
    other. Every joint has its own axes, also the two of a pair; it stands on the middle plane.

    Args:
        scaled: rest scales that are not one.
    """
    rng = np.random.default_rng(seed)
    names, parents, places, partners = ["c0"], [-1], [np.array([0.0, 1.0, 0.0])], ["c0"]
    for number in range(1, int(rng.integers(3, 9))):
        parent = int(rng.integers(0, len(names)))
        step = rng.normal(0, 0.3, 3)
        name = names[parent]
        if name.startswith("c") and rng.random() < 0.4:
            names.append(f"c{number}")
            parents.append(parent)
            places.append(places[parent] + step * (0, 1, 1))
            partners.append(f"c{number}")
            continue
        left = names.index(name.replace("_R", "_L"))
        right = names.index(name.replace("_L", "_R"))
        place = places[left] + step
        for side, above, sign in (("L", left, 1), ("R", right, -1)):
            names.append(f"p{number}_{side}")
            parents.append(above)
            places.append(place * (sign, 1, 1))
            partners.append(f"p{number}_{'R' if side == 'L' else 'L'}")
    world = np.tile(np.eye(4), (len(names), 1, 1))
    world[:, :3, :3] = Rotation.random(len(names), rng=rng).as_matrix()
    world[:, :3, 3] = np.array(places)
    local = np.array(
        [w if p < 0 else np.linalg.inv(world[p]) @ w for w, p in zip(world, parents, strict=True)]
    )
    translation, rotation, scale = decompose(local)
    if scaled:
        scale = scale * np.exp(rng.normal(0, 0.2, (len(names), 1)))
    controls = tuple(
        Control(
            name,
            name,
            ControlKind.JOINT,
            node,
            order=ORDERS[int(rng.integers(6))],
            side={"L": Side.LEFT, "R": Side.RIGHT}.get(name[-1], Side.CENTRE),
            partner=partners[node],
        )
        for node, name in enumerate(names)
    )
    settings = (
        Setting("amount", "Amount", 0, -1.0, 2.0),
        Setting("switch", "Switch", 0, 0.0, 1.0, kind=SettingKind.BOOL),
    )
    skeleton = Skeleton(tuple(names), tuple(parents), translation, rotation, scale)
    empty = np.zeros(0, dtype=np.intp)
    return Rig("Chance", skeleton, controls, settings, (), empty, np.zeros((0, 4, 4)))


def posed(rig: Rig, seed: int, size: float = 0.8) -> State:
    """Every channel away from rest."""
    rng = np.random.default_rng(seed)
    count = len(rig.controls)
    return rig.rest.with_(
        move=rng.normal(0, 0.1, (count, 3)),
        turn=from_vector(rng.normal(0, size, (count, 3))),
        settings=np.array([rng.uniform(-1, 2), float(rng.integers(0, 2))]),
    )


def places_of(rig: Rig, state: State) -> Array:
    """World places of all nodes, ``(N, 3)``."""
    return np.asarray(rig.evaluate(state).nodes[:, :3, 3])
