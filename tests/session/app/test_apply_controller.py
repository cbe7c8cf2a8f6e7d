"""Putting cards on: of several that are asked for the last one counts, whichever comes first."""

from __future__ import annotations

import pytest

from fox_hand.base.places import Places
from fox_hand.demo.demo_project import prepare
from fox_hand.session.app.workspace import Workspace
from tests.held_jobs import HeldJobs
from tests.session.conftest import entry


@pytest.fixture
def jobs() -> HeldJobs:
    return HeldJobs(holds=False)


@pytest.fixture
def workspace(places: Places, jobs: HeldJobs) -> Workspace:
    """Marrow and Pim on the stage, the demo's library open; from now on jobs wait for the test."""
    made = Workspace(places, jobs)
    crew, folder = prepare(places)
    for path in crew:
        made.open_rig(path)
    made.act(made.cast.actors[0])
    made.open_libraries.open(folder)
    jobs.holds = True
    return made


def on(workspace: Workspace) -> str | None:
    return workspace.mix.card.name if workspace.mix is not None else None


@pytest.mark.parametrize("order", [(0, 1, 2), (2, 1, 0), (1, 2, 0)])
def test_of_cards_asked_for_quickly_only_the_last_goes_on(
    workspace: Workspace, jobs: HeldJobs, order: tuple[int, ...]
) -> None:
    for name in ("Wave", "Glad", "Fist"):
        workspace.applying.put_on(entry(workspace, name))
    changes: list[str | None] = []
    workspace.mix_changed.connect(lambda: changes.append(on(workspace)))
    jobs.release(*order)
    assert changes == ["Fist"]
    assert workspace.open_libraries.personal.recent[0] == entry(workspace, "Fist").identity


def test_a_card_that_is_on_goes_to_100_and_one_still_being_read_stays_away(
    workspace: Workspace, jobs: HeldJobs
) -> None:
    workspace.applying.put_on(entry(workspace, "Wave"))
    jobs.release(0)
    workspace.mix.set_amount(0.3)
    workspace.applying.put_on(entry(workspace, "Glad"))
    workspace.applying.put_on(entry(workspace, "Wave"))
    assert (on(workspace), workspace.mix.amount) == ("Wave", 1.0)
    jobs.release(1)
    assert on(workspace) == "Wave"


def test_what_was_asked_for_before_the_scene_changed_does_not_go_on(
    workspace: Workspace, jobs: HeldJobs
) -> None:
    told: list[str] = []
    workspace.applying.told.connect(told.append)
    marrow, pim = workspace.cast.actors[:2]
    workspace.applying.put_on(entry(workspace, "Wave"))
    workspace.act(pim)
    jobs.release(0)
    assert workspace.mix is None
    workspace.applying.put_on(entry(workspace, "Wave"))
    workspace.capturing.begin()
    jobs.release(1)
    assert workspace.mix is None
    workspace.applying.add(entry(workspace, "Glad"))
    assert "Finish the capture first" in told[-1]
    assert len(jobs.held) == 2  # it was not even read
    workspace.capturing.cancel()
    workspace.applying.put_on(entry(workspace, "Wave"))
    assert workspace.applying.give_up()
    assert not workspace.applying.give_up()
    jobs.release(2)
    assert workspace.mix is None
    workspace.clear_stage()
    workspace.applying.put_on(entry(workspace, "Wave"))
    assert "no figure on the stage" in told[-1]
    assert not marrow.differs().any()


def test_a_fault_of_a_card_that_counts_no_more_is_not_told(
    workspace: Workspace, jobs: HeldJobs
) -> None:
    errors: list[str] = []
    workspace.failed.connect(lambda error: errors.append(error.code))
    broken = entry(workspace, "Flat")
    broken.path.write_bytes(b"")
    workspace.applying.put_on(broken)
    workspace.applying.put_on(entry(workspace, "Wave"))
    jobs.release(1, 0)
    assert (on(workspace), errors) == ("Wave", [])
    workspace.applying.put_on(broken)
    jobs.release(2)
    assert (on(workspace), errors) == ("Wave", ["card.empty"])


def test_what_is_on_follows_to_another_once_it_is_read_for_that_one(
    workspace: Workspace, jobs: HeldJobs
) -> None:
    pim = workspace.cast.actors[1]
    workspace.applying.put_on(entry(workspace, "Wave"))
    jobs.release(0)
    workspace.mix.set_amount(0.4)
    workspace.mix_for(pim)
    assert (workspace.actor, workspace.mix) == (pim, None)
    jobs.release(1)
    assert (on(workspace), workspace.mix.actor, workspace.mix.amount) == ("Wave", pim, 0.4)
    workspace.put_back()
    assert not pim.differs().any()


def test_a_look_ends_with_the_pointer_even_while_its_card_is_read(
    workspace: Workspace, jobs: HeldJobs
) -> None:
    applying = workspace.applying
    applying.look_at(entry(workspace, "Wave"))
    applying.look_away()
    applying.look_at(entry(workspace, "Glad"))
    jobs.release(1, 0)
    assert workspace.mix_commands.peek is not None
    assert workspace.mix_commands.peek.card.name == "Glad"
    applying.put_on(entry(workspace, "Wave"))
    assert workspace.mix_commands.peek is None
