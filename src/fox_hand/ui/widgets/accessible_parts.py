"""What is painted, for people who do not see it.

A widget that paints many things (cards, handles, rows, keys) says what they are; a screen reader
finds them as children, hears which is current, and can press them and set their values.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass

import shiboken6
from PySide6.QtCore import QObject, QPoint, QRect, QTimer
from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QAccessibleEvent,
    QAccessibleInterface,
    QAccessibleValueChangeEvent,
    QAccessibleValueInterface,
)
from PySide6.QtWidgets import QAccessibleWidget, QWidget

PRESS = QAccessibleActionInterface.pressAction


@dataclass(frozen=True)
class AccessibleAmount:
    """A number that a part has.

    Args:
        now, minimum, maximum, step: as it is shown.
        change: sets it; None where it cannot be.
    """

    now: float
    minimum: float
    maximum: float
    step: float
    change: Callable[[float], object] | None = None


@dataclass(frozen=True)
class AccessiblePart:
    """Something that is painted.

    Args:
        key: what tells it from others, now and later.
        name: what it is called.
        rect: where it is in the widget.
        role: what it is.
        words: what else there is to say of it.
        amount: its number, if it has one.
        selected: whether it is chosen; None where that cannot be.
        checked: whether it is ticked or on; None where that cannot be.
        expanded: whether what belongs to it is shown; None where nothing does.
        current: whether it has the keyboard.
        enabled: whether it can be used.
        press: what a click does; None where nothing.
    """

    key: Hashable
    name: str
    rect: QRect
    role: QAccessible.Role = QAccessible.Role.ListItem
    words: str = ""
    amount: AccessibleAmount | None = None
    selected: bool | None = None
    checked: bool | None = None
    expanded: bool | None = None
    current: bool = False
    enabled: bool = True
    press: Callable[[], object] | None = None


class PartsOwner:
    """Beside QWidget, a base of widgets that paint parts."""

    parts_role = QAccessible.Role.List
    parts_seen: PartsInterface | None = None  # kept as long as the widget

    def accessible_parts(self) -> Sequence[AccessiblePart]:
        """What is in sight now, in reading order."""
        raise NotImplementedError


class _PartValue(QAccessibleValueInterface):
    def __init__(self, part: Callable[[], AccessiblePart | None]) -> None:
        super().__init__()
        self._part = part

    def _amount(self) -> AccessibleAmount:
        part = self._part()
        return (
            part.amount
            if part is not None and part.amount
            else AccessibleAmount(0.0, 0.0, 0.0, 0.0)
        )

    def currentValue(self) -> float:
        return self._amount().now

    def setCurrentValue(self, value: object) -> None:
        change = self._amount().change
        if change is not None and isinstance(value, int | float):
            change(float(value))

    def maximumValue(self) -> float:
        return self._amount().maximum

    def minimumValue(self) -> float:
        return self._amount().minimum

    def minimumStepSize(self) -> float:
        return self._amount().step


class _PartAction(QAccessibleActionInterface):
    def __init__(self, part: Callable[[], AccessiblePart | None]) -> None:
        super().__init__()
        self._part = part

    def actionNames(self) -> list[str]:
        part = self._part()
        return [PRESS()] if part is not None and part.press is not None else []

    def doAction(self, name: str) -> None:
        part = self._part()
        if name == PRESS() and part is not None and part.press is not None and part.enabled:
            part.press()

    def keyBindingsForAction(self, name: str) -> list[str]:
        del name
        return []


class _PartInterface(QAccessibleInterface):
    """One part; asks anew what it is, every time."""

    def __init__(self, owner: PartsInterface, key: Hashable) -> None:
        super().__init__()
        self._owner, self._key = owner, key
        self._value, self._action = _PartValue(self._part), _PartAction(self._part)

    def _part(self) -> AccessiblePart | None:
        return self._owner.part(self._key)

    def isValid(self) -> bool:
        return self._owner.alive and self._part() is not None

    def object(self) -> QObject | None:  # type: ignore[override]  # as below
        return None

    def parent(self) -> QAccessibleInterface:
        return self._owner

    def child(self, index: int) -> QAccessibleInterface | None:  # type: ignore[override]
        del index
        return None

    # the binding's stubs know nothing of None, which Qt means by "no child"
    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:  # type: ignore[override]
        del x, y
        return None

    def childCount(self) -> int:
        return 0

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        del child
        return -1

    def text(self, kind: QAccessible.Text) -> str:
        part = self._part()
        if part is None:
            return ""
        if kind == QAccessible.Text.Name:
            return part.name
        if kind == QAccessible.Text.Description:
            return part.words
        if kind == QAccessible.Text.Value and part.amount is not None:
            return f"{part.amount.now:g}"
        return ""

    def setText(self, kind: QAccessible.Text, text: str) -> None:
        del kind, text

    def rect(self) -> QRect:
        part = self._part()
        return self._owner.on_screen(part.rect) if part is not None else QRect()

    def role(self) -> QAccessible.Role:
        part = self._part()
        return part.role if part is not None else QAccessible.Role.NoRole

    def state(self) -> QAccessible.State:
        part, state = self._part(), QAccessible.State()
        if part is None:
            state.invalid = True
            return state
        state.focusable, state.focused = True, part.current
        state.disabled = not part.enabled
        if part.selected is not None:
            state.selectable, state.selected = True, part.selected
        if part.checked is not None:
            state.checkable, state.checked = True, part.checked
        if part.expanded is not None:
            state.expandable, state.expanded = True, part.expanded
            state.collapsed = not part.expanded
        return state

    def interface_cast(  # type: ignore[override]  # an address, whatever the stubs say
        self, kind: QAccessible.InterfaceType
    ) -> shiboken6.VoidPtr:
        """How the number and the press of a part are found."""
        part = self._part()
        wanted: _PartValue | _PartAction | None = None
        if kind == QAccessible.InterfaceType.ValueInterface and part and part.amount is not None:
            wanted = self._value
        elif kind == QAccessible.InterfaceType.ActionInterface and part and part.press is not None:
            wanted = self._action
        return shiboken6.VoidPtr(shiboken6.getCppPointer(wanted)[0] if wanted is not None else 0)


class PartsInterface(QAccessibleWidget):
    """A widget with its parts as children."""

    def __init__(self, widget: QWidget, owner: PartsOwner) -> None:
        super().__init__(widget, owner.parts_role, widget.accessibleName())
        self._widget, self._of = widget, owner
        self._known: dict[Hashable, _PartInterface] = {}
        self._parts: dict[Hashable, AccessiblePart] | None = None

    @property
    def alive(self) -> bool:
        return shiboken6.isValid(self._widget)

    def part(self, key: Hashable) -> AccessiblePart | None:
        """A part as it is now."""
        return self._now().get(key)

    def _now(self) -> dict[Hashable, AccessiblePart]:
        """All parts; looked through once for all questions that come together."""
        if not self.alive:
            return {}
        if self._parts is None:
            self._parts = {part.key: part for part in self._of.accessible_parts()}
            QTimer.singleShot(0, self._forget)
        return self._parts

    def _forget(self) -> None:
        self._parts = None

    def _interface(self, key: Hashable) -> _PartInterface:
        if key not in self._known:
            self._known[key] = _PartInterface(self, key)
        return self._known[key]

    def on_screen(self, rect: QRect) -> QRect:
        """A rectangle of the widget, in pixels of the screen."""
        return rect.translated(self._widget.mapToGlobal(QPoint(0, 0)))

    # -- what Qt asks ---------------------------------------------------------------------

    # the binding's stubs know nothing of None, which Qt means by "no child"
    def childCount(self) -> int:
        return len(self._now())

    def child(self, index: int) -> QAccessibleInterface | None:  # type: ignore[override]
        keys = list(self._now())
        return self._interface(keys[index]) if 0 <= index < len(keys) else None

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:  # type: ignore[override]
        if not self.alive:
            return None
        at = self._widget.mapFromGlobal(QPoint(x, y))
        found = next((p for p in self._now().values() if p.rect.contains(at)), None)
        return self._interface(found.key) if found is not None else None

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        for index, key in enumerate(self._now()):
            if self._known.get(key) is child:
                return index
        return -1

    def focusChild(self) -> QAccessibleInterface | None:  # type: ignore[override]
        current = next((p for p in self._now().values() if p.current), None)
        return self._interface(current.key) if current is not None else None

    def heard(self, kind: QAccessible.Event, key: Hashable) -> None:
        """Tell whoever listens that something happened to a part."""
        self._forget()
        keys = list(self._now())
        if key not in keys:
            return
        amount = self._now()[key].amount
        if kind == QAccessible.Event.ValueChanged and amount is not None:
            event: QAccessibleEvent = QAccessibleValueChangeEvent(self._widget, amount.now)
        else:
            event = QAccessibleEvent(self._widget, kind)
        event.setChild(keys.index(key))
        QAccessible.updateAccessibility(event)


def install_accessible_parts() -> None:
    """From now on parts are found; once in a program."""
    QAccessible.installFactory(_made)


def _made(name: str, thing: QObject | None) -> QAccessibleInterface | None:
    del name
    if not isinstance(thing, PartsOwner) or not isinstance(thing, QWidget):
        return None
    if thing.parts_seen is None:
        thing.parts_seen = PartsInterface(thing, thing)
    return thing.parts_seen


def tell_current(widget: QWidget, key: Hashable) -> None:
    """The keyboard has gone to a part."""
    _tell(widget, QAccessible.Event.Focus, key)


def tell_value(widget: QWidget, key: Hashable) -> None:
    """A part has another value."""
    _tell(widget, QAccessible.Event.ValueChanged, key)


def _tell(widget: QWidget, kind: QAccessible.Event, key: Hashable) -> None:
    if not QAccessible.isActive() or not isinstance(widget, PartsOwner):
        return
    QAccessible.queryAccessibleInterface(widget)  # it may not have been asked for yet
    if widget.parts_seen is not None:
        widget.parts_seen.heard(kind, key)
