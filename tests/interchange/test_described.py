"""Rigs without a model file: ``<name>.foxrig.json`` alone, in the unit and axes of its program."""

from __future__ import annotations

import json
import shutil
from pathlib import Path
from typing import Any

import jsonschema
import numpy as np
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.maths.euler import from_euler
from fox_hand.core.model.controls import Channel, MirrorRule, SettingKind, Side
from fox_hand.core.rig.rig import Rig
from fox_hand.interchange.files import files_of
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import Sidecar, json_schema, rig_stem, sidecar_path
from fox_hand.interchange.units import UnitUnknownError
from tests.conftest import MARROW
from tests.described import ARM, description_of, write_description
from tests.glb import morphing
from tests.random_rig import posed


def described(tmp_path: Path, **changes: Any) -> Path:
    return write_description(tmp_path / "arm.foxrig.json", {**ARM, **changes})


def test_what_is_written_is_what_is_worked_with(tmp_path: Path) -> None:
    jsonschema.Draft202012Validator(json.loads(json_schema())).validate(ARM)
    rig = read_rig(described(tmp_path))
    assert [c.name for c in rig.controls] == ["arm_ctl_L", "hand_ctl_R", "hand_ctl_L"]
    arm, hand = (rig.controls[rig.control_row[n]] for n in ("arm_ctl_L", "hand_ctl_L"))
    assert (arm.order, arm.channels, arm.locked) == (
        "ZXY",
        frozenset({Channel.TURN}),
        frozenset({(Channel.TURN, 1)}),
    )
    assert (hand.side, hand.partner) == (Side.LEFT, "hand_ctl_R")
    curl, space = rig.settings
    assert (curl.minimum, curl.maximum, curl.default, curl.mirror) == (-10, 10, 2, MirrorRule.SIGN)
    assert (space.kind, space.options) == (SettingKind.CHOICE, ("world", "chest"))
    # by hand: Z up in centimetres is Y up in metres, and what was +Y is -Z
    places = dict(zip(rig.skeleton.names, rig.skeleton.rest_world[:, :3, 3], strict=True))
    assert np.allclose(places["hand_ctl_L"], (0.5, 1.0, 0.0), atol=1e-12)
    turn = rig.rest.turn.copy()
    turn[rig.control_row["arm_ctl_L"]] = from_euler(np.radians([0.0, 0.0, 90.0]), "ZXY")
    at = rig.evaluate(rig.rest.with_(turn=turn)).nodes
    hand_at = at[rig.skeleton.names.index("hand_ctl_L"), :3, 3]
    assert np.allclose(hand_at, (0.2, 1.0, -0.3), atol=1e-12)  # about its up axis, forwards there
    move = rig.rest.move.copy()
    move[rig.control_row["hand_ctl_L"]] = (0.0, 0.0, 0.1)  # metres along its own axes
    moved = rig.evaluate(rig.rest.with_(move=move)).nodes
    assert np.allclose(moved[rig.skeleton.names.index("hand_ctl_L"), :3, 3], (0.5, 1.1, 0.0))


def test_described_and_with_its_model_a_figure_moves_the_same(tmp_path: Path, marrow: Rig) -> None:
    shutil.copy(MARROW, tmp_path / "body.glb")
    document = {**description_of(marrow, "c_"), "mesh": {"file": "body.glb"}}
    document["mesh"]["joints"] = {name: f"c_{name}" for name in marrow.skeleton.names}
    path = write_description(tmp_path / "marrow.foxrig.json", document)
    rig = read_rig(path)
    assert tmp_path / "body.glb" in files_of(path)
    assert np.allclose(
        rig.flesh(rig.evaluate(rig.rest)), marrow.flesh(marrow.evaluate(marrow.rest))
    )
    # a rig without its sidecar, so that nothing is solved or driven
    plain = read_rig(tmp_path / "body.glb")
    state = posed(plain, 7)
    rows = [plain.control_row[c.name.removeprefix("c_")] for c in rig.controls]
    kept = rig.rest.with_(turn=state.turn[rows], move=state.move[rows], scale=state.scale[rows])
    found, wanted = rig.flesh(rig.evaluate(kept)), plain.flesh(plain.evaluate(state))
    assert np.abs(found - wanted).max() < 1e-6


def test_shapes_of_the_mesh_follow_settings_of_the_same_name(tmp_path: Path) -> None:
    model = read_rig(morphing(tmp_path / "face.glb"))
    names = [s.name for s in model.settings]
    assert len(names) > 1
    document = description_of(model)
    first = document["nodes"][0]
    document["controls"] = {first["name"]: {"settings": names[1:2]}}
    document["settings"] = {names[1]: {}}
    document["mesh"] = {"file": "face.glb"}
    first["control"] = True
    rig = read_rig(write_description(tmp_path / "host.foxrig.json", document))
    assert [s.name for s in rig.settings] == names[1:2]
    (shown,) = [p for p in rig.parts if p.targets is not None]
    (whole,) = [p for p in model.parts if p.targets is not None]
    assert shown.target_settings == (0,)
    assert shown.targets is not None
    assert whole.targets is not None
    assert np.array_equal(shown.targets[0], whole.targets[1])


def test_a_mesh_that_is_not_there_is_said_and_the_rig_stays(tmp_path: Path) -> None:
    rig = read_rig(described(tmp_path, mesh={"file": "gone.glb"}))
    assert [part.name for part in rig.parts] == ["sticks"]
    assert len(rig.controls) == 3
    assert any("No mesh is shown" in note for note in rig.notes)


NODE = {"name": "a"}


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"nodes": []}, "describes no rig by itself"),
        ({"nodes": [NODE, NODE]}, "the same name"),
        ({"nodes": [{"name": "a", "parent": "b"}]}, "a hangs on b, which is not there"),
        (
            {"nodes": [NODE, {"name": "b", "parent": "c"}, {"name": "c", "parent": "b"}]},
            "hang on themselves",
        ),
        ({"nodes": [{"name": "a", "rotation": [0, 0, 0, 0]}]}, "has no length"),
        ({"nodes": [{"name": "a", "scale": [1, 0, 1]}]}, "scaled to nothing"),
        ({"nodes": [{"name": "a", "translation": ["x", 0, 0]}]}, "cannot be read"),
        ({"up": "x"}, "cannot be read"),
        ({"version": 99}, "newer"),
    ],
)
def test_what_describes_no_rig_is_told_and_nothing_opened(
    tmp_path: Path, changes: dict[str, Any], said: str
) -> None:
    with pytest.raises(FoxHandError) as told:
        read_rig(described(tmp_path, **changes))
    assert said in told.value.sentence()
    assert "Nothing that was open has changed." in told.value.sentence()


def test_who_says_no_unit_is_asked(tmp_path: Path) -> None:
    document = {k: v for k, v in ARM.items() if k != "metres_per_unit"}
    path = write_description(tmp_path / "arm.foxrig.json", document)
    with pytest.raises(UnitUnknownError):
        read_rig(path)
    rig = read_rig(path, 0.0254)
    hand = rig.skeleton.names.index("hand_ctl_L")
    assert np.allclose(rig.skeleton.rest_world[hand, :3, 3], (1.27, 2.54, 0.0))


def test_it_is_its_own_sidecar(tmp_path: Path) -> None:
    path = described(tmp_path)
    assert sidecar_path(path) == path
    assert rig_stem(path) == "arm"
    assert files_of(path) == (path,)
    assert Sidecar("a", 3).nodes == []
