"""How the picture of a card is drawn: a bar over the stage's lower edge while capturing."""

from __future__ import annotations

from typing import get_args

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.core.view.render_request import Style
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Segments, Tick

WORDS: dict[Style, str] = {"shaded": tr("Shaded"), "clay": tr("Clay"), "outline": tr("Outlined")}


class CaptureBar(QWidget):
    """Style, background, and framing again."""

    framed = Signal()

    def __init__(self, theme: Theme, stage: QWidget) -> None:
        super().__init__(stage)
        self._stage = stage
        self._draft: CaptureDraft | None = None
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.style_choice = Segments(
            theme, [(s, WORDS[s]) for s in get_args(Style)], tr("How the picture is drawn")
        )
        self.style_choice.chosen.connect(self._set_style)
        self.ground = Tick(theme, tr("Background"))
        self.ground.setMinimumWidth(116)
        self.ground.clicked.connect(self._set_ground)
        self.again = Button(theme, tr("Frame again"), tip=tr("Put the square around what goes in"))
        self.again.clicked.connect(self.framed)
        word = Words(tr("Drawn"))
        word.setProperty("quiet", True)
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 4, 8, 4)
        line.setSpacing(8)
        for part in (word, self.style_choice, self.ground, self.again):
            line.addWidget(part)
        self.hide()

    def begin(self, draft: CaptureDraft | None) -> None:
        """Show a draft's picture settings; None hides the bar."""
        self._draft = draft
        self.setVisible(draft is not None)
        if draft is not None:
            self.refresh()
            self.place()

    def refresh(self) -> None:
        if self._draft is not None:
            self.style_choice.set_value(self._draft.style)
            self.ground.set_state(self._draft.ground, False, "")

    def place(self) -> None:
        """12 px from the stage's lower edge, in the middle."""
        self.adjustSize()
        x = (self._stage.width() - self.width()) // 2
        self.move(max(x, 8), self._stage.height() - self.height() - 12)
        self.raise_()

    def _set_style(self, word: str) -> None:
        style = next(s for s in get_args(Style) if s == word)
        if self._draft is not None:
            self._draft.set_look(style=style)

    def _set_ground(self, on: bool) -> None:
        if self._draft is not None:
            self._draft.set_look(ground=on)
