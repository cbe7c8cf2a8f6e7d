"""Everything a person can choose, on pages; taken at once, and back with undo while it is open."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QStackedWidget, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.session.libraries.known_names import known_authors
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.preferences.preferences import Preferences
from fox_hand.ui.screens.preferences.keys_page import KeysPage
from fox_hand.ui.screens.preferences.libraries_page import LibrariesPage
from fox_hand.ui.screens.preferences.page import PreferencePage
from fox_hand.ui.screens.preferences.simple_pages import LookPage, ShotsPage, StagePage, YouPage
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.fields.completing import Completing, clearable
from fox_hand.ui.widgets.painted_list import PaintedList, PaintedRow
from fox_hand.ui.widgets.screen_parts import (
    back_to_stage,
    screen_panel,
    screen_top,
    undo_and_redo,
)
from fox_hand.ui.widgets.sign import SearchSign

LEFT, ROW, PITCH = 208, 36, 40
MIDDLE = Qt.AlignmentFlag.AlignVCenter


@dataclass(frozen=True)
class PageEntry:
    """A page as the list shows it.

    Args:
        name, icon: what it is called, and its sign.
        page: itself.
        value: a few words on what is chosen there.
    """

    name: str
    icon: str
    page: QWidget
    value: Callable[[], str]


class PageList(PaintedList):
    """The pages; what is chosen there stands at the right."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(tr("Pages of the preferences"))
        self._theme = theme
        self._entries: list[PageEntry] = []
        self.setFixedWidth(LEFT)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_entries(self, entries: list[PageEntry]) -> None:
        """All of them."""
        self._entries = entries
        said = [PaintedRow(f"{e.name}: {e.value()}".rstrip(": "), PITCH) for e in entries]
        self.show_painted(said, max(self.row, 0))

    def paint_row(self, painter: QPainter, row: int) -> None:
        theme, entry, wide = self._theme, self._entries[row], self.viewport().width()
        if row in (self.row, self.over):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("high" if row == self.row else "raised"))
            painter.drawRoundedRect(QRectF(0, 2, wide, ROW), 6, 6)
        ratio = self.devicePixelRatioF()
        painter.drawPixmap(12, 12, theme.pixmap(entry.icon, 16, "text", ratio))
        painter.setFont(theme.font(12, 600))
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(36, 0, wide - 44, PITCH), MIDDLE, entry.name)
        left = 44 + painter.fontMetrics().horizontalAdvance(entry.name)
        painter.setFont(theme.font(11))
        painter.setPen(theme.colour("text" if row == self.row else "quiet"))
        room = QRectF(left, 0, wide - left - 12, PITCH)
        text = painter.fontMetrics().elidedText(
            entry.value(), Qt.TextElideMode.ElideRight, round(room.width())
        )
        painter.drawText(room, MIDDLE | Qt.AlignmentFlag.AlignRight, text)


class PreferencesScreen(QWidget):
    """The pages beside their list."""

    closed = Signal()
    told = Signal(str)
    failed = Signal(object)

    def __init__(
        self, theme: Theme, preferences: Preferences, open_libraries: OpenLibraries, where: str
    ) -> None:
        super().__init__()
        self._preferences, self._libraries = preferences, open_libraries
        self.back_button = back_to_stage(theme)
        self.undo_button, self.redo_button = undo_and_redo(theme)
        self.you = YouPage(theme, preferences)
        Completing(self.you.author, lambda: known_authors(open_libraries.places))
        self.libraries = LibrariesPage(theme, preferences, open_libraries)
        self.look = LookPage(theme, preferences)
        self.stage = StagePage(theme, preferences)
        self.shots = ShotsPage(theme, preferences)
        self.keys = KeysPage(theme, preferences)
        self.entries = [
            PageEntry(tr("You and your cards"), "user", self.you, lambda: preferences["author"]),
            PageEntry(
                tr("Libraries"),
                "library-big",
                self.libraries,
                lambda: f"{len(open_libraries.places)}",
            ),
            PageEntry(tr("Look"), "palette", self.look, self._look_words),
            PageEntry(tr("Stage and work"), "move-3d", self.stage, lambda: ""),
            PageEntry(tr("Shots"), "clapperboard", self.shots, self._rate_words),
            PageEntry(tr("Keys"), "keyboard", self.keys, self._key_words),
        ]
        self.list = PageList(theme)
        self.stack = QStackedWidget()
        for entry in self.entries:
            self.stack.addWidget(entry.page)
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Find a setting"))
        self.search.setAccessibleName(tr("Find a setting"))
        self.search.setFixedSize(LEFT, 28)
        clearable(self.search)
        SearchSign(self.search, theme)
        self._arrange(where)
        self._connect()

    def _rate_words(self) -> str:
        return tr("{preferences:g} fps", preferences=self._preferences["new_rate"])

    def _look_words(self) -> str:
        theme = {"dusk": tr("Dusk"), "paper": tr("Paper"), "desktop": tr("as the desktop")}
        return f"{theme[self._preferences['theme']]}, {self._preferences['interface']} %"

    def _key_words(self) -> str:
        changed = len(self._preferences["keys"])
        return tr("{changed} changed", changed=changed) if changed else ""

    def _arrange(self, where: str) -> None:
        place, said = Words(where), Words(tr("kept at once, for you on this machine"))
        for quiet in (place, said):
            quiet.setProperty("quiet", True)
        top = screen_top(
            self.back_button, tr("Preferences"), said, self.undo_button, self.redo_button, place
        )
        below = Words(tr("Everything here can be undone with Ctrl+Z while this screen is open."))
        below.setProperty("quiet", True)
        below.setWordWrap(True)
        below.setFixedWidth(LEFT)
        self.list.setFixedHeight(len(self.entries) * PITCH + 2)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self.list)
        left.addWidget(self.search)
        left.addStretch(1)
        left.addWidget(below)
        panel = screen_panel()
        inside = QVBoxLayout(panel)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(self.stack)
        body = QHBoxLayout()
        body.setContentsMargins(12, 8, 12, 12)
        body.setSpacing(12)
        body.addLayout(left)
        body.addWidget(panel, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(top)
        column.addLayout(body, 1)

    def _connect(self) -> None:
        self.back_button.clicked.connect(self.closed)
        self.list.walked.connect(self.show_page)
        self.search.textChanged.connect(self._find)
        self.undo_button.clicked.connect(self._preferences.history.undo)
        self.redo_button.clicked.connect(self._preferences.history.redo)
        self._preferences.history.changed.connect(self._show_steps)
        self._preferences.changed.connect(self._show_list)
        self._libraries.changed.connect(self._show_list)
        for entry in self.entries:
            if isinstance(entry.page, PreferencePage):
                entry.page.failed.connect(self.failed)
                entry.page.told.connect(self.told)
        self.keys.told.connect(self.told)

    def _show_list(self, _name: str = "") -> None:
        if self.isVisible():
            self.list.show_entries(self.entries)

    def _show_steps(self) -> None:
        history = self._preferences.history
        self.undo_button.setEnabled(history.undo_label is not None)
        self.redo_button.setEnabled(history.redo_label is not None)

    # -- opening --------------------------------------------------------------------------

    def begin(self, page: str = "") -> None:
        """Open it, at a page or where it was left."""
        self._preferences.begin()
        self.list.show_entries(self.entries)
        names = [entry.name for entry in self.entries]
        self.show_page(names.index(page) if page in names else max(self.list.row, 0))
        self.list.setFocus(Qt.FocusReason.OtherFocusReason)

    def show_page(self, number: int) -> None:
        """One of the pages."""
        page = self.entries[number].page
        self.stack.setCurrentWidget(page)
        if self.list.row != number:
            self.list.go_to(number, quietly=True)
        if isinstance(page, PreferencePage | KeysPage):
            page.refresh()

    def _find(self, text: str) -> None:
        """The first page with a row of these words, and the row in sight."""
        wanted = text.strip().lower()
        if not wanted:
            return
        for number, entry in enumerate(self.entries):
            row = entry.page.row_of(wanted) if isinstance(entry.page, PreferencePage) else None
            if row is not None or wanted in entry.name.lower():
                self.show_page(number)
                return
        self.told.emit(
            tr("No setting is called {text}; single keys are found on Keys.", text=text.strip())
        )
