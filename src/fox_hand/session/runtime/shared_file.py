"""A small file of one person that several windows keep at the same time.

Each window remembers how the file was when it last read or wrote it. Before it writes, what others
wrote meanwhile is read and put together with its own changes, under a lock that is held for
moments only.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Generic, TypeVar

import msgspec
from filelock import FileLock, Timeout

from fox_hand.base.files.documents import decode_json
from fox_hand.base.files.inputs import CARD, read_file
from fox_hand.library.files.atomic import make_folder, write_atomically

PATIENCE = 5.0  # seconds; another window holds the lock for milliseconds
POLL = 0.004  # seconds between two tries; with longer ones a busy window would leave no gap
Content = TypeVar("Content", bound=msgspec.Struct)


class SharedFile(Generic[Content]):
    """The file.

    Args:
        path: where.
        kind: what it holds.
        merged: puts together what was, what is ours and what is theirs.
    """

    def __init__(
        self,
        path: Path,
        kind: type[Content],
        merged: Callable[[Content, Content, Content], Content],
    ) -> None:
        self.path, self._kind, self._merged = path, kind, merged
        self._base = kind()

    def known(self, content: Content) -> None:
        """This is what this window has of it; what differs from it later, it changed itself."""
        self._base = msgspec.json.decode(msgspec.json.encode(content), type=self._kind)

    def write(self, ours: Content) -> Content:
        """Write our changes beside those of others; the whole is returned. Who goes on with the
        whole says so with :meth:`known`.

        Raises:
            FoxHandError: ``file.write``.
        """
        make_folder(self.path.parent)
        with self._alone():
            theirs = self._there()
            if theirs is None:
                self._put_aside()
            whole = ours if theirs is None else self._merged(self._base, ours, theirs)
            text = msgspec.json.format(msgspec.json.encode(whole), indent=1) + b"\n"
            write_atomically(self.path, text)
        self.known(ours)
        return whole

    def _there(self) -> Content | None:
        """What the file holds now; None where nothing usable does (it was put aside or is gone)."""
        with contextlib.suppress(OSError, ValueError):
            found = decode_json(read_file(self.path, CARD), self._kind)
            if getattr(found, "version", None) == getattr(self._base, "version", None):
                return found
        return None

    def _put_aside(self) -> None:
        """What nobody here can read, such as what a newer program wrote, is kept beside."""
        with contextlib.suppress(OSError):
            if self.path.stat().st_size:
                self.path.replace(self.path.with_suffix(".unreadable.json"))

    @contextlib.contextmanager
    def _alone(self) -> Iterator[None]:
        """While no other window writes. A lock that cannot be had is no reason to lose a setting:
        the file is written whole in any case."""
        lock = FileLock(f"{self.path}.lock", timeout=PATIENCE, thread_local=False)
        with contextlib.suppress(Timeout, OSError):
            lock.acquire(poll_interval=POLL)
        try:
            yield
        finally:
            lock.release()


def changed_fields(base: Content, ours: Content, theirs: Content) -> Content:
    """Every field as whoever changed it has it; ours where both did."""
    names = type(base).__struct_fields__
    found = {n: getattr(theirs, n) for n in names}
    found |= {n: getattr(ours, n) for n in names if getattr(ours, n) != getattr(base, n)}
    return type(base)(**found)
