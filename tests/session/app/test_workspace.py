"""The session without a window: edits, undo, putting cards on, capturing, remembering."""

from __future__ import annotations

import os
import threading
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.base.work import Progress
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.maths.rotations import about_axis, angle_between, from_vector, rotate, to_matrix
from fox_hand.core.maths.transforms import decompose
from fox_hand.core.model.controls import Channel, Region
from fox_hand.core.model.state import State
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.demo.demo_project import prepare
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card, read_picture
from fox_hand.library.format.entry import Entry
from fox_hand.library.store.store import Library
from fox_hand.session.app.sets import delete_set, make_set, move_set, rename_set
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.application import Part
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.figures.channels import (
    ChannelRef,
    at_rest,
    channels_of,
    turned_about_own_axis,
    turned_in_world,
    with_value,
)
from fox_hand.session.figures.figure import Figure, KeyStep
from fox_hand.session.figures.selection import both_sides, other_side
from fox_hand.session.figures.snapshot import read_cast
from fox_hand.session.libraries.storing import Wanted
from fox_hand.session.runtime.history import History, size_of
from fox_hand.session.runtime.jobs import BESIDE, Jobs
from fox_hand.session.runtime.settings import Settings, read_settings, settings_file, settings_path
from tests.conftest import MARROW
from tests.core.pose.test_blend import random_state
from tests.glb import two_skins
from tests.random_rig import random_rig
from tests.session.arrivals import bring
from tests.session.conftest import entry


def cards(workspace: Workspace) -> list[Entry]:
    return list(workspace.open_libraries.entries())


def row(workspace: Workspace, name: str) -> int:
    assert workspace.actor is not None
    return workspace.actor.rig.control_row[name]


def test_putting_on_and_putting_back_leaves_every_bit(workspace: Workspace) -> None:
    actor = workspace.actor
    assert actor is not None
    actor.show(random_state(actor.rig, 5))
    before = actor.state
    workspace.applying.put_on(entry(workspace, "Wave"))
    mix = workspace.mix
    assert mix is not None
    for amount in (0.3, 1.5, -0.5, 0.71, 0.0, 1.0):
        mix.set_amount(amount)
    assert not actor.state.same_bits(before)
    workspace.put_back()
    assert actor.state is before
    assert workspace.history.undo_label is None


def test_the_amount_never_drifts(workspace: Workspace) -> None:
    workspace.applying.put_on(entry(workspace, "Fist"))
    mix = workspace.mix
    assert mix is not None
    mix.set_amount(0.4)
    once = workspace.actor.state
    for amount in np.linspace(-0.5, 1.5, 40):
        mix.set_amount(float(amount))
    mix.set_amount(0.4)
    assert workspace.actor.state.same_bits(once)


def test_keeping_is_one_step_and_working_on_keeps(workspace: Workspace) -> None:
    workspace.applying.put_on(entry(workspace, "Glad"))
    workspace.applying.put_on(entry(workspace, "Fist"))  # the first is kept
    assert workspace.history.undo_label == "Glad 100 %"
    workspace.mix.set_amount(0.7)
    edit = workspace.edit("Turn Neck")  # an edit keeps the second
    assert workspace.mix is None
    edit.preview(turned_about_own_axis(workspace.actor.rig, workspace.actor.state, [3], 0, 0.2))
    edit.commit()
    labels = []
    while workspace.history.undo_label is not None:
        labels.append(workspace.history.undo_label)
        workspace.undo()
    assert labels == ["Turn Neck", "Fist 70 %", "Glad 100 %"]
    assert workspace.actor.state is workspace.actor.rig.rest
    for _ in labels:
        workspace.redo()
    assert workspace.history.redo_label is None
    assert workspace.actor.state.settings[workspace.actor.rig.setting_row["cheek_up_L"]] == 1


def test_only_the_selected_of_the_cards_controls_go_on(workspace: Workspace) -> None:
    thumb = [row(workspace, f"finger_thumb_{i}_L") for i in (1, 2, 3)]
    workspace.selection.set([*thumb, row(workspace, "jaw")])
    workspace.applying.put_on(entry(workspace, "Fist"))
    mix = workspace.mix
    assert mix is not None
    assert mix.part is Part.SELECTED
    assert mix.rows == set(thumb)
    moved = np.flatnonzero(workspace.actor.differs()).tolist()
    assert set(moved) <= set(thumb)
    mix.set_part(Part.ALL)
    assert len(mix.rows) == 16  # and the hand, which holds curl and spread
    workspace.selection.set([row(workspace, "jaw")])  # nothing the card knows
    mix.set_part(Part.SELECTED)
    assert mix.part is Part.ALL


def test_a_full_amount_is_exactly_the_card_even_from_a_wild_pose(workspace: Workspace) -> None:
    workspace.actor.stand(random_state(workspace.actor.rig, 9))
    card = entry(workspace, "Fist")
    workspace.applying.put_on(card)
    for name, held in read_card(card.path)[0].pose.controls.items():
        turn = workspace.actor.state.turn[row(workspace, name)]
        assert held.turn in (None, tuple(turn.tolist()))


def test_a_card_of_another_character_says_so_and_changes_nothing(
    workspace: Workspace, places: Places
) -> None:
    told: list[FoxHandError] = []
    workspace.failed.connect(told.append)
    foreign = Card("Tail up", Pose({"tail": Held(turn=(0, 0, 0, 1))}))

    def written(card: Card) -> Entry:
        return Entry(
            workspace.open_libraries.target.library.add(card, None, ""), "", name=card.name
        )

    before = workspace.actor.state
    workspace.applying.put_on(written(foreign))
    broken = places.data / "y.foxcard"
    broken.write_bytes(b"")
    workspace.applying.put_on(Entry(broken, ""))
    assert workspace.mix is None
    assert [e.code for e in told] == ["mix.nothing_lands", "card.empty"]
    assert workspace.actor.state is before
    partly = Card("Partly", Pose({**foreign.pose.controls, "jaw": Held(turn=(1, 0, 0, 0))}))
    workspace.applying.put_on(written(partly))
    mix = workspace.mix
    assert (mix.fit.lands, mix.fit.asked, mix.fit.missing) == (1, 2, ("tail",))


def test_capturing_proposes_the_fingers_and_warns_of_what_is_forgotten(
    workspace: Workspace,
) -> None:
    rig = workspace.actor.rig
    left = [rig.control_row[n] for n in rig.sets["L hand"]]
    fingers = [r for r in left if rig.controls[r].name != "hand_L"]
    state = turned_about_own_axis(rig, workspace.actor.state, fingers[:6], 0, 0.9)
    state = turned_about_own_axis(rig, state, [row(workspace, "forearm_L")], 0, 0.4)
    workspace.apply("Curl", state)
    workspace.selection.set(left)
    draft = workspace.capturing.begin()
    assert draft is not None
    assert draft.rows == set(fingers)  # the hand's own turn stays out
    assert draft.kinds == {Channel.TURN}
    assert (draft.region, draft.side, draft.sheet) == (Region.HANDS, "left", "Marrow/Hands")
    assert draft.moved_but_left_out() == [ChannelId(ChannelKind.TURN, "forearm_L")]
    turns = {ChannelId(ChannelKind.TURN, rig.controls[r].name) for r in fingers[6:]}
    assert set(draft.untouched_but_in()) == turns
    assert draft.why_not() == "Give the card a name."
    draft.name = " My grip "
    draft.set_channels(draft.untouched_but_in(), False)
    draft.set_channels(draft.moved_but_left_out(), True)
    assert draft.why_not() is None
    card = draft.card()
    assert card.name == "My grip"
    assert set(card.pose.controls) == {rig.controls[r].name for r in [*fingers[:6], *draft.rows]}
    assert all(h.move is None and h.scale is None for h in card.pose.controls.values())


def store(workspace: Workspace, draft: CaptureDraft) -> Entry:
    """Keep the draft that is open, without a picture."""
    assert workspace.capturing.draft is draft
    draft.sheet = "Marrow/Hands"
    workspace.capturing.save(Camera())
    return entry(workspace, draft.name)


def test_a_captured_card_is_on_disk_at_once_and_undo_takes_it_out(workspace: Workspace) -> None:
    workspace.applying.put_on(entry(workspace, "Fist"))
    workspace.keep_mix()
    draft = workspace.capturing.begin()
    draft.name, draft.author = "Grip rail", "Ines B."
    count = len(cards(workspace))
    saved = store(workspace, draft)
    assert saved.path.is_file()
    assert workspace.capturing.draft is None
    assert len(cards(workspace)) == count + 1
    assert workspace.settings.author == "Ines B."
    workspace.reset(None, "Reset all")
    workspace.applying.put_on(entry(workspace, "Grip rail"))
    fist = read_card(entry(workspace, "Fist").path)[0].pose.controls
    for name, held in fist.items():
        if held.turn is None:
            continue
        got = workspace.actor.state.turn[row(workspace, name)]
        assert float(angle_between(got, np.array(held.turn))) < 1e-9
    workspace.put_back()
    workspace.undo()  # the reset
    workspace.undo()  # the capture
    assert not saved.path.exists()
    assert len(cards(workspace)) == count
    workspace.redo()
    assert entry(workspace, "Grip rail").path.read_bytes()[:2] == b"PK"


def test_a_capture_that_cannot_be_written_waits_and_is_written_when_it_can(
    workspace: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    workspace.applying.put_on(entry(workspace, "Fist"))
    draft = workspace.capturing.begin()
    draft.name = "Grip"
    told: list[FoxHandError] = []
    workspace.failed.connect(told.append)
    news: list[str] = []
    workspace.storing.told.connect(news.append)
    place, real = workspace.open_libraries.target, os.fsync

    def full(descriptor: int) -> None:
        name = str(Path(f"/proc/self/fd/{descriptor}").readlink())
        if name.startswith(str(place.folder)):
            raise OSError(28, "No space left on device")
        real(descriptor)

    monkeypatch.setattr("fox_hand.library.files.atomic.os.fsync", full)
    wanted = Wanted(draft.card(), lambda: (b"PNG", b"LARGE"), "Marrow/Hands")
    workspace.storing.store("Capture Grip", place, [wanted])
    assert [e.code for e in told] == ["outbox.waiting"]
    assert "No space left" in told[0].sentence()
    assert place.waiting == 1
    assert "Grip" not in [e.name for e in cards(workspace)]
    assert workspace.history.undo_label == "Fist 100 %"
    monkeypatch.undo()
    workspace.open_libraries.look_again(place)
    assert news == ["Grip waited and is now in Night Ferry show."]
    assert place.waiting == 0
    assert read_picture(entry(workspace, "Grip").path, 640) == b"LARGE"
    workspace.open_libraries.look_again(place)
    assert len(news) == 1


def woken(workspace: Workspace) -> None:
    """The kept cast put back on the stage, as the window does it in jobs."""
    kept = read_cast(workspace.places, workspace.shots.key)
    assert kept is not None
    bring(workspace, kept.members)


def test_closing_and_opening_again_finds_the_figure_as_it_was(
    places: Places, workspace: Workspace
) -> None:
    workspace.actor.stand(random_state(workspace.actor.rig, 11))
    workspace.selection.set([3, 5])
    workspace.save_figure()
    workspace.save_settings()
    workspace.shots.end()
    again = Workspace(places)
    assert [Path(p).name for p in again.settings.recent] == [MARROW.name]
    woken(again)
    assert again.actor.state.same_bits(workspace.actor.state)
    assert again.selection.rows == (3, 5)


def test_what_is_only_being_tried_on_is_not_remembered(
    places: Places, workspace: Workspace
) -> None:
    workspace.applying.put_on(entry(workspace, "Wave"))
    workspace.save_figure()
    workspace.shots.end()
    again = Workspace(places)
    woken(again)
    assert again.actor.state.same_bits(again.actor.rig.rest)


def test_a_rig_that_cannot_be_read_leaves_the_desk_as_it_was(
    workspace: Workspace, tmp_path: Path
) -> None:
    actor, state = workspace.actor, workspace.actor.state
    for name, data in (("empty.glb", b""), ("cut.glb", MARROW.read_bytes()[:9999])):
        (tmp_path / name).write_bytes(data)
        with pytest.raises(FoxHandError):
            workspace.open_rig(tmp_path / name)
    with pytest.raises(FoxHandError, match="does not read"):
        workspace.open_rig(tmp_path / "figure.obj")
    assert workspace.actor is actor
    assert actor.state is state
    workspace.open_rig(two_skins(tmp_path / "other.glb"))
    assert workspace.actor.rig.name == "Other"
    assert len(workspace.cast) == 2


@given(seed=st.integers(0, 500), value=st.floats(-170, 170), axis=st.integers(0, 2))
def test_a_typed_number_is_what_is_shown(marrow: Rig, seed: int, value: float, axis: int) -> None:
    state = random_state(marrow, seed)
    for ref in (ChannelRef(7, Channel.TURN, axis), ChannelRef(1, Channel.MOVE, axis)):
        typed = with_value(marrow, state, ref, value)
        assert ref.value(marrow, typed) == pytest.approx(value, abs=1e-6)


def test_settings_stay_in_their_range_when_typed(marrow: Rig) -> None:
    holder = marrow.control_row["mouth"]
    ref = channels_of(marrow, [holder], (Channel.TURN,))[0]
    assert ref.value(marrow, with_value(marrow, marrow.rest, ref, 9)) == 1.5
    assert ref.value(marrow, with_value(marrow, marrow.rest, ref, -9)) == -0.5


def on_joints(rig: Rig, state: State) -> State:
    """No scale, no limb on its goal; drives may move what they like."""
    settings = state.settings.copy()
    settings[[limb.blend for limb in rig.limbs]] = 0
    return state.with_(scale=rig.rest.scale.copy(), settings=settings)


def test_turning_in_the_world_carries_children_along_but_turns_only_the_top(marrow: Rig) -> None:
    state = on_joints(marrow, random_state(marrow, 3))
    nodes = marrow.evaluate(state).nodes
    rows = [marrow.control_row[n] for n in ("arm_L", "forearm_L", "hand_L")]
    turn = about_axis(np.array([0.0, 0.0, 1.0]), 0.5)
    after = turned_in_world(marrow, state, rows, nodes, turn)
    assert after.turn[rows[1:]].tobytes() == state.turn[rows[1:]].tobytes()
    now = marrow.evaluate(after).nodes
    arm, hand = (marrow.controls[r].node for r in (rows[0], rows[2]))
    pivot = nodes[arm][:3, 3]
    assert np.allclose(now[arm][:3, 3], pivot, atol=1e-9)
    assert np.allclose(now[hand][:3, 3], pivot + rotate(turn, nodes[hand][:3, 3] - pivot))


@pytest.mark.parametrize("seed", [1, 4, 7])
def test_a_figure_on_a_mirrored_joint_turns_the_way_it_is_turned(seed: int) -> None:
    plain = random_rig(seed)
    scale = plain.skeleton.scale.copy()
    scale[0] *= (-1.0, 1.0, 1.0)
    rig = replace(plain, skeleton=replace(plain.skeleton, scale=scale))
    rng = np.random.default_rng(seed)
    turn = from_vector(rng.normal(0, 0.5, (len(rig.controls), 3)))
    state = rig.rest.with_(turn=turn)
    row = len(rig.controls) - 1
    node, nodes = rig.controls[row].node, rig.evaluate(state).nodes
    assert np.linalg.det(nodes[node, :3, :3]) < 0
    asked = about_axis(np.array([0.3, 0.9, 0.3]) / np.linalg.norm([0.3, 0.9, 0.3]), 0.7)
    now = rig.evaluate(turned_in_world(rig, state, [row], nodes, asked)).nodes
    assert np.allclose(now[node, :3, :3], to_matrix(asked) @ nodes[node, :3, :3], atol=1e-9)


def test_turning_about_an_own_axis_adds_up(marrow: Rig) -> None:
    row = marrow.control_row["forearm_L"]
    state = on_joints(marrow, random_state(marrow, 2))
    twice = state
    for _ in range(2):
        twice = turned_about_own_axis(marrow, twice, [row], 1, 0.25)
    once = turned_about_own_axis(marrow, state, [row], 1, 0.5)
    assert np.allclose(twice.turn[row], once.turn[row])
    before, after = (marrow.evaluate(s).nodes[marrow.controls[row].node] for s in (state, once))
    axis = decompose(before)[1]
    direction = rotate(axis, np.array([0.0, 1.0, 0.0]))
    assert np.allclose(rotate(decompose(after)[1], np.array([0.0, 1.0, 0.0])), direction)


def test_reset_touches_only_what_it_should(marrow: Rig) -> None:
    state = random_state(marrow, 1)
    rows = [marrow.control_row[n] for n in ("mouth", "jaw")]
    after = at_rest(marrow, state, rows)
    differs = after.differs_from(marrow.rest, marrow.settings_of)
    assert not differs[rows].any()
    others = [r for r in range(len(marrow.controls)) if r not in rows]
    assert after.turn[others].tobytes() == state.turn[others].tobytes()
    kept = [s for r in others for s in marrow.settings_of[r]]
    assert np.array_equal(after.settings[kept], state.settings[kept])


def test_damaged_settings_are_put_aside_not_lost(places: Places) -> None:
    settings_file(places).write(Settings(author="Ines B."))
    assert read_settings(places)[0].author == "Ines B."
    for text in ("{oops", '{"version": 99}', "[]", '{"version": 1, "card_size": "big"}'):
        settings_path(places).write_text(text)
        settings, problem = read_settings(places)
        assert settings == Settings()
        assert problem is not None
        aside = settings_path(places).with_suffix(".unreadable.json")
        assert aside.read_text() == text
        assert str(aside) in problem


def test_the_demo_is_copied_once_and_never_over_what_was_made(places: Places) -> None:
    _, folder = prepare(places)
    own = Library(folder).add(Card("Mine", Pose({})), None, "Marrow/Hands")
    _, again = prepare(places)
    assert again == folder
    assert own.is_file()


def test_jobs_report_finish_fail_and_stop() -> None:
    said: list[object] = []
    jobs = Jobs(lambda f: f(), inline=True)

    def work(progress: Progress) -> int:
        progress.step(0.5, "half")
        return 7

    jobs.run(work, said.append, said.append, lambda f, t: said.append((f, t)))
    assert said == [(0.5, "half"), 7]

    def fails(progress: Progress) -> int:
        raise FoxHandError("x", "It failed.")

    jobs.run(fails, said.append, said.append)
    assert str(said[-1]) == "It failed."

    def stopped(progress: Progress) -> int:
        progress.cancel()
        progress.step(0.9)
        return 8

    jobs.run(stopped, said.append, said.append)
    assert 8 not in said
    jobs.stop()
    jobs.run(lambda _: said.append("late"), said.append, said.append)
    assert "late" not in said


def test_work_beside_the_window_leaves_it_a_core() -> None:
    def own_nice(_: Progress) -> int:
        return os.getpriority(os.PRIO_PROCESS, threading.get_native_id())

    said = list[int]()
    before = os.getpriority(os.PRIO_PROCESS, threading.get_native_id())
    for beside in (True, False):
        jobs = Jobs(lambda f: f(), beside=beside)
        jobs.run(own_nice, said.append, lambda error: pytest.fail(str(error)))
        jobs.finish()
        jobs.stop()
    assert said == [min(before + BESIDE, 19), before] and BESIDE > 0
    assert os.getpriority(os.PRIO_PROCESS, threading.get_native_id()) == before


def test_selecting_goes_over_to_the_other_side_and_to_both(marrow: Rig) -> None:
    names = ["finger_index_1_L", "brow_R", "jaw", "forearm_L"]
    rows = [marrow.control_row[n] for n in names]
    other = [marrow.controls[r].name for r in other_side(marrow, rows)]
    assert other == ["finger_index_1_R", "brow_L", "jaw", "forearm_R"]
    assert other_side(marrow, other_side(marrow, rows)) == rows
    both = both_sides(marrow, rows)
    assert set(both) == {*rows, *other_side(marrow, rows)}
    assert both[-4:] == rows
    assert both_sides(marrow, both) == both


def test_two_windows_of_one_person_keep_what_both_changed(places: Places) -> None:
    first, second = Workspace(places), Workspace(places)
    first.settings.author, second.settings.card_size = "Ines B.", 96
    first.open_libraries.personal.set_favourite(["one", "two"], on=True)
    first.open_libraries.personal.put_on("one")
    for _ in range(2):  # in any order, and again
        second.save_settings()
        first.save_settings()
    second.open_libraries.personal.set_favourite(["two"], on=False)
    second.open_libraries.personal.set_favourite(["three"], on=True)
    second.open_libraries.personal.put_on("one")
    second.save_settings()
    first.save_settings()
    third = Workspace(places)
    assert (third.settings.author, third.settings.card_size) == ("Ines B.", 96)
    marked = [i for i in ("one", "two", "three") if third.open_libraries.personal.favourite(i)]
    assert marked == ["one", "three"]
    assert msgspec.json.decode((places.data / "cards.json").read_bytes())["used"] == {"one": 2}


def test_two_windows_on_one_stage_keep_their_unsaved_work_apart(places: Places) -> None:
    first, second = Workspace(places), Workspace(places)
    assert first.shots.key != second.shots.key
    for workspace, seed in ((first, 1), (second, 2)):
        workspace.place(Figure(read_rig(MARROW), MARROW))
        assert workspace.actor is not None
        workspace.actor.stand(random_state(workspace.actor.rig, seed))
        workspace.save_figure()
    keys = [first.shots.key, second.shots.key]
    first.shots.end()
    second.shots.end()
    again = [Workspace(places), Workspace(places)]
    assert [workspace.shots.key for workspace in again] == keys
    moves = [kept.members[0].turn for key in keys if (kept := read_cast(places, key))]
    assert len(moves) == 2
    assert moves[0] != moves[1]


def test_the_history_is_bounded_by_memory_and_keeps_the_last_step(workspace: Workspace) -> None:
    actor = workspace.actor
    before = actor.take
    for number in range(40):
        workspace.go(number + 1.0)
        actor.stand(random_state(actor.rig, number))
        workspace.keying.key()
    one = size_of(workspace.history.undo_step)
    history = History(most=10 * one)
    for number in range(30):
        history.push(KeyStep(actor, before, actor.take, f"{number}"))
    kept = 0
    while history.undo_label is not None:
        history.undo()
        kept += 1
    assert 1 <= kept < 30
    tiny = History(most=1)
    tiny.push(KeyStep(actor, before, actor.take, "large"))
    assert tiny.undo_label == "large"


def test_sets_move_in_their_row_as_far_as_it_goes(workspace: Workspace) -> None:
    for name in ("one", "two", "three"):
        make_set(workspace, name, [row(workspace, "jaw")])

    def last() -> list[str]:
        return list(workspace.actor.sets)[-3:]

    assert last() == ["one", "two", "three"]
    move_set(workspace, "three", 1)
    assert last() == ["one", "two", "three"]
    move_set(workspace, "three", -1)
    assert last() == ["one", "three", "two"]
    move_set(workspace, "one", 1)
    assert last() == ["three", "one", "two"]
    workspace.undo()
    assert last() == ["one", "three", "two"]
    move_set(workspace, "nobody", 1)
    rename_set(workspace, "three", "two")  # there is one already
    assert last() == ["one", "three", "two"]
    for _ in range(99):
        move_set(workspace, "two", -1)
    assert next(iter(workspace.actor.sets)) == "two"
    delete_set(workspace, "one")
    assert "one" not in workspace.actor.sets


def test_keys_are_gone_through_and_end_where_they_end(workspace: Workspace) -> None:
    told: list[str] = []
    workspace.keying.told.connect(told.append)
    assert workspace.keying.next_key(1) is None
    assert workspace.keying.key() == 0
    assert told == ["Nothing to key: select controls, or pose the figure first."]
    jaw, head = row(workspace, "jaw"), row(workspace, "head")
    for frame, chosen in ((3.0, jaw), (8.0, head), (15.0, jaw)):
        workspace.go(frame)
        workspace.selection.set([chosen])
        assert workspace.keying.key() > 0
    workspace.selection.set([jaw])
    assert (workspace.keying.next_key(-1), workspace.keying.next_key(1)) == (3.0, None)
    workspace.selection.set([row(workspace, "hips")])  # without keys: those of the figure
    assert workspace.keying.next_key(-1) == 8.0
    workspace.go(3.0)
    assert (workspace.keying.next_key(-1), workspace.keying.next_key(1)) == (None, 8.0)
