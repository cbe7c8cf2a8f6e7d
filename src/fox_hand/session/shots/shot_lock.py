"""Who has a shot open: a small file beside it, so that the second person is warned."""

from __future__ import annotations

import contextlib
import getpass
import os
import socket
import time
from dataclasses import dataclass
from pathlib import Path

import msgspec

from fox_hand.base.files.documents import decode_json
from fox_hand.base.files.inputs import TEXT, read_file
from fox_hand.base.language import tr
from fox_hand.base.system.clock import now_at
from fox_hand.base.system.processes import Writer

STALE = 180.0  # seconds after which nobody is behind a file that was not renewed
RENEW = 45.0


class Holder(msgspec.Struct):
    """Who has it open, and since when (seconds since 1970)."""

    who: str
    host: str
    process: int
    since: float
    token: str

    @property
    def this_account(self) -> bool:
        """Whether it is open in another window of the same person on this machine."""
        here = socket.gethostname() == self.host
        return here and _owner(self.process) == os.getuid()

    @property
    def gone(self) -> bool:
        """Whether the program behind it certainly runs no more."""
        return Writer(self.host, self.process).gone


@dataclass
class ShotLock:
    """Held while a shot is open.

    Args:
        path: the shot.
        who: how the person signs; the account's name where nothing is known.
    """

    path: Path
    who: str = ""

    def __post_init__(self) -> None:
        self._token = f"{os.getpid()}-{time.time_ns()}"
        self._renewed = 0.0
        self.mine = False

    @property
    def file(self) -> Path:
        return self.path.with_name(f".{self.path.name}.open")

    def take(self) -> Holder | None:
        """Say that it is open here; whoever has it open already is returned and keeps it."""
        other = self.holder()
        if other is None:
            self._write()
        return other

    def holder(self) -> Holder | None:
        """Somebody else who has it open; files of programs that are gone do not count."""
        try:
            if self.file.is_symlink():
                return None  # nobody of ours made that
            found = decode_json(read_file(self.file, TEXT), Holder)
            age = abs(now_at(self.path.parent) - self.file.stat().st_mtime)
        except (OSError, ValueError):
            return None
        if found.token == self._token or age > STALE or found.gone:
            return None
        return found

    def renew(self) -> None:
        """From time to time, so that nobody takes it for left behind."""
        if self.mine and time.monotonic() - self._renewed > RENEW:
            self._write()

    def release(self) -> None:
        """It is not open here any more."""
        if self.mine and self.holder() is None:
            with contextlib.suppress(OSError):
                self.file.unlink()
        self.mine = False

    def _write(self) -> None:
        """Where nothing can be written beside it, such as on a read-only share, nobody is warned;
        nobody can save there either."""
        holder = Holder(
            self.who or _account(), socket.gethostname(), os.getpid(), time.time(), self._token
        )
        with contextlib.suppress(OSError):
            # one that is stale or ours gives way; a link that lies there goes, not what it leads to
            self.file.unlink(missing_ok=True)
            flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW
            descriptor = os.open(self.file, flags, 0o666)
            with os.fdopen(descriptor, "wb") as file:
                file.write(msgspec.json.encode(holder))
            self.mine = True
            self._renewed = time.monotonic()


def _owner(process: int) -> int:
    try:
        return Path(f"/proc/{process}").stat().st_uid
    except OSError:
        return -1


def _account() -> str:
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return tr("someone")
