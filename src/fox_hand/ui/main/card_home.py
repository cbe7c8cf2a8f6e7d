"""The part of the window that has to do with cards and libraries."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSplitter, QStackedWidget

from fox_hand.base.work import Progress
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.request import Shown
from fox_hand.ui.apply.apply_controller import ApplyController
from fox_hand.ui.apply.mix_bar import MixBar
from fox_hand.ui.capture.capture_controller import CaptureController
from fox_hand.ui.main.home import Home
from fox_hand.ui.screens.care.care_screen import CareScreen
from fox_hand.ui.services.services import Services
from fox_hand.ui.widgets.notice import Notice


class CardHome(Home):
    """Puts cards on, brings what was stored into sight, opens the Care screen."""

    notice: Notice
    mix_bar: MixBar
    capturing: CaptureController
    care: CareScreen
    body: QStackedWidget
    outer: QSplitter
    _services: Services
    putting: ApplyController
    _reveal: Path | None = None

    def put_on(self, entry: Entry) -> None:
        self.putting.put_on(entry)

    def store_mix(self) -> None:
        """Keep what is being put on, and capture exactly what it touches."""
        mix = self.workspace.mix
        if mix is None:
            return
        rows = sorted(mix.rows)
        self.workspace.keep_mix()
        self.workspace.selection.set(rows)
        self.begin_capture()

    @abstractmethod
    def begin_capture(self) -> None: ...

    def reveal_later(self, path: Path) -> None:
        self._reveal = path

    def reveal_now(self) -> None:
        """A card that was just written comes into sight once the sheets know it."""
        path = self._reveal
        if path is None:
            return
        entry = self.workspace.shelf.entry_at(path)
        if entry is None:
            return
        self._reveal = None
        if not self.sheets.view.reveal(entry):  # hidden by a filter or the search
            self.header.search_field.clear()
            self.sheets.show_all()
            self.sheets.view.reveal(entry)

    def select_card(self, entry: Entry) -> None:
        """Select what a card holds."""
        actor = self.workspace.actor
        if actor is None:
            return
        names = self.workspace.shelf.place_of(entry).controls_of(entry.shape)
        rows = [actor.rig.control_row[n] for n in names if n in actor.rig.control_row]
        self.workspace.selection.set(rows)

    def store_over(self, entry: Entry) -> None:
        """Begin a capture that replaces a card, of what that card holds."""
        if self.workspace.mix is None and not self.workspace.selection.rows:
            self.select_card(entry)
        self.workspace.begin_capture(entry)

    def retake(self, entry: Entry) -> None:
        """Take only the picture of a card again."""

        def work(progress: Progress) -> Card:
            progress.step(0.0)
            return read_card(entry.path)[0]

        def done(card: Card) -> None:
            self.workspace.begin_retake(entry, card)

        self._services.jobs.run(work, done, self.notice.tell_error)

    def mirror_cards(self, entries: Sequence[Entry], *, both: bool) -> None:
        self.capturing.mirror(entries, both=both)

    def set_target(self, place: OpenLibrary) -> None:
        """Where new cards go."""
        self.workspace.shelf.target_number = place.number
        self.workspace.settings.target = str(place.folder)

    def forget_library(self, place: OpenLibrary) -> None:
        """Take a library off the shelf; its files stay."""
        libraries = self.workspace.settings.libraries
        self.workspace.settings.libraries = [p for p in libraries if p != str(place.folder)]
        if self.sheets.request.only == place.number:
            self.sheets.set_library(None)
        self.workspace.shelf.forget(place)
        self.notice.tell(f"{place.name} is not open any more. Its files are as they were.")

    def remove_sheet(self, shown: Shown) -> None:
        """Take a sheet away; its cards go into the keep."""
        assert shown.sheet
        whole = self.workspace.shelf.keys_in(shown.place, shown.sheet)
        self.workspace.card_commands.remove_sheet(shown.place, shown.sheet, whole)

    def show_care(self, place: OpenLibrary | None = None, entry: Entry | None = None) -> None:
        """Look after a library; with a card, show its earlier versions."""
        self.workspace.keep_mix()
        self.workspace.cancel_capture()
        self.body.setCurrentWidget(self.care)
        self.care.begin(place, entry)

    def show_versions(self, entry: Entry) -> None:
        self.show_care(self.workspace.shelf.place_of(entry), entry)

    def close_care(self) -> None:
        self.body.setCurrentWidget(self.outer)
        self.stage.setFocus(Qt.FocusReason.OtherFocusReason)

    def show_cards(self, entries: Sequence[Entry]) -> None:
        """Back to the sheets, with some cards ticked and in sight."""
        self.close_care()
        self.sheets.show_all()
        view = self.sheets.view
        view.set_ticked([k for k in map(view.key_of, entries) if k is not None])
        view.reveal(entries[0])

    def peek_version(self, entry: Entry, version: Entry) -> None:
        """Put an earlier version on the figure."""
        self.close_care()
        self.put_on(replace(version, sheet=entry.sheet))
