"""Sheets: folders of a library, what they say about themselves, and tidying them."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, get_args

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_toml
from fox_hand.base.files.inputs import read_text
from fox_hand.base.language import tr
from fox_hand.core.model.controls import Region
from fox_hand.library.files.atomic import flush_folder, move_new, write_atomically
from fox_hand.library.format.library_file import toml_list, toml_text
from fox_hand.library.format.names import card_paths, file_stem
from fox_hand.library.format.schema import SUFFIX, StyleName
from fox_hand.library.store.journal import written_down
from fox_hand.library.store.store import Library

FILE = "sheet.toml"
VERSION = 1
COLOUR = re.compile(r"#[0-9A-Fa-f]{6}")
KINDS = ("move", "turn", "scale")
REGIONS = tuple(region.value for region in Region)
UNTOUCHED = tr("Nothing was changed.")


@dataclass(frozen=True)
class Habit:
    """How cards of a sheet are taken by habit.

    Args:
        kinds: kinds of channel that go in: ``move``, ``turn``, ``scale``.
        settings: whether settings go in.
        own_turn: whether the turn of a whole hand goes in with its fingers.
        style, ground: as of :class:`fox_hand.library.format.card.Card`.
        regions: only controls of these go in; empty for any.
        left_out: names of single settings that stay out, of either side.
    """

    kinds: tuple[str, ...] = ()
    settings: bool = True
    own_turn: bool = False
    style: StyleName = "shaded"
    ground: bool = True
    regions: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()


@dataclass(frozen=True)
class Sheet:
    """The content of ``sheet.toml``; a folder without one is a sheet all the same.

    Args:
        colour: of its heading, ``#rrggbb``; empty for none.
        cards: identities of its cards in the order somebody put them by hand.
        chart: name of a chart it fills; empty for none.
        habit: how its cards are taken; None for as it comes.
        neutral: identity of the card that the others start from; empty for rest.
    """

    colour: str = ""
    cards: tuple[str, ...] = ()
    chart: str = ""
    habit: Habit | None = None
    neutral: str = ""


def read_sheet(library: Library, sheet: str) -> Sheet:
    """What a sheet says about itself; a file that cannot be read counts as none and is left."""
    try:
        raw = decode_toml(read_text(library.folder / sheet / FILE))
    except (OSError, ValueError):
        return Sheet()
    return sheet_of(raw)


def sheet_of(raw: dict[str, Any]) -> Sheet:
    """What is understood of a ``sheet.toml``."""
    colour, cards, chart = raw.get("colour"), raw.get("cards"), raw.get("chart")
    neutral = raw.get("neutral")
    return Sheet(
        colour if isinstance(colour, str) and COLOUR.fullmatch(colour) else "",
        tuple(c for c in cards if isinstance(c, str)) if isinstance(cards, list) else (),
        chart if isinstance(chart, str) else "",
        _habit(raw.get("capture")),
        neutral if isinstance(neutral, str) else "",
    )


def _habit(raw: object) -> Habit | None:
    """What is understood of it; what is not counts as it comes."""
    if not isinstance(raw, dict):
        return None
    kinds, style = raw.get("kinds"), raw.get("style")
    regions, left_out = raw.get("regions"), raw.get("left_out")
    return Habit(
        tuple(k for k in kinds if k in KINDS) if isinstance(kinds, list) else (),
        raw.get("settings") is not False,
        raw.get("own_turn") is True,
        next((s for s in get_args(StyleName) if s == style), "shaded"),
        raw.get("ground") is not False,
        tuple(r for r in REGIONS if isinstance(regions, list) and r in regions),
        tuple(s for s in left_out if isinstance(s, str)) if isinstance(left_out, list) else (),
    )


def _habit_lines(habit: Habit) -> list[str]:
    def word(value: bool) -> str:
        return "true" if value else "false"

    return [
        "",
        "[capture]",
        f"kinds = {toml_list(habit.kinds)}",
        f"settings = {word(habit.settings)}",
        f"own_turn = {word(habit.own_turn)}",
        f"style = {toml_text(habit.style)}",
        f"ground = {word(habit.ground)}",
        *([f"regions = {toml_list(habit.regions)}"] if habit.regions else []),
        *([f"left_out = {toml_list(habit.left_out)}"] if habit.left_out else []),
    ]


def write_sheet(library: Library, sheet: str, content: Sheet) -> None:
    """Write ``sheet.toml``; one that another version or a person wrote otherwise is refused.

    Raises:
        FoxHandError: ``sheet.foreign`` or ``file.write``.
    """
    folder = library.sheet_folder(sheet)
    path = folder / FILE
    with contextlib.suppress(FileNotFoundError):
        _understood(path)
    lines = [f"version = {VERSION}"]
    if content.colour:
        lines.append(f"colour = {toml_text(content.colour)}")
    if content.chart:
        lines.append(f"chart = {toml_text(content.chart)}")
    if content.neutral:
        lines.append(f"neutral = {toml_text(content.neutral)}")
    if content.cards:
        lines.append(f"cards = {toml_list(content.cards)}")
    if content.habit is not None:
        lines += _habit_lines(content.habit)
    with library.lock():
        write_atomically(path, ("\n".join(lines) + "\n").encode())


def _understood(path: Path) -> None:
    try:
        version = decode_toml(read_text(path)).get("version", 1)
    except ValueError:
        version = None
    if version != VERSION:
        raise FoxHandError(
            "sheet.foreign",
            tr(
                "{name}/{file} is damaged or of a newer Fox Hand.", name=path.parent.name, file=FILE
            ),
            tr("It was left as it is."),
        )


def make_sheet(library: Library, sheet: str) -> None:
    """A new, empty sheet.

    Raises:
        FoxHandError: ``sheet.exists`` or ``file.write``.
    """
    if not sheet or (library.folder / sheet).exists():
        raise FoxHandError(
            "sheet.exists", tr("There is already a sheet {sheet}.", sheet=sheet), UNTOUCHED
        )
    library.sheet_folder(sheet)


def move_sheet(library: Library, sheet: str, to: str) -> None:
    """Give a sheet another name or another place; its cards and inner sheets go with it.

    Raises:
        FoxHandError: ``sheet.exists``, ``sheet.inside`` or ``file.move``.
    """
    source, target = library.folder / sheet, library.folder / to
    if target == source:
        return
    if target.is_relative_to(source):
        raise FoxHandError(
            "sheet.inside", tr("{sheet} cannot be moved into itself.", sheet=sheet), UNTOUCHED
        )
    if target.exists():
        raise FoxHandError("sheet.exists", tr("There is already a sheet {to}.", to=to), UNTOUCHED)
    above = to.rpartition("/")[0]
    if above:
        library.sheet_folder(above)

    def new(name: str) -> str:
        return to + name[len(sheet) :] if _within(name, sheet) else name

    before = library.file.sheets
    # both names are in the order while the folder moves, so that it has its place at any moment
    _reorder(library, lambda name: (new(name), name))
    try:
        with library.lock():
            source.rename(target)
            flush_folder(target.parent)
            flush_folder(source.parent)
    except OSError as error:
        with contextlib.suppress(FoxHandError):  # after the lock: changing the order takes it
            order_sheets(library, before)
        raise FoxHandError(
            "file.move",
            tr("{sheet} could not be moved ({strerror}).", sheet=sheet, strerror=error.strerror),
            UNTOUCHED,
        ) from error
    _reorder(library, lambda name: () if _within(name, sheet) else (name,))


def inner_sheets(library: Library, sheet: str) -> list[str]:
    """Sheets that lie in a sheet, but not in one of those; by name.

    Raises:
        FoxHandError: ``sheet.unlisted``.
    """
    folder = library.folder / sheet
    below = f"{sheet}/" if sheet else ""
    try:
        items = list(folder.iterdir())
    except OSError as error:
        raise FoxHandError(
            "sheet.unlisted",
            tr(
                "The sheet {sheet} cannot be listed ({strerror}).",
                sheet=sheet,
                strerror=error.strerror,
            ),
            UNTOUCHED,
            tr("Look for changes with F5: somebody may have moved it."),
        ) from error
    return sorted(
        below + item.name
        for item in items
        if not item.name.startswith(".") and not item.is_symlink() and item.is_dir()
    )


def merge_sheets(library: Library, sheet: str, into: str) -> list[tuple[Path, Path]]:
    """Move all cards of a sheet into another and take the empty folder away; sheets in it stay
    where they are, and it with them.

    Returns:
        for each card where it was and where it is.

    Raises:
        FoxHandError: at the first card that cannot be moved; those before it are moved.
    """
    source, target = library.folder / sheet, library.sheet_folder(into)
    moved = []
    cards = sorted(source.glob(f"*{SUFFIX}"))
    for card in cards:
        library.approval.check(card)
    with written_down(library, cards, into, emptied=sheet):
        with library.lock():
            for path in cards:
                stem = path.name.removesuffix(SUFFIX)
                moved.append((path, move_new(path, card_paths(target, stem))))
        remove_sheet(library, sheet)
    return moved


def remove_sheet(library: Library, sheet: str) -> bool:
    """Take an empty sheet away; one that still holds anything but its own ``sheet.toml`` stays.

    Returns:
        whether it is gone.
    """
    folder = library.folder / sheet
    with library.lock(), contextlib.suppress(OSError):
        if sheet and all(item.name == FILE for item in folder.iterdir()):
            (folder / FILE).unlink(missing_ok=True)
            folder.rmdir()
    if folder.exists():
        return False
    _reorder(library, lambda name: () if name == sheet else (name,))
    return True


def order_sheets(library: Library, sheets: tuple[str, ...]) -> None:
    """Remember the order of the sheets."""
    library.change_file(lambda file: replace(file, sheets=sheets))


def _reorder(library: Library, names: Callable[[str], tuple[str, ...]]) -> None:
    sheets = tuple(dict.fromkeys(new for sheet in library.file.sheets for new in names(sheet)))
    if sheets != library.file.sheets:
        library.change_file(lambda file: replace(file, sheets=sheets))


def _within(sheet: str, outer: str) -> bool:
    return sheet == outer or sheet.startswith(f"{outer}/")


def sheet_path(*names: str) -> str:
    """Names as one path; what file systems refuse becomes a space."""
    parts = [file_stem(part) for name in names for part in name.split("/")]
    return "/".join(part for part in parts if part)
