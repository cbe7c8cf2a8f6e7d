"""Libraries as folders: nothing is replaced by accident, everything has a way back."""

from __future__ import annotations

import errno
import os
import stat
from dataclasses import replace
from pathlib import Path

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.words import plain_name, printable
from fox_hand.library.files import atomic
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card, read_picture
from fox_hand.library.format.library_file import KeptSearch
from fox_hand.library.store import moves, search_moves, sheet_moves
from fox_hand.library.store.moves import current
from fox_hand.library.store.sheets import read_sheet
from fox_hand.library.store.store import CardChangedError, Library
from tests.library.conftest import Listed, card


def names(listed: Listed, library: Library) -> dict[str, str]:
    return {e.name: e.sheet for e in listed(library)}


def test_cards_come_in_natural_order_and_equal_names_get_a_number(
    library: Library, listed: Listed
) -> None:
    for name in ("fist 10", "fist 2", "Fist 1", "fist 2"):
        library.add(card(name), None, "A sheet")
    entries = listed(library)
    assert [e.name for e in entries] == ["Fist 1", "fist 2", "fist 2", "fist 10"]
    assert len({e.path for e in entries}) == 4


@pytest.mark.parametrize("name", ["a/b", "..", ".hidden", 'what? "x"', "x" * 300, "\n", "Ж — 手"])
def test_any_name_can_be_kept(library: Library, listed: Listed, name: str) -> None:
    path = library.add(card(name), None, "A sheet")
    assert path.parent == library.folder / "A sheet"
    assert [e.name for e in listed(library)] == [plain_name(name) or "card"]


def test_a_sheet_cannot_lie_outside_the_library(library: Library) -> None:
    for sheet in ("../elsewhere", "/tmp", ".foxhand/removed"):
        with pytest.raises(FoxHandError) as caught:
            library.add(card("x"), None, sheet)
        assert caught.value.code == "sheet.outside"
    assert not (library.folder.parent / "elsewhere").exists()


def test_storing_over_keeps_the_earlier_version_and_the_identity(library: Library) -> None:
    path = library.add(card("pose", tags=("a",)), b"old picture", "A sheet", b"old large")
    entry = current(library, path)
    done = moves.store_over(library, entry, card("pose", note="new"), b"new picture")
    newer = current(library, path)
    assert (newer.identity, newer.revision, newer.note) == (entry.identity, 2, "new")
    kept = library.folder / ".foxhand" / "versions" / entry.identity / "0001.foxcard"
    assert read_card(kept)[1] == b"old picture"
    with pytest.raises(CardChangedError):  # somebody was faster
        library.replace(entry, card("pose"), None)
    assert read_card(path)[0].note == "new"
    again = done.undo()
    assert read_card(path)[0].tags == ("a",)
    assert read_picture(path, 640) == b"old large"
    again.undo()
    assert read_card(path)[0].note == "new"
    assert len(library.versions(entry.identity)) == 3


def test_an_approved_card_is_not_replaced_until_it_is_unlocked(library: Library) -> None:
    path = library.add(card("pose"), b"picture", "A sheet")

    def approve(card: Card) -> Card:
        return replace(card, approved_by="Ines B.", approved_at="2026-11-12T09:00:00Z")

    done = moves.reword(library, current(library, path), approve)
    entry = current(library, path)
    assert (entry.locked, entry.approved_by) == (True, "Ines B.")
    before = path.read_bytes()
    for change in (
        lambda: library.replace(entry, card("pose"), None),
        lambda: library.rewrite(entry, lambda c: replace(c, note="x")),
        lambda: library.rename(entry, "other"),
    ):
        with pytest.raises(FoxHandError, match=r"approved by Ines B\. and locked"):
            change()
    assert path.read_bytes() == before
    copied = current(library, library.copy_in(path, "A sheet", own=True))
    beside = moves.variant(library, path, path, "pose, other").path
    assert not copied.locked  # nobody has approved a copy, nor a variant
    assert beside is not None
    assert not current(library, beside).locked
    assert len({entry.identity, copied.identity, current(library, beside).identity}) == 3
    done.undo()
    assert not current(library, path).locked


def test_everything_done_to_cards_has_a_way_back(library: Library, listed: Listed) -> None:
    path = library.add(card("pose", note="n"), b"picture", "A sheet")
    identity = current(library, path).identity
    taken = moves.take_out(library, path)
    assert listed(library) == []
    library.add(card("pose"), None, "A sheet")  # the name is taken meanwhile
    back = taken.undo()
    assert back.path is not None
    assert back.path != path
    assert read_card(back.path)[1] == b"picture"
    moved = moves.move(library, back.path, "Z/inner")
    assert moved.path == library.folder / "Z/inner" / back.path.name
    named = moves.rename(library, moved.path, "Fist / left")
    assert current(library, named.path).name == "Fist / left"
    copied = moves.copy(library, named.path, "B sheet")
    assert current(library, copied.path).identity != identity
    for one in (copied, named, moved):
        one.undo()
    found = {e.identity: e for e in listed(library)}
    assert found[identity].sheet == "A sheet"
    assert found[identity].name == "pose"
    assert len(found) == 2


def test_sheets_are_made_moved_merged_coloured_ordered_and_all_taken_back(
    library: Library, listed: Listed
) -> None:
    for sheet in ("A sheet", "B sheet", "B sheet/inner"):
        library.add(card(f"in {sheet}"), None, sheet)
    before = names(listed, library)
    coloured = sheet_moves.colour(library, "A sheet", "#5FB3A3")
    merged = sheet_moves.merge(library, "A sheet", "B sheet")
    assert set(names(listed, library).values()) == {"B sheet", "B sheet/inner"}
    assert not (library.folder / "A sheet").exists()
    moved = sheet_moves.move(library, "B sheet", "Hands/Both")
    assert set(names(listed, library).values()) == {"Hands/Both", "Hands/Both/inner"}
    assert "Hands/Both" in library.file.sheets
    ordered = sheet_moves.order(library, ("Hands/Both/inner", "Hands/Both"))
    made = sheet_moves.make(library, "Empty")
    with pytest.raises(FoxHandError, match="already a sheet"):
        sheet_moves.make(library, "Empty")
    with pytest.raises(FoxHandError, match="into itself"):
        sheet_moves.move(library, "Hands", "Hands/inside")
    assert not sheet_moves.remove(library, "Hands/Both/inner").path
    assert (library.folder / "Hands/Both/inner").is_dir()  # it holds a card: it stays
    for one in (made, ordered, moved, merged):
        one.undo()
    assert names(listed, library) == before
    assert read_sheet(library, "A sheet").colour == "#5FB3A3"
    coloured.undo()
    assert read_sheet(library, "A sheet").colour == ""
    assert not (library.folder / "Empty").exists()


def test_a_folder_tidied_outside_is_understood(library: Library, listed: Listed) -> None:
    """Renames and moves with any file manager: cards keep their identity."""
    first = library.add(card("one"), None, "A sheet")
    library.add(card("two"), None, "A sheet")
    before = {e.identity: e.item for e in listed(library)}
    (library.folder / "A sheet").rename(library.folder / "Tidied")
    tidied = library.folder / "Tidied"
    (tidied / first.name).rename(tidied / "named by hand.foxcard")
    (library.folder / "empty").mkdir()
    (library.folder / ".hidden").mkdir()
    after = listed(library)
    assert {e.identity for e in after} == set(before)
    assert {e.sheet for e in after} == {"Tidied"}
    assert {e.name for e in after} == {"one", "two"}


def test_a_newer_or_broken_library_is_refused_and_untouched(tmp_path: Path) -> None:
    folder = tmp_path / "lib"
    folder.mkdir()
    for text, code in (
        ('version = 99\nname = "x"', "version.newer"),
        ("version = [", "library.damaged"),
        ('name = "x"', "library.damaged"),
    ):
        (folder / "library.toml").write_text(text)
        with pytest.raises(FoxHandError) as caught:
            Library(folder)
        assert caught.value.code == code
        assert (folder / "library.toml").read_text() == text
    (folder / "library.toml").unlink()
    with pytest.raises(FoxHandError, match=r"no library\.toml"):
        Library(folder)
    with pytest.raises(FoxHandError, match="cannot be reached"):
        Library(tmp_path / "nowhere")


def test_replacing_a_file_keeps_its_mode_and_a_new_one_follows_the_umask(tmp_path: Path) -> None:
    """A temporary file born 0600 would lock colleagues out of a share."""
    path = tmp_path / "card"
    previous = os.umask(0o002)
    try:
        atomic.write_atomically(path, b"1")
        assert stat.S_IMODE(path.stat().st_mode) == 0o664
        path.chmod(0o640)
        atomic.write_atomically(path, b"2")
        assert stat.S_IMODE(path.stat().st_mode) == 0o640
        new = atomic.write_new([tmp_path / "new"], b"3")
        assert stat.S_IMODE(new.stat().st_mode) == 0o664
    finally:
        os.umask(previous)
    assert path.read_bytes() == b"2"
    assert {p.name for p in tmp_path.iterdir()} == {"card", "new"}


def test_a_library_that_is_away_is_not_made_by_a_write(tmp_path: Path) -> None:
    """An unmounted share leaves an empty folder; what is written there is hidden later."""
    library = Library.create(tmp_path / "poses", "Poses")
    library.add(card("Fist"), None, "Hands")
    away = tmp_path / "on the share"
    library.folder.rename(away)
    for there in (False, True):
        if there:
            library.folder.mkdir()  # the mount point
        with pytest.raises(FoxHandError) as caught:
            library.add(card("Flat"), None, "Hands")
        assert caught.value.code == "library.away"
        assert library.folder.exists() == there
        assert not there or not list(library.folder.iterdir())
    library.folder.rmdir()
    away.rename(library.folder)
    assert library.add(card("Flat"), None, "Hands").is_file()


def test_a_lock_that_cannot_be_had_is_a_sentence(tmp_path: Path) -> None:
    library = Library.create(tmp_path / "poses", "Poses")
    library.own.mkdir(exist_ok=True)
    lock = library.own / "lock"
    lock.unlink(missing_ok=True)
    lock.mkdir()  # nothing can be opened there, whoever asks
    with pytest.raises(FoxHandError) as caught:
        library.add(card("Fist"), None, "Hands")
    assert caught.value.code == "file.write"
    assert not list(library.folder.rglob("*.foxcard"))
    lock.rmdir()
    assert library.add(card("Fist"), None, "Hands").is_file()


def test_nothing_that_is_printed_moves_the_cursor() -> None:
    assert printable("name\t\x1b[31mred\x07 \u202egnp\r\nnext") == "name\t [31mred   gnp \nnext"
    assert printable("byte \udcff") == "byte \udcff"
    assert plain_name(" two\nlines\u200b e\u0301 ") == "two lines é"


def test_a_sheet_whose_name_is_no_text_is_left_out_of_the_order(tmp_path: Path) -> None:
    library = Library.create(tmp_path / "lib", "Shared", ("B", "f\udcfcchse", "A"))
    assert Library(library.folder).file.sheets == ("B", "A")


@pytest.mark.parametrize(
    ("number", "words"),
    [
        (errno.ENOSPC, "Make room on that disk, then try again."),
        (errno.EDQUOT, "Make room on that disk, then try again."),
        (errno.EFBIG, "Make room on that disk, then try again."),
        (errno.EACCES, "Get permission to write there, then try again."),
        (errno.EPERM, "Get permission to write there, then try again."),
        (errno.EROFS, "It can only be read there: write somewhere else"),
        (errno.EIO, "Look whether its disk or share is in order, then try again."),
    ],
)
def test_what_helps_against_an_error_of_the_disk_is_said(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, number: int, words: str
) -> None:
    path = tmp_path / "note.txt"
    atomic.write_atomically(path, b"before")

    def failing(descriptor: int) -> None:
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr("fox_hand.library.files.atomic.os.fsync", failing)
    with pytest.raises(FoxHandError) as caught:
        atomic.write_atomically(path, b"after")
    assert words in caught.value.sentence()
    assert f"note.txt could not be written ({os.strerror(number)})" in caught.value.sentence()
    assert path.read_bytes() == b"before"
    assert [p.name for p in tmp_path.iterdir()] == ["note.txt"]


@pytest.mark.parametrize(
    ("error", "words"), [(OSError("it sleeps"), "it sleeps"), (TimeoutError(), "TimeoutError")]
)
def test_an_error_without_a_number_is_said_in_what_words_it_has(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, error: OSError, words: str
) -> None:
    def failing(descriptor: int) -> None:
        raise error

    monkeypatch.setattr("fox_hand.library.files.atomic.os.fsync", failing)
    with pytest.raises(FoxHandError) as caught:
        atomic.write_atomically(tmp_path / "note.txt", b"after")
    assert f"note.txt could not be written ({words})" in caught.value.sentence()


@pytest.mark.parametrize(
    ("by", "words"), [("", "Fist was changed after"), ("Ines", "Fist was changed by Ines after")]
)
def test_who_changed_a_card_meanwhile_is_said_where_it_is_known(by: str, words: str) -> None:
    assert words in CardChangedError("Fist", Path("Fist.foxcard"), by).sentence()


def tree(library: Library) -> set[str]:
    """Cards and sheets' own files, below the library."""
    found = (p.relative_to(library.folder) for p in library.folder.rglob("*"))
    return {p.as_posix() for p in found if not p.parts[0].startswith(".")} - {"library.toml"}


def test_a_sheet_merges_with_the_sheets_in_it_and_comes_apart_again(library: Library) -> None:
    for sheet in ("From", "From/Rope", "From/Rope/Wet", "From/Rail", "Into", "Into/Rope"):
        library.add(card(f"{sheet.rpartition('/')[2]} card"), None, sheet)
    sheet_moves.colour(library, "From/Rail", "#5FB3A3")
    sheet_moves.make(library, "From/Empty")
    before = tree(library)
    done = sheet_moves.merge(library, "From", "Into")
    assert not (library.folder / "From").exists()
    assert {e for e in tree(library) if "." in e} == {
        *("Into/From card.foxcard", "Into/Into card.foxcard", "Into/Rope/Rope card.foxcard"),
        *("Into/Rope/Rope card 2.foxcard", "Into/Rope/Wet/Wet card.foxcard"),
        *("Into/Rail/Rail card.foxcard", "Into/Rail/sheet.toml"),
    }
    assert read_sheet(library, "Into/Rail").colour == "#5FB3A3"
    again = done.undo()
    assert tree(library) == before and read_sheet(library, "From/Rail").colour == "#5FB3A3"
    again.undo()
    assert not (library.folder / "From").exists()
    for into in ("Into", "Into/Rope"):
        with pytest.raises(FoxHandError, match="cannot be merged"):
            sheet_moves.merge(library, "Into", into)


def test_a_merge_that_stops_half_way_goes_all_the_way_back(library: Library) -> None:
    library.add(card("a"), None, "From/Rail")
    library.add(card("b"), None, "From/Rope")
    locked = library.add(card("c", approved_by="Ines", approved_at="2026-11-01"), None, "From")
    library.set_approvers(("Ines",))
    library.sheet_folder("Into/Rope")
    before = tree(library)
    with pytest.raises(FoxHandError, match="Ines"):
        sheet_moves.merge(library, "From", "Into")
    assert tree(library) == before and locked.is_file()


def test_empty_sheets_go_with_those_in_them_and_what_holds_something_stays(
    library: Library,
) -> None:
    for sheet in ("Gone/a/b", "Gone/c", "Stays/x"):
        library.sheet_folder(sheet)
    library.add(card("kept"), None, "Stays/y")
    before = tree(library)
    done = sheet_moves.remove_all(library, "Gone")
    sheet_moves.remove_all(library, "Stays")
    assert tree(library) == {"Stays", "Stays/y", "Stays/y/kept.foxcard"}
    done.undo()
    assert {"Gone/a/b", "Gone/c"} <= tree(library) <= before


def test_a_sheet_that_is_gone_is_said_to_be(library: Library) -> None:
    for work in (
        lambda: sheet_moves.merge(library, "Nowhere", "A sheet"),
        lambda: sheet_moves.remove_all(library, "Nowhere"),
    ):
        with pytest.raises(FoxHandError, match="Nowhere cannot be listed"):
            work()


def test_kept_searches_are_the_librarys_and_a_colleagues_stay(library: Library) -> None:
    other = Library(library.folder)
    kept = search_moves.add(library, KeptSearch("Ropes", 'tag:"rope"'))
    search_moves.add(other, KeptSearch("Mine", 'by:"Ines \\ B."'))
    assert [s.name for s in Library(library.folder).file.searches] == ["Ropes", "Mine"]
    assert Library(library.folder).file.searches[1].text == 'by:"Ines \\ B."'
    with pytest.raises(FoxHandError, match="keeps a search Mine already"):
        search_moves.add(library, KeptSearch("Mine", "x"))
    renamed = search_moves.change(library, "Ropes", KeptSearch("Wet ropes", "wet rope"))
    with pytest.raises(FoxHandError, match="keeps a search Mine"):
        search_moves.change(library, "Wet ropes", KeptSearch("Mine", "x"))
    renamed.undo()
    gone = kept.undo()
    assert [s.name for s in Library(library.folder).file.searches] == ["Mine"]
    with pytest.raises(FoxHandError, match="does not keep a search Ropes any more"):
        search_moves.change(library, "Ropes", KeptSearch("x", "y"))
    gone.undo()
    assert [s.name for s in Library(library.folder).file.searches] == ["Ropes", "Mine"]
    library.set_approvers(("Ines",))  # what else the file says does not touch them
    assert len(Library(library.folder).file.searches) == 2
