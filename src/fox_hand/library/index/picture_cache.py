"""Small pictures of cards on this machine, so that a slow share is asked once for each."""

from __future__ import annotations

import contextlib
import hashlib
import os
import tempfile
from pathlib import Path

from fox_hand.base.files.inputs import CARD, read_file
from fox_hand.base.files.scratch import PART

ROOM = 256 << 20  # bytes kept at most
SPARE = ROOM * 3 // 4  # what is left after making room


class PictureCache:
    """Files below the user's cache folder; any of them may be deleted at any time.

    What cannot be written is simply not kept: the picture is in the card.
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._written = 0

    def get(self, key: str) -> bytes | None:
        """What was kept under a key; None if it is not there."""
        try:
            return read_file(self._path(key), CARD)
        except OSError:
            return None

    def put(self, key: str, data: bytes) -> None:
        """Keep something; from time to time the oldest make room."""
        path = self._path(key)
        with contextlib.suppress(OSError):
            path.parent.mkdir(parents=True, exist_ok=True)
            descriptor, temporary = tempfile.mkstemp(dir=path.parent, suffix=PART)
            try:
                with os.fdopen(descriptor, "wb") as file:
                    file.write(data)
                Path(temporary).replace(path)
            except OSError:
                Path(temporary).unlink(missing_ok=True)
                raise
            self._written += len(data)
            if self._written > ROOM // 8:
                self._written = 0
                self.make_room()

    def make_room(self, room: int = ROOM, spare: int = SPARE) -> int:
        """Delete the oldest pictures if there are too many; returns how many went."""
        files = []
        for path in self._folder.glob("*/*"):
            with contextlib.suppress(OSError):
                status = path.stat()
                files.append((status.st_mtime, status.st_size, path))
        total, gone = sum(size for _, size, _ in files), 0
        if total <= room:
            return 0
        for _, size, path in sorted(files):
            if total <= spare:
                break
            with contextlib.suppress(OSError):
                path.unlink()
                total, gone = total - size, gone + 1
        return gone

    def _path(self, key: str) -> Path:
        name = hashlib.sha256(key.encode()).hexdigest()[:40]
        return self._folder / name[:2] / name[2:]
