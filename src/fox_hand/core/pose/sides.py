"""The other side of a pose: which channels, and what they hold."""

from __future__ import annotations

from enum import StrEnum

import numpy as np

from fox_hand.core.model.controls import Channel
from fox_hand.core.model.skeleton import Index
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.flat_mirror import is_whole
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.pose.pose import BoundPose, ChannelFilter
from fox_hand.core.rig.rig import Rig


class Sides(StrEnum):
    """On which side of the body a pose goes on."""

    CAPTURED = "captured"
    OTHER = "other"
    BOTH = "both"


def other_side(rig: Rig, choice: ChannelFilter) -> ChannelFilter:
    """The same channels of the partners; what is in the middle stays. A whole puppet that looks
    aside is turned over instead."""
    facing = rig.views.facing
    holders = {rig.settings[s].control for s in choice.settings}
    if facing is not None and is_whole(rig, set(choice.channels) | holders):
        return ChannelFilter(choice.channels, choice.settings | {facing})
    channels = {partner_row(rig, row): kinds for row, kinds in choice.channels.items()}
    settings = frozenset(_partner_setting(rig, s) for s in choice.settings)
    return ChannelFilter(channels, settings)


def mirrored(
    rig: Rig, state: State, choice: ChannelFilter, *, both: bool
) -> tuple[State, ChannelFilter]:
    """What is chosen, mirrored.

    Args:
        rig, state: the figure.
        choice: what is chosen of it.
        both: keep the chosen side too; what is in the middle then stays as it is.

    Returns:
        the figure with its other side set, and what is chosen of it then.
    """
    other = other_side(rig, choice)
    if both and rig.views.facing in other.settings - choice.settings:
        return state, choice  # it has no other side
    holders = {rig.settings[s].control for s in other.settings}
    onto = set(other.channels) | holders
    if both:
        onto -= set(choice.channels) | {rig.settings[s].control for s in choice.settings}
        other = ChannelFilter(
            {**other.channels, **choice.channels}, other.settings | choice.settings
        )
    return mirror(rig, state, onto), other


def sided(rig: Rig, pose: BoundPose, how: Sides) -> BoundPose:
    """A pose as it goes on the chosen side.

    Args:
        rig: the figure's.
        pose: as it was captured.
        how: on which side, or on both.
    """
    if how is Sides.CAPTURED:
        return pose
    worn = blend(rig.rest, pose, 1.0, rig.setting_rules)
    state, choice = mirrored(rig, worn, choice_of_bound(pose), both=how is Sides.BOTH)
    return bound_of(rig, state, choice, pose)


def bound_of(rig: Rig, state: State, choice: ChannelFilter, like: BoundPose) -> BoundPose:
    """The chosen channels as a figure stands, laid against its rig.

    Args:
        rig, state, choice: what is taken.
        like: whose missing names and count are kept.
    """

    def rows(kind: Channel) -> Index:
        found = sorted(row for row, kinds in choice.channels.items() if kind in kinds)
        return np.array(found, dtype=np.intp)

    moves, turns, scales = rows(Channel.MOVE), rows(Channel.TURN), rows(Channel.SCALE)
    settings = np.array(sorted(choice.settings), dtype=np.intp)
    return BoundPose(
        moves,
        state.move[moves],
        turns,
        state.turn[turns],
        state.shown(rig.orders)[turns],
        scales,
        state.scale[scales],
        settings,
        state.settings[settings],
        like.missing,
        like.asked,
    )


def choice_of_bound(pose: BoundPose) -> ChannelFilter:
    """The channels and settings that a bound pose holds."""
    channels: dict[int, frozenset[Channel]] = {}
    for kind, rows in (
        (Channel.MOVE, pose.move_rows),
        (Channel.TURN, pose.turn_rows),
        (Channel.SCALE, pose.scale_rows),
    ):
        for row in rows.tolist():
            channels[row] = channels.get(row, frozenset()) | {kind}
    return ChannelFilter(channels, frozenset(pose.setting_rows.tolist()))


def partner_row(rig: Rig, row: int) -> int:
    """The row of a control's partner; its own if it has none."""
    return rig.control_row.get(rig.controls[row].partner or "", row)


def _partner_setting(rig: Rig, row: int) -> int:
    return rig.setting_row.get(rig.settings[row].partner or "", row)
