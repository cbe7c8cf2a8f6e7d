"""Seeing what others do: announced on this machine, looked for on a share."""

from __future__ import annotations

import queue
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from watchfiles import Change

from fox_hand.base.places import Places
from fox_hand.core.pose.pose import Pose
from fox_hand.library.files.file_system import is_remote
from fox_hand.library.format.card import Card
from fox_hand.library.store.store import Library
from fox_hand.session.libraries import watching
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.watching import Watching
from fox_hand.session.runtime.jobs import Jobs

# the example of proc(5), mountinfo, and lines of other kinds in its format
MOUNTS = """\
36 35 98:0 / / rw,noatime shared:1 - ext4 /dev/root rw,errors=continue
40 36 0:33 / /mnt/studio rw - nfs4 server:/studio rw
41 36 0:34 / /mnt/studio/local rw - xfs /dev/sdb1 rw
42 36 0:35 / /mnt/with\\040space rw - cifs //server/share rw
43 36 0:36 / /home/ines/far rw - fuse.sshfs ines@server:/ rw
44 36 0:37 / /mnt/plain - nfs server:/plain
45 36 / /mnt/cut - nfs server:/cut
46 36 0:38 / /mnt/none rw -
"""


@pytest.mark.parametrize(
    ("folder", "remote"),
    [
        ("/home/ines/poses", False),
        ("/mnt/studio/poses", True),
        ("/mnt/studio/local/poses", False),
        ("/mnt/with space/x", True),
        ("/mnt/plain/x", True),
        ("/mnt/cut", False),
        ("/mnt/none", False),
        ("/home/ines/far", True),
        ("/mnt/studiolike", False),
    ],
)
def test_a_network_drive_is_known_by_its_mount(tmp_path: Path, folder: str, remote: bool) -> None:
    mounts = tmp_path / "mountinfo"
    mounts.write_text(MOUNTS)
    assert is_remote(Path(folder), mounts) is remote
    assert not is_remote(Path(folder), tmp_path / "none")


class Workspace:
    """A shelf whose posts are done when this thread looks at them."""

    def __init__(self, places: Places, poll: float) -> None:
        self._posts: queue.Queue[Callable[[], None]] = queue.Queue()
        self.open_libraries = OpenLibraries(places, Jobs(lambda run: run(), inline=True))
        self.watching = Watching(self.open_libraries, self._posts.put, poll)

    def until(self, ready: Callable[[], bool]) -> None:
        end = time.monotonic() + 20
        while not ready():
            assert time.monotonic() < end, "it was not seen"
            try:
                self._posts.get(timeout=0.05)()
            except queue.Empty:
                continue

    def names(self) -> set[str]:
        return {e.name for e in self.open_libraries.entries()}


@pytest.fixture
def make_desk(places: Places) -> Iterator[Callable[[float], Workspace]]:
    made: list[Workspace] = []

    def make(poll: float) -> Workspace:
        made.append(Workspace(places, poll))
        return made[-1]

    yield make
    for workspace in made:
        workspace.watching.stop()


@pytest.mark.parametrize("remote", [False, True])
def test_what_others_do_is_seen_and_a_library_comes_back_by_itself(
    tmp_path: Path,
    make_desk: Callable[[float], Workspace],
    monkeypatch: pytest.MonkeyPatch,
    remote: bool,
) -> None:
    monkeypatch.setattr(watching, "is_remote", lambda _: remote)
    library = Library.create(tmp_path / "lib", "Shared")
    workspace = make_desk(0.05 if remote else 600.0)
    place = workspace.open_libraries.open(library.folder)
    path = library.add(Card("One", Pose({})), None, "A")
    workspace.until(lambda: workspace.names() == {"One"})
    (library.folder / "A").rename(library.folder / "B")
    workspace.until(lambda: place.sheets == ("B",))
    (library.folder / "B" / path.name).unlink()
    workspace.until(lambda: workspace.names() == set())
    away = tmp_path / "away"
    library.folder.rename(away)
    workspace.until(lambda: place.problem is not None)
    away.rename(library.folder)
    workspace.until(lambda: place.problem is None)
    library.add(Card("Two", Pose({})), None, "B")
    workspace.until(lambda: workspace.names() == {"Two"})
    workspace.open_libraries.forget(place)
    assert workspace.watching._watches == {}


def test_names_of_old_disks_do_not_stop_the_watch(
    tmp_path: Path, make_desk: Callable[[float], Workspace]
) -> None:
    for name, poll in ((b"lib", 600.0), (b"l\xefb", 0.05)):
        library = Library.create(tmp_path / name.decode("utf-8", "surrogateescape"), "Shared")
        (library.folder / b"f\xfcchse".decode("utf-8", "surrogateescape")).mkdir()
        workspace = make_desk(poll)
        workspace.open_libraries.open(library.folder)
        library.add(Card("One", Pose({})), None, "A")
        workspace.until(lambda workspace=workspace: workspace.names() == {"One"})
        assert all(w._thread.is_alive() for w in workspace.watching._watches.values())


def test_hidden_folders_and_links_are_not_watched(tmp_path: Path) -> None:
    (tmp_path / "A" / "B").mkdir(parents=True)
    (tmp_path / ".foxhand" / "versions").mkdir(parents=True)
    (tmp_path / "link").symlink_to(tmp_path / "A")
    (tmp_path / "note.txt").write_text("x")
    assert watching._folders_in(tmp_path) == {tmp_path, tmp_path / "A", tmp_path / "A" / "B"}
    seen = {
        name: watching._of_interest(tmp_path, Change.modified, str(path))
        for name, path in {
            "card": tmp_path / "A" / "x.foxcard",
            "part": tmp_path / "A" / ".x.part",
            "own": tmp_path / ".foxhand" / "lock",
            "elsewhere": tmp_path.parent / "y.foxcard",
        }.items()
    }
    assert seen == {"card": True, "part": False, "own": False, "elsewhere": False}
