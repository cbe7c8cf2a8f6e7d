"""The small bar on the stage that says how the link to a host goes."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import QRect, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QMenu, QWidget

from fox_hand.base.language import tr
from fox_hand.session.app.linked_stage import LinkedStage
from fox_hand.session.link.host_link import LinkState
from fox_hand.session.link.linked_figure import LinkedFigure
from fox_hand.ui.link.link_words import link_look
from fox_hand.ui.theme.plain_text import Words, menu_word
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.passing_menu import passing_menu

DOT = 8  # pixels
EDGE = 12


class StateDot(QWidget):
    """Full while values come and go, a ring while they do not."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme, self.tone, self.hollow = theme, "quiet", True
        self.setFixedSize(DOT + 2, DOT + 2)

    def show_state(self, tone: str, *, hollow: bool) -> None:
        self.tone, self.hollow = tone, hollow
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colour = self._theme.colour(self.tone)
        painter.setPen(QPen(colour, 1.5) if self.hollow else Qt.PenStyle.NoPen)
        painter.setBrush(Qt.BrushStyle.NoBrush if self.hollow else colour)
        painter.drawEllipse(QRectF(1, 1, DOT, DOT))


class LinkPill(QWidget):
    """Dot, word and figures; a button that lets nothing go there for now, and a menu."""

    picture_asked = Signal()
    hang_up_asked = Signal()
    placed = Signal()

    def __init__(self, theme: Theme, linking: LinkedStage, stage: QWidget) -> None:
        super().__init__(stage)
        self._theme, self._linking = theme, linking
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(tr("Link"))
        self._dot = StateDot(theme)
        self.word, self.detail = Words(""), Words("")
        self.word.setProperty("role", "title")
        self.detail.setProperty("quiet", True)
        said = tr("Let nothing go there for now")
        self.pause = Button(theme, icon="pause", kind=Kind.FLAT, height=24, icon_size=14, tip=said)
        self.pause.clicked.connect(self._pause)
        self.more = Button(
            theme, icon="ellipsis", kind=Kind.FLAT, height=24, icon_size=14, tip=tr("Link")
        )
        self.more.clicked.connect(self._show_menu)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 4, 4)
        row.setSpacing(8)
        for part in (self._dot, self.word, self.detail, self.pause, self.more):
            row.addWidget(part)
        self._between = (QRect(), QRect(), QRect())
        self._menu: QMenu | None = None
        self.hide()
        linking.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Say how it goes."""
        link = self._linking.link
        if link is None or not (self._linking.stands or link.state is LinkState.OPENING):
            self.hide()
            self.placed.emit()
            return
        look = link_look(link)
        self._dot.show_state(look.tone, hollow=look.hollow)
        self.word.setText(look.word)
        self.detail.setText(look.detail)
        self.detail.setVisible(bool(look.detail))
        paused = link.state is LinkState.PAUSED
        self.pause.set_icon("play" if paused else "pause")
        said = tr("Go on") if paused else tr("Let nothing go there for now")
        self.pause.setToolTip(said)
        self.pause.setAccessibleName(said)
        self.pause.setEnabled(link.ready or paused)
        self.setAccessibleDescription(f"{look.word} {look.detail}")
        self.show()
        self.place(*self._between)

    def place(self, left: QRect, right: QRect, stage: QRect) -> None:
        """Between the two bars at the upper edge, below them where there is no room."""
        self._between = left, right, stage
        self.adjustSize()
        room = right.left() - left.right() - 2 * EDGE
        if self.width() <= room:
            self.move(left.right() + 1 + (room + 2 * EDGE - self.width()) // 2, left.top())
        else:
            self.move(EDGE, left.bottom() + EDGE)
        self.raise_()
        self.placed.emit()

    def _pause(self) -> None:
        link = self._linking.link
        if link is not None:
            link.pause(link.state is not LinkState.PAUSED)

    # -- menu -------------------------------------------------------------------------------

    def _show_menu(self) -> None:
        linking, menu = self._linking, passing_menu(self)
        link = linking.link
        if link is None:
            return
        self._menu = menu
        menu.aboutToHide.connect(self._shut)
        if "picture" in link.can:
            menu.addAction(
                menu_word(tr("Picture of {name}", name=link.name)), self.picture_asked.emit
            )
        linked = linking.acting
        if linked is not None and "switch" in link.can and link.ready:
            linked.ask_switches(partial(self._add_switches, menu, linked))
        menu.addSeparator()
        menu.addAction(menu_word(tr("Hang up on {name}", name=link.name)), self.hang_up_asked.emit)
        menu.popup(self.more.mapToGlobal(self.more.rect().bottomLeft()))

    def _shut(self) -> None:
        self._menu = None

    def _add_switches(self, menu: QMenu, linked: LinkedFigure, found: list[Any]) -> None:
        """Spaces and the like: the host changes them in its own way. They come a moment after the
        menu."""
        if menu is not self._menu:
            return  # it is shut already
        menu.addSection(menu_word(tr("{name} in its host", name=linked.figure.name)))
        for switch in found:
            options = menu.addMenu(menu_word(switch.label or switch.name))
            for option in switch.options:
                change = partial(linked.switch, switch.name, option)
                action = options.addAction(menu_word(option), change)
                action.setCheckable(True)
                action.setChecked(option == switch.now)
