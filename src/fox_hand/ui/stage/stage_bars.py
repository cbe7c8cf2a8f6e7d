"""What floats on the stage: word switches, saved views, the empty state."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QInputDialog, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.core.view.camera import Camera
from fox_hand.session.app.needs import Posing
from fox_hand.ui.picker.close_ups import parts_of
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.plain_text import Words, menu_word
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.passing_menu import passing_menu

NARROW = 500  # pixels; where a stage is narrower its switches have shorter words
BOTH, KEYS = (tr("Both sides"), tr("Both")), (tr("Neighbours"), tr("Near"))


class StageBars:
    """Switches at the upper left, saved views at the upper right."""

    def __init__(self, theme: Theme, workspace: Posing, stage: Stage) -> None:
        self._theme, self._workspace, self._stage = theme, workspace, stage
        self._build_switches(theme, workspace)
        self._build_views(theme)
        self._seen_from: Camera | None = None  # the view that the button names
        stage.camera_changed.connect(self._moved_on)
        self._busy = Words("", stage)
        self._busy.setProperty("plate", "busy")
        self._busy.hide()
        stage.handles_on, stage.pictures.ghost_on = (
            workspace.settings.handles,
            workspace.settings.ghost,
        )

    def _build_switches(self, theme: Theme, workspace: Posing) -> None:
        self.left = self._panel()
        row = QHBoxLayout(self.left)
        row.setContentsMargins(4, 4, 4, 4)
        row.setSpacing(4)
        self.handles = Button(theme, tr("Handles"), kind=Kind.SWITCH, height=24, tip=tr("Handles"))
        self.ghost = Button(
            theme, tr("Ghost"), kind=Kind.SWITCH, height=24, tip=tr("Outline of what was before")
        )
        self.symmetry = Button(
            theme,
            tr("Both sides"),
            kind=Kind.SWITCH,
            height=24,
            tip=tr("Partners follow, mirrored, while you pose"),
        )
        self.lens = Button(
            theme, tr("Lens"), kind=Kind.SWITCH, height=24, tip=tr("A second, small view")
        )
        self.keys = Button(
            theme,
            tr("Neighbours"),
            kind=Kind.SWITCH,
            height=24,
            tip=tr("Outlines at the keys before and after"),
        )
        for button, on in (
            (self.handles, workspace.settings.handles),
            (self.ghost, workspace.settings.ghost),
            (self.symmetry, workspace.settings.symmetric),
            (self.lens, workspace.settings.lens),
            (self.keys, workspace.settings.onion),
        ):
            button.setChecked(on)
            button.clicked.connect(self._switched)
            row.addWidget(button)
        tip = tr("Ground and backdrops")
        self.ground = Button(theme, icon="images", kind=Kind.FLAT, height=24, icon_size=14, tip=tip)
        row.addWidget(self.ground)

    def _build_views(self, theme: Theme) -> None:
        self.right = self._panel()
        row = QHBoxLayout(self.right)
        row.setContentsMargins(4, 4, 4, 4)
        self.view = Button(
            theme,
            tr("View"),
            icon="camera",
            kind=Kind.FLAT,
            height=24,
            menu=True,
            tip=tr("Saved views"),
        )
        self.view.clicked.connect(self._show_views)
        row.addWidget(self.view)

    def _panel(self) -> QWidget:
        panel = QWidget(self._stage)
        panel.setProperty("floating", True)
        panel.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        return panel

    def _switched(self) -> None:
        stage, settings = self._stage, self._workspace.settings
        stage.handles_on = settings.handles = self.handles.isChecked()
        stage.pictures.ghost_on = settings.ghost = self.ghost.isChecked()
        settings.symmetric = self.symmetry.isChecked()
        settings.onion = self.keys.isChecked()
        stage.refresh()

    def busy(self, text: str) -> None:
        """A quiet word while something is being read; empty hides it."""
        self._busy.setText(text)
        self._busy.setVisible(bool(text))
        self.place()

    def _show_views(self) -> None:
        actor, menu = self._workspace.actor, passing_menu(self._stage)
        for name in self.views():
            menu.addAction(name, partial(self.go_to, name))
        if actor is not None:
            menu.addSeparator()
            for name in actor.views:
                menu.addAction(menu_word(name), partial(self.go_to_kept, name))
            menu.addAction(tr("Keep this view …"), self._ask_view)
            if actor.views:
                forget = menu.addMenu(tr("Forget a view"))
                for name in actor.views:
                    forget.addAction(
                        menu_word(name), partial(self._workspace.keep_view, name, None)
                    )
        menu.addSeparator()
        rows = list(self._workspace.selection.rows)
        menu.addAction(tr("Frame selected\tZ"), lambda: self._stage.frame(rows or None))
        menu.addAction(tr("Frame all\tShift+Z"), lambda: self._stage.frame(None))
        menu.addAction(tr("Frame the whole cast"), lambda: self._stage.frame_actor(None))
        if self._stage.flat:
            menu.addAction(tr("Pixel by pixel, 100 %\tE"), self._stage.look_pixel_by_pixel)
        menu.popup(self.view.mapToGlobal(self.view.rect().bottomLeft()))

    def _ask_view(self) -> None:
        name, given = QInputDialog.getText(
            self._stage, tr("Keep this view"), tr("Name of the view")
        )
        if given and name.strip():
            self.keep_view(name.strip())

    def keep_view(self, name: str) -> None:
        """Keep where the camera is, seen from the acting figure."""
        actor = self._workspace.actor
        if actor is not None:
            x, y, z = np.asarray(self._stage.camera.target) - actor.ground
            camera = replace(self._stage.camera, target=(float(x), float(y), float(z)))
            self._workspace.keep_view(name, camera)
            self._say_view(name)

    def go_to_kept(self, name: str) -> None:
        """Look from a view that was kept."""
        actor = self._workspace.actor
        if actor is None or name not in actor.views:
            return
        camera = actor.views[name]
        x, y, z = np.asarray(camera.target) + actor.ground
        self._stage.set_camera(replace(camera, target=(float(x), float(y), float(z))))
        self._say_view(name)

    def views(self) -> dict[str, tuple[float, float, list[int] | None]]:
        """Name -> yaw and pitch in degrees, and what is framed."""
        actor = self._workspace.actor
        if actor is None:
            return {}
        front = float(np.degrees(actor.rig.body.heading))
        if self._stage.flat:
            return {tr("Straight on"): (front, 0, None), **parts_of(actor)}
        return {
            tr("Three-quarter"): (front + 20, 3, None),
            tr("Front"): (front, 3, None),
            tr("Own left"): (front + 90, 3, None),
            tr("Own right"): (front - 90, 3, None),
            tr("Behind"): (front + 180, 3, None),
            **parts_of(actor),
        }

    def go_to(self, name: str) -> None:
        """Look from a saved view."""
        yaw, pitch, rows = self.views()[name]
        self._stage.look_from(yaw, pitch, rows, 1.18 if rows is None else 1.35)
        self._say_view(name)

    def _say_view(self, name: str) -> None:
        self._seen_from = self._stage.camera
        self.view.setText(name)
        self.place()

    def _moved_on(self) -> None:
        if self._seen_from is not None and self._stage.camera != self._seen_from:
            self._seen_from = None
            self.view.setText(tr("View"))
            self.place()

    def place(self) -> None:
        """12 px from the stage's edges."""
        stage, there = self._stage, self._workspace.actor is not None
        narrow = stage.width() < NARROW
        for button, words in ((self.symmetry, BOTH), (self.keys, KEYS)):
            button.setText(words[narrow])
            button.updateGeometry()
        for panel in (self.left, self.right):
            panel.setVisible(there)
            panel.adjustSize()
        self.left.move(12, 12)
        self.right.move(stage.width() - self.right.width() - 12, 12)
        self._busy.adjustSize()
        # where nobody stands, the middle says what can be done
        down = stage.height() // 2 if there else stage.height() - self._busy.height() - 16
        self._busy.move((stage.width() - self._busy.width()) // 2, down)
        for panel in (self.left, self.right, self._busy):
            panel.raise_()


class EmptyStage(QWidget):
    """What the stage says while nobody stands on it."""

    demo_asked = Signal()
    open_asked = Signal()

    def __init__(self, theme: Theme, stage: Stage) -> None:
        super().__init__(stage)
        self._theme, self._stage = theme, stage
        title = Words(tr("Nobody is on the stage yet."))
        title.setProperty("role", "screen")
        text = Words(
            tr(
                "Open the demo and click any card: the figure moves. Nothing you do there can break"
                " it.\nOr drop a glTF, VRM, USD or BVH file here."
            )
        )
        for label in (title, text):
            label.setProperty("tone", "ink")
            label.setAlignment(Qt.AlignmentFlag.AlignHCenter)
            label.setWordWrap(True)
        self.demo = Button(theme, tr("Open the demo"), kind=Kind.MAIN)
        self.open = Button(theme, tr("Open a figure"), key="Ctrl+O")
        self.demo.clicked.connect(self.demo_asked)
        self.open.clicked.connect(self.open_asked)
        buttons = QHBoxLayout()
        buttons.setSpacing(8)
        buttons.addStretch(1)
        buttons.addWidget(self.open)
        buttons.addWidget(self.demo)
        buttons.addStretch(1)
        column = QVBoxLayout(self)
        column.setSpacing(12)
        column.addStretch(1)
        column.addWidget(title)
        column.addWidget(text)
        column.addLayout(buttons)
        column.addStretch(1)

    def place(self) -> None:
        self.setGeometry(self._stage.rect().adjusted(48, 64, -48, -64))

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setPen(self._theme.colour("ink", 0.3))
        pen = painter.pen()
        pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawRoundedRect(self.rect().adjusted(1, 1, -2, -2), 8, 8)
