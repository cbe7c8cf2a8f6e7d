"""Mirroring a pose across the figure's own middle plane, wherever it stands.

Every node has a constant from the rest pose alone, ``C = R^-1 M R_partner`` with the rest world
matrices ``R`` and the reflection ``M``. The partner's local transform is then
``C_parent^-1 L C``: the world change away from rest, reflected. No table of signs is needed, so it
is right for every convention of joint axes, for asymmetric rests, for controls in the middle and
for goals and poles wherever they hang. Drawings that look aside have no such middle plane; see
:mod:`fox_hand.core.pose.flat_mirror`.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping

import numpy as np

from fox_hand.core.maths.rotations import Array, from_matrix, to_matrix
from fox_hand.core.maths.transforms import directions
from fox_hand.core.model.controls import MirrorRule
from fox_hand.core.model.state import State
from fox_hand.core.pose.flat_mirror import aside_rows, exchanged, is_whole, turned_over
from fox_hand.core.pose.pose import shown_euler
from fox_hand.core.rig.rig import Rig


def mirrored_settings(rig: Rig, settings: Array) -> Array:
    """Setting values ``(S,)`` as their mirror rules say."""
    found = settings.copy()
    for row, setting in enumerate(rig.settings):
        other = rig.setting_row.get(setting.partner) if setting.partner else None
        source = row if other is None else other
        if setting.mirror in (MirrorRule.SWAP, MirrorRule.SWAP_SIGN):
            found[row] = settings[source]
        if setting.mirror in (MirrorRule.SIGN, MirrorRule.SWAP_SIGN):
            found[row] = -found[row]
    return found


def mirror(rig: Rig, state: State, onto: Collection[int] | None = None) -> State:
    """The state with some controls set to the mirror image of their partners.

    Args:
        rig: whose state.
        state: one frame.
        onto: rows of the controls that change, with the settings they hold; None for all. A
            control in the middle is its own partner; one without a partner stays as it is. Of
            a puppet in several views None is all of the view that is seen.
    """
    rows = range(len(rig.controls)) if onto is None else sorted(set(onto))
    if rig.views.facing is not None:
        if onto is None:
            rows = [row for row in rows if rig.views.shown(state, row)]
        aside = aside_rows(rig, state, rows)
        state = _aside(rig, state, aside)
        rows = sorted(set(rows) - aside)
    paired = [r for r in rows if rig.controls[r].partner in rig.control_row]
    settings = state.settings.copy()
    held = [s for r in paired for s in rig.settings_of[r]]
    settings[held] = mirrored_settings(rig, state.settings)[held]
    moving = [r for r in paired if rig.controls[r].moves_node]
    found = state.with_(settings=settings)
    if not moving:
        return found
    table = rig.mirror_table
    local = rig.locals_of(state)
    nodes = np.array([rig.controls[r].node for r in moving])
    sources = table.partners[nodes]
    wanted = table.parent_inverses[sources] @ local[sources] @ table.constants[sources]
    return _with_locals(rig, found, moving, wanted)


def _aside(rig: Rig, state: State, rows: Collection[int]) -> State:
    """With some controls mirrored that are of views that look aside."""
    if is_whole(rig, rows):
        return turned_over(rig, state, rows)
    partners = partners_of(rig, rows)
    settings = state.settings.copy()
    held = [s for row in partners for s in rig.settings_of[row]]
    settings[held] = mirrored_settings(rig, state.settings)[held]
    return exchanged(state, partners, settings)


def _with_locals(rig: Rig, state: State, rows: list[int], wanted: Array) -> State:
    """The state in which some controls' nodes have the given local matrices ``(K, 4, 4)``."""
    nodes = np.array([rig.controls[r].node for r in rows])
    move, turn, scale = state.move.copy(), state.turn.copy(), state.scale.copy()
    move[rows], scale[rows] = 0.0, 1.0
    turn[rows] = (0.0, 0.0, 0.0, 1.0)
    at_rest = state.with_(move=move.copy(), turn=turn.copy(), scale=scale.copy())
    neutral = rig.locals_of(at_rest)[nodes]
    # local axes are rest turn, then turn, then the signs of the rest scale
    signs = np.where(rig.skeleton.scale[nodes] < 0, -1.0, 1.0)[:, None, :]
    frames = directions(neutral[:, :3, :3]) * signs
    sizes = np.linalg.norm(neutral[:, :3, :3], axis=-2)
    bases = wanted[:, :3, :3]
    lengths = np.linalg.norm(bases, axis=-2)
    scale[rows] = np.where(
        np.isclose(lengths, sizes, rtol=1e-9), 1.0, lengths / np.maximum(sizes, 1e-12)
    )
    # a node mirrored by a negative scale: the sign belongs to the scale, not to the turn
    own = frames.swapaxes(-1, -2) @ directions(bases) * signs
    flipped = np.linalg.det(own) < 0
    scale[np.array(rows)[flipped]] *= (-1.0, 1.0, 1.0)
    own[flipped, :, 0] *= -1.0
    # what has no size, or hangs on what has none, shows no turn: it stays as it is
    flat = (np.minimum(lengths, sizes) < 1e-12).any(-1)
    own[flat] = np.eye(3)
    turn[rows] = from_matrix(own)
    rest = to_matrix(rig.skeleton.rotation[nodes])
    gap = (wanted[:, :3, 3] - neutral[:, :3, 3])[..., None]
    move[rows] = (rest.swapaxes(-1, -2) @ gap)[..., 0] * rig.units_of(nodes)[:, None]
    move[np.abs(move) < 1e-15] = 0.0
    kept = np.array(rows)[flat]
    move[kept], turn[kept], scale[kept] = state.move[kept], state.turn[kept], state.scale[kept]
    after = state.with_(move=move, turn=turn, scale=scale)
    euler = state.euler.copy()
    for row in rows:
        euler[row] = shown_euler(rig.controls[row], after, row)
    return after.with_(euler=euler)


def partners_of(rig: Rig, rows: Collection[int]) -> Mapping[int, int]:
    """For each of some controls the row of its partner, where it has one."""
    found = {}
    for row in rows:
        other = rig.control_row.get(rig.controls[row].partner or "")
        if other is not None:
            found[row] = other
    return found
