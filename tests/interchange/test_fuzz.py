"""Damaged files never crash, hang or eat the memory, whatever is done with them."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest
from pxr import UsdSkel

from fox_hand.demo.demo_project import shipped
from tests.glb import morphing, moving, two_skins
from tests.interchange.test_bvh import bvh_text
from tests.interchange.test_usd import stage_with_skin

ROOT = Path(__file__).parents[2]
EACH, COMMANDS = 120, 6


def sample(kind: str, folder: Path) -> Path:
    path = folder / f"sample.{kind.rsplit(maxsplit=1)[-1]}"
    if kind == "skins glb":
        return two_skins(path)
    if kind == "morphs glb":
        return morphing(path)
    if kind == "moving glb":
        return moving(path)
    if kind == "bvh":
        path.write_text(bvh_text(4))
    elif kind == "vrm":
        path.write_bytes((shipped() / "cast" / "pim.glb").read_bytes())
    else:
        stage = stage_with_skin(path)
        waving = UsdSkel.Animation(stage.GetPrimAtPath("/hero/aside/rig/wave"))
        for time in (1.0, 2.0):
            waving.SetTransforms(waving.GetTransforms(), time)
        stage.GetRootLayer().Save()
    return path


@pytest.mark.parametrize("kind", ["skins glb", "morphs glb", "moving glb", "vrm", "bvh", "usda"])
def test_damaged_files_give_a_result_or_a_sentence(kind: str, tmp_path: Path) -> None:
    count = 10 if kind == "vrm" else EACH
    command = [sys.executable, "-m", "tests.interchange.fuzz"]
    command += [str(sample(kind, tmp_path)), "0", str(count)]
    done = subprocess.run(
        command, cwd=ROOT, capture_output=True, text=True, timeout=300, check=False
    )
    assert done.returncode == 0, done.stderr[-2000:]
    assert done.stdout == ""
    last = done.stderr.strip().splitlines()[-1]
    results, sentences = (int(word) for word in last.split() if word.isdigit())
    assert results + sentences == count * COMMANDS
    assert min(results, sentences) >= count // 10
