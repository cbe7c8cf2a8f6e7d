"""The pictures of many cards taken again: a few of them before and after, then all."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n
from fox_hand.session.capturing.reshooting import PictureChange
from fox_hand.ui.capture.capture_parts import RoundedPicture
from fox_hand.ui.services.picture_files import decoded
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.popup import Popup

WIDTH = 344
EDGE = 68  # pixels of a picture
FEW = 4  # cards that are shown first


def _small(theme: Theme, data: bytes | None, name: str) -> RoundedPicture:
    found = RoundedPicture(theme, EDGE, name)
    found.image = decoded(data)
    return found


class ReshootPopup(Popup):
    """Shows the first few as they are and as they will be, and asks."""

    agreed = Signal()

    def __init__(
        self, theme: Theme, parent: QWidget, count: int, previews: list[PictureChange], who: str
    ) -> None:
        super().__init__(parent, WIDTH)
        self.previews = previews
        title = Words(
            tr(
                "Pictures of {counted}, on {who}",
                counted=tr_n("{number:,} card", "{number:,} cards", count),
                who=who,
            )
        )
        title.setProperty("role", "title")
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        for column, word in enumerate(("now", "then")):
            head = Words(word)
            head.setProperty("quiet", True)
            head.setAlignment(Qt.AlignmentFlag.AlignHCenter)
            grid.addWidget(head, 0, column)
        self.thumbs: list[tuple[RoundedPicture, RoundedPicture]] = []
        for line, one in enumerate(previews, 1):
            pair = _small(theme, one.before, tr("Now")), _small(theme, one.after, tr("Then"))
            self.thumbs.append(pair)
            said = Words(one.problem or one.name)
            said.setWordWrap(True)
            said.setToolTip(plain_tip(one.name))
            said.setProperty("quiet", bool(one.problem))
            for column, part in enumerate((*pair, said)):
                grid.addWidget(part, line, column)
        grid.setColumnStretch(2, 1)
        more = Words(
            tr("Today's pictures stay as earlier versions of the cards, and undo brings them back.")
        )
        more.setWordWrap(True)
        more.setProperty("quiet", True)
        self.take = Button(theme, tr("Take {count}", count=count), kind=Kind.MAIN, key="Enter")
        self.take.clicked.connect(self._agree)
        self.take.setEnabled(any(one.after for one in previews))
        stop = Button(theme, tr("Cancel"), key="Esc")
        stop.clicked.connect(self.close)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(stop)
        foot.addWidget(self.take)
        column_ = QVBoxLayout(self)
        column_.setContentsMargins(12, 8, 12, 12)
        column_.setSpacing(8)
        column_.addWidget(title)
        column_.addLayout(grid)
        column_.addWidget(more)
        column_.addLayout(foot)
        self.keys = KeyMap([LocalKey(("Return", "Enter"), self._agree)])
        self.take.setFocus(Qt.FocusReason.PopupFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)

    def _agree(self) -> None:
        if self.take.isEnabled():
            self.agreed.emit()
            self.close()
