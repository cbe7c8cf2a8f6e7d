"""What floats on the stage: word switches, saved views, the empty state."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from fox_hand.core.controls import Region, Side
from fox_hand.session.desk import Desk
from fox_hand.session.selection import region_rows
from fox_hand.ui.buttons import Button, Kind
from fox_hand.ui.figure_drawing import ZONES, zone_rows
from fox_hand.ui.look import Look
from fox_hand.ui.stage import Stage


class StageBars:
    """Switches at the upper left, saved views at the upper right."""

    def __init__(self, look: Look, desk: Desk, stage: Stage) -> None:
        self._look, self._desk, self._stage = look, desk, stage
        self.left = self._panel()
        row = QHBoxLayout(self.left)
        row.setContentsMargins(4, 4, 4, 4)
        row.setSpacing(4)
        self.handles = Button(look, "Handles", kind=Kind.SWITCH, height=24, tip="Handles (H)")
        self.ghost = Button(
            look, "Ghost", kind=Kind.SWITCH, height=24, tip="Outline of what was before (G)"
        )
        self.symmetry = Button(
            look,
            "Both sides",
            kind=Kind.SWITCH,
            height=24,
            tip="Partners follow, mirrored, while you pose (Y)",
        )
        for button, on in (
            (self.handles, desk.settings.handles),
            (self.ghost, desk.settings.ghost),
            (self.symmetry, desk.settings.symmetric),
        ):
            button.setChecked(on)
            button.clicked.connect(self._switched)
            row.addWidget(button)
        self.right = self._panel()
        row = QHBoxLayout(self.right)
        row.setContentsMargins(4, 4, 4, 4)
        self.view = Button(
            look, "View", icon="camera", kind=Kind.FLAT, height=24, menu=True, tip="Saved views"
        )
        self.view.clicked.connect(self._show_views)
        row.addWidget(self.view)
        self._busy = QLabel("", stage)
        self._busy.setStyleSheet(
            f"background: {look.tokens.panel}; border-radius: 8px; padding: 8px 12px;"
        )
        self._busy.hide()
        stage.handles_on, stage.ghost_on = desk.settings.handles, desk.settings.ghost

    def _panel(self) -> QWidget:
        panel = QWidget(self._stage)
        panel.setProperty("floating", True)
        panel.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        return panel

    def _switched(self) -> None:
        stage, settings = self._stage, self._desk.settings
        stage.handles_on = settings.handles = self.handles.isChecked()
        stage.ghost_on = settings.ghost = self.ghost.isChecked()
        settings.symmetric = self.symmetry.isChecked()
        stage.refresh()

    def busy(self, text: str) -> None:
        """A quiet word while something is being read; empty hides it."""
        self._busy.setText(text)
        self._busy.setVisible(bool(text))
        self.place()

    def _show_views(self) -> None:
        menu = QMenu(self._stage)
        for name in self.views():
            menu.addAction(name, partial(self.go_to, name))
        menu.addSeparator()
        rows = list(self._desk.selection.rows)
        menu.addAction("Frame selected\tZ", lambda: self._stage.frame(rows or None))
        menu.addAction("Frame all\tShift+Z", lambda: self._stage.frame(None))
        menu.popup(self.view.mapToGlobal(self.view.rect().bottomLeft()))

    def views(self) -> dict[str, tuple[float, float, list[int] | None]]:
        """Name -> yaw and pitch in degrees, and what is framed."""
        actor = self._desk.actor
        found: dict[str, tuple[float, float, list[int] | None]] = {
            "Three-quarter": (20, 3, None),
            "Front": (0, 3, None),
            "Own left": (90, 3, None),
            "Own right": (-90, 3, None),
            "Behind": (180, 3, None),
        }
        if actor is None:
            return {}
        face = [r for z in ZONES if z.key == "head" for r in zone_rows(actor.rig, z)]
        if face:
            found["Face"] = (14, 0, face)
        for side, yaw in ((Side.LEFT, 30), (Side.RIGHT, -30)):
            hand = region_rows(actor.rig, Region.HANDS, side)
            if hand:
                found[f"{side.value.capitalize()} hand"] = (yaw, 8, hand)
        return found

    def go_to(self, name: str) -> None:
        """Look from a saved view."""
        yaw, pitch, rows = self.views()[name]
        self._stage.look_from(yaw, pitch, rows, 1.18 if rows is None else 1.35)
        self.view.setText(name)
        self.place()

    def place(self) -> None:
        """12 px from the stage's edges."""
        stage, there = self._stage, self._desk.actor is not None
        for panel in (self.left, self.right):
            panel.setVisible(there)
            panel.adjustSize()
        self.left.move(12, 12)
        self.right.move(stage.width() - self.right.width() - 12, 12)
        self._busy.adjustSize()
        self._busy.move((stage.width() - self._busy.width()) // 2, stage.height() // 2)
        for panel in (self.left, self.right, self._busy):
            panel.raise_()


class EmptyStage(QWidget):
    """What the stage says while nobody stands on it."""

    demo_asked = Signal()
    open_asked = Signal()

    def __init__(self, look: Look, stage: Stage) -> None:
        super().__init__(stage)
        self._look, self._stage = look, stage
        title = QLabel("Nobody is on the stage yet.")
        title.setStyleSheet(f"color: {look.tokens.ink}; font-size: 15px; font-weight: 600;")
        text = QLabel(
            "Open the demo and click any card: the figure moves. Nothing you do there can break"
            " it.\nOr drop a glTF file with a skin here."
        )
        text.setStyleSheet(f"color: {look.tokens.ink};")
        for label in (title, text):
            label.setAlignment(Qt.AlignmentFlag.AlignHCenter)
            label.setWordWrap(True)
        self.demo = Button(look, "Open the demo", kind=Kind.MAIN)
        self.open = Button(look, "Open a figure", key="Ctrl+O")
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
        painter.setPen(self._look.colour("ink", 0.3))
        pen = painter.pen()
        pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawRoundedRect(self.rect().adjusted(1, 1, -2, -2), 8, 8)
