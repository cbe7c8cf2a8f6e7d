"""A number with a word before it: typed, with arrows, with the wheel."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QWidget

from fox_hand.ui.widgets.typed_numbers import bent, typed_number


class _Field(QLineEdit):
    stepped = Signal(int)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}
        way = steps.get(Qt.Key(event.key()))
        if way is not None:
            self.stepped.emit(way)
            return
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()  # it takes the number, and not the bar

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.stepped.emit(1 if event.angleDelta().y() > 0 else -1)
        event.accept()


class NumberField(QWidget):
    """Announces a number once it is meant.

    Args:
        word: before it.
        low, high: its range.
        step: of the arrows and the wheel.
        unit: after it.
        tip: what it is about.
    """

    changed = Signal(float)
    told = Signal(str)  # that a typed number is beyond the range

    def __init__(
        self, word: str, low: float, high: float, step: float = 1.0, unit: str = "", tip: str = ""
    ) -> None:
        super().__init__()
        self._word, self._low, self._high, self._step, self._unit = word, low, high, step, unit
        self._value = low
        self.field = _Field()
        self.field.setFixedSize(58 if unit else 42, 24)
        self.field.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.field.setAccessibleName(word)
        self.field.editingFinished.connect(self._typed)
        self.field.stepped.connect(lambda way: self._take(self._value + way * self._step))
        label = QLabel(word)
        label.setProperty("quiet", True)
        label.setBuddy(self.field)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        line.addWidget(label)
        line.addWidget(self.field)
        self.setToolTip(tip)

    @property
    def value(self) -> float:
        return self._value

    def show_value(self, value: float) -> None:
        """Show a number without announcing it."""
        self._value = value
        text = f"{value:.2f}".rstrip("0").rstrip(".")
        self.field.setText(f"{text}{self._unit}")

    def _typed(self) -> None:
        value = typed_number(self.field.text(), self._unit)
        if value is None:
            self.show_value(self._value)
            return
        name = self._word[:1].upper() + self._word[1:]
        words = bent(name, value, self._low, self._high, self._unit)
        self._take(value)
        if words:
            self.told.emit(words)

    def _take(self, value: float) -> None:
        value = min(max(value, self._low), self._high)
        changed = abs(value - self._value) > 1e-9
        value = value if changed else self._value
        self.show_value(value)
        if changed:
            self.changed.emit(value)
