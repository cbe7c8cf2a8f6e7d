"""The index of one library: an SQLite file in the user's cache folder, which can be thrown away.

The files are the truth. No index lies in a library's own folder, because a database on a network
drive breaks. One connection writes, guarded by a lock; readers have their own, read-only.
"""

from __future__ import annotations

import contextlib
import functools
import hashlib
import itertools
import os
import sqlite3
import threading
import time
from array import array
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, TypeVar, cast

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.scratch import lasting_scratch
from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region
from fox_hand.core.model.skeleton import Index as Rows
from fox_hand.core.pose.similarity import Singles
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.head import Head, Joints
from fox_hand.library.format.schema import KindName
from fox_hand.library.index.card_columns import CARDS, Columns, read_columns
from fox_hand.library.index.connections import Readers
from fox_hand.library.index.index_rows import SIDES, Stamp, as_named, row_of, storable
from fox_hand.library.index.index_schema import COLUMNS, NEW_WORDS, TABLES, VERSION
from fox_hand.library.index.index_shapes import Shape

REGIONS = tuple(Region)
Value = TypeVar("Value")
Held = tuple[tuple[str, tuple[str, ...]], ...]  # controls, each with its settings
ENOUGH = 500  # values bound to one statement
WAIT = 10.0  # seconds a writer waits for another program that writes the same index
NEW = f"INSERT INTO card ({', '.join(COLUMNS)}) VALUES ({', '.join('?' * len(COLUMNS))})"
AGAIN = f"UPDATE card SET {', '.join(f'{c} = ?' for c in COLUMNS)} WHERE id = ?"


@dataclass(frozen=True)
class IndexedFile:
    """A file that was read.

    Args:
        head: what is kept of it.
        path: below the library, with ``/``.
        stamp: the file's when it was read.
    """

    head: Head
    path: str
    stamp: Stamp


class NoRoomError(FoxHandError):
    """The index cannot be written where it is."""

    def __init__(self, folder: Path) -> None:
        super().__init__(
            "index.no_room",
            tr(
                "There is no room on this machine for the list of the cards in {name}.",
                name=folder.name,
            ),
            tr("The cards themselves are untouched."),
            tr("Make room, then look again."),
        )


class IndexDamagedError(FoxHandError):
    """The index of a folder is in doubt. It is only a list of what the files say, so it is made
    anew."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        super().__init__(
            "index.damaged",
            tr("The list of the cards in {name} on this machine was damaged.", name=folder.name),
            tr("The cards themselves are untouched."),
            tr("It is made anew from them."),
        )


Asked = TypeVar("Asked", bound=Callable[..., object])
# what SQLite says while a sound file cannot be used at the moment
PASSING = ("locked", "busy", "interrupt", "unable to open")
NO_ROOM = ("full", "readonly", "disk I/O")


def _sound(method: Asked) -> Asked:
    """What cannot be read of a damaged file, whichever way it shows, is one error."""

    @functools.wraps(method)
    def asked(self: Index, *args: object, **more: object) -> object:
        try:
            return method(self, *args, **more)
        except (sqlite3.DatabaseError, ValueError, TypeError, LookupError) as error:
            passing = isinstance(error, sqlite3.OperationalError)
            if passing and any(word in str(error) for word in NO_ROOM):
                raise NoRoomError(self.folder) from error
            if passing and any(word in str(error) for word in PASSING):
                raise
            raise IndexDamagedError(self.folder) from error

    return cast(Asked, asked)


class Index:
    """The index of one library folder.

    Args:
        folder: the library.
        file: where the index lies.
    """

    def __init__(self, folder: Path, file: Path) -> None:
        self.folder, self.file = folder, file
        self._lock, self._readers = threading.RLock(), Readers(file)
        self.looking = threading.Lock()  # held from looking at files until that is written
        self._shapes: dict[object, int] = {}
        self.made_anew = False
        self._readings = itertools.count(1)
        self._writer = self._open()

    @staticmethod
    def of(folder: Path, cache: Path) -> Index:
        """The index of a library below the user's cache folder, made if there is none.

        Where the cache folder cannot be written, the index lies in a temporary folder: slower
        at the next start, but nothing is missing.
        """
        name = _name_of(folder)
        try:
            place = cache / "libraries"
            place.mkdir(parents=True, exist_ok=True)
            return Index(folder, place / f"{name}.sqlite")
        except (OSError, sqlite3.OperationalError):
            return Index(folder, elsewhere(folder))

    # -- opening --------------------------------------------------------------------------

    def _open(self) -> sqlite3.Connection:
        try:
            found = self._connect()
            if found.execute("PRAGMA user_version").fetchone()[0] == VERSION:
                return found
            found.close()
        except sqlite3.DatabaseError as error:
            if isinstance(error, sqlite3.OperationalError):
                raise
        return self._anew()

    def _anew(self) -> sqlite3.Connection:
        for suffix in ("", "-wal", "-shm"):
            Path(f"{self.file}{suffix}").unlink(missing_ok=True)
        found = self._connect()
        found.executescript(TABLES)
        found.execute(f"PRAGMA user_version = {VERSION}")
        found.commit()
        self.made_anew = True
        return found

    def _connect(self) -> sqlite3.Connection:
        found = sqlite3.connect(self.file, timeout=WAIT, check_same_thread=False)
        found.execute("PRAGMA journal_mode = WAL")
        found.execute("PRAGMA synchronous = OFF")  # what a power cut spoils is built anew
        found.execute("PRAGMA recursive_triggers = ON")
        found.execute("PRAGMA cache_size = -65536")  # KiB
        return found

    def close(self) -> None:
        """Close every connection; readings that are under way close theirs at their end."""
        with self._lock, self._readers.given_up():
            self._close_writer()

    def _close_writer(self) -> None:
        with contextlib.suppress(sqlite3.DatabaseError):  # it may be damaged
            self._writer.close()

    def throw_away(self, other: Path | None = None) -> None:
        """Begin with an empty file; the next scan reads all cards.

        Args:
            other: where from now on, where there is no room any more.
        """
        with self._lock, self._readers.given_up(other):
            self._close_writer()
            self.file = other or self.file
            self._shapes.clear()
            self._writer = self._anew()

    def lent(self) -> contextlib.AbstractContextManager[sqlite3.Connection]:
        """This thread's read-only connection, for one reading."""
        return self._readers.lent()

    # -- writing --------------------------------------------------------------------------

    @_sound
    def stamps(self, paths: Sequence[str] | None = None) -> dict[str, tuple[int, Stamp]]:
        """Of every file that is known, or of some: number and stamp, by its path below the
        library."""
        query = "SELECT path, id, mtime, size, inode FROM card"
        if paths is None:
            rows = self._rows(query)
        else:
            rows = []
            for part in _parts([storable(path) for path in paths]):
                marks = ", ".join("?" * len(part))
                rows += self._rows(f"{query} WHERE path IN ({marks})", part)
        return {as_named(p): (item, (mtime, size, inode)) for p, item, mtime, size, inode in rows}

    @_sound
    def update(self, found: Iterable[IndexedFile], gone: Sequence[int] = ()) -> None:
        """Write what was read of some files, and forget others; one transaction."""
        with self._lock, self._writer as writer:
            writer.execute("BEGIN IMMEDIATE")  # another program may keep the same index
            for part in _parts(gone):
                marks = ", ".join("?" * len(part))
                writer.execute(f"DELETE FROM card WHERE id IN ({marks})", part)
            last = writer.execute("SELECT coalesce(max(id), 0) FROM card").fetchone()[0]
            for file in found:
                shape = self._shape(file.head.controls, file.head.turns, file.head.joints)
                row = row_of(file.head.entry, file.path, file.stamp, shape)
                known = writer.execute(
                    "SELECT id FROM card WHERE path = ?", (storable(file.path),)
                ).fetchone()
                if known is not None:
                    item = known[0]
                    writer.execute(AGAIN, (*row, item))
                else:
                    item = writer.execute(NEW, row).lastrowid or 0
                writer.execute(
                    "INSERT OR REPLACE INTO pose (id, shape, numbers) VALUES (?, ?, ?)",
                    (item, *self._counted(file.head, shape)),
                )
            writer.execute(NEW_WORDS, (last,))  # a new row's number is above all others

    def _counted(self, head: Head, shape: int) -> tuple[int, bytes]:
        """What counts for likeness; of a clip all along its way, how it begins says little."""
        motion = head.motion
        if motion is None:
            return shape, _numbers(head.turns, head.settings)
        settings = (("", tuple(sorted(motion.settings))),)
        return self._shape(settings, motion.turns), _numbers(motion.turns, motion.settings)

    def _shape(self, controls: Held, turns: Iterable[str], joints: Joints = ()) -> int:
        if not controls:
            return 0
        parts = controls, tuple(sorted(turns)), joints
        known = self._shapes.get(parts)
        if known is None:
            names = Shape(*parts).stored
            self._writer.execute("INSERT OR IGNORE INTO shape (names) VALUES (?)", (names,))
            known = self._writer.execute(
                "SELECT id FROM shape WHERE names = ?", (names,)
            ).fetchone()[0]
            self._shapes[parts] = cast(int, known)
        return known

    # -- reading --------------------------------------------------------------------------

    def _rows(self, query: str, values: Sequence[object] = ()) -> list[tuple[Any, ...]]:
        with self.lent() as reader:
            return reader.execute(query, tuple(values)).fetchall()

    def next_reading(self) -> int:
        """A number to be taken before a library is read: of two readings the one with the higher
        number knows at least as much."""
        return next(self._readings)

    @_sound
    def entries(self, items: Sequence[int]) -> dict[int, Entry]:
        """What is listed of some cards, by number."""
        found = {}
        for part in _parts(items):
            marks = ", ".join("?" * len(part))
            rows = self._rows(
                f"SELECT id, {', '.join(COLUMNS)} FROM card WHERE id IN ({marks})", part
            )
            for item, *values in rows:
                found[item] = self._entry(item, dict(zip(COLUMNS, values, strict=True)))
        return found

    def _entry(self, item: int, row: Mapping[str, object]) -> Entry:
        def text(column: str) -> str:
            return cast(str, row[column])

        def number(column: str) -> int:
            return cast(int, row[column])

        error = None
        if text("code"):
            error = FoxHandError(text("code"), text("happened"), text("kept"), text("todo"))
        return Entry(
            self.folder / as_named(text("path")),
            as_named(text("sheet")),
            item=item,
            identity=text("identity"),
            name=text("name"),
            revision=number("revision"),
            region=REGIONS[number("region")],
            side=SIDES[number("side")],
            kind=cast(KindName, text("kind")),
            tags=tuple(t for t in text("tags").split("\n") if t),
            note=text("note"),
            author=text("author"),
            licence=text("licence"),
            character=text("character"),
            fingerprint=text("fingerprint"),
            created=text("created"),
            changed=text("changed"),
            changed_by=text("changed_by"),
            content=text("content"),
            approved_by=text("approved_by"),
            approved_at=text("approved_at"),
            count=number("count"),
            holds=tuple(text("holds").split()),
            shape=number("shape"),
            has_picture=bool(number("picture")),
            error=error,
        )

    @_sound
    def columns(self) -> Columns:
        """Everything a list is filtered and sorted by."""
        with self.lent() as reader:
            return read_columns(reader.execute(CARDS))

    @_sound
    def matching(self, text: str, seconds: float = 1.0) -> Rows:
        """Numbers of the cards that match a full-text expression.

        Raises:
            TimeoutError: if it took longer than ``seconds``.
        """
        rows = self._timed("SELECT rowid FROM words WHERE words MATCH ?", (text,), seconds)
        return np.array([row[0] for row in rows], dtype=np.int64)

    def _timed(self, query: str, values: Sequence[object], seconds: float) -> list[tuple[int, ...]]:
        end = time.monotonic() + seconds
        with self.lent() as reader:
            reader.set_progress_handler(lambda: time.monotonic() > end, 20_000)
            try:
                return reader.execute(query, tuple(values)).fetchall()
            except sqlite3.OperationalError as error:
                if "interrupt" in str(error):
                    raise TimeoutError(tr("the search took too long")) from error
                raise
            finally:
                reader.set_progress_handler(None, 0)

    @_sound
    def vocabulary(self) -> list[str]:
        """Every word that occurs in some card."""
        return [w for (w,) in self._rows("SELECT term FROM vocabulary")]

    @_sound
    def identities(self) -> dict[str, list[int]]:
        """Numbers of the readable cards by identity; a copied file shares its origin's."""
        found: dict[str, list[int]] = {}
        for identity, item in self._rows(
            "SELECT identity, id FROM card WHERE identity <> '' ORDER BY id"
        ):
            found.setdefault(identity, []).append(item)
        return found

    @_sound
    def items_of(self, identities: Sequence[str]) -> list[tuple[str, int]]:
        """Cards with these identities: identity and number."""
        found: list[tuple[str, int]] = []
        for part in _parts(identities):
            marks = ", ".join("?" * len(part))
            found += self._rows(f"SELECT identity, id FROM card WHERE identity IN ({marks})", part)
        return found

    @_sound
    def shapes(self) -> dict[int, Shape]:
        """All sets of controls and settings by number."""
        rows = self._rows("SELECT id, names FROM shape")
        return {item: Shape.of(names) for item, names in rows}

    @_sound
    def characters(self) -> dict[int, str]:
        """By the number of a set of controls the character that most of its cards are of."""
        rows = self._rows(
            "SELECT shape, character, count(*) FROM card GROUP BY shape, character ORDER BY 3"
        )
        return {shape: character for shape, character, _ in rows}

    @_sound
    def poses(self, shape: int, turns: int, settings: int) -> tuple[Rows, Singles, Singles]:
        """Of the cards of one shape: numbers ``(N,)``, turns ``(N, turns, 4)`` with w >= 0 and
        setting values ``(N, settings)``, in single precision."""
        width = turns * 4 + settings
        rows = self._rows("SELECT id, numbers FROM pose WHERE shape = ?", (shape,))
        kept = [(item, data) for item, data in rows if len(data) == width * 4]
        items = np.array([item for item, _ in kept], dtype=np.int64)
        data = np.frombuffer(b"".join(d for _, d in kept), dtype=np.float32)
        whole = data.reshape(len(items), width)
        turned = whole[:, : turns * 4].reshape(len(whole), turns, 4)
        long = np.linalg.norm(turned, axis=-1, keepdims=True)  # files may say them at any length
        return items, turned / np.maximum(long, 1e-9), whole[:, turns * 4 :]


def elsewhere(folder: Path) -> Path:
    """Where an index lies that cannot be kept for the next start."""
    return lasting_scratch() / f"{_name_of(folder)}.sqlite"


def _name_of(folder: Path) -> str:
    return hashlib.sha256(os.fsencode(folder.resolve())).hexdigest()[:24]


def _numbers(by_turn: Mapping[str, Sequence[float]], settings: Mapping[str, float]) -> bytes:
    """Turns, of the two quaternions for each the one with w >= 0, then settings; by name."""
    numbers = array("f")  # for so few numbers quicker than larger tools
    for name in sorted(by_turn):
        x, y, z, w = by_turn[name]
        numbers.extend((x, y, z, w) if w >= 0 else (-x, -y, -z, -w))
    numbers.extend(settings[name] for name in sorted(settings))
    return numbers.tobytes()


def _parts(values: Sequence[Value]) -> Iterator[Sequence[Value]]:
    for start in range(0, len(values), ENOUGH):
        yield values[start : start + ENOUGH]
