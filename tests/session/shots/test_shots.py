"""Keys from cards, shots in files, what comes back after a crash, and who has a shot open."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import jsonschema
import msgspec
import numpy as np
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.places import Places
from fox_hand.base.work import Progress
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.maths.rotations import angle_between
from fox_hand.demo.demo_project import prepare, shipped
from fox_hand.session.animating.key_groups import ROWS as PARTS
from fox_hand.session.animating.key_groups import channel_ids_in, key_groups_of
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.snapshot import cast_path
from fox_hand.session.figures.snapshot_keys import wake_time
from fox_hand.session.shots.project import Project, read_project, write_project
from fox_hand.session.shots.shot_file import json_schema, read_shot
from fox_hand.session.shots.shot_lock import ShotLock
from fox_hand.session.shots.shots import Opening, open_shot, stage_key
from tests.held_jobs import HeldJobs
from tests.session.arrivals import bring
from tests.session.conftest import entry

FORMATS = Path(__file__).parents[3] / "docs" / "format"


@pytest.fixture
def workspace(workspace: Workspace) -> Workspace:
    """Cards set keys."""
    workspace.mix_commands.set_keyed(True)
    return workspace


def key_card(workspace: Workspace, name: str, frame: float, amount: float = 1.0) -> None:
    workspace.go(frame)
    workspace.applying.put_on(entry(workspace, name))
    mix = workspace.mix
    assert mix is not None
    mix.set_amount(amount)
    workspace.keep_mix()


def key_groups(workspace: Workspace, part: str) -> list[tuple[float, float, str]]:
    """Frame, end and name of the key groups of a row, the second keys of holds left out."""
    keys = workspace.actor.keys
    regions = next(r for title, _, r in PARTS if title == part)
    found = key_groups_of(keys, channel_ids_in(workspace.actor.rig, keys, regions))
    name = {n: o.name for n, o in keys.origins.items()}
    return [(c.frame, c.end, name.get(c.origin, "")) for c in found if not c.tail]


def set_stage(workspace: Workspace, opening: Opening) -> None:
    """What the window does in jobs."""
    workspace.clear_stage()
    workspace.shots.begin(opening)
    if opening.cast.time is not None:
        wake_time(workspace.timing, opening.cast.time)
    bring(workspace, opening.cast.members)
    workspace.history.clear()


def test_cards_at_two_frames_travel_between_and_hold_where_they_are_equal(
    workspace: Workspace,
) -> None:
    key_card(workspace, "Wave", 1)
    key_card(workspace, "Fist", 7)
    key_card(workspace, "Arms up", 13)
    key_card(workspace, "Arms up", 25)
    assert key_groups(workspace, "Body") == [(1, 1, "Wave"), (13, 25, "Arms up")]
    assert (7, 7, "Fist") in key_groups(workspace, "Hands")
    rig, row = workspace.actor.rig, workspace.actor.rig.control_row["arm_R"]
    turns = {}
    for frame in (1, 7, 13, 19, 25, 60):
        workspace.go(frame)
        turns[frame] = workspace.actor.state.turn[row]
    whole = angle_between(turns[1], turns[13])
    assert whole > 0.3
    assert 0.2 < angle_between(turns[1], turns[7]) / whole < 0.8
    for frame in (19, 25, 60):
        assert np.array_equal(turns[frame], turns[13])  # stands still, and after the last key
    for _ in range(4):
        workspace.undo()
    assert not workspace.actor.keys
    assert workspace.actor.state.same_bits(rig.rest)
    assert workspace.timing.frame == 1  # undo goes where the change is seen


def test_what_has_keys_is_keyed_when_it_changes_and_the_rest_changes_everywhere(
    workspace: Workspace,
) -> None:
    rig, arm, leg = workspace.actor.rig, "forearm_L", "shin_L"
    told: list[str] = []
    workspace.left_loose.connect(told.append)
    workspace.selection.set([rig.control_row[arm]])
    workspace.keying.key()
    workspace.go(20)

    def bend(name: str, angle: float) -> None:
        state = workspace.actor.state
        turn = state.turn.copy()
        turn[rig.control_row[name]] = [np.sin(angle / 2), 0, 0, np.cos(angle / 2)]
        workspace.apply(f"Bend {name}", state.with_(turn=turn))

    bend(arm, 0.2)
    bend(leg, 0.3)
    channel_id = ChannelId(ChannelKind.TURN, arm)
    assert workspace.actor.keys.lines[channel_id].frames.tolist() == [1, 20]
    assert ChannelId(ChannelKind.TURN, leg) not in workspace.actor.keys.lines
    workspace.go(1)
    assert angle_between(workspace.actor.state.turn[rig.control_row[leg]], [0, 0, 0, 1]) > 0.29
    assert angle_between(workspace.actor.state.turn[rig.control_row[arm]], [0, 0, 0, 1]) < 1e-9
    workspace.timing.work_with(auto=False)
    bend(arm, 0.15)
    assert workspace.actor.loose
    workspace.go(5)
    assert told == [workspace.actor.name]
    workspace.undo()
    workspace.redo()  # nothing is lost: the change is where it was made
    assert workspace.timing.frame == 1
    assert angle_between(workspace.actor.state.turn[rig.control_row[arm]], [0, 0, 0, 1]) > 0.14
    assert workspace.actor.keys.lines[channel_id].frames.tolist() == [1, 20]


def test_hold_copy_paste_ease_and_delete_are_one_step_each(workspace: Workspace) -> None:
    key_card(workspace, "Fist", 4)
    keying, rig = workspace.keying, workspace.actor.rig
    hands = PARTS[2][2]

    def first() -> object:
        return key_groups_of(
            workspace.actor.keys, channel_ids_in(rig, workspace.actor.keys, hands)
        )[0]

    keying.hold(first(), 12)
    assert key_groups(workspace, "Hands") == [(4, 12, "Fist")]
    keying.hold(first(), 9)
    assert key_groups(workspace, "Hands") == [(4, 9, "Fist")]
    picked = first().picked()
    assert keying.copy(picked) == 2 * len(picked)
    workspace.go(30)
    assert keying.paste()
    assert key_groups(workspace, "Hands") == [(4, 9, "Fist"), (30, 35, "Fist")]
    keying.ease(picked, Ease.STEP)
    assert first().ease is Ease.STEP
    keying.stretch({k: np.array([4.0, 9.0]) for k in picked}, 4.0, 2.0)
    assert key_groups(workspace, "Hands")[0] == (4, 14, "Fist")
    keying.delete({k: np.array([4.0, 14.0]) for k in picked})
    assert key_groups(workspace, "Hands") == [(30, 35, "Fist")]
    for _ in range(6):
        workspace.undo()
    assert key_groups(workspace, "Hands") == [(4, 4, "Fist")]


def project_at(folder: Path) -> Path:
    """A project with two characters of its own and a path for a shot."""
    (folder / "cast").mkdir(parents=True)
    for name in ("marrow", "pim"):
        for suffix in (".glb", ".foxrig.json"):
            shutil.copy(shipped() / "cast" / f"{name}{suffix}", folder / "cast")
    (folder / "shots").mkdir()
    write_project(Project(folder, "Ferry, second run", 25.0, ("library",)))
    return folder / "shots" / "fr_010.foxshot"


def saved(workspace: Workspace, path: Path) -> bytes:
    workspace.shots.save(path)
    return path.read_bytes()


def test_a_shot_comes_back_bit_for_bit_and_its_project_moves_as_one_folder(
    places: Places, tmp_path: Path
) -> None:
    path = project_at(tmp_path / "ferry")
    workspace = Workspace(places)
    _, library = prepare(places)
    workspace.open_libraries.open(library)
    for _ in range(2):
        workspace.open_rig(tmp_path / "ferry" / "cast" / "pim.glb")
    workspace.open_rig(tmp_path / "ferry" / "cast" / "marrow.glb")
    workspace.mix_commands.set_keyed(True)
    key_card(workspace, "Wave", 1)
    key_card(workspace, "Glad", 12, amount=0.8)
    workspace.timing.set_range(1, 240)
    workspace.timing.set_marks([3, 9])
    text = saved(workspace, path).decode()
    assert str(tmp_path) not in text  # nothing but the characters' places, seen from the shot
    assert '"../cast/marrow.glb"' in text
    assert sum(line.lstrip().startswith('{"kind"') for line in text.splitlines()) == len(
        workspace.actor.keys.lines
    )
    jsonschema.validate(msgspec.json.decode(text), msgspec.json.decode(json_schema()))
    assert (FORMATS / "foxshot-1.schema.json").read_bytes() == json_schema()
    assert read_project(tmp_path / "ferry").shots == ("shots/fr_010.foxshot",)
    workspace.shots.end()
    (tmp_path / "ferry").rename(tmp_path / "moved")
    again = Workspace(places)
    opening = open_shot(places, tmp_path / "moved" / "shots" / "fr_010.foxshot")
    assert opening.project is not None
    assert opening.project.name == "Ferry, second run"
    set_stage(again, opening)
    assert [a.prefix for a in again.cast.actors] == ["pim", "pim_2", "marrow"]
    assert again.timing.marks == {3, 9}
    assert not again.shots.edited
    for frame in (1, 5, 12, 40):
        workspace.go(frame)
        again.go(frame)
        for mine, theirs in zip(workspace.cast.actors, again.cast.actors, strict=True):
            assert theirs.state.same_bits(mine.state)
    assert saved(again, opening.path).decode() == text.replace('"frame":12.0', '"frame":40.0')


def test_work_that_was_not_saved_comes_back_and_is_never_in_the_way_of_a_colleague(
    workspace: Workspace, places: Places, tmp_path: Path
) -> None:
    path = tmp_path / "fr_020.foxshot"
    key_card(workspace, "Wave", 1)
    saved(workspace, path)
    assert not workspace.shots.edited
    key_card(workspace, "Glad", 8)
    workspace.save_figure()
    assert workspace.shots.edited
    workspace.shots.end()  # as if killed here: nothing else is written
    opening = open_shot(places, path)
    assert opening.recovered is not None
    again = Workspace(places)
    set_stage(again, opening)
    assert again.shots.edited
    assert {o.name for o in again.actor.keys.origins.values()} == {"Wave", "Glad"}
    again.shots.end()
    other = read_shot(path)
    other.members[0].ground = (1.0, 0.0, 0.0)  # a colleague saves meanwhile
    theirs = Workspace(Places.under(tmp_path / "colleague"))
    set_stage(theirs, Opening(path, other, ""))
    saved(theirs, path)
    opening = open_shot(places, path)
    assert opening.recovered is None
    assert opening.cast.members[0].ground == (1.0, 0.0, 0.0)
    assert opening.aside is not None
    names = {o.name for o in read_shot(opening.aside).members[0].origins}
    assert names == {"Wave", "Glad"}


def test_of_two_people_who_save_one_shot_nobodys_work_is_lost_and_both_are_told(
    workspace: Workspace, tmp_path: Path
) -> None:
    path = tmp_path / "fr_040.foxshot"
    key_card(workspace, "Wave", 1)
    saved(workspace, path)
    other = Workspace(Places.under(tmp_path / "colleague"))
    set_stage(other, open_shot(other.places, path))
    told: dict[str, list[FoxHandError]] = {"mine": [], "theirs": []}
    workspace.shots.failed.connect(told["mine"].append)
    other.shots.failed.connect(told["theirs"].append)
    other.go(20)
    state = other.actor.state
    other.actor.stand(state.with_(move=state.move + 0.5))
    theirs = saved(other, path)
    assert not told["theirs"]
    workspace.shots.look_at_file()
    workspace.shots.look_at_file()
    assert [e.code for e in told["mine"]] == ["shot.changed"]
    key_card(workspace, "Glad", 8)
    saved(workspace, path)
    assert told["mine"][-1].code == "shot.theirs_kept"
    aside = [p for p in tmp_path.glob("*.foxshot") if p != path]
    assert len(aside) == 1
    assert aside[0].read_bytes() == theirs
    assert aside[0].name in told["mine"][-1].sentence()
    names = {o.name for o in read_shot(path).members[0].origins}
    assert names == {"Wave", "Glad"}
    saved(workspace, path)  # nothing new was written by anybody: nothing more is put aside
    assert len(list(tmp_path.glob("*.foxshot"))) == 2
    other.shots.look_at_file()
    assert [e.code for e in told["theirs"]] == ["shot.changed"]
    # a pull that brings a damaged file, or one of a newer version
    path.write_bytes(b"<<<<<<< ours")
    saved(workspace, path)
    assert len(list(tmp_path.glob("*.foxshot"))) == 3
    newer = b'{"format": "fox-hand shot", "version": 99}'
    path.write_bytes(newer)
    saved(workspace, path)
    assert path.read_bytes() == newer
    assert told["mine"][-1].code == "version.newer"


def test_saving_twice_in_a_hurry_takes_nobodys_work_for_somebody_elses(
    workspace: Workspace, tmp_path: Path
) -> None:
    path = tmp_path / "fr_060.foxshot"
    key_card(workspace, "Wave", 1)
    saved(workspace, path)
    held: list[tuple[Any, Any]] = []
    files = workspace.shots._files
    workspace.shots._files = SimpleNamespace(run=lambda work, done, _: held.append((work, done)))
    for name, frame in (("Glad", 8), ("Fist", 12)):
        key_card(workspace, name, frame)
        workspace.shots.save()
    workspace.shots._files = files
    answers = [(done, work(Progress())) for work, done in held]
    for done, answer in answers:  # the window hears of both only now
        done(answer)
    assert list(tmp_path.glob("*.foxshot")) == [path]
    assert len(read_shot(path).members[0].origins) == 3


@pytest.mark.parametrize(
    ("data", "word"), [(b'{"version": 99}', "newer Fox Hand"), (b"\x00\xff", "cannot be read")]
)
def test_work_that_cannot_be_read_is_put_aside_and_told(
    workspace: Workspace, tmp_path: Path, data: bytes, word: str
) -> None:
    path = tmp_path / "fr_050.foxshot"
    key_card(workspace, "Wave", 1)
    saved(workspace, path)
    kept = cast_path(workspace.places, stage_key(path))
    for count in (1, 2):
        kept.write_bytes(data)
        opening = open_shot(workspace.places, path)
        assert opening.problem is not None
        assert word in opening.problem.sentence()
        aside = sorted(kept.parent.glob(f"{kept.stem}.unreadable-*"))
        assert len(aside) == count
        assert aside[-1].name in opening.problem.sentence()
        assert aside[-1].read_bytes() == data


def test_links_are_written_through_and_a_planted_one_leads_nowhere(
    workspace: Workspace, tmp_path: Path
) -> None:
    real, linked = tmp_path / "store" / "fr.foxshot", tmp_path / "fr.foxshot"
    real.parent.mkdir()
    key_card(workspace, "Wave", 1)
    saved(workspace, real)
    workspace.shots.leave()
    linked.symlink_to(real)
    victim = tmp_path / "victim.txt"
    victim.write_text("mine")
    linked.with_name(f".{linked.name}.open").symlink_to(victim)
    set_stage(workspace, open_shot(workspace.places, linked))
    key_card(workspace, "Glad", 8)
    saved(workspace, linked)
    assert linked.is_symlink()
    assert {o.name for o in read_shot(real).members[0].origins} == {"Wave", "Glad"}
    assert victim.read_text() == "mine"


def test_the_second_person_is_warned_and_the_dead_are_not_counted(tmp_path: Path) -> None:
    path = tmp_path / "fr_030.foxshot"
    path.write_text("{}")
    mine, theirs = ShotLock(path, "Ines"), ShotLock(path, "Tomo")
    assert mine.take() is None
    holder = theirs.take()
    assert holder is not None
    assert holder.who == "Ines"
    theirs.release()
    assert mine.file.exists()  # whoever only looked does not let it go
    mine.release()
    assert not mine.file.exists()
    assert theirs.take() is None
    gone = theirs.holder()
    assert gone is None
    dead = os.fork()
    if dead == 0:
        os._exit(0)
    os.waitpid(dead, 0)
    raw = msgspec.json.decode(theirs.file.read_bytes())
    theirs.file.write_bytes(msgspec.json.encode({**raw, "process": dead, "token": "x"}))
    assert mine.take() is None


@pytest.mark.parametrize(
    ("data", "word"),
    [
        (b"", "damaged"),
        (b"[1, 2]", "not a shot"),
        (b'{"format": "fox-hand shot", "version": 99}', "newer Fox Hand"),
        (b'{"format": "fox-hand shot", "version": 1, "time": {}, "members": 3}', "damaged"),
        (b'{"format": "fox-hand shot", "ver', "damaged"),
    ],
)
def test_a_file_that_is_no_shot_is_told_and_left(tmp_path: Path, data: bytes, word: str) -> None:
    path = tmp_path / "fr.foxshot"
    path.write_bytes(data)
    with pytest.raises(FoxHandError, match=word):
        read_shot(path)
    assert path.read_bytes() == data


def test_kills_lose_nothing_that_was_written_down(tmp_path: Path) -> None:
    """The window writes down within a second of every change, so at most a second can be lost."""
    script = Path(__file__).parents[1] / "shot_killer.py"
    command = [sys.executable, str(script), str(tmp_path), "40", "7"]
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(p for p in sys.path if p)}
    done = subprocess.run(command, capture_output=True, text=True, check=False, env=environment)
    assert done.returncode == 0, done.stderr[-2000:]
    words = done.stdout.split()
    found = dict(zip(words[::2], map(int, words[1::2]), strict=True))
    assert found["kills"] == 40
    assert found["lost"] == 0
    assert found["unreadable"] == 0
    assert found["recovered"] > 0  # how many depends on how fast the machine is
    assert found["steps"] > 0


def test_a_shot_that_is_being_looked_at_is_not_looked_at_twice(
    workspace: Workspace, tmp_path: Path
) -> None:
    path = tmp_path / "one.foxshot"
    workspace.shots.save(path)
    held = HeldJobs()
    workspace.shots._files = held
    workspace.shots.look_at_file()
    workspace.shots.look_at_file()
    assert len(held.held) == 1
    held.release(0)
    workspace.shots.look_at_file()
    assert len(held.held) == 2
