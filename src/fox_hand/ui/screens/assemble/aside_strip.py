"""Drawings that no part has, below the list of parts."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.core.puppet.puppet import Aside
from fox_hand.ui.screens.assemble.part_panel import DrawingButton
from fox_hand.ui.screens.assemble.parts_list import Images
from fox_hand.ui.theme.plain_text import Words, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.flow import Flow

SIDE = 44


class AsideStrip(QWidget):
    """A click gives one to the part that is chosen."""

    wanted = Signal(object)  # Aside

    def __init__(self, theme: Theme, images: Images) -> None:
        super().__init__()
        self._theme, self._images = theme, images
        self.buttons: list[DrawingButton] = []
        self._shown: tuple[Aside, ...] = ()
        self.title = Words(tr("Not used"))
        self.title.setProperty("role", "title")
        self._shelf = Flow()
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 4)
        column.setSpacing(4)
        column.addWidget(self.title)
        column.addLayout(self._shelf)
        self.hide()

    def show_aside(self, aside: tuple[Aside, ...], part: str) -> None:
        """Show other drawings.

        Args:
            aside: those of the view.
            part: the part that would get one.
        """
        self.setVisible(bool(aside))
        self.title.setText(tr("Not used  {count}", count=len(aside)))
        if aside != self._shown:
            self._shown = aside
            for button in self.buttons:
                self._shelf.removeWidget(button)
                button.deleteLater()
            self.buttons = []
            for one in aside:
                button = DrawingButton(self._theme, self._images, one.drawing, SIDE)
                button.clicked.connect(partial(self._use, one))
                self._shelf.addWidget(button)
                self.buttons.append(button)
        for one, button in zip(aside, self.buttons, strict=True):
            button.setToolTip(
                plain_tip(
                    tr(
                        "{name} of {part}: give it to {part_2}",
                        name=one.drawing.name,
                        part=one.part,
                        part_2=part,
                    )
                )
            )

    def _use(self, one: Aside) -> None:
        self.wanted.emit(one)
