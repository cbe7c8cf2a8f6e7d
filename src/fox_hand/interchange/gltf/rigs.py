"""A rig out of any glTF 2.0 file with a skin.

Joints become controls, morph targets become settings; sides, regions and partners are inferred
from names and geometry.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.maths.measurable import measurable
from fox_hand.core.maths.rotations import Array, normalise
from fox_hand.core.maths.transforms import decompose, undone
from fox_hand.core.model.body_frame import BodyFrame
from fox_hand.core.model.controls import Control, ControlKind, MirrorRule, Region, Setting
from fox_hand.core.model.mesh import MeshPart
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.naming.side_region import (
    label_of,
    partner_name,
    region_from_name,
    side_from_name,
    sided_label,
)
from fox_hand.core.rig.bind_pose import SkinBind
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.fingerprint import fingerprint
from fox_hand.interchange.gltf.accessors import Accessors
from fox_hand.interchange.gltf.document import (
    KEPT,
    GltfDocument,
    Node,
    damaged,
    open_document,
)
from fox_hand.interchange.gltf.parts import Binding, GltfPartReader
from fox_hand.interchange.gltf.scenes import (
    animated_nodes,
    humanoid_nodes,
    seen_beside,
    shown_nodes,
)
from fox_hand.interchange.joint_controls import (
    JointControls,
    joint_controls,
    size_note,
    unique_names,
)
from fox_hand.interchange.plain_controls import says_control, with_plain_controls
from fox_hand.interchange.rest_choice import settled
from fox_hand.interchange.rig_words import NOTHING_SAID, RigWords


def read_rig(path: Path, moved: Collection[int] = (), words: RigWords = NOTHING_SAID) -> Rig:
    """Read a rig.

    Args:
        path: the file.
        moved: nodes that an animation moves. In a file without a skin these, and those that any
            animation of the file moves, are the joints, with what hangs on them and what is to be
            seen beside them; where nothing moves, the nodes that have something to see.
        words: what was said about the file: what counts as rest where the nodes stand in another
            stance than the skin was bound in (the skin, if nothing was said), which way the
            figure stands, and which nodes are posed with. In a file without a skin those are then
            all. The unit is for the caller.

    Raises:
        FoxHandError: for files that cannot be read or have nothing to pose.
    """
    document, buffers = open_document(path)
    moving = frozenset(moved) | animated_nodes(document)
    said = {i for i, node in enumerate(document.nodes) if node.name in words.controls}
    bare = frozenset[int]()
    if not document.skins and not said:
        bare = moving | seen_beside(document, moving)
    if not document.skins and not bare and not said:
        raise FoxHandError(
            "gltf.no_skin",
            tr(
                "{name} has no skin, no animation and no meshes, so there is nothing to pose.",
                name=path.name,
            ),
            KEPT,
            tr("Export the character together with its skeleton."),
        )
    nodes = _Posed(bare, moving, frozenset(said))
    return _RigReader(path, document, Accessors(path, document, buffers), nodes).rig(words)


@dataclass(frozen=True)
class _Posed:
    """Nodes that are posed with, beside the joints of skins.

    Args:
        bare: those of a file without a skin.
        moving: those that something moves.
        said: those that a person named.
    """

    bare: frozenset[int]
    moving: frozenset[int]
    said: frozenset[int]


class _RigReader:
    def __init__(
        self,
        path: Path,
        document: GltfDocument,
        accessors: Accessors,
        posed: _Posed,
    ) -> None:
        self._path = path
        self._document, self._posed = document, posed
        self._read = accessors
        self._order, parents = _topological(path, document.nodes)
        self._row = {node: row for row, node in enumerate(self._order)}
        self._parents = tuple(self._row[p] if p >= 0 else -1 for p in parents)
        self._names = unique_names([document.nodes[i].name or f"node_{i}" for i in self._order])
        self._palette_nodes: list[int] = []
        self._inverse_binds: list[Array] = []
        self._settings: list[tuple[str, str]] = []  # setting name, holder name
        self._defaults: list[float] = []

    def rig(self, words: RigWords) -> Rig:
        filed = self._skeleton()
        first = [self._add_skin(i) for i in range(len(self._document.skins))]
        chosen = settled(filed, self._binds(filed, first), words.rest_from)
        skeleton = chosen.skeleton
        reader = GltfPartReader(self._path, self._document, self._read)
        parts: list[MeshPart] = []
        shown, left_out = shown_nodes(self._document)
        for node_index in self._order:
            node = self._document.nodes[node_index]
            if node.mesh is not None and node_index in shown:
                parts += self._parts_of(node, self._row[node_index], first, reader)
        joints = self._joint_controls(skeleton, words.body)
        controls, settings = _with_holders(
            with_plain_controls(joints.controls, skeleton, sorted(self._plain_rows)),
            self._settings,
            self._defaults,
            parts,
            skeleton,
            self._palette_nodes,
        )
        rig = Rig(
            name=self._path.stem.replace("_", " ").title(),
            skeleton=skeleton,
            controls=tuple(controls),
            settings=tuple(settings),
            parts=tuple(parts),
            palette_nodes=np.array(self._palette_nodes, dtype=np.intp),
            inverse_binds=np.array(self._inverse_binds).reshape(-1, 4, 4),
            fingerprint=fingerprint(controls, settings, skeleton),
            rest_from=chosen.rest_from,
            filed=chosen.filed,
            body=joints.body,
            source=str(self._path),
            notes=(*chosen.notes, *joints.notes, *reader.notes, *reader.memory_note, *left_out),
        )
        return replace(rig, notes=(*rig.notes, *size_note(rig.height)))

    def _skeleton(self) -> Skeleton:
        count = len(self._order)
        t, r, s = np.zeros((count, 3)), np.zeros((count, 4)), np.ones((count, 3))
        r[:, 3] = 1.0
        for row, node_index in enumerate(self._order):
            node = self._document.nodes[node_index]
            try:
                if node.matrix is not None:
                    t[row], r[row], s[row] = decompose(np.reshape(node.matrix, (4, 4)).T)
                else:
                    t[row] = node.translation or t[row]
                    r[row] = normalise(node.rotation or r[row])
                    s[row] = node.scale or s[row]
            except ValueError as error:
                raise damaged(
                    self._path,
                    tr("node {node_index} has a broken transform", node_index=node_index),
                ) from error
        if not measurable(t, r, s):
            raise damaged(self._path, tr("a node's transform is no number, or beyond all measure"))
        return Skeleton(self._names, self._parents, t, r, s)

    def _add_skin(self, index: int) -> int:
        skin = self._document.skins[index]
        first = len(self._palette_nodes)
        for joint in skin.joints:
            if joint not in self._row:
                raise damaged(
                    self._path,
                    tr(
                        "skin {index} names node {joint}, which does not exist",
                        index=index,
                        joint=joint,
                    ),
                )
            self._palette_nodes.append(self._row[joint])
        if skin.inverse_bind_matrices is None:
            self._inverse_binds += [np.eye(4)] * len(skin.joints)
        else:
            matrices = self._read.floats(skin.inverse_bind_matrices).astype(np.float64)
            if len(matrices) < len(skin.joints) or matrices.shape[1] != 16:
                raise damaged(
                    self._path, tr("skin {index} has too few inverse bind matrices", index=index)
                )
            if not measurable(matrices):
                raise damaged(
                    self._path, tr("skin {index} has matrices that are not numbers", index=index)
                )
            columns = matrices[: len(skin.joints)].reshape(-1, 4, 4)
            self._inverse_binds += list(columns.transpose(0, 2, 1))
        return first

    def _binds(self, skeleton: Skeleton, first: list[int]) -> list[SkinBind]:
        """What the skins say of the stance they were bound in. The space of a skin is the world,
        that of its mesh, or that of the node its joints hang on: programs differ."""
        found = []
        for index, skin in enumerate(self._document.skins):
            rows = np.array([self._row[j] for j in skin.joints], dtype=np.intp)
            if skin.inverse_bind_matrices is None or not len(rows):
                continue
            above = self._parents[int(rows.min())]
            meshes = [self._row[i] for i, n in enumerate(self._document.nodes) if n.skin == index]
            places = [skeleton.rest_world[i] for i in ([above] if above >= 0 else []) + meshes]
            matrices = self._inverse_binds[first[index] : first[index] + len(rows)]
            found.append(SkinBind(rows, np.array(matrices), [*places, np.eye(4)]))
        return found

    def _parts_of(
        self, node: Node, row: int, first: list[int], reader: GltfPartReader
    ) -> list[MeshPart]:
        assert node.mesh is not None
        if not 0 <= node.mesh < len(self._document.meshes):
            raise damaged(self._path, tr("mesh {mesh} does not exist", mesh=node.mesh))
        mesh = self._document.meshes[node.mesh]
        name = self._names[row]
        if node.skin is not None:
            if not 0 <= node.skin < len(first):
                raise damaged(self._path, tr("skin {skin} does not exist", skin=node.skin))
            count = len(self._document.skins[node.skin].joints)
            binding = Binding(first[node.skin], count, False, self._target_rows(row, name))
        elif self._below_joint(row):
            # a rigid part such as a hat hung on the head joint: a palette row of its own
            self._palette_nodes.append(row)
            self._inverse_binds.append(np.eye(4))
            binding = Binding(len(self._palette_nodes) - 1, 1, True, self._target_rows(row, name))
        else:
            return []  # scenery
        return reader.parts(mesh, name, binding)

    def _target_rows(self, row: int, holder: str) -> tuple[int, ...]:
        names = self._document.target_names(self._order[row])
        weights = self._document.target_weights(self._order[row])
        known = {name: i for i, (name, _) in enumerate(self._settings)}
        rows: list[int] = []
        for name in names:
            # parts that share a target name (head and teeth, say) move together
            if name not in known:
                known[name] = len(self._settings)
                self._settings.append((name, holder))
                self._defaults.append(weights[len(rows)] if len(rows) < len(weights) else 0.0)
            rows.append(known[name])
        return tuple(rows)

    def _below_joint(self, row: int) -> bool:
        while row >= 0:
            if row in self._known_rows or row in self._palette_nodes:
                return True
            row = self._parents[row]
        return False

    @cached_property
    def _known_rows(self) -> set[int]:
        return self._bare_rows | self._plain_rows | self._skin_rows

    @cached_property
    def _skin_rows(self) -> set[int]:
        return {
            self._row[j] for skin in self._document.skins for j in skin.joints if j in self._row
        }

    def _joint_controls(self, skeleton: Skeleton, body: BodyFrame | None) -> JointControls:
        roles = self._humanoid_rows
        rows = self._skin_rows | set(roles) | self._bare_rows
        return joint_controls(skeleton, sorted(rows), roles=roles or None, body=body)

    @cached_property
    def _humanoid_rows(self) -> dict[int, str]:
        return {
            self._row[node]: role
            for role, node in humanoid_nodes(self._document).items()
            if node in self._row
        }

    @cached_property
    def _plain_rows(self) -> set[int]:
        """Nodes beside the joints that something moves or that call themselves controls. What
        joints hang on is none because it moves: its motion belongs to the root."""
        nodes, joints = self._document.nodes, self._skin_rows | self._bare_rows
        joints |= set(self._humanoid_rows)
        carries = {above for row in joints for above in self._above(row)}
        moving = {self._row[node] for node in self._posed.moving if node in self._row} - carries
        named = {row for row, node in enumerate(self._order) if says_control(nodes[node].name)}
        named |= {self._row[node] for node in self._posed.said if node in self._row}
        skinned = {row for row, node in enumerate(self._order) if nodes[node].skin is not None}
        return (moving | named) - joints - skinned

    def _above(self, row: int) -> Iterator[int]:
        row = self._parents[row]
        while row >= 0:
            yield row
            row = self._parents[row]

    @cached_property
    def _bare_rows(self) -> set[int]:
        """In a file without a skin the moved nodes and what hangs on them."""
        if self._document.skins:
            return set()
        found = {self._row[node] for node in self._posed.bare if node in self._row}
        for row, node in enumerate(self._order):
            if self._parents[row] in found and self._document.nodes[node].mesh is None:
                found.add(row)
        return found


def _topological(path: Path, nodes: list[Node]) -> tuple[list[int], list[int]]:
    parent = [-1] * len(nodes)
    for i, node in enumerate(nodes):
        for child in node.children:
            if not 0 <= child < len(nodes) or parent[child] >= 0 or child == i:
                raise damaged(path, tr("its node hierarchy is not a tree"))
            parent[child] = i
    order: list[int] = []
    stack = [i for i in reversed(range(len(nodes))) if parent[i] < 0]
    while stack:
        node_index = stack.pop()
        order.append(node_index)
        stack.extend(reversed(nodes[node_index].children))
    if len(order) != len(nodes):
        raise damaged(path, tr("its node hierarchy goes in a circle"))
    return order, [parent[i] for i in order]


def _with_holders(
    controls: list[Control],
    named: list[tuple[str, str]],
    defaults: list[float],
    parts: list[MeshPart],
    skeleton: Skeleton,
    palette_nodes: list[int],
) -> tuple[list[Control], list[Setting]]:
    """One holder per mesh with morph targets, hung where its targets move the surface."""
    known = frozenset(name for name, _ in named)
    used = {c.name for c in controls}
    rows: dict[str, int] = {}
    for holder in dict.fromkeys(h for _, h in named):
        name = holder if holder not in used else f"{holder}_settings"
        node, offset = _anchor([p for p in parts if p.name == holder], skeleton, palette_nodes)
        words = [region_from_name(n) for n, h in named if h == holder]
        face = any(w in (Region.EYES, Region.MOUTH, Region.HEAD) for w in words)
        rows[holder] = len(controls)
        controls = [
            *controls,
            Control(
                name=name,
                label=label_of(holder),
                kind=ControlKind.HOLDER,
                node=node,
                offset=offset,
                region=Region.HEAD if face else Region.TORSO,
                channels=frozenset(),
                partner=name,
            ),
        ]
    settings = []
    for (name, holder), rest in zip(named, defaults, strict=True):
        partner = partner_name(name, known) if side_from_name(name) else None
        rule = MirrorRule.SWAP if partner else MirrorRule.KEEP
        low, high = min(rest, 0.0), max(rest, 1.0)
        label = sided_label(name)
        settings.append(
            Setting(name, label, rows[holder], low, high, rest, mirror=rule, partner=partner)
        )
    return controls, settings


def _anchor(
    parts: list[MeshPart], skeleton: Skeleton, palette_nodes: list[int]
) -> tuple[int, tuple[float, float, float]]:
    best: tuple[float, int, tuple[float, float, float]] = (-1.0, 0, (0.0, 0.0, 0.0))
    for part in parts:
        if part.targets is None:
            continue
        travel = np.abs(part.targets).sum(axis=(0, 2))
        total = float(travel.sum())
        if total <= best[0] or total == 0:
            continue
        weight = np.bincount(
            part.joints.ravel(), (part.weights * travel[:, None]).ravel(), len(palette_nodes)
        )
        node = palette_nodes[int(np.argmax(weight))]
        centre = (part.positions * travel[:, None]).sum(0) / total
        inverse = undone(skeleton.rest_world[node])
        local = inverse[:3, :3] @ centre + inverse[:3, 3]
        best = (total, node, (float(local[0]), float(local[1]), float(local[2])))
    return best[1], best[2]


def node_names(path: Path, document: GltfDocument) -> dict[str, int]:
    """The names that a rig of this file has for its nodes, with their numbers in the file.

    Raises:
        FoxHandError: if its nodes are no tree.
    """
    order, _ = _topological(path, document.nodes)
    names = unique_names([document.nodes[i].name or f"node_{i}" for i in order])
    return dict(zip(names, order, strict=True))
