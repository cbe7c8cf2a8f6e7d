"""What a person does with sheets and libraries."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

from fox_hand.base.language import tr
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.catalogue import lies_in
from fox_hand.library.store import moves, sheet_moves
from fox_hand.library.store.moves import Done
from fox_hand.library.store.sheets import Habit, read_sheet, sheet_path
from fox_hand.session.libraries.card_commands import what
from fox_hand.session.libraries.file_jobs import FileJobs, Outcome, Task
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary

Then = Callable[[Outcome], None]


class SheetCommands:
    """Every method is one undo step; what does not work is told.

    Args:
        open_libraries: the libraries.
        file_jobs: works through the files.
    """

    def __init__(self, open_libraries: OpenLibraries, file_jobs: FileJobs) -> None:
        self._open_libraries, self._file_jobs = open_libraries, file_jobs

    def make_sheet(self, place: OpenLibrary, sheet: str, then: Then | None = None) -> None:
        self._sheet(
            place,
            tr("New sheet {sheet}", sheet=sheet),
            sheet_moves.make,
            sheet_path(sheet),
            then=then,
        )

    def move_sheet(self, place: OpenLibrary, sheet: str, to: str) -> None:
        """Another name or place; with ``/`` it becomes part of another sheet."""
        self._sheet(
            place, tr("Rename {last}", last=_last(sheet)), sheet_moves.move, sheet, sheet_path(to)
        )

    def merge_sheet(self, place: OpenLibrary, sheet: str, into: str) -> None:
        self._sheet(place, tr("Merge {last}", last=_last(sheet)), sheet_moves.merge, sheet, into)

    def colour_sheet(self, place: OpenLibrary, sheet: str, value: str) -> None:
        self._sheet(
            place, tr("Colour of {last}", last=_last(sheet)), sheet_moves.colour, sheet, value
        )

    def set_chart(self, place: OpenLibrary, sheet: str, chart: str) -> None:
        """Show a sheet in the order of a chart; empty for as all are shown."""
        if place.library is not None:
            content = replace(read_sheet(place.library, sheet), chart=chart)
            label = tr("Chart of {last}", last=_last(sheet))
            self._sheet(place, label, sheet_moves.describe, sheet, content)

    def set_habit(self, place: OpenLibrary, sheet: str, habit: Habit | None) -> None:
        """How cards of a sheet are taken from now on."""
        if place.library is not None:
            content = replace(read_sheet(place.library, sheet), habit=habit)
            label = tr("Habit of {last}", last=_last(sheet))
            self._sheet(place, label, sheet_moves.describe, sheet, content)

    def set_neutral(self, place: OpenLibrary, sheet: str, identity: str) -> None:
        """The card that the others of a sheet start from; empty for rest."""
        if place.library is not None:
            content = replace(read_sheet(place.library, sheet), neutral=identity)
            label = tr("Neutral card of {last}", last=_last(sheet))
            self._sheet(place, label, sheet_moves.describe, sheet, content)

    def order_sheets(self, place: OpenLibrary, sheets: tuple[str, ...]) -> None:
        self._sheet(place, tr("Order of the sheets"), sheet_moves.order, sheets)

    def rename_library(self, place: OpenLibrary, name: str) -> None:
        self._sheet(place, tr("Rename {name}", name=place.name), sheet_moves.rename_library, name)

    def set_approvers(self, place: OpenLibrary, names: tuple[str, ...]) -> None:
        """Who may approve and unlock the cards of a library; empty for everybody."""
        self._sheet(
            place, tr("Who approves in {name}", name=place.name), sheet_moves.set_approvers, names
        )

    def remove_sheet(self, place: OpenLibrary, sheet: str) -> None:
        """Take a sheet away with all sheets in it; their cards go into the library's keep."""
        library = place.library
        if library is None:
            return
        tasks: list[tuple[str, Task]] = [
            (e.name, partial(moves.take_out, library, e.path)) for e in self._within(place, sheet)
        ]
        tasks.append((sheet, partial(sheet_moves.remove_all, library, sheet)))
        self._file_jobs.do(tr("Remove {last}", last=_last(sheet)), tasks)

    def copy_sheet(self, place: OpenLibrary, sheet: str, to: OpenLibrary, into: str) -> None:
        """A sheet with all it holds, as copies in a sheet of this or another library."""
        library, source = to.library, place.library
        if library is None or source is None:
            return
        own = place is to
        target = sheet_path(into, _last(sheet))
        while target in to.sheets or (own and lies_in(target, sheet)):
            target += tr(" copy")
        tasks: list[tuple[str, Task]] = []
        for inner in (s for s in place.sheets if lies_in(s, sheet)):
            there = target + inner[len(sheet) :]
            content = replace(read_sheet(source, inner), cards=(), neutral="")
            tasks.append((there, partial(sheet_moves.make, library, there, content)))
        for entry in self._within(place, sheet):
            there = target + entry.sheet[len(sheet) :]
            tasks.append((entry.name, partial(moves.copy, library, entry.path, there, own=own)))
        self._file_jobs.do(tr("Copy {last}", last=_last(sheet)), tasks)

    def _within(self, place: OpenLibrary, sheet: str) -> list[Entry]:
        """All cards of a sheet and of those in it."""
        return self._open_libraries.entries_of(self._open_libraries.keys_in(place, sheet))

    def arrange(
        self, place: OpenLibrary, sheet: str, shown: Sequence[int], moved: Sequence[int]
    ) -> None:
        """Remember an order of a sheet's cards that somebody made by hand.

        Args:
            shown: keys of the sheet's cards in their new order.
            moved: keys of those that were dragged, for the step's name.
        """
        library = place.library
        if library is None:
            return
        self._open_libraries.fetch(list(shown))
        entries = [e for e in map(self._open_libraries.entry, shown) if e is not None]
        cards = tuple(e.identity for e in entries if e.identity)
        content = replace(read_sheet(library, sheet), cards=cards)
        names = [e for e in map(self._open_libraries.entry, moved) if e is not None]
        task = partial(sheet_moves.describe, library, sheet, content)
        self._file_jobs.do(tr("Order {what}", what=what(names)), [(sheet, task)])

    def _sheet(
        self,
        place: OpenLibrary,
        label: str,
        work: Callable[..., Done],
        *values: object,
        then: Then | None = None,
    ) -> None:
        if place.library is not None:
            task = partial(work, place.library, *values)
            self._file_jobs.do(label, [(label, task)], then)


def _last(sheet: str) -> str:
    return sheet.rpartition("/")[2]
