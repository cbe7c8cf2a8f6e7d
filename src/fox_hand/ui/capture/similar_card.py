"""You already have this: the cards that are most like what is being taken."""

from __future__ import annotations

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.base.work import Progress
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.alike import numbers_of
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.app.needs import Shelving
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.cards.tiles import Tile
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Segments

DELAY = 200  # milliseconds after the last change
NEAR = 0.9
CHOICES = [("own", tr("Own card")), ("variant", tr("Variant")), ("over", tr("Store over"))]


class SimilarCard(QWidget):
    """The nearest card, how alike it is, and whether to keep both."""

    chosen = Signal(str, object)  # own, variant or over, and the card

    def __init__(self, theme: Theme, workspace: Shelving) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self._pictures = CardPictures(
            workspace.open_libraries.jobs,
            PictureCache(workspace.places.cache / "pictures"),
            self._repaint,
        )
        self._draft: CaptureDraft | None = None
        self.entry: Entry | None = None
        self.share = 0.0
        self._asked = 0
        self.setProperty("plate", "raised")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._tile: Tile | None = None
        self._title, self._said = Words(), Words()
        self._title.setProperty("role", "heading")
        self._said.setProperty("quiet", True)
        self.choice = Segments(theme, CHOICES, tr("What to do with the one that is there"))
        self.choice.chosen.connect(lambda word: self.chosen.emit(word, self.entry))
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(self._title)
        words.addWidget(self._said)
        words.addWidget(self.choice)
        self._line = QHBoxLayout(self)
        self._line.setContentsMargins(4, 4, 8, 4)
        self._line.setSpacing(8)
        self._line.addLayout(words, 1)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(DELAY)
        self._timer.timeout.connect(self._ask)
        self.hide()

    def begin(self, draft: CaptureDraft | None) -> None:
        """Look for cards like a draft."""
        self._draft, self.entry = draft, None
        self._asked += 1
        self.hide()
        self.choice.set_value("own")
        if draft is not None and draft.retaken is None:
            self._timer.start()

    def look_again(self) -> None:
        """What goes in has changed."""
        if self._draft is not None and self._draft.retaken is None:
            self._timer.start()

    def _ask(self) -> None:
        draft = self._draft
        if draft is None:
            return
        self._asked += 1
        number, open_libraries = self._asked, self._workspace.open_libraries
        numbers = numbers_of(draft.pose, draft.clip)

        def work(progress: Progress) -> list[tuple[int, float]]:
            progress.step(0.0)
            return open_libraries.alike(numbers, 3)

        def done(found: list[tuple[int, float]]) -> None:
            if number == self._asked:
                self._show(found)

        def failed(error: Exception) -> None:
            self.hide()
            raise error

        open_libraries.jobs.run(work, done, failed)

    def _show(self, found: list[tuple[int, float]]) -> None:
        near = [(key, share) for key, share in found if share >= NEAR]
        entry = self._workspace.open_libraries.entry(near[0][0]) if near else None
        self.setVisible(entry is not None)
        if entry is None:
            return
        if self.entry is None or self.entry.path != entry.path:
            if self._tile is not None:
                self._tile.deleteLater()
            self._tile = Tile(self._theme, self._pictures, entry, (56, 56))
            self._line.insertWidget(0, self._tile)
        self.entry, self.share = entry, near[0][1]
        self._title.setText(tr("Looks like {name}", name=entry.name))
        others = len(near) - 1
        more = tr_n(", {number} more is near", ", {number} more are near", others) if others else ""
        self._said.setText(tr("{share} % the same{more}", share=int(self.share * 100), more=more))
        self.choice.set_off({"over"} if entry.locked else set())
        self.setToolTip(plain_tip(tr("It is approved and locked.") if entry.locked else entry.note))

    def _repaint(self) -> None:
        if self._tile is not None:
            self._tile.update()
