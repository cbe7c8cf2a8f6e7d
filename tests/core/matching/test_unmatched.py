"""Which controls of a card would find no place on a character, known from names alone."""

from __future__ import annotations

import pytest

from fox_hand.core.matching.unmatched import not_landing
from fox_hand.core.rig.rig import Rig

# words in another order or with another prefix are sure; what only is the same part is asked about
BODY = {"L_forearm": (), "R_thigh": (), "rig:head": (), "arm.L": (), "Hips": ()}


def test_names_of_the_same_words_land_and_things_do_not(marrow: Rig) -> None:
    assert not_landing(BODY, marrow) == ()
    assert not_landing({**BODY, "gizmo": (), "lantern_L": ()}, marrow) == ("gizmo", "lantern_L")
    assert not_landing({**BODY, "LeftForeArm": ()}, marrow) == ("LeftForeArm",)


@pytest.mark.parametrize("name", ["forearm_L", "L_forearm"])
def test_what_was_said_counts(marrow: Rig, name: str) -> None:
    assert not_landing({name: ()}, marrow, {name: None}) == (name,)
    assert not_landing({"gizmo": ()}, marrow, {"gizmo": "hat"}) == ()
    assert not_landing({"gizmo": (), name: ()}, marrow, {"gizmo": None}) == ("gizmo",)


def test_a_holder_lands_with_any_of_its_settings(marrow: Rig) -> None:
    own = {"face_ctl": ("lid_shut_L", "nothing_like_it")}
    assert not_landing(own, marrow) == ()
    assert not_landing(own, marrow, {"lid_shut_L": None}) == ("face_ctl",)
    assert not_landing({"face_ctl": ("eyeBlinkLeft",)}, marrow) == ()
    assert not_landing({"face_ctl": ("eyeBlinkLeft",)}, marrow, {"eyeBlinkLeft": None}) == (
        "face_ctl",
    )
    assert not_landing({"face_ctl": ("nothing_like_it",)}, marrow) == ("face_ctl",)
