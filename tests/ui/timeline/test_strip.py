"""The strip in the window: keys pulled, held, copied and dropped; playing; in between; saving."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QImage,
    QPainter,
    QWheelEvent,
)
from PySide6.QtWidgets import QApplication, QFileDialog

from fox_hand.core.animation.curves import ChannelKind, Keys, channel_ids_of
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.sampler import line_of
from fox_hand.core.maths.rotations import angle_between, from_vector
from fox_hand.session.shots.shot_file import read_shot
from fox_hand.ui.cards.card_drag import cards_mime
from fox_hand.ui.timeline import strip as strip_module
from fox_hand.ui.timeline.strip import Strip
from fox_hand.ui.timeline.strip_paint import StripPainter
from fox_hand.ui.timeline.strip_rows import RowBook, StripRow
from tests.ui.conftest import ALT, CTRL, LONG, Hand, OpenWindow, choose


@pytest.fixture
def keyed(hand: Hand) -> Hand:
    """Wave at frame 1, Arms up at 25, both put on by hand with Keyed switched on."""
    hand.click_card("Wave")
    switch = hand.window.overlays.mix_bar.choices.keyed
    hand.qtbot.waitUntil(lambda: switch.width() > 30, timeout=LONG)
    assert not switch.isChecked()
    hand.click(switch, switch.rect().center())
    hand.key(Qt.Key.Key_Return)
    scrub(hand, 1, 25)
    hand.click_card("Arms up")
    assert switch.isChecked()  # as it was said last
    hand.key(Qt.Key.Key_Return)
    return hand


def strip_of(hand: Hand) -> Strip:
    return hand.window.timeline.strip


def scrub(hand: Hand, start: float, end: float) -> None:
    strip = strip_of(hand)
    hand.drag(strip, [QPointF(strip.scale.x_of(start), 16), QPointF(strip.scale.x_of(end), 16)])
    assert hand.workspace.timing.frame == end


def shown(hand: Hand, part: str = "Body") -> list[tuple[float, float]]:
    row = next(r for r in strip_of(hand).rows() if r.key == part)
    return [(c.frame, c.end) for c in row.key_groups if not c.tail]


def key_group(hand: Hand, frame: float, part: str = "Body"):
    strip = strip_of(hand)
    row = next(r for r in strip.rows() if r.key == part)
    number = next(i for i, c in enumerate(row.key_groups) if c.frame == frame)
    return row, number, strip.rect_of(row, number)


def test_chips_are_pulled_held_copied_and_deleted(keyed: Hand) -> None:
    hand, strip = keyed, strip_of(keyed)
    assert shown(hand) == [(1, 1), (25, 25)]
    assert "Wave" in strip.tip_at(key_group(hand, 1)[2].center())
    _, _, rect = key_group(hand, 25)
    pitch = strip.scale.pitch
    middle = rect.center()
    hand.drag(strip, [middle, middle + QPointF(5 * pitch, 0), middle + QPointF(6 * pitch, 0)])
    assert shown(hand) == [(1, 1), (31, 31)]
    assert shown(hand, "Hands") == [(1, 1), (25, 25)]  # other rows stay
    hand.key(Qt.Key.Key_Left, ALT)
    assert shown(hand) == [(1, 1), (30, 30)]
    _, _, rect = key_group(hand, 1)
    edge = QPointF(rect.right() - 2, rect.center().y())
    hand.drag(
        strip,
        [edge, QPointF(strip.scale.x_of(8), edge.y()), QPointF(strip.scale.x_of(12) + 2, edge.y())],
    )
    assert shown(hand) == [(1, 12), (30, 30)]
    hand.key("c", CTRL)
    scrub(hand, 25, 40)
    strip.setFocus()
    hand.key("v", CTRL)
    assert shown(hand) == [(1, 12), (30, 30), (40, 51)]
    hand.key(Qt.Key.Key_Delete)
    assert shown(hand) == [(1, 12), (30, 30)]
    for _ in range(5):
        hand.key("z", CTRL)
    assert shown(hand) == [(1, 1), (25, 25)]


def test_keys_are_never_pulled_before_the_first_frame(keyed: Hand) -> None:
    hand, strip = keyed, strip_of(keyed)
    _, _, rect = key_group(hand, 25)
    hand.click(strip, rect.center().toPoint())
    row = next(r for r in strip.rows() if r.key == "Body")
    strip.pick({c: [1.0, 25.0] for g in row.key_groups for c in g.channel_ids})
    middle = key_group(hand, 25)[2].center()
    away = middle - QPointF(60 * strip.scale.pitch, 0)
    hand.drag(strip, [middle, middle - QPointF(5 * strip.scale.pitch, 0), away])
    assert shown(hand) == [(0, 0), (24, 24)]


def test_a_pull_that_is_given_up_leaves_no_trace(keyed: Hand) -> None:
    hand, strip = keyed, strip_of(keyed)
    before, label = hand.workspace.actor.take, hand.workspace.history.undo_label
    _, _, rect = key_group(hand, 25)
    away = rect.center() + QPointF(90, 0)
    hand.drag(strip, [rect.center(), away], release=False)
    assert shown(hand) != [(1, 1), (25, 25)]
    hand.key(Qt.Key.Key_Escape)
    assert hand.workspace.actor.take is before
    assert hand.workspace.history.undo_label == label
    hand.key(Qt.Key.Key_Escape)
    assert not strip.picks


def test_several_keys_are_picked_stretched_and_eased(keyed: Hand) -> None:
    hand, strip = keyed, strip_of(keyed)
    low, high = strip.y_of(strip.rows()[0]) + 2, strip.y_of(strip.rows()[-1]) + 34
    start, end = strip.scale.x_of(60), strip.scale.x_of(0.6)
    hand.drag(strip, [QPointF(start, high), QPointF(200, high), QPointF(end, low)])
    assert strip.picked_span == (1, 25)
    grip = QPointF(strip.scale.x_of(25), 36)
    hand.drag(strip, [grip, QPointF(strip.scale.x_of(30), 36), QPointF(strip.scale.x_of(37), 36)])
    assert all(shown(hand, part) == [(1, 1), (37, 37)] for part in ("Body", "Hands"))
    tools = hand.window.timeline.tools
    hand.click(tools.ease, tools.ease.rect().center())
    choose(hand.window, "Straight")
    line = next(iter(hand.workspace.actor.keys.lines.values()))
    assert line.eases[0] == Ease.LINEAR
    hand.workspace.go(19)
    rig, row = hand.workspace.actor.rig, hand.row("arm_R")
    ends = [hand.workspace.actor.take.at(f).turn[row] for f in (1, 19, 37)]
    assert angle_between(ends[0], ends[1]) == pytest.approx(angle_between(ends[1], ends[2]), 1e-6)
    assert rig.controls[row].name == "arm_R"


def test_a_card_dropped_on_a_row_is_keyed_there_and_only_there(keyed: Hand) -> None:
    hand, strip = keyed, strip_of(keyed)
    entry = hand.entry("Wave")
    key = next(
        k
        for section in hand.window.sheets.view._shown
        for k in section.keys.tolist()
        if hand.workspace.open_libraries.entry(k) == entry
    )
    mime: QMimeData = cards_mime([key], [entry.path])
    row = next(r for r in strip.rows() if r.key == "Hands")
    at = QPointF(strip.scale.x_of(45), strip.y_of(row) + 10)
    how = (
        Qt.DropAction.CopyAction,
        mime,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    QApplication.sendEvent(strip, QDragEnterEvent(at.toPoint(), *how))
    QApplication.sendEvent(strip, QDragMoveEvent(at.toPoint(), *how))
    QApplication.sendEvent(strip, QDropEvent(at, *how))
    hand.wait_for_mix("Wave")
    hand.qtbot.waitUntil(lambda: hand.workspace.mix.part.value == "regions", timeout=LONG)
    hand.key(Qt.Key.Key_Return)
    assert hand.workspace.timing.frame == 45
    assert (45, 45) in shown(hand, "Hands")
    assert shown(hand, "Body") == [(1, 1), (25, 25)]


def test_keys_by_hand_and_in_between(keyed: Hand) -> None:
    hand = keyed
    scrub(hand, 25, 13)
    hand.window.stage.setFocus()
    hand.workspace.selection.set([hand.row("arm_L"), hand.row("forearm_L")])
    hand.key("b")
    bar = hand.window.overlays.between
    assert bar.isVisible()
    hand.qtbot.waitUntil(lambda: bar.ruler.width() > 200, timeout=LONG)
    at = QPoint(round(bar.ruler.x_of(0.25)), 40)
    hand.click(bar.ruler, at)
    row, take = hand.row("arm_L"), hand.workspace.actor.take
    first, last = (take.at(f).turn[row] for f in (1, 25))
    part = angle_between(first, hand.workspace.actor.state.turn[row]) / angle_between(first, last)
    assert part == pytest.approx(0.25, abs=0.02)
    hand.key(Qt.Key.Key_Return)
    assert not bar.isVisible()
    assert (13, 13) in shown(hand)
    names = {
        channel_id.name
        for channel_id, line in hand.workspace.actor.keys.lines.items()
        if line.at(13) is not None
    }
    assert names == {"arm_L", "forearm_L"}
    hand.workspace.selection.set([hand.row("head")])
    hand.key("w")
    hand.key("k")
    assert hand.workspace.timing.frame == 14
    assert (14, 14) in shown(hand)
    hand.key("b")
    hand.key(Qt.Key.Key_Escape)
    assert not bar.isVisible()
    assert hand.workspace.history.undo_label == "Key frame 14"


def test_going_playing_and_opening_channels(keyed: Hand) -> None:
    hand, strip, tools = keyed, strip_of(keyed), keyed.window.timeline.tools
    hand.click(tools.before, tools.before.rect().center())
    assert hand.workspace.timing.frame == 1
    tools.frame.setFocus()
    tools.frame.selectAll()
    hand.key("+9")
    hand.key(Qt.Key.Key_Return)
    assert hand.workspace.timing.frame == 10
    hand.click(strip, QPoint(60, round(strip.y_of(strip.rows()[0]) + 18)))
    channels = [r for r in strip.rows() if r.channel]
    assert {r.channel_ids[0].name for r in channels} >= {"arm_L", "chest"}
    hand.click(strip, QPoint(80, round(strip.y_of(channels[0]) + 12)))
    assert len(hand.workspace.selection.rows) == 1
    playing = hand.window.timeline.playing
    clock = iter(np.arange(0.0, 1000.0, 0.05))
    playing.now = lambda: next(clock)  # the clock does not stand still while a machine is busy
    hand.window.stage.setFocus()
    hand.key("t")
    seen = set()

    def moved() -> bool:
        seen.add(hand.workspace.timing.frame)
        return len(seen) > 4

    hand.qtbot.waitUntil(moved, timeout=LONG)
    hand.key(Qt.Key.Key_Escape)
    assert not playing.on
    assert playing.due(1.0) is not None
    timing = hand.workspace.timing
    playing._from = float(timing.first)
    lap = (timing.last - timing.first + 1) / timing.rate
    frames = [playing.due((n + 0.5) / timing.rate) for n in range(timing.length + 2)]
    round_once = [*range(timing.first, timing.last + 1), timing.first, timing.first + 1]
    assert frames == [float(f) for f in round_once]  # the last frame is played, too
    assert playing.due(lap + 0.01) == float(timing.first)
    hand.workspace.timing.work_with(loop=False)
    assert playing.due(1000.0) is None


def test_rows_of_another_figure_may_come_later_but_never_those_that_changed(
    keyed: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The first time as far as there is time; afterwards whatever changed is seen at once."""
    painted = list[str]()
    row = StripPainter.row

    def seen(self: StripPainter, painter: QPainter, one: StripRow, width: int) -> None:
        painted.append(one.title)
        row(self, painter, one, width)

    strip = keyed.window.timeline.strip
    monkeypatch.setattr(strip_module, "BUDGET", -1.0)  # no time at all
    monkeypatch.setattr(StripPainter, "row", seen)
    rows = [one.title for one in strip.rows() if one.channel_ids]
    assert len(rows) >= 2
    strip.book, strip._fresh = RowBook(), True  # as of a figure that comes
    strip.grab()
    assert not set(painted) & set(rows)
    assert strip._more.isActive()
    for one in strip.rows():
        _ = one.key_groups
    strip.grab()
    assert set(rows) <= set(painted)

    keyed.workspace.go(5.0)
    keyed.key(Qt.Key.Key_K)
    painted.clear()
    strip.grab()
    assert set(rows) <= set(painted)


def test_where_all_of_the_window_is_painted_the_strip_is_seen_as_it_was_for_a_few_turns(
    keyed: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    strip = strip_of(keyed)

    def picture() -> QImage:
        frames = strip.rect().adjusted(strip.label_width, 0, 0, 0)  # beside its fields
        return strip.grab(frames).toImage()

    before = picture()
    keyed.workspace.go(5.0)
    monkeypatch.setattr(strip_module, "painted_for", lambda _: 1.0)
    for _ in range(3):
        assert picture() == before  # as it was
        assert strip._more.isActive()
    after = picture()  # never for longer
    assert after != before
    monkeypatch.setattr(strip_module, "painted_for", lambda _: 0.0)
    assert picture() == after
    keyed.workspace.go(8.0)
    assert picture() != after


def test_one_of_thousands_of_keys_is_found_where_it_is_drawn(hand: Hand) -> None:
    """Every channel has a key every eight frames; one is pulled along, far down the rows."""
    workspace, strip = hand.workspace, strip_of(hand)
    rig = workspace.actor.rig
    frames = np.arange(1.0, 401.0, 8.0)
    lines = {}
    for number, channel_id in enumerate(channel_ids_of(rig, range(len(rig.controls)))):
        sway = 0.1 * np.sin(frames / 20 + number)
        still = np.tile(np.eye(channel_id.kind.width)[-1], (len(frames), 1))
        if channel_id.kind is ChannelKind.TURN:
            still = from_vector(np.outer(sway, [1.0, 0.5, 0.2]))
        lines[channel_id] = line_of(channel_id, frames, still, Ease.SMOOTH)
    workspace.timing.set_range(1, 400)
    workspace.keying.change(Keys(lines), "Keys")
    strip.show_range()
    before = workspace.actor.keys
    assert before.count > 7000
    body = next(r for r in strip.rows() if r.key == "Body")
    hand.click(strip, QPoint(60, round(strip.y_of(body) + 10)))
    channels = [r for r in strip.rows() if r.channel]
    assert len(channels) > 50
    wheel(strip, -30)
    seen = [r for r in channels if 70 < strip.y_of(r) < strip.height() - 24]
    row = next(r for r in seen if r.channel_ids[0].kind is ChannelKind.TURN)
    assert row.top > strip.height()  # it came into sight by scrolling
    number = next(i for i, c in enumerate(row.key_groups) if c.frame == 201)
    at = strip.rect_of(row, number).center()
    hand.click(strip, at.toPoint())
    assert strip.picks == {row.channel_ids[0]: frozenset({201.0})}
    by = strip.scale.x_of(204) - strip.scale.x_of(201)
    hand.drag(strip, [at, at + QPointF(by / 2, 0), at + QPointF(by, 0)])
    after = workspace.actor.keys
    moved = after.lines[row.channel_ids[0]].frames
    assert set(moved) ^ set(frames) == {201.0, 204.0}
    assert all(after.lines[x] is before.lines[x] for x in lines if x is not row.channel_ids[0])
    hand.key(Qt.Key.Key_Delete)
    assert workspace.actor.keys.count == before.count - 1
    for _ in range(2):
        hand.key("z", CTRL)
    assert np.array_equal(workspace.actor.keys.lines[row.channel_ids[0]].frames, frames)
    assert strip.picks == {}


def wheel(strip: Strip, steps: int) -> None:
    at = QPointF(strip.width() / 2, strip.height() - 20)
    plain, phase = Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase
    turn, whole = QPoint(0, 120 * steps), QPointF(strip.mapToGlobal(at.toPoint()))
    event = QWheelEvent(at, whole, QPoint(), turn, Qt.MouseButton.NoButton, plain, phase, False)
    QApplication.sendEvent(strip, event)


def test_a_shot_is_saved_edited_left_and_opened_again(
    keyed: Hand, open_window: OpenWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand, path = keyed, tmp_path / "fr_010.foxshot"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(path), ""))
    hand.key("s", CTRL)
    hand.qtbot.waitUntil(path.is_file, timeout=LONG)
    hand.qtbot.waitUntil(lambda: hand.workspace.shots.name == "fr_010", timeout=LONG)
    button = hand.window.header.save_button
    assert not button.isVisible()
    hand.workspace.go(7)
    hand.click_card("Glad")
    hand.key(Qt.Key.Key_Return)
    hand.qtbot.waitUntil(button.isVisible, timeout=LONG)
    assert len(read_shot(path).members[0].origins) == 2
    hand.click(button, button.rect().center())
    hand.qtbot.waitUntil(lambda: not button.isVisible(), timeout=LONG)
    assert len(read_shot(path).members[0].origins) == 3
    hand.workspace.go(9)
    hand.click_card("Sad")
    hand.key(Qt.Key.Key_Return)
    hand.qtbot.waitUntil(button.isVisible, timeout=LONG)
    hand.window.close()
    again, told = open_window(), []
    monkeypatch.setattr(again.window.notice, "tell", told.append)
    again.window.shot_opener.open(path)
    again.qtbot.waitUntil(again.window.header.save_button.isVisible, timeout=LONG)
    again.qtbot.waitUntil(lambda: len(again.workspace.cast.actors) == 2, timeout=LONG)
    again.qtbot.waitUntil(lambda: any("not saved is back" in text for text in told), timeout=LONG)
    assert len(again.workspace.actor.keys.origins) == 4
    again.window.shot_opener.go_back()
    again.qtbot.waitUntil(
        lambda: again.workspace.actor is not None and len(again.workspace.actor.keys.origins) == 3,
        timeout=LONG,
    )
    assert not again.window.header.save_button.isVisible()


def test_a_pose_between_two_is_a_step_of_its_own_before_a_card_goes_on(keyed: Hand) -> None:
    hand = keyed
    scrub(hand, 25, 13)
    hand.window.stage.setFocus()
    hand.key("b")
    bar, row = hand.window.overlays.between, hand.row("arm_L")
    bar.pull(0.25)
    pulled = hand.workspace.actor.state
    hand.click_card("Fist")
    assert not bar.isVisible()
    assert "In between, 25 %" in hand.workspace.history.undo_label
    hand.workspace.keep_mix()
    assert "Fist" in hand.workspace.history.undo_label
    hand.workspace.undo()
    assert angle_between(hand.workspace.actor.state.turn[row], pulled.turn[row]) < 1e-9
    assert (13, 13) in shown(hand)
    hand.workspace.undo()
    assert (13, 13) not in shown(hand)
