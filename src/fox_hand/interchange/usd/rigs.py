"""A rig out of a USD file with UsdSkel skeletons."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.maths.measurable import measurable
from fox_hand.core.maths.rotations import Array
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.controls import Control, ControlKind, MirrorRule, Region, Setting
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.model.solvers import Drive, DrivenKind
from fox_hand.core.naming.side_region import partner_name, side_from_name, sided_label
from fox_hand.core.rig.bind_pose import SkinBind
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.fingerprint import fingerprint
from fox_hand.interchange.joint_controls import joint_controls, size_note, unique_names
from fox_hand.interchange.rest_choice import settled
from fox_hand.interchange.rig_words import NOTHING_SAID, RigWords
from fox_hand.interchange.usd.parts import BlendShape, Palette, UsdPartReader
from fox_hand.interchange.usd.usd_stage import (
    column_matrices,
    column_matrix,
    damaged,
    ground,
    module,
    open_stage,
    sound,
)


@dataclass(frozen=True, eq=False)
class Bones:
    """One skeleton of the stage.

    Args:
        path: its prim path.
        names, parents: of its joints; -1 for roots.
        local: rest transforms ``(J, 4, 4)``.
        bind: bind transforms ``(J, 4, 4)``.
        world: the skeleton prim's own place on the stage, ``(4, 4)``.
    """

    path: str
    names: list[str]
    parents: list[int]
    local: Array
    bind: Array
    world: Array


def read_rig(path: Path, words: RigWords = NOTHING_SAID) -> Rig:
    """Read a rig.

    Args:
        path: the file.
        words: what was said about it: the unit, what counts as rest where the rest transforms
            differ from the bind transforms (the latter, if nothing was said), and which way the
            figure stands.

    Raises:
        FoxHandError: for files that cannot be read or have no skeleton.
    """
    stage = open_stage(path)
    with sound(path):
        return _rig(path, stage, words)


def _rig(path: Path, stage: Any, words: RigWords) -> Rig:
    up, notes = ground(stage, words.metres_per_unit)
    bones = _skeletons(path, stage)
    filed, first = _joined(bones, up)
    chosen = settled(filed, _binds(bones, filed, first), words.rest_from)
    skeleton = chosen.skeleton
    joints = [first[i] + j for i, b in enumerate(bones) for j in range(len(b.names))]
    palette = Palette(
        {b.path: i for i, b in enumerate(bones)},
        np.cumsum([0] + [len(b.names) for b in bones]).tolist(),
        [b.names for b in bones],
    )
    reader = UsdPartReader(path, stage, palette)
    parts, shapes = reader.read()
    found = joint_controls(skeleton, joints, body=words.body)
    controls, settings = _with_shapes(found.controls, shapes, first[0])
    drives = _between(shapes)
    rig = Rig(
        name=path.stem.replace("_", " ").title(),
        skeleton=skeleton,
        controls=tuple(controls),
        settings=tuple(settings),
        drives=drives,
        parts=tuple(parts),
        palette_nodes=np.array(joints, dtype=np.intp),
        inverse_binds=np.linalg.inv(np.concatenate([b.bind for b in bones])),
        fingerprint=fingerprint(controls, settings, skeleton),
        rest_from=chosen.rest_from,
        filed=chosen.filed,
        body=found.body,
        source=str(path),
        notes=(*chosen.notes, *notes, *found.notes, *reader.notes),
    )
    return replace(rig, notes=(*rig.notes, *size_note(rig.height)))


def _binds(bones: list[Bones], filed: Skeleton, first: list[int]) -> list[SkinBind]:
    """What the bind transforms say; they are in the space of the skeleton prim."""
    return [
        SkinBind(
            np.arange(start, start + len(one.names)),
            np.asarray(np.linalg.inv(one.bind), dtype=np.float64),
            [filed.rest_world[start - 1], np.eye(4)],
        )
        for one, start in zip(bones, first, strict=True)
    ]


def _skeletons(path: Path, stage: Any) -> list[Bones]:
    skel, geom = module("UsdSkel"), module("UsdGeom")
    places = geom.XformCache()
    found = []
    for prim in stage.Traverse():
        if prim.IsA(skel.Skeleton):
            made = _bones(path, skel, skel.Skeleton(prim), places.GetLocalToWorldTransform(prim))
            if made is not None:
                found.append(made)
    if not found:
        raise damaged(path, tr("it has no skeleton with joints (UsdSkel)"))
    return found


def _bones(path: Path, skel: Any, skeleton: Any, world: Any) -> Bones | None:
    joints = list(skeleton.GetJointsAttr().Get() or [])
    if not joints:
        return None
    topology = skel.Topology(joints)
    parents = [int(topology.GetParent(i)) for i in range(len(joints))]
    if any(p >= i for i, p in enumerate(parents)):
        raise damaged(path, tr("a joint comes before its parent"))
    bind = column_matrices(skeleton.GetBindTransformsAttr().Get() or [])
    rest = column_matrices(skeleton.GetRestTransformsAttr().Get() or [])
    if len(bind) != len(joints) and len(rest) != len(joints):
        raise damaged(path, tr("a skeleton has neither bind nor rest transforms for its joints"))
    if len(rest) != len(joints):
        above = np.array([bind[p] if p >= 0 else np.eye(4) for p in parents])
        rest = np.linalg.solve(above, bind)
    if len(bind) != len(joints):
        bind = rest.copy()
        for i, p in enumerate(parents):
            if p >= 0:
                bind[i] = bind[p] @ rest[i]
    if not measurable(bind, rest, column_matrix(world)):
        raise damaged(path, tr("a joint's transform is no number, or beyond all measure"))
    if (np.abs(np.linalg.det(bind)) < 1e-18).any():
        raise damaged(path, tr("a joint's bind transform has no size"))
    names = [str(j).rsplit("/", 1)[-1] for j in joints]
    return Bones(str(skeleton.GetPath()), names, parents, rest, bind, column_matrix(world))


def _joined(bones: list[Bones], up: Array) -> tuple[Skeleton, list[int]]:
    """One skeleton of all of them, each under a node of its own that stands where its prim
    does; and the node of the first joint of each."""
    names: list[str] = []
    parents: list[int] = []
    local: list[Array] = []
    first = []
    for one in bones:
        root = len(names)
        names.append(one.path.rsplit("/", 1)[-1])
        parents.append(-1)
        local.append(up @ one.world)
        first.append(root + 1)
        names += one.names
        parents += [root if p < 0 else root + 1 + p for p in one.parents]
        local += list(one.local)
    move, turn, scale = decompose(np.array(local))
    # joints keep their plain names; the nodes of the prims give way
    order = [i for i in range(len(names)) if parents[i] >= 0]
    order += [i for i in range(len(names)) if parents[i] < 0]
    unique = unique_names([names[i] for i in order])
    named = dict(zip(order, unique, strict=True))
    return (
        Skeleton(tuple(named[i] for i in range(len(names))), tuple(parents), move, turn, scale),
        first,
    )


def _with_shapes(
    controls: list[Control], shapes: list[BlendShape], node: int
) -> tuple[list[Control], list[Setting]]:
    """A holder for the blend shapes, hung on the head where there is one."""
    if not shapes:
        return controls, []
    head = next((c.node for c in controls if c.role == "head"), node)
    used = {c.name for c in controls}
    name = "shapes" if "shapes" not in used else "shapes (settings)"
    holder = Control(
        name,
        "Shapes",
        ControlKind.HOLDER,
        head,
        region=Region.HEAD,
        channels=frozenset(),
        partner=name,
    )
    names = unique_names([shape.name for shape in shapes])
    known = frozenset(n for n, s in zip(names, shapes, strict=True) if s.follows is None)
    settings = []
    for shape, own in zip(shapes, names, strict=True):
        free = shape.follows is None
        partner = partner_name(own, known) if free and side_from_name(own) else None
        rule = MirrorRule.SWAP if partner else MirrorRule.KEEP
        settings.append(
            Setting(
                own, sided_label(own), len(controls), mirror=rule, partner=partner, helper=not free
            )
        )
    return [*controls, holder], settings


def _between(shapes: list[BlendShape]) -> tuple[Drive, ...]:
    """Shapes that pass through others on their way, as curves from the one that is set."""
    row = {shape.name: i for i, shape in enumerate(shapes) if shape.follows is None}
    return tuple(
        Drive(row[shape.follows], DrivenKind.SETTING, i, 0, shape.points)
        for i, shape in enumerate(shapes)
        if shape.follows is not None
    )
