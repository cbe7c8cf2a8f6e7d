"""Every way in which a card does not go on, or not all of it, has a sentence."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from fox_hand.core.model.controls import Channel
from fox_hand.core.pose.ik_fk_matching import goal_from_joints
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.pose.sides import Sides
from fox_hand.core.rig.locks_limits import Lock
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.store.store import Library
from fox_hand.session.app.mirroring import Mirroring
from fox_hand.session.applying.application import Part
from fox_hand.session.figures.cast import file_mark
from tests.ui.conftest import ALT, LONG, SHIFT, Hand, OpenWindow


def told(hand: Hand, words: str) -> None:
    hand.qtbot.waitUntil(lambda: words in hand.window.notice.text, timeout=LONG)


def test_nothing_goes_on_where_there_is_no_figure(open_window: OpenWindow, tmp_path) -> None:
    hand = open_window()
    library = Library.create(tmp_path / "own", "Own")
    library.add(Card("Fist", Pose({"hand": Held(turn=(0, 0, 0, 1))})), None, "Hands")
    hand.window.opener.open_library(tmp_path / "own")
    entry = hand.wait_for_card("Fist")
    hand.window.workspace.applying.put_on(entry)
    told(hand, "no figure on the stage")
    hand.window.screens.show_compare(entry)
    told(hand, "no figure on the stage to compare")


def test_what_does_not_go_on_is_told(hand: Hand, tmp_path) -> None:
    workspace, window = hand.workspace, hand.window
    window.setFocus()
    QTest.keyClick(window, Qt.Key.Key_P)
    told(hand, "Nothing has been put on yet")
    QTest.keyClick(window, Qt.Key.Key_3, ALT)
    told(hand, "Fewer than 3 cards")
    QTest.keyClick(window, Qt.Key.Key_4)
    told(hand, "No card lies on 4")
    # a card whose file was damaged after it was listed
    entry = hand.entry("Flat")
    whole = entry.path.read_bytes()
    entry.path.write_bytes(whole[: len(whole) // 3])
    before = workspace.actor.state
    window.workspace.applying.put_on(entry)
    told(hand, "Flat.foxcard")
    assert workspace.actor.state is before
    entry.path.write_bytes(whole)
    window.workspace.capturing.ask()
    hand.press_card("Fist")
    told(hand, "Finish the capture first")
    hand.key(Qt.Key.Key_Escape)
    odd = replace(
        read_card(hand.entry("Fist").path)[0],
        fingerprint="other",
        pose=Pose({"zzqx": Held(turn=(0, 0, 0, 1))}),
    )
    workspace.applying.put_on(hand.written(odd))
    told(hand, "no control in common")
    workspace.selection.clear()
    window.figure_panel.mirror(Mirroring.SELECTED)
    told(hand, "Nothing is selected")


def test_what_goes_on_only_in_part_is_told(hand: Hand) -> None:
    workspace, bar = hand.workspace, hand.window.overlays.mix_bar
    actor, rig = workspace.actor, workspace.actor.rig
    # a lock
    workspace.set_locks(
        actor.locks | {Lock("forearm_L", Channel.TURN, axis) for axis in range(3)}, "Lock"
    )
    hand.click_card("Wave")
    assert "Stopped at a limit or lock: Forearm" in bar.said.text()
    workspace.put_back()
    workspace.undo()
    # switches and choices, which jump
    limb = rig.limbs[0]
    switch = next((s for s, x in enumerate(rig.settings) if x.discrete), None)
    assert limb.blend is not None
    card = read_card(hand.entry("Fist").path)[0]
    if switch is not None:
        setting = rig.settings[switch]
        other = setting.maximum if setting.default != setting.maximum else setting.minimum
        held = Held(settings={setting.name: other})
        holder = rig.controls[setting.control].name
        odd = replace(card, name="Odd", pose=Pose({holder: held}))
        workspace.applying.put_on(hand.written(odd))
        hand.wait_for_mix("Odd")
        mix = workspace.mix
        assert f"Changes at 50 %: {setting.label}" in bar.said.text()
        mix.set_amount(0.49)
        assert actor.state.settings[switch] == setting.default
        mix.set_amount(0.5)
        assert actor.state.settings[switch] == other
        workspace.put_back()
    # names this character does not have
    tailed = Pose({**card.pose.controls, "tail": Held(turn=(0, 0, 0, 1))})
    workspace.applying.put_on(hand.written(replace(card, name="Tailed", pose=tailed)))
    hand.wait_for_mix("Tailed")
    mix = workspace.mix
    assert "Not on Marrow: tail" in bar.said.text()
    assert bar.fit.text().startswith("Fits 16/17")
    # a part of which the card holds nothing
    workspace.selection.set([rig.control_row["finger_index_1_R"]])
    mix.set_side(Sides.OTHER)
    mix.select(workspace.selection.rows)
    mix.set_part(Part.SELECTED)
    mix.set_side(Sides.CAPTURED)
    assert "Nothing of it is touched" in bar.said.text()
    workspace.put_back()


def test_what_could_not_be_mirrored_is_told(hand: Hand) -> None:
    workspace, panel = hand.workspace, hand.window.figure_panel
    actor, rig = workspace.actor, workspace.actor.rig
    limb = next(x for x in rig.limbs if rig.skeleton.names[x.upper] == "arm_L")
    workspace.apply("Goal", goal_from_joints(rig, actor.state, limb))
    hand.click_card("Wave")
    workspace.keep_mix()
    workspace.set_locks(
        actor.locks | {Lock("arm_R", Channel.TURN, axis) for axis in range(3)}, "Lock"
    )
    hand.window.setFocus()
    hand.key("x")
    told(hand, "could not go all the way: a lock or a limit holds")
    workspace.selection.clear()
    QTest.keyClick(hand.window, Qt.Key.Key_X, SHIFT)
    told(hand, "Nothing is selected")
    alone = replace(
        rig,
        controls=tuple(replace(c, partner=None) if c.name == "head" else c for c in rig.controls),
    )
    workspace.exchange_rig(actor, alone, file_mark(actor.path))
    turn = actor.state.turn.copy()
    turn[alone.control_row["head"]] = (0, np.sin(0.2), 0, np.cos(0.2))
    workspace.apply("Head", actor.state.with_(turn=turn))
    panel.mirror(Mirroring.WHOLE)
    told(hand, "Head stayed: no partner is known")
