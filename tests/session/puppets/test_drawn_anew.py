"""Drawings that change, come and go while a puppet is put together: what was said stays."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from fox_hand.base.errors import FoxHandError
from fox_hand.base.work import Progress
from fox_hand.core.puppet.puppet import Puppet
from fox_hand.interchange.readers import read_rig
from fox_hand.session.puppets.assembly import PuppetAssembly
from fox_hand.session.puppets.making import puppet_of
from fox_hand.session.puppets.more_drawings import add_drawings, add_view
from tests.puppets import as_folder, bird, blob

BEAK, EYE, WING = ("", "Beak"), ("", "Eye"), ("", "Near wing")


@pytest.fixture
def assembly(tmp_path: Path) -> PuppetAssembly:
    return PuppetAssembly.of(as_folder(tmp_path / "bird", bird()))


def names(puppet: Puppet, key: tuple[str, str]) -> list[str]:
    return [d.name for d in puppet.part(key[1], key[0]).drawings]


def test_a_drawing_is_put_aside_and_given_to_another_part_and_back(
    assembly: PuppetAssembly,
) -> None:
    before = names(assembly.puppet, BEAK)
    assembly.put_aside(BEAK, 1)
    (aside,) = assembly.puppet.unused
    assert aside.drawing.name == before[1] and len(names(assembly.puppet, BEAK)) == 2
    assembly.use(aside, "Eye")
    assert names(assembly.puppet, EYE)[-1] == before[1] and assembly.puppet.unused == ()
    # the draft says so, and it counts when the drawings are read anew
    assembly.keep()
    again = puppet_of(assembly.source)
    assert names(again, EYE) == names(assembly.puppet, EYE)
    assert names(again, BEAK) == names(assembly.puppet, BEAK)
    assembly.put_aside(EYE, 2)
    assembly.use(assembly.puppet.unused[0], "Beak")
    assert sorted(names(assembly.puppet, BEAK)) == sorted(before)
    assert assembly.puppet.aside == ()
    for _ in range(4):
        assembly.undo()
    assert names(assembly.puppet, BEAK) == before


def test_the_last_drawing_of_a_part_stays(assembly: PuppetAssembly) -> None:
    with pytest.raises(FoxHandError, match="no other drawing"):
        assembly.put_aside(WING, 0)
    assembly.set_shown(EYE, 1)
    assembly.put_aside(EYE, 1)
    assert assembly.part(EYE).shown == 0 and assembly.part(EYE).seen.name == "open"


def test_a_part_is_called_otherwise_and_keeps_its_controls(
    assembly: PuppetAssembly, tmp_path: Path
) -> None:
    first = read_rig(assembly.make(tmp_path / "a.glb").glb)
    assembly.rename(WING, "  Wing in front ")
    second = read_rig(assembly.make(tmp_path / "a.glb").glb)
    assert second.fingerprint == first.fingerprint  # its cards are as good as before
    assert second.controls[second.control_row["near_wing"]].label == "Wing in front"
    assert puppet_of(assembly.source).part("Near wing").called == "Wing in front"
    assembly.rename(WING, "Near wing")
    assert assembly.part(WING).label == ""


def test_what_is_drawn_anew_is_noticed_and_keeps_what_was_said(assembly: PuppetAssembly) -> None:
    assembly.set_pivot(WING, 123.0, 145.0)
    assembly.set_limits(WING, (-1.0, 0.5))
    assembly.set_limb(WING, None)
    assert not assembly.stale
    wing = next(assembly.source.glob("*Near wing.png"))
    blob(170, 190, 140, 80, "#ff0000").save(wing)
    os.utime(wing, ns=(1, 1))
    (next(assembly.source.glob("*Beak")) / "grin.png").write_bytes(wing.read_bytes())
    assert assembly.stale
    assembly.take(assembly.again())
    assert not assembly.stale
    part = assembly.part(WING)
    assert part.pivot == (123.0, 145.0) and part.limits == pytest.approx((-1.0, 0.5))
    assert part.lower is None
    assert part.seen.pixels()[190, 170].tolist() == [255, 0, 0, 255]
    assert "grin" in names(assembly.puppet, BEAK)
    assembly.undo()  # one step: what was drawn before is still known
    assert "grin" not in names(assembly.puppet, BEAK)


def test_pictures_and_views_are_copied_in_and_nothing_is_written_over(
    assembly: PuppetAssembly, tmp_path: Path
) -> None:
    hat = tmp_path / "Hat.png"
    blob(260, 50, 60, 40, "#222222").save(hat)
    assembly.set_pivot(WING, 123.0, 145.0)
    assert add_drawings(assembly.source, [hat], Progress()) == 1
    with pytest.raises(FoxHandError, match="there already"):
        add_drawings(assembly.source, [hat], Progress())
    assembly.take(assembly.again())
    assert assembly.part(("", "Hat")).above == "Head"
    front = as_folder(
        tmp_path / "front", {"Head": blob(200, 100, 90, 90, "#fff"), "Body": bird()["Body"]}
    )
    assert add_view(assembly.source, front, "Front", Progress()) == 2
    assembly.take(assembly.again())
    assert assembly.puppet.views == ("Side", "Front")
    assert assembly.part(("Side", "Near wing")).pivot == (
        123.0,
        145.0,
    )  # said before there were views
    with pytest.raises(FoxHandError, match="lie in each other"):
        add_view(assembly.source, assembly.source / "Front", "Back", Progress())
    layered = tmp_path / "bird.ora"
    layered.write_bytes(b"PK")
    with pytest.raises(FoxHandError, match="is a layered file"):
        add_drawings(layered, [hat], Progress())
