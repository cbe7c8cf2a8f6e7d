"""Whether a program that left something behind still runs."""

from __future__ import annotations

import os
import socket

import msgspec


class Writer(msgspec.Struct, frozen=True):
    """A running program: its machine, its number there, and when it began (in clock ticks since
    the machine started, 0 where that is not known; numbers are given out again)."""

    host: str
    process: int
    began: int = 0

    @property
    def here(self) -> bool:
        """Whether it runs, or ran, on this very machine."""
        return self.host == socket.gethostname()

    @property
    def gone(self) -> bool:
        """Whether it certainly runs no more; of other machines nobody knows."""
        if not self.here:
            return False
        try:
            os.kill(self.process, 0)
        except ProcessLookupError:
            return True
        except OSError:
            pass  # it belongs to somebody else
        return bool(self.began) and _began(self.process) not in (self.began, 0)


def this_program() -> Writer:
    """The one that asks."""
    number = os.getpid()
    return Writer(socket.gethostname(), number, _began(number))


def _began(process: int) -> int:
    """Field 22 of proc(5), ``stat``."""
    try:
        with open(f"/proc/{process}/stat", "rb") as file:  # noqa: PTH123 - no path is worth making
            return int(file.read().rpartition(b")")[2].split()[19])
    except (OSError, ValueError, IndexError):
        return 0
