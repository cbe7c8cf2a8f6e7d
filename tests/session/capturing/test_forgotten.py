"""What a capture warns of: single channels and settings, counted one by one."""

from __future__ import annotations

import pytest

from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.model.controls import Channel
from fox_hand.core.model.solvers import Aim
from fox_hand.demo.demo_project import shipped
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.away import away_from, farthest_first, way_words
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.figures.channels import turned_about_own_axis
from tests.session.conftest import entry

HALF = 0.5


def setting(name: str) -> ChannelId:
    return ChannelId(ChannelKind.SETTING, name)


def pose_settings(workspace: Workspace, **values: float) -> None:
    """Set some settings by name."""
    actor = workspace.actor
    settings = actor.state.settings.copy()
    for name, value in values.items():
        settings[actor.rig.setting_row[name]] = value
    workspace.apply("Set", actor.state.with_(settings=settings))


def move_jaw(workspace: Workspace) -> None:
    """2 cm ahead, and turned."""
    actor = workspace.actor
    row = actor.rig.control_row["jaw"]
    move = actor.state.move.copy()
    move[row] = 0.0, 0.0, 0.02
    turned = turned_about_own_axis(actor.rig, actor.state, [row], 0, 0.3)
    workspace.apply("Jaw", turned.with_(move=move))


def begun(workspace: Workspace, *names: str) -> CaptureDraft:
    workspace.selection.set([workspace.actor.rig.control_row[n] for n in names])
    draft = workspace.capturing.begin()
    assert draft is not None
    return draft


def test_settings_are_counted_one_by_one(workspace: Workspace) -> None:
    rig = workspace.actor.rig
    held = [rig.settings[s].name for s in rig.settings_of[rig.control_row["mouth"]]]
    first, *others = held
    pose_settings(workspace, **{first: HALF})
    draft = begun(workspace, "mouth")
    assert draft.moved_but_left_out() == []
    assert draft.untouched_but_in() == [setting(name) for name in others]
    draft.set_channels(draft.untouched_but_in(), False)
    assert draft.card().pose.controls["mouth"].settings == {first: HALF}
    draft.set_channels([setting(first)], False)
    assert draft.moved_but_left_out() == [setting(first)]


def test_where_only_the_moved_one_is_left_out_all_the_rest_is_told(workspace: Workspace) -> None:
    rig = workspace.actor.rig
    first, *others = [rig.settings[s].name for s in rig.settings_of[rig.control_row["mouth"]]]
    pose_settings(workspace, **{first: HALF})
    draft = begun(workspace, "mouth")
    draft.set_setting(rig.setting_row[first], False)
    assert draft.moved_but_left_out() == [setting(first)]
    assert draft.untouched_but_in() == [setting(name) for name in others]


def test_a_move_is_not_lost_behind_a_turn(workspace: Workspace) -> None:
    move_jaw(workspace)
    draft = begun(workspace, "jaw")
    assert draft.kinds == {Channel.MOVE, Channel.TURN}
    draft.set_kind(Channel.MOVE, False)
    (lost,) = draft.moved_but_left_out()
    assert lost == ChannelId(ChannelKind.MOVE, "jaw")
    words = way_words(draft.actor.rig, draft.state, lost, draft.moved()[lost])
    assert words.endswith("Jaw move 2.0 cm")
    draft.set_channels([lost], True)
    held = draft.card().pose.controls["jaw"]
    assert held.move is not None and abs(held.move[2] - 0.02) < 1e-12


def test_joints_that_stayed_in_place_keep_their_places_out(workspace: Workspace) -> None:
    move_jaw(workspace)
    card = begun(workspace, "jaw", "head").card()
    assert card.pose.controls["jaw"].move is not None
    assert card.pose.controls["head"].move is None
    assert card.pose.controls["head"].turn is not None


def test_a_body_keeps_its_wrists_and_a_hand_leaves_its_own_turn_out(workspace: Workspace) -> None:
    rig, fingers = workspace.actor.rig, [workspace.actor.rig.control_row["finger_index_1_L"]]
    wrist, arm = rig.control_row["hand_L"], rig.control_row["forearm_L"]
    state = turned_about_own_axis(rig, workspace.actor.state, [wrist, *fingers], 0, 1.3)
    workspace.apply("Hand", state)
    draft = workspace.capturing.begin()
    assert draft is not None and draft.rows == set(fingers)
    workspace.apply("Arm", turned_about_own_axis(rig, state, [arm], 0, 0.6))
    draft = workspace.capturing.begin()
    assert draft is not None and draft.rows == {wrist, arm, *fingers}


def test_sealed_lips_are_offered_beside_the_open_jaw(workspace: Workspace) -> None:
    workspace.open_rig(shipped() / "cast" / "brandle.glb")
    rig = workspace.actor.rig
    pose_settings(workspace, jaw_open=HALF, lips_sealed=0.3)
    draft = begun(workspace, "mouth")
    draft.chosen.only([setting("jaw_open")])
    assert draft.depends_on() == [rig.setting_row["lips_sealed"]]
    draft.chosen.only([setting("lips_sealed")])
    assert draft.depends_on() == [rig.setting_row["jaw_open"]]
    draft.chosen.only([setting("mouth_corner_up_L")])
    assert draft.depends_on() == []


def test_how_far_a_goal_is_followed_is_offered_though_the_goal_holds_it(
    workspace: Workspace,
) -> None:
    rig = workspace.actor.rig
    limb = next(limb for limb in rig.limbs if limb.blend is not None)
    assert limb.blend is not None
    goal = next(c.name for c in rig.controls if c.node == limb.goal and c.moves_node)
    follow = rig.settings[limb.blend]
    pose_settings(workspace, **{follow.name: 1.0 - follow.default})
    draft = begun(workspace, goal)
    draft.set_setting(limb.blend, False)
    assert limb.blend in draft.depends_on()


def test_the_last_key_is_the_one_the_strip_shows_however_it_was_set(workspace: Workspace) -> None:
    actor, timing = workspace.actor, workspace.cast.timing
    assert actor.landmarks == []
    timing.work_with(auto=True)
    workspace.keying.key(everything=True)
    workspace.cast.go(10)
    workspace.applying.put_on(entry(workspace, "Stand easy"))
    workspace.keep_mix()
    assert actor.last_key() == 10  # set by a card
    timing.work_with(auto=False)
    workspace.cast.go(20)
    draft = workspace.capturing.begin()
    assert draft is not None
    draft.set_since("key")
    assert draft.moved() == {}
    move_jaw(workspace)
    assert set(draft.moved()) == {
        ChannelId(kind, "jaw") for kind in (ChannelKind.MOVE, ChannelKind.TURN)
    }
    assert "card" in actor.landmarks
    while workspace.history.undo_step is not None:
        workspace.undo()
    assert actor.landmarks == []  # neither a key nor a card is there any more


@pytest.mark.parametrize("part", ["eye_L", "gaze"])
def test_whether_eyes_follow_is_offered_with_the_eyes_and_with_what_they_follow(
    workspace: Workspace, part: str
) -> None:
    rig = workspace.actor.rig
    aim = next(s for s in rig.solvers if isinstance(s, Aim) and s.blend is not None)
    names = {"eye_L": aim.node, "gaze": aim.target}
    row = next(r for r, c in enumerate(rig.controls) if c.node == names[part] and c.moves_node)
    follow = rig.settings[aim.blend]
    pose_settings(workspace, **{follow.name: 1.0 - follow.default})
    move = workspace.actor.state.move.copy()
    move[row] = 0.0, 0.1, 0.0
    workspace.apply("Look up", workspace.actor.state.with_(move=move))
    draft = begun(workspace, rig.controls[row].name)
    draft.set_setting(aim.blend, False)
    assert draft.depends_on() == [aim.blend]


def test_what_is_farthest_away_is_named_first_by_what_its_kind_can_do(
    workspace: Workspace,
) -> None:
    """A setting at its end, a turn of 17 degrees, 2 cm of a body."""
    pose_settings(workspace, brow_up_L=1.0)
    move_jaw(workspace)
    actor = workspace.actor
    found = away_from(actor.rig, actor.state, actor.rig.rest)
    move, turn = (ChannelId(kind, "jaw") for kind in (ChannelKind.MOVE, ChannelKind.TURN))
    untouched = ChannelId(ChannelKind.TURN, "head")
    asked = [untouched, move, turn, setting("brow_up_L")]
    first = farthest_first(actor.rig, found, asked)
    assert first == [setting("brow_up_L"), turn, move, untouched]
