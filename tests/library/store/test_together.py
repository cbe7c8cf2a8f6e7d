"""Several people, several windows, and what they leave behind when they are cut off."""

from __future__ import annotations

import json
import os
import random
import shutil
import subprocess
import sys
import threading
from pathlib import Path

import msgspec
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.system.processes import Writer, this_program
from fox_hand.base.work import Progress
from fox_hand.library.format.container import card_bytes, read_card
from fox_hand.library.format.names import card_paths
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.index.index import Index
from fox_hand.library.index.scan import scan
from fox_hand.library.store import moves, sheet_moves
from fox_hand.library.store.journal import FOLDER, Journal, carry_on
from fox_hand.library.store.outbox import Outbox, Waiting
from fox_hand.library.store.store import Library
from fox_hand.library.store.troubles import troubles
from fox_hand.session.libraries.open_library import read_place
from tests.library.killer import PICTURE, card, files
from tests.library.racer import DEEDS

ROOT = Path(__file__).parents[3]
GONE = Writer(this_program().host, 2**22 + 5)  # no number of a process is as high


@pytest.mark.skipif(os.geteuid() != 0, reason="becoming two other users needs root's rights")
def test_two_users_with_any_umasks_do_everything_to_each_others_cards(tmp_path: Path) -> None:
    for folder in (tmp_path, *tmp_path.parents[:2]):
        folder.chmod(0o755)
    command = [sys.executable, "-m", "tests.library.colleagues", str(tmp_path)]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    assert json.loads(done.stdout) == {"shares": [], "old": []}


@pytest.mark.parametrize("deed", list(DEEDS))
def test_two_programs_at_once_lose_nothing_and_make_nothing_twice(
    deed: str, tmp_path: Path
) -> None:
    """Fifty times each; ``python -m tests.library.racer FOLDER DEED 500`` for more."""
    command = [sys.executable, "-m", "tests.library.racer", str(tmp_path), deed, "50"]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr[-2000:]


def test_merging_that_was_killed_anywhere_is_carried_on(library: Library, tmp_path: Path) -> None:
    for number in range(4):
        library.add(card(f"card {number}"), PICTURE, "From")
    cards = sorted((library.folder / "From").glob(f"*{SUFFIX}"))
    (library.folder / "Into").mkdir()
    names = [f"From/{path.name}" for path in cards]
    left = library.own / FOLDER / "left.json"
    left.parent.mkdir(parents=True)
    left.write_bytes(msgspec.json.encode(Journal(GONE, names, "Into", "From")))
    cards[0].rename(library.folder / "Into" / cards[0].name)
    # on a share that cannot rename in one step the second was killed while it had both names
    (library.folder / "Into" / "elsewhere.foxcard").hardlink_to(cards[1])
    index = Index.of(library.folder, tmp_path / "cache")
    reading = read_place(library, index, Progress(), look=True)
    assert len(reading.columns.items) == 4
    assert reading.sheets == ("Into",)
    assert not left.exists()
    assert {read_card(p)[0].name for p in files(library)} == {f"card {n}" for n in range(4)}


def test_a_list_of_somebody_who_still_moves_is_left_alone(library: Library) -> None:
    path = library.add(card("mine"), PICTURE, "From")
    left = library.own / FOLDER / "left.json"
    left.parent.mkdir(parents=True)
    left.write_bytes(msgspec.json.encode(Journal(this_program(), [f"From/{path.name}"], "Into")))
    assert carry_on(library) == 0
    assert path.is_file()
    assert left.is_file()
    sheet_moves.merge(library, "From", "Into")
    assert [p.name for p in left.parent.iterdir()] == ["left.json"]  # its own list is gone again


def test_a_list_that_leads_out_of_the_library_moves_nothing(
    library: Library, tmp_path: Path
) -> None:
    """It would be carried out with the rights of whoever opens the library next."""
    secret = tmp_path / "home" / "secret.foxcard"
    secret.parent.mkdir()
    secret.write_text("mine")
    (library.folder / "link").symlink_to(secret.parent)
    mine = library.add(card("mine"), PICTURE, "From")
    folder = library.own / FOLDER
    folder.mkdir(parents=True)
    outside = ["../home/secret.foxcard", str(secret), "link/secret.foxcard"]
    for number, note in enumerate(
        (
            Journal(GONE, outside, "From", "../home"),
            Journal(GONE, [f"From/{mine.name}"], "../home"),
            Journal(GONE, [f"From/{mine.name}"], ".foxhand/removed"),
            Journal(GONE, ["library.toml"], "From"),
        )
    ):
        (folder / f"{number}.json").write_bytes(msgspec.json.encode(note))
    assert carry_on(library) == 0
    assert secret.read_text() == "mine"
    assert mine.is_file()
    assert not list(folder.iterdir())
    Library(library.folder)  # is still one


def test_two_windows_deliver_what_waits_once(library: Library, tmp_path: Path) -> None:
    outbox = Outbox(tmp_path / "outbox")
    for number in range(40):
        one = card(f"waits {number}")
        note = Waiting(str(library.folder), "Sheet", one.name, one.identity)
        outbox.put(note, card_bytes(one, PICTURE))
    found: list[int] = []

    def deliver() -> None:
        while outbox.waiting(library.folder):
            found.append(len(Outbox(outbox.folder).deliver(Library(library.folder))))

    windows = [threading.Thread(target=deliver) for _ in range(3)]
    for window in windows:
        window.start()
    for window in windows:
        window.join()
    assert sum(found) == 40
    assert len(files(library)) == 40


def test_a_damaged_index_is_made_anew_wherever_it_is_damaged(
    library: Library, tmp_path: Path
) -> None:
    for number in range(30):
        library.add(card(f"card {number}"), None, f"Sheet {number % 3}")
    index = Index.of(library.folder, tmp_path / "cache")
    scan(index)
    index.close()
    whole, chance = index.file.read_bytes(), random.Random(3)
    for number in range(60):
        data = bytearray(whole)
        start = chance.randrange(0, len(data), 512)
        data[start : start + 4096] = chance.randbytes(min(4096, len(data) - start))
        index.file.write_bytes(data if number % 4 else data[: len(data) // 2])
        for suffix in ("-wal", "-shm"):
            index.file.with_name(index.file.name + suffix).unlink(missing_ok=True)
        again = Index.of(library.folder, tmp_path / "cache")
        reading = read_place(library, again, Progress(), look=False)
        reading = read_place(library, again, Progress(), look=True)
        entries = again.entries(reading.columns.items.tolist())
        assert len(entries) == 30, number
        again.close()


def test_what_cannot_be_listed_or_followed_is_told(library: Library, tmp_path: Path) -> None:
    path = library.add(card("there"), PICTURE, "Sheet")
    (library.folder / "Sheet" / "round.foxcard").symlink_to("round.foxcard")
    (library.folder / "Sheet" / "round").symlink_to("round")
    (library.folder / "elsewhere").symlink_to(tmp_path)
    said = " ".join(trouble.what for trouble in troubles(library))
    assert "Sheet/round is a link" in said
    assert "elsewhere is a link" in said
    index = Index.of(library.folder, tmp_path / "cache")
    entries = index_entries(library, index)
    assert {e.path.name: e.readable for e in entries} == {path.name: True, "round.foxcard": False}


@pytest.mark.skipif(os.geteuid() == 0, reason="root may list every folder")
def test_a_sheet_that_may_not_be_listed_stays_in_sight(library: Library, tmp_path: Path) -> None:
    library.add(card("there"), PICTURE, "Sheet")
    index = Index.of(library.folder, tmp_path / "cache")
    assert len(index_entries(library, index)) == 1
    (library.folder / "Sheet").chmod(0)
    try:
        reading = read_place(library, index, Progress(), look=True)
        assert list(reading.unlisted) == ["Sheet"]
        assert "Sheet" in reading.sheets
        assert len(reading.columns.items) == 1
        assert any("cannot be listed" in trouble.what for trouble in troubles(library))
    finally:
        (library.folder / "Sheet").chmod(0o755)


def index_entries(library: Library, index: Index) -> list:
    reading = read_place(library, index, Progress(), look=True)
    return list(index.entries(reading.columns.items.tolist()).values())


def test_names_that_are_one_on_other_systems_are_kept_apart(library: Library) -> None:
    first = library.add(card("Fist"), None, "Sheet")
    second = library.add(card("fist"), None, "Sheet")
    third = library.add(card("é"), None, "Sheet")
    fourth = library.add(card("e\u0301"), None, "Sheet")
    assert [p.name for p in (first, second)] == ["Fist.foxcard", "fist 2.foxcard"]
    assert third.stem == "é"
    assert fourth.stem == "é 2"
    assert moves.rename(library, first, "FIST").path == first.with_name("FIST.foxcard")
    names = ["con", "a\nb\u202ec", "~/x", "C:\\y", "👋" * 80, "nul.txt", "\u0000"]
    made = [next(card_paths(library.folder, name)).name for name in names]
    assert made[:4] == ["con_.foxcard", "a b c.foxcard", "x.foxcard", "C y.foxcard"]
    assert made[5:] == ["nul_.txt.foxcard", "card.foxcard"]
    assert len(made[4].encode()) <= 210


def test_a_lock_that_belongs_to_somebody_else_stops_only_writing(library: Library) -> None:
    path = library.add(card("there"), PICTURE, "Sheet")
    shutil.rmtree(library.own, ignore_errors=True)
    library.own.write_bytes(b"")  # no lock can be made in what is no folder, whoever one is
    with pytest.raises(FoxHandError) as caught:
        library.add(card("another"), PICTURE, "Sheet")
    assert caught.value.kept
    assert read_card(path)[0].name == "there"
