"""Words that are cut, because a language needs more room, are read in full in the tooltip."""

from __future__ import annotations

from PySide6.QtWidgets import QAbstractButton

from fox_hand.ui.theme.plain_text import plain_tip


def with_cut_words(button: QAbstractButton, tip: str) -> str:
    """What the tooltip of a button says: first its own words, where they do not fit into it."""
    words = plain_tip(button.text())
    if not words or button.width() >= button.sizeHint().width() or words in tip:
        return tip
    return f"{words}. {tip}" if tip else words
