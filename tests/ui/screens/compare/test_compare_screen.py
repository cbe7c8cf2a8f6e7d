"""Comparing two poses, putting on some of what differs, and finding cards like one."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt

from fox_hand.core.maths.rotations import angle_between
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.clips import pose_at
from fox_hand.session.applying.comparing import DifferingPart
from fox_hand.ui.screens.compare.compare_screen import LARGE
from tests.ui.conftest import LONG, Hand, choose


def compare(hand: Hand, first: str, second: str) -> None:
    """Tick two cards and compare them by their menu."""
    view = hand.window.sheets.view
    keys = [view.open_libraries.key_in(hand.entry(name)) for name in (first, second)]
    view.choice.set_ticked(keys)
    hand.window.sheets.input.menu_asked.emit(
        hand.entry(first), hand.window.mapToGlobal(QPoint(300, 300))
    )
    choose(hand.window, "Compare the two")
    window = hand.window
    hand.qtbot.waitUntil(
        lambda: window.screens.body.currentWidget() is window.screens.compare, timeout=LONG
    )


def test_two_faces_differ_in_a_list_and_some_of_it_goes_on(hand: Hand) -> None:
    compare(hand, "Glad", "Surprised")
    screen, comparison = hand.window.screens.compare, hand.window.screens.compare.comparison
    names = comparison.first.name, comparison.second.name
    assert set(names) == {"Glad", "Surprised"}
    sizes = [row.size for row in comparison.rows]
    assert sizes == sorted(sizes, reverse=True)
    rig = hand.workspace.actor.rig
    values = {}
    for name in names:
        pose = read_card(hand.entry(name).path)[0].pose
        values[name] = {s: v for h in pose.controls.values() for s, v in h.settings.items()}
    for row in comparison.rows:  # the list says what the files say
        if row.key[0] is DifferingPart.SETTING:
            setting = rig.settings[row.key[1]].name
            assert row.first == pytest.approx(values[names[0]][setting])
            assert row.second == pytest.approx(values[names[1]][setting])
    listed = {row.key for row in comparison.rows}
    for setting, value in values[names[0]].items():
        key = (DifferingPart.SETTING, rig.setting_row[setting])
        assert (key in listed) is (abs(value - values[names[1]][setting]) > 1e-4)
    hand.qtbot.waitUntil(lambda: len(screen._images) == 5, timeout=LONG)
    figure = hand.workspace.actor.state.settings
    at = next(
        i
        for i, row in enumerate(screen.list.rows)
        if row.key[0] is DifferingPart.SETTING and row.second != figure[row.key[1]]
    )
    hand.click(screen.list.viewport(), screen.list.rect_of(at).center())
    key = screen.list.rows[at].key
    assert comparison.chosen == {key}
    row = screen.list.rows[at]
    assert screen.put_part.text() == f"Put on {row.label} {row.word} only"
    only = comparison.changed_only()
    first, second = comparison.states()
    assert only.settings[key[1]] == second.settings[key[1]]
    others = np.arange(len(rig.settings)) != key[1]
    assert np.array_equal(only.settings[others], first.settings[others])
    before = hand.workspace.actor.state
    hand.click(screen.put_part, screen.put_part.rect().center())
    assert hand.window.screens.body.currentWidget() is hand.window.columns
    after = hand.workspace.actor.state
    assert np.flatnonzero(after.settings != before.settings).tolist() == [key[1]]
    assert np.array_equal(after.turn, before.turn)


def test_a_card_is_compared_with_the_figure(hand: Hand) -> None:
    hand.click_card("Wave")
    hand.workspace.keep_mix()
    hand.window.sheets.input.menu_asked.emit(
        hand.entry("Wave"), hand.window.mapToGlobal(QPoint(300, 300))
    )
    choose(hand.window, "Compare with the figure")
    window = hand.window
    hand.qtbot.waitUntil(
        lambda: window.screens.body.currentWidget() is window.screens.compare, timeout=LONG
    )
    assert window.screens.compare.comparison.rows == ()
    assert "the same in all" in window.screens.compare.said.text()
    hand.key(Qt.Key.Key_Escape)
    assert window.screens.body.currentWidget() is window.columns
    row = hand.row("head")
    turn = hand.workspace.actor.state.turn.copy()
    turn[row] = (0.0, np.sin(0.2), 0.0, np.cos(0.2))
    hand.workspace.apply("Head", hand.workspace.actor.state.with_(turn=turn))
    window.screens.show_compare(hand.entry("Wave"))
    hand.qtbot.waitUntil(
        lambda: window.screens.body.currentWidget() is window.screens.compare, timeout=LONG
    )
    rows = window.screens.compare.comparison.rows
    assert [r.key for r in rows] == [(DifferingPart.TURN, row)]
    before = hand.workspace.actor.state.turn[row]
    held = read_card(hand.entry("Wave").path)[0].pose.controls["head"].turn
    assert rows[0].size == pytest.approx(float(angle_between(before, held)) / (np.pi / 2))


def test_halfway_becomes_a_card(hand: Hand) -> None:
    compare(hand, "Fist", "Flat")
    screen = hand.window.screens.compare
    rig, (first, second) = hand.workspace.actor.rig, screen.comparison.states()
    hand.click(screen.store_button, screen.store_button.rect().center())
    hand.qtbot.waitUntil(lambda: hand.workspace.capturing.draft is not None, timeout=LONG)
    hand.window.capture.form.name.setText("Half closed")
    hand.window.home.cards.save_capture()
    pose = read_card(hand.wait_for_card("Half closed").path)[0].pose
    row = rig.control_row["finger_index_2_L"]
    whole = angle_between(first.turn[row], second.turn[row])
    turn = np.array(pose.controls["finger_index_2_L"].turn)
    assert angle_between(first.turn[row], turn) == pytest.approx(float(whole) / 2, abs=1e-6)


def test_cards_like_one_are_shown_nearest_first_until_taken_off(hand: Hand) -> None:
    view, panel = hand.window.sheets.view, hand.window.sheets
    hand.window.sheets.input.menu_asked.emit(
        hand.entry("Fist"), hand.window.mapToGlobal(QPoint(300, 300))
    )
    choose(hand.window, "Poses like this one")
    hand.qtbot.waitUntil(lambda: view.layout_now().sections[0].title == "Like Fist", timeout=LONG)
    section = view.layout_now().sections[0]
    names = [hand.workspace.open_libraries.entry(key).name for key in section.shown.keys.tolist()]
    assert "Fist" not in names
    assert names[0] in {"Point", "Two-finger", "Tense"}
    assert "nearest first" in panel.said.text()
    panel.show_alike_no_more()
    assert view.layout_now().sections[0].title == "Marrow / Hands"
    hand.click_card("Fox")
    hand.workspace.keep_mix()
    hand.window.home.cards.show_alike(None)
    hand.qtbot.waitUntil(
        lambda: view.layout_now().sections[0].title == "Like the figure", timeout=LONG
    )
    first = view.layout_now().sections[0].shown.keys.tolist()[0]
    assert hand.workspace.open_libraries.entry(first).name == "Fox"


def test_the_two_are_exchanged_looked_at_from_aside_and_either_goes_on_whole(hand: Hand) -> None:
    compare(hand, "Glad", "Surprised")
    screen = hand.window.screens.compare
    first, second = (c.name for c in (screen.comparison.first, screen.comparison.second))
    sizes = [row.size for row in screen.comparison.rows]
    hand.click(screen.swap_button, screen.swap_button.rect().center())
    assert screen.comparison.first.name == second
    assert [row.size for row in screen.comparison.rows] == pytest.approx(sizes)
    yaw = screen._camera.yaw
    middle = QPointF(screen.first.rect().center())
    hand.drag(screen.first, [middle, middle + QPointF(30, 0), middle + QPointF(60, 0)])
    assert screen._camera.yaw < yaw - 0.2  # all of them turn with the one that is pulled
    hand.qtbot.waitUntil(lambda: len(screen._images) == 5, timeout=LONG)
    segments = screen.shown
    hand.click(segments, segments.rect_of("large").center())
    assert len(screen.list.rows) == sum(size >= LARGE for size in sizes)
    assert min(row.size for row in screen.list.rows) >= LARGE
    hand.click(segments, segments.rect_of("settings").center())
    assert {row.key[0] for row in screen.list.rows} == {DifferingPart.SETTING}
    hand.click(screen.put_second, screen.put_second.rect().center())
    hand.wait_for_mix(first)
    assert hand.window.screens.body.currentWidget() is hand.window.columns
    wanted = read_card(hand.entry(first).path)[0].pose
    rig, state = hand.workspace.actor.rig, hand.workspace.actor.state
    for held in wanted.controls.values():
        for setting, value in held.settings.items():
            assert state.settings[rig.setting_row[setting]] == pytest.approx(value)


def test_two_clips_are_compared_at_any_moment_and_some_of_one_is_laid_in(hand: Hand) -> None:
    compare(hand, "Blink", "Double blink")
    screen, comparison = hand.window.screens.compare, hand.window.screens.compare.comparison
    first, second = (
        read_card(c.ready.entry.path)[0] for c in (comparison.first, comparison.second)
    )
    rig = hand.workspace.actor.rig
    assert screen.moment.isVisible()
    for share in (0.0, 0.25, 0.5):
        screen.moment.pulled.emit(share)
        states = comparison.states()
        for card, state in zip((first, second), states, strict=True):
            pose = pose_at(card, share * card.clip.length)
            held = {s: v for h in pose.controls.values() for s, v in h.settings.items()}
            for setting, value in held.items():
                assert state.settings[rig.setting_row[setting]] == pytest.approx(value)
        listed = {row.key[1] for row in comparison.rows if row.key[0] is DifferingPart.SETTING}
        assert listed == set(np.flatnonzero(np.abs(states[0].settings - states[1].settings) > 1e-4))
    key = next(row.key for row in comparison.rows)
    comparison.toggle(key)
    giver = comparison.giver.name
    hand.click(screen.put_part, screen.put_part.rect().center())
    placement = hand.workspace.placements.now
    assert placement.instance.origin.name == giver
    assert [x.name for x in placement.instance.clip.lines] == [rig.settings[key[1]].name]


def test_clips_are_found_among_their_like_and_stored_over(hand: Hand) -> None:
    view = hand.window.sheets.view
    hand.window.sheets.input.menu_asked.emit(
        hand.entry("Blink"), hand.window.mapToGlobal(QPoint(300, 300))
    )
    choose(hand.window, "Clips like this one")
    hand.qtbot.waitUntil(lambda: view.layout_now().sections[0].title == "Like Blink", timeout=LONG)
    shown = view.layout_now().sections[0].shown.keys.tolist()
    names = [hand.workspace.open_libraries.entry(key).name for key in shown]
    assert names[0] == "Blink, film"
    entry, clip = hand.entry("Blink"), read_card(hand.entry("Blink").path)[0].clip
    workspace = hand.workspace
    placements = workspace.placements
    rig, take = workspace.actor.rig, workspace.actor.take
    lids = [rig.setting_row[x.name] for x in clip.lines]
    still = take.many(np.arange(1, 120)).settings[:, lids]
    first = next(f for f in range(1, 100) if not np.ptp(still[f - 1 : f + 8], axis=0).any())
    workspace.selection.set(sorted({rig.settings[row].control for row in lids}))
    hand.window.timeline.go(float(first))
    count = len(take.instances)
    workspace.applying.lay_in(entry, placements.keep)
    hand.qtbot.waitUntil(lambda: len(workspace.actor.take.instances) > count, timeout=LONG)
    workspace.selection.set(sorted({rig.settings[row].control for row in lids}))
    laid = workspace.actor.take.instances[-1].clip  # at the shot's rate
    workspace.capturing.ask_clip((first, first + laid.length))
    draft = workspace.capturing.draft
    draft.set_channels([x for x in draft.channel_ids if x not in clip.lines], False)
    similar = hand.window.capture.twin
    hand.qtbot.waitUntil(lambda: similar.entry is not None, timeout=LONG)
    assert similar.entry.name in ("Blink", "Blink, film")
    assert similar.share > 0.95
    workspace.capturing.cancel()
    hand.window.sheets.input.menu_asked.emit(entry, hand.window.mapToGlobal(QPoint(300, 300)))
    choose(hand.window, "Store these frames over it …")
    draft = workspace.capturing.draft
    assert draft.over is not None
    assert draft.name == "Blink"
    hand.window.home.cards.save_capture()
    hand.qtbot.waitUntil(lambda: hand.entry("Blink").revision > entry.revision, timeout=LONG)
    again = read_card(hand.entry("Blink").path)[0]
    assert again.identity == entry.identity
    assert again.clip.length == workspace.timing.last - workspace.timing.first


def test_cards_are_found_by_one_part_of_a_card_alone(hand: Hand) -> None:
    rig, view = hand.workspace.actor.rig, hand.window.sheets.view
    hand.workspace.reset(None, "Reset")
    for name in ("Crouch", "Glad", "Fist"):
        hand.click_card(name)
        hand.workspace.keep_mix()
    hand.workspace.selection.set([])
    hand.workspace.capturing.ask()
    draft = hand.workspace.capturing.draft
    draft.set_rows(range(len(rig.controls)), True)
    hand.window.capture.form.name.setText("Crouched with a fist")
    hand.window.home.cards.save_capture()
    whole = hand.wait_for_card("Crouched with a fist")
    cards = hand.window.home.cards
    assert [word for word, _ in cards.parts_of(whole)] == ["body", "face", "hands"]
    assert cards.parts_of(hand.entry("Fist"))[0][0] == "hands"

    def nearest() -> list[str]:
        shown = view.layout_now().sections[0].shown.keys.tolist()
        return [hand.workspace.open_libraries.entry(key).name for key in shown]

    for word, name in (("body", "Crouch"), ("face", "Glad")):
        regions = next(found for label, found in cards.parts_of(whole) if label == word)
        cards.show_alike(whole, regions, f"its {word}")
        title = f"Like Crouched with a fist, its {word}"
        hand.qtbot.waitUntil(lambda t=title: view.layout_now().sections[0].title == t, timeout=LONG)
        assert nearest()[0] == name
    hand.window.figure_panel.sets.choose("L hand")
    hand.window.home.cards.show_alike(None)
    hand.qtbot.waitUntil(
        lambda: view.layout_now().sections[0].title == "Like the figure", timeout=LONG
    )
    assert {"Fist", "Crouched with a fist"} <= set(nearest()[:2])
