"""What is done from the outline: sheets made, moved and removed, searches kept."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QPoint
from PySide6.QtWidgets import QInputDialog

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.session.libraries.kept_searches import Kept
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.ui.main.home import Home
from fox_hand.ui.main.library.sheet_menu import ask_move, ask_sheet, put_before, sheet_menu
from fox_hand.ui.outline.keep_popup import KeepPopup
from fox_hand.ui.outline.outline_rows import OutlineRow, RowKind, Spot
from fox_hand.ui.widgets.passing_menu import passing_menu

NOTHING = tr("Nothing is looked for. Type a search or choose facets first, then keep it.")


class OutlineWork(QObject):
    """Connects the outline's signals with what they mean."""

    def __init__(self, home: Home) -> None:
        super().__init__(home.window)
        self._home = home
        rows, drop = home.sheets.outline.list, home.sheets.outline.drop
        rows.keep_asked.connect(self.ask_keep)
        rows.sheet_asked.connect(self.ask_sheet)
        rows.menu_asked.connect(self.show_menu)
        rows.rename_asked.connect(self.rename)
        rows.remove_asked.connect(self.remove)
        drop.cards_dropped.connect(self.drop_cards)
        drop.files_dropped.connect(self.drop_files)
        drop.sheet_dropped.connect(self.drop_sheet)

    # -- searches -------------------------------------------------------------------------

    def ask_keep(self) -> None:
        """Keep what the search field and the facets say now."""
        home, request = self._home, self._home.sheets.request
        text = request.text.strip()
        if len(request.within) == 1 and request.within[0][1]:
            name = request.within[0][1].replace('"', "")
            text = tr('{text} sheet:"{name}"', text=text, name=name).strip()
        if not text:
            home.overlays.notice.tell(NOTHING)
            return
        places = [p for p in home.workspace.open_libraries.places if p.ready and p.writable]
        popup = KeepPopup(home.theme, home.window, text, places)
        popup.done.connect(lambda name, place: self._keep(name, text, place))
        popup.open_above(home.sheets.foot)

    def _keep(self, name: str, text: str, place: OpenLibrary | None) -> None:
        try:
            self._home.workspace.kept_searches.keep(name, text, place)
        except FoxHandError as error:
            self._home.overlays.notice.tell_error(error)

    def _change(self, kept: Kept, name: str, text: str) -> None:
        try:
            self._home.workspace.kept_searches.change(kept, name, text)
        except FoxHandError as error:
            self._home.overlays.notice.tell_error(error)

    def _search_menu(self, kept: Kept, at: QPoint) -> None:
        home, menu = self._home, passing_menu(self._home.window)
        able = kept.place is None or (kept.place.ready and kept.place.writable)
        now = home.sheets.request.text.strip()
        menu.addAction(tr("Rename …\tF2"), partial(self._ask_name, kept)).setEnabled(able)
        change = menu.addAction(
            tr("Look for what is searched now"), partial(self._change, kept, kept.name, now)
        )
        change.setEnabled(able and bool(now) and now != kept.text)
        forget = partial(home.workspace.kept_searches.remove, kept)
        menu.addAction(tr("Forget it\tDel"), forget).setEnabled(able)
        menu.popup(at)

    def _ask_name(self, kept: Kept) -> None:
        name, given = QInputDialog.getText(
            self._home.window, tr("Rename"), tr("Name of the search"), text=kept.name
        )
        if given and name.strip() and name.strip() != kept.name:
            self._change(kept, name.strip(), kept.text)

    # -- rows -----------------------------------------------------------------------------

    def ask_sheet(self) -> None:
        """A new sheet: in the one that is shown alone, else in the library new cards go to."""
        home, within = self._home, self._home.sheets.request.within
        open_libraries = home.workspace.open_libraries
        place = open_libraries.place(within[0][0]) if len(within) == 1 else open_libraries.target
        above = within[0][1] if len(within) == 1 else ""
        if place is None or not (place.ready and place.writable):
            home.overlays.notice.tell(tr("No library that is open can be written by you now."))
        else:
            ask_sheet(home, place, above)

    def show_menu(self, row: OutlineRow, at: QPoint) -> None:
        """What can be done with a row."""
        if row.kept is not None:
            self._search_menu(row.kept, at)
        elif row.place is not None and row.node is not None:
            sheet_menu(self._home, row.place, row.node.path, at)

    def rename(self, row: OutlineRow) -> None:
        """Another name for a search or a sheet."""
        if row.kept is not None:
            if row.kept.place is None or row.kept.place.writable:
                self._ask_name(row.kept)
        elif self._able(row) and row.place is not None and row.node is not None:
            ask_move(self._home, row.place, row.node.path)

    def remove(self, row: OutlineRow) -> None:
        """Forget a search; take a sheet away with all it holds."""
        home = self._home
        if row.kept is not None:
            home.workspace.kept_searches.remove(row.kept)
        elif self._able(row) and row.place is not None and row.node is not None:
            home.workspace.sheet_commands.remove_sheet(row.place, row.node.path)

    def _able(self, row: OutlineRow) -> bool:
        place, node = row.place, row.node
        if place is None or node is None or not node.path or row.kind is RowKind.LIBRARY:
            return False
        if not (place.ready and place.writable):
            self._home.overlays.notice.tell(
                tr("{name} cannot be written by you now.", name=place.name)
            )
            return False
        return True

    # -- dropping -------------------------------------------------------------------------

    def drop_cards(self, keys: Sequence[int], row: OutlineRow, copies: bool) -> None:
        """Cards of this window were dropped on a sheet."""
        home = self._home
        if row.place is None or row.node is None:
            return
        place, sheet = row.place, row.node.path
        open_libraries = home.workspace.open_libraries
        entries = [
            e
            for e in open_libraries.entries_of(keys)
            if copies or (open_libraries.place_of(e), e.sheet) != (place, sheet)
        ]
        if entries:
            home.sheets.view.choice.set_ticked(())
            home.workspace.card_commands.put_in(entries, place, sheet, copies=copies)

    def drop_files(self, files: Sequence[Path], row: OutlineRow) -> None:
        """Card files from elsewhere were dropped on a sheet."""
        if row.place is not None and row.node is not None:
            self._home.workspace.card_commands.bring_in(files, row.place, row.node.path)

    def drop_sheet(self, dragged: Spot, row: OutlineRow, before: bool, copies: bool) -> None:
        """A sheet was dropped on another: into it, before it, or as a copy."""
        home, (number, sheet) = self._home, dragged
        source = home.workspace.open_libraries.place(number)
        if source is None or row.place is None or row.node is None:
            return
        last, into = sheet.rpartition("/")[2], row.node.path
        if copies:
            home.workspace.sheet_commands.copy_sheet(source, sheet, row.place, into)
        elif before:
            put_before(home, source, sheet, into)
        else:
            to = f"{into}/{last}" if into else last
            home.workspace.sheet_commands.move_sheet(source, sheet, to)
