"""Commands as data: what they are called, their keys, when they can be used, what they run."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QMenu, QWidget

from fox_hand.ui.theme.plain_text import menu_word


class Where(StrEnum):
    """Where a command's keys count."""

    ANYWHERE = "anywhere"
    STAGE = "stage"  # single letters, where whatever has the keyboard has no use for them


def always() -> bool:
    return True


@dataclass(frozen=True)
class Command:
    """Something that can be done.

    Args:
        name: what the program calls it.
        words: what people read.
        run: does it.
        keys: as Qt writes them, such as ``Ctrl+Shift+S``; the first is shown.
        group: which part of the sheet of keys it stands in, and what it is about.
        more: a few words on what it does, for the finder and the sheet of keys.
        icon: beside it.
        where: where its keys count.
        ready: whether it can be used now.
        checked: of a switch, whether it is on.
    """

    name: str
    words: str
    run: Callable[[], object]
    keys: tuple[str, ...] = ()
    group: str = ""
    more: str = ""
    icon: str = ""
    where: Where = Where.ANYWHERE
    ready: Callable[[], bool] = always
    checked: Callable[[], bool] | None = None

    @property
    def key(self) -> str:
        """Its first key; empty where it has none."""
        return self.keys[0] if self.keys else ""


class Actions:
    """All commands of a window. Shortcuts, menus, the sheet of keys and the finder come from it.

    Args:
        commands: every name and every key of a place once.

    Raises:
        ValueError: where two have the same name, or the same key in the same place.
    """

    def __init__(self, commands: Iterable[Command]) -> None:
        self._by_name: dict[str, Command] = {}
        self._letters: dict[str, Command] = {}
        taken: set[tuple[Where, str]] = set()
        for command in commands:
            keys = {(command.where, _written(k)) for k in command.keys}
            if command.name in self._by_name or keys & taken:
                raise ValueError(f"{command.name} or its keys are there twice")
            taken |= keys
            self._by_name[command.name] = command
            if command.where is Where.STAGE:
                self._letters |= {_written(k): command for k in command.keys}

    def __iter__(self) -> Iterator[Command]:
        return iter(self._by_name.values())

    def __getitem__(self, name: str) -> Command:
        return self._by_name[name]

    def install(self, window: QWidget) -> None:
        """Let the keys that count anywhere in a window do what they mean."""
        for command in self:
            if command.where is Where.ANYWHERE and command.keys:
                action = QAction(command.words, window)
                action.setShortcuts([QKeySequence(keys) for keys in command.keys])
                action.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
                action.triggered.connect(lambda _=False, it=command: run(it))
                window.addAction(action)

    def letter(self, event: QKeyEvent) -> bool:
        """Do what a single letter means on the stage; false where it means nothing now."""
        keys = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        written = QKeySequence(event.key() | keys.value).toString()
        command = self._letters.get(written)
        if command is None or not command.ready():
            return False
        command.run()
        return True

    def fill(self, menu: QMenu, *names: str) -> None:
        """Entries of a menu; an empty name is a line between two groups."""
        for name in names:
            if not name:
                menu.addSeparator()
                continue
            command = self[name]
            keys = f"\t{command.key}" if command.key else ""
            action = menu.addAction(f"{menu_word(command.words)}{keys}")
            action.triggered.connect(lambda _=False, it=command: run(it))
            action.setEnabled(command.ready())
            if command.checked is not None:
                action.setCheckable(True)
                action.setChecked(command.checked())

    def in_group(self, group: str) -> list[Command]:
        """Those with keys, in the order of the table."""
        return [c for c in self if c.group == group and c.keys]


def run(command: Command) -> None:
    """Do it, if it can be used now."""
    if command.ready():
        command.run()


def _written(keys: str) -> str:
    return QKeySequence(keys).toString()
