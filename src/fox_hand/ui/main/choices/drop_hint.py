"""Says what will be done with something while it is held over the window."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr
from fox_hand.library.format.schema import SUFFIX as CARD
from fox_hand.ui.main.choices.things_coming import coming
from fox_hand.ui.main.home import Home
from fox_hand.ui.theme.plain_text import Words

TOP, SAID = 52, 3  # pixels from the window's edge; how many things are named


class DropHint(Words):
    """A plate at the upper edge of the window."""

    def __init__(self, window: QWidget) -> None:
        super().__init__("", window)
        self._over = window
        self.setProperty("plate", "busy")
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.hide()

    def show_for(self, home: Home, files: list[Path]) -> None:
        """What these are for."""
        said = words_for(home, files)
        more = tr("; and {count} more", count=len(said) - SAID) if len(said) > SAID else ""
        self.setText("; ".join(said[:SAID]) + more)
        self.adjustSize()
        self.move((self._over.width() - self.width()) // 2, TOP)
        self.show()
        self.raise_()


def words_for(home: Home, files: list[Path]) -> list[str]:
    """A line for every thing; cards are taken together."""
    cards = [path for path in files if path.suffix.lower() == CARD]
    said = []
    target = home.workspace.open_libraries.target
    if cards and target is not None:
        what = cards[0].stem if len(cards) == 1 else tr("{count} cards", count=len(cards))
        said.append(tr("Takes a copy of {what} into {name}", what=what, name=target.name))
    elif cards:
        said.append(tr("There is no library to take cards into"))
    return said + [coming(home, path).words for path in files if path not in cards]
