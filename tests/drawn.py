"""Someone who draws flat pictures at once, and remembers what was asked for."""

from __future__ import annotations

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.core.view.render_request import Picture, Ready, View


class FlatPictures:
    """Draws every view as a white field with a black bar that grows.

    Attributes:
        asked: all views, in order.
        broken: draws nothing from now on.
    """

    def __init__(self) -> None:
        self.asked: list[View] = []
        self.broken = False

    def picture(self, view: View) -> Picture:
        self.asked.append(view)
        if self.broken:
            raise FoxHandError("render.failed", "Nothing can be drawn.")
        pixels = np.full((view.height, view.width, 4), 255, np.uint8)
        pixels[:, : len(self.asked) % view.width, :3] = 0
        return Picture(pixels, view, {})

    def submit(self, channel: str, view: View, ready: Ready) -> None:
        del channel
        ready(self.picture(view))

    def forget(self, prefix: str) -> None:
        del prefix

    def try_again(self) -> None:
        self.broken = False
