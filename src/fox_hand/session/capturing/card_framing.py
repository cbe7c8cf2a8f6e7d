"""How the picture of a card is framed: on the part of the body it is of, wherever that is."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.controls import Channel, Region, Side
from fox_hand.core.model.state import State
from fox_hand.core.pose.blend import blend
from fox_hand.core.pose.pose import ChannelFilter, Held, Pose, bind, take
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.anchor import Anchor, anchor_row
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Standing
from fox_hand.core.view.usual_views import seen_from
from fox_hand.library.format.card import Card
from fox_hand.session.capturing.away import away_from
from fox_hand.session.capturing.chosen_channels import CHANNEL_OF
from fox_hand.session.figures.figure import Figure
from fox_hand.session.figures.pose_conversion import state_of

USUAL = Camera(yaw=0.35, pitch=0.1)
INSIDE, LARGE = 0.25, 0.3  # shares of its flesh and of the picture's edge that a good frame shows


def around(rig: Rig, state: State, choice: ChannelFilter) -> Pose:
    """How a figure stands where a card holds nothing of it: numbers only, as neither the angles as
    typed nor the rest matter for a picture."""
    chosen, channels, settings = choice, dict[int, frozenset[Channel]](), set[int]()
    for channel_id in away_from(rig, state, rig.rest):
        if channel_id.is_setting:
            settings.add(rig.setting_row[channel_id.name])
        else:
            row = rig.control_row[channel_id.name]
            kind = CHANNEL_OF[channel_id.kind]
            if kind not in chosen.channels.get(row, frozenset()):
                channels[row] = channels.get(row, frozenset()) | {kind}
    found = take(rig, state, ChannelFilter(channels, frozenset(settings - chosen.settings)))
    return Pose(
        {
            name: replace(held, euler=None, order=None, rest=None)
            for name, held in found.controls.items()
        }
    )


def worn(rig: Rig, card: Card) -> State:
    """A figure with a card on, and around it as it stood when the card's picture was taken."""
    stood = state_of(rig, _without(card.around, card.pose))
    return blend(stood, bind(card.pose, rig), 1.0, rig.setting_rules)


def _without(around: Pose, pose: Pose) -> Pose:
    """What is around, as far as the pose says nothing of it."""
    kept: dict[str, Held] = {}
    for name, held in around.controls.items():
        own = pose.controls.get(name)
        if own is None:
            kept[name] = held
            continue
        kept[name] = replace(
            held,
            move=held.move if own.move is None else None,
            turn=held.turn if own.turn is None else None,
            scale=held.scale if own.scale is None else None,
            settings={s: v for s, v in held.settings.items() if s not in own.settings},
        )
    return Pose({name: held for name, held in kept.items() if not held.empty})


def rows_of(rig: Rig, card: Card) -> list[int]:
    """Controls of a card that a rig has."""
    return [rig.control_row[name] for name in card.pose.controls if name in rig.control_row]


def usual(rig: Rig) -> Camera:
    """From where a figure is seen where nobody says it: a little aside of its front."""
    return seen_from(rig, USUAL.yaw, USUAL.pitch)


def framed(
    actor: Figure, standing: Standing, rows: list[int], like: Camera | None = None
) -> Camera:
    """A frame around some controls, all if there are none.

    Args:
        actor, standing: the figure, and how it stands.
        rows: what the picture is of.
        like: another picture, which says from where it is seen, and how it is turned; None for the
            usual way.
    """
    nodes = actor.flesh_nodes(rows) if rows else None
    own = usual(actor.rig)
    whole = replace(like or own, fov=own.fov, shift=(0.0, 0.0))
    return whole.framing(actor.rig.flesh(standing.at, nodes), 1.0)


@dataclass(frozen=True)
class Shot:
    """How a card is drawn: the figure, and from where it is seen.

    Args:
        standing: the figure, moved so that what the picture is of is where it was when the card
            was taken; so the light falls on it as it did then.
        camera: from where.
        way: that move, ``(4, 4)``; for the other frames of a clip.
    """

    standing: Standing
    camera: Camera
    way: Array


def shot_of(actor: Figure, card: Card, state: State | None = None) -> Shot:
    """The next picture of a card.

    Where a card does not say what its picture is of, its frame is kept if it shows what the card
    holds; else, and on characters of another build, it is framed anew: a hand upright, its palm
    towards us, everything else from where the picture was taken.

    Args:
        actor: who wears it.
        card: whose picture it is.
        state: another pose than the one the card begins with, such as one of its clip.
    """
    rig, rows, frame, anchor = actor.rig, rows_of(actor.rig, card), card.frame, card.anchor
    standing = actor.standing_in(worn(rig, card) if state is None else state)
    camera = usual(rig) if frame is None else on_ground(frame, actor)
    way = np.eye(4)
    if anchor is not None and frame is not None and anchor.control in rig.control_row:
        way = _on_ground(anchor.way_back(rig, _in_the_middle(actor, standing)), actor)
        if card.fingerprint == rig.fingerprint:
            return Shot(_moved(standing, way), camera, way)
    elif frame is None or not _shows(actor, standing, rows, camera):
        upright = _upright(rig, standing.at.nodes, rows)
        way, camera = (way, camera) if upright is None else (upright, USUAL)
    standing = _moved(standing, way)
    if frame is None or not _shows(actor, standing, rows, camera):
        camera = framed(actor, standing, rows, camera)
    return Shot(standing, camera, way)


def frame_of_card(actor: Figure, card: Card, standing: Standing) -> Camera:
    """The frame of a card around a figure that stands otherwise: it goes with what the picture is
    of.

    Args:
        actor: who wears it.
        card: whose frame.
        standing: the figure with the card on.
    """
    shot = shot_of(actor, card)
    rows = rows_of(actor.rig, card)
    anchor = anchor_for(actor, shot.standing, rows)
    if anchor is None:
        return shot.camera
    way = anchor.way_back(actor.rig, _in_the_middle(actor, standing))
    return shot.camera.moved(np.asarray(np.linalg.inv(_on_ground(way, actor)), dtype=np.float64))


def _moved(standing: Standing, way: Array) -> Standing:
    at = standing.at
    return Standing(standing.rig, replace(at, nodes=way @ at.nodes))


def _on_ground(way: Array, actor: Figure) -> Array:
    """A move about the middle of the stage as one about where a figure stands."""
    found = way.copy()
    found[:3, 3] += actor.ground - way[:3, :3] @ actor.ground
    return found


def _upright(rig: Rig, nodes: Array, rows: list[int]) -> Array | None:
    """The turn about a hand that shows its palm, fingers upwards, ``(4, 4)``; None of other parts
    of the body and of hands whose joints are not known."""
    controls = [rig.controls[row] for row in rows]
    sides = {control.side for control in controls}
    if sides not in ({Side.LEFT}, {Side.RIGHT}) or any(
        control.region is not Region.HANDS for control in controls
    ):
        return None
    (side,) = sides
    places = {c.role: nodes[c.node, :3, 3] for c in rig.controls if c.role is not None}
    joints = ("Hand", "MiddleProximal", "IndexProximal", "LittleProximal")
    found = [places.get(f"{side.value}{joint}") for joint in joints]
    if any(place is None for place in found):
        return None
    hand, middle, index, little = (np.asarray(place) for place in found)
    along, thumbwards = _unit(middle - hand), index - little
    palm = _unit(np.cross(along, thumbwards) * (1.0 if side is Side.LEFT else -1.0))
    own = np.stack([np.cross(along, palm), along, palm])
    way = np.eye(4)
    way[:3, :3] = own  # right, up and towards us
    way[:3, 3] = hand - own @ hand
    return way


def _unit(way: Array) -> Array:
    return np.asarray(way / max(float(np.linalg.norm(way)), 1e-9))


def taken(card: Card, actor: Figure, standing: Standing, frame: Camera) -> Card:
    """The card with a frame of its own.

    Args:
        card: without one, or with another.
        actor, standing: who wears it, and how it stands in the picture, of a clip as it begins.
        frame: where the figure stands on the stage.
    """
    rows = rows_of(actor.rig, card)
    return replace(
        card, frame=in_the_middle(frame, actor), anchor=anchor_for(actor, standing, rows)
    )


def anchor_for(actor: Figure, standing: Standing, rows: list[int]) -> Anchor | None:
    """The part of the body that carries some controls, as it is in a picture."""
    row = anchor_row(actor.rig, actor.flesh_nodes(rows)) if rows else None
    if row is None:
        return None
    return Anchor.of(actor.rig, _in_the_middle(actor, standing), row)


def on_ground(frame: Camera, actor: Figure) -> Camera:
    """A card's frame where a figure stands now."""
    x, y, z = (float(t + g) for t, g in zip(frame.target, actor.ground, strict=True))
    return replace(frame, target=(x, y, z))


def in_the_middle(frame: Camera, actor: Figure) -> Camera:
    """A frame as if the figure stood in the middle of the stage."""
    x, y, z = (float(t - g) for t, g in zip(frame.target, actor.ground, strict=True))
    return replace(frame, target=(x, y, z))


def _in_the_middle(actor: Figure, standing: Standing) -> Array:
    nodes = standing.at.nodes.copy()
    nodes[:, :3, 3] -= actor.ground
    return nodes


def _shows(actor: Figure, standing: Standing, rows: list[int], frame: Camera) -> bool:
    """Whether a frame shows what a card holds: enough of it, and large enough."""
    nodes = actor.flesh_nodes(rows) if rows else None
    seen = frame.project(actor.rig.flesh(standing.at, nodes), 1.0, 1.0)
    inside = ((seen[:, :2] > 0) & (seen[:, :2] < 1)).all(1) & (seen[:, 2] > 0)
    return bool(inside.mean() > INSIDE and np.ptp(seen[:, :2], axis=0).max() > LARGE)
