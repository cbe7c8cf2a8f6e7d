"""Who may read and write what is made in a library: everybody who may use the library's folder.

Colleagues have different umasks, and a folder without the set-gid bit gives new files the group of
whoever makes them. Therefore what is made below a library takes the group and the mode bits of
the library's own folder, and a file that is rewritten keeps its group (POSIX.1-2017, ``open`` and
``chmod``).
"""

from __future__ import annotations

import contextlib
import os
import stat
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from shlex import quote

from fox_hand.base.language import tr

GROUP = stat.S_IRWXG
OTHERS = stat.S_IRWXO
MARK = "library.toml"


@dataclass(frozen=True)
class Access:
    """What a library's folder grants.

    Args:
        mode: its permission bits, set-gid included.
        group: number of its group.
    """

    mode: int
    group: int

    @property
    def of_files(self) -> int:
        """Permission bits for files: the same without running them."""
        return self.mode & 0o666 | 0o600


def access_of(folder: Path) -> Access | None:
    """What the library above a folder grants; None outside of libraries."""
    for above in (folder, *folder.parents):
        with contextlib.suppress(OSError):
            if (above / MARK).is_file():
                return access_to(above)
    return None


def access_to(folder: Path) -> Access:
    """What a folder itself grants."""
    status = folder.stat()
    return Access(stat.S_IMODE(status.st_mode), status.st_gid)


def give(path: Path, access: Access, *, folder: bool) -> None:
    """Let a file or folder that was just made be used like its library, as far as one may."""
    with contextlib.suppress(OSError):  # one is no member of that group
        if path.stat().st_gid != access.group:
            os.chown(path, -1, access.group)
    with contextlib.suppress(OSError):
        path.chmod(access.mode | 0o700 if folder else access.of_files)


@dataclass(frozen=True)
class Contradiction:
    """Something in a library that not everybody can use who may use the library.

    Args:
        path: the first of them.
        count: how many there are.
        why: half a sentence.
        mend: the command that mends it, for the owner or the system's keeper.
    """

    path: Path
    count: int
    why: str
    mend: str


def contradiction(library: Path) -> Contradiction | None:
    """Whether the rights within a library contradict those of its folder."""
    try:
        root = library.stat()
    except OSError:
        return None
    found = [(path, why) for path, status in _all(library) if (why := _less(root, status))]
    if not found:
        return None
    place, group = quote(str(library)), root.st_gid
    # the letters that the folder itself has for its group and for all others
    letters = f"g={_letters(root.st_mode >> 3)},o={_letters(root.st_mode)}"
    mend = f"chgrp -R {_group_name(group)} {place} && chmod -R {letters} {place}"
    if root.st_mode & GROUP & stat.S_IWGRP:
        mend += f" && find {place} -type d -exec chmod g+s {{}} +"
    return Contradiction(found[0][0], len(found), found[0][1], mend)


def _all(library: Path) -> Iterator[tuple[Path, os.stat_result]]:
    for folder, names, files in os.walk(library):
        for name in (*names, *files):
            path = Path(folder) / name
            with contextlib.suppress(OSError):
                status = path.lstat()
                if not stat.S_ISLNK(status.st_mode) and not name.endswith(".part"):
                    yield path, status


def _less(root: os.stat_result, status: os.stat_result) -> str:
    """What somebody who may use the library cannot do here; empty if nothing is less."""
    needed = root.st_mode
    if not stat.S_ISDIR(status.st_mode):
        needed &= 0o444  # files are replaced, never written into
    lacking = needed & ~status.st_mode
    # whoever is in the library's group counts among the others where the group is another one
    if status.st_gid != root.st_gid and needed & GROUP & ~((status.st_mode & OTHERS) << 3):
        return tr("it belongs to another group than the library's folder")
    if lacking & (stat.S_IWGRP | stat.S_IWOTH):
        return tr("not everybody may write in it who may write in the library's folder")
    if lacking & (GROUP | OTHERS):
        return tr("not everybody may read it who may read the library's folder")
    return ""


def _letters(bits: int) -> str:
    """Rights as ``chmod`` names them; X runs only folders."""
    pairs = ((4, "r"), (2, "w"), (1, "X"))
    return "".join(letter for bit, letter in pairs if bits & bit)


def _group_name(number: int) -> str:
    import grp  # noqa: PLC0415 - asked for once, and only where something is wrong

    try:
        return grp.getgrgid(number).gr_name
    except KeyError:
        return str(number)
