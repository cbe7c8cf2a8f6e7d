"""Takes the next key that is pressed."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from fox_hand.base.key_words import key_words
from fox_hand.base.language import tr
from fox_hand.ui.commands.actions import Command
from fox_hand.ui.screens.preferences.key_rows import words_of
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.sign import Sign

LINE, CLASH = 40, 44  # pixels: of the field, and of what is said of a clash
MODIFIERS = (
    *(Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta),
    *(Qt.Key.Key_AltGr, Qt.Key.Key_CapsLock, Qt.Key.Key_NumLock),
)


class KeyField(QLineEdit):
    """Shows a key, and takes the next one. Esc leaves, Backspace empties."""

    pressed = Signal(str)  # as Qt writes it; empty for none
    left = Signal()

    def __init__(self, name: str) -> None:
        super().__init__()
        self.key = ""  # as Qt writes it; the text says it in words
        self.setAccessibleName(name)
        self.setPlaceholderText(tr("press a key"))
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.NoContextMenu)
        self.setFixedHeight(28)

    def show_key(self, key: str) -> None:
        """Show a key, as Qt writes it; empty for none."""
        self.key = key
        self.setText(key_words(key))

    def event(self, event: QEvent) -> bool:
        """Tab is a key that goes on; every other one is taken before the window hears of it."""
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, alone = event.key(), not event.modifiers()
        if key in MODIFIERS:
            return
        if alone and key == Qt.Key.Key_Escape:
            self.left.emit()
        elif alone and key == Qt.Key.Key_Backspace:
            self.pressed.emit("")
        else:
            held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
            self.pressed.emit(QKeySequence(key | held.value).toString())


class KeyEditor(QWidget):
    """Lies over an open row: up to two keys, and what to do where another command has it.

    Args:
        theme: colours and type.
    """

    chosen = Signal(int, str)  # which of the two, and the key
    swap_asked = Signal()
    take_asked = Signal()
    left = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setProperty("plate", "raised")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.fields = (KeyField(tr("First key")), KeyField(tr("Another key")))
        for number, field in enumerate(self.fields):
            field.setFixedWidth(112)
            field.pressed.connect(lambda key, number=number: self.chosen.emit(number, key))
            field.left.connect(self.left)
        keys = QHBoxLayout()
        keys.setSpacing(8)
        keys.addWidget(self.fields[0])
        self._or = Words(tr("or"))
        self._or.setProperty("quiet", True)
        keys.addWidget(self._or)
        keys.addWidget(self.fields[1])
        keys.addStretch(1)
        self._place = QHBoxLayout()
        self._place.addLayout(keys)
        self._clash = QWidget()
        self._clash.setProperty("plate", "warning")
        self._clash.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._said = Words()
        self.swap = Button(theme, tr("Swap the two"), height=24)
        self.take = Button(theme, tr("Take it"), height=24)
        self.other = Button(theme, tr("Another key"), kind=Kind.FLAT, height=24)
        self.swap.clicked.connect(self.swap_asked)
        self.take.clicked.connect(self.take_asked)
        self.other.clicked.connect(self._again)
        line = QHBoxLayout(self._clash)
        line.setContentsMargins(8, 4, 8, 4)
        line.setSpacing(8)
        line.addWidget(Sign(theme, "circle-alert", 16, "warning"))
        line.addWidget(self._said, 1)
        for button in (self.swap, self.take, self.other):
            line.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 6, 12, 6)
        column.setSpacing(4)
        column.addLayout(self._place)
        column.addWidget(self._clash)

    @property
    def wanted_height(self) -> int:
        """Pixels of the row it lies over."""
        return LINE if self._clash.isHidden() else LINE + CLASH

    def show_command(self, command: Command, left: int) -> None:
        """Of one command; ``left`` is where the column of keys begins."""
        self._place.setContentsMargins(max(left - 12, 0), 0, 0, 0)
        for number, field in enumerate(self.fields):
            field.show_key(command.keys[number] if number < len(command.keys) else "")
            field.setAccessibleName(
                tr("{words_of}: key {number}", words_of=words_of(command), number=number + 1)
            )
        second = bool(command.keys)
        self._or.setVisible(second)
        self.fields[1].setVisible(second)
        self._clash.hide()

    def show_clash(self, number: int, key: str, other: Command) -> None:
        """Another command has the key, in a place that overlaps."""
        self.fields[number].show_key(key)
        self._said.setText(
            tr("{key} is {words_of} already.", key=key_words(key), words_of=words_of(other))
        )
        self.take.setText(tr("Take it from {words_of}", words_of=words_of(other)))
        self._clash.show()

    def _again(self) -> None:
        self._clash.hide()
        self.fields[0].setFocus(Qt.FocusReason.OtherFocusReason)
        self.left.emit()
