"""The pictures of a card: how it is drawn when it is stored, still and moving."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.core.animation.clip import Clip
from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Quality, Standing, View
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import PICTURE
from fox_hand.library.format.thumb import halved, moving, png, webp
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.figure import Figure
from fox_hand.session.libraries.storing import Drawn
from fox_hand.session.libraries.storing import Pictures as Pictured
from fox_hand.session.runtime.ports import Pictures

MOVING = 160  # pixels of a moving picture
Motion = Callable[[float], Standing]
MOST = 72  # frames of one


class CapturePictures:
    """Draws cards.

    Args:
        pictures: who draws; None where nobody can, cards have no pictures then.
        large: whether cards get a picture of 640 px besides the one of 320.
    """

    def __init__(
        self, pictures: Pictures | None = None, large: Callable[[], bool] = lambda: True
    ) -> None:
        self._pictures, self._large = pictures, large

    def drawn(
        self,
        standing: Standing,
        camera: Camera | None,
        card: Card,
        motion: Motion | None = None,
    ) -> Pictured:
        """How to draw a card's pictures, later and elsewhere.

        Args:
            standing, camera, card: what is drawn, and how.
            motion: how the figure stands at a frame of the card's clip.
        """

        def draw() -> Drawn:
            pictures = self._pictures
            if camera is None or pictures is None:
                return None, None
            try:
                large = pictures.picture(_view(standing, camera, card, 2 * PICTURE)).pixels
                # lines of ink are as wide in either size
                small = (
                    pictures.picture(_view(standing, camera, card, PICTURE)).pixels
                    if card.style == "outline"
                    else halved(large)
                )
            except FoxHandError:
                return None, None  # the pose is kept all the same: no work is lost for its looks
            files = png(small), webp(large) if self._large() else None
            if card.clip is None or motion is None:
                return files
            return (*files, _moving(pictures, motion, camera, card))

        return draw


def _moving(pictures: Pictures, motion: Motion, camera: Camera, card: Card) -> bytes | None:
    """The frames of a clip, small, as one file."""
    assert card.clip is not None
    frames, rate = motion_frames(card.clip)
    try:
        drawn = [pictures.picture(_view(motion(f), camera, card, MOVING)).pixels for f in frames]
    except FoxHandError:
        return None
    return moving(drawn, rate)


def playing(actor: Figure, clip: Clip, base: State, way: Array) -> Motion:
    """How a figure stands at a frame of a clip.

    Args:
        actor, clip: who plays what.
        base: everything else.
        way: how it is moved for the picture, ``(4, 4)``.
    """
    take = Animation(actor.rig, base, clip.keys)

    def stands(frame: float) -> Standing:
        found = actor.standing_in(take.at(frame))
        return Standing(found.rig, replace(found.at, nodes=way @ found.at.nodes))

    return stands


def motion_frames(clip: Clip) -> tuple[list[float], float]:
    """Which frames of a clip its moving picture shows, and how many a second: all of them, of
    long ones fewer. The last of a loop is its first and is left out."""
    loops = not clip.seams()
    count = max(round(clip.length) + (0 if loops else 1), 1)
    step = max(int(np.ceil(count / MOST)), 1)
    return [float(f) for f in range(0, count, step)], clip.rate / step


def _view(standing: Standing, camera: Camera, card: Card, pixels: int) -> View:
    return View((standing,), camera, pixels, pixels, Quality.CARD, card.ground, style=card.style)
