"""Many cards at once: what goes into each is decided by its own frame."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.demo.demo_project import demo_performance
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.frame_sequence import FrameSequence
from fox_hand.session.animating.motion_import import performed
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.batch import HeldBy, MarkedFrames, held_words
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.figures.channels import turned_about_own_axis
from tests.session.conftest import entry

PATTERN = "Set {n}"
MOUTH, BROW = "mouth_corner_up_L", "brow_up_L"


def with_setting(rig: Rig, name: str) -> State:
    settings = rig.rest.settings.copy()
    settings[rig.setting_row[name]] = 0.8
    return rig.rest.with_(settings=settings)


def stepped(workspace: Workspace) -> FrameSequence:
    """Frame 1 a mouth, 2 a brow, 3 the head, 4 nothing; all marked, the first in sight."""
    actor = workspace.actor
    rig = actor.rig
    head = turned_about_own_axis(rig, rig.rest, [rig.control_row["head"]], 1, 0.5)
    frames = [with_setting(rig, MOUTH), with_setting(rig, BROW), head, rig.rest]
    arrays = zip(*(state.arrays() for state in frames), strict=True)
    sequence = FrameSequence(actor, State(*map(np.stack, arrays)), 24.0, "steps")
    workspace.review.open(sequence)
    sequence.mark(range(4), True)
    sequence.show(0)
    return sequence


@pytest.fixture
def frames(workspace: Workspace) -> MarkedFrames:
    sequence, draft = stepped(workspace), workspace.capturing.begin()
    assert draft is not None
    return MarkedFrames(draft, sequence)


def names(draft: CaptureDraft) -> set[str]:
    return {x.name for x in draft.channel_ids}


def test_each_card_holds_what_moved_on_its_own_frame(frames: MarkedFrames) -> None:
    drafts = frames.drafts(HeldBy.EACH, PATTERN)
    assert [names(d) for d in drafts] == [{MOUTH}, {BROW}, {"head"}, set()]
    assert [held_words(d) for d in drafts] == [
        "Mouth, left side 1",
        "Eyes, left side 1",
        "Head 1",
        "",
    ]
    assert [frames.left_out(i, d) for i, d in enumerate(drafts)] == [0, 0, 0, 0]


def test_all_cards_can_hold_the_same(frames: MarkedFrames) -> None:
    drafts = frames.drafts(HeldBy.ALL, PATTERN)
    assert [names(d) for d in drafts] == [{MOUTH, BROW, "head"}] * 4
    head = drafts[0].card().pose.controls["head"].turn
    assert head == (0.0, 0.0, 0.0, 1.0)  # on the first frame the head is at rest


def test_as_ticked_says_what_is_lost(frames: MarkedFrames) -> None:
    drafts = frames.drafts(HeldBy.TICKED, PATTERN)
    assert all(MOUTH in names(d) and "head" not in names(d) for d in drafts)
    assert [frames.left_out(i, d) for i, d in enumerate(drafts)] == [0, 1, 1, 0]


def test_what_is_selected_confines_all_cards(workspace: Workspace) -> None:
    sequence = stepped(workspace)
    workspace.selection.set([workspace.actor.rig.control_row["head"]])
    draft = workspace.capturing.begin()
    assert draft is not None
    drafts = MarkedFrames(draft, sequence).drafts(HeldBy.EACH, PATTERN)
    assert [names(d) for d in drafts] == [set(), set(), {"head"}, set()]


def test_empty_cards_are_not_taken(workspace: Workspace, frames: MarkedFrames) -> None:
    drafts = frames.drafts(HeldBy.EACH, PATTERN)
    workspace.capturing.save_marked(drafts)
    made = [read_card(entry(workspace, f"Set {n}").path)[0] for n in (1, 2, 3)]
    assert all(e.name != "Set 4" for e in workspace.open_libraries.entries())
    assert [set(card.pose.controls) for card in made] == [{"mouth_L"}, {"brow_L"}, {"head"}]


def test_each_picture_is_framed_around_its_own_card(workspace: Workspace) -> None:
    actor = workspace.actor
    rig, arms = actor.rig, [actor.rig.control_row[f"arm_{side}"] for side in "LR"]
    up = turned_about_own_axis(rig, rig.rest, arms, 2, 1.2)
    arrays = zip(*(s.arrays() for s in (with_setting(rig, MOUTH), up)), strict=True)
    sequence = FrameSequence(actor, State(*map(np.stack, arrays)), 24.0, "arms")
    workspace.review.open(sequence)
    sequence.mark(range(2), True)
    draft = workspace.capturing.begin(state=sequence.at(0))
    assert draft is not None
    draft.frame = Camera(target=(0.0, 1.4, 0.0), distance=0.5)  # around the mouth
    frames = MarkedFrames(draft, sequence)
    drafts = frames.drafts(HeldBy.EACH, PATTERN)
    workspace.capturing.save_marked(drafts)
    for number, one in enumerate(drafts):
        frame = read_card(entry(workspace, one.name).path)[0].frame
        assert frame is not None
        at = actor.standing_in(frames.states[number]).at
        flesh = rig.flesh(at, actor.flesh_nodes(sorted(one.rows)))
        seen = frame.project(flesh, 1.0, 1.0)[:, :2]
        assert (seen > 0).all() and (seen < 1).all()
        assert np.ptp(seen, axis=0).max() > 0.6  # and it is no speck in the middle


def test_nothing_at_all_is_refused_with_a_word(workspace: Workspace) -> None:
    sequence = stepped(workspace)
    sequence.marks = {3}
    draft = workspace.capturing.begin()
    assert draft is not None
    said: list[str] = []
    workspace.capturing.told.connect(said.append)
    workspace.capturing.save_marked(MarkedFrames(draft, sequence).drafts(HeldBy.EACH, PATTERN))
    assert said == ["Nothing moved on any of the marked frames: no card was taken."]
    assert workspace.capturing.draft is draft


def test_no_wrist_of_a_performance_is_lost(workspace: Workspace) -> None:
    actor = workspace.actor
    made = performed(demo_performance(), actor.rig)
    states, rate = made.states, made.rate
    sequence = FrameSequence(actor, states, rate, "on deck")
    workspace.review.open(sequence)
    sequence.propose()
    draft = workspace.capturing.begin()
    assert draft is not None
    frames = MarkedFrames(draft, sequence)
    for number, one in enumerate(frames.drafts(HeldBy.EACH, PATTERN)):
        assert frames.left_out(number, one) == 0
        for hand in ("hand_L", "hand_R"):
            turned = abs(frames.states[number].turn[actor.rig.control_row[hand], 3]) < 0.9
            assert not turned or one.card().pose.controls[hand].turn is not None
