"""Cards of all a file holds: its animations and its expressions, in one step."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from fox_hand.base.animation_facts import AnimationFacts
from fox_hand.base.errors import FoxHandError
from fox_hand.core.animation.motion import motion_of
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.state import State
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.gltf import read_expressions
from fox_hand.interchange.motions import animation_facts, motion_bytes
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.container import read_card, read_motion
from fox_hand.session.app.headless import Laid, card_on, worn
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.capturing.file_cards import animation_card, expression_cards
from fox_hand.session.figures.figure import Figure
from tests.drawn import FlatPictures
from tests.session.conftest import entry
from tests.vrm import document_of, moving, vrm, written


@pytest.mark.parametrize("old", [False, True])
def test_expressions_are_read_from_both_versions(tmp_path: Path, old: bool) -> None:
    found = {e.preset or e.name: e for e in read_expressions(vrm(tmp_path / "a.vrm", old=old))}
    wanted = {"happy", "sad", "aa", "ou", "blinkLeft", "neutral", "Smirk", "Shine"}
    assert wanted <= set(found)
    assert found["happy"].values == pytest.approx(
        {"LeftMouthCornerUp": 1.0, "RightMouthCornerUp": 0.8, "LeftCheekUp": 0.25}
    )
    assert found["happy"].name == ("HAPPY" if old else "happy")
    assert found["Smirk"].values == {"LeftMouthCornerUp": 1.0}  # no further than whole
    assert found["Smirk"].more == (("materials",) if old else ("colours",))
    assert found["Shine"].values == {} and found["neutral"].values == {}


def test_each_kind_holds_what_it_takes_the_place_of(tmp_path: Path) -> None:
    path = vrm(tmp_path / "a.vrm")
    rig = read_rig(path)
    cards = dict(expression_cards(path, rig))
    assert set(cards) == {"Happy", "Sad", "Aa", "Ou", "BlinkLeft", "Neutral", "Smirk"}
    held = {
        name: {s: v for h in make().pose.controls.values() for s, v in h.settings.items()}
        for name, make in cards.items()
    }
    face = {
        *("LeftMouthCornerUp", "RightMouthCornerUp", "LeftCheekUp"),
        *("LeftMouthCornerDown", "RightMouthCornerDown"),
    }
    for name in ("Happy", "Sad", "Neutral", "Smirk"):
        assert set(held[name]) == face
    assert not any(held["Neutral"].values()) and held["Sad"]["LeftMouthCornerDown"] == 0.5
    assert held["Sad"]["LeftMouthCornerUp"] == 0.0
    assert held["Aa"] == {"MouthRound": 0.25, "MouthPucker": 0.0}
    assert held["BlinkLeft"] == {"LeftBrowDown": 0.5}
    happy = cards["Happy"]()
    assert happy.tags == ("expression", "happy") and happy.character == rig.name
    assert cards["Smirk"]().note == "Without its colours."
    plain = tmp_path / "plain.glb"
    document, rest = document_of(path)
    del document["extensions"]
    written(plain, document, rest)
    with pytest.raises(FoxHandError) as caught:
        expression_cards(plain, rig)
    assert caught.value.code == "expressions.none"


def test_every_animation_has_its_name_its_length_and_its_rate(
    tmp_path: Path, workspace: Workspace
) -> None:
    assert workspace.actor is not None
    path = moving(tmp_path / "waves.glb", workspace.actor.path)
    facts = animation_facts(path)
    assert [(f.name, f.frames, f.rate) for f in facts] == [
        ("wave", 7, 30.0),
        ("wave", 7, 30.0),
        ("animation 3", 7, 30.0),
    ]
    assert facts[0].words == "0.2 s, 7 frames at 30"
    assert AnimationFacts("x", 24.0, 1).words == "one pose" and AnimationFacts("x").words == ""
    assert animation_facts(tmp_path / "x.bvh") == [AnimationFacts("x")]


def test_all_animations_become_cards_in_one_step(tmp_path: Path, workspace: Workspace) -> None:
    actor = workspace.actor
    assert actor is not None
    drawing = FlatPictures()
    workspace.capturing.draw_with(drawing)
    path = moving(tmp_path / "waves.glb", actor.path)
    made = [
        (f"Wave {n}", lambda n=n: animation_card(path, actor, str(n), f"Wave {n}"))
        for n in (1, 2, 3)
    ]
    told: list[FoxHandError] = []
    workspace.failed.connect(told.append)
    cards = workspace.capturing.file_cards
    assert cards.take("3 waves", actor, made, "Marrow/Waves") and told == []
    assert workspace.history.undo_label == "3 waves"
    one = entry(workspace, "Wave 2")
    card = read_card(one.path)[0]
    assert (one.sheet, one.kind, card.source) == ("Marrow/Waves", "clip", "waves")
    assert card.clip is not None and (card.clip.length, card.clip.rate) == (6.0, 30.0)
    assert {c.name for c in card.clip.lines} == {"forearm_L"} == set(card.pose.controls)
    assert read_motion(one.path) is not None
    line = next(iter(card.clip.lines.values()))
    assert float(angle_between(line.values[0], line.values[-1])) == pytest.approx(1.0, abs=1e-5)
    workspace.undo()
    assert not any(e.sheet == "Marrow/Waves" for e in workspace.open_libraries.entries())
    workspace.open_libraries.places[0].writable = False
    assert not cards.take("x", actor, made, "y") and not cards.take("x", actor, [], "y")


def test_one_frame_is_a_pose_and_nothing_is_refused(tmp_path: Path, workspace: Workspace) -> None:
    actor = workspace.actor
    assert actor is not None
    rig = actor.rig
    state = rig.rest
    for name, angle in (("pose", 0.5), ("nothing", 0.0)):
        turn = state.turn.copy()
        turn[rig.control_row["forearm_L"]] = (np.sin(angle / 2), 0, 0, np.cos(angle / 2))
        one = State(*(v[None] for v in state.with_(turn=turn).arrays()))
        path = tmp_path / f"{name}.glb"
        path.write_bytes(motion_bytes(".glb", rig, motion_of(name, rig, one, 24.0))[0])
        if name == "pose":
            card = animation_card(path, actor, "1", "Bent")
            assert card.kind == "pose" and set(card.pose.controls) == {"forearm_L"}
        else:
            with pytest.raises(FoxHandError) as caught:
                animation_card(path, actor, "1", "Nothing")
            assert caught.value.code == "capture.empty"


def test_an_expression_of_a_stranger_lands_on_our_own_face(tmp_path: Path, marrow: Rig) -> None:
    """From VRM to card to another character, by what the shapes do."""
    path = vrm(tmp_path / "a.vrm")
    rig = read_rig(path)
    make = dict(expression_cards(path, rig))["Happy"]
    actor = Figure(marrow, tmp_path / "marrow.glb")
    state = worn(card_on(make(), actor, tmp_path / "x.foxcard"), actor, Laid())
    row = marrow.setting_row
    assert state.settings[row["mouth_corner_up_L"]] == pytest.approx(1.0)
    assert state.settings[row["mouth_corner_up_R"]] == pytest.approx(0.8)
    assert state.settings[row["cheek_up_L"]] == pytest.approx(0.25)
