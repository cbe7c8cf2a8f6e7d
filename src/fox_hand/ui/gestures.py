"""What a press on the stage can become: orbit, pan, marquee, free turn, dial turn."""

from __future__ import annotations

from dataclasses import replace
from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF, QRectF

from fox_hand.core.camera import Camera
from fox_hand.core.pose import shown_euler
from fox_hand.core.rig import Channel
from fox_hand.core.rotations import from_vector, rotate
from fox_hand.core.transforms import decompose
from fox_hand.session.actor import Actor, Edit
from fox_hand.session.channels import turned_about_own_axis, turned_in_world
from fox_hand.session.desk import Desk
from fox_hand.ui.dial import Dial

DRAG_STARTS = 4.0
TURN_PER_PIXEL = np.radians(0.5)


class StageView(Protocol):
    """What gestures need of the stage."""

    @property
    def camera(self) -> Camera: ...

    def set_camera(self, camera: Camera) -> None: ...

    def height(self) -> int: ...

    def show_marquee(self, rect: QRectF | None) -> None: ...

    def show_dial(self, dial: Dial | None) -> None: ...

    def marquee_done(self, rect: QRectF, add: bool) -> None: ...

    def clicked_ground(self, add: bool) -> None: ...


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
            self._stage.clicked_ground(self._add)

    def cancel(self) -> None:
        self._stage.show_marquee(None)


class FreeTurn:
    """Turns the selected joints freely, as if they lay under the hand."""

    def __init__(self, stage: StageView, desk: Desk, start: QPointF, label: str) -> None:
        self._stage, self._desk, self._start, self._label = stage, desk, start, label
        self._edit: Edit | None = None

    def move(self, at: QPointF) -> None:
        actor = self._desk.actor
        d = at - self._start
        if actor is None:
            return
        if self._edit is None:
            if max(abs(d.x()), abs(d.y())) <= DRAG_STARTS:
                return
            self._edit = self._desk.edit(self._label)
            self._nodes = actor.at.nodes
        axes = self._stage.camera.view()[:3, :3]
        vector = axes[1] * d.x() * TURN_PER_PIXEL + axes[0] * d.y() * TURN_PER_PIXEL
        self._edit.preview(
            turned_in_world(
                actor.rig,
                self._edit.before,
                self._desk.selection.rows,
                self._nodes,
                from_vector(vector),
            )
        )

    def finish(self, at: QPointF) -> None:
        self.move(at)
        if self._edit is not None:
            self._edit.commit()

    def cancel(self) -> None:
        if self._edit is not None:
            self._edit.cancel()


class DialTurn:
    """Turns the selected joints about one of their own axes by sweeping a grip."""

    def __init__(self, stage: StageView, desk: Desk, dial: Dial, axis: int, at: QPointF) -> None:
        assert desk.actor is not None
        self._stage, self._desk = stage, desk
        self._actor: Actor = desk.actor
        self._dial, self._axis = replace(dial, active=axis), axis
        self._row = desk.selection.rows[-1]
        control = self._actor.rig.controls[self._row]
        self._edit = desk.edit(f"Turn {control.label}")
        self._last = dial.angle_at(at)
        self._swept = 0.0
        # an axis that points away from the eye turns the other way round on the screen
        matrix = self._actor.at.nodes[control.node]
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
        return [r for r in self._desk.selection.rows if Channel.TURN in controls[r].channels]

    def finish(self, at: QPointF) -> None:
        self.move(at)
        self._edit.commit()
        self._stage.show_dial(None)

    def cancel(self) -> None:
        self._edit.cancel()
        self._stage.show_dial(None)
