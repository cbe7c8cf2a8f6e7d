"""What a step of ours is for a host: values, or curves."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from fox_hand.core.animation.curves import ChannelCurve, ChannelId, row_of
from fox_hand.core.maths.rotations import Array
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.link.messages import CurveSaid, LayerSaid, No
from fox_hand.interchange.sidecar import Sidecar
from fox_hand.session.figures.figure import Figure, KeyStep, PoseStep
from fox_hand.session.link.host_curves import curves_from
from fox_hand.session.link.own_terms import changed_values, values_from
from fox_hand.session.runtime.history import Step, StepsTogether

Values = dict[str, dict[str, float]]


@dataclass(frozen=True)
class RigFacts:
    """A rig as its host gave it.

    Args:
        rig: the host's id of it.
        prefix: before all its names.
        description, sidecar: as a ``.foxrig.json`` has it, and as it was read.
        made: the rig that it makes.
        path: where that was written down.
        values, revision: how it stands, and the number of that.
        curves, layers: what is keyed, the lowest layer first; nothing where the host cannot say.
    """

    rig: str
    prefix: str
    description: Any
    sidecar: Sidecar
    made: Rig
    path: Path
    values: Values
    revision: int
    curves: tuple[CurveSaid, ...] = ()
    layers: tuple[LayerSaid, ...] = ()


@dataclass(frozen=True)
class StepThere:
    """A step that goes to the host.

    Args:
        name: of the step.
        values: what is set; of a step that is taken back what is set where the host cannot do that.
        frame: where; None where the host need not be there for it.
        keyed, layer: whether and where they are keyed.
        curves: keys that are written instead of values.
        back: whether it takes the host's last step back.
        went: whether the host was asked to go to its frame.
    """

    name: str
    values: Values
    frame: float | None
    keyed: bool
    layer: str | None
    curves: tuple[CurveSaid, ...] = ()
    back: bool = False
    went: bool = False


def values_of_poses(figure: Figure, poses: list[PoseStep], unit: float) -> Values:
    """What they changed, as the figure stands now. Taking a step back brings the whole pose of
    before; what the host did in between is not part of it."""
    rig = figure.rig
    now = values_from(rig, figure.state, unit)
    found: Values = {}
    for pose in poses:
        states = (pose.before.state, pose.after.state)
        was, then = (values_from(rig, state, unit) for state in states)
        for control, channels in changed_values(was, then).items():
            held = found.setdefault(control, {})
            held.update((channel, now[control][channel]) for channel in channels)
    return found


def with_channels(figure: Figure, values: Values, ids: list[ChannelId], unit: float) -> Values:
    """The values, and all numbers of the channels that are to be keyed."""
    rig = figure.rig
    now = values_from(rig, figure.state, unit)
    found = {control: dict(held) for control, held in values.items()}
    for channel_id in ids:
        row = row_of(rig, channel_id)
        if row is None:
            continue
        control = rig.controls[row].name
        kind = channel_id.kind.value
        for channel, value in now.get(control, {}).items():
            own = channel == channel_id.name
            if own if channel_id.is_setting else channel.startswith(f"{kind}."):
                found.setdefault(control, {})[channel] = value
    return found


def curves_of_step(figure: Figure, step: Step, unit: float) -> tuple[CurveSaid, ...] | None:
    """Curves that a step writes; None where it changes no keys of this figure."""
    if not isinstance(step, KeyStep) or step.actor is not figure:
        return None
    rig, take = figure.rig, step.after
    known = step.before.keys.lines
    changed = {
        channel_id: line
        for channel_id, line in take.keys.lines.items()
        if known.get(channel_id) is not line
    }
    lines = {}
    for channel_id, line in changed.items():
        before = known.get(channel_id)
        fresh = line.frames if before is None else _fresh(before, line)
        if len(fresh):
            inside = (line.frames >= fresh.min()) & (line.frames <= fresh.max())
            lines[channel_id] = line.taken(np.flatnonzero(inside))
    return tuple(curves_from(rig, lines, take.many, unit))


def spans_of(curves: Iterable[CurveSaid]) -> dict[str, tuple[float, float]]:
    """First and last keyed frame of each layer."""
    found: dict[str, tuple[float, float]] = {}
    for curve in curves:
        if curve.keys:
            first, last = curve.keys[0].frame, curve.keys[-1].frame
            low, high = found.get(curve.layer or "", (first, last))
            found[curve.layer or ""] = min(low, first), max(high, last)
    return found


def _fresh(before: ChannelCurve, after: ChannelCurve) -> Array:
    """Frames of keys that are not as they were."""
    same = np.zeros(len(after), bool)
    for i, frame in enumerate(after.frames.tolist()):
        old = before.at(frame)
        same[i] = old is not None and np.array_equal(before.values[old], after.values[i])
    return after.frames[~same]


def refusals(answer: dict[str, Any]) -> list[No]:
    """What a host says it kept as it was; nothing where that makes no sense."""
    try:
        return msgspec.convert(answer.get("refused") or [], list[No])
    except msgspec.ValidationError:
        return []


def is_there(step: StepThere, values: Values) -> bool:
    """Whether all values of a step are in the scene already: its answer was lost, not the step."""
    return bool(step.values) and not changed_values(values, step.values)


def poses_of(step: Step | None) -> list[PoseStep]:
    """The changes of pose in a step."""
    if isinstance(step, StepsTogether):
        return [pose for one in step.steps for pose in poses_of(one)]
    return [step] if isinstance(step, PoseStep) else []
