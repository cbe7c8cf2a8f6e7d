"""What the stage asks for: everybody, and only the outlines that belong to the moment."""

from __future__ import annotations

from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Quality, View
from fox_hand.session.app.stage_composition import (
    GHOST,
    KEYED,
    PEEK,
    SELECTED,
    compose_view,
    neighbouring_frames,
)
from fox_hand.session.app.workspace import Workspace
from tests.session.conftest import entry


def composed(
    workspace: Workspace,
    quality: Quality = Quality.FULL,
    *,
    ghost: bool = True,
    plain: bool = False,
) -> View:
    return compose_view(workspace, Camera(), (640, 360), quality, ghost=ghost, plain=plain)


def outlines(view: View) -> list[str]:
    return [contour.name for contour in view.contours]


def test_a_quick_picture_has_only_what_cannot_wait(workspace: Workspace) -> None:
    workspace.selection.set([workspace.actor.rig.control_row["forearm_L"]])
    workspace.applying.put_on(entry(workspace, "Wave"))
    quick, fine = composed(workspace, Quality.DRAFT), composed(workspace)
    assert outlines(quick) == [GHOST]
    assert outlines(fine) == [SELECTED, GHOST]
    assert outlines(composed(workspace, ghost=False)) == [SELECTED]
    assert outlines(composed(workspace, plain=True)) == [GHOST]
    assert (quick.width, quick.height, quick.quality) == (640, 360, Quality.DRAFT)
    ghost = fine.contours[1]
    assert (ghost.standing.at.nodes == workspace.actor.rig.evaluate(workspace.mix.base).nodes).all()


def test_a_look_is_outlined_on_the_one_who_acts_and_nobody_moves(workspace: Workspace) -> None:
    before = workspace.actor.state
    workspace.applying.look_at(entry(workspace, "Wave"))
    view = composed(workspace, Quality.DRAFT)
    assert outlines(view) == [PEEK]
    assert view.figures[0].at is workspace.actor.at
    assert workspace.actor.state is before
    workspace.applying.look_away()
    assert outlines(composed(workspace, Quality.DRAFT)) == []


def test_neighbouring_keys_are_the_two_on_either_side(workspace: Workspace) -> None:
    workspace.settings.onion = True
    for frame in (1, 3, 5, 9, 13, 17, 21):
        workspace.go(float(frame))
        workspace.keying.key(everything=True)
    workspace.go(9.0)
    assert neighbouring_frames(workspace) == [3.0, 5.0, 13.0, 17.0]
    assert outlines(composed(workspace)) == [f"{KEYED}{f}" for f in (3.0, 5.0, 13.0, 17.0)]
    assert outlines(composed(workspace, Quality.DRAFT)) == []
    workspace.settings.onion = False
    assert outlines(composed(workspace)) == []
