"""What a press on the stage can become: orbit, pan, marquee, free turn, dial turn."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF, QRectF

from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import Array, from_vector, rotate
from fox_hand.core.maths.transforms import decompose, directions
from fox_hand.core.model.controls import Channel
from fox_hand.core.pose.pose import shown_euler
from fox_hand.core.view.camera import Camera
from fox_hand.session.app.needs import Posing
from fox_hand.session.figures.channels import moved_in_world, turned_about_own_axis, turned_in_world
from fox_hand.session.figures.figure import Edit, Figure
from fox_hand.ui.stage.rotate_gizmo import RotateGizmo

DRAG_STARTS = 4.0
TURN_PER_PIXEL = np.radians(0.5)
SWING_STARTS = 12.0  # pixels from the pivot; nearer, the pointer is nowhere about it


class StageView(Protocol):
    """What gestures need of the stage."""

    @property
    def camera(self) -> Camera: ...

    def set_camera(self, camera: Camera) -> None: ...

    def height(self) -> int: ...

    def show_marquee(self, rect: QRectF | None) -> None: ...

    def show_dial(self, dial: RotateGizmo | None) -> None: ...

    def marquee_done(self, rect: QRectF, add: bool) -> None: ...

    def clicked_ground(self, add: bool, at: QPointF) -> None: ...


class Gesture(Protocol):
    """A press that is still held."""

    def move(self, at: QPointF) -> None: ...

    def finish(self, at: QPointF) -> None: ...

    def cancel(self) -> None: ...


class Orbit:
    """Turns the camera about its target."""

    def __init__(self, stage: StageView, start: QPointF) -> None:
        self._stage, self._start, self._camera = stage, start, stage.camera

    def move(self, at: QPointF) -> None:
        d = at - self._start
        scale = np.radians(0.4)
        self._stage.set_camera(self._camera.orbit(-d.x() * scale, d.y() * scale))

    def finish(self, at: QPointF) -> None:
        self.move(at)

    def cancel(self) -> None:
        self._stage.set_camera(self._camera)


class RightPress:
    """The right button on the stage: looks around when it is pulled, and asks for a menu when it is
    let go where it was pressed.

    Args:
        turning: what a pull does.
        start: where it was pressed.
        ask: asks for a menu there.
    """

    def __init__(self, turning: Gesture, start: QPointF, ask: Callable[[QPointF], None]) -> None:
        self._turning, self._start, self._ask = turning, start, ask
        self._pulled = False

    def move(self, at: QPointF) -> None:
        far = (at - self._start).manhattanLength()
        self._pulled = self._pulled or far >= DRAG_STARTS
        if self._pulled:
            self._turning.move(at)

    def finish(self, at: QPointF) -> None:
        if self._pulled:
            self._turning.finish(at)
        else:
            self._ask(self._start)

    def cancel(self) -> None:
        self._turning.cancel()


class Pan:
    """Moves the camera across the picture."""

    def __init__(self, stage: StageView, start: QPointF) -> None:
        self._stage, self._start, self._camera = stage, start, stage.camera

    def move(self, at: QPointF) -> None:
        d = at - self._start
        self._stage.set_camera(self._camera.pan(d.x(), d.y(), self._stage.height()))

    def finish(self, at: QPointF) -> None:
        self.move(at)

    def cancel(self) -> None:
        self._stage.set_camera(self._camera)


class Marquee:
    """Selects what lies in a rectangle; a press without a drag is a click on the ground."""

    def __init__(self, stage: StageView, start: QPointF, add: bool) -> None:
        self._stage, self._start, self._add = stage, start, add
        self._dragged = False

    def move(self, at: QPointF) -> None:
        d = at - self._start
        self._dragged = self._dragged or max(abs(d.x()), abs(d.y())) > DRAG_STARTS
        if self._dragged:
            self._stage.show_marquee(QRectF(self._start, at).normalized())

    def finish(self, at: QPointF) -> None:
        self.move(at)
        self._stage.show_marquee(None)
        if self._dragged:
            self._stage.marquee_done(QRectF(self._start, at).normalized(), self._add)
        else:
            self._stage.clicked_ground(self._add, at)

    def cancel(self) -> None:
        self._stage.show_marquee(None)


class FreeTurn:
    """Turns the selected joints freely, as if they lay under the hand; drawings swing about the
    pivot with the pointer."""

    def __init__(self, stage: StageView, workspace: Posing, start: QPointF, label: str) -> None:
        self._stage, self._workspace, self._start, self._label = stage, workspace, start, label
        self._edit: Edit | None = None
        self._first: float | None = None  # where the pointer was about the pivot

    def move(self, at: QPointF) -> None:
        actor = self._workspace.actor
        d = at - self._start
        if actor is None:
            return
        flat = actor.rig.flat
        if self._edit is None:
            if max(abs(d.x()), abs(d.y())) <= (SWING_STARTS if flat else DRAG_STARTS):
                return
            self._edit = self._workspace.edit(self._label)
            self._nodes = actor.at.nodes
        axes = self._stage.camera.view()[:3, :3]
        vector = axes[1] * d.x() * TURN_PER_PIXEL + axes[0] * d.y() * TURN_PER_PIXEL
        if flat:
            vector = axes[2] * self._swung(d)
        self._edit.preview(
            turned_in_world(
                actor.rig,
                self._edit.before,
                self._workspace.selection.rows,
                self._nodes,
                from_vector(vector),
            )
        )

    def _swung(self, d: QPointF) -> float:
        """Radians anticlockwise since the turn began, from where the pointer is about the
        pivot."""
        angle = float(np.arctan2(-d.y(), d.x()))
        if self._first is None:
            self._first = angle
        return float((angle - self._first + np.pi) % (2 * np.pi) - np.pi)

    def finish(self, at: QPointF) -> None:
        self.move(at)
        if self._edit is not None:
            self._edit.commit()

    def cancel(self) -> None:
        if self._edit is not None:
            self._edit.cancel()


class Shift:
    """Moves the selected goals, poles and movable joints: freely in the plane of the picture, or
    along one of the own axes of the control picked last."""

    def __init__(
        self,
        stage: StageView,
        workspace: Posing,
        start: QPointF,
        axis: int | None,
        along: QPointF | None,
    ) -> None:
        assert workspace.actor is not None
        self._stage, self._workspace, self._start = stage, workspace, start
        self._actor: Figure = workspace.actor
        self._axis, self._along = axis, along
        self._row = workspace.selection.rows[-1]
        self._edit: Edit | None = None

    def move(self, at: QPointF) -> None:
        d = at - self._start
        if self._edit is None:
            if max(abs(d.x()), abs(d.y())) <= DRAG_STARTS:
                return
            label = self._actor.rig.word(self._row)
            self._edit = self._workspace.edit(tr("Move {label}", label=label))
            self._nodes = self._actor.at.nodes
        actor = self._actor
        step = self._step(d)
        rows = self._workspace.selection.rows
        state = moved_in_world(
            actor.rig, self._edit.before, rows, self._nodes, step, actor.ground_matrix
        )
        self._edit.preview(state)

    def _step(self, d: QPointF) -> Array:
        """World metres of a move of the pointer."""
        view = self._stage.camera.view()
        place = self._nodes[self._actor.rig.controls[self._row].node, :3, 3]
        depth = max(float(-(view[2, :3] @ place + view[2, 3])), 1e-3)
        size = 2 * depth * np.tan(self._stage.camera.fov / 2) / self._stage.height()
        if self._axis is None or self._along is None:
            return np.asarray((view[0] * d.x() - view[1] * d.y())[:3] * size)
        own = directions(self._nodes[self._actor.rig.controls[self._row].node, :3, :3])
        # how far the pointer went along the arrow as it is seen
        far = np.hypot(self._along.x(), self._along.y())
        share = (d.x() * self._along.x() + d.y() * self._along.y()) / max(far, 0.15) ** 2
        return np.asarray(own[:, self._axis] * share * size)

    def finish(self, at: QPointF) -> None:
        self.move(at)
        if self._edit is not None:
            self._edit.commit()

    def cancel(self) -> None:
        if self._edit is not None:
            self._edit.cancel()


class DialTurn:
    """Turns the selected joints about one of their own axes by sweeping a grip."""

    def __init__(
        self, stage: StageView, workspace: Posing, dial: RotateGizmo, axis: int, at: QPointF
    ) -> None:
        assert workspace.actor is not None
        self._stage, self._workspace = stage, workspace
        self._actor: Figure = workspace.actor
        self._dial, self._axis = replace(dial, active=axis), axis
        self._row = workspace.selection.rows[-1]
        self._edit = workspace.edit(tr("Turn {word}", word=self._actor.rig.word(self._row)))
        self._last = dial.angle_at(at)
        self._swept = 0.0
        # an axis that points away from the eye turns the other way round on the screen
        matrix = self._actor.at.nodes[self._actor.rig.controls[self._row].node]
        own = decompose(matrix)[1]
        direction = rotate(own, np.eye(3)[axis])
        to_eye = stage.camera.eye - matrix[:3, 3]
        self._sign = 1.0 if float(direction @ to_eye) >= 0 else -1.0

    def move(self, at: QPointF) -> None:
        angle = self._dial.angle_at(at)
        step = (angle - self._last + 180) % 360 - 180
        self._last = angle
        self._swept += step
        turn = np.radians(self._swept) * self._sign
        state = turned_about_own_axis(
            self._actor.rig, self._edit.before, self._turnable(), self._axis, turn
        )
        self._edit.preview(state)
        shown = shown_euler(self._actor.rig.controls[self._row], state, self._row)
        value = float(np.degrees(shown[self._axis]))
        self._stage.show_dial(replace(self._dial, swept=self._swept, value=value))

    def _turnable(self) -> list[int]:
        controls = self._actor.rig.controls
        return [r for r in self._workspace.selection.rows if Channel.TURN in controls[r].channels]

    def finish(self, at: QPointF) -> None:
        self.move(at)
        self._edit.commit()
        self._stage.show_dial(None)

    def cancel(self) -> None:
        self._edit.cancel()
        self._stage.show_dial(None)
