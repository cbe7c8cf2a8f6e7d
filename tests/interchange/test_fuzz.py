"""Damaged files never crash, hang or eat the memory; they give a rig or a sentence."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

from fox_hand.demo.project import shipped
from tests.glb import morphing, two_skins
from tests.interchange.test_bvh import bvh_text
from tests.interchange.test_usd import stage_with_skin

ROOT = Path(__file__).parents[2]
EACH = 300


def sample(kind: str, folder: Path) -> Path:
    path = folder / f"sample.{kind.rsplit(maxsplit=1)[-1]}"
    if kind == "skins glb":
        return two_skins(path)
    if kind == "morphs glb":
        return morphing(path)
    if kind == "bvh":
        path.write_text(bvh_text(4))
    elif kind == "vrm":
        path.write_bytes((shipped() / "cast" / "pim.glb").read_bytes())
    else:
        stage_with_skin(path)
    return path


@pytest.mark.parametrize("kind", ["skins glb", "morphs glb", "vrm", "bvh", "usda"])
def test_damaged_files_give_a_rig_or_a_sentence(kind: str, tmp_path: Path) -> None:
    count = 40 if kind == "vrm" else EACH
    command = [sys.executable, "-m", "tests.interchange.fuzz"]
    command += [str(sample(kind, tmp_path)), "0", str(count)]
    done = subprocess.run(
        command, cwd=ROOT, capture_output=True, text=True, timeout=300, check=False
    )
    assert done.returncode == 0, done.stderr[-2000:]
    assert done.stdout == ""
    last = done.stderr.strip().splitlines()[-1]
    rigs, sentences = (int(word) for word in last.split() if word.isdigit())
    assert rigs + sentences == count
    assert sentences > count // 20
