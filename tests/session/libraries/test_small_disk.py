"""A real disk that is full: each thing tells once, keeps the work, and heals when there is room."""

from __future__ import annotations

import contextlib
import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.base.work import Progress
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.index.index import Index
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.library.store.pack import TakeIn, offers, take_in, write_pack
from fox_hand.library.store.store import Library
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.snapshot import read_cast
from fox_hand.session.libraries.open_library import read_place
from fox_hand.session.libraries.storing import Wanted
from fox_hand.session.shots.shot_file import read_shot
from tests.library.killer import PICTURE, card, files
from tests.session.conftest import entry

SIZE = 3 << 20


class Disk:
    """A small disk.

    Args:
        folder: where it is mounted.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._filling = folder / "filling"

    def fill(self) -> None:
        """To the last byte."""
        with self._filling.open("ab", buffering=0) as file:
            for size in (65536, 4096, 1):
                with contextlib.suppress(OSError):
                    while file.write(b"x" * size) == size:
                        pass

    def clear(self) -> None:
        self._filling.unlink()

    @property
    def litter(self) -> list[str]:
        return [p.name for p in self.folder.rglob("*.part")]


@pytest.fixture
def disk(tmp_path: Path) -> Iterator[Disk]:
    folder = tmp_path / "small"
    folder.mkdir()
    mount = ["mount", "-t", "tmpfs", "-o", f"size={SIZE}", "tmpfs", str(folder)]
    if os.geteuid() != 0 or subprocess.run(mount, check=False, capture_output=True).returncode:
        pytest.skip("mounting a disk of a few megabytes needs root's rights")
    yield Disk(folder)
    subprocess.run(["umount", "-l", str(folder)], check=False)


@pytest.fixture
def told(workspace: Workspace) -> list[FoxHandError]:
    said: list[FoxHandError] = []
    workspace.failed.connect(said.append)
    return said


def wanted(name: str, **more: object) -> Wanted:
    return Wanted(card(name), lambda: (PICTURE, None), "Sheet", **more)


def test_captures_a_replacement_and_a_batch_wait_and_land(
    workspace: Workspace, disk: Disk, told: list[FoxHandError]
) -> None:
    library = Library.create(disk.folder / "library", "Small")
    library.add(card("there"), PICTURE, "Sheet")
    place = workspace.open_libraries.open(library.folder)
    disk.fill()
    workspace.storing.store("Capture", place, [wanted("one")])
    assert [e.code for e in told] == ["outbox.waiting"]
    workspace.storing.store("Capture 6", place, [wanted(f"batch {n}") for n in range(6)])
    assert [e.code for e in told] == ["outbox.waiting"] * 2
    assert told[1].happened.startswith("6 of 6 cards")
    again = Wanted(
        card("there", note="again"), lambda: (PICTURE, None), "Sheet", entry(workspace, "there")
    )
    workspace.storing.store("Store over", place, [again])
    assert len(told) == 3
    assert len(workspace.storing.outbox.waiting(library.folder)) == 8
    assert disk.litter == []
    workspace.open_libraries.look_again(
        place
    )  # still no room: nothing is lost, and nothing is said again
    assert len(workspace.storing.outbox.waiting(library.folder)) == 8
    disk.clear()
    workspace.open_libraries.look_again(place)
    assert workspace.storing.outbox.waiting() == []
    assert place.waiting == 0
    named = {read_card(p)[0].name: read_card(p)[0].note for p in files(library, hidden=False)}
    assert set(named) == {"there", "one", *(f"batch {n}" for n in range(6))}
    assert named["there"] == "again"
    assert len(told) == 3


def test_a_pack_is_written_whole_or_not_and_taken_in_card_by_card(
    workspace: Workspace, disk: Disk, tmp_path: Path
) -> None:
    whole = tmp_path / "whole.foxpack"
    entries = list(workspace.open_libraries.entries())
    write_pack(whole, "All", entries)
    library = Library.create(disk.folder / "library", "Small")
    before = sorted(disk.folder.rglob("*"))
    disk.fill()
    with pytest.raises(FoxHandError) as caught:
        write_pack(disk.folder / "no room.foxpack", "All", entries)
    assert caught.value.kept
    for offer in offers(whole, lambda _: None)[:3]:
        with pytest.raises(FoxHandError):
            take_in(library, whole, offer, None, TakeIn.ADD)
    disk.clear()
    assert all(p.is_dir() or p.name == "lock" for p in set(disk.folder.rglob("*")) - set(before))
    assert disk.litter == []
    assert take_in(library, whole, offers(whole, lambda _: None)[0], None, TakeIn.ADD) is not None


def test_a_shot_stays_as_it_was_until_there_is_room(
    workspace: Workspace, disk: Disk, told: list[FoxHandError]
) -> None:
    path = disk.folder / "shot.foxshot"
    workspace.shots.save(path)
    before = path.read_bytes()
    disk.fill()
    assert workspace.actor is not None
    workspace.actor.stand(
        workspace.actor.take.base.with_(settings=workspace.actor.take.base.settings + 0.25)
    )
    workspace.shots.save()
    assert [e.code for e in told] == ["file.write"]
    assert path.read_bytes() == before
    kept = read_cast(workspace.places, workspace.shots.key)  # on the other disk
    workspace.save_figure()
    kept = read_cast(workspace.places, workspace.shots.key)
    assert kept is not None
    assert kept.members[0].settings != read_shot(path).members[0].settings
    disk.clear()
    workspace.shots.save()
    assert read_shot(path).members[0].settings == kept.members[0].settings
    assert disk.litter == []


def test_a_full_home_is_told_once_and_keeps_everything_when_there_is_room(disk: Disk) -> None:
    places = Places.under(disk.folder / "home")
    workspace, said = Workspace(places), list[FoxHandError]()
    workspace.failed.connect(said.append)
    workspace.save_settings()
    disk.fill()
    workspace.settings.author = "Ines B."
    for _ in range(5):  # a timer does this every second
        workspace.save_figure()
    assert [e.code for e in said] == ["file.write"]
    workspace.save_settings()
    assert len(said) == 2
    disk.clear()
    workspace.save_figure()
    workspace.save_settings()
    assert len(said) == 2
    assert read_cast(places, workspace.shots.key) is not None
    disk.fill()
    workspace.save_figure()
    assert len(said) == 3  # it is told again after it had worked
    disk.clear()
    assert disk.litter == []
    workspace.shots.end()
    assert Workspace(places).settings.author == "Ines B."


def test_an_index_without_room_lies_elsewhere_and_pictures_are_not_kept(
    disk: Disk, tmp_path: Path
) -> None:
    library = Library.create(tmp_path / "library", "Large")
    held = {f"control_{i}": Held(turn=(0.0, 0.0, 0.0, 1.0)) for i in range(80)}
    for number in range(40):
        made = Card(f"card {number}", Pose({f"{n} {number}": h for n, h in held.items()}))
        library.add(made, None, "Sheet")
    (disk.folder / "cache").mkdir()
    index = Index.of(library.folder, disk.folder / "cache")
    cache = PictureCache(disk.folder / "cache")
    disk.fill()
    cache.put("one", b"x" * 50_000)
    assert cache.get("one") is None
    reading = read_place(library, index, Progress(), look=True)
    assert len(reading.columns.items) == 40
    assert not index.file.is_relative_to(disk.folder)
    assert len(index.entries(reading.columns.items.tolist())) == 40
    disk.clear()
    assert disk.litter == []
    cache.put("one", b"x" * 50_000)
    assert cache.get("one") == b"x" * 50_000
    assert np.array_equal(np.unique(reading.columns.shapes).shape, (40,))
