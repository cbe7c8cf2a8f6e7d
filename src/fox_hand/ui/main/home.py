"""What the menus need of the window."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Sequence

from PySide6.QtWidgets import QMainWindow

from fox_hand.library.format.entry import Entry
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.request import Shown
from fox_hand.ui.browser.sheets_panel import SheetsPanel
from fox_hand.ui.help.help import Help
from fox_hand.ui.main.header import Header
from fox_hand.ui.main.opening import Opener
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.theme import Theme


class Home(QMainWindow):
    """The window, as its menus know it."""

    theme: Theme
    workspace: Workspace
    opener: Opener
    stage: Stage
    sheets: SheetsPanel
    header: Header
    help: Help

    @abstractmethod
    def put_on(self, entry: Entry) -> None: ...

    @abstractmethod
    def take_clip(self, entry: Entry, *, alone: bool) -> None: ...

    @abstractmethod
    def show_fit(self, entry: Entry) -> None: ...

    @abstractmethod
    def show_compare(self, first: Entry, second: Entry | None = None) -> None: ...

    @abstractmethod
    def show_alike(self, entry: Entry | None = None) -> None: ...

    @abstractmethod
    def select_card(self, entry: Entry) -> None: ...

    @abstractmethod
    def store_over(self, entry: Entry) -> None: ...

    @abstractmethod
    def retake(self, entry: Entry) -> None: ...

    @abstractmethod
    def mirror_cards(self, entries: Sequence[Entry], *, both: bool) -> None: ...

    @abstractmethod
    def show_versions(self, entry: Entry) -> None: ...

    @abstractmethod
    def show_care(self, place: OpenLibrary | None = None, entry: Entry | None = None) -> None: ...

    @abstractmethod
    def show_pairs(self) -> None: ...

    @abstractmethod
    def set_target(self, place: OpenLibrary) -> None: ...

    @abstractmethod
    def forget_library(self, place: OpenLibrary) -> None: ...

    @abstractmethod
    def remove_sheet(self, shown: Shown) -> None: ...
