"""Carrying a pose over to another rig: other names, other joint axes, other rest, other size.

A turn is carried as the change it makes to the world at rest. With the source control's rest turn
``R`` and the target's ``S`` once it stands in the source's rest stance, ``C = R^-1 S`` and the
target's turn is ``C^-1 t C``, after the turn that brings it into that stance. So limbs point where
they do on the source, whatever the joint axes are. Moves are turned alike and scaled by the length
of the limbs they belong to.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import pairwise

import numpy as np

from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import (
    Array,
    angle_between,
    from_matrix,
    inverse,
    multiply,
    rotate,
    to_vector,
)
from fox_hand.core.model.controls import Channel, Control, Region
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import ChannelFilter, Held, Pose, shown_euler
from fox_hand.core.retarget import reach
from fox_hand.core.retarget.arm_places import wrists_for
from fox_hand.core.retarget.carried import Carried, carried_of, reached, shown_on
from fox_hand.core.retarget.figure_motion import role_nodes
from fox_hand.core.retarget.goals import Relation, place_goals
from fox_hand.core.retarget.pose_changes import carried_turns
from fox_hand.core.retarget.rest_alignment import NEXT, Stance, bone_ways, stance_of, still
from fox_hand.core.rig.rig import Rig

SAME = np.radians(0.1)  # rests that differ by less count as the same
LEG, ARM = ("LowerLeg", "Foot"), ("LowerArm", "Hand")


class Landing(StrEnum):
    """What happens to a control of a pose."""

    LANDS = "lands"
    CORRECTED = "corrected"
    LIMIT = "at a limit"
    LOCKED = "locked"
    MISSING = "not there"
    ASK = "to confirm"


@dataclass(frozen=True)
class FitOptions:
    """How a pose is carried over.

    Args:
        stance: stand in the source's rest stance first.
        correct: correct turns for the difference of the rests.
        stretch: scale moves by the length of the limbs.
    """

    stance: bool = True
    correct: bool = True
    stretch: bool = True


@dataclass(frozen=True)
class Landed:
    """One control of a pose, carried over.

    Args:
        source, target: names.
        corrected: what was changed on the way, in words; empty if nothing was.
    """

    source: str
    target: str
    corrected: str


@dataclass(frozen=True, eq=False)
class Fitted:
    """A pose on another rig.

    Args:
        state: the rig at rest, wearing it.
        choice: the channels it holds.
        landed: by source name.
        arms, legs: how many times longer the target's are; 1 where that is not known.
        stance: how the target was turned to stand as the source rests.
        by_joints: names in the pose of goals and poles whose limbs do the same by their joints.
    """

    state: State
    choice: ChannelFilter
    landed: Mapping[str, Landed]
    arms: float
    legs: float
    stance: Stance
    by_joints: frozenset[str] = frozenset()


@dataclass
class _Work:
    """What is filled while a pose is carried over; ``own`` are the turns into the stance, and
    ``facing`` turns the world of the pose's rig to look where this one looks, ``(4,)``."""

    move: Array
    turn: Array
    scale: Array
    settings: Array
    own: Array
    stance: Stance
    facing: Array
    turns: dict[int, Array] = field(default_factory=dict)
    channels: dict[int, set[Channel]] = field(default_factory=dict)
    chosen: dict[int, list[float]] = field(default_factory=dict)
    words: dict[str, list[str]] = field(default_factory=dict)


def fit(
    pose: Pose,
    rig: Rig,
    controls: Mapping[str, str],
    settings: Mapping[str, Sequence[str]],
    options: FitOptions,
    source: tuple[Rig, State] | None = None,
    carried: Carried | None = None,
) -> Fitted:
    """Carry a pose over to a rig.

    Args:
        pose: with the rest data of its controls.
        rig: the target.
        controls: by name in the pose the name on the rig; what is not in them stays out.
        settings: the same; one may stand for two, of the left and the right, and two for one.
        options: see there.
        source: the pose's own rig and its state at rest wearing the pose, if it is at hand.
        carried: what the card carries of how its figure stood, where the rig is not at hand.
    """
    if source is not None:
        carried = carried_of(*source, pose)
    carried = carried or Carried()
    facing = rig.body.axes @ carried.body.axes.T
    more = _rest_ways(pose, rig, controls, source, carried)
    stance = stance_of(rig, pose, controls, facing, more) if options.stance else still(rig)
    arms, legs = _ratios(pose, rig, controls) if options.stretch else (1.0, 1.0)
    rest = rig.rest
    begun = (rest.move.copy(), rest.turn.copy(), rest.scale.copy(), rest.settings.copy())
    work = _Work(*begun, stance.own(rig), stance, from_matrix(facing))
    joined = _by_joints(rig, controls, carried) if options.correct else frozenset()
    shown = shown_on(rig, carried, {side + part for side, parts in joined for part in parts})
    if options.correct:
        own = source[0] if source is not None else None
        work.turns = carried_turns(pose, rig, controls, stance, own, facing, shown)
    for joint in shown:
        work.turn[joint] = work.turns[joint]
        work.channels.setdefault(joint, set()).add(Channel.TURN)
    _carry_all(pose, rig, controls, settings, (arms, legs), options, work)
    state = rest.with_(move=work.move, turn=work.turn, scale=work.scale, settings=work.settings)
    wrists = wrists_for(rig, rig.evaluate(state), carried.arms) if options.correct else {}
    relation = Relation(source, controls, stance, arms, legs, options.stretch, wrists, facing)
    state, moved = place_goals(pose, rig, state, relation)
    for name in moved:
        work.words.setdefault(name, []).append(tr("placed on the body"))
    if options.correct:
        state = reached(rig, state, carried, wrists, set(work.channels), joined)
    pulled = frozenset(
        name for side, parts in joined for name in carried.pulled.get(side + parts[2], ())
    )
    state = _with_angles(rig, state, work)
    choice = ChannelFilter(
        {r: frozenset(k) for r, k in work.channels.items()}, frozenset(work.chosen)
    )
    return Fitted(state, choice, _landed(work, controls), arms, legs, stance, pulled)


def _landed(work: _Work, controls: Mapping[str, str]) -> dict[str, Landed]:
    return {
        name: Landed(name, controls.get(name, ""), ", ".join(words))
        for name, words in work.words.items()
    }


def _rest_ways(
    pose: Pose,
    rig: Rig,
    controls: Mapping[str, str],
    source: tuple[Rig, State] | None,
    carried: Carried,
) -> dict[str, Array]:
    """By role where bones point at rest beside what the pose says itself, in the rig's world: as
    the card carries it, and as its own rig has it."""
    found = {role: rig.body.axes @ np.array(way) for role, way in carried.rests.items()}
    if source is not None:
        facing = rig.body.axes @ carried.body.axes.T
        matched = {controls.get(name) for name in pose.controls}
        known = {c.role for c in rig.controls if c.name in matched}
        found |= {role: facing @ way for role, way in bone_ways(source[0]).items() if role in known}
    return found


def _carry_all(
    pose: Pose,
    rig: Rig,
    controls: Mapping[str, str],
    settings: Mapping[str, Sequence[str]],
    ratios: tuple[float, float],
    options: FitOptions,
    work: _Work,
) -> None:
    """Every control and setting that has a place; ``ratios`` of arms and of legs."""
    arms, legs = ratios
    for name, held in pose.controls.items():
        row = rig.control_row.get(controls.get(name, ""))
        if row is not None:
            ratio = legs if _belongs_to_legs(rig.controls[row]) else arms
            _carry(rig, row, name, held, ratio, options, work)
        for setting, value in held.settings.items():
            for target in settings.get(setting, ()):
                _carry_setting(rig, target, setting, value, held, work)


def _by_joints(
    rig: Rig, controls: Mapping[str, str], carried: Carried
) -> frozenset[tuple[str, tuple[str, str, str]]]:
    """Limbs that follow goals there and have no such goal here: their joints do what is shown, by
    side and parts."""
    goals = {
        rig.controls[rig.control_row[n]].node for n in controls.values() if n in rig.control_row
    }
    pulled = {limb.upper for limb in rig.limbs if limb.goal in goals}
    known, found = role_nodes(rig), set[tuple[str, tuple[str, str, str]]]()
    for end in carried.pulled:
        side = "left" if end.startswith("left") else "right"
        parts = reach.ARM if end.endswith("Hand") else reach.LEG
        upper = known.get(side + parts[0])
        if upper is not None and upper not in pulled:
            found.add((side, parts))
    return frozenset(found)


def _carry(
    rig: Rig,
    row: int,
    name: str,
    held: Held,
    ratio: float,
    options: FitOptions,
    work: _Work,
) -> None:
    """One control's channels, as far as the target has them."""
    control, said = rig.controls[row], work.words.setdefault(name, [])
    taken = work.channels.setdefault(row, set())
    here = rig.skeleton.rest_turns[control.node]
    there = multiply(work.stance.turns[control.node], here)
    source = there
    if held.rest is not None and options.correct and control.moves_node:
        source = multiply(work.facing, np.array(held.rest.world_rotation))
    change = multiply(inverse(source), there)
    angle = float(np.degrees(np.linalg.norm(to_vector(change))))
    corrects = angle > np.degrees(SAME)
    if held.turn is not None and Channel.TURN in control.channels:
        plain = np.array(held.turn)
        own = work.own[row]
        stood = float(np.degrees(np.linalg.norm(to_vector(own)))) if control.moves_node else 0.0
        turn = work.turns.get(row)
        if turn is None:
            turn = multiply(own, plain) if stood > np.degrees(SAME) else plain
        if stood > np.degrees(SAME):
            said.append(tr("stance, {stood:.0f}°", stood=stood))
        elif corrects:
            said.append(tr("turned {angle:.0f}° by rest", angle=angle))
        elif float(np.degrees(angle_between(turn, plain))) > np.degrees(SAME):
            said.append(tr("with what lies above it"))
        work.turn[row] = turn
        taken.add(Channel.TURN)
    if held.move is not None and Channel.MOVE in control.channels:
        move = np.array(held.move)
        if corrects:
            move = rotate(inverse(there), rotate(source, move))
        work.move[row] = move * ratio
        if abs(ratio - 1.0) > 0.005 and np.abs(move).max() > 1e-6:
            said.append(tr("moved by {ratio:.2f}", ratio=ratio))
        taken.add(Channel.MOVE)
    if held.scale is not None and Channel.SCALE in control.channels:
        work.scale[row] = held.scale
        taken.add(Channel.SCALE)


def _carry_setting(
    rig: Rig, target: str, setting: str, value: float, held: Held, work: _Work
) -> None:
    """A setting that two of the pose stand for has the mean of both."""
    row = rig.setting_row.get(target)
    if row is None:
        return
    options, named = rig.settings[row].options, held.options.get(setting)
    wanted = float(options.index(named)) if named in options else value
    values = work.chosen.setdefault(row, [])
    values.append(wanted)
    work.settings[row] = float(np.mean(values))


def _with_angles(rig: Rig, state: State, work: _Work) -> State:
    euler = state.euler.copy()
    for row, kinds in work.channels.items():
        if Channel.TURN in kinds:
            euler[row] = shown_euler(rig.controls[row], state, row)
    return state.with_(euler=euler)


def _belongs_to_legs(control: Control) -> bool:
    hips = control.role == "hips" or control.region is Region.TORSO
    return hips or control.region is Region.LEGS


def _ratios(pose: Pose, rig: Rig, controls: Mapping[str, str]) -> tuple[float, float]:
    """How many times longer the target's arms and legs are than those the pose was taken from; of
    arms and legs that the pose does not hold nothing is known, then one stands for the other."""
    found = [_ratio(pose, rig, controls, ends) for ends in (ARM, LEG)]
    arms, legs = (
        found[0] or found[1] or 1.0,
        found[1] or found[0] or 1.0,
    )
    return arms, legs


def _ratio(
    pose: Pose, rig: Rig, controls: Mapping[str, str], ends: tuple[str, str]
) -> float | None:
    frames = {controls[n]: h.rest for n, h in pose.controls.items() if n in controls}
    by_role = {c.role: c for c in rig.controls if c.role is not None}
    first = next(role for role, following in NEXT.items() if following == ends[0])
    places, ratios = rig.skeleton.rest_world[:, :3, 3], list[float]()
    for side in ("left", "right"):
        line = [by_role.get(side + role) for role in (first, *ends)]
        members = [c for c in line if c is not None]
        known = [frames.get(c.name) for c in members[1:]]
        lengths = [float(np.linalg.norm(f.translation)) for f in known if f is not None]
        if len(members) < 3 or len(lengths) < 2 or min(lengths) < 1e-6:
            continue
        mine = [np.linalg.norm(places[b.node] - places[a.node]) for a, b in pairwise(members)]
        ratios.append(float(sum(mine)) / sum(lengths))
    return float(np.mean(ratios)) if ratios else None
