"""Keys set, moved, copied and pulled between: which channels, which frames, what it is called."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.base.places import Places
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import angle_between, from_vector
from fox_hand.demo.demo_project import prepare
from fox_hand.session.animating.key_groups import (
    ROWS,
    channel_ids_in,
    key_groups_of,
    label_of,
    title_of,
)
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.figure import Figure
from tests.session.conftest import entry

HEAD = ChannelId(ChannelKind.TURN, "head")
JAW = ChannelId(ChannelKind.SETTING, "jaw_open")


def actor_of(workspace: Workspace) -> Figure:
    assert workspace.actor is not None
    return workspace.actor


def stand(workspace: Workspace, *, head: float = 0.0, jaw: float = 0.0) -> None:
    actor = actor_of(workspace)
    turn, settings = actor.state.turn.copy(), actor.state.settings.copy()
    turn[actor.rig.control_row["head"]] = from_vector(np.array([0.0, head, 0.0]))
    settings[actor.rig.setting_row["jaw_open"]] = jaw
    workspace.apply("Pose", actor.state.with_(turn=turn, settings=settings))


def keyed(workspace: Workspace, *at: tuple[float, float, float]) -> None:
    """Keys of head and jaw: frame, angle, value."""
    rig = actor_of(workspace).rig
    holder = rig.settings[rig.setting_row["jaw_open"]].control
    for frame, head, jaw in at:
        workspace.go(frame)
        stand(workspace, head=head, jaw=jaw)
        workspace.selection.set([rig.control_row["head"], holder])
        workspace.keying.key()
    workspace.selection.set([])


def frames(workspace: Workspace, channel_id: ChannelId) -> list[float]:
    line = actor_of(workspace).keys.lines.get(channel_id)
    return line.frames.tolist() if line is not None else []


def angle(workspace: Workspace, frame: float) -> float:
    actor = actor_of(workspace)
    row = actor.rig.control_row["head"]
    return float(angle_between(actor.take.at(frame).turn[row], actor.rig.rest.turn[row]))


def test_keys_are_set_for_what_is_selected_else_for_what_counts(workspace: Workspace) -> None:
    keying, actor = workspace.keying, actor_of(workspace)
    told: list[str] = []
    keying.told.connect(told.append)
    assert keying.key() == 0 and len(told) == 1 and not actor.keys
    stand(workspace, head=0.3)
    assert set(keying.channel_ids()) >= {HEAD} and JAW not in keying.channel_ids()
    workspace.go(5.0)
    stand(workspace, head=0.3)
    assert keying.key() == len(actor.keys.lines) and frames(workspace, HEAD) == [5.0]
    assert workspace.history.undo_label == "Key frame 5"
    workspace.selection.set([actor.rig.control_row["jaw"]])
    count = keying.key()
    assert count == len([c for c in actor.keys if c.name == "jaw"]) and count
    workspace.selection.set([])
    helpers = {c.name for c in actor.rig.controls if c.helper}
    keying.key(everything=True)
    names = {c.name for c in actor.keys if not c.is_setting}
    assert names.isdisjoint(helpers) and len(names) > 60
    for _ in range(3):
        workspace.undo()
    assert not actor.keys


def test_keys_slide_stretch_go_away_and_are_counted(workspace: Workspace) -> None:
    keyed(workspace, (1.0, 0.0, 0.1), (11.0, 0.4, 0.5), (21.0, 0.1, 0.0))
    keying, actor = workspace.keying, actor_of(workspace)
    two = {HEAD: np.array([11.0, 21.0]), JAW: np.array([11.0])}
    keying.shift(two, 3.0)
    assert frames(workspace, HEAD) == [1.0, 14.0, 24.0]
    assert frames(workspace, JAW) == [1.0, 14.0, 21.0]
    assert workspace.history.undo_label == "Move keys of 2 frames"
    steps = workspace.history.undo_step
    keying.shift(two, 0.0)
    keying.shift({}, 2.0)
    keying.delete({})
    assert workspace.history.undo_step is steps
    workspace.undo()
    keying.stretch({HEAD: np.array([1.0, 11.0, 21.0])}, 1.0, 0.45)
    assert frames(workspace, HEAD) == [1.0, 6.0, 10.0]  # whole frames
    assert workspace.history.undo_label == "Retime keys of 3 frames"
    workspace.undo()
    keying.delete({HEAD: np.array([11.0])})
    assert workspace.history.undo_label == "Delete keys"
    assert frames(workspace, HEAD) == [1.0, 21.0] and frames(workspace, JAW) == [1.0, 11.0, 21.0]
    workspace.undo()
    drag = keying.drag()
    assert drag is not None and drag.actor is actor
    drag.preview(actor.keys.without({HEAD: np.array([11.0])}))
    assert frames(workspace, HEAD) == [1.0, 21.0]
    drag.cancel()
    assert frames(workspace, HEAD) == [1.0, 11.0, 21.0]
    steps = workspace.history.undo_step
    drag.commit("Nothing")
    assert workspace.history.undo_step is steps


@pytest.mark.parametrize(
    ("ease", "word"), [(Ease.STEP, "Hold"), (Ease.LINEAR, "Straight"), (Ease.SMOOTH, "Smooth")]
)
def test_how_it_goes_on(workspace: Workspace, ease: Ease, word: str) -> None:
    keyed(workspace, (1.0, 0.0, 0.0), (11.0, 0.4, 0.5), (21.0, 0.1, 0.0))
    workspace.timing.work_with(ease=Ease.LINEAR if ease is not Ease.LINEAR else Ease.STEP)
    keying = workspace.keying
    keying.ease({HEAD: np.array([1.0])}, ease)
    line = actor_of(workspace).keys.lines[HEAD]
    assert line.eases.tolist()[0] == int(ease)
    assert workspace.history.undo_label == word or line.eases.tolist()[1] == int(ease)
    middle = angle(workspace, 6.0)
    if ease is Ease.STEP:
        assert middle < 1e-9
    elif ease is Ease.LINEAR:
        assert middle == pytest.approx(0.2)
    steps = workspace.history.undo_step
    keying.ease({}, ease)  # for keys to come
    assert workspace.timing.ease is ease and workspace.history.undo_step is steps


def test_copied_keys_are_laid_in_where_we_are_and_on_others_by_name(places: Places) -> None:
    workspace = Workspace(places)
    crew, folder = prepare(places)
    for path in crew[:2]:
        workspace.open_rig(path)
    workspace.open_libraries.open(folder)
    marrow, pim = workspace.cast.actors
    workspace.act(marrow)
    keying = workspace.keying
    assert keying.paste() == {} and keying.copy({}) == 0
    workspace.go(3.0)
    workspace.mix_commands.set_keyed(True)
    workspace.applying.put_on(entry(workspace, "Fist"))
    workspace.keep_mix()
    keyed(workspace, (13.0, 0.4, 0.5))
    picked = {
        HEAD: np.array([13.0]),
        ChannelId(ChannelKind.TURN, "finger_index_1_L"): np.array([3.0]),
    }
    assert keying.copy(picked) == 2
    workspace.go(40.0)
    laid = keying.paste()
    assert {c: f.tolist() for c, f in laid.items()} == {
        HEAD: [50.0],
        ChannelId(ChannelKind.TURN, "finger_index_1_L"): [40.0],
    }
    assert workspace.history.undo_label == "Paste keys"
    workspace.act(pim)
    told: list[str] = []
    keying.told.connect(told.append)
    workspace.go(7.0)
    there = keying.paste()
    known = {c for c in laid if c.name in pim.rig.control_row}
    assert set(there) == known
    if known:
        finger = next(c for c in known if c.name != "head")
        line = pim.keys.lines[finger]
        origin = pim.keys.origins[int(line.origins[0])]
        assert origin.name == "Fist" and line.frames.tolist() == [7.0]
    else:
        assert told == [f"None of the copied keys has a place on {pim.name}."]


def test_a_pose_between_two_keys_is_pulled_and_kept(workspace: Workspace) -> None:
    keying = workspace.keying
    told: list[str] = []
    keying.told.connect(told.append)
    assert keying.between() is None and told == ["Nothing of it lies between two keys here."]
    keyed(workspace, (1.0, 0.0, 0.0), (21.0, 0.4, 0.8))
    workspace.go(21.0)
    assert keying.between() is None
    workspace.go(6.0)
    assert set(keying.between_lanes()) >= {HEAD, JAW}
    between = keying.between()
    assert between is not None and between.part == 0.5
    between.pull(0.25)
    between.keep()
    assert workspace.history.undo_label == "In between, 25 %"
    assert angle(workspace, 6.0) == pytest.approx(0.1, abs=1e-6)
    assert frames(workspace, HEAD) == [1.0, 6.0, 21.0]
    workspace.go(12.0)
    row = actor_of(workspace).rig.control_row
    workspace.selection.set([row["head"]])
    assert set(keying.between_lanes()) <= {c for c in actor_of(workspace).keys if c.name == "head"}
    again = keying.between()
    assert again is not None
    before = actor_of(workspace).state
    again.pull(1.0)
    again.put_back()
    assert actor_of(workspace).state.same_bits(before) and frames(workspace, HEAD)[-1] == 21.0


def test_going_from_key_to_key(workspace: Workspace) -> None:
    keyed(workspace, (3.0, 0.0, 0.1), (11.0, 0.4, 0.5), (21.0, 0.1, 0.0))
    keying, row = workspace.keying, actor_of(workspace).rig.control_row
    workspace.keying.delete({HEAD: np.array([11.0])})
    workspace.go(4.0)
    assert (keying.next_key(1), keying.next_key(-1)) == (11.0, 3.0)
    workspace.go(11.0)
    assert (keying.next_key(1), keying.next_key(-1)) == (21.0, 3.0)
    workspace.selection.set([row["head"]])
    rest = [c for c in actor_of(workspace).keys if c.name == "head"]
    if all(11.0 not in frames(workspace, c) for c in rest):
        workspace.go(4.0)
        assert keying.next_key(1) == 21.0
    workspace.selection.set([row["thigh_L"]])  # it has none: those of the figure
    workspace.go(21.0)
    assert (keying.next_key(1), keying.next_key(-1)) == (None, 11.0)


def test_keys_are_seen_in_groups_by_the_card_they_came_from(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    workspace.mix_commands.set_keyed(True)
    workspace.go(5.0)
    workspace.applying.put_on(entry(workspace, "Glad"))
    assert workspace.mix is not None
    workspace.mix.set_amount(0.6)
    workspace.keep_mix()
    keyed(workspace, (12.0, 0.4, 0.7), (18.0, 0.1, 0.7))
    keys, rig = actor.keys, actor.rig
    assert key_groups_of(keys, ()) == ()
    names = [name for name, _, _ in ROWS]
    assert names == ["Body", "Face", "Hands"]
    by_row = {name: channel_ids_in(rig, keys, regions) for name, _, regions in ROWS}
    assert HEAD in by_row["Body"] and JAW in by_row["Face"] and by_row["Hands"] == ()
    assert sorted(c for ids in by_row.values() for c in ids) == sorted(keys.lines)
    groups = key_groups_of(keys, (HEAD,))
    at = [(g.frame, title_of(keys, g)) for g in groups]
    assert at[-2:] == [(12.0, ""), (18.0, "")]
    face = key_groups_of(keys, (JAW,))
    titles = {g.frame: title_of(keys, g) for g in face}
    assert titles[5.0] == "Glad 60 %" and titles[12.0] == ""
    one = next(g for g in face if g.frame == 12.0)
    assert one.held and one.end == 18.0  # two equal keys are a hold
    assert [f.tolist() for f in one.picked().values()] == [[12.0, 18.0]]
    assert [f.tolist() for f in one.picked(whole=False).values()] == [[12.0]]
    tail = next(g for g in face if g.frame == 18.0)
    assert tail.tail and not tail.held
    workspace.keying.hold(one, 30.0)
    assert workspace.history.undo_label == "Hold" and frames(workspace, JAW)[-1] == 30.0
    assert label_of(rig, HEAD) == ("Head", "turn")
    assert label_of(rig, JAW) == (rig.settings[rig.setting_row["jaw_open"]].label, "")
    assert label_of(rig, ChannelId(ChannelKind.TURN, "nobody")) == ("nobody", "turn")
    assert label_of(rig, ChannelId(ChannelKind.SETTING, "nobody")) == ("nobody", "")
