"""Roles of rigs whose names follow one of the usual families, whatever stands around the names.

The families are invented after what is common practice, no source; the roles are those of VRM 1.0.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.model.controls import ControlKind, Side
from fox_hand.core.naming.joint_names import affixes
from fox_hand.core.naming.roles import ALL_ROLES, infer_roles
from fox_hand.core.naming.shape_roles import shape_roles
from fox_hand.core.naming.side_region import infer_sides, side_from_name
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from tests.bodies import Build, Placed, body_rig, fingers, joints_of, sided, with_affixes

WORDS = ("Thumb", "Index", "Middle", "Ring", "Pinky")
LOW = tuple(w.lower() for w in WORDS)
TRUNK = {"hips": "Hips", "neck": "Neck", "head": "Head"}
SPINES = {"spine": "Spine", "chest": "Spine1", "upperChest": "Spine2"}


def parts(*words: str) -> dict[str, str]:
    keys = ("Shoulder", "UpperArm", "LowerArm", "Hand", "UpperLeg", "LowerLeg", "Foot", "Toes")
    return {k: w for k, w in zip(keys, words, strict=False) if w}


FAMILIES = {
    "up leg": sided(
        TRUNK | SPINES,
        "{Side}{part}",
        parts("Shoulder", "Arm", "ForeArm", "Hand", "UpLeg", "Leg", "Foot", "ToeBase")
        | fingers("Hand{finger}{bone}", WORDS, "123"),
    ),
    "by joint": sided(
        TRUNK | {"spine": "Chest", "chest": "Chest2", "upperChest": "Chest3"},
        "{Side}{part}",
        parts("Collar", "Shoulder", "Elbow", "Wrist", "Hip", "Knee", "Ankle", "Toe")
        | fingers("Finger{finger}{bone}", WORDS, "012"),
    ),
    "thigh and calf": sided(
        {"hips": "pelvis", "neck": "neck_01", "head": "head"}
        | {"spine": "spine_01", "chest": "spine_02", "upperChest": "spine_03"},
        "{part}_{s}",
        parts("clavicle", "upperarm", "lowerarm", "hand", "thigh", "calf", "foot", "ball")
        | fingers("{finger}_{bone}", LOW, ("01", "02", "03")),
    ),
    "thigh and shin, glued": sided(
        {"hips": "hip", "spine": "abdomen", "chest": "chest", "upperChest": "upperchest"}
        | {"neck": "neck", "head": "head"},
        "{s}{part}",
        parts("collar", "shldr", "forearm", "hand", "thigh", "shin", "foot", "toe")
        | fingers("{finger}{bone}", ("thumb", "index", "mid", "ring", "pinky"), "123"),
    ),
    "numbered fingers": sided(
        {"hips": "Pelvis", "neck": "Neck", "head": "Head"} | SPINES,
        "{S} {part}",
        parts("Clavicle", "UpperArm", "Forearm", "Hand", "Thigh", "Calf", "Foot", "Toe0")
        | fingers("Finger{finger}{bone}", "01234", ("", "1", "2")),
    ),
    "upper and lower": sided(
        {"hips": "hips", "spine": "spine", "chest": "chest", "upperChest": "upper_chest"}
        | {"neck": "neck", "head": "head", "jaw": "jaw"},
        "{part}.{S}",
        parts("shoulder", "upper_arm", "lower_arm", "hand")
        | {"UpperLeg": "upper_leg", "LowerLeg": "lower_leg", "Foot": "foot", "Toes": "toes"}
        | {"Eye": "eye"}
        | fingers("{finger}_{bone}", LOW, ("proximal", "intermediate", "distal")),
    ),
    "shoulder, elbow": sided(
        {"hips": "pelvis", "spine": "back_1", "chest": "back_2", "head": "head"},
        "{side}_{part}",
        parts("", "shoulder", "elbow", "wrist", "hip", "knee", "ankle", "toes"),
    ),
}
AFFIXES = [
    *(("", ""), ("rig:", ""), ("B_", ""), ("hero-", ""), ("", "_jnt"), ("", "_bind")),
    *(("xk", ""), ("", "Q"), ("handsome_", "_001"), ("A|b:", ".x"), ("qq", "zz")),
]


@pytest.mark.parametrize(("front", "back"), AFFIXES)
@pytest.mark.parametrize("family", list(FAMILIES))
def test_every_joint_of_a_family_has_its_role(family: str, front: str, back: str) -> None:
    names = FAMILIES[family]
    rig = body_rig(Build(), with_affixes(names, front, back))
    wanted = {f"{front}{name}{back}": role for role, name in names.items()}
    found = {c.name: c.role for c in rig.controls}
    assert found == wanted


@pytest.mark.parametrize("spine", [1, 2, 4, 6])
@pytest.mark.parametrize("palms", [False, True])
def test_more_joints_than_roles_leave_the_roles_where_they_belong(spine: int, palms: bool) -> None:
    build = Build(spine=spine, necks=2, palms=palms)
    names = dict(FAMILIES["up leg"])
    names |= {
        f"{s} palm {f}": f"{s.capitalize()}Hand{f}0" for s in ("left", "right") for f in WORDS
    }
    names |= {f"{s} palm Little": f"{s.capitalize()}HandPinky0" for s in ("left", "right")}
    names |= {"extra neck 1": "Neck1"}
    joints = ["spine", *(f"extra spine {i}" for i in range(1, spine)), "chest", "upperChest"]
    names |= {key: f"Spine{i}" for i, key in enumerate(joints)}
    rig = body_rig(build, names)
    by_key = {names[key]: key for key in names}
    for control in rig.controls:
        key = by_key[control.name]
        assert control.role == (key if key in ALL_ROLES else None)


@pytest.mark.parametrize("fifth", ["Pinky", "Little"])
def test_fingers_are_told_by_the_words_of_their_bones(fifth: str) -> None:
    """The palm's bones are called so, and take no finger's role; the thumb's first one has one."""
    names = dict(FAMILIES["upper and lower"])
    bones = {"Metacarpal": "metacarpal", "Proximal": "proximal", "Distal": "distal"}
    for side in ("left", "right"):
        for finger, word in zip(WORDS, ("Thumb", "Index", "Middle", "Ring", fifth), strict=True):
            key = "Little" if finger == WORDS[-1] else finger
            if finger == "Thumb":
                for bone, said in bones.items():
                    names[f"{side}Thumb{bone}"] = f"Thumb_{said}.{side[0].upper()}"
                continue
            names[f"{side} palm {key}"] = f"{word}_metacarpal.{side[0].upper()}"
            for bone in ("Proximal", "Intermediate", "Distal"):
                names[f"{side}{key}{bone}"] = f"{word}_{bone.lower()}.{side[0].upper()}"
    rig = body_rig(Build(palms=True), names)
    by_name = {name: key for key, name in names.items()}
    for control in rig.controls:
        key = by_name[control.name]
        assert control.role == (key if key in ALL_ROLES else None), control.name


@pytest.mark.parametrize("pattern", ["{f}{b}_r", "hand_R_{f}_{b}", "RightHand{f}{b}"])
def test_a_lone_hand_whose_joints_all_hang_on_the_wrist_has_its_fingers(pattern: str) -> None:
    """Five joints a finger: the palm's, three bones and the end; four of them for the thumb."""
    names, places = ["RightHand" if "Right" in pattern else "wrist_R"], [[0.0, 0.0, 0.0]]
    for row, finger in enumerate(WORDS):
        for bone in range(4 if finger == "Thumb" else 5):
            names.append(pattern.format(f=finger, b=bone))
            places.append([-0.03 - 0.03 * bone, 0.0, 0.03 - 0.015 * row])
    parents = [-1, *[0] * (len(names) - 1)]
    sides, _ = infer_sides(names, np.array(places), 0.2)
    assert set(sides) == {Side.RIGHT}
    found = dict(zip(names, infer_roles(names, sides, parents, np.array(places)), strict=True))
    assert found.pop(names[0]) == "rightHand"
    wanted: dict[str, str | None] = dict.fromkeys(found)
    for finger, own in zip(WORDS, (*WORDS[:-1], "Little"), strict=True):
        bones = BONES[:2] + BONES[3:] if finger == "Thumb" else (None, *BONES[1:])
        for bone, word in enumerate(bones):
            if word is not None:
                wanted[pattern.format(f=finger, b=bone)] = f"right{own}{word}"
    assert found == wanted


def test_every_rig_we_ship_says_each_role_once() -> None:
    for path in sorted((shipped() / "cast").glob("*.glb")):
        roles = [c.role for c in read_rig(path).controls if c.role]
        assert sorted(roles) == sorted(set(roles)), path.name


def test_words_alone_decide_where_nothing_is_known_of_the_hierarchy() -> None:
    names = ["LeftHip", "LeftKnee", "RightShoulder", "RightElbow", "RightCollar", "Spine", "prop"]
    sides = [side_from_name(n) or Side.CENTRE for n in names]
    assert infer_roles(names, sides, [-1] * len(names)) == [
        *("leftUpperLeg", "leftLowerLeg", "rightUpperArm", "rightLowerArm", "rightShoulder"),
        *("spine", None),
    ]


def test_what_all_names_share_is_taken_off_only_where_it_helps() -> None:
    assert affixes(list(FAMILIES["up leg"].values())) == ("", "")
    right_hand = ["RightHand", *(f"RightHand{f}{i}" for f in WORDS for i in (1, 2, 3))]
    assert affixes(right_hand) == ("", "")
    assert infer_roles(right_hand, [Side.RIGHT] * 16, [-1, *[0] * 15])[1:4] == [
        *("rightThumbMetacarpal", "rightThumbProximal", "rightThumbDistal")
    ]


def test_twists_ends_and_props_get_no_role() -> None:
    names = [
        "hips",
        "thigh_L",
        "thigh_twist_L",
        "shin_L",
        "foot_L",
        "toe_L",
        "toe_end_L",
        "thigh_R",
    ]
    parents = [-1, 0, 1, 1, 3, 4, 5, 0]
    sides = [side_from_name(n) or Side.CENTRE for n in names]
    assert infer_roles(names, sides, parents) == [
        *("hips", "leftUpperLeg", None, "leftLowerLeg", "leftFoot", "leftToes", None),
        "rightUpperLeg",
    ]


BONES = ("Metacarpal", "Proximal", "Intermediate", "Distal")
MAIN = ("hips", "spine", "head") + tuple(
    side + part
    for side in ("left", "right")
    for part in ("UpperArm", "LowerArm", "Hand", "UpperLeg", "LowerLeg", "Foot")
)
BUILDS = {
    "usual": Build(),
    "child": Build(height=1.0, legs=0.36, arms=0.26, wide=0.09, arms_down=20),
    "tall": Build(height=2.1, legs=0.52, arms=0.38, spine=4, necks=2, arms_down=0),
    "giant": Build(height=40.0, spine=1, palms=True),
    "mitten": Build(fingers=3, arms_down=70),
}


@pytest.mark.parametrize("yaw", [0.0, 180.0, 65.0])
@pytest.mark.parametrize("build", list(BUILDS))
def test_nameless_bodies_have_their_main_bones_by_shape(build: str, yaw: float) -> None:
    keys = [key for key, _, _ in joints_of(BUILDS[build])]
    order = np.random.default_rng(4).permutation(len(keys))
    names = {key: f"x{order[i]}" for i, key in enumerate(keys)}
    rig = body_rig(BUILDS[build], names, Placed(yaw, (1.0, 0.0, -2.0), axes=6))
    role = {c.name: c.role for c in rig.controls}
    found = {key: role[names[key]] for key in MAIN}
    assert found == {key: key for key in MAIN}
    fingers = [key for key in keys if key in ALL_ROLES and key.endswith(BONES)]
    assert len(fingers) == 6 * BUILDS[build].fingers
    assert {key: role[names[key]] for key in fingers} == {key: key for key in fingers}
    guesses = [c.role_sure for c in rig.controls if c.role]
    assert max(guesses) < 1.0
    wanted = Rotation.from_euler("y", yaw, degrees=True).apply([0, 0, 1])
    assert np.allclose(rig.body.ahead, wanted, atol=1e-6)


def test_our_cast_without_its_names_has_the_same_main_bones() -> None:
    for name in ("marrow", "pim", "quill", "brandle"):
        rig = read_rig(shipped() / "cast" / f"{name}.glb")
        joints = [c for c in rig.controls if c.kind is ControlKind.JOINT]
        nodes = [c.node for c in joints]
        parents = []
        for c in joints:
            above = rig.skeleton.parents[c.node]
            while above >= 0 and above not in nodes:
                above = rig.skeleton.parents[above]
            parents.append(nodes.index(above) if above >= 0 else -1)
        found = shape_roles(parents, rig.skeleton.rest_world[nodes, :3, 3])
        by_role = {c.role: i for i, c in enumerate(joints) if c.role}
        toes = "leftToes" in found.roles or "rightToes" in found.roles
        assert toes and found.sure == 0.8  # which say where ahead is
        fingers = [role for role in by_role if role.endswith(BONES)]
        assert len(fingers) >= 24
        for role in (*MAIN, *fingers):
            assert found.roles.get(role) == by_role[role], (name, role)


def test_a_handful_of_joints_is_no_body() -> None:
    assert not shape_roles([-1, 0, 1, 1], np.eye(4, 3)).roles
    hand = [-1, *(0 if i % 3 == 0 else i for i in range(15))]
    rng = np.random.default_rng(1)
    assert not shape_roles(hand, rng.normal(0, 0.1, (16, 3))).roles


HALVES: dict[str, Callable[[str], bool]] = {
    "left arm": lambda key: (
        key.startswith("left") and not any(w in key for w in ("Leg", "Foot", "Toes", "Eye"))
    ),
    "legs": lambda key: any(w in key for w in ("Leg", "Foot", "Toes", "hips")),
    "one leg": lambda key: key in ("hips", "leftUpperLeg", "leftLowerLeg", "leftFoot"),
    "no legs": lambda key: not any(w in key for w in ("Leg", "Foot", "Toes", "hips")),
    "head": lambda key: key in ("neck", "head"),
}


@pytest.mark.parametrize("half", list(HALVES))
@pytest.mark.parametrize("family", ["up leg", "by joint", "thigh and calf"])
def test_parts_of_bodies_have_the_roles_of_the_whole(family: str, half: str) -> None:
    names = {k: v for k, v in FAMILIES[family].items() if HALVES[half](k)}
    rig = body_rig(Build(), names)
    found = {c.name: c.role for c in rig.controls}
    trunk = {"spine", "chest", "upperChest"}
    for role, name in names.items():
        if role not in trunk:  # a spine without hips or neck has no place to be counted from
            assert found[name] == role, name


def test_of_two_heads_and_necks_the_first_count() -> None:
    names = ["Hips", "Spine", "Neck", "Head", "Neck2", "Head2"]
    sides = [Side.CENTRE] * len(names)
    found = infer_roles(names, sides, [-1, 0, 1, 2, 1, 4])
    assert (found[2], found[3], found[5]) == ("neck", "head", None)
    # necks of which none leads to the head are necks all the same
    found = infer_roles(names[:4], sides[:4], [-1, 0, 1, 1])
    assert (found[2], found[3]) == ("neck", "head")
