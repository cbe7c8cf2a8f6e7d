"""A puppet put together step by step: every step goes back, and what was said is kept."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.core.model.controls import Region, Side
from fox_hand.core.puppet.puppet import GuessKind
from fox_hand.interchange.puppets.puppet_draft import draft_path
from fox_hand.interchange.readers import read_rig
from fox_hand.session.puppets.assembly import PuppetAssembly
from tests.puppets import as_folder, bird, blob

THING = ("", "Thing")


@pytest.fixture
def assembly(tmp_path: Path) -> PuppetAssembly:
    things = {"Thing": blob(200, 190, 40, 30, "red")} | bird()
    return PuppetAssembly.of(as_folder(tmp_path / "bird", things))


def test_what_is_said_of_a_guess_answers_it_and_goes_back(assembly: PuppetAssembly) -> None:
    heard: list[int] = []
    assembly.changed.connect(lambda: heard.append(len(assembly.puppet.guesses)))
    count = len(assembly.puppet.guesses)
    assembly.hang(THING, "Head")
    assert assembly.part(THING).above == "Head"
    assert not [
        g for g in assembly.puppet.guesses if (g.part, g.kind) == ("Thing", GuessKind.HANGS)
    ]
    assert assembly.unsaved and heard == [count - 1]
    assembly.hang(THING, "Head")  # as it is already
    assert heard == [count - 1]
    assembly.undo()
    assert assembly.part(THING).above == "Body"
    assert len(assembly.puppet.guesses) == count and not assembly.unsaved
    assembly.redo()
    assert assembly.part(THING).above == "Head"


def test_nothing_hangs_on_itself_and_the_body_on_nothing(assembly: PuppetAssembly) -> None:
    before = assembly.puppet
    with pytest.raises(FoxHandError, match="cannot hang on Near wing tip"):
        assembly.hang(("", "Near wing"), "Near wing tip")
    with pytest.raises(FoxHandError, match="is the body"):
        assembly.hang(("", "Body"), "Head")
    assert assembly.puppet is before
    assembly.make_body(("", "Beak"))  # turned round along the way: beak, head, body
    assert assembly.puppet.root("").name == "Beak" and assembly.part(("", "Beak")).free
    assert assembly.part(("", "Head")).above == "Beak"
    assert assembly.part(("", "Body")).above == "Head"
    assert assembly.part(("", "Near leg")).above == "Body"
    assembly.undo()
    assert assembly.puppet is before


def test_a_part_is_moved_with_all_that_hangs_on_it(assembly: PuppetAssembly) -> None:
    def places() -> dict[str, tuple[float, ...]]:
        return {p.name: (*p.pivot, p.seen.left, p.seen.top) for p in assembly.puppet.parts}

    before = places()
    assembly.shift(("", "Head"), 10, -4)
    moved = {n for n, at in places().items() if at != before[n]}
    assert moved == {"Head", "Eye", "Beak"}
    assert np.subtract(places()["Beak"], before["Beak"]).tolist() == [10, -4, 10, -4]
    for step in range(5):
        assembly.set_pivot(("", "Head"), 240 + step, 130, joined="drag")
    assembly.undo()  # the drag is one step
    assert assembly.part(("", "Head")).pivot == (before["Head"][0] + 10, before["Head"][1] - 4)
    assembly.undo()
    assert places() == before


def test_partners_are_two_and_order_is_of_one_view(assembly: PuppetAssembly) -> None:
    assembly.set_partner(("", "Near wing"), "Near leg")
    partners = {p.name: p.partner for p in assembly.puppet.parts}
    assert (partners["Near wing"], partners["Near leg"]) == ("Near leg", "Near wing")
    assert partners["Far wing"] is None and partners["Far leg"] is None
    assembly.set_partner(("", "Near wing"), None)
    assert assembly.part(("", "Near leg")).partner is None
    names = [part.name for part in assembly.puppet.parts]
    assembly.place(("", "Far wing"), 0)
    assert [p.name for p in assembly.puppet.parts] == ["Far wing", *names[:-1]]
    assembly.place(("", "Far wing"), 99)
    assert [p.name for p in assembly.puppet.parts] == names


def test_everything_said_is_kept_made_and_found_again(
    assembly: PuppetAssembly, tmp_path: Path
) -> None:
    head = ("", "Head")
    assembly.set_side(THING, Side.RIGHT)
    assembly.set_region(THING, Region.TAIL)
    assembly.set_free(THING, True)
    assembly.set_role(THING, "head")
    assembly.set_role(head, "head")  # which only one can be
    assembly.set_limits(head, (-0.5, 0.25))
    assembly.set_shown(("", "Beak"), 2)
    assembly.shift(head, 12, 0)
    assembly.answer(assembly.puppet.guesses[0])
    assembly.answer_all()
    out = assembly.make(tmp_path / "bird.glb").glb
    assert not assembly.unsaved and draft_path(assembly.source).is_file()
    rig = read_rig(out)
    thing, made = rig.controls[rig.control_row["thing"]], rig.controls[rig.control_row["head"]]
    assert (thing.side, thing.region) == (Side.RIGHT, Region.TAIL)
    assert (thing.role, made.role) == (None, "head")
    assert made.limits[2] == pytest.approx((-0.5, 0.25), abs=1e-4)
    assert rig.settings[rig.setting_row["beak_drawing"]].default == 2
    again = PuppetAssembly.of(assembly.source)
    assert again.puppet.guesses == ()
    assert again.part(head).seen.left == 12 and again.part(("", "Beak")).seen.name == "shut"
    document = json.loads(draft_path(assembly.source).read_text())
    assert [p["role"] for p in document["parts"] if "role" in p] == ["", "head"]
    document["parts"][0]["role"] = "antler"
    document["height"] = 0.4
    draft_path(assembly.source).write_text(json.dumps(document))
    assert PuppetAssembly.of(assembly.source).height == 0.4
    assert any(
        "antler, which is no role" in n for n in PuppetAssembly.of(assembly.source).puppet.notes
    )
