"""What a pack holds beside cards: what its sheets say, name maps, and descriptions of rigs."""

from __future__ import annotations

import contextlib
import zipfile
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.archive import read_member
from fox_hand.base.files.documents import decode_json, decode_toml
from fox_hand.base.files.inputs import TEXT, read_file
from fox_hand.library.files.atomic import make_folder, remove, write_atomically
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.library_file import read_library_file
from fox_hand.library.format.name_map import FOLDER as MAPS
from fox_hand.library.format.names import file_stem
from fox_hand.library.store import sheet_moves
from fox_hand.library.store.moves import Done
from fox_hand.library.store.sheets import FILE, Sheet, read_sheet, sheet_of
from fox_hand.library.store.store import OWN_FOLDER, Library

RIGS = "rigs"  # folder for descriptions of rigs that came with packs
SIDECAR = ".foxrig.json"


class PackedSheet(msgspec.Struct, omit_defaults=True):
    """A sheet of a pack and the member of the ZIP with its ``sheet.toml``; empty without."""

    sheet: str
    file: str = ""


@dataclass(frozen=True)
class Extras:
    """What goes into a pack beside cards and what their sheets say.

    Args:
        maps: whether what was said about the names of two rigs does.
        sidecars: descriptions of rigs, ``<rig>.foxrig.json``; those that are not there are not.
    """

    maps: bool = False
    sidecars: tuple[Path, ...] = ()

    @staticmethod
    def of_rigs(paths: tuple[Path, ...]) -> Extras:
        """Names and descriptions of some characters' files."""
        return Extras(maps=True, sidecars=tuple(_described_in(p) for p in paths))


def _described_in(path: Path) -> Path:
    """Where a rig's description lies; of one that is only described it is the rig's own file."""
    return path if path.name.endswith(SIDECAR) else path.with_suffix(SIDECAR)


NO_EXTRAS = Extras()
Write = Callable[[str, bytes], None]


def packed_sheets(entries: Iterable[Entry], write: Write) -> list[PackedSheet]:
    """Write what the sheets of cards say; the sheets in the order of their libraries."""
    found: list[PackedSheet] = []
    wanted: dict[Path, dict[str, None]] = {}
    for entry in entries:
        parts = entry.sheet.split("/") if entry.sheet else []
        folder = entry.path.parents[len(parts)]
        for length in range(1, len(parts) + 1):
            wanted.setdefault(folder, {})["/".join(parts[:length])] = None
    for folder, sheets in wanted.items():
        for sheet in _in_order(folder, list(sheets)):
            member = ""
            with contextlib.suppress(OSError):
                data = read_file(folder / sheet / FILE, TEXT)
                member = f"sheets/{len(found):04}.toml"
                write(member, data)
            found.append(PackedSheet(sheet, member))
    return found


def packed_maps(entries: Iterable[Entry], write: Write) -> list[str]:
    """Write the name maps of the libraries that cards lie in."""
    found = []
    for folder in dict.fromkeys(_library_of(entry) for entry in entries):
        for path in sorted((folder / OWN_FOLDER / MAPS).glob("*.json")):
            with contextlib.suppress(OSError):
                member = f"maps/{path.name}"
                if member not in found:
                    write(member, read_file(path, TEXT))
                    found.append(member)
    return found


def packed_rigs(sidecars: Sequence[Path], write: Write) -> list[str]:
    """Write descriptions of rigs."""
    found = []
    for path in sidecars:
        member = f"{RIGS}/{path.name}"
        if member not in found:
            with contextlib.suppress(OSError):
                write(member, read_file(path, 16 * TEXT))
                found.append(member)
    return found


def take_extras(
    library: Library,
    archive: zipfile.ZipFile,
    sheets: Sequence[PackedSheet],
    files: Sequence[str],
) -> Done | None:
    """Take in what a pack says of sheets, of names and of rigs, where the library says nothing of
    them itself; None where there is nothing to take.

    Args:
        library: where it goes; its own words stay.
        archive: the pack.
        sheets: its sheets, their paths made safe.
        files: its members below ``maps/`` and ``rigs/``.
    """
    done: list[Done] = []
    # only where cards went: what was left has no sheet here
    sheets = [s for s in sheets if s.sheet and (library.folder / s.sheet).is_dir()]
    for packed in sheets:
        if packed.file and read_sheet(library, packed.sheet) == Sheet():
            with contextlib.suppress(ValueError, FoxHandError):
                text = read_member(archive, packed.file, TEXT)
                content = sheet_of(decode_toml(text.decode()))
                done.append(sheet_moves.describe(library, packed.sheet, content))
    known = read_library_file(library.folder).sheets
    fresh = [s.sheet for s in sheets if s.sheet not in known]
    if fresh:
        done.append(sheet_moves.order(library, (*known, *fresh)))
    for member in files:
        kind, _, name = member.partition("/")
        target = library.own / kind / f"{file_stem(name.removesuffix('.json'))}.json"
        if kind in (MAPS, RIGS) and name.endswith(".json") and not target.exists():
            data = read_member(archive, member, 16 * TEXT)
            with contextlib.suppress(FoxHandError, ValueError):
                if isinstance(decode_json(data, object), dict):  # else nobody could read it
                    done.append(_file(library, target, data))
    return _together(library, done) if done else None


def _file(library: Library, path: Path, data: bytes) -> Done:
    make_folder(path.parent)
    write_atomically(path, data)

    def back() -> Done:
        remove(path)
        return Done(library, (), partial(_file, library, path, data), whole=True)

    return Done(library, (), back, whole=True)


def _together(library: Library, parts: Sequence[Done]) -> Done:
    def back() -> Done:
        return _together(library, [part.undo() for part in reversed(parts)])

    return Done(library, (), back, whole=True)


def _library_of(entry: Entry) -> Path:
    return entry.path.parents[len(entry.sheet.split("/")) if entry.sheet else 0]


def _in_order(folder: Path, sheets: list[str]) -> list[str]:
    try:
        order = read_library_file(folder).sheets
    except FoxHandError:
        return sheets
    place = {sheet: number for number, sheet in enumerate(order)}
    return sorted(sheets, key=lambda sheet: (place.get(sheet, len(order)), sheet))
