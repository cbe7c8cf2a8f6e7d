"""What the host itself sees, small on the stage."""

from __future__ import annotations

import base64
import binascii
from typing import Any

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from fox_hand.base.language import tr
from fox_hand.session.app.linked_stage import LinkedStage
from fox_hand.session.link.host_link import HostLink
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.deferred_update import once_after

WIDE, TALL, CAPTION = 240, 180, 28
AGAIN = 2000  # milliseconds after one that did not come
REST = 400  # milliseconds after the last change; a picture costs the host time


class HostPicture(QWidget):
    """Asks for a new one when something changed there."""

    def __init__(self, theme: Theme, linking: LinkedStage, stage: QWidget) -> None:
        super().__init__(stage)
        self._theme, self._linking = theme, linking
        self.on, self._asking = False, False
        self.image = QImage()
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.resize(WIDE + 8, TALL + CAPTION + 4)
        self.caption = Words("", self)
        self.caption.setProperty("quiet", True)
        self.caption.move(8, TALL + 8)
        self.close_button = Button(
            theme, icon="x", kind=Kind.FLAT, height=24, icon_size=14, tip=tr("Close the picture")
        )
        self.close_button.setParent(self)
        self.close_button.clicked.connect(self.toggle)
        self.close_button.move(WIDE - 24, TALL + 6)
        self._soon = once_after(self, REST, self._ask)
        self._again = once_after(self, AGAIN, self._ask)
        self.hide()
        linking.shown_there.connect(self._changed)
        linking.changed.connect(self._on_link)

    def toggle(self) -> None:
        """Show or hide it."""
        self.on = not self.on
        self._on_link()
        if self.on:
            self._ask()

    def place(self, below: int, right: int) -> None:
        """At the right edge of the stage, below what lies at the upper one."""
        self.move(right - self.width(), below)
        self.raise_()

    def _on_link(self) -> None:
        link = self._linking.link
        there = self.on and link is not None and self._linking.stands
        if link is not None:
            self.caption.setText(tr("Seen by {name}", name=link.name))
            self.caption.adjustSize()
        if there is self.isHidden():
            self.setVisible(there)
            self.raise_()

    def _changed(self) -> None:
        if self.on:
            self._soon.start()

    def _ask(self) -> None:
        link = self._linking.link
        if link is None or not link.there or self._asking:
            return
        self._asking = True
        ratio = self.devicePixelRatioF()
        size = {"width": round(WIDE * ratio), "height": round(TALL * ratio)}

        def came(answer: dict[str, Any]) -> None:
            self._came(link, answer)

        link.ask("picture", size, came, self._failed)

    def _came(self, link: HostLink, answer: dict[str, Any]) -> None:
        self._asking = False
        if link is not self._linking.link:
            return
        try:
            data = base64.b64decode(str(answer.get("png", "")), validate=True)
        except binascii.Error:
            return
        image = QImage()
        image.loadFromData(data)
        self.image = image
        self.update()

    def _failed(self, error: Exception) -> None:
        del error  # the one before stays
        self._asking = False
        if self.on:
            self._again.start()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        place = QRectF(4, 4, WIDE, TALL)
        painter.fillRect(place, self._theme.colour("field"))
        if not self.image.isNull():
            painter.drawImage(place, self.image)
