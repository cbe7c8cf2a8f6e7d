"""Everything a person does to sheets, each with its way back, as in :mod:`.moves`."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.library.files.atomic import move_new
from fox_hand.library.format.names import card_paths
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store.moves import Done
from fox_hand.library.store.sheets import (
    Sheet,
    inner_sheets,
    make_sheet,
    merge_sheets,
    move_sheet,
    order_sheets,
    read_sheet,
    remove_sheet,
    write_sheet,
)
from fox_hand.library.store.store import Library


def make(library: Library, sheet: str, content: Sheet | None = None) -> Done:
    """A new, empty sheet."""
    make_sheet(library, sheet)
    if content is not None and content != Sheet():
        write_sheet(library, sheet, content)
    return Done(library, (), lambda: remove(library, sheet), whole=True)


def remove(library: Library, sheet: str) -> Done:
    """Take an empty sheet away; one that is not empty any more stays."""
    content, order = read_sheet(library, sheet), library.file.sheets
    gone = remove_sheet(library, sheet)

    def back() -> Done:
        made = make(library, sheet, content)
        order_sheets(library, order)
        return made

    return Done(library, (), back if gone else lambda: nothing(library), whole=True)


def remove_all(library: Library, sheet: str) -> Done:
    """Take an empty sheet and the empty sheets in it away; what still holds something stays."""
    done = [
        remove(library, one)
        for one in reversed(list(with_inner(library, sheet)))  # the innermost first
    ]

    def back() -> Done:
        _all_back(done)
        return Done(library, (), lambda: remove_all(library, sheet), whole=True)

    return Done(library, (), back, whole=True)


def with_inner(library: Library, sheet: str) -> Iterator[str]:
    """A sheet and all sheets in it, those above before those in them."""
    yield sheet
    for inner in inner_sheets(library, sheet):
        yield from with_inner(library, inner)


def nothing(library: Library) -> Done:
    """Nothing was done, and nothing is to be undone."""
    return Done(library, (), lambda: nothing(library))


def move(library: Library, sheet: str, to: str) -> Done:
    """Another name or place for a sheet."""
    move_sheet(library, sheet, to)
    return Done(library, (), lambda: move(library, to, sheet), whole=True)


def merge(library: Library, sheet: str, into: str) -> Done:
    """All cards of a sheet into another, and the sheets in it: those of a name that is there, too,
    become one with it, the others move whole.

    Raises:
        FoxHandError: ``sheet.inside`` or why something cannot be moved; what was moved before
            that is moved back.
    """
    if into == sheet or into.startswith(f"{sheet}/"):
        raise FoxHandError(
            "sheet.inside",
            tr(
                "{sheet} cannot be merged into {rest}.",
                sheet=sheet,
                rest=tr("itself") if into == sheet else tr("a sheet in it"),
            ),
            tr("Nothing was changed."),
        )
    done = list[Done]()
    try:
        _merge_all(library, sheet, into, done)
    except (FoxHandError, OSError):
        _all_back(done)
        raise

    def back() -> Done:
        _all_back(done)
        return Done(library, (), lambda: merge(library, sheet, into), whole=True)

    return Done(library, (), back, whole=True)


def _merge_all(library: Library, sheet: str, into: str, done: list[Done]) -> None:
    for inner in inner_sheets(library, sheet):
        target = into + inner[len(sheet) :]
        if (library.folder / target).exists():
            _merge_all(library, inner, target, done)
        else:
            done.append(move(library, inner, target))
    done.append(_merge_one(library, sheet, into))


def _all_back(done: list[Done]) -> None:
    for one in reversed(done):
        one.undo()


def _merge_one(library: Library, sheet: str, into: str) -> Done:
    content = read_sheet(library, sheet)
    moved = merge_sheets(library, sheet, into)

    def back() -> Done:
        library.sheet_folder(sheet)
        if content != Sheet():
            write_sheet(library, sheet, content)
        with library.lock():
            for was, now in moved:
                _named_again(now, was)
        return Done(library, (), lambda: _merge_one(library, sheet, into), whole=True)

    return Done(library, (), back, whole=True)


def _named_again(now: Path, was: Path) -> None:
    if now.exists():  # somebody may have moved or removed it meanwhile; theirs counts
        move_new(now, card_paths(was.parent, was.name.removesuffix(SUFFIX)))


def describe(library: Library, sheet: str, content: Sheet) -> Done:
    """Another colour, chart or hand-made order of a sheet."""
    before = read_sheet(library, sheet)
    write_sheet(library, sheet, content)
    return Done(library, (), lambda: describe(library, sheet, before), whole=True)


def colour(library: Library, sheet: str, value: str) -> Done:
    """A colour ``#rrggbb`` for a sheet's heading; empty for none."""
    return describe(library, sheet, replace(read_sheet(library, sheet), colour=value))


def order(library: Library, sheets: tuple[str, ...]) -> Done:
    """Another order of the sheets."""
    before = library.file.sheets
    order_sheets(library, sheets)
    return Done(library, (), lambda: order(library, before), whole=True)


def rename_library(library: Library, name: str) -> Done:
    """Another name for a library; its folder keeps its own."""
    before = library.change_file(lambda file: replace(file, name=name)).name
    return Done(library, (), lambda: rename_library(library, before), whole=True)


def set_approvers(library: Library, names: tuple[str, ...]) -> Done:
    """Who may approve and unlock cards; empty for everybody."""
    before = library.set_approvers(names)
    return Done(library, (), lambda: set_approvers(library, before), whole=True)
