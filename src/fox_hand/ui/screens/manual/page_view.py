"""A page of the manual: Markdown with pictures that fit, in the colours that are worn."""

from __future__ import annotations

import re
from pathlib import Path
from urllib.parse import unquote

from PySide6.QtCore import Qt, QTimer, QUrl, Signal
from PySide6.QtGui import QImage, QResizeEvent, QTextCursor, QTextDocument
from PySide6.QtWidgets import QTextBrowser

from fox_hand.base.language import tr
from fox_hand.base.manual import ManualPage
from fox_hand.ui.services.picture_files import decoded
from fox_hand.ui.theme.style import manual_sheet
from fox_hand.ui.theme.theme import Theme

SPARE, WIDEST = 64, 900  # pixels: beside a picture, and of lines that can be read


class PageView(QTextBrowser):
    """Links to other pages are announced; links out of the manual are left alone."""

    asked = Signal(str)  # the name of another page

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._page: ManualPage | None = None
        self._images: dict[Path, QImage] = {}
        self._words = ""
        self.setMaximumWidth(WIDEST)
        self.setOpenLinks(False)
        self.setFrameShape(QTextBrowser.Shape.NoFrame)
        self.setAccessibleName(tr("Page of the manual"))
        self.anchorClicked.connect(self._follow)
        theme.changed.connect(self._again)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(120)
        self._soon.timeout.connect(self._again)

    def show_page(self, page: ManualPage, words: str = "") -> None:
        """Another page, from its beginning or from where it says some words."""
        self._page, self._words = page, words
        self._again()
        self.verticalScrollBar().setValue(0)
        if words:
            self.moveCursor(QTextCursor.MoveOperation.Start)
            self.find(words.split(maxsplit=1)[0])

    def _again(self) -> None:
        if self._page is None:
            return
        at = self.verticalScrollBar().value()
        document = self.document()
        document.setDefaultStyleSheet(manual_sheet(self._theme.tokens))
        document.setDefaultFont(self._theme.font(13))
        document.setDocumentMargin(20)
        # Markdown takes no style sheet; by way of HTML it does
        plain = QTextDocument()
        plain.setDefaultFont(self._theme.font(13))
        plain.setMarkdown(self._page.text)
        self.setHtml(without_sizes(plain.toHtml()))
        self.verticalScrollBar().setValue(at)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._soon.start()

    def loadResource(self, kind: int, name: QUrl | str) -> object:
        """Pictures beside the page, as wide as there is room; nothing from anywhere else."""
        text = name.toString() if isinstance(name, QUrl) else name
        if (
            self._page is None
            or "://" in text
            or kind != QTextDocument.ResourceType.ImageResource.value
        ):
            return None
        path = (self._page.folder / unquote(text)).resolve()
        if not path.is_relative_to(self._page.folder.parent.resolve()) or not path.is_file():
            return None
        if path not in self._images:
            self._images[path] = decoded(path.read_bytes())
        image, room = self._images[path], max(self.viewport().width() - SPARE - 8, 80)
        if image.width() <= room:
            return image
        return image.scaledToWidth(room, Qt.TransformationMode.SmoothTransformation)

    def _follow(self, url: QUrl) -> None:
        name = Path(url.path()).stem
        if not url.scheme() and url.path().endswith(".md"):
            self.asked.emit(name)


def without_sizes(html: str) -> str:
    """What the toolkit wrote, without the sizes and distances it puts in; those are the theme's."""
    return re.sub(r"font-size:(xx-|x-)?large;|margin-(top|bottom):\d+px;", "", html)
