"""The row of cards that lie on the number keys."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QContextMenuEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.app.apply_controller import ApplyController
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.session.shots.shots import Shots
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.theme.plain_text import plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import draw_focus
from fox_hand.ui.widgets.passing_menu import passing_menu

SIZE = 32


class HandCard(QAbstractButton):
    """A small picture with its number."""

    def __init__(self, theme: Theme, number: int, entry: Entry, pictures: CardPictures) -> None:
        super().__init__()
        self._theme, self.number, self.entry, self._pictures = theme, number, entry, pictures
        self.setFixedSize(SIZE, SIZE)
        self.setToolTip(plain_tip(f"{entry.name} ({number + 1})"))
        self.setAccessibleName(tr("{name}, key {number}", name=entry.name, number=number + 1))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(SIZE, SIZE)

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        theme, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        image = self._pictures.get(self.entry, round(SIZE * self.devicePixelRatioF()))
        if image is not None:
            painter.drawImage(QRectF(self.rect()), image)
        else:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("raised"))
            painter.drawRoundedRect(QRectF(self.rect()), 4, 4)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("panel"))
        painter.drawRoundedRect(QRectF(0, SIZE - 14, 12, 14), 3, 3)
        painter.setFont(theme.font(11, 600))
        painter.setPen(theme.colour("text"))
        painter.drawText(
            QRectF(0, SIZE - 14, 12, 14), Qt.AlignmentFlag.AlignCenter, str(self.number + 1)
        )
        if self.hasFocus() or self.underMouse():
            draw_focus(painter, theme, QRectF(self.rect()), 4)


class Hotbar(QWidget):
    """Hidden while no card lies on a number key."""

    def __init__(self, theme: Theme, jobs: JobRunner, cache: PictureCache) -> None:
        super().__init__()
        self._theme = theme
        self._putting: ApplyController | None = None
        self._pictures = CardPictures(jobs, cache, self._came)
        self.cards: list[HandCard] = []
        self._line = QHBoxLayout(self)
        self._line.setContentsMargins(12, 0, 12, 0)
        self._line.setSpacing(4)
        self._line.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.setFixedHeight(40)
        self.setAccessibleName(tr("Cards at hand"))
        self.hide()

    def follow(self, putting: ApplyController, shots: Shots) -> None:
        """Whose cards are shown."""
        self._putting = putting
        shots.hand_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """The cards may be others now, or have other pictures."""
        putting = self._putting
        if putting is None:
            return
        shown = [(n, e) for n, e in enumerate(putting.at_hand) if e is not None and e.readable]
        if shown == [(card.number, card.entry) for card in self.cards]:
            return
        for card in self.cards:
            self._line.removeWidget(card)
            card.deleteLater()
        self.cards = []
        for number, entry in shown:
            card = HandCard(self._theme, number, entry, self._pictures)
            card.clicked.connect(partial(putting.press, number))
            self._line.addWidget(card)
            self.cards.append(card)
        self.setVisible(bool(self.cards))

    def _came(self) -> None:
        for card in self.cards:
            card.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Take a card off its key."""
        putting = self._putting
        card = self.childAt(event.pos())
        if putting is None or not isinstance(card, HandCard):
            return
        menu = passing_menu(self)
        menu.addAction(
            tr("Take it off {number}", number=card.number + 1),
            partial(putting.take_in_hand, card.number, None),
        )
        menu.popup(event.globalPos())
