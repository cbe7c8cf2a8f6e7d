"""Read-only connections to one index file, one for each thread that reads."""

from __future__ import annotations

import contextlib
import sqlite3
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import cast

WAIT = 10.0  # seconds a reader waits for a program that makes the file anew


@dataclass(eq=False)
class _Lent:
    """A thread's connection.

    Args:
        uses: readings that are under way on it.
        given_up: whether it goes when the last of them has ended.
    """

    connection: sqlite3.Connection
    uses: int = 0
    given_up: bool = False


class Readers:
    """Connections that are lent. A connection is never closed under a reading: SQLite does not
    guard against that, and the whole program would go down with it.

    Args:
        file: the index file.
    """

    def __init__(self, file: Path) -> None:
        self._file = file
        self._lock = threading.Lock()
        self._local = threading.local()
        self._open: list[_Lent] = []

    @contextlib.contextmanager
    def lent(self) -> Iterator[sqlite3.Connection]:
        """This thread's connection, for one reading."""
        with self._lock:
            lent = self._of_this_thread()
            lent.uses += 1
        try:
            yield lent.connection
        finally:
            with self._lock:
                lent.uses -= 1
                if lent.given_up and not lent.uses:
                    _close(lent)

    def _of_this_thread(self) -> _Lent:
        found = cast("_Lent | None", getattr(self._local, "lent", None))
        if found is None or found.given_up:
            address = f"{self._file.resolve().as_uri()}?mode=ro"
            found = _Lent(sqlite3.connect(address, uri=True, timeout=WAIT, check_same_thread=False))
            self._local.lent = found
            self._open.append(found)
        return found

    @contextlib.contextmanager
    def given_up(self, file: Path | None = None) -> Iterator[None]:
        """Give up all connections, and open none before the block has ended; readings that are
        under way come to their end in the file they began in.

        Args:
            file: what is read from then on, if it is another.
        """
        with self._lock:
            for lent in self._open:
                lent.given_up = True
                if not lent.uses:
                    _close(lent)
            self._open.clear()
            self._file = file or self._file
            yield


def _close(lent: _Lent) -> None:
    with contextlib.suppress(sqlite3.DatabaseError):  # the file may be damaged
        lent.connection.close()
