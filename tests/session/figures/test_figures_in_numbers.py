"""Figures and their cast in numbers: who acts, who stands where, what changes a frame and what
does not."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.base.work import Progress
from fox_hand.core.animation.clip_instances import ClipInstance
from fox_hand.core.animation.curves import ChannelId, ChannelKind, Origin
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import angle_between, from_vector
from fox_hand.core.model.controls import ControlKind
from fox_hand.core.pose.sides import Sides
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera
from fox_hand.demo.demo_project import prepare, shipped
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.motion_import import frame_of
from fox_hand.session.app.headless import Laid, OpenShot, card_on, lost_words, worn, worn_over
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.animation import Animation, Keyed, below_blocks, recorded
from fox_hand.session.figures.cast import Cast, file_mark
from fox_hand.session.figures.figure import Edit, Figure, PoseStep, pose_step
from fox_hand.session.figures.gathering import gather
from fox_hand.session.figures.sample_cache import TOGETHER, SampleCache
from fox_hand.session.figures.selection import Selection
from fox_hand.session.figures.snapshot_keys import KeptTime
from fox_hand.session.runtime.draft_history import DraftHistory
from fox_hand.session.runtime.history import History, StepsTogether
from fox_hand.session.runtime.settings import Settings
from fox_hand.session.runtime.shared_file import SharedFile, changed_fields
from tests.session.conftest import entry

HEAD = ChannelId(ChannelKind.TURN, "head")
CREW = [shipped() / "cast" / f"{n}.glb" for n in ("pim", "quill", "brandle")]


def turned(actor: Figure, angle: float) -> object:
    turn = actor.state.turn.copy()
    turn[actor.rig.control_row["head"]] = from_vector(np.array([0.0, angle, 0.0]))
    return actor.state.with_(turn=turn)


@pytest.fixture
def figure(marrow: Rig) -> Figure:
    return Figure(marrow, shipped() / "cast" / "marrow.glb")


def test_who_acts_follows_comings_and_goings(marrow: Rig) -> None:
    cast = Cast()
    a, b, c = (Figure(marrow, shipped() / "cast" / "marrow.glb", n) for n in "abc")
    heard: list[int] = []
    cast.changed.connect(lambda: heard.append(1))
    assert cast.acting is None and len(cast) == 0
    cast.add(a)
    cast.add(b, (3, 4))
    assert cast.acting is a and cast.actors == (a, b) and cast.selected(b) == (3, 4)
    cast.act(b)
    cast.insert(0, c)
    assert cast.acting is b and [m.prefix for m in cast] == ["c", "a", "b"]
    cast.remember_selected(b, iter([1]))
    assert cast.selected(b) == (1,) and cast.index(b) == 2
    assert cast.remove(c) == 0 and cast.acting is b
    assert cast.remove(b) == 1 and cast.acting is a
    cast.insert(0, b)
    assert cast.acting is a
    cast.replace(a, c, (7,))
    assert cast.acting is c and cast.selected(c) == (7,) and a not in list(cast)
    assert cast.free_prefix("b") == "b_2" and cast.free_prefix("z") == "z"
    for one in (b, c):
        cast.remove(one)
    assert cast.acting is None
    cast.add(b)  # the first who comes acts again
    assert cast.acting is b
    cast.clear()
    assert cast.acting is None and len(cast) == 0 and len(heard) == 11
    assert all(one.timing is cast.timing for one in (a, b, c))


def test_newcomers_stand_beside_the_others(marrow: Rig) -> None:
    cast = Cast()
    assert cast.free_ground(marrow).tolist() == [0.0, 0.0, 0.0]
    path = shipped() / "cast" / "marrow.glb"
    for number in range(3):
        one = Figure(marrow, path, str(number))
        one.stand_at(cast.free_ground(marrow))
        cast.add(one)
    wide = marrow.rest_bounds[1][0] - marrow.rest_bounds[0][0]
    steps = np.diff([a.ground[0] for a in cast.actors])
    assert steps == pytest.approx([wide + 0.12] * 2)
    one = cast.actors[1]
    place = (
        one.standing_in(one.state).at.nodes[:, :3, 3] - marrow.evaluate(one.state).nodes[:, :3, 3]
    )
    assert place == pytest.approx(np.tile(one.ground, (len(place), 1)))
    assert one.ground_matrix[:3, 3] == pytest.approx(one.ground)
    assert one.handles() == pytest.approx(marrow.handle_places(one.at.nodes))


def test_files_that_changed_are_known_and_rigs_are_shared_meanwhile(tmp_path: Path) -> None:
    path = tmp_path / "a.glb"
    path.write_bytes(CREW[0].read_bytes())
    found = gather([(path, None), (path, None), (tmp_path / "none.glb", None)], Progress())
    assert [a.path for a in found] == [path, path, tmp_path / "none.glb"]
    one, two, none = found
    assert one.actor is not None and two.actor is not None and one.actor.rig is two.actor.rig
    assert none.actor is None and isinstance(none.error, FoxHandError)
    cast = Cast()
    cast.add(one.actor)
    assert cast.changed_on_disk() == () and cast.rigs() == {path: one.actor.rig}
    assert gather([(path, None)], Progress(), cast.rigs())[0].actor.rig is one.actor.rig  # type: ignore[union-attr]
    path.write_bytes(CREW[0].read_bytes() + b"\0\0\0\0")
    assert cast.changed_on_disk() == (one.actor,) and cast.rigs() == {}
    cast.seen(one.actor, file_mark(path))
    assert cast.changed_on_disk() == ()
    assert file_mark(tmp_path / "none.glb") == ((0, -1), (0, -1))


def test_flesh_and_landmarks(figure: Figure) -> None:
    rig, row = figure.rig, figure.rig.control_row
    assert figure.flesh_nodes([row["head"]]) == {rig.controls[row["head"]].node}
    goal = next(r for r, c in enumerate(rig.controls) if c.kind is ControlKind.GOAL)
    assert figure.flesh_nodes([goal]) == set(rig.pulled(rig.controls[goal].node))
    both = figure.flesh_nodes([goal, row["head"]])
    assert both == {rig.controls[row["head"]].node}
    assert figure.landmarks == [] and figure.landmark("card") is None
    assert figure.landmark("key") is None and figure.landmark("rest") is None
    assert figure.name == rig.name
    assert Figure(rig, figure.path, "Second").name == f"{rig.name} Second"
    history = History()
    figure.show(turned(figure, 0.3))  # type: ignore[arg-type]
    assert figure.loose
    step = pose_step(figure, rig.rest, "Head", Keyed(1.0, channel_ids=[HEAD]), card=True)
    assert isinstance(step, PoseStep) and step.frame == 1.0 and step.nbytes > 0
    history.push(step)
    assert figure.landmarks == ["card", "key"] and figure.last_key() == 1.0 and not figure.loose
    assert pose_step(figure, figure.state, "Nothing") is None
    step.undo()
    assert figure.landmarks == [] and not figure.keys
    step.redo()
    assert figure.landmarks == ["card", "key"]
    figure.timing.put(0.5)
    assert figure.last_key() is None


def test_what_changes_where_there_are_keys_and_where_not(figure: Figure) -> None:
    rig = figure.rig
    take = Animation(rig, rig.rest)
    after = turned(figure, 0.4)
    free = recorded(take, rig.rest, after, Keyed(5.0))  # type: ignore[arg-type]
    assert not free.keys and np.array_equal(free.base.turn, after.turn)  # type: ignore[attr-defined]
    keyed = recorded(take, rig.rest, after, Keyed(5.0, Ease.LINEAR, [HEAD]))  # type: ignore[arg-type]
    assert np.array_equal(keyed.base.turn, rig.rest.turn) and keyed.moves and not free.moves
    line = keyed.keys.lines[HEAD]
    assert (line.frames.tolist(), line.eases.tolist()) == ([5.0], [int(Ease.LINEAR)])
    again = recorded(keyed, keyed.at(9.0), rig.rest, Keyed(9.0))
    assert again.keys.lines[HEAD].frames.tolist() == [5.0, 9.0]
    loose = recorded(keyed, keyed.at(9.0), rig.rest, Keyed(9.0, auto=False))
    assert loose.keys.lines[HEAD].frames.tolist() == [5.0]
    assert loose.bytes_beside(keyed) < again.bytes_beside(keyed)
    batch = again.many(np.array([5.0, 7.0, 9.0]))
    for number, frame in enumerate((5.0, 7.0, 9.0)):
        assert frame_of(batch, number).same_bits(again.at(frame))


def test_below_a_block_lies_what_shows_through_it_as_it_was_made(figure: Figure) -> None:
    rig = figure.rig
    clip = read_card(shipped() / "library/Marrow/Clips/Walk loop.foxcard")[0].clip
    assert clip is not None
    take = Animation(
        rig, rig.rest, instances=(ClipInstance(clip, Origin("", ""), 1.0, on_top=True),)
    )
    shown = take.at(6.0)
    turn, move = shown.turn.copy(), shown.move.copy()
    scale, settings = shown.scale.copy(), shown.settings.copy()
    turn[rig.control_row["arm_L"]] = from_vector(np.array([0.3, 0.2, 0.1]))
    move[rig.control_row["hips"]] += (0.02, 0.05, -0.01)
    scale[rig.control_row["head"]] = 1.5
    settings[rig.setting_row["jaw_open"]] = 0.6
    after = shown.with_(turn=turn, move=move, scale=scale, settings=settings)
    below = below_blocks(take, after, 6.0)
    seen = replace(take, base=below).at(6.0)
    assert angle_between(seen.turn, after.turn).max() < 1e-6
    assert np.allclose(seen.move, after.move, atol=1e-9)
    assert np.allclose(seen.scale, after.scale) and np.allclose(seen.settings, after.settings)


def test_frames_gone_through_are_worked_out_together_and_are_the_same(figure: Figure) -> None:
    rig = figure.rig
    clip = read_card(shipped() / "library/Marrow/Clips/Nod.foxcard")[0].clip
    assert clip is not None
    take = Animation(rig, rig.rest, clip.keys)
    cache, ground = SampleCache(), np.array([1.0, 0.0, 2.0])
    state, at = cache.get(take, ground, 3.0)
    assert at is None and state.same_bits(take.at(3.0))
    for frame in (4.0, 5.0, 4.0, 3.0 + TOGETHER, 40.0, 38.0):
        state, at = cache.get(take, ground, frame)
        assert np.allclose(state.turn, take.at(frame).turn, atol=1e-12)
        if at is not None:
            own = rig.evaluate(take.at(frame)).nodes
            assert np.allclose(at.nodes[:, :3, 3], own[:, :3, 3] + ground, atol=1e-9)
    assert cache.get(take, ground, 37.0)[1] is not None
    still = Animation(rig, rig.rest)
    cache.get(still, ground, 1.0)
    assert cache.get(still, ground, 2.0)[1] is None


def test_selections_keep_their_order(figure: Figure) -> None:
    chosen, heard = Selection(), list[int]()
    chosen.changed.connect(lambda: heard.append(1))
    chosen.set([5, 3, 5])
    chosen.set([5, 3])
    assert chosen.rows == (5, 3) and heard == [1] and 3 in chosen and 4 not in chosen
    chosen.add([3, 8])
    assert chosen.rows == (5, 3, 8)
    chosen.toggle([3, 9])
    assert chosen.rows == (5, 3, 8, 9)
    chosen.toggle([3, 9])
    assert chosen.rows == (5, 8) and len(chosen) == 2
    chosen.clear()
    assert len(chosen) == 0 and len(heard) == 5


def test_edits_are_previewed_kept_or_taken_back(figure: Figure) -> None:
    history = History()
    edit = Edit(figure, history, "Head")
    before = figure.state
    edit.preview(turned(figure, 0.3))  # type: ignore[arg-type]
    assert not figure.state.same_bits(before)
    edit.cancel()
    assert figure.state.same_bits(before) and history.undo_label is None
    edit.commit()
    assert history.undo_label is None
    arm = figure.rig.control_row["arm_L"]
    turn = before.turn.copy()
    turn[arm] = from_vector(np.array([0.2, 0.1, 0.3]))
    both = Edit(figure, history, "Arms", symmetric=True)
    both.preview(before.with_(turn=turn))
    other = figure.rig.control_row["arm_R"]
    rest = figure.rig.rest.turn
    far = [float(angle_between(figure.state.turn[r], rest[r])) for r in (arm, other)]
    assert far[0] == pytest.approx(far[1]) and far[0] > 0.2
    both.commit()
    assert history.undo_label == "Arms"


def test_steps_together_go_back_in_reverse() -> None:
    done: list[str] = []

    class Said:
        label, nbytes = "said", 10

        def __init__(self, word: str) -> None:
            self.word = word

        def undo(self) -> None:
            done.append(f"-{self.word}")

        def redo(self) -> None:
            done.append(self.word)

    together = StepsTogether("Both", (Said("a"), Said("b")))
    assert together.frame is None
    history = History(keep=2)
    for word in "xyz":
        history.push(Said(word))
    history.push(together)
    assert history.undo_label == "Both" and history.undo() and history.undo() and not history.undo()
    assert done == ["-b", "-a", "-z"] and history.redo_label == "said"
    assert history.redo() and history.redo() and not history.redo()
    assert done[3:] == ["z", "a", "b"]
    history.drop(together)
    assert history.undo_label == "said" and history.redo_step is None
    history.clear()
    assert history.undo_step is None


def test_what_is_typed_is_one_step_until_something_else_is_said() -> None:
    steps = DraftHistory("")
    assert not steps.can_undo and not steps.can_redo
    assert steps.say("a", "name") and steps.say("ab", "name") and not steps.say("ab", "name")
    assert steps.say("abc", "other") and steps.go(-1) and steps.now == "ab"
    assert steps.can_redo and steps.go(-1) and steps.now == "" and not steps.go(-1)
    assert steps.go(1) and steps.go(1) and not steps.go(1)
    steps.go(-1)
    assert steps.say("x", "other") and not steps.can_redo


def test_two_windows_keep_what_each_changed(tmp_path: Path) -> None:
    path = tmp_path / "settings.json"
    one, two = (SharedFile(path, Settings, changed_fields) for _ in range(2))
    mine, yours = Settings(author="Ines"), Settings(licence="CC0")
    assert one.write(mine) == mine
    whole = two.write(yours)
    assert (whole.author, whole.licence) == ("Ines", "CC0")
    path.write_text("{")
    assert one.write(Settings(author="Mara")).licence == ""


def test_a_card_lies_over_frames_with_its_ends_blended(figure: Figure) -> None:
    laid = Laid(0.8, Sides.CAPTURED, 10, 12, 3)
    weights = [laid.weight(f) for f in (5, 7, 8, 9, 10, 12, 13, 15, 16)]
    assert weights == pytest.approx([0.0, 0.25, 0.5, 0.75, 1.0, 1.0, 0.75, 0.25, 0.0])
    assert Laid(first=3, last=3).weight(2) == 0.0
    path = shipped() / "library/Marrow/Hands/Fist.foxcard"
    card = read_card(path)[0]
    ready = card_on(card, figure, path)
    before = figure.state
    whole = worn(ready, figure, Laid(0.8))
    assert figure.state.same_bits(before)
    batch = type(before)(*(np.repeat(v[None], 14, 0) for v in before.arrays()))
    over = worn_over(ready, figure, batch, laid)
    assert figure.state.same_bits(before)
    assert frame_of(over, 5).same_bits(before)
    assert np.allclose(frame_of(over, 11).turn, whole.turn)
    row = figure.rig.control_row["finger_index_1_L"]
    far = [float(angle_between(over.turn[f, row], before.turn[row])) for f in (7, 8, 9, 11)]
    assert np.array(far) / far[3] == pytest.approx([0.25, 0.5, 0.75, 1.0], abs=1e-6)


def test_a_shot_without_a_window_names_who_is_there(figure: Figure) -> None:
    other = Figure(figure.rig, figure.path, "two")
    shot = OpenShot((figure, other), KeptTime(), ())
    assert shot.actor() is figure and shot.actor("two") is other and len(shot.standing(1.0)) == 2
    with pytest.raises(FoxHandError) as caught:
        shot.actor("three")
    assert caught.value.code == "shot.nobody"
    assert caught.value.todo == f"There is {figure.prefix}, two."
    with pytest.raises(FoxHandError) as caught:
        OpenShot((), KeptTime(), ("a: gone",)).actor()
    assert (caught.value.code, caught.value.todo) == ("shot.no_rigs", "a: gone")
    assert lost_words((), figure) == ()
    assert lost_words(("a", "b"), figure)[0].startswith("Not on Marrow: a, b. ")


def test_views_prefixes_and_who_acts_are_undone(places: Places) -> None:
    workspace = Workspace(places)
    crew, _ = prepare(places)
    one = workspace.open_rig(crew[0])
    two = workspace.welcome(Figure(one.rig, crew[0]))
    assert workspace.history.undo_label == f"Put {two.name} on the stage" and workspace.actor is two
    workspace.rename_member(two, one.prefix)
    assert two.prefix == f"{one.prefix}_2" and workspace.history.undo_label.startswith("Put")  # type: ignore[union-attr]
    workspace.rename_member(two, "second")
    assert (two.prefix, workspace.history.undo_label) == ("second", "Prefix second")
    workspace.keep_view("Close", Camera(yaw=1.0))
    workspace.keep_view("Close", None)
    assert two.views == {} and workspace.history.undo_label == "Forget the view Close"
    workspace.undo()
    assert two.views == {"Close": Camera(yaw=1.0)}
    workspace.undo()
    workspace.undo()
    assert two.views == {} and two.prefix == f"{one.prefix}_2"
    workspace.take_off(one)
    assert workspace.cast.actors == (two,)
    assert workspace.history.undo_label == f"Take {one.name} off the stage"
    workspace.undo()
    assert workspace.cast.actors == (one, two) and workspace.actor is one
    workspace.act(two)
    marks = workspace.shot_settings
    marks.set_marks([3])
    marks.set_marks([3, 5, 7])
    marks.set_marks([3, 5])
    marks.set_range(2, 50)
    marks.set_rate(30.0)
    marks.set_rate(30.0)
    labels = []
    for _ in range(5):
        labels.append(workspace.history.undo_label)
        workspace.undo()
    assert labels == [
        "30 frames a second",
        "Frames 2 to 50",
        "Take the mark off frame 7",
        "Mark 3 frames",
        "Mark frame 3",
    ]
    timing = workspace.timing
    assert (timing.first, timing.last, timing.rate, timing.marks) == (1, 72, 24.0, frozenset())
    marks.set_marks([1, 2])
    marks.set_marks([])
    assert workspace.history.undo_label == "Take all marks away"


def test_cards_at_hand_and_put_on_last(workspace: Workspace) -> None:
    applying, told = workspace.applying, list[str]()
    applying.told.connect(told.append)
    fist, fox = entry(workspace, "Fist"), entry(workspace, "Fox")
    applying.press(2)
    assert told == ["No card lies on 3. Ctrl+3 lays the current card there."]
    applying.take_in_hand(2, fist)
    applying.take_in_hand(0, fox)
    assert [e.name if e else None for e in applying.at_hand] == ["Fox", None, "Fist"]
    assert workspace.history.undo_label == "Key 1: Fox"
    applying.take_in_hand(0, fist)  # it moves
    assert [e.name if e else None for e in applying.at_hand] == ["Fist"]
    applying.take_in_hand(0, None)
    assert applying.at_hand == [] and workspace.history.undo_label == "Clear key 1"
    workspace.undo()
    workspace.undo()
    assert [e.name if e else None for e in applying.at_hand] == ["Fox", None, "Fist"]
    applying.press(2)
    assert workspace.mix is not None and workspace.mix.title == "Fist"
    workspace.keep_mix()
    applying.again()
    assert workspace.mix is not None and workspace.mix.title == "Fist"
    workspace.put_back()
    applying.put_on(fox)
    workspace.keep_mix()
    applying.recent(1)
    assert workspace.mix is not None and workspace.mix.title == "Fist"
    applying.recent(8)
    assert told[-1] == "Fewer than 9 cards have been put on so far."
    applying.add(entry(workspace, "Nod"))
    assert told[-1].startswith("A clip is laid in by itself")
    workspace.capturing.begin()
    applying.put_on(fox)
    assert told[-1].startswith("Finish the capture first")
