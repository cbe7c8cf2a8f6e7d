"""A character made ready for animation: skeleton, mesh, controls, settings and solvers."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

from fox_hand.core.kinematics.evaluation import Evaluation, Program, rest_units
from fox_hand.core.maths.cached import WithoutCaches
from fox_hand.core.maths.euler import EulerOrder
from fox_hand.core.maths.rotations import Array, inverse, multiply, normalise, rotate
from fox_hand.core.model.body_frame import USUAL, BodyFrame
from fox_hand.core.model.controls import Control, ControlKind, Setting
from fox_hand.core.model.mesh import MeshPart
from fox_hand.core.model.skeleton import Index, Skeleton
from fox_hand.core.model.solvers import Aim, Drive, Limb, Solver
from fox_hand.core.model.state import State
from fox_hand.core.rig.limit_table import LimitTable
from fox_hand.core.rig.mirror_table import MirrorTable
from fox_hand.core.rig.swaps import Swap, opacities_of, swaps_of
from fox_hand.core.rig.views import COMMON, RigViews

RestFrom = Literal["skin", "nodes"]

MANY = 200  # vertices of a part; of fewer none can be spared
LEAST = 0.05  # of a vertex: what follows a bone by less hardly follows it


@dataclass(frozen=True, eq=False)
class SettingRules:
    """Lowest and highest value ``(S,)`` of settings, and which jump (switches, choices)."""

    low: Array
    high: Array
    discrete: npt.NDArray[np.bool_]


@dataclass(frozen=True)
class PickerSpot:
    """Where a control is drawn: shares of the figure drawing's width and height from its upper
    left corner, 0...1."""

    x: float
    y: float


@dataclass
class Naming:
    """How a rig's controls and settings are called where people read them.

    Attributes:
        spoken: by their labels; else by their names, as the rig's author wrote them.
    """

    spoken: bool = True


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
        solvers, drives: what the rig computes by itself, in its order of evaluation.
        sets: named selections of control names.
        picker: places of controls on the figure drawing, by control name; see
            :class:`PickerSpot`.
        fingerprint: identifies the rig's structure, rest stance and proportions, stored in cards.
        rest_from: what the rest was taken from where the file says two things: the stance its
            ``skin`` was bound in, or its ``nodes``; None where they agree.
        filed: the nodes as the file places them, where the rest was taken from the skin.
        body: which way it stands.
        source: path of the file it was read from, for messages.
        notes: what was inferred or could not be read, in sentences.
        naming: what people read for controls and settings; may be changed while it is used.
    """

    name: str
    skeleton: Skeleton
    controls: tuple[Control, ...]
    settings: tuple[Setting, ...]
    parts: tuple[MeshPart, ...]
    palette_nodes: Index
    inverse_binds: Array
    solvers: tuple[Solver, ...] = ()
    drives: tuple[Drive, ...] = ()
    sets: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    picker: Mapping[str, PickerSpot] = field(default_factory=dict)
    fingerprint: str = ""
    rest_from: RestFrom | None = None
    filed: Skeleton | None = None
    body: BodyFrame = USUAL
    source: str = ""
    notes: tuple[str, ...] = ()
    naming: Naming = field(default_factory=Naming)

    def __repr__(self) -> str:
        return f"<Rig {self.name}: {len(self.controls)} controls, {len(self.settings)} settings>"

    def word(self, row: int) -> str:
        """What people read for a control."""
        control = self.controls[row]
        return control.label if self.naming.spoken else control.name

    def setting_word(self, row: int) -> str:
        """What people read for a setting."""
        setting = self.settings[row]
        return setting.label if self.naming.spoken else setting.name

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
    def moving_rows(self) -> Index:
        """Rows ``(M,)`` of the controls that move a node."""
        return np.array([i for i, c in enumerate(self.controls) if c.moves_node], dtype=np.intp)

    @cached_property
    def moving_nodes(self) -> Index:
        """The nodes ``(M,)`` those controls move."""
        return np.array([self.controls[i].node for i in self.moving_rows], dtype=np.intp)

    @cached_property
    def joint_nodes(self) -> Index:
        """The nodes ``(B,)`` that joint controls move: the bones, without goals and poles."""
        return np.array(
            [c.node for c in self.controls if c.kind is ControlKind.JOINT], dtype=np.intp
        )

    @cached_property
    def fleshed_nodes(self) -> Index:
        """The bones ``(B,)`` that any vertex follows; all of them where there is nothing to see."""
        rows = [np.unique(part.joints[part.weights > LEAST]) for part in self.parts]
        known = np.unique(np.concatenate([*rows, np.zeros(0, np.intp)])).astype(np.intp)
        nodes = np.intersect1d(self.joint_nodes, self.palette_nodes[known])
        return nodes.astype(np.intp) if len(nodes) else self.joint_nodes

    @cached_property
    def flat(self) -> bool:
        """Whether it is cut out of drawings: there is nothing to be seen from aside."""
        return bool(self.parts) and all(part.material.flat for part in self.parts)

    @cached_property
    def views(self) -> RigViews:
        """Which control of a flat puppet belongs to which view."""
        return RigViews.of(self.skeleton, self.controls, self.settings, self.drives)

    @cached_property
    def swaps(self) -> dict[int, Swap]:
        """For each control whose drawings take turns what they are."""
        return swaps_of(self.controls, self.settings, self.drives, self.skeleton.parents)

    @cached_property
    def opacities(self) -> dict[int, int]:
        """For each row of the palette whose drawing fades the setting that fades it."""
        of_node = opacities_of(self.controls, self.settings, self.skeleton.parents)
        rows = enumerate(self.palette_nodes.tolist())
        return {row: of_node[node] for row, node in rows if node in of_node}

    @cached_property
    def row_of_node(self) -> dict[int, int]:
        """For each node that a control moves the row of that control."""
        return {c.node: row for row, c in enumerate(self.controls) if c.moves_node}

    @cached_property
    def parents(self) -> tuple[int, ...]:
        """For each control the row of the nearest control above it, -1 for none."""
        by_node = self.row_of_node
        found = []
        for row, control in enumerate(self.controls):
            node = control.node
            if control.moves_node:
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

    def as_filed(self) -> State | None:
        """How the file itself stands, where that is not the rest; settings are at rest."""
        if self.filed is None:
            return None
        rest, filed = self.skeleton, self.filed
        move, turn, scale = (v.copy() for v in (self.rest.move, self.rest.turn, self.rest.scale))
        units = self.units_of(self.moving_nodes)
        for row, node, unit in zip(self.moving_rows, self.moving_nodes, units, strict=True):
            if node >= len(filed):
                continue  # goals and the like are not in the file
            back = inverse(rest.rotation[node])
            turn[row] = normalise(multiply(back, filed.rotation[node]))
            move[row] = rotate(back, filed.translation[node] - rest.translation[node]) * unit
            scale[row] = filed.scale[node] / np.where(rest.scale[node] == 0, 1, rest.scale[node])
        return self.rest.with_(move=move, turn=turn, scale=scale)

    @cached_property
    def orders(self) -> tuple[EulerOrder, ...]:
        """The Euler order of every control."""
        return tuple(control.order for control in self.controls)

    @cached_property
    def bounds(self) -> LimitTable:
        """The limits of all controls."""
        return LimitTable.of(self.controls)

    @cached_property
    def setting_rules(self) -> SettingRules:
        """Range of every setting, and which of them jump."""
        return SettingRules(
            np.array([s.minimum for s in self.settings], dtype=np.float64),
            np.array([s.maximum for s in self.settings], dtype=np.float64),
            np.array([s.discrete for s in self.settings], dtype=bool),
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
        """Lowest and highest corner ``(3,)`` of the figure at rest, in world metres."""
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
            every: of parts with many vertices take only every n-th, which is enough for framing.
        """
        marked = None
        if nodes is not None:
            marked = np.isin(self.palette_nodes, list(nodes)).astype(np.float32)
        found = []
        for part in self.parts:
            count = len(part.positions)
            rows = np.arange(0, count, every if count > MANY else 1)
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

    @cached_property
    def _program(self) -> Program:
        return Program(
            self.skeleton, self.moving_rows, self.moving_nodes, self.solvers, self.drives
        )

    def locals_of(self, state: State) -> Array:
        """Local matrices of all nodes before any solver, ``(..., N, 4, 4)``; see
        :meth:`fox_hand.core.kinematics.evaluation.Program.locals`."""
        return self._program.locals(state)

    def evaluate(self, state: State) -> Evaluation:
        """Where everything is for one state or for a batch of them; a pure function."""
        return self._program.run(state, self.palette_nodes, self.inverse_binds)

    @cached_property
    def mirror_table(self) -> MirrorTable:
        """Constants for mirroring poses."""
        known: dict[int, int] = {}
        for control in self.controls:
            other = self.control_row.get(control.partner) if control.partner else None
            if control.moves_node and other is not None and self.controls[other].moves_node:
                known[control.node] = self.controls[other].node
        return MirrorTable.of(self.skeleton, known, self.body)

    def units_of(self, nodes: Index) -> Array:
        """How many metres one local unit of some nodes is at rest, ``(K,)``."""
        return self._units[nodes]

    @cached_property
    def _units(self) -> Array:
        return rest_units(self.skeleton, self.drives).reshape(-1)

    @cached_property
    def limbs(self) -> tuple[Limb, ...]:
        """The limbs that can follow a goal."""
        return tuple(s for s in self.solvers if isinstance(s, Limb))

    def pulled(self, node: int) -> tuple[int, ...]:
        """The bones that a goal, a pole or a look-at target pulls; the node itself for others."""
        found: list[int] = []
        for solver in self.solvers:
            if isinstance(solver, Limb):
                pairs = ((solver.goal, solver.end), (solver.pole, solver.lower))
                found += [bone for free, bone in pairs if free == node]
            elif isinstance(solver, Aim) and solver.target == node:
                found.append(solver.node)
        return tuple(found) or (node,)

    def listed(self, state: State) -> frozenset[int]:
        """Controls that people use as the figure stands: no helpers, and of a puppet those of the
        view that is seen."""
        return self._listed[self.views.seen(state)]

    @cached_property
    def _listed(self) -> tuple[frozenset[int], ...]:
        """What is listed in each view."""
        of = self.views.of_control
        used = [row for row, c in enumerate(self.controls) if not c.helper]
        views = range(len(self.views.names))
        return tuple(frozenset(r for r in used if of[r] in (COMMON, n)) for n in views)

    def idle(self, state: State) -> frozenset[int]:
        """Controls that move nothing as the settings stand: bones of limbs that fully follow
        their goals, goals and poles of limbs that follow their joints, targets nobody looks at,
        parts of views that are not seen."""
        settings = self._program.effective(state)
        found = set[int]().union(*self._listed) - self._listed[self.views.seen(state)]
        for limb in self.limbs:
            amount = 1.0 if limb.blend is None else float(settings[limb.blend])
            bones, pulls = (limb.upper, limb.lower, limb.end), (limb.goal, limb.pole)
            if amount >= 1 or amount <= 0:
                nodes = bones if amount >= 1 else pulls
                found |= {self.row_of_node[n] for n in nodes if n in self.row_of_node}
        for look in self.solvers:
            if isinstance(look, Aim) and look.blend is not None and settings[look.blend] <= 0:
                found |= {self.row_of_node[n] for n in (look.target,) if n in self.row_of_node}
        return frozenset(found)

    def handle_places(self, nodes: Array) -> Array:
        """World positions of the handles, ``(C, 3)``, from node matrices ``(N, 4, 4)``."""
        at = nodes[[c.node for c in self.controls]]
        offsets = np.array([c.offset for c in self.controls], dtype=np.float64).reshape(-1, 3)
        return np.asarray((at[:, :3, :3] @ offsets[:, :, None])[..., 0] + at[:, :3, 3])
