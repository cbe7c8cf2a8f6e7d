"""Several cards on one figure without a window: weights, regions, carrying over, sheets."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.base.places import Places
from fox_hand.core.maths.rotations import angle_between
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.pad import pad_corners, shares_of_pad
from fox_hand.core.pose.pose import Pose
from fox_hand.core.pose.sides import Sides
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import prepare, shipped
from fox_hand.library.format.container import changed_bytes, read_card
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.applying.application import Part, Way, Weights
from fox_hand.session.applying.mix import Mix, reach_of
from tests.session.conftest import entry


@pytest.fixture
def workspace(places: Places) -> Workspace:
    """Marrow acts, Pim stands by, the demo's library is open."""
    made = Workspace(places)
    crew, folder = prepare(places)
    for path in crew:
        made.open_rig(path)
    made.act(made.cast.actors[0])
    made.open_libraries.open(folder)
    return made


def mixed(workspace: Workspace, *names: str) -> Mix:
    for name in names:
        workspace.applying.add(entry(workspace, name))
    assert workspace.mix is not None
    return workspace.mix


def setting(workspace: Workspace, name: str) -> float:
    actor = workspace.actor
    assert actor is not None
    return float(actor.state.settings[actor.rig.setting_row[name]])


def held(workspace: Workspace, card: str, name: str) -> float:
    pose = read_card(entry(workspace, card).path)[0].pose
    return next(h.settings[name] for h in pose.controls.values() if name in h.settings)


def test_weights_of_a_region_are_its_own(workspace: Workspace) -> None:
    alone = mixed(workspace, "Glad")
    alone.set_amount(0.4)  # of one card an amount is an amount
    assert not alone.together and alone.weights[0].whole == 0.4
    mix = mixed(workspace, "Glad", "Sad")
    assert mix.together and mix.pad_at == (0.5, 0.5)
    corner, brow = "mouth_corner_up_L", "brow_inner_up_L"
    both = [held(workspace, n, brow) for n in ("Glad", "Sad")]
    assert setting(workspace, brow) == pytest.approx(sum(both) / 2)
    mix.set_amount(1.0, 0, Region.MOUTH)
    mix.set_amount(0.0, 1, Region.MOUTH)
    assert setting(workspace, corner) == pytest.approx(held(workspace, "Glad", corner))
    assert setting(workspace, brow) == pytest.approx(sum(both) / 2)  # elsewhere as before


def test_weights_that_add_to_100_keep_doing_so(workspace: Workspace) -> None:
    mix = mixed(workspace, "Glad", "Sad", "Angry")
    mix.set_amount(0.6, 1)
    values = [w.whole for w in mix.weights]
    assert values == pytest.approx([0.2, 0.6, 0.2], abs=1e-3)
    mix.keep_together(False)
    mix.set_amount(0.1, 1)
    assert [w.whole for w in mix.weights] == pytest.approx([0.2, 0.1, 0.2], abs=1e-3)
    mix.drop(0)
    mix.drop(0)
    assert [w.whole for w in mix.weights] == [1.0]
    mix.drop(0)  # the last one stays
    assert len(mix.cards) == 1
    assert setting(workspace, "mouth_corner_up_L") == pytest.approx(
        held(workspace, "Angry", "mouth_corner_up_L")
    )


@pytest.mark.parametrize("count", [2, 3, 4, 5, 7])
def test_the_pad_gives_each_card_all_at_its_corner(count: int) -> None:
    corners = pad_corners(count)
    for number, corner in enumerate(corners):
        shares = shares_of_pad(corner, count)
        assert sum(shares) == pytest.approx(1.0)
        assert shares[number] == pytest.approx(1.0)
    rng = np.random.default_rng(count)
    for x, y in rng.random((50, 2)):
        shares = shares_of_pad((float(x), float(y)), count)
        assert min(shares) >= 0
        assert sum(shares) == pytest.approx(1.0)
    middle = shares_of_pad((0.5, 0.5), count)
    if count == 3:  # a triangle: halfway along a side the third counts nothing
        (ax, ay), (bx, by), _ = corners
        assert shares_of_pad(((ax + bx) / 2, (ay + by) / 2), 3) == pytest.approx([0.5, 0.5, 0.0])
    else:
        assert middle == pytest.approx([1 / count] * count)


def test_what_is_on_is_carried_to_another_member_and_fitted_there(workspace: Workspace) -> None:
    marrow, pim = workspace.cast.actors
    mix = mixed(workspace, "Fist", "Glad")
    mix.set_side(Sides.OTHER)
    mix.set_amount(0.5, 0)
    workspace.mix_for(pim)
    assert workspace.actor is pim
    assert workspace.mix is not None
    assert marrow.state.same_bits(marrow.rig.rest)
    assert [w.whole for w in workspace.mix.weights] == [0.5, 1.0]
    assert workspace.mix.how.side is Sides.OTHER
    moved = {pim.rig.controls[r].name for r in np.flatnonzero(pim.differs())}
    assert any(n.startswith("finger") and n.endswith("_R") for n in moved)
    assert not any(n.startswith("finger") and n.endswith("_L") for n in moved)
    workspace.put_back()
    assert pim.state.same_bits(pim.rig.rest)


def test_again_repeats_amount_side_part_and_way(workspace: Workspace) -> None:
    mix = mixed(workspace, "Wave")
    mix.set_part(Part.REGIONS, [Region.ARMS])
    mix.set_way(Way.ON_TOP)
    mix.set_amount(0.3)
    actor = workspace.actor
    assert actor is not None
    once = actor.state
    workspace.keep_mix()
    workspace.undo()
    workspace.applying.again()
    again = workspace.mix
    assert again is not None
    assert actor.state.same_bits(once)
    assert (again.part, again.how.way, again.amount) == (Part.REGIONS, Way.ON_TOP, 0.3)
    workspace.keep_mix()
    workspace.applying.again()  # on top of what is there: once more as far
    row = actor.rig.control_row["arm_L"]
    first = angle_between(once.turn[row], actor.rig.rest.turn[row])
    second = angle_between(actor.state.turn[row], actor.rig.rest.turn[row])
    assert second == pytest.approx(2 * float(first), rel=1e-6)


def test_clearing_goes_with_the_amount_and_leaves_other_regions(workspace: Workspace) -> None:
    actor = workspace.actor
    assert actor is not None
    settings = actor.state.settings.copy()
    row = actor.rig.setting_row["brow_inner_up_L"]
    settings[row] = 0.8
    turn = actor.state.turn.copy()
    arm = actor.rig.control_row["arm_L"]
    turn[arm] = (0, 0, np.sin(0.2), np.cos(0.2))
    workspace.apply("Left over", actor.state.with_(settings=settings, turn=turn))
    before = actor.state
    mix = mixed(workspace, "Glad")
    left = setting(workspace, "brow_inner_up_L")
    workspace.mix_commands.set_clear(True)
    glad = read_card(entry(workspace, "Glad").path)[0].pose
    names = {s for h in glad.controls.values() for s in h.settings}
    wanted = held(workspace, "Glad", "brow_inner_up_L") if "brow_inner_up_L" in names else 0.0
    assert setting(workspace, "brow_inner_up_L") == pytest.approx(wanted)
    assert np.array_equal(actor.state.turn[arm], before.turn[arm])
    mix.set_amount(0.0)
    assert actor.state is before
    mix.set_amount(0.5)
    assert setting(workspace, "brow_inner_up_L") == pytest.approx((0.8 + wanted) / 2)
    workspace.mix_commands.set_clear(False)
    mix.set_amount(1.0)
    assert setting(workspace, "brow_inner_up_L") == pytest.approx(left)


def test_clearing_a_card_on_the_other_side_clears_the_mirror_image(workspace: Workspace) -> None:
    """Only what cards of the sheet hold: here two joints of one finger."""
    actor = workspace.actor
    assert actor is not None
    rig = actor.rig
    card = read_card(entry(workspace, "Fist").path)[0]
    first, second, third = (f"finger_index_{n}_" for n in (1, 2, 3))
    small = replace(card, pose=Pose({f"{first}L": card.pose.controls[f"{first}L"]}))
    entry(workspace, "Fist").path.write_bytes(changed_bytes(entry(workspace, "Fist").path, small))
    left_over = actor.state.turn.copy()
    names = [f"{joint}{side}" for joint in (first, second, third) for side in "LR"]
    left_over[[rig.control_row[n] for n in names]] = (np.sin(0.3), 0, 0, np.cos(0.3))
    workspace.apply("Left over", actor.state.with_(turn=left_over))
    mix = mixed(workspace, "Fist")
    mix._sheets = replace(mix._sheets, held=lambda _entry: (f"{first}L", f"{second}L"))
    for side, other in ((Sides.CAPTURED, "L"), (Sides.OTHER, "R")):
        mix.set_side(side)
        workspace.mix_commands.set_clear(True)
        stays = {
            n
            for n in names
            if angle_between(actor.state.turn[rig.control_row[n]], left_over[rig.control_row[n]])
            < 1e-9
        }
        assert stays == set(names) - {f"{first}{other}", f"{second}{other}"}
        workspace.mix_commands.set_clear(False)


def test_uneven_weights_on_top_add_each_regions_own(workspace: Workspace) -> None:
    mix = mixed(workspace, "Glad", "Angry")
    mix.set_way(Way.ON_TOP)
    mix.set_weights([Weights(0.5), Weights(0.25, {Region.MOUTH: 0.0})])
    corner = "mouth_corner_up_L"
    assert setting(workspace, corner) == pytest.approx(0.5 * held(workspace, "Glad", corner))
    squint = "lid_squint_L"
    wanted = 0.5 * held(workspace, "Glad", squint) + 0.25 * held(workspace, "Angry", squint)
    assert setting(workspace, squint) == pytest.approx(wanted)


def test_a_card_is_fitted_for_quill_and_its_own_rig_is_used_where_it_stands(
    workspace: Workspace,
) -> None:
    quill = workspace.open_rig(shipped() / "cast" / "quill.glb")
    ready = workspace.mix_commands.fits.ready(entry(workspace, "Wave"), quill)
    assert ready.original is not None
    assert ready.card.character == "Quill"
    assert set(ready.card.pose.controls) <= set(quill.rig.control_row)
    assert (ready.fit.lands, ready.fit.asked, ready.fit.missing) == (67, 68, ("hat",))
    assert workspace.mix_commands.fits.own_rig(ready.original) is workspace.cast.actors[0].rig
    mix = workspace.mix_commands.lay_on(ready)
    assert mix is not None
    assert mix.fit.missing == ("hat",)


def test_how_far_each_control_goes_is_a_share_of_all_the_way(marrow: Rig) -> None:
    rig, rest = marrow, marrow.rest
    turn, move, settings = rest.turn.copy(), rest.move.copy(), rest.settings.copy()
    row = rig.control_row
    turn[row["head"]] = Rotation.from_euler("y", 45, degrees=True).as_quat()
    turn[row["neck"]] = Rotation.from_euler("x", 170, degrees=True).as_quat()
    move[row["hips"], 1] = -0.1 * rig.height
    jaw = rig.setting_row["jaw_open"]
    settings[jaw] = 0.25
    far = reach_of(rig, rest, rest.with_(turn=turn, move=move, settings=settings))
    wanted = {"head": 0.5, "neck": 1.0, "hips": 0.5}
    for name, share in wanted.items():
        assert far[row[name]] == pytest.approx(share), name
    assert far[rig.settings[jaw].control] == pytest.approx(0.25)
    others = set(range(len(far))) - {row[n] for n in wanted} - {rig.settings[jaw].control}
    assert (far[sorted(others)] == 0).all()
