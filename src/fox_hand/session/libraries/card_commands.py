"""What a person does with cards and sheets, on one or many at once."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.matching.name_match import Rules
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card, read_motion
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.thumb import Square, cropped
from fox_hand.library.store import moves
from fox_hand.library.store.journal import written_down
from fox_hand.library.store.moves import Done
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
            tr("Take out {what}", what=what(entries)),
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
        label = tr(
            "{rest} {what} into {name}",
            rest=tr("Copy") if copies else tr("Put"),
            what=what(entries),
            name=name,
        )
        tasks = [(e.name, partial(work, e)) for e in entries]
        self._file_jobs.do(label, tasks, lambda _: together.close())

    def duplicate(self, entries: Sequence[Entry]) -> None:
        """A copy of its own beside each card."""
        self._each(
            tr("Duplicate {what}", what=what(entries)),
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
        named = files[0].stem if len(files) == 1 else tr("{count} cards", count=len(files))
        self._file_jobs.do(tr("Bring in {named}", named=named), tasks, then)

    def rename(self, entry: Entry, name: str) -> None:
        """Another name."""
        self._each(
            tr("Rename {name}", name=entry.name),
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
            f"{label} {what(entries)}",
            entries,
            lambda library, entry: moves.reword(library, entry, change, even_locked=even_locked),
        )

    def set_note(self, entry: Entry, note: str) -> None:
        """Another note."""
        self.reword(tr("Note on"), [entry], lambda card: replace(card, note=note))

    def tag(self, entries: Sequence[Entry], add: Iterable[str], remove: Iterable[str]) -> None:
        """Add tags to cards and take others away."""
        added, gone = tuple(add), set(remove)

        def change(card: Card) -> Card:
            kept = (t for t in (*card.tags, *added) if t not in gone)
            return replace(card, tags=tuple(dict.fromkeys(kept)))

        wanted = [e for e in entries if set(e.tags) & gone or not set(added) <= set(e.tags)]
        if wanted:
            self.reword(tr("Tag"), wanted, change)

    def rename_controls(self, entries: Sequence[Entry], rules: Rules) -> None:
        """Other names for the controls of cards. Cards whose names do not change stay."""
        open_libraries = self._open_libraries

        def changes(entry: Entry) -> bool:
            names = open_libraries.place_of(entry).controls_of(entry.shape)
            return any(rules.applied(name) != name for name in names)

        wanted = [entry for entry in entries if changes(entry)]
        self._each(
            tr("Rename controls in {what}", what=what(wanted)) if wanted else tr("Rename controls"),
            wanted,
            lambda library, entry: moves.rename_controls(library, entry, rules),
        )

    def approve(self, entries: Sequence[Entry], who: str) -> None:
        """Lock cards: nobody replaces them by mistake."""
        when = now()
        self.reword(
            tr("Approve"),
            [e for e in entries if not e.locked],
            lambda card: replace(card, approved_by=who, approved_at=when),
        )

    def unlock(self, entries: Sequence[Entry]) -> None:
        """Take the lock away."""
        self.reword(
            tr("Unlock"),
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

        self._file_jobs.do(tr("Picture of {name}", name=entry.name), [(entry.name, work)], then)

    def set_picture(self, entry: Entry, data: bytes, square: Square) -> None:
        """A part of a picture file as a card's own picture; a clip keeps its moving one."""

        def work() -> Done:
            card, _ = read_card(entry.path)
            small, large = cropped(data, square)
            library, own = self._writable(entry), replace(card, own_picture=True)
            return moves.repicture(library, entry, own, small, large, read_motion(entry.path))

        self._file_jobs.do(tr("Picture of {name}", name=entry.name), [(entry.name, work)])

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

        self._each(tr("Pictures of {what}", what=what(entries)), entries, picture)

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
            word = tr("Favourite") if on else tr("No favourite")
            step = ChangeStep(
                f"{word}: {what(entries)}", lambda: set_to(not on), lambda: set_to(on)
            )
            self._history.push(step)

    # -- inside ---------------------------------------------------------------------------

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
                tr("{name} can only be read by you.", name=library.name),
                tr("{name} was left as it is.", name=entry.name),
                tr("Copy the card into a library of your own."),
            )
        return library


def what(entries: Sequence[Entry]) -> str:
    """Cards as a step names them."""
    return entries[0].name if len(entries) == 1 else tr("{count} cards", count=len(entries))
