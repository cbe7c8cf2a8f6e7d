"""Commands as data: what they are called, their keys, when they can be used, what they run."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QMenu, QWidget

from fox_hand.base.key_words import key_words
from fox_hand.ui.theme.plain_text import menu_word


class Where(StrEnum):
    """Where a command's keys count."""

    ANYWHERE = "anywhere"
    SPARE = "spare"  # where whatever has the keyboard has no use for them
    STAGE = "stage"  # the same, and only while no screen lies over the stage


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
        released: follows when its key goes up again.
        listed: whether the finder and the sheet of keys name it.
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
    released: Callable[[], object] | None = None
    listed: bool = True

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
        self.shipped = tuple(commands)
        self._window: QWidget | None = None
        self._installed: list[QAction] = []
        self._by_name: dict[str, Command] = {}
        self._spare: dict[tuple[Where, str], Command] = {}
        self.take(self.shipped)

    def take(self, commands: Iterable[Command]) -> None:
        """The same commands with other keys, from now on.

        Raises:
            ValueError: as above.
        """
        self._by_name, self._spare = {}, {}
        taken: set[tuple[Where, str]] = set()
        for command in commands:
            keys = {(command.where, _written(k)) for k in command.keys}
            if command.name in self._by_name or keys & taken:
                raise ValueError(f"{command.name} or its keys are there twice")
            taken |= keys
            self._by_name[command.name] = command
            if command.where is not Where.ANYWHERE:
                self._spare |= dict.fromkeys(keys, command)
        if self._window is not None:
            self.install(self._window)

    def __iter__(self) -> Iterator[Command]:
        return iter(self._by_name.values())

    def __getitem__(self, name: str) -> Command:
        return self._by_name[name]

    def install(self, window: QWidget) -> None:
        """Let the keys that count anywhere in a window do what they mean."""
        self._window = window
        for action in self._installed:
            window.removeAction(action)
            action.deleteLater()
        self._installed = []
        for command in self:
            if command.where is Where.ANYWHERE and command.keys:
                action = QAction(command.words, window)
                action.setShortcuts([QKeySequence(keys) for keys in command.keys])
                action.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
                action.triggered.connect(lambda _=False, it=command: run(it))
                window.addAction(action)
                self._installed.append(action)

    def pressed(self, event: QKeyEvent, *, on_stage: bool) -> bool:
        """Do what a key means that nothing else has a use for; false where it means nothing now.

        Args:
            event: the key.
            on_stage: whether no screen lies over the stage.
        """
        command = self._of_key(event, on_stage)
        if command is None or not command.ready():
            return False
        if command.released is None or not event.isAutoRepeat():
            command.run()
        return True

    def released(self, event: QKeyEvent) -> None:
        """The key of something that lasts as long as it is held went up."""
        command = self._of_key(event, True)
        if command is not None and command.released is not None and not event.isAutoRepeat():
            command.released()

    def _of_key(self, event: QKeyEvent, on_stage: bool) -> Command | None:
        keys = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        written = QKeySequence(event.key() | keys.value).toString()
        spare = self._spare.get((Where.SPARE, written))
        return spare or (self._spare.get((Where.STAGE, written)) if on_stage else None)

    def fill(self, menu: QMenu, *names: str) -> None:
        """Entries of a menu; an empty name is a line between two groups."""
        for name in names:
            if not name:
                menu.addSeparator()
                continue
            command = self[name]
            keys = f"\t{key_words(command.key)}" if command.key else ""
            action = menu.addAction(f"{menu_word(command.words)}{keys}")
            action.triggered.connect(lambda _=False, it=command: run(it))
            action.setEnabled(command.ready())
            if command.checked is not None:
                action.setCheckable(True)
                action.setChecked(command.checked())

    def in_group(self, group: str) -> list[Command]:
        """Those with keys, in the order of the table."""
        return [c for c in self if c.group == group and c.keys and c.listed]


def run(command: Command) -> None:
    """Do it, if it can be used now."""
    if command.ready():
        command.run()


def _written(keys: str) -> str:
    return QKeySequence(keys).toString()
