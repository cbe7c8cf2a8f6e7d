"""Taking out and in, in the window; cards that changed since; marked frames captured at once."""

from __future__ import annotations

import threading
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF
from PySide6.QtWidgets import QFileDialog, QInputDialog

from fox_hand.core.view.render_request import Pixels, View
from fox_hand.interchange.motions import read_performance
from fox_hand.library.format.container import read_card
from fox_hand.library.store import moves
from fox_hand.library.store.pack import read_pack
from fox_hand.library.store.store import Library
from fox_hand.ui.exchange.pack_dialog import PackDialog
from fox_hand.ui.main.library.card_menu import card_menu
from fox_hand.ui.main.strip_menu import strip_menu
from fox_hand.ui.services.picture_port import Drawing
from tests.ui.conftest import CTRL, LONG, Hand, choose, key_card


def menu(hand: Hand, *words: str) -> None:
    button = hand.window.header.menu_button
    hand.click(button, button.rect().center())
    choose(hand.window, *words)


def written(hand: Hand, path: Path) -> None:
    hand.qtbot.waitUntil(lambda: path.is_file() or path.is_dir(), timeout=LONG)
    hand.qtbot.waitUntil(lambda: "is written" in hand.window.notice.text, timeout=LONG)
    hand.window.notice.hide()


def test_motion_pictures_and_sheets_leave_through_the_menu(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    key_card(hand, "Wave", 1)
    key_card(hand, "Arms up", 9)
    hand.workspace.timing.set_range(1, 12)

    def answer(name: str) -> Path:
        path = tmp_path / name
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(path), ""))
        return path

    path = answer("motion.glb")
    menu(hand, "Take out", "Motion, with")
    written(hand, path)
    assert len(read_performance(path)) == 12
    path = answer("twice.bvh")
    menu(hand, "Take out", "Frames a second", "48")
    menu(hand, "Take out", "Motion alone")
    written(hand, path)
    twice = read_performance(path)
    assert (len(twice), twice.rate) == (23, pytest.approx(48.0, rel=1e-4))
    path = answer("blink.glb")
    card_menu(hand.window.home, hand.entry("Blink"), hand.window.mapToGlobal(QPoint(900, 300)))
    choose(hand.window, "Its motion alone")
    written(hand, path)
    blink = read_performance(path, 48.0)  # made at 30: 2, 2 and 3 frames
    assert (len(blink) - 1) / 48 == pytest.approx(7 / 30, abs=1 / 48)
    path = answer("pose.glb")
    menu(hand, "Take out", "This pose")
    written(hand, path)
    path = answer("frame.png")
    menu(hand, "Take out", "Picture of this")
    written(hand, path)
    stage = hand.window.stage
    assert Image.open(path).size == (stage.width(), stage.height())
    path = answer("shot.gif")
    menu(hand, "Take out", "Moving picture")
    written(hand, path)
    assert Image.open(path).n_frames == 9  # from frame 9 on it stands still
    monkeypatch.setattr(QInputDialog, "getInt", lambda *_, **__: (4, True))
    path = answer("around.webp")
    menu(hand, "Take out", "Once around")
    written(hand, path)
    assert Image.open(path).n_frames == 4
    path = answer("cards.pdf")
    menu(hand, "Take out", "Contact sheet")
    written(hand, path)
    assert path.read_bytes().startswith(b"%PDF")
    path = answer("motion.xyz")
    menu(hand, "Take out", "Motion alone")
    hand.qtbot.waitUntil(lambda: "writes no .xyz" in hand.window.notice.text, timeout=LONG)
    assert not path.exists()


def test_looking_at_another_frame_while_pictures_are_drawn_changes_none_of_them(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    key_card(hand, "Wave", 1)
    key_card(hand, "Crouch", 6)
    actor = hand.workspace.actor
    hand.workspace.timing.set_range(1, 6)
    wanted = [actor.standing_in(actor.take.at(float(f))).at.nodes for f in range(1, 7)]
    path = tmp_path / "frames"
    path.mkdir()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_, **__: str(path))
    drawn: list[np.ndarray] = []
    draw, gone = Drawing.draw, threading.Event()

    def slowly(self: Drawing, view: View) -> Pixels:
        """Somebody pulls along the ruler between every two pictures."""
        drawn.append(view.figures[0].at.nodes)
        following = float(len(drawn) % 6 + 1)
        gone.clear()
        hand.window._services.bridge.post(lambda: (hand.workspace.go(following), gone.set()))
        assert gone.wait(20)
        return draw(self, view)

    monkeypatch.setattr(Drawing, "draw", slowly)
    menu(hand, "Take out", "Pictures of all")
    hand.qtbot.waitUntil(lambda: "is written" in hand.window.notice.text, timeout=LONG)
    assert len(list(path.rglob("*.png"))) == 6
    for seen, nodes in zip(drawn[-6:], wanted, strict=True):
        assert np.allclose(seen, nodes, atol=1e-12)


def test_a_pack_goes_out_and_comes_in_with_a_choice(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "clips.foxpack"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(path), ""))
    hand.window.header.search_field.setText("kind:clip")
    hand.qtbot.waitUntil(lambda: len(hand.window.home.export.chosen()) == 7, timeout=LONG)
    menu(hand, "Take out", "Pack the cards")
    written(hand, path)
    assert len(read_pack(path).cards) == 7
    hand.window.header.search_field.clear()
    nod = hand.entry("Nod")
    library = Library(hand.workspace.open_libraries.places[0].folder)
    card, picture = read_card(nod.path)
    moves.store_over(library, moves.current(library, nod.path), replace(card, note="mine"), picture)
    moves.take_out(library, hand.entry("Breathe").path)
    hand.window.opener.reload_cards()
    hand.qtbot.waitUntil(lambda: len(hand.cards) == 27, timeout=LONG)
    hand.window.home.export.open_pack(path)
    hand.qtbot.waitUntil(lambda: bool(hand.window.findChildren(PackDialog)), timeout=LONG)
    dialog = hand.window.findChildren(PackDialog)[0]
    assert len(dialog.choices) == 2  # one is new again, one is different; five are the same
    dialog.take.click()
    hand.wait_for_card("Breathe")
    hand.wait_for_card("Nod, theirs")
    assert read_card(hand.entry("Nod").path)[0].note == "mine"
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: len(hand.cards) == 27, timeout=LONG)


def test_chips_say_that_their_card_changed_and_follow_when_asked(hand: Hand) -> None:
    key_card(hand, "Fist", 5)
    key_card(hand, "Fox", 12)
    assert hand.workspace.card_updates.stale() == []
    library = Library(hand.workspace.open_libraries.places[0].folder)
    flat = read_card(hand.entry("Flat").path)[0]
    for name in ("Fist", "Fox"):
        path = hand.entry(name).path
        card, picture = read_card(path)
        moves.store_over(
            library, moves.current(library, path), replace(card, pose=flat.pose), picture
        )
    hand.window.opener.reload_cards()
    hand.qtbot.waitUntil(lambda: len(hand.workspace.card_updates.stale()) == 2, timeout=LONG)
    row, rig = hand.row("finger_index_1_L"), hand.workspace.actor.rig
    before = hand.workspace.actor.take.at(5).turn[row].copy()
    wanted = flat.pose.controls["finger_index_1_L"].turn
    strip = hand.window.timeline.strip
    part = next(r for r in strip.rows() if r.key == "Hands")
    rect = strip.rect_of(part, 0)
    hand.click(strip, QPointF(rect.left() + 8, rect.center().y()).toPoint())
    opened = strip_menu(hand.window.home, strip.mapToGlobal(rect.center().toPoint()))
    words = [a.text() for a in opened.actions()]
    assert "Update Fist" in words
    assert "Update all 2 cards" in words
    choose(hand.window, "Update Fist")
    hand.qtbot.waitUntil(lambda: len(hand.workspace.card_updates.stale()) == 1, timeout=LONG)
    after = hand.workspace.actor.take.at(5).turn[row]
    assert abs(abs(float(after @ wanted)) - 1) < 1e-9
    assert abs(float(after @ before)) < 0.999
    assert len(hand.workspace.card_updates.stale()) == 1
    hand.key("z", CTRL)
    assert abs(float(hand.workspace.actor.take.at(5).turn[row] @ before)) > 1 - 1e-12
    assert rig.controls[row].name == "finger_index_1_L"


def test_marked_frames_of_the_shot_become_cards(hand: Hand) -> None:
    for frame, name in ((1, "Glad"), (2, "Sad"), (3, "Angry")):
        key_card(hand, name, frame)
    strip_menu(hand.window.home, hand.window.mapToGlobal(hand.window.rect().center()))
    choose(hand.window, "Mark every key")
    assert hand.workspace.timing.marks == {1, 2, 3}
    hand.window.stage.setFocus()
    hand.key("c")
    panel = hand.window.capture
    hand.qtbot.waitUntil(panel.batch.isVisible, timeout=LONG)
    panel.form.sheet.setText("Marrow/Moods")
    panel.form.sheet.editingFinished.emit()
    panel.batch_asked.emit()
    from fox_hand.ui.capture.batch_popup import BatchPopup

    hand.qtbot.waitUntil(lambda: bool(hand.window.findChildren(BatchPopup)), timeout=LONG)
    popup = hand.window.findChildren(BatchPopup)[0]
    popup.pattern.setText("Mood {n}")
    popup.take.click()
    for number in (1, 2, 3):
        card = read_card(hand.wait_for_card(f"Mood {number}").path)[0]
        assert card.source_frame == number
    one, two = (read_card(hand.entry(f"Mood {n}").path)[0].pose for n in (1, 2))
    assert one.controls["mouth_L"].settings != two.controls["mouth_L"].settings
