"""Who is read for the stage: copies share their rig, and what does not fit in memory is said."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from fox_hand.base.work import Progress
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format import lines_file
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures import gathering
from fox_hand.session.figures.gathering import gather
from tests.core.pose.test_blend import random_state

PIM = "pim.glb"


def filed(tmp_path: Path) -> Path:
    for suffix in (".glb", ".foxrig.json"):
        shutil.copy(shipped() / "cast" / f"pim{suffix}", tmp_path)
    return tmp_path / PIM


def test_copies_share_their_rig_until_the_file_changes(
    workspace: Workspace, tmp_path: Path
) -> None:
    path = filed(tmp_path)
    first = gather([(path, None), (path, None)], Progress())
    assert first[0].actor.rig is first[1].actor.rig
    workspace.place(first[0].actor)
    again = gather([(path, None)], Progress(), workspace.cast.rigs())
    assert again[0].actor.rig is first[0].actor.rig
    assert again[0].actor is not first[0].actor
    sidecar = path.with_name("pim.foxrig.json")
    sidecar.write_text(sidecar.read_text().replace("Pim", "Pam", 1) + " ")
    anew = gather([(path, None)], Progress(), workspace.cast.rigs())
    assert anew[0].actor.rig is not first[0].actor.rig


def test_who_was_read_stands_as_kept_and_is_not_written_down_anew(
    workspace: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    """All of that was done where it was read, so that the window need not."""
    workspace.selection.set(range(9))
    for frame in (3.0, 8.0):
        workspace.go(frame)
        edit = workspace.edit("Nod")
        edit.preview(random_state(workspace.actor.rig, round(frame)))
        edit.commit()
        workspace.keying.key()
    before = workspace.shots.document().members
    assert before[0].keys
    arrivals = gather([(Path(m.path), m) for m in before], Progress())
    workspace.clear_stage()

    def again(*_: object) -> None:
        pytest.fail("lines are written down a second time")

    monkeypatch.setattr(lines_file, "_kept", again)
    for arrival in arrivals:
        workspace.arrive(arrival)
    workspace.go(8.0)
    assert workspace.shots.document().members == before
    assert workspace.selection.rows == tuple(range(9))


def test_what_does_not_fit_in_memory_is_said_and_the_others_come(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path, read = filed(tmp_path), gathering.read_rig
    huge = tmp_path / "huge.glb"

    def reading(asked: Path) -> Rig:
        if asked == huge:
            raise MemoryError
        return read(asked)

    monkeypatch.setattr(gathering, "read_rig", reading)
    found = gather([(huge, None), (path, None)], Progress())
    assert found[0].actor is None
    assert "huge.glb does not fit" in found[0].error.sentence()
    assert found[1].actor is not None
