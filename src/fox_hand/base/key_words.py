"""What the keys of the keyboard are called: commands name them as the toolkit writes them."""

from __future__ import annotations

import re
from collections.abc import Iterable

from fox_hand.base.language import tr

KEYS = {
    "Ctrl": tr("Ctrl"),
    "Shift": tr("Shift"),
    "Alt": tr("Alt"),
    "Meta": tr("Meta"),
    "Return": tr("Enter"),
    "Enter": tr("Enter"),
    "Esc": tr("Esc"),
    "Tab": tr("Tab"),
    "Backtab": tr("Backtab"),
    "Space": tr("Space"),
    "Backspace": tr("Backspace"),
    "Del": tr("Del"),
    "Ins": tr("Ins"),
    "Home": tr("Home"),
    "End": tr("End"),
    "PgUp": tr("PgUp"),
    "PgDown": tr("PgDown"),
    "Menu": tr("Menu"),
    "Left": tr("Left"),
    "Right": tr("Right"),
    "Up": tr("Up"),
    "Down": tr("Down"),
}
_WORD = re.compile(r"[A-Za-z]{2,}")


def key_words(keys: str) -> str:
    """A key, or several with commas: ``Ctrl+Del`` as it stands on the keyboard."""
    return _WORD.sub(lambda word: KEYS.get(word[0], word[0]), keys)


def keys_in_words(keys: Iterable[str]) -> str:
    """Keys that do the same, each said once: ``Return`` and ``Enter`` are one to people."""
    return ", ".join(dict.fromkeys(map(key_words, keys)))
