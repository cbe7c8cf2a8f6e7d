"""BVH against pybvh, an independent reader, on the same file; and files as they are in the wild.

There is no standard. Decided here: a position channel replaces OFFSET, for every joint; pybvh
decides the same for roots, and the files compared here have root offsets of 0.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pybvh
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.model.controls import Channel, Side
from fox_hand.interchange.bvh import read_motion, read_rig
from fox_hand.interchange.motions import read_performance
from fox_hand.interchange.readers import read_rig as read_any
from fox_hand.interchange.rig_words import RigWords
from fox_hand.interchange.units import UnitUnknownError

ORDERS = ("ZXY", "XYZ", "YZX", "ZYX", "XZY", "YXZ")
BONES = (
    ("Hips", -1, (0, 0, 0)),
    ("Spine", 0, (0, 12.5, -1)),
    ("Head", 1, (0.5, 40, 2)),
    ("LeftArm", 1, (18, 30, 0)),
    ("LeftHand", 3, (28, -2, 1)),
    ("RightArm", 1, (-18, 30, 0)),
    ("RightHand", 5, (-28, -2, 1)),
    ("LeftLeg", 0, (10, -5, 0)),
    ("LeftFoot", 7, (0, -80, 3)),
    ("RightLeg", 0, (-10, -5, 0)),
    ("RightFoot", 9, (0, -80, 3)),
)


def bvh_text(
    frames: int, seed: int = 0, newline: str = "\n", indent: str = "\t", size: float = 1.0
) -> str:
    """A figure whose joints have every rotation order, 141 units tall."""
    rng = np.random.default_rng(seed)
    lines = ["HIERARCHY"]

    def write(row: int, depth: int) -> None:
        name, parent, offset = BONES[row]
        pad = indent * depth
        order = ORDERS[row % len(ORDERS)]
        turns = " ".join(f"{a}rotation" for a in order)
        lines.append(f"{pad}{'ROOT' if parent < 0 else 'JOINT'} {name}")
        lines.append(f"{pad}{{")
        lines.append(f"{pad}{indent}OFFSET {' '.join(str(v * size) for v in offset)}")
        moves = "6 Xposition Yposition Zposition " if parent < 0 else "3 "
        lines.append(f"{pad}{indent}CHANNELS {moves}{turns}")
        children = [i for i, b in enumerate(BONES) if b[1] == row]
        for child in children:
            write(child, depth + 1)
        if not children:
            lines.extend(
                [f"{pad}{indent}End Site", f"{pad}{indent}{{"]
                + [f"{pad}{indent * 2}OFFSET 0 {-6 * size} {4 * size}", f"{pad}{indent}}}"]
            )
        lines.append(f"{pad}}}")

    write(0, 0)
    lines += ["MOTION", f"Frames: {frames}", "Frame Time: .0083333"]
    for _ in range(frames):
        values = rng.uniform(-80, 80, 3 * len(BONES) + 3)
        lines.append(" ".join(f"{v:.6f}" for v in values))
    return newline.join(lines) + newline


def test_world_positions_match_an_independent_reader(tmp_path: Path) -> None:
    path = tmp_path / "walk.bvh"
    path.write_text(bvh_text(12))
    motion = read_motion(path, RigWords(1.0))
    assert motion.frame_time == pytest.approx(0.0083333)
    nodes = motion.rig.evaluate(motion.states).nodes[..., :3, 3]
    other = pybvh.read_bvh_file(str(path))
    places = np.asarray(other.node_positions())
    names = [n.name for n in other.nodes]
    compared = 0
    for node, name in enumerate(motion.rig.skeleton.names):
        if name in names:
            assert np.allclose(nodes[:, node], places[:, names.index(name)], atol=1e-9)
            compared += 1
    assert compared == len(BONES)


def test_the_unit_is_asked_for_and_kept_in_the_sidecar(tmp_path: Path) -> None:
    path = tmp_path / "walk.bvh"
    path.write_text(bvh_text(1))
    with pytest.raises(UnitUnknownError, match="in centimetres 1") as caught:
        read_any(path)
    assert caught.value.height == pytest.approx(141.5, abs=2)
    from fox_hand.session.figures.rig_files import keep_unit

    keep_unit(path, 0.01)
    rig = read_any(path)
    assert rig.height == pytest.approx(caught.value.height / 100)
    hand = rig.controls[rig.control_row["LeftHand"]]
    assert (hand.side, hand.role, hand.partner) == (Side.LEFT, "leftHand", "RightHand")
    assert hand.channels == {Channel.TURN}
    assert hand.order == ORDERS[4]
    assert rig.controls[rig.control_row["Hips"]].channels == {Channel.MOVE, Channel.TURN}


@pytest.mark.parametrize(("size", "unit"), [(1.0, 0.01), (0.01, 1.0), (10.0, 0.001), (0.4, 0.01)])
def test_motion_in_a_unit_nobody_said_is_read_in_the_likely_one(
    tmp_path: Path, size: float, unit: float
) -> None:
    """A figure of 1.4 m in metres, centimetres or millimetres; a child of 0.6 m is no giant."""
    path = tmp_path / "walk.bvh"
    path.write_text(bvh_text(3, size=size))
    found = read_performance(path)
    assert (found.unit, found.guessed) == (unit, True)
    said = read_performance(path, metres_per_unit=0.0254)
    assert (said.unit, said.guessed) == (0.0254, False)
    same = found.in_unit(0.0254)
    for one, other in zip(same.states.arrays(), said.states.arrays(), strict=True):
        assert one == pytest.approx(other)
    assert same.rig.skeleton.translation == pytest.approx(said.rig.skeleton.translation)
    assert same.rig.inverse_binds == pytest.approx(said.rig.inverse_binds)
    assert same.rig.body.middle == pytest.approx(said.rig.body.middle)


@pytest.mark.parametrize(("newline", "indent"), [("\r\n", "\t"), ("\n", "  "), ("\n", "")])
def test_line_ends_and_indents_do_not_matter(tmp_path: Path, newline: str, indent: str) -> None:
    path = tmp_path / "a.bvh"
    path.write_bytes(bvh_text(2, newline=newline, indent=indent).encode())
    assert len(read_motion(path, RigWords(1.0)).states.turn) == 2


def test_files_in_the_wild(tmp_path: Path) -> None:
    """Colons and blanks in names, several roots, odd channels, cut motion, wrong counts."""
    path = tmp_path / "wild.bvh"
    path.write_text(
        "HIERARCHY\nROOT mix:Hip Bone {\n OFFSET 0 0 0\n CHANNELS 1 Yrotation\n"
        " JOINT same { OFFSET 0 1 0 CHANNELS 0\n End Site { OFFSET 0 1 0 }\n }\n}\n"
        "ROOT same {\n OFFSET 3 0 0\n CHANNELS 2 Zrotation Xposition\n}\n"
        "MOTION\nFrames: 3\nFrame Time: 0.04\n10 20 1\n30 4\n"
    )
    with pytest.raises(FoxHandError, match="no number"):
        read_rig(path, RigWords(1.0))
    path.write_text(path.read_text().replace("OFFSET 0 1 0 CHANNELS 0", "OFFSET 0 1 0\nCHANNELS 0"))
    motion = read_motion(path, RigWords(1.0))
    assert motion.rig.skeleton.names[:2] == ("mix:Hip Bone", "same")
    assert "same_2" in motion.rig.control_row
    assert len(motion.states.turn) == 1
    assert any("frame 2 is damaged" in n for n in motion.rig.notes)
    assert any("says 3 frames and has 1" in n for n in motion.rig.notes)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "HIERARCHY",
        "HIERARCHY\nROOT a\n{",
        "HIERARCHY\n}",
        "HIERARCHY\nROOT a\n{\nOFFSET 1 x 2\n}",
    ],
)
def test_broken_hierarchies_get_a_sentence(tmp_path: Path, text: str) -> None:
    path = tmp_path / "broken.bvh"
    path.write_text(text)
    with pytest.raises(FoxHandError, match=r"broken\.bvh cannot be read as BVH"):
        read_rig(path, RigWords(1.0))


def test_frames_may_be_broken_over_several_lines(tmp_path: Path) -> None:
    """Some programs wrap long lines; a frame that lacks numbers still ends the motion."""
    plain, wrapped = tmp_path / "plain.bvh", tmp_path / "wrapped.bvh"
    plain.write_text(bvh_text(4))
    head, _, motion = bvh_text(4).partition("Frame Time")
    first, *rows = motion.splitlines()
    broken = []
    for row in rows:
        words = row.split()
        broken += [" ".join(words[i : i + 7]) for i in range(0, len(words), 7)]
    wrapped.write_text("\n".join([f"{head}Frame Time{first}", *broken]))
    one, other = (read_motion(p, RigWords(1.0)) for p in (plain, wrapped))
    assert np.array_equal(one.states.turn, other.states.turn)
    assert not other.rig.notes
    wrapped.write_text("\n".join([f"{head}Frame Time{first}", *broken[:-1]]))
    cut = read_motion(wrapped, RigWords(1.0))
    assert len(cut.states.turn) == 3
    assert any("frame 4 is damaged" in note for note in cut.rig.notes)
