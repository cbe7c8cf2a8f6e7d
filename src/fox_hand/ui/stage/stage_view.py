"""The stage: the figure, its handles, and everything done to it with the pointer."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QRegion,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from fox_hand.base.language import tr
from fox_hand.core.kinematics.evaluation import Evaluation
from fox_hand.core.maths.rotations import Array
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.true_size import at_true_size, true_size
from fox_hand.core.view.usual_views import seen_from
from fox_hand.session.app.needs import PosingInTime
from fox_hand.session.figures.figure import Figure
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.picker.heard_controls import heard_control
from fox_hand.ui.stage.gestures import Gesture, Orbit, Pan, RightPress
from fox_hand.ui.stage.gizmos import arrows_of, centre_of, dial_of
from fox_hand.ui.stage.handles import HandleLayout, HandleStamps, lay_out
from fox_hand.ui.stage.move_gizmo import MoveGizmo, draw_arrows
from fox_hand.ui.stage.rotate_gizmo import RotateGizmo, draw_dial
from fox_hand.ui.stage.stage_keys import stage_keys
from fox_hand.ui.stage.stage_paint import paint_checks, paint_handles, paint_lead
from fox_hand.ui.stage.stage_pictures import StagePictures
from fox_hand.ui.stage.stage_press import figure_at, pressed
from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.accessible_parts import AccessiblePart, PartsOwner, tell_current
from fox_hand.ui.widgets.pinch import follow_pinch
from fox_hand.ui.widgets.screen_pixels import follow_screen


class Stage(QWidget, PartsOwner):
    """Shows the newest picture of the figure and turns gestures into edits.

    Args:
        theme, workspace: what is shown, and what is edited.
        pictures, post: who draws, and the way back from there.
    """

    camera_changed = Signal()
    menu_asked = Signal(bool, QPoint)  # whether about controls, and where on the screen

    def __init__(
        self, theme: Theme, workspace: PosingInTime, pictures: Pictures, post: Post
    ) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self.pictures = StagePictures(theme, workspace, pictures, post, self)
        self._gesture: Gesture | None = None
        self._marquee: QRectF | None = None
        self._turning: RotateGizmo | None = None
        self._pointed: tuple[int | None, int | None, int | None] = None, None, None
        self._space = False
        self._layout: HandleLayout | None = None
        self._drawn: HandleLayout | None = None
        self.keys = stage_keys(workspace)
        self.handles_on = True
        self.bottom_reserved = 0  # pixels covered by a bar at the lower edge
        self.lead: tuple[int, QRect] | None = None  # a control, and where its shelf lies
        self.right_reserved = 0  # and by the views of a puppet at the right one
        self._stamps = HandleStamps(theme)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(320, 240)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName(tr("Stage"))
        follow_pinch(self, self.zoom_at)
        follow_screen(self, self.refresh)
        self._followed: tuple[Figure, ...] = ()
        self.pictures.arrived.connect(self._on_picture)
        workspace.actor_changed.connect(self._on_actor)
        workspace.cast.changed.connect(self._on_cast)
        workspace.mix_changed.connect(self.refresh)
        workspace.mix_commands.peeked.connect(self.refresh)
        workspace.selection.changed.connect(self._on_selection)
        workspace.backdrops.changed.connect(self.refresh)

    # -- camera ---------------------------------------------------------------------------

    @property
    def camera(self) -> Camera:
        return self.pictures.camera

    def set_camera(self, camera: Camera) -> None:
        """Look from somewhere else."""
        if camera != self.camera:
            self.pictures.camera = camera
            self.camera_changed.emit()
            self.refresh()

    def frame(self, rows: list[int] | None = None, margin: float = 1.2) -> None:
        """Bring controls (None: the whole acting figure) into the picture."""
        actor = self._workspace.actor
        if actor is None:
            return
        nodes = None if rows is None else actor.flesh_nodes(rows)
        self._frame_points(actor.rig.flesh(actor.at, nodes, every=1 if rows else 6), margin)

    def frame_actor(self, actor: Figure | None) -> None:
        """Bring one figure, or with None the whole cast, into the picture."""
        actors = self._workspace.cast.actors if actor is None else (actor,)
        if actors:
            points = [a.rig.flesh(a.at, None, every=6) for a in actors]
            self._frame_points(np.concatenate(points), 1.2)

    @property
    def flat(self) -> bool:
        """Whether only puppets cut out of drawings stand there."""
        actors = self._workspace.cast.actors
        return bool(actors) and all(actor.rig.flat for actor in actors)

    def _frame_points(self, points: Array, margin: float) -> None:
        free = max(self.height() - self.bottom_reserved, 80)
        across = max(self.width() - self.right_reserved, 160)
        camera = self.camera.framing(points, across / free, margin)
        # with a bar at the lower edge the figure stands in the free part above it
        lift, aside = (self.height() - free) / 2, (self.width() - across) / 2
        camera = camera.zoom(self.height() / free, 1e-3, 1e4)
        self.set_camera(camera.pan(-aside, -lift, self.height()))

    def look_from(self, yaw: float, pitch: float, rows: list[int] | None, margin: float) -> None:
        """A view: direction in degrees, and what is framed. Puppets cut out of drawings are seen
        straight on."""
        camera = Camera(yaw=float(np.radians(yaw)), pitch=float(np.radians(pitch)))
        if self.flat:
            camera = seen_from(self._workspace.cast.actors[0].rig, 0.0, 0.0)
        self.pictures.camera = camera
        self.frame(rows, margin)
        self.camera_changed.emit()
        self.refresh()

    def look_pixel_by_pixel(self) -> bool:
        """Look at drawings as large as they were drawn; False where there are none."""
        actor = self._workspace.actor
        drawn = None if actor is None else true_size(actor.rig, actor.at)
        if drawn is None or not self.flat:
            return False
        ratio = self.devicePixelRatioF()
        size = max(round(self.width() * ratio), 2), max(round(self.height() * ratio), 2)
        self.set_camera(at_true_size(self.camera, size, drawn))
        return True

    # -- following ------------------------------------------------------------------------

    def _on_actor(self) -> None:
        self._drawn = None
        self.pictures.forget(everything=False)
        self.refresh()

    def _on_cast(self) -> None:
        """Somebody came or went, or has another rig now."""
        actors = self._workspace.cast.actors
        news = [a for a in actors if a not in self._followed]
        for actor in news:
            actor.posed.connect(self.refresh)
        first = not self._followed and bool(news)
        self._followed = actors
        if not actors:
            self.pictures.forget(everything=True)
        if first:
            front = float(np.degrees(news[0].rig.body.heading))
            self.look_from(front + 20, 3, None, 1.18)
        self.refresh()

    def _on_selection(self) -> None:
        self._drawn = None
        self.update()
        self.refresh()
        if len(self._workspace.selection) and self.hasFocus():
            tell_current(self, ("control", self._workspace.selection.rows[-1]))

    def refresh(self) -> None:
        """The figure, the camera or the selection changed.

        Handles are painted with the picture they belong to, when it comes, so that the two never
        part while something moves.
        """
        self._layout = None
        if self._workspace.actor is None:
            self.update()
        elif self.width() > 1:
            self.pictures.ask()

    def _on_picture(self, fine: bool) -> None:
        self._drawn = None
        if fine:
            self.update()
        else:
            self.update(self._uncovered())

    def _uncovered(self) -> QRegion:
        """The stage without what floats on it, so that bars are not painted at every move."""
        region = QRegion(self.rect())
        for child in self.children():
            if isinstance(child, QWidget) and child.isVisible() and child.property("floating"):
                region -= QRegion(child.geometry())
        return region

    # -- handles --------------------------------------------------------------------------

    def layout_now(self) -> HandleLayout | None:
        """Handles of the figure as it stands now."""
        actor = self._workspace.actor
        if actor is None:
            return None
        if self._layout is None:
            self._layout = self._laid_out(actor.at, self.camera)
        return self._layout

    def _layout_drawn(self) -> HandleLayout | None:
        """Handles of the figure as the picture shows it."""
        picture, actor = self.pictures.latest, self._workspace.actor
        if self._drawn is None and picture is not None and actor is not None:
            mine = self._workspace.cast.actors.index(actor)
            figures = picture.view.figures
            if mine < len(figures) and figures[mine].rig is actor.rig:
                self._drawn = self._laid_out(figures[mine].at, picture.view.camera)
        return self._drawn

    def _laid_out(self, at: Evaluation, camera: Camera) -> HandleLayout:
        assert self._workspace.actor is not None
        actor, chosen = self._workspace.actor, set(self._workspace.selection.rows)
        if self._workspace.mix is not None:
            chosen |= self._workspace.mix.rows
        places = actor.rig.handle_places(at.nodes)
        size = (self.width(), self.height())
        return lay_out(actor.rig, places, camera, size, chosen, actor.rig.idle(actor.state))

    def dial(self, layout: HandleLayout | None = None) -> RotateGizmo | None:
        """The dial of the control selected last, if it can turn."""
        layout = layout or self.layout_now()
        if layout is None or (self._turning is None and self.pictures.plain):
            return None
        if self._turning is not None:
            row = self._workspace.selection.rows[-1]
            return replace(self._turning, centre=centre_of(layout, row))
        return dial_of(self._workspace, layout)

    def arrows(self, layout: HandleLayout | None = None) -> MoveGizmo | None:
        """Arrows of the control selected last, if it can be moved."""
        layout = layout or self.layout_now()
        if layout is None or self.pictures.plain:
            return None
        return arrows_of(self._workspace, layout, self.camera)

    @property
    def _grips(self) -> bool:
        """Whether handles can be taken hold of."""
        return self.handles_on and not self.pictures.plain

    def accessible_parts(self) -> list[AccessiblePart]:
        actor, layout = self._workspace.actor, self.layout_now()
        if actor is None or layout is None or not self._grips:
            return []
        selection, rows = self._workspace.selection, np.flatnonzero(layout.shown).tolist()
        last = selection.rows[-1] if len(selection) and self.hasFocus() else None
        return [
            heard_control(
                actor, selection, row, centre_of(layout, row).toPoint(), current=row == last
            )
            for row in rows
        ]

    # -- what gestures call ---------------------------------------------------------------

    def show_marquee(self, rect: QRectF | None) -> None:
        self._marquee = rect
        self.update()

    def show_dial(self, dial: RotateGizmo | None) -> None:
        self._turning = dial
        self.update()

    def marquee_done(self, rect: QRectF, add: bool) -> None:
        layout = self.layout_now()
        if layout is None:
            return
        rows = layout.inside(rect) if self.handles_on else []
        if add:
            self._workspace.selection.add(rows)
        else:
            self._workspace.selection.set(rows)

    def clicked_ground(self, add: bool, at: QPointF) -> None:
        size = (self.width(), self.height())
        other = figure_at(self._workspace, self.camera, size, at)
        if other is not None:
            self._workspace.act(other)
        elif not add:
            self._workspace.selection.clear()

    # -- pointer and keys -----------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if self._gesture is not None or self._workspace.actor is None:
            return
        at, shift = event.position(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        through = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        button = event.button()
        if button is Qt.MouseButton.MiddleButton or (
            button is Qt.MouseButton.RightButton and shift
        ):
            self._gesture = Pan(self, at)
        elif button is Qt.MouseButton.RightButton or self._space:
            # from aside there is nothing to be seen of drawings
            turning = Pan(self, at) if self.flat else Orbit(self, at)
            right = button is Qt.MouseButton.RightButton
            self._gesture = RightPress(turning, at, self._ask_menu) if right else turning
        elif button is Qt.MouseButton.LeftButton and not self.pictures.plain:
            self._gesture = pressed(self, self._workspace, at, shift, through)

    def _ask_menu(self, at: QPointF) -> None:
        """What is under the pointer is what the menu is about."""
        layout = self.layout_now() if self.handles_on else None
        row = layout.nearest(at) if layout is not None else None
        if row is not None and row not in self._workspace.selection.rows:
            self._workspace.selection.set([row])
        self.menu_asked.emit(row is not None, self.mapToGlobal(at.toPoint()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._gesture is not None:
            self._gesture.move(at)
            return
        layout, dial, arrows = self.layout_now(), self.dial(), self.arrows()
        on = self._grips
        grip = dial.hit(at) if on and dial is not None else None
        arrow = arrows.hit(at) if on and arrows is not None and grip is None else None
        free = grip is None and arrow is None
        row = layout.nearest(at) if on and layout is not None and free else None
        pointed = (row, grip, arrow)
        if pointed != self._pointed:
            self._pointed = pointed
            actor = self._workspace.actor
            label = actor.rig.word(row) if actor is not None and row is not None else ""
            self.setToolTip(plain_tip(label))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._gesture is not None:
            gesture, self._gesture = self._gesture, None
            gesture.finish(event.position())

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """A control and everything below it."""
        layout, actor = self.layout_now(), self._workspace.actor
        row = layout.nearest(event.position()) if layout is not None else None
        if actor is not None and row is not None:
            self._workspace.selection.set([*actor.rig.below(row)[1:], row])

    def leaveEvent(self, event: QEvent) -> None:
        self._pointed = None, None, None
        self.update()
        super().leaveEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if not steps:
            return
        self.zoom_at(0.88**-steps, event.position())

    def zoom_at(self, nearer: float, at: QPointF) -> None:
        """Go nearer (above 1) or farther; the point there stays where it is."""
        offset = at - QPointF(self.width() / 2, self.height() / 2)
        camera = self.camera.pan(-offset.x(), -offset.y(), self.height()).zoom(1 / nearer)
        self.set_camera(camera.pan(offset.x(), offset.y(), self.height()))

    def cancel_gesture(self) -> bool:
        """Esc while the pointer is down; False if nothing was under way."""
        if self._gesture is None:
            return False
        gesture, self._gesture = self._gesture, None
        gesture.cancel()
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = True
            return
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
        super().keyReleaseEvent(event)

    # -- painting -------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        image = self.pictures.image
        if image is None:
            painter.fillRect(self.rect(), self._theme.colour("stage_middle"))
            return
        if self._workspace.settings.clear_ground:
            paint_checks(painter, self._theme, self.rect())
        painter.drawImage(QRectF(self.rect()), image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.pictures.plain:
            self.pictures.paint_outlines(painter)
        if self._grips:
            self._paint_handles(painter)
        if self._marquee is not None:
            painter.setPen(QPen(self._theme.colour("ink"), 1, Qt.PenStyle.DashLine))
            painter.setBrush(self._theme.colour("ink", 0.08))
            painter.drawRect(self._marquee)

    def _paint_handles(self, painter: QPainter) -> None:
        layout, actor = self._layout_drawn(), self._workspace.actor
        if layout is None or actor is None:
            return
        arrows, dial = self.arrows(layout), self.dial(layout)
        row, grip, arrow = self._pointed
        if arrows is not None and self._turning is None:
            draw_arrows(painter, self._theme, arrows, arrow)
        if dial is not None:
            draw_dial(painter, self._theme, dial, grip)
        if self.lead is not None and self.lead[0] < len(layout.points):
            paint_lead(
                painter,
                self._theme,
                QPointF(*layout.points[self.lead[0], :2].tolist()),
                self.lead[1],
            )
        paint_handles(painter, self._stamps, self._workspace, layout, row)
