"""The camera goes along with a figure while frames of a performance are looked through."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.session.animating.frame_sequence import FrameSequence
from fox_hand.session.app.needs import Animating
from fox_hand.session.figures.figure import Figure
from fox_hand.ui.stage.stage_view import Stage


class CameraFollowing:
    """A figure that walks stays in sight; when the frames are closed the camera is where it was.

    Args:
        workspace: whose frames.
        stage: whose camera.
    """

    def __init__(self, workspace: Animating, stage: Stage) -> None:
        self._workspace, self._stage = workspace, stage
        self._sequence: FrameSequence | None = None
        self._from = self._gone = np.zeros(3)
        workspace.review.changed.connect(self._on_review)

    def _on_review(self) -> None:
        sequence = self._workspace.review.sequence
        if sequence is self._sequence:
            return
        if self._sequence is not None:
            self._sequence.changed.disconnect(self._follow)
        self._go(np.zeros(3))
        self._sequence = sequence
        if sequence is not None:
            self._from = _place(sequence.actor)
            sequence.changed.connect(self._follow)

    def _follow(self) -> None:
        if self._sequence is not None:
            self._go(_place(self._sequence.actor) - self._from)

    def _go(self, away: Array) -> None:
        """Look from as far away from where it began."""
        away = away * (1.0, 0.0, 1.0)
        if np.array_equal(away, self._gone):
            return
        camera = self._stage.camera
        x, y, z = (np.array(camera.target) + away - self._gone).tolist()
        self._gone = away
        self._stage.set_camera(replace(camera, target=(x, y, z)))


def _place(actor: Figure) -> Array:
    """Where a figure is: its hips, or what carries the most."""
    nodes = actor.at.nodes[:, :3, 3]
    hips = next((c.node for c in actor.rig.controls if c.role == "hips"), None)
    return np.asarray(nodes[hips] if hips is not None else nodes.mean(0))
