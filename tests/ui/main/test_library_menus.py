"""What the window opens when somebody names a card, a pack, a project or a library."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QFileDialog

from fox_hand.__main__ import begin
from fox_hand.cli.wish import wish_for
from fox_hand.demo.demo_project import shipped
from fox_hand.library.store.pack import write_pack
from fox_hand.library.store.store import Library
from fox_hand.ui.exchange.pack_dialog import PackDialog
from fox_hand.ui.main.library.sheet_menu import sheet_menu
from tests.ui.conftest import LONG, Hand, OpenWindow, choose


@pytest.fixture
def ferry(tmp_path: Path) -> Path:
    """A project of one's own."""
    made = tmp_path / "ferry"
    shutil.copytree(shipped(), made)
    return made


def test_a_card_is_shown_in_its_library(open_window: OpenWindow, ferry: Path) -> None:
    hand, card = open_window(), ferry / "library" / "Marrow" / "Face" / "Glad.foxcard"
    begin(hand.window, wish_for(card, None))
    hand.wait_for_card("Glad")
    view = hand.window.sheets.view
    hand.qtbot.waitUntil(lambda: view.rect_of(hand.entry("Glad")) is not None, timeout=LONG)
    assert str(ferry / "library") in hand.workspace.settings.libraries


def test_a_card_without_a_library_is_explained(open_window: OpenWindow, tmp_path: Path) -> None:
    lone = tmp_path / "Fist.foxcard"
    shutil.copy(shipped() / "library" / "Marrow" / "Hands" / "Fist.foxcard", lone)
    hand = open_window()
    begin(hand.window, wish_for(lone, None))
    hand.qtbot.waitUntil(lambda: "lies in no library" in hand.window.notice.text, timeout=LONG)


def test_a_project_and_a_library_are_opened(open_window: OpenWindow, ferry: Path) -> None:
    hand = open_window()
    begin(hand.window, wish_for(ferry, None))
    hand.qtbot.waitUntil(lambda: hand.workspace.shots.path is not None, timeout=LONG)
    assert hand.workspace.shots.path is not None
    assert hand.workspace.shots.path.parent == ferry / "shots"
    other = Library.create(ferry / "more", "More")
    begin(hand.window, wish_for(other.folder, None))
    hand.qtbot.waitUntil(
        lambda: any(p.name == "More" for p in hand.workspace.open_libraries.places), timeout=LONG
    )


def test_a_pack_is_looked_into(open_window: OpenWindow, ferry: Path, hand: Hand) -> None:
    pack = ferry.parent / "hands.foxpack"
    write_pack(pack, "hands", [e for e in hand.cards if e.region.value == "hands"])
    other = open_window()
    begin(other.window, wish_for(pack, None))
    other.qtbot.waitUntil(lambda: other.window.findChild(PackDialog) is not None, timeout=LONG)
    other.window.findChild(PackDialog).close()


def test_taking_out_never_writes_over_a_character_that_is_open(
    hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    pim = next(a for a in hand.workspace.cast.actors if a.prefix == "pim")
    before = pim.path.read_bytes()
    answer = (str(pim.path), "glTF (*.glb)")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: answer)
    hand.window.home.export.motion(alone=False)
    assert "not written over" in hand.window.notice.text
    assert pim.path.read_bytes() == before


def test_a_sheet_goes_further_up_and_down_and_back(hand: Hand) -> None:
    place = hand.workspace.open_libraries.places[0]

    def order() -> list[str]:
        return list(place.sheets)

    before = order()
    assert len(before) > 3
    for word, step in (("Further up", -1), ("Further down", 1)):
        sheet_menu(hand.window.home, place, before[2], QPoint(10, 10))
        choose(hand.window, word)
        wanted = before.copy()
        wanted.insert(2 + step, wanted.pop(2))
        hand.qtbot.waitUntil(lambda wanted=wanted: order() == wanted, timeout=LONG)
        hand.workspace.undo()
        hand.qtbot.waitUntil(lambda: order() == before, timeout=LONG)
