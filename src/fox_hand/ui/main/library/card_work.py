"""What is done with cards and sheets by hand, from the sheets to the files."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QObject

from fox_hand.session.libraries.request import Shown
from fox_hand.ui.main.home import Home
from fox_hand.ui.main.library.card_menu import approve, ask_name, ask_tags, card_menu
from fox_hand.ui.main.library.chart_work import ChartWork
from fox_hand.ui.main.library.library_menu import library_menu, order_menu
from fox_hand.ui.main.library.outline_work import OutlineWork
from fox_hand.ui.main.library.sheet_menu import put_before, sheet_menu


class CardWork(QObject):
    """Connects the sheets' signals with what they mean."""

    def __init__(self, home: Home) -> None:
        super().__init__(home.window)
        self._outline, self._charts = OutlineWork(home), ChartWork(home)
        self._home, self._view, self._card_commands = (
            home,
            home.sheets.view,
            home.workspace.card_commands,
        )
        sheets, view, bar = home.sheets, self._view, home.sheets.ticked
        sheets.menu_asked.connect(lambda entry, at: card_menu(home, entry, at))
        sheets.head.library_menu_asked.connect(lambda at: library_menu(home, at))
        sheets.head.order_menu_asked.connect(lambda at: order_menu(home, at))
        sheets.input.sheet_menu_asked.connect(
            lambda shown, at: sheet_menu(home, shown.place, shown.sheet or "", at)
        )
        sheets.input.take_out.connect(self.take_out)
        sheets.input.rename.connect(self._rename)
        sheets.input.duplicate.connect(lambda: self._card_commands.duplicate(view.chosen()))
        sheets.input.favourite.connect(self.favourite)
        sheets.drop.cards_dropped.connect(self.drop_cards)
        sheets.drop.files_dropped.connect(self.drop_files)
        sheets.drop.sheet_dropped.connect(self.drop_sheet)
        bar.tag.connect(lambda: ask_tags(home, [e for e in view.chosen() if e.readable]))
        bar.favourite.connect(self.favourite)
        bar.approve.connect(lambda: approve(home, [e for e in view.chosen() if e.readable]))
        bar.take_out.connect(self.take_out)
        bar.menu_asked.connect(lambda at: card_menu(home, view.chosen()[0], at))

    def take_out(self) -> None:
        """Everything that is ticked, else the current card."""
        entries = self._view.chosen()
        self._view.choice.set_ticked(())
        self._home.workspace.take_out(entries)

    def _rename(self) -> None:
        entry = self._view.current_entry()
        if entry is not None and entry.readable:
            ask_name(self._home, entry)

    def favourite(self) -> None:
        """All on, or where all are on already, all off."""
        entries = [e for e in self._view.chosen() if e.readable]
        personal = self._home.workspace.open_libraries.personal
        on = not all(personal.favourite(e.identity) for e in entries)
        self._card_commands.set_favourite(entries, on)

    def drop_cards(self, keys: Sequence[int], shown: Shown, gap: int, copies: bool) -> None:
        """Cards were dropped on a section: into another sheet, or to another place in their own."""
        open_libraries = self._home.workspace.open_libraries
        open_libraries.fetch(list(keys))
        entries = [e for e in map(open_libraries.entry, keys) if e is not None]
        if shown.sheet is None or not entries:
            return
        own = shown.keys.tolist()
        if gap >= 0 and not copies and set(keys) <= set(own):
            before = [k for k in own[:gap] if k not in keys]
            after = [k for k in own[gap:] if k not in keys]
            self._home.workspace.sheet_commands.arrange(
                shown.place, shown.sheet, [*before, *keys, *after], keys
            )
            return
        elsewhere = [
            e
            for e in entries
            if copies or (open_libraries.place_of(e), e.sheet) != (shown.place, shown.sheet)
        ]
        if elsewhere:
            self._card_commands.put_in(elsewhere, shown.place, shown.sheet, copies=copies)

    def drop_files(self, files: Sequence[Path], shown: Shown) -> None:
        """Card files from elsewhere were dropped on a section."""
        self._card_commands.bring_in(files, shown.place, shown.sheet or "")

    def drop_sheet(self, dragged: tuple[int, str], shown: Shown) -> None:
        """A heading was dropped on another: its sheet goes before that one."""
        place, (number, moved) = shown.place, dragged
        if number == place.number and shown.sheet and moved != shown.sheet:
            put_before(self._home, place, moved, shown.sheet)
