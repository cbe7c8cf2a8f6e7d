"""A look at a library's folders: what counts as changed, what cannot be listed, what is swept."""

from __future__ import annotations

import os
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from fox_hand.base.work import Progress
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.library.index.index import Index
from fox_hand.library.index.scan import Folder, scan, walk
from fox_hand.library.store.store import Library
from tests.library.conftest import card

DAY = 86_400


@pytest.fixture
def library(tmp_path: Path) -> Library:
    made = Library.create(tmp_path / "shared", "Shared")
    for name, sheet in (("Fist", "Marrow/Hands"), ("Flat", "Marrow/Hands"), ("Glad", "Face")):
        made.add(card(name), None, sheet)
    return made


@pytest.fixture
def index(library: Library, tmp_path: Path) -> Iterator[Index]:
    made = Index(library.folder, tmp_path / "index.sqlite")
    yield made
    made.close()


def path_of(library: Library, name: str) -> Path:
    return next(library.folder.rglob(f"{name}.foxcard"))


def test_only_what_is_new_changed_or_gone_is_a_change(library: Library, index: Index) -> None:
    first = scan(index)
    assert (first.read, first.gone, bool(first)) == (3, 0, True)
    assert sorted(first.folders) == ["Face", "Marrow/Hands"]  # a folder of folders is no sheet
    again = scan(index)
    assert (again.read, again.gone, bool(again)) == (0, 0, False)
    touched = path_of(library, "Flat")
    os.utime(touched, ns=(touched.stat().st_mtime_ns, touched.stat().st_mtime_ns + 10**9))
    changed = scan(index)
    assert (changed.read, changed.gone, bool(changed)) == (1, 0, True)
    path_of(library, "Glad").unlink()
    less = scan(index)
    assert (less.read, less.gone, bool(less)) == (0, 1, True)
    assert sorted(less.folders) == ["Face", "Marrow/Hands"]  # an empty sheet stays one
    (library.folder / "New").mkdir()
    assert "New" in scan(index).folders


def test_names_that_are_no_text_are_kept_byte_for_byte(library: Library, index: Index) -> None:
    """Bytes of Latin-1, as older shares have them, and a private character somebody chose."""
    scan(index)
    strange = [os.fsdecode(b"f\xfcchse/Fist \x80\xff.foxcard"), "\U0010fe41/\U0010fe41.foxcard"]
    for name in strange:
        path = library.folder / name
        path.parent.mkdir()
        path.write_bytes(path_of(library, "Fist").read_bytes())
    assert scan(index).read == 2
    known = {str(e.path.relative_to(library.folder)) for e in index.entries(range(1, 9)).values()}
    assert set(strange) < known
    assert not scan(index)  # and found again under these names
    (library.folder / strange[0]).unlink()
    assert scan(index).gone == 1


def test_what_a_card_holds_is_said_by_kind(library: Library, index: Index) -> None:
    pose = Pose({"a": Held(move=(1.0, 0.0, 0.0), settings={"s": 1.0})})
    library.add(replace(card("Moved"), pose=pose), None, "")
    scan(index)
    holds = {e.name: e.holds for e in index.entries(range(1, 9)).values()}
    assert holds == {"Moved": ("moves", "settings"), "Fist": (), "Flat": (), "Glad": ()}


def test_a_folder_that_cannot_be_listed_keeps_what_was_known(
    library: Library, index: Index, monkeypatch: pytest.MonkeyPatch
) -> None:
    scan(index)
    real = os.scandir

    def refusing(path: Path) -> os.DirEntry:
        if Path(path).name == refused:
            raise PermissionError(13, "Permission denied")
        return real(path)

    monkeypatch.setattr(os, "scandir", refusing)
    refused = "Hands"
    seen = scan(index)
    assert (seen.read, seen.gone) == (0, 0)
    assert seen.unread == {"Marrow/Hands": "Permission denied"}
    assert "Marrow/Hands" in seen.folders
    assert len(index.stamps()) == 3
    refused = library.folder.name
    with pytest.raises(PermissionError, match="cannot be listed"):
        scan(index)
    assert len(index.stamps()) == 3
    monkeypatch.undo()
    library.folder.rename(library.folder.with_name("gone"))
    with pytest.raises(FileNotFoundError):
        scan(index)
    assert len(index.stamps()) == 3


def test_what_a_killed_program_left_goes_when_others_are_much_younger(
    library: Library, index: Index
) -> None:
    now = path_of(library, "Fist").stat().st_mtime_ns
    sheet = path_of(library, "Fist").parent
    left = {"old": 2 * DAY, "young": 60}
    for name, age in left.items():
        part = sheet / f".{name}.part"
        part.write_bytes(b"half")
        os.utime(part, ns=(now, now - age * 10**9))
    (found,) = [f for f in walk(library.folder) if f.sheet == "Marrow/Hands"]
    assert sorted(Path(p).name for p, _ in found.parts) == [".old.part", ".young.part"]
    scan(index)
    assert sorted(p.name for p in sheet.glob(".*.part")) == [".young.part"]


def test_links_are_named_and_not_followed(library: Library, index: Index, tmp_path: Path) -> None:
    other = Library.create(tmp_path / "other", "Other")
    other.add(card("Wave"), None, "Body")
    (library.folder / "Face" / "round").symlink_to(library.folder)
    (library.folder / "theirs").symlink_to(other.folder)
    (library.folder / "nowhere").symlink_to(tmp_path / "no")
    found = scan(index)
    assert sorted(found.links) == ["Face/round", "theirs"]
    assert found.read == 3


def test_reading_says_how_far_it_is_and_keeps_what_was_read(
    library: Library, index: Index, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("fox_hand.library.index.scan.TOGETHER", 2)
    told: list[tuple[float, str]] = []
    progress = Progress(lambda share, text: told.append((share, text)))
    assert scan(index, progress).read == 3
    assert told == [(0.0, "0 of 3 cards read"), (2 / 3, "2 of 3 cards read")]


def test_a_folder_that_cannot_be_listed_stops_nothing_behind_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    library = Library.create(tmp_path / "letters", "Letters")
    for sheet in ("A", "B", "C"):
        library.add(card(f"{sheet} card"), None, sheet)
    index = Index.of(library.folder, tmp_path / "cache")
    scan(index)
    library.add(card("late"), None, "C")

    def refusing(root: Path) -> Iterator[Folder]:
        found = sorted(walk(root), key=lambda f: f.sheet)
        for folder in found:
            refused = replace(folder, cards=(), refused="Permission denied")
            yield refused if folder.sheet == "B" else folder

    monkeypatch.setattr("fox_hand.library.index.scan.walk", refusing)
    changes = scan(index)
    assert (changes.read, changes.gone) == (1, 0) and changes.unread == {"B": "Permission denied"}
    assert changes.folders == ("A", "B", "C")
    assert len(index.columns().items) == 4  # what was known of it stays
