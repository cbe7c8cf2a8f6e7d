"""A number with a word before it: typed, with arrows, with the wheel."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QResizeEvent,
    QShowEvent,
    QValidator,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractSpinBox, QDoubleSpinBox, QHBoxLayout, QLabel, QWidget

from fox_hand.base.language import shown_number
from fox_hand.ui.widgets.fields.typed_numbers import bent, typed_number

PAD = 7  # pixels beside the number
DECIMALS = 6  # kept; two of them are shown


class _Spin(QDoubleSpinBox):
    """Takes what people type, with a comma or a point, and says what is beyond its range."""

    beyond = Signal(float)

    def __init__(self, low: float, high: float, step: float, unit: str) -> None:
        super().__init__()
        self._unit = unit
        self.setButtonSymbols(QAbstractSpinBox.ButtonSymbols.NoButtons)
        self.setKeyboardTracking(False)
        self.setDecimals(DECIMALS)
        self.setRange(low, high)
        self.setSingleStep(step)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setFixedSize(58 if unit else 42, 24)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """The line's own menu; the spin box would stand still until something is chosen."""
        menu = self.lineEdit().createStandardContextMenu()
        menu.aboutToHide.connect(menu.deleteLater)
        menu.popup(event.globalPos())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._give_room()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._give_room()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        self._give_room()

    def _give_room(self) -> None:
        """Without buttons all of it is for the number; the style sheet leaves a pixel."""
        self.lineEdit().setGeometry(self.rect().adjusted(PAD, 1, -PAD, -1))

    def validate(self, text: str, at: int) -> tuple[QValidator.State, str, int]:
        """Anything may be typed; what is no number leaves the old one."""
        return QValidator.State.Acceptable, text, at

    def valueFromText(self, text: str) -> float:
        value = typed_number(text, self._unit)
        if value is None:
            return self.value()
        if not self.minimum() <= value <= self.maximum():
            self.beyond.emit(value)
        return min(max(value, self.minimum()), self.maximum())

    def textFromValue(self, value: float) -> str:
        return f"{shown_number(value, 2)}{self._unit}"

    def keyPressEvent(self, event: QKeyEvent) -> None:
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()  # it takes the number, and not the bar

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.stepBy(1 if event.angleDelta().y() > 0 else -1)
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
        self._word, self._low, self._high, self._unit = word, low, high, unit
        self.field = _Spin(low, high, step, unit)
        self.field.setAccessibleName(word)
        self.field.valueChanged.connect(self.changed)
        self.field.beyond.connect(self._tell_beyond)
        label = QLabel(word)
        label.setProperty("quiet", True)
        label.setBuddy(self.field)
        label.setVisible(bool(word))
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        line.addWidget(label)
        line.addWidget(self.field)
        self.setToolTip(tip)

    @property
    def value(self) -> float:
        return self.field.value()

    def show_value(self, value: float) -> None:
        """Show a number without announcing it."""
        self.field.blockSignals(True)
        self.field.setValue(value)
        self.field.blockSignals(False)

    def _tell_beyond(self, wanted: float) -> None:
        name = self._word[:1].upper() + self._word[1:]
        self.told.emit(bent(name, wanted, self._low, self._high, self._unit))
