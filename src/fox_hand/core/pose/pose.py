"""Poses: the values of a chosen set of channels, independent of any one rig."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np

from fox_hand.core.maths.euler import EulerOrder, from_euler, to_euler_near
from fox_hand.core.maths.rotations import Array, angle_between
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.controls import Channel, Control
from fox_hand.core.model.skeleton import Index
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig

RESTS_AWAY = 0.002  # of the figure's height
RESTS_TURNED = np.radians(0.1)
Triple = tuple[float, float, float]
Quaternion = tuple[float, float, float, float]


@dataclass(frozen=True)
class RestFrame:
    """Where a control stood when the pose was taken, so that it can be transferred later.

    Args:
        parent: name of the control above, None for a root.
        translation, rotation, scale: the rest transform in the parent node's frame.
        world_rotation: rest orientation in the world.
        role: its humanoid role on its rig; None for none, or where nobody wrote that down.
        role_sure: from 0 to 1 how sure that is; less than 1 where only the shape says it.
    """

    parent: str | None
    translation: Triple
    rotation: Quaternion
    scale: Triple
    world_rotation: Quaternion
    role: str | None = None
    role_sure: float = 1.0


@dataclass(frozen=True)
class Held:
    """The channels a pose holds of one control; None is *absent*, not "at rest".

    Args:
        move: metres relative to rest, in the rest frame.
        turn: unit quaternion relative to rest.
        euler: the same turn as it was authored, radians, and its ``order``.
        scale: factors relative to rest.
        settings: values by setting name.
        options: of settings that are choices the chosen option's name, so that a rig whose
            options come in another order shows the same.
        rest: see :class:`RestFrame`; None for holders of settings.
    """

    move: Triple | None = None
    turn: Quaternion | None = None
    euler: Triple | None = None
    order: EulerOrder | None = None
    scale: Triple | None = None
    settings: Mapping[str, float] = field(default_factory=dict)
    options: Mapping[str, str] = field(default_factory=dict)
    rest: RestFrame | None = None

    @property
    def empty(self) -> bool:
        return self.move is None and self.turn is None and self.scale is None and not self.settings


@dataclass(frozen=True)
class Pose:
    """Control name -> what is held of it."""

    controls: Mapping[str, Held]

    def __len__(self) -> int:
        return len(self.controls)


@dataclass(frozen=True)
class ChannelFilter:
    """Which channels of which controls go into a pose.

    Args:
        channels: for each chosen control row the kinds of channel taken.
        settings: rows of the settings taken.
    """

    channels: Mapping[int, frozenset[Channel]]
    settings: frozenset[int] = frozenset()

    @staticmethod
    def of(
        rig: Rig, rows: Iterable[int], kinds: Collection[Channel] = tuple(Channel)
    ) -> ChannelFilter:
        """The given kinds of channel of the given controls, with all the settings they hold.

        Args:
            rig: the figure's.
            rows: the controls.
            kinds: the kinds of channel.
        """
        wanted = frozenset(kinds)
        rows = list(rows)
        return ChannelFilter(
            {row: rig.controls[row].channels & wanted for row in rows},
            frozenset(s for row in rows for s in rig.settings_of[row]),
        )

    @property
    def rows(self) -> frozenset[int]:
        """Controls of which a transform channel is taken."""
        return frozenset(row for row, kinds in self.channels.items() if kinds)


def rests_otherwise(pose: Pose, rig: Rig) -> bool:
    """Whether any control of a pose rests elsewhere, or turned by more than 0.1 degree, on a rig
    that has it, too."""
    turns = rig.skeleton.rest_turns
    for name, held in pose.controls.items():
        row = rig.control_row.get(name)
        if row is None or held.rest is None or not rig.controls[row].moves_node:
            continue
        node = rig.controls[row].node
        away = np.array(held.rest.translation) - rig.skeleton.translation[node]
        unit = float(rig.units_of(np.array([node]))[0])
        if float(np.linalg.norm(away)) * unit > RESTS_AWAY * rig.height:
            return True
        if float(angle_between(turns[node], np.array(held.rest.world_rotation))) > RESTS_TURNED:
            return True
    return False


def take(rig: Rig, state: State, choice: ChannelFilter) -> Pose:
    """The pose of the chosen channels as the figure stands now.

    Args:
        rig, state: the figure and how it stands.
        choice: which channels and settings.
    """
    by_control: dict[int, dict[str, float]] = {}
    for row in sorted(choice.settings):
        setting = rig.settings[row]
        by_control.setdefault(setting.control, {})[setting.name] = float(state.settings[row])
    held: dict[str, Held] = {}
    for row, control in enumerate(rig.controls):
        kinds = choice.channels.get(row, frozenset())
        entry = _held(rig, state, row, kinds, by_control.get(row, {}))
        if not entry.empty:
            held[control.name] = entry
    return Pose(held)


def _held(
    rig: Rig, state: State, row: int, kinds: frozenset[Channel], settings: dict[str, float]
) -> Held:
    control = rig.controls[row]
    turn = Channel.TURN in kinds
    return Held(
        move=_triple(state.move[row]) if Channel.MOVE in kinds else None,
        turn=_quaternion(state.turn[row]) if turn else None,
        euler=_triple(state.shown(rig.orders)[row]) if turn else None,
        order=control.order if turn else None,
        scale=_triple(state.scale[row]) if Channel.SCALE in kinds else None,
        settings=settings,
        options=_options(rig, settings),
        rest=rest_frame(rig, row) if kinds else None,
    )


def _options(rig: Rig, settings: Mapping[str, float]) -> dict[str, str]:
    found = {}
    for name, value in settings.items():
        options = rig.settings[rig.setting_row[name]].options
        if 0 <= round(value) < len(options):
            found[name] = options[round(value)]
    return found


def shown_euler(control: Control, state: State, row: int) -> Array:
    """The turn as Euler angles ``(3,)``, radians in the control's own order, near to how it was
    last shown.

    Args:
        control: whose.
        state: how the figure stands.
        row: the control's.
    """
    return to_euler_near(state.turn[row], control.order, state.euler[row])


def rest_frame(rig: Rig, row: int) -> RestFrame:
    """The rest data of a control."""
    control, skeleton = rig.controls[row], rig.skeleton
    parent = rig.parents[row]
    return RestFrame(
        parent=rig.controls[parent].name if parent >= 0 else None,
        translation=_triple(skeleton.translation[control.node]),
        rotation=_quaternion(skeleton.rotation[control.node]),
        scale=_triple(skeleton.scale[control.node]),
        world_rotation=_quaternion(skeleton.rest_turns[control.node]),
        role=control.role,
        role_sure=control.role_sure if control.role is not None else 1.0,
    )


def _triple(v: Array) -> Triple:
    return float(v[0]), float(v[1]), float(v[2])


def _quaternion(v: Array) -> Quaternion:
    return float(v[0]), float(v[1]), float(v[2]), float(v[3])


@dataclass(frozen=True, eq=False)
class BoundPose:
    """A pose laid against one rig: rows and values ready for blending.

    Args:
        move_rows, turn_rows, scale_rows: control rows, with ``move (k, 3)``, ``turn (k, 4)``,
            ``scale (k, 3)``.
        euler: authored turns in the rig's own orders, ``(k, 3)``.
        setting_rows, settings: the same for settings.
        missing: names of controls and ``control.setting`` the rig does not have.
        asked: how many controls the pose holds.
    """

    move_rows: Index
    move: Array
    turn_rows: Index
    turn: Array
    euler: Array
    scale_rows: Index
    scale: Array
    setting_rows: Index
    settings: Array
    missing: tuple[str, ...]
    asked: int

    def rows(self, rig: Rig) -> set[int]:
        """All controls this pose touches."""
        holders = {rig.settings[int(s)].control for s in self.setting_rows}
        return {*self.move_rows.tolist(), *self.turn_rows.tolist(), *self.scale_rows.tolist()} | (
            holders
        )

    def only(self, rig: Rig, rows: Collection[int]) -> BoundPose:
        """The part of it that touches the given controls."""
        keep = np.zeros(len(rig.controls), dtype=bool)
        keep[list(rows)] = True
        holder = np.array([s.control for s in rig.settings], dtype=np.intp)
        m, t, s = keep[self.move_rows], keep[self.turn_rows], keep[self.scale_rows]
        g = keep[holder[self.setting_rows]] if len(self.setting_rows) else np.zeros(0, dtype=bool)
        return BoundPose(
            self.move_rows[m],
            self.move[m],
            self.turn_rows[t],
            self.turn[t],
            self.euler[t],
            self.scale_rows[s],
            self.scale[s],
            self.setting_rows[g],
            self.settings[g],
            self.missing,
            self.asked,
        )


def bind(pose: Pose, rig: Rig) -> BoundPose:
    """Lay a pose against a rig by exact control names."""
    move: dict[int, Triple] = {}
    turn: dict[int, Quaternion] = {}
    turned: dict[int, Held] = {}
    scale: dict[int, Triple] = {}
    settings: dict[int, float] = {}
    missing: list[str] = []
    for name, held in pose.controls.items():
        row = rig.control_row.get(name)
        if row is None:
            missing.append(name)
        else:
            if held.move is not None:
                move[row] = held.move
            if held.turn is not None:
                turn[row], turned[row] = held.turn, held
            if held.scale is not None:
                scale[row] = held.scale
        for setting, value in held.settings.items():
            # a setting is found by its own name, so regrouping holders does not lose it
            if setting in rig.setting_row:
                row_of = rig.setting_row[setting]
                options = rig.settings[row_of].options
                named = held.options.get(setting)
                settings[row_of] = float(options.index(named)) if named in options else value
            elif row is not None:
                missing.append(f"{name}.{setting}")
    return BoundPose(
        *_columns(move, 3),
        *_columns(turn, 4),
        _authored(rig, turn, turned),
        *_columns(scale, 3),
        np.array(list(settings), dtype=np.intp),
        np.array(list(settings.values()), dtype=np.float64),
        tuple(missing),
        len(pose.controls),
    )


def _columns(values: Mapping[int, object], width: int) -> tuple[Index, Array]:
    rows = np.array(list(values), dtype=np.intp)
    return rows, np.array(list(values.values()), dtype=np.float64).reshape(len(rows), width)


def _authored(rig: Rig, turn: Mapping[int, Quaternion], held: Mapping[int, Held]) -> Array:
    """Euler angles of turns in the rig's orders, ``(k, 3)``: as they were authored where the order
    is the same and they give the turn, else computed; all turns of one order at once."""
    rows = list(turn)
    found = np.zeros((len(rows), 3))
    by_order: dict[EulerOrder, list[int]] = {}
    for i, row in enumerate(rows):
        by_order.setdefault(rig.controls[row].order, []).append(i)
    for order, members in by_order.items():
        turns = np.array([turn[rows[i]] for i in members])
        said = [held[rows[i]] for i in members]
        hints = np.array([(0.0, 0.0, 0.0) if h.euler is None else h.euler for h in said])
        same = np.array([h.euler is not None and h.order == order for h in said])
        same &= np.abs((from_euler(hints, order) * turns).sum(-1)) > 1 - 1e-9
        computed = to_euler_near(turns, order, np.zeros((len(members), 3)))
        found[members] = np.where(same[:, None], hints, computed)
    return found


def world_rotation(matrix: Array) -> Array:
    """The rotation of a world matrix without its scale, ``(4,)``."""
    return decompose(matrix)[1]
