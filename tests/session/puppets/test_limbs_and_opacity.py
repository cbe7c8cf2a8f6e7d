"""Limbs of puppets that follow goals in their plane, also in views that are not seen at rest, and
drawings that fade."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from fox_hand.core.animation.motion import motion_of
from fox_hand.core.model.state import State
from fox_hand.core.rig.locks_limits import out_of_plane
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.render_request import Quality, Standing, View
from fox_hand.core.view.usual_views import seen_from
from fox_hand.interchange.motions import NO_FADING, motion_bytes
from fox_hand.interchange.readers import read_rig
from fox_hand.render.renderer import Renderer
from fox_hand.session.puppets.making import puppet_of, write_puppet
from tests.puppets import as_folder, bird, blob


def winged() -> dict[str, object]:
    return {**bird(), "Far wing tip": blob(280, 200, 40, 26, "#333")}


@pytest.fixture(scope="module")
def rig(tmp_path_factory: pytest.TempPathFactory) -> Rig:
    """Two views of a bird, each with two wings that are limbs."""
    folder = tmp_path_factory.mktemp("limbs")
    for view in ("Side", "Half"):
        as_folder(folder / "bird" / view, winged())
    write_puppet(puppet_of(folder / "bird"), folder / "bird.glb")
    return read_rig(folder / "bird.glb")


def with_settings(rig: Rig, **values: float) -> State:
    settings = rig.rest.settings.copy()
    for name, value in values.items():
        settings[rig.setting_row[name]] = value
    return rig.rest.with_(settings=settings)


def place(rig: Rig, state: State, name: str) -> np.ndarray:
    return rig.evaluate(state).nodes[rig.skeleton.names.index(name), :3, 3]


def goal_place(rig: Rig, state: State, name: str) -> np.ndarray:
    node = rig.controls[rig.control_row[name]].node
    return rig.evaluate(state).nodes[node, :3, 3]


@pytest.mark.parametrize(("view", "front"), [(0.0, ""), (1.0, "half_")])
def test_a_limb_follows_its_goal_in_its_plane(rig: Rig, view: float, front: str) -> None:
    assert {limb.name for limb in rig.limbs} == {"Near wing", "Far wing"}
    still = with_settings(rig, view=view)
    follows = with_settings(rig, view=view, **{f"{front}near_wing_follow": 1.0})
    tip, goal = f"{front}near_wing_tip_tip", f"{front}near_wing_goal"
    # at rest the goal stands at the tip, and following it changes nothing
    assert np.abs(place(rig, follows, tip) - place(rig, still, tip))[:2].max() < 2e-3
    move = follows.move.copy()
    move[rig.control_row[goal]] = (0.03, 0.06, 0.0)
    pulled = follows.with_(move=move)
    gap = place(rig, pulled, tip) - goal_place(rig, pulled, goal)
    assert np.abs(gap).max() < 1e-6
    moved = place(rig, pulled, tip) - place(rig, still, tip)
    assert moved[:2] == pytest.approx((0.03, 0.06), abs=2e-3)
    names = rig.skeleton.names
    lower = rig.evaluate(pulled).nodes[names.index(f"{front}near_wing_tip")]
    assert abs(float(lower[2, 0])) < 0.02 * float(np.linalg.norm(lower[:3, 0]))  # in the plane
    other = rig.evaluate(pulled).nodes[names.index(f"{front}far_wing")]
    assert np.array_equal(other, rig.evaluate(still).nodes[names.index(f"{front}far_wing")])


def test_goals_stay_in_the_plane_and_have_partners(rig: Rig) -> None:
    locked = {(lock.control, str(lock.channel), lock.axis) for lock in out_of_plane(rig)}
    assert ("near_wing_goal", "move", 2) in locked and ("near_wing_pole", "move", 2) in locked
    control = rig.controls[rig.control_row["near_wing_goal"]]
    assert control.partner == "far_wing_goal"
    setting = rig.settings[rig.setting_row["near_wing_follow"]]
    assert setting.partner == "far_wing_follow" and setting.default == 0.0


def test_a_limb_that_does_not_hang_together_is_none(tmp_path: Path) -> None:
    source = as_folder(tmp_path / "bird", winged())
    puppet = puppet_of(source)
    tip = replace(puppet.part("Near wing tip"), above="Body")
    write_puppet(puppet.with_part(tip), tmp_path / "bird.glb", source)
    assert [limb.name for limb in read_rig(tmp_path / "bird.glb").limbs] == ["Far wing"]


def test_a_part_fades_and_what_hangs_on_it_does_not(rig: Rig, renderer: Renderer) -> None:
    camera = seen_from(rig, 0.0, 0.0).framing(rig.flesh(rig.evaluate(rig.rest)), 1.0, 1.1)

    def pixel(part: str, **values: float) -> int:
        state = with_settings(rig, **values)
        at = rig.evaluate(state)
        view = View((Standing(rig, at),), camera, 300, 300, Quality.FULL, background=False)
        pixels = renderer.picture(view).pixels
        middle = rig.flesh(at, [rig.skeleton.names.index(f"{part}__0")]).mean(0)
        x, y, _ = camera.project(middle[None], 300, 300)[0]
        return int(pixels[round(y), round(x), 3])

    assert pixel("beak") == 255
    assert pixel("beak", beak_opacity=0.5) == pytest.approx(128, abs=2)
    assert pixel("beak", beak_opacity=0.0) == 0
    assert pixel("beak", head_opacity=0.0) == 255
    assert pixel("beak", beak_opacity=5.0) == 255  # no more than there is


def test_that_fading_stays_behind_is_told_when_motion_leaves(rig: Rig) -> None:
    def notes(opacity: float, kind: str) -> tuple[str, ...]:
        state = with_settings(rig, near_wing_opacity=opacity)
        batch = State(*(np.repeat(values[None], 3, 0) for values in state.arrays()))
        return motion_bytes(kind, rig, motion_of("still", rig, batch, 24.0))[1]

    assert notes(1.0, ".glb") == ()
    assert notes(0.4, ".glb") == notes(0.4, ".usda") == (NO_FADING,)
