"""Small pictures of a puppet's drawings and views, drawn beside the window and kept."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
from PySide6.QtGui import QImage

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.core.rig.swaps import Swap
from fox_hand.core.view.render_request import Picture, Quality, Standing, View
from fox_hand.core.view.usual_views import seen_from
from fox_hand.session.runtime.ports import Pictures, Post

PIXELS = 144
KEPT = 400  # pictures
Shown = Callable[[int, QImage], None]
Key = tuple[Rig, int, int]


def with_setting(state: State, setting: int | None, number: int) -> State:
    """A state with one choice made; as it is where there is no such choice."""
    if setting is None:
        return state
    values = state.settings.copy()
    values[setting] = number
    return state.with_(settings=values)


def drawing_views(rig: Rig, swap: Swap) -> list[View]:
    """A picture of every drawing of a part, on the puppet at rest, all framed alike."""
    view = rig.views.of_control[swap.control]
    base = with_setting(rig.rest, rig.views.view, max(view, 0))
    states = [with_setting(base, swap.setting, n) for n in range(len(swap.names))]
    stands = [Standing(rig, rig.evaluate(state)) for state in states]
    points = [rig.flesh(one.at, [node]) for one, node in zip(stands, swap.nodes, strict=True)]
    return _framed(rig, stands, np.concatenate(points), 1.3)


def view_pictures(rig: Rig) -> list[View]:
    """A picture of every view at rest, all framed alike."""
    views = range(len(rig.views.names))
    states = [with_setting(rig.rest, rig.views.view, n) for n in views]
    stands = [Standing(rig, rig.evaluate(state)) for state in states]
    return _framed(rig, stands, np.concatenate([rig.flesh(one.at) for one in stands]), 1.06)


def _framed(rig: Rig, stands: list[Standing], points: Array, margin: float) -> list[View]:
    camera = seen_from(rig, 0.0, 0.0).framing(points, 1.0, margin)
    return [View((one,), camera, PIXELS, PIXELS, Quality.CARD, background=False) for one in stands]


class TilePictures:
    """Draws what is asked for once, and keeps it.

    Args:
        pictures, post: who draws, and the way back from there.
    """

    def __init__(self, pictures: Pictures, post: Post) -> None:
        self._pictures, self._post = pictures, post
        self._known: dict[Key, QImage] = {}

    def ask(self, rig: Rig, what: int, views: Callable[[], list[View]], shown: Shown) -> None:
        """Have pictures shown: those that are known at once, the others when they are drawn.

        Args:
            rig: whose.
            what: row of the choice they are of.
            views: makes what is to be drawn, if anything is.
            shown: is given a number and its picture.
        """
        count = len(rig.settings[what].options)
        for number in range(count):
            if (rig, what, number) in self._known:
                shown(number, self._known[rig, what, number])
        if all((rig, what, number) in self._known for number in range(count)):
            return
        for number, view in enumerate(views()):
            key = rig, what, number
            ready = partial(self._came, key, shown)
            self._pictures.submit(f"tile:{what}:{number}", view, ready)

    def _came(self, key: Key, shown: Shown, result: Picture | Exception) -> None:
        """On another thread: hand over to the window's."""
        self._post(lambda: self._keep(key, shown, result))

    def _keep(self, key: Key, shown: Shown, result: Picture | Exception) -> None:
        if isinstance(result, Exception):
            return  # the stage tells why pictures cannot be drawn
        height, width = result.pixels.shape[:2]
        image = QImage(
            result.pixels.data,
            width,
            height,
            width * 4,
            QImage.Format.Format_RGBA8888_Premultiplied,
        ).copy()
        self._known[key] = image
        while len(self._known) > KEPT:
            del self._known[next(iter(self._known))]
        shown(key[2], image)
