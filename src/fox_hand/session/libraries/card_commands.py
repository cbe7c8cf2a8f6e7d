"""What a person does with cards and sheets, on one or many at once."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.core.matching.name_match import Rules
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card, read_motion
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.thumb import Square, cropped
from fox_hand.library.store import moves, sheet_moves
from fox_hand.library.store.journal import written_down
from fox_hand.library.store.moves import Done
from fox_hand.library.store.sheets import Habit, read_sheet, sheet_path
from fox_hand.library.store.store import Library, now
from fox_hand.session.figures.figure import ChangeStep
from fox_hand.session.libraries.file_jobs import FileJobs, Outcome, Task
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.runtime.history import History

Then = Callable[[Outcome], None]
Pictures = Callable[[], tuple[bytes | None, ...]]


class CardCommands:
    """Every method is one undo step; what does not work is told, item by item.

    Args:
        shelf: the libraries.
        file_jobs: works through the files.
        history: where steps go that change no files.
    """

    def __init__(
        self, open_libraries: OpenLibraries, file_jobs: FileJobs, history: History
    ) -> None:
        self._open_libraries, self._file_jobs, self._history = open_libraries, file_jobs, history

    # -- cards ----------------------------------------------------------------------------

    def take_out(self, entries: Sequence[Entry]) -> None:
        """Into their libraries' keeps."""
        self._each(
            f"Take out {_what(entries)}",
            entries,
            lambda library, e: moves.take_out(library, e.path),
        )

    def put_in(
        self, entries: Sequence[Entry], place: OpenLibrary, sheet: str, *, copies: bool
    ) -> None:
        """Into a sheet: cards of the same library are moved, those of others copied.

        Args:
            copies: copy those of the same library too; copies are cards of their own.
        """
        library = place.library
        if library is None:
            return

        moving = [
            e.path for e in entries if not copies and self._open_libraries.place_of(e) is place
        ]
        together = contextlib.ExitStack()  # a list of them, in case the program is killed half-way

        def work(entry: Entry) -> Done:
            inside = self._open_libraries.place_of(entry) is place
            if inside and not copies:
                if len(moving) > 1 and entry.path == moving[0]:
                    together.enter_context(written_down(library, moving, sheet))
                return moves.move(self._writable(entry), entry.path, sheet)
            return moves.copy(library, entry.path, sheet, own=inside)

        name = sheet.rpartition("/")[2] or place.name
        label = f"{'Copy' if copies else 'Put'} {_what(entries)} into {name}"
        tasks = [(e.name, partial(work, e)) for e in entries]
        self._file_jobs.do(label, tasks, lambda _: together.close())

    def duplicate(self, entries: Sequence[Entry]) -> None:
        """A copy of its own beside each card."""
        self._each(
            f"Duplicate {_what(entries)}",
            entries,
            lambda library, entry: moves.copy(library, entry.path, entry.sheet),
        )

    def bring_in(
        self, files: Sequence[Path], place: OpenLibrary, sheet: str, then: Then | None = None
    ) -> None:
        """Copy card files from elsewhere into a sheet. One that is in an open library already
        becomes a card of its own."""
        library = place.library
        if library is None:
            return
        inside = [p.folder for p in self._open_libraries.places]
        tasks: list[tuple[str, Task]] = [
            (
                path.stem,
                partial(
                    moves.copy,
                    library,
                    path,
                    sheet,
                    own=any(path.is_relative_to(folder) for folder in inside),
                ),
            )
            for path in files
        ]
        what = files[0].stem if len(files) == 1 else f"{len(files)} cards"
        self._file_jobs.do(f"Bring in {what}", tasks, then)

    def rename(self, entry: Entry, name: str) -> None:
        """Another name."""
        self._each(
            f"Rename {entry.name}",
            [entry],
            lambda library, one: moves.rename(library, one.path, name),
        )

    def reword(
        self,
        label: str,
        entries: Sequence[Entry],
        change: Callable[[Card], Card],
        *,
        even_locked: bool = False,
    ) -> None:
        """Change what is written on cards."""
        self._each(
            f"{label} {_what(entries)}",
            entries,
            lambda library, entry: moves.reword(library, entry, change, even_locked=even_locked),
        )

    def set_note(self, entry: Entry, note: str) -> None:
        """Another note."""
        self.reword("Note on", [entry], lambda card: replace(card, note=note))

    def tag(self, entries: Sequence[Entry], add: Iterable[str], remove: Iterable[str]) -> None:
        """Add tags to cards and take others away."""
        added, gone = tuple(add), set(remove)

        def change(card: Card) -> Card:
            kept = (t for t in (*card.tags, *added) if t not in gone)
            return replace(card, tags=tuple(dict.fromkeys(kept)))

        wanted = [e for e in entries if set(e.tags) & gone or not set(added) <= set(e.tags)]
        if wanted:
            self.reword("Tag", wanted, change)

    def rename_controls(self, entries: Sequence[Entry], rules: Rules) -> None:
        """Other names for the controls of cards. Cards whose names do not change stay."""
        open_libraries = self._open_libraries

        def changes(entry: Entry) -> bool:
            names = open_libraries.place_of(entry).controls_of(entry.shape)
            return any(rules.applied(name) != name for name in names)

        wanted = [entry for entry in entries if changes(entry)]
        self._each(
            f"Rename controls in {_what(wanted)}" if wanted else "Rename controls",
            wanted,
            lambda library, entry: moves.rename_controls(library, entry, rules),
        )

    def approve(self, entries: Sequence[Entry], who: str) -> None:
        """Lock cards: nobody replaces them by mistake."""
        when = now()
        self.reword(
            "Approve",
            [e for e in entries if not e.locked],
            lambda card: replace(card, approved_by=who, approved_at=when),
        )

    def unlock(self, entries: Sequence[Entry]) -> None:
        """Take the lock away."""
        self.reword(
            "Unlock",
            [e for e in entries if e.locked],
            lambda card: replace(card, approved_by="", approved_at=""),
            even_locked=True,
        )

    def take_picture(
        self, entry: Entry, card: Card, pictures: Pictures, then: Then | None = None
    ) -> None:
        """Another picture for a card; its frame and style go with it, its pose stays."""

        def work() -> Done:
            return moves.repicture(self._writable(entry), entry, card, *pictures())

        self._file_jobs.do(f"Picture of {entry.name}", [(entry.name, work)], then)

    def set_picture(self, entry: Entry, data: bytes, square: Square) -> None:
        """A part of a picture file as a card's own picture; a clip keeps its moving one."""

        def work() -> Done:
            card, _ = read_card(entry.path)
            small, large = cropped(data, square)
            library, own = self._writable(entry), replace(card, own_picture=True)
            return moves.repicture(library, entry, own, small, large, read_motion(entry.path))

        self._file_jobs.do(f"Picture of {entry.name}", [(entry.name, work)])

    def take_pictures(
        self,
        entries: Sequence[Entry],
        draw: Callable[[Entry], tuple[Card, tuple[bytes | None, ...]]],
    ) -> None:
        """Other pictures for cards; ``draw`` gives each, with its frame, and is called in the
        job."""

        def picture(library: Library, entry: Entry) -> Done:
            card, pictures = draw(entry)
            return moves.repicture(library, entry, card, *pictures)

        self._each(f"Pictures of {_what(entries)}", entries, picture)

    def set_favourite(self, entries: Sequence[Entry], on: bool) -> None:
        """Mark cards as one's own favourites; nobody else sees it."""
        changed = [
            e.identity
            for e in entries
            if e.identity and self._open_libraries.personal.favourite(e.identity) is not on
        ]

        def set_to(value: bool) -> None:
            self._open_libraries.personal.set_favourite(changed, value)
            self._open_libraries.personal_changed()

        if changed:
            set_to(on)
            word = "Favourite" if on else "No favourite"
            step = ChangeStep(
                f"{word}: {_what(entries)}", lambda: set_to(not on), lambda: set_to(on)
            )
            self._history.push(step)

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
        self._file_jobs.do(f"Order {_what(names)}", [(sheet, task)])

    # -- sheets ---------------------------------------------------------------------------

    def make_sheet(self, place: OpenLibrary, sheet: str, then: Then | None = None) -> None:
        self._sheet(place, f"New sheet {sheet}", sheet_moves.make, sheet_path(sheet), then=then)

    def move_sheet(self, place: OpenLibrary, sheet: str, to: str) -> None:
        """Another name or place; with ``/`` it becomes part of another sheet."""
        self._sheet(place, f"Rename {_last(sheet)}", sheet_moves.move, sheet, sheet_path(to))

    def merge_sheet(self, place: OpenLibrary, sheet: str, into: str) -> None:
        self._sheet(place, f"Merge {_last(sheet)}", sheet_moves.merge, sheet, into)

    def colour_sheet(self, place: OpenLibrary, sheet: str, value: str) -> None:
        self._sheet(place, f"Colour of {_last(sheet)}", sheet_moves.colour, sheet, value)

    def set_habit(self, place: OpenLibrary, sheet: str, habit: Habit | None) -> None:
        """How cards of a sheet are taken from now on."""
        if place.library is not None:
            content = replace(read_sheet(place.library, sheet), habit=habit)
            label = f"Habit of {_last(sheet)}"
            self._sheet(place, label, sheet_moves.describe, sheet, content)

    def set_neutral(self, place: OpenLibrary, sheet: str, identity: str) -> None:
        """The card that the others of a sheet start from; empty for rest."""
        if place.library is not None:
            content = replace(read_sheet(place.library, sheet), neutral=identity)
            label = f"Neutral card of {_last(sheet)}"
            self._sheet(place, label, sheet_moves.describe, sheet, content)

    def order_sheets(self, place: OpenLibrary, sheets: tuple[str, ...]) -> None:
        self._sheet(place, "Order of the sheets", sheet_moves.order, sheets)

    def rename_library(self, place: OpenLibrary, name: str) -> None:
        self._sheet(place, f"Rename {place.name}", sheet_moves.rename_library, name)

    def set_approvers(self, place: OpenLibrary, names: tuple[str, ...]) -> None:
        """Who may approve and unlock the cards of a library; empty for everybody."""
        self._sheet(place, f"Who approves in {place.name}", sheet_moves.set_approvers, names)

    def remove_sheet(self, place: OpenLibrary, sheet: str, keys: Sequence[int]) -> None:
        """Take a sheet away; its cards go into the library's keep."""
        library = place.library
        if library is None:
            return
        self._open_libraries.fetch(list(keys))
        entries = [e for e in map(self._open_libraries.entry, keys) if e is not None]
        tasks: list[tuple[str, Task]] = [
            (e.name, partial(moves.take_out, library, e.path)) for e in entries
        ]
        tasks.append((sheet, partial(sheet_moves.remove, library, sheet)))
        self._file_jobs.do(f"Remove {_last(sheet)}", tasks)

    # -- inside ---------------------------------------------------------------------------

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

    def _each(
        self, label: str, entries: Sequence[Entry], work: Callable[[Library, Entry], Done]
    ) -> None:
        if not entries:
            return

        def task(entry: Entry) -> Done:
            return work(self._writable(entry), entry)

        self._file_jobs.do(label, [(e.name, partial(task, e)) for e in entries])

    def _writable(self, entry: Entry) -> Library:
        library = self._open_libraries.library_of(entry)
        if not self._open_libraries.place_of(entry).writable:
            raise FoxHandError(
                "library.read_only",
                f"{library.name} can only be read by you.",
                f"{entry.name} was left as it is.",
                "Copy the card into a library of your own.",
            )
        return library


def _what(entries: Sequence[Entry]) -> str:
    return entries[0].name if len(entries) == 1 else f"{len(entries)} cards"


def _last(sheet: str) -> str:
    return sheet.rpartition("/")[2]
