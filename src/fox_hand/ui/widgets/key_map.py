"""Keys of one part of the window, as data: which, what they do, and what is said of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QKeySequence

from fox_hand.base.key_words import key_words, keys_in_words

ENTER = ("Return", "Enter")


@dataclass(frozen=True)
class LocalKey:
    """Keys that do something while a part of the window has the keyboard.

    Args:
        keys: as Qt writes them, such as ``Ctrl+Shift+S``.
        run: does it; false leaves the key to the window.
        words: what the sheet of keys says; nothing where a line there is about the pointer too.
        shown: how the sheet of keys writes them, where that is shorter.
        loose: whether other modifiers do not matter.
        name: by which a button that does the same finds it.
    """

    keys: tuple[str, ...]
    run: Callable[[], object]
    words: str = ""
    shown: str = ""
    loose: bool = False
    name: str = ""


class KeyMap:
    """The keys of one part.

    Args:
        keys: each of its names once.

    Raises:
        ValueError: where a key stands for two things, or is none.
    """

    def __init__(self, keys: Iterable[LocalKey]) -> None:
        self._keys = list(keys)
        self._exact: dict[str, LocalKey] = {}
        self._loose: dict[str, LocalKey] = {}
        for key in self._keys:
            for name in key.keys:
                held, written = self._loose if key.loose else self._exact, _written(name)
                if written in held or not written:
                    raise ValueError(f"{name} is there twice, or is no key")
                held[written] = key

    def owner(self, event: QKeyEvent) -> LocalKey | None:
        """What a key means here."""
        keys = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        exact = QKeySequence(event.key() | keys.value).toString()
        return self._exact.get(exact) or self._loose.get(QKeySequence(event.key()).toString())

    def do(self, event: QKeyEvent) -> bool:
        """Do what a key means; false if it means nothing here now."""
        key = self.owner(event)
        return key is not None and key.run() is not False

    def has(self, key: str) -> bool:
        """Whether a key, as Qt writes it, means something here."""
        return key in self._exact or key in self._loose

    def key(self, name: str) -> str:
        """The first key of what has a name."""
        return next(key.keys[0] for key in self._keys if key.name == name)

    def lines(self) -> list[tuple[str, str]]:
        """Keys and words, for the sheet of keys."""
        return [
            (key_words(key.shown) or keys_in_words(key.keys), key.words)
            for key in self._keys
            if key.words
        ]


def _written(name: str) -> str:
    return QKeySequence(name).toString()
