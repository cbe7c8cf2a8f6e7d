"""Projects, the range of a shot, neighbours, the second person and Gull, in the window."""

from __future__ import annotations

import os
import tomllib
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog

from fox_hand.session.shots import shot_lock
from fox_hand.session.shots.shot_file import read_shot
from fox_hand.ui.timeline.range_popup import RangePopup
from tests.ui.conftest import CTRL, LONG, Hand, OpenWindow, choose, key_card


def from_menu(hand: Hand, *words: str) -> None:
    button = hand.window.header.project_button
    hand.click(button, button.rect().center())
    choose(hand.window, *words)


def opened(hand: Hand, name: str, cast: int, what: Callable[[], object]) -> None:
    """Do something that opens a shot, and wait until its stage is set."""
    with hand.qtbot.waitSignal(hand.window.shot_opener.opened, timeout=LONG):
        what()
    assert hand.workspace.shots.name == name
    assert len(hand.workspace.cast.actors) == cast
    hand.settle()


def answers(given: str) -> Callable[..., tuple[str, bool]]:
    return lambda *_, **__: (given, True)


def test_a_project_is_made_and_shots_are_begun_left_and_found_again(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    key_card(hand, "Wave", 5)
    folder = tmp_path / "Storm"
    folder.mkdir()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_, **__: str(folder))
    monkeypatch.setattr(QInputDialog, "getText", answers("The Storm"))
    opened(hand, "Storm_010", 2, lambda: from_menu(hand, "New project"))
    said = tomllib.loads((folder / "project.toml").read_text())
    assert said["name"] == "The Storm"
    assert said["shots"] == ["shots/Storm_010.foxshot"]
    assert [Path(p).name for p in said["rigs"]] == ["marrow.glb", "pim.glb"]
    key_card(hand, "Arms up", 9)
    lay_on_key(hand, "Fox", "2")
    hand.key("s", CTRL)
    first = folder / "shots" / "Storm_010.foxshot"
    hand.qtbot.waitUntil(
        lambda: any(o.name == "Arms up" for m in read_shot(first).members for o in m.origins),
        timeout=LONG,
    )
    monkeypatch.setattr(QInputDialog, "getText", answers("Storm_020"))
    opened(hand, "Storm_020", 2, lambda: from_menu(hand, "New shot"))
    assert not hand.workspace.actor.keys.lines  # the cast as it stands, and no keys
    assert on_keys(hand) == {2: "Fox"}  # as in the shot it was made from, and its own from here
    lay_on_key(hand, "Glad", "2")
    before = first.read_bytes()
    from_menu(hand, "New shot")  # the same name once more
    hand.qtbot.waitUntil(lambda: "left as it is" in hand.window.notice.text, timeout=LONG)
    opened(hand, "Storm_010", 2, lambda: from_menu(hand, "Shots of The Storm", "Storm_010"))
    assert {o.name for o in hand.workspace.actor.keys.origins.values()} >= {"Arms up"}
    assert first.read_bytes() == before
    assert on_keys(hand) == {2: "Fox"}
    opened(hand, "Storm_020", 2, lambda: from_menu(hand, "Shots of The Storm", "Storm_020"))
    assert on_keys(hand) == {2: "Glad"}
    said = tomllib.loads((folder / "project.toml").read_text())
    assert said["shots"] == ["shots/Storm_010.foxshot", "shots/Storm_020.foxshot"]


def lay_on_key(hand: Hand, name: str, key: str) -> None:
    hand.window.sheets.view.reveal(hand.entry(name))
    hand.window.setFocus()
    hand.key(key, CTRL)


def on_keys(hand: Hand) -> dict[int, str]:
    """What the row above the sheets shows."""
    row = hand.window.sheets.hand
    return {card.number + 1: card.entry.name for card in row.cards if row.isVisible()}


def wheel(hand: Hand, x: float, steps: int) -> None:
    strip = hand.window.timeline.strip
    at = QPointF(x, 20)
    event = QWheelEvent(
        at,
        QPointF(strip.mapToGlobal(at.toPoint())),
        QPoint(),
        QPoint(0, 120 * steps),
        Qt.MouseButton.NoButton,
        CTRL,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(strip, event)


def test_the_range_is_typed_and_the_strip_shows_20_to_20_000_frames(hand: Hand) -> None:
    strip, tools = hand.window.timeline.strip, hand.window.timeline.tools
    hand.click(tools.range, tools.range.rect().center())
    popup = tools.findChild(RangePopup)
    hand.qtbot.waitUntil(popup.isVisible, timeout=LONG)
    popup.last.selectAll()
    hand.qtbot.keyClicks(popup.last, "30000")
    hand.qtbot.keyClick(popup.last, Qt.Key.Key_Return)
    assert hand.workspace.timing.last == 30_000
    assert "30000" in tools.range.text()
    middle = strip.scale.left + strip.scale.width / 2
    under = strip.scale.frame_at(middle)
    for _ in range(5):
        wheel(hand, middle, 1)
        assert strip.scale.frame_at(middle) == pytest.approx(under, abs=1e-6)
    wheel(hand, middle, 60)
    assert strip.scale.last - strip.scale.first == pytest.approx(20)
    wheel(hand, middle, -100)
    assert strip.scale.last - strip.scale.first == pytest.approx(20_000)
    numbers, small = strip.scale.ticks()
    assert numbers * strip.scale.pitch >= 44
    assert numbers % small == 0


def test_neighbours_are_outlined_where_the_figure_stands_at_their_keys(hand: Hand) -> None:
    key_card(hand, "Sit on bollard", 1)
    key_card(hand, "Arms up", 25)
    workspace, stage = hand.workspace, hand.window.stage
    workspace.go(13)
    hand.settle()
    assert not [n for n in stage.pictures.latest.contours if n.startswith("key")]
    hand.key("n")
    hand.settle()
    hand.qtbot.waitUntil(
        lambda: len([n for n in stage.pictures.latest.contours if n.startswith("key")]) == 2,
        timeout=LONG,
    )
    view, actor = stage.pictures.latest.view, workspace.actor
    for frame in (1.0, 25.0):
        flesh = actor.rig.flesh(actor.standing_in(actor.take.at(frame)).at)
        seen = view.camera.project(flesh, view.width, view.height)[:, 1]
        lines = stage.pictures.latest.contours[f"key {frame}"]
        top = min(float(line[:, 1].min()) for line in lines)
        assert top == pytest.approx(max(float(seen.min()), 0.0), abs=6), frame
    hand.key("n")
    assert not workspace.settings.onion


def test_the_second_person_is_told_who_has_the_shot(
    hand: Hand, open_window: OpenWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "fr_020.foxshot"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(path), ""))
    hand.workspace.settings.author = "Ines B."
    hand.key("s", CTRL)
    hand.qtbot.waitUntil(lambda: hand.workspace.shots.name == "fr_020", timeout=LONG)
    second, told = open_window(), []
    monkeypatch.setattr(second.window.notice, "tell", told.append)
    monkeypatch.setattr(shot_lock, "_owner", lambda _: -1)  # of somebody else
    opened(second, "fr_020", 2, lambda: second.window.shot_opener.open(path))
    second.qtbot.waitUntil(lambda: any("Ines B. has fr_020 open" in t for t in told), timeout=LONG)
    monkeypatch.setattr(shot_lock, "_owner", lambda _: os.getuid())
    second.window.shot_opener.open(path)
    own = "fr_020 is open in another window of yours"
    second.qtbot.waitUntil(lambda: any(own in t for t in told), timeout=LONG)


def test_gull_shows_one_drawing_of_every_part_and_the_picture_follows(
    hand: Hand, library_folder: Path
) -> None:
    shot = library_folder.parent / "shots" / "nf_040.foxshot"
    opened(hand, "nf_040", 1, lambda: hand.window.shot_opener.open(shot))
    workspace, stage = hand.workspace, hand.window.stage
    rig, pictures = workspace.actor.rig, []
    parts = ("beak", "near_wing", "eye", "half_beak")
    for frame, view, wanted in (
        (1, "Side", ("closed", "folded", "open", "")),
        (48, "Side", ("shout", "up", "wide", "")),
        (53, "Half", ("", "", "", "closed")),
    ):
        workspace.go(frame)
        hand.settle()
        assert rig.views.names[workspace.actor.view] == view
        pictures.append(stage.pictures.latest.pixels[..., :3].astype(float))
        sizes = np.linalg.norm(workspace.actor.at.nodes[:, :3, 0], axis=1)
        for part, word in zip(parts, wanted, strict=True):
            swap = rig.swaps[rig.control_row[part]]
            shown = [n for n, node in zip(swap.names, swap.nodes, strict=True) if sizes[node] > 0.5]
            assert shown == ([word] if word else [])
    apart = np.abs(pictures[0] - pictures[1]).max(-1) > 60
    assert 0.01 < apart.mean() < 0.4
    hand.key("w", Qt.KeyboardModifier.ShiftModifier)
    assert workspace.timing.frame == 57
