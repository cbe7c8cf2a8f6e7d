"""Libraries as folders: nothing is replaced by accident, nothing is half-written."""

from __future__ import annotations

import os
import stat
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.pose import Pose
from fox_hand.library import atomic
from fox_hand.library.card import Card, read_card
from fox_hand.library.store import Library


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library.create(tmp_path / "lib", "Ferry", ("B sheet", "A sheet"))


def card(name: str) -> Card:
    return Card(name, Pose({}))


def test_sheets_are_folders_in_the_librarys_own_order(library: Library) -> None:
    for sheet in ("A sheet", "B sheet", "Z/inner 10", "Z/inner 2"):
        library.add(card("x"), None, sheet)
    (library.folder / ".hidden").mkdir()
    assert library.sheets() == ("B sheet", "A sheet", "Z/inner 2", "Z/inner 10")
    assert [e.sheet for e in library.entries()] == list(library.sheets())


def test_cards_come_in_natural_order_and_equal_names_get_a_number(library: Library) -> None:
    for name in ("fist 10", "fist 2", "Fist 1", "fist 2"):
        library.add(card(name), None, "A sheet")
    entries = library.entries()
    assert [e.name for e in entries] == ["Fist 1", "fist 2", "fist 2", "fist 10"]
    assert len({e.path for e in entries}) == 4


@pytest.mark.parametrize("name", ["a/b", "..", ".hidden", 'what? "x"', "x" * 300, "\n", "Ж — 手"])
def test_any_name_can_be_kept(library: Library, name: str) -> None:
    entry = library.add(card(name), None, "A sheet")
    assert entry.path.parent == library.folder / "A sheet"
    assert [e.name for e in library.entries()] == [name]


def test_a_sheet_cannot_lie_outside_the_library(library: Library) -> None:
    for sheet in ("../elsewhere", "/tmp", ".foxhand/removed"):
        with pytest.raises(FoxHandError) as caught:
            library.add(card("x"), None, sheet)
        assert caught.value.code == "sheet.outside"
    assert not (library.folder.parent / "elsewhere").exists()


def test_only_what_changed_is_read_again(library: Library, monkeypatch: pytest.MonkeyPatch) -> None:
    first = library.add(card("one"), None, "A sheet")
    library.add(card("two"), None, "A sheet")
    library.entries()
    read: list[str] = []
    original = read_card
    monkeypatch.setattr(
        "fox_hand.library.store.read_card", lambda p: (read.append(p.name), original(p))[1]
    )
    library.entries()
    assert read == []
    os.utime(first.path, ns=(1, 1))
    first.path.rename(first.path.with_name("moved by hand.foxcard"))
    assert {e.name for e in library.entries()} == {"one", "two"}
    assert read == ["moved by hand.foxcard"]


def test_storing_over_keeps_the_earlier_version_and_the_identity(library: Library) -> None:
    entry = library.add(card("pose"), b"old picture", "A sheet")
    assert entry.card is not None
    newer = library.replace(entry, replace(card("pose"), note="new"), b"new picture")
    assert newer.card is not None
    assert newer.card.identity == entry.card.identity
    assert newer.card.revision == 2
    kept = library.folder / ".foxhand" / "versions" / entry.card.identity / "0001.foxcard"
    assert read_card(kept)[1] == b"old picture"
    with pytest.raises(FoxHandError) as caught:  # somebody was faster
        library.replace(entry, card("pose"), None)
    assert caught.value.code == "card.changed_meanwhile"
    assert read_card(newer.path)[0].note == "new"


def test_what_is_taken_out_can_be_brought_back(library: Library) -> None:
    entry = library.add(card("pose"), None, "A sheet")
    before = entry.path.read_bytes()
    kept = library.take_out(entry)
    assert library.entries() == ()
    library.add(card("pose"), None, "A sheet")  # the name is taken meanwhile
    back = library.bring_back(kept, entry)
    assert back.path != entry.path
    assert back.path.read_bytes() == before
    assert len(library.entries()) == 2


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
    with pytest.raises(FoxHandError, match=r"no library\.toml"):
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
    finally:
        os.umask(previous)
    assert path.read_bytes() == b"2"
    assert list(tmp_path.iterdir()) == [path]


def test_a_failing_write_leaves_the_old_file_and_no_litter(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "card"
    atomic.write_atomically(path, b"old")

    def full(descriptor: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(atomic.os, "fsync", full)
    with pytest.raises(FoxHandError, match="No space left"):
        atomic.write_atomically(path, b"new")
    assert path.read_bytes() == b"old"
    assert list(tmp_path.iterdir()) == [path]


WRITER = """
import sys
from pathlib import Path
from fox_hand.library.atomic import write_atomically
path = Path(sys.argv[1])
print("ready", flush=True)
for i in range(100000):
    write_atomically(path, bytes([i % 251]) * 200_000)
"""


def test_killing_the_writer_at_any_moment_leaves_a_whole_file(tmp_path: Path) -> None:
    path = tmp_path / "card"
    for attempt in range(8):
        process = subprocess.Popen(
            [sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE
        )
        assert process.stdout is not None
        process.stdout.readline()
        while not path.exists():
            time.sleep(0.001)
        time.sleep(0.003 + attempt * 0.0037)
        process.kill()
        process.wait()
        process.stdout.close()
        data = path.read_bytes()
        assert len(data) == 200_000
        assert data == data[:1] * 200_000
