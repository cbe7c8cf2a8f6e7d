"""Cards on other characters, and the Fit screen: what lands, what is asked, names kept."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from fox_hand.core.matching.name_match import Rule, Rules
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.retarget.pose_changes import roles_of
from fox_hand.core.retarget.retarget import Landing
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format.container import read_card
from fox_hand.library.format.name_map import map_path
from fox_hand.session.applying.fit_draft import FitDraft
from fox_hand.session.libraries.request import Request
from fox_hand.ui.browser.rename_popup import RenamePopup
from fox_hand.ui.widgets.buttons import Button
from tests.ui.conftest import CTRL, LONG, Hand, choose


@pytest.fixture
def quill(hand: Hand) -> Hand:
    """Quill acts: other names, other axes, another stance."""
    hand.window.opener.open_rig(shipped() / "cast" / "quill.glb")
    hand.qtbot.waitUntil(
        lambda: hand.workspace.actor is not None and hand.workspace.actor.rig.name == "Quill",
        timeout=LONG,
    )
    return hand


def elbow_bends(hand: Hand) -> float:
    """Angle between the left upper and lower arm, degrees."""
    actor = hand.workspace.actor
    node = {c.role: c.node for c in actor.rig.controls if c.role}
    a, b, c = (
        actor.at.nodes[node[f"left{part}"], :3, 3] for part in ("UpperArm", "LowerArm", "Hand")
    )
    u, v = (b - a) / np.linalg.norm(b - a), (c - b) / np.linalg.norm(c - b)
    return float(np.degrees(np.arccos(u @ v)))


def computed(hand: Hand) -> None:
    """Wait until the screen shows what was asked last."""
    hand.qtbot.waitUntil(lambda: not hand.window.screens.fit.draft.computing, timeout=LONG)


def open_fit(hand: Hand, name: str) -> None:
    hand.window.sheets.input.menu_asked.emit(
        hand.entry(name), hand.window.mapToGlobal(QPoint(300, 300))
    )
    choose(hand.window, "Fit")
    hand.qtbot.waitUntil(
        lambda: hand.window.screens.body.currentWidget() is hand.window.screens.fit, timeout=LONG
    )


def test_a_card_of_marrow_waves_on_quill_at_one_click(quill: Hand) -> None:
    marrow = quill.workspace.cast.actors[0]
    before = quill.workspace.actor.state
    quill.click_card("Wave")
    bends = elbow_bends(quill)
    assert quill.window.overlays.mix_bar.fit.text() == "Fits 67/68"
    assert "hat" in quill.window.overlays.mix_bar.fit.toolTip()
    assert "Not on Quill: hat" in quill.window.overlays.mix_bar.said.text()
    quill.window.setFocus()
    quill.key("\x1b")
    quill.workspace.put_back()
    assert quill.workspace.actor.state is before
    quill.workspace.act(marrow)
    quill.click_card("Wave")
    assert elbow_bends(quill) == pytest.approx(bends, abs=1.0)


def test_the_fit_screen_says_what_happens_and_puts_it_on(quill: Hand) -> None:
    open_fit(quill, "Wave")
    fit, draft = quill.window.screens.fit, quill.window.screens.fit.draft
    counts = draft.counts()
    assert sum(counts.values()) == 68
    assert draft.lands == counts[Landing.LANDS] + counts[Landing.CORRECTED] + counts[Landing.LIMIT]
    assert fit.put_button.text() == f"Put on {draft.lands} of 68"
    assert "hat" in {r.source for r in draft.rows if r.landing is Landing.MISSING}
    quill.click(fit.chips[Landing.MISSING], fit.chips[Landing.MISSING].rect().center())
    shown = [line.row.source for line in fit.list.lines if line.row is not None]
    assert shown == ["hat"]
    with_stance = draft.outcome.worn
    fit.stance.setChecked(False)
    computed(quill)
    assert not with_stance.same_bits(draft.outcome.worn)
    fit.stance.setChecked(True)
    computed(quill)
    assert with_stance.same_bits(draft.outcome.worn)
    quill.qtbot.waitUntil(lambda: len(fit.pair._images) == 2, timeout=LONG)
    quill.click(fit.put_button, fit.put_button.rect().center())
    assert quill.window.screens.body.currentWidget() is quill.window.columns
    found = quill.workspace.actor.state
    assert angle_between(found.turn, with_stance.turn).max() < 1e-6
    assert np.abs(found.move - with_stance.move).max() < 1e-9
    assert quill.workspace.mix is not None


def test_guesses_are_asked_and_names_are_kept_in_the_library(
    quill: Hand, library_folder: Path
) -> None:
    open_fit(quill, "Fox")
    fit, draft = quill.window.screens.fit, quill.window.screens.fit.draft
    # a name that is only spelled alike
    source = "finger_index_1_L"
    row = next(r for r in draft.rows if r.source == source)
    assert row.landing is Landing.CORRECTED
    fit.list.left_out.emit(source)
    computed(quill)
    row = next(r for r in draft.rows if r.source == source)
    assert row.landing is Landing.MISSING
    assert fit.save_button.text() == "Save 1 change"
    line = fit.list.line_of(source)
    assert line is not None
    fit.list.menu_asked.emit(source, fit.mapToGlobal(QPoint(200, 200)))
    choose(quill.window, "LeftIndex1")
    computed(quill)
    row = next(r for r in draft.rows if r.source == source)
    assert (row.target, row.landing) == ("LeftIndex1", Landing.CORRECTED)
    quill.click(fit.save_button, fit.save_button.rect().center())
    path = map_path(library_folder / ".foxhand", "Marrow", "Quill")
    kept = json.loads(path.read_text())
    assert kept["names"][source] == "LeftIndex1"
    assert "undo leaves it" in quill.window.notice.text
    before = json.loads(path.with_name(f"{path.name}.earlier").read_text())
    assert source not in before["names"]
    assert kept["names"]["arm_L"] == "LeftUpperArm"  # what was said before is kept
    assert not fit.save_button.isEnabled()
    quill.click(fit.back_button, fit.back_button.rect().center())
    open_fit(quill, "Fist")
    assert quill.window.screens.fit.draft.told.names[source] == "LeftIndex1"
    # a map of a newer program is refused and left
    newer = {**kept, "version": 99}
    path.write_text(json.dumps(newer))
    fit.list.left_out.emit("finger_ring_1_L")
    computed(quill)
    quill.click(fit.save_button, fit.save_button.rect().center())
    assert "newer Fox Hand" in quill.window.notice.text
    assert json.loads(path.read_text()) == newer


def test_a_proposal_goes_on_only_after_yes(quill: Hand) -> None:
    open_fit(quill, "Crouch")
    draft = quill.window.screens.fit.draft
    rig = draft.actor.rig
    held = draft.card.pose.controls
    neck_of_old = replace(held["neck"], rest=replace(held["neck"].rest, role=None))
    renamed = {n: h for n, h in held.items() if n != "neck"} | {"neckk": neck_of_old}
    card = replace(draft.card, pose=Pose(renamed))
    fit = quill.window.screens.fit
    fit.draft = FitDraft(card, quill.workspace.actor)
    fit.draft.changed.connect(fit._refresh)
    fit._refresh()
    row = next(r for r in fit.draft.rows if r.source == "neckk")
    assert (row.target, row.landing) == ("Neck", Landing.ASK)
    neck = rig.control_row["Neck"]
    assert neck not in fit.draft.fitted.choice.channels
    assert "only a proposal" in fit.warning.text()
    fit._filter(Landing.ASK)
    line = fit.list.line_of("neckk")
    fit.list.go_to(line)
    quill.click(fit.list.viewport(), fit.list.yes_rect(line).center().toPoint())
    assert neck in fit.draft.fitted.choice.channels


def test_roles_count_unasked_and_those_of_a_shape_are_accepted_together(quill: Hand) -> None:
    places = quill.workspace.open_libraries.places[0]
    map_path(places.folder / ".foxhand", "Marrow", "Quill").unlink()
    quill.click_card("Wave")  # nothing was ever said of the two: arms and fingers land by role
    button, fit = quill.window.overlays.mix_bar.fit, quill.window.screens.fit
    quill.qtbot.waitUntil(lambda: button.width() > 40, timeout=LONG)  # the bar has its places
    quill.click(button, button.rect().center())
    quill.qtbot.waitUntil(lambda: quill.window.screens.body.currentWidget() is fit, timeout=LONG)
    assert fit.draft.counts()[Landing.ASK] == 0 and fit.draft.lands == 67
    assert fit.roles_button.isHidden()
    # a card of a rig whose roles only its shape says
    held = fit.draft.card.pose.controls
    roles = roles_of(fit.draft.card.pose).all
    guessed = {
        name: replace(h, rest=replace(h.rest, role=roles.get(name), role_sure=0.7))
        for name, h in held.items()
        if h.rest is not None
    }
    fit.draft = FitDraft(
        replace(fit.draft.card, pose=Pose({**held, **guessed})), quill.workspace.actor
    )
    fit.draft.changed.connect(fit._refresh)
    fit._refresh()
    asked = fit.draft.counts()[Landing.ASK]
    assert asked > 4
    quill.qtbot.waitUntil(lambda: fit.roles_button.width() > 40, timeout=LONG)
    quill.click(fit.roles_button, fit.roles_button.rect().center())
    computed(quill)
    assert fit.draft.counts()[Landing.ASK] == 0
    assert fit.draft.lands == 67
    assert fit.draft.unsaved == asked


def test_rules_exchange_parts_of_names_and_a_wrong_pattern_is_told(quill: Hand) -> None:
    open_fit(quill, "Wave")
    fit = quill.window.screens.fit
    find, put = fit.rules.fields[0]
    find.setFocus()
    quill.key("hat")
    put.setFocus()
    quill.key("hair_front")
    computed(quill)
    assert fit.draft.told.rules.items[0].find == "hat"
    assert "hair_front" in fit.rules.preview.text()
    assert fit.rules._hits[0].text() == "1 hit"
    hand_on = quill.window.focusWidget
    quill.click(fit.rules.add_button, fit.rules.add_button.rect().center())
    assert hand_on() is fit.rules.fields[1][0]  # a new rule takes the keyboard
    quill.key("thumb")
    computed(quill)
    assert [rule.find for rule in fit.draft.told.rules.items] == ["hat", "thumb"]
    away = [b for b in fit.rules.findChildren(Button) if b.toolTip() == "Take it away"]
    away[-1].setFocus()
    quill.key(Qt.Key.Key_Space)
    computed(quill)
    assert [rule.find for rule in fit.draft.told.rules.items] == ["hat"]
    assert hand_on() is fit.rules.fields[0][0]
    find, put = fit.rules.fields[0]
    fit.rules.pattern.setChecked(True)
    find.setFocus()
    find.selectAll()
    quill.key("(")
    computed(quill)
    assert "is not a pattern" in fit.rules.preview.text()
    assert fit.draft.lands > 60  # nothing else is disturbed


def test_what_is_said_on_the_fit_screen_is_undone_there_and_not_on_the_stage(quill: Hand) -> None:
    open_fit(quill, "Wave")
    fit, draft = quill.window.screens.fit, quill.window.screens.fit.draft
    stood, first, steps = (
        quill.workspace.actor.state,
        draft.outcome.worn,
        quill.workspace.history.undo_label,
    )
    assert not fit.undo_button.isEnabled()
    quill.qtbot.waitUntil(lambda: len(fit.pair._images) == 2, timeout=LONG)
    fit.list.setFocus()
    while fit.list.current != "arm_L":
        quill.key(Qt.Key.Key_Down)
    lines = fit.pair._lines
    quill.qtbot.waitUntil(lambda: not any(lines[n].isEmpty() for n in (0, 1)), timeout=LONG)
    boxes = [lines[n].boundingRect() for n in (0, 1)]
    room = fit.pair.room()
    for box in boxes:  # an arm, not the figure, is outlined on both
        assert 4 < box.width() < room[0]
        assert 4 < box.height() < room[1] / 4
    quill.key(Qt.Key.Key_Delete)
    computed(quill)
    quill.click(fit.stance, QPoint(8, 12))
    computed(quill)
    find, put = fit.rules.fields[0]
    find.setFocus()
    quill.key("hat")
    put.setFocus()
    quill.key("Jaw")
    computed(quill)
    fit.list.setFocus()
    undone = []
    while fit.undo_button.isEnabled():
        quill.key("z", CTRL)
        computed(quill)
        row = next(r for r in draft.rows if r.source == "arm_L")
        undone.append((fit.rules.fields[0][0].text(), fit.stance.isChecked(), row.target))
    assert undone == [("", False, None), ("", True, None), ("", True, "LeftUpperArm")]
    assert draft.outcome.worn.same_bits(first)
    assert quill.workspace.actor.state is stood
    assert quill.workspace.history.undo_label == steps
    quill.key("z", CTRL | Qt.KeyboardModifier.ShiftModifier)
    computed(quill)
    assert next(r for r in draft.rows if r.source == "arm_L").landing is Landing.MISSING


def test_a_fitted_card_is_stored_for_the_character(quill: Hand) -> None:
    open_fit(quill, "Fox")
    fit = quill.window.screens.fit
    quill.click(fit.store_button, fit.store_button.rect().center())
    quill.qtbot.waitUntil(lambda: quill.workspace.capturing.draft is not None, timeout=LONG)
    quill.window.capture.form.name.setText("Fox for Quill")
    quill.window.home.cards.save_capture()
    entry = quill.wait_for_card("Fox for Quill")
    card = read_card(entry.path)[0]
    assert card.character == "Quill"
    assert {n for n, h in card.pose.controls.items() if h.turn} <= set(
        quill.workspace.cast.actors[-1].rig.control_row
    )


def test_nothing_in_common_is_refused_with_what_to_do(hand: Hand) -> None:
    card = read_card(hand.entry("Fist").path)[0]
    odd = replace(card, fingerprint="other", pose=Pose({"zzqx": Held(turn=(0, 0, 0, 1))}))
    hand.workspace.applying.put_on(hand.written(odd))
    hand.qtbot.waitUntil(lambda: "no control in common" in hand.window.notice.text, timeout=LONG)
    assert "Choose Fit" in hand.window.notice.text


def test_controls_are_renamed_in_many_cards_seen_first_and_undone(hand: Hand) -> None:
    view = hand.window.sheets.view
    names = ("Fist", "Flat", "Glad")
    view.choice.set_ticked([view.open_libraries.key_in(hand.entry(n)) for n in names])
    before = {n: hand.entry(n).path.read_bytes() for n in names}
    hand.window.sheets.input.menu_asked.emit(
        hand.entry("Fist"), hand.window.mapToGlobal(QPoint(300, 300))
    )
    choose(hand.window, "Rename controls")
    popup = hand.window.findChild(RenamePopup)
    popup.field.setText("finger_(")
    popup.pattern.setChecked(True)
    assert "is not a pattern" in popup.preview.text()
    assert not popup.button.isEnabled()
    popup.field.setText(r"finger_(\w+)_(\d)_(L)")
    popup.put.setText(r"digit_\1\2_\3")
    assert "finger_index_1_L to digit_index1_L" in popup.preview.text()
    assert popup.button.text() == "Rename in 2"
    hand.click(popup.button, popup.button.rect().center())

    def held(name: str) -> set[str]:
        return set(read_card(hand.entry(name).path)[0].pose.controls)

    hand.qtbot.waitUntil(
        lambda: all("digit_index1_L" in held(n) for n in ("Fist", "Flat")), timeout=LONG
    )
    fist = read_card(hand.entry("Fist").path)[0].pose.controls
    assert fist["digit_index2_L"].rest.parent == "digit_index1_L"
    assert hand.entry("Glad").path.read_bytes() == before["Glad"]
    view.choice.set_ticked(())
    hand.click_card("Fist")  # its hand still finds its fingers: the same words, the same side
    hand.workspace.put_back()
    hand.workspace.undo()
    hand.qtbot.waitUntil(lambda: "finger_index_1_L" in held("Flat"), timeout=LONG)
    place = hand.workspace.open_libraries.places[0]
    hand.qtbot.waitUntil(
        lambda: "finger_index_1_L" in place.controls_of(hand.entry("Fist").shape), timeout=LONG
    )
    hand.workspace.card_commands.rename_controls(
        [hand.entry("Fist")], Rules((Rule("_1_L", "_2_L"),))
    )
    hand.qtbot.waitUntil(lambda: "would be called" in hand.window.notice.text, timeout=LONG)
    assert "finger_index_1_L" in held("Fist")


def test_what_is_said_about_names_counts_in_the_sheets_and_in_searches(quill: Hand) -> None:
    entry, rig = quill.entry("Crouch"), quill.workspace.actor.rig
    place = quill.workspace.open_libraries.place_of(entry)
    lands, asked = place.lands(entry.shape, rig, entry.character)
    open_fit(quill, "Crouch")
    fit, draft = quill.window.screens.fit, quill.window.screens.fit.draft
    landing = [r.source for r in draft.rows if r.landing in (Landing.LANDS, Landing.CORRECTED)][:2]
    for source in landing:
        fit.list.left_out.emit(source)
        computed(quill)
    quill.click(fit.save_button, fit.save_button.rect().center())
    quill.click(fit.back_button, fit.back_button.rect().center())
    quill.qtbot.waitUntil(
        lambda: place.lands(entry.shape, rig, entry.character) == (lands - 2, asked), timeout=LONG
    )
    quill.workspace.applying.put_on(entry)
    quill.qtbot.waitUntil(lambda: quill.workspace.mix is not None, timeout=LONG)
    fit_of_mix = quill.workspace.mix.fit
    assert (fit_of_mix.lands, fit_of_mix.asked) == (lands - 2, asked)  # as the bar says it
    found = quill.workspace.open_libraries.find(Request(text="fits:all"), rig)
    keys = [key for section in found.sections for key in section.keys.tolist()]
    assert quill.workspace.open_libraries.key_in(entry) not in keys
