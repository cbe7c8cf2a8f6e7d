"""Bringing an index up to date with the files; only what changed is read."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from fox_hand.base.files.scratch import OLD, PART
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.library.format.head import read_head
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.index.index import Index, IndexedFile
from fox_hand.library.index.index_rows import Stamp, stamp_of

Fresh = tuple[str, str, Stamp]  # path below the library, sheet, stamp
NOTHING: Stamp = (0, 0, 0)
CHARTS = "charts"  # folder of charts and their pictures
TOGETHER = 2000  # files in one transaction: what was read stays read when the rest is cancelled


@dataclass(frozen=True)
class Changes:
    """What a scan found.

    Args:
        read: files that were new or had changed.
        gone: files that are no longer there.
        unread: folders that could not be listed and why; what was known of them stays.
        links: links to other folders, which are not followed.
        folders: all sheets, those without cards too.
    """

    read: int
    gone: int
    unread: Mapping[str, str]
    links: tuple[str, ...]
    folders: tuple[str, ...]

    def __bool__(self) -> bool:
        return bool(self.read or self.gone)


@dataclass(frozen=True)
class Folder:
    """One folder of a library.

    Args:
        sheet: its path below the library, with ``/``.
        cards: paths below the library and stamps of the card files in it.
        refused: why it could not be read; empty where it was.
        links: links to folders in it.
        parts: files in it that are being written, or were when a program was killed.
        inner: whether it has folders of its own.
    """

    sheet: str
    cards: tuple[tuple[str, Stamp], ...]
    refused: str
    inner: bool
    links: tuple[str, ...] = ()
    parts: tuple[tuple[str, Stamp], ...] = ()


def walk(root: Path) -> Iterator[Folder]:
    """All folders of a library, without those that begin with a dot. Links to folders are not
    followed: they could go in circles."""
    stack = [""]
    while stack:
        sheet = stack.pop()
        cards, below, links = list[tuple[str, Stamp]](), list[str](), list[str]()
        parts = list[tuple[str, Stamp]]()
        start = f"{sheet}/" if sheet else ""
        try:
            with os.scandir(root / sheet if sheet else root) as items:
                for item in items:
                    name = item.name
                    if name.startswith("."):
                        if name.endswith(PART):
                            parts.append((start + name, _stamp(item) or NOTHING))
                        continue
                    if name.endswith(SUFFIX):
                        stamp = _stamp(item)
                        if stamp is not None:
                            cards.append((start + name, stamp))
                    elif item.is_dir(follow_symlinks=False):
                        below.append(start + name)
                    elif item.is_symlink() and _leads_to_folder(item):
                        links.append(start + name)
        except OSError as error:
            yield Folder(sheet, (), error.strerror or tr("the system gives no reason"), inner=False)
            continue
        yield Folder(sheet, tuple(cards), "", bool(below), tuple(links), tuple(parts))
        stack += below


def _stamp(item: os.DirEntry[str]) -> Stamp | None:
    """Of a card file; None if it went while we looked. A link that leads nowhere or in a circle
    is listed as what it is, and reading it says what is wrong."""
    try:
        return stamp_of(item.stat())
    except OSError:
        try:
            return stamp_of(item.stat(follow_symlinks=False))
        except FileNotFoundError:
            return None


def _leads_to_folder(item: os.DirEntry[str]) -> bool:
    try:
        return item.is_dir()
    except OSError:
        return True  # in a circle


def scan(index: Index, progress: Progress | None = None) -> Changes:
    """Compare files with the index and read what changed.

    Raises:
        OSError: if the library's own folder cannot be listed; the index stays as it was.
        Cancelled: what was read so far is kept.
    """
    with index.looking:
        return _scan(index, progress or Progress())


def _scan(index: Index, progress: Progress) -> Changes:
    known = index.stamps()
    fresh: list[Fresh] = []
    folders, unread, links = list[str](), dict[str, str](), list[str]()
    parts, newest = list[tuple[str, Stamp]](), 0
    for folder in walk(index.folder):
        links += folder.links
        parts += folder.parts
        newest = max(newest, *(s[0] for _, s in (*folder.cards, *folder.parts)), 0)
        if folder.refused:
            if not folder.sheet:
                index.folder.stat()  # says itself what is wrong, if the folder is gone
                raise PermissionError(tr("{folder} cannot be listed", folder=index.folder))
            unread[folder.sheet] = folder.refused
            folders.append(folder.sheet)  # it is there; what was known of it stays in sight
            continue
        if folder.sheet and (folder.cards or not (folder.inner or _of_charts(folder.sheet))):
            folders.append(folder.sheet)
        for path, stamp in folder.cards:
            before = known.pop(path, None)
            if before is None or before[1] != stamp:
                fresh.append((path, folder.sheet, stamp))
    _clear(index.folder, parts, newest)
    hidden = tuple(f"{sheet}/" for sheet in unread)
    gone = [item for path, (item, _) in known.items() if not path.startswith(hidden or ("\0",))]
    index.update((), gone)
    _read(index, fresh, progress)
    return Changes(len(fresh), len(gone), unread, tuple(links), tuple(folders))


def _of_charts(sheet: str) -> bool:
    """Whether a folder is where charts and their pictures lie; it is a sheet only with cards."""
    return sheet.partition("/")[0] == CHARTS


def _clear(root: Path, parts: Sequence[tuple[str, Stamp]], newest: int) -> None:
    """Remove what was being written when a program was killed. A share's clock may be any, so a
    file is old when others in the library are much younger."""
    for path, stamp in parts:
        if newest - stamp[0] > OLD * 1e9:
            with contextlib.suppress(OSError):
                (root / path).unlink()


def _read(index: Index, fresh: Sequence[Fresh], progress: Progress) -> None:
    for start in range(0, len(fresh), TOGETHER):
        progress.step(
            start / len(fresh), tr("{start} of {count} cards read", start=start, count=len(fresh))
        )
        part = fresh[start : start + TOGETHER]
        index.update(_heads(index.folder, part))


def _heads(root: Path, files: Iterable[Fresh]) -> Iterator[IndexedFile]:
    for path, sheet, stamp in files:
        yield IndexedFile(read_head(root / path, sheet), path, stamp)


def look_at(index: Index, paths: Iterable[Path]) -> int:
    """Bring only some files up to date; the number of cards that changed."""
    with index.looking:
        return _look_at(index, paths)


def _look_at(index: Index, paths: Iterable[Path]) -> int:
    wanted = {path.relative_to(index.folder).as_posix(): path for path in paths}
    known = index.stamps(list(wanted))
    gone, fresh = list[int](), list[Fresh]()
    for relative, path in wanted.items():
        if not relative.endswith(SUFFIX):
            continue  # a chart, or a sheet's own file
        before = known.get(relative)
        try:
            stamp = stamp_of(path.stat())
        except OSError:
            if before is not None:
                gone.append(before[0])
            continue
        if before is None or before[1] != stamp:
            sheet, _, _ = relative.rpartition("/")
            fresh.append((relative, sheet, stamp))
    index.update(_heads(index.folder, fresh), gone)
    return len(gone) + len(fresh)
