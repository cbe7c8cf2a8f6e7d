"""Writing files so that a reader finds the old one or the new one, never half of one.

Everything that touches a library's files goes through these few functions, so that what happens
when the power fails, the disk is full or the share is gone is decided here and tested here.
"""

from __future__ import annotations

import contextlib
import ctypes
import errno
import os
import stat
import tempfile
from collections.abc import Iterable
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.scratch import PART
from fox_hand.base.language import tr
from fox_hand.library.files.access import MARK, Access, access_of, access_to, give

AS_IT_COMES = -1  # the group that the system gives
HERE, NOT_OVER_ANOTHER = -100, 1  # AT_FDCWD and RENAME_NOREPLACE of Linux
NO_LINKS = {errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK, errno.EINVAL}


def keep_earlier(path: Path) -> Path | None:
    """Keep a file that others use beside itself before another takes its place; what was kept
    before is not needed any more. Returns where it lies, None where there is no file yet.

    Raises:
        FoxHandError: ``file.write``; nothing was changed.
    """
    try:
        data = path.read_bytes()
    except FileNotFoundError:
        return None
    except OSError as error:
        raise FoxHandError(
            "file.write",
            tr("{name} cannot be kept ({strerror}).", name=path.name, strerror=error.strerror),
            tr("Nothing was changed."),
        ) from error
    kept = path.with_name(f"{path.name}.earlier")
    write_atomically(kept, data)
    return kept


def write_atomically(path: Path, data: bytes) -> None:
    """Replace or create a file in one step.

    The bytes go to a temporary file in the same folder, are flushed to disk and renamed over the
    old file (through a link: over the file it leads to), whose permissions and group are kept.
    A new file gets what its library grants, elsewhere what the umask allows.

    Raises:
        FoxHandError: ``file.write``; the old file is untouched.
    """
    if path.is_symlink():  # what it leads to is meant
        path = Path(os.path.realpath(path))
    try:
        before = path.stat()
    except FileNotFoundError:
        access = _new_access(path)
    except OSError as error:
        raise _failed(path, error) from error
    else:
        access = Access(stat.S_IMODE(before.st_mode), before.st_gid)
    temporary = _written_beside(path, data, access)
    try:
        temporary.replace(path)
    except OSError as error:
        _forget(temporary)
        raise _failed(path, error) from error
    flush_folder(path.parent)


def write_new(paths: Iterable[Path], data: bytes) -> Path:
    """Write a file under the first of some names that is free; no file is ever replaced, even if
    somebody else takes the same name in the same moment.

    Args:
        paths: names in one folder, in the order they are to be tried.

    Raises:
        FoxHandError: ``file.write``; nothing was written.
    """
    tries = iter(paths)
    path = next(tries)
    temporary = _written_beside(path, data, _new_access(path))
    try:
        while not _named(temporary, path):
            try:
                path = next(tries)
            except StopIteration as error:
                raise FileExistsError(errno.EEXIST, "the name is taken") from error
    except OSError as error:
        _forget(temporary)
        raise _failed(path, error) from error
    flush_folder(path.parent)
    return path


def move_new(source: Path, paths: Iterable[Path]) -> Path:
    """Give a file the first of some names that is free, on the same file system. At every moment
    it has its old name or its new one; where the file system cannot do better, for an instant both.

    Raises:
        FoxHandError: ``file.move``; it has its old name.
    """
    path = source
    try:
        for path in paths:
            if path == source:
                return source
            if _named(source, path):
                break
    except OSError as error:
        raise FoxHandError(
            "file.move",
            tr("{name} could not be moved ({reason}).", name=source.name, reason=_reason(error)),
            tr("It lies where it was."),
        ) from error
    flush_folder(path.parent)
    flush_folder(source.parent)
    return path


def remove(path: Path) -> None:
    """Delete a file that is no longer needed, such as one that was delivered.

    Raises:
        FoxHandError: ``file.remove``.
    """
    try:
        path.unlink(missing_ok=True)
    except OSError as error:
        raise FoxHandError(
            "file.remove",
            tr("{name} could not be removed ({reason}).", name=path.name, reason=_reason(error)),
            tr("It lies where it was."),
        ) from error


def _written_beside(path: Path, data: bytes, access: Access) -> Path:
    """A flushed temporary file in the same folder. What a killed program leaves of it begins with
    a dot and ends with ``.part``, and no reader takes it for a card."""
    temporary = ""
    try:
        descriptor, temporary = tempfile.mkstemp(dir=path.parent, prefix=".", suffix=PART)
        with os.fdopen(descriptor, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        _give(Path(temporary), access)
    except OSError as error:
        if temporary:
            _forget(Path(temporary))
        raise _failed(path, error) from error
    return Path(temporary)


def _give(temporary: Path, access: Access) -> None:
    """The group and the permissions a file is to have. Where the group cannot be given, those
    who read it as its members may read it all the same, if their library lets them."""
    mode = access.mode & 0o777
    if access.group not in (AS_IT_COMES, temporary.stat().st_gid):
        try:
            os.chown(temporary, -1, access.group)
        except OSError:
            library = access_of(temporary.parent)
            mode |= library.of_files if library is not None else 0
    temporary.chmod(mode)


def _named(source: Path, path: Path) -> bool:
    """Move a file to a name that must be free; false if it is not."""
    try:
        rename_new(source, path)
        return True
    except FileExistsError:
        return False
    except OSError as error:
        if error.errno not in NO_LINKS:
            raise
    try:
        path.hardlink_to(source)
    except FileExistsError:
        return False
    except OSError as error:
        if error.errno not in NO_LINKS:
            raise
        # Some shares know no second name for a file. What is left is to look first; the
        # library's lock keeps others of this program from coming in between.
        if path.exists():
            return False
        source.replace(path)
        return True
    try:
        source.unlink(missing_ok=True)
    except OSError:
        _forget(path)  # or the file would have two names
        raise
    return True


def rename_new(source: Path, path: Path) -> None:
    """Rename a file to a name that must be free, in one step (Linux, ``renameat2``).

    Raises:
        FileExistsError: the name is taken.
        OSError: ``ENOSYS`` or ``EINVAL`` where the system or the file system cannot do that.
    """
    call = getattr(ctypes.CDLL(None, use_errno=True), "renameat2", None)
    if call is None:
        raise OSError(errno.ENOSYS, os.strerror(errno.ENOSYS))
    if call(HERE, os.fsencode(source), HERE, os.fsencode(path), NOT_OVER_ANOTHER):
        number = ctypes.get_errno()
        raise OSError(number, os.strerror(number), str(source))


def _forget(temporary: Path) -> None:
    with contextlib.suppress(OSError):
        temporary.unlink()


def make_folder(folder: Path) -> None:
    """A folder and those above it.

    Raises:
        FoxHandError: ``file.write``.
    """
    try:
        missing = [f for f in (folder, *folder.parents) if not f.exists()]
        folder.mkdir(parents=True, exist_ok=True)
        access = access_of(folder) if missing else None
        if access is not None:
            for made in reversed(missing):
                give(made, access, folder=True)
    except (FileExistsError, NotADirectoryError) as error:
        raise FoxHandError(
            "file.in_the_way",
            tr(
                "The folder {name} could not be made: a file stands where it should be.",
                name=folder.name,
            ),
            tr("Nothing was written."),
            tr("Choose another name, or move that file away."),
        ) from error
    except OSError as error:
        raise FoxHandError(
            "file.write",
            tr(
                "The folder {name} could not be made ({reason}).",
                name=folder.name,
                reason=_reason(error),
            ),
            tr("Nothing was written."),
            what_to_do(error),
        ) from error


def flush_folder(folder: Path) -> None:
    """Make a rename survive a power cut, where the file system can."""
    with contextlib.suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)


def _new_access(path: Path) -> Access:
    """What a new file gets: what its library grants, elsewhere what the umask allows."""
    # what makes a folder a library is the first file in it
    library = None
    with contextlib.suppress(OSError):  # writing says what is wrong
        library = access_to(path.parent) if path.name == MARK else access_of(path.parent)
    if library is None:
        return Access(0o666 & ~_umask(), AS_IT_COMES)
    return Access(library.of_files, library.group)


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
        tr("{name} could not be written ({reason}).", name=path.name, reason=_reason(error)),
        tr("What was there before is untouched."),
        what_to_do(error),
    )


def what_to_do(error: OSError) -> str:
    """What helps against an error of writing."""
    if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
        return tr("Make room on that disk, then try again.")
    if error.errno in (errno.EACCES, errno.EPERM):
        return tr("Get permission to write there, then try again.")
    if error.errno == errno.EROFS:
        return tr("It can only be read there: write somewhere else, or have it opened for writing.")
    return tr("Look whether its disk or share is in order, then try again.")


def _reason(error: OSError) -> str:
    """Why, in words; an error made by hand may have none."""
    return error.strerror or str(error) or type(error).__name__
