"""A stage is set whole or not at all: nothing is saved or mixed before it is there."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

import pytest

from fox_hand.demo.demo_project import shipped
from fox_hand.session.figures.cast import Absent
from fox_hand.session.figures.snapshot import read_cast
from fox_hand.session.shots.shot_file import read_shot
from fox_hand.session.shots.shots import stage_key
from tests.held_jobs import HeldJobs
from tests.ui.conftest import CTRL, LONG, Hand, OpenWindow


@pytest.fixture
def ferry(tmp_path: Path) -> Path:
    made = tmp_path / "ferry"
    shutil.copytree(shipped(), made)
    return made


def opened(hand: Hand, path: Path) -> None:
    hand.window.shot_opener.open(path)
    hand.qtbot.waitUntil(lambda: hand.workspace.shots.path == path, timeout=LONG)


def holding(hand: Hand) -> HeldJobs:
    """From now on openings wait for the test."""
    held = HeldJobs()
    for opener in (hand.window.shot_opener, hand.window.opener):
        opener._services = replace(opener._services, jobs=held)
    return held


def prefixes(path: Path) -> list[str]:
    return [m.prefix for m in read_shot(path).members]


def shot(ferry: Path, number: str) -> Path:
    return ferry / "shots" / f"nf_{number}.foxshot"


def saved(hand: Hand, path: Path) -> None:
    before = path.stat().st_mtime_ns
    hand.key("s", CTRL)
    hand.qtbot.waitUntil(lambda: path.stat().st_mtime_ns != before, timeout=LONG)


def test_who_cannot_be_read_keeps_a_place_with_all_keys(
    open_window: OpenWindow, ferry: Path
) -> None:
    path = shot(ferry, "030")
    before = read_shot(path)
    pim = ferry / "cast" / "pim.glb"
    pim.unlink()
    pim.mkdir()  # whatever cannot be opened as a file
    hand = open_window()
    opened(hand, path)
    members = list(hand.workspace.cast)
    assert [m.prefix for m in members] == [m.prefix for m in before.members]
    assert sum(isinstance(m, Absent) for m in members) == 2
    assert "is not on the stage" in hand.window.notice.text
    saved(hand, path)
    after = read_shot(path)
    assert [len(m.keys) for m in after.members] == [len(m.keys) for m in before.members]


def test_of_two_shots_opened_in_a_row_the_last_counts_whichever_answers_first(
    open_window: OpenWindow, ferry: Path
) -> None:
    one, two = shot(ferry, "010"), shot(ferry, "030")
    texts = {path: path.read_bytes() for path in (one, two)}
    for order in ((0, 1), (1, 0)):
        hand = open_window()
        held = holding(hand)
        hand.window.shot_opener.open(one)
        hand.window.shot_opener.open(two)
        for number in order:
            held.release(number)
        assert hand.workspace.shots.path == two
        assert [m.prefix for m in hand.workspace.cast] == prefixes(two)
        hand.window.close()
    assert {path: path.read_bytes() for path in (one, two)} == texts


def test_while_a_shot_is_being_opened_the_one_that_stands_there_is_saved_whole(
    open_window: OpenWindow, ferry: Path
) -> None:
    one, two = shot(ferry, "030"), shot(ferry, "020")
    whole = prefixes(one)
    hand = open_window()
    opened(hand, one)
    held = holding(hand)
    hand.window.shot_opener.open(two)
    saved(hand, one)
    hand.workspace.save_figure()
    assert prefixes(one) == whole
    held.release(0)
    assert hand.workspace.shots.path == two
    assert [m.prefix for m in hand.workspace.cast] == prefixes(two)
    kept = read_cast(hand.workspace.places, stage_key(one))
    assert kept is not None
    assert [m.prefix for m in kept.members] == whole


def test_a_save_that_ends_after_another_shot_has_begun_says_nothing_of_it(
    open_window: OpenWindow, ferry: Path
) -> None:
    one, two = shot(ferry, "030"), shot(ferry, "020")
    before = {path: prefixes(path) for path in (one, two)}
    hand = open_window()
    opened(hand, one)
    files = HeldJobs()
    hand.workspace.shots._files = files
    hand.workspace.shots.save()
    opened(hand, two)
    files.release()
    assert hand.workspace.shots.path == two
    assert {path: prefixes(path) for path in (one, two)} == before


def test_a_character_that_was_asked_for_does_not_come_onto_another_stage(
    open_window: OpenWindow, ferry: Path
) -> None:
    hand = open_window()
    opened(hand, shot(ferry, "020"))
    held = holding(hand)
    hand.window.opener.open_rig(ferry / "cast" / "gull.glb")
    hand.window.shot_opener.open(shot(ferry, "010"))
    held.release(1, 0)
    assert [m.prefix for m in hand.workspace.cast] == prefixes(shot(ferry, "010"))
    assert "was not put on" in hand.window.notice.text


def test_a_shot_that_cannot_be_opened_leaves_the_one_that_stands_there(
    open_window: OpenWindow, ferry: Path
) -> None:
    hand = open_window()
    one = shot(ferry, "020")
    opened(hand, one)
    broken = ferry / "shots" / "broken.foxshot"
    broken.write_text("{")
    hand.window.shot_opener.open(broken)
    hand.qtbot.waitUntil(lambda: "damaged" in hand.window.notice.text, timeout=LONG)
    assert hand.workspace.shots.path == one
    assert [m.prefix for m in hand.workspace.cast] == prefixes(one)
    assert not hand.workspace.shots.sleeping


def test_an_opening_that_was_stopped_leaves_the_stage_as_it_is(
    open_window: OpenWindow, ferry: Path
) -> None:
    hand = open_window()
    opened(hand, shot(ferry, "020"))
    before, held = list(hand.workspace.cast), holding(hand)
    hand.window.shot_opener.open(shot(ferry, "030"))
    hand.window.opener.open_rig(ferry / "cast" / "gull.glb")
    work, button = hand.workspace.long_work, hand.window.header.jobs_button
    for job in work.going:
        job.began -= 2.0
    hand.qtbot.waitUntil(lambda: button.text() == "2 going on", timeout=LONG)
    hand.click(button, button.rect().center())
    rows = [row for _, _, row in hand.window.jobs_sign.panel.list]
    assert [row.accessibleName() for row in rows] == ["Open gull.glb: for 5 s now"] + [
        "Open nf_030: for 5 s now"
    ]
    for row in rows:
        hand.click(row.stop, row.stop.rect().center())
    held.release()  # both answers were under way
    assert list(hand.workspace.cast) == before
    assert hand.workspace.shots.path == shot(ferry, "020")
    assert not hand.workspace.shots.sleeping
    hand.qtbot.waitUntil(
        lambda: "Stopped." in hand.window.jobs_sign.panel.list[0][2].accessibleName(), timeout=LONG
    )
    hand.window.close()  # without a question
    assert not hand.window.isVisible()
