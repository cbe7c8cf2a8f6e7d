"""What the simulated host sees of its scene: grey, as no window of ours looks."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
from PIL import Image

from fox_hand.core.view.render_request import Picture, Quality, Ready, Standing, View
from fox_hand.core.view.usual_views import seen_from
from fox_hand.demo.host.control_rig import UNIT
from fox_hand.demo.host.host_scene import HostFigure, HostScene
from fox_hand.interchange.described import shown_rig
from fox_hand.interchange.sidecar import Sidecar
from fox_hand.render.renderer import Renderer
from fox_hand.session.link.own_terms import state_from

APART = 1.4  # metres between two figures
ROOM = 1.06


class HostView:
    """Draws it, in a process of its own.

    Args:
        figures: of the scene.
    """

    def __init__(self, figures: Mapping[str, HostFigure]) -> None:
        self._rigs = {
            rig: shown_rig(msgspec.convert(f.description, Sidecar), f.prefix, Path(rig))
            for rig, f in figures.items()
        }
        self._renderer = Renderer()

    def stop(self) -> None:
        self._renderer.stop()

    def picture(self, scene: HostScene, width: int, height: int) -> Picture:
        """The scene as it is seen now, previews with it.

        Raises:
            FoxHandError: where nothing can draw.
        """
        return self._renderer.picture(self._seen(scene, width, height))

    def ask(self, scene: HostScene, width: int, height: int, ready: Ready) -> None:
        """The same without waiting; ``ready`` is called on another thread."""
        self._renderer.submit("host", self._seen(scene, width, height), ready)

    def _seen(self, scene: HostScene, width: int, height: int) -> View:
        standings, points = [], []
        for number, (rig, made) in enumerate(self._rigs.items()):
            at = made.evaluate(state_from(made, scene.values(rig), UNIT))
            nodes = at.nodes.copy()
            aside = number * APART
            nodes[:, 0, 3] += aside
            standings.append(Standing(made, replace(at, nodes=nodes)))
            points.append(made.rest_bounds + np.array([aside, 0.0, 0.0]))
        first = next(iter(self._rigs.values()))
        camera = seen_from(first, 0.0, 0.05).framing(np.concatenate(points), width / height, ROOM)
        return View(tuple(standings), camera, width, height, Quality.CARD)

    def png(self, scene: HostScene, width: int, height: int) -> bytes:
        """The same as a file."""
        pixels = self.picture(scene, width, height).pixels
        data = io.BytesIO()
        Image.fromarray(np.ascontiguousarray(pixels[..., :3])).convert("L").save(data, "PNG")
        return data.getvalue()
