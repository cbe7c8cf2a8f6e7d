"""Cards that carry what other characters need to do the same."""

from __future__ import annotations

from dataclasses import replace

from fox_hand.core.retarget.carried import carried_of
from fox_hand.core.rig.rig import Rig
from fox_hand.library.format.card import Card
from fox_hand.session.figures.pose_conversion import state_of


def carrying(card: Card, rig: Rig) -> Card:
    """A card with how its own figure stands that wears it."""
    return replace(card, carried=carried_of(rig, state_of(rig, card.pose), card.pose))
