"""Writing files so that a reader finds the old one or the new one, never half of one."""

from __future__ import annotations

import contextlib
import os
import stat
import tempfile
from pathlib import Path

from fox_hand.base.errors import FoxHandError


def write_atomically(path: Path, data: bytes) -> None:
    """Replace or create a file in one step.

    The bytes go to a temporary file in the same folder, are flushed to disk and renamed over the
    old file, whose permissions are kept (a new file gets what the umask allows, so that
    colleagues on a share can read it).

    Raises:
        FoxHandError: ``file.write``; the old file is untouched.
    """
    try:
        mode = stat.S_IMODE(path.stat().st_mode)
    except FileNotFoundError:
        mode = 0o666 & ~_umask()
    except OSError as error:
        raise _failed(path, error) from error
    temporary = ""
    try:
        descriptor, temporary = tempfile.mkstemp(dir=path.parent, prefix=".", suffix=".part")
        with os.fdopen(descriptor, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        Path(temporary).chmod(mode)
        Path(temporary).replace(path)
    except OSError as error:
        if temporary:
            with contextlib.suppress(OSError):
                Path(temporary).unlink()
        raise _failed(path, error) from error
    flush_folder(path.parent)


def make_folder(folder: Path) -> None:
    """A folder and those above it.

    Raises:
        FoxHandError: ``file.write``.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FoxHandError(
            "file.write",
            f"The folder {folder.name} could not be made ({error.strerror}).",
            "Nothing was written.",
            "Get permission to write there, then try again.",
        ) from error


def flush_folder(folder: Path) -> None:
    """Make a rename survive a power cut, where the file system can."""
    with contextlib.suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)


def _umask() -> int:
    """The process's umask, read without changing it for other threads where possible."""
    with contextlib.suppress(OSError, StopIteration, ValueError):
        lines = Path("/proc/self/status").read_text().splitlines()
        return int(next(line for line in lines if line.startswith("Umask:")).split()[1], 8)
    current = os.umask(0o022)
    os.umask(current)
    return current


def _failed(path: Path, error: OSError) -> FoxHandError:
    return FoxHandError(
        "file.write",
        f"{path.name} could not be written ({error.strerror}).",
        "What was there before is untouched.",
        "Make room or get permission to write in its folder, then try again.",
    )
