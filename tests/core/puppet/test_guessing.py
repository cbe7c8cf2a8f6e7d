"""A puppet out of drawings: names are believed, what they do not say is guessed and told."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image

from fox_hand.core.model.controls import Region, Side
from fox_hand.core.puppet.drawn import DrawnFigure, DrawnPart, PartDrawing
from fox_hand.core.puppet.guessing import guessed
from fox_hand.core.puppet.puppet import GuessKind, Puppet
from tests.puppets import SIZE, bird, blob, png_bytes


def puppet(pictures: dict[str, Image.Image], within: str = "") -> Puppet:
    parts: dict[str, list[PartDrawing]] = {}
    for name, picture in pictures.items():
        part, _, word = name.partition("/")
        drawing = PartDrawing(word or part, png_bytes(picture), *SIZE)
        parts.setdefault(part, []).append(drawing)
    return guessed(
        DrawnFigure(
            "Bird", *SIZE, tuple(DrawnPart(n, tuple(d), within=within) for n, d in parts.items())
        )
    )


def test_names_say_what_hangs_where_and_nothing_is_asked() -> None:
    found = puppet(bird())
    above = {part.name: part.above for part in found.parts}
    assert above == {
        "Near wing": "Body",
        "Near wing tip": "Near wing",
        "Eye": "Head",
        "Beak": "Head",
        "Head": "Body",
        "Body": None,
        "Near leg": "Body",
        "Far leg": "Body",
        "Far wing": "Body",
    }
    assert not [guess for guess in found.guesses if guess.kind is GuessKind.HANGS]
    assert found.part("Near wing").lower == "Near wing tip"
    assert found.part("Far wing").partner == "Near wing"
    assert found.part("Near leg").side is Side.LEFT
    assert found.part("Beak").region is Region.MOUTH
    assert found.part("Near wing tip").region is Region.WINGS
    assert found.part("Body").free and not found.part("Head").free


def test_parts_turn_where_they_lie_on_each_other() -> None:
    found = puppet(bird())
    assert found.part("Beak").pivot == pytest.approx((297, 100), abs=4)  # at its root on the head
    assert found.part("Near wing tip").pivot == pytest.approx((126, 199), abs=8)
    assert found.part("Eye").pivot == pytest.approx((268, 84), abs=1)  # whole on the head
    assert found.part("Near leg").pivot[1] < 240  # its upper end is in the body


def test_what_names_do_not_say_is_guessed_and_told() -> None:
    things = {
        "Thing": blob(150, 150, 30, 30, "red"),
        "Blot": blob(200, 160, 180, 120, "white"),
        "Speck": blob(380, 20, 10, 10, "black"),
    }
    found = puppet(things)
    assert found.root("").name == "Blot"  # the largest
    assert found.part("Thing").above == "Blot"
    told = {(guess.kind, guess.part): guess for guess in found.guesses}
    assert told[GuessKind.HANGS, "Thing"].why == "its name says nothing; it lies on it"
    assert "lies on no other part" in told[GuessKind.HANGS, "Speck"].why
    assert told[GuessKind.PIVOT, "Speck"].why == "the two do not touch"
    x, y = found.part("Speck").pivot
    assert x < 379 and y > 20  # the corner of it that is nearest to the blot


def test_a_face_without_a_head_is_told_so() -> None:
    found = puppet(
        {"Mouth": blob(200, 190, 40, 20, "red"), "Body": blob(200, 190, 190, 100, "white")}
    )
    (guess,) = [g for g in found.guesses if g.kind is GuessKind.HANGS]
    assert (guess.words, guess.why) == (
        "Mouth hangs on Body",
        "no part is called head; it lies on it",
    )


def test_the_group_around_a_part_is_what_it_hangs_on() -> None:
    things = {"Head": blob(260, 95, 90, 80, "white"), "Feather": blob(260, 50, 10, 40, "red")}
    things["Body"] = blob(200, 190, 190, 100, "white")
    found = puppet(things, within="Head")
    assert found.part("Feather").above == "Head"
    assert found.part("Head").above == "Body"


def test_parts_of_two_sides_with_one_outline_are_partners() -> None:
    things = {
        "Paddle left": blob(120, 190, 110, 50, "grey"),
        "Float right": blob(280, 190, 108, 50, "grey"),
        "Knob right": blob(300, 90, 20, 60, "red"),
        "Body": blob(200, 190, 190, 100, "white"),
    }
    found = puppet(things)
    assert found.part("Paddle left").partner == "Float right"
    assert found.part("Knob right").partner is None
    (guess,) = [g for g in found.guesses if g.kind is GuessKind.PARTNER]
    assert guess.why.startswith("same outline within")


def test_names_in_a_circle_hang_on_the_body() -> None:
    things = {name: blob(200, 150, 60, 40, "grey") for name in ("Eye", "Eye pupil", "Trunk")}
    found = puppet(things)
    seen: set[str] = set()
    for part in found.parts:
        way, at = [part.name], part.above
        while at is not None:
            way.append(at)
            assert len(way) < 9
            at = found.part(at).above
        seen.add(way[-1])
    assert seen == {"Trunk"}


def test_a_large_canvas_is_looked_at_coarsely() -> None:
    large = Image.new("RGBA", (4000, 3000))
    large.paste("white", (1000, 1000, 3000, 2500))
    small = Image.new("RGBA", (4000, 3000))
    small.paste("red", (2800, 1200, 3600, 1600))
    drawings = [PartDrawing(n, png_bytes(p), 4000, 3000) for n, p in (("a", small), ("b", large))]
    figure = DrawnFigure("L", 4000, 3000, tuple(DrawnPart(d.name, (d,)) for d in drawings))
    pivot = guessed(figure).part("a").pivot
    assert np.allclose(pivot, (2900, 1400), atol=12)
