"""Where a window that is open takes files that somebody opens elsewhere: a socket of this person
alone. One line of JSON comes in, one word goes back."""

from __future__ import annotations

import contextlib
import json
import os
import socket
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

import platformdirs

from fox_hand.base.files.documents import decode_json
from fox_hand.base.places import APPLICATION
from fox_hand.session.runtime.ports import Post

LONGEST = 64 << 10  # bytes of a line
PATIENCE = 2.0  # seconds for the other side
MOST = 100  # paths in one line
TAKEN = b"taken\n"


def door_path() -> Path:
    """Where it is, in the folder of this person's running programs; without one where work is kept,
    and never in a folder that others may write."""
    running = os.environ.get("XDG_RUNTIME_DIR", "")
    known = running.startswith("/") and Path(running).is_dir()
    home = Path(running) / APPLICATION if known else platformdirs.user_state_path(APPLICATION)
    return home / "window.sock"


class Door:
    """Open while a window is; the first window of a person has it.

    Args:
        path: of the socket.
        post: brings what comes to the window's thread.
        came: is given the paths; all are absolute and are looked at by whoever takes them.
    """

    def __init__(self, path: Path, post: Post, came: Callable[[list[Path]], None]) -> None:
        self._path, self._post, self._came = path, post, came
        self._socket: socket.socket | None = None
        with contextlib.suppress(OSError):  # a window without a door is a window
            self._socket = self._opened()
        if self._socket is not None:
            where = (self._socket,)
            threading.Thread(target=self._listen, args=where, daemon=True, name="door").start()

    @property
    def is_open(self) -> bool:
        """Whether this window has it."""
        return self._socket is not None

    def _opened(self) -> socket.socket | None:
        folder = self._path.parent
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        if folder.stat().st_uid != os.getuid():
            return None  # somebody else's
        if self._path.exists():
            if _answers(self._path):
                return None  # another window has it
            self._path.unlink()
        made = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        # nobody else may come in, not even between the two steps
        before = os.umask(0o177)
        try:
            made.bind(str(self._path))
        finally:
            os.umask(before)
        made.listen(8)
        return made

    def _listen(self, at: socket.socket) -> None:
        while True:
            try:
                visitor, _ = at.accept()
            except OSError:
                return  # closed
            with visitor, contextlib.suppress(OSError):
                visitor.settimeout(PATIENCE)
                self._hear(visitor)

    def _hear(self, visitor: socket.socket) -> None:
        said = bytearray()
        while not said.endswith(b"\n") and len(said) <= LONGEST:
            more = visitor.recv(4096)
            if not more:
                return
            said += more
        paths = understood(bytes(said))
        if paths is None:
            visitor.sendall(b"refused\n")
            return
        if paths:
            self._post(lambda: self._came(paths))
        visitor.sendall(TAKEN)

    def close(self) -> None:
        """Nobody comes in any more."""
        if self._socket is not None:
            with contextlib.suppress(OSError):
                self._socket.shutdown(socket.SHUT_RDWR)  # whoever waits at it wakes up
            self._socket.close()
            self._socket = None
            self._path.unlink(missing_ok=True)


def understood(line: bytes) -> list[Path] | None:
    """The paths in a line; None for what is no such line."""
    if len(line) > LONGEST:
        return None
    try:
        said: Any = decode_json(line, object)
    except ValueError:
        return None
    paths = said.get("open") if isinstance(said, dict) else None
    if not isinstance(paths, list) or len(paths) > MOST:
        return None
    if not all(isinstance(p, str) and p.startswith("/") and "\0" not in p for p in paths):
        return None
    return [Path(p) for p in paths]


def _answers(path: Path) -> bool:
    return _said(path, []) == TAKEN


def knock(path: Path, files: list[Path]) -> bool:
    """Give files to the window that is open; False where there is none, or it does not answer."""
    return path.exists() and _said(path, files) == TAKEN


def _said(path: Path, files: list[Path]) -> bytes:
    """What the other side answers; nothing where there is none."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as way:
        way.settimeout(PATIENCE)
        try:
            way.connect(str(path))
            line = json.dumps({"open": [str(f) for f in files]}).encode() + b"\n"
            way.sendall(line)
            return way.recv(64)
        except (OSError, UnicodeEncodeError):
            return b""
