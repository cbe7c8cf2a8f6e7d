"""The rig a card was taken from, as far as the card itself says how it rests."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from fox_hand.core.model.controls import ControlKind, Setting
from fox_hand.core.model.skeleton import Skeleton
from fox_hand.core.pose.pose import Pose, RestFrame
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.joint_controls import joint_controls
from fox_hand.library.format.card import Card

SMALLEST, LARGEST = 0.2, 10.0  # metres


def card_rig(card: Card) -> Rig | None:
    """Joints of a card as a rig without flesh.

    None where the card does not say how its joints rest, or leaves out some on which others hang,
    and where limbs follow goals: which bones these pull, only the rig itself knows.
    """
    held = {
        n: h for n, h in card.pose.controls.items() if h.rest is not None and h.turn is not None
    }
    rests = {name: h.rest for name, h in held.items() if h.rest is not None}
    if card.carried.pulled or len(rests) < 2:
        return None
    names = _ordered(rests)
    row = {name: i for i, name in enumerate(names)}
    parents = tuple(row.get(rests[name].parent or "", -1) for name in names)
    if parents.count(-1) != 1 or any(parent >= i for i, parent in enumerate(parents)):
        return None  # something between is not held, or a damaged card goes in a circle
    frames = [rests[name] for name in names]
    skeleton = Skeleton(
        names,
        parents,
        np.array([f.translation for f in frames], dtype=np.float64),
        np.array(
            [
                f.rotation if parent >= 0 else f.world_rotation
                for f, parent in zip(frames, parents, strict=True)
            ],
            dtype=np.float64,
        ),
        np.array([f.scale for f in frames], dtype=np.float64),
    )
    roles = {i: f.role for i, f in enumerate(frames) if f.role is not None and f.role_sure >= 1.0}
    found = joint_controls(skeleton, range(len(names)), roles=roles or None, body=card.carried.body)
    controls = tuple(c for c in found.controls if c.kind is ControlKind.JOINT)
    rig = Rig(
        name=card.character,
        skeleton=skeleton,
        controls=controls,
        settings=_settings(card.pose, row),
        parts=(),
        palette_nodes=np.zeros(0, dtype=np.intp),
        inverse_binds=np.zeros((0, 4, 4)),
        body=found.body,
        fingerprint=card.fingerprint,
    )
    # where the joints hang on something scaled that is no control, nobody knows how large they are
    return rig if SMALLEST < rig.height < LARGEST else None


def _ordered(rests: Mapping[str, RestFrame]) -> tuple[str, ...]:
    """Names, those above first; a circle in a damaged card ends where it began."""
    found: dict[str, None] = {}

    def add(name: str, below: frozenset[str]) -> None:
        above = rests[name].parent
        if above is not None and above in rests and above not in found and above not in below:
            add(above, below | {name})
        found.setdefault(name)

    for name in rests:
        add(name, frozenset({name}))
    return tuple(found)


def _settings(pose: Pose, row: Mapping[str, int]) -> tuple[Setting, ...]:
    """Settings as they are named; those of holders hang on the first joint."""
    return tuple(
        Setting(name, name, row.get(holder, 0), min(value, -1.0), max(value, 2.0))
        for holder, held in pose.controls.items()
        for name, value in held.settings.items()
    )
