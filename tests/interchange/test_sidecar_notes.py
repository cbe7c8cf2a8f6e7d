"""What a sidecar names in vain is told, and a file that names any number of things is no flood."""

from __future__ import annotations

from dataclasses import replace

import pytest

from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import Sidecar, read_sidecar, sidecar_path
from fox_hand.interchange.sidecar_rig import SPOKEN, apply_sidecar

PIM = shipped() / "cast" / "pim.glb"


@pytest.fixture(scope="module")
def bare() -> Rig:
    """Pim before anybody has said anything about him."""
    return replace(read_rig(PIM), notes=())


def named(count: int) -> Sidecar:
    sidecar = read_sidecar(sidecar_path(PIM))
    known = next(iter(sidecar.controls.values()))
    sidecar.controls = {f"thing_{i}": known for i in range(count)}
    sidecar.sets = {}
    return sidecar


@pytest.mark.parametrize(("count", "told"), [(0, 0), (3, 3), (SPOKEN, SPOKEN)])
def test_names_in_vain_are_told_one_by_one(bare: Rig, count: int, told: int) -> None:
    notes = [n for n in apply_sidecar(bare, named(count)).notes if "does not have" in n]
    assert len(notes) == told
    assert notes[:1] == ["The sidecar speaks of thing_0, which the rig does not have."][:told]


def test_a_flood_of_names_is_told_as_a_number(bare: Rig) -> None:
    notes = [n for n in apply_sidecar(bare, named(SPOKEN + 900)).notes if "not have" in n]
    assert len(notes) == SPOKEN + 1
    assert notes[-1] == "The sidecar names 900 more that the rig does not have."
