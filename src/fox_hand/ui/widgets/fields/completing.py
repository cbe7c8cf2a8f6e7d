"""Fields that offer what is there already while one types."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QModelIndex, QPersistentModelIndex, QStringListModel, Qt
from PySide6.QtGui import QAction, QIcon
from PySide6.QtWidgets import QAbstractItemView, QCompleter, QLineEdit

from fox_hand.ui.theme.style import CLEAR
from fox_hand.ui.widgets.event_filter import EventFilter


class Completing(QCompleter):
    """Offers words that begin like, or hold, what is typed.

    Args:
        field: where it is typed.
        words: what there is, asked for when somebody begins to type.
        several: whether commas stand between words; the last one is completed.
    """

    def __init__(
        self, field: QLineEdit, words: Callable[[], Sequence[str]], *, several: bool = False
    ) -> None:
        super().__init__(field)
        self._field, self._words, self._several = field, words, several
        self._list = QStringListModel(self)
        self.setModel(self._list)
        self.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.setFilterMode(Qt.MatchFlag.MatchContains)
        self.setMaxVisibleItems(8)
        offer_below(field, self)
        field.textEdited.connect(self._ask)
        self._asked = False

    def _ask(self, text: str) -> None:
        """What there is, once for a word: cards may have come since the last."""
        fresh = not text or (self._several and text.rstrip().endswith(","))
        if fresh or not self._asked:
            self._asked = True
            self._list.setStringList(list(self._words()))

    def splitPath(self, path: str) -> list[str]:
        """The part of a text that is completed."""
        return [path.rpartition(",")[2].strip() if self._several else path]

    def pathFromIndex(self, index: QModelIndex | QPersistentModelIndex) -> str:
        """What stands in the field when a word is taken."""
        word = str(index.data())
        if not self._several:
            return word
        before, comma, _ = self._field.text().rpartition(",")
        return f"{before}{comma} {word}".strip()


def offer_below(field: QLineEdit, completer: QCompleter) -> None:
    """Offer words in a list below a field, in the window's colours: by itself such a list is a
    window of its own, which has none."""
    field.setCompleter(completer)
    offered = completer.popup()
    if offered is None:
        return
    offered.setAccessibleName(field.accessibleName())
    offered.setProperty("offered", True)
    offered.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)

    def hear(event: QEvent) -> bool:
        if event.type() is QEvent.Type.Show:
            offered.setStyleSheet(field.window().styleSheet())
        return False

    EventFilter(offered, hear)


def clearable(*fields: QLineEdit) -> None:
    """Give fields for text the button that empties them."""
    for field in fields:
        before = set(field.findChildren(QAction))
        field.setClearButtonEnabled(True)
        for action in set(field.findChildren(QAction)) - before:
            action.setIcon(QIcon(CLEAR))
