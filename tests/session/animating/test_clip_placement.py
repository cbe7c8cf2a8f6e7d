"""Clips laid in: taken out, mirrored, without a seam, and what is posed over them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.animation.curves import Origin
from fox_hand.core.maths.rotations import angle_between, from_vector, multiply
from fox_hand.core.model.state import State
from fox_hand.core.pose.sides import Sides
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.container import read_card
from fox_hand.session.animating.clip_placement import ClipPlacement, feet_of
from fox_hand.session.app.workspace import Workspace
from fox_hand.session.figures.figure import Figure
from tests.session.conftest import entry


def laid(workspace: Workspace, name: str, frame: float = 5.0) -> ClipPlacement:
    workspace.go(frame)
    card = read_card(entry(workspace, name).path)[0]
    placement = workspace.placements.begin(card.clip, Origin(card.identity, card.name))
    assert placement is not None
    return placement


def states(workspace: Workspace) -> list[State]:
    return [workspace.actor.take.at(float(f)) for f in range(1, 40)]


def same(one: list[State], other: list[State]) -> bool:
    return all(a.same_bits(b) for a, b in zip(one, other, strict=True))


def test_a_block_is_taken_out_and_comes_back_with_undo(workspace: Workspace) -> None:
    still = states(workspace)
    laid(workspace, "Nod")
    laid(workspace, "Blink", 8.0)
    workspace.placements.keep()
    both, instances = states(workspace), workspace.actor.take.instances
    assert [b.origin.name for b in instances] == ["Nod", "Blink"]
    workspace.placements.remove(0)
    assert [b.origin.name for b in workspace.actor.take.instances] == ["Blink"]
    head = workspace.actor.rig.control_row["head"]
    turns = np.array([s.turn[head] for s in states(workspace)])
    assert angle_between(turns, still[0].turn[head]).max() < 1e-9
    workspace.undo()
    assert same(states(workspace), both)
    workspace.redo()
    workspace.placements.remove(5)  # there is none
    workspace.placements.remove(0)
    assert same(states(workspace), still)
    for _ in range(4):
        workspace.undo()
    assert not workspace.actor.take.instances


def test_feet_of_a_clip_from_elsewhere_hold_the_ground_or_go_as_its_legs_do(
    workspace: Workspace,
) -> None:
    path = shipped() / "cast" / "pim.glb"
    pim = Figure(read_rig(path), path)
    workspace.place(pim)
    workspace.act(pim)
    workspace.timing.set_rate(30.0)  # not the clip's
    workspace.go(1.0)
    workspace.applying.lay_in(entry(workspace, "Walk loop"))
    placement = workspace.placements.now
    assert placement is not None and placement.feet is not None and placement.feet_hold
    placement.change(fade_in=0.0, fade_out=0.0)
    ankles = [c.node for c in pim.rig.controls if c.role in ("leftFoot", "rightFoot")]
    frames = np.arange(1, round(placement.instance.length) + 1, dtype=float)

    def places() -> np.ndarray:
        return pim.rig.evaluate(pim.take.many(frames)).nodes[:, ankles][..., :3, 3]

    held, ground = places(), placement.feet.ground
    assert ground.max() > 0.01  # five times as far
    placement.hold_feet(False)
    loose = places()
    moved = np.linalg.norm(held - loose, axis=-1).max(1)
    assert moved.max() == pytest.approx(ground.max(), rel=0.1)
    assert feet_of(placement.instance.clip) is placement.feet and not placement.feet_hold
    placement.set_side(Sides.OTHER)
    across = places()
    near = 0.002  # metres: mirrored at the keys, between them nearly
    assert np.abs(across[:, ::-1] * (-1, 1, 1) - loose).max() < near
    placement.hold_feet(True)
    assert np.abs(places()[:, ::-1] * (-1, 1, 1) - held).max() < near
    placement.make_seamless()
    assert placement.feet_hold and placement.feet.loose.seams() == {}
    workspace.placements.keep()
    again = workspace.placements.take_up(0)
    assert again is not None and again.feet_hold
    again.hold_feet(False)
    assert np.abs(places() - across).max() < near
    workspace.placements.put_back()
    assert np.abs(places()[:, ::-1] * (-1, 1, 1) - held).max() < near
    workspace.act(workspace.cast.actors[0])
    workspace.applying.lay_in(entry(workspace, "Walk loop"))
    assert workspace.placements.now is not None and workspace.placements.now.feet is None


def test_the_other_side_is_the_mirror_image_and_back_is_bit_for_bit(workspace: Workspace) -> None:
    placement = laid(workspace, "Wave loop")
    own, rig = states(workspace), workspace.actor.rig
    placement.set_side(Sides.OTHER)
    left, right = rig.control_row["forearm_L"], rig.control_row["forearm_R"]
    mirrored = states(workspace)
    for one, other in zip(own, mirrored, strict=True):
        assert angle_between(one.turn[left], rig.rest.turn[left]) == pytest.approx(
            float(angle_between(other.turn[right], rig.rest.turn[right])), abs=1e-6
        )
        assert angle_between(other.turn[left], rig.rest.turn[left]) < 1e-9
    placement.set_side(Sides.CAPTURED)
    assert same(states(workspace), own)
    workspace.placements.put_back()
    assert not workspace.actor.take.instances


def test_without_a_seam_it_ends_as_it_begins_on_both_sides(workspace: Workspace) -> None:
    placement = laid(workspace, "Nod")
    clip = placement.source
    channel_id = next(iter(clip.lines))
    line = clip.lines[channel_id]
    last = multiply(from_vector([0.2, 0.0, 0.0]), line.values[-1])
    values = np.concatenate([line.values[:-1], last[None]])
    broken = replace(clip, lines={**clip.lines, channel_id: replace(line, values=values)})
    placement.source = broken
    placement.change(clip=broken)
    assert placement.seam
    placement.make_seamless()
    assert not placement.seam
    placement.set_side(Sides.OTHER)
    assert not placement.seam


def test_what_is_posed_over_a_block_is_seen_as_it_was_posed(workspace: Workspace) -> None:
    """The change goes below the block, so that both show."""
    laid(workspace, "Nod")
    workspace.placements.keep()
    rig, row = workspace.actor.rig, workspace.actor.rig.control_row["head"]
    for frame in (7.0, 9.0, 11.0):
        workspace.go(frame)
        before = workspace.actor.state
        turn = before.turn.copy()
        turn[row] = multiply(from_vector([0.0, 0.15, 0.05]), turn[row])
        workspace.apply("Turn the head", before.with_(turn=turn))
        assert angle_between(workspace.actor.state.turn[row], turn[row]) < 1e-6
        assert angle_between(workspace.actor.take.at(frame).turn[row], turn[row]) < 1e-6
        workspace.undo()
        assert workspace.actor.take.at(frame).same_bits(before)
    assert rig.controls[row].name == "head"


def test_a_setting_posed_over_a_block_moves_the_way_it_is_pushed(workspace: Workspace) -> None:
    laid(workspace, "Blink")
    placement = workspace.placements.now
    assert placement is not None
    placement.change(on_top=True, strength=0.5)
    workspace.placements.keep()
    row = workspace.actor.rig.setting_row["lid_shut_L"]
    workspace.go(7.0)
    for push in (0.1, 0.2, -0.1):
        before = workspace.actor.state
        settings = before.settings.copy()
        settings[row] += push
        workspace.apply("Lid", before.with_(settings=settings))
        assert workspace.actor.take.at(7.0).settings[row] == pytest.approx(settings[row])


@pytest.mark.parametrize("on_top", [False, True])
def test_between_two_keys_the_blocks_above_do_not_count(workspace: Workspace, on_top: bool) -> None:
    """At 0 % the key is the key before, bit for bit, whatever lies over it."""
    rig = workspace.actor.rig
    head = rig.control_row["head"]
    workspace.selection.set([head])
    for frame, angle in ((1.0, 0.1), (21.0, 0.5)):
        workspace.go(frame)
        turn = workspace.actor.state.turn.copy()
        turn[head] = from_vector(np.array([0.0, angle, 0.0]))
        workspace.apply("Head", workspace.actor.state.with_(turn=turn))
        workspace.keying.key()
    workspace.go(5.0)
    workspace.applying.lay_in(entry(workspace, "Nod"))
    placement = workspace.placements.now
    assert placement is not None
    placement.change(on_top=on_top, fade_in=0.0, fade_out=0.0)
    workspace.placements.keep()
    workspace.go(9.0)
    line = next(x for c, x in workspace.actor.keys.lines.items() if c.name == "head")
    first, last = line.values[0].copy(), line.values[-1].copy()
    over = workspace.actor.take.at(9.0).turn[head].copy()
    for part, wanted in ((0.0, first), (1.0, last)):
        pose = workspace.keying.between()
        assert pose is not None
        pose.pull(part)
        seen = workspace.actor.state.turn[head].copy()
        pose.keep()
        line = next(x for c, x in workspace.actor.keys.lines.items() if c.name == "head")
        assert np.array_equal(line.values[line.at(9.0)], wanted)
        assert angle_between(seen, workspace.actor.take.at(9.0).turn[head]) < 1e-9
        if not on_top:  # the block covers it whole
            assert angle_between(seen, over) < 1e-9
        workspace.undo()
