"""Approved cards and who may unlock them; settled conflicts and their way back; who signs."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import card_bytes, read_card
from fox_hand.library.format.library_file import read_library_file
from fox_hand.library.store import moves, sheet_moves
from fox_hand.library.store.conflicts import Conflict, conflicts, set_aside
from fox_hand.library.store.moves import Done, current
from fox_hand.library.store.store import Library
from tests.library.conftest import card

APPROVED = {"approved_by": "Ines B.", "approved_at": "2026-11-12T09:00:00.000Z"}


def as_(library: Library, who: str) -> Library:
    return Library(library.folder, by=lambda: who)


def late(library: Library, path_card: Card) -> Conflict:
    """Somebody else's version of a card waits."""
    other = replace(path_card, note="late", author="Tomas R.")
    set_aside(library, path_card.identity, card_bytes(other, b"late picture"))
    return conflicts(library)[0]


TRIED: dict[str, Callable[[Library], object]] = {
    "move": lambda lib: moves.move(lib, lib.folder / "A sheet/pose.foxcard", "B sheet"),
    "take out": lambda lib: moves.take_out(lib, lib.folder / "A sheet/pose.foxcard"),
    "rename": lambda lib: moves.rename(lib, lib.folder / "A sheet/pose.foxcard", "other"),
    "merge": lambda lib: sheet_moves.merge(lib, "A sheet", "B sheet"),
    "store over": lambda lib: moves.store_over(
        lib, current(lib, lib.folder / "A sheet/pose.foxcard"), card("pose"), None
    ),
    "settle": lambda lib: moves.settle_late(
        lib, conflicts(lib)[0], lib.folder / "A sheet/pose.foxcard"
    ),
    "unlock": lambda lib: moves.reword(
        lib,
        current(lib, lib.folder / "A sheet/pose.foxcard"),
        lambda c: replace(c, approved_by="", approved_at=""),
        even_locked=True,
    ),
    "say who may": lambda lib: sheet_moves.set_approvers(lib, ()),
}


@pytest.mark.parametrize("deed", TRIED)
def test_an_approved_card_stays_as_it_is_where_others_approve(library: Library, deed: str) -> None:
    path = library.add(card("pose", **APPROVED), b"picture", "A sheet")
    library.add(card("plain"), None, "A sheet")
    late(library, read_card(path)[0])
    sheet_moves.set_approvers(as_(library, "Ines B."), ("Ines B.", "Mara K."))
    before, files = path.read_bytes(), sorted(library.folder.rglob("*.foxcard"))
    with pytest.raises(FoxHandError) as caught:
        TRIED[deed](as_(library, "Tomas R."))
    assert "Ines B. or Mara K." in f"{caught.value.happened} {caught.value.todo}"
    assert path.read_bytes() == before
    assert sorted(library.folder.rglob("*.foxcard")) == files
    lead = as_(library, "Mara K.")
    TRIED["unlock"](lead)
    if deed not in ("unlock", "store over"):  # it is the next revision now
        TRIED[deed](lead)
        assert path.read_bytes() != before if path.exists() else True


def test_without_a_list_everybody_may_approve_and_the_list_survives_other_changes(
    library: Library,
) -> None:
    path = library.add(card("pose"), None, "A sheet")
    anybody = as_(library, "Tomas R.")
    moves.reword(anybody, current(library, path), lambda c: replace(c, **APPROVED))
    done = sheet_moves.set_approvers(anybody, ("Tomas R.",))
    stale = library  # read before the list was written
    sheet_moves.rename_library(stale, "Other name")
    sheet_moves.order(stale, ("A sheet", "B sheet"))
    file = read_library_file(library.folder)
    assert (file.name, file.approvers) == ("Other name", ("Tomas R.",))
    done.undo()
    assert read_library_file(library.folder).approvers == ()


@pytest.mark.parametrize("choice", ["both", "late", "early"])
def test_a_settled_conflict_waits_again_after_undo_and_is_settled_by_redo(
    library: Library, choice: str
) -> None:
    path = library.add(card("pose", note="early"), b"picture", "A sheet")
    conflict = late(library, read_card(path)[0])
    settle = {
        "both": lambda: moves.settle_both(library, conflict, path),
        "late": lambda: moves.settle_late(library, conflict, path),
        "early": lambda: moves.settle_early(library, conflict, path),
    }[choice]

    def notes() -> list[str]:
        found = (library.folder / "A sheet").glob("*.foxcard")
        return sorted(read_card(one)[0].note for one in found)

    settled = {"both": ["early", "late"], "late": ["late"], "early": ["early"]}[choice]
    done: Done = settle()
    assert (notes(), conflicts(library)) == (settled, [])
    for _ in range(2):
        done = done.undo()
        assert notes() == ["early"]
        assert [c.card.note for c in conflicts(library)] == ["late"]
        done = done.undo()
        assert (notes(), conflicts(library)) == (settled, [])


def test_every_change_says_who_and_when(library: Library) -> None:
    path = as_(library, "Ines B.").add(card("pose", author="Ines B."), None, "A sheet")
    first = read_card(path)[0]
    assert (first.changed_by, first.author) == ("Ines B.", "Ines B.")
    other = as_(library, "Tomas R.")
    for change in (
        lambda: moves.reword(other, current(library, path), lambda c: replace(c, note="n")),
        lambda: moves.store_over(other, current(library, path), card("pose"), None),
        lambda: moves.use_version(other, path, library.versions(first.identity)[0]),
    ):
        as_(library, "Ines B.").rewrite(current(library, path), lambda c: replace(c, tags=("t",)))
        before = current(library, path)
        change()
        now = current(library, path)
        assert (before.changed_by, now.changed_by) == ("Ines B.", "Tomas R.")
        assert now.changed >= before.changed
