"""A character made ready for animation: skeleton, mesh, controls and settings."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

import numpy as np

from fox_hand.core.cached import WithoutCaches
from fox_hand.core.mesh import MeshPart
from fox_hand.core.rotations import Array, EulerOrder, to_matrix
from fox_hand.core.skeleton import Index, Skeleton
from fox_hand.core.state import State


class Side(StrEnum):
    """Always the character's own side."""

    LEFT = "left"
    RIGHT = "right"
    CENTRE = "centre"

    @property
    def other(self) -> Side:
        return {Side.LEFT: Side.RIGHT, Side.RIGHT: Side.LEFT}.get(self, self)


class Region(StrEnum):
    """Parts of the body, from head to toe."""

    HEAD = "head"
    EYES = "eyes"
    MOUTH = "mouth"
    TORSO = "torso"
    ARMS = "arms"
    HANDS = "hands"
    LEGS = "legs"


class ControlKind(StrEnum):
    JOINT = "joint"
    HOLDER = "holder"


class Channel(StrEnum):
    """The kinds of transform channel a control can have."""

    MOVE = "move"
    TURN = "turn"
    SCALE = "scale"


class MirrorRule(StrEnum):
    """What a setting does when a pose is mirrored."""

    SWAP = "swap"
    KEEP = "keep"
    SIGN = "sign"


ALL_CHANNELS = frozenset(Channel)


@dataclass(frozen=True)
class Control:
    """What the animator grabs.

    Args:
        name: unique in the rig; what cards refer to.
        label: for the interface.
        kind: joint, or holder of settings.
        node: the skeleton node it moves; for a holder the node its handle hangs on.
        offset: where the handle sits in that node's frame, metres.
        order: Euler order its turn is shown and typed in.
        side, region: where it belongs on the body.
        channels: transform channels it has.
        limits: per Euler axis lowest and highest turn in radians, or None.
        partner: name of the control on the other side, its own name for centre controls,
            None where there is none.
        axis_labels: words for the turns about x, y and z.
        helper: follows others and is not shown (twist joints and the like).
    """

    name: str
    label: str
    kind: ControlKind
    node: int
    offset: tuple[float, float, float] = (0.0, 0.0, 0.0)
    order: EulerOrder = "XYZ"
    side: Side = Side.CENTRE
    region: Region = Region.TORSO
    channels: frozenset[Channel] = ALL_CHANNELS
    limits: tuple[tuple[float, float] | None, ...] = (None, None, None)
    partner: str | None = None
    axis_labels: tuple[str, str, str] = ("bend", "twist", "sway")
    helper: bool = False


@dataclass(frozen=True)
class Setting:
    """A slider a control holds.

    Args:
        name: unique in the rig.
        label: for the interface.
        control: row of the control that holds it.
        minimum, maximum, default: its range and its value at rest.
        mirror: what it does when a pose is mirrored.
        partner: name of the setting it swaps with.
    """

    name: str
    label: str
    control: int
    minimum: float = 0.0
    maximum: float = 1.0
    default: float = 0.0
    mirror: MirrorRule = MirrorRule.KEEP
    partner: str | None = None


@dataclass(frozen=True, eq=False)
class Evaluation:
    """Where everything is for one state.

    Args:
        nodes: world matrices of the skeleton's nodes, ``(..., N, 4, 4)``.
        palette: joint matrices for skinning, ``(..., P, 4, 4)``.
        settings: setting values, ``(..., S)``.
    """

    nodes: Array
    palette: Array
    settings: Array


@dataclass(frozen=True, eq=False, repr=False)
class Rig(WithoutCaches):
    """Everything known about one character file.

    Args:
        name: display name.
        skeleton: node hierarchy with rest transforms.
        controls: in the order the interface lists them.
        settings: in the order the interface lists them.
        parts: drawable geometry.
        palette_nodes: node of each palette row.
        inverse_binds: inverse bind matrix of each palette row, ``(P, 4, 4)``.
        sets: named selections of control names.
        fingerprint: identifies the rig's structure, stored in cards.
        source: path of the file it was read from, for messages.
        notes: what was inferred or could not be read, in sentences.
    """

    name: str
    skeleton: Skeleton
    controls: tuple[Control, ...]
    settings: tuple[Setting, ...]
    parts: tuple[MeshPart, ...]
    palette_nodes: Index
    inverse_binds: Array
    sets: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    fingerprint: str = ""
    source: str = ""
    notes: tuple[str, ...] = ()

    def __repr__(self) -> str:
        return f"<Rig {self.name}: {len(self.controls)} controls, {len(self.settings)} settings>"

    @cached_property
    def control_row(self) -> dict[str, int]:
        return {control.name: row for row, control in enumerate(self.controls)}

    @cached_property
    def setting_row(self) -> dict[str, int]:
        return {setting.name: row for row, setting in enumerate(self.settings)}

    @cached_property
    def settings_of(self) -> tuple[tuple[int, ...], ...]:
        """For each control the rows of the settings it holds."""
        held: list[list[int]] = [[] for _ in self.controls]
        for row, setting in enumerate(self.settings):
            held[setting.control].append(row)
        return tuple(tuple(rows) for rows in held)

    @cached_property
    def joint_rows(self) -> Index:
        """Rows of the controls that move a node."""
        return np.array(
            [i for i, c in enumerate(self.controls) if c.kind is ControlKind.JOINT], dtype=np.intp
        )

    @cached_property
    def joint_nodes(self) -> Index:
        """The nodes those controls move."""
        return np.array([self.controls[i].node for i in self.joint_rows], dtype=np.intp)

    @cached_property
    def parents(self) -> tuple[int, ...]:
        """For each control the row of the nearest control above it, -1 for none."""
        by_node = {int(n): int(r) for n, r in zip(self.joint_nodes, self.joint_rows, strict=True)}
        found = []
        for row, control in enumerate(self.controls):
            node = control.node
            if control.kind is ControlKind.JOINT:
                node = self.skeleton.parents[node]
            while node >= 0 and by_node.get(node, row) == row:
                node = self.skeleton.parents[node]
            found.append(by_node[node] if node >= 0 else -1)
        return tuple(found)

    @cached_property
    def rest(self) -> State:
        """The state the rig was built with."""
        defaults = np.array([s.default for s in self.settings], dtype=np.float64)
        return State.neutral(len(self.controls), defaults)

    @cached_property
    def setting_range(self) -> tuple[Array, Array]:
        """Lowest and highest value of every setting."""
        return (
            np.array([s.minimum for s in self.settings], dtype=np.float64),
            np.array([s.maximum for s in self.settings], dtype=np.float64),
        )

    @cached_property
    def height(self) -> float:
        """Height of the figure at rest in metres, never zero."""
        if self.parts:
            low, high = self.rest_bounds
            size = float(np.max(high - low))
        else:
            places = self.skeleton.rest_world[:, :3, 3]
            size = float(np.max(places.max(0) - places.min(0))) if len(places) else 0.0
        return size if size > 1e-9 else 1.0

    @cached_property
    def rest_bounds(self) -> tuple[Array, Array]:
        """Lowest and highest corner of the figure at rest, in world metres."""
        points = self.flesh(self.evaluate(self.rest))
        return points.min(0), points.max(0)

    def flesh(self, at: Evaluation, nodes: Collection[int] | None = None, every: int = 1) -> Array:
        """World positions ``(V, 3)`` of the vertices that mainly follow some skeleton nodes.

        For framing, measuring and outlining. Morph targets are left out: they move the surface
        by less than a frame's margin. Where no vertex follows the nodes, the nodes' own places
        are returned.

        Args:
            at: the pose.
            nodes: skeleton nodes; None for the whole figure.
            every: take only every n-th vertex, which is enough for framing.
        """
        marked = None
        if nodes is not None:
            marked = np.isin(self.palette_nodes, list(nodes)).astype(np.float32)
        found = []
        for part in self.parts:
            rows = np.arange(0, len(part.positions), every)
            if marked is not None:
                share = (marked[part.joints[rows]] * part.weights[rows]).sum(1)
                rows = rows[share > 0.5]
            if len(rows):
                matrices = at.palette[part.joints[rows], :3]
                blended = np.einsum("vk,vkij->vij", part.weights[rows], matrices)
                points = part.positions[rows]
                found.append(np.einsum("vij,vj->vi", blended[:, :, :3], points) + blended[:, :, 3])
        if found:
            return np.concatenate(found)
        chosen = list(range(len(at.nodes))) if nodes is None else sorted(nodes)
        return np.asarray(at.nodes[chosen][:, :3, 3]).reshape(-1, 3)

    @cached_property
    def _children(self) -> tuple[tuple[int, ...], ...]:
        held: list[list[int]] = [[] for _ in self.controls]
        for row, parent in enumerate(self.parents):
            if parent >= 0:
                held[parent].append(row)
        return tuple(tuple(rows) for rows in held)

    def below(self, row: int) -> list[int]:
        """The control and every control under it."""
        found, stack = [], [row]
        while stack:
            found.append(stack.pop())
            stack.extend(self._children[found[-1]])
        return sorted(found)

    def locals_of(self, state: State) -> Array:
        """Local matrices of all nodes, ``(..., N, 4, 4)``.

        A control's values are relative to rest and in the rest frame of its node: moving goes
        along the node's own rest axes, turning about them, so every channel at its neutral
        value is the rest pose whatever the rig's axes are. Moves are metres, whatever unit the
        file was drawn in.
        """
        skeleton, rows, nodes = self.skeleton, self.joint_rows, self.joint_nodes
        lead = state.turn.shape[:-2]
        local = np.broadcast_to(self._rest_locals, (*lead, len(skeleton), 4, 4)).copy()
        frames = self._rest_turns
        basis = frames @ to_matrix(state.turn[..., rows, :])
        scale = skeleton.scale[nodes] * state.scale[..., rows, :]
        local[..., nodes, :3, :3] = basis * scale[..., None, :]
        moved = frames @ (state.move[..., rows, :, None] / self._rest_units)
        local[..., nodes, :3, 3:] = skeleton.translation[nodes][..., None] + moved
        return local

    @cached_property
    def _rest_locals(self) -> Array:
        return self.skeleton.rest_locals()

    @cached_property
    def _rest_units(self) -> Array:
        """How many metres one local unit of each joint control is at rest, ``(J, 1, 1)``; files
        drawn in centimetres under a scaled root have 0.01."""
        above = [self.skeleton.parents[node] for node in self.joint_nodes]
        basis = np.array(
            [self.skeleton.rest_world[p, :3, :3] if p >= 0 else np.eye(3) for p in above]
        )
        volume = np.abs(np.linalg.det(basis.reshape(-1, 3, 3)))
        return np.where(volume > 1e-18, np.cbrt(volume), 1.0)[:, None, None]

    @cached_property
    def _rest_turns(self) -> Array:
        """Rest rotations of the joint controls' nodes, ``(J, 3, 3)``."""
        return to_matrix(self.skeleton.rotation[self.joint_nodes])

    def evaluate(self, state: State) -> Evaluation:
        """Forward kinematics for one state or for a batch of them; a pure function."""
        nodes = self.skeleton.world(self.locals_of(state))
        palette = nodes[..., self.palette_nodes, :, :] @ self.inverse_binds
        return Evaluation(nodes, palette, state.settings)

    def handle_places(self, nodes: Array) -> Array:
        """World positions of the handles, ``(C, 3)``, from node matrices ``(N, 4, 4)``."""
        at = nodes[[c.node for c in self.controls]]
        offsets = np.array([c.offset for c in self.controls], dtype=np.float64).reshape(-1, 3)
        return np.asarray((at[:, :3, :3] @ offsets[:, :, None])[..., 0] + at[:, :3, 3])
