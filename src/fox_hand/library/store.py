"""A library: a folder of sheets (folders) with cards (files)."""

from __future__ import annotations

import contextlib
import datetime
import os
import re
import tomllib
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.library.atomic import flush_folder, make_folder, write_atomically
from fox_hand.library.card import SUFFIX, Card, card_bytes, read_card

VERSION = 1
OWN_FOLDER = ".foxhand"
FOREIGN = "library.toml was left as it is."
Stamp = tuple[int, int, int]


@dataclass(frozen=True)
class Entry:
    """A card file as it lies in a library.

    Args:
        path: the file.
        sheet: its folder below the library, with ``/``; empty for the library's own folder.
        card: its content, None where it could not be read.
        has_picture: whether it brings a picture.
        error: why it could not be read.
    """

    path: Path
    sheet: str
    card: Card | None
    has_picture: bool = False
    error: FoxHandError | None = None

    @property
    def name(self) -> str:
        return self.card.name if self.card is not None else self.path.name.removesuffix(SUFFIX)


class Library:
    """One library. Reading parses only what changed since the last time.

    Raises:
        FoxHandError: for a folder that is not a library or is of a newer version.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.name, self._order = _read_library_file(folder)
        self._known: dict[Path, tuple[Stamp, Entry]] = {}

    @staticmethod
    def create(folder: Path, name: str, order: tuple[str, ...] = ()) -> Library:
        """Make a library in a folder, or open the one that is there."""
        if not (folder / "library.toml").is_file():
            try:
                folder.mkdir(parents=True, exist_ok=True)
            except OSError as error:
                raise FoxHandError(
                    "library.create",
                    f"The library {name} could not be made in {folder} ({error.strerror}).",
                    "Nothing was changed.",
                    "Choose a folder you may write in.",
                ) from error
            lines = [f"version = {VERSION}", f"name = {_toml_text(name)}"]
            lines.append(f"sheets = [{', '.join(_toml_text(s) for s in order)}]")
            write_atomically(folder / "library.toml", ("\n".join(lines) + "\n").encode())
        return Library(folder)

    def sheets(self) -> tuple[str, ...]:
        """All sheets: those the library orders first, then the others by name. A folder that
        only holds other folders is no sheet of its own."""
        found = {self._sheet_of(f) for f, files, below in self._walk() if files or not below}
        found -= {""}
        first = [s for s in self._order if s in found]
        return (*first, *sorted(found - set(first), key=_natural))

    def entries(self) -> tuple[Entry, ...]:
        """Every card file, sheet by sheet, names in natural order. Never raises for one file."""
        found: list[Entry] = []
        seen: set[Path] = set()
        for folder, files, _ in self._walk():
            sheet = self._sheet_of(folder)
            for path, stamp in files:
                seen.add(path)
                known = self._known.get(path)
                if known is None or known[0] != stamp:
                    known = (stamp, _read_entry(path, sheet))
                    self._known[path] = known
                found.append(known[1])
        for gone in set(self._known) - seen:
            del self._known[gone]
        rank = {sheet: i for i, sheet in enumerate(self.sheets())}
        return tuple(sorted(found, key=lambda e: (rank.get(e.sheet, -1), _natural(e.name))))

    def add(self, card: Card, picture: bytes | None, sheet: str) -> Entry:
        """Write a new card into a sheet; an equal file name gets a number, nothing is replaced.

        Raises:
            FoxHandError: ``file.write`` and the like; nothing was changed.
        """
        folder = self._sheet_folder(sheet)
        now = _now()
        card = replace(card, created=card.created or now, changed=now)
        path = _free_path(folder, card.name)
        write_atomically(path, card_bytes(card, picture))
        return self._remember(path, sheet)

    def replace(self, entry: Entry, card: Card, picture: bytes | None) -> Entry:
        """Store over a card. The old file becomes an earlier version in ``.foxhand``.

        Raises:
            FoxHandError: ``card.not_replaced`` if the file is damaged or changed meanwhile.
        """
        try:
            current, _ = read_card(entry.path)
        except FoxHandError as error:
            raise FoxHandError(
                "card.not_replaced",
                f"{entry.path.name} was not stored over, because it cannot be read.",
                "The file on disk and the pose on the figure are untouched.",
                "Store the pose under another name.",
            ) from error
        if entry.card is None or current.revision != entry.card.revision:
            raise FoxHandError(
                "card.changed_meanwhile",
                f"{entry.name} was changed by somebody else in the meantime.",
                "Both the card on disk and the pose on the figure are untouched.",
                "Look at the card again, then store over it or under another name.",
            )
        earlier = self.folder / OWN_FOLDER / "versions" / current.identity
        make_folder(earlier)
        write_atomically(earlier / f"{current.revision:04}{SUFFIX}", entry.path.read_bytes())
        new = replace(
            card,
            identity=current.identity,
            created=current.created,
            revision=current.revision + 1,
            changed=_now(),
        )
        write_atomically(entry.path, card_bytes(new, picture))
        return self._remember(entry.path, entry.sheet)

    def take_out(self, entry: Entry) -> Path:
        """Move a card into the library's own keep; returns where it lies now."""
        keep = self.folder / OWN_FOLDER / "removed"
        make_folder(keep)
        kept = _free_path(keep, entry.path.name.removesuffix(SUFFIX))
        _move(entry.path, kept)
        self._known.pop(entry.path, None)
        return kept

    def bring_back(self, kept: Path, entry: Entry) -> Entry:
        """Undo :meth:`take_out`."""
        path = entry.path
        if path.exists():
            path = _free_path(path.parent, entry.name)
        make_folder(path.parent)
        _move(kept, path)
        return self._remember(path, entry.sheet)

    def _remember(self, path: Path, sheet: str) -> Entry:
        entry = _read_entry(path, sheet)
        self._known[path] = (_stamp(path.stat()), entry)
        return entry

    def _sheet_folder(self, sheet: str) -> Path:
        folder = (self.folder / sheet).resolve()
        if not folder.is_relative_to(self.folder.resolve()) or OWN_FOLDER in folder.parts:
            raise FoxHandError(
                "sheet.outside",
                f"{sheet} is not a sheet of {self.name}.",
                "Nothing was written.",
                "Choose a sheet of this library.",
            )
        make_folder(folder)
        return self.folder / sheet

    def _sheet_of(self, folder: Path) -> str:
        relative = folder.relative_to(self.folder).as_posix()
        return "" if relative == "." else relative

    def _walk(self) -> Iterator[tuple[Path, list[tuple[Path, Stamp]], bool]]:
        """Folder, its cards, whether it has folders below."""
        stack = [self.folder]
        while stack:
            folder = stack.pop()
            files, below = [], []
            with contextlib.suppress(OSError), os.scandir(folder) as items:
                for item in items:
                    if item.name.startswith("."):
                        continue
                    if item.is_dir(follow_symlinks=False):
                        below.append(Path(item.path))
                    elif item.name.endswith(SUFFIX):
                        with contextlib.suppress(OSError):
                            files.append((Path(item.path), _stamp(item.stat())))
            yield folder, files, bool(below)
            stack.extend(below)


def _stamp(status: os.stat_result) -> Stamp:
    return status.st_mtime_ns, status.st_size, status.st_ino


def _read_entry(path: Path, sheet: str) -> Entry:
    try:
        card, picture = read_card(path)
    except FoxHandError as error:
        return Entry(path, sheet, None, False, error)
    return Entry(path, sheet, card, picture is not None)


def _read_library_file(folder: Path) -> tuple[str, tuple[str, ...]]:
    path = folder / "library.toml"
    try:
        raw = tomllib.loads(path.read_text("utf-8"))
    except OSError as error:
        raise FoxHandError(
            "library.missing", f"{folder} is not a library: it has no library.toml.", ""
        ) from error
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        raise FoxHandError(
            "library.damaged", f"{path} cannot be read: {error}.", FOREIGN
        ) from error
    version = raw.get("version")
    if not isinstance(version, int) or version < 1:
        raise FoxHandError("library.damaged", f"{path} does not say its version.", FOREIGN)
    if version > VERSION:
        raise FoxHandError(
            "version.newer",
            f"{folder.name} was made by a newer Fox Hand (format {version}; "
            f"this one reads up to {VERSION}).",
            FOREIGN,
            "Update Fox Hand to open it.",
        )
    order = raw.get("sheets", [])
    sheets = tuple(s for s in order if isinstance(s, str)) if isinstance(order, list) else ()
    return str(raw.get("name") or folder.name), sheets


def _free_path(folder: Path, name: str) -> Path:
    """A file name made from a card's name that does not exist yet."""
    base = re.sub(r'[\x00-\x1f/\\:*?"<>|]+', " ", name).strip().strip(".")[:80].strip() or "card"
    path, number = folder / f"{base}{SUFFIX}", 2
    while path.exists():
        path = folder / f"{base} {number}{SUFFIX}"
        number += 1
    return path


def _move(source: Path, target: Path) -> None:
    try:
        source.rename(target)
    except OSError as error:
        raise FoxHandError(
            "file.move",
            f"{source.name} could not be moved ({error.strerror}).",
            "It lies where it was.",
        ) from error
    flush_folder(target.parent)
    flush_folder(source.parent)


def _natural(name: str) -> list[tuple[int, int, str]]:
    """Sorts ``fist 2`` before ``fist 10``."""
    pieces = re.findall(r"\d+|\D+", name.casefold())
    return [(0, int(p), "") if p.isdigit() else (1, 0, p) for p in pieces]


def _toml_text(text: str) -> str:
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    return '"' + re.sub(r"[\x00-\x1f\x7f]", " ", escaped) + '"'


def _now() -> str:
    return datetime.datetime.now(datetime.UTC).isoformat(timespec="seconds").replace("+00:00", "Z")
