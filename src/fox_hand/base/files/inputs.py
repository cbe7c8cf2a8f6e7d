"""The door for files that others made: only regular files, and none that is far too large.

A link is followed to what it names: people keep rigs, cards and shots behind links. What is found
there must be a regular file, and opening never waits for somebody at the other end of a pipe.
Both refusals are :class:`OSError`, so whoever reads a file says them like any other reason.
"""

from __future__ import annotations

import errno
import os
import stat
from pathlib import Path
from typing import BinaryIO

from fox_hand.base.language import tr

MEGABYTE = 1 << 20
TEXT = 4 * MEGABYTE  # what a person or a program writes as settings
CARD = 128 * MEGABYTE
SHOT = 256 * MEGABYTE
MOTION = 512 * MEGABYTE  # a character or its motion, and each part it names
PACK = 4096 * MEGABYTE


class NotAFileError(OSError):
    """A folder, a pipe, a device or a socket stands where a file should be."""

    def __init__(self) -> None:
        super().__init__(errno.EINVAL, tr("it is a folder, a pipe or a device, not a file"))


class TooLargeError(OSError):
    """More than is ever read of this kind of file."""

    def __init__(self, size: int, largest: int) -> None:
        super().__init__(
            errno.EFBIG,
            tr(
                "it is {size:,.0f} MB large, at most {largest:,.0f} MB are read",
                size=size / MEGABYTE,
                largest=largest / MEGABYTE,
            ),
        )


def open_file(path: Path, largest: int) -> BinaryIO:
    """Open a regular file for reading.

    Args:
        path: the file, or a link to it.
        largest: in bytes; holes count like bytes.

    Raises:
        OSError: among others :class:`NotAFileError` and :class:`TooLargeError`.
    """
    descriptor, _size = open_descriptor(path, largest)
    try:
        return os.fdopen(descriptor, "rb")
    except BaseException:
        os.close(descriptor)
        raise


def open_descriptor(path: Path, largest: int) -> tuple[int, int]:
    """The same as a bare descriptor, to be closed by the caller, and the file's size."""
    try:
        # without O_NONBLOCK opening a pipe that nobody writes into would wait for ever
        descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC | os.O_NOCTTY)
    except ValueError as error:  # a name with a zero byte in it
        raise FileNotFoundError(errno.ENOENT, tr("there is no file of such a name")) from error
    except OSError as error:
        if error.errno == errno.ENXIO:  # a socket, or a device that is not there
            raise NotAFileError from error
        raise
    try:
        status = os.fstat(descriptor)
        if not stat.S_ISREG(status.st_mode):
            raise NotAFileError
        if status.st_size > largest:
            raise TooLargeError(status.st_size, largest)
        return descriptor, status.st_size
    except BaseException:
        os.close(descriptor)
        raise


def read_file(path: Path, largest: int) -> bytes:
    """The bytes of a regular file.

    Raises:
        OSError: as :func:`open_file`.
    """
    with open_file(path, largest) as file:
        data = file.read(largest + 1)
        if len(data) > largest:  # it grows while it is read
            raise TooLargeError(len(data), largest)
        return data


def read_text(path: Path, largest: int = TEXT) -> str:
    """A UTF-8 text file.

    Raises:
        OSError: as :func:`open_file`.
        UnicodeDecodeError: where it is not UTF-8.
    """
    return read_file(path, largest).decode("utf-8")
