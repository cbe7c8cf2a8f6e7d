"""What lies in a library without belonging to any card."""

from __future__ import annotations

import contextlib
from collections.abc import Collection
from pathlib import Path

from fox_hand.base.files.scratch import OLD, PART
from fox_hand.base.system.clock import now_at
from fox_hand.library.format.head import read_head
from fox_hand.library.format.names import file_stem
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store.store import Library


def leftovers(library: Library, older_than: float = OLD) -> tuple[Path, ...]:
    """Temporary files of programs that were cut off while they wrote. What they were to replace
    is whole, so they can go."""
    found, now = [], now_at(library.folder)
    for path in library.folder.rglob(f".*{PART}"):
        with contextlib.suppress(OSError):
            if abs(now - path.stat().st_mtime) > older_than:
                found.append(path)
    return tuple(sorted(found))


def lost_versions(library: Library, known: Collection[str]) -> tuple[Path, ...]:
    """The latest earlier version of each card that is neither in a sheet nor in the keep, such as
    one that was deleted outside the program.

    Args:
        library: where to look.
        known: identities of all cards in its sheets.
    """
    there = {file_stem(identity) for identity in known}
    there |= {file_stem(read_head(path, "").entry.identity) for path in library.removed()}
    found = []
    for folder in sorted((library.own / "versions").glob("*")):
        if folder.name in there or not folder.is_dir():
            continue
        versions = [p for p in sorted(folder.glob(f"*{SUFFIX}")) if read_head(p, "").entry.readable]
        if versions:
            found.append(versions[-1])
    return tuple(found)
