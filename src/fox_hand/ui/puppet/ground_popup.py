"""What is behind and under the figures: paper or nothing, a shadow, backdrops."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint, Signal
from PySide6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import Array
from fox_hand.core.view.backdrop import Placed, depth_of, facing, filling
from fox_hand.session.app.needs import PosingInTime
from fox_hand.session.figures.snapshot import KeptBackdrop
from fox_hand.session.shots.backdrops import KINDS, placed
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.choice import Choice
from fox_hand.ui.widgets.fields.number_field import NumberField
from fox_hand.ui.widgets.popup import Popup

WIDTH = 336
FARTHEST = 1000.0  # metres that a backdrop can be moved or be high
FILTER = tr("Pictures ({names})", names=" ".join(f"*{kind}" for kind in KINDS))
PLACES = ((False, tr("Behind")), (True, tr("In front")))


def seen_of_stage(stage: Stage, near: bool) -> tuple[Array, Array]:
    """The rectangle that the stage shows of the plane a backdrop stands in: lower and upper corner,
    ``(2,)`` metres."""
    camera = stage.camera
    across, up, ahead = (facing(-camera.yaw)[:3, :3] @ np.array(camera.target)).tolist()
    away = max(camera.distance + ahead - depth_of(near), 0.01)
    # what is looked at from above or below is filled a little beyond its edges
    tall = 2 * away * float(np.tan(camera.fov / 2)) * (1 + 2 * abs(float(np.sin(camera.pitch))))
    wide = tall * stage.width() / max(stage.height(), 1)
    middle, half = np.array([across, up]), np.array([wide, tall]) / 2
    return middle - half, middle + half


def place_under(stage: Stage, at: QPoint) -> tuple[float, float]:
    """Where a place of the stage, in pixels, is in the plane of flat figures: metres."""
    camera = stage.camera
    tall = 2 * (camera.distance + camera.target[2]) * float(np.tan(camera.fov / 2))
    one = tall / max(stage.height(), 1)
    x = camera.target[0] + (at.x() - stage.width() / 2) * one
    return x, camera.target[1] - (at.y() - stage.height() / 2) * one


def choose_backdrop(parent: QWidget, work: PosingInTime, stage: Stage, near: bool) -> None:
    """Ask for a picture and stand it there, filling what is seen."""
    words = tr("A picture in front") if near else tr("A picture behind")
    name, _ = QFileDialog.getOpenFileName(parent, words, "", FILTER)
    if name:
        stand_backdrop(work, stage, Path(name), near)


def stand_backdrop(work: PosingInTime, stage: Stage, path: Path, near: bool) -> None:
    """Stand a picture behind the figures or before them, filling what is seen."""
    low, high = seen_of_stage(stage, near)
    yaw = stage.camera.yaw
    work.backdrops.choose(path, near, lambda aspect: filling(low, high, aspect, near, yaw))


class GroundPopup(Popup):
    """Every choice counts at once.

    Args:
        theme: colours and type.
        work: whose shot it is.
        stage: what is seen, which a backdrop fills.
    """

    told = Signal(str)

    def __init__(self, theme: Theme, work: PosingInTime, stage: Stage) -> None:
        super().__init__(stage.window(), WIDTH)
        self._theme, self._work, self._stage = theme, work, stage
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(8)
        title = Words(tr("Ground and backdrops"))
        title.setProperty("role", "title")
        column.addWidget(title)
        column.addLayout(self._ground())
        self._lines: dict[bool, _BackdropLines] = {}
        for near, word in PLACES:
            lines = _BackdropLines(theme, word)
            lines.choose.clicked.connect(partial(self._choose, near))
            lines.fit.clicked.connect(partial(self._fit, near))
            lines.off.clicked.connect(partial(work.backdrops.take_off, near))
            for field in lines.fields:
                field.changed.connect(partial(self._typed, near))
                field.told.connect(self.told)
            self._lines[near] = lines
            column.addWidget(lines)
        work.backdrops.changed.connect(self._refresh)
        self.destroyed.connect(lambda: work.backdrops.changed.disconnect(self._refresh))
        self._refresh()

    def lines(self, near: bool) -> _BackdropLines:
        """What is shown of one of the two."""
        return self._lines[near]

    def _ground(self) -> QHBoxLayout:
        settings, line = self._work.settings, QHBoxLayout()
        line.setSpacing(8)
        self.ground = Choice(
            self._theme, (("paper", tr("Paper")), ("clear", tr("Nothing"))), tr("Ground")
        )
        self.ground.set_value("clear" if settings.clear_ground else "paper")
        self.ground.chosen.connect(self._set_ground)
        self.shadow = Button(
            self._theme,
            tr("Shadow of drawings"),
            kind=Kind.SWITCH,
            height=24,
            tip=tr("Flat figures stand on the ground, too"),
        )
        self.shadow.setCheckable(True)
        self.shadow.setChecked(settings.flat_shadow)
        self.shadow.clicked.connect(self._set_shadow)
        line.addWidget(self.ground)
        line.addWidget(self.shadow)
        line.addStretch(1)
        return line

    def _set_ground(self, value: str) -> None:
        self._work.settings.clear_ground = value == "clear"
        self._stage.refresh()

    def _set_shadow(self) -> None:
        self._work.settings.flat_shadow = self.shadow.isChecked()
        self._stage.refresh()

    def _choose(self, near: bool) -> None:
        work, stage = self._work, self._stage
        self.close()  # a popup would lie over the dialog
        choose_backdrop(stage, work, stage, near)

    def _fit(self, near: bool) -> None:
        one = self._work.backdrops.of(near)
        aspect = None if one is None else self._work.backdrops.aspect(one)
        if aspect is not None:
            seen, yaw = seen_of_stage(self._stage, near), self._stage.camera.yaw
            self._work.backdrops.move(near, filling(*seen, aspect, near, yaw))

    def _typed(self, near: bool) -> None:
        x, y, height = (field.value for field in self._lines[near].fields)
        one = self._work.backdrops.of(near)
        if one is not None:
            self._work.backdrops.move(near, Placed(near, x, y, height, placed(one).yaw))

    def _refresh(self) -> None:
        for near, lines in self._lines.items():
            lines.show_backdrop(self._work.backdrops.of(near))


class _BackdropLines(QWidget):
    """One of the two: its picture's name, where it stands, and what can be done with it."""

    def __init__(self, theme: Theme, word: str) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 4, 0, 0)
        grid.setSpacing(8)
        heading, self.name = Words(word), Words("")
        heading.setFixedWidth(56)
        self.name.setProperty("quiet", True)
        self.choose = Button(
            theme,
            tr("Choose …"),
            kind=Kind.PLAIN,
            height=24,
            tip=tr("{word}: a picture", word=word),
        )
        self.fit = Button(
            theme, tr("Fill"), kind=Kind.PLAIN, height=24, tip=tr("Fill what is seen now")
        )
        self.off = Button(
            theme,
            icon="x",
            kind=Kind.FLAT,
            height=24,
            icon_size=14,
            tip=tr("{word}: take it off", word=word),
        )
        top = QHBoxLayout()
        top.setSpacing(4)
        for widget in (heading, self.name):
            top.addWidget(widget)
        top.addStretch(1)
        for button in (self.choose, self.fit, self.off):
            top.addWidget(button)
        grid.addLayout(top, 0, 0)
        self.fields = (
            NumberField(
                "x",
                -FARTHEST,
                FARTHEST,
                0.05,
                " m",
                tr("{word}: the middle of its edge", word=word),
            ),
            NumberField(
                "y", -FARTHEST, FARTHEST, 0.05, " m", tr("{word}: its lower edge", word=word)
            ),
            NumberField(
                tr("height"), 0.01, FARTHEST, 0.05, " m", tr("{word}: how high it is", word=word)
            ),
        )
        self._where = QWidget()
        line = QHBoxLayout(self._where)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(8)
        for field in self.fields:
            line.addWidget(field)
        grid.addWidget(self._where, 1, 0)

    def show_backdrop(self, kept: KeptBackdrop | None) -> None:
        """What stands there; None for nothing."""
        self.name.setText(Path(kept.path).name if kept is not None else tr("nothing"))
        for widget in (self.fit, self.off, self._where):
            widget.setVisible(kept is not None)
        if kept is not None:
            at = placed(kept)
            for field, value in zip(self.fields, (at.x, at.y, at.height), strict=True):
                field.show_value(value)
        self.adjustSize()
        top = self.window()
        if isinstance(top, Popup):
            top.adjustSize()
