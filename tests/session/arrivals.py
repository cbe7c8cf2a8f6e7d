"""Everybody of a stage that was written down comes back, as the window does it in jobs."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from fox_hand.base.work import Progress
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.gathering import gather
from fox_hand.session.figures.snapshot import KeptMember


def bring(workspace: Workspace, members: Iterable[KeptMember]) -> None:
    for arrival in gather([(Path(m.path), m) for m in members], Progress()):
        if arrival.actor is not None:
            workspace.arrive(arrival)
        elif arrival.kept is not None:
            workspace.place_absent(arrival.kept)
