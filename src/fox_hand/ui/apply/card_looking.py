"""When a card is looked at on the figure: the pointer rests on it, or a key is held."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer

from fox_hand.library.format.entry import Entry
from fox_hand.session.app.apply_controller import ApplyController

RESTS = 450  # milliseconds until a pointer that rests on a card looks at it


class CardLooking(QObject):
    """Follows the pointer and the key for looking.

    Args:
        parent: the window.
        applying: shows what a card would do.
    """

    def __init__(self, parent: QObject, applying: ApplyController) -> None:
        super().__init__(parent)
        self._applying = applying
        self._pointed: Entry | None = None
        self._held = False  # whether the key for looking is down
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(RESTS)
        self._rest.timeout.connect(self._rested)

    def point_at(self, entry: Entry | None) -> None:
        """The pointer is over a card, or the keys have gone to it; None where neither is."""
        self._pointed = entry
        self.end()
        if entry is not None and self._held:
            self._applying.look_at(entry)
        elif entry is not None:
            self._rest.start()

    def hold(self, down: bool, entry: Entry | None = None) -> None:
        """The key for looking went down or up; ``entry`` where no pointer is over a card."""
        self._held = down
        self.end()
        seen = self._pointed or entry
        if down and seen is not None:
            self._applying.look_at(seen)

    def end(self) -> None:
        """Nothing is looked at until the pointer moves again."""
        self._rest.stop()
        self._applying.look_away()

    def _rested(self) -> None:
        if self._pointed is not None:
            self._applying.look_at(self._pointed)
