"""``fox-hand rig``: what was inferred, printed and written out to be corrected."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import numpy as np
import pytest
from typer.testing import CliRunner

from fox_hand.cli import make_app
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import json_schema, sidecar_path
from tests.conftest import MARROW
from tests.glb import morphing, two_skins

SCHEMA = Path(__file__).parents[2] / "docs" / "format" / "foxrig-3.schema.json"


def run(*words: str) -> tuple[int, str, str]:
    done = CliRunner().invoke(make_app(lambda _: 0), ["rig", *words])
    return done.exit_code, done.stdout, done.stderr


@pytest.mark.parametrize("make", [two_skins, morphing])
def test_a_rig_with_the_sidecar_it_starts_from_is_the_same_rig(
    tmp_path: Path, make: object
) -> None:
    path = make(tmp_path / "hero.glb")
    before = read_rig(path)
    code, said, _ = run("init", str(path))
    assert code == 0
    assert str(sidecar_path(path)) in said
    written = json.loads(sidecar_path(path).read_text())
    jsonschema.Draft202012Validator(json.loads(json_schema())).validate(written)
    after = read_rig(path)
    assert after.notes == before.notes
    assert [c.name for c in after.controls] == [c.name for c in before.controls]
    offsets = (np.array([c.offset for c in r.controls]) for r in (before, after))
    assert np.allclose(*offsets, atol=1e-5)
    assert [(c.side, c.region, c.partner) for c in after.controls] == [
        (c.side, c.region, c.partner) for c in before.controls
    ]
    assert [s.mirror for s in after.settings] == [s.mirror for s in before.settings]


def test_a_sidecar_that_is_there_is_only_replaced_when_asked(tmp_path: Path) -> None:
    path = two_skins(tmp_path / "hero.glb")
    sidecar_path(path).write_text("mine")
    code, _, said = run("init", str(path))
    assert code == 1
    assert "left as it is" in said
    assert sidecar_path(path).read_text() == "mine"
    assert run("init", str(path), "--over")[0] == 0
    assert json.loads(sidecar_path(path).read_text())["version"] == 2


def test_inspecting_prints_what_was_inferred(tmp_path: Path) -> None:
    code, said, _ = run("inspect", str(two_skins(tmp_path / "hero.glb")))
    assert code == 0
    assert "4 joint controls" in said
    line = next(x for x in said.splitlines() if x.strip().startswith("RightElbow"))
    said = ["RightElbow", "joint", "right", "arms", "rightLowerArm", "LeftElbow"]
    assert line.split() == [*said, "move,", "scale,", "turn"]
    said = run("inspect", str(MARROW))[1]
    assert "69 joint controls, 4 goal controls, 4 pole controls, 1 look control, 9 holder" in said
    assert "55 settings, 6 sets, 8 solvers, 49 drives" in said


def test_what_cannot_be_read_is_a_sentence_and_exit_code_1(tmp_path: Path) -> None:
    (tmp_path / "bad.glb").write_bytes(b"")
    for command in ("inspect", "init"):
        code, said, wrong = run(command, str(tmp_path / "bad.glb"))
        assert (code, said) == (1, "")
        assert wrong.startswith("bad.glb is empty")
    assert not sidecar_path(tmp_path / "bad.glb").exists()


def test_marrows_sidecar_fits_the_published_schema() -> None:
    assert SCHEMA.read_bytes() == json_schema()
    schema = jsonschema.Draft202012Validator(json.loads(SCHEMA.read_text()))
    schema.validate(json.loads(sidecar_path(MARROW).read_text()))
