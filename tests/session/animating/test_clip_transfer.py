"""Clips on other characters: followed as performances are, with feet that stand where they stood,
whether the card's own rig is at hand or not."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.state import State
from fox_hand.core.retarget.figure_motion import FigureMotion, leg_measure
from fox_hand.core.retarget.soles import stands_of
from fox_hand.core.retarget.stand_edits import ground_figures
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import demo_performance, shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.card_rig import card_rig
from fox_hand.session.animating.clip_transfer import LEGS, ClipTransfer
from fox_hand.session.animating.clips import clip_on
from fox_hand.session.capturing.file_cards import animation_card
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.figure import Figure

CAST = shipped() / "cast"


@pytest.fixture(scope="module")
def deck(marrow: Rig) -> Card:
    """The demo's performance on Marrow, as a card: every frame a key."""
    return animation_card(demo_performance(), Figure(marrow, CAST / "marrow.glb"), "1", "On deck")


@pytest.fixture(scope="module", params=["pim", "quill", "brandle"])
def other(request: pytest.FixtureRequest) -> Figure:
    path = CAST / f"{request.param}.glb"
    return Figure(read_rig(path), path)


def played(rig: Rig, card: Card, figure: Figure, own: Rig | None) -> State:
    clip = clip_on(card, figure, own=own)
    assert card.clip is not None
    assert (clip.length, clip.rate) == (card.clip.length, card.clip.rate)
    return Animation(rig, rig.rest, clip.keys).many(np.arange(clip.length + 0.5))


def test_feet_stand_where_they_stood_with_the_rig_at_hand_and_away(
    marrow: Rig, deck: Card, other: Figure
) -> None:
    assert deck.clip is not None
    own = Animation(marrow, marrow.rest, deck.clip.keys).many(np.arange(deck.clip.length + 0.5))
    measure = leg_measure(marrow)
    assert measure is not None
    stands = stands_of(FigureMotion.of(marrow, own, deck.clip.rate), measure.whole)
    assert sum(stands.feet(s).sum() for s in ("left", "right")) > 100
    rig = other.rig
    here, away = (played(rig, deck, other, one) for one in (marrow, None))
    for states in (here, away):
        figures = ground_figures(rig, states, stands)
        assert figures.slide.far < 0.002 * rig.height
        assert figures.below.far < 0.01 * rig.height
    for role in ("leftUpperArm", "hips", "head", "rightLowerLeg"):
        row = next(r for r, c in enumerate(rig.controls) if c.role == role)
        assert angle_between(here.turn[:, row], away.turn[:, row]).max() < np.radians(1.5), role
    # the arms point where they point
    for side in ("left", "right"):
        ways = []
        for figure, states in ((marrow, own), (rig, here)):
            nodes = {c.role: c.node for c in figure.controls if c.role}
            at = figure.evaluate(states).nodes[:, :, :3, 3]
            way = at[:, nodes[f"{side}LowerArm"]] - at[:, nodes[f"{side}UpperArm"]]
            ways.append(way / np.linalg.norm(way, axis=1, keepdims=True))
        assert (ways[0] * ways[1]).sum(1).min() > np.cos(np.radians(0.5))


def test_what_a_card_does_not_carry_along_keeps_its_legs(marrow: Rig, other: Figure) -> None:
    for name in ("Nod", "Wave loop"):
        card = read_card(shipped() / "library" / "Marrow" / "Clips" / f"{name}.foxcard")[0]
        transfer = ClipTransfer(card, other.rig, marrow, {})
        assert transfer.able and not transfer.dense
        fitted = clip_on(card, other)
        assert transfer.with_feet(fitted) == (fitted, None)
        roles = {other.rig.controls[other.rig.control_row[c.name]].role for c in fitted.lines}
        assert not any(role and role.endswith(("Leg", "Foot")) for role in roles)


def test_a_loop_stays_one(marrow: Rig, other: Figure) -> None:
    card = read_card(shipped() / "library" / "Marrow" / "Clips" / "Walk loop.foxcard")[0]
    assert card.clip is not None and not card.clip.seams()
    for own in (marrow, None):
        clip = clip_on(card, other, own=own)
        assert not clip.seams() and clip.length == card.clip.length


def test_a_card_says_how_its_joints_rest(marrow: Rig, deck: Card) -> None:
    rig = card_rig(deck)
    assert rig is not None
    for row, control in enumerate(rig.controls):
        own = marrow.controls[marrow.control_row[control.name]]
        mine, theirs = rig.skeleton.rest_world[row], marrow.skeleton.rest_world[own.node]
        first = rig.skeleton.rest_world[0, :3, 3]
        start = marrow.controls[marrow.control_row[rig.controls[0].name]].node
        gone = marrow.skeleton.rest_world[start, :3, 3]
        assert mine[:3, 3] - first == pytest.approx(theirs[:3, 3] - gone, abs=1e-6)
        assert mine[:3, :3] == pytest.approx(theirs[:3, :3], abs=1e-6)
        if control.role in LEGS or control.role == "hips":
            assert control.role == own.role
    without = {n: h for n, h in deck.pose.controls.items() if n != "chest"}
    assert card_rig(replace(deck, pose=replace(deck.pose, controls=without))) is None
    goal = {"leftHand": ("hand_goal_L", "elbow_L")}
    assert card_rig(replace(deck, carried=replace(deck.carried, pulled=goal))) is None
    bare = {n: replace(h, rest=None) for n, h in deck.pose.controls.items()}
    assert card_rig(replace(deck, pose=replace(deck.pose, controls=bare))) is None
    rests = {n: h.rest for n, h in deck.pose.controls.items() if h.rest is not None}
    huge = {
        n: replace(
            h,
            rest=None
            if rests.get(n) is None
            else replace(rests[n], translation=tuple(100 * v for v in rests[n].translation)),
        )
        for n, h in deck.pose.controls.items()
    }
    assert card_rig(replace(deck, pose=replace(deck.pose, controls=huge))) is None
    circle = {
        n: h
        if h.rest is None
        else replace(h, rest=replace(h.rest, parent=next(iter(reversed(rests)))))
        for n, h in deck.pose.controls.items()
    }
    assert card_rig(replace(deck, pose=replace(deck.pose, controls=circle))) is None
    assert ChannelId(ChannelKind.TURN, "thigh_L") in deck.clip.lines
