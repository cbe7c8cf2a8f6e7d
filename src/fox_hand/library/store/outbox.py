"""What could not be written into a library waits here, on this machine, until it can be."""

from __future__ import annotations

import contextlib
import uuid
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import msgspec
from filelock import FileLock, Timeout

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_json
from fox_hand.base.files.inputs import CARD, TEXT, read_file
from fox_hand.library.files.atomic import make_folder, remove, write_atomically
from fox_hand.library.format.container import PICTURE, read_card, read_motion, read_picture
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.names import card_paths
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store.conflicts import set_aside
from fox_hand.library.store.store import CardChangedError, Library, now


class Waiting(msgspec.Struct, frozen=True):
    """A card on its way.

    Args:
        library: folder it is for.
        sheet: where in it.
        name: of the card.
        identity: of the card.
        path: the card it is to replace, below the library; empty for a new one.
        revision: which version of that it was made from.
        since: RFC 3339, UTC.
        version: of this file's format.
    """

    library: str
    sheet: str
    name: str
    identity: str
    path: str = ""
    revision: int = 0
    since: str = ""
    version: Literal[1] = 1


@dataclass(frozen=True)
class Delivery:
    """How one card fared.

    Args:
        waiting: the card.
        path: where it lies now; None if it still waits.
        conflict: it waits under Care, because somebody else had changed the card.
        error: why it still waits.
    """

    waiting: Waiting
    path: Path | None
    conflict: bool = False
    error: FoxHandError | None = None


class Outbox:
    """Cards that wait for their library, below the user's own state folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def put(self, waiting: Waiting, data: bytes) -> None:
        """Keep a card until its library can be written.

        Raises:
            FoxHandError: ``file.write``.
        """
        make_folder(self.folder)
        name = uuid.uuid4().hex
        note = msgspec.structs.replace(waiting, since=waiting.since or now())
        # the note comes last: a card without one is taken up again by nobody, but stays
        write_atomically(self.folder / f"{name}{SUFFIX}", data)
        write_atomically(self.folder / f"{name}.json", msgspec.json.encode(note))

    def waiting(self, library: Path | None = None) -> list[tuple[Path, Waiting]]:
        """Cards that wait, oldest first, with their files."""
        found = []
        for path in self.folder.glob("*.json"):
            with contextlib.suppress(OSError, ValueError):
                note = decode_json(read_file(path, TEXT), Waiting)
                card = path.with_suffix(SUFFIX)
                if card.exists() and library in (None, Path(note.library)):
                    found.append((card, note))
        return sorted(found, key=lambda pair: pair[1].since)

    def deliver(self, library: Library) -> list[Delivery]:
        """Write everything that waits for a library. Doing it twice does no harm; while another
        window delivers, nothing is done here."""
        try:
            lock = FileLock(self.folder / "lock", timeout=0, thread_local=False)
            lock.acquire()
        except (Timeout, OSError):
            return []  # another window of the same person delivers them, or there is nothing
        try:
            return self._deliver_all(library)
        finally:
            lock.release()

    def _deliver_all(self, library: Library) -> list[Delivery]:
        found = []
        for card, note in self.waiting(library.folder):
            try:
                found.append(self._deliver(library, card, note))
            except FoxHandError as error:
                found.append(Delivery(note, None, error=error))
        return found

    def _deliver(self, library: Library, card: Path, note: Waiting) -> Delivery:
        path, conflict = _delivered_before(library, note), False
        if path is None and note.path:
            path, conflict = self._replace(library, card, note)
        elif path is None:
            path = library.add_bytes(read_file(card, CARD), note.name, note.sheet)
        remove(card.with_suffix(".json"))
        remove(card)
        return Delivery(note, path, conflict)

    def _replace(self, library: Library, card: Path, note: Waiting) -> tuple[Path, bool]:
        path = library.folder / note.path
        entry = Entry(
            path, note.sheet, identity=note.identity, name=note.name, revision=note.revision
        )
        new, picture = read_card(card)
        large = read_picture(card, 2 * PICTURE)
        try:
            larger = large if large != picture else None
            library.replace(entry, new, picture, larger, read_motion(card))
        except CardChangedError:
            return set_aside(library, note.identity, read_file(card, CARD)), True
        return path, False


def _delivered_before(library: Library, note: Waiting) -> Path | None:
    """A new card that is there already: its delivery was cut off before it was forgotten here."""
    if note.path:
        return None
    for path in card_paths(library.folder / note.sheet, note.name):
        if not path.exists():
            return None
        with contextlib.suppress(FoxHandError):
            if read_card(path)[0].identity == note.identity:
                return path
    return None
