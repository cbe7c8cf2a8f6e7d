"""When a foot stands, what somebody says of it, and how well it stands, in numbers."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import pytest

from fox_hand.core.maths.rotations import Array
from fox_hand.core.model.state import State
from fox_hand.core.retarget.feet import FADE, GroundHold, hold_feet
from fox_hand.core.retarget.figure_motion import FigureMotion, leg_length, leg_measure, role_nodes
from fox_hand.core.retarget.soles import Stands, heights_of, runs, soles_of, stands_of
from fox_hand.core.retarget.stand_edits import ground_figures, spans_of, with_spans
from fox_hand.core.rig.rig import Rig
from tests.bodies import Build, body_rig
from tests.core.naming.test_roles import FAMILIES

RATE = 50.0


@pytest.fixture(scope="module")
def body() -> Rig:
    return body_rig(Build(), FAMILIES["up leg"])


def stepped(rig: Rig, ways: Mapping[str, Array]) -> FigureMotion:
    """Frames on which whole feet are away from rest by some metres ``(F, 3)``, one for all."""
    count = len(next(iter(ways.values())))
    nodes = np.tile(rig.skeleton.rest_world, (count, 1, 1, 1))
    known = role_nodes(rig)
    for side, way in ways.items():
        for part in ("Foot", "Toes"):
            nodes[:, known[side + part], :3, 3] += way
    return FigureMotion(rig, nodes, RATE)


def up(heights: Sequence[float]) -> Array:
    return np.array([(0.0, height, 0.0) for height in heights])


def stood(rig: Rig, heights: Sequence[float], leg: float = 1.0) -> str:
    """Of a left foot at some heights whether it stands, a sign a frame; the right one rests."""
    moving = stepped(rig, {"left": up(heights), "right": up([0.0] * len(heights))})
    return "".join("x" if on else "." for on in stands_of(moving, leg).feet("left"))


def test_soles_lie_under_heel_ball_and_tip(body: Rig) -> None:
    sole, known = soles_of(body)["left"], role_nodes(body)
    places = body.skeleton.rest_world[:, :3, 3]
    heel, ball, tip = sole.points(body.skeleton.rest_world[None])[0]
    level = places[known["leftToes"], 1]
    assert heel == pytest.approx([places[known["leftFoot"], 0], level, places[sole.foot, 2]])
    assert ball == pytest.approx(places[known["leftToes"]]) and sole.toes == known["leftToes"]
    assert tip == pytest.approx(ball)  # no flesh, and no joint beyond the toes


def test_of_a_shoe_all_of_it_is_sole(marrow: Rig) -> None:
    sole = soles_of(marrow)["right"]
    heel, ball, tip = marrow.body.seen(sole.points(marrow.skeleton.rest_world[None]))[0]
    assert heel[2] < ball[2] < tip[2] and heel[1] == pytest.approx(ball[1])
    ankle = marrow.body.seen(marrow.skeleton.rest_world[sole.foot, :3, 3])
    assert heel[2] < ankle[2]  # flesh behind the ankle stands, too


def test_a_foot_stands_low_and_slow_and_leaves_later_than_it_comes(body: Rig) -> None:
    up_and_down = [0.2, 0.2, 0.042, 0.042, 0.03, 0.03, 0.03, 0.042, 0.042, 0.2, 0.2]
    # between the two heights it stands on either side of where it surely does
    assert stood(body, up_and_down) == ".." + "x" * 7 + ".."
    # where it is never surely low it does not stand at all
    assert stood(body, [0.2, 0.042, 0.042, 0.042, 0.042, 0.042, 0.2]) == "......."
    # heights count in lengths of the leg
    assert stood(body, [0.06] * 8, leg=1.0) == "........"
    assert stood(body, [0.06] * 8, leg=2.0) == "xxxxxxxx"


def test_what_slides_does_not_stand(body: Rig) -> None:
    along = np.zeros((12, 3))
    along[:, 2] = np.arange(12) * 0.4 / RATE  # 0.4 m a second
    still = np.zeros((12, 3))
    found = stands_of(stepped(body, {"left": along, "right": still}), 1.0)
    assert not found.feet("left").any() and found.feet("right").all()
    assert stands_of(stepped(body, {"left": along, "right": still}), 3.0).feet("left").all()


def test_stands_and_gaps_of_a_moment_are_none(body: Rig) -> None:
    # 0.06 s are three frames: a gap of two is closed, a stand of two within is none
    assert stood(body, [0.0] * 4 + [0.2] * 2 + [0.0] * 4) == "xxxxxxxxxx"
    assert stood(body, [0.0] * 4 + [0.2] * 3 + [0.0] * 4) == "xxxx...xxxx"
    assert stood(body, [0.2] * 4 + [0.0] * 2 + [0.2] * 4) == ".........."
    assert stood(body, [0.0] * 2 + [0.2] * 6) == "xx......"  # it may have stood before
    assert stood(body, [0.0]) == "x"


def test_the_ground_is_where_feet_hardly_move(body: Rig) -> None:
    rest = soles_of(body)["left"].points(body.skeleton.rest_world[None])[0, 0, 1]
    high = [0.3] * 20
    dipped = [0.3] * 10 + [-0.2] + [0.3] * 9  # one frame that is wrong
    moving = stepped(body, {"left": up(high), "right": up(dipped)})
    found = stands_of(moving, 1.0)
    assert found.floor == pytest.approx(rest + 0.3, abs=1e-6)
    lifted = heights_of(moving, found.floor)
    assert lifted["right"][10] == pytest.approx(-0.5) and lifted["left"] == pytest.approx(0.0)
    falling = up(np.linspace(2.0, 1.0, 10).tolist())  # never slow: the lowest place counts
    found = stands_of(stepped(body, {"left": falling, "right": falling}), 1.0)
    assert found.floor == pytest.approx(rest + 1.0)


def test_legs_are_measured_along_their_bones(body: Rig) -> None:
    known, places = role_nodes(body), body.skeleton.rest_world[:, :3, 3]
    hip, knee = (places[known[f"left{x}Leg"]] for x in ("Upper", "Lower"))
    ankle, toes = places[known["leftFoot"]], places[known["leftToes"]]
    bones = np.linalg.norm(knee - hip) + np.linalg.norm(ankle - knee)
    found = leg_measure(body)
    assert found is not None and found.bones == pytest.approx(bones)
    assert found.ankle == pytest.approx(ankle[1] - toes[1])
    assert leg_length(body) == pytest.approx(found.whole)


def told(signs: str) -> np.ndarray:
    return np.array([sign == "x" for sign in signs])


def test_stretches_have_a_first_frame_and_one_after_the_last() -> None:
    assert runs(told("xx..x.xx")) == [(0, 2), (4, 5), (6, 8)]
    assert runs(told("....")) == [] and runs(told("")) == []
    stands = Stands(0.0, {"left": told("xx...")}, {"left": told("..x.x")})
    assert spans_of(stands, "left") == ((0, 3), (4, 5))


def test_said_spans_keep_what_bore_the_foot() -> None:
    heels, balls = (
        told("xxx......"),
        told(".xxx....."),
    )
    stands = Stands(0.3, {"left": heels, "right": heels}, {"left": balls, "right": balls})
    found = with_spans(stands, {"left": ((1, 6), (7, 20)), "middle": ((0, 3),)})
    # within the first: as before, and beyond it what bore it last; the other is the whole foot
    assert found.heels["left"].tolist() == told(".xx....xx").tolist()
    assert found.balls["left"].tolist() == told(".xxxxx.xx").tolist()
    assert found.floor == 0.3 and set(found.heels) == {"left", "right"}
    assert found.heels["right"] is heels and found.balls["right"] is balls
    assert not with_spans(stands, {"left": ()}).feet("left").any()
    before = with_spans(stands, {"left": ((-5, 1),)})
    assert spans_of(before, "left") == ((0, 1),) and not before.balls["left"].any()


def frames_of(rig: Rig, ways: Array) -> State:
    """Frames on which the hips, and all with them, are moved by some metres ``(F, 3)``."""
    count, rest = len(ways), rig.rest
    states = State(*(np.tile(v, (count, *[1] * v.ndim)) for v in rest.arrays()))
    row = next(r for r, c in enumerate(rig.controls) if c.role == "hips")
    move = states.move.copy()
    move[:, row] = ways
    return states.with_(move=move)


def test_how_well_feet_stand_is_measured_from_where_they_began(body: Rig) -> None:
    ways = np.zeros((6, 3))
    ways[:, 0] = [0.0, 0.01, 0.04, 0.5, 0.52, 0.9]
    ways[:, 2] = [0.0, 0.0, 0.03, 0.0, 0.0, 0.0]
    ways[:, 1] = [0.0, 0.2, 0.0, 0.0, -0.07, 0.0]
    states = frames_of(body, ways)
    marks, none = told("xxxxx."), told("......")
    marks[3] = False  # two stands: each counts from its own beginning
    stands = Stands(0.0, {"left": marks, "right": none}, {"left": none, "right": none})
    found = ground_figures(body, states, stands)
    assert found.slide.far == pytest.approx(0.05) and found.slide.frame == 2  # along the ground
    assert found.below.far == pytest.approx(0.07) and found.below.frame == 4
    assert found.lower.far == 0.0 and found.lowered == 0
    assert ground_figures(body, states, Stands(0.0, {}, {})).slide.far == 0.0


def test_feet_that_stand_rightly_stay_and_those_in_the_air_do_not_sink(body: Rig) -> None:
    still, none = told("xxxxxxxx"), told("........")
    level = soles_of(body)["left"].points(body.skeleton.rest_world[None])[0, 0, 1]
    states = frames_of(body, np.zeros((8, 3)))
    stands = Stands(level, {"left": still, "right": still}, {"left": still, "right": still})
    found, held = hold_feet(body, states, stands, RATE)
    assert found.turn == pytest.approx(states.turn, abs=1e-9)
    assert found.move == pytest.approx(states.move, abs=1e-9)
    assert held.hips.max() == held.sank.max() == 0.0
    assert max(v.max() for v in (*held.feet.values(), *held.slid.values())) < 1e-9
    # a figure that dips through the ground while no foot stands is lifted out of it, nearly
    states = frames_of(body, up([0, 0, -0.1, -0.2, -0.1, 0, 0, 0]))
    loose = Stands(level, {"left": none, "right": none}, {"left": none, "right": none})
    found, held = hold_feet(body, states, loose, RATE)
    assert held.sank.max() == pytest.approx(0.2)
    nodes = body.evaluate(found).nodes
    for sole in soles_of(body).values():
        lowest = sole.points(nodes)[..., 1].min()
        assert level - 0.01 * body.height < lowest < level
    slides = np.zeros((8, 3))
    slides[:, 0] = np.arange(8) * 0.001
    states = frames_of(body, slides)
    found, held = hold_feet(body, states, stands, RATE)
    assert held.slid["left"][1:] == pytest.approx(0.001) and held.slid["left"][0] == 0.0
    points = soles_of(body)["right"].points(body.evaluate(found).nodes)
    assert np.ptp(points[:, :2], axis=0).max() < 1e-6


def test_what_a_foot_was_held_by_fades_after_and_before_its_stand(body: Rig) -> None:
    """Over a fifth of a second, first slowly, then quickly, then slowly; nothing is left after."""
    count, first, last = 60, 20, 24
    ways = np.zeros((count, 3))
    ways[:, 0] = np.linspace(0.0, 0.02, count)  # it slides a little while it stands
    marks, none = np.zeros(count, bool), np.zeros(count, bool)
    marks[first:last] = True
    level = soles_of(body)["left"].points(body.skeleton.rest_world[None])[0, 0, 1]
    stands = Stands(level, {"left": marks, "right": none}, {"left": none, "right": none})
    ways[:, 1] = 0.03  # and three centimetres above the ground
    _, held = hold_feet(body, frames_of(body, ways), stands, RATE)
    over = round(FADE * RATE)
    far = held.feet["left"]
    assert far[first:last] == pytest.approx(0.03, abs=0.001)
    parts = np.arange(1, over + 1) / over
    smooth = parts * parts * (3 - 2 * parts)
    after = far[last : last + over]
    assert after == pytest.approx(far[last - 1] * (1 - smooth), abs=1e-9)
    before = far[first - over : first][::-1]
    assert before == pytest.approx(far[first] * (1 - smooth), abs=1e-9)
    assert far[: first - over].max() == far[last + over :].max() == 0.0
    assert held.feet["right"].max() == 0.0


def test_hips_that_come_down_are_counted(body: Rig) -> None:
    states = frames_of(body, np.zeros((4, 3)))
    stands = Stands(0.0, {"left": told("xxxx")}, {"left": told("....")})
    hips = np.array([0.0, 0.0005, 0.002, 0.03])
    held = GroundHold(hips=hips, **{n: {} for n in GroundHold.__dataclass_fields__ if n != "hips"})
    found = ground_figures(body, states, stands, held)
    assert found.lower.far == pytest.approx(0.03) and found.lower.frame == 3
    assert found.lowered == 2
    empty = ground_figures(body, frames_of(body, np.zeros((0, 3))), Stands(0.0, {}, {}))
    assert empty.slide.far == 0.0 and empty.lower.frame == 0 and empty.lowered == 0
