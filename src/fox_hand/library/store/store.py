"""A library: a folder of sheets (folders) with cards (files).

Everything here writes files and nothing else; what lists them is an index
(:mod:`fox_hand.library.index.index`). Whatever happens in the middle of a write, a card is there
as it was or as it was to be.
"""

from __future__ import annotations

import contextlib
import datetime
import getpass
import os
import uuid
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

from filelock import FileLock, Timeout

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import CARD, read_file
from fox_hand.base.language import tr
from fox_hand.library.files.atomic import make_folder, move_new, remove, write_atomically, write_new
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import Pictures, card_bytes, changed_bytes, read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.library_file import LibraryFile, read_library_file, write_library_file
from fox_hand.library.format.names import card_paths, file_stem
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store.approval import Approval

OWN_FOLDER = ".foxhand"
BUSY = 15.0  # seconds to wait for another program that writes into the same library


def own_folder_over(card: Path) -> Path | None:
    """Where the library that a card lies in keeps what is its own; None outside libraries."""
    for folder in card.resolve().parents:
        if (folder / "library.toml").is_file():
            return folder / OWN_FOLDER
    return None


class CardChangedError(FoxHandError):
    """The card was changed since it was read. Nothing was written.

    Args:
        name: the card's.
        path: the card as it is on disk now.
        by: its author, who may be the same person in another window.
    """

    def __init__(self, name: str, path: Path, by: str = "") -> None:
        who = tr(" by {by}", by=by) if by else ""
        super().__init__(
            "card.changed_meanwhile",
            tr("{name} was changed{who} after it was last looked at here.", name=name, who=who),
            tr("Both the card on disk and yours are kept."),
            tr("Look at both under Care of the library and choose."),
        )
        self.path = path


class Library:
    """One library folder.

    Args:
        folder: where it is.
        file: what it says about itself, where that is known; else it is read.
        by: who writes, asked at every change.

    Raises:
        FoxHandError: for a folder that is not a library or is of a newer version.
    """

    def __init__(
        self,
        folder: Path,
        file: LibraryFile | None = None,
        by: Callable[[], str] | None = None,
    ) -> None:
        self.folder = folder
        self._by = by or login_name
        self.approval = Approval(folder, self._by)
        self.file = file or read_library_file(folder)

    @property
    def name(self) -> str:
        return self.file.name

    @property
    def own(self) -> Path:
        """Where the library keeps earlier versions, removed cards and conflicts."""
        return self.folder / OWN_FOLDER

    @property
    def writable(self) -> bool:
        """Whether this user may write there at all."""
        return os.access(self.folder, os.W_OK)

    @staticmethod
    def create(
        folder: Path,
        name: str,
        order: tuple[str, ...] = (),
        by: Callable[[], str] | None = None,
    ) -> Library:
        """Make a library in a folder, or open the one that is there."""
        if not (folder / "library.toml").is_file():
            try:
                folder.mkdir(parents=True, exist_ok=True)
            except OSError as error:
                raise FoxHandError(
                    "library.create",
                    tr(
                        "The library {name} could not be made in {folder} ({strerror}).",
                        name=name,
                        folder=folder,
                        strerror=error.strerror,
                    ),
                    tr("Nothing was changed."),
                    tr("Choose a folder you may write in."),
                ) from error
            write_library_file(folder, LibraryFile(name, order))
        return Library(folder, by=by)

    def signed(self, card: Card) -> Card:
        """A card that is about to be written: who changed it, and when."""
        return replace(card, changed=now(), changed_by=self._by())

    def change_file(self, change: Callable[[LibraryFile], LibraryFile]) -> LibraryFile:
        """Change what the library says about itself, as it is on disk now; what it said before."""
        with self.lock():
            before = read_library_file(self.folder)
            self.file = change(before)
            write_library_file(self.folder, self.file)
        return before

    def set_approvers(self, names: tuple[str, ...]) -> tuple[str, ...]:
        """Say who may approve; who might before.

        Raises:
            FoxHandError: ``approve.not_yours``.
        """
        if not self.approval.may():
            raise self.approval.not_yours(tr("change who approves in"))
        return self.change_file(lambda file: replace(file, approvers=names)).approvers

    @contextlib.contextmanager
    def lock(self) -> Iterator[None]:
        """Keep other programs from writing cards of this library meanwhile. The lock belongs to
        the process: one that was killed holds nothing.

        Raises:
            FoxHandError: ``library.busy``, ``library.away`` or ``file.write``.
        """
        self._there()
        make_folder(self.own)
        lock = FileLock(self.own / "lock", timeout=BUSY, mode=0o666, thread_local=False)
        try:
            lock.acquire()
        except Timeout as error:
            raise FoxHandError(
                "library.busy",
                tr(
                    "Another program has been writing in {name} for {busy:.0f} seconds.",
                    name=self.name,
                    busy=BUSY,
                ),
                tr("Nothing was changed."),
                tr("Try again in a moment."),
            ) from error
        except OSError as error:  # read-only meanwhile, no rights, no room
            raise FoxHandError(
                "file.write",
                tr(
                    "Nothing can be written in {name} now ({strerror}).",
                    name=self.name,
                    strerror=error.strerror or tr("the system gives no reason"),
                ),
                tr("Nothing was changed."),
                tr("Look whether you may write there, and whether there is room."),
            ) from error
        try:
            yield
        finally:
            lock.release()

    def _there(self) -> None:
        """A library whose file is not there is away (a share that is not mounted leaves an empty
        folder): what would be written there would be hidden when it comes back.

        Raises:
            FoxHandError: ``library.away``.
        """
        if not os.path.isfile(self.folder / "library.toml"):  # noqa: PTH113 - false for what cannot be asked
            raise FoxHandError(
                "library.away",
                tr("{name} is not in {folder} now.", name=self.name, folder=self.folder),
                tr("Nothing was changed."),
                tr("Look whether its drive or its share is there."),
            )

    # -- cards ----------------------------------------------------------------------------

    def add(
        self,
        card: Card,
        picture: bytes | None,
        sheet: str,
        large: bytes | None = None,
        motion: bytes | None = None,
    ) -> Path:
        """Write a new card into a sheet; an equal file name gets a number, nothing is replaced.

        Raises:
            FoxHandError: ``file.write`` and the like; nothing was changed.
        """
        stamped = self.signed(replace(card, created=card.created or now()))
        return self.add_bytes(card_bytes(stamped, picture, large, motion), card.name, sheet)

    def add_bytes(self, data: bytes, name: str, sheet: str) -> Path:
        """Write a card that is already packed."""
        folder = self.sheet_folder(sheet)
        with self.lock():
            return write_new(card_paths(folder, name), data)

    def replace(
        self,
        entry: Entry,
        card: Card,
        picture: bytes | None,
        large: bytes | None = None,
        motion: bytes | None = None,
    ) -> None:
        """Store over a card. The old file becomes an earlier version.

        Raises:
            CardChangedError: if it is no longer what ``entry`` says.
            FoxHandError: ``card.not_replaced`` if the file is damaged or locked.
        """
        with self.lock():
            current = self._current(entry)
            self.keep_version(entry.path, current)
            new = self.signed(
                replace(
                    card,
                    identity=current.identity,
                    created=current.created,
                    revision=current.revision + 1,
                )
            )
            write_atomically(entry.path, card_bytes(new, picture, large, motion))

    def rewrite(
        self,
        entry: Entry,
        change: Callable[[Card], Card],
        *,
        even_locked: bool = False,
        pictures: Pictures | None = None,
        keep: bool = False,
    ) -> Card:
        """Change the words of a card (name, tags, note, lock); its pose stays.

        Args:
            entry: the card as it was seen.
            change: gives the card as it is to be.
            even_locked: whether an approved card may be changed.
            pictures: others, at 320 and 640 px; the file before becomes an earlier version.
            keep: it becomes one in any case.

        Returns:
            the card as it was before.

        Raises:
            CardChangedError, FoxHandError: as :meth:`replace`.
        """
        with self.lock():
            current = self._current(entry, even_locked=even_locked)
            changed = change(current)
            if changed.locked != current.locked and not self.approval.may():
                raise self.approval.not_yours(tr("approve and unlock cards of"))
            new = self.signed(replace(changed, revision=current.revision + 1))
            if pictures is not None or keep:
                self.keep_version(entry.path, current)
            write_atomically(entry.path, changed_bytes(entry.path, new, pictures))
            return current

    def rename(self, entry: Entry, name: str, wish: Path | None = None) -> Path:
        """Another name, for the card and its file.

        Args:
            entry: the card as it was seen.
            name: the new one.
            wish: the file's name if it is free, to go back to what was before.
        """
        self.rewrite(entry, lambda card: replace(card, name=name))
        with self.lock():
            names = card_paths(entry.path.parent, name, entry.path)
            return move_new(entry.path, _wished(wish, names))

    def move(self, path: Path, sheet: str, wish: Path | None = None) -> Path:
        """Into another sheet of this library; ``wish`` as in :meth:`rename`."""
        folder = self.sheet_folder(sheet)
        with self.lock():
            if path.parent == folder:
                return path
            self.approval.check(path)
            stem = path.name.removesuffix(SUFFIX)
            return move_new(path, _wished(wish, card_paths(folder, stem)))

    def copy_in(self, source: Path, sheet: str, *, own: bool) -> Path:
        """A copy of any card file.

        Args:
            own: whether the copy is a card of its own, or the same one that came from elsewhere.

        Raises:
            FoxHandError: if the source cannot be read or the copy not written.
        """
        card, _ = read_card(source)
        if own:
            card = replace(
                card, identity=uuid.uuid4().hex, revision=1, approved_by="", approved_at=""
            )
        data = changed_bytes(source, card) if own else _bytes_of(source)
        return self.add_bytes(data, source.name.removesuffix(SUFFIX), sheet)

    # -- earlier versions and what was taken out ------------------------------------------

    def keep_version(self, path: Path, card: Card) -> None:
        """Put a copy of a card's file with its earlier versions."""
        folder = self.own / "versions" / file_stem(card.identity)
        make_folder(folder)
        kept, data = folder / f"{card.revision:04}{SUFFIX}", _bytes_of(path)
        # after a crash between keeping and replacing it is already there
        if not kept.exists() or _bytes_of(kept) != data:
            write_new(card_paths(folder, f"{card.revision:04}"), data)

    def versions(self, identity: str) -> tuple[Path, ...]:
        """Files of the earlier versions of a card, oldest first."""
        folder = self.own / "versions" / file_stem(identity)
        with contextlib.suppress(OSError):
            return tuple(sorted(p for p in folder.iterdir() if p.name.endswith(SUFFIX)))
        return ()

    def take_out(self, path: Path) -> Path:
        """Move a card into the library's keep; returns where it lies now. The keep repeats the
        sheets below the day, so the files themselves say where they came from and when."""
        self.approval.check(path)
        folder = self._keep_of(path)
        with self.lock():
            return move_new(path, card_paths(folder, path.name.removesuffix(SUFFIX)))

    def exchange(self, path: Path, data: bytes) -> Path:
        """Other bytes for a card's file, in one step; what it held goes into the keep first.
        Returns where that lies now."""
        folder = self._keep_of(path)
        with self.lock():
            kept = write_new(card_paths(folder, path.name.removesuffix(SUFFIX)), _bytes_of(path))
            write_atomically(path, data)
        return kept

    def _keep_of(self, path: Path) -> Path:
        day = datetime.datetime.now(datetime.UTC).date().isoformat()
        folder = self.own / "removed" / day / path.parent.relative_to(self.folder)
        make_folder(folder)
        return folder

    def bring_back(self, kept: Path, wish: Path | None = None) -> Path:
        """Undo :meth:`take_out`; the sheet is made again if it is gone."""
        sheet = kept.parent.relative_to(self.own / "removed")
        folder = self.sheet_folder(Path(*sheet.parts[1:]).as_posix() if sheet.parts[1:] else "")
        with self.lock():
            stem = kept.name.removesuffix(SUFFIX)
            return move_new(kept, _wished(wish, card_paths(folder, stem)))

    def removed(self) -> tuple[Path, ...]:
        """What was taken out, latest day first."""
        return tuple(sorted((self.own / "removed").rglob(f"*{SUFFIX}"), reverse=True))

    def forget(self, kept: Path) -> None:
        """Delete something that was taken out, for good."""
        if not kept.resolve().is_relative_to((self.own / "removed").resolve()):
            raise ValueError("only what was taken out can be deleted")
        remove(kept)

    # -- inside ---------------------------------------------------------------------------

    def sheet_folder(self, sheet: str) -> Path:
        """The folder of a sheet, made if it is not there.

        Raises:
            FoxHandError: ``sheet.outside``, ``library.away`` or ``file.write``.
        """
        self._there()
        folder = (self.folder / sheet).resolve()
        parts = folder.relative_to(self.folder.resolve()).parts if self._holds(folder) else (".",)
        if any(part.startswith(".") for part in parts):
            raise FoxHandError(
                "sheet.outside",
                tr("{sheet} is not a sheet of {name}.", sheet=sheet, name=self.name),
                tr("Nothing was written."),
                tr("Choose a sheet of this library."),
            )
        make_folder(folder)
        return self.folder / sheet

    def _holds(self, folder: Path) -> bool:
        return folder.is_relative_to(self.folder.resolve())

    def _current(self, entry: Entry, *, even_locked: bool = False) -> Card:
        """The card on disk, if it is the one that was seen."""
        try:
            current, _ = read_card(entry.path)
        except FoxHandError as error:
            raise FoxHandError(
                "card.not_replaced",
                tr("{name} was not written, because it cannot be read.", name=entry.path.name),
                tr("The file on disk and the pose on the figure are untouched."),
                tr("Store the pose under another name."),
            ) from error
        if (current.identity, current.revision) != (entry.identity, entry.revision):
            raise CardChangedError(entry.name, entry.path, current.author)
        if current.locked and not even_locked:
            raise self.approval.locked(entry.name, current.approved_by)
        return current


def login_name() -> str:
    """How this user is called on this machine; empty where nobody knows."""
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return ""


def now() -> str:
    """The time as cards keep it: RFC 3339, UTC, to the millisecond."""
    moment = datetime.datetime.now(datetime.UTC)
    return moment.isoformat(timespec="milliseconds").replace("+00:00", "Z")


def _wished(wish: Path | None, paths: Iterator[Path]) -> Iterator[Path]:
    if wish is not None:
        yield wish
    yield from paths


def _bytes_of(path: Path) -> bytes:
    try:
        return read_file(path, CARD)
    except OSError as error:
        raise FoxHandError(
            "card.unreadable",
            tr(
                "{name} cannot be opened ({strerror}).",
                name=path.name,
                strerror=error.strerror or error,
            ),
            tr("Nothing was changed."),
        ) from error
