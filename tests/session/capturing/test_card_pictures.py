"""Later pictures of a card show what the first one showed, wherever that part of the body is."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.animation.clip import Clip
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.animation.interpolation import Ease
from fox_hand.core.animation.sampler import line_of
from fox_hand.core.model.controls import Side
from fox_hand.core.pose.pose import Held, Pose
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Standing
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.capture_pictures import CapturePictures
from fox_hand.session.capturing.card_framing import frame_of_card, worn
from fox_hand.session.capturing.reshooting import reshot
from fox_hand.session.figures.channels import turned_about_own_axis
from fox_hand.session.figures.figure import Figure
from tests.session.conftest import entry

NAME = "Raised grip"


def seen(actor: Figure, standing: Standing, camera: Camera, side: Side) -> np.ndarray:
    """Where the fingers of a hand are in a picture, shares of its edge ``(N, 2)``."""
    nodes = {c.node for c in actor.rig.controls if c.name.startswith("finger") and c.side is side}
    return camera.project(actor.rig.flesh(standing.at, nodes), 1.0, 1.0)[:, :2]


def inside(places: np.ndarray) -> float:
    return float(((places > 0) & (places < 1)).all(1).mean())


@pytest.fixture
def raised(workspace: Workspace) -> Card:
    """A fist, taken of a raised arm, away from the middle of the stage."""
    actor = workspace.actor
    rig = actor.rig
    actor.stand_at(np.array([1.5, 0.0, -0.4]))
    rows = [rig.control_row[n] for n in ("arm_L", "forearm_L")]
    state = turned_about_own_axis(rig, actor.state, rows, 2, 0.8)
    fingers = [r for r, c in enumerate(rig.controls) if c.name.startswith("finger_")]
    fingers = [r for r in fingers if rig.controls[r].side is Side.LEFT]
    workspace.apply("Raise", turned_about_own_axis(rig, state, fingers, 0, 0.9))
    workspace.selection.set(fingers)
    draft = workspace.capturing.begin()
    assert draft is not None
    draft.name = NAME
    at = actor.rig.flesh(actor.at, actor.flesh_nodes(fingers))
    workspace.capturing.save(Camera(yaw=0.5, pitch=0.2).framing(at, 1.0))
    card = read_card(entry(workspace, NAME).path)[0]
    assert set(card.pose.controls) == {rig.controls[r].name for r in fingers}
    return card


def test_the_next_picture_is_the_same_wherever_the_figure_is(
    workspace: Workspace, raised: Card
) -> None:
    actor = workspace.actor
    first = seen(actor, actor.standing, _on(actor, raised.frame or Camera()), Side.LEFT)
    assert inside(first) == 1.0
    other = Figure(actor.rig, actor.path)  # at rest, in the middle of the stage
    again = reshot(raised, other, CapturePictures())
    np.testing.assert_allclose(
        seen(other, again.standing, again.camera, Side.LEFT), first, atol=1e-5
    )
    assert {"arm_L", "forearm_L"} <= set(raised.around.controls)
    assert not set(raised.around.controls) & set(raised.pose.controls)
    once_more = reshot(again.card, actor, CapturePictures())
    np.testing.assert_allclose(
        seen(actor, once_more.standing, once_more.camera, Side.LEFT), first, atol=1e-5
    )


def _on(actor: Figure, frame: Camera) -> Camera:
    x, y, z = (float(t + g) for t, g in zip(frame.target, actor.ground, strict=True))
    return replace(frame, target=(x, y, z))


def test_the_frame_goes_with_the_hand_where_the_arm_hangs(
    workspace: Workspace, raised: Card
) -> None:
    actor = workspace.actor
    first = seen(actor, actor.standing, _on(actor, raised.frame or Camera()), Side.LEFT)
    hanging = actor.standing_in(worn(actor.rig, replace(raised, around=Pose({}))))
    camera = frame_of_card(actor, raised, hanging)
    np.testing.assert_allclose(seen(actor, hanging, camera, Side.LEFT), first, atol=1e-5)


def test_the_other_side_is_the_mirrored_picture(workspace: Workspace, raised: Card) -> None:
    actor = workspace.actor
    first = seen(actor, actor.standing, _on(actor, raised.frame or Camera()), Side.LEFT)
    workspace.capturing.mirror([entry(workspace, NAME)], both=False)
    card = read_card(entry(workspace, f"{NAME}, right").path)[0]
    again = reshot(card, actor, CapturePictures())
    right = seen(actor, again.standing, again.camera, Side.RIGHT)
    low, high = right.min(0), right.max(0)
    assert abs(low[0] - (1 - first[:, 0].max())) < 0.01
    assert abs(high[1] - first[:, 1].max()) < 0.01
    workspace.capturing.mirror([entry(workspace, NAME)], both=True)
    both = read_card(entry(workspace, f"{NAME}, both sides").path)[0]
    shown = reshot(both, actor, CapturePictures())
    for side in (Side.LEFT, Side.RIGHT):
        assert inside(seen(actor, shown.standing, shown.camera, side)) == 1.0


def test_older_cards_are_framed_anew_where_their_frame_shows_something_else(
    workspace: Workspace, raised: Card
) -> None:
    actor = workspace.actor
    old = replace(raised, anchor=None, around=Pose({}))
    again = reshot(old, actor, CapturePictures())
    fingers = seen(actor, again.standing, again.camera, Side.LEFT)
    assert inside(fingers) == 1.0
    assert np.ptp(fingers, axis=0).max() > 0.6
    assert again.card.anchor is not None
    rig = actor.rig
    hand, knuckle = (
        again.standing.at.nodes[rig.controls[rig.control_row[n]].node, :3, 3]
        for n in ("hand_L", "finger_middle_1_L")
    )
    assert knuckle[1] - hand[1] > 0.9 * np.linalg.norm(knuckle - hand)  # fingers upwards
    face = read_card(entry(workspace, "Glad").path)[0]
    bare = replace(face, anchor=None, around=Pose({}))
    frame = reshot(bare, actor, CapturePictures()).camera
    assert frame == _on(actor, face.frame or Camera())  # it shows the face: it stays


@pytest.mark.parametrize(
    ("kind", "values", "frame"),
    [
        (ChannelKind.MOVE, [-1.0, 0.5, 0.8], 2),
        (ChannelKind.MOVE, [0.0, 1.0, 0.2], 1),
        (ChannelKind.TURN, [0.5, -0.6, 0.4], 1),
        (ChannelKind.SETTING, [0.2, 0.9, 0.0], 1),
        (ChannelKind.SETTING, [0.9, 0.8, 0.0], 2),
    ],
)
def test_a_clip_is_drawn_where_it_is_farthest_from_how_it_begins(
    workspace: Workspace, kind: ChannelKind, values: list[float], frame: int
) -> None:
    actor = workspace.actor
    assert actor is not None
    rig, name = actor.rig, {ChannelKind.SETTING: "jaw_open", ChannelKind.TURN: "neck"}.get(kind)
    table = np.array(values)[:, None] * {ChannelKind.MOVE: np.eye(3)[:1]}.get(kind, 1.0)
    if kind is ChannelKind.TURN:
        table = np.array([[np.sin(v / 2), 0, 0, np.cos(v / 2)] for v in values])
    channel = ChannelId(kind, name or "hips")
    lines = {channel: line_of(channel, np.arange(3.0), table, Ease.LINEAR)}
    card = read_card(entry(workspace, "Nod").path)[0]
    held = {c.name: Held() for c in rig.controls if c.name in ("hips", "neck", "jaw")}
    moving = replace(card, pose=Pose({**card.pose.controls, **held}), clip=Clip(lines, 2.0))
    standing = reshot(moving, actor, CapturePictures()).standing
    row = rig.setting_row["jaw_open"] if kind is ChannelKind.SETTING else None
    alone = {n: rig.skeleton.names.index(n) for n in ("hips", "neck")}
    if row is not None:
        assert standing.at.settings[row] == pytest.approx(values[frame])
    else:
        wanted = worn(rig, card)
        arrays = dict(zip(("move", "turn"), (wanted.move.copy(), wanted.turn.copy()), strict=True))
        arrays[kind.value][rig.control_row[channel.name]] = table[frame]
        there = rig.evaluate(wanted.with_(**arrays))
        node = rig.controls[rig.control_row[channel.name]].node
        assert alone and np.allclose(standing.at.nodes[node], there.nodes[node], atol=1e-6)
