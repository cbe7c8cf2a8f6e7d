"""What a person says about a rig: each word's effect on it, on its partner, and on the sidecar."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from fox_hand.core.model.controls import ControlKind, MirrorRule, Region, Side
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.interchange.sidecar import read_sidecar, sidecar_path
from fox_hand.session.app.rig_corrections import Corrections, PairsDraft, lively


@pytest.fixture
def draft(tmp_path: Path) -> PairsDraft:
    """Marrow, in a folder of its own."""
    for name in ("marrow.glb", "marrow.foxrig.json"):
        shutil.copy(shipped() / "cast" / name, tmp_path)
    path = tmp_path / "marrow.glb"
    return PairsDraft(read_rig(path), path)


def control(draft: PairsDraft, name: str) -> object:
    return draft.rig.controls[draft.rig.control_row[name]]


def test_each_word_goes_to_the_partner_as_well(draft: PairsDraft) -> None:
    heard: list[int] = []
    draft.changed.connect(lambda: heard.append(1))
    draft.set_side("hand_L", Side.RIGHT)
    sides = [draft.rig.controls[draft.rig.control_row[n]].side for n in ("hand_L", "hand_R")]
    assert sides == [Side.RIGHT, Side.LEFT]
    draft.set_region("arm_L", Region.LEGS)
    regions = [draft.rig.controls[draft.rig.control_row[n]].region for n in ("arm_L", "arm_R")]
    assert regions == [Region.LEGS, Region.LEGS]
    draft.set_role("jaw", "head")
    roles = {c.name: c.role for c in draft.rig.controls if c.name in ("jaw", "head")}
    assert roles == {"jaw": "head", "head": None}
    sure = {c.name: c.role_sure for c in draft.rig.controls if c.name in ("jaw", "head")}
    assert sure == {"jaw": 1.0, "head": 1.0}
    draft.set_role("jaw", "")
    assert draft.rig.controls[draft.rig.control_row["jaw"]].role is None
    setting = next(s for s in draft.rig.settings if s.partner not in (None, s.name))
    rule = next(r for r in MirrorRule if r is not setting.mirror)
    draft.set_rule(setting.name, rule)
    rows = [draft.rig.setting_row[n] for n in (setting.name, setting.partner or "")]
    assert [draft.rig.settings[r].mirror for r in rows] == [rule, rule]
    assert len(heard) == 5 and len(draft.corrections) == 2 + 2 + 2 + 2
    assert len(Corrections()) == 0
    for _ in range(5):
        draft.undo()
    assert len(draft.corrections) == 0
    assert draft.rig.controls[draft.rig.control_row["hand_L"]].side is Side.LEFT
    draft.redo()
    assert draft.rig.controls[draft.rig.control_row["hand_L"]].side is Side.RIGHT


def test_a_new_pair_leaves_the_partners_of_before_alone(draft: PairsDraft) -> None:
    row = draft.rig.control_row

    def partners(*names: str) -> list[str | None]:
        return [draft.rig.controls[row[n]].partner for n in names]

    draft.pair("hand_L", "forearm_R")
    assert partners("hand_L", "forearm_R", "hand_R", "forearm_L") == [
        "forearm_R",
        "hand_L",
        None,
        None,
    ]
    assert draft.rig.controls[row["hand_R"]].paired_by_hand
    draft.pair("hand_L", "")
    assert partners("hand_L", "forearm_R") == [None, None]
    draft.pair("head", "head")
    assert partners("head") == ["head"]
    draft.pair("hand_R", "nobody")
    assert partners("hand_R") == ["nobody"]
    draft.find_again()  # what was said by hand stays
    assert partners("hand_L", "forearm_R", "head") == [None, None, "head"]
    assert partners("foot_L", "foot_R") == ["foot_R", "foot_L"]


def test_wrong_partners_are_found_again_kind_by_kind(draft: PairsDraft) -> None:
    base = draft.rig
    before = {c.name: c.partner for c in base.controls}
    broken = tuple(
        replace(c, partner=None) if c.kind is not ControlKind.HOLDER else c for c in base.controls
    )
    other = PairsDraft(replace(base, controls=broken), Path("nowhere.glb"))
    other.find_again()
    found = {c.name: c.partner for c in other.rig.controls}
    wrong = {n for n in before if found[n] != before[n]}
    assert len(wrong) <= 2, wrong
    for kind in (ControlKind.JOINT, ControlKind.GOAL, ControlKind.POLE):
        assert any(found[c.name] for c in base.controls if c.kind is kind)


def test_where_it_looks_is_said_by_an_axis(draft: PairsDraft) -> None:
    assert draft.rig.body.facing == "+Z"
    draft.look_along("+Z")  # as it does
    draft.look_along("+Y")  # upwards: nobody stands so
    assert len(draft.corrections) == 0
    for axis, ahead in (
        ("-Z", (0.0, 0.0, -1.0)),
        ("+X", (1.0, 0.0, 0.0)),
        ("-X", (-1.0, 0.0, 0.0)),
    ):
        draft.look_along(axis)
        body = draft.rig.body
        assert (body.ahead, body.facing, body.said, body.sure) == (ahead, axis, True, 1.0)
    draft.look_along("-Z")
    kept = draft.save()
    notes = read_sidecar(kept).body
    assert notes is not None and tuple(notes.ahead) == (0.0, 0.0, -1.0)


def test_a_trial_tells_how_well_it_mirrors(draft: PairsDraft) -> None:
    rig = draft.rig
    good = draft.trial(rig.rest)
    assert not good.posed.same_bits(rig.rest) and good.back < 1e-4 and good.gap < 1e-3
    left = {r for r, c in enumerate(rig.controls) if c.side is Side.LEFT}
    moved = set(np.flatnonzero(np.abs(lively(rig).turn - rig.rest.turn).max(-1)).tolist())
    assert moved & left and not any(rig.controls[r].side is Side.RIGHT for r in moved)
    settings = lively(rig).settings != rig.rest.settings
    for s in np.flatnonzero(settings).tolist():
        assert rig.controls[rig.settings[s].control].side is Side.LEFT
    own = rig.rest.turn.copy()
    own[rig.control_row["head"]] = [0.0, 0.1, 0.0, np.sqrt(0.99)]
    state = rig.rest.with_(turn=own)
    assert draft.trial(state).posed is state
    draft.pair("hand_L", "forearm_R")
    bad = draft.trial(rig.rest)
    assert bad.gap > 0.05
    assert draft.rig.controls[bad.worst].region is Region.HANDS


def test_what_was_said_is_in_the_sidecar_and_the_one_before_is_kept(draft: PairsDraft) -> None:
    path = sidecar_path(draft._path)
    before = path.read_bytes()
    draft.pair("hand_L", "")
    draft.set_side("jaw", Side.LEFT)
    draft.set_region("jaw", Region.TORSO)
    draft.set_role("tongue" if "tongue" in draft.rig.control_row else "jaw", "jaw")
    setting = draft.rig.settings[0]
    draft.set_rule(setting.name, next(r for r in MirrorRule if r is not setting.mirror))
    assert draft.save() == path and path.read_bytes() != before
    assert any(
        p.read_bytes() == before for p in path.parent.rglob("*") if p.is_file() and p != path
    )
    again = read_rig(draft._path)
    for name in ("hand_L", "hand_R", "jaw"):
        mine, theirs = control(draft, name), again.controls[again.control_row[name]]
        for field in ("partner", "side", "region", "role"):
            assert getattr(mine, field) == getattr(theirs, field), (name, field)
    assert again.settings[0].mirror is draft.rig.settings[0].mirror
