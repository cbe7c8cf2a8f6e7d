"""What is to be moved, written down before it is: a program that is killed half-way leaves a list
that the next one carries out to its end.

Each move by itself is whole; a journal keeps many of them one thing.
"""

from __future__ import annotations

import contextlib
import os
import uuid
from collections.abc import Iterator, Sequence
from pathlib import Path, PurePosixPath

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_json
from fox_hand.base.files.inputs import CARD, read_file
from fox_hand.base.system.clock import now_at
from fox_hand.base.system.processes import Writer, this_program
from fox_hand.library.files.atomic import make_folder, move_new, remove, write_atomically
from fox_hand.library.format.names import card_paths
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store.store import Library

FOLDER = "moving"
SHEET_FILE = "sheet.toml"
FORSAKEN = 24 * 3600.0  # seconds after which a list from another machine is nobody's any more


class Journal(msgspec.Struct):
    """Card files, below the library, and the sheet they go into; then the sheet to be taken away
    if nothing is left in it."""

    writer: Writer
    cards: list[str]
    sheet: str
    emptied: str = ""
    version: int = 1


@contextlib.contextmanager
def written_down(
    library: Library, cards: Sequence[Path], sheet: str, emptied: str = ""
) -> Iterator[None]:
    """Keep a list of what is to be moved while it is. Afterwards, whatever came of it, there is
    none: what did not work was told.

    Raises:
        FoxHandError: ``file.write``; nothing is moved then.
    """
    names = [path.relative_to(library.folder).as_posix() for path in cards]
    path = library.own / FOLDER / f"{uuid.uuid4().hex}.json"
    make_folder(path.parent)
    note = Journal(this_program(), names, sheet, emptied)
    write_atomically(path, msgspec.json.encode(note))
    try:
        yield
    finally:
        with contextlib.suppress(FoxHandError):
            remove(path)


def carry_on(library: Library) -> int:
    """Carry out what programs that are gone did not bring to its end.

    Returns:
        how many cards were moved, or got back to one name.

    Raises:
        FoxHandError: where something cannot be moved now; the list stays for the next time.
    """
    count = 0
    for path, note in _left_behind(library):
        if not _inside(library, f"{note.sheet}/card"):
            remove(path)  # nobody's of ours
            continue
        target = library.sheet_folder(note.sheet)
        with library.lock():
            for name in note.cards:
                if _inside(library, name) and name.endswith(SUFFIX):
                    count += _moved(library.folder / name, target)
        if note.emptied and _inside(library, note.emptied):
            _take_away(library.folder / note.emptied)
        remove(path)
    return count


def _left_behind(library: Library) -> Iterator[tuple[Path, Journal]]:
    try:
        paths = sorted((library.own / FOLDER).glob("*.json"))
    except OSError:
        return
    now = now_at(library.own)
    for path in paths:
        with contextlib.suppress(OSError, ValueError):
            note = decode_json(read_file(path, CARD), Journal)
            if note.writer.gone or abs(now - path.stat().st_mtime) > FORSAKEN:
                yield path, note


def _inside(library: Library, name: str) -> bool:
    """Whether it is a place in the library's sheets: the list may be anybody's who can write there,
    and is carried out with the rights of whoever opens the library."""
    root = library.folder.resolve()
    place = (root / name).parent.resolve() / Path(name).name
    hidden = any(part.startswith(".") for part in PurePosixPath(name).parts)
    return not hidden and place != root and place.is_relative_to(root)


def _take_away(sheet: Path) -> None:
    """A sheet that holds nothing but what it says about itself."""
    with contextlib.suppress(OSError):
        if [item.name for item in sheet.iterdir()] == [SHEET_FILE]:
            (sheet / SHEET_FILE).unlink()
        sheet.rmdir()  # which refuses where anything is left


def _moved(source: Path, target: Path) -> int:
    """Bring one card where it was to go; where it has two names already, the old one goes."""
    if source.parent == target or not source.exists():
        return 0
    if source.stat().st_nlink > 1:
        for other in target.glob(f"*{SUFFIX}"):
            if os.path.samestat(other.stat(), source.stat()):
                remove(source)
                return 1
    move_new(source, card_paths(target, source.name.removesuffix(SUFFIX)))
    return 1
