"""What of a shot is saved, what is not, who is told, and where unsaved work lies."""

from __future__ import annotations

from pathlib import Path

import msgspec
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.core.animation.curves import ChannelId, ChannelKind, Origin
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.model.controls import Channel, Side
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.rig.locks_limits import Lock
from fox_hand.core.view.camera import Camera
from fox_hand.demo.demo_project import prepare
from fox_hand.library.format.container import read_card
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.snapshot import (
    KeptBoard,
    KeptCast,
    cast_path,
    kept_member,
    read_cast,
    wake,
    write_cast,
)
from fox_hand.session.figures.snapshot_keys import blocks_from, kept_time, wake_time
from fox_hand.session.shots.project import (
    Project,
    project_of,
    read_project,
    write_project,
)
from fox_hand.session.shots.seats import Seats
from fox_hand.session.shots.shot_file import content_id, read_shot, shot_bytes, write_shot
from fox_hand.session.shots.shot_meeting import by, content_of, mark_of, set_aside, told_changed
from fox_hand.session.shots.shots import DESK, forget_unsaved, open_shot, shot_of_now, stage_key
from tests.held_jobs import HeldJobs
from tests.session.conftest import entry

HEAD = ChannelId(ChannelKind.TURN, "head")


def actor_of(workspace: Workspace) -> Figure:
    assert workspace.actor is not None
    return workspace.actor


def keyed(workspace: Workspace, frame: float = 5.0) -> None:
    workspace.go(frame)
    workspace.selection.set([actor_of(workspace).rig.control_row["head"]])
    workspace.keying.key()


def test_everything_about_a_member_and_its_keys_comes_back(
    workspace: Workspace, places: Places
) -> None:
    actor = actor_of(workspace)
    rig = actor.rig
    keyed(workspace)
    workspace.go(9.0)
    workspace.mix_commands.set_keyed(True)
    workspace.applying.put_on(entry(workspace, "Wave"))
    assert workspace.mix is not None
    workspace.mix.set_amount(0.4)
    workspace.keep_mix()
    workspace.applying.lay_in(entry(workspace, "Nod"))
    placement = workspace.placements.now
    assert placement is not None
    placement.change(
        speed=2.0,
        repeats=1.5,
        gap=2.0,
        lead=3.0,
        lead_side=Side.RIGHT,
        fade_in=1.0,
        fade_out=2.0,
        strength=0.7,
        on_top=True,
        jitter=1.0,
        doubles=0.25,
        seed=4,
        backwards=True,
    )
    workspace.keep_mix()
    workspace.selection.set([rig.control_row["jaw"], rig.control_row["head"]])
    actor.set_locks(actor.locks | {Lock("head", Channel.TURN, 1)})
    actor.sets = {"Mine": ("head", "jaw")}
    camera = Camera()
    actor.views = {"Close": camera}
    actor.stand_at(actor.ground + [1.0, 0.0, -2.0])
    kept = kept_member(actor, workspace.selection.rows)
    other = Figure(rig, actor.path)
    again = msgspec.json.decode(msgspec.json.encode(kept), type=type(kept))
    assert wake(other, again) == workspace.selection.rows
    assert (other.ground == actor.ground).all() and other.locks == actor.locks
    assert other.sets == actor.sets and other.views == {"Close": camera}
    for frame in (1.0, 5.0, 9.0, 12.5, 40.0):
        assert other.take.at(frame).same_bits(actor.take.at(frame))
    (mine,), (theirs,) = actor.take.instances, other.take.instances
    for name in ("speed", "repeats", "gap", "lead", "lead_side", "fade_in", "fade_out", "strength"):
        assert getattr(mine, name) == getattr(theirs, name)
    for name in ("on_top", "jitter", "doubles", "seed", "backwards", "start", "origin"):
        assert getattr(mine, name) == getattr(theirs, name)
    assert other.keys.origins == actor.keys.origins
    # numbers nobody can mean are brought within reach, a clip that is not there is left out
    (block,) = again.blocks
    odd = msgspec.structs.replace(
        block, speed=99.0, repeats=0.0, gap=-3.0, fade_in=-1.0, fade_out=-1.0, jitter=-2.0
    )
    (mended,) = blocks_from(again.clips, [odd, msgspec.structs.replace(block, clip=7)])
    assert (mended.speed, mended.repeats, mended.gap, mended.jitter) == (20.0, 0.01, 0.0, 0.0)
    assert (mended.fade_in, mended.fade_out) == (0.0, 0.0)
    slow = blocks_from(again.clips, [msgspec.structs.replace(block, speed=0.01)])
    assert slow[0].speed == 0.05
    assert blocks_from(again.clips, [msgspec.structs.replace(block, clip=-1)]) == ()


def test_an_origin_is_kept_with_all_it_says(workspace: Workspace) -> None:
    actor = actor_of(workspace)
    keyed(workspace)
    base = Pose({"head": Held(turn=(0.0, 0.0, 0.0, 1.0))})
    origin = Origin(
        "id",
        "Wave",
        3,
        0.4,
        "other",
        False,
        "values",
        "on top",
        ("arms",),
        ("head",),
        (("arms", 0.2),),
        base,
    )
    keys, _ = actor.keys.with_origin(origin)
    actor.perform(actor.take.with_keys(keys))
    other = Figure(actor.rig, actor.path)
    wake(other, kept_member(actor, ()))
    assert list(other.keys.origins.values()) == [origin]


def test_times_and_marks_come_back(workspace: Workspace) -> None:
    timing = workspace.timing
    timing.set_range(3, 90)
    timing.set_rate(30.0)
    timing.put(12.0)
    timing.set_marks([5, 4])
    timing.work_with(ease=Ease.STEP)
    kept = kept_time(timing)
    assert (kept.first, kept.last, kept.rate, kept.frame, kept.marks) == (3, 90, 30.0, 12.0, [4, 5])
    moved: list[int] = []
    timing.set_range(1, 10)
    timing.set_rate(24.0)
    timing.put(2.0)
    timing.set_marks([])
    timing.work_with(ease=Ease.SMOOTH)
    timing.moved.connect(lambda: moved.append(1))
    wake_time(timing, kept)
    assert kept_time(timing) == kept and timing.ease is Ease.STEP and moved
    assert timing.length == 88
    wake_time(timing, msgspec.structs.replace(kept, ease="?"))
    assert timing.ease is Ease.SMOOTH


def test_only_work_makes_two_shots_differ(workspace: Workspace) -> None:
    shots = workspace.shots
    keyed(workspace)
    known = content_id(shots.document())
    workspace.go(20.0)
    workspace.selection.set([])
    workspace.timing.work_with(ease=Ease.STEP)
    assert content_id(shots.document()) == known
    for change in (
        lambda: workspace.timing.set_range(1, 99),
        lambda: shots.hold(["", "id"]),
        lambda: shots.boards.append(KeptBoard("a.png")),
        lambda: workspace.keying.delete({HEAD: actor_of(workspace).keys.frames()}),
    ):
        change()
        now = content_id(shots.document())
        assert now != known
        known = now
    shots.hold(["a", "", ""])
    assert shots.at_hand == ["a"]


def test_paths_in_a_project_are_relative_and_a_line_is_a_channel(
    workspace: Workspace, tmp_path: Path
) -> None:
    keyed(workspace)
    root = tmp_path / "show"
    path = root / "shots" / "a.foxshot"
    document = workspace.shots.document()
    inside = root / "cast" / "x.glb"
    members = [msgspec.structs.replace(document.members[0], path=str(inside))]
    boards = [KeptBoard(str(root / "refs" / "hand.png"), 3, 4, 500, 0.5)]
    moved = msgspec.structs.replace(document, members=members, boards=boards, at_hand=["id"])
    text = shot_bytes(moved, path, root).decode()
    assert '"path":"../refs/hand.png"' in text and '"path": "../cast/x.glb"' in text
    lines = [x for x in text.splitlines() if '"head"' in x]
    keys = document.members[0].keys
    assert len([x for x in text.splitlines() if x.startswith("    {")]) == len(keys) and lines
    path.parent.mkdir(parents=True)
    write_shot(path, moved, root)
    again = read_shot(path)
    assert again.members[0].path == str(inside) and again.boards == boards
    assert again.at_hand == ["id"] and content_id(again) == content_id(moved)
    outside = shot_bytes(document, path, root).decode()
    assert document.members[0].path in outside
    path.write_text("{")
    with pytest.raises(FoxHandError) as caught:
        read_shot(path)
    assert caught.value.code == "shot.damaged" and "damaged" in caught.value.happened
    path.write_text('{"format": "something"}')
    with pytest.raises(FoxHandError) as caught:
        read_shot(path)
    assert caught.value.happened == "a.foxshot is not a shot."
    with pytest.raises(FoxHandError) as caught:
        read_shot(path.with_name("none.foxshot"))
    assert caught.value.code == "shot.unreadable"


def test_edited_is_said_when_work_is_written_down_and_taken_back(
    workspace: Workspace, tmp_path: Path
) -> None:
    shots, path = workspace.shots, tmp_path / "a.foxshot"
    said: list[bool] = []
    shots.changed.connect(lambda: said.append(shots.edited))
    shots.save(path)
    assert (shots.name, shots.path, shots.edited) == ("a", path, False)
    keyed(workspace)
    shots.write_down()
    shots.write_down()
    assert shots.edited and said.count(True) == 1
    workspace.undo()
    shots.write_down()
    assert not shots.edited
    keyed(workspace)
    shots.write_down()
    then: list[Path] = []
    shots.save(then=then.append)
    assert then == [path] and not shots.edited
    assert len(read_shot(path).members[0].keys) == len(actor_of(workspace).keys.lines)
    shots.leave()
    assert (shots.name, shots.path, shots.key) == ("", None, DESK)
    shots.save(then=then.append)  # there is no file
    assert then == [path]


def test_a_late_answer_about_the_shot_before_says_nothing_of_this_one(
    places: Places, tmp_path: Path
) -> None:
    jobs = HeldJobs(holds=False)
    workspace = Workspace(places, files=jobs)
    crew, _ = prepare(places)
    workspace.open_rig(crew[0])
    shots = workspace.shots
    shots.save(tmp_path / "a.foxshot")
    jobs.holds = True
    keyed(workspace)
    shots.write_down()
    shots.save()
    shots.leave()
    edited: list[bool] = []
    shots.changed.connect(lambda: edited.append(shots.edited))
    jobs.release()
    assert not shots.edited and edited == [] and shots.path is None
    told: list[FoxHandError] = []
    # while it is on its way, it can be found already
    jobs.held.clear()
    keyed(workspace, 8.0)
    shots.write_down()
    found = shots.kept_at(shots.key, told.append)
    assert found is not None and content_id(found) == content_id(shots.document())
    shots.sleeping = True
    shots.write_down()
    assert len(jobs.held) <= 2


def test_work_that_was_not_saved_is_found_or_put_aside(
    workspace: Workspace, places: Places, tmp_path: Path
) -> None:
    path = tmp_path / "a.foxshot"
    workspace.shots.save(path)
    plain = open_shot(places, path)
    assert plain.recovered is None and plain.aside is None and plain.problem is None
    assert plain.mark == mark_of(path) and plain.project is None
    assert plain.saved == content_of(path)
    keyed(workspace)
    workspace.shots.write_down()
    key = stage_key(path)
    assert (
        workspace.shots.key == key and key == stage_key(path.relative_to(tmp_path).absolute())
    ) or key
    found = open_shot(places, path)
    assert found.recovered is not None and found.aside is None
    assert len(found.cast.members[0].keys) == len(actor_of(workspace).keys.lines)
    changed = read_shot(path)
    write_shot(path, msgspec.structs.replace(changed, at_hand=["other"]))
    aside = open_shot(places, path)
    assert aside.aside is not None and aside.recovered is None
    assert aside.cast.at_hand == ["other"] and aside.aside.is_file()
    assert content_of(aside.aside) == content_id(found.cast)
    cast_path(places, key).write_text("{")
    broken = open_shot(places, path)
    assert broken.problem is not None and broken.problem.code == "cast.unreadable"
    assert not cast_path(places, key).exists()
    write_cast(places, key, found.cast)
    forget_unsaved(places, key, "a")
    assert read_cast(places, key) is None
    assert cast_path(places, key).with_suffix(".dropped.json").is_file()
    forget_unsaved(places, key, "a")  # there is nothing


def test_theirs_is_kept_beside_ours(workspace: Workspace, tmp_path: Path) -> None:
    path = tmp_path / "a.foxshot"
    shots = workspace.shots
    told: list[FoxHandError] = []
    shots.failed.connect(told.append)
    shots.save(path)
    own = content_of(path)
    assert own is not None
    assert set_aside(path, (own,)) is None and set_aside(tmp_path / "none.foxshot", ()) is None
    shots.look_at_file()
    assert told == []
    theirs = msgspec.structs.replace(read_shot(path), at_hand=["theirs"])
    write_shot(path, theirs)
    shots.look_at_file()
    shots.look_at_file()
    assert [e.code for e in told] == ["shot.changed"]
    assert told[0].happened == "a was saved elsewhere while you have it open."
    keyed(workspace)
    shots.save()
    assert told[-1].code == "shot.theirs_kept"
    (beside,) = list(tmp_path.glob("a (theirs*.foxshot"))
    assert read_shot(beside).at_hand == ["theirs"] and beside.name in told[-1].kept
    assert read_shot(path).members[0].keys
    write_shot(path, theirs)
    again = set_aside(path, ())
    assert again is not None and again != beside and again.stem.startswith(path.stem)
    assert (by(""), by("Ines"), by("another window of yours")) == (
        "elsewhere",
        "by Ines",
        "in another window of yours",
    )
    assert "by Ines" in told_changed(path, "Ines").happened
    path.write_text("no shot")
    assert content_of(path) is None


def test_windows_on_one_stage_sit_side_by_side(places: Places) -> None:
    first, second, third = Seats(places), Seats(places), Seats(places)
    assert first.take("a") == "a" and first.take("a") == "a" and first.free("a") == "a"
    assert second.free("a") == "a~2" and second.take("a") == "a~2"
    assert third.take("a") == "a~3"
    second.leave()
    folder = places.state / "casts"
    (folder / "a~2.json").write_text("{}")
    (folder / "a~3.json").write_text("{}")
    (folder / "a.json").write_text("{}")
    assert first.forsaken("a") == 1  # the third sits at its own
    third.leave()
    assert first.forsaken("a") == 2 and third.forsaken("a") == 2
    assert first.take("b") == "b"
    assert second.take("a") == "a" and second.forsaken("a") == 2
    assert first.forsaken("b") == 0


def test_a_project_says_where_things_are(tmp_path: Path) -> None:
    folder = tmp_path / "show"
    project = Project(
        folder, "Show", 25.0, ("lib", "../other"), ("cast/a.glb",), ("shots/b.foxshot",)
    )
    write_project(project)
    assert read_project(folder) == project
    shot = folder / "shots" / "a.foxshot"
    shot.parent.mkdir()
    shot.write_text("")
    assert project.shot_paths() == [folder / "shots" / "b.foxshot", shot]
    assert project.path("../other") == tmp_path / "other"
    assert project.relative(shot) == "shots/a.foxshot"
    assert project.relative(tmp_path / "x") == str(tmp_path / "x")
    more = project.with_shot(shot)
    assert more.shots == ("shots/b.foxshot", "shots/a.foxshot") and more.with_shot(shot) is more
    assert project_of(shot) == project and project_of(tmp_path / "x.foxshot") is None
    file = folder / "project.toml"
    for text, code in (
        ("version = 2\n", "version.newer"),
        ("version = true\n", "project.damaged"),
        ("version = 0\n", "project.damaged"),
        ("name =", "project.damaged"),
    ):
        file.write_text(text)
        with pytest.raises(FoxHandError) as caught:
            read_project(folder)
        assert caught.value.code == code and project_of(shot) is None
    for rate in ("true", "0", "241", '"x"'):
        file.write_text(f"version = 1\nrate = {rate}\nrigs = 3\nshots = [1, 'a']\n")
        odd = read_project(folder)
        assert (odd.rate, odd.name, odd.rigs, odd.shots) == (24.0, "show", (), ("a",))
    file.write_text("version = 1\nrate = 240\n")
    assert read_project(folder).rate == 240.0
    file.unlink()
    with pytest.raises(FoxHandError) as caught:
        read_project(folder)
    assert caught.value.code == "project.missing"


def test_a_shot_of_now_has_the_poses_and_no_keys(workspace: Workspace) -> None:
    keyed(workspace)
    pose = read_card(entry(workspace, "Crouch").path)[0].pose
    workspace.applying.put_on(entry(workspace, "Crouch"))
    workspace.keep_mix()
    workspace.shots.hold(["id"])
    document = workspace.shots.document()
    now = shot_of_now(document, workspace.cast, 30.0)
    assert now.time is not None and now.time.rate == 30.0 and now.at_hand == ["id"]
    other = Figure(actor_of(workspace).rig, actor_of(workspace).path)
    wake(other, now.members[0])
    assert not other.keys and other.state.same_bits(actor_of(workspace).state)
    assert pose.controls
    absent = replace_prefix(document)
    assert shot_of_now(absent, workspace.cast, 24.0).members == absent.members


def replace_prefix(document: KeptCast) -> KeptCast:
    """Members nobody on the stage answers to."""
    members = [msgspec.structs.replace(m, prefix="away") for m in document.members]
    return msgspec.structs.replace(document, members=members)
