"""Sliders that paint themselves: shares that are pulled, stepped, or set by a screen reader."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QSlider

from fox_hand.ui.widgets.key_map import KeyMap, LocalKey

WHOLE = 100  # what 1.0 is in the slider's own numbers
STEP, FINE = 5, 1


class PaintedSlider(QSlider):
    """A share that is pulled. Qt's slider tells a screen reader of it; how it looks and where the
    pointer takes it say those that inherit.

    Args:
        ends: lowest and highest share.
        name: what it is called.
        usual: the share a double click goes back to.
    """

    pulled = Signal(float)

    def __init__(self, ends: tuple[float, float], name: str, usual: float) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self._ends, self.amount, self._usual = ends, 0.0, usual
        self._by_key = False
        self.setRange(round(ends[0] * WHOLE), round(ends[1] * WHOLE))
        self.setSingleStep(STEP)
        self.setPageStep(STEP)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(name)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.valueChanged.connect(self._set)
        self.keys = self._key_map()

    def show_amount(self, amount: float) -> None:
        """Show a share without announcing it."""
        self.amount = amount
        self.blockSignals(True)
        self.setValue(round(amount * WHOLE))
        self.blockSignals(False)
        self.setAccessibleDescription(f"{amount * WHOLE:.0f} %")
        self.update()

    def _set(self, value: int) -> None:
        """By a screen reader, or by keys that are Qt's own."""
        self.pulled.emit(value / WHOLE)

    def x_of(self, amount: float) -> float:
        """Where a share is, in widget pixels."""
        raise NotImplementedError

    def amount_at(self, x: float) -> float:
        """The share that a pull to a place means."""
        raise NotImplementedError

    def _bounded(self, amount: float) -> float:
        return round(min(max(amount, self._ends[0]), self._ends[1]), 2)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is not Qt.MouseButton.LeftButton:
            event.ignore()
            return
        self.pulled.emit(self.amount_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.pulled.emit(self.amount_at(event.position().x()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Back to what is usual."""
        self.pulled.emit(self._usual)
        event.accept()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        event.accept()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._step(STEP if event.angleDelta().y() > 0 else -STEP)
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _key_map(self) -> KeyMap:
        keys = [
            LocalKey(("Home",), partial(self.pulled.emit, 0.0), loose=True),
            LocalKey(("End",), partial(self.pulled.emit, 1.0), loose=True),
        ]
        for name, way in (("Left", -1), ("Right", 1)):
            keys.append(LocalKey((name,), partial(self._step, way * STEP)))
            keys.append(LocalKey((f"Shift+{name}",), partial(self._step, way * FINE)))
        return KeyMap(keys)

    def _step(self, by: int) -> None:
        self.pulled.emit(self._bounded(self.amount + by / WHOLE))

    def focusInEvent(self, event: QFocusEvent) -> None:
        """The ring shows only for those who came by keyboard."""
        by_key = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self._by_key = event.reason() in by_key
        super().focusInEvent(event)

    @property
    def shows_focus(self) -> bool:
        return self.hasFocus() and self._by_key
