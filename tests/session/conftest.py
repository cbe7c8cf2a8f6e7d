"""A workspace with the demo on it."""

from __future__ import annotations

import pytest

from fox_hand.base.places import Places
from fox_hand.demo.demo_project import prepare
from fox_hand.library.format.entry import Entry
from fox_hand.session.app.workspace import Workspace


@pytest.fixture
def workspace(places: Places) -> Workspace:
    """Marrow on the stage, the demo's library open."""
    made = Workspace(places)
    crew, folder = prepare(places)
    made.open_rig(crew[0])
    made.open_libraries.open(folder)
    return made


def entry(workspace: Workspace, name: str) -> Entry:
    """The card of a name."""
    return next(e for e in workspace.open_libraries.entries() if e.name == name)
