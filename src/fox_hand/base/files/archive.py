"""ZIP files of others: cards, packs and drawings in layers, opened with limits.

A ZIP file's directory says how many members there are and how large each unpacks; both are looked
at before anything is read (PKWARE APPNOTE 4.3.12 to 4.3.16), so a small file cannot fill the
memory.
"""

from __future__ import annotations

import os
import struct
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from fox_hand.base.files.inputs import TooLargeError, open_file
from fox_hand.base.language import tr

END = struct.Struct("<4s4H2IH")
END64_PLACE = struct.Struct("<4sIQI")
END64 = struct.Struct("<4sQ2H2I4Q")
COMMENT = 65_535
DIRECTORY_LINE = 46  # bytes at least for each member
# what zipfile raises for a file that is damaged, encrypted or packed in a way it does not know
BROKEN = (
    zipfile.BadZipFile,
    zlib.error,
    EOFError,
    NotImplementedError,
    RuntimeError,
    ValueError,
    KeyError,
    struct.error,
)


class TooManyMembersError(OSError):
    """More members than such a file ever has."""

    def __init__(self, most: int) -> None:
        super().__init__(0, tr("it holds more than {most:,} files", most=most))


@contextmanager
def opened_archive(path: Path, largest: int, members: int) -> Iterator[zipfile.ZipFile]:
    """A ZIP file, for reading.

    Args:
        path: the file.
        largest: its size in bytes at most.
        members: how many it may hold.

    Raises:
        OSError: as :func:`fox_hand.base.files.inputs.open_file`, or :class:`TooManyMembersError`.
        BROKEN: for what is no ZIP file or a damaged one, while it is open as well.
    """
    with open_file(path, largest) as file:
        _count(file, members)
        with zipfile.ZipFile(file) as archive:
            if len(archive.infolist()) > members:  # the directory says less than it holds
                raise TooManyMembersError(members)
            yield archive


def read_member(archive: zipfile.ZipFile, name: str, largest: int) -> bytes:
    """A member, unpacked.

    Raises:
        TooLargeError: if it unpacks to more.
        BROKEN: as :func:`opened_archive`.
    """
    size = archive.getinfo(name).file_size
    if size > largest:
        raise TooLargeError(size, largest)
    return archive.read(name)


def why_broken(error: Exception) -> str:
    """What is wrong with a ZIP file, for people: half a sentence."""
    if isinstance(error, RuntimeError) and "encrypted" in str(error):
        return tr("it is locked with a password")
    if isinstance(error, NotImplementedError):
        return tr("it is packed in a way that is not read here")
    return tr("it ends in the middle or was changed")


def _count(file: BinaryIO, members: int) -> None:
    """Refuse a directory that is far too long, before it is read."""
    size = os.fstat(file.fileno()).st_size
    start = max(size - END.size - COMMENT - END64_PLACE.size, 0)
    file.seek(start)
    tail = file.read()
    at = tail.rfind(b"PK\5\6")
    if at < 0 or at + END.size > len(tail):
        return  # zipfile says what is wrong
    _, _, _, _, count, directory, _, _ = END.unpack_from(tail, at)
    place = at - END64_PLACE.size
    if place >= 0 and tail[place : place + 4] == b"PK\6\7":
        _, _, where, _ = END64_PLACE.unpack_from(tail, place)
        if where < size:
            file.seek(where)
            record = file.read(END64.size)
            if len(record) == END64.size and record[:4] == b"PK\6\6":
                _, _, _, _, _, _, _, count, directory, _ = END64.unpack(record)
    if count > members or directory > members * (DIRECTORY_LINE + COMMENT // 64):
        raise TooManyMembersError(members)
    file.seek(0)
