"""Help for people: the sheet of keys, About, and what to do after a fault."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr
from fox_hand.base.system.log import talkative
from fox_hand.session.runtime.ports import Pictures
from fox_hand.ui.help.about import AboutSheet, copy_text
from fox_hand.ui.services.support import Support
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.notice import Notice


class Help(QObject):
    """Opens the sheets, and offers a way on beside messages about faults.

    Args:
        window, theme, notice: the window's.
        support: facts of this machine and the log.
        pictures: draws; may be asked to try again.
        redraw: draws the stage again.
    """

    def __init__(
        self,
        window: QWidget,
        theme: Theme,
        notice: Notice,
        support: Support,
        pictures: Pictures,
        redraw: Callable[[], None],
    ) -> None:
        super().__init__(window)
        self._window, self._theme, self._notice = window, theme, notice
        self._support, self._pictures, self._redraw = support, pictures, redraw
        notice.offer("render.gave_up", tr("Try again"), self._draw_again)
        for code in ("", "render.failed", "render.no_start"):  # the first is for what has no code
            notice.offer(code, tr("Copy details"), self.copy)

    def show_about(self) -> None:
        """Versions, licences, details."""
        AboutSheet(self._theme, self._window, self._support, self.copy).open()

    def copy(self) -> None:
        """The details go onto the clipboard."""
        copy_text(self._support.text())
        named = (
            tr("They may name files of yours.")
            if talkative()
            else tr("They name no files of yours.")
        )
        self._notice.tell(tr("The details are copied. {named}", named=named))

    def _draw_again(self) -> None:
        self._pictures.try_again()
        self._notice.hide()
        self._redraw()
