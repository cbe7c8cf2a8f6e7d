"""The pictures of cards that are there, taken again."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.core.animation.curves import Keys
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.state import State
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Standing
from fox_hand.library.format.card import Card
from fox_hand.library.format.schema import StyleName
from fox_hand.session.animating.clips import clip_on
from fox_hand.session.applying.mix import fit_of
from fox_hand.session.capturing.capture_pictures import CapturePictures, motion_frames, playing
from fox_hand.session.capturing.card_framing import shot_of, taken, worn
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.figure import Figure
from fox_hand.session.libraries.storing import Pictures


@dataclass(frozen=True)
class Reshot:
    """A card with its next picture.

    Args:
        card: with the frame it is taken with.
        standing, camera: what is drawn, and from where.
        pictures: draws it at 320 and 640 px, and of a clip the moving one.
    """

    card: Card
    standing: Standing
    camera: Camera
    pictures: Pictures


def reshot(
    card: Card, actor: Figure, drawing: CapturePictures, style: StyleName | None = None
) -> Reshot:
    """The next picture of a card on a character.

    Args:
        card: whose picture.
        actor: who wears it; what stands around it is as the card says, not as the figure stands.
        drawing: draws.
        style: another way to draw than it has.

    Raises:
        FoxHandError: ``reshoot.nothing_lands``, ``clip.nothing_lands``.
    """
    if not fit_of(card, actor.rig).lands:
        raise FoxHandError(
            "reshoot.nothing_lands",
            f"Nothing of {card.name} lands on {actor.rig.name}.",
            "Its picture stays.",
            "Let the character act that the card was made for.",
        )
    shot = shot_of(actor, card)
    again = replace(taken(card, actor, shot.standing, shot.camera), style=style or card.style)
    standing, motion = shot.standing, None
    if card.clip is not None:
        clip, base = clip_on(card, actor), worn(actor.rig, card)
        motion = playing(actor, clip, base, shot.way)
        take = Animation(actor.rig, base, Keys(clip.lines))
        standing = motion(_farthest(take.at, motion_frames(clip)[0]))
    pictures = drawing.drawn(standing, shot.camera, again, motion)
    return Reshot(again, standing, shot.camera, pictures)


def _farthest(at: Callable[[float], State], frames: list[float]) -> float:
    """The frame of a clip that is farthest from how it begins: that is what it is about."""
    first = at(frames[0])

    def way(frame: float) -> float:
        state = at(frame)
        turned = float(angle_between(first.turn, state.turn).sum())
        moved = float(np.abs(state.move - first.move).sum())
        return turned + moved + float(np.abs(state.settings - first.settings).sum())

    return max(frames, key=way)
