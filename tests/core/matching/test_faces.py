"""Expressions go from face to face by what their shapes do, whatever these are called."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.animation.performance import Performance
from fox_hand.core.matching.name_match import MatchSource
from fox_hand.core.matching.setting_match import match_settings
from fox_hand.core.matching.unmatched import not_landing
from fox_hand.core.model.controls import Side
from fox_hand.core.model.state import State
from fox_hand.core.naming.face_roles import FaceRole, face_role
from fox_hand.core.retarget.retarget import FitOptions, fit
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.face_motion import face_motion, moving_settings
from fox_hand.session.animating.motion_import import followed_on, lost_words

# names that programs for capturing faces commonly write (common practice, no source)
CAPTURED = {
    "browDownLeft": ("brow", "down", "left"),
    "browInnerUp": ("brow", "inner up", "centre"),
    "browOuterUpRight": ("brow", "outer up", "right"),
    "cheekPuff": ("cheek", "puff", "centre"),
    "cheekSquintLeft": ("cheek", "up", "left"),
    "eyeBlinkLeft": ("eye", "shut", "left"),
    "eyeLookDownLeft": ("eye", "look down", "left"),
    "eyeSquintRight": ("eye", "squint", "right"),
    "eyeWideLeft": ("eye", "wide", "left"),
    "jawForward": ("jaw", "forward", "centre"),
    "jawLeft": ("jaw", "aside", "left"),
    "jawOpen": ("jaw", "open", "centre"),
    "mouthClose": ("mouth", "seal", "centre"),
    "mouthDimpleLeft": ("mouth", "dimple", "left"),
    "mouthFrownRight": ("mouth", "corner down", "right"),
    "mouthFunnel": ("mouth", "round", "centre"),
    "mouthLowerDownLeft": ("mouth", "lower down", "left"),
    "mouthPressRight": ("mouth", "press", "right"),
    "mouthPucker": ("mouth", "pucker", "centre"),
    "mouthRollLower": ("mouth", "lower in", "centre"),
    "mouthShrugUpper": ("mouth", "upper shrug", "centre"),
    "mouthSmileLeft": ("mouth", "corner up", "left"),
    "mouthStretchRight": ("mouth", "wide", "right"),
    "mouthUpperUpLeft": ("mouth", "upper up", "left"),
    "noseSneerRight": ("nose", "sneer", "right"),
    "tongueOut": ("tongue", "out", "centre"),
}
OTHERS = {
    "Blink_L": ("eye", "shut", "left"),
    "wink.R": ("eye", "shut", "right"),
    "lid_shut_L": ("eye", "shut", "left"),
    "RightMouthCornerUp": ("mouth", "corner up", "right"),
    "mouth_open": ("jaw", "open", "centre"),
    "lookUp": ("eye", "look up", "centre"),
    "LookLeft": ("eye", "look aside", "left"),
    "viseme_PP": ("viseme", "pp", "centre"),
    "viseme_E": ("viseme", "ee", "centre"),
    "v_aa": ("viseme", "aa", "centre"),
    "O": ("viseme", "oh", "centre"),
    "Joy": ("face", "happy", "centre"),
    "sorrow": ("face", "sad", "centre"),
    "Fun": ("face", "relaxed", "centre"),
    "surprised": ("face", "surprised", "centre"),
}
NOTHING = (
    "hat",
    "hand_curl_L",
    "spine_up",
    "arm_follow_L",
    "jaw",
    "PP",
    "smilePucker",
    "lid_slant_L",
)


@pytest.mark.parametrize("name", [*CAPTURED, *OTHERS])
def test_what_a_shape_does_is_in_its_name(name: str) -> None:
    part, action, side = {**CAPTURED, **OTHERS}[name]
    assert face_role(name) == FaceRole(part, action, Side(side))


@pytest.mark.parametrize("name", NOTHING)
def test_names_that_do_not_say_it_say_nothing(name: str) -> None:
    assert face_role(name) is None


def faced(rig: Rig, names: list[str]) -> Rig:
    """The figure with settings of other names."""
    first = rig.settings[0]
    settings = tuple(
        replace(first, name=n, label=n, partner=None, minimum=0.0, maximum=1.0) for n in names
    )
    return replace(rig, name="Other", settings=settings, drives=(), solvers=(), fingerprint="other")


def test_a_face_is_matched_by_what_its_shapes_do(marrow: Rig) -> None:
    found = {m.source: m for m in match_settings([*CAPTURED, "hat", "extra"], marrow)}
    row = marrow.setting_row
    for name, (part, action, side) in CAPTURED.items():
        for target in found[name].targets:
            other = face_role(target)
            assert target in row and other is not None
            assert (other.part, other.action) == (part, action)
            assert side == "centre" or other.side in (Side(side), Side.CENTRE)
            assert found[name].found is not MatchSource.SPELLING
    assert found["browInnerUp"].targets == ("brow_inner_up_L", "brow_inner_up_R")
    assert found["cheekPuff"].targets == ("cheek_puff_L", "cheek_puff_R")
    assert found["mouthPressRight"].targets == ("mouth_press",)
    assert found["eyeBlinkLeft"].targets == ("lid_shut_L",)
    assert found["mouthSmileLeft"].found is MatchSource.FACE
    assert found["hat"].found is MatchSource.EXACT
    for name in ("jawForward", "tongueOut", "mouthClose", "eyeLookDownLeft", "extra"):
        assert found[name].targets == ()
    lands = sum(bool(found[n].targets) for n in CAPTURED)
    assert lands == len(CAPTURED) - 8


def test_what_was_said_and_what_is_taken_stay(marrow: Rig) -> None:
    saved = {"eyeBlinkLeft": "hat", "jawOpen": None}
    found = {m.source: m for m in match_settings(["eyeBlinkLeft", "jawOpen"], marrow, saved)}
    assert found["eyeBlinkLeft"].targets == ("hat",) and found["jawOpen"].targets == ()
    both = match_settings(["lid_shut_L", "eyeBlinkLeft", "eyeBlinkRight", "blink"], marrow)
    assert [m.targets for m in both] == [("lid_shut_L",), (), ("lid_shut_R",), ()]


@pytest.mark.parametrize("name", ["Glad", "Angry", "Surprised", "Sad"])
def test_an_expression_lands_on_another_face_and_comes_back(marrow: Rig, name: str) -> None:
    card = read_card(shipped() / "library" / "Marrow" / "Face" / f"{name}.foxcard")[0]
    held = {s: v for h in card.pose.controls.values() for s, v in h.settings.items()}
    other = faced(
        marrow, [*CAPTURED, *(n.replace("Left", "Right") for n in CAPTURED if "Left" in n)]
    )
    matches = match_settings(list(held), other)
    settings = {m.source: m.targets for m in matches if m.targets}
    assert len(settings) > 15
    found = fit(card.pose, other, {}, settings, FitOptions()).state
    for source, targets in settings.items():
        if len(targets) == 1 and sum(t == targets for t in settings.values()) == 1:
            assert found.settings[other.setting_row[targets[0]]] == pytest.approx(held[source])
    up = [held[f"brow_inner_up_{s}"] for s in "LR"]
    assert found.settings[other.setting_row["browInnerUp"]] == pytest.approx(np.mean(up))
    assert found.settings[other.setting_row["eyeBlinkLeft"]] == pytest.approx(held["lid_shut_L"])
    asked = {n: tuple(h.settings) for n, h in card.pose.controls.items()}
    lost = not_landing(asked, other)
    for control in lost:
        assert not any(s in settings for s in asked[control])


def test_motion_of_a_face_alone_lands_and_says_what_does_not(marrow: Rig) -> None:
    names = ["browInnerUp", "eyeBlinkLeft", "jawOpen", "jawForward", "mouthPucker"]
    source = replace(faced(marrow, names), controls=marrow.controls[:1], parts=())
    frames = 5
    values = np.zeros((frames, len(names)))
    values[:, 0] = np.linspace(0, 1, frames)
    values[:, 1], values[:, 3] = [0, 1, 0, 1, 0], [0, 0.5, 0, 0, 0]
    rest = [np.repeat(v[None], frames, 0) for v in source.rest.arrays()]
    states = State(rest[0], rest[1], rest[2], values, rest[4])
    source = replace(
        source, controls=tuple(replace(c, name="x", role=None) for c in source.controls)
    )
    performance = Performance("talk", source, states, 30.0)
    assert moving_settings(performance) == pytest.approx(
        {"browInnerUp": 1.0, "eyeBlinkLeft": 1.0, "jawForward": 0.5}
    )
    made = followed_on(performance, marrow)
    row = marrow.setting_row
    for side in "LR":
        assert made.state.settings[:, row[f"brow_inner_up_{side}"]] == pytest.approx(values[:, 0])
    assert made.state.settings[:, row["lid_shut_L"]] == pytest.approx(values[:, 1])
    assert lost_words(performance, marrow, made) == ("Not on Marrow: jawForward.",)
    blends = {marrow.settings[x.blend].name for x in marrow.limbs if x.blend is not None}
    own = replace(
        source, settings=tuple(replace(source.settings[0], name=b) for b in sorted(blends))
    )
    still = Performance("x", own, states.with_(settings=np.ones((frames, len(blends)))), 30.0)
    assert not face_motion(still, marrow, None).given
    assert len(face_motion(still, marrow, None, same=True).given) == len(blends)
