"""Capturing in the window: picture, twins, both sides, habits, frames of a performance."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt

from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.demo.demo_project import demo_performance
from fox_hand.library.format.container import read_card
from fox_hand.library.store.store import Library
from fox_hand.ui.browser import sheets_panel
from fox_hand.ui.capture.batch_popup import BatchPopup
from fox_hand.ui.widgets.buttons import Button
from tests.ui.conftest import LONG, Hand, choose
from tests.ui.exchange.test_performance import opened


def picture(path: Path, name: str = "thumb.png") -> np.ndarray:
    with zipfile.ZipFile(path) as archive:
        return np.asarray(Image.open(io.BytesIO(archive.read(name))))


def document(path: Path) -> dict[str, object]:
    with zipfile.ZipFile(path) as archive:
        return json.loads(archive.read("card.json"))


def capture(hand: Hand, name: str) -> Path:
    """Save the draft under a name, and wait until it is in the sheets."""
    hand.window.capture.form.name.setText(name)
    hand.window.home.cards.save_capture()
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is None, timeout=LONG)
    return hand.wait_for_card(name).path


def test_the_frame_turns_and_the_picture_is_drawn_as_chosen_and_taken_again(hand: Hand) -> None:
    window = hand.window
    hand.click_card("Fist")
    hand.key(Qt.Key.Key_Return)
    window.figure_panel.sets.choose("L hand")
    window.workspace.capturing.ask()
    frame, bar = window.overlays.frame, window.capture.bar
    grip = frame._turner().toPoint()
    middle = frame.square.center()
    hand.drag(frame, [grip, grip - QPoint(60, 0), QPoint(round(middle.x() - 90), grip.y() + 40)])
    assert 0.2 < frame.turn < 1.2
    hand.click(bar.style_choice, bar.style_choice.rect_of("outline").center())
    path = capture(hand, "Drawn")
    said = document(path)["frame"]
    assert said["roll"] == pytest.approx(np.degrees(frame.turn), abs=1e-6)
    assert said["style"] == "outline"
    drawn = picture(path).astype(int)
    assert drawn.shape == (320, 320, 3)
    assert picture(path, "thumb@2x.webp").shape == (640, 640, 3)
    grey = np.abs(drawn[..., 0] - drawn[..., 2])
    assert np.percentile(grey, 95) < 40  # ink on paper: no colours of flesh or cloth
    assert (drawn.max(-1) < 90).mean() > 0.01  # and there are lines
    pose, revision = read_card(path)[0].pose, read_card(path)[0].revision
    hand.window.sheets.input.menu_asked.emit(
        hand.entry("Drawn"), window.mapToGlobal(QPoint(300, 300))
    )
    choose(window, "Take its picture again")
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is not None, timeout=LONG)
    assert frame.turn == pytest.approx(np.radians(said["roll"]), abs=1e-6)
    assert not window.capture.form.name.isEnabled()
    hand.click(bar.style_choice, bar.style_choice.rect_of("clay").center())
    hand.click(bar.ground, QPoint(8, 12))
    window.home.cards.save_capture()
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is None, timeout=LONG)
    hand.qtbot.waitUntil(lambda: hand.entry("Drawn").revision > revision, timeout=LONG)
    assert read_card(path)[0].pose == pose
    again = picture(path)
    assert again.shape == (320, 320, 4)  # without a background it is transparent
    assert again[0, 0, 3] == 0
    assert (again[..., 3] == 255).mean() > 0.2
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: picture(path).shape == (320, 320, 3), timeout=LONG)


def test_a_card_like_this_is_shown_and_can_be_stored_over_or_varied(
    hand: Hand, library_folder: Path
) -> None:
    window = hand.window
    hand.click_card("Fist")
    hand.key(Qt.Key.Key_Return)
    row = hand.row("finger_index_2_L")
    hand.workspace.selection.set([row])
    window.stage.setFocus()
    hand.key(Qt.Key.Key_Up)
    window.figure_panel.sets.choose("L hand")
    window.workspace.capturing.ask()
    twin = window.capture.twin
    hand.qtbot.waitUntil(twin.isVisible, timeout=LONG)
    assert twin.entry.name == "Fist"
    assert 0.9 < twin.share < 1.0
    hand.click(twin.choice, twin.choice.rect_of("variant").center())
    assert window.capture.form.name.text() == "Fist, variant"
    assert window.capture.form.tags.text() == "grip, cross"
    hand.click(twin.choice, twin.choice.rect_of("over").center())
    assert window.capture.save.text() == "Store over"
    path = hand.entry("Fist").path
    before = path.read_bytes()
    hand.click(window.capture.save, window.capture.save.rect().center())
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is None, timeout=LONG)
    hand.qtbot.waitUntil(lambda: hand.entry("Fist").revision == 2, timeout=LONG)
    library = Library(library_folder)
    versions = library.versions(hand.entry("Fist").identity)
    assert [v.read_bytes() for v in versions] == [before]
    new = read_card(path)[0].pose.controls["finger_index_2_L"]
    assert new.turn == tuple(hand.workspace.actor.state.turn[row].tolist())
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: hand.entry("Fist").revision == 3, timeout=LONG)
    assert read_card(path)[0].pose == read_card(versions[0])[0].pose


def test_one_hand_becomes_a_card_of_both_and_many_cards_their_other_side(hand: Hand) -> None:
    window = hand.window
    hand.click_card("Point")
    hand.key(Qt.Key.Key_Return)
    window.figure_panel.sets.choose("L hand")
    window.workspace.capturing.ask()
    both = window.capture.both
    assert both.isVisible()
    assert both.text() == "Both sides: add the right one, mirrored"
    hand.click(both, QPoint(8, 12))
    path = capture(hand, "Point with both")
    assert hand.entry("Point with both").side == "both"
    controls = read_card(path)[0].pose.controls
    assert {n[-1] for n in controls} == {"L", "R"}
    hand.workspace.reset(None, "Reset all")
    hand.workspace.selection.clear()
    hand.click_card("Point with both")
    state = hand.workspace.actor.state
    left, right = (state.turn[hand.row(f"finger_ring_2_{s}")] for s in "LR")
    assert np.degrees(2 * np.arccos(abs(left[3]))) > 60
    assert np.allclose(np.abs(left), np.abs(right), atol=1e-6)
    hand.key(Qt.Key.Key_Escape)
    window.workspace.capturing.mirror([hand.entry(n) for n in ("Fist", "Flat", "Fox")], both=False)
    entry = hand.wait_for_card("Flat, right")
    hand.wait_for_card("Fox, right")
    assert (entry.side, entry.sheet, entry.has_picture) == ("right", "Marrow/Hands", True)
    frame, other = (document(hand.entry(n).path)["frame"] for n in ("Flat", "Flat, right"))
    assert other["yaw"] == pytest.approx(-frame["yaw"])
    assert set(read_card(entry.path)[0].pose.controls) == {
        n[:-1] + "R" for n in read_card(hand.entry("Flat").path)[0].pose.controls
    }
    hand.workspace.undo()
    hand.qtbot.waitUntil(
        lambda: not [e for e in hand.cards if e.name.endswith(", right")], timeout=LONG
    )


def test_settings_the_shape_depends_on_are_offered(hand: Hand) -> None:
    window, actor = hand.window, hand.workspace.actor
    rig = actor.rig
    curl = next(i for i in rig.settings_of[hand.row("hand_L")] if rig.settings[i].label == "Curl")
    settings = actor.state.settings.copy()
    settings[curl] = 0.5
    hand.workspace.apply("Curl", actor.state.with_(settings=settings))
    hand.workspace.selection.set([hand.row(n) for n in rig.sets["L hand"] if n != "hand_L"])
    window.workspace.capturing.ask()
    panel = window.capture
    assert panel.needed.isVisible()
    assert "Curl 0.50" in panel.needed.toolTip().title()
    hand.click(panel.needed.button, panel.needed.button.rect().center())
    assert not panel.needed.isVisible()
    path = capture(hand, "Curled by setting")
    held = read_card(path)[0].pose.controls["hand_L"].settings
    assert held[rig.settings[curl].name] == 0.5


def test_three_doors_make_one_card_and_a_search_stays(
    hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sheets_panel, "AT_ONCE", 1)  # as in a library of many cards
    window = hand.window
    hand.workspace.selection.set([hand.row("jaw")])
    window.header.search_field.setText("grip")
    hand.qtbot.waitUntil(lambda: window.sheets.request.text == "grip", timeout=LONG)
    window.workspace.capturing.ask()
    panel = window.capture
    panel.form.name.setText("My grip")
    hand.click(panel.save, panel.save.rect().center())
    panel.form.tags.setText("deck")  # were it typed meanwhile
    assert not panel.save.isEnabled() and not panel.form.isEnabled()
    window.home.cards.save_capture()
    window.stage.setFocus()
    for _ in range(3):
        hand.key(Qt.Key.Key_Return)
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is None, timeout=LONG)
    hand.wait_for_card("My grip")
    hand.qtbot.waitUntil(lambda: window.sheets.view.current_entry() is not None, timeout=LONG)
    assert [e.name for e in hand.cards].count("My grip") == 1
    assert window.header.search_field.text() == "grip" == window.sheets.request.text


def test_moved_is_measured_against_rest_or_against_the_last_card(hand: Hand) -> None:
    window = hand.window
    hand.click_card("Stand easy")
    hand.key(Qt.Key.Key_Return)
    hand.workspace.selection.set([hand.row("jaw")])
    window.stage.setFocus()
    hand.key(Qt.Key.Key_Up)
    window.figure_panel.sets.choose("L hand")
    window.workspace.capturing.ask()
    panel, draft = window.capture, hand.workspace.capturing.draft
    assert len(draft.moved_but_left_out()) > 20
    hand.click(panel.since, panel.since.rect().center())
    choose(window, "Since the last card")
    assert draft.moved_but_left_out() == [ChannelId(ChannelKind.TURN, "jaw")]
    assert panel.left_out._names.text().startswith("Jaw")


def test_a_sheet_remembers_how_its_cards_are_taken(hand: Hand, library_folder: Path) -> None:
    window = hand.window
    window.figure_panel.sets.choose("L hand")
    hand.workspace.selection.set([*hand.workspace.selection.rows, hand.row("hand_goal_L")])
    window.workspace.capturing.ask()
    panel = window.capture
    panel.form.sheet.setText("Marrow/Hands")
    moves = next(b for k, b in panel._kind_buttons.items() if k == "move")
    hand.click(moves, moves.rect().center())
    hand.workspace.capturing.draft.set_look(style="clay", ground=False)
    hand.click(panel.habit, panel.habit.rect().center())
    choose(window, "Take all of Marrow/Hands like this")
    text = library_folder / "Marrow" / "Hands" / "sheet.toml"
    hand.qtbot.waitUntil(
        lambda: hand.workspace.open_libraries.target.habit("Marrow/Hands") is not None, timeout=LONG
    )
    assert 'kinds = ["move", "turn"]' in text.read_text()
    window.actions_table["back"].run()
    window.figure_panel.sets.choose("R hand")
    window.workspace.capturing.ask()
    assert hand.workspace.capturing.draft.kinds == {"move", "turn"}
    assert (hand.workspace.capturing.draft.style, hand.workspace.capturing.draft.ground) == (
        "clay",
        False,
    )
    panel.form._take_sheet("Marrow/Face")
    assert hand.workspace.capturing.draft.sheet == "Marrow/Face"


def test_key_poses_of_a_performance_are_marked_and_taken_in_one_go(
    hand: Hand, library_folder: Path
) -> None:
    window, workspace = hand.window, hand.workspace
    before, tall = workspace.actor.state, window.timeline.height()
    opened(hand, demo_performance())
    sequence = workspace.review.sequence
    marks = sorted(sequence.marks)
    assert len(sequence) == 199
    assert 5 <= len(marks) <= 9
    strip = window.timeline.frame_strip
    assert window.timeline.height() == strip.height() < tall
    y = 20
    hand.drag(strip, [QPointF(strip.x_of(3), y), QPointF(strip.x_of(marks[1]), y)])
    assert sequence.frame == marks[1]
    assert workspace.actor.state.same_bits(sequence.at(marks[1]))
    hand.key("m")
    assert marks[1] not in sequence.marks
    hand.key("m")
    window.workspace.capturing.ask()
    panel = window.capture
    assert panel._source.text() == f"from on_deck, frame {marks[1] + 1}"
    panel.form.sheet.setText("Marrow/Deck")
    panel.form.author.setText("Ines B.")
    hand.click(panel.batch, panel.batch.rect().center())
    hand.qtbot.waitUntil(lambda: window.findChild(BatchPopup) is not None, timeout=LONG)
    popup = window.findChild(BatchPopup)
    popup.pattern.setText("{sheet} {oops}")
    assert not popup.take.isEnabled()
    popup.pattern.setText("{sheet} {n:02} f{frame}")
    hand.click(popup.take, popup.take.rect().center())
    hand.qtbot.waitUntil(lambda: workspace.capturing.draft is None, timeout=60_000)
    folder = library_folder / "Marrow" / "Deck"
    names = [f"Deck {i:02} f{m + 1}" for i, m in enumerate(marks, 1)]
    assert sorted(p.stem for p in folder.glob("*.foxcard")) == names
    card, _ = read_card(folder / f"{names[1]}.foxcard")
    assert (card.source, card.source_frame, card.author) == ("on_deck", marks[1] + 1, "Ines B.")
    assert (
        len({picture(folder / f"{n}.foxcard").tobytes() for n in names}) >= len(names) - 1
    )  # it ends as it begins
    workspace.review.close()
    assert workspace.actor.state is before
    assert window.timeline.height() == tall
    workspace.undo()
    hand.qtbot.waitUntil(lambda: not list(folder.glob("*.foxcard")), timeout=LONG)


def test_what_goes_in_is_chosen_with_the_keyboard_which_stays_where_it_was(hand: Hand) -> None:
    hand.click_card("Angry")
    hand.key(Qt.Key.Key_Return)
    hand.window.workspace.capturing.ask()
    draft, rows = hand.workspace.capturing.draft, hand.window.capture.list
    hand.qtbot.waitUntil(lambda: any(t.isVisible() for t, _ in rows.ticks), timeout=LONG)
    hand.qtbot.waitUntil(lambda: not rows.filling, timeout=LONG)
    tick, group = rows.ticks[0]
    assert set(group.rows) & draft.rows
    settings = [row for _, row in rows.setting_ticks]
    tick.setFocus()
    hand.key(Qt.Key.Key_Space)  # what was in as a whole goes out
    if set(group.rows) & draft.rows:
        hand.key(Qt.Key.Key_Space)
    assert not set(group.rows) & draft.rows
    focused = hand.window.focusWidget()
    assert focused in [t for t, g in rows.ticks if g.label == group.label]
    assert len(rows.setting_ticks) < len(settings) or not rows.setting_ticks
    hand.key(Qt.Key.Key_Space)
    assert set(group.rows) <= draft.rows
    hand.qtbot.waitUntil(rows.setting_ticks[0][0].isVisible, timeout=LONG)
    one, row = rows.setting_ticks[0]
    was = row in draft.settings
    one.setFocus()
    hand.key(Qt.Key.Key_Space)
    assert (row in draft.settings) is not was
    more = next(b for b in rows.findChildren(Button) if b.text().startswith("Show "))
    count = len(rows.ticks)
    more.setFocus()
    hand.key(Qt.Key.Key_Space)
    assert len(rows.ticks) > count
    assert hand.window.focusWidget() in [t for t, _ in rows.ticks]
