"""A capture is begun, saved once, and over when it is written; what fails can be saved again."""

from __future__ import annotations

import numpy as np
import pytest

from fox_hand.base.places import Places
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.view.camera import Camera
from fox_hand.demo.demo_project import prepare
from fox_hand.library.format.container import read_card
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.capture_controller import CaptureState
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.figures.channels import turned_about_own_axis
from tests.held_jobs import HeldJobs


@pytest.fixture
def files() -> HeldJobs:
    return HeldJobs(holds=False)


@pytest.fixture
def workspace(places: Places, files: HeldJobs) -> Workspace:
    """The demo, with changes of card files waiting for the test."""
    made = Workspace(places, None, files)
    crew, folder = prepare(places)
    made.open_rig(crew[0])
    made.open_libraries.open(folder)
    made.selection.set(range(20))
    files.holds = True
    return made


def begun(workspace: Workspace, name: str) -> CaptureDraft:
    draft = workspace.capturing.begin()
    assert draft is not None
    draft.name = name
    return draft


def named(workspace: Workspace, name: str) -> int:
    return sum(e.name == name for e in workspace.open_libraries.entries())


def test_pressing_twice_writes_one_card(workspace: Workspace, files: HeldJobs) -> None:
    capturing, states = workspace.capturing, list[CaptureState]()
    capturing.state_changed.connect(states.append)
    begun(workspace, "Once")
    capturing.save(Camera())
    capturing.save(Camera())
    files.release()
    assert named(workspace, "Once") == 1
    assert states == [CaptureState.EDITING, CaptureState.SAVING, CaptureState.NONE]
    assert capturing.draft is None


def test_the_end_of_a_save_does_not_touch_the_next_draft(
    workspace: Workspace, files: HeldJobs
) -> None:
    capturing = workspace.capturing
    begun(workspace, "First")
    capturing.save(Camera())
    capturing.cancel()
    second = begun(workspace, "Second")
    files.release(0)
    assert named(workspace, "First") == 1  # it was on its way already
    assert (capturing.draft, capturing.state) == (second, CaptureState.EDITING)
    capturing.save(Camera())
    files.release(*range(1, len(files.held)))
    assert (capturing.draft, named(workspace, "Second")) == (None, 1)


def test_a_capture_that_fails_is_still_there_and_can_be_saved_again(
    workspace: Workspace, files: HeldJobs, monkeypatch: pytest.MonkeyPatch
) -> None:
    capturing = workspace.capturing
    draft = begun(workspace, "Later")
    codes: list[str] = []
    workspace.failed.connect(lambda error: codes.append(error.code))
    with monkeypatch.context() as patch:
        # neither the library nor the place where cards wait can be written
        def full(*_: object) -> None:
            raise OSError(28, "No space left on device")

        patch.setattr("fox_hand.library.files.atomic.os.fsync", full)
        capturing.save(Camera())
        files.release()
    assert (capturing.draft, capturing.state) == (draft, CaptureState.FAILED)
    assert codes
    assert named(workspace, "Later") == 0
    count = len(files.held)
    capturing.save(Camera())
    files.release(*range(count, len(files.held)))
    assert (capturing.draft, named(workspace, "Later")) == (None, 1)


def test_the_card_is_of_the_frame_in_sight_when_it_is_saved(
    workspace: Workspace, places: Places, files: HeldJobs
) -> None:
    files.holds = False
    actor, row = workspace.actor, 3
    assert actor is not None
    workspace.shots.save(places.data / "nf_test.foxshot")
    workspace.keying.key(everything=True)
    workspace.cast.go(40)
    workspace.apply("Turn", turned_about_own_axis(actor.rig, actor.state, [row], 0, 0.5))
    workspace.keying.key(everything=True)
    workspace.cast.go(1)
    draft, stood = begun(workspace, "Follows"), list[float]()
    draft.stands.connect(lambda: stood.append(draft.taken_frame))
    workspace.cast.go(40)
    assert stood and stood[-1] == 40
    workspace.capturing.save(Camera())
    (entry,) = [e for e in workspace.open_libraries.entries() if e.name == "Follows"]
    card = read_card(entry.path)[0]
    assert card.source_frame == 40
    held = card.pose.controls[actor.rig.controls[row].name]
    assert held.turn is not None
    assert float(angle_between(np.array(held.turn), actor.state.turn[row])) < 1e-9
    workspace.cast.go(10)
    assert stood[-1] == 40  # a draft that is over follows nothing
