"""Words on the screen that come from people and files: shown as they are written.

Qt takes text that looks like markup for markup, so a card named ``<b>`` would show no name, and
one that names a picture would have it opened.
"""

from __future__ import annotations

from html import escape

from PySide6.QtGui import Qt
from PySide6.QtWidgets import QLabel, QWidget


class Words(QLabel):
    """A label without markup."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


def plain_tip(text: str) -> str:
    """The same for tooltips, which know no other way."""
    return f"<qt>{escape(text)}</qt>" if Qt.mightBeRichText(text) else text


def menu_word(text: str) -> str:
    """The same for menus, where ``&`` marks a letter and a tab a key."""
    return text.replace("&", "&&").replace("\t", " ")
