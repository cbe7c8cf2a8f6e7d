"""The mix in the window: sides, parts, ways, several cards, looking, the number keys, mirroring."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.ik_fk_matching import goal_from_joints
from fox_hand.core.pose.mirror import mirror
from fox_hand.core.pose.placing import with_setting
from fox_hand.core.pose.sides import Sides
from fox_hand.library.format.container import read_card
from fox_hand.session.app.mirroring import Mirroring
from fox_hand.ui.apply.hotbar import Hotbar
from tests.ui.conftest import ALT, CTRL, LONG, Hand, choose


def turned(hand: Hand) -> set[str]:
    rig = hand.workspace.actor.rig
    return {rig.controls[r].name for r in np.flatnonzero(hand.workspace.actor.differs())}


def segment(hand: Hand, choice, value: str) -> None:
    hand.click(choice.segments, choice.segments.rect_of(value).center())


def ctrl_click(hand: Hand, name: str) -> None:
    view = hand.window.sheets.view
    view.reveal(hand.entry(name))
    hand.click(view.viewport(), view.rect_of(hand.entry(name)).center(), CTRL)


def add_card(hand: Hand, name: str) -> None:
    """Ctrl+click a card and wait until it is in the mix."""
    ctrl_click(hand, name)
    hand.qtbot.waitUntil(
        lambda: (
            hand.workspace.mix is not None
            and hand.workspace.mix.weight_of(hand.entry(name)) is not None
        ),
        timeout=LONG,
    )


def test_a_hand_goes_on_the_other_side_both_and_back_bit_for_bit(hand: Hand) -> None:
    before, bar = hand.workspace.actor.state, hand.window.overlays.mix_bar
    hand.click_card("Fist")
    own = turned(hand)
    assert own and all(n.endswith("_L") for n in own)
    segment(hand, bar.choices.side, "other")
    assert turned(hand) == {n.replace("_L", "_R") for n in own}
    state, rig = hand.workspace.actor.state, hand.workspace.actor.rig
    mirrored = mirror(rig, state)
    segment(hand, bar.choices.side, "captured")
    assert angle_between(mirrored.turn, hand.workspace.actor.state.turn).max() < 1e-6
    segment(hand, bar.choices.side, "both")
    assert len(turned(hand)) == 2 * len(own)
    bar.ruler.setFocus()
    for _ in range(12):  # nothing drifts, however often it is pulled
        hand.key(Qt.Key.Key_Left)
        hand.key(Qt.Key.Key_Right)
    bar.ruler.setFocus()
    hand.key(Qt.Key.Key_Escape)
    assert hand.workspace.actor.state is before


def test_only_some_regions_and_on_top(hand: Hand) -> None:
    bar, rig = hand.window.overlays.mix_bar, hand.workspace.actor.rig
    hand.click_card("Wave")
    segment(hand, bar.choices.part, "regions")
    popup = bar.choices.ask_regions()
    popup.ticks[Region.ARMS].setChecked(True)
    popup.ticks[Region.HEAD].setChecked(False)
    popup.close()
    assert {rig.controls[rig.control_row[n]].region for n in turned(hand)} == {Region.ARMS}
    hand.key(Qt.Key.Key_Return)
    once = hand.workspace.actor.state
    hand.click_card("Wave")
    segment(hand, bar.choices.way, "on top")
    mix, twice = hand.workspace.mix, hand.workspace.actor.state
    free = [r for r in mix.rows if rig.controls[r].label not in mix.stopped()]
    held = read_card(hand.entry("Wave").path)[0].pose.controls
    far = 0
    for row in free:  # once more as far as the card is from rest
        turn = held[rig.controls[row].name].turn
        if turn is not None:
            way = angle_between(np.array(turn), np.array([0.0, 0.0, 0.0, 1.0]))
            assert angle_between(twice.turn[row], once.turn[row]) == pytest.approx(way, abs=1e-6)
            far += way > 0.1
    assert far
    said = bar.said.text()
    assert bool(hand.workspace.mix.stopped()) is said.startswith("Stopped at a limit or lock")
    segment(hand, bar.choices.way, "replace")
    row = rig.control_row["forearm_L"]
    assert angle_between(hand.workspace.actor.state.turn[row], once.turn[row]) < 1e-9


def test_several_cards_share_the_face_on_the_pad_and_become_a_card(hand: Hand) -> None:
    before, weights = hand.workspace.actor.state, hand.window.overlays.mix_bar.weights
    hand.click_card("Glad")
    for name in ("Surprised", "Sad"):
        add_card(hand, name)
    mix, rig = hand.workspace.mix, hand.workspace.actor.rig
    assert [w.whole for w in mix.weights] == pytest.approx([1 / 3] * 3, abs=1e-3)
    assert weights.together.isChecked()
    assert weights.pad.isVisible()
    field = weights.pad.field().adjusted(10, 10, -10, -10)
    hand.drag(weights.pad, [field.center(), QPointF(field.left(), field.top())])
    assert [w.whole for w in mix.weights] == pytest.approx([1, 0, 0], abs=0.01)
    glad = read_card(hand.entry("Glad").path)[0].pose
    value = next(h.settings for h in glad.controls.values() if "mouth_corner_up_L" in h.settings)
    corner = rig.setting_row["mouth_corner_up_L"]
    assert hand.workspace.actor.state.settings[corner] == pytest.approx(
        value["mouth_corner_up_L"], 0.02
    )
    slider = weights.sliders[1]
    hand.click(slider, QPoint(round(slider.x_of(0.5)), 12))
    assert [w.whole for w in mix.weights] == pytest.approx([0.5, 0.5, 0], abs=0.02)
    shown = hand.window.sheets.view
    assert shown.marks.mix.weight_of(hand.entry("Surprised")) is not None
    hand.click(weights.drops[2], weights.drops[2].rect().center())
    assert len(mix.cards) == 2
    store = hand.window.overlays.mix_bar.store_button
    hand.qtbot.waitUntil(lambda: store.width() > 40, timeout=LONG)
    hand.click(store, store.rect().center())
    hand.window.capture.form.name.setText("Half amazed")
    hand.window.home.cards.save_capture()
    entry = hand.wait_for_card("Half amazed")
    held = {n for n, h in read_card(entry.path)[0].pose.controls.items() if not h.empty}
    assert held >= set(glad.controls)
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is None, timeout=LONG)
    hand.workspace.undo()  # the card
    hand.workspace.undo()  # the mix: one step
    assert hand.workspace.actor.state.same_bits(before)


def test_cards_of_other_controls_are_added_whole(hand: Hand) -> None:
    hand.click_card("Fist")
    fist = turned(hand)
    add_card(hand, "Glad")
    assert [w.whole for w in hand.workspace.mix.weights] == [1.0, 1.0]
    assert fist < turned(hand)
    ctrl_click(hand, "Glad")  # once more takes it out again
    assert len(hand.workspace.mix.cards) == 1
    assert turned(hand) == fist


def test_one_expression_never_shows_through_another_where_that_is_asked_for(hand: Hand) -> None:
    rig, choices = hand.workspace.actor.rig, hand.window.overlays.mix_bar.choices
    left = rig.setting_row["brow_inner_up_L"]
    hand.workspace.apply("Left over", with_setting(hand.workspace.actor.state, left, 0.7))
    entry = hand.entry("Neutral")
    hand.workspace.sheet_commands.set_neutral(
        hand.workspace.open_libraries.places[0], "Marrow/Face", entry.identity
    )
    place = hand.workspace.open_libraries.places[0]
    hand.qtbot.waitUntil(lambda: place.neutral("Marrow/Face") == entry.identity, timeout=LONG)
    hand.click_card("Angry")
    hand.click(choices.more, choices.more.rect().center())
    choose(hand.window, "Clear first")
    assert hand.workspace.mix.clear
    neutral = read_card(entry.path)[0].pose
    angry = read_card(hand.entry("Angry").path)[0].pose
    wanted = next(
        (
            h.settings[rig.settings[left].name]
            for pose in (angry, neutral)
            for h in pose.controls.values()
            if rig.settings[left].name in h.settings
        ),
        rig.settings[left].default,
    )
    assert hand.workspace.actor.state.settings[left] == pytest.approx(wanted)
    hand.window.setFocus()
    hand.key(Qt.Key.Key_Return)
    hand.click_card("Sad")
    assert hand.workspace.mix.clear  # remembered for the sheet


def test_looking_at_a_card_leaves_the_figure_alone(hand: Hand) -> None:
    before, view = hand.workspace.actor.state, hand.window.sheets.view
    view.reveal(hand.entry("Wave"))
    centre = view.rect_of(hand.entry("Wave")).center()
    QTest.mouseMove(view.viewport(), centre + QPoint(1, 1))
    QTest.mouseMove(view.viewport(), centre)
    mix_commands = hand.workspace.mix_commands
    hand.qtbot.waitUntil(lambda: mix_commands.peek is not None, timeout=LONG)
    assert mix_commands.peek.card.name == "Wave"
    assert hand.workspace.actor.state is before
    stage = hand.window.stage
    hand.qtbot.waitUntil(
        lambda: stage.pictures.latest is not None and "peek" in stage.pictures.latest.contours,
        timeout=LONG,
    )
    assert "Wave" in hand.window.figure_panel._hint.text()
    view.point(None)
    assert mix_commands.peek is None
    view.choice.go(view.layout_now().place_of(view.open_libraries.key_in(hand.entry("Crouch"))))
    hand.window.setFocus()
    QTest.keyPress(hand.window, Qt.Key.Key_V)
    hand.qtbot.waitUntil(lambda: mix_commands.peek is not None, timeout=LONG)
    assert mix_commands.peek.card.name == "Crouch"
    QTest.keyRelease(hand.window, Qt.Key.Key_V)
    assert mix_commands.peek is None
    view.setFocus()  # the keys walk and rest as the pointer does
    QTest.keyClick(view, Qt.Key.Key_Right)
    hand.qtbot.waitUntil(lambda: mix_commands.peek is not None, timeout=LONG)
    assert mix_commands.peek.card.name == view.current_entry().name != "Crouch"
    hand.window.setFocus()
    assert mix_commands.peek is None
    assert hand.workspace.actor.state is before


def test_cards_at_hand_the_last_ones_and_again(hand: Hand) -> None:
    view, row = hand.window.sheets.view, hand.window.findChild(Hotbar)
    view.reveal(hand.entry("Fox"))
    hand.window.setFocus()
    QTest.keyClick(hand.window, Qt.Key.Key_2, CTRL)
    assert [c.entry.name for c in row.cards] == ["Fox"]
    QTest.keyClick(hand.window, Qt.Key.Key_1)
    assert "No card lies on 1" in hand.window.notice.text
    QTest.keyClick(hand.window, Qt.Key.Key_2)
    hand.wait_for_mix("Fox")
    hand.workspace.mix.set_amount(0.4)
    hand.workspace.keep_mix()
    half = hand.workspace.actor.state
    hand.workspace.undo()
    hand.window.setFocus()
    QTest.keyClick(hand.window, Qt.Key.Key_P)
    hand.wait_for_mix("Fox")
    assert hand.workspace.actor.state.same_bits(half)
    hand.click_card("Glad")
    hand.window.setFocus()
    QTest.keyClick(hand.window, Qt.Key.Key_2, ALT)
    hand.wait_for_mix("Fox")


def test_an_arm_that_follows_its_goal_takes_a_pose_of_its_joints(hand: Hand) -> None:
    actor = hand.workspace.actor
    rig = actor.rig
    limb = next(x for x in rig.limbs if rig.skeleton.names[x.upper] == "arm_L")
    bones = [rig.control_row[n] for n in ("arm_L", "forearm_L", "hand_L")]
    hand.workspace.selection.set(bones)
    hand.click_card("Wave")
    wanted = actor.at.nodes[[limb.upper, limb.lower, limb.end], :3, 3]
    hand.window.setFocus()
    hand.key(Qt.Key.Key_Escape)
    hand.workspace.apply("Goal", goal_from_joints(rig, actor.state, limb))
    hand.workspace.selection.set(bones)
    hand.click_card("Wave")
    assert actor.state.settings[limb.blend] == 1.0
    found = actor.at.nodes[[limb.upper, limb.lower, limb.end], :3, 3]
    assert np.abs(found - wanted).max() < 2e-3


def test_the_other_character_and_all_copies(hand: Hand) -> None:
    marrow, pim = hand.workspace.cast.actors
    choices = hand.window.overlays.mix_bar.choices
    pim_before = pim.state
    hand.click_card("Fist")
    assert pim.state is pim_before  # never anybody else by accident
    hand.click(choices.more, choices.more.rect().center())
    choose(hand.window, pim.name)
    assert hand.workspace.actor is pim
    hand.wait_for_mix("Fist")
    assert hand.workspace.mix.actor is pim
    assert not marrow.differs().any()
    assert pim.differs().any()
    hand.window.setFocus()
    hand.key(Qt.Key.Key_Escape)
    assert pim.state is pim_before
    hand.workspace.act(marrow)
    copy = hand.workspace.open_rig(marrow.path)
    hand.workspace.act(marrow)
    hand.click_card("Fist")
    assert not copy.differs().any()
    hand.click(choices.more, choices.more.rect().center())
    choose(hand.window, "All 2 of")
    assert copy.differs().any()
    hand.workspace.keep_mix()
    hand.workspace.undo()  # one step for both
    assert not copy.differs().any()
    assert not marrow.differs().any()


def test_the_figure_is_mirrored_whole_and_in_parts(hand: Hand) -> None:
    hand.click_card("Wave")
    hand.workspace.keep_mix()
    actor, rig = hand.workspace.actor, hand.workspace.actor.rig
    waved = actor.state
    hand.window.setFocus()
    hand.key("x")
    assert hand.workspace.history.undo_label == Mirroring.WHOLE.value
    assert angle_between(actor.state.turn, mirror(rig, waved).turn).max() < 1e-6
    hand.key("x")
    assert angle_between(actor.state.turn, waved.turn).max() < 1e-5  # twice is as before
    panel = hand.window.figure_panel
    hand.click(panel.mirror_button, panel.mirror_button.rect().center())
    choose(hand.window, "Left onto right")
    arm_l, arm_r = rig.control_row["arm_L"], rig.control_row["arm_R"]
    assert angle_between(actor.state.turn[arm_l], waved.turn[arm_l]) < 1e-5
    other = mirror(rig, actor.state)
    assert angle_between(other.turn[arm_r], actor.state.turn[arm_r]) < 1e-5
    hand.workspace.undo()
    hand.workspace.selection.set([arm_l])
    hand.window.setFocus()
    QTest.keyClick(hand.window, Qt.Key.Key_X, Qt.KeyboardModifier.ShiftModifier)
    changed = actor.state.differs_from(waved, rig.settings_of)
    assert {rig.controls[r].name for r in np.flatnonzero(changed)} <= {"arm_R"}


def test_one_card_in_part_and_on_the_other_side_becomes_a_card_of_exactly_that(hand: Hand) -> None:
    hand.click_card("Fist")
    mix, rig = hand.workspace.mix, hand.workspace.actor.rig
    mix.set_side(Sides.OTHER)
    mix.set_amount(0.7)
    wanted, shown = set(mix.channel_ids), hand.workspace.actor.state
    assert {"hand_curl_R", "hand_spread_R"} <= {x.name for x in wanted}
    store = hand.window.overlays.mix_bar.store_button
    hand.click(store, store.rect().center())
    draft = hand.workspace.capturing.draft
    assert draft.name == "Fist 70 %"
    assert set(draft.channel_ids) == wanted
    hand.window.home.cards.save_capture()
    card = read_card(hand.wait_for_card("Fist 70 %").path)[0]
    assert card.side == "right"
    for name, held in card.pose.controls.items():
        row = rig.control_row[name]
        if held.turn is not None:
            assert held.turn == pytest.approx(shown.turn[row])
        for setting, value in held.settings.items():
            assert value == pytest.approx(shown.settings[rig.setting_row[setting]])
    held = {x for n, h in card.pose.controls.items() for x in (n if h.turn else "", *h.settings)}
    assert held - {""} == {x.name for x in wanted}
