"""Folders for the moment, and what programs that were killed left of theirs."""

from __future__ import annotations

import contextlib
import os
import shutil
import stat
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from fox_hand.base.language import tr
from fox_hand.base.system.clock import now_at
from fox_hand.base.system.processes import Writer, this_program

PREFIX = "fox-hand-"
PART = ".part"  # how the name of a file ends that is being written
OLD = 3600.0  # seconds; nobody writes one file for so long


@contextmanager
def scratch_folder(beside: Path | None = None) -> Iterator[Path]:
    """A folder that is gone afterwards. Its name says whose it is, so that it goes later if the
    program is killed.

    Args:
        beside: where, so that what is made in it can be renamed into place; None for the system's
            place for such folders.
    """
    with tempfile.TemporaryDirectory(prefix=_prefix(), dir=beside) as folder:
        yield Path(folder)


def lasting_scratch() -> Path:
    """One that stays until the program has ended and another begins."""
    return Path(tempfile.mkdtemp(prefix=_prefix()))


def _prefix() -> str:
    me = this_program()
    return f"{PREFIX}{me.process}-{me.began}-"


def sweep(folders: Iterable[Path]) -> int:
    """Take away what killed programs of this user left.

    Args:
        folders: the user's own; half-written files in them and below.

    Returns:
        how many files and folders went.
    """
    count = 0
    for folder in (Path(tempfile.gettempdir()), *folders):
        count += sum(_without_writer(path) for path in _found(folder, f"{PREFIX}*-*-*"))
    for folder in folders:
        now = now_at(folder)
        for path in _found(folder, f"**/*{PART}"):
            with contextlib.suppress(OSError):
                if abs(now - path.lstat().st_mtime) > OLD:
                    path.unlink()
                    count += 1
    return count


def not_writable(folders: Iterable[Path]) -> tuple[Path, str] | None:
    """The first of some folders in which nothing can be made, and why; made if it is not there."""
    for folder in folders:
        try:
            folder.mkdir(parents=True, exist_ok=True)
            with tempfile.TemporaryFile(dir=folder):
                pass
        except OSError as error:
            return folder, error.strerror or tr("the system gives no reason")
    return None


def _found(folder: Path, pattern: str) -> list[Path]:
    try:
        return sorted(folder.glob(pattern))
    except OSError:
        return []


def _without_writer(path: Path) -> bool:
    """Remove a folder whose program is gone; false where it is not ours or still in use."""
    process, _, rest = path.name.removeprefix(PREFIX).partition("-")
    began = rest.partition("-")[0]
    try:
        status = path.lstat()
        writer = Writer(this_program().host, int(process), int(began))
    except (OSError, ValueError):
        return False
    if status.st_uid != os.getuid() or not stat.S_ISDIR(status.st_mode) or not writer.gone:
        return False
    shutil.rmtree(path, ignore_errors=True)
    return not path.exists()
