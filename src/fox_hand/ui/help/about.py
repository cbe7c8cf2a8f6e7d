"""Help > About: versions, licences, and the details to copy for whoever helps."""

from __future__ import annotations

from collections.abc import Callable
from importlib import resources

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.language import tr
from fox_hand.base.system.details import facts, licences
from fox_hand.ui.services.support import Support
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Segments

OWN = tr(
    "Fox Hand is free software under the Apache License 2.0.\n"
    "The demo (The Night Ferry) is made up, and its characters were built for it; same licence.\n\n"
    "Type family: Atkinson Hyperlegible Next, SIL Open Font License 1.1 (below).\n"
    "Icons: Lucide, ISC (below).\n"
)
PAGES = (("log", tr("Log")), ("licences", tr("Licences")))


class AboutSheet(QDialog):
    """Two pages: what runs here with the end of the log, and what it is made of.

    Args:
        theme, parent: the window's.
        support: facts of this machine, and where the log lies.
        copy: puts the details on the clipboard.
    """

    def __init__(
        self, theme: Theme, parent: QWidget, support: Support, copy: Callable[[], None]
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("About Fox Hand"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._support = support
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        for row, (key, value) in enumerate(facts(support.more()).items()):
            name = Words(key)
            name.setProperty("quiet", True)
            said = Words(value)
            said.setWordWrap(True)
            said.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            grid.addWidget(name, row, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(said, row, 1)
        self.pages = Segments(theme, PAGES, tr("Page"))
        self.pages.chosen.connect(self._show_page)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.copied = Button(theme, tr("Copy details"), kind=Kind.MAIN)
        self.copied.clicked.connect(copy)
        self.folder = Button(theme, tr("Open the log's folder"), kind=Kind.PLAIN)
        self.folder.setEnabled(support.files is not None)
        self.folder.clicked.connect(self._open_folder)
        close = Button(theme, tr("Close"), kind=Kind.PLAIN, key="Esc")
        close.clicked.connect(self.accept)
        foot = QHBoxLayout()
        foot.setSpacing(8)
        foot.addWidget(self.folder)
        foot.addStretch(1)
        foot.addWidget(close)
        foot.addWidget(self.copied)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 16)
        column.setSpacing(12)
        column.addLayout(grid)
        column.addWidget(self.pages, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.text, 1)
        column.addLayout(foot)
        room = parent.size()
        self.resize(min(680, room.width() - 32), min(560, room.height() - 32))
        self._show_page("log")

    def _show_page(self, page: str) -> None:
        self.text.setAccessibleName(dict(PAGES)[page])
        self.text.setPlainText(self._support.tail() if page == "log" else _licence_text())

    def _open_folder(self) -> None:
        files = self._support.files
        if files is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(files.log.parent)))


def copy_text(text: str) -> None:
    """Put a text on the clipboard."""
    QApplication.clipboard().setText(text)


def _licence_text() -> str:
    packages = "\n".join(f"  {name} {number}: {licence}" for name, number, licence in licences())
    parts = [OWN, tr("Packages it uses:"), packages]
    for folder, name in (("fox_hand.base.fonts", "OFL.txt"), ("fox_hand.ui.icons", "LICENSE.txt")):
        text = resources.files(folder).joinpath(name).read_text("utf-8")
        parts += ["", "-" * 60, text]
    return "\n".join(parts)
