"""What cannot be written now waits on this machine, is counted by library, and is told of when it
has arrived."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from fox_hand.library.format.container import read_card
from fox_hand.library.store import moves
from fox_hand.library.store.store import Library
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.storing import Wanted
from tests.library.killer import PICTURE, card
from tests.session.conftest import entry


class Share:
    """A library that is on a share which comes and goes."""

    def __init__(self, workspace: Workspace, folder: Path, *names: str) -> None:
        self.workspace, self.folder = workspace, folder
        self.library = Library.create(folder, "Share")
        for name in names:
            self.library.add(card(name), PICTURE, "Sheet")
        place = workspace.open_libraries.open(folder)
        assert place is not None
        self.place: OpenLibrary = place

    def goes(self) -> None:
        self.folder.rename(self.folder.with_name("away"))
        self.workspace.open_libraries.look_again(self.place)

    def comes(self) -> None:
        self.folder.with_name("away").rename(self.folder)
        self.workspace.open_libraries.look_again(self.place)

    def store(self, *names: str, **more: object) -> None:
        drawn = lambda: (PICTURE, None)  # noqa: E731 - as short as what it stands for
        wanted = [Wanted(card(name, note="mine"), drawn, "Sheet", **more) for name in names]
        self.workspace.storing.store("Capture", self.place, wanted)


@pytest.fixture
def share(workspace: Workspace, tmp_path: Path) -> Share:
    return Share(workspace, tmp_path / "share", "there")


@pytest.fixture
def told(workspace: Workspace) -> list[str]:
    said: list[str] = []
    workspace.storing.told.connect(said.append)
    return said


@pytest.mark.parametrize(
    ("names", "words"),
    [
        (("Fist",), "Fist waited and is now in Share."),
        (("Fist", "Flat"), "Fist, Flat waited and are now in Share."),
        (("A", "B", "C", "D"), "A, B, C waited and are now in Share."),
    ],
)
def test_what_waits_is_counted_where_it_belongs_and_told_of_when_it_arrives(
    workspace: Workspace, share: Share, told: list[str], names: tuple[str, ...], words: str
) -> None:
    other = workspace.open_libraries.places[0]
    assert (share.place.waiting, other.waiting) == (0, 0)
    share.goes()
    share.store(*names)
    assert (share.place.waiting, other.waiting) == (len(names), 0)
    assert told == []
    workspace.storing.deliver(other)
    workspace.storing.deliver(share.place)  # still away: nothing is said, nothing goes
    assert told == [] and share.place.waiting == len(names)
    share.comes()
    assert told == [words] and share.place.waiting == 0
    there = sorted(p.stem for p in (share.folder / "Sheet").glob("*.foxcard"))
    assert there == sorted(["there", *names])
    for name in names:
        made = read_card(share.folder / "Sheet" / f"{name}.foxcard")[0]
        assert made.note == "mine" and made.created and made.changed
    share.workspace.storing.deliver(share.place)
    assert told == [words]  # once


def test_what_somebody_else_changed_meanwhile_is_for_care_to_settle(
    workspace: Workspace, share: Share, told: list[str]
) -> None:
    own = entry(workspace, "there")
    share.goes()
    share.store("there", over=own)
    away = Library(share.folder.with_name("away"))
    path = away.folder / "Sheet" / "there.foxcard"
    theirs, _ = read_card(path)
    moves.store_over(away, moves.current(away, path), replace(theirs, note="theirs"), PICTURE)
    share.comes()
    assert told == ["Somebody else had changed there: choose under Care of the library."]
    assert read_card(share.folder / "Sheet" / "there.foxcard")[0].note == "theirs"
    assert share.place.waiting == 0
