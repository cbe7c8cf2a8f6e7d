"""Words for people: about many things, and from files of others."""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence

from fox_hand.base.language import tr

MOST = 3
JOINERS = "\u200c\u200d"  # some scripts cannot be written without them
KEPT_IN_LINES = {"\t", "\n", *map(chr, range(0xDC80, 0xDD00))}
HIDDEN = {"Cc", "Cf", "Cs", "Zl", "Zp"}  # Unicode's categories of what is not seen


def some_of(words: Sequence[str], most: int = MOST) -> str:
    """The first few of some words, and how many more there are."""
    shown = ", ".join(words[:most])
    return (
        tr("{shown} and {count} more", shown=shown, count=len(words) - most)
        if len(words) > most
        else shown
    )


def plain_name(name: str) -> str:
    """A name from somebody's file as it can be shown: without line ends, control characters,
    and what turns the direction of writing or is not seen at all."""
    if name.isascii() and name.isprintable():
        return name
    kept = (" " if hidden(c) else c for c in unicodedata.normalize("NFC", name))
    return " ".join("".join(kept).split())


def hidden(character: str) -> bool:
    """Whether a character is not seen, or changes how others are."""
    return unicodedata.category(character) in HIDDEN and character not in JOINERS


def printable(text: str) -> str:
    """A text for a terminal: nothing in it moves the cursor, rings or changes colours. Tabs, line
    ends and bytes that are no text (which a file's name may have) stay."""
    if text.isascii() and text.isprintable():
        return text
    return "".join(" " if hidden(c) and c not in KEPT_IN_LINES else c for c in text)
