"""The simulated host's window, grey all over: its picture, its controls, its time line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Protocol

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QColor, QImage, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.language import number_text, tr
from fox_hand.core.view.render_request import Picture, Ready
from fox_hand.session.runtime.ports import Post

BREATH = 4  # milliseconds between two looks at what was asked
ROWS_AFTER = 100  # milliseconds; a list that jumps thirty times a second cannot be read
GREYS = """
* { font-size: 12px; color: #1d1d1d; }
QWidget#host { background: #b9b9b9; }
QLabel#head { background: #979797; font-weight: 600; padding: 8px; }
QLabel#scene { background: #979797; padding: 8px; }
QLabel#said { background: #dcdcdc; padding: 6px; }
QListWidget { background: #dcdcdc; border: 1px solid #dcdcdc; outline: 0; }
QListWidget::item:selected { background: #c3c3c3; color: #1d1d1d; }
QPushButton { background: #cfcfcf; border: 1px solid #8c8c8c; padding: 3px 10px; }
QPushButton:hover { background: #dcdcdc; }
QPushButton:pressed { background: #a8a8a8; }
QPushButton:focus, QCheckBox:focus, QListWidget:focus { border: 1px solid #1d1d1d; }
"""


class SeenRow(Protocol):
    """A control in the list."""

    @property
    def rig(self) -> str: ...
    @property
    def control(self) -> str: ...
    @property
    def label(self) -> str: ...
    @property
    def depth(self) -> int: ...
    @property
    def value(self) -> str: ...
    @property
    def selected(self) -> bool: ...


class SeenHost(Protocol):
    """What the window needs of the program behind it."""

    @property
    def title(self) -> str: ...
    @property
    def time(self) -> tuple[float, float, float]: ...
    @property
    def said(self) -> str: ...
    @property
    def habits(self) -> dict[str, bool]: ...
    def pump(self) -> bool: ...
    def rows(self) -> Sequence[SeenRow]: ...
    def ask_picture(self, width: int, height: int, ready: Ready) -> None: ...
    def go(self, frame: float) -> None: ...
    def select(self, rig: str, controls: list[str]) -> None: ...
    def step(self, *, back: bool) -> None: ...
    def behave(self, **habits: bool) -> None: ...
    def edit(self) -> None: ...


class HostImage(QWidget):
    """The scene in grey; a new picture is asked for when the one before has come."""

    def __init__(self, host: SeenHost, post: Post) -> None:
        super().__init__()
        self._host, self._post = host, post
        self.image = QImage()
        self._asking = self._stale = False
        self.setMinimumSize(240, 220)

    def sizeHint(self) -> QSize:
        return QSize(360, 300)

    def refresh(self) -> None:
        """Something is seen that was not."""
        if self._asking:
            self._stale = True
            return
        self._asking, ratio = True, self.devicePixelRatioF()
        width, height = (max(round(n * ratio), 16) for n in (self.width(), self.height()))
        self._host.ask_picture(width, height, self._came)

    def _came(self, result: Picture | Exception) -> None:
        self._post(lambda: self._show(result))

    def _show(self, result: Picture | Exception) -> None:
        self._asking = False
        if not isinstance(result, Exception):
            grey = np.ascontiguousarray(result.pixels[..., :3].mean(-1).astype(np.uint8))
            height, width = grey.shape
            form = QImage.Format.Format_Grayscale8
            self.image = QImage(grey.data, width, height, width, form).copy()
            self.update()
        if self._stale:
            self._stale = False
            self.refresh()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor("#a9a9a9"))
        if not self.image.isNull():
            painter.drawImage(QRectF(self.rect()), self.image)


class HostTime(QWidget):
    """The time line; pulled with the pointer or by the arrow keys."""

    moved = Signal(float)

    def __init__(self, host: SeenHost) -> None:
        super().__init__()
        self._host = host
        self.setFixedHeight(28)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Time line"))
        self.setToolTip(tr("Pull to look at frames"))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pull(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pull(event.position().x())

    def _pull(self, x: float) -> None:
        frame, first, last = self._host.time
        wanted = float(round(first + (last - first) * x / max(self.width(), 1)))
        wanted = min(max(wanted, first), last)
        if wanted != frame:
            self.moved.emit(wanted)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        frame, first, last = self._host.time
        painter.fillRect(self.rect(), QColor("#a3a3a3"))
        x = (frame - first) / max(last - first, 1) * self.width()
        painter.fillRect(QRectF(0, 0, x, self.height()), QColor("#8c8c8c"))
        painter.fillRect(QRectF(x - 1.5, 3, 3, self.height() - 6), QColor("#1d1d1d"))
        middle = Qt.AlignmentFlag.AlignVCenter
        whole = QRectF(6, 0, self.width() - 12, self.height())
        painter.setPen(QColor("#1d1d1d"))
        painter.drawText(whole, middle | Qt.AlignmentFlag.AlignLeft, number_text(first, "g"))
        painter.drawText(whole, middle | Qt.AlignmentFlag.AlignRight, number_text(last, "g"))
        font = painter.font()
        font.setBold(True)
        painter.setFont(font)
        at = min(max(x + 6, 24), self.width() - 52)
        painter.drawText(QRectF(at, 0, 48, self.height()), middle, number_text(frame, "g"))


class HostWindow(QWidget):
    """Picture, controls, time line, its own undo, and switches for how the host behaves.

    Args:
        host: the program behind it.
        post: brings pictures to the window's thread.
    """

    def __init__(self, host: SeenHost, post: Post, closed: Callable[[], None]) -> None:
        super().__init__()
        self._host, self._closed = host, closed
        self.setObjectName("host")
        self.setWindowTitle(tr("Simulated host"))
        self.setStyleSheet(GREYS)
        self.resize(620, 480)
        self.picture, self.time = HostImage(host, post), HostTime(host)
        self.time.moved.connect(host.go)
        self.list = QListWidget()
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.list.setAccessibleName(tr("Controls"))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemSelectionChanged.connect(self._selected)
        self.said = QLabel()
        self.said.setObjectName("said")
        self.said.setTextFormat(Qt.TextFormat.PlainText)
        self._filling = False
        self._build()
        self._pump = QTimer(self)
        self._pump.setInterval(BREATH)
        self._pump.timeout.connect(self._turn)
        self._pump.start()
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(ROWS_AFTER)
        self._later.timeout.connect(self._fill)
        self._fill()

    def _build(self) -> None:
        head, self.scene = QLabel(tr("Simulated host")), QLabel(self._host.title)
        head.setObjectName("head")
        self.scene.setObjectName("scene")
        self.scene.setAlignment(Qt.AlignmentFlag.AlignRight)
        top = QHBoxLayout()
        top.setSpacing(0)
        top.addWidget(head)
        top.addWidget(self.scene, 1)
        middle = QHBoxLayout()
        middle.setSpacing(8)
        middle.addWidget(self.picture, 3)
        middle.addWidget(self.list, 2)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(top)
        inner = QVBoxLayout()
        inner.setContentsMargins(8, 0, 8, 8)
        inner.setSpacing(8)
        inner.addLayout(middle, 1)
        inner.addWidget(self.time)
        inner.addLayout(self._buttons())
        inner.addWidget(self.said)
        column.addLayout(inner, 1)

    def _buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.undo, self.redo, self.nod = (
            QPushButton(word) for word in (tr("Undo"), tr("Redo"), tr("Nod"))
        )
        self.nod.setToolTip(tr("Change something here, behind the back of whoever is linked"))
        self.undo.clicked.connect(lambda: self._host.step(back=True))
        self.redo.clicked.connect(lambda: self._host.step(back=False))
        self.nod.clicked.connect(self._host.edit)
        for button in (self.undo, self.redo, self.nod):
            row.addWidget(button)
        row.addStretch(1)
        words = {
            "slow": tr("slow"),
            "forgetful": tr("forgetful"),
            "stubborn": tr("stubborn"),
            "changing": tr("changing"),
        }
        now = self._host.habits
        self.habits: dict[str, QCheckBox] = {}
        for key, word in words.items():
            box = QCheckBox(word)
            box.setChecked(now[key])
            box.toggled.connect(partial(self._behave, key))
            self.habits[key] = box
            row.addWidget(box)
        return row

    def _behave(self, key: str, on: bool) -> None:
        self._host.behave(**{key: on})

    def _turn(self) -> None:
        if self._host.pump():
            self.picture.refresh()
            self.time.update()
            self.said.setText(self._host.said)
            if not self._later.isActive():
                self._later.start()

    def _fill(self) -> None:
        """The controls as they are now."""
        rows = self._host.rows()
        self._filling = True
        try:
            while self.list.count() < len(rows):
                self.list.addItem(QListWidgetItem())
            for number, row in enumerate(rows):
                item = self.list.item(number)
                text = f"{'  ' * row.depth}{row.label}   {row.value}"
                if item.text() != text:
                    item.setText(text)
                    item.setData(Qt.ItemDataRole.UserRole, (row.rig, row.control))
                if item.isSelected() != row.selected:
                    item.setSelected(row.selected)
        finally:
            self._filling = False
        self.said.setText(self._host.said)

    def _selected(self) -> None:
        if self._filling:
            return
        chosen: dict[str, list[str]] = {}
        for row in self._host.rows():
            chosen.setdefault(row.rig, [])
        for item in self.list.selectedItems():
            rig, control = item.data(Qt.ItemDataRole.UserRole)
            chosen[rig].append(control)
        before = {
            rig: [r.control for r in self._host.rows() if r.rig == rig and r.selected]
            for rig in chosen
        }
        for rig, controls in chosen.items():
            if controls != before[rig]:
                self._host.select(rig, controls)

    def closeEvent(self, event: QCloseEvent) -> None:
        self._pump.stop()
        self._closed()
        super().closeEvent(event)
