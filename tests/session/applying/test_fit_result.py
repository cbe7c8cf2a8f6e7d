"""What a card comes to on a character, row by row."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fox_hand.core.matching.name_match import MatchSource
from fox_hand.core.matching.unmatched import not_landing
from fox_hand.core.model.controls import Channel
from fox_hand.core.retarget.retarget import Landing
from fox_hand.core.rig.locks_limits import Lock
from fox_hand.core.rig.rig import Rig
from fox_hand.demo.demo_project import shipped
from fox_hand.interchange.readers import read_rig
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import read_card
from fox_hand.library.format.head import read_head
from fox_hand.library.index.index_shapes import Shape
from fox_hand.session.applying.fit_result import Asked, FitResult, FitRow, Told, foreign
from fox_hand.session.figures.pose_conversion import state_of
from tests.bodies import Build, body_rig
from tests.core.matching.test_faces import faced
from tests.core.naming.test_roles import FAMILIES

LIBRARY = shipped() / "library" / "Marrow"


def card(name: str) -> Card:
    return read_card(next(LIBRARY.rglob(f"{name}.foxcard")))[0]


@pytest.fixture(scope="module")
def quill() -> Rig:
    return read_rig(shipped() / "cast" / "quill.glb")


def fitted(one: Card, rig: Rig, told: Told | None = None, **more: object) -> FitResult:
    values: dict[str, object] = {"state": rig.rest, "locks": frozenset(), "source": None}
    return FitResult(Asked(one, rig, told=told or Told(), **(values | more)))


def row_of(found: FitResult, source: str) -> FitRow:
    return next(row for row in found.rows if row.source == source)


def test_settings_that_have_no_partner_are_named_and_counted(marrow: Rig) -> None:
    glad = card("Glad")
    holder, held = next((n, h) for n, h in glad.pose.controls.items() if len(h.settings) > 4)
    names = sorted(held.settings)
    for kept, without in ((names[:-1], 1), (names[:-2], 2), (names[:-4], 4)):
        rig = faced(marrow, kept)
        told = Told(names={name: None for name in names if name not in kept})
        row = row_of(fitted(glad, rig, told), holder)
        lost = [name for name in held.settings if name not in kept]
        assert len(lost) == without and row.landing is Landing.LANDS
        more = f" and {without - 2} more" if without > 2 else ""
        assert row.detail.endswith(f"without {', '.join(lost[:2])}{more}")
    row = row_of(fitted(glad, faced(marrow, names)), holder)
    assert "without" not in row.detail


def otherwise_held(marrow: Rig) -> Rig:
    """Its face without one shape of the mouth, held by controls of other names."""
    rig = faced(marrow, [s.name for s in marrow.settings if s.name != "jaw_open"])
    names = {"mouth": "zz", "brow_L": "browe_L", "brow_R": "browe_R"}
    return replace(
        rig, controls=tuple(replace(c, name=names.get(c.name, c.name)) for c in rig.controls)
    )


@pytest.mark.parametrize("name", ["Wave", "Crouch", "Fist", "Glad"])
def test_the_list_says_of_a_card_what_its_fit_will_say(name: str, marrow: Rig) -> None:
    path = next(LIBRARY.rglob(f"{name}.foxcard"))
    one, head = read_card(path)[0], read_head(path, "")
    said = Shape(head.controls, (), head.joints).said
    others = [read_rig(shipped() / "cast" / f"{other}.glb") for other in ("quill", "brandle")]
    family = body_rig(Build(), FAMILIES["by joint"])  # its elbows are called as Marrow's poles are
    for rig in (*others, family, otherwise_held(marrow)):
        found = fitted(one, rig).rows
        out = {r.source for r in found if r.landing in (Landing.ASK, Landing.MISSING)}
        out |= {r.source for r in found if r.detail == "by the joints of the limb"}
        lost = not_landing(dict(head.controls), rig, joints=said)
        assert set(lost) == out, rig.name


def test_settings_land_where_only_some_do_and_nothing_is_asked_of_their_holder(
    marrow: Rig,
) -> None:
    found = fitted(card("Glad"), otherwise_held(marrow))
    mouth, brow = row_of(found, "mouth"), row_of(found, "brow_L")
    assert (mouth.target, mouth.landing) == (None, Landing.LANDS)
    assert mouth.detail == "its settings, without jaw_open"
    assert brow.found is MatchSource.SPELLING  # it would be asked about, if it moved itself
    assert (brow.target, brow.landing, brow.detail) == (None, Landing.LANDS, "its settings")


def test_every_control_has_a_row_with_what_becomes_of_it(marrow: Rig, quill: Rig) -> None:
    wave = card("Wave")
    found = fitted(wave, quill, source=marrow)
    assert [r.source for r in found.rows] == list(wave.pose.controls)
    hat = row_of(found, "hat")
    assert (hat.target, hat.landing) == (None, Landing.MISSING)
    assert hat.detail == f"nothing like it on {quill.name}"
    said = fitted(wave, quill, Told(names={"hand_L": None}), source=marrow)
    row = row_of(said, "hand_L")
    assert (row.landing, row.detail) == (Landing.MISSING, "left out by hand")
    assert row.found is MatchSource.MAP
    # on its own rig all of it lands as it is, and it is worn exactly
    own = fitted(wave, marrow)
    assert {r.detail for r in own.rows} == {"as it is", "placed on the body"}
    assert own.problem is None
    worn, wanted = own.worn, state_of(marrow, wave.pose)
    rows = [marrow.control_row[n] for n in wave.pose.controls]
    assert worn.turn[rows] == pytest.approx(wanted.turn[rows], abs=1e-9)


def test_locks_and_limits_stop_what_they_say_unless_they_are_lifted(marrow: Rig) -> None:
    wave = card("Wave")
    turned = max(
        (n for n, h in wave.pose.controls.items() if h.turn is not None and n != "root"),
        key=lambda n: 1 - abs(wave.pose.controls[n].turn[3]),
    )
    locks = frozenset(Lock(turned, Channel.TURN, axis) for axis in range(3))
    found = fitted(wave, marrow, locks=locks)
    row = row_of(found, turned)
    assert (row.landing, row.detail) == (Landing.LOCKED, "locked on this character")
    at = marrow.control_row[turned]
    assert np.array_equal(found.worn.turn[at], marrow.rest.turn[at])
    for told in (Told(lifted=True), Told(limits=False)):
        free = fitted(wave, marrow, told, locks=locks)
        assert row_of(free, turned).landing is Landing.LANDS
        assert not np.array_equal(free.worn.turn[at], marrow.rest.turn[at])


def test_a_card_is_foreign_by_its_rig_not_by_its_names(marrow: Rig, quill: Rig) -> None:
    wave = card("Wave")
    assert wave.fingerprint == marrow.fingerprint and not foreign(wave, marrow)
    assert foreign(wave, quill)
    assert not foreign(replace(wave, fingerprint=""), quill)  # it does not say
    names = marrow.fingerprint.partition(".")[0]
    assert not foreign(replace(wave, fingerprint=names), marrow)
    assert foreign(replace(wave, fingerprint="0" * len(names)), marrow)


def test_what_is_not_held_stays_as_it_stands(marrow: Rig) -> None:
    fist = card("Fist")
    turn = marrow.rest.turn.copy()
    turn[marrow.control_row["head"]] = (0.0, 0.6, 0.0, 0.8)
    stands = marrow.rest.with_(turn=turn)
    found = fitted(fist, marrow, state=stands)
    assert np.array_equal(found.worn.turn[marrow.control_row["head"]], (0.0, 0.6, 0.0, 0.8))
    finger = next(n for n in fist.pose.controls if "index" in n)
    row = marrow.control_row[finger]
    assert found.names_only.turn[row] == pytest.approx(found.worn.turn[row])
    assert not np.allclose(found.worn.turn[row], marrow.rest.turn[row])
