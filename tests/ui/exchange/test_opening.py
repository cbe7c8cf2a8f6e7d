"""Control rigs, the cast, sets, locks, lens and boards through the real window."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QImage, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog

from fox_hand.core.model.controls import ControlKind, SettingKind
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import sidecar_path
from fox_hand.library.format.container import read_card
from fox_hand.session.app import sets
from fox_hand.session.app.limbs import on_goal
from fox_hand.session.figures.cast import Absent
from fox_hand.session.figures.figure import Figure
from tests.described import description_of, write_description
from tests.interchange.test_bvh import bvh_text
from tests.ui.conftest import ALT, CTRL, LONG, Hand, OpenWindow

CAST = shipped() / "cast"


def place(hand: Hand, name: str) -> np.ndarray:
    actor = hand.workspace.actor
    return actor.at.nodes[actor.rig.controls[hand.row(name)].node, :3, 3].copy()


def row_of(hand: Hand, word: str) -> int:
    rows = hand.window.figure_panel.channels.rows
    return next(i for i, r in enumerate(rows) if r.word == word)


def test_a_limb_goes_over_to_its_goal_and_the_goal_pulls_it(hand: Hand) -> None:
    stage, panel = hand.window.stage, hand.window.figure_panel
    hand.click(stage, hand.handle("hand_L"))
    before = place(hand, "forearm_L")
    hand.key(Qt.Key.Key_I)
    assert np.allclose(place(hand, "forearm_L"), before, atol=1e-4)
    assert hand.workspace.selection.rows == (hand.row("hand_goal_L"),)
    assert panel.limbs.goal.isChecked()
    hand.settle()
    layout = stage.layout_now()
    assert not layout.shown[hand.row("forearm_L")]  # it moves nothing now
    assert layout.shown[hand.row("elbow_L")]
    start, was = hand.handle("hand_goal_L"), place(hand, "hand_L")
    hand.drag(stage, [start, start + QPoint(-20, -30), start + QPoint(-40, -90)])
    moved = place(hand, "hand_L")
    assert moved[1] > was[1] + 0.1
    assert np.allclose(moved, place(hand, "hand_goal_L"), atol=1e-6)
    assert hand.workspace.history.undo_label == "Move Left hand"
    hand.key(Qt.Key.Key_Z, CTRL)
    assert np.allclose(place(hand, "hand_L"), was)
    hand.click(panel.limbs.joints, panel.limbs.joints.rect().center())
    assert hand.workspace.selection.rows == (hand.row("hand_L"),)
    assert np.allclose(place(hand, "forearm_L"), before, atol=1e-4)


def test_an_arrow_moves_along_one_axis_only(hand: Hand) -> None:
    stage = hand.window.stage
    hand.click(stage, hand.handle("hips"))
    hand.settle()
    arrows = stage.arrows()
    tip = arrows.tip(1)
    hand.drag(stage, [tip, tip + QPointF(0, -20), tip + QPointF(0, -50)])
    move = hand.workspace.actor.state.move[hand.row("hips")]
    assert move[1] > 0.05
    assert np.abs(move[[0, 2]]).max() < 1e-9


def test_alt_click_picks_through(hand: Hand) -> None:
    stage = hand.window.stage
    hand.window.overlays.bars.go_to("Own left")
    hand.settle()
    layout = stage.layout_now()
    pair = (hand.row("thigh_L"), hand.row("thigh_R"))
    at = hand.handle("thigh_L")
    assert np.hypot(*(layout.points[pair[0], :2] - layout.points[pair[1], :2])) < 9
    QTest.mouseClick(stage, Qt.MouseButton.LeftButton, ALT, at)
    first = hand.workspace.selection.rows
    QTest.mouseClick(stage, Qt.MouseButton.LeftButton, ALT, at)
    assert hand.workspace.selection.rows != first
    assert set(first) | set(hand.workspace.selection.rows) <= set(range(len(layout.points)))


def test_locks_hold_against_typing_dragging_and_cards(hand: Hand) -> None:
    channels = hand.window.figure_panel.channels
    hand.workspace.selection.set([hand.row("finger_index_2_L")])
    curl = row_of(hand, "Curl")
    hand.click(channels, channels.lock_rect(curl).center().toPoint())
    assert channels.locked(channels.rows[curl])
    assert hand.workspace.history.undo_label == "Lock Index 2 curl"
    hand.click(channels, channels.value_rect(curl).center().toPoint())
    assert not channels._editor.isVisible()
    hand.workspace.selection.clear()
    hand.click_card("Fist")
    assert hand.value("finger_index_2_L") == pytest.approx(0)
    assert hand.value("finger_index_3_L") > 40
    hand.key(Qt.Key.Key_Escape)
    hand.key(Qt.Key.Key_Z, CTRL)
    hand.click_card("Fist")
    assert hand.value("finger_index_2_L") > 80


def test_switches_and_choices_in_the_channels(hand: Hand, open_window: OpenWindow) -> None:
    channels = hand.window.figure_panel.channels
    hand.workspace.selection.set([hand.row("hat")])
    hat = row_of(hand, "Hat")
    assert channels.rows[hat].kind(hand.workspace.actor.rig) is SettingKind.CHOICE
    before = place(hand, "hat")
    channels.setFocus()
    channels._set_current(hat)
    hand.key(Qt.Key.Key_Right)
    hand.key(Qt.Key.Key_Right)
    assert hand.workspace.actor.state.settings[hand.workspace.actor.rig.setting_row["hat"]] == 2
    assert place(hand, "hat")[1] < before[1] - 0.01
    hand.window.opener.open_rig(CAST / "brandle.glb")
    hand.qtbot.waitUntil(lambda: hand.workspace.actor.rig.name == "Brandle", timeout=60_000)
    hand.workspace.selection.set([hand.row("mouth")])
    sealed = row_of(hand, "Lips sealed")
    hand.click(channels, channels.value_rect(sealed).center().toPoint())
    rig = hand.workspace.actor.rig
    assert hand.workspace.actor.state.settings[rig.setting_row["lips_sealed"]] == 0
    assert hand.workspace.history.undo_label == "Set Lips sealed"


def test_many_controls_show_mixed_and_take_one_value(hand: Hand) -> None:
    channels = hand.window.figure_panel.channels
    hand.click_card("Fist")
    hand.key(Qt.Key.Key_Return)
    hand.window.figure_panel.sets.choose("L hand")
    assert channels.rows[0].value(hand.workspace.actor.rig, hand.workspace.actor.state) is None
    before = hand.value("finger_index_1_L"), hand.value("finger_ring_3_L")
    hand.click(channels, channels.value_rect(0).center().toPoint())
    hand.key("+-30")
    hand.key(Qt.Key.Key_Return)
    after = hand.value("finger_index_1_L"), hand.value("finger_ring_3_L")
    assert np.allclose(np.array(before) - after, 30, atol=1e-6)
    hand.click(channels, channels.value_rect(0).center().toPoint())
    hand.key("15")
    hand.key(Qt.Key.Key_Return)
    assert hand.value("finger_index_1_L") == pytest.approx(15)
    assert hand.value("finger_ring_3_L") == pytest.approx(15)


def test_both_sides_at_once(hand: Hand) -> None:
    hand.key(Qt.Key.Key_Y)
    assert hand.window.overlays.bars.symmetry.isChecked()
    start = hand.handle("arm_L")
    hand.drag(hand.window.stage, [start, start + QPoint(0, -20), start + QPoint(0, -60)])
    left, right = place(hand, "hand_L"), place(hand, "hand_R")
    assert np.allclose(right, left * (-1, 1, 1), atol=1e-6)
    hand.key(Qt.Key.Key_Z, CTRL)
    assert not hand.workspace.actor.differs().any()


def test_sets_from_the_panel(hand: Hand, monkeypatch: pytest.MonkeyPatch) -> None:
    sets = hand.window.figure_panel.sets
    assert not sets.new_button.isEnabled()
    hand.workspace.selection.set([hand.row("arm_L"), hand.row("hand_L")])
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Waving", True))
    hand.key(Qt.Key.Key_G, CTRL)
    assert sets.names[-1] == "Waving"
    hand.workspace.selection.set([hand.row("head")])
    actions = {a.text(): a for a in sets.menu("Waving").actions()}
    actions["Update to what is selected"].trigger()
    hand.workspace.selection.clear()
    hand.click(sets.chip("Waving"), sets.chip("Waving").rect().center())
    assert hand.workspace.selection.rows == (hand.row("head"),)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Looking", True))
    {a.text(): a for a in sets.menu("Waving").actions()}["Rename …"].trigger()
    assert "Looking" in sets.names
    {a.text(): a for a in sets.menu("Looking").actions()}["Delete"].trigger()
    assert "Looking" not in sets.names


def test_the_figure_from_the_keyboard(hand: Hand) -> None:
    figure = hand.window.figure_panel.figure
    hand.qtbot.waitUntil(lambda: figure.drawing is not None, timeout=60_000)
    hand.workspace.selection.set([hand.row("chest")])
    figure.setFocus()
    hand.key(Qt.Key.Key_Up)
    hand.key(Qt.Key.Key_Up)
    hand.key(Qt.Key.Key_Space)
    assert hand.workspace.selection.rows != (hand.row("chest"),)
    picked = hand.workspace.selection.rows[0]
    assert figure.drawing.dots[picked, 1] < figure.drawing.dots[hand.row("chest"), 1]
    hand.workspace.selection.set([hand.row("arm_L")])
    figure._current = hand.row("arm_L")
    hand.key(Qt.Key.Key_Space, CTRL)
    assert hand.row("finger_ring_3_L") in hand.workspace.selection.rows
    spots = {c.kind for c in hand.workspace.actor.rig.controls}
    assert ControlKind.GOAL in spots
    assert (figure.drawing.dots.max(0) <= (208, 288)).all()


def test_tabs_and_clicks_let_others_act(hand: Hand) -> None:
    marrow, pim = hand.workspace.cast.actors
    tabs = hand.window.header.cast
    assert hand.workspace.actor is marrow
    hand.click(tabs.tab_of(pim), tabs.tab_of(pim).rect().center())
    assert hand.workspace.actor is pim
    assert hand.window.windowTitle().startswith("Pim")
    hand.window.stage.frame_actor(None)
    hand.settle()
    points = hand.window.stage.camera.project(
        marrow.handles(), hand.window.stage.width(), hand.window.stage.height()
    )
    x, y = points[marrow.rig.control_row["chest"], :2].tolist()
    hand.click(hand.window.stage, QPoint(round(x), round(y)))
    assert hand.workspace.actor is marrow
    tabs.tab_of(pim).setFocus()
    hand.key(Qt.Key.Key_Space)
    assert hand.workspace.actor is pim


def test_the_lens_follows_its_part(hand: Hand) -> None:
    lens = hand.window.overlays.lens
    assert not lens.isVisible()
    hand.key(Qt.Key.Key_L)
    assert lens.isVisible()
    lens.look_at("Left hand")
    first = np.array(lens.camera.target)
    hand.click_card("Wave")
    hand.key(Qt.Key.Key_Return)
    assert lens.camera.target[1] > first[1] + 0.2
    hand.qtbot.waitUntil(lambda: lens._image is not None, timeout=60_000)
    far = lens.camera.distance
    at = QPointF(lens.rect().center())
    wheel = QWheelEvent(
        at,
        QPointF(lens.mapToGlobal(at.toPoint())),
        QPoint(),
        QPoint(0, 240),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(lens, wheel)
    assert lens.camera.distance < far
    yaw = lens.camera.yaw
    hand.drag(lens, [QPoint(60, 60), QPoint(90, 60), QPoint(120, 60)])
    assert lens.camera.yaw != yaw
    hand.click(lens.close_button, lens.close_button.rect().center())
    assert not lens.isVisible()


def test_views_are_kept_with_the_character(hand: Hand) -> None:
    bars, stage = hand.window.overlays.bars, hand.window.stage
    bars.go_to("Face")
    kept = stage.camera
    bars.keep_view("Close up")
    bars.go_to("Behind")
    bars.go_to_kept("Close up")
    assert np.allclose(stage.camera.target, kept.target)
    assert stage.camera.distance == kept.distance
    assert list(hand.workspace.actor.views) == ["Close up"]


def drop(hand: Hand, path: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    stage = hand.window.stage
    at = stage.mapTo(hand.window, QPoint(200, 200))
    event = QDropEvent(
        QPointF(at),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    hand.window.dropEvent(event)


def test_reference_pictures_are_dropped_scaled_faded_and_remembered(
    hand: Hand, open_window: OpenWindow, tmp_path: Path
) -> None:
    path = tmp_path / "reference.png"
    picture = QImage(400, 300, QImage.Format.Format_RGB32)
    picture.fill(Qt.GlobalColor.darkCyan)
    picture.save(str(path))
    (tmp_path / "torn.png").write_bytes(b"not a picture")
    drop(hand, path)
    (board,) = hand.window.overlays.boards.boards
    assert (board.width(), board.height()) == (240, 180)
    hand.drag(board, [QPoint(100, 90), QPoint(130, 100), QPoint(140, 110)])
    corner = QPoint(board.width() - 4, board.height() - 4)
    hand.drag(board, [corner, corner + QPoint(30, 0), corner + QPoint(60, 0)])
    assert board.width() == 300
    board.set_fade(0.5)
    drop(hand, tmp_path / "torn.png")
    assert "torn.png cannot be shown" in hand.window.notice.text
    kept = board.kept()
    hand.window.close()
    again = open_window()
    again.window.opener.open_crew()
    again.qtbot.waitUntil(lambda: len(again.workspace.cast) == 2, timeout=60_000)
    assert [b.kept() for b in again.window.overlays.boards.boards] == [kept]
    again.window.overlays.boards.boards[0].setFocus()
    again.key(Qt.Key.Key_Delete)
    assert again.window.overlays.boards.boards == []


def test_pairs_are_corrected_and_saved_from_the_screen(
    open_window: OpenWindow, tmp_path: Path
) -> None:
    path = tmp_path / "quill.glb"
    shutil.copy(CAST / "quill.glb", path)
    hand = open_window()
    hand.window.opener.open_rig(path)
    hand.qtbot.waitUntil(lambda: hand.workspace.actor is not None, timeout=60_000)
    hand.window.screens.show_pairs()
    screen = hand.window.screens.pairs
    assert screen.isVisible()
    names = [hand.workspace.actor.rig.controls[p.row].name for p in screen.table.pairs]
    index = names.index("LeftIndex1")
    screen.table.scrollTo(screen.table.model().index(index, 0))
    hand.click(screen.table.viewport(), screen.table.rect_of(index).center())
    assert screen.partner.currentText() == "RightIndex1"
    assert screen.role.currentText() == "leftIndexProximal"
    assert "Outlines meet" in screen.trial.verdict.text()
    screen.partner.setCurrentText("RightRing1")
    screen.partner.activated.emit(screen.partner.currentIndex())
    assert "is off" in screen.trial.verdict.text()
    assert screen.save_button.isEnabled()
    hand.key(Qt.Key.Key_Z, CTRL)
    assert not screen.save_button.isEnabled()
    rules = screen.trial.rules
    hand.click(rules, rules.rule_rect(0, 1).center().toPoint())
    setting = screen.draft.rig.settings[rules.rows[0]].name
    hand.qtbot.waitUntil(lambda: None not in screen.trial.two._images, timeout=60_000)
    hand.click(screen.save_button, screen.save_button.rect().center())
    hand.qtbot.waitUntil(lambda: setting in sidecar_path(path).read_text(), timeout=5_000)
    assert not screen.isVisible()
    hand.qtbot.waitUntil(
        lambda: (
            hand.workspace.actor.rig.settings[
                hand.workspace.actor.rig.setting_row[setting]
            ].mirror.value
            == "keep"
        ),
        timeout=60_000,
    )


def test_a_rig_that_changes_on_disk_is_read_again(open_window: OpenWindow, tmp_path: Path) -> None:
    path = tmp_path / "pim.glb"
    shutil.copy(CAST / "pim.glb", path)
    shutil.copy(sidecar_path(CAST / "pim.glb"), sidecar_path(path))
    hand = open_window()
    hand.window.opener.open_rig(path)
    hand.qtbot.waitUntil(lambda: hand.workspace.actor is not None, timeout=60_000)
    hand.settle()
    hand.workspace.selection.set([hand.row("forearm_L")])
    hand.window.stage.setFocus()
    for _ in range(4):
        hand.key(Qt.Key.Key_Up)
    bent = hand.value("forearm_L")
    sidecar_path(path).unlink()
    hand.window.opener.look_for_changed_rigs()
    hand.qtbot.waitUntil(lambda: not hand.workspace.actor.rig.limbs, timeout=60_000)
    assert "was read again" in hand.window.notice.text
    assert abs(bent - 20) < 1e-6
    assert np.degrees(2 * np.arccos(hand.workspace.actor.state.turn[hand.row("forearm_L"), 3])) == (
        pytest.approx(20)
    )
    assert hand.workspace.selection.rows == (hand.row("forearm_L"),)
    path.unlink()
    hand.window.close()
    again = open_window()
    again.window.opener.open_cast("desk", ())
    again.qtbot.waitUntil(lambda: len(again.workspace.cast) == 1, timeout=60_000)
    (absent,) = again.workspace.cast
    assert isinstance(absent, Absent)
    assert str(path) in again.window.notice.text
    assert "not there" in again.window.header.cast.tabs[0].accessibleName()
    shutil.copy(CAST / "pim.glb", path)
    again.window.opener.look_for_changed_rigs()
    again.qtbot.waitUntil(
        lambda: isinstance(next(iter(again.workspace.cast)), Figure), timeout=60_000
    )
    assert again.workspace.actor.differs()[again.row("forearm_L")]


def test_a_motion_file_is_asked_for_its_unit(
    open_window: OpenWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "walk.bvh"
    path.write_text(bvh_text(2))
    hand = open_window()
    asked: list[list[str]] = []

    def answer(_parent, _title, _label, items, current, _editable):
        asked.append(items)
        return items[current], True

    monkeypatch.setattr(QInputDialog, "getItem", answer)
    hand.window.opener.open_rig(path)
    hand.qtbot.waitUntil(lambda: hand.workspace.actor is not None, timeout=60_000)
    assert any("centimetres (the figure is 1.4" in item for item in asked[0])
    assert 1 < hand.workspace.actor.rig.height < 2
    figure = hand.window.figure_panel.figure
    hand.qtbot.waitUntil(lambda: figure.drawing is not None, timeout=60_000)
    hand.settle()
    hand.click(hand.window.stage, hand.handle("LeftArm"))
    assert hand.workspace.selection.rows == (hand.row("LeftArm"),)


def test_a_goal_alone_can_be_framed_and_captured(hand: Hand) -> None:
    hand.workspace.selection.set([hand.row("foot_goal_L")])
    far = hand.window.stage.camera.distance
    hand.key(Qt.Key.Key_Z)
    assert hand.window.stage.camera.distance < far / 2
    hand.key(Qt.Key.Key_C)
    draft = hand.workspace.capturing.draft
    assert draft is not None
    draft.name = "Foot on the rail"
    hand.window.home.cards.save_capture()
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is None, timeout=60_000)
    entry = hand.wait_for_card("Foot on the rail")
    pose = read_card(entry.path)[0].pose.controls["foot_goal_L"]
    assert pose.turn is not None
    assert "leg_follow_L" in pose.settings
    hand.click_card("Foot on the rail")
    hand.key(Qt.Key.Key_Escape)


def test_a_pole_and_the_gaze_are_dragged(hand: Hand) -> None:
    hand.workspace.selection.set([hand.row("hand_L"), hand.row("foot_R")])
    hand.key(Qt.Key.Key_I)
    assert all(on_goal(hand.workspace, limb) for limb in hand.window.figure_panel.limbs.limbs())
    elbow = place(hand, "forearm_L")
    hand.settle()
    start = hand.handle("elbow_L")
    hand.drag(hand.window.stage, [start, start + QPoint(30, -40), start + QPoint(60, -120)])
    assert np.linalg.norm(place(hand, "forearm_L") - elbow) > 0.005
    hand.workspace.selection.set([hand.row("gaze")])
    channels = hand.window.figure_panel.channels
    follow = row_of(hand, "Eyes follow")
    hand.click(channels, channels.value_rect(follow).center().toPoint())
    hand.key("1")
    hand.key(Qt.Key.Key_Return)
    hand.settle()
    eye = hand.workspace.actor.at.nodes[
        hand.workspace.actor.rig.controls[hand.row("eye_L")].node
    ].copy()
    start = hand.handle("gaze")
    hand.drag(hand.window.stage, [start, start + QPoint(20, 0), start + QPoint(80, -30)])
    after = hand.workspace.actor.at.nodes[hand.workspace.actor.rig.controls[hand.row("eye_L")].node]
    assert np.abs(after[:3, :3] - eye[:3, :3]).max() > 0.05
    assert np.allclose(after[:3, 3], eye[:3, 3])


def test_who_is_opened_from_outside_acts_beside_those_who_stood_there(hand: Hand) -> None:
    opener, workspace = hand.window.opener, hand.workspace
    cast = CAST
    for name in ("pim", "quill", "pim"):
        opener.open_cast("desk", (cast / f"{name}.glb",))
        hand.qtbot.waitUntil(
            lambda n=name: workspace.actor is not None and workspace.actor.path.stem == n,
            timeout=LONG,
        )
    stems = [actor.path.stem for actor in workspace.cast.actors]
    assert (stems.count("pim"), stems.count("quill")) == (1, 1)


def test_a_rig_without_a_model_file_is_posed_and_captured(hand: Hand, tmp_path: Path) -> None:
    """Another program's controls, centimetres and Z up: a card of Marrow's goes on, a new one
    comes of it, and a set is kept in the description itself."""
    marrow = hand.workspace.actor.rig
    path = write_description(tmp_path / "harbour.foxrig.json", description_of(marrow))
    hand.window.opener.open_rig(path)
    hand.qtbot.waitUntil(lambda: hand.workspace.actor.path == path, timeout=LONG)
    actor = hand.workspace.actor
    assert (actor.prefix, [p.name for p in actor.rig.parts]) == ("harbour", ["sticks"])
    hand.settle()
    hand.click_card("Fist")
    hand.qtbot.waitUntil(lambda: hand.workspace.mix is not None, timeout=LONG)
    assert hand.value("finger_index_2_L") == pytest.approx(98.0, abs=0.5)
    hand.key(Qt.Key.Key_Return)
    hand.key(Qt.Key.Key_C)
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is not None, timeout=LONG)
    hand.window.capture.form.name.setText("Host fist")
    hand.click(hand.window.capture.save, hand.window.capture.save.rect().center())
    card = read_card(hand.wait_for_card("Host fist").path)[0]
    assert card.fingerprint == actor.rig.fingerprint
    assert "finger_index_2_L" in card.pose.controls
    sets.make_set(hand.workspace, "Grip", [hand.row("finger_index_1_L"), hand.row("hand_L")])
    assert sets.keep_in_rig(actor, "Grip") == path
    hand.qtbot.waitUntil(lambda: "Grip" in actor.rig.sets, timeout=LONG)  # it was read again
    assert len(actor.rig.controls) == len(read_rig(path).controls) > 50
    assert hand.value("finger_index_2_L") == pytest.approx(98.0, abs=0.5)
