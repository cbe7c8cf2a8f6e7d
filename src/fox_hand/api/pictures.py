"""Pictures without a window, drawn by a process of their own."""

from __future__ import annotations

import math
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

if TYPE_CHECKING:
    from fox_hand.api.card import Card
    from fox_hand.api.rig import Rig
    from fox_hand.api.stance import Stance
    from fox_hand.library.format.card import Card as CoreCard

SMALLEST, LARGEST = 16, 8192


class Pictures:
    """Draws stances and cards; to be used ``with``, or closed afterwards."""

    def __init__(self) -> None:
        from fox_hand.render.renderer import Renderer

        self.renderer = Renderer()

    def __enter__(self) -> Pictures:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        """End the drawing process."""
        self.renderer.stop()

    def draw(
        self,
        stance: Stance,
        width: int = 640,
        height: int = 640,
        *,
        yaw: float = 20.0,
        pitch: float = 3.0,
        background: bool = True,
    ) -> bytes:
        """A picture of a whole figure, PNG.

        Args:
            stance: who stands how.
            width, height: 16 to 8192 pixels.
            yaw, pitch: degrees from straight before the figure, to its left and from above.
            background: else it is clear.

        Raises:
            FoxHandError: ``api.size``, or if it cannot be drawn.
        """
        from fox_hand.core.view.render_request import Quality, Standing, View
        from fox_hand.core.view.usual_views import seen_from
        from fox_hand.library.format.thumb import png

        if not (SMALLEST <= width <= LARGEST and SMALLEST <= height <= LARGEST):
            raise FoxHandError(
                "api.size", tr("a side has 16 to 8192 pixels"), tr("Nothing was drawn.")
            )
        core = stance.rig.core
        at = core.evaluate(stance.state)
        camera = seen_from(core, math.radians(yaw), math.radians(pitch))
        camera = camera.framing(core.flesh(at), width / height, 1.2)
        view = View((Standing(core, at),), camera, width, height, Quality.CARD, background)
        return png(self.renderer.picture(view).pixels)


def files_of(pictures: Pictures, card: Card, rig: Rig) -> tuple[CoreCard, tuple[bytes | None, ...]]:
    """A card with the frame it is drawn in, and the pictures that its file holds: at 320 and
    640 px, of a clip moving too.

    Raises:
        FoxHandError: if nothing of it lands on the rig.
    """
    from fox_hand.session.capturing.capture_pictures import CapturePictures
    from fox_hand.session.capturing.reshooting import not_drawn, reshot
    from fox_hand.session.figures.figure import Figure

    drawing = CapturePictures(pictures.renderer)
    again = reshot(card.core, Figure(rig.core, Path()), drawing)
    drawn = again.pictures()
    if drawn[0] is None:
        raise not_drawn(card.name)
    return again.card, drawn
