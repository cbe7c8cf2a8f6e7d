"""A performance of somebody else's rig on the screen where it is fitted, and from there on."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from fox_hand.core.retarget.retarget import Landing
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.sidecar import read_sidecar, sidecar_path
from fox_hand.library.format.name_map import read_map
from fox_hand.ui.screens.performance.performance_screen import PerformanceScreen
from tests.held_jobs import HeldJobs
from tests.ui.conftest import CTRL, LONG, SHIFT, Hand, choose
from tests.ui.exchange.test_performance import recorded


def fitted(hand: Hand, path: Path) -> PerformanceScreen:
    """Bring in a performance; the screen is open then."""
    screen = hand.window.screens.performance
    hand.window.performances.open(path)
    hand.qtbot.waitUntil(
        lambda: hand.window.screens.body.currentWidget() is screen and screen.draft is not None,
        timeout=LONG,
    )
    return screen


def settled(hand: Hand, screen: PerformanceScreen) -> None:
    hand.qtbot.waitUntil(lambda: not screen.draft.computing, timeout=LONG)


def lane(screen: PerformanceScreen, side: str, frame: float) -> QPoint:
    return QPoint(round(screen.lanes.x_of(frame)), screen.lanes.top_of(side) + 30)


def test_a_stranger_lands_and_is_laid_in_from_the_frame_in_sight(
    hand: Hand, tmp_path: Path
) -> None:
    hand.workspace.go(20.0)
    screen = fitted(hand, recorded(tmp_path, prop=True))
    draft = screen.draft
    counts = draft.fit.counts()
    assert counts[Landing.MISSING] == 1  # the lamp in its hand
    assert counts[Landing.ASK] == 0
    assert draft.lands == len(draft.fit.rows) - 1
    assert screen.head.verdict.text().endswith("1 stay out")
    assert screen.lay_button.text() == "Lay it in at frame 20"
    assert draft.fit.ground.below.far < 0.01 * hand.workspace.actor.rig.height
    hand.click(screen.numbers.slide, QPoint(20, 20))
    assert screen.stage.frame == screen.lanes.frame == draft.fit.ground.slide.frame
    before = hand.workspace.actor.state
    screen.lanes.setFocus()
    hand.key(Qt.Key.Key_Return)
    assert hand.window.screens.on_stage
    actor = hand.workspace.actor
    frames = actor.keys.frames()
    assert (frames[0], frames[-1]) == (20.0, 20.0 + (len(draft) - 1) // 2)
    assert "Not on Marrow: cap:lamp." in hand.window.notice.text
    hand.workspace.undo()
    assert not len(actor.keys.frames())
    assert actor.state.same_bits(before)


def test_the_unit_of_a_recording_is_seen_said_and_kept_beside_it(
    hand: Hand, tmp_path: Path
) -> None:
    path = recorded(tmp_path)
    screen = fitted(hand, path)
    line, tall = screen.unit, screen.draft.performance.rig.height
    assert (line.button.text(), line.tall.text()) == ("centimetres", f"{tall:.2f} m tall, a guess")
    hand.click(screen.stretch, QPoint(10, 10))  # legs do not scale it: the unit does
    settled(hand, screen)
    before = np.ptp(screen.draft.fit.made.state.move, axis=0).max()
    hand.click(line.button, QPoint(10, 10))
    choose(hand.window, "inches")
    settled(hand, screen)
    assert (line.button.text(), line.tall.text()) == ("inches", f"{tall * 2.54:.2f} m tall")
    after = np.ptp(screen.draft.fit.made.state.move, axis=0).max()
    assert after == pytest.approx(2.54 * before, rel=0.05)
    marrow, pim = hand.workspace.cast.actors[:2]
    for actor in (pim, marrow):  # who plays it says nothing about the file
        screen.other_asked.emit(actor)
        hand.qtbot.waitUntil(lambda a=actor: screen.draft.actor is a, timeout=LONG)
        settled(hand, screen)
        assert line.button.text() == "inches"
    hand.click(line.button, QPoint(10, 10))
    choose(hand.window, "centimetres")
    settled(hand, screen)
    assert line.button.text() == "centimetres"
    hand.click(screen.undo_button, QPoint(10, 10))
    settled(hand, screen)
    assert line.button.text() == "inches"
    beside = sidecar_path(path)
    assert not beside.exists()
    hand.click(screen.lay_button, QPoint(10, 10))
    assert hand.window.screens.on_stage
    assert read_sidecar(beside).metres_per_unit == 0.0254
    screen = fitted(hand, path)
    assert (line.button.text(), line.tall.text()) == ("inches", f"{tall * 2.54:.2f} m tall")
    hand.click(screen.back_button, QPoint(10, 10))
    fitted(hand, recorded(tmp_path, kind=".glb"))
    assert not line.isVisible()


def test_where_feet_stand_is_set_by_hand_and_found_again(hand: Hand, tmp_path: Path) -> None:
    screen = fitted(hand, recorded(tmp_path))
    draft, lanes = screen.draft, screen.lanes
    found = draft.spans("left")
    assert len(found) >= 2
    first, last = found[1]
    edge = lane(screen, "left", last - 1)
    hand.drag(lanes, [edge, edge - QPoint(4, 0), lane(screen, "left", last - 7)])
    settled(hand, screen)
    assert draft.spans("left")[1] == (first, last - 6)
    stands = draft.fit.made.stands.feet("left")
    assert stands[first : last - 6].all()
    assert not stands[last - 6 : last].any()
    assert lanes.chosen == ("left", 1)
    QTest.keyClick(lanes, Qt.Key.Key_Delete)
    settled(hand, screen)
    assert draft.spans("left") == found[:1] + found[2:]
    middle = (found[1][0] + found[1][1]) // 2
    QTest.mouseDClick(lanes, Qt.MouseButton.LeftButton, pos=lane(screen, "left", middle))
    settled(hand, screen)
    added = draft.spans("left")[1]
    assert added[0] < middle < added[1]
    assert draft.spans("right") == tuple(draft.spans("right"))
    hand.click(screen.found_again, QPoint(8, 8))
    settled(hand, screen)
    assert draft.spans("left") == found
    for _ in range(4):
        hand.key("z", CTRL)
        settled(hand, screen)
    assert draft.spans("left") == found
    assert not draft.steps.can_undo
    for _ in range(2):
        hand.key("z", CTRL | SHIFT)
        settled(hand, screen)
    assert draft.spans("left") == found[:1] + found[2:]


def test_only_some_frames_go_in_and_the_numbers_of_the_fields_are_those_of_the_lanes(
    hand: Hand, tmp_path: Path
) -> None:
    screen = fitted(hand, recorded(tmp_path))
    lanes, y = screen.lanes, 22
    handle = QPoint(round(lanes.x_of(len(screen.draft) - 1)), y)
    screen._look(0)
    hand.drag(lanes, [handle, handle - QPoint(6, 0), QPoint(round(lanes.x_of(60)), y)])
    assert screen.draft.span == (0, 60)
    assert screen.last.value == 61
    screen.first.field.setValue(13)
    assert screen.draft.span == (12, 60)
    hand.click(screen.key_poses, QPoint(10, 10))
    hand.qtbot.waitUntil(lambda: hand.workspace.review.sequence is not None, timeout=LONG)
    sequence, made = hand.workspace.review.sequence, screen.draft
    assert made is None  # nothing of it is kept by the screen
    assert len(sequence) == 49
    assert sequence.marks
    assert "key poses marked" in hand.window.notice.text


def test_a_name_that_nobody_knows_is_said_kept_and_known_the_next_time(
    hand: Hand, tmp_path: Path
) -> None:
    path = recorded(tmp_path, "fast", prop=True)
    screen = fitted(hand, path)
    source = "cap:lamp"
    line = screen.list.line_of(source)
    screen.list.go_to(line)
    screen.list.menu_asked.emit(source, screen.mapToGlobal(QPoint(50, 50)))
    choose(hand.window, "hat")
    settled(hand, screen)
    row = next(r for r in screen.draft.fit.rows if r.source == source)
    assert (row.target, row.landing is Landing.MISSING) == ("hat", False)
    assert screen.draft.unsaved == 1
    hand.click(screen.save_button, QPoint(10, 10))
    assert screen.draft.unsaved == 0
    place = hand.workspace.open_libraries.target
    kept = read_map(place.library.own, screen.draft.performance.rig.name, "Marrow")
    assert kept.names == {source: "hat"}
    hand.key(Qt.Key.Key_Escape)
    assert hand.window.screens.on_stage
    assert "nothing was changed" in hand.window.notice.text
    again = fitted(hand, path)
    assert {r.source: r.target for r in again.draft.fit.rows}[source] == "hat"
    again._say(source, None)  # and taken back for this once
    settled(hand, again)
    assert again.draft.unsaved == 1


def test_of_several_changes_only_the_last_counts_whichever_is_answered_first(
    hand: Hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    screen = fitted(hand, recorded(tmp_path))
    held = HeldJobs()
    monkeypatch.setattr(hand.workspace.open_libraries, "jobs", held)
    hand.click(screen.feet, QPoint(8, 8))
    hand.click(screen.stretch, QPoint(8, 8))
    assert screen.draft.computing
    assert not screen.lay_button.isEnabled()
    screen.lanes.setFocus()
    hand.key(Qt.Key.Key_Return)  # too early
    assert not hand.window.screens.on_stage
    held.release(1, 0)
    options = screen.draft.fit.told.options
    assert (options.feet, options.stretch) == (False, False)
    assert not screen.draft.computing
    assert screen.draft.fit.made.legs == 1.0
    assert screen.lay_button.isEnabled()


def test_it_is_looked_at_played_turned_and_laid_over(hand: Hand, tmp_path: Path) -> None:
    screen = fitted(hand, recorded(tmp_path))
    stage, lanes = screen.stage, screen.lanes
    hand.drag(lanes, [QPoint(round(lanes.x_of(frame)), 10) for frame in (70, 60, 30)])
    assert stage.frame == lanes.frame == 30
    hand.qtbot.waitUntil(lambda: stage._image is not None, timeout=LONG)
    lanes.setFocus()
    hand.key(Qt.Key.Key_Right)
    assert stage.frame == 31
    screen.player.set_span(0, len(screen.draft) - 1, 48.0)
    hand.key(Qt.Key.Key_Space)
    assert screen.player.on
    assert screen.player.frame_after(0.5) == 31 + 24
    hand.key(Qt.Key.Key_Left)
    assert not screen.player.on  # who looks at a frame keeps it
    yaw = stage.camera.yaw
    hand.drag(stage, [QPoint(300, 200), QPoint(340, 200), QPoint(380, 200)])
    assert stage.camera.yaw != yaw
    middle = stage._camera(1.0).target
    stage.placing._choose("over")
    assert stage._camera(1.0).target == stage.camera.target != middle
    at = lanes.x_of(31)
    wide = lanes.view[1] - lanes.view[0]
    lanes.look_at(20, 60)
    assert lanes.view == (20.0, 60.0)
    assert lanes.x_of(31) != at
    lanes.show_frame(100)
    assert lanes.view[0] <= 100 <= lanes.view[1]
    assert lanes.view[1] - lanes.view[0] == 40 < wide


def test_another_character_of_the_cast_gets_the_same_performance(
    hand: Hand, tmp_path: Path
) -> None:
    hand.window.opener.open_rig(shipped() / "cast" / "quill.glb")
    hand.qtbot.waitUntil(lambda: hand.workspace.actor.rig.name == "Quill", timeout=LONG)
    hand.workspace.act(hand.workspace.cast.actors[0])
    screen = fitted(hand, recorded(tmp_path))
    legs = screen.draft.fit.made.legs
    other = next(a for a in hand.workspace.cast.actors if a.rig.name == "Quill")
    hand.click(screen.head.who, QPoint(10, 10))
    choose(hand.window, other.name)
    hand.qtbot.waitUntil(lambda: screen.draft.actor is other, timeout=LONG)
    assert screen.draft.fit.made.legs != pytest.approx(legs)
    assert hand.workspace.actor is other
    assert np.isfinite(screen.stage.camera.distance)
    assert QPointF(screen.lanes.x_of(0), 0).x() < screen.lanes.x_of(10)
