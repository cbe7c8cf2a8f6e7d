"""Which way a figure stands, of as little as is known of it."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from fox_hand.core.model.body_frame import BodyFrame
from fox_hand.core.naming.body_finding import find_body

# hips, head, ankles, toes, hands, of a figure that looks along +X and stands beside the origin
PLACES = {
    "hips": (3.0, 1.0, 2.0),
    "head": (3.0, 1.7, 2.0),
    "leftFoot": (3.0, 0.1, 1.9),
    "rightFoot": (3.0, 0.1, 2.1),
    "leftToes": (3.2, 0.0, 1.9),
    "leftHand": (3.0, 1.0, 1.4),
    "rightHand": (3.0, 1.0, 2.6),
    "leftEye": (3.1, 1.75, 1.97),
}


def found(names: list[str], pairs: list[tuple[str, str]], up: int = 1) -> tuple[object, ...]:
    places = np.array([PLACES[n] for n in names]).reshape(-1, 3)
    places = np.roll(places, up - 1, axis=1)  # that axis is up, the others stay right-handed
    rows = {n: i for i, n in enumerate(names)}
    body = find_body(places, rows, [(rows[a], rows[b]) for a, b in pairs])
    return body.up, body.ahead, body.middle, body.sure


def axis(number: int, sign: float = 1.0) -> pytest.approx:
    return pytest.approx([sign * (i == number) for i in range(3)], abs=1e-9)


HANDS = [("leftHand", "rightHand")]


def test_hands_say_where_left_is_and_feet_where_up_is() -> None:
    for up in (0, 1, 2):
        body = found(list(PLACES), HANDS, up)
        assert body[0] == axis(up) and body[1] == axis((up + 2) % 3)
        assert body[3] == 1.0
        # the plane between the hands, two metres along what points from left to right
        assert body[2][(up + 1) % 3] == pytest.approx(2.0)


def test_without_pairs_toes_or_eyes_say_where_ahead_is() -> None:
    up, ahead, _, sure = found(["hips", "head", "leftFoot", "leftToes"], [])
    assert up == axis(1) and ahead == axis(0) and sure == 0.5
    up, ahead, _, sure = found(["hips", "head", "leftEye"], [])
    assert up == axis(1) and sure == 0.5
    assert ahead[0] > 0.95 and ahead[1] == pytest.approx(0.0, abs=1e-9)  # level, not upwards
    assert np.linalg.norm(ahead) == pytest.approx(1.0)


def test_where_it_looks_is_an_angle_about_up() -> None:
    for ahead, degrees in (((0, 0, 1), 0), ((1, 0, 0), 90), ((0, 0, -1), 180), ((-1, 0, 0), -90)):
        body = BodyFrame(ahead=tuple(float(v) for v in ahead))
        assert np.degrees(body.heading) == pytest.approx(degrees)
    lying = BodyFrame(up=(0.0, 0.0, -1.0), ahead=(0.0, 1.0, 0.0))
    assert lying.heading == 0.0  # it looks at the sky


def test_of_a_stick_only_up_is_known() -> None:
    for up in (0, 1, 2):
        body = found(["hips", "head"], [], up)
        assert body[0] == axis(up) and body[3] == 0.2
        assert np.dot(body[0], body[1]) == pytest.approx(0.0)
    up, _, _, sure = found(["leftHand", "rightHand"], HANDS)
    assert up == axis(1) and sure == 0.5  # nothing says it
    up, ahead, middle, sure = found([], [])
    assert (up, ahead, middle) == ((0, 1, 0), (0, 0, 1), (0, 0, 0))


def test_up_is_an_axis_even_where_parts_disagree() -> None:
    bent = dict(PLACES, head=(3.9, 1.2, 2.0))  # bent over at rest
    names = list(bent)
    rows = {n: i for i, n in enumerate(names)}
    places = np.array([bent[n] for n in names])
    body = find_body(places, rows, [(rows["leftHand"], rows["rightHand"])])
    assert body.up == axis(1) and body.sure == 0.6


@pytest.mark.parametrize("degrees", [0.0, 37.0, 90.0, -120.0])
def test_one_arm_that_rests_bent_does_not_skew_the_middle(degrees: float) -> None:
    """Seven pairs lie exactly across a plane that stands aside of the origin, one far off it."""
    rng = np.random.default_rng(8)
    left = np.stack([rng.uniform(0.05, 0.9, 8), rng.uniform(0, 1.7, 8), rng.normal(0, 0.1, 8)], 1)
    right = left * (-1, 1, 1)
    right[3] += (0.5, 0.6, 1.4)
    turn = Rotation.from_euler("y", degrees, degrees=True)
    places = turn.apply(np.concatenate([left, right, [[0, 1, 0], [0, 1.7, 0]]])) + (0.8, 0.0, -0.3)
    pairs = [(i, i + 8) for i in range(8)]
    body = find_body(places, {"hips": 16, "head": 17}, pairs)
    across = np.cross(body.up, body.ahead)
    assert across == pytest.approx(turn.apply([1, 0, 0]), abs=1e-6)
    assert (np.array(body.middle) - (0.8, 0, -0.3)) @ across == pytest.approx(0.0, abs=1e-6)


def test_hands_on_one_line_with_up_say_nothing() -> None:
    names = ["hips", "head", "leftFoot", "rightFoot", "leftToes"]
    # a pair that lies one over the other does not point aside: the toes decide
    up, ahead, _, sure = found(names, [("hips", "head")])
    assert up == axis(1) and ahead == axis(0) and sure == 0.5
