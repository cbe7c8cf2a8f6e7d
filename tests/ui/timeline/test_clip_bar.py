"""Clips in the window: laid in, repeated, led, captured, playing under the pointer, made keys."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, QRect, Qt
from PySide6.QtTest import QTest

from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.library.format.container import read_card, read_motion
from tests.ui.conftest import CTRL, LONG, SHIFT, Hand


def lay_in(hand: Hand, name: str) -> None:
    hand.press_card(name)
    placements = hand.workspace.placements
    hand.qtbot.waitUntil(
        lambda: placements.now is not None and placements.now.instance.origin.name == name,
        timeout=LONG,
    )


def lid(hand: Hand, side: str = "L") -> float:
    rig = hand.workspace.actor.rig
    return float(hand.workspace.actor.state.settings[rig.setting_row[f"lid_shut_{side}"]])


def press(hand: Hand, button) -> None:
    hand.qtbot.waitUntil(lambda: button.width() > 40, timeout=LONG)
    hand.click(button, button.rect().center())


def type_into(hand: Hand, field, text: str) -> None:
    field.field.setFocus()
    field.field.selectAll()
    hand.key(text)
    hand.key(Qt.Key.Key_Return)


def instance_rect(hand: Hand, number: int = 0):
    strip = hand.window.timeline.strip
    row = strip.rows()[-1]
    from fox_hand.ui.timeline.strip_base import HEAD
    from fox_hand.ui.timeline.strip_paint import instance_rect as rect

    return rect(strip.scale, row, number).translated(0, HEAD - strip.offset)


def test_a_blink_is_laid_in_repeated_by_pulling_and_led_by_one_eye(hand: Hand) -> None:
    bar, strip, workspace = hand.window.overlays.lay_bar, hand.window.timeline.strip, hand.workspace
    workspace.go(10)
    lay_in(hand, "Blink")
    assert bar.isVisible()
    assert workspace.placements.now.instance.on_top  # it ends at rest, so it goes over anything
    length = workspace.placements.now.instance.clip.length
    assert length < 7  # at 24 frames a second
    rect = instance_rect(hand)
    edge = QPointF(rect.right() - 2, rect.center().y())
    to = QPointF(rect.left() + 4 * rect.width() + 3, edge.y())
    hand.drag(strip, [edge, (edge + to) / 2, to])
    assert workspace.placements.now.instance.repeats == 4
    type_into(hand, bar.gap, "6")
    assert workspace.placements.now.instance.end == 10 + 4 * length + 3 * 6
    bar.ahead.chosen.emit("left")
    type_into(hand, bar.lead, "1")
    workspace.go(11)
    assert lid(hand, "L") > lid(hand, "R")
    bar.keep_button.click()
    assert not bar.isVisible()
    assert workspace.history.undo_label == "Lay in Blink"
    middle = instance_rect(hand).center()
    hand.drag(strip, [middle, middle + QPointF(4 * strip.scale.pitch, 0)])
    assert bar.isVisible()
    hand.key(Qt.Key.Key_Return)
    assert workspace.actor.take.instances[0].start == 14
    hand.key("z", CTRL)
    hand.key("z", CTRL)
    assert not workspace.actor.take.instances
    assert lid(hand) == 0


def test_put_back_leaves_every_bit_and_seams_are_closed(hand: Hand) -> None:
    workspace, bar = hand.workspace, hand.window.overlays.lay_bar
    hand.click_card("Wave")
    hand.key(Qt.Key.Key_Return)
    before, take = workspace.actor.state, workspace.actor.take
    lay_in(hand, "Wave loop")
    assert not workspace.placements.now.instance.on_top
    assert bar.seam.text() == "No seam"
    workspace.go(6)
    assert not workspace.actor.state.same_bits(before)
    workspace.go(1)
    hand.window.stage.setFocus()
    hand.key(Qt.Key.Key_Escape)
    assert workspace.actor.take is take
    assert workspace.actor.state.same_bits(before)
    assert not bar.isVisible()


def test_a_block_becomes_keys_that_show_the_same(hand: Hand) -> None:
    workspace, bar = hand.workspace, hand.window.overlays.lay_bar
    workspace.go(5)
    lay_in(hand, "Nod")
    frames = list(range(1, 40))
    row = hand.row("head")
    shown = [workspace.actor.take.at(f).turn[row].copy() for f in frames]
    press(hand, bar.as_keys)
    assert not workspace.actor.take.instances
    line = workspace.actor.keys.lines[ChannelId(ChannelKind.TURN, "head")]
    assert line.frames.tolist() == [5, 9, 13, 17, 23]
    for frame, turn in zip(frames, shown, strict=True):
        same = np.abs(workspace.actor.take.at(frame).turn[row] - turn).max()
        assert same < (1e-6 if frame in line.frames else 0.02)
    assert workspace.history.undo_label == "Nod as keys"


def test_a_span_is_captured_as_a_clip_with_one_setting_and_plays_under_the_pointer(
    hand: Hand,
) -> None:
    workspace, window = hand.workspace, hand.window
    rig, name = workspace.actor.rig, "lid_shut_L"
    row = rig.setting_row[name]
    workspace.selection.set([rig.settings[row].control])
    for frame, value in ((20, 0.0), (22, 1.0), (24, 1.0), (27, 0.0)):
        workspace.go(frame)
        values = workspace.actor.state.settings.copy()
        values[row] = value
        workspace.apply("Lid", workspace.actor.state.with_(settings=values))
        window.stage.setFocus()
        hand.key("k")
    window.timeline.strip.pick_all()
    window.stage.setFocus()
    hand.key("C", SHIFT)
    draft, panel = workspace.capturing.draft, window.capture
    assert draft is not None
    assert draft.span == (20, 27)
    assert [channel_id.name for channel_id in draft.channel_ids if channel_id in draft.moving] == [
        name
    ]
    panel.form.name.setText("Slow wink")
    hand.qtbot.waitUntil(lambda: draft.name == "Slow wink", timeout=LONG)
    window.home.cards.save_capture()
    entry = hand.wait_for_card("Slow wink")
    assert entry.kind == "clip"
    card = read_card(entry.path)[0]
    assert card.clip is not None
    assert [channel_id.name for channel_id in card.clip.lines] == [name]
    (line,) = card.clip.lines.values()
    assert line.frames.tolist() == [0, 2, 4, 7]
    assert line.values[:, 0].tolist() == [0, 1, 1, 0]
    moving = Image.open(io.BytesIO(read_motion(entry.path) or b""))
    assert moving.format == "WEBP"
    times = []
    for frame in range(getattr(moving, "n_frames", 1)):  # equal frames are one, shown longer
        moving.seek(frame)
        moving.load()
        times.append(moving.info["duration"])
    assert sum(times) == round(7 * 1000 / 24)  # the last frame is the first again
    view = window.sheets.view
    view.reveal(entry)
    hand.qtbot.wait(50)
    QTest.mouseMove(view.viewport(), view.rect_of(entry).center() + QPoint(1, 1))
    view.hovered.emit(entry)
    hand.qtbot.waitUntil(lambda: view.marks.moving is not None, timeout=LONG)
    first = view.marks.moving
    hand.qtbot.waitUntil(lambda: view.marks.moving is not first, timeout=LONG)
    view.hovered.emit(None)
    assert view.marks.moving is None


def test_nothing_moves_nothing_is_captured_and_clips_do_not_mix(hand: Hand) -> None:
    hand.window.stage.setFocus()
    hand.key("C", SHIFT)
    assert hand.workspace.capturing.draft is None
    assert "Nothing moves" in hand.window.notice.text
    hand.window.workspace.applying.add(hand.entry("Blink"))
    assert "laid in by itself" in hand.window.notice.text
    assert hand.workspace.mix is None


def test_feet_hold_or_not_by_a_switch_and_the_strip_shows_how_far_they_were_moved(
    hand: Hand,
) -> None:
    bar, workspace, strip = hand.window.overlays.lay_bar, hand.workspace, hand.window.timeline.strip
    lay_in(hand, "Walk loop")
    assert not bar.feet.isVisible()  # its own clip: nothing was moved
    hand.key(Qt.Key.Key_Escape)
    workspace.act(workspace.cast.actors[1])
    lay_in(hand, "Walk loop")
    assert bar.feet.isVisible() and bar.feet.isChecked()
    feet = workspace.placements.now.feet

    def green() -> int:
        """Pixels of the line along the block's lower edge."""
        rect = instance_rect(hand)
        image = strip.grab(QRect(*(round(v) for v in rect.getRect()))).toImage()
        wanted = strip.theme.colour("good")
        low = image.height() - 4
        return sum(
            abs(image.pixelColor(x, low).green() - wanted.green()) < 24
            for x in range(image.width())
        )

    assert green() > 20
    press(hand, bar.feet)
    assert workspace.placements.now.instance.clip is feet.loose
    assert not bar.feet.isChecked() and green() < 5
    hand.key(Qt.Key.Key_Return)
    (kept,) = workspace.actor.take.instances
    assert kept.clip is feet.loose
