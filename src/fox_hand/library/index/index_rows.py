"""One card as a row of the index."""

from __future__ import annotations

import datetime
import os

from fox_hand.core.model.controls import Region
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.names import natural
from fox_hand.library.format.schema import SideName

Stamp = tuple[int, int, int]
SIDES: tuple[SideName, ...] = ("left", "right", "centre", "both")
NUMBER_OF_REGION = {region: number for number, region in enumerate(Region)}


BYTES = 0x10FE00  # private characters of Unicode that stand for bytes which are no text


def storable(path: str) -> str:
    """A path as a database takes it: bytes that are no UTF-8 become private characters."""
    try:
        path.encode()
    except UnicodeEncodeError:
        return "".join(
            chr(BYTES + ord(c) - 0xDC00) if "\udc80" <= c <= "\udcff" else c for c in path
        )
    return path


def as_named(stored: str) -> str:
    """The path that :func:`storable` stored."""
    if stored.isascii() or max(stored) < chr(BYTES):
        return stored
    return "".join(
        chr(0xDC00 + ord(c) - BYTES) if BYTES + 0x80 <= ord(c) <= BYTES + 0xFF else c
        for c in stored
    )


def stamp_of(status: os.stat_result) -> Stamp:
    """What tells that a file is another than before: time, size and inode."""
    return status.st_mtime_ns, status.st_size, status.st_ino


def row_of(entry: Entry, path: str, stamp: Stamp, shape: int) -> tuple[object, ...]:
    """Values in the order of :data:`fox_hand.library.index.index_schema.COLUMNS`."""
    error = entry.error
    wrong = ("", "", "", "")
    if error is not None:
        wrong = (error.code, error.happened, error.kept, error.todo)
    return (
        storable(path),
        storable(entry.sheet),
        *stamp,
        entry.identity,
        entry.name,
        natural(entry.name),
        entry.revision,
        NUMBER_OF_REGION[entry.region],
        SIDES.index(entry.side),
        entry.kind,
        "\n".join(entry.tags),
        entry.note,
        entry.author,
        entry.licence,
        entry.character,
        entry.fingerprint,
        entry.created,
        entry.changed,
        entry.changed_by,
        entry.content,
        _seconds(entry.changed, stamp[0]),
        entry.approved_by,
        entry.approved_at,
        entry.count,
        " ".join(entry.holds),
        shape,
        int(entry.has_picture),
        *wrong,
    )


def _seconds(text: str, otherwise: int) -> int:
    """Seconds since 1970 of an RFC 3339 time; of the file where there is none."""
    try:
        return int(datetime.datetime.fromisoformat(text).timestamp())
    except ValueError:
        return otherwise // 1_000_000_000
