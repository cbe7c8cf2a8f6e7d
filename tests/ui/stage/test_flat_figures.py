"""A puppet out of somebody's drawings in the real window: seen straight on, posed in its plane,
its drawings changed, captured and put back on."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from fox_hand.session.puppets.making import puppet_of, write_puppet
from fox_hand.ui.stage.handles import HandleLayout
from tests.puppets import as_folder, bird
from tests.ui.conftest import LONG, Hand, OpenWindow, choose


@pytest.fixture
def puppet(open_window: OpenWindow, tmp_path: Path) -> Hand:
    source = as_folder(tmp_path / "bird", bird())
    write_puppet(puppet_of(source, "Tern"), tmp_path / "tern.glb", source)
    hand = open_window()
    hand.window.opener.open_library(tmp_path / "own", create="My cards")
    hand.window.opener.open_rig(tmp_path / "tern.glb")
    hand.qtbot.waitUntil(lambda: hand.workspace.actor is not None, timeout=LONG)
    hand.settle()
    return hand


def layout(hand: Hand) -> HandleLayout:
    found = hand.window.stage.layout_now()
    assert found is not None
    return found


def test_it_is_seen_straight_on_and_moved_across_not_turned_about(puppet: Hand) -> None:
    stage = puppet.window.stage
    before = stage.camera
    assert (before.yaw, before.pitch) == (0.0, 0.0) and before.fov < np.radians(2)
    assert list(puppet.window.overlays.bars.views())[:2] == ["Straight on", "Face"]
    middle = stage.rect().center()
    puppet.drag(
        stage,
        [middle, middle + QPoint(40, 20), middle + QPoint(80, 30)],
        Qt.MouseButton.RightButton,
    )
    assert (stage.camera.yaw, stage.camera.pitch) == (0.0, 0.0)
    assert stage.camera.target != before.target
    puppet.workspace.selection.set([puppet.row("body")])
    puppet.key(Qt.Key.Key_Z)
    assert stage.camera.pitch == 0.0


def test_a_part_turns_in_its_plane_and_shows_nothing_of_depth(puppet: Hand) -> None:
    stage, panel = puppet.window.stage, puppet.window.figure_panel
    puppet.click(stage, puppet.handle("head"))
    assert puppet.workspace.selection.rows == (puppet.row("head"),)
    dial = stage.dial()
    assert dial is not None and dial.axes == (2,)
    words = [row.word for row in panel.channels.rows]
    assert words == ["In front", "Opacity", "Turn", "Scale x", "Scale y"]
    start = puppet.handle("head")
    puppet.drag(
        stage, [start, start + QPoint(60, 0), start + QPoint(42, -42), start + QPoint(0, -60)]
    )
    assert puppet.value("head", 2) == pytest.approx(90, abs=2)  # a quarter about its pivot
    turn = puppet.workspace.actor.state.turn[puppet.row("head")]
    assert np.abs(turn[:2]).max() < 1e-9
    assert puppet.workspace.actor.locked_rows() == frozenset()


def test_a_drawing_is_chosen_captured_and_comes_back_with_the_card(puppet: Hand) -> None:
    work, window = puppet.workspace, puppet.window
    puppet.click(window.stage, puppet.handle("beak"))
    channels = window.figure_panel.channels
    row = [r.word for r in channels.rows].index("Drawing")
    setting = work.actor.rig.setting_row["beak_drawing"]
    assert work.actor.state.settings[setting] == 0
    channels.setFocus()
    channels.edit_row(row)
    choose(window, "shout")
    assert work.actor.state.settings[setting] == 1
    QTest.keyClick(window.stage, Qt.Key.Key_C)
    draft = work.capturing.draft
    assert draft is not None
    seen = work.actor.rig.flesh(work.actor.at, work.actor.flesh_nodes(sorted(draft.rows)))
    points = window.stage.camera.project(seen, window.stage.width(), window.stage.height())
    assert np.ptp(points[:, 0]) > 40  # the beak as it is drawn, not only its pivot
    window.capture.form.name.setText("Shout")
    window.home.cards.save_capture()
    puppet.wait_for_card("Shout")
    work.reset(None, "Reset all")
    assert work.actor.state.settings[setting] == 0
    puppet.click_card("Shout")
    assert work.actor.state.settings[setting] == 1
    assert "Beak drawing" in window.overlays.mix_bar.said.text()
