"""What the name of one joint says, whatever it is glued to (names as usual, no source)."""

from __future__ import annotations

import pytest

from fox_hand.core.model.controls import Side
from fox_hand.core.naming.joint_names import BodyPart, read, split


@pytest.mark.parametrize(
    ("name", "part", "side"),
    [
        ("lthigh", BodyPart.THIGH, Side.LEFT),
        ("rfoot", BodyPart.FOOT, Side.RIGHT),
        ("handr", BodyPart.HAND, Side.RIGHT),
        ("footl", BodyPart.FOOT, Side.LEFT),
        ("leftshin", BodyPart.SHIN, Side.LEFT),
        ("calfright", BodyPart.SHIN, Side.RIGHT),
        ("LeftShoulder", BodyPart.SHOULDER, Side.LEFT),
        ("shoulder.R", BodyPart.SHOULDER, Side.RIGHT),
        ("Clavicle_L", BodyPart.COLLAR, Side.LEFT),
        ("pelvis", BodyPart.PELVIS, None),
        ("head", BodyPart.HEAD, None),
        ("neck1", BodyPart.NECK, None),
    ],
)
def test_part_and_side_are_read_glued_or_not(name: str, part: BodyPart, side: Side | None) -> None:
    said = read(name)
    assert (said.part, said.side) == (part, side)


@pytest.mark.parametrize("name", ["lantern", "roof", "ladder", "rope_L", "lamp", "fluffy"])
def test_things_that_only_begin_or_end_like_a_side_are_no_parts(name: str) -> None:
    assert read(name).part is None


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("LeftForeArm", ["left", "fore", "arm"]),
        ("hand_goal_L", ["hand", "goal", "l"]),
        ("Spine01", ["spine", "01"]),
        ("rig:Thigh.R", ["thigh", "r"]),
        ("ABCBone", ["abc", "bone"]),
    ],
)
def test_names_fall_apart_into_words(name: str, words: list[str]) -> None:
    assert split(name) == words


@pytest.mark.parametrize(
    ("name", "finger", "numbers"),
    [
        ("L_Finger21", "2", (1,)),  # the first of the third finger
        ("L_Finger2", "2", (0,)),
        ("LFinger_1_2", "1", (2,)),
        ("LFinger_1_2_3", "1", (2, 3)),
    ],
)
def test_numbered_fingers_say_which_finger_first(
    name: str, finger: str, numbers: tuple[int, ...]
) -> None:
    said = read(name)
    assert (said.part, said.finger, said.numbers) == (BodyPart.FINGER, finger, numbers)
